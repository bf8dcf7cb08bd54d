package kit

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/board"
	"wavekine/core/lay"
	"wavekine/core/plan"
	"wavekine/store"
)

// A day's class of a series has an address as a kept session has, so that it is opened, led, printed and handed out the same way: the series and the
// number of the day, as in "four-weeks.9". No id of a document has a dot.

// DayID is the address of the class of a day of a series, from 1.
func DayID(series string, day int) string { return series + "." + strconv.Itoa(day) }

// SplitDayID takes it apart; ok is false where it is no address of a day.
func SplitDayID(id string) (series string, day int, ok bool) {
	i := strings.LastIndexByte(id, '.')
	if i < 0 {
		return "", 0, false
	}
	day, err := strconv.Atoi(id[i+1:])
	return id[:i], day, err == nil && day > 0 && strconv.Itoa(day) == id[i+1:]
}

// noClassError says that a day has no class: it rests, or it is gone.
type noClassError struct{ says string }

func (e noClassError) Error() string { return e.says }

// dayClass finds the class of a day, as it would be edited.
func (a *Kit) dayClass(c *gin.Context, series string, day int) (*Class, error) {
	d, err := a.Store.Series.Get(c.Request.Context(), Who(c).Studio.ID, series)
	if err != nil {
		return nil, err
	}
	s, err := a.SeriesOf(d)
	if err != nil {
		return nil, err
	}
	return a.ClassOfDay(c, d, s, day)
}

// ClassOfDay is the class of a day of a series that was read, from 1; it is not worked out. Where there can be none, Fail says why.
func (a *Kit) ClassOfDay(c *gin.Context, d store.Document, s *plan.Series, day int) (*Class, error) {
	if day > len(s.Days) {
		return nil, noClassError{fmt.Sprintf("%s has no day %d any more", s.Title, day)}
	}
	kept := map[string]lay.Kept{}
	if ref := s.Days[day-1].Ref; ref != "" {
		var err error
		if kept, err = a.KeptSessions(c, []string{ref}); err != nil {
			return nil, err
		}
	}
	p, err := board.ClassOf(s, day, board.With{Kept: kept}, Who(c).House.Style)
	if err != nil {
		return nil, noClassError{err.Error()}
	}
	return &Class{ID: DayID(d.ID, day), Day: day, Series: s, Doc: d, Plan: p, Lib: a.Lib}, nil
}

// KeptSessions are kept sessions as the board takes them; one that is gone or cannot be read is left out.
func (a *Kit) KeptSessions(c *gin.Context, ids []string) (map[string]lay.Kept, error) {
	docs, err := a.Store.Sessions.ByID(c.Request.Context(), Who(c).Studio.ID, ids)
	if err != nil {
		return nil, err
	}
	out := map[string]lay.Kept{}
	for id, d := range docs {
		if k, ok := a.KeptOf(d); ok {
			out[id] = k
		}
	}
	return out, nil
}

// KeptOf reads a kept session to be laid; ok is false where it cannot be read, which the list of sessions says.
func (a *Kit) KeptOf(d store.Document) (k lay.Kept, ok bool) {
	cl, err := a.Work(d)
	if err != nil {
		return k, false
	}
	return lay.Kept{ID: d.ID, Rev: d.Rev, Session: cl.Plan}, true
}

// Shelf is where a class is kept: a day's with its series.
func (a *Kit) Shelf(cl *Class) *store.Shelf {
	if cl.Day > 0 {
		return a.Store.Series
	}
	return a.Store.Sessions
}

// ThereIs tells whether the class of an address is kept, or was on a day of a series that is; store.ErrNotFound where it is not.
func (a *Kit) ThereIs(c *gin.Context, id string) error {
	shelf := a.Store.Sessions
	if series, _, ok := SplitDayID(id); ok {
		shelf, id = a.Store.Series, series
	}
	_, err := shelf.Get(c.Request.Context(), Who(c).Studio.ID, id)
	return err
}

// Changed is what a command makes of a class, checked.
type Changed struct {
	Plan   *plan.Session // nil: the day has no class any more
	Series *plan.Series  // of a day
	At     plan.Path     // the row that has the focus then
	Says   string
	Change store.Change
	Step   store.Step // the state of the history that it returns to; zero: a new one
}

// Do does a command on a class: a day's becomes the day's own.
func (a *Kit) Do(c *gin.Context, cl *Class, cmd plan.Command) (Changed, error) {
	if cl.Day == 0 {
		ch, err := plan.Apply(cl.Plan, a.Lib, cmd)
		return Changed{Plan: ch.Session, At: ch.At, Says: ch.Says, Change: Stored(c, ch)}, err
	}
	with, err := a.boardWith(c, cl.Series)
	if err != nil {
		return Changed{}, err
	}
	return a.OnSeries(c, cl, &board.EditClass{With: with, Day: plan.Number{Said: true, N: cl.Day}, Command: cmd, Style: Who(c).House.Style})
}

