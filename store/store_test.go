package store_test

import (
	"context"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/store"
	"wavekine/store/storetest"
)

var ctx = context.Background()

func studio(t *testing.T, st *store.Store, id string) {
	t.Helper()
	require.NoError(t, st.CreateStudio(ctx, store.Studio{ID: id, Name: "S", Zone: "UTC"}, store.Teacher{ID: "t" + id, Email: id + "@example.org", Name: "T", PasswordHash: "x"}))
}

// change is version n of a session: its lunge is at level n.
func change(t *testing.T, n int) store.Change {
	return storetest.Change(t, "ta", fmt.Sprint("edit ", n), fmt.Sprintf(`{"format":"wavekine.session/1","title":"v%d","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[
		{"movement":"squat","dose":"8 reps"},{"movement":"lunge","dose":"%d each side"}]}]}]}`, n, n))
}

// version reads which version a document is.
func version(t *testing.T, doc []byte) string {
	s, err := plan.ReadSession(doc, movement.Shipped())
	require.NoError(t, err)
	return s.Title
}

func TestRevisionsUndoAndRedo(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	require.NoError(t, st.Sessions.Create(ctx, "a", "p", change(t, 1)))
	for n := 2; n <= 3; n++ {
		rev, err := st.Sessions.Save(ctx, "a", "p", n-1, change(t, n))
		require.NoError(t, err)
		assert.Equal(t, n, rev)
	}
	step := func(find func(context.Context, string, string) (store.Step, error)) string {
		d, err := st.Sessions.Get(ctx, "a", "p")
		require.NoError(t, err)
		s, err := find(ctx, "a", "p")
		if err != nil {
			require.ErrorIs(t, err, store.ErrNotFound)
			return "none"
		}
		_, err = st.Sessions.SaveStep(ctx, "a", "p", d.Rev, s, storetest.Change(t, "ta", "step", string(s.Doc)))
		require.NoError(t, err)
		return version(t, s.Doc)
	}
	assert.Equal(t, "v2", step(st.Sessions.Undo))
	assert.Equal(t, "v1", step(st.Sessions.Undo))
	assert.Equal(t, "none", step(st.Sessions.Undo))
	assert.Equal(t, "v2", step(st.Sessions.Redo))
	d, err := st.Sessions.Get(ctx, "a", "p")
	require.NoError(t, err)
	_, err = st.Sessions.Save(ctx, "a", "p", d.Rev, change(t, 4)) // a new edit from state 2
	require.NoError(t, err)
	assert.Equal(t, "none", step(st.Sessions.Redo), "nothing has been undone since")
	assert.Equal(t, "v2", step(st.Sessions.Undo))
	assert.Equal(t, "v4", step(st.Sessions.Redo), "redo follows the newest branch")
	h, err := st.Sessions.History(ctx, "a", "p", 50)
	require.NoError(t, err)
	assert.Len(t, h, 9, "the history is never shortened")
	uses, err := st.UsesOf(ctx, "a", "lunge", 5)
	require.NoError(t, err)
	require.Len(t, uses, 1, "the rows follow the document in force")
	assert.Equal(t, "4 each side", uses[0].Dose)
}

// A series goes the same way as a session: the same tree of states, its dates with it.
func TestSeriesHaveTheSameHistory(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	start := time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC)
	days := func(n int) store.Change {
		doc, err := plan.SealSeries(&plan.Series{Format: plan.SeriesFormat, Title: fmt.Sprint("s", n), Start: start, Days: make([]plan.Day, n)}, movement.Shipped())
		require.NoError(t, err)
		return store.Change{Doc: doc, Says: fmt.Sprint(n, " days"), By: "ta"}
	}
	require.NoError(t, st.Series.Create(ctx, "a", "s", days(1)))
	_, err := st.Series.Save(ctx, "a", "s", 1, days(5))
	require.NoError(t, err)
	on, err := st.SeriesOn(ctx, "a", start.AddDate(0, 0, 4), start.AddDate(0, 0, 9))
	require.NoError(t, err)
	assert.Len(t, on, 1)
	undo, redo, err := st.Series.StepWords(ctx, "a", "s")
	require.NoError(t, err)
	assert.Equal(t, []string{"5 days", ""}, []string{undo, redo})
	step, err := st.Series.Undo(ctx, "a", "s")
	require.NoError(t, err)
	_, err = st.Series.SaveStep(ctx, "a", "s", 2, step, days(1))
	require.NoError(t, err)
	on, err = st.SeriesOn(ctx, "a", start.AddDate(0, 0, 4), start.AddDate(0, 0, 9))
	require.NoError(t, err)
	assert.Empty(t, on, "its days follow the document in force")
	undo, redo, err = st.Series.StepWords(ctx, "a", "s")
	require.NoError(t, err)
	assert.Equal(t, []string{"", "5 days"}, []string{undo, redo})
	var conflict *store.Conflict
	_, err = st.Series.Save(ctx, "a", "s", 1, days(3))
	require.ErrorAs(t, err, &conflict)
	assert.Equal(t, 3, conflict.Want)
}

func TestTwoTeachersNeverLoseAChangeSilently(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	require.NoError(t, st.Sessions.Create(ctx, "a", "p", change(t, 1)))
	var wg sync.WaitGroup
	var mu sync.Mutex
	saved, refused := 0, 0
	for n := range 20 {
		wg.Go(func() {
			_, err := st.Sessions.Save(ctx, "a", "p", 1, change(t, n+2))
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
	require.NoError(t, st.Sessions.Create(ctx, "a", "p", change(t, 1)))
	_, err := st.Sessions.Get(ctx, "b", "p")
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = st.Sessions.Save(ctx, "b", "p", 1, change(t, 2))
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, st.Sessions.Archive(ctx, "b", "p"), store.ErrNotFound)
	ds, err := st.Sessions.List(ctx, "b")
	require.NoError(t, err)
	assert.Empty(t, ds)
	assert.ErrorIs(t, st.CreateStudio(ctx, store.Studio{ID: "c", Name: "C"}, store.Teacher{ID: "x", Email: "A@EXAMPLE.ORG", Name: "X", PasswordHash: "x"}), store.ErrTaken)
	assert.ErrorIs(t, st.CreateFirst(ctx, store.Studio{ID: "d", Name: "D"}, store.Teacher{ID: "x", Email: "d@example.org", Name: "X", PasswordHash: "x"}), store.ErrTaken)
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
