package review

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
)

func TestBalanceWithNothingToHold(t *testing.T) {
	for _, audience := range []string{"seniors", "standing only", "osteoporosis", "expecting last third"} {
		s := read(t, rows("one leg stand level 2 hold 20 s each side", "tandem stand level 1 hold 20 s each side", "standing leg side level 2 8 each side"), fmt.Sprintf(`"audience":%q,`, audience))
		f := one(t, s, "balance")
		assert.Contains(t, f.Detail, "One-leg stand", audience)
		assert.NotContains(t, f.Detail, "Tandem", "there is a chair")
		c, err := f.Mends[0].Apply(s)
		require.NoError(t, err)
		assert.Empty(t, of(check(t, c), "balance"))
		s.Note = "A chair stands beside everybody."
		assert.Empty(t, of(check(t, s), "balance"), "said of the whole class")
	}
	for _, audience := range []string{"", "mixed", "able", "prenatal, first third"} {
		assert.Empty(t, of(check(t, read(t, rows("one leg stand level 2 hold 20 s each side"), fmt.Sprintf(`"audience":%q,`, audience))), "balance"), audience)
	}
	fs := checkFor(t, read(t, rows("one leg stand level 2 hold 20 s each side"), ""), Context{Watch: []Watched{{"Ada", []movement.Topic{movement.Balance}}}})
	assert.Len(t, of(fs, "balance"), 1)
}
