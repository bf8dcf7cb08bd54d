package web

import (
	"bytes"
	"encoding/json"
	"errors"
	"log/slog"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/store"
)

// contexts keeps for a short while what the second look knows of a studio's people and classes. It only
// saves questions to the database: a change is seen within contextFor.
type contexts struct {
	mu sync.Mutex
	of map[string]peopleContext
}

type peopleContext struct {
	at        time.Time
	ctx       review.Context
	scheduled map[string]bool // sessions that stand on a day from today on
	every     bool            // any may: a series could not be read
}

const (
	contextFor = 20 * time.Second
	daysAhead  = 60 // a session that stands on one of these days is looked at for the people on the list; judgement
)

// reviewContext is what is known for a session: who is on the list only where it stands on a day.
func (a *app) reviewContext(c *gin.Context, id string) review.Context {
	w := who(c)
	a.ctxs.mu.Lock()
	have, ok := a.ctxs.of[w.Studio.ID]
	a.ctxs.mu.Unlock()
	if !ok || time.Since(have.at) > contextFor {
		var err error
		if have, err = a.readContext(c); err != nil { // said as missing, and asked for again the next time
			slog.ErrorContext(c, "who is on the list", "err", err)
			return review.Context{Unwatched: true}
		}
		a.ctxs.mu.Lock()
		if len(a.ctxs.of) >= maxLibraries {
			clear(a.ctxs.of)
		}
		a.ctxs.of[w.Studio.ID] = have
		a.ctxs.mu.Unlock()
	}
	ctx := have.ctx
	if !have.every && !have.scheduled[id] {
		ctx.Watch = nil
	}
	return ctx
}

// readContext reads it whole or not at all: half of it would be taken for all.
func (a *app) readContext(c *gin.Context) (p peopleContext, err error) {
	w := who(c)
	p = peopleContext{at: time.Now(), scheduled: map[string]bool{}}
	names, runs, err := a.store.MetMovements(c, w.Studio.ID)
	if err != nil {
		return p, err
	}
	if runs >= review.LeastRuns {
		p.ctx.Met = map[string]bool{}
		for _, n := range names {
			p.ctx.Met[n] = true
		}
	}
	ms, err := a.store.Movers(c, w.Studio.ID)
	if err != nil {
		return p, err
	}
	for _, m := range ms {
		if on, ok := review.WatchedBy(m.Name, m.Watch); ok {
			p.ctx.Watch = append(p.ctx.Watch, on)
		}
	}
	today := a.now(c)
	slots, err := a.store.Slots(c, w.Studio.ID, today, today.AddDate(0, 0, daysAhead))
	if err != nil {
		return p, err
	}
	for _, s := range slots {
		p.scheduled[s.PlanID] = true
	}
	ds, err := a.store.SeriesOn(c, w.Studio.ID, today, today.AddDate(0, 0, daysAhead))
	if err != nil {
		return p, err
	}
	for _, d := range ds {
		s, err := plan.ReadSeries(d.Doc, a.lib)
		if err != nil { // one that cannot be read says so in its list; any session may stand in it
			p.every = true
			continue
		}
		for _, day := range s.Days {
			p.scheduled[day.Ref] = true
		}
	}
	return p, nil
}

// lookOver takes the second look at a class, without what was set aside for it or for the house.
func (a *app) lookOver(c *gin.Context, cl *class) {
	h := who(c).House
	all := review.CheckFor(cl.Plan, cl.TL, a.lib, h.Limits, a.reviewContext(c, cl.Doc.ID))
	shown, aside := review.SetAside(all, cl.Plan.Aside)
	cl.Findings, cl.Aside = review.SetAside(shown, h.Aside)
	cl.Aside = append(aside, cl.Aside...)
}

// asideHouse puts a kind of finding aside for every session of the house, or brings it back.
func (a *app) asideHouse(c *gin.Context) {
	w := who(c)
	h := w.House
	rule, reason := c.PostForm("rule"), strings.TrimSpace(c.PostForm("reason"))
	if c.PostForm("do") == "back" {
		for i, x := range h.Aside {
			if x.Rule == rule {
				h.Aside = append(h.Aside[:i:i], h.Aside[i+1:]...)
				break
			}
		}
	} else {
		var amount plan.Amount
		err := amount.UnmarshalText([]byte(c.PostForm("amount")))
		if err == nil {
			h.Aside, err = plan.PutAside(h.Aside, plan.Aside{Rule: rule, Amount: float64(amount), Reason: reason})
		}
		if err != nil {
			a.refuse(c, err)
			return
		}
	}
	if err := a.storeHouse(c, w.Studio, h); err != nil {
		a.failEdit(c, err)
		return
	}
	if isPart(c) {
		c.Header("HX-Refresh", "true")
		c.Status(204)
		return
	}
	c.Redirect(303, "/house")
}

// storeHouse stores a studio's settings, where they read back as they are.
func (a *app) storeHouse(c *gin.Context, st store.Studio, h House) error {
	b, err := json.Marshal(h)
	if err != nil {
		return trouble{err}
	}
	again, err := json.Marshal(ReadHouse(b))
	if err != nil {
		return trouble{err}
	}
	if !bytes.Equal(b, again) {
		return errors.New("these settings would not be read back as they are: nothing was changed")
	}
	st.House = b
	if err := a.store.SaveHouse(c, st); err != nil {
		return trouble{err}
	}
	return nil
}
