package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestSpineDirections(t *testing.T) {
	f := one(t, read(t, rows("squat 8", "cat cow 6"), `"focus":["spine in all its ranges"],`), "spine")
	assert.Equal(t, "The spine does not go to the side, nor turned", f.Says)
	assert.Empty(t, of(check(t, read(t, rows("squat 8"), `"focus":["thighs"],`)), "spine"))
}
