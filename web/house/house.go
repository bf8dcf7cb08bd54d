package house

import (
	"embed"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"wavekine/core/export"
	"wavekine/core/group"
	"wavekine/core/plan"
	"wavekine/core/progress"
	"wavekine/core/review"
	"wavekine/store"
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
		in.POST("/house/holidays", a.With(holidays))
		in.GET("/house/pace", a.With(paceSeen))
		in.POST("/house/pace", a.With(acceptPace))
		in.GET("/house", a.With(showHouse))
		in.POST("/house", a.With(saveHouse))
		in.POST("/house/restore", a.With(restoreHouse))
		in.POST("/house/teachers", a.MustOwn, a.With(addTeacher))
		in.POST("/house/teachers/:id/link", a.MustOwn, a.With(makeLink))
		in.POST("/house/teachers/:id/role", a.MustOwn, a.With(setRole))
		in.POST("/house/teachers/:id/remove", a.MustOwn, a.With(removeTeacher))
		in.POST("/house/teachers/:id/return", a.MustOwn, a.With(returnTeacher))
	},
}

// wordingView is a text that the house words, with what may stand in it.
type wordingView struct {
	Name, Label, Text string
	Places            []string
}

// wordingLabels are what a house words itself, in words.
var wordingLabels = map[string]string{
	"day": "Announcement of a day", "week": "Announcement of a week", "series": "Announcement of the series", "invite": "Letter with the link", "remind": "Letter on a day", "weekly": "Letter for a week", "missed": "Letter to who missed days",
}

type limitView struct {
	Key, Name, Unit, Source string
	Value, Default          string
	Low, High               string
	Changed                 bool
}

type houseView struct {
	Name, Zone string
	Rev        int
	Limits     []limitView
	Style      []kit.StyleView
	Aside      []plan.Aside
	Templates  []store.Template
	Wording    []wordingView
	Missed     string
	Praise     string
	PostOff    bool
	Holidays   group.Holidays
	Past       []store.HouseRevision
	teachersView
}

// pastShown is how many changes of the settings are listed.
const pastShown = 30

func number(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

func showHouse(a *kit.Kit, c *gin.Context) { houseWith(a, c, http.StatusOK, nil) }

// houseWith shows the page, with a link that was made just now.
func houseWith(a *kit.Kit, c *gin.Context, status int, made *madeLink) {
	w := kit.Who(c)
	v := houseView{Name: w.Studio.Name, Zone: w.Studio.Zone, Rev: w.Studio.Rev, Style: kit.StyleViews(w.House.Style), Aside: w.House.Aside, Missed: w.House.Missed, Praise: strings.Join(w.House.Praise, "\n"), PostOff: w.House.PostOff}
	for _, l := range review.AllLimits() {
		v.Limits = append(v.Limits, limitView{
			l.Key, l.Name, l.Unit, l.Source, number(w.House.Limits.Of(l)), number(l.Default), number(l.Least), number(l.Most), w.House.Limits.Changed(l),
		})
	}
	whole := w.House.Wording.Whole()
	for i, text := range whole.Texts() {
		v.Wording = append(v.Wording, wordingView{export.WordingNames[i], wordingLabels[export.WordingNames[i]], *text, export.Places(export.WordingNames[i])})
	}
	v.Holidays = w.House.Holidays
	var err error
	if v.Templates, err = a.Store.Templates(c.Request.Context(), w.Studio.ID); err != nil {
		a.Fail(c, err)
		return
	}
	if v.Past, err = a.Store.HouseHistory(c.Request.Context(), w.Studio.ID, pastShown); err != nil {
		a.Fail(c, err)
		return
	}
	for i := range v.Past {
		v.Past[i].At = v.Past[i].At.In(w.Zone)
	}
	if v.teachersView, err = teachersOf(a, c, made); err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, status, "house", "layout", kit.Page{Title: "House", Nav: "House", Who: w, Theme: "paper", Data: v})
}

