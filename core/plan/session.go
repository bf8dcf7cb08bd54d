// Package plan holds the documents: sessions and series, read strictly and written back as they
// were, and the edits a teacher makes to them.
package plan

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
)

// SessionFormat is the format this version writes.
const SessionFormat = "wavekine.session/1"

// Session is a class: sections of blocks of rows, with a promised length and a style.
type Session struct {
	Format   string
	Title    string
	Focus    []string
	Target   clock.Span // the promised length; 0: none
	BPM      float64    // beats a minute; 0: counted freely
	Talk     Talk
	Tempo    Tempo
	Style    Style
	Audience string
	Note     string
	Aside    []Aside // findings set aside
	Sections []Section
	saidPace bool
	extra    map[string]json.RawMessage
}

// Section is a named stretch of a class.
type Section struct {
	Title  string
	Blocks []Block
	extra  map[string]json.RawMessage
}

// Block is rows under one rule.
type Block struct {
	Rule    Rule
	Rounds  int        // times through; 1 unless the rule is rounds
	On, Off clock.Span // of a timed circuit
	Rest    clock.Span // between rows, between the sides of a chain, or between rounds
	Rows    []Row
	extra   map[string]json.RawMessage
}

// Override is what one side does differently.
type Override struct {
	Dose  dose.Dose
	Level int // 0: as the row
	extra map[string]json.RawMessage
}

// Inline is a movement written into the plan because no library has it.
type Inline struct {
	Name    string
	Posture movement.Posture
	Sides   movement.Sides
	PerRep  clock.Span
	Effort  float64
	extra   map[string]json.RawMessage
}

// Rest is a pause that has a row of its own.
type Rest struct {
	For clock.Span // 0: as long as a rest usually is
	Say string     // what is said in it
}

// Row is a movement at a level with a dose and a side rule, or a rest: then nothing of it is said but its note and
// whether it is locked.
type Row struct {
	Movement string  // slug; empty for a rest or an inline movement
	Inline   *Inline // nil unless the movement is written into the plan
	Rest     *Rest   // nil unless the row is a rest
	Level    int     // 0: not said, the first
	Dose     dose.Dose
	Sides    movement.Sides // unsaid: as the movement has it
	Right    *Override
	Left     *Override
	Locked   bool
	Note     string
	Options  []int // levels offered aloud; nil: the next easier and the next harder; empty: none
	Demo     int   // the level that is shown; 0: the row's own
	extra    map[string]json.RawMessage
}

// IsRest tells whether the row is a rest.
func (r *Row) IsRest() bool { return r.Rest != nil }

// Name is the movement's slug, or the inline name.
func (r *Row) Name() string {
	switch {
	case r.IsRest():
		return "rest"
	case r.Inline != nil:
		return r.Inline.Name
	}
	return r.Movement
}

// Of finds the row's movement in a library, or makes it from what the row says.
// A rest has none. The error names what is missing.
func (r *Row) Of(lib *movement.Library) (*movement.Movement, error) {
	switch {
	case r.IsRest():
		return nil, nil
	case r.Inline != nil:
		return movement.InlineMovement(r.Inline.Name, r.Inline.Posture, r.Inline.Sides, r.Inline.PerRep, r.Inline.Effort)
	}
	m, ok := lib.Get(r.Movement)
	if !ok {
		return nil, fmt.Errorf("no movement %q in the library", r.Movement)
	}
	return m, nil
}

// standardDose is the dose of a movement for which neither the row nor the movement says one.
var standardDose = dose.Dose{Parts: []dose.Part{{Kind: dose.Reps, Count: 8}}}

// DoseOf is the dose in force on the row, given its movement: its own, or the movement's usual one; where the row
// says how it falls on the sides, that is the newer word.
func (r *Row) DoseOf(m *movement.Movement) dose.Dose {
	if !r.Dose.IsZero() {
		return r.Dose
	}
	d := m.Dose
	if d.IsZero() {
		d = standardDose
	}
	if r.Sides != movement.SidesUnsaid {
		d.Per = dose.Unsaid
	}
	return d
}

// SideRule is how the row falls on the sides, given its movement.
func (r *Row) SideRule(m *movement.Movement) movement.Sides {
	if r.Sides != movement.SidesUnsaid {
		return r.Sides
	}
	switch r.Dose.Per {
	case dose.Alternating, dose.Pairs:
		return movement.Alternating
	case dose.EachSide:
		if m.Sides == movement.Both {
			return movement.Each
		}
	}
	return m.Sides
}

