package house_test

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/review"
	"wavekine/demo"
	"wavekine/store"
	"wavekine/web/browsertest"
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

func settingsOf(t *testing.T, st *store.Store) (store.HouseRevision, kit.House) {
	t.Helper()
	h, err := st.HouseHistory(context.Background(), "claybank", 1)
	require.NoError(t, err)
	return h[0], kit.ReadHouse(h[0].House)
}

// Sixty who set aside at once, by two teachers, some bringing back and some changing the form meanwhile: everything that
// was acknowledged is there.
func TestNoSettingAsideIsLost(t *testing.T) {
	base, st := webtest.Site(t)
	a, b := webtest.Visit(t, base).SignIn(demo.Email), webtest.Visit(t, base).SignIn(demo.Second)
	rules := review.Rules()
	var wg sync.WaitGroup
	var mu sync.Mutex
	kept := map[string]bool{}
	for n := range 60 {
		v := []*webtest.Visitor{a, b}[n%2]
		wg.Go(func() {
			if n%6 == 5 { // the form of the page, of a revision that is long gone
				code, body, _ := v.Do("POST", "/house", url.Values{"rev": {"1"}, "name": {"Claybank Pottery"}, "head_up": {"150"}, "wrists": {fmt.Sprint(100 + n)}})
				assert.Contains(t, []int{303, 409}, code, body)
				return
			}
			rule := rules[n%len(rules)].Name
			code, body, _ := v.Do("POST", "/house/aside", url.Values{"rule": {rule}, "amount": {fmt.Sprint(n + 1)}, "reason": {"ours are used to it"}})
			if assert.Equal(t, http.StatusSeeOther, code, body) {
				mu.Lock()
				kept[rule] = true
				mu.Unlock()
			}
		})
	}
	wg.Wait()
	_, h := settingsOf(t, st)
	have := map[string]bool{}
	for _, x := range h.Aside {
		have[x.Rule] = true
	}
	assert.Equal(t, kept, have)
	assert.Greater(t, len(have), 15)
	for rule := range kept {
		code, _, _ := a.Do("POST", "/house/aside", url.Values{"rule": {rule}, "do": {"back"}})
		require.Equal(t, http.StatusSeeOther, code)
	}
	_, h = settingsOf(t, st)
	assert.Empty(t, h.Aside)
}

// Two who keep the page of the settings: what they changed apart goes together, what both changed is shown with both
// values, and the second decides.
func TestTwoKeepTheSettings(t *testing.T) {
	base, st := webtest.Site(t)
	a, b := webtest.Visit(t, base).SignIn(demo.Email), webtest.Visit(t, base).SignIn(demo.Second)
	form := func(rev string, kv ...string) url.Values {
		now, h := settingsOf(t, st)
		_ = now
		f := url.Values{"rev": {rev}, "name": {"Claybank Pottery"}, "zone": {"Europe/Lisbon"}, "head_up": {"150"}, "wrists": {"180"}}
		_ = h
		for i := 0; i+1 < len(kv); i += 2 {
			f.Set(kv[i], kv[i+1])
		}
		return f
	}
	code, _, _ := a.Do("POST", "/house", form("1", "head_up", "200"))
	require.Equal(t, http.StatusSeeOther, code)
	code, _, _ = b.Do("POST", "/house", form("1", "wrists", "120"))
	require.Equal(t, http.StatusSeeOther, code, "another field: nothing to be asked")
	limit := func(h kit.House, key string) float64 {
		l, ok := review.LimitOf(key)
		require.True(t, ok)
		return h.Limits.Of(l)
	}
	_, h := settingsOf(t, st)
	assert.InDelta(t, 200, limit(h, "head_up"), 1e-9, "what the first changed stays")
	assert.InDelta(t, 120, limit(h, "wrists"), 1e-9)

	code, body, head := b.Do("POST", "/house", form("1", "head_up", "90", "name", "Clay"), "HX-Request", "true")
	assert.Equal(t, http.StatusConflict, code)
	assert.Equal(t, "#message", head.Get("HX-Retarget"))
	assert.Contains(t, body, "Head up without a rest: now <b>200</b>, you have <b>90</b>")
	assert.NotContains(t, body, "Clay</b>", "only what clashes")
	now, h := settingsOf(t, st)
	assert.InDelta(t, 200, limit(h, "head_up"), 1e-9)
	assert.Equal(t, "Claybank Pottery", now.Name, "and nothing of it is kept yet")
	code, body, _ = b.Do("POST", "/house", form("1", "head_up", "90"))
	assert.Equal(t, http.StatusConflict, code, "without scripts too")
	assert.Contains(t, body, "The same was changed meanwhile")
	code, _, _ = b.Do("POST", "/house", form("1", "head_up", "90", "name", "Clay", "over", fmt.Sprint(now.Rev)))
	require.Equal(t, http.StatusSeeOther, code)
	now, h = settingsOf(t, st)
	assert.InDelta(t, 90, limit(h, "head_up"), 1e-9)
	assert.Equal(t, "Clay", now.Name)
	assert.Equal(t, "Tobias Quill", now.By)
	assert.Contains(t, now.Says, "Head up without a rest")

	revs := now.Rev
	code, _, _ = b.Do("POST", "/house", form("1"))
	require.Equal(t, http.StatusSeeOther, code)
	now, _ = settingsOf(t, st)
	assert.Equal(t, revs, now.Rev, "a form in which nothing was touched changes nothing, however old")
	code, _, _ = a.Do("POST", "/house/restore", url.Values{"to": {"1"}})
	require.Equal(t, http.StatusSeeOther, code)
	now, h = settingsOf(t, st)
	assert.Equal(t, "Claybank Pottery", now.Name)
	assert.InDelta(t, 150, limit(h, "head_up"), 1e-9)
	for _, rev := range []string{"", "0", "x", "999", "-1"} {
		code, _, _ := a.Do("POST", "/house", form(rev, "name", "X"))
		assert.Equal(t, http.StatusUnprocessableEntity, code, rev)
	}
}

