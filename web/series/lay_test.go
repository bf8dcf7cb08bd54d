package series_test

import (
	"net/url"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/demo"
	"wavekine/web/webtest"
)

// A brief is typed, seen understood, laid with Enter, and looked at day by day.
func TestLayingASeries(t *testing.T) {
	base, _ := webtest.Site(t)
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + "/series")
	webtest.Run1(p, `document.querySelector('#brief').focus()`)
	p.Keys("21 days from wednesday, 12 to 15 min, hips and upper back, flying")
	p.Until(`document.querySelector('#understood mark')?.textContent === 'flying'`)
	for range len("flying") {
		p.Keys(kb.Backspace)
	}
	p.Keys("no kit, mixed, rest sundays, ramp, peak day 20, soft last day, learn bird dog, bridge and side plank")
	p.Until(`document.querySelector('#understood')?.textContent.includes('learn bird dog, shoulder bridge and side plank') && document.querySelector('#understood').textContent.includes('18 classes, 3 days of rest')`)
	assert.Empty(t, p.Axe())
	p.Shot("lay-typed")
	p.Keys(kb.Enter)
	p.Until(`location.pathname.startsWith('/series/') && document.querySelectorAll('.day').length === 21`)
	p.Shot("lay-laid")
	assert.Empty(t, p.Axe())
	webtest.Run1(p, `document.querySelector('[data-open="1"]').click()`)
	p.Until(`document.querySelectorAll('#panel .day-rows li').length > 5`)
	assert.Contains(t, p.Text("#panel"), "to learn, go 1")
	p.Shot("lay-class")
}

// The same without a script: what is wrong is said and nothing lost; what is kept reads back and can be laid another way.
func TestLayingWithoutAScript(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	_, part, _ := v.Do("GET", "/series-brief?brief="+url.QueryEscape("9 days, <b>flying"), nil, "HX-Request", "true")
	assert.Contains(t, part, "<mark>&lt;b&gt;flying</mark>")
	_, part, _ = v.Do("GET", "/series-brief?brief="+url.QueryEscape("21 days from 5/6"), nil, "HX-Request", "true")
	assert.Contains(t, part, "could be 5 June, 6 May: say which")
	_, part, _ = v.Do("GET", "/series-brief?brief=", nil, "HX-Request", "true")
	assert.NotContains(t, part, "<p")
	for words, want := range map[string]string{"": "ay what the series should be", "9 days, flying": "flying", "61 days": "1 to 60 days in all", "9 days, from what we taught last, two long holds": "say one of them", "12 tuesdays from 5 january 2027, core": "reaches over 78 days"} {
		code, body, _ := v.Do("POST", "/series-lay", url.Values{"brief": {words}}, "HX-Request", "true")
		assert.Equal(t, 422, code, words)
		assert.Contains(t, body, want, words)
	}
	code, _, _ := v.Do("POST", "/series-lay", url.Values{"brief": {"3 days"}, "seed": {"x"}}, "HX-Request", "true")
	assert.Equal(t, 422, code)
	lay := func(f url.Values) string {
		code, body, h := v.Do("POST", "/series-lay", f)
		require.Equal(t, 303, code, body)
		return h.Get("Location")
	}
	const words = "6 days from 1 june, 10 min, core and hips, older, with chair, ramp, learn bird dog"
	at := lay(url.Values{"brief": {words}})
	_, doc, _ := v.Do("GET", at+"/document", nil)
	s, err := plan.ReadSeries([]byte(doc), movement.Shipped())
	require.NoError(t, err)
	assert.Len(t, s.Days, 6)
	assert.NotEmpty(t, s.Brief)
	_, page, _ := v.Do("GET", at, nil)
	assert.Contains(t, page, "laid from:")
	assert.Equal(t, 6, strings.Count(page, "data-open="))
	other := lay(url.Values{"brief": {s.Brief}, "seed": {"1"}})
	_, doc2, _ := v.Do("GET", other+"/document", nil)
	assert.NotEqual(t, doc, doc2)
	code, _, _ = v.Do("POST", at+"/edit", url.Values{"op": {"rest"}, "day": {"2"}, "rev": {"1"}}, "HX-Request", "true")
	require.Equal(t, 200, code)
	_, doc, _ = v.Do("GET", at+"/document", nil)
	s, err = plan.ReadSeries([]byte(doc), movement.Shipped())
	require.NoError(t, err, "what was changed by hand reads back")
	assert.True(t, s.Days[1].Rest)
	for _, path := range []string{at + "/calendar", at + "/print", "/series", "/"} {
		code, _, _ := v.Do("GET", path, nil)
		assert.Equal(t, 200, code, path)
	}
	code, _, _ = webtest.Visit(t, base).Do("POST", "/series-lay", url.Values{"brief": {words}})
	assert.Contains(t, []int{303, 401, 403}, code, "for those who are signed in")
}

// The brief is set field by field as well: the line follows, what is typed meanwhile stays, what is wrong is pointed at and loses nothing.
func TestABriefFieldByField(t *testing.T) {
	base, _ := webtest.Site(t)
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + "/series")
	webtest.Run1(p, `document.querySelector('#byfield summary').click(); document.querySelector('#bf-days').focus()`)
	p.Keys("9 days from 4 january 2027" + kb.Tab)
	p.Until(`document.querySelector('#brief').value === '9 days from 4 January 2027' && document.activeElement.id === 'bf-weekdays'`)
	p.Keys(kb.Tab + "12 min")
	webtest.Run1(p, `htmx.ajax('GET', '/series-brief?field=about&words=hips&brief=' + encodeURIComponent(document.querySelector('#brief').value), { target: '#understood', swap: 'outerHTML' })`)
	p.Until(`document.querySelector('#bf-about').value === 'hips'`)
	p.Until(`document.querySelector('#bf-minutes').value === '12 min' && document.activeElement.id === 'bf-minutes'`)
	p.Keys(kb.Tab)
	p.Until(`document.querySelector('#brief').value === '9 days from 4 January 2027, 12 min, hips'`)
	webtest.Run1(p, `document.querySelector('#bf-learn').focus()`)
	p.Keys("learn flying" + kb.Tab)
	p.Until(`document.querySelector('#understood mark')?.textContent === 'flying' && document.querySelector('#bf-learn').value === 'learn flying'`)
	assert.Empty(t, p.Axe())
	p.Shot("lay-fields")
	webtest.Run1(p, `document.querySelector('#brief').focus()`)
	p.Keys(kb.End + ", ramp")
	p.Until(`document.querySelector('#bf-shape').value === 'ramp'`)
	p.Keys(kb.Enter)
	p.Until(`location.pathname.startsWith('/series/') && document.querySelectorAll('.day').length === 9`)
	p.Go(base + "/series")
	p.Until(`document.querySelector('#brief').value === ''`)
}
