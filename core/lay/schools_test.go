package lay

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/ladder"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// rowsOf lists the movements of a class, without rests.
func rowsOf(c *Class) (out []string) {
	c.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if !r.IsRest() {
			out = append(out, r.Movement)
		}
	})
	return out
}

// The same set every day: the movements stay, their doses grow a rung at a time, no faster than asked, and the minutes stay in their range as
// long as it reaches.
func TestTheSameSetGrows(t *testing.T) {
	lib := movement.Shipped()
	for _, text := range []string{
		"9 days from monday, 12 to 15 min, hips and core, no kit, mixed, same set growing", "14 days from monday, 15 min, older, balance and legs, with chair, same set growing, soft last day",
		"12 days from monday, 10 to 20 min, able, core, same set growing, rest sundays", "8 days, 12 to 16 min, beginners, back, same set growing",
	} {
		l := laid(t, text, Options{})
		var first []string
		load, rungs := 0.0, map[string]int{}
		for i := range l.Days {
			c := &l.Days[i]
			if c.Session == nil {
				continue
			}
			assert.Zero(t, c.Stops, "%s: day %d", text, c.N)
			if first == nil {
				first, load = rowsOf(c), c.Load
			}
			assert.Equal(t, first, rowsOf(c), "%s: day %d is the same set", text, c.N)
			if c.Kind == Easy {
				assert.Less(t, c.Load, l.Days[max(0, i-1)].Load+load, text)
				continue
			}
			rose := 0
			c.Session.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
				m, ok := lib.Get(r.Movement)
				if !ok || p.Section != 2 || m.Stretch {
					return
				}
				ld := ladder.Of(lib, m, TermsOf(l.Brief))
				for k, rung := range ld.Rungs {
					if rung.Level == max(1, r.Level) && rung.Dose.Equal(r.Dose) {
						if was, seen := rungs[r.Movement]; seen {
							assert.LessOrEqual(t, k-was, 1, "%s: day %d: %s", text, c.N, r.Movement)
							assert.GreaterOrEqual(t, k, was, "%s: day %d: %s", text, c.N, r.Movement)
							rose += k - was
						}
						rungs[r.Movement] = k
					}
				}
			})
			assert.LessOrEqual(t, rose, 2, "%s: day %d", text, c.N)
		}
		last := &l.Days[len(l.Days)-1]
		if last.Kind == Work {
			assert.Greater(t, last.Load, load, text)
		}
	}
}

// Two long holds: one, two and three minutes a side over the thirds, with levels that rise; those asked for every day are the holds.
func TestTwoLongHolds(t *testing.T) {
	lib := movement.Shipped()
	l := laid(t, "30 days from monday, two long holds, every day hip flexor stretch, every day figure four", Options{})
	assert.Empty(t, l.CouldNot)
	before, seen := 0, map[int]bool{}
	for i := range l.Days {
		c := &l.Days[i]
		assert.Zero(t, c.Stops, c.N)
		holds := 0
		c.Session.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
			if n, unit, ok := movement.Amount(r.Dose); ok && unit == movement.CountSeconds && p.Section == 2 {
				holds++
				assert.Contains(t, holdTimes, n, c.N)
				seen[n] = true
				if c.Kind == Work {
					assert.GreaterOrEqual(t, n, before, c.N)
					before = n
				}
				m, _ := lib.Get(r.Movement)
				assert.True(t, m.Suits(r.Level, 0))
			}
		})
		assert.Equal(t, 2, holds, "day %d: %v", c.N, rowsOf(c))
	}
	assert.Len(t, seen, 3)
	l = laid(t, "9 days from monday, hips and back, two long holds, 5 min", Options{})
	assert.NotEmpty(t, l.CouldNot, "three minutes a side do not go into five minutes, and it says so")
	for i := range l.Days {
		assert.GreaterOrEqual(t, len(rowsOf(&l.Days[i])), 4, i)
	}
}

// By time on and off: the circuit's times rise over the series, and stay gentle for those for whom they should.
func TestOnAndOff(t *testing.T) {
	for text, most := range map[string]clock.Span{
		"12 days from monday, 20 min, hips and core, no kit, mixed, on and off": 45 * clock.Second, "12 days from monday, 20 min, legs and balance, with chair, older, on and off, soft last day": 35 * clock.Second,
	} {
		l := laid(t, text, Options{})
		top, before := clock.Span(0), clock.Span(0)
		for i := range l.Days {
			c := &l.Days[i]
			assert.Zero(t, c.Stops, "%s: day %d", text, c.N)
			require.GreaterOrEqual(t, len(c.Session.Sections), 2)
			b := c.Session.Sections[1].Blocks[0]
			assert.Equal(t, plan.Rounds, b.Rule, "%s: day %d", text, c.N)
			assert.Contains(t, []clock.Span{onOffs[0][0], onOffs[1][0], onOffs[2][0], onOffs[3][0]}, b.On, "%s: day %d", text, c.N)
			assert.GreaterOrEqual(t, b.On+b.Off, 55*clock.Second, "%s: day %d", text, c.N) // a mend may take five seconds of the time on
			assert.LessOrEqual(t, b.On+b.Off, 75*clock.Second, "%s: day %d: the off time reaches the next position", text, c.N)
			if c.Kind == Work {
				assert.GreaterOrEqual(t, b.On, before-5*clock.Second, "%s: day %d", text, c.N)
				before = max(before, b.On)
			}
			top = max(top, b.On)
		}
		assert.Equal(t, most, top, text)
	}
}

// A day to stretch has stretches and mobility and nothing else, in every school; nobody takes a rung on it.
func TestDaysToStretch(t *testing.T) {
	lib := movement.Shipped()
	for _, text := range []string{
		"7 days, a bit harder every day, peak day 6, a stretch on day 7, 12 min, hips, no kit, learn clam", "9 days, 15 min, core and spine, wave, stretch days 4 and 8, older, learn bird dog every day", "8 days, same set growing, 15 min, hips, stretch days 1 and 5",
		"6 days, on and off, core, 20 min, stretch last day", "7 days, classical order, able, 30 min, stretch day 4", "6 days, for expecting second third, hips, 15 min, stretch day 3",
	} {
		l := laid(t, text, Options{})
		stretched := 0
		for _, c := range l.Days {
			if c.Kind != Stretch {
				continue
			}
			stretched++
			assert.Zero(t, c.Stops, "%s: day %d: %v", text, c.N, c.Found)
			assert.InDelta(t, c.Most.Seconds(), c.Length.Seconds(), 6, "%s: day %d", text, c.N)
			works := 0
			c.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
				if m, ok := lib.Get(r.Movement); ok {
					assert.LessOrEqual(t, m.At(max(1, r.Level)).Demand, stretchDemand, "%s: day %d: %s", text, c.N, r.Movement)
					if !m.Stretch && !m.Rest {
						works++
					}
				}
			})
			assert.Less(t, works, c.Session.Rows(), "%s: day %d stretches", text, c.N)
			for _, th := range l.Threads {
				assert.False(t, slices.ContainsFunc(th.Goes, func(g Go) bool { return g.Day == c.N }), "%s: day %d", text, c.N)
			}
		}
		assert.Positive(t, stretched, text)
	}
	_, could := Days(asked(t, "7 days, peak day 6, stretch days 6 and 9, rest day 3, stretch day 3"))
	assert.Len(t, could, 3)
}
