package store_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/store"
	"wavekine/store/storetest"
)

func visit() (context.Context, *store.Visit) {
	v := &store.Visit{}
	return store.WithVisit(ctx, v), v
}

// What became of a write is said as it is: nothing before one, kept once the database says so, nothing where it refuses,
// and where nothing comes back it is not known.
func TestOutcomeOfWrites(t *testing.T) {
	direct := storetest.New(t)
	studio(t, direct, "a")
	st, way := storetest.Through(t, direct)
	v, look := visit()
	assert.Equal(t, store.Unchanged, look.Outcome())
	require.NoError(t, st.Sessions.Create(v, "a", "p", change(t, 1)))
	assert.Equal(t, store.Kept, look.Outcome())

	v, look = visit()
	_, err := st.Sessions.Save(v, "a", "p", 7, change(t, 2))
	assert.ErrorAs(t, err, new(*store.Conflict))
	assert.Equal(t, store.Unchanged, look.Outcome(), "somebody else was first")
	v, look = visit()
	assert.ErrorIs(t, st.AddTeacher(v, store.Teacher{StudioID: "a", ID: "x", Email: "A@example.org", Name: "X"}), store.ErrTaken)
	assert.Equal(t, store.Unchanged, look.Outcome(), "the server refused")
	v, look = visit()
	_, err = st.Take(v, "k", store.Limit{Burst: 1, Every: time.Hour})
	require.NoError(t, err)
	assert.Equal(t, store.Unchanged, look.Outcome(), "what is counted at the door is nothing of what was asked for")

	v, look = visit()
	way.FreezeAnswers()
	begin := time.Now()
	_, err = st.Sessions.Save(v, "a", "p", 1, change(t, 2))
	assert.Less(t, time.Since(begin), 5*time.Second)
	assert.ErrorIs(t, err, store.ErrNoAnswer)
	assert.True(t, store.NoAnswer(err))
	assert.Equal(t, store.Unsure, look.Outcome())
	d, err := direct.Sessions.Get(ctx, "a", "p")
	require.NoError(t, err)
	assert.Equal(t, 2, d.Rev, "it was kept, which nobody heard")

	begin = time.Now()
	_, err = st.Sessions.Get(v, "a", "p")
	assert.ErrorIs(t, err, store.ErrNoAnswer)
	assert.Less(t, time.Since(begin), time.Second, "a visit waits once")

	v, look = visit()
	way.Freeze()
	err = st.SaveMover(v, store.Mover{StudioID: "a", ID: "m", Name: "M", Level: 1}, "ta")
	assert.ErrorIs(t, err, store.ErrNoAnswer)
	assert.Equal(t, store.Unchanged, look.Outcome(), "of a transaction that was not committed nothing is kept")
	way.Thaw()
	require.Eventually(t, func() bool { return st.Ready(ctx) == nil }, 5*time.Second, 20*time.Millisecond, "it comes back by itself")
	ms, err := st.Movers(ctx, "a")
	require.NoError(t, err)
	assert.Empty(t, ms)

	v, look = visit()
	require.NoError(t, st.AddTeacher(v, store.Teacher{StudioID: "a", ID: "n", Email: "n@example.org", Name: "N"}))
	assert.ErrorIs(t, st.AddTeacher(v, store.Teacher{StudioID: "a", ID: "o", Email: "n@example.org", Name: "O"}), store.ErrTaken)
	assert.Equal(t, store.Partly, look.Outcome())

	back := storetest.Away(t, direct)
	v, look = visit()
	_, err = direct.Sessions.Save(v, "a", "p", 2, change(t, 3))
	assert.True(t, store.NoAnswer(err), "%v", err)
	first := look.Outcome()
	v, look = visit()
	_, err = direct.Sessions.Save(v, "a", "p", 2, change(t, 3))
	assert.True(t, store.NoAnswer(err), "%v", err)
	assert.Equal(t, store.Unchanged, look.Outcome(), "it was never sent")
	back()
	d, err = direct.Sessions.Get(ctx, "a", "p")
	require.NoError(t, err)
	if first == store.Unchanged {
		assert.Equal(t, 2, d.Rev)
	}
	assert.Equal(t, store.Unsure, (*store.Visit)(nil).Outcome(), "where nobody has looked")
}

// Somebody who holds what is to be changed is waited for shortly, and it is said that it is that.
func TestWhoeverHoldsARow(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	tx, err := st.DB.Beginx()
	require.NoError(t, err)
	_, err = tx.Exec(`SELECT FROM studios WHERE studio_id = 'a' FOR UPDATE`)
	require.NoError(t, err)
	v, look := visit()
	says := "x"
	begin := time.Now()
	_, err = st.ChangeHouse(v, "a", "ta", &says, func(s *store.Studio) error { s.Name = "Other"; return nil })
	assert.True(t, store.Held(err), "%v", err)
	assert.False(t, store.NoAnswer(err))
	assert.Less(t, time.Since(begin), 4*time.Second)
	assert.Equal(t, store.Unchanged, look.Outcome())
	require.NoError(t, tx.Rollback())
}
