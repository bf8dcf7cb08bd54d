package web

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/mail"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/gin-gonic/gin"
	"golang.org/x/crypto/argon2"
	"golang.org/x/time/rate"

	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/store"
)

// Parameters of argon2id as the OWASP Password Storage Cheat Sheet recommends them: 19 MiB of
// memory, two passes, one lane. Passwords have at least 10 characters, at most 128.
const (
	argonMemory  = 19 * 1024
	argonTime    = 2
	argonLanes   = 1
	argonKey     = 32
	minPassword  = 10
	maxPassword  = 128
	signInsBurst = 6
	signInsEvery = 20 * time.Second
)

// HashPassword makes a salted argon2id hash in the usual $-separated form.
func HashPassword(password string) string {
	salt := make([]byte, 16)
	_, _ = rand.Read(salt)
	key := argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonLanes, argonKey)
	b64 := base64.RawStdEncoding.EncodeToString
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, argonMemory, argonTime, argonLanes, b64(salt), b64(key))
}

// checkPassword compares in constant time.
func checkPassword(hash, password string) bool {
	var version, memory, passes, lanes int
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false
	}
	if _, err := fmt.Sscanf(parts[2]+" "+parts[3], "v=%d m=%d,t=%d,p=%d", &version, &memory, &passes, &lanes); err != nil {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	key, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil || len(key) == 0 {
		return false
	}
	got := argon2.IDKey([]byte(password), salt, uint32(passes), uint32(memory), uint8(lanes), uint32(len(key)))
	return subtle.ConstantTimeCompare(got, key) == 1
}

// nobody's hash costs as much to check as somebody's, so that timing does not tell who has an account.
var nobodysHash = sync.OnceValue(func() string { return HashPassword("nobody has this password") })

// throttle lets a few sign-ins through for each address and each account, then slows down.
type throttle struct {
	mu  sync.Mutex
	by  map[string]*rate.Limiter
	max int
}

func newThrottle() *throttle { return &throttle{by: map[string]*rate.Limiter{}, max: 20000} }

func (t *throttle) allow(keys ...string) bool {
	t.mu.Lock()
	defer t.mu.Unlock()
	if len(t.by) > t.max { // forget rather than grow
		t.by = map[string]*rate.Limiter{}
	}
	ok := true
	for _, k := range keys {
		l := t.by[k]
		if l == nil {
			l = rate.NewLimiter(rate.Every(signInsEvery), signInsBurst)
			t.by[k] = l
		}
		ok = l.Allow() && ok
	}
	return ok
}

func (t *throttle) forget(keys ...string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	for _, k := range keys {
		delete(t.by, k)
	}
}

// signedIn is who is asking.
type signedIn struct {
	Teacher store.Teacher
	Studio  store.Studio
	House   House
	Zone    *time.Location
}

// House is a studio's settings.
type House struct {
	Limits review.Limits `json:"limits"`
	Style  plan.Style    `json:"-"` // written into every new session
	Aside  []plan.Aside  `json:"-"` // kinds of findings set aside for the whole house
}

// MarshalJSON writes the settings as they are stored.
func (h House) MarshalJSON() ([]byte, error) {
	return json.Marshal(struct {
		Limits review.Limits `json:"limits"`
		Style  *plan.Style   `json:"style"`
		Aside  []plan.Aside  `json:"aside,omitempty"`
	}{h.Limits, &h.Style, h.Aside})
}

// ReadHouse reads a studio's settings; what is not set has its default.
func ReadHouse(text []byte) House {
	var h House
	var more struct {
		Style json.RawMessage `json:"style"`
		Aside []struct {
			Rule, Reason string
			Amount       float64
		} `json:"aside"`
	}
	_ = json.Unmarshal(text, &h) // written by SaveHouse only
	_ = json.Unmarshal(text, &more)
	if st, err := plan.ReadStyle(more.Style); err == nil {
		h.Style = st
	}
	for _, a := range more.Aside {
		h.Aside = append(h.Aside, plan.Aside{Rule: a.Rule, Reason: a.Reason, Amount: a.Amount})
	}
	return h
}

const whoKey = "who"

func who(c *gin.Context) *signedIn {
	v, ok := c.Get(whoKey)
	if !ok {
		return nil
	}
	return v.(*signedIn)
}

// mustSignIn lets only signed-in teachers through; others are sent to sign in and come back.
func (a *app) mustSignIn(c *gin.Context) {
	studio, id := a.sessions.GetString(c, "studio"), a.sessions.GetString(c, "teacher")
	if id != "" {
		t, st, err := a.store.SignedIn(c, studio, id)
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
			a.fail(c, err)
			c.Abort()
			return
		}
	}
	there, err := a.store.AnyStudio(c)
	if err != nil {
		a.fail(c, err)
		c.Abort()
		return
	}
	to := "/signin"
	if !there {
		to = "/start"
	}
	switch {
	case isPart(c):
		c.Header("HX-Redirect", to)
		c.AbortWithStatus(http.StatusUnauthorized)
	case c.Request.Method != http.MethodGet:
		a.problem(c, http.StatusUnauthorized, "Sign in first.")
	default:
		if c.Request.URL.Path != "/" {
			a.sessions.Put(c, "back", c.Request.URL.RequestURI())
		}
		c.Redirect(http.StatusSeeOther, to)
		c.Abort()
	}
}

