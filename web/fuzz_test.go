package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/board"
	"wavekine/core/edit"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/progress"
	"wavekine/core/run"
	"wavekine/core/series"
	"wavekine/core/timeline"
	"wavekine/demo"
	"wavekine/store"
	"wavekine/store/storetest"
	"wavekine/web"
	"wavekine/web/kit"
	"wavekine/web/webtest"
)

// fuzz throws forms at every address that takes one, as screens send them and as they do not, and reads back
// everything that came of it.
type fuzz struct {
	t        *testing.T
	r        *rand.Rand
	v        *webtest.Visitor
	st       *store.Store
	lib      *movement.Library
	accepted map[string]int
	refused  map[string]int
}

func (z *fuzz) pick(of ...string) string { return of[z.r.IntN(len(of))] }

func (z *fuzz) n(lo, hi int) string { return strconv.Itoa(lo + z.r.IntN(hi-lo+1)) }

// nasty are values that no screen sends, or only by mistake.
var nasty = []string{
	"", "0", "-1", "99999999999", "NaN", "Inf", "-0", "1e308", "9.9.9", "1.1", "1.1.1.1", "a\x01b", "x\xff\xfe", "\x00", "\u202e", "<b>&amp;</b>", "'; DROP TABLE plans; --", "%s%n", "null", "../../etc",
	strings.Repeat("long ", 500), strings.Repeat("é", 3000), "0026-05-01", "2026-02-31", "25:61", "\r\n\r\n", "🧘", "= SUM(A1)", "[]", "{}", "true", "1 1 1 1 1 1 1 1", "own-x~9", "-5 s", "0.1 s", "700 h",
}

// session picks a stored session that is read, with its revision.
func (z *fuzz) session() (store.Document, *plan.Session) {
	ds, err := z.st.Sessions.List(context.Background(), "claybank")
	require.NoError(z.t, err)
	d := ds[z.r.IntN(min(len(ds), 12))]
	s, err := plan.ReadSession(d.Doc, z.lib)
	require.NoError(z.t, err, "%s", d.Doc)
	return d, s
}

func (z *fuzz) series() (store.Document, *plan.Series) {
	ds, err := z.st.Series.List(context.Background(), "claybank")
	require.NoError(z.t, err)
	d := ds[z.r.IntN(min(len(ds), 6))]
	s, err := plan.ReadSeries(d.Doc, z.lib)
	require.NoError(z.t, err)
	return d, s
}

// class finds a session, or the class of a day of a series, by its address.
func (z *fuzz) class(id string) (d store.Document, s *plan.Session) {
	series, day, ok := kit.SplitDayID(id)
	if !ok {
		d, err := z.st.Sessions.Get(context.Background(), "claybank", id)
		require.NoError(z.t, err)
		s, err = plan.ReadSession(d.Doc, z.lib)
		require.NoError(z.t, err)
		return d, s
	}
	d, err := z.st.Series.Get(context.Background(), "claybank", series)
	require.NoError(z.t, err)
	all, err := plan.ReadSeries(d.Doc, z.lib)
	require.NoError(z.t, err)
	d.ID = id
	switch on := all.Days[min(day, len(all.Days))-1]; {
	case on.Session != nil:
		s = on.Session
	case on.Ref != "":
		_, s = z.class(on.Ref)
	default:
		s = &plan.Session{}
	}
	return d, s
}

// desk is what stands on the bench: a session, now and then the class of a day.
func (z *fuzz) desk() (store.Document, *plan.Session) {
	if z.r.IntN(4) > 0 {
		return z.session()
	}
	d, s := z.series()
	return z.class(kit.DayID(d.ID, 1+z.r.IntN(len(s.Days))))
}

// rows lists the places of a session's rows.
func rowPlaces(s *plan.Session) (at []string) {
	s.Each(func(p plan.Path, _ *plan.Block, _ *plan.Row) { at = append(at, p.String()) })
	return at
}

func (z *fuzz) line() string {
	return z.pick(
		"bird dog 8 each side + 10 pulses", "squat 10", "hundred 10 breaths, 5 in 5 out", "rest 20 s head down", "swan level 2 5 reps", "clam 12 each side", "single leg stretch 10 pairs", "side plank hold 20 s each side",
		"full plank hold 30 s", "criss-cross 16 alternating", "side circles 5 each way each side", "rib breathing 6 breaths", "half pigeon 30 s each side", "teaser level 4 3 reps", "clam right only 8 reps", "cat and cow 3 x 5 reps, rest 10 s",
		"double leg lower 6 reps at 3-3", "roll-up 5 reps", "kiln stoop level 2 8 reps", "kneeling leg sweeps with a band 8-10 slow each side", "standing arm swings 30 s alternating", "about 8 squats, hold each 3 s",
	)
}

func (z *fuzz) dose() string {
	return z.pick("8 reps", "8 each side", "10 pairs", "20 alternating", "5 each way", "3 x 8, rest 30 s", "8 reps at 2-2", "8 reps + hold 5 s + 10 pulses", "hold 30 s", "hold 2 min", "10 breaths", "45 s", "45 s on 15 s off", "1:30", "as many as 40 s", "half forward half back 45 s", "500 reps", "200 breaths", "hold 0.5 s", "20 s")
}

// doc is a document, a table or a text to be read.
func (z *fuzz) doc(kind string) string {
	switch kind {
	case "csv":
		return "section,rule,rounds,on,off,rest,movement,level,dose,sides,right,left,note\nBuild,rounds," + z.n(1, 5) + ",40 s,20 s,,squat,1,,,,,hot\nBuild,straight,,,,,bird-dog,2,8 each side,,,6 reps,\n"
	case "text":
		return "# Build\n" + z.line() + "\n" + z.line() + "\n# Settle\n" + z.line()
	}
	_, s := z.session()
	b, err := json.Marshal(s)
	require.NoError(z.t, err)
	return string(b)
}

