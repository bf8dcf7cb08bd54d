package plan

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"wavekine/core/movement"
)

// Insert puts copies of sections after section n (0: first). An empty section of the name of a single one
// is filled instead, section n before any other. It gives where the first row went.
func (s *Session) Insert(n int, piece []Section) (Path, error) {
	if len(piece) == 0 {
		return Path{}, errors.New("which piece?")
	}
	n = max(0, min(n, len(s.Sections)))
	in := (&Session{Sections: piece}).Clone()
	if s.Rows()+in.Rows() > maxRows {
		return Path{}, fmt.Errorf("a session has at most %d rows", maxRows)
	}
	if len(piece) == 1 {
		fits := func(c Section) bool { return len(c.Blocks) == 0 && strings.EqualFold(c.Title, piece[0].Title) }
		at := slices.IndexFunc(s.Sections, fits)
		if n > 0 && fits(s.Sections[n-1]) {
			at = n - 1
		}
		if at >= 0 {
			s.Sections[at].Blocks = in.Sections[0].Blocks
			return Path{at + 1, 1, 1}, nil
		}
	}
	if len(s.Sections)+len(piece) > maxSections {
		return Path{}, fmt.Errorf("a session has at most %d sections", maxSections)
	}
	s.Sections = slices.Insert(s.Sections, n, in.Sections...)
	return Path{n + 1, 1, 1}, nil
}

// Pick is a piece of the chosen rows: one section of that title, whose chains and circuits hold what was
// chosen of them. A place without a row is ErrNoRow.
func (s *Session) Pick(title string, at []Path) (*Session, error) {
	chosen := map[Path]bool{}
	for _, p := range at {
		if s.Row(p) == nil {
			return nil, ErrNoRow
		}
		chosen[p] = true
	}
	out := &Session{Title: title, Sections: []Section{{Title: title}}}
	sec, last := &out.Sections[0], Path{}
	s.Clone().Each(func(p Path, b *Block, r *Row) {
		if !chosen[p] {
			return
		}
		if last.Section != p.Section || last.Block != p.Block {
			blk := *b
			blk.Rows = nil
			sec.Blocks = append(sec.Blocks, blk)
		}
		blk := &sec.Blocks[len(sec.Blocks)-1]
		blk.Rows = append(blk.Rows, *r)
		last = p
	})
	return out, nil
}

// PickRows makes a piece of chosen rows of a session, to be kept as a template.
type PickRows struct {
	Title string   `form:"title"`
	At    Paths    `form:"at,parser=encoding.TextUnmarshaler"`
	From  *Session `form:"-"`
}

// Do makes it.
func (c *PickRows) Do(s *Session, _ *movement.Library) (Done, error) {
	title, err := checkTitle("a template", c.Title)
	if err != nil {
		return Done{}, err
	}
	if len(c.At) == 0 {
		return Done{}, errNoneChosen
	}
	picked, err := c.From.Pick(title, c.At)
	if err != nil {
		return Done{}, err
	}
	*s = *picked
	return Done{Says: "Template " + title}, nil
}

// Piece is a part of a class that comes with the product, said as a class is said.
type Piece struct{ Title, Text string }

// BuiltIn are the pieces that come with the product.
func BuiltIn() []Piece { return slices.Clone(builtIn) }

var builtIn = []Piece{
	{"Arrive", "# Arrive\nrib breathing 6 breaths\npelvic tilt 8 reps\ncat and cow 5 reps"},
	{"Five abdominals", "# Five abdominals\nsingle leg stretch level 2 10 pairs\ndouble leg stretch level 1 8 reps\nrest 15 s head down, look right, look left\nscissors level 2 10 pairs\ndouble leg lower level 2 6 reps\nrest 15 s head down, look right, look left\ncriss-cross 8 pairs"},
	{"Settle", "# Settle\nknees to chest 4 breaths\nsupine twist 30 s each side\nconstructive rest 8 breaths"},
}

// Sections are the piece's sections, read in a library; the error names the first line that is not understood.
func (p Piece) Sections(lib *movement.Library) ([]Section, error) {
	lines, err := LinesIn(context.Background(), p.Text, lib, Style{})
	if err != nil {
		return nil, err
	}
	for _, l := range lines {
		if l.Err != nil {
			return nil, fmt.Errorf("%s: %w", p.Title, l.Err)
		}
	}
	s := &Session{}
	_, err = s.AddLines(Path{}, lines, lib)
	return s.Sections, err
}
