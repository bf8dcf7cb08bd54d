package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestPromisedLength(t *testing.T) {
	f := one(t, read(t, rows("squat 30", "lunge 24 each side", "side-lying leg lift 36 each side"), `"target":"9:00",`), "length")
	assert.Contains(t, f.Says, "Over by")
	assert.Len(t, f.Mends, 2)
	f = one(t, read(t, rows("squat 10", "lunge 8 each side"), `"target":"6:00",`), "length")
	assert.Contains(t, f.Says, "Under by")
	f = one(t, read(t, rows("squat 10"), `"target":"30:00",`), "length")
	assert.Len(t, f.Mends, 1, "counts alone cannot fill half an hour")
	assert.Empty(t, of(check(t, read(t, rows("squat 10"), "")), "length"), "nothing promised")
}
