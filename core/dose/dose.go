// Package dose is the language in which a dose is said: "8 each side + 10 pulses",
// "3 x 8 each side, rest 30 s", "10 breaths, 5 in 5 out". One parser and one printer
// serve the bench, imports and documents. Parse(d.String()) gives d back.
package dose

import (
	"strconv"
	"strings"

	"wavekine/core/clock"
)

// Limits of what one dose may hold. They are judgement: above them a slip of the
// keyboard is likelier than a plan.
const (
	MaxReps    = 500
	MaxBreaths = 200
	MaxSets    = 50
	MaxCounts  = 64
	MaxSpan    = 60 * clock.Minute
	MaxText    = 200 // characters of one dose
	maxParts   = 8
)

// Per says over what a dose is counted.
type Per uint8

// How repetitions fall on the sides.
const (
	Unsaid      Per = iota // as the movement has it
	EachSide               // all of it on one side, then on the other
	Pairs                  // right and left once is one pair
	Alternating            // side changes with every repetition; the count is of single ones
)

// Kind is what a part of a dose counts.
type Kind uint8

// The kinds of part.
const (
	Reps    Kind = iota // repetitions
	Pulses              // small repetitions at the end of the range
	Hold                // seconds or breaths held
	Breaths             // breaths
	Time                // time on, with an optional time off
	AsMany              // as many repetitions as fit in a time
	Rounds              // the whole movement through, so many times
)

// Speed is how fast repetitions are done beside the movement's own seconds.
type Speed uint8

// The speeds.
const (
	AsUsual Speed = iota
	Slow
	Fast
	DoubleTime // twice as fast
)

var speedWords = [...]string{"", "slow", "fast", "double time"}

// Factor is what a speed makes of the seconds of a repetition. Judgement, after what a fast switch (1.1 s of 2) and double time are.
func (s Speed) Factor() float64 { return [...]float64{1, 1.5, .55, .5}[s] }

// Part is one thing done in a dose.
type Part struct {
	Kind        Kind
	Count       int        // repetitions, pulses, breaths or rounds; breaths also of a Hold; of a range its middle
	Least, Most int        // the range that was said of the count, "8 to 10"; 0: none
	Span        clock.Span // seconds of a Hold, Time or AsMany; of a range the least
	MostSpan    clock.Span // the most of it, "2 min to 5 min"; 0: no range
	About       bool       // "about 15": it may be some more or fewer
	Counts      int        // of a Hold: counts, at the beat, instead of seconds
	Off         clock.Span // rest after Time
	UpTo        bool       // "to 8 breaths": no more than that
	EachWay     bool       // that many in each direction (circles)
	Other       int        // so many in the other direction: "3 one way, 4 the other"; 0: not said
	Halves      bool       // half the time forward, half back
	Tempo       []int      // counts out, (hold,) back; or one number, the counts of a whole repetition
	Speed       Speed      // of repetitions and pulses
	Double      bool       // "double kicks": each repetition has two beats
	HoldEach    clock.Span // held in every repetition
	In, Out     int        // beats breathing in and out
}

// Ways is how many repetitions a part has in all directions, for one count of them each way.
func (p *Part) Ways() int {
	switch {
	case p.EachWay:
		return 2 * p.Count
	case p.Other > 0:
		return p.Count + p.Other
	}
	return p.Count
}

// Spread is how much less and more than what is counted or held was said to be right, as factors: 8 to 10 of 9.
func (p *Part) Spread() (least, most float64) {
	least, most = 1, 1
	switch {
	case p.Most > 0:
		least, most = float64(p.Least)/float64(p.Count), float64(p.Most)/float64(p.Count)
	case p.MostSpan > 0:
		most = float64(p.MostSpan) / float64(p.Span)
	}
	if p.About {
		least, most = least*(1-aboutBy), most*(1+aboutBy)
	}
	return least, most
}

// aboutBy is how far "about 15" may be off; judgement: 13 to 17.
const aboutBy = .15

// SetCount sets the count; a range that was said is no more.
func (p *Part) SetCount(n int) { p.Count, p.Least, p.Most = n, 0, 0 }

// SetSpan sets the time; a range that was said is no more.
func (p *Part) SetSpan(s clock.Span) { p.Span, p.MostSpan, p.Counts = s, 0, 0 }

// Dose is a list of parts done in order, per side or not, times sets.
// The zero value says nothing: as the movement usually goes.
type Dose struct {
	Parts []Part
	Per   Per
	Sets  int        // 0 and 1 are one set
	Rest  clock.Span // between sets
}

// Sayable tells whether the dose can be said and understood again: whether its counts and times lie within
// what Parse takes. Whatever makes a dose out of another asks it. The zero value is.
func (d Dose) Sayable() bool {
	if d.IsZero() {
		return true
	}
	back, err := Parse(d.String())
	return err == nil && back.Equal(d)
}

// Later tells whether the dose has words that the first version of the language had not: ranges, speeds, holds in every repetition and in counts, other
// numbers in the two directions, times that change sides.
func (d Dose) Later() bool {
	for _, p := range d.Parts {
		if p.Most > 0 || p.MostSpan > 0 || p.About || p.Counts > 0 || p.Other > 0 || p.Speed != AsUsual || p.Double || p.HoldEach > 0 {
			return true
		}
	}
	return d.Per == Alternating && len(d.Parts) > 0 && d.Parts[0].Kind != Reps
}

