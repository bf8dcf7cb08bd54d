package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestTwiceInARow(t *testing.T) {
	f := one(t, read(t, rows("squat 10", "squat 10", "lunge 8 each side"), ""), "twice")
	assert.Equal(t, "Squat twice in a row", f.Says)
	assert.Empty(t, of(check(t, read(t, rows("squat 10", "squat 8", "squat 2 x 8"), "")), "twice"))
}

// Directly behind itself is within a section, row behind row, also from one straight block to the next; not around a
// rest, not in a circuit after itself, not in another section.
func TestTwiceIsDirectlyBehind(t *testing.T) {
	const squat = `{"movement":"squat","dose":"8 reps"}`
	block := func(rule, rows string) string { return `{"rule":"` + rule + `","rows":[` + rows + `]}` }
	for text, want := range map[string]int{
		block("straight", squat+","+squat):                                                 1,
		block("straight", squat+","+squat+","+squat):                                       2,
		block("straight", squat) + "," + block("straight", squat):                          1,
		block("straight", squat) + "," + block("chain", squat):                             0,
		block("chain", squat) + "," + block("straight", squat):                             0,
		block("chain", squat+","+squat):                                                    1,
		block("straight", squat+`,{"rest":"20 s"},`+squat):                                 0,
		block("straight", squat+`,{"rest":"20 s"}`):                                        0,
		block("straight", `{"rest":"20 s"},`+squat+`,{"rest":"20 s"}`):                     0,
		block("straight", `{"rest":"20 s"},{"rest":"20 s"}`):                               0,
		block("straight", squat) + `]},{"title":"B","blocks":[` + block("straight", squat): 0,
	} {
		assert.Len(t, of(check(t, read(t, text, "")), "twice"), want, text)
	}
}
