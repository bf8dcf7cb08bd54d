package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/demo"
	"wavekine/store"
	"wavekine/store/storetest"
	"wavekine/web"
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

// readBack reads everything that is stored of a studio: every revision of every document, templates, movements, runs.
func readBack(t testing.TB, st *store.Store, lib *movement.Library) (n int) {
	t.Helper()
	for q, read := range map[string]func([]byte) error{
		`SELECT doc FROM plan_revisions UNION ALL SELECT doc FROM plans UNION ALL SELECT doc FROM templates`:   func(b []byte) error { _, err := plan.ReadSession(b, lib); return err },
		`SELECT doc FROM series_revisions UNION ALL SELECT doc FROM series UNION ALL SELECT doc FROM patterns`: func(b []byte) error { _, err := plan.ReadSeries(b, lib); return err },
		`SELECT doc FROM movement_versions`: func(b []byte) error { _, err := movement.ReadOwn(b, movement.Shipped()); return err },
	} {
		var docs [][]byte
		require.NoError(t, st.DB.Select(&docs, q))
		for _, d := range docs {
			n++
			require.NoError(t, read(d), "%.400s", d)
		}
	}
	return n
}

// libraryOf is the library of a studio as its teachers have it.
func libraryOf(t testing.TB, st *store.Store, studio string) *movement.Library {
	t.Helper()
	rows, changed, err := st.OwnMovements(context.Background(), studio)
	require.NoError(t, err)
	var own []movement.OwnVersion
	for _, r := range rows {
		m, err := movement.ReadOwn(r.Doc, movement.Shipped())
		require.NoError(t, err)
		m.Slug, m.Base = r.ID, r.ID
		own = append(own, movement.OwnVersion{Movement: m, Version: r.Version, Newest: r.Newest, Hidden: r.Hidden})
	}
	lib, err := movement.Shipped().With(own, kit.ReadChanges(changed))
	require.NoError(t, err)
	return lib
}

// pagesStand looks at every page that lists something.
func pagesStand(t testing.TB, v *webtest.Visitor, after string) {
	t.Helper()
	for _, p := range []string{"/", "/sessions", "/series", "/people", "/log", "/house", "/house/pace", "/movements"} {
		code, body, _ := v.Do("GET", p, nil)
		require.Equal(t, http.StatusOK, code, "%s after %s", p, after)
		require.NotContains(t, body, "cannot be read by this version", "%s after %s", p, after)
	}
}

// rowsOf is a session document of one section with so many rows said as JSON.
func rowsOf(head, row string, n int) string {
	return `{"format":"wavekine.session/1","title":"T"` + head + `,"sections":[{"title":"A","blocks":[{"rule":"straight","rows":[` + strings.TrimSuffix(strings.Repeat(row+",", n), ",") + `]}]}]}`
}

