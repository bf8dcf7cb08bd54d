// Package effort says how hard a step is when it is reached: its demand, raised by work that the
// same regions of the body have done without rest.
package effort

import (
	"math"

	"wavekine/core/clock"
	"wavekine/core/movement"
)

// The constants of the model. All are judgement, chosen so that a minute of steady work at demand
// 6 raises effort by about one point and a minute of rest takes most of it away again.
const (
	gain      = .45               // share of demand added at full tiredness
	tireSpan  = 90 * clock.Second // time constant of tiring while a region works
	easeSpan  = 50 * clock.Second // time constant of recovering while it rests
	pulseMore = .5                // pulses are at the end of the range
)

// Fatigue is how tired each region is, 0 (fresh) to 1. The zero value is a fresh body.
type Fatigue struct {
	region [24]float64
}

// Rest lets every region recover.
func (f *Fatigue) Rest(s clock.Span) {
	k := math.Exp(-s.Seconds() / easeSpan.Seconds())
	for i := range f.region {
		f.region[i] *= k
	}
}

// Work does a movement of the given demand (0..10) for s and returns the effort (0..10) at the
// middle of it. Regions that do not take part recover meanwhile.
func (f *Fatigue) Work(m *movement.Movement, demand float64, pulses bool, s clock.Span) float64 {
	if pulses {
		demand += pulseMore
	}
	var weight, tired float64
	ease := math.Exp(-s.Seconds() / easeSpan.Seconds())
	tire := math.Exp(-s.Seconds() / tireSpan.Seconds())
	half := math.Exp(-s.Seconds() / 2 / tireSpan.Seconds())
	var works [24]bool
	for _, p := range m.Shares() {
		works[p.Region] = true
		aim := demand / 10 * p.Weight
		was := f.region[p.Region]
		// A light movement does not rest a region faster than rest does, nor tire it beyond its aim.
		mid := aim + (was-aim)*half
		f.region[p.Region] = aim + (was-aim)*tire
		weight += p.Weight
		tired += p.Weight * mid
	}
	for i := range f.region {
		if !works[i] {
			f.region[i] *= ease
		}
	}
	if weight > 0 {
		tired /= weight
	}
	return min(10, demand*(1+gain*tired))
}
