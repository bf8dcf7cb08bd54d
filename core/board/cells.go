package board

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/ladder"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

// scoped lists the days, from 0, of a scope that have a movement; the day itself must.
func (w *With) scoped(s *plan.Series, slug string, day, to plan.Number, scope Scope) (out []int, err error) {
	i, err := dayAt(s, day)
	if err != nil {
		return nil, err
	}
	from, last := i, i
	switch scope {
	case ThisDay:
	case FromHere:
		last = len(s.Days) - 1
	case EveryDay:
		from, last = 0, len(s.Days)-1
	case WholeSpan:
		if last, err = dayAt(s, to); err != nil {
			return nil, err
		}
		if last < from {
			from, last = last, from
		}
	default:
		return nil, fmt.Errorf("%q: expected this day, from here on or every day", string(scope))
	}
	for k := from; k <= last; k++ {
		if has(w.class(&s.Days[k]), slug) {
			if s.Days[k].Pin.Day && k != i {
				continue // a pinned day stays; the day one stands on is meant
			}
			out = append(out, k)
		}
	}
	if len(out) == 0 {
		return nil, errors.New("no day there has it: add it first")
	}
	return out, nil
}

// onDays says on which days something was done, from 0.
func onDays(days []int) string {
	ns := make([]int, len(days))
	for i, d := range days {
		ns[i] = d + 1
	}
	return saidDays(ns)
}

// Paint gives a movement a level and a dose on a day, along a row of days, from here on or on every day; days that do not have it stay. What is not said stays.
type Paint struct {
	With
	Movement string      `form:"movement"`
	Day      plan.Number `form:"day,parser=encoding.TextUnmarshaler"`
	To       plan.Number `form:"to,parser=encoding.TextUnmarshaler"` // with WholeSpan
	Scope    Scope       `form:"scope"`
	Level    plan.Number `form:"level,parser=encoding.TextUnmarshaler"`
	Dose     string      `form:"dose"`
	Rung     plan.Number `form:"rung,parser=encoding.TextUnmarshaler"` // or a rung of its ladder, from 1
}

// Do paints it.
func (c *Paint) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	m, err := known(lib, c.Movement)
	if err != nil {
		return plan.Done{}, err
	}
	slug := movement.BaseSlug(m.Slug)
	level, said, to := c.Level, dose.Dose{}, slug
	if c.Dose != "" {
		if said, err = dose.Parse(c.Dose); err != nil {
			return plan.Done{}, err
		}
	}
	if c.Rung.Said {
		ld := s.Ladder(slug)
		if ld == nil || c.Rung.N < 1 || c.Rung.N > len(ld.Steps) {
			return plan.Done{}, fmt.Errorf("%s has no rung %d", m.Name, c.Rung.N)
		}
		st := ld.Steps[c.Rung.N-1]
		to, level, said = ld.Of(c.Rung.N-1), plan.Number{Said: true, N: st.Level}, st.Dose
		if m, err = known(lib, to); err != nil {
			return plan.Done{}, err
		}
	}
	if level.Said && (level.N < 1 || level.N > len(m.Levels)) {
		return plan.Done{}, fmt.Errorf("%s has %d level%s", m.Name, len(m.Levels), map[bool]string{true: "s"}[len(m.Levels) > 1])
	}
	if !level.Said && said.IsZero() {
		return plan.Done{}, errors.New("say a level or a dose")
	}
	days, err := c.scoped(s, slug, c.Day, c.To, c.Scope)
	if err != nil {
		return plan.Done{}, err
	}
	for _, i := range days {
		class, err := c.own(s, i)
		if err != nil {
			return plan.Done{}, err
		}
		stays := ""
		class.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
			if !isOf(r, slug) {
				return
			}
			if !said.IsZero() && b.On > 0 {
				stays = fmt.Sprintf("day %d: %s stands in a circuit, whose clock gives its dose", i+1, m.Name)
				return
			}
			r.Movement, r.Right, r.Left = m.Slug, nil, nil
			if level.Said {
				r.Level = level.N
				if said.IsZero() && (to != slug || r.Dose.IsZero()) {
					r.Dose = dose.Dose{}
				}
			}
			if !said.IsZero() {
				r.Dose = said
			}
			r.Options = slices.DeleteFunc(slices.Clone(r.Options), func(n int) bool { return n > len(m.Levels) })
			if r.Demo > len(m.Levels) {
				r.Demo = 0
			}
		})
		if stays != "" {
			return plan.Done{}, errors.New(stays)
		}
	}
	says := m.Name
	if level.Said && len(m.Levels) > 1 {
		says += fmt.Sprintf(", level %d", level.N)
	}
	if !said.IsZero() {
		says += ", " + said.String()
	}
	return plan.Done{Says: says + " on " + onDays(days)}, nil
}

