package room_test

import (
	"bufio"
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	cdp "github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/store"
	"wavekine/web"
	"wavekine/web/browsertest"
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

// led begins a class and opens its room.
func led(t *testing.T, base, id string) (p *browsertest.Page, code string) {
	t.Helper()
	p = webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + "/sessions/" + id + "/lead")
	p.Until(`document.querySelectorAll('#l-fig path').length > 3`)
	p.Keys(" ")
	p.Until(`wavekineLead.player.running && wavekineLead.room.code`)
	p.Keys("r")
	p.Until(`document.querySelector('#l-room-says b')`)
	code = p.Text("#l-room-says b")
	assert.Len(t, code, 6)
	p.Click("#l-room-back")
	return p, code
}

// A tablet that nobody has signed in on follows by a short code: what, which side, the count, what is next; it goes on when the teacher's page is reloaded, and ends with
// the class.
func TestATabletFollows(t *testing.T) {
	base, st := webtest.Site(t)
	p, code := led(t, base, "wheel-side-hips")
	q := browsertest.NewPage(t, 1024, 768)
	q.Go(base + "/room")
	q.Do(cdp.SendKeys(cdp.CSS("[name=code]"), strings.ToLower(code[:3])+" "+code[3:]+"\r"))
	q.Until(`window.wavekineRoom && wavekineRoom.state && document.querySelectorAll('#r-fig path').length > 3`)
	assert.Equal(t, "Rib breathing", q.Text("#r-name"))
	p.Do(cdp.Evaluate[cdp.Void](`for (let k = 0; k < 60 && document.querySelector('#l-name').textContent !== 'Bird dog'; k++) document.querySelector('[data-lead=next]').click(); void 0`))
	p.Until(`document.querySelector('#l-name').textContent === 'Bird dog'`)
	q.Until(`document.querySelector('#r-name').textContent === 'Bird dog'`)
	p.Do(cdp.Evaluate[cdp.Void](`while (!/of 8/.test(document.querySelector('#l-of').textContent)) { document.querySelector('[data-lead=next]').click(); } void 0`))
	q.Until(`document.querySelector('#r-side').textContent === 'right leg' && /of 8/.test(document.querySelector('#r-of').textContent)`)
	assert.Contains(t, q.Text("#r-easier"), "toe stays down")
	assert.Contains(t, q.Text("#r-next"), "Rainbow leg in")
	assert.False(t, browsertest.JS[bool](q, `document.querySelector('#r-fig svg').classList.contains('flip')`))
	p.Do(cdp.Evaluate[cdp.Void](`for (let k = 0; k < 60 && wavekineLead.player.step.side !== 'left'; k++) document.querySelector('[data-lead=next]').click(); void 0`))
	q.Until(`document.querySelector('#r-side').classList.contains('left') && document.querySelector('#r-fig svg')?.classList.contains('flip')`)
	assert.Empty(t, q.Axe())
	q.Shot("room")

	p.Keys(" ")
	q.Until(`document.querySelector('#r-status').textContent === 'paused'`)
	p.Do(cdp.Reload())
	p.Until(`window.wavekineLead && wavekineLead.player.started && wavekineLead.room.code`)
	assert.Equal(t, code, browsertest.JS[string](p, `wavekineLead.room.code`), "the same room")
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[data-lead=next]').click(); void 0`))
	q.Until(fmt.Sprintf(`wavekineRoom.state.i === %d`, browsertest.JS[int](p, `wavekineLead.player.i`)))
	p.Keys(" ")
	q.Until(`document.querySelector('#r-status').textContent === ''`)
	p.Keys("q")
	q.Until(`document.querySelector('#r-name').textContent === 'The class has ended'`)
	c, _, _ := webtest.Visit(t, base).Do("GET", "/room/"+code, nil)
	assert.Equal(t, 404, c, "the code opens nothing any more")
	_ = st
}

