package group

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/plan"
)

func date(t testing.TB, s string) time.Time {
	t.Helper()
	d, err := time.Parse(time.DateOnly, s)
	require.NoError(t, err)
	return d
}

// week is a series of n days, those in rest without a class.
func week(n int, rest ...int) *plan.Series {
	s := &plan.Series{Title: "S", Days: make([]plan.Day, n)}
	for i := range s.Days {
		s.Days[i].Title = fmt.Sprint("Day ", i+1)
	}
	for _, r := range rest {
		s.Days[r-1] = plan.Day{Rest: true}
	}
	return s
}

func said(t testing.TB, g *Group, s *plan.Series) (out []string) {
	t.Helper()
	days, err := g.Dates(s)
	require.NoError(t, err)
	for _, d := range days {
		w := fmt.Sprintf("%d %s", d.Day, d.Date.Format("2 Jan"))
		if d.Moved {
			w += " moved"
		}
		if d.Off {
			w += " off"
		}
		out = append(out, w)
	}
	return out
}

// Dates worked out by hand on a calendar: 2028 is a leap year, 1 March 2027 a monday.
func TestDates(t *testing.T) {
	g := &Group{Name: "G", Start: date(t, "2028-02-27")}
	assert.Equal(t, []string{"1 27 Feb", "2 28 Feb", "4 1 Mar", "5 2 Mar"}, said(t, g, week(5, 3)), "the day of rest is the 29th of February")
	g.Start = date(t, "2027-02-27")
	assert.Equal(t, []string{"1 27 Feb", "2 28 Feb", "4 2 Mar", "5 3 Mar"}, said(t, g, week(5, 3)))

	g = &Group{Name: "G", Start: date(t, "2027-03-01"), Weekdays: []time.Weekday{time.Tuesday, time.Thursday}}
	assert.Equal(t, []string{"1 2 Mar", "2 4 Mar", "4 9 Mar", "5 11 Mar"}, said(t, g, week(5, 3)), "days of rest fall between")

	g = &Group{Name: "G", Start: date(t, "2027-03-01")}
	require.NoError(t, g.PauseFor(date(t, "2027-03-03"), date(t, "2027-03-05")))
	assert.Equal(t, []string{"1 1 Mar", "2 2 Mar", "3 6 Mar", "4 7 Mar"}, said(t, g, week(4)), "paused for three days")
	require.NoError(t, g.PauseFor(date(t, "2027-03-05"), date(t, "2027-03-06")))
	assert.Len(t, g.Pauses, 1, "two pauses that meet are one")
	assert.Equal(t, []string{"1 1 Mar", "2 2 Mar", "3 7 Mar", "4 8 Mar"}, said(t, g, week(4)))
	require.NoError(t, g.MoveDay(week(4), 3, date(t, "2027-03-12")))
	assert.Equal(t, []string{"1 1 Mar", "2 2 Mar", "3 12 Mar moved", "4 8 Mar"}, said(t, g, week(4)), "the others stay")
	require.NoError(t, g.MoveDay(week(4), 3, date(t, "2027-03-07")))
	assert.Empty(t, g.Moves, "moved to where it is anyway")
	g.CallOff(2, true)
	assert.Equal(t, "2 2 Mar off", said(t, g, week(4))[1])
	on, err := g.On(week(4), date(t, "2027-03-02"))
	require.NoError(t, err)
	assert.Zero(t, on)
	g.CallOff(2, false)
	on, err = g.On(week(4), date(t, "2027-03-02"))
	require.NoError(t, err)
	assert.Equal(t, 2, on)
	assert.Error(t, g.MoveDay(week(4, 2), 2, date(t, "2027-03-12")), "a day of rest")
	assert.Error(t, g.MoveDay(week(4), 5, date(t, "2027-03-12")))
	assert.Error(t, g.PauseFor(date(t, "2027-03-05"), date(t, "2027-03-04")))

	never := &Group{Name: "G", Start: date(t, "2027-03-01"), Weekdays: []time.Weekday{time.Monday}, Pauses: []Pause{{date(t, "2027-03-01"), date(t, "2037-03-01")}}}
	_, err = never.Dates(week(3))
	assert.ErrorContains(t, err, "fewer pauses")
}

