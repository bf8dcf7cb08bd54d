package kit

import (
	"context"
	"errors"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"wavekine/core/plan"
	"wavekine/store"
)

// trouble is the product's own: the database does not answer, a page is gone. Every other error of a change is
// one that whoever made it can put right.
type trouble struct{ error }

// Trouble marks an error as the product's own.
func Trouble(err error) error { return trouble{err} }

func (e trouble) Unwrap() error { return e.error }

// FailEdit answers a change that was not made.
func (a *Kit) FailEdit(c *gin.Context, err error) {
	var ours trouble
	switch {
	case errors.As(err, &ours):
		a.Fail(c, ours.error)
	case errors.Is(err, context.DeadlineExceeded), errors.Is(err, context.Canceled): // it took too long, or nobody waits
		a.Fail(c, err)
	default:
		a.Refuse(c, err)
	}
}

// ErrUnknown is said where a page asks for what this version does not know.
var ErrUnknown = errors.New("that did not work: reload the page and try again")

// Stored makes a change of the history out of a checked one.
func Stored(c *gin.Context, ch plan.Changed) store.Change {
	return store.Change{Doc: ch.Sealed, Says: ch.Says, By: Who(c).Teacher.ID}
}

// shelfOf is where a kind of document is kept, by the first part of its address.
func (a *Kit) shelfOf(kind string) *store.Shelf {
	if kind == "series" {
		return a.Store.Series
	}
	return a.Store.Sessions
}

// Unreadable is a document that cannot be read: made by a newer version, or by hand. It is one line in its list,
// with its history and export; nothing else stops because of it.
type Unreadable struct {
	Kind, ID, Title string
	Rev             int
	Says            string
	Revisions       []pastRevision
}

// pastRevision is an entry of the history, and whether it could be restored.
type pastRevision struct {
	store.Revision
	Readable bool
}

// UnreadableError is a document that was found but not read.
type UnreadableError struct {
	kind string
	Doc  store.Document
	err  error
}

func (e *UnreadableError) Error() string { return fmt.Sprintf("%s %s: %v", e.kind, e.Doc.ID, e.err) }

func (e *UnreadableError) Unwrap() error { return e.err }

// line is the document in its list.
func (e *UnreadableError) line() Unreadable {
	return Unreadable{Kind: e.kind, ID: e.Doc.ID, Title: e.Doc.Title, Rev: e.Doc.Rev, Says: e.err.Error()}
}

// Aside takes an unreadable document out of the way of a list; any other error stays.
func Aside(err error, list *[]Unreadable) error {
	var u *UnreadableError
	if !errors.As(err, &u) {
		return err
	}
	*list = append(*list, u.line())
	return nil
}

// pastShown is how many revisions of an unreadable document are listed.
const pastShown = 60

// showUnreadable answers for a document that cannot be read: why, what it was before, and the file as it is.
func (a *Kit) showUnreadable(c *gin.Context, e *UnreadableError) {
	v := e.line()
	shelf := a.shelfOf(e.kind)
	past, err := shelf.History(c.Request.Context(), Who(c).Studio.ID, e.Doc.ID, pastShown)
	if err != nil {
		a.Fail(c, err)
		return
	}
	for _, r := range past {
		doc, _, err := shelf.Revision(c.Request.Context(), Who(c).Studio.ID, e.Doc.ID, r.Rev)
		if err != nil {
			a.Fail(c, err)
			return
		}
		_, rerr := a.reseal(e.kind, doc)
		v.Revisions = append(v.Revisions, pastRevision{r, rerr == nil})
	}
	nav := "Sessions"
	if e.kind == "series" {
		nav = "Series"
	}
	if IsPart(c) {
		a.Problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%s cannot be read: %s. Reload the page: its history is there.", v.Title, v.Says))
		return
	}
	a.Render(c, http.StatusUnprocessableEntity, "unreadable", "layout", Page{Title: v.Title, Nav: nav, Who: Who(c), Theme: "paper", Data: v})
}

