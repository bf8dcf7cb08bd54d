package board

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/brief"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/series"
	"wavekine/core/timeline"
)

var lib = movement.Shipped()

func n(i int) plan.Number { return plan.Number{Said: true, N: i} }

// laid is a series from a brief, on a monday.
func laid(t testing.TB, words string) *plan.Series {
	t.Helper()
	b, err := brief.Parse(words, lib, time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC))
	require.NoError(t, err, words)
	if b.Start.IsZero() {
		b.Start = time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC)
	}
	l, err := lay.Series(context.Background(), lib, b, lay.Options{})
	require.NoError(t, err, words)
	s, err := l.Document(lib, b.Start, 0)
	require.NoError(t, err)
	return s
}

func do(t testing.TB, s *plan.Series, c plan.SeriesCommand) *plan.Series {
	t.Helper()
	before := text(t, s)
	ch, err := plan.ApplySeries(s, lib, c)
	require.NoError(t, err, "%+v", c)
	assert.Equal(t, before, text(t, s), "the series that is given stays as it is")
	return ch.Series
}

func refused(t testing.TB, s *plan.Series, c plan.SeriesCommand, says string) {
	t.Helper()
	before := text(t, s)
	_, err := plan.ApplySeries(s, lib, c)
	require.ErrorContains(t, err, says, "%+v", c)
	assert.Equal(t, before, text(t, s))
}

func text(t testing.TB, v any) string {
	t.Helper()
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return string(b)
}

// cells are the doses of a movement by day, "" where it is not.
func cells(s *plan.Series, slug string) []string {
	out := make([]string, len(s.Days))
	for i := range s.Days {
		if s.Days[i].Session != nil {
			s.Days[i].Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
				if isOf(r, slug) {
					out[i] = fmt.Sprintf("%d %s", max(1, r.Level), r.Dose)
				}
			})
		}
	}
	return out
}

// titles tells the days apart by their rows.
func titles(s *plan.Series) (out []string) {
	for i := range s.Days {
		switch d := &s.Days[i]; {
		case d.Rest:
			out = append(out, "rest")
		case d.Empty():
			out = append(out, "")
		default:
			said := ""
			d.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) { said += r.Name() + " " + r.Dose.String() + ";" })
			out = append(out, said)
		}
	}
	return out
}

const fortnight = "14 days, 12 min, hips and core, no kit, mixed, rest sundays, ramp, learn bird dog and bridge"

// A rest day put in moves the later days along; the sundays stay days of rest, and the brief says what the days are now.
func TestInsertAndTakeOutDays(t *testing.T) {
	s := laid(t, fortnight)
	was := titles(s)
	require.Equal(t, []string{"rest", "rest"}, []string{was[6], was[13]})
	now := do(t, s, &InsertDay{Day: n(3), Rest: "on"})
	got := titles(now)
	assert.Equal(t, []string{was[0], was[1], "rest", was[2], was[3], was[4], "rest", was[5]}, got[:8])
	assert.Equal(t, "rest", got[13], "the second sunday")
	assert.Len(t, got, 15)
	assert.Equal(t, was[12], got[14], "the last class goes to the monday")
	assert.Regexp(t, "^Day 15, ", now.Days[14].Session.Title, "called by the number that it has now")
	b, err := lay.BriefOf(lib, now)
	require.NoError(t, err)
	assert.Equal(t, 15, b.Days)
	assert.Equal(t, []int{3}, b.RestDays)
	again := do(t, now, &Lay{})
	assert.True(t, again.Days[2].Rest, "laid again, the day of rest is there")

	back := do(t, now, &TakeDay{Day: n(3)})
	assert.Equal(t, was[:13], titles(back)[:13])
	refused(t, now, &TakeDay{Day: n(7)}, "on which the series rests")
	refused(t, now, &TakeDay{Day: n(16)}, "day 16: expected 1 to 15")
	refused(t, now, &InsertDay{Day: n(17)}, "expected 1 to 16")
	end := do(t, s, &InsertDay{Day: n(15)})
	assert.Equal(t, "", titles(end)[14])
	one := laid(t, "1 day, 12 min, hips")
	refused(t, one, &TakeDay{Day: n(1)}, "at least one day")
	full := laid(t, "60 days, 5 min, hips")
	refused(t, full, &InsertDay{Day: n(1)}, "at most 60")
}

