package board

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// SameDay tells whether two days have the same class, kind and name, whatever is pinned of them.
func SameDay(a, b *plan.Day) bool {
	if a.Rest != b.Rest || a.Ref != b.Ref || a.Title != b.Title || (a.Session == nil) != (b.Session == nil) {
		return false
	}
	if a.Session == nil {
		return true
	}
	x, errX := json.Marshal(a.Session)
	y, errY := json.Marshal(b.Session)
	return errX == nil && errY == nil && bytes.Equal(x, y)
}

// EditClass does a command of a session on the class of one day, which is the day's own from then on: no other day changes. A day that has nothing
// begins with an empty class.
type EditClass struct {
	With
	Day     plan.Number
	Command plan.Command
	Style   plan.Style // of a class that begins
}

// ClassOf is the class of a day, from 1, as it would be edited: its own, the kept session that it names, or an empty one. The series stays as it is.
func ClassOf(s *plan.Series, day int, w With, style plan.Style) (*plan.Session, error) {
	c := s.Clone()
	return (&EditClass{With: w, Style: style}).begin(c, day-1)
}

// begin makes the class of day i the day's own.
func (c *EditClass) begin(s *plan.Series, i int) (*plan.Session, error) {
	d := &s.Days[i]
	if !d.Empty() {
		return c.own(s, i)
	}
	title := d.Title
	if title == "" {
		title = fmt.Sprintf("Day %d", i+1)
	}
	d.Session = &plan.Session{Format: plan.SessionFormat, Title: title, Style: c.Style, Target: clock.Span(s.Minutes) * clock.Minute}
	return d.Session, nil
}

// Do does it.
func (c *EditClass) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	i, err := dayAt(s, c.Day)
	if err != nil {
		return plan.Done{}, err
	}
	was, err := c.begin(s, i)
	if err != nil {
		return plan.Done{}, err
	}
	ch, err := plan.Apply(was, lib, c.Command)
	if err != nil {
		return plan.Done{}, err
	}
	d := &s.Days[i]
	if d.Title == was.Title { // the day is called as its class
		d.Title = ch.Session.Title
	}
	became(s, &c.With, i, was, ch.Session)
	return plan.Done{Says: fmt.Sprintf("Day %d: %s", i+1, ch.Says), At: ch.At}, nil
}

// became gives day i a class that was made of the one it had: the reasons stay beside their rows, pins and threads of what is gone go.
func became(s *plan.Series, w *With, i int, was, now *plan.Session) {
	d := &s.Days[i]
	d.Session = now
	realign(d, was, now, "put in by hand")
	d.Pinned = slices.DeleteFunc(slices.Clone(d.Pinned), func(p string) bool { return !has(now, movement.BaseSlug(p)) })
	s.Ladders = slices.DeleteFunc(slices.Clone(s.Ladders), func(l plan.Ladder) bool {
		return slices.ContainsFunc(l.Movements(), func(slug string) bool { return has(was, slug) && !has(now, slug) }) &&
			!slices.ContainsFunc(s.Days, func(d plan.Day) bool {
				return slices.ContainsFunc(l.Movements(), func(slug string) bool { return has(w.class(&d), movement.BaseSlug(slug)) })
			})
	})
}

// Carry takes what was changed last of a day's class to other days that have the row: what stands in a row, a row that was put in, after the row it was
// put after, a row that was taken out. Where rows stand, blocks and what is said of the whole class stay the day's own. Pinned days stay.
type Carry struct {
	With
	Day   plan.Number  `form:"day,parser=encoding.TextUnmarshaler"`
	Scope Scope        `form:"scope"` // FromHere or EveryDay
	Was   *plan.Series `form:"-"`     // the series before that change
}

var (
	errNothingToCarry = errors.New("nothing of this day's rows was changed last: there is nothing to take to other days")
	errNoOther        = errors.New("no other day there has that row")
)

// Do takes it there.
func (c *Carry) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	i, err := dayAt(s, c.Day)
	if err != nil {
		return plan.Done{}, err
	}
	if c.Scope != FromHere && c.Scope != EveryDay {
		return plan.Done{}, fmt.Errorf("%q: expected from here on or every day", string(c.Scope))
	}
	edits := c.edits(s, i)
	if len(edits) == 0 {
		return plan.Done{}, errNothingToCarry
	}
	var days []int
	for _, k := range c.others(s, i, c.Scope) {
		was := c.class(&s.Days[k])
		now := was.Clone()
		if !carryAll(edits, now, lib) {
			continue
		}
		if now.Rows() == 0 {
			return plan.Done{}, fmt.Errorf("day %d would have nothing left: clear the day instead", k+1)
		}
		if _, err := c.own(s, k); err != nil {
			return plan.Done{}, err
		}
		became(s, &c.With, k, was, now)
		days = append(days, k)
	}
	if len(days) == 0 {
		return plan.Done{}, errNoOther
	}
	return plan.Done{Says: fmt.Sprintf("%s as on day %d on %s", saidEdits(edits, lib), i+1, onDays(days))}, nil
}

