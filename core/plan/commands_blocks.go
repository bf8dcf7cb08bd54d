package plan

import (
	"context"
	"fmt"
	"slices"

	"wavekine/core/movement"
)

// wrapRounds is how many rounds a new circuit has until it is said otherwise.
const wrapRounds = 2

// WrapRows puts neighbouring rows under a rule: one side through, or a circuit.
type WrapRows struct {
	At   Paths `form:"at,parser=encoding.TextUnmarshaler"`
	Rule Rule  `form:"rule,parser=encoding.TextUnmarshaler"`
}

// Do wraps them.
func (c *WrapRows) Do(s *Session, _ *movement.Library) (Done, error) {
	at, err := s.Wrap(c.At, c.Rule, wrapRounds, 0, 0)
	return Done{map[Rule]string{Chain: "One side through", Rounds: "Circuit", Flow: "Flow", BuildUp: "Build up"}[c.Rule], at}, err
}

// UnwrapRows makes the rows of a block plain again.
type UnwrapRows struct {
	At Path `form:"at,parser=encoding.TextUnmarshaler"`
}

// Do takes the block apart.
func (c *UnwrapRows) Do(s *Session, _ *movement.Library) (Done, error) {
	at, err := s.Unwrap(c.At)
	return Done{"Take apart", at}, err
}

// SetBlock changes rounds, times and rest of a block.
type SetBlock struct {
	At     Path    `form:"at,parser=encoding.TextUnmarshaler"`
	Rounds Number  `form:"rounds,parser=encoding.TextUnmarshaler"`
	On     Seconds `form:"on,parser=encoding.TextUnmarshaler"`
	Off    Seconds `form:"off,parser=encoding.TextUnmarshaler"`
	Rest   Seconds `form:"rest,parser=encoding.TextUnmarshaler"`
}

// Do changes them.
func (c *SetBlock) Do(s *Session, _ *movement.Library) (Done, error) {
	return Done{"Change the block", c.At}, s.SetBlock(c.At, c.Rounds.Or(1), c.On.Span, c.Off.Span, c.Rest.Span)
}

// AddSection puts an empty section after another, by number from 1; 0 puts it first, unsaid at the end.
type AddSection struct {
	Section Number `form:"section,parser=encoding.TextUnmarshaler"`
	Title   string `form:"title"`
}

// Do puts it there.
func (c *AddSection) Do(s *Session, _ *movement.Library) (Done, error) {
	n, err := s.AddSection(c.Section.Or(len(s.Sections)), c.Title)
	if err != nil {
		return Done{}, err
	}
	return Done{Says: "Add section " + s.Sections[n-1].Title}, nil
}

// RenameSection gives a section another title.
type RenameSection struct {
	Section Number `form:"section,parser=encoding.TextUnmarshaler"`
	Title   string `form:"title"`
}

// Do renames it.
func (c *RenameSection) Do(s *Session, _ *movement.Library) (Done, error) {
	return Done{Says: "Rename section"}, s.Rename(c.Section.N, c.Title)
}

// DeleteSection removes a section with its rows.
type DeleteSection struct {
	Section Number `form:"section,parser=encoding.TextUnmarshaler"`
}

// Do removes it.
func (c *DeleteSection) Do(s *Session, _ *movement.Library) (Done, error) {
	says := "Delete section"
	if n := c.Section.N; n >= 1 && n <= len(s.Sections) {
		says += " " + s.Sections[n-1].Title
	}
	return Done{Says: says}, s.DeleteSection(c.Section.N)
}

// InsertPiece puts a piece after the section of a place, or at the end. Which one it is, is found by whoever makes
// the command: Piece only names it.
type InsertPiece struct {
	Piece    string    `form:"piece"`
	After    MaybePath `form:"after,parser=encoding.TextUnmarshaler"`
	Sections []Section `form:"-"`
}

// Do puts it in.
func (c *InsertPiece) Do(s *Session, _ *movement.Library) (Done, error) {
	n := len(s.Sections)
	if at := c.After.in(s); at.Section > 0 {
		n = at.Section
	}
	at, err := s.Insert(n, c.Sections)
	if err != nil {
		return Done{}, err
	}
	if s.Row(at) == nil { // a piece without rows
		at = Path{}
	}
	return Done{"Insert " + c.Sections[0].Title, at}, nil
}

// PasteLines adds every line of a text that is understood; it refuses a text with none.
type PasteLines struct {
	Text   string          `form:"text"`
	After  MaybePath       `form:"after,parser=encoding.TextUnmarshaler"`
	Within context.Context `form:"-"` // ends the reading; nil: nothing does
}

// Do adds them.
func (c *PasteLines) Do(s *Session, lib *movement.Library) (Done, error) {
	ctx := c.Within
	if ctx == nil {
		ctx = context.Background()
	}
	lines, err := LinesIn(ctx, c.Text, lib, s.Style)
	if err != nil {
		return Done{}, err
	}
	n := 0
	for _, l := range lines {
		if l.IsRow() {
			n += l.Count()
		}
	}
	lines = slices.DeleteFunc(lines, func(l TextLine) bool { return l.As == KeptLine })
	says := fmt.Sprintf("Paste %d rows", n)
	switch n {
	case 0:
		return Done{}, fmt.Errorf("no line of this was understood as a movement")
	case 1:
		says = "Paste a row"
	}
	at, err := s.AddLines(c.After.in(s), lines, lib)
	return Done{says, at}, err
}
