package mover_test

import (
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

func js(p *browsertest.Page, expr string) { p.Do(cdp.Evaluate[cdp.Void](expr + "; void 0")) }

// The whole way on a phone: the page opens, the class leads with figure, count and words aloud, the network goes in the midst of it and the page is loaded anew, it goes on; how it went is told with
// the drawn body and arrives once when the network is back. Clean for axe at every step.
func TestTheWayOnAPhone(t *testing.T) {
	url, st, cut := cutSite(t)
	p := browsertest.NewPage(t, 390, 844)
	me := link(t, st, "perpetua")
	p.Go(url + me)
	p.Until(`document.readyState === 'complete' && document.fonts.status === 'loaded'`)
	assert.Equal(t, "Today, day 8", p.Text("h1"))
	assert.Empty(t, p.Axe())
	assert.LessOrEqual(t, browsertest.JS[int](p, `document.documentElement.scrollWidth`), 390, "nothing sticks out")
	p.Until(`document.documentElement.dataset.offline === 'ready'`)
	p.Click("#m-start")
	p.Until(`document.querySelectorAll('#p-fig .frame').length > 3`) // one sees how it begins before it does
	p.Until(`!document.getElementById('m-play').hidden`)
	assert.Empty(t, p.Axe())
	p.Click("#p-go")
	p.Until(`wavekineMover.player.running && document.querySelectorAll('#p-fig .frame').length > 3`)
	assert.NotEmpty(t, browsertest.JS[string](p, `wavekineSaid[0]`))
	assert.Contains(t, browsertest.JS[string](p, `wavekineSaid[0]`), "First: Rock-back.")
	js(p, `for (let i = 0; i < 9; i++) document.getElementById('p-skip').click()`)
	on := p.Text("#p-name")
	require.NotEmpty(t, on)

	cut.Store(true)
	js(p, `document.getElementById('p-skip').click()`)
	on = p.Text("#p-name")
	p.Do(cdp.Reload())
	p.Until(`document.readyState === 'complete' && document.getElementById('m-start')?.textContent === 'Go on'`)
	p.Click("#m-start")
	p.Until(`!document.getElementById('m-play').hidden && document.querySelectorAll('#p-fig .frame').length > 3`)
	assert.Equal(t, on, p.Text("#p-name"), "it goes on where it was, without the network")
	p.Click("#p-go")
	js(p, `for (let i = 0; i < 400 && document.getElementById('m-word').hidden; i++) document.getElementById('p-skip').click()`)
	p.Until(`!document.getElementById('m-word').hidden`)
	assert.Contains(t, browsertest.JS[string](p, `wavekineSaid.join(' ')`), "That is all of it.")
	assert.Empty(t, p.Axe())

	// Under twenty seconds: done is set, an effort, two touches, send.
	js(p, `(e => { e.value = 4; e.dispatchEvent(new Event('input', { bubbles: true })); })(document.getElementById('f-effort'))`)
	assert.Equal(t, "somewhat hard", p.Text("#f-hardword"))
	touch := func(place, side string) {
		css := `#f-body .spot[data-place="` + place + `"]`
		if side != "" {
			css += `[data-side="` + side + `"]`
		}
		js(p, `(s => { const r = s.getBoundingClientRect(); s.dispatchEvent(new MouseEvent('click', { bubbles: true, clientX: r.left + r.width / 2, clientY: r.top + r.height / 2 })); })(document.querySelector('`+css+`'))`)
	}
	touch("shoulder", "right")
	assert.Equal(t, "right shoulder ×", p.Text("#f-felt"))
	touch("knee", "left") // nothing of the class is meant there: in which is asked
	p.Until(`!document.getElementById('f-in').hidden`)
	js(p, `Array.from(document.querySelectorAll('#f-moves button')).find(b => b.textContent === 'Bird dog').click()`)
	assert.Equal(t, "right shoulder × left knee, Bird dog ×", p.Text("#f-felt"))
	js(p, `(x => { x.value = 'the cushion helped'; x.dispatchEvent(new Event('input', { bubbles: true })); })(document.getElementById('f-line'))`)
	p.Do(cdp.Reload()) // what was typed survives
	p.Until(`document.readyState === 'complete' && document.getElementById('m-how')`)
	p.Click("#m-how")
	p.Until(`!document.getElementById('m-word').hidden`)
	assert.Equal(t, "the cushion helped", browsertest.JS[string](p, `document.getElementById('f-line').value`))
	assert.Equal(t, "right shoulder × left knee, Bird dog ×", p.Text("#f-felt"))
	p.Click("#f-tell")
	p.Until(`document.documentElement.dataset.told === 'waiting'`)
	assert.Contains(t, p.Text("#m-out"), "Kept on this phone")
	had := len(words(t, st, "perpetua"))

	cut.Store(false)
	js(p, `wavekineMover.send(); wavekineMover.send()`)
	p.Until(`document.documentElement.dataset.told === 'saved'`)
	assert.Contains(t, p.Text("#m-out"), "Maren has it.")
	ws := words(t, st, "perpetua")
	require.Len(t, ws, had+1, "it arrives, once")
	said := ws[had].Said
	assert.Equal(t, "all of it, 4 somewhat hard, felt in right shoulder, left knee", said.Says())
	assert.Equal(t, "bird-dog", said.Felt[1].In)
	assert.Equal(t, "the cushion helped", said.Line)
	p.Go(url + me)
	p.Until(`document.readyState === 'complete'`)
	assert.Contains(t, p.Text("#m-said"), "4 somewhat hard")
	assert.Empty(t, p.Axe())
	p.Expect("Failed to load resource")
	p.Expect("service worker")
}

// Pain: the page says to stop and whom to ask, asks in which, and the teacher sees it first.
func TestSomethingHurts(t *testing.T) {
	url, st, _ := cutSite(t)
	p := browsertest.NewPage(t, 360, 740)
	p.Go(url + link(t, st, "anselm"))
	p.Until(`document.readyState === 'complete'`)
	assert.LessOrEqual(t, browsertest.JS[int](p, `document.documentElement.scrollWidth`), 360)
	p.Click("#m-how")
	p.Until(`!document.getElementById('m-word').hidden`)
	js(p, `document.querySelector('[name=did][value="not today"]').click()`)
	p.Click("#f-hurt")
	p.Until(`!document.getElementById('f-pain').hidden`)
	assert.Contains(t, p.Text("#f-pain"), "Ask whoever treats you before you go on. Maren sees this first.")
	js(p, `document.querySelector('.f-words').open = true; document.querySelector('.f-words [data-place="low back"]').click()`)
	p.Until(`!document.getElementById('f-in').hidden`)
	assert.Empty(t, p.Axe())
	assert.LessOrEqual(t, browsertest.JS[int](p, `Math.max(...Array.from(document.querySelectorAll('#m-word *'), e => e.getBoundingClientRect().right))`), 360)
	js(p, `Array.from(document.querySelectorAll('#f-moves button')).pop().click()`)
	p.Click("#f-tell")
	p.Until(`document.documentElement.dataset.told === 'saved'`)
	ws := words(t, st, "anselm")
	assert.Equal(t, "not today, it hurt: low back", ws[len(ws)-1].Said.Says())
	v := webtest.Visit(t, url).SignIn("maren@claybank.example")
	_, today, _ := v.Do("GET", "/", nil)
	first := today[strings.Index(today, "For you to decide"):]
	assert.Less(t, strings.Index(first, "Anselm Okafor"), strings.Index(first, "Ines Caldecott"))
	assert.Contains(t, first, "not today, it hurt: low back")
	assert.Contains(t, first, "Watch low back until cleared")
}

// A refused word is said to be, with the reason, and stays on the phone; a link that was ended takes its kept pages along.
func TestWhatThePhoneIsTold(t *testing.T) {
	url, st, _ := cutSite(t)
	p := browsertest.NewPage(t, 390, 844)
	me := link(t, st, "ines")
	p.Go(url + me)
	p.Until(`document.readyState === 'complete' && document.documentElement.dataset.offline === 'ready'`)
	require.NoError(t, st.Leave(t.Context(), "claybank", group, "ines"))
	p.Click("#m-how")
	p.Until(`!document.getElementById('m-word').hidden`)
	p.Click("#f-tell")
	p.Until(`document.documentElement.dataset.told === 'refused'`)
	assert.Contains(t, p.Text("#m-out"), "you are not in that series any more")
	require.NoError(t, st.EndMoverLinks(t.Context(), "claybank", "ines"))
	p.Do(cdp.Reload())
	p.Until(`document.body.textContent.includes('Ask your teacher for a new link')`)
	assert.Equal(t, 0, browsertest.JS[int](p, `caches.open('wavekine-movers').then(c => c.keys()).then(k => k.length)`))
	p.Expect("404")
}

// Somebody without a name: done on this phone, the next day comes next time.
func TestOpenSeriesOnAPhone(t *testing.T) {
	url, st, _ := cutSite(t)
	secret, err := st.OpenSeries(t.Context(), "claybank", "clay-hands")
	require.NoError(t, err)
	p := browsertest.NewPage(t, 390, 844)
	p.Go(url + "/open/" + secret)
	p.Until(`document.readyState === 'complete'`)
	assert.Equal(t, "Day 1", p.Text("h1"))
	assert.Empty(t, p.Axe())
	p.Click("#m-how")
	p.Until(`!document.getElementById('m-word').hidden`)
	p.Click("#f-tell")
	p.Until(`document.documentElement.dataset.told === 'saved'`)
	p.Go(url + "/open/" + secret)
	p.Until(`document.readyState === 'complete' && document.querySelector('h1')?.textContent === 'Day 2'`)
	assert.Contains(t, p.Text(`.m-days li[data-day="1"]`), "done")
	cs, err := st.OpenCounts(t.Context(), "claybank", "clay-hands")
	require.NoError(t, err)
	assert.Len(t, cs, 1)
	js(p, `document.querySelector('#m-weekdays input[value="1"]').click(); document.querySelector('#m-weekdays input[value="4"]').click()`)
	p.Until(`document.querySelector('.m-days li[data-day="2"] .m-when').textContent !== ''`)
	on := browsertest.JS[string](p, `Array.from(document.querySelectorAll('.m-days li .m-when'), e => e.textContent.split(' ')[0]).join(' ')`)
	assert.Regexp(t, `^ (Tue Fri ?|Fri Tue ?)+(Tue|Fri)?$`, on, "what is not done falls on the days one likes")
	p.Do(cdp.Reload())
	p.Until(`document.readyState === 'complete' && document.querySelector('#m-weekdays input[value="4"]')?.checked`)
	assert.Empty(t, p.Axe())
}
