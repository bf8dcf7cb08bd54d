package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestHardTooEarly(t *testing.T) {
	s := read(t, rows("double leg stretch level 3 8", "criss-cross level 3 10 pairs", "teaser level 3 3"), "")
	f := one(t, s, "early")
	assert.Equal(t, Stop, f.Severity, "hard from the first row")
	calm := read(t, rows("cat cow 8", "mermaid 4 each side", "double leg stretch level 3 8", "constructive rest 8 breaths"), "")
	assert.Empty(t, of(check(t, calm), "early"))
	assumed := read(t, rows("double leg stretch level 3 8", "criss-cross level 3 10 pairs"), `"style":{"warm_up":"assumed"},`)
	assert.Empty(t, of(check(t, assumed), "early"), "it was done before")
}

// The warm-up goes in front, behind arriving where that is quiet and there is more.
func TestWhereTheWarmUpGoes(t *testing.T) {
	two := func(first string) string {
		return `{"rule":"straight","rows":[{"movement":"` + first + `","dose":"2 breaths"}]}]},{"title":"B","blocks":[{"rule":"straight","rows":[{"movement":"full-plank","level":2},{"movement":"squat"},{"movement":"bridge"}]}`
	}
	for first, want := range map[string]int{"rib-breathing": 1, "constructive-rest": 1, "squat": 0} {
		s := read(t, two(first), "")
		for _, m := range one(t, s, "early").Mends {
			c, err := m.Apply(s)
			require.NoError(t, err)
			require.Len(t, c.Sections, 3)
			assert.Equal(t, "Mobilise", c.Sections[want].Title, first)
		}
	}
	s := read(t, rows("rib breathing 2 breaths", "full plank level 2 hold 30 s", "squat 30"), "")
	c, err := one(t, s, "early").Mends[0].Apply(s)
	require.NoError(t, err)
	assert.Equal(t, "Mobilise", c.Sections[0].Title)
}
