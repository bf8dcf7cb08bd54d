package web_test

import (
	"io/fs"
	"net/http"
	"net/url"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/web/webtest"
)

// What was archived is listed apart and brought back as it was: sessions and series.
func TestArchivingAndBringingBack(t *testing.T) {
	base, _ := webtest.Site(t)
	v, other := webtest.Visit(t, base).SignIn(demo.Email), webtest.Visit(t, base).SignIn(demo.Second)
	for kind, id := range map[string]string{"/sessions": "kiln-circuit", "/series": "off-the-wheel"} {
		list := func() (listed, archived bool) {
			_, page, _ := v.Do("GET", kind, nil)
			before, after, _ := strings.Cut(page, `id="archived"`)
			return strings.Contains(before, `href="`+kind+"/"+id+`"`), strings.Contains(after, kind+"/"+id+"/unarchive")
		}
		listed, archived := list()
		require.True(t, listed && !archived, kind)
		code, _, _ := v.Do("POST", kind+"/"+id+"/archive", nil)
		require.Equal(t, http.StatusSeeOther, code)
		listed, archived = list()
		assert.True(t, !listed && archived, kind)
		code, _, _ = other.Do("POST", kind+"/"+id+"/archive", nil)
		assert.Equal(t, http.StatusNotFound, code, "it is archived already")
		code, _, _ = v.Do("GET", kind+"/"+id, nil)
		assert.Equal(t, http.StatusOK, code, "its address still opens it")
		code, _, _ = other.Do("POST", kind+"/"+id+"/unarchive", nil)
		require.Equal(t, http.StatusSeeOther, code)
		listed, archived = list()
		assert.True(t, listed && !archived, kind)
	}
	code, _, _ := v.Do("POST", "/sessions/kiln-circuit/edit", url.Values{"op": {"note"}, "at": {"1.1.1"}, "note": {"x"}, "rev": {"1"}}, "HX-Request", "true")
	assert.Equal(t, http.StatusOK, code, "and it is at the revision at which it was")
}

// Every licence text of the tree is served, without the database and without signing in.
func TestLicencesAreServed(t *testing.T) {
	base, _ := webtest.Site(t)
	code, text, h := webtest.Visit(t, base).Do("GET", "/licences", nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, h.Get("Content-Type"), "text/plain")
	files, err := fs.Glob(os.DirFS("licences"), "*.txt")
	require.NoError(t, err)
	require.Greater(t, len(files), 40)
	for _, f := range files {
		own, err := os.ReadFile("licences/" + f)
		require.NoError(t, err)
		assert.Contains(t, text, strings.TrimSpace(string(own)), f)
	}
	for _, words := range []string{"SIL OPEN FONT LICENSE", "htmx.org", "gin-gonic/gin", "The Go Authors", "zxcvbn"} {
		assert.Contains(t, strings.ToLower(text), strings.ToLower(words))
	}
}