// TakeOut takes a movement out of a day's class, of the later ones too, or of all; a class keeps at least one row.
type TakeOut struct {
	With
	Movement string      `form:"movement"`
	Day      plan.Number `form:"day,parser=encoding.TextUnmarshaler"`
	To       plan.Number `form:"to,parser=encoding.TextUnmarshaler"`
	Scope    Scope       `form:"scope"`
}

// Do takes it out.
func (c *TakeOut) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	slug := movement.BaseSlug(c.Movement) // it may be gone from the library
	if slug == "" {
		return plan.Done{}, errNoMovement
	}
	days, err := c.scoped(s, slug, c.Day, c.To, c.Scope)
	if err != nil {
		return plan.Done{}, err
	}
	for _, i := range days {
		class, err := c.own(s, i)
		if err != nil {
			return plan.Done{}, err
		}
		left := lay.Without(class, slug)
		if left.Rows() == 0 {
			return plan.Done{}, fmt.Errorf("day %d would have nothing left: clear the day instead", i+1)
		}
		d := &s.Days[i]
		d.Session = left
		realign(d, class, left, "")
		d.Pinned = slices.DeleteFunc(slices.Clone(d.Pinned), func(p string) bool { return movement.BaseSlug(p) == slug })
	}
	if !slices.ContainsFunc(s.Days, func(d plan.Day) bool { return has(c.class(&d), slug) }) {
		s.Ladders = slices.DeleteFunc(slices.Clone(s.Ladders), func(l plan.Ladder) bool { return movement.BaseSlug(l.Movement) == slug && len(l.Movements()) == 1 })
	}
	return plan.Done{Says: "Take out " + nameOf(lib, slug) + " on " + onDays(days)}, nil
}

// AddThread adds a movement the way it is said, with its days: "side plank hold 20 s each side on 2, 5, 8 climbing". It comes into the part of each
// class where it belongs; climbing, it goes up its ladder from the dose that is said.
type AddThread struct {
	With
	Line string `form:"line"`
}

// Do adds it.
func (c *AddThread) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	words, on, climbs, climbing := partThread(c.Line)
	row, err := plan.LineIn(words, lib, plan.Style{})
	if err != nil {
		return plan.Done{}, err
	}
	if row.IsRest() || row.Inline != nil {
		return plan.Done{}, errors.New("expected a movement of the library, with its days: side plank hold 20 s each side on 2, 5, 8 climbing")
	}
	m, err := known(lib, row.Movement)
	if err != nil {
		return plan.Done{}, err
	}
	slug := movement.BaseSlug(m.Slug)
	if on == "" {
		return plan.Done{}, fmt.Errorf("on which days? say: %s on 2, 5 and 8, or every 3rd day", words)
	}
	days, err := readDays(on, len(s.Days))
	if err != nil {
		return plan.Done{}, err
	}
	listed := strings.Contains(strings.ToLower(on), "every") || strings.Contains(strings.ToLower(on), "from")
	climb := plan.Climb{When: plan.Never}
	if climbing {
		climb = plan.Climb{When: plan.EveryTime, Times: 1}
		if climbs != "" {
			if err := climb.UnmarshalText([]byte(climbs)); err != nil {
				return plan.Done{}, err
			}
		}
	}
	if s.Ladder(slug) != nil {
		return plan.Done{}, fmt.Errorf("%s is on the board already: paint its row, or take it out first", m.Name)
	}
	rungs := c.rungsFrom(s, lib, m, row, climbing)
	l := ladder.Ladder{Movement: slug, Rungs: rungs}
	var did []int
	n, first := 0, -1
	for _, day := range days {
		d := &s.Days[day-1]
		if listed && (d.Rest || d.Empty() || d.Pin.Day) { // every day means every class
			continue
		}
		if d.Pin.Day {
			return plan.Done{}, fmt.Errorf("day %d is pinned: take the pin out first", day)
		}
		class, err := c.own(s, day-1)
		if err != nil {
			return plan.Done{}, err
		}
		if first < 0 {
			first = day
		}
		r := row
		at := l.At(0, ladder.Gone{Goes: n, Days: day - first, Weeks: (day - first) / 7}, climb)
		if d.Easier() {
			if easy, ok := l.Easy(lib, at); ok {
				at = easy
			}
		} else {
			n++
		}
		r.Level, r.Dose = rungs[at].Level, rungs[at].Dose
		if has(class, slug) { // where it stands already it takes the new dose
			class.Each(func(_ plan.Path, b *plan.Block, old *plan.Row) {
				if isOf(old, slug) && b.On == 0 {
					old.Level, old.Dose = r.Level, r.Dose
				}
			})
		} else {
			was := class.Clone()
			lay.PutIn(class, m, r)
			realign(d, was, class, "added as you said")
		}
		did = append(did, day-1)
	}
	if len(did) == 0 {
		return plan.Done{}, errors.New("none of these days has a class")
	}
	ld := plan.Ladder{Movement: slug, Climb: climb, Because: "added as you said"}
	for _, g := range rungs {
		ld.Steps = append(ld.Steps, plan.Rung{Level: g.Level, Dose: g.Dose})
	}
	s.Ladders = append(slices.Clone(s.Ladders), ld)
	return plan.Done{Says: fmt.Sprintf("Add %s on %s", m.Name, onDays(did))}, nil
}

