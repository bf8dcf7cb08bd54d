package plan

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/movement"
)

// Style is the answers of a school to what teachers disagree on. The zero value of each is not said: the product's own
// answer, the first of its words. A studio's house style is written into a session when it is made, so that changing the
// house later re-reads nothing.
type Style struct {
	First     FirstSide
	Pelvis    Pelvis
	Breath    BreathWay
	Mirror    Mirror
	Order     OrderWay
	Sides     SidesWay
	Sets      SetsWay
	Count     CountWay
	Switches  int // leg switches on each breath in and out: 2, or 1; 0 is not said
	WarmUp    WarmUpWay
	Symmetry  Symmetry
	Peak      PeakWay
	Seen      SeenWay
	Paced     PacedWay
	Offered   OfferedWay
	Countdown int // the last so many are counted down aloud; 0: counted up to the end
	extra     map[string]json.RawMessage
	said      bool
}

// The answers. Each type's zero value is not said.
type (
	FirstSide uint8 // which side begins
	Pelvis    uint8 // how the pelvis lies in abdominal work on the back
	BreathWay uint8 // how it is breathed
	Mirror    uint8 // whether whoever leads moves the other side than is said, for people face to face
	OrderWay  uint8 // whether rows follow the classical mat order
	SidesWay  uint8 // how new one-sided rows are put in
	SetsWay   uint8 // what "ten sets" means on an alternating movement
	CountWay  uint8 // what a bare number means on an alternating movement
	WarmUpWay uint8 // whether a separate warm-up has been done
	Symmetry  uint8 // whether both sides get the same
	PeakWay   uint8 // whether something follows the hardest part, or it is the finisher
	PacedWay  uint8 // what sets the time of a repetition
	SeenWay   uint8 // whether people are in the room or look through a camera

	OfferedWay uint8 // when easier and harder options are said
)

// The answers to each question; the first is the product's own.
const (
	RightFirst FirstSide = iota + 1
	LeftFirst
	FirstByDay // right on odd days of a series, left on even ones
)

const (
	PelvisByLoad Pelvis = iota + 1
	PelvisNeutral
	PelvisImprinted
)

const (
	NoseMouth BreathWay = iota + 1
	NoseNose
	BreathOnEffort
	BreathFree
)

const (
	Mirrored Mirror = iota + 1
	NotMirrored
)

const (
	FreeOrder OrderWay = iota + 1
	ClassicalOrder
)

const (
	EachInTurn SidesWay = iota + 1
	SidesInChain
	SidesAlternate
)

const (
	SetsByMovement SetsWay = iota + 1 // right and left once where it switches, front and back once in a kick, one repetition elsewhere
	AskSets
	SetsArePairs
)

const (
	CountSingles CountWay = iota + 1
	CountPairs
)

const (
	WarmUpInside WarmUpWay = iota + 1
	WarmUpAssumed
)

const (
	SameSides Symmetry = iota + 1
	MoreOnTheTighter
)

const (
	PeakBeforeEnd PeakWay = iota + 1
	PeakAtEnd             // a finisher
)

const (
	PacedByCount  PacedWay = iota + 1
	PacedByBreath          // one breath in and out a repetition
	PacedByHalf            // in on the way out, out on the way back: half a breath a repetition
)

const (
	SeenInRoom SeenWay = iota + 1
	SeenByCamera
)

const (
	OfferedFirst       OfferedWay = iota + 1 // both, before it begins
	OfferedOnTheClimb                        // the harder one when it goes well, the easier one before that
	OfferedWhenTooMuch                       // the easier one when it gets hard
)

// question is one question of the schools: its key in documents and forms, its words, and where its answer stands.
type question struct {
	key   string
	words []string
	get   func(*Style) uint8
	set   func(*Style, uint8)
}

func asks[T ~uint8](key string, at func(*Style) *T, words ...string) question {
	return question{key, words, func(st *Style) uint8 { return uint8(*at(st)) }, func(st *Style, n uint8) { *at(st) = T(n) }}
}

