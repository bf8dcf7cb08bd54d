package review

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/plan"
)

// newLimit is how many movements that nobody has met people can learn in one class.
var newLimit = Limit{"new", "Movements nobody has met", "in a class", 8, 1, 30, judged}

// LeastRuns is how many classes must have been led before "not led before" means anything; judgement.
const LeastRuns = 3

// newRule: more movements that nobody has met than people can learn in one class.
var newRule = &Rule{
	Name: "new", Looks: "more movements have not been led before than people learn in one class; from the third led class on", Limits: []Limit{newLimit},
	Mends: "explain it as a first lesson",
	find:  findNew,
}

func findNew(l *look, _ *Rule) []Finding {
	if l.ctx.Met == nil || l.s.Talk == plan.FirstLesson {
		return nil
	}
	var fresh []string
	l.s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if r.IsRest() {
			return
		}
		if n := l.nameOf(r); !l.ctx.Met[n] && !slices.Contains(fresh, n) {
			fresh = append(fresh, n)
		}
	})
	if len(fresh) <= l.count(newLimit) {
		return nil
	}
	f := Finding{
		Severity: Look, Amount: float64(len(fresh)), Measured: fmt.Sprintf("%d movements", len(fresh)), Limit: fmt.Sprint(l.count(newLimit)),
		Says:   fmt.Sprintf("%d movements that have not been led before", len(fresh)),
		Detail: strings.Join(fresh[:min(6, len(fresh))], ", ") + ". Repetition is how people learn.",
		Mends: []Mend{{ID: "new-first-lesson", Says: "Explain it as a first lesson", apply: func(s *plan.Session) error {
			s.Talk = plan.FirstLesson
			return nil
		}}},
	}
	return []Finding{f}
}
