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
)

var ruleNames = []string{"straight", "chain", "rounds"}

func (r Rule) String() string { return ruleNames[r] }

// MarshalText writes the word.
func (r Rule) MarshalText() ([]byte, error) { return []byte(r.String()), nil }

// UnmarshalText reads the word.
func (r *Rule) UnmarshalText(b []byte) error {
	return word(r, ruleNames, b, "a rule: expected straight, chain or rounds")
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

func (t Talk) String() string { return talkNames[t] }

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

func (t Tempo) String() string { return tempoNames[t] }

// Factor is what seconds per repetition are multiplied by (common practice, no source).
func (t Tempo) Factor() float64 { return [...]float64{1, .8, 1.25}[t] }

// UnmarshalText reads the word.
func (t *Tempo) UnmarshalText(b []byte) error {
	return word(t, tempoNames, b, "a tempo: expected brisk, even or slow")
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
