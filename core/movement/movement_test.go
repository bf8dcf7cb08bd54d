package movement

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/body"
)

func TestShippedLibrary(t *testing.T) {
	l, err := load(files)
	require.NoError(t, err)
	n := len(l.All())
	assert.GreaterOrEqual(t, n, 36)
	t.Logf("%d movements", n)
	used := map[string]bool{}
	for _, m := range l.All() {
		for i := range m.Levels {
			used[m.Levels[i].Figure] = true
			p, ok := body.Poses().Pose(m.Levels[i].Figure)
			require.True(t, ok)
			assert.Empty(t, body.Solve(p).Complaints(), m.Slug)
		}
		for _, g := range m.Gives { // a counter-movement of forward bending bends back or rests, not forward
			c, _ := l.Get(g)
			if m.Bends(Forward) && !m.Bends(Backward) {
				assert.True(t, !c.Bends(Forward) || c.Stretch, "%s gives back %s", m.Slug, g)
			}
		}
		found, ok := l.Named(m.Name)
		assert.True(t, ok)
		assert.Same(t, m, found)
	}
}

// Every school of the trade needs its own movements: the classical abdominal series entire,
// a chain on hands and knees, long holds, and standing work for those who stay up.
func TestEnoughForEverySchool(t *testing.T) {
	l := Shipped()
	for _, s := range []string{
		"hundred", "roll-up", "single-leg-circle", "rolling-like-a-ball", "single-leg-stretch", "double-leg-stretch",
		"scissors", "double-leg-lower", "criss-cross", "spine-stretch-forward", "saw", "swan", "side-kick", "teaser", "swimming",
	} {
		_, ok := l.Get(s)
		assert.True(t, ok, "classical order: %s", s)
	}
	count := map[string]int{}
	standing := 0
	for _, m := range l.All() {
		count[m.Phase]++
		if !m.Posture.OnFloor() {
			standing++
		}
	}
	for _, p := range Phases {
		assert.GreaterOrEqual(t, count[p], 2, p)
	}
	assert.GreaterOrEqual(t, standing, 6)
}

// Where the body model weighs a movement, the trade's orderings come out as numbers (common practice).
func TestComputedDemand(t *testing.T) {
	l := Shipped()
	demand := func(slug string, level int) float64 {
		m, ok := l.Get(slug)
		require.True(t, ok)
		lv := m.At(level)
		require.True(t, lv.Computed, slug)
		assert.Equal(t, "computed", lv.DemandFrom())
		return lv.Demand
	}
	assert.Less(t, demand("double-leg-lower", 2), demand("double-leg-lower", 3), "further is harder")
	assert.Less(t, demand("double-leg-lower", 3), demand("double-leg-lower", 4))
	assert.Less(t, demand("single-leg-stretch", 2), demand("double-leg-stretch", 2), "one leg easier than two")
	assert.Less(t, demand("hundred", 1), demand("hundred", 2), "head down easier than up")
	assert.Less(t, demand("hundred", 2), demand("hundred", 3), "bent easier than straight")
	assert.Less(t, demand("full-plank", 1), demand("full-plank", 2), "knees down easier")
	for _, m := range l.All() {
		for i := range m.Levels {
			lv := &m.Levels[i]
			assert.GreaterOrEqual(t, lv.Demand, 0.0)
			assert.LessOrEqual(t, lv.Demand, 10.0)
			if m.Family == NoFamily || lv.Judged {
				assert.Equal(t, "judged", lv.DemandFrom(), m.Slug)
				assert.Positive(t, lv.Demand, "%s level %d says how hard it is judged", m.Slug, i+1)
			}
		}
	}
	plank, _ := l.Get("full-plank")
	assert.InDelta(t, 68, plank.At(2).Loaded.OnHands, 3)
}

func TestPostureGraph(t *testing.T) {
	for _, c := range []struct {
		a, b  Posture
		steps int
	}{
		{Standing, Standing, 0},
		{Standing, HandsAndKnees, 3},
		{HandsAndKnees, SeatedHeels, 1},
		{SeatedHeels, Seated, 1},
		{Seated, Supine, 1},
		{Seated, SideLying, 1},
		{SideLying, Prone, 1},
		{Supine, SideLying, 1},
		{Supine, Prone, 2},
		{HandsAndKnees, Prone, 2},
		{Plank, SidePlank, 1},
		{HandsAndKnees, Supine, 3},
		{Standing, Supine, 6},
	} {
		w := c.a.WayTo(c.b)
		assert.Equal(t, c.steps, w.Steps, "%s to %s", c.a, c.b)
		assert.Len(t, w.Says, c.steps)
		assert.Equal(t, c.steps, c.b.WayTo(c.a).Steps, "and back")
	}
	for _, a := range Postures() { // everything can be reached, and no detour is shorter
		for _, b := range Postures() {
			if a != b {
				assert.Positive(t, a.WayTo(b).Steps, "%s to %s", a, b)
			}
			for _, c := range Postures() {
				assert.LessOrEqual(t, a.WayTo(b).Steps, a.WayTo(c).Steps+c.WayTo(b).Steps)
			}
		}
	}
	assert.Equal(t, []string{"roll down to the back"}, Seated.WayTo(Supine).Says)
	assert.Equal(t, []string{"roll up to sitting"}, Supine.WayTo(Seated).Says)
}

func TestSearch(t *testing.T) {
	l := Shipped()
	first := func(q string) string {
		r := l.Search(q)
		if len(r) == 0 {
			return ""
		}
		return r[0].Slug
	}
	assert.Equal(t, "bird-dog", first("bird"))
	assert.Equal(t, "bridge", first("glute br"))
	assert.Equal(t, "hundred", first("the hundred"))
	assert.Equal(t, "hundred", first("HUNDREDS"))
	assert.Equal(t, "wrist-rocks", first("wrists"))
	assert.Equal(t, "", first("flying trapeze"))
	assert.Len(t, l.Search(""), len(l.All()))
}

func TestLoadsFollowPosture(t *testing.T) {
	l := Shipped()
	m, _ := l.Get("hundred")
	assert.False(t, m.Has(1, HeadUp), "level 1 keeps the head down")
	assert.True(t, m.Has(2, HeadUp))
	assert.True(t, m.Has(2, OnBack))
	sp, _ := l.Get("side-plank")
	assert.False(t, sp.Has(1, Hands), "on the forearm")
	assert.True(t, sp.Has(2, Hands))
}

func TestBadLibraryNamesThePlace(t *testing.T) {
	for text, want := range map[string]string{
		"- {slug: x, nmae: y}":                  `unknown field "nmae"`,
		"- {slug: Bad Slug}":                    "slug must be lower-case",
		"- {slug: x, name: X, posture: flying}": `"flying" is not a posture`,
		"- {slug: x, name: X, posture: supine, sides: both, pace: quick}":                                             `"quick" is neither a tempo class`,
		"- {slug: x, name: X, posture: supine, sides: both, pace: curl, dose: 0 reps}":                                "from 1 to 500",
		"- {slug: x, name: X, posture: supine, sides: both, pace: curl, dose: 8, levels: [{changes: a, demand: 11}]}": "at least two levels",
	} {
		ms, err := ReadYAML("test.yaml", []byte(text))
		if err == nil {
			_, err = New(ms)
		}
		require.Error(t, err, text)
		assert.Contains(t, err.Error(), want)
	}
}