// RawDocument gives a document as it is stored, readable or not.
func RawDocument(kind string) func(*Kit, *gin.Context) {
	return func(a *Kit, c *gin.Context) {
		d, err := a.shelfOf(kind).Get(c.Request.Context(), Who(c).Studio.ID, c.Param("id"))
		if err != nil {
			a.Fail(c, err)
			return
		}
		Attach(c, FileName(d.Title, "json"), "application/json", append(d.Doc, '\n'))
	}
}

// Restore gives a document back as it was at a revision; that is a change like any other and can be undone. What
// is in force need not be readable for that.
func Restore(kind string) func(*Kit, *gin.Context) {
	return func(a *Kit, c *gin.Context) {
		shelf := a.shelfOf(kind)
		studio, id := Who(c).Studio.ID, c.Param("id")
		d, err := shelf.Get(c.Request.Context(), studio, id)
		if err != nil {
			a.Fail(c, err)
			return
		}
		var to plan.Number
		if err := to.UnmarshalText([]byte(c.PostForm("to"))); err != nil || to.N < 1 {
			a.Refuse(c, errors.New("choose a version first"))
			return
		}
		doc, _, err := shelf.Revision(c.Request.Context(), studio, id, to.N)
		if errors.Is(err, store.ErrNotFound) {
			a.Refuse(c, errors.New("that version is not there"))
			return
		}
		if err != nil {
			a.Fail(c, err)
			return
		}
		ch := store.Change{Says: fmt.Sprintf("Restore version %d", to.N), By: Who(c).Teacher.ID}
		if ch.Doc, err = a.reseal(kind, doc); err != nil {
			a.Refuse(c, fmt.Errorf("that version cannot be read: %w. Nothing was changed", err))
			return
		}
		_, err = shelf.Save(c.Request.Context(), studio, id, d.Rev, ch)
		var conflict *store.Conflict
		switch {
		case errors.As(err, &conflict):
			a.Problem(c, http.StatusConflict, "Somebody else changed this at the same moment. Nothing was restored; look at it again, then restore.")
		case err != nil:
			a.FailSave(c, err)
		default:
			c.Redirect(http.StatusSeeOther, "/"+kind+"/"+id)
		}
	}
}

// reseal checks a document of the history as it would be stored again.
func (a *Kit) reseal(kind string, doc []byte) (plan.Sealed, error) {
	if kind == "series" {
		s, err := plan.ReadSeries(doc, a.Lib)
		if err != nil {
			return plan.Sealed{}, err
		}
		ch, err := plan.ApplySeries(&plan.Series{}, a.Lib, &plan.BecomeSeries{Series: s})
		return ch.Sealed, err
	}
	s, err := plan.ReadSession(doc, a.Lib)
	if err != nil {
		return plan.Sealed{}, err
	}
	ch, err := plan.New(a.Lib, &plan.Become{Session: s})
	return ch.Sealed, err
}

// FailSave answers where a checked document could not be stored.
func (a *Kit) FailSave(c *gin.Context, err error) {
	var gone *store.GoneError
	if errors.As(err, &gone) {
		a.Refuse(c, fmt.Errorf("%w: choose another in its place. Nothing was changed", gone))
		return
	}
	a.Fail(c, err)
}

// ArchivedView are the documents of one kind that were taken out of its list.
type ArchivedView struct {
	Kind string // "sessions" or "series", as in its address
	List []store.Document
}

// Archived lists the archived documents of a kind.
func (a *Kit) Archived(c *gin.Context, kind string) (v ArchivedView, err error) {
	v.Kind = kind
	v.List, err = a.shelfOf(kind).Archived(c.Request.Context(), Who(c).Studio.ID)
	return v, err
}

// Archive takes a document out of its list.
func Archive(kind string) func(*Kit, *gin.Context) {
	return func(a *Kit, c *gin.Context) {
		toList(a, c, kind, a.shelfOf(kind).Archive(c.Request.Context(), Who(c).Studio.ID, c.Param("id")))
	}
}

// Unarchive brings it back.
func Unarchive(kind string) func(*Kit, *gin.Context) {
	return func(a *Kit, c *gin.Context) {
		toList(a, c, kind, a.shelfOf(kind).Unarchive(c.Request.Context(), Who(c).Studio.ID, c.Param("id")))
	}
}

func toList(a *Kit, c *gin.Context, kind string, err error) {
	if err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/"+kind)
}
