// Package browsertest drives one headless Chromium for a test package: the browser once, a private
// browser context (cookies, storage) for each test. Errors in the console fail the test.
package browsertest

import (
	"context"
	_ "embed"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	cdp "github.com/chromedp/chromedp"
)

//go:embed testdata/axe.min.js
var axeJS string

var (
	once    sync.Once
	root    context.Context
	stop    context.CancelFunc
	initErr error
)

func chromiumPath() (string, error) {
	if p := os.Getenv("CHROMIUM"); p != "" {
		return p, nil
	}
	for _, p := range []string{"/usr/lib/chromium/chromium", "chromium"} {
		if q, err := exec.LookPath(p); err == nil {
			return q, nil
		}
	}
	return "", fmt.Errorf("no chromium: apt-get install chromium")
}

func start() {
	path, err := chromiumPath()
	if err != nil {
		initErr = err
		return
	}
	opts := append(
		cdp.DefaultExecAllocatorOptions[:],
		cdp.ExecPath(path), cdp.DisableGPU, cdp.WindowSize(1280, 800),
		cdp.Flag("hide-scrollbars", true), cdp.Flag("force-device-scale-factor", "1"), cdp.Flag("font-render-hinting", "none"), cdp.Flag("lang", "en-GB"),
		// no packet leaves the machine, and none is tried
		cdp.Flag("disable-quic", true), cdp.Flag("disable-component-update", true), cdp.Flag("disable-domain-reliability", true), cdp.Flag("no-pings", true),
		cdp.Flag("autoplay-policy", "no-user-gesture-required"),
		cdp.Flag("host-resolver-rules", "MAP * ~NOTFOUND , EXCLUDE 127.0.0.1 , EXCLUDE localhost"),
		cdp.Flag("disable-features", "Translate,OptimizationHints,MediaRouter,AutofillServerCommunication"),
	)
	if os.Geteuid() == 0 {
		opts = append(opts, cdp.NoSandbox) // Chromium refuses to start as root without it
	}
	actx, acancel := cdp.NewExecAllocator(context.Background(), opts...)
	ctx, cancel := cdp.NewContext(actx)
	stop = func() { cancel(); acancel() }
	initErr = cdp.Do(ctx) // without a timeout: the browser lives as long as its context
	root = ctx
}

// Main runs the tests of a package and closes the browser after them.
func Main(m *testing.M) {
	code := m.Run()
	if root != nil && initErr == nil {
		tctx, c := context.WithTimeout(root, 10*time.Second)
		_ = cdp.Cancel(tctx)
		c()
	}
	if stop != nil {
		stop()
	}
	os.Exit(code)
}

// Page is a tab of its own.
type Page struct {
	T   testing.TB
	Ctx context.Context
	tab context.Context
	mu  sync.Mutex
	log []string
}

// NewPage opens a tab of w x h pixels in a fresh browser context.
func NewPage(t testing.TB, w, h int64) *Page {
	t.Helper()
	if raced {
		t.Skip("driven in a browser: without the race detector")
	}
	once.Do(start)
	if initErr != nil {
		t.Fatal(initErr)
	}
	return newTab(t, root, w, h, cdp.WithNewBrowserContext())
}

// Tab opens another tab beside the page: the same cookies, the same storage.
func (p *Page) Tab(w, h int64) *Page {
	p.T.Helper()
	return newTab(p.T, p.tab, w, h)
}

func newTab(t testing.TB, from context.Context, w, h int64, opts ...cdp.ContextOption) *Page {
	t.Helper()
	tab, cancel := cdp.NewContext(from, opts...)
	if err := cdp.Do(tab); err != nil {
		cancel()
		t.Fatal(err)
	}
	messages := cdp.Console(tab)
	p := &Page{T: t, tab: tab}
	done := make(chan struct{})
	go func() {
		defer close(done)
		for m, err := range messages {
			if err != nil {
				return
			}
			if m.IsException() || m.Type == "error" || m.Type == "warning" {
				p.mu.Lock()
				p.log = append(p.log, m.String())
				p.mu.Unlock()
			}
		}
	}()
	ctx, tcancel := context.WithTimeout(tab, 90*time.Second)
	p.Ctx = ctx
	t.Cleanup(func() {
		if t.Failed() {
			p.Shot("FAILED-" + strings.ReplaceAll(t.Name(), "/", "-"))
		}
		tcancel()
		cancel()
		<-done
		for _, m := range p.Console() {
			t.Errorf("console: %s", m)
		}
	})
	p.Do(cdp.EmulateViewport(w, h))
	return p
}

