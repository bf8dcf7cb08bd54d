package series

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"wavekine/core/export"
	"wavekine/web/kit"
)

func seriesCalendar(a *kit.Kit, c *gin.Context) {
	d, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	docs, err := a.Store.Sessions.ByID(c.Request.Context(), kit.Who(c).Studio.ID, kit.Refs(s))
	if err != nil {
		a.Fail(c, err)
		return
	}
	for i := range s.Days { // the calendar wants titles and lengths, so the sessions come inline
		day := &s.Days[i]
		if day.Ref == "" {
			continue
		}
		cl, _, err := dayClass(a, i+1, *day, docs)
		if err != nil {
			a.Fail(c, err)
			return
		}
		if cl != nil {
			day.Session, day.Ref = cl.Plan, ""
		}
	}
	if s.Time != "" && s.Zone == "" {
		s.Zone = kit.Who(c).Studio.Zone
	}
	b, err := export.SeriesCalendar(s, d.ID, d.Rev, d.UpdatedAt)
	if err != nil {
		a.Fail(c, err)
		return
	}
	kit.Attach(c, kit.FileName(s.Title, "ics"), "text/calendar; charset=utf-8", b)
}

func printSeries(a *kit.Kit, c *gin.Context) {
	v, err := openSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "seriessheet", "sheet", kit.Page{Title: v.Title, Who: kit.Who(c), Theme: "paper", Data: v})
}
