package mover_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os/exec"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/progress"
	"wavekine/demo"
	"wavekine/store"
	"wavekine/store/storetest"
	"wavekine/web"
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

const group = "morning-wheel"

// word is a check-in as a phone sends it.
func word(id string, day int, kv ...string) string {
	w := map[string]any{"format": "wavekine.checkin/1", "id": id, "day": day, "did": "all", "effort": 3, "told": webtest.Thursday.UTC().Format(time.RFC3339)}
	for i := 0; i+1 < len(kv); i += 2 {
		var v any
		if err := json.Unmarshal([]byte(kv[i+1]), &v); err != nil {
			panic(err)
		}
		w[kv[i]] = v
	}
	b, _ := json.Marshal(w)
	return string(b)
}

func tell(v *webtest.Visitor, path, body string) (int, string) {
	return v.Raw("POST", path+"/word?g="+group, []byte(body), "application/json")
}

func words(t testing.TB, st *store.Store, mover string) []store.Word {
	t.Helper()
	ws, err := st.Words(context.Background(), "claybank", group, mover)
	require.NoError(t, err)
	return ws
}

// A word is kept once however often it is sent; a later one stands beside the first; what cannot be is refused in words and keeps nothing.
func TestWordsAreKeptOnce(t *testing.T) {
	base, st := webtest.Site(t)
	v, me := webtest.Visit(t, base), link(t, st, "anselm")
	had := len(words(t, st, "anselm"))
	first := word("first-word-of-day-8", 8)
	for range 3 {
		code, says := tell(v, me, first)
		require.Equal(t, 200, code, says)
		assert.Contains(t, says, `"saved":"first-word-of-day-8"`)
	}
	code, _ := tell(webtest.Visit(t, base), me, word("second-word-of-day-8", 8, "effort", "6")) // from another phone
	require.Equal(t, 200, code)
	ws := words(t, st, "anselm")
	require.Len(t, ws, had+2)
	assert.Equal(t, []int{3, 6}, []int{ws[had].Said.Effort, ws[had+1].Said.Effort}, "beside the first, not over it")
	code, says := tell(v, me, word("first-word-of-day-8", 8, "effort", "9"))
	assert.Equal(t, 409, code, says)
	code, _ = tell(v, link(t, st, "ines"), first)
	assert.Equal(t, 409, code, "nobody takes another's word over")

	for body, says := range map[string]string{
		word("effort-eleven-word", 8, "effort", "11"):                               "$.effort",
		word("a-day-that-is-none-", 99):                                             "$.day",
		word("a-day-of-rest-told-", 4):                                              "has no class",
		word("ten-thousand-letters", 8, "line", `"`+strings.Repeat("x", 10000)+`"`): "$.line",
		`{"format":"wavekine.checkin/1"`:                                            "ends too early",
		strings.Repeat("x", 20000):                                                  "",
	} {
		code, got := tell(v, me, body)
		assert.GreaterOrEqual(t, code, 400, body[:min(80, len(body))])
		assert.Less(t, code, 500, got)
		assert.Contains(t, got, says)
	}
	code, says = v.Raw("POST", me+"/word?g=early-kiln", []byte(word("not-in-that-group-1", 1)), "application/json")
	assert.Equal(t, 404, code, says)
	// A clock that is set wrong: kept, with a time that can be.
	for _, told := range []string{"1970-01-01T00:01:12Z", "2019-01-01T00:00:00Z", "2189-01-01T00:00:00Z", "9999-12-31T23:59:59+14:00"} {
		code, says := tell(v, me, word("clock-set-wrong-"+told[:4], 8, "told", `"`+told+`"`))
		require.Equal(t, 200, code, says)
	}
	for _, w := range words(t, st, "anselm") {
		assert.WithinDuration(t, webtest.Thursday, w.Said.Told, 15*24*time.Hour)
	}
}

