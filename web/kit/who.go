package kit

import (
	"encoding/json"
	"errors"
	"net/http"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"golang.org/x/time/rate"

	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/store"
)

const signInsBurst = 6

const signInsEvery = 20 * time.Second

// throttle lets a few sign-ins through for each address and each account, then slows down.
type throttle struct {
	mu  sync.Mutex
	by  map[string]*rate.Limiter
	max int
}

func newThrottle() *throttle { return &throttle{by: map[string]*rate.Limiter{}, max: 20000} }

// Allow tells whether another try may be made under each of the keys.
func (t *throttle) Allow(keys ...string) bool {
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

// Forget takes back what was counted under the keys.
func (t *throttle) Forget(keys ...string) {
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

// Who is who has signed in; nil where nobody has.
func Who(c *gin.Context) *signedIn {
	v, ok := c.Get(whoKey)
	if !ok {
		return nil
	}
	return v.(*signedIn)
}

// MustSignIn lets only signed-in teachers through; others are sent to sign in and come back.
func (a *Kit) MustSignIn(c *gin.Context) {
	studio, id := a.Sessions.GetString(c, "studio"), a.Sessions.GetString(c, "teacher")
	if id != "" {
		t, st, err := a.Store.SignedIn(c, studio, id)
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
			c.Abort()
			return
		}
	}
	there, err := a.Store.AnyStudio(c)
	if err != nil {
		a.Fail(c, err)
		c.Abort()
		return
	}
	to := "/signin"
	if !there {
		to = "/start"
	}
	switch {
	case IsPart(c):
		c.Header("HX-Redirect", to)
		c.AbortWithStatus(http.StatusUnauthorized)
	case c.Request.Method != http.MethodGet:
		a.Problem(c, http.StatusUnauthorized, "Sign in first.")
	default:
		if c.Request.URL.Path != "/" {
			a.Sessions.Put(c, "back", c.Request.URL.RequestURI())
		}
		c.Redirect(http.StatusSeeOther, to)
		c.Abort()
	}
}
