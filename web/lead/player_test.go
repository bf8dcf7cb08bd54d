package lead_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/url"
	"testing"
	"time"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/run"
	"wavekine/core/timeline"
	"wavekine/demo"
	"wavekine/store"
	"wavekine/store/storetest"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

// short is a class of two rows, led in a few seconds of the test's own clock.
const short = `{"format":"wavekine.session/1","title":"Short","target":"2:00","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[
	{"movement":"squat","dose":"6 reps"},{"movement":"clam","dose":"4 each side"}]}]}]}`

func withShort(t *testing.T, st *store.Store) {
	t.Helper()
	require.NoError(t, st.Sessions.Create(context.Background(), "claybank", "short", storetest.Change(t, "maren", "made", short)))
}

// fast gives the page a clock of the test's own: pass lets so many seconds go by, a tenth at a time, through the
// player's own tick.
const fast = `window.pass = ((real, off) => { Date.now = () => real() + off; return (s) => { for (let k = 0; k < s * 10 && !document.querySelector('#lead').hidden; k++) { off += 100; wavekineLead.tick(); } return true; }; })(Date.now.bind(Date), 0); true`

func count(t *testing.T, st *store.Store) int {
	t.Helper()
	rs, err := st.Runs(context.Background(), "claybank", 50)
	require.NoError(t, err)
	return len(rs)
}

// Everything the keys do is in the run as it happened, and nothing else.
func TestWhatHappenedIsKept(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	webtest.Run1(p, fast)
	p.Keys(" ")
	webtest.Run1(p, `pass(10)`)
	p.Keys("t") // the set-up takes longer
	p.Until(`wavekineLead.player.held`)
	webtest.Run1(p, `pass(50)`)
	assert.Contains(t, p.Text("#l-status"), "goes on when you do")
	p.Keys(kb.ArrowRight)
	p.Until(`wavekineLead.player.step.kind === 'work'`)
	for range 3 { // three by hand, four seconds each; the clock goes on in that tempo
		webtest.Run1(p, `pass(4)`)
		p.Keys("c")
	}
	p.Until(`wavekineLead.player.done() === 3`)
	assert.Equal(t, "4", p.Text("#l-num"))
	webtest.Run1(p, `pass(7)`)
	p.Keys(" ") // the bell rings
	p.Until(`wavekineLead.player.paused`)
	webtest.Run1(p, `pass(30)`)
	p.Keys(" ")
	p.Until(`wavekineLead.player.running`)
	webtest.Run1(p, `pass(8)`)
	p.Until(`document.querySelector('#l-name').textContent === 'Clam'`)
	p.Keys("n")
	p.Until(`document.activeElement.id === 'l-notetext'`)
	webtest.Run1(p, `document.querySelector('#l-notetext').value = ''`) // the driver types the n as well, a keyboard does not
	p.Keys("knees apart\r")
	p.Keys("e")
	webtest.Run1(p, `pass(200)`)
	webtest.SavedRun(p)

	r := webtest.Newest(t, st)
	assert.True(t, r.Finished())
	taken, paused := r.Taken()
	assert.InDelta(t, 30, paused.Seconds(), 4, "the keys take their time on a busy machine")
	vs := r.Visits()
	assert.True(t, vs[0].Held)
	assert.Equal(t, run.ByHand, vs[0].Ended)
	assert.InDelta(t, 60, vs[0].Taken().Seconds(), 4, "as long as it took, not as planned")
	assert.Equal(t, 3, vs[1].Hand)
	assert.Equal(t, 3, vs[1].Clock)
	n, how := r.Reps(&vs[1])
	assert.Equal(t, 6, n)
	assert.Equal(t, run.Counted, how)
	assert.InDelta(t, 24, vs[1].Taken().Seconds(), 3, "six in the tempo of the hand")
	sum := 0.0
	for i := range vs {
		sum += vs[i].Taken().Seconds()
	}
	assert.InDelta(t, taken.Seconds(), sum, .2, "what passes between beginning and the first step is in no visit")
	notes := map[string]string{}
	shown := 0
	for _, l := range r.Lines() {
		notes[l.Name] = l.Note
		shown = max(shown, l.Shown)
	}
	assert.Equal(t, "knees apart", notes["Clam"])
	p.Click("#l-done-log")
	p.Until(`document.body.textContent.includes('6 counted') && document.body.textContent.includes('4 as planned')`)
	assert.Contains(t, p.Text("main"), "paused")
	assert.Empty(t, p.Axe())
}