// Each visits every row in order.
func (s *Session) Each(visit func(p Path, b *Block, r *Row)) {
	for i := range s.Sections {
		for j := range s.Sections[i].Blocks {
			b := &s.Sections[i].Blocks[j]
			for k := range b.Rows {
				visit(Path{i + 1, j + 1, k + 1}, b, &b.Rows[k])
			}
		}
	}
}

// Row finds a row; nil when there is none.
func (s *Session) Row(p Path) *Row {
	b := s.Block(p)
	if b == nil || p.Row < 1 || p.Row > len(b.Rows) {
		return nil
	}
	return &b.Rows[p.Row-1]
}

// Block finds a block; nil when there is none.
func (s *Session) Block(p Path) *Block {
	if p.Section < 1 || p.Section > len(s.Sections) {
		return nil
	}
	sec := &s.Sections[p.Section-1]
	if p.Block < 1 || p.Block > len(sec.Blocks) {
		return nil
	}
	return &sec.Blocks[p.Block-1]
}

// Rows counts them.
func (s *Session) Rows() (n int) {
	s.Each(func(Path, *Block, *Row) { n++ })
	return n
}

// ForDay is the session as it is done on a day of a series, from 1: a first side that goes by the day is
// settled.
func (s *Session) ForDay(day int) *Session {
	if s.Style.First != FirstByDay {
		return s
	}
	c := s.Clone()
	c.Style.First = RightFirst
	if day%2 == 0 {
		c.Style.First = LeftFirst
	}
	return c
}

// Contradicts tells whether what the row says of its sides does not go together.
func (r *Row) Contradicts() error {
	per, sides := r.Dose.Per, r.Sides
	switch {
	case per != dose.Unsaid && (sides == movement.RightOnly || sides == movement.LeftOnly):
		return fmt.Errorf("sides that contradict: only the %s side, but the dose is %q", sides, r.Dose)
	case per == dose.EachSide && sides == movement.Both:
		return fmt.Errorf("sides that contradict: both at once, but the dose is %q", r.Dose)
	case (per == dose.Pairs || per == dose.Alternating) && sides != movement.SidesUnsaid && sides != movement.Alternating:
		return fmt.Errorf("sides that contradict: %s, but the dose is %q", sides, r.Dose)
	case (r.Right != nil || r.Left != nil) && (sides == movement.Both || sides == movement.RightOnly && r.Left != nil || sides == movement.LeftOnly && r.Right != nil):
		return fmt.Errorf("sides that contradict: %s, but one side is given a dose of its own", sides)
	}
	return nil
}

// Clone is a copy that shares nothing that edits change.
func (s *Session) Clone() *Session {
	c := *s
	c.Focus, c.Aside = slices.Clone(s.Focus), slices.Clone(s.Aside)
	c.Sections = slices.Clone(s.Sections)
	for i := range c.Sections {
		c.Sections[i].Blocks = slices.Clone(c.Sections[i].Blocks)
		for j := range c.Sections[i].Blocks {
			b := &c.Sections[i].Blocks[j]
			b.Rows = slices.Clone(b.Rows)
			for k := range b.Rows {
				b.Rows[k] = b.Rows[k].clone()
			}
		}
	}
	return &c
}

func (r Row) clone() Row {
	r.Dose.Parts = slices.Clone(r.Dose.Parts)
	for _, o := range []**Override{&r.Right, &r.Left} {
		if *o != nil {
			c := **o
			c.Dose.Parts = slices.Clone(c.Dose.Parts)
			*o = &c
		}
	}
	if r.Inline != nil {
		in := *r.Inline
		r.Inline = &in
	}
	if r.Rest != nil {
		rest := *r.Rest
		r.Rest = &rest
	}
	r.Options = slices.Clone(r.Options)
	return r
}

// Where says where a row stands: "after row 4, in Build", "first, in Arrive".
func (s *Session) Where(p Path) string {
	n := s.number(p)
	if n == 0 {
		return ""
	}
	in := s.Sections[p.Section-1].Title
	if n == 1 {
		return "first, in " + in
	}
	return "after row " + strconv.Itoa(n-1) + ", in " + in
}
