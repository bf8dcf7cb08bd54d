// Package brief is the language in which a series is asked for: "21 days from wednesday, 12 to 15 min, hips and upper back, no
// kit, mixed, rest sundays, ramp, peak day 20, soft last day, learn bird dog and bridge". Parse(b.String()) gives b back.
package brief

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"wavekine/core/dose"
	"wavekine/core/movement"
)

// Limits of a brief; judgement: above them a slip of the keyboard is likelier than a plan.
const (
	MaxDays    = 60
	MaxMinutes = 120
	MaxText    = 4000 // characters: what is typed in 1000 may be longer in its normal form
	maxMoves   = 24   // of one list
	maxNew     = 20
	maxLevel   = 9
)

// Shape is a school of progression.
type Shape string

// The schools.
const (
	Ramp      Shape = "ramp"                // gradually harder, the peak on the last day but one, the last day soft
	SameSet   Shape = "same set growing"    // the same every day, the doses growing
	Different Shape = "different every day" // other movements every day at the same dose
	TwoHolds  Shape = "two long holds"      // two long holds a day with levels 1 to 3
	ByWeeks   Shape = "weekly themes"       // a theme for each week
	Wave      Shape = "wave"                // three up, one down
	Intervals Shape = "on and off"          // levels by time on and off
)

var shapes = []Shape{Ramp, SameSet, Different, TwoHolds, ByWeeks, Wave, Intervals}

// Shapes lists the schools of progression.
func Shapes() []Shape { return slices.Clone(shapes) }

// Minutes is how long a class lasts, at least and at most; zero where it is not said.
type Minutes struct {
	Min int `json:"min"`
	Max int `json:"max"`
}

// IsZero tells whether nothing is said.
func (m Minutes) IsZero() bool { return m == Minutes{} }

// String says it: "15 min", "12 to 15 min".
func (m Minutes) String() string {
	if m.Min == m.Max {
		return strconv.Itoa(m.Max) + " min"
	}
	return fmt.Sprintf("%d to %d min", m.Min, m.Max)
}

// Learn is a movement that repeats until it is known.
type Learn struct {
	Slug  string `json:"movement"`
	Every int    `json:"every,omitempty"` // in class days; 0: as often as it needs
}

// Daily is what is done every day.
type Daily struct {
	Slug string    `json:"movement"`
	Dose dose.Dose `json:"dose,omitzero"` // the usual one where nothing is said
}

// Test is a movement repeated on some days to see how it goes.
type Test struct {
	Slug    string `json:"movement"`
	Days    []int  `json:"days"`
	Measure string `json:"measure"` // one of Measures
}

var measures = []string{"seconds", "repetitions", "reach", "level"}

// Measures lists what a tester can measure.
func Measures() []string { return slices.Clone(measures) }

// Source is where the movements come from.
type Source string

// The sources. The zero value is the library.
const (
	FromLibrary  Source = ""
	FromSessions Source = "from my sessions"
	FromTaught   Source = "from what we taught last"
)

// Where the hardest part of a class is.
const (
	InTheMiddle = "in the middle"
	Finisher    = "as a finisher"
)

// Brief is what a series is asked to be. The zero value asks for nothing.
type Brief struct {
	Days      int
	Start     time.Time        // midnight UTC; zero: not said
	Weekdays  []time.Weekday   // the class days, of which Days are counted; nil: every day of the calendar
	AWeek     int              // class days a week, 0: not said
	Rest      []time.Weekday   // rest days by weekday
	RestDays  []int            // and by number
	Minutes   Minutes          // of a work day
	Easy      Minutes          // of an easy day, where it differs
	Focus     []string         // themes
	Weeks     map[int][]string // themes by week, from 1
	NoKit     bool
	Kit       []string // what there is; nil: whatever is needed
	Audience  movement.Audience
	Classical bool   // the classical order
	Chained   bool   // one side through, then the other
	Count     string // counted in breaths, seconds or repetitions
	Shape     Shape
	Peak      int   // the day; 0: as the shape has it
	Soft      []int // soft days by number
	SoftLast  bool

	StretchDays []int // days of stretches and mobility alone, by number
	StretchLast bool  // and the last class day

	Learn    []Learn
	LeaveOut []string // slugs
	New      int      // new movements a day at most; -1: not said
	Daily    []Daily
	Levels   [2]int // of what is done every day, over the weeks, from and to; zero: not said
	Stretch  int    // minutes of stretching every day
	From     Source
	Hardest  string // InTheMiddle or Finisher
	WarmUp   string // "included" or "assumed"
	Tests    []Test
}