// A group is written and read again as it is; what cannot be is refused with its place.
func TestGroupDocument(t *testing.T) {
	const doc = `{"format":"wavekine.group/1","name":"Evening","start":"2027-03-01","weekdays":["tuesday","thursday"],"time":"18:30","zone":"Europe/Berlin","alarm":30,"pauses":[{"from":"2027-03-10","to":"2027-03-12"}],"moved":[{"day":4,"to":"2027-03-20"}],"off":[6],"skip":["2027-03-26"]}`
	g, err := Read([]byte(doc))
	require.NoError(t, err)
	out, err := json.Marshal(g)
	require.NoError(t, err)
	assert.Equal(t, doc, string(out))
	for _, c := range [][3]string{
		{`"2027-03-01"`, `"2027-02-30"`, "$.start: "},
		{`"tuesday"`, `"someday"`, "$.weekdays[0]: "},
		{`"18:30"`, `"6:30 pm"`, "not a time of day"},
		{`Europe/Berlin`, `Europe/Atlantis`, "not a time zone"},
		{`"alarm":30`, `"alarm":-1`, "$.alarm"},
		{`"to":"2027-03-12"`, `"to":"2027-03-09"`, "ends before it begins"},
		{`"off":[6]`, `"off":[61]`, "$.off[0]"},
		{`"off":[6]`, `"of":[6]`, "$.of: unknown key"},
		{`"Evening"`, `" "`, "needs a name"},
		{`group/1`, `group/2`, "$.format"},
		{`"thursday"`, `"tuesday"`, "each weekday once"},
		{`"start":"2027-03-01"`, `"start":"0027-03-01"`, "$.start"},
	} {
		require.Contains(t, doc, c[0])
		_, err := Read([]byte(strings.Replace(doc, c[0], c[1], 1)))
		require.Error(t, err, c[1])
		assert.Contains(t, err.Error(), c[2])
	}
}

// Whatever is paused, moved and skipped: each class has one date, in order, on a weekday of the group and never in a pause, unless it was moved.
func TestDatesKeepTheirRules(t *testing.T) {
	r := rand.New(rand.NewPCG(51, 52))
	for range 500 {
		g := &Group{Name: "G", Start: date(t, "2027-01-01").AddDate(0, 0, r.IntN(800))}
		for w := time.Sunday; w <= time.Saturday; w++ {
			if r.IntN(3) == 0 {
				g.Weekdays = append(g.Weekdays, w)
			}
		}
		s := week(1 + r.IntN(60))
		for i := range s.Days {
			if r.IntN(5) == 0 {
				s.Days[i] = plan.Day{Rest: true}
			}
		}
		for range r.IntN(4) {
			from := g.Start.AddDate(0, 0, r.IntN(60))
			require.NoError(t, g.PauseFor(from, from.AddDate(0, 0, r.IntN(9))))
		}
		for range r.IntN(4) {
			g.Skip = append(g.Skip, g.Start.AddDate(0, 0, r.IntN(60)))
		}
		for range r.IntN(3) {
			_ = g.MoveDay(s, 1+r.IntN(len(s.Days)), g.Start.AddDate(0, 0, r.IntN(90)))
		}
		require.NoError(t, g.Check())
		days, err := g.Dates(s)
		require.NoError(t, err)
		last, classes := time.Time{}, 0
		for i := range s.Days {
			if !s.Days[i].Rest {
				classes++
			}
		}
		assert.Len(t, days, classes)
		for _, d := range days {
			if d.Moved {
				continue
			}
			assert.True(t, d.Date.After(last))
			assert.False(t, g.closed(d.Date))
			if len(g.Weekdays) > 0 {
				assert.Contains(t, g.Weekdays, d.Date.Weekday())
			}
			last = d.Date
		}
		out, err := json.Marshal(g)
		require.NoError(t, err)
		back, err := Read(out)
		require.NoError(t, err)
		assert.Equal(t, said(t, g, s), said(t, back, s))
	}
}

