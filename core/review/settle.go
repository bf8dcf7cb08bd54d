package review

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/dose"
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
	Name: "settle", Looks: "too little quiet work ends the class: stretches and rests are quiet, curls are not; a short class needs an eighth of its length", Limits: []Limit{settleLimit, quietLimit},
	Mends: "end with a rest",
	find:  findSettle,
}

// quiet tells whether a step is quiet work: stretches and rests are, curls are not.
func (l *look) quiet(s *timeline.Step) bool {
	if s.Move == nil {
		return true
	}
	if s.Move.Has(s.Level, movement.HeadUp) || s.Move.Has(s.Level, movement.LegsOut) {
		return false
	}
	return s.Effort <= l.num(quietLimit) || s.Move.Stretch && s.Move.Phase == settles
}

// settles is the part of a class to which its last stretches and rests belong.
const settles = "settle"

func findSettle(l *look, _ *Rule) []Finding {
	if l.endsClassically() { // the order is learnt with its ending
		return nil
	}
	var quiet clock.Span
	var last *timeline.Step
	for i := len(l.tl.Steps) - 1; i >= 0; i-- {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() {
			continue
		}
		if !l.quiet(s) {
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
	switch p := l.tl.Steps[len(l.tl.Steps)-1].Posture; { // where people are: nobody is sent down who stands
	case p == movement.Chair:
		slug = "chair-breathing"
	case !p.OnFloor():
		slug = "standing-breathing"
	case p == movement.Seated:
		slug = "rib-breathing"
	case p == movement.HandsAndKnees || p == movement.ForearmsAndKnees || p == movement.Lunge || p == movement.KneelingSidePlank || p == movement.Prone || p == movement.Plank || p == movement.Forearms || p == movement.DownDog || p == movement.SeatedHeels || p == movement.Kneeling || p == movement.HalfKneeling:
		slug = "childs-pose"
	}
	_, m, ok := l.row(slug, 0)
	if !ok {
		return []Finding{f}
	}
	d := l.longEnough(slug, m, need-quiet)
	f.Mends = []Mend{{ID: "settle-" + slug, Says: fmt.Sprintf("End with %s, %s", lower(m.Name), d), apply: func(s *plan.Session) error {
		n := len(s.Sections)
		if _, err := s.AddSection(n, "Settle"); err != nil {
			return err
		}
		_, err := s.Add(plan.Path{Section: n + 1}, plan.Row{Movement: slug, Dose: d})
		return err
	}}}
	return []Finding{f}
}

// longEnough is the dose of a rest that is as long as a time asks for: its usual one, or as many breaths more. The longer class asks for a little more itself.
func (l *look) longEnough(slug string, m *movement.Movement, need clock.Span) dose.Dose {
	d := m.Dose
	for range 20 {
		c := &plan.Session{Talk: l.s.Talk, Tempo: l.s.Tempo, Style: l.s.Style, Sections: []plan.Section{{Blocks: []plan.Block{{Rows: []plan.Row{{Movement: slug, Dose: d}}}}}}}
		tl, err := timeline.Build(c, l.lib)
		if err != nil {
			return d
		}
		worked := tl.Sums.Work + tl.Sums.Hold
		if worked >= min(need+(worked+tl.Sums.Setup)/8, l.span(settleLimit)) {
			return d
		}
		more, ok := d.WithCount(d.Count() + 1)
		if !ok {
			return d
		}
		d = more
	}
	return d
}
