package today

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
	"wavekine/web/people"
)

//go:embed *.html
var files embed.FS

// Screen is what is on today and tomorrow, and what wants a word.
var Screen = kit.Screen{
	Files: files,
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.GET("/", a.With(showToday))
		in.POST("/slots", a.With(addSlot))
		in.POST("/slots/:id/delete", a.With(deleteSlot))
	},
}

// onDay is a class that is on.
type onDay struct {
	Time, Title, Words, Plan string
	Slot                     string
	Wave                     []byte
	Total                    clock.Span
	First                    bool // the one the Lead key takes
	Odd                      bool // it cannot be read
}

// canLead says whether its line has a Lead button.
func (o onDay) canLead() bool { return !o.Odd }

// decision is something that wants a word from the teacher.
type decision struct {
	Grav, Says, Detail, Link, Do string
}

type todayView struct {
	Head, Words     string
	Today, Tomorrow []onDay
	TomorrowName    string
	Runs            []kit.RunView
	Decide          []decision
	Check           people.Today // what the check-ins say
	People          []store.Mover
	Plans           []store.Document
	Date            string
	Restful         bool
}

func showToday(a *kit.Kit, c *gin.Context) {
	w := kit.Who(c)
	now := a.Now(c)
	day := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	v := todayView{Head: now.Format("Monday 2 January"), Date: day.Format(time.DateOnly), TomorrowName: day.AddDate(0, 0, 1).Format("Monday 2 January")}
	var err error
	if v.Plans, err = a.Store.Sessions.List(c.Request.Context(), w.Studio.ID); err != nil {
		a.Fail(c, err)
		return
	}
	week, err := between(a, c, day, day.AddDate(0, 0, 6))
	if err != nil {
		a.Fail(c, err)
		return
	}
	v.Today, v.Tomorrow = week[0].list, week[1].list
	// The key goes to the first that can be led: one that cannot be read has no button.
	if i := slices.IndexFunc(v.Today, onDay.canLead); i >= 0 {
		v.Today[i].First = true
	}
	v.Restful = week[0].rest
	if v.People, err = a.Store.Movers(c.Request.Context(), w.Studio.ID); err != nil {
		a.Fail(c, err)
		return
	}
	v.People = slices.DeleteFunc(v.People, func(m store.Mover) bool { return m.Watch == "" })
	runs, err := a.Store.Runs(c.Request.Context(), w.Studio.ID, 4)
	if err != nil {
		a.Fail(c, err)
		return
	}
	for _, r := range runs {
		v.Runs = append(v.Runs, kit.ViewRun(r, w.Zone))
	}
	if v.Decide, err = decisions(a, c, week, v.Runs); err != nil {
		a.Fail(c, err)
		return
	}
	if v.Check, err = people.ForToday(a, c); err != nil {
		a.Fail(c, err)
		return
	}
	switch n := len(v.Today); {
	case n == 0 && v.Restful:
		v.Words = "a rest day"
	case n == 0:
		v.Words = "nothing to lead today"
	case n == 1:
		v.Words = "one to lead today"
	default:
		v.Words = fmt.Sprintf("%d to lead today", n)
	}
	if clash(v.Today) {
		v.Words += ", two at the same time"
	}
	a.Show(c, "today", "Today", "Today", v)
}

func clash(list []onDay) bool {
	seen := map[string]bool{}
	for _, o := range list {
		if o.Time != "" && seen[o.Time] {
			return true
		}
		seen[o.Time] = true
	}
	return false
}

type dayOn struct {
	list []onDay
	rest bool
	cls  []*kit.Class
}

// between lists what is on each day from one date to another: days of series, and sessions put on a day by themselves.
func between(a *kit.Kit, c *gin.Context, from, to time.Time) ([]dayOn, error) {
	l := &lister{a: a, c: c, from: from, days: make([]dayOn, int(to.Sub(from).Hours()/24)+1)}
	if err := l.series(to); err != nil {
		return nil, err
	}
	if err := l.slots(to); err != nil {
		return nil, err
	}
	for i := range l.days {
		slices.SortStableFunc(l.days[i].list, func(a, b onDay) int { return strings.Compare(a.Time, b.Time) })
	}
	return l.days, nil
}

