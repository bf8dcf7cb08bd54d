package series_test

import (
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/run"
	"wavekine/demo"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

// A series is kept as a pattern, started again from it, takes a week of another after it was shown, and two who did it are seen side by side.
func TestASeriesIsUsedAgain(t *testing.T) {
	base, _ := webtest.Site(t)
	at := layBoard(t, base, "14 days from 11 may 2026, 12 min, hips, no kit, rest sundays, learn bird dog")
	layBoard(t, base, "7 days from 1 june 2026, 12 min, core, no kit, learn side plank")
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + at)
	p.Until(`document.querySelectorAll('.day').length === 14 && document.querySelector('#over').children.length > 0`)
	webtest.Run1(p, `document.querySelector('form[action$="/pattern"] [name=title]').value = 'Hips, two weeks'; document.querySelector('form[action$="/pattern"]').requestSubmit()`)
	p.Until(`location.pathname === '/series' && document.querySelector('#patterns') && document.body.textContent.includes('14 days, 12 with a class')`)
	assert.Empty(t, p.Axe())
	p.Shot("patterns")
	webtest.Run1(p, `document.querySelector('form[action$="/start"] [name=start]').value = '2026-07-01'; document.querySelector('form[action$="/start"] [name=title]').value = 'July hips'; document.querySelector('form[action$="/start"]').requestSubmit()`)
	p.Until(`document.querySelector('#title')?.value === 'July hips' && document.querySelectorAll('.day').length === 14`)
	assert.Contains(t, p.Text(`.day[data-day="5"]`), "Sun 5 Jul")
	assert.Contains(t, p.Text(`.day[data-day="5"]`), "rest", "the sundays are days of rest again")
	assert.Contains(t, p.Text(`.day[data-day="6"]`), "6 Mon 6 Jul hips", "called by the number that it has now")

	webtest.Run1(p, `document.querySelector('details.plain summary').click()`)
	p.Until(`document.querySelectorAll('select[name=of] option').length > 2`)
	assert.Contains(t, p.Text("select[name=of]"), "the best")
	webtest.Run1(p, `const s = document.querySelector('select[name=of]'); s.value = Array.from(s.options).find(o => o.parentNode.label?.startsWith('7 days')).value; s.form.querySelector('[name=day]').value = 8; Array.from(s.form.querySelectorAll('button')).find(b => b.value === 'take-week').click()`)
	p.Until(`document.querySelector('#panel .changes')?.innerText.includes('Day 8')`)
	p.Shot("take-week")
	assert.Empty(t, p.Axe())
	webtest.Run1(p, `Array.from(document.querySelectorAll('#panel button')).find(b => b.textContent === 'Take it').click()`)
	p.Until(`document.querySelectorAll('.day').length === 22 || document.querySelectorAll('.day').length === 21`)
	assert.Equal(t, "side-plank", browsertest.JS[string](p, `document.querySelector('button.m-cell[data-row="side-plank"]')?.dataset.row || ''`), "what is learned comes along")

	// day 4 of the first is led on time, as Maren does it; another group does it in June
	v := webtest.Visit(t, base).SignIn(demo.Email)
	code, body, _ := v.Do("POST", at+"/groups", url.Values{"name": {"May"}, "start": {"2026-05-11"}}, "HX-Request", "true")
	require.Equal(t, 200, code, body)
	code, body, _ = v.Do("POST", at+"/groups", url.Values{"name": {"June"}, "start": {"2026-06-08"}}, "HX-Request", "true")
	require.Equal(t, 200, code, body)
	r := webtest.HandLed(webtest.LeadRun(t, v, strings.Replace(at, "/series/", "/sessions/", 1)+".4"), func(*run.Step) float64 { return 1.2 })
	code, says := webtest.Sent(t, v, r)
	require.Equal(t, 200, code, says)
	p.Go(base + at + "/runs")
	p.Until(`document.querySelector('.runs-table')?.textContent.includes('over')`)
	assert.Contains(t, p.Text(".runs-table tfoot"), "1 of 12 led")
	assert.Contains(t, p.Text(".runs-table tfoot"), "0 of 12 led")
	assert.Empty(t, p.Axe())
	p.Shot("two-runs")
}
