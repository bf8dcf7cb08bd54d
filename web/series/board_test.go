package series_test

import (
	"fmt"
	"net/url"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

const boardBrief = "21 days from 4 january 2027, 12 to 15 min, hips and upper back, no kit, mixed, rest sundays, ramp, peak day 20, soft last day, learn bird dog, bridge and side plank"

// layBoard lays a series and opens its board.
func layBoard(t *testing.T, base, brief string) (path string) {
	t.Helper()
	v := webtest.Visit(t, base).SignIn(demo.Email)
	code, body, h := v.Do("POST", "/series-lay", url.Values{"brief": {brief}})
	require.Equal(t, 303, code, body)
	return h.Get("Location")
}

// The board by keyboard alone: go over its rows, change a dose from here on after seeing what it does, pin, take out, undo; the focus stays where one was.
func TestTheBoardByKeyboard(t *testing.T) {
	base, _ := webtest.Site(t)
	at := layBoard(t, base, boardBrief)
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + at)
	p.Until(`document.querySelectorAll('.day').length === 21 && document.querySelectorAll('button.m-cell').length > 60 && document.querySelectorAll('#over li, #over p').length > 0`)
	rev := func() string { return browsertest.JS[string](p, `document.querySelector('#days').dataset.rev`) }
	changed := func(was string) {
		p.Until(`document.querySelector('#days').dataset.rev !== '` + was + `'`)
		p.Settled()
	}
	focus := `(document.activeElement.dataset.row || '') + ' ' + (document.activeElement.dataset.cell || '')`
	webtest.Run1(p, `document.querySelector('button.m-cell[tabindex="0"]').focus()`)
	first := browsertest.JS[string](p, focus)
	row, _, _ := strings.Cut(first, " ")
	require.Contains(t, []string{"bird-dog", "bridge", "side-plank"}, row, "what is learned comes first")
	name := map[string]string{"bird-dog": "Bird dog", "bridge": "Shoulder bridge", "side-plank": "Side plank"}[row]
	dose := map[string]string{"bird-dog": "7 each side", "bridge": "11 reps", "side-plank": "hold 17 s each side"}[row]
	short := map[string]string{"bird-dog": "7", "bridge": "11", "side-plank": "17 s"}[row]
	assert.Equal(t, 1., browsertest.JS[float64](p, `document.querySelectorAll('button.m-cell[tabindex="0"]').length`), "one stop for the tabulator")
	p.Keys(kb.ArrowRight)
	second := browsertest.JS[string](p, focus)
	assert.NotEqual(t, first, second)
	p.Keys(kb.ArrowDown)
	assert.NotContains(t, browsertest.JS[string](p, focus), row+" ")
	p.Keys(kb.ArrowUp)
	assert.Contains(t, browsertest.JS[string](p, focus), row+" ")

	p.Keys(kb.Enter)
	p.Until(`document.querySelector('#panel [name=dose]') && document.querySelector('#panel').contains(document.activeElement)`)
	assert.Contains(t, p.Text("#panel"), name)
	assert.Empty(t, p.Axe())
	p.Shot("board-cell")
	webtest.Run1(p, `document.querySelector('#panel [name=scope]').value = 'from'; document.querySelector('#panel [name=dose]').focus(); document.querySelector('#panel [name=dose]').select()`)
	p.Keys(dose)
	was := rev()
	webtest.Run1(p, `Array.from(document.querySelectorAll('#panel button')).find(b => b.textContent === 'Show first').click()`)
	p.Until(`document.querySelectorAll('#panel .changes li').length > 2`)
	assert.Contains(t, p.Text("#panel"), name+": ")
	assert.Equal(t, was, rev(), "nothing is kept yet")
	assert.Empty(t, p.Axe())
	p.Shot("board-preview")
	webtest.Run1(p, `Array.from(document.querySelectorAll('#panel button')).find(b => b.textContent === 'Take it').click()`)
	changed(was)
	assert.GreaterOrEqual(t, browsertest.JS[float64](p, `Array.from(document.querySelectorAll('button.m-cell[data-row="`+row+`"] span')).filter(s => s.textContent === '`+short+`').length`), 4.)
	p.Until(`document.activeElement.dataset.row === '` + row + `'`)

	was = rev()
	p.Keys("p")
	changed(was)
	p.Until(`document.activeElement.classList.contains('pinned') && document.activeElement.dataset.row === '` + row + `'`)
	was = rev()
	p.Keys(kb.Delete)
	changed(was)
	was = rev()
	webtest.Run1(p, `document.querySelector('[data-sop=undo]').click()`)
	changed(was)
	was = rev()
	webtest.Run1(p, `document.querySelector('[data-sop=undo]').click()`)
	changed(was)
	assert.Zero(t, browsertest.JS[float64](p, `document.querySelectorAll('button.m-cell.pinned').length`))

	webtest.Run1(p, `document.querySelector('button.m-cell[data-row="`+row+`"]').focus()`) // a span of days
	p.Keys(kb.Enter)
	p.Until(`document.querySelector('#panel [name=dose]')`)
	webtest.Run1(p, `document.querySelector('button.m-cell[data-row="`+row+`"]').focus(); const c = document.activeElement; for (let i = 0; i < 2; i++) document.activeElement.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', shiftKey: true, bubbles: true }))`)
	assert.Equal(t, 3., browsertest.JS[float64](p, `document.querySelectorAll('button.m-cell.chosen').length`))
	p.Keys(kb.Enter)
	p.Until(`document.querySelector('#panel option[value=span]')`)
	p.Keys(kb.Escape)
	p.Until(`!document.querySelector('#panel').firstChild && document.activeElement.dataset.row === '` + row + `'`)
}

