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

// SeriesFormatLaid is the format of a series that was laid from a brief, or has a word of that.
const SeriesFormatLaid = "wavekine.series/1.1"

// maxBrief is how long the words of a brief may be, in characters.
const maxBrief = 1000

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
	Pinned  []string
	Kind    string // one of dayKinds; empty: not said
	Theme   string
	Peak    bool
	Because string // why the day is what it is
	Rows    []Why  // why each row of its class is there
	extra   map[string]json.RawMessage
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

// Empty tells whether nothing is on the day.
func (d Day) Empty() bool { return !d.Rest && d.Session == nil && d.Ref == "" }

// Ladder is the order of steps a movement climbs over a series.
type Ladder struct {
	Movement string
	Steps    []Rung
	extra    map[string]json.RawMessage
}

// Rung is one step of a ladder.
type Rung struct {
	Level int
	Dose  dose.Dose
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
