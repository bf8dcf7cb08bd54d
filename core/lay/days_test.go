package lay

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/brief"
	"wavekine/core/movement"
)

var thursday = time.Date(2026, 5, 14, 0, 0, 0, 0, time.UTC)

func asked(t testing.TB, text string) *brief.Brief {
	t.Helper()
	b, err := brief.Parse(text, movement.Shipped(), thursday)
	require.NoError(t, err, text)
	return b
}

// exhaustive tries every plan of the days.
func exhaustive(f *frame) int {
	best := 1 << 30
	var try func(i, cost int, s state)
	try = func(i, cost int, s state) {
		if cost >= best {
			return
		}
		if i == len(f.days) {
			best = cost
			return
		}
		if f.days[i].Kind == Rest {
			s.run, s.rested = 0, true
			try(i+1, cost, s)
			return
		}
		for hard := Soft; hard <= High; hard++ {
			for _, th := range f.themes[i] {
				if c, next, ok := f.cost(i, s, hard, th); ok {
					try(i+1, cost+c, next)
				}
			}
		}
	}
	try(0, 0, state{theme: -1, rested: true})
	return best
}

// The plan of the days is the best there is: as good as trying all, for briefs of up to eight days.
func TestDaysAgainstTryingAll(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	for range 300 {
		n := 1 + r.IntN(8)
		text := fmt.Sprintf("%d days from %d june", n, 1+r.IntN(20))
		for _, c := range []string{
			[]string{"hips", "hips and core", "hips, core and upper back", "hips, core, balance and spine"}[r.IntN(4)],
			[]string{"ramp", "wave", "different every day", "same set growing", "weekly themes"}[r.IntN(5)],
			"rest sundays", "soft last day", fmt.Sprintf("peak day %d", 1+r.IntN(n)), fmt.Sprintf("soft day %d", 1+r.IntN(n)), fmt.Sprintf("rest day %d", 1+r.IntN(n)),
		} {
			if r.IntN(2) == 0 {
				text += ", " + c
			}
		}
		f, _ := frameOf(asked(t, text), nil)
		want := exhaustive(&f)
		if want == 1<<30 {
			want = 0
		}
		g, _ := frameOf(asked(t, text), nil)
		assert.Equal(t, want, g.plan(), text)
	}
}

// What the days keep to: rest where asked, soft where asked, the peak with easier days beside it, no theme hard two days running,
// themes spread evenly.
func TestWhatDaysKeepTo(t *testing.T) {
	b := asked(t, "28 days from 4 January 2027, hips, upper back, core and balance, rest sundays, ramp, peak day 25, soft last day")
	days, could := Days(b)
	assert.Empty(t, could)
	require.Len(t, days, 28)
	count := map[string]int{}
	for i, d := range days {
		assert.Equal(t, d.Date.Weekday() == time.Sunday, d.Kind == Rest, d.N)
		assert.NotEmpty(t, d.Why)
		if d.Kind == Rest {
			continue
		}
		count[d.Theme]++
		if i > 0 && d.Hard == High && days[i-1].Hard == High && days[i-1].Kind == Work {
			assert.NotEqual(t, days[i-1].Theme, d.Theme, "day %d", d.N)
		}
	}
	assert.True(t, days[24].Peak)
	assert.Equal(t, High, days[24].Hard)
	for _, k := range []int{23, 25, 26} {
		assert.Equal(t, Easy, days[k].Kind, "day %d", k+1)
	}
	for th, n := range count {
		assert.InDelta(t, 6, n, 1, th)
	}
	_, could = Days(asked(t, "7 days from monday, rest days 3, peak day 3"))
	assert.Equal(t, []string{"the peak is asked for on day 3, which is a rest day: no day is the peak"}, could)
	_, could = Days(asked(t, "7 days, peak day 9, soft day 12"))
	assert.Len(t, could, 2)
	_, could = Days(asked(t, "2 days, rest days 1 and 2"))
	assert.Len(t, could, 1)
	wave, _ := Days(asked(t, "12 days, wave, hips and core"))
	for k := 3; k < 12; k += 4 {
		assert.Equal(t, Easy, wave[k].Kind, "three up, one down")
	}
	weeks, _ := Days(asked(t, "14 days, weekly themes, week 1 spine, week 2 hips"))
	assert.Equal(t, "spine", weeks[6].Theme)
	assert.Equal(t, "hips", weeks[7].Theme)
}

func BenchmarkDays(b *testing.B) {
	for _, n := range []int{14, 28, 60} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			br := asked(b, fmt.Sprintf("%d days from monday, hips, upper back, core and balance, ramp", n))
			for b.Loop() {
				Days(br)
			}
		})
	}
}
