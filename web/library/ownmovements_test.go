package library_test

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/demo"
	"wavekine/store"
	"wavekine/web/library"
	"wavekine/web/webtest"
)

func TestOwnMovement(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	squat, _ := movement.Shipped().Get("squat")
	f := webtest.OwnForm(squat, "Kiln squat")
	code, _, h := v.Do("POST", "/movement-save", f, "HX-Request", "true")
	require.Equal(t, 204, code)
	require.Equal(t, "/movements/own-kiln-squat~1", h.Get("HX-Redirect"))
	_, page, _ := v.Do("GET", "/movements/own-kiln-squat", nil)
	for _, w := range []string{"Kiln squat", "our own, version 1", "demand, computed", "Change it"} {
		assert.Contains(t, page, w)
	}
	assert.Regexp(t, `/own-figures/own-kiln-squat~1-1-[a-z]\.svg\?v=[0-9a-f]{12}`, page, "kept by the browser under what it shows")
	_, list, _ := v.Do("GET", "/movements?q=kiln", nil, "HX-Request", "true")
	assert.Contains(t, list, "Kiln squat")
	code, svg, hd := v.Do("GET", "/own-figures/own-kiln-squat~1-2-s.svg", nil)
	assert.Equal(t, 200, code)
	assert.Contains(t, svg, "<svg")
	assert.Contains(t, hd.Get("Cache-Control"), "private")
	other := webtest.Visit(t, base)
	code, _, _ = other.Do("GET", "/own-figures/own-kiln-squat~1-2-s.svg", nil)
	assert.Equal(t, 303, code, "nobody else sees it")
	require.NoError(t, st.CreateStudio(context.Background(), store.Studio{ID: "other", Name: "Other", Zone: "UTC"}, store.Teacher{ID: "o", Email: "o@other.example", Name: "O", PasswordHash: webtest.CheapHash("")}))
	wrong := webtest.Visit(t, base).SignIn("o@other.example")
	for _, path := range []string{"/movements/own-kiln-squat", "/movements/own-kiln-squat/edit", "/movements/own-kiln-squat/document", "/own-figures/own-kiln-squat~1-2-s.svg"} {
		code, body, _ := wrong.Do("GET", path, nil)
		assert.Equal(t, 404, code, path)
		assert.NotContains(t, body, "Kiln squat")
	}

	_, _, h = v.Do("POST", "/sessions", url.Values{"title": {"Kiln day"}})
	at := h.Get("Location")
	code, body, _ := v.Do("POST", at+"/edit", url.Values{"op": {"add"}, "rev": {"1"}, "line": {"kiln squat level 3 8 reps"}}, "HX-Request", "true")
	require.Equal(t, 200, code, body)
	code, body, _ = v.Do("POST", "/movements/own-kiln-squat/delete", nil, "HX-Request", "true")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "is used in a session")

	// version 2 has two levels only and is slower
	for k := range f {
		if strings.HasPrefix(k, "levels.2.") || strings.HasPrefix(k, "levels.3.") {
			f.Del(k)
		}
	}
	f.Set("slug", "own-kiln-squat")
	f.Set("seconds_per_rep", "9")
	f.Set("version", "1")
	code, body, _ = v.Do("POST", "/movement-save", f, "HX-Request", "true")
	require.Equal(t, 204, code, body)
	code, body, _ = v.Do("POST", "/movement-save", f, "HX-Request", "true")
	assert.Equal(t, http.StatusConflict, code, "somebody was first")
	assert.Contains(t, body, "Yours is still here")
	_, bench, _ := v.Do("GET", at, nil)
	assert.Contains(t, bench, "Level 3 of 4", "the session keeps what it had")
	assert.Contains(t, bench, "take the newer version")
	_, page, _ = v.Do("GET", "/movements/own-kiln-squat~1", nil)
	assert.Contains(t, page, "An older version")
	assert.Contains(t, page, "Kiln day")
	code, bench, _ = v.Do("POST", at+"/edit", url.Values{"op": {"renew"}, "rev": {"2"}, "at": {"1.1.1"}}, "HX-Request", "true")
	require.Equal(t, 200, code, bench)
	assert.Contains(t, bench, "Level 2 of 2")

	// hidden: not offered, kept where it is used
	code, _, _ = v.Do("POST", "/movements/own-kiln-squat/change", url.Values{"do": {"hide"}})
	require.Equal(t, 303, code)
	_, list, _ = v.Do("GET", "/movements?q=kiln", nil, "HX-Request", "true")
	assert.Contains(t, list, "Nothing of that kind")
	code, _, _ = v.Do("GET", at, nil)
	assert.Equal(t, 200, code)

	// out as a document, in again as another studio would
	_, doc, _ := v.Do("GET", "/movements/own-kiln-squat/document", nil)
	assert.True(t, json.Valid([]byte(doc)))
	up := func(text string) (int, string, http.Header) {
		var b bytes.Buffer
		w := multipart.NewWriter(&b)
		part, _ := w.CreateFormFile("file", "m.json")
		_, _ = part.Write([]byte(text))
		_ = w.Close()
		req, err := http.NewRequest("POST", base+"/movement-import", &b)
		require.NoError(t, err)
		req.Header.Set("Content-Type", w.FormDataContentType())
		r, err := v.HTTP.Do(req)
		require.NoError(t, err)
		defer func() { _ = r.Body.Close() }()
		text2, _ := io.ReadAll(r.Body)
		return r.StatusCode, string(text2), r.Header
	}
	code, _, h = up(strings.NewReplacer("own-kiln-squat", "own-lent", "Kiln squat", "Lent squat").Replace(doc))
	require.Equal(t, 303, code)
	assert.Equal(t, "/movements/own-lent~1", h.Get("Location"))
	code, body, _ = up(strings.Replace(doc, `"phase"`, `"phases"`, 1))
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "phase&#34; is missing")
	code, _, _ = v.Do("POST", "/movements/own-lent/delete", nil)
	assert.Equal(t, 303, code, "nothing uses it")
}

