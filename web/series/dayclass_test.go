package series_test

import (
	"net/url"
	"regexp"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

// From the board to the bench of a day, an edit there, taken to the later days after it was shown, undone; the day after by one key; another teacher's
// change of another day meanwhile is nothing to it, one of the same day is.
func TestADayOnTheBench(t *testing.T) {
	base, _ := webtest.Site(t)
	at := layBoard(t, base, boardBrief)
	id := strings.TrimPrefix(at, "/series/")
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + at)
	p.Until(`document.querySelectorAll('.day').length === 21`)
	p.Click(`.day[data-day="9"] .day-title a`)
	p.Until(`document.querySelector('#bench .of-day')?.textContent.includes('Day 9 of 21') && document.querySelectorAll('.row').length > 5`)
	assert.Contains(t, p.Text(".shaded"), "day 2, a week before")
	assert.Positive(t, browsertest.JS[float64](p, `document.querySelector('.w-behind').getBBox().width`))
	assert.Empty(t, p.Axe())
	assert.Contains(t, p.Text(".knowing"), "where everybody was there on the days before")
	whole, v := p.Text(".clock b"), webtest.Visit(t, base).SignIn(demo.Email)
	_, lead, _ := v.Do("GET", browsertest.JS[string](p, `new URL(document.querySelector('.knowing a').href).pathname + '?known=1'`), nil)
	_, usual, _ := v.Do("GET", browsertest.JS[string](p, `new URL(document.querySelector('.knowing a').href).pathname`), nil)
	total := regexp.MustCompile(`"total":(\d+)`)
	assert.Less(t, total.FindStringSubmatch(lead)[1], total.FindStringSubmatch(usual)[1], whole)
	p.Shot("day-bench")
	p.Click("[data-behind]")
	p.Until(`getComputedStyle(document.querySelector('.w-behind')).display === 'none'`)
	p.Click("[data-behind]")

	row := `Array.from(document.querySelectorAll('.row')).find(r => /^(Bird dog|Shoulder bridge|Side plank)/.test(r.querySelector('.name').textContent.trim()))`
	name := browsertest.JS[string](p, row+`.querySelector('.name a').textContent`)
	was := webtest.Rev(p)
	webtest.Run1(p, row+`.focus()`)
	p.Keys("k")
	webtest.Changed(p, was)
	p.Until(`document.querySelector('.carry')?.textContent.includes('` + name + `')`)
	was = webtest.Rev(p)
	webtest.Run1(p, `document.querySelector('[data-propose="carry&scope=from"]').click()`)
	p.Until(`document.querySelectorAll('#proposal .changes-list li').length > 2`)
	assert.NotContains(t, p.Text("#proposal"), "Day 9 ")
	p.Shot("day-carry")
	webtest.Run1(p, `document.querySelector('#proposal [data-take]').click()`)
	webtest.Changed(p, was)
	assert.Zero(t, browsertest.JS[int](p, `document.querySelectorAll('.carry').length`), "there is nothing more to take to other days")
	was = webtest.Rev(p)
	p.Keys("z", cdp.KeyModifiers(cdp.ModifierCtrl))
	webtest.Changed(p, was)

	// another teacher changes another day: nothing stands in the way
	v = webtest.Visit(t, base).SignIn(demo.Second)
	change := func(day, line string) {
		t.Helper()
		_, page, _ := v.Do("GET", "/sessions/"+id+"."+day, nil)
		_, rest, _ := strings.Cut(page, `data-rev="`)
		now, _, _ := strings.Cut(rest, `"`)
		code, body := v.Form("/sessions/"+id+"."+day+"/edit", url.Values{"op": {"add"}, "line": {line}, "rev": {now}}, "")
		require.Equal(t, 200, code, body)
	}
	was = webtest.Rev(p)
	change("12", "teaser 3")
	webtest.Run1(p, row+`.focus()`)
	p.Keys("k")
	webtest.Changed(p, was)
	assert.Empty(t, p.Text("#message"))
	change("9", "teaser 3")
	webtest.Run1(p, row+`.focus()`)
	p.Keys("k")
	p.Until(`document.querySelector('#message').textContent.includes('Changed by somebody else meanwhile')`)
	assert.True(t, p.Expect("409"))
	webtest.Run1(p, `document.querySelector('[data-again]').click()`)
	p.Until(`document.querySelector('#bench').textContent.includes('Teaser')`)

	for _, turn := range [][2]string{{".", "Day 10 of 21"}, {",", "Day 9 of 21"}, {",", "Day 8 of 21"}} {
		p.Keys(turn[0])
		p.Until(`document.readyState === 'complete' && document.querySelector('.of-day')?.textContent.includes('` + turn[1] + `')`)
	}
}

// What is asked of days that have no class, or are not there.
func TestDaysThatAreNotThere(t *testing.T) {
	base, _ := webtest.Site(t)
	at := layBoard(t, base, "7 days from 4 january 2027, 12 min, hips, no kit, rest day 4")
	id := "/sessions/" + strings.TrimPrefix(at, "/series/")
	v := webtest.Visit(t, base).SignIn(demo.Email)
	for tail, says := range map[string]string{".4": "Day 4 is a rest day", ".8": "has no day 8", ".0": "not here", ".01": "not here", ".x": "not here", ".4/lead": "rest day", ".9/export?as=csv": "no day 9"} {
		code, body, _ := v.Do("GET", id+tail, nil)
		assert.Equal(t, 404, code, tail)
		assert.Contains(t, body, says, tail)
	}
	for _, tail := range []string{".1/lead", ".1/print", ".1/print?for=mover", ".1/export?as=pdf", ".1/export?as=csv", ".1/export?as=markdown", ".1/export?as=json", ".1/compare", ".1/options", ".1/history"} {
		code, body, _ := v.Do("GET", id+tail, nil)
		assert.Equal(t, 200, code, tail+body)
	}
}
