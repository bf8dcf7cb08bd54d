package people_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"slices"
	"sync"
	"testing"
	"time"

	cdp "github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/brief"
	"wavekine/core/group"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/progress"
	"wavekine/demo"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/store/storetest"
	"wavekine/web"
	"wavekine/web/browsertest"
	"wavekine/web/kit"
	"wavekine/web/people"
	"wavekine/web/webtest"
)

func TestMain(m *testing.M) { browsertest.Main(m) }

// The way of a teacher: somebody new with words that are read and confirmed, into a group, their version beside the plan, the letter with the link, what the check-ins say decided with a key.
func TestTheWayOfATeacher(t *testing.T) {
	url, st := webtest.Site(t)
	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	open := func(path string) {
		p.Go(url + path)
		p.Until(`document.readyState === 'complete'`)
	}
	open("/people")
	assert.Empty(t, p.Axe())
	p.Click("#person-new [name=name]")
	p.Keys("Wren Ash")
	p.Click("#person-new [name=watch]")
	p.Keys("old disc trouble, wrists")
	p.Until(`Array.from(document.querySelectorAll('#person-new [name=topic]'), c => c.value).join() === 'low back,wrists'`)
	assert.Empty(t, p.Axe())
	p.Click("#person-new button")
	p.Until(`document.querySelector('h1')?.textContent === 'Wren Ash' && document.readyState === 'complete'`)
	ms, err := st.Movers(context.Background(), "claybank")
	require.NoError(t, err)
	i := slices.IndexFunc(ms, func(m store.Mover) bool { return m.Name == "Wren Ash" })
	assert.Equal(t, store.Topics{"low back", "wrists"}, ms[i].Topics)
	p.Do(cdp.Evaluate[cdp.Void](`(f => { f.elements.group.value = 'morning-wheel'; f.requestSubmit(); })(Array.from(document.querySelectorAll('form')).find(f => f.querySelector('select[name=group]'))); void 0`))
	p.Until(`document.querySelector('.room') && document.readyState === 'complete'`)
	assert.Empty(t, p.Axe())
	p.Do(cdp.Evaluate[cdp.Void](`Array.from(document.querySelectorAll('a')).find(a => a.textContent.includes('Their version of the next class')).click(); void 0`))
	p.Until(`location.pathname.endsWith('/version') && document.readyState === 'complete' && document.querySelectorAll('.wave-pair svg').length === 2`)
	assert.Empty(t, p.Axe())
	assert.NotEmpty(t, p.Text("table"))
	open("/people/" + ms[i].ID)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('input[name=invite]').form.requestSubmit(); void 0`))
	p.Until(`document.readyState === 'complete' && document.querySelector('a[href^="/letters/"]')`)
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('a[href^="/letters/"]:not([href="/letters"])').click(); void 0`))
	p.Until(`document.readyState === 'complete' && document.querySelector('pre.letter')`)
	assert.Contains(t, p.Text("pre.letter"), "Hello Wren")
	assert.Contains(t, p.Text("pre.letter"), "begins on Thursday 14 May", "who comes on day 8 begins with it")
	assert.Empty(t, p.Axe())
	p.Do(cdp.Evaluate[cdp.Void](`Array.from(document.querySelectorAll('a')).find(a => a.textContent === 'Open their page').click(); void 0`))
	p.Until(`document.readyState === 'complete' && document.querySelector('.m-top')?.innerText.includes('Wren')`)

	open("/") // the first that waits, with a key
	assert.Empty(t, p.Axe())
	require.Contains(t, p.Text("main"), "Jonah Reddy: hurt in")
	p.Keys("o")
	p.Until(`document.readyState === 'complete' && !document.querySelector('main').innerText.includes('Jonah Reddy: hurt in')`)
	require.Contains(t, p.Text("main"), "Ines Caldecott: feels")
	p.Keys("b")
	p.Until(`document.readyState === 'complete' && !document.querySelector('main').innerText.includes('Ines Caldecott: feels')`)
	open("/groups/morning-wheel")
	assert.Empty(t, p.Axe())
	assert.Contains(t, p.Text("main"), "left out until cleared")
	assert.Contains(t, p.Text("main"), "one rung back")
	open("/groups/morning-wheel/review")
	assert.Empty(t, p.Axe())
	assert.NotEmpty(t, browsertest.JS[string](p, `document.querySelector('input[name=brief]').value`))
	p.Keys("l") // one key from being laid
	p.Until(`location.pathname.startsWith('/series/') && document.readyState === 'complete'`)
}

