package web

import (
	"errors"
	"io"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/run"
	"wavekine/core/strict"
	"wavekine/core/timeline"
	"wavekine/store"
)

// leadStep is one step as the player needs it. Times are milliseconds.
type leadStep struct {
	At      int64  `json:"at"`
	S       int64  `json:"s"`
	Kind    string `json:"kind"`
	Row     string `json:"row"`
	Name    string `json:"name"`
	Side    string `json:"side"`
	Limb    string `json:"limb,omitempty"`
	Level   int    `json:"level"`
	Of      int    `json:"of"`
	Reps    int    `json:"reps,omitempty"`
	Breaths int    `json:"breaths,omitempty"`
	In      int64  `json:"in"`
	Out     int64  `json:"out"`
	Clocked bool   `json:"clocked,omitempty"`
	Round   int    `json:"round,omitempty"`
	Says    string `json:"says,omitempty"`
	Breath  string `json:"breath,omitempty"`
	Care    string `json:"care,omitempty"`
	Easier  string `json:"easier,omitempty"`
	Harder  string `json:"harder,omitempty"`
	Fig     string `json:"fig,omitempty"`
	FigEasy string `json:"figEasy,omitempty"`
	EasyLvl int    `json:"easyLevel,omitempty"`
	Cues    []cue  `json:"cues,omitempty"`
}

type cue struct {
	At  int64  `json:"at"`
	Cue string `json:"cue"`
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
	Run      *run.Run   `json:"run"` // as it begins: the player adds its name, when it began and what happened
}

// Lengths of one breath shown where the plan counts none; judgement.
const (
	calmBreath  = 8 * clock.Second
	leastBreath = 3 * clock.Second
)

func (a *app) leadData(cl *class, teacher string) (leadData, error) {
	usual, err := timeline.Build(cl.Plan, a.lib.At(movement.Personal{}))
	if err != nil {
		return leadData{}, err
	}
	d := leadData{
		ID: cl.Doc.ID, Rev: cl.Doc.Rev, Title: cl.Plan.Title, Promised: int64(cl.Plan.Target), Total: int64(cl.TL.Total),
		Mirrored: !cl.Plan.Style.Plain, Rows: cl.Plan.Rows(), Down: cl.Plan.Style.Countdown, Steps: make([]leadStep, 0, len(cl.TL.Steps)),
	}
	for i := range cl.TL.Steps {
		d.Steps = append(d.Steps, a.leadStep(cl.Plan, &cl.TL.Steps[i]))
	}
	d.Run = &run.Run{Session: cl.Doc.ID, Rev: cl.Doc.Rev, Title: cl.Plan.Title, Teacher: teacher, Asked: cl.Plan.Target, Steps: run.StepsOf(cl.TL, usual)}
	return d, nil
}

func (a *app) leadStep(p *plan.Session, s *timeline.Step) leadStep {
	l := leadStep{
		At: int64(s.At), S: int64(s.S), Kind: s.Kind.String(), Row: s.Row.String(), Name: "Rest", Side: s.Side.String(), Level: s.Level,
		Reps: s.Reps, Breaths: s.Breaths, Clocked: s.Clocked, Round: s.Round, Says: s.Says,
	}
	in, out := calmBreath/2, calmBreath-calmBreath/2
	switch {
	case s.BreathIn+s.BreathOut > 0:
		in, out = s.BreathIn, s.BreathOut
	case s.Reps > 0: // one breath a repetition, or as many repetitions as make a breath
		per := s.S / clock.Span(s.Reps)
		n := clock.Span(1)
		for per*n < leastBreath {
			n++
		}
		in = per * n / 2
		out = per*n - in
	}
	l.In, l.Out = int64(in), int64(out)
	for _, q := range s.Cues {
		l.Cues = append(l.Cues, cue{int64(q.At), q.Cue})
	}
	m := s.Move
	if m == nil {
		return l
	}
	l.Name, l.Limb, l.Breath, l.Care, l.Of = m.Name, m.Limb, p.Style.Breathing(m), m.Care, len(m.Levels)
	if w := p.Style.PelvisWords(m, s.Level); w != "" && (s.Kind.Working() || s.Kind == timeline.Setup) {
		l.Says = strings.TrimSpace(l.Says + " " + w)
	}
	if m.Inline {
		return l
	}
	row := p.Row(s.Row)
	shown := s.Level
	if row.Demo > 0 && row.Demo <= len(m.Levels) {
		shown = row.Demo
	}
	l.Fig = a.figures.url(m, shown, "l")
	changes := func(levels []int) string {
		var out []string
		for _, n := range levels {
			out = append(out, m.At(n).Changes)
		}
		return strings.Join(out, "; ")
	}
	easier := review.EasierOffered(row, m)
	l.Easier, l.Harder = changes(easier), changes(review.HarderOffered(row, m))
	if len(easier) > 0 {
		l.EasyLvl = easier[len(easier)-1]
		l.FigEasy = a.figures.url(m, l.EasyLvl, "l")
	} else {
		l.Easier = m.Ease
	}
	return l
}

func (a *app) lead(c *gin.Context) {
	cl, err := a.class(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	if cl.Plan.Style.ByDay { // the day of the series it stands on, else the day of the year
		day := a.now(c).YearDay()
		if n := a.dayNumber(c, cl.Doc.ID); n > 0 {
			day = n
		}
		cl.Plan = cl.Plan.ForDay(day)
		if cl.TL, err = timeline.Build(cl.Plan, a.lib); err != nil {
			a.fail(c, err)
			return
		}
	}
	if len(cl.TL.Steps) == 0 {
		a.problem(c, http.StatusUnprocessableEntity, "There is nothing to lead yet: add a movement to this session first.")
		return
	}
	d, err := a.leadData(cl, who(c).Teacher.ID)
	if err != nil {
		a.fail(c, err)
		return
	}
	a.render(c, http.StatusOK, "lead", "layout", page{Title: "Lead " + cl.Plan.Title, Who: who(c), Theme: "studio", Nav: "none", Scripts: []string{"js/player.js", "js/lead.js"}, Data: d})
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
func (a *app) saveRun(c *gin.Context) {
	says := func(status int, says string) { c.AbortWithStatusJSON(status, gin.H{"error": says}) }
	text, err := io.ReadAll(io.LimitReader(c.Request.Body, strict.MaxBytes+1))
	if err != nil {
		a.fail(c, err)
		return
	}
	r, err := run.Read(text)
	if err != nil {
		says(http.StatusUnprocessableEntity, runWords(err))
		return
	}
	w := who(c)
	if r.Teacher != w.Teacher.ID {
		says(http.StatusForbidden, "it was led by another teacher: it is sent when they sign in here")
		return
	}
	if _, err := a.store.Sessions.Get(c, w.Studio.ID, r.Session); err != nil {
		if errors.Is(err, store.ErrNotFound) {
			says(http.StatusNotFound, "the session it belongs to is not there")
			return
		}
		a.fail(c, err)
		return
	}
	switch err := a.store.SaveRun(c, w.Studio.ID, r); {
	case errors.Is(err, store.ErrNotYours) || errors.Is(err, store.ErrDiffers):
		says(http.StatusConflict, err.Error())
	case err != nil:
		a.fail(c, err)
	default:
		c.JSON(http.StatusOK, gin.H{"saved": r.ID})
	}
}
