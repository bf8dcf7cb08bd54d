package web_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"wavekine/demo"
	"wavekine/web/webtest"
)

// Many at once, some of whom go away in the middle of their request: nothing of one request is held by another. The race
// detector, with which this is run too, sees what would be.
func TestManyAtOnceWhoGoAway(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	paths := []string{"/", "/sessions", "/sessions/wheel-side-hips", "/sessions/kiln-circuit/lead", "/series", "/series/off-the-wheel", "/movements", "/movements/bird-dog", "/people", "/log", "/house", "/house/pace", "/account", "/sessions/kiln-circuit/history", "/signin", "/nowhere"}
	var wg sync.WaitGroup
	for n := range 6 {
		wg.Go(func() {
			for i := range 24 {
				ctx, cancel := context.WithCancel(t.Context())
				if (n+i)%2 == 0 { // gone while the database is asked
					ctx, cancel = context.WithTimeout(t.Context(), time.Duration(1+(n*7+i*3)%9)*time.Millisecond)
				}
				r, err := http.NewRequestWithContext(ctx, http.MethodGet, base+paths[(n+i*5)%len(paths)], nil)
				if i%4 == 3 {
					f := url.Values{"op": {"note"}, "at": {"1.1.1"}, "note": {fmt.Sprint(n, i)}, "rev": {"1"}}
					r, err = http.NewRequestWithContext(ctx, http.MethodPost, base+"/sessions/kiln-circuit/edit", strings.NewReader(f.Encode()))
					r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
				}
				if !assert.NoError(t, err) {
					cancel()
					return
				}
				if res, err := v.HTTP.Do(r); err == nil {
					_, _ = io.Copy(io.Discard, res.Body)
					_ = res.Body.Close()
					assert.NotEqual(t, http.StatusInternalServerError, res.StatusCode, r.URL.Path)
				}
				cancel()
			}
		})
	}
	wg.Wait()
	d, err := st.Sessions.Get(context.Background(), "claybank", "kiln-circuit")
	assert.NoError(t, err)
	assert.LessOrEqual(t, d.Rev, 2, "of those who were on the first revision one can have changed it")
}
