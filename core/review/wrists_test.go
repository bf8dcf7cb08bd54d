package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestWristsTooLong(t *testing.T) {
	s := read(t, rows("bird dog level 2 12 each side", "rainbow leg 12 each side", "full plank level 2 hold 50 s"), "")
	f := one(t, s, "wrists")
	assert.Contains(t, f.Says, "Hands bearing for")
	broken := read(t, rows("bird dog level 2 10 each side", "child's pose 3 breaths", "rainbow leg 8 each side"), "")
	assert.Empty(t, of(check(t, broken), "wrists"))
}
