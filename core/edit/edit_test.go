package edit

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Every command, as an empty form makes it, on every class of the demo and on an empty one: it does something that
// can be read again or says why not, and the class it was given is as it was.
func TestEveryCommandOnAnEmptyForm(t *testing.T) {
	lib := movement.Shipped()
	sessions := []*plan.Session{{Format: plan.SessionFormat, Title: "Empty"}}
	files, err := filepath.Glob("../../demo/sessions/*.json")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, f := range files {
		text, err := os.ReadFile(f)
		require.NoError(t, err)
		s, err := plan.ReadSession(text, lib)
		require.NoError(t, err)
		sessions = append(sessions, s)
	}
	for _, name := range SessionNames() {
		for _, s := range sessions {
			c, ok := Session(name)
			require.True(t, ok)
			before, err := s.MarshalJSON()
			require.NoError(t, err)
			ch, err := plan.Apply(s, lib, c)
			if err == nil {
				assert.NotEmpty(t, ch.Says, name)
				_, err := plan.ReadSession(ch.Sealed.Text(), lib)
				assert.NoError(t, err, name)
			} else {
				assert.NotEmpty(t, err.Error(), name)
			}
			after, err := s.MarshalJSON()
			require.NoError(t, err)
			assert.Equal(t, string(before), string(after), name)
		}
	}
	series := &plan.Series{Format: plan.SeriesFormat, Title: "S", Days: make([]plan.Day, 3)}
	series.Start, err = plan.ParseDate("2026-05-01")
	require.NoError(t, err)
	for _, name := range SeriesNames() {
		c, ok := Series(name)
		require.True(t, ok)
		if ch, err := plan.ApplySeries(series, lib, c); err == nil {
			_, err := plan.ReadSeries(ch.Sealed.Text(), lib)
			assert.NoError(t, err, name)
		}
	}
	_, ok := Session("explode")
	assert.False(t, ok)
	_, ok = Series("")
	assert.False(t, ok)
}

// Two forms never share a command.
func TestCommandsAreMadeAnew(t *testing.T) {
	a, _ := Session("dose")
	b, _ := Session("dose")
	a.(*plan.SetDose).Dose = "8 reps"
	assert.Empty(t, b.(*plan.SetDose).Dose)
}
