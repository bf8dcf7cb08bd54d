package web_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"runtime"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/demo"
	"wavekine/web/webtest"
)

// heapInUse is what is in use after a collection, in MB.
func heapInUse() float64 {
	for range 3 {
		runtime.GC()
	}
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return float64(m.HeapInuse) / (1 << 20)
}

// What is kept to be quick stays small, whatever is asked for: classes of a thousand rows changed again and again, long
// notes, drafts of doses, sign-ins under ever other names, every movement and every page.
func TestWhatIsKeptStaysSmall(t *testing.T) {
	if testing.Short() {
		t.Skip("memory is measured without the race detector")
	}
	times := 15
	if thorough() {
		times = 300
	}
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	pages := []string{"/", "/sessions", "/series", "/movements", "/people", "/log", "/house"}
	for _, m := range movement.Shipped().All() {
		pages = append(pages, "/movements/"+m.Slug)
	}
	for _, p := range pages { // what a studio has seen once is kept: that is not growth
		v.Do("GET", p, nil)
	}
	row, err := json.Marshal(map[string]any{"movement": "bird-dog", "dose": "8 each side", "note": strings.Repeat("ø", 300)})
	require.NoError(t, err)
	doc := `{"format":"wavekine.session/1","title":"Long","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[` + strings.TrimSuffix(strings.Repeat(string(row)+",", 900), ",") + `]}]}]}`
	code, body, head := v.Do("POST", "/sessions/import", url.Values{"text": {doc}, "kind": {"json"}, "do": {"make"}})
	require.Equal(t, http.StatusSeeOther, code, body)
	long := head.Get("Location")
	before := heapInUse()
	for n := range times {
		note := strings.Repeat(strconv.Itoa(n%10), 1800) + strconv.Itoa(n)
		code, body, _ := v.Do("POST", long+"/edit", url.Values{"op": {"note"}, "at": {fmt.Sprintf("1.1.%d", 1+n%900)}, "note": {note}, "rev": {strconv.Itoa(1 + n)}}, "HX-Request", "true")
		require.Equal(t, http.StatusOK, code, body)
		v.Do("POST", "/sessions/import", url.Values{"text": {doc}, "kind": {"json"}})
		v.Do("GET", long+"/understand?line="+url.QueryEscape(fmt.Sprint("clam ", n)), nil)
		v.Do("GET", fmt.Sprintf("/movements?q=%d", n), nil)
		webtest.Visit(t, base).Do("POST", "/signin", url.Values{"email": {fmt.Sprintf("nobody%d@example.org", n)}, "password": {"wrong"}})
		v.Do("GET", pages[n%len(pages)], nil)
	}
	after := heapInUse()
	t.Logf("%.1f MB in use, %.1f before", after, before)
	assert.Less(t, after, before+20)
}

// Sixty requests of 5 MB by nobody leave nothing behind: their length is looked at before anything is kept.
func TestNobodyFillsTheMemory(t *testing.T) {
	if testing.Short() {
		t.Skip("memory is measured without the race detector")
	}
	base, _ := webtest.Site(t)
	nobody := webtest.Visit(t, base)
	nobody.Do("GET", "/signin", nil)
	huge := strings.Repeat("z", 5<<20)
	before := heapInUse()
	for n := range 60 {
		f := []url.Values{{"email": {huge + strconv.Itoa(n)}, "password": {"x"}}, {"email": {"a@b.example"}, "password": {huge}}, {"back": {huge}, "email": {strconv.Itoa(n)}}}[n%3]
		if n%4 == 3 {
			code, _ := nobody.Form("/signin", f, "multipart")
			require.Less(t, code, 500)
			continue
		}
		code, _, _ := nobody.Do("POST", []string{"/signin", "/start", "/link/x", "/sessions"}[n%4], f)
		require.Less(t, code, 500)
		require.GreaterOrEqual(t, code, 400)
	}
	after := heapInUse()
	t.Logf("%.1f MB in use, %.1f before", after, before)
	assert.Less(t, after, before+20)
}