// Field is a thing that a brief says something of.
type Field string

// Fields lists them in the order of the normal form.
func Fields() []Field { return slices.Clone(fields) }

var fields = []Field{
	"days", "weekdays", "minutes", "easy days", "about", "weeks", "kit", "people", "rest", "shape", "peak", "soft days", "stretch days", "learn", "leave out", "new", "every day", "levels", "stretching", "tests",
	"from", "order", "sides", "count", "hardest", "warm-up",
}

// Part is what a brief says of a field, in normal form.
type Part struct {
	Field Field
	Words string
}

// Parts are what the brief says, field by field, in the order of the normal form; what is not said is not there. What is said in several clauses, of weeks or tests, is
// one part with commas in it.
func (b *Brief) Parts(lib *movement.Library) (out []Part) {
	var of Field
	say := func(format string, a ...any) {
		words := fmt.Sprintf(format, a...)
		if n := len(out); n > 0 && out[n-1].Field == of {
			out[n-1].Words += ", " + words
			return
		}
		out = append(out, Part{of, words})
	}
	name := func(slug string) string {
		if m, ok := lib.Get(slug); ok {
			return nameOf(lib, m)
		}
		return slug
	}
	of = "days"
	if b.Days > 0 {
		said := fmt.Sprintf("%d days", b.Days)
		switch {
		case b.AWeek > 0 && b.Days%b.AWeek == 0:
			said = fmt.Sprintf("%d a week for %d weeks", b.AWeek, b.Days/b.AWeek)
		case len(b.Weekdays) == 1:
			said = fmt.Sprintf("%d %ss", b.Days, weekdayName(b.Weekdays[0]))
		case b.Days == 1:
			said = "1 day"
		}
		if !b.Start.IsZero() {
			said += " from " + b.Start.Format("2 January 2006")
		}
		say("%s", said)
	} else if !b.Start.IsZero() {
		say("from %s", b.Start.Format("2 January 2006"))
	}
	of = "weekdays"
	if len(b.Weekdays) > 1 || b.Days == 0 && len(b.Weekdays) == 1 {
		say("on %s", and(weekdayNames(b.Weekdays)))
	}
	of = "minutes"
	if !b.Minutes.IsZero() {
		say("%s", b.Minutes)
	}
	of = "easy days"
	if !b.Easy.IsZero() {
		say("easy days %s", b.Easy)
	}
	of = "about"
	if len(b.Focus) > 0 {
		say("%s", and(b.Focus))
	}
	of = "weeks"
	for _, w := range sortedKeys(b.Weeks) {
		say("week %d %s", w, and(b.Weeks[w]))
	}
	of = "kit"
	switch {
	case b.NoKit:
		say("no kit")
	case len(b.Kit) > 0:
		say("with %s", and(b.Kit))
	}
	of = "people"
	if b.Audience != 0 {
		say("for %s", strings.Join(strings.Split(b.Audience.String(), ", "), " and "))
	}
	of = "rest"
	if len(b.Rest) > 0 {
		say("rest %s", and(weekdayNames(b.Rest)))
	}
	if len(b.RestDays) > 0 {
		say("rest %s", days(b.RestDays))
	}
	of = "shape"
	if b.Shape != "" {
		say("%s", string(b.Shape))
	}
	of = "peak"
	if b.Peak > 0 {
		say("peak day %d", b.Peak)
	}
	of = "soft days"
	if len(b.Soft) > 0 {
		say("soft %s", days(b.Soft))
	}
	if b.SoftLast {
		say("soft last day")
	}
	of = "stretch days"
	if len(b.StretchDays) > 0 {
		say("stretch %s", days(b.StretchDays))
	}
	if b.StretchLast {
		say("stretch last day")
	}
	of = "learn"
	byEvery := map[int][]string{}
	for _, l := range b.Learn {
		byEvery[l.Every] = append(byEvery[l.Every], name(l.Slug))
	}
	for _, every := range sortedKeys(byEvery) {
		say("learn %s%s", and(byEvery[every]), everyWords(every))
	}
	of = "leave out"
	if len(b.LeaveOut) > 0 {
		var names []string
		for _, s := range b.LeaveOut {
			names = append(names, name(s))
		}
		say("leave out %s", and(names))
	}
	of = "new"
	if b.New >= 0 {
		say("%d new a day", b.New)
	}
	of = "every day"
	for _, d := range b.Daily {
		if d.Dose.IsZero() {
			say("every day %s", name(d.Slug))
		} else {
			say("every day %s %s", name(d.Slug), strings.ReplaceAll(d.Dose.String(), ",", ";"))
		}
	}
	of = "levels"
	if b.Levels[1] > 0 {
		say("levels %d to %d over the weeks", b.Levels[0], b.Levels[1])
	}
	of = "stretching"
	if b.Stretch > 0 {
		say("stretch every day %d min", b.Stretch)
	}
	of = "tests"
	for _, t := range b.Tests {
		say("test %s on %s in %s", name(t.Slug), days(t.Days), t.Measure)
	}
	of = "from"
	if b.From != FromLibrary {
		say("%s", string(b.From))
	}
	of = "order"
	if b.Classical {
		say("classical order")
	}
	of = "sides"
	if b.Chained {
		say("one side through")
	}
	of = "count"
	if b.Count != "" {
		say("counted in %s", b.Count)
	}
	of = "hardest"
	if b.Hardest != "" {
		say("hardest %s", b.Hardest)
	}
	of = "warm-up"
	if b.WarmUp != "" {
		say("warm-up %s", b.WarmUp)
	}
	return out
}

