// Package adapt makes of a class the version of one mover: each row as it is, at another level, in other words, with another movement in its place, or left out,
// with the reason. It is a teaching aid: it goes by the table of cautions (movement.CareOf), never diagnoses, and defers to whoever treats the mover.
package adapt

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

// Mover is for whom a class is adapted. The zero value takes it as it is planned.
type Mover struct {
	Topics []movement.Topic
	Level  int               // the highest level they usually take; 0: as planned
	Out    map[string]string // movements that are left out until cleared, by slug without a version, and why
}

// wishes tells whether anything is to be adapted.
func (m *Mover) wishes() bool { return len(m.Topics) > 0 || m.Level > 0 || len(m.Out) > 0 }

// Does is what became of a row.
type Does string

// What becomes of a row that is not kept as it is.
const (
	AtLevel Does = "level"   // another level of it
	InWords Does = "words"   // as it is, done otherwise in words
	Instead Does = "instead" // another movement in its place
	Leave   Does = "leave"   // left out
)

// Now is what stands in the place of a row.
type Now struct {
	Movement string `json:"movement"` // slug, or the name of one that is written into the plan
	Name     string `json:"-"`
	Level    int    `json:"level"`
}

// Change is one row that is not as planned, with the reason.
type Change struct {
	Row      plan.Path        `json:"row"` // in the class as planned
	At       plan.Path        `json:"-"`   // in the version; zero where it was left out
	Movement string           `json:"movement"`
	Name     string           `json:"-"`
	Level    int              `json:"level"`
	Topic    movement.Topic   `json:"topic"` // the first that asked for it; empty: the usual level did
	Topics   []movement.Topic `json:"-"`     // all that did
	Does     Does             `json:"does"`
	Now      *Now             `json:"now,omitempty"`
	Says     string           `json:"says,omitempty"` // what to do, in words
	Why      string           `json:"why"`
}

// Version is a class as one mover does it.
type Version struct {
	Session  *plan.Session
	Timeline *timeline.Timeline
	Planned  clock.Span // how long the class is as planned
	Changes  []Change   // in the order of the class
	Notes    []string   // what holds for all of it, in words
	Stops    []review.Finding
	to       map[plan.Path]plan.Path
}

// Where is the place in the version of a row of the class as planned; ok is false where it was left out.
func (v *Version) Where(p plan.Path) (plan.Path, bool) {
	q, ok := v.to[p]
	return q, ok
}

// Of is what was done to the row at a place of the version; nil where it is as planned.
func (v *Version) Of(at plan.Path) *Change {
	i := slices.IndexFunc(v.Changes, func(c Change) bool { return c.At == at && c.Does != Leave })
	if i < 0 {
		return nil
	}
	return &v.Changes[i]
}

// MarshalJSON writes the published form.
func (v *Version) MarshalJSON() ([]byte, error) {
	changes := v.Changes
	if changes == nil {
		changes = []Change{}
	}
	stops := v.Stops
	if stops == nil {
		stops = []review.Finding{}
	}
	for i := range stops {
		if stops[i].Mends == nil {
			stops[i].Mends = []review.Mend{}
		}
	}
	return json.Marshal(struct {
		Session  *plan.Session    `json:"session"`
		Seconds  float64          `json:"seconds"`
		Changes  []Change         `json:"changes"`
		Notes    []string         `json:"notes,omitempty"`
		Findings []review.Finding `json:"findings"`
	}{v.Session, v.Timeline.Total.Seconds(), changes, v.Notes, stops})
}

// Judgement constants of adapting.
const (
	longest  = .05 // a version as long as the class within this share needs no word
	aimed    = .01 // how near the time that is given to others is brought
	attempts = 24  // changes tried because the version had a stop that the class had not
	easedBy  = 1e-9
)

// whyUsual is the reason of a level that nobody's topic asked for.
const whyUsual = "the level usually taken"

