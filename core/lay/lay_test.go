package lay

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/dose"
	"wavekine/core/ladder"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

func laid(t testing.TB, text string, o Options) *Laid {
	t.Helper()
	l, err := Series(context.Background(), movement.Shipped(), asked(t, text), o)
	require.NoError(t, err, text)
	return l
}

// someBrief asks for a series of what the language knows.
func someBrief(r *rand.Rand) string {
	pick := func(s ...string) string { return s[r.IntN(len(s))] }
	text := fmt.Sprintf("%d days from %d june, %s, %s, %s, %s, %s", 5+r.IntN(26), 1+r.IntN(20),
		pick("8 min", "10 min", "15 min", "20 min", "25 min", "30 min", "12 to 15 min", "15 to 20 min"),
		pick("hips", "hips and upper back", "core", "core, spine and balance", "legs and shoulders", "spine, hips, core and back", "seat and hamstrings", "back"),
		pick("no kit", "with roller and band", "with chair", "with chair, wall and cushion"),
		pick("mixed", "older", "beginners", "able", "for expecting second third", "for after birth", "for low bone density"),
		pick("ramp", "wave", "different every day"))
	for _, more := range []string{"learn bird dog", "learn clam and bird dog every 3 days", "rest sundays", "soft last day", "2 new a day", "easy days 8 min", "every day cat-cow"} {
		if r.IntN(4) == 0 && !(more[:5] == "learn" && len(text) > 0 && containsLearn(text)) {
			text += ", " + more
		}
	}
	return text
}

func containsLearn(text string) bool {
	for i := 0; i+6 <= len(text); i++ {
		if text[i:i+6] == "learn " {
			return true
		}
	}
	return false
}

// The promises of a layout, over generated briefs: 320 in a thorough run, a seeded tenth otherwise.
func TestBriefsAreLaid(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	lib := movement.Shipped()
	days, off, looks, loadOff, took := 0, 0, 0, 0, time.Duration(0)
	for k := range 320 {
		text := someBrief(r)
		if k%10 != 3 && os.Getenv("THOROUGH") == "" || k%80 != 3 && testing.Short() {
			continue
		}
		at := time.Now()
		l := laid(t, text, Options{Seed: uint64(k)})
		took += time.Since(at)
		work := 0
		for _, c := range l.Days {
			if c.Kind == Rest {
				assert.Nil(t, c.Session, text)
				continue
			}
			work++
			if c.Length < c.Least-nearEnough || c.Length > c.Most+nearEnough {
				off++
				assert.NotEmpty(t, l.CouldNot, "%s: day %d is off and nothing says so", text, c.N)
			}
			if math.Abs(c.Load/c.Target-1) > .1 {
				loadOff++
			}
			assert.Zero(t, c.Stops, "%s: day %d", text, c.N)
			looks += c.Looks
			silly(t, text, l, &c, work)
			doc, err := json.Marshal(c.Session)
			require.NoError(t, err)
			back, err := plan.ReadSession(doc, lib)
			require.NoError(t, err, "%s: day %d", text, c.N)
			again, err := json.Marshal(back)
			require.NoError(t, err)
			require.JSONEq(t, string(doc), string(again))
			rows := 0
			c.Session.Each(func(_ plan.Path, _ *plan.Block, row *plan.Row) {
				rows++
				if m, ok := lib.Get(row.Movement); ok {
					assert.True(t, m.Suits(max(1, row.Level), l.Brief.Audience), "%s: day %d: %s %d", text, c.N, row.Movement, row.Level)
					assert.True(t, TermsOf(l.Brief).Has(m, max(1, row.Level)), "%s: day %d: %s needs kit", text, c.N, row.Movement)
				}
			})
			assert.Len(t, c.Rows, rows, "each row says why")
		}
		days += work
		for _, th := range l.Threads {
			assert.NotEmpty(t, th.Goes, text)
			seen := 0
			for _, g := range th.Goes {
				c := l.Days[g.Day-1]
				there := false
				c.Session.Each(func(_ plan.Path, _ *plan.Block, row *plan.Row) { there = there || row.Movement == th.Movement })
				if there {
					seen++
				}
			}
			assert.Equal(t, len(th.Goes), seen, "%s: %s comes as often as asked", text, th.Movement)
			for i := 1; i < len(th.Goes); i++ {
				if !th.Goes[i].Easy && !th.Goes[i-1].Easy {
					assert.LessOrEqual(t, th.Goes[i].Rung-th.Goes[i-1].Rung, 1, "one rung at a time")
				}
			}
		}
	}
	t.Logf("%d days in %v: %d off their minutes, %d to look at, %d off their load", days, took, off, looks, loadOff)
	if testing.Short() { // too few to say how many in a hundred
		return
	}
	assert.LessOrEqual(t, off, days/100)
	assert.LessOrEqual(t, looks, days/10)
	assert.LessOrEqual(t, loadOff, days*15/100)
}

