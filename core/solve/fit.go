// Package solve finds the best change to a session under rules: fitting it to a length, and the order
// that changes position least. Both are exact within what is said beside them, and say when they
// cannot.
package solve

import (
	"fmt"
	"math"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Within is how near to the target a fitted session must come.
const Within = 5 * clock.Second

// How far a dose may go, and what changing it costs. All judgement.
const (
	leastCount = 3 // repetitions or breaths, unless there were fewer
	leastHold  = 10 * clock.Second
	holdStep   = 5 * clock.Second
	peakWeight = 3    // rows at the peak are three times as dear to change
	peakFrom   = .85  // of the highest effort in the class
	unitCost   = 1000 // cost of changing one row by the whole of its dose
	finest     = 50 * clock.Millisecond
)

// Change is what Fit does to one row.
type Change struct {
	Row      plan.Path
	Name     string
	From, To string
	By       clock.Span // what it adds to the class
}

// Fitted is a session brought to a length.
type Fitted struct {
	Session *plan.Session
	Changes []Change
	Total   clock.Span
	Cost    int    // sum of the changes' costs
	Reached bool   // within 5 s of the target
	Says    string // why not, when it was not reached
}

// option is one dose a row could have.
type option struct {
	dose dose.Dose
	by   clock.Span
	cost int
}

// knob is a row that may change, with its doses from short to long; the one in use costs nothing.
type knob struct {
	row     plan.Path
	options []option
}

// Fit changes doses within what each row allows, so that the length hits the target within 5 s if
// any such change exists, with the least total change; among equals the nearest. Rows keep both
// sides alike, rounds stay whole, locked rows, timed circuits and rows with a side of their own are
// left. Dynamic programming over time: cost grows with rows x doses x (range of lengths / 50 ms).
func Fit(s *plan.Session, lib *movement.Library, target clock.Span) (*Fitted, error) {
	tl, err := timeline.Build(s, lib)
	if err != nil {
		return nil, err
	}
	knobs, err := knobsOf(s, lib, tl)
	if err != nil {
		return nil, err
	}
	picks := choose(knobs, target-tl.Total)
	out := &Fitted{Session: s.Clone()}
	for i, k := range knobs {
		o := k.options[picks[i]]
		if o.cost == 0 {
			continue
		}
		r := out.Session.Row(k.row)
		from := r.Dose
		m, err := r.Of(lib)
		if err != nil {
			return nil, err
		}
		if from.IsZero() {
			from = m.Dose
		}
		r.Dose = o.dose
		out.Cost += o.cost
		out.Changes = append(out.Changes, Change{k.row, m.Name, from.String(), o.dose.String(), o.by})
	}
	after, err := timeline.Build(out.Session, lib)
	if err != nil {
		return nil, err
	}
	out.Total = after.Total
	off := out.Total - target
	out.Reached = off >= -Within && off <= Within
	if !out.Reached {
		why := "every row is at the shortest it allows"
		if off < 0 {
			why = "every row is at the longest it allows"
		}
		if len(knobs) == 0 {
			why = "no row may change"
		} else if between(knobs, target-tl.Total) {
			why = "the steps of the rows do not meet there"
		}
		out.Says = fmt.Sprintf("Cannot: the nearest to %s is %s, because %s.", target, out.Total, why)
	}
	return out, nil
}

func between(knobs []knob, diff clock.Span) bool {
	var lo, hi clock.Span
	for _, k := range knobs {
		lo += k.options[0].by
		hi += k.options[len(k.options)-1].by
	}
	return diff > lo && diff < hi
}

// knobsOf finds what may change, and what each step costs in time, by building the class once for
// each row with one step more.
func knobsOf(s *plan.Session, lib *movement.Library, tl *timeline.Timeline) (out []knob, err error) {
	peak := 0.0
	effort := map[plan.Path]float64{}
	for i := range tl.Steps {
		st := &tl.Steps[i]
		peak = max(peak, st.Effort)
		effort[st.Row] = max(effort[st.Row], st.Effort)
	}
	trial := s.Clone()
	trial.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		if err != nil || r.IsRest || r.Locked || b.On > 0 || r.Right != nil || r.Left != nil {
			return
		}
		m, merr := r.Of(lib)
		if merr != nil {
			err = merr
			return
		}
		now := r.Dose
		was := r.Dose
		if now.IsZero() {
			now = m.Dose
		}
		doses, from := dosesOf(now, r.SideRule(m))
		if len(doses) < 2 {
			return
		}
		// What one step adds, measured where the dose is: it is the same for every step.
		at := min(from, len(doses)-2)
		span := [2]clock.Span{}
		for i := range span {
			r.Dose = doses[at+i]
			t, berr := timeline.Build(trial, lib)
			if berr != nil {
				err = berr
				return
			}
			span[i] = t.Total
		}
		r.Dose = was
		per := span[1] - span[0]
		if per <= 0 {
			return
		}
		weight := 1.0
		if peak > 0 && effort[p] >= peakFrom*peak {
			weight = peakWeight
		}
		k := knob{row: p}
		for i, d := range doses {
			steps := i - from
			cost := int(math.Round(weight * unitCost * math.Abs(float64(steps)) / float64(max(size(now), 1))))
			k.options = append(k.options, option{d, per * clock.Span(steps), cost})
		}
		out = append(out, k)
	})
	return out, err
}

