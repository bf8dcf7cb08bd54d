package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestPeakAndItsPlace(t *testing.T) {
	last := read(t, rows("cat cow 20", "mermaid 6 each side", "bridge 12", "book opening 8 each side", "squat 10", "plank level 2 hold 45 s", "push-up level 2 8", "constructive rest 10 breaths"), "")
	f := one(t, last, "peak")
	assert.Equal(t, "The hardest part is the last", f.Says)
	early := read(t, rows("cat cow 8", "mermaid 4 each side", "push-up level 2 8", "squat 12", "bridge 12", "book opening 8 each side", "side-lying leg lift 12 each side", "mermaid 6 each side", "constructive rest 10 breaths"), "")
	f = one(t, early, "peak")
	assert.Equal(t, "The hardest part comes early", f.Says)
}
