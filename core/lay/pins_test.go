package lay

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// document is a brief laid, as it would be kept: it has been written and read again.
func document(t testing.TB, text string, o Options) *plan.Series {
	t.Helper()
	lib := movement.Shipped()
	s, err := laid(t, text, o).Document(lib, thursday, int(o.Seed))
	require.NoError(t, err, text)
	return again2(t, s)
}

// again2 writes a series and reads it again.
func again2(t testing.TB, s *plan.Series) *plan.Series {
	t.Helper()
	doc, err := json.Marshal(s)
	require.NoError(t, err)
	back, err := plan.ReadSeries(doc, movement.Shipped())
	require.NoError(t, err)
	twice, err := json.Marshal(back)
	require.NoError(t, err)
	require.JSONEq(t, string(doc), string(twice))
	return back
}

func written(t testing.TB, v any) string {
	t.Helper()
	text, err := json.Marshal(v)
	require.NoError(t, err)
	return string(text)
}

// rowsWith are the rows of a movement in a class as they are written.
func rowsWith(t testing.TB, s *plan.Session, slug string) (out []string) {
	if s == nil {
		return nil
	}
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if movement.BaseSlug(r.Movement) == slug {
			out = append(out, written(t, r))
		}
	})
	return out
}

// pinSome pins days, rows, themes, kinds and threads of a series.
func pinSome(r *rand.Rand, s *plan.Series) {
	for i := range s.Days {
		d := &s.Days[i]
		if d.Session == nil {
			d.Pin.Kind = d.Rest && r.IntN(4) == 0
			continue
		}
		switch r.IntN(8) {
		case 0:
			d.Pin.Day = true
		case 1:
			d.Pin.Theme = true
		case 2:
			d.Pin.Kind = true
		case 3:
			var slugs []string
			d.Session.Each(func(_ plan.Path, _ *plan.Block, row *plan.Row) {
				if !row.IsRest() && !slices.Contains(slugs, row.Movement) {
					slugs = append(slugs, row.Movement)
				}
			})
			d.Pinned = []string{slugs[r.IntN(len(slugs))]}
		}
	}
	for i := range s.Ladders {
		s.Ladders[i].Pinned = r.IntN(3) == 0
	}
}

// What is pinned never moves, whatever the brief and the seed: a pinned day byte for byte, a pinned row, theme and kind as they are, a
// pinned thread on its days and on no others.
func TestWhatIsPinnedStays(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 22))
	lib := movement.Shipped()
	cells, whole, threads, stops := 0, 0, 0, 0
	for k := range 160 {
		text := someBrief(r)
		if k%3 == 0 {
			text += []string{", one side through", ", warm-up assumed", ", hardest in the middle", ", counted in breaths"}[r.IntN(4)]
		}
		pinned := rand.New(rand.NewPCG(uint64(k), 5))
		if k%10 != 4 && os.Getenv("THOROUGH") == "" || k%80 != 4 && testing.Short() {
			continue
		}
		was := document(t, text, Options{Seed: uint64(k)})
		pinSome(pinned, was)
		was = again2(t, was)
		b, err := BriefOf(lib, was)
		require.NoError(t, err, text)
		l, err := Series(context.Background(), lib, b, Options{Seed: uint64(k + 1000), Keep: was})
		require.NoError(t, err, text)
		now, err := l.Document(lib, thursday, k+1000)
		require.NoError(t, err, text)
		now = again2(t, now)
		require.Len(t, now.Days, len(was.Days), text)
		for i := range was.Days {
			a, z := &was.Days[i], &now.Days[i]
			at := fmt.Sprintf("%s: day %d", text, i+1)
			if a.Pin.Day {
				whole++
				require.Equal(t, written(t, a), written(t, z), at)
				continue
			}
			assert.Equal(t, a.Pin, z.Pin, at)
			assert.Equal(t, a.Pinned, z.Pinned, at)
			if a.Pin.Theme {
				assert.Equal(t, a.Theme, z.Theme, at)
			}
			if a.Pin.Kind {
				assert.Equal(t, []any{a.Kind, a.Peak}, []any{z.Kind, z.Peak}, at)
			}
			for _, slug := range a.Pinned {
				cells++
				assert.Subset(t, rowsWith(t, z.Session, slug), rowsWith(t, a.Session, slug), "%s: %s", at, slug)
			}
			for j := range was.Ladders {
				if ld := &was.Ladders[j]; ld.Pinned {
					threads++
					assert.Equal(t, rowsWith(t, a.Session, ld.Movement), rowsWith(t, z.Session, ld.Movement), "%s: %s", at, ld.Movement)
				}
			}
		}
		for i := range l.Days {
			if l.Days[i].kept == nil {
				stops += l.Days[i].Stops
			}
		}
	}
	t.Logf("%d days, %d rows and %d days of threads pinned; %d findings that stop", whole, cells, threads, stops)
	assert.Zero(t, stops)
}