// A day is dragged; those between move along, and what was made from a day still says which.
func TestDragAndCopyDays(t *testing.T) {
	s := laid(t, fortnight)
	was := titles(s)
	now := do(t, s, &ShiftDay{Day: n(2), To: n(9)})
	assert.Equal(t, []string{was[0], was[2], was[3], was[4], was[5], was[7], "rest", was[8], was[1]}, titles(now)[:9])
	assert.Equal(t, s.Days[1].Session.Sections, now.Days[8].Session.Sections)
	now = do(t, s, &CopyDays{Day: n(2), To: "9, 10 and 12"})
	for _, k := range []int{8, 9, 11} {
		assert.Equal(t, plan.Made{Day: 2}, now.Days[k].From)
		assert.Equal(t, text(t, s.Days[1].Rows), text(t, now.Days[k].Rows))
	}
	moved := do(t, now, &InsertDay{Day: n(1), Rest: "on"})
	assert.Equal(t, plan.Made{Day: 3}, moved.Days[slices.IndexFunc(moved.Days, func(d plan.Day) bool { return d.From.Day > 0 })].From)
	gone := do(t, now, &TakeDay{Day: n(2)})
	for i := range gone.Days {
		assert.Zero(t, gone.Days[i].From.Day, "the day it was made from is gone")
	}
	// changed on one day, the others stay
	one := do(t, now, &TakeOut{Movement: firstOf(t, now, 8), Day: n(9)})
	assert.NotEqual(t, text(t, one.Days[8].Session), text(t, now.Days[8].Session))
	for _, k := range []int{1, 9, 11} {
		assert.Equal(t, text(t, now.Days[k].Session), text(t, one.Days[k].Session))
	}
	pinned := do(t, s, &Pin{What: "day", Day: n(9)})
	refused(t, pinned, &CopyDays{Day: n(2), To: "9"}, "day 9 is pinned")
	refused(t, s, &CopyDays{Day: n(2), To: "2"}, "not copied to itself")
	refused(t, s, &CopyDays{Day: n(2), To: "soon"}, `"soon" is no day`)
	refused(t, s, &CopyDays{Day: n(2), To: "15"}, "the days are 1 to 14")
	refused(t, s, &ShiftDay{Day: n(7), To: n(2)}, "on which the series rests")
}

func firstOf(t testing.TB, s *plan.Series, day int) (slug string) {
	s.Days[day].Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if slug == "" && !r.IsRest() {
			slug = movement.BaseSlug(r.Movement)
		}
	})
	require.NotEmpty(t, slug)
	return slug
}

