package series

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"wavekine/core/board"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/series"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

// cellView is a row of a day, or of a span of days, as it can be changed.
type cellView struct {
	Slug, Name   string
	Day, To      int
	Level        int
	Levels       []levelView
	Dose         string
	Because      string
	Pinned       bool
	Thread       bool
	ThreadPinned bool
	Climb        string
	Climbs       []string
	Ladder       []rungView
}

// climbs are the ways to climb that are offered.
var climbs = []string{"every time", "every 2nd time", "every 3rd time", "every week", "every day", "when ready", "never"}

// climbsWith are they with the one that is in force.
func climbsWith(now string) []string {
	if now == "" || slices.Contains(climbs, now) {
		return climbs
	}
	return append([]string{now}, climbs...)
}

type levelView struct {
	N    int
	Says string
}

type rungView struct {
	N    int
	Says string
	Here bool
}

// number reads a day of the address.
func number(c *gin.Context, name string, most int) (int, error) {
	n, err := strconv.Atoi(c.Query(name))
	if err != nil || n < 1 || n > most {
		return 0, kit.ErrUnknown
	}
	return n, nil
}

// showCell shows a cell of the board.
func showCell(a *kit.Kit, c *gin.Context) {
	_, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	day, err := number(c, "day", len(s.Days))
	if err != nil {
		a.Refuse(c, err)
		return
	}
	to := day
	if c.Query("to") != "" {
		if to, err = number(c, "to", len(s.Days)); err != nil {
			a.Refuse(c, err)
			return
		}
	}
	slug := movement.BaseSlug(c.Query("movement"))
	m, ok := a.Lib.Get(slug)
	w, err := withOf(a, c, s)
	if err != nil {
		a.Fail(c, err)
		return
	}
	d := &s.Days[day-1]
	class := d.Session
	if k, has := w.Kept[d.Ref]; has && d.Ref != "" {
		class = k.Session
	}
	if !ok || class == nil {
		a.Refuse(c, fmt.Errorf("day %d does not have that movement any more", day))
		return
	}
	v := cellView{Slug: slug, Name: m.Name, Day: day, To: to}
	i, found := 0, false
	class.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if movement.BaseSlug(r.Movement) == slug && !r.IsRest() && !found {
			found = true
			v.Level, v.Dose = max(1, r.Level), r.DoseOf(m).String()
			if i < len(d.Rows) {
				v.Because = d.Rows[i].Because
			}
		}
		i++
	})
	if !found {
		a.Refuse(c, fmt.Errorf("day %d does not have %s any more", day, m.Name))
		return
	}
	for n := range m.Levels {
		v.Levels = append(v.Levels, levelView{n + 1, m.At(n + 1).Changes})
	}
	v.Pinned = slices.ContainsFunc(d.Pinned, func(o string) bool { return movement.BaseSlug(o) == slug })
	if ld := s.Ladder(slug); ld != nil {
		v.Thread, v.ThreadPinned, v.Climb = true, ld.Pinned, ld.Climb.String()
		v.Climbs = climbsWith(v.Climb)
		for k, st := range ld.Steps {
			name := ""
			if of := ld.Of(k); of != slug {
				name = of + ", "
				if o, ok := a.Lib.Get(of); ok {
					name = o.Name + ", "
				}
			}
			says := fmt.Sprintf("%s%s", name, st.Dose)
			if len(m.Levels) > 1 {
				says = fmt.Sprintf("%slevel %d, %s", name, st.Level, st.Dose)
			}
			v.Ladder = append(v.Ladder, rungView{k + 1, says, st.Level == v.Level && st.Dose.String() == v.Dose && ld.Of(k) == slug})
		}
	}
	a.Render(c, http.StatusOK, "board", "cell", v)
}

// dayPanel is a day as it can be changed.
type dayPanel struct {
	Of             string // the series
	N, Days        int
	Date, Title    string
	Kind, Theme    string
	Rest, Empty    bool
	Peak           bool
	Because, From  string
	Rows           []rowView
	Plan           string
	Plans          []listed
	Themes         []string
	Pin            plan.Pin
	Length, Target string
}

type listed struct{ ID, Title string }

