package review

import (
	"fmt"
	"regexp"
	"slices"

	"wavekine/core/plan"
)

// orderRule: a session that follows the classical mat order has two of its exercises the other way round.
var orderRule = &Rule{
	Name: "order", Looks: "a session in the classical order has two exercises the other way round; what warms up before it is free", Fixed: "rising",
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
	free := l.beforeTheMat()
	last, lastAt := 0, plan.Path{}
	l.s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		n := place(r)
		if n == 0 || out != nil || free != nil && comparePlaces(p, *free) < 0 {
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
				s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
					if place(r) > 0 && (free == nil || comparePlaces(p, *free) >= 0) {
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

// beforeTheMat is where the classical order begins where something is in front of it: with the hundred, else with the first
// section that does not warm up. What warms up before it is free.
func (l *look) beforeTheMat() (at *plan.Path) {
	l.s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		if m, ok := l.lib.Get(r.Movement); ok && at == nil && !r.IsRest() && m.Classical == 1 {
			at = &p
		}
	})
	if at == nil && len(l.s.Sections) > 1 && warmingTitle.MatchString(l.s.Sections[0].Title) {
		at = &plan.Path{Section: 2, Block: 1, Row: 1}
	}
	return at
}

// warmingTitle is how sections are called that come before the work.
var warmingTitle = regexp.MustCompile(`(?i)\b(?:warm\w*|arriv\w*|mobili[sz]\w*|prepar\w*|opening|before|pre-?mat|loosen\w*)\b`)