// As adapts a class. Of no topics and no level wish comes the class itself. What it promises: no row is one that the table of cautions sets aside for any of the
// topics; no row's demand goes up; both sides stay alike; chains, rounds and order stay; the second look finds no stop that the class had not; adapting twice
// gives the same as once. The length is kept within 5 % by giving the time to neighbours, else Notes say so. The error is that of a class that cannot be timed,
// or the cause of the context. Cost grows with rows x movements of the library.
func As(ctx context.Context, s *plan.Session, lib *movement.Library, lim review.Limits, m Mover) (*Version, error) {
	was, err := timeline.Build(s, lib)
	if err != nil {
		return nil, err
	}
	v := &Version{Planned: was.Total}
	m.Topics = slices.Clone(m.Topics)
	if slices.Contains(m.Topics, movement.Treated) { // said of the whole, not of every row
		m.Topics = slices.DeleteFunc(m.Topics, func(t movement.Topic) bool { return t == movement.Treated })
		v.Notes = append(v.Notes, "Ask whoever treats you before this class; small and slow until then.")
	}
	if !m.wishes() {
		v.Session, v.Timeline, v.to = s.Clone(), was, identity(s)
		return v, nil
	}
	w := &work{ctx: ctx, s: s, was: was, lib: lib, lim: lim, m: m, states: map[plan.Path]*state{}}
	w.seconds()
	if err := w.settle(v); err != nil {
		return nil, err
	}
	if off := v.Timeline.Total - v.Planned; float64(max(off, -off)) > longest*float64(v.Planned) {
		word := "longer"
		if off < 0 {
			word, off = "shorter", -off
		}
		v.Notes = append(v.Notes, fmt.Sprintf("It is %s %s than the class: what is left had no room for it.", off.Said(), word))
	}
	return v, nil
}

func identity(s *plan.Session) map[plan.Path]plan.Path {
	to := map[plan.Path]plan.Path{}
	s.Each(func(p plan.Path, _ *plan.Block, _ *plan.Row) { to[p] = p })
	return to
}

// state is what has been found out about a row of the class while looking for a version without new stops.
type state struct {
	barred []string // stand-ins that brought a stop
	most   int      // the highest level that may still be taken; 0: the row's own
	out    bool     // it brought a stop whatever stood there
	why    string   // it is out
	full   bool     // it takes no more time
}

// work is a class being adapted.
type work struct {
	ctx    context.Context
	s      *plan.Session
	was    *timeline.Timeline
	lib    *movement.Library
	lim    review.Limits
	m      Mover
	states map[plan.Path]*state
	worked map[plan.Path]clock.Span // seconds of work of each row, as planned
	cands  []candidate
	kit    []string
	stops  []review.Finding // of the class as planned
	known  bool             // stops were looked for
}

func (w *work) state(p plan.Path) *state {
	if w.states[p] == nil {
		w.states[p] = &state{}
	}
	return w.states[p]
}

func (w *work) seconds() {
	w.worked = map[plan.Path]clock.Span{}
	for i := range w.was.Steps {
		if st := &w.was.Steps[i]; st.Kind.Working() {
			w.worked[st.Row] += st.S
		}
	}
}

// settle makes the version again until it has no stop that the class had not.
func (w *work) settle(v *Version) error {
	for try := 0; ; try++ {
		d := w.draft()
		tl, err := timeline.Build(d.s, w.lib)
		if err != nil {
			return err
		}
		if w.together(d, tl) {
			continue
		}
		if len(d.changes) > 0 {
			if tl, err = w.fill(d, tl); err != nil {
				return err
			}
		}
		fresh, err := w.newStops(d, tl)
		if err != nil {
			return err
		}
		if len(fresh) == 0 || try == attempts || !w.escalate(d, fresh) {
			v.Session, v.Timeline, v.Changes, v.Stops, v.to = d.s, tl, d.changes, fresh, d.to
			return nil
		}
	}
}

