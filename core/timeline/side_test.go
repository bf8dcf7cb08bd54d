package timeline

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// A person standing face to face with another sees that one's left limb on the right of the picture; with the back
// turned, on the left (a fact, no source needed). So what is seen follows from what is done.
func TestWhatIsSeenFollowsFromWhatIsDone(t *testing.T) {
	for _, s := range []Side{Right, Left} {
		for _, mirrored := range []bool{true, false} {
			front, away, across := s.Told(Front, mirrored), s.Told(Away, mirrored), s.Told(Across, mirrored)
			for _, told := range []Told{front, away, across} {
				assert.Equal(t, s, told.Say, "what is said is always the mover's side")
			}
			assert.Equal(t, front.Do.Other(), front.Seen)
			assert.Equal(t, away.Do, away.Seen)
			assert.Equal(t, s, away.Do, "mirroring is for facing only")
			assert.Equal(t, s, across.Do)
			assert.Equal(t, Both, across.Seen)
			if mirrored {
				assert.Equal(t, s, front.Seen, "mirrored, they see it where they have theirs")
			} else {
				assert.Equal(t, s, front.Do)
			}
		}
	}
	for _, s := range []Side{Both, Alternating} {
		assert.Equal(t, Told{s, s, s}, s.Told(Front, true))
		assert.Equal(t, Told{s, s, s}, s.Told(Front, false))
	}
}

func TestWordsOfASide(t *testing.T) {
	words := func(s Side, f Facing, mirrored bool) string {
		say, rest := s.Told(f, mirrored).Words("leg")
		return say + " | " + rest
	}
	assert.Equal(t, "right leg | your left", words(Right, Front, true))
	assert.Equal(t, "right leg | your right; they see it on the left", words(Right, Front, false))
	assert.Equal(t, "left leg | your right", words(Left, Front, true))
	assert.Equal(t, "left leg | your left", words(Left, Away, true))
	assert.Equal(t, "left leg | your left", words(Left, Across, false))
	assert.Equal(t, "alternating sides | ", words(Alternating, Front, true))
	assert.Equal(t, " | ", words(Both, Front, false))
}
