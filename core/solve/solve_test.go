package solve

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/dose"
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
		knobs, err := knobsOf(s, lib, tl, House{})
		require.NoError(t, err)
		cost, off := exhaustive(knobs, target-now)
		f, err := Fit(t.Context(), s, lib, target, Terms{})
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
		target := tl.Total.Times(.93 + r.Float64()*.1)
		knobs, err := knobsOf(s, lib, tl, House{})
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
		require.Contains(t, string(text[:200]), "INTEGER OPTIMAL")
		m := regexp.MustCompile(`Objective:\s+cost = (\d+)`).FindSubmatch(text)
		require.NotNil(t, m)
		want, err := strconv.Atoi(string(m[1]))
		require.NoError(t, err)
		f, err := Fit(t.Context(), s, lib, target, Terms{})
		require.NoError(t, err)
		assert.True(t, f.Reached)
		assert.Equal(t, want, f.Cost)
	}
}

// A dose changes by a third at most, whatever it is, and a fit never says that it got where it did not.
func TestFitChangesByAThirdAtMost(t *testing.T) {
	r := rand.New(rand.NewPCG(17, 4))
	for range 200 {
		s := read(t, section(some(r, 2+r.IntN(8))...))
		now := length(t, s)
		h := House{HoldLeast: 10 * clock.Second, HoldMost: 60 * clock.Second}
		f, err := Fit(t.Context(), s, lib, now.Times(.4+r.Float64()*1.6), Terms{House: h})
		require.NoError(t, err)
		require.Equal(t, length(t, f.Session), f.Total)
		for _, c := range f.Changes {
			from, err := dose.Parse(c.From)
			require.NoError(t, err)
			to, err := dose.Parse(c.To)
			require.NoError(t, err)
			was, is := from.Count(), to.Count()
			if was == 0 {
				was, is = int(from.Parts[0].Span), int(to.Parts[0].Span)
				m, _ := f.Session.Row(c.Row).Of(lib)
				if m.Stretch {
					require.True(t, to.Parts[0].Span <= h.HoldMost || is < was, "%s: %s to %s", c.Name, c.From, c.To)
					require.True(t, to.Parts[0].Span >= h.HoldLeast || is > was, "%s: %s to %s", c.Name, c.From, c.To)
				}
			}
			require.LessOrEqual(t, 3*max(is-was, was-is), was, "%s: %s to %s", c.Name, c.From, c.To)
		}
		if !f.Reached {
			require.NotEmpty(t, f.Else)
			require.Regexp(t, `Cannot: .* too (long|short), because `, f.Says)
		}
	}
}

// Every dose that any movement has may change by a third, to a dose that can be said; alternating counts stay even.
func TestDosesOfEveryMovement(t *testing.T) {
	for _, m := range lib.All() {
		for _, sides := range []movement.Sides{movement.Both, movement.Each, movement.Alternating} {
			ds, now := Doses(m.Dose, sides, m.Stretch, House{HoldLeast: 10 * clock.Second, HoldMost: 60 * clock.Second})
			if len(ds) == 0 {
				continue
			}
			require.True(t, ds[now].Equal(m.Dose), m.Slug)
			for i, d := range ds {
				require.True(t, d.Sayable(), "%s: %s", m.Slug, d)
				if i > 0 {
					a, b := ds[i-1], d
					require.True(t, b.Count() > a.Count() || b.Parts[0].Span > a.Parts[0].Span, m.Slug)
				}
			}
		}
	}
}

func TestFitLeavesTheHundredsTenBreaths(t *testing.T) {
	s := read(t, section(`{"movement":"hundred"}`, `{"movement":"squat","dose":"10 reps"}`))
	f, err := Fit(t.Context(), s, lib, length(t, s)-10*clock.Second, Terms{})
	require.NoError(t, err)
	require.True(t, f.Reached, f.Says)
	for _, c := range f.Changes {
		assert.NotEqual(t, "The hundred", c.Name)
	}
	f, err = Fit(t.Context(), s, lib, length(t, s)/2, Terms{})
	require.NoError(t, err)
	assert.False(t, f.Reached)
	assert.Contains(t, strings.Join(f.Else, "; "), "The hundred kept the dose that makes it what it is")
	fewer := read(t, section(`{"movement":"hundred","dose":"6 breaths"}`))
	f, err = Fit(t.Context(), fewer, lib, length(t, fewer)-11*clock.Second, Terms{})
	require.NoError(t, err)
	assert.True(t, f.Reached, "six breaths are nobody's hundred")
}

