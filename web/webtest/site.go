// Package webtest serves the demo studio for tests and drives it, as a person would or line by line.
package webtest

import (
	"context"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/post"
	"wavekine/store"
	"wavekine/store/storetest"
	"wavekine/web"
	"wavekine/web/browsertest"
	"wavekine/web/door"
	"wavekine/web/kit"
)

// today is a Thursday, so that the demo says the same whenever it is tested.
var Thursday = time.Date(2026, 5, 14, 8, 0, 0, 0, time.UTC)

// CheapHash keeps the demo's password without its cost, once for all tests.
var CheapHash = func() func(string) string {
	h := door.HashPassword(demo.Password)
	return func(string) string { return h }
}()

// Site serves the demo studio on a database of its own.
func Site(t testing.TB) (url string, st *store.Store) {
	t.Helper()
	st = storetest.New(t)
	_, err := demo.Load(context.Background(), st, Thursday, CheapHash)
	require.NoError(t, err)
	return ServeStore(t, st), st
}

// ServeStore serves what a store holds.
func ServeStore(t testing.TB, st *store.Store) string {
	t.Helper()
	return ServeWith(t, st, kit.Options{})
}

// ServeWith serves it as the options say, on the demo's Thursday.
func ServeWith(t testing.TB, st *store.Store, opt kit.Options) string {
	t.Helper()
	opt.Now = func() time.Time { return Thursday }
	if opt.Post == nil {
		opt.Post = Office(t, st)
	}
	h, err := web.New(st, opt)
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(srv.Close)
	return srv.URL
}

// Office is the stand-in of the post, with a key that is the same in every test.
func Office(t testing.TB, st *store.Store) *post.Office {
	t.Helper()
	o, err := post.Open(st, strings.Repeat("5a", post.KeyLength), "", t.TempDir(), nil)
	require.NoError(t, err)
	o.Now = func() time.Time { return Thursday }
	return o
}

// SignedInPage is a browser tab of a teacher who has signed in through the page.
func SignedInPage(t testing.TB, url, email string, w, h int64) *browsertest.Page {
	t.Helper()
	p := browsertest.NewPage(t, w, h)
	SignInThrough(p, url, email)
	return p
}

// SignInThrough signs a teacher in on the page.
func SignInThrough(p *browsertest.Page, url, email string) {
	p.T.Helper()
	p.Go(url + "/signin")
	p.Click("input[name=email]")
	p.Keys(email)
	p.Click("input[name=password]")
	p.Keys(demo.Password + "\r")
	p.Until(`location.pathname === '/' && document.readyState === 'complete'`)
}
