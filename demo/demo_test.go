package demo

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	over "wavekine/core/series"
	"wavekine/core/timeline"
	"wavekine/store/storetest"
)

// The scenario: six sessions in different schools, one of them unequal on purpose, the others sound.
func TestSessionsOfTheDemo(t *testing.T) {
	schools := map[plan.Rule]bool{}
	for _, n := range names {
		s, err := Session(n)
		require.NoError(t, err, n)
		tl, err := timeline.Build(s, movement.Shipped())
		require.NoError(t, err)
		s.Each(func(_ plan.Path, b *plan.Block, _ *plan.Row) { schools[b.Rule] = true })
		stops := map[string]bool{}
		found, err := review.Check(t.Context(), s, tl, movement.Shipped(), review.Limits{})
		require.NoError(t, err)
		for _, f := range found {
			if f.Severity == review.Stop {
				stops[f.Rule] = true
			}
			assert.NotEqual(t, "length", f.Rule, "%s keeps its promise: %s", n, f.Detail)
		}
		if n == "wheel-side-hips" {
			assert.True(t, stops["sides"], "unequal on purpose")
			assert.True(t, stops["head-up"])
		} else {
			assert.Empty(t, stops, n)
		}
	}
	assert.Len(t, schools, 3, "straight, chains and rounds")
}

func TestLoadedOnce(t *testing.T) {
	st := storetest.New(t)
	ctx := context.Background()
	now := time.Date(2026, 5, 14, 23, 30, 0, 0, time.UTC) // the 15th in Lisbon
	hash := func(string) string { return "x" }
	made, err := Load(ctx, st, now, hash)
	require.NoError(t, err)
	assert.True(t, made)
	made, err = Load(ctx, st, now, hash)
	require.NoError(t, err)
	assert.False(t, made, "a studio that is there is left alone")
	ts, err := st.Teachers(ctx, "claybank")
	require.NoError(t, err)
	assert.Len(t, ts, 2)
	ms, err := st.Movers(ctx, "claybank")
	require.NoError(t, err)
	assert.Len(t, ms, 7)
	runs, err := st.Runs(ctx, "claybank", 10)
	require.NoError(t, err)
	assert.Len(t, runs, 4)
	d, err := st.Series.Get(ctx, "claybank", "off-the-wheel")
	require.NoError(t, err)
	s, err := plan.ReadSeries(d.Doc, movement.Shipped())
	require.NoError(t, err)
	assert.Len(t, s.Days, 12)
	assert.Equal(t, "2026-05-11", s.Start.Format(time.DateOnly), "the fifth day is today, where the studio is")
	for id, n := range map[string]int{"clay-hands": 12, "four-weeks": 28, "seven-holds": 7} {
		d, err := st.Series.Get(ctx, "claybank", id)
		require.NoError(t, err)
		s, err := plan.ReadSeries(d.Doc, movement.Shipped())
		require.NoError(t, err)
		assert.Len(t, s.Days, n)
		if id != "clay-hands" { // which some are in the midst of
			assert.Equal(t, time.Monday, s.Start.Weekday())
		}
		found, err := over.Over(s, movement.Shipped(), nil)
		require.NoError(t, err)
		assert.LessOrEqual(t, len(found), 3, "%s: %v", id, found)
	}
	groups, err := st.Groups(ctx, "claybank")
	require.NoError(t, err)
	assert.Len(t, groups, 4)
}