// Two rows that do one side each change together.
func TestFitKeepsTwinsAlike(t *testing.T) {
	s := read(t, section(`{"movement":"clam","dose":"12 reps","sides":"right"}`, `{"movement":"bridge","dose":"4 reps","locked":true}`, `{"movement":"clam","dose":"12 reps","sides":"left"}`))
	f, err := Fit(t.Context(), s, lib, length(t, s)-15*clock.Second, Terms{})
	require.NoError(t, err)
	require.True(t, f.Reached, f.Says)
	rows := f.Session.Sections[0].Blocks[0].Rows
	assert.Equal(t, rows[0].Dose, rows[2].Dose)
	assert.Less(t, rows[0].Dose.Count(), 12)
	require.Len(t, f.Changes, 2)
	assert.Equal(t, f.Total-length(t, s), f.Changes[0].By+f.Changes[1].By)
	locked := read(t, section(`{"movement":"clam","dose":"12 reps","sides":"right"}`, `{"movement":"clam","dose":"12 reps","sides":"left","locked":true}`))
	f, err = Fit(t.Context(), locked, lib, length(t, locked)-15*clock.Second, Terms{})
	require.NoError(t, err)
	assert.Empty(t, f.Changes, "what one side must keep the other keeps too")
}

// What stops is taken back, and the fit makes do with the other rows.
func TestFitTakesBackWhatStops(t *testing.T) {
	s := read(t, section(`{"movement":"squat","dose":"12 reps"}`, `{"movement":"lunge","dose":"9 each side"}`))
	stops := func(most int) Terms {
		return Terms{Stops: func(s *plan.Session, _ *timeline.Timeline) []plan.Path {
			p := plan.Path{Section: 1, Block: 1, Row: 1}
			if s.Row(p).Dose.Count() > most {
				return []plan.Path{p}
			}
			return nil
		}}
	}
	target := length(t, s) + 20*clock.Second
	f, err := Fit(t.Context(), s, lib, target, stops(13))
	require.NoError(t, err)
	assert.LessOrEqual(t, f.Session.Sections[0].Blocks[0].Rows[0].Dose.Count(), 13)
	assert.True(t, f.Reached, f.Says)
	f, err = Fit(t.Context(), s, lib, target, stops(1)) // it stops as it is
	require.NoError(t, err)
	assert.Empty(t, f.Changes)
	assert.Contains(t, f.Says, "any change of doses brings something that stops")
	both := Terms{Stops: func(s *plan.Session, _ *timeline.Timeline) (out []plan.Path) {
		s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
			if r.Dose.Count() > 12 {
				out = append(out, p)
			}
		})
		return out
	}}
	f, err = Fit(t.Context(), s, lib, length(t, s)+60*clock.Second, both)
	require.NoError(t, err)
	assert.Contains(t, f.Says, "because more of the rows that are left would be past a limit")
	f, err = Fit(t.Context(), s, lib, length(t, s)/2, both)
	require.NoError(t, err)
	assert.Contains(t, f.Says, "at the shortest it allows", "nothing has stopped on that way")
}

