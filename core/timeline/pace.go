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

// How much teachers differ from the plan: each in tempo, in talk and in changes by a tenth (one standard deviation, log-normal), and every step of a class
// from the one planned by 15 % (common practice, no source). What the clock ends is ended within 1 %.
const (
	teacherSigma = .10
	stepSigma    = .15
	timedSigma   = .01
	// rangeHolds is how many standard deviations the range of a length reaches to each side: it holds 85 % of all teachers (normal distribution, table of its
	// quantiles: 1.44).
	rangeHolds = 1.44
)

// uncertainty adds up what may be longer or shorter than planned.
type uncertainty struct {
	tempo, talk, changes float64 // seconds
	steps                float64 // their variances, in square seconds
	least, most          float64 // what was said as a range takes from and adds to the length, in seconds
}

func (u *uncertainty) add(s *Step) {
	sec := s.S.Seconds()
	if s.least > 0 {
		u.least += sec * (1 - s.least)
		u.most += sec * (s.most - 1)
	}
	switch {
	case s.Clocked:
		u.steps += timedSigma * timedSigma * sec * sec
		return
	case s.Kind.Working():
		u.tempo += sec
	case s.Kind == Setup:
		u.talk += sec
	default:
		u.changes += sec
	}
	u.steps += stepSigma * stepSigma * sec * sec
}

// around is the range of a length: with runs behind the teacher's pace, what is learnt of it is uncertain no more.
func (u *uncertainty) around(total clock.Span, runs int) (low, high clock.Span) {
	if total == 0 {
		return 0, 0
	}
	own := teacherSigma * (spread(runs) - 1) / (countedSpread - 1)
	sd := math.Sqrt(u.steps + own*own*(u.tempo*u.tempo+u.talk*u.talk+u.changes*u.changes))
	t := total.Seconds()
	f := 1 + rangeHolds*sd/t
	return clock.Seconds(max(0, (t-u.least)/f)), clock.Seconds((t + u.most) * f)
}

// runsHalve is the number of runs after which the spread of what is counted is down to seven tenths; judgement.
const runsHalve = 4.0

// spread is the uncertainty of counted work with so many runs behind the pace.
func spread(runs int) float64 {
	return 1 + (countedSpread-1)/math.Sqrt(1+float64(runs)/runsHalve)
}
