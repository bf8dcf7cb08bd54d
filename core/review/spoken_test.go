package review

import (
	"errors"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/plan"
	"wavekine/core/plan/made"
	"wavekine/core/timeline"
)

// Eleven words take six seconds at 110 a minute: in a minute there is room for three of them, not where the next comes after four seconds, nor at the end.
func TestWordsHaveTheirTime(t *testing.T) {
	eleven := strings.TrimSpace(strings.Repeat("soft ", 11))
	for words, want := range map[string]int{
		`{"at":"0 s","say":"` + eleven + `"},{"at":"10 s","say":"` + eleven + `"}`: 0,
		`{"at":"0 s","say":"` + eleven + `"},{"at":"4 s","say":"` + eleven + `"}`:  1,
		`{"at":"58 s","say":"` + eleven + `"}`:                                     1,
		`{"at":"2 min","say":"late"}`:                                              1,
	} {
		text := `{"format":"wavekine.session/1.2","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"constructive-rest","dose":"60 s","words":[` + words + `]}]}]}]}`
		s, err := plan.ReadSession([]byte(text), lib)
		require.NoError(t, err)
		fs := of(check(t, s), "spoken")
		require.Len(t, fs, want, words)
		for _, f := range fs {
			for _, m := range f.Mends {
				c, err := plan.Apply(s, lib, m)
				require.NoError(t, err)
				assert.Empty(t, of(check(t, c.Session), "spoken"), "%s: %s", m.Says, words)
			}
		}
	}
}

// Every mend of every finding on classes with every word goes through the gate, or says why it does not: what it makes can be stored.
func TestMendsOfClassesWithEveryWord(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 27))
	tried, gave := map[string]int{}, 0
	n := 120
	if testing.Short() {
		n = 12
	}
	for range n {
		s, err := plan.ReadSession(made.Session(r, lib), lib)
		require.NoError(t, err)
		for _, f := range check(t, s) {
			for _, m := range f.Mends {
				c, err := plan.Apply(s, lib, m)
				tried[f.Rule]++
				var refused *plan.Refused
				require.False(t, errors.As(err, &refused), "%s: %s: %v", f.Says, m.Says, err)
				if err == nil {
					gave++
					_, err = timeline.Build(c.Session, lib)
					require.NoError(t, err)
				}
			}
		}
	}
	t.Log(tried, gave)
	assert.Greater(t, gave, 3*n)
	assert.Positive(t, tried["spoken"])
}