// The server and its database go while a word is stored: what was acknowledged is there, once; what was not is sent again and is there once.
func TestNoWordIsLostOrTwice(t *testing.T) {
	_, st := webtest.Site(t)
	far, frozen := storetest.Through(t, st)
	h, err := web.New(far, kit.Options{Now: func() time.Time { return webtest.Thursday }})
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	defer srv.Close()
	me := link(t, st, "odile")
	had := len(words(t, st, "odile"))
	acked := map[string]bool{}
	for i := range 12 {
		id := fmt.Sprintf("in-the-storm-word-%02d", i)
		body := word(id, 8, "effort", fmt.Sprint(i%10))
		done := make(chan struct{})
		go func() { // the answer, or the way there, is cut in the midst of it
			defer close(done)
			if i%3 == 1 {
				frozen.FreezeAnswers()
			} else if i%3 == 2 {
				frozen.Freeze()
			}
			time.Sleep(150 * time.Millisecond)
			frozen.Thaw()
		}()
		c := &http.Client{Timeout: 100 * time.Millisecond}
		for try := 0; !acked[id]; try++ {
			require.Less(t, try, 60)
			r, _ := http.NewRequest("POST", srv.URL+me+"/word?g="+group, strings.NewReader(body))
			r.Header.Set("Accept", "application/json")
			res, err := c.Do(r)
			if err != nil {
				c.Timeout = 3 * time.Second
				continue
			}
			acked[id] = res.StatusCode == 200
			_ = res.Body.Close()
		}
		<-done
	}
	ws := words(t, st, "odile")
	assert.Len(t, ws, had+12, "none lost, none twice")
}

// The secret of a link: guessed, ended, of somebody erased, of another studio; never in a referrer, a log, or what a teacher exports.
func TestTheLinkIsASecret(t *testing.T) {
	var logged bytes.Buffer
	var mu sync.Mutex
	was := slog.Default()
	slog.SetDefault(slog.New(slog.NewTextHandler(lockedWriter{&mu, &logged}, &slog.HandlerOptions{Level: slog.LevelDebug})))
	defer slog.SetDefault(was)
	base, st := webtest.Site(t)
	ctx := context.Background()
	require.NoError(t, st.CreateStudio(ctx, store.Studio{ID: "other", Name: "Other", Zone: "UTC"}, store.Teacher{ID: "o", Email: "o@other.example", Name: "O", PasswordHash: webtest.CheapHash("")}))
	v, me := webtest.Visit(t, base), link(t, st, "perpetua")
	code, page, head := v.Do("GET", me, nil)
	require.Equal(t, 200, code)
	assert.Contains(t, page, "Perpetua")
	assert.Equal(t, "no-referrer", head.Get("Referrer-Policy"))
	assert.Contains(t, head.Get("X-Robots-Tag"), "noindex")
	assert.Equal(t, "no-store", head.Get("Cache-Control"))
	assert.Empty(t, head.Values("Set-Cookie"))
	for _, other := range []string{"Anselm", "Ines", "Jonah", "claybank.example"} {
		assert.NotContains(t, page, other, "nothing of anybody else")
	}
	var hashes int
	require.NoError(t, st.DB.Get(&hashes, `SELECT count(*) FROM mover_links WHERE encode(token_hash, 'escape') LIKE '%' || $1 || '%'`, me[3:]))
	assert.Zero(t, hashes, "only a hash is stored")

	gone := ""
	for _, bad := range []string{"/m/" + strings.Repeat("a", 32), "/m/x", me + "x", "/m/" + strings.ToUpper(me[3:])} {
		code, body, _ := v.Do("GET", bad, nil)
		assert.Equal(t, 404, code, bad)
		if gone == "" {
			gone = body
		}
		assert.Equal(t, gone, body, "the same answer for every link that opens nothing")
	}
	// A teacher of another studio makes no link to somebody here, and ends none.
	o := webtest.Visit(t, base).SignIn("o@other.example")
	for _, p := range []string{"/people/perpetua/link", "/people/perpetua/links/end", "/people/perpetua/erase"} {
		code, _, _ := o.Do("POST", p, url.Values{})
		assert.Equal(t, 404, code, p)
	}
	code, _, _ = v.Do("GET", me, nil)
	require.Equal(t, 200, code)

	teacher := webtest.Visit(t, base).SignIn(demo.Email)
	for _, p := range []string{"/series/clay-hands/export?what=plan&as=csv", "/groups/" + group + "/calendar", "/series/clay-hands/calendar", "/groups/" + group} {
		_, body, _ := teacher.Do("GET", p, nil)
		assert.NotContains(t, body, me[3:], p)
	}
	for _, p := range []string{"/groups/" + group + "/calendar", "/series/clay-hands/calendar"} { // what goes to others holds nothing of anybody's health
		_, body, _ := teacher.Do("GET", p, nil)
		for _, w := range []string{"wrists", "neck", "low bone", "Perpetua"} {
			assert.NotContains(t, body, w, p)
		}
	}
	code, _, _ = teacher.Do("POST", "/people/perpetua/links/end", url.Values{})
	require.Equal(t, 303, code)
	for _, p := range []string{"", "/sheet", "/data", "/calendar.ics", "/manifest.webmanifest"} {
		code, body, _ := v.Do("GET", me+p, nil)
		assert.Equal(t, 404, code, p)
		assert.Equal(t, gone, body)
	}
	code, _ = tell(v, me, word("after-it-was-ended--", 8))
	assert.Equal(t, 404, code)

	again := link(t, st, "perpetua")
	code, _, _ = teacher.Do("POST", "/people/perpetua/erase", url.Values{})
	require.Equal(t, 303, code)
	code, body, _ := v.Do("GET", again, nil)
	assert.Equal(t, 404, code)
	assert.Equal(t, gone, body)
	// Who tries many is slowed down; who has a link that opens is not.
	slow := false
	for i := range 60 {
		code, _, head := v.Do("GET", fmt.Sprintf("/m/guess%027d", i), nil)
		if slow = code == http.StatusTooManyRequests; slow {
			assert.NotEmpty(t, head.Get("Retry-After"))
			break
		}
	}
	assert.True(t, slow)
	code, _, _ = v.Do("GET", link(t, st, "ines"), nil)
	assert.Equal(t, 200, code)
	mu.Lock()
	defer mu.Unlock()
	for _, secret := range []string{me[3:], again[3:]} {
		assert.NotContains(t, logged.String(), secret, "never in a log")
	}
}