func TestFitKeepsWhatMustStay(t *testing.T) {
	s := read(t, `{"title":"A","blocks":[{"rule":"straight","rows":[
		{"movement":"squat","dose":"10 reps","locked":true},{"movement":"criss-cross","dose":"16 alternating"},{"movement":"lunge","dose":"8 each side"},
		{"movement":"rainbow-leg","dose":"8 reps","left":{"dose":"6 reps"}}]},
		{"rule":"rounds","rounds":2,"on":"40 s","off":"20 s","rows":[{"movement":"march"}]}]}`)
	f, err := Fit(t.Context(), s, lib, length(t, s)+20*clock.Second, Terms{})
	require.NoError(t, err)
	require.True(t, f.Reached, f.Says)
	assert.Equal(t, "10 reps", f.Session.Sections[0].Blocks[0].Rows[0].Dose.String())
	assert.Zero(t, f.Session.Sections[0].Blocks[0].Rows[1].Dose.Count()%2, "both sides keep the same")
	assert.Equal(t, "6 reps", f.Session.Sections[0].Blocks[0].Rows[3].Left.Dose.String())
	require.NotEmpty(t, f.Changes)
	none, err := Fit(t.Context(), read(t, section(`{"movement":"squat","locked":true}`)), lib, clock.Minute, Terms{})
	require.NoError(t, err)
	assert.False(t, none.Reached)
	assert.Contains(t, none.Says, "no row may change")
	same, err := Fit(t.Context(), s, lib, length(t, s), Terms{})
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

// costOf is what an order of pieces costs, worked out anew and slowly: seconds of changing position and of fetching
// kit, and the arc, and how many neighbours are new. tame: what costs the same everywhere keeps its order. ok is false where it puts something where it must not stand.
func costOf(ps []Piece, order []int, from place, pace timeline.Pace, classical, closes, tame bool) (cost clock.Span, fresh int, to place, ok bool) {
	to = from
	for i, k := range order {
		if ps[k].transition && i != k {
			return 0, 0, to, false
		}
		if i == 0 && k != 0 || i > 0 && k != order[i-1]+1 {
			fresh++
		}
	}
	at := make([]int, len(order))
	for i, k := range order {
		at[k] = i
	}
	for a := range ps {
		for b := a + 1; b < len(ps); b++ {
			same := classical && ps[a].classical && ps[b].classical
			same = same || tame && ps[a].Enter == ps[b].Enter && ps[a].Leave == ps[b].Leave && ps[a].kit == ps[b].kit && ps[a].fetches == ps[b].fetches && ps[a].phase == ps[b].phase
			for _, m := range ps[a].moves {
				for _, o := range ps[b].moves {
					same = same || m == o
				}
			}
			if same && at[a] > at[b] {
				return 0, 0, to, false
			}
		}
	}
	if closes && at[len(ps)-1] != len(ps)-1 {
		return 0, 0, to, false
	}
	for i, k := range order {
		p := &ps[k]
		switch n := to.at.WayTo(p.Enter).Steps; {
		case n == 1:
			cost += pace.OneStep
		case n > 1:
			cost += pace.MoreSteps
		}
		if p.fetches != "" && p.fetches != to.kit {
			cost += pace.Kit
		}
		for _, j := range order[:i] {
			if p.phase >= 0 && ps[j].phase > p.phase {
				cost += arcBreak
			}
		}
		if p.Leave != movement.NoPosture {
			to = place{p.Leave, p.kit}
		}
	}
	return cost, fresh, to, true
}

// The order found costs as little as the cheapest of all permutations of two sections together.
func TestOrderAgainstEveryPermutation(t *testing.T) {
	lib := withWalkDown(t)
	r := rand.New(rand.NewPCG(21, 34))
	pace := timeline.PaceOf(plan.Coached)
	better, same := 0, 0
	for n := range 90 {
		classical := n%3 == 0
		rows := some(r, 2+r.IntN(5))
		if r.IntN(3) == 0 { // the same movement again, which must stay behind
			rows = append(rows, rows[r.IntN(len(rows))])
			same++
		}
		if r.IntN(4) == 0 && len(rows) < 6 { // a transition, which keeps its place
			rows = slices.Insert(rows, r.IntN(len(rows)), `{"movement":"walk-down"}`)
		}
		first := section(rows...)
		if r.IntN(4) == 0 {
			first = `{"title":"A","blocks":[{"rule":"straight","rows":[` + strings.Join(rows, ",") + `]},{"rule":"chain","rows":[` + strings.Join(some(r, 2), ",") + `]}]}`
		}
		s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","sections":[`+first+`,`+section(some(r, 1+r.IntN(3))...)+`]}`), lib)
		require.NoError(t, err)
		if classical {
			s.Style.Order = plan.ClassicalOrder
		}
		a, b := Pieces(&s.Sections[0], lib), Pieces(&s.Sections[1], lib)
		cheapestOf := func(tame bool) int64 {
			least := int64(math.MaxInt64)
			permutations(len(a), func(pa []int) {
				ca, fa, leave, ok := costOf(a, pa, place{}, pace, classical, false, tame)
				if !ok {
					return
				}
				permutations(len(b), func(pb []int) {
					if cb, fb, _, ok := costOf(b, pb, leave, pace, classical, true, tame); ok {
						least = min(least, int64(ca+cb)*scale+int64(fa+fb))
					}
				})
			})
			return least
		}
		ends := map[place]way{{}: {}}
		ends, err = newProblem(a, pace, classical, false).extend(t.Context(), ends)
		require.NoError(t, err)
		ends, err = newProblem(b, pace, classical, true).extend(t.Context(), ends)
		require.NoError(t, err)
		got, least, tame := cheapest(ends).cost, cheapestOf(false), cheapestOf(true)
		require.Equal(t, least/scale, got/scale, "seconds")
		require.GreaterOrEqual(t, got, least, "new neighbours")
		require.LessOrEqual(t, got, tame, "new neighbours, where what costs the same stays in order")
		o, err := Order(t.Context(), s, lib, Thorough)
		require.NoError(t, err)
		require.Equal(t, s.Rows(), o.Session.Rows(), "nothing is lost")
		require.LessOrEqual(t, o.After.Length, o.Before.Length, "never longer")
		require.LessOrEqual(t, o.Before.Positions-o.After.Positions, MaySave(s, lib), "no more is saved than may be")
		if o.Better() {
			better++
		}
		again, err := Order(t.Context(), o.Session, lib, Thorough)
		require.NoError(t, err)
		require.Equal(t, o.Session.Sections, again.Session.Sections, "the best order stays")
	}
	assert.Greater(t, better, 10)
	assert.Greater(t, same, 5)
}

func names(s *plan.Session) (out []string) {
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		says := r.Note
		if r.IsRest() {
			says = r.Rest.Say + says
		}
		out = append(out, strings.TrimSpace(r.Name()+" "+says))
	})
	return out
}

