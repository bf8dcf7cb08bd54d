package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestClassicalOrder(t *testing.T) {
	f := one(t, read(t, rows("cat cow 8", "roll-up 5", "hundred", "teaser level 1 3"), `"style":{"order":"classical"},`), "order")
	assert.Equal(t, "The hundred comes before Roll-up in the classical order", f.Says)
	assert.Empty(t, of(check(t, read(t, rows("hundred", "roll-up 5", "cat cow 3", "teaser level 1 3"), `"style":{"order":"classical"},`)), "order"))
}