// Squeezed, a series keeps its first day, the peak and the last, in order; stretched, new days are between, and what is learned goes up a rung at a time.
func TestStretchAndSqueeze(t *testing.T) {
	s := laid(t, "21 days, 12 min, hips and core, no kit, mixed, rest sundays, ramp, peak day 20, learn bird dog and bridge")
	was := titles(s)
	lengths := []int{1, 7, 14, 18, 30, 42, 60}
	if testing.Short() {
		lengths = []int{7, 30}
	}
	for _, days := range lengths {
		now := do(t, s, &Stretch{Days: n(days)})
		require.Len(t, now.Days, days)
		assert.Equal(t, was[0], titles(now)[0])
		peaks := 0
		for i := range now.Days {
			d := &now.Days[i]
			if d.Peak {
				peaks++
			}
			if now.Date(i).Weekday() == time.Sunday {
				assert.True(t, d.Rest, "%d: day %d is a sunday", days, i+1)
			}
			if d.Session != nil {
				tl, err := timeline.Build(d.Session, lib)
				require.NoError(t, err)
				assert.InDelta(t, 720, tl.Total.Seconds(), 10, "%d: day %d", days, i+1)
			}
		}
		if days >= 7 {
			assert.Equal(t, 1, peaks, "%d days", days)
		}
		found, err := series.Over(now, lib, nil)
		require.NoError(t, err)
		far := 0 // where sixty classes are brought to their minutes, one dose may go up far: the board says so
		for _, f := range found {
			if f.Rule == "rung-too-far" || f.Rule == "two-levers" {
				far++
				t.Logf("%d days: %s", days, f.Says)
			}
		}
		assert.LessOrEqual(t, far, days/60, "%d days", days)
		b, err := lay.BriefOf(lib, now)
		require.NoError(t, err)
		assert.Equal(t, len(now.Days), b.Days)
	}
	refused(t, s, &Stretch{Days: n(61)}, "expected 1 to 60")
	refused(t, s, &Stretch{Days: n(0)}, "expected 1 to 60")
	sundays := laid(t, "8 tuesdays, 12 min, hips")
	_ = do(t, sundays, &Stretch{Days: n(22)})
}

// Painting a movement gives it a level and a dose on this day, along a row, from here on or on every day; other days and rows stay byte for byte.
func TestPaint(t *testing.T) {
	s := laid(t, fortnight)
	was := cells(s, "bird-dog")
	var on []int
	for i, c := range was {
		if c != "" {
			on = append(on, i)
		}
	}
	require.GreaterOrEqual(t, len(on), 4)
	for scope, want := range map[Scope][]int{ThisDay: on[1:2], FromHere: on[1:], EveryDay: on, WholeSpan: on[1:3]} {
		now := do(t, s, &Paint{Movement: "bird-dog", Day: n(on[1] + 1), To: n(on[2] + 1), Scope: scope, Level: n(2), Dose: "7 each side"})
		got := cells(now, "bird-dog")
		for i := range got {
			if slices.Contains(want, i) {
				assert.Equal(t, "2 7 each side", got[i], "%q day %d", scope, i+1)
			} else {
				assert.Equal(t, text(t, s.Days[i]), text(t, now.Days[i]), "%q day %d", scope, i+1)
			}
		}
		changes := Diff(s, now, lib)
		require.Len(t, changes, len(want), "the preview lists those days: %q", scope)
		assert.Contains(t, changes[0].Says[0], "Bird dog: level 2, 7 each side, was level ")
	}
	rung := do(t, s, &Paint{Movement: "bird-dog", Day: n(on[0] + 1), Rung: n(len(s.Ladder("bird-dog").Steps))})
	top := s.Ladder("bird-dog").Steps[len(s.Ladder("bird-dog").Steps)-1]
	assert.Equal(t, fmt.Sprintf("%d %s", top.Level, top.Dose), cells(rung, "bird-dog")[on[0]])
	refused(t, s, &Paint{Movement: "bird-dog", Day: n(on[0] + 1), Level: n(9)}, "Bird dog has 3 levels")
	refused(t, s, &Paint{Movement: "bird-dog", Day: n(on[0] + 1), Dose: "8 each sid"}, "each sid")
	refused(t, s, &Paint{Movement: "bird-dog", Day: n(on[0] + 1)}, "say a level or a dose")
	refused(t, s, &Paint{Movement: "quux", Day: n(1), Level: n(1)}, `no movement "quux"`)
	refused(t, s, &Paint{Movement: "teaser", Day: n(1), Level: n(1)}, "no day there has it")
	refused(t, s, &Paint{Movement: "bird-dog", Day: n(99), Level: n(1)}, "expected 1 to 14")
	refused(t, s, &Paint{Movement: "bird-dog", Day: n(on[0] + 1), Level: n(1), Scope: "now and then"}, "from here on")
	pinned := do(t, s, &Pin{What: "day", Day: n(on[2] + 1)})
	now := do(t, pinned, &Paint{Movement: "bird-dog", Day: n(on[0] + 1), Scope: FromHere, Level: n(3)})
	assert.Equal(t, was[on[2]], cells(now, "bird-dog")[on[2]], "a pinned day stays")
}

