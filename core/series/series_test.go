package series

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

func TestLoadIsEffortTimesMinutes(t *testing.T) {
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[
		{"movement":{"name":"X","posture":"supine","sides":"both","seconds_per_rep":6,"effort":5},"dose":"20 reps"}]}]}]}`), movement.Shipped())
	require.NoError(t, err)
	tl, err := timeline.Build(s, movement.Shipped())
	require.NoError(t, err)
	assert.InDelta(t, 5*2, Load(tl), 1e-9, "effort 5 for two minutes")
}

func TestShapes(t *testing.T) {
	loads := []float64{50, 50, 0, 50, 50, 50, 50}
	for _, shape := range plan.Shapes() {
		target := Target(shape, loads)
		if shape == "" {
			assert.Nil(t, target)
			continue
		}
		sum := 0.0
		for _, v := range target {
			sum += v
		}
		assert.InDelta(t, 300, sum, 1e-6, shape)
		assert.Zero(t, target[2], "rest days stay rest days")
	}
	ramp := Target("ramp", loads)
	for i, v := range ramp {
		assert.LessOrEqual(t, v, ramp[5], "the peak is the last day but one, day %d", i)
	}
	assert.Less(t, ramp[6], ramp[0]*1.01, "the last day is soft")
	assert.Nil(t, Target("ramp", []float64{0, 0}))
}
