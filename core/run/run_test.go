package run

import (
	"encoding/json"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

const s = clock.Second

// mat is a small class: set up, eight on the right, over, eight on the left, a rest by the clock.
func mat() *Run {
	row, rest := plan.Path{Section: 1, Block: 1, Row: 1}, plan.Path{Section: 1, Block: 1, Row: 2}
	return &Run{
		ID: "0123456789", Session: "mat", Rev: 3, Title: "Mat", Teacher: "maren", Started: time.Date(2026, 5, 14, 8, 0, 0, 0, time.UTC), Asked: 60 * s,
		Steps: []Step{
			{Row: row, Movement: "clam", Name: "Clam", Kind: timeline.Setup, Side: timeline.Right, S: 15 * s, Usual: 15 * s, Level: 1},
			{Row: row, Movement: "clam", Name: "Clam", Kind: timeline.Work, Side: timeline.Right, S: 20 * s, Usual: 20 * s, Level: 1, Reps: 8},
			{Row: row, Movement: "clam", Name: "Clam", Kind: timeline.Switch, Side: timeline.Left, S: 10 * s, Usual: 10 * s, Level: 1},
			{Row: row, Movement: "clam", Name: "Clam", Kind: timeline.Work, Side: timeline.Left, S: 20 * s, Usual: 20 * s, Level: 1, Reps: 8},
			{Row: rest, Name: "Rest", Kind: timeline.Rest, S: 15 * s, Usual: 15 * s, Clocked: true},
		},
	}
}

// tell writes what happened the short way: "0 began; 12 work 1; 14.5 rep!; 30 ended early".
func tell(t *testing.T, r *Run, text string) *Run {
	t.Helper()
	r.Events = nil
	for _, part := range strings.Split(text, ";") {
		f := strings.Fields(part)
		at, err := clock.Parse(f[0] + " s")
		require.NoError(t, err)
		e := Event{At: at}
		word := f[1]
		switch {
		case word == "rep!":
			word, e.Hand = "rep", true
		case word == "moved", word == "went", word == "talked", word == "not":
			word += " " + f[2]
		case word == "ended" && len(f) > 2:
			e.Early = true
		}
		require.NoError(t, e.Does.UnmarshalText([]byte(word)), part)
		if e.Does.Begins() {
			e.Step = int(f[2][0] - '0')
		}
		r.Events = append(r.Events, e)
	}
	return r
}

func TestSecondsAreWhatTheClockSays(t *testing.T) {
	r := tell(t, mat(), "0 began; 0 set-up 0; 9 moved on; 9 work 1; 41 moved on; 41 set-up 2; 51 work 3; 71 set-up 4; 86 ended")
	vs := r.Visits()
	require.Len(t, vs, 5)
	assert.Equal(t, []clock.Span{9 * s, 32 * s, 10 * s, 20 * s, 15 * s}, []clock.Span{vs[0].Taken(), vs[1].Taken(), vs[2].Taken(), vs[3].Taken(), vs[4].Taken()})
	assert.Equal(t, []By{ByHand, ByHand, ByClock, ByClock, ByClock}, []By{vs[0].Ended, vs[1].Ended, vs[2].Ended, vs[3].Ended, vs[4].Ended})
	taken, paused := r.Taken()
	assert.Equal(t, 86*s, taken)
	assert.Zero(t, paused)
	assert.True(t, r.Finished())
}

// Nobody counted: the planned number is said to be planned, whether the teacher was slow or quick about it.
func TestRepetitionsAreNeverWorkedOutFromSeconds(t *testing.T) {
	for _, took := range []string{"12", "20", "44"} {
		r := tell(t, mat(), "0 began; 0 work 1; "+took+" moved on; "+took+" work 3; 99 ended early")
		n, how := r.Reps(&r.Visits()[0])
		assert.Equal(t, 8, n, took)
		assert.Equal(t, AsPlanned, how, took)
	}
	r := tell(t, mat(), "0 began; 0 work 1; 3 moved on; 3 work 3; 30 ended early")
	n, how := r.Reps(&r.Visits()[0])
	assert.Zero(t, n)
	assert.Equal(t, LeftOut, how, "eight in three seconds: left out, not claimed")
	n, how = r.Reps(&r.Visits()[1])
	assert.Zero(t, n, "ended in the middle")
	assert.Equal(t, LeftOut, how)

	r = tell(t, mat(), "0 began; 0 work 1; 3 rep!; 6 rep!; 9 rep!; 12 rep; 15 rep; 18 moved on; 18 work 3; 40 ended early")
	n, how = r.Reps(&r.Visits()[0])
	assert.Equal(t, 5, n, "three by hand, two by the clock at their tempo")
	assert.Equal(t, Counted, how)
	each, ok := r.Visits()[0].TapTempo()
	assert.True(t, ok)
	assert.Equal(t, 3*s, each)

	r = tell(t, mat(), "0 began; 0 work 1; 1 more; 2 more; 3 fewer; 24 moved on; 24 work 3; 40 ended")
	n, _ = r.Reps(&r.Visits()[0])
	assert.Equal(t, 9, n, "one more than planned was said")
}

func TestPausesAreKeptApart(t *testing.T) {
	r := tell(t, mat(), "0 began; 0 set-up 0; 5 paused; 65 resumed; 75 work 1; 80 paused; 90 moved on; 90 set-up 2; 100 resumed; 110 ended early")
	vs := r.Visits()
	assert.Equal(t, 15*s, vs[0].Taken())
	assert.Equal(t, 5*s, vs[1].Taken(), "left while paused")
	assert.Equal(t, 10*s, vs[2].Taken(), "begun while paused")
	taken, paused := r.Taken()
	assert.Equal(t, 30*s, taken)
	assert.Equal(t, 80*s, paused)
	sum := clock.Span(0)
	for _, v := range vs {
		sum += v.Taken()
	}
	assert.Equal(t, taken, sum, "every second is somewhere")
	r = tell(t, mat(), "0 began; 0 set-up 0; 5 paused")
	taken, _ = r.Taken()
	assert.Equal(t, 5*s, taken, "broken off in a pause")
}

// The step before is still on: what has passed of the next one is its.
func TestNotYet(t *testing.T) {
	r := tell(t, mat(), "0 began; 0 set-up 0; 15 work 1; 18 not yet; 27 moved on; 27 work 1; 47 ended early")
	vs := r.Visits()
	require.Len(t, vs, 2)
	assert.Equal(t, 27*s, vs[0].Taken())
	assert.True(t, vs[0].Held)
	assert.Equal(t, ByHand, vs[0].Ended)
	assert.Equal(t, 20*s, vs[1].Taken())
	r = tell(t, mat(), "0 began; 0 set-up 0; 10 talked on; 40 moved on; 40 work 1; 60 ended early")
	assert.True(t, r.Visits()[0].Held)
	assert.Equal(t, 40*s, r.Visits()[0].Taken())
}

func TestPlannedBesideTaken(t *testing.T) {
	r := tell(t, mat(), "0 began; 0 set-up 0; 20 moved on; 20 work 1; 50 moved on; 50 set-up 2; 60 work 3; 62 rep!; 64 rep!; 66 rep!; 68 went back; 68 set-up 2; 70 moved on; 70 work 3; 73 rep!; 76 rep!; 79 moved on; 79 set-up 4; 94 ended")
	r.Events = append(r.Events[:len(r.Events)-1], Event{At: 94 * s, Does: Note, Row: plan.Path{Section: 1, Block: 1, Row: 1}, Text: "hips"}, Event{At: 94 * s, Does: Note, Text: "warm room"}, Event{At: 94 * s, Does: Ended})
	ls := r.Lines()
	require.Len(t, ls, 5)
	byKind := map[timeline.Kind][]Line{}
	for _, l := range ls {
		byKind[l.Kind] = append(byKind[l.Kind], l)
	}
	right, left := byKind[timeline.Work][0], byKind[timeline.Work][1]
	assert.Equal(t, 30*s, right.Taken)
	assert.Equal(t, AsPlanned, right.How)
	assert.Equal(t, 8, right.Reps)
	assert.Equal(t, 17*s, left.Taken, "both goes at it")
	assert.Equal(t, 5, left.Reps, "three before going back, two after")
	assert.Equal(t, Counted, left.How)
	assert.Equal(t, 12*s, byKind[timeline.Switch][0].Taken)
	assert.Equal(t, "hips", right.Note)
	assert.Equal(t, "warm room", r.Remark())
	sum := clock.Span(0)
	for _, l := range ls {
		sum += l.Taken
	}
	taken, _ := r.Taken()
	assert.Equal(t, taken, sum)
}

func TestReadingIsStrict(t *testing.T) {
	good, err := json.Marshal(tell(t, mat(), "0 began; 0 set-up 0; 12.5 rep!; 13 moved on; 13 work 1; 20 ended early"))
	require.NoError(t, err)
	r, err := Read(good)
	require.NoError(t, err)
	again, err := json.Marshal(r)
	require.NoError(t, err)
	assert.Equal(t, string(good), string(again), "writing then reading gives the same document")
	for old, c := range map[string][2]string{
		`"format":"wavekine.run/1"`:        {`"format":"wavekine.run/2"`, "$.format"},
		`"id":"0123456789"`:                {`"id":"short"`, "$.id: too short"},
		`"at":12.5`:                        {`"at":-1`, "$.events[2].at"},
		`{"at":13,"does":"moved on"}`:      {`{"at":1,"does":"moved on"}`, "before the event in front"},
		`"does":"moved on"`:                {`"does":"jumped"`, "no event of a run"},
		`"step":1`:                         {`"step":9`, "$.events[4].step"},
		`"does":"began"`:                   {`"does":"paused"`, "begins once"},
		`"kind":"switch"`:                  {`"kind":"dance"`, "$.steps[2].kind"},
		`"side":"left","kind":"work"`:      {`"side":"up","kind":"work"`, "$.steps[3].side"},
		`2026-05-14T`:                      {`2026-02-31T`, "$.started"},
		`"title":"Mat"`:                    {`"title":"Ma\u0001t"`, "$.title"},
		`"early":true`:                     {`"early":true,"extra":1`, "unknown key"},
		`{"at":13,"does":"work","step":1}`: {`{"at":13,"does":"ended"},{"at":13,"does":"work","step":1}`, "after the end"},
	} {
		bad := strings.Replace(string(good), old, c[0], 1)
		require.NotEqual(t, string(good), bad, old)
		_, err := Read([]byte(bad))
		assert.ErrorContains(t, err, c[1])
	}
}

// What landing changed is what was planned from then on: six of six is all of it, and what it left out is told from what was forgotten.
func TestLanded(t *testing.T) {
	r := tell(t, mat(), "0 began; 0 set-up 0; 20 landed; 20 work 1; 35 set-up 2; 45 work 3; 60 ended")
	r.Events[2].Text = "6 instead of 8 in Clam, both sides; leave out Rest"
	r.Events[2].Lands = []Lands{{Step: 1, S: 15 * s, Reps: 6}, {Step: 3, S: 15 * s, Reps: 6}, {Step: 4, Out: true}}
	doc, err := json.Marshal(r)
	require.NoError(t, err)
	back, err := Read(doc)
	require.NoError(t, err)
	assert.Equal(t, r.Events, back.Events)
	assert.True(t, back.Extends(r))
	back.Events[2].Lands[0].Reps = 7
	assert.False(t, back.Extends(r))
	rows := RowsOf(r.Lines())
	assert.Equal(t, "6 of 8 to land", rows[0].Left.String())
	assert.True(t, rows[0].Landed)
	assert.False(t, rows[0].Unequal())
	assert.True(t, rows[1].Landed)
	require.Len(t, r.Landings(), 1)
	for old, c := range map[string][2]string{
		`"step":3,"s":15`:                  {`"step":1,"s":15`, "stand in their order"},
		`"step":4,"out":true`:              {`"step":5,"out":true`, "$.events[2].steps[2].step"},
		`{"step":1,"s":15,"reps":6}`:       {`{"step":1,"reps":6}`, "\"s\""},
		`"text":"6 instead of 8 in Clam, `: {`"who":"ines","text":"`, "who"},
	} {
		bad := strings.Replace(string(doc), old, c[0], 1)
		require.NotEqual(t, string(doc), bad, old)
		_, err := Read([]byte(bad))
		assert.ErrorContains(t, err, c[1])
	}
}

func TestARunGrows(t *testing.T) {
	whole := tell(t, mat(), "0 began; 0 set-up 0; 9 moved on; 9 work 1; 41 ended early")
	part := tell(t, mat(), "0 began; 0 set-up 0; 9 moved on")
	other := tell(t, mat(), "0 began; 0 set-up 0; 8 moved on")
	assert.True(t, whole.Extends(part))
	assert.True(t, whole.Extends(whole))
	assert.False(t, part.Extends(whole))
	assert.False(t, whole.Extends(other), "the same class, recorded differently")
	theirs := tell(t, mat(), "0 began; 0 set-up 0; 9 moved on")
	theirs.Teacher = "tobias"
	assert.False(t, whole.Extends(theirs))
}

func TestRemembered(t *testing.T) {
	r := mat().Remember(90 * s)
	assert.True(t, r.Remembered())
	assert.True(t, r.Finished())
	taken, _ := r.Taken()
	assert.Equal(t, 90*s, taken)
	assert.Empty(t, r.Visits())
	assert.Equal(t, 80*s, r.Planned())
}

// Whatever comes, in whatever order: every second of the class is in one visit at most, nothing is negative, and
// what is claimed of repetitions is never more than was counted or planned.
func TestAnyEventsAddUp(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 14))
	kinds := []Kind{SetUp, Work, Work, Rep, Rep, More, Fewer, MovedOn, WentBack, TalkedOn, NotYet, Paused, Resumed, Level, Note, Mark, Landed, Correction}
	for range 4000 {
		m := mat()
		m.Events = []Event{{Does: Began}}
		at := clock.Span(0)
		for range r.IntN(60) {
			at += clock.Span(r.IntN(9000))
			e := Event{At: at, Does: kinds[r.IntN(len(kinds))], Hand: r.IntN(2) == 0, Level: 1}
			e.Step = r.IntN(len(m.Steps))
			if e.Does == Landed {
				e.Lands = []Lands{{Step: e.Step, S: 5 * s, Reps: r.IntN(12), Out: r.IntN(3) == 0}}
			}
			m.Events = append(m.Events, e)
		}
		if r.IntN(2) == 0 {
			m.Events = append(m.Events, Event{At: at, Does: Ended})
		}
		sum := clock.Span(0)
		for _, v := range m.Visits() {
			require.GreaterOrEqual(t, v.Taken(), clock.Span(0))
			sum += v.Taken()
			n, how := m.Reps(&v)
			require.GreaterOrEqual(t, n, 0)
			if how == AsPlanned {
				require.LessOrEqual(t, n, max(0, v.Count+v.More))
			}
		}
		taken, paused := m.Taken()
		require.LessOrEqual(t, sum, taken, "%v", m.Events)
		require.Equal(t, at, taken+paused)
	}
}

