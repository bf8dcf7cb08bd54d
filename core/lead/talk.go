package lead

import (
	"fmt"
	"strings"

	"wavekine/core/clock"
)

// How fast a teacher talks, in words a minute: usual where nothing is known, between the slowest and the fastest (common practice, no source).
const (
	UsualRate   = 151
	SlowestRate = 90
	FastestRate = 190
)

// RateKey stands for how many words a minute a teacher says, among their paces.
const RateKey = "~words"

// Frame is what opening and closing a class are written from.
type Frame struct {
	Title     string
	Day, Days int // of a series; 0: it stands by itself
	Theme     string
	New       []string // movements that nobody has met in the series
	Harder    []string // those at a higher level than the last time
	Kit       []string // to fetch
	Cautions  []string // the two main ones
	Tomorrow  string   // what comes next: "Roller and hips"; empty: nothing is known
	Rest      bool     // tomorrow is a day of rest
	Last      bool     // it is the last day
	Opening   string   // in a teacher's own words, in place of what is written
	Closing   string
	Rate      float64 // words a minute; 0: the usual
}

// Talk is what is said at one end of a class.
type Talk struct {
	Lines []string
	S     clock.Span
}

// Says is how long it takes, in words.
func (t Talk) Says() string { return t.S.String() }

// frameWords are the words opening and closing are written in, in one place.
var frameWords = struct{ day, title, theme, fresh, harder, both, kit, care, adapt, tomorrow, rest, last, end string }{
	"Day %d of %d: %s.", "Today: %s.", "It is about %s.", "New today: %s.", "A step further than last time: %s.", "", "Fetch %s.", "%s", "Take the easier option whenever you like. Stop where it hurts, and ask whoever treats you.",
	"Tomorrow: %s.", "Tomorrow is a day of rest.", "That was the last day.", "That is all for today.",
}

// OpeningOf writes what is said before the first movement.
func OpeningOf(f Frame) Talk {
	if strings.TrimSpace(f.Opening) != "" {
		return talk(f, strings.Split(f.Opening, "\n"))
	}
	var out []string
	if f.Day > 0 {
		out = append(out, fmt.Sprintf(frameWords.day, f.Day, f.Days, stop(f.Title)))
	} else {
		out = append(out, fmt.Sprintf(frameWords.title, stop(f.Title)))
	}
	for _, w := range []struct{ form, words string }{
		{frameWords.theme, f.Theme}, {frameWords.fresh, And(f.New)}, {frameWords.harder, And(f.Harder)}, {frameWords.kit, And(f.Kit)},
	} {
		if w.words != "" {
			out = append(out, fmt.Sprintf(w.form, stop(w.words)))
		}
	}
	for _, c := range f.Cautions {
		out = append(out, sentence(c))
	}
	return talk(f, append(out, frameWords.adapt))
}

// ClosingOf writes what is said after the last one.
func ClosingOf(f Frame) Talk {
	if strings.TrimSpace(f.Closing) != "" {
		return talk(f, strings.Split(f.Closing, "\n"))
	}
	out := []string{frameWords.end}
	switch {
	case f.Last:
		out[0] = frameWords.last
	case f.Rest:
		out = append(out, frameWords.rest)
	case f.Tomorrow != "":
		out = append(out, fmt.Sprintf(frameWords.tomorrow, stop(f.Tomorrow)))
	}
	return talk(f, out)
}

// stop takes off the full stop that the sentence around it has.
func stop(w string) string { return strings.TrimRight(strings.TrimSpace(w), ".") }

func talk(f Frame, lines []string) (t Talk) {
	words := 0
	for _, l := range lines {
		if l = strings.TrimSpace(l); l != "" {
			t.Lines = append(t.Lines, l)
			words += len(strings.Fields(l))
		}
	}
	t.S = Spoken(words, f.Rate)
	return t
}

// Spoken is how long so many words take at so many a minute, in whole seconds; 0 is the usual rate.
func Spoken(words int, rate float64) clock.Span {
	if rate <= 0 {
		rate = UsualRate
	}
	rate = min(max(rate, SlowestRate), FastestRate)
	return (clock.Minute.Times(float64(words)/rate) + clock.Second - 1) / clock.Second * clock.Second
}

// And lists words: "a, b and c".
func And(ws []string) string {
	switch len(ws) {
	case 0:
		return ""
	case 1:
		return ws[0]
	}
	return strings.Join(ws[:len(ws)-1], ", ") + " and " + ws[len(ws)-1]
}
