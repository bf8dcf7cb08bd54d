package web_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/demo"
	"wavekine/store"
	"wavekine/store/storetest"
	"wavekine/web"
	"wavekine/web/door"
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

// Every route, as nobody and as a teacher of another studio: nothing of the demo studio is shown or
// changed.
func TestEveryRouteKeepsStudiosApart(t *testing.T) {
	st := storetest.New(t)
	_, err := demo.Load(context.Background(), st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	require.NoError(t, st.CreateStudio(context.Background(), store.Studio{ID: "other", Name: "Other", Zone: "UTC"}, store.Teacher{ID: "o", Email: "o@other.example", Name: "O", PasswordHash: webtest.CheapHash("")}))
	h, err := web.New(st, kit.Options{Now: func() time.Time { return webtest.Thursday }})
	require.NoError(t, err)
	base := webtest.ServeStore(t, st)
	nobody, wrong := webtest.Visit(t, base), webtest.Visit(t, base).SignIn("o@other.example")
	open := map[string]bool{"/static/*path": true, "/sw.js": true, "/healthz": true, "/readyz": true, "/licences": true, "/link/:token": true, "/calendar/:token": true, "/open/:token": true, "/open/:token/word": true, "/open/:token/sheet": true, "/open/:token/manifest.webmanifest": true, "/m-icon.svg": true, "/favicon.ico": true, "/figures/:file": true, "/signin": true, "/start": true, "/room": true, "/room/:code": true, "/room/:code/live": true}
	ids := map[string]string{"/sessions": "wheel-side-hips", "/series": "off-the-wheel", "/groups": "morning-wheel", "/letters": "a-letter", "/log": "demo-run-1", "/slots": "slot-mat", "/people": "perpetua", "/movements": "bird-dog", "/own-figures": "own-x~1-1-s.svg", "/house/teachers": "tobias", "/templates": "a-template", "/patterns": "a-pattern", "/rooms": "ABCDEF"}
	secrets := []string{"Wheel-side", "Off the wheel", "Perpetua", "Maren", "Claybank", "Kiln circuit"}
	walked := 0
	routes := h.Routes()
	for _, r := range routes[:len(routes):len(routes)] { // a day's class goes every way that a session goes
		if rest, ok := strings.CutPrefix(r.Path, "/sessions/:id"); ok {
			routes = append(routes, gin.RouteInfo{Method: r.Method, Path: "/sessions/off-the-wheel.5" + rest})
		}
	}
	for _, r := range routes {
		if open[r.Path] || strings.HasPrefix(r.Path, "/m/:token") { // by links of their own: web/mover
			continue
		}
		path := r.Path
		for prefix, id := range ids {
			if strings.HasPrefix(path, prefix) {
				path = strings.NewReplacer(":id", id, ":slug", id, ":file", id, ":job", "none", ":code", id, ":as", "vtt").Replace(path)
			}
		}
		require.NotContains(t, path, ":", "the test knows no name for %s", r.Path)
		var form url.Values
		if r.Method == "POST" {
			form = url.Values{"op": {"delete"}, "at": {"1.1.1"}, "rev": {"1"}, "plan": {"wheel-side-hips"}, "day": {"2026-05-14"}, "time": {"10:00"}, "role": {"owner"}}
		}
		walked++
		code, body, head := nobody.Do(r.Method, path, form)
		assert.Contains(t, []int{http.StatusSeeOther, http.StatusUnauthorized}, code, "%s %s as nobody", r.Method, path)
		if code == http.StatusSeeOther {
			assert.True(t, strings.HasPrefix(head.Get("Location"), "/signin"), head.Get("Location"))
		}
		_, wbody, _ := wrong.Do(r.Method, path, form)
		for _, s := range secrets {
			assert.NotContains(t, body, s, "%s %s as nobody", r.Method, path)
			assert.NotContains(t, wbody, s, "%s %s as another studio", r.Method, path)
		}
		if strings.Contains(r.Path, ":id") || strings.Contains(r.Path, "off-the-wheel") {
			code, _, _ := wrong.Do(r.Method, path, form)
			assert.Contains(t, []int{http.StatusNotFound, http.StatusSeeOther}, code, "%s %s as another studio", r.Method, path)
			if r.Path != "/signout" {
				assert.Equal(t, http.StatusNotFound, code, "%s %s as another studio", r.Method, path)
			}
		}
		if r.Path == "/signout" {
			wrong.SignIn("o@other.example")
		}
	}
	assert.Greater(t, walked, 25)
	ds, err := st.Sessions.List(context.Background(), "claybank")
	require.NoError(t, err)
	assert.Len(t, ds, 6)
	for _, d := range ds {
		assert.Equal(t, 1, d.Rev, "nothing was changed")
	}
	ms, err := st.Movers(context.Background(), "claybank")
	require.NoError(t, err)
	assert.Len(t, ms, 7)
}

// OWASP: Secure Headers, Session Management and Password Storage cheat sheets.
func TestHeadersCookiesAndPasswords(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base)
	code, _, h := v.Do("GET", "/signin", nil)
	require.Equal(t, 200, code)
	csp := h.Get("Content-Security-Policy")
	for _, part := range []string{"default-src 'none'", "script-src 'self'", "base-uri 'none'", "frame-ancestors 'none'", "form-action 'self'"} {
		assert.Contains(t, csp, part)
	}
	assert.NotContains(t, csp, "unsafe")
	assert.Equal(t, "nosniff", h.Get("X-Content-Type-Options"))
	assert.Equal(t, "DENY", h.Get("X-Frame-Options"))
	assert.Equal(t, "no-store", h.Get("Cache-Control"))
	assert.Equal(t, "same-origin", h.Get("Cross-Origin-Opener-Policy"))

	_, _, h = v.Do("POST", "/signin", url.Values{"email": {demo.Email}, "password": {demo.Password}})
	token := func(h http.Header) string {
		for _, c := range h.Values("Set-Cookie") {
			assert.Contains(t, c, "HttpOnly")
			assert.Contains(t, c, "SameSite=Lax")
			if strings.HasPrefix(c, "wavekine=") {
				return c
			}
		}
		return ""
	}
	first := token(h)
	assert.NotEmpty(t, first)
	_, _, h = v.Do("POST", "/signin", url.Values{"email": {demo.Email}, "password": {demo.Password}})
	assert.NotEqual(t, first, token(h), "a new token at each sign-in, against fixation")

	hash := door.HashPassword("a long enough secret")
	assert.True(t, strings.HasPrefix(hash, "$argon2id$v=19$m=19456,t=2,p=1$"), "19 MiB, two passes, one lane")
	assert.True(t, door.CheckPassword(hash, "a long enough secret"))
	assert.False(t, door.CheckPassword(hash, "another"))
	assert.NotEqual(t, hash, door.HashPassword("a long enough secret"), "salted")
	for _, bad := range []string{"", "$argon2id$", "$argon2id$v=19$m=1,t=1,p=1$!!$!!", "plain"} {
		assert.False(t, door.CheckPassword(bad, ""))
	}

	// A page of another origin cannot post here.
	code, _, _ = v.Do("POST", "/sessions", url.Values{"title": {"X"}}, "Sec-Fetch-Site", "cross-site")
	assert.Equal(t, http.StatusForbidden, code)
	code, _, _ = v.Do("POST", "/sessions", url.Values{"title": {"X"}}, "Origin", "https://elsewhere.example")
	assert.Equal(t, http.StatusForbidden, code)
}

