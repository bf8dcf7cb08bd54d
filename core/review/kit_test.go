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

// A chair and the wall stand in the room all through the class (common practice, no source): work with them may come again.
func TestAChairIsNotFetched(t *testing.T) {
	assert.Empty(t, of(check(t, read(t, rows("chair march 40 s", "squat 8", "chair twist 6 alternating", "march 40 s", "wall sit 20 s", "squat 8", "wall push-up 8"), "")), "kit"))
	assert.NotEmpty(t, of(check(t, read(t, rows("hamstring strap level 2 30 s each side", "bridge 8", "hamstring strap level 2 30 s each side"), "")), "kit"))
}
