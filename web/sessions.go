package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/export"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/store"
)

// class is a session read and worked out.
type class struct {
	Doc      store.Document
	Plan     *plan.Session
	TL       *timeline.Timeline
	Findings []review.Finding
	Aside    []review.Finding // put aside, for this session or the house
	lib      *movement.Library
}

// work reads a stored session and works out its timeline, without the second look.
func (a *app) work(d store.Document) (*class, error) {
	p, err := plan.ReadSession(d.Doc, a.lib)
	if err != nil {
		return nil, fmt.Errorf("session %s: %w", d.ID, err)
	}
	tl, err := timeline.Build(p, a.lib)
	if err != nil {
		return nil, fmt.Errorf("session %s: %w", d.ID, err)
	}
	return &class{Doc: d, Plan: p, TL: tl, lib: a.lib}, nil
}

// class finds the session of the address, worked out and looked over.
func (a *app) class(c *gin.Context) (*class, error) {
	d, err := a.store.Plan(c, who(c).Studio.ID, c.Param("id"))
	if err != nil {
		return nil, err
	}
	cl, err := a.work(d)
	if err != nil {
		return nil, err
	}
	a.lookOver(c, cl)
	return cl, nil
}

// change makes a stored change of a session.
func change(p *plan.Session, says, by string, lib *movement.Library) (store.Change, error) {
	doc, err := json.Marshal(p)
	if err != nil {
		return store.Change{}, err
	}
	ch := store.Change{Title: p.Title, Doc: doc, Says: says, By: by}
	p.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if !r.IsRest && r.Inline == nil {
			ch.Rows = append(ch.Rows, store.Row{Movement: movement.BaseSlug(r.Movement), Level: max(1, r.Level), Dose: r.Dose.String()})
		}
	})
	return ch, nil
}

// listed is a session in a list.
type listed struct {
	ID, Title, Focus string
	Wave             []byte
	Total, Target    clock.Span
	Low, High        clock.Span
	Stops            int
	Changed          string
	Kit              string
}

func (a *app) listed(c *gin.Context, d store.Document, w, h float64) (listed, *class, error) {
	cl, err := a.work(d)
	if err != nil {
		return listed{}, nil, err
	}
	l := listed{
		ID: d.ID, Title: d.Title, Focus: strings.Join(cl.Plan.Focus, ", "), Total: cl.TL.Total, Target: cl.Plan.Target, Low: cl.TL.Low, High: cl.TL.High,
		Wave: draw.SmallWave(cl.TL, w, h, d.Title+": "+draw.WaveWords(cl.TL)), Changed: d.UpdatedAt.In(who(c).Zone).Format("Mon 2 Jan"), Kit: kitOf(cl.TL),
	}
	a.lookOver(c, cl)
	for _, f := range cl.Findings {
		if f.Severity == review.Stop {
			l.Stops++
		}
	}
	return l, cl, nil
}

// kitOf lists what a class needs besides a mat.
func kitOf(tl *timeline.Timeline) string {
	var out []string
	seen := map[string]bool{}
	for i := range tl.Steps {
		if s := &tl.Steps[i]; s.Move != nil {
			for _, k := range s.Move.Things(s.Level) {
				if !seen[k] {
					seen[k] = true
					out = append(out, k)
				}
			}
		}
	}
	return strings.Join(out, ", ")
}

func (a *app) sessionList(c *gin.Context) {
	ds, err := a.store.Plans(c, who(c).Studio.ID)
	if err != nil {
		a.fail(c, err)
		return
	}
	view := make([]listed, 0, len(ds))
	for _, d := range ds {
		l, _, err := a.listed(c, d, 220, 44)
		if err != nil {
			a.fail(c, err)
			return
		}
		view = append(view, l)
	}
	a.show(c, "sessions", "Sessions", "Sessions", view)
}

// create stores a session and gives its id.
func (a *app) create(c *gin.Context, p *plan.Session, says string) (string, error) {
	ch, err := change(p, says, who(c).Teacher.ID, a.lib)
	if err != nil {
		return "", err
	}
	id := store.NewID()
	return id, a.store.CreatePlan(c, who(c).Studio.ID, id, ch)
}

