package bench_test

import (
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"

	"wavekine/demo"
	"wavekine/web/webtest"
)

// The finger on the wave shows what is on at that moment: figure, words, side and clock; from there it can be rehearsed.
func TestTheFingerOnTheWave(t *testing.T) {
	base, _ := webtest.Site(t)
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + "/sessions/wheel-side-hips")
	p.Until(`document.querySelector('.wave-box .wave')`)
	at := `(at => { const s = document.querySelector('.wave-box .wave'), b = s.getBoundingClientRect(), x = 8 + at * 1000 / s.dataset.whole * (s.viewBox.baseVal.width - 10); s.dispatchEvent(new PointerEvent('pointermove', { clientX: b.left + x / s.viewBox.baseVal.width * b.width + .5, clientY: b.top + 40, bubbles: true })); })`
	p.Do(cdp.Evaluate[cdp.Void](at + `(290); void 0`))
	p.Until(`!document.querySelector('#moment').hidden && document.querySelectorAll('#moment svg path').length > 2`)
	assert.Contains(t, p.Text("#moment"), "Bird dog")
	assert.Contains(t, p.Text("#moment"), "say right leg, your right")
	assert.Contains(t, p.Text("#moment"), "4:50")
	assert.Empty(t, p.Axe())
	p.Click("#moment a")
	p.Until(`window.wavekineLead && wavekineLead.player.step.name === 'Bird dog' && document.querySelector('#l-side').textContent.includes('right leg')`)
}
