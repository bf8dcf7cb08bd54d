package plan

import (
	"errors"
	"fmt"
	"slices"
	"strings"
)

// Insert puts copies of sections behind section n (0: first). An empty section of the name of a single one
// is filled instead, section n before any other. It gives where the first row went.
func (s *Session) Insert(n int, piece []Section) (Path, error) {
	if len(piece) == 0 {
		return Path{}, errors.New("which piece?")
	}
	n = max(0, min(n, len(s.Sections)))
	in := (&Session{Sections: piece}).Clone()
	switch {
	case s.Rows()+in.Rows() > maxRows:
		return Path{}, fmt.Errorf("a session has at most %d rows", maxRows)
	case len(s.Sections)+len(piece) > maxSections:
		return Path{}, fmt.Errorf("a session has at most %d sections", maxSections)
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