// What is told arrives at a screen that hangs on another instance of the program within 200 ms.
func TestAnotherInstanceTellsWithinABlink(t *testing.T) {
	one, st := webtest.Site(t)
	two := webtest.ServeStore(t, st)
	ctx := context.Background()
	r, err := st.OpenRoom(ctx, store.Room{StudioID: "claybank", TeacherID: "maren", SessionID: "wheel-side-hips", Leader: "a-page", Class: []byte(`{"title":"T","steps":[]}`)}, false)
	require.NoError(t, err)
	_ = one
	req, err := http.NewRequestWithContext(ctx, "GET", two+"/room/"+r.Code+"/live", nil)
	require.NoError(t, err)
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	defer func() { _ = res.Body.Close() }()
	assert.Equal(t, "text/event-stream", res.Header.Get("Content-Type"))
	lines := make(chan string, 100)
	go func() {
		for s := bufio.NewScanner(res.Body); s.Scan(); {
			lines <- s.Text()
		}
	}()
	until := func(what string) time.Time {
		t.Helper()
		for {
			select {
			case l := <-lines:
				if strings.Contains(l, what) {
					return time.Now()
				}
			case <-time.After(10 * time.Second):
				require.Fail(t, "nothing was told of "+what)
			}
		}
	}
	until("event: class")
	var took []time.Duration
	for i := range 20 {
		at := time.Now()
		require.NoError(t, st.TellRoom(ctx, "claybank", r.Code, "a-page", []byte(fmt.Sprintf(`{"i":%d}`, i)), false))
		took = append(took, until(fmt.Sprintf(`"i":%d`, i)).Sub(at))
	}
	slices.Sort(took)
	t.Logf("median %s, slowest %s", took[10], took[19])
	assert.Less(t, took[10], 200*time.Millisecond)
	require.ErrorIs(t, st.TellRoom(ctx, "claybank", r.Code, "another-page", []byte(`{}`), false), store.ErrRoomGone)
	require.ErrorIs(t, st.TellRoom(ctx, "other", r.Code, "a-page", []byte(`{}`), false), store.ErrRoomGone)
	require.NoError(t, st.TellRoom(ctx, "claybank", r.Code, "a-page", []byte(`{}`), true))
	until("event: ended")
}

// On the same machine the screen follows also while the network is cut, and it comes back by itself when the connection to the database was lost.
func TestWithoutTheNetwork(t *testing.T) {
	base, st := webtest.Site(t)
	p, code := led(t, base, "wheel-side-hips")
	q := p.Tab(1024, 768)
	q.Go(base + "/room/" + code)
	q.Until(`window.wavekineRoom && wavekineRoom.state && document.querySelector('#r-name').textContent === 'Rib breathing'`)
	p.Do(cdp.Evaluate[cdp.Void](`window.realFetch = fetch; window.fetch = () => Promise.reject(new Error('cut')); void 0`)) // nothing it says reaches the server
	for range 3 {
		p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[data-lead=next]').click(); void 0`))
	}
	name := p.Text("#l-name")
	q.Until(fmt.Sprintf(`document.querySelector('#r-name').textContent === %q`, name))
	p.Do(cdp.Evaluate[cdp.Void](`window.fetch = realFetch; void 0`))

	far := browsertest.NewPage(t, 1024, 768)
	far.Go(base + "/room/" + code)
	far.Until(`window.wavekineRoom && wavekineRoom.state`)
	_, err := st.DB.Exec(`SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE query LIKE 'LISTEN%' AND datname = current_database()`)
	require.NoError(t, err)
	p.Do(cdp.Evaluate[cdp.Void](`for (let k = 0; k < 6; k++) document.querySelector('[data-lead=next]').click(); void 0`))
	far.Until(`document.querySelector('#r-name').textContent === ` + fmt.Sprintf("%q", p.Text("#l-name")))
}

// Two devices: the second is told who leads, and may follow, or take over where the class is; the first is told.
func TestTwoDevicesLead(t *testing.T) {
	base, _ := webtest.Site(t)
	p, code := led(t, base, "wheel-side-hips")
	p.Do(cdp.Evaluate[cdp.Void](`for (let k = 0; k < 5; k++) document.querySelector('[data-lead=next]').click(); void 0`))
	at := browsertest.JS[int](p, `wavekineLead.player.i`)
	q := webtest.SignedInPage(t, base, demo.Second, 1280, 800)
	q.Go(base + "/sessions/wheel-side-hips/lead")
	q.Until(`document.querySelectorAll('#l-fig path').length > 3`)
	q.Keys(" ")
	q.Until(`!document.querySelector('#l-ask').hidden`)
	assert.Contains(t, q.Text("#l-ask-words"), "led by Maren")
	q.Click("#l-ask-no")
	q.Until(`location.pathname === '/room/` + code + `' && window.wavekineRoom && wavekineRoom.state`)
	q.Go(base + "/sessions/wheel-side-hips/lead")
	q.Until(`document.querySelectorAll('#l-fig path').length > 3`)
	q.Keys(" ")
	q.Until(`!document.querySelector('#l-ask').hidden`)
	q.Click("#l-ask-yes")
	q.Until(fmt.Sprintf(`wavekineLead.player.started && wavekineLead.player.i === %d`, at))
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[data-lead=next]').click(); void 0`))
	p.Until(`!document.querySelector('#l-ask').hidden && document.querySelector('#l-ask-words').textContent.includes('led elsewhere now')`)
	p.Click("#l-ask-no")
	webtest.SavedRun(p)
}

