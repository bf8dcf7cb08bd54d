package house

import (
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/plan"
	"wavekine/web/kit"
)

// asideHouse puts a kind of finding aside for every session of the house, or brings it back.
func asideHouse(a *kit.Kit, c *gin.Context) {
	w := kit.Who(c)
	h := w.House
	rule, reason := c.PostForm("rule"), strings.TrimSpace(c.PostForm("reason"))
	if c.PostForm("do") == "back" {
		for i, x := range h.Aside {
			if x.Rule == rule {
				h.Aside = append(h.Aside[:i:i], h.Aside[i+1:]...)
				break
			}
		}
	} else {
		var amount plan.Amount
		err := amount.UnmarshalText([]byte(c.PostForm("amount")))
		if err == nil {
			h.Aside, err = plan.PutAside(h.Aside, plan.Aside{Rule: rule, Amount: float64(amount), Reason: reason})
		}
		if err != nil {
			a.Refuse(c, err)
			return
		}
	}
	if err := a.StoreHouse(c, w.Studio, h); err != nil {
		a.FailEdit(c, err)
		return
	}
	if kit.IsPart(c) {
		c.Header("HX-Refresh", "true")
		c.Status(204)
		return
	}
	c.Redirect(303, "/house")
}
