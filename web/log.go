package web

import (
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
	"wavekine/store"
)

// runView is a run in the log.
type runView struct {
	ID, Title, Teacher, When, Note string
	Promised, Planned, Taken       clock.Span
	Paused                         clock.Span
	Over                           string // "1:10 over", "on time"
	Bad                            bool
	Finished, Remembered, Mine     bool
	Bar, Mark                      float64 // percent of the widest in the list
}

func viewRun(r store.Run, zone *time.Location) runView {
	v := runView{
		ID: r.ID, Title: r.Title, Teacher: r.Teacher, When: r.StartedAt.In(zone).Format("Mon 2 Jan, 15:04"), Note: r.Note,
		Promised: clock.Span(r.PromisedMS), Planned: clock.Span(r.PlannedMS), Taken: clock.Span(r.TakenMS), Paused: clock.Span(r.PausedMS), Finished: r.Finished, Remembered: r.Remembered,
	}
	if v.Promised == 0 {
		v.Promised = v.Planned
	}
	if r.Finished {
		v.Over, v.Bad = run.Over(v.Promised, v.Taken)
	} else {
		v.Over = "stopped at " + v.Taken.String()
	}
	return v
}

type logView struct {
	Runs  []runView
	Plans []store.Document
	Today string
}

func (a *app) log(c *gin.Context) {
	w := who(c)
	rs, err := a.store.Runs(c, w.Studio.ID, 100)
	if err != nil {
		a.fail(c, err)
		return
	}
	v := logView{Runs: make([]runView, len(rs)), Today: a.now(c).Format(time.DateOnly)}
	if v.Plans, err = a.store.Sessions.List(c, w.Studio.ID); err != nil {
		a.fail(c, err)
		return
	}
	widest := clock.Span(1)
	for i, r := range rs {
		v.Runs[i] = viewRun(r, w.Zone)
		v.Runs[i].Mine = r.TeacherID == w.Teacher.ID
		widest = max(widest, v.Runs[i].Taken, v.Runs[i].Promised)
	}
	for i := range v.Runs {
		v.Runs[i].Bar = 100 * float64(v.Runs[i].Taken) / float64(widest)
		v.Runs[i].Mark = 100 * float64(v.Runs[i].Promised) / float64(widest)
	}
	a.show(c, "log", "Log", "Log", v, "js/log.js")
}

// remember puts a class into the log of which only the length is known.
func (a *app) remember(c *gin.Context) {
	w := who(c)
	d, err := a.store.Sessions.Get(c, w.Studio.ID, c.PostForm("plan"))
	if errors.Is(err, store.ErrNotFound) {
		a.refuse(c, errors.New("choose a session"))
		return
	}
	if err != nil {
		a.fail(c, err)
		return
	}
	cl, err := a.work(d)
	if err != nil {
		a.fail(c, err)
		return
	}
	took, err := clock.Parse(c.PostForm("took"))
	if err != nil || took < clock.Minute || took > plan.MaxTarget {
		a.refuse(c, fmt.Errorf("%q: how long it took, from 1:00 to 4:00:00, as in 24:30", c.PostForm("took")))
		return
	}
	day, err := plan.ParseDate(c.PostForm("day"))
	if err != nil {
		a.refuse(c, err)
		return
	}
	at := time.Date(day.Year(), day.Month(), day.Day(), 12, 0, 0, 0, w.Zone)
	if at.After(a.now(c).AddDate(0, 0, 1)) {
		a.refuse(c, errors.New("a class that is remembered has been led already: choose a day up to today"))
		return
	}
	ld, err := a.leadData(cl, w.Teacher.ID)
	if err != nil {
		a.fail(c, err)
		return
	}
	r := ld.Run.Remember(took)
	r.ID, r.Started = store.NewID(), at.UTC()
	if err := a.store.SaveRun(c, w.Studio.ID, r); err != nil {
		a.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/log")
}

// forgetRun takes a remembered class out of the log again.
func (a *app) forgetRun(c *gin.Context) {
	if err := a.store.DeleteRun(c, who(c).Studio.ID, c.Param("id"), who(c).Teacher.ID); err != nil {
		a.fail(c, err)
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
	Run         runView
	Spent       []spent
	Rows        []run.RowLed
	Right, Left clock.Span
	Events      bool
}

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

func (a *app) run(c *gin.Context) {
	r, err := a.store.Run(c, who(c).Studio.ID, c.Param("id"))
	if err != nil {
		a.fail(c, err)
		return
	}
	ls, err := lines(r)
	if err != nil {
		a.refuse(c, fmt.Errorf("this led session cannot be read by this version of Wavekine: %w. It is kept as it is", err))
		return
	}
	v := runPage{Run: viewRun(r, who(c).Zone), Events: r.Doc != nil && !r.Remembered}
	for _, x := range run.SpentOf(ls) {
		v.Spent = append(v.Spent, spent{Spent: x, Name: spentNames[x.Kind]})
	}
	v.Rows = run.RowsOf(ls)
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
	a.show(c, "run", v.Run.Title, "Log", v)
}

// ledDocument gives a run as it is kept, with its events.
func (a *app) ledDocument(c *gin.Context) {
	r, err := a.store.Run(c, who(c).Studio.ID, c.Param("id"))
	if err != nil {
		a.fail(c, err)
		return
	}
	if r.Doc == nil {
		a.problem(c, http.StatusNotFound, "This class was led with a version that kept no events.")
		return
	}
	attach(c, fileName(strings.TrimSpace(r.Title+" led"), "json"), "application/json", append(slices.Clone(r.Doc), '\n'))
}
