package review

import (
	"fmt"
	"slices"

	"wavekine/core/plan"
)

// orderRule: a session that follows the classical mat order has two of its exercises the other way round.
var orderRule = &Rule{
	Name: "order", Looks: "a session in the classical order has two exercises the other way round", Fixed: "rising",
	Source: "classical mat order, Return to Life Through Contrology (1945)", Mends: "sort them; call it free order",
	find: findOrder,
}

func findOrder(l *look, _ *Rule) []Finding {
	if l.s.Style.Order != plan.ClassicalOrder {
		return nil
	}
	place := func(r *plan.Row) int {
		if m, ok := l.lib.Get(r.Movement); ok && !r.IsRest() {
			return m.Classical
		}
		return 0
	}
	var out []Finding
	last, lastAt := 0, plan.Path{}
	l.s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		n := place(r)
		if n == 0 || out != nil {
			return
		}
		if n < last {
			f := Finding{
				Severity: Look, Row: p, Amount: float64(last - n), Measured: fmt.Sprintf("%d after %d", n, last), Limit: "rising",
				Says: fmt.Sprintf("%s comes before %s in the classical order", l.name(p), l.name(lastAt)),
			}
			f.At, _, _ = l.tl.RowSpan(p)
			f.Detail = "The session says that it follows the classical order."
			sorted := func(s *plan.Session) error {
				var slots []*plan.Row
				s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
					if place(r) > 0 {
						slots = append(slots, r)
					}
				})
				rows := make([]plan.Row, len(slots))
				for i, r := range slots {
					rows[i] = *r
				}
				slices.SortStableFunc(rows, func(a, b plan.Row) int { return place(&a) - place(&b) })
				for i, r := range slots {
					*r = rows[i]
				}
				return nil
			}
			f.Mends = []Mend{{ID: "order-classical", Says: "Put the classical exercises in order", apply: sorted}}
			f.Mends = append(f.Mends, Mend{ID: "order-free", Says: "Call it free order", apply: func(s *plan.Session) error {
				s.Style.Order = plan.FreeOrder
				return nil
			}})
			out = []Finding{f}
		}
		last, lastAt = n, p
	})
	return out
}
