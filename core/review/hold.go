package review

import (
	"fmt"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// The published range of a hold: 10 to 30 s, 30 to 60 s for older adults, about 60 s in all a stretch.
var (
	holdLeastLimit = Limit{"hold_least", "Shortest hold of a stretch", "s", 10, 3, 60, acsm}
	holdMostLimit  = Limit{"hold_most", "Longest hold of a stretch, where it is not meant as a long one", "s", 60, 15, 119, acsm}
	holdOlderLimit = Limit{"hold_older", "Shortest hold of a stretch for older people", "s", 30, 3, 60, acsm}
	holdSumLimit   = Limit{"hold_sum", "The same stretch in all, of one side", "s", 120, 60, 900, acsm}
)

// holdRule: a stretch is held shorter or longer than the published range, or comes again until it is much more than the
// published sum of about 60 s a session. Held work and standing poses are no stretches, resting is none; long holds from 1 min
// are a school of their own, but for older people.
var holdRule = &Rule{
	Name: "hold", Looks: "a stretch is held shorter than the range, by older people longer, or much longer in all than 60 s a side; holds of 1 min and more are meant so",
	Limits: []Limit{holdLeastLimit, holdMostLimit, holdOlderLimit, holdSumLimit}, Mends: "30 s, or the nearest the range allows",
	find: findHold,
}

// longHold is the hold from which a stretch is meant as a long one (common practice).
const longHold = clock.Minute

// stretches tells whether a movement is a stretch in the sense of the published range: not held work, not a rest.
func stretches(m *movement.Movement) bool {
	return m.Stretch && !m.Rest && !m.Inline && m.Phase != worksIn
}

// worksIn is the part of a class whose held poses are work.
const worksIn = "build"

// holdRange is how long a stretch is held by this audience.
func (l *look) holdRange() (least, most clock.Span) {
	least, most = l.span(holdLeastLimit), l.span(holdMostLimit)
	if l.s.Audience.Has(movement.Older) {
		least = max(least, l.span(holdOlderLimit))
	}
	return least, max(least, most)
}

func findHold(l *look, _ *Rule) (out []Finding) {
	older := l.s.Audience.Has(movement.Older)
	least, most := l.holdRange()
	sums := map[string]clock.Span{} // of one side, where none is a long hold
	long := map[string]bool{}
	last := map[string]plan.Path{}
	l.moves(func(p plan.Path, b *plan.Block, r *plan.Row, m *movement.Movement) {
		if !stretches(m) || b.On > 0 {
			return
		}
		d := r.DoseOf(m)
		if len(d.Parts) != 1 || d.Parts[0].Span == 0 || d.Parts[0].Kind != dose.Hold && d.Parts[0].Kind != dose.Time {
			return
		}
		sp, slug := d.Parts[0].Span, movement.BaseSlug(r.Name())
		if r.Sides != movement.LeftOnly { // the other side is its twin
			sums[slug] += sp * clock.Span(max(1, d.Sets)*max(1, b.Rounds))
		}
		last[slug] = p
		if sp >= longHold && sp > most {
			long[slug] = true
		}
		short := sp < least
		if !short && !(older && sp > most) && (sp <= most || sp >= longHold) || r.Right != nil || r.Left != nil {
			return
		}
		to := min(max(30*clock.Second, least), most)
		f := Finding{
			Severity: Look, Row: p, Amount: sp.Seconds(), Measured: sp.Said(), Limit: least.Said() + " to " + most.Said(),
			Says: fmt.Sprintf("%s held %s", m.Name, sp.Said()), Detail: fmt.Sprintf("Published range %s to %s a hold; long holds from %s are meant so.", least.Said(), most.Said(), longHold.Said()),
		}
		if older {
			f.Detail = fmt.Sprintf("Published range for older people %s to %s a hold.", least.Said(), most.Said())
		}
		if short {
			f.Amount = (least - sp).Seconds()
		}
		f.At, _, _ = l.tl.RowSpan(p)
		f.Mends = []Mend{{ID: "hold-" + p.String(), Says: "Hold " + to.Said(), apply: func(s *plan.Session) error {
			nd := d
			nd.Parts = slices.Clone(d.Parts)
			nd.Parts[0].SetSpan(to)
			return s.SetDose(p, movement.SidesUnsaid, nd)
		}}}
		out = append(out, f)
	})
	for slug, sum := range sums {
		if sum <= l.span(holdSumLimit) || long[slug] {
			continue
		}
		p := last[slug]
		f := Finding{
			Severity: Look, Row: p, Amount: sum.Seconds(), About: slug + " in all", Measured: sum.Said(), Limit: l.span(holdSumLimit).Said(),
			Says: fmt.Sprintf("%s for %s in all", l.name(p), sum.Said()), Detail: "Published: about 60 s in all for a stretch and session. More gains little; long holds are said as one.",
		}
		f.At, _, _ = l.tl.RowSpan(p)
		out = append(out, f)
	}
	slices.SortStableFunc(out, func(a, b Finding) int { return comparePlaces(a.Row, b.Row) })
	return out
}
