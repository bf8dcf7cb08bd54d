package ladder

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// The promises of a ladder, over every movement, for every audience, with kit and without.
func TestEveryLadder(t *testing.T) {
	lib := movement.Shipped()
	terms := []Terms{{}, {Bare: true}, {Kit: []string{"chair", "band"}}}
	for _, a := range movement.Audiences() {
		terms = append(terms, Terms{Audience: a})
	}
	made := 0
	for _, tm := range terms {
		for _, m := range lib.All() {
			l := Of(lib, m, tm)
			suits := false
			for n := range m.Levels {
				suits = suits || tm.Takes(m, n+1)
			}
			assert.Equal(t, suits, len(l.Rungs) > 0, "%s: %s", m.Slug, tm.Audience)
			if suits {
				made++
			}
			for i, r := range l.Rungs {
				at := m.Slug + " " + r.Dose.String()
				assert.True(t, tm.Takes(m, r.Level), at)
				assert.True(t, r.Dose.Sayable(), at)
				assert.Positive(t, r.Seconds, at)
				b, _ := m.Bounds(r.Level)
				assert.LessOrEqual(t, b.Min, r.Amount, at)
				assert.LessOrEqual(t, r.Amount, b.Max, at)
				if i == 0 {
					assert.Equal(t, First, r.Lever, at)
					continue
				}
				before := l.Rungs[i-1]
				assert.GreaterOrEqual(t, r.Demand, before.Demand, "%s: demand falls", at)
				if r.Lever == ByLevel {
					assert.Greater(t, r.Level, before.Level, at)
					if m.Stretch {
						t.Errorf("%s: the level of a stretch climbs", at)
					}
				} else {
					assert.Equal(t, before.Level, r.Level, "%s: two levers at once", at)
					assert.Greater(t, r.Amount, before.Amount, at)
					assert.Greater(t, r.Work, before.Work, at)
					assert.Equal(t, r.Work > 1.34*before.Work, r.Large, at)
				}
				if easy, ok := l.Easy(lib, i); ok {
					assert.LessOrEqual(t, easy, i, at)
					assert.LessOrEqual(t, l.Rungs[easy].Amount, r.Amount, "%s: an easy day asks for more repetitions", at)
					assert.LessOrEqual(t, l.Rungs[easy].Work, EasyWork*r.Work, at)
					assert.Less(t, m.Skill(l.Rungs[easy].Level), 3, at)
				}
			}
			if m.Rest || m.Pattern == "breathe" {
				assert.LessOrEqual(t, len(l.Rungs), 1, "%s: rest has no ladder", m.Slug)
			}
		}
	}
	assert.Greater(t, made, 1000)
}

// A new level begins with at least LevelStep of the work of the rung before, where its range reaches so far; if so with the least that does.
func TestLevelSteps(t *testing.T) {
	lib := movement.Shipped()
	steps, within := 0, 0
	for _, m := range lib.All() {
		l := Of(lib, m, Terms{})
		for i := 1; i < len(l.Rungs); i++ {
			r, before := l.Rungs[i], l.Rungs[i-1]
			if r.Lever != ByLevel {
				continue
			}
			steps++
			b, _ := m.Bounds(r.Level)
			if r.Work < LevelStep*before.Work {
				assert.Greater(t, r.Amount+b.Step, b.Max, "%s %d: more would have kept the work", m.Slug, r.Level)
			} else {
				within++
				if less := r.Amount - b.Step; less >= b.Min && !m.DoseIsIt {
					assert.Less(t, r.Work*float64(less)/float64(r.Amount), LevelStep*before.Work*1.1, "%s %d: less would have done", m.Slug, r.Level)
				}
			}
		}
	}
	assert.Greater(t, steps, 150)
	assert.Greater(t, within, steps*9/10)
}

func TestLaddersInWords(t *testing.T) {
	lib := movement.Shipped()
	dog, _ := lib.Get("bird-dog")
	l := Of(lib, dog, Terms{})
	assert.Contains(t, l.Words(lib), "5 each side; next 6; next 7")
	assert.Contains(t, l.Words(lib), "then leg floats to hip height, ")
	flexor, _ := lib.Get("hip-flexor-stretch")
	s := Of(lib, flexor, Terms{})
	assert.Equal(t, "hold 20 s each side; next 30; next 45; next 60", s.Words(lib))
	rest, _ := lib.Get("constructive-rest")
	assert.Len(t, Of(lib, rest, Terms{}).Rungs, 1)
	hundred, _ := lib.Get("hundred")
	for _, r := range Of(lib, hundred, Terms{}).Rungs {
		assert.Equal(t, 10, r.Amount, "the dose makes it what it is")
	}
}

// A ladder may cross the versions of one thing.
func TestLaddersCrossAFamily(t *testing.T) {
	lib := movement.Shipped()
	var versions []*movement.Movement
	for _, s := range []string{"bridge", "bridge-dips", "bridge-toes", "bridge-march"} {
		m, _ := lib.Get(s)
		versions = append(versions, m)
	}
	l := Across(lib, versions, Terms{Bare: true})
	require.NotEmpty(t, l.Rungs)
	seen := map[string]bool{}
	for i, r := range l.Rungs {
		seen[r.Movement] = true
		if i > 0 {
			assert.GreaterOrEqual(t, r.Demand, l.Rungs[i-1].Demand)
		}
	}
	assert.Greater(t, len(seen), 2)
	assert.Contains(t, l.Words(lib), "then Bridge ")
	assert.Empty(t, Across(lib, nil, Terms{}).Rungs)
}

// Climbing takes the next rung every so many goes, and stays on the last.
func TestClimb(t *testing.T) {
	lib := movement.Shipped()
	dog, _ := lib.Get("bird-dog")
	l := Of(lib, dog, Terms{})
	assert.Equal(t, 2, l.At(2, Gone{}, plan.Climb{When: plan.EveryTime, Times: 1}))
	assert.Equal(t, 5, l.At(2, Gone{Goes: 3}, plan.Climb{When: plan.EveryTime, Times: 1}))
	assert.Equal(t, 3, l.At(2, Gone{Goes: 3}, plan.Climb{When: plan.EveryTime, Times: 2}))
	assert.Equal(t, 2, l.At(2, Gone{Goes: 9, Days: 9, Weeks: 9}, plan.Climb{When: plan.WhenReady}))
	assert.Equal(t, len(l.Rungs)-1, l.At(2, Gone{Days: 99}, plan.Climb{When: plan.EveryDay}))
	assert.Equal(t, 8, l.Rungs[l.Usual(lib)].Amount)
}

func BenchmarkLadders(b *testing.B) {
	lib := movement.Shipped()
	for b.Loop() {
		for _, m := range lib.All() {
			Of(lib, m, Terms{})
		}
	}
}
