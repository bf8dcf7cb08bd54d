package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestKitFetchedAgain(t *testing.T) {
	f := one(t, read(t, rows("roller march level 1 10 alternating", "bridge 8", "roller arms 6"), ""), "kit")
	assert.Equal(t, "The roller is fetched again", f.Says)
}

// A chain or a circuit takes its things along: what stands in one is not brought elsewhere.
func TestKitInChains(t *testing.T) {
	for _, rule := range []string{"chain", "rounds"} {
		in := `{"rule":"` + rule + `","rows":[{"movement":"roller-march"},{"movement":"bridge"}]}`
		straight := `{"rule":"straight","rows":[{"movement":"squat"},{"movement":"roller-arms"}]}`
		assert.Empty(t, of(check(t, read(t, in+","+straight, "")), "kit"), rule)
		assert.Empty(t, of(check(t, read(t, straight+","+in, "")), "kit"), rule)
	}
}
