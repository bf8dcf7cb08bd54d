package series

import (
	"embed"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
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
	Open: func(a *kit.Kit, g gin.IRoutes) {
		g.GET("/calendar/:token", a.Bare(feed))
	},
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		js := newJobs()
		in.GET("/series", a.With(seriesList))
		in.POST("/series", a.With(newSeries))
		in.GET("/series-brief", a.With(showBrief))
		in.POST("/series-lay", a.With(js.laySeries))
		in.GET("/series-laying/:job", a.With(js.laying))
		in.POST("/series-laying/:job/stop", a.With(js.stopLaying))
		in.GET("/series/:id", a.With(showSeries))
		in.POST("/series/:id/edit", a.With(editSeries))
		in.POST("/series/:id/keep", a.With(keepDay))
		in.GET("/series/:id/open", a.With(showOpen))
		in.POST("/series/:id/open", a.With(openSeriesTo))
		in.GET("/series/:id/groups", a.With(showGroups))
		in.POST("/series/:id/groups", a.With(addGroup))
		in.GET("/series/:id/out", a.With(handOut))
		in.POST("/series/:id/pattern", a.With(keepPattern))
		in.POST("/series/:id/again", a.With(againSeries))
		in.GET("/series/:id/weeks", a.With(showWeeks))
		in.GET("/series/:id/runs", a.With(showRuns))
		in.POST("/patterns/:id/start", a.With(startPattern))
		in.POST("/patterns/:id/delete", a.With(deletePattern))
		in.POST("/groups/:id/edit", a.With(editGroup))
		in.POST("/groups/:id/delete", a.With(deleteGroup))
		in.POST("/groups/:id/address", a.With(groupAddress))
		in.GET("/groups/:id/calendar", a.With(groupCalendar))
		in.GET("/series/:id/cell", a.With(showCell))
		in.GET("/series/:id/day", a.With(showDay))
		in.GET("/series/:id/look", a.With(showLook))
		in.GET("/series/:id/mends", a.With(showMends))
		in.GET("/series/:id/preview", a.With(showPreview))
		in.GET("/series/:id/calendar", a.With(seriesCalendar))
		in.GET("/series/:id/print", a.With(printSeries))
		in.POST("/series/:id/restore", a.With(kit.Restore("series")))
		in.POST("/series/:id/archive", a.With(kit.Archive("series")))
		in.POST("/series/:id/unarchive", a.With(kit.Unarchive("series")))
		in.POST("/series/:id/delete", a.With(deleteSeries))
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
	Kind, Theme, Because       string
	Peak, Pinned               bool
	Spine                      string // the ways in which it bends
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
	Brief                   string
	Learned                 []listed // what can be taken home
	Seed                    int
	Next                    string // a day on which it could start again
	After                   int    // one day more than there are
}

type weekView struct {
	Days   []dayView
	Load   []byte
	Matrix []matrixRow
}