// Ways that made a document which could not be read again, and took whole pages down with it.
func TestWaysInThatBrokeAPage(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	ctx := context.Background()
	lib := movement.Shipped()
	ends := func(name string) {
		t.Helper()
		readBack(t, st, lib)
		pagesStand(t, v, name)
	}
	put := func(id, doc string) string {
		t.Helper()
		require.NoError(t, st.Sessions.Create(ctx, "claybank", id, storetest.Change(t, "maren", "made", doc)))
		return "/sessions/" + id
	}
	step := func(at, rev string, kv ...string) (int, string) {
		f := url.Values{"rev": {rev}}
		for i := 0; i < len(kv); i += 2 {
			f.Set(kv[i], kv[i+1])
		}
		return v.Form(at+"/edit", f, "")
	}

	t.Run("fit doubles no dose past what can be said", func(t *testing.T) {
		at := put("breaths", rowsOf(`,"target":"60:00"`, `{"movement":"rib-breathing","dose":"150 breaths"}`, 1))
		code, body, _ := v.Do("GET", at+"/propose?what=fit", nil)
		require.Equal(t, 200, code, body)
		code, body = step(at, "1", "op", "fit")
		require.Equal(t, 200, code, body)
		ends("fit")
	})
	t.Run("no mend halves a hold below the least", func(t *testing.T) {
		at := put("hold", rowsOf(``, `{"movement":"hundred","level":2,"dose":"hold 0.9 s"}`, 200))
		_, page, _ := v.Do("GET", at, nil)
		for _, id := range mendIDs(page) {
			code, body := step(at, "1", "op", "mend", "mend", id)
			require.Contains(t, []int{200, 409}, code, "%s: %s", id, body)
		}
		ends("halve")
	})
	t.Run("no mend puts a warm-up in front as section 61", func(t *testing.T) {
		secs := make([]string, 60)
		for i := range secs {
			secs[i] = `{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"teaser","level":4,"dose":"8 reps"}]}]}`
		}
		doc := `{"format":"wavekine.session/1","title":"T","sections":[` + strings.Join(secs, ",") + `]}`
		at := put("sixty", doc)
		_, page, _ := v.Do("GET", at, nil)
		rev := 1
		for _, id := range mendIDs(page) {
			code, body := step(at, fmt.Sprint(rev), "op", "mend", "mend", id)
			if code == 200 {
				rev++
			}
			require.Contains(t, []int{200, 422}, code, "%s: %s", id, body)
		}
		code, body := step(at, fmt.Sprint(rev), "op", "section-add", "title", "One more")
		assert.Equal(t, 422, code)
		assert.Contains(t, body, "at most 60 sections")
		ends("section 61")
	})
	t.Run("no series in the year 26", func(t *testing.T) {
		for _, start := range []string{"0026-05-01", "1989-12-31", "2200-01-01", "26-05-01"} {
			code, body := v.Form("/series", url.Values{"title": {"S"}, "start": {start}, "days": {"12"}}, "")
			assert.Equal(t, 422, code, start)
			assert.Contains(t, body, "is not a date")
			code, _ = v.Form("/slots", url.Values{"plan": {"kiln-circuit"}, "day": {start}, "time": {"10:00"}}, "")
			assert.Equal(t, 422, code, start)
		}
		ends("series")
	})
	t.Run("a table holds what a document may hold", func(t *testing.T) {
		long := strings.Repeat("x", 2001)
		for _, c := range []struct{ says, table string }{
			{"2001 characters: at most 2000", "movement,dose,note\nsquat,8,fine\nsquat,8," + long},
			{"201 characters: at most 200", "section,movement\nA,squat\n" + strings.Repeat("s", 201) + ",squat"},
			{"at most 10:00", "movement,rest\nsquat,20 s\nsquat,11 min"},
			{"at most 10:00", "rule,rounds,on,movement\nrounds,2,40 s,squat\nrounds,2,11 min,squat"},
			{"n off time needs an on time", "rule,rounds,off,movement\nrounds,2,,squat\nrounds,2,20 s,squat"},
			{"more than 60 sections", "section,movement\n" + manyLines(61, "S%d,squat")},
			{"more than 200 blocks", "section,rule,rounds,on,movement\n" + manyLines(201, "A,rounds,%d,40 s,squat", 1, 2)},
			{"cannot itself be per side", "movement,right\nsquat,\nclam,8 each side"},
		} {
			for _, do := range []string{"", "make"} {
				code, body := v.Form("/sessions/import", url.Values{"text": {c.table}, "kind": {"csv"}, "do": {do}}, "")
				require.Contains(t, []int{200, 303}, code, "%s: %s", c.says, body)
				if do == "" {
					assert.Contains(t, body[strings.Index(body, "not understood"):], c.says)
				}
			}
		}
		ends("CSV")
	})
	t.Run("a document near two megabytes", func(t *testing.T) {
		if testing.Short() {
			t.Skip("long")
		}
		note := strings.Repeat("é", 1900)
		doc := rowsOf(``, `{"movement":"squat","note":"`+note+`"}`, 520)
		require.Less(t, len(doc), 2<<20)
		code, body := v.Form("/sessions/import", url.Values{"text": {doc}, "do": {"make"}}, "multipart")
		require.Contains(t, []int{303, 422}, code, body)
		at := put("big", rowsOf(``, `{"movement":"squat","note":"`+note+`"}`, 532))
		rev, refused := 1, false
		for range 60 { // long notes duplicated
			code, body := step(at, fmt.Sprint(rev), "op", "duplicate", "at", "1.1.1")
			if code == 422 {
				assert.Contains(t, body, "at most 2 MB can be saved")
				refused = true
				break
			}
			require.Equal(t, 200, code)
			rev++
		}
		assert.True(t, refused)
		ends("two megabytes")
		code, out, _ := v.Do("GET", at+"/export?as=json", nil)
		require.Equal(t, 200, code)
		code, body = v.Form("/sessions/import", url.Values{"text": {out}, "do": {"make"}}, "multipart")
		assert.Equal(t, 303, code, "what is exported comes in again: %.200s", body)
	})
	t.Run("the 200th wrap", func(t *testing.T) {
		clam, chain := `{"movement":"clam","dose":"8 each side"}`, `{"rule":"chain","rows":[{"movement":"clam"}]},`
		at := put("wraps", strings.Replace(rowsOf(``, clam, 20), `{"rule":"straight"`, strings.Repeat(chain, 194)+`{"rule":"straight"`, 1))
		rev, refused := 1, false
		for i := range 5 {
			code, body := step(at, fmt.Sprint(rev), "op", "wrap", "rule", "chain", "at", fmt.Sprintf("1.%d.2", 195+2*i))
			if code == 422 {
				assert.Contains(t, body, "at most 200")
				assert.Contains(t, body, "A, blocks", "it says where")
				refused = true
				break
			}
			require.Equal(t, 200, code, body)
			rev++
		}
		assert.True(t, refused)
		ends("wraps")
	})
	t.Run("characters that cannot be shown, however they are sent", func(t *testing.T) {
		for _, kind := range []string{"", "multipart", "capital", "query", "semicolon"} {
			for path, f := range map[string]url.Values{
				"/sessions":                       {"title": {"a\x01b"}},
				"/series":                         {"title": {"a\x01b"}, "start": {"2026-05-01"}, "days": {"3"}},
				"/people":                         {"name": {"a\x01b"}, "level": {"1"}},
				"/house":                          {"name": {"a\x01b"}, "zone": {"UTC"}},
				"/house/teachers":                 {"name": {"a\x01b"}, "email": {"x@claybank.example"}, "password": {"long enough pass"}},
				"/sessions/kiln-circuit/edit":     {"op": {"head"}, "title": {"a\x01b"}, "rev": {"1"}},
				"/series/off-the-wheel/edit":      {"op": {"head"}, "title": {"a\x01b"}, "rev": {"1"}},
				"/movements/squat/change":         {"do": {"words"}, "name": {"Squat"}, "say": {"a\x01b"}},
				"/sessions/kiln-circuit/template": {"title": {"a\x01b"}, "at": {"1.1.1"}},
			} {
				code, body := v.Form(path, f, kind)
				assert.Contains(t, []int{400, 422}, code, "%s %s: %s", kind, path, body)
			}
		}
		code, body := v.Form("/sessions", url.Values{"title": {"As sent by a phone\r\n"}}, "capital")
		assert.Equal(t, 303, code, body)
		ends("characters")
	})
	t.Run("a later version of an own movement with fewer levels", func(t *testing.T) {
		squat, _ := lib.Get("squat")
		f := webtest.OwnForm(squat, "Stoop")
		code, body := v.Form("/movement-save", f, "multipart")
		require.Equal(t, 204, code, body)
		code, body = v.Form("/sessions/import", url.Values{"text": {rowsOf(``, `{"movement":"own-stoop","level":3}`, 1)}, "do": {"make"}}, "")
		require.Equal(t, 303, code, body)
		for k := range f {
			if strings.HasPrefix(k, "levels.") && !strings.HasPrefix(k, "levels.0.") {
				f.Del(k)
			}
		}
		f.Set("slug", "own-stoop")
		f.Set("version", "1")
		code, body = v.Form("/movement-save", f, "")
		require.Equal(t, 204, code, body)
		lib = libraryOf(t, st, "claybank")
		ends("an own movement")
	})
}

