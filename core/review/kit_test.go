package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestKitFetchedAgain(t *testing.T) {
	f := one(t, read(t, rows("roller march level 1 10 alternating", "bridge 8", "roller arms 6"), ""), "kit")
	assert.Equal(t, "The roller is fetched again", f.Says)
}