// What a teacher would not want moved stays where it is.
func TestOrderKeepsWhatTeachersKeep(t *testing.T) {
	order := func(head string, sections ...string) (*plan.Session, *Ordered) {
		s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T",`+head+`"sections":[`+strings.Join(sections, ",")+`]}`), lib)
		require.NoError(t, err)
		o, err := Order(t.Context(), s, lib, Thorough)
		require.NoError(t, err)
		return s, o
	}
	at := func(o *Ordered, name string) int { return slices.Index(names(o.Session), name) }
	// the classical order, where the session says so
	classical := section(`{"movement":"hundred"}`, `{"movement":"swan"}`, `{"movement":"roll-up"}`, `{"movement":"swimming"}`, `{"movement":"teaser"}`, `{"movement":"cat-cow"}`)
	_, free := order("", classical)
	s, fixed := order(`"style":{"order":"classical"},`, classical)
	assert.NotEqual(t, names(s), names(free.Session), "free, positions are brought together")
	kept := func(o *Ordered) bool {
		return at(o, "hundred") < at(o, "roll-up") && at(o, "roll-up") < at(o, "teaser") && at(o, "teaser") > at(o, "swimming")
	}
	assert.True(t, kept(fixed))
	// an easy round before its hard one, whatever lies between
	_, o := order("", section(`{"movement":"bridge","level":1,"note":"easy"}`, `{"movement":"swan"}`, `{"movement":"hundred"}`, `{"movement":"bridge","level":3,"note":"hard"}`, `{"movement":"cat-cow"}`))
	assert.Less(t, at(o, "bridge easy"), at(o, "bridge hard"))
	// the rest that fetches the kit goes with its work, the one behind a row with the row
	_, o = order("", section(`{"movement":"swan"}`, `{"rest":"20 s","say":"fetch the roller"}`, `{"movement":"roller-march"}`, `{"movement":"swimming"}`, `{"rest":"15 s","say":"shake out"}`, `{"movement":"hundred"}`, `{"movement":"cat-cow"}`))
	assert.Equal(t, at(o, "rest fetch the roller")+1, at(o, "roller-march"))
	assert.Equal(t, at(o, "swimming")+1, at(o, "rest shake out"))
	// the closing piece stays last
	s, o = order("", section(`{"movement":"swan"}`, `{"movement":"hundred"}`, `{"movement":"swimming"}`), section(`{"movement":"constructive-rest"}`, `{"movement":"mermaid"}`))
	assert.Equal(t, names(s)[4], names(o.Session)[4])
	// a section that is kept
	o, err := Order(t.Context(), s, lib, Thorough, 1)
	require.NoError(t, err)
	assert.Equal(t, names(s), names(o.Session))
	assert.Equal(t, "This is the best order already.", o.Says())
}

