package timeline

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

const sec = clock.Second

func session(t testing.TB, blocks string, head ...string) *plan.Session {
	t.Helper()
	doc := `{"format":"wavekine.session/1","title":"T",` + strings.Join(head, "") + `"sections":[{"title":"A","blocks":[` + blocks + `]}]}`
	s, err := plan.ReadSession([]byte(doc), movement.Shipped())
	require.NoError(t, err, doc)
	return s
}

func build(t testing.TB, blocks string, head ...string) *Timeline {
	t.Helper()
	tl, err := Build(session(t, blocks, head...), movement.Shipped())
	require.NoError(t, err)
	lawful(t, tl)
	return tl
}

// lawful checks what holds for every timeline: contiguous steps, sums that add up, cues in place.
func lawful(t testing.TB, tl *Timeline) {
	t.Helper()
	at := clock.Span(0)
	for _, s := range tl.Steps {
		require.Equal(t, at, s.At)
		require.Positive(t, s.S)
		require.GreaterOrEqual(t, s.Effort, 0.0)
		require.LessOrEqual(t, s.Effort, 10.0)
		for _, c := range s.Cues {
			require.GreaterOrEqual(t, c.At, s.At)
			require.LessOrEqual(t, c.At, s.End())
		}
		at = s.End()
	}
	require.Equal(t, at, tl.Total)
	u := tl.Sums
	require.Equal(t, tl.Total, u.Work+u.Hold+u.Setup+u.Position+u.Rest+u.Switch)
	require.LessOrEqual(t, tl.Low, tl.Total)
	require.GreaterOrEqual(t, tl.High, tl.Total)
}

func straight(rows string) string { return `{"rule":"straight","rows":[` + rows + `]}` }

func kinds(tl *Timeline) (out []string) {
	for _, s := range tl.Steps {
		w := s.Kind.String() + " " + s.S.Said()
		if s.Kind.Working() {
			w += " " + s.Side.String()
		}
		out = append(out, w)
	}
	return out
}

// Interval arithmetic of the trade (common practice, no source): ten moves of 35 s on and 25 s off
// make 10:00, fifteen of 45 on and 15 off make 15:00.
func TestIntervalArithmetic(t *testing.T) {
	for _, c := range []struct {
		n       int
		on, off string
		want    clock.Span
	}{{10, "35 s", "25 s", 10 * clock.Minute}, {15, "45 s", "15 s", 15 * clock.Minute}} {
		rows := make([]string, c.n)
		all := []string{"squat", "heel-taps", "side-plank", "bird-dog", "swan", "hundred", "march"}
		for i := range rows {
			rows[i] = `{"movement":"` + all[i%len(all)] + `"}`
		}
		tl := build(t, fmt.Sprintf(`{"rule":"rounds","rounds":1,"on":"%s","off":"%s","rows":[%s]}`, c.on, c.off, strings.Join(rows, ",")))
		lead := tl.Steps[0]
		assert.Equal(t, Setup, lead.Kind)
		assert.Equal(t, c.want, tl.Total-lead.S, "after one lead-in set-up")
		for _, s := range tl.Steps[1:] {
			if s.Posture.OneSided() && s.Kind == Position { // turning over is within the time on
				continue
			}
			assert.Contains(t, []Kind{Work, Rest}, s.Kind)
		}
		assert.Less(t, (tl.High - tl.Low).Seconds(), .04*tl.Total.Seconds(), "a timed class has a narrow range")
	}
	two := build(t, `{"rule":"rounds","rounds":2,"on":"40 s","off":"20 s","rest":"20 s","rows":[{"movement":"squat"},{"movement":"lunge"}]}`)
	assert.Equal(t, 2*2*clock.Minute+20*sec, two.Total-two.Steps[0].S)
	assert.Equal(t, two.Sums.Right, two.Sums.Left, "each side gets half of the time on")
}