// The steps of a run are those of the timeline, and beside each what it would be at the product's own pace.
func TestStepsOfATimeline(t *testing.T) {
	lib := movement.Shipped()
	p, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"bird-dog","dose":"8 each side"},{"rest":"20 s"}]}]}]}`), lib)
	require.NoError(t, err)
	usual, err := timeline.Build(p, lib)
	require.NoError(t, err)
	slow, err := timeline.Build(p, lib.At(movement.Personal{Tempo: 1.5, Talk: 2, Changes: .5}))
	require.NoError(t, err)
	for _, st := range StepsOf(slow, usual) {
		switch {
		case st.Kind == timeline.Rest:
			assert.Equal(t, st.Usual, st.S)
			assert.Empty(t, st.Movement)
		case st.Kind == timeline.Setup:
			assert.Equal(t, 2*st.Usual, st.S)
		case st.Kind == timeline.Work:
			assert.Equal(t, st.Usual*3/2, st.S)
			assert.Equal(t, 8, st.Reps)
			assert.Equal(t, "bird-dog", st.Movement)
		default:
			assert.Equal(t, st.Usual/2, st.S, st.Kind)
		}
	}
}

// Movements done as one bear the names of all of them: however many, the run of a class with them can be read again.
func TestLongNamesAreCutOff(t *testing.T) {
	m := &movement.Movement{Slug: "kiln-stoop", Name: strings.Repeat("Kilnstöop + ", 40)}
	tl := &timeline.Timeline{Steps: []timeline.Step{{Row: plan.Path{Section: 1, Block: 1, Row: 1}, Move: m, S: s}}}
	r := mat().Remember(90 * s)
	r.Steps = StepsOf(tl, tl)
	doc, err := json.Marshal(r)
	require.NoError(t, err)
	back, err := Read(doc)
	require.NoError(t, err)
	assert.Len(t, []rune(back.Steps[0].Name), maxName)
}

func FuzzRead(f *testing.F) {
	good, _ := json.Marshal(mat().Remember(90 * s))
	f.Add(good)
	f.Add([]byte(`{"format":"wavekine.run/1"`))
	f.Fuzz(func(t *testing.T, text []byte) {
		r, err := Read(text)
		if err != nil {
			return
		}
		r.Visits()
		r.Lines()
		doc, err := json.Marshal(r)
		require.NoError(t, err)
		back, err := Read(doc)
		require.NoError(t, err, "%s", doc)
		again, err := json.Marshal(back)
		require.NoError(t, err)
		require.Equal(t, string(doc), string(again))
	})
}