// showDay shows a day of the board, with the class that it has and why.
func showDay(a *kit.Kit, c *gin.Context) {
	_, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	n, err := number(c, "day", len(s.Days))
	if err != nil {
		a.Refuse(c, err)
		return
	}
	d := &s.Days[n-1]
	v := dayPanel{
		Of: c.Param("id"), N: n, Days: len(s.Days), Date: s.Date(n - 1).Format("Monday 2 January"), Title: d.Title, Kind: d.Kind, Theme: d.Theme, Rest: d.Rest, Empty: d.Empty(), Peak: d.Peak, Because: d.Because,
		Rows: rowsOf(a, d), Plan: d.Ref, Themes: movement.Themes(), Pin: d.Pin,
	}
	if d.Session != nil {
		if v.Title == "" {
			v.Title = d.Session.Title
		}
		tl, err := timeline.Build(d.Session.ForDay(n), a.Lib)
		if err != nil {
			a.Fail(c, err)
			return
		}
		v.Length = tl.Total.String()
		if d.Session.Target > 0 {
			v.Target = d.Session.Target.String()
		}
	}
	switch f := d.From; {
	case f.Session != "":
		v.From = "its own, made from a kept session"
	case f.Day > 0:
		v.From = fmt.Sprintf("its own, made from day %d", f.Day)
	}
	docs, err := a.Store.Sessions.List(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	for _, doc := range docs {
		v.Plans = append(v.Plans, listed{doc.ID, doc.Title})
	}
	a.Render(c, http.StatusOK, "board", "dayPanel", v)
}

// keepDay keeps the class of a day as a session of its own, and opens it: to be led, printed, and used elsewhere. The day keeps its class.
func keepDay(a *kit.Kit, c *gin.Context) {
	_, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	n, err := strconv.Atoi(c.Request.PostForm.Get("day"))
	if err != nil || n < 1 || n > len(s.Days) || s.Days[n-1].Session == nil {
		a.Refuse(c, errors.New("which day? it has no class of its own"))
		return
	}
	class := s.Days[n-1].Session.ForDay(n).Clone()
	class.Title = s.Title + ": " + class.Title
	if r := []rune(class.Title); len(r) > plan.MaxTitle {
		class.Title = string(r[:plan.MaxTitle-1]) + "…"
	}
	ch, err := plan.New(a.Lib, &plan.Become{Session: class, Says: fmt.Sprintf("Kept from day %d", n)})
	if err != nil {
		a.Refuse(c, err)
		return
	}
	id := store.NewID()
	if err := a.Store.Sessions.Create(c.Request.Context(), kit.Who(c).Studio.ID, id, store.Change{Doc: ch.Sealed, Says: ch.Says, By: kit.Who(c).Teacher.ID}); err != nil {
		a.FailSave(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sessions/"+id)
}

// lookView is the second look over the days.
type lookView struct {
	Of       string // the series
	Findings []series.Finding
}

// keptClasses are the classes that days name, for the second look.
func keptClasses(w board.With) map[string]*plan.Session {
	out := map[string]*plan.Session{}
	for id, k := range w.Kept {
		out[id] = k.Session
	}
	return out
}

// showLook takes the second look over the days.
func showLook(a *kit.Kit, c *gin.Context) {
	_, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	w, err := withOf(a, c, s)
	if err != nil {
		a.Fail(c, err)
		return
	}
	found, err := series.Over(s, a.Lib, keptClasses(w))
	if err != nil {
		a.Refuse(c, err)
		return
	}
	a.Render(c, http.StatusOK, "board", "look", lookView{c.Param("id"), found})
}

// mendsView are the ways out of a finding that have been tried.
type mendsView struct {
	Rule, About string
	Day         int
	Mends       []board.Mend
}

// showMends tries the mends of a finding and shows those that help.
func showMends(a *kit.Kit, c *gin.Context) {
	_, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	w, err := withOf(a, c, s)
	if err != nil {
		a.Fail(c, err)
		return
	}
	day, err := strconv.Atoi(c.Query("day"))
	if err != nil {
		a.Refuse(c, kit.ErrUnknown)
		return
	}
	v := mendsView{Rule: c.Query("rule"), About: c.Query("about"), Day: day}
	found, err := series.Over(s, a.Lib, keptClasses(w))
	if err != nil {
		a.Refuse(c, err)
		return
	}
	i := slices.IndexFunc(found, func(f series.Finding) bool { return f.Rule == v.Rule && f.Day == v.Day && f.About == v.About })
	if i < 0 {
		a.Refuse(c, errors.New("that finding is not there any more"))
		return
	}
	v.Mends = board.Tried(s, a.Lib, keptClasses(w), found[i], w)
	a.Render(c, http.StatusOK, "board", "mends", v)
}

// previewView is what a change would do.
type previewView struct {
	Says     string
	Changes  []changeView
	More     int // changed days beyond those that are shown
	Now      []byte
	Then     []byte
	Found    int // findings before and after
	Find     int
	Fields   []field // the change, to be taken
	Seed     int     // of the next way, where it is a layout
	CanOther bool
}

type field struct{ Name, Value string }

// changeView is what a day would change, as far as it is shown.
type changeView struct {
	Day  int
	Says []string
	More int
}

// previewRows is how many changes of a day a preview shows.
const previewRows = 4

// changesOf are the changes as they are shown.
func changesOf(all []board.Change) (out []changeView) {
	for _, c := range all {
		v := changeView{c.Day, c.Says, 0}
		if len(v.Says) > previewRows {
			v.Says, v.More = v.Says[:previewRows-1], len(v.Says)-previewRows+1
		}
		out = append(out, v)
	}
	return out
}

// previewDays is how many changed days a preview shows row by row.
const previewDays = 12

// showPreview does a change on a copy and shows what it does, day by day and on the load bars; nothing is kept.
func showPreview(a *kit.Kit, c *gin.Context) {
	d, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	f := c.Request.URL.Query()
	ch, _, err := changedSeries(a, c, d.ID, s, f)
	if err != nil {
		a.FailEdit(c, err)
		return
	}
	w, err := withOf(a, c, s)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := previewView{Says: ch.Says, Changes: changesOf(board.Diff(s, ch.Series, a.Lib))}
	if len(v.Changes) > previewDays {
		v.More, v.Changes = len(v.Changes)-previewDays, v.Changes[:previewDays]
	}
	most := 1.0
	before, targets := loadsOf(a, s, w)
	after, wanted := loadsOf(a, ch.Series, w)
	for _, list := range [][]float64{before, targets, after, wanted} {
		for _, l := range list {
			most = max(most, l)
		}
	}
	v.Now, v.Then = draw.LoadBars(before, targets, most, 1), draw.LoadBars(after, wanted, most, 1)
	for i, doc := range []*plan.Series{s, ch.Series} {
		found, err := series.Over(doc, a.Lib, keptClasses(w))
		if err != nil {
			a.Refuse(c, err)
			return
		}
		*[]*int{&v.Found, &v.Find}[i] = len(found)
	}
	for name, values := range f {
		if name != "rev" && len(values) > 0 {
			v.Fields = append(v.Fields, field{name, values[0]})
		}
	}
	slices.SortFunc(v.Fields, func(a, b field) int {
		if a.Name < b.Name {
			return -1
		}
		return 1
	})
	if op := f.Get("op"); op == "lay-again" || op == "lay-day" {
		v.CanOther = true
		seed, _ := strconv.Atoi(f.Get("seed"))
		v.Seed = seed + 1
	}
	a.Render(c, http.StatusOK, "board", "preview", v)
}

// loadsOf are what the days weigh, and what they are meant to.
func loadsOf(a *kit.Kit, s *plan.Series, w board.With) (loads, targets []float64) {
	loads, targets = make([]float64, len(s.Days)), make([]float64, len(s.Days))
	any := false
	for i := range s.Days {
		class := s.Days[i].Session
		if k, ok := w.Kept[s.Days[i].Ref]; ok && s.Days[i].Ref != "" {
			class = k.Session
		}
		targets[i] = s.Days[i].Target
		any = any || targets[i] > 0
		if class == nil {
			continue
		}
		if tl, err := timeline.Build(class, a.Lib); err == nil {
			loads[i] = series.Load(tl)
		}
	}
	if !any {
		if targets = series.Target(s.Shape, loads); targets == nil {
			targets = make([]float64, len(loads))
		}
	}
	return loads, targets
}
