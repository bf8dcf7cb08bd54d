package bench_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

// bench opens a session on the bench.
func openBench(t *testing.T, url, email, id string) *browsertest.Page {
	t.Helper()
	p := webtest.SignedInPage(t, url, email, 1280, 800)
	p.Go(url + "/sessions/" + id)
	p.Until(`document.querySelector('.row') && window.htmx && document.readyState === 'complete'`)
	return p
}

func rowNames(p *browsertest.Page) string {
	return browsertest.JS[string](p, `Array.from(document.querySelectorAll('.row .name')).map(n => n.firstElementChild ? n.firstElementChild.textContent : n.textContent.trim()).join(', ')`)
}

// The way of a new user: type a line, see it understood, add it, make a chain of three rows, fix the
// unequal side, undo and redo. All of it from the keyboard but for the mend.
func TestProgrammingAClass(t *testing.T) {
	url, _ := webtest.Site(t)
	p := openBench(t, url, demo.Email, "wheel-side-hips")
	clock := p.Text(".clock b")
	look := p.Text("#look-h")
	assert.Regexp(t, `Second look · ([3-9]|1[0-9])`, look)

	webtest.Press(p, "/")
	p.Keys("bird dog 8 each side + 10 pulses")
	p.Until(`document.querySelector('#understood b')?.textContent === 'Bird dog' && document.querySelector('#understood').textContent.includes('pulses')`)
	said := p.Text("#understood")
	assert.Contains(t, said, "8 reps + 10 pulses each side")
	assert.Contains(t, said, "begins at")
	n := webtest.Rev(p)
	p.Keys(kb.Enter)
	webtest.Changed(p, n)
	p.Until(`document.querySelector('#add').value === ''`)
	assert.NotEqual(t, clock, p.Text(".clock b"), "the clock moved")
	assert.True(t, strings.HasSuffix(rowNames(p), "Child's pose, Bird dog"), rowNames(p))
	assert.Equal(t, "add", browsertest.JS[string](p, `document.activeElement.id`), "ready for the next line")

	for _, line := range []string{"side kick 8 each side", "clam 12 each side"} {
		n = webtest.Rev(p)
		p.Keys(line + kb.Enter)
		webtest.Changed(p, n)
	}
	// Three rows into a chain: up into the rows, choose with Shift, C.
	p.Keys(kb.Escape)
	p.Until(`document.activeElement.classList.contains('row')`)
	assert.Equal(t, "Clam", p.Text(".row:focus .name"))
	p.Keys(kb.ArrowUp, cdp.KeyModifiers(cdp.ModifierShift))
	p.Keys(kb.ArrowUp, cdp.KeyModifiers(cdp.ModifierShift))
	assert.Equal(t, "3 rows", p.Text("#selcount"))
	n = webtest.Rev(p)
	p.Keys("c")
	webtest.Changed(p, n)
	assert.Equal(t, 2, browsertest.JS[int](p, `document.querySelectorAll('.rows.chain').length`))
	assert.Equal(t, "Bird dog", p.Text(".row:focus .name"), "the focus is on the first of the chain")

	// A chain in a chain is refused in words, and nothing is lost.
	p.Keys("r")
	p.Until(`document.querySelector('#message').textContent.includes('already')`)
	assert.Contains(t, p.Text("#message"), "take it out first")
	p.Expect("422")

	// Level, sides, dose, duplicate, move.
	n = webtest.Rev(p)
	p.Keys("+")
	webtest.Changed(p, n)
	assert.Equal(t, "level 2 of 3", browsertest.JS[string](p, `document.querySelector('.row:focus .level').getAttribute('aria-label')`))
	n = webtest.Rev(p)
	p.Keys(kb.Enter)
	p.Until(`document.activeElement.name === 'dose'`)
	p.Keys("6 reps" + kb.Enter)
	webtest.Changed(p, n)
	assert.Equal(t, "6 reps", browsertest.JS[string](p, `document.querySelector('.row:focus input').value`))
	n = webtest.Rev(p)
	p.Keys("d")
	webtest.Changed(p, n)
	n = webtest.Rev(p)
	p.Keys(kb.ArrowUp, cdp.KeyModifiers(cdp.ModifierAlt))
	webtest.Changed(p, n)
	n = webtest.Rev(p)
	p.Keys(kb.Delete)
	webtest.Changed(p, n)

	// The menu of a row does the same for the mouse.
	n = webtest.Rev(p)
	p.Click("#row-1-1-1 [data-menu]")
	p.Until(`!document.querySelector('#rowmenu').hidden && document.activeElement.closest('#rowmenu')`)
	assert.Empty(t, p.Axe())
	p.Click(`#rowmenu [data-op=down]`)
	webtest.Changed(p, n)
	assert.True(t, strings.HasPrefix(rowNames(p), "Cat and cow, Rib breathing"), rowNames(p))
	n = webtest.Rev(p)
	p.Click(`[data-op=undo]`)
	webtest.Changed(p, n)

	// The unequal side, by its mend.
	n = webtest.Rev(p)
	p.Do(cdp.Evaluate[cdp.Void](`Array.from(document.querySelectorAll('[data-mend]')).find(b => b.textContent === 'Make left 8 reps').click(); void 0`))
	p.Until(`document.querySelectorAll('#proposal figure svg').length === 2`) // shown on the wave before it is taken
	assert.Equal(t, n, webtest.Rev(p), "nothing is changed by looking")
	p.Click("[data-take=mend]")
	webtest.Changed(p, n)
	assert.NotContains(t, p.Text(".look"), "Left does less")
	n = webtest.Rev(p)
	p.Click(`[data-op=undo]`)
	webtest.Changed(p, n)
	assert.Contains(t, p.Text(".look"), "Left does less")
	n = webtest.Rev(p)
	p.Click(`[data-op=redo]`)
	webtest.Changed(p, n)
	assert.NotContains(t, p.Text(".look"), "Left does less")

	// Saved at once: a reload shows the same.
	names, total := rowNames(p), p.Text(".clock b")
	p.Do(cdp.Reload())
	p.Until(`document.querySelector('.row') && document.readyState === 'complete'`)
	assert.Equal(t, names, rowNames(p))
	assert.Equal(t, total, p.Text(".clock b"))
}

