package progress_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/brief"
	"wavekine/core/clock"
	"wavekine/core/group"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/progress"
	"wavekine/core/timeline"
)

var (
	lib    = movement.Shipped()
	monday = time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC)
)

func on(n int) time.Time { return monday.AddDate(0, 0, n-1) }

func laid(t testing.TB, words string) *plan.Series {
	t.Helper()
	b, err := brief.Parse(words, lib, monday)
	require.NoError(t, err)
	l, err := lay.Series(context.Background(), lib, b, lay.Options{})
	require.NoError(t, err)
	s, err := l.Document(lib, monday, 0)
	require.NoError(t, err)
	return s
}

// The rule of two for two (common practice in strength training: two goes in a row at the target before more), what goes back, and pain, as a teacher would judge them.
func TestJudge(t *testing.T) {
	g := func(target bool, effort int, planned float64, felt, hurt string) progress.Go {
		x := progress.Go{Target: target, Effort: effort, Plan: planned, Dose: "8 each side"}
		if felt != "" {
			x.Felt = []string{felt}
		}
		if hurt != "" {
			x.Hurt = []string{hurt}
		}
		return x
	}
	for name, c := range map[string]struct {
		goes []progress.Go
		want progress.Verdict
	}{
		"two at target under the plan":             {[]progress.Go{g(true, 3, 4, "", ""), g(true, 4, 4, "", "")}, progress.Up},
		"one is not two":                           {[]progress.Go{g(true, 3, 4, "", "")}, progress.Stay},
		"one short of the target":                  {[]progress.Go{g(false, 3, 4, "", ""), g(true, 3, 4, "", "")}, progress.Stay},
		"an easy one long ago does not count":      {[]progress.Go{g(true, 3, 4, "", ""), g(true, 6, 4, "", ""), g(true, 3, 4, "", "")}, progress.Stay},
		"one over the plan":                        {[]progress.Go{g(true, 5, 4, "", ""), g(true, 4, 4, "", "")}, progress.Stay},
		"nothing said of effort":                   {[]progress.Go{g(true, -1, 4, "", ""), g(true, -1, 4, "", "")}, progress.Stay},
		"easy, but felt in the neck once":          {[]progress.Go{g(true, 3, 4, "neck", ""), g(true, 3, 4, "", "")}, progress.Stay},
		"felt in the neck twice":                   {[]progress.Go{g(true, 3, 4, "neck", ""), g(true, 3, 4, "neck", "")}, progress.Back},
		"two over twice":                           {[]progress.Go{g(true, 6, 4, "", ""), g(true, 7, 4, "", "")}, progress.Back},
		"two over once":                            {[]progress.Go{g(true, 6, 4, "", ""), g(true, 4, 4, "", "")}, progress.Stay},
		"two over, then felt in the wrong place":   {[]progress.Go{g(true, 6, 4, "", ""), g(true, 4, 4, "low back", "")}, progress.Back},
		"pain, whatever else":                      {[]progress.Go{g(true, 3, 4, "", "knee"), g(true, 3, 4, "", ""), g(true, 3, 4, "", "")}, progress.Stop},
		"pain on the only go":                      {[]progress.Go{g(false, -1, 4, "", "knee")}, progress.Stop},
		"effort in whole numbers: 4 at 3.6 is at":  {[]progress.Go{g(true, 4, 3.6, "", ""), g(true, 4, 3.6, "", "")}, progress.Up},
		"and 5 at 3.6 is over":                     {[]progress.Go{g(true, 5, 3.6, "", ""), g(true, 4, 3.6, "", "")}, progress.Stay},
		"exactly two over, twice":                  {[]progress.Go{g(false, 6, 4, "", ""), g(false, 6, 4, "", "")}, progress.Back},
		"hardly anything done, nothing said of it": {[]progress.Go{g(false, -1, 4, "", ""), g(false, -1, 4, "", "")}, progress.Stay},
	} {
		assert.Equal(t, c.want, progress.Judge("x", c.goes).Verdict, name)
	}
}

