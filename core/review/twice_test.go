package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestTwiceInARow(t *testing.T) {
	f := one(t, read(t, rows("squat 10", "squat 10", "lunge 8 each side"), ""), "twice")
	assert.Equal(t, "Squat twice in a row", f.Says)
	assert.Empty(t, of(check(t, read(t, rows("squat 10", "squat 8", "squat 2 x 8"), "")), "twice"))
}
