package solve

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

var lib = movement.Shipped()

func read(t testing.TB, sections ...string) *plan.Session {
	t.Helper()
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","sections":[`+strings.Join(sections, ",")+`]}`), lib)
	require.NoError(t, err)
	return s
}

func section(rows ...string) string {
	return `{"title":"A","blocks":[{"rule":"straight","rows":[` + strings.Join(rows, ",") + `]}]}`
}

func some(r *rand.Rand, n int) []string {
	all := lib.All()
	out := make([]string, n)
	for i := range out {
		m := all[r.IntN(len(all))]
		out[i] = fmt.Sprintf(`{"movement":%q,"level":%d}`, m.Slug, 1+r.IntN(len(m.Levels)))
	}
	return out
}

func length(t testing.TB, s *plan.Session) clock.Span {
	t.Helper()
	tl, err := timeline.Build(s, lib)
	require.NoError(t, err)
	return tl.Total
}

// exhaustive tries every combination.
func exhaustive(knobs []knob, diff clock.Span) (cost int, off clock.Span) {
	cost, off = math.MaxInt, math.MaxInt64
	var walk func(i int, sum clock.Span, c int)
	walk = func(i int, sum clock.Span, c int) {
		if i == len(knobs) {
			o := sum - diff
			o = max(o, -o)
			if in, had := o <= Within, off <= Within; in && had && c < cost || in && !had || !in && !had && o < off {
				cost, off = c, o
			}
			return
		}
		for _, x := range knobs[i].options {
			walk(i+1, sum+x.by, c+x.cost)
		}
	}
	walk(0, 0, 0)
	return cost, off
}

func TestFitAgainstExhaustiveSearch(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	reached, not := 0, 0
	for range 60 {
		s := read(t, section(some(r, 3+r.IntN(3))...))
		now := length(t, s)
		target := now.Times(.55 + r.Float64()*1.2)
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		knobs, err := knobsOf(s, lib, tl)
		require.NoError(t, err)
		cost, off := exhaustive(knobs, target-now)
		f, err := Fit(s, lib, target)
		require.NoError(t, err)
		if off <= Within {
			reached++
			require.True(t, f.Reached, f.Says)
			require.Equal(t, cost, f.Cost)
		} else {
			not++
			require.False(t, f.Reached)
			got := f.Total - target
			require.InDelta(t, off.Seconds(), max(got, -got).Seconds(), .2)
			require.Contains(t, f.Says, "Cannot: the nearest")
		}
	}
	assert.Greater(t, reached, 10)
	assert.Greater(t, not, 5)
}

// A general-purpose solver agrees on larger classes: glpsol of the GNU Linear Programming Kit.
func TestFitAgainstGLPK(t *testing.T) {
	glpsol, err := exec.LookPath("glpsol")
	require.NoError(t, err, "glpk-utils is installed by scripts/test.sh")
	r := rand.New(rand.NewPCG(8, 13))
	for range 4 {
		s := read(t, section(some(r, 22)...))
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		target := tl.Total.Times(.75 + r.Float64()*.5)
		knobs, err := knobsOf(s, lib, tl)
		require.NoError(t, err)
		var obj, sum, one, bin strings.Builder
		for i, k := range knobs {
			fmt.Fprintf(&one, " r%d:", i)
			for j, o := range k.options {
				x := fmt.Sprintf("x%d_%d", i, j)
				fmt.Fprintf(&obj, " + %d %s", o.cost, x)
				fmt.Fprintf(&sum, " + %d %s", int64(o.by), x)
				fmt.Fprintf(&one, " + %s", x)
				bin.WriteString(" " + x + "\n")
			}
			one.WriteString(" = 1\n")
		}
		diff := target - tl.Total
		lp := fmt.Sprintf("Minimize\n cost:%s\nSubject To\n lo:%s >= %d\n hi:%s <= %d\n%sBinary\n%sEnd\n", obj.String(),
			strings.ReplaceAll(sum.String(), "+ -", "- "), int64(diff-Within), strings.ReplaceAll(sum.String(), "+ -", "- "), int64(diff+Within), one.String(), bin.String())
		dir := t.TempDir()
		require.NoError(t, os.WriteFile(filepath.Join(dir, "fit.lp"), []byte(lp), 0o600))
		out, err := exec.Command(glpsol, "--lp", filepath.Join(dir, "fit.lp"), "-o", filepath.Join(dir, "out"), "--tmlim", "60").CombinedOutput()
		require.NoError(t, err, string(out))
		text, err := os.ReadFile(filepath.Join(dir, "out"))
		require.NoError(t, err)
		require.Contains(t, string(text), "INTEGER OPTIMAL")
		m := regexp.MustCompile(`Objective:\s+cost = (\d+)`).FindSubmatch(text)
		require.NotNil(t, m)
		want, err := strconv.Atoi(string(m[1]))
		require.NoError(t, err)
		f, err := Fit(s, lib, target)
		require.NoError(t, err)
		assert.True(t, f.Reached)
		assert.Equal(t, want, f.Cost)
	}
}

