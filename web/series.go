package web

import (
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
)

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
func (a *app) matrix(plans []*plan.Session) (rows []matrixRow) {
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
			m, ok := a.lib.Get(r.Movement)
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
		m, _ := a.lib.Get(slug)
		rows = append(rows, matrixRow{m, u.cells})
	}
	return rows
}

func (a *app) readSeries(c *gin.Context) (store.Document, *plan.Series, error) {
	d, err := a.store.Series.Get(c, who(c).Studio.ID, c.Param("id"))
	if err != nil {
		return d, nil, err
	}
	s, err := a.seriesOf(d)
	return d, s, err
}

// seriesOf reads a stored series; an *unreadableError where that cannot be done.
func (a *app) seriesOf(d store.Document) (*plan.Series, error) {
	s, err := plan.ReadSeries(d.Doc, a.lib)
	if err != nil {
		return nil, &unreadableError{"series", d, err}
	}
	return s, nil
}

// refs lists the sessions a series names.
func refs(s *plan.Series) (ids []string) {
	for _, d := range s.Days {
		if d.Ref != "" && !slices.Contains(ids, d.Ref) {
			ids = append(ids, d.Ref)
		}
	}
	return ids
}

// classOf works out the session of a day; nil where there is none or it is gone.
func (a *app) classOf(d plan.Day, docs map[string]store.Document) (*class, error) {
	switch {
	case d.Ref != "":
		doc, ok := docs[d.Ref]
		if !ok {
			return nil, nil
		}
		return a.work(doc)
	case d.Session != nil: // read with the series
		tl, err := timeline.Build(d.Session, a.lib)
		return &class{Doc: store.Document{Title: d.Session.Title}, Plan: d.Session, TL: tl, lib: a.lib}, err
	}
	return nil, nil
}

// dayClass is classOf for a list of days: a session that cannot be read leaves its day empty, and says so.
func (a *app) dayClass(d plan.Day, docs map[string]store.Document) (cl *class, says string, err error) {
	cl, err = a.classOf(d, docs)
	var u *unreadableError
	switch {
	case errors.As(err, &u):
		return nil, u.doc.Title + ": cannot be read", nil
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

func (a *app) seriesView(c *gin.Context, d store.Document, s *plan.Series) (seriesView, error) {
	v := seriesView{
		ID: d.ID, Title: s.Title, Start: s.Start.Format(time.DateOnly), Rev: d.Rev, Shape: s.Shape, Time: s.Time, Zone: s.Zone, Minutes: s.Minutes, Shapes: plan.Shapes,
		Days: len(s.Days), Note: s.Note,
	}
	studio := who(c).Studio.ID
	docs, err := a.store.Sessions.ByID(c, studio, refs(s))
	if err != nil {
		return v, err
	}
	if v.Plans, err = a.store.Sessions.List(c, studio); err != nil {
		return v, err
	}
	today := a.now(c).Format(time.DateOnly)
	loads := make([]float64, len(s.Days))
	days := make([]dayView, len(s.Days))
	work := 0
	plans := make([]*plan.Session, len(s.Days))
	var kit []string
	for i, day := range s.Days {
		date := s.Date(i)
		dv := dayView{
			N: i + 1, Date: date.Format("2 Jan"), Weekday: date.Format("Mon"), Title: day.Title, Plan: day.Ref, Rest: day.Rest, Empty: day.Empty(),
			Today: date.Format(time.DateOnly) == today, Past: date.Format(time.DateOnly) < today,
		}
		cl, says, err := a.dayClass(day, docs)
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
			for _, k := range strings.Split(kitOf(cl.TL), ", ") {
				if k != "" && !slices.Contains(kit, k) {
					kit = append(kit, k)
				}
			}
		} else if says != "" {
			dv.Title = says
		}
		days[i] = dv
	}
	v.Kit = strings.Join(kit, ", ")
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
		v.Weeks = append(v.Weeks, weekView{week, draw.LoadBars(ls, ts, most, from+1), a.matrix(plans[from : from+len(week)])})
	}
	v.Words = fmt.Sprintf("%d days from %s, %d with a session, %s in all", len(days), s.Start.Format("Mon 2 January"), work, v.Total)
	v.Undo, v.Redo, err = a.store.Series.StepWords(c, studio, d.ID)
	return v, err
}

