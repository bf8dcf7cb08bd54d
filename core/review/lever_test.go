package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestLowBackLever(t *testing.T) {
	s := read(t, rows("pelvic tilt 8", "knee opening 8", "double leg stretch level 3 8"), "")
	f := one(t, s, "lever")
	assert.Equal(t, Look, f.Severity)
	assert.Contains(t, f.Mends[0].Says, "Take level 2")
	assert.Empty(t, of(check(t, read(t, rows("pelvic tilt 8", "double leg stretch level 1 8"), "")), "lever"))
	f = one(t, read(t, rows("pelvic tilt 8", "knee opening 10", "double leg lower level 3 6"), `"audience":"beginners",`), "lever")
	assert.Equal(t, "5.5", f.Limit, "beginners are allowed less")
	assert.Equal(t, Stop, f.Severity)
}
