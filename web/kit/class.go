package kit

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/store"
)

// Class is a session read and worked out: a kept one, or that of a day of a series.
type Class struct {
	ID       string         // its address: the session's id, or DayID
	Day      int            // of a series, from 1; 0: a kept session
	Series   *plan.Series   // of a day
	Doc      store.Document // the session, or the series
	Plan     *plan.Session
	TL       *timeline.Timeline
	Findings []review.Finding
	Aside    []review.Finding // set aside, for this session or the house
	Lib      *movement.Library
	Known    timeline.Known // what whoever comes has met before, where TL counts on it
}

// read reads a stored session; an *unreadableError where that cannot be done.
func (a *Kit) read(d store.Document) (*Class, error) {
	if kept, ok := a.plans.Get(planKey{d.StudioID, d.ID}); ok && kept.rev == d.Rev && kept.stamp == d.Stamp && kept.lib == a.Lib {
		return &Class{ID: d.ID, Doc: d, Plan: kept.plan, Lib: a.Lib}, nil
	}
	p, err := plan.ReadSession(d.Doc, a.Lib)
	if err != nil {
		return nil, &UnreadableError{"sessions", d, err}
	}
	a.keep(d, d.Rev, d.Stamp, p)
	return &Class{ID: d.ID, Doc: d, Plan: p, Lib: a.Lib}, nil
}

type planKey struct{ studio, id string }

// keptPlan is a session as it was read last: the stamp changes with the stored row, whoever changed it. The plan is
// never changed, commands work on copies; it only saves reading it again.
type keptPlan struct {
	rev   int
	stamp int64
	lib   *movement.Library
	plan  *plan.Session
}

// plansKept is how many sessions are kept as they were read, about 30 KB each; those with more rows than a class holds
// are read each time, so that they cannot fill the memory. Judgement.
const (
	plansKept = 256
	rowsKept  = 150
	bytesKept = 96 << 10 // of its document
)

func (a *Kit) keep(d store.Document, rev int, stamp int64, s *plan.Session) {
	if s.Rows() > rowsKept || len(d.Doc) > bytesKept {
		a.plans.Remove(planKey{d.StudioID, d.ID})
		return
	}
	a.plans.Add(planKey{d.StudioID, d.ID}, keptPlan{rev, stamp, a.Lib, s})
}

// KeepPlan keeps a session that has just been stored as read.
func (a *Kit) KeepPlan(d store.Document, now store.Saved, s *plan.Session) {
	a.keep(d, now.Rev, now.Stamp, s)
}

// Work reads a stored session and works out its timeline, without the second look; *UnreadableError where it cannot be
// read.
func (a *Kit) Work(d store.Document) (*Class, error) {
	cl, err := a.read(d)
	if err != nil {
		return nil, err
	}
	cl.TL, err = timeline.Build(cl.Plan, a.Lib)
	if err != nil {
		return nil, &UnreadableError{"sessions", d, err}
	}
	return cl, nil
}

// Opened finds the class of the address, read and no more.
func (a *Kit) Opened(c *gin.Context) (*Class, error) { return a.ClassNamed(c, c.Param("id")) }

// ClassNamed finds a kept session or a day's class by its address, read and no more.
func (a *Kit) ClassNamed(c *gin.Context, id string) (*Class, error) {
	if series, day, ok := SplitDayID(id); ok {
		return a.dayClass(c, series, day)
	}
	d, err := a.Store.Sessions.Get(c.Request.Context(), Who(c).Studio.ID, id)
	if err != nil {
		return nil, err
	}
	return a.read(d)
}

// WorkOut works out what has not been yet: the timeline and the second look.
func (a *Kit) WorkOut(c *gin.Context, cl *Class) (err error) {
	if cl.TL == nil {
		if cl.TL, err = timeline.Build(cl.settled(), a.Lib); err != nil {
			return err
		}
		return a.LookOver(c, cl)
	}
	return nil
}

// settled is the class as it is done: a day of a series has settled its first side.
func (cl *Class) settled() *plan.Session {
	if cl.Day == 0 {
		return cl.Plan
	}
	return cl.Plan.ForDay(cl.Day)
}

// Class finds the class of the address, worked out and looked over.
func (a *Kit) Class(c *gin.Context) (*Class, error) {
	cl, err := a.Opened(c)
	if err != nil {
		return nil, err
	}
	return cl, a.WorkOut(c, cl)
}

// Listed is a session in a list.
type Listed struct {
	ID, Title, Focus string
	Wave             []byte
	Total, Target    clock.Span
	Low, High        clock.Span
	Stops            int
	Late             bool // there was too much to look at: it was not looked over
	Changed          string
	Kit              string
}

// Listed is a session as its list shows it, with a wave of w by h pixels.
func (a *Kit) Listed(c *gin.Context, d store.Document, w, h float64) (Listed, *Class, error) {
	cl, err := a.Work(d)
	if err != nil {
		return Listed{}, nil, err
	}
	l := Listed{
		ID: d.ID, Title: d.Title, Focus: strings.Join(cl.Plan.Focus, ", "), Total: cl.TL.Total, Target: cl.Plan.Target, Low: cl.TL.Low, High: cl.TL.High,
		Wave: draw.SmallWave(cl.TL, w, h, d.Title+": "+draw.WaveWords(cl.TL)), Changed: d.UpdatedAt.In(Who(c).Zone).Format("Mon 2 Jan"), Kit: cl.TL.KitNames(),
	}
	if err := a.LookOver(c, cl); errors.Is(err, context.DeadlineExceeded) {
		l.Late = true // the list goes on
	} else if err != nil {
		return Listed{}, nil, err
	}
	for _, f := range cl.Findings {
		if f.Severity == review.Stop {
			l.Stops++
		}
	}
	return l, cl, nil
}

// FileName makes a title fit for a file.
func FileName(title, ext string) string {
	s := strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z', r >= 'A' && r <= 'Z', r >= '0' && r <= '9':
			return r
		case r == ' ', r == '-', r == '_':
			return '-'
		}
		return -1
	}, title)
	if s == "" {
		s = "wavekine"
	}
	return strings.ToLower(s[:min(len(s), 60)]) + "." + ext
}

// Attach answers with a file to be saved.
func Attach(c *gin.Context, name, ctype string, b []byte) {
	c.Header("Content-Disposition", `attachment; filename="`+name+`"`)
	c.Data(http.StatusOK, ctype, b)
}

// Now is the time in the studio's zone.
func (a *Kit) Now(c *gin.Context) time.Time { return a.Opt.Now().In(Who(c).Zone) }
