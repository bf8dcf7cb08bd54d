package movement

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/body"
	"wavekine/core/dose"
)

func TestShippedLibrary(t *testing.T) {
	l, err := Source()
	require.NoError(t, err)
	levels := 0
	for _, m := range l.All() {
		levels += len(m.Levels)
		found, ok := l.Named(m.Name)
		assert.True(t, ok)
		assert.Same(t, m, found)
	}
	assert.GreaterOrEqual(t, len(l.All()), 100)
	assert.GreaterOrEqual(t, levels, 280)
	t.Logf("%d movements, %d levels", len(l.All()), levels)
}

// The classical mat order is the 34 exercises of J. H. Pilates and W. J. Miller, "Return to Life Through
// Contrology" (1945), in the book's order (from memory).
func TestClassicalOrderIsEntire(t *testing.T) {
	order := make([]string, 35)
	for _, m := range Shipped().All() {
		if m.Classical > 0 {
			require.Empty(t, order[m.Classical], "place %d", m.Classical)
			order[m.Classical] = m.Slug
		}
	}
	assert.Equal(t, []string{
		"", "hundred", "roll-up", "roll-over", "single-leg-circle", "rolling-like-a-ball", "single-leg-stretch", "double-leg-stretch",
		"spine-stretch-forward", "open-leg-rocker", "corkscrew", "saw", "swan-dive", "single-leg-kick", "double-leg-kick", "neck-pull",
		"high-scissors", "high-bicycle", "bridge", "spine-twist", "jackknife", "side-kick", "teaser", "hip-twist", "swimming", "leg-pull-front",
		"leg-pull-back", "kneeling-side-kick", "side-bend", "boomerang", "seal", "crab", "rocking", "control-balance", "push-up",
	}, order)
}

// The data agree with themselves.
func TestLibraryIsConsistent(t *testing.T) {
	l := Shipped()
	for _, m := range l.All() {
		for _, g := range m.Gives { // a counter-movement goes the other way, or rests
			c, _ := l.Get(g)
			switch {
			case m.Bends(Forward) && !m.Bends(Backward):
				assert.True(t, !c.Bends(Forward) || c.Stretch, "%s gives back %s", m.Slug, g)
			case m.Bends(Backward) && !m.Bends(Forward):
				assert.False(t, c.Bends(Backward), "%s gives back %s", m.Slug, g)
			}
		}
		if m.Phase == "build" && (m.Bends(Forward) || m.Bends(Backward)) {
			assert.NotEmpty(t, m.Gives, "%s bends and needs its bend back", m.Slug)
		}
		assert.NotContains(t, m.Leads, m.Slug)
		assert.NotEmpty(t, m.Ease, m.Slug)
		for i := range m.Levels {
			lv := m.At(i + 1)
			assert.NotEmpty(t, lv.Changes)
			assert.NotEmpty(t, m.Poses(i+1))
			if m.Phase == "build" && i == 0 {
				assert.LessOrEqual(t, lv.Demand, 7.0, "%s begins with something most can do", m.Slug)
			}
			if kneels := m.Has(i+1, Kneel); kneels {
				assert.True(t, m.Watches(i+1, Knees), "%s level %d", m.Slug, i+1)
			}
		}
	}
	// what is watched, by the usual cautions of the trade (common practice)
	for _, c := range []struct {
		slug  string
		level int
		topic Topic
	}{
		{"hundred", 2, Neck},
		{"hundred", 3, LowBack},
		{"bird-dog", 2, Wrists},
		{"bird-dog", 2, Knees},
		{"full-plank", 2, Shoulder},
		{"squat", 2, Knees},
		{"roll-over", 2, Pressure},
		{"roll-over", 2, Bones},
		{"seal", 2, Vertigo},
		{"swan-dive", 2, LowBack},
		{"swan", 2, Pregnancy},
		{"chest-lift", 1, Pregnancy},
		{"double-leg-stretch", 2, AfterBirth},
		{"one-leg-stand", 2, Balance},
		{"saw", 2, Bones},
	} {
		m, ok := l.Get(c.slug)
		require.True(t, ok, c.slug)
		assert.True(t, m.Watches(c.level, c.topic), "%s level %d: %s", c.slug, c.level, c.topic)
	}
	dog, _ := l.Get("bird-dog")
	assert.False(t, dog.Watches(2, Vertigo))
	for _, caution := range dog.Cautions(2) {
		assert.NotEqual(t, Wrists, caution.Topic, "its own care speaks of the wrists")
	}
	hundred, _ := l.Get("hundred")
	assert.False(t, hundred.Watches(1, Neck), "level 1 keeps the head down")
}

