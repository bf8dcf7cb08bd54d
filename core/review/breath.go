package review

import (
	"strings"

	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// breathLimit is the hold that needs a word on the breath.
var breathLimit = Limit{"breath_cue", "Hold that needs a word on the breath", "s", 30, 10, 300, judged}

// breathRule: a long hold with no word on the breath.
var breathRule = &Rule{
	Name: "breath", Looks: "a long hold has no word on the breath", Limits: []Limit{breathLimit}, Mends: "a word in the note",
	find: findBreath, rail: &rail{"breath", breathBands},
}

// breathless tells whether a step is truly held, not done over and over on the clock, for long, and neither the dose, the movement nor the note speaks of the breath.
func (l *look) breathless(s *timeline.Step) bool {
	if s.Move == nil || s.Kind != timeline.Hold && !(s.Kind.Working() && s.Move.Stretch) || s.Reps > 0 || s.Breaths > 0 || s.Move.Breath != "" || s.S < l.span(breathLimit) {
		return false
	}
	r := l.s.Row(s.Row)
	return r != nil && !strings.Contains(strings.ToLower(r.Note), "breath")
}

// breathBands are what is held, and all else that the rule finds.
func breathBands(l *look) (out []Band) {
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		over := l.breathless(s)
		if s.Move == nil || s.Kind != timeline.Hold && !over {
			continue
		}
		b := Band{At: s.At, End: s.End()}
		if over {
			b.Over = s.S.String() + " and no word on the breath"
		}
		out = append(out, b)
	}
	return out
}

func findBreath(l *look, _ *Rule) (out []Finding) {
	seen := map[plan.Path]bool{}
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if seen[s.Row] || !l.breathless(s) {
			continue
		}
		seen[s.Row] = true
		p := s.Row
		out = append(out, Finding{
			Severity: Look, Row: p, At: s.At, Amount: s.S.Seconds(), Measured: s.S.String() + " and no word on the breath", Limit: l.span(breathLimit).String(),
			Says: "Nothing said on the breath in " + l.name(p), Detail: "The breath is never held on long holds.",
			Mends: []Mend{{ID: "breath-" + p.String(), Says: "Note: slow breath, do not hold it", apply: func(s *plan.Session) error {
				r := s.Row(p)
				if r == nil {
					return plan.ErrNoRow
				}
				return s.SetNote(p, strings.TrimSpace(r.Note+" Slow breath, do not hold it."))
			}}},
		})
	}
	return out
}
