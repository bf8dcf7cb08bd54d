package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/plan"
)

func TestLinesToMend(t *testing.T) {
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1.2","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"squat","dose":"8 reps"},{"kept":"flumox the gribble 7"}]}]}]}`), lib)
	require.NoError(t, err)
	f := one(t, s, "to-mend")
	assert.Equal(t, "To mend: flumox the gribble 7", f.Says)
	c, err := f.Mends[0].Apply(s)
	require.NoError(t, err)
	assert.Empty(t, of(check(t, c), "to-mend"))
}
