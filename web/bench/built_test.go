package bench_test

import (
	"fmt"
	"path"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"

	"wavekine/demo"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

// A class is built from the keyboard: several rows in one line, a build up in one line, a turn, a flow; what is said of a row, a block and a section is changed
// in clauses, a wrong one loses nothing, a reload neither; a line that nobody understood is mended in its place. It is led with its parts.
func TestHowAClassIsBuilt(t *testing.T) {
	url, st := webtest.Site(t)
	v := webtest.Visit(t, url).SignIn(demo.Email)
	id := path.Base(webtest.NewSession(t, v, "All fours on thursday", "20:00"))
	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	p.Go(url + "/sessions/" + id)
	p.Until(`window.htmx && document.readyState === 'complete'`)
	type1 := func(line, understood string) {
		n := webtest.Rev(p)
		p.Click("#add")
		p.Keys(line)
		p.Until(fmt.Sprintf(`document.querySelector('#understood').textContent.includes(%q)`, understood))
		p.Keys(kb.Enter)
		webtest.Changed(p, n)
	}
	names := func() string { return rowNames(p) }
	type1("cat cow 5, child's pose 3 breaths", "2 rows")
	type1("build up kickback 8, + hydrant 6, + bird dog 5 + 10 pulses", "3 rows")
	type1("+ thread the needle 4", "Thread the needle")
	type1("roll up to stand", "Roll up to stand")
	type1("squat 8", "Squat")
	assert.Equal(t, "Cat and cow, Child's pose, Bent-knee kickback, Hydrant, Bird dog, Thread the needle, Roll up to stand, Squat", names())
	assert.Equal(t, "Build up", p.Text(".rule b"))
	p.Shot("built-1")

	// The first two become a flow; what is said of the block, of a row and of the section.
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#row-1-1-1').focus(); void 0`))
	p.Keys(kb.ArrowDown, cdp.KeyModifiers(cdp.ModifierShift))
	n := webtest.Rev(p)
	p.Keys("l")
	webtest.Changed(p, n)
	assert.Equal(t, "Flow", p.Text(".rule b"))
	say := func(key, words string) {
		p.Keys(key)
		p.Until(`!document.querySelector('#saybox').hidden && document.activeElement.id === 'saywords'`)
		p.Do(cdp.Evaluate[cdp.Void](`document.activeElement.select(); void 0`))
		p.Keys(words)
	}
	say("W", "flow; title: Hands and knees; note: no stopping")
	n = webtest.Rev(p)
	p.Keys(kb.Enter)
	webtest.Changed(p, n)
	assert.Equal(t, "Hands and knees", p.Text(".rule .aloud"))
	p.Until(`document.activeElement.classList.contains('row')`)
	say("w", "say: breathe out to round; whistle")
	p.Keys(kb.Enter)
	p.Until(`document.querySelector('#message').textContent.includes('whistle')`)
	p.Expect("422")
	assert.Equal(t, "say: breathe out to round; whistle", webtest.JsText(p, `document.querySelector('#saywords').value`), "nothing is lost")
	p.Shot("built-2")
	assert.Empty(t, p.Axe())
	p.Keys(kb.Backspace)
	p.Go(url + "/sessions/" + id)
	p.Until(`document.querySelector('#saywords')?.value === 'say: breathe out to round; whistl'`) // as it was typed
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#saywords').select(); void 0`))
	p.Keys("say: breathe out to round; option: on the forearms; slow")
	n = webtest.Rev(p)
	p.Keys(kb.Enter)
	webtest.Changed(p, n)
	assert.Equal(t, "slow · say: breathe out to round · option: on the forearms", p.Text("#row-1-1-1 .how"))
	n = webtest.Rev(p)
	p.Click(`[data-say=section-words]`)
	p.Keys("talk flowing; left side first" + kb.Enter)
	webtest.Changed(p, n)
	assert.Contains(t, p.Text(".section-head .how"), "left side first")

	// A line to be mended.
	code, body := v.Form("/sessions/"+id+"/edit", map[string][]string{"op": {"paste"}, "text": {"to mend: flumox the gribble 7"}, "rev": {fmt.Sprint(webtest.Rev(p))}}, "")
	assert.Equal(t, 200, code, body)
	p.Go(url + "/sessions/" + id)
	p.Until(`document.querySelector('.to-mend input')`)
	p.Shot("built-3")
	n = webtest.Rev(p)
	p.Do(cdp.Evaluate[cdp.Void](`(i => { i.focus(); i.select(); })(document.querySelector('.to-mend input')); void 0`))
	p.Keys("bridge 10" + kb.Enter)
	webtest.Changed(p, n)
	assert.Contains(t, names(), "Squat, Shoulder bridge")
	assert.Equal(t, 0, browsertest.JS[int](p, `document.querySelectorAll('.to-mend').length`))

	// Led: the parts stand in a strip, the words of the row are said.
	p.Go(url + "/sessions/" + id + "/lead")
	p.Until(`document.querySelector('#l-name')?.textContent === 'Cat and cow'`)
	p.Keys(kb.ArrowRight) // past the opening
	assert.Contains(t, p.Text("#l-words"), "breathe out to round")
	assert.Contains(t, p.Text("#l-place"), "Hands and knees")
	p.Keys(" ")
	for range 20 {
		if browsertest.JS[bool](p, `document.querySelectorAll('#l-parts li').length === 4 && !document.querySelector('#l-parts').hidden`) {
			break
		}
		p.Keys(kb.ArrowRight)
	}
	assert.Equal(t, "Bent-knee kickback + Hydrant + Bird dog + Thread the needle", p.Text("#l-name"))
	p.Shot("built-lead")
	assert.Empty(t, p.Axe())
	_ = st
}

// How long a class took, said on its bench, is the teacher's pace at once: the same class is as long as that then, nearly.
func TestItTookSoLong(t *testing.T) {
	url, st := webtest.Site(t)
	v := webtest.Visit(t, url).SignIn(demo.Email)
	was := webtest.LengthOf(t, v, "/sessions/two-long-holds")
	_, page, _ := v.Do("GET", "/sessions/two-long-holds", nil)
	assert.Contains(t, page, `name="use" value="yes"`)
	took := was.Times(1.2)
	code, body, h := v.Do("POST", "/log", map[string][]string{"plan": {"two-long-holds"}, "took": {took.String()}, "day": {webtest.Thursday.Format("2006-01-02")}, "use": {"yes"}})
	assert.Equal(t, 303, code, body)
	assert.Equal(t, "/sessions/two-long-holds", h.Get("Location"))
	now := webtest.LengthOf(t, v, "/sessions/two-long-holds")
	assert.Greater(t, now, was)
	assert.Less(t, now, took)
	other := webtest.Visit(t, url).SignIn(demo.Second)
	assert.Equal(t, was, webtest.LengthOf(t, other, "/sessions/two-long-holds"), "it is the pace of who said it")
	code, body, _ = v.Do("POST", "/log", map[string][]string{"plan": {"two-long-holds"}, "took": {"soon"}, "day": {webtest.Thursday.Format("2006-01-02")}, "use": {"yes"}})
	assert.Equal(t, 422, code, body)
	_ = st
}

// The name of a template is offered where a line is typed, and puts the whole piece in.
func TestATemplateByItsName(t *testing.T) {
	url, _ := webtest.Site(t)
	p := openBench(t, url, demo.Email, "wheel-side-hips")
	p.Click("#add")
	p.Keys("five abdo")
	p.Until(`document.querySelector('#near [data-piece]')`)
	rows, n := browsertest.JS[int](p, `document.querySelectorAll('.row').length`), webtest.Rev(p)
	p.Click(`#near [data-piece]`)
	webtest.Changed(p, n)
	assert.Equal(t, rows+7, browsertest.JS[int](p, `document.querySelectorAll('.row').length`))
}

// A class is cut to a length after it was seen what is left out, and its own sessions are shown that go before and after it.
func TestCutAndAround(t *testing.T) {
	url, _ := webtest.Site(t)
	p := openBench(t, url, demo.Email, "thursday-mat")
	p.Click("#cutto")
	p.Keys("10:00" + kb.Enter)
	p.Until(`document.querySelector('[data-take=cut]')`)
	assert.Contains(t, p.Text("#proposal"), "stay as they are")
	assert.Empty(t, p.Axe())
	n := webtest.Rev(p)
	p.Click("[data-take=cut]")
	webtest.Changed(p, n)
	assert.Regexp(t, `^(9:\d\d|10:00)$`, p.Text(".clock b"))
	n = webtest.Rev(p)
	p.Click("[data-op=undo]")
	webtest.Changed(p, n)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#aroundbox').open = true; void 0`))
	p.Until(`document.querySelectorAll('#around li').length > 0`)
	assert.Contains(t, p.Text("#around"), "Before it")
	assert.Regexp(t, `with this one \d+:\d\d`, p.Text("#around"))
	assert.Empty(t, p.Axe())
}

// Two tabs: while words are typed in one, the other changes the class: both versions are shown, the words stay, and can be made on top.
func TestWordsInTwoTabs(t *testing.T) {
	url, _ := webtest.Site(t)
	p := openBench(t, url, demo.Email, "wheel-side-hips")
	v := webtest.Visit(t, url).SignIn(demo.Second)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#row-1-1-1').focus(); void 0`))
	p.Keys("w")
	p.Until(`document.activeElement.id === 'saywords'`)
	p.Do(cdp.Evaluate[cdp.Void](`document.activeElement.select(); void 0`))
	p.Keys("slow")
	code, body := v.Form("/sessions/wheel-side-hips/edit", map[string][]string{"op": {"words"}, "at": {"1.1.1"}, "words": {"brisk"}, "rev": {fmt.Sprint(webtest.Rev(p))}}, "")
	assert.Equal(t, 200, code, body)
	p.Keys(kb.Enter)
	p.Until(`document.querySelector('#message').textContent !== ''`)
	p.Expect("409")
	p.Until(`document.querySelector('[data-again]')`)
	assert.Equal(t, "slow", webtest.JsText(p, `document.querySelector('#saywords').value`))
	n := webtest.Rev(p)
	p.Click("[data-again]")
	webtest.Changed(p, n)
	assert.Equal(t, "slow", p.Text("#row-1-1-1 .how"))
	assert.True(t, browsertest.JS[bool](p, `document.querySelector('#saybox').hidden`))

	// Another edit while words are typed leaves them where they are.
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#row-1-1-2').focus(); void 0`))
	p.Keys("w")
	p.Until(`document.activeElement.id === 'saywords'`)
	p.Do(cdp.Evaluate[cdp.Void](`document.activeElement.select(); void 0`))
	p.Keys("say: half")
	n = webtest.Rev(p)
	p.Click("[data-op=undo]")
	webtest.Changed(p, n)
	assert.True(t, browsertest.JS[bool](p, `document.querySelector('#row-1-1-2').contains(document.querySelector('#saywords')) && document.querySelector('#saywords').value === 'say: half'`))
}

// A mail pasted on the bench: the preview says of every line what it is, several rows in a line are counted, what was not understood stays in the box over a
// reload, and the text as it was copied makes the same block again.
func TestAMailOnTheBench(t *testing.T) {
	url, _ := webtest.Site(t)
	v := webtest.Visit(t, url).SignIn(demo.Email)
	id := path.Base(webtest.NewSession(t, v, "A mail", ""))
	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	p.Go(url + "/sessions/" + id)
	p.Until(`window.htmx && document.readyState === 'complete'`)
	mail := "Prone: swan prep 4, swimming 30 secs\nFlow:\ncat cow 5\nthread the needle 3 each side\nbuild up kickback 8, + hydrant 6\nside lying\nbicycle 6\nflumox 7"
	p.Do(cdp.Evaluate[cdp.Void](fmt.Sprintf(`(t => { document.querySelector('#pastebox').open = true; const a = document.querySelector('#pastetext'); a.focus(); a.value = t; a.dispatchEvent(new Event('input', {bubbles: true})); document.querySelector('#pasteform').requestSubmit(); })(%q); void 0`, mail)))
	p.Until(`/Add 7 rows/.test(document.querySelector('#pasted').textContent)`)
	says := p.Text("#pasted")
	for _, w := range []string{"Swan lift 4 reps; Swimming 30 s", "build up: Bent-knee kickback 8 reps + Hydrant 6 reps", "Side bicycle", "1 not understood"} {
		assert.Contains(t, says, w)
	}
	p.Shot("mail-pasted")
	n := webtest.Rev(p)
	p.Click("[data-paste]")
	webtest.Changed(p, n)
	assert.Equal(t, 7, browsertest.JS[int](p, `document.querySelectorAll('.row').length`))
	p.Until(`document.querySelector('#pastetext').value === 'flumox 7'`)
	assert.Equal(t, 1, browsertest.JS[int](p, `document.querySelectorAll('.rows.flow').length`))
	assert.Equal(t, 1, browsertest.JS[int](p, `document.querySelectorAll('[class="rows build up"]').length`))
}
