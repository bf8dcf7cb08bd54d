package solve

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/plan/made"
	"wavekine/core/timeline"
)

// thinned is a fifth of so many in a short run: with the race detector they take ten times as long.
func thinned(n int) int {
	if testing.Short() {
		return n / 5
	}
	return n
}

// taught is a class as classes are: one by one, a chain, rounds, pairs of rows, locked rows and a quiet end.
func taught(t testing.TB, r *rand.Rand, rows int) *plan.Session {
	t.Helper()
	var blocks []string
	for n := 0; n < rows; {
		k := min(1+r.IntN(6), rows-n)
		of := some(r, k)
		for i := range of {
			if r.IntN(8) == 0 {
				of[i] = strings.TrimSuffix(of[i], "}") + `,"locked":true}`
			}
		}
		rule := `"rule":"straight"`
		switch r.IntN(8) {
		case 0:
			rule = `"rule":"chain"`
		case 1:
			rule = `"rule":"rounds","rounds":2`
		}
		if r.IntN(9) == 0 {
			of = append(of, `{"movement":"clam","sides":"right","dose":"12 reps"}`, `{"movement":"clam","sides":"left","dose":"12 reps"}`)
		}
		blocks = append(blocks, `{`+rule+`,"rows":[`+strings.Join(of, ",")+`]}`)
		n += k
	}
	end := []string{`{"movement":"constructive-rest","dose":"2 min"}`, `{"movement":"childs-pose","dose":"10 breaths"}`, `{"movement":"clam"}`}[r.IntN(3)]
	return read(t, `{"title":"A","blocks":[`+strings.Join(blocks, ",")+`]}`, section(end))
}

func lands(t testing.TB, s *plan.Session, terms LandTerms) (*LandTable, *timeline.Timeline) {
	t.Helper()
	tl := build(t, s)
	table, err := Lands(t.Context(), s, lib, tl, terms)
	require.NoError(t, err)
	return table, tl
}

// Whatever is looked up: the class that comes of it is as long as the table says, its steps are those that the table makes of the planned ones, nothing that
// has begun is touched, both sides stay alike, what is locked stays, and of two neighbours one at most is left out.
func TestLandingIsWhatTheTimelineSays(t *testing.T) {
	r := rand.New(rand.NewPCG(16, 1))
	outs, settled, reached, tried := 0, 0, 0, 0
	for range thinned(120) {
		s := taught(t, r, 3+r.IntN(25))
		table, tl := lands(t, s, LandTerms{Settle: 45 * clock.Second})
		for range 8 {
			begun := r.IntN(len(table.Knobs) + 1)
			by := clock.Seconds(r.Float64()*600 - 400)
			l := table.Land(begun, by)
			tried++
			after := table.Apply(s, lib, l)
			got := build(t, after)
			require.Equal(t, tl.Total+l.By, got.Total, "%v", l)
			if l.Reached {
				reached++
				require.LessOrEqual(t, math.Abs((l.By - by).Seconds()), 5.5)
			}
			var steps []LandStep
			for _, c := range l.Changes {
				k := &table.Knobs[c.Knob]
				o := &k.Options[c.Option]
				require.GreaterOrEqual(t, c.Knob, begun)
				for _, p := range k.Rows {
					require.False(t, s.Row(p).Locked)
				}
				if o.Out {
					outs++
					require.False(t, k.follows >= 0 && slices.ContainsFunc(l.Changes, func(x Chosen) bool {
						return x.Knob == k.follows && table.Knobs[x.Knob].Options[x.Option].Out
					}))
				}
				if strings.HasPrefix(o.Says, "settle") {
					settled++
				}
				steps = append(steps, o.Steps...)
			}
			require.Equal(t, said(got), patched(tl, steps))
			// both sides of each row are as before, or alike
			for p, m := range sidesOf(got) {
				require.Equal(t, m[0], m[1], "%v", p)
			}
		}
	}
	assert.Greater(t, outs, thinned(50))
	assert.Greater(t, settled, thinned(20))
	t.Logf("%d landings, %d of them reached, %d rows left out, %d settled shorter", tried, reached, outs, settled)
}

// The same over classes with everything that documents can say.
func TestLandingOverAllThatDocumentsSay(t *testing.T) {
	r := rand.New(rand.NewPCG(16, 5))
	changed := 0
	for range thinned(400) {
		s, err := plan.ReadSession(made.Session(r, lib), lib)
		require.NoError(t, err)
		s = s.ForDay(1)
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		table, err := Lands(t.Context(), s, lib, tl, LandTerms{Settle: 45 * clock.Second})
		require.NoError(t, err)
		require.Len(t, table.Best, len(table.Knobs)+1)
		for range 6 {
			l := table.Land(r.IntN(len(table.Knobs)+1), clock.Seconds(r.Float64()*400-250))
			after := table.Apply(s, lib, l)
			got, err := timeline.Build(after, lib)
			require.NoError(t, err)
			doc, _ := json.Marshal(s)
			require.Equal(t, tl.Total+l.By, got.Total, "%v %s", l, doc)
			var steps []LandStep
			for _, c := range l.Changes {
				changed++
				steps = append(steps, table.Knobs[c.Knob].Options[c.Option].Steps...)
			}
			require.Equal(t, said(got), patched(tl, steps), "%v %s", l, doc)
		}
	}
	assert.Greater(t, changed, thinned(500))
}

func btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}