// A movement is added the way it is said, with its days; it comes where it belongs and climbs from what was said.
func TestAddAThread(t *testing.T) {
	s := laid(t, "10 days, 15 min, hips and spine, no kit, mixed, ramp, leave out side plank")
	for line, want := range map[string]map[int]string{
		"side plank hold 20 s each side on 2, 5, 8 climbing": {2: "hold 20 s each side"},
		"side plank hold 20 s each side on days 2 to 4":      {2: "hold 20 s each side", 3: "hold 20 s each side", 4: "hold 20 s each side"},
		"teaser 3 on day 6": {6: "3"},
		"side plank level 2 hold 15 s each side every 3rd day from 2":        {2: "hold 15 s each side", 5: "hold 15 s each side", 8: "hold 15 s each side"},
		"side plank hold 20 s each side every day climbing every 2nd time":   {1: "hold 20 s each side"},
		"Side Plank, hold 20 s each side, on 3 and 6, climbing when ready":   {3: "hold 20 s each side", 6: "hold 20 s each side"},
		"side plank hold 20 s each side from day 7 on climbing every week":   {7: "hold 20 s each side"},
		"side plank hold 20 s each side on 1, 2, 3, 4, 5, 6, 7, 8, 9 and 10": {10: "hold 20 s each side"},
	} {
		now := do(t, s, &AddThread{Line: line})
		slug := now.Ladders[len(now.Ladders)-1].Movement
		got := cells(now, slug)
		for day, dose := range want {
			assert.Contains(t, got[day-1], dose, "%s: day %d of %q", line, day, got)
		}
		assert.NotNil(t, now.Ladder(slug))
		refused(t, now, &AddThread{Line: line}, "is on the board already")
	}
	now := do(t, s, &AddThread{Line: "side plank hold 20 s each side on 2, 5, 8 climbing"})
	got := cells(now, "side-plank")
	assert.NotEqual(t, got[1], got[4])
	assert.Equal(t, "every time", now.Ladder("side-plank").Climb.String())
	found, err := series.Over(now, lib, nil)
	require.NoError(t, err)
	for _, f := range found {
		assert.NotContains(t, []string{"rung-too-far", "two-levers"}, f.Rule, f.Says)
	}
	slower := do(t, now, &SetClimb{Movement: "side-plank", Climb: plan.Climb{When: plan.Never}})
	assert.Equal(t, got[1], cells(slower, "side-plank")[7])
	quick := do(t, slower, &SetClimb{Movement: "side-plank", Climb: plan.Climb{When: plan.EveryTime, Times: 1}})
	assert.Equal(t, got, cells(quick, "side-plank"))
	gone := do(t, now, &TakeOut{Movement: "side-plank", Day: n(2), Scope: EveryDay})
	assert.Nil(t, gone.Ladder("side-plank"))
	assert.Equal(t, make([]string, 10), cells(gone, "side-plank"))
	rows := 0 // each row still says why it is there
	now.Days[1].Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		assert.Equal(t, r.Name(), now.Days[1].Rows[rows].Movement)
		rows++
	})
	assert.Len(t, now.Days[1].Rows, rows)
	assert.Contains(t, text(t, now.Days[1].Rows), "added as you said")
	fitted := do(t, now, &FitDays{})
	assert.Equal(t, got, cells(fitted, "side-plank"), "fitted, the thread keeps its rungs")
	for i := range fitted.Days {
		tl, err := timeline.Build(fitted.Days[i].Session, lib)
		require.NoError(t, err)
		assert.InDelta(t, 900, tl.Total.Seconds(), 6, "day %d", i+1)
	}
	for line, says := range map[string]string{
		"":                                   "",
		"side plank":                         "on which days?",
		"quux 8 on 2":                        "quux",
		"side plank hold 20 s on 11":         "the days are 1 to 10",
		"side plank hold 20 s on 2, x":       `"x" is no day`,
		"side plank hold 20 lightyears on 2": "lightyears",
		"rest 20 s on 2":                     "expected a movement of the library",
		"side plank hold 20 s each side on 2, 5 climbing sideways": "expected every day, every time",
	} {
		refused(t, s, &AddThread{Line: line}, says)
	}
}