// realign keeps the reasons of a day beside its rows after its class has got or lost some: each row has the reason it had, new ones have one of their own.
func realign(d *plan.Day, was, now *plan.Session, added string) {
	if len(d.Rows) == 0 {
		return
	}
	left := map[string][]string{}
	i := 0
	was.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if i < len(d.Rows) {
			left[r.Name()] = append(left[r.Name()], d.Rows[i].Because)
		}
		i++
	})
	var out []plan.Why
	now.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		because := added
		if rs := left[r.Name()]; len(rs) > 0 {
			because, left[r.Name()] = rs[0], rs[1:]
		}
		out = append(out, plan.Why{Movement: r.Name(), Because: because})
	})
	d.Rows = out
}

// rungsFrom is a ladder that begins with what was said, and goes on above it.
func (w *With) rungsFrom(s *plan.Series, lib *movement.Library, m *movement.Movement, row plan.Row, climbing bool) []ladder.Rung {
	first := ladder.RungOf(lib, m, max(1, row.Level), row.Dose)
	out := []ladder.Rung{first}
	if !climbing {
		return out
	}
	terms := ladder.Terms{}
	if b, err := lay.BriefOf(lib, s); err == nil {
		terms = lay.TermsOf(b)
	}
	_, unit, _ := movement.Amount(first.Dose)
	for _, r := range ladder.Of(lib, m, terms).Rungs {
		_, u, _ := movement.Amount(r.Dose)
		if r.Level > first.Level || r.Level == first.Level && u == unit && r.Amount > first.Amount {
			if r.Level == first.Level { // said as the teacher says it, with pulses and sides
				r = ladder.RungOf(lib, m, r.Level, movement.WithAmount(first.Dose, r.Amount))
			}
			out = append(out, r)
		}
	}
	return out
}

// SetClimb says when a movement takes its next rung, and how it climbs then; its later rows follow.
type SetClimb struct {
	With
	Movement string     `form:"movement"`
	Climb    plan.Climb `form:"climb,parser=encoding.TextUnmarshaler"`
}

// Do says it.
func (c *SetClimb) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	i := slices.IndexFunc(s.Ladders, func(l plan.Ladder) bool { return slices.Contains(l.Movements(), movement.BaseSlug(c.Movement)) })
	if i < 0 {
		return plan.Done{}, errors.New("that movement has no ladder here")
	}
	if c.Climb.IsZero() {
		return plan.Done{}, errors.New("when? every time, every 2nd time, every day, every week, when ready or never")
	}
	s.Ladders = slices.Clone(s.Ladders)
	s.Ladders[i].Climb = c.Climb
	if err := reclimb(&c.With, s, i, lib); err != nil {
		return plan.Done{}, err
	}
	return plan.Done{Says: nameOf(lib, s.Ladders[i].Movement) + " climbs " + c.Climb.String()}, nil
}

