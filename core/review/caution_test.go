package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
)

func TestPeopleOnTheList(t *testing.T) {
	s := read(t, rows("hundred level 2", "chest lift 8", "bridge 8"), "")
	ctx := Context{Watch: []Watched{{"Ada", []movement.Topic{movement.Neck, movement.Wrists}}}}
	fs := of(checkFor(t, s, ctx), "caution")
	require.Len(t, fs, 1, "nothing here loads the wrists")
	assert.Equal(t, "Ada watches neck", fs[0].Says)
	assert.Contains(t, fs[0].Detail, "The hundred: level 1, head down and knees over hips", "what the table of cautions says")
	assert.Contains(t, fs[0].Detail, "Chest lift: head down, or a hand behind it")
	assert.Empty(t, fs[0].Mends, "what to take instead is the teacher's to say")
	assert.Empty(t, of(check(t, s), "caution"), "nobody on the list")
}

// Somebody under treatment is asked to ask, once, not for each row.
func TestUnderTreatment(t *testing.T) {
	s := read(t, rows("hundred level 2", "chest lift 8", "bridge 8"), "")
	fs := of(checkFor(t, s, Context{Watch: []Watched{{"Ada", []movement.Topic{movement.Treated}}}}), "caution")
	require.Len(t, fs, 1)
	assert.Equal(t, "Ada: under treatment", fs[0].Says)
	assert.Contains(t, fs[0].Detail, "Ask whoever treats them")
	many := of(checkFor(t, read(t, rows("hundred level 2", "chest lift 8", "bridge 8", "clam 8", "swan 5", "bird dog 8", "roll-up 4"), ""), Context{Watch: []Watched{{"Ada", []movement.Topic{movement.NoFloor}}}}), "caution")
	require.Len(t, many, 1)
	assert.Contains(t, many[0].Detail, "and 2 more")
}

// A list that could not be read is never taken for one on which nobody watches anything.
func TestListThatCouldNotBeRead(t *testing.T) {
	fs := of(checkFor(t, read(t, rows("squat 8"), ""), Context{Unwatched: true}), "caution")
	require.Len(t, fs, 1)
	assert.Equal(t, Stop, fs[0].Severity)
	assert.Contains(t, fs[0].Detail, "does not mean that there are none")
}