// edit is a change of a session as its screen sends it.
func (z *fuzz) edit(op string) (path string, f url.Values) {
	d, s := z.desk()
	before := map[string]url.Values{ // what must have been done for it
		"redo": {"op": {"undo"}}, "inline": {"op": {"add"}, "line": {"kneeling leg sweeps with a band 8 each side"}}, "renew": {"op": {"add"}, "line": {"kiln stoop 8 reps"}},
		"take":      {"op": {"add"}, "line": {"kneeling leg sweeps with a block 8 each side"}},
		"mend-line": {"op": {"paste"}, "text": {"to mend: flumox the gribble 7"}}, "unaside": {"op": {"aside"}, "rule": {"sides"}, "amount": {"1"}, "reason": {"ours are used to it"}},
	}
	if f := before[op]; f != nil {
		f.Set("rev", strconv.Itoa(d.Rev))
		z.v.Form("/sessions/"+d.ID+"/edit", f, "")
		d, s = z.class(d.ID)
	}
	at := rowPlaces(s)
	if len(at) == 0 && op != "undo" && op != "redo" {
		op = z.pick("add", "paste", "insert", "head", "section-add")
	}
	one := func() string {
		if len(at) == 0 {
			return "1.1.1"
		}
		return at[z.r.IntN(len(at))]
	}
	f = url.Values{"op": {op}, "rev": {strconv.Itoa(d.Rev)}}
	set := func(kv ...string) {
		for i := 0; i < len(kv); i += 2 {
			f.Set(kv[i], kv[i+1])
		}
	}
	level := func(p string) string {
		q, _ := plan.ParsePath(p)
		if r := s.Row(q); r != nil {
			if m, err := r.Of(z.lib); err == nil && m != nil {
				return z.n(1, len(m.Levels))
			}
		}
		return "1"
	}
	place := one()
	switch op {
	case "add":
		set("line", z.line(), "after", z.pick("", one(), z.n(1, max(1, len(s.Sections)))+".0.0"))
	case "paste":
		set("text", z.doc("text"), "after", z.pick("", one()))
	case "insert":
		other, _ := z.session()
		set("piece", z.pick("built 0", "built 1", "built 2", "session "+other.ID+" 1"), "after", one())
	case "move":
		set("at", place, "to", one())
	case "step":
		set("at", place, "by", z.pick("1", "-1"))
	case "duplicate", "lock", "unwrap":
		set("at", place)
	case "renew":
		s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
			if movement.IsOwn(r.Movement) {
				place = p.String()
			}
		})
		set("at", place)
	case "delete":
		set("at", place+" "+one())
	case "dose":
		set("at", place, "dose", z.dose())
		if z.r.IntN(4) == 0 {
			set("side", z.pick("right", "left"))
		}
	case "level":
		set("at", place, "level", level(place))
	case "sides":
		set("at", place, "sides", z.pick("next", "", "each", "right", "left", "alternating", "both"))
	case "note":
		set("at", place, "note", z.pick("", "hips level", "say it early\nand again", strings.Repeat("words ", 300)))
	case "options":
		set("at", place, "options", level(place)+" "+level(place), "demo", level(place), "usual", z.pick("", "1"))
	case "inline":
		s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
			if r.Inline != nil {
				place = p.String()
			}
		})
		set("at", place, "posture", z.pick("supine", "standing", "kneeling"), "sides", z.pick("both", "each", "alternating"), "seconds", z.pick("4.5", "2", "0"), "spine", z.pick("", "turn", "side, back"), "loads", z.pick("", "head up", "no hands"), "works", z.pick("", "hips", "gluteals, hips"), "kit", z.pick("", "block"), "stretch", z.pick("", "yes", "rest"))
	case "take":
		name := "Lent"
		s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			if r.Inline != nil {
				name = r.Inline.Name
			}
		})
		set("name", name, "movement", z.pick("bird-dog", "clam", "squat", "own-kiln-stoop", "no-such"))
	case "wrap":
		p, _ := plan.ParsePath(place)
		p.Row++
		many := place
		if s.Row(p) != nil {
			many += " " + p.String()
		}
		set("at", many, "rule", z.pick("chain", "rounds", "flow", "build up"))
	case "words":
		set("at", place, "words", z.clauses("slow", "say: lift; and lower", "cue: hips", "caution: knees", "option: on the forearms", "note: ours", "locked", "ends standing", "a breath each", "offers level 1", "offers nothing", "shows level 1", "at 5 s: soften", "right: slow", "left: option: a block", "other side", "in the first pass only", "by round: 8 / 6", "by round: out / level 2", "phases: level 1 3 breaths / level 2 2 breaths", "12 s", "at the top", "whistle"))
	case "block-words":
		set("at", place, "words", z.pick("flow", "one side through", "3 rounds", "build up", "straight", "2 rounds; 40 s on; 20 s off", "one side through; 30 s on; 10 s off")+"; "+z.clauses("lead in 0 s", "no last off", "10 s between", "between: shake it out", "second side whole", "title: Hands and knees", "note: no stopping", "talk flowing", "brisk", "left side first", "120 beats", "half a breath each"))
	case "section-words":
		set("section", z.n(1, max(1, len(s.Sections))), "words", z.clauses("talk flowing", "slow", "left side first", "a breath each", "pelvis neutral", "note: quiet", "80 beats", "no last off"))
	case "mend-line":
		s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
			if r.IsKept() {
				place = p.String()
			}
		})
		set("at", place, "line", z.line())
	case "block":
		set("at", place, "rounds", z.n(1, 4), "on", z.pick("", "40 s", "45"), "off", z.pick("", "20 s"), "rest", z.pick("", "15", "30 s"))
	case "section-add":
		set("title", z.pick("Peak", "Stretch", "Arrive again"), "section", z.n(0, len(s.Sections)))
	case "section-rename":
		set("section", z.n(1, max(1, len(s.Sections))), "title", z.pick("Arrive", "Middle", "Settle"))
	case "section-delete":
		set("section", z.n(1, max(1, len(s.Sections))))
	case "head":
		kv := [][2]string{
			{"title", "Hips again"},
			{"target", z.pick("20", "15:00", "", "45 min")},
			{"talk", z.pick("flowing", "coached", "first lesson")},
			{"tempo", z.pick("brisk", "even", "slow")},
			{"first", z.pick("right", "left", "by day")},
			{"bpm", z.pick("", "120", "96.5")},
			{"focus", z.pick("hips, upper back", "")},
			{"audience", z.pick("mixed", "beginners", "", "seniors with osteoporosis", "prenatal, 24 weeks", "able", "cannot get to the floor")},
			{"style", z.pick("breath nose-nose", "countdown 5", "mirrored no", "count pairs", "sides chain", "sets pairs", "warm_up assumed", "peak a finisher", "seen by a camera", "order classical")},
		}
		c := kv[z.r.IntN(len(kv))]
		set(c[0], c[1])
	case "kinder":
		set("watch", z.pick("neck; wrists", "not down to the floor", "knees", "telepathy"))
	case "cut":
		set("to", z.pick("5", "10:00", "20 min", "40", "soon"))
	case "aside":
		set("rule", z.pick("sides", "head-up", "length"), "about", z.pick("", "clam"), "amount", z.pick("1", "2.5", "0"), "reason", "ours are used to it")
	case "unaside":
		set("rule", z.pick("sides", "head-up", "length"), "about", "")
	case "carry":
		set("scope", z.pick("from", "every"))
	case "mend":
		_, page, _ := z.v.Do("GET", "/sessions/"+d.ID, nil)
		if ids := mendIDs(page); len(ids) > 0 {
			set("mend", ids[z.r.IntN(len(ids))])
		}
	}
	return "/sessions/" + d.ID + "/edit", f
}