type lockedWriter struct {
	mu *sync.Mutex
	w  io.Writer
}

func (l lockedWriter) Write(b []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.w.Write(b)
}

// A person takes their data out, asks to be erased, and is erased: gone from every table, history included; what is left of led classes are counts.
func TestErasedEverywhere(t *testing.T) {
	base, st := webtest.Site(t)
	ctx := context.Background()
	teacher := webtest.Visit(t, base).SignIn(demo.Email)
	v, me := webtest.Visit(t, base), link(t, st, "jonah")
	for i, f := range []url.Values{{"words": {"lifts with a round back"}}, {"invite": {group}}} {
		code, body, _ := teacher.Do("POST", "/people/jonah/"+[]string{"notes", "letter"}[i], f)
		require.Equal(t, 303, code, body)
	}
	code, says := tell(v, me, word("jonah-said-of-day-8-", 8, "line", `"Zwetschgenkuchen"`))
	require.Equal(t, 200, code, says)
	code, _, _ = teacher.Do("POST", "/groups/"+group+"/decide", url.Values{"mover": {"jonah"}, "movement": {suggested(t, teacher, "jonah")}, "verdict": {"stop"}, "does": {"stop"}})
	require.Equal(t, 303, code)
	_, data, head := v.Do("GET", me+"/data", nil)
	assert.Contains(t, head.Get("Content-Type"), "application/json")
	for _, want := range []string{"Zwetschgenkuchen", "lifts with a round back", "low back when bending", `"decided"`, `"letters"`} {
		assert.Contains(t, data, want)
	}
	assert.NotContains(t, data, "Perpetua")
	code, _, _ = v.Do("POST", me+"/erase", url.Values{})
	require.Equal(t, 303, code)
	_, today, _ := teacher.Do("GET", "/", nil)
	assert.Contains(t, today, "asks to be erased")
	runs := count(t, st, "runs")
	code, _, _ = teacher.Do("POST", "/people/jonah/erase", url.Values{})
	require.Equal(t, 303, code)
	assert.Equal(t, runs, count(t, st, "runs"), "counts stay")
	var tables []string
	require.NoError(t, st.DB.SelectContext(ctx, &tables, `SELECT table_name FROM information_schema.tables WHERE table_schema = 'public' AND table_type = 'BASE TABLE'`))
	require.Greater(t, len(tables), 20)
	for _, table := range tables {
		var n int
		require.NoError(t, st.DB.GetContext(ctx, &n, `SELECT count(*) FROM `+table+` x WHERE x::text ~* '(jonah|Zwetschgenkuchen|lifts with a round back|lifts clay)'`))
		assert.Zero(t, n, "%s still knows him", table)
	}
	for _, p := range []string{"/", "/people", "/groups/" + group, "/groups/" + group + "/review", "/letters"} {
		code, body, _ := teacher.Do("GET", p, nil)
		assert.Equal(t, 200, code, p)
		assert.NotContains(t, body, "Jonah", p)
	}
}

