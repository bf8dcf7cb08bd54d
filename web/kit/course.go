package kit

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/adapt"
	"wavekine/core/ladder"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/progress"
	"wavekine/core/review"
	"wavekine/core/timeline"
	"wavekine/store"
)

// Course is a series as a group does it, worked out: what every screen about people stands on.
type Course struct {
	Studio string
	Group  store.Group
	Doc    store.Document
	Series *plan.Series
	Lib    *movement.Library
	Limits review.Limits
	*laidOut
}

// laidOut is what is worked out of a series once for as long as it stays as it is. Nothing in it is changed.
type laidOut struct {
	mu      sync.Mutex
	ladders map[ladderKey]ladder.Ladder
	aheads  map[aheadKey]ahead
	series  *plan.Series
	classes map[int]*plan.Session
	times   map[int]*timeline.Timeline
	loads   map[int]progress.DayLoad
}

type ladderKey struct {
	slug string
	a    movement.Audience
}

type aheadKey struct {
	day, from, by int
	slug, watch   string
}

type ahead struct{ now, then string }

// Ahead is what a movement is in a mover's own version of the next of their days that has it, and what it would be so many rungs on. then is as now where the ladder ends, where the dose of the
// row is not plainly theirs, or where what they watch or their usual level holds it. ok is false where no day to come has it.
func (a *Kit) Ahead(ctx context.Context, co *Course, m *MoverIn, days []progress.MoverDay, slug string, by int) (day int, now, then string, ok bool) {
	failed := false
	stands := func(class *plan.Session, rungs int) string {
		class = progress.Own(co.Lib, co.Series, class, progress.Rungs{By: map[string]int{slug: rungs}})
		if len(m.Topics) > 0 || m.Level > 0 || len(m.Rungs.Out) > 0 {
			v, err := adapt.As(ctx, class, co.Lib, co.Limits, adapt.Mover{Topics: m.Topics, Level: m.Level, Out: m.Rungs.Out})
			if err != nil { // given up in the middle: not worth keeping
				failed = true
				return ""
			}
			class = v.Session
		}
		return progress.Stands(co.Lib, class, slug)
	}
	for _, d := range days {
		class := co.classes[d.Day]
		if class == nil || d.State != progress.OnNow && d.State != progress.Coming || progress.Stands(co.Lib, class, slug) == "" {
			continue
		}
		key := aheadKey{d.Day, m.Rungs.By[slug], by, slug, fmt.Sprint(m.Topics, m.Level, m.Rungs.Out)}
		co.mu.Lock()
		have, known := co.aheads[key]
		co.mu.Unlock()
		if !known {
			if have = (ahead{stands(class, key.from), stands(class, key.from+by)}); failed {
				return 0, "", "", false
			}
			co.mu.Lock()
			co.aheads[key] = have
			co.mu.Unlock()
		}
		if have.now != "" {
			return d.Day, have.now, have.then, true
		}
	}
	return 0, "", "", false
}

// ladder is the ladder of a movement in the series, worked out once.
func (co *Course) ladder(slug string, a movement.Audience) ladder.Ladder {
	co.mu.Lock()
	defer co.mu.Unlock()
	key := ladderKey{slug, a}
	l, ok := co.ladders[key]
	if !ok {
		l = progress.LadderOf(co.Lib, co.Series, slug, a)
		co.ladders[key] = l
	}
	return l
}

type courseKey struct {
	studio, series string
	rev            int
	stamp          int64
	lib            *movement.Library
	kept           string // the revisions of kept sessions that it names
}

// coursesKept is how many series are kept as they were worked out, some 200 KB each; versionsKept how many versions of a class, some 60 KB each. Judgement.
const (
	coursesKept  = 48
	versionsKept = 400
)

// CourseOf works out the series of a group with a studio's library.
func (a *Kit) CourseOf(ctx context.Context, studio string, lib *movement.Library, lim review.Limits, g store.Group) (*Course, error) {
	d, err := a.Store.Series.Get(ctx, studio, g.SeriesID)
	if err != nil {
		return nil, err
	}
	return a.CourseFrom(ctx, lib, lim, g, d)
}