// clauses are a few of some.
func (z *fuzz) clauses(of ...string) string {
	var out []string
	for range z.r.IntN(4) {
		out = append(out, of[z.r.IntN(len(of))])
	}
	return strings.Join(out, "; ")
}

func (z *fuzz) editSeries(op string) (string, url.Values) {
	d, s := z.series()
	if op == "redo" {
		z.v.Form("/series/"+d.ID+"/edit", url.Values{"op": {"undo"}, "rev": {strconv.Itoa(d.Rev)}}, "")
		var err error
		d, err = z.st.Series.Get(context.Background(), "claybank", d.ID)
		require.NoError(z.t, err)
	}
	if op == "climb" && len(s.Ladders) == 0 { // it needs a thread, and that a class
		for _, f := range []url.Values{{"op": {"lay-day"}, "day": {"1"}}, {"op": {"thread"}, "line": {"side plank hold 20 s each side on " + z.classDay(s) + " climbing"}}} {
			f.Set("rev", strconv.Itoa(d.Rev))
			z.v.Form("/series/"+d.ID+"/edit", f, "")
			var err error
			d, err = z.st.Series.Get(context.Background(), "claybank", d.ID)
			require.NoError(z.t, err)
			s, err = plan.ReadSeries(d.Doc, z.lib)
			require.NoError(z.t, err)
		}
	}
	day := func() string { return z.n(1, max(1, len(s.Days))) }
	other, _ := z.session()
	f := url.Values{"op": {op}, "rev": {strconv.Itoa(d.Rev)}, "day": {day()}, "to": {day()}}
	switch op {
	case "set":
		f.Set("plan", other.ID)
	case "days":
		f.Set("days", z.n(len(s.Days), max(len(s.Days), 30)))
	case "insert":
		f.Set("rest", z.pick("", "on"))
	case "stretch":
		f.Set("days", z.n(1, 24))
	case "copies":
		f.Set("to", z.pick("1, 3 and 5", "2 to 4", "every 3rd day", day()))
	case "kind":
		f.Set("kind", z.pick("work", "easy", "rest", "stretch", "peak"))
	case "theme":
		f.Set("theme", z.pick("", "hips", "spine", "core"))
	case "paint", "take-out":
		f.Set("movement", z.rowOf(s, f))
		f.Set("scope", z.pick("", "from", "every", "span"))
		if op == "paint" {
			f.Set("level", "1")
			f.Set("dose", z.pick("", "8 reps", "8 each side", "hold 30 s"))
		}
	case "thread":
		f.Set("line", z.line()+" "+z.pick("on 1, 2 and 3", "every day", "every 2nd day climbing", "on 1 climbing every week"))
	case "climb":
		f.Set("climb", z.pick("every time", "every 2nd time", "every week", "never", "when ready"))
		f.Set("movement", "bird-dog")
		if len(s.Ladders) > 0 {
			f.Set("movement", s.Ladders[z.r.IntN(len(s.Ladders))].Movement)
		}
	case "fit":
		f.Set("on", z.pick("", "1 to 5", day()))
	case "pin":
		f.Set("what", z.pick("day", "kind", "row", "theme"))
		f.Set("movement", z.rowOf(s, f))
		f.Set("off", z.pick("", "", "on"))
	case "lay-day":
		f.Set("day", z.classDay(s))
		f.Set("seed", z.n(0, 9))
	case "lay-again":
		f.Set("seed", z.n(0, 9))
		f.Set("brief", z.pick("", "7 days, 10 min, hips, ramp", "6 days, 8 min, core, rest day 3"))
		if s.Brief == "" {
			f.Set("brief", "7 days, 10 min, hips, learn bird dog")
		}
	case "mend":
		f.Set("rule", "minutes")
		found, err := series.Over(s, z.lib, nil)
		require.NoError(z.t, err)
		for _, one := range found {
			if ms := board.MendsOf(s, z.lib, one, board.With{}); len(ms) > 0 {
				f.Set("rule", one.Rule)
				f.Set("day", strconv.Itoa(one.Day))
				f.Set("about", one.About)
				f.Set("mend", ms[z.r.IntN(len(ms))].ID)
				break
			}
		}
	case "take-week":
		other, o := z.series()
		f.Set("of", other.ID+" "+z.n(1, max(1, len(o.Days)/7)))
		f.Set("day", z.n(1, len(s.Days)+1))
	case "head":
		kv := [][2]string{{"title", "Off the wheel"}, {"start", "2026-06-0" + z.n(1, 9)}, {"time", z.pick("", "18:30", "09:05")}, {"shape", plan.Shapes()[z.r.IntN(len(plan.Shapes()))]}}
		c := kv[z.r.IntN(len(kv))]
		f.Set(c[0], c[1])
	}
	return "/series/" + d.ID + "/edit", f
}

var jobAt = regexp.MustCompile(`/series-laying/[a-z0-9]+`)

// classDay is a day that has a class of its own.
func (z *fuzz) classDay(s *plan.Series) string {
	var days []int
	for i := range s.Days {
		if s.Days[i].Session != nil {
			days = append(days, i+1)
		}
	}
	if len(days) == 0 {
		return "1"
	}
	return strconv.Itoa(days[z.r.IntN(len(days))])
}

// rowOf is a movement on some day, which it puts into the form.
func (z *fuzz) rowOf(s *plan.Series, f url.Values) string {
	f.Set("day", z.classDay(s))
	n, _ := strconv.Atoi(f.Get("day"))
	var slugs []string
	if c := s.Days[n-1].Session; c != nil {
		c.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			if r.Movement != "" {
				slugs = append(slugs, movement.BaseSlug(r.Movement))
			}
		})
	}
	if len(slugs) == 0 {
		return "bird-dog"
	}
	return slugs[z.r.IntN(len(slugs))]
}

// own is the form of a movement of the studio's own.
func (z *fuzz) own() url.Values {
	shipped := movement.Shipped().All()
	m := shipped[z.r.IntN(len(shipped))]
	f := webtest.OwnForm(m, "Our "+m.Name+" "+z.n(1, 400))
	if z.r.IntN(3) == 0 {
		if have, ok := z.lib.Get("own-kiln-stoop"); ok {
			f.Set("name", "Kiln stoop")
			f.Set("slug", "own-kiln-stoop")
			f.Set("version", strconv.Itoa(have.Version))
		}
	}
	return f
}

