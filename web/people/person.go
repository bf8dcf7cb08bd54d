package people

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"wavekine/core/adapt"
	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/progress"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

// personView is the page of a person.
type personView struct {
	Form    personForm
	Rooms   []personRoom
	Others  []store.Group // groups that they are not in
	Notes   []store.Note
	Links   []store.MoverLink
	Link    string // made just now
	Letters []store.Letter
	Post    bool
	StandIn bool
	Classes []classChoice
	Back    string
}

// personRoom is a series of theirs.
type personRoom struct {
	Group, GroupID, Series, Place string
	Row, Head                     []byte
	Words                         []wordView
	Suggest                       []suggestView
	Steps                         []stepView
	Tests                         []testView
	Chosen                        []string
	Next                          string // the address of the version of their next class
}

type wordView struct {
	Day        int
	Date, Says string
	Line       string
	First      bool // there is a later one
	Hurt       bool
	At         string
}

type classChoice struct{ ID, Title string }

type testView struct {
	Name string
	Plot []byte
	Says []string
}

func showPerson(a *kit.Kit, c *gin.Context) { personWith(a, c, "") }

func personWith(a *kit.Kit, c *gin.Context, link string) {
	ctx, w := c.Request.Context(), kit.Who(c)
	m, err := a.Store.GetMover(ctx, w.Studio.ID, c.Param("id"))
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := personView{Form: formOf(m), Link: link, Post: a.Post.Seals(), StandIn: a.Post.StandIn(), Back: c.Request.URL.Path}
	gs, err := a.Store.Groups(ctx, w.Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	mine, err := a.Store.MoverGroups(ctx, w.Studio.ID, m.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	today := kit.Midnight(a.Now(c))
	for _, g := range gs {
		if !slices.ContainsFunc(mine, func(o store.Group) bool { return o.ID == g.ID }) {
			v.Others = append(v.Others, g)
		}
	}
	for _, g := range mine {
		co, err := a.CourseOf(ctx, w.Studio.ID, a.Lib, w.House.Limits, g)
		var odd *kit.UnreadableError
		if errors.As(err, &odd) {
			continue
		}
		if err == nil {
			var r personRoom
			if r, err = personRoomOf(a, c, co, m, today); err == nil {
				v.Rooms = append(v.Rooms, r)
			}
		}
		if err != nil {
			a.Fail(c, err)
			return
		}
	}
	if v.Notes, err = a.Store.Notes(ctx, w.Studio.ID, m.ID); err == nil {
		if v.Links, err = a.Store.MoverLinks(ctx, w.Studio.ID, m.ID); err == nil {
			v.Letters, err = a.Store.Letters(ctx, w.Studio.ID, m.ID, 12)
		}
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	for i := range v.Notes {
		v.Notes[i].At = v.Notes[i].At.In(w.Zone)
	}
	docs, err := a.Store.Sessions.List(ctx, w.Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	for _, d := range docs {
		v.Classes = append(v.Classes, classChoice{d.ID, d.Title})
	}
	a.Show(c, "person", m.Name, "People", v)
}

func personRoomOf(a *kit.Kit, c *gin.Context, co *kit.Course, m store.Mover, today time.Time) (v personRoom, err error) {
	ctx := c.Request.Context()
	ms, err := a.MoversIn(ctx, co.Studio, co.Group, &m)
	if err != nil {
		return v, err
	}
	mb := &Member{In: ms[0]}
	if mb.Days, err = mb.In.Who.Days(co.Series, co.Group.Group, today); err != nil {
		return v, err
	}
	if mb.History, err = a.History(ctx, co, mb.In, mb.Days); err != nil {
		return v, err
	}
	mb.Suggest = progress.Suggest(co.Lib, mb.History)
	v = personRoom{Group: co.Group.Group.Name, GroupID: co.Group.ID, Series: co.Series.Title, Place: mb.Place()}
	cols := columns(co, today)
	v.Head, v.Row = draw.GroupHead(cols, gridWidth), draw.GroupRow(cols, cellsOf(a, ctx, co, mb, cols), gridWidth, rowWords(mb))
	for _, s := range mb.Suggest {
		x := suggestOf(a, ctx, co, mb, s)
		x.Mover = "" // it is their own page
		x.Back = "/people/" + m.ID
		v.Suggest = append(v.Suggest, x)
	}
	v.Steps = stepsOf(a, c, co, m.ID)
	for i := range v.Steps {
		v.Steps[i].Back = "/people/" + m.ID
	}
	at := map[int]time.Time{}
	for _, d := range mb.Days {
		at[d.Day] = d.Date
		if v.Next == "" && (d.State == progress.OnNow || d.State == progress.Coming) {
			v.Next = fmt.Sprintf("/people/%s/version?class=%s&g=%s", m.ID, kit.DayID(co.Doc.ID, d.Day), co.Group.ID)
		}
	}
	last := map[int]int64{}
	for _, w := range mb.In.Words {
		last[w.Day] = w.Seq
	}
	for i := len(mb.In.Words) - 1; i >= 0; i-- {
		w := mb.In.Words[i]
		v.Words = append(v.Words, wordView{w.Day, at[w.Day].Format("Mon 2 Jan"), w.Said.Says(), w.Said.Line, last[w.Day] != w.Seq, w.Said.Hurt(), w.At.In(kit.Who(c).Zone).Format("2 Jan 15:04")})
	}
	for _, ch := range mb.In.Chosen {
		v.Chosen = append(v.Chosen, fmt.Sprintf("%s: %s, for day %s", ch.On.Format("2 January"), kindWords[ch.Kind], numbers(ch.Missed)))
	}
	for _, t := range progress.TestsOf(co.Lib, co.Series) {
		ms := progress.Measures(t.Slug, mb.In.Who.Said, at)
		mv, ok := co.Lib.Get(t.Slug)
		if len(ms) == 0 || !ok {
			continue
		}
		tv := testView{Name: mv.Name, Plot: draw.Measured(ms, 300, 90, mv.Name)}
		for _, x := range ms {
			says := fmt.Sprintf("Day %d: %s", x.Day, x.Says())
			if x.Apart {
				says += ": worth a look (0.95 to 1.05 counts as alike, McGill 1999)"
			}
			tv.Says = append(tv.Says, says)
		}
		v.Tests = append(v.Tests, tv)
	}
	return v, nil
}

var kindWords = map[progress.Kind]string{progress.GoOn: "goes on with the group", progress.Along: "everything moves along", progress.CatchUp: "catches up"}

func numbers(ns []int) string {
	out := make([]string, len(ns))
	for i, n := range ns {
		out[i] = fmt.Sprint(n)
	}
	return strings.Join(out, ", ")
}

// notes adds a note with its date and author, or removes one.
func notes(a *kit.Kit, c *gin.Context) {
	ctx, w, id := c.Request.Context(), kit.Who(c), c.Param("id")
	f := c.Request.PostForm
	_, err := a.Store.GetMover(ctx, w.Studio.ID, id)
	if err != nil {
		a.Fail(c, err)
		return
	}
	if n := f.Get("drop"); n != "" {
		if err = a.Store.DropNote(ctx, w.Studio.ID, id, n); errors.Is(err, store.ErrNotFound) { // it is gone already
			err = nil
		}
	} else {
		words := strings.TrimSpace(f.Get("words"))
		if words == "" || utf8.RuneCountInString(words) > 2000 {
			a.Refuse(c, errors.New("a note has 1 to 2000 characters"))
			return
		}
		err = a.Store.AddNote(ctx, w.Studio.ID, id, store.NewID(), words, w.Teacher.ID)
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/people/"+id)
}

// inGroups puts a person into a group, or takes them out of it.
func inGroups(a *kit.Kit, c *gin.Context) {
	ctx, w, id, g := c.Request.Context(), kit.Who(c), c.Param("id"), c.PostForm("group")
	var err error
	if c.PostForm("do") == "out" {
		if _, err = a.Store.GetMover(ctx, w.Studio.ID, id); err == nil {
			err = a.Store.Leave(ctx, w.Studio.ID, g, id)
			if errors.Is(err, store.ErrNotFound) { // they were taken out already
				err = nil
			}
		}
	} else {
		err = a.Store.Join(ctx, w.Studio.ID, g, id, kit.Midnight(a.Now(c)))
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Forget(w.Studio.ID)
	c.Redirect(http.StatusSeeOther, kit.BackTo(c.DefaultPostForm("back", "/people/"+id)))
}

// makeLink makes a new personal link and shows it, this once.
func makeLink(a *kit.Kit, c *gin.Context) {
	w := kit.Who(c)
	token, err := a.Store.MakeMoverLink(c.Request.Context(), w.Studio.ID, c.Param("id"), w.Teacher.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "person", "link", a.AddressOf(c)+"/m/"+token)
}

// endLinks ends every link of a person.
func endLinks(a *kit.Kit, c *gin.Context) {
	_, err := a.Store.GetMover(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"))
	if err == nil {
		err = a.Store.EndMoverLinks(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"))
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/people/"+c.Param("id"))
}

// erase removes a person with everything that was ever kept of them.
func erase(a *kit.Kit, c *gin.Context) {
	ctx, w, id := c.Request.Context(), kit.Who(c), c.Param("id")
	var err error
	if a.Post != nil {
		err = a.Post.Erase(ctx, w.Studio.ID, id)
	} else {
		err = a.Store.EraseMover(ctx, w.Studio.ID, id)
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Forget(w.Studio.ID)
	c.Redirect(http.StatusSeeOther, "/people")
}

// versionView is a class as one person does it, beside the plan.
type versionView struct {
	Name, ID, Title   string
	Planned, Mine     []byte
	PlannedS, MineS   clock.Span
	Changes           []changeView
	Notes, Stops      []string
	Rows              []versionRow
	Topics            string
	Level             int
	Prev, Next, Bench string
	Classes           []classChoice
}

type changeView struct {
	Row             string
	Name, Was, Now  string
	Says, Why, Does string
}

type versionRow struct{ Was, Now string }

// showVersion shows any class as a person does it: wave under wave, with every change and its reason.
func showVersion(a *kit.Kit, c *gin.Context) {
	ctx, w := c.Request.Context(), kit.Who(c)
	m, err := a.Store.GetMover(ctx, w.Studio.ID, c.Param("id"))
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := versionView{Name: m.Name, ID: m.ID, Level: m.Level}
	in := &kit.MoverIn{Mover: m, Topics: kit.TopicsOf(m)}
	v.Topics = topicWords(in.Topics)
	var ver *adapt.Version
	var class *plan.Session
	series, day, isDay := kit.SplitDayID(c.Query("class"))
	if isDay {
		var g store.Group
		gs, gerr := a.Store.MoverGroups(ctx, w.Studio.ID, m.ID)
		if gerr != nil {
			a.Fail(c, gerr)
			return
		}
		for _, o := range gs {
			if o.SeriesID == series && (g.ID == "" || o.ID == c.Query("g")) {
				g = o
			}
		}
		g.SeriesID = series
		co, cerr := a.CourseOf(ctx, w.Studio.ID, a.Lib, w.House.Limits, g)
		if cerr != nil {
			a.Fail(c, cerr)
			return
		}
		if g.ID != "" { // their own rungs
			ms, err := a.MoversIn(ctx, w.Studio.ID, g, &m)
			if err != nil {
				a.Fail(c, err)
				return
			}
			in = ms[0]
		}
		var ok bool
		if ver, ok, err = a.Version(ctx, co, in, day); err == nil && !ok {
			a.Problem(c, http.StatusNotFound, fmt.Sprintf("Day %d of %s has no class.", day, co.Series.Title))
			return
		}
		class, _ = co.Class(day)
		v.Title, v.Bench = fmt.Sprintf("%s, day %d: %s", co.Series.Title, day, co.Title(day)), "/sessions/"+kit.DayID(series, day)
		at := func(n int) string {
			if c, _ := co.Class(n); c == nil {
				return ""
			}
			return fmt.Sprintf("/people/%s/version?class=%s&g=%s", m.ID, kit.DayID(series, n), g.ID)
		}
		for n := day - 1; n > 0 && v.Prev == ""; n-- {
			v.Prev = at(n)
		}
		for n := day + 1; n <= len(co.Series.Days) && v.Next == ""; n++ {
			v.Next = at(n)
		}
	} else {
		var cl *kit.Class
		if cl, err = a.ClassNamed(c, c.Query("class")); err == nil {
			class = cl.Plan
			v.Title, v.Bench = cl.Plan.Title, "/sessions/"+cl.ID
			ver, err = adapt.As(ctx, cl.Plan, a.Lib, w.House.Limits, adapt.Mover{Topics: in.Topics, Level: m.Level})
		}
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	v.fill(a, class, ver)
	a.Show(c, "version", m.Name+": "+v.Title, "People", v)
}

func (v *versionView) fill(a *kit.Kit, class *plan.Session, ver *adapt.Version) {
	tl, err := kit.TimeOf(class, a.Lib)
	if err == nil {
		long := max(tl.Total, ver.Timeline.Total)
		v.Planned, v.PlannedS = draw.WaveOnScale(tl, long, 900, 84, "as planned: "+draw.WaveWords(tl)), tl.Total
		v.Mine, v.MineS = draw.WaveOnScale(ver.Timeline, long, 900, 84, v.Name+": "+draw.WaveWords(ver.Timeline)), ver.Timeline.Total
	}
	v.Notes = ver.Notes
	for _, f := range ver.Stops {
		v.Stops = append(v.Stops, f.Says)
	}
	for _, ch := range ver.Changes {
		v.Changes = append(v.Changes, ChangeOf(ch))
	}
}

// ChangeOf is a change in words.
func ChangeOf(ch adapt.Change) changeView {
	x := changeView{Row: ch.Row.String(), Name: ch.Name, Was: fmt.Sprintf("level %d", ch.Level), Says: ch.Says, Why: ch.Why, Does: string(ch.Does)}
	switch ch.Does {
	case adapt.Leave:
		x.Now = "left out"
	case adapt.Instead:
		x.Now = fmt.Sprintf("%s, level %d", ch.Now.Name, ch.Now.Level)
	case adapt.AtLevel:
		x.Now = fmt.Sprintf("level %d", ch.Now.Level)
	default:
		x.Now = "as it is, with a word"
	}
	if len(ch.Topics) > 0 {
		x.Why = topicWords(ch.Topics) + ": " + x.Why
	}
	return x
}
