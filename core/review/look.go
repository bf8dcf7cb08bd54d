package review

import (
	"context"
	"slices"

	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// look is what every rule sees.
type look struct {
	s   *plan.Session
	tl  *timeline.Timeline
	lib *movement.Library
	lim Limits
	ctx Context

	within context.Context  // nil: nobody can go
	trying bool             // a mend is tried out
	rows   []rowMove        // every row with its movement; nil: not looked up yet
	spared *int             // what spares counts; nil: not counted yet
	topics []movement.Topic // that all of the audience watch; nil: not looked up yet
}

// rowMove is a row with its place and its movement, nil for a rest or where there is none.
type rowMove struct {
	at plan.Path
	b  *plan.Block
	r  *plan.Row
	m  *movement.Movement
}

// moves visits every row that has a movement; they are looked up once.
func (l *look) moves(visit func(plan.Path, *plan.Block, *plan.Row, *movement.Movement)) {
	if l.rows == nil {
		l.rows = make([]rowMove, 0, 64)
		l.s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
			m, err := r.Of(l.lib)
			if err != nil {
				m = nil
			}
			l.rows = append(l.rows, rowMove{p, b, r, m})
		})
	}
	for i := range l.rows {
		if w := &l.rows[i]; w.m != nil {
			visit(w.at, w.b, w.r, w.m)
		}
	}
}

// all is what every rule finds.
func (l *look) all() (out []Finding) {
	for _, r := range rules {
		if l.asker().Err() != nil {
			return nil // said by whoever has asked
		}
		out = append(out, r.on(l)...)
	}
	return out
}

// ended is why a context has ended; nil while it has not.
func ended(ctx context.Context) error {
	if ctx.Err() == nil {
		return nil
	}
	return context.Cause(ctx)
}

// asker is whom the look is for: what it searches for ends when they have gone.
func (l *look) asker() context.Context {
	if l.within == nil {
		return context.Background()
	}
	return l.within
}

// anew is the look at a changed session.
func (l *look) anew(s *plan.Session) (*look, error) {
	tl, err := timeline.Build(s, l.lib)
	if err != nil {
		return nil, err
	}
	return &look{s: s, tl: tl, lib: l.lib, lim: l.lim, ctx: l.ctx, within: l.within}, nil
}

// again looks at a changed session with one rule.
func (l *look) again(s *plan.Session, r *Rule) []Finding {
	now, err := l.anew(s)
	if err != nil {
		return nil
	}
	return r.on(now)
}

// mostSoothed is how many findings that a mend has brought are taken away in turn.
const mostSoothed = 8

// soothe keeps a change from bringing what is worse: a rule that can, relieves what the change has brought it; a run
// that has become too long gets its rest, and what has come to stand first its warm-up.
func (l *look) soothe(s *plan.Session) error {
	before := map[*Rule]int{}
	for _, r := range rules {
		if r.relieve != nil {
			before[r] = len(r.brings(l))
		}
	}
	for range mostSoothed {
		now, err := l.anew(s)
		if err != nil {
			return err
		}
		done := true
		for _, r := range rules {
			if r.relieve == nil {
				continue
			}
			if fs := r.brings(now); len(fs) > before[r] {
				if err := r.relieve(now, fs); err != nil {
					return err
				}
				done = false
				break
			}
		}
		if done {
			return nil
		}
	}
	return nil
}

// brings is what of a rule no mend may bring.
func (r *Rule) brings(l *look) []Finding {
	fs := r.on(l)
	if r.stops || r.spares {
		fs = slices.DeleteFunc(fs, func(f Finding) bool { return f.Severity != Stop })
	}
	return fs
}

// stopsBrought names the rows of findings that stop and that the session as it was did not have: of a run past its
// limit all its rows. Only rules that a mend must not bring are asked, as nothing else that stops comes from doses.
func (l *look) stopsBrought(s *plan.Session, tl *timeline.Timeline) (out []plan.Path) {
	now := &look{s: s, tl: tl, lib: l.lib, lim: l.lim, ctx: l.ctx, within: l.within}
	for _, r := range rules {
		if r.relieve == nil && !(r.spares && l.sparing()) {
			continue
		}
		was := len(r.brings(l))
		if fs := r.brings(now); len(fs) > was {
			for _, f := range fs {
				out = append(out, now.rowsFrom(f)...)
			}
		}
	}
	return out
}

// rowsFrom are the rows of what is done during a finding's run; its row alone where it has none.
func (l *look) rowsFrom(f Finding) (out []plan.Path) {
	end := max(f.end, f.At)
	for i := range l.tl.Steps {
		if s := &l.tl.Steps[i]; s.Kind.Working() && s.At >= f.At && s.At < end {
			out = append(out, s.Row)
		}
	}
	return append(out, f.Row)
}