// forms are all forms there are, by the route they go to: a form as its screen sends it.
func (z *fuzz) forms() map[string]func() (string, url.Values) {
	ownSlug := func() string {
		var own []string
		for _, m := range z.lib.All() {
			if m.Own {
				own = append(own, m.Base)
			}
		}
		if len(own) == 0 {
			return "own-none"
		}
		return own[z.r.IntN(len(own))]
	}
	first := func(q string) string {
		var ids []string
		require.NoError(z.t, z.st.DB.Select(&ids, q))
		if len(ids) == 0 {
			return "nothing"
		}
		return ids[z.r.IntN(len(ids))]
	}
	leaving := func() string { // mostly somebody of no group: with everybody of a group gone nothing more is decided
		if z.r.IntN(8) > 0 {
			return first(`SELECT mover_id FROM movers WHERE mover_id NOT IN (SELECT mover_id FROM group_movers)`)
		}
		return first(`SELECT mover_id FROM movers`)
	}
	other := func() string { return first(`SELECT teacher_id FROM teachers WHERE teacher_id <> 'maren'`) } // who fuzzes stays
	at := func(tail string, f func(d store.Document, s *plan.Session) url.Values) func() (string, url.Values) {
		return func() (string, url.Values) { d, s := z.session(); return "/sessions/" + d.ID + tail, f(d, s) }
	}
	return map[string]func() (string, url.Values){
		"/sessions/:id/edit": func() (string, url.Values) {
			ops := edit.SessionNames()
			return z.edit(append(ops, "undo", "redo", "carry")[z.r.IntN(len(ops)+3)])
		},
		"/series/:id/edit": func() (string, url.Values) {
			ops := edit.SeriesNames()
			return z.editSeries(append(ops, "undo", "redo")[z.r.IntN(len(ops)+2)])
		},
		"/sessions": func() (string, url.Values) {
			return "/sessions", url.Values{"title": {"New " + z.n(1, 99)}, "target": {z.pick("", "20", "20:00")}}
		},
		"/sessions/import": func() (string, url.Values) {
			k := z.pick("json", "csv", "text")
			return "/sessions/import", url.Values{"text": {z.doc(k)}, "kind": {z.pick(k, "")}, "do": {z.pick("", "make")}, "title": {z.pick("", "Read")}}
		},
		"/lead/breath": func() (string, url.Values) {
			return "/lead/breath", url.Values{"movement": {z.pick("squat", "bird-dog", "roll-up", "nothing")}}
		},
		"/room": func() (string, url.Values) {
			return "/room", url.Values{"code": {first(`SELECT code FROM rooms`)}}
		},
		"/sessions/:id/copy":    at("/copy", func(store.Document, *plan.Session) url.Values { return url.Values{} }),
		"/sessions/:id/paste":   at("/paste", func(store.Document, *plan.Session) url.Values { return url.Values{"text": {z.doc("text")}} }),
		"/sessions/:id/restore": at("/restore", func(d store.Document, _ *plan.Session) url.Values { return url.Values{"to": {z.n(1, d.Rev)}} }),
		"/sessions/:id/template": at("/template", func(_ store.Document, s *plan.Session) url.Values {
			rows := rowPlaces(s)
			return url.Values{"title": {"Piece " + z.n(1, 99)}, "at": {strings.Join(rows[:min(3, len(rows))], " ")}}
		}),
		"/sessions/:id/archive": func() (string, url.Values) {
			return "/sessions/" + first(`SELECT plan_id FROM plans WHERE archived_at IS NULL AND title LIKE 'New %'`) + "/archive", url.Values{}
		},
		"/templates/:id/delete": func() (string, url.Values) {
			return "/templates/" + first(`SELECT template_id FROM templates`) + "/delete", url.Values{}
		},
		"/series": func() (string, url.Values) {
			return "/series", url.Values{"title": {"Series " + z.n(1, 99)}, "start": {"2026-05-" + z.n(10, 28)}, "days": {z.n(1, 30)}}
		},
		"/series-lay": func() (string, url.Values) {
			return "/series-lay", url.Values{"brief": {z.n(1, 12) + " days from " + z.n(1, 28) + " june, " + z.pick("8 min", "10 to 15 min", "20 min") + ", " + z.pick("hips", "core and balance", "older", "no kit", "rest sundays") + ", " + z.pick("ramp", "wave", "two long holds", "on and off", "same set growing", "learn bird dog")}, "seed": {z.n(0, 9)}}
		},
		"/series-laying/:job/stop": func() (string, url.Values) { // of something that is being laid
			_, body, _ := z.v.Do("POST", "/series-lay", url.Values{"brief": {"60 days, 110 min, hips, core and back, mixed, learn bird dog and clam"}}, "HX-Request", "true")
			at := jobAt.FindString(body)
			if at == "" {
				at = "/series-laying/none"
			}
			return at + "/stop", url.Values{}
		},
		"/series/:id/delete": func() (string, url.Values) {
			z.v.Form("/series/"+first(`SELECT series_id FROM series WHERE archived_at IS NULL AND title LIKE 'Series %'`)+"/archive", url.Values{}, "")
			return "/series/" + first(`SELECT series_id FROM series WHERE archived_at IS NOT NULL`) + "/delete", url.Values{}
		},
		"/series/:id/open": func() (string, url.Values) {
			d, _ := z.series()
			return "/series/" + d.ID + "/open", url.Values{"op": {z.pick("", "end")}}
		},
		"/series/:id/pattern": func() (string, url.Values) {
			d, _ := z.series()
			return "/series/" + d.ID + "/pattern", url.Values{"title": {z.pick("", "Our fortnight")}}
		},
		"/series/:id/again": func() (string, url.Values) {
			d, _ := z.series()
			return "/series/" + d.ID + "/again", url.Values{"title": {z.pick("", "Once more")}, "start": {"2026-0" + z.n(5, 9) + "-1" + z.n(0, 9)}}
		},
		"/patterns/:id/start": func() (string, url.Values) {
			return "/patterns/" + first(`SELECT pattern_id FROM patterns`) + "/start", url.Values{"start": {"2026-0" + z.n(5, 9) + "-1" + z.n(0, 9)}}
		},
		"/patterns/:id/delete": func() (string, url.Values) {
			return "/patterns/" + first(`SELECT pattern_id FROM patterns`) + "/delete", url.Values{}
		},
		"/series/:id/keep": func() (string, url.Values) {
			d, s := z.series()
			return "/series/" + d.ID + "/keep", url.Values{"day": {z.classDay(s)}}
		},
		"/series/:id/groups": func() (string, url.Values) {
			d, _ := z.series()
			return "/series/" + d.ID + "/groups", url.Values{"name": {"Group " + z.n(1, 99)}, "start": {"2026-05-" + z.n(10, 28)}, "on": {z.pick("", "tuesdays, thursdays", "mondays and fridays")}, "time": {z.pick("", "18:30")}, "alarm": {z.pick("", "15")}}
		},
		"/groups/:id/edit": func() (string, url.Values) {
			id := first(`SELECT group_id FROM series_groups`)
			f := url.Values{"op": {z.pick("head", "pause", "unpause", "move", "off", "on", "holidays")}, "rev": {z.pick(first(`SELECT rev::text FROM series_groups WHERE group_id = '`+id+`'`), "1")}, "day": {"1"}, "from": {"2026-06-0" + z.n(1, 9)}, "to": {"2026-06-1" + z.n(0, 9)}, "name": {"Evening"}, "start": {"2026-05-" + z.n(10, 28)}, "on": {z.pick("", "sundays")}, "time": {"09:00"}}
			return "/groups/" + id + "/edit", f
		},
		"/groups/:id/delete": func() (string, url.Values) {
			return "/groups/" + first(`SELECT group_id FROM series_groups`) + "/delete", url.Values{}
		},
		"/groups/:id/address": func() (string, url.Values) {
			return "/groups/" + first(`SELECT group_id FROM series_groups`) + "/address", url.Values{"op": {z.pick("", "end")}}
		},
		"/series/:id/restore": func() (string, url.Values) {
			d, _ := z.series()
			return "/series/" + d.ID + "/restore", url.Values{"to": {z.n(1, d.Rev)}}
		},
		"/slots": func() (string, url.Values) {
			d, _ := z.session()
			return "/slots", url.Values{"plan": {d.ID}, "day": {"2026-05-" + z.n(10, 28)}, "time": {z.pick("18:30", "09:00")}}
		},
		"/slots/:id/delete": func() (string, url.Values) {
			return "/slots/" + first(`SELECT slot_id FROM slots`) + "/delete", url.Values{}
		},
		"/people": func() (string, url.Values) {
			if id := first(`SELECT mover_id FROM movers`); z.r.IntN(2) == 0 { // a change, of a revision that may be an old one
				return "/people", url.Values{"id": {id}, "rev": {z.n(1, 3)}, "name": {"Wren " + z.n(1, 9)}, "watch": {z.pick("", "neck", "wrists, knees")}, "note": {z.pick("", "new")}, "level": {z.n(1, 3)}, "over": {z.pick("", "", "2")}}
			}
			return "/people", url.Values{"name": {"Wren " + z.n(1, 99)}, "watch": {z.pick("", "neck", "wrists, knees")}, "note": {"new"}, "level": {z.n(1, 3)}}
		},
		"/people/:id/link": func() (string, url.Values) {
			return "/people/" + first(`SELECT mover_id FROM movers`) + "/link", url.Values{}
		},
		"/people/:id/links/end": func() (string, url.Values) {
			return "/people/" + first(`SELECT mover_id FROM movers`) + "/links/end", url.Values{}
		},
		"/people/:id/erase": func() (string, url.Values) {
			return "/people/" + leaving() + "/erase", url.Values{}
		},
		"/people/:id/notes": func() (string, url.Values) {
			return "/people/" + first(`SELECT mover_id FROM movers`) + "/notes", url.Values{"words": {z.pick("came late", "throws again")}, "drop": {z.pick("", "", first(`SELECT note_id FROM mover_notes`))}}
		},
		"/people/:id/groups": func() (string, url.Values) {
			return "/people/" + first(`SELECT mover_id FROM movers`) + "/groups", url.Values{"group": {first(`SELECT group_id FROM series_groups`)}, "do": {z.pick("", "", "", "", "out")}, "back": {z.pick("", "/people")}}
		},
		"/people/:id/letter": func() (string, url.Values) {
			id := first(`SELECT mover_id FROM group_movers`)
			return "/people/" + id + "/letter", url.Values{"invite": {z.pick("", first(`SELECT group_id FROM group_movers WHERE mover_id = '`+id+`'`))}, "again": {z.pick("", "yes")}, "subject": {"The kiln is hot"}, "words": {"Bring a cushion.\r\n{link}"}}
		},
		"/groups/:id/people": func() (string, url.Values) {
			return "/groups/" + first(`SELECT group_id FROM series_groups`) + "/people", url.Values{"mover": {first(`SELECT mover_id FROM movers`)}}
		},
		"/groups/:id/letter": func() (string, url.Values) {
			return "/groups/" + first(`SELECT group_id FROM series_groups`) + "/letter", url.Values{"invite": {z.pick("", "yes")}, "subject": {"Saturday"}, "words": {"Later by an hour."}}
		},
		"/groups/:id/decide": func() (string, url.Values) { // as the page of the group offers it
			g := first(`SELECT group_id FROM group_movers`)
			_, page, _ := z.v.Do("GET", "/groups/"+g, nil)
			at := regexp.MustCompile(`name="mover" value="([^"]+)"><input type="hidden" name="movement" value="([^"]*)"><input type="hidden" name="verdict" value="([^"]+)"`).FindAllStringSubmatch(page, -1)
			if len(at) == 0 {
				return "/groups/" + g + "/decide", url.Values{"mover": {"nobody"}, "movement": {"squat"}, "verdict": {"up"}, "does": {"up"}}
			}
			x := at[z.r.IntN(len(at))]
			return "/groups/" + g + "/decide", url.Values{"mover": {x[1]}, "movement": {x[2]}, "verdict": {x[3]}, "does": {z.pick(x[3], "stay")}, "together": {z.pick("", "", "", "", "bird-dog")}}
		},
		"/groups/:id/steps": func() (string, url.Values) {
			return "/groups/" + first(`SELECT group_id FROM mover_steps`) + "/steps", url.Values{"step": {first(`SELECT step_id FROM mover_steps`)}, "do": {z.pick("undo", "clear")}}
		},
		"/letters/:id/again": func() (string, url.Values) {
			return "/letters/" + first(`SELECT letter_id FROM letters`) + "/again", url.Values{}
		},
		"/m/:token/missed": func() (string, url.Values) {
			id := first(`SELECT mover_id FROM group_movers`)
			me, kind, seen := z.page(id), z.pick("go on", "along", "catch up"), ""
			_, page, _ := z.v.Do("GET", me, nil)
			if m := regexp.MustCompile(`name="kind" value="` + kind + `"><input type="hidden" name="seen" value="([0-9a-f]+)"`).FindStringSubmatch(page); m != nil {
				seen = m[1]
			}
			return me + "/missed", url.Values{"seen": {seen}, "g": {first(`SELECT group_id FROM group_movers WHERE mover_id = '` + id + `'`)}, "kind": {kind}, "id": {z.pick("", "choice-"+z.n(1, 99999))}}
		},
		"/m/:token/missed/undo": func() (string, url.Values) {
			id := first(`SELECT mover_id FROM group_movers`)
			return z.page(id) + "/missed/undo", url.Values{"g": {first(`SELECT group_id FROM group_movers WHERE mover_id = '` + id + `'`)}, "id": {first(`SELECT choice_id FROM mover_choices WHERE mover_id = '` + id + `'`)}}
		},
		"/m/:token/remind": func() (string, url.Values) {
			return z.page(first(`SELECT mover_id FROM movers`)) + "/remind", url.Values{"want": {z.pick("yes", "no")}}
		},
		"/m/:token/erase": func() (string, url.Values) {
			return z.page(first(`SELECT mover_id FROM movers`)) + "/erase", url.Values{}
		},
		"/people/:id/delete": func() (string, url.Values) {
			id := leaving()
			return "/people/" + id + "/delete", url.Values{"rev": {z.pick(first(`SELECT rev::text FROM movers WHERE mover_id = '`+id+`'`), "1")}}
		},
		"/house": func() (string, url.Values) {
			return "/house", url.Values{"rev": {first(`SELECT rev::text FROM house_revisions`)}, "name": {"Claybank Pottery"}, "zone": {z.pick("Europe/Lisbon", "UTC")}, "head_up": {z.n(30, 300)}, "style-breath": {z.pick("nose-nose", "free")}, "style-count": {z.pick("singles", "pairs")}, "wording-day": {z.pick("", "Day {day}: {title}\r\n{kit}", "{minutes}", "{nothing}")}}
		},
		"/house/holidays": func() (string, url.Values) {
			return "/house/holidays", url.Values{"do": {z.pick("add", "add", "out", "past")}, "from": {"2026-0" + z.n(5, 9) + "-1" + z.n(0, 9)}, "to": {z.pick("", "2026-10-01")}, "what": {z.pick("", "Kiln holidays", "Feast")}}
		},
		"/house/aside": func() (string, url.Values) {
			return "/house/aside", url.Values{"rule": {z.pick("head-up", "sides")}, "amount": {z.n(1, 9)}, "reason": {"ours are used to it"}, "do": {z.pick("", "back")}}
		},
		"/house/pace": func() (string, url.Values) {
			return "/house/pace", url.Values{"do": {z.pick("all", "accept", "refuse")}, "slug": {z.pick("~talk", "~tempo", "~changes")}}
		},
		"/house/teachers": func() (string, url.Values) {
			return "/house/teachers", url.Values{"name": {"Ida"}, "email": {"ida" + z.n(1, 9999) + "@claybank.example"}}
		},
		"/house/restore": func() (string, url.Values) {
			return "/house/restore", url.Values{"to": {first(`SELECT rev::text FROM house_revisions`)}}
		},
		"/house/teachers/:id/link":   func() (string, url.Values) { return "/house/teachers/" + other() + "/link", url.Values{} },
		"/house/teachers/:id/remove": func() (string, url.Values) { return "/house/teachers/" + other() + "/remove", url.Values{} },
		"/house/teachers/:id/return": func() (string, url.Values) { return "/house/teachers/" + other() + "/return", url.Values{} },
		"/house/teachers/:id/role": func() (string, url.Values) {
			return "/house/teachers/" + other() + "/role", url.Values{"role": {z.pick("owner", "teacher")}}
		},
		"/account/signout": func() (string, url.Values) { return "/account/signout", url.Values{} },
		"/account/password": func() (string, url.Values) {
			return "/account/password", url.Values{"old_password": {demo.Password}, "password": {demo.Password}}
		},
		"/sessions/:id/unarchive": func() (string, url.Values) {
			return "/sessions/" + first(`SELECT plan_id FROM plans WHERE archived_at IS NOT NULL`) + "/unarchive", url.Values{}
		},
		"/series/:id/archive": func() (string, url.Values) {
			d, _ := z.series()
			if ds, err := z.st.Series.List(context.Background(), "claybank"); err != nil || len(ds) < 3 {
				d.ID = "none" // some stay
			}
			return "/series/" + d.ID + "/archive", url.Values{}
		},
		"/series/:id/unarchive": func() (string, url.Values) {
			return "/series/" + first(`SELECT series_id FROM series WHERE archived_at IS NOT NULL`) + "/unarchive", url.Values{}
		},
		"/log": func() (string, url.Values) {
			d, _ := z.session()
			return "/log", url.Values{"plan": {d.ID}, "took": {z.pick("24:30", "18 min")}, "day": {"2026-05-" + z.n(10, 14)}}
		},
		"/log/:id/delete": func() (string, url.Values) {
			return "/log/" + first(`SELECT run_id FROM runs WHERE remembered`) + "/delete", url.Values{}
		},
		"/movement-save": func() (string, url.Values) {
			f := z.own()
			f.Set("do", z.pick("", "", "", "show", "level-copy 0"))
			return "/movement-save", f
		},
		"/movement-pose": func() (string, url.Values) {
			f := z.own()
			return "/movement-pose", url.Values{"field": {"levels.0.pose"}, "pose": {f.Get("levels.0.pose")}, "do": {z.pick("show", "mirror", "pull")}, "handle": {"handR"}, "x": {z.n(10, 300)}, "y": {z.n(10, 200)}}
		},
		"/movements/:slug/change": func() (string, url.Values) {
			m := movement.Shipped().All()[z.r.IntN(5)]
			return "/movements/" + z.pick(m.Slug, ownSlug()) + "/change", url.Values{"do": {z.pick("hide", "show", "words", "reset")}, "name": {m.Name}, "say": {"Our own words."}, "setup": {m.Setup}, "watch": {m.Watch}, "care": {m.Care}}
		},
		"/movements/:slug/delete": func() (string, url.Values) { return "/movements/" + ownSlug() + "/delete", url.Values{} },
	}
}

