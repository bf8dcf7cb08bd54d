package lead

import (
	"embed"
	"errors"
	"io"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/adapt"
	"wavekine/core/lead"
	"wavekine/core/plan"
	"wavekine/core/run"
	"wavekine/core/strict"
	"wavekine/store"
	"wavekine/web/kit"
)

//go:embed *.html *.js
var files embed.FS

// Screen is leading a class, and taking in what happened.
var Screen = kit.Screen{
	Files: files,
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.GET("/sessions/:id/lead", a.With(showLead))
		in.POST("/runs", a.With(saveRun))
	},
}

// leadStep is one step as the player needs it, with the figures it shows.
type leadStep struct {
	lead.Step
	Fig     string `json:"fig,omitempty"`
	FigEasy string `json:"figEasy,omitempty"`
}

type leadData struct {
	ID       string     `json:"id"`
	Rev      int        `json:"rev"`
	Title    string     `json:"title"`
	Promised int64      `json:"promised"`
	Total    int64      `json:"total"`
	Mirrored bool       `json:"mirrored"`
	Rows     int        `json:"rows"`
	Down     int        `json:"down"` // the last so many are counted down
	Steps    []leadStep `json:"steps"`
	Tracks   []track    `json:"tracks,omitempty"` // ways beside the plan, where it is led for a mixed room
	Run      *run.Run   `json:"run"`              // as it begins: the player adds its name, when it began and what happened
}

// track is a way beside the plan, kept in step row by row.
type track struct {
	Name string              `json:"name"`
	Rows map[string]trackRow `json:"rows"`
}

type trackRow struct {
	Name string `json:"name"`
	Dose string `json:"dose,omitempty"`
	Says string `json:"says,omitempty"`
	Fig  string `json:"fig,omitempty"`
}

// tracksOf are the ways beside the plan.
func tracksOf(a *kit.Kit, c *gin.Context, cl *kit.Class) (out []track, err error) {
	ts, err := adapt.TracksOf(kit.Bounded(c), cl.Plan, a.Lib, kit.Who(c).House.Limits)
	if err != nil {
		return nil, err
	}
	for _, t := range ts {
		x := track{t.Name, map[string]trackRow{}}
		for at, r := range t.Rows {
			row := trackRow{Name: r.Name, Dose: r.Dose, Says: r.Says}
			if m := r.Move; m != nil {
				if m = m.Drawn(); m != nil {
					row.Fig = a.Figures.Url(m, r.Level, "m")
				}
			}
			x.Rows[at.String()] = row
		}
		out = append(out, x)
	}
	return out, nil
}

func dataOf(a *kit.Kit, cl *kit.Class, teacher string) (leadData, error) {
	d := leadData{
		ID: cl.ID, Rev: cl.Doc.Rev, Title: cl.Plan.Title, Promised: int64(cl.Plan.Target), Total: int64(cl.TL.Total),
		Mirrored: cl.Plan.Style.Mirror != plan.NotMirrored, Rows: cl.Plan.Rows(), Down: cl.Plan.Style.Countdown, Steps: make([]leadStep, 0, len(cl.TL.Steps)),
	}
	for i, l := range lead.Steps(cl.Plan, cl.TL) {
		st := leadStep{Step: l}
		m := cl.TL.Steps[i].Move
		if m != nil {
			m = m.Drawn()
		}
		if m != nil {
			st.Fig = a.Figures.Url(m, max(1, l.Shown), "l")
			if l.EasyLvl > 0 {
				st.FigEasy = a.Figures.Url(m, l.EasyLvl, "l")
			}
		}
		d.Steps = append(d.Steps, st)
	}
	var err error
	d.Run, err = a.Planned(cl, teacher)
	return d, err
}

func showLead(a *kit.Kit, c *gin.Context) {
	cl, err := a.Class(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	if cl.Day > 0 {
		if kept := cl.Series.Days[cl.Day-1].Ref; kept != "" { // the log has it under the session
			c.Redirect(http.StatusSeeOther, "/sessions/"+kept+"/lead")
			return
		}
	}
	if err := a.OnItsDay(c, cl); err != nil {
		a.Fail(c, err)
		return
	}
	if c.Query("known") != "" { // everybody was there on the days before
		tl, err := a.Knowing(c, cl)
		if err != nil {
			a.Fail(c, err)
			return
		}
		if tl != nil {
			cl.TL = tl
		}
	}
	if len(cl.TL.Steps) == 0 {
		a.Problem(c, http.StatusUnprocessableEntity, "There is nothing to lead yet: add a movement to this session first.")
		return
	}
	d, err := dataOf(a, cl, kit.Who(c).Teacher.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	if c.Query("tracks") != "" {
		if d.Tracks, err = tracksOf(a, c, cl); err != nil {
			a.Fail(c, err)
			return
		}
	}
	a.Render(c, http.StatusOK, "lead", "layout", kit.Page{Title: "Lead " + cl.Plan.Title, Who: kit.Who(c), Theme: "studio", Nav: "none", Scripts: []string{"js/player.js", "js/lead.js"}, Data: d})
}

// runWords says for a teacher what of a run could not be read.
func runWords(err error) string {
	var se *strict.Error
	switch {
	case !errors.As(err, &se):
		return err.Error()
	case strings.HasSuffix(se.Path, ".text"):
		says, _, _ := strings.Cut(se.Says, ", at byte")
		return "a note holds " + says
	}
	return se.Error()
}

// saveRun stores a run as far as it has come. The player may send it again and again while it grows.
func saveRun(a *kit.Kit, c *gin.Context) {
	says := func(status int, says string) { c.AbortWithStatusJSON(status, gin.H{"error": says}) }
	text, err := io.ReadAll(io.LimitReader(c.Request.Body, strict.MaxBytes+1))
	if err != nil {
		a.Fail(c, err)
		return
	}
	r, err := run.Read(text)
	if err != nil {
		says(http.StatusUnprocessableEntity, runWords(err))
		return
	}
	w := kit.Who(c)
	if r.Teacher != w.Teacher.ID {
		says(http.StatusForbidden, "it was led by another teacher: it is sent when they sign in here")
		return
	}
	if err := a.ThereIs(c, r.Session); err != nil {
		if errors.Is(err, store.ErrNotFound) {
			says(http.StatusNotFound, "the session it belongs to is not there")
			return
		}
		a.Fail(c, err)
		return
	}
	switch err := a.Store.SaveRun(c.Request.Context(), w.Studio.ID, r); {
	case errors.Is(err, store.ErrNotYours) || errors.Is(err, store.ErrDiffers):
		says(http.StatusConflict, err.Error())
	case err != nil:
		a.Fail(c, err)
	default:
		c.JSON(http.StatusOK, gin.H{"saved": r.ID})
	}
}
