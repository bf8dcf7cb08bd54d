package door_test

import (
	"context"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/store"
	"wavekine/store/storetest"
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

func try(v *webtest.Visitor, email, password string, head ...string) (int, http.Header) {
	code, _, h := v.Do("POST", "/signin", url.Values{"email": {email}, "password": {password}}, head...)
	return code, h
}

// exhaust tries wrong passwords until no more is let through.
func exhaust(t *testing.T, v *webtest.Visitor, email string, head ...string) {
	t.Helper()
	for range 200 {
		if code, h := try(v, email, "wrong wrong wrong wrong", head...); code == http.StatusTooManyRequests {
			assert.NotEmpty(t, h.Get("Retry-After"))
			return
		}
	}
	t.Fatal("a stranger may try for ever")
}

// A stranger who tries passwords is slowed down, and the teacher comes in all the same: where they have signed in before,
// and from another address.
func TestStrangerLocksNobodyOut(t *testing.T) {
	st := storetest.New(t)
	_, err := demo.Load(context.Background(), st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	base := webtest.ServeWith(t, st, kit.Options{Proxies: []string{"127.0.0.1"}})
	other := webtest.ServeWith(t, st, kit.Options{Proxies: []string{"127.0.0.1"}}) // another instance of the same
	teacher := webtest.Visit(t, base)
	code, _ := try(teacher, demo.Email, demo.Password, "X-Forwarded-For", "203.0.113.7")
	require.Equal(t, http.StatusSeeOther, code)
	teacher.Do("POST", "/signout", nil)

	stranger := webtest.Visit(t, base)
	exhaust(t, stranger, demo.Email, "X-Forwarded-For", "203.0.113.7")
	code, _ = try(stranger, demo.Email, demo.Password, "X-Forwarded-For", "203.0.113.7")
	assert.Equal(t, http.StatusTooManyRequests, code, "the right password is no way around")
	code, _ = try(webtest.Visit(t, other), demo.Email, "wrong wrong wrong wrong", "X-Forwarded-For", "203.0.113.7")
	assert.Equal(t, http.StatusTooManyRequests, code, "instances share the count")
	code, _ = try(webtest.Visit(t, base), strings.ToUpper(demo.Email), "wrong wrong wrong wrong", "X-Forwarded-For", "203.0.113.7")
	assert.Equal(t, http.StatusTooManyRequests, code, "however the e-mail is written")

	code, _ = try(teacher, demo.Email, demo.Password, "X-Forwarded-For", "203.0.113.7")
	assert.Equal(t, http.StatusSeeOther, code, "at the same address, in the browser in which they were before")
	code, _ = try(webtest.Visit(t, base), demo.Email, demo.Password, "X-Forwarded-For", "198.51.100.9")
	assert.Equal(t, http.StatusSeeOther, code, "in a new browser at another address")
	code, _ = try(webtest.Visit(t, base), demo.Second, demo.Password, "X-Forwarded-For", "203.0.113.7")
	assert.Equal(t, http.StatusSeeOther, code, "somebody else at that address")
}

// Neither another account's right password nor a new link lifts a limit, nor does a flood of other names.
func TestNothingLiftsALimit(t *testing.T) {
	base, st := webtest.Site(t)
	stranger := webtest.Visit(t, base)
	exhaust(t, stranger, demo.Email)
	require.NoError(t, st.MakeLink(context.Background(), "claybank", "tobias", "a-link-for-tobias", "maren", 1e12))
	code, _, _ := webtest.Visit(t, base).Do("POST", "/link/a-link-for-tobias", url.Values{"password": {"three odd kettles"}})
	require.Equal(t, http.StatusSeeOther, code)
	code, _ = try(webtest.Visit(t, base), demo.Second, "three odd kettles")
	require.Equal(t, http.StatusSeeOther, code)
	require.NoError(t, st.CleanDoor(context.Background()))
	code, _ = try(stranger, demo.Email, "wrong wrong wrong wrong")
	assert.Equal(t, http.StatusTooManyRequests, code)
	last := 0
	for n := range 60 { // other names from one address: the address itself is slowed down, and nothing more is kept
		last, _ = try(webtest.Visit(t, base), strings.Repeat("n", n+1)+"@example.org", "wrong wrong wrong wrong")
	}
	assert.Equal(t, http.StatusTooManyRequests, last)
	var rows int
	require.NoError(t, st.DB.Get(&rows, `SELECT count(*) FROM tries`))
	assert.Less(t, rows, 80, "who is refused for their address leaves no trace under the names")
	code, _ = try(stranger, demo.Email, "wrong wrong wrong wrong")
	assert.Equal(t, http.StatusTooManyRequests, code)
}

// Only a proxy that is named is believed about addresses.
func TestAddressesBehindProxies(t *testing.T) {
	st := storetest.New(t)
	_, err := demo.Load(context.Background(), st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	base := webtest.ServeStore(t, st)
	for n := range 60 {
		code, _ := try(webtest.Visit(t, base), demo.Email, "wrong wrong wrong wrong", "X-Forwarded-For", "203.0.113."+strings.Repeat("1", 1+n%2)+string(rune('0'+n%10)))
		if code == http.StatusTooManyRequests {
			return
		}
	}
	t.Fatal("anybody may say to be anybody")
}

// What comes without signing in is small, before anything of it is read or kept; a page asked for is not kept at all.
func TestNobodyLeavesNothing(t *testing.T) {
	base, st := webtest.Site(t)
	nobody := webtest.Visit(t, base)
	rows := func() (n int) {
		require.NoError(t, st.DB.Get(&n, `SELECT (SELECT count(*) FROM sessions) + (SELECT count(*) FROM tries) + (SELECT count(*) FROM known_devices)`))
		return n
	}
	before := rows()
	for _, path := range []string{"/sessions/" + strings.Repeat("x", 60000), "/log?" + strings.Repeat("y", 60000), "/sessions", "/nowhere", "/signin", "/link/none", "/static/none", "/metrics"} {
		code, _, h := nobody.Do("GET", path, nil)
		assert.Less(t, code, 500, path[:min(30, len(path))])
		assert.Less(t, len(h.Get("Location")), 600)
		assert.Empty(t, h.Values("Set-Cookie"), path[:min(30, len(path))])
	}
	assert.Equal(t, before, rows())
	huge := strings.Repeat("z", 5<<20)
	for _, f := range []url.Values{{"email": {huge}, "password": {"x"}}, {"email": {demo.Email}, "password": {huge}}, {"email": {strings.Repeat("z", 9000)}, "password": {"x"}}, {"email": {"a@b.example"}, "password": {strings.Repeat("z", 9000)}}, {"back": {huge}}} {
		code, body, _ := nobody.Do("POST", "/signin", f)
		assert.Contains(t, []int{http.StatusRequestEntityTooLarge, http.StatusUnprocessableEntity}, code)
		assert.NotContains(t, body, "zzzzzzzzzz")
	}
	assert.Equal(t, before, rows(), "lengths are looked at before anything is kept")
	code, _, _ := nobody.Do("POST", "/sessions/import", url.Values{"text": {huge}})
	assert.Equal(t, http.StatusUnauthorized, code)
}

// After signing in one is where one wanted to go, within this site.
func TestComingBack(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base)
	code, _, h := v.Do("GET", "/sessions/kiln-circuit?a=1", nil)
	require.Equal(t, http.StatusSeeOther, code)
	require.Equal(t, "/signin?back=%2Fsessions%2Fkiln-circuit%3Fa%3D1", h.Get("Location"))
	_, page, _ := v.Do("GET", h.Get("Location"), nil)
	assert.Contains(t, page, `name="back" value="/sessions/kiln-circuit?a=1"`)
	code, page, _ = v.Do("POST", "/signin", url.Values{"email": {demo.Email}, "password": {"wrong wrong"}, "back": {"/log"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, page, `name="back" value="/log"`, "kept over a mistake")
	_, _, h = v.Do("GET", "/log", nil, "HX-Request", "true", "HX-Current-URL", base+"/sessions/kiln-circuit")
	assert.Equal(t, "/signin?back=%2Fsessions%2Fkiln-circuit", h.Get("HX-Redirect"), "a part of a page comes back to the page")
	for back, want := range map[string]string{
		"/log": "/log", "": "/", "log": "/", "//elsewhere.example/x": "/x", "/\\elsewhere.example": "/%5Celsewhere.example", "https://elsewhere.example/log": "/log", "javascript:alert(1)": "/",
		"/%2F/elsewhere.example": "/", "/x\r\nSet-Cookie: a=b": "/", "/signin?back=/log": "/", "/" + strings.Repeat("x", 600): "/", "/%5Celsewhere.example": "/%5Celsewhere.example", "///elsewhere.example": "/",
	} {
		code, _, h := webtest.Visit(t, base).Do("POST", "/signin", url.Values{"email": {demo.Email}, "password": {demo.Password}, "back": {back}})
		if code == http.StatusUnprocessableEntity { // a character that no form may hold
			continue
		}
		require.Equal(t, http.StatusSeeOther, code, back)
		assert.Equal(t, want, h.Get("Location"), back)
	}
}

// Over https the browser is told to stay with it, and cookies say so.
func TestOverTLS(t *testing.T) {
	st := storetest.New(t)
	_, err := demo.Load(context.Background(), st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	v := webtest.Visit(t, webtest.ServeWith(t, st, kit.Options{Secure: true}))
	code, _, h := v.Do("POST", "/signin", url.Values{"email": {demo.Email}, "password": {demo.Password}})
	require.Equal(t, http.StatusSeeOther, code)
	assert.Equal(t, "max-age=31536000", h.Get("Strict-Transport-Security"))
	require.Len(t, h.Values("Set-Cookie"), 2)
	for _, c := range h.Values("Set-Cookie") {
		assert.True(t, strings.HasPrefix(c, "__Host-wavekine"), c)
		assert.Contains(t, c, "; Secure")
		assert.Contains(t, c, "; HttpOnly")
		assert.Contains(t, c, "Path=/;")
		assert.NotContains(t, c, "Domain=")
	}
	_, _, h = webtest.Visit(t, webtest.ServeStore(t, st)).Do("GET", "/signin", nil)
	assert.Empty(t, h.Get("Strict-Transport-Security"))
}

// Tokens, links and devices are stored as hashes: who reads the database cannot come in.
func TestSecretsAreStoredHashed(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	u, _ := url.Parse(base)
	secrets := 0
	for _, c := range v.HTTP.Jar.Cookies(u) {
		secrets++
		var n int
		require.NoError(t, st.DB.Get(&n, `SELECT (SELECT count(*) FROM sessions WHERE token = $1 OR encode(data, 'escape') LIKE '%' || $1 || '%') + (SELECT count(*) FROM known_devices WHERE encode(device_hash, 'escape') = $1)`, c.Value))
		assert.Zero(t, n, c.Name)
	}
	assert.Equal(t, 2, secrets)
	var token string
	require.NoError(t, st.DB.Get(&token, `SELECT token FROM sessions LIMIT 1`))
	r, err := http.NewRequest("GET", base+"/", nil)
	require.NoError(t, err)
	r.AddCookie(&http.Cookie{Name: "wavekine", Value: token})
	res, err := webtest.Visit(t, base).HTTP.Do(r)
	require.NoError(t, err)
	_ = res.Body.Close()
	assert.Equal(t, http.StatusSeeOther, res.StatusCode, "what is stored opens nothing")
}

// An owner says who the teachers are; a teacher does everything else. Nobody types another's password.
func TestOwnersAndTeachers(t *testing.T) {
	base, st := webtest.Site(t)
	owner, teacher := webtest.Visit(t, base).SignIn(demo.Email), webtest.Visit(t, base).SignIn(demo.Second)
	for _, path := range []string{"/house/teachers", "/house/teachers/maren/link", "/house/teachers/maren/role", "/house/teachers/maren/remove", "/house/teachers/maren/return"} {
		code, body, _ := teacher.Do("POST", path, url.Values{"name": {"X"}, "email": {"x@claybank.example"}, "role": {"teacher"}})
		assert.Equal(t, http.StatusForbidden, code, path)
		assert.Contains(t, body, "Only an owner")
	}
	_, page, _ := teacher.Do("GET", "/house", nil)
	assert.NotContains(t, page, "Add a teacher")
	assert.Contains(t, page, "Tobias Quill")
	code, _, _ := teacher.Do("POST", "/house", url.Values{"rev": {"1"}, "name": {"Claybank"}})
	assert.Equal(t, http.StatusSeeOther, code, "the settings are everybody's")

	code, page, _ = owner.Do("POST", "/house/teachers", url.Values{"name": {"Nell Ash"}, "email": {"nell@claybank.example"}, "password": {"set by somebody else"}})
	require.Equal(t, http.StatusOK, code)
	link := linkIn(t, page, base)
	code, _ = try(webtest.Visit(t, base), "nell@claybank.example", "set by somebody else")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	nell := webtest.Visit(t, base)
	for range 3 { // programs that preview links look at them
		code, page, _ := nell.Do("GET", link, nil)
		require.Equal(t, http.StatusOK, code)
		assert.Contains(t, page, "For Nell Ash, of Claybank")
	}
	code, page, _ = nell.Do("POST", link, url.Values{"password": {"nell@claybank.example"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, page, "easy to guess")
	code, _, h := nell.Do("POST", link, url.Values{"password": {"three odd kettles"}})
	require.Equal(t, http.StatusSeeOther, code)
	assert.Equal(t, "/", h.Get("Location"))
	code, _, _ = nell.Do("GET", "/sessions", nil)
	assert.Equal(t, http.StatusOK, code, "the link signs in")
	for _, method := range []string{"GET", "POST"} {
		code, page, _ := webtest.Visit(t, base).Do(method, link, url.Values{"password": {"another odd kettle"}})
		assert.Equal(t, http.StatusNotFound, code, "once")
		assert.Contains(t, page, "This link opens nothing")
	}

	code, _, _ = owner.Do("POST", "/house/teachers/tobias/role", url.Values{"role": {"owner"}})
	require.Equal(t, http.StatusSeeOther, code)
	code, _, _ = teacher.Do("POST", "/house/teachers/maren/remove", nil)
	require.Equal(t, http.StatusSeeOther, code)
	code, _, h = owner.Do("GET", "/sessions", nil)
	assert.Equal(t, http.StatusSeeOther, code, "who was removed is out at once")
	assert.Contains(t, h.Get("Location"), "/signin")
	code, _ = try(webtest.Visit(t, base), demo.Email, demo.Password)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	_, page, _ = teacher.Do("GET", "/sessions/kiln-circuit/history", nil)
	assert.Contains(t, page, "Maren", "their work stays, with their name")
	_, page, _ = teacher.Do("GET", "/log", nil)
	assert.Contains(t, page, "Maren")
	code, page, _ = teacher.Do("POST", "/house/teachers/tobias/remove", nil)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, page, "needs an owner")
	code, page, _ = teacher.Do("POST", "/house/teachers/maren/return", nil)
	require.Equal(t, http.StatusOK, code)
	code, _, _ = webtest.Visit(t, base).Do("POST", linkIn(t, page, base), url.Values{"password": {"back at the wheel again"}})
	assert.Equal(t, http.StatusSeeOther, code)
	code, _ = try(webtest.Visit(t, base), demo.Email, "back at the wheel again")
	assert.Equal(t, http.StatusSeeOther, code)
	ts, err := st.Teachers(context.Background(), "claybank")
	require.NoError(t, err)
	for _, x := range ts {
		if x.ID == "maren" {
			assert.Equal(t, store.AsTeacher, x.Role, "back as a teacher")
		}
	}
}

func linkIn(t *testing.T, page, base string) string {
	t.Helper()
	_, rest, ok := strings.Cut(page, `value="`+base+`/link/`)
	require.True(t, ok, "the link is shown")
	token, _, _ := strings.Cut(rest, `"`)
	return "/link/" + token
}

// Changing the password ends every other sign-in; so does signing out everywhere. Guessing the old one is slowed down.
func TestPasswordAndSigningOutEverywhere(t *testing.T) {
	base, _ := webtest.Site(t)
	here, there := webtest.Visit(t, base).SignIn(demo.Email), webtest.Visit(t, base).SignIn(demo.Email)
	in := func(v *webtest.Visitor) bool {
		code, _, _ := v.Do("GET", "/account", nil)
		return code == http.StatusOK
	}
	change := func(old, to string) (int, string) {
		code, body, _ := here.Do("POST", "/account/password", url.Values{"old_password": {old}, "password": {to}})
		return code, body
	}
	require.True(t, in(here) && in(there))
	for to, says := range map[string]string{
		"short": "from 15 to 128 characters", strings.Repeat("x", 129): "from 15 to 128 characters", strings.Repeat("ab cd ef ", 300): "too long",
		"passwordpassword": "easy to guess", "maren@claybank.example": "easy to guess", "marenmarenmaren!": "easy to guess", "claybank pottery": "easy to guess",
	} {
		code, body := change(demo.Password, to)
		assert.Equal(t, http.StatusUnprocessableEntity, code, to)
		assert.Contains(t, body, says, to)
	}
	code, body := change("not the old one at all", "quiet lamps on stairs")
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, body, "not your password until now")
	require.True(t, in(here) && in(there), "nothing was changed")
	code, _ = change(demo.Password, "quiet lamps on stairs")
	require.Equal(t, http.StatusSeeOther, code)
	assert.True(t, in(here))
	assert.False(t, in(there), "elsewhere one is out")
	code, _ = try(webtest.Visit(t, base), demo.Email, demo.Password)
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	code, _ = try(there, demo.Email, "quiet lamps on stairs")
	require.Equal(t, http.StatusSeeOther, code)
	code, _, _ = here.Do("POST", "/account/signout", nil)
	require.Equal(t, http.StatusSeeOther, code)
	assert.True(t, in(here))
	assert.False(t, in(there))
	for range 40 {
		if code, _ = change("guess guess guess guess", "another quiet lamp"); code == http.StatusTooManyRequests {
			break
		}
	}
	assert.Equal(t, http.StatusTooManyRequests, code)
	composed, decomposed := "caf\u00e9 with two spoons", "cafe\u0301 with two spoons"
	v := webtest.Visit(t, base).SignIn(demo.Second)
	code, _, _ = v.Do("POST", "/account/password", url.Values{"old_password": {demo.Password}, "password": {composed}})
	require.Equal(t, http.StatusSeeOther, code)
	code, _ = try(webtest.Visit(t, base), demo.Second, decomposed)
	assert.Equal(t, http.StatusSeeOther, code, "however a keyboard puts its letters together")
}
