package plan

import (
	"fmt"
	"slices"
)

// Rule is how the rows of a block are done.
type Rule uint8

// The rules of a block.
const (
	Straight Rule = iota // as listed
	Chain                // side by side: every row on the first side, then every row on the other
	Rounds               // a circuit, n times
	Flow                 // one out of the other, without stopping to explain
	BuildUp              // the first, then the first and the second, and so on, as one movement
)

var ruleNames = []string{"straight", "chain", "rounds", "flow", "build up"}

// String is the word.
func (r Rule) String() string { return wordOf(r, ruleNames, "Rule") }

// MarshalText writes the word.
func (r Rule) MarshalText() ([]byte, error) { return []byte(r.String()), nil }

// UnmarshalText reads the word.
func (r *Rule) UnmarshalText(b []byte) error {
	return word(r, ruleNames, b, "a rule: expected straight, chain, rounds, flow or build up")
}

// Talk is how much is explained.
type Talk uint8

// The dial of talk; the zero value is coached.
const (
	Coached Talk = iota
	Flowing
	FirstLesson
)

var talkNames = []string{"coached", "flowing", "first lesson"}

// String is the word.
func (t Talk) String() string { return wordOf(t, talkNames, "Talk") }

// UnmarshalText reads the word.
func (t *Talk) UnmarshalText(b []byte) error {
	return word(t, talkNames, b, "a way of talking: expected flowing, coached or first lesson")
}

// Tempo is how fast it is counted.
type Tempo uint8

// The dial of tempo; the zero value is even.
const (
	Even Tempo = iota
	Brisk
	Slow
)

var tempoNames = []string{"even", "brisk", "slow"}

// String is the word.
func (t Tempo) String() string { return wordOf(t, tempoNames, "Tempo") }

// Factor is what seconds per repetition are multiplied by (common practice, no source).
func (t Tempo) Factor() float64 {
	switch t {
	case Brisk:
		return .8
	case Slow:
		return 1.25
	}
	return 1
}

// UnmarshalText reads the word.
func (t *Tempo) UnmarshalText(b []byte) error {
	return word(t, tempoNames, b, "a tempo: expected brisk, even or slow")
}

// wordOf is a name by its place among them; a place that there is none at says so.
func wordOf[T ~uint8](v T, names []string, kind string) string {
	if int(v) >= len(names) {
		return fmt.Sprintf("%s(%d)", kind, uint8(v))
	}
	return names[v]
}

// word reads one of the names into its place among them; expected ends the error.
func word[T ~uint8](into *T, names []string, b []byte, expected string) error {
	i := slices.Index(names, string(b))
	if i < 0 {
		return fmt.Errorf("%q is not %s", b, expected)
	}
	*into = T(i)
	return nil
}