func manyLines(n int, format string, a ...int) string {
	out := make([]string, n)
	for i := range out {
		arg := i
		if len(a) > 0 {
			arg = a[i%len(a)]
		}
		out[i] = fmt.Sprintf(format, arg)
	}
	return strings.Join(out, "\n")
}

// mendIDs are the mends that a bench offers.
func mendIDs(page string) (ids []string) {
	for _, part := range strings.Split(page, `data-mend="`)[1:] {
		id, _, _ := strings.Cut(part, `"`)
		ids = append(ids, id)
	}
	return ids
}

// An address with what no text holds is no page, on every route that takes a name.
func TestAddressesThatAreNone(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	h, err := web.New(st, kit.Options{})
	require.NoError(t, err)
	tried := 0
	for _, r := range h.Routes() {
		for _, bad := range []string{"%00", "%ff", "a%00b", "%01", strings.Repeat("x", 3000), "%E2%80%AE"} {
			path := strings.NewReplacer(":id", bad, ":slug", bad, ":file", bad, ":token", bad, ":job", bad, ":code", bad, ":as", bad, "*path", bad).Replace(r.Path)
			if path == r.Path {
				continue
			}
			require.NotContains(t, path, ":", "the test knows no name for %s", r.Path)
			tried++
			code, body, _ := v.Do(r.Method, path, nil)
			assert.GreaterOrEqual(t, code, 400, "%s %s", r.Method, path)
			assert.Less(t, code, 500, "%s %.60s: %.200s", r.Method, path, body)
		}
	}
	assert.Greater(t, tried, 200)
	for _, r := range h.Routes() { // and in the query of every address
		if r.Method != http.MethodGet {
			continue
		}
		path := strings.NewReplacer(":id", "kiln-circuit", ":slug", "squat", ":file", "squat-1-s.svg", ":token", "x", ":job", "x", ":code", "BCDFGH", ":as", "vtt", "*path", "x").Replace(r.Path)
		for _, q := range []string{"?%00", "?a=%00", "?a=%ff", "?%zz", "?a;b", "?back=%00", "?day=99999999999999999999", "?id=" + strings.Repeat("9", 300), "?from=-1&to=%ff", "?as=%00", "?q=" + strings.Repeat("%F0%9F%92%A9", 300)} {
			code, body, _ := v.Do("GET", path+q, nil)
			assert.Less(t, code, 500, "%s%.60s: %.200s", path, q, body)
		}
	}
	for _, path := range []string{"/sessions/kiln-circuit/compare?with=%00", "/sessions/kiln-circuit/propose?what=mend&id=%ff", "/sessions/kiln-circuit/understand?line=%00&after=1.1.1", "/sessions/kiln-circuit/understand?line=x&after=%00", "/movements?q=%00", "/sessions/kiln-circuit/export?as=%00"} {
		code, _, _ := v.Do("GET", path, nil)
		assert.Less(t, code, 500, path)
	}
}

