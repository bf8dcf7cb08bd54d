package review

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// cautions: something in the class calls for care of what somebody on today's list has to watch. The tool
// says what and offers something else; whoever treats the mover decides.
func cautions(l *look) (out []Finding) {
	var order []movement.Topic
	people := map[movement.Topic][]string{}
	for _, w := range l.ctx.Watch {
		for _, t := range w.Topics {
			if people[t] == nil {
				order = append(order, t)
			}
			people[t] = append(people[t], w.Name)
		}
	}
	for _, t := range order {
		{
			who := strings.Join(people[t], " and ")
			verb := "watches"
			if len(people[t]) > 1 {
				verb = "watch"
			}
			type spot struct {
				p     plan.Path
				level int
				m     *movement.Movement
			}
			var spots []spot
			seen := map[plan.Path]bool{}
			for i := range l.tl.Steps {
				s := &l.tl.Steps[i]
				if s.Kind.Working() && s.Move != nil && !seen[s.Row] && slices.Contains(s.Move.Watched(s.Level), t) {
					seen[s.Row] = true
					spots = append(spots, spot{s.Row, s.Level, s.Move})
				}
			}
			if len(spots) == 0 {
				continue
			}
			var names []string
			for _, s := range spots {
				if !slices.Contains(names, s.m.Name) {
					names = append(names, s.m.Name)
				}
			}
			f := Finding{
				Rule: "caution", Severity: Look, Row: spots[0].p, Amount: float64(len(spots)), About: string(t), Measured: fmt.Sprintf("%d of %d rows", len(spots), l.s.Rows()),
				Limit: "none without a word on it", Source: practice,
				Says:   fmt.Sprintf("%s %s %s", who, verb, t),
				Detail: strings.Join(names, ", ") + ". Say the easier option early; whoever treats them decides.",
			}
			f.At, _, _ = l.tl.RowSpan(f.Row)
			f.Mends = []Mend{{ID: "caution-" + strings.ReplaceAll(string(t), " ", "-"), Says: fmt.Sprintf("Put kinder levels and movements in for %s", t), apply: func(s *plan.Session) error {
				for _, sp := range spots {
					n := sp.level - 1
					for n >= 1 && slices.Contains(sp.m.Watched(n), t) {
						n--
					}
					if n >= 1 {
						if err := s.SetLevel(sp.p, n, l.lib); err != nil {
							return err
						}
						continue
					}
					o, at := l.nearest(sp.m, sp.level, t)
					if o == nil {
						return fmt.Errorf("nothing in the library stands in for %s", sp.m.Name)
					}
					if err := swapMovement(s, sp.p, o, at); err != nil {
						return err
					}
				}
				return l.soothe(s)
			}}}
			out = append(out, f)
		}
	}
	return out
}

// newMovements: more movements that nobody has met than people can learn in one class.
func newMovements(l *look) []Finding {
	if l.ctx.Met == nil || l.s.Talk == plan.FirstLesson {
		return nil
	}
	var fresh []string
	l.s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if r.IsRest {
			return
		}
		if n := l.nameOf(r); !l.ctx.Met[n] && !slices.Contains(fresh, n) {
			fresh = append(fresh, n)
		}
	})
	if len(fresh) <= l.lim.New {
		return nil
	}
	f := Finding{
		Rule: "new", Severity: Look, Amount: float64(len(fresh)), Measured: fmt.Sprintf("%d movements", len(fresh)), Limit: fmt.Sprint(l.lim.New), Source: sourceOf("new"),
		Says:   fmt.Sprintf("%d movements that have not been led before", len(fresh)),
		Detail: strings.Join(fresh[:min(6, len(fresh))], ", ") + ". Repetition is how people learn.",
		Mends: []Mend{{ID: "new-first-lesson", Says: "Explain it as a first lesson", apply: func(s *plan.Session) error {
			s.Talk = plan.FirstLesson
			return l.soothe(s) // more talk keeps hands and head where they are for longer
		}}},
	}
	return []Finding{f}
}

func (l *look) nameOf(r *plan.Row) string {
	if m, err := r.Of(l.lib); err == nil && m != nil {
		return m.Name
	}
	return r.Name()
}