// lister fills days from a date on.
type lister struct {
	a    *kit.Kit
	c    *gin.Context
	from time.Time
	days []dayOn
}

// put lists a session on a day; nth is the day it stands on where its first side goes by the day.
func (l *lister) put(i, nth int, o onDay, doc store.Document) error {
	cl, err := l.a.Work(doc)
	var u *kit.UnreadableError
	if errors.As(err, &u) { // its line says so; the day goes on
		o.Title, o.Plan, o.Odd = doc.Title, doc.ID, true
		l.days[i].list = append(l.days[i].list, o)
		return nil
	}
	if err != nil {
		return err
	}
	return l.putClass(i, nth, o, cl)
}

// putClass lists a class that was worked out.
func (l *lister) putClass(i, nth int, o onDay, cl *kit.Class) error {
	if err := l.a.OnDay(cl, nth); err != nil {
		return err
	}
	err := l.a.LookOver(l.c, cl)
	late := errors.Is(err, context.DeadlineExceeded)
	if err != nil && !late {
		return err
	}
	if o.Title == "" {
		o.Title = cl.Plan.Title
	}
	o.Plan, o.Total = cl.ID, cl.TL.Total
	o.Wave = draw.SmallWave(cl.TL, 212, 46, o.Title+": "+draw.WaveWords(cl.TL))
	if late {
		o.Words += ", not looked over: open it"
	}
	if k := cl.TL.KitNames(); k != "" {
		o.Words += ", " + k + " needed"
	}
	l.days[i].list = append(l.days[i].list, o)
	l.days[i].cls = append(l.days[i].cls, cl)
	return nil
}

// series lists the days of every series that has one up to a date.
func (l *lister) series(to time.Time) error {
	studio := kit.Who(l.c).Studio.ID
	ds, err := l.a.Store.SeriesOn(l.c.Request.Context(), studio, l.from, to)
	if err != nil {
		return err
	}
	groups, err := l.a.Store.Groups(l.c.Request.Context(), studio)
	if err != nil {
		return err
	}
	given := map[string][]store.Group{}
	for _, g := range groups {
		given[g.SeriesID] = append(given[g.SeriesID], g)
		if !slices.ContainsFunc(ds, func(d store.Document) bool { return d.ID == g.SeriesID }) {
			d, err := l.a.Store.Series.Get(l.c.Request.Context(), studio, g.SeriesID)
			if errors.Is(err, store.ErrNotFound) {
				continue
			}
			if err != nil {
				return err
			}
			ds = append(ds, d)
		}
	}
	for _, d := range ds {
		s, err := l.a.SeriesOf(d)
		if err != nil {
			continue // its line in the list of series says why
		}
		docs, err := l.a.Store.Sessions.ByID(l.c.Request.Context(), studio, kit.Refs(s))
		if err != nil {
			return err
		}
		if gs := given[d.ID]; len(gs) > 0 { // who does it has dates of their own
			for _, g := range gs {
				days, err := g.Group.Dates(s)
				if err != nil {
					continue // its line under the series says why
				}
				for _, on := range days {
					if i := int(on.Date.Sub(l.from).Hours() / 24); !on.Off && !on.Date.Before(l.from) && i < len(l.days) {
						if err := l.day(i, on.Day, s, d, docs, g.Group.Time, s.Title+" for "+g.Group.Name); err != nil {
							return err
						}
					}
				}
			}
			continue
		}
		for i := range l.days {
			n := int(l.from.AddDate(0, 0, i).Sub(s.Start).Hours() / 24)
			if n < 0 || n >= len(s.Days) {
				continue
			}
			if s.Days[n].Rest {
				l.days[i].rest = true
			}
			if err := l.day(i, n+1, s, d, docs, s.Time, s.Title); err != nil {
				return err
			}
		}
	}
	return nil
}

