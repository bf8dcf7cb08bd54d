package movement

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Each movement of the library hidden and read from its name alone, scored over the names that state a position or an action.
func TestHiddenLibrary(t *testing.T) {
	lib := Shipped()
	var asked, n int
	right := map[string]int{}
	for _, m := range lib.All() {
		r := ReadName(m.Name)
		if r.Asks() {
			asked++
			continue
		}
		n++
		score := func(what string, ok bool, is, want any) {
			if ok {
				right[what]++
			} else if testing.Verbose() {
				t.Logf("%-10s %-34s %v, is %v", what, m.Name, is, want)
			}
		}
		mm, err := r.Movement()
		require.NoError(t, err, m.Name)
		score("posture", r.Posture == m.Posture, r.Posture, m.Posture)
		score("sides", r.Sides == m.Sides, r.Sides, m.Sides)
		a, b := slices.Clone(r.Spine), slices.Clone(m.Spine)
		slices.Sort(a)
		slices.Sort(b)
		score("spine", slices.Equal(a, b), a, b)
		score("head up", mm.Has(1, HeadUp) == m.Has(1, HeadUp), mm.Has(1, HeadUp), m.Has(1, HeadUp))
		score("hands", mm.Has(1, Hands) == m.Has(1, Hands), mm.Has(1, Hands), m.Has(1, Hands))
		score("seconds", math.Abs(float64(r.Pace)/float64(m.SecondsPerRep(1))-1) <= .35, r.Pace, m.SecondsPerRep(1))
	}
	for what, least := range map[string]float64{"posture": .90, "sides": .90, "spine": .85, "head up": .95, "hands": .95, "seconds": .80} {
		share := float64(right[what]) / float64(n)
		t.Logf("%s %.1f %%", what, 100*share)
		assert.GreaterOrEqual(t, share, least, what)
	}
	t.Logf("%d names read, %d state neither a position nor an action and must ask", n, asked)
	assert.Less(t, asked, 35)
}
