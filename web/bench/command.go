package bench

import (
	"net/url"

	"github.com/gin-gonic/gin"

	"wavekine/core/adapt"
	"wavekine/core/edit"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/web/kit"
)

// command makes the command that a form means, with what the form only names: a piece, a mend.
func command(a *kit.Kit, c *gin.Context, cl *kit.Class, f url.Values) (plan.Command, error) {
	cmd, ok := edit.Session(f.Get("op"))
	if !ok {
		return nil, kit.ErrUnknown
	}
	if err := kit.Decode(f, cmd); err != nil {
		return nil, err
	}
	var err error
	switch cmd := cmd.(type) {
	case *plan.InsertPiece:
		cmd.Sections, err = sectionsOf(a, c, cmd.Piece)
	case *review.Take:
		if err := a.WorkOut(c, cl); err != nil {
			return nil, kit.Trouble(err)
		}
		cmd.Findings = cl.Findings
	case *review.Fit:
		cmd.Limits, cmd.Within = kit.Who(c).House.Limits, kit.Bounded(c)
	case *review.Cut:
		cmd.Within = kit.Bounded(c)
	case *review.Order:
		cmd.Limits, cmd.Within = kit.Who(c).House.Limits, kit.Bounded(c)
	case *adapt.Kinder:
		cmd.Limits, cmd.Within = kit.Who(c).House.Limits, kit.Bounded(c)
	case *plan.PasteLines:
		cmd.Within = kit.Bounded(c)
	}
	return cmd, err
}
