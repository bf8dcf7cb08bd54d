// Package web is the screens: Gin handlers, html/template pages, htmx answers, static files.
// The rules of the job are in core; a handler reads a form, calls core and store, and renders.
package web

import (
	"bytes"
	"crypto/sha256"
	"database/sql"
	"embed"
	"encoding/hex"
	"errors"
	"html/template"
	"io/fs"
	"log/slog"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"
	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"wavekine/core/body"
	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/draw"
	"wavekine/store"
)

//go:embed templates/*.html
var templateFiles embed.FS

// Options change how New builds the handler. The zero value works.
type Options struct {
	Secure bool             // the site is served over https: cookies say so
	Now    func() time.Time // nil: time.Now
	Demo   string           // words on the sign-in page that say how to get into the demo
}

type app struct {
	store    *store.Store
	lib      *movement.Library
	sessions *scs.SessionManager
	static   *assets
	figures  *figureCache
	pages    map[string]*template.Template
	bufs     *sync.Pool
	libs     *libraries
	ctxs     *contexts
	rows     *lru.Cache[rowView, template.HTML]
	plans    *lru.Cache[planKey, *plan.Session]
	opt      Options
	throttle *throttle
}

// Handler is the whole site.
type Handler struct {
	http.Handler
	routes gin.RoutesInfo
}

// Routes lists every route, for the test that walks them.
func (h *Handler) Routes() gin.RoutesInfo { return h.routes }

