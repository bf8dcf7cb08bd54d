package webtest

import (
	"fmt"

	cdp "github.com/chromedp/chromedp"

	"wavekine/web/browsertest"
)

// Press is one key as the page's own handlers see it, where a typed character would land in the
// field that the key moves to.
func Press(p *browsertest.Page, key string) {
	p.T.Helper()
	p.Do(cdp.Evaluate[cdp.Void](fmt.Sprintf(`document.activeElement.dispatchEvent(new KeyboardEvent('keydown', {key: %q, bubbles: true, cancelable: true})); void 0`, key)))
}

// Rev is the revision that the page shows.
func Rev(p *browsertest.Page) int {
	return browsertest.JS[int](p, `+document.querySelector('#bench').dataset.rev`)
}

// Changed waits for the answer to an edit made on revision before.
func Changed(p *browsertest.Page, before int) {
	p.T.Helper()
	p.Until(fmt.Sprintf(`+document.querySelector('#bench').dataset.rev > %d`, before))
	p.Settled()
}