// reclimb puts the rows of a thread on the rungs that its climb gives them, from the rung of its first go.
func reclimb(w *With, s *plan.Series, at int, lib *movement.Library) error {
	ld := &s.Ladders[at]
	l := ladder.Read(lib, ld)
	from, n, first := -1, 0, -1
	for i := range s.Days {
		d := &s.Days[i]
		class := w.class(d)
		there := false
		if class != nil {
			class.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
				if k := l.Find(r.Movement, r.Level, r.Dose); b.On == 0 && k >= 0 {
					there = true
					if from < 0 {
						from, first = k, i
					}
				}
			})
		}
		if !there {
			continue
		}
		to := l.At(from, ladder.Gone{Goes: n, Days: i - first, Weeks: (i - first) / 7}, ld.Climb)
		if d.Easier() && i != first {
			if easy, ok := l.Easy(lib, to); ok {
				to = easy
			}
		} else {
			n++
		}
		if d.Pin.Day || slices.ContainsFunc(d.Pinned, func(p string) bool { return slices.Contains(ld.Movements(), movement.BaseSlug(p)) }) {
			continue
		}
		class, err := w.own(s, i)
		if err != nil {
			return err
		}
		class.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
			if b.On == 0 && l.Find(r.Movement, r.Level, r.Dose) >= 0 {
				r.Movement, r.Level, r.Dose = l.Rungs[to].Movement, l.Rungs[to].Level, l.Rungs[to].Dose
			}
		})
	}
	return nil
}

// smooth keeps what is learned from rising more than one rung from one go to the next, after days have been taken out or put between, and fits the days that
// it changed.
func smooth(w *With, s *plan.Series, lib *movement.Library) error {
	for i := range s.Ladders {
		ld := &s.Ladders[i]
		if ld.Pinned {
			continue
		}
		l := ladder.Read(lib, ld)
		before := -1
		for k := range s.Days {
			d := &s.Days[k]
			if d.Session == nil {
				continue
			}
			at := -1
			d.Session.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
				if f := l.Find(r.Movement, r.Level, r.Dose); b.On == 0 && f >= 0 && at < 0 {
					at = f
				}
			})
			if at < 0 || d.Easier() {
				continue
			}
			pinned := d.Pin.Day || slices.ContainsFunc(d.Pinned, func(p string) bool { return slices.Contains(ld.Movements(), movement.BaseSlug(p)) })
			if to := before + 1; before >= 0 && at > to && !pinned {
				class := d.Session.Clone()
				class.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
					if b.On == 0 && l.Find(r.Movement, r.Level, r.Dose) == at {
						r.Movement, r.Level, r.Dose = l.Rungs[to].Movement, l.Rungs[to].Level, l.Rungs[to].Dose
					}
				})
				fitted, err := w.fit(class, lib)
				if err != nil {
					return err
				}
				d.Session, at = fitted, to
			}
			before = max(before, at)
		}
	}
	return nil
}

// fit brings a class to the length it promises, where it promises one.
func (w *With) fit(class *plan.Session, lib *movement.Library) (*plan.Session, error) {
	if class.Target == 0 {
		return class, nil
	}
	f, err := review.FitTo(w.ctx(), class, lib, class.ToMove(), w.Limits)
	if err != nil {
		return nil, err
	}
	f.Session.Target = class.Target
	return f.Session, nil
}

// FitDays brings days to the minutes they promise: what is learned, pinned or locked keeps its dose.
type FitDays struct {
	With
	On string `form:"on"` // days as they are said; nothing: all
}

// Do brings them there.
func (c *FitDays) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	on := c.On
	if strings.TrimSpace(on) == "" {
		on = "every day"
	}
	days, err := readDays(on, len(s.Days))
	if err != nil {
		return plan.Done{}, err
	}
	var did []int
	var far []string
	for _, n := range days {
		d := &s.Days[n-1]
		if d.Session == nil || d.Session.Target == 0 || d.Pin.Day {
			continue
		}
		class := d.Session.Clone()
		locks := map[plan.Path]bool{}
		class.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
			locks[p] = r.Locked
			slug := movement.BaseSlug(r.Movement)
			r.Locked = r.Locked || !r.IsRest() && r.Inline == nil && (s.Ladder(slug) != nil || slices.Contains(d.Pinned, slug))
		})
		fitted, err := c.fit(class, lib)
		if err != nil {
			return plan.Done{}, err
		}
		fitted = fitted.Clone()
		fitted.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) { r.Locked = locks[p] })
		tl, err := timeline.Build(fitted, lib)
		if err != nil {
			return plan.Done{}, err
		}
		if off := max(tl.Total-fitted.Target, fitted.Target-tl.Total); off > 5*clock.Second {
			far = append(far, fmt.Sprintf("day %d lasts %s", n, tl.Total))
		}
		d.Session = fitted
		did = append(did, n-1)
	}
	if len(did) == 0 {
		return plan.Done{}, errors.New("none of these days promises a length")
	}
	says := "Fit " + onDays(did)
	if len(far) > 0 {
		says += "; no nearer: " + strings.Join(far, ", ")
	}
	return plan.Done{Says: says}, nil
}
