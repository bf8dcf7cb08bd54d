package lay

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"wavekine/core/brief"
	"wavekine/core/clock"
	"wavekine/core/ladder"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/series"
	"wavekine/core/timeline"
)

// Kept is a session of the studio that may be laid.
type Kept struct {
	ID      string
	Rev     int
	Session *plan.Session
}

// Judgement constants of choosing among one's own classes.
const (
	ownTheme = 60. // points for a class that is all about the day's theme
	ownLoad  = 40. // off for weighing half or double of what is meant
	ownAgain = 30. // off for having been the day before, less for each day since
	ownFirst = 1.  // off for each place further down the list: what was taught last comes first
)

// source are one's own classes, to be laid in the place of new ones.
type source struct {
	lib     *movement.Library
	b       *brief.Brief
	classes []ownClass
	days    int
}

// ownClass is one of them with what is known of it.
type ownClass struct {
	Kept
	aMinute float64 // load
	themes  map[string]float64
	uses    int // on days of work so far
	last    int // class day on which it was, from 1; 0: never
}

// sourceOf weighs the classes that a brief asks for; nil where it asks for the library.
func sourceOf(lib *movement.Library, b *brief.Brief, kept []Kept) (*source, error) {
	if b.From == brief.FromLibrary {
		return nil, nil
	}
	if b.Shape == brief.TwoHolds || b.Shape == brief.Intervals {
		return nil, fmt.Errorf("%q and %q: the one gives the classes, the other makes them; say one of them", string(b.From), string(b.Shape))
	}
	s := &source{lib: lib, b: b}
	var not []string
	for _, k := range kept {
		o := ownClass{Kept: k, themes: map[string]float64{}}
		rows := 0
		for _, slug := range b.LeaveOut {
			o.Session = Without(o.Session, slug)
		}
		missing := ""
		o.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			m, ok := lib.Get(r.Movement)
			if !ok {
				return
			}
			rows++
			if level := min(max(1, r.Level), len(m.Levels)); missing == "" && !TermsOf(b).Has(m, level) {
				missing = m.Name + " needs kit that is not there"
			}
			for _, t := range m.ThemesOf() {
				o.themes[t]++
			}
		})
		tl, err := timeline.Build(o.Session, lib)
		switch {
		case rows == 0:
			missing = "it has no movements of the library"
		case err != nil:
			missing = err.Error()
		}
		if missing != "" {
			not = append(not, fmt.Sprintf("%q: %s", k.Session.Title, missing))
			continue
		}
		for t := range o.themes {
			o.themes[t] /= float64(rows)
		}
		o.aMinute = series.Load(tl) / (tl.Total.Seconds() / 60)
		s.classes = append(s.classes, o)
	}
	if len(s.classes) == 0 {
		why := "none is kept"
		if b.From == brief.FromTaught {
			why = "none has been taught yet"
		}
		if len(not) > 0 {
			why = strings.Join(not, "; ")
		}
		return nil, fmt.Errorf("%w %s: %s", ErrNothing, string(b.From), why)
	}
	return s, nil
}

// Without is a class without a movement; sections that have nothing else go too.
func Without(s *plan.Session, slug string) *plan.Session {
	c := s.Clone()
	for i := range c.Sections {
		for j := range c.Sections[i].Blocks {
			b := &c.Sections[i].Blocks[j]
			b.Rows = slices.DeleteFunc(b.Rows, func(r plan.Row) bool { return movement.BaseSlug(r.Movement) == slug })
		}
		c.Sections[i].Blocks = slices.DeleteFunc(c.Sections[i].Blocks, func(b plan.Block) bool { return len(b.Rows) == 0 })
	}
	c.Sections = slices.DeleteFunc(c.Sections, func(s plan.Section) bool { return len(s.Blocks) == 0 })
	return c
}

// calibrated is what one's own classes weigh a minute.
func (s *source) calibrated(days []Day) calibration {
	c := calibration{low: s.classes[0].aMinute, high: map[string]float64{}}
	high := c.low
	for i := range s.classes {
		c.low, high = min(c.low, s.classes[i].aMinute), max(high, s.classes[i].aMinute)
	}
	for i := range days {
		c.high[days[i].Theme] = high
	}
	return c
}

// remember notes which classes the days before one have, and that the day itself had its own.
func (s *source) remember(doc *plan.Series, before int) {
	for i := range doc.Days[:before] {
		if doc.Days[i].Session == nil {
			continue
		}
		s.days++
		for k := range s.classes {
			if o := &s.classes[k]; o.ID == doc.Days[i].From.Session {
				if o.last = s.days; i+1 < before && !doc.Days[i].Easier() {
					o.uses++
				}
			}
		}
	}
}

