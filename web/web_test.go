package web

import (
	"context"
	"net/http"
	"net/http/httptest"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/store"
	"wavekine/store/storetest"
	"wavekine/web/browsertest"
)

func TestMain(m *testing.M) { browsertest.Main(m) }

// today is a Thursday, so that the demo says the same whenever it is tested.
var today = time.Date(2026, 5, 14, 8, 0, 0, 0, time.UTC)

// cheapHash keeps the demo's password without its cost, once for all tests.
var cheapHash = func() func(string) string {
	h := HashPassword(demo.Password)
	return func(string) string { return h }
}()

// site serves the demo studio on a database of its own.
func site(t testing.TB) (url string, st *store.Store) {
	t.Helper()
	st = storetest.New(t)
	_, err := demo.Load(context.Background(), st, today, cheapHash)
	require.NoError(t, err)
	return serveStore(t, st), st
}

func serveStore(t testing.TB, st *store.Store) string {
	t.Helper()
	h, err := New(st, Options{Now: func() time.Time { return today }})
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(srv.Close)
	return srv.URL
}

// cutSite serves the demo studio through a line that can be cut: then every request finds nobody.
func cutSite(t testing.TB) (url string, st *store.Store, cut *atomic.Bool) {
	t.Helper()
	st = storetest.New(t)
	_, err := demo.Load(context.Background(), st, today, cheapHash)
	require.NoError(t, err)
	h, err := New(st, Options{Now: func() time.Time { return today }})
	require.NoError(t, err)
	cut = &atomic.Bool{}
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if cut.Load() {
			if c, _, err := http.NewResponseController(w).Hijack(); err == nil {
				_ = c.Close()
			}
			return
		}
		h.ServeHTTP(w, r)
	}))
	t.Cleanup(srv.Close)
	return srv.URL, st, cut
}

// signedInPage is a browser tab of a teacher who has signed in through the page.
func signedInPage(t testing.TB, url, email string, w, h int64) *browsertest.Page {
	t.Helper()
	p := browsertest.NewPage(t, w, h)
	signInThrough(p, url, email)
	return p
}

func signInThrough(p *browsertest.Page, url, email string) {
	p.T.Helper()
	p.Go(url + "/signin")
	p.Click("input[name=email]")
	p.Keys(email)
	p.Click("input[name=password]")
	p.Keys(demo.Password + "\r")
	p.Until(`location.pathname === '/' && document.readyState === 'complete'`)
}
