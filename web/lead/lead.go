package lead

import (
	"embed"
	"errors"
	"html/template"
	"io"
	"log/slog"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/adapt"
	"wavekine/core/clock"
	"wavekine/core/lead"
	"wavekine/core/movement"
	"wavekine/core/pace"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/run"
	"wavekine/core/solve"
	"wavekine/core/strict"
	"wavekine/draw"
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
		in.GET("/sessions/:id/moment", a.With(showMoment))
		in.GET("/sessions/:id/film", a.With(showFilm))
		in.GET("/sessions/:id/film/:as", a.With(filmFile))
		in.POST("/lead/breath", a.With(turnBreath))
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
	BPM      float64    `json:"bpm,omitempty"`
	Offered  string     `json:"offered"` // when easier and harder options are said
	Praise   []string   `json:"praise"`
	Steps    []leadStep `json:"steps"`
	Tracks   []track    `json:"tracks,omitempty"` // ways beside the plan, where it is led for a mixed room
	Run      *run.Run   `json:"run"`              // as it begins: the player adds its name, when it began and what happened
	Rehearse bool       `json:"rehearse,omitempty"`

	Landings  *lead.Landings      `json:"landings"`
	Corrected map[string][]string `json:"corrected,omitempty"` // what people on the list were corrected in, by row
	NoTouch   []string            `json:"noTouch,omitempty"`   // who of them is not touched

	Opening lead.Talk     `json:"-"`
	Closing lead.Talk     `json:"-"`
	Wave    template.HTML `json:"-"`
	People  []person      `json:"-"`
}

// person is somebody on the list.
type person struct{ ID, Name string }

// Seconds is how long the class is planned to be.
func (d leadData) Seconds() int64 { return d.Total / 1000 }

// Speeds are how many times as fast as it is a class can be rehearsed.
func (d leadData) Speeds() []int { return []int{1, 2, 5, 10, 20} }

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

// promisedOf is the length of what is moved that was asked for: where the whole class was meant, without what is said at its ends. 0 where none was.
func promisedOf(cl *kit.Class, opening, closing lead.Talk) clock.Span {
	if cl.Plan.Target > 0 && cl.Plan.Whole {
		return max(clock.Minute, cl.Plan.Target-opening.S-closing.S)
	}
	return cl.Plan.Target
}

func dataOf(a *kit.Kit, c *gin.Context, cl *kit.Class) (leadData, error) {
	w := kit.Who(c)
	d := leadData{
		BPM: cl.Plan.BPM, Offered: cl.Plan.Style.Answer("offered"), Praise: w.House.Praise,
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
	if len(d.Praise) == 0 {
		d.Praise = lead.Praise()
	}
	f, err := frameOf(a, c, cl)
	if err != nil {
		return d, err
	}
	d.Opening, d.Closing = lead.OpeningOf(f), lead.ClosingOf(f)
	d.Promised = int64(promisedOf(cl, d.Opening, d.Closing))
	d.Wave = template.HTML(strings.Replace(string(draw.SmallWave(cl.TL, 1232, 56, cl.Plan.Title+": "+draw.WaveWords(cl.TL))), "<svg ", `<svg preserveAspectRatio="none" `, 1)) // as wide as the screen: time is the width
	if d.Run, err = a.Planned(cl, w.Teacher.ID); err != nil {
		return d, err
	}
	d.Run.Asked = clock.Span(d.Promised) // what is led is what is moved
	table, err := review.LandsOf(kit.Bounded(c), cl.Plan, cl.TL, a.Lib, w.House.Limits, cl.Known)
	if err != nil { // a class is led without it all the same
		slog.WarnContext(c.Request.Context(), "landing", "session", cl.ID, "err", err)
		table = &solve.LandTable{Low: []int{0}, Best: [][]int32{{-1}}}
	}
	d.Landings = lead.LandingsOf(table, review.LandWithin(w.House.Limits))
	if err := d.people(a, c, cl); err != nil {
		return d, err
	}
	return d, nil
}

// people puts in who is on the list, and what they were corrected in.
func (d *leadData) people(a *kit.Kit, c *gin.Context, cl *kit.Class) error {
	on, err := a.PeopleOf(c, cl)
	if err != nil {
		return err
	}
	for _, m := range on {
		d.People = append(d.People, person{m.ID, m.Name})
		if slices.Contains(kit.TopicsOf(m), movement.NoTouch) {
			d.NoTouch = append(d.NoTouch, kit.First(m.Name))
		}
	}
	by, err := correctionsOf(a, c, on)
	if err != nil {
		return err
	}
	for i := range d.Run.Steps {
		s := &d.Run.Steps[i]
		if says := by[s.Movement]; len(says) > 0 {
			if d.Corrected == nil {
				d.Corrected = map[string][]string{}
			}
			d.Corrected[s.Row.String()] = says
		}
	}
	return nil
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
	d, err := dataOf(a, c, cl)
	if err != nil {
		a.Fail(c, err)
		return
	}
	d.Rehearse = c.Query("rehearse") != ""
	if c.Query("tracks") != "" {
		if d.Tracks, err = tracksOf(a, c, cl); err != nil {
			a.Fail(c, err)
			return
		}
	}
	a.Render(c, http.StatusOK, "lead", "layout", kit.Page{Title: "Lead " + cl.Plan.Title, Who: kit.Who(c), Theme: "studio", Nav: "none", Scripts: []string{"js/player.js", "js/view.js", "js/land.js", "js/sound.js", "js/lead.js"}, Data: d})
}

// turnBreath turns the breath of a movement round for the teacher who asks, or back, for good.
func turnBreath(a *kit.Kit, c *gin.Context) {
	m, ok := a.Lib.Get(c.PostForm("movement"))
	if !ok {
		c.AbortWithStatusJSON(http.StatusNotFound, gin.H{"error": "this movement is not there"})
		return
	}
	slug := m.Slug
	if m.Base != "" {
		slug = m.Base
	}
	turned := !a.Lib.Pace().Turned[slug]
	p := store.TeacherPace{Slug: pace.TurnedKey + slug, Since: a.Now(c).UTC()}
	if turned {
		p.Pace = 1
	}
	w := kit.Who(c)
	if err := a.Store.SavePaces(c.Request.Context(), w.Studio.ID, w.Teacher.ID, p); err != nil {
		a.Fail(c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"turned": turned})
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
