package series

import (
	"embed"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/edit"
	"wavekine/core/export"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/series"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

//go:embed *.html *.js
var files embed.FS

// Screen is sessions laid on days.
var Screen = kit.Screen{
	Files: files,
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.GET("/series", a.With(seriesList))
		in.POST("/series", a.With(newSeries))
		in.GET("/series/:id", a.With(showSeries))
		in.POST("/series/:id/edit", a.With(editSeries))
		in.GET("/series/:id/calendar", a.With(seriesCalendar))
		in.GET("/series/:id/print", a.With(printSeries))
		in.POST("/series/:id/restore", a.With(kit.Restore("series")))
		in.GET("/series/:id/document", a.With(kit.RawDocument("series")))
		in.GET("/series/:id/history", a.With(seriesHistory))
	},
}

// dayView is a day of a series.
type dayView struct {
	N                          int
	Date, Weekday, Title, Plan string
	Rest, Empty, Today, Past   bool
	Wave                       []byte
	Length                     clock.Span
	Load, Target               float64
}

type seriesView struct {
	ID, Title, Start, Words string
	Rev                     int
	Shape, Time             string
	Zone                    string
	Minutes                 int
	Weeks                   []weekView
	Plans                   []store.Document
	Shapes                  []string
	Days                    int
	Total                   clock.Span
	HasTarget               bool
	Undo, Redo              string
	Kit                     string
	Note                    string
}

type weekView struct {
	Days   []dayView
	Load   []byte
	Matrix []matrixRow
}

// matrixRow is a movement that comes on more than one day, with its level and dose on each.
type matrixRow struct {
	Move  *movement.Movement
	Cells []matrixCell
}

type matrixCell struct {
	Level, Of int
	Dose      string
	Up        bool // a higher level than the time before
}

// shortDose is a dose that fits into a cell: sides and kind are said by the movement.
var shortDose = strings.NewReplacer("hold ", "", " each side", "", " alternating", "", " breaths", " br", " reps", "", " pulses", " p")

// maxMatrix bounds the rows of the table: the movements that come back most often.
const maxMatrix = 12

// matrix lays the movements that come back over the days, the most frequent first.
func matrix(a *kit.Kit, plans []*plan.Session) (rows []matrixRow) {
	type use struct {
		days  int
		cells []matrixCell
	}
	uses := map[string]*use{}
	var order []string
	for i, p := range plans {
		if p == nil {
			continue
		}
		p.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			m, ok := a.Lib.Get(r.Movement)
			if !ok {
				return
			}
			u := uses[m.Slug]
			if u == nil {
				u = &use{cells: make([]matrixCell, len(plans))}
				uses[m.Slug] = u
				order = append(order, m.Slug)
			}
			if u.cells[i].Level > 0 { // the first time on a day stands for it
				return
			}
			d := r.Dose
			if d.IsZero() {
				d = m.Dose
			}
			u.days++
			u.cells[i] = matrixCell{Level: max(1, r.Level), Of: len(m.Levels), Dose: shortDose.Replace(d.String())}
		})
	}
	slices.SortStableFunc(order, func(x, y string) int { return uses[y].days - uses[x].days })
	for _, slug := range order {
		u := uses[slug]
		if u.days < 2 || len(rows) == maxMatrix {
			continue
		}
		last := 0
		for i := range u.cells {
			if l := u.cells[i].Level; l > 0 {
				u.cells[i].Up = last > 0 && l > last
				last = l
			}
		}
		m, _ := a.Lib.Get(slug)
		rows = append(rows, matrixRow{m, u.cells})
	}
	return rows
}

func readSeries(a *kit.Kit, c *gin.Context) (store.Document, *plan.Series, error) {
	d, err := a.Store.Series.Get(c, kit.Who(c).Studio.ID, c.Param("id"))
	if err != nil {
		return d, nil, err
	}
	s, err := a.SeriesOf(d)
	return d, s, err
}