// The whole series: a thread as it is said, squeezed and undone, pinned and laid another way with what changes, a mend of the second look.
func TestTheBoardWhole(t *testing.T) {
	base, _ := webtest.Site(t)
	at := layBoard(t, base, boardBrief)
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + at)
	p.Until(`document.querySelectorAll('.day').length === 21`)
	rev := func() string { return browsertest.JS[string](p, `document.querySelector('#days').dataset.rev`) }
	click := func(words string) {
		webtest.Run1(p, `Array.from(document.querySelectorAll('button')).find(b => b.textContent.trim() === '`+words+`' && b.offsetParent).click()`)
	}
	changed := func(was string) {
		p.Until(`document.querySelector('#days').dataset.rev !== '` + was + `'`)
		p.Settled()
	}
	was := rev()
	webtest.Run1(p, `document.querySelector('.board-tools [name=line]').focus()`)
	p.Keys("flying 8 on 2" + kb.Enter)
	p.Until(`document.querySelector('#message').textContent.includes('flying')`)
	assert.True(t, p.Expect("422"), "the browser tells of the refusal too")
	assert.Equal(t, "flying 8 on 2", browsertest.JS[string](p, `document.querySelector('.board-tools [name=line]').value`), "what was typed stays")
	webtest.Run1(p, `document.querySelector('.board-tools [name=line]').select()`)
	p.Keys("teaser 3 on 6, 9 and 13 climbing" + kb.Enter)
	changed(was)
	assert.Equal(t, 3., browsertest.JS[float64](p, `document.querySelectorAll('button.m-cell[data-row="teaser"]').length`))
	assert.Empty(t, browsertest.JS[string](p, `document.querySelector('.board-tools [name=line]').value`))

	was = rev()
	webtest.Run1(p, `document.querySelector('.dials [name=shape]').value = 'different'; document.querySelector('.dials [name=time]').value = '18:30'; document.querySelector('.dials [name=shape]').dispatchEvent(new Event('change', { bubbles: true }))`)
	assert.Equal(t, was, rev(), "a select commits nothing by itself")
	click("Change")
	changed(was)
	assert.Equal(t, "18:30 different", browsertest.JS[string](p, `document.querySelector('.dials [name=time]').value + ' ' + document.querySelector('.dials [name=shape]').value`))

	webtest.Run1(p, `document.querySelector('[data-open="9"]').click()`)
	p.Until(`document.querySelector('#panel .day-rows')`)
	assert.Empty(t, p.Axe())
	p.Shot("board-day")
	was = rev()
	click("Pin the day")
	changed(was)
	p.Until(`document.querySelector('.day[data-day="9"]').classList.contains('pinned')`)
	nine := browsertest.JS[string](p, `document.querySelector('.day[data-day="9"]').innerHTML`)
	was = rev()
	click("Lay what is not pinned another way")
	p.Until(`document.querySelectorAll('#panel .changes li').length > 5`)
	p.Shot("board-way")
	one := p.Text("#panel")
	click("Another way")
	p.Until(`document.querySelector('#panel .changes') && document.querySelector('#panel').innerText !== ` + fmt.Sprintf("%q", one))
	assert.Equal(t, was, rev())
	click("Take it")
	changed(was)
	assert.Equal(t, nine, browsertest.JS[string](p, `document.querySelector('.day[data-day="9"]').innerHTML`))

	was = rev()
	webtest.Run1(p, `document.querySelector('.board-tools [name=days]').value = 14`)
	click("Show what changes")
	p.Until(`document.querySelector('#panel .changes')?.innerText.includes('the day is gone')`)
	click("Take it")
	changed(was)
	p.Until(`document.querySelectorAll('.day').length === 14`)
	was = rev()
	click("Undo")
	changed(was)
	p.Until(`document.querySelectorAll('.day').length === 21`)
	p.Shot("board-whole")

	// a class comes again and again: the second look says so, and its way out is taken
	v := webtest.Visit(t, base).SignIn(demo.Email)
	code, body, _ := v.Do("POST", at+"/edit", url.Values{"op": {"copies"}, "rev": {rev()}, "day": {"1"}, "to": {"3, 10 and 12"}}, "HX-Request", "true")
	require.Equal(t, 200, code, body)
	p.Go(base + at)
	p.Until(`document.querySelector('#over')?.textContent.includes('comes a fourth time')`)
	p.Settled()
	webtest.Run1(p, `Array.from(document.querySelectorAll('#over li')).find(l => l.textContent.includes('comes a fourth time')).querySelector('[hx-get]').click()`)
	p.Until(`document.querySelector('#over .mends form')`)
	p.Settled()
	webtest.Run1(p, `document.querySelector('#over .mends form button').click()`)
	p.Until(`document.querySelector('#panel .two-loads')`)
	was = rev()
	click("Take it")
	changed(was)
	p.Until(`document.querySelector('#over') && !document.querySelector('#over').textContent.includes('comes a fourth time')`)
}

