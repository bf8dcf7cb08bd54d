package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestPrerequisites(t *testing.T) {
	at := func(led map[string]int, head string, rs ...string) []Finding {
		return of(checkFor(t, read(t, rows(rs...), head), Context{Met: map[string]bool{"x": true}, Led: led}), "prerequisite")
	}
	assert.Len(t, at(map[string]int{}, "", "teaser level 3 3"), 1)
	assert.Len(t, at(map[string]int{"teaser": 1}, "", "teaser level 4 3"), 1)
	rollUp := map[string]int{"teaser": 1, "roll-up": 3}
	assert.Empty(t, at(rollUp, "", "teaser level 2 3"))
	assert.Empty(t, at(rollUp, "", "teaser level 1 2", "teaser level 2 3"), "it is led here")
	assert.Empty(t, at(map[string]int{"teaser": 1}, "", "half-roll-back level 2 3", "roll-up level 1 3", "roll-up level 2 3", "teaser level 2 3"), "what comes before it is led here")
	missing := at(map[string]int{"teaser": 1}, "", "teaser level 2 3")
	if assert.Len(t, missing, 1, "another movement comes before it") {
		assert.Equal(t, "Teaser before Roll-up has been led", missing[0].Says)
		assert.Empty(t, missing[0].Mends[1:])
	}
	assert.Empty(t, at(map[string]int{"teaser": 2}, "", "teaser level 2 3"), "it has been led: nothing more is asked")
	assert.Empty(t, at(map[string]int{}, "", "teaser level 1 3", "clam level 2 8 each side"), "the first level, and nothing hard")
	assert.Empty(t, at(map[string]int{}, `"audience":"able",`, "teaser level 4 3"))
	assert.Empty(t, at(nil, "", "teaser level 4 3"), "nothing is known of what was led")
}