func count(t *testing.T, st *store.Store, table string) (n int) {
	require.NoError(t, st.DB.GetContext(context.Background(), &n, `SELECT count(*) FROM `+table))
	return n
}

// suggested is a movement that something is to be decided about for somebody.
func suggested(t *testing.T, v *webtest.Visitor, mover string) string {
	t.Helper()
	_, page, _ := v.Do("GET", "/groups/"+group, nil)
	f := regexp.MustCompile(`name="mover" value="` + mover + `"><input type="hidden" name="movement" value="([^"]*)"><input type="hidden" name="verdict" value="stop"`).FindStringSubmatch(page)
	require.NotNil(t, f, "nothing to decide about %s", mover)
	return f[1]
}

// What a teacher decides shows in the next version; undone, it is as it was; decided twice at once, it is decided once.
func TestDecisionsShow(t *testing.T) {
	base, st := webtest.Site(t)
	a, b := webtest.Visit(t, base).SignIn(demo.Email), webtest.Visit(t, base).SignIn(demo.Second)
	me := link(t, st, "jonah")
	hurt := suggested(t, a, "jonah")
	page := func(day int) string {
		_, p, _ := webtest.Visit(t, base).Do("GET", fmt.Sprintf("%s?g=%s&day=%d", me, group, day), nil)
		return p
	}
	day := 0
	for n := 8; n <= 12 && day == 0; n++ { // the next day that has it
		if strings.Contains(page(n), `"slug":"`+hurt+`"`) {
			day = n
		}
	}
	require.Positive(t, day, hurt)
	before := page(day)
	f := url.Values{"mover": {"jonah"}, "movement": {hurt}, "verdict": {"stop"}, "does": {"stop"}}
	var wg sync.WaitGroup
	codes := make([]int, 2)
	for i, v := range []*webtest.Visitor{a, b} {
		wg.Go(func() { codes[i], _, _ = v.Do("POST", "/groups/"+group+"/decide", f) })
	}
	wg.Wait()
	slices.Sort(codes)
	assert.Equal(t, []int{303, 409}, codes, "two teachers decide once")
	assert.NotContains(t, page(day), `"slug":"`+hurt+`"`, "left out until cleared")
	assert.Contains(t, page(day), "has not cleared it yet")
	_, gp, _ := a.Do("GET", "/groups/"+group, nil)
	step := regexp.MustCompile(`name="step" value="([^"]+)"`).FindStringSubmatch(gp)
	require.NotNil(t, step)
	code, _, _ := a.Do("POST", "/groups/"+group+"/steps", url.Values{"step": {step[1]}, "do": {"clear"}})
	require.Equal(t, 303, code)
	assert.Contains(t, page(day), `"slug":"`+hurt+`"`, "cleared, it is there again")
	code, _, _ = a.Do("POST", "/groups/"+group+"/steps", url.Values{"step": {step[1]}, "do": {"undo"}})
	require.Equal(t, 303, code)
	strip := func(s string) string { return regexp.MustCompile(`"stamp":"[^"]*"`).ReplaceAllString(s, "") }
	assert.Equal(t, strip(before), strip(page(day)))

	// Up a rung: the next class that has it asks for more.
	var up []string
	_, gp, _ = a.Do("GET", "/groups/"+group, nil)
	up = regexp.MustCompile(`name="mover" value="(anselm)"><input type="hidden" name="movement" value="([^"]*)"><input type="hidden" name="verdict" value="up"`).FindStringSubmatch(gp)
	require.NotNil(t, up)
	me = link(t, st, "anselm")
	was := [13]string{}
	for n := 8; n <= 12; n++ {
		was[n] = page(n)
	}
	code, _, _ = a.Do("POST", "/groups/"+group+"/decide", url.Values{"mover": {"anselm"}, "movement": {up[2]}, "verdict": {"up"}, "does": {"up"}})
	require.Equal(t, 303, code)
	changed := 0
	for n := 8; n <= 12; n++ {
		if page(n) != was[n] {
			changed++
		}
	}
	assert.Positive(t, changed)
	code, _, _ = a.Do("POST", "/groups/"+group+"/decide", url.Values{"mover": {"anselm"}, "movement": {up[2]}, "verdict": {"up"}, "does": {"up"}})
	assert.Equal(t, 409, code, "it is not asked twice")
}

