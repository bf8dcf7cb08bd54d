package review

import (
	"wavekine/core/plan"
)

// twiceRule: the same movement at the same level with the same dose directly behind itself, which is a slip more often
// than a plan; a second set is said as "2 x 8".
var twiceRule = &Rule{
	Name: "twice", Looks: "a row stands directly behind itself with the same level and dose", Fixed: "once in a row", Source: judged, Mends: "take the second out",
	find: findTwice,
}

func findTwice(l *look, _ *Rule) (out []Finding) {
	var last plan.Path
	var before *plan.Row
	var within plan.Rule
	l.s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		was, wasAt, rule := before, last, within
		before, last, within = r, p, b.Rule
		joined := wasAt.Block == p.Block || wasAt.Block+1 == p.Block && rule == plan.Straight && b.Rule == plan.Straight
		if was == nil || r.IsRest() || was.IsRest() || wasAt.Section != p.Section || !joined {
			return
		}
		if r.Name() != was.Name() || max(1, r.Level) != max(1, was.Level) || !r.Dose.Equal(was.Dose) || r.Sides != was.Sides ||
			r.Right != nil || r.Left != nil || was.Right != nil || was.Left != nil {
			return
		}
		if m, err := r.Of(l.lib); err == nil && m != nil && goesTwoWays(m) && !eachWay(r.DoseOf(m)) {
			return // one way, and the other
		}
		f := Finding{
			Severity: Look, Amount: 1, Row: p, Measured: "twice", Limit: "once in a row",
			Says: l.name(p) + " twice in a row", Detail: "The same level and dose directly behind itself. A second set is said as 2 x the dose.",
		}
		f.At, _, _ = l.tl.RowSpan(p)
		f.Mends = []Mend{{ID: "twice-" + p.String(), Says: "Take the second out", apply: func(s *plan.Session) error { return s.Delete(p) }}}
		out = append(out, f)
	})
	return out
}
