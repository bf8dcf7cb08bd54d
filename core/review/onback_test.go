package review

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
)

func TestOnTheBack(t *testing.T) {
	long := rows("clam 8 each side", "bridge level 1 8", "heel taps 10 alternating", "bird dog 6 each side")
	for audience, want := range map[string]int{"": 0, "prenatal, first third": 0, "prenatal": 1, "prenatal, second third": 1, "pregnant, 30 weeks": 1, "seniors": 0} {
		fs := of(check(t, read(t, long, fmt.Sprintf(`"audience":%q,`, audience))), "on-back")
		require.Len(t, fs, want, audience)
		for _, f := range fs {
			assert.Equal(t, Stop, f.Severity)
			assert.Equal(t, 2, f.Row.Row, "from the first of them")
		}
	}
	assert.Empty(t, of(check(t, read(t, rows("bridge level 1 4", "clam 8 each side", "bridge level 1 4"), `"audience":"prenatal",`)), "on-back"), "the side between")
	for topic, want := range map[movement.Topic]int{movement.NoBack: 1, movement.Expecting3: 1, movement.Pregnancy: 1, movement.Expecting1: 0, movement.Neck: 0} {
		fs := of(checkFor(t, read(t, long, ""), Context{Watch: []Watched{{"Ada", []movement.Topic{topic}}}}), "on-back")
		require.Len(t, fs, want, topic)
		for _, f := range fs {
			assert.Equal(t, Look, f.Severity, "one of many")
			assert.Contains(t, f.Detail, "Ada")
		}
	}
}