// The wave stays in sight, small, while rows are added far below it; it goes with every change.
func TestTheWaveStaysInSight(t *testing.T) {
	url, _ := webtest.Site(t)
	p := openBench(t, url, demo.Email, "wheel-side-hips")
	assert.True(t, browsertest.JS[bool](p, `document.querySelector('#wave-mini').hidden`))
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#new-section').scrollIntoView(); void 0`))
	p.Until(`!document.querySelector('#wave-mini').hidden && document.querySelectorAll('#wave-mini .w-mini').length > 10 && document.querySelector('#wave-mini').getBoundingClientRect().top === 0`)
	p.Shot("wave-mini")
	n := browsertest.JS[int](p, `document.querySelectorAll('#wave-mini .w-mini').length`)
	before := webtest.Rev(p)
	webtest.Press(p, "/")
	p.Keys("bridge 8" + kb.Enter)
	webtest.Changed(p, before)
	p.Until(fmt.Sprintf(`document.querySelectorAll('#wave-mini .w-mini').length > %d`, n))
	assert.Empty(t, p.Axe())
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#title').scrollIntoView(); void 0`))
	p.Until(`document.querySelector('#wave-mini').hidden`)
}

func TestWhatIsTypedSurvives(t *testing.T) {
	url, _ := webtest.Site(t)
	p := openBench(t, url, demo.Email, "kiln-circuit")
	webtest.Press(p, "/")
	p.Keys("bird dog 8 each bananas")
	p.Until(`document.querySelector('#understood mark')`)
	assert.Equal(t, "bananas", p.Text("#understood mark"), "it points at the word")
	assert.Contains(t, p.Text("#understood"), "expected")
	p.Keys(kb.Enter)
	p.Until(`document.querySelector('#message').textContent !== ''`)
	assert.Equal(t, "bird dog 8 each bananas", browsertest.JS[string](p, `document.querySelector('#add').value`))
	p.Do(cdp.Reload())
	p.Until(`document.querySelector('#add') && document.querySelector('#add').value === 'bird dog 8 each bananas'`)
	p.Expect("422")
	// A bad dose stays in its field with the reason beside it.
	p.Do(cdp.Evaluate[cdp.Void](`const i = document.querySelector('.row input[name=dose]'); i.value = '0 reps'; i.dispatchEvent(new Event('change', {bubbles: true})); void 0`))
	p.Until(`document.querySelector('#message').textContent.includes('from 1 to 500')`)
	assert.Equal(t, "0 reps", browsertest.JS[string](p, `document.querySelector('.row input[name=dose]').value`))
	p.Expect("422")
}

