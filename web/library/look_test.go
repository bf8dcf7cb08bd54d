package library_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"html"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/demo"
	"wavekine/store"
	"wavekine/web/webtest"
)

func TestLevelsBesideTheLibrary(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	for _, m := range movement.Shipped().All() {
		code, part, _ := v.Do("GET", "/movements/"+m.Slug+"/levels", nil, "HX-Request", "true")
		require.Equal(t, 200, code, m.Slug)
		assert.Equal(t, len(m.Levels), strings.Count(part, "demand "), m.Slug)
		for _, o := range movement.Shipped().FamilyOf(m) {
			assert.Contains(t, html.UnescapeString(part), o.Name, "%s: its versions", m.Slug)
		}
		assert.Equal(t, len(m.Levels), strings.Count(part, "<use href="), "%s: each level has its figure", m.Slug)
		assert.NotContains(t, part, "<html", m.Slug)
	}
	_, part, _ := v.Do("GET", "/movements/bridge/levels", nil, "HX-Request", "true")
	assert.Contains(t, part, "march at the top")
	assert.Contains(t, part, "10 alternating", "the dose that the level has, not the movement's")
	assert.Contains(t, part, "computed")
	code, _, h := v.Do("GET", "/movements/bridge/levels", nil)
	assert.Equal(t, 303, code)
	assert.Equal(t, "/movements/bridge", h.Get("Location"), "opened as a page it is the whole page")
	code, _, _ = v.Do("GET", "/movements/nowhere/levels", nil, "HX-Request", "true")
	assert.Equal(t, 404, code)
	code, _, _ = webtest.Visit(t, base).Do("GET", "/movements/bridge/levels", nil)
	assert.Equal(t, 303, code, "for those who are signed in")

	squat, _ := movement.Shipped().Get("squat")
	_, _, h = v.Do("POST", "/movement-save", webtest.OwnForm(squat, "Kiln <b>squat</b>"), "HX-Request", "true")
	own := strings.TrimSuffix(h.Get("HX-Redirect"), "~1")
	code, part, _ = v.Do("GET", own+"/levels", nil, "HX-Request", "true")
	require.Equal(t, 200, code, own)
	assert.Contains(t, part, "Kiln &lt;b&gt;squat")
	require.NoError(t, st.CreateStudio(context.Background(), store.Studio{ID: "other", Name: "Other", Zone: "UTC"}, store.Teacher{ID: "o", Email: "o@other.example", Name: "O", PasswordHash: webtest.CheapHash("")}))
	code, part, _ = webtest.Visit(t, base).SignIn("o@other.example").Do("GET", own+"/levels", nil, "HX-Request", "true")
	assert.Equal(t, 404, code, "another studio's own movement")
	assert.NotContains(t, part, "Kiln")
}

// The library as it opens, with the figures in sight, stays under 300 KB as it is sent; the others come when they are
// about to be seen, and weigh little each.
func TestTheLibraryIsLight(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	packed := func(s string) int {
		var b bytes.Buffer
		z := gzip.NewWriter(&b)
		_, err := z.Write([]byte(s))
		require.NoError(t, err)
		require.NoError(t, z.Close())
		return b.Len()
	}
	_, page, _ := v.Do("GET", "/movements", nil)
	sizes := map[string]int{}
	all := 0
	for _, m := range regexp.MustCompile(`<use (?:data-)?href="([^"#]+)`).FindAllStringSubmatch(page, -1) {
		code, svg, _ := v.Do("GET", m[1], nil)
		require.Equal(t, 200, code, m[1])
		sizes[m[1]] = packed(svg)
		all += sizes[m[1]]
	}
	require.Len(t, sizes, len(movement.Shipped().All()))

	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + "/movements")
	come := func() (n, bytes int) {
		webtest.Run1(p, `(() => { const o = document.createElement('p'); o.id = 'come'; o.textContent = performance.getEntriesByType('resource').map(e => e.name).filter(n => n.includes('/figures/')).join(' '); document.body.append(o) })()`)
		for f := range strings.FieldsSeq(p.Text("#come")) {
			f, _, _ = strings.Cut(strings.TrimPrefix(f, base), "#")
			n, bytes = n+1, bytes+sizes[f]
		}
		return n, bytes
	}
	p.Until(`performance.getEntriesByType('resource').filter(e => e.name.includes('/figures/')).length >= 15`)
	p.Settled()
	n, opened := come()
	t.Logf("page %d, %d figures of %d as it opens: %d; all figures %d bytes, compressed", packed(page), n, len(sizes), opened, all)
	assert.Less(t, packed(page)+opened, 150_000)
	assert.Less(t, all/len(sizes), 2000, "a figure")
	assert.Less(t, n, len(sizes)/2)
	webtest.Run1(p, `document.querySelector('#shelf-on-the-front').scrollIntoView()`)
	p.Until(`!document.querySelector('#shelf-on-the-front + .cards li:first-child use').dataset.href && document.querySelector('#shelf-on-the-front + .cards use').getBoundingClientRect().width > 0`)
	webtest.Run1(p, `dispatchEvent(new Event('beforeprint'))`)
	p.Until(`!document.querySelector('#found [data-href]')`)
}

