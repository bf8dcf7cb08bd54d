package kit

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"wavekine/store"
)

// HistoryView is what was changed of a document.
type HistoryView struct {
	Kind      string // "sessions" or "series", as in its address
	ID        string
	Rev       int
	Revisions []store.Revision
}

// ShowHistory answers with what was changed of a document, on a screen's page.
func (a *Kit) ShowHistory(c *gin.Context, shelf *store.Shelf, kind, id, page string) {
	studio := Who(c).Studio.ID
	d, err := shelf.Get(c.Request.Context(), studio, id)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := HistoryView{Kind: kind, ID: d.ID, Rev: d.Rev}
	if v.Revisions, err = shelf.History(c.Request.Context(), studio, d.ID, 30); err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, page, "history", v)
}