// New builds the site.
func New(st *store.Store, opt Options) (*Handler, error) {
	if opt.Now == nil {
		opt.Now = time.Now
	}
	as, err := loadAssets()
	if err != nil {
		return nil, err
	}
	a := &app{store: st, lib: movement.Shipped(), static: as, figures: newFigures(), rows: newCache[rowView, template.HTML](drawnRows), plans: newCache[planKey, *plan.Session](plansKept), opt: opt, throttle: newThrottle(), libs: &libraries{of: map[string]studioLibrary{}}, ctxs: &contexts{of: map[string]peopleContext{}}}
	a.bufs = &sync.Pool{New: func() any { return new(bytes.Buffer) }}
	if err := a.parseTemplates(); err != nil {
		return nil, err
	}
	a.sessions = scs.New()
	// interval 0: its own clean-up races with its stop; Store.CleanSessions does it
	a.sessions.Store = pgxstore.NewWithCleanupInterval(st.Pool, 0)
	a.sessions.Lifetime = 7 * 24 * time.Hour // no idle timeout: it would write at every request
	a.sessions.Cookie.Name = "wavekine"
	a.sessions.Cookie.HttpOnly = true
	a.sessions.Cookie.Secure = opt.Secure
	a.sessions.Cookie.SameSite = http.SameSiteLaxMode
	a.sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		slog.ErrorContext(r.Context(), "web session", "err", err)
		http.Error(w, "Something went wrong on our side. Nothing was changed.", http.StatusInternalServerError)
	}

	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.ContextWithFallback = true
	_ = r.SetTrustedProxies(nil)
	r.MaxMultipartMemory = formMemory
	reg := prometheus.NewRegistry()
	hist := prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "http_request_duration_seconds", Buckets: []float64{.001, .0025, .005, .01, .025, .05, .1, .25, .5, 1, 2.5},
	}, []string{"method", "route", "status"})
	reg.MustRegister(hist)
	r.Use(func(c *gin.Context) {
		start := time.Now()
		c.Next()
		route := c.FullPath()
		if route == "" {
			route = "none"
		}
		hist.WithLabelValues(c.Request.Method, route, strconv.Itoa(c.Writer.Status())).Observe(time.Since(start).Seconds())
	})
	r.Use(gin.CustomRecoveryWithWriter(nil, func(c *gin.Context, v any) {
		slog.ErrorContext(c, "panic", "value", v, "path", c.Request.URL.Path)
		c.AbortWithStatus(http.StatusInternalServerError)
	}))
	r.Use(securityHeaders)
	r.Use(limitBody)
	r.GET(assetPrefix+"*path", gin.WrapH(as))
	r.GET("/sw.js", a.serviceWorker)
	r.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok") })
	r.GET("/favicon.ico", func(c *gin.Context) { c.Status(http.StatusNoContent) })
	r.GET("/metrics", localOnly, gin.WrapH(promhttp.HandlerFor(reg, promhttp.HandlerOpts{})))

	g := r.Group("/", gzip.Gzip(gzip.BestSpeed), a.readForm)
	g.GET("/figures/:file", a.figure)
	g.GET("/signin", a.signInPage)
	g.POST("/signin", a.signIn)
	g.GET("/start", a.startPage)
	g.POST("/start", a.start)
	in := g.Group("/", a.mustSignIn)
	in.POST("/signout", a.with((*app).signOut))
	in.GET("/", a.with((*app).today))
	in.POST("/slots", a.with((*app).addSlot))
	in.POST("/slots/:id/delete", a.with((*app).deleteSlot))
	in.GET("/movements", a.with((*app).movements))
	in.GET("/movements/:slug", a.with((*app).movement))
	in.GET("/movements/:slug/document", a.with((*app).movementDocument))
	in.GET("/movements/:slug/edit", a.with((*app).editMovement))
	in.POST("/movements/:slug/change", a.with((*app).changeMovement))
	in.POST("/movements/:slug/delete", a.with((*app).deleteMovement))
	in.GET("/movement-new", a.with((*app).newMovement))
	in.POST("/movement-save", a.with((*app).saveMovement))
	in.POST("/movement-import", a.with((*app).importMovement))
	in.POST("/movement-pose", a.with((*app).posePull))
	in.GET("/own-figures/:file", a.with((*app).figure))
	in.GET("/sessions", a.with((*app).sessionList))
	in.POST("/sessions", a.with((*app).newSession))
	in.POST("/sessions/import", a.with((*app).importSession))
	in.GET("/sessions/:id", a.with((*app).bench))
	in.POST("/sessions/:id/edit", a.with((*app).edit))
	in.GET("/sessions/:id/understand", a.with((*app).understand))
	in.POST("/sessions/:id/template", a.with((*app).keepTemplate))
	in.POST("/sessions/:id/restore", a.with(restore("sessions")))
	in.GET("/sessions/:id/document", a.with(rawDocument("sessions")))
	in.GET("/sessions/:id/options", a.with((*app).options))
	in.GET("/sessions/:id/history", a.with((*app).history))
	in.GET("/sessions/:id/compare", a.with((*app).compare))
	in.POST("/templates/:id/delete", a.with((*app).deleteTemplate))
	in.POST("/house/aside", a.with((*app).asideHouse))
	in.GET("/house/pace", a.with((*app).paceSeen))
	in.POST("/house/pace", a.with((*app).acceptPace))
	in.GET("/sessions/:id/propose", a.with((*app).propose))
	in.POST("/sessions/:id/paste", a.with((*app).paste))
	in.POST("/sessions/:id/copy", a.with((*app).copySession))
	in.POST("/sessions/:id/archive", a.with((*app).archiveSession))
	in.GET("/sessions/:id/export", a.with((*app).exportSession))
	in.GET("/sessions/:id/print", a.with((*app).printSession))
	in.GET("/sessions/:id/lead", a.with((*app).lead))
	in.POST("/runs", a.with((*app).saveRun))
	in.GET("/log", a.with((*app).log))
	in.GET("/log/:id", a.with((*app).run))
	in.GET("/log/:id/document", a.with((*app).ledDocument))
	in.POST("/log", a.with((*app).remember))
	in.POST("/log/:id/delete", a.with((*app).forgetRun))
	in.GET("/series", a.with((*app).seriesList))
	in.POST("/series", a.with((*app).newSeries))
	in.GET("/series/:id", a.with((*app).series))
	in.POST("/series/:id/edit", a.with((*app).editSeries))
	in.GET("/series/:id/calendar", a.with((*app).seriesCalendar))
	in.GET("/series/:id/print", a.with((*app).printSeries))
	in.POST("/series/:id/restore", a.with(restore("series")))
	in.GET("/series/:id/document", a.with(rawDocument("series")))
	in.GET("/series/:id/history", a.with((*app).seriesHistory))
	in.GET("/people", a.with((*app).people))
	in.POST("/people", a.with((*app).saveMover))
	in.POST("/people/:id/delete", a.with((*app).deleteMover))
	in.GET("/house", a.with((*app).house))
	in.POST("/house", a.with((*app).saveHouse))
	in.POST("/house/teachers", a.with((*app).addTeacher))
	r.NoRoute(func(c *gin.Context) {
		a.problem(c, http.StatusNotFound, "There is no page at this address.")
	})

	var h http.Handler = a.sessions.LoadAndSave(r)
	h = http.NewCrossOriginProtection().Handler(h)
	return &Handler{h, r.Routes()}, nil
}

// limitBody bounds what is read of a request: 5 MiB for files and runs.
func limitBody(c *gin.Context) {
	if c.Request.Body != nil {
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 5<<20)
	}
	c.Next()
}

func localOnly(c *gin.Context) {
	if ip := c.ClientIP(); ip != "127.0.0.1" && ip != "::1" {
		c.AbortWithStatus(http.StatusNotFound)
	}
}

// securityHeaders follows the OWASP Secure Headers recommendations.
func securityHeaders(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; worker-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("X-Frame-Options", "DENY")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=(), screen-wake-lock=(self)")
	if !strings.HasPrefix(c.Request.URL.Path, assetPrefix) && !strings.HasPrefix(c.Request.URL.Path, "/figures/") {
		h.Set("Cache-Control", "no-store")
	}
	c.Next()
}