// IsZero tells whether nothing was said.
func (d Dose) IsZero() bool { return len(d.Parts) == 0 }

// Equal compares what is meant.
func (d Dose) Equal(o Dose) bool { return d.String() == o.String() }

// SetCount is the number of sets, at least 1.
func (d Dose) SetCount() int { return max(1, d.Sets) }

// WithCount returns a copy in which the first counted part has count n;
// ok is false when no part is counted.
func (d Dose) WithCount(n int) (out Dose, ok bool) {
	out = d
	out.Parts = append([]Part(nil), d.Parts...)
	for i := range out.Parts {
		if out.Parts[i].Count > 0 {
			out.Parts[i].SetCount(n)
			return out, true
		}
	}
	return out, false
}

// Count is the count of the first counted part, 0 if there is none.
func (d Dose) Count() int {
	for _, p := range d.Parts {
		if p.Count > 0 {
			return p.Count
		}
	}
	return 0
}

// String says the dose in its one canonical form.
func (d Dose) String() string {
	if d.IsZero() {
		return ""
	}
	var b strings.Builder
	if d.Sets > 1 {
		b.WriteString(strconv.Itoa(d.Sets) + " x ")
	}
	bare := len(d.Parts) == 1 && d.Parts[0].Kind == Reps && len(d.Parts[0].Tempo) == 0 && d.Parts[0].Speed == AsUsual && !d.Parts[0].Double && d.Parts[0].HoldEach == 0 &&
		(d.Per != Unsaid || d.Parts[0].EachWay)
	for i, p := range d.Parts {
		if i > 0 {
			b.WriteString(" + ")
		}
		p.say(&b, bare || (p.Kind == Reps && i == 0 && (d.Per == Pairs || d.Per == Alternating)))
		if i == 0 {
			switch d.Per {
			case Pairs:
				b.WriteString(" pair")
				if p.Count != 1 || p.Most > 0 {
					b.WriteString("s")
				}
			case Alternating:
				b.WriteString(" alternating")
			}
		}
		p.sayTail(&b)
	}
	if d.Per == EachSide {
		b.WriteString(" each side")
	}
	if d.Rest > 0 {
		b.WriteString(", rest " + d.Rest.Said())
	}
	return b.String()
}

func (p Part) say(b *strings.Builder, bare bool) {
	n := strconv.Itoa(p.Count)
	if p.Most > 0 {
		n = strconv.Itoa(p.Least) + " to " + strconv.Itoa(p.Most)
	}
	if p.About {
		b.WriteString("about ")
	}
	plural := func(one string) string {
		if n == "1" {
			return n + " " + one
		}
		return n + " " + one + "s"
	}
	span := func() string {
		if p.MostSpan > 0 {
			return p.Span.Said() + " to " + p.MostSpan.Said()
		}
		return p.Span.Said()
	}
	switch p.Kind {
	case Reps:
		if p.Other > 0 {
			b.WriteString(n + " one way, " + strconv.Itoa(p.Other) + " the other")
		} else if bare {
			b.WriteString(n)
		} else {
			b.WriteString(plural("rep"))
		}
	case Pulses:
		b.WriteString(plural("pulse"))
	case Breaths:
		if p.UpTo {
			b.WriteString("to ")
		}
		b.WriteString(plural("breath"))
	case Rounds:
		b.WriteString(plural("round"))
	case Hold:
		b.WriteString("hold ")
		switch {
		case p.Counts > 0:
			b.WriteString(strconv.Itoa(p.Counts) + " counts")
		case p.Count > 0:
			b.WriteString(plural("breath"))
		default:
			b.WriteString(span())
		}
	case AsMany:
		b.WriteString("as many as " + p.Span.Said())
	case Time:
		if p.Halves {
			b.WriteString("half forward half back ")
		}
		b.WriteString(span())
		if p.Off > 0 {
			b.WriteString(" on " + p.Off.Said() + " off")
		}
	}
	if p.EachWay {
		b.WriteString(" each way")
	}
}

func (p Part) sayTail(b *strings.Builder) {
	switch {
	case len(p.Tempo) == 1:
		b.WriteString(" in " + strconv.Itoa(p.Tempo[0]) + " counts")
	case len(p.Tempo) > 1:
		for i, t := range p.Tempo {
			b.WriteString([]string{" at ", "-", "-"}[i] + strconv.Itoa(t))
		}
	}
	if p.In > 0 {
		b.WriteString(", " + strconv.Itoa(p.In) + " in " + strconv.Itoa(p.Out) + " out")
	}
	if p.Double {
		b.WriteString(" double")
	}
	if p.Speed != AsUsual {
		b.WriteString(" " + speedWords[p.Speed])
	}
	if p.HoldEach > 0 {
		b.WriteString(" holding " + p.HoldEach.Said())
	}
}

// MarshalText writes the canonical form.
func (d Dose) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText parses.
func (d *Dose) UnmarshalText(b []byte) error {
	v, err := Parse(string(b))
	if err == nil {
		*d = v
	}
	return err
}
