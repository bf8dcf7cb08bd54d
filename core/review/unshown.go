package review

import (
	"fmt"
	"slices"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// unshownFrom is how many levels from the one that is shown an option is one that words alone do not tell; judgement.
const unshownFrom = 2

// unshownRule: a level is offered that is far from the one shown, and nobody shows it in the class nor says what it is.
var unshownRule = &Rule{
	Name: "unshown", Looks: "a level is offered two or more from the one that is shown; it stands nowhere else in the class, and no note tells it", Fixed: "the next level, or one that is shown", Source: judged,
	Mends: "do not offer it; show it", find: findUnshown,
}

func findUnshown(l *look, _ *Rule) (out []Finding) {
	offers := false
	l.moves(func(_ plan.Path, _ *plan.Block, r *plan.Row, _ *movement.Movement) {
		offers = offers || len(r.Options) > 0
	})
	if !offers {
		return nil
	}
	shown := map[string]bool{}
	key := func(slug string, n int) string { return fmt.Sprintf("%s %d", movement.BaseSlug(slug), n) }
	l.moves(func(_ plan.Path, _ *plan.Block, r *plan.Row, _ *movement.Movement) {
		shown[key(r.Name(), max(1, r.Level))] = true
		if r.Demo > 0 {
			shown[key(r.Name(), r.Demo)] = true
		}
	})
	l.moves(func(p plan.Path, _ *plan.Block, r *plan.Row, m *movement.Movement) {
		if len(r.Options) == 0 || r.Note != "" {
			return
		}
		from := max(1, r.Level)
		if r.Demo > 0 {
			from = r.Demo
		}
		for _, n := range r.Options {
			apart := max(n-from, from-n)
			if n < 1 || n > len(m.Levels) || apart < unshownFrom || shown[key(r.Name(), n)] || slices.Contains(r.Options, (n+from)/2) && apart == unshownFrom {
				continue
			}
			f := Finding{
				Severity: Look, Row: p, Amount: float64(apart), About: fmt.Sprintf("%s level %d", movement.BaseSlug(r.Name()), n), Measured: fmt.Sprintf("level %d offered, level %d shown", n, from), Limit: "the next level, or one that is shown",
				Says: fmt.Sprintf("Nobody shows level %d of %s", n, m.Name), Detail: fmt.Sprintf("%s is far from what is shown, and words alone do not tell it.", m.At(n).Changes),
			}
			f.At, _, _ = l.tl.RowSpan(p)
			f.Mends = []Mend{
				{ID: fmt.Sprintf("unshown-drop-%d-%s", n, p), Says: fmt.Sprintf("Do not offer level %d", n), apply: func(s *plan.Session) error {
					row := s.Row(p)
					if row == nil {
						return plan.ErrNoRow
					}
					row.Options = slices.DeleteFunc(append([]int{}, row.Options...), func(o int) bool { return o == n })
					return nil
				}},
				{ID: fmt.Sprintf("unshown-say-%d-%s", n, p), Says: fmt.Sprintf("Say what it is: %s", m.At(n).Changes), apply: func(s *plan.Session) error {
					return addNote(s, p, fmt.Sprintf("Level %d: %s.", n, m.At(n).Changes))
				}},
			}
			out = append(out, f)
			return
		}
	})
	return out
}
