package kit

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/store"
)

// Problem answers with words: a page, or for htmx a message in the page's message place.
func (a *Kit) Problem(c *gin.Context, status int, says string) {
	a.problem(c.Writer, c.Request, Who(c), status, says)
	c.Abort()
}

// problem is Problem, also where no screen has been reached.
func (a *Kit) problem(w http.ResponseWriter, r *http.Request, who *signedIn, status int, says string) {
	var b bytes.Buffer
	var err error
	h := w.Header()
	if partial(r) {
		h.Set("HX-Retarget", "#message")
		h.Set("HX-Reswap", "innerHTML")
		err = a.Pages["problem"].ExecuteTemplate(&b, "message", says)
	} else {
		err = a.Pages["problem"].ExecuteTemplate(&b, "layout", Page{Title: "Wavekine", Who: who, Theme: "paper", Data: says})
	}
	if err != nil {
		slog.ErrorContext(r.Context(), "problem", "err", err)
		b.Reset()
		b.WriteString(says)
	}
	h.Set("Content-Type", "text/html; charset=utf-8")
	w.WriteHeader(status)
	_, _ = w.Write(b.Bytes())
}

// FailOutside answers an error before or after a screen's own work.
func (a *Kit) FailOutside(w http.ResponseWriter, r *http.Request, err error) {
	if r.Context().Err() != nil { // the browser went away
		return
	}
	status, says := a.whatWentWrong(r, "", err)
	a.problem(w, r, nil, status, says)
}

// Fail answers an error that is not the user's.
func (a *Kit) Fail(c *gin.Context, err error) {
	var big *http.MaxBytesError
	var form formError
	var odd *UnreadableError
	var none noClassError
	switch {
	case errors.As(err, &none):
		a.Problem(c, http.StatusNotFound, Sentence(none))
	case errors.Is(err, sql.ErrNoRows):
		a.Problem(c, http.StatusNotFound, "That is not here, or not yours.")
	case errors.As(err, &big):
		a.Problem(c, http.StatusRequestEntityTooLarge, "That is too large: "+fmt.Sprintf("at most %s are read.", sizeWords(big.Limit)))
	case errors.As(err, &odd):
		a.showUnreadable(c, odd)
	case errors.As(err, &form):
		a.Problem(c, http.StatusBadRequest, "The form did not arrive whole. Nothing was changed; send it again.")
	case c.Request.Context().Err() != nil: // the browser went away
		c.AbortWithStatus(499)
	case c.Writer.Written():
		slog.ErrorContext(c.Request.Context(), "request", "err", err, "route", c.FullPath())
		c.Abort()
	default:
		status, says := a.whatWentWrong(c.Request, c.FullPath(), err)
		a.Problem(c, status, says)
	}
}

// Foreign answers what another site has sent in a teacher's name.
func (a *Kit) Foreign(w http.ResponseWriter, r *http.Request) {
	a.problem(w, r, nil, http.StatusForbidden, "That was sent by another site. Nothing was changed.")
}

// Fallen answers after a panic: what was meant to be shown is not, but what was kept is known.
func (a *Kit) Fallen(c *gin.Context) {
	if c.Writer.Written() {
		c.Abort()
		return
	}
	a.Problem(c, http.StatusInternalServerError, "Something went wrong on our side. "+whatBecame(c.Request))
}

// whatWentWrong puts an error of the product's own into words, and into the log.
func (a *Kit) whatWentWrong(r *http.Request, route string, err error) (status int, says string) {
	slog.ErrorContext(r.Context(), "request", "err", err, "method", r.Method, "route", route)
	switch {
	case store.Held(err):
		return http.StatusServiceUnavailable, "Somebody else is changing this at this moment. " + whatBecame(r)
	case store.NoAnswer(err):
		return http.StatusServiceUnavailable, "The database does not answer. " + whatBecame(r)
	case errors.Is(err, context.DeadlineExceeded):
		says = fmt.Sprintf("That took longer than %d s and was stopped: there is too much in it to be worked out at once. ", Longest/time.Second)
		if r.Method == http.MethodGet {
			return http.StatusServiceUnavailable, says + "Nothing was changed."
		}
		return http.StatusServiceUnavailable, says + whatBecame(r)
	}
	return http.StatusInternalServerError, "Something went wrong on our side. " + whatBecame(r)
}

// whatBecame says what has become of what a request asked for, as far as it is known.
func whatBecame(r *http.Request) string {
	if r.Method == http.MethodGet || r.Method == http.MethodHead {
		return "Try again in a moment."
	}
	switch store.VisitOf(r.Context()).Outcome() {
	case store.Unchanged:
		return "Nothing was changed. What is on this page is still here; try again in a moment."
	case store.Kept:
		return "What you asked for was kept; only its answer was lost. Reload the page to see it."
	case store.Partly:
		return "Part of what you asked for was kept. Reload the page and look, before you go on."
	}
	return "It is not known whether your change was kept. Reload the page and look, before you make it again."
}

func sizeWords(bytes int64) string {
	if bytes < 1<<20 {
		return fmt.Sprintf("%d KB", bytes>>10)
	}
	return fmt.Sprintf("%d MB", bytes>>20)
}

// Wrong is an error of the product's own in words, for a script that asked; it goes into the log.
func (a *Kit) Wrong(c *gin.Context, err error) (status int, says string) {
	return a.whatWentWrong(c.Request, c.FullPath(), err)
}
