package ledger

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

var lib = movement.Shipped()

func class(t testing.TB, lines ...string) *timeline.Timeline {
	t.Helper()
	s := &plan.Session{Title: "T"}
	at := plan.Path{}
	for _, l := range lines {
		r, err := plan.Line(l, lib)
		require.NoError(t, err, l)
		if at, err = s.Add(at, r); err != nil {
			t.Fatal(err)
		}
	}
	tl, err := timeline.Build(s, lib)
	require.NoError(t, err)
	return tl
}

func TestLedgerAddsUp(t *testing.T) {
	tl := class(t, "squat 10", "lunge 8 each side", "march 20 alternating", "mermaid 4 each side", "rest 20")
	l := Of(tl)
	assert.Equal(t, tl.Sums.Work+tl.Sums.Hold, l.Both.Time+l.Right.Time+l.Left.Time, "every second of work is on a side or on both")
	assert.Equal(t, tl.Sums.Right, l.Right.Time)
	assert.Equal(t, tl.Sums.Left, l.Left.Time)
	assert.InDelta(t, l.Right.Effort, l.Left.Effort, l.Right.Effort*.1, "the same on both sides, but for tiring")
	shares, load := 0.0, 0.0
	for _, e := range l.Regions {
		shares += e.Share
	}
	assert.InDelta(t, 1, shares, 1e-9)
	for i := range tl.Steps {
		if s := &tl.Steps[i]; s.Kind.Working() {
			load += s.Effort * s.S.Seconds() / 60
		}
	}
	assert.InDelta(t, load, l.Load, 1e-9)
	assert.Equal(t, "thighs", l.Regions[0].Name)
	// by hand: the squat works the thighs at weight 0.9 for 45 s
	one := Of(class(t, "squat 10"))
	assert.Equal(t, (45 * clock.Second).Times(.9), one.Regions[0].Time)
}

func TestDirections(t *testing.T) {
	l := Of(class(t, "cat cow 6", "mermaid 4 each side"))
	got := map[string]clock.Span{}
	for _, e := range l.Directions {
		got[e.Name] = e.Time
	}
	assert.Equal(t, 48*clock.Second, got["forward"])
	assert.Equal(t, 48*clock.Second, got["back"])
	assert.Positive(t, got["to the side"])
	assert.Zero(t, got["turned"])
}

func TestWhatAClassIsAbout(t *testing.T) {
	l := Of(class(t, "hundred level 2", "single leg stretch level 2 10 pairs", "criss-cross 10 pairs"))
	assert.Contains(t, l.About(), "abdominals")
	says, met := l.Compare([]string{"core"})
	assert.True(t, met, says)
	says, met = l.Compare([]string{"wrists", "whole body"})
	assert.False(t, met)
	assert.Contains(t, says, "wrists gets 0 %")
	says, met = Of(&timeline.Timeline{}).Compare([]string{"hips"})
	assert.True(t, met)
	assert.Equal(t, "Nothing is worked yet.", says)
}

func BenchmarkLedger(b *testing.B) {
	for _, n := range []int{60, 300, 600} {
		var lines []string
		for i := range n {
			lines = append(lines, lib.All()[i%len(lib.All())].Name)
		}
		tl := class(b, lines...)
		b.Run(fmt.Sprint(n, "rows"), func(b *testing.B) {
			for b.Loop() {
				Of(tl)
			}
		})
	}
}
