package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestCircleOneWay(t *testing.T) {
	f := one(t, read(t, rows("single leg circle 10 each side"), ""), "one-way")
	assert.Equal(t, "Make it 5 each way", f.Mends[0].Says)
	assert.Empty(t, of(check(t, read(t, rows("single leg circle 5 each way each side", "single leg circle"), "")), "one-way"))
}