// What is pinned stays when the rest is laid again; with the pins out it may move.
func TestPinAndLayAgain(t *testing.T) {
	s := laid(t, fortnight)
	s = do(t, s, &Pin{What: "day", Day: n(9)})
	s = do(t, s, &Pin{What: "thread", Movement: "bridge"})
	now := do(t, s, &Lay{})
	assert.Equal(t, text(t, s.Days[8]), text(t, now.Days[8]))
	assert.Equal(t, cells(s, "bridge"), cells(now, "bridge"))
	assert.Equal(t, s.Seed+1, now.Seed)
	assert.NotEmpty(t, Diff(s, now, lib))
	assert.Equal(t, text(t, now), text(t, do(t, s, &Lay{})), "another way is the same another way")
	day := do(t, now, &LayDay{Day: n(3), Seed: n(77)})
	for _, c := range Diff(now, day, lib) {
		assert.Contains(t, []int{2, 3, 4}, c.Day)
	}
	refused(t, now, &LayDay{Day: n(9)}, "take the pin out")
	refused(t, now, &LayDay{Day: n(7)}, "no class to lay")
	free := do(t, now, &Pin{What: "day", Day: n(9), Off: "on"})
	assert.True(t, free.Days[8].Pin.IsZero())
	for _, c := range []*Pin{{What: "row", Day: n(1), Movement: "quux"}, {What: "row", Day: n(1), Movement: "teaser"}, {What: "moon", Day: n(1)}, {What: "thread", Movement: "teaser"}, {What: "theme", Day: n(7)}} {
		_, err := plan.ApplySeries(s, lib, c)
		assert.Error(t, err, "%+v", c)
	}
	plain := &plan.Series{Title: "By hand", Start: s.Start, Days: make([]plan.Day, 3)}
	refused(t, plain, &Lay{}, "not laid from a brief")
	made := do(t, plain, &Lay{Brief: "6 days, 12 min, core"})
	assert.Len(t, made.Days, 6)
	assert.Equal(t, plain.Start, made.Start)
	assert.Equal(t, "By hand", made.Title, "its title stays")
	assert.NotNil(t, do(t, plain, &LayDay{Day: n(2)}).Days[1].Session, "an empty day of any series can be laid")
	stopped, cancel := context.WithCancelCause(context.Background())
	cancel(assert.AnError)
	_, err := plan.ApplySeries(s, lib, &Lay{With: With{Within: stopped}})
	assert.ErrorIs(t, err, assert.AnError)
}

// Kinds and themes are said of days; there is one peak.
func TestKindsAndThemes(t *testing.T) {
	s := laid(t, fortnight)
	now := do(t, s, &SetKind{Day: n(4), Kind: "peak"})
	peaks := 0
	for i := range now.Days {
		if now.Days[i].Peak {
			peaks++
			assert.Equal(t, 3, i)
		}
	}
	assert.Equal(t, 1, peaks)
	assert.True(t, do(t, now, &SetKind{Day: n(4), Kind: "rest"}).Days[3].Empty() == false)
	easy := do(t, now, &SetKind{Day: n(4), Kind: "easy"})
	assert.False(t, easy.Days[3].Peak)
	assert.NotNil(t, easy.Days[3].Session)
	refused(t, s, &SetKind{Day: n(4), Kind: "party"}, "expected work, easy")
	assert.Equal(t, "spine", do(t, s, &SetTheme{Day: n(4), Theme: "spine"}).Days[3].Theme)
	refused(t, s, &SetTheme{Day: n(4), Theme: "moon"}, "is no theme")
}