// A document of a newer version, or one changed by hand, is one line in its list, with its history and its file; it
// takes nothing else down, and can be restored.
func TestWhatCannotBeReadStopsNothing(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	_, err := st.DB.Exec(`UPDATE plans SET doc = jsonb_set(doc, '{format}', '"wavekine.session/9"') WHERE plan_id IN ('thursday-mat', 'wheel-side-hips')`)
	require.NoError(t, err)
	_, err = st.DB.Exec(`UPDATE series SET doc = doc || '{"dance": true}'`)
	require.NoError(t, err)
	for p, says := range map[string]string{"/": "cannot be read by this version", "/sessions": "cannot be read by this version", "/series": "cannot be read by this version", "/log": "Log", "/people": "People"} {
		code, body, _ := v.Do("GET", p, nil)
		assert.Equal(t, 200, code, p)
		assert.Contains(t, body, says, p)
	}
	_, list, _ := v.Do("GET", "/sessions", nil)
	assert.Contains(t, list, "Kiln circuit", "the others stand")
	for _, p := range []string{"/sessions/thursday-mat", "/series/off-the-wheel"} {
		code, body, _ := v.Do("GET", p, nil)
		assert.Equal(t, 422, code, p)
		assert.Contains(t, body, "What it was before")
		code, file, h := v.Do("GET", p+"/document", nil)
		assert.Equal(t, 200, code)
		assert.Contains(t, h.Get("Content-Disposition"), "attachment")
		assert.True(t, json.Valid([]byte(file)))
	}
	for _, p := range []string{"/sessions/thursday-mat/lead", "/sessions/thursday-mat/print", "/sessions/thursday-mat/export?as=csv", "/sessions/kiln-circuit/compare?with=thursday-mat", "/series/off-the-wheel/calendar", "/sessions/thursday-mat/propose?what=fit"} {
		code, _, _ := v.Do("GET", p, nil)
		assert.Equal(t, 422, code, p)
	}
	code, body := v.Form("/sessions/thursday-mat/edit", url.Values{"op": {"head"}, "title": {"x"}, "rev": {"1"}}, "")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "cannot be read")
	for _, p := range []string{"/sessions/thursday-mat", "/sessions/wheel-side-hips", "/series/off-the-wheel", "/series/clay-hands", "/series/four-weeks", "/series/seven-holds"} {
		code, _, h := v.Do("POST", p+"/restore", url.Values{"to": {"1"}})
		require.Equal(t, 303, code, p)
		assert.Equal(t, p, h.Get("Location"))
		code, _, _ = v.Do("GET", p, nil)
		assert.Equal(t, 200, code, p)
	}
	pagesStand(t, v, "restoring")

	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	_, err = st.DB.Exec(`UPDATE plans SET doc = '{"format":"wavekine.session/9"}' WHERE plan_id = 'kiln-circuit'`)
	require.NoError(t, err)
	p.Go(base + "/sessions")
	assert.Empty(t, p.Axe())
	p.Click(".odd a")
	p.Until(`document.querySelector('.history button') !== null`)
	assert.Empty(t, p.Axe())
	p.Click(".history button")
	p.Until(`document.querySelectorAll('.row').length > 3`)
	p.Expect("422")
}