// Letters that are due are written once however often it is asked, only to who asked for them, and stop with the switch.
func TestLettersThatAreDue(t *testing.T) {
	st := storetest.New(t)
	ctx := context.Background()
	_, err := demo.Load(ctx, st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	require.NoError(t, st.Remind(ctx, "claybank", "ines", true)) // she has an address; marit has none
	require.NoError(t, st.Remind(ctx, "claybank", "marit", true))
	a, err := kit.New(st, kit.Options{Now: func() time.Time { return webtest.Thursday }, Post: webtest.Office(t, st)}, os.DirFS("../static"), nil)
	require.NoError(t, err)
	zone, err := time.LoadLocation("Europe/Lisbon")
	require.NoError(t, err)
	at := func(day, hour int) time.Time { return time.Date(2026, 5, day, hour, 5, 0, 0, zone) }
	letters := func() (kinds map[string]int) {
		ls, err := st.Letters(ctx, "claybank", "", 1000)
		require.NoError(t, err)
		kinds = map[string]int{}
		for _, l := range ls {
			kinds[l.Kind+" "+l.MoverID]++
			assert.Contains(t, l.Words, "{link}")
			assert.NotContains(t, l.Subject+l.Words, "{name}")
		}
		return kinds
	}
	require.NoError(t, people.Rounds(ctx, a, at(14, 3)))
	assert.Empty(t, letters(), "nobody is woken")
	for range 3 {
		require.NoError(t, people.Rounds(ctx, a, at(14, 7)))
		require.NoError(t, people.Rounds(ctx, a, at(14, 12)))
	}
	assert.Equal(t, map[string]int{"remind perpetua": 1, "remind ines": 1}, letters())
	for day := 15; day <= 24; day++ { // nobody says anything any more
		require.NoError(t, people.Rounds(ctx, a, at(day, 8)))
	}
	got := letters()
	assert.Equal(t, 1, got["missed perpetua"], "at most one")
	assert.Equal(t, 1, got["missed ines"])
	assert.Equal(t, 1, got["weekly perpetua"], "the Monday of the week in which there are classes")
	for k := range got {
		assert.NotContains(t, k, "marit")
		assert.NotContains(t, k, "anselm")
	}
	v := webtest.Visit(t, webtest.ServeWith(t, st, kit.Options{})).SignIn(demo.Email)
	_, house, _ := v.Do("GET", "/house", nil)
	rev := regexp.MustCompile(`name="rev" value="(\d+)"`).FindStringSubmatch(house)
	code, body, _ := v.Do("POST", "/house", url.Values{"rev": {rev[1]}, "post": {"off"}, "wording-invite": {"Come, {name}\r\n\r\n{link}"}})
	require.Less(t, code, 400, body)
	_, err = st.DB.Exec(`DELETE FROM letters`)
	require.NoError(t, err)
	require.NoError(t, people.Rounds(ctx, a, at(14, 9)))
	assert.Empty(t, letters(), "stopped with one switch")
	code, _, _ = v.Do("POST", "/groups/morning-wheel/letter", url.Values{"invite": {"yes"}})
	require.Equal(t, http.StatusSeeOther, code)
	ls, err := st.Letters(ctx, "claybank", "perpetua", 10)
	require.NoError(t, err)
	assert.Equal(t, "Come, Perpetua", ls[0].Subject, "in the house's wording")
}

// many is a studio with a group of n movers who do a series of so many days and have said how most of it went.
func many(t testing.TB, n, days int) *store.Store {
	t.Helper()
	st := storetest.New(t)
	ctx := context.Background()
	_, err := demo.Load(ctx, st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	lib := movement.Shipped()
	start := kit.Midnight(webtest.Thursday).AddDate(0, 0, -days+3)
	b, err := brief.Parse(fmt.Sprintf("%d days, 15 min, hips and core, ramp, learn side plank and bird dog", days), lib, start)
	require.NoError(t, err)
	b.Start = start
	l, err := lay.Series(ctx, lib, b, lay.Options{})
	require.NoError(t, err)
	s, err := l.Document(lib, start, 0)
	require.NoError(t, err)
	ch, err := plan.ApplySeries(&plan.Series{}, lib, &plan.BecomeSeries{Series: s, Says: "New"})
	require.NoError(t, err)
	require.NoError(t, st.Series.Create(ctx, "claybank", "large", store.Change{Doc: ch.Sealed, Says: "New", By: "maren"}))
	g := &group.Group{Name: "Large", Start: start}
	require.NoError(t, st.CreateGroup(ctx, "claybank", "large", "large", "maren", g))
	sim, err := progress.Simulate(ctx, lib, s, g, min(n, 24), days-3, 1)
	require.NoError(t, err)
	for i := range n {
		p := sim[i%len(sim)]
		id := fmt.Sprintf("many-%03d", i)
		require.NoError(t, st.SaveMover(ctx, store.Mover{StudioID: "claybank", ID: id, Name: fmt.Sprintf("%s %d", p.Name, i), Watch: p.Watch}, "maren"))
		require.NoError(t, st.Join(ctx, "claybank", "large", id, time.Time{}))
		for day, c := range p.Who.Said {
			w := *c
			w.ID = fmt.Sprintf("%s-said-day-%03d", id, day)
			require.NoError(t, st.SaveCheckIn(ctx, "claybank", id, "large", "large", &w))
		}
	}
	return st
}

func BenchmarkGrid(b *testing.B) {
	for _, n := range []int{50, 100, 200} {
		b.Run(fmt.Sprintf("%d movers, 30 days", n), func(b *testing.B) {
			days := make([]draw.GroupDay, 30)
			for i := range days {
				days[i] = draw.GroupDay{Day: i + 1, Date: webtest.Thursday.AddDate(0, 0, i), Planned: 3}
			}
			cells := make([]draw.GroupCell, 30)
			for i := range cells {
				cells[i] = draw.GroupCell{State: []string{"done", "part", "missed"}[i%3], Felt: i % 10, Plan: 3, Hurt: i%11 == 0}
			}
			for b.Loop() {
				for range n {
					draw.GroupRow(days, cells, 760, "somebody")
				}
			}
		})
	}
}

func BenchmarkGroupPage(b *testing.B) {
	for _, n := range []int{50, 100, 200} {
		st := many(b, n, 30)
		h, err := web.New(st, kit.Options{Now: func() time.Time { return webtest.Thursday }})
		require.NoError(b, err)
		srv := httptest.NewServer(h)
		v := webtest.Visit(b, srv.URL).SignIn(demo.Email)
		b.Run(fmt.Sprintf("%d movers, 30 days", n), func(b *testing.B) {
			for b.Loop() {
				if code, _, _ := v.Do("GET", "/groups/large", nil); code != 200 {
					b.Fatal(code)
				}
			}
		})
		srv.Close()
	}
}

// LOAD=60: five hundred movers open their page within so many seconds; what the answers take is told.
func TestFiveHundredOpenTheirPages(t *testing.T) {
	seconds := load(t)
	n := 500
	if seconds == 0 {
		n, seconds = 24, 1
	}
	st := many(t, n, 14)
	h, err := web.New(st, kit.Options{Now: func() time.Time { return webtest.Thursday }})
	require.NoError(t, err)
	links := make([]string, n)
	for i := range links {
		token, err := st.MakeMoverLink(context.Background(), "claybank", fmt.Sprintf("many-%03d", i), "maren")
		require.NoError(t, err)
		links[i] = "/m/" + token
	}
	took := make([]time.Duration, n)
	srv := httptest.NewServer(h)
	defer srv.Close()
	c := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 50}}
	var wg sync.WaitGroup
	for i, at := range links {
		wg.Go(func() {
			time.Sleep(time.Duration(i) * time.Duration(seconds) * time.Second / time.Duration(n))
			start := time.Now()
			res, err := c.Get(srv.URL + at)
			if assert.NoError(t, err) {
				assert.Equal(t, 200, res.StatusCode)
				_ = res.Body.Close()
			}
			took[i] = time.Since(start)
		})
	}
	wg.Wait()
	slices.Sort(took)
	t.Logf("%d movers in %d s: median %s, 95th percentile %s, slowest %s", n, seconds, took[n/2], took[n*95/100], took[n-1])
}

// load is how long a test of load goes on, in seconds, from LOAD; 0: only whether it works.
func load(t *testing.T) (seconds int) {
	t.Helper()
	_, _ = fmt.Sscan(os.Getenv("LOAD"), &seconds)
	return seconds
}

// A letter that is told twice, by a second press or because half of a group was written to, is written once; other words are another letter.
func TestALetterToldTwice(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	count := func() (n int) {
		ls, err := st.Letters(context.Background(), "claybank", "", 1000)
		require.NoError(t, err)
		for _, l := range ls {
			if l.Kind == "own" {
				n++
			}
		}
		return n
	}
	f := url.Values{"subject": {"Saturday"}, "words": {"Later by an hour."}}
	code, body, _ := v.Do("POST", "/people/marit/letter", f)
	require.Equal(t, 303, code, body)
	for range 2 {
		code, body, _ = v.Do("POST", "/groups/morning-wheel/letter", f)
		require.Equal(t, 303, code, body)
	}
	assert.Equal(t, 7, count())
	f.Set("words", "Later by two hours.")
	code, body, _ = v.Do("POST", "/groups/morning-wheel/letter", f)
	require.Equal(t, 303, code, body)
	assert.Equal(t, 14, count())
}