// told is what came of a form: over 499 never.
func (z *fuzz) told(name string, code int, body string, f url.Values) {
	z.t.Helper()
	require.Less(z.t, code, 500, "%s %v: %.300s", name, f, body)
	if code < 400 {
		z.accepted[name]++
		if strings.HasPrefix(name, "/movement") {
			z.lib = libraryOf(z.t, z.st, "claybank")
		}
	} else {
		z.refused[name]++
	}
}

func (z *fuzz) form(name string, path string, f url.Values, spoil bool) {
	z.t.Helper()
	if spoil && len(f) > 0 {
		keys := slices.Sorted(maps.Keys(f))
		for range 1 + z.r.IntN(2) {
			f.Set(keys[z.r.IntN(len(keys))], nasty[z.r.IntN(len(nasty))])
		}
		if z.r.IntN(6) == 0 {
			f.Del(keys[z.r.IntN(len(keys))])
		}
	}
	kind := []string{"", "", "", "multipart", "multipart", "capital"}[z.r.IntN(6)]
	if spoil && z.r.IntN(12) == 0 {
		kind = z.pick("query", "semicolon")
	}
	op := f.Get("op")
	code, body := z.v.Form(path, f, kind)
	z.told(name, code, body, f)
	if op != "" && strings.HasSuffix(name, "/edit") && code == 200 {
		z.accepted[name+" "+op]++
	}
}

