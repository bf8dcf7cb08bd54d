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
	Name: "prerequisite", Looks: "a level is hard, and the level before it, or another movement that comes before it, has not been led yet, neither in the classes led nor earlier in this one; from the third led class on, not for able people", Limits: []Limit{prereqLimit},
	Mends: "the level that comes first; none where all levels ask for another movement", find: findPrereq,
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
		if m.At(level).Demand < l.num(prereqLimit) {
			return
		}
		if level <= led+1 {
			if led < level { // what has been led once asks for nothing any more
				out = append(out, l.unmet(p, m, level, here)...)
			}
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
		if l.unsuited(m, first) == nil && (m.At(first).Demand < l.num(prereqLimit) || l.missing(m, first, here) == nil) {
			f.Mends = []Mend{l.easierLevel(p, m, first)}
		}
		out = append(out, f)
	})
	return out
}

// missing is a movement that comes before level n of m and has been led neither earlier here nor in another class.
func (l *look) missing(m *movement.Movement, n int, here map[string]int) *movement.Need {
	for _, need := range m.NeedsAt(n) {
		if max(l.ctx.Led[need.Slug], here[need.Slug]) < need.Level {
			return &need
		}
	}
	return nil
}

// unmet finds the movement that comes before level n of m and has not been led.
func (l *look) unmet(p plan.Path, m *movement.Movement, n int, here map[string]int) []Finding {
	need := l.missing(m, n, here)
	if need == nil {
		return nil
	}
	o, ok := l.lib.Get(need.Slug)
	if !ok {
		return nil
	}
	f := Finding{
		Severity: Look, Row: p, Amount: 1, Measured: fmt.Sprintf("%s, not led to level %d", o.Name, need.Level), Limit: fmt.Sprintf("%s level %d first", o.Name, need.Level),
		Says: fmt.Sprintf("%s before %s has been led", m.Name, o.Name), Detail: fmt.Sprintf("Level %d asks for %s: %s.", n, o.Name, o.At(need.Level).Changes),
	}
	f.At, _, _ = l.tl.RowSpan(p)
	for easier := n - 1; easier >= 1; easier-- {
		if (m.At(easier).Demand < l.num(prereqLimit) || l.missing(m, easier, here) == nil) && l.unsuited(m, easier) == nil {
			f.Mends = []Mend{l.easierLevel(p, m, easier)}
			break
		}
	}
	return []Finding{f}
}

// easierLevel takes a level of m wherever it comes on a higher one.
func (l *look) easierLevel(p plan.Path, m *movement.Movement, level int) Mend {
	slug := movement.BaseSlug(m.Slug)
	return Mend{ID: "prerequisite-" + p.String(), Says: fmt.Sprintf("Take level %d: %s", level, m.At(level).Changes), apply: func(s *plan.Session) (err error) {
		s.Each(func(at plan.Path, _ *plan.Block, r *plan.Row) {
			if movement.BaseSlug(r.Name()) == slug && r.Inline == nil && r.Level > level && err == nil {
				err = s.SetLevel(at, level, l.lib)
			}
		})
		return err
	}}
}