// settings are what the form of the page holds, by the names of its fields.
func settings(st *store.Studio, h *kit.House) map[string]string {
	m := map[string]string{"name": st.Name, "zone": st.Zone, "missed": h.Missed, "praise": strings.Join(h.Praise, "\n"), "post": map[bool]string{true: "off", false: "on"}[h.PostOff]}
	for _, l := range review.AllLimits() {
		m[l.Key] = number(h.Limits.Of(l))
	}
	for _, n := range kit.StyleViews(h.Style) {
		m["style-"+n.Key] = n.Value
	}
	whole := h.Wording.Whole()
	for i, text := range whole.Texts() {
		m["wording-"+export.WordingNames[i]] = *text
	}
	return m
}

// typed reads the form; a limit that was emptied goes back to its default.
func typed(c *gin.Context) (map[string]string, error) {
	m := map[string]string{}
	for k := range c.Request.PostForm {
		m[k] = strings.TrimSpace(c.PostForm(k))
	}
	usual := export.UsualWording()
	for i, text := range usual.Texts() {
		if t, sent := m["wording-"+export.WordingNames[i]]; sent && t == "" {
			m["wording-"+export.WordingNames[i]] = *text
		} else if sent {
			m["wording-"+export.WordingNames[i]] = strings.ReplaceAll(t, "\r\n", "\n")
		}
	}
	for _, l := range review.AllLimits() {
		t, sent := m[l.Key]
		if !sent {
			continue
		}
		v := l.Default
		var err error
		if t != "" {
			v, err = kit.Finite(t)
		}
		if err == nil {
			_, err = review.Limits{}.With(l, v)
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %q: expected %s to %s %s", l.Name, t, number(l.Least), number(l.Most), l.Unit)
		}
		m[l.Key] = number(v)
	}
	return m, nil
}

// put makes settings of what the fields hold.
func put(st *store.Studio, h *kit.House, m map[string]string) error {
	st.Name, st.Zone = m["name"], m["zone"]
	if st.Name == "" || utf8.RuneCountInString(st.Name) > 120 {
		return errors.New("the studio's name: from 1 to 120 characters")
	}
	if _, err := time.LoadLocation(st.Zone); err != nil || st.Zone == "" || st.Zone == "Local" {
		return fmt.Errorf("%q is not a time zone: it looks like Europe/Lisbon, or UTC", st.Zone)
	}
	for _, l := range review.AllLimits() {
		v, err := kit.Finite(m[l.Key])
		if err == nil {
			h.Limits, err = h.Limits.With(l, v)
		}
		if err != nil {
			return err
		}
	}
	for _, n := range kit.StyleViews(h.Style) {
		if err := h.Style.Set(n.Key, m["style-"+n.Key]); err != nil {
			return err
		}
	}
	for i, text := range h.Wording.Texts() {
		*text = m["wording-"+export.WordingNames[i]]
	}
	if err := h.Wording.Check(); err != nil {
		return err
	}
	h.Wording = h.Wording.Own()
	h.PostOff, h.Missed = m["post"] == "off", m["missed"]
	var err error
	if h.Praise, err = praise(m["praise"]); err != nil {
		return err
	}
	if h.Missed != "" && !slices.Contains(progress.Kinds(), progress.Kind(h.Missed)) {
		return kit.ErrUnknown
	}
	return nil
}

// Limits of what is said with the last repetitions; judgement: it is said in a breath.
const (
	mostPraise = 30
	longPraise = 80
)

// praise reads the lines that are said with the last repetitions.
func praise(text string) (out []string, err error) {
	for _, l := range strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
		if l = strings.TrimSpace(l); l == "" {
			continue
		}
		if len([]rune(l)) > longPraise {
			return nil, fmt.Errorf("encouragement: %q: at most %d characters a line", plan.Clip(l, 40), longPraise)
		}
		out = append(out, l)
	}
	if len(out) > mostPraise {
		return nil, fmt.Errorf("encouragement: at most %d lines", mostPraise)
	}
	return out, nil
}

// called is what a field is called on the page.
func called(key string) string {
	switch key {
	case "name":
		return "Studio"
	case "zone":
		return "Time zone"
	case "missed":
		return "Who missed days"
	case "praise":
		return "Encouragement"
	case "post":
		return "Letters to movers"
	}
	if of, ok := strings.CutPrefix(key, "wording-"); ok {
		return wordingLabels[of]
	}
	for _, l := range review.AllLimits() {
		if l.Key == key {
			return l.Name
		}
	}
	for _, n := range kit.StyleViews(plan.Style{}) {
		if "style-"+n.Key == key {
			return n.Asks
		}
	}
	return key
}

