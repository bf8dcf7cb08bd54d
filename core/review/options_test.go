package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestNoEasierOption(t *testing.T) {
	opt := read(t, rows(`{"movement":"full-plank","level":2,"options":[3]}`, `{"movement":{"name":"Clay press","posture":"standing","sides":"both","effort":5},"dose":"8"}`, "squat level 2 8"), `"audience":"mixed",`)
	fs := of(check(t, opt), "options")
	require.Len(t, fs, 2, "the squat has its level 1")
	assert.Equal(t, "Offer level 1: knees down", fs[0].Mends[0].Says)
}
