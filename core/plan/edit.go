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

// Add puts a row behind the place; Row 0 puts it at the end of the section's last straight block,
// section 0 at the end of the class. It returns where the row went.
func (s *Session) Add(at Path, r Row) (Path, error) {
	if s.Rows() >= maxRows {
		return Path{}, fmt.Errorf("a session has at most %d rows", maxRows)
	}
	if len(s.Sections) == 0 {
		s.Sections = []Section{{Title: "Build"}}
	}
	if at.Section == 0 {
		at = Path{Section: len(s.Sections)}
	}
	if at.Section > len(s.Sections) {
		return Path{}, ErrNoRow
	}
	if at.Row > 0 {
		b := s.Block(at)
		if b == nil || at.Row > len(b.Rows) {
			return Path{}, ErrNoRow
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

// AddSection puts a new empty section behind section n (0: first) and returns its number.
func (s *Session) AddSection(n int, title string) (int, error) {
	title = strings.TrimSpace(title)
	switch {
	case title == "" || len([]rune(title)) > MaxTitle:
		return 0, fmt.Errorf("a section needs a title of at most %d characters", MaxTitle)
	case n < 0 || n > len(s.Sections):
		return 0, ErrNoRow
	case len(s.Sections) >= maxSections:
		return 0, fmt.Errorf("a session has at most %d sections", maxSections)
	}
	s.Sections = slices.Insert(s.Sections, n, Section{Title: title})
	return n + 1, nil
}

// Rename gives section n a title.
func (s *Session) Rename(n int, title string) error {
	title = strings.TrimSpace(title)
	if n < 1 || n > len(s.Sections) {
		return ErrNoRow
	}
	if title == "" || len([]rune(title)) > MaxTitle {
		return fmt.Errorf("a section needs a title of at most %d characters", MaxTitle)
	}
	s.Sections[n-1].Title = title
	return nil
}

// DeleteSection removes section n with its rows.
func (s *Session) DeleteSection(n int) error {
	if n < 1 || n > len(s.Sections) {
		return ErrNoRow
	}
	s.Sections = slices.Delete(s.Sections, n-1, n)
	return nil
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

func comparePaths(a, b Path) int {
	if a.Section != b.Section {
		return a.Section - b.Section
	}
	if a.Block != b.Block {
		return a.Block - b.Block
	}
	return a.Row - b.Row
}

// Duplicate puts a copy behind the row and returns its place.
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

// Wrap makes one block of neighbouring rows under a rule. Rows that are in a chain or circuit
// already are refused, as a chain in a chain cannot be taught.
func (s *Session) Wrap(at []Path, rule Rule, rounds int, on, off clock.Span) (Path, error) {
	if len(at) == 0 {
		return Path{}, errors.New("choose the rows first")
	}
	if rule == Straight {
		return Path{}, errors.New("rows are straight already")
	}
	at = slices.Clone(at)
	slices.SortFunc(at, comparePaths)
	first := at[0]
	b := s.Block(first)
	for i, p := range at {
		if s.Row(p) == nil {
			return Path{}, ErrNoRow
		}
		if s.Block(p).Rule != Straight {
			return Path{}, fmt.Errorf("row %s is in a %s already: take it out first", p, s.Block(p).Rule)
		}
		if p != (Path{first.Section, first.Block, first.Row + i}) {
			return Path{}, errors.New("choose rows that follow each other in one section")
		}
	}
	n := first.Row - 1
	before, mid, after := b.Rows[:n], b.Rows[n:n+len(at)], b.Rows[n+len(at):]
	wrapped := Block{Rule: rule, Rounds: max(1, rounds), Rows: slices.Clone(mid)}
	if rule == Rounds {
		if rounds < 1 || rounds > MaxRounds {
			return Path{}, fmt.Errorf("%d rounds: expected 1 to %d", rounds, MaxRounds)
		}
		wrapped.On, wrapped.Off = on, off
	} else {
		wrapped.Rounds = 1
	}
	var out []Block
	if len(before) > 0 {
		head := *b
		head.Rows = slices.Clone(before)
		out = append(out, head)
	}
	where := Path{first.Section, first.Block + len(out), 1}
	out = append(out, wrapped)
	if len(after) > 0 {
		tail := *b
		tail.Rows = slices.Clone(after)
		out = append(out, tail)
	}
	sec := &s.Sections[first.Section-1]
	sec.Blocks = slices.Replace(sec.Blocks, first.Block-1, first.Block, out...)
	return where, nil
}

// Unwrap makes the rows of a block straight again and returns the place of its first row.
func (s *Session) Unwrap(p Path) (Path, error) {
	b := s.Block(p)
	if b == nil {
		return Path{}, ErrNoRow
	}
	b.Rule, b.Rounds, b.On, b.Off, b.Rest = Straight, 1, 0, 0, 0
	at := Path{p.Section, p.Block, 1}
	s.tidy(&at)
	return at, nil
}

// tidy removes empty blocks and joins neighbouring straight ones; a place is carried along.
func (s *Session) tidy(at *Path) {
	for i := range s.Sections {
		sec := &s.Sections[i]
		var out []Block
		for j, b := range sec.Blocks {
			here := at != nil && at.Section == i+1 && at.Block == j+1
			if len(b.Rows) == 0 {
				continue
			}
			n := len(out)
			if n > 0 && b.Rule == Straight && out[n-1].Rule == Straight && out[n-1].Rest == b.Rest && b.extra == nil {
				if here {
					*at = Path{-(i + 1), n, at.Row + len(out[n-1].Rows)}
				}
				out[n-1].Rows = append(slices.Clip(out[n-1].Rows), b.Rows...)
				continue
			}
			out = append(out, b)
			if here {
				*at = Path{-(i + 1), n + 1, at.Row}
			}
		}
		sec.Blocks = out
	}
	if at != nil && at.Section < 0 {
		at.Section = -at.Section
	}
}

// SetDose gives the row, or with side one side of it, a dose.
func (s *Session) SetDose(p Path, side movement.Sides, d dose.Dose) error {
	r := s.Row(p)
	if r == nil {
		return ErrNoRow
	}
	if r.IsRest {
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
		if (*o).Dose.IsZero() && (*o).Level == 0 {
			*o = nil
		}
	}
}

// SetRest gives a rest row its time.
func (s *Session) SetRest(p Path, sp clock.Span) error {
	r := s.Row(p)
	if r == nil || !r.IsRest {
		return ErrNoRow
	}
	if sp <= 0 || sp > 10*clock.Minute {
		return errors.New("expected a rest from 1 s to 10 min")
	}
	r.Rest = sp
	return nil
}

// SetLevel gives the row a level and takes the same one on both sides.
func (s *Session) SetLevel(p Path, level int, lib *movement.Library) error {
	r := s.Row(p)
	if r == nil || r.IsRest {
		return ErrNoRow
	}
	m, err := r.Of(lib)
	if err != nil {
		return err
	}
	if level < 1 || level > len(m.Levels) {
		return fmt.Errorf("%s has levels 1 to %d", m.Name, len(m.Levels))
	}
	r.Level = level
	for _, o := range []*Override{r.Right, r.Left} {
		if o != nil {
			o.Level = 0
		}
	}
	r.dropSame()
	return nil
}

// SetSides gives the row a side rule; unsaid returns to the movement's own.
func (s *Session) SetSides(p Path, sides movement.Sides) error {
	r := s.Row(p)
	if r == nil || r.IsRest {
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

// SetBlock changes rounds, times and rest of a block; zero times are none.
func (s *Session) SetBlock(p Path, rounds int, on, off, rest clock.Span) error {
	b := s.Block(p)
	if b == nil {
		return ErrNoRow
	}
	if b.Rule == Rounds {
		switch {
		case rounds < 1 || rounds > MaxRounds:
			return fmt.Errorf("%d rounds: expected 1 to %d", rounds, MaxRounds)
		case on < 0 || off < 0 || on > 10*clock.Minute || off > 10*clock.Minute:
			return errors.New("expected times from 1 s to 10 min")
		case off > 0 && on == 0:
			return errors.New("an off time needs an on time")
		}
		b.Rounds, b.On, b.Off = rounds, on, off
	}
	if rest < 0 || rest > 10*clock.Minute {
		return errors.New("expected a rest from 1 s to 10 min")
	}
	b.Rest = rest
	return nil
}
