package web_test

import (
	"maps"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"wavekine/core/strict"
	"wavekine/demo"
)

// Every field of every form, with what no form should hold: NUL and other bytes that are no text, ids and numbers beyond
// everything, by every way a browser can send them. All of it is refused, none of it is our own fault, and everything
// stands afterwards.
func TestEveryFieldOfEveryForm(t *testing.T) {
	z, _ := newFuzz(t, 9)
	forms := z.forms()
	forms["/signin"] = func() (string, url.Values) {
		return "/signin", url.Values{"email": {"a@b.example"}, "password": {"x"}, "back": {"/"}}
	}
	bad := []string{"\x00", "a\x00b", "\xff\xfe", "\x1b[31m", "99999999999999999999", "-1", "9223372036854775808", "1e309", strings.Repeat("9", 400), "../../x", "{}", "\u202e\u2066"}
	forms["/link/:token"] = func() (string, url.Values) { return "/link/none", url.Values{"password": {"x"}} }
	own := []string{"password", "old_password", "text", "line", "dose"} // their readers point at the place themselves
	every := map[bool]int{true: 1, false: 3}[thorough()]                // else each field has some of them, by turns
	if testing.Short() {
		every = 9
	}
	sent, turn := 0, 0
	for _, name := range slices.Sorted(maps.Keys(forms)) {
		z.lib = libraryOf(t, z.st, "claybank") // what was made meanwhile is read too
		path, good := forms[name]()
		for _, field := range append(slices.Sorted(maps.Keys(good)), "rev", "to", "id", "over", "\x00", "a\xff") {
			if name == "/account/password" && field == "password" {
				continue // some of it is a good one, and nobody would come in afterwards
			}
			turn++
			for i, value := range bad {
				if (i+turn)%every > 0 {
					continue
				}
				f := maps.Clone(good)
				f[field] = []string{value}
				kind := []string{"", "multipart", "capital"}[(sent+i)%3]
				code, body := z.v.Form(path, f, kind)
				sent++
				assert.Less(t, code, 500, "%s %s %q %q: %.200s", kind, path, field, value, body)
				assert.GreaterOrEqual(t, code, 200)
				if strict.Hidden(value) >= 0 && !slices.Contains(own, field) && code < 400 {
					assert.Contains(t, []string{"/signout", "/account/signout"}, name, "%s %q %q was taken", kind, field, value)
				}
			}
		}
		if name == "/account/signout" || name == "/signout" {
			z.v.SignIn(demo.Email)
		}
	}
	assert.Greater(t, sent, 3000/every)
	for _, path := range []string{"/", "/sessions", "/series", "/movements", "/people", "/log", "/house", "/house/pace", "/account"} {
		code, body, _ := z.v.Do("GET", path, nil)
		assert.Equal(t, 200, code, "%s: %.200s", path, body)
	}
}
