package lead_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	neturl "net/url"
	"slices"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/run"
	"wavekine/core/timeline"
	"wavekine/demo"
	"wavekine/store/storetest"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

func openLead(t *testing.T, url, id string) *browsertest.Page {
	t.Helper()
	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	p.Go(url + "/sessions/" + id + "/lead")
	p.Until(`document.querySelectorAll('#l-fig path').length > 3`)
	if browsertest.JS[bool](p, `!document.querySelector('#l-open').hidden`) { // what is said before the first movement
		p.Click("[data-lead=opened]")
	}
	return p
}

// next goes on until the player shows something.
func goTo(p *browsertest.Page, js string) {
	p.T.Helper()
	p.Do(cdp.Evaluate[cdp.Void](fmt.Sprintf(`for (let i = 0; i < 200 && !(%s); i++) document.querySelector('[data-lead=next]').click(); void 0`, js)))
	p.Until(js)
}

func TestLeadingAClass(t *testing.T) {
	url, st := webtest.Site(t)
	p := openLead(t, url, "wheel-side-hips")
	assert.Equal(t, "Rib breathing", p.Text("#l-name"))
	assert.Contains(t, p.Text("#l-clock"), "0:00 gone · 20:00 left")
	p.Keys(" ")
	p.Until(`/0:0[1-9] gone/.test(document.querySelector('#l-clock').textContent)`)
	assert.Positive(t, browsertest.JS[int](p, `(document.querySelector('[data-lead=next]').click(), window.wavekineTones || 0)`), "a sound at the change")

	// Side words, mirrored for the people facing.
	goTo(p, `document.querySelector('#l-name').textContent === 'Bird dog' && /of 8/.test(document.querySelector('#l-of').textContent)`)
	assert.Equal(t, "say right leg, your right", p.Text("#l-side"), "on hands and knees one is seen from the side: there is nothing to mirror")
	p.Keys("m")
	p.Until(`document.querySelector('#l-mirror').getAttribute('aria-pressed') === 'false'`)
	p.Keys("m")
	assert.Contains(t, p.Text("#l-easier"), "toe stays down")
	assert.Contains(t, p.Text("#l-harder"), "opposite arm")
	assert.Contains(t, p.Text("#l-next"), "Rainbow leg 8 reps, in")
	// Counting goes on by itself; one more and one fewer change the count.
	p.Until(`document.querySelector('#l-num').textContent === '2'`)
	p.Keys("\uE000") // a key that does nothing
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[data-lead=more]').click(); void 0`))
	p.Until(`document.querySelector('#l-of').textContent.includes('of 9')`)
	p.Do(cdp.Evaluate[cdp.Void](`for (let i = 0; i < 3; i++) document.querySelector('[data-lead=fewer]').click(); void 0`))
	p.Until(`document.querySelector('#l-of').textContent.includes('of 6')`)
	// The easier figure.
	before := browsertest.JS[string](p, `document.querySelector('#l-fig').innerHTML`)
	p.Keys("e")
	p.Until(`document.querySelector('#l-easy').getAttribute('aria-pressed') === 'true'`)
	assert.NotEqual(t, before, browsertest.JS[string](p, `document.querySelector('#l-fig').innerHTML`))
	// The breath's dot moves along the swell.
	x := browsertest.JS[float64](p, `+document.querySelector('#l-dot').getAttribute('cx')`)
	p.Until(fmt.Sprintf(`Math.abs(+document.querySelector('#l-dot').getAttribute('cx') - %g) > 5`, x))
	// A note on this row.
	p.Keys("n")
	p.Until(`document.activeElement.id === 'l-notetext'`)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('#l-notetext').value = 'hips tipped'; document.querySelector('#l-noteform').requestSubmit(); void 0`))
	assert.Empty(t, p.Axe())

	// A reload in mid-class goes on where it was.
	name, of := p.Text("#l-name"), p.Text("#l-of")
	p.Do(cdp.Reload())
	p.Until(`document.querySelector('#l-status') && document.querySelector('#l-name').textContent !== ''`)
	assert.Equal(t, name, p.Text("#l-name"))
	assert.Equal(t, of, p.Text("#l-of"))

	// Stop: what was planned and what was taken is in the log, by row and side.
	p.Keys("q")
	p.Until(`!document.querySelector('#l-done').hidden`)
	p.Until(`document.querySelector('#l-done-where').textContent.includes('The server has it')`)
	runs, err := st.Runs(context.Background(), "claybank", 1)
	require.NoError(t, err)
	require.Equal(t, "Wheel-side hips and upper back", runs[0].Title)
	assert.False(t, runs[0].Finished)
	run, err := st.Run(context.Background(), "claybank", runs[0].ID)
	require.NoError(t, err)
	sides := map[string]bool{}
	for _, r := range run.Rows {
		if r.Name == "Bird dog" && r.Kind == "work" {
			sides[r.Side] = true
			assert.Equal(t, 8, r.PlannedReps)
			assert.Equal(t, "hips tipped", r.Note)
		}
	}
	assert.Equal(t, map[string]bool{"right": true, "left": true}, sides)
	p.Click("#l-done-log")
	p.Until(`document.querySelector('h1')?.textContent === 'Wheel-side hips and upper back' && document.body.textContent.includes('Where the time went')`)
}

// The network goes in mid-class: the class goes on, also over a reload; what was recorded is sent
// when the server is back.
func TestLeadingWithoutTheNetwork(t *testing.T) {
	url, st, cut := cutSite(t)
	p := openLead(t, url, "kiln-circuit")
	p.Until(`document.documentElement.dataset.offline === 'ready'`)
	p.Keys(" ")
	goTo(p, `document.querySelector('#l-name').textContent === 'Squat'`)
	before, err := st.Runs(context.Background(), "claybank", 20)
	require.NoError(t, err)

	cut.Store(true)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[data-lead=next]').click(); void 0`))
	name := p.Text("#l-name")
	p.Do(cdp.Reload())
	p.Until(`document.querySelector('#l-name') && document.querySelector('#l-name').textContent !== '' && document.querySelectorAll('#l-fig path').length > 3`)
	assert.Equal(t, name, p.Text("#l-name"), "the page and its figures came from the cache")
	p.Keys("q")
	p.Until(`document.querySelector('#l-done-where').textContent.includes('kept here')`)
	assert.Equal(t, 1, browsertest.JS[int](p, `wavekine.waiting()`))

	cut.Store(false)
	webtest.SentWhenBack(p)
	after, err := st.Runs(context.Background(), "claybank", 20)
	require.NoError(t, err)
	assert.Len(t, after, len(before)+1)
	p.Expect("Failed to load resource")
	p.Expect("service worker")
}

