package plan

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
)

// AddLine adds a row the way it is said, in the session's school, after a row or (with a row 0) at the end of a
// section; without a place, where Session.Add puts it.
type AddLine struct {
	Line  string    `form:"line"`
	After MaybePath `form:"after,parser=encoding.TextUnmarshaler"`
}

// MaybePath is a place in a form that may be left out, or be gone by now: then there is none.
type MaybePath struct{ Path }

// UnmarshalText reads "2.1.3"; nothing is no place.
func (p *MaybePath) UnmarshalText(b []byte) (err error) {
	p.Path = Path{}
	if t := strings.TrimSpace(string(b)); t != "" {
		p.Path, err = ParsePath(t)
	}
	return err
}

// in is the place where it still stands in the session.
func (p MaybePath) in(s *Session) Path {
	switch {
	case s.Row(p.Path) != nil:
		return p.Path
	case p.Row == 0 && p.Section >= 1 && p.Section <= len(s.Sections):
		return Path{Section: p.Section}
	}
	return Path{}
}

// Do adds it.
func (c *AddLine) Do(s *Session, lib *movement.Library) (Done, error) {
	if part, ok := strings.CutPrefix(strings.TrimSpace(c.Line), "+"); ok { // one more part of a build up
		at := c.After.in(s)
		if b := s.Block(at); b == nil || b.Rule != BuildUp || at.Row == 0 {
			return Done{}, &LineError{Column: 1, Word: "+", Says: "a part is added to a build up: go to a row of it first"}
		}
		row, err := s.LineAfter(at, strings.TrimSpace(part), lib)
		if err != nil {
			return Done{}, err
		}
		at, err = s.AddPart(at, row)
		return Done{"Add the part " + s.title(at, lib), at}, err
	}
	if l, ok := Many(c.Line, lib, s.Style); ok {
		at, err := s.AddLines(c.After.in(s), []TextLine{l}, lib)
		return Done{fmt.Sprintf("Add %d rows", l.Count()), at}, err
	}
	row, err := s.LineAfter(c.After.in(s), c.Line, lib)
	if err != nil {
		return Done{}, err
	}
	at, err := s.AddIn(c.After.in(s), row, lib)
	return Done{"Add " + s.title(at, lib), at}, err
}

// Reads is the row that the line means in the session, a plus in front of it left aside: that makes it a part of a build up.
func (c *AddLine) Reads(s *Session, lib *movement.Library) (Row, error) {
	line := c.Line
	if strings.HasPrefix(strings.TrimSpace(line), "+") {
		line = strings.Replace(line, "+", " ", 1) // the columns stay
	}
	return s.LineAfter(c.After.in(s), line, lib)
}

// MoveRows takes rows out and puts them before a place, or into an empty section.
type MoveRows struct {
	At Paths `form:"at,parser=encoding.TextUnmarshaler"`
	To Path  `form:"to,parser=encoding.TextUnmarshaler"`
}

// Do moves them.
func (c *MoveRows) Do(s *Session, lib *movement.Library) (Done, error) {
	if len(c.At) == 0 {
		return Done{}, errNoneChosen
	}
	says := "Move " + s.title(c.At[0], lib)
	if s.Block(c.To) != nil || c.To.Section < 1 || c.To.Section > len(s.Sections) {
		at, err := s.Move(c.At, c.To)
		return Done{says, at}, err
	}
	var rows []Row
	at := slices.Clone(c.At)
	slices.SortFunc(at, comparePaths)
	for _, p := range slices.Compact(at) {
		r := s.Row(p)
		if r == nil {
			return Done{}, ErrNoRow
		}
		rows = append(rows, r.clone())
	}
	if err := s.Delete(c.At...); err != nil {
		return Done{}, err
	}
	var first Path
	for i, r := range rows {
		to, err := s.Add(Path{Section: c.To.Section}, r)
		if err != nil {
			return Done{}, err
		}
		if i == 0 {
			first = to
		}
	}
	return Done{says, first}, nil
}

// StepRow moves a row one place up (-1) or down.
type StepRow struct {
	At Path   `form:"at,parser=encoding.TextUnmarshaler"`
	By Number `form:"by,parser=encoding.TextUnmarshaler"`
}

// Do moves it.
func (c *StepRow) Do(s *Session, lib *movement.Library) (Done, error) {
	by, word := 1, "down"
	if c.By.N < 0 {
		by, word = -1, "up"
	}
	says := "Move " + s.title(c.At, lib) + " " + word
	at, err := s.Step(c.At, by)
	return Done{says, at}, err
}

// DuplicateRow puts a copy after a row.
type DuplicateRow struct {
	At Path `form:"at,parser=encoding.TextUnmarshaler"`
}

// Do puts it there.
func (c *DuplicateRow) Do(s *Session, lib *movement.Library) (Done, error) {
	at, err := s.Duplicate(c.At)
	return Done{"Duplicate " + s.title(c.At, lib), at}, err
}