// together leaves out the newest part of what is built up and as a whole is not for the mover, whatever its parts are alone; false where there is none.
func (w *work) together(d *draft, tl *timeline.Timeline) bool {
	for i := range tl.Steps {
		st := &tl.Steps[i]
		if !st.Kind.Working() || st.Move == nil || len(st.Parts) < 2 {
			continue
		}
		if _, spared := w.m.cares(st.Move, st.Level); spared {
			p, ok := d.from[st.Parts[len(st.Parts)-1].Row]
			if s := w.state(p); ok && !s.out {
				s.out, s.why = true, "done as one with what comes before it"
				return true
			}
		}
	}
	return false
}

// newStops are the stops of a version that the class had not.
func (w *work) newStops(d *draft, tl *timeline.Timeline) ([]review.Finding, error) {
	now := review.Stops(w.ctx, d.s, tl, w.lib, w.lim)
	if len(now) > 0 && !w.known {
		w.stops, w.known = review.Stops(w.ctx, w.s, w.was, w.lib, w.lim), true
	}
	if w.ctx.Err() != nil {
		return nil, context.Cause(w.ctx)
	}
	left := map[string]int{}
	for _, f := range w.stops {
		left[f.Rule]++
	}
	var out []review.Finding
	for _, f := range now {
		if left[f.Rule]--; left[f.Rule] < 0 {
			out = append(out, f)
		}
	}
	return out, nil
}

// escalate changes something about the first row that a new stop is about and that can still be changed; false where there is none.
func (w *work) escalate(d *draft, fresh []review.Finding) bool {
	for _, f := range fresh {
		rows := append([]plan.Path{f.Row}, f.Rows...)
		for _, at := range rows { // what was given time gives it back first
			if p, ok := d.from[at]; ok && d.filled[at] && !w.state(p).full {
				w.state(p).full = true
				return true
			}
		}
		for _, at := range rows {
			p, ok := d.from[at]
			if !ok {
				continue
			}
			st, r := w.state(p), d.s.Row(at)
			switch {
			case st.out || r == nil || r.IsRest():
				continue
			case d.instead[at] && len(st.barred) < 3:
				st.barred = append(st.barred, r.Movement)
			case !d.instead[at] && max(1, r.Level) > 1 && f.Rule != "sides":
				st.most = max(1, r.Level) - 1
			default:
				st.out = true
			}
			return true
		}
	}
	return false
}

// draft is a version being made.
type draft struct {
	s        *plan.Session
	changes  []Change
	to, from map[plan.Path]plan.Path
	instead  map[plan.Path]bool // rows of the version that stand in
	filled   map[plan.Path]bool // rows of the version that were given time
	used     map[string]int     // movements in the class as it is planned and made so far
}

// draft makes a version from what is known so far.
func (w *work) draft() *draft {
	d := &draft{s: w.s.Clone(), to: map[plan.Path]plan.Path{}, from: map[plan.Path]plan.Path{}, instead: map[plan.Path]bool{}, filled: map[plan.Path]bool{}, used: map[string]int{}}
	w.s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if !r.IsRest() {
			d.used[movement.BaseSlug(r.Name())]++
		}
	})
	var sections []plan.Section
	for i := range w.s.Sections {
		sec := d.s.Sections[i]
		sec.Blocks = nil
		var placed []placedRow
		for j := range w.s.Sections[i].Blocks {
			b, rows := w.block(d, i+1, j+1)
			if b == nil {
				continue
			}
			for k := range rows {
				rows[k].at = plan.Path{Section: len(sections) + 1, Block: len(sec.Blocks) + 1, Row: k + 1}
			}
			sec.Blocks, placed = append(sec.Blocks, *b), append(placed, rows...)
		}
		if len(sec.Blocks) == 0 && len(w.s.Sections[i].Blocks) > 0 {
			continue
		}
		for _, r := range placed {
			d.to[r.was], d.from[r.at] = r.at, r.was
			if r.instead {
				d.instead[r.at] = true
			}
		}
		sections = append(sections, sec)
	}
	d.s.Sections = sections
	d.s.Settle(w.lib)
	for i := range d.changes {
		d.changes[i].At = d.to[d.changes[i].Row]
	}
	return d
}

