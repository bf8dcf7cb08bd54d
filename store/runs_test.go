package store_test

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/run"
	"wavekine/core/timeline"
	"wavekine/store"
	"wavekine/store/storetest"
)

// led is a class of one movement that took so many seconds, as far as n events of it.
func led(id, teacher, name string, took clock.Span, n int) *run.Run {
	r := &run.Run{
		ID: id, Session: "p", Rev: 1, Title: "T", Teacher: teacher, Started: time.Date(2026, 5, 14, 8, 0, 0, 0, time.UTC),
		Steps: []run.Step{{Row: plan.Path{Section: 1, Block: 1, Row: 1}, Movement: name, Name: name, Level: 2, Kind: timeline.Work, S: 20 * clock.Second, Usual: 20 * clock.Second, Reps: 8}},
		Events: []run.Event{
			{Does: run.Began},
			{Does: run.Work},
			{At: took, Does: run.MovedOn},
			{At: took, Does: run.Ended},
		},
	}
	r.Events = r.Events[:n]
	return r
}

func TestARunGrowsAndIsNeverOverwritten(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	studio(t, st, "b")
	const id = "run-0001"
	get := func() store.Run {
		r, err := st.Run(ctx, "a", id)
		require.NoError(t, err)
		return r
	}
	require.NoError(t, st.SaveRun(ctx, "a", led(id, "ta", "squat", 18*clock.Second, 2)))
	assert.False(t, get().Finished)
	assert.Equal(t, 1, get().Rev)
	require.NoError(t, st.SaveRun(ctx, "a", led(id, "ta", "squat", 18*clock.Second, 4)))
	assert.True(t, get().Finished)
	assert.EqualValues(t, 18000, get().TakenMS)
	assert.Equal(t, 2, get().Rev, "it has grown")
	require.NoError(t, st.SaveRun(ctx, "a", led(id, "ta", "squat", 18*clock.Second, 2)), "an older state that arrives late changes nothing")
	assert.True(t, get().Finished)
	require.NoError(t, st.SaveRun(ctx, "a", led(id, "ta", "squat", 18*clock.Second, 4)), "sent twice is one")
	require.Len(t, get().Rows, 1)
	assert.Equal(t, 2, get().Rev, "nothing was added")
	assert.Equal(t, 8, get().Rows[0].Reps)
	assert.Equal(t, "planned", get().Rows[0].How)

	require.ErrorIs(t, st.SaveRun(ctx, "a", led(id, "ta", "squat", 25*clock.Second, 4)), store.ErrDiffers, "another player's")
	require.ErrorIs(t, st.SaveRun(ctx, "a", led(id, "tx", "squat", 18*clock.Second, 4)), store.ErrNotYours, "another teacher's")
	other := led(id, "ta", "squat", 18*clock.Second, 4)
	other.Session = "q"
	require.ErrorIs(t, st.SaveRun(ctx, "a", other), store.ErrNotYours)
	assert.EqualValues(t, 18000, get().TakenMS)
	assert.Equal(t, "ta", get().TeacherID)
	require.NoError(t, st.SaveRun(ctx, "b", led(id, "tb", "squat", 30*clock.Second, 4)), "another studio's has the same name by chance")
	assert.EqualValues(t, 18000, get().TakenMS)
	rs, err := st.Runs(ctx, "a", 10)
	require.NoError(t, err)
	assert.Len(t, rs, 1)
	_, err = st.Run(ctx, "b", "run-0002")
	assert.ErrorIs(t, err, store.ErrNotFound)

	bad := led("run-0003", "ta", "squat", 18*clock.Second, 4)
	bad.Title = "a\x01b"
	require.Error(t, st.SaveRun(ctx, "a", bad), "what cannot be read again is not stored")
}

func TestRunsSentAtOnce(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	var wg sync.WaitGroup
	for n := range 4 {
		for range 3 {
			wg.Go(func() { assert.NoError(t, st.SaveRun(ctx, "a", led("run-0001", "ta", "squat", 18*clock.Second, n+1))) })
		}
	}
	wg.Wait()
	r, err := st.Run(ctx, "a", "run-0001")
	require.NoError(t, err)
	assert.True(t, r.Finished, "the longest stands")
	assert.Len(t, r.Rows, 1)
}

func TestWhatRunsTeach(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	for i, c := range []struct {
		teacher, name string
		took          clock.Span
		n             int
	}{{"ta", "squat", 18 * clock.Second, 4}, {"ta", "lunge", 9 * clock.Second, 3}, {"tx", "swan", 20 * clock.Second, 4}, {"ta", "saw", 0, 1}} {
		require.NoError(t, st.SaveRun(ctx, "a", led(fmt.Sprintf("run-000%d", i), c.teacher, c.name, c.took, c.n)))
	}
	docs, err := st.LedBy(ctx, "a", "ta", 10)
	require.NoError(t, err)
	require.Len(t, docs, 1, "finished runs of this teacher")
	r, err := run.Read(docs[0])
	require.NoError(t, err)
	assert.Equal(t, "squat", r.Steps[0].Name)
	met, err := st.MetMovements(ctx, "a")
	require.NoError(t, err)
	assert.Equal(t, 4, met.Runs)
	assert.ElementsMatch(t, []string{"squat", "lunge", "swan"}, met.Names, "what was skipped was not met")
	assert.Equal(t, map[string]int{"squat": 2, "lunge": 2, "swan": 2}, met.Led, "the level that was planned, of what was done")
	met, err = st.MetMovements(ctx, "b")
	require.NoError(t, err)
	assert.Zero(t, met.Runs)
	assert.Empty(t, met.Names)
	assert.Empty(t, met.Led)
}

func TestForgettingWhatWasRemembered(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	r := led("run-0001", "ta", "squat", 0, 1).Remember(25 * clock.Second)
	require.NoError(t, st.SaveRun(ctx, "a", r))
	require.NoError(t, st.SaveRun(ctx, "a", led("run-0002", "ta", "squat", 18*clock.Second, 4)))
	assert.ErrorIs(t, st.DeleteRun(ctx, "a", "run-0001", "tx"), store.ErrNotFound, "somebody else's")
	assert.ErrorIs(t, st.DeleteRun(ctx, "a", "run-0002", "ta"), store.ErrNotFound, "what was led stays")
	require.NoError(t, st.DeleteRun(ctx, "a", "run-0001", "ta"))
}
