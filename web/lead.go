package web

import (
	"errors"
	"io"
	"net/http"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/review"
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
	Pairs   bool   `json:"pairs,omitempty"`
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
}

// Lengths of one breath shown where the plan counts none; judgement.
const (
	calmBreath  = 8 * clock.Second
	leastBreath = 3 * clock.Second
)

func (a *app) leadData(cl *class) leadData {
	d := leadData{
		ID: cl.Doc.ID, Rev: cl.Doc.Rev, Title: cl.Plan.Title, Promised: int64(cl.Plan.Target), Total: int64(cl.TL.Total),
		Mirrored: !cl.Plan.Style.Plain, Rows: cl.Plan.Rows(), Down: cl.Plan.Style.Countdown, Steps: make([]leadStep, 0, len(cl.TL.Steps)),
	}
	for i := range cl.TL.Steps {
		d.Steps = append(d.Steps, a.leadStep(cl.Plan, &cl.TL.Steps[i]))
	}
	return d
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
		l.FigEasy = a.figures.url(m, easier[len(easier)-1], "l")
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
	a.render(c, http.StatusOK, "lead", "layout", page{Title: "Lead " + cl.Plan.Title, Who: who(c), Theme: "studio", Nav: "none", Scripts: []string{"js/lead.js"}, Data: a.leadData(cl)})
}

// maxRunRows bounds a run: a class of 600 rows with every kind of step on both sides.
const maxRunRows = 5000

// readRun reads what the player recorded, strictly.
func readRun(text []byte) (store.Run, error) {
	rd, v := strict.Parse(text)
	if rd.Err() != nil {
		return store.Run{}, rd.Err()
	}
	const day = 24 * 60 * 60 * 1000
	o := v.Object()
	ms := func(o *strict.Object, key string) int64 { return int64(o.Need(key).Float(0, day)) }
	r := store.Run{ID: o.Need("id").Text(64), PlanID: o.Need("plan").Text(64), PlanRev: o.Need("rev").Int(1, 1<<30), Title: o.Need("title").Text(plan.MaxTitle)}
	if len(r.ID) < 8 {
		o.Need("id").Fail("too short for a name of its own")
	}
	started := o.Need("started")
	at, err := time.Parse(time.RFC3339, started.Text(40))
	if err != nil || at.Year() < 2000 || at.Year() > 2200 {
		started.Fail("expected a time as in 2026-05-01T18:30:00Z")
	}
	r.StartedAt = at
	r.PromisedMS, r.PlannedMS, r.TakenMS = ms(o, "promised_ms"), ms(o, "planned_ms"), ms(o, "taken_ms")
	r.Finished = o.Need("finished").Bool()
	r.Note = o.Need("note").Text(plan.MaxNote)
	o.Need("rows").List(maxRunRows, func(_ int, e strict.Value) {
		w := e.Object()
		row := store.RunRow{
			Place: w.Need("place").Text(20), Name: w.Need("name").Text(120), Side: w.Need("side").Text(12), Kind: w.Need("kind").Text(12),
			PlannedMS: ms(w, "planned_ms"), TakenMS: ms(w, "taken_ms"), PlannedReps: w.Need("planned_reps").Int(0, 100000), Reps: w.Need("reps").Int(0, 100000),
			Note: w.Need("note").Text(plan.MaxNote),
		}
		if _, err := plan.ParsePath(row.Place); err != nil {
			e.Wrap(err)
		}
		w.Done(false)
		r.Rows = append(r.Rows, row)
	})
	o.Done(false)
	return r, rd.Err()
}

// saveRun stores a run as it was led. The player may send it again and again.
func (a *app) saveRun(c *gin.Context) {
	text, err := io.ReadAll(io.LimitReader(c.Request.Body, strict.MaxBytes+1))
	if err != nil {
		a.fail(c, err)
		return
	}
	says := func(status int, err error) { c.AbortWithStatusJSON(status, gin.H{"error": err.Error()}) }
	if !utf8.Valid(text) {
		says(http.StatusUnprocessableEntity, errors.New("not text in UTF-8"))
		return
	}
	r, err := readRun(text)
	if err != nil {
		says(http.StatusUnprocessableEntity, err)
		return
	}
	w := who(c)
	if _, err := a.store.Plan(c, w.Studio.ID, r.PlanID); err != nil {
		if errors.Is(err, store.ErrNotFound) {
			says(http.StatusNotFound, errors.New("no such session"))
			return
		}
		a.fail(c, err)
		return
	}
	r.StudioID, r.TeacherID = w.Studio.ID, w.Teacher.ID
	if err := a.store.SaveRun(c, r); err != nil {
		a.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"saved": r.ID})
}
