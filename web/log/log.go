package log

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
	"wavekine/core/plan"
	"wavekine/core/run"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

//go:embed *.html *.js
var files embed.FS

// Screen is classes as they were led.
var Screen = kit.Screen{
	Files: files,
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.GET("/log", a.With(showLog))
		in.GET("/log-review", a.With(showReview))
		in.GET("/log/:id", a.With(showRun))
		in.GET("/log/:id/document", a.With(ledDocument))
		in.POST("/log", a.With(remember))
		in.POST("/log/:id/delete", a.With(forgetRun))
	},
}

type logView struct {
	Runs  []kit.RunView
	Plans []store.Document
	Today string
}

func showLog(a *kit.Kit, c *gin.Context) {
	w := kit.Who(c)
	rs, err := a.Store.Runs(c.Request.Context(), w.Studio.ID, 100)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := logView{Runs: make([]kit.RunView, len(rs)), Today: a.Now(c).Format(time.DateOnly)}
	if v.Plans, err = a.Store.Sessions.List(c.Request.Context(), w.Studio.ID); err != nil {
		a.Fail(c, err)
		return
	}
	widest := clock.Span(1)
	for i, r := range rs {
		v.Runs[i] = kit.ViewRun(r, w.Zone)
		v.Runs[i].Mine = r.TeacherID == w.Teacher.ID
		widest = max(widest, v.Runs[i].Taken, v.Runs[i].Promised)
	}
	for i := range v.Runs {
		v.Runs[i].Bar = 100 * float64(v.Runs[i].Taken) / float64(widest)
		v.Runs[i].Mark = 100 * float64(v.Runs[i].Promised) / float64(widest)
	}
	a.Show(c, "log", "Log", "Log", v, "js/log.js")
}

