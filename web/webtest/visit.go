package webtest

import (
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"wavekine/demo"
)

// Visitor is a client with cookies of its own that does not follow redirects.
type Visitor struct {
	t    testing.TB
	HTTP *http.Client
	Base string
}

// Visit is somebody without a browser, with cookies of their own.
func Visit(t testing.TB, base string) *Visitor {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &Visitor{t, &http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}, base}
}

// Do sends a request and gives status, body and headers of the answer; head are headers, name and value.
func (v *Visitor) Do(method, path string, form url.Values, head ...string) (int, string, http.Header) {
	v.t.Helper()
	var body io.Reader
	if form != nil {
		body = strings.NewReader(form.Encode())
	}
	r, err := http.NewRequest(method, v.Base+path, body)
	require.NoError(v.t, err)
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	for i := 0; i+1 < len(head); i += 2 {
		r.Header.Set(head[i], head[i+1])
	}
	res, err := v.HTTP.Do(r)
	require.NoError(v.t, err)
	defer func() { _ = res.Body.Close() }()
	b, err := io.ReadAll(res.Body)
	require.NoError(v.t, err)
	return res.StatusCode, string(b), res.Header
}

// SignIn signs in as a demo teacher.
func (v *Visitor) SignIn(email string) *Visitor {
	v.t.Helper()
	code, _, _ := v.Do("POST", "/signin", url.Values{"email": {email}, "password": {demo.Password}})
	require.Equal(v.t, http.StatusSeeOther, code)
	return v
}
