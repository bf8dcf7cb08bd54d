// Package kit is what the screens of the site share: who has signed in, rendering, errors, forms, documents, and what is
// worked out of a class before any of them shows it. It knows no screen.
package kit

import (
	"bytes"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"fmt"
	"html/template"
	"io/fs"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/hashicorp/golang-lru/v2/expirable"

	"wavekine/core/adapt"
	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/progress"
	"wavekine/draw"
	"wavekine/post"
	"wavekine/store"
)

//go:embed *.html
var files embed.FS

// Options change how New builds the handler. The zero value works.
type Options struct {
	Secure  bool             // the site is served over https: cookies and Strict-Transport-Security say so
	Now     func() time.Time // nil: time.Now
	Demo    string           // words on the sign-in page that say how to get into the demo
	Post    *post.Office     // nil: no letters are written
	Proxies []string         // addresses or ranges of proxies whose X-Forwarded-For is believed; none by default
}

// Kit is what every screen needs. For a request that needs the studio's library a screen gets one of its own, see With.
type Kit struct {
	Store    *store.Store
	Lib      *movement.Library
	Sessions *scs.SessionManager
	Static   *assets
	Figures  *figureCache
	Pages    map[string]*template.Template
	bufs     *sync.Pool
	libs     *lru.Cache[string, studioLibrary]
	people   *expirable.LRU[string, peopleContext]
	plans    *lru.Cache[planKey, keptPlan]
	courses  *lru.Cache[courseKey, *laidOut]
	versions *lru.Cache[versionKey, *adapt.Version]
	sums     *lru.Cache[*adapt.Version, *progress.Summary] // of the versions
	Post     *post.Office                                  // nil: no letters are written
	Stopping chan struct{}                                 // closed when the program stops: what is written little by little ends
	Opt      Options
}

// Screen is one screen of the site: the routes it answers, and what its templates need.
type Screen struct {
	Files  fs.FS                   // its templates (*.html, by their names) and scripts (*.js, served under js/)
	Open   func(*Kit, gin.IRoutes) // for anybody
	Free   func(*Kit, gin.IRoutes) // for anybody, without a session and not compressed: what is written little by little
	Routes func(*Kit, gin.IRoutes) // for those who have signed in
	Funcs  func(*Kit) template.FuncMap
}

// New makes the kit: static are the files of the whole site, screens bring theirs.
func New(st *store.Store, opt Options, static fs.FS, screens []Screen) (*Kit, error) {
	if opt.Now == nil {
		opt.Now = time.Now
	}
	a := &Kit{
		Store: st, Lib: movement.Shipped(), Figures: newFigures(), plans: NewCache[planKey, keptPlan](plansKept), Opt: opt, Post: opt.Post, Stopping: make(chan struct{}),
		courses: NewCache[courseKey, *laidOut](coursesKept), versions: NewCache[versionKey, *adapt.Version](versionsKept), sums: NewCache[*adapt.Version, *progress.Summary](versionsKept),
		libs: NewCache[string, studioLibrary](maxLibraries), people: expirable.NewLRU[string, peopleContext](maxLibraries, nil, contextFor), bufs: &sync.Pool{New: func() any { return new(bytes.Buffer) }},
	}
	var err error
	if a.Static, err = loadAssets(static, screens); err != nil {
		return nil, err
	}
	if err := a.parseTemplates(screens); err != nil {
		return nil, err
	}
	a.Sessions = webSessions(a)
	return a, nil
}

// webSessions keep who has signed in, in PostgreSQL, under the hashes of their tokens.
func webSessions(a *Kit) *scs.SessionManager {
	m := scs.New()
	m.Store = a.Store.WebSessions()
	m.HashTokenInStore = true
	m.Lifetime = 7 * 24 * time.Hour // no idle timeout: it would write at every request
	m.Cookie.Name = a.CookieName("wavekine")
	m.Cookie.HttpOnly = true
	m.Cookie.Secure = a.Opt.Secure
	m.Cookie.SameSite = http.SameSiteLaxMode
	m.ErrorFunc = a.FailOutside
	return m
}

// CookieName is the name of a cookie; over https the browser then takes it from this host alone (RFC 6265bis, cookie
// name prefixes).
func (a *Kit) CookieName(name string) string {
	if a.Opt.Secure {
		return "__Host-" + name
	}
	return name
}

