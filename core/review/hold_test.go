package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestStretchHolds(t *testing.T) {
	f := one(t, read(t, rows("calf stretch hold 5 s each side"), ""), "hold")
	assert.Equal(t, "10 s to 60 s", f.Limit)
	assert.Empty(t, of(check(t, read(t, rows("calf stretch hold 30 s each side", "hip flexor stretch hold 2 min each side"), "")), "hold"), "long holds are meant so")
}

// What counts as the hold of a stretch: one part that is held or timed, of a stretch, outside a timed circuit.
func TestWhatIsAHold(t *testing.T) {
	for text, want := range map[string]int{
		"half pigeon hold 5 s each side": 1, "half pigeon 5 s each side": 1, "half pigeon hold 90 s each side": 0, "half pigeon hold 2 min each side": 0, "half pigeon hold 1:59 each side": 0,
		"half pigeon 5 breaths each side": 0, "half pigeon 8 each side": 0, "half pigeon hold 5 s + 8 pulses each side": 0, "full plank hold 5 s": 0, "half pigeon as many as 90 s": 0,
		"half pigeon hold 10 s each side": 0, "half pigeon hold 60 s each side": 0,
	} {
		assert.Len(t, of(check(t, read(t, rows(text), "")), "hold"), want, text)
	}
	assert.Empty(t, of(check(t, read(t, `{"rule":"rounds","rounds":2,"on":"5 s","off":"20 s","rows":[{"movement":"half-pigeon"}]}`, "")), "hold"))
	for text, want := range map[string]int{ // held work, standing poses and rests are no stretches
		"warrior hold 5 s each side": 0, "down dog hold 5 s": 0, "wall sit hold 5 s": 0, "constructive rest 5 s": 0, "child's pose 5 s": 0, "legs up 5 s": 0, "seated forward fold hold 5 s": 1, "gate hold 5 s each side": 1,
	} {
		assert.Len(t, of(check(t, read(t, rows(text), "")), "hold"), want, text)
	}
}

// Older people hold 30 to 60 s (ACSM position stand, Garber et al. 2011), and long holds are not for them.
func TestOlderPeopleHoldLonger(t *testing.T) {
	for text, want := range map[string]int{
		"half pigeon hold 20 s each side": 1, "half pigeon hold 30 s each side": 0, "half pigeon hold 60 s each side": 0, "half pigeon hold 61 s each side": 1, "half pigeon hold 3 min each side": 1, "constructive rest 3 min": 0,
	} {
		f := of(check(t, read(t, rows(text), `"audience":"over 60",`)), "hold")
		assert.Len(t, f, want, text)
		for _, x := range f {
			assert.Equal(t, "30 s to 60 s", x.Limit)
		}
	}
}

// About 60 s in all for a stretch and session (same source): twice that is worth a look, long holds apart.
func TestAStretchInAll(t *testing.T) {
	for want, texts := range map[int][]string{
		1: {"half pigeon 3 x hold 45 s each side"},
		0: {"half pigeon 2 x hold 60 s each side"},
	} {
		assert.Len(t, of(check(t, read(t, rows(texts...), "")), "hold"), want, texts)
	}
	s := read(t, rows("half pigeon hold 50 s right only", "half pigeon hold 50 s left only", "half pigeon hold 50 s right only", "half pigeon hold 50 s left only", "half pigeon hold 50 s each side"), "")
	fs := of(check(t, s), "hold")
	require.Len(t, fs, 1)
	assert.Equal(t, "Half pigeon for 2:30 in all", fs[0].Says, "of one side")
	assert.Empty(t, of(check(t, read(t, rows("half pigeon hold 3 min each side", "half pigeon hold 50 s each side"), "")), "hold"), "a long hold is a school of its own")
}