// name is what a row is called.
func (l *look) name(p plan.Path) string {
	r := l.s.Row(p)
	if r == nil {
		return "nothing"
	}
	return l.nameOf(r)
}

func (l *look) nameOf(r *plan.Row) string {
	if m, err := r.Of(l.lib); err == nil && m != nil {
		return m.Name
	}
	return r.Name()
}

// row gives a row of a library movement at its usual dose; ok is false where a studio hides it.
func (l *look) row(slug string, level int) (plan.Row, *movement.Movement, bool) {
	m, ok := l.lib.Get(slug)
	if !ok || m.Hidden {
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

func lower(s string) string {
	if len(s) > 1 && s[0] >= 'A' && s[0] <= 'Z' && (s[1] < 'A' || s[1] > 'Z') {
		return string(s[0]+32) + s[1:]
	}
	return s
}

// behind puts a row after a place without breaking a chain or circuit: behind the row in a straight block, else at the
// start of what follows its block.
func behind(s *plan.Session, p plan.Path, r plan.Row) error {
	b := s.Block(p)
	if b == nil {
		return plan.ErrNoRow
	}
	if b.Rule == plan.Straight {
		_, err := s.Add(p, r)
		return err
	}
	sec := &s.Sections[p.Section-1]
	if p.Block < len(sec.Blocks) && sec.Blocks[p.Block].Rule == plan.Straight {
		nb := &sec.Blocks[p.Block]
		nb.Rows = slices.Insert(nb.Rows, 0, r)
		return nil
	}
	sec.Blocks = slices.Insert(sec.Blocks, p.Block, plan.Block{Rule: plan.Straight, Rounds: 1, Rows: []plan.Row{r}})
	return nil
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

// swapMovement puts another movement into a row, at a level, keeping note and lock.
func swapMovement(s *plan.Session, p plan.Path, m *movement.Movement, level int) error {
	r := s.Row(p)
	if r == nil {
		return plan.ErrNoRow
	}
	was := *r
	*r = plan.Row{Movement: m.Slug, Level: level, Dose: m.Dose, Note: was.Note, Locked: was.Locked}
	return nil
}

// changeDoses changes the dose of a row, and what its sides say of their own.
func changeDoses(s *plan.Session, lib *movement.Library, p plan.Path, to func(dose.Dose) dose.Dose) error {
	r := s.Row(p)
	if r == nil {
		return plan.ErrNoRow
	}
	m, err := r.Of(lib)
	if err != nil || m == nil {
		return plan.ErrNoRow
	}
	r.Dose = to(r.DoseOf(m))
	for _, o := range []**plan.Override{&r.Right, &r.Left} {
		if *o != nil && !(*o).Dose.IsZero() {
			own := **o
			own.Dose = to(own.Dose)
			*o = &own
		}
	}
	return r.Contradicts()
}

// EasierOffered lists the levels easier than the row's that are said aloud: those it names, or else the next.
func EasierOffered(r *plan.Row, m *movement.Movement) (out []int) {
	level := max(1, r.Level)
	if r.Options == nil {
		if level > 1 {
			return []int{level - 1}
		}
		return nil
	}
	for _, n := range r.Options {
		if n < level && n >= 1 && n <= len(m.Levels) {
			out = append(out, n)
		}
	}
	return out
}

// HarderOffered lists the levels harder than the row's that are said aloud.
func HarderOffered(r *plan.Row, m *movement.Movement) (out []int) {
	level := max(1, r.Level)
	if r.Options == nil {
		if level < len(m.Levels) {
			return []int{level + 1}
		}
		return nil
	}
	for _, n := range r.Options {
		if n > level && n <= len(m.Levels) {
			out = append(out, n)
		}
	}
	return out
}

// Stops takes the look for what stops alone, without mends, the rows of a run that is past its limit beside each. A context that ends gives half a look: ask it afterwards.
func Stops(ctx context.Context, s *plan.Session, tl *timeline.Timeline, lib *movement.Library, lim Limits) (out []Finding) {
	l := &look{s: s, tl: tl, lib: lib, lim: lim, within: ctx}
	for _, r := range rules {
		if !r.stops && !r.spares && !r.canStop {
			continue
		}
		for _, f := range r.on(l) {
			if f.Severity == Stop {
				f.Mends, f.Rows = nil, l.rowsFrom(f)
				out = append(out, f)
			}
		}
	}
	return out
}