// on chooses the class of a day: about its theme, as heavy as is meant, not there lately. Each time that it comes its work has climbed, every other row
// in turn; on a soft day it is easier. What must come is put in, or takes its own dose where it stands already.
func (s *source) on(t *task, c *Class) *draft {
	s.days++
	best, most := 0, -1e9
	for i := range s.classes {
		o := &s.classes[i]
		points := ownTheme*o.themes[t.day.Theme] - ownFirst*float64(i) + float64(t.jitter(o.ID, i))/4
		if c.Target > 0 {
			a, b := o.aMinute, c.Target/(t.aim(c).Seconds()/60)
			points -= ownLoad * min(1, max(a/b, b/a)-1)
		}
		if o.last > 0 && t.b.Shape != brief.SameSet {
			points -= ownAgain / float64(s.days-o.last)
		}
		if points > most {
			best, most = i, points
		}
	}
	if t.b.Shape == brief.SameSet {
		best = 0
	}
	o := &s.classes[best]
	uses := o.uses
	if t.day.Hard != Soft {
		o.uses++
	}
	o.last = s.days
	d := &draft{own: o.Session.Clone()}
	d.own.Target = 0
	d.own.Aside = nil                        // what was set aside there was for that class
	row, came := 0, make([]bool, len(t.due)) // a pinned movement may come twice
	d.own.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
		e := t.entryOf(r.Movement)
		if e == nil || r.Inline != nil {
			return
		}
		p := pick{e: e, because: fmt.Sprintf("from %q", o.Session.Title)}
		for i := range t.due {
			if t.due[i].e.m != e.m || came[i] {
				continue
			}
			came[i] = true
			p.because += ", " + t.due[i].because
			was := *r
			*r = rowOf(t.due[i])
			if t.due[i].row == nil {
				r.Note, r.Options = was.Note, was.Options
			}
			d.picks = append(d.picks, p)
			return
		}
		if b.On == 0 && b.Rule != plan.Rounds && !e.m.Stretch && !e.m.Rest && !r.Locked && len(e.ladder.Rungs) > 1 {
			p.because += climbRow(t, e, r, (uses+row%2)/2)
			row++
		}
		d.picks = append(d.picks, p)
	})
	for i, p := range t.due {
		if !came[i] {
			d.put(p)
		}
	}
	c.From = plan.Made{Session: o.ID, Rev: o.Rev}
	return d
}

// entryOf finds a movement of the pool; what is not in it comes as the teacher has it.
func (t *task) entryOf(slug string) *entry {
	m, ok := t.lib.Get(slug)
	if !ok {
		return nil
	}
	if i := slices.IndexFunc(t.pool, func(e *entry) bool { return e.m.Slug == m.Slug }); i >= 0 {
		return t.pool[i]
	}
	return &entry{m: m, roles: m.RolesOf(), themes: m.ThemesOf()}
}

// climbRow raises a row so many rungs above where it was written, or eases it on a soft day; in words.
func climbRow(t *task, e *entry, r *plan.Row, rungs int) string {
	now := ladder.RungOf(t.lib, e.m, min(max(1, r.Level), len(e.m.Levels)), r.Dose)
	at := -1
	for i, g := range e.ladder.Rungs {
		if g.Level == now.Level && g.Amount <= now.Amount {
			at = i
		}
	}
	if at < 0 {
		return ""
	}
	to, says := min(at+rungs, len(e.ladder.Rungs)-1), ""
	if to > at {
		says = fmt.Sprintf(", %d rungs up", to-at)
		if to == at+1 {
			says = ", a rung up"
		}
	}
	if t.day.Hard == Soft {
		easy, ok := e.ladder.Easy(t.lib, to)
		if !ok || easy >= at {
			return ""
		}
		to, says = easy, ", easier"
	}
	if to == at {
		return ""
	}
	g := e.ladder.Rungs[to]
	if g.Level == now.Level { // said as it was, with pulses and sides
		d := r.Dose
		if d.IsZero() {
			d = now.Dose
		}
		r.Dose = movement.WithAmount(d, g.Amount)
	} else {
		r.Level, r.Dose = g.Level, g.Dose
	}
	return says
}

