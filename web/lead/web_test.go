package lead_test

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
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

// cutSite serves the demo studio through a line that can be cut: then every request finds nobody.
func cutSite(t testing.TB) (url string, st *store.Store, cut *atomic.Bool) {
	t.Helper()
	st = storetest.New(t)
	_, err := demo.Load(context.Background(), st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	h, err := web.New(st, kit.Options{Now: func() time.Time { return webtest.Thursday }})
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