// silly holds the results that would make a teacher laugh.
func silly(t *testing.T, text string, l *Laid, c *Class, nth int) {
	lib := movement.Shipped()
	var ms []*movement.Movement
	var levels []int
	c.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if m, ok := lib.Get(r.Movement); ok {
			ms, levels = append(ms, m), append(levels, max(1, r.Level))
		}
	})
	at := fmt.Sprintf("%s: day %d", text, c.N)
	learnt := func(m *movement.Movement) bool {
		return slices.ContainsFunc(l.Threads, func(th Thread) bool { return th.Movement == m.Slug })
	}
	work := 0
	for _, d := range l.Days {
		if d.Kind != Rest {
			work++
		}
	}
	changes := 0
	for i, m := range ms {
		if i >= 2 && m.Pattern != "rest" && m.Pattern != "breathe" && m.Pattern == ms[i-1].Pattern && m.Pattern == ms[i-2].Pattern {
			if m.Stretch || ms[i-1].Stretch || ms[i-2].Stretch || learnt(m) || learnt(ms[i-1]) || learnt(ms[i-2]) {
				continue
			}
			t.Errorf("%s: three of %s in a row", at, m.Pattern)
		}
		if m.Skill(levels[i]) == 3 && 3*nth <= work && !l.Brief.Audience.Has(movement.Able) {
			t.Errorf("%s: advanced work in the first third: %s %d", at, m.Slug, levels[i])
		}
		if m.Pattern == "over" && c.Kind == Easy {
			t.Errorf("%s: a roll-over on an easy day", at)
		}
		if i > 0 && m.As(levels[i]).Posture.OnFloor() != ms[i-1].As(levels[i-1]).Leaves().OnFloor() {
			changes++
		}
	}
	if !slices.ContainsFunc(l.Threads, func(th Thread) bool { m, _ := lib.Get(th.Movement); return !m.Posture.OnFloor() }) {
		assert.LessOrEqual(t, changes, 2, "%s: up and down and up again", at)
	}
	seen := map[string]int{}
	for _, r := range c.Rows {
		if m, ok := lib.Get(r.Movement); ok && r.Because != mended {
			seen[m.Slug]++
			assert.LessOrEqual(t, seen[m.Slug], 1, "%s: %s twice", at, m.Slug)
		}
	}
}

// The same brief and seed give the same bytes; another seed another answer that is as good.
func TestTheSameSeedTheSameBytes(t *testing.T) {
	const text = "12 days from wednesday, 15 min, hips and upper back, no kit, mixed, rest sundays, ramp, learn bird dog"
	write := func(seed uint64) string {
		var out []byte
		for _, c := range laid(t, text, Options{Seed: seed}).Days {
			doc, err := json.Marshal(c.Session)
			require.NoError(t, err)
			out = append(out, doc...)
		}
		return string(out)
	}
	one := write(1)
	for range 3 {
		assert.Equal(t, one, write(1))
	}
	assert.NotEqual(t, one, write(2))
}