// Figures: supports stay, nothing sinks or leaves its range, neighbouring key poses do not jump.
func TestEveryLevelMovesLikeABody(t *testing.T) {
	for _, m := range Shipped().All() {
		for i := range m.Levels {
			s := m.Poses(i + 1)
			for _, k := range s {
				assert.Empty(t, body.Solve(k.Pose).Complaints(), "%s level %d", m.Slug, i+1)
			}
			frames := s.Frames(0, .125, .25, .375, .5, .625, .75, .875, 1)
			for k := 1; k < len(frames); k++ {
				for _, j := range []string{"hip", "atlas", "kneeR", "kneeL", "wriR", "wriL"} {
					assert.Less(t, body.Dist(frames[k-1].J[j], frames[k].J[j]), .34, "%s level %d: %s jumps at %d/8", m.Slug, i+1, j, k)
				}
			}
		}
	}
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
			if m.Family == NoFamily && lv.Family == NoFamily || lv.Judged {
				assert.Equal(t, "judged", lv.DemandFrom(), m.Slug)
				assert.Positive(t, lv.Demand, "%s level %d says how hard it is judged", m.Slug, i+1)
			}
		}
	}
	plank, _ := l.Get("full-plank")
	loads, ok := plank.Weigh(2)
	require.True(t, ok)
	assert.InDelta(t, 68, loads.Hands, 3)
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
	assert.Equal(t, "wrist-circles", first("wrists"))
	assert.Equal(t, "side-plank", first("side pl"))
	assert.Equal(t, "", first("flying trapeze"))
	assert.Len(t, l.Search(""), len(l.All()))
}

func TestFind(t *testing.T) {
	l := Shipped()
	all := func(q Query, ok func(m *Movement) bool) {
		t.Helper()
		found := l.Find(q)
		assert.NotEmpty(t, found, "%+v", q)
		assert.Less(t, len(found), len(l.All()), "%+v", q)
		for _, m := range found {
			assert.True(t, ok(m), "%s for %+v", m.Slug, q)
		}
	}
	all(Query{Phase: "settle"}, func(m *Movement) bool { return m.Phase == "settle" })
	all(Query{Region: "wrists"}, func(m *Movement) bool { return m.Regions["wrists"] > 0 })
	all(Query{Direction: Sideways}, func(m *Movement) bool { return m.Bends(Sideways) })
	all(Query{Kit: "roller"}, func(m *Movement) bool { return m.Slug[:6] == "roller" })
	all(Query{Most: 2}, func(m *Movement) bool { return m.At(1).Demand <= 2 })
	all(Query{Postures: []Posture{Prone}}, func(m *Movement) bool { return m.Posture == Prone })
	all(Query{For: StandingOnly}, func(m *Movement) bool { return !m.Posture.OnFloor() })
	all(Query{Words: "abdominals kind to neck"}, func(m *Movement) bool { return !m.Has(1, HeadUp) && m.Regions["abdominals"] > 0 })
	all(Query{Words: "plank kind to wrists"}, func(m *Movement) bool {
		_, ok := m.Gentlest(Mixed)
		return ok && m.Slug != "full-plank" && m.Slug != "push-up"
	})
	all(Query{Words: "kind to wrists and knees"}, func(m *Movement) bool { return m.Posture != HandsAndKnees })
	both := l.Find(Query{Words: "side", Region: "obliques"})
	require.NotEmpty(t, both)
	assert.Less(t, len(both), len(l.Find(Query{Words: "side"})))
	assert.Contains(t, l.KitOf(), "roller")
}

// A thousand movements, searched by words, region and kindness.
func BenchmarkFind(b *testing.B) {
	for _, n := range []int{114, 500, 1000, 2000} {
		var ms []*Movement
		for i := range n {
			m := *Shipped().All()[i%len(Shipped().All())]
			m.Slug, m.Name, m.Also = fmt.Sprintf("m-%d", i), fmt.Sprintf("%s %d", m.Name, i), nil
			m.Gives, m.Leads = nil, nil
			ms = append(ms, &m)
		}
		l, err := New(ms)
		require.NoError(b, err)
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for b.Loop() {
				l.Find(Query{Words: "leg kind to wrists", Most: 6})
			}
		})
	}
}

