package web

import (
	"fmt"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/store"
)

// runView is a run in the log.
type runView struct {
	ID, Title, Teacher, When, Note string
	Promised, Planned, Taken       clock.Span
	Over                           string // "1:10 over", "on time"
	Bad                            bool
	Finished                       bool
	Bar, Mark                      float64 // percent of the widest in the list
}

// overWords says how far the length taken is from the one promised, or planned where none was.
func overWords(promised, taken clock.Span) (string, bool) {
	off := taken - promised
	switch {
	case off > 30*clock.Second:
		return off.String() + " over", off > promised/10
	case off < -30*clock.Second:
		return (-off).String() + " under", -off > promised/10
	}
	return "on time", false
}

func viewRun(r store.Run, zone *time.Location) runView {
	v := runView{
		ID: r.ID, Title: r.Title, Teacher: r.Teacher, When: r.StartedAt.In(zone).Format("Mon 2 Jan, 15:04"), Note: r.Note,
		Promised: clock.Span(r.PromisedMS), Planned: clock.Span(r.PlannedMS), Taken: clock.Span(r.TakenMS), Finished: r.Finished,
	}
	if v.Promised == 0 {
		v.Promised = v.Planned
	}
	if r.Finished {
		v.Over, v.Bad = overWords(v.Promised, v.Taken)
	} else {
		v.Over = "stopped at " + v.Taken.String()
	}
	return v
}

func (a *app) log(c *gin.Context) {
	rs, err := a.store.Runs(c, who(c).Studio.ID, 100)
	if err != nil {
		a.fail(c, err)
		return
	}
	views := make([]runView, len(rs))
	widest := clock.Span(1)
	for i, r := range rs {
		views[i] = viewRun(r, who(c).Zone)
		widest = max(widest, views[i].Taken, views[i].Promised)
	}
	for i := range views {
		views[i].Bar = 100 * float64(views[i].Taken) / float64(widest)
		views[i].Mark = 100 * float64(views[i].Promised) / float64(widest)
	}
	a.show(c, "log", "Log", "Log", views)
}

// spent is planned beside taken for one kind of time.
type spent struct {
	Name           string
	Planned, Taken clock.Span
	PW, TW         float64 // percent of the widest
}

// ledRow is one row of a run: both its sides.
type ledRow struct {
	Name, Place        string
	Planned, Taken     clock.Span
	Right, Left        string // repetitions or time on each side
	Unequal            bool
	Off                string
	Note               string
	rReps, lReps       int
	rTaken, lTaken     clock.Span
	hasR, hasL         bool
	rPlanned, lPlanned int
}

type runPage struct {
	Run         runView
	Spent       []spent
	Rows        []ledRow
	Right, Left clock.Span
}

var spentNames = []struct{ kind, name string }{
	{"work", "Work"}, {"hold", "Holds"}, {"setup", "Setting up"}, {"position", "Changing position"}, {"switch", "Changing side"}, {"rest", "Rest"},
}

func (a *app) run(c *gin.Context) {
	r, err := a.store.Run(c, who(c).Studio.ID, c.Param("id"))
	if err != nil {
		a.fail(c, err)
		return
	}
	v := runPage{Run: viewRun(r, who(c).Zone)}
	byKind := map[string]*spent{}
	for _, n := range spentNames {
		v.Spent = append(v.Spent, spent{Name: n.name})
	}
	for i, n := range spentNames {
		byKind[n.kind] = &v.Spent[i]
	}
	at := map[string]int{}
	for _, w := range r.Rows {
		kind := w.Kind
		if kind == "pulse" {
			kind = "work"
		}
		planned, taken := clock.Span(w.PlannedMS), clock.Span(w.TakenMS)
		if s := byKind[kind]; s != nil {
			s.Planned += planned
			s.Taken += taken
		}
		i, ok := at[w.Place]
		if !ok {
			i = len(v.Rows)
			at[w.Place] = i
			v.Rows = append(v.Rows, ledRow{Name: w.Name, Place: w.Place})
		}
		row := &v.Rows[i]
		row.Planned += planned
		row.Taken += taken
		if w.Note != "" {
			row.Note = w.Note
		}
		if w.Kind != "work" && w.Kind != "pulse" && w.Kind != "hold" {
			continue
		}
		switch w.Side {
		case "right":
			row.hasR, row.rTaken, row.rReps, row.rPlanned = true, row.rTaken+taken, row.rReps+w.Reps, row.rPlanned+w.PlannedReps
			v.Right += taken
		case "left":
			row.hasL, row.lTaken, row.lReps, row.lPlanned = true, row.lTaken+taken, row.lReps+w.Reps, row.lPlanned+w.PlannedReps
			v.Left += taken
		}
	}
	for i := range v.Rows {
		row := &v.Rows[i]
		side := func(has bool, reps, planned int, taken clock.Span) string {
			switch {
			case !has:
				return ""
			case planned > 0 && reps != planned:
				return fmt.Sprintf("%d of %d reps", reps, planned)
			case planned > 0:
				return fmt.Sprintf("%d reps", reps)
			}
			return taken.String()
		}
		row.Right, row.Left = side(row.hasR, row.rReps, row.rPlanned, row.rTaken), side(row.hasL, row.lReps, row.lPlanned, row.lTaken)
		row.Unequal = row.hasR != row.hasL && (row.hasR || row.hasL) || row.rReps != row.lReps
		if off := row.Taken - row.Planned; off >= 5*clock.Second {
			row.Off = "+" + off.String()
		} else if off <= -5*clock.Second {
			row.Off = off.String()
		}
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