// What a brief asks for that its audience or kit does not have is said before anything is laid; what stops it stops.
func TestWhatCannotBeHad(t *testing.T) {
	l := laid(t, "6 days, 15 min, core, no kit, older, learn rolling like a ball and bridge with the feet on a roller, every day jackknife", Options{})
	assert.Len(t, l.CouldNot, 3)
	assert.Contains(t, l.CouldNot[0], "is not for this audience, or needs kit")
	for _, text := range []string{"6 days, learn bird dog, clam, dart, swan, saw, bridge, dead bug, squat, lunge and mermaid, 8 min", "7 days, stretch every day 20 min, 10 min"} {
		l = laid(t, text, Options{})
		assert.Contains(t, l.CouldNot[0], "what must come takes", text)
		assert.Contains(t, l.CouldNot[0], "fewer to learn, or less every day")
	}
	_, err := Series(context.Background(), movement.Shipped(), asked(t, "2 days, rest days 1 and 2"), Options{})
	assert.ErrorIs(t, err, ErrNothing)
	assert.ErrorContains(t, err, "every day is a rest day")
	gone, cancel := context.WithCancelCause(context.Background())
	cancel(assert.AnError)
	_, err = Series(gone, movement.Shipped(), asked(t, "6 days, core"), Options{})
	assert.ErrorIs(t, err, assert.AnError)
	calls := 0
	laid(t, "6 days, 10 min, core", Options{Progress: func(day, of int) { calls++; assert.Equal(t, calls, day); assert.Equal(t, 6, of) }})
	assert.Equal(t, 6, calls)
}

func BenchmarkSeries(b *testing.B) {
	for _, text := range []string{"14 days from monday, 20 min", "28 days from monday, 20 min", "60 days from monday, 20 min", "28 days from monday, 30 min"} {
		b.Run(text, func(b *testing.B) {
			for b.Loop() {
				laid(b, text+", hips, upper back, core and balance, no kit, mixed, rest sundays, ramp, learn bird dog, bridge and side plank", Options{})
			}
		})
	}
}

// No word of a brief is taken and then left aside: each has its effect, or is refused or said to be without.
func TestEveryWordCounts(t *testing.T) {
	lib := movement.Shipped()
	const head = "8 days from monday, 20 min, hips and core, no kit, mixed, "
	blocks := func(l *Laid, visit func(c *Class, s int, b *plan.Block)) {
		for i := range l.Days {
			if c := &l.Days[i]; c.Session != nil {
				for s := range c.Session.Sections {
					for k := range c.Session.Sections[s].Blocks {
						visit(c, s, &c.Session.Sections[s].Blocks[k])
					}
				}
			}
		}
	}
	chains := 0
	blocks(laid(t, head+"ramp, one side through", Options{}), func(c *Class, _ int, b *plan.Block) {
		assert.Zero(t, c.Stops)
		if b.Rule == plan.Chain {
			chains++
		}
	})
	assert.Greater(t, chains, 2, "one side through")
	blocks(laid(t, head+"ramp", Options{}), func(_ *Class, _ int, b *plan.Block) { assert.Equal(t, plan.Straight, b.Rule) })

	for i, c := range laid(t, head+"ramp, finisher, warm-up assumed", Options{}).Days {
		assert.Equal(t, plan.PeakAtEnd, c.Session.Style.Peak, i)
		assert.Equal(t, plan.WarmUpAssumed, c.Session.Style.WarmUp, i)
	}
	after := func(text string) (n int) { // building rows behind the hardest part
		for _, c := range laid(t, text, Options{}).Days {
			peak := slices.IndexFunc(c.Rows, func(r Row) bool { return strings.HasPrefix(r.Because, "peak") })
			for k, r := range c.Rows {
				if peak >= 0 && k > peak && strings.HasPrefix(r.Because, "build") {
					n++
				}
			}
		}
		return n
	}
	assert.Greater(t, after(head+"ramp, hardest in the middle"), after(head+"ramp")+3)

	l := laid(t, head+"two long holds, learn bird dog, test side plank on days 1 and 4", Options{})
	assert.Contains(t, strings.Join(l.CouldNot, "; "), "two long holds a day leave no room for Bird dog, Side plank")
	assert.Empty(t, l.Threads)

	l = laid(t, "8 days from monday, 15 to 20 min, hips and core, no kit, mixed, same set growing, learn bird dog and bridge", Options{})
	require.Len(t, l.Threads, 2)
	for _, th := range l.Threads {
		assert.Len(t, th.Goes, 8, "%s is in the set of every day", th.Movement)
	}

	l = laid(t, head+"on and off, learn bird dog", Options{})
	for _, g := range l.Threads[0].Goes {
		found := false
		l.Days[g.Day-1].Session.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
			found = found || r.Movement == "bird-dog" && b.Rule == plan.Straight && r.Dose.Equal(l.Threads[0].Ladder.Rungs[g.Rung].Dose)
		})
		assert.True(t, found, "what is learned keeps its dose beside the circuit, day %d", g.Day)
	}

	seen := map[string]bool{}
	for _, c := range laid(t, head+"ramp, stretch every day 4 min", Options{}).Days {
		n := 0
		for _, r := range c.Rows {
			if strings.HasPrefix(r.Because, "stretching every day") {
				seen[r.Movement] = true
				n++
			}
		}
		assert.GreaterOrEqual(t, n, 2, c.N)
	}
	assert.Greater(t, len(seen), 4, "not the same stretches every day")

	l = laid(t, head+"learn clam, leave out clam", Options{})
	assert.Contains(t, l.CouldNot[0], "asked for to learn and to be left out")
	l = laid(t, head+"learn bird dog, every day bird dog", Options{})
	for _, c := range l.Days {
		n := 0
		c.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			if r.Movement == "bird-dog" {
				n++
			}
		})
		assert.Equal(t, 1, n, c.N)
	}
	for _, word := range []string{"from my sessions", "from what we taught last"} {
		_, err := Series(context.Background(), lib, asked(t, head+word), Options{})
		assert.ErrorContains(t, err, word, word)
	}
}

