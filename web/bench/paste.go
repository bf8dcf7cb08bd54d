package bench

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/export"
	"wavekine/core/plan"
	"wavekine/web/kit"
)

// pastedLine is one line of a pasted class as it was understood, or why not.
type pastedLine struct {
	N                         int
	Raw, Section, Name, Words string
	Says                      string
	Read                      string // what was read from its name
	Aside                     string // what is said of the rows before it, or of the class
}

type pastedView struct {
	Lines      []pastedLine
	Good, Bad  int
	Rest       string // the lines that were not understood, to stay in the box
	Understood string
}

// showPaste shows what a pasted class means, line by line, before anything is added.
func showPaste(a *kit.Kit, c *gin.Context) {
	cl, err := a.Opened(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	lines, err := plan.LinesIn(kit.Bounded(c), c.PostForm("text"), a.Lib, cl.Plan.Style)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	var v pastedView
	var rest, good []string
	for _, l := range lines {
		p := pastedLine{N: l.N, Raw: strings.TrimSpace(strings.ToValidUTF8(l.Raw, "�")), Section: l.Section}
		switch {
		case l.As == plan.KeptLine:
			p.Says = l.Err.Error()
			rest = append(rest, p.Raw)
			v.Bad++
		case l.Section != "" && !l.IsRow():
			good = append(good, p.Raw)
		case l.IsRow() && l.Count() > 1 || l.IsRow() && l.Section != "":
			p.Section, p.Name, p.Words = "", fmt.Sprintf("%d rows", l.Count()), l.Says(a.Lib)
			good = append(good, p.Raw)
			v.Good += l.Count()
		case !l.IsRow(): // what is said of the rows before it
			p.Aside = l.Says(a.Lib)
			good = append(good, p.Raw)
		default:
			p.Name, p.Words = export.RowName(&l.Row, a.Lib), export.RowWords(&l.Row, a.Lib)
			if l.Row.Inline != nil {
				p.Read = l.Row.Inline.Words()
			}
			good = append(good, p.Raw)
			v.Good++
		}
		v.Lines = append(v.Lines, p)
	}
	v.Rest, v.Understood = strings.Join(rest, "\n"), strings.Join(good, "\n")
	a.Render(c, http.StatusOK, "bench", "pasted", v)
}