// Laid again after one pin, the day changes and what the pin breaks, and nothing else.
func TestAgainTouchesLittle(t *testing.T) {
	r := rand.New(rand.NewPCG(31, 32))
	lib := movement.Shipped()
	touched, times, took := 0, 0, time.Duration(0)
	for k := range 120 {
		text := someBrief(r)
		if k%10 != 5 && os.Getenv("THOROUGH") == "" || k%60 != 5 && testing.Short() {
			continue
		}
		was := document(t, text, Options{Seed: uint64(k)})
		pinSome(rand.New(rand.NewPCG(uint64(k), 6)), was)
		var days []int
		for i := range was.Days {
			if was.Days[i].Session != nil && !was.Days[i].Pin.Day {
				days = append(days, i+1)
			}
		}
		day := days[r.IntN(len(days))]
		before := written(t, was)
		at := time.Now()
		now, changed, _, err := Again(context.Background(), lib, was, day, Options{Seed: uint64(k + 7)})
		took += time.Since(at)
		require.NoError(t, err, text)
		assert.Equal(t, before, written(t, was), "what was given is as it was")
		now = again2(t, now)
		times++
		touched += len(changed)
		for i := range was.Days {
			a, z := &was.Days[i], &now.Days[i]
			if !slices.Contains(changed, i+1) {
				require.Equal(t, written(t, a), written(t, z), "%s: day %d", text, i+1)
			}
			for _, slug := range a.Pinned {
				assert.Subset(t, rowsWith(t, z.Session, slug), rowsWith(t, a.Session, slug), "%s: day %d: %s", text, i+1, slug)
			}
			for j := range was.Ladders {
				if ld := &was.Ladders[j]; ld.Pinned {
					assert.Equal(t, rowsWith(t, a.Session, ld.Movement), rowsWith(t, z.Session, ld.Movement), "%s: day %d: %s", text, i+1, ld.Movement)
				}
			}
		}
	}
	t.Logf("%d days laid again in %v, %d changed", times, took, touched)
	if !testing.Short() {
		assert.LessOrEqual(t, touched, 2*times)
	}
}

// A rung that is painted higher on one day lifts the later goes that stood below it, unless they are pinned; what comes before stays.
func TestAPinnedRungLiftsWhatFollows(t *testing.T) {
	lib := movement.Shipped()
	s := document(t, "16 days from monday, 15 min, hips and core, no kit, mixed, ramp, learn bird dog", Options{})
	top := s.Ladders[0].Steps[len(s.Ladders[0].Steps)-1]
	var goes []int
	for i := range s.Days {
		if len(rowsWith(t, s.Days[i].Session, "bird-dog")) > 0 && s.Days[i].Kind != string(Easy) {
			goes = append(goes, i)
		}
	}
	require.Greater(t, len(goes), 4)
	day, fast := goes[1], goes[3]
	c := s.Days[day].Session.Clone()
	c.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if r.Movement == "bird-dog" {
			r.Level, r.Dose = top.Level, top.Dose
		}
	})
	s.Days[day].Session, s.Days[day].Pinned, s.Days[fast].Pinned = c, []string{"bird-dog"}, []string{"bird-dog"}
	now, changed, _, err := Again(context.Background(), lib, s, day+1, Options{})
	require.NoError(t, err)
	for k, i := range goes {
		row := rowsWith(t, now.Days[i].Session, "bird-dog")[0]
		switch {
		case k < 1 || i == fast:
			assert.Equal(t, rowsWith(t, s.Days[i].Session, "bird-dog")[0], row, "day %d", i+1)
		default:
			assert.Contains(t, row, fmt.Sprintf(`"level":%d,"dose":%q`, top.Level, top.Dose.String()), "day %d", i+1)
		}
	}
	assert.NotContains(t, changed, fast+1)
	_, _, _, err = Again(context.Background(), lib, s, 99, Options{})
	assert.ErrorIs(t, err, ErrNothing)
	s.Days[day].Pin.Day = true
	_, _, _, err = Again(context.Background(), lib, s, day+1, Options{})
	assert.ErrorContains(t, err, "take the pin out")
}

