package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestHeadUpTooLong(t *testing.T) {
	s := read(t, rows("hundred level 2 10 breaths, 5 in 5 out", "single leg stretch level 2 10 pairs", "double leg stretch level 3 8", "scissors level 2 10 pairs"), "")
	f := one(t, s, "head-up")
	assert.Equal(t, Stop, f.Severity)
	assert.Equal(t, "2:30", f.Limit)
	assert.Equal(t, "The hundred to Scissors. House limit 2:30.", f.Detail)
	// 55 + 15 + 40 + 15 + 36 + 15 + 40 s from the first lift to the last
	assert.Equal(t, "3:36", f.Measured)
	assert.Equal(t, "Rest head 15 s after Single leg stretch", f.Mends[0].Says)
	// a rest in between keeps it below
	rested := read(t, rows("hundred level 2 10 breaths, 5 in 5 out", "rest 15", "single leg stretch level 2 10 pairs", "double leg stretch level 3 8"), "")
	assert.Empty(t, of(check(t, rested), "head-up"))
}
