package pace

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/run"
	"wavekine/core/timeline"
)

const s = clock.Second

// class is a class of n rows: a change of position, a set-up, work on the right, a switch, work on the left.
func class(id string, n int) *run.Run {
	r := &run.Run{ID: id}
	for i := range n {
		at := plan.Path{Section: 1, Block: 1, Row: i + 1}
		slug := fmt.Sprint("m", i)
		for _, st := range []run.Step{
			{Kind: timeline.Position, S: 10 * s},
			{Kind: timeline.Setup, S: 15 * s},
			{Kind: timeline.Work, S: 20 * s, Reps: 8, Side: timeline.Right},
			{Kind: timeline.Switch, S: 10 * s},
			{Kind: timeline.Work, S: 20 * s, Reps: 8, Side: timeline.Left},
		} {
			st.Row, st.Movement, st.Name, st.Usual = at, slug, slug, st.S
			r.Steps = append(r.Steps, st)
		}
	}
	return r
}

// lead leads a class with every step as long as of says, moved on by hand.
func lead(r *run.Run, of func(i int, st run.Step) float64) *run.Run {
	at := clock.Span(0)
	r.Events = []run.Event{{Does: run.Began}}
	for i, st := range r.Steps {
		does := run.SetUp
		if st.Kind.Working() {
			does = run.Work
		}
		r.Events = append(r.Events, run.Event{At: at, Does: does, Step: i})
		at += st.S.Times(of(i, st))
		r.Events = append(r.Events, run.Event{At: at, Does: run.MovedOn})
	}
	r.Events = append(r.Events, run.Event{At: at, Does: run.Ended})
	return r
}

func parted(tempo, talk, changes float64) func(int, run.Step) float64 {
	return func(_ int, st run.Step) float64 {
		switch {
		case st.Kind.Working():
			return tempo
		case st.Kind == timeline.Setup:
			return talk
		}
		return changes
	}
}

func TestWholeFactorsAreLearntApart(t *testing.T) {
	p := Learn([]*run.Run{lead(class("a", 10), parted(.7, 1.6, 1.2))})
	for part, want := range map[Part]float64{Tempo: .7, Talk: 1.6, Changes: 1.2} {
		f := p.Whole[part]
		assert.True(t, f.Enough, part)
		assert.InDelta(t, want, f.Ratio, 1e-9, part)
		assert.InEpsilon(t, math.Pow(want, float64(f.Seen)/(float64(f.Seen)+wholePrior)), f.Factor, 1e-9, "shrunk weakly")
		assert.InEpsilon(t, want, f.Factor, .1, part)
	}
	assert.Equal(t, 1, p.Runs)
	for _, l := range p.Movements {
		assert.False(t, l.Enough, "one class says nothing of a single movement")
	}
}

// What only the clock ended took what was planned because it was planned: nothing is learnt of it.
func TestTheClockTeachesNothing(t *testing.T) {
	r := lead(class("a", 10), parted(1, 1, 1))
	var kept []run.Event
	for _, e := range r.Events {
		if e.Does != run.MovedOn {
			kept = append(kept, e)
		}
	}
	r.Events = kept
	p := Learn([]*run.Run{r, r, r})
	for _, part := range Parts() {
		assert.False(t, p.Whole[part].Enough, part)
		assert.InDelta(t, 1, p.Whole[part].Factor, 1e-12)
	}
	assert.Empty(t, p.Keys())
}

// A class that was broken off, one that is not finished, a step that was interrupted or run through.
func TestWhatTeachesNothing(t *testing.T) {
	r := lead(class("a", 10), parted(1.3, 1.3, 1.3))
	r.Events[len(r.Events)-1].Early = true
	assert.Zero(t, Learn([]*run.Run{r}).Runs)
	odd := lead(class("b", 10), func(i int, _ run.Step) float64 {
		if i%5 == 0 {
			return 9 // somebody came in
		}
		return 1.2
	})
	p := Learn([]*run.Run{odd})
	assert.InDelta(t, 1.2, p.Whole[Changes].Ratio, 1e-9)
	assert.InDelta(t, 1.2, p.Whole[Tempo].Ratio, 1e-9)
}

// One press for the change of position and the set-up together: what they took together counts for both.
func TestPressedThrough(t *testing.T) {
	r := class("a", 10)
	lead(r, func(i int, st run.Step) float64 {
		switch st.Kind {
		case timeline.Position:
			return 3.7 // 37 s of changing and talking, then pressed twice
		case timeline.Setup:
			return .02
		}
		return 1
	})
	p := Learn([]*run.Run{r})
	assert.InEpsilon(t, 37.3/25, p.Whole[Talk].Ratio, .01)
}