// What it is to choose: every day of the series is done, has a date of its own, or is let go and said to be; what was done keeps its date; along keeps the order; catching up keeps its four
// rules, held against by a reader of its own.
func TestMissedDays(t *testing.T) {
	series := []*plan.Series{laid(t, "12 days, 15 min, hips, ramp"), laid(t, "10 days, 10 min, core, rest sundays, different every day"), laid(t, "9 days, 20 min, spine, wave")}
	groups := []*group.Group{{Name: "daily", Start: monday}, {Name: "twice", Start: monday, Weekdays: []time.Weekday{time.Monday, time.Thursday}}}
	offers, twoADay := map[progress.Kind]int{}, 0
	for trial := range 600 {
		r := rand.New(rand.NewPCG(7, uint64(trial)))
		s, g := series[r.IntN(len(series))], *groups[r.IntN(len(groups))]
		if r.IntN(4) == 0 {
			require.NoError(t, g.PauseFor(on(4), on(6)))
		}
		times := map[int]*timeline.Timeline{}
		for i := range s.Days {
			if c := s.Days[i].Session; c != nil {
				tl, err := timeline.Build(c, lib)
				require.NoError(t, err)
				times[i+1] = tl
			}
		}
		loads := progress.LoadsOf(s, times)
		w := &progress.Who{Said: map[int]*progress.CheckIn{}}
		for at := monday; at.Before(on(30)); at = at.AddDate(0, 0, 1) {
			days, err := w.Days(s, &g, at)
			require.NoError(t, err)
			if progress.Behind(days) > 0 && r.IntN(3) == 0 {
				kind := progress.Kinds()[r.IntN(3)]
				c, err := w.Offer(s, &g, loads, kind, at)
				require.NoError(t, err)
				text, err := json.Marshal(c)
				require.NoError(t, err)
				var again progress.Choice
				require.NoError(t, json.Unmarshal(text, &again), "what was chosen is kept as it was seen")
				after := &progress.Who{Said: w.Said, Choices: append(slices.Clone(w.Choices), again)}
				now, err := after.Days(s, &g, at)
				require.NoError(t, err)
				where := fmt.Sprintf("trial %d, %s, %s on %s", trial, g.Name, kind, at.Format("2 Jan"))
				require.Len(t, now, len(days), where)
				require.Zero(t, progress.Behind(now), where+": nothing is left to choose about")
				held(t, where, kind, days, now, loads, at, c)
				offers[kind]++
				if len(c.Puts) > 0 {
					twoADay++
				}
				w, days = after, now
			}
			for _, d := range days {
				if d.Date.Equal(at) && d.State == progress.OnNow && r.IntN(3) > 0 {
					w.Said[d.Day] = &progress.CheckIn{Day: d.Day, Did: progress.All, Effort: 3}
				}
			}
		}
	}
	for _, k := range progress.Kinds() {
		assert.Greater(t, offers[k], 100, k)
	}
	assert.Greater(t, twoADay, 50)
}

func held(t *testing.T, where string, kind progress.Kind, was, now []progress.MoverDay, loads map[int]progress.DayLoad, today time.Time, c progress.Choice) {
	t.Helper()
	on, last := map[time.Time][]int{}, time.Time{}
	for i, d := range now {
		b := was[i]
		require.Equal(t, b.Day, d.Day, where)
		if b.State == progress.Done {
			require.Equal(t, b.Date, d.Date, where+": what was done keeps its date")
		}
		if b.State == progress.Missed && d.State != progress.LetGo {
			require.False(t, d.Date.Before(today), "%s: day %d is put in the past", where, d.Day)
		}
		if d.State == progress.LetGo && b.State != progress.LetGo {
			require.Contains(t, c.LetGo, d.Day, where)
		}
		if d.State != progress.LetGo && d.State != progress.CallOff && !d.Date.Before(today) {
			on[d.Date] = append(on[d.Date], d.Day)
		}
		if kind == progress.Along && d.State == progress.Coming {
			require.False(t, d.Date.Before(last), "%s: day %d comes before the one in front of it", where, d.Day)
			if d.State == progress.Coming && slices.Index(c.Missed, d.Day) < 0 {
				last = d.Date
			}
		}
	}
	if kind == progress.GoOn {
		require.Equal(t, c.Missed, c.LetGo, where)
	}
	if kind != progress.CatchUp {
		return
	}
	for at, ns := range on {
		put := slices.ContainsFunc(c.Puts, func(p progress.Put) bool { return p.On.Equal(at) })
		if !put {
			continue
		}
		require.LessOrEqual(t, len(ns), 2, where)
		for i := range ns {
			for j := range i {
				for _, r := range loads[ns[i]].Hard {
					require.NotContains(t, loads[ns[j]].Hard, r, "%s: %s hard twice", where, r)
				}
			}
			if loads[ns[i]].Peak && slices.ContainsFunc(c.Puts, func(p progress.Put) bool { return p.Day == ns[i] }) {
				for _, next := range []time.Time{at.AddDate(0, 0, -1), at.AddDate(0, 0, 1)} {
					for _, o := range on[next] {
						require.False(t, loads[o].Peak, where+": two peaks in a row")
					}
				}
			}
		}
	}
}

