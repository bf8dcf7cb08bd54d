package series_test

import (
	"net/url"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/web/webtest"
)

// longBrief takes seconds to lay.
const longBrief = "60 days from 4 january 2027, 115 to 120 min, hips, upper back, core and balance, with roller and band, mixed, ramp, learn bird dog, bridge and side plank"

var jobPath = regexp.MustCompile(`/series-laying/[0-9A-Za-z_-]+`)

// A long laying shows how far it is and can be stopped: nothing is kept then, and what was typed stays. Nobody else sees or stops it.
func TestALongLayingCanBeStopped(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	_, before, _ := v.Do("GET", "/series", nil)
	code, body, _ := v.Do("POST", "/series-lay", url.Values{"brief": {longBrief}}, "HX-Request", "true")
	require.Equal(t, 200, code, body)
	at := jobPath.FindString(body)
	require.NotEmpty(t, at, body)
	assert.Contains(t, body, "<progress")
	days := regexp.MustCompile(`Laying day (\d+) of 60`)
	require.Eventually(t, func() bool {
		_, body, _ := v.Do("GET", at, nil, "HX-Request", "true")
		return days.MatchString(body)
	}, 20*time.Second, 100*time.Millisecond)
	other := webtest.Visit(t, base).SignIn(demo.Second)
	_, body, _ = other.Do("POST", at+"/stop", url.Values{}, "HX-Request", "true")
	assert.Contains(t, body, "not being laid any more")
	_, body, _ = v.Do("POST", at+"/stop", url.Values{}, "HX-Request", "true")
	assert.Regexp(t, `Stopped at day \d+ of 60\. Nothing was kept`, body)
	_, body, _ = v.Do("GET", at, nil, "HX-Request", "true")
	assert.Contains(t, body, "Nothing was kept", "asked again it says the same")
	_, after, _ := v.Do("GET", "/series", nil)
	assert.Equal(t, strings.Count(before, "serieslist"), strings.Count(after, "serieslist"))
	_, body, _ = v.Do("GET", "/series-laying/nothing", nil, "HX-Request", "true")
	assert.Contains(t, body, "lay it again")
}

// Two teachers lay at the same time, and one lays twice: the second stops the first.
func TestLayingTogether(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	_, body, _ := v.Do("POST", "/series-lay", url.Values{"brief": {longBrief}}, "HX-Request", "true")
	first := jobPath.FindString(body)
	require.NotEmpty(t, first)
	var wait sync.WaitGroup
	for _, who := range []string{demo.Email, demo.Second} {
		wait.Go(func() {
			w := webtest.Visit(t, base).SignIn(who)
			code, body, head := w.Do("POST", "/series-lay", url.Values{"brief": {"5 days from monday, 8 min, hips"}}, "HX-Request", "true")
			for at := jobPath.FindString(body); code == 200 && head.Get("HX-Redirect") == "" && at != ""; at = jobPath.FindString(body) {
				time.Sleep(50 * time.Millisecond)
				_, body, head = w.Do("GET", at, nil, "HX-Request", "true")
			}
			assert.Contains(t, head.Get("HX-Redirect"), "/series/", who+": "+body)
			assert.Equal(t, 200, code)
		})
	}
	wait.Wait()
	_, body, _ = v.Do("GET", first, nil, "HX-Request", "true")
	assert.Contains(t, body, "Nothing was kept")
}

// A series is put away, brought back, and deleted for good only when it is put away.
func TestDeletingASeries(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	const at = "/series/off-the-wheel"
	code, _, _ := v.Do("POST", at+"/delete", url.Values{})
	assert.Equal(t, 404, code, "it is in use")
	code, _, _ = v.Do("POST", at+"/archive", url.Values{})
	assert.Equal(t, 303, code)
	_, list, _ := v.Do("GET", "/series", nil)
	assert.Contains(t, list, `action="`+at+`/delete"`)
	code, _, _ = v.Do("POST", at+"/delete", url.Values{})
	assert.Equal(t, 303, code)
	code, _, _ = v.Do("GET", at, nil)
	assert.Equal(t, 404, code)
	code, _, _ = v.Do("POST", at+"/unarchive", url.Values{})
	assert.Equal(t, 404, code)
	code, _, _ = v.Do("GET", "/today", nil)
	assert.Less(t, code, 500)
}