// What is sent is read strictly, and nobody writes over somebody else's.
func TestRunsAreReadStrictly(t *testing.T) {
	url, st := webtest.Site(t)
	v := webtest.Visit(t, url).SignIn(demo.Email)
	r := webtest.HandLed(webtest.LeadRun(t, v, "/sessions/kiln-circuit"), func(*run.Step) float64 { return 1 })
	code, says := webtest.Sent(t, v, r)
	require.Equal(t, 200, code, says)
	code, _ = webtest.Sent(t, v, r)
	assert.Equal(t, 200, code, "again is the same run")
	b, err := json.Marshal(r)
	require.NoError(t, err)
	good := string(b)
	for old, c := range map[string][2]string{
		`{"at":0,"does":"began"}`:   {`{"at":-5,"does":"began"}`, "$.events[0].at"},
		`"row":"1.1.1"`:             {`"row":"first"`, "is not a place"},
		`"rev":1`:                   {`"rev":"1"`, "$.rev"},
		`{"format"`:                 {`{"extra":1,"format"`, "$.extra: unknown key"},
		`2026-05-14T`:               {`2026-02-31T`, "$.started"},
		`"session":"kiln-circuit"`:  {`"session":"nowhere"`, "is not there"},
		`"teacher":"maren"`:         {`"teacher":"tobias"`, "led by another teacher"},
		`"format":"wavekine.run/1"`: {"\"format\":\"\xff\"", "UTF-8"},
	} {
		bad := strings.Replace(good, old, c[0], 1)
		require.NotEqual(t, good, bad, old)
		code, says := webtest.SentText(t, v, bad)
		assert.GreaterOrEqual(t, code, 400)
		assert.Less(t, code, 500)
		assert.Contains(t, says, c[1])
	}
	runs, err := st.Runs(context.Background(), "claybank", 20)
	require.NoError(t, err)
	assert.Len(t, runs, 5)

	// Another teacher with the same id, and another way the class went.
	theirs := *r
	theirs.Teacher = "tobias"
	code, says = webtest.Sent(t, webtest.Visit(t, url).SignIn("tobias@claybank.example"), &theirs)
	assert.Equal(t, http.StatusConflict, code)
	assert.Contains(t, says, "recorded by somebody else")
	other := *r
	other.Events = append(slices.Clone(r.Events[:3]), run.Event{At: r.Events[3].At + 1, Does: run.Ended, Early: true})
	code, says = webtest.Sent(t, v, &other)
	assert.Equal(t, http.StatusConflict, code)
	assert.Contains(t, says, "recorded differently")
	got, err := st.Run(context.Background(), "claybank", r.ID)
	require.NoError(t, err)
	assert.Equal(t, "maren", got.TeacherID)
	assert.True(t, got.Finished)
}