// CourseFrom works out a stored series; a zero group has no dates.
func (a *Kit) CourseFrom(ctx context.Context, lib *movement.Library, lim review.Limits, g store.Group, d store.Document) (*Course, error) {
	co := &Course{Studio: d.StudioID, Group: g, Doc: d, Lib: lib, Limits: lim}
	key := courseKey{d.StudioID, d.ID, d.Rev, d.Stamp, lib, ""}
	if lo, ok := a.courses.Get(key); ok {
		co.laidOut, co.Series = lo, lo.series
		return co, nil
	}
	s, err := plan.ReadSeries(d.Doc, lib)
	if err != nil {
		return nil, &UnreadableError{"series", d, err}
	}
	kept := map[string]*plan.Session{}
	refs := Refs(s)
	if len(refs) > 0 {
		docs, err := a.Store.Sessions.ByID(ctx, d.StudioID, refs)
		if err != nil {
			return nil, err
		}
		for id, doc := range docs {
			if p, err := plan.ReadSession(doc.Doc, lib); err == nil {
				kept[id] = p
			}
		}
	}
	lo := &laidOut{ladders: map[ladderKey]ladder.Ladder{}, aheads: map[aheadKey]ahead{}, series: s, classes: map[int]*plan.Session{}, times: map[int]*timeline.Timeline{}}
	for i := range s.Days {
		class := s.Days[i].Session
		if class == nil {
			class = kept[s.Days[i].Ref]
		}
		if class == nil || s.Days[i].Rest {
			continue
		}
		class = class.ForDay(i + 1)
		tl, err := timeline.Build(class, lib)
		if err != nil {
			return nil, fmt.Errorf("day %d: %w", i+1, err)
		}
		if len(tl.Steps) > 0 {
			lo.classes[i+1], lo.times[i+1] = class, tl
		}
	}
	lo.loads = progress.LoadsOf(s, lo.times)
	if len(refs) == 0 { // a kept session may change under it
		a.courses.Add(key, lo)
	}
	co.laidOut, co.Series = lo, s
	return co, nil
}

// Class is the class of a day as planned, and how long it takes; nil where it has none.
func (co *Course) Class(day int) (*plan.Session, *timeline.Timeline) {
	return co.classes[day], co.times[day]
}

// Loads are what each day asks for.
func (co *Course) Loads() map[int]progress.DayLoad { return co.loads }

// Title is what a day is called.
func (co *Course) Title(day int) string {
	if day < 1 || day > len(co.Series.Days) {
		return ""
	}
	if t := co.Series.Days[day-1].Title; t != "" {
		return t
	}
	if c := co.classes[day]; c != nil {
		return c.Title
	}
	return ""
}

// MoverIn is a mover in a group: what they said, chose, and what was decided.
type MoverIn struct {
	store.Mover
	Topics []movement.Topic
	Who    progress.Who
	Words  []store.Word // all of them, the first first
	Chosen []store.Chosen
	Steps  []progress.Step
	Rungs  progress.Rungs
}

// TopicsOf are what a mover watches: what was confirmed, else what their own words say.
func TopicsOf(m store.Mover) (out []movement.Topic) {
	if m.Topics == nil {
		return movement.TopicsIn(m.Watch)
	}
	for _, t := range m.Topics {
		out = append(out, movement.Topic(t))
	}
	return out
}

// First is a mover's first name.
func First(name string) string {
	first, _, _ := strings.Cut(strings.TrimSpace(name), " ")
	return first
}

// MoversIn are the movers of a group with what is known of them there; one alone where only is named.
func (a *Kit) MoversIn(ctx context.Context, studio string, g store.Group, only *store.Mover) ([]*MoverIn, error) {
	one := ""
	ms := []store.Mover{}
	if only != nil {
		one, ms = only.ID, append(ms, *only)
	} else {
		var err error
		if ms, err = a.Store.GroupMovers(ctx, studio, g.ID); err != nil {
			return nil, err
		}
	}
	words, err := a.Store.Words(ctx, studio, g.ID, one)
	if err != nil {
		return nil, err
	}
	choices, err := a.Store.Choices(ctx, studio, g.ID, one)
	if err != nil {
		return nil, err
	}
	steps, err := a.Store.Steps(ctx, studio, g.ID, one)
	if err != nil {
		return nil, err
	}
	joined, err := a.Store.Joined(ctx, studio, g.ID)
	if err != nil {
		return nil, err
	}
	by := map[string]*MoverIn{}
	out := make([]*MoverIn, 0, len(ms))
	for _, m := range ms {
		x := &MoverIn{Mover: m, Topics: TopicsOf(m), Who: progress.Who{Joined: joined[m.ID], Said: map[int]*progress.CheckIn{}}}
		by[m.ID] = x
		out = append(out, x)
	}
	for _, w := range words {
		if x := by[w.MoverID]; x != nil && w.SeriesID == g.SeriesID {
			x.Words = append(x.Words, w)
			x.Who.Said[w.Day] = w.Said // the latest stands
		}
	}
	for _, c := range choices {
		if x := by[c.MoverID]; x != nil {
			x.Chosen = append(x.Chosen, c)
			x.Who.Choices = append(x.Who.Choices, c.Choice)
		}
	}
	for i := range steps {
		if x := by[steps[i].MoverID]; x != nil {
			x.Steps = append(x.Steps, steps[i].Step())
		}
	}
	for _, x := range out {
		x.Rungs = progress.RungsOf(x.Steps)
	}
	return out, nil
}

