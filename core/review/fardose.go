package review

import (
	"fmt"

	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// farDoseLimit is how much of what its name says a movement is still called by it.
var farDoseLimit = Limit{"far_dose", "Of what its name says, a movement has at least", "%", 60, 10, 100, judged}

// beatsABreath are the beats of one breath of the hundred: five in and five out (common practice).
const beatsABreath = 10

// farDoseRule: a movement that is named for its dose has far less: a hundred of three breaths is thirty.
var farDoseRule = &Rule{
	Name: "far-dose", Looks: "a movement that is named for its dose has far less of it: a hundred of three breaths", Limits: []Limit{farDoseLimit},
	Mends: "the dose that makes it what it is", find: findFarDose,
}

func findFarDose(l *look, _ *Rule) (out []Finding) {
	l.moves(func(p plan.Path, b *plan.Block, r *plan.Row, m *movement.Movement) {
		if !m.DoseIsIt || len(m.Dose.Parts) == 0 || b.On > 0 {
			return
		}
		d := r.DoseOf(m)
		if len(d.Parts) == 0 {
			return
		}
		whole := m.Dose.Count() * beatsABreath
		sets := max(1, d.Sets) * max(1, b.Rounds)
		n := 0
		for _, part := range d.Parts {
			switch part.Kind {
			case dose.Breaths:
				n += part.Count * beatsABreath * sets
			case dose.Reps, dose.Pulses:
				n += part.Count * sets
			default:
				return // on the clock: nobody counts
			}
		}
		if float64(n) >= float64(whole)*l.num(farDoseLimit)/100 {
			return
		}
		f := Finding{
			Severity: Look, Row: p, Amount: float64(whole - n), Measured: fmt.Sprintf("%d beats", n), Limit: fmt.Sprintf("%d beats", whole),
			Says: fmt.Sprintf("%s of %s makes %d", m.Name, d, n), Detail: fmt.Sprintf("Its name promises %d: %s.", whole, m.Dose),
		}
		f.At, _, _ = l.tl.RowSpan(p)
		if r.Right == nil && r.Left == nil {
			f.Mends = []Mend{{ID: "far-dose-" + p.String(), Says: "Make it " + m.Dose.String(), apply: func(s *plan.Session) error {
				return s.SetDose(p, movement.SidesUnsaid, m.Dose)
			}}}
		}
		out = append(out, f)
	})
	return out
}
