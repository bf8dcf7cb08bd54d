package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestFarFromItsName(t *testing.T) {
	for row, want := range map[string]int{
		"hundred 10 breaths": 0, "hundred 6 breaths": 0, "hundred 5 breaths": 1, "hundred 3 breaths": 1, "hundred 50 reps": 1, "hundred 2 x 5 breaths": 0, "hundred 60 s": 0, "swimming 2 breaths": 0, "teaser 1": 0,
	} {
		assert.Len(t, of(check(t, read(t, rows(row), "")), "far-dose"), want, row)
	}
	s := read(t, rows("hundred 3 breaths"), "")
	c, err := one(t, s, "far-dose").Mends[0].Apply(s)
	require.NoError(t, err)
	assert.Empty(t, of(check(t, c), "far-dose"))
}