type versionKey struct {
	of  *laidOut
	day int
	sig string
}

// Version is the class of a day as a mover does it: their own rungs first, then what they watch. ok is false where the day has no class.
func (a *Kit) Version(ctx context.Context, co *Course, m *MoverIn, day int) (v *adapt.Version, ok bool, err error) {
	class := co.classes[day]
	if class == nil {
		return nil, false, nil
	}
	key := versionKey{co.laidOut, day, fmt.Sprint(m.Topics, m.Level, m.Rungs, co.Limits)}
	if v, have := a.versions.Get(key); have {
		return v, true, nil
	}
	class = progress.Own(co.Lib, co.Series, class, m.Rungs)
	v, err = adapt.As(ctx, class, co.Lib, co.Limits, adapt.Mover{Topics: m.Topics, Level: m.Level, Out: m.Rungs.Out})
	if err != nil {
		return nil, false, err
	}
	a.versions.Add(key, v)
	a.sums.Add(v, progress.SummaryOf(co.Lib, v.Session, v.Timeline))
	return v, true, nil
}

// sumOf is the summary of a version that is kept; nil where it is not kept any more.
func (a *Kit) sumOf(v *adapt.Version) *progress.Summary {
	s, _ := a.sums.Get(v)
	return s
}

// History is what is known of a mover when it is asked what to do next: their own versions of the days they said something of.
func (a *Kit) History(ctx context.Context, co *Course, m *MoverIn, days []progress.MoverDay) (progress.History, error) {
	h := progress.History{Series: co.Series, Said: m.Who.Said, Steps: m.Steps, Ladder: co.ladder}
	for _, d := range days {
		said := m.Who.Said[d.Day]
		if said == nil {
			continue
		}
		at := d.Date
		if at.IsZero() { // done on no date of a group: when it was told
			at = Midnight(said.Told)
		}
		then := m
		if len(m.Steps) > 0 {
			c := *m
			c.Rungs, then = progress.RungsOn(m.Steps, at), &c
		}
		v, ok, err := a.Version(ctx, co, then, d.Day)
		if err != nil {
			return h, err
		}
		if !ok {
			continue
		}
		h.Classes = append(h.Classes, progress.Class{Day: d.Day, Date: at, Plan: v.Session, TL: v.Timeline, Sum: a.sumOf(v)})
	}
	slices.SortStableFunc(h.Classes, func(a, b progress.Class) int { return a.Date.Compare(b.Date) })
	return h, nil
}

// Midnight is the date of a time as midnight in UTC: how dates without a time are held.
func Midnight(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
}

// AddressOf is the site as its visitors reach it.
func (a *Kit) AddressOf(c *gin.Context) string {
	if c.Request.TLS != nil || a.Opt.Secure {
		return "https://" + c.Request.Host
	}
	return "http://" + c.Request.Host
}

// Forget drops what is remembered of who is on a studio's list, so that a change of it is seen at once.
func (a *Kit) Forget(studio string) { a.people.Remove(studio) }

// TimeOf is how a class goes.
func TimeOf(s *plan.Session, lib *movement.Library) (*timeline.Timeline, error) {
	return timeline.Build(s, lib)
}

// WatchAlso adds a topic to what a mover watches; who has changed them meanwhile keeps their change.
func (a *Kit) WatchAlso(c *gin.Context, mover, topic string) error {
	ctx, w := c.Request.Context(), Who(c)
	for range 5 {
		m, err := a.Store.GetMover(ctx, w.Studio.ID, mover)
		if err != nil {
			return err
		}
		if m.Topics == nil {
			m.Topics = store.Topics{}
			for _, t := range TopicsOf(m) {
				m.Topics = append(m.Topics, string(t))
			}
		}
		if slices.Contains(m.Topics, topic) {
			return nil
		}
		m.Topics = append(m.Topics, topic)
		err = a.Store.SaveMover(ctx, m, w.Teacher.ID)
		var conflict *store.Conflict
		if !errors.As(err, &conflict) {
			return err
		}
	}
	return store.ErrNotFound
}