// Pins that speak against the brief win, and it is said.
func TestPinsAgainstTheBrief(t *testing.T) {
	lib := movement.Shipped()
	s := document(t, "10 days from monday, 12 min, hips and core, no kit, mixed, ramp", Options{})
	for i := range s.Days {
		if s.Days[i].Peak {
			s.Days[i].Peak, s.Days[i].Kind = false, string(Easy)
			s.Days[i].Pin.Kind = true
		}
	}
	s.Days[2].Pinned = append(s.Days[2].Pinned, "roller-bridge") // there is no kit
	s.Days[3] = plan.Day{Rest: true, Kind: "rest", Pin: plan.Pin{Kind: true}}
	b, err := BriefOf(lib, s)
	require.NoError(t, err)
	l, err := Series(context.Background(), lib, b, Options{Keep: s})
	require.NoError(t, err)
	assert.NotEmpty(t, rowsWith(t, l.Days[2].Session, "roller-bridge"), "what is pinned is there, whatever the brief says")
	assert.Nil(t, l.Days[3].Session)
	assert.Contains(t, fmt.Sprint(l.CouldNot), "pinned")
	for _, d := range l.Days {
		assert.False(t, d.Peak && d.Kind == Easy)
	}
	two := document(t, "6 days from monday, 12 min, hips, no kit, mixed", Options{})
	for i := range two.Days { // neighbouring peaks about the same: it is what was pinned
		two.Days[i].Kind, two.Days[i].Peak, two.Days[i].Pin = "work", true, plan.Pin{Kind: true, Theme: true}
	}
	b, err = BriefOf(lib, two)
	require.NoError(t, err)
	l, err = Series(context.Background(), lib, b, Options{Keep: two})
	require.NoError(t, err)
	for i := range l.Days {
		assert.NotNil(t, l.Days[i].Session)
		assert.Equal(t, "hips", l.Days[i].Theme)
	}
}

// A pinned day that has no place in what the brief asks for now is not lost in silence.
func TestPinsWithoutAPlace(t *testing.T) {
	lib := movement.Shipped()
	s := document(t, "6 tuesdays from 5 january 2027, 12 min, hips", Options{})
	s.Days[7].Pin.Day = true
	s.Start = s.Start.AddDate(0, 0, 1) // the series was moved to wednesdays
	b, err := BriefOf(lib, s)
	require.NoError(t, err)
	l, err := Series(context.Background(), lib, b, Options{Keep: s})
	require.NoError(t, err)
	_, err = l.Document(lib, thursday, 0)
	require.NoError(t, err)
	assert.Contains(t, l.CouldNot, "1 pinned day has no place in what the brief asks for now")
}

// One's own classes are laid where that is asked: each day is one of them, as long as the day, with what is learned and what comes every day in it,
// harder each time that it comes again.
func TestFromOnesOwnSessions(t *testing.T) {
	lib := movement.Shipped()
	var own []Kept
	for k, text := range []string{"1 day, 20 min, hips, no kit", "1 day, 15 min, core, no kit", "1 day, 20 min, upper back, no kit"} {
		c := laid(t, text, Options{Seed: uint64(k)}).Days[0].Session
		c.Title = fmt.Sprintf("Mine %d %s", k+1, strings.Repeat("ø", 190))
		c.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) { r.Locked = false })
		own = append(own, Kept{ID: fmt.Sprint("own", k+1), Rev: 3, Session: c})
	}
	const text = "21 days from monday, 20 min, hips, core and upper back, no kit, mixed, rest sundays, ramp, learn bird dog, every day low lunge stretch hold 60 s each side, levels 1 to 3 over the weeks, from my sessions"
	before := written(t, own[0].Session)
	l := laid(t, text, Options{Material: own})
	assert.Equal(t, before, written(t, own[0].Session))
	levels, from := map[int]bool{}, map[string]int{}
	for _, c := range l.Days {
		if c.Session == nil {
			continue
		}
		require.NotEmpty(t, c.From.Session, c.N)
		assert.Equal(t, 3, c.From.Rev)
		from[c.From.Session]++
		assert.Zero(t, c.Stops, "%d: %v", c.N, c.Found)
		assert.InDelta(t, 20*60, c.Length.Seconds(), 5, "day %d", c.N)
		c.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			if r.Movement == "hip-flexor-stretch" || r.Movement == "low-lunge" {
				levels[max(1, r.Level)] = true
			}
		})
		names := 0
		for _, r := range c.Rows {
			if r.Movement == "bird-dog" {
				names++
			}
		}
	}
	assert.Len(t, from, 3, "all three are used: %v", from)
	doc, err := l.Document(lib, thursday, 0)
	require.NoError(t, err)
	again2(t, doc)
	_, err = Series(context.Background(), lib, asked(t, text), Options{})
	assert.ErrorContains(t, err, "from my sessions: none is kept")
	_, err = Series(context.Background(), lib, asked(t, "6 days, from what we taught last"), Options{})
	assert.ErrorContains(t, err, "none has been taught yet")
	_, err = Series(context.Background(), lib, asked(t, "6 days, two long holds, from my sessions"), Options{Material: own})
	assert.ErrorContains(t, err, "say one of them")
}

// A day laid again, in series of several lengths: it grows with the days before it and the second look over all.
func BenchmarkAgain(b *testing.B) {
	for _, days := range []int{14, 28, 60} {
		s := document(b, fmt.Sprintf("%d days from monday, 20 min, hips, upper back, core and balance, no kit, mixed, ramp, learn bird dog, bridge and side plank", days), Options{})
		b.Run(fmt.Sprint(days), func(b *testing.B) {
			for b.Loop() {
				_, _, _, err := Again(context.Background(), movement.Shipped(), s, days/2, Options{Seed: 3})
				require.NoError(b, err)
			}
		})
	}
}