// Facts of the trade (common practice, no source).
func TestBeats(t *testing.T) {
	workOf := func(row string, head ...string) clock.Span {
		tl := build(t, straight(row), head...)
		return tl.Sums.Work
	}
	// Four beats a repetition at 120 beats a minute is 2 s a repetition.
	assert.Equal(t, 16*sec, workOf(`{"movement":"squat","dose":"8 reps in 4 counts"}`, `"beat":{"bpm":120},`))
	assert.Equal(t, 16*sec, workOf(`{"movement":"squat","dose":"8 reps at 2-2"}`, `"beat":{"bpm":120},`))
	// Ten sets of single leg stretch in the classical order are pairs, twenty switches of 2 s.
	tl := build(t, straight(`{"movement":"single-leg-stretch","dose":"10 pairs"}`))
	last := tl.Steps[len(tl.Steps)-1]
	assert.Equal(t, 20, last.Reps)
	assert.Equal(t, 40*sec, last.S)
	assert.Equal(t, Alternating, last.Side)
	// The hundred: ten breaths of five beats in and five out, ten beats in 5.5 s.
	assert.Equal(t, 55*sec, workOf(`{"movement":"hundred"}`))
	// Tempo multiplies seconds per repetition: brisk .8, slow 1.25.
	assert.Equal(t, 36*sec, workOf(`{"movement":"squat","dose":"8 reps"}`))
	assert.Equal(t, (36 * sec).Times(.8), workOf(`{"movement":"squat","dose":"8 reps"}`, `"pace":{"tempo":"brisk"},`))
	assert.Equal(t, 45*sec, workOf(`{"movement":"squat","dose":"8 reps"}`, `"pace":{"tempo":"slow"},`))
	// A counted hold of 3 to 5 s costs about 4 s more than it says.
	assert.Equal(t, (8*4500+9000)*clock.Millisecond+11*sec, build(t, straight(`{"movement":"squat","dose":"8 reps + hold 5 s + 10 pulses"}`)).Total-35*sec)
}

func TestStraightEachSide(t *testing.T) {
	tl := build(t, straight(`{"movement":"bird-dog","level":2,"dose":"8 reps + 10 pulses"}`))
	assert.Equal(t, []string{
		"setup 35 s", "work 36 s right", "pulse 11 s right", "switch 10 s", "work 36 s left", "pulse 11 s left",
	}, kinds(tl))
	assert.Equal(t, 47*sec, tl.Sums.Right)
	assert.Equal(t, 47*sec, tl.Sums.Left)
	left := build(t, straight(`{"movement":"bird-dog","level":2,"dose":"8 reps"}`), `"style":{"first_side":"left"},`)
	assert.Equal(t, Left, left.Steps[1].Side)
}

// What the ways to say a dose make of its time, against the dose beside them.
func TestDosesAsTeachersSayThem(t *testing.T) {
	work := func(movement, dose string) (sum clock.Span, reps int, tl *Timeline) {
		tl = build(t, straight(`{"movement":"`+movement+`","dose":"`+dose+`"}`))
		for _, s := range tl.Steps {
			if s.Kind.Working() {
				sum, reps = sum+s.S, reps+s.Reps
			}
		}
		return sum, reps, tl
	}
	for _, c := range []struct {
		movement, said, as string
		factor             float64
		more               clock.Span
		reps               int
	}{
		{"squat", "10 reps slow", "10 reps", 1.5, 0, 10},
		{"squat", "10 reps fast", "10 reps", .55, 0, 10},
		{"squat", "10 pulses double time", "10 pulses", .5, 0, 10},
		{"squat", "10 pulses double", "20 pulses", 1, 0, 10},
		{"squat", "10 reps double", "10 reps", 1, 11 * sec, 10},
		{"squat", "8 reps holding 5 s", "8 reps", 1, 40 * sec, 8},
		{"squat", "8 to 10 reps", "9 reps", 1, 0, 9},
		{"squat", "hold 10 counts", "hold 10 s", 1, 0, 0},
		{"squat", "2 min to 5 min", "2 min", 1, 0, 0},
		{"arm-circles", "3 one way, 4 the other", "7 reps", 1, 0, 7},
		{"single-leg-stretch", "5 reps slow + 10 reps fast", "13 reps", 1, 0, 15},
	} {
		is, reps, _ := work(c.movement, c.said)
		was, _, _ := work(c.movement, c.as)
		assert.Equal(t, was.Times(c.factor)+c.more, is, c.said)
		assert.Equal(t, c.reps, reps, c.said)
	}
	_, _, nine := work("squat", "9 reps")
	_, _, range9 := work("squat", "8 to 10 reps")
	assert.Less(t, range9.Low, nine.Low, "a range that was said makes that of the length wider")
	assert.Greater(t, range9.High, nine.High)
	_, _, about := work("squat", "about 9 reps")
	assert.Less(t, about.Low, range9.Low)
	_, _, held := work("half-pigeon", "2 min to 5 min each side")
	assert.Greater(t, held.High, 10*clock.Minute, "as long as five minutes on each side")
	assert.Less(t, held.Total, 6*clock.Minute, "the least is promised")
}