// withWalkDown is the library with a movement that ends in another position than it began.
func withWalkDown(t *testing.T) *movement.Library {
	text := `[{slug: walk-down, name: Walk down, purpose: p, phase: build, posture: standing, ends: plank, sides: both, pace: curl, dose: 3, regions: {thighs: 1}, setup: s, say: s, breath: b, watch: w, fault: f, ease: e,
  levels: [{changes: a, demand: 2, why: w, figure: "standing"}, {changes: b, demand: 3, why: w, figure: "standing"}]}]`
	own, err := movement.ReadYAML("test", []byte(text))
	require.NoError(t, err)
	all := slices.Clone(lib.All())
	for i, m := range all {
		c := *m
		all[i] = &c
	}
	with, err := movement.New(append(all, own...))
	require.NoError(t, err)
	return with
}

// A movement that ends in another position than it began stays at its place: it is how the class gets there.
func TestOrderKeepsTransitions(t *testing.T) {
	with := withWalkDown(t)
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","sections":[`+section(`{"movement":"swan"}`, `{"movement":"walk-down"}`, `{"movement":"full-plank"}`, `{"movement":"squat"}`, `{"movement":"swimming"}`, `{"movement":"march"}`, `{"movement":"cat-cow"}`)+`]}`), with)
	require.NoError(t, err)
	tl, err := timeline.Build(s, with)
	require.NoError(t, err)
	for _, st := range tl.Steps {
		if st.Row.Row == 3 {
			assert.NotEqual(t, timeline.Position, st.Kind, "the walk down has led into the plank")
		}
	}
	o, err := Order(t.Context(), s, with, Thorough)
	require.NoError(t, err)
	assert.Equal(t, 1, slices.Index(names(o.Session), "walk-down"))
}

// Too many different pieces are left, and the answer says what no order could beat.
func TestOrderBeyondItsEffort(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 2))
	s := read(t, section(some(r, 40)...))
	o, err := Order(t.Context(), s, lib, Quick)
	require.NoError(t, err)
	require.Len(t, o.Left, 1)
	assert.Equal(t, s.Sections, o.Session.Sections)
	assert.Regexp(t, `"A" has too many different pieces .* changes position \d+ times, no order does with fewer than \d+\.`, o.Says())
	// many pieces of few kinds are no trouble
	var rows []string
	for i, m := range lib.All() {
		if i%3 == 0 && !m.Stretch && len(rows) < 30 && (m.Posture == movement.Supine || m.Posture == movement.Standing) && len(m.Things(1)) == 0 {
			rows = append(rows, fmt.Sprintf(`{"movement":%q}`, m.Slug))
		}
	}
	o, err = Order(t.Context(), read(t, section(rows...)), lib, Thorough)
	require.NoError(t, err)
	assert.Empty(t, o.Left, "%d rows", len(rows))
}

