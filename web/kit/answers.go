package kit

import (
	"context"
	"net/http"
	"strings"
	"time"
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

// Longest is how long anything is worked on for one request; judgement: nobody waits longer without being told.
const Longest = 5 * time.Second

const boundedKey = "bounded"

// Bounded gives what is worked on for a request its end: when whoever asked has gone, and Longest after it was first
// asked for.
func Bounded(c *gin.Context) context.Context {
	if ctx, ok := c.Get(boundedKey); ok {
		return ctx.(context.Context)
	}
	ctx, cancel := context.WithTimeout(c.Request.Context(), Longest)
	context.AfterFunc(c.Request.Context(), cancel)
	c.Set(boundedKey, ctx)
	return ctx
}