const calendar = `BEGIN:VCALENDAR
VERSION:2.0
PRODID:-//other//calendar//
BEGIN:VEVENT
UID:once
DTSTAMP:20270101T000000Z
SUMMARY:Dentist\, upper jaw
DTSTART;TZID=Europe/Berlin:20270302T180000
DTEND;TZID=Europe/Berlin:20270302T190000
END:VEVENT
BEGIN:VEVENT
UID:weekly
DTSTAMP:20270101T000000Z
SUMMARY:Choir
DTSTART;TZID=Europe/Berlin:20270107T183000
DURATION:PT1H30M
RRULE:FREQ=WEEKLY;UNTIL=20270430T220000Z
EXDATE;TZID=Europe/Berlin:20270311T183000
END:VEVENT
BEGIN:VEVENT
UID:weekly
RECURRENCE-ID;TZID=Europe/Berlin:20270318T183000
DTSTAMP:20270101T000000Z
SUMMARY:Choir, moved
DTSTART;TZID=Europe/Berlin:20270319T183000
DURATION:PT1H
END:VEVENT
BEGIN:VEVENT
UID:holiday
DTSTAMP:20270101T000000Z
SUMMARY:Good Friday
DTSTART;VALUE=DATE:20270326
END:VEVENT
BEGIN:VEVENT
UID:free
DTSTAMP:20270101T000000Z
SUMMARY:Not busy
TRANSP:TRANSPARENT
DTSTART:20270304T120000Z
DTEND:20270304T200000Z
END:VEVENT
BEGIN:VEVENT
UID:off
DTSTAMP:20270101T000000Z
STATUS:CANCELLED
DTSTART:20270305T120000Z
DTEND:20270305T200000Z
END:VEVENT
END:VCALENDAR
`

// A calendar of somebody else: times in their zone through the change to summer time (28 March 2027, the European Union's rule), what repeats with what was taken
// out of it and moved, days that are taken whole; what is cancelled or leaves one free does not count.
func TestBusyTimes(t *testing.T) {
	berlin, err := time.LoadLocation("Europe/Berlin")
	require.NoError(t, err)
	busy, err := ReadBusy([]byte(strings.ReplaceAll(calendar, "\n", "\r\n")), date(t, "2027-03-01"), date(t, "2027-04-05"), berlin)
	require.NoError(t, err)
	var got []string
	for _, b := range busy {
		got = append(got, fmt.Sprintf("%s %s to %s UTC", b.What, b.From.UTC().Format("2 Jan 15:04"), b.To.UTC().Format("2 Jan 15:04")))
	}
	assert.Equal(t, []string{
		"Dentist, upper jaw 2 Mar 17:00 to 2 Mar 18:00 UTC",
		"Choir 4 Mar 17:30 to 4 Mar 19:00 UTC",
		"Choir, moved 19 Mar 17:30 to 19 Mar 18:30 UTC",
		"Choir 25 Mar 17:30 to 25 Mar 19:00 UTC",
		"Good Friday 25 Mar 23:00 to 26 Mar 23:00 UTC",
		"Choir 1 Apr 16:30 to 1 Apr 18:00 UTC",
	}, got)

	g := &Group{Name: "G", Start: date(t, "2027-03-01"), Time: "18:30", Zone: "Europe/Berlin", Weekdays: []time.Weekday{time.Tuesday, time.Thursday, time.Friday}}
	s := week(9)
	s.Minutes = 20
	clashes, err := g.Clashes(s, busy)
	require.NoError(t, err)
	var on []string
	for _, c := range clashes {
		on = append(on, fmt.Sprintf("%d %s %s", c.Day, c.Date.Format("2 Jan"), c.What))
	}
	assert.Equal(t, []string{"1 2 Mar Dentist, upper jaw", "2 4 Mar Choir", "9 19 Mar Choir, moved"}, on)
	skipped, err := g.Around(s, busy)
	require.NoError(t, err)
	assert.Len(t, skipped, 3+3, "and those to which the days moved along: 25 and 26 March, 1 April")
	clashes, err = g.Clashes(s, busy)
	require.NoError(t, err)
	assert.Empty(t, clashes)
	allDay := &Group{Name: "G", Start: date(t, "2027-03-22")}
	clashes, err = allDay.Clashes(week(7), busy)
	require.NoError(t, err)
	require.Len(t, clashes, 1)
	assert.Equal(t, "Good Friday", clashes[0].What, "a class at any time gives way to a whole day alone")
}

