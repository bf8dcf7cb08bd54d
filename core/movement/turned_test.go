package movement

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Over all movements and levels: the breath turned round has in where out was and the other way about, words and phases agree, and turned twice it is as it was.
func TestBreathTurnedRoundOverTheLibrary(t *testing.T) {
	other := map[Breath]Breath{BreatheIn: BreatheOut, BreatheOut: BreatheIn, BreathHeld: BreathHeld, AnyBreath: AnyBreath}
	turned := 0
	for _, m := range Shipped().All() {
		v := m.Turned()
		w := v.Turned()
		for n := 1; n <= len(m.Levels); n++ {
			was, _ := m.PhasesOf(n)
			is, _ := v.PhasesOf(n)
			again, _ := w.PhasesOf(n)
			require.Equal(t, was, again, "%s %d", m.Slug, n)
			require.Equal(t, m.As(n).Breath, w.As(n).Breath, m.Slug)
			if v.As(n).Breath == m.As(n).Breath && len(m.As(n).Phases) == 0 { // there was nothing to turn
				require.Equal(t, was, is, m.Slug)
				continue
			}
			turned++
			require.Len(t, is, len(was), "%s: %q %q", m.Slug, m.As(n).Breath, v.As(n).Breath)
			for i := range was {
				require.Equal(t, other[was[i].Breath], is[i].Breath, "%s: %q %q", m.Slug, m.As(n).Breath, v.As(n).Breath)
				require.Equal(t, was[i].Does, is[i].Does)
				require.InDelta(t, was[i].Share, is[i].Share, 1e-9)
			}
		}
	}
	assert.Greater(t, turned, 150)
	lib := Shipped().At(Personal{Turned: map[string]bool{"bridge": true}})
	a, _ := lib.Get("bridge")
	b, _ := Shipped().Get("bridge")
	assert.NotEqual(t, a.Breath, b.Breath)
	c, _ := lib.Get("squat")
	d, _ := Shipped().Get("squat")
	assert.Same(t, c, d)
}