func TestFitKeepsWhatMustStay(t *testing.T) {
	s := read(t, `{"title":"A","blocks":[{"rule":"straight","rows":[
		{"movement":"squat","dose":"10 reps","locked":true},{"movement":"criss-cross","dose":"16 alternating"},{"movement":"lunge","dose":"8 each side"},
		{"movement":"rainbow-leg","dose":"8 reps","left":{"dose":"6 reps"}}]},
		{"rule":"rounds","rounds":2,"on":"40 s","off":"20 s","rows":[{"movement":"march"}]}]}`)
	f, err := Fit(s, lib, length(t, s)+40*clock.Second)
	require.NoError(t, err)
	require.True(t, f.Reached, f.Says)
	assert.Equal(t, "10 reps", f.Session.Sections[0].Blocks[0].Rows[0].Dose.String())
	assert.Zero(t, f.Session.Sections[0].Blocks[0].Rows[1].Dose.Count()%2, "both sides keep the same")
	assert.Equal(t, "6 reps", f.Session.Sections[0].Blocks[0].Rows[3].Left.Dose.String())
	require.NotEmpty(t, f.Changes)
	none, err := Fit(read(t, section(`{"movement":"squat","locked":true}`)), lib, clock.Minute)
	require.NoError(t, err)
	assert.False(t, none.Reached)
	assert.Contains(t, none.Says, "no row may change")
	same, err := Fit(s, lib, length(t, s))
	require.NoError(t, err)
	assert.Empty(t, same.Changes)
}

func permutations(n int, visit func([]int)) {
	p := make([]int, n)
	for i := range p {
		p[i] = i
	}
	var walk func(int)
	walk = func(i int) {
		if i == n {
			visit(p)
			return
		}
		for j := i; j < n; j++ {
			p[i], p[j] = p[j], p[i]
			walk(i + 1)
			p[i], p[j] = p[j], p[i]
		}
	}
	walk(0)
}

func TestOrderAgainstEveryPermutation(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 34))
	pace := timeline.PaceOf(plan.Coached)
	better := 0
	for range 40 {
		s := read(t, section(some(r, 2+r.IntN(5))...), section(some(r, 1+r.IntN(3))...))
		a, b := unitsOf(&s.Sections[0], lib), unitsOf(&s.Sections[1], lib)
		cost := func(us []unit, order []int, from movement.Posture) (clock.Span, movement.Posture) {
			moved := make([]unit, len(order))
			for i, k := range order {
				moved[i] = us[k]
			}
			c := asItIs(moved, from, pace)
			return c.cost, c.leave
		}
		least := clock.Span(math.MaxInt64)
		permutations(len(a), func(pa []int) {
			ca, leave := cost(a, pa, movement.NoPosture)
			permutations(len(b), func(pb []int) {
				cb, _ := cost(b, pb, leave)
				least = min(least, ca+cb)
			})
		})
		o, err := Order(s, lib)
		require.NoError(t, err)
		x, leave := asItIs(unitsOf(&o.Session.Sections[0], lib), movement.NoPosture, pace), movement.NoPosture
		leave = x.leave
		y := asItIs(unitsOf(&o.Session.Sections[1], lib), leave, pace)
		require.Equal(t, least, x.cost+y.cost)
		require.Equal(t, s.Rows(), o.Session.Rows(), "nothing is lost")
		if o.After.Time < o.Before.Time {
			better++
		}
		again, err := Order(o.Session, lib)
		require.NoError(t, err)
		require.Equal(t, o.Session.Sections, again.Session.Sections, "the best order stays")
	}
	assert.Greater(t, better, 10)
}

func TestOrderKeepsChainsRestsAndLocks(t *testing.T) {
	s := read(t, `{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"hundred"},{"rest":"15 s"}]},
		{"rule":"chain","rows":[{"movement":"bird-dog"},{"movement":"rainbow-leg"}]},
		{"rule":"straight","rows":[{"movement":"chest-lift"},{"movement":"full-plank"}]}]}`)
	o, err := Order(s, lib)
	require.NoError(t, err)
	assert.Less(t, o.After.Changes, o.Before.Changes)
	found := false
	for _, b := range o.Session.Sections[0].Blocks {
		if b.Rule == plan.Chain {
			found = len(b.Rows) == 2
		}
		for i, r := range b.Rows {
			if r.IsRest {
				require.Positive(t, i)
				assert.Equal(t, "hundred", b.Rows[i-1].Movement)
			}
		}
	}
	assert.True(t, found)
	locked := read(t, section(`{"movement":"swan","locked":true}`, `{"movement":"hundred"}`, `{"movement":"swimming"}`))
	same, err := Order(locked, lib)
	require.NoError(t, err)
	assert.Equal(t, locked.Sections, same.Session.Sections)
}

func BenchmarkFit(b *testing.B) {
	for _, n := range []int{10, 20, 40, 80} {
		r := rand.New(rand.NewPCG(1, 1))
		s := read(b, section(some(r, n)...))
		target := length(b, s).Times(1.15)
		b.Run(fmt.Sprint(n, "rows"), func(b *testing.B) {
			for b.Loop() {
				if _, err := Fit(s, lib, target); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

func BenchmarkOrder(b *testing.B) {
	for _, n := range []int{8, 12, 16} {
		r := rand.New(rand.NewPCG(1, 1))
		s := read(b, section(some(r, n)...))
		b.Run(fmt.Sprint(n, "rows"), func(b *testing.B) {
			for b.Loop() {
				if _, err := Order(s, lib); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