// String says the brief in its one normal form, with the names of the library.
func (b *Brief) String(lib *movement.Library) string {
	var words []string
	for _, p := range b.Parts(lib) {
		words = append(words, p.Words)
	}
	return strings.Join(words, ", ")
}

// Set is a brief with one field said anew; without words nothing is said of it any more. Words that say something else as well, or of another field, are refused: the
// error is *Error, its column that of the words.
func Set(text string, field Field, words string, lib *movement.Library, today time.Time) (*Brief, error) {
	if !slices.Contains(fields, field) {
		return nil, &Error{Column: 1, Word: string(field), Expected: "a field of a brief"}
	}
	was := &Brief{New: -1}
	if strings.TrimSpace(text) != "" {
		var err error
		if was, err = Parse(text, lib, today); err != nil {
			return nil, err
		}
	}
	var before, after []string
	at := slices.Index(fields, field)
	for _, p := range was.Parts(lib) {
		switch k := slices.Index(fields, p.Field); {
		case k < at:
			before = append(before, p.Words)
		case k > at:
			after = append(after, p.Words)
		}
	}
	words = strings.TrimSpace(strings.TrimRight(strings.TrimSpace(words), ",."))
	all := slices.Clone(before)
	if words != "" {
		all = append(all, words)
	}
	now, err := Parse(strings.Join(append(all, after...), ", "), lib, today)
	skip := 0
	if len(before) > 0 {
		skip = len([]rune(strings.Join(before, ", "))) + 2
	}
	var e *Error
	if errors.As(err, &e) {
		c := *e
		c.Column = max(1, c.Column-skip)
		return nil, &c
	}
	if err != nil {
		return nil, err
	}
	of := func(b *Brief, but Field) (out []string) {
		for _, p := range b.Parts(lib) {
			if p.Field != but {
				out = append(out, string(p.Field)+": "+p.Words)
			}
		}
		return out
	}
	if a, z := of(was, field), of(now, field); !slices.Equal(a, z) {
		for _, p := range now.Parts(lib) {
			if p.Field != field && !slices.Contains(a, string(p.Field)+": "+p.Words) {
				return nil, &Error{Column: 1, Word: words, Expected: fmt.Sprintf("something of %s: this says %s", field, p.Field)}
			}
		}
		return nil, &Error{Column: 1, Word: words, Expected: "something of " + string(field) + " alone"}
	}
	return now, nil
}

