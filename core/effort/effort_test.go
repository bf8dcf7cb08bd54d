package effort

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"wavekine/core/clock"
	"wavekine/core/movement"
)

func TestEffortRisesWithWorkAndFallsWithRest(t *testing.T) {
	m, _ := movement.Shipped().Get("hundred")
	other, _ := movement.Shipped().Get("wrist-rocks")
	var f Fatigue
	first := f.Work(m, 6, false, 30*clock.Second)
	second := f.Work(m, 6, false, 30*clock.Second)
	assert.Greater(t, first, 6.0)
	assert.Greater(t, second, first)
	assert.LessOrEqual(t, second, 10.0)

	rested, elsewhere := f, f
	rested.Rest(clock.Minute)
	elsewhere.Work(other, 2, false, clock.Minute)
	a, b, c := f.Work(m, 6, false, 30*clock.Second), rested.Work(m, 6, false, 30*clock.Second), elsewhere.Work(m, 6, false, 30*clock.Second)
	assert.Less(t, b, a)
	assert.InDelta(t, b, c, .001, "work elsewhere rests this region as much")
	assert.Greater(t, new(Fatigue).Work(m, 6, true, clock.Second), new(Fatigue).Work(m, 6, false, clock.Second))
}

func TestZeroDemandIsZeroEffort(t *testing.T) {
	m, _ := movement.Shipped().Get("hundred")
	assert.Zero(t, new(Fatigue).Work(m, 0, false, clock.Minute))
}
