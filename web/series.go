package web

import (
	"encoding/json"
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
	"wavekine/core/export"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/series"
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
	Undo                    string
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
	d, err := a.store.Series(c, who(c).Studio.ID, c.Param("id"))
	if err != nil {
		return d, nil, err
	}
	s, err := plan.ReadSeries(d.Doc, a.lib)
	if err != nil {
		return d, nil, fmt.Errorf("series %s: %w", d.ID, err)
	}
	return d, s, nil
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
	case d.Session != nil:
		b, err := json.Marshal(d.Session)
		if err != nil {
			return nil, err
		}
		return a.work(store.Document{Doc: b, Title: d.Session.Title})
	}
	return nil, nil
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
	docs, err := a.store.PlansByID(c, studio, refs(s))
	if err != nil {
		return v, err
	}
	if v.Plans, err = a.store.Plans(c, studio); err != nil {
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
		cl, err := a.classOf(day, docs)
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
		} else if day.Ref != "" {
			dv.Title = "gone"
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
	switch st, err := a.store.SeriesUndo(c, studio, d.ID); {
	case err == nil:
		v.Undo = st.Says
	case !errors.Is(err, store.ErrNotFound):
		return v, err
	}
	return v, nil
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
	ds, err := a.store.AllSeries(c, who(c).Studio.ID)
	if err != nil {
		a.fail(c, err)
		return
	}
	var list []seriesListed
	for _, d := range ds {
		s, err := plan.ReadSeries(d.Doc, a.lib)
		if err != nil {
			a.fail(c, err)
			return
		}
		docs, err := a.store.PlansByID(c, who(c).Studio.ID, refs(s))
		if err != nil {
			a.fail(c, err)
			return
		}
		l := seriesListed{ID: d.ID, Title: d.Title, Words: fmt.Sprintf("%d days from %s", len(s.Days), s.Start.Format("Mon 2 January 2006"))}
		for i, day := range s.Days {
			cl, err := a.classOf(day, docs)
			if err != nil {
				a.fail(c, err)
				return
			}
			label := fmt.Sprintf("day %d: nothing", i+1)
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
		List  []seriesListed
		Start string
	}{list, a.now(c).AddDate(0, 0, 1).Format(time.DateOnly)})
}

func seriesChange(s *plan.Series, says, by string) (store.Change, error) {
	doc, err := json.Marshal(s)
	return store.Change{Title: s.Title, Doc: doc, Says: says, By: by, Start: s.Start, Days: len(s.Days)}, err
}

func (a *app) newSeries(c *gin.Context) {
	title := strings.TrimSpace(c.PostForm("title"))
	start, err := plan.ParseDate(c.PostForm("start"))
	n, nerr := strconv.Atoi(c.PostForm("days"))
	switch {
	case title == "" || len([]rune(title)) > plan.MaxTitle:
		a.problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("A series needs a title of 1 to %d characters.", plan.MaxTitle))
		return
	case err != nil:
		a.problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%q is not a date that exists: it looks like 2026-05-01.", c.PostForm("start")))
		return
	case nerr != nil || n < 1 || n > plan.MaxDays:
		a.problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("A series has 1 to %d days.", plan.MaxDays))
		return
	}
	s := &plan.Series{Format: plan.SeriesFormat, Title: title, Start: start, Days: make([]plan.Day, n)}
	ch, err := seriesChange(s, "New series", who(c).Teacher.ID)
	if err != nil {
		a.fail(c, err)
		return
	}
	id := store.NewID()
	if err := a.store.CreateSeries(c, who(c).Studio.ID, id, ch); err != nil {
		a.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/series/"+id)
}

func formDay(f url.Values, key string, s *plan.Series) (int, error) {
	n, err := strconv.Atoi(f.Get(key))
	if err != nil || n < 1 || n > len(s.Days) {
		return 0, fmt.Errorf("day %q: expected 1 to %d", f.Get(key), len(s.Days))
	}
	return n - 1, nil
}

