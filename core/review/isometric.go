package review

import (
	"fmt"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// isometricLimit is how long held work may last for a mixed class.
var isometricLimit = Limit{"isometric", "Longest hold of work in a mixed class", "s", 60, 10, 600, practice}

// Those from whom less is asked hold half as long, able people twice; held work counts from this demand. Judgement: a plank
// is held 15 to 30 s (common practice).
const (
	isometricLess = .5
	isometricMore = 2
	isometricFrom = 3
)

// isometricRule: held work too long for the audience. Balance and stretches are not meant.
var isometricRule = &Rule{
	Name: "isometric", Looks: "held work, as a plank or a wall sit, lasts too long for the audience: half for beginners, older people, those who expect or have given birth, twice for able ones",
	Limits: []Limit{isometricLimit}, Mends: "a shorter hold; sets with a rest between", find: findIsometric, spares: true,
}

// asksLess are audiences of whom less held work is asked.
const asksLess = newToIt | movement.AnyExpecting | movement.SinceBirth | movement.LowBone

func (l *look) isometricMost() clock.Span {
	switch a := l.s.Audience; {
	case a.Has(asksLess):
		return l.span(isometricLimit).Times(isometricLess)
	case a.Has(movement.Able) && !a.Has(movement.Mixed):
		return l.span(isometricLimit).Times(isometricMore)
	}
	return l.span(isometricLimit)
}

// heldWork tells whether a level is work that is held by its nature.
func heldWork(m *movement.Movement, level int) bool {
	return !m.Inline && m.Regions["balance"] < balanceAsks && len(m.Dose.Parts) > 0 && m.Dose.Parts[0].Kind == dose.Hold && (!m.Stretch || m.Phase == worksIn) && m.At(level).Demand >= isometricFrom
}

func findIsometric(l *look, _ *Rule) (out []Finding) {
	most := l.isometricMost()
	seen := map[plan.Path]bool{}
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if s.Move == nil || !s.Kind.Working() || s.Reps > 0 || seen[s.Row] || s.S <= most || !heldWork(s.Move, s.Level) {
			continue
		}
		seen[s.Row] = true
		p := s.Row
		f := Finding{
			Severity: Look, Row: p, At: s.At, Amount: s.S.Seconds(), Measured: s.S.String(), Limit: most.String(),
			Says: fmt.Sprintf("%s held for %s", s.Move.Name, s.S), Detail: fmt.Sprintf("House limit %s for this class. The breath is held and the form goes before people say so.", most),
		}
		if s.S > 2*most {
			f.Severity = Stop
		}
		r := l.s.Row(p)
		five := 5 * clock.Second
		to := max(five, most/five*five)
		if b := l.s.Block(p); b.On > most {
			f.Mends = []Mend{{ID: "isometric-on-" + p.String(), Says: fmt.Sprintf("Make it %s on", to.Said()), apply: func(s *plan.Session) error {
				b := s.Block(p)
				if b == nil {
					return plan.ErrNoRow
				}
				b.On = to
				return nil
			}}}
			out = append(out, f)
			continue
		}
		shorter := func(d dose.Dose) dose.Dose {
			d.Parts = slices.Clone(d.Parts)
			for i := range d.Parts {
				if d.Parts[i].Span > most {
					d.Parts[i].SetSpan(to)
				}
			}
			return d
		}
		f.Mends = []Mend{{ID: "isometric-" + p.String(), Says: "Hold " + to.Said(), apply: func(s *plan.Session) error {
			return changeDoses(s, l.lib, p, shorter)
		}}}
		if d := r.DoseOf(s.Move); r.Right == nil && r.Left == nil && len(d.Parts) == 1 && d.Sets <= 1 {
			if n := int((d.Parts[0].Span + to - 1) / to); n > 1 && n <= 4 {
				f.Mends = append(f.Mends, Mend{ID: "isometric-sets-" + p.String(), Says: fmt.Sprintf("Make it %d x %s with 20 s between", n, to.Said()), apply: func(s *plan.Session) error {
					nd := shorter(d)
					nd.Sets, nd.Rest = n, 20*clock.Second
					return s.SetDose(p, movement.SidesUnsaid, nd)
				}})
			}
		}
		out = append(out, f)
	}
	return out
}
