package series

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"wavekine/core/board"
	"wavekine/core/brief"
	"wavekine/core/edit"
	"wavekine/core/lay"
	"wavekine/core/plan"
	"wavekine/store"
	"wavekine/web/kit"
)

func storedSeries(c *gin.Context, ch plan.ChangedSeries) store.Change {
	return store.Change{Doc: ch.Sealed, Says: ch.Says, By: kit.Who(c).Teacher.ID}
}

func newSeries(a *kit.Kit, c *gin.Context) {
	cmd := &plan.NewSeries{}
	err := kit.Decode(c.Request.PostForm, cmd)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	makeSeries(a, c, cmd)
}

// makeSeries keeps the series that a command makes out of nothing, and goes to it.
func makeSeries(a *kit.Kit, c *gin.Context, cmd plan.SeriesCommand) {
	ch, err := plan.ApplySeries(&plan.Series{}, a.Lib, cmd)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	id := store.NewID()
	if err := a.Store.Series.Create(c.Request.Context(), kit.Who(c).Studio.ID, id, storedSeries(c, ch)); err != nil {
		a.FailSave(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/series/"+id)
}

// changedSeries does what a form asks on a copy. Undo and redo give the state of the history they return to.
func changedSeries(a *kit.Kit, c *gin.Context, id string, s *plan.Series, f url.Values) (ch plan.ChangedSeries, step store.Step, err error) {
	op, studio := f.Get("op"), kit.Who(c).Studio.ID
	if op == "undo" || op == "redo" {
		find, word := a.Store.Series.Undo, "Undo: "
		if op == "redo" {
			find, word = a.Store.Series.Redo, "Redo: "
		}
		step, err = find(c.Request.Context(), studio, id)
		if errors.Is(err, store.ErrNotFound) {
			return ch, step, errors.New("nothing to " + op)
		}
		if err != nil {
			return ch, step, kit.Trouble(err)
		}
		was, err := plan.ReadSeries(step.Doc, a.Lib)
		if err != nil {
			return ch, step, fmt.Errorf("the version before cannot be read: %w", err)
		}
		ch, err = plan.ApplySeries(s, a.Lib, &plan.BecomeSeries{Series: was, Says: word + step.Says})
		return ch, step, err
	}
	cmd, ok := edit.Series(op)
	if !ok {
		return ch, step, kit.ErrUnknown
	}
	if err := kit.Decode(f, cmd); err != nil {
		return ch, step, err
	}
	if set, is := cmd.(*plan.SetDay); is {
		doc, err := a.Store.Sessions.Get(c.Request.Context(), studio, set.Session)
		if errors.Is(err, store.ErrNotFound) {
			return ch, step, errors.New("choose a session")
		}
		if err != nil {
			return ch, step, kit.Trouble(err)
		}
		set.Session, set.Title = doc.ID, doc.Title
	}
	if take, is := cmd.(*board.TakeWeek); is {
		if take.From, take.Week, err = otherSeries(a, c, take.Of); err != nil {
			return ch, step, err
		}
	}
	if needs, is := cmd.(board.Needs); is {
		w, err := withOf(a, c, s)
		if err != nil {
			return ch, step, kit.Trouble(err)
		}
		needs.Give(w)
	}
	if s.Zone == "" {
		s.Zone = kit.Who(c).Studio.Zone
	}
	ch, err = plan.ApplySeries(s, a.Lib, cmd)
	return ch, step, err
}

// withOf is what the commands of the board need: the sessions that days name, those to lay from, the house's limits.
func withOf(a *kit.Kit, c *gin.Context, s *plan.Series) (w board.With, err error) {
	w = board.With{Limits: kit.Who(c).House.Limits, Within: kit.Bounded(c)}
	if w.Pieces, err = pieces(a, c); err != nil {
		return w, err
	}
	if w.Kept, err = a.KeptSessions(c, kit.Refs(s)); err != nil {
		return w, err
	}
	if b, err := lay.BriefOf(a.Lib, s); err == nil {
		if w.Own, err = material(a, c, b.From); err != nil {
			return w, err
		}
	}
	return w, nil
}

// pieces are the studio's templates; one that cannot be read is left out, which the House screen says.
func pieces(a *kit.Kit, c *gin.Context) (out []lay.Piece, err error) {
	ts, err := a.Store.Templates(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		return nil, err
	}
	for _, t := range ts {
		if s, err := plan.ReadSession(t.Doc, a.Lib); err == nil {
			out = append(out, lay.Piece{Title: t.Title, Class: s})
		}
	}
	return out, nil
}

// mostMaterial is from how many sessions a series is laid, the last changed or the last taught; judgement.
const mostMaterial = 40

// material are the sessions that a brief asks to lay: the studio's, or those that were taught last, that first.
func material(a *kit.Kit, c *gin.Context, from brief.Source) (out []lay.Kept, err error) {
	ctx, studio := c.Request.Context(), kit.Who(c).Studio.ID
	var docs []store.Document
	switch from {
	case brief.FromSessions:
		if docs, err = a.Store.Sessions.List(ctx, studio); err != nil {
			return nil, err
		}
	case brief.FromTaught:
		runs, err := a.Store.Runs(ctx, studio, 4*mostMaterial)
		if err != nil {
			return nil, err
		}
		var ids []string
		for _, r := range runs {
			if r.PlanID != "" && !slices.Contains(ids, r.PlanID) {
				ids = append(ids, r.PlanID)
			}
		}
		byID, err := a.Store.Sessions.ByID(ctx, studio, ids)
		if err != nil {
			return nil, err
		}
		for _, id := range ids {
			if d, ok := byID[id]; ok {
				docs = append(docs, d)
			}
		}
	}
	for _, d := range docs[:min(len(docs), mostMaterial)] {
		if k, ok := a.KeptOf(d); ok {
			out = append(out, k)
		}
	}
	return out, nil
}

func editSeries(a *kit.Kit, c *gin.Context) {
	f := c.Request.PostForm
	d, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	rev, err := strconv.Atoi(f.Get("rev"))
	if err != nil {
		a.Refuse(c, kit.ErrUnknown)
		return
	}
	stale := func() {
		a.Problem(c, http.StatusConflict, "Somebody else changed this series meanwhile. Nothing of yours was saved; reload to see theirs, then make your change again.")
	}
	if rev != d.Rev {
		stale()
		return
	}
	ch, step, err := changedSeries(a, c, d.ID, s, f)
	if err != nil {
		a.FailEdit(c, err)
		return
	}
	now, err := a.Store.Series.SaveStep(c.Request.Context(), kit.Who(c).Studio.ID, d.ID, rev, step, storedSeries(c, ch))
	var conflict *store.Conflict
	if errors.As(err, &conflict) {
		stale()
		return
	}
	if err != nil {
		a.FailSave(c, err)
		return
	}
	d.Rev = now.Rev
	v, err := viewSeries(a, c, d, ch.Series)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "series", "days", v)
}
