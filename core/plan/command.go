package plan

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
)

// Command is one change of a session. It works on the session it is given, which Apply has copied, or changes
// nothing and says why. Nothing else changes a session that is stored.
type Command interface {
	Do(s *Session, lib *movement.Library) (Done, error)
}

// Done is what a command did, in words for the history, and which row has the focus then (a zero Path: none).
type Done struct {
	Says string
	At   Path
}

// Changed is a session after a command, checked: it can be stored and read again.
type Changed struct {
	Session *Session
	Sealed  Sealed
	Done
}

// maxSays is the longest entry of a history, in characters.
const maxSays = 160

// Apply does a command on a copy. The copy is given only where the reader's own limits take it; else the error
// is *Refused with the place, or the command's own, and nothing has changed.
func Apply(s *Session, lib *movement.Library, c Command) (Changed, error) {
	next := s.Clone()
	done, err := c.Do(next, lib)
	if err != nil {
		return Changed{}, err
	}
	next.Settle(lib)
	next.pin(lib)
	doc, err := Seal(next, lib)
	if err != nil {
		return Changed{}, err
	}
	done.Says = Clip(shown(done.Says), maxSays)
	return Changed{next, doc, done}, nil
}

// pin makes every row of a studio's own movement name the version it has now: a later version with fewer levels
// must not make the session unreadable.
func (s *Session) pin(lib *movement.Library) {
	s.Each(func(_ Path, _ *Block, r *Row) { r.Movement = pinned(r.Movement, lib) })
}

func pinned(slug string, lib *movement.Library) string {
	if movement.IsOwn(slug) {
		if m, ok := lib.Get(slug); ok {
			return m.Slug
		}
	}
	return slug
}

// New is a command on an empty session: whatever makes a session goes the same way as what changes one.
func New(lib *movement.Library, c Command) (Changed, error) {
	return Apply(&Session{Format: SessionFormat}, lib, c)
}

// Become puts a whole document in a session's place: a revision that is restored, an undone or redone state, a
// session that is read from a file or copied.
type Become struct {
	Session *Session
	Says    string
}

// Do puts it there.
func (c *Become) Do(s *Session, _ *movement.Library) (Done, error) {
	if c.Session == nil {
		return Done{}, errors.New("there is no session to put there")
	}
	*s = *c.Session.Clone()
	return Done{Says: c.Says}, nil
}

// Paths are places in a form: "1.1.1 1.1.2".
type Paths []Path

// UnmarshalText reads them.
func (ps *Paths) UnmarshalText(b []byte) error {
	*ps = nil
	for _, w := range strings.Fields(string(b)) {
		p, err := ParsePath(w)
		if err != nil {
			return err
		}
		if *ps = append(*ps, p); len(*ps) > maxRows {
			return fmt.Errorf("more than %d rows", maxRows)
		}
	}
	return nil
}

var errNoneChosen = errors.New("choose a row first")

// Number is a whole number in a form that may be left out.
type Number struct {
	Said bool
	N    int
}

// UnmarshalText reads it; nothing is not said.
func (n *Number) UnmarshalText(b []byte) error {
	t := strings.TrimSpace(string(b))
	if t == "" {
		*n = Number{}
		return nil
	}
	v, err := strconv.Atoi(t)
	if err != nil || v > 1e9 || v < -1e9 {
		return fmt.Errorf("%q is not a whole number", Clip(t, maxShown))
	}
	*n = Number{true, v}
	return nil
}

// Or is the number, or another where none was said.
func (n Number) Or(other int) int {
	if n.Said {
		return n.N
	}
	return other
}

// Seconds is a time in a form: a bare number is seconds, nothing or 0 is none.
type Seconds struct{ clock.Span }

// UnmarshalText reads "20", "20 s" or "1:30".
func (s *Seconds) UnmarshalText(b []byte) error {
	t := strings.TrimSpace(string(b))
	s.Span = 0
	if t == "" || t == "0" {
		return nil
	}
	if _, err := strconv.Atoi(t); err == nil {
		t += " s"
	}
	sp, err := clock.Parse(t)
	if err != nil {
		return err
	}
	s.Span = sp
	return nil
}

// Length is a length of a class in a form: a bare number is minutes, nothing is none.
type Length struct{ clock.Span }

// UnmarshalText reads "5", "5:00" or "5 min".
func (l *Length) UnmarshalText(b []byte) error {
	t := strings.TrimSpace(string(b))
	l.Span = 0
	if t == "" {
		return nil
	}
	if _, err := strconv.Atoi(t); err == nil {
		t += " min"
	}
	sp, err := clock.Parse(t)
	if err == nil && (sp <= 0 || sp > MaxTarget) {
		err = fmt.Errorf("%q: expected a length over 0, at most %s", Clip(t, maxShown), MaxTarget)
	}
	l.Span = sp
	return err
}

// title is the name of the movement of a row as the library has it; "row" where there is none.
func (s *Session) title(at Path, lib *movement.Library) string {
	r := s.Row(at)
	if r == nil {
		return "row"
	}
	return r.Title(lib)
}

// Title is the movement's name as the library has it, or "Rest".
func (r *Row) Title(lib *movement.Library) string {
	switch {
	case r.IsTurn():
		return strings.ToUpper(r.Rest.Turn[:1]) + r.Rest.Turn[1:]
	case r.IsKept():
		return "To mend: " + r.Rest.Kept
	case r.IsRest():
		return "Rest"
	}
	if m, err := r.Of(lib); err == nil && m != nil {
		return m.Name
	}
	return r.Name()
}