// classOf works out the session of a day; nil where there is none or it is gone.
func classOf(a *kit.Kit, d plan.Day, docs map[string]store.Document) (*kit.Class, error) {
	switch {
	case d.Ref != "":
		doc, ok := docs[d.Ref]
		if !ok {
			return nil, nil
		}
		return a.Work(doc)
	case d.Session != nil: // read with the series
		tl, err := timeline.Build(d.Session, a.Lib)
		return &kit.Class{Doc: store.Document{Title: d.Session.Title}, Plan: d.Session, TL: tl, Lib: a.Lib}, err
	}
	return nil, nil
}

// dayClass is classOf for a list of days: a session that cannot be read leaves its day empty, and says so.
func dayClass(a *kit.Kit, d plan.Day, docs map[string]store.Document) (cl *kit.Class, says string, err error) {
	cl, err = classOf(a, d, docs)
	var u *kit.UnreadableError
	switch {
	case errors.As(err, &u):
		return nil, u.Doc.Title + ": cannot be read", nil
	case err == nil && cl == nil && d.Ref != "":
		says = "gone"
	}
	return cl, says, err
}

// weekOf is how many days stand in a row.
func weekOf(days int) int {
	if days <= 14 {
		return max(days, 1)
	}
	return 7
}

func viewSeries(a *kit.Kit, c *gin.Context, d store.Document, s *plan.Series) (seriesView, error) {
	v := seriesView{
		ID: d.ID, Title: s.Title, Start: s.Start.Format(time.DateOnly), Rev: d.Rev, Shape: s.Shape, Time: s.Time, Zone: s.Zone, Minutes: s.Minutes, Shapes: plan.Shapes(),
		Days: len(s.Days), Note: s.Note,
	}
	studio := kit.Who(c).Studio.ID
	docs, err := a.Store.Sessions.ByID(c, studio, kit.Refs(s))
	if err != nil {
		return v, err
	}
	if v.Plans, err = a.Store.Sessions.List(c, studio); err != nil {
		return v, err
	}
	today := a.Now(c).Format(time.DateOnly)
	loads := make([]float64, len(s.Days))
	days := make([]dayView, len(s.Days))
	work := 0
	plans := make([]*plan.Session, len(s.Days))
	var things []string
	for i, day := range s.Days {
		date := s.Date(i)
		dv := dayView{
			N: i + 1, Date: date.Format("2 Jan"), Weekday: date.Format("Mon"), Title: day.Title, Plan: day.Ref, Rest: day.Rest, Empty: day.Empty(),
			Today: date.Format(time.DateOnly) == today, Past: date.Format(time.DateOnly) < today,
		}
		cl, says, err := dayClass(a, day, docs)
		if err != nil {
			return v, err
		}
		if cl != nil {
			if dv.Title == "" {
				dv.Title = cl.Plan.Title
			}
			dv.Length, dv.Load = cl.TL.Total, series.Load(cl.TL)
			dv.Wave = draw.SmallWave(cl.TL, 76, 44, fmt.Sprintf("Day %d, %s: %s", i+1, dv.Title, draw.WaveWords(cl.TL)))
			loads[i] = dv.Load
			plans[i] = cl.Plan
			v.Total += dv.Length
			work++
			for _, k := range strings.Split(kit.KitOf(cl.TL), ", ") {
				if k != "" && !slices.Contains(things, k) {
					things = append(things, k)
				}
			}
		} else if says != "" {
			dv.Title = says
		}
		days[i] = dv
	}
	v.Kit = strings.Join(things, ", ")
	targets := series.Target(s.Shape, loads)
	v.HasTarget = targets != nil
	most := 1.0
	for i := range days {
		if targets != nil {
			days[i].Target = targets[i]
		}
		most = max(most, days[i].Load, days[i].Target)
	}
	for from := 0; from < len(days); from += weekOf(len(days)) {
		week := days[from:min(from+weekOf(len(days)), len(days))]
		var ls, ts []float64
		for _, dv := range week {
			ls, ts = append(ls, dv.Load), append(ts, dv.Target)
		}
		if targets == nil {
			ts = nil
		}
		v.Weeks = append(v.Weeks, weekView{week, draw.LoadBars(ls, ts, most, from+1), matrix(a, plans[from:from+len(week)])})
	}
	v.Words = fmt.Sprintf("%d days from %s, %d with a session, %s in all", len(days), s.Start.Format("Mon 2 January"), work, v.Total)
	v.Undo, v.Redo, err = a.Store.Series.StepWords(c, studio, d.ID)
	return v, err
}

