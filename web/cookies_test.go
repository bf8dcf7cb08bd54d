package web_test

import (
	"math/rand/v2"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/web/webtest"
)

// Whatever is sent as a cookie or as an address is nobody's: no error of ours, nothing shown, nothing kept.
func TestOddCookiesAndHeaders(t *testing.T) {
	base, st := webtest.Site(t)
	good := webtest.Visit(t, base).SignIn(demo.Email)
	require.NotNil(t, good)
	var before, after int
	count := func(to *int) {
		require.NoError(t, st.DB.Get(to, `SELECT (SELECT count(*) FROM sessions) + (SELECT count(*) FROM known_devices)`))
	}
	count(&before)
	r := rand.New(rand.NewPCG(1, 1))
	odd := []string{"", "x", strings.Repeat("a", 32), strings.Repeat("A", 43), strings.Repeat("z", 4000), "%00", "a b", "'; DROP TABLE sessions; --", "\"q\"", "é"}
	for range 40 {
		b := make([]byte, 1+r.IntN(60))
		for i := range b {
			b[i] = byte(33 + r.IntN(90))
		}
		odd = append(odd, strings.NewReplacer(";", "", `"`, "", ",", "", `\`, "").Replace(string(b)))
	}
	for _, v := range odd {
		for _, path := range []string{"/", "/sessions/kiln-circuit", "/signin", "/account"} {
			q, err := http.NewRequest("GET", base+path, nil)
			require.NoError(t, err)
			q.Header.Set("Cookie", "wavekine="+v+"; wavekine-device="+v)
			q.Header.Set("X-Forwarded-For", v)
			q.Header.Set("X-Real-Ip", v)
			q.Header.Set("Hx-Current-Url", v)
			res, err := http.DefaultTransport.RoundTrip(q)
			require.NoError(t, err)
			_ = res.Body.Close()
			assert.Less(t, res.StatusCode, 500, "%q %s", v, path)
			if path != "/signin" {
				assert.Equal(t, http.StatusSeeOther, res.StatusCode, "%q %s", v, path)
			}
		}
	}
	count(&after)
	assert.Equal(t, before, after)
}