// DeleteRows takes rows out.
type DeleteRows struct {
	At Paths `form:"at,parser=encoding.TextUnmarshaler"`
}

// Do takes them out; the focus goes to what stands there then, or before it.
func (c *DeleteRows) Do(s *Session, lib *movement.Library) (Done, error) {
	if len(c.At) == 0 {
		return Done{}, errNoneChosen
	}
	says := "Delete " + s.title(c.At[0], lib)
	switch n := len(c.At) - 1; {
	case n == 1:
		says += " and another row"
	case n > 1:
		says += fmt.Sprintf(" and %d more rows", n)
	}
	err := s.Delete(c.At...)
	near := c.At[0]
	if s.Row(near) == nil {
		near.Row = max(1, near.Row-1)
	}
	if s.Row(near) == nil {
		near = Path{}
	}
	return Done{says, near}, err
}

// SideWord is a side in a form: "right", "left", or nothing for the whole row.
type SideWord struct{ movement.Sides }

// UnmarshalText reads it.
func (w *SideWord) UnmarshalText(b []byte) error {
	switch string(b) {
	case "":
		w.Sides = movement.SidesUnsaid
	case "right":
		w.Sides = movement.RightOnly
	case "left":
		w.Sides = movement.LeftOnly
	default:
		return fmt.Errorf("%q is not a side: expected right or left", Clip(string(b), maxShown))
	}
	return nil
}

// SetDose gives a row, or one side of it, a dose; a rest its time, a bare number being seconds.
type SetDose struct {
	At   Path     `form:"at,parser=encoding.TextUnmarshaler"`
	Side SideWord `form:"side,parser=encoding.TextUnmarshaler"`
	Dose string   `form:"dose"`
}

// Do gives it.
func (c *SetDose) Do(s *Session, lib *movement.Library) (Done, error) {
	text := strings.TrimSpace(c.Dose)
	if r := s.Row(c.At); r != nil && r.IsKept() {
		return Done{}, errors.New("nobody has understood that line yet: mend it first")
	}
	if r := s.Row(c.At); r != nil && r.IsRest() {
		if _, err := strconv.Atoi(text); err == nil {
			text += " s"
		}
		sp, err := clock.Parse(text)
		if err != nil {
			return Done{}, err
		}
		return Done{"Rest " + sp.Said(), c.At}, s.SetRest(c.At, sp)
	}
	d, err := dose.Parse(text)
	if r := s.Row(c.At); r != nil {
		if m, merr := r.Of(lib); merr == nil && m != nil {
			if right, left, ok := bySides(splitWords(text)); ok && c.Side.Sides == movement.SidesUnsaid {
				return c.bySides(s, lib, joinWords(right), joinWords(left), m)
			}
			d, err = s.StyleAt(c.At).DoseIn(m, text)
		}
	}
	if err != nil {
		return Done{}, err
	}
	says := s.title(c.At, lib) + ": " + d.String()
	if c.Side.Sides != movement.SidesUnsaid {
		says += " on the " + c.Side.String()
	}
	return Done{says, c.At}, s.SetDose(c.At, c.Side.Sides, d)
}

// bySides gives each side its own.
func (c *SetDose) bySides(s *Session, lib *movement.Library, right, left string, m *movement.Movement) (Done, error) {
	a, err := DoseFor(m, right)
	if err != nil {
		return Done{}, err
	}
	b, err := DoseFor(m, left)
	if err != nil {
		return Done{}, err
	}
	r := s.Row(c.At)
	if r == nil {
		return Done{}, ErrNoRow
	}
	r.Right, r.Left = nil, nil
	if err := s.SetDose(c.At, movement.SidesUnsaid, a); err != nil {
		return Done{}, err
	}
	return Done{fmt.Sprintf("%s: right %s, left %s", s.title(c.At, lib), a, b), c.At}, s.SetDose(c.At, movement.LeftOnly, b)
}

// SetLevel gives a row a level, or one more or fewer.
type SetLevel struct {
	At    Path   `form:"at,parser=encoding.TextUnmarshaler"`
	Level Number `form:"level,parser=encoding.TextUnmarshaler"`
	By    Number `form:"by,parser=encoding.TextUnmarshaler"`
}

// Do gives it.
func (c *SetLevel) Do(s *Session, lib *movement.Library) (Done, error) {
	r := s.Row(c.At)
	if r == nil {
		return Done{}, ErrNoRow
	}
	n := c.Level.N
	switch {
	case c.Level.Said:
	case c.By.Said:
		n = max(1, r.Level) + c.By.N
	default:
		return Done{}, errors.New("no level was given")
	}
	return Done{fmt.Sprintf("%s: level %d", s.title(c.At, lib), n), c.At}, s.SetLevel(c.At, n, lib)
}

// SidesWord is a side rule in a form: one of its words, "next" for the one after the row's own, or nothing for
// the movement's.
type SidesWord struct {
	Next  bool
	Sides movement.Sides
}