func showSeries(a *kit.Kit, c *gin.Context) {
	d, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v, err := viewSeries(a, c, d, s)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Show(c, "series", s.Title, "Series", v, "js/Sortable.min.js", "js/series.js")
}

type seriesListed struct {
	ID, Title, Words string
	Waves            [][]byte
}

func seriesList(a *kit.Kit, c *gin.Context) {
	ds, err := a.Store.Series.List(c, kit.Who(c).Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	var list []seriesListed
	var odd []kit.Unreadable
	for _, d := range ds {
		s, err := a.SeriesOf(d)
		if err != nil {
			if err = kit.Aside(err, &odd); err != nil {
				a.Fail(c, err)
				return
			}
			continue
		}
		docs, err := a.Store.Sessions.ByID(c, kit.Who(c).Studio.ID, kit.Refs(s))
		if err != nil {
			a.Fail(c, err)
			return
		}
		l := seriesListed{ID: d.ID, Title: d.Title, Words: fmt.Sprintf("%d days from %s", len(s.Days), s.Start.Format("Mon 2 January 2006"))}
		for i, day := range s.Days {
			cl, says, err := dayClass(a, day, docs)
			if err != nil {
				a.Fail(c, err)
				return
			}
			label := fmt.Sprintf("day %d: nothing", i+1)
			if says != "" {
				label = fmt.Sprintf("day %d: %s", i+1, says)
			}
			if day.Rest {
				label = fmt.Sprintf("day %d: rest", i+1)
			}
			if cl == nil {
				l.Waves = append(l.Waves, draw.SmallWave(nil, 54, 30, label))
			} else {
				l.Waves = append(l.Waves, draw.SmallWave(cl.TL, 54, 30, fmt.Sprintf("day %d: %s", i+1, cl.Plan.Title)))
			}
		}
		list = append(list, l)
	}
	a.Show(c, "serieslist", "Series", "Series", struct {
		List       []seriesListed
		Unreadable []kit.Unreadable
		Start      string
	}{list, odd, a.Now(c).AddDate(0, 0, 1).Format(time.DateOnly)})
}

func storedSeries(c *gin.Context, ch plan.ChangedSeries) store.Change {
	return store.Change{Doc: ch.Sealed, Says: ch.Says, By: kit.Who(c).Teacher.ID}
}

func newSeries(a *kit.Kit, c *gin.Context) {
	cmd := &plan.NewSeries{}
	err := kit.Decode(c.Request.PostForm, cmd)
	var ch plan.ChangedSeries
	if err == nil {
		ch, err = plan.ApplySeries(&plan.Series{}, a.Lib, cmd)
	}
	if err != nil {
		a.Refuse(c, err)
		return
	}
	id := store.NewID()
	if err := a.Store.Series.Create(c, kit.Who(c).Studio.ID, id, storedSeries(c, ch)); err != nil {
		a.FailSave(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/series/"+id)
}

// changedSeries does what a form asks on a copy. Undo and redo give the state of the history they return to.
func changedSeries(a *kit.Kit, c *gin.Context, id string, s *plan.Series, f url.Values) (ch plan.ChangedSeries, step store.Step, err error) {
	op, studio := f.Get("op"), kit.Who(c).Studio.ID
	if op == "undo" || op == "redo" {
		find, word := a.Store.Series.Undo, "Undo: "
		if op == "redo" {
			find, word = a.Store.Series.Redo, "Redo: "
		}
		step, err = find(c, studio, id)
		if errors.Is(err, store.ErrNotFound) {
			return ch, step, errors.New("nothing to " + op)
		}
		if err != nil {
			return ch, step, kit.Trouble(err)
		}
		was, err := plan.ReadSeries(step.Doc, a.Lib)
		if err != nil {
			return ch, step, fmt.Errorf("the version before cannot be read: %w", err)
		}
		ch, err = plan.ApplySeries(s, a.Lib, &plan.BecomeSeries{Series: was, Says: word + step.Says})
		return ch, step, err
	}
	cmd, ok := edit.Series(op)
	if !ok {
		return ch, step, kit.ErrUnknown
	}
	if err := kit.Decode(f, cmd); err != nil {
		return ch, step, err
	}
	if set, is := cmd.(*plan.SetDay); is {
		doc, err := a.Store.Sessions.Get(c, studio, set.Session)
		if errors.Is(err, store.ErrNotFound) {
			return ch, step, errors.New("choose a session")
		}
		if err != nil {
			return ch, step, kit.Trouble(err)
		}
		set.Session, set.Title = doc.ID, doc.Title
	}
	if s.Zone == "" {
		s.Zone = kit.Who(c).Studio.Zone
	}
	ch, err = plan.ApplySeries(s, a.Lib, cmd)
	return ch, step, err
}

func editSeries(a *kit.Kit, c *gin.Context) {
	f := c.Request.PostForm
	d, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	rev, err := strconv.Atoi(f.Get("rev"))
	if err != nil {
		a.Refuse(c, kit.ErrUnknown)
		return
	}
	stale := func() {
		a.Problem(c, http.StatusConflict, "Somebody else changed this series meanwhile. Nothing of yours was saved; reload to see theirs, then make your change again.")
	}
	if rev != d.Rev {
		stale()
		return
	}
	ch, step, err := changedSeries(a, c, d.ID, s, f)
	if err != nil {
		a.FailEdit(c, err)
		return
	}
	now, err := a.Store.Series.SaveStep(c, kit.Who(c).Studio.ID, d.ID, rev, step, storedSeries(c, ch))
	var conflict *store.Conflict
	if errors.As(err, &conflict) {
		stale()
		return
	}
	if err != nil {
		a.FailSave(c, err)
		return
	}
	d.Rev = now.Rev
	v, err := viewSeries(a, c, d, ch.Series)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "series", "days", v)
}

func seriesCalendar(a *kit.Kit, c *gin.Context) {
	d, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	docs, err := a.Store.Sessions.ByID(c, kit.Who(c).Studio.ID, kit.Refs(s))
	if err != nil {
		a.Fail(c, err)
		return
	}
	for i := range s.Days { // the calendar wants titles and lengths, so the sessions come inline
		day := &s.Days[i]
		if day.Ref == "" {
			continue
		}
		cl, _, err := dayClass(a, *day, docs)
		if err != nil {
			a.Fail(c, err)
			return
		}
		if cl != nil {
			day.Session, day.Ref = cl.Plan, ""
		}
	}
	if s.Time != "" && s.Zone == "" {
		s.Zone = kit.Who(c).Studio.Zone
	}
	b, err := export.SeriesCalendar(s, d.ID, d.Rev, d.UpdatedAt)
	if err != nil {
		a.Fail(c, err)
		return
	}
	kit.Attach(c, kit.FileName(s.Title, "ics"), "text/calendar; charset=utf-8", b)
}

func printSeries(a *kit.Kit, c *gin.Context) {
	d, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v, err := viewSeries(a, c, d, s)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "seriessheet", "sheet", kit.Page{Title: s.Title, Who: kit.Who(c), Theme: "paper", Data: v})
}

// seriesHistory lists what was changed of a series when and by whom.
func seriesHistory(a *kit.Kit, c *gin.Context) {
	d, err := a.Store.Series.Get(c, kit.Who(c).Studio.ID, c.Param("id"))
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := kit.HistoryView{Kind: "series", ID: d.ID, Rev: d.Rev}
	if v.Revisions, err = a.Store.Series.History(c, kit.Who(c).Studio.ID, d.ID, 30); err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "series", "history", v)
}
