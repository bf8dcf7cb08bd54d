package door

import (
	"context"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/store"
	"wavekine/web/kit"
)

// How often a password may be tried; judgement, but for the last. Somebody at a device from which they have signed in
// before has tries of their own, which a stranger elsewhere cannot use up (OWASP Authentication Cheat Sheet, device
// cookies). For everybody else: few for an account from one address, more for an address, and for an account from
// all addresses together 100 before it goes slowly (NIST SP 800-63B-4, 3.2.2: at most 100 consecutive failures).
var (
	perDevice  = store.Limit{Burst: 10, Every: 20 * time.Second}
	perAddress = store.Limit{Burst: 30, Every: 5 * time.Second}
	perBoth    = store.Limit{Burst: 6, Every: 20 * time.Second}
	perAccount = store.Limit{Burst: 100, Every: 5 * time.Minute}
)

// try is one try under one key.
type try struct {
	key   string
	limit store.Limit
}

// tries are the keys under which a try to sign in is counted, in the order in which they are asked: who is refused for
// their address leaves no trace under the account.
type tries []try

func triesOf(ip, email, device string, known bool) tries {
	if known {
		return tries{{"device " + device, perDevice}}
	}
	where, who := kit.AddressKey(ip), strings.ToLower(email)
	return tries{{"address " + where, perAddress}, {"both " + where + " " + who, perBoth}, {"account " + who, perAccount}}
}

// take takes one try under every key, and stops at the first that has none left.
func (ts tries) take(ctx context.Context, st *store.Store) (wait time.Duration, err error) {
	for _, t := range ts {
		if wait, err = st.Take(ctx, t.key, t.limit); wait > 0 || err != nil {
			return wait, err
		}
	}
	return 0, nil
}

// giveBack takes back the tries of a sign-in that was right: only its own, so that it lifts no limit.
func (ts tries) giveBack(ctx context.Context, st *store.Store) error {
	for _, t := range ts {
		if err := st.GiveBack(ctx, t.key, t.limit); err != nil {
			return err
		}
	}
	return nil
}

const deviceCookie = "wavekine-device"

// deviceOf is the secret of the browser that asks; empty where it has none, or none of ours.
func deviceOf(a *kit.Kit, c *gin.Context) string {
	v, err := c.Cookie(a.CookieName(deviceCookie))
	if err != nil || len(v) != len(store.NewSecret()) {
		return ""
	}
	return v
}

func setDevice(a *kit.Kit, c *gin.Context, device string) {
	http.SetCookie(c.Writer, &http.Cookie{
		Name: a.CookieName(deviceCookie), Value: device, Path: "/", MaxAge: 400 * 24 * 3600,
		HttpOnly: true, Secure: a.Opt.Secure, SameSite: http.SameSiteLaxMode,
	})
}