// The answers of a school are heard when the class is led: counts go down at the end, the pelvis and the
// breath are said, the side that begins follows the day, and the demo shows the level that was chosen.
func TestLeadingInASchool(t *testing.T) {
	url, st := webtest.Site(t)
	doc := `{"format":"wavekine.session/1","title":"In a school","style":{"first_side":"by day","pelvis":"by load","breath":"nose-nose","countdown":3},
		"sections":[{"title":"A","blocks":[{"rule":"straight","rows":[
			{"movement":"hundred","level":2,"dose":"10 breaths, 5 in 5 out","options":[1],"demo":1},{"movement":"bird-dog","dose":"4 each side"}]}]}]}`
	require.NoError(t, st.Sessions.Create(context.Background(), "claybank", "in-a-school", storetest.Change(t, "maren", "made", string(doc))))
	v := webtest.Visit(t, url).SignIn(demo.Email)
	sides := map[string]bool{}
	for day, want := range map[int]string{1: "right", 2: "left"} {
		s, err := plan.ReadSession([]byte(doc), movement.Shipped())
		require.NoError(t, err)
		tl, err := timeline.Build(s.ForDay(day), movement.Shipped())
		require.NoError(t, err)
		for i := range tl.Steps {
			if tl.Steps[i].Side != timeline.Both && tl.Steps[i].Kind.Working() {
				assert.Equal(t, want, tl.Steps[i].Side.String(), "day %d", day)
				sides[tl.Steps[i].Side.String()] = true
				break
			}
		}
	}
	assert.Len(t, sides, 2)
	code, page, _ := v.Do("GET", "/sessions/in-a-school/lead", nil)
	require.Equal(t, http.StatusOK, code)
	assert.Contains(t, page, "Imprint while both legs are up.")
	assert.Contains(t, page, "in and out by the nose")

	p := openLead(t, url, "in-a-school")
	hundred, _ := movement.Shipped().Get("hundred")
	assert.Equal(t, "Easier "+hundred.At(1).Changes, p.Text("#l-easier"), "the easier one that this row offers")
	assert.True(t, browsertest.JS[bool](p, `(s => s.level === 2 && s.fig !== '' && s.fig === s.figEasy)(JSON.parse(document.querySelector('#lead-data').textContent).steps.find(s => s.name === 'The hundred'))`), "level 2 is done, level 1 is shown")
	p.Keys(" ")
	goTo(p, `document.querySelector('#l-name').textContent === 'Bird dog' && /of 4/.test(document.querySelector('#l-of').textContent)`)
	p.Until(`document.querySelector('#l-of').textContent === ' to go' && document.querySelector('#l-num').textContent === '3'`)
	p.Until(`document.querySelector('#l-num').textContent === '2'`)
	p.Until(`document.querySelector('#l-num').textContent === '1'`)
}

// A circuit by the clock whose rows have doses shows them as what to aim for, round by round.
func TestTheAimOfACircuit(t *testing.T) {
	base, _ := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	at := webtest.NewSession(t, v, "Kiln circuit, counted", "10:00")
	code, body, _ := v.Do("POST", at+"/edit", neturl.Values{"op": {"paste"}, "rev": {"1"}, "text": {"Circuit x2, 40 s on 20 s off\nsquat 10\nbridge 12"}}, "HX-Request", "true")
	require.Equal(t, 200, code, body)
	p := openLead(t, base, strings.TrimPrefix(at, "/sessions/"))
	p.Keys(" ")
	p.Until(`wavekineLead.player.started`)
	goTo(p, `document.querySelector('#l-place').textContent.includes('round 1 · aim for 10 reps')`)
	p.Shot("lead-aim")
	goTo(p, `document.querySelector('#l-place').textContent.includes('round 2 · aim for 12 reps')`)
}
