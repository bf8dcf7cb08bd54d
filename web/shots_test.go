package web_test

import (
	"os"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

// TestScreenshots retakes the pictures of the documentation from the demo data; `make shots` sets SHOTS.
func TestScreenshots(t *testing.T) {
	if os.Getenv("SHOTS") == "" {
		t.Skip("SHOTS is not set")
	}
	url, st := webtest.Site(t)
	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	take := func(name, path string, before ...func()) {
		p.Go(url + path)
		p.Until(`document.readyState === 'complete' && document.fonts.status === 'loaded' && Array.from(document.querySelectorAll('use[href]')).every(u => u.getBoundingClientRect().width > 0 || !u.checkVisibility())`)
		for _, b := range before {
			b()
		}
		p.Settled()
		p.Shot(name)
	}
	take("today", "/")
	take("movements", "/movements")
	take("movement", "/movements/double-leg-lower")
	take("sessions", "/sessions")
	take("bench", "/sessions/wheel-side-hips", func() {
		p.Click("#add")
		p.Keys("side plank hold 20 s each side")
		p.Until(`document.querySelector('#understood b')?.textContent === 'Side plank'`)
	})
	take("own-movement", "/movement-new?from=bird-dog")
	take("series", "/series/four-weeks", func() {
		p.Until(`document.querySelectorAll('#over li, #over p').length > 0`)
		p.Click(`button.m-cell[data-row="bird-dog"]`)
		p.Until(`document.querySelector('#panel [name=dose]')`)
	})
	take("log", "/log")
	take("run", "/log/demo-run-4")
	take("people", "/people")
	take("group", "/groups/morning-wheel")
	take("house", "/house")
	take("sheet", "/sessions/wheel-side-hips/print")
	toBirdDog := func() {
		p.Until(`document.querySelectorAll('#l-fig path').length > 3`)
		p.Keys(" ")
		p.Do(cdp.Evaluate[cdp.Void](`for (let i = 0; i < 60 && !(document.getElementById('l-name').textContent === 'Rainbow leg' && /of 8/.test(document.getElementById('l-of').textContent)); i++) document.querySelector('[data-lead=next]').click(); void 0`))
		p.Until(`document.getElementById('l-num').textContent === '2'`)
	}
	take("lead", "/sessions/wheel-side-hips/lead", toBirdDog)
	token, err := st.MakeMoverLink(t.Context(), "claybank", "perpetua", "maren")
	require.NoError(t, err)
	mover := browsertest.NewPage(t, 390, 844)
	mover.Go(url + "/m/" + token)
	mover.Until(`document.readyState === 'complete' && document.fonts.status === 'loaded' && Array.from(document.querySelectorAll('use[href]')).every(u => u.getBoundingClientRect().width > 0)`)
	mover.Shot("mover-phone")
	mover.Click("#m-how")
	mover.Until(`!document.getElementById('m-word').hidden`)
	mover.Do(cdp.Evaluate[cdp.Void](`(e => { e.value = 4; e.dispatchEvent(new Event('input', { bubbles: true })); })(document.getElementById('f-effort')); document.querySelector('.f-words [data-place="upper back"]').click(); document.querySelector('.f-words [data-place="shoulder"][data-side="right"]').click(); document.querySelector('#m-word').scrollTop = 0; void 0`))
	mover.Shot("checkin-phone")
	phone := webtest.SignedInPage(t, url, demo.Email, 390, 844)
	for name, path := range map[string]string{"lead-phone": "/sessions/wheel-side-hips/lead", "today-phone": "/", "bench-phone": "/sessions/wheel-side-hips"} {
		phone.Go(url + path)
		phone.Until(`document.readyState === 'complete' && document.fonts.status === 'loaded'`)
		if name == "lead-phone" {
			phone.Until(`document.querySelectorAll('#l-fig path').length > 3`)
		}
		phone.Shot(name)
	}
}