// room leads a session as a page does: it says so, and tells what is on.
func (z *fuzz) room(spoil bool) {
	z.t.Helper()
	var codes []string
	require.NoError(z.t, z.st.DB.Select(&codes, `SELECT code FROM rooms WHERE leader = 'a-page-that-leads'`))
	name, doc := "/sessions/:id/room", `{"tab":"a-page-that-leads","take":true,"class":{"title":"Led","steps":[{"name":"Squat","s":1000}]}}`
	d, _ := z.session()
	path := "/sessions/" + d.ID + "/room"
	if len(codes) > 0 && z.r.IntN(3) > 0 {
		name, path = "/rooms/:code", "/rooms/"+codes[z.r.IntN(len(codes))]
		doc = `{"tab":"a-page-that-leads","state":{"run":"x","n":` + z.n(1, 99) + `,"i":0,"into":` + z.n(0, 9000) + `,"running":true},"ended":` + z.pick("false", "false", "true") + `}`
	}
	if spoil {
		b := []byte(doc)
		for range 1 + z.r.IntN(3) {
			b[z.r.IntN(len(b))] = byte(z.r.IntN(256))
		}
		doc = string(b)
	}
	code, body := z.v.Raw("POST", path, []byte(doc), "application/json")
	z.told(name, code, body, nil)
	for _, c := range codes {
		code, body, _ := z.v.Do("GET", "/room/"+c, nil)
		require.Contains(z.t, []int{200, 404, 429}, code, "%.200s", body)
	}
}