func (a *Kit) parseTemplates(screens []Screen) error {
	funcs := template.FuncMap{
		"asset": a.Static.url,
		"svg":   func(b []byte) template.HTML { return template.HTML(b) }, // drawn by us, escaped there
		"fig":   a.Figures.Use,
		"later": a.Figures.Later,
		"clock": func(s clock.Span) string { return s.String() },
		"said":  func(s clock.Span) string { return s.Said() },
		"level": func(n, of int) template.HTML { return template.HTML(draw.LevelMark(n, of)) },
		"add":   func(x, y int) int { return x + y },
		"has": func(list, one string) bool {
			return slices.ContainsFunc(strings.Split(list, ","), func(w string) bool { return strings.TrimSpace(w) == one })
		},
		"words":   func(w ...string) []string { return w },
		"nav":     func() []navEntry { return navigation },
		"bar":     func(v, of float64) template.HTML { return template.HTML(draw.Bar(v/of, "bar")) },
		"barmark": func(bar, mark float64) template.HTML { return template.HTML(draw.BarMark(bar/100, mark/100)) },
		"twobars": func(a, b float64) template.HTML { return template.HTML(draw.TwoBars(a/100, b/100)) },
	}
	a.Pages = map[string]*template.Template{}
	shared, err := template.New("").Funcs(funcs).Option("missingkey=error").ParseFS(files, "layout.html", "parts.html")
	if err != nil {
		return err
	}
	for _, sc := range append([]Screen{{Files: files}}, screens...) {
		if err := a.parsePages(shared, sc); err != nil {
			return err
		}
	}
	return nil
}

// parsePages reads the pages of one screen, each with the layout and the parts that all share.
func (a *Kit) parsePages(shared *template.Template, sc Screen) error {
	names, err := fs.Glob(sc.Files, "*.html")
	if err != nil {
		return err
	}
	for _, n := range names {
		base := strings.TrimSuffix(n, ".html")
		if base == "layout" || base == "parts" {
			continue
		}
		if a.Pages[base] != nil {
			return fmt.Errorf("two screens have a page %q", base)
		}
		t, err := shared.Clone()
		if err != nil {
			return err
		}
		if sc.Funcs != nil {
			t.Funcs(sc.Funcs(a))
		}
		if a.Pages[base], err = t.ParseFS(sc.Files, n); err != nil {
			return err
		}
	}
	return nil
}

type navEntry struct{ Name, URL string }

var navigation = []navEntry{
	{"Today", "/"}, {"Movements", "/movements"}, {"Sessions", "/sessions"}, {"Series", "/series"}, {"People", "/people"}, {"Log", "/log"}, {"House", "/house"},
}

// Page is what every page's layout needs.
type Page struct {
	Title   string
	Nav     string // which entry of the navigation is on
	Who     *signedIn
	Theme   string // "paper" or "studio"
	Scripts []string
	Data    any
}

// Render executes into a buffer first: an error in a template must not leave half a page.
func (a *Kit) Render(c *gin.Context, status int, name, block string, data any) {
	b := a.bufs.Get().(*bytes.Buffer)
	defer func() {
		if b.Cap() < 1<<20 {
			b.Reset()
			a.bufs.Put(b)
		}
	}()
	if err := a.Pages[name].ExecuteTemplate(b, block, data); err != nil {
		a.Fail(c, err)
		return
	}
	c.Data(status, "text/html; charset=utf-8", b.Bytes())
}

// Show answers with a whole page.
func (a *Kit) Show(c *gin.Context, name, title, nav string, data any, scripts ...string) {
	a.Render(c, http.StatusOK, name, "layout", Page{Title: title, Nav: nav, Who: Who(c), Theme: "paper", Scripts: scripts, Data: data})
}

// IsPart tells whether htmx asks for a part of a page.
func IsPart(c *gin.Context) bool { return partial(c.Request) }

func partial(r *http.Request) bool {
	return r.Header.Get("HX-Request") == "true" && r.Header.Get("HX-Boosted") == ""
}

// Finite reads a number that is one: "NaN" and "Inf" are not, and compare with nothing.
func Finite(text string) (float64, error) {
	v, err := strconv.ParseFloat(strings.TrimSpace(text), 64)
	if err == nil && (math.IsNaN(v) || math.IsInf(v, 0)) {
		err = strconv.ErrSyntax
	}
	return v, err
}

func hashOf(b []byte) string {
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:6])
}
