package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// What does not suit an audience, row by row, and what does (common practice, no source).
func TestSuits(t *testing.T) {
	for audience, c := range map[string]struct{ not, fine []string }{
		"expecting":             {[]string{"swan 5", "hundred level 2", "rolling like a ball 6", "full plank level 2 30 s", "teaser level 3 3 reps", "constructive rest 2 min", "double leg lower 6"}, []string{"clam 8 each side", "bird dog 8 each side", "squat 8", "mermaid level 1 20 s each side", "cat and cow 6", "knee opening 6 alternating"}},
		"low bone density":      {[]string{"roll-up 4", "chest lift 8", "seal level 2 6 reps", "spine stretch forward 5", "saw level 2 4 pairs", "neck pull 3", "teaser 3", "child's pose 30 s"}, []string{"hip hinge 8", "squat 8", "bird dog 8 each side", "bridge 8", "swan 5", "dead bug 8 pairs", "saw level 1 4 pairs"}},
		"standing only":         {[]string{"bird dog 8 each side", "clam 8 each side"}, []string{"squat 8", "sit to stand 8", "chair march 40 s"}},
		"beginners":             {[]string{"teaser level 3 3 reps", "full plank level 2 20 s", "jackknife 3"}, []string{"dead bug 8 pairs", "bridge 8", "bird dog level 2 8 each side", "squat 8"}},
		"older":                 {[]string{"rolling like a ball level 2 5", "jackknife 3", "full plank level 2 20 s"}, []string{"squat 8", "bridge 8", "swan 5", "roll-up level 1 4"}},
		"after birth":           {[]string{"roll-up 4", "full plank level 2 20 s", "hundred level 2", "double leg lower 6"}, []string{"clam 8 each side", "bridge 8", "bird dog level 1 8 each side", "heel taps level 1 8 alternating"}},
		"expecting first third": {[]string{"rolling like a ball level 2 5", "rocking 4"}, []string{"bridge 8", "clam 8 each side", "swan level 1 5"}},
		"":                      {nil, []string{"jackknife 3", "swan 5", "roll-up 4"}},
		"mixed":                 {nil, []string{"jackknife 3", "swan 5", "roll-up 4"}},
	} {
		head := `"audience":"` + audience + `",`
		a, err := movement.ReadAudience(audience)
		require.NoError(t, err)
		for _, row := range c.not {
			fs := of(check(t, read(t, rows(row), head)), "suits")
			if assert.Len(t, fs, 1, "%s for %s", row, audience) {
				assert.Contains(t, fs[0].Says, "does not suit "+a.Called())
				assert.Empty(t, fs[0].Mends)
				assert.Equal(t, audience != "beginners" && audience != "older", fs[0].Severity == Stop, "%s for %s", row, audience)
			}
		}
		for _, row := range c.fine {
			assert.Empty(t, of(check(t, read(t, rows(row), head)), "suits"), "%s for %s", row, audience)
		}
	}
}

// No mend of any finding puts something in that the audience should not do: over classes of every movement of the library.
func TestNoMendPutsInWhatDoesNotSuit(t *testing.T) {
	tried := 0
	for _, a := range []movement.Audience{movement.Expecting, movement.LowBone, movement.StandingOnly, movement.SinceBirth, movement.ExpectingLast | movement.Older} {
		for _, m := range lib.All() {
			for n := range m.Levels {
				if !m.Suits(n+1, a) && a != movement.StandingOnly {
					continue
				}
				s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","audience":"`+a.String()+`","target":"9:00","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[
					{"movement":"squat"},{"movement":"chair-cat-cow","level":2,"dose":"30 reps"},{"movement":"`+m.Slug+`","level":`+string(rune('1'+n))+`}]}]}]}`), lib)
				require.NoError(t, err)
				tl, err := timeline.Build(s, lib)
				require.NoError(t, err)
				fs, err := Check(t.Context(), s, tl, lib, Limits{})
				require.NoError(t, err)
				before := len(of(fs, "suits"))
				for _, f := range fs {
					for _, mend := range f.Mends {
						after, err := mend.Apply(s)
						require.NoError(t, err)
						tried++
						require.LessOrEqual(t, len(of(check(t, after), "suits")), before, "%s level %d for %s: %s", m.Slug, n+1, a, mend.ID)
					}
				}
			}
		}
	}
	assert.Greater(t, tried, 300)
}

func TestSeveralAudiences(t *testing.T) {
	s := read(t, rows("roll-up level 1 4", "half pigeon hold 20 s each side", "one leg stand level 2 hold 20 s each side"), `"audience":"seniors with osteoporosis",`)
	fs := check(t, s)
	assert.Len(t, of(fs, "suits"), 1)
	assert.Contains(t, of(fs, "suits")[0].Says, "low bone density")
	assert.Len(t, of(fs, "hold"), 1)
	assert.Len(t, of(fs, "balance"), 1)
}
