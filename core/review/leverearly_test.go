package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestLeverBeforeCore(t *testing.T) {
	f := one(t, read(t, rows("cat cow 12", "mermaid 4 each side", "double leg lower level 2 6"), ""), "lever-early")
	assert.Equal(t, "0:00", f.Measured)
	assert.Empty(t, of(check(t, read(t, rows("cat cow 10", "pelvic tilt 8", "double leg lower level 2 6"), "")), "lever-early"))
}
