package web

import (
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
)

type limitView struct {
	Key, Name, Unit, Source string
	Value, Default          string
	Low, High               string
	Changed                 bool
}

type houseView struct {
	Name, Zone string
	Limits     []limitView
	Style      []styleView
	Aside      []plan.Aside
	Templates  []store.Template
	Teachers   []store.Teacher
}

func number(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

func (a *app) house(c *gin.Context) {
	w := who(c)
	v := houseView{Name: w.Studio.Name, Zone: w.Studio.Zone, Style: styleViews(w.House.Style), Aside: w.House.Aside}
	for _, l := range review.AllLimits() {
		v.Limits = append(v.Limits, limitView{
			l.Key, l.Name, l.Unit, l.Source, number(w.House.Limits.Of(l)), number(l.Default), number(l.Least), number(l.Most), w.House.Limits.Changed(l),
		})
	}
	var err error
	if v.Templates, err = a.store.Templates(c, w.Studio.ID); err != nil {
		a.fail(c, err)
		return
	}
	if v.Teachers, err = a.store.Teachers(c, w.Studio.ID); err != nil {
		a.fail(c, err)
		return
	}
	a.show(c, "house", "House", "House", v)
}

func (a *app) saveHouse(c *gin.Context) {
	w := who(c)
	st, h := w.Studio, w.House
	st.Name, st.Zone = strings.TrimSpace(c.PostForm("name")), strings.TrimSpace(c.PostForm("zone"))
	if st.Name == "" || utf8.RuneCountInString(st.Name) > 120 {
		a.problem(c, http.StatusUnprocessableEntity, "The studio's name: from 1 to 120 characters.")
		return
	}
	if _, err := time.LoadLocation(st.Zone); err != nil || st.Zone == "" || st.Zone == "Local" {
		a.problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%q is not a time zone: it looks like Europe/Lisbon, or UTC.", st.Zone))
		return
	}
	for _, l := range review.AllLimits() {
		v := l.Default // emptied: back to it
		t := strings.TrimSpace(c.PostForm(l.Key))
		var err error
		if t != "" {
			v, err = finite(t)
		}
		if err == nil {
			h.Limits, err = h.Limits.With(l, v)
		}
		if err != nil {
			a.problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%s: %q: expected %s to %s %s.", l.Name, t, number(l.Least), number(l.Most), l.Unit))
			return
		}
	}
	for _, n := range styleNames {
		if v := c.PostForm("style-" + n.key); v != "" {
			if err := h.Style.Set(n.key, v); err != nil {
				a.problem(c, http.StatusUnprocessableEntity, err.Error()+".")
				return
			}
		}
	}
	if err := a.storeHouse(c, st, h); err != nil {
		a.failEdit(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/house")
}

func (a *app) addTeacher(c *gin.Context) {
	t, says := newTeacher(c)
	if says != "" {
		a.problem(c, http.StatusUnprocessableEntity, says)
		return
	}
	t.StudioID = who(c).Studio.ID
	switch err := a.store.AddTeacher(c, t); {
	case errors.Is(err, store.ErrTaken):
		a.problem(c, http.StatusUnprocessableEntity, "There is an account with this e-mail already.")
	case err != nil:
		a.fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/house")
	}
}

func (a *app) people(c *gin.Context) {
	ms, err := a.store.Movers(c, who(c).Studio.ID)
	if err != nil {
		a.fail(c, err)
		return
	}
	a.show(c, "people", "People", "People", ms)
}

func (a *app) saveMover(c *gin.Context) {
	m := store.Mover{
		StudioID: who(c).Studio.ID, ID: c.PostForm("id"), Name: strings.TrimSpace(c.PostForm("name")),
		Watch: strings.TrimSpace(c.PostForm("watch")), Note: strings.TrimSpace(c.PostForm("note")),
	}
	var err error
	m.Level, err = strconv.Atoi(c.PostForm("level"))
	switch {
	case m.Name == "" || utf8.RuneCountInString(m.Name) > 120 || !utf8.ValidString(m.Name):
		a.problem(c, http.StatusUnprocessableEntity, "A name: from 1 to 120 characters.")
		return
	case len(m.Watch) > 500 || len(m.Note) > 2000 || !utf8.ValidString(m.Watch+m.Note):
		a.problem(c, http.StatusUnprocessableEntity, "What to watch has at most 500 characters, a note 2000.")
		return
	case err != nil || m.Level < 1 || m.Level > 20:
		a.problem(c, http.StatusUnprocessableEntity, "The usual level: 1 to 20.")
		return
	}
	if m.ID == "" {
		m.ID = store.NewID()
	}
	if err := a.store.SaveMover(c, m); err != nil {
		a.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/people")
}

func (a *app) deleteMover(c *gin.Context) {
	if err := a.store.DeleteMover(c, who(c).Studio.ID, c.Param("id")); err != nil {
		a.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/people")
}
