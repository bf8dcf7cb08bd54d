package adapt

import (
	"cmp"
	"math"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/ladder"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// candidate is a movement at a level that the mover may do.
type candidate struct {
	m     *movement.Movement // as the level has it
	level int
	words int // of its cares that are left in words
}

// stoodBy are pieces of kit that may come in with a stand-in, as they are at hand everywhere; judgement.
var stoodBy = []string{"chair", "wall"}

// alikeFrom is how much the regions of a stand-in must be those of what it stands in for, as a cosine; judgement.
const alikeFrom = .25

// candidates are all that may stand in for anything, worked out once for a class.
func (w *work) candidates() []candidate {
	if w.cands != nil {
		return w.cands
	}
	w.cands = []candidate{}
	w.s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if m, err := r.Of(w.lib); err == nil && m != nil {
			w.kit = append(w.kit, m.Things(max(1, r.Level))...)
		}
	})
	for _, m := range w.lib.All() {
		if m.Hidden || m.Inline {
			continue
		}
		if _, out := w.m.Out[movement.BaseSlug(m.Slug)]; out {
			continue
		}
		for n := range m.Levels {
			k, ok := w.m.pick(m, n+1, nil)
			if !ok || k.level != n+1 || !m.Suits(n+1, w.s.Audience) || m.At(n+1).Demand > m.At(1).Demand+easedBy && m.Skill(n+1) > 2 {
				continue
			}
			if slices.ContainsFunc(m.Things(n+1), func(t string) bool { return !slices.Contains(w.kit, t) && !slices.Contains(stoodBy, t) }) {
				continue
			}
			w.cands = append(w.cands, candidate{m.As(n + 1), n + 1, len(k.words)})
		}
	}
	return w.cands
}

// far is how unlike a stand-in is to what it stands in for. The first that differs decides, so what comes last is given up first: kit, position, the direction of
// the spine, regions, and purpose last of all. What is in the class already counts as one step further from the regions for each time.
type far struct {
	purpose, region, spine, position, kit int
	words                                 int
	demand                                float64
}

func (a far) compare(b far) int {
	return cmp.Or(cmp.Compare(a.purpose, b.purpose), cmp.Compare(a.region, b.region), cmp.Compare(a.spine, b.spine),
		cmp.Compare(a.position, b.position), cmp.Compare(a.kit, b.kit), cmp.Compare(a.words, b.words), cmp.Compare(a.demand, b.demand))
}

// purposeFar tells how far the purpose of one movement is from another's: 0 the same kind, 1 the same part of a class and a day it serves, 2 the same part of a class,
// 3 another quiet part of it; ok is false beyond.
func purposeFar(a, b *movement.Movement) (n int, ok bool) {
	switch {
	case calm(a) && calm(b):
		return 0, true
	case calm(a) != calm(b) || a.Stretch != b.Stretch:
		return 0, false
	case a.Pattern != "" && a.Pattern == b.Pattern:
		return 0, true
	}
	share := func(as, bs []string) bool {
		return slices.ContainsFunc(as, func(x string) bool { return slices.Contains(bs, x) })
	}
	same := a.Phase == b.Phase || a.Phase == ""
	switch about := share(a.ThemesOf(), b.ThemesOf()); {
	case same && about:
		return 1, true
	case same:
		return 2, true
	case about && a.Phase != "build" && b.Phase != "build": // what is done to arrive will do to settle
		return 3, true
	}
	return 0, false
}

// calm tells whether a movement is there to rest or breathe in.
func calm(m *movement.Movement) bool {
	return m.Rest || m.Pattern == "breathe" || m.Pattern == "rest"
}

// alike is the cosine of what two movements work.
func alike(a, b *movement.Movement) float64 {
	dot, na, nb := 0.0, 0.0, 0.0
	for _, x := range a.Shares() {
		na += x.Weight * x.Weight
		for _, y := range b.Shares() {
			if x.Region == y.Region {
				dot += x.Weight * y.Weight
			}
		}
	}
	for _, y := range b.Shares() {
		nb += y.Weight * y.Weight
	}
	if na == 0 || nb == 0 {
		return 0
	}
	return dot / math.Sqrt(na*nb)
}

func spineFar(a, b *movement.Movement) int {
	both := 0
	for _, d := range a.Spine {
		if b.Bends(d) {
			both++
		}
	}
	return max(len(a.Spine), len(b.Spine)) - both
}