// A check-in reads back as it was written; what cannot be is refused with its place.
func TestCheckInDocument(t *testing.T) {
	full := `{"format":"wavekine.checkin/1","id":"0123456789abcdef","day":5,"did":"all","effort":4,"felt":[{"place":"seat","side":"right","in":"bird-dog"},{"place":"neck"}],"pain":[{"place":"knee","side":"left"}],"taken":[{"movement":"bird-dog","level":2}],"tests":[{"movement":"side-plank","side":"right","amount":42,"unit":"seconds"}],"line":"good","told":"2027-01-08T18:20:00Z"}`
	c, err := progress.ReadCheckIn([]byte(full))
	require.NoError(t, err)
	b, err := json.Marshal(c)
	require.NoError(t, err)
	assert.JSONEq(t, full, string(b))
	assert.Equal(t, "all of it, 4 somewhat hard, felt in right seat, neck, it hurt: left knee", c.Says())
	for _, x := range [][3]string{
		{`"effort":4`, `"effort":11`, "$.effort"},
		{`"effort":4`, `"effort":-1`, "$.effort"},
		{`"day":5`, `"day":0`, "$.day"},
		{`"day":5`, `"day":61`, "$.day"},
		{`"did":"all"`, `"did":"most"`, "$.did"},
		{`"did":"all"`, `"did":"not today"`, "$.did"},
		{`"place":"neck"`, `"place":"soul"`, "$.felt[1].place"},
		{`{"place":"neck"}`, `{"place":"neck","side":"left"}`, "$.felt[1].side"},
		{`"id":"0123456789abcdef"`, `"id":"short"`, "$.id"},
		{`"id":"0123456789abcdef"`, `"id":"0123456789ABCDEF<b>"`, "$.id"},
		{`"line":"good"`, `"line":"` + strings.Repeat("x", 10000) + `"`, "$.line"},
		{`"told":"2027-01-08T18:20:00Z"`, `"told":"yesterday"`, "$.told"},
		{`"told":"2027-01-08T18:20:00Z"`, `"told":"0001-01-01T00:00:00Z"`, "$.told"},
		{`"amount":42`, `"amount":99999`, "$.tests[0].amount"},
		{`"unit":"seconds"`, `"unit":"furlongs"`, "$.tests[0].unit"},
		{`"line":"good"`, `"line":"good","more":1`, `$.more`},
		{`"taken":[`, `"taken":[{"movement":"bird-dog","level":1},`, "$.taken[1]"},
	} {
		_, err := progress.ReadCheckIn([]byte(strings.Replace(full, x[0], x[1], 1)))
		assert.ErrorContains(t, err, x[2], x[1])
	}
}

func FuzzCheckIn(f *testing.F) {
	f.Add(`{"format":"wavekine.checkin/1","id":"0123456789abcdef","day":5,"did":"part","told":"2027-01-08T18:20:00Z"}`)
	f.Fuzz(func(t *testing.T, text string) {
		c, err := progress.ReadCheckIn([]byte(text))
		if err != nil {
			return
		}
		b, err := json.Marshal(c)
		require.NoError(t, err)
		again, err := progress.ReadCheckIn(b)
		require.NoError(t, err)
		assert.Equal(t, c, again)
	})
}

