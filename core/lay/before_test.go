package lay

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// What cannot be had is said before anything is laid, and then again, in the same words, of what was laid.
func TestWhatIsSaidBefore(t *testing.T) {
	lib := movement.Shipped()
	for text, says := range map[string]string{
		"9 days, 15 min, hips, ramp, no kit":                                       "",
		"21 days from wednesday, 12 to 15 min, hips and upper back, no kit, mixed": "",
		"7 days, rest day 3, peak day 3":                                           "the peak is asked for on day 3, which is a rest day",
		"7 days, peak day 9":                                                       "the peak is asked for on day 9 of 7",
		"9 days, older, learn jackknife":                                           "Jackknife, to learn: it is not for this audience",
		"9 days, no kit, learn bridge with the feet on a roller":                   "needs kit that is not there",
		"9 days, every day bridge with the feet on a roller":                       "needs kit that is not there",
		"9 days, older, test jackknife on days 1 and 9":                            "Jackknife, as a test",
		"9 days, wrists and hips":                                                  "too little for wrists to build a day on",
		"9 days, for expecting second third, breath and hips":                      "nothing for breath",
		"9 days, 15 min, same set growing":                                         "say a range, such as 12 to 15 min",
		"9 days, 30 min, two long holds":                                           "two long holds take about 7, then 11, then 15 minutes, and 30 min is asked for",
		"9 days, 6 min, learn bird dog, clam, dart, swan and saw every day":        "what must come takes",
		"2 days, rest days 1 and 2":                                                "every day is a rest day",
	} {
		b := asked(t, text)
		could := Before(lib, b)
		if says == "" {
			assert.Empty(t, could, text)
			continue
		}
		assert.Contains(t, strings.Join(could, "; "), says, text)
		l, err := Series(context.Background(), lib, b, Options{})
		if err != nil || strings.HasPrefix(says, "say a range") || strings.HasPrefix(says, "two long holds take") || strings.Contains(says, "as a test") {
			continue
		}
		assert.Contains(t, strings.Join(l.CouldNot, "; "), says, text)
	}
}

// A theme with too little to it is in every class, and no day is about it; a brief of nothing else is about the whole body.
func TestThinThemesAreInEveryClass(t *testing.T) {
	lib := movement.Shipped()
	for _, text := range []string{"10 days, 15 min, wrists and hips, no kit", "10 days, 15 min, neck, no kit", "14 days, 12 min, no kit, week 1 wrists and core, week 2 hips"} {
		l := laid(t, text, Options{})
		theme := "wrists"
		if strings.Contains(text, "neck") {
			theme = "neck"
		}
		for _, c := range l.Days {
			require.NotNil(t, c.Session)
			assert.NotEqual(t, theme, c.Theme, "%s: day %d", text, c.N)
			there := false
			c.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
				m, ok := lib.Get(r.Movement)
				there = there || ok && strings.Contains(strings.Join(m.ThemesOf(), ","), theme)
			})
			assert.True(t, there, "%s: day %d", text, c.N)
			assert.Zero(t, c.Stops)
		}
		doc, err := l.Document(lib, thursday, 0)
		require.NoError(t, err)
		assert.Contains(t, doc.Brief, theme, "the words stay as they were said")
	}
}