// changeSeries does one change to a series and says what it did.
func (a *app) changeSeries(c *gin.Context, s *plan.Series, f url.Values) (string, error) {
	switch op := f.Get("op"); op {
	case "move", "copy":
		from, err := formDay(f, "day", s)
		if err != nil {
			return "", err
		}
		to, err := formDay(f, "to", s)
		if err != nil {
			return "", err
		}
		if op == "copy" {
			s.Days[to] = s.Days[from]
			return fmt.Sprintf("Copy day %d to day %d", from+1, to+1), nil
		}
		s.Days[from], s.Days[to] = s.Days[to], s.Days[from] // what stands there changes places, so nothing is lost
		return fmt.Sprintf("Move day %d to day %d", from+1, to+1), nil
	case "clear", "rest", "set":
		n, err := formDay(f, "day", s)
		if err != nil {
			return "", err
		}
		switch op {
		case "clear":
			s.Days[n] = plan.Day{}
			return fmt.Sprintf("Clear day %d", n+1), nil
		case "rest":
			s.Days[n] = plan.Day{Rest: true}
			return fmt.Sprintf("Rest on day %d", n+1), nil
		}
		doc, err := a.store.Plan(c, who(c).Studio.ID, f.Get("plan"))
		if errors.Is(err, store.ErrNotFound) {
			return "", errors.New("choose a session")
		}
		if err != nil {
			return "", err
		}
		s.Days[n] = plan.Day{Ref: doc.ID}
		return fmt.Sprintf("%s on day %d", doc.Title, n+1), nil
	case "head":
		return changeSeriesHead(s, f)
	case "days":
		n, err := strconv.Atoi(f.Get("days"))
		if err != nil || n < 1 || n > plan.MaxDays {
			return "", fmt.Errorf("%q days: expected 1 to %d", f.Get("days"), plan.MaxDays)
		}
		for i := n; i < len(s.Days); i++ {
			if !s.Days[i].Empty() && !s.Days[i].Rest {
				return "", fmt.Errorf("day %d has a session: clear or move it before making the series shorter", i+1)
			}
		}
		for len(s.Days) < n {
			s.Days = append(s.Days, plan.Day{})
		}
		s.Days = s.Days[:n]
		return fmt.Sprintf("%d days", n), nil
	default:
		return "", fmt.Errorf("%q is not something that can be done to a series", op)
	}
}

func changeSeriesHead(s *plan.Series, f url.Values) (string, error) {
	says := "Change the series"
	if v, ok := f["title"]; ok {
		t := strings.TrimSpace(v[0])
		if t == "" || len([]rune(t)) > plan.MaxTitle {
			return "", fmt.Errorf("a series needs a title of 1 to %d characters", plan.MaxTitle)
		}
		s.Title, says = t, "Title"
	}
	if v, ok := f["start"]; ok {
		d, err := plan.ParseDate(v[0])
		if err != nil || d.Year() < 1990 || d.Year() >= 2200 {
			return "", fmt.Errorf("%q is not a date that exists: it looks like 2026-05-01", v[0])
		}
		s.Start, says = d, "Start "+v[0]
	}
	if v, ok := f["time"]; ok {
		t := strings.TrimSpace(v[0])
		if _, err := time.Parse("15:04", t); t != "" && err != nil {
			return "", fmt.Errorf("%q is not a time of day: it looks like 18:30", t)
		}
		s.Time, says = t, "Time "+t
	}
	if v, ok := f["shape"]; ok {
		if !slices.Contains(plan.Shapes, v[0]) {
			return "", fmt.Errorf("%q is not a shape", v[0])
		}
		s.Shape, says = v[0], "Shape "+v[0]
	}
	return says, nil
}

func (a *app) editSeries(c *gin.Context) {
	if err := c.Request.ParseForm(); err != nil {
		a.problem(c, http.StatusBadRequest, "The form could not be read.")
		return
	}
	f := c.Request.PostForm
	d, s, err := a.readSeries(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	rev, err := strconv.Atoi(f.Get("rev"))
	if err != nil {
		a.problem(c, http.StatusUnprocessableEntity, "The change does not say which revision it was made on.")
		return
	}
	stale := func() {
		a.problem(c, http.StatusConflict, "Somebody else changed this series meanwhile. Nothing of yours was stored; reload to see theirs, then make your change again.")
	}
	if rev != d.Rev {
		stale()
		return
	}
	var says string
	if f.Get("op") == "undo" {
		st, uerr := a.store.SeriesUndo(c, who(c).Studio.ID, d.ID)
		if errors.Is(uerr, store.ErrNotFound) {
			a.refuse(c, errors.New("nothing to undo"))
			return
		}
		if uerr == nil {
			s, uerr = plan.ReadSeries(st.Doc, a.lib)
		}
		says, err = "Undo: "+st.Says, uerr
	} else {
		if s.Zone == "" {
			s.Zone = who(c).Studio.Zone
		}
		says, err = a.changeSeries(c, s, f)
	}
	if err != nil {
		a.refuse(c, err)
		return
	}
	ch, err := seriesChange(s, says, who(c).Teacher.ID)
	if err != nil {
		a.fail(c, err)
		return
	}
	now, err := a.store.SaveSeries(c, who(c).Studio.ID, d.ID, rev, ch)
	var conflict *store.Conflict
	if errors.As(err, &conflict) {
		stale()
		return
	}
	if err != nil {
		a.fail(c, err)
		return
	}
	d.Rev = now
	v, err := a.seriesView(c, d, s)
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
	docs, err := a.store.PlansByID(c, who(c).Studio.ID, refs(s))
	if err != nil {
		a.fail(c, err)
		return
	}
	for i := range s.Days { // the calendar wants titles and lengths, so the sessions come inline
		day := &s.Days[i]
		if day.Ref == "" {
			continue
		}
		cl, err := a.classOf(*day, docs)
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

// dayOf says which day of which series a session stands on, nothing when it stands on none.
func (a *app) dayOf(c *gin.Context, id string) string {
	ds, err := a.store.AllSeries(c, who(c).Studio.ID)
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