// It went on by itself while the teacher was still talking: one key, and that time counts where it belongs.
func TestNotYetTakesTheStepBack(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	webtest.Run1(p, fast)
	p.Keys(" ")
	webtest.Run1(p, `pass(38)`)
	p.Until(`wavekineLead.player.step.kind === 'work' && document.querySelector('#l-status').textContent.includes('not yet')`)
	p.Keys("t")
	p.Until(`wavekineLead.player.step.kind === 'setup'`)
	webtest.Run1(p, `pass(22)`)
	p.Keys(kb.ArrowRight)
	webtest.Run1(p, `pass(5)`)
	p.Keys("q")
	webtest.SavedRun(p)
	v := webtest.Newest(t, st).Visits()[0]
	assert.InDelta(t, 60, v.Taken().Seconds(), 4)
	assert.Equal(t, run.ByHand, v.Ended)
}

// With "wait for me" one key leads the class: only what the clock ends goes on by itself.
func TestWaitForMe(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	webtest.Run1(p, fast)
	p.Keys("w ")
	p.Until(`document.querySelector('#l-wait').getAttribute('aria-pressed') === 'true'`)
	steps := browsertest.JS[int](p, `wavekineLead.player.steps.length`)
	for i := range steps {
		require.Equal(t, i, browsertest.JS[int](p, `wavekineLead.player.i`))
		webtest.Run1(p, `pass(70)`)
		p.Keys(kb.PageDown)
	}
	webtest.SavedRun(p)
	for _, v := range webtest.Newest(t, st).Visits() {
		assert.InDelta(t, 70, v.Taken().Seconds(), 4, "the keys take their time on a busy machine")
	}
}

// Leading again begins another run; what was finished stays as it was, also when its page is left late.
func TestLeadingAgainIsAnotherRun(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	before := count(t, st)
	p := openLead(t, base, "short")
	for i := range 2 {
		webtest.Run1(p, fast)
		p.Keys(" ")
		webtest.Run1(p, `pass(400)`)
		webtest.SavedRun(p)
		first := webtest.Newest(t, st)
		assert.True(t, first.Finished())
		webtest.Run1(p, `dispatchEvent(new PageTransitionEvent('pagehide'))`)
		p.Do(cdp.Reload())
		p.Until(`document.querySelector('#l-pause') && document.querySelectorAll('#l-fig path').length > 3 && !document.querySelector('#lead').hidden`)
		assert.Contains(t, browsertest.JS[string](p, `document.querySelector('#l-pause').textContent`), "Start", "nothing is resumed that was finished")
		assert.Equal(t, before+i+1, count(t, st))
	}
}

