package review

import (
	"fmt"
	"strings"
	"testing"

	"wavekine/core/movement"
	"wavekine/core/strict/golden"
)

// What the rules take each level of the library for, by program over all of it: to be read by somebody who teaches. A movement
// whose levels are alike stands once, "*" for all of them.
func TestWhatLevelsCountAs(t *testing.T) {
	var b strings.Builder
	list := func(title string, is func(*movement.Movement, int) bool) {
		fmt.Fprintf(&b, "%s\n", title)
		for _, m := range lib.All() {
			var on []string
			for n := range m.Levels {
				if is(m, n+1) {
					on = append(on, fmt.Sprint(n+1))
				}
			}
			switch {
			case len(on) == len(m.Levels):
				fmt.Fprintf(&b, "  %s *\n", m.Slug)
			case len(on) > 0:
				fmt.Fprintf(&b, "  %s %s\n", m.Slug, strings.Join(on, " "))
			}
		}
	}
	list("goes two ways that are counted each", func(m *movement.Movement, _ int) bool { return goesTwoWays(m) })
	list("a stretch, held in the published range", func(m *movement.Movement, _ int) bool { return stretches(m) })
	list("a pose to rest in", func(m *movement.Movement, _ int) bool { return m.Rest })
	list("held work", heldWork)
	list("rounds the spine to its end", func(m *movement.Movement, n int) bool { return m.RoundsToTheEnd(n) })
	list("balance with nothing to hold", func(m *movement.Movement, n int) bool {
		return len(of(check(t, read(t, rows(fmt.Sprintf("%s level %d", m.Name, n)), `"audience":"older",`)), "balance")) > 0
	})
	list("in profile, one side hidden from a camera", func(m *movement.Movement, n int) bool {
		return len(of(check(t, read(t, rows(fmt.Sprintf("%s level %d", m.Name, n)), `"style":{"seen":"by a camera"},`)), "hidden-side")) > 0
	})
	for _, a := range []movement.Audience{movement.Beginners, movement.Older, movement.SinceBirth, movement.ExpectingFirst, movement.ExpectingSecond, movement.ExpectingLast, movement.LowBone} {
		list("does not suit "+a.String(), func(m *movement.Movement, n int) bool {
			return len(of(check(t, read(t, rows(fmt.Sprintf("%s level %d", m.Name, n)), fmt.Sprintf(`"audience":%q,`, a))), "suits")) > 0
		})
	}
	golden.Equal(t, "testdata/marks.txt", b.String())
}