// stand puts another movement in the place of a row, or leaves it out.
func (w *work) stand(d *draft, p plan.Path, r *plan.Row, m *movement.Movement, level int, b *plan.Block, part bool, ch *Change) (*plan.Row, *Change) {
	st := w.states[p]
	if part || st != nil && st.out {
		return w.leave(p, b, ch)
	}
	was := m.Drawn()
	if was == nil || was.Inline {
		was = m
	}
	sides := r.SideRule(m)
	things := m.Things(level)
	near := w.beside(d, p)
	var best *candidate
	var least far
	for i := range w.candidates() {
		c := &w.cands[i]
		base := movement.BaseSlug(c.m.Slug)
		if base == movement.BaseSlug(r.Name()) || slices.Contains(near, base) || st != nil && slices.Contains(st.barred, c.m.Slug) || c.m.At(c.level).Demand > m.At(level).Demand+easedBy {
			continue
		}
		if (sides == movement.RightOnly || sides == movement.LeftOnly) && c.m.Sides != movement.Each {
			continue
		}
		purpose, ok := purposeFar(m, c.m)
		like := alike(m, c.m)
		if !ok || like < alikeFrom && !calm(m) {
			continue
		}
		f := far{purpose: purpose, region: int((1-like)*4) + d.used[base], spine: spineFar(m, c.m), words: c.words, demand: m.At(level).Demand - c.m.At(c.level).Demand}
		if c.m.Posture != m.Posture {
			f.position = 1 + m.Posture.WayTo(c.m.Posture).Steps
		}
		if (sides == movement.Each) != (c.m.Sides == movement.Each) {
			f.kit++ // sides that differ are given up with the kit
		}
		for _, t := range c.m.Things(c.level) {
			if !slices.Contains(things, t) {
				f.kit++
			}
		}
		if best == nil || f.compare(least) < 0 {
			best, least = c, f
		}
	}
	if best == nil {
		return w.leave(p, b, ch)
	}
	now := plan.Row{Movement: best.m.Slug, Level: best.level, Locked: r.Locked, Then: r.Then, Once: r.Once}
	if sides == movement.RightOnly || sides == movement.LeftOnly {
		now.Sides = sides
	}
	if r.OtherSide && best.m.Sides == movement.Each {
		now.OtherSide = true
	}
	if !b.Timed() {
		now.Dose = w.doseFor(best, w.worked[p], b, now.Sides)
		if b.Rule == plan.Chain && best.m.Sides != movement.Each && r.Once == plan.OnceUnsaid {
			now.Once = plan.OnceFirst
		}
	}
	if cares, _ := w.m.cares(best.m, best.level); len(cares) > 0 {
		for _, c := range cares {
			now.AddCue(c.Says)
		}
		ch.Says = now.Cue
	} else {
		ch.Says = ""
	}
	harder := func(n int) bool { _, spared := w.m.cares(best.m, n); return !spared }
	now.TakeLevels(best.m, func(n int) int { return n }, harder)
	d.used[movement.BaseSlug(now.Movement)]++
	ch.Does, ch.Now = Instead, &Now{now.Movement, best.m.Name, best.level}
	return &now, ch
}

// leave leaves a row out. In a circuit by the clock its turn is a rest, so that everybody stays in step.
func (w *work) leave(_ plan.Path, b *plan.Block, ch *Change) (*plan.Row, *Change) {
	ch.Does, ch.Now = Leave, nil
	if !b.Timed() || b.Rule != plan.Rounds {
		return nil, ch
	}
	return &plan.Row{Rest: &plan.Rest{For: b.On, Say: "rest, and breathe"}}, ch
}

// beside are the movements right before and after a row, as planned and as made so far: the same is not done twice running.
func (w *work) beside(d *draft, p plan.Path) (out []string) {
	b := w.s.Block(p)
	for _, k := range []int{p.Row - 1, p.Row + 1} {
		if k >= 1 && k <= len(b.Rows) && !b.Rows[k-1].IsRest() {
			out = append(out, movement.BaseSlug(b.Rows[k-1].Name()))
		}
	}
	if n := len(d.changes); n > 0 && d.changes[n-1].Now != nil && d.changes[n-1].Row.Section == p.Section && d.changes[n-1].Row.Block == p.Block {
		out = append(out, movement.BaseSlug(d.changes[n-1].Now.Movement))
	}
	return out
}

// doseFor is a dose of a stand-in that takes about as long as what it stands in for, within its range.
func (w *work) doseFor(c *candidate, worked clock.Span, b *plan.Block, only movement.Sides) dose.Dose {
	usual := c.m.Dose
	bounds, ok := c.m.Bounds(c.level)
	if !ok || c.m.DoseIsIt || worked <= 0 {
		return oneSided(usual, only)
	}
	if b.Rule == plan.Rounds {
		worked /= clock.Span(max(1, b.Rounds))
	}
	secs := ladder.Seconds(w.lib, c.m, c.level, usual)
	if only != movement.SidesUnsaid && c.m.Sides == movement.Each {
		secs /= 2
	}
	if secs <= 0 {
		return oneSided(usual, only)
	}
	n := int(math.Round(float64(bounds.Usual) * float64(worked) / float64(secs)))
	n = min(max(n, bounds.Min), bounds.Max)
	n = bounds.Min + (n-bounds.Min+bounds.Step/2)/bounds.Step*bounds.Step
	d := movement.WithAmount(usual, min(n, bounds.Max))
	if !d.Sayable() {
		d = usual
	}
	return oneSided(d, only)
}

// oneSided is a dose as it is said of a row that is done on one side only.
func oneSided(d dose.Dose, only movement.Sides) dose.Dose {
	if only != movement.SidesUnsaid {
		d.Per = dose.Unsaid
	}
	return d
}
