package plan

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/movement"
)

// Style is the answers of a school to what teachers disagree on. The zero value of each is the product's
// own answer; a studio's house style is written into a session when it is made, so that changing the
// house later re-reads nothing.
type Style struct {
	LeftFirst bool
	ByDay     bool   // the first side changes with the day of a series: right on odd days
	Pelvis    string // "neutral", "by load", "imprinted"
	Breath    string // "nose-nose", "nose-mouth", "on effort", "free"
	Plain     bool   // whoever leads moves the side that is said; false: mirrored, the other one, for people face to face
	Order     string // "free", "classical": rows follow the classical mat order
	Sides     string // "each", "chain", "alternating": how new one-sided rows are put in
	Sets      string // "pairs", "ask": what "ten sets" means on an alternating movement
	Count     string // "singles", "pairs": what a bare number means on an alternating movement
	Switches  int    // leg switches on each breath in and out: 2, or 1; 0 is 2
	WarmUp    string // "inside", "assumed": a separate warm-up has been done
	Symmetry  string // "same", "more on the tighter side"
	Countdown int    // the last so many are counted down aloud; 0: counted up to the end
	extra     map[string]json.RawMessage
	said      bool
	saidFirst bool
	saidMirr  bool
}

var (
	pelvisWords = []string{"neutral", "by load", "imprinted"}
	breathWords = []string{"nose-nose", "nose-mouth", "on effort", "free"}
)

// StyleWords are the words of each answer, in the order they are offered; the first is the product's own.
var StyleWords = map[string][]string{
	"first_side": {"right", "left", "by day"}, "pelvis": {"by load", "neutral", "imprinted"}, "breath": {"nose-mouth", "nose-nose", "on effort", "free"},
	"order": {"free", "classical"}, "sides": {"each", "chain", "alternating"}, "sets": {"ask", "pairs"}, "count": {"singles", "pairs"},
	"switches": {"2", "1"}, "warm_up": {"inside", "assumed"}, "symmetry": {"same", "more on the tighter side"},
}

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