// Codes cannot be guessed through: after a few wrong ones from one address even the right one waits, and a screen that follows goes on.
func TestCodesAreNotGuessed(t *testing.T) {
	base, st := webtest.Site(t)
	r, err := st.OpenRoom(context.Background(), store.Room{StudioID: "claybank", TeacherID: "maren", SessionID: "wheel-side-hips", Leader: "a-page", Class: []byte(`{}`)}, false)
	require.NoError(t, err)
	v := webtest.Visit(t, base)
	codes := map[int]int{}
	for k := range 40 {
		c, body, _ := v.Do("GET", fmt.Sprintf("/room/AAAA%02d", k), nil)
		codes[c]++
		assert.NotContains(t, body, "Wheel")
	}
	assert.Greater(t, codes[404], 5)
	assert.Greater(t, codes[429], 20)
	for _, bad := range []string{"", "%00", "ABCDEF'--", strings.Repeat("A", 500)} {
		c, _, _ := v.Do("GET", "/room/x"+bad, nil)
		assert.Contains(t, []int{400, 404, 429}, c)
	}
	c, _, _ := v.Do("GET", "/room/"+r.Code, nil)
	assert.Equal(t, 200, c)
	_, err = st.DB.Exec(`UPDATE rooms SET told_at = now() - interval '3 hours'`)
	require.NoError(t, err)
	c, _, _ = v.Do("GET", "/room/"+r.Code, nil)
	assert.Contains(t, []int{404, 429}, c, "short-lived")
}

// What another page, another studio or nobody sends is not taken.
func TestOnlyThePageThatLeadsTells(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	send := func(path, doc string) (int, string) { return v.Raw("POST", path, []byte(doc), "application/json") }
	code, body := send("/sessions/wheel-side-hips/room", `{"tab":"a-page-that-leads","class":{"steps":[]}}`)
	require.Equal(t, 200, code, body)
	r := struct{ Code string }{body[strings.Index(body, `"code":"`)+8:][:6]}
	for doc, want := range map[string]int{
		`{"tab":"a-page-that-leads","state":{"i":1}}`: 204, `{"tab":"another-page","state":{"i":1}}`: 200, `{"tab":"a-page-that-leads"}`: 422, `{"tab":"a-page-that-leads","state":[1]}`: 422,
		`nonsense`: 422, `{"tab":"a-page-that-leads","state":{"i":1},"more":1}`: 422, `{"tab":"a-page-that-leads","state":{"x":"` + strings.Repeat("a", 40<<10) + `"}}`: 413,
	} {
		code, body := send("/rooms/"+r.Code, doc)
		assert.Equal(t, want, code, "%.60s: %s", doc, body)
	}
	code, _ = webtest.Visit(t, base).Raw("POST", "/rooms/"+r.Code, []byte(`{"tab":"a-page-that-leads","state":{"i":1}}`), "application/json")
	assert.Contains(t, []int{303, 401}, code)
	_ = st
}

// A server that stops is not kept waiting by screens that follow.
func TestScreensDoNotKeepAServer(t *testing.T) {
	_, st := webtest.Site(t)
	h, err := web.New(st, kit.Options{})
	require.NoError(t, err)
	srv := httptest.NewUnstartedServer(h)
	srv.Start()
	r, err := st.OpenRoom(context.Background(), store.Room{StudioID: "claybank", TeacherID: "maren", SessionID: "wheel-side-hips", Leader: "a-page", Class: []byte(`{}`)}, false)
	require.NoError(t, err)
	res, err := http.Get(srv.URL + "/room/" + r.Code + "/live")
	require.NoError(t, err)
	defer func() { _ = res.Body.Close() }()
	srv.Config.RegisterOnShutdown(h.Stop)
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	require.NoError(t, srv.Config.Shutdown(ctx))
}
