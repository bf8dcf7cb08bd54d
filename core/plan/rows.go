package plan

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
)

// Every edit works on the session it is given, or changes nothing and says why.

// ErrNoRow is returned for a place where there is no row.
var ErrNoRow = errors.New("there is no row at that place any more")

// Add puts a row after the place; Row 0 puts it at the end of the section's last straight block. Section 0 is
// after the last row of the class, in the section where that stands: a class without rows begins in its first
// section. It returns where the row went.
func (s *Session) Add(at Path, r Row) (Path, error) {
	if s.Rows() >= maxRows {
		return Path{}, fmt.Errorf("a session has at most %d rows", maxRows)
	}
	if len(s.Sections) == 0 {
		s.Sections = []Section{{Title: "Build"}}
	}
	if at.Section == 0 {
		at = Path{Section: s.lastUsed()}
	}
	if at.Section > len(s.Sections) {
		return Path{}, ErrNoRow
	}
	if at.Row > 0 {
		b := s.Block(at)
		if b == nil || at.Row > len(b.Rows) {
			return Path{}, ErrNoRow
		}
		if b.Rule == BuildUp && at.Row == len(b.Rows) { // what comes behind it is no part of it: a part is said with a plus
			sec := &s.Sections[at.Section-1]
			if at.Block == len(sec.Blocks) || !sec.Blocks[at.Block].plain() {
				sec.Blocks = slices.Insert(sec.Blocks, at.Block, Block{Rule: Straight, Rounds: 1})
			}
			next := &sec.Blocks[at.Block]
			next.Rows = slices.Insert(next.Rows, 0, r)
			return Path{at.Section, at.Block + 1, 1}, nil
		}
		b.Rows = slices.Insert(b.Rows, at.Row, r)
		return Path{at.Section, at.Block, at.Row + 1}, nil
	}
	sec := &s.Sections[at.Section-1]
	if n := len(sec.Blocks); n == 0 || sec.Blocks[n-1].Rule != Straight {
		sec.Blocks = append(sec.Blocks, Block{Rule: Straight, Rounds: 1})
	}
	b := &sec.Blocks[len(sec.Blocks)-1]
	b.Rows = append(b.Rows, r)
	return Path{at.Section, len(sec.Blocks), len(b.Rows)}, nil
}

// Delete takes rows out.
func (s *Session) Delete(at ...Path) error {
	for _, p := range at {
		if s.Row(p) == nil {
			return ErrNoRow
		}
	}
	at = slices.Clone(at)
	slices.SortFunc(at, func(a, b Path) int { return -comparePaths(a, b) })
	for _, p := range slices.Compact(at) {
		b := s.Block(p)
		b.Rows = slices.Delete(b.Rows, p.Row-1, p.Row)
	}
	s.tidy(nil)
	return nil
}

// lastUsed is the number of the section with the last row, the first where there is none.
func (s *Session) lastUsed() int {
	for i := len(s.Sections); i > 1; i-- {
		for _, b := range s.Sections[i-1].Blocks {
			if len(b.Rows) > 0 {
				return i
			}
		}
	}
	return 1
}

// Duplicate puts a copy after the row and returns its place.
func (s *Session) Duplicate(p Path) (Path, error) {
	r := s.Row(p)
	if r == nil {
		return Path{}, ErrNoRow
	}
	return s.Add(p, r.clone())
}

// Step moves a row one place up (-1) or down (+1): within its block, then out of it, into the next
// block or section. It returns where the row went; at the very end it stays.
func (s *Session) Step(p Path, by int) (Path, error) {
	r := s.Row(p)
	if r == nil {
		return Path{}, ErrNoRow
	}
	sec := &s.Sections[p.Section-1]
	b := &sec.Blocks[p.Block-1]
	if to := p.Row - 1 + by; to >= 0 && to < len(b.Rows) {
		b.Rows[p.Row-1], b.Rows[to] = b.Rows[to], b.Rows[p.Row-1]
		return Path{p.Section, p.Block, to + 1}, nil
	}
	moved := r.clone()
	alone := Block{Rule: Straight, Rounds: 1, Rows: []Row{moved}}
	next := p.Block - 1 + by
	at := Path{p.Section, p.Block, 1} // where it goes, before tidying
	switch {
	case b.Rule != Straight: // out of the chain or circuit
		if by > 0 {
			at.Block++
		}
		b.Rows = slices.Delete(b.Rows, p.Row-1, p.Row)
		sec.Blocks = slices.Insert(sec.Blocks, at.Block-1, alone)
	case next >= 0 && next < len(sec.Blocks): // into the neighbour
		n := &sec.Blocks[next]
		at.Block = next + 1
		if by < 0 {
			at.Row = len(n.Rows) + 1
		}
		n.Rows = slices.Insert(n.Rows, at.Row-1, moved)
		b.Rows = slices.Delete(b.Rows, p.Row-1, p.Row)
	default: // into the next section
		to := p.Section - 1 + by
		if to < 0 || to >= len(s.Sections) {
			return p, nil
		}
		b.Rows = slices.Delete(b.Rows, p.Row-1, p.Row)
		o := &s.Sections[to]
		at = Path{to + 1, 1, 1}
		if by > 0 {
			o.Blocks = slices.Insert(o.Blocks, 0, alone)
		} else {
			o.Blocks = append(o.Blocks, alone)
			at.Block = len(o.Blocks)
		}
	}
	s.tidy(&at)
	return at, nil
}

