package house

import (
	"fmt"
	"net/http"
	"slices"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/export"
	"wavekine/core/group"
	"wavekine/store"
	"wavekine/web/kit"
)

// yearsAhead is how far into a calendar of holidays is read.
const yearsAhead = 5

// holidays puts in what is typed or what a calendar file has, takes one out, or those that are over.
func holidays(a *kit.Kit, c *gin.Context) {
	says := "Holidays"
	now := a.Now(c)
	today := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	var change func(group.Holidays) (group.Holidays, error)
	switch c.PostForm("do") {
	case "read":
		text, err := kit.Calendar(c)
		if err != nil {
			a.Refuse(c, err)
			return
		}
		busy, err := group.ReadBusy(text, now, now.AddDate(yearsAhead, 0, 0), kit.Who(c).Zone)
		if err != nil {
			a.Refuse(c, err)
			return
		}
		more, err := group.HolidaysOf(busy)
		if err != nil {
			a.Refuse(c, err)
			return
		}
		says = "Read " + export.Counted(len(more), "holiday", "holidays")
		change = func(hs group.Holidays) (group.Holidays, error) { return hs.With(more...) }
	case "out":
		h, err := group.NewHoliday(c.PostForm("from"), c.PostForm("to"), c.PostForm("what"))
		if err != nil {
			a.Refuse(c, err)
			return
		}
		says = fmt.Sprintf("Took out %s %s", h.From.Format("2 January 2006"), h.What)
		change = func(hs group.Holidays) (group.Holidays, error) {
			return slices.DeleteFunc(slices.Clone(hs), func(o group.Holiday) bool { return o == h }), nil
		}
	case "past":
		says = "Took past holidays out"
		change = func(hs group.Holidays) (group.Holidays, error) {
			return slices.DeleteFunc(slices.Clone(hs), func(o group.Holiday) bool { return o.To.Before(today) }), nil
		}
	default:
		h, err := group.NewHoliday(c.PostForm("from"), c.PostForm("to"), c.PostForm("what"))
		if err != nil {
			a.Refuse(c, err)
			return
		}
		says = fmt.Sprintf("Holiday on %s %s", h.From.Format("2 January 2006"), h.What)
		change = func(hs group.Holidays) (group.Holidays, error) { return hs.With(h) }
	}
	err := a.ChangeHouse(c, &says, func(_ *store.Studio, h *kit.House) (err error) {
		h.Holidays, err = change(h.Holidays)
		return err
	})
	if err != nil {
		a.FailEdit(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/house#holidays")
}