func TestRefusedMovementsNameTheField(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	squat, _ := movement.Shipped().Get("squat")
	for _, c := range []struct{ key, value, field, says string }{
		{"name", "Teaser", "name", "belongs to another movement"},
		{"name", "", "name", "no name"},
		{"dose", "9 hours", "dose", "dose: "},
		{"seconds_per_rep", "slowly", "seconds_per_rep", "expected a number"},
		{"regions", "tail 0.4", "regions", "unknown key"},
		{"levels.1.pose", `{"knee":-40}`, "levels.1.pose", "Level 2, pose: the pose cannot be"},
		{"levels.1.changes", "", "levels.1.changes", "Level 2, changes: say something here"},
		{"gives_back", "flying", "gives_back", `no movement "flying"`},
		{"range", "some", "range", `expected a range like 4 to 12 by 1`},
		{"range", "12 to 20", "range", `the usual dose asks for 10`},
		{"version_of", "flying", "version_of", `no movement "flying"`},
		{"themes", "hips, tail", "themes", `"tail": expected spine`},
		{"phases", "up 40 %, out 60 %", "phases", `expected in, out, hold or any`},
		{"phases", "out 40 %, in 60 %", "phases", `the phases go out, in, and the words in, out`},
		{"phases", "in 40 %, out 40 %", "phases", `the shares add up to 0.8`},
		{"breath_over", "many", "breath_over", "expected"},
		{"assist", "hold the hips", "assist", "say also what to do alone"},
		{"levels.1.needs", "Squat, Flying 2", "levels.1.needs", `no movement "Flying"`},
		{"levels.1.range", "3 to 4", "levels.1.range", "the usual dose asks for 10"},
		{"levels.3.quiet", "", "levels.3.changes", "quiet"},
	} {
		f := webtest.OwnForm(squat, "Refused")
		f.Set(c.key, c.value)
		code, body, h := v.Do("POST", "/movement-save", f, "HX-Request", "true")
		assert.Equal(t, 422, code, c.key)
		assert.Equal(t, c.field, h.Get("X-Field"), c.key)
		assert.Contains(t, strings.ReplaceAll(body, "&#34;", `"`), c.says)
	}
	code, body, _ := v.Do("POST", "/movement-pose", url.Values{"field": {"levels.0.pose"}, "pose": {`{}`}, "do": {"set"}, "key": {"knee"}, "side": {"R"}, "value": {"200"}}, "HX-Request", "true")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "Right knee 200: expected 0 to 170 degrees")
	code, _, _ = v.Do("POST", "/movement-pose", url.Values{"field": {"levels.0.pose"}, "pose": {`{"on":["tail"]}`}}, "HX-Request", "true")
	assert.Equal(t, 422, code)
}