func TestOrderKeepsChainsRestsAndLocks(t *testing.T) {
	s := read(t, `{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"hundred"},{"rest":"15 s"}]},
		{"rule":"chain","rows":[{"movement":"bird-dog"},{"movement":"rainbow-leg"}]},
		{"rule":"straight","rows":[{"movement":"chest-lift"},{"movement":"full-plank"}]}]}`)
	o, err := Order(t.Context(), s, lib, Thorough)
	require.NoError(t, err)
	assert.Less(t, o.After.Changes(), o.Before.Changes())
	found := false
	for _, b := range o.Session.Sections[0].Blocks {
		if b.Rule == plan.Chain {
			found = len(b.Rows) == 2
		}
		for i, r := range b.Rows {
			if r.IsRest() {
				require.Positive(t, i)
				assert.Equal(t, "hundred", b.Rows[i-1].Movement)
			}
		}
	}
	assert.True(t, found)
	locked := read(t, section(`{"movement":"swan","locked":true}`, `{"movement":"hundred"}`, `{"movement":"swimming"}`))
	same, err := Order(t.Context(), locked, lib, Thorough)
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
				if _, err := Fit(b.Context(), s, lib, target, Terms{}); err != nil {
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
				remembered.Purge() // the search itself
				if _, err := Order(b.Context(), s, lib, Thorough); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// How far holds and counts may go, told again from the words: by a third, holds on a grid of five seconds and not under
// ten, a stretch not out of the house's range nor further out, nothing longer than can be said, both sides alike.
func TestHowFarDosesGo(t *testing.T) {
	const s = clock.Second
	for _, stretch := range []bool{false, true} {
		for _, h := range []House{{}, {HoldLeast: 20 * s, HoldMost: 60 * s}, {HoldMost: 45 * s}} {
			for had := 3 * s; had <= 3600*s; had += s {
				if had > 400*s && had < 3400*s {
					continue
				}
				var want []clock.Span
				for v := clock.Span(0); v <= 2*had; v += s {
					off := max(v-had, had-v)
					shorter := v < had && (v < 10*s || stretch && v < h.HoldLeast)
					longer := v > had && (v > 3600*s || stretch && h.HoldMost > 0 && v > h.HoldMost)
					if off%(5*s) == 0 && off*3 <= had && !shorter && !longer {
						want = append(want, v)
					}
				}
				var got []clock.Span
				doses, now := Doses(dose.Dose{Parts: []dose.Part{{Kind: dose.Hold, Span: had}}}, movement.Both, stretch, h)
				for _, d := range doses {
					got = append(got, d.Parts[0].Span)
				}
				require.Equal(t, want, got, "%s, stretch %v, %+v", had, stretch, h)
				require.Equal(t, had, got[now])
			}
		}
	}
	for n := 1; n <= 500; n++ {
		for _, kind := range []dose.Kind{dose.Reps, dose.Breaths} {
			if kind == dose.Breaths && n > 200 {
				continue
			}
			for _, sides := range []movement.Sides{movement.Both, movement.Alternating} {
				by := 1
				if kind == dose.Reps && sides == movement.Alternating {
					by = 2
				}
				most := map[dose.Kind]int{dose.Reps: 500, dose.Breaths: 200}[kind]
				var want []int
				for v := 1; v <= most; v++ {
					off := max(v-n, n-v)
					if off%by == 0 && off*3 <= n && (v >= 3 || v >= n) {
						want = append(want, v)
					}
				}
				var got []int
				doses, now := Doses(dose.Dose{Parts: []dose.Part{{Kind: kind, Count: n}}}, sides, false, House{})
				for _, d := range doses {
					require.True(t, d.Sayable())
					got = append(got, d.Count())
				}
				require.Equal(t, want, got, "%d %v %v", n, kind, sides)
				require.Equal(t, n, got[now])
			}
		}
	}
}

// What is said of the room that doses have is what fitting has.
func TestRoomIsWhatFittingHas(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 13))
	all := func(*plan.Row, *movement.Movement) bool { return true }
	none := func(*plan.Row, *movement.Movement) bool { return false }
	for range 80 {
		s := read(t, section(some(r, 1+r.IntN(6))...))
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		knobs, err := knobsOf(s, lib, tl, House{})
		require.NoError(t, err)
		least, most := room(knobs)
		finest := tl.Total
		for _, k := range knobs {
			finest = min(finest, k.options[1].by-k.options[0].by)
		}
		lo, hi, step, err := Room(s, lib, tl, House{}, all)
		require.NoError(t, err)
		assert.Equal(t, []clock.Span{least, most, finest}, []clock.Span{lo, hi, step})
		_, hi, _, err = Room(s, lib, tl, House{}, none)
		require.NoError(t, err)
		assert.Zero(t, hi)
	}
}

// Where what a dose says is not all it adds (a stretch that contains getting into it), the fit is held against every
// combination of doses, each timed anew.
func TestFitAgainstEveryTimedCombination(t *testing.T) {
	r := rand.New(rand.NewPCG(34, 55))
	var stretches []*movement.Movement
	for _, m := range lib.All() {
		if m.Stretch {
			stretches = append(stretches, m)
		}
	}
	reached := 0
	for range 60 {
		var rows []string
		for range 1 + r.IntN(3) {
			m := stretches[r.IntN(len(stretches))]
			d := fmt.Sprintf("%d s", 5*(2+r.IntN(8)))
			if m.Sides == movement.Each {
				d += " each side"
			}
			rows = append(rows, fmt.Sprintf(`{"movement":%q,"dose":%q}`, m.Slug, d))
		}
		s := read(t, section(rows...))
		now := length(t, s)
		target := now.Times(.8 + r.Float64()*.4)
		var off clock.Span = math.MaxInt64
		var walk func(c *plan.Session, i int)
		walk = func(c *plan.Session, i int) {
			if i == s.Rows() {
				o := length(t, c) - target
				off = min(off, max(o, -o))
				return
			}
			row := s.Row(plan.Path{Section: 1, Block: 1, Row: i + 1})
			m, err := row.Of(lib)
			require.NoError(t, err)
			doses, _ := Doses(row.DoseOf(m), row.SideRule(m), true, House{})
			for _, d := range append(doses, row.Dose) {
				c.Row(plan.Path{Section: 1, Block: 1, Row: i + 1}).Dose = d
				walk(c, i+1)
			}
		}
		walk(s.Clone(), 0)
		f, err := Fit(t.Context(), s, lib, target, Terms{})
		require.NoError(t, err)
		got := f.Total - target
		got = max(got, -got)
		if off <= Within {
			reached++
			assert.True(t, f.Reached, "%v %s of %s: %s off where %s can be", rows, target, now, got, off)
		}
	}
	assert.Greater(t, reached, 10)
}