// Move takes rows out and puts them, in order, before the place; to.Row may be one past the end.
func (s *Session) Move(from []Path, to Path) (Path, error) {
	b := s.Block(to)
	if b == nil || to.Row < 1 || to.Row > len(b.Rows)+1 {
		return Path{}, ErrNoRow
	}
	from = slices.Clone(from)
	slices.SortFunc(from, comparePaths)
	from = slices.Compact(from)
	var rows []Row
	for _, p := range from {
		r := s.Row(p)
		if r == nil {
			return Path{}, ErrNoRow
		}
		rows = append(rows, r.clone())
	}
	at := to.Row - 1
	for i := len(from) - 1; i >= 0; i-- {
		p := from[i]
		fb := s.Block(p)
		fb.Rows = slices.Delete(fb.Rows, p.Row-1, p.Row)
		if p.Section == to.Section && p.Block == to.Block && p.Row < to.Row {
			at--
		}
	}
	b.Rows = slices.Insert(b.Rows, at, rows...)
	out := Path{to.Section, to.Block, at + 1}
	s.tidy(&out)
	return out, nil
}

// tidy removes empty blocks and joins neighbouring straight ones; a place is carried along.
func (s *Session) tidy(at *Path) {
	for i := range s.Sections {
		sec := &s.Sections[i]
		var out []Block
		to := Path{} // where the place has come to in this section
		for j, b := range sec.Blocks {
			here := at != nil && at.Section == i+1 && at.Block == j+1
			if len(b.Rows) == 0 {
				continue
			}
			n := len(out)
			if n > 0 && b.Joins(&out[n-1]) {
				if here {
					to = Path{i + 1, n, at.Row + len(out[n-1].Rows)}
				}
				out[n-1].Rows = append(slices.Clip(out[n-1].Rows), b.Rows...)
				continue
			}
			out = append(out, b)
			if here {
				to = Path{i + 1, n + 1, at.Row}
			}
		}
		sec.Blocks = out
		if to.Section > 0 {
			*at = to
			at = nil // carried: the sections behind it do not know the place
		}
	}
}

// plain tells whether it is straight and nothing is said of it.
func (b *Block) plain() bool {
	return b.Joins(&Block{})
}

// AddPart puts a row into a block behind the row of a place.
func (s *Session) AddPart(at Path, r Row) (Path, error) {
	b := s.Block(at)
	switch {
	case b == nil || at.Row < 1 || at.Row > len(b.Rows):
		return Path{}, ErrNoRow
	case s.Rows() >= maxRows:
		return Path{}, fmt.Errorf("a session has at most %d rows", maxRows)
	}
	r.Then = b.Rows[at.Row-1].Then
	b.Rows = slices.Insert(b.Rows, at.Row, r)
	return Path{at.Section, at.Block, at.Row + 1}, nil
}

// Joins tells whether the rows of a straight block may follow those of another as one: the same is said of both.
func (b *Block) Joins(to *Block) bool {
	return b.Rule == Straight && to.Rule == Straight && b.extra == nil && to.extra == nil && JoinClauses(b.Clauses()) == JoinClauses(to.Clauses())
}

