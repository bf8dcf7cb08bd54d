package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestClassicalOrder(t *testing.T) {
	f := one(t, read(t, rows("cat cow 8", "hundred", "teaser level 1 3", "roll-up 5"), `"style":{"order":"classical"},`), "order")
	assert.Equal(t, "Roll-up comes before Teaser in the classical order", f.Says)
	assert.Empty(t, of(check(t, read(t, rows("hundred", "roll-up 5", "cat cow 3", "teaser level 1 3"), `"style":{"order":"classical"},`)), "order"))
	for _, warm := range [][]string{{"roll-up 5", "spine stretch forward 3", "hundred", "teaser level 1 3"}} {
		assert.Empty(t, of(check(t, read(t, rows(warm...), `"style":{"order":"classical"},`)), "order"), "what warms up before the hundred is free")
	}
	two := func(title string) string {
		return `{"rule":"straight","rows":[{"movement":"saw"},{"movement":"roll-up"}]}]},{"title":"` + title + `","blocks":[{"rule":"straight","rows":[{"movement":"single-leg-stretch"},{"movement":"saw"}]}`
	}
	s := read(t, two("Mat"), `"style":{"order":"classical"},`)
	assert.NotEmpty(t, of(check(t, s), "order"), "the first section is none that warms up")
	s.Sections[0].Title = "Warm-up"
	assert.Empty(t, of(check(t, s), "order"))
}