// clashError is what two have changed differently at the same time.
type clashError struct {
	Rev     int
	Clashes []kit.Clash
}

func (e *clashError) Error() string {
	var b strings.Builder
	b.WriteString("the same was changed meanwhile, and nothing of yours is kept yet:")
	for _, x := range e.Clashes {
		fmt.Fprintf(&b, " %s is now %q, you have %q;", x.Key, x.Their, x.Yours)
	}
	return strings.TrimSuffix(b.String(), ";")
}

// formOf gives the settings as a form of a revision showed them.
func formOf(a *kit.Kit, c *gin.Context, text string) (was store.HouseRevision, h kit.House, err error) {
	var rev plan.Number
	if err := rev.UnmarshalText([]byte(text)); err != nil || rev.N < 1 {
		return was, h, kit.ErrUnknown
	}
	was, err = a.Store.HouseAt(c.Request.Context(), kit.Who(c).Studio.ID, rev.N)
	if errors.Is(err, store.ErrNotFound) {
		return was, h, kit.ErrUnknown
	}
	if err != nil {
		return was, h, kit.Trouble(err)
	}
	return was, kit.ReadHouse(was.House), nil
}

// saveHouse puts the form on top of what was changed since it was shown.
func saveHouse(a *kit.Kit, c *gin.Context) {
	m, err := typed(c)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	was, h, err := formOf(a, c, c.PostForm("rev"))
	seen, hseen := was, h
	if over := c.PostForm("over"); over != "" && err == nil { // what was changed meanwhile was seen
		seen, hseen, err = formOf(a, c, over)
	}
	if err != nil {
		a.FailEdit(c, err)
		return
	}
	base, known, says := settings(&was.Studio, &h), settings(&seen.Studio, &hseen), ""
	whole := maps.Clone(base)
	for k := range whole {
		if v, sent := m[k]; sent {
			whole[k] = v
		}
	}
	if err := put(&was.Studio, &h, whole); err != nil { // what is wrong with it by itself is said first
		a.Refuse(c, err)
		return
	}
	err = a.ChangeHouse(c, &says, func(st *store.Studio, h *kit.House) error {
		out, changed, clashes := kit.Merge(base, known, settings(st, h), m)
		if len(clashes) > 0 {
			for i := range clashes {
				clashes[i].Key = called(clashes[i].Key)
			}
			return &clashError{st.Rev, clashes}
		}
		if len(changed) == 0 {
			return errSame
		}
		for i := range changed {
			changed[i] = called(changed[i])
		}
		says = "Changed: " + strings.Join(changed, ", ")
		return put(st, h, out)
	})
	var clash *clashError
	switch {
	case errors.As(err, &clash) && kit.IsPart(c):
		c.Header("HX-Retarget", "#message")
		c.Header("HX-Reswap", "innerHTML")
		a.Render(c, http.StatusConflict, "house", "clash", clash)
	case errors.As(err, &clash):
		a.Problem(c, http.StatusConflict, kit.Sentence(clash))
	case err != nil && !errors.Is(err, errSame):
		a.FailEdit(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/house")
	}
}

// errSame says that nothing is to be changed.
var errSame = errors.New("nothing was changed")

// restoreHouse gives the settings back as they were at a revision; that is a change like any other.
func restoreHouse(a *kit.Kit, c *gin.Context) {
	var to plan.Number
	if err := to.UnmarshalText([]byte(c.PostForm("to"))); err != nil || to.N < 1 {
		a.Refuse(c, errors.New("choose a version first"))
		return
	}
	was, err := a.Store.HouseAt(c.Request.Context(), kit.Who(c).Studio.ID, to.N)
	if err != nil {
		a.Fail(c, err)
		return
	}
	says := fmt.Sprintf("As it was on %s", was.At.In(kit.Who(c).Zone).Format("2 Jan, 15:04"))
	err = a.ChangeHouse(c, &says, func(st *store.Studio, h *kit.House) error {
		st.Name, st.Zone, *h = was.Name, was.Zone, kit.ReadHouse(was.House)
		return nil
	})
	if err != nil {
		a.FailEdit(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/house")
}
