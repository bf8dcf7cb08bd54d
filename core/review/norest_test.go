package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestNoRest(t *testing.T) {
	long := read(t, rows("squat 60", "lunge 40 each side", "hip hinge 30"), `"pace":{"talk":"flowing","tempo":"even"},`)
	f := one(t, long, "no-rest")
	assert.Equal(t, "6:00", f.Limit)
	assert.Empty(t, of(check(t, read(t, rows("squat 20", "rest 20", "lunge 12 each side"), "")), "no-rest"))
}
