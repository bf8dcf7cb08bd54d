package people

import (
	"embed"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"wavekine/core/movement"
	"wavekine/core/plan"
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
		return template.FuncMap{"nobody": func() store.Mover { return store.Mover{Level: 1} }, "read": readWatch}
	},
}

// watchView is what was understood of what somebody has to watch: the topics, and what is only kept as a note.
type watchView struct{ Topics, Notes string }

func readWatch(words string) watchView {
	topics, notes := movement.WatchOf(words)
	names := make([]string, len(topics))
	for i, t := range topics {
		names[i] = string(t)
	}
	return watchView{strings.Join(names, ", "), strings.Join(notes, "; ")}
}

func showPeople(a *kit.Kit, c *gin.Context) {
	ms, err := a.Store.Movers(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Show(c, "people", "People", "People", ms)
}

// fields are what the form of a person holds, by the names of its fields.
func fields(m store.Mover) map[string]string {
	return map[string]string{"name": m.Name, "watch": m.Watch, "note": m.Note, "level": strconv.Itoa(m.Level)}
}

// called is what a field is called on the page.
var called = map[string]string{"name": "Name", "watch": "To watch", "note": "Note", "level": "Usual level"}

// put makes a person of what the fields hold.
func put(m *store.Mover, f map[string]string) error {
	level, err := strconv.Atoi(f["level"])
	m.Name, m.Watch, m.Note, m.Level = f["name"], f["watch"], f["note"], level
	switch {
	case m.Name == "" || utf8.RuneCountInString(m.Name) > 120 || !utf8.ValidString(m.Name):
		return errors.New("a name: from 1 to 120 characters")
	case utf8.RuneCountInString(m.Watch) > 500 || utf8.RuneCountInString(m.Note) > 2000 || !utf8.ValidString(m.Watch+m.Note):
		return errors.New("what to watch has at most 500 characters, a note 2000")
	case err != nil || level < 1 || level > 20:
		return errors.New("the usual level: 1 to 20")
	}
	return nil
}

// revOf reads a revision that a form names.
func revOf(text string) (int, error) {
	var rev plan.Number
	if err := rev.UnmarshalText([]byte(text)); err != nil || rev.N < 1 {
		return 0, kit.ErrUnknown
	}
	return rev.N, nil
}

func saveMover(a *kit.Kit, c *gin.Context) {
	w := kit.Who(c)
	typed := map[string]string{}
	for k := range called {
		typed[k] = strings.TrimSpace(c.PostForm(k))
	}
	m := store.Mover{StudioID: w.Studio.ID, ID: c.PostForm("id")}
	if err := put(&m, typed); err != nil {
		a.Refuse(c, err)
		return
	}
	if m.ID == "" {
		m.ID = store.NewID()
		if err := a.Store.SaveMover(c.Request.Context(), m, w.Teacher.ID); err != nil {
			a.Fail(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, "/people")
		return
	}
	rev, err := revOf(c.PostForm("rev"))
	seen := rev
	if over := c.PostForm("over"); over != "" && err == nil { // what was changed meanwhile was seen
		seen, err = revOf(over)
	}
	if err != nil {
		a.Refuse(c, err)
		return
	}
	changeMover(a, c, m.ID, rev, seen, typed)
}

// changeMover puts the form on top of what was changed since it was shown.
func changeMover(a *kit.Kit, c *gin.Context, id string, rev, seen int, typed map[string]string) {
	ctx, w := c.Request.Context(), kit.Who(c)
	for {
		past, err := a.Store.MoverSince(ctx, w.Studio.ID, id, rev)
		if err == nil && (len(past) == 0 || past[len(past)-1].Rev != rev) {
			err = store.ErrNotFound
		}
		if errors.Is(err, store.ErrNotFound) {
			a.Problem(c, http.StatusConflict, "They were removed meanwhile. What you typed is still here; add them again if they come.")
			return
		}
		if err != nil {
			a.Fail(c, err)
			return
		}
		now, was, known := past[0], past[len(past)-1], past[len(past)-1]
		for _, p := range past {
			if p.Rev == seen {
				known = p
			}
		}
		out, changed, clashes := kit.Merge(fields(was.Mover), fields(known.Mover), fields(now.Mover), typed)
		if len(clashes) > 0 {
			showClash(a, c, now, clashes)
			return
		}
		if len(changed) == 0 {
			c.Redirect(http.StatusSeeOther, "/people")
			return
		}
		if err := put(&now.Mover, out); err != nil {
			a.Refuse(c, err)
			return
		}
		err = a.Store.SaveMover(ctx, now.Mover, w.Teacher.ID)
		var conflict *store.Conflict
		switch {
		case errors.As(err, &conflict): // a third was faster: on top of theirs
			continue
		case err != nil && !errors.Is(err, store.ErrNotFound):
			a.Fail(c, err)
			return
		case err == nil:
			c.Redirect(http.StatusSeeOther, "/people")
			return
		}
	}
}

// clashView is what two have changed differently of one person.
type clashView struct {
	ID, Name, By string
	Rev          int
	Clashes      []kit.Clash
}

func showClash(a *kit.Kit, c *gin.Context, now store.MoverRevision, clashes []kit.Clash) {
	for i := range clashes {
		clashes[i].Key = called[clashes[i].Key]
	}
	v := clashView{now.ID, now.Name, now.By, now.Rev, clashes}
	if !kit.IsPart(c) {
		a.Problem(c, http.StatusConflict, fmt.Sprintf("%s was changed meanwhile. Nothing of yours is kept; go back, and look again.", now.Name))
		return
	}
	c.Header("HX-Retarget", "#message")
	c.Header("HX-Reswap", "innerHTML")
	a.Render(c, http.StatusConflict, "people", "clash", v)
}

func deleteMover(a *kit.Kit, c *gin.Context) {
	rev, err := revOf(c.PostForm("rev"))
	if err != nil {
		a.Refuse(c, err)
		return
	}
	err = a.Store.DeleteMover(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"), rev)
	var conflict *store.Conflict
	switch {
	case errors.As(err, &conflict):
		a.Problem(c, http.StatusConflict, "They were changed meanwhile. Nothing was removed; reload the page and look, then remove them.")
	case err != nil:
		a.Fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/people")
	}
}
