package review

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/solve"
	"wavekine/core/timeline"
)

// ErrNoTarget says that a session has no length to be fitted to.
var ErrNoTarget = errors.New("say first how long it should be: the field stands beside the clock")

// ErrGone says that a finding is not there any more.
var ErrGone = errors.New("that finding is not there any more")

// FitTo brings a session to a length (see solve.Fit) within a house's ranges, and without a finding that stops that
// was not there before.
func FitTo(ctx context.Context, s *plan.Session, lib *movement.Library, target clock.Span, lim Limits) (*solve.Fitted, error) {
	l := &look{s: s, lib: lib, lim: lim, within: ctx}
	var err error
	if l.tl, err = timeline.Build(s, lib); err != nil {
		return nil, err
	}
	return solve.Fit(ctx, s, lib, target, solve.Terms{House: l.house(), Stops: l.stopsBrought})
}

// OrderOf puts a session in its best order (see solve.Order). A section in which that would bring a finding that stops
// keeps its order, which the answer says.
func OrderOf(ctx context.Context, s *plan.Session, lib *movement.Library, lim Limits) (*solve.Ordered, error) {
	l := &look{s: s, lib: lib, lim: lim, within: ctx}
	var err error
	if l.tl, err = timeline.Build(s, lib); err != nil {
		return nil, err
	}
	var keep []int
	var kept []solve.Left
	for {
		if err := ended(ctx); err != nil {
			return nil, err
		}
		o, err := solve.OrderTimed(ctx, s, l.tl, lib, solve.Thorough, keep...)
		if err != nil {
			return nil, err
		}
		o.Left = append(o.Left, kept...)
		tl, err := timeline.Build(o.Session, lib)
		if err != nil {
			return nil, err
		}
		bad := l.stopsBrought(o.Session, tl)
		at := slices.IndexFunc(bad, func(p plan.Path) bool { return p.Section > 0 && !slices.Contains(keep, p.Section) })
		if at < 0 {
			return o, nil
		}
		n := bad[at].Section
		keep = append(keep, n)
		kept = append(kept, solve.Left{Section: n, Says: fmt.Sprintf("%q was left as it is: another order would bring something past its limit.", s.Sections[n-1].Title)})
	}
}

// Fit fits a session to the length it promises. Whoever makes the command gives the limits of the house.
type Fit struct {
	Limits Limits          `form:"-"`
	Within context.Context `form:"-"` // ends the search; nil: nothing does
}

// orForever is a context that may be nil.
func orForever(ctx context.Context) context.Context {
	if ctx == nil {
		return context.Background()
	}
	return ctx
}

// Do fits it.
func (c *Fit) Do(s *plan.Session, lib *movement.Library) (plan.Done, error) {
	if s.Target == 0 {
		return plan.Done{}, ErrNoTarget
	}
	f, err := FitTo(orForever(c.Within), s, lib, s.ToMove(), c.Limits)
	if err != nil {
		return plan.Done{}, err
	}
	says := "Fit to " + s.Target.String()
	*s = *f.Session
	return plan.Done{Says: says}, nil
}

// Cut drops whole rows, chains and rounds of a session until it is not longer than a time; see solve.CutTo.
type Cut struct {
	To     plan.Length     `form:"to,parser=encoding.TextUnmarshaler"`
	Within context.Context `form:"-"` // ends the search; nil: nothing does
}

// Do cuts it.
func (c *Cut) Do(s *plan.Session, lib *movement.Library) (plan.Done, error) {
	if c.To.Span == 0 {
		return plan.Done{}, errors.New("say how long it may be, as in 5:00")
	}
	cut, err := solve.CutTo(orForever(c.Within), s, lib, c.To.Span)
	if err != nil {
		return plan.Done{}, err
	}
	*s = *cut.Session
	return plan.Done{Says: "Cut to " + c.To.String()}, nil
}

// Order puts a session's rows in the order that changes position least. Whoever makes the command gives the limits of
// the house.
type Order struct {
	Limits Limits          `form:"-"`
	Within context.Context `form:"-"` // ends the search; nil: nothing does
}

// Do puts them so.
func (c *Order) Do(s *plan.Session, lib *movement.Library) (plan.Done, error) {
	o, err := OrderOf(orForever(c.Within), s, lib, c.Limits)
	if err != nil {
		return plan.Done{}, err
	}
	*s = *o.Session
	return plan.Done{Says: "Best order"}, nil
}

// Take takes a mend of a finding by its id. Whoever makes the command gives the findings of the session.
type Take struct {
	ID       string    `form:"mend"`
	Findings []Finding `form:"-"`
}

// Do makes the mend's change.
func (c *Take) Do(s *plan.Session, lib *movement.Library) (plan.Done, error) {
	f, m, ok := Find(c.Findings, c.ID)
	if !ok {
		return plan.Done{}, ErrGone
	}
	done, err := m.Do(s, lib)
	if s.Row(f.Row) != nil {
		done.At = f.Row
	}
	return done, err
}
