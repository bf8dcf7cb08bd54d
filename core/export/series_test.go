package export_test

import (
	"bytes"
	"context"
	"os/exec"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/brief"
	"wavekine/core/export"
	"wavekine/core/group"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

var shipped = movement.Shipped()

func laid(t *testing.T, words string) *plan.Series {
	t.Helper()
	b, err := brief.Parse(words, shipped, time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	l, err := lay.Series(context.Background(), shipped, b, lay.Options{})
	require.NoError(t, err)
	s, err := l.Document(shipped, b.Start, 0)
	require.NoError(t, err)
	return s
}

// python runs a program of another language over a text; without one there is nothing to check against.
func python(t *testing.T, text []byte, program string) string {
	t.Helper()
	if _, err := exec.LookPath("/usr/bin/python3"); err != nil {
		t.Skip("no python3")
	}
	cmd := exec.Command("/usr/bin/python3", "-c", program)
	cmd.Stdin = bytes.NewReader(text)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	return string(out)
}

// The calendar of a group read by python3-icalendar: through the change to summer time on 26 March 2028 (the European Union's rule) and over the 29th of
// February, with a day moved, one called off, one that is gone, and a change that raises the sequence and keeps the names.
func TestAGroupsCalendarElsewhere(t *testing.T) {
	s := laid(t, "30 days from 27 february 2028, 12 min, hips and spine, no kit, ramp, rest wednesdays")
	g := &group.Group{Name: "Evening", Start: time.Date(2028, 2, 27, 0, 0, 0, 0, time.UTC), Time: "18:30", Zone: "Europe/Berlin", Alarm: 20}
	require.NoError(t, g.MoveDay(s, 6, time.Date(2028, 3, 29, 0, 0, 0, 0, time.UTC)))
	g.CallOff(8, true)
	write := func(sequence int, once []int) string {
		b, err := export.GroupCalendar(s, g, export.Issue{Key: "k", Sequence: sequence, Stamp: g.Start, Once: once, Details: map[int]string{1: "Bring: a mat, or two;\nand a friend"}})
		require.NoError(t, err)
		return python(t, b, `
import sys, icalendar
c = icalendar.Calendar.from_ical(sys.stdin.buffer.read())
for e in c.walk('VEVENT'):
    print(e['UID'].split('@')[0], e['SEQUENCE'], e.decoded('DTSTART').isoformat(), int((e.decoded('DTEND') - e.decoded('DTSTART')).total_seconds()), e.get('STATUS', ''), len(e.walk('VALARM')), str(e.get('DESCRIPTION', '')).replace('\n', '/'), sep='|')
`)
	}
	text := write(3, []int{1, 2, 31})
	for _, want := range []string{
		"k-day-1|3|2028-02-27T17:30:00+00:00|720||1|Bring: a mat, or two;/and a friend\n",
		"k-day-3|3|2028-02-29T17:30:00+00:00|720||1|\n",            // 29 February
		"k-day-6|3|2028-03-29T16:30:00+00:00|720||1|\n",            // moved, into summer time
		"k-day-8|3|2028-03-05T17:30:00+00:00|720|CANCELLED|0|\n",   // called off
		"k-day-28|3|2028-03-25T17:30:00+00:00|720||1|\n",           // the day before the clocks change
		"k-day-29|3|2028-03-26T16:30:00+00:00|720||1|\n",           // the day on which they do
		"k-day-31|3|2028-03-28T16:30:00+00:00|1800|CANCELLED|0|\n", // a day that once was
	} {
		assert.Contains(t, text, want)
	}
	assert.NotContains(t, text, "k-day-4|", "a day of rest")
	g.CallOff(8, false)
	again := write(4, nil)
	assert.Contains(t, again, "k-day-8|4|2028-03-05T17:30:00+00:00|720||1|")
	s.Days[2] = plan.Day{Title: "A walk together"}
	assert.Contains(t, write(5, nil), "k-day-3|5|2028-02-29T17:30:00+00:00|", "a day with a title and no class stays in the calendar")
}

// The board read by Python's csv module: every cell in its place.
func TestTheBoardElsewhere(t *testing.T) {
	s := laid(t, `9 days from 4 january 2027, 12 min, hips, no kit, ramp, rest sundays, learn bird dog`)
	s.Days[1].Title = "=1+2, \"quoted\"\nand more"
	days, err := export.DaysOf(s, nil, shipped, nil)
	require.NoError(t, err)
	b, err := export.BoardCSV(s, days, shipped)
	require.NoError(t, err)
	out := python(t, b, `
import csv, io, sys
rows = list(csv.reader(io.StringIO(sys.stdin.buffer.read().decode('utf-8'), newline=''), strict=True))
print(len({len(r) for r in rows}), len(rows[0]), rows[0][2], rows[1][2], rows[4][3].replace('\r\n', '/'), [r for r in rows if r[0] == 'bird-dog'][0][1:3], rows[2][8], sep='|')
print(sum(1 for r in rows[7:] for c in r[2:] if c))
`)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	assert.Equal(t, `1|11|day 1|2027-01-04|'=1+2, "quoted"/and more|['Bird dog', 'level 1: 8 each side']|rest`, lines[0])
	cells := 0
	for i := range days {
		seen := map[string]bool{}
		if days[i].Class != nil {
			days[i].Class.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
				if !r.IsRest() && !seen[r.Movement] {
					seen[r.Movement] = true
					cells++
				}
			})
		}
	}
	assert.Equal(t, []string{lines[0], strconv.Itoa(cells)}, lines)
}

