package web

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/movement"
	"wavekine/core/pace"
	"wavekine/store"
)

// paceLine is what was learnt for one movement.
type paceLine struct {
	Slug, Name    string
	Runs          int
	Now, Proposed string // seconds for one repetition
	Ratio         string
	Enough, Taken bool
	Factor, InUse float64
}

type paceView struct {
	Lines     []paceLine
	Talk      paceLine
	Runs      int
	LeastRuns int
}

// seen parts a teacher's runs into what core/pace learns from, and gives the paces in use.
func (a *app) seen(c *gin.Context) (led []pace.Led, whole []pace.Whole, paces map[string]store.TeacherPace, err error) {
	rows, err := a.store.LedRows(c, who(c).Studio.ID, who(c).Teacher.ID)
	if err != nil {
		return nil, nil, nil, err
	}
	if paces, err = a.paces(c); err != nil {
		return nil, nil, nil, err
	}
	before := func(slug string, at time.Time) bool { // planned with another pace than the one in use
		return at.Before(paces[slug].Since)
	}
	at := map[string]int{}
	for _, r := range rows {
		if before(movement.TalkChange, r.StartedAt) {
			if r.Kind != "work" {
				continue
			}
		}
		i, ok := at[r.Run]
		if !ok {
			i = len(whole)
			at[r.Run] = i
			whole = append(whole, pace.Whole{Run: r.Run})
		}
		w := &whole[i]
		planned, taken := float64(r.PlannedMS)/1000, float64(r.TakenMS)/1000
		w.Planned += planned
		w.Taken += taken
		switch r.Kind {
		case "setup", "position", "switch":
			w.TalkPlanned += planned
			w.TalkTaken += taken
		case "work":
			m, ok := movement.Shipped().Named(r.Name)
			if !ok {
				if m, ok = a.lib.Named(r.Name); !ok {
					continue
				}
			}
			if r.PlannedReps == 0 || r.Reps == 0 { // the clock ended it, or nothing was done
				continue
			}
			slug := movement.BaseSlug(m.Slug)
			if before(slug, r.StartedAt) {
				continue
			}
			led = append(led, pace.Led{Run: r.Run, Movement: slug, Planned: planned * float64(r.Reps) / float64(r.PlannedReps), Taken: taken})
		}
	}
	return led, whole, paces, nil
}

// paceSeen shows what was learnt from the teacher's runs, movement by movement, to be accepted or refused.
func (a *app) paceSeen(c *gin.Context) {
	led, whole, paces, err := a.seen(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	v := paceView{Runs: len(whole), LeastRuns: pace.LeastRuns}
	line := func(l pace.Learnt, slug, name string, secs float64) paceLine {
		in := paces[slug].Pace
		if in == 0 {
			in = 1
		}
		p := paceLine{Slug: slug, Name: name, Runs: l.Runs, Ratio: fmt.Sprintf("%.2f", l.Ratio), Enough: l.Enough, Taken: paces[slug].Pace > 0, Factor: in * l.Factor, InUse: in}
		if secs > 0 {
			p.Now, p.Proposed = fmt.Sprintf("%.1f s", secs*in), fmt.Sprintf("%.1f s", secs*in*l.Factor)
		} else {
			p.Now, p.Proposed = fmt.Sprintf("× %.2f", in), fmt.Sprintf("× %.2f", in*l.Factor)
		}
		return p
	}
	for _, l := range pace.Movements(led) {
		m, ok := movement.Shipped().Get(l.Movement)
		if !ok {
			if m, ok = a.lib.Get(l.Movement); !ok {
				continue
			}
		}
		v.Lines = append(v.Lines, line(l, l.Movement, m.Name, m.Pace.Span.Seconds()))
	}
	slices.SortStableFunc(v.Lines, func(a, b paceLine) int { return b.Runs - a.Runs })
	v.Talk = line(pace.Talk(whole), movement.TalkChange, "Talk, changes of position and side", 0)
	v.Talk.Enough = v.Runs > 0
	a.show(c, "pace", "Your own pace", "House", v)
}

// paces are what the teacher has taken or put away, by movement.
func (a *app) paces(c *gin.Context) (map[string]store.TeacherPace, error) {
	list, err := a.store.Paces(c, who(c).Studio.ID, who(c).Teacher.ID)
	out := make(map[string]store.TeacherPace, len(list))
	for _, p := range list {
		out[p.Slug] = p
	}
	return out, err
}

// acceptPace takes what was learnt for one movement or for the talk into use, or puts it away again.
func (a *app) acceptPace(c *gin.Context) {
	slug, do := c.PostForm("slug"), c.PostForm("do")
	led, whole, paces, err := a.seen(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	p := store.TeacherPace{Slug: slug, Since: a.now(c).UTC()}
	switch do {
	case "refuse":
		if _, taken := paces[slug]; !taken {
			a.refuse(c, errors.New("no pace of your own is in use there"))
			return
		}
	case "accept":
		in := paces[slug].Pace
		if in == 0 {
			in = 1
		}
		learnt, ok := pace.Talk(whole), slug == movement.TalkChange && len(whole) > 0
		for _, l := range pace.Movements(led) {
			if l.Movement == slug && l.Enough {
				learnt, ok = l, true
			}
		}
		if !ok {
			a.refuse(c, fmt.Errorf("too few runs to learn anything for %s", strings.TrimPrefix(slug, "~")))
			return
		}
		p.Pace, p.Runs = in*learnt.Factor, learnt.Runs
	default:
		a.refuse(c, errors.New("accept or refuse?"))
		return
	}
	if err := a.store.SavePace(c, who(c).Studio.ID, who(c).Teacher.ID, p); err != nil {
		a.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/house/pace")
}
