package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestStretchHolds(t *testing.T) {
	f := one(t, read(t, rows("calf stretch hold 5 s each side"), ""), "hold")
	assert.Equal(t, "10 s to 60 s", f.Limit)
	assert.Empty(t, of(check(t, read(t, rows("calf stretch hold 30 s each side", "hip flexor stretch hold 2 min each side"), "")), "hold"), "long holds are meant so")
}

// What counts as the hold of a stretch: one part that is held or timed, of a stretch, outside a timed circuit.
func TestWhatIsAHold(t *testing.T) {
	for text, want := range map[string]int{
		"half pigeon hold 5 s each side": 1, "half pigeon 5 s each side": 1, "half pigeon hold 90 s each side": 1, "half pigeon hold 2 min each side": 0, "half pigeon hold 1:59 each side": 1,
		"half pigeon 5 breaths each side": 0, "half pigeon 8 each side": 0, "half pigeon hold 5 s + 8 pulses each side": 0, "full plank hold 5 s": 0, "half pigeon as many as 90 s": 0,
		"half pigeon hold 10 s each side": 0, "half pigeon hold 60 s each side": 0,
	} {
		assert.Len(t, of(check(t, read(t, rows(text), "")), "hold"), want, text)
	}
	assert.Empty(t, of(check(t, read(t, `{"rule":"rounds","rounds":2,"on":"90 s","off":"20 s","rows":[{"movement":"half-pigeon","dose":"hold 90 s"}]}`, "")), "hold"))
}
