package plan

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"wavekine/core/clock"
	"wavekine/core/dose"
)

// SeriesFormat is the format this version writes.
const SeriesFormat = "wavekine.series/1"

// Later minor versions: SeriesFormatLaid is that of a series that was laid from a brief, or has a word of that; SeriesFormatBoard of one with a
// word of what the board can say: climbs, ladders over several movements, what a day was made from, what of it is pinned, the load it is meant for.
const (
	SeriesFormatLaid  = "wavekine.series/1.1"
	SeriesFormatBoard = "wavekine.series/1.2"
)

// maxBrief is how long the words of a brief may be, in characters.
const maxBrief = 4000

// dayKinds are what a day can be.
var dayKinds = []string{"work", "easy", "rest", "stretch"}

// Shapes are the load shapes a series can be asked for; empty is none.
func Shapes() []string { return slices.Clone(shapes) }

// shapes are the load shapes a series can be asked for; empty is none.
var shapes = []string{"", "ramp", "same growing", "different", "two holds", "themes", "hard-easy"}

// Series is sessions laid on days.
type Series struct {
	Format   string
	Title    string
	Note     string
	Start    time.Time // midnight UTC of the first day; only the date counts
	Time     string    // "18:30" or empty for all day
	Zone     string    // IANA name, with Time
	Minutes  int       // a day; 0: not said
	Shape    string
	RestDays []string // weekdays, lower case
	Ladders  []Ladder
	Days     []Day
	Brief    string // the words it was laid from; empty: it was not laid
	Seed     int    // of the layout
	extra    map[string]json.RawMessage
}

// Day is one date of a series, counted from the start without gaps.
type Day struct {
	Rest    bool
	Session *Session // inline
	Ref     string   // or the name of a session kept elsewhere
	Title   string
	Note    string
	Pinned  []string // movements whose rows stay as they are
	Kind    string   // one of dayKinds; empty: not said
	Theme   string
	Peak    bool
	Because string  // why the day is what it is
	Rows    []Why   // why each row of its class is there
	Target  float64 // the load it is meant for, effort x minutes; 0: not said
	Pin     Pin     // what of the day stays as it is
	From    Made    // what its class was made from
	extra   map[string]json.RawMessage
}

// Pin is what of a day never moves when the series is laid again. Its rows are pinned by Day.Pinned.
type Pin struct {
	Day   bool // all of it, its class too
	Theme bool
	Kind  bool
}

// IsZero tells whether nothing is pinned.
func (p Pin) IsZero() bool { return p == Pin{} }

// words are the pins as a document has them.
func (p Pin) words() (out []string) {
	for _, w := range pinWords {
		if *w.of(&p) {
			out = append(out, w.word)
		}
	}
	return out
}

type pinWord struct {
	word string
	of   func(*Pin) *bool
}

var pinWords = []pinWord{
	{"day", func(p *Pin) *bool { return &p.Day }}, {"theme", func(p *Pin) *bool { return &p.Theme }}, {"kind", func(p *Pin) *bool { return &p.Kind }},
}

// Made is what a day's class was made from; it is its own all the same. The zero value says nothing.
type Made struct {
	Session string `json:"session,omitempty"` // a kept session,
	Rev     int    `json:"rev,omitempty"`     // as it was at that revision
	Day     int    `json:"day,omitempty"`     // another day of the series, from 1
	Layout  bool   `json:"layout,omitempty"`  // the layout chose it
}

// IsZero tells whether nothing is said.
func (m Made) IsZero() bool { return m == Made{} }

// boarded tells whether the day says anything that SeriesFormatBoard has.
func (d *Day) boarded() bool { return d.Target > 0 || !d.Pin.IsZero() || !d.From.IsZero() }

// boarded tells whether the series says anything that SeriesFormatBoard has.
func (s *Series) boarded() bool {
	return slices.ContainsFunc(s.Days, func(d Day) bool { return d.boarded() }) || slices.ContainsFunc(s.Ladders, func(l Ladder) bool { return l.boarded() })
}

// Why is the reason of a row.
type Why struct {
	Movement string `json:"movement"`
	Because  string `json:"because"`
}

// laid tells whether the day says anything that SeriesFormatLaid has.
func (d *Day) laid() bool {
	return d.Kind != "" || d.Theme != "" || d.Peak || d.Because != "" || len(d.Rows) > 0
}

// laid tells whether the series says anything that SeriesFormatLaid has.
func (s *Series) laid() bool {
	return s.Brief != "" || s.Seed != 0 || slices.ContainsFunc(s.Days, func(d Day) bool { return d.laid() })
}

// Easier tells whether the day asks for less than a day of work: what is learned takes no rung on it.
func (d *Day) Easier() bool { return d.Kind == "easy" || d.Kind == "stretch" }

// Empty tells whether nothing is on the day.
func (d Day) Empty() bool { return !d.Rest && d.Session == nil && d.Ref == "" }

// Ladder is the order of steps a movement climbs over a series: with its climb it is a thread of the board.
type Ladder struct {
	Movement string
	Steps    []Rung
	Climb    Climb
	Pinned   bool   // its goes stay where and as they are
	Because  string // why it is there
	extra    map[string]json.RawMessage
}

// Rung is one step of a ladder. It may be another movement's: a bridge, its dips, its march.
type Rung struct {
	Movement string // empty: the ladder's
	Level    int
	Dose     dose.Dose
}

// Of is the movement of step k.
func (l *Ladder) Of(k int) string {
	if m := l.Steps[k].Movement; m != "" {
		return m
	}
	return l.Movement
}

// Movements lists the movements of the ladder, its own first.
func (l *Ladder) Movements() []string {
	out := []string{l.Movement}
	for k := range l.Steps {
		if m := l.Of(k); !slices.Contains(out, m) {
			out = append(out, m)
		}
	}
	return out
}

// boarded tells whether the ladder says anything that SeriesFormatBoard has.
func (l *Ladder) boarded() bool {
	return !l.Climb.IsZero() || l.Pinned || l.Because != "" || len(l.Movements()) > 1
}

// Ladder finds the thread that a movement is on; nil where it is on none.
func (s *Series) Ladder(slug string) *Ladder {
	for i := range s.Ladders {
		if slices.Contains(s.Ladders[i].Movements(), slug) {
			return &s.Ladders[i]
		}
	}
	return nil
}

// Date is the date of day i, counted from 0.
func (s *Series) Date(i int) time.Time { return s.Start.AddDate(0, 0, i) }

var weekdays = []string{"monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"}

// ParseDate reads a day that a series or a class can be on, as in "2026-05-01": a date that does not exist, or
// lies outside the years 1990 to 2199, is refused.
func ParseDate(text string) (time.Time, error) {
	d, err := time.Parse(time.DateOnly, strings.TrimSpace(text))
	if err != nil || d.Year() < firstYear || d.Year() > lastYear {
		return time.Time{}, fmt.Errorf("%q is not a date: it looks like 2026-05-01, from %d to %d", text, firstYear, lastYear)
	}
	return d, nil
}

// Length is the promised length of a day's session, or the series' minutes a day.
func (s *Series) Length(d Day) clock.Span {
	if d.Session != nil && d.Session.Target > 0 {
		return d.Session.Target
	}
	return clock.Span(s.Minutes) * clock.Minute
}

// Joined is a list of sentences as a note of a series, cut where a note ends.
func Joined(says []string) string { return Clip(strings.Join(says, "; "), MaxNote) }