// Offer says what could be taken to other days, and to how many later and how many other ones; "" where there is nothing.
func (c *Carry) Offer(s *plan.Series, lib *movement.Library) (what string, later, every int) {
	i, err := dayAt(s, c.Day)
	if err != nil {
		return "", 0, 0
	}
	edits := c.edits(s, i)
	if len(edits) == 0 {
		return "", 0, 0
	}
	for _, k := range c.others(s, i, EveryDay) {
		if carryAll(edits, c.class(&s.Days[k]).Clone(), lib) {
			every++
			if k > i {
				later++
			}
		}
	}
	if every == 0 {
		return "", 0, 0
	}
	return saidEdits(edits, lib), later, every
}

// others are the days of a scope that can take an edit of day i.
func (c *Carry) others(s *plan.Series, i int, scope Scope) (out []int) {
	for k := range s.Days {
		if k == i || scope == FromHere && k < i || s.Days[k].Pin.Day || c.class(&s.Days[k]) == nil {
			continue
		}
		out = append(out, k)
	}
	return out
}

// edits are what was changed of the rows of day i.
func (c *Carry) edits(s *plan.Series, i int) []rowEdit {
	if c.Was == nil || len(c.Was.Days) != len(s.Days) {
		return nil
	}
	was, now := c.class(&c.Was.Days[i]), c.class(&s.Days[i])
	if was == nil || now == nil {
		return nil
	}
	return rowEdits(was, now)
}

// rowKey is a row as other days know it: the nth of its movement in the class, from 0.
type rowKey struct {
	name string
	nth  int
}

// rowEdit is what was done with one row.
type rowEdit struct {
	row      rowKey
	was, now *plan.Row // nil: the row was put in; taken out
	after    rowKey    // of a row that was put in: the row before it
	before   bool      // or, where it is the first of its section, the row behind it
}

// keyed is a row with its key and place.
type keyed struct {
	key  rowKey
	at   plan.Path
	b    *plan.Block
	row  *plan.Row
	used bool
}

// keysOf lists the rows of a class that other days can have too: rests are nobody's.
func keysOf(s *plan.Session) (out []keyed) {
	seen := map[string]int{}
	s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		if r.IsRest() {
			return
		}
		name := r.Name()
		if r.Inline == nil {
			name = movement.BaseSlug(name)
		}
		out = append(out, keyed{key: rowKey{name, seen[name]}, at: p, b: b, row: r})
		seen[name]++
	})
	return out
}

// rowEdits lists how the rows of a class were changed. Rows are told apart by their movement, and where it comes more than once by what stands in
// them: of three bird dogs of which one is gone it is the one that has no like.
func rowEdits(was, now *plan.Session) (out []rowEdit) {
	old, new := keysOf(was), keysOf(now)
	like := make([]int, len(new)) // the row of old that it was
	for i := range like {
		like[i] = -1
	}
	for _, same := range []func(a, b *keyed) bool{
		func(a, b *keyed) bool { return a.key.name == b.key.name && sameRow(a.row, b.row) },
		func(a, b *keyed) bool { return a.key.name == b.key.name },
	} {
		for i := range new {
			for k := range old {
				if like[i] < 0 && !old[k].used && same(&old[k], &new[i]) {
					like[i], old[k].used = k, true
				}
			}
		}
	}
	for i := range new {
		e := rowEdit{row: new[i].key, now: new[i].row}
		switch {
		case like[i] >= 0:
			if e.was = old[like[i]].row; sameRow(e.was, e.now) {
				continue
			}
			e.row = old[like[i]].key // other days know it by what it was
		case i > 0 && new[i-1].at.Section == new[i].at.Section:
			e.after = new[i-1].key
		case i+1 < len(new):
			e.after, e.before = new[i+1].key, true
		default:
			continue
		}
		out = append(out, e)
	}
	for i := len(old) - 1; i >= 0; i-- { // the last first, so that the nth stays the nth
		if !old[i].used {
			out = append(out, rowEdit{row: old[i].key, was: old[i].row})
		}
	}
	return out
}

