package timeline

import (
	"math"

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
	InFlow     clock.Span // next movement of a flow
	MetBefore  clock.Span // a movement met before in this class
	Kit        clock.Span // placing or fetching kit
	BigKit     clock.Span // getting onto a roller or to a wall
}

// PaceOf gives the seconds for a dial of talk. All are common practice, no published source.
func PaceOf(t plan.Talk) Pace {
	const s = clock.Second
	switch t {
	case plan.Flowing:
		return Pace{15 * s, 11 * s, 6 * s, 12 * s, 9 * s, 5 * s, 4 * s, 5 * s, 15 * s, 30 * s}
	case plan.FirstLesson:
		return Pace{30 * s, 23 * s, 16 * s, 22 * s, 12 * s, 6 * s, 11 * s, 6 * s, 25 * s, 55 * s}
	}
	return Pace{20 * s, 15 * s, 10 * s, 15 * s, 10 * s, 5 * s, 4 * s, 5 * s, 20 * s, 40 * s}
}

// Times is the pace with every time multiplied, as learnt from runs.
func (p Pace) Times(f float64) Pace {
	if f == 1 {
		return p
	}
	for _, s := range []*clock.Span{&p.Opening, &p.First, &p.OneStep, &p.MoreSteps, &p.SecondSide, &p.InChain, &p.InFlow, &p.MetBefore, &p.Kit, &p.BigKit} {
		*s = s.Times(f)
	}
	return p
}

// paces are a dial's seconds at a teacher's own pace: what is said, and what is moved.
type paces struct{ talk, changes Pace }

func (p Pace) at(own movement.Personal) paces {
	return paces{talk: p.Times(own.TalkFactor()), changes: p.Times(own.ChangesFactor())}
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

// runsHalve is the number of runs after which the spread of what is counted is down to seven tenths; judgement.
const runsHalve = 4.0

// spread is the uncertainty of counted work with so many runs behind the pace.
func spread(runs int) float64 {
	return 1 + (countedSpread-1)/math.Sqrt(1+float64(runs)/runsHalve)
}