// A day that names a kept session gets its own class when it is changed, and says of which revision; the kept one stays.
func TestDaysThatNameASession(t *testing.T) {
	class := laid(t, "1 day, 12 min, hips, no kit, learn bird dog").Days[0].Session
	s := &plan.Series{Title: "S", Start: time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC), Days: []plan.Day{{Ref: "k"}, {Ref: "k"}, {Ref: "gone"}}}
	with := With{Kept: map[string]lay.Kept{"k": {ID: "k", Rev: 4, Session: class}}}
	before := text(t, class)
	now := do(t, s, &Paint{With: with, Movement: "bird-dog", Day: n(1), Level: n(2)})
	assert.Equal(t, plan.Made{Session: "k", Rev: 4}, now.Days[0].From)
	assert.Equal(t, "k", now.Days[1].Ref)
	assert.Equal(t, before, text(t, class))
	now = do(t, s, &Paint{With: with, Movement: "bird-dog", Day: n(1), Scope: FromHere, Level: n(2)})
	assert.Empty(t, now.Days[1].Ref)
	refused(t, s, &Paint{With: with, Movement: "bird-dog", Day: n(3), Level: n(2)}, "no day there has it")
	refused(t, s, &LayDay{With: with, Day: n(3)}, "its session is gone")
}

// Whatever commands come in whatever order with whatever values: nothing panics, each gives a series that is read back as it is or says why not, and a
// pinned day that nobody names stays byte for byte.
func TestAnyCommands(t *testing.T) {
	r := rand.New(rand.NewPCG(41, 42))
	kept := laid(t, "1 day, 12 min, hips, no kit, learn bird dog").Days[0].Session
	with := With{Kept: map[string]lay.Kept{"k": {ID: "k", Rev: 4, Session: kept}}, Own: []lay.Kept{{ID: "k", Rev: 4, Session: kept}}}
	briefs := []string{fortnight, "9 days, 10 min, spine, older, with chair", "3 a week for 3 weeks, 15 min, core", "6 tuesdays, 20 min, hips", "8 days, same set growing, 12 min, hips", "9 days, two long holds, hips", "7 days, on and off, 15 min, core", "10 days, from my sessions, 12 min, hips"}
	rounds, done := 16, 0
	if os.Getenv("THOROUGH") != "" {
		rounds = 200
	} else if testing.Short() { // with the race detector, which slows it tenfold and finds nothing in what runs alone
		rounds = 3
	}
	for k := range rounds {
		b, err := brief.Parse(briefs[k%len(briefs)], lib, time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC))
		require.NoError(t, err)
		b.Start = time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC)
		l, err := lay.Series(context.Background(), lib, b, lay.Options{Seed: uint64(k), Material: with.Own})
		require.NoError(t, err)
		s, err := l.Document(lib, b.Start, k)
		require.NoError(t, err)
		for range 25 {
			c, days := someCommand(r, s, with)
			var pins []string
			for i := range s.Days {
				if s.Days[i].Pin.Day && !days {
					pins = append(pins, text(t, s.Days[i]))
				}
			}
			ch, err := plan.ApplySeries(s, lib, c)
			if err != nil {
				assert.NotContains(t, err.Error(), "read back", "%T %+v", c, c)
				continue
			}
			done++
			var now []string
			for i := range ch.Series.Days {
				now = append(now, text(t, ch.Series.Days[i]))
			}
			if _, is := c.(*Pin); !is {
				assert.Subset(t, now, pins, "%T %+v", c, c)
			}
			s = ch.Series
			if s.Brief != "" {
				_, err = lay.BriefOf(lib, s)
				require.NoError(t, err, "%T %+v: %s", c, c, s.Brief)
			}
		}
		_, err = series.Over(s, lib, map[string]*plan.Session{"k": kept})
		require.NoError(t, err)
	}
	t.Logf("%d commands done", done)
	assert.Greater(t, done, rounds*6)
}