func TestLoadsFollowPosture(t *testing.T) {
	l := Shipped()
	m, _ := l.Get("hundred")
	assert.False(t, m.Has(1, HeadUp), "level 1 keeps the head down")
	assert.True(t, m.Has(2, HeadUp))
	assert.True(t, m.Has(2, OnBack))
	sp, _ := l.Get("side-plank")
	assert.False(t, sp.Has(1, Hands), "on the forearm")
	assert.True(t, sp.Has(3, Hands))
}

func TestBadLibraryNamesThePlace(t *testing.T) {
	for text, want := range map[string]string{
		"- {slug: x, nmae: y}":                  `unknown field "nmae"`,
		"- {slug: Bad Slug}":                    "slug must be lower-case",
		"- {slug: x, name: X, posture: flying}": `"flying" is not a posture`,
		"- {slug: x, name: X, posture: supine, sides: both, pace: quick}":                                                                        `"quick" is neither a tempo class`,
		"- {slug: x, name: X, posture: supine, sides: both, pace: curl, dose: 0 reps}":                                                           "from 1 to 500",
		"- {slug: x, name: X, posture: supine, sides: both, pace: curl, dose: 8, levels: [{changes: a, demand: 11}]}":                            "at least two levels",
		"- {slug: x, name: X, posture: supine, sides: both, pace: curl, dose: 8, family: legs, levels: [{changes: a}, {changes: b, demand: 4}]}": "x, level 2: its demand is computed",
	} {
		ms, err := ReadYAML("test.yaml", []byte(text))
		if err == nil {
			_, err = New(ms)
		}
		require.Error(t, err, text)
		assert.Contains(t, err.Error(), want)
	}
}

// Words are found however they are typed: case, accents and hyphens make no difference.
func TestFoldedWords(t *testing.T) {
	for _, words := range []string{"bird dog", "Bird-Dog", "BIRD  DOG", "bírd dög", "the bird dog"} {
		m, ok := Shipped().Named(words)
		if assert.True(t, ok, words) {
			assert.Equal(t, "bird-dog", m.Slug)
		}
	}
}

// What a level says of its own stands in its place, and nothing else changes: over the whole library, and through a document.
func TestAsALevelHasIt(t *testing.T) {
	own := 0
	for _, m := range Shipped().All() {
		for n := range m.Levels {
			l, v := m.At(n+1), m.As(n+1)
			assert.Equal(t, m.Slug, v.Slug)
			assert.Equal(t, len(m.Levels), len(v.Levels))
			assert.Same(t, v, v.As(n+1), "a view knows the others")
			for _, w := range []struct{ said, view, movement any }{
				{l.Sides, v.Sides, m.Sides},
				{l.Posture, v.Posture, m.Posture},
				{l.Setup, v.Setup, m.Setup},
				{l.Say, v.Say, m.Say},
				{l.Watch, v.Watch, m.Watch},
				{l.Fault, v.Fault, m.Fault},
				{l.Care, v.Care, m.Care},
				{l.Breath, v.Breath, m.Breath},
			} {
				if want := w.movement; fmt.Sprint(w.said) != "" {
					own++
					assert.Equal(t, w.said, w.view, m.Slug)
				} else {
					assert.Equal(t, want, w.view, m.Slug)
				}
			}
			if v.Sides == Each || v.Sides == Alternating {
				assert.NotEmpty(t, v.Limb, "%s level %d: what a side is called", m.Slug, n+1)
			}
			if p := v.Dose.Per; p != dose.Unsaid {
				assert.NotEqual(t, Both, v.Sides, "%s level %d: %s", m.Slug, n+1, v.Dose)
			}
			if v.Sides == Each {
				assert.Equal(t, dose.EachSide, v.Dose.Per, "%s level %d: %s", m.Slug, n+1, v.Dose)
			}
		}
	}
	assert.Greater(t, own, 70)
	b, ok := Shipped().Get("bridge")
	require.True(t, ok)
	doc, err := b.MarshalJSON()
	require.NoError(t, err)
	back, err := ReadOwn(doc, Shipped())
	require.NoError(t, err)
	require.NoError(t, back.prepare(false))
	assert.Equal(t, Each, back.As(4).Sides)
	assert.Equal(t, b.As(3).Say, back.As(3).Say)
	lib, err := Shipped().With(nil, map[string]Change{"bridge": {Say: "Ours."}})
	require.NoError(t, err)
	ours, _ := lib.Get("bridge")
	assert.Equal(t, "Ours.", ours.As(4).Say, "the studio's words are said on every level")
	assert.Equal(t, Each, ours.As(4).Sides)
	assert.NotEqual(t, "Ours.", b.As(4).Say)
}
