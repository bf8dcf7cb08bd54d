package web_test

import (
	"context"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/review"
	"wavekine/demo"
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

func TestMovementsAreFound(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	_, all, _ := v.Do("GET", "/movements", nil)
	assert.Contains(t, all, "207 movements")
	assert.Contains(t, all, "Standing and on a chair")
	code, part, _ := v.Do("GET", "/movements?q=wri", nil, "HX-Request", "true")
	assert.Equal(t, 200, code)
	assert.NotContains(t, part, "<html")
	assert.Contains(t, part, "Wrist rocks")
	_, none, _ := v.Do("GET", "/movements?q="+url.QueryEscape(`"><script>x`), nil)
	assert.Contains(t, none, "Nothing of that kind")
	assert.NotContains(t, none, "<script>x")

	_, page, _ := v.Do("GET", "/movements/double-leg-lower", nil)
	for _, w := range []string{"demand, computed", "<dt>hips</dt>", "body weight × height", "two straight legs at 60 degrees", "Take care", "Thursday mat, classical order", "Last led"} {
		assert.Contains(t, page, w)
	}
	_, page, _ = v.Do("GET", "/movements/rib-breathing", nil)
	assert.Contains(t, page, "demand, judged")
}

func TestFiguresAreKeptByTheBrowser(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base)
	code, svg, h := v.Do("GET", "/figures/bird-dog-3-l.svg", nil)
	require.Equal(t, 200, code)
	assert.Equal(t, "image/svg+xml", h.Get("Content-Type"))
	assert.Contains(t, h.Get("Cache-Control"), "immutable")
	assert.Contains(t, svg, `id="f"`)
	for _, bad := range []string{"bird-dog-0-s", "bird-dog-4-s", "bird-dog-x-s", "bird-dog-1-xl", "bird-dog", "..%2f..%2fgo.mod"} {
		code, _, _ := v.Do("GET", "/figures/"+bad+".svg", nil)
		assert.Equal(t, 404, code, bad)
	}
}

func TestSessionsAreMadeCopiedAndPutAway(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	code, _, h := v.Do("POST", "/sessions", url.Values{"title": {"  Morning  "}, "target": {"15"}})
	require.Equal(t, 303, code)
	at := h.Get("Location")
	_, page, _ := v.Do("GET", at, nil)
	assert.Contains(t, page, `value="Morning"`)
	assert.Contains(t, page, `value="15:00"`)
	assert.Contains(t, page, "Nothing here yet", "an empty bench teaches")
	code, body, _ := v.Do("GET", at+"/lead", nil)
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "nothing to lead yet")
	code, _, _ = v.Do("GET", at+"/print", nil)
	assert.Equal(t, 200, code)

	code, _, h = v.Do("POST", "/sessions/wheel-side-hips/copy", nil)
	require.Equal(t, 303, code)
	_, page, _ = v.Do("GET", h.Get("Location"), nil)
	assert.Contains(t, page, "Wheel-side hips and upper back copy")
	code, _, _ = v.Do("POST", at+"/archive", nil)
	assert.Equal(t, 303, code)
	code, _, _ = v.Do("POST", at+"/archive", nil)
	assert.Equal(t, 404, code, "once")
	ds, err := st.Sessions.List(context.Background(), "claybank")
	require.NoError(t, err)
	assert.Len(t, ds, 7)
	for _, f := range []url.Values{{"title": {""}}, {"title": {"x"}, "target": {"soon"}}, {"title": {"x"}, "target": {"0:10"}}} {
		code, _, _ := v.Do("POST", "/sessions", f)
		assert.Equal(t, 422, code, f)
	}
}