// OnSeries does a command on the series of a day's class.
func (a *Kit) OnSeries(c *gin.Context, cl *Class, cmd plan.SeriesCommand) (Changed, error) {
	ch, err := plan.ApplySeries(cl.Series, a.Lib, cmd)
	if err != nil {
		return Changed{}, err
	}
	out := Changed{Series: ch.Series, At: ch.At, Says: ch.Says, Change: store.Change{Doc: ch.Sealed, Says: ch.Says, By: Who(c).Teacher.ID}}
	if cl.Day <= len(ch.Series.Days) && !ch.Series.Days[cl.Day-1].Rest {
		now, err := a.ClassOfDay(c, cl.Doc, ch.Series, cl.Day)
		if err != nil {
			return out, err
		}
		out.Plan = now.Plan
	}
	return out, nil
}

// boardWith are the kept sessions that days of a series name.
func (a *Kit) boardWith(c *gin.Context, s *plan.Series) (board.With, error) {
	kept, err := a.KeptSessions(c, Refs(s))
	if err != nil {
		return board.With{}, Trouble(err)
	}
	return board.With{Kept: kept, Limits: Who(c).House.Limits, Within: Bounded(c)}, nil
}

// Back gives the state of the history that undo or redo returns to.
func (a *Kit) Back(c *gin.Context, cl *Class, redo bool) (Changed, error) {
	shelf, word, op := a.Shelf(cl), "Undo: ", "undo"
	find := shelf.Undo
	if redo {
		find, word, op = shelf.Redo, "Redo: ", "redo"
	}
	step, err := find(c.Request.Context(), Who(c).Studio.ID, cl.Doc.ID)
	if errors.Is(err, store.ErrNotFound) {
		return Changed{}, errors.New("nothing to " + op)
	}
	if err != nil {
		return Changed{}, Trouble(err)
	}
	var ch Changed
	if cl.Day > 0 {
		was, rerr := plan.ReadSeries(step.Doc, a.Lib)
		if rerr != nil {
			return ch, fmt.Errorf("the version before cannot be read: %w", rerr)
		}
		ch, err = a.OnSeries(c, cl, &plan.BecomeSeries{Series: was, Says: word + step.Says})
	} else {
		was, rerr := plan.ReadSession(step.Doc, a.Lib)
		if rerr != nil {
			return ch, fmt.Errorf("the version before cannot be read: %w", rerr)
		}
		ch, err = a.Do(c, cl, &plan.Become{Session: was, Says: word + step.Says})
	}
	ch.Step = step
	return ch, err
}

// Save stores a change of a class and gives the class as it is then, not worked out; *store.Conflict where somebody else was first.
func (a *Kit) Save(c *gin.Context, cl *Class, ch Changed) (*Class, error) {
	now, err := a.Shelf(cl).SaveStep(c.Request.Context(), Who(c).Studio.ID, cl.Doc.ID, cl.Doc.Rev, ch.Step, ch.Change)
	if err != nil {
		return nil, err
	}
	done := &Class{ID: cl.ID, Day: cl.Day, Series: ch.Series, Doc: cl.Doc, Plan: ch.Plan, Lib: a.Lib}
	done.Doc.Rev, done.Doc.Stamp = now.Rev, now.Stamp
	if cl.Day == 0 {
		a.KeepPlan(done.Doc, now, ch.Plan)
	}
	return done, nil
}

// Carry is what was changed last of a day's class, to be taken to other days; nil where nothing was.
func (a *Kit) Carry(c *gin.Context, cl *Class, scope string) (*board.Carry, error) {
	step, err := a.Store.Series.Undo(c.Request.Context(), Who(c).Studio.ID, cl.Doc.ID)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, Trouble(err)
	}
	was, err := plan.ReadSeries(step.Doc, a.Lib)
	if err != nil {
		return nil, nil // a state that cannot be read: there is nothing to tell by
	}
	with, err := a.boardWith(c, cl.Series)
	return &board.Carry{With: with, Day: plan.Number{Said: true, N: cl.Day}, Scope: board.Scope(scope), Was: was}, err
}

// Untouched tells whether a day's class is as it was at a revision of its series: then what was changed of other days meanwhile is nothing to it.
func (a *Kit) Untouched(c *gin.Context, cl *Class, rev int) bool {
	if cl.Day == 0 {
		return false
	}
	doc, _, err := a.Store.Series.Revision(c.Request.Context(), Who(c).Studio.ID, cl.Doc.ID, rev)
	if err != nil {
		return false
	}
	was, err := plan.ReadSeries(doc, a.Lib)
	if err != nil || len(was.Days) != len(cl.Series.Days) {
		return false
	}
	return board.SameDay(&was.Days[cl.Day-1], &cl.Series.Days[cl.Day-1])
}
