// Package board is what can be done to a series on its board: its days moved, put in and taken out, its movements painted along the days, added as
// they are said and taken away, pinned, and laid again around what is pinned. Every command is a plan.SeriesCommand and goes the one way.
package board

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
)

// With is what a command needs that is not in the document; whoever makes the command gives it.
type With struct {
	Kept   map[string]lay.Kept `form:"-"` // the sessions that days name
	Own    []lay.Kept          `form:"-"` // the studio's sessions, or what was taught last, that first: to be laid where that is asked
	Pieces []lay.Piece         `form:"-"` // that the studio keeps
	Limits review.Limits       `form:"-"` // of the house
	Within context.Context     `form:"-"` // ends what takes long; nil: nothing does
}

// Give takes what a command needs.
func (w *With) Give(o With) { *w = o }

// Needs is a command that needs more than the document.
type Needs interface{ Give(w With) }

func (w *With) ctx() context.Context {
	if w.Within == nil {
		return context.Background()
	}
	return w.Within
}

func (w *With) options(seed int) lay.Options {
	return lay.Options{Seed: uint64(seed), Limits: w.Limits, Material: w.Own, Pieces: w.Pieces}
}

// Scope is on which days an edit is done.
type Scope string

// The scopes.
const (
	ThisDay   Scope = ""      // on the day alone
	FromHere  Scope = "from"  // and on all later days that have the row
	EveryDay  Scope = "every" // on all days that have it
	WholeSpan Scope = "span"  // from one day to another: painted along the row

)

// dayAt is a day by its number, from 1.
func dayAt(s *plan.Series, n plan.Number) (int, error) {
	if n.N < 1 || n.N > len(s.Days) {
		return 0, fmt.Errorf("day %d: expected 1 to %d", n.N, len(s.Days))
	}
	return n.N - 1, nil
}

// own gives a day a class of its own that can be changed: a copy of the one it has, or of the kept session that it names.
func (w *With) own(s *plan.Series, i int) (*plan.Session, error) {
	d := &s.Days[i]
	switch {
	case d.Session != nil:
		d.Session = d.Session.Clone()
	case d.Ref != "":
		k, ok := w.Kept[d.Ref]
		if !ok || k.Session == nil {
			return nil, fmt.Errorf("day %d: its session is gone", i+1)
		}
		d.Session, d.Ref, d.From = k.Session.Clone(), "", plan.Made{Session: k.ID, Rev: k.Rev}
		if d.Title == "" {
			d.Title = k.Session.Title
		}
	case d.Rest:
		return nil, fmt.Errorf("day %d is a rest day", i+1)
	default:
		return nil, fmt.Errorf("day %d has no class yet", i+1)
	}
	return d.Session, nil
}

// class is the class of a day as it is, nil where there is none.
func (w *With) class(d *plan.Day) *plan.Session {
	if d.Session != nil {
		return d.Session
	}
	if k, ok := w.Kept[d.Ref]; ok && d.Ref != "" {
		return k.Session
	}
	return nil
}

// has tells whether a class has a movement.
func has(s *plan.Session, slug string) (found bool) {
	if s == nil {
		return false
	}
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) { found = found || isOf(r, slug) })
	return found
}

func isOf(r *plan.Row, slug string) bool {
	return !r.IsRest() && r.Inline == nil && movement.BaseSlug(r.Movement) == slug
}

// nameOf is a movement's name, its slug where it is gone.
func nameOf(lib *movement.Library, slug string) string {
	if m, ok := lib.Get(slug); ok {
		return m.Name
	}
	return slug
}

var errNoMovement = errors.New("which movement?")

// known reads a movement's slug.
func known(lib *movement.Library, slug string) (*movement.Movement, error) {
	if strings.TrimSpace(slug) == "" {
		return nil, errNoMovement
	}
	m, ok := lib.Get(slug)
	if !ok {
		return nil, fmt.Errorf("no movement %q in the library", slug)
	}
	return m, nil
}

