package house

import (
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/store"
	"wavekine/web/door"
	"wavekine/web/kit"
)

// madeLink is a one-time link as it is shown, once, to the owner who made it.
type madeLink struct{ For, URL, Until string }

// teachersView are a studio's teachers, as an owner or a teacher sees them.
type teachersView struct {
	Teachers, Removed []store.Teacher
	Owner             bool // whoever looks is one
	Me                string
	Link              *madeLink
}

func teachersOf(a *kit.Kit, c *gin.Context, made *madeLink) (v teachersView, err error) {
	w := kit.Who(c)
	ts, err := a.Store.Teachers(c.Request.Context(), w.Studio.ID)
	v = teachersView{Owner: w.Teacher.Role == store.AsOwner, Me: w.Teacher.ID, Link: made}
	for _, t := range ts {
		if t.RemovedAt.Valid {
			v.Removed = append(v.Removed, t)
		} else {
			v.Teachers = append(v.Teachers, t)
		}
	}
	return v, err
}

// addTeacher makes an account without a password, and the link by which its teacher sets one: nobody types another's.
func addTeacher(a *kit.Kit, c *gin.Context) {
	t, says := door.NewTeacher(c)
	if says != "" {
		a.Problem(c, http.StatusUnprocessableEntity, says)
		return
	}
	t.StudioID = kit.Who(c).Studio.ID
	switch err := a.Store.AddTeacher(c.Request.Context(), t); {
	case errors.Is(err, store.ErrTaken):
		a.Problem(c, http.StatusUnprocessableEntity, "There is an account with this e-mail already.")
	case err != nil:
		a.Fail(c, err)
	default:
		showLink(a, c, t, door.InviteFor)
	}
}

// findTeacher finds a teacher of the studio by the id of the address, who was not removed.
func findTeacher(a *kit.Kit, c *gin.Context) (store.Teacher, error) {
	v, err := teachersOf(a, c, nil)
	if err != nil {
		return store.Teacher{}, err
	}
	for _, t := range v.Teachers {
		if t.ID == c.Param("id") {
			return t, nil
		}
	}
	return store.Teacher{}, store.ErrNotFound
}

// makeLink makes a one-time link for somebody who has forgotten their password, or never set one.
func makeLink(a *kit.Kit, c *gin.Context) {
	t, err := findTeacher(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	valid := door.ResetFor
	if t.PasswordHash == "" {
		valid = door.InviteFor
	}
	showLink(a, c, t, valid)
}

func showLink(a *kit.Kit, c *gin.Context, t store.Teacher, valid time.Duration) {
	w := kit.Who(c)
	token := store.NewSecret()
	if err := a.Store.MakeLink(c.Request.Context(), w.Studio.ID, t.ID, token, w.Teacher.ID, valid); err != nil {
		a.Fail(c, err)
		return
	}
	scheme := "http"
	if a.Opt.Secure || c.Request.TLS != nil {
		scheme = "https"
	}
	made := &madeLink{t.Name, fmt.Sprintf("%s://%s/link/%s", scheme, c.Request.Host, token), a.Opt.Now().Add(valid).In(w.Zone).Format("Monday 2 January, 15:04")}
	if kit.IsPart(c) {
		c.Header("X-Fragment", "done")
		c.Header("X-Part", "teacher-list")
		a.Render(c, http.StatusOK, "house", "madelink", made)
		return
	}
	houseWith(a, c, http.StatusOK, made)
}

// changed answers after a change of the teachers.
func changed(a *kit.Kit, c *gin.Context, err error) {
	switch {
	case errors.Is(err, store.ErrLastOwner):
		a.Problem(c, http.StatusUnprocessableEntity, "A studio needs an owner: make somebody else an owner first.")
	case errors.Is(err, store.ErrTaken):
		a.Problem(c, http.StatusUnprocessableEntity, "There is another account with this e-mail now.")
	case err != nil:
		a.Fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/house#teachers")
	}
}

func setRole(a *kit.Kit, c *gin.Context) {
	role := store.Role(c.PostForm("role"))
	if role != store.AsOwner && role != store.AsTeacher {
		a.Refuse(c, kit.ErrUnknown)
		return
	}
	changed(a, c, a.Store.SetRole(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"), role))
}

// removeTeacher closes the door to a teacher; their work stays, with their name on it.
func removeTeacher(a *kit.Kit, c *gin.Context) {
	changed(a, c, a.Store.RemoveTeacher(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id")))
}

// returnTeacher takes a removed teacher back; a link opens the door for them.
func returnTeacher(a *kit.Kit, c *gin.Context) {
	if err := a.Store.ReturnTeacher(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id")); err != nil {
		changed(a, c, err)
		return
	}
	makeLink(a, c)
}
