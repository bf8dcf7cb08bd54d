package review

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// bendingLimit is how much rounding of the spine to its end a class has in all.
var bendingLimit = Limit{"bending", "Rounding the spine to its end, in all", "s", 300, 30, 1800, judged}

// Those of whom less is asked round for half of it, low bone density for a fifth, able people twice; judgement.
const (
	bendingLess  = .5
	bendingBones = .2
	bendingMore  = 2
)

// bendingRule: the spine rounded to its end over and over, or hanging in it, for too long in all.
var bendingRule = &Rule{
	Name: "bending", Looks: "the spine is rounded to its end for too long in all: half of it for beginners and older people, a fifth for low bone density, twice for able ones; curls with the head up have a rule of their own",
	Limits: []Limit{bendingLimit}, Mends: "none: what to leave out is the teacher's choice", find: findBending, spares: true,
}

func (l *look) bendingMost() clock.Span {
	most, a := l.span(bendingLimit), l.s.Audience
	switch {
	case a.Has(movement.LowBone):
		return most.Times(bendingBones)
	case a.Has(newToIt):
		return most.Times(bendingLess)
	case l.knowsTheMat():
		return most.Times(bendingMore)
	}
	return most
}

func findBending(l *look, _ *Rule) []Finding {
	var sum clock.Span
	var names []string
	var first plan.Path
	seen := map[plan.Path]bool{}
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if s.Move == nil || !s.Kind.Working() || s.Move.Rest || !s.Move.RoundsToTheEnd(s.Level) {
			continue
		}
		sum += s.S
		if !seen[s.Row] {
			seen[s.Row] = true
			names = append(names, s.Move.Name)
			if len(names) == 1 {
				first = s.Row
			}
		}
	}
	most := l.bendingMost()
	if sum <= most {
		return nil
	}
	f := Finding{
		Severity: Look, Row: first, Amount: sum.Seconds(), Measured: sum.String(), Limit: most.String(),
		Says: fmt.Sprintf("The spine is rounded to its end for %s", sum), Detail: withMore(names) + ".",
	}
	if l.s.Audience.Has(movement.LowBone) {
		f.Severity = Stop
	}
	f.At, _, _ = l.tl.RowSpan(first)
	return []Finding{f}
}