// What a button says that a decision makes of the next day is what the mover's page shows when it is taken: for everything that is suggested, of people who watch something and with a usual
// level too.
func TestADecisionDoesWhatItSays(t *testing.T) {
	base, st := webtest.Site(t)
	ctx := context.Background()
	v := webtest.Visit(t, base).SignIn(demo.Email)
	m, err := st.GetMover(ctx, "claybank", "odile")
	require.NoError(t, err)
	m.Level = 1
	err = st.SaveMover(ctx, m, "maren")
	require.NoError(t, err)
	button := regexp.MustCompile(`name="mover" value="([^"]+)"><input type="hidden" name="movement" value="([^"]+)"><input type="hidden" name="verdict" value="(up|back)">[^\n]*?(?:Up|Back) a rung: day (\d+) at level (\d+), ([^<]+?)[ <]*(?:<kbd|<span)`)
	_, page, _ := v.Do("GET", "/groups/"+group, nil)
	found := button.FindAllStringSubmatch(page, -1)
	require.Greater(t, len(found), 3)
	links := map[string]string{}
	for _, x := range found {
		mv, ok := movement.Shipped().Get(x[2])
		require.True(t, ok, x[2])
		code, body, _ := v.Do("POST", "/groups/"+group+"/decide", url.Values{"mover": {x[1]}, "movement": {x[2]}, "verdict": {x[3]}, "does": {x[3]}})
		require.Equal(t, 303, code, body)
		if links[x[1]] == "" {
			links[x[1]] = link(t, st, x[1])
		}
		_, mine, _ := webtest.Visit(t, base).Do("GET", fmt.Sprintf("%s?g=%s&day=%s", links[x[1]], group, x[4]), nil)
		assert.Regexp(t, regexp.QuoteMeta("<b>"+mv.Name+"</b><span class=\"muted\">"+strings.TrimSpace(x[6])), mine, "%s: %s", x[1], x[2])
	}
}

// Missed days: seen before they are chosen, kept as seen, shown in the group's grid, taken back.
func TestMissedDaysAreChosen(t *testing.T) {
	base, st := webtest.Site(t)
	v, me := webtest.Visit(t, base), link(t, st, "marit")
	_, page, _ := v.Do("GET", me, nil)
	require.Contains(t, page, "You missed day")
	for _, k := range []string{"Go on with the group", "Move everything along", "Catch up"} {
		assert.Contains(t, page, k)
	}
	said := regexp.MustCompile(`(?s)Move everything along</b></summary><ul>(.*?)</ul>`).FindStringSubmatch(page)
	require.NotNil(t, said)
	assert.Contains(t, said[1], "You end on")
	end := regexp.MustCompile(`You end on (\w+ \d+ \w+)`).FindStringSubmatch(said[1])[1]
	f := url.Values{"g": {group}, "kind": {"along"}, "id": {"chosen-on-the-phone"}, "seen": {"0123456789abcdef"}}
	code, _, h := v.Do("POST", me+"/missed", f) // seen when it meant something else: nothing is done, they look again
	require.Equal(t, 303, code)
	_, again, _ := v.Do("GET", strings.TrimSuffix(h.Get("Location"), "#m-missed"), nil)
	assert.Contains(t, again, "Nothing was done yet")
	require.Contains(t, again, "You missed day")
	f.Set("seen", seen(t, page, "along"))
	for range 2 {
		code, body, _ := v.Do("POST", me+"/missed", f)
		if code != 303 {
			assert.Equal(t, 422, code, body) // the second time nothing is missed any more
		}
	}
	_, page, _ = v.Do("GET", me, nil)
	assert.NotContains(t, page, "You missed day")
	teacher := webtest.Visit(t, base).SignIn(demo.Email)
	_, grid, _ := teacher.Do("GET", "/groups/"+group, nil)
	assert.Contains(t, grid, "moves along, ends ", "the grid shows it")
	_, cal, _ := v.Do("GET", me+"/calendar.ics", nil)
	d, err := time.Parse("Mon 2 January 2006", end+" 2026")
	require.NoError(t, err)
	assert.Contains(t, cal, d.Format("20060102"), "and their own calendar")
	python, err := exec.LookPath("/usr/bin/python3")
	require.NoError(t, err)
	cmd := exec.Command(python, "-c", "import sys, icalendar; c = icalendar.Calendar.from_ical(sys.stdin.buffer.read()); print(len(c.walk('VEVENT')))")
	cmd.Stdin = strings.NewReader(cal)
	out, err := cmd.Output()
	require.NoError(t, err)
	assert.Equal(t, "10", strings.TrimSpace(string(out)))
	cs, err := st.Choices(context.Background(), "claybank", group, "marit")
	require.NoError(t, err)
	code, _, _ = v.Do("POST", me+"/missed/undo", url.Values{"g": {group}, "id": {cs[len(cs)-1].ID}})
	require.Equal(t, 303, code)
	_, page, _ = v.Do("GET", me, nil)
	assert.Contains(t, page, "You missed day")
}

