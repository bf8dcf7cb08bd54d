package lead_test

import (
	"context"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/run"
	"wavekine/demo"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

// A class is filmed: the script before; a mark with flash and tone while it is led; then labels, chapters and description from what was taken, moved so that the flash is
// where it is in the film; slips with their time in the film.
func TestAClassOnFilm(t *testing.T) {
	base, st := webtest.Site(t)
	withTen(t, st)
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + "/sessions/ten/film")
	p.Until(`window.wavekineScript`)
	for _, w := range []string{"Opening", "Closing", "Bird dog", "right leg", "left leg", "your right, from the side"} {
		assert.Contains(t, p.Text("main"), w)
	}
	assert.Empty(t, p.Axe())
	p.Go(base + "/sessions/thursday-mat/film")
	p.Until(`document.body.textContent.includes('Nobody in the picture shows the easier option of')`)
	p.Do(cdp.SendKeys(cdp.CSS("[name=easier]"), "Tobias\r"))
	p.Until(`document.body.textContent.includes('(Tobias)')`)
	assert.NotContains(t, p.Text("main"), "Nobody in the picture")
	p.Go(base + "/sessions/ten/film")
	p.Until(`window.wavekineScript`)
	p.Click("#f-go")
	p.Until(`document.querySelector('.script-table [aria-current]') && wavekineScript.at > .2`)

	// the script follows the class where it is led on this machine
	script := p.Tab(1000, 800)
	script.Go(base + "/sessions/ten/film")
	script.Until(`window.wavekineScript`)
	q := p.Tab(1280, 800)
	q.Go(base + "/sessions/ten/lead")
	q.Until(`document.querySelectorAll('#l-fig path').length > 3`)
	webtest.Run1(q, fast)
	q.Keys(" ")
	q.Until(`wavekineLead.player.running`)
	webtest.Run1(q, `pass(3)`)
	q.Keys("k")
	q.Until(`wavekineLead.player.events().some(e => e.does === 'mark')`)
	assert.Positive(t, browsertest.JS[int](q, `window.wavekineTones || 0`), "a tone ties the film to the clock too")
	script.Until(`wavekineScript.led > 0`)
	webtest.Run1(q, `pass(1200)`)
	webtest.SavedRun(q)
	r := webtest.Newest(t, st)
	mark := clock.Span(-1)
	for _, e := range r.Events {
		if e.Does == run.Mark {
			mark = e.At
		}
	}
	require.Positive(t, mark)

	v := webtest.Visit(t, base).SignIn(demo.Email)
	get := func(as, query string) (int, string) {
		code, body, _ := v.Do("GET", "/sessions/ten/film/"+as+"?"+query, nil)
		return code, body
	}
	code, vtt := get("vtt", "run="+r.ID+"&at=0:20")
	require.Equal(t, 200, code, vtt)
	firstWork := clock.Span(0)
	for _, x := range r.Visits() {
		if r.Steps[x.Step].Kind.Working() {
			firstWork = x.From
			break
		}
	}
	file := filepath.Join(t.TempDir(), "a.vtt")
	require.NoError(t, os.WriteFile(file, []byte(vtt), 0o600))
	out, err := exec.Command("/usr/bin/python3", "-c", "import sys, webvtt; print(webvtt.read(sys.argv[1])[0].start_in_seconds)", file).CombinedOutput()
	require.NoError(t, err, "%s", out)
	got, err := clock.Parse(strings.TrimSpace(string(out)) + " s")
	require.NoError(t, err)
	assert.InDelta(t, (firstWork - mark + 20*clock.Second).Seconds(), got.Seconds(), .01, "the flash is at 0:20 of the film")
	for as, want := range map[string]string{"srt": "1\r\n", "chapters": "WEBVTT", "chapter-list": "00:00 ", "ffmetadata": ";FFMETADATA1", "description": "ask whoever treats you", "pdf": "%PDF"} {
		code, body := get(as, "run="+r.ID)
		assert.Equal(t, 200, code, as)
		assert.Contains(t, body, want, as)
	}
	for query, want := range map[string]string{"at=-9000": "before the film begins", "at=soon": "expected a time", "length=0:30": "behind the end of the film", "at=9e99": "expected a time", "length=x": "expected a time"} {
		code, body := get("vtt", "run="+r.ID+"&"+query)
		assert.Equal(t, 422, code, query)
		assert.Contains(t, body, want)
		code, page, _ := v.Do("GET", "/sessions/ten/film?run="+r.ID+"&"+query, nil)
		assert.Equal(t, 200, code)
		assert.Contains(t, page, want)
		assert.Contains(t, page, `value="`+strings.Split(query, "=")[1]+`"`, "what was typed is still there")
	}
	code, _ = get("exe", "")
	assert.Equal(t, 404, code)
	code, _ = get("vtt", "run=nothing")
	assert.Equal(t, 404, code)
	// a plan that was changed since, and a class of which only the length is known
	code, body, _ := v.Do("POST", "/sessions/ten/edit", url.Values{"op": {"delete"}, "at": {"1.1.1"}, "rev": {"1"}}, "HX-Request", "true")
	require.Equal(t, 200, code, body)
	code, vtt = get("vtt", "run="+r.ID)
	require.Equal(t, 200, code)
	assert.Contains(t, vtt, "Cat and cow")
	rem := r.Remember(600 * clock.Second)
	rem.ID = "remembered-1"
	require.NoError(t, st.SaveRun(context.Background(), "claybank", rem))
	code, body = get("vtt", "run=remembered-1")
	assert.Equal(t, 422, code, body)
}

// What many classes say: which rows run over, which lengths are wrong, what rested.
func TestReviewOfManyClasses(t *testing.T) {
	base, st := webtest.Site(t)
	withTen(t, st)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	code, _, _ := v.Do("GET", "/log-review", nil)
	require.Equal(t, 200, code)
	for i := range 3 {
		r := webtest.HandLed(webtest.LeadRun(t, v, "/sessions/ten"), func(s *run.Step) float64 {
			if s.Movement == "clam" {
				return 2
			}
			return 1
		})
		r.ID = "review-run-" + string(rune('a'+i))
		require.NoError(t, st.SaveRun(context.Background(), "claybank", r))
	}
	_, page, _ := v.Do("GET", "/log-review", nil)
	assert.Contains(t, page, "What always runs over")
	assert.Contains(t, page, `<a href="/movements/clam">Clam</a>`)
	assert.Contains(t, page, "3 of 3")
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + "/log-review?all=1")
	p.Until(`document.querySelectorAll('.led-plot circle').length > 3`)
	assert.Empty(t, p.Axe())
	p.Go(base + "/log/review-run-a")
	p.Until(`document.querySelector('h1')`)
	assert.Empty(t, p.Axe())
}
