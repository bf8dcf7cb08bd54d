package lay

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

func piece(t *testing.T, title string, lines ...string) Piece {
	t.Helper()
	s := &plan.Session{Title: title, Sections: []plan.Section{{Title: title, Blocks: []plan.Block{{Rule: plan.Straight, Rounds: 1}}}}}
	for _, l := range lines {
		r, err := plan.Line(l, movement.Shipped())
		require.NoError(t, err, l)
		s.Sections[0].Blocks[0].Rows = append(s.Sections[0].Blocks[0].Rows, r)
	}
	return Piece{title, s}
}

// What a studio keeps as its way to arrive and to settle opens and closes the classes, and what it builds with stands in every second day about it; what does not fit
// the people or the kit is not used.
func TestPiecesAreUsed(t *testing.T) {
	lib := movement.Shipped()
	pieces := []Piece{
		piece(t, "Arrive", "rib breathing 6 breaths", "cat and cow 6 reps", "pelvic tilt 6 reps"),
		piece(t, "Settle", "child's pose 5 breaths", "butterfly hold 30 s"),
		piece(t, "Five abdominals", "single leg stretch 6 pairs", "double leg stretch 5 reps", "criss-cross 8 alternating"),
		piece(t, "Warm-up", "bridge with the feet on a roller 6 reps"),
	}
	for _, text := range []string{"12 days, 20 min, core and hips, no kit, mixed, ramp, learn bird dog", "9 days, 20 min, core, no kit, on and off", "8 days, 20 min, core, same set growing, no kit"} {
		l := laid(t, text, Options{Pieces: pieces})
		opened, closed, built, classes := 0, 0, 0, 0
		for _, c := range l.Days {
			if c.Session == nil {
				continue
			}
			classes++
			assert.Zero(t, c.Stops, "%s: day %d: %v", text, c.N, c.Found)
			assert.InDelta(t, 1200, c.Length.Seconds(), 10, "%s: day %d", text, c.N)
			var slugs []string
			rows := 0
			c.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
				rows++
				if !r.IsRest() {
					slugs = append(slugs, r.Movement)
				}
			})
			assert.Len(t, c.Rows, rows)
			all := strings.Join(slugs, " ")
			if strings.HasPrefix(all, "rib-breathing cat-cow pelvic-tilt") {
				opened++
			}
			if strings.HasSuffix(all, "childs-pose butterfly") {
				closed++
			}
			if strings.Contains(all, "single-leg-stretch") && strings.Contains(all, "double-leg-stretch") && strings.Contains(all, "criss-cross") {
				built++
			}
			assert.NotContains(t, all, "roller-bridge")
			_, err := plan.Seal(c.Session, lib)
			require.NoError(t, err)
		}
		assert.GreaterOrEqual(t, opened, classes/2, text)
		assert.GreaterOrEqual(t, closed, classes/2, text)
		if !strings.Contains(text, "on and off") {
			assert.Positive(t, built, text)
		}
	}
	older := laid(t, "4 days, 20 min, core, older, no kit", Options{Pieces: []Piece{piece(t, "Arrive", "jackknife 3 reps")}})
	for _, c := range older.Days {
		c.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) { assert.NotEqual(t, "jackknife", r.Movement) })
	}
}