// A calendar that is broken, too large or endless is refused in words; nothing panics, whatever is in it.
func TestBrokenCalendars(t *testing.T) {
	read := func(text string) error {
		_, err := ReadBusy([]byte(text), date(t, "2027-01-01"), date(t, "2028-01-01"), time.UTC)
		return err
	}
	event := func(lines string) string {
		return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:x\r\nSUMMARY:Oven\r\n" + lines + "\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	}
	for text, says := range map[string]string{
		"":                                "no calendar file",
		"hello":                           "no calendar file",
		"BEGIN:VCALENDAR\r\n":             "broken",
		strings.Repeat("x", 5<<20):        "larger than 4 MB",
		event("DTSTART:yesterday"):        `event 1 ("Oven"): "yesterday" is no date`,
		event("DTSTART:20270230T100000Z"): "is no date",
		event("SUMMARY:no beginning"):     "no beginning",
		event("DTSTART:20270301T100000Z\r\nDTEND:20270301T090000Z"):                "ends before it begins",
		event("DTSTART:20270301T100000Z\r\nDURATION:long"):                         "is no length",
		event("DTSTART:20270301T100000Z\r\nDURATION:PT1H\r\nRRULE:FREQ=SECONDLY"):  "by the hour or faster",
		event("DTSTART:20270301T100000Z\r\nDURATION:PT1H\r\nRRULE:FREQ=SOMETIMES"): "not understood",
	} {
		err := read(text)
		require.Error(t, err, "%.80q", text)
		assert.Contains(t, err.Error(), says)
	}
	assert.NoError(t, read(event("DTSTART:20270301T100000Z\r\nDURATION:PT1H\r\nRRULE:FREQ=DAILY")), "without end, it is asked for a span")
	assert.NoError(t, read(event("DTSTART;TZID=Nowhere/Here:20270301T100000\r\nDTEND;TZID=Nowhere/Here:20270301T110000")))
	r := rand.New(rand.NewPCG(61, 62))
	for range 3000 { // bytes changed anywhere
		text := []byte(calendar)
		for range 1 + r.IntN(6) {
			switch i := r.IntN(len(text)); r.IntN(3) {
			case 0:
				text[i] = byte(r.IntN(256))
			case 1:
				text = append(text[:i], text[min(len(text), i+r.IntN(40)):]...)
			default:
				text = append(text[:i], append([]byte(calendar[:r.IntN(len(calendar))]), text[i:]...)...)
			}
			if len(text) < 2 {
				break
			}
		}
		at := time.Now()
		_ = read(string(text))
		assert.Less(t, time.Since(at), 5*time.Second)
	}
}

// Two groups of one teacher with their peak on one day are told so.
func TestPeaksTogether(t *testing.T) {
	s := week(5)
	s.Days[3].Peak = true
	a := &Group{Name: "A", Start: date(t, "2027-03-01")}
	b := &Group{Name: "B", Start: date(t, "2027-03-03"), Weekdays: []time.Weekday{time.Thursday}}
	both, err := Peaks(a, s, b, week(5))
	require.NoError(t, err)
	assert.Empty(t, both)
	one := week(2)
	one.Days[0].Peak = true
	both, err = Peaks(a, s, b, one)
	require.NoError(t, err)
	assert.Equal(t, []time.Time{date(t, "2027-03-04")}, both)
}
