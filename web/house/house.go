package house

import (
	"embed"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/store"
	"wavekine/web/door"
	"wavekine/web/kit"
)

//go:embed *.html
var files embed.FS

// Screen is a studio's settings, its teachers and their pace.
var Screen = kit.Screen{
	Files: files,
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.POST("/templates/:id/delete", a.With(deleteTemplate))
		in.POST("/house/aside", a.With(asideHouse))
		in.GET("/house/pace", a.With(paceSeen))
		in.POST("/house/pace", a.With(acceptPace))
		in.GET("/house", a.With(showHouse))
		in.POST("/house", a.With(saveHouse))
		in.POST("/house/teachers", a.With(addTeacher))
	},
}

type limitView struct {
	Key, Name, Unit, Source string
	Value, Default          string
	Low, High               string
	Changed                 bool
}

type houseView struct {
	Name, Zone string
	Limits     []limitView
	Style      []kit.StyleView
	Aside      []plan.Aside
	Templates  []store.Template
	Teachers   []store.Teacher
}

func number(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

func showHouse(a *kit.Kit, c *gin.Context) {
	w := kit.Who(c)
	v := houseView{Name: w.Studio.Name, Zone: w.Studio.Zone, Style: kit.StyleViews(w.House.Style), Aside: w.House.Aside}
	for _, l := range review.AllLimits() {
		v.Limits = append(v.Limits, limitView{
			l.Key, l.Name, l.Unit, l.Source, number(w.House.Limits.Of(l)), number(l.Default), number(l.Least), number(l.Most), w.House.Limits.Changed(l),
		})
	}
	var err error
	if v.Templates, err = a.Store.Templates(c, w.Studio.ID); err != nil {
		a.Fail(c, err)
		return
	}
	if v.Teachers, err = a.Store.Teachers(c, w.Studio.ID); err != nil {
		a.Fail(c, err)
		return
	}
	a.Show(c, "house", "House", "House", v)
}

func saveHouse(a *kit.Kit, c *gin.Context) {
	w := kit.Who(c)
	st, h := w.Studio, w.House
	st.Name, st.Zone = strings.TrimSpace(c.PostForm("name")), strings.TrimSpace(c.PostForm("zone"))
	if st.Name == "" || utf8.RuneCountInString(st.Name) > 120 {
		a.Problem(c, http.StatusUnprocessableEntity, "The studio's name: from 1 to 120 characters.")
		return
	}
	if _, err := time.LoadLocation(st.Zone); err != nil || st.Zone == "" || st.Zone == "Local" {
		a.Problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%q is not a time zone: it looks like Europe/Lisbon, or UTC.", st.Zone))
		return
	}
	for _, l := range review.AllLimits() {
		v := l.Default // emptied: back to it
		t := strings.TrimSpace(c.PostForm(l.Key))
		var err error
		if t != "" {
			v, err = kit.Finite(t)
		}
		if err == nil {
			h.Limits, err = h.Limits.With(l, v)
		}
		if err != nil {
			a.Problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%s: %q: expected %s to %s %s.", l.Name, t, number(l.Least), number(l.Most), l.Unit))
			return
		}
	}
	for _, n := range kit.StyleViews(h.Style) {
		if v := c.PostForm("style-" + n.Key); v != "" {
			if err := h.Style.Set(n.Key, v); err != nil {
				a.Problem(c, http.StatusUnprocessableEntity, err.Error()+".")
				return
			}
		}
	}
	if err := a.StoreHouse(c, st, h); err != nil {
		a.FailEdit(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/house")
}

func addTeacher(a *kit.Kit, c *gin.Context) {
	t, says := door.NewTeacher(c)
	if says != "" {
		a.Problem(c, http.StatusUnprocessableEntity, says)
		return
	}
	t.StudioID = kit.Who(c).Studio.ID
	switch err := a.Store.AddTeacher(c, t); {
	case errors.Is(err, store.ErrTaken):
		a.Problem(c, http.StatusUnprocessableEntity, "There is an account with this e-mail already.")
	case err != nil:
		a.Fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/house")
	}
}
