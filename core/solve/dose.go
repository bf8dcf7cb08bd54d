package solve

import (
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
)

// How far a dose may go when a class is brought to a length. All judgement.
const (
	mostChange = 3 // a dose changes by one part in three of what was planned, at most
	leastCount = 3 // repetitions or breaths, unless there were fewer
	leastHold  = 10 * clock.Second
	holdStep   = 5 * clock.Second
)

// House is what a house lets a dose be. The zero value is no bound at all.
type House struct {
	HoldLeast, HoldMost clock.Span // holds of a stretch
	OnMost              float64    // time on for one of time off, in a timed circuit
}

// reach is how far one count or one hold may go: from least to most by step, with what it is now among them. Counts, or
// milliseconds of a hold. most is below least where nothing may change.
type reach struct{ now, least, most, step int }

var noReach = reach{now: 1, least: 1, most: 0, step: 1}

// reachOf is how far a dose may go when a class is brought to a length: within a third of what was planned, within the
// house's ranges, and such that both sides keep the same.
func reachOf(d dose.Dose, sides movement.Sides, stretch bool, h House) reach {
	if slices.ContainsFunc(d.Parts, func(p dose.Part) bool { return p.Other > 0 }) { // two counts that were said as they are
		return noReach
	}
	if n := d.Count(); n > 0 {
		r := reach{now: n, least: max(min(leastCount, n), n-n/mostChange), most: n + n/mostChange, step: 1}
		if sides == movement.Alternating && d.Per != dose.Pairs && d.Per != dose.EachSide && d.Parts[0].Kind == dose.Reps {
			r.step = 2 // so that both sides keep the same
		}
		for r.most > n && r.most > dose.MaxBreaths {
			if o, _ := d.WithCount(r.most); o.Sayable() {
				break
			}
			r.most--
		}
		r.least += (n - r.least) % r.step
		r.most -= (r.most - n) % r.step
		return r
	}
	if len(d.Parts) != 1 || d.Parts[0].Kind == dose.AsMany || d.Parts[0].Off > 0 || d.Parts[0].Counts > 0 {
		return noReach
	}
	had := d.Parts[0].Span
	by := had / mostChange / holdStep * holdStep
	lo, hi := had-by, had+by
	for lo < had && (lo < leastHold || stretch && lo < h.HoldLeast) {
		lo += holdStep
	}
	for hi > had && (hi > dose.MaxSpan || stretch && h.HoldMost > 0 && hi > h.HoldMost) {
		hi -= holdStep
	}
	return reach{int(had), int(lo), int(hi), int(holdStep)}
}

// with is the dose with a count or a hold in place of its own.
func with(d dose.Dose, v int) dose.Dose {
	if d.Count() > 0 {
		d, _ = d.WithCount(v)
		return d
	}
	d.Parts = slices.Clone(d.Parts)
	d.Parts[0].SetSpan(clock.Span(v))
	return d
}

// Doses lists the doses a row could have when a class is brought to a length, from short to long, and which of them it
// has now; fewer than two where nothing may change.
func Doses(d dose.Dose, sides movement.Sides, stretch bool, h House) (out []dose.Dose, now int) {
	r := reachOf(d, sides, stretch, h)
	for v := r.least; v <= r.most; v += r.step {
		if v == r.now {
			now = len(out)
		}
		out = append(out, with(d, v))
	}
	return out, now
}

// counted is which part of a dose a count or a hold is changed in, from 1.
func counted(d dose.Dose) int {
	for i, p := range d.Parts {
		if p.Count > 0 {
			return i + 1
		}
	}
	return 1
}

// size is how many steps a dose has in it.
func size(d dose.Dose) int {
	if n := d.Count(); n > 0 {
		return n
	}
	return int(d.Parts[0].Span / holdStep)
}

// itself tells whether the row is done with the dose that makes the movement what it is.
func itself(d dose.Dose, m *movement.Movement) bool {
	return m.DoseIsIt && len(d.Parts) > 0 && len(m.Dose.Parts) > 0 && d.Parts[0].Kind == m.Dose.Parts[0].Kind && d.Count() == m.Dose.Count()
}
