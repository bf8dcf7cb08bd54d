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
	Aside    []review.Finding // set aside, for this session or the house
	lib      *movement.Library
}

// read reads a stored session; an *unreadableError where that cannot be done.
func (a *app) read(d store.Document) (*class, error) {
	key := planKey{d.StudioID, d.ID, d.Rev, d.Stamp, a.lib}
	p, ok := a.plans.Get(key)
	if !ok {
		var err error
		if p, err = plan.ReadSession(d.Doc, a.lib); err != nil {
			return nil, &unreadableError{"sessions", d, err}
		}
		a.plans.Add(key, p)
	}
	return &class{Doc: d, Plan: p, lib: a.lib}, nil
}

// planKey names a session as it was read: the stamp changes with the stored row, whoever changed it. What is kept
// under it is never changed, commands work on copies; it only saves reading it again.
type planKey struct {
	studio, id string
	rev        int
	stamp      int64
	lib        *movement.Library
}

// plansKept is how many sessions are kept as they were read, about 30 KB each.
const plansKept = 512

// work reads a stored session and works out its timeline, without the second look.
func (a *app) work(d store.Document) (*class, error) {
	cl, err := a.read(d)
	if err != nil {
		return nil, err
	}
	cl.TL, err = timeline.Build(cl.Plan, a.lib)
	if err != nil {
		return nil, &unreadableError{"sessions", d, err}
	}
	return cl, nil
}

// opened finds the session of the address, read and no more.
func (a *app) opened(c *gin.Context) (*class, error) {
	d, err := a.store.Sessions.Get(c, who(c).Studio.ID, c.Param("id"))
	if err != nil {
		return nil, err
	}
	return a.read(d)
}

// workOut works out what has not been yet: the timeline and the second look.
func (a *app) workOut(c *gin.Context, cl *class) (err error) {
	if cl.TL == nil {
		if cl.TL, err = timeline.Build(cl.Plan, a.lib); err != nil {
			return err
		}
		a.lookOver(c, cl)
	}
	return nil
}

// class finds the session of the address, worked out and looked over.
func (a *app) class(c *gin.Context) (*class, error) {
	cl, err := a.opened(c)
	if err != nil {
		return nil, err
	}
	return cl, a.workOut(c, cl)
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

type sessionsView struct {
	List       []listed
	Unreadable []unreadable
}

func (a *app) sessionList(c *gin.Context) {
	ds, err := a.store.Sessions.List(c, who(c).Studio.ID)
	if err != nil {
		a.fail(c, err)
		return
	}
	v := sessionsView{List: make([]listed, 0, len(ds))}
	for _, d := range ds {
		l, _, err := a.listed(c, d, 220, 44)
		if err == nil {
			v.List = append(v.List, l)
		} else if err = aside(err, &v.Unreadable); err != nil {
			a.fail(c, err)
			return
		}
	}
	a.show(c, "sessions", "Sessions", "Sessions", v)
}

// create stores a new session and goes to it, or says why not.
func (a *app) create(c *gin.Context, cmd plan.Command) {
	ch, err := plan.New(a.lib, cmd)
	if err != nil {
		a.refuse(c, err)
		return
	}
	id := store.NewID()
	if err := a.store.Sessions.Create(c, who(c).Studio.ID, id, stored(c, ch)); err != nil {
		a.failSave(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sessions/"+id)
}

func (a *app) newSession(c *gin.Context) {
	cmd := &plan.NewSession{Style: who(c).House.Style}
	if err := decode(c.Request.PostForm, cmd); err != nil {
		a.refuse(c, err)
		return
	}
	a.create(c, cmd)
}

func (a *app) copySession(c *gin.Context) {
	cl, err := a.opened(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	a.create(c, &plan.CopySession{From: cl.Plan})
}

func (a *app) archiveSession(c *gin.Context) {
	if err := a.store.Sessions.Archive(c, who(c).Studio.ID, c.Param("id")); err != nil {
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
	as := c.Query("as")
	if as != "json" { // the document is what it is; everything else is the class as it is done today
		if err := a.onItsDay(c, cl); err != nil {
			a.fail(c, err)
			return
		}
	}
	switch as {
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
	if err := a.onItsDay(c, cl); err != nil {
		a.fail(c, err)
		return
	}
	a.render(c, http.StatusOK, "sheet", "sheet", page{Title: cl.Plan.Title, Who: who(c), Theme: "paper", Data: a.sheet(c, cl)})
}

// now is the time in the studio's zone.
func (a *app) now(c *gin.Context) time.Time { return a.opt.Now().In(who(c).Zone) }