// Console is what the page complained about.
func (p *Page) Console() []string {
	p.mu.Lock()
	defer p.mu.Unlock()
	return append([]string(nil), p.log...)
}

// Expect forgets complaints that contain the words, for a test that provokes them, and tells whether
// there were any.
func (p *Page) Expect(words string) bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	var rest []string
	for _, m := range p.log {
		if !strings.Contains(m, words) {
			rest = append(rest, m)
		}
	}
	had := len(rest) < len(p.log)
	p.log = rest
	return had
}

// Do runs steps, or stops the test.
func (p *Page) Do(steps ...cdp.Action[cdp.Void]) {
	p.T.Helper()
	if err := cdp.Do(p.Ctx, steps...); err != nil {
		p.T.Fatal(err)
	}
}

// Go opens an address.
func (p *Page) Go(url string) { p.T.Helper(); p.Do(cdp.Navigate(url)) }

// Keys types into what has the focus.
func (p *Page) Keys(keys string, mods ...cdp.KeyOption) {
	p.T.Helper()
	p.Do(cdp.KeyEvent(keys, mods...))
}

// Click clicks an element.
func (p *Page) Click(css string) { p.T.Helper(); p.Do(cdp.Click(cdp.CSS(css))) }

// Get runs one action that returns a value, or stops the test.
func Get[T any](p *Page, a cdp.Action[T]) T {
	p.T.Helper()
	v, err := cdp.Run(p.Ctx, a)
	if err != nil {
		p.T.Fatal(err)
	}
	return v
}

// JS evaluates an expression; a promise is awaited.
func JS[T any](p *Page, expr string) T {
	p.T.Helper()
	return Get(p, cdp.Evaluate[T](expr, cdp.EvalAwaitPromise))
}

// Text is the text of an element, with single spaces.
func (p *Page) Text(css string) string {
	p.T.Helper()
	return JS[string](p, fmt.Sprintf(`(document.querySelector(%q)?.innerText ?? "(none)").replace(/\s+/g, " ").trim()`, css))
}

// Until waits for a JavaScript condition, 10 seconds at most; also across a change of page.
func (p *Page) Until(expr string) {
	p.T.Helper()
	var last error
	for end := time.Now().Add(10 * time.Second); time.Now().Before(end); {
		ok, err := cdp.Run(p.Ctx, cdp.Evaluate[bool]("!!("+expr+")"))
		if ok && err == nil {
			return
		}
		last = err
		select {
		case <-p.Ctx.Done():
			p.T.Fatalf("waiting for %s: %v", expr, p.Ctx.Err())
		case <-time.After(20 * time.Millisecond):
		}
	}
	p.T.Fatalf("waited for %s: %v", expr, last)
}

// Settled waits until htmx is idle: new content is wired 20 ms after it appears.
func (p *Page) Settled() {
	p.T.Helper()
	p.Until(`!document.querySelector('.htmx-request, .htmx-swapping, .htmx-added, .htmx-settling')`)
}

// Shot writes a PNG to $SHOTS, nowhere if it is not set.
func (p *Page) Shot(name string) {
	dir := os.Getenv("SHOTS")
	if dir == "" {
		return
	}
	png, err := cdp.Run(p.Ctx, cdp.CaptureScreenshot())
	if err != nil {
		p.T.Logf("screenshot: %v", err)
		return
	}
	_ = os.MkdirAll(dir, 0o755)
	_ = os.WriteFile(filepath.Join(dir, name+".png"), png, 0o644)
}

// Violation is what axe-core found.
type Violation struct {
	ID, Impact, Help string
	Nodes            []struct {
		Target         []any
		HTML           string `json:"html"`
		FailureSummary string
	}
}

// Axe runs axe-core on the page (WCAG 2.2 A and AA, and best practices).
func (p *Page) Axe() []Violation {
	p.T.Helper()
	p.Do(cdp.Evaluate[cdp.Void](axeJS + "; void 0"))
	return JS[[]Violation](p, `axe.run(document, {resultTypes: ['violations'], runOnly: ['wcag2a','wcag2aa','wcag21a','wcag21aa','wcag22aa','best-practice']}).then(r => r.violations)`)
}