// Borg's CR10 scale has its anchors at these numbers (Borg 1982, Med Sci Sports Exerc 14:377; wording in the common short form, from memory).
func TestBorgAnchors(t *testing.T) {
	for n, word := range map[int]string{0: "none at all", 1: "very light", 2: "light", 3: "moderate", 4: "somewhat hard", 5: "hard", 7: "very hard", 9: "extremely hard"} {
		assert.Equal(t, word, progress.HardWord(n))
	}
}

// Between 0.95 and 1.05 two sides count as alike (McGill 1999).
func TestRatioOfSides(t *testing.T) {
	of := func(right, left int) progress.Measured {
		said := map[int]*progress.CheckIn{1: {Tests: []progress.Test{{"side-plank", "right", right, "seconds"}, {"side-plank", "left", left, "seconds"}}}}
		return progress.Measures("side-plank", said, nil)[0]
	}
	for _, x := range []struct {
		right, left int
		apart       bool
	}{{100, 100, false}, {95, 100, false}, {105, 100, false}, {94, 100, true}, {106, 100, true}, {60, 40, true}, {40, 0, false}} {
		assert.Equal(t, x.apart, of(x.right, x.left).Apart, "%d and %d", x.right, x.left)
	}
	assert.Equal(t, "right 42 s, left 38 s, ratio 1.11", of(42, 38).Says())
}

// A rung that was decided shows in the next class, and undoing it shows the class again; the plan itself is never touched.
func TestOwnRungs(t *testing.T) {
	s := laid(t, "12 days, 15 min, hips and core, ramp, learn side plank and bird dog")
	changed := 0
	for i := range s.Days {
		class := s.Days[i].Session
		if class == nil {
			continue
		}
		before, _ := json.Marshal(class)
		for _, slug := range []string{"side-plank", "bird-dog"} {
			up := progress.Own(lib, s, class, progress.RungsOf([]progress.Step{{Movement: slug, Does: progress.Up, By: 1}}))
			back := progress.Own(lib, s, class, progress.RungsOf([]progress.Step{{Movement: slug, Does: progress.Back, By: -1}}))
			none := progress.Own(lib, s, class, progress.RungsOf([]progress.Step{{Movement: slug, Does: progress.Up, By: 1}, {Movement: slug, Does: progress.Back, By: -1}}))
			assert.Same(t, class, none)
			for _, x := range []*plan.Session{up, back} {
				_, err := plan.Seal(x, lib)
				require.NoError(t, err)
			}
			if work(t, up, slug) > work(t, class, slug) && work(t, back, slug) <= work(t, class, slug) {
				changed++
			}
		}
		after, _ := json.Marshal(class)
		require.Equal(t, string(before), string(after))
	}
	assert.Greater(t, changed, 3)
}

func work(t *testing.T, s *plan.Session, slug string) (sum float64) {
	tl, err := timeline.Build(s, lib)
	require.NoError(t, err)
	for i := range tl.Steps {
		if st := &tl.Steps[i]; st.Kind.Working() && st.Move != nil && st.Move.Slug == slug {
			sum += st.Move.At(st.Level).Demand * st.S.Seconds()
		}
	}
	return sum
}

