package series

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/board"
	"wavekine/core/clock"
	"wavekine/core/group"
	"wavekine/core/plan"
	"wavekine/core/run"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

// patternView is a pattern in the list.
type patternView struct {
	ID, Title, Words string
	Odd              string // why it cannot be read
	Waves            [][]byte
}

// patternsOf lists the patterns of the studio.
func patternsOf(a *kit.Kit, c *gin.Context) (out []patternView, err error) {
	ps, err := a.Store.Patterns(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		return nil, err
	}
	for _, p := range ps {
		v := patternView{ID: p.ID, Title: p.Title}
		s, err := plan.ReadSeries(p.Doc, a.Lib)
		if err != nil {
			v.Odd = err.Error()
			out = append(out, v)
			continue
		}
		classes := 0
		for i := range s.Days {
			d := &s.Days[i]
			if d.Session == nil {
				v.Waves = append(v.Waves, draw.SmallWave(nil, 54, 30, fmt.Sprintf("day %d: %s", i+1, map[bool]string{true: "rest", false: "nothing"}[d.Rest])))
				continue
			}
			tl, err := timeline.Build(d.Session.ForDay(i+1), a.Lib)
			if err != nil {
				return nil, err
			}
			classes++
			v.Waves = append(v.Waves, draw.SmallWave(tl, 54, 30, fmt.Sprintf("day %d: %s", i+1, d.Session.Title)))
		}
		v.Words = fmt.Sprintf("%d days, %d with a class", len(s.Days), classes)
		out = append(out, v)
	}
	return out, nil
}

