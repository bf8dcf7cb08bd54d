package kit

import (
	"log/slog"
	"slices"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/group"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/store"
)

// peopleContext is what the second look knows of a studio's people and classes. It is kept for contextFor: that only
// saves questions to the database, and a change is seen within that time.
type peopleContext struct {
	ctx       review.Context
	scheduled map[string]bool             // sessions that stand on a day from today on
	every     bool                        // any may: a series could not be read
	groups    map[string][]review.Watched // of a series that is done in groups with people in them: who they are
}

const (
	contextFor = 20 * time.Second
	daysAhead  = 60 // a session that stands on one of these days is looked at for the people on the list; judgement
)

// reviewContext is what is known for a session: who is on the list only where it stands on a day.
func (a *Kit) reviewContext(c *gin.Context, id string) review.Context {
	w := Who(c)
	have, ok := a.people.Get(w.Studio.ID)
	if !ok {
		var err error
		if have, err = a.readContext(c); err != nil { // said as missing, and asked for again the next time
			slog.ErrorContext(c.Request.Context(), "who is on the list", "err", err)
			return review.Context{Unwatched: true}
		}
		a.people.Add(w.Studio.ID, have)
	}
	ctx := have.ctx
	if series, _, ok := SplitDayID(id); ok && have.groups[series] != nil {
		ctx.Watch = have.groups[series]
		return ctx
	}
	if !have.every && !have.scheduled[id] {
		ctx.Watch = nil
	}
	return ctx
}

// OnList is who is on the list of a class, with what they watch: the people of the groups that do its series, else everybody the studio keeps.
func (a *Kit) OnList(c *gin.Context, id string) []review.Watched {
	if ctx := a.reviewContext(c, id); len(ctx.Watch) > 0 {
		return ctx.Watch
	}
	have, ok := a.people.Get(Who(c).Studio.ID)
	if !ok {
		return nil
	}
	return have.ctx.Watch
}

// readContext reads it whole or not at all: half of it would be taken for all.
func (a *Kit) readContext(c *gin.Context) (p peopleContext, err error) {
	w := Who(c)
	p = peopleContext{scheduled: map[string]bool{}}
	met, err := a.Store.MetMovements(c.Request.Context(), w.Studio.ID)
	if err != nil {
		return p, err
	}
	if met.Runs >= review.LeastRuns {
		p.ctx.Met, p.ctx.Led = map[string]bool{}, map[string]int{}
		for _, n := range met.Names {
			p.ctx.Met[n] = true
		}
		for slug, level := range met.Led {
			slug = movement.BaseSlug(slug)
			p.ctx.Led[slug] = max(p.ctx.Led[slug], level)
		}
	}
	ms, err := a.Store.Movers(c.Request.Context(), w.Studio.ID)
	if err != nil {
		return p, err
	}
	by := map[string]review.Watched{}
	for _, m := range ms {
		if on := (review.Watched{Name: First(m.Name), Topics: TopicsOf(m)}); len(on.Topics) > 0 {
			p.ctx.Watch = append(p.ctx.Watch, on)
			by[m.ID] = on
		}
	}
	if err := a.readGroups(c, &p, by); err != nil {
		return p, err
	}
	today := a.Now(c)
	slots, err := a.Store.Slots(c.Request.Context(), w.Studio.ID, today, today.AddDate(0, 0, daysAhead))
	if err != nil {
		return p, err
	}
	for _, s := range slots {
		p.scheduled[s.PlanID] = true
	}
	ds, err := a.Store.SeriesOn(c.Request.Context(), w.Studio.ID, today, today.AddDate(0, 0, daysAhead))
	if err != nil {
		return p, err
	}
	given, err := a.givenOn(c, today, today.AddDate(0, 0, daysAhead))
	if err != nil {
		return p, err
	}
	for _, d := range append(ds, given...) {
		s, err := plan.ReadSeries(d.Doc, a.Lib)
		if err != nil { // one that cannot be read says so in its list; any session may stand in it
			p.every = true
			continue
		}
		for i, day := range s.Days {
			p.scheduled[day.Ref], p.scheduled[DayID(d.ID, i+1)] = true, true
		}
	}
	return p, nil
}

// readGroups finds out who is in the groups of each series: a day of it is looked at for them alone.
func (a *Kit) readGroups(c *gin.Context, p *peopleContext, by map[string]review.Watched) error {
	ctx, studio := c.Request.Context(), Who(c).Studio.ID
	in, err := a.Store.Memberships(ctx, studio)
	if err != nil || len(in) == 0 {
		return err
	}
	groups, err := a.Store.Groups(ctx, studio)
	if err != nil {
		return err
	}
	p.groups = map[string][]review.Watched{}
	seen := map[[2]string]bool{} // somebody in two groups of one series
	for _, g := range groups {
		for _, m := range in {
			if m.GroupID != g.ID {
				continue
			}
			if p.groups[g.SeriesID] == nil {
				p.groups[g.SeriesID] = []review.Watched{}
			}
			if on, ok := by[m.MoverID]; ok && !seen[[2]string{g.SeriesID, m.MoverID}] {
				seen[[2]string{g.SeriesID, m.MoverID}] = true
				p.groups[g.SeriesID] = append(p.groups[g.SeriesID], on)
			}
		}
	}
	return nil
}

// givenOn lists the series that a group does between two dates, whenever they begin themselves.
func (a *Kit) givenOn(c *gin.Context, from, to time.Time) (out []store.Document, err error) {
	studio := Who(c).Studio.ID
	groups, err := a.Store.Groups(c.Request.Context(), studio)
	if err != nil || len(groups) == 0 {
		return nil, err
	}
	var ids []string
	for _, g := range groups {
		ids = append(ids, g.SeriesID)
	}
	docs, err := a.Store.Series.ByID(c.Request.Context(), studio, ids)
	if err != nil {
		return nil, err
	}
	first, last := from.Format(time.DateOnly), to.Format(time.DateOnly)
	for _, g := range groups {
		d, ok := docs[g.SeriesID]
		if !ok {
			continue
		}
		s, err := plan.ReadSeries(d.Doc, a.Lib)
		if err != nil {
			continue
		}
		days, err := g.Group.Dates(s)
		if err != nil {
			continue
		}
		if slices.ContainsFunc(days, func(on group.Dated) bool {
			day := on.Date.Format(time.DateOnly)
			return !on.Off && day >= first && day <= last
		}) {
			out = append(out, d)
		}
	}
	return out, nil
}

// LookOver takes the second look at a class, without what was set aside for it or for the house.
func (a *Kit) LookOver(c *gin.Context, cl *Class) error {
	h := Who(c).House
	all, err := review.CheckFor(Bounded(c), cl.Plan, cl.TL, a.Lib, h.Limits, a.reviewContext(c, cl.ID))
	if err != nil {
		return err
	}
	shown, aside := review.SetAside(all, cl.Plan.Aside)
	cl.Findings, cl.Aside = review.SetAside(shown, h.Aside)
	cl.Aside = append(aside, cl.Aside...)
	return nil
}
