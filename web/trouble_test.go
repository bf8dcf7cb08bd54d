package web_test

import (
	"compress/gzip"
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/store"
	"wavekine/store/storetest"
	"wavekine/web"
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

// frozenSite serves the demo studio through a way to its database that can be frozen.
func frozenSite(t *testing.T) (base string, direct *store.Store, way *storetest.Frozen) {
	t.Helper()
	direct = storetest.New(t)
	_, err := demo.Load(context.Background(), direct, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	st, way := storetest.Through(t, direct)
	return webtest.ServeStore(t, st), direct, way
}

// gzipped asks as browsers do, and reads what comes as they would: an error too.
func gzipped(t *testing.T, v *webtest.Visitor, method, path string, form url.Values, head ...string) (int, string, http.Header) {
	t.Helper()
	var body io.Reader
	if form != nil {
		body = strings.NewReader(form.Encode())
	}
	r, err := http.NewRequest(method, v.Base+path, body)
	require.NoError(t, err)
	r.Header.Set("Accept-Encoding", "gzip")
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	for i := 0; i+1 < len(head); i += 2 {
		r.Header.Set(head[i], head[i+1])
	}
	res, err := v.HTTP.Do(r)
	require.NoError(t, err)
	defer func() { _ = res.Body.Close() }()
	var from io.Reader = res.Body
	if res.Header.Get("Content-Encoding") == "gzip" {
		from, err = gzip.NewReader(res.Body)
		require.NoError(t, err, "%s %s: said to be gzip, and is not", method, path)
	}
	text, err := io.ReadAll(from)
	require.NoError(t, err)
	return res.StatusCode, string(text), res.Header
}

// A database that does not answer is said to be so within five seconds, on every screen; what needs no data is there all
// the same; and afterwards everything goes on by itself.
func TestFrozenDatabase(t *testing.T) {
	base, direct, way := frozenSite(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	_, front, _ := v.Do("GET", "/", nil)
	way.Freeze()
	free := append([]string{"/healthz", "/sw.js", "/licences", "/favicon.ico", "/figures/bird-dog-1-s.svg"}, regexp.MustCompile(`/static/[^"]+`).FindAllString(front, -1)...)
	require.Greater(t, len(free), 10)
	for _, path := range free {
		begin := time.Now()
		code, _, _ := v.Do("GET", path, nil)
		assert.Less(t, code, 300, path)
		assert.Less(t, time.Since(begin), time.Second, path)
	}
	code, says, _ := v.Do("GET", "/readyz", nil)
	assert.Equal(t, http.StatusServiceUnavailable, code)
	assert.Contains(t, says, "database does not answer")
	var wg sync.WaitGroup
	for _, c := range []struct{ method, path string }{
		{"GET", "/"},
		{"GET", "/sessions"},
		{"GET", "/sessions/kiln-circuit"},
		{"GET", "/series"},
		{"GET", "/series/off-the-wheel"},
		{"GET", "/movements"},
		{"GET", "/people"},
		{"GET", "/log"},
		{"GET", "/house"},
		{"GET", "/house/pace"},
		{"GET", "/account"},
		{"GET", "/sessions/kiln-circuit/lead"},
		{"GET", "/signin"},
		{"POST", "/signin"},
		{"POST", "/sessions"},
		{"POST", "/people"},
		{"POST", "/house/aside"},
		{"GET", "/link/x"},
		{"GET", "/sessions/kiln-circuit/print"},
		{"POST", "/sessions/kiln-circuit/edit"},
	} {
		wg.Go(func() {
			who := webtest.Visit(t, base)
			who.HTTP.Jar = v.HTTP.Jar
			begin := time.Now()
			code, body, _ := gzipped(t, who, c.method, c.path, url.Values{"email": {"a@b.example"}, "password": {"x"}, "op": {"note"}, "at": {"1.1.1"}, "note": {"x"}, "rev": {"1"}})
			assert.Less(t, time.Since(begin), 5*time.Second, "%s %s", c.method, c.path)
			assert.Equal(t, http.StatusServiceUnavailable, code, "%s %s", c.method, c.path)
			assert.Contains(t, body, "The database does not answer", "%s %s", c.method, c.path)
			assert.Equal(t, c.method == "POST", strings.Contains(body, "Nothing was changed"), "%s %s", c.method, c.path)
		})
	}
	wg.Wait()
	way.Thaw()
	require.Eventually(t, func() bool { code, _, _ := v.Do("GET", "/readyz", nil); return code == 200 }, 5*time.Second, 20*time.Millisecond)
	code, _, _ = v.Do("GET", "/sessions/kiln-circuit", nil)
	assert.Equal(t, http.StatusOK, code)
	d, err := direct.Sessions.Get(context.Background(), "claybank", "kiln-circuit")
	require.NoError(t, err)
	assert.Equal(t, 1, d.Rev, "and nothing was changed")
}

// "Nothing was changed" is said only where that is known; where the answer to a write is lost it is said that it is not
// known; and where it was kept and only the page could not be shown, that.
func TestWhatBecameOfAChangeIsSaidAsItIs(t *testing.T) {
	base, direct, way := frozenSite(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	edit := url.Values{"op": {"note"}, "at": {"1.1.1"}, "note": {"slow"}, "rev": {"1"}}
	v.Do("GET", "/sessions/kiln-circuit", nil)

	way.Freeze()
	code, body, h := gzipped(t, v, "POST", "/sessions/kiln-circuit/edit", edit, "HX-Request", "true")
	assert.Equal(t, http.StatusServiceUnavailable, code)
	assert.Equal(t, "#message", h.Get("HX-Retarget"), "the bench is not taken away")
	assert.Contains(t, body, "Nothing was changed. What is on this page is still here")
	way.Thaw()
	require.Eventually(t, func() bool { code, _, _ := v.Do("GET", "/readyz", nil); return code == 200 }, 5*time.Second, 20*time.Millisecond)

	// The answer is lost behind the write itself: the questions before it are answered.
	tx, err := direct.DB.Beginx()
	require.NoError(t, err)
	_, err = tx.Exec(`SELECT FROM plans WHERE plan_id = 'kiln-circuit' FOR UPDATE`)
	require.NoError(t, err)
	lost := make(chan string)
	go func() {
		_, body, _ := gzipped(t, v, "POST", "/sessions/kiln-circuit/edit", edit, "HX-Request", "true")
		lost <- body
	}()
	require.Eventually(t, func() bool { // the write waits for the row
		var n int
		_ = direct.DB.Get(&n, `SELECT count(*) FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND datname = current_database()`)
		return n > 0
	}, 3*time.Second, 5*time.Millisecond)
	way.FreezeAnswers()
	require.NoError(t, tx.Rollback())
	body = <-lost
	assert.Contains(t, body, "It is not known whether your change was kept. Reload the page and look")
	assert.NotContains(t, body, "Nothing was changed")
	way.Thaw()
	d, err := direct.Sessions.Get(context.Background(), "claybank", "kiln-circuit")
	require.NoError(t, err)
	assert.Equal(t, 2, d.Rev, "here it was")

	// Somebody holds what is to be changed.
	require.Eventually(t, func() bool { code, _, _ := v.Do("GET", "/readyz", nil); return code == 200 }, 5*time.Second, 20*time.Millisecond)
	tx, err = direct.DB.Beginx()
	require.NoError(t, err)
	_, err = tx.Exec(`SELECT FROM plans WHERE plan_id = 'kiln-circuit' FOR UPDATE`)
	require.NoError(t, err)
	edit.Set("rev", "2")
	code, body, _ = gzipped(t, v, "POST", "/sessions/kiln-circuit/edit", edit, "HX-Request", "true")
	assert.Equal(t, http.StatusServiceUnavailable, code)
	assert.Contains(t, body, "Somebody else is changing this at this moment. Nothing was changed.")
	require.NoError(t, tx.Rollback())

	// What was kept before something else went wrong.
	_, err = direct.DB.Exec(`ALTER TABLE plan_revisions RENAME COLUMN says TO said`)
	require.NoError(t, err)
	code, body, _ = gzipped(t, v, "POST", "/sessions/kiln-circuit/edit", edit, "HX-Request", "true")
	assert.Equal(t, http.StatusInternalServerError, code)
	assert.Contains(t, body, "Nothing was changed", "the statement was refused")
	_, err = direct.DB.Exec(`ALTER TABLE plan_revisions RENAME COLUMN said TO says`)
	require.NoError(t, err)
	_, err = direct.DB.Exec(`CREATE FUNCTION away() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN ALTER TABLE templates RENAME TO templates_away; RETURN NEW; END $$; CREATE TRIGGER away AFTER UPDATE ON plans FOR EACH ROW EXECUTE FUNCTION away()`)
	require.NoError(t, err)
	code, body, _ = gzipped(t, v, "POST", "/sessions/kiln-circuit/edit", edit, "HX-Request", "true")
	if code != http.StatusOK { // the page looks for the templates after it was kept
		assert.Equal(t, http.StatusInternalServerError, code)
		assert.Contains(t, body, "What you asked for was kept; only its answer was lost.")
		assert.NotContains(t, body, "Nothing was changed")
	}
	d, err = direct.Sessions.Get(context.Background(), "claybank", "kiln-circuit")
	require.NoError(t, err)
	assert.Equal(t, 3, d.Rev)
}

// A handler that falls over is answered in words that can be read, also under gzip and within a page.
func TestPanicsAreAnswered(t *testing.T) {
	st := storetest.New(t)
	gin.SetMode(gin.ReleaseMode)
	falls := kit.Screen{Files: fstest.MapFS{}, Open: func(_ *kit.Kit, g gin.IRoutes) {
		g.POST("/falls", func(*gin.Context) { panic("x") })
		g.POST("/falls-late", func(c *gin.Context) {
			_, err := st.DB.ExecContext(c.Request.Context(), `CREATE TABLE IF NOT EXISTS kept (x int)`)
			require.NoError(t, err)
			panic("x")
		})
	}}
	h, err := web.New(st, kit.Options{}, falls)
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(srv.Close)
	v := webtest.Visit(t, srv.URL)
	for path, says := range map[string]string{"/falls": "Nothing was changed", "/falls-late": "What you asked for was kept"} {
		for _, part := range []string{"", "true"} {
			code, body, h := gzipped(t, v, "POST", path, url.Values{}, "HX-Request", part)
			assert.Equal(t, http.StatusInternalServerError, code)
			if part == "true" {
				assert.Equal(t, "#message", h.Get("HX-Retarget"))
			}
			assert.Contains(t, body, says, path)
		}
	}
}

// Of the metrics only what the site knows is a label, whatever is sent; and they are not on the site's own address.
func TestMetrics(t *testing.T) {
	st := storetest.New(t)
	_, err := demo.Load(context.Background(), st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	h, err := web.New(st, kit.Options{})
	require.NoError(t, err)
	site, metrics := httptest.NewServer(h), httptest.NewServer(h.Metrics)
	t.Cleanup(site.Close)
	t.Cleanup(metrics.Close)
	v := webtest.Visit(t, site.URL)
	for _, method := range []string{"GET", "BREW", "PROPFIND", strings.Repeat("X", 200), "HEAD"} {
		for _, path := range []string{"/signin", "/nowhere/" + strings.Repeat("x", 50), "/sessions/abc", "/metrics"} {
			v.Do(method, path, nil)
		}
	}
	code, _, _ := v.Do("GET", "/metrics", nil)
	assert.Contains(t, []int{http.StatusNotFound}, code)
	code, text, _ := webtest.Visit(t, metrics.URL).Do("GET", "/metrics", nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, text, `http_request_duration_seconds_count{method="GET",route="/signin",status="200"} 1`)
	assert.Contains(t, text, `method="other"`)
	for _, bad := range []string{"BREW", "PROPFIND", "XXX", "nowhere", "abc"} {
		assert.NotContains(t, text, bad)
	}
}
