package run

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
)

// led is the small class, with the right side so much longer than planned, on a day.
func led(t *testing.T, day int, over clock.Span) *Run {
	t.Helper()
	o := int(over / s)
	r := tell(t, mat(), fmt.Sprintf("0 began; 0 set-up 0; 15 moved on; 15 work 1; %d moved on; %d set-up 2; %d work 3; %d set-up 4; %d ended", 35+o, 35+o, 45+o, 65+o, 80+o))
	r.ID, r.Started = fmt.Sprint("run-of-day-", day), time.Date(2026, 5, day, 8, 0, 0, 0, time.UTC)
	return r
}

func TestTogether(t *testing.T) {
	now := time.Date(2026, 5, 31, 8, 0, 0, 0, time.UTC)
	m := Together([]*Run{led(t, 9, 12*s), led(t, 2, 14*s)}, now)
	assert.Empty(t, m.Often, "twice is not always")
	require.Len(t, m.Promises, 1)
	m = Together([]*Run{led(t, 9, 12*s), led(t, 2, 14*s), led(t, 16, 0), led(t, 20, 10*s), mat()}, now)
	assert.Equal(t, 4, m.Classes, "what was not led to its end is no class")
	require.Len(t, m.Often, 1)
	assert.Equal(t, Often{Movement: "clam", Name: "Clam", Classes: 4, Over: 3, By: 11 * s}, m.Often[0])
	assert.Equal(t, []float64{94. / 60, 92. / 60, 80. / 60, 90. / 60}, []float64{m.Points[0].Off + 1, m.Points[1].Off + 1, m.Points[2].Off + 1, m.Points[3].Off + 1}, "in time")
	assert.True(t, m.Promises[0].Wrong)
	assert.Equal(t, 91*s, m.Promises[0].Taken)
	assert.Empty(t, m.Rested)
	m = Together([]*Run{led(t, 2, 0)}, now)
	require.Len(t, m.Rested, 1)
	assert.Equal(t, "Clam", m.Rested[0].Name)
	assert.Empty(t, Together(nil, now).Points)
	remembered := mat().Remember(90 * s)
	assert.Len(t, Together([]*Run{remembered}, now).Points, 1, "of a class that is remembered the length counts")
}
