package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestKitThatComesLate(t *testing.T) {
	late := []string{"squat 20", "lunge 12 each side", "clam 12 each side", "hamstring strap level 2 30 s each side"}
	s := read(t, rows(late...), "")
	f := one(t, s, "kit-late")
	assert.Contains(t, f.Says, "The strap is needed at")
	c, err := f.Mends[0].Apply(s)
	require.NoError(t, err)
	assert.Equal(t, "Have ready: strap.", c.Note)
	assert.Empty(t, of(check(t, c), "kit-late"))
	s.Sections[0].Blocks[0].Rows[0].Note = "lay a strap beside you"
	assert.Empty(t, of(check(t, s), "kit-late"))
	for _, rs := range [][]string{
		{late[3], late[0], late[1]},                                           // at the start
		{late[0], late[1], late[2], "calf stretch 30 s each side"},            // a wall is there
		{late[0], late[1], late[2], "hamstring strap level 1 30 s each side"}, // the level needs none
		{late[0], late[1], late[2], "rest 20 s fetch the strap", late[3]},
	} {
		assert.Empty(t, of(check(t, read(t, rows(rs...), "")), "kit-late"), rs)
	}
}