// seen is what the page says of what it shows of a choice.
func seen(t *testing.T, page, kind string) string {
	t.Helper()
	m := regexp.MustCompile(`name="kind" value="` + kind + `"><input type="hidden" name="seen" value="([0-9a-f]{16})"`).FindStringSubmatch(page)
	require.NotNil(t, m)
	return m[1]
}

// Who comes on day 8 is not told that they missed a week, is not behind, and may still begin with the first day.
func TestComingLater(t *testing.T) {
	base, st := webtest.Site(t)
	ctx := context.Background()
	teacher := webtest.Visit(t, base).SignIn(demo.Email)
	code, body, _ := teacher.Do("POST", "/people", url.Values{"name": {"Wilhelmina Teale"}})
	require.Less(t, code, 400, body)
	ms, err := st.Movers(ctx, "claybank")
	require.NoError(t, err)
	i := slices.IndexFunc(ms, func(m store.Mover) bool { return m.Name == "Wilhelmina Teale" })
	code, body, _ = teacher.Do("POST", "/people/"+ms[i].ID+"/groups", url.Values{"group": {group}})
	require.Less(t, code, 400, body)
	me := link(t, st, ms[i].ID)
	v := webtest.Visit(t, base)
	_, page, _ := v.Do("GET", me, nil)
	assert.NotContains(t, page, "You missed")
	assert.Contains(t, page, "Days 1, 2, 3, 5, 6 and 7 were before you came.")
	_, grid, _ := teacher.Do("GET", "/groups/"+group, nil)
	assert.NotContains(t, grid, "Wilhelmina (")
	_, row, _ := teacher.Do("GET", "/people/"+ms[i].ID, nil)
	assert.NotContains(t, row, "6 missed")
	code, body, _ = v.Do("POST", me+"/missed", url.Values{"g": {group}, "kind": {"along"}, "id": {"from-the-first-day-on"}, "seen": {seen(t, page, "along")}})
	require.Equal(t, 303, code, body)
	_, page, _ = v.Do("GET", me, nil)
	assert.Contains(t, page, "Today, day 1")
}

// An open series: the same page without a name; words are counted once, by nobody, and nobody's own words are kept.
func TestOpenSeries(t *testing.T) {
	base, st := webtest.Site(t)
	secret, err := st.OpenSeries(context.Background(), "claybank", "clay-hands")
	require.NoError(t, err)
	v, at := webtest.Visit(t, base), "/open/"+secret
	code, page, head := v.Do("GET", at, nil)
	require.Equal(t, 200, code)
	assert.Equal(t, "no-referrer", head.Get("Referrer-Policy"))
	assert.Contains(t, page, "Day 1")
	for _, name := range []string{"Perpetua", "Maren", "Morning wheel", "what is kept of you"} {
		assert.NotContains(t, page, name)
	}
	for range 3 {
		code, says := v.Raw("POST", at+"/word", []byte(word("somebody-without-name", 2, "line", `"my name is Wren"`)), "application/json")
		require.Equal(t, 200, code, says)
	}
	code, _ = v.Raw("POST", at+"/word", []byte(word("another-of-no-name--", 2, "did", `"part"`, "pain", `[{"place":"knee"}]`)), "application/json")
	require.Equal(t, 200, code)
	cs, err := st.OpenCounts(context.Background(), "claybank", "clay-hands")
	require.NoError(t, err)
	require.Len(t, cs, 1)
	assert.Equal(t, []int{2, 1, 1, 1}, []int{cs[0].Day, cs[0].All, cs[0].Part, cs[0].Hurt})
	var n int
	require.NoError(t, st.DB.Get(&n, `SELECT count(*) FROM open_words WHERE doc::text LIKE '%Wren%'`))
	assert.Zero(t, n)
	teacher := webtest.Visit(t, base).SignIn(demo.Email)
	_, state, _ := teacher.Do("GET", "/series/clay-hands/open", nil)
	assert.Contains(t, state, "people without a name")
	require.NoError(t, st.CloseSeries(context.Background(), "claybank", "clay-hands"))
	code, _ = v.Raw("POST", at+"/word", []byte(word("after-it-was-closed--", 2)), "application/json")
	assert.Equal(t, 404, code)
}