func TestSignInIsThrottledAndTellsNothing(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base)
	says := func(email string) (int, string) {
		code, body, _ := v.Do("POST", "/signin", url.Values{"email": {email}, "password": {"wrong wrong wrong"}})
		i := strings.Index(body, `role="alert">`)
		return code, body[i : i+80]
	}
	c1, s1 := says(demo.Email)
	c2, s2 := says("nobody@nowhere.example")
	assert.Equal(t, c1, c2)
	assert.Equal(t, s1, s2, "it does not tell who has an account")
	code := 0
	for range 10 {
		code, _ = says(demo.Email)
	}
	assert.Equal(t, http.StatusTooManyRequests, code)
}

func TestFirstStartMakesOneStudio(t *testing.T) {
	st := storetest.New(t)
	v := webtest.Visit(t, webtest.ServeStore(t, st))
	code, _, h := v.Do("GET", "/", nil)
	assert.Equal(t, 303, code)
	assert.Equal(t, "/start", h.Get("Location"))
	form := url.Values{"studio": {"Attic"}, "zone": {"Europe/Lisbon"}, "name": {"Ana"}, "email": {"ana@attic.example"}, "password": {"short"}}
	code, body, _ := v.Do("POST", "/start", form)
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "from 15 to 128 characters")
	assert.Contains(t, body, `value="Attic"`, "what was typed is kept")
	form.Set("password", "long enough for it")
	code, _, h = v.Do("POST", "/start", form)
	assert.Equal(t, 303, code)
	assert.Equal(t, "/", h.Get("Location"))
	code, body, _ = v.Do("GET", "/", nil)
	assert.Equal(t, 200, code)
	assert.Contains(t, body, "Attic")
	for _, method := range []string{"GET", "POST"} {
		code, _, _ = webtest.Visit(t, v.Base).Do(method, "/start", form)
		assert.Equal(t, 404, code, "the page works only while there is no studio")
	}
	for _, path := range []string{"/sessions", "/series", "/log", "/people", "/movements", "/house"} { // empty states
		code, body, _ := v.Do("GET", path, nil)
		assert.Equal(t, 200, code, path)
		assert.NotContains(t, body, "Claybank")
	}
}

