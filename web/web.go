// Package web is the site: it puts the screens together, each in a folder of its own with its handlers, templates, script
// and tests, over the small kit that they share. The rules of the job are in core; a handler reads a form, calls core and
// store, and renders.
package web

import (
	"context"
	"embed"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"runtime/debug"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"wavekine/store"
	"wavekine/web/bench"
	"wavekine/web/door"
	"wavekine/web/house"
	"wavekine/web/kit"
	"wavekine/web/lead"
	"wavekine/web/library"
	"wavekine/web/log"
	"wavekine/web/mover"
	"wavekine/web/people"
	"wavekine/web/room"
	"wavekine/web/series"
	"wavekine/web/sessions"
	"wavekine/web/today"
)

//go:embed static
var static embed.FS

// screens are all screens of the site.
func screens() []kit.Screen {
	return []kit.Screen{door.Screen, today.Screen, library.Screen, sessions.Screen, bench.Screen, lead.Screen, log.Screen, series.Screen, people.Screen, house.Screen, mover.Screen, room.Screen}
}

// Handler is the whole site.
type Handler struct {
	http.Handler
	kit     *kit.Kit
	Metrics http.Handler // for Prometheus, to be served at an address of its own
	routes  gin.RoutesInfo
	stop    sync.Once
}

// Stop ends what is written little by little, so that the program can end.
func (h *Handler) Stop() { h.stop.Do(func() { close(h.kit.Stopping) }) }

// Routes lists every route, for the test that walks them.
func (h *Handler) Routes() gin.RoutesInfo { return h.routes }

// New builds the site; more are screens besides its own.
func New(st *store.Store, opt kit.Options, more ...kit.Screen) (*Handler, error) {
	screens := append(screens(), more...)
	files, err := fs.Sub(static, "static")
	if err != nil {
		return nil, err
	}
	a, err := kit.New(st, opt, files, screens)
	if err != nil {
		return nil, err
	}
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.ContextWithFallback = false                   // a gin.Context is reused after its request: nothing may take it for the request's own
	r.RemoteIPHeaders = []string{"X-Forwarded-For"} // the one that a proxy is asked to set; of any other the client is the author
	if err := r.SetTrustedProxies(opt.Proxies); err != nil {
		return nil, fmt.Errorf("proxies: %w", err)
	}
	r.MaxMultipartMemory = kit.FormMemory
	measured, metrics := measure()
	r.Use(measured, gin.CustomRecoveryWithWriter(nil, func(c *gin.Context, v any) {
		slog.ErrorContext(c.Request.Context(), "panic", "value", v, "route", c.FullPath(), "stack", string(debug.Stack()))
		a.Fallen(c)
	}), securityHeaders(opt.Secure))
	free(a, r)

	g := r.Group("/", gzip.Gzip(gzip.BestSpeed))
	door, in := g.Group("/", limitBody(anonymousBody), a.ReadForm), g.Group("/", limitBody(largestBody), a.MustSignIn, a.ReadForm)
	for _, sc := range screens {
		if sc.Free != nil {
			sc.Free(a, r)
		}
		if sc.Open != nil {
			sc.Open(a, door)
		}
		if sc.Routes != nil {
			sc.Routes(a, in)
		}
	}
	r.NoRoute(func(c *gin.Context) {
		a.Problem(c, http.StatusNotFound, "There is no page at this address.")
	})
	return &Handler{Handler: outside(a, r), kit: a, Metrics: metrics, routes: r.Routes()}, nil
}

// freeOfData tells whether an address is answered without knowing who asks: most of these also while the database is away.
func freeOfData(path string) bool {
	switch path {
	case "/sw.js", "/healthz", "/readyz", "/favicon.ico", "/licences":
		return true
	}
	return strings.HasPrefix(path, "/room/") && strings.HasSuffix(path, "/live") || strings.HasPrefix(path, kit.AssetPrefix) || strings.HasPrefix(path, "/figures/")
}

// free are the routes that ask nobody who they are. /healthz tells that the program runs, /readyz that it can work.
func free(a *kit.Kit, r *gin.Engine) {
	r.GET(kit.AssetPrefix+"*path", gin.WrapH(a.Static))
	r.GET("/sw.js", a.ServiceWorker)
	r.GET("/licences", licencesPage)
	r.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok") })
	r.GET("/readyz", func(c *gin.Context) {
		ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
		defer cancel()
		if err := a.Store.Ready(ctx); err != nil {
			c.String(http.StatusServiceUnavailable, "the database does not answer")
			return
		}
		c.String(http.StatusOK, "ready")
	})
	r.GET("/favicon.ico", func(c *gin.Context) { c.Status(http.StatusNoContent) })
}

// outside is what stands around the screens: who has signed in, what other sites may not do, and what is known of the
// writes of a request.
func outside(a *kit.Kit, r http.Handler) http.Handler {
	signed := a.Sessions.LoadAndSave(r)
	cross := http.NewCrossOriginProtection()
	cross.SetDenyHandler(http.HandlerFunc(a.Foreign))
	return cross.Handler(http.HandlerFunc(func(w http.ResponseWriter, req *http.Request) {
		if freeOfData(req.URL.Path) {
			r.ServeHTTP(w, req)
			return
		}
		signed.ServeHTTP(w, req.WithContext(store.WithVisit(req.Context(), &store.Visit{})))
	}))
}

// methods are the labels of the metrics: what anybody may invent is "other".
var methods = map[string]bool{"GET": true, "HEAD": true, "POST": true, "PUT": true, "PATCH": true, "DELETE": true, "OPTIONS": true}

// measure counts and times what is answered, by route.
func measure() (gin.HandlerFunc, http.Handler) {
	reg := prometheus.NewRegistry()
	hist := prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "http_request_duration_seconds", Buckets: []float64{.001, .0025, .005, .01, .025, .05, .1, .25, .5, 1, 2.5, 5},
	}, []string{"method", "route", "status"})
	reg.MustRegister(hist, collectors.NewGoCollector())
	return func(c *gin.Context) {
		start := time.Now()
		c.Next()
		route, method := c.FullPath(), c.Request.Method
		if route == "" {
			route = "none"
		}
		if !methods[method] {
			method = "other"
		}
		hist.WithLabelValues(method, route, strconv.Itoa(c.Writer.Status())).Observe(time.Since(start).Seconds())
	}, promhttp.HandlerFor(reg, promhttp.HandlerOpts{})
}

// Rounds writes the letters that are due, now and then, until the context ends.
func (h *Handler) Rounds(ctx context.Context, every time.Duration) {
	tick := time.NewTicker(every)
	defer tick.Stop()
	for {
		if err := people.Rounds(ctx, h.kit, h.kit.Opt.Now()); err != nil && ctx.Err() == nil {
			slog.ErrorContext(ctx, "letters that are due", "err", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}
