package webtest

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/run"
)

// LeadRun is the run that a lead page begins with.
func LeadRun(t *testing.T, v *Visitor, at string) *run.Run {
	t.Helper()
	code, page, _ := v.Do("GET", at+"/lead", nil)
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

// HandLed leads it with every step as long as of says of its usual time, ended by hand.
func HandLed(r *run.Run, of func(s *run.Step) float64) *run.Run {
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

// Sent posts a run and gives the answer.
func Sent(t *testing.T, v *Visitor, r *run.Run) (int, string) {
	t.Helper()
	b, err := json.Marshal(r)
	require.NoError(t, err)
	return SentText(t, v, string(b))
}

// SentText posts the text of a run and gives the answer.
func SentText(t *testing.T, v *Visitor, text string) (int, string) {
	t.Helper()
	q, err := http.NewRequest("POST", v.Base+"/runs", strings.NewReader(text))
	require.NoError(t, err)
	q.Header.Set("Content-Type", "application/json")
	res, err := v.HTTP.Do(q)
	require.NoError(t, err)
	defer func() { _ = res.Body.Close() }()
	var out map[string]string
	_ = json.NewDecoder(res.Body).Decode(&out)
	return res.StatusCode, out["error"] + out["saved"]
}

// LengthOf is the clock of a session's bench as a teacher sees it.
func LengthOf(t *testing.T, v *Visitor, at string) clock.Span {
	t.Helper()
	_, body, _ := v.Do("GET", at, nil)
	_, rest, ok := strings.Cut(body, `<p class="clock"><b class="num">`)
	require.True(t, ok)
	text, _, _ := strings.Cut(rest, "<")
	sp, err := clock.Parse(text)
	require.NoError(t, err)
	return sp
}