// Where some doses bring what stops, the fit is the least change among those that do not: held against every combination
// of them.
func TestFitAmongWhatDoesNotStop(t *testing.T) {
	r := rand.New(rand.NewPCG(89, 144))
	stopped, reached := 0, 0
	for range 80 {
		s := read(t, section(some(r, 2+r.IntN(3))...))
		now := length(t, s)
		target := now.Times(.7 + r.Float64()*.6)
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		knobs, err := knobsOf(s, lib, tl, House{})
		require.NoError(t, err)
		may := map[plan.Path][2]int{} // by row: the options that do not stop, from and up to
		for i, k := range knobs {
			lo, hi := r.IntN(k.now+1), k.now+r.IntN(len(k.options)-k.now)
			may[k.rows[0]] = [2]int{lo, hi}
			knobs[i].options = k.options[lo : hi+1]
		}
		all, err := knobsOf(s, lib, tl, House{})
		require.NoError(t, err)
		terms := Terms{Stops: func(c *plan.Session, _ *timeline.Timeline) (bad []plan.Path) {
			for _, k := range all {
				p := k.rows[0]
				m, err := c.Row(p).Of(lib)
				require.NoError(t, err)
				at := slices.IndexFunc(k.options, func(o option) bool { return o.dose.String() == c.Row(p).DoseOf(m).String() })
				if at < may[p][0] || at > may[p][1] {
					bad = append(bad, p)
				}
			}
			stopped += len(bad)
			return bad
		}}
		cost, off := exhaustive(knobs, target-now)
		f, err := Fit(t.Context(), s, lib, target, terms)
		require.NoError(t, err)
		got := f.Total - target
		if off <= Within {
			reached++
			require.True(t, f.Reached, f.Says)
			require.Equal(t, cost, f.Cost)
		} else {
			require.False(t, f.Reached)
			require.InDelta(t, off.Seconds(), max(got, -got).Seconds(), .2)
		}
	}
	assert.Greater(t, stopped, 20)
	assert.Greater(t, reached, 10)
}

// A section with anything locked in it stays as it is: a row, a rest behind one, a row of a chain; the others are ordered,
// and one that is too long for the effort is named with its number.
func TestOrderOfLockedSections(t *testing.T) {
	better := section(`{"movement":"squat"}`, `{"movement":"swan"}`, `{"movement":"march"}`, `{"movement":"swimming"}`, `{"movement":"lunge"}`)
	for _, locked := range []string{
		section(`{"movement":"squat","locked":true}`, `{"movement":"swan"}`, `{"movement":"march"}`, `{"movement":"swimming"}`),
		section(`{"movement":"squat"}`, `{"rest":"10 s","locked":true}`, `{"movement":"swan"}`, `{"movement":"march"}`, `{"movement":"swimming"}`),
		section(`{"movement":"squat","locked":true}`, `{"rest":"10 s"}`, `{"movement":"swan"}`, `{"movement":"march"}`, `{"movement":"swimming"}`),
		`{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"squat"},{"movement":"swan"}]},{"rule":"chain","rows":[{"movement":"march","locked":true},{"movement":"clam"}]},{"rule":"straight","rows":[{"movement":"swimming"}]}]}`,
	} {
		s := read(t, locked, better, section(`{"movement":"constructive-rest"}`))
		o, err := Order(t.Context(), s, lib, Thorough)
		require.NoError(t, err)
		assert.Equal(t, s.Sections[0], o.Session.Sections[0])
		assert.NotEqual(t, s.Sections[1], o.Session.Sections[1])
		assert.Empty(t, o.Left)
		free := read(t, strings.ReplaceAll(locked, `,"locked":true`, ""), section(`{"movement":"constructive-rest"}`))
		o, err = Order(t.Context(), free, lib, Thorough)
		require.NoError(t, err)
		assert.NotEqual(t, free.Sections[0], o.Session.Sections[0])
		few := Effort(30)
		o, err = Order(t.Context(), read(t, section(`{"movement":"swan"}`), better, section(`{"movement":"constructive-rest"}`)), lib, few)
		require.NoError(t, err)
		if assert.Len(t, o.Left, 1) {
			assert.Equal(t, 2, o.Left[0].Section)
		}
	}
}

