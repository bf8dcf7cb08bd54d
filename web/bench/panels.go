package bench

import (
	"bytes"
	"html/template"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/solve"
	"wavekine/web/kit"
)

// rowsKept is how many rows are kept drawn, about 1.5 KB each; those with long notes are drawn each time.
const (
	rowsKept = 4096
	rowBytes = 3 << 10
)

// drawnRows draws rows of the bench and keeps them: after a change most rows of a class look as they did.
type drawnRows struct {
	a    *kit.Kit
	kept *lru.Cache[rowView, template.HTML]
}

// all draws rows with the clock at the end of each. It is written here rather than in the template: for a
// long class that was a third of a change.
func (d *drawnRows) all(vs []rowView) (template.HTML, error) {
	var b strings.Builder
	b.Grow(1600 * len(vs))
	for _, v := range vs {
		at := v.At
		h, err := d.one(v)
		if err != nil {
			return "", err
		}
		b.WriteString(string(h))
		b.WriteString(`<span class="num r muted at">`)
		b.WriteString(at.String()) // digits and colons
		b.WriteString("</span></li>")
	}
	return template.HTML(b.String()), nil
}

// one draws a row up to its clock: most rows only begin at another time, so they are kept without it.
func (d *drawnRows) one(v rowView) (template.HTML, error) {
	v.At = 0
	if h, ok := d.kept.Get(v); ok {
		return h, nil
	}
	var b bytes.Buffer
	if err := d.a.Pages["bench"].ExecuteTemplate(&b, "row", v); err != nil {
		return "", err
	}
	h := template.HTML(b.String())
	if len(h) <= rowBytes {
		d.kept.Add(v, h)
	}
	return h, nil
}

// optionRow is a row with the levels that are or are not offered aloud.
type optionRow struct {
	ID, Path, Name string
	N, Demo        int
	Said           bool // the row says its own; else the usual ones are offered
	Offered        []levelOffer
}

// levelOffer is a level that is or is not offered aloud for a row.
type levelOffer struct {
	N       int
	Changes string
	On, Own bool
}

// showOptions shows what is said as easier and harder, row by row; asked for when it is looked at.
func showOptions(a *kit.Kit, c *gin.Context) {
	cl, err := a.Class(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	var list []optionRow
	n := 0
	cl.Plan.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		n++
		m, err := r.Of(a.Lib)
		if r.IsRest() || err != nil || m == nil {
			return
		}
		o := optionRow{ID: kit.RowID(p), Path: p.String(), Name: m.Name, N: n, Demo: max(1, r.Level), Said: r.Options != nil}
		if r.Demo > 0 && r.Demo <= len(m.Levels) {
			o.Demo = r.Demo
		}
		easier, harder := review.EasierOffered(r, m), review.HarderOffered(r, m)
		for i := range m.Levels {
			o.Offered = append(o.Offered, levelOffer{i + 1, m.Levels[i].Changes, slices.Contains(easier, i+1) || slices.Contains(harder, i+1), i+1 == max(1, r.Level)})
		}
		list = append(list, o)
	})
	a.Render(c, http.StatusOK, "bench", "options", list)
}

// aroundView is what goes before and after a class.
type aroundView struct{ Before, After []aroundRow }

type aroundRow struct {
	ID string
	solve.Around
}

// mostLooked is of how many kept sessions it is asked whether they go with one; the last changed.
const mostLooked = 60

// showAround shows the studio's sessions that go before and after this one; asked for when it is looked at.
func showAround(a *kit.Kit, c *gin.Context) {
	cl, err := a.Opened(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	ds, err := a.Store.Sessions.List(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	ids := map[*plan.Session]string{}
	var others []*plan.Session
	for _, d := range ds[:min(len(ds), mostLooked)] {
		if d.ID == cl.ID {
			continue
		}
		if s, err := plan.ReadSession(d.Doc, a.Lib); err == nil { // one that cannot be read says so itself
			ids[s] = d.ID
			others = append(others, s)
		}
	}
	before, after := solve.GoesWith(cl.Plan, others, a.Lib)
	rows := func(list []solve.Around) (out []aroundRow) {
		for _, x := range list {
			out = append(out, aroundRow{ids[x.Session()], x})
		}
		return out
	}
	a.Render(c, http.StatusOK, "bench", "around", aroundView{rows(before), rows(after)})
}

// namedRow is a row that was read from its name, to be put right.
type namedRow struct {
	ID, Path, Name, Seconds, Effort, Spine, Loads, Works, Kit, Stretch string
	N                                                                  int
	Posture, Ends, Sides                                               string
	Postures, SideRules                                                []string
	Guessed                                                            string // what nobody has said
	Class                                                              string // whose row it is
	Known, KnownAs                                                     string // slug and name of the movement of the library that is called so by now
}

// showNamed shows the rows of movements that no library has, with what is known of each; asked for when it is looked at.
func showNamed(a *kit.Kit, c *gin.Context) {
	cl, err := a.Opened(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	var list []namedRow
	n := 0
	cl.Plan.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		n++
		in := r.Inline
		if in == nil {
			return
		}
		v := namedRow{
			ID: kit.RowID(p), Path: p.String(), Name: in.Name, N: n, Posture: in.Posture.String(), Sides: in.Sides.String(), Seconds: strconv.FormatFloat(in.PerRep.Seconds(), 'f', -1, 64),
			Effort: strconv.FormatFloat(in.Effort, 'f', -1, 64), Kit: strings.Join(in.Kit, ", "), SideRules: []string{"both", "each", "alternating"},
			Works: strings.Join(slices.SortedFunc(maps.Keys(in.Regions), func(a, b string) int { return int(100 * (in.Regions[b] - in.Regions[a])) }), ", "),
		}
		if in.Ends != movement.NoPosture {
			v.Ends = in.Ends.String()
		}
		for _, q := range movement.Postures() {
			v.Postures = append(v.Postures, q.String())
		}
		v.Spine, v.Loads = joined(in.Spine), joined(in.Loads)
		switch {
		case in.Rest:
			v.Stretch = "rest"
		case in.Stretch:
			v.Stretch = "yes"
		}
		v.Class = cl.ID
		if m, ok := a.Lib.SameWords(in.Name); ok {
			v.Known, v.KnownAs = m.Slug, m.Name
		}
		var guessed []string
		for _, f := range in.Read {
			guessed = append(guessed, strings.ReplaceAll(string(f), "_", " "))
		}
		v.Guessed = strings.Join(guessed, ", ")
		list = append(list, v)
	})
	a.Render(c, http.StatusOK, "bench", "named", list)
}

func joined[T ~string](words []T) string {
	out := make([]string, len(words))
	for i, w := range words {
		out[i] = string(w)
	}
	return strings.Join(out, ", ")
}

// showHistory lists what was changed when and by whom.
func showHistory(a *kit.Kit, c *gin.Context) {
	if series, _, ok := kit.SplitDayID(c.Param("id")); ok { // a day has that of its series
		a.ShowHistory(c, a.Store.Series, "series", series, "bench")
		return
	}
	a.ShowHistory(c, a.Store.Sessions, "sessions", c.Param("id"), "bench")
}
