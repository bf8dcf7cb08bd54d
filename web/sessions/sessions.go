package sessions

import (
	"embed"
	"encoding/json"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"wavekine/core/export"
	"wavekine/core/plan"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

//go:embed *.html
var files embed.FS

// Screen is the list of sessions, import, export and sheets.
var Screen = kit.Screen{
	Files: files,
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.GET("/sessions", a.With(sessionList))
		in.POST("/sessions", a.With(newSession))
		in.POST("/sessions/import", a.With(importSession))
		in.POST("/sessions/:id/copy", a.With(copySession))
		in.POST("/sessions/:id/archive", a.With(kit.Archive("sessions")))
		in.POST("/sessions/:id/unarchive", a.With(kit.Unarchive("sessions")))
		in.GET("/sessions/:id/export", a.With(exportSession))
		in.GET("/sessions/:id/print", a.With(printSession))
	},
}

type sessionsView struct {
	List       []kit.Listed
	Unreadable []kit.Unreadable
	Archived   kit.ArchivedView
}

func sessionList(a *kit.Kit, c *gin.Context) {
	ds, err := a.Store.Sessions.List(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := sessionsView{List: make([]kit.Listed, 0, len(ds))}
	for _, d := range ds {
		l, _, err := a.Listed(c, d, 220, 44)
		if err == nil {
			v.List = append(v.List, l)
		} else if err = kit.Aside(err, &v.Unreadable); err != nil {
			a.Fail(c, err)
			return
		}
	}
	if v.Archived, err = a.Archived(c, "sessions"); err != nil {
		a.Fail(c, err)
		return
	}
	a.Show(c, "sessions", "Sessions", "Sessions", v)
}

// create stores a new session and goes to it, or says why not.
func create(a *kit.Kit, c *gin.Context, cmd plan.Command) {
	ch, err := plan.New(a.Lib, cmd)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	id := store.NewID()
	if err := a.Store.Sessions.Create(c.Request.Context(), kit.Who(c).Studio.ID, id, kit.Stored(c, ch)); err != nil {
		a.FailSave(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sessions/"+id)
}

func newSession(a *kit.Kit, c *gin.Context) {
	cmd := &plan.NewSession{Style: kit.Who(c).House.Style}
	if err := kit.Decode(c.Request.PostForm, cmd); err != nil {
		a.Refuse(c, err)
		return
	}
	create(a, c, cmd)
}

func copySession(a *kit.Kit, c *gin.Context) {
	cl, err := a.Opened(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	create(a, c, &plan.CopySession{From: cl.Plan})
}

func exportSession(a *kit.Kit, c *gin.Context) {
	cl, err := a.Class(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	as := c.Query("as")
	if as != "json" { // the document is what it is; everything else is the class as it is done today
		if err := a.OnItsDay(c, cl); err != nil {
			a.Fail(c, err)
			return
		}
	}
	switch as {
	case "json":
		b, err := json.MarshalIndent(cl.Plan, "", "  ")
		if err != nil {
			a.Fail(c, err)
			return
		}
		kit.Attach(c, kit.FileName(cl.Plan.Title, "json"), "application/json", append(b, '\n'))
	case "csv":
		b, err := export.CSV(cl.Plan, cl.TL, a.Lib)
		if err != nil {
			a.Fail(c, err)
			return
		}
		kit.Attach(c, kit.FileName(cl.Plan.Title, "csv"), "text/csv; charset=utf-8", b)
	case "markdown":
		kit.Attach(c, kit.FileName(cl.Plan.Title, "md"), "text/markdown; charset=utf-8", export.Markdown(cl.Plan, cl.TL, a.Lib))
	case "text":
		kit.Attach(c, kit.FileName(cl.Plan.Title, "txt"), "text/plain; charset=utf-8", []byte(cl.Plan.Text(a.Lib)))
	case "pdf":
		write, kind := draw.CueSheet, ""
		if c.Query("for") == "mover" {
			write, kind = draw.MoverSheet, " to hand out"
		}
		b, err := write(export.SheetOf(cl.Plan, cl.TL, a.Lib))
		if err != nil {
			a.Fail(c, err)
			return
		}
		kit.Attach(c, kit.FileName(cl.Plan.Title+kind, "pdf"), "application/pdf", b)
	default:
		a.Problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("Cannot be written as %q: expected json, csv, markdown, text or pdf.", as))
	}
}

type sheetView struct {
	*kit.Class
	Sheet export.Sheet
	Wave  []byte
	Date  string
	Mover bool
}

func sheet(a *kit.Kit, c *gin.Context, cl *kit.Class) sheetView {
	return sheetView{
		Class: cl, Sheet: export.SheetOf(cl.Plan, cl.TL, a.Lib), Wave: draw.SmallWave(cl.TL, 700, 60, draw.WaveWords(cl.TL)),
		Date: a.Now(c).Format("2 January 2006"), Mover: c.Query("for") == "mover",
	}
}

func printSession(a *kit.Kit, c *gin.Context) {
	cl, err := a.Class(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	if err := a.OnItsDay(c, cl); err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "sheet", "sheet", kit.Page{Title: cl.Plan.Title, Who: kit.Who(c), Theme: "paper", Data: sheet(a, c, cl)})
}
