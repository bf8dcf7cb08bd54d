package review

import (
	"fmt"
	"strings"

	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// twiceInARow: the same movement at the same level with the same dose directly behind itself, which
// is a slip more often than a plan; a second set is said as "2 x 8".
func twiceInARow(l *look) (out []Finding) {
	var last plan.Path
	var before *plan.Row
	var within plan.Rule
	l.s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		was, wasAt, rule := before, last, within
		before, last, within = r, p, b.Rule
		joined := wasAt.Block == p.Block || wasAt.Block+1 == p.Block && rule == plan.Straight && b.Rule == plan.Straight
		if was == nil || r.IsRest || was.IsRest || wasAt.Section != p.Section || !joined {
			return
		}
		if r.Name() != was.Name() || max(1, r.Level) != max(1, was.Level) || !r.Dose.Equal(was.Dose) || r.Sides != was.Sides ||
			r.Right != nil || r.Left != nil || was.Right != nil || was.Left != nil {
			return
		}
		f := Finding{
			Rule: "twice", Severity: Look, Amount: 1, Row: p, Measured: "twice", Limit: "once in a row", Source: judged,
			Says: l.name(p) + " twice in a row", Detail: "The same level and dose directly behind itself. A second set is said as 2 x the dose.",
		}
		f.At, _, _ = l.tl.RowSpan(p)
		f.Mends = []Mend{{ID: "twice-" + p.String(), Says: "Take the second out", apply: func(s *plan.Session) error { return s.Delete(p) }}}
		out = append(out, f)
	})
	return out
}

// circleOneWay: circles counted in one direction only (the commonest slip beside unequal sides;
// common practice, no source).
func circleOneWay(l *look) (out []Finding) {
	l.s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		if r.IsRest || b.On > 0 || r.Right != nil || r.Left != nil {
			return
		}
		m, err := r.Of(l.lib)
		if err != nil || m == nil || !circles(m) {
			return
		}
		d := r.Dose
		if d.IsZero() {
			d = m.Dose
		}
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
			Rule: "one-way", Severity: Look, Amount: 1, Row: p, Measured: d.String(), Limit: "each way", Source: practice,
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