// size is how many steps a dose has in it.
func size(d dose.Dose) int {
	if n := d.Count(); n > 0 {
		return n
	}
	return int(d.Parts[0].Span / holdStep)
}

// dosesOf lists the doses a row could have, from short to long, and which of them it has.
func dosesOf(d dose.Dose, sides movement.Sides) (out []dose.Dose, from int) {
	if n := d.Count(); n > 0 {
		step := 1
		if sides == movement.Alternating && d.Per != dose.Pairs && d.Per != dose.EachSide && d.Parts[0].Kind == dose.Reps {
			step = 2 // so that both sides keep the same
		}
		for c := max(min(leastCount, n), (n+1)/2); c <= 2*n; c++ {
			if (c-n)%step != 0 {
				continue
			}
			if c == n {
				from = len(out)
			}
			if o, _ := d.WithCount(c); o.Sayable() {
				out = append(out, o)
			}
		}
		return out, from
	}
	if len(d.Parts) != 1 || d.Parts[0].Kind == dose.AsMany || d.Parts[0].Off > 0 {
		return nil, 0
	}
	now := d.Parts[0].Span
	for t := now % holdStep; t <= 2*now; t += holdStep {
		if t < max(leastHold, now/2) && t != now {
			continue
		}
		if t == now {
			from = len(out)
		}
		o := d
		o.Parts = slices.Clone(d.Parts)
		o.Parts[0].Span = t
		if o.Sayable() {
			out = append(out, o)
		}
	}
	return out, from
}

func gcd(a, b clock.Span) clock.Span {
	for b != 0 {
		a, b = b, a%b
	}
	return max(a, -a)
}

// choose picks an option of each knob so that their times sum to diff within 5 s at the least cost,
// else to the nearest there is.
func choose(knobs []knob, diff clock.Span) []int {
	var unit, lo, hi clock.Span
	for _, k := range knobs {
		lo += k.options[0].by
		hi += k.options[len(k.options)-1].by
		for _, o := range k.options {
			unit = gcd(unit, o.by)
		}
	}
	unit = max(unit, finest) // below that times are rounded; what comes out is measured afterwards
	n := int((hi-lo)/unit) + len(knobs) + 2
	at := func(s clock.Span) int { return int(math.Round(float64(s) / float64(unit))) }
	const none = math.MaxInt32
	// best[t] is the least cost of the knobs so far to add lo + t units; lows are added as we go.
	best := make([]int32, n)
	for i := range best {
		best[i] = none
	}
	best[0] = 0
	picked := make([][]uint16, len(knobs))
	reach := 0
	for i, k := range knobs {
		next := make([]int32, n)
		for t := range next {
			next[t] = none
		}
		pick := make([]uint16, n)
		low := at(k.options[0].by)
		top := reach
		for j, o := range k.options {
			shift := at(o.by) - low
			for t := 0; t <= reach && t+shift < n; t++ {
				if best[t] == none {
					continue
				}
				if c := best[t] + int32(o.cost); c < next[t+shift] {
					next[t+shift], pick[t+shift] = c, uint16(j)
					top = max(top, t+shift)
				}
			}
		}
		best, picked[i], reach = next, pick, top
	}
	base := 0
	for _, k := range knobs {
		base += at(k.options[0].by)
	}
	want := float64(diff) / float64(unit)
	end, found := 0, false
	within := float64(Within) / float64(unit)
	for t := 0; t <= reach; t++ {
		if best[t] == none {
			continue
		}
		off, old := math.Abs(float64(t+base)-want), math.Abs(float64(end+base)-want)
		switch {
		case !found:
			end, found = t, true
		case off <= within && old <= within:
			if best[t] < best[end] || best[t] == best[end] && off < old {
				end = t
			}
		case off < old:
			end = t
		}
	}
	out := make([]int, len(knobs))
	for i := len(knobs) - 1; i >= 0; i-- {
		out[i] = int(picked[i][end])
		end -= at(knobs[i].options[out[i]].by) - at(knobs[i].options[0].by)
	}
	return out
}