// The first load of the page with everything it shows: under 150 KB as sent.
func TestWeightOfThePage(t *testing.T) {
	base, st := webtest.Site(t)
	v, me := webtest.Visit(t, base), link(t, st, "perpetua")
	get := func(path string) (int, string) {
		r, err := http.NewRequest("GET", base+path, nil)
		require.NoError(t, err)
		r.Header.Set("Accept-Encoding", "gzip")
		res, err := v.HTTP.Do(r)
		require.NoError(t, err)
		defer func() { _ = res.Body.Close() }()
		require.Equal(t, 200, res.StatusCode, path)
		b, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		n := len(b)
		if res.Header.Get("Content-Encoding") == "gzip" {
			z, err := gzip.NewReader(bytes.NewReader(b))
			require.NoError(t, err)
			b, err = io.ReadAll(z)
			require.NoError(t, err)
		}
		return n, string(b)
	}
	total, page := get(me)
	parts := []string{fmt.Sprintf("page %d", total)}
	seen := map[string]bool{}
	for _, u := range append(regexp.MustCompile(`/static/[^"')]+`).FindAllString(page, -1), regexp.MustCompile(`href="(/figures/[^"#]+)`).FindAllString(page, -1)...) {
		u = strings.TrimPrefix(u, `href="`)
		if seen[u] {
			continue
		}
		seen[u] = true
		n, body := get(u)
		total += n
		parts = append(parts, fmt.Sprintf("%s %d", u, n))
		if strings.HasSuffix(u, ".css") { // the fonts that this page sets: its italics come when something is said in them
			for _, f := range regexp.MustCompile(`/static/fonts/[^"')]+`).FindAllString(body, -1) {
				if strings.Contains(f, "italic") {
					continue
				}
				n, _ := get(f)
				total += n
				parts = append(parts, fmt.Sprintf("%s %d", f, n))
			}
		}
	}
	t.Logf("%d bytes: %s", total, strings.Join(parts, ", "))
	assert.Less(t, total, 150<<10)
}

// A series' words hold for every day a phone may ask for: each day of each person shows, prints and takes a word.
func TestEveryDayOfEverybody(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base)
	for _, m := range []string{"perpetua", "anselm", "ines", "odile", "bartholomew", "marit", "jonah"} {
		me := link(t, st, m)
		for _, day := range []int{1, 2, 3, 5, 6, 7, 8, 9, 11, 12} {
			code, page, _ := v.Do("GET", fmt.Sprintf("%s?g=%s&day=%d", me, group, day), nil)
			require.Equal(t, 200, code)
			require.Contains(t, page, `id="m-data"`, "%s day %d", m, day)
			code, _, _ = v.Do("GET", fmt.Sprintf("%s/sheet?g=%s&day=%d", me, group, day), nil)
			require.Equal(t, 200, code)
		}
	}
	for _, q := range []string{"?day=0", "?day=99", "?day=x", "?g=nothing", "?g=early-kiln"} {
		code, _, _ := v.Do("GET", link(t, st, "ines")+q, nil)
		assert.Equal(t, 200, code, q)
	}
	_ = progress.All
}

func BenchmarkPage(b *testing.B) {
	st := storetest.New(b)
	_, err := demo.Load(context.Background(), st, webtest.Thursday, webtest.CheapHash)
	require.NoError(b, err)
	h, err := web.New(st, kit.Options{Now: func() time.Time { return webtest.Thursday }})
	require.NoError(b, err)
	me := link(b, st, "perpetua")
	for b.Loop() {
		w := httptest.NewRecorder()
		h.ServeHTTP(w, httptest.NewRequest("GET", me, nil))
		if w.Code != 200 {
			b.Fatal(w.Code)
		}
	}
}
