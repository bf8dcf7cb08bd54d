package review

import (
	"math"
	"slices"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// again looks at a changed session with one rule.
func (l *look) again(s *plan.Session, rule func(*look) []Finding) []Finding {
	tl, err := timeline.Build(s, l.lib)
	if err != nil {
		return nil
	}
	return rule(&look{s: s, tl: tl, lib: l.lib, lim: l.lim, ctx: l.ctx})
}

// all is what every rule finds.
func (l *look) all() (out []Finding) {
	for _, r := range rules() {
		out = append(out, r(l)...)
	}
	return out
}

// inFront puts a row in front of a place without breaking a chain or circuit.
func inFront(s *plan.Session, p plan.Path, r plan.Row) error {
	b := s.Block(p)
	if b == nil || p.Row > len(b.Rows) {
		return plan.ErrNoRow
	}
	if b.Rule == plan.Straight {
		b.Rows = slices.Insert(b.Rows, p.Row-1, r)
		return nil
	}
	sec := &s.Sections[p.Section-1]
	sec.Blocks = slices.Insert(sec.Blocks, p.Block-1, plan.Block{Rule: plan.Straight, Rounds: 1, Rows: []plan.Row{r}})
	return nil
}

// row gives a row of a library movement at its usual dose; ok is false where a studio hides it.
func (l *look) row(slug string, level int) (plan.Row, *movement.Movement, bool) {
	m, ok := l.lib.Get(slug)
	if !ok {
		return plan.Row{}, nil, false
	}
	return plan.Row{Movement: slug, Level: level, Dose: m.Dose}, m, true
}

// standsUp tells whether nothing of the class is on the floor.
func (l *look) standsUp() bool {
	for i := range l.tl.Steps {
		if s := &l.tl.Steps[i]; s.Kind.Working() && s.Posture.OnFloor() {
			return false
		}
	}
	return true
}

// swapMovement puts another movement into a row, at a level, keeping note, lock and sides where they fit.
func swapMovement(s *plan.Session, p plan.Path, m *movement.Movement, level int) error {
	r := s.Row(p)
	if r == nil {
		return plan.ErrNoRow
	}
	was := *r
	*r = plan.Row{Movement: m.Slug, Level: level, Dose: m.Dose, Note: was.Note, Locked: was.Locked}
	return nil
}

// nearest is the movement most like m that does not call for care of a topic, and its level: the same part
// of class, sharing the most of what it works, in the nearest position; judgement.
func (l *look) nearest(m *movement.Movement, level int, avoid movement.Topic) (best *movement.Movement, at int) {
	if best, at = l.nearestOf(m, level, avoid, true); best == nil {
		best, at = l.nearestOf(m, level, avoid, false)
	}
	return best, at
}

func (l *look) nearestOf(m *movement.Movement, level int, avoid movement.Topic, strict bool) (best *movement.Movement, at int) {
	score := math.Inf(-1)
	for _, o := range l.lib.All() {
		if o.Hidden || o.Inline || o == m || strict && (o.Stretch != m.Stretch || m.Phase != "" && o.Phase != m.Phase) {
			continue
		}
		n := 0
		for i := range o.Levels {
			if !slices.Contains(o.Watched(i+1), avoid) && o.At(i+1).Demand <= max(2, m.At(level).Demand) && !(o.Has(i+1, movement.LegsOut) && o.At(i+1).Demand > l.leverLimit()) {
				n = i + 1
			}
		}
		if n == 0 || len(o.Things(n)) > 0 && len(m.Things(level)) == 0 {
			continue
		}
		like := 0.0
		for r, w := range m.Regions {
			like += min(w, o.Regions[r])
		}
		like -= .12 * float64(m.Posture.WayTo(o.Posture).Steps)
		if like > score {
			best, at, score = o, n, like
		}
	}
	return best, at
}
