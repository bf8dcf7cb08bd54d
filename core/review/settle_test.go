package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestNoSettling(t *testing.T) {
	one(t, read(t, rows("double leg stretch level 3 8", "criss-cross level 3 10 pairs", "teaser level 3 3"), ""), "settle")
	calm := read(t, rows("cat cow 8", "mermaid 4 each side", "double leg stretch level 3 8", "constructive rest 8 breaths"), "")
	assert.Empty(t, of(check(t, calm), "settle"))
	front := one(t, read(t, rows("cat cow 8", "swan 5", "swimming level 2", "full plank level 2 hold 40 s"), ""), "settle")
	assert.Contains(t, front.Mends[0].Says, "child's pose", "from the hands the nearest rest")
}
