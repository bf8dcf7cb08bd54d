package board

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/lay"
	"wavekine/core/plan"
	"wavekine/core/series"
)

// Briefs of every way to say the days: as a pattern and started again on each weekday the classes are the same in the same order, days of rest are on their
// weekdays, and the series can be laid again from its words.
func TestPatternsAreStartedAgain(t *testing.T) {
	classes := func(s *plan.Series) (out []string) {
		for i := range s.Days {
			if s.Days[i].Session != nil {
				c := *s.Days[i].Session
				c.Title = strings.TrimLeft(c.Title, "Day 0123456789")
				out = append(out, text(t, &c))
			}
		}
		return out
	}
	for _, words := range []string{
		"14 days from 6 january 2027, 12 min, hips, no kit, mixed, rest sundays, ramp, peak day 13, soft last day, learn bird dog",
		"14 days from 4 january 2027, 12 min, core, no kit, wave", "6 tuesdays from 12 january 2027, 15 min, spine", "3 a week for 2 weeks from 5 january 2027, 15 min, hips", "10 days, 12 min, hips, rest days 4 and 8",
	} {
		s := laid(t, words)
		p := do(t, &plan.Series{}, &KeepPattern{From: s, Title: "Ours"})
		assert.Equal(t, "Ours", p.Title)
		assert.Equal(t, s.Start.Weekday(), p.Start.Weekday())
		assert.NotContains(t, p.Brief, "2027", words)
		assert.Equal(t, classes(s), classes(p), words)
		for k := range 7 {
			start := time.Date(2028, 2, 25+k, 0, 0, 0, 0, time.UTC) // over a 29 February
			next := do(t, &plan.Series{}, &StartAgain{From: p, Start: start.Format(time.DateOnly)})
			assert.Equal(t, classes(s), classes(next), "%s on %s", words, start.Weekday())
			found, err := series.Over(next, lib, nil)
			require.NoError(t, err)
			for _, f := range found {
				assert.NotEqual(t, "rest-day", f.Rule, "%s on %s: %s", words, start.Weekday(), f.Says)
			}
			assert.False(t, next.Start.Before(start))
			assert.Less(t, next.Start.Sub(start), 7*24*time.Hour)
			_, err = lay.BriefOf(lib, next)
			assert.NoError(t, err)
			if k == 2 {
				again := do(t, next, &Lay{})
				assert.Equal(t, next.Start, again.Start, words)
			}
		}
	}
	refused(t, &plan.Series{}, &StartAgain{From: laid(t, "5 days, 10 min, hips"), Start: "2027-02-29"}, "not a date")
	refused(t, &plan.Series{}, &StartAgain{Start: "2027-02-28"}, "of which series")
	k := demoClasses(t)[0]
	of := &plan.Series{Title: "By hand", Start: time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC), Days: []plan.Day{{Ref: k.ID}}}
	p := do(t, &plan.Series{}, &KeepPattern{With: With{Kept: map[string]lay.Kept{k.ID: k}}, From: of})
	assert.NotNil(t, p.Days[0].Session, "it needs nothing besides")
	refused(t, &plan.Series{}, &KeepPattern{From: of}, "its session is gone")
}

func TestAWeekComesFromAnotherSeries(t *testing.T) {
	a := laid(t, "14 days from 4 january 2027, 12 min, hips, no kit, mixed, rest sundays, learn bird dog")
	b := laid(t, "14 days from 4 january 2027, 12 min, core, no kit, mixed, rest sundays, learn side plank")
	weeks, err := Weeks(b, lib, With{})
	require.NoError(t, err)
	require.Len(t, weeks, 2)
	assert.Equal(t, [3]int{2, 8, 14}, [3]int{weeks[1].N, weeks[1].From, weeks[1].To})
	assert.Equal(t, 6, weeks[1].Classes)
	assert.InDelta(t, 72, weeks[1].Minutes, 1)
	next := do(t, a, &TakeWeek{From: b, Week: 2, Day: n(8)})
	require.Len(t, next.Days, 20, "it ends with a class")
	for k := range 6 {
		assert.Equal(t, text(t, b.Days[7+k].Rows), text(t, next.Days[7+k].Rows), "day %d", 8+k)
		assert.Equal(t, text(t, a.Days[7+k].Rows), text(t, next.Days[14+k].Rows), "what came then comes a week later")
		assert.Equal(t, fmt.Sprintf("Day %d, core", 8+k), next.Days[7+k].Session.Title)
		assert.Equal(t, fmt.Sprintf("Day %d, hips", 15+k), next.Days[14+k].Session.Title, "days are called by the numbers that they have now")
	}
	assert.NotNil(t, next.Ladder("side-plank"), "what is learned comes along")
	assert.Contains(t, next.Days[7].Because, "from week 2 of")
	refused(t, a, &TakeWeek{From: b, Week: 3, Day: n(8)}, "no days to take")
	refused(t, a, &TakeWeek{Day: n(8)}, "choose a week")
	refused(t, a, &TakeWeek{From: b, Week: 1, Day: n(16)}, "expected 1 to 15")
	long := laid(t, "60 days from 4 january 2027, 10 min, hips, no kit")
	refused(t, long, &TakeWeek{From: b, Week: 1, Day: n(1)}, "at most 60")
}
