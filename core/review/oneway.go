package review

import (
	"fmt"
	"strings"

	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// oneWayRule: circles counted in one direction only, the commonest slip beside unequal sides.
var oneWayRule = &Rule{
	Name: "one-way", Looks: "circles are counted in one direction only", Fixed: "each way", Source: practice, Mends: "half each way; all of it each way",
	find: findOneWay,
}

func findOneWay(l *look, _ *Rule) (out []Finding) {
	l.s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		if r.IsRest() || b.On > 0 || r.Right != nil || r.Left != nil {
			return
		}
		m, err := r.Of(l.lib)
		if err != nil || m == nil || !circles(m) {
			return
		}
		d := r.DoseOf(m)
		if len(d.Parts) == 0 {
			return
		}
		for _, part := range d.Parts {
			if part.EachWay || part.Halves {
				return
			}
		}
		if k := d.Parts[0].Kind; k != dose.Reps && k != dose.Pulses {
			return
		}
		f := Finding{
			Severity: Look, Amount: 1, Row: p, Measured: d.String(), Limit: "each way",
			Says: m.Name + " goes one way only", Detail: fmt.Sprintf("%s: the other direction is forgotten.", d),
		}
		f.At, _, _ = l.tl.RowSpan(p)
		n := d.Parts[0].Count
		each := func(count int) Mend {
			return Mend{ID: fmt.Sprintf("one-way-%d-%s", count, p), Says: fmt.Sprintf("Make it %d each way", count), apply: func(s *plan.Session) error {
				nd := d
				nd.Parts = append([]dose.Part(nil), d.Parts...)
				nd.Parts[0].Count, nd.Parts[0].EachWay = count, true
				return s.SetDose(p, movement.SidesUnsaid, nd)
			}}
		}
		f.Mends = []Mend{each(max(1, n/2))}
		if n > 1 {
			f.Mends = append(f.Mends, each(n))
		}
		out = append(out, f)
	})
	return out
}

func circles(m *movement.Movement) bool { return strings.Contains(m.Slug, "circle") }
