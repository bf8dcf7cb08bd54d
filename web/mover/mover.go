// Package mover is a mover's own page: from a personal link, on a phone, without an account. It shows the day as it is meant for them, leads them through it, takes a word on how it went, and
// works without the network once it was opened. The series that a studio opens to anybody are the same page without a name.
package mover

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/netip"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/movement"
	"wavekine/core/progress"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

//go:embed *.html *.js
var files embed.FS

// Screen is the mover's page.
var Screen = kit.Screen{
	Files: files,
	Open: func(a *kit.Kit, open gin.IRoutes) {
		for _, r := range []struct {
			method, path string
			do           func(*kit.Kit, *gin.Context, *visit)
		}{
			{http.MethodGet, "/m/:token", showPage},
			{http.MethodGet, "/m/:token/sheet", showSheet},
			{http.MethodPost, "/m/:token/word", takeWord},
			{http.MethodPost, "/m/:token/missed", choose},
			{http.MethodPost, "/m/:token/missed/undo", unchoose},
			{http.MethodPost, "/m/:token/remind", remind},
			{http.MethodPost, "/m/:token/erase", askToErase},
			{http.MethodGet, "/m/:token/data", takeOut},
			{http.MethodGet, "/m/:token/calendar.ics", calendar},
			{http.MethodGet, "/m/:token/manifest.webmanifest", manifest},
		} {
			open.Handle(r.method, r.path, guarded(a, r.do))
		}
		open.GET("/open/:token", func(c *gin.Context) { showOpen(a, c) })
		open.GET("/open/:token/sheet", func(c *gin.Context) { openSheet(a, c) })
		open.POST("/open/:token/word", func(c *gin.Context) { openWord(a, c) })
		open.GET("/open/:token/manifest.webmanifest", func(c *gin.Context) {
			if co, ok := opened(a, c); ok {
				writeManifest(c, co.Series.Title, "/open/"+c.Param("token"))
			}
		})
		open.GET("/m-icon.svg", icon)
	},
	Funcs: func(*kit.Kit) template.FuncMap {
		return template.FuncMap{
			"w": func(key string, args ...any) (string, error) {
				s, ok := words[key]
				if !ok {
					return "", fmt.Errorf("no word %q", key)
				}
				if len(args) > 0 {
					return fmt.Sprintf(s, args...), nil
				}
				return s, nil
			},
			"weekdays": func() []string { return weekdays },
			"places":   func(back bool) template.HTML { return template.HTML(draw.Places(back, 170, 260)) },
			"parts":    progress.Places, "hardword": progress.HardWord, "reaches": progress.Reaches,
		}
	},
}

// visit is somebody who has come with a link that opens something.
type visit struct {
	store.Guest
	token string
	zone  *time.Location
	house kit.House
	lib   *movement.Library
	today time.Time // midnight UTC
}

// studio is the name of the studio.
func (v *visit) studio() string { return v.StudioName }

// path is where the page is.
func (v *visit) path() string { return "/m/" + v.token }

// How often an address may try links that open nothing; judgement: a slip of the finger, not a search. A token has 160 bits.
var perAddress = store.Limit{Burst: 20, Every: 10 * time.Second}

// quiet keeps a page with a secret in its address out of what others see: search engines, referrers, shared caches.
func quiet(c *gin.Context) {
	c.Header("X-Robots-Tag", "noindex, nofollow")
	c.Header("Referrer-Policy", "no-referrer")
}

// guarded lets only those in whose link opens something. An address that never was is answered like one that has ended.
func guarded(a *kit.Kit, do func(*kit.Kit, *gin.Context, *visit)) gin.HandlerFunc {
	return func(c *gin.Context) {
		quiet(c)
		ctx := c.Request.Context()
		g, err := a.Store.GuestBy(ctx, c.Param("token"))
		if errors.Is(err, store.ErrNotFound) {
			refuse(a, c)
			return
		}
		if err != nil {
			fail(a, c, err)
			return
		}
		v := &visit{Guest: g, token: c.Param("token"), house: kit.ReadHouse(g.House)}
		if v.zone, err = time.LoadLocation(g.Zone); err != nil {
			v.zone = time.UTC
		}
		v.today = kit.Midnight(a.Opt.Now().In(v.zone))
		if v.lib, err = a.LibraryAt(ctx, g.StudioID, g.Library); err != nil {
			fail(a, c, err)
			return
		}
		do(a, c, v)
	}
}

// refuse answers a link that opens nothing, the same whatever it was, and slower for who tries many.
func refuse(a *kit.Kit, c *gin.Context) {
	ip := c.ClientIP()
	if p, err := netip.ParseAddr(ip); err == nil && p.Unmap().Is6() {
		if net, err := p.Prefix(64); err == nil {
			ip = net.String()
		}
	}
	ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
	defer cancel()
	if wait, err := a.Store.Take(ctx, "link "+ip, perAddress); err == nil && wait > 0 {
		c.Header("Retry-After", fmt.Sprint(int(wait.Seconds())+1))
		say(a, c, http.StatusTooManyRequests, words["slow"])
		return
	}
	say(a, c, http.StatusNotFound, words["gone"])
}

// say answers in words: as a page, or to the page's script.
func say(a *kit.Kit, c *gin.Context, status int, says string) {
	if c.Request.Method != http.MethodGet && c.GetHeader("Accept") == "application/json" {
		c.AbortWithStatusJSON(status, gin.H{"error": says})
		return
	}
	a.Render(c, status, "mover", "says", says)
	c.Abort()
}

// fail answers what is not the mover's doing, in words that are for them.
func fail(a *kit.Kit, c *gin.Context, err error) {
	var odd *kit.UnreadableError
	var big *http.MaxBytesError
	switch {
	case errors.Is(err, store.ErrNotFound):
		say(a, c, http.StatusNotFound, words["gone"])
	case errors.As(err, &odd):
		say(a, c, http.StatusServiceUnavailable, words["odd"])
	case errors.As(err, &big):
		say(a, c, http.StatusRequestEntityTooLarge, words["toolong"])
	case c.Request.Context().Err() != nil: // the phone went away
		c.AbortWithStatus(499)
	default:
		status, says := a.Wrong(c, err)
		say(a, c, status, says)
	}
}