// Counted in breaths, seconds or repetitions, what can be said so is, and lasts about as long; a stillness has no repetitions.
func TestWhatIsCounted(t *testing.T) {
	lib := movement.Shipped()
	units := map[string]movement.Unit{"breaths": movement.CountBreaths, "seconds": movement.CountSeconds, "repetitions": movement.CountReps}
	for count, unit := range units {
		there, all := 0, 0
		for _, m := range lib.All() {
			for n := range m.Levels {
				d := m.As(n + 1).Dose
				got := countDose(lib, m, n+1, d, count)
				require.True(t, got.Sayable(), "%s %d", m.Slug, n+1)
				assert.True(t, got.Equal(countDose(lib, m, n+1, got, count)), "%s %d: said so it stays: %s", m.Slug, n+1, got)
				if _, u, ok := movement.Amount(got); ok {
					all++
					if u == unit {
						there++
					}
				}
				if count == "breaths" && got.Parts[0].Kind == dose.Breaths && d.Parts[0].Kind == dose.Reps {
					continue // a breath for a repetition has its own pace
				}
				was, is := ladder.Seconds(lib, m, n+1, d).Seconds(), ladder.Seconds(lib, m, n+1, got).Seconds()
				assert.InDelta(t, was, is, max(12, .35*was), "%s %d: %s became %s", m.Slug, n+1, d, got)
			}
		}
		t.Logf("%s: %d of %d", count, there, all)
		assert.Greater(t, there, all/3, count)
	}
	for count := range units {
		for _, c := range laid(t, "6 days from monday, 15 min, hips and core, no kit, mixed, ramp, learn bird dog, counted in "+count, Options{}).Days {
			assert.Zero(t, c.Stops, "%s, day %d", count, c.N)
			assert.InDelta(t, 900, c.Length.Seconds(), 8, "%s, day %d", count, c.N)
		}
	}
}

// In the classical order the exercises stand in their places (Pilates and Miller 1945, in the library), and what is learned among them too.
func TestInTheClassicalOrder(t *testing.T) {
	lib := movement.Shipped()
	for _, text := range []string{"30 min, core, no kit, mixed", "15 min, spine and back, no kit, able", "45 min, hips, no kit, able"} {
		for _, c := range laid(t, "6 days from monday, classical order, ramp, learn teaser and bird dog, "+text, Options{}).Days {
			last, n := 0, 0
			c.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
				if m, ok := lib.Get(r.Movement); ok && m.Classical > 0 && !strings.HasPrefix(r.Movement, "rest") {
					assert.Greater(t, m.Classical, last, "%s, day %d: %s", text, c.N, m.Name)
					last = m.Classical
					n++
				}
			})
			assert.Zero(t, c.Stops, "%s, day %d: %v", text, c.N, c.Found)
			assert.Greater(t, n, 4, "%s, day %d", text, c.N)
			assert.Equal(t, plan.ClassicalOrder, c.Session.Style.Order)
		}
	}
}