// placedRow is a row of a version with where it came from.
type placedRow struct {
	was, at plan.Path
	instead bool
}

// block adapts a block; nil where nothing of it is left.
func (w *work) block(d *draft, section, block int) (*plan.Block, []placedRow) {
	b := d.s.Sections[section-1].Blocks[block-1]
	was := &w.s.Sections[section-1].Blocks[block-1]
	parts := 0
	if b.Rule == plan.BuildUp {
		parts = was.PartsDone()
	}
	rows := b.Rows
	b.Rows = nil
	var placed []placedRow
	working, worked, moved := 0, 0, false
	for k := range rows {
		p := plan.Path{Section: section, Block: block, Row: k + 1}
		r := rows[k]
		if r.IsRest() {
			if w.turnsWrong(&r, was.Rows[k+1:], moved) {
				moved = true
				continue
			}
			b.Rows, placed = append(b.Rows, r), append(placed, placedRow{was: p})
			continue
		}
		worked++
		now, ch := w.row(d, p, r, was, k < parts)
		moved = ch != nil && (ch.Does == Instead || ch.Does == Leave)
		if ch != nil {
			d.changes = append(d.changes, *ch)
		}
		if now == nil {
			continue
		}
		working++
		b.Rows, placed = append(b.Rows, *now), append(placed, placedRow{was: p, instead: ch != nil && ch.Does == Instead})
	}
	if worked > 0 && working == 0 {
		return nil, nil
	}
	if b.Rule == plan.BuildUp && !slices.ContainsFunc(placed, func(r placedRow) bool { return r.was.Row <= parts && !rows[r.was.Row-1].IsRest() }) {
		b.Rule, b.Second, b.Between = plan.Straight, plan.SecondClimbs, "" // nothing is built up any more
		for k := range b.Rows {
			b.Rows[k].Then = false
		}
	}
	return &b, placed
}

// turnsWrong tells whether a change of position that is led leads nowhere in the version: down for whoever does not get down, or to what does not stand there any more.
func (w *work) turnsWrong(r *plan.Row, next []plan.Row, moved bool) bool {
	if !r.IsTurn() {
		return false
	}
	if r.Rest.Ends.OnFloor() && slices.Contains(w.m.Topics, movement.NoFloor) {
		return true
	}
	for i := range next {
		if next[i].IsRest() {
			continue
		}
		m, err := next[i].Of(w.lib)
		if err != nil || m == nil {
			return false
		}
		_, ok := w.m.pick(m, max(1, next[i].Level), w.states[plan.Path{}])
		return !ok
	}
	return moved
}

// picked is a level that may be taken, with the cares that are left in words.
type picked struct {
	level int
	words []movement.Care
}

// pick is the highest level, no higher than n and no more demanding, that may be kept for all topics; else the highest that may be kept in other words; ok is false
// where there is none.
func (m *Mover) pick(mv *movement.Movement, n int, st *state) (p picked, ok bool) {
	n = min(max(n, 1), len(mv.Levels))
	top := n
	if m.Level > 0 {
		top = min(top, m.Level)
	}
	if st != nil && st.most > 0 {
		top = min(top, st.most)
	}
	most := mv.At(n).Demand
	for k := top; k >= 1; k-- {
		if mv.At(k).Demand > most+easedBy {
			continue
		}
		words, spared := m.cares(mv, k)
		switch {
		case spared:
		case len(words) == 0:
			return picked{level: k}, true
		case !ok:
			p, ok = picked{k, words}, true
		}
	}
	if !ok && (m.Level > 0 || st != nil && st.most > 0) { // nothing easier demands less: as it is planned, where that may be
		for k := n; k > top; k-- {
			if words, spared := m.cares(mv, k); !spared && mv.At(k).Demand <= most+easedBy {
				p, ok = picked{k, words}, true
			}
		}
	}
	return p, ok
}

