package series

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"wavekine/store"
	"wavekine/web/kit"
)

// openState is whether a series is open to anybody.
type openState struct {
	Of   string
	Open bool
	At   string // its address, told once
	// Counts is what was said of its days, by nobody in particular.
	Counts []store.OpenCount
}

// showOpen tells whether a series is open.
func showOpen(a *kit.Kit, c *gin.Context) {
	open, err := a.Store.IsOpen(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"))
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := openState{Of: c.Param("id"), Open: open}
	if v.Counts, err = a.Store.OpenCounts(c.Request.Context(), kit.Who(c).Studio.ID, v.Of); err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "open", "state", v)
}

// openSeriesTo opens a series to anybody who has its address, or closes it.
func openSeriesTo(a *kit.Kit, c *gin.Context) {
	v, err := openState{Of: c.Param("id"), Open: true}, error(nil)
	if c.Request.PostForm.Get("op") == "end" {
		v.Open, err = false, a.Store.CloseSeries(c.Request.Context(), kit.Who(c).Studio.ID, v.Of)
	} else {
		var secret string
		if secret, err = a.Store.OpenSeries(c.Request.Context(), kit.Who(c).Studio.ID, v.Of); err == nil {
			v.At = a.AddressOf(c) + "/open/" + secret
		}
	}
	if err == nil {
		v.Counts, err = a.Store.OpenCounts(c.Request.Context(), kit.Who(c).Studio.ID, v.Of)
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "open", "state", v)
}
