package solve

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// How far a timed circuit may go when a class is brought to a length, besides the third that any dose may; judgement.
const (
	leastOn     = 10 * clock.Second
	onStep      = 5 * clock.Second
	leastRounds = 3 // from so many rounds on, one more or less is no more than a third
	leastRatio  = .75
)

// circuitKnob is what a timed circuit may change by: its time on by a third in steps of 5 s, as long as on and off go
// together, and its rounds by one where there are three and more. Time off is where the next movement is shown, and stays. A
// circuit with a locked row is left.
func circuitKnob(at plan.Path, b *plan.Block, times map[plan.Path]*rowTime, peak float64, h House) (knob, bool) {
	if b.Rule != plan.Rounds || b.On == 0 || len(b.Rows) == 0 {
		return knob{}, false
	}
	working, weight := 0, 1.0
	for i := range b.Rows {
		r := &b.Rows[i]
		if r.Locked {
			return knob{}, false
		}
		if r.IsRest() {
			continue
		}
		working++
		if t := times[plan.Path{Section: at.Section, Block: at.Block, Row: i + 1}]; t != nil && peak > 0 && t.most >= peakFrom*peak {
			weight = peakWeight
		}
	}
	if working == 0 {
		return knob{}, false
	}
	rounds := max(1, b.Rounds)
	by := func(on clock.Span, n int) (d clock.Span) {
		d = clock.Span(n*working) * (on - b.On)
		if n == rounds {
			return d
		}
		round := b.Rest // a round as it is now, and the rest between two
		for i := range b.Rows {
			if t := times[plan.Path{Section: at.Section, Block: at.Block, Row: i + 1}]; t != nil {
				round += t.second
			}
		}
		return d + clock.Span(n-rounds)*round
	}
	k := knob{rows: []plan.Path{at}, circuit: true}
	low := b.On / mostChange / onStep * onStep
	for _, n := range []int{rounds - 1, rounds, rounds + 1} {
		if n != rounds && (rounds < leastRounds || n > plan.MaxRounds) {
			continue
		}
		for on := b.On - low; on <= b.On+low; on += onStep {
			if all := clock.Span(rounds) * b.On; mostChange*max(clock.Span(n)*on-all, all-clock.Span(n)*on) > all {
				continue // rounds and times together are within a third too
			}
			ratio := float64(on) / float64(max(b.Off, 1))
			if on != b.On && (on < leastOn || on > plan.MaxPause || b.Off > 0 && (ratio < leastRatio || h.OnMost > 0 && ratio > h.OnMost && on > b.On)) {
				continue
			}
			share := math.Abs(float64(on-b.On))/float64(b.On) + math.Abs(float64(n-rounds))/float64(rounds)
			k.options = append(k.options, option{on: on, rounds: n, by: by(on, n), cost: int(math.Round(weight * unitCost * share * float64(working)))})
		}
	}
	slices.SortStableFunc(k.options, func(a, b option) int { return cmp.Or(cmp.Compare(a.by, b.by), cmp.Compare(a.cost, b.cost)) })
	k.now = slices.IndexFunc(k.options, func(o option) bool { return o.on == b.On && o.rounds == rounds })
	return k, len(k.options) > 1
}

// circuitSaid is how a circuit is said: "2 rounds of 40 s on, 20 s off".
func circuitSaid(b *plan.Block) string {
	return fmt.Sprintf("%s of %s on, %s off", many(max(1, b.Rounds), "round"), b.On.Said(), b.Off.Said())
}

// growsWhole tells whether every row of a circuit may grow.
func growsWhole(b *plan.Block, lib *movement.Library, grows func(*plan.Row, *movement.Movement) bool) bool {
	for i := range b.Rows {
		if m, err := b.Rows[i].Of(lib); err == nil && m != nil && !grows(&b.Rows[i], m) {
			return false
		}
	}
	return true
}
