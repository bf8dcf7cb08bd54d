package bench_test

import (
	"context"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
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

// A movement that the library lacks is read from its name as it is typed, marked, and put right in place.
func TestAMovementIsReadFromItsName(t *testing.T) {
	url, _ := webtest.Site(t)
	p := openBench(t, url, demo.Email, "kiln-circuit")
	webtest.Press(p, "/")
	p.Keys("kneeling leg sweeps with a band 8-10 each side")
	p.Until(`document.querySelector('#understood')?.textContent.includes('read from its name: kneeling · each side')`)
	p.Shot("named-typed")
	was := webtest.Rev(p)
	p.Keys(kb.Enter)
	webtest.Changed(p, was)
	p.Until(`Array.from(document.querySelectorAll('.row')).some(r => r.textContent.includes("Kneeling leg sweeps") && r.querySelector('[data-named]'))`)
	webtest.Run1(p, `Array.from(document.querySelectorAll('.row [data-named]'))[0].click()`)
	p.Until(`document.activeElement.closest('[data-named-row]')`)
	p.Shot("named-panel")
	assert.Empty(t, p.Axe())
	assert.Contains(t, p.Text("#named"), "nobody has said: posture, sides")
	was = webtest.Rev(p)
	webtest.Run1(p, `const f = document.querySelector('[data-named-row]'); f.querySelector('[name=spine]').value = 'side'; f.requestSubmit()`)
	webtest.Changed(p, was)
	p.Until(`document.querySelector('#named [name=spine]')?.value === 'side' && !document.querySelector('#named').textContent.includes('spine,')`)
	was = webtest.Rev(p)
	webtest.Run1(p, `document.querySelector('[data-named-row] [data-all]').click()`)
	webtest.Changed(p, was)
	p.Until(`!document.querySelector('.row [data-named]') && document.querySelector('#named').textContent.includes('all of it is said')`)
}
