// Package export writes documents in the formats of other programs: CSV (RFC 4180), iCalendar
// (RFC 5545) and Markdown.
package export

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	ical "github.com/arran4/golang-ical"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/group"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// csvHead names the columns; seconds are numbers, at is a clock time.
var csvHead = []string{
	"row", "section", "rule", "rounds", "on", "off", "rest", "movement", "name", "level", "dose", "sides", "right", "left", "note", "words", "block words", "section words", "facts", "at", "seconds",
}

// CSV writes the rows of a session, one line each, with when each begins and how long it takes.
func CSV(s *plan.Session, tl *timeline.Timeline, lib *movement.Library) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	_ = w.Write(csvHead)
	span := func(sp clock.Span) string {
		if sp == 0 {
			return ""
		}
		return sp.Said()
	}
	s.Each(func(p plan.Path, blk *plan.Block, r *plan.Row) {
		at, sum, _ := tl.RowSpan(p)
		name, level, sides := "", "", ""
		if m, err := r.Of(lib); err == nil && m != nil {
			name, level, sides = m.Name, strconv.Itoa(max(1, r.Level)), r.SideRule(m).String()
			if len(r.PartLevels) > 0 {
				level = ""
			}
		}
		side := func(o *plan.Override) string {
			if o == nil {
				return ""
			}
			t := o.Dose.String()
			if o.Level > 0 {
				t = strings.TrimSpace(fmt.Sprintf("level %d %s", o.Level, t))
			}
			return t
		}
		d, note, facts := r.Dose.String(), r.Note, ""
		switch {
		case r.IsKept():
			d, note = "", ""
		case r.IsRest():
			d, note = span(r.Rest.For), r.Rest.Say
		case len(r.PartLevels) > 0: // its words say it
			d = ""
		}
		if r.Inline != nil { // all that is known of a movement that no library has
			if b, err := json.Marshal(r.Inline); err == nil {
				facts = string(b)
			}
		}
		rounds := ""
		if blk.Rule == plan.Rounds {
			rounds = strconv.Itoa(blk.Rounds)
		}
		rec := []string{
			p.String(), s.Sections[p.Section-1].Title, blk.Rule.String(), rounds, span(blk.On), span(blk.Off), span(blk.Rest), r.InTable(), name, level, d,
			sides, side(r.Right), side(r.Left), note, r.TableWords(), blk.TableWords(), plan.JoinClauses(s.Sections[p.Section-1].Clauses()), facts, at.String(), strconv.FormatFloat(sum.Seconds(), 'f', -1, 64),
		}
		for i := range rec {
			rec[i] = plan.GuardCell(rec[i])
		}
		_ = w.Write(rec)
	})
	w.Flush()
	return b.Bytes(), w.Error()
}

// mdText keeps text from being taken for Markdown.
func mdText(s string) string {
	return strings.NewReplacer("\\", "\\\\", "*", "\\*", "_", "\\_", "|", "\\|", "<", "&lt;", "`", "\\`", "#", "\\#", "[", "\\[", "\n", " ").Replace(s)
}

// Markdown writes a session as a sheet to read: sections, rows with clock, dose and the words said.
func Markdown(s *plan.Session, tl *timeline.Timeline, lib *movement.Library) []byte {
	var b strings.Builder
	fmt.Fprintf(&b, "# %s\n\n%s, somewhere from %s to %s", mdText(s.Title), tl.Total, tl.Low, tl.High)
	if s.Target > 0 {
		fmt.Fprintf(&b, "; promised %s", s.Target)
	}
	b.WriteString(".\n")
	end := clock.Span(0)
	for i, sec := range s.Sections {
		fmt.Fprintf(&b, "\n## %s\n", mdText(sec.Title))
		if w := SectionSays(&sec); w != "" {
			fmt.Fprintf(&b, "\n%s\n", mdText(w))
		}
		for j, blk := range sec.Blocks {
			b.WriteString("\n")
			indent := ""
			if says := BlockSays(&blk); says != "" && blk.Rule == plan.Straight {
				fmt.Fprintf(&b, "%s\n\n", mdText(says))
			} else if says != "" { // its rows stand under it, so that their end is seen
				fmt.Fprintf(&b, "- %s\n", mdText(says))
				indent = "  "
			}
			for k := range blk.Rows {
				r := &blk.Rows[k]
				p := plan.Path{Section: i + 1, Block: j + 1, Row: k + 1}
				at, sum, timed := tl.RowSpan(p)
				if !timed { // it takes no time: it stands where the row before it ends
					at = end
				}
				end = max(end, at+sum)
				fmt.Fprintf(&b, "%s- %s **%s**", indent, at, mdText(RowName(r, lib)))
				if w := RowWordsIn(&blk, r, lib); w != "" {
					fmt.Fprintf(&b, ", %s", mdText(s.StyleAt(p).SaysSets(w)))
				}
				if r.Note != "" {
					fmt.Fprintf(&b, " (%s)", mdText(r.Note))
				}
				if m, err := r.Of(lib); err == nil && m != nil {
					if says := SaidOf(r, m); says != "" {
						fmt.Fprintf(&b, "  \n%s  *%s*", indent, mdText(says))
					}
					for _, w := range BesidesOf(r) {
						fmt.Fprintf(&b, "  \n%s  %s", indent, mdText(w))
					}
				}
				b.WriteString("\n")
			}
		}
	}
	b.WriteString("\nStop if it hurts; ask whoever treats you. This sheet is a teaching aid.\n")
	return []byte(b.String())
}

