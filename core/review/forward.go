package review

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// forwardLimit is how much forward bending asks for a backward bend.
var forwardLimit = Limit{"forward", "Forward bending before a backward bend is due", "s", 60, 10, 900, practice}

// forwardRule: forward bending with no backward bend after it.
var forwardRule = &Rule{
	Name: "forward", Looks: "the spine has been bent forward under load, and neither a backward bend nor a lying or rolled ending follows", Limits: []Limit{forwardLimit},
	Mends: "add shoulder bridge or swan behind it",
	find:  findForward,
}

// opensFrom is how long a quiet ending that lets the front open lasts at least; judgement.
const opensFrom = 30 * clock.Second

// opensAtTheEnd tells whether what comes after a time lets the front open: lying long enough on the back or the front with the
// head down, or the rolling with which the classical order ends.
func (l *look) opensAtTheEnd(from clock.Span) bool {
	var lies clock.Span
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if s.At < from || s.Move == nil || !s.Kind.Working() {
			continue
		}
		flat := (s.Posture == movement.Supine || s.Posture == movement.Prone) && !s.Move.Bends(movement.Forward) && !s.Move.Has(s.Level, movement.HeadUp)
		if flat {
			lies += s.S
		}
	}
	return lies >= opensFrom || l.endsClassically()
}

// endsClassically tells whether a class ends as the classical order does: rolling, push-ups, or rolled down standing.
func (l *look) endsClassically() bool {
	if l.s.Style.Order != plan.ClassicalOrder {
		return false
	}
	for i := len(l.tl.Steps) - 1; i >= 0; i-- {
		if s := &l.tl.Steps[i]; s.Move != nil && s.Kind.Working() {
			return s.Move.Has(s.Level, movement.Rolling) || s.Move.Classical >= firstOfTheEnd || s.Posture == movement.Standing
		}
	}
	return false
}

// firstOfTheEnd is the place in the classical order from which its ending is: the seal and what follows it.
const firstOfTheEnd = 30

func findForward(l *look, _ *Rule) []Finding {
	var sum clock.Span
	var last, first plan.Path
	var lastAt clock.Span
	rows := 0
	posture := movement.NoPosture
	var seen plan.Path
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() || s.Move == nil {
			continue
		}
		switch {
		case s.Move.Bends(movement.Backward):
			sum, rows, first = 0, 0, plan.Path{}
		case s.Move.Bends(movement.Forward) && !s.Move.Stretch && (s.Effort > l.num(quietLimit) || s.Move.Has(s.Level, movement.HeadUp)): // an easy chest lift counts too
			if rows == 0 {
				first = s.Row
			}
			if s.Row != seen {
				rows++
				seen = s.Row
			}
			sum += s.S
			last, lastAt, posture = s.Row, s.End(), s.Posture
		}
	}
	if sum <= l.span(forwardLimit) || l.opensAtTheEnd(lastAt) {
		return nil
	}
	f := Finding{
		Severity: Look, Row: last, At: lastAt, Amount: sum.Seconds(), Measured: sum.String(), Limit: l.span(forwardLimit).String(),
		Says:   "No backward bend after bending forward",
		Detail: fmt.Sprintf("%s of forward bending in %s from %s on, and nothing gives it back.", sum, many(rows, "movement"), l.name(first)),
	}
	gives := []string{"swan", "bridge"}
	if posture == movement.Supine {
		gives = []string{"bridge", "swan"}
	}
	for _, slug := range gives {
		_, m, ok := l.row(slug, 0)
		if !ok {
			continue
		}
		f.Mends = append(f.Mends, Mend{
			ID: "forward-" + slug + "-" + last.String(), Says: fmt.Sprintf("Add %s after %s", lower(m.Name), l.name(last)),
			apply: func(s *plan.Session) error {
				return behind(s, last, plan.Row{Movement: slug, Dose: m.Dose})
			},
		})
	}
	return []Finding{f}
}
