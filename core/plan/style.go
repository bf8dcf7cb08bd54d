package plan

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/dose"
	"wavekine/core/movement"
)

var saidSets = regexp.MustCompile(`(?i)\b(\d+)\s+sets\b`)

// LineIn reads a row the way it is said in a school: what "ten sets" means, what a bare number means on
// an alternating movement, and how a one-sided movement is done where nobody says. What was meant is
// written into the row, so that a later change of the house re-reads nothing.
func LineIn(text string, lib *movement.Library, st Style) (Row, error) {
	row, err := Line(text, lib)
	var le *LineError
	if errors.As(err, &le) && st.Sets == "pairs" && strings.Contains(le.Says, "pairs") && saidSets.MatchString(text) {
		if again, aerr := Line(saidSets.ReplaceAllString(text, "$1 pairs"), lib); aerr == nil {
			row, err = again, nil
		}
	}
	if err != nil || row.IsRest {
		return row, err
	}
	m, merr := row.Of(lib)
	if merr != nil || m == nil {
		return row, merr
	}
	bare := row.Dose.Per == dose.Unsaid && len(row.Dose.Parts) > 0 && row.Dose.Parts[0].Kind == dose.Reps
	switch {
	case bare && st.Count == "pairs" && row.SideRule(m) == movement.Alternating && row.Sides == movement.SidesUnsaid:
		row.Dose.Per = dose.Pairs
	case bare && st.Sides == "alternating" && row.SideRule(m) == movement.Each && row.Sides == movement.SidesUnsaid:
		row.Dose.Per = dose.Pairs
	}
	return row, nil
}

// LinesIn reads a pasted class in a school, see Lines and LineIn.
func LinesIn(text string, lib *movement.Library, st Style) ([]TextLine, error) {
	out, err := Lines(text, lib)
	for i := range out {
		if l := &out[i]; l.Section == "" {
			l.Row, l.Err = LineIn(unbullet(strings.TrimSpace(l.Raw)), lib, st)
		}
	}
	return out, err
}

// AddIn puts a row behind a place like Add; in a school that works side by side it joins a one-sided row
// in front of it into a chain, and a row without sides goes behind the chain.
func (s *Session) AddIn(at Path, r Row, lib *movement.Library) (Path, error) {
	if b := s.Block(at); s.Style.Sides == "chain" && b != nil && b.Rule == Chain && at.Row == len(b.Rows) && !oneSided(&r, lib) && s.Rows() < maxRows {
		sec := &s.Sections[at.Section-1] // the chain ends where a movement has no sides
		if next := at.Block; next < len(sec.Blocks) && sec.Blocks[next].Rule == Straight {
			sec.Blocks[next].Rows = slices.Insert(sec.Blocks[next].Rows, 0, r)
		} else {
			sec.Blocks = slices.Insert(sec.Blocks, next, Block{Rule: Straight, Rounds: 1, Rows: []Row{r}})
		}
		return Path{at.Section, at.Block + 1, 1}, nil
	}
	to, err := s.Add(at, r)
	if err != nil || s.Style.Sides != "chain" || !oneSided(&r, lib) {
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
	if r.IsRest {
		return false
	}
	m, err := r.Of(lib)
	return err == nil && m != nil && r.SideRule(m) == movement.Each
}

// maxCountdown is how many may be counted down aloud.
const maxCountdown = 20

// Set answers one question of the school: a key of StyleWords, "countdown" or "mirrored".
func (st *Style) Set(key, answer string) error {
	switch key {
	case "countdown":
		n, err := strconv.Atoi(answer)
		if err != nil || n < 0 || n > maxCountdown {
			return fmt.Errorf("count down the last 0 to %d", maxCountdown)
		}
		st.Countdown = n
		return nil
	case "mirrored":
		if answer != "yes" && answer != "no" {
			return fmt.Errorf("mirrored: %q: expected yes or no", answer)
		}
		st.Plain = answer == "no"
		return nil
	}
	words, ok := StyleWords[key]
	if !ok || !slices.Contains(words, answer) {
		return fmt.Errorf("%s: %q: expected one of %s", key, answer, strings.Join(words, ", "))
	}
	switch key {
	case "first_side":
		st.LeftFirst, st.ByDay = answer == "left", answer == "by day"
	case "switches":
		st.Switches, _ = strconv.Atoi(answer) // one of the words
	default:
		*st.word(key) = answer
	}
	return nil
}

// word is where the answer to a question that is answered in words stands; nil for the others.
func (st *Style) word(key string) *string {
	return map[string]*string{
		"pelvis": &st.Pelvis, "breath": &st.Breath, "order": &st.Order, "sides": &st.Sides, "sets": &st.Sets, "count": &st.Count,
		"warm_up": &st.WarmUp, "symmetry": &st.Symmetry,
	}[key]
}

// Answer is the answer in force to a question that Set knows; the product's own where the school says
// nothing.
func (st Style) Answer(key string) string {
	switch {
	case key == "countdown":
		return strconv.Itoa(st.Countdown)
	case key == "mirrored" && st.Plain:
		return "no"
	case key == "mirrored":
		return "yes"
	case key == "first_side" && st.ByDay:
		return "by day"
	case key == "first_side" && st.LeftFirst:
		return "left"
	case key == "switches" && st.Switches == 1:
		return "1"
	}
	if w := st.word(key); w != nil && *w != "" {
		return *w
	}
	return StyleWords[key][0]
}

// BreathPattern is the school's own way of breathing in words; empty where it follows the effort or is
// not said.
func (st Style) BreathPattern() string {
	return map[string]string{
		"nose-mouth": "in by the nose, out by the mouth", "nose-nose": "in and out by the nose", "free": "breathe as you like, only do not hold it",
	}[st.Breath]
}

// Breathing is what is said of the breath: the movement's own phases and the school's pattern.
func (st Style) Breathing(m *movement.Movement) string {
	if m == nil {
		return ""
	}
	pattern := st.BreathPattern()
	switch {
	case st.Breath == "free":
		return pattern
	case m.Breath == "" || pattern == "" || strings.Contains(m.Breath, "nose"):
		if m.Breath != "" {
			return m.Breath
		}
		return pattern
	}
	return m.Breath + "; " + pattern
}

// PelvisWords is what is said of the pelvis in abdominal work on the back; empty elsewhere or where the
// school says nothing.
func (st Style) PelvisWords(m *movement.Movement, level int) string {
	if m == nil || m.Posture != movement.Supine || m.Stretch || m.Regions["abdominals"]+m.Regions["deep core"] < .5 {
		return ""
	}
	up := m.Has(level, movement.LegsOut)
	switch st.Pelvis {
	case "neutral":
		return "Pelvis neutral."
	case "imprinted":
		return "Pelvis imprinted."
	case "by load":
		if up {
			return "Imprint while both legs are up."
		}
		return "Pelvis neutral while a foot is down."
	}
	return ""
}

// slowSwitch is how much longer one switch takes where a breath carries one each way instead of two;
// judgement.
const slowSwitch = 1.5

// SwitchFactor is what the seconds of a leg switch are multiplied by in this school.
func (st Style) SwitchFactor(m *movement.Movement) float64 {
	if st.Switches == 1 && strings.Contains(m.Pace.Class, "switch") {
		return slowSwitch
	}
	return 1
}