// BlockWords says the rule of a block and how it is taught; nothing for a straight one of which nothing is said.
func BlockWords(b *plan.Block) string {
	var w []string
	put := func(words ...string) { w = append(w, words...) }
	between := func(what string) {
		switch {
		case b.Between != "" && b.Rest > 0:
			put(b.Rest.Said() + what + ": " + b.Between)
		case b.Between != "":
			put(strings.TrimSpace(what) + ": " + b.Between)
		case b.Rest > 0:
			put(b.Rest.Said() + what)
		}
	}
	onOff := func() {
		if b.On > 0 {
			on := b.On.Said() + " on"
			if b.Off > 0 {
				on += " and " + b.Off.Said() + " off"
			}
			put(on)
		}
	}
	switch b.Rule {
	case plan.Chain:
		put("One side through: all of it on one side, then all of it on the other")
		onOff()
		between(" between")
	case plan.Rounds:
		put(b.RuleWords())
		onOff()
		between(" between rounds")
	case plan.Flow:
		put("Flow: one out of the other, without stopping")
		if b.Rest > 0 {
			put(b.Rest.Said() + " rest after each")
		}
	case plan.BuildUp:
		put("Build up: each part is added to those before it, as one")
		between(" between sides")
	default:
		if b.Rest > 0 {
			put(b.Rest.Said() + " rest after each")
		}
	}
	return strings.Join(append(w, b.Besides()...), ", ")
}

// BlockSays is all that stands over a block on paper: its title, its rule, its note.
func BlockSays(b *plan.Block) string {
	var w []string
	for _, t := range []string{b.Title, BlockWords(b), b.Note} {
		if t != "" {
			w = append(w, strings.TrimRight(t, ". "))
		}
	}
	return strings.Join(w, ". ")
}

// SectionSays is what stands under the title of a section: how it is taught, and its note.
func SectionSays(s *plan.Section) string {
	w := s.Besides()
	if s.Note != "" {
		w = append(w, s.Note)
	}
	return strings.Join(w, ". ")
}

// SaidOf is what is said aloud of a row: its own words, or the movement's; and its cue.
func SaidOf(r *plan.Row, m *movement.Movement) string {
	says := r.Say
	if says == "" {
		says = m.Say
	}
	if r.Cue != "" {
		says = strings.TrimSpace(says + " Cue: " + r.Cue)
	}
	return says
}

// BesidesOf is what else is said of a row, a line each: options in words, who should take care, words at their times.
func BesidesOf(r *plan.Row) (out []string) {
	for _, c := range r.Choices {
		out = append(out, "or: "+c)
	}
	if r.Caution != "" {
		out = append(out, "care: "+r.Caution)
	}
	for _, w := range r.Timed {
		out = append(out, timedWord(w))
	}
	return out
}

func timedWord(w plan.TimedWord) string { return "at " + w.At.Said() + ": " + w.Say }

// RowName is the movement's name, or rest.
func RowName(r *plan.Row, lib *movement.Library) string { return r.Title(lib) }

