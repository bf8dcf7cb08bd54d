package edit

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/run"
	"wavekine/core/timeline"
)

// A value that none of the named ones is prints as what it is, as time.Month(13) does; nothing panics on it.
func TestNonsenseValuesArePrinted(t *testing.T) {
	const none = 200
	for want, v := range map[string]fmt.Stringer{
		"Posture(200)": movement.Posture(none), "Sides(200)": movement.Sides(none), "Rule(200)": plan.Rule(none), "Talk(200)": plan.Talk(none),
		"Tempo(200)": plan.Tempo(none), "Severity(200)": review.Severity(none), "Kind(200)": timeline.Kind(none), "Side(200)": timeline.Side(none),
	} {
		assert.Equal(t, want, v.String())
	}
	assert.Equal(t, "Kind(200)", run.Kind(none).String())
	assert.Zero(t, movement.Posture(none).Height())
	assert.Zero(t, movement.Posture(none).WayTo(movement.Standing).Steps)
	assert.InDelta(t, 1, plan.Tempo(none).Factor(), 1e-9)
	assert.Empty(t, plan.Style{Pelvis: none}.Answer("pelvis"))
	assert.Equal(t, timeline.Side(none), timeline.Side(none).Other())
}
