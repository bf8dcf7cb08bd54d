package review

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/plan"
)

// kitLateLimit is from when on a thing is needed late.
var kitLateLimit = Limit{"kit_late", "A thing first needed after this should be announced", "s", 180, 0, 3600, judged}

// kitLateRule: a thing is first needed in the middle of the class, and nothing said before has named it.
var kitLateRule = &Rule{
	Name: "kit-late", Looks: "a thing is first needed in the middle of the class, and neither the session's note nor a note before it names it; a chair and the wall are in the room", Limits: []Limit{kitLateLimit},
	Mends: "say at the start what to have ready", find: findKitLate,
}

func findKitLate(l *look, _ *Rule) []Finding {
	said := strings.ToLower(l.s.Note)
	var things, names []string
	var first plan.Path
	var at clock.Span
	var seen plan.Path
	known := map[string]bool{}
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if s.Row != seen {
			seen = s.Row
			if r := l.s.Row(s.Row); r != nil && r.Note != "" && s.At < l.span(kitLateLimit) {
				said += " " + strings.ToLower(r.Note)
			}
			if r := l.s.Row(s.Row); r != nil && r.IsRest() {
				said += " " + strings.ToLower(r.Rest.Say)
			}
		}
		if !s.Kind.Working() || s.Move == nil {
			continue
		}
		for _, k := range s.Move.Things(s.Level) {
			if known[k] || slices.Contains(stays, k) {
				continue
			}
			known[k] = true
			if s.At < l.span(kitLateLimit) || strings.Contains(said, strings.ToLower(k)) {
				continue
			}
			if things == nil {
				first, at = s.Row, s.At
			}
			things = append(things, k)
			names = append(names, fmt.Sprintf("the %s at %s for %s", k, s.At, s.Move.Name))
		}
	}
	if things == nil {
		return nil
	}
	list := strings.Join(things, ", ")
	return []Finding{{
		Severity: Look, Row: first, At: at, Amount: float64(len(things)), About: "kit " + list, Measured: list + " from " + at.String(), Limit: "announced before",
		Says: fmt.Sprintf("The %s is needed at %s and nobody has been told", things[0], at), Detail: strings.ToUpper(names[0][:1]) + strings.Join(names, "; ")[1:] + ".",
		Mends: []Mend{{ID: "kit-late-say", Says: "Note at the start: have ready " + list, apply: func(s *plan.Session) error {
			return s.SetSessionNote(strings.TrimSpace(s.Note + " Have ready: " + list + "."))
		}}},
	}}
}