// files sends what goes as a file, and runs.
func (z *fuzz) files(spoil bool) {
	z.t.Helper()
	mangle := func(text string) string {
		if !spoil || len(text) < 4 {
			return text
		}
		b := []byte(text)
		for range 1 + z.r.IntN(4) {
			b[z.r.IntN(len(b))] = byte(z.r.IntN(256))
		}
		if z.r.IntN(3) == 0 {
			b = b[:z.r.IntN(len(b))]
		}
		return string(b)
	}
	switch z.r.IntN(5) {
	case 3, 4:
		z.word(mangle, z.r.IntN(3) == 0)
	case 0:
		code, body := upload(z.t, z.v, []byte(mangle(z.doc(z.pick("json", "csv", "text")))))
		z.told("/sessions/import", code, body, nil)
	case 1:
		own := z.lib.All()[z.r.IntN(20)]
		text, err := own.MarshalJSON()
		require.NoError(z.t, err)
		doc := strings.NewReplacer(`"slug":"`+own.Slug, `"slug":"own-lent-`+z.n(1, 50), `"name":"`+own.Name, `"name":"Lent `+z.n(1, 50)).Replace(string(text))
		var also map[string]any
		if json.Unmarshal([]byte(doc), &also) == nil {
			delete(also, "also")
			b, _ := json.Marshal(also)
			doc = string(b)
		}
		code, body := uploadTo(z.t, z.v, "/movement-import", []byte(mangle(doc)))
		z.told("/movement-import", code, body, nil)
	case 2:
		d, s := z.session()
		if tl, err := timeline.Build(s, z.lib); err != nil || tl.Total == 0 { // no rows, or only lines to be mended
			return
		}
		r := webtest.HandLed(webtest.LeadRun(z.t, z.v, "/sessions/"+d.ID), func(*run.Step) float64 { return .7 + z.r.Float64() })
		r.ID = "fuzz-run-" + z.n(1, 1e6)
		b, err := json.Marshal(r)
		require.NoError(z.t, err)
		code, says := webtest.SentText(z.t, z.v, mangle(string(b)))
		z.told("/runs", code, says, nil)
	}
}

// page is a mover's own page, by a link of its own; of nobody where there is none.
func (z *fuzz) page(mover string) string {
	token, err := z.st.MakeMoverLink(context.Background(), "claybank", mover, "maren")
	if err != nil {
		return "/m/nobody"
	}
	return "/m/" + token
}

// word tells how a day went, as a phone does, on a mover's page or on that of an open series.
func (z *fuzz) word(mangle func(string) string, open bool) {
	z.t.Helper()
	c := progress.CheckIn{ID: "fuzz-word-told-" + z.n(10000, 99999), Day: 1 + z.r.IntN(14), Did: progress.Did(z.pick("all", "part", "all")), Effort: z.r.IntN(11), Told: webtest.Thursday, Line: z.pick("", "good; tired")}
	for _, p := range progress.Places() {
		if z.r.IntN(9) == 0 {
			c.Felt = append(c.Felt, progress.Felt{Place: p.Name, In: z.pick("", "bird-dog")})
		}
	}
	b, err := json.Marshal(&c)
	require.NoError(z.t, err)
	if open {
		var id string
		_ = z.st.DB.Get(&id, `SELECT series_id FROM series WHERE archived_at IS NULL ORDER BY series_id LIMIT 1`)
		secret, err := z.st.OpenSeries(context.Background(), "claybank", id)
		if err != nil {
			return
		}
		code, says := z.v.Raw("POST", "/open/"+secret+"/word", []byte(mangle(string(b))), "application/json")
		z.told("/open/:token/word", code, says, nil)
		return
	}
	var in []struct {
		Mover string `db:"mover_id"`
		Group string `db:"group_id"`
	}
	require.NoError(z.t, z.st.DB.Select(&in, `SELECT mover_id, group_id FROM group_movers`))
	if len(in) == 0 {
		return
	}
	x := in[z.r.IntN(len(in))]
	code, says := z.v.Raw("POST", z.page(x.Mover)+"/word?g="+x.Group, []byte(mangle(string(b))), "application/json")
	z.told("/m/:token/word", code, says, nil)
}

// newFuzz is a fuzz of the demo studio by its owner, and the site that it is thrown at.
func newFuzz(t *testing.T, seed uint64) (*fuzz, *web.Handler) {
	t.Helper()
	st := storetest.New(t)
	_, err := demo.Load(context.Background(), st, webtest.Thursday, webtest.CheapHash)
	require.NoError(t, err)
	h, err := web.New(st, kit.Options{Now: func() time.Time { return webtest.Thursday }, Post: webtest.Office(t, st)})
	require.NoError(t, err)
	srv := httptest.NewServer(h)
	t.Cleanup(srv.Close)
	return &fuzz{t: t, r: rand.New(rand.NewPCG(seed, 1126)), v: webtest.Visit(t, srv.URL).SignIn(demo.Email), st: st, lib: libraryOf(t, st, "claybank"), accepted: map[string]int{}, refused: map[string]int{}}, h
}

