package review

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"wavekine/core/plan"
)

func TestOffTimeMustReachTheNextPosition(t *testing.T) {
	circuit := func(off, rows string) *plan.Session {
		return read(t, `{"rule":"rounds","rounds":2,"on":"40 s","off":"`+off+`","rows":[`+rows+`]}`, "")
	}
	up := `{"movement":"squat"},{"movement":"hundred"}`
	f := one(t, circuit("20 s", up), "off-time")
	assert.Equal(t, "27 s", f.Limit, "from standing to the back is more than three steps")
	assert.Empty(t, of(check(t, circuit("27 s", up)), "off-time"))
	one(t, circuit("10 s", `{"movement":"bird-dog"},{"movement":"full-plank"}`), "off-time")
	assert.Empty(t, of(check(t, circuit("10 s", `{"movement":"squat"},{"movement":"lunge"}`)), "off-time"), "no change of position")
	assert.Empty(t, of(check(t, circuit("10 s", `{"movement":"squat"},{"rest":"20 s"},{"movement":"hundred"},{"rest":"20 s"}`)), "off-time"), "a rest of its own gives the time")
}