// Bad input: a clear error that names the place, status 4xx, and nothing changed.
func TestBadInput(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	edit := func(kv ...string) (int, string) {
		f := url.Values{"rev": {"1"}}
		for i := 0; i < len(kv); i += 2 {
			f.Set(kv[i], kv[i+1])
		}
		code, body, _ := v.Do("POST", "/sessions/kiln-circuit/edit", f, "HX-Request", "true")
		return code, body
	}
	for says, kv := range map[string][]string{
		"no movement of that name":                    {"op", "add", "line", "flying trapeze 8"},
		"a whole number of repetitions from 1 to 500": {"op", "add", "line", "bird dog 0 reps"},
		"&#34;-3&#34;: expected a whole number":       {"op", "dose", "at", "1.1.1", "dose", "-3"},
		"&#34;10000&#34;: expected a whole number":    {"op", "dose", "at", "1.1.1", "dose", "10000 reps"},
		"&#34;9 h&#34;: expected a time":              {"op", "dose", "at", "1.1.1", "dose", "hold 9 h"},
		"There is no row at that place":               {"op", "dose", "at", "9.9.9", "dose", "8"},
		"is not a place":                              {"op", "delete", "at", "1.1.1; DROP TABLE plans"},
		"Sides that contradict":                       {"op", "add", "line", "clam 8 each side left only"},
		"Clam has 2 levels":                           {"op", "add", "line", "clam level 7"},
		"at most 400 in a line":                       {"op", "add", "line", strings.Repeat("bird ", 2500)},
		"not text in UTF-8":                           {"op", "add", "line", "bird \xff\xfe"},
		"reload the page and try again":               {"op", "explode"},
		"That finding is not there any more":          {"op", "mend", "mend", "sides-as-right-9.9.9"},
		"a session needs a title":                     {"op", "head", "title", strings.Repeat("x", 500)},
		"expected 1 minute to 4 hours":                {"op", "head", "target", "9 h"},
		"expected 30 to 240 a minute":                 {"op", "head", "bpm", "9000"},
		"note: a character that cannot be shown":      {"op", "note", "at", "1.1.1", "note", "x\xff"},
		"title: a character that cannot be shown":     {"op", "section-add", "title", "a\x01b"},
		"column 12: a character that cannot be shown": {"op", "add", "line", "rest 20 s h\x01ead"},
		"a beat of &#34;NaN&#34;":                     {"op", "head", "bpm", "NaN"},
		"finding of the second look":                  {"op", "aside", "rule", "sides", "amount", "NaN", "reason", "x"},
		"that is no finding of the second look":       {"op", "aside", "rule", strings.Repeat("x", 200), "amount", "1", "reason", "x"},
		"no finding of the second look":               {"op", "aside", "rule", "sides", "amount", "-1", "reason", "x"},
		"expected one of yes, no":                     {"op", "head", "style", "mirrored perhaps"},
		"0 rounds: expected 1 to 20":                  {"op", "block", "at", "2.1.1", "rounds", "0"},
		"That did not work":                           {"op", "delete", "at", "1.1.1", "rev", "x"},
	} {
		code, body := edit(kv...)
		assert.GreaterOrEqual(t, code, 400, says)
		assert.Less(t, code, 500, says)
		assert.Contains(t, strings.ToLower(body), strings.ToLower(says), kv)
	}
	d, err := st.Sessions.Get(context.Background(), "claybank", "kiln-circuit")
	require.NoError(t, err)
	assert.Equal(t, 1, d.Rev, "nothing was changed")

	// Dates and numbers of the other forms.
	for path, f := range map[string]url.Values{
		"/slots":                     {"plan": {"kiln-circuit"}, "day": {"2026-02-31"}, "time": {"18:30"}},
		"/series":                    {"title": {"S"}, "start": {"2026-02-31"}, "days": {"12"}},
		"/series/off-the-wheel/edit": {"op": {"head"}, "start": {"2026-02-31"}, "rev": {"1"}},
	} {
		code, body, _ := v.Do("POST", path, f)
		assert.Equal(t, 422, code, path)
		assert.Contains(t, body, "is not a date: it looks like", path)
	}
	for _, f := range []url.Values{
		{"op": {"move"}, "day": {"1"}, "to": {"99"}}, {"op": {"set"}, "day": {"1"}, "plan": {"nowhere"}}, {"op": {"days"}, "days": {"0"}}, {"op": {"days"}, "days": {"3"}}, {"op": {"dance"}},
	} {
		f.Set("rev", "1")
		code, _, _ := v.Do("POST", "/series/off-the-wheel/edit", f)
		assert.Equal(t, 422, code, f)
	}
	for path, f := range map[string]url.Values{
		"/people":         {"name": {""}, "level": {"1"}},
		"/house":          {"name": {"X"}, "zone": {"Europe/Atlantis"}},
		"/house/teachers": {"name": {"X"}, "email": {"not one"}, "password": {"long enough pass"}},
	} {
		code, _, _ := v.Do("POST", path, f)
		assert.Equal(t, 422, code, path)
	}

	for path, f := range map[string]url.Values{
		"/house":                             {"name": {"X"}, "zone": {"Europe/Lisbon"}, "head_up": {"NaN"}},
		"/house/aside":                       {"rule": {"sides"}, "amount": {"Inf"}, "reason": {"x"}},
		"/sessions/kiln-circuit/restore":     {"to": {"99999999999"}},
		"/movement-pose":                     {"field": {"levels.0.pose"}, "pose": {"{}"}, "do": {"set"}, "key": {"pelvis"}, "value": {"NaN"}},
		"/movement-save":                     {"do": {"level-remove -1"}, "levels.0.changes": {"x"}},
		"/movement-save?a":                   {"name": {"X"}, "seconds_per_rep": {"NaN"}, "levels.0.changes": {"x"}},
		"/sessions/kiln-circuit/edit?no-rev": {"op": {"delete"}, "at": {"1.1.1"}, "rev": {"99999999999"}},
	} {
		code, body, _ := v.Do("POST", path, f, "HX-Request", "true")
		assert.GreaterOrEqual(t, code, 400, path)
		assert.Less(t, code, 500, "%s: %s", path, body)
	}

	// Names are text, wherever they come out.
	evil := `<script>alert(1)</script>'; DROP TABLE plans; --`
	code, _, h := v.Do("POST", "/sessions", url.Values{"title": {evil}})
	require.Equal(t, 303, code)
	for _, path := range []string{h.Get("Location"), "/sessions", "/"} {
		code, body, _ := v.Do("GET", path, nil)
		assert.Equal(t, 200, code)
		assert.NotContains(t, body, "<script>alert")
	}
	for path, want := range map[string]int{"/sessions/nowhere": 404, "/log/x": 404, "/movements/x": 404, "/figures/x.svg": 404, "/figures/bird-dog-9-s.svg": 404, "/sessions/kiln-circuit/export?as=exe": 422} {
		code, _, _ := v.Do("GET", path, nil)
		assert.Equal(t, want, code, path)
	}
}