// cares are what a level asks of whoever watches the topics, in words; spared where it is not to be done.
func (m *Mover) cares(mv *movement.Movement, n int) (words []movement.Care, spared bool) {
	for _, t := range m.Topics {
		c := mv.CareAt(n, t)
		if c.Does == movement.Keep {
			continue
		}
		if c.Does > movement.Lighter {
			return nil, true
		}
		words = append(words, c)
	}
	return words, false
}

// row adapts one row; nil where it is left out, the change nil where it is as planned.
func (w *work) row(d *draft, p plan.Path, r plan.Row, b *plan.Block, part bool) (*plan.Row, *Change) {
	m, err := r.Of(w.lib)
	if err != nil || m == nil {
		return &r, nil
	}
	st := w.states[p]
	level := min(max(1, r.Level), len(m.Levels))
	ch := &Change{Row: p, Movement: r.Name(), Name: m.Name, Level: level}
	if why, is := w.m.Out[movement.BaseSlug(r.Name())]; is {
		ch.Why, ch.Does, ch.Says = why, Leave, "until cleared"
		return w.stand(d, p, &r, m, level, b, part, ch)
	}
	bad := false
	at := func(n int) picked {
		k, ok := w.m.pick(m, n, st)
		bad = bad || !ok
		return k
	}
	own := at(level)
	for _, n := range levelsOf(&r) {
		at(n)
	}
	if bad || st != nil && st.out {
		w.because(ch, m, level)
		if ch.Why == "" {
			ch.Why = cmp.Or(st.why, "too much once the rows beside it are left out")
		}
		ch.Does = Leave
		return w.stand(d, p, &r, m, level, b, part, ch)
	}
	changed := false
	now := r
	now.TakeLevels(m, func(n int) int {
		k := at(n).level
		changed = changed || k != n
		return k
	}, func(n int) bool { _, spared := w.m.cares(m, n); return !spared })
	words := own.words
	for _, c := range words {
		now.AddCue(c.Says)
	}
	if !changed && len(words) == 0 {
		return &now, nil
	}
	w.because(ch, m, level)
	ch.Now = &Now{now.Name(), m.Name, max(1, now.Level)}
	said := make([]string, 0, len(words)+1)
	for _, c := range words {
		if !slices.Contains(said, c.Says) {
			said = append(said, c.Says)
		}
	}
	ch.Does = InWords
	if changed {
		ch.Does = AtLevel
		if to := m.At(max(1, now.Level)).Changes; to != "" {
			said = append([]string{to}, said...)
		}
		if ch.Why == "" {
			ch.Why = whyUsual
		}
	}
	ch.Says = strings.Join(said, "; ")
	return &now, ch
}

// levelsOf are the levels that a row is done at besides its own.
func levelsOf(r *plan.Row) (out []int) {
	for _, o := range []*plan.Override{r.Right, r.Left} {
		if o != nil && o.Level > 0 {
			out = append(out, o.Level)
		}
	}
	for _, n := range r.PartLevels {
		if n > 0 {
			out = append(out, n)
		}
	}
	for _, c := range r.ByRound {
		if c.Level > 0 {
			out = append(out, c.Level)
		}
	}
	return out
}

// because says which topics ask for a change of a level, the gravest first, and why.
func (w *work) because(ch *Change, m *movement.Movement, level int) {
	var cares []movement.Care
	for _, t := range w.m.Topics {
		if c := m.CareAt(level, t); c.Does != movement.Keep {
			cares = append(cares, c)
		}
	}
	slices.SortStableFunc(cares, func(a, b movement.Care) int { return int(b.Does) - int(a.Does) })
	for i, c := range cares {
		if i == 0 {
			ch.Topic, ch.Why = c.Topic, c.Why
		}
		ch.Topics = append(ch.Topics, c.Topic)
	}
}