func sortedKeys[V any](m map[int]V) []int {
	out := make([]int, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

func and(words []string) string {
	if n := len(words); n > 1 {
		return strings.Join(words[:n-1], ", ") + " and " + words[n-1]
	}
	return strings.Join(words, "")
}

func days(ns []int) string {
	words := make([]string, len(ns))
	for i, n := range ns {
		words[i] = strconv.Itoa(n)
	}
	if len(ns) == 1 {
		return "day " + words[0]
	}
	return "days " + and(words)
}

func everyWords(every int) string {
	switch every {
	case 0:
		return ""
	case 1:
		return " every day"
	}
	return fmt.Sprintf(" every %d days", every)
}

func weekdayName(d time.Weekday) string { return strings.ToLower(d.String()) }

func weekdayNames(ds []time.Weekday) (out []string) {
	for _, d := range ds {
		out = append(out, weekdayName(d)+"s")
	}
	return out
}

// nameOf is a name of the movement that the brief can be read by: no comma, no "and", not something else's beginning.
func nameOf(lib *movement.Library, m *movement.Movement) string {
	for _, n := range append([]string{m.Name}, m.Also...) {
		n = strings.ToLower(n)
		if o, ok := lib.Named(n); ok && o == m && !strings.ContainsAny(n, ",&0123456789") && !strings.Contains(" "+n+" ", " and ") && !strings.Contains(n, " every ") && !strings.Contains(n, " on ") {
			return n
		}
	}
	return m.Slug
}

// Calendar lists the dates of the days. With class days by weekday only those count; else every day of the calendar does. Without
// a start there are none.
func (b *Brief) Calendar() (out []time.Time) {
	if b.Start.IsZero() {
		return nil
	}
	on := b.Weekdays
	if len(on) == 0 && b.AWeek > 0 {
		on = spread(b.Start.Weekday(), b.AWeek)
	}
	for d := b.Start; len(out) < b.Days; d = d.AddDate(0, 0, 1) {
		if len(on) == 0 || slices.Contains(on, d.Weekday()) {
			out = append(out, d)
		}
	}
	return out
}

// spread puts n class days as evenly as can be over a week that begins with first.
func spread(first time.Weekday, n int) (out []time.Weekday) {
	for k := range min(n, 7) {
		out = append(out, time.Weekday((int(first)+k*7/n)%7))
	}
	return out
}

// LevelOn is the level at which day n, from 1, has what is done every day; 0: not said. It rises with the weeks, in a shorter series with the days.
func (b *Brief) LevelOn(n int) int {
	from, to := b.Levels[0], b.Levels[1]
	if to == 0 {
		return 0
	}
	steps, week := to-from+1, 7
	if b.AWeek > 0 {
		week = b.AWeek
	} else if len(b.Weekdays) > 0 {
		week = len(b.Weekdays)
	}
	at, of := n-1, max(b.Days, n)
	if weeks := (of + week - 1) / week; weeks >= steps {
		at, of = at/week, weeks
	}
	return from + at*steps/of
}

// IsRest tells whether day n, from 1, is a rest day.
func (b *Brief) IsRest(n int, dates []time.Time) bool {
	if slices.Contains(b.RestDays, n) {
		return true
	}
	return n <= len(dates) && slices.Contains(b.Rest, dates[n-1].Weekday())
}