func TestTheLibraryByKeyboard(t *testing.T) {
	base, _ := webtest.Site(t)
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + "/movements")
	on := func(name string) {
		t.Helper()
		p.Until(`document.activeElement.querySelector('.name')?.textContent === '` + name + `'`)
	}
	webtest.Run1(p, `document.querySelector('#q').focus()`)
	p.Keys("bridge march")
	p.Until(`document.querySelector('#found .name')?.textContent === 'Bridge march'`)
	p.Keys(kb.ArrowDown)
	on("Bridge march")
	p.Keys(" ")
	p.Until(`document.querySelectorAll('#look ol > li').length === 3 && document.querySelector('#look h2').textContent === 'Bridge march'`)
	assert.Empty(t, p.Axe())
	webtest.Run1(p, `[...document.querySelectorAll('#look .versions button')].find(b => b.textContent === 'Shoulder bridge').click()`)
	p.Until(`document.querySelector('#look h2').textContent === 'Shoulder bridge' && document.querySelectorAll('#look ol > li').length === 4`)
	webtest.Run1(p, `[...document.querySelectorAll('#look .versions button')].find(b => b.textContent === 'Bridge march').click()`)
	p.Until(`document.querySelector('#look h2').textContent === 'Bridge march'`)
	webtest.Run1(p, `document.querySelector('#found .cards a').focus()`)
	p.Keys(kb.Escape)
	p.Until(`!document.querySelector('#look *')`)
	on("Bridge march")
	p.Keys(kb.Escape)
	p.Until(`document.activeElement.id === 'q'`)

	webtest.Run1(p, `(() => { const q = document.getElementById('q'); q.value = ''; q.dispatchEvent(new Event('input', {bubbles: true})) })()`)
	p.Until(`document.querySelectorAll('.shelves li').length === 7`)
	p.Keys(kb.ArrowDown)
	p.Until(`document.activeElement === document.querySelectorAll('.cards a')[0]`)
	p.Keys(kb.ArrowRight)
	p.Until(`document.activeElement === document.querySelectorAll('.cards a')[1]`)
	p.Keys(kb.ArrowDown)
	p.Until(`(() => { const a = document.querySelectorAll('.cards a')[1].getBoundingClientRect(), b = document.activeElement.getBoundingClientRect(); return Math.abs(a.left - b.left) < 2 && b.top > a.bottom })()`)
	p.Keys(kb.ArrowUp)
	p.Keys(kb.ArrowUp)
	p.Until(`document.activeElement.id === 'q'`)

	p.Click(`.shelves a[href="#shelf-on-the-front"]`)
	p.Until(`document.querySelector('.shelves a[aria-current]')?.hash === '#shelf-on-the-front' || scrollY + innerHeight >= document.documentElement.scrollHeight - 2`)
	p.Until(`(() => { const r = document.querySelector('.shelves').getBoundingClientRect(); return r.top >= 0 && r.bottom < innerHeight })()`)
	p.Click(`#shelf-on-the-front + .cards li:first-child .peek`)
	p.Until(`document.querySelector('#look h2')?.textContent === document.querySelector('#shelf-on-the-front + .cards .name').textContent`)
	p.Click("[data-shut]")
	p.Until(`!document.querySelector('#look *')`)

	webtest.Run1(p, `document.querySelector('.peek').dataset.look = '/movements/nowhere/levels'; document.querySelector('.peek').click()`)
	p.Until(`document.querySelector('#message').textContent.includes('no movement of that name')`)
	p.Until(`!document.querySelector('.peek[aria-expanded]')`)
	webtest.Run1(p, `window.real = XMLHttpRequest.prototype.open; XMLHttpRequest.prototype.open = function (m, u, a) { return real.call(this, m, 'http://127.0.0.1:1/', a) }`)
	p.Click(`#shelf-on-the-front + .cards li:first-child .peek`)
	p.Until(`document.querySelector('#message')?.textContent.includes('does not answer')`)
	p.Until(`(() => { const r = document.querySelector('#message').getBoundingClientRect(); return r.top >= 0 && r.bottom < innerHeight && r.height > 10 })()`)
	p.Until(`!document.querySelector('.peek[aria-expanded]')`)
	webtest.Run1(p, `XMLHttpRequest.prototype.open = real`)
	p.Click(`#shelf-on-the-front + .cards li:first-child .peek`)
	p.Until(`document.querySelector('#look ol') && !document.querySelector('#message *')`)
	for _, said := range []string{"htmx:sendError", "htmx:afterRequest", "Content Security Policy", "404"} { // of the cut, by htmx and the browser
		assert.Eventually(t, func() bool { return p.Expect(said) }, 5*time.Second, 20*time.Millisecond, said)
	}
}
