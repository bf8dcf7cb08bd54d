package timeline

import (
	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Pace is the seconds between the work: what a class costs in talk and changes.
type Pace struct {
	Opening    clock.Span // opening the class
	First      clock.Span // setting up a movement or level met for the first time
	OneStep    clock.Span // changing position, one step of the posture graph
	MoreSteps  clock.Span // changing position, two steps or more
	SecondSide clock.Span // starting the second side
	InChain    clock.Span // second side inside a chain; next movement inside a chain
	MetBefore  clock.Span // a movement met before in this class
	Kit        clock.Span // placing or fetching kit
	BigKit     clock.Span // getting onto a roller or to a wall
}

// PaceOf gives the seconds for a dial of talk. All are common practice, no published source.
func PaceOf(t plan.Talk) Pace {
	const s = clock.Second
	switch t {
	case plan.Flowing:
		return Pace{15 * s, 11 * s, 6 * s, 12 * s, 9 * s, 5 * s, 5 * s, 15 * s, 30 * s}
	case plan.FirstLesson:
		return Pace{30 * s, 23 * s, 16 * s, 22 * s, 12 * s, 6 * s, 6 * s, 25 * s, 55 * s}
	}
	return Pace{20 * s, 15 * s, 10 * s, 15 * s, 10 * s, 5 * s, 5 * s, 20 * s, 40 * s}
}

func (p Pace) change(w movement.Way) clock.Span {
	switch w.Steps {
	case 0:
		return 0
	case 1:
		return p.OneStep
	}
	return p.MoreSteps
}

// Uncertainty of a length worked out from the plan alone (common practice, no source).
const (
	countedSpread = 1.15 // counted work, talk and changes
	timedSpread   = 1.01 // what the clock ends
)

// OffFits is the longest off time into which a change of position of up to three steps and a
// set-up fit: 15 to 27 s (common practice, no source).
const OffFits = 15 * clock.Second
