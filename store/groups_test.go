package store_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/group"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/store"
	"wavekine/store/storetest"
)

// A series is given to groups: each has its own dates, no studio sees another's, the second of two who change one is told, and a secret address opens its own
// calendar until it ends.
func TestGroupsOfASeries(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	studio(t, st, "b")
	ctx := t.Context()
	lib := movement.Shipped()
	sealed := func(days ...plan.Day) plan.Sealed {
		d, err := plan.SealSeries(&plan.Series{Title: "S", Start: time.Date(2027, 3, 1, 0, 0, 0, 0, time.UTC), Days: days}, lib)
		require.NoError(t, err)
		return d
	}
	require.NoError(t, st.Series.Create(ctx, "a", "s", store.Change{Doc: sealed(plan.Day{Title: "One"}, plan.Day{Title: "Two"}, plan.Day{Rest: true}), Says: "New", By: "t"}))
	g := &group.Group{Name: "Evening", Start: time.Date(2027, 3, 8, 0, 0, 0, 0, time.UTC), Time: "18:30", Zone: "Europe/Berlin"}
	assert.ErrorIs(t, st.CreateGroup(ctx, "b", "s", "g", "t", g), store.ErrNotFound, "another studio's series")
	assert.ErrorIs(t, st.CreateGroup(ctx, "a", "none", "g", "t", g), store.ErrNotFound)
	assert.Error(t, st.CreateGroup(ctx, "a", "s", "g", "t", &group.Group{Name: "No start"}))
	require.NoError(t, st.CreateGroup(ctx, "a", "s", "g", "t", g))
	morning := *g
	morning.Name, morning.Start = "Morning", g.Start.AddDate(0, 0, -3)
	require.NoError(t, st.CreateGroup(ctx, "a", "s", "h", "t", &morning))
	gs, err := st.GroupsOf(ctx, "a", "s")
	require.NoError(t, err)
	require.Len(t, gs, 2)
	assert.Equal(t, "Morning", gs[0].Group.Name)
	none, err := st.Groups(ctx, "b")
	require.NoError(t, err)
	assert.Empty(t, none)

	require.NoError(t, g.PauseFor(g.Start, g.Start.AddDate(0, 0, 2)))
	now, err := st.SaveGroup(ctx, "a", "g", 1, "t", g)
	require.NoError(t, err)
	assert.Equal(t, 2, now)
	_, err = st.SaveGroup(ctx, "a", "g", 1, "t", g)
	var c *store.Conflict
	require.ErrorAs(t, err, &c)
	assert.Equal(t, 2, c.Want)
	_, err = st.SaveGroup(ctx, "b", "g", 2, "t", g)
	assert.ErrorIs(t, err, store.ErrNotFound)
	one, err := st.GetGroup(ctx, "a", "g")
	require.NoError(t, err)
	assert.Equal(t, g.Pauses, one.Group.Pauses)
	assert.False(t, one.Address)

	first, err := st.GroupAddress(ctx, "a", "g")
	require.NoError(t, err)
	by, err := st.GroupBy(ctx, first)
	require.NoError(t, err)
	assert.Equal(t, []string{"a", "s", "g"}, []string{by.StudioID, by.SeriesID, by.ID})
	var plain int
	require.NoError(t, st.DB.GetContext(ctx, &plain, `SELECT count(*) FROM series_groups WHERE encode(token_hash, 'escape') LIKE '%' || $1 || '%' OR doc::text LIKE '%' || $1 || '%'`, first))
	assert.Zero(t, plain, "only its hash is kept")
	second, err := st.GroupAddress(ctx, "a", "g")
	require.NoError(t, err)
	_, err = st.GroupBy(ctx, first)
	assert.ErrorIs(t, err, store.ErrNotFound)
	for _, guess := range []string{"", "x", second + "x"} {
		_, err = st.GroupBy(ctx, guess)
		assert.ErrorIs(t, err, store.ErrNotFound)
	}
	require.NoError(t, st.EndGroupAddress(ctx, "a", "g"))
	_, err = st.GroupBy(ctx, second)
	assert.ErrorIs(t, err, store.ErrNotFound)

	_, err = st.Series.Save(ctx, "a", "s", 1, store.Change{Doc: sealed(plan.Day{Rest: true}), Says: "Shorter", By: "t"})
	require.NoError(t, err)
	days, err := st.ClassDays(ctx, "a", "s")
	require.NoError(t, err)
	assert.Equal(t, []int{1, 2}, days, "days that once had a class")

	third, err := st.GroupAddress(ctx, "a", "g")
	require.NoError(t, err)
	assert.ErrorIs(t, st.DeleteSeries(ctx, "a", "s"), store.ErrNotFound, "it is archived first")
	require.NoError(t, st.Series.Archive(ctx, "a", "s"))
	_, err = st.GroupBy(ctx, third)
	assert.ErrorIs(t, err, store.ErrNotFound, "an archived series has no calendar")
	gs, err = st.Groups(ctx, "a")
	require.NoError(t, err)
	assert.Empty(t, gs)
	assert.ErrorIs(t, st.DeleteSeries(ctx, "b", "s"), store.ErrNotFound)
	require.NoError(t, st.DeleteSeries(ctx, "a", "s"))
	for _, table := range []string{"series", "series_revisions", "series_groups"} {
		var n int
		require.NoError(t, st.DB.GetContext(ctx, &n, `SELECT count(*) FROM `+table))
		assert.Zero(t, n, table)
	}
	assert.ErrorIs(t, st.DeleteGroup(ctx, "a", "g"), store.ErrNotFound)
}

// A series is opened to anybody by a secret, of which only the hash is kept, until it is closed or put away.
func TestAnOpenSeries(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	studio(t, st, "b")
	ctx := t.Context()
	doc, err := plan.SealSeries(&plan.Series{Title: "S", Start: time.Date(2027, 3, 1, 0, 0, 0, 0, time.UTC), Days: []plan.Day{{Title: "One"}}}, movement.Shipped())
	require.NoError(t, err)
	require.NoError(t, st.Series.Create(ctx, "a", "s", store.Change{Doc: doc, Says: "New", By: "t"}))
	open, err := st.IsOpen(ctx, "a", "s")
	require.NoError(t, err)
	assert.False(t, open)
	_, err = st.OpenSeries(ctx, "b", "s")
	assert.ErrorIs(t, err, store.ErrNotFound, "another studio's series")
	first, err := st.OpenSeries(ctx, "a", "s")
	require.NoError(t, err)
	d, err := st.SeriesBy(ctx, first)
	require.NoError(t, err)
	assert.Equal(t, []string{"a", "s", "S"}, []string{d.StudioID, d.ID, d.Title})
	second, err := st.OpenSeries(ctx, "a", "s")
	require.NoError(t, err)
	for _, gone := range []string{first, "", "x", second + "x"} {
		_, err = st.SeriesBy(ctx, gone)
		assert.ErrorIs(t, err, store.ErrNotFound)
	}
	require.NoError(t, st.Series.Archive(ctx, "a", "s"))
	_, err = st.SeriesBy(ctx, second)
	assert.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, st.Series.Unarchive(ctx, "a", "s"))
	_, err = st.Series.Save(ctx, "a", "s", 1, store.Change{Doc: doc, Says: "Again", By: "t"})
	require.NoError(t, err)
	_, err = st.SeriesBy(ctx, second)
	require.NoError(t, err, "a change leaves it open")
	require.NoError(t, st.CloseSeries(ctx, "a", "s"))
	_, err = st.SeriesBy(ctx, second)
	assert.ErrorIs(t, err, store.ErrNotFound)
}