// DoseIn says how much of a row is done in its block: where the clock ends its rows the time on, in a circuit on each side half of it, with the row's own dose
// as the aim within it; elsewhere its dose, or the movement's, phase by phase.
func DoseIn(b *plan.Block, r *plan.Row, m *movement.Movement) string {
	if b != nil && b.Timed() {
		d := b.On.Said()
		switch sides := r.SideRule(m); {
		case sides == movement.Each && b.Rule == plan.Rounds:
			d = (b.On / 2).Said() + " each side"
		case sides == movement.Each:
			d += " each side"
		case sides == movement.Alternating:
			d += " alternating"
		}
		if aims(r.Dose) {
			d += ", aim for " + r.Dose.String()
		}
		return d
	}
	if phases := r.Phases(); len(phases) > 0 {
		var out []string
		for _, p := range phases {
			out = append(out, fmt.Sprintf("%s at level %d", p.Dose, p.Level))
		}
		return strings.Join(out, ", then ")
	}
	return r.DoseOf(m).String()
}

// aims tells whether a dose says something besides the clock: a count.
func aims(d dose.Dose) bool {
	return slices.ContainsFunc(d.Parts, func(p dose.Part) bool { return p.Kind != dose.Time && (p.Kind != dose.Hold || p.Count > 0) })
}

// butWords says what one side does differently: "but 6 reps on the left".
func butWords(b *plan.Block, r *plan.Row) (out []string) {
	timed := b != nil && b.Timed()
	for _, s := range []struct {
		side string
		o    *plan.Override
	}{{"right", r.Right}, {"left", r.Left}} {
		if s.o == nil {
			continue
		}
		var w []string
		if s.o.Level > 0 {
			w = append(w, "level "+strconv.Itoa(s.o.Level))
		}
		switch {
		case s.o.Dose.IsZero():
		case timed && !aims(s.o.Dose):
		case timed:
			w = append(w, "aim for "+s.o.Dose.String())
		default:
			w = append(w, s.o.Dose.String())
		}
		if s.o.Tempo != nil {
			w = append(w, s.o.Tempo.String())
		}
		for _, c := range s.o.Choices {
			w = append(w, "or "+c)
		}
		for _, t := range []string{s.o.Say, s.o.Cue, s.o.Caution, s.o.Note} {
			if t != "" {
				w = append(w, "“"+t+"”")
			}
		}
		if len(w) > 0 {
			out = append(out, "but "+strings.Join(w, ", ")+" on the "+s.side)
		}
	}
	return out
}

// RowWords says level, dose and what a side does differently, of a row by itself.
func RowWords(r *plan.Row, lib *movement.Library) string { return RowWordsIn(nil, r, lib) }

// RowWordsIn says it of a row in its block.
func RowWordsIn(b *plan.Block, r *plan.Row, lib *movement.Library) string {
	switch {
	case r.IsKept():
		return ""
	case r.IsTurn():
		var w []string
		if r.Rest.For > 0 {
			w = append(w, r.Rest.For.Said())
		}
		if r.Rest.Say != "" {
			w = append(w, r.Rest.Say)
		}
		return strings.Join(w, ". ")
	case r.IsRest():
		return strings.TrimSuffix(strings.TrimSpace(r.Rest.For.Said()+". "+r.Rest.Say), ".")
	}
	m, err := r.Of(lib)
	if err != nil {
		return r.Dose.String()
	}
	parts := []string{}
	if d := DoseIn(b, r, m); d != "" {
		parts = append(parts, d)
	}
	if sides := r.SideRule(m); r.Sides != movement.SidesUnsaid {
		parts = append(parts, map[movement.Sides]string{movement.RightOnly: "right only", movement.LeftOnly: "left only", movement.Each: "each side", movement.Both: "both at once", movement.Alternating: "alternating"}[sides])
	}
	parts = append(parts, butWords(b, r)...)
	parts = append(parts, r.How(m)...)
	if len(m.Levels) > 1 && len(r.PartLevels) == 0 {
		parts = append(parts, m.At(r.Level).Changes)
	}
	return strings.Join(parts, ", ")
}

// CalendarDay is one day of a series for the calendar.
type CalendarDay struct {
	Number    int // from 1
	Date      time.Time
	Title     string
	Details   string
	Length    clock.Span
	Cancelled bool
}

// CalendarOf is what the events of a calendar have in common.
type CalendarOf struct {
	Title    string
	Key      string // makes the UIDs stable
	Time     string // of day; empty: all day
	Zone     string
	Alarm    int       // minutes before a timed event; 0: none
	Sequence int       // raised by every change (RFC 5545, 3.8.7.4)
	Stamp    time.Time // when it was last changed
}

