package door

import (
	"embed"
	"errors"
	"fmt"
	"net/http"
	"net/mail"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"github.com/gin-gonic/gin"

	"wavekine/store"
	"wavekine/web/kit"
)

//go:embed *.html
var files embed.FS

// Screen is signing in and out, and the first studio.
var Screen = kit.Screen{
	Files: files,
	Open: func(a *kit.Kit, g gin.IRoutes) {
		g.GET("/signin", a.Bare(signInPage))
		g.POST("/signin", a.Bare(signIn))
		g.GET("/start", a.Bare(startPage))
		g.POST("/start", a.Bare(start))
	},
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.POST("/signout", a.With(signOut))
	},
}

// hashing is argon2id with 19 MiB, two passes, one lane (OWASP Password Storage Cheat Sheet).
var hashing = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// Lengths of a password in characters: the least is longer than the eight of NIST SP 800-63B.
const (
	minPassword = 10
	maxPassword = 128
)

// HashPassword makes a salted argon2id hash in the usual $-separated form.
func HashPassword(password string) string {
	h, err := argon2id.CreateHash(password, hashing)
	if err != nil {
		panic(err) // only without a source of randomness
	}
	return h
}

// CheckPassword compares in constant time; a hash that cannot be read matches nothing.
func CheckPassword(hash, password string) bool {
	same, err := argon2id.ComparePasswordAndHash(password, hash)
	return err == nil && same
}

// nobody's hash costs as much to check as somebody's, so that timing does not tell who has an account.
var nobodysHash = sync.OnceValue(func() string { return HashPassword("nobody has this password") })

type signInView struct {
	Email, Says, Demo string
	Studio, Name      string
	Zone              string
}

func signInPage(a *kit.Kit, c *gin.Context) {
	there, err := a.Store.AnyStudio(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	if !there {
		c.Redirect(http.StatusSeeOther, "/start")
		return
	}
	a.Show(c, "signin", "Sign in", "", signInView{Demo: a.Opt.Demo})
}

func signIn(a *kit.Kit, c *gin.Context) {
	email, password := strings.TrimSpace(c.PostForm("email")), c.PostForm("password")
	keys := []string{"ip " + c.ClientIP(), "mail " + strings.ToLower(email)}
	again := func(status int, says string) {
		a.Render(c, status, "signin", "layout", kit.Page{Title: "Sign in", Theme: "paper", Data: signInView{Email: email, Says: says, Demo: a.Opt.Demo}})
	}
	if !a.Throttle.Allow(keys...) {
		c.Header("Retry-After", "20")
		again(http.StatusTooManyRequests, "Too many tries. Wait a little and try again.")
		return
	}
	if len(password) > maxPassword || len(email) > 254 {
		again(http.StatusUnprocessableEntity, "That e-mail or password is too long.")
		return
	}
	t, err := a.Store.TeacherByEmail(c, email)
	hash := t.PasswordHash
	if errors.Is(err, store.ErrNotFound) {
		hash = nobodysHash()
	} else if err != nil {
		a.Fail(c, err)
		return
	}
	if !CheckPassword(hash, password) || err != nil {
		again(http.StatusUnprocessableEntity, "No account with this e-mail and password.")
		return
	}
	a.Throttle.Forget(keys[1])
	enter(a, c, t)
}

// enter signs a teacher in and goes where they wanted to go.
func enter(a *kit.Kit, c *gin.Context, t store.Teacher) {
	back := a.Sessions.PopString(c, "back")
	if err := a.Sessions.RenewToken(c); err != nil { // against session fixation
		a.Fail(c, err)
		return
	}
	a.Sessions.Put(c, "studio", t.StudioID)
	a.Sessions.Put(c, "teacher", t.ID)
	if !strings.HasPrefix(back, "/") || strings.HasPrefix(back, "//") {
		back = "/"
	}
	c.Redirect(http.StatusSeeOther, back)
}

func signOut(a *kit.Kit, c *gin.Context) {
	if err := a.Sessions.Destroy(c); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/signin")
}

// startPage makes the first studio; it works only while there is none.
func startPage(a *kit.Kit, c *gin.Context) {
	there, err := a.Store.AnyStudio(c)
	switch {
	case err != nil:
		a.Fail(c, err)
	case there:
		a.Problem(c, http.StatusNotFound, "There is no page at this address.")
	default:
		a.Show(c, "start", "Make your studio", "", signInView{Zone: "UTC"})
	}
}

// NewTeacher checks the fields of a new account; says is empty when they are right.
func NewTeacher(c *gin.Context) (t store.Teacher, says string) {
	t = store.Teacher{ID: store.NewID(), Name: strings.TrimSpace(c.PostForm("name")), Email: strings.TrimSpace(c.PostForm("email"))}
	password := c.PostForm("password")
	addr, err := mail.ParseAddress(t.Email)
	switch n := utf8.RuneCountInString(password); {
	case t.Name == "" || utf8.RuneCountInString(t.Name) > 120 || !utf8.ValidString(t.Name):
		says = "Your name: from 1 to 120 characters."
	case err != nil || addr.Address != t.Email || len(t.Email) > 254:
		says = "The e-mail is not one: it looks like name@example.org."
	case n < minPassword || len(password) > maxPassword:
		says = fmt.Sprintf("The password: from %d to %d characters.", minPassword, maxPassword)
	default:
		t.PasswordHash = HashPassword(password)
	}
	return t, says
}

func start(a *kit.Kit, c *gin.Context) {
	there, err := a.Store.AnyStudio(c)
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
	if _, err := time.LoadLocation(st.Zone); err != nil || st.Zone == "" || st.Zone == "Local" {
		says = "The time zone is not one: it looks like Europe/Lisbon, or UTC."
	}
	if st.Name == "" || utf8.RuneCountInString(st.Name) > 120 {
		says = "The studio's name: from 1 to 120 characters."
	}
	again := func(status int, says string) {
		a.Render(c, status, "start", "layout", kit.Page{Title: "Make your studio", Theme: "paper", Data: signInView{Email: t.Email, Name: t.Name, Studio: st.Name, Zone: st.Zone, Says: says}})
	}
	if says != "" {
		again(http.StatusUnprocessableEntity, says)
		return
	}
	switch err := a.Store.CreateFirst(c, st, t); {
	case errors.Is(err, store.ErrTaken):
		a.Problem(c, http.StatusNotFound, "There is a studio already.")
	case err != nil:
		a.Fail(c, err)
	default:
		t.StudioID = st.ID
		enter(a, c, t)
	}
}