// What is announced of each day: what, how long, what to bring, what is new, what asks for more than last time, what is before and after.
func TestAnnouncements(t *testing.T) {
	s := laid(t, "8 days from 4 january 2027, 12 min, hips, with chair, ramp, rest sundays, learn bird dog every day")
	s.Days[3].Note = "Come early."
	days, err := export.DaysOf(s, nil, shipped, nil)
	require.NoError(t, err)
	a := export.Announce(s, nil, days, export.UsualWording(), shipped)
	require.Len(t, a.Days, 7)
	assert.Contains(t, a.Days[0].Text, "Day 1 of 8: hips\nMonday 4 January\n12 min\n")
	assert.Contains(t, a.Days[0].Text, "The first day. Tomorrow: ")
	assert.NotContains(t, a.Days[0].Text, "New:", "on the first day everything is")
	assert.Contains(t, a.Days[3].Text, "Come early.")
	assert.Contains(t, a.Days[5].Text, "Tomorrow: rest.")
	assert.Contains(t, a.Days[6].Text, "The last day")
	assert.Contains(t, string(a.Text()), "More than last time: Bird dog: ")
	assert.Contains(t, a.Series, "8 days from 4 January 2027 to 11 January 2027: 7 classes")
	assert.Equal(t, 7, strings.Count(string(a.Markdown()), "\n### Day "))
	assert.NotContains(t, string(a.Text()), "{")

	g := &group.Group{Name: "G", Start: time.Date(2027, 1, 5, 0, 0, 0, 0, time.UTC), Weekdays: []time.Weekday{time.Tuesday}}
	g.CallOff(2, true)
	days, err = export.DaysOf(s, g, shipped, nil)
	require.NoError(t, err)
	a = export.Announce(s, g, days, export.Wording{Day: "{title}!\n{tomorrow}", Week: "Week {week}", Series: "{title}"}, shipped)
	require.Len(t, a.Days, 6, "a day that is called off is not announced")
	assert.Equal(t, "hips!\nNext, on Tuesday 19 January: hips, 12 min", a.Days[0].Text)
	assert.Equal(t, 3, a.Days[1].Week)

	require.NoError(t, export.UsualWording().Check())
	assert.ErrorContains(t, export.Wording{Day: "{titel}"}.Check(), "{titel} is not known: expected {day}")
	assert.ErrorContains(t, export.Wording{Week: "{week"}.Check(), "a { without its }")
	assert.Error(t, export.Wording{Series: strings.Repeat("x", 2001)}.Check())
}

// A few movements to do at home, each as it was done last.
func TestTakeHome(t *testing.T) {
	s := laid(t, "8 days from 4 january 2027, 12 min, hips, no kit, ramp, learn bird dog every day")
	days, err := export.DaysOf(s, nil, shipped, nil)
	require.NoError(t, err)
	sh, err := export.TakeHomeOf(s, days, []string{"bird-dog"}, shipped)
	require.NoError(t, err)
	assert.Equal(t, 1, sh.Rows)
	for _, slugs := range [][]string{nil, {"quux"}, {"teaser"}, strings.Split("a a a a a a a a a", " ")} {
		_, err := export.TakeHomeOf(s, days, slugs, shipped)
		assert.Error(t, err, slugs)
	}
}
