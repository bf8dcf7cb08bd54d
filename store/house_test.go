package store_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/store"
	"wavekine/store/storetest"
)

// Sixty who change the settings at the same moment: each builds on the one before, none that was acknowledged is lost,
// and the history tells all of them.
func TestNoChangeOfTheHouseIsLost(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	var wg sync.WaitGroup
	var kept atomic.Int32
	for n := range 60 {
		wg.Go(func() {
			says := fmt.Sprint("aside ", n)
			_, err := st.ChangeHouse(ctx, "a", "ta", &says, func(s *store.Studio) error {
				var h struct {
					List []int `json:"list"`
				}
				if err := json.Unmarshal(s.House, &h); err != nil {
					return err
				}
				h.List = append(h.List, n)
				var err error
				s.House, err = json.Marshal(h)
				return err
			})
			if assert.NoError(t, err) {
				kept.Add(1)
			}
		})
	}
	wg.Wait()
	assert.EqualValues(t, 60, kept.Load())
	h, err := st.HouseHistory(ctx, "a", 100)
	require.NoError(t, err)
	require.Len(t, h, 61)
	assert.Equal(t, 61, h[0].Rev)
	assert.Equal(t, "T", h[0].By)
	var now struct {
		List []int `json:"list"`
	}
	require.NoError(t, json.Unmarshal(h[0].House, &now))
	slices.Sort(now.List)
	require.Len(t, now.List, 60)
	for n, x := range now.List {
		assert.Equal(t, n, x)
	}
	was, err := st.HouseAt(ctx, "a", 1)
	require.NoError(t, err)
	assert.JSONEq(t, `{}`, string(was.House))
	_, err = st.HouseAt(ctx, "a", 99)
	assert.ErrorIs(t, err, store.ErrNotFound)

	says, boom := "x", fmt.Errorf("no")
	_, err = st.ChangeHouse(ctx, "a", "ta", &says, func(s *store.Studio) error { s.Name = "lost"; return boom })
	assert.ErrorIs(t, err, boom)
	h, err = st.HouseHistory(ctx, "a", 1)
	require.NoError(t, err)
	assert.Equal(t, "S", h[0].Name, "what is refused changes nothing")
}

// A person that two change at once: the second hears of the first. With the person goes all that was kept of them.
func TestMoversHaveRevisions(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	m := store.Mover{StudioID: "a", ID: "m", Name: "Wren", Level: 1}
	require.NoError(t, st.SaveMover(ctx, m, "ta"))
	assert.ErrorIs(t, st.SaveMover(ctx, m, "ta"), store.ErrTaken)
	m.Rev, m.Watch = 1, "neck"
	require.NoError(t, st.SaveMover(ctx, m, "ta"))
	m.Watch = "wrists"
	var conflict *store.Conflict
	require.ErrorAs(t, st.SaveMover(ctx, m, "ta"), &conflict)
	assert.Equal(t, store.Conflict{Have: 1, Want: 2}, *conflict)
	assert.ErrorAs(t, st.DeleteMover(ctx, "a", "m", 1), &conflict)
	past, err := st.MoverSince(ctx, "a", "m", 1)
	require.NoError(t, err)
	require.Len(t, past, 2)
	assert.Equal(t, "neck", past[0].Watch)
	assert.Equal(t, "T", past[0].By)
	require.NoError(t, st.DeleteMover(ctx, "a", "m", 2))
	assert.ErrorIs(t, st.DeleteMover(ctx, "a", "m", 2), store.ErrNotFound)
	m.Rev = 2
	assert.ErrorIs(t, st.SaveMover(ctx, m, "ta"), store.ErrNotFound)
	var n int
	require.NoError(t, st.DB.Get(&n, `SELECT count(*) FROM mover_revisions`))
	assert.Zero(t, n, "nothing of them stays")
}

// What was archived comes back as it was, and archiving twice is said.
func TestArchivedComesBack(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	require.NoError(t, st.Sessions.Create(ctx, "a", "p", change(t, 1)))
	require.NoError(t, st.Sessions.Archive(ctx, "a", "p"))
	assert.ErrorIs(t, st.Sessions.Archive(ctx, "a", "p"), store.ErrNotFound)
	list, err := st.Sessions.List(ctx, "a")
	require.NoError(t, err)
	assert.Empty(t, list)
	away, err := st.Sessions.Archived(ctx, "a")
	require.NoError(t, err)
	require.Len(t, away, 1)
	assert.ErrorIs(t, st.Sessions.Unarchive(ctx, "b", "p"), store.ErrNotFound, "another studio's")
	require.NoError(t, st.Sessions.Unarchive(ctx, "a", "p"))
	assert.ErrorIs(t, st.Sessions.Unarchive(ctx, "a", "p"), store.ErrNotFound)
	list, err = st.Sessions.List(ctx, "a")
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, 1, list[0].Rev)
}
