package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestHardTooEarly(t *testing.T) {
	s := read(t, rows("double leg stretch level 2 8", "criss-cross level 2 10 pairs", "teaser level 2 3"), "")
	f := one(t, s, "early")
	assert.Equal(t, Stop, f.Severity, "hard from the first row")
	calm := read(t, rows("cat cow 8", "mermaid 4 each side", "double leg stretch level 2 8", "constructive rest 8 breaths"), "")
	assert.Empty(t, of(check(t, calm), "early"))
	assumed := read(t, rows("double leg stretch level 2 8", "criss-cross level 2 10 pairs"), `"style":{"warm_up":"assumed"},`)
	assert.Empty(t, of(check(t, assumed), "early"), "it was done before")
}
