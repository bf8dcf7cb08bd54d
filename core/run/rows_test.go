package run

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

func TestOver(t *testing.T) {
	for _, c := range []struct {
		promised, taken clock.Span
		says            string
		far             bool
	}{
		{20 * clock.Minute, 20*clock.Minute + 30*clock.Second, "on time", false},
		{20 * clock.Minute, 20*clock.Minute + 31*clock.Second, "0:31 over", false},
		{20 * clock.Minute, 22 * clock.Minute, "2:00 over", false},
		{20 * clock.Minute, 22*clock.Minute + clock.Second, "2:01 over", true},
		{20 * clock.Minute, 19*clock.Minute + 29*clock.Second, "0:31 under", false},
		{20 * clock.Minute, 17 * clock.Minute, "3:00 under", true},
	} {
		says, far := Over(c.promised, c.taken)
		assert.Equal(t, c.says, says)
		assert.Equal(t, c.far, far, c.says)
	}
}

func TestRowsOfARun(t *testing.T) {
	p := plan.Path{Section: 1, Block: 1, Row: 1}
	s := clock.Second
	lines := []Line{
		{Row: p, Name: "Clam", Side: timeline.Right, Kind: timeline.Setup, Planned: 15 * s, Taken: 22 * s, Visited: true},
		{Row: p, Name: "Clam", Side: timeline.Right, Kind: timeline.Work, Planned: 24 * s, Taken: 24 * s, PlannedReps: 8, Reps: 8, How: Counted, Visited: true},
		{Row: p, Name: "Clam", Side: timeline.Right, Kind: timeline.Pulse, Planned: 5 * s, Taken: 5 * s, PlannedReps: 5, Reps: 5, How: AsPlanned, Visited: true, Note: "slow"},
		{Row: p, Name: "Clam", Side: timeline.Left, Kind: timeline.Work, Planned: 24 * s, Taken: 20 * s, PlannedReps: 8, Reps: 6, How: Counted, Visited: true, Shown: 2},
		{Row: plan.Path{Section: 1, Block: 1, Row: 2}, Name: "Squat", Kind: timeline.Work, Planned: 24 * s, PlannedReps: 8, How: LeftOut},
		{Row: plan.Path{Section: 1, Block: 1, Row: 3}, Name: "Plank", Kind: timeline.Hold, Planned: 40 * s, Taken: 33 * s, Visited: true, How: LeftOut},
	}
	rows := RowsOf(lines)
	assert.Len(t, rows, 3)
	clam := rows[0]
	assert.Equal(t, "13 counted", clam.Right.String(), "what was counted of a part is said of the side")
	assert.Equal(t, "6 of 8 counted", clam.Left.String())
	assert.Empty(t, clam.Both.String())
	assert.True(t, clam.Unequal())
	assert.Equal(t, "slow", clam.Note)
	assert.Equal(t, 2, clam.Shown)
	assert.Empty(t, clam.Off(), "three seconds are no word")
	assert.Equal(t, "–", rows[1].Both.String())
	assert.Equal(t, "-0:24", rows[1].Off())
	assert.Equal(t, "0:33", rows[2].Both.String())
	assert.False(t, rows[2].Unequal())
	spent := SpentOf(lines)
	assert.Equal(t, Spent{timeline.Work, 77 * s, 49 * s}, spent[0], "pulses are work")
	assert.Equal(t, Spent{timeline.Hold, 40 * s, 33 * s}, spent[1])
	left := SideLed{There: true, Met: true, Planned: 8, How: LeftOut}
	assert.Equal(t, "left out", left.String())
}
