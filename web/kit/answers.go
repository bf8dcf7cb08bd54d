package kit

import (
	"net/http"
	"strings"
	"unicode"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/plan"
)

// SpanText is a time as it is typed, nothing for none.
func SpanText(s clock.Span) string {
	if s == 0 {
		return ""
	}
	return s.Said()
}

// RowID is the id of a row in the page.
func RowID(p plan.Path) string { return "row-" + strings.ReplaceAll(p.String(), ".", "-") }

// Refuse answers what cannot be made of what was asked; what was typed stays in the page.
func (a *Kit) Refuse(c *gin.Context, err error) {
	a.Problem(c, http.StatusUnprocessableEntity, Sentence(err))
}

// Sentence is an error as a sentence.
func Sentence(err error) string {
	says := []rune(strings.TrimSpace(err.Error()))
	if len(says) == 0 {
		return "That did not work."
	}
	says[0] = unicode.ToUpper(says[0])
	if last := says[len(says)-1]; last != '.' && last != '?' && last != '!' {
		says = append(says, '.')
	}
	return string(says)
}
