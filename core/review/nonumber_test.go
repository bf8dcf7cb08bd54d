package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestNoNumberSaid(t *testing.T) {
	s := read(t, rows("bridge", "clam 8 each side", "child's pose", "swan"), "")
	f := one(t, s, "no-number")
	assert.Equal(t, "No number said for 2 rows", f.Says, "a rest needs none")
	c, err := f.Mends[0].Apply(s)
	require.NoError(t, err)
	assert.Empty(t, of(check(t, c), "no-number"))
	now, err := (&look{s: s, lib: lib}).anew(c)
	require.NoError(t, err)
	was, err := (&look{s: s, lib: lib}).anew(s)
	require.NoError(t, err)
	assert.Equal(t, was.tl.Total, now.tl.Total, "saying the usual numbers changes nothing")
	assert.Empty(t, of(check(t, read(t, `{"rule":"rounds","on":"40 s","off":"20 s","rows":[{"movement":"squat"}]}`, "")), "no-number"), "the clock counts")
}