// A form that is refused keeps what was typed, with the reason beside it.
func TestRefusedFormsKeepWhatWasTyped(t *testing.T) {
	url, _ := webtest.Site(t)
	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	p.Go(url + "/house")
	p.Until(`document.readyState === 'complete' && window.wavekine`)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[name=head_up]').value = '3'; document.querySelector('[name=name]').value = 'New name'; document.querySelector('form[action="/house"]').requestSubmit(); void 0`))
	p.Until(`document.querySelector('#message').textContent.includes('expected 20 to 900 s')`)
	assert.Equal(t, "New name", browsertest.JS[string](p, `document.querySelector('[name=name]').value`))
	p.Expect("422")
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[name=head_up]').value = '200'; document.querySelector('form[action="/house"]').requestSubmit(); void 0`))
	p.Until(`document.querySelector('.look-ink') && document.querySelector('[name=head_up]').value === '200' && document.querySelector('[name=name]').value === 'New name'`)

	p.Go(url + "/sessions")
	p.Until(`document.readyState === 'complete' && window.wavekine`)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#new-title').value = 'Dawn'; document.querySelector('#new-target').value = 'soon'; document.querySelector('form[action="/sessions"]').requestSubmit(); void 0`))
	p.Until(`document.querySelector('#message').textContent.includes('is not a time')`)
	assert.Equal(t, "Dawn", browsertest.JS[string](p, `document.querySelector('#new-title').value`))
	p.Expect("422")
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#new-target').value = '12'; document.querySelector('form[action="/sessions"]').requestSubmit(); void 0`))
	p.Until(`location.pathname.startsWith('/sessions/') && document.querySelector('#bench')`)
}

func TestSuggestionsWhileTyping(t *testing.T) {
	url, _ := webtest.Site(t)
	p := openBench(t, url, demo.Email, "kiln-circuit")
	webtest.Press(p, "/")
	p.Keys("leg")
	p.Until(`document.querySelectorAll('#near [role=option]').length > 2`)
	p.Keys(kb.ArrowDown)
	p.Keys(kb.ArrowDown)
	name := p.Text("#near [aria-selected=true]")
	webtest.Press(p, "Enter") // as a key: a typed return would submit the line as well
	p.Until(`document.querySelector('#understood b')`)
	assert.Contains(t, name, p.Text("#understood b"))
}

// Two teachers on the same session: the second is shown both versions, and can put theirs on top.
func TestTwoTeachersOnOneSession(t *testing.T) {
	url, _ := webtest.Site(t)
	a := openBench(t, url, demo.Email, "kiln-circuit")
	b := openBench(t, url, demo.Second, "kiln-circuit")
	n := webtest.Rev(a)
	webtest.Press(a, "/")
	a.Keys("swan 5" + kb.Enter)
	webtest.Changed(a, n)
	webtest.Press(b, "/")
	b.Keys("clam 12 each side" + kb.Enter)
	b.Until(`document.querySelector('.conflict')`)
	says := b.Text(".conflict")
	assert.Contains(t, says, "Maren Holloway: Add Swan lift")
	assert.Contains(t, says, "Add Clam")
	assert.Equal(t, 2, browsertest.JS[int](b, `document.querySelectorAll('.conflict .wave-s').length`), "both versions")
	assert.True(t, b.Expect("409"))
	assert.Empty(t, b.Axe())
	b.Click("[data-again]")
	webtest.Changed(b, n+1)
	assert.True(t, strings.HasSuffix(rowNames(b), "Swan lift, Clam"), rowNames(b))
	a.Do(cdp.Reload())
	a.Until(`document.querySelector('.row')`)
	assert.Equal(t, rowNames(b), rowNames(a), "nobody lost anything")
}

func TestDraggingARowAndABar(t *testing.T) {
	url, _ := webtest.Site(t)
	p := openBench(t, url, demo.Email, "kiln-circuit")
	require.True(t, strings.HasPrefix(rowNames(p), "March on the spot, Standing side bend, Squat"), rowNames(p))
	n := webtest.Rev(p)
	p.Do(cdp.DragAndDrop(cdp.CSS("#row-1-1-1 .handle"), cdp.CSS("#row-1-1-3 .handle")))
	webtest.Changed(p, n)
	assert.False(t, strings.HasPrefix(rowNames(p), "March on the spot"), rowNames(p))
	p.Do(cdp.Reload())
	p.Until(`document.querySelector('.w-bar') && window.Sortable && document.readyState === 'complete'`)
	first := strings.Split(rowNames(p), ", ")[0]
	n = webtest.Rev(p)
	p.Do(cdp.Evaluate[cdp.Void](`(() => {
		const bars = Array.from(document.querySelectorAll('.w-bar'));
		const a = bars[0].getBoundingClientRect(), b = bars.find(x => x.dataset.row === '1.1.3').getBoundingClientRect();
		const at = (type, r, el) => el.dispatchEvent(new PointerEvent(type, {bubbles: true, clientX: r.left + r.width / 2, clientY: r.top + r.height / 2}));
		at('pointerdown', a, bars[0].querySelector('rect')); at('pointerup', b, document.body);
	})(); void 0`))
	webtest.Changed(p, n)
	assert.Equal(t, first, strings.Split(rowNames(p), ", ")[2], "the first row went behind the third")
}

