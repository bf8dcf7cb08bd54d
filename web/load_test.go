package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"runtime"
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

// TestFiftyTeachersEditing measures a bench change (save, timeline, findings, wave, answer) while 50
// teachers edit sessions of their own, each a change every two seconds. It reports; it does not
// judge, since machines differ. LOAD=seconds runs it.
func TestFiftyTeachersEditing(t *testing.T) {
	seconds, _ := strconv.Atoi(os.Getenv("LOAD"))
	if seconds == 0 {
		t.Skip("LOAD is not set")
	}
	st := storetest.New(t)
	ctx := context.Background()
	_, err := demo.Load(ctx, st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	p, err := demo.Session("wheel-side-hips")
	require.NoError(t, err)
	for len(p.Sections) < 8 || p.Rows() < 60 { // sixty rows
		p.Sections = append(p.Sections, p.Clone().Sections...)
	}
	doc, err := json.Marshal(p)
	require.NoError(t, err)
	ids := make([]string, 50)
	for i := range ids {
		ids[i] = fmt.Sprintf("load-%02d", i)
		require.NoError(t, st.Sessions.Create(ctx, "claybank", ids[i], storetest.Change(t, "maren", "new", string(doc))))
	}
	h, err := web.New(st, kit.Options{Now: func() time.Time { return webtest.Thursday }})
	require.NoError(t, err)
	var mu sync.Mutex
	var took []time.Duration
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
	visitor := webtest.Visit(t, srv.URL).SignIn(demo.Email)
	visitor.HTTP.Transport = &http.Transport{MaxIdleConnsPerHost: 60}
	end := time.Now().Add(time.Duration(seconds) * time.Second)
	var wg sync.WaitGroup
	for i, id := range ids {
		wg.Go(func() {
			time.Sleep(time.Duration(i) * 40 * time.Millisecond)
			for rev := 1; time.Now().Before(end); rev++ {
				f := url.Values{"op": {"dose"}, "at": {"1.1.2"}, "dose": {strconv.Itoa(4+rev%8) + " reps"}, "rev": {strconv.Itoa(rev)}}
				r, _ := http.NewRequest("POST", srv.URL+"/sessions/"+id+"/edit", strings.NewReader(f.Encode()))
				r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
				r.Header.Set("HX-Request", "true")
				r.Header.Set("Accept-Encoding", "gzip")
				res, err := visitor.HTTP.Do(r)
				if err != nil {
					t.Error(err)
					return
				}
				_, _ = io.Copy(io.Discard, res.Body)
				_ = res.Body.Close()
				if res.StatusCode != 200 {
					t.Errorf("status %d", res.StatusCode)
					return
				}
				time.Sleep(2 * time.Second)
			}
		})
	}
	wg.Wait()
	slices.Sort(took)
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	at := func(q float64) time.Duration { return took[int(float64(len(took)-1)*q)].Round(100 * time.Microsecond) }
	t.Logf("%d changes of %d-row sessions: median %v, 95th percentile %v, slowest %v; heap in use %d MB, from the system %d MB (with the test's own client)",
		len(took), p.Rows(), at(.5), at(.95), at(1), m.HeapInuse>>20, m.Sys>>20)
}

// BenchmarkBenchChange is one change on the server, over the wire with its database.
func BenchmarkBenchChange(b *testing.B) {
	st := storetest.New(b)
	ctx := context.Background()
	_, err := demo.Load(ctx, st, webtest.Thursday, webtest.CheapHash)
	require.NoError(b, err)
	h, err := web.New(st, kit.Options{Now: func() time.Time { return webtest.Thursday }})
	require.NoError(b, err)
	srv := httptest.NewServer(h)
	defer srv.Close()
	for _, rows := range []int{15, 30, 60, 120} {
		p, err := demo.Session("wheel-side-hips")
		require.NoError(b, err)
		for p.Rows() < rows {
			p.Sections = append(p.Sections, p.Clone().Sections...)
		}
		doc, err := json.Marshal(p)
		require.NoError(b, err)
		id := fmt.Sprint("rows-", rows)
		require.NoError(b, st.Sessions.Create(ctx, "claybank", id, storetest.Change(b, "maren", "new", string(doc))))
		b.Run(fmt.Sprint(rows, "-rows"), func(b *testing.B) {
			v := webtest.Visit(b, srv.URL).SignIn(demo.Email)
			d, err := st.Sessions.Get(ctx, "claybank", id)
			require.NoError(b, err)
			rev := d.Rev
			for b.Loop() {
				code, _, _ := v.Do("POST", "/sessions/"+id+"/edit", url.Values{"op": {"dose"}, "at": {"1.1.2"}, "dose": {strconv.Itoa(4+rev%8) + " reps"}, "rev": {strconv.Itoa(rev)}}, "HX-Request", "true")
				if code != 200 {
					b.Fatal(code)
				}
				rev++
			}
		})
	}
}

// BenchmarkUnderstand answers a line being typed at the end of a class of 60 rows: read in its school,
// placed, timed, and said where the clock would land; over the wire with its database.
func BenchmarkUnderstand(b *testing.B) {
	st := storetest.New(b)
	ctx := context.Background()
	_, err := demo.Load(ctx, st, webtest.Thursday, webtest.CheapHash)
	require.NoError(b, err)
	p, err := demo.Session("wheel-side-hips")
	require.NoError(b, err)
	for p.Rows() < 60 {
		p.Sections = append(p.Sections, p.Clone().Sections...)
	}
	doc, err := json.Marshal(p)
	require.NoError(b, err)
	require.NoError(b, st.Sessions.Create(ctx, "claybank", "long", storetest.Change(b, "maren", "new", string(doc))))
	h, err := web.New(st, kit.Options{Now: func() time.Time { return webtest.Thursday }})
	require.NoError(b, err)
	srv := httptest.NewServer(h)
	defer srv.Close()
	v := webtest.Visit(b, srv.URL).SignIn(demo.Email)
	var took []time.Duration
	for b.Loop() {
		start := time.Now()
		code, body, _ := v.Do("GET", "/sessions/long/understand?line="+url.QueryEscape("bird dog 8 each side + 10 pulses"), nil)
		took = append(took, time.Since(start))
		if code != 200 || !strings.Contains(body, "Bird dog") {
			b.Fatal(code)
		}
	}
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "p95-ms")
}