func TestChainIsAllOfOneSideThenTheOther(t *testing.T) {
	tl := build(t, `{"rule":"chain","rest":"20 s","rows":[
		{"movement":"bird-dog","level":2,"dose":"8 reps"},
		{"movement":"rainbow-leg","dose":"8 reps","left":{"dose":"6 reps"}}]}`)
	assert.Equal(t, []string{
		"setup 35 s", "work 36 s right", "setup 5 s", "work 36 s right", "rest 20 s",
		"switch 5 s", "work 36 s left", "setup 5 s", "work 27 s left",
	}, kinds(tl))
	assert.Equal(t, 6, tl.Steps[8].Reps)
	assert.Equal(t, plan.Path{Section: 1, Block: 1, Row: 2}, tl.Steps[8].Row)
}

func TestSetUpGrowsShorter(t *testing.T) {
	// Met before: 5 s. A new level of the same movement: 15 s. One step of the graph: 10 s, more: 15 s.
	tl := build(t, straight(`{"movement":"bird-dog","level":1,"dose":"2 reps","sides":"right"},{"movement":"bird-dog","level":1,"dose":"2 reps","sides":"left"},
		{"movement":"bird-dog","level":2,"dose":"2 reps","sides":"left"},{"movement":"childs-pose","dose":"2 breaths"},{"movement":"hundred","dose":"1 breath"}`))
	assert.Equal(t, []string{
		"setup 35 s", "work 9 s right", "setup 5 s", "work 9 s left", "setup 15 s", "work 9 s left",
		"position 10 s", "setup 4 s", "work 16 s both", "position 15 s", "setup 15 s", "work 5.5 s both",
	}, kinds(tl))
	assert.Equal(t, 2, tl.Sums.PositionsChanged)
	for talk, want := range map[string]clock.Span{"flowing": 26 * sec, "coached": 35 * sec, "first lesson": 53 * sec} {
		tl := build(t, straight(`{"movement":"squat"}`), `"pace":{"talk":"`+talk+`"},`)
		assert.Equal(t, want, tl.Steps[0].S, talk)
	}
}

func TestTurningOverOnTheSide(t *testing.T) {
	tl := build(t, straight(`{"movement":"clam","dose":"10 each side"},{"movement":"side-kick","dose":"4 each side"}`))
	assert.Equal(t, []string{
		"setup 35 s", "work 25 s right", "position 15 s", "switch 10 s", "work 25 s left",
		"position 15 s", "setup 15 s", "work 18 s right", "position 15 s", "switch 10 s", "work 18 s left",
	}, kinds(tl), "lying on the left side to work the right, and over again for the next movement")
}

func TestSetsAndRest(t *testing.T) {
	tl := build(t, straight(`{"movement":"lunge","dose":"2 x 4 each side, rest 30 s"},{"rest":"15 s","say":"Head down"}`))
	assert.Equal(t, []string{
		"setup 35 s", "work 18 s right", "switch 10 s", "work 18 s left", "rest 30 s",
		"switch 10 s", "work 18 s right", "switch 10 s", "work 18 s left", "rest 15 s",
	}, kinds(tl))
	assert.Equal(t, "Head down", tl.Steps[9].Says)
}

func TestStretchesSaidAsTimesContainGettingIntoThem(t *testing.T) {
	tl := build(t, straight(`{"movement":"seated-forward-fold","dose":"30 s"},{"movement":"childs-pose","dose":"30 s"},{"movement":"supine-twist","dose":"30 s each side"}`))
	assert.Equal(t, 35*sec+4*30*sec, tl.Total)
	held := build(t, straight(`{"movement":"seated-forward-fold","dose":"hold 30 s"},{"movement":"childs-pose","dose":"hold 30 s"}`))
	assert.Equal(t, 60*sec, held.Sums.Hold)
}