// A reload in mid-class loses nothing; a page that was away for long has stopped the class, not gone on without it.
func TestAReloadInMidClass(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	webtest.Run1(p, fast)
	p.Keys(" ")
	webtest.Run1(p, `pass(36)`)
	p.Keys(kb.ArrowRight)
	p.Keys(kb.ArrowRight)
	i := browsertest.JS[int](p, `wavekineLead.player.i`)
	events := browsertest.JS[int](p, `wavekineLead.player.events().length`)
	id := browsertest.JS[string](p, `JSON.parse(localStorage.getItem('wavekine.lead.maren.short')).id`)
	p.Do(cdp.Reload())
	p.Until(`window.wavekineLead && wavekineLead.player.started > 0`)
	assert.Equal(t, i, browsertest.JS[int](p, `wavekineLead.player.i`))
	assert.GreaterOrEqual(t, browsertest.JS[int](p, `wavekineLead.player.events().length`), events)
	// As if the page had been closed for a minute: the kept time of the last beat lies back.
	webtest.Run1(p, `addEventListener('pagehide', () => { const k = 'wavekine.lead.maren.short.alive', a = JSON.parse(localStorage.getItem(k)); a.at -= 60000; localStorage.setItem(k, JSON.stringify(a)); })`)
	p.Do(cdp.Reload())
	p.Until(`window.wavekineLead && wavekineLead.player.started > 0`)
	assert.True(t, browsertest.JS[bool](p, `wavekineLead.player.paused`), "it stopped when the page went")
	p.Keys("q")
	webtest.SavedRun(p)
	r := webtest.Newest(t, st)
	assert.Equal(t, id, r.ID, "one class, one run")
}

// Two tabs on the same class: the second is told, and one of them leads, never both.
func TestTwoTabs(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	before := count(t, st)
	p.Keys(" ")
	p.Until(`wavekineLead.player.running`)
	q := p.Tab(1280, 800)
	q.Go(base + "/sessions/short/lead")
	q.Until(`!document.querySelector('#l-ask').hidden`)
	assert.Contains(t, q.Text("#l-ask"), "being led in another tab")
	assert.Empty(t, q.Axe())
	q.Click("#l-ask-yes")
	q.Until(`wavekineLead.player.running`)
	p.Until(`!document.querySelector('#l-ask').hidden`)
	assert.Contains(t, p.Text("#l-ask"), "led in another tab now")
	events := browsertest.JS[int](p, `wavekineLead.player.events().length`)
	p.Keys("c")
	p.Keys(kb.ArrowRight)
	assert.Equal(t, events, browsertest.JS[int](p, `wavekineLead.player.events().length`), "the first tab does nothing any more")
	q.Keys(kb.ArrowRight)
	q.Keys("q")
	webtest.SavedRun(q)
	assert.Equal(t, before+1, count(t, st), "one class, one run")
}

// The server refuses a run: it is not called saved, its reason is said, and it can be put right and sent again.
func TestARefusedRun(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	before := count(t, st)
	webtest.Run1(p, fast)
	p.Keys(" n")
	p.Until(`document.activeElement.id === 'l-notetext'`)
	webtest.Run1(p, `document.querySelector('#l-notetext').value = 'pasted \u0007 from somewhere'; document.querySelector('#l-noteform').requestSubmit()`) // as a paste can
	webtest.Run1(p, `pass(400)`)
	p.Until(`document.querySelector('#l-done-h').textContent === 'The server refused this class'`)
	assert.Contains(t, p.Text("#l-done-where"), "cannot be shown")
	assert.True(t, browsertest.JS[bool](p, `document.querySelector('#l-done-log').hidden`))
	assert.Equal(t, before, count(t, st))
	p.Click("#l-done-mend")
	p.Until(`document.querySelector('#waiting input') !== null`)
	assert.Contains(t, p.Text("#waiting"), "The server refused it")
	assert.Empty(t, p.Axe())
	p.Do(cdp.Reload())
	p.Until(`document.querySelector('#waiting input') !== null`) // still there
	webtest.Run1(p, `(i => { i.value = 'from somewhere'; i.dispatchEvent(new Event('input')); })(document.querySelector('#waiting input')); [...document.querySelectorAll('#waiting button')].find(b => b.textContent.startsWith('Send again')).click()`)
	p.Until(`document.querySelector('#waiting').hidden && document.readyState === 'complete'`)
	assert.Equal(t, before+1, count(t, st))
	assert.Equal(t, "from somewhere", webtest.Newest(t, st).Lines()[0].Note)
	p.Expect("422")
}

