package review

import (
	"fmt"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// promisedLength: over or under what was announced.
func promisedLength(l *look) []Finding {
	if l.s.Target == 0 || len(l.tl.Steps) == 0 {
		return nil
	}
	off := l.tl.Total - l.s.Target
	if abs(off) <= l.s.Target.Times(l.lim.Length/100) {
		return nil
	}
	word, do := "Over", "Trim"
	if off < 0 {
		word, do = "Under", "Add"
	}
	f := Finding{
		Rule: "length", Severity: Look, Amount: abs(off).Seconds(), Measured: l.tl.Total.String(), Limit: fmt.Sprintf("%s, %.0f %% either way", l.s.Target, l.lim.Length),
		Source: sourceOf("length"), At: min(l.s.Target, l.tl.Total),
		Says:   fmt.Sprintf("%s by %s", word, abs(off)),
		Detail: fmt.Sprintf("Promised %s, comes out at %s, somewhere from %s to %s.", l.s.Target, l.tl.Total, l.tl.Low, l.tl.High),
	}
	if canReach(l, off) {
		f.Mends = append(f.Mends, Mend{ID: "length-doses", Says: fmt.Sprintf("%s %s of repetitions", do, abs(off)), apply: func(s *plan.Session) error {
			for range 5 { // a rest that has become due takes its time too
				if err := nearDoses(s, l.lib, l.s.Target); err != nil {
					return err
				}
				if err := l.soothe(s); err != nil || len(l.again(s, promisedLength)) == 0 {
					return err
				}
			}
			return nil
		}})
	}
	promise := l.tl.Total
	for _, round := range []clock.Span{30 * clock.Second, 5 * clock.Second, clock.Second} {
		promise = (l.tl.Total + round/2) / round * round
		if abs(promise-l.tl.Total) <= promise.Times(l.lim.Length/200) {
			break
		}
	}
	if promise > plan.MaxTarget { // no class is asked to be so long
		return []Finding{f}
	}
	f.Mends = append(f.Mends, Mend{ID: "length-promise", Says: "Promise " + promise.String(), apply: func(s *plan.Session) error {
		s.Target = promise
		return nil
	}})
	return []Finding{f}
}

func abs(s clock.Span) clock.Span { return max(s, -s) }

// stretchable is how far a row's counts may go from what was planned: down to half but not below
// three, up to double; judgement.
func stretchable(n int) (lo, hi int) { return max(min(3, n), (n+1)/2), n * 2 }

// burdens tells whether more of a movement would keep the head up or the hands loaded for longer:
// such rows are not grown to fill time.
func burdens(m *movement.Movement, level int) bool {
	return m.Has(level, movement.HeadUp) || m.Has(level, movement.Hands)
}

// canReach estimates whether counts alone can make up the difference.
func canReach(l *look, off clock.Span) bool {
	var room clock.Span
	finest := l.tl.Total // the least that one count more or less of some row changes
	perCount := map[plan.Path]clock.Span{}
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		r := l.s.Row(s.Row)
		if r == nil || r.Locked || r.Right != nil || r.Left != nil || s.Clocked || !s.Kind.Working() || s.Reps+s.Breaths == 0 || s.Kind == timeline.Pulse ||
			off < 0 && burdens(s.Move, s.Level) {
			continue
		}
		n := s.Reps + s.Breaths
		lo, hi := stretchable(n)
		if off > 0 {
			room += s.S.Times(float64(n-lo) / float64(n))
		} else {
			room += s.S.Times(float64(hi-n) / float64(n))
		}
		perCount[s.Row] += s.S / clock.Span(n)
	}
	for _, c := range perCount {
		finest = min(finest, c)
	}
	// Counts are whole, and pairs go by two, so not all the room can be used.
	return room.Times(.6) >= abs(off) && finest <= l.s.Target.Times(l.lim.Length/100)
}

// nearDoses changes counts one at a time, always where it changes the class least in proportion,
// until no single change comes nearer to the target. Locked rows and both sides of a row stay as
// they belong.
func nearDoses(s *plan.Session, lib *movement.Library, target clock.Span) error {
	type knob struct {
		p      plan.Path
		lo, hi int
		per    clock.Span // what one more costs
		from   int
	}
	tl, err := timeline.Build(s, lib)
	if err != nil {
		return err
	}
	var knobs []knob
	s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		if r.IsRest || r.Locked || b.On > 0 || r.Right != nil || r.Left != nil {
			return
		}
		m, err := r.Of(lib)
		if err != nil || tl.Total < target && burdens(m, r.Level) {
			return
		}
		if r.Dose.IsZero() {
			r.Dose = m.Dose
		}
		if n := r.Dose.Count(); n > 0 {
			lo, hi := stretchable(n)
			for hi > n { // not past what a dose can say
				if d, _ := r.Dose.WithCount(hi); d.Sayable() {
					break
				}
				hi--
			}
			knobs = append(knobs, knob{p: p, lo: lo, hi: hi, from: n})
		}
	})
	step := 1
	length := func() clock.Span {
		tl, err = timeline.Build(s, lib)
		if err != nil {
			return 0
		}
		return tl.Total
	}
	set := func(p plan.Path, n int) {
		r := s.Row(p)
		r.Dose, _ = r.Dose.WithCount(n)
	}
	total := length()
	for i := range knobs {
		k := &knobs[i]
		set(k.p, k.from+1)
		k.per = length() - total
		set(k.p, k.from)
	}
	for range 4000 {
		off := target - total
		best, gain := -1, 0.0
		for i, k := range knobs {
			n := s.Row(k.p).Dose.Count()
			by := step
			if s.Row(k.p).Dose.Per == dose.Alternating || alternates(s, k.p, lib) {
				by = 2
			}
			to := n + by
			if off < 0 {
				to = n - by
			}
			cost := k.per * clock.Span(to-n)
			if to < k.lo || to > k.hi || k.per <= 0 || abs(off-cost) >= abs(off) {
				continue
			}
			// the row furthest from its bound, in proportion, gives first
			ratio := float64(n) / float64(k.from)
			if off > 0 {
				ratio = 1 / ratio
			}
			if best < 0 || ratio > gain {
				best, gain = i, ratio
			}
		}
		if best < 0 {
			break
		}
		k := knobs[best]
		n := s.Row(k.p).Dose.Count()
		by := 1
		if s.Row(k.p).Dose.Per == dose.Alternating || alternates(s, k.p, lib) {
			by = 2
		}
		if off < 0 {
			by = -by
		}
		set(k.p, n+by)
		total += k.per * clock.Span(by)
	}
	return err
}

// alternates tells whether a plain count of the row falls on the sides in turn, so that it must
// change by two.
func alternates(s *plan.Session, p plan.Path, lib *movement.Library) bool {
	r := s.Row(p)
	m, err := r.Of(lib)
	if err != nil {
		return false
	}
	return r.SideRule(m) == movement.Alternating && !slices.Contains([]dose.Per{dose.Pairs, dose.EachSide}, r.Dose.Per) && r.Dose.Parts[0].Kind == dose.Reps
}
