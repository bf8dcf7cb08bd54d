package solve

import (
	"encoding/json"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/plan/made"
	"wavekine/core/timeline"
)

// A class cut short has rows of the class, each as it was and in their order, is not longer than asked, and what was left out is said; locked rows stay.
func TestCutTo(t *testing.T) {
	lib := movement.Shipped()
	r := rand.New(rand.NewPCG(3, 27))
	cut, none := 0, 0
	n := 300
	if testing.Short() {
		n = 30
	}
	for range n {
		s, err := plan.ReadSession(made.Session(r, lib), lib)
		require.NoError(t, err)
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		if tl.Total == 0 {
			continue
		}
		to := tl.Total.Times(.2 + r.Float64())
		c, err := CutTo(t.Context(), s, lib, to)
		if err != nil {
			none++
			assert.ErrorIs(t, err, errNothingFits)
			continue
		}
		cut++
		now, err := timeline.Build(c.Session, lib)
		require.NoError(t, err)
		assert.Equal(t, c.Total, now.Total)
		assert.LessOrEqual(t, now.Total, max(to, 0))
		_, err = plan.Seal(c.Session, lib)
		require.NoError(t, err)
		said := func(s *plan.Session) (out []string, locked int) {
			s.Each(func(_ plan.Path, _ *plan.Block, row *plan.Row) {
				n := *row
				n.ByRound = nil // fewer rounds have fewer changes
				b, err := json.Marshal(n)
				require.NoError(t, err)
				out = append(out, string(b))
				if row.Locked {
					locked++
				}
			})
			return out, locked
		}
		was, wasLocked := said(s)
		is, isLocked := said(c.Session)
		assert.Equal(t, wasLocked, isLocked)
		k := 0
		for _, row := range was {
			if k < len(is) && is[k] == row {
				k++
			}
		}
		require.Equal(t, len(is), k, "rows of the class in their order")
		assert.Equal(t, len(is) < len(was) || len(c.Dropped) > 0, len(c.Dropped) > 0)
	}
	assert.Greater(t, cut, n/4)
	t.Logf("%d cut, %d too long in what is locked", cut, none)
}

// If you have time for one thing: of a class about the hips the hips stay; a round is left out before a circuit is.
func TestOneThing(t *testing.T) {
	lib := movement.Shipped()
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","focus":["hips"],"sections":[{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"cat-cow","dose":"5 reps"},{"movement":"swan","dose":"5 reps"},{"movement":"half-pigeon","dose":"hold 60 s each side"}]},
		{"rule":"rounds","rounds":3,"on":"40 s","off":"20 s","rows":[{"movement":"squat"},{"movement":"lunge"}]}]}]}`), lib)
	require.NoError(t, err)
	c, err := CutTo(t.Context(), s, lib, 10*clock.Minute)
	require.NoError(t, err)
	assert.Equal(t, []string{"Cat and cow", "Swan lift"}, c.Dropped)
	one, err := CutTo(t.Context(), s, lib, 4*clock.Minute)
	require.NoError(t, err)
	assert.Equal(t, "One row stays as it is, 3:05 in all. Left out: Cat and cow, Swan lift, Squat and what goes with it.", one.Says())
	s.Sections[0].Blocks = s.Sections[0].Blocks[1:]
	round, err := CutTo(t.Context(), s, lib, 5*clock.Minute)
	require.NoError(t, err)
	assert.Equal(t, []string{"1 of 3 rounds with Squat and what goes with it"}, round.Dropped)
	_, err = CutTo(t.Context(), s, lib, 20*clock.Second)
	assert.ErrorIs(t, err, errNothingFits)
}
