package series

import (
	"errors"
	"net/http"

	"github.com/gin-gonic/gin"

	"wavekine/store"
	"wavekine/web/kit"
)

// feed gives the calendar of a group to whoever has its secret address, and to nobody else; it is the same answer for an address that never was as for one that has ended.
func feed(a *kit.Kit, c *gin.Context) {
	g, err := a.Store.GroupBy(c.Request.Context(), c.Param("token"))
	if errors.Is(err, store.ErrNotFound) {
		c.String(http.StatusNotFound, "This calendar is not here, or not any more.\n")
		return
	}
	var b []byte
	if err == nil {
		var d store.Document
		if d, err = a.Store.Series.Get(c.Request.Context(), g.StudioID, g.SeriesID); err == nil {
			lib, lerr := a.LibraryOf(c, g.StudioID)
			if err = lerr; err == nil {
				b, err = calendarOf(a, c, lib, g, d)
			}
		}
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	c.Header("Cache-Control", "private, max-age=900")
	c.Header("X-Robots-Tag", "noindex")
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", b)
}
