package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestPositionChanges(t *testing.T) {
	f := one(t, read(t, rows("swan 5", "hundred", "swimming level 1", "bridge 6", "prone leg lift 8 each side", "heel taps"), ""), "changes")
	assert.Equal(t, "4 more changes of position than the order needs", f.Says)
	assert.Empty(t, of(check(t, read(t, rows("swan 5", "swimming", "hundred", "bridge 6"), "")), "changes"))
}