// The same in two browsers: what was typed stays in the page, and one press decides.
func TestTwoKeepTheSettingsInBrowsers(t *testing.T) {
	base, st := webtest.Site(t)
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + "/house")
	p.Until(`document.readyState === 'complete' && window.wavekineDrafts`)
	other := webtest.Visit(t, base).SignIn(demo.Second)
	code, _, _ := other.Do("POST", "/house", url.Values{"rev": {"1"}, "name": {"Claybank House"}, "head_up": {"200"}})
	require.Equal(t, http.StatusSeeOther, code)
	set := func(js string) { p.Do(cdp.Evaluate[cdp.Void](js + "; void 0")) }
	set(`document.querySelector('[name=name]').value = 'The Pottery'; document.querySelector('[name=wrists]').value = '77'; document.querySelector('#house-form').requestSubmit()`)
	p.Until(`document.querySelector('#message').textContent.includes('Claybank House')`)
	p.Expect("409")
	assert.Equal(t, "The Pottery", browsertest.JS[string](p, `document.querySelector('[name=name]').value`))
	set(`window.before = true; document.querySelector('#message [name=over]').click()`)
	p.Until(`!window.before && document.readyState === 'complete' && document.querySelector('[name=wrists]').value === '77'`)
	now, h := settingsOf(t, st)
	assert.Equal(t, "The Pottery", now.Name)
	l, _ := review.LimitOf("head_up")
	assert.InDelta(t, 200, h.Limits.Of(l), 1e-9, "and what the other changed besides stays")
	assert.Empty(t, p.Axe())

	// A teacher is added: the link is shown once, the list knows them, and the form is empty again.
	set(`(f => { f.elements.name.value = 'Nell Ash'; f.elements.email.value = 'nell@claybank.example'; f.requestSubmit() })(document.querySelector('form[action="/house/teachers"]'))`)
	p.Until(`document.querySelector('#message input') && document.querySelector('#teacher-list').textContent.includes('Nell Ash')`)
	link := browsertest.JS[string](p, `document.querySelector('#message input').value`)
	assert.True(t, strings.HasPrefix(link, base+"/link/"), link)
	assert.Empty(t, browsertest.JS[string](p, `document.querySelector('form[action="/house/teachers"] [name=name]').value`))
	assert.Empty(t, p.Axe())
	q := browsertest.NewPage(t, 390, 844)
	q.Go(link)
	q.Click(`input[name=password]`)
	q.Keys("three odd kettles\r")
	q.Until(`location.pathname === '/' && document.readyState === 'complete'`)
	assert.Contains(t, browsertest.JS[string](q, `document.body.textContent`), "Nell Ash")
	q.Go(base + "/account")
	q.Until(`document.readyState === 'complete'`)
	assert.Empty(t, q.Axe())
	assert.LessOrEqual(t, browsertest.JS[int](q, `document.documentElement.scrollWidth`), 390)
}