// Twenty thousand edits among all other forms (a tenth of them here): every command, every form, as they are sent and as they are not; at
// least half are taken; whatever comes of it, everything that is stored can be read again and every page stands.
func TestEveryFormLeavesWhatCanBeRead(t *testing.T) {
	z, h := newFuzz(t, 20)
	st := z.st
	total, look := 2000, 250
	switch {
	case thorough():
		total = 20000
	case testing.Short():
		total, look = 300, 150
	}
	squat, _ := movement.Shipped().Get("squat")
	code, body := z.v.Form("/movement-save", webtest.OwnForm(squat, "Kiln stoop"), "")
	require.Equal(t, 204, code, body)
	z.lib = libraryOf(t, st, "claybank")
	code, body = z.v.Form("/sessions/kiln-circuit/edit", url.Values{"op": {"add"}, "line": {"kiln stoop 8 reps"}, "rev": {"1"}}, "") // in use, so that it stays
	require.Equal(t, 200, code, body)
	forms := z.forms()
	names := slices.Sorted(maps.Keys(forms))
	rare := map[string]bool{"/series/:id/again": true, "/patterns/:id/start": true, "/patterns/:id/delete": true, "/house/teachers": true, "/account/password": true, "/series/:id/archive": true, "/series/:id/delete": true, "/groups/:id/delete": true, "/movement-pose": true, "/movements/:slug/delete": true, "/templates/:id/delete": true, "/people/:id/delete": true, "/people/:id/erase": true, "/people/:id/links/end": true, "/slots/:id/delete": true}
	if !testing.Short() { // these ask for somebody in the middle of a series, which the edits below may leave nobody in
		for _, name := range []string{"/groups/:id/decide", "/groups/:id/steps", "/m/:token/missed", "/m/:token/missed/undo"} {
			for k := 0; k < 80 && z.accepted[name] == 0; k++ {
				path, f := forms[name]()
				z.form(name, path, f, false)
			}
		}
	}
	edits := 0
	i := 0
	for ; edits < total; i++ {
		spoil := z.r.IntN(3) == 0
		switch name := names[z.r.IntN(len(names))]; {
		case z.r.IntN(5) < 3: // most of them change a session
			name = "/sessions/:id/edit"
			path, f := forms[name]()
			z.form(name, path, f, spoil)
			edits++
		case z.r.IntN(4) == 0:
			name = "/series/:id/edit"
			path, f := forms[name]()
			z.form(name, path, f, spoil)
			edits++
		case z.r.IntN(8) == 0:
			z.files(spoil)
		case z.r.IntN(16) == 0:
			z.room(spoil)
		case rare[name] && z.r.IntN(5) > 0 && i > 300:
		default:
			path, f := forms[name]()
			z.form(name, path, f, spoil)
		}
		if i%look == look-1 {
			z.lib = libraryOf(t, st, "claybank")
			pagesStand(t, z.v, fmt.Sprint(i, " forms"))
			// The studio stays as large as one is: what is archived is read back at the end all the same.
			_, err := st.DB.Exec(`UPDATE plans SET archived_at = now() WHERE archived_at IS NULL AND plan_id NOT IN (SELECT plan_id FROM plans WHERE archived_at IS NULL ORDER BY updated_at DESC LIMIT 20)`)
			require.NoError(t, err)
			_, err = st.DB.Exec(`UPDATE series SET archived_at = now() WHERE archived_at IS NULL AND series_id NOT IN (SELECT series_id FROM series WHERE archived_at IS NULL ORDER BY updated_at DESC LIMIT 6)`)
			require.NoError(t, err)
			_, err = st.DB.Exec(`DELETE FROM slots WHERE slot_id NOT IN (SELECT slot_id FROM slots LIMIT 12)`)
			require.NoError(t, err)
		}
	}
	if !testing.Short() { // there are many forms, and commands of a series: those that chance left out are tried by themselves
		for _, name := range names {
			for k := 0; k < 40 && z.accepted[name] == 0; k++ {
				z.lib = libraryOf(t, st, "claybank")
				path, f := forms[name]()
				z.form(name, path, f, false)
			}
		}
		for k := 0; k < 60 && (z.accepted["/sessions/:id/room"] == 0 || z.accepted["/rooms/:code"] == 0); k++ {
			z.room(false)
		}
		for k := 0; k < 60 && (z.accepted["/m/:token/word"] == 0 || z.accepted["/open/:token/word"] == 0); k++ {
			z.word(func(s string) string { return s }, k%2 == 0)
		}
		for _, op := range append(edit.SessionNames(), "undo", "redo") {
			for k := 0; k < 40 && z.accepted["/sessions/:id/edit "+op] == 0; k++ {
				z.lib = libraryOf(t, st, "claybank")
				path, f := z.edit(op)
				z.form("/sessions/:id/edit", path, f, false)
			}
		}
		for _, op := range append(edit.SeriesNames(), "undo", "redo") {
			for k := 0; k < 40 && z.accepted["/series/:id/edit "+op] == 0; k++ {
				z.lib = libraryOf(t, st, "claybank")
				path, f := z.editSeries(op)
				z.form("/series/:id/edit", path, f, false)
			}
		}
	}
	z.lib = libraryOf(t, st, "claybank")
	docs := readBack(t, st, z.lib)
	pagesStand(t, z.v, "all forms")
	var runs [][]byte
	require.NoError(t, st.DB.Select(&runs, `SELECT doc FROM runs WHERE doc IS NOT NULL`))
	for _, d := range runs {
		_, err := run.Read(d)
		require.NoError(t, err)
	}
	yes, no := 0, 0
	for name, n := range z.accepted {
		if !strings.Contains(name, " ") {
			yes += n
		}
	}
	for _, n := range z.refused {
		no += n
	}
	t.Logf("%d forms, of them %d edits of sessions and series; %d taken, %d refused; %d documents and %d runs read back", i, edits, yes, no, docs, len(runs))
	if !testing.Short() {
		assert.Greater(t, yes, no, "at least half are taken")
	}
	for _, name := range []string{"/sessions/:id/edit", "/series/:id/edit"} {
		t.Logf("%s: %d taken, %d refused", name, z.accepted[name], z.refused[name])
		if !testing.Short() { // of a few hundred chance may refuse more
			assert.Greater(t, z.accepted[name], z.refused[name], name)
		}
	}
	if testing.Short() { // too few for what follows
		return
	}
	// Every form of the site and every command was taken at least once.
	apart := []string{"/signin", "/start", "/signout", "/link/:token"} // after these it is somebody else who asks
	for _, r := range h.Routes() {
		if r.Method == http.MethodPost && !slices.Contains(apart, r.Path) {
			assert.Positive(t, z.accepted[r.Path], "%s: %d refused", r.Path, z.refused[r.Path])
		}
	}
	for _, op := range append(edit.SessionNames(), "undo", "redo") {
		assert.Positive(t, z.accepted["/sessions/:id/edit "+op], op)
	}
	for _, op := range append(edit.SeriesNames(), "undo", "redo") {
		assert.Positive(t, z.accepted["/series/:id/edit "+op], op)
	}
}
