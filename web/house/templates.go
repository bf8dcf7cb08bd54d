package house

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"wavekine/web/kit"
)

func deleteTemplate(a *kit.Kit, c *gin.Context) {
	if err := a.Store.DeleteTemplate(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id")); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/house")
}