// said are the working steps of a timeline with their lengths, and between them the time there is.
func said(tl *timeline.Timeline) (out []string) {
	way := clock.Span(0)
	for i := range tl.Steps {
		s := &tl.Steps[i]
		if s.Kind.Working() {
			out = append(out, fmt.Sprint("way ", way), fmt.Sprint(s.Move.Slug, s.Side, s.S, s.Reps, s.Breaths))
			way = 0
			continue
		}
		way += s.S
	}
	return append(out, fmt.Sprint("way ", way))
}

// patched is a timeline with what a landing makes of its steps.
func patched(tl *timeline.Timeline, steps []LandStep) []string {
	out := *tl
	out.Steps = slices.Clone(tl.Steps)
	gone := map[int]bool{}
	for _, p := range steps {
		s := &out.Steps[p.Step]
		s.S, s.Reps, s.Breaths = p.S, p.Reps, p.Breaths
		gone[p.Step] = p.Out
	}
	n := -1
	out.Steps = slices.DeleteFunc(out.Steps, func(timeline.Step) bool { n++; return gone[n] })
	return said(&out)
}

// sidesOf counts what each movement that is done on both sides is given on the right and on the left.
func sidesOf(tl *timeline.Timeline) map[string][2]int {
	out := map[string][2]int{}
	for i := range tl.Steps {
		if s := &tl.Steps[i]; s.Kind.Working() && (s.Side == timeline.Right || s.Side == timeline.Left) {
			m := out[s.Move.Slug]
			m[btoi(s.Side == timeline.Left)] += s.Reps + 1000*s.Breaths + 1e6*int(s.S)
			out[s.Move.Slug] = m
		}
	}
	return out
}

// With nothing left out and settling as it is, landing is fit on the rest of the class: the same least change.
func TestLandingByDosesIsFit(t *testing.T) {
	r := rand.New(rand.NewPCG(16, 2))
	reached, not := 0, 0
	for range thinned(150) {
		s := taught(t, r, 4+r.IntN(20))
		table, tl := lands(t, s, LandTerms{DosesOnly: true})
		begun := r.IntN(len(table.Knobs) + 1)
		for i := range table.Knobs[:begun] { // what has begun stays
			for _, p := range table.Knobs[i].Rows {
				s.Row(p).Locked = true
			}
		}
		by := clock.Span(r.IntN(240)-140) * clock.Second
		l := table.Land(begun, by)
		f, err := Fit(t.Context(), s, lib, tl.Total+by, Terms{})
		require.NoError(t, err)
		require.Equal(t, f.Reached, l.By-by >= -Within && l.By-by <= Within, "%v %v", f.Total-tl.Total, l.By)
		if f.Reached {
			reached++
			require.Equal(t, f.Cost, l.Cost)
		} else {
			not++
			require.InDelta(t, math.Abs((f.Total - tl.Total - by).Seconds()), math.Abs((l.By - by).Seconds()), .2)
		}
	}
	assert.Greater(t, reached, thinned(40))
	assert.Greater(t, not, thinned(10))
}

// On small classes every combination is tried.
func TestLandingAgainstEveryCombination(t *testing.T) {
	r := rand.New(rand.NewPCG(16, 3))
	for range 60 {
		s := taught(t, r, 2+r.IntN(4))
		table, _ := lands(t, s, LandTerms{Settle: 20 * clock.Second})
		by := clock.Span(r.IntN(300)-200) * clock.Second
		cost, off := math.MaxInt, clock.Span(math.MaxInt64)
		var walk func(i int, sum clock.Span, c int, outs map[int]bool)
		walk = func(i int, sum clock.Span, c int, outs map[int]bool) {
			if i == len(table.Knobs) {
				o := sum - by
				o = max(o, -o)
				if in, had := o <= Within, off <= Within; in && had && c < cost || in && !had || !in && !had && o < off {
					cost, off = c, o
				}
				return
			}
			walk(i+1, sum, c, outs)
			for _, o := range table.Knobs[i].Options {
				if o.Out && outs[table.Knobs[i].follows] {
					continue
				}
				outs[i] = o.Out
				walk(i+1, sum+o.By, c+o.Cost, outs)
				outs[i] = false
			}
		}
		walk(0, 0, 0, map[int]bool{})
		l := table.Land(0, by)
		if off <= Within {
			require.Equal(t, cost, l.Cost, "%v", by)
			require.True(t, l.Reached)
		} else {
			require.InDelta(t, off.Seconds(), math.Abs((l.By - by).Seconds()), .2)
		}
	}
}

func BenchmarkLands(b *testing.B) {
	for _, rows := range []int{15, 30, 60} {
		b.Run(fmt.Sprint(rows), func(b *testing.B) {
			s := taught(b, rand.New(rand.NewPCG(16, 4)), rows)
			tl := build(b, s)
			for b.Loop() {
				_, err := Lands(b.Context(), s, lib, tl, LandTerms{Settle: 45 * clock.Second})
				require.NoError(b, err)
			}
			b.ReportMetric(tl.Total.Seconds()/60, "min")
			t, _ := Lands(b.Context(), s, lib, tl, LandTerms{})
			j, _ := json.Marshal(t.Choices)
			n := 0
			for _, x := range t.Best {
				n += len(x)
			}
			b.ReportMetric(float64(len(t.Choices)), "choices")
			b.ReportMetric(float64(n), "entries")
			_ = j
		})
	}
}
