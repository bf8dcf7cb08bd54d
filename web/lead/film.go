package lead

import (
	"errors"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/film"
	"wavekine/core/lead"
	"wavekine/core/run"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/web/kit"
)

// filmView is the page of a class on film: before it is filmed its script, after it what the film needs.
type filmView struct {
	ID, Title, Head  string
	Script           []film.Line
	Unshown          string
	Who              film.Who
	Runs             []filmRun
	Run, At, Marked  string // the run chosen; when the flash is in the film; when it was in the class
	Length           string
	Says             string // what was wrong with what was typed
	Query            string // of the files
	Chapters         string
	Description      string
	Slips            []film.Slip
	Labels           int
	From             string // what it is made from
	Total            int64
	Opening, Closing lead.Talk
}

type filmRun struct {
	ID, Says string
	On       bool
}

// asked is what of a film was asked for.
type asked struct {
	cl     *kit.Class
	run    *run.Run
	film   *film.Film
	frame  lead.Frame
	offset clock.Span
	marked clock.Span // of the flash, in the class; under 0: none
}

// errTyped is that something was typed that cannot be.
type errTyped struct{ err error }

func (e errTyped) Error() string { return e.err.Error() }
func (e errTyped) Unwrap() error { return e.err }

// seconds reads "12.5", "0:12" or "1:02:30"; nothing is 0.
func seconds(what, text string) (clock.Span, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return 0, nil
	}
	if v, err := strconv.ParseFloat(text, 64); err == nil && !math.IsNaN(v) && math.Abs(v) <= film.FarOffset.Seconds() {
		return clock.Seconds(v), nil
	}
	sign := clock.Span(1)
	if rest, ok := strings.CutPrefix(text, "-"); ok {
		sign, text = -1, rest
	}
	s, err := clock.Parse(text)
	if err != nil || s > film.FarOffset {
		return 0, errTyped{fmt.Errorf("%s: %q: expected a time as in 0:12 or 12.5", what, text)}
	}
	return sign * s, nil
}

// filmOf reads what was asked for. Where something that was typed is wrong the film is as if it had not been, and the error is an errTyped.
func filmOf(a *kit.Kit, c *gin.Context) (*asked, error) {
	cl, err := a.Class(c)
	if err != nil {
		return nil, err
	}
	if err := a.OnItsDay(c, cl); err != nil {
		return nil, err
	}
	x := &asked{cl: cl, marked: -1}
	if x.frame, err = frameOf(a, c, cl); err != nil {
		return nil, err
	}
	if id := c.Query("run"); id != "" {
		d, err := a.Store.Run(c.Request.Context(), kit.Who(c).Studio.ID, id)
		if err != nil {
			return nil, err
		}
		if d.Doc != nil && d.PlanID == cl.ID {
			if x.run, err = run.Read(d.Doc); err != nil {
				return nil, err
			}
		}
	}
	var typed error
	at, err := seconds("the flash", c.Query("at"))
	if err != nil {
		typed = err
	}
	length, err := seconds("the length of the film", c.Query("length"))
	if err != nil {
		typed = err
	}
	x.offset = at
	if x.run != nil {
		for _, e := range x.run.Events {
			if e.Does == run.Mark {
				x.marked = e.At
				break
			}
		}
		if x.marked > 0 && c.Query("at") != "" { // the flash ties the film to the clock
			x.offset -= x.marked
		}
	}
	if x.film, err = x.cut(x.offset); err != nil {
		typed = errTyped{err}
		x.offset = 0
		if x.film, err = x.cut(0); err != nil && x.run != nil { // nothing of that class can be put on a film: the plan can
			x.run, x.marked = nil, -1
			x.film, err = x.cut(0)
		}
		if err != nil {
			return nil, err
		}
	}
	if err := x.film.Within(length); err != nil {
		typed = errTyped{err}
	}
	return x, typed
}

func (x *asked) cut(offset clock.Span) (*film.Film, error) {
	if x.run == nil {
		return film.OfPlan(x.cl.Plan, x.cl.TL, offset)
	}
	f, err := film.OfRun(x.run, x.cl.Plan, x.planned(), offset)
	return f, err
}

// planned is the timeline that goes with the run: the plan may have changed since.
func (x *asked) planned() *timeline.Timeline {
	if len(x.run.Steps) != len(x.cl.TL.Steps) {
		return nil
	}
	return x.cl.TL
}