// SetDose gives the row, or with side one side of it, a dose.
func (s *Session) SetDose(p Path, side movement.Sides, d dose.Dose) error {
	r := s.Row(p)
	if r == nil {
		return ErrNoRow
	}
	if r.IsRest() {
		return errors.New("a rest has a time, not a dose")
	}
	was := r.clone()
	switch side {
	case movement.RightOnly:
		r.Right = override(r.Right)
		r.Right.Dose = d
	case movement.LeftOnly:
		r.Left = override(r.Left)
		r.Left.Dose = d
	default:
		r.Dose = d
	}
	if side != movement.SidesUnsaid && d.Per != dose.Unsaid {
		*r = was
		return fmt.Errorf("the dose of one side cannot itself be per side: %q", d)
	}
	r.dropSame()
	if err := r.Contradicts(); err != nil {
		*r = was
		return err
	}
	return nil
}

func override(o *Override) *Override {
	if o == nil {
		return &Override{}
	}
	return o
}

// dropSame removes overrides that say nothing, or the same as the row.
func (r *Row) dropSame() {
	whole := r.Dose
	whole.Per = dose.Unsaid
	for _, o := range []**Override{&r.Right, &r.Left} {
		if *o == nil || (*o).extra != nil {
			continue
		}
		if (*o).Dose.Equal(whole) {
			(*o).Dose = dose.Dose{}
		}
		if (*o).Level == r.Level {
			(*o).Level = 0
		}
		if (*o).Dose.IsZero() && (*o).Level == 0 && (*o).Told.isZero() && (*o).Note == "" && (*o).Options == nil {
			*o = nil
		}
	}
}

// SetRest gives a rest row its time.
func (s *Session) SetRest(p Path, sp clock.Span) error {
	r := s.Row(p)
	if r == nil || !r.IsRest() {
		return ErrNoRow
	}
	if sp <= 0 || sp > MaxPause {
		return errors.New("expected a rest from 1 s to 10 min")
	}
	rest := *r.Rest
	rest.For = sp
	r.Rest = &rest // rows that were put in as one may share it
	return nil
}

// SetLevel gives the row a level and takes the same one on both sides.
func (s *Session) SetLevel(p Path, level int, lib *movement.Library) error {
	r := s.Row(p)
	if r == nil || r.IsRest() {
		return ErrNoRow
	}
	m, err := r.Of(lib)
	if err != nil {
		return err
	}
	if level < 1 || level > len(m.Levels) {
		return fmt.Errorf("%s has levels 1 to %d", m.Name, len(m.Levels))
	}
	was := m.As(r.Level)
	for i := range r.PartLevels { // a ladder within the row moves as a whole
		r.PartLevels[i] = min(max(1, r.PartLevels[i]+level-max(1, r.Level)), len(m.Levels))
	}
	r.Level = level
	r.fitSides(was, m.As(level))
	for _, o := range []*Override{r.Right, r.Left} {
		if o != nil {
			o.Level = 0
		}
	}
	r.dropSame()
	return nil
}

// fitSides says the dose of a row in the way its new level falls on the sides: sixteen alternating are eight of both together,
// ten pairs are ten each side.
func (r *Row) fitSides(was, now *movement.Movement) {
	if was.Sides == now.Sides || r.Sides != movement.SidesUnsaid || r.Dose.IsZero() {
		return
	}
	per := map[movement.Sides]dose.Per{movement.Each: dose.EachSide, movement.Alternating: dose.Pairs}[now.Sides]
	switch r.Dose.Per {
	case dose.Alternating:
		if n := r.Dose.Count(); n > 1 && now.Sides != movement.Alternating {
			r.Dose, _ = r.Dose.WithCount((n + 1) / 2)
			r.Dose.Per = per
		}
	case dose.Pairs, dose.EachSide:
		r.Dose.Per = per
	}
}

// SetSides gives the row a side rule; unsaid returns to the movement's own.
func (s *Session) SetSides(p Path, sides movement.Sides) error {
	r := s.Row(p)
	if r == nil || r.IsRest() {
		return ErrNoRow
	}
	was := r.clone()
	r.Sides = sides
	if sides == movement.Both || sides == movement.RightOnly || sides == movement.LeftOnly || sides == movement.Alternating {
		r.Right, r.Left = nil, nil
	}
	if r.Dose.Per != dose.Unsaid && r.Contradicts() != nil { // the side rule is the newer word
		r.Dose.Per = dose.Unsaid
	}
	if err := r.Contradicts(); err != nil {
		*r = was
		return err
	}
	return nil
}

// SetNote gives the row a note.
func (s *Session) SetNote(p Path, note string) error {
	r := s.Row(p)
	if r == nil {
		return ErrNoRow
	}
	if len([]rune(note)) > MaxNote {
		return fmt.Errorf("a note has at most %d characters", MaxNote)
	}
	r.Note = strings.TrimSpace(note)
	return nil
}
