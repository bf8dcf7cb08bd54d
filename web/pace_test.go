package web

import (
	"encoding/json"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/run"
	"wavekine/core/timeline"
	"wavekine/demo"
)

// leadRun is the run that a lead page begins with.
func leadRun(t *testing.T, v *visitor, at string) *run.Run {
	t.Helper()
	code, page, _ := v.do("GET", at+"/lead", nil)
	require.Equal(t, http.StatusOK, code)
	_, rest, ok := strings.Cut(page, `id="lead-data">`)
	require.True(t, ok)
	text, _, _ := strings.Cut(rest, "</script>")
	var d struct {
		Run map[string]any `json:"run"`
	}
	require.NoError(t, json.Unmarshal([]byte(text), &d))
	d.Run["id"], d.Run["started"] = "test-"+time.Now().Format("150405.000000"), "2026-05-14T08:00:00Z"
	d.Run["events"] = []any{}
	b, err := json.Marshal(d.Run)
	require.NoError(t, err)
	r, err := run.Read(b)
	require.NoError(t, err)
	return r
}

// handLed leads it with every step as long as of says of its usual time, ended by hand.
func handLed(r *run.Run, of func(s *run.Step) float64) *run.Run {
	at := clock.Span(0)
	r.Events = []run.Event{{Does: run.Began}}
	for i := range r.Steps {
		s, does := &r.Steps[i], run.SetUp
		if s.Kind.Working() {
			does = run.Work
		}
		r.Events = append(r.Events, run.Event{At: at, Does: does, Step: i})
		if s.Clocked {
			at += s.S
			continue
		}
		at += s.Usual.Times(of(s))
		r.Events = append(r.Events, run.Event{At: at, Does: run.MovedOn})
	}
	r.Events = append(r.Events, run.Event{At: at, Does: run.Ended})
	return r
}

// sent posts a run and gives the answer.
func sent(t *testing.T, v *visitor, r *run.Run) (int, string) {
	t.Helper()
	b, err := json.Marshal(r)
	require.NoError(t, err)
	return sentText(t, v, string(b))
}

func sentText(t *testing.T, v *visitor, text string) (int, string) {
	t.Helper()
	q, err := http.NewRequest("POST", v.base+"/runs", strings.NewReader(text))
	require.NoError(t, err)
	q.Header.Set("Content-Type", "application/json")
	res, err := v.http.Do(q)
	require.NoError(t, err)
	defer func() { _ = res.Body.Close() }()
	var out map[string]string
	_ = json.NewDecoder(res.Body).Decode(&out)
	return res.StatusCode, out["error"] + out["saved"]
}

// lengthOf is the clock of a session's bench as a teacher sees it.
func lengthOf(t *testing.T, v *visitor, at string) clock.Span {
	t.Helper()
	_, body, _ := v.do("GET", at, nil)
	_, rest, ok := strings.Cut(body, `<p class="clock"><b class="num">`)
	require.True(t, ok)
	text, _, _ := strings.Cut(rest, "<")
	sp, err := clock.Parse(text)
	require.NoError(t, err)
	return sp
}

