package review

import (
	"fmt"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// prereqLimit is the demand from which an easier level should have been led before.
var prereqLimit = Limit{"prerequisite", "An easier level is led first from demand", "of 10", 5, 2, 10, practice}

// prereqRule: a hard level of something of which these people have met no easier one. Known from the third led class on.
var prereqRule = &Rule{
	Name: "prerequisite", Looks: "a level is hard, and the level before it has not been led yet, neither in the classes led nor earlier in this one; from the third led class on, not for able people", Limits: []Limit{prereqLimit},
	Mends: "the level that comes first", find: findPrereq,
}

func findPrereq(l *look, _ *Rule) (out []Finding) {
	if l.ctx.Led == nil || l.s.Audience.Has(movement.Able) {
		return nil
	}
	here := map[string]int{}
	l.moves(func(p plan.Path, _ *plan.Block, r *plan.Row, m *movement.Movement) {
		if m.Inline {
			return
		}
		slug, level := movement.BaseSlug(m.Slug), min(max(1, r.Level), len(m.Levels))
		led := max(l.ctx.Led[slug], here[slug])
		here[slug] = max(here[slug], level)
		if level <= led+1 || m.At(level).Demand < l.num(prereqLimit) {
			return
		}
		first := led + 1
		f := Finding{
			Severity: Look, Row: p, Amount: float64(level - led), Measured: fmt.Sprintf("level %d, led to level %d", level, led), Limit: fmt.Sprintf("level %d first", first),
			Says: fmt.Sprintf("%s before level %d has been led", m.Name, level-1), Detail: fmt.Sprintf("Level %d, %s. Level %d comes first: %s.", level, m.At(level).Changes, first, m.At(first).Changes),
		}
		if led == 0 {
			f.Measured = fmt.Sprintf("level %d, never led", level)
		}
		f.At, _, _ = l.tl.RowSpan(p)
		if l.unsuited(m, first) == nil {
			f.Mends = []Mend{{ID: "prerequisite-" + p.String(), Says: fmt.Sprintf("Take level %d: %s", first, m.At(first).Changes), apply: func(s *plan.Session) (err error) {
				s.Each(func(at plan.Path, _ *plan.Block, r *plan.Row) { // wherever it comes again
					if movement.BaseSlug(r.Name()) == slug && r.Inline == nil && r.Level > first && err == nil {
						err = s.SetLevel(at, first, l.lib)
					}
				})
				return err
			}}}
		}
		out = append(out, f)
	})
	return out
}
