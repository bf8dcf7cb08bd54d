// Package plan holds the documents: sessions and series, read strictly and written back as they
// were, and the edits a teacher makes to them.
package plan

import (
	"encoding/json"
	"slices"
	"strconv"

	"wavekine/core/clock"
	"wavekine/core/movement"
)

// SessionFormat is the format this version writes.
const SessionFormat = "wavekine.session/1"

// SessionFormatSaid is that of a session with words of what teachers say: a movement read from its name, with all that is known of it, and doses with
// ranges, speeds and holds in every repetition. A session is written in the lowest version that has its words.
const SessionFormatSaid = "wavekine.session/1.1"

// SessionFormatLed is that of a session with words of how it is led: opening and closing, which way the teacher faces and where on the mat.
const SessionFormatLed = "wavekine.session/1.3"

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
	Audience movement.Audience
	Note     string
	Opening  string  // what is said before the first movement; empty: as it is written from the plan
	Closing  string  // and after the last
	Whole    bool    // the length asked for is that of the whole class, with opening and closing; else of what is moved
	Aside    []Aside // findings set aside
	Sections []Section
	saidPace bool
	extra    map[string]json.RawMessage
}

// Section is a named stretch of a class.
type Section struct {
	Title  string
	Note   string
	Manner Manner
	Blocks []Block
	extra  map[string]json.RawMessage
}

// Block is rows under one rule.
type Block struct {
	Rule      Rule
	Title     string
	Note      string
	Manner    Manner
	Rounds    int         // times through; 1 unless the rule is rounds
	On, Off   clock.Span  // of a timed circuit or chain
	LeadIn    *clock.Span // before a timed block begins; nil: the set-up of its first row
	NoLastOff bool        // the last row's time off is left out
	Rest      clock.Span  // between rows, between the sides of a chain or a build up, or between rounds
	Between   string      // what is said or done there
	Second    SecondSide  // of a build up
	Rows      []Row
	extra     map[string]json.RawMessage
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