func TestHouseLimitsChangeTheSecondLook(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	bench := func() string { _, b, _ := v.Do("GET", "/sessions/wheel-side-hips", nil); return b }
	assert.Contains(t, bench(), "Head up for")
	f := url.Values{"rev": {"1"}, "name": {"Claybank"}, "zone": {"Europe/Lisbon"}, "head_up": {"600"}, "length": {"7.5"}}
	code, _, _ := v.Do("POST", "/house", f)
	require.Equal(t, 303, code)
	assert.NotContains(t, bench(), "Head up for", "the house allows ten minutes now")
	_, page, _ := v.Do("GET", "/house", nil)
	assert.Contains(t, page, "changed")
	_, s, err := st.SignedIn(context.Background(), "claybank", "maren", 1)
	require.NoError(t, err)
	h := kit.ReadHouse(s.House)
	set := func(key string) float64 {
		l, ok := review.LimitOf(key)
		require.True(t, ok, key)
		return h.Limits.Of(l)
	}
	assert.InDelta(t, 7.5, set("length"), 1e-9)
	assert.InDelta(t, 180, set("wrists"), 1e-9, "an emptied value is the default")
	f.Set("head_up", "5")
	code, body, _ := v.Do("POST", "/house", f)
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "expected 20 to 900 s")

	code, page, _ = v.Do("POST", "/house/teachers", url.Values{"name": {"Nell"}, "email": {"nell@claybank.example"}})
	require.Equal(t, 200, code)
	assert.Contains(t, page, "/link/")
	code, body, _ = v.Do("POST", "/house/teachers", url.Values{"name": {"Nell"}, "email": {"NELL@claybank.example"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "already")
}

func TestPeopleAndSlots(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	code, _, _ := v.Do("POST", "/people", url.Values{"name": {"Wren <b>"}, "watch": {"vertigo"}, "level": {"2"}})
	require.Equal(t, 303, code)
	_, page, _ := v.Do("GET", "/", nil)
	assert.Contains(t, page, "Wren &lt;b&gt;")
	assert.Contains(t, page, "vertigo")
	ms, err := st.Movers(context.Background(), "claybank")
	require.NoError(t, err)
	require.Len(t, ms, 8)
	code, _, _ = v.Do("POST", "/people/perpetua/delete", url.Values{"rev": {"1"}})
	assert.Equal(t, 303, code)
	code, _, _ = v.Do("POST", "/people/perpetua/delete", url.Values{"rev": {"1"}})
	assert.Equal(t, 404, code)

	code, _, _ = v.Do("POST", "/slots", url.Values{"plan": {"kiln-circuit"}, "day": {"2026-05-14"}, "time": {"09:30"}})
	require.Equal(t, 303, code)
	_, page, _ = v.Do("GET", "/", nil)
	assert.Contains(t, page, "4 to lead today, two at the same time", "a clash is said")
	code, _, _ = v.Do("POST", "/slots/slot-mat/delete", nil)
	assert.Equal(t, 303, code)
	for _, f := range []url.Values{{"plan": {"kiln-circuit"}, "day": {"2026-05-14"}, "time": {"25:00"}}, {"plan": {"nowhere"}, "day": {"2026-05-14"}, "time": {"10:00"}}} {
		code, _, _ := v.Do("POST", "/slots", f)
		assert.Equal(t, 422, code)
	}
}

func TestSeriesIsMadeAndPrintedOnOnePage(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	code, _, h := v.Do("POST", "/series", url.Values{"title": {"Thirty"}, "start": {"2026-06-01"}, "days": {"30"}})
	require.Equal(t, 303, code)
	at := h.Get("Location")
	edit := func(rev string, f url.Values) (int, string) {
		f.Set("rev", rev)
		code, body, _ := v.Do("POST", at+"/edit", f, "HX-Request", "true")
		return code, body
	}
	code, body := edit("1", url.Values{"op": {"set"}, "day": {"1"}, "plan": {"kiln-circuit"}})
	require.Equal(t, 200, code)
	assert.Contains(t, body, "Kiln circuit")
	assert.Equal(t, 5, strings.Count(body, `class="week n`), "five rows of a week")
	code, body = edit("1", url.Values{"op": {"rest"}, "day": {"2"}})
	assert.Equal(t, 409, code, "somebody else was first")
	assert.Contains(t, body, "Nothing of yours was saved")
	code, _ = edit("2", url.Values{"op": {"copy"}, "day": {"1"}, "to": {"30"}})
	require.Equal(t, 200, code)
	code, body = edit("3", url.Values{"op": {"days"}, "days": {"20"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "ay 30 has a session")
	code, body = edit("3", url.Values{"op": {"head"}, "shape": {"ramp"}})
	require.Equal(t, 200, code)
	assert.Contains(t, body, `<option value="ramp" selected>`)
	code, page, _ := v.Do("GET", at+"/print", nil)
	assert.Equal(t, 200, code)
	assert.Equal(t, 30, strings.Count(page, `class="num n"`))
	_, ics, _ := v.Do("GET", at+"/calendar", nil)
	assert.Equal(t, 2, strings.Count(ics, "BEGIN:VEVENT"))
}
