package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"

	"github.com/gin-gonic/gin"

	"wavekine/core/edit"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/store"
)

// Everything that changes a stored session is a command on the document that was read, checked by plan.Apply and
// saved on the revision it was made on.

// command makes the command that a form means, with what the form only names: a piece, a mend.
func (a *app) command(c *gin.Context, cl *class, f url.Values) (plan.Command, error) {
	cmd, ok := edit.Session(f.Get("op"))
	if !ok {
		return nil, errUnknown
	}
	if err := decode(f, cmd); err != nil {
		return nil, err
	}
	var err error
	switch cmd := cmd.(type) {
	case *plan.InsertPiece:
		cmd.Sections, err = a.sectionsOf(c, cmd.Piece)
	case *review.Take:
		if err := a.workOut(c, cl); err != nil {
			return nil, trouble{err}
		}
		cmd.Findings = cl.Findings
	case *review.Fit:
		cmd.Limits = who(c).House.Limits
	case *review.Order:
		cmd.Limits = who(c).House.Limits
	}
	return cmd, err
}

// trouble is the product's own: the database does not answer, a page is gone. Every other error of a change is
// one that whoever made it can put right.
type trouble struct{ error }

func (e trouble) Unwrap() error { return e.error }

// failEdit answers a change that was not made.
func (a *app) failEdit(c *gin.Context, err error) {
	var ours trouble
	if errors.As(err, &ours) {
		a.fail(c, ours.error)
		return
	}
	a.refuse(c, err)
}

// errUnknown is said where a page asks for what this version does not know.
var errUnknown = errors.New("that did not work: reload the page and try again")

// stored makes a change of the history out of a checked one.
func stored(c *gin.Context, ch plan.Changed) store.Change {
	return store.Change{Doc: ch.Sealed, Says: ch.Says, By: who(c).Teacher.ID}
}

// shelfOf is where a kind of document is kept, by the first part of its address.
func (a *app) shelfOf(kind string) *store.Shelf {
	if kind == "series" {
		return a.store.Series
	}
	return a.store.Sessions
}

// unreadable is a document that cannot be read: made by a newer version, or by hand. It is one line in its list,
// with its history and export; nothing else stops because of it.
type unreadable struct {
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

// unreadableError is a document that was found but not read.
type unreadableError struct {
	kind string
	doc  store.Document
	err  error
}

func (e *unreadableError) Error() string { return fmt.Sprintf("%s %s: %v", e.kind, e.doc.ID, e.err) }
func (e *unreadableError) Unwrap() error { return e.err }

// line is the document in its list.
func (e *unreadableError) line() unreadable {
	return unreadable{Kind: e.kind, ID: e.doc.ID, Title: e.doc.Title, Rev: e.doc.Rev, Says: e.err.Error()}
}

// aside takes an unreadable document out of the way of a list; any other error stays.
func aside(err error, list *[]unreadable) error {
	var u *unreadableError
	if !errors.As(err, &u) {
		return err
	}
	*list = append(*list, u.line())
	return nil
}

// pastShown is how many revisions of an unreadable document are listed.
const pastShown = 60

// showUnreadable answers for a document that cannot be read: why, what it was before, and the file as it is.
func (a *app) showUnreadable(c *gin.Context, e *unreadableError) {
	v := e.line()
	shelf := a.shelfOf(e.kind)
	past, err := shelf.History(c, who(c).Studio.ID, e.doc.ID, pastShown)
	if err != nil {
		a.fail(c, err)
		return
	}
	for _, r := range past {
		doc, _, err := shelf.Revision(c, who(c).Studio.ID, e.doc.ID, r.Rev)
		if err != nil {
			a.fail(c, err)
			return
		}
		_, rerr := a.reseal(e.kind, doc)
		v.Revisions = append(v.Revisions, pastRevision{r, rerr == nil})
	}
	nav := "Sessions"
	if e.kind == "series" {
		nav = "Series"
	}
	if isPart(c) {
		a.problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%s cannot be read: %s. Reload the page: its history is there.", v.Title, v.Says))
		return
	}
	a.render(c, http.StatusUnprocessableEntity, "unreadable", "layout", page{Title: v.Title, Nav: nav, Who: who(c), Theme: "paper", Data: v})
}

// rawDocument gives a document as it is stored, readable or not.
func rawDocument(kind string) func(*app, *gin.Context) {
	return func(a *app, c *gin.Context) {
		d, err := a.shelfOf(kind).Get(c, who(c).Studio.ID, c.Param("id"))
		if err != nil {
			a.fail(c, err)
			return
		}
		attach(c, fileName(d.Title, "json"), "application/json", append(d.Doc, '\n'))
	}
}

// restore gives a document back as it was at a revision; that is a change like any other and can be undone. What
// is in force need not be readable for that.
func restore(kind string) func(*app, *gin.Context) {
	return func(a *app, c *gin.Context) {
		shelf := a.shelfOf(kind)
		studio, id := who(c).Studio.ID, c.Param("id")
		d, err := shelf.Get(c, studio, id)
		if err != nil {
			a.fail(c, err)
			return
		}
		var to plan.Number
		if err := to.UnmarshalText([]byte(c.PostForm("to"))); err != nil || to.N < 1 {
			a.refuse(c, errors.New("choose a version first"))
			return
		}
		doc, _, err := shelf.Revision(c, studio, id, to.N)
		if errors.Is(err, store.ErrNotFound) {
			a.refuse(c, errors.New("that version is not there"))
			return
		}
		if err != nil {
			a.fail(c, err)
			return
		}
		ch := store.Change{Says: fmt.Sprintf("Restore version %d", to.N), By: who(c).Teacher.ID}
		if ch.Doc, err = a.reseal(kind, doc); err != nil {
			a.refuse(c, fmt.Errorf("that version cannot be read: %w. Nothing was changed", err))
			return
		}
		_, err = shelf.Save(c, studio, id, d.Rev, ch)
		var conflict *store.Conflict
		switch {
		case errors.As(err, &conflict):
			a.problem(c, http.StatusConflict, "Somebody else changed this at the same moment. Nothing was restored; look at it again, then restore.")
		case err != nil:
			a.failSave(c, err)
		default:
			c.Redirect(http.StatusSeeOther, "/"+kind+"/"+id)
		}
	}
}

// reseal checks a document of the history as it would be stored again.
func (a *app) reseal(kind string, doc []byte) (plan.Sealed, error) {
	if kind == "series" {
		s, err := plan.ReadSeries(doc, a.lib)
		if err != nil {
			return plan.Sealed{}, err
		}
		ch, err := plan.ApplySeries(&plan.Series{}, a.lib, &plan.BecomeSeries{Series: s})
		return ch.Sealed, err
	}
	s, err := plan.ReadSession(doc, a.lib)
	if err != nil {
		return plan.Sealed{}, err
	}
	ch, err := plan.New(a.lib, &plan.Become{Session: s})
	return ch.Sealed, err
}

// failSave answers where a checked document could not be stored.
func (a *app) failSave(c *gin.Context, err error) {
	var gone *store.GoneError
	if errors.As(err, &gone) {
		a.refuse(c, fmt.Errorf("%w: choose another in its place. Nothing was changed", gone))
		return
	}
	a.fail(c, err)
}