// The first row of a new session goes into its first section, the next ones after it, and the line says where.
func TestTheFirstRowGoesFirst(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	at := webtest.NewSession(t, v, "From the top", "20")
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + at)
	p.Until(`document.querySelector('#add') && window.htmx && document.readyState === 'complete'`)
	webtest.Press(p, "/")
	p.Keys("rib breathing 6 breaths")
	p.Until(`document.querySelector('#understood').textContent.includes('first, in Arrive')`)
	n := webtest.Rev(p)
	p.Keys("\r")
	webtest.Changed(p, n)
	p.Keys("cat and cow 5 reps")
	p.Until(`document.querySelector('#understood').textContent.includes('after row 1, in Arrive')`)
	p.Until(`document.querySelector('#addafter').textContent === 'after row 1, in Arrive'`)
	n = webtest.Rev(p)
	p.Keys("\r")
	webtest.Changed(p, n)
	// Into another section that is empty still: it says so there.
	p.Click(`[data-here="2"]`)
	p.Until(`document.activeElement.id === 'add' && document.querySelector('#addafter').textContent === 'in Build'`)
	p.Keys("bird dog 8 each side")
	p.Until(`document.querySelector('#understood').textContent.includes('after row 2, in Build')`)
	n = webtest.Rev(p)
	p.Keys("\r")
	webtest.Changed(p, n)
	d, err := st.Sessions.Get(context.Background(), "claybank", strings.TrimPrefix(at, "/sessions/"))
	require.NoError(t, err)
	s, err := plan.ReadSession(d.Doc, movement.Shipped())
	require.NoError(t, err)
	var where []string
	s.Each(func(at plan.Path, _ *plan.Block, r *plan.Row) {
		where = append(where, s.Sections[at.Section-1].Title+" "+r.Movement)
	})
	assert.Equal(t, []string{"Arrive rib-breathing", "Arrive cat-cow", "Build bird-dog"}, where)
}
