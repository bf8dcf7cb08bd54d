package movement

import (
	"fmt"
	"strconv"

	"wavekine/core/clock"
)

// Tempo classes: seconds for one repetition at an even tempo where a movement says nothing
// better. All of them are common practice, no published source.
var tempoClass = map[string]clock.Span{
	"pulse":              1100,
	"fast beat":          500,
	"switch":             2000,
	"fast switch":        1100,
	"limb lift":          2500,
	"small circle":       1500,
	"leg circle":         3500,
	"curl":               4500,
	"combination":        6000,
	"rolling":            6000,
	"rolled spine":       13000,
	"roll-up":            11000,
	"standing roll-down": 22000,
	"breath-paced":       8000,
	"slow breath":        12000,
	"stretch":            15000,
}

// Further seconds of the trade (common practice, no source).
const (
	PulseSpan   clock.Span = 1100  // one pulse
	BeatOfTen   clock.Span = 550   // one of the ten beats of a breath of the hundred
	RestSpan    clock.Span = 15000 // a rest row with no time given
	BreathPaced clock.Span = 8000
	HoldExtra   clock.Span = 4000 // a counted hold of 3 to 5 s costs this much more than it says
	CountSpan   clock.Span = 1000 // one count where no beat is given; judgement
)

// Pace is the seconds of one repetition, written as a class ("limb lift") or a number of seconds.
type Pace struct {
	Class string
	Span  clock.Span
}

// MarshalText writes "limb lift" or "3.5".
func (p Pace) MarshalText() ([]byte, error) {
	if p.Class != "" {
		return []byte(p.Class), nil
	}
	return strconv.AppendFloat(nil, p.Span.Seconds(), 'f', -1, 64), nil
}

// UnmarshalText reads "limb lift" or "3.5".
func (p *Pace) UnmarshalText(b []byte) error {
	if s, ok := tempoClass[string(b)]; ok {
		*p = Pace{string(b), s}
		return nil
	}
	f, err := strconv.ParseFloat(string(b), 64)
	if err != nil || f < .2 || f > 120 {
		return fmt.Errorf("%q is neither a tempo class nor 0.2 to 120 seconds", b)
	}
	*p = Pace{"", clock.Seconds(f)}
	return nil
}
