package mover_test

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
	"wavekine/web"
	"wavekine/web/browsertest"
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

func TestMain(m *testing.M) { browsertest.Main(m) }

// cutSite serves the demo studio so that the network to it can be cut.
func cutSite(t testing.TB) (url string, st *store.Store, cut *atomic.Bool) {
	t.Helper()
	st = storetest.New(t)
	_, err := demo.Load(context.Background(), st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	h, err := web.New(st, kit.Options{Now: func() time.Time { return webtest.Thursday }, Post: webtest.Office(t, st)})
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

// link is a new personal link of somebody of the demo.
func link(t testing.TB, st *store.Store, mover string) string {
	t.Helper()
	token, err := st.MakeMoverLink(context.Background(), "claybank", mover, "maren")
	require.NoError(t, err)
	return "/m/" + token
}
