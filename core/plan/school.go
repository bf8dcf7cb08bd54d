package plan

import (
	"errors"
	"regexp"
	"slices"
	"strconv"

	"wavekine/core/dose"
	"wavekine/core/movement"
)

// setsAndReps are sets with their repetitions after a comma: "four sets, eight repetitions".
var setsAndReps = regexp.MustCompile(`(?i)\b(\d+)\s+sets\s*,\s*(\d+)\s*(?:reps?|repetitions?)\b`)

var saidSets = regexp.MustCompile(`(?i)\b(\d+)\s+sets\b`)

// LineIn reads a row the way it is said in a school: what "ten sets" means, what a bare number means on
// an alternating movement, and how a one-sided movement is done where nobody says. What was meant is
// written into the row, so that a later change of the house re-reads nothing.
func LineIn(text string, lib *movement.Library, st Style) (Row, error) {
	row, err := Line(text, lib)
	if asksSets(err, text) && st.Sets != AskSets {
		if plain, perr := Line(saidSets.ReplaceAllString(text, "$1 reps"), lib); perr == nil && !plain.IsRest() { // what it is of
			if m, merr := plain.Of(lib); merr == nil && m != nil {
				if again, aerr := Line(st.setsOf(m, text), lib); aerr == nil {
					row, err = again, nil
				}
			}
		}
	}
	if err != nil || row.IsRest() {
		return row, err
	}
	m, merr := row.Of(lib)
	if merr != nil || m == nil {
		return row, merr
	}
	return st.counted(row, m), nil
}

// counted says of a bare count what it counts in a school.
func (st Style) counted(row Row, m *movement.Movement) Row {
	bare := row.Dose.Per == dose.Unsaid && len(row.Dose.Parts) > 0 && row.Dose.Parts[0].Kind == dose.Reps
	switch {
	case bare && st.Count == CountPairs && row.SideRule(m) == movement.Alternating && row.Sides == movement.SidesUnsaid:
		row.Dose.Per = dose.Pairs
	case bare && st.Sides == SidesAlternate && row.SideRule(m) == movement.Each && row.Sides == movement.SidesUnsaid:
		row.Dose.Per = dose.Pairs
	}
	return row
}

// asksSets tells whether a dose was refused because nobody says what its sets are.
func asksSets(err error, text string) bool {
	var de *dose.Error
	return errors.As(err, &de) && de.Could(dose.Pairs) && saidSets.MatchString(text)
}

// setsOf says what "ten sets" means for a movement: in a school where they are pairs right and left once; else what the movement makes of it (common practice,
// no source).
func (st Style) setsOf(m *movement.Movement, text string) string {
	if f := setsAndReps.FindStringSubmatch(text); f != nil {
		sets, _ := strconv.Atoi(f[1])
		reps, _ := strconv.Atoi(f[2])
		if m.Sides == movement.Alternating && reps == 2*sets { // the same said twice: a set is right and left once
			return setsAndReps.ReplaceAllString(text, "$1 pairs")
		}
		return setsAndReps.ReplaceAllString(text, "$1 x $2 reps")
	}
	switch {
	case st.Sets == SetsArePairs, m.Sides == movement.Alternating:
		return saidSets.ReplaceAllString(text, "$1 pairs")
	case onOf(m).Ways:
		return saidSets.ReplaceAllString(text, "$1 each way")
	}
	return saidSets.ReplaceAllString(text, "$1 reps")
}

var saidPairs = regexp.MustCompile(`\b(\d+) pairs\b`)

// SaysSets says words of a dose with the school's own word: where its sets are pairs, "10 pairs" are ten sets to it.
func (st Style) SaysSets(words string) string {
	if st.Sets != SetsArePairs {
		return words
	}
	return saidPairs.ReplaceAllString(words, "$1 sets")
}

// DoseIn reads a dose of a movement in a school, as DoseFor: what its sets are is the school's or the movement's.
func (st Style) DoseIn(m *movement.Movement, text string) (dose.Dose, error) {
	d, err := DoseFor(m, text)
	if asksSets(err, text) && st.Sets != AskSets {
		if again, aerr := DoseFor(m, st.setsOf(m, text)); aerr == nil {
			return again, nil
		}
	}
	return d, err
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
