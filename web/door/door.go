// Package door is how people come in: signing in and out, the first studio, passwords, and one-time links.
package door

import (
	"embed"
	"errors"
	"fmt"
	"math"
	"net/http"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"wavekine/store"
	"wavekine/web/kit"
)

//go:embed *.html
var files embed.FS

// Screen is signing in and out, one's own account, and the first studio.
var Screen = kit.Screen{
	Files: files,
	Open: func(a *kit.Kit, g gin.IRoutes) {
		g.GET("/signin", a.Bare(signInPage))
		g.POST("/signin", a.Bare(signIn))
		g.GET("/start", a.Bare(startPage))
		g.POST("/start", a.Bare(start))
		g.GET("/link/:token", a.Bare(linkPage))
		g.POST("/link/:token", a.Bare(useLink))
	},
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.POST("/signout", a.With(signOut))
		in.GET("/account", a.With(accountPage))
		in.POST("/account/password", a.With(changePassword))
		in.POST("/account/signout", a.With(signOutEverywhere))
	},
}

// longestMail is the longest e-mail address (RFC 5321, 4.5.3.1.3, without the brackets of a path).
const longestMail = 254

type signInView struct {
	Email, Says, Demo string
	Back              string
	Studio, Name      string
	Zone              string
	Least             int // characters of a password
}

func signInPage(a *kit.Kit, c *gin.Context) {
	there, err := a.Store.AnyStudio(c.Request.Context())
	if err != nil {
		a.Fail(c, err)
		return
	}
	if !there {
		c.Redirect(http.StatusSeeOther, "/start")
		return
	}
	a.Show(c, "signin", "Sign in", "", signInView{Demo: a.Opt.Demo, Back: kit.BackTo(c.Query("back"))})
}

func signIn(a *kit.Kit, c *gin.Context) {
	ctx := c.Request.Context()
	email, password := strings.TrimSpace(c.PostForm("email")), c.PostForm("password")
	v := signInView{Email: email, Demo: a.Opt.Demo, Back: kit.BackTo(c.PostForm("back"))}
	again := func(status int, says string) {
		v.Says = says
		a.Render(c, status, "signin", "layout", kit.Page{Title: "Sign in", Theme: "paper", Data: v})
	}
	if len(password) > maxPasswordBytes || len(email) > longestMail { // before anything is asked or kept
		v.Email = ""
		again(http.StatusUnprocessableEntity, "That e-mail or password is too long.")
		return
	}
	device := deviceOf(a, c)
	t, known, err := a.Store.TeacherByEmail(ctx, email, device)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		a.Fail(c, err)
		return
	}
	tries := triesOf(c.ClientIP(), email, device, known)
	switch wait, err := tries.take(ctx, a.Store); {
	case err != nil:
		a.Fail(c, err)
		return
	case wait > 0:
		again(http.StatusTooManyRequests, tooMany(c, wait)+", or sign in where you have signed in before.")
		return
	}
	right, err := checkPassword(c, t.PasswordHash, password)
	if err != nil {
		a.Fail(c, err)
		return
	}
	if !right {
		again(http.StatusUnprocessableEntity, "No account with this e-mail and password.")
		return
	}
	if err := tries.giveBack(ctx, a.Store); err != nil {
		a.Fail(c, err)
		return
	}
	enter(a, c, t, v.Back)
}

// tooMany says how long to wait, to people and to programs.
func tooMany(c *gin.Context, wait time.Duration) string {
	seconds := int(math.Ceil(wait.Seconds()))
	c.Header("Retry-After", strconv.Itoa(seconds))
	if seconds < 100 {
		return fmt.Sprintf("Too many tries. Wait %d s and try again", seconds)
	}
	return fmt.Sprintf("Too many tries. Wait %d min and try again", (seconds+59)/60)
}

// enter signs a teacher in, remembers the device, and goes where they wanted to go.
func enter(a *kit.Kit, c *gin.Context, t store.Teacher, back string) {
	device := deviceOf(a, c)
	if device == "" {
		device = store.NewSecret()
	}
	err := a.Store.KnowDevice(c.Request.Context(), t, device)
	if err == nil {
		err = a.Enter(c, t)
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	setDevice(a, c, device)
	c.Redirect(http.StatusSeeOther, back)
}

func signOut(a *kit.Kit, c *gin.Context) {
	if err := a.Sessions.Destroy(c.Request.Context()); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/signin")
}

// startPage makes the first studio; it works only while there is none.
func startPage(a *kit.Kit, c *gin.Context) {
	there, err := a.Store.AnyStudio(c.Request.Context())
	switch {
	case err != nil:
		a.Fail(c, err)
	case there:
		a.Problem(c, http.StatusNotFound, "There is no page at this address.")
	default:
		a.Show(c, "start", "Make your studio", "", signInView{Zone: "UTC", Least: MinPassword})
	}
}

func start(a *kit.Kit, c *gin.Context) {
	there, err := a.Store.AnyStudio(c.Request.Context())
	if err != nil {
		a.Fail(c, err)
		return
	}
	if there {
		a.Problem(c, http.StatusNotFound, "There is no page at this address.")
		return
	}
	st := store.Studio{ID: store.NewID(), Name: strings.TrimSpace(c.PostForm("studio")), Zone: strings.TrimSpace(c.PostForm("zone"))}
	t, says := NewTeacher(c)
	password := c.PostForm("password")
	if says == "" {
		says = weakness(password, t.Name, t.Email, st.Name)
	}
	if _, err := time.LoadLocation(st.Zone); err != nil || st.Zone == "" || st.Zone == "Local" {
		says = "The time zone is not one: it looks like Europe/Lisbon, or UTC."
	}
	if st.Name == "" || utf8.RuneCountInString(st.Name) > 120 {
		says = "The studio's name: from 1 to 120 characters."
	}
	if says != "" {
		a.Render(c, http.StatusUnprocessableEntity, "start", "layout", kit.Page{Title: "Make your studio", Theme: "paper", Data: signInView{Email: t.Email, Name: t.Name, Studio: st.Name, Zone: st.Zone, Says: says, Least: MinPassword}})
		return
	}
	if t.PasswordHash, err = hashPassword(c, password); err != nil {
		a.Fail(c, err)
		return
	}
	switch err := a.Store.CreateFirst(c.Request.Context(), st, t); {
	case errors.Is(err, store.ErrTaken):
		a.Problem(c, http.StatusNotFound, "There is a studio already.")
	case err != nil:
		a.Fail(c, err)
	default:
		t.StudioID, t.Epoch = st.ID, 1
		enter(a, c, t, "/")
	}
}
