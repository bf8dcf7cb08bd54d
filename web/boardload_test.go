package web_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/store/storetest"
	"wavekine/web"
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

// TestTwentyTeachersAtTheBoard measures a change of a board of 28 days (save, every class timed, waves, rows, answer) while 20 teachers change series of their own, each
// every two seconds. It reports; it does not judge, since machines differ. LOAD=seconds runs it.
func TestTwentyTeachersAtTheBoard(t *testing.T) {
	seconds, _ := strconv.Atoi(os.Getenv("LOAD"))
	if seconds == 0 {
		t.Skip("LOAD is not set")
	}
	st := storetest.New(t)
	_, err := demo.Load(context.Background(), st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	h, err := web.New(st, kit.Options{Now: func() time.Time { return webtest.Thursday }})
	require.NoError(t, err)
	var mu sync.Mutex
	var took []time.Duration
	size := 0
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		start := time.Now()
		h.ServeHTTP(w, r)
		if strings.HasSuffix(r.URL.Path, "/edit") {
			mu.Lock()
			took = append(took, time.Since(start))
			mu.Unlock()
		}
	}))
	defer srv.Close()
	v := webtest.Visit(t, srv.URL).SignIn(demo.Email)
	v.HTTP.Transport = &http.Transport{MaxIdleConnsPerHost: 30}
	paths := make([]string, 20)
	for i := range paths {
		code, body, head := v.Do("POST", "/series-lay", url.Values{"brief": {"28 days from 4 january 2027, 20 min, hips, upper back, core and balance, no kit, mixed, rest sundays, ramp, learn bird dog, bridge and side plank"}, "seed": {strconv.Itoa(i)}})
		require.Equal(t, 303, code, body)
		paths[i] = head.Get("Location")
	}
	end := time.Now().Add(time.Duration(seconds) * time.Second)
	var wg sync.WaitGroup
	for i, path := range paths {
		wg.Go(func() {
			time.Sleep(time.Duration(i) * 100 * time.Millisecond)
			for rev := 1; time.Now().Before(end); rev++ {
				f := url.Values{"op": {"paint"}, "movement": {"bird-dog"}, "day": {"1"}, "dose": {fmt.Sprintf("%d each side", 5+rev%6)}, "rev": {strconv.Itoa(rev)}}
				r, _ := http.NewRequest("POST", srv.URL+path+"/edit", strings.NewReader(f.Encode()))
				r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
				r.Header.Set("HX-Request", "true")
				r.Header.Set("Accept-Encoding", "gzip")
				res, err := v.HTTP.Do(r)
				if err != nil {
					t.Error(err)
					return
				}
				n, _ := io.Copy(io.Discard, res.Body)
				_ = res.Body.Close()
				if res.StatusCode != 200 {
					t.Errorf("status %d", res.StatusCode)
					return
				}
				mu.Lock()
				size = max(size, int(n))
				mu.Unlock()
				time.Sleep(2 * time.Second)
			}
		})
	}
	wg.Wait()
	slices.Sort(took)
	at := func(q float64) time.Duration { return took[int(float64(len(took)-1)*q)].Round(100 * time.Microsecond) }
	t.Logf("%d changes of boards of 28 days: median %v, 95th percentile %v, slowest %v; an answer is up to %d KB compressed", len(took), at(.5), at(.95), at(1), size>>10)
}