// Calendar writes an iCalendar file (RFC 5545): one event a day, all-day or at the time of day in the zone. Times are written in UTC, so that they need no
// table of zones and are right through summer time.
func Calendar(of CalendarOf, days []CalendarDay) ([]byte, error) {
	cal := ical.NewCalendarFor("Wavekine")
	cal.SetMethod(ical.MethodPublish)
	cal.SetName(of.Title)
	loc := time.UTC
	if of.Zone != "" {
		l, err := time.LoadLocation(of.Zone)
		if err != nil {
			return nil, fmt.Errorf("time zone %q: %w", of.Zone, err)
		}
		loc = l
	}
	for _, d := range days {
		e := cal.AddEvent(fmt.Sprintf("%s-day-%d@wavekine.invalid", of.Key, d.Number))
		e.SetDtStampTime(of.Stamp.UTC())
		e.SetSequence(of.Sequence)
		e.SetSummary(d.Title)
		if d.Cancelled {
			e.SetStatus(ical.ObjectStatusCancelled)
		}
		if d.Details != "" {
			e.SetDescription(d.Details)
		}
		if of.Time == "" {
			e.SetAllDayStartAt(d.Date)
			e.SetAllDayEndAt(d.Date.AddDate(0, 0, 1))
			continue
		}
		at, err := time.Parse("15:04", of.Time)
		if err != nil {
			return nil, fmt.Errorf("time of day %q: expected for example 18:30", of.Time)
		}
		start := time.Date(d.Date.Year(), d.Date.Month(), d.Date.Day(), at.Hour(), at.Minute(), 0, 0, loc)
		length := d.Length
		if length <= 0 {
			length = 30 * clock.Minute
		}
		e.SetStartAt(start)
		e.SetEndAt(start.Add(time.Duration(length) * time.Millisecond))
		if of.Alarm > 0 && !d.Cancelled {
			a := e.AddAlarm()
			a.SetAction(ical.ActionDisplay)
			a.SetTrigger(fmt.Sprintf("-PT%dM", of.Alarm))
			a.SetProperty(ical.ComponentPropertyDescription, d.Title)
		}
	}
	return []byte(cal.Serialize(ical.WithNewLineWindows)), nil
}

// usualAlarm is how many minutes before a class a calendar reminds; judgement.
const usualAlarm = 15

// SeriesCalendar writes the calendar of a series on its own dates.
func SeriesCalendar(s *plan.Series, key string, sequence int, stamp time.Time) ([]byte, error) {
	g := &group.Group{Name: s.Title, Start: s.Start, Time: s.Time, Zone: s.Zone, Alarm: usualAlarm}
	return GroupCalendar(s, g, Issue{Key: key, Sequence: sequence, Stamp: stamp})
}

// Issue is what a calendar of a group is given out with.
type Issue struct {
	Key      string // makes the UIDs stable
	Sequence int
	Stamp    time.Time
	Once     []int          // days that ever had a class
	Details  map[int]string // what is told of each day; its note where there is nothing
}

// GroupCalendar writes the calendar of a group: its days, those that are called off as cancelled, and as cancelled too the days that once had a class and have
// none any more, so that no calendar keeps them. Days whose session is kept elsewhere take their length from the series; titles stand for classes too.
func GroupCalendar(s *plan.Series, g *group.Group, is Issue) ([]byte, error) {
	dates, err := g.Dates(s)
	if err != nil {
		return nil, err
	}
	var days []CalendarDay
	there := map[int]bool{}
	for _, on := range dates {
		d := s.Days[on.Day-1]
		title := d.Title
		if title == "" && d.Session != nil {
			title = d.Session.Title
		}
		name := fmt.Sprintf("%s, day %d", s.Title, on.Day)
		if title != "" {
			name += ": " + title
		}
		there[on.Day] = true
		details := is.Details[on.Day]
		if details == "" {
			details = d.Note
		}
		days = append(days, CalendarDay{Number: on.Day, Date: on.Date, Title: name, Details: details, Length: s.Length(d), Cancelled: on.Off})
	}
	for _, n := range is.Once {
		if !there[n] && n > 0 {
			days = append(days, CalendarDay{Number: n, Date: g.Start.AddDate(0, 0, n-1), Title: fmt.Sprintf("%s, day %d", s.Title, n), Cancelled: true})
		}
	}
	return Calendar(CalendarOf{Title: s.Title, Key: is.Key, Time: g.Time, Zone: g.Zone, Alarm: g.Alarm, Sequence: is.Sequence, Stamp: is.Stamp}, days)
}