// Change is what a command does to a day, for its preview.
type Change struct {
	Day  int // of the series after it; of the one before where the day is gone
	Gone bool
	New  bool
	Says []string // "Bird dog: 8 each side, now level 2, 6 each side"
}

// Diff lists the days on which two states of a series differ, with their rows in words. Days are compared by their numbers.
func Diff(was, now *plan.Series, lib *movement.Library) (out []Change) {
	for i := range max(len(was.Days), len(now.Days)) {
		c := Change{Day: i + 1}
		switch {
		case i >= len(now.Days):
			c.Gone, c.Says = true, []string{"the day is gone"}
		case i >= len(was.Days):
			c.New, c.Says = true, []string{"a new day"}
		default:
			c.Says = dayDiff(&was.Days[i], &now.Days[i], lib)
		}
		if len(c.Says) > 0 {
			out = append(out, c)
		}
	}
	return out
}

// dayDiff says how two days differ.
func dayDiff(a, b *plan.Day, lib *movement.Library) (out []string) {
	kind := func(d *plan.Day) string {
		switch {
		case d.Rest:
			return "rest"
		case d.Peak:
			return "the peak"
		case d.Empty():
			return "no class"
		case d.Kind == "":
			return "a class"
		}
		return d.Kind
	}
	if x, y := kind(a), kind(b); x != y {
		out = append(out, fmt.Sprintf("%s, was %s", y, x))
	}
	if a.Theme != b.Theme {
		out = append(out, fmt.Sprintf("theme %s, was %s", orNone(b.Theme), orNone(a.Theme)))
	}
	if a.Ref != b.Ref {
		out = append(out, "another kept session")
	}
	if a.Pin != b.Pin || !slices.Equal(a.Pinned, b.Pinned) {
		out = append(out, "pins")
	}
	if a.Session != nil && b.Session != nil && a.Session.Style.First != b.Session.Style.First {
		out = append(out, "begins on the other side by turns")
	}
	x, y := rowsOf(a.Session, lib), rowsOf(b.Session, lib)
	for _, r := range y {
		i := slices.IndexFunc(x, func(o rowSaid) bool { return o.name == r.name })
		switch {
		case i < 0:
			out = append(out, strings.TrimSpace(fmt.Sprintf("with %s %s", r.name, r.dose)))
		case x[i].dose != r.dose:
			out = append(out, fmt.Sprintf("%s: %s, was %s", r.name, orNone(r.dose), orNone(x[i].dose)))
		}
		if i >= 0 {
			if besides := r.besides(x[i]); len(besides) > 0 {
				out = append(out, r.name+": "+strings.Join(besides, ", "))
			}
			x = slices.Delete(x, i, i+1)
		}
	}
	for _, r := range x {
		out = append(out, "without "+r.name)
	}
	return out
}

func orNone(s string) string {
	if s == "" {
		return "none"
	}
	return s
}

type rowSaid struct {
	name, dose string
	more       []string // what else stands in the row
}

// besides says what else stands in a row now, or does no more.
func (r rowSaid) besides(was rowSaid) (out []string) {
	for _, m := range r.more {
		if !slices.Contains(was.more, m) {
			out = append(out, "now "+m)
		}
	}
	for _, m := range was.more {
		if !slices.Contains(r.more, m) {
			out = append(out, "no more "+m)
		}
	}
	return out
}

func rowsOf(s *plan.Session, lib *movement.Library) (out []rowSaid) {
	if s == nil {
		return nil
	}
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		said := r.Dose.String()
		name := r.Name()
		if m, ok := lib.Get(r.Movement); ok {
			name = m.Name
			if len(m.Levels) > 1 {
				said = strings.TrimSuffix(fmt.Sprintf("level %d, %s", max(1, r.Level), said), ", ")
			}
		}
		row := rowSaid{name: name, dose: said}
		if r.Sides == movement.RightOnly || r.Sides == movement.LeftOnly {
			row.more = append(row.more, "sides "+r.Sides.String())
		}
		row.more = append(row.more, plan.SplitClauses(r.Words(nil))...)
		out = append(out, row)
	})
	return out
}