func TestKitIsFetched(t *testing.T) {
	tl := build(t, straight(`{"movement":"half-pigeon","level":1,"dose":"hold 30 s each side"},{"movement":"childs-pose"},{"movement":"half-pigeon","level":1,"dose":"hold 30 s each side"}`))
	assert.Equal(t, 1, tl.Sums.KitChanges, "it lies beside the mat the second time")
	assert.Equal(t, 35*sec+20*sec, tl.Steps[0].S)
}

func TestCues(t *testing.T) {
	tl := build(t, straight(`{"movement":"forearm-plank","dose":"hold 30 s"},{"movement":"squat","dose":"8 reps"}`))
	got := func(s Step) (out []string) {
		for _, c := range s.Cues {
			out = append(out, fmt.Sprintf("%s %g", c.Cue, (c.At-s.At).Seconds()))
		}
		return out
	}
	assert.Equal(t, []string{"start 0", "halfway 15", "ten seconds 20", "five to go 25", "next 25"}, got(tl.Steps[1]))
	last := tl.Steps[len(tl.Steps)-1]
	assert.Equal(t, []string{"start 0", "halfway 18", "last two 27"}, got(last))
}

func TestPublishedForm(t *testing.T) {
	tl := build(t, straight(`{"movement":"rib-breathing"}`))
	b, err := json.Marshal(tl)
	require.NoError(t, err)
	var out map[string]any
	require.NoError(t, json.Unmarshal(b, &out))
	assert.Equal(t, "wavekine.timeline/1", out["format"])
	step := out["steps"].([]any)[1].(map[string]any)
	assert.Equal(t, "1.1.1", step["row"])
	assert.Equal(t, "seated", step["posture"])
	assert.Equal(t, 6.0, step["breaths"])
	assert.Equal(t, tl.Total.Seconds(), out["total"])
}

func TestInlineMovementIsReadWhole(t *testing.T) {
	tl := build(t, straight(`{"movement":{"name":"Star reach","posture":"supine","sides":"alternating","seconds_per_rep":3,"effort":5},"dose":"10 alternating"}`))
	last := tl.Steps[len(tl.Steps)-1]
	assert.Equal(t, 30*sec, last.S)
	assert.Equal(t, 5.0, last.Effort)
}

// long makes a class of n rows that uses every rule.
func long(t testing.TB, n int) *plan.Session {
	all := movement.Shipped().All()
	var blocks []string
	for i := 0; i < n; i += 6 {
		var rows []string
		for k := range 6 {
			rows = append(rows, `{"movement":"`+all[(i*7+k*5)%len(all)].Slug+`"}`)
		}
		rule := []string{`"rule":"straight"`, `"rule":"chain"`, `"rule":"rounds","rounds":2`}[i/6%3]
		blocks = append(blocks, `{`+rule+`,"rows":[`+strings.Join(rows, ",")+`]}`)
	}
	return session(t, strings.Join(blocks, ","))
}

func TestLongSessionsAreLawfulAndRepeatable(t *testing.T) {
	s := long(t, 120)
	a, err := Build(s, movement.Shipped())
	require.NoError(t, err)
	lawful(t, a)
	b, err := Build(s.Clone(), movement.Shipped())
	require.NoError(t, err)
	assert.Equal(t, a.Steps, b.Steps)
}

