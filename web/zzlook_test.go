package web_test

import (
	"os"
	"strconv"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"

	"wavekine/demo"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

func TestZZLook(t *testing.T) {
	if os.Getenv("LOOK") == "" {
		t.Skip()
	}
	pages := map[string]*browsertest.Page{}
	for _, x := range strings.Split(os.Getenv("LOOK"), "\n") {
		f := strings.SplitN(x, "|", 5)
		if len(f) < 4 {
			continue
		}
		w, _ := strconv.Atoi(f[2])
		h, _ := strconv.Atoi(f[3])
		p := pages[f[2]]
		if p == nil {
			p = webtest.SignedInPage(t, "http://127.0.0.1:8391", demo.Email, int64(w), int64(h))
			pages[f[2]] = p
		}
		p.Go("http://127.0.0.1:8391" + f[1])
		p.Until(`document.readyState === 'complete' && document.fonts.status === 'loaded'`)
		if len(f) == 5 && f[4] != "" {
			p.Do(cdp.Evaluate[cdp.Void](f[4] + ";void 0"))
			p.Until(`new Promise(r => setTimeout(() => r(true), 700))`)
		}
		p.Shot(f[0])
	}
}
