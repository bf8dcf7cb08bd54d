package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAnOptionNobodyShows(t *testing.T) {
	for row, want := range map[string]int{
		`{"movement":"teaser","level":3,"options":[1]}`:                                 1,
		`{"movement":"teaser","level":3,"options":[2]}`:                                 0,
		`{"movement":"teaser","level":3,"options":[1,2]}`:                               0, // by way of the one between
		`{"movement":"teaser","level":3,"options":[1],"note":"easier: one foot down"}`:  0,
		`{"movement":"teaser","level":4}`:                                               0,
		`{"movement":"teaser","level":1,"options":[4]},{"movement":"teaser","level":4}`: 0,
		`{"movement":"teaser","level":4,"options":[]}`:                                  0,
	} {
		s := read(t, `{"rule":"straight","rows":[`+row+`]}`, "")
		fs := of(check(t, s), "unshown")
		require.Len(t, fs, want, row)
		for _, f := range fs {
			for _, m := range f.Mends {
				c, err := m.Apply(s)
				require.NoError(t, err)
				assert.Empty(t, of(check(t, c), "unshown"), m.Says)
			}
		}
	}
}
