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
	assert.Empty(t, at(map[string]int{"teaser": 1}, "", "teaser level 2 3"))
	assert.Empty(t, at(map[string]int{}, "", "teaser level 1 2", "teaser level 2 3"), "it is led here")
	assert.Empty(t, at(map[string]int{}, "", "teaser level 1 3", "clam level 2 8 each side"), "the first level, and nothing hard")
	assert.Empty(t, at(map[string]int{}, `"audience":"able",`, "teaser level 4 3"))
	assert.Empty(t, at(nil, "", "teaser level 4 3"), "nothing is known of what was led")
}
