package solve

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// A gentle class on the hips goes before a hard one on them and stretches after it; one on the arms alone, or with a roller, goes with it less.
func TestGoesWith(t *testing.T) {
	lib := movement.Shipped()
	of := func(title string, lines ...string) *plan.Session {
		s := &plan.Session{Format: plan.SessionFormat, Title: title, Sections: []plan.Section{{Title: "A"}}}
		for _, l := range lines {
			r, err := plan.Line(l, lib)
			require.NoError(t, err)
			_, err = s.Add(plan.Path{}, r)
			require.NoError(t, err)
		}
		return s
	}
	hard := of("Hips", "squat 12", "bridge 10", "clam 12 each side", "lunge 8 each side")
	before, after := GoesWith(hard, []*plan.Session{
		of("Soft hips", "half pigeon 60 s each side", "knees to chest 60 s", "constructive rest 5 breaths"), of("Loosen", "cat cow 8", "knee sway 8", "pelvic tilt 8"), of("Rollers", "roller march 10", "cat cow 8"),
		of("More hips", "squat 10", "clam 10 each side"), of("Hips", "squat 3"), of("Nothing"),
	}, lib)
	require.NotEmpty(t, before)
	assert.Equal(t, "Loosen", before[0].Title)
	require.NotEmpty(t, after)
	assert.Equal(t, "Soft hips", after[0].Title)
	assert.NotEmpty(t, after[0].Shares)
	tl, err := timeline.Build(hard, lib)
	require.NoError(t, err)
	assert.Less(t, after[0].Joint, tl.Total+after[0].Total, "opened once")
	assert.Greater(t, after[0].Joint, tl.Total)
}