// questions are those that are answered with a word in a document; "mirrored", "switches" and "countdown" are not.
var questions = []question{
	asks("first_side", func(st *Style) *FirstSide { return &st.First }, "right", "left", "by day"),
	asks("pelvis", func(st *Style) *Pelvis { return &st.Pelvis }, "by load", "neutral", "imprinted"),
	asks("breath", func(st *Style) *BreathWay { return &st.Breath }, "nose-mouth", "nose-nose", "on effort", "free"),
	asks("order", func(st *Style) *OrderWay { return &st.Order }, "free", "classical"),
	asks("sides", func(st *Style) *SidesWay { return &st.Sides }, "each", "chain", "alternating"),
	asks("sets", func(st *Style) *SetsWay { return &st.Sets }, "by movement", "ask", "pairs"),
	asks("count", func(st *Style) *CountWay { return &st.Count }, "singles", "pairs"),
	asks("warm_up", func(st *Style) *WarmUpWay { return &st.WarmUp }, "inside", "assumed"),
	asks("symmetry", func(st *Style) *Symmetry { return &st.Symmetry }, "same", "more on the tighter side"),
	asks("peak", func(st *Style) *PeakWay { return &st.Peak }, "before the end", "a finisher"),
	asks("paced", func(st *Style) *PacedWay { return &st.Paced }, "by count", "a breath each", "half a breath each"),
	asks("offered", func(st *Style) *OfferedWay { return &st.Offered }, "first", "on the climb", "when it is too much"),
	asks("seen", func(st *Style) *SeenWay { return &st.Seen }, "in a room", "by a camera"),
}

// mirrorWords and switchWords answer the two questions that a document does not answer with a word.
var (
	mirrorWords = []string{"yes", "no"}
	switchWords = []string{"2", "1"}
)

// word is the answer to a question of the table in force; empty where it is not one of its words.
func (q question) word(st *Style) string {
	switch n := int(q.get(st)); {
	case n == 0:
		return q.words[0]
	case n <= len(q.words):
		return q.words[n-1]
	}
	return ""
}

// StyleWords are the words of the answers to a question, the product's own first; nil for one that is answered with a
// number, or that there is none of.
func StyleWords(key string) []string {
	switch key {
	case "mirrored":
		return slices.Clone(mirrorWords)
	case "switches":
		return slices.Clone(switchWords)
	}
	for _, q := range questions {
		if q.key == key {
			return slices.Clone(q.words)
		}
	}
	return nil
}

// StyleKeys lists every question by its key.
func StyleKeys() []string {
	out := make([]string, 0, len(questions)+3)
	for _, q := range questions {
		out = append(out, q.key)
	}
	return append(out, "switches", "mirrored", "countdown")
}

// Set answers one question of the school: a key of StyleKeys.
func (st *Style) Set(key, answer string) error {
	if key == "countdown" {
		n, err := strconv.Atoi(answer)
		if err != nil || n < 0 || n > maxCountdown {
			return fmt.Errorf("count down the last 0 to %d", maxCountdown)
		}
		st.Countdown = n
		return nil
	}
	words := StyleWords(key)
	n := slices.Index(words, answer)
	if words == nil {
		return fmt.Errorf("%q is no question of the schools: they are %s", key, strings.Join(StyleKeys(), ", "))
	}
	if n < 0 {
		return fmt.Errorf("%s: %q: expected one of %s", key, answer, strings.Join(words, ", "))
	}
	switch key {
	case "mirrored":
		st.Mirror = Mirror(n + 1)
	case "switches":
		st.Switches = len(switchWords) - n
	default:
		for _, q := range questions {
			if q.key == key {
				q.set(st, uint8(n+1))
			}
		}
	}
	return nil
}

// Answer is the answer in force to a question that Set knows; the product's own where the school says
// nothing.
func (st Style) Answer(key string) string {
	switch key {
	case "countdown":
		return strconv.Itoa(st.Countdown)
	case "mirrored":
		return mirrorWords[b2i(st.Mirror == NotMirrored)]
	case "switches":
		return switchWords[b2i(st.Switches == 1)]
	}
	for _, q := range questions {
		if q.key == key {
			return q.word(&st)
		}
	}
	return ""
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

// BreathPattern is the school's own way of breathing in words; empty where it follows the effort or is
// not said.
func (st Style) BreathPattern() string {
	switch st.Breath {
	case NoseMouth:
		return "in by the nose, out by the mouth"
	case NoseNose:
		return "in and out by the nose"
	case BreathFree:
		return "breathe as you like, only do not hold it"
	}
	return ""
}

// Breathing is what is said of the breath: the movement's own phases and the school's pattern.
func (st Style) Breathing(m *movement.Movement) string {
	if m == nil {
		return ""
	}
	pattern := st.BreathPattern()
	switch {
	case st.Breath == BreathFree:
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
	case PelvisNeutral:
		return "Pelvis neutral."
	case PelvisImprinted:
		return "Pelvis imprinted."
	case PelvisByLoad:
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