func BenchmarkBuild(b *testing.B) {
	for _, n := range []int{60, 120, 300, 600} {
		s := long(b, n)
		b.Run(fmt.Sprint(n, "rows"), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				if _, err := Build(s, movement.Shipped()); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// The rows that are named as least certain are those whose own range is widest.
func TestLeastCertainRows(t *testing.T) {
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[
		{"rule":"straight","rows":[{"movement":"squat","dose":"60 reps"},{"movement":"calf-stretch","dose":"hold 30 s each side"},{"movement":"lunge","dose":"20 each side"}]},
		{"rule":"rounds","on":"40 s","off":"20 s","rows":[{"movement":"squat"}]}]}]}`), movement.Shipped())
	require.NoError(t, err)
	tl, err := Build(s, movement.Shipped())
	require.NoError(t, err)
	all := tl.LeastCertain(100)
	require.NotEmpty(t, all)
	assert.Equal(t, plan.Path{Section: 1, Block: 1, Row: 1}, all[0].Row)
	for i, d := range all {
		var by clock.Span
		for k := range tl.Steps {
			if tl.Steps[k].Row == d.Row {
				by += tl.Steps[k].Uncertain()
			}
		}
		assert.Equal(t, by, d.By)
		assert.GreaterOrEqual(t, d.By, 5*clock.Second)
		if i > 0 {
			assert.LessOrEqual(t, d.By, all[i-1].By)
		}
	}
	assert.Equal(t, all[:1], tl.LeastCertain(1))
	assert.Empty(t, (&Timeline{}).LeastCertain(3))
}

// With runs behind the pace the range of what is counted narrows: what the teacher's own pace adds to it to seven tenths after four, as the square root has it;
// what one step differs from another stays. Of a class of one long row nearly all of it is the step's: 15 % of it and a tenth, 1.44 times.
func TestRangeNarrowsWithRuns(t *testing.T) {
	s := classFrom(t, []string{"squat 40"})
	width := func(runs int) float64 {
		tl, err := Build(s, lib.At(movement.Personal{Runs: runs}))
		require.NoError(t, err)
		return float64(tl.High)/float64(tl.Total) - 1
	}
	const work, setup = 180.0 / 215, 35.0 / 215
	for runs, own := range map[int]float64{0: .1, 4: .1 / math.Sqrt2, 32: .1 / 3} {
		assert.InDelta(t, 1.44*math.Sqrt((.15*.15+own*own)*(work*work+setup*setup)), width(runs), 1e-3, runs)
	}
}

// The published form of a timeline: whole seconds of the range, sets from the second on, words of rests and changes.
func TestPublishedTimeline(t *testing.T) {
	s := classFrom(t, []string{`{"movement":"squat","dose":"2 x 3, rest 10 s"} | rest 9 s sip`})
	tl, err := Build(s, lib)
	require.NoError(t, err)
	b, err := json.Marshal(tl)
	require.NoError(t, err)
	var out struct {
		Format string
		Total  float64
		Range  [2]float64
		Steps  []map[string]any
		Sums   map[string]float64
	}
	require.NoError(t, json.Unmarshal(b, &out))
	assert.Equal(t, "wavekine.timeline/1", out.Format)
	// 35 + 13.5 + 10 + 13.5 + 9 s: 81 s; 62 s counted at 15 %, 19 s by the clock at 1 %
	assert.InDelta(t, 81, out.Total, 1e-9)
	assert.Equal(t, [2]float64{72, 92}, out.Range)
	var kinds, sets, says []any
	for _, st := range out.Steps {
		kinds, sets, says = append(kinds, st["kind"]), append(sets, st["set"]), append(says, st["says"])
	}
	assert.Equal(t, []any{"setup", "work", "rest", "work", "rest"}, kinds)
	assert.Equal(t, []any{nil, nil, nil, 2., nil}, sets)
	assert.Equal(t, []any{nil, nil, "between sets", nil, "sip"}, says)
	assert.InDelta(t, 27, out.Sums["work"], 1e-9)
	assert.InDelta(t, 19, out.Sums["rest"], 1e-9)
}

// A dose in a circuit by the clock is the aim within the time: it changes no length and is not lost.
func TestADoseInATimedCircuitIsItsAim(t *testing.T) {
	with := build(t, `{"rule":"rounds","rounds":2,"on":"40 s","off":"20 s","rows":[{"movement":"squat","dose":"10 reps"},{"movement":"lunge","dose":"8 each side","left":{"dose":"6 reps"}},{"movement":"bridge"},{"rest":"20 s"}]}`)
	without := build(t, `{"rule":"rounds","rounds":2,"on":"40 s","off":"20 s","rows":[{"movement":"squat"},{"movement":"lunge"},{"movement":"bridge"},{"rest":"20 s"}]}`)
	assert.Equal(t, without.Total, with.Total)
	var aims []string
	for _, s := range with.Steps {
		if s.Kind.Working() {
			aims = append(aims, s.Aim)
		} else {
			assert.Empty(t, s.Aim)
		}
	}
	assert.Equal(t, []string{"10 reps", "8 each side", "6 reps", "", "10 reps", "8 each side", "6 reps", ""}, aims)
	for _, s := range build(t, straight(`{"movement":"squat","dose":"10 reps"}`)).Steps {
		assert.Empty(t, s.Aim, "it is counted there")
	}
	b, err := json.Marshal(with)
	require.NoError(t, err)
	assert.Contains(t, string(b), `"aim":"10 reps"`)
}
