package review

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestHeldTooLong(t *testing.T) {
	for audience, most := range map[string]int{"": 60, "mixed": 60, "beginners": 30, "over 60": 30, "prenatal": 30, "postnatal": 30, "able": 120, "mixed, able": 60, "able, seniors": 30} {
		head := fmt.Sprintf(`"audience":%q,`, audience)
		at := func(n int) []Finding {
			return of(check(t, read(t, rows(fmt.Sprintf("forearm plank level 2 hold %d s", n)), head)), "isometric")
		}
		assert.Empty(t, at(most), audience)
		if fs := at(most + 1); assert.Len(t, fs, 1, audience) {
			assert.Equal(t, Look, fs[0].Severity)
		}
		assert.Equal(t, Stop, at(2*most + 1)[0].Severity, audience)
	}
	f := one(t, read(t, rows("wall sit hold 90 s"), ""), "isometric")
	require.Len(t, f.Mends, 2)
	assert.Equal(t, "Make it 2 x 60 s with 20 s between", f.Mends[1].Says)
	for _, row := range []string{"child's pose 3 min", "one leg stand hold 90 s each side", "squat 3 min", "half pigeon hold 3 min each side"} {
		assert.Empty(t, of(check(t, read(t, rows(row), "")), "isometric"), row)
	}
	circuit := read(t, `{"rule":"rounds","rounds":2,"on":"90 s","off":"30 s","rows":[{"movement":"forearm-plank"},{"movement":"squat"}]}`, "")
	c, err := one(t, circuit, "isometric").Mends[0].Apply(circuit)
	require.NoError(t, err)
	assert.Empty(t, of(check(t, c), "isometric"))
}