// A pace is learnt from led classes, taken into use, and put back again; it is the teacher's alone.
func TestOwnPace(t *testing.T) {
	base, st := site(t)
	_, err := st.DB.Exec(`DELETE FROM runs`) // the demo's
	require.NoError(t, err)
	v := visit(t, base).signIn(demo.Email)
	const at = "/sessions/thursday-mat"
	before := lengthOf(t, v, at)
	code, body, _ := v.do("POST", "/house/pace", url.Values{"do": {"all"}}, "HX-Request", "true")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "nothing to take yet")
	for range 3 {
		r := handLed(leadRun(t, v, at), func(s *run.Step) float64 {
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
		code, says := sent(t, v, r)
		require.Equal(t, 200, code, says)
	}
	_, page, _ := v.do("GET", "/house/pace", nil)
	for _, says := range []string{`from 3 classes you led`, `counting (19|2\d) % longer`, `explaining and setting up 4[789] % longer`, `changing position and side 1[89] % shorter`, `The hundred`, `Use all of it`} {
		assert.Regexp(t, says, page[strings.Index(page, "<main"):])
	}
	code, body, _ = v.do("POST", "/house/pace", url.Values{"do": {"all"}}, "HX-Request", "true")
	require.Equal(t, 303, code, body)
	after := lengthOf(t, v, at)
	assert.Greater(t, after, before+before/8)
	_, page, _ = v.do("GET", "/house/pace", nil)
	assert.NotContains(t, page, "Use all of it", "all of it is in use")

	// it is hers alone, also of what is there already
	colleague := visit(t, base).signIn("tobias@claybank.example")
	assert.Equal(t, before, lengthOf(t, colleague, at), "a colleague sees lengths at the pace of their own")
	code, body, _ = colleague.do("POST", "/house/pace", url.Values{"slug": {"~talk"}, "do": {"refuse"}}, "HX-Request", "true")
	assert.Equal(t, 422, code, "nothing of hers is theirs to put back")
	assert.Contains(t, body, "o pace of your own")
	code, _, _ = v.do("POST", "/house/pace", url.Values{"slug": {"~talk"}, "do": {"refuse"}})
	require.Equal(t, 303, code)
	assert.Less(t, lengthOf(t, v, at), after)
	for _, key := range []string{"lunge", "~nothing", ""} {
		code, body, _ = v.do("POST", "/house/pace", url.Values{"slug": {key}, "do": {"accept"}}, "HX-Request", "true")
		assert.Equal(t, 422, code)
		assert.Contains(t, body, "oo few classes")
	}
	// What is in use does not teach itself: the same class led again says the same.
	code, says := sent(t, v, handLed(leadRun(t, v, at), func(s *run.Step) float64 {
		if s.Kind == timeline.Setup {
			return 1.5
		}
		return 1.2
	}))
	require.Equal(t, 200, code, says)
	_, page, _ = v.do("GET", "/house/pace", nil)
	assert.True(t, strings.Contains(page, "explaining and setting up 4"), "still about half longer than the product's own")
}

// "This class took 24:30 when I taught it" brings every length nearer at once, and can be forgotten.
func TestARememberedClass(t *testing.T) {
	base, st := site(t)
	v := visit(t, base).signIn(demo.Email)
	const at = "/sessions/wheel-side-hips"
	before := lengthOf(t, v, at)
	for says, f := range map[string]url.Values{
		"Choose a session":     {"plan": {"nowhere"}, "took": {"24:30"}, "day": {"2026-05-13"}},
		"how long it took":     {"plan": {"wheel-side-hips"}, "took": {"long"}, "day": {"2026-05-13"}},
		"how long it took,":    {"plan": {"wheel-side-hips"}, "took": {"9:00:00"}, "day": {"2026-05-13"}},
		"is not a date":        {"plan": {"wheel-side-hips"}, "took": {"24:30"}, "day": {"2026-02-31"}},
		"has been led already": {"plan": {"wheel-side-hips"}, "took": {"24:30"}, "day": {"2099-05-13"}},
	} {
		code, body, _ := v.do("POST", "/log", f, "HX-Request", "true")
		assert.Equal(t, 422, code)
		assert.Contains(t, body, says)
	}
	code, body, _ := v.do("POST", "/log", url.Values{"plan": {"wheel-side-hips"}, "took": {"24:30"}, "day": {"2026-05-13"}})
	require.Equal(t, 303, code, body)
	_, log, _ := v.do("GET", "/log", nil)
	assert.Contains(t, log, "remembered")
	code, _, _ = v.do("POST", "/house/pace", url.Values{"do": {"all"}})
	require.Equal(t, 303, code)
	after := lengthOf(t, v, at)
	// The root of taken over planned, on everything the clock does not end.
	want := before.Seconds() * (24.5 * 60 / before.Seconds())
	assert.Greater(t, after, before)
	assert.Less(t, after.Seconds(), want)
	rs, err := st.Runs(t.Context(), "claybank", 1)
	require.NoError(t, err)
	_, page, _ := v.do("GET", "/log/"+rs[0].ID, nil)
	assert.Contains(t, page, "Only the length of this class is remembered")
	other := visit(t, base).signIn("tobias@claybank.example")
	code, _, _ = other.do("POST", "/log/"+rs[0].ID+"/delete", nil)
	assert.Equal(t, 404, code)
	code, _, _ = v.do("POST", "/log/"+rs[0].ID+"/delete", nil)
	require.Equal(t, 303, code)
}
