package door

import (
	"errors"
	"net/http"
	"net/mail"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"wavekine/store"
	"wavekine/web/kit"
)

// NewTeacher reads name and e-mail of a new account; says is empty when they are right. It has no password yet.
func NewTeacher(c *gin.Context) (t store.Teacher, says string) {
	t = store.Teacher{ID: store.NewID(), Name: strings.TrimSpace(c.PostForm("name")), Email: strings.TrimSpace(c.PostForm("email"))}
	addr, err := mail.ParseAddress(t.Email)
	switch {
	case t.Name == "" || utf8.RuneCountInString(t.Name) > 120 || !utf8.ValidString(t.Name):
		says = "A name: from 1 to 120 characters."
	case err != nil || addr.Address != t.Email || len(t.Email) > longestMail:
		says = "The e-mail is not one: it looks like name@example.org."
	}
	return t, says
}

type accountView struct {
	Least int
	Done  string
}

func accountPage(a *kit.Kit, c *gin.Context) {
	v := accountView{Least: MinPassword}
	switch c.Query("done") {
	case "password":
		v.Done = "The password is changed. Everybody who was signed in as you elsewhere is signed out."
	case "signout":
		v.Done = "You are signed out everywhere else."
	}
	a.Show(c, "account", "Your account", "Account", v)
}

// changePassword takes the old password and the new one. Guessing the old one is slowed down as at the door.
func changePassword(a *kit.Kit, c *gin.Context) {
	ctx, w := c.Request.Context(), kit.Who(c)
	old, password := c.PostForm("old_password"), c.PostForm("password")
	if len(old) > maxPasswordBytes || len(password) > maxPasswordBytes {
		a.Problem(c, http.StatusUnprocessableEntity, "That password is too long.")
		return
	}
	if says := weakness(password, w.Teacher.Name, w.Teacher.Email, w.Studio.Name); says != "" {
		a.Problem(c, http.StatusUnprocessableEntity, says)
		return
	}
	key := tries{{"change " + w.Studio.ID + " " + w.Teacher.ID, perDevice}}
	switch wait, err := key.take(ctx, a.Store); {
	case err != nil:
		a.Fail(c, err)
		return
	case wait > 0:
		a.Problem(c, http.StatusTooManyRequests, tooMany(c, wait)+".")
		return
	}
	right, err := checkPassword(c, w.Teacher.PasswordHash, old)
	if err != nil {
		a.Fail(c, err)
		return
	}
	if !right {
		a.Problem(c, http.StatusUnprocessableEntity, "That is not your password until now. Nothing was changed.")
		return
	}
	hash, err := hashPassword(c, password)
	if err != nil {
		a.Fail(c, err)
		return
	}
	t := w.Teacher
	switch t.Epoch, err = a.Store.SetPassword(ctx, w.Studio.ID, t.ID, t.Epoch, hash); {
	case errors.Is(err, store.ErrNotFound):
		a.Problem(c, http.StatusConflict, "Your password was changed elsewhere at the same moment. Sign in again.")
		return
	case err == nil:
		if err = key.giveBack(ctx, a.Store); err == nil {
			err = a.Enter(c, t)
		}
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/account?done=password")
}

// signOutEverywhere ends every sign-in of the teacher but this one.
func signOutEverywhere(a *kit.Kit, c *gin.Context) {
	ctx, t := c.Request.Context(), kit.Who(c).Teacher
	var err error
	if t.Epoch, err = a.Store.SignOutEverywhere(ctx, t.StudioID, t.ID); err == nil {
		err = a.Enter(c, t)
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/account?done=signout")
}

// How long a one-time link opens the door; judgement.
const (
	InviteFor = 7 * 24 * time.Hour // for somebody new
	ResetFor  = 24 * time.Hour     // for somebody who has forgotten
)

type linkView struct {
	Name, Studio, Says string
	Least              int
}

// linkPage asks for a password. Looking at it uses nothing up: programs that preview links look too.
func linkPage(a *kit.Kit, c *gin.Context) {
	l, err := a.Store.LinkOf(c.Request.Context(), c.Param("token"))
	if err != nil {
		noLink(a, c, err)
		return
	}
	a.Show(c, "link", "Set a password", "", linkView{Name: l.Name, Studio: l.Studio, Least: MinPassword})
}

func noLink(a *kit.Kit, c *gin.Context, err error) {
	if errors.Is(err, store.ErrNotFound) {
		a.Problem(c, http.StatusNotFound, "This link opens nothing: it was used, another was made after it, or it is too old. Ask an owner of the studio for a new one.")
		return
	}
	a.Fail(c, err)
}

func useLink(a *kit.Kit, c *gin.Context) {
	ctx := c.Request.Context()
	l, err := a.Store.LinkOf(ctx, c.Param("token"))
	if err != nil {
		noLink(a, c, err)
		return
	}
	password := c.PostForm("password")
	if says := weakness(password, l.Name, l.Email, l.Studio); says != "" {
		a.Render(c, http.StatusUnprocessableEntity, "link", "layout", kit.Page{Title: "Set a password", Theme: "paper", Data: linkView{Name: l.Name, Studio: l.Studio, Says: says, Least: MinPassword}})
		return
	}
	hash, err := hashPassword(c, password)
	if err != nil {
		a.Fail(c, err)
		return
	}
	t, err := a.Store.UseLink(ctx, c.Param("token"), hash)
	if err != nil {
		noLink(a, c, err)
		return
	}
	enter(a, c, t, "/")
}
