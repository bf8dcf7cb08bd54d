package kit

import (
	"errors"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/store"
)

// signedIn is who is asking.
type signedIn struct {
	Teacher store.Teacher
	Studio  store.Studio
	House   House
	Zone    *time.Location
}

const whoKey = "who"

// Who is who has signed in; nil where nobody has.
func Who(c *gin.Context) *signedIn {
	v, ok := c.Get(whoKey)
	if !ok {
		return nil
	}
	return v.(*signedIn)
}

// What a web session holds: who has signed in, at which epoch of theirs.
const (
	sessionStudio  = "studio"
	sessionTeacher = "teacher"
	sessionEpoch   = "epoch"
)

// Enter signs a teacher in, with a new token against session fixation.
func (a *Kit) Enter(c *gin.Context, t store.Teacher) error {
	ctx := c.Request.Context()
	if err := a.Sessions.RenewToken(ctx); err != nil {
		return err
	}
	a.Sessions.Put(ctx, sessionStudio, t.StudioID)
	a.Sessions.Put(ctx, sessionTeacher, t.ID)
	a.Sessions.Put(ctx, sessionEpoch, t.Epoch)
	return nil
}

// MustSignIn lets only signed-in teachers through; others are sent to sign in and come back. Nothing is kept of them.
func (a *Kit) MustSignIn(c *gin.Context) {
	ctx := c.Request.Context()
	if id := a.Sessions.GetString(ctx, sessionTeacher); id != "" {
		t, st, err := a.Store.SignedIn(ctx, a.Sessions.GetString(ctx, sessionStudio), id, a.Sessions.GetInt(ctx, sessionEpoch))
		if err == nil {
			zone, zerr := time.LoadLocation(st.Zone)
			if zerr != nil {
				zone = time.UTC
			}
			c.Set(whoKey, &signedIn{t, st, ReadHouse(st.House), zone})
			c.Next()
			return
		}
		if !errors.Is(err, store.ErrNotFound) {
			a.Fail(c, err)
			return
		}
	}
	there, err := a.Store.AnyStudio(ctx)
	if err != nil {
		a.Fail(c, err)
		return
	}
	to := "/signin"
	if !there {
		to = "/start"
	}
	switch {
	case IsPart(c):
		c.Header("HX-Redirect", to+backTo(c.GetHeader("HX-Current-URL")))
		c.AbortWithStatus(http.StatusUnauthorized)
	case c.Request.Method != http.MethodGet:
		a.Problem(c, http.StatusUnauthorized, "Sign in first.")
	default:
		c.Redirect(http.StatusSeeOther, to+backTo(c.Request.URL.RequestURI()))
		c.Abort()
	}
}

// MustOwn lets only owners of the studio through.
func (a *Kit) MustOwn(c *gin.Context) {
	if Who(c).Teacher.Role != store.AsOwner {
		a.Problem(c, http.StatusForbidden, "Only an owner of the studio can do that.")
		return
	}
	c.Next()
}

// longestBack is how long an address to come back to may be, in bytes; judgement.
const longestBack = 500

// backTo is the part of an address that says where to go after signing in; empty for the first page.
func backTo(address string) string {
	if to := BackTo(address); to != "/" {
		return "?back=" + url.QueryEscape(to)
	}
	return ""
}

// BackTo is an address to come back to, as one of this site: its path and query. Anything else is the first page.
func BackTo(address string) string {
	u, err := url.Parse(address)
	if err != nil || len(address) > longestBack {
		return "/"
	}
	to := (&url.URL{Path: u.Path, RawQuery: u.RawQuery}).RequestURI()
	// "//elsewhere" and, for browsers, "/\\elsewhere" would leave the site; coming back to the door goes nowhere.
	if !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") || strings.ContainsAny(to, "\\\r\n\x00") || u.Path == "/signin" || u.Path == "/start" {
		return "/"
	}
	return to
}
