package bench_test

import (
	"context"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/web/webtest"
)

// Who is on the list could not be read: the second look says so, and does not keep it for later.
func TestAListThatCannotBeReadIsMissing(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	_, err := st.DB.ExecContext(context.Background(), `ALTER TABLE movers RENAME TO movers_away`)
	require.NoError(t, err)
	_, page, _ := v.Do("GET", "/sessions/thursday-mat", nil)
	assert.Contains(t, page, "Who is on the list could not be read")
	assert.Contains(t, page, "does not mean that there are none")
	assert.NotContains(t, page, "watches knees")
	_, err = st.DB.ExecContext(context.Background(), `ALTER TABLE movers_away RENAME TO movers`)
	require.NoError(t, err)
	_, page, _ = v.Do("GET", "/sessions/thursday-mat", nil)
	assert.NotContains(t, page, "could not be read")
	assert.Contains(t, page, "watches knees")
	assert.NotContains(t, page, "kinder levels", "no mend for cautions until they can be trusted")
}

// A first side that goes by the day is that of the day on every sheet and export, as it is for leading; the document
// itself stays as it is.
func TestTheFirstSideOfTheDayOnPaper(t *testing.T) {
	base, _ := webtest.Site(t) // the session is day 5 of a series today
	v := webtest.Visit(t, base).SignIn(demo.Email)
	head := func(first string) {
		_, page, _ := v.Do("GET", "/sessions/wheel-side-hips", nil)
		rev := regexp.MustCompile(`data-rev="(\d+)"`).FindStringSubmatch(page)[1]
		code, body, _ := v.Do("POST", "/sessions/wheel-side-hips/edit", url.Values{"op": {"head"}, "first": {first}, "rev": {rev}}, "HX-Request", "true")
		require.Equal(t, 200, code, body)
	}
	all := func() map[string]string {
		out := map[string]string{}
		for _, at := range []string{"print", "print?for=mover", "export?as=csv", "export?as=markdown", "lead"} {
			code, body, _ := v.Do("GET", "/sessions/wheel-side-hips/"+at, nil)
			require.Equal(t, 200, code, at)
			out[at] = body
		}
		return out
	}
	sides := func(page string) string { // the order in which the sides are named
		return strings.Join(regexp.MustCompile(`right, left|left, right|"side":"(?:right|left)"`).FindAllString(page, -1), " ")
	}
	head("right")
	right := all()
	head("left")
	left := all()
	head("by day") // an odd day
	byDay := all()
	for at := range right {
		assert.Equal(t, sides(right[at]), sides(byDay[at]), at)
	}
	for _, at := range []string{"print", "lead"} {
		assert.NotEqual(t, sides(right[at]), sides(left[at]), at)
	}
	_, doc, _ := v.Do("GET", "/sessions/wheel-side-hips/export?as=json", nil)
	assert.Contains(t, doc, `"first_side": "by day"`)
}
