package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheSideTheCameraDoesNotSee(t *testing.T) {
	camera := `"style":{"seen":"by a camera"},`
	s := read(t, rows("bird dog 8 each side", "clam 8 each side", "kickback 8 each side", "squat 8"), camera)
	f := one(t, s, "hidden-side")
	assert.Equal(t, "The camera does not see both sides of 2 movements", f.Says)
	c, err := f.Mends[0].Apply(s)
	require.NoError(t, err)
	assert.Empty(t, of(check(t, c), "hidden-side"))
	assert.Empty(t, of(check(t, read(t, rows("bird dog 8 each side"), "")), "hidden-side"), "people are in the room")
	s.Note = "I turn round for the second side."
	assert.Empty(t, of(check(t, s), "hidden-side"))
}