// shorten leaves rows out of somebody's own class that does not go into the minutes by its doses: each time the one of the middle whose length is nearest
// to what is too much, never what must come, the first or the last.
func (a *answer) shorten(ctx context.Context, t *task, c *Class, o Options) error {
	var out []string
	for range mostLeftOut {
		over := a.tl.Total - c.Most
		if over <= nearEnough {
			break
		}
		length := map[plan.Path]clock.Span{}
		var order []plan.Path
		for i := range a.tl.Steps {
			st := &a.tl.Steps[i]
			if _, seen := length[st.Row]; !seen {
				order = append(order, st.Row)
			}
			length[st.Row] += st.S
		}
		var leave plan.Path
		for _, at := range order[min(1, len(order)):max(1, len(order)-1)] {
			r := a.s.Row(at)
			if r == nil || r.IsRest() || slices.ContainsFunc(t.due, func(p pick) bool { return p.e.m.Slug == r.Movement }) {
				continue
			}
			if leave == (plan.Path{}) || apart(length[at], over) < apart(length[leave], over) {
				leave = at
			}
		}
		if leave == (plan.Path{}) {
			break
		}
		gone := a.s.Row(leave)
		next, err := plan.Apply(a.s, t.lib, &plan.DeleteRows{At: plan.Paths{leave}})
		if err != nil {
			break
		}
		name := gone.Movement
		if m, ok := t.lib.Get(gone.Movement); ok {
			name = m.Name
		}
		out, a.s = append(out, name), next.Session
		if err := a.fit(ctx, t, c, o); err != nil {
			return err
		}
	}
	if len(out) > 0 {
		c.Why += "; left out for the minutes: " + strings.Join(out, ", ")
	}
	return nil
}

// mostLeftOut is how many rows may be left out of somebody's own class; judgement.
const mostLeftOut = 8

// put puts a row into a class that somebody made.
func (d *draft) put(p pick) {
	putIn(d.own, p.role, rowOf(p))
	d.picks = append(d.picks, p)
}

// PutIn puts a row of a movement into the part of a class where it belongs.
func PutIn(s *plan.Session, m *movement.Movement, r plan.Row) {
	putIn(s, roleFor(&entry{m: m, roles: m.RolesOf()}), r)
}

// putIn puts a row at the end of the first section, of the one in the middle, or at the beginning of the last: the rest at the end stays at the end.
func putIn(s *plan.Session, role movement.Role, r plan.Row) {
	if len(s.Sections) == 0 {
		s.Sections = []plan.Section{{Title: "Build"}}
	}
	n := len(s.Sections)
	sec := &s.Sections[[]int{0, n / 2, n - 1}[sectionOf[role]]]
	block := plan.Block{Rule: plan.Straight, Rounds: 1, Rows: []plan.Row{r}}
	where := len(sec.Blocks)
	if sectionOf[role] == 2 {
		where = 0
	}
	sec.Blocks = slices.Insert(sec.Blocks, where, block)
}

// Weighed tells what a class weighs and how long it is.
func Weighed(s *plan.Session, lib *movement.Library) (load float64, length clock.Span, err error) {
	tl, err := timeline.Build(s, lib)
	if err != nil {
		return 0, 0, err
	}
	return series.Load(tl), tl.Total, nil
}

// Again lays one day of a series again around what is pinned, and what that breaks: later goes of a movement that stand below what the day now has are
// raised, and a neighbour that would work the same region hard within 48 h is laid again too. Nothing else moves. It gives the series, the days
// that changed and what could not be had.
func Again(ctx context.Context, lib *movement.Library, s *plan.Series, day int, o Options) (out *plan.Series, touched []int, could []string, err error) {
	if day < 1 || day > len(s.Days) || s.Days[day-1].Rest {
		return nil, nil, nil, fmt.Errorf("%w: day %d has no class to lay", ErrNothing, day)
	}
	if s.Days[day-1].Pin.Day {
		return nil, nil, nil, fmt.Errorf("day %d is pinned: take the pin out to lay it again", day)
	}
	b, err := BriefOf(lib, s)
	if err != nil {
		return nil, nil, nil, err
	}
	out = s.Clone()
	a := &again{lib: lib, pool: poolOf(lib, b), s: out, o: o}
	a.b, a.daily, _ = aboutOthers(b, a.pool)
	if len(a.pool) < leastPool {
		return nil, nil, nil, fmt.Errorf("%w: %d movements fit the audience and the kit", ErrNothing, len(a.pool))
	}
	before, err := clashes(lib, s)
	if err != nil {
		return nil, nil, nil, err
	}
	if err := a.day(ctx, day); err != nil {
		return nil, nil, nil, err
	}
	touched = []int{day}
	raised, err := a.raise(ctx, day)
	if err != nil {
		return nil, nil, nil, err
	}
	touched = append(touched, raised...)
	after, err := clashes(lib, out)
	if err != nil {
		return nil, nil, nil, err
	}
	for n := range after { // a clash that was not there is between a day and the one before it
		if before[n] {
			continue
		}
		other := n
		if n == day {
			other = n - 1
		}
		if d := &out.Days[other-1]; !d.Pin.Day && d.Session != nil && !slices.Contains(touched, other) && other != day {
			if err := a.day(ctx, other); err != nil {
				return nil, nil, nil, err
			}
			touched = append(touched, other)
		} else {
			a.could = append(a.could, fmt.Sprintf("days %d and %d work the same hard within 48 h, and what is pinned leaves no other way", n-1, n))
		}
	}
	slices.Sort(touched)
	return out, touched, a.could, nil
}

