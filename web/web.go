// Package web is the site: it puts the screens together, each in a folder of its own with its handlers, templates, script
// and tests, over the small kit that they share. The rules of the job are in core; a handler reads a form, calls core and
// store, and renders.
package web

import (
	"embed"
	"io/fs"
	"log/slog"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"wavekine/store"
	"wavekine/web/bench"
	"wavekine/web/door"
	"wavekine/web/house"
	"wavekine/web/kit"
	"wavekine/web/lead"
	"wavekine/web/library"
	"wavekine/web/log"
	"wavekine/web/people"
	"wavekine/web/series"
	"wavekine/web/sessions"
	"wavekine/web/today"
)

//go:embed static
var static embed.FS

// screens are all screens of the site.
func screens() []kit.Screen {
	return []kit.Screen{door.Screen, today.Screen, library.Screen, sessions.Screen, bench.Screen, lead.Screen, log.Screen, series.Screen, people.Screen, house.Screen}
}

// Handler is the whole site.
type Handler struct {
	http.Handler
	routes gin.RoutesInfo
}

// Routes lists every route, for the test that walks them.
func (h *Handler) Routes() gin.RoutesInfo { return h.routes }

// New builds the site.
func New(st *store.Store, opt kit.Options) (*Handler, error) {
	files, err := fs.Sub(static, "static")
	if err != nil {
		return nil, err
	}
	a, err := kit.New(st, opt, files, screens())
	if err != nil {
		return nil, err
	}
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.ContextWithFallback = true
	_ = r.SetTrustedProxies(nil)
	r.MaxMultipartMemory = kit.FormMemory
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
	r.GET(kit.AssetPrefix+"*path", gin.WrapH(a.Static))
	r.GET("/sw.js", a.ServiceWorker)
	r.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok") })
	r.GET("/favicon.ico", func(c *gin.Context) { c.Status(http.StatusNoContent) })
	r.GET("/metrics", localOnly, gin.WrapH(promhttp.HandlerFor(reg, promhttp.HandlerOpts{})))

	g := r.Group("/", gzip.Gzip(gzip.BestSpeed), a.ReadForm)
	in := g.Group("/", a.MustSignIn)
	for _, sc := range screens() {
		if sc.Open != nil {
			sc.Open(a, g)
		}
		if sc.Routes != nil {
			sc.Routes(a, in)
		}
	}
	r.NoRoute(func(c *gin.Context) {
		a.Problem(c, http.StatusNotFound, "There is no page at this address.")
	})

	var h http.Handler = a.Sessions.LoadAndSave(r)
	h = http.NewCrossOriginProtection().Handler(h)
	return &Handler{h, r.Routes()}, nil
}
