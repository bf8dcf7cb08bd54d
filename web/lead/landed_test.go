package lead_test

import (
	"context"
	"fmt"
	"math"
	"net/url"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/run"
	"wavekine/store"
	"wavekine/store/storetest"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

// tenMinutes, and a little more, is a class with a chain, both sides, something locked and a quiet end.
const tenMinutes = `{"format":"wavekine.session/1","title":"Ten","target":"14:20","sections":[
	{"title":"Arrive","blocks":[{"rule":"straight","rows":[{"movement":"cat-cow","dose":"6 reps"},{"movement":"thread-the-needle","dose":"4 each side"}]}]},
	{"title":"Build","blocks":[{"rule":"chain","rows":[{"movement":"bird-dog","dose":"8 reps"},{"movement":"rainbow-leg","dose":"8 reps"}]},
		{"rule":"straight","rows":[{"movement":"side-lying-leg-lift","dose":"9 each side"},{"movement":"clam","dose":"9 each side"},{"movement":"roll-up","dose":"6 reps","locked":true},{"movement":"swan","dose":"5 reps"}]}]},
	{"title":"Settle","blocks":[{"rule":"straight","rows":[{"movement":"childs-pose","dose":"45 s"},{"movement":"constructive-rest","dose":"90 s"}]}]}]}`

func withTen(t *testing.T, st *store.Store) {
	t.Helper()
	require.NoError(t, st.Sessions.Create(context.Background(), "claybank", "ten", storetest.Change(t, "maren", "made", tenMinutes)))
}

// The teacher talks too long twice; the screen says where the end would be and offers how to land; one key takes it; the class ends on its minute, both sides alike. The
// same with the network cut.
func TestAClassLandsOnItsMinute(t *testing.T) {
	for _, cutOff := range []bool{false, true} {
		base, st, cut := cutSite(t)
		withTen(t, st)
		p := openLead(t, base, "ten")
		p.Until(`document.documentElement.dataset.offline === 'ready' || !navigator.serviceWorker`)
		webtest.Run1(p, fast)
		p.Keys(" ")
		p.Until(`wavekineLead.player.running`)
		if cutOff {
			cut.Store(true)
		}
		took := 0
		for talk := range 2 {
			webtest.Run1(p, fmt.Sprintf(`pass(%d)`, 40+90*talk))
			p.Keys("t") // not yet: she is still talking
			p.Until(`wavekineLead.player.held`)
			webtest.Run1(p, `pass(60)`)
			p.Keys(kb.ArrowRight)
			p.Until(`!wavekineLead.player.held`)
			webtest.Run1(p, `wavekineLead.landing(), wavekineLead.tick(), true`)
			assert.Contains(t, p.Text("#l-clock"), "over")
			if browsertest.JS[bool](p, `!document.querySelector('#l-land').hidden && !document.querySelector('#l-land-take').hidden`) {
				assert.Contains(t, p.Text("#l-land-to"), "To land on")
				p.Keys("l")
				p.Until(`document.querySelector('#l-land').hidden`)
				took++
			}
		}
		require.Positive(t, took)
		for range 300 {
			webtest.Run1(p, `pass(5), wavekineLead.player.ended || (wavekineLead.landing(), wavekineLead.tick()), true`)
			if browsertest.JS[bool](p, `wavekineLead.player.ended`) {
				break
			}
			if browsertest.JS[bool](p, `!!wavekineLead.offered && !!wavekineLead.offered.of && wavekineLead.offered.words.length > 0`) {
				n := browsertest.JS[int](p, `wavekineLead.player.events().length`)
				p.Keys("l")
				p.Until(fmt.Sprintf(`wavekineLead.player.events().length > %d`, n))
			}
		}
		if cutOff {
			p.Until(`document.querySelector('#l-done-h').textContent === 'Not saved yet'`)
			cut.Store(false)
			webtest.SentWhenBack(p)
		}
		webtest.SavedRun(p)
		p.Expect("Failed to load resource")
		r := webtest.Newest(t, st)
		require.True(t, r.Finished())
		taken, _ := r.Taken()
		if diff := math.Abs(taken.Seconds() - 860); diff > 12 { // the keys take their time on a busy machine
			t.Errorf("ended at %s, cut off: %v", taken, cutOff)
		}
		require.NotEmpty(t, r.Landings())
		for _, row := range run.RowsOf(r.Lines()) {
			assert.False(t, row.Unequal(), "%s: right %v, left %v", row.Name, row.Right, row.Left)
			if row.Name == "Roll-up" {
				assert.False(t, row.Landed, "what is locked stays")
			}
		}
		if !cutOff {
			p.Click("#l-done-log")
			p.Until(`document.body.textContent.includes('To land') && document.body.textContent.includes('changed to land')`)
		}
	}
}

// What was taken is taken back, and what was left is offered again, with one key each; a reload keeps what was taken.
func TestLandingIsUndone(t *testing.T) {
	base, st := webtest.Site(t)
	withTen(t, st)
	p := openLead(t, base, "ten")
	webtest.Run1(p, fast)
	p.Keys(" ")
	p.Until(`wavekineLead.player.running`)
	webtest.Run1(p, `pass(20)`)
	p.Keys("t")
	p.Until(`wavekineLead.player.held`)
	webtest.Run1(p, `pass(80)`)
	p.Keys(kb.ArrowRight)
	webtest.Run1(p, `wavekineLead.landing(), wavekineLead.tick(), true`)
	p.Until(`!document.querySelector('#l-land').hidden`)
	words := p.Text("#l-land-says")
	assert.NotEmpty(t, words)
	p.Keys(kb.Escape)
	p.Until(`document.querySelector('#l-land').hidden`)
	p.Keys("u")
	p.Until(`!document.querySelector('#l-land').hidden`)
	p.Keys("l")
	p.Until(`document.querySelector('#l-land').hidden && Object.keys(wavekineLead.player.landed).length > 0`)
	assert.Empty(t, p.Axe())
	n := browsertest.JS[int](p, `Object.keys(wavekineLead.player.landed).length`)
	p.Do(cdp.Reload())
	p.Until(`window.wavekineLead && wavekineLead.player.started`)
	assert.Equal(t, n, browsertest.JS[int](p, `Object.keys(wavekineLead.player.landed).length`))
	p.Do(cdp.Evaluate[cdp.Void](`wavekineLead.player.land([], 'taken back'); void 0`))
	assert.Zero(t, browsertest.JS[int](p, `Object.keys(wavekineLead.player.landed).length`))
}

// One key leads a class to its end: it starts, counts and goes on; held down it goes back.
func TestOneKeyLeads(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	webtest.Run1(p, fast)
	p.Keys("p")
	p.Until(`document.querySelector('#l-pedal').getAttribute('aria-pressed') === 'true'`)
	for range 120 {
		if browsertest.JS[bool](p, `wavekineLead.player.ended`) {
			break
		}
		webtest.Run1(p, `pass(4)`)
		p.Keys(kb.PageDown)
	}
	webtest.SavedRun(p)
	r := webtest.Newest(t, st)
	assert.True(t, r.Finished())
	for _, row := range run.RowsOf(r.Lines()) {
		for _, s := range []run.SideLed{row.Right, row.Left, row.Both} {
			if s.There && s.Planned > 0 {
				assert.Equal(t, run.Counted, s.How, row.Name)
				assert.Equal(t, s.Planned, s.Reps, row.Name)
			}
		}
	}
	// the browser remembers how somebody likes to lead
	p.Do(cdp.Reload())
	p.Until(`window.wavekineLead && wavekineLead.player.wait`)
}

// In the large type what must be read has capitals of at least 2.5 % of the screen's height, and nothing is cut off or overlaps; with one hand on a phone everything
// can be reached. Axe finds nothing at any size.
func TestReadFromFourMetresAndInOneHand(t *testing.T) {
	base, _ := webtest.Site(t)
	for _, size := range [][2]int64{{1280, 800}, {1920, 1080}, {390, 844}} {
		p := webtest.SignedInPage(t, base, "maren@claybank.example", size[0], size[1])
		p.Go(base + "/sessions/thursday-mat/lead?rehearse=1")
		p.Until(`document.querySelectorAll('#l-fig path').length > 3`)
		assert.Empty(t, p.Axe(), "the opening at %d", size[0])
		p.Keys(kb.ArrowRight)
		p.Keys("z")
		p.Until(`document.querySelector('#lead').classList.contains('large')`)
		for _, at := range []int{3, 9, 20} {
			p.Do(cdp.Evaluate[cdp.Void](fmt.Sprintf(`wavekineLead.player.seek(%d, 1000); wavekineLead.tick(); void 0`, at)))
			if size[0] > 760 {
				assert.Empty(t, browsertest.JS[string](p, `['#l-name', '#l-side', '#l-num', '#l-of', '#l-words', '#l-next', '#l-clock'].filter(s => { const e = document.querySelector(s), r = e.getBoundingClientRect(); return e.textContent && (parseFloat(getComputedStyle(e).fontSize) * .7 < innerHeight * .025 || r.right > innerWidth + 1 || r.bottom > innerHeight + 1); }).join(' ')`), "%v step %d", size, at)
			}
			assert.LessOrEqual(t, browsertest.JS[int](p, `document.documentElement.scrollWidth - innerWidth`), 0, "%v", size)
		}
		p.Keys("z")
		p.Keys("h")
		p.Until(`document.querySelector('#lead').classList.contains('left-hand')`)
		if size[0] == 390 {
			assert.Empty(t, browsertest.JS[string](p, `['#l-pause', '#l-nextkey', '[data-lead=back]', '[data-lead=count]'].filter(s => { const r = document.querySelector(s).getBoundingClientRect(); return r.height < 44 || r.top < innerHeight * .5 || r.bottom > innerHeight; }).join(' ')`), "within the thumb's reach")
			assert.Empty(t, browsertest.JS[string](p, `(() => { const d = document.querySelector('.l-more'); d.open = true; const out = Array.from(d.querySelectorAll('button')).filter(b => { const r = b.getBoundingClientRect(); return r.width && (r.left < 0 || r.right > innerWidth || r.bottom > innerHeight); }).map(b => b.textContent).join(); return out; })()`))
			assert.Empty(t, p.Axe())
			p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('.l-more').open = false; void 0`))
		}
		assert.Empty(t, p.Axe(), "%v", size)
	}
}

// The dot begins as the words do; one key turns it round here, another for good, and the sheet says it too.
func TestTheBreathAgreesWithTheWords(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn("maren@claybank.example")
	at := webtest.NewSession(t, v, "Breath", "5:00")
	code, body, _ := v.Do("POST", at+"/edit", url.Values{"op": {"add"}, "rev": {"1"}, "line": {"bridge 6 reps"}}, "HX-Request", "true")
	require.Equal(t, 200, code, body)
	p := openLead(t, base, strings.TrimPrefix(at, "/sessions/"))
	p.Keys(" ")
	goTo(p, `wavekineLead.player.step.kind === 'work'`)
	first := browsertest.JS[string](p, `wavekineLead.player.step.phases[0].b`)
	words := browsertest.JS[string](p, `document.querySelector('#l-breath g').textContent`)
	assert.True(t, strings.HasPrefix(words, first), "%s begins with %s", words, first)
	p.Keys("b")
	p.Until(`!document.querySelector('#l-breath g').textContent.startsWith('` + first + `')`)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#l-forgood').click(); void 0`))
	p.Until(`document.querySelector('#l-status').textContent.includes('From now on')`)
	q := webtest.Visit(t, base).SignIn("maren@claybank.example")
	_, page, _ := q.Do("GET", at+"/lead", nil)
	other := map[string]string{"in": "out", "out": "in"}[first]
	assert.Contains(t, page, `"phases":[{"b":"`+other)
}

// Somebody was corrected: it is in the run, in the log, shown the next time, and gone when they ask to be erased.
func TestCorrectionsAreShownNextTime(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	webtest.Run1(p, fast)
	p.Keys(" ")
	goTo(p, `wavekineLead.player.step.name === 'Clam' && wavekineLead.player.step.kind === 'work'`)
	p.Keys("x")
	p.Until(`document.activeElement.id === 'l-who'`)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#l-who').value = 'perpetua'; document.querySelector('#l-fault').value = 'rolls back'; document.querySelector('#l-correctform').requestSubmit(); void 0`))
	p.Until(`document.querySelector('#l-correctform').hidden`)
	webtest.Run1(p, `pass(400)`)
	webtest.SavedRun(p)
	r := webtest.Newest(t, st)
	require.Len(t, r.Corrections(), 1)
	assert.Equal(t, run.Corrected{Who: "perpetua", Movement: "clam", Fault: "rolls back", At: r.Corrections()[0].At}, r.Corrections()[0])
	p.Go(base + "/sessions/short/lead")
	p.Until(`document.querySelectorAll('#l-fig path').length > 3`)
	p.Keys(kb.ArrowRight)
	p.Keys(" ")
	goTo(p, `wavekineLead.player.step.name === 'Clam'`)
	p.Until(`document.querySelector('#l-check').textContent.includes('rolls back')`)
	require.NoError(t, st.EraseMover(context.Background(), "claybank", "perpetua"))
	var left int
	require.NoError(t, st.DB.Get(&left, `SELECT (SELECT count(*) FROM corrections) + (SELECT count(*) FROM runs WHERE doc::text LIKE '%perpetua%')`))
	assert.Zero(t, left)
	require.NoError(t, st.SaveRun(context.Background(), "claybank", r), "sent again it brings nobody back")
	require.NoError(t, st.DB.Get(&left, `SELECT count(*) FROM runs WHERE doc::text LIKE '%perpetua%'`))
	assert.Zero(t, left)
}

// Rehearsing records nothing; put anywhere on the wave it shows that moment; twenty times as fast is twenty times as fast.
func TestRehearsing(t *testing.T) {
	base, st := webtest.Site(t)
	before := count(t, st)
	p := webtest.SignedInPage(t, base, "maren@claybank.example", 1280, 800)
	p.Go(base + "/sessions/wheel-side-hips/lead?rehearse=1")
	p.Until(`document.querySelectorAll('#l-fig path').length > 3`)
	p.Keys(kb.ArrowRight)
	for _, part := range []float64{.1, .5, .9} {
		p.Do(cdp.Evaluate[cdp.Void](fmt.Sprintf(`(() => { const w = document.querySelector('#l-wave'), b = w.getBoundingClientRect(); w.setPointerCapture = () => {}; for (const t of ['pointerdown', 'pointerup']) w.dispatchEvent(new PointerEvent(t, { clientX: b.left + %g * b.width, clientY: b.top + 5, pointerId: 1, bubbles: true })); })(); void 0`, part)))
		step := browsertest.JS[float64](p, `(s => (s.at + wavekineLead.player.inStep()) / wavekineLead.player.steps.reduce((n, x) => n + x.s, 0))(wavekineLead.player.step)`)
		assert.InDelta(t, part, step, .01)
		assert.Equal(t, browsertest.JS[string](p, `wavekineLead.player.step.name`), p.Text("#l-name"))
	}
	p.Do(cdp.Evaluate[cdp.Void](`const s = document.querySelector('#l-speed'); s.value = '20'; s.dispatchEvent(new Event('change', { bubbles: true })); wavekineLead.player.seek(0, 0); void 0`))
	p.Keys(" ")
	p.Until(`wavekineLead.player.gone() > 30000`)
	p.Keys("q")
	p.Until(`document.querySelector('#l-done-h').textContent === 'Rehearsed'`)
	assert.Equal(t, before, count(t, st))
	assert.Empty(t, browsertest.JS[string](p, `Object.keys(localStorage).filter(k => /^wavekine\.(lead\.|outbox)/.test(k)).join()`))
}

// The beat does not drift: rendered over half an hour, each is where it belongs within 20 ms (it is worked out from the first, never from the one before).
func TestTheBeatDoesNotDrift(t *testing.T) {
	js := `(() => { let at = 0, upto = 0, worst = 0, n = 0; const bpm = 127, first = .1;
		while (at < 1800) { at += .06 + .3 * ((n * 7919) % 100) / 100; const end = at + 1.6; for (const b of wavekineSound.beats(first, bpm, Math.max(upto, at), end)) { worst = Math.max(worst, Math.abs(b - (first + n * 60 / bpm))); n++; } upto = Math.max(upto, end); }
		return [worst, n]; })()`
	p := blank(t, soundJS)
	got := browsertest.JS[[]float64](p, js)
	t.Logf("%.0f beats, at most %.3f ms off", got[1], 1000*got[0])
	assert.Less(t, got[0], .02)
	assert.InDelta(t, 1800*127./60, got[1], 6)
	// as the audio engine plays them: clicks rendered offline, their onsets found in the sound
	onsets := browsertest.JS[[]float64](p, `(async () => { const ctx = new OfflineAudioContext(1, 8000 * 60, 8000); for (const b of wavekineSound.beats(.1, 127, 0, 59)) wavekineSound.click(ctx, b, false);
		const d = (await ctx.startRendering()).getChannelData(0), out = []; let quiet = 0; for (let i = 0; i < d.length; i++) { if (Math.abs(d[i]) > .02) { if (quiet > 800) out.push(i / 8000); quiet = 0; } else quiet++; } return out; })()`)
	require.Greater(t, len(onsets), 100)
	for i := 1; i < len(onsets); i++ {
		k := math.Round((onsets[i] - onsets[0]) / (60. / 127))
		assert.InDelta(t, onsets[0]+k*60/127, onsets[i], .02)
	}
}

// The player's memory is flat over an hour: what it keeps does not grow with the ticks.
func TestMemoryIsFlat(t *testing.T) {
	if testing.Short() {
		t.Skip()
	}
	base, st := webtest.Site(t)
	withTen(t, st)
	p := openLead(t, base, "ten")
	webtest.Run1(p, fast)
	p.Keys(" t")
	p.Until(`wavekineLead.player.held`)
	heap := func() float64 {
		return browsertest.JS[float64](p, `performance.memory.usedJSHeapSize`)
	}
	webtest.Run1(p, `pass(600)`)
	nodes, from := browsertest.JS[int](p, `document.querySelectorAll('*').length`), heap()
	for range 6 {
		webtest.Run1(p, `pass(600)`)
	}
	assert.Equal(t, nodes, browsertest.JS[int](p, `document.querySelectorAll('*').length`))
	t.Logf("heap %.1f MB after 10 minutes, %.1f MB after 70", from/1e6, heap()/1e6)
	assert.Less(t, heap(), from+12e6)
}

// A sign-in that ends in mid-class takes nothing away: the class goes on, lands, and is kept until somebody signs in again.
func TestTheSignInEndsInMidClass(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	before := count(t, st)
	webtest.Run1(p, fast)
	p.Keys(" ")
	p.Until(`wavekineLead.player.running && wavekineLead.room.code`)
	_, err := st.DB.Exec(`DELETE FROM sessions`)
	require.NoError(t, err)
	for range 6 {
		p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[data-lead=next]').click(); void 0`))
		webtest.Run1(p, `pass(2)`)
	}
	assert.True(t, browsertest.JS[bool](p, `document.querySelector('#l-ask').hidden`), "nobody else leads")
	webtest.Run1(p, `pass(400)`)
	p.Until(`!document.querySelector('#l-done').hidden`)
	p.Until(`document.querySelector('#l-done-h').textContent !== 'Saved'`)
	assert.Equal(t, before, count(t, st))
	p.Expect("Failed to load resource")
	p.Go(base + "/signin")
	webtest.SignInThrough(p, base, "maren@claybank.example")
	p.Until(`!wavekine.waiting()`)
	assert.Equal(t, before+1, count(t, st))
	p.Expect("Failed to load resource")
}

// The easier level stays for the other side and counts as the level taken; another row begins as planned.
func TestTheEasierLevelStaysForBothSides(t *testing.T) {
	base, st := webtest.Site(t)
	require.NoError(t, st.Sessions.Create(context.Background(), "claybank", "easy", storetest.Change(t, "maren", "made", `{"format":"wavekine.session/1","title":"Easy","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[
		{"movement":"bird-dog","level":2,"dose":"4 each side"},{"movement":"side-lying-leg-lift","level":2,"dose":"4 each side"}]}]}]}`)))
	p := openLead(t, base, "easy")
	webtest.Run1(p, fast)
	p.Keys(" ")
	goTo(p, `wavekineLead.player.step.kind === 'work' && wavekineLead.player.step.side === 'right'`)
	p.Keys("e")
	p.Until(`document.querySelector('#l-easy').getAttribute('aria-pressed') === 'true'`)
	goTo(p, `wavekineLead.player.step.kind === 'work' && wavekineLead.player.step.side === 'left'`)
	p.Until(`document.querySelector('#l-easy').getAttribute('aria-pressed') === 'true'`)
	goTo(p, `wavekineLead.player.step.row === '1.1.2' && wavekineLead.player.step.kind === 'work'`)
	p.Until(`document.querySelector('#l-easy').getAttribute('aria-pressed') === 'false'`)
	webtest.Run1(p, `pass(400)`)
	webtest.SavedRun(p)
	shown := map[string]int{}
	for _, l := range webtest.Newest(t, st).Lines() {
		if l.Kind.Working() {
			shown[fmt.Sprint(l.Name, " ", l.Side)] = l.Shown
		}
	}
	assert.Equal(t, map[string]int{"Bird dog right": 1, "Bird dog left": 1, "Side-lying leg lift right": 0, "Side-lying leg lift left": 0}, shown)
}
