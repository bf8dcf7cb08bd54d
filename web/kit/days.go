package kit

import (
	"bytes"
	"fmt"
	"slices"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/plan"
	"wavekine/core/timeline"
	"wavekine/store"
)

// SeriesOf reads a stored series; an *unreadableError where that cannot be done.
func (a *Kit) SeriesOf(d store.Document) (*plan.Series, error) {
	s, err := plan.ReadSeries(d.Doc, a.Lib)
	if err != nil {
		return nil, &UnreadableError{"series", d, err}
	}
	return s, nil
}

// Refs lists the sessions a series names.
func Refs(s *plan.Series) (ids []string) {
	for _, d := range s.Days {
		if d.Ref != "" && !slices.Contains(ids, d.Ref) {
			ids = append(ids, d.Ref)
		}
	}
	return ids
}

// dayNumber is the day of a series, from 1, on which a session stands today; 0 when none does.
func (a *Kit) dayNumber(c *gin.Context, id string) int {
	today := a.Now(c)
	ds, err := a.Store.SeriesOn(c.Request.Context(), Who(c).Studio.ID, today, today)
	if err != nil {
		return 0
	}
	for _, d := range ds {
		s, err := plan.ReadSeries(d.Doc, a.Lib)
		if err != nil {
			continue
		}
		for i, day := range s.Days {
			if day.Ref == id && s.Date(i).Format(time.DateOnly) == today.Format(time.DateOnly) {
				return i + 1
			}
		}
	}
	return 0
}

// OnItsDay makes of a class what it is today: a first side that goes by the day is that of the day of the series it
// stands on, else of the day of the year. Leading it, its sheets and its exports all go by it.
func (a *Kit) OnItsDay(c *gin.Context, cl *Class) error {
	if cl.Plan.Style.First != plan.FirstByDay {
		return nil
	}
	if cl.Day > 0 {
		return a.OnDay(cl, cl.Day)
	}
	day := a.Now(c).YearDay()
	if n := a.dayNumber(c, cl.Doc.ID); n > 0 {
		day = n
	}
	return a.OnDay(cl, day)
}

// OnDay makes of a class what it is on a day of a series, from 1: a first side that goes by the day is settled.
func (a *Kit) OnDay(cl *Class, day int) error {
	settled := cl.Plan.ForDay(day)
	if settled == cl.Plan {
		return nil
	}
	tl, err := timeline.Build(settled, a.Lib)
	if err == nil {
		cl.Plan, cl.TL = settled, tl
	}
	return err
}

// DayOf says which day of which series a session stands on, nothing when it stands on none.
func (a *Kit) DayOf(c *gin.Context, id string) string {
	ds, err := a.Store.Series.List(c.Request.Context(), Who(c).Studio.ID)
	if err != nil {
		return ""
	}
	for _, d := range ds {
		s, err := plan.ReadSeries(d.Doc, a.Lib)
		if err != nil {
			continue
		}
		for i, day := range s.Days {
			if day.Ref == id {
				return fmt.Sprintf("Day %d of %d, %s, %s", i+1, len(s.Days), s.Title, s.Date(i).Format("Mon 2 Jan"))
			}
		}
	}
	return ""
}

// Knowing is the class of a day as it is for people who were there on all days of the series before: what they have met is set up with fewer words. nil where
// it is no day of a series, or nothing of it was met before.
func (a *Kit) Knowing(c *gin.Context, cl *Class) (*timeline.Timeline, error) {
	if cl.Day < 2 || cl.Series == nil {
		return nil, nil
	}
	known := timeline.Known{}
	for n := 1; n < cl.Day; n++ {
		if d := &cl.Series.Days[n-1]; d.Rest || d.Empty() {
			continue
		}
		was, err := a.ClassOfDay(c, cl.Doc, cl.Series, n)
		if err != nil {
			continue // it is gone: its own page says so
		}
		known.Meet(was.Plan, a.Lib)
	}
	tl, err := timeline.BuildKnown(cl.Plan, a.Lib, known)
	cl.Known = known
	if err != nil || cl.TL != nil && tl.Total == cl.TL.Total {
		return nil, err
	}
	return tl, nil
}

// SeriesDay finds the series on a day of which a class stands, and which day: its own, or where it is a kept session the one that has it, today if it is on today. No
// series where there is none.
func (a *Kit) SeriesDay(c *gin.Context, cl *Class) (d store.Document, s *plan.Series, day int, err error) {
	if cl.Day > 0 {
		return cl.Doc, cl.Series, cl.Day, nil
	}
	ds, err := a.Store.Series.List(c.Request.Context(), Who(c).Studio.ID)
	if err != nil {
		return d, nil, 0, err
	}
	today := a.Now(c).Format(time.DateOnly)
	name := []byte(`"` + cl.ID + `"`)
	for _, x := range ds {
		if !bytes.Contains(x.Doc, name) { // reading a series costs more than looking for a name in it
			continue
		}
		sr, err := a.SeriesOf(x)
		if err != nil {
			continue // its own page says so
		}
		for i := range sr.Days {
			if sr.Days[i].Ref != cl.ID {
				continue
			}
			if on := sr.Date(i).Format(time.DateOnly) == today; s == nil || on {
				d, s, day = x, sr, i+1
				if on {
					return d, s, day, nil
				}
			}
		}
	}
	return d, s, day, nil
}

// PeopleOf lists who is on the list of a class: the people of the groups that do its series, else everybody the studio keeps.
func (a *Kit) PeopleOf(c *gin.Context, cl *Class) ([]store.Mover, error) {
	ctx, studio := c.Request.Context(), Who(c).Studio.ID
	d, s, _, err := a.SeriesDay(c, cl)
	if err != nil {
		return nil, err
	}
	if s != nil {
		gs, err := a.Store.GroupsOf(ctx, studio, d.ID)
		if err != nil {
			return nil, err
		}
		var on []store.Mover
		for _, g := range gs {
			ms, err := a.Store.GroupMovers(ctx, studio, g.ID)
			if err != nil {
				return nil, err
			}
			for _, m := range ms {
				if !slices.ContainsFunc(on, func(o store.Mover) bool { return o.ID == m.ID }) {
					on = append(on, m)
				}
			}
		}
		if len(on) > 0 {
			return on, nil
		}
	}
	return a.Store.Movers(ctx, studio)
}