// Blocks that are put side by side become one only where the rest between their sides is the same.
func TestJoin(t *testing.T) {
	one := func(rule plan.Rule, rest clock.Span, slug string) Piece {
		return Piece{Block: plan.Block{Rule: rule, Rounds: 1, Rest: rest, Rows: []plan.Row{{Movement: slug}}}}
	}
	shape := func(bs []plan.Block) (out []int) {
		for _, b := range bs {
			out = append(out, len(b.Rows))
		}
		return out
	}
	const s = clock.Second
	assert.Equal(t, []int{2}, shape(Join([]Piece{one(plan.Straight, 0, "a"), one(plan.Straight, 0, "b")})))
	assert.Equal(t, []int{1, 1}, shape(Join([]Piece{one(plan.Straight, 0, "a"), one(plan.Straight, 9*s, "b")})))
	assert.Equal(t, []int{1, 1, 1}, shape(Join([]Piece{one(plan.Straight, 0, "a"), one(plan.Chain, 0, "b"), one(plan.Straight, 0, "c")})))
	assert.Equal(t, []int{1, 1}, shape(Join([]Piece{one(plan.Chain, 0, "a"), one(plan.Chain, 0, "b")})))
}

// A pose to rest in stays behind what it is a rest from, be that a chain; a class that stands in the classical order keeps it,
// said or not.
func TestWhatStaysInOrder(t *testing.T) {
	order := func(s *plan.Session) string {
		t.Helper()
		o, err := Order(t.Context(), s, lib, Thorough)
		require.NoError(t, err)
		return strings.Join(names(o.Session), " ")
	}
	chain := `{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"bridge"}]},{"rule":"chain","rows":[{"movement":"bird-dog"},{"movement":"hydrant"}]},{"rule":"straight","rows":[{"movement":"childs-pose"},{"movement":"heel-taps"},{"movement":"clam"},{"movement":"pelvic-tilt"}]}]}`
	got := order(read(t, chain))
	assert.Contains(t, got, "hydrant childs-pose", got)
	assert.NotEqual(t, "bridge bird-dog hydrant childs-pose heel-taps clam pelvic-tilt", got, "the rest of it moves")
	pose := order(read(t, section(`{"movement":"swan"}`, `{"movement":"bridge"}`, `{"movement":"bird-dog"}`, `{"movement":"childs-pose"}`, `{"movement":"heel-taps"}`, `{"movement":"swimming"}`, `{"movement":"squat"}`)))
	assert.Contains(t, pose, "bird-dog childs-pose", pose)
	var rows []string
	for _, slug := range []string{"hundred", "roll-up", "single-leg-circle", "rolling-like-a-ball", "single-leg-stretch", "saw", "swan", "side-kick", "teaser", "seal"} {
		rows = append(rows, fmt.Sprintf(`{"movement":%q}`, slug))
	}
	fixed := read(t, section(rows...))
	assert.True(t, FixedOrder(fixed, lib))
	o, err := Order(t.Context(), fixed, lib, Thorough)
	require.NoError(t, err)
	assert.False(t, o.Better())
	few := read(t, section(rows[:4]...))
	assert.False(t, FixedOrder(few, lib), "four are no order yet")
	few.Style.Order = plan.ClassicalOrder
	assert.True(t, FixedOrder(few, lib), "said")
	slices.Reverse(rows)
	assert.False(t, FixedOrder(read(t, section(rows...)), lib))
}