// someCommand is any command on any day; days tells that it may change or number days anew by itself.
func someCommand(r *rand.Rand, s *plan.Series, with With) (c plan.SeriesCommand, days bool) {
	day := n(r.IntN(len(s.Days)+3) - 1)
	to := n(r.IntN(len(s.Days)+2) + 0)
	slugs := []string{"bird-dog", "bridge", "clam", "cat-cow", "quux", "", "teaser", "low-lunge"}
	if i := r.IntN(len(s.Days)); s.Days[i].Session != nil {
		s.Days[i].Session.Each(func(_ plan.Path, _ *plan.Block, row *plan.Row) {
			slugs = append(slugs, movement.BaseSlug(row.Movement))
		})
	}
	slug := slugs[r.IntN(len(slugs))]
	scope := []Scope{ThisDay, FromHere, EveryDay, WholeSpan, "x"}[r.IntN(5)]
	switch r.IntN(18) {
	case 0:
		return &InsertDay{Day: day, Rest: []string{"", "on"}[r.IntN(2)]}, true
	case 1:
		return &TakeDay{Day: day}, true
	case 2:
		return &ShiftDay{Day: day, To: to}, true
	case 3:
		return &Stretch{With: with, Days: n(r.IntN(30) - 1)}, true
	case 4:
		return &CopyDays{With: with, Day: day, To: []string{"1", "2 to 4", "every 3rd day", "", "9 and 1", "from 4 on"}[r.IntN(6)]}, true
	case 5:
		return &SetKind{Day: day, Kind: []string{"work", "easy", "rest", "peak", "stretch", "x"}[r.IntN(6)]}, true
	case 6:
		return &SetTheme{Day: day, Theme: []string{"hips", "", "moon"}[r.IntN(3)]}, true
	case 7, 8:
		return &Paint{With: with, Movement: slug, Day: day, To: to, Scope: scope, Level: plan.Number{Said: r.IntN(2) == 0, N: r.IntN(5)}, Dose: []string{"", "8 each side", "hold 20 s", "6 reps", "30 s on, 10 s off", "nonsense", "10 breaths"}[r.IntN(7)]}, true
	case 9:
		return &Paint{With: with, Movement: slug, Day: day, Scope: scope, Rung: n(r.IntN(12))}, true
	case 10:
		return &TakeOut{With: with, Movement: slug, Day: day, To: to, Scope: scope}, true
	case 11:
		return &AddThread{With: with, Line: slug + []string{" 8", " hold 20 s each side", "", " 5 breaths"}[r.IntN(4)] + []string{" on 2, 4 climbing", " every day", " every 2nd day climbing every 2nd time", " on 1"}[r.IntN(4)]}, true
	case 12:
		var climb plan.Climb
		_ = climb.UnmarshalText([]byte([]string{"every time", "every week", "never", "every day", "when ready"}[r.IntN(5)]))
		return &SetClimb{With: with, Movement: slug, Climb: climb}, false
	case 13:
		return &FitDays{With: with, On: []string{"", "2 to 4", "every 2nd day"}[r.IntN(3)]}, false
	case 14, 15:
		return &Pin{With: with, What: []string{"day", "theme", "kind", "row", "thread"}[r.IntN(5)], Day: day, Movement: slug, Off: []string{"", "", "on"}[r.IntN(3)]}, false
	case 16:
		return &LayDay{With: with, Day: day, Seed: n(r.IntN(9))}, false
	}
	return &Lay{With: with, Seed: n(r.IntN(9))}, false
}