func upload(t *testing.T, v *webtest.Visitor, text []byte) (int, string) {
	t.Helper()
	return uploadTo(t, v, "/sessions/import", text)
}

func uploadTo(t *testing.T, v *webtest.Visitor, path string, text []byte) (int, string) {
	t.Helper()
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	f, err := w.CreateFormFile("file", "x.json")
	require.NoError(t, err)
	_, _ = f.Write(text)
	require.NoError(t, w.WriteField("do", "make"))
	require.NoError(t, w.Close())
	r, err := http.NewRequest("POST", v.Base+path, &b)
	require.NoError(t, err)
	r.Header.Set("Content-Type", w.FormDataContentType())
	res, err := v.HTTP.Do(r)
	require.NoError(t, err)
	defer func() { _ = res.Body.Close() }()
	body, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(body)
}

func TestDocumentsGoOutAndComeBack(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	code, doc, _ := v.Do("GET", "/sessions/wheel-side-hips/export?as=json", nil)
	require.Equal(t, 200, code)
	code, _ = upload(t, v, []byte(doc))
	require.Equal(t, 303, code)
	ds, err := st.Sessions.List(context.Background(), "claybank")
	require.NoError(t, err)
	require.Len(t, ds, 7)
	a, err := plan.ReadSession([]byte(doc), movement.Shipped())
	require.NoError(t, err)
	b, err := plan.ReadSession(ds[0].Doc, movement.Shipped())
	require.NoError(t, err)
	assert.Equal(t, a, b)
	for says, text := range map[string]string{
		"at most 2 MB are read":                 strings.Repeat(" ", 3<<20),
		"at most 5 MB are read":                 strings.Repeat(" ", 6<<20),
		"nested more than 24 deep":              `{"format":` + strings.Repeat("[", 5000),
		"$.title: expected text, found":         `{"format":"wavekine.session/1","title":7,"sections":[]}`,
		"not text in UTF-8":                     "{\"format\":\"\xff\"}",
		"$.sections[0].blocks: expected a list": `{"format":"wavekine.session/1","title":"x","sections":[{"title":"a","blocks":{}}]}`,
	} {
		code, body := upload(t, v, []byte(text))
		assert.GreaterOrEqual(t, code, 400)
		assert.Less(t, code, 500, says)
		assert.Contains(t, body, strings.ReplaceAll(says, "'", "&#39;"))
	}
	ds, err = st.Sessions.List(context.Background(), "claybank")
	require.NoError(t, err)
	assert.Len(t, ds, 7, "nothing was stored")
}