// keepPattern keeps a series as a pattern without dates.
func keepPattern(a *kit.Kit, c *gin.Context) {
	_, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	w, err := withOf(a, c, s)
	if err != nil {
		a.Fail(c, err)
		return
	}
	cmd := &board.KeepPattern{With: w, From: s}
	if err := kit.Decode(c.Request.PostForm, cmd); err != nil {
		a.Refuse(c, err)
		return
	}
	ch, err := plan.ApplySeries(&plan.Series{}, a.Lib, cmd)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	if err := a.Store.SavePattern(c.Request.Context(), kit.Who(c).Studio.ID, store.NewID(), ch.Sealed, kit.Who(c).Teacher.ID); err != nil {
		a.FailSave(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/series#patterns")
}

// startPattern makes a series of a pattern.
func startPattern(a *kit.Kit, c *gin.Context) {
	p, err := a.Store.Pattern(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"))
	if err != nil {
		a.Fail(c, err)
		return
	}
	s, err := plan.ReadSeries(p.Doc, a.Lib)
	if err != nil {
		a.Refuse(c, fmt.Errorf("%s cannot be read: %w", p.Title, err))
		return
	}
	startAgain(a, c, s)
}

// againSeries makes a series of another.
func againSeries(a *kit.Kit, c *gin.Context) {
	_, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	startAgain(a, c, s)
}

func startAgain(a *kit.Kit, c *gin.Context, s *plan.Series) {
	cmd := &board.StartAgain{From: s}
	if err := kit.Decode(c.Request.PostForm, cmd); err != nil {
		a.Refuse(c, err)
		return
	}
	makeSeries(a, c, cmd)
}

// deletePattern deletes a pattern; what was started from it stays.
func deletePattern(a *kit.Kit, c *gin.Context) {
	if err := a.Store.DeletePattern(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id")); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/series#patterns")
}

// otherView is another series with its weeks.
type otherView struct {
	Title string
	Weeks []struct{ Value, Says string }
}

// otherSeries finds a series and a week of it by the value of the form: "ID 2".
func otherSeries(a *kit.Kit, c *gin.Context, value string) (s *plan.Series, week int, err error) {
	id, n, _ := strings.Cut(value, " ")
	week, err = strconv.Atoi(n)
	if err != nil {
		return nil, 0, errors.New("choose a week of another series")
	}
	d, err := a.Store.Series.Get(c.Request.Context(), kit.Who(c).Studio.ID, id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, 0, errors.New("that series is not there any more: reload the page")
	}
	if err != nil {
		return nil, 0, kit.Trouble(err)
	}
	if s, err = a.SeriesOf(d); err != nil {
		return nil, 0, fmt.Errorf("%s cannot be read: %w", d.Title, err)
	}
	return s, week, nil
}

// mostOthers is from how many series weeks are offered, those that begin last; judgement: with each its weeks are weighed.
const mostOthers = 8

// showWeeks offers the weeks of other series, the best of each marked: the one with the fewest findings, of those the one that weighs most.
func showWeeks(a *kit.Kit, c *gin.Context) {
	if _, _, err := readSeries(a, c); err != nil {
		a.Fail(c, err)
		return
	}
	ds, err := a.Store.Series.List(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	var out []otherView
	for _, d := range ds {
		if d.ID == c.Param("id") || len(out) == mostOthers {
			continue
		}
		s, err := a.SeriesOf(d)
		if err != nil {
			continue // its line in the list says why
		}
		kept, err := a.KeptSessions(c, kit.Refs(s))
		if err != nil {
			a.Fail(c, err)
			return
		}
		weeks, err := board.Weeks(s, a.Lib, board.With{Kept: kept})
		if err != nil || len(weeks) == 0 {
			continue
		}
		best := slices.MinFunc(weeks, func(x, y board.Week) int {
			if x.Found != y.Found {
				return x.Found - y.Found
			}
			return int(100 * (y.Load - x.Load))
		})
		v := otherView{Title: d.Title}
		for _, w := range weeks {
			says := fmt.Sprintf("week %d, days %d to %d: %d classes, %d min, load %.0f, %s", w.N, w.From, w.To, w.Classes, w.Minutes, w.Load, map[bool]string{true: "nothing to look at", false: fmt.Sprintf("%d to look at", w.Found)}[w.Found == 0])
			if len(weeks) > 1 && w.N == best.N {
				says += " · the best"
			}
			v.Weeks = append(v.Weeks, struct{ Value, Says string }{d.ID + " " + strconv.Itoa(w.N), says})
		}
		out = append(out, v)
	}
	a.Render(c, http.StatusOK, "again", "weeks", out)
}

// doing is a series as somebody does it: a group, or on its own dates.
type doing struct {
	Value, Name string
	series      string
	s           *plan.Series
	dates       []group.Dated
}

// ledView is a day of a doing as it was led.
type ledView struct {
	Date, Taken, Over, By string
	Far, ToCome           bool
	Bar                   template.HTML // beside the longest
}

// bothView is a day of two doings side by side.
type bothView struct {
	N     int
	Title string
	Plan  clock.Span
	A, B  ledView
}

type runsView struct {
	ID, Title  string
	Of         []doing
	A, B       string
	NameA      string
	NameB      string
	Days       []bothView
	SumA, SumB string
}

// doings lists who does which series: this one first.
func doings(a *kit.Kit, c *gin.Context, first string) (out []doing, err error) {
	studio := kit.Who(c).Studio.ID
	ds, err := a.Store.Series.List(c.Request.Context(), studio)
	if err != nil {
		return nil, err
	}
	slices.SortStableFunc(ds, func(x, y store.Document) int {
		switch {
		case x.ID == first && y.ID != first:
			return -1
		case y.ID == first && x.ID != first:
			return 1
		}
		return 0
	})
	groups, err := a.Store.Groups(c.Request.Context(), studio)
	if err != nil {
		return nil, err
	}
	for _, d := range ds {
		s, err := a.SeriesOf(d)
		if err != nil {
			continue
		}
		n := len(out)
		for _, g := range groups {
			if g.SeriesID == d.ID {
				if dates, err := g.Group.Dates(s); err == nil {
					out = append(out, doing{"group " + g.ID, d.Title + ", " + g.Group.Name, d.ID, s, dates})
				}
			}
		}
		if n == len(out) {
			own := &group.Group{Name: d.Title, Start: s.Start}
			if dates, err := own.Dates(s); err == nil {
				out = append(out, doing{"series " + d.ID, fmt.Sprintf("%s from %s", d.Title, s.Start.Format("2 January 2006")), d.ID, s, dates})
			}
		}
	}
	return out, nil
}

// ledDays are the runs of a doing by the number of the day, the last of each.
func ledDays(a *kit.Kit, c *gin.Context, all []doing, of doing) (map[int]store.Run, error) {
	var same [][]group.Dated
	me := 0
	for _, d := range all {
		if d.series == of.series {
			if d.Value == of.Value {
				me = len(same)
			}
			same = append(same, d.dates)
		}
	}
	days, classes := map[string][]int{}, []string{}
	for i := range of.s.Days {
		for _, id := range []string{kit.DayID(of.series, i+1), of.s.Days[i].Ref} {
			if id != "" {
				classes, days[id] = append(classes, id), append(days[id], i+1)
			}
		}
	}
	runs, err := a.Store.RunsOf(c.Request.Context(), kit.Who(c).Studio.ID, classes)
	if err != nil {
		return nil, err
	}
	out := map[int]store.Run{}
	for _, r := range runs {
		at := r.StartedAt.In(kit.Who(c).Zone)
		for _, n := range days[r.PlanID] {
			who := group.WhoLed(same, n, at)
			if len(days[r.PlanID]) > 1 || r.PlanID == of.s.Days[n-1].Ref { // a kept session stands elsewhere too: the date decides
				if who < 0 || !slices.ContainsFunc(same[who], func(d group.Dated) bool {
					return d.Day == n && d.Date.Format(time.DateOnly) == at.Format(time.DateOnly)
				}) {
					continue
				}
			}
			if who == me {
				out[n] = r
			}
		}
	}
	return out, nil
}

// showRuns compares how two have done a series, or one each.
func showRuns(a *kit.Kit, c *gin.Context) {
	d, _, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := runsView{ID: d.ID, Title: d.Title, A: c.Query("a"), B: c.Query("b")}
	if v.Of, err = doings(a, c, d.ID); err != nil {
		a.Fail(c, err)
		return
	}
	find := func(value string, other int) int {
		if i := slices.IndexFunc(v.Of, func(x doing) bool { return x.Value == value }); i >= 0 {
			return i
		}
		return min(other, len(v.Of)-1)
	}
	if len(v.Of) == 0 { // archived, and nothing else is there
		a.Refuse(c, errors.New("there is nothing to compare: it is archived"))
		return
	}
	both := [2]doing{v.Of[find(v.A, 0)], v.Of[find(v.B, 1)]}
	v.A, v.B, v.NameA, v.NameB = both[0].Value, both[1].Value, both[0].Name, both[1].Name
	var led [2]map[int]store.Run
	longest := int64(1)
	for k := range both {
		if led[k], err = ledDays(a, c, v.Of, both[k]); err != nil {
			a.Fail(c, err)
			return
		}
		for _, r := range led[k] {
			longest = max(longest, r.TakenMS)
		}
	}
	today := a.Now(c).Format(time.DateOnly)
	sums := [2]*string{&v.SumA, &v.SumB}
	for k := range both {
		taken, promised := clock.Span(0), clock.Span(0)
		for _, r := range led[k] {
			taken += clock.Span(r.TakenMS)
			promised += clock.Span(max(r.PromisedMS, 0))
		}
		*sums[k] = fmt.Sprintf("%d of %d led", len(led[k]), len(both[k].dates))
		if len(led[k]) > 0 {
			over, _ := run.Over(promised, taken)
			*sums[k] += fmt.Sprintf(", %s in all, %s", taken, over)
		}
	}
	for n := 1; n <= max(len(both[0].s.Days), len(both[1].s.Days)); n++ {
		b := bothView{N: n}
		for k, cell := range []*ledView{&b.A, &b.B} {
			x := both[k]
			if n > len(x.s.Days) || x.s.Days[n-1].Rest {
				continue
			}
			if b.Title == "" {
				b.Title = x.s.Days[n-1].Name()
			}
			if i := slices.IndexFunc(x.dates, func(on group.Dated) bool { return on.Day == n }); i >= 0 {
				cell.Date, cell.ToCome = x.dates[i].Date.Format("Mon 2 Jan"), x.dates[i].Date.Format(time.DateOnly) >= today
			}
			r, ok := led[k][n]
			if !ok {
				continue
			}
			rv := kit.ViewRun(r, kit.Who(c).Zone)
			cell.Date, cell.Taken, cell.Over, cell.Far, cell.By = r.StartedAt.In(kit.Who(c).Zone).Format("Mon 2 Jan"), rv.Taken.String(), rv.Over, rv.Bad, rv.Teacher
			cell.Bar = template.HTML(draw.Bar(float64(r.TakenMS)/float64(longest), "bar"))
			b.Plan = rv.Promised
		}
		if b.A.Date != "" || b.B.Date != "" {
			v.Days = append(v.Days, b)
		}
	}
	a.Show(c, "again", "Two runs of "+d.Title, "Series", v)
}
