package people

import (
	"embed"
	"html/template"
	"net/http"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"wavekine/store"
	"wavekine/web/kit"
)

//go:embed *.html
var files embed.FS

// Screen is who comes, and what they watch.
var Screen = kit.Screen{
	Files: files,
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.GET("/people", a.With(showPeople))
		in.POST("/people", a.With(saveMover))
		in.POST("/people/:id/delete", a.With(deleteMover))
	},
	Funcs: func(*kit.Kit) template.FuncMap {
		return template.FuncMap{"nobody": func() store.Mover { return store.Mover{Level: 1} }}
	},
}

func showPeople(a *kit.Kit, c *gin.Context) {
	ms, err := a.Store.Movers(c, kit.Who(c).Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Show(c, "people", "People", "People", ms)
}

func saveMover(a *kit.Kit, c *gin.Context) {
	m := store.Mover{
		StudioID: kit.Who(c).Studio.ID, ID: c.PostForm("id"), Name: strings.TrimSpace(c.PostForm("name")),
		Watch: strings.TrimSpace(c.PostForm("watch")), Note: strings.TrimSpace(c.PostForm("note")),
	}
	var err error
	m.Level, err = strconv.Atoi(c.PostForm("level"))
	switch {
	case m.Name == "" || utf8.RuneCountInString(m.Name) > 120 || !utf8.ValidString(m.Name):
		a.Problem(c, http.StatusUnprocessableEntity, "A name: from 1 to 120 characters.")
		return
	case len(m.Watch) > 500 || len(m.Note) > 2000 || !utf8.ValidString(m.Watch+m.Note):
		a.Problem(c, http.StatusUnprocessableEntity, "What to watch has at most 500 characters, a note 2000.")
		return
	case err != nil || m.Level < 1 || m.Level > 20:
		a.Problem(c, http.StatusUnprocessableEntity, "The usual level: 1 to 20.")
		return
	}
	if m.ID == "" {
		m.ID = store.NewID()
	}
	if err := a.Store.SaveMover(c, m); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/people")
}

func deleteMover(a *kit.Kit, c *gin.Context) {
	if err := a.Store.DeleteMover(c, kit.Who(c).Studio.ID, c.Param("id")); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/people")
}
