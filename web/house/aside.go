package house

import (
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/plan"
	"wavekine/store"
	"wavekine/web/kit"
)

// asideHouse sets a kind of finding aside for every session of the house, or brings it back.
func asideHouse(a *kit.Kit, c *gin.Context) {
	rule, reason := c.PostForm("rule"), strings.TrimSpace(c.PostForm("reason"))
	says := "Set aside: " + rule
	change := func(_ *store.Studio, h *kit.House) (err error) {
		var amount plan.Amount
		if err = amount.UnmarshalText([]byte(c.PostForm("amount"))); err == nil {
			h.Aside, err = plan.PutAside(h.Aside, plan.Aside{Rule: rule, Amount: float64(amount), Reason: reason})
		}
		return err
	}
	if c.PostForm("do") == "back" {
		says = "Brought back: " + rule
		change = func(_ *store.Studio, h *kit.House) error {
			h.Aside = slices.DeleteFunc(slices.Clone(h.Aside), func(x plan.Aside) bool { return x.Rule == rule })
			return nil
		}
	}
	if err := a.ChangeHouse(c, &says, change); err != nil {
		a.FailEdit(c, err)
		return
	}
	if kit.IsPart(c) {
		c.Header("HX-Refresh", "true")
		c.Status(http.StatusNoContent)
		return
	}
	c.Redirect(http.StatusSeeOther, "/house")
}