func (a *app) series(c *gin.Context) {
	d, s, err := a.readSeries(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	v, err := a.seriesView(c, d, s)
	if err != nil {
		a.fail(c, err)
		return
	}
	a.show(c, "series", s.Title, "Series", v, "js/Sortable.min.js", "js/series.js")
}

type seriesListed struct {
	ID, Title, Words string
	Waves            [][]byte
}

func (a *app) seriesList(c *gin.Context) {
	ds, err := a.store.Series.List(c, who(c).Studio.ID)
	if err != nil {
		a.fail(c, err)
		return
	}
	var list []seriesListed
	var odd []unreadable
	for _, d := range ds {
		s, err := a.seriesOf(d)
		if err != nil {
			if err = aside(err, &odd); err != nil {
				a.fail(c, err)
				return
			}
			continue
		}
		docs, err := a.store.Sessions.ByID(c, who(c).Studio.ID, refs(s))
		if err != nil {
			a.fail(c, err)
			return
		}
		l := seriesListed{ID: d.ID, Title: d.Title, Words: fmt.Sprintf("%d days from %s", len(s.Days), s.Start.Format("Mon 2 January 2006"))}
		for i, day := range s.Days {
			cl, says, err := a.dayClass(day, docs)
			if err != nil {
				a.fail(c, err)
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
	a.show(c, "serieslist", "Series", "Series", struct {
		List       []seriesListed
		Unreadable []unreadable
		Start      string
	}{list, odd, a.now(c).AddDate(0, 0, 1).Format(time.DateOnly)})
}

func storedSeries(c *gin.Context, ch plan.ChangedSeries) store.Change {
	return store.Change{Doc: ch.Sealed, Says: ch.Says, By: who(c).Teacher.ID}
}

func (a *app) newSeries(c *gin.Context) {
	cmd := &plan.NewSeries{}
	err := decode(c.Request.PostForm, cmd)
	var ch plan.ChangedSeries
	if err == nil {
		ch, err = plan.ApplySeries(&plan.Series{}, a.lib, cmd)
	}
	if err != nil {
		a.refuse(c, err)
		return
	}
	id := store.NewID()
	if err := a.store.Series.Create(c, who(c).Studio.ID, id, storedSeries(c, ch)); err != nil {
		a.failSave(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/series/"+id)
}

// changedSeries does what a form asks on a copy. Undo and redo give the state of the history they return to.
func (a *app) changedSeries(c *gin.Context, id string, s *plan.Series, f url.Values) (ch plan.ChangedSeries, step store.Step, err error) {
	op, studio := f.Get("op"), who(c).Studio.ID
	if op == "undo" || op == "redo" {
		find, word := a.store.Series.Undo, "Undo: "
		if op == "redo" {
			find, word = a.store.Series.Redo, "Redo: "
		}
		step, err = find(c, studio, id)
		if errors.Is(err, store.ErrNotFound) {
			return ch, step, errors.New("nothing to " + op)
		}
		if err != nil {
			return ch, step, trouble{err}
		}
		was, err := plan.ReadSeries(step.Doc, a.lib)
		if err != nil {
			return ch, step, fmt.Errorf("the version before cannot be read: %w", err)
		}
		ch, err = plan.ApplySeries(s, a.lib, &plan.BecomeSeries{Series: was, Says: word + step.Says})
		return ch, step, err
	}
	cmd, ok := edit.Series(op)
	if !ok {
		return ch, step, errUnknown
	}
	if err := decode(f, cmd); err != nil {
		return ch, step, err
	}
	if set, is := cmd.(*plan.SetDay); is {
		doc, err := a.store.Sessions.Get(c, studio, set.Session)
		if errors.Is(err, store.ErrNotFound) {
			return ch, step, errors.New("choose a session")
		}
		if err != nil {
			return ch, step, trouble{err}
		}
		set.Session, set.Title = doc.ID, doc.Title
	}
	if s.Zone == "" {
		s.Zone = who(c).Studio.Zone
	}
	ch, err = plan.ApplySeries(s, a.lib, cmd)
	return ch, step, err
}

func (a *app) editSeries(c *gin.Context) {
	f := c.Request.PostForm
	d, s, err := a.readSeries(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	rev, err := strconv.Atoi(f.Get("rev"))
	if err != nil {
		a.refuse(c, errUnknown)
		return
	}
	stale := func() {
		a.problem(c, http.StatusConflict, "Somebody else changed this series meanwhile. Nothing of yours was saved; reload to see theirs, then make your change again.")
	}
	if rev != d.Rev {
		stale()
		return
	}
	ch, step, err := a.changedSeries(c, d.ID, s, f)
	if err != nil {
		a.failEdit(c, err)
		return
	}
	now, err := a.store.Series.SaveStep(c, who(c).Studio.ID, d.ID, rev, step, storedSeries(c, ch))
	var conflict *store.Conflict
	if errors.As(err, &conflict) {
		stale()
		return
	}
	if err != nil {
		a.failSave(c, err)
		return
	}
	d.Rev = now.Rev
	v, err := a.seriesView(c, d, ch.Series)
	if err != nil {
		a.fail(c, err)
		return
	}
	a.render(c, http.StatusOK, "series", "days", v)
}

func (a *app) seriesCalendar(c *gin.Context) {
	d, s, err := a.readSeries(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	docs, err := a.store.Sessions.ByID(c, who(c).Studio.ID, refs(s))
	if err != nil {
		a.fail(c, err)
		return
	}
	for i := range s.Days { // the calendar wants titles and lengths, so the sessions come inline
		day := &s.Days[i]
		if day.Ref == "" {
			continue
		}
		cl, _, err := a.dayClass(*day, docs)
		if err != nil {
			a.fail(c, err)
			return
		}
		if cl != nil {
			day.Session, day.Ref = cl.Plan, ""
		}
	}
	if s.Time != "" && s.Zone == "" {
		s.Zone = who(c).Studio.Zone
	}
	b, err := export.SeriesCalendar(s, d.ID, d.Rev, d.UpdatedAt)
	if err != nil {
		a.fail(c, err)
		return
	}
	attach(c, fileName(s.Title, "ics"), "text/calendar; charset=utf-8", b)
}

func (a *app) printSeries(c *gin.Context) {
	d, s, err := a.readSeries(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	v, err := a.seriesView(c, d, s)
	if err != nil {
		a.fail(c, err)
		return
	}
	a.render(c, http.StatusOK, "seriessheet", "sheet", page{Title: s.Title, Who: who(c), Theme: "paper", Data: v})
}

// dayNumber is the day of a series, from 1, on which a session stands today; 0 when none does.
func (a *app) dayNumber(c *gin.Context, id string) int {
	today := a.now(c)
	ds, err := a.store.SeriesOn(c, who(c).Studio.ID, today, today)
	if err != nil {
		return 0
	}
	for _, d := range ds {
		s, err := plan.ReadSeries(d.Doc, a.lib)
		if err != nil {
			continue
		}
		for i, day := range s.Days {
			if day.Ref == id && s.Date(i).Format(time.DateOnly) == today.Format(time.DateOnly) {
				return i + 1
			}
		}
	}
	return 0
}

// onItsDay makes of a class what it is today: a first side that goes by the day is that of the day of the series it
// stands on, else of the day of the year. Leading it, its sheets and its exports all go by it.
func (a *app) onItsDay(c *gin.Context, cl *class) error {
	if !cl.Plan.Style.ByDay {
		return nil
	}
	day := a.now(c).YearDay()
	if n := a.dayNumber(c, cl.Doc.ID); n > 0 {
		day = n
	}
	cl.Plan = cl.Plan.ForDay(day)
	tl, err := timeline.Build(cl.Plan, a.lib)
	if err != nil {
		return err
	}
	cl.TL = tl
	return nil
}

// dayOf says which day of which series a session stands on, nothing when it stands on none.
func (a *app) dayOf(c *gin.Context, id string) string {
	ds, err := a.store.Series.List(c, who(c).Studio.ID)
	if err != nil {
		return ""
	}
	for _, d := range ds {
		s, err := plan.ReadSeries(d.Doc, a.lib)
		if err != nil {
			continue
		}
		for i, day := range s.Days {
			if day.Ref == id {
				return fmt.Sprintf("Day %d of %d, %s, %s", i+1, len(s.Days), s.Title, s.Date(i).Format("Mon 2 Jan"))
			}
		}
	}
	return ""
}

// seriesHistory lists what was changed of a series when and by whom.
func (a *app) seriesHistory(c *gin.Context) {
	d, err := a.store.Series.Get(c, who(c).Studio.ID, c.Param("id"))
	if err != nil {
		a.fail(c, err)
		return
	}
	v := historyView{Kind: "series", ID: d.ID, Rev: d.Rev}
	if v.Revisions, err = a.store.Series.History(c, who(c).Studio.ID, d.ID, 30); err != nil {
		a.fail(c, err)
		return
	}
	a.render(c, http.StatusOK, "series", "history", v)
}
