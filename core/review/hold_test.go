package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestStretchHolds(t *testing.T) {
	f := one(t, read(t, rows("calf stretch hold 5 s each side"), ""), "hold")
	assert.Equal(t, "10 s to 60 s", f.Limit)
	assert.Empty(t, of(check(t, read(t, rows("calf stretch hold 30 s each side", "hip flexor stretch hold 2 min each side"), "")), "hold"), "long holds are meant so")
}