// A studio's own name and words for a shipped movement, and back.
func TestOwnWordsForAShippedMovement(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	f := url.Values{"do": {"words"}, "name": {"Pot lifter"}, "setup": {"Feet wide."}, "say": {"Up."}, "watch": {"knees"}, "care": {""}}
	code, _, _ := v.Do("POST", "/movements/squat/change", f)
	require.Equal(t, 303, code)
	_, page, _ := v.Do("GET", "/movements/squat", nil)
	assert.Contains(t, page, "Pot lifter")
	_, part, _ := v.Do("GET", "/movements?q=squat", nil, "HX-Request", "true")
	assert.Contains(t, part, "Pot lifter", "its own name still finds it")
	f.Set("name", "Teaser")
	code, body, _ := v.Do("POST", "/movements/squat/change", f, "HX-Request", "true")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "belongs to Teaser already")
	code, _, _ = v.Do("POST", "/movements/squat/change", url.Values{"do": {"reset"}})
	require.Equal(t, 303, code)
	_, page, _ = v.Do("GET", "/movements/squat", nil)
	assert.NotContains(t, page, "Pot lifter")
	code, _, _ = v.Do("POST", "/movements/squat/change", url.Values{"do": {"explode"}})
	assert.Equal(t, 422, code)
}

// In the browser: a joint is pulled, an angle typed, a level added, a mistake survives, and a reload too.
func TestPosingInTheBrowser(t *testing.T) {
	base, _ := webtest.Site(t)
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 900)
	p.Go(base + "/movement-new?from=bird-dog")
	p.Until(`document.querySelectorAll('[data-panel]').length === 6`)
	knee := func() string {
		return webtest.JsText(p, `document.querySelector('[data-panel="levels.2.pose"] [data-handle=kneeR]').getAttribute('cy')`)
	}
	hand := func() string {
		return webtest.JsText(p, `document.querySelector('[data-panel="levels.2.pose"] [data-handle=wriR]').getAttribute('cx')`)
	}
	was, hands := knee(), hand()
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[data-panel="levels.2.pose"] [data-handle=kneeR]').focus(); void 0`))
	p.Keys(kb.ArrowUp)
	p.Until(`document.querySelector('[data-panel="levels.2.pose"] [data-handle=kneeR]').getAttribute('cy') !== '` + was + `'`)
	assert.Equal(t, hands, hand(), "the hand stays on the mat")
	p.Until(`document.activeElement.dataset.handle === 'kneeR'`)

	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[data-panel="levels.0.pose"] details').open = true; const f = document.querySelector('[data-panel="levels.0.pose"] [data-angle=knee][data-side=R]'); f.value = '190'; f.dispatchEvent(new Event('change', {bubbles: true})); void 0`))
	p.Until(`/expected 0 to 170 degrees/.test(document.getElementById('message').textContent)`)

	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[data-do="level-copy 2"]').click(); void 0`))
	p.Until(`document.querySelectorAll('.editor-level').length === 4`)
	p.Click("input[name='levels.3.changes']")
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector("input[name='levels.3.changes']").select(); void 0`))
	p.Keys("with eyes closed")
	p.Until(`document.getElementById('draft-says').textContent.startsWith('Kept')`)
	p.Go(base + "/movement-new?from=bird-dog")
	p.Until(`document.querySelectorAll('.editor-level').length === 4 && document.querySelector("input[name='levels.3.changes']").value === 'with eyes closed'`)

	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('input[name=name]').value = 'Teaser'; document.querySelector('#editor .btn.ink').click(); void 0`))
	p.Until(`document.querySelector('input[name=name]').classList.contains('refused')`)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('input[name=name]').value = 'Quiet dog'; document.querySelector('#editor .btn.ink').click(); void 0`))
	p.Until(`location.pathname === '/movements/own-quiet-dog~1' && document.readyState === 'complete'`)
	p.Until(`document.querySelectorAll('[data-strip][data-ready]').length === 4`)
	assert.True(t, p.Expect("422"), "two refusals")
	assert.Equal(t, "with eyes closed", webtest.JsText(p, `document.querySelectorAll('.levels .changes')[3].textContent`))
}

// The document is valid by its published schema, read by a validator that is not ours.
func TestMovementDocumentBySchema(t *testing.T) {
	if _, err := exec.LookPath("/usr/bin/python3"); err != nil {
		t.Skip("no python3")
	}
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	for _, slug := range []string{"bird-dog", "side-plank", "roller-march", "supine-twist"} {
		_, doc, _ := v.Do("GET", "/movements/"+slug+"/document", nil)
		cmd := exec.Command("/usr/bin/python3", "-c", "import sys,json,jsonschema; jsonschema.Draft202012Validator(json.load(open('../../schema/movement.json'))).validate(json.load(sys.stdin))")
		cmd.Stdin = strings.NewReader(doc)
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s: %s", slug, out)
	}
}

// Everything a movement says is on the screen, and is kept when it is made our own: of all of them, a sixth in a plain run.
func TestOurOwnKeepsAllThatIsSaid(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	tried := 0
	for i, m := range movement.Shipped().All() {
		if i%6 != 0 && m.Slug != "hundred" && m.Slug != "scissors" && os.Getenv("THOROUGH") == "" {
			continue
		}
		tried++
		f := webtest.OwnForm(m, "Ours "+m.Name)
		_, page, _ := v.Do("GET", "/movement-new?from="+m.Slug, nil)
		for k := range f {
			assert.Contains(t, page, `name="`+k+`"`, "%s: the screen has it", m.Slug)
		}
		code, says, h := v.Do("POST", "/movement-save", f, "HX-Request", "true")
		require.Equal(t, 204, code, "%s: %s", m.Slug, says)
		_, doc, _ := v.Do("GET", strings.TrimSuffix(h.Get("HX-Redirect"), "~1")+"/document", nil)
		was, err := json.Marshal(m)
		require.NoError(t, err)
		var a, b map[string]any
		require.NoError(t, json.Unmarshal(was, &a))
		require.NoError(t, json.Unmarshal([]byte(doc), &b), m.Slug)
		for _, k := range []string{"slug", "name", "also"} {
			delete(a, k)
			delete(b, k)
		}
		assert.Equal(t, a, b, m.Slug)
	}
	assert.Greater(t, tried, 30)
}

// A row of a movement that no library has becomes a movement of our own by the form that the class opens, and its rows become rows of it; the name finds it
// from then on.
func TestARowBecomesAMovementOfOurOwn(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	at := webtest.NewSession(t, v, "Wheel day", "10:00")
	_, doc, _ := v.Do("GET", at+"/document", nil)
	require.NotContains(t, doc, "Kneeling leg sweeps")
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 900)
	p.Go(base + at)
	for _, line := range []string{"Kneeling leg sweeps with a block 6 each side", "Squat x8", "kneeling leg sweeps with a block 4 each side"} {
		was := webtest.Rev(p)
		webtest.Press(p, "/")
		p.Keys(line + kb.Enter)
		webtest.Changed(p, was)
	}
	webtest.Run1(p, `document.querySelectorAll('.row [data-named]')[0].click()`)
	p.Until(`document.activeElement.closest('[data-named-row]')`)
	webtest.Run1(p, `document.querySelector('[data-named-row] a').click()`)
	p.Until(`document.querySelector('#editor [name=was]')`)
	p.Until(`document.querySelector('#editor [name=kit]').value === 'block'`)
	assert.Equal(t, "kneeling", webtest.JsText(p, `document.querySelector('#editor [name=posture]').value`))
	assert.Equal(t, "each", webtest.JsText(p, `document.querySelector('#editor [name=sides]').value`))
	assert.Equal(t, "6 each side", webtest.JsText(p, `document.querySelector('#editor [name=dose]').value`))
	p.Shot("own-from-row")
	assert.Empty(t, p.Axe())
	// it is put away without the words: the place is named, nothing is lost; with them it is stored and the class has it
	webtest.Run1(p, `document.querySelectorAll('#editor [required]').forEach(i => { if (!i.value) i.value = 'as we lean at the wheel' }); for (const n of ['purpose','setup','say','breath','watch','fault','ease','levels.0.changes','levels.0.why']) { const i = document.querySelector('#editor [name="' + n + '"]'); if (i && !i.value) i.value = 'as we lean at the wheel'; } document.querySelector('#editor').requestSubmit()`)
	p.Until(`location.pathname === '` + at + `' && document.querySelector('.row')`)
	p.Until(`!document.querySelector('.row [data-named]')`)
	p.Shot("own-in-class")
	_, doc, _ = v.Do("GET", at+"/document", nil)
	assert.Equal(t, 2, strings.Count(doc, `"movement": "own-kneeling-leg-sweeps-with-a-block~1"`), doc)
	assert.Contains(t, doc, `"6 each side"`)
	assert.Contains(t, doc, `"4 each side"`)
	_, page, _ := v.Do("GET", at+"/understand?line="+url.QueryEscape("kneeling leg sweeps with a block 5 each side"), nil, "HX-Request", "true")
	assert.NotContains(t, page, "read from its name")
	// one step back it is written in again, and the class offers the movement
	was := webtest.Rev(p)
	webtest.Run1(p, `document.activeElement.blur()`)
	p.Keys("z", cdp.KeyModifiers(cdp.ModifierCtrl))
	webtest.Changed(p, was)
	webtest.Run1(p, `document.querySelectorAll('.row [data-named]')[0].click()`)
	p.Until(`document.querySelector('[data-use]')`)
	was = webtest.Rev(p)
	webtest.Run1(p, `document.querySelector('[data-use]').click()`)
	webtest.Changed(p, was)
	p.Until(`!document.querySelector('.row [data-named]')`)
	// what is gone or not so is refused in words
	code, body, _ := v.Do("GET", "/movement-new?class="+strings.TrimPrefix(at, "/sessions/")+"&row=1.1.1", nil)
	assert.Equal(t, 404, code)
	assert.Contains(t, body, "by now")
	for _, q := range []string{"class=no-such&row=1.1.1", "class=" + strings.TrimPrefix(at, "/sessions/") + "&row=x"} {
		code, _, _ := v.Do("GET", "/movement-new?"+q, nil)
		assert.True(t, code == 404 || code == 422, code)
	}
}

// What a movement's document says is in the form that changes it: a word that the form left out would be lost when it is stored.
func TestTheFormHoldsAllOfAMovement(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	who := map[string]string{} // the first movement that says it, by field
	for _, m := range movement.Shipped().All() {
		f, err := library.FormOf(m)
		require.NoError(t, err, m.Slug)
		for k := range f {
			if _, seen := who[k]; !seen && f.Get(k) != "" && k != "slug" {
				who[k] = m.Slug
			}
		}
	}
	require.Greater(t, len(who), 60)
	squat, _ := movement.Shipped().Get("squat")
	ends := *squat
	ends.Ends = movement.Kneeling // none that is shipped says it of all its levels
	f, err := library.FormOf(&ends)
	require.NoError(t, err)
	for k := range f {
		who[k] = cmp.Or(who[k], "squat")
	}
	delete(who, "slug")
	pages := map[string]string{}
	for k, slug := range who {
		if pages[slug] == "" {
			_, pages[slug], _ = v.Do("GET", "/movement-new?from="+slug, nil)
		}
		assert.Contains(t, pages[slug], `name="`+k+`"`, "%s of %s", k, slug)
	}
}
