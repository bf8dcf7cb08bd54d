package web_test

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"net/url"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/pace"
	"wavekine/demo"
	"wavekine/store"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

// thorough tells whether the long checks run whole (make thorough) or a tenth of them.
func thorough() bool { return os.Getenv("THOROUGH") != "" }

// teacherJS is a teacher who leads by their own pace through the keys of the lead screen. They know what they do: what
// is on is theirs to say, and the player has to follow. Set-ups, changes and repetitions take them their own
// factors of the usual time, each step with noise (log-normal); what the clock ends they leave to the clock. Where
// the player goes on by itself while they are still at it, they notice after most of a second.
const teacherJS = `window.teach = (cfg) => {
	let seed = cfg.seed >>> 0;
	const rnd = () => { seed = (seed + 0x6D2B79F5) >>> 0; let t = Math.imul(seed ^ (seed >>> 15), 1 | seed); t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t; return ((t ^ (t >>> 14)) >>> 0) / 4294967296; };
	const noise = () => Math.exp(cfg.noise * Math.sqrt(-2 * Math.log(1 - rnd())) * Math.cos(2 * Math.PI * rnd()));
	const start = 1.8e12 + cfg.seed * 1e7; let off = 0;
	Date.now = () => start + off;
	const key = (k) => document.dispatchEvent(new KeyboardEvent('keydown', { key: k, bubbles: true }));
	const plan = JSON.parse(document.querySelector('#lead-data').textContent).run.steps, P = wavekineLead.player;
	const mine = (i) => { const s = plan[i], f = s.kind === 'setup' ? cfg.talk : s.kind === 'position' || s.kind === 'switch' ? cfg.changes : cfg.tempo; return s.usual * 1000 * f * noise(); };
	let i = 0, begun = off, need = mine(0), said = 0, late = 0;
	if (cfg.style === 'wait') key('w');
	key(' ');
	const done = () => document.querySelector('#lead').hidden;
	for (let guard = 0; guard < 60000 && !done(); guard++) {
		off += 200; wavekineLead.tick();
		if (done()) break;
		const s = plan[i], n = (s.reps || 0) + (s.breaths || 0);
		if (s.clocked) { if (P.i > i) { i = P.i; begun = off; need = i < plan.length ? mine(i) : 0; said = 0; late = 0; } continue; }
		if (cfg.style === 'tap' && n && said < n && off - begun >= (said + 1) * need / n && P.i === i) { said++; key('c'); if (done()) break; }
		if (off - begun >= need) {
			if (P.i === i) key('ArrowRight');
			i++; begun = off; said = 0; late = 0;
			if (i < plan.length) need = mine(i); else break;
		} else if (P.i > i) {
			late += 200;
			if (late >= 800) { key('t'); late = 0; }
		}
	}
	return done();
}; true`

// A teacher whose seconds differ from the product's by factors of 0.6 to 1.8 leads three classes through the real
// player, takes what was learnt, and is told how long the fourth will be.
func TestTeachersAreLearnt(t *testing.T) {
	_, st := webtest.Site(t)
	_, err := st.DB.Exec(`DELETE FROM runs`)
	require.NoError(t, err)
	classes := []string{"thursday-mat", "wheel-side-hips", "wrists-and-upper-back", "between-firings"}
	teachers, enough := 2, 2
	if thorough() {
		teachers, enough = 20, 18
	}
	r := rand.New(rand.NewPCG(20, 26))
	good := 0
	var errs, before []float64
	for n := range teachers {
		factor := func() float64 { return math.Exp(math.Log(.6) + r.Float64()*math.Log(1.8/.6)) }
		want := map[pace.Part]float64{pace.Tempo: factor(), pace.Talk: factor(), pace.Changes: factor()}
		style := []string{"tap", "not yet", "wait"}[n%3]
		id := fmt.Sprintf("sim%d", n)
		require.NoError(t, st.AddTeacher(context.Background(), store.Teacher{StudioID: "claybank", ID: id, Email: id + "@claybank.example", Name: "Simulated", PasswordHash: webtest.CheapHash(demo.Password)}))
		base := webtest.ServeStore(t, st) // a door of their own: sign-ins at one door are slowed down
		v := webtest.Visit(t, base).SignIn(id + "@claybank.example")
		p := webtest.SignedInPage(t, base, id+"@claybank.example", 1280, 800)
		lead := func(k int) {
			t.Helper()
			p.Go(base + "/sessions/" + classes[(n+k)%len(classes)] + "/lead")
			p.Until(`window.wavekineLead && document.querySelectorAll('#l-fig path').length > 3`)
			webtest.Run1(p, teacherJS)
			cfg := fmt.Sprintf(`{seed: %d, noise: .15, style: %q, tempo: %g, talk: %g, changes: %g}`, 100*n+k, style, want[pace.Tempo], want[pace.Talk], want[pace.Changes])
			require.True(t, browsertest.JS[bool](p, `teach(`+cfg+`)`), "the class came to its end")
			webtest.SavedRun(p)
		}
		for k := range 3 {
			lead(k)
		}
		at := "/sessions/" + classes[(n+3)%len(classes)]
		unlearnt := webtest.LengthOf(t, v, at)
		code, body, _ := v.Do("POST", "/house/pace", url.Values{"do": {"all"}}, "HX-Request", "true")
		require.Equal(t, 303, code, body)
		ps, err := st.Paces(context.Background(), "claybank", id)
		require.NoError(t, err)
		got := map[string]float64{}
		for _, p := range ps {
			got[p.Slug] = p.Pace
		}
		ok := true
		for part, f := range want {
			ok = ok && math.Abs(got[part.Key()]/f-1) < .1
		}
		if ok {
			good++
		}
		promised := webtest.LengthOf(t, v, at)
		lead(3)
		taken, _ := webtest.Newest(t, st).Taken()
		errs = append(errs, math.Abs(promised.Seconds()/taken.Seconds()-1))
		before = append(before, math.Abs(unlearnt.Seconds()/taken.Seconds()-1))
		t.Logf("teacher %d (%s): tempo %.2f learnt %.2f, talk %.2f learnt %.2f, changes %.2f learnt %.2f; fourth class promised %s (%s before), taken %s", n, style,
			want[pace.Tempo], got["~tempo"], want[pace.Talk], got["~talk"], want[pace.Changes], got["~changes"], promised, unlearnt, taken)
	}
	slices.Sort(errs)
	slices.Sort(before)
	t.Logf("%d of %d learnt within a tenth; length promised for the fourth class: median error %.1f %%, at most %.1f %% (before learning %.1f %% and %.1f %%)",
		good, teachers, 100*errs[len(errs)/2], 100*errs[len(errs)-1], 100*before[len(before)/2], 100*before[len(before)-1])
	assert.GreaterOrEqual(t, good, enough)
	assert.Less(t, errs[len(errs)/2], .05)
}
