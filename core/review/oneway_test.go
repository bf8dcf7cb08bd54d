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

// Only what is counted one way: not a time, not breaths, not half and half, not in a timed circuit, not another part each way.
func TestCirclesThatAreNoMistake(t *testing.T) {
	for text, want := range map[string]int{
		"single leg circle 10 each side": 1, "single leg circle 10 pulses each side": 1, "single leg circle 30 s each side": 0, "single leg circle 5 breaths each side": 0,
		"single leg circle half forward half back 45 s": 0, "single leg circle 5 each way each side": 0, "single leg circle hold 20 s each side": 0, "squat 8": 0,
	} {
		assert.Len(t, of(check(t, read(t, rows(text), "")), "one-way"), want, text)
	}
	assert.Empty(t, of(check(t, read(t, `{"rule":"rounds","rounds":2,"on":"40 s","off":"20 s","rows":[{"movement":"single-leg-circle","dose":"10 each side"}]}`, "")), "one-way"))
}
