package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestNoLengthPromised(t *testing.T) {
	s := read(t, rows("bridge", "clam 8 each side", "child's pose", "swan"), "")
	f := one(t, s, "promise")
	c, err := f.Mends[0].Apply(s)
	require.NoError(t, err)
	assert.NotZero(t, c.Target)
	fs := check(t, c)
	assert.Empty(t, of(fs, "promise"))
	assert.Empty(t, of(fs, "length"))
	assert.Empty(t, of(check(t, read(t, rows("bridge 8", "clam 8 each side", "swan 5"), "")), "promise"), "only begun")
}