// Made-up people give a teacher what there is to decide, the same for the same seed; the review of their series asks for a next one that can be laid.
func TestASeriesIsDoneAndClosed(t *testing.T) {
	s := laid(t, "12 days from 2027-01-04, 15 min, hips and core, ramp, learn side plank and bird dog, test side plank on days 1, 6 and 12")
	g := &group.Group{Name: "g", Start: monday}
	people, err := progress.Simulate(context.Background(), lib, s, g, 12, 12, 1)
	require.NoError(t, err)
	again, err := progress.Simulate(context.Background(), lib, s, g, 12, 12, 1)
	require.NoError(t, err)
	require.Equal(t, people, again)
	other, err := progress.Simulate(context.Background(), lib, s, g, 12, 12, 2)
	require.NoError(t, err)
	assert.NotEqual(t, people, other)
	verdicts, by := map[progress.Verdict]int{}, map[string][]progress.Suggestion{}
	var persons []progress.Person
	for i := range people {
		p := &people[i]
		for _, c := range p.Who.Said { // what they say can be told
			b, err := json.Marshal(c)
			require.NoError(t, err)
			_, err = progress.ReadCheckIn(b)
			require.NoError(t, err, string(b))
		}
		h, err := p.History(context.Background(), lib, s)
		require.NoError(t, err)
		by[p.ID] = progress.Suggest(lib, h)
		for _, x := range by[p.ID] {
			verdicts[x.Verdict]++
			assert.NotEmpty(t, x.Says)
			// Decided, it is not asked again.
			h.Steps = append(h.Steps, progress.Step{Movement: x.Movement, Does: x.Verdict, From: on(40)})
		}
		assert.Empty(t, progress.Suggest(lib, h))
		persons = append(persons, progress.Person{Name: p.Name, Days: p.Days, History: h})
	}
	assert.Greater(t, verdicts[progress.Up], 3, verdicts)
	assert.Positive(t, verdicts[progress.Back])
	assert.Positive(t, verdicts[progress.Stop])
	assert.NotEmpty(t, progress.Group(by, len(people)))
	c, err := progress.Close(lib, s, persons, []progress.Length{{Promised: 15 * clock.Minute, Taken: 16 * clock.Minute}}, on(14))
	require.NoError(t, err)
	assert.NotEmpty(t, c.Because)
	assert.Equal(t, 12, c.People)
	assert.Equal(t, 16*clock.Minute, c.Taken)
	b, err := brief.Parse(c.Brief, lib, on(14))
	require.NoError(t, err, c.Brief)
	assert.True(t, b.Start.After(on(12)), c.Brief)
	l, err := lay.Series(context.Background(), lib, b, lay.Options{})
	require.NoError(t, err)
	assert.NotEmpty(t, l.Days)
}

// A correction of few answers hardly moves, of many it comes near to what was said.
func TestCorrectionsAreShrunk(t *testing.T) {
	s := laid(t, "5 days, 15 min, hips, ramp")
	class := s.Days[0].Session
	tl, err := timeline.Build(class, lib)
	require.NoError(t, err)
	by := func(n int) float64 {
		var as []progress.Answer
		for range n {
			as = append(as, progress.Answer{Class: progress.Class{Day: 1, Plan: class, TL: tl}, Said: &progress.CheckIn{Did: progress.All, Effort: int(progress.Planned(tl)) + 3}})
		}
		cs := progress.Corrections(lib, as)
		require.NotEmpty(t, cs)
		return cs[0].By
	}
	assert.Less(t, by(1), 1.2)
	assert.Greater(t, by(60), 2.)
	assert.Less(t, by(60), 3.)
}

// Who comes into a group when it is under way has missed nothing of before; they may still do it, move it along or let it go.
func TestWhoComesLater(t *testing.T) {
	s, g := laid(t, "9 days, 20 min, spine, wave"), &group.Group{Name: "daily", Start: monday}
	today := monday.AddDate(0, 0, 5)
	w := progress.Who{Joined: monday.AddDate(0, 0, 4), Said: map[int]*progress.CheckIn{2: {Did: progress.All, Effort: -1}}}
	days, err := w.Days(s, g, today)
	require.NoError(t, err)
	missed, prior := []int{}, []int{}
	for _, d := range days {
		if d.Prior {
			prior = append(prior, d.Day)
		} else if d.State == progress.Missed {
			missed = append(missed, d.Day)
		}
	}
	assert.Equal(t, []int{1, 3, 4}, prior, "day 2 they have done all the same")
	assert.Equal(t, []int{5}, missed)
	assert.Equal(t, 1, progress.Behind(days))
	assert.Equal(t, []int{1, 3, 4, 5}, progress.MissedDays(days), "all of them wait for a choice")
	for _, k := range progress.Kinds() {
		c, err := w.Offer(s, g, nil, k, today)
		require.NoError(t, err)
		assert.Equal(t, []int{1, 3, 4, 5}, c.Missed)
		then := w
		then.Choices = []progress.Choice{c}
		after, err := then.Days(s, g, today)
		require.NoError(t, err)
		assert.Empty(t, progress.MissedDays(after), k)
		if k == progress.Along {
			assert.False(t, after[0].Prior, "it is to come")
			assert.Equal(t, today, after[0].Date)
		}
	}
}
