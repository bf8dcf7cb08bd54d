package review

import (
	"fmt"
	"strconv"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// leverMost is the demand of leg work against the low back that a class may have.
var leverMost = Limit{"lever", "Demand of leg work against the low back", "of 10", 8, 2, 10, judged}

// leverNewer is how much less beginners and older people are allowed; judgement.
const leverNewer = 2.5

// leverRule: legs levered against the low back further than the level of the class allows. The classical abdominals are what
// an able class has come for, and those who have learnt the classical order.
var leverRule = &Rule{
	Name: "lever", Looks: "leg work against the low back is above the demand; beginners and older people are allowed 2.5 less; the classical abdominals of an able class are left out", Limits: []Limit{leverMost},
	Mends:   "a lower level; dead bug in its place",
	canStop: true, find: findLever, rail: &rail{"low back", leverBands},
}

// newToIt are audiences of whom less is asked.
const newToIt = movement.Beginners | movement.Older

// knowsTheMat tells whether the class is for people who have learnt the classical mat work.
func (l *look) knowsTheMat() bool {
	a := l.s.Audience
	return a.Has(movement.Able) || l.s.Style.Order == plan.ClassicalOrder && (a == 0 || a == movement.Mixed)
}

// leverLimit is the demand of leg work that the level of the class allows.
func (l *look) leverLimit() float64 {
	if l.s.Audience.Has(newToIt) {
		return l.num(leverMost) - leverNewer
	}
	return l.num(leverMost)
}

// levers tells whether legs are levered in a step, and with what demand.
func levers(s *timeline.Step) (demand float64, ok bool) {
	if !s.Kind.Working() || s.Move == nil || !s.Move.Has(s.Level, movement.LegsOut) {
		return 0, false
	}
	return s.Move.At(s.Level).Demand, true
}

// mayLever tells whether a step is one of the classical abdominals, in a class of people who know them.
func (l *look) mayLever(s *timeline.Step) bool { return s.Move.Classical > 0 && l.knowsTheMat() }

func leverBands(l *look) (out []Band) {
	limit := l.leverLimit()
	for _, run := range runsOf(l.tl, movement.LegsOut) {
		most := 0.0
		for _, i := range run.Steps {
			if d, ok := levers(&l.tl.Steps[i]); ok && !l.mayLever(&l.tl.Steps[i]) {
				most = max(most, d)
			}
		}
		b := Band{At: run.At, End: run.End}
		if most > limit {
			b.Over = "legs levered to " + strconv.FormatFloat(most, 'f', 1, 64)
		}
		out = append(out, b)
	}
	return out
}

func findLever(l *look, _ *Rule) (out []Finding) {
	limit := l.leverLimit()
	seen := map[plan.Path]bool{}
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		d, ok := levers(s)
		if !ok || d <= limit || seen[s.Row] || l.mayLever(s) {
			continue
		}
		seen[s.Row] = true
		p, m := s.Row, s.Move
		f := Finding{
			Severity: Stop, Row: p, At: s.At, Amount: d - limit, Measured: fmt.Sprintf("%.1f", d), Limit: fmt.Sprintf("%.1f", limit),
			Says:   m.Name + " levers the low back past the limit",
			Detail: fmt.Sprintf("Level %d, %s: demand %.1f, %s. House limit %.1f for this class.", s.Level, m.At(s.Level).Changes, d, m.At(s.Level).DemandFrom(), limit),
		}
		if !l.s.Audience.Has(newToIt) {
			f.Severity = Look // those who have done it for years know their limit
		}
		for n := s.Level - 1; n >= 1; n-- {
			if m.At(n).Demand <= limit && l.unsuited(m, n) == nil {
				f.Mends = append(f.Mends, Mend{ID: "lever-level-" + p.String(), Says: fmt.Sprintf("Take level %d: %s", n, m.At(n).Changes), apply: func(s *plan.Session) error { return s.SetLevel(p, n, l.lib) }})
				break
			}
		}
		if len(f.Mends) == 0 {
			if r, o, ok := l.row("dead-bug", 1); ok && l.unsuited(o, r.Level) == nil {
				f.Mends = append(f.Mends, Mend{ID: "lever-swap-" + p.String(), Says: lower(o.Name) + " in its place", apply: func(s *plan.Session) error { return swapMovement(s, p, o, r.Level) }})
			}
		}
		out = append(out, f)
	}
	return out
}