// day lists day n of a series, from 1: a kept session, or the class of its own that it has.
func (l *lister) day(i, n int, s *plan.Series, d store.Document, docs map[string]store.Document, at, who string) error {
	day := &s.Days[n-1]
	o := onDay{Time: at, Words: fmt.Sprintf("%s, day %d of %d", who, n, len(s.Days))}
	if doc, ok := docs[day.Ref]; ok {
		return l.put(i, n, o, doc)
	}
	if day.Session == nil {
		return nil
	}
	cl, err := l.a.ClassOfDay(l.c, d, s, n)
	if err != nil {
		return err
	}
	if cl.TL, err = timeline.Build(cl.Plan, l.a.Lib); err != nil {
		return err
	}
	o.Title = day.Title
	return l.putClass(i, n, o, cl)
}

// slots lists the sessions that were put on a day by themselves.
func (l *lister) slots(to time.Time) error {
	studio := kit.Who(l.c).Studio.ID
	slots, err := l.a.Store.Slots(l.c.Request.Context(), studio, l.from, to)
	if err != nil {
		return err
	}
	ids := make([]string, len(slots))
	for i, sl := range slots {
		ids[i] = sl.PlanID
	}
	docs, err := l.a.Store.Sessions.ByID(l.c.Request.Context(), studio, ids)
	if err != nil {
		return err
	}
	for _, sl := range slots {
		i := int(sl.Day.Sub(l.from).Hours() / 24)
		if doc, ok := docs[sl.PlanID]; ok && i >= 0 && i < len(l.days) {
			if err := l.put(i, sl.Day.YearDay(), onDay{Time: sl.Time, Slot: sl.ID, Words: "standalone"}, doc); err != nil {
				return err
			}
		}
	}
	return nil
}

// decisions are what the second look stops at in the coming week, and classes that ran long.
func decisions(a *kit.Kit, _ *gin.Context, week []dayOn, runs []kit.RunView) (out []decision, err error) {
	seen := map[string]bool{}
	for _, d := range week {
		for _, cl := range d.cls {
			if seen[cl.ID] {
				continue
			}
			seen[cl.ID] = true
			for _, f := range cl.Findings {
				if f.Severity == review.Stop && len(out) < 4 {
					out = append(out, decision{"stop", f.Says, cl.Plan.Title + ": " + f.Detail, "/sessions/" + cl.ID, "Open the session"})
				}
			}
		}
	}
	for _, r := range runs {
		if r.Bad && len(out) < 6 {
			out = append(out, decision{"look", r.Title + " ran " + r.Over, fmt.Sprintf("Promised %s, taken %s on %s. Promise more, or trim it.", r.Promised, r.Taken, r.When), "/log/" + r.ID, "See where the time went"})
		}
	}
	return out, nil
}

func addSlot(a *kit.Kit, c *gin.Context) {
	w := kit.Who(c)
	day, err := plan.ParseDate(c.PostForm("day"))
	if err != nil {
		a.Refuse(c, err)
		return
	}
	t, err := plan.ParseTimeOfDay(c.PostForm("time"))
	if err != nil || t == "" {
		a.Problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%q is not a time of day: it looks like 18:30.", c.PostForm("time")))
		return
	}
	if _, err := a.Store.Sessions.Get(c.Request.Context(), w.Studio.ID, c.PostForm("plan")); err != nil {
		if errors.Is(err, store.ErrNotFound) {
			a.Problem(c, http.StatusUnprocessableEntity, "Choose a session.")
			return
		}
		a.Fail(c, err)
		return
	}
	if err := a.Store.SaveSlot(c.Request.Context(), store.Slot{StudioID: w.Studio.ID, ID: store.NewID(), PlanID: c.PostForm("plan"), Day: day, Time: t}); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/")
}

func deleteSlot(a *kit.Kit, c *gin.Context) {
	if err := a.Store.DeleteSlot(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id")); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/")
}
