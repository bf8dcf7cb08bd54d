package house_test

import (
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/run"
	"wavekine/core/timeline"
	"wavekine/demo"
	"wavekine/web/webtest"
)

// A pace is learnt from led classes, taken into use, and put back again; it is the teacher's alone.
func TestOwnPace(t *testing.T) {
	base, st := webtest.Site(t)
	_, err := st.DB.Exec(`DELETE FROM runs`) // the demo's
	require.NoError(t, err)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	const at = "/sessions/thursday-mat"
	before := webtest.LengthOf(t, v, at)
	code, body, _ := v.Do("POST", "/house/pace", url.Values{"do": {"all"}}, "HX-Request", "true")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "nothing to take yet")
	for range 3 {
		r := webtest.HandLed(webtest.LeadRun(t, v, at), func(s *run.Step) float64 {
			switch {
			case s.Movement == "hundred" && s.Kind.Working():
				return 1.6
			case s.Kind.Working():
				return 1.2
			case s.Kind == timeline.Setup:
				return 1.5
			}
			return .8
		})
		code, says := webtest.Sent(t, v, r)
		require.Equal(t, 200, code, says)
	}
	_, page, _ := v.Do("GET", "/house/pace", nil)
	for _, says := range []string{`from 3 classes you led`, `counting (19|2\d) % longer`, `explaining and setting up 4[789] % longer`, `changing position and side 1[89] % shorter`, `The hundred`, `Use all of it`} {
		assert.Regexp(t, says, page[strings.Index(page, "<main"):])
	}
	code, body, _ = v.Do("POST", "/house/pace", url.Values{"do": {"all"}}, "HX-Request", "true")
	require.Equal(t, 303, code, body)
	after := webtest.LengthOf(t, v, at)
	assert.Greater(t, after, before+before/8)
	_, page, _ = v.Do("GET", "/house/pace", nil)
	assert.NotContains(t, page, "Use all of it", "all of it is in use")

	// it is hers alone, also of what is there already
	colleague := webtest.Visit(t, base).SignIn("tobias@claybank.example")
	assert.Equal(t, before, webtest.LengthOf(t, colleague, at), "a colleague sees lengths at the pace of their own")
	code, body, _ = colleague.Do("POST", "/house/pace", url.Values{"slug": {"~talk"}, "do": {"refuse"}}, "HX-Request", "true")
	assert.Equal(t, 422, code, "nothing of hers is theirs to put back")
	assert.Contains(t, body, "o pace of your own")
	code, _, _ = v.Do("POST", "/house/pace", url.Values{"slug": {"~talk"}, "do": {"refuse"}})
	require.Equal(t, 303, code)
	assert.Less(t, webtest.LengthOf(t, v, at), after)
	for _, key := range []string{"lunge", "~nothing", ""} {
		code, body, _ = v.Do("POST", "/house/pace", url.Values{"slug": {key}, "do": {"accept"}}, "HX-Request", "true")
		assert.Equal(t, 422, code)
		assert.Contains(t, body, "oo few classes")
	}
	// What is in use does not teach itself: the same class led again says the same.
	code, says := webtest.Sent(t, v, webtest.HandLed(webtest.LeadRun(t, v, at), func(s *run.Step) float64 {
		if s.Kind == timeline.Setup {
			return 1.5
		}
		return 1.2
	}))
	require.Equal(t, 200, code, says)
	_, page, _ = v.Do("GET", "/house/pace", nil)
	assert.True(t, strings.Contains(page, "explaining and setting up 4"), "still about half longer than the product's own")
}

// "This class took 24:30 when I taught it" brings every length nearer at once, and can be forgotten.
func TestARememberedClass(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	const at = "/sessions/wheel-side-hips"
	before := webtest.LengthOf(t, v, at)
	for says, f := range map[string]url.Values{
		"Choose a session":     {"plan": {"nowhere"}, "took": {"24:30"}, "day": {"2026-05-13"}},
		"how long it took":     {"plan": {"wheel-side-hips"}, "took": {"long"}, "day": {"2026-05-13"}},
		"how long it took,":    {"plan": {"wheel-side-hips"}, "took": {"9:00:00"}, "day": {"2026-05-13"}},
		"is not a date":        {"plan": {"wheel-side-hips"}, "took": {"24:30"}, "day": {"2026-02-31"}},
		"has been led already": {"plan": {"wheel-side-hips"}, "took": {"24:30"}, "day": {"2099-05-13"}},
	} {
		code, body, _ := v.Do("POST", "/log", f, "HX-Request", "true")
		assert.Equal(t, 422, code)
		assert.Contains(t, body, says)
	}
	code, body, _ := v.Do("POST", "/log", url.Values{"plan": {"wheel-side-hips"}, "took": {"24:30"}, "day": {"2026-05-13"}})
	require.Equal(t, 303, code, body)
	_, log, _ := v.Do("GET", "/log", nil)
	assert.Contains(t, log, "remembered")
	code, _, _ = v.Do("POST", "/house/pace", url.Values{"do": {"all"}})
	require.Equal(t, 303, code)
	after := webtest.LengthOf(t, v, at)
	// The root of taken over planned, on everything the clock does not end.
	want := before.Seconds() * (24.5 * 60 / before.Seconds())
	assert.Greater(t, after, before)
	assert.Less(t, after.Seconds(), want)
	rs, err := st.Runs(t.Context(), "claybank", 1)
	require.NoError(t, err)
	_, page, _ := v.Do("GET", "/log/"+rs[0].ID, nil)
	assert.Contains(t, page, "Only the length of this class is remembered")
	other := webtest.Visit(t, base).SignIn("tobias@claybank.example")
	code, _, _ = other.Do("POST", "/log/"+rs[0].ID+"/delete", nil)
	assert.Equal(t, 404, code)
	code, _, _ = v.Do("POST", "/log/"+rs[0].ID+"/delete", nil)
	require.Equal(t, 303, code)
}