func showFilm(a *kit.Kit, c *gin.Context) {
	x, err := filmOf(a, c)
	var typed errTyped
	if err != nil && !errors.As(err, &typed) {
		a.Fail(c, err)
		return
	}
	cl := x.cl
	if len(cl.TL.Steps) == 0 {
		a.Problem(c, http.StatusUnprocessableEntity, "There is nothing to film yet: add a movement to this session first.")
		return
	}
	name := func(key string) string { return strings.TrimSpace(plan40(c.Query(key))) }
	v := filmView{ID: cl.ID, Title: cl.Plan.Title, Who: film.Who{Planned: name("planned"), Easier: name("easier"), Harder: name("harder")}, Run: c.Query("run"), At: c.Query("at"), Length: c.Query("length"), Total: int64(cl.TL.Total)}
	v.Opening, v.Closing = lead.OpeningOf(x.frame), lead.ClosingOf(x.frame)
	v.Script, v.Head = film.Script(cl.Plan, cl.TL, v.Opening, v.Closing, v.Who), film.Head(cl.TL, v.Opening, v.Closing)
	v.Unshown = lead.And(few(film.Unshown(cl.Plan, a.Lib, v.Who.Easier != "")))
	if err != nil {
		v.Says = err.Error()
	}
	rs, err := a.Store.RunsOf(c.Request.Context(), kit.Who(c).Studio.ID, []string{cl.ID})
	if err != nil {
		a.Fail(c, err)
		return
	}
	for _, r := range rs {
		if r.Remembered {
			continue
		}
		view := kit.ViewRun(r, kit.Who(c).Zone)
		v.Runs = append(v.Runs, filmRun{r.ID, view.When + ", " + view.Taken.String() + ", " + view.Teacher, r.ID == v.Run})
	}
	v.From = "the plan"
	if x.run != nil {
		v.From = "what was taken"
		v.Slips = film.SlipsOf(x.run, x.offset)
		if x.marked >= 0 {
			v.Marked = x.marked.String()
		}
	}
	q := url.Values{}
	for _, k := range []string{"run", "at", "length", "planned", "easier", "harder"} {
		if s := c.Query(k); s != "" {
			q.Set(k, s)
		}
	}
	v.Query = q.Encode()
	if b, err := x.film.ChapterList(); err == nil {
		v.Chapters = string(b)
	} else {
		v.Chapters = err.Error()
	}
	v.Labels = len(x.film.Labels())
	v.Description = film.Description(cl.Plan, cl.TL, a.Lib, x.frame, x.film.End-x.film.Begin)
	a.Render(c, http.StatusOK, "film", "layout", kit.Page{Title: cl.Plan.Title + ", on film", Who: kit.Who(c), Nav: "Sessions", Scripts: []string{"js/film.js"}, Data: v})
}

// plan40 is a name of at most 40 letters.
func plan40(s string) string {
	if r := []rune(strings.ToValidUTF8(s, "")); len(r) > 40 {
		return string(r[:40])
	}
	return strings.ToValidUTF8(s, "")
}

// filmFiles are the files of a film by their words: what a browser calls them and takes them for.
var filmFiles = map[string][2]string{
	"vtt": {" labels|vtt", "text/vtt; charset=utf-8"}, "srt": {" labels|srt", "application/x-subrip; charset=utf-8"}, "chapters": {" chapters|vtt", "text/vtt; charset=utf-8"},
	"chapter-list": {" chapters|txt", "text/plain; charset=utf-8"}, "ffmetadata": {" chapters|ffmetadata", "text/plain; charset=utf-8"}, "description": {" description|txt", "text/plain; charset=utf-8"},
	"pdf": {" script|pdf", "application/pdf"},
}

func filmFile(a *kit.Kit, c *gin.Context) {
	as := c.Param("as")
	file, ok := filmFiles[as]
	if !ok {
		a.Problem(c, http.StatusNotFound, "A film has no such file: labels, chapters, description and script are on its page.")
		return
	}
	x, err := filmOf(a, c)
	var typed errTyped
	switch {
	case errors.As(err, &typed):
		a.Problem(c, http.StatusUnprocessableEntity, typed.Error())
		return
	case err != nil:
		a.Fail(c, err)
		return
	}
	var b []byte
	switch as {
	case "description":
		b = []byte(film.Description(x.cl.Plan, x.cl.TL, a.Lib, x.frame, x.film.End-x.film.Begin))
	case "pdf":
		opening, closing := lead.OpeningOf(x.frame), lead.ClosingOf(x.frame)
		b, err = draw.Script(x.cl.Plan.Title, film.Head(x.cl.TL, opening, closing), film.Script(x.cl.Plan, x.cl.TL, opening, closing, film.Who{Planned: plan40(c.Query("planned")), Easier: plan40(c.Query("easier")), Harder: plan40(c.Query("harder"))}))
	default:
		b, _, err = x.film.Write(as)
	}
	switch {
	case errors.Is(err, film.ErrFew):
		a.Problem(c, http.StatusUnprocessableEntity, kit.Sentence(err))
	case err != nil:
		a.Fail(c, err)
	default:
		kind, ext, _ := strings.Cut(file[0], "|")
		kit.Attach(c, kit.FileName(x.cl.Plan.Title+kind, ext), file[1], b)
	}
}
