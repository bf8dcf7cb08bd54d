package bench_test

import (
	"context"
	"fmt"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/demo"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

// change makes one change and gives the answer.
func change(t *testing.T, v *webtest.Visitor, at string, rev *int, f url.Values) (int, string) {
	t.Helper()
	f.Set("rev", fmt.Sprint(*rev))
	code, body, _ := v.Do("POST", at+"/edit", f, "HX-Request", "true")
	if code == 200 {
		*rev++
	}
	return code, body
}

func TestFindingsArePutAside(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	_, bench, _ := v.Do("GET", "/sessions/wheel-side-hips", nil)
	require.Contains(t, bench, "Left does less")
	d, err := st.Sessions.Get(context.Background(), "claybank", "wheel-side-hips")
	require.NoError(t, err)
	rev := d.Rev
	code, body := change(t, v, "/sessions/wheel-side-hips", &rev, url.Values{"op": {"aside"}, "rule": {"sides"}, "about": {"rainbow-leg"}, "amount": {"1"}, "reason": {""}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "Say why")
	code, body = change(t, v, "/sessions/wheel-side-hips", &rev, url.Values{"op": {"aside"}, "rule": {"sides"}, "about": {"rainbow-leg"}, "amount": {"1"}, "reason": {"one hip is sore"}})
	require.Equal(t, 200, code)
	assert.Contains(t, body, "one hip is sore")
	_, rest, _ := strings.Cut(body, "Set aside: ")
	assert.Contains(t, rest, "Left does less")
	code, body = change(t, v, "/sessions/wheel-side-hips", &rev, url.Values{"op": {"unaside"}, "rule": {"sides"}, "about": {"rainbow-leg"}})
	require.Equal(t, 200, code)
	assert.NotContains(t, body, "one hip is sore")
	// for the whole house
	code, _, _ = v.Do("POST", "/house/aside", url.Values{"rule": {"head-up"}, "amount": {"9999"}, "reason": {"ours are used to it"}})
	require.Equal(t, 303, code)
	_, bench, _ = v.Do("GET", "/sessions/wheel-side-hips", nil)
	assert.Contains(t, bench, "ours are used to it")
	_, house, _ := v.Do("GET", "/house", nil)
	assert.Contains(t, house, "ours are used to it")
	code, _, _ = v.Do("POST", "/house/aside", url.Values{"do": {"back"}, "rule": {"head-up"}})
	require.Equal(t, 303, code)
	_, bench, _ = v.Do("GET", "/sessions/wheel-side-hips", nil)
	assert.NotContains(t, bench, "ours are used to it")
}

func TestPiecesTemplatesAndRestore(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	at := webtest.NewSession(t, v, "Pieces", "20")
	rev := 1
	for _, p := range []string{"built 0", "built 1", "built 2"} {
		code, body := change(t, v, at, &rev, url.Values{"op": {"insert"}, "piece": {p}})
		require.Equal(t, 200, code, body)
	}
	_, bench, _ := v.Do("GET", at, nil)
	for _, w := range []string{"Five abdominals", "Criss-cross", "Constructive rest"} {
		assert.Contains(t, bench, w)
	}
	assert.Equal(t, 1, strings.Count(bench, `value="Settle"`), "an empty section of that name is filled, not doubled")
	code, body := change(t, v, at, &rev, url.Values{"op": {"insert"}, "piece": {"session wheel-side-hips 2"}})
	require.Equal(t, 200, code, body)
	assert.Contains(t, body, "Bird dog")

	code, body, _ = v.Do("POST", at+"/template", url.Values{"title": {"Our arriving"}, "at": {"1.1.1 1.1.2"}}, "HX-Request", "true")
	require.Equal(t, 200, code, body)
	_, bench, _ = v.Do("GET", at, nil)
	assert.Contains(t, bench, "ours: Our arriving")
	ts, err := st.Templates(context.Background(), "claybank")
	require.NoError(t, err)
	require.Len(t, ts, 1)
	code, body = change(t, v, at, &rev, url.Values{"op": {"insert"}, "piece": {"template " + ts[0].ID}})
	require.Equal(t, 200, code, body)
	// a template that refers to a movement gone since: clear words, nothing lost
	_, err = st.DB.Exec(`INSERT INTO templates (studio_id, template_id, title, doc, teacher_id) VALUES ('claybank', 'gone', 'Gone', '{"format":"wavekine.session/1","title":"Gone","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"flying"}]}]}]}', 'maren')`) // as by hand
	require.NoError(t, err)
	code, body = change(t, v, at, &rev, url.Values{"op": {"insert"}, "piece": {"template gone"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "flying")
	for _, bad := range []string{"", "built 9", "session wheel-side-hips 99", "session nowhere 1"} {
		code, _ = change(t, v, at, &rev, url.Values{"op": {"insert"}, "piece": {bad}})
		assert.Contains(t, []int{404, 422}, code, bad)
	}

	// restore revision 1: empty again, and that can be undone
	code, _, _ = v.Do("POST", at+"/restore", url.Values{"to": {"1"}})
	require.Equal(t, 303, code)
	_, bench, _ = v.Do("GET", at, nil)
	assert.Contains(t, bench, "Nothing here yet")
	assert.Contains(t, bench, "Restore version 1")
	rev++
	code, body = change(t, v, at, &rev, url.Values{"op": {"undo"}})
	require.Equal(t, 200, code)
	assert.Contains(t, body, "Criss-cross")
	code, body, _ = v.Do("POST", at+"/restore", url.Values{"to": {"999"}}, "HX-Request", "true")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "That version is not there")
	// one written by a newer version
	id := strings.TrimPrefix(at, "/sessions/")
	_, err = st.DB.Exec(`UPDATE plan_revisions SET doc = jsonb_set(doc, '{format}', '"wavekine.session/9"') WHERE plan_id = $1 AND rev = 2`, id)
	require.NoError(t, err)
	code, body, _ = v.Do("POST", at+"/restore", url.Values{"to": {"2"}}, "HX-Request", "true")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "That version cannot be read")
}

func TestOptionsStyleAndCompare(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	at := webtest.NewSession(t, v, "Options", "20")
	rev := 1
	change(t, v, at, &rev, url.Values{"op": {"add"}, "line": {"full plank level 2 hold 30 s"}})
	code, body := change(t, v, at, &rev, url.Values{"op": {"options"}, "at": {"1.1.1"}, "options": {"1 3"}, "demo": {"3"}})
	require.Equal(t, 200, code, body)
	d, err := st.Sessions.Get(context.Background(), "claybank", strings.TrimPrefix(at, "/sessions/"))
	require.NoError(t, err)
	assert.Contains(t, strings.ReplaceAll(string(d.Doc), " ", ""), `"options":[1,3]`)
	assert.Contains(t, strings.ReplaceAll(string(d.Doc), " ", ""), `"demo":3`)
	code, _ = change(t, v, at, &rev, url.Values{"op": {"options"}, "at": {"1.1.1"}, "options": {"7"}})
	assert.Equal(t, 422, code)

	// the school: what is meant is written into the row, and a later answer re-reads nothing
	for _, s := range []string{"count pairs", "sets pairs", "sides chain"} {
		code, body = change(t, v, at, &rev, url.Values{"op": {"head"}, "style": {s}})
		require.Equal(t, 200, code, body)
	}
	_, body = change(t, v, at, &rev, url.Values{"op": {"add"}, "line": {"saw 4"}})
	assert.Contains(t, body, `value="4 pairs"`)
	_, body = change(t, v, at, &rev, url.Values{"op": {"add"}, "line": {"single leg stretch 10 sets"}})
	assert.Contains(t, body, `value="10 pairs"`)
	change(t, v, at, &rev, url.Values{"op": {"add"}, "line": {"clam 12"}})
	_, body = change(t, v, at, &rev, url.Values{"op": {"add"}, "line": {"side circles 8 each way"}})
	assert.Contains(t, body, "rows chain", "one-sided rows go side by side in this school")
	_, body = change(t, v, at, &rev, url.Values{"op": {"head"}, "style": {"count singles"}})
	assert.Contains(t, body, `value="4 pairs"`)
	code, _ = change(t, v, at, &rev, url.Values{"op": {"head"}, "style": {"count triples"}})
	assert.Equal(t, 422, code)

	_, page, _ := v.Do("GET", "/sessions/wheel-side-hips/compare?with=kiln-circuit", nil)
	for _, w := range []string{"Wave over wave", "Changes of position", "Works mostly", "Load, effort"} {
		assert.Contains(t, page, w)
	}
	code, _, _ = v.Do("GET", "/sessions/wheel-side-hips/compare?with=nowhere", nil)
	assert.Equal(t, 404, code)
}

// The house's answers go into every new session.
func TestHouseStyle(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	f := url.Values{"rev": {"1"}, "name": {"Claybank"}, "zone": {"UTC"}, "style-breath": {"nose-nose"}, "style-first_side": {"by day"}, "style-countdown": {"3"}}
	code, body, _ := v.Do("POST", "/house", f, "HX-Request", "true")
	require.Equal(t, 303, code, body)
	at := webtest.NewSession(t, v, "In our style", "")
	d, err := st.Sessions.Get(context.Background(), "claybank", strings.TrimPrefix(at, "/sessions/"))
	require.NoError(t, err)
	for _, w := range []string{"nose-nose", "by day", "countdown"} {
		assert.Contains(t, string(d.Doc), w)
	}
	f.Set("style-breath", "by the ears")
	code, body, _ = v.Do("POST", "/house", f, "HX-Request", "true")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "expected one of nose-mouth")
}

// A file is shown as it was understood before anything is stored.
func TestImportIsShownFirst(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	before, err := st.Sessions.List(context.Background(), "claybank")
	require.NoError(t, err)
	text := "# Build\nbird dog 8 each side + 10 pulses\nflying trapeze 8\nrest 20 s\n"
	code, page, _ := v.Do("POST", "/sessions/import", url.Values{"text": {text}, "kind": {"text"}})
	require.Equal(t, 200, code)
	for _, w := range []string{"3 rows", "1 not understood", "flying trapeze", "Nothing is stored yet"} {
		assert.Contains(t, page, w)
	}
	after, _ := st.Sessions.List(context.Background(), "claybank")
	assert.Len(t, after, len(before))
	_, csv, _ := v.Do("GET", "/sessions/wheel-side-hips/export?as=csv", nil)
	code, _, h := v.Do("POST", "/sessions/import", url.Values{"text": {csv}, "title": {"From a table"}, "do": {"make"}})
	require.Equal(t, 303, code)
	_, one, _ := v.Do("GET", h.Get("Location")+"/export?as=csv", nil)
	assert.Equal(t, csv, one, "the table comes back as it went out")
	for _, c := range []struct{ text, want string }{
		{strings.Repeat("x", 10000) + "\n", "not understood"},
		{"movement,dose\nflying,8\nsquat,0 reps\nsquat,8\n", "2 not understood"},
	} {
		code, page, _ = v.Do("POST", "/sessions/import", url.Values{"text": {c.text}})
		assert.Equal(t, 200, code)
		assert.Contains(t, page, c.want)
	}
	code, page, _ = v.Do("POST", "/sessions/import", url.Values{"text": {"movements,dose\n"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "no column")
	code, page, _ = v.Do("POST", "/sessions/import", url.Values{"text": {strings.Repeat("squat 8\n", 300000)}})
	assert.Contains(t, []int{413, 422}, code)
	assert.Contains(t, page, "at most")
}

// The sheets, read by a program that is not ours: one A4 page for twenty minutes, with clock, words, options
// and cautions; the mover's with the two main cautions.
func TestSheetsAsPDF(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	dir := t.TempDir()
	for name, want := range map[string][]string{
		"?as=pdf":           {"Wheel-side hips and upper back", "4:18", "Bird dog", "right, left", "Slide the leg long", "easier:", "harder:", "care:", "Stop if it hurts", "Works mostly"},
		"?as=pdf&for=mover": {"Bird dog", "8 reps + 10 pulses each side", "Stop if it hurts", "Knees"},
	} {
		code, pdf, h := v.Do("GET", "/sessions/wheel-side-hips/export"+name, nil)
		require.Equal(t, 200, code)
		assert.Equal(t, "application/pdf", h.Get("Content-Type"))
		file := filepath.Join(dir, "x.pdf")
		require.NoError(t, os.WriteFile(file, []byte(pdf), 0o600))
		out, err := exec.Command("pdftotext", "-layout", file, "-").Output()
		require.NoError(t, err)
		for _, w := range want {
			assert.Contains(t, string(out), w, name)
		}
		info, err := exec.Command("pdfinfo", file).Output()
		require.NoError(t, err)
		assert.Regexp(t, `Pages:\s+1\n`, string(info))
		assert.Contains(t, string(info), "A4")
	}
	_, page, _ := v.Do("GET", "/sessions/wheel-side-hips/print?for=mover", nil)
	assert.Contains(t, page, "hand-out")
}

// A class of 18 rows and 23 minutes, programmed from empty: every key is counted.
func TestAClassInFewKeys(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	at := webtest.NewSession(t, v, "Quick", "23")
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + at)
	p.Until(`document.querySelector('#add') && window.htmx && document.readyState === 'complete'`)
	keys := 0
	typed := func(k string) { keys += len([]rune(k)); p.Keys(k) }
	webtest.Press(p, "/")
	keys++
	for _, line := range []string{
		"rib br", "pelvic t", "cat", "bird", "rainbow", "plank", "child", "hundred", "single leg str", "scissors", "bridge", "clam", "side ci", "swan", "mermaid", "half p", "knees to", "constr",
	} {
		n := webtest.Rev(p)
		typed(line)
		time.Sleep(150 * time.Millisecond) // the pause that whoever types makes: longer than the page waits before it asks
		p.Settled()                        // what is understood of the whole line, not of its beginning
		typed(kb.Enter)
		p.Until(fmt.Sprintf(`+document.querySelector('#bench').dataset.rev > %d || document.querySelector('#understood .stop-ink') !== null`, n))
		if webtest.Rev(p) == n { // more than one of that name: the first of the list
			typed(kb.ArrowDown + kb.Enter + kb.Enter)
		}
		webtest.Changed(p, n)
	}
	assert.Equal(t, 18, browsertest.JS[int](p, `document.querySelectorAll('.row').length`))
	p.Keys(kb.Escape)
	keys++
	p.Until(`document.activeElement.classList.contains('row')`)
	typed("f")
	p.Until(`document.querySelector('[data-take=fit]') !== null`)
	n := webtest.Rev(p)
	typed(kb.Enter)
	webtest.Changed(p, n)
	clock := p.Text(".clock b")
	t.Logf("%d keys, %s, rows %s", keys, clock, rowNames(p))
	assert.Regexp(t, `^(22:5[5-9]|23:0[0-5])$`, clock)
	assert.Less(t, keys, 250)
}

// Rows are copied as text and read from text; the beat is tapped.
func TestCopyPasteAndTap(t *testing.T) {
	base, _ := webtest.Site(t)
	p := openBench(t, base, demo.Email, "wheel-side-hips")
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#row-2-1-1').focus(); void 0`))
	p.Keys(kb.ArrowDown, cdp.KeyModifiers(cdp.ModifierShift))
	got := webtest.JsText(p, `(() => { const d = new DataTransfer(); document.activeElement.dispatchEvent(new ClipboardEvent('copy', {clipboardData: d, bubbles: true, cancelable: true})); return d.getData('text/plain'); })()`)
	assert.Equal(t, "# Build\n= one side through; 20 s between\nBird dog level 2 8 reps + 10 pulses\nRainbow leg level 2 8 reps; left: 6 reps", got)
	p.Do(cdp.Evaluate[cdp.Void](`(() => { const d = new DataTransfer(); d.setData('text/plain', 'squat 8\nno such thing'); document.body.dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true})); })(); void 0`))
	p.Until(`/Add 1 row/.test(document.querySelector('#pasted').textContent)`)
	assert.Contains(t, p.Text("#pasted"), "not understood")
	n := webtest.Rev(p)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#row-1-1-1').focus(); for (let i = 0; i < 4; i++) setTimeout(() => document.activeElement.dispatchEvent(new KeyboardEvent('keydown', {key: 'b', bubbles: true})), i * 500); void 0`))
	webtest.Changed(p, n)
	bpm := webtest.JsText(p, `document.querySelector('input[name=bpm]').value`)
	assert.Regexp(t, `^1[12][0-9]$`, bpm, "taps half a second apart are about 120 a minute")
}

// What is folded away below is as new as the session: a row just put in has its options, a change just
// made is in the history and can be gone back on.
func TestFoldedPanelsAreFresh(t *testing.T) {
	url, st := webtest.Site(t)
	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	p.Go(url + "/sessions/two-long-holds")
	p.Until(`document.querySelectorAll('.row').length > 1`)
	rows := browsertest.JS[int](p, `document.querySelectorAll('.row').length`)
	p.Click("#optionsbox summary")
	p.Until(`document.querySelectorAll('#options tr[data-options]').length > 0`)
	had := browsertest.JS[int](p, `document.querySelectorAll('#options tr[data-options]').length`)
	p.Click("#add")
	p.Keys("side plank hold 20 s each side\r")
	p.Until(fmt.Sprintf(`document.querySelectorAll('.row').length === %d`, rows+1))
	p.Until(fmt.Sprintf(`document.querySelectorAll('#options tr[data-options]').length === %d`, had+1))
	at := browsertest.JS[string](p, `[...document.querySelectorAll('#options tr[data-options]')].find(r => r.textContent.includes('Side plank')).dataset.options`)
	assert.Equal(t, at, browsertest.JS[string](p, `[...document.querySelectorAll('.row')].find(r => r.textContent.includes('Side plank')).dataset.path`))
	p.Do(cdp.Evaluate[cdp.Void](`(i => { i.checked = !i.checked; i.dispatchEvent(new Event('change', {bubbles: true})); })(document.querySelector('[data-options="` + at + `"] input:not(:checked)')); void 0`))
	p.Until(`document.querySelector('#bench').dataset.rev === '3'`)
	d, err := st.Sessions.Get(context.Background(), "claybank", "two-long-holds")
	require.NoError(t, err)
	assert.Contains(t, string(d.Doc), `"options"`)
	p.Until(`document.querySelector('[data-usual="` + at + `"]')`)
	p.Click(`[data-usual="` + at + `"]`)
	p.Until(`document.querySelector('#bench').dataset.rev === '4' && !document.querySelector('[data-usual="` + at + `"]')`)
	d, err = st.Sessions.Get(context.Background(), "claybank", "two-long-holds")
	require.NoError(t, err)
	assert.NotContains(t, string(d.Doc), `"options"`)
	p.Click("#historybox summary")
	p.Until(`document.querySelectorAll('#history li').length === 4`)
	assert.Contains(t, p.Text("#history li"), "Maren")
	p.Do(cdp.Evaluate[cdp.Void](`[...document.querySelectorAll('#history li button')].pop().click(); void 0`))
	p.Until(fmt.Sprintf(`document.querySelectorAll('.row').length === %d`, rows))
}

func TestPastedTextIsReadInTheSchool(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	code, _, _ := v.Do("POST", "/house", url.Values{"rev": {"1"}, "name": {"Claybank Pottery"}, "zone": {"Europe/Lisbon"}, "style-sets": {"pairs"}, "style-first_side": {"left"}})
	require.Equal(t, 303, code)
	at := webtest.NewSession(t, v, "In pairs", "")
	code, body, _ := v.Do("POST", at+"/paste", url.Values{"text": {"single leg stretch 10 sets"}}, "HX-Request", "true")
	require.Equal(t, 200, code)
	assert.Contains(t, body, "10 pairs", "the preview says what putting it in will do")
	code, _, h := v.Do("POST", "/sessions/import", url.Values{"text": {"# Build\nsingle leg stretch 10 sets"}, "kind": {"text"}, "do": {"make"}})
	require.Equal(t, 303, code)
	d, err := st.Sessions.Get(context.Background(), "claybank", strings.TrimPrefix(h.Get("Location"), "/sessions/"))
	require.NoError(t, err)
	s, err := plan.ReadSession(d.Doc, movement.Shipped())
	require.NoError(t, err)
	assert.Equal(t, "10 pairs", s.Row(plan.Path{Section: 1, Block: 1, Row: 1}).Dose.String())
	assert.Equal(t, plan.LeftFirst, s.Style.First, "a session of this house")
}

// A row may offer nothing aloud: that is kept too.
func TestNoOptionIsAnAnswer(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	at, rev := "/sessions/wheel-side-hips", 1
	code, _ := change(t, v, at, &rev, url.Values{"op": {"options"}, "at": {"3.1.1"}, "options": {""}})
	require.Equal(t, 200, code)
	d, err := st.Sessions.Get(context.Background(), "claybank", "wheel-side-hips")
	require.NoError(t, err)
	s, err := plan.ReadSession(d.Doc, movement.Shipped())
	require.NoError(t, err)
	r := s.Row(plan.Path{Section: 3, Block: 1, Row: 1})
	m, err := r.Of(movement.Shipped())
	require.NoError(t, err)
	assert.Empty(t, review.EasierOffered(r, m))
	assert.Empty(t, review.HarderOffered(r, m))
	_, panel, _ := v.Do("GET", at+"/options", nil)
	_, rest, ok := strings.Cut(panel, `data-options="3.1.1"`)
	require.True(t, ok)
	line, _, _ := strings.Cut(rest, "</tr>")
	assert.NotContains(t, line, "checked")
}
