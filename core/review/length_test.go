package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

func TestPromisedLength(t *testing.T) {
	f := one(t, read(t, rows("squat 30", "lunge 24 each side", "side-lying leg lift 36 each side"), `"target":"9:00",`), "length")
	assert.Contains(t, f.Says, "Over by")
	assert.Len(t, f.Mends, 2)
	f = one(t, read(t, rows("squat 10", "lunge 8 each side"), `"target":"6:00",`), "length")
	assert.Contains(t, f.Says, "Under by")
	f = one(t, read(t, rows("squat 10"), `"target":"30:00",`), "length")
	assert.Len(t, f.Mends, 1, "counts alone cannot fill half an hour")
	assert.Empty(t, of(check(t, read(t, rows("squat 10"), "")), "length"), "nothing promised")
}

// A length that counts the whole class is that of what is moved and what is said at its ends: the finding and both ways out go by it.
func TestTheLengthOfTheWholeClass(t *testing.T) {
	for _, counts := range []string{"moving", "whole"} {
		s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1.3","title":"T","target":"6:00","counts":"`+counts+`","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"squat","dose":"20 reps"},{"movement":"bird-dog","dose":"12 each side"},{"movement":"bridge","dose":"20 reps"},{"movement":"constructive-rest","dose":"60 s"}]}]}]}`), lib)
		require.NoError(t, err)
		s.Target = 3 * clock.Minute
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		fs, err := Check(t.Context(), s, tl, lib, Limits{})
		require.NoError(t, err)
		found := false
		for _, f := range fs {
			if f.Rule != "length" {
				continue
			}
			found = true
			assert.Equal(t, (tl.Total - s.ToMove()).Seconds(), f.Amount)
			for _, m := range f.Mends {
				if m.ID != "length-promise" {
					continue
				}
				c := s.Clone()
				require.NoError(t, m.apply(c))
				assert.InDelta(t, tl.Total.Seconds(), c.ToMove().Seconds(), 15, counts)
				assert.Contains(t, m.Says, c.Target.String())
			}
		}
		assert.True(t, found, counts)
	}
}