// A class pasted from a mail: each line understood is shown and added, each that is not stays in the box.
func TestPastingAClass(t *testing.T) {
	url, _ := webtest.Site(t)
	p := openBench(t, url, demo.Email, "kiln-circuit")
	n := webtest.Rev(p)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#pastebox').open = true; document.querySelector('#pastetext').value = '# Peak\n1. bird dog 8 each side\n2. wobbly walrus 8\n3. side plank hold 20 s each side'; document.querySelector('#pasteform').requestSubmit(); void 0`))
	p.Until(`document.querySelector('[data-paste]')`)
	assert.Contains(t, p.Text("#pasted"), "wobbly")
	assert.Contains(t, p.Text("#pasted"), "1 not understood")
	assert.Empty(t, p.Axe())
	assert.Equal(t, n, webtest.Rev(p), "reading changes nothing")
	p.Click("[data-paste]")
	webtest.Changed(p, n)
	assert.True(t, strings.HasSuffix(rowNames(p), "Bird dog, Side plank"), rowNames(p))
	p.Until(`document.querySelector('#pastetext').value === '2. wobbly walrus 8'`)
}

// Fit and Best order show what they would change before they do, and can be left or taken.
func TestFitAndBestOrderArePreviewed(t *testing.T) {
	url, _ := webtest.Site(t)
	p := openBench(t, url, demo.Email, "thursday-mat")
	n := webtest.Rev(p)
	webtest.Press(p, "o")
	p.Until(`document.querySelector('#proposal')`)
	says := p.Text("#proposal")
	assert.Contains(t, says, "Saves")
	assert.Empty(t, p.Axe())
	p.Keys(kb.Escape)
	p.Until(`!document.querySelector('#proposal')`)
	assert.Equal(t, n, webtest.Rev(p), "looking changes nothing")
	total := p.Text(".clock b")
	webtest.Press(p, "o")
	p.Until(`document.querySelector('[data-take=order]')`)
	p.Click("[data-take=order]")
	webtest.Changed(p, n)
	assert.NotEqual(t, total, p.Text(".clock b"))

	n = webtest.Rev(p)
	p.Do(cdp.Evaluate[cdp.Void](`(() => { const t = document.querySelector('input[name=target]'); t.value = '26:00'; t.dispatchEvent(new Event('change', {bubbles: true})); })(); void 0`))
	webtest.Changed(p, n)
	p.Click("[data-propose=fit]")
	p.Until(`document.querySelector('[data-take=fit]')`)
	assert.Contains(t, p.Text("#proposal"), "→")
	n = webtest.Rev(p)
	p.Click("[data-take=fit]")
	webtest.Changed(p, n)
	assert.Regexp(t, `^(25:5[5-9]|26:0[0-5])$`, p.Text(".clock b"))
	n = webtest.Rev(p)
	p.Do(cdp.Evaluate[cdp.Void](`document.activeElement.blur(); void 0`))
	p.Keys("z", cdp.KeyModifiers(cdp.ModifierCtrl))
	webtest.Changed(p, n)
	assert.NotRegexp(t, `^(25:5[5-9]|26:0[0-5])$`, p.Text(".clock b"), "undone with one key")
}

func TestKeysAreListedOnEveryScreen(t *testing.T) {
	url, _ := webtest.Site(t)
	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	for _, path := range []string{"/", "/movements", "/sessions", "/sessions/kiln-circuit", "/sessions/kiln-circuit/lead", "/series", "/series/off-the-wheel", "/people", "/log", "/house"} {
		p.Go(url + path)
		p.Until(`document.readyState === 'complete' && window.wavekine`)
		p.Keys("?")
		p.Until(`document.querySelector('#keys').open`)
	}
	p.Go(url + "/house")
	p.Until(`document.readyState === 'complete' && window.wavekine`)
	p.Keys("g")
	p.Keys("s")
	p.Until(`location.pathname === '/sessions'`)
}

