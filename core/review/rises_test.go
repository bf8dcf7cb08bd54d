package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestRisesFromTheFloor(t *testing.T) {
	f := one(t, read(t, rows("squat 8", "bridge 8", "lunge 8 each side", "cat cow 6", "march", "swan 4", "squat level 1 8"), ""), "rises")
	assert.Equal(t, "3 times", f.Measured)
	assert.Empty(t, of(check(t, read(t, rows("squat 8", "bridge 8", "lunge 8 each side", "cat cow 6"), "")), "rises"))
}