func (a *app) parseTemplates() error {
	funcs := template.FuncMap{
		"asset": a.static.url,
		"svg":   func(b []byte) template.HTML { return template.HTML(b) }, // drawn by us, escaped there
		"fig":   a.figures.use,
		"clock": func(s clock.Span) string { return s.String() },
		"said":  func(s clock.Span) string { return s.Said() },
		"level": func(n, of int) template.HTML { return template.HTML(draw.LevelMark(n, of)) },
		"rows":  a.rowsHTML,
		"add":   func(x, y int) int { return x + y },
		"has": func(list, one string) bool {
			return slices.ContainsFunc(strings.Split(list, ","), func(w string) bool { return strings.TrimSpace(w) == one })
		},
		"book":    func() []string { return body.Poses().Names() },
		"words":   func(w ...string) []string { return w },
		"nothing": func() understoodView { return understoodView{} },
		"nobody":  func() store.Mover { return store.Mover{Level: 1} },
		"nav":     func() []navEntry { return navigation },
		"first":   func(o onDay, i int) onDay { o.First = i == 0; return o },
		"bar":     func(v, of float64) template.HTML { return template.HTML(draw.Bar(v/of, "bar")) },
		"barmark": func(bar, mark float64) template.HTML { return template.HTML(draw.BarMark(bar/100, mark/100)) },
		"twobars": func(a, b float64) template.HTML { return template.HTML(draw.TwoBars(a/100, b/100)) },
	}
	shared := []string{"templates/layout.html", "templates/parts.html"}
	names, err := fs.Glob(templateFiles, "templates/*.html")
	if err != nil {
		return err
	}
	a.pages = map[string]*template.Template{}
	for _, n := range names {
		base := strings.TrimSuffix(strings.TrimPrefix(n, "templates/"), ".html")
		if base == "layout" || base == "parts" {
			continue
		}
		t, err := template.New(base).Funcs(funcs).Option("missingkey=error").ParseFS(templateFiles, append(shared, n)...)
		if err != nil {
			return err
		}
		a.pages[base] = t
	}
	return nil
}

type navEntry struct{ Name, URL string }

var navigation = []navEntry{
	{"Today", "/"}, {"Movements", "/movements"}, {"Sessions", "/sessions"}, {"Series", "/series"}, {"People", "/people"}, {"Log", "/log"}, {"House", "/house"},
}

// page is what every page's layout needs.
type page struct {
	Title   string
	Nav     string // which entry of the navigation is on
	Who     *signedIn
	Theme   string // "paper" or "studio"
	Scripts []string
	Data    any
}

// render executes into a buffer first: an error in a template must not leave half a page.
func (a *app) render(c *gin.Context, status int, name, block string, data any) {
	b := a.bufs.Get().(*bytes.Buffer)
	defer func() {
		if b.Cap() < 1<<20 {
			b.Reset()
			a.bufs.Put(b)
		}
	}()
	if err := a.pages[name].ExecuteTemplate(b, block, data); err != nil {
		a.fail(c, err)
		return
	}
	c.Data(status, "text/html; charset=utf-8", b.Bytes())
}

func (a *app) show(c *gin.Context, name, title, nav string, data any, scripts ...string) {
	a.render(c, http.StatusOK, name, "layout", page{Title: title, Nav: nav, Who: who(c), Theme: "paper", Scripts: scripts, Data: data})
}

// isPart tells whether htmx asks for a part of a page.
func isPart(c *gin.Context) bool {
	return c.GetHeader("HX-Request") == "true" && c.GetHeader("HX-Boosted") == ""
}

// problem answers with words: a page, or for htmx a message in the page's message place.
func (a *app) problem(c *gin.Context, status int, says string) {
	if isPart(c) {
		c.Header("HX-Retarget", "#message")
		c.Header("HX-Reswap", "innerHTML")
		a.render(c, status, "problem", "message", says)
		c.Abort()
		return
	}
	p := page{Title: "Wavekine", Who: who(c), Theme: "paper", Data: says}
	a.render(c, status, "problem", "layout", p)
	c.Abort()
}

// fail answers an error that is not the user's.
func (a *app) fail(c *gin.Context, err error) {
	var big *http.MaxBytesError
	var form formError
	var odd *unreadableError
	switch {
	case errors.Is(err, sql.ErrNoRows):
		a.problem(c, http.StatusNotFound, "That is not here, or not yours.")
	case errors.As(err, &big):
		a.problem(c, http.StatusRequestEntityTooLarge, "That is too large: at most 5 MB are read.")
	case errors.As(err, &odd):
		a.showUnreadable(c, odd)
	case errors.As(err, &form):
		a.problem(c, http.StatusBadRequest, "The form did not arrive whole. Nothing was changed; send it again.")
	case c.Request.Context().Err() != nil: // the browser went away
		c.AbortWithStatus(499)
	default:
		slog.ErrorContext(c, "request", "err", err, "path", c.Request.URL.Path)
		if c.Writer.Written() {
			c.Abort()
			return
		}
		c.AbortWithStatus(http.StatusInternalServerError)
		_, _ = c.Writer.WriteString("Something went wrong on our side. Nothing was changed.")
	}
}

// finite reads a number that is one: "NaN" and "Inf" are not, and compare with nothing.
func finite(text string) (float64, error) {
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