// remember puts a class into the log of which only the length is known.
func remember(a *kit.Kit, c *gin.Context) {
	w := kit.Who(c)
	cl, err := a.ClassNamed(c, c.PostForm("plan"))
	if errors.Is(err, store.ErrNotFound) {
		a.Refuse(c, errors.New("choose a session"))
		return
	}
	if err == nil {
		err = a.WorkOut(c, cl)
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	took, err := clock.Parse(c.PostForm("took"))
	if err != nil || took < clock.Minute || took > plan.MaxTarget {
		a.Refuse(c, fmt.Errorf("%q: how long it took, from 1:00 to 4:00:00, as in 24:30", c.PostForm("took")))
		return
	}
	day, err := plan.ParseDate(c.PostForm("day"))
	if err != nil {
		a.Refuse(c, err)
		return
	}
	at := time.Date(day.Year(), day.Month(), day.Day(), 12, 0, 0, 0, w.Zone)
	if at.After(a.Now(c).AddDate(0, 0, 1)) {
		a.Refuse(c, errors.New("a class that is remembered has been led already: choose a day up to today"))
		return
	}
	planned, err := a.Planned(cl, w.Teacher.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	r := planned.Remember(took)
	r.ID, r.Started = store.NewID(), at.UTC()
	if err := a.Store.SaveRun(c.Request.Context(), w.Studio.ID, r); err != nil {
		a.Fail(c, err)
		return
	}
	if c.PostForm("use") == "" {
		c.Redirect(http.StatusSeeOther, "/log")
		return
	}
	if err := a.TakeWhole(c); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sessions/"+cl.ID)
}

// forgetRun takes a remembered class out of the log again.
func forgetRun(a *kit.Kit, c *gin.Context) {
	if err := a.Store.DeleteRun(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"), kit.Who(c).Teacher.ID); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/log")
}

// spent is planned beside taken for one kind of time.
type spent struct {
	run.Spent
	Name   string
	PW, TW float64 // percent of the widest
}

type runPage struct {
	Run         kit.RunView
	Spent       []spent
	Rows        []run.RowLed
	Right, Left clock.Span
	Events      bool
	Parts       []run.PartLed
	Landings    []landing
	Corrected   []corrected
	Session     string // its address, where it is still there
}

// landing is what was changed to land, and when.
type landing struct {
	At   clock.Span
	Says string
}

// corrected is what somebody was corrected in.
type corrected struct{ Who, Movement, Fault string }

var spentNames = map[timeline.Kind]string{
	timeline.Work: "Work", timeline.Hold: "Holds", timeline.Setup: "Setting up", timeline.Position: "Changing position", timeline.Switch: "Changing side", timeline.Rest: "Rest",
}

// lines are a run's lines: from its events, or for a run of a version that kept none, as they were stored then.
func lines(r store.Run) ([]run.Line, error) {
	if r.Doc != nil {
		doc, err := run.Read(r.Doc)
		if err != nil {
			return nil, err
		}
		return doc.Lines(), nil
	}
	out := make([]run.Line, 0, len(r.Rows))
	for _, w := range r.Rows {
		l := run.Line{Name: w.Name, Planned: clock.Span(w.PlannedMS), Taken: clock.Span(w.TakenMS), PlannedReps: w.PlannedReps, Reps: w.Reps, Note: w.Note, Visited: w.TakenMS > 0, How: run.AsPlanned}
		var err error
		if l.Row, err = plan.ParsePath(w.Place); err == nil {
			err = errors.Join(l.Side.UnmarshalText([]byte(w.Side)), l.Kind.UnmarshalText([]byte(w.Kind)))
		}
		if err != nil {
			continue // written by hand: the others stand
		}
		out = append(out, l)
	}
	return out, nil
}

// events puts in what of the events is told one by one.
func (v *runPage) events(a *kit.Kit, c *gin.Context, r store.Run) error {
	if err := a.ThereIs(c, r.PlanID); err == nil {
		v.Session = r.PlanID
	} else if !errors.Is(err, store.ErrNotFound) {
		return err
	}
	if r.Doc == nil {
		return nil
	}
	doc, err := run.Read(r.Doc)
	if err != nil {
		return nil // said above
	}
	for _, e := range doc.Landings() {
		v.Landings = append(v.Landings, landing{e.At, e.Text})
	}
	cs := doc.Corrections()
	if len(cs) == 0 {
		return nil
	}
	ms, err := a.Store.Movers(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		return err
	}
	for _, x := range cs {
		who := "somebody"
		for _, m := range ms {
			if m.ID == x.Who {
				who = m.Name
			}
		}
		name := x.Movement
		if m, ok := a.Lib.Get(x.Movement); ok {
			name = m.Name
		}
		v.Corrected = append(v.Corrected, corrected{who, name, x.Fault})
	}
	return nil
}

// reviewed is of how many of the newest classes the review is; judgement: about a year of teaching.
const reviewed = 200

// reviewPage is what many classes say together.
type reviewPage struct {
	run.Many
	Plot []byte
	All  bool // of all teachers
}

func showReview(a *kit.Kit, c *gin.Context) {
	w := kit.Who(c)
	teacher := w.Teacher.ID
	if c.Query("all") != "" {
		teacher = ""
	}
	docs, err := a.Store.LedBy(c.Request.Context(), w.Studio.ID, teacher, reviewed)
	if err != nil {
		a.Fail(c, err)
		return
	}
	var runs []*run.Run
	for _, d := range docs {
		if r, err := run.Read(d); err == nil { // of a newer version: the others count
			runs = append(runs, r)
		}
	}
	v := reviewPage{Many: run.Together(runs, a.Now(c)), All: teacher == ""}
	v.Plot = draw.LedPlot(v.Points, 760, 220)
	a.Show(c, "log-review", "Review of what was led", "Log", v)
}

func showRun(a *kit.Kit, c *gin.Context) {
	r, err := a.Store.Run(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"))
	if err != nil {
		a.Fail(c, err)
		return
	}
	ls, err := lines(r)
	if err != nil {
		a.Refuse(c, fmt.Errorf("this led session cannot be read by this version of Wavekine: %w. It is kept as it is", err))
		return
	}
	v := runPage{Run: kit.ViewRun(r, kit.Who(c).Zone), Events: r.Doc != nil && !r.Remembered}
	for _, x := range run.SpentOf(ls) {
		v.Spent = append(v.Spent, spent{Spent: x, Name: spentNames[x.Kind]})
	}
	v.Rows, v.Parts = run.RowsOf(ls), run.PartsOf(ls)
	if err := v.events(a, c, r); err != nil {
		a.Fail(c, err)
		return
	}
	for i := range v.Rows {
		v.Right += v.Rows[i].Right.Taken
		v.Left += v.Rows[i].Left.Taken
	}
	widest := clock.Span(1)
	for _, s := range v.Spent {
		widest = max(widest, s.Planned, s.Taken)
	}
	for i := range v.Spent {
		v.Spent[i].PW = 100 * float64(v.Spent[i].Planned) / float64(widest)
		v.Spent[i].TW = 100 * float64(v.Spent[i].Taken) / float64(widest)
	}
	a.Show(c, "run", v.Run.Title, "Log", v)
}

// ledDocument gives a run as it is kept, with its events.
func ledDocument(a *kit.Kit, c *gin.Context) {
	r, err := a.Store.Run(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"))
	if err != nil {
		a.Fail(c, err)
		return
	}
	if r.Doc == nil {
		a.Problem(c, http.StatusNotFound, "This class was led with a version that kept no events.")
		return
	}
	kit.Attach(c, kit.FileName(strings.TrimSpace(r.Title+" led"), "json"), "application/json", append(slices.Clone(r.Doc), '\n'))
}
