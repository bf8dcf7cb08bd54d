package review

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"wavekine/core/plan"
)

func TestSidesUnequal(t *testing.T) {
	chain := `{"rule":"chain","rows":[{"movement":"bird-dog","level":2,"dose":"8 reps"},{"movement":"rainbow-leg","level":2,"dose":"8 reps","left":{"dose":"6 reps"}}]}`
	f := one(t, read(t, chain, ""), "sides")
	assert.Equal(t, "Left does less", f.Says)
	assert.Equal(t, "Rainbow leg: 8 reps right, 6 reps left. 9 s apart.", f.Detail)
	assert.Equal(t, []string{"Make left 8 reps", "Make right 6 reps"}, []string{f.Mends[0].Says, f.Mends[1].Says})
	assert.Equal(t, plan.Path{Section: 1, Block: 1, Row: 2}, f.Row)

	f = one(t, read(t, `{"rule":"chain","rows":[{"movement":"bird-dog","dose":"8 reps","right":{"level":2}}]}`, ""), "sides")
	assert.Equal(t, "level 2 right, level 1 left", f.Measured)
	f = one(t, read(t, rows("clam 12 right only"), ""), "sides")
	assert.Equal(t, "Clam is missing the left side", f.Says)
	f = one(t, read(t, rows("saw 7 alternating"), ""), "sides")
	assert.Equal(t, "4 and 3", f.Measured)

	equal := check(t, read(t, rows("clam 12 right only", "clam 12 left only", "saw 8 alternating", "lunge 8 each side"), ""))
	assert.Empty(t, of(equal, "sides"))
	assert.Contains(t, equal[len(equal)-1].Says, "Right and left get the same")
}

// A school that gives the tighter side more hears of it; what is a mistake in any school stays one.
func TestMoreOnTheTighterSide(t *testing.T) {
	head := `"style":{"symmetry":"more on the tighter side"},`
	f := one(t, read(t, `{"rule":"straight","rows":[{"movement":"clam","dose":"12 reps","left":{"dose":"10 reps"}}]}`, head), "sides")
	assert.Equal(t, Look, f.Severity)
	assert.Contains(t, f.Detail, "is it the right one?")
	f = one(t, read(t, rows("criss-cross 7"), head), "sides")
	assert.NotContains(t, f.Detail, "tighter")
	f = one(t, read(t, `{"rule":"straight","rows":[{"movement":"clam","dose":"12 reps","left":{"dose":"10 reps"}}]}`, ""), "sides")
	assert.Equal(t, Stop, f.Severity)
}