// BriefOf reads the brief that a series was laid from; a series of another making is asked for by what it is.
func BriefOf(lib *movement.Library, s *plan.Series) (*brief.Brief, error) {
	words := s.Brief
	if words == "" {
		words = fmt.Sprintf("%d days", max(1, len(s.Days)))
		if s.Minutes > 0 {
			words += fmt.Sprintf(", %d min", min(s.Minutes, brief.MaxMinutes))
		}
	}
	b, err := brief.Parse(words, lib, s.Start)
	if err != nil {
		return nil, fmt.Errorf("the brief: %w", err)
	}
	b.Start = s.Start
	return b, nil
}

// again is a series being laid again in part.
type again struct {
	lib   *movement.Library
	b     *brief.Brief
	pool  []*entry
	s     *plan.Series
	o     Options
	could []string
	daily []string // themes of which something is in every class
}

// clashes are the days that work the same region hard as the day before.
func clashes(lib *movement.Library, s *plan.Series) (map[int]bool, error) {
	found, err := series.Over(s, lib, nil)
	if err != nil {
		return nil, err
	}
	out := map[int]bool{}
	for _, f := range found {
		if f.Rule == "region-48h" {
			out[f.Day] = true
		}
	}
	return out, nil
}

// memory is what the days before have had.
func (a *again) memory(before int) *memory {
	mem := &memory{led: map[string]int{}}
	for i := range a.s.Days[:before-1] {
		if a.s.Days[i].Session != nil {
			mem.note(a.lib, &Class{Session: a.s.Days[i].Session})
		}
	}
	return mem
}

// day lays one day again, around its pinned rows and the rows of its threads, for the load and the minutes it had.
func (a *again) day(ctx context.Context, n int) (err error) {
	pd := &a.s.Days[n-1]
	d := Day{N: n, Date: a.s.Date(n - 1), Kind: Work, Hard: Middle, Peak: pd.Peak, Theme: pd.Theme, Want: hardAt[Middle], Why: pd.Because}
	switch {
	case pd.Easier():
		d.Kind, d.Hard, d.Want = Kind(pd.Kind), Soft, hardAt[Soft]
	case pd.Peak:
		d.Hard, d.Want = High, 1
	}
	if d.Theme == "" {
		d.Theme = wholeBody[0]
		if len(a.b.Focus) > 0 {
			d.Theme = a.b.Focus[0]
		}
	}
	left := 0
	for i := n; i < len(a.s.Days); i++ {
		if a.s.Days[i].Session != nil {
			left++
		}
	}
	keep := &pins{a.lib, a.s}
	l := &Laid{Brief: a.b, keep: keep, inEvery: a.daily}
	t := &task{lib: a.lib, b: a.b, pool: a.pool, day: &d, last: left, mem: a.memory(n), seed: a.o.Seed, bars: map[string]bool{}}
	c := Class{Day: d}
	c.pins = keep.due(held{pd, n}, a.pool)
	t.due = apartFrom(c.pins, apartFrom(l.daily(a.lib, a.pool, n), a.threads(n)))
	t.due = append(t.due, l.stretches(t)...)
	for i := range a.s.Ladders { // a pinned thread comes where it is, and nowhere else
		if th := &a.s.Ladders[i]; th.Pinned {
			for _, slug := range th.Movements() {
				if !slices.ContainsFunc(t.due, func(p pick) bool { return p.e.m.Slug == slug }) {
					t.bars[slug] = true
				}
			}
		}
	}
	t.due = append(t.due, l.constants(t, t.due)...)
	c.Least, c.Most = minutesOf(a.b, &d)
	if pd.Session != nil && pd.Session.Target > 0 && (a.b.Minutes.IsZero() || a.b.Shape == brief.TwoHolds) {
		c.Least, c.Most = pd.Session.Target, pd.Session.Target
	}
	switch {
	case d.Kind == Stretch:
	case a.b.From != brief.FromLibrary:
		source, err := sourceOf(a.lib, a.b, a.o.Material)
		if err != nil {
			return err
		}
		source.remember(a.s, n)
		c.Target = pd.Target
		t.made = source.on(t, &c)
	case a.b.Shape == brief.TwoHolds:
		if t.given, err = l.twoHolds(ctx, t, &c, a.o); err != nil {
			return err
		}
	case pd.Target > 0:
		c.Target = pd.Target
	case pd.Session != nil:
		load, length, err := Weighed(pd.Session, a.lib)
		if err != nil {
			return err
		}
		if length > 0 && a.b.Shape != brief.Intervals {
			c.Target = load * float64(t.aim(&c)) / float64(length)
		}
	}
	if t.made == nil && t.given == nil {
		t.target = t.aim(&c)
		t.uses(partsOf(t, a.o.Pieces), map[string]int{})
	}
	if err := t.make(ctx, &c, a.o); err != nil {
		return err
	}
	l.says(&c)
	a.could = append(a.could, l.CouldNot...)
	c.write(pd)
	return nil
}