// A day's class is kept as a session, to be led; the day keeps its own.
func TestADayIsKept(t *testing.T) {
	base, _ := webtest.Site(t)
	at := layBoard(t, base, "5 days from 14 may 2026, 12 min, hips, no kit")
	v := webtest.Visit(t, base).SignIn(demo.Email)
	code, _, h := v.Do("POST", at+"/keep", url.Values{"day": {"2"}})
	require.Equal(t, 303, code)
	code, body, _ := v.Do("GET", h.Get("Location")+"/lead", nil)
	assert.Equal(t, 200, code)
	assert.Contains(t, body, "5 days, hips: Day 2, hips")
	_, doc, _ := v.Do("GET", at+"/document", nil)
	assert.Contains(t, doc, "Day 2, hips")
	for _, day := range []string{"", "0", "6", "x"} {
		code, _, _ = v.Do("POST", at+"/keep", url.Values{"day": {day}}, "HX-Request", "true")
		assert.Equal(t, 422, code, day)
	}
}

// Twenty-eight days are read at 1280 x 800, and on a phone; the page is light.
func TestALongBoard(t *testing.T) {
	base, _ := webtest.Site(t)
	at := layBoard(t, base, "28 days from 4 january 2027, 20 min, no kit, mixed, weekly themes, week 1 spine, week 2 hips, week 3 upper back and shoulders, week 4 core, rest sundays, learn bird dog, bridge, clam and side plank")
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + at)
	p.Until(`document.querySelectorAll('.day').length === 28`)
	p.Shot("board-long")
	assert.Empty(t, p.Axe())
	assert.LessOrEqual(t, browsertest.JS[float64](p, `document.documentElement.scrollWidth`), 1280.)
	phone := webtest.SignedInPage(t, base, demo.Email, 390, 800)
	phone.Go(base + at)
	phone.Until(`document.querySelectorAll('.day').length === 28`)
	webtest.Run1(phone, `document.querySelector('button.m-cell').scrollIntoView({block: 'center'})`)
	phone.Shot("board-phone-rows")
	phone.Click(`button.m-cell`)
	phone.Until(`document.querySelector('#panel [name=dose]')`)
	webtest.Run1(phone, `document.querySelector('[data-open="3"]').click()`)
	phone.Until(`document.querySelector('#panel .day-rows')`)
	phone.Shot("board-phone")
	assert.LessOrEqual(t, browsertest.JS[float64](phone, `document.documentElement.scrollWidth`), 390.)
	assert.Empty(t, phone.Axe())
}
