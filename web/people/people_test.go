package people_test

import (
	"context"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/demo"
	"wavekine/store"
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

func mover(t *testing.T, st *store.Store, id string) store.Mover {
	t.Helper()
	ms, err := st.Movers(context.Background(), "claybank")
	require.NoError(t, err)
	for _, m := range ms {
		if m.ID == id {
			return m
		}
	}
	return store.Mover{}
}

// form is the form of a person as the page that was opened at their revision shows it.
func form(m store.Mover, kv ...string) url.Values {
	f := url.Values{"id": {m.ID}, "rev": {strconv.Itoa(m.Rev)}, "name": {m.Name}, "watch": {m.Watch}, "note": {m.Note}, "level": {strconv.Itoa(m.Level)}}
	for i := 0; i+1 < len(kv); i += 2 {
		f.Set(kv[i], kv[i+1])
	}
	return f
}

// Two teachers with the same page open: what each changed of a person is kept; where both changed the same, the second
// sees both and decides. What to watch is never lost without a word.
func TestTwoKeepAPerson(t *testing.T) {
	base, st := webtest.Site(t)
	a, b := webtest.Visit(t, base).SignIn(demo.Email), webtest.Visit(t, base).SignIn(demo.Second)
	was := mover(t, st, "perpetua")
	require.Equal(t, 1, was.Rev)
	post := func(v *webtest.Visitor, f url.Values) (int, string) {
		code, body, _ := v.Do("POST", "/people", f, "HX-Request", "true")
		return code, body
	}
	code, _ := post(a, form(was, "watch", "wrists, left knee"))
	require.Equal(t, http.StatusSeeOther, code)
	code, _ = post(b, form(was, "note", "comes on Thursdays"))
	require.Equal(t, http.StatusSeeOther, code)
	now := mover(t, st, "perpetua")
	assert.Equal(t, "wrists, left knee", now.Watch, "what the first keeps to watch stays")
	assert.Equal(t, "comes on Thursdays", now.Note)
	code, body := post(b, form(was, "watch", "neck"))
	assert.Equal(t, http.StatusConflict, code)
	assert.Contains(t, body, "To watch: now <b>wrists, left knee</b>, you have <b>neck</b>")
	assert.Contains(t, body, "by Tobias Quill")
	assert.Equal(t, now, mover(t, st, "perpetua"))
	code, _ = post(b, form(was, "watch", "neck", "over", strconv.Itoa(now.Rev)))
	require.Equal(t, http.StatusSeeOther, code)
	kept := mover(t, st, "perpetua")
	assert.Equal(t, "neck", kept.Watch)
	assert.Equal(t, "comes on Thursdays", kept.Note, "and what was not touched stays as it is now")

	code, body = post(a, url.Values{"id": {"perpetua"}, "name": {"P"}, "level": {"1"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code, body)
	code, body, _ = a.Do("POST", "/people/perpetua/delete", url.Values{"rev": {"1"}}, "HX-Request", "true")
	assert.Equal(t, http.StatusConflict, code)
	assert.Contains(t, body, "changed meanwhile")
	code, _, _ = a.Do("POST", "/people/perpetua/delete", url.Values{"rev": {strconv.Itoa(kept.Rev)}})
	require.Equal(t, http.StatusSeeOther, code)
	code, body = post(b, form(kept, "watch", "hips"))
	assert.Equal(t, http.StatusConflict, code)
	assert.Contains(t, body, "They were removed meanwhile")
	assert.Empty(t, mover(t, st, "perpetua").ID, "nobody comes back by an old page")

	// Many at once, each another field of somebody: all of it is kept.
	who := mover(t, st, "ines")
	if who.ID == "" {
		ms, err := st.Movers(context.Background(), "claybank")
		require.NoError(t, err)
		who = ms[0]
	}
	var wg sync.WaitGroup
	for i, kv := range [][2]string{{"watch", "ankles"}, {"note", "new note"}, {"level", "3"}, {"name", "New Name"}} {
		v := []*webtest.Visitor{a, b}[i%2]
		wg.Go(func() {
			code, body := post(v, form(who, kv[0], kv[1]))
			assert.Equal(t, http.StatusSeeOther, code, body)
		})
	}
	wg.Wait()
	all := mover(t, st, who.ID)
	assert.Equal(t, []any{"ankles", "new note", 3, "New Name"}, []any{all.Watch, all.Note, all.Level, all.Name})
}

// What was understood of a person's own words is shown back, and what names no topic is said to be only a note.
func TestWhatIsUnderstoodIsShown(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	words := "old disc trouble, no neck problems, left-handed, 20 weeks pregnant"
	_, read, _ := v.Do("GET", "/people-read?watch="+url.QueryEscape(words), nil)
	assert.Contains(t, read, `value="low back" checked`)
	assert.Contains(t, read, "Only a note, nothing follows from it: left-handed.")
	code, _, head := v.Do("POST", "/people", url.Values{"name": {"Wren Ash"}, "watch": {words}, "level": {"1"}})
	require.Equal(t, http.StatusSeeOther, code)
	_, page, _ := v.Do("GET", "/people", nil)
	assert.Contains(t, page, `low back; expecting, second third <span class="look-ink small">not confirmed</span>`)
	id := strings.TrimPrefix(head.Get("Location"), "/people/")
	// What was ticked counts for the words it was read from; words that came after it hold by themselves, so that nothing that was typed is ignored.
	save := func(watch, looked string, topics ...string) []movement.Topic {
		was := mover(t, st, id)
		code, body, _ := v.Do("POST", "/people", url.Values{"id": {id}, "rev": {strconv.Itoa(was.Rev)}, "name": {"Wren Ash"}, "watch": {watch}, "looked": {looked}, "topic": topics, "level": {"1"}})
		require.Equal(t, http.StatusSeeOther, code, body)
		return kit.TopicsOf(mover(t, st, id))
	}
	assert.Equal(t, []movement.Topic{movement.LowBack}, save(words, words, "low back"))
	assert.Equal(t, []movement.Topic{movement.Neck, movement.Wrists}, save("neck and wrists", words, "low back"))
	assert.Empty(t, save("neck and wrists", "neck and wrists"))
	assert.Equal(t, []movement.Topic{movement.Knees}, save("knees", ""))
	code, _, _ = v.Do("POST", "/people", url.Values{"name": {"Wren Ash"}, "watch": {"x"}, "looked": {"x"}, "topic": {"telepathy"}, "level": {"1"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	save(words, words, "low back", "expecting, second third")
	_, page, _ = v.Do("GET", "/movements/scissors", nil)
	assert.Contains(t, page, "lighter: level 1")
	assert.Contains(t, page, "expecting, second third")
}

func TestWhatIsRefusedOfAPerson(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	was := mover(t, st, "perpetua")
	for says, kv := range map[string][2]string{
		"A name: from 1 to 120 characters": {"name", " "}, "at most 500 characters": {"watch", string(make([]rune, 501))}, "The usual level: 1 to 20": {"level", "99"},
		"reload the page": {"rev", "0"}, "reload the page and": {"over", "x"},
	} {
		code, body, _ := v.Do("POST", "/people", form(was, kv[0], kv[1]), "HX-Request", "true")
		assert.Equal(t, http.StatusUnprocessableEntity, code, says)
		if kv[0] != "watch" { // NUL is refused before
			assert.Contains(t, body, says)
		}
	}
	assert.Equal(t, was, mover(t, st, "perpetua"))
}

// What somebody watches is minded in classes from the moment it is kept, and no more from when they are gone.
func TestWhatIsWatchedIsMindedAtOnce(t *testing.T) {
	base, st := webtest.Site(t)
	v := webtest.Visit(t, base).SignIn(demo.Email)
	kinder := func() string {
		code, body, _ := v.Do("GET", "/sessions/thursday-mat/propose?what=kinder", nil, "HX-Request", "true")
		require.Equal(t, http.StatusOK, code, body)
		return body
	}
	require.NotContains(t, kinder(), "Anselm")
	was := mover(t, st, "anselm")
	code, body, _ := v.Do("POST", "/people", form(was, "watch", "neck")) // not looked at: what the words say holds
	require.Equal(t, http.StatusSeeOther, code, body)
	assert.Contains(t, kinder(), "Anselm")
	code, body, _ = v.Do("POST", "/people/anselm/delete", url.Values{"rev": {strconv.Itoa(mover(t, st, "anselm").Rev)}})
	require.Equal(t, http.StatusSeeOther, code, body)
	assert.NotContains(t, kinder(), "Anselm")
}
