package kit

import (
	"errors"
	"fmt"
	"mime"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/gin-gonic/gin/binding"

	"wavekine/core/strict"
)

// ownCheck are the fields whose readers point at the place themselves.
var ownCheck = []string{"line", "text", "dose", "password"}

// ReadForm reads the form of a request, however it is sent, before any handler does: lines end as they do in
// documents, and what no document could hold is refused with its field. Values of the address are no part of it.
func (a *Kit) ReadForm(c *gin.Context) {
	query, err := url.ParseQuery(c.Request.URL.RawQuery)
	for k, vs := range query { // what is typed into the add line and the search says itself what is wrong with it
		if strict.Hidden(k) >= 0 || k != "line" && k != "q" && slices.ContainsFunc(vs, func(v string) bool { return strict.Hidden(v) >= 0 }) {
			err = errors.New(k)
		}
	}
	if err != nil {
		a.Problem(c, http.StatusBadRequest, "The address of this page is not a whole one. Go back, and follow the link again.")
		return
	}
	for _, p := range c.Params {
		if strict.Hidden(p.Value) >= 0 {
			a.Problem(c, http.StatusNotFound, "There is no page at this address.")
			return
		}
	}
	if c.Request.Method != http.MethodPost {
		c.Next()
		return
	}
	kind, _, _ := mime.ParseMediaType(c.GetHeader("Content-Type")) // in small letters, whatever was sent
	switch {
	case kind == "application/x-www-form-urlencoded":
		err = c.Request.ParseForm()
	case kind == "multipart/form-data":
		err = c.Request.ParseMultipartForm(FormMemory)
	default: // no form: the handler reads the body, or there is none
		c.Request.PostForm = url.Values{}
		c.Next()
		return
	}
	if err != nil {
		a.Fail(c, badForm(err))
		return
	}
	for k, vs := range c.Request.PostForm {
		if strict.Hidden(k) >= 0 {
			a.Refuse(c, fmt.Errorf("a field with a character that cannot be shown"))
			return
		}
		for i, v := range vs {
			vs[i] = strings.ReplaceAll(v, "\r\n", "\n")
			if !slices.Contains(ownCheck, k) && strict.Hidden(vs[i]) >= 0 {
				a.Refuse(c, fmt.Errorf("%s: a character that cannot be shown", strings.ReplaceAll(k, "_", " ")))
				return
			}
		}
	}
	c.Next()
}

// FormMemory is how much of a form is held in memory; files beyond it go to disk while they are read.
const FormMemory = 4 << 20

// formError is a form that could not be read.
type formError struct{ err error }

func (e formError) Error() string { return "the form could not be read: " + e.err.Error() }

func (e formError) Unwrap() error { return e.err }

func badForm(err error) error { return formError{err} }

// Decode reads a form into a command's fields. A field that is there several times, as ticked boxes are, is read
// as words parted by spaces.
func Decode(f url.Values, to any) error {
	joined := make(map[string][]string, len(f))
	for k, vs := range f {
		joined[k] = []string{strings.Join(vs, " ")}
	}
	return binding.MapFormWithTag(to, joined, "form")
}
