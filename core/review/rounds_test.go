package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/plan"
)

func TestARoundThatChanges(t *testing.T) {
	round := func(want int, says string, rs ...string) *plan.Session {
		t.Helper()
		s := read(t, rows(rs...), "")
		fs := of(check(t, s), "round")
		require.Len(t, fs, want, "%s: %v", says, rs)
		for _, f := range fs {
			require.NotEmpty(t, f.Mends)
			c, err := f.Mends[0].Apply(s)
			require.NoError(t, err)
			assert.Empty(t, of(check(t, c), "round"), says)
		}
		return s
	}
	a := []string{"squat 10", "bridge 10", "clam 12 each side", "bird dog 8 each side"}
	round(0, "the same again", append(a, a...)...)
	round(1, "dropped", append(a, a[0], a[1], a[3])...)
	round(1, "another number", append(a, a[0], "bridge 8", a[2], a[3])...)
	round(1, "another level", append(a, a[0], a[1], "clam level 2 12 each side", a[3])...)
	round(0, "harder all through: meant so", append(a, "squat level 2 10", "bridge level 3 10", "clam level 2 12 each side", "bird dog level 3 8 each side")...)
	round(0, "another class altogether", append(a, a[0], "heel taps 10 alternating", "swan 5", "cat cow 6")...)
	round(0, "no round at all", a...)
	s := round(1, "dropped", append(a, a[0], a[1], a[3])...)
	s.Sections[0].Blocks[0].Rows[5].Note = "this time without the clam"
	assert.Empty(t, of(check(t, s), "round"), "said")
}