// Zero violations on every screen, at both sizes where both are meant.
func TestAxeOnEveryScreen(t *testing.T) {
	url, _ := webtest.Site(t)
	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	paths := []string{
		"/", "/movements", "/movements?q=hips", "/movements/bird-dog", "/movement-new", "/movement-new?from=side-plank", "/sessions", "/sessions/wheel-side-hips", "/sessions/kiln-circuit/lead",
		"/sessions/thursday-mat/print", "/series", "/series/off-the-wheel", "/series/off-the-wheel/print", "/people", "/log", "/log/demo-run-4", "/house", "/house/pace", "/account", "/movements/scissors", "/sessions/wheel-side-hips/compare?with=kiln-circuit", "/sessions/thursday-mat/print?for=mover", "/nowhere",
	}
	check := func(p *browsertest.Page, path string) {
		p.Go(url + path)
		p.Until(`document.readyState === 'complete' && document.fonts.status === 'loaded'`)
		for _, v := range p.Axe() {
			t.Errorf("%s: %s (%s): %s\n%+v", path, v.ID, v.Impact, v.Help, v.Nodes)
		}
	}
	for _, path := range paths {
		check(p, path)
	}
	p.Expect("404")
	phone := webtest.SignedInPage(t, url, demo.Email, 390, 844)
	for _, path := range []string{"/", "/sessions/wheel-side-hips", "/sessions/kiln-circuit/lead", "/sessions/thursday-mat/print", "/series", "/series/off-the-wheel", "/account", "/people", "/house", "/movements/scissors", "/sessions"} {
		check(phone, path)
		wide := browsertest.JS[int](phone, `document.documentElement.scrollWidth`)
		assert.LessOrEqual(t, wide, 390, "%s scrolls sideways on a phone: %s", path,
			browsertest.JS[string](phone, `Array.from(document.querySelectorAll('body *')).filter(e => e.getBoundingClientRect().right > 390 || e.scrollWidth > 391).map(e => e.tagName + '.' + e.className).slice(0, 6).join(' ')`))
	}
	out := browsertest.NewPage(t, 1280, 800)
	check(out, "/signin")
}

// What is typed into any form survives a reload and a crash of the browser's page; it is gone once the
// server has it, and nothing of it stays behind after signing out.
func TestDraftsOutliveThePage(t *testing.T) {
	url, st := webtest.Site(t)
	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	drafts := `Object.keys(localStorage).filter(k => k.startsWith('wavekine.draft ')).length`
	const last = `document.querySelectorAll('form[action="/people"]')[document.querySelectorAll('form[action="/people"]').length-1]`
	open := func(path string) {
		p.Go(url + path)
		p.Until(`document.readyState === 'complete' && window.wavekineDrafts`)
	}
	typed := func(js, text string) {
		p.Do(cdp.Evaluate[cdp.Void](fmt.Sprintf(`(f => { f.value = %q; f.dispatchEvent(new Event('input', {bubbles: true})); })(%s); void 0`, text, js)))
	}
	open("/people")
	typed(last+`.elements.name`, "Zdenka Marl")
	typed(last+`.elements.watch`, "knees")
	open("/people/perpetua")
	typed(last+`.elements.note`, "on the terrace")
	p.Do(cdp.Reload())
	p.Until(`document.readyState === 'complete' && document.querySelectorAll('.draft-note').length === 1`)
	assert.Equal(t, "on the terrace", browsertest.JS[string](p, last+`.elements.note.value`), "each person their own")
	assert.Empty(t, p.Axe())
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('.draft-note button').click(); void 0`))
	assert.NotEqual(t, "on the terrace", browsertest.JS[string](p, last+`.elements.note.value`), "dropped")
	open("/people")
	p.Until(`document.querySelectorAll('.draft-note').length === 1`)
	assert.Equal(t, "Zdenka Marl", browsertest.JS[string](p, last+`.elements.name.value`))
	p.Until(`document.querySelector('.understood [name=topic]')?.value === 'knees'`)
	p.Do(cdp.Evaluate[cdp.Void](last + `.requestSubmit(); void 0`))
	p.Until(`document.readyState === 'complete' && document.body.innerHTML.includes('Zdenka Marl') && ` + drafts + ` === 0`)
	movers, err := st.Movers(context.Background(), "claybank")
	require.NoError(t, err)
	assert.Len(t, movers, 8)

	open("/sessions/kiln-circuit")
	typed(`document.querySelector('#pastetext')`, "# Build\nbird dog 8\n")
	p.Do(cdp.Reload())
	p.Until(`document.readyState === 'complete' && document.querySelector('#pastebox').open && document.querySelector('#pastetext').value.includes('bird dog 8')`)
	open("/account")
	typed(`document.querySelector('form[action="/account/password"] [type=password]')`, "not to be kept")
	assert.Equal(t, 1, browsertest.JS[int](p, drafts), "the pasted class; no password")
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('form[action="/signout"]').requestSubmit(); void 0`))
	p.Until(`location.pathname === '/signin'`)
	assert.Equal(t, 0, browsertest.JS[int](p, drafts))
}