func (a *app) newSession(c *gin.Context) {
	p := &plan.Session{Format: plan.SessionFormat, Style: who(c).House.Style, Sections: []plan.Section{{Title: "Arrive"}, {Title: "Build"}, {Title: "Settle"}}}
	if err := setTitle(p, c.PostForm("title")); err != nil {
		a.problem(c, http.StatusUnprocessableEntity, err.Error())
		return
	}
	if t := strings.TrimSpace(c.PostForm("target")); t != "" {
		if err := setTarget(p, t); err != nil {
			a.problem(c, http.StatusUnprocessableEntity, err.Error())
			return
		}
	}
	id, err := a.create(c, p, "New session")
	if err != nil {
		a.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sessions/"+id)
}

func (a *app) copySession(c *gin.Context) {
	cl, err := a.class(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	if r := []rune(cl.Plan.Title); len(r) > plan.MaxTitle-5 {
		cl.Plan.Title = string(r[:plan.MaxTitle-5])
	}
	from := cl.Plan.Title
	cl.Plan.Title += " copy"
	id, err := a.create(c, cl.Plan, "Copied from "+from)
	if err != nil {
		a.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sessions/"+id)
}

func (a *app) archiveSession(c *gin.Context) {
	if err := a.store.ArchivePlan(c, who(c).Studio.ID, c.Param("id")); err != nil {
		a.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sessions")
}

// fileName makes a title fit for a file.
func fileName(title, ext string) string {
	s := strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z', r >= 'A' && r <= 'Z', r >= '0' && r <= '9':
			return r
		case r == ' ', r == '-', r == '_':
			return '-'
		}
		return -1
	}, title)
	if s == "" {
		s = "wavekine"
	}
	return strings.ToLower(s[:min(len(s), 60)]) + "." + ext
}

func attach(c *gin.Context, name, ctype string, b []byte) {
	c.Header("Content-Disposition", `attachment; filename="`+name+`"`)
	c.Data(http.StatusOK, ctype, b)
}

func (a *app) exportSession(c *gin.Context) {
	cl, err := a.class(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	switch as := c.Query("as"); as {
	case "json":
		b, err := json.MarshalIndent(cl.Plan, "", "  ")
		if err != nil {
			a.fail(c, err)
			return
		}
		attach(c, fileName(cl.Plan.Title, "json"), "application/json", append(b, '\n'))
	case "csv":
		b, err := export.CSV(cl.Plan, cl.TL, a.lib)
		if err != nil {
			a.fail(c, err)
			return
		}
		attach(c, fileName(cl.Plan.Title, "csv"), "text/csv; charset=utf-8", b)
	case "markdown":
		attach(c, fileName(cl.Plan.Title, "md"), "text/markdown; charset=utf-8", export.Markdown(cl.Plan, cl.TL, a.lib))
	case "pdf":
		write, kind := draw.CueSheet, ""
		if c.Query("for") == "mover" {
			write, kind = draw.MoverSheet, " to hand out"
		}
		b, err := write(export.SheetOf(cl.Plan, cl.TL, a.lib))
		if err != nil {
			a.fail(c, err)
			return
		}
		attach(c, fileName(cl.Plan.Title+kind, "pdf"), "application/pdf", b)
	default:
		a.problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("Cannot be written as %q: expected json, csv, markdown or pdf.", as))
	}
}

type sheetView struct {
	*class
	Sheet export.Sheet
	Wave  []byte
	Date  string
	Mover bool
}

func (a *app) sheet(c *gin.Context, cl *class) sheetView {
	return sheetView{
		class: cl, Sheet: export.SheetOf(cl.Plan, cl.TL, a.lib), Wave: draw.SmallWave(cl.TL, 700, 60, draw.WaveWords(cl.TL)),
		Date: a.now(c).Format("2 January 2006"), Mover: c.Query("for") == "mover",
	}
}

func (a *app) printSession(c *gin.Context) {
	cl, err := a.class(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	a.render(c, http.StatusOK, "sheet", "sheet", page{Title: cl.Plan.Title, Who: who(c), Theme: "paper", Data: a.sheet(c, cl)})
}

// now is the time in the studio's zone.
func (a *app) now(c *gin.Context) time.Time { return a.opt.Now().In(who(c).Zone) }