func TestSingleMovementsNeedThreeClasses(t *testing.T) {
	of := func(i int, st run.Step) float64 {
		if st.Movement == "m0" && st.Kind.Working() {
			return 1.5
		}
		return 1
	}
	two := Learn([]*run.Run{lead(class("a", 10), of), lead(class("b", 10), of)})
	assert.False(t, two.Movements[0].Enough)
	three := Learn([]*run.Run{lead(class("a", 10), of), lead(class("b", 10), of), lead(class("c", 10), of)})
	require.Equal(t, "m0", three.Movements[0].Movement)
	assert.True(t, three.Movements[0].Enough)
	assert.InEpsilon(t, math.Pow(1.5, 3./7), three.Movements[0].Factor, 1e-6, "drawn towards the teacher's tempo by the number of classes")
	f, n, ok := three.Of("m0")
	assert.True(t, ok)
	assert.Equal(t, 3, n)
	assert.InDelta(t, three.Movements[0].Factor, f, 1e-12)
	_, _, ok = three.Of("nothing")
	assert.False(t, ok)
}

// "This class took 24:30 when I taught it": 20 minutes that took 24 correct by the root of 1.2, not by 1.2
// (common practice, no source).
func TestARememberedClassHelpsAtOnce(t *testing.T) {
	r := class("a", 10)
	p := Learn([]*run.Run{r.Remember(r.Usual().Times(1.2))})
	assert.Equal(t, 1, p.Remembered)
	for _, part := range Parts() {
		assert.True(t, p.Whole[part].Enough)
		assert.InDelta(t, math.Sqrt(1.2), p.Whole[part].Factor, 1e-6)
	}
	// Once a class was led, what was seen there outweighs it.
	p = Learn([]*run.Run{r.Remember(r.Usual().Times(1.2)), lead(class("b", 10), parted(.8, .8, .8))})
	assert.InEpsilon(t, .8, p.Whole[Tempo].Factor, .06)
}

// Repetitions counted by hand say the tempo by themselves, whoever ended the step.
func TestTapsSayTheTempo(t *testing.T) {
	r := class("a", 6)
	at := clock.Span(0)
	r.Events = []run.Event{{Does: run.Began}}
	for i, st := range r.Steps {
		does := run.SetUp
		if st.Kind.Working() {
			does = run.Work
		}
		r.Events = append(r.Events, run.Event{At: at, Does: does, Step: i})
		if !st.Kind.Working() {
			at += st.S
			continue
		}
		for range 8 {
			at += 4 * s // 2.5 s planned
			r.Events = append(r.Events, run.Event{At: at, Does: run.Rep, Hand: true})
		}
	}
	r.Events = append(r.Events, run.Event{At: at, Does: run.Ended})
	p := Learn([]*run.Run{r})
	assert.InDelta(t, 1.6, p.Whole[Tempo].Ratio, 1e-9)
	assert.False(t, p.Whole[Talk].Enough)
}

// The order of the runs does not matter, and noise of 15 % a step comes out within a tenth from three classes.
func TestNoise(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	good := 0
	for range 200 {
		want := [parts]float64{}
		for i := range want {
			want[i] = math.Exp(math.Log(.6) + r.Float64()*(math.Log(1.8)-math.Log(.6)))
		}
		var runs []*run.Run
		for k := range 3 {
			of := parted(want[Tempo], want[Talk], want[Changes])
			runs = append(runs, lead(class(fmt.Sprint(k), 12), func(i int, st run.Step) float64 { return of(i, st) * math.Exp(.15*r.NormFloat64()) }))
		}
		p := Learn(runs)
		ok := true
		for i := range want {
			ok = ok && math.Abs(p.Whole[i].Factor/want[i]-1) < .1
		}
		if ok {
			good++
		}
		q := Learn([]*run.Run{runs[2], runs[0], runs[1]})
		assert.Equal(t, p.Whole, q.Whole)
	}
	t.Logf("%d of 200 learnt within a tenth", good)
	assert.Greater(t, good, 190)
}

func BenchmarkLearn(b *testing.B) {
	for _, n := range []int{5, 10, 20, 40} {
		var runs []*run.Run
		for k := range n {
			runs = append(runs, lead(class(fmt.Sprint(k), 20), parted(1.1, 1.2, .9)))
		}
		b.Run(fmt.Sprint(n, "-classes"), func(b *testing.B) {
			for b.Loop() {
				Learn(runs)
			}
		})
	}
}
