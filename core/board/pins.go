package board

import (
	"errors"
	"fmt"
	"slices"

	"wavekine/core/brief"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Pin pins a day, its theme or kind, a row of it, or a movement on all its days; or takes the pin out.
type Pin struct {
	With
	What     string      `form:"what"` // day, theme, kind, row or thread
	Day      plan.Number `form:"day,parser=encoding.TextUnmarshaler"`
	Movement string      `form:"movement"`
	Off      string      `form:"off"` // "on": the pin is taken out
}

// Do pins it.
func (c *Pin) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	on, word := c.Off != "on", "Pin"
	if !on {
		word = "Take the pin out of"
	}
	slug := movement.BaseSlug(c.Movement)
	if c.What == "thread" {
		i := slices.IndexFunc(s.Ladders, func(l plan.Ladder) bool { return slices.Contains(l.Movements(), slug) })
		if i < 0 {
			return plan.Done{}, errors.New("that movement has no row of its own on the board: pin it day by day")
		}
		s.Ladders = slices.Clone(s.Ladders)
		s.Ladders[i].Pinned = on
		return plan.Done{Says: word + " " + nameOf(lib, slug)}, nil
	}
	i, err := dayAt(s, c.Day)
	if err != nil {
		return plan.Done{}, err
	}
	d := &s.Days[i]
	switch c.What {
	case "day":
		if on && d.Empty() {
			return plan.Done{}, fmt.Errorf("day %d has nothing on it to pin", i+1)
		}
		d.Pin.Day = on
	case "theme":
		if on && d.Theme == "" {
			return plan.Done{}, fmt.Errorf("day %d has no theme to pin", i+1)
		}
		d.Pin.Theme = on
	case "kind":
		d.Pin.Kind = on
	case "row":
		if on {
			if _, err := known(lib, slug); err != nil {
				return plan.Done{}, err
			}
			if !has(c.class(d), slug) {
				return plan.Done{}, fmt.Errorf("day %d does not have %s", i+1, nameOf(lib, slug))
			}
			if d.Ref != "" {
				if _, err := c.own(s, i); err != nil {
					return plan.Done{}, err
				}
			}
		}
		d.Pinned = slices.DeleteFunc(slices.Clone(d.Pinned), func(p string) bool { return movement.BaseSlug(p) == slug })
		if on {
			d.Pinned = append(d.Pinned, slug)
		}
		if len(d.Pinned) == 0 {
			d.Pinned = nil
		}
		return plan.Done{Says: fmt.Sprintf("%s %s on day %d", word, nameOf(lib, slug), i+1)}, nil
	default:
		return plan.Done{}, fmt.Errorf("%q: expected day, theme, kind, row or thread", c.What)
	}
	if c.What == "day" {
		return plan.Done{Says: fmt.Sprintf("%s day %d", word, i+1)}, nil
	}
	return plan.Done{Says: fmt.Sprintf("%s the %s of day %d", word, c.What, i+1)}, nil
}

// LayDay lays one day again around what is pinned, and what that breaks; see lay.Again.
type LayDay struct {
	With
	Day  plan.Number `form:"day,parser=encoding.TextUnmarshaler"`
	Seed plan.Number `form:"seed,parser=encoding.TextUnmarshaler"`
}

// Do lays it.
func (c *LayDay) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	i, err := dayAt(s, c.Day)
	if err != nil {
		return plan.Done{}, err
	}
	if s.Days[i].Ref != "" && s.Days[i].Session == nil {
		if _, err := c.own(s, i); err != nil {
			return plan.Done{}, err
		}
	}
	next, touched, could, err := lay.Again(c.ctx(), lib, s, i+1, c.options(max(0, c.Seed.Or(s.Seed))))
	if err != nil {
		return plan.Done{}, err
	}
	*s = *next
	says := fmt.Sprintf("Lay day %d again", i+1)
	if len(touched) > 1 {
		says += fmt.Sprintf(", which changes %s", saidDays(touched))
	}
	for _, w := range could {
		says += "; " + w
	}
	return plan.Done{Says: says}, nil
}

// Lay lays the series again, from its brief or from another, around all that is pinned.
type Lay struct {
	With
	Brief string      `form:"brief"` // nothing: the one that it has
	Seed  plan.Number `form:"seed,parser=encoding.TextUnmarshaler"`

	Progress func(day, of int) `form:"-"`
}

// Do lays it.
func (c *Lay) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	words := c.Brief
	if words == "" {
		words = s.Brief
	}
	if words == "" {
		return plan.Done{}, lay.ErrNoBrief
	}
	b, err := brief.Parse(words, lib, s.Start)
	if err != nil {
		return plan.Done{}, err
	}
	if b.Start.IsZero() || c.Brief == "" {
		b.Start = s.Start
	}
	seed := max(0, c.Seed.Or(s.Seed+1))
	o := c.options(seed)
	o.Keep, o.Progress = s, c.Progress
	laid, err := lay.Series(c.ctx(), lib, b, o)
	if err != nil {
		return plan.Done{}, err
	}
	doc, err := laid.Document(lib, s.Start, seed)
	if err != nil {
		return plan.Done{}, err
	}
	doc.Note = plan.Joined(laid.CouldNot)
	*s = *doc
	return plan.Done{Says: "Lay the rest again, another way"}, nil
}