// threads are the rows of a day that are on a ladder, as they stand.
func (a *again) threads(n int) (out []pick) {
	s := a.s.Days[n-1].Session
	if s == nil {
		return nil
	}
	s.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
		slug := movement.BaseSlug(r.Movement)
		i := slices.IndexFunc(a.pool, func(e *entry) bool { return movement.BaseSlug(e.m.Slug) == slug })
		if i < 0 || b.On > 0 || a.s.Ladder(slug) == nil || slices.ContainsFunc(out, func(p pick) bool { return p.e == a.pool[i] }) {
			return
		}
		e := a.pool[i]
		out = append(out, pick{e: e, rung: ladder.RungOf(a.lib, e.m, min(max(1, r.Level), len(e.m.Levels)), r.Dose), role: roleFor(e), because: "to learn, as it was", fixed: true})
	})
	return out
}

// raise lifts the later goes of what the day now has higher, so that nobody is asked for less than on the day before; their classes are fitted again.
func (a *again) raise(ctx context.Context, day int) (touched []int, err error) {
	floor := map[string]int{}
	rungs := map[string]ladder.Ladder{}
	for i := range a.s.Ladders {
		ld := &a.s.Ladders[i]
		l := ladder.Read(a.lib, ld)
		rungs[ld.Movement] = l
		a.s.Days[day-1].Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			if a.s.Ladder(movement.BaseSlug(r.Movement)) == ld {
				if at := l.Find(r.Movement, r.Level, r.Dose); at >= 0 {
					floor[ld.Movement] = max(floor[ld.Movement], at)
				}
			}
		})
	}
	if a.s.Days[day-1].Easier() || a.b.Shape == brief.SameSet {
		return nil, nil
	}
	for i := day; i < len(a.s.Days); i++ {
		pd := &a.s.Days[i]
		if pd.Session == nil || pd.Pin.Day || pd.Easier() {
			continue
		}
		next := pd.Session.Clone()
		changed := false
		next.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			slug := movement.BaseSlug(r.Movement)
			ld := a.s.Ladder(slug)
			if ld == nil || ld.Pinned || slices.Contains(pd.Pinned, slug) {
				return
			}
			l := rungs[ld.Movement]
			if at, least := l.Find(slug, r.Level, r.Dose), floor[ld.Movement]; at >= 0 && at < least && l.Rungs[least].Movement == slug {
				r.Level, r.Dose, changed = l.Rungs[least].Level, l.Rungs[least].Dose, true
			}
		})
		if !changed {
			continue
		}
		if pd.Session.Target > 0 {
			f, err := review.FitTo(ctx, next, a.lib, pd.Session.ToMove(), a.o.Limits)
			if err != nil {
				return nil, err
			}
			f.Session.Target = pd.Session.Target
			next = f.Session
		}
		pd.Session = next
		touched = append(touched, i+1)
	}
	return touched, nil
}

// ErrNoBrief tells that a series was not laid.
var ErrNoBrief = errors.New("the series was not laid from a brief: say one")
