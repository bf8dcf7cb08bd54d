package review

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// wokenLimit is how much easier work for the deep core comes before legs are levered.
var wokenLimit = Limit{"woken", "Deep core woken before legs are levered", "s", 30, 0, 300, judged}

// Levers of the legs count from this demand, and work wakes the deep core from this weight; judgement.
const (
	leverCounts = 4.0
	wakesFrom   = .4
	wakesTo     = 5.5 // demand up to which it is easier work
)

// leverEarlyRule: legs levered before the deep core has been woken.
var leverEarlyRule = &Rule{
	Name: "lever-early", Looks: "legs are levered before the deep core has worked", Limits: []Limit{wokenLimit},
	Mends: "pelvic tilt or knee opening in front",
	find:  findLeverEarly,
}

// firstRow is the very first row of a class.
var firstRow = plan.Path{Section: 1, Block: 1, Row: 1}

func findLeverEarly(l *look, r *Rule) []Finding {
	if l.s.Style.WarmUp == plan.WarmUpAssumed || l.s.Style.Order == plan.ClassicalOrder && l.knowsTheMat() {
		return nil // it was woken before, or the hundred is what wakes it
	}
	var woken clock.Span
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() || s.Move == nil {
			continue
		}
		if d, ok := levers(s); ok && d >= leverCounts {
			if woken >= l.span(wokenLimit) || s.Row == firstRow && s.Effort >= l.num(hardLimit) { // then the warm-up is what is missing
				return nil
			}
			return []Finding{l.leverEarly(r, s, woken)}
		}
		if s.Move.Regions["deep core"] >= wakesFrom && s.Move.At(s.Level).Demand <= wakesTo {
			woken += s.S
		}
	}
	return nil
}

func (l *look) leverEarly(rule *Rule, s *timeline.Step, woken clock.Span) Finding {
	p := s.Row
	f := Finding{
		Severity: Look, Row: p, At: s.At, Amount: (l.span(wokenLimit) - woken).Seconds(), Measured: woken.String(), Limit: l.span(wokenLimit).String(),
		Says:   s.Move.Name + " before the deep core is awake",
		Detail: fmt.Sprintf("%s of easier work for the deep core before it. House limit %s.", woken, l.span(wokenLimit)),
	}
	for _, slug := range []string{"pelvic-tilt", "knee-opening"} {
		r, m, ok := l.row(slug, 1)
		if !ok {
			continue
		}
		f.Mends = append(f.Mends, Mend{ID: "lever-early-" + slug, Says: "Put " + lower(m.Name) + " in front", apply: func(s *plan.Session) error {
			for range 4 {
				if err := inFront(s, p, r); err != nil {
					return err
				}
				if len(l.again(s, rule)) == 0 {
					break
				}
			}
			return l.soothe(s)
		}})
	}
	return f
}