func TestWeight(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	get := func(path string, head ...string) (int, string) {
		r, err := http.NewRequest("GET", base+path, nil)
		require.NoError(t, err)
		r.Header.Set("Accept-Encoding", "gzip")
		for i := 0; i+1 < len(head); i += 2 {
			r.Header.Set(head[i], head[i+1])
		}
		res, err := v.HTTP.Do(r)
		require.NoError(t, err)
		defer func() { _ = res.Body.Close() }()
		b, _ := io.ReadAll(res.Body)
		return len(b), string(b)
	}
	// The first page with its style, scripts and all three fonts, compressed as sent.
	total, page := get("/")
	urls := regexp.MustCompile(`/static/[^"')]+`)
	seen := map[string]bool{}
	var follow func(text string)
	follow = func(text string) {
		for _, u := range urls.FindAllString(text, -1) {
			if seen[u] {
				continue
			}
			seen[u] = true
			n, body := get(u)
			total += n
			if strings.HasSuffix(u, ".css") {
				z, err := gzip.NewReader(strings.NewReader(body))
				require.NoError(t, err)
				css, err := io.ReadAll(z)
				require.NoError(t, err)
				follow(string(css))
			}
		}
	}
	z, err := gzip.NewReader(strings.NewReader(page))
	require.NoError(t, err)
	html, err := io.ReadAll(z)
	require.NoError(t, err)
	follow(string(html))
	require.GreaterOrEqual(t, len(seen), 7, "style, scripts and three fonts")
	t.Logf("first page with fonts: %d bytes compressed", total)
	assert.Less(t, total, 300<<10)

	rows := make([]string, 60)
	for i := range rows {
		rows[i] = `{"movement":"bird-dog","dose":"8 each side"}`
	}
	code, _ := upload(t, v, []byte(`{"format":"wavekine.session/1","title":"Sixty","target":"60:00","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[`+strings.Join(rows, ",")+`]}]}]}`))
	require.Equal(t, 303, code)
	_, list, _ := v.Do("GET", "/sessions", nil)
	i := strings.Index(list, `<a href="/sessions/`)
	id := list[i+len(`<a href="/sessions/`):]
	id = id[:strings.IndexByte(id, '"')]
	r, err := http.NewRequest("POST", base+"/sessions/"+id+"/edit", strings.NewReader(url.Values{"op": {"dose"}, "at": {"1.1.1"}, "dose": {"9 each side"}, "rev": {"1"}}.Encode()))
	require.NoError(t, err)
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r.Header.Set("Accept-Encoding", "gzip")
	r.Header.Set("HX-Request", "true")
	res, err := v.HTTP.Do(r)
	require.NoError(t, err)
	defer func() { _ = res.Body.Close() }()
	b, _ := io.ReadAll(res.Body)
	require.Equal(t, 200, res.StatusCode)
	t.Logf("answer to a change of a 60-row session: %d bytes compressed", len(b))
	assert.Less(t, len(b), 60<<10)
}