// sameRow tells whether two rows say the same.
func sameRow(a, b *plan.Row) bool {
	return a.Level == b.Level && a.Dose.String() == b.Dose.String() && a.Sides == b.Sides && saidSide(a.Right) == saidSide(b.Right) && saidSide(a.Left) == saidSide(b.Left) &&
		a.Locked == b.Locked && a.Note == b.Note && slices.Equal(a.Options, b.Options) && (a.Options == nil) == (b.Options == nil) && a.Demo == b.Demo && a.Movement == b.Movement && a.SaysSame(b)
}

func saidSide(o *plan.Override) string {
	if o == nil {
		return ""
	}
	b, err := o.MarshalJSON()
	if err != nil {
		return fmt.Sprintf("%d %s", o.Level, o.Dose)
	}
	return string(b)
}

// carryAll does edits on another class, and tells whether any of them changed it.
func carryAll(edits []rowEdit, class *plan.Session, lib *movement.Library) (changed bool) {
	for _, e := range edits {
		changed = e.carry(class, lib) || changed
	}
	return changed
}

// carry does an edit on another class.
func (e *rowEdit) carry(class *plan.Session, lib *movement.Library) bool {
	rows := keysOf(class)
	find := func(k rowKey) *keyed {
		if i := slices.IndexFunc(rows, func(r keyed) bool { return r.key == k }); i >= 0 {
			return &rows[i]
		}
		return nil
	}
	at := find(e.row)
	switch {
	case e.now == nil: // taken out
		return at != nil && class.Delete(at.at) == nil
	case e.was != nil: // changed
		return at != nil && e.change(at.row, at.b)
	case slices.ContainsFunc(rows, func(r keyed) bool { return r.key.name == e.row.name && r.key.nth >= e.row.nth }): // it has it
		return false
	}
	next := find(e.after)
	if next == nil {
		return false
	}
	row := *e.now
	if next.b.On > 0 {
		return false // a circuit's clock gives the doses of its rows: what is said of this one would not count
	}
	p := next.at
	if e.before {
		p.Row--
		if p.Row == 0 { // before the first of a block
			next.b.Rows = slices.Insert(next.b.Rows, 0, row)
			return true
		}
	}
	_, err := class.AddIn(p, row, lib)
	return err == nil
}

// change writes into a row what was changed in the other; the dose of a row in a timed circuit is its clock's.
func (e *rowEdit) change(r *plan.Row, b *plan.Block) bool {
	was := *r
	if e.was.Movement != e.now.Movement {
		r.Movement = e.now.Movement
	}
	if e.was.Level != e.now.Level {
		r.Level = e.now.Level
	}
	if e.was.Dose.String() != e.now.Dose.String() && b.On == 0 {
		r.Dose = e.now.Dose
	}
	if e.was.Sides != e.now.Sides {
		r.Sides = e.now.Sides
	}
	if saidSide(e.was.Right) != saidSide(e.now.Right) || saidSide(e.was.Left) != saidSide(e.now.Left) {
		r.Right, r.Left = copied(e.now.Right), copied(e.now.Left)
	}
	if e.was.Locked != e.now.Locked {
		r.Locked = e.now.Locked
	}
	if e.was.Note != e.now.Note {
		r.Note = e.now.Note
	}
	if !slices.Equal(e.was.Options, e.now.Options) || (e.was.Options == nil) != (e.now.Options == nil) {
		r.Options = slices.Clone(e.now.Options)
	}
	if e.was.Demo != e.now.Demo {
		r.Demo = e.now.Demo
	}
	r.TakeSaid(e.was, e.now)
	if r.Contradicts() != nil { // sides that this day says otherwise
		*r = was
		return false
	}
	return !sameRow(&was, r)
}

func copied(o *plan.Override) *plan.Override {
	if o == nil {
		return nil
	}
	c := *o
	return &c
}

// saidEdits says what is carried: "Bird dog", "without Swan, with Teaser".
func saidEdits(edits []rowEdit, lib *movement.Library) string {
	var out []string
	for _, e := range edits {
		says := nameOf(lib, e.row.name)
		switch {
		case e.now == nil:
			says = "without " + says
		case e.was == nil:
			says = "with " + says
		}
		if !slices.Contains(out, says) {
			out = append(out, says)
		}
	}
	const most = 3
	if len(out) > most {
		out = append(out[:most-1], fmt.Sprintf("%d more rows", len(out)-most+1))
	}
	return strings.Join(out, ", ")
}
