package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestForwardWithoutBack(t *testing.T) {
	f := one(t, read(t, rows("hundred level 2", "roll-up level 3 5", "double leg stretch level 3 8"), ""), "forward")
	assert.Equal(t, "Add shoulder bridge after Double leg stretch", f.Mends[0].Says)
	assert.Empty(t, of(check(t, read(t, rows("hundred level 2", "roll-up level 3 5", "swan 5"), "")), "forward"))
}