func readSeries(a *kit.Kit, c *gin.Context) (store.Document, *plan.Series, error) {
	d, err := a.Store.Series.Get(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"))
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

// dayClass is classOf for a list of days, as it is on the nth: a session that cannot be read leaves its day empty, and
// says so.
func dayClass(a *kit.Kit, nth int, d plan.Day, docs map[string]store.Document) (cl *kit.Class, says string, err error) {
	if cl, err = classOf(a, d, docs); err == nil && cl != nil {
		err = a.OnDay(cl, nth)
	}
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
		Days: len(s.Days), Note: s.Note, Brief: s.Brief, Seed: s.Seed + 1,
		Next: a.Now(c).AddDate(0, 0, 1).Format(time.DateOnly), After: len(s.Days) + 1,
	}
	studio := kit.Who(c).Studio.ID
	docs, err := a.Store.Sessions.ByID(c.Request.Context(), studio, kit.Refs(s))
	if err != nil {
		return v, err
	}
	if v.Plans, err = a.Store.Sessions.List(c.Request.Context(), studio); err != nil {
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
			Kind: day.Kind, Theme: day.Theme, Because: day.Because, Peak: day.Peak, Pinned: day.Pin.Day,
		}
		cl, says, err := dayClass(a, i+1, day, docs)
		if err != nil {
			return v, err
		}
		if cl != nil {
			if dv.Title == "" {
				dv.Title = cl.Plan.Title
			}
			if short, ok := strings.CutPrefix(dv.Title, fmt.Sprintf("Day %d, ", i+1)); ok && short != "" { // the number stands above it
				dv.Title = short
			}
			dv.Length, dv.Load = cl.TL.Total, series.Load(cl.TL)
			dv.Wave = draw.SmallWave(cl.TL, 76, 44, fmt.Sprintf("Day %d, %s: %s", i+1, dv.Title, draw.WaveWords(cl.TL)))
			loads[i] = dv.Load
			dv.Spine = spineOf(cl.TL)
			plans[i] = cl.Plan
			v.Total += dv.Length
			work++
			for _, k := range strings.Split(cl.TL.KitNames(), ", ") {
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
	for i := range s.Days { // what each day was laid for stands above what its shape would ask
		if t := s.Days[i].Target; t > 0 {
			if targets == nil {
				targets = make([]float64, len(loads))
			}
			targets[i] = t
		}
	}
	rows := matrix(a, s, plans)
	for i := range rows[:min(len(rows), takenHome)] {
		v.Learned = append(v.Learned, listed{rows[i].Slug, rows[i].Move.Name})
	}
	v.HasTarget = targets != nil
	most := 1.0
	for i := range days {
		if targets != nil {
			days[i].Target = targets[i]
		}
		most = max(most, days[i].Load, days[i].Target)
	}
	for from := 0; from < len(days); from += weekOf(len(days)) {
		these := days[from:min(from+weekOf(len(days)), len(days))]
		var ls, ts []float64
		for _, dv := range these {
			ls, ts = append(ls, dv.Load), append(ts, dv.Target)
		}
		if targets == nil {
			ts = nil
		}
		v.Weeks = append(v.Weeks, weekView{these, draw.LoadBars(ls, ts, most, from+1), weekRows(rows, from, from+len(these))})
	}
	v.Words = fmt.Sprintf("%d days from %s, %d with a session, %s in all", len(days), s.Start.Format("Mon 2 January"), work, v.Total)
	v.Undo, v.Redo, err = a.Store.Series.StepWords(c.Request.Context(), studio, d.ID)
	return v, err
}

// spineOf says in which ways a class takes the spine, in single letters: forward, back, sideways, turned.
func spineOf(tl *timeline.Timeline) string {
	seen := map[movement.Direction]bool{}
	for i := range tl.Steps {
		if st := &tl.Steps[i]; st.Move != nil && st.Kind.Working() {
			for _, d := range st.Move.As(st.Level).Spine {
				seen[d] = true
			}
		}
	}
	out := ""
	for _, d := range []struct {
		dir    movement.Direction
		letter string
	}{{movement.Forward, "f"}, {movement.Backward, "b"}, {movement.Sideways, "s"}, {movement.Turned, "t"}} {
		if seen[d.dir] {
			out += d.letter
		}
	}
	return out
}

// takenHome is how many movements are offered to be taken home: those that come back most often.
const takenHome = 10

// openSeries reads the series of the address and works it out.
func openSeries(a *kit.Kit, c *gin.Context) (seriesView, error) {
	d, s, err := readSeries(a, c)
	if err != nil {
		return seriesView{}, err
	}
	return viewSeries(a, c, d, s)
}

func showSeries(a *kit.Kit, c *gin.Context) {
	v, err := openSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Show(c, "series", v.Title, "Series", v, "js/Sortable.min.js", "js/series.js")
}

// seriesHistory lists what was changed of a series when and by whom.
func seriesHistory(a *kit.Kit, c *gin.Context) {
	a.ShowHistory(c, a.Store.Series, "series", c.Param("id"), "series")
}

// deleteSeries deletes an archived series for good.
func deleteSeries(a *kit.Kit, c *gin.Context) {
	if err := a.Store.DeleteSeries(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id")); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/series")
}
