package review

import (
	"fmt"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// holdLeastLimit and holdMostLimit are the published range of a hold.
var (
	holdLeastLimit = Limit{"hold_least", "Shortest hold of a stretch", "s", 10, 3, 60, acsm}
	holdMostLimit  = Limit{"hold_most", "Longest hold of a stretch, long holds of 2 min and more apart", "s", 60, 15, 119, acsm}
)

// holdRule: a stretch is held shorter or longer than the published range.
var holdRule = &Rule{
	Name: "hold", Looks: "a stretch is held shorter or longer than the range; holds of 2 min and more are meant so", Limits: []Limit{holdLeastLimit, holdMostLimit},
	Mends: "30 s, or the nearest the range allows",
	find:  findHold,
}

// longHold is the hold from which a stretch is meant as a long one: two to five minutes (common practice).
const longHold = 2 * clock.Minute

func findHold(l *look, _ *Rule) (out []Finding) {
	l.s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		m, err := r.Of(l.lib)
		if err != nil || m == nil || !m.Stretch || m.Inline || b.On > 0 {
			return
		}
		d := r.DoseOf(m)
		if len(d.Parts) != 1 || d.Parts[0].Span == 0 || d.Parts[0].Kind != dose.Hold && d.Parts[0].Kind != dose.Time {
			return
		}
		sp := d.Parts[0].Span
		if sp >= l.span(holdLeastLimit) && sp <= l.span(holdMostLimit) || sp >= longHold || r.Right != nil || r.Left != nil {
			return
		}
		to := min(max(30*clock.Second, l.span(holdLeastLimit)), l.span(holdMostLimit))
		f := Finding{
			Severity: Look, Row: p, Amount: sp.Seconds(), Measured: sp.Said(), Limit: l.span(holdLeastLimit).Said() + " to " + l.span(holdMostLimit).Said(),
			Says: fmt.Sprintf("%s held %s", m.Name, sp.Said()), Detail: fmt.Sprintf("Published range %s to %s a hold; long holds from 2 min are meant so.", l.span(holdLeastLimit).Said(), l.span(holdMostLimit).Said()),
		}
		f.At, _, _ = l.tl.RowSpan(p)
		f.Mends = []Mend{{ID: "hold-" + p.String(), Says: "Hold " + to.Said(), apply: func(s *plan.Session) error {
			nd := d
			nd.Parts = slices.Clone(d.Parts)
			nd.Parts[0].Span = to
			return s.SetDose(p, movement.SidesUnsaid, nd)
		}}}
		out = append(out, f)
	})
	return out
}
