package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestNewMovements(t *testing.T) {
	many := read(t, rows("squat 8", "lunge 8 each side", "hip hinge 8", "march", "cat cow 6", "bird dog 6 each side", "bridge 8", "swan 4", "mermaid 3 each side"), "")
	none := Context{Met: map[string]bool{"Nothing": true}}
	fs := of(checkFor(t, many, none), "new")
	require.Len(t, fs, 1)
	assert.Equal(t, "9 movements", fs[0].Measured)
	c, err := fs[0].Mends[0].Apply(many)
	require.NoError(t, err)
	assert.Empty(t, of(checkFor(t, c, none), "new"))
	met := Context{Met: map[string]bool{"Squat": true}}
	assert.Empty(t, of(checkFor(t, many, met), "new"), "eight at most")
	assert.Empty(t, of(check(t, many), "new"), "not known what they have met")
}
