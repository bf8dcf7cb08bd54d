package plan

import (
	"errors"
	"regexp"
	"slices"

	"wavekine/core/dose"
	"wavekine/core/movement"
)

var saidSets = regexp.MustCompile(`(?i)\b(\d+)\s+sets\b`)

// LineIn reads a row the way it is said in a school: what "ten sets" means, what a bare number means on
// an alternating movement, and how a one-sided movement is done where nobody says. What was meant is
// written into the row, so that a later change of the house re-reads nothing.
func LineIn(text string, lib *movement.Library, st Style) (Row, error) {
	row, err := Line(text, lib)
	var de *dose.Error
	if errors.As(err, &de) && st.Sets == SetsArePairs && de.Could(dose.Pairs) && saidSets.MatchString(text) {
		if again, aerr := Line(saidSets.ReplaceAllString(text, "$1 pairs"), lib); aerr == nil {
			row, err = again, nil
		}
	}
	if err != nil || row.IsRest() {
		return row, err
	}
	m, merr := row.Of(lib)
	if merr != nil || m == nil {
		return row, merr
	}
	bare := row.Dose.Per == dose.Unsaid && len(row.Dose.Parts) > 0 && row.Dose.Parts[0].Kind == dose.Reps
	switch {
	case bare && st.Count == CountPairs && row.SideRule(m) == movement.Alternating && row.Sides == movement.SidesUnsaid:
		row.Dose.Per = dose.Pairs
	case bare && st.Sides == SidesAlternate && row.SideRule(m) == movement.Each && row.Sides == movement.SidesUnsaid:
		row.Dose.Per = dose.Pairs
	}
	return row, nil
}

// AddIn puts a row behind a place like Add; in a school that works side by side it joins a one-sided row
// in front of it into a chain, and a row without sides goes behind the chain.
func (s *Session) AddIn(at Path, r Row, lib *movement.Library) (Path, error) {
	if b := s.Block(at); s.Style.Sides == SidesInChain && b != nil && b.Rule == Chain && at.Row == len(b.Rows) && !oneSided(&r, lib) && s.Rows() < maxRows {
		sec := &s.Sections[at.Section-1] // the chain ends where a movement has no sides
		if next := at.Block; next < len(sec.Blocks) && sec.Blocks[next].Rule == Straight {
			sec.Blocks[next].Rows = slices.Insert(sec.Blocks[next].Rows, 0, r)
		} else {
			sec.Blocks = slices.Insert(sec.Blocks, next, Block{Rule: Straight, Rounds: 1, Rows: []Row{r}})
		}
		return Path{at.Section, at.Block + 1, 1}, nil
	}
	to, err := s.Add(at, r)
	if err != nil || s.Style.Sides != SidesInChain || !oneSided(&r, lib) {
		return to, err
	}
	if b := s.Block(to); b.Rule == Straight && to.Row > 1 && oneSided(&b.Rows[to.Row-2], lib) {
		where, err := s.Wrap([]Path{{to.Section, to.Block, to.Row - 1}, to}, Chain, 1, 0, 0)
		if err != nil {
			return to, nil // it stands as added
		}
		return Path{where.Section, where.Block, 2}, nil
	}
	if b := s.Block(to); b.Rule == Straight && to.Row == 1 && len(b.Rows) == 1 && to.Block > 1 {
		if prev := s.Block(Path{to.Section, to.Block - 1, 1}); prev.Rule == Chain {
			prev.Rows = append(prev.Rows, r)
			b.Rows = nil
			out := Path{to.Section, to.Block - 1, len(prev.Rows)}
			s.tidy(&out)
			return out, nil
		}
	}
	return to, nil
}

func oneSided(r *Row, lib *movement.Library) bool {
	if r.IsRest() {
		return false
	}
	m, err := r.Of(lib)
	return err == nil && m != nil && r.SideRule(m) == movement.Each
}
