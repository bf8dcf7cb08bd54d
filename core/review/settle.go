package review

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// settleLimit is how much quiet work ends a class, quietLimit up to which effort work is quiet.
var (
	settleLimit = Limit{"settle", "Quiet work at the end", "s", 45, 0, 600, judged}
	quietLimit  = Limit{"quiet_to", "Work counts as quiet up to effort", "of 10", 2, 0, 5, judged}
)

// settleRule: the class ends in the middle of the work.
var settleRule = &Rule{
	Name: "settle", Looks: "too little quiet work ends the class; a short class needs an eighth of its length", Limits: []Limit{settleLimit, quietLimit},
	Mends: "end with a rest",
	find:  findSettle,
}

func findSettle(l *look, _ *Rule) []Finding {
	var quiet clock.Span
	var last *timeline.Step
	for i := len(l.tl.Steps) - 1; i >= 0; i-- {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() {
			continue
		}
		if s.Effort > l.num(quietLimit) {
			last = s
			break
		}
		quiet += s.S
	}
	need := min(l.span(settleLimit), l.tl.Total/8)
	if last == nil || quiet >= need {
		return nil
	}
	f := Finding{
		Severity: Look, Row: last.Row, At: last.At, Amount: (need - quiet).Seconds(), Measured: quiet.String(), Limit: need.String(),
		Says:   "Ends without settling",
		Detail: fmt.Sprintf("%s of quiet work at the end, after %s. House limit %s.", quiet, l.name(last.Row), need),
	}
	slug := "constructive-rest"
	if p := l.tl.Steps[len(l.tl.Steps)-1].Posture; p == movement.HandsAndKnees || p == movement.Prone || p == movement.Plank || p == movement.Forearms || p == movement.DownDog {
		slug = "childs-pose"
	}
	_, m, ok := l.row(slug, 0)
	if !ok {
		return []Finding{f}
	}
	f.Mends = []Mend{{ID: "settle-" + slug, Says: fmt.Sprintf("End with %s, %s", lower(m.Name), m.Dose), apply: func(s *plan.Session) error {
		n := len(s.Sections)
		if _, err := s.AddSection(n, "Settle"); err != nil {
			return err
		}
		_, err := s.Add(plan.Path{Section: n + 1}, plan.Row{Movement: slug, Dose: m.Dose})
		return err
	}}}
	return []Finding{f}
}
