package review

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestBendingInSum(t *testing.T) {
	folds := func(n int) string { return rows(fmt.Sprintf("seated forward fold level 2 %d s", n)) }
	for audience, most := range map[string]int{"": 300, "beginners": 150, "seniors": 150, "osteoporosis": 60, "able": 600} {
		head := fmt.Sprintf(`"audience":%q,`, audience)
		assert.Empty(t, of(check(t, read(t, folds(most), head)), "bending"), audience)
		assert.Len(t, of(check(t, read(t, folds(most+20), head)), "bending"), 1, audience)
	}
	for _, row := range []string{"butterfly level 1 hold 400 s", "chest lift level 1 hold 400 s", "constructive rest 400 s", "cat cow 90", "child's pose 400 s"} {
		assert.Empty(t, of(check(t, read(t, rows(row), "")), "bending"), row)
	}
}
