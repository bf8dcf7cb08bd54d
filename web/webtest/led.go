package webtest

import (
	"context"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"wavekine/core/run"
	"wavekine/store"
	"wavekine/web/browsertest"
)

// Run1 runs a script in the page.
func Run1(p *browsertest.Page, js string) {
	p.T.Helper()
	p.Do(cdp.Evaluate[cdp.Void](js + "; void 0"))
}

// Newest is the run that the server got last.
func Newest(t *testing.T, st *store.Store) *run.Run {
	t.Helper()
	rs, err := st.Runs(context.Background(), "claybank", 50)
	require.NoError(t, err)
	var last store.Run
	for _, r := range rs {
		if !strings.HasPrefix(r.ID, "demo-") {
			last = r
			break
		}
	}
	require.NotEmpty(t, last.ID, "no run has arrived")
	full, err := st.Run(context.Background(), "claybank", last.ID)
	require.NoError(t, err)
	r, err := run.Read(full.Doc)
	require.NoError(t, err)
	return r
}

// SavedRun waits until the server has all that was led.
func SavedRun(p *browsertest.Page) {
	p.T.Helper()
	p.Until(`!document.querySelector('#l-done').hidden && document.querySelector('#l-done-h').textContent === 'Saved'`)
}

// SentWhenBack tells the page that the network is back, and waits until nothing is left to be sent.
func SentWhenBack(p *browsertest.Page) {
	p.T.Helper()
	p.Do(cdp.Evaluate[cdp.Void](`dispatchEvent(new Event('online')); void 0`))
	p.Until(`wavekine.waiting() === 0`)
}