// UnmarshalText reads it.
func (w *SidesWord) UnmarshalText(b []byte) error {
	*w = SidesWord{}
	switch string(b) {
	case "":
		return nil
	case "next":
		w.Next = true
		return nil
	}
	return w.Sides.UnmarshalText(b)
}

// nextSides is how the key goes round.
var nextSides = map[movement.Sides]movement.Sides{
	movement.Each: movement.RightOnly, movement.RightOnly: movement.LeftOnly, movement.LeftOnly: movement.Alternating,
	movement.Alternating: movement.Both, movement.Both: movement.Each,
}

// SetSides gives a row a side rule.
type SetSides struct {
	At    Path      `form:"at,parser=encoding.TextUnmarshaler"`
	Sides SidesWord `form:"sides,parser=encoding.TextUnmarshaler"`
}

// Do gives it.
func (c *SetSides) Do(s *Session, lib *movement.Library) (Done, error) {
	r := s.Row(c.At)
	if r == nil || r.IsRest() {
		return Done{}, ErrNoRow
	}
	sides := c.Sides.Sides
	if c.Sides.Next {
		m, err := r.Of(lib)
		if err != nil {
			return Done{}, err
		}
		sides = nextSides[r.SideRule(m)]
	}
	err := s.SetSides(c.At, sides)
	return Done{s.title(c.At, lib) + ": sides " + sides.String(), c.At}, err
}

// SetNote gives a row a note; empty takes it away.
type SetNote struct {
	At   Path   `form:"at,parser=encoding.TextUnmarshaler"`
	Note string `form:"note"`
}

// Do gives it.
func (c *SetNote) Do(s *Session, lib *movement.Library) (Done, error) {
	return Done{"Note on " + s.title(c.At, lib), c.At}, s.SetNote(c.At, c.Note)
}

// LockRow locks a row against fitting, or unlocks it.
type LockRow struct {
	At Path `form:"at,parser=encoding.TextUnmarshaler"`
}

// Do turns the lock.
func (c *LockRow) Do(s *Session, lib *movement.Library) (Done, error) {
	r := s.Row(c.At)
	if r == nil {
		return Done{}, ErrNoRow
	}
	r.Locked = !r.Locked
	word := "Unlock "
	if r.Locked {
		word = "Lock "
	}
	return Done{word + r.Title(lib), c.At}, nil
}

// RenewRow takes the newest version of a studio's own movement.
type RenewRow struct {
	At Path `form:"at,parser=encoding.TextUnmarshaler"`
}

// Do takes it; levels that the newest version has not become its last.
func (c *RenewRow) Do(s *Session, lib *movement.Library) (Done, error) {
	r := s.Row(c.At)
	if r == nil || r.IsRest() || r.Inline != nil {
		return Done{}, ErrNoRow
	}
	m, ok := lib.Get(movement.BaseSlug(r.Movement))
	if !ok || !m.Own {
		return Done{}, errors.New("there is no newer version of that movement")
	}
	least := func(n int) int { return min(n, len(m.Levels)) }
	r.Movement, r.Level, r.Demo = m.Slug, least(r.Level), least(r.Demo)
	for _, o := range []*Override{r.Right, r.Left} {
		if o != nil {
			o.Level = least(o.Level)
		}
	}
	if r.Options != nil {
		r.Options = slices.DeleteFunc(slices.Clone(r.Options), func(n int) bool { return n > len(m.Levels) })
	}
	return Done{fmt.Sprintf("%s: version %d", m.Name, m.Version), c.At}, nil
}

// SetOptions says which levels are offered aloud for a row, and which one is shown.
type SetOptions struct {
	At      Path   `form:"at,parser=encoding.TextUnmarshaler"`
	Options string `form:"options"` // levels: "1 3"
	Demo    Number `form:"demo,parser=encoding.TextUnmarshaler"`
	Usual   string `form:"usual"` // anything: offer the usual ones again
}

// Do says it.
func (c *SetOptions) Do(s *Session, lib *movement.Library) (Done, error) {
	r := s.Row(c.At)
	if r == nil || r.IsRest() {
		return Done{}, ErrNoRow
	}
	m, err := r.Of(lib)
	if err != nil {
		return Done{}, err
	}
	wrong := fmt.Errorf("%s has levels 1 to %d", m.Name, len(m.Levels))
	opts := []int{}
	for _, w := range strings.Fields(c.Options) {
		n, err := strconv.Atoi(w)
		if err != nil || n < 1 || n > len(m.Levels) {
			return Done{}, wrong
		}
		if !slices.Contains(opts, n) {
			opts = append(opts, n)
		}
	}
	if c.Demo.N < 0 || c.Demo.N > len(m.Levels) {
		return Done{}, wrong
	}
	r.Options, r.Demo = opts, c.Demo.N
	if r.Demo == max(1, r.Level) {
		r.Demo = 0
	}
	if c.Usual != "" {
		r.Options = nil
	}
	return Done{"Options of " + m.Name, c.At}, nil
}
