package lead

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// What is said at the ends of a class: day of days, theme, what is new and harder, kit, cautions, permission to adapt; what comes tomorrow.
func TestOpeningAndClosing(t *testing.T) {
	f := Frame{Title: "Wheel-side hips", Day: 5, Days: 12, Theme: "hips", New: []string{"Clam", "Swan"}, Harder: []string{"Bird dog"}, Kit: []string{"roller"}, Cautions: []string{"wrists: forearms instead"}, Tomorrow: "Two long holds"}
	o := strings.Join(OpeningOf(f).Lines, " ")
	for _, w := range []string{"Day 5 of 12: Wheel-side hips.", "about hips", "New today: Clam and Swan.", "last time: Bird dog.", "Fetch roller.", "Wrists: forearms instead.", "Take the easier option", "ask whoever treats you"} {
		assert.Contains(t, o, w)
	}
	assert.Equal(t, []string{"That is all for today.", "Tomorrow: Two long holds."}, ClosingOf(f).Lines)
	f.Rest = true
	assert.Contains(t, ClosingOf(f).Lines, "Tomorrow is a day of rest.")
	f.Last = true
	assert.Equal(t, []string{"That was the last day."}, ClosingOf(f).Lines)
	assert.NotContains(t, strings.Join(OpeningOf(Frame{Title: "T."}).Lines, " "), "..")
	own := OpeningOf(Frame{Opening: "Good morning.\n\n  Fetch a cushion. "})
	assert.Equal(t, []string{"Good morning.", "Fetch a cushion."}, own.Lines)
	// 151 words a minute is the usual rate, 90 the slowest and 190 the fastest (common practice, no source)
	assert.Equal(t, clock.Minute, Spoken(151, 0))
	assert.Equal(t, clock.Minute, Spoken(90, 20))
	assert.Equal(t, clock.Minute, Spoken(190, 500))
	assert.Zero(t, Spoken(0, 0))
}

// Over all movements and levels: the dot's breath is that of the words, its shares add up, it covers at least as long as a breath takes; the second side is told apart
// from the first, parts of one side are not.
func TestPhasesOfEveryStep(t *testing.T) {
	lib := movement.Shipped()
	with := 0
	for _, m := range lib.All() {
		for n := range m.Levels {
			doc := `{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"` + m.Slug + `","level":` + string(rune('1'+n)) + `}]}]}]}`
			s, err := plan.ReadSession([]byte(doc), lib)
			require.NoError(t, err)
			tl, err := timeline.Build(s, lib)
			require.NoError(t, err)
			for i, l := range Steps(s, tl) {
				st := &tl.Steps[i]
				if len(l.Phases) == 0 {
					continue
				}
				with++
				sum := 0.
				for _, p := range l.Phases {
					sum += p.Share
				}
				require.InDelta(t, 1, sum, 1e-6, m.Slug)
				if st.Reps > 0 {
					require.GreaterOrEqual(t, st.S/clock.Span(st.Reps)*clock.Span(l.Over), leastBreath, m.Slug)
					require.Equal(t, m.BreathAt(n+1, 0).Breath, l.Phases[0].Breath, "%s begins as its words do: %s", m.Slug, m.As(n+1).Breath)
				}
				require.Equal(t, st.Side == timeline.Left && m.As(n+1).Sides == movement.Each, l.Second, "%s %s", m.Slug, st.Side)
			}
		}
	}
	assert.Greater(t, with, 300)
}

// Turning round where it is said to be done costs seconds and is said; what is not said costs nothing.
func TestFacing(t *testing.T) {
	lib := movement.Shipped()
	build := func(a, b string) *timeline.Timeline {
		s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1.3","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"squat"`+a+`},{"movement":"lunge"`+b+`}]}]}]}`), lib)
		require.NoError(t, err)
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		return tl
	}
	plain := build("", "")
	assert.Equal(t, plain.Total, build("", `,"faces":"front"`).Total, "they face each other already")
	assert.Equal(t, plain.Total+4*clock.Second, build("", `,"faces":"back"`).Total)
	assert.Equal(t, plain.Total+4*clock.Second, build(`,"faces":"back"`, `,"faces":"front"`).Total)
	turned := build("", `,"faces":"back"`)
	said := false
	for i := range turned.Steps {
		said = said || strings.HasPrefix(turned.Steps[i].Says, "Turn your back to them.")
	}
	assert.True(t, said)
}