type signInView struct {
	Email, Says, Demo string
	Studio, Name      string
	Zone              string
}

func (a *app) signInPage(c *gin.Context) {
	there, err := a.store.AnyStudio(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	if !there {
		c.Redirect(http.StatusSeeOther, "/start")
		return
	}
	a.show(c, "signin", "Sign in", "", signInView{Demo: a.opt.Demo})
}

func (a *app) signIn(c *gin.Context) {
	email, password := strings.TrimSpace(c.PostForm("email")), c.PostForm("password")
	keys := []string{"ip " + c.ClientIP(), "mail " + strings.ToLower(email)}
	again := func(status int, says string) {
		a.render(c, status, "signin", "layout", page{Title: "Sign in", Theme: "paper", Data: signInView{Email: email, Says: says, Demo: a.opt.Demo}})
	}
	if !a.throttle.allow(keys...) {
		c.Header("Retry-After", "20")
		again(http.StatusTooManyRequests, "Too many tries. Wait a little and try again.")
		return
	}
	if len(password) > maxPassword || len(email) > 254 {
		again(http.StatusUnprocessableEntity, "That e-mail or password is too long.")
		return
	}
	t, err := a.store.TeacherByEmail(c, email)
	hash := t.PasswordHash
	if errors.Is(err, store.ErrNotFound) {
		hash = nobodysHash()
	} else if err != nil {
		a.fail(c, err)
		return
	}
	if !checkPassword(hash, password) || err != nil {
		again(http.StatusUnprocessableEntity, "No account with this e-mail and password.")
		return
	}
	a.throttle.forget(keys[1])
	a.enter(c, t)
}

// enter signs a teacher in and goes where they wanted to go.
func (a *app) enter(c *gin.Context, t store.Teacher) {
	back := a.sessions.PopString(c, "back")
	if err := a.sessions.RenewToken(c); err != nil { // against session fixation
		a.fail(c, err)
		return
	}
	a.sessions.Put(c, "studio", t.StudioID)
	a.sessions.Put(c, "teacher", t.ID)
	if !strings.HasPrefix(back, "/") || strings.HasPrefix(back, "//") {
		back = "/"
	}
	c.Redirect(http.StatusSeeOther, back)
}

func (a *app) signOut(c *gin.Context) {
	if err := a.sessions.Destroy(c); err != nil {
		a.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/signin")
}

// startPage makes the first studio; it works only while there is none.
func (a *app) startPage(c *gin.Context) {
	there, err := a.store.AnyStudio(c)
	switch {
	case err != nil:
		a.fail(c, err)
	case there:
		a.problem(c, http.StatusNotFound, "There is no page at this address.")
	default:
		a.show(c, "start", "Make your studio", "", signInView{Zone: "UTC"})
	}
}

// newTeacher checks the fields of a new account; says is empty when they are right.
func newTeacher(c *gin.Context) (t store.Teacher, says string) {
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

func (a *app) start(c *gin.Context) {
	there, err := a.store.AnyStudio(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	if there {
		a.problem(c, http.StatusNotFound, "There is no page at this address.")
		return
	}
	st := store.Studio{ID: store.NewID(), Name: strings.TrimSpace(c.PostForm("studio")), Zone: strings.TrimSpace(c.PostForm("zone"))}
	t, says := newTeacher(c)
	if _, err := time.LoadLocation(st.Zone); err != nil || st.Zone == "" || st.Zone == "Local" {
		says = "The time zone is not one: it looks like Europe/Lisbon, or UTC."
	}
	if st.Name == "" || utf8.RuneCountInString(st.Name) > 120 {
		says = "The studio's name: from 1 to 120 characters."
	}
	again := func(status int, says string) {
		a.render(c, status, "start", "layout", page{Title: "Make your studio", Theme: "paper", Data: signInView{Email: t.Email, Name: t.Name, Studio: st.Name, Zone: st.Zone, Says: says}})
	}
	if says != "" {
		again(http.StatusUnprocessableEntity, says)
		return
	}
	switch err := a.store.CreateFirst(c, st, t); {
	case errors.Is(err, store.ErrTaken):
		a.problem(c, http.StatusNotFound, "There is a studio already.")
	case err != nil:
		a.fail(c, err)
	default:
		t.StudioID = st.ID
		a.enter(c, t)
	}
}
