package main

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"regexp"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/store"
	"wavekine/store/storetest"
	"wavekine/web/webtest"
)

// safeBuffer is written to by the server and read by the test.
type safeBuffer struct {
	mu sync.Mutex
	b  bytes.Buffer
}

func (s *safeBuffer) Write(p []byte) (int, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.b.Write(p)
}

func (s *safeBuffer) String() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.b.String()
}

// served runs the program's server on a database with the demo until stop; ended gives what it ended with.
func served(t *testing.T) (base string, st *store.Store, stop context.CancelFunc, ended chan error) {
	t.Helper()
	st = storetest.New(t)
	_, err := demo.Load(context.Background(), st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	t.Setenv("DATABASE_URL", st.Pool.Config().ConnString())
	t.Setenv("PORT", "0")
	ctx, cancel := context.WithCancel(context.Background())
	t.Cleanup(cancel)
	var out safeBuffer
	ended = make(chan error, 1)
	go func() { ended <- serve(ctx, &out) }()
	at := regexp.MustCompile(`http://127\.0\.0\.1:[1-9][0-9]*`)
	require.Eventually(t, func() bool { base = at.FindString(out.String()); return base != "" }, 10*time.Second, 10*time.Millisecond)
	return base, st, cancel, ended
}

// Told to stop, the program takes no new request and finishes those that it is answering: what was being changed is kept,
// and whoever asked hears of it.
func TestToldToStop(t *testing.T) {
	base, st, stop, ended := served(t)
	jar, _ := cookiejar.New(nil)
	client := &http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	res, err := client.PostForm(base+"/signin", url.Values{"email": {demo.Email}, "password": {demo.Password}})
	require.NoError(t, err)
	_ = res.Body.Close()
	require.Equal(t, http.StatusSeeOther, res.StatusCode)

	tx, err := st.DB.Beginx() // the request waits for a row that somebody holds
	require.NoError(t, err)
	_, err = tx.Exec(`SELECT FROM studios FOR UPDATE`)
	require.NoError(t, err)
	type answer struct {
		code int
		err  error
	}
	answered := make(chan answer, 1)
	go func() {
		res, err := client.PostForm(base+"/house", url.Values{"rev": {"1"}, "name": {"Finished in time"}})
		if err != nil {
			answered <- answer{0, err}
			return
		}
		_, _ = io.Copy(io.Discard, res.Body)
		_ = res.Body.Close()
		answered <- answer{res.StatusCode, nil}
	}()
	require.Eventually(t, func() bool {
		var n int
		_ = st.DB.Get(&n, `SELECT count(*) FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND datname = current_database()`)
		return n > 0
	}, 3*time.Second, 5*time.Millisecond)
	stop()
	require.Eventually(t, func() bool { // no new one
		_, err := (&http.Client{Transport: &http.Transport{DisableKeepAlives: true}}).Get(base + "/healthz")
		return err != nil
	}, 3*time.Second, 10*time.Millisecond)
	select {
	case <-ended:
		t.Fatal("it has gone, and a request was being answered")
	case <-time.After(200 * time.Millisecond):
	}
	require.NoError(t, tx.Rollback())
	a := <-answered
	require.NoError(t, a.err, "the request is finished")
	assert.Equal(t, http.StatusSeeOther, a.code)
	select {
	case err := <-ended:
		assert.NoError(t, err)
	case <-time.After(5 * time.Second):
		t.Fatal("it does not end")
	}
	h, err := st.HouseHistory(context.Background(), "claybank", 1)
	require.NoError(t, err)
	assert.Equal(t, "Finished in time", h[0].Name)
}

// The settings of the environment: what each means, and what is said of a wrong one.
func TestSettings(t *testing.T) {
	for _, name := range []string{"PORT", "WAVEKINE_SECURE", "WAVEKINE_PROXIES", "WAVEKINE_METRICS"} {
		t.Setenv(name, "")
	}
	s, err := readSettings()
	require.NoError(t, err)
	assert.Equal(t, "8080", s.port)
	assert.False(t, s.web.Secure)
	assert.Empty(t, s.web.Proxies)
	assert.Empty(t, s.metrics)
	t.Setenv("WAVEKINE_SECURE", "1")
	t.Setenv("WAVEKINE_PROXIES", "127.0.0.1, 10.0.0.0/8 ::1")
	t.Setenv("WAVEKINE_METRICS", "127.0.0.1:9180")
	s, err = readSettings()
	require.NoError(t, err)
	assert.True(t, s.web.Secure)
	assert.Equal(t, []string{"127.0.0.1", "10.0.0.0/8", "::1"}, s.web.Proxies)
	assert.Equal(t, "127.0.0.1:9180", s.metrics)
	for name, bad := range map[string]string{"PORT": "80a", "WAVEKINE_SECURE": "yes", "WAVEKINE_PROXIES": "localhost", "WAVEKINE_METRICS": "9180"} {
		t.Run(name, func(t *testing.T) {
			t.Setenv(name, bad)
			_, err := readSettings()
			assert.ErrorContains(t, err, name)
			assert.ErrorContains(t, err, bad)
		})
	}
}

// The only owner who has forgotten their password is let in by whoever runs the installation.
func TestLinkFromTheCommandLine(t *testing.T) {
	base, st, stop, ended := served(t)
	out, err := call(t, "", "link", demo.Email)
	require.NoError(t, err)
	token := regexp.MustCompile(`/link/([a-z0-9]{32})`).FindStringSubmatch(out)
	require.Len(t, token, 2, out)
	l, err := st.LinkOf(context.Background(), token[1])
	require.NoError(t, err)
	assert.Equal(t, "maren", l.ID)
	code, _, _ := webtest.Visit(t, base).Do("POST", "/link/"+token[1], url.Values{"password": {"three odd kettles"}})
	assert.Equal(t, http.StatusSeeOther, code)
	_, err = call(t, "", "link", "nobody@example.org")
	assert.ErrorContains(t, err, "no account")
	_, err = call(t, "", "link")
	assert.ErrorContains(t, err, "expected one e-mail")
	stop()
	assert.NoError(t, <-ended)
}