// The browser's storage is full: the class goes on, it is said, the server gets what happened now and then, and the
// whole at the end.
func TestAFullStorage(t *testing.T) {
	base, st, cut := cutSite(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	before := count(t, st)
	webtest.Run1(p, fast)
	webtest.Run1(p, `for (let n = 1 << 22, k = 0; n >= 1; k++) try { localStorage.setItem('filler' + k, 'x'.repeat(n)); } catch (e) { n = n >> 1; }`)
	p.Keys(" ")
	webtest.Run1(p, `pass(1)`)
	p.Until(`document.querySelector('#l-status').textContent.includes('cannot keep the class')`)
	webtest.Run1(p, `pass(30)`)
	require.Eventually(t, func() bool { return count(t, st) == before+1 }, 10*time.Second, 20*time.Millisecond, "the server has what happened so far")
	assert.False(t, webtest.Newest(t, st).Finished())
	cut.Store(true)
	webtest.Run1(p, `pass(400)`)
	p.Until(`document.querySelector('#l-done-where').textContent.includes('leave this page open')`)
	cut.Store(false)
	webtest.Run1(p, `dispatchEvent(new Event('online'))`)
	webtest.SavedRun(p)
	assert.True(t, webtest.Newest(t, st).Finished())
	assert.Equal(t, before+1, count(t, st))
	p.Expect("Failed to load resource")
}

// A class led by one teacher is never sent as another's who signs in on the same browser; it waits for its own.
func TestAnotherTeacherOnTheSameBrowser(t *testing.T) {
	base, st, cut := cutSite(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	before := count(t, st)
	webtest.Run1(p, fast)
	p.Keys(" ")
	webtest.Run1(p, `pass(400)`)
	webtest.SavedRun(p)
	p.Go(base + "/sessions/short/lead")
	p.Until(`window.wavekineLead`)
	webtest.Run1(p, fast)
	cut.Store(true)
	p.Keys(" ")
	webtest.Run1(p, `pass(400)`)
	p.Until(`document.querySelector('#l-done-where').textContent.includes('kept here')`)
	// And one that is under way when she leaves.
	cut.Store(false)
	webtest.Run1(p, `window.stop()`)
	p.Do(cdp.Evaluate[cdp.Void](`localStorage.setItem('held', localStorage.getItem('wavekine.outbox')); void 0`))
	cut.Store(true)
	cut.Store(false)
	// Tobias signs in here before the outbox was sent.
	p.Do(cdp.Evaluate[cdp.Void](`fetch('/signout', {method: 'POST'}).then(() => { localStorage.setItem('wavekine.outbox', localStorage.getItem('held')); }); void 0`))
	p.Until(`localStorage.getItem('wavekine.outbox') === localStorage.getItem('held')`)
	webtest.SignInThrough(p, base, "tobias@claybank.example")
	webtest.Run1(p, `dispatchEvent(new Event('online'))`)
	p.Go(base + "/log")
	p.Until(`document.querySelector('#waiting li') !== null`)
	assert.Contains(t, p.Text("#waiting"), "led by another teacher")
	assert.Contains(t, p.Text("#waiting"), "when they sign in on this browser")
	rs, err := st.Runs(context.Background(), "claybank", 50)
	require.NoError(t, err)
	for _, r := range rs {
		assert.False(t, r.TeacherID == "tobias" && r.Title == "Short", "nothing of hers is his")
	}
	// He leads the same session: his own class, not hers gone on.
	p.Go(base + "/sessions/short/lead")
	p.Until(`window.wavekineLead && document.querySelectorAll('#l-fig path').length > 3`)
	assert.Contains(t, browsertest.JS[string](p, `document.querySelector('#l-pause').textContent`), "Start")
	webtest.Run1(p, fast)
	p.Keys(" ")
	webtest.Run1(p, `pass(400)`)
	webtest.SavedRun(p)
	assert.Equal(t, "tobias", webtest.Newest(t, st).Teacher)
	// Maren is back.
	p.Do(cdp.Evaluate[cdp.Void](`fetch('/signout', {method: 'POST'}); void 0`))
	webtest.SignInThrough(p, base, demo.Email)
	p.Until(`wavekine.waiting() === 0`)
	assert.Equal(t, before+3, count(t, st))
	p.Expect("Failed to load resource")
}

// The database is away while the page reloads: the kept page comes, the class goes on, and is saved when it is back.
func TestTheDatabaseIsAway(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	p.Until(`document.documentElement.dataset.offline === 'ready'`)
	before := count(t, st)
	p.Keys(" ")
	p.Until(`wavekineLead.player.running`)
	p.Keys(kb.ArrowRight)
	name := p.Text("#l-name")
	back := storetest.Away(t, st)
	p.Do(cdp.Reload())
	p.Until(`window.wavekineLead && wavekineLead.player.started > 0 && document.querySelectorAll('#l-fig path').length > 3`)
	assert.Equal(t, name, p.Text("#l-name"), "the page came from what was kept, and went on")
	p.Keys("q")
	p.Until(`document.querySelector('#l-done-where').textContent.includes('kept here')`)
	back()
	webtest.SentWhenBack(p)
	webtest.SavedRun(p)
	assert.Equal(t, before+1, count(t, st))
	p.Expect("Failed to load resource")
	p.Expect("service worker")
}

// The session is changed while it is being led: after a reload the teacher chooses; nothing of what was led is lost.
func TestTheSessionChangesMeanwhile(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	before := count(t, st)
	for i, c := range []struct {
		choose string
		rev    int
	}{{"#l-ask-yes", 1}, {"#l-ask-no", 3}} {
		p.Keys(" ")
		p.Until(`wavekineLead.player.running`)
		p.Keys(kb.ArrowRight)
		v := webtest.Visit(t, base).SignIn(demo.Email)
		code, body, _ := v.Do("POST", "/sessions/short/edit", url.Values{"op": {"add"}, "line": {"swan 5"}, "rev": {fmt.Sprint(i + 1)}}, "HX-Request", "true")
		require.Equal(t, 200, code, body)
		p.Do(cdp.Reload())
		p.Until(`!document.querySelector('#l-ask').hidden`)
		assert.Contains(t, p.Text("#l-ask"), "changed while you were leading")
		p.Click(c.choose)
		if c.choose == "#l-ask-yes" {
			p.Until(`wavekineLead.player.started > 0`)
			assert.Equal(t, "Squat", p.Text("#l-name"))
		} else {
			p.Until(`document.querySelector('#l-pause').textContent.includes('Start')`)
			p.Until(`wavekine.waiting() === 0`)
			assert.Equal(t, before+2, count(t, st), "what was led so far is kept")
			p.Keys(" ")
			p.Until(`wavekineLead.player.running`)
		}
		p.Keys("q")
		webtest.SavedRun(p)
		assert.Equal(t, c.rev, webtest.Newest(t, st).Rev)
		p.Do(cdp.Reload())
		p.Until(`window.wavekineLead && document.querySelectorAll('#l-fig path').length > 3`)
	}
}

// randomJS plays classes of random steps with random keys at random moments, without a page, and gives what happened
// and what the player makes of it.
const randomJS = `(() => {
	let seed = 7; const rnd = () => { seed = (seed * 1103515245 + 12345) % 2147483648; return seed / 2147483648; }, n = (k) => Math.floor(rnd() * k);
	const kinds = ['setup', 'position', 'work', 'pulse', 'hold', 'switch', 'rest'];
	return Array.from({ length: 400 }, () => {
		const steps = Array.from({ length: 1 + n(8) }, (_, i) => { const kind = kinds[n(7)], c = kind === 'rest' || kind === 'hold' || n(5) === 0; return { s: 1000 + n(30000), kind: kind, row: '1.1.' + (1 + n(3)), reps: (kind === 'work' || kind === 'pulse') && !c ? 1 + n(12) : 0, clocked: c }; });
		let t = 1e12; const out = [];
		const p = wavekinePlayer(steps, () => t, (e) => out.push(e));
		p.toggle();
		for (let k = 0; k < 40 + n(200) && !p.ended; k++) {
			t += n(10) === 0 ? n(60000) : n(1500);
			if (n(4)) p.tick();
			switch (n(14)) { case 0: p.next(); break; case 1: p.back(); break; case 2: p.toggle(); break; case 3: p.stay(); break; case 4: p.change(1); break; case 5: p.change(-1); break; case 6: case 7: case 8: p.rep(); break; case 9: p.wait = !p.wait; break; case 10: p.note('1.1.1', 'x'); break; case 11: p.level(2); break; }
		}
		if (n(2)) p.end();
		const q = wavekinePlayer(steps, () => t, () => {});
		q.replay(p.events(), p.started);
		return { steps: steps, events: p.events(), gone: p.gone(), i: p.i, done: p.done(), target: p.target(), counted: p.counted(p.i), again: [q.gone() === p.gone(), q.i === p.i, q.done() === p.done(), q.running === p.running, q.paused === p.paused], ended: p.ended };
	});
})()`

// The player and the core read the same out of the same events: how long it took, where it stands, how many were
// counted; and a replay stands where the player stood.
func TestPlayerAndCoreAgree(t *testing.T) {
	base, st := webtest.Site(t)
	withShort(t, st)
	p := openLead(t, base, "short")
	type step struct {
		S       int64
		Kind    timeline.Kind
		Row     plan.Path
		Reps    int
		Clocked bool
	}
	var all []struct {
		Steps   []step
		Events  []map[string]any
		Gone    int64
		I, Done int
		Target  int
		Counted bool
		Again   []bool
		Ended   bool
	}
	require.NoError(t, json.Unmarshal([]byte(browsertest.JS[string](p, `JSON.stringify(`+randomJS+`)`)), &all))
	require.Len(t, all, 400)
	for n, c := range all {
		for _, ok := range c.Again {
			require.True(t, ok, "class %d: a replay stands where the player stood", n)
		}
		r := &run.Run{ID: "0123456789", Session: "short", Rev: 1, Title: "T", Teacher: "maren", Started: webtest.Thursday}
		for _, s := range c.Steps {
			r.Steps = append(r.Steps, run.Step{Row: s.Row, Name: "x", Kind: s.Kind, S: clock.Span(s.S), Usual: clock.Span(s.S), Reps: s.Reps, Clocked: s.Clocked})
		}
		doc, err := json.Marshal(r)
		require.NoError(t, err)
		for _, e := range c.Events {
			e["at"] = e["at"].(float64) / 1000
		}
		var d map[string]any
		require.NoError(t, json.Unmarshal(doc, &d))
		d["events"] = c.Events
		doc, err = json.Marshal(d)
		require.NoError(t, err)
		r, err = run.Read(doc)
		require.NoError(t, err, "class %d: %s", n, doc)
		taken, _ := r.Taken()
		if c.Ended {
			require.Equal(t, clock.Span(c.Gone), taken, "class %d: %s", n, doc)
		} else {
			require.LessOrEqual(t, taken, clock.Span(c.Gone), "class %d: what has passed since the last event is not in it", n)
		}
		vs := r.Visits()
		last := vs[len(vs)-1]
		require.Equal(t, c.I, last.Step, "class %d", n)
		require.Equal(t, c.Done, last.Hand+last.Clock, "class %d", n)
		if c.Counted {
			require.Equal(t, c.Target, max(0, r.Steps[last.Step].Count()+last.More), "class %d", n)
		}
		sum := clock.Span(0)
		for _, v := range vs {
			sum += v.Taken()
		}
		require.Equal(t, taken, sum, "class %d: every second is in one step: %s", n, doc)
	}
}
