package plan

import (
	"errors"
	"fmt"
	"slices"

	"wavekine/core/clock"
)

// AddSection puts a new empty section after section n (0: first) and returns its number.
func (s *Session) AddSection(n int, title string) (int, error) {
	title, err := checkTitle("a section", title)
	switch {
	case err != nil:
		return 0, err
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
	if n < 1 || n > len(s.Sections) {
		return ErrNoRow
	}
	title, err := checkTitle("a section", title)
	if err == nil {
		s.Sections[n-1].Title = title
	}
	return err
}

// DeleteSection removes section n with its rows.
func (s *Session) DeleteSection(n int) error {
	if n < 1 || n > len(s.Sections) {
		return ErrNoRow
	}
	s.Sections = slices.Delete(s.Sections, n-1, n)
	return nil
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
		tail.Title, tail.Note = "", ""
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
	*b = Block{Rule: Straight, Rounds: 1, Title: b.Title, Note: b.Note, Manner: b.Manner, Rows: b.Rows, extra: b.extra}
	at := Path{p.Section, p.Block, 1}
	s.tidy(&at)
	return at, nil
}

// SetBlock changes rounds, times and rest of a block; zero times are none.
func (s *Session) SetBlock(p Path, rounds int, on, off, rest clock.Span) error {
	b := s.Block(p)
	if b == nil {
		return ErrNoRow
	}
	if b.Rule == Rounds || b.Rule == Chain {
		switch {
		case b.Rule == Rounds && (rounds < 1 || rounds > MaxRounds):
			return fmt.Errorf("%d rounds: expected 1 to %d", rounds, MaxRounds)
		case on < 0 || off < 0 || on > MaxPause || off > MaxPause:
			return errors.New("expected times from 1 s to 10 min")
		case off > 0 && on == 0:
			return errors.New("an off time needs an on time")
		}
		if b.Rule == Rounds {
			b.Rounds = rounds
		}
		b.On, b.Off = on, off
		if on == 0 {
			b.LeadIn = nil
		}
		b.NoLastOff = b.NoLastOff && off > 0
	}
	if rest < 0 || rest > MaxPause {
		return errors.New("expected a rest from 1 s to 10 min")
	}
	b.Rest = rest
	return nil
}
