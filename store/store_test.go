package store_test

import (
	"context"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/store"
	"wavekine/store/storetest"
)

var ctx = context.Background()

func studio(t *testing.T, st *store.Store, id string) {
	t.Helper()
	require.NoError(t, st.CreateStudio(ctx, store.Studio{ID: id, Name: "S", Zone: "UTC"}, store.Teacher{ID: "t" + id, Email: id + "@example.org", Name: "T", PasswordHash: "x"}))
}

func change(n int) store.Change {
	return store.Change{Title: fmt.Sprint("v", n), Doc: []byte(fmt.Sprintf(`{"n":%d}`, n)), Says: fmt.Sprint("edit ", n), By: "ta", Rows: []store.Row{{"squat", 1, "8 reps"}, {"lunge", n, "8"}}}
}

func TestRevisionsUndoAndRedo(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	require.NoError(t, st.CreatePlan(ctx, "a", "p", change(1)))
	for n := 2; n <= 3; n++ {
		rev, err := st.SavePlan(ctx, "a", "p", n-1, change(n))
		require.NoError(t, err)
		assert.Equal(t, n, rev)
	}
	step := func(find func(context.Context, string, string) (store.Step, error)) string {
		d, err := st.Plan(ctx, "a", "p")
		require.NoError(t, err)
		s, err := find(ctx, "a", "p")
		if err != nil {
			require.ErrorIs(t, err, store.ErrNotFound)
			return "none"
		}
		_, err = st.StepPlan(ctx, "a", "p", d.Rev, s, store.Change{Title: d.Title, Doc: s.Doc, Says: "step", By: "ta"})
		require.NoError(t, err)
		return string(s.Doc)
	}
	assert.Equal(t, `{"n": 2}`, step(st.UndoStep))
	assert.Equal(t, `{"n": 1}`, step(st.UndoStep))
	assert.Equal(t, "none", step(st.UndoStep))
	assert.Equal(t, `{"n": 2}`, step(st.RedoStep))
	d, err := st.Plan(ctx, "a", "p")
	require.NoError(t, err)
	_, err = st.SavePlan(ctx, "a", "p", d.Rev, change(4)) // a new edit from state 2
	require.NoError(t, err)
	assert.Equal(t, "none", step(st.RedoStep), "nothing has been undone since")
	assert.Equal(t, `{"n": 2}`, step(st.UndoStep))
	assert.Equal(t, `{"n": 4}`, step(st.RedoStep), "redo follows the newest branch")
	h, err := st.PlanHistory(ctx, "a", "p", 50)
	require.NoError(t, err)
	assert.Len(t, h, 9, "the history is never shortened")
	uses, err := st.UsesOf(ctx, "a", "lunge", 5)
	require.NoError(t, err)
	assert.Empty(t, uses, "the rows follow the document in force")
}

func TestTwoTeachersNeverLoseAChangeSilently(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	require.NoError(t, st.CreatePlan(ctx, "a", "p", change(1)))
	var wg sync.WaitGroup
	var mu sync.Mutex
	saved, refused := 0, 0
	for n := range 20 {
		wg.Go(func() {
			_, err := st.SavePlan(ctx, "a", "p", 1, change(n+2))
			mu.Lock()
			defer mu.Unlock()
			var c *store.Conflict
			if err == nil {
				saved++
			} else if assert.ErrorAs(t, err, &c) {
				refused++
			}
		})
	}
	wg.Wait()
	assert.Equal(t, 1, saved)
	assert.Equal(t, 19, refused)
}

func TestStudiosAreApart(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	studio(t, st, "b")
	require.NoError(t, st.CreatePlan(ctx, "a", "p", change(1)))
	_, err := st.Plan(ctx, "b", "p")
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = st.SavePlan(ctx, "b", "p", 1, change(2))
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, st.ArchivePlan(ctx, "b", "p"), store.ErrNotFound)
	ds, err := st.Plans(ctx, "b")
	require.NoError(t, err)
	assert.Empty(t, ds)
	assert.ErrorIs(t, st.CreateStudio(ctx, store.Studio{ID: "c", Name: "C"}, store.Teacher{ID: "x", Email: "A@EXAMPLE.ORG", Name: "X", PasswordHash: "x"}), store.ErrTaken)
	assert.ErrorIs(t, st.CreateFirst(ctx, store.Studio{ID: "d", Name: "D"}, store.Teacher{ID: "x", Email: "d@example.org", Name: "X", PasswordHash: "x"}), store.ErrTaken)
}

func TestRunSentTwiceIsOne(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	r := store.Run{StudioID: "a", ID: "r1", PlanID: "p", PlanRev: 1, Title: "T", TeacherID: "ta", StartedAt: time.Now(), PlannedMS: 1000, TakenMS: 500, Rows: []store.RunRow{{Place: "1.1.1", Name: "Squat", Side: "both", Kind: "work", PlannedMS: 900, TakenMS: 500}}}
	require.NoError(t, st.SaveRun(ctx, r))
	late := r
	r.TakenMS, r.Finished = 1100, true
	require.NoError(t, st.SaveRun(ctx, r))
	require.NoError(t, st.SaveRun(ctx, late), "an older state that arrives late changes nothing")
	rs, err := st.Runs(ctx, "a", 10)
	require.NoError(t, err)
	require.Len(t, rs, 1)
	assert.EqualValues(t, 1100, rs[0].TakenMS)
	got, err := st.Run(ctx, "a", "r1")
	require.NoError(t, err)
	assert.Len(t, got.Rows, 1)
	_, err = st.Run(ctx, "b", "r1")
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestNewerDataIsLeftAlone(t *testing.T) {
	st := storetest.New(t)
	_, err := st.Migrate(ctx)
	require.NoError(t, err, "again does nothing")
	_, err = st.DB.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (99999, true)`)
	require.NoError(t, err)
	_, err = st.Migrate(ctx)
	assert.ErrorIs(t, err, store.ErrNewer)
}
