package lay

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
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

// model writes the plan of the days as a program of whole numbers: a day has one hardness and theme, what it costs is said by what it and the three days before it are.
// It knows nothing of states and layers.
func model(f *frame) string {
	var obj, st, bin strings.Builder
	cost := func(c int, x string) {
		if c > 0 {
			fmt.Fprintf(&obj, " + %d %s\n", c, x)
		}
	}
	x := func(d int, h Hard, t string) string {
		return fmt.Sprintf("x%d_%d_%s", d, h, strings.ReplaceAll(t, " ", "_"))
	}
	rows := 0
	row := func(format string, a ...any) {
		rows++
		fmt.Fprintf(&st, " c%d: %s\n", rows, fmt.Sprintf(format, a...))
	}
	binary := func(v string) string { bin.WriteString(" " + v + "\n"); return v }
	of := func(d int, t string, sign string) (out string) { // it is about t, at any hardness
		if !slices.Contains(f.themes[d], t) {
			return ""
		}
		for h := Soft; h <= High; h++ {
			out += sign + x(d, h, t)
		}
		return out
	}
	var work []int
	for i := range f.days {
		if f.days[i].Kind != Rest {
			work = append(work, i)
		}
	}
	for k, d := range work {
		one := ""
		for h := Soft; h <= High; h++ {
			for _, t := range f.themes[d] {
				v := binary(x(d, h, t))
				one += " + " + v
				if !f.may[d].has(h) {
					row("%s = 0", v)
				}
				if off := f.days[d].Want - hardAt[h]; !f.may[d].fixed() {
					c := int(off*off*offShape + .5)
					if k == 0 && h == Soft && f.days[d].Want > hardAt[Soft] {
						c += easyFirst
					}
					cost(c, v)
				}
			}
		}
		row("%s = 1", one)
		if k == 0 {
			continue
		}
		b := work[k-1]
		if b == d-1 { // no day of rest between
			for _, t := range f.themes[d] {
				if slices.Contains(f.themes[b], t) {
					row("%s + %s <= 1", x(d, High, t), x(b, High, t))
				}
			}
		}
		if n := len(f.themes[d]); n > 1 {
			same := binary(fmt.Sprintf("same%d", d))
			cost(sameTheme, same)
			soon := binary(fmt.Sprintf("soon%d", d))
			cost(soonTheme, soon)
			for _, t := range f.themes[d] {
				if o := of(b, t, " - "); o != "" {
					row("%s%s%s >= -1", same, of(d, t, " - "), o)
				}
				for back := 2; back <= 3; back++ {
					if k >= back && n > back {
						if o := of(work[k-back], t, " - "); o != "" {
							row("%s + %s%s%s >= -1", soon, same, of(d, t, " - "), o)
						}
					}
				}
			}
		}
		if k >= runAllowed && work[k-runAllowed] == d-runAllowed { // four days running
			long, soft := binary(fmt.Sprintf("long%d", d)), ""
			cost(longRun, long)
			for back := range runAllowed + 1 {
				for _, t := range f.themes[d-back] {
					soft += " + " + x(d-back, Soft, t)
				}
			}
			row("%s%s >= 1", long, soft)
		}
	}
	return "Minimize\n cost:\n" + obj.String() + "Subject To\n" + st.String() + "Binary\n" + bin.String() + "End\n"
}

// A general-purpose solver agrees on 28 days: glpsol of the GNU Linear Programming Kit.
func TestDaysAgainstGLPK(t *testing.T) {
	glpsol, err := exec.LookPath("glpsol")
	require.NoError(t, err, "glpk-utils is installed by scripts/test.sh")
	briefs := []string{
		"28 days from 1 june, hips, core and upper back, rest sundays, ramp, soft last day",
		"28 days from 3 june, hips, core, balance and spine, ramp, peak day 20, rest days 7 and 14",
		"28 days from 4 june, week 1 spine and hips, week 2 hips, core and back, weekly themes",
		"28 days from 1 june, hips and spine, wave, soft days 4 and 19",
		"8 days from 1 june, hips, core, balance and spine, different every day",
	}
	for _, text := range briefs {
		f, _ := frameOf(asked(t, text), nil)
		dir := t.TempDir()
		require.NoError(t, os.WriteFile(filepath.Join(dir, "days.lp"), []byte(model(&f)), 0o600))
		at := time.Now()
		out, err := exec.Command(glpsol, "--lp", filepath.Join(dir, "days.lp"), "-o", filepath.Join(dir, "out"), "--cuts", "--tmlim", "90").CombinedOutput()
		require.NoError(t, err, string(out))
		theirs := time.Since(at)
		found, err := os.ReadFile(filepath.Join(dir, "out"))
		require.NoError(t, err)
		require.Contains(t, string(found[:300]), "INTEGER OPTIMAL", text)
		m := regexp.MustCompile(`Objective:\s+cost = (\d+)`).FindSubmatch(found)
		require.NotNil(t, m)
		want, err := strconv.Atoi(string(m[1]))
		require.NoError(t, err)
		at = time.Now()
		assert.Equal(t, want, f.plan(), text)
		t.Logf("%s: cost %d, glpsol %v, here %v", text, want, theirs.Round(time.Millisecond), time.Since(at).Round(time.Millisecond))
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
