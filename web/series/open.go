package series

import (
	"errors"
	"net/http"

	"github.com/gin-gonic/gin"

	"wavekine/core/export"
	"wavekine/core/plan"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

// openState is whether a series is open to anybody.
type openState struct {
	Of   string
	Open bool
	At   string // its address, told once
}

// showOpen tells whether a series is open.
func showOpen(a *kit.Kit, c *gin.Context) {
	open, err := a.Store.IsOpen(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"))
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "open", "state", openState{Of: c.Param("id"), Open: open})
}

// openSeriesTo opens a series to anybody who has its address, or closes it.
func openSeriesTo(a *kit.Kit, c *gin.Context) {
	v, err := openState{Of: c.Param("id"), Open: true}, error(nil)
	if c.Request.PostForm.Get("op") == "end" {
		v.Open, err = false, a.Store.CloseSeries(c.Request.Context(), kit.Who(c).Studio.ID, v.Of)
	} else {
		var secret string
		if secret, err = a.Store.OpenSeries(c.Request.Context(), kit.Who(c).Studio.ID, v.Of); err == nil {
			v.At = addressOf(a, c) + "/open/" + secret
		}
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "open", "state", v)
}

// addressOf is the site as its visitors reach it.
func addressOf(a *kit.Kit, c *gin.Context) string {
	if c.Request.TLS != nil || a.Opt.Secure {
		return "https://" + c.Request.Host
	}
	return "http://" + c.Request.Host
}

// openDay is a day as anybody sees it.
type openDay struct {
	N       int
	Title   string
	Words   string
	Rest    bool
	Wave    []byte
	Kit     string
	Note    string
	Sheet   export.Sheet
	HasRows bool
}

type openView struct {
	Title, Note, Words, Kit string
	Days                    []openDay
}

// openPage shows an open series on one page, to be done at one's own pace: no names, no dates, nothing of the studio but its name. An address that never was answers like one
// that has ended.
func openPage(a *kit.Kit, c *gin.Context) {
	c.Header("X-Robots-Tag", "noindex")
	d, err := a.Store.SeriesBy(c.Request.Context(), c.Param("token"))
	if errors.Is(err, store.ErrNotFound) {
		a.Problem(c, http.StatusNotFound, "This series is not here, or not any more. Ask whoever gave you the address.")
		return
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	v, err := viewOpen(a, c, d)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "openseries", "page", kit.Page{Title: v.Title, Theme: "paper", Data: v})
}

// viewOpen works an open series out.
func viewOpen(a *kit.Kit, c *gin.Context, d store.Document) (v openView, err error) {
	lib, err := a.LibraryOf(c, d.StudioID)
	if err != nil {
		return v, err
	}
	s, err := plan.ReadSeries(d.Doc, lib)
	if err != nil {
		return v, err
	}
	kept, err := classesOf(a, c, d.StudioID, lib, s)
	if err != nil {
		return v, err
	}
	days, err := export.DaysOf(s, nil, lib, kept)
	if err != nil {
		return v, err
	}
	v = openView{Title: s.Title}
	if s.Brief == "" { // of a series that was laid the note is for the teacher
		v.Note = s.Note
	}
	classes := 0
	for i := range days {
		x := &days[i]
		o := openDay{N: x.N, Title: x.Name(), Rest: x.Rest, Note: x.Note, Kit: export.KitSaid(x.Kit)}
		switch {
		case x.Peak:
			o.Words = "the hardest day"
		case x.Kind == "easy":
			o.Words = "an easy day"
		case x.Kind == "stretch":
			o.Words = "a day to stretch"
		}
		if x.TL != nil {
			classes++
			o.HasRows, o.Sheet = true, export.SheetOf(x.Class, x.TL, lib)
			o.Wave = draw.SmallWave(x.TL, 212, 44, o.Title+": "+draw.WaveWords(x.TL))
		}
		v.Days = append(v.Days, o)
	}
	v.Words = export.Counted(len(days), "day", "days") + ", " + export.Counted(classes, "class", "classes")
	return v, nil
}
