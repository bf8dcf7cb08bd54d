package timeline

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// classOf is a session of every movement that passes, each once at its usual dose.
func classOf(pass func(m *movement.Movement) (level int, ok bool)) *plan.Session {
	s := &plan.Session{Title: "Enough", Talk: plan.Flowing, Sections: []plan.Section{{Title: "All", Blocks: []plan.Block{{Rounds: 1}}}}}
	for _, m := range movement.Shipped().All() {
		if n, ok := pass(m); ok {
			s.Sections[0].Blocks[0].Rows = append(s.Sections[0].Blocks[0].Rows, plan.Row{Movement: m.Slug, Level: n})
		}
	}
	return s
}

// Each audience and each school has enough in the library to fill 30 minutes without repeating a movement:
// work and holds alone, no talk or changes counted.
func TestEnoughForEveryAudienceAndSchool(t *testing.T) {
	check := func(name string, pass func(m *movement.Movement) (int, bool)) {
		t.Helper()
		tl, err := Build(classOf(pass), movement.Shipped())
		require.NoError(t, err)
		work := tl.Sums.Work + tl.Sums.Hold
		t.Logf("%s: %s of work, %s in all", name, work, tl.Total)
		assert.GreaterOrEqual(t, tl.Total, 30*clock.Minute, name)
		assert.GreaterOrEqual(t, work, 15*clock.Minute, "%s: more than half of it work", name)
	}
	for _, a := range movement.Audiences() {
		check(a.String(), func(m *movement.Movement) (int, bool) { return m.Gentlest(a) })
	}
	first := func(ok bool) (int, bool) { return 1, ok }
	check("classical order", func(m *movement.Movement) (int, bool) { return first(m.Classical > 0) })
	check("flow on hands and knees, planks and down dog", func(m *movement.Movement) (int, bool) {
		return first(m.Posture >= movement.HandsAndKnees && m.Posture <= movement.SeatedHeels || m.Posture == movement.Kneeling || m.Posture == movement.HalfKneeling || m.Posture == movement.Prone)
	})
	check("core circuit", func(m *movement.Movement) (int, bool) {
		return first(m.Phase == "build" && (m.Regions["abdominals"] >= .5 || m.Regions["deep core"] >= .5 || m.Regions["obliques"] >= .5))
	})
	check("mobility and long holds", func(m *movement.Movement) (int, bool) { return first(m.Stretch || m.Phase == "mobilise") })
}
