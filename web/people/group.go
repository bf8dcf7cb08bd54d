package people

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/progress"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

// gridWidth is how wide the days of the grid are drawn, in pixels; it is scaled to the place there is.
const gridWidth = 760

// groupView is the grid of a group.
type groupView struct {
	ID, Name, Series, SeriesID, Words string
	Head                              []byte
	Rows                              []gridRow
	Suggest                           []suggestView
	Together                          []togetherView
	Beside                            int
	Steps                             []stepView
	Behind, Wrong, Ready              []string
	Others                            []store.Mover // who is not in it
	Lead                              string        // the address of today's class
	LeadDay                           int
	Corrections                       []correctionView
	Over                              bool
	Post, StandIn                     bool
	Empty                             bool
	Tests                             []groupTest
}

type gridRow struct {
	ID, Name, Watch string
	Row             []byte
	Verdict, Grav   string
	Choice          string // what they chose about days they missed
}

// suggestView is something to decide about one mover.
type suggestView struct {
	Mover, MoverID, Group string
	Head, Says, Grav      string
	Movement, Verdict     string
	Does                  []doView
	Alone                 string
	Key, Back             string
	First                 bool
	Beside                bool // what is said of the group says it
}

// doView is what can be done about it.
type doView struct {
	Does, Label, Key string
	Rungs            int
	Watch            string
}

type togetherView struct {
	Movement, Name, Words string
}

type stepView struct {
	ID, Mover, MoverID, Group, Words, By, At, Back string
	Stopped                                        bool
	Cleared                                        bool
}

type correctionView struct{ Name, Words string }

type groupTest struct {
	Name string
	Says []string
}

// columns are the days of a series as the grid has them.
func columns(co *kit.Course, today time.Time) (out []draw.GroupDay) {
	dates := map[int]time.Time{}
	if co.Group.Group != nil {
		if ds, err := co.Group.Group.Dates(co.Series); err == nil {
			for _, d := range ds {
				dates[d.Day] = d.Date
			}
		}
	}
	for i := range co.Series.Days {
		_, tl := co.Class(i + 1)
		d := draw.GroupDay{Day: i + 1, Date: dates[i+1], Rest: tl == nil}
		if tl != nil {
			d.Planned = progress.Planned(tl)
		}
		d.Now = !d.Date.IsZero() && d.Date.Equal(today)
		out = append(out, d)
	}
	return out
}

// cellsOf are a mover's days as the grid has them.
func cellsOf(a *kit.Kit, ctx context.Context, co *kit.Course, m *Member, cols []draw.GroupDay) []draw.GroupCell {
	out := make([]draw.GroupCell, len(cols))
	plans := map[int]float64{}
	for _, c := range m.History.Classes { // of their own version
		plans[c.Day] = c.Effort()
	}
	for _, d := range m.Days {
		c := &out[d.Day-1]
		c.State, c.Felt, c.Plan = string(d.State), -1, cols[d.Day-1].Planned
		if d.Prior {
			c.State, c.Plan = "before", 0
		}
		if p, ok := plans[d.Day]; ok {
			c.Plan = p
		}
		if d.Moved && (d.State == progress.Coming || d.State == progress.OnNow) {
			c.Moved = d.Date.Format("2 Jan")
		}
		if said := m.In.Who.Said[d.Day]; said != nil {
			c.Felt, c.Hurt = said.Effort, said.Hurt()
			c.Wrong = slices.ContainsFunc(said.Felt, func(f progress.Felt) bool {
				mv, ok := co.Lib.Get(f.In)
				return f.In != "" && ok && !progress.Meant(mv, f.Place)
			})
		}
	}
	return out
}

// rowWords says a mover's days in words.
func rowWords(m *Member) string {
	out := []string{m.In.Name}
	for _, d := range m.Days {
		if d.State == progress.Coming {
			continue
		}
		if d.Prior {
			continue
		}
		says := fmt.Sprintf("day %d %s", d.Day, d.State)
		if said := m.In.Who.Said[d.Day]; said != nil {
			if said.Effort >= 0 {
				says += ", effort " + strconv.Itoa(said.Effort)
			}
			if said.Hurt() {
				says += ", it hurt"
			}
		}
		out = append(out, says)
	}
	return strings.Join(out, "; ")
}

func showGroup(a *kit.Kit, c *gin.Context) {
	r, err := roomOf(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v, err := viewGroup(a, c, r)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Show(c, "group", v.Name, "People", v)
}

func viewGroup(a *kit.Kit, c *gin.Context, r *Room) (v groupView, err error) {
	ctx, w, co := c.Request.Context(), kit.Who(c), r.Course
	v = groupView{ID: co.Group.ID, Name: co.Group.Group.Name, Series: co.Series.Title, SeriesID: co.Doc.ID, Post: a.Post.Seals(), StandIn: a.Post.StandIn(), Empty: len(r.Movers) == 0}
	cols := columns(co, r.Today)
	v.Head = draw.GroupHead(cols, gridWidth)
	goes, due := 0, 0
	var answers []progress.Answer
	for _, m := range r.Movers {
		row := gridRow{ID: m.In.ID, Name: m.In.Name, Watch: topicWords(m.In.Topics), Row: draw.GroupRow(cols, cellsOf(a, ctx, co, m, cols), gridWidth, rowWords(m)), Verdict: "stay"}
		for _, d := range m.Days {
			switch d.State {
			case progress.Done, progress.PartDone:
				goes++
				due++
			case progress.Missed, progress.LetGo:
				if !d.Prior {
					due++
				}
			}
		}
		if n := len(m.In.Chosen); n > 0 {
			ch := m.In.Chosen[n-1]
			row.Choice = map[progress.Kind]string{progress.GoOn: "goes on", progress.CatchUp: "catches up", progress.Along: "moves along, ends " + progress.End(m.Days).Format("2 Jan")}[ch.Kind]
		}
		if n := progress.Behind(m.Days); n > 0 {
			v.Behind = append(v.Behind, fmt.Sprintf("%s (%d)", kit.First(m.In.Name), n))
			row.Verdict = fmt.Sprintf("%d missed", n)
		}
		best := 9
		for _, s := range m.Suggest {
			v.Suggest = append(v.Suggest, suggestOf(a, ctx, co, m, s))
			if k := grave[s.Verdict]; k < best {
				best, row.Verdict, row.Grav = k, verdictWords[s.Verdict], gravOf[s.Verdict]
			}
			if s.Verdict == progress.Up && !slices.Contains(v.Ready, kit.First(m.In.Name)) {
				v.Ready = append(v.Ready, kit.First(m.In.Name))
			}
			if s.Verdict == progress.Back && !slices.Contains(v.Wrong, kit.First(m.In.Name)) {
				v.Wrong = append(v.Wrong, kit.First(m.In.Name))
			}
		}
		for _, cl := range m.History.Classes {
			answers = append(answers, progress.Answer{Class: cl, Said: m.In.Who.Said[cl.Day]})
		}
		v.Rows = append(v.Rows, row)
	}
	slices.SortStableFunc(v.Suggest, func(a, b suggestView) int {
		return grave[progress.Verdict(a.Verdict)] - grave[progress.Verdict(b.Verdict)]
	})
	for i := range v.Suggest {
		x := &v.Suggest[i]
		x.Beside = x.Verdict == string(progress.Up) && slices.ContainsFunc(r.Together, func(t progress.Together) bool { return t.Movement == x.Movement })
		if x.Beside {
			v.Beside++
		}
	}
	if i := slices.IndexFunc(v.Suggest, func(x suggestView) bool { return !x.Beside }); i >= 0 {
		v.Suggest[i].First = true
	}
	for _, t := range r.Together {
		v.Together = append(v.Together, togetherView{t.Movement, t.Name, fmt.Sprintf("%d of %d are ready: more than half. The others keep their rung.", len(t.Movers), t.Of)})
	}
	v.Steps = stepsOf(a, c, co, "")
	for i := range v.Steps {
		if m := r.member(v.Steps[i].MoverID); m != nil {
			v.Steps[i].Mover = m.In.Name
		}
	}
	for _, x := range progress.Corrections(co.Lib, answers) {
		if m, ok := co.Lib.Get(x.Movement); ok && len(v.Corrections) < 8 && (x.By >= .3 || x.By <= -.3) {
			how := "harder"
			if x.By < 0 {
				how = "easier"
			}
			v.Corrections = append(v.Corrections, correctionView{m.Name, fmt.Sprintf("%.1f %s than planned, %s", max(x.By, -x.By), how, counted(x.Answers, "answer", "answers"))})
		}
	}
	v.Words = fmt.Sprintf("%s, %s · %s", co.Series.Title, r.Where(), counted(len(r.Movers), "person", "people"))
	if due > 0 {
		v.Words += fmt.Sprintf(" · %d of %d goes done", goes, due)
	}
	if ds, derr := co.Group.Group.Dates(co.Series); derr == nil {
		v.Over = len(ds) > 0 && ds[len(ds)-1].Date.Before(r.Today)
		for _, d := range ds {
			if d.Date.Equal(r.Today) && !d.Off {
				v.Lead, v.LeadDay = "/sessions/"+kit.DayID(co.Doc.ID, d.Day)+"/lead", d.Day
			}
		}
	}
	v.Tests = groupTests(co, r)
	all, err := a.Store.Movers(ctx, w.Studio.ID)
	if err != nil {
		return v, err
	}
	for _, m := range all {
		if r.member(m.ID) == nil {
			v.Others = append(v.Others, m)
		}
	}
	return v, nil
}

func groupTests(co *kit.Course, r *Room) (out []groupTest) {
	for _, t := range progress.TestsOf(co.Lib, co.Series) {
		m, ok := co.Lib.Get(t.Slug)
		if !ok {
			continue
		}
		g := groupTest{Name: m.Name}
		for _, x := range r.Movers {
			ms := progress.Measures(t.Slug, x.In.Who.Said, nil)
			if len(ms) == 0 {
				continue
			}
			says := fmt.Sprintf("%s: day %d, %s", kit.First(x.In.Name), ms[len(ms)-1].Day, ms[len(ms)-1].Says())
			if len(ms) > 1 {
				says += "; before, " + ms[0].Says()
			}
			if ms[len(ms)-1].Apart {
				says += ": worth a look"
			}
			g.Says = append(g.Says, says)
		}
		if len(g.Says) > 0 {
			out = append(out, g)
		}
	}
	return out
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return strconv.Itoa(n) + " " + many
}

// suggestOf is a suggestion as it is shown, with what can be done about it.
func suggestOf(a *kit.Kit, ctx context.Context, co *kit.Course, m *Member, s progress.Suggestion) suggestView {
	v := suggestView{Mover: m.In.Name, MoverID: m.In.ID, Group: co.Group.ID, Says: s.Says, Grav: gravOf[s.Verdict], Movement: s.Movement, Verdict: string(s.Verdict), Alone: s.Alone, Key: s.Key()}
	if s.Now != "" && s.Verdict != progress.Stop {
		v.Says += " Last done at " + s.Now + "."
	}
	by := map[progress.Verdict]int{progress.Up: 1, progress.Back: -1}[s.Verdict]
	day, now, then, ahead := a.Ahead(ctx, co, m.In, m.Days, s.Movement, by)
	rung := ""
	switch {
	case by == 0:
	case !ahead:
		v.Says += " No day to come has it."
	case now == then:
		v.Says += fmt.Sprintf(" Day %d has it at %s, and no rung that way for them.", day, now)
	default:
		v.Says += fmt.Sprintf(" Day %d has it at %s.", day, now)
		rung = fmt.Sprintf(": day %d at %s", day, then)
	}
	stay := doView{Does: "stay", Label: "Stay", Key: "s"}
	switch s.Verdict {
	case progress.Up:
		v.Head = "ready in " + s.Name
		v.Does = []doView{{Does: "up", Label: "Up a rung" + rung, Key: "u", Rungs: 1}, stay}
	case progress.Back:
		v.Head = "too much in " + s.Name
		if len(s.Evidence) > 0 && len(s.Evidence[0].Felt) > 0 {
			v.Head = "feels " + s.Name + " in the wrong place"
		}
		v.Does = []doView{{Does: "back", Label: "Back a rung" + rung, Key: "b", Rungs: -1}, stay}
	case progress.Stop:
		v.Head = "hurt"
		if s.Name != "" {
			v.Head = "hurt in " + s.Name
			v.Does = append(v.Does, doView{Does: "stop", Label: "Leave it out until cleared", Key: "o"})
		} else if s.Topic != "" {
			v.Does = append(v.Does, doView{Does: "stop", Label: "Watch " + string(s.Topic) + " until cleared", Key: "o", Watch: string(s.Topic)})
		}
		stay.Label = "Cleared by whoever treats them"
		v.Does = append(v.Does, stay)
	}
	return v
}

// stepsOf lists what was decided in a group.
func stepsOf(a *kit.Kit, c *gin.Context, co *kit.Course, mover string) (out []stepView) {
	ss, err := a.Store.Steps(c.Request.Context(), co.Studio, co.Group.ID, mover)
	if err != nil {
		return nil
	}
	for i := len(ss) - 1; i >= 0; i-- {
		x := ss[i]
		name := x.Movement
		if m, ok := co.Lib.Get(x.Movement); ok {
			name = m.Name
		}
		words := map[string]string{"up": "one rung up", "back": "one rung back", "stay": "stays", "stop": "left out until cleared"}[x.Does]
		if name == "" {
			name = "Pain"
			if x.Does == "stop" {
				words = "watched until cleared"
			}
		}
		v := stepView{ID: x.ID, MoverID: x.MoverID, Group: co.Group.ID, Words: name + ": " + words, By: x.Teacher, At: x.At.In(kit.Who(c).Zone).Format("2 Jan 15:04"), Stopped: x.Does == "stop" && x.Cleared == nil && x.Movement != "", Cleared: x.Cleared != nil}
		if v.Cleared {
			v.Words += ", cleared"
		}
		out = append(out, v)
	}
	return out
}

// decide takes one of the things that can be done about what the check-ins say. The suggestion is worked out anew: what is not there any more is not decided.
func decide(a *kit.Kit, c *gin.Context) {
	r, err := roomOf(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	f := c.Request.PostForm
	if f.Get("together") != "" {
		err = decideTogether(a, c, r, f.Get("together"))
	} else {
		err = decideOne(a, c, r, f.Get("mover"), f.Get("movement"), f.Get("verdict"), f.Get("does"))
	}
	switch {
	case errors.Is(err, store.ErrDecided):
		a.Problem(c, http.StatusConflict, kit.Sentence(err))
		return
	case errors.Is(err, store.ErrNotFound) || errors.Is(err, kit.ErrUnknown):
		a.Problem(c, http.StatusConflict, "That is decided already, or something was said since: reload the page and look.")
		return
	case err != nil:
		a.Fail(c, err)
		return
	}
	a.Forget(r.Course.Studio)
	c.Redirect(http.StatusSeeOther, kit.BackTo(c.DefaultPostForm("back", "/groups/"+r.Course.Group.ID)))
}

func decideTogether(a *kit.Kit, c *gin.Context, r *Room, movement string) error {
	i := slices.IndexFunc(r.Together, func(t progress.Together) bool { return t.Movement == movement })
	if i < 0 {
		return store.ErrNotFound
	}
	for _, id := range r.Together[i].Movers {
		if err := decideOne(a, c, r, id, movement, string(progress.Up), string(progress.Up)); err != nil && !errors.Is(err, store.ErrDecided) {
			return err
		}
	}
	return nil
}

func decideOne(a *kit.Kit, c *gin.Context, r *Room, mover, movement, verdict, does string) error {
	ctx, w := c.Request.Context(), kit.Who(c)
	m := r.member(mover)
	if m == nil {
		return store.ErrNotFound
	}
	i := slices.IndexFunc(m.Suggest, func(s progress.Suggestion) bool {
		return s.Movement == movement && string(s.Verdict) == verdict
	})
	if i < 0 {
		return store.ErrNotFound
	}
	s := m.Suggest[i]
	step := progress.Step{ID: store.NewID(), Mover: mover, Movement: movement, Evidence: s.Evidence, Says: s.Says}
	for _, cl := range m.History.Classes { // everything that was said of it so far was seen
		if cl.Date.After(step.From) {
			step.From = cl.Date
		}
	}
	switch progress.Verdict(does) {
	case progress.Stay:
		step.Does = progress.Stay
	case progress.Up:
		step.Does, step.By = progress.Up, 1
	case progress.Back:
		step.Does, step.By = progress.Back, -1
	case progress.Stop:
		step.Does = progress.Stop
	default:
		return kit.ErrUnknown
	}
	if step.Does != progress.Stay && step.Does != s.Verdict {
		return kit.ErrUnknown
	}
	if err := a.Store.Decide(ctx, w.Studio.ID, r.Course.Group.ID, w.Teacher.ID, step); err != nil {
		return err
	}
	if step.Does == progress.Stop && movement == "" && s.Topic != "" { // pain of no movement: what to watch until it is cleared
		return a.WatchAlso(c, mover, string(s.Topic))
	}
	return nil
}

// steps takes a decision back, or clears what was stopped.
func steps(a *kit.Kit, c *gin.Context) {
	ctx, w, f := c.Request.Context(), kit.Who(c), c.Request.PostForm
	_, err := a.Store.GetGroup(ctx, w.Studio.ID, c.Param("id"))
	if err != nil {
		a.Fail(c, err)
		return
	}
	switch f.Get("do") {
	case "undo":
		err = a.Store.UndoStep(ctx, w.Studio.ID, f.Get("step"))
	case "clear":
		err = a.Store.ClearStep(ctx, w.Studio.ID, f.Get("step"))
	default:
		a.Refuse(c, kit.ErrUnknown)
		return
	}
	if err != nil && !errors.Is(err, store.ErrNotFound) { // done by somebody else already
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, kit.BackTo(c.DefaultPostForm("back", "/groups/"+c.Param("id"))))
}

// groupPeople puts people into a group.
func groupPeople(a *kit.Kit, c *gin.Context) {
	ctx, w := c.Request.Context(), kit.Who(c)
	if _, err := a.Store.GetGroup(ctx, w.Studio.ID, c.Param("id")); err != nil {
		a.Fail(c, err)
		return
	}
	for _, id := range c.PostFormArray("mover") {
		if err := a.Store.Join(ctx, w.Studio.ID, c.Param("id"), id, kit.Midnight(a.Now(c))); err != nil {
			a.Fail(c, err)
			return
		}
	}
	a.Forget(w.Studio.ID)
	c.Redirect(http.StatusSeeOther, "/groups/"+c.Param("id"))
}

// reviewView is the review of a series with a group.
type reviewView struct {
	ID, Name, Series string
	progress.Closing
	OverWords       string
	Corrections     []correctionView
	Climbed         []progress.Climbed
	Promised, Taken clock.Span
	Now             bool // it is not over yet
}

func showReview(a *kit.Kit, c *gin.Context) {
	r, err := roomOf(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	co := r.Course
	var people []progress.Person
	for _, m := range r.Movers {
		people = append(people, progress.Person{Name: m.In.Name, Days: m.Days, History: m.History, Rungs: m.In.Rungs})
	}
	var ids []string
	for i := range co.Series.Days {
		ids = append(ids, kit.DayID(co.Doc.ID, i+1))
	}
	runs, err := a.Store.RunsOf(c.Request.Context(), co.Studio, ids)
	if err != nil {
		a.Fail(c, err)
		return
	}
	var lengths []progress.Length
	for _, x := range runs {
		if x.Finished {
			lengths = append(lengths, progress.Length{Promised: clock.Span(max(x.PromisedMS, 0)), Taken: clock.Span(x.TakenMS)})
		}
	}
	cl, err := progress.Close(co.Lib, co.Series, people, lengths, r.Today)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := reviewView{ID: co.Group.ID, Name: co.Group.Group.Name, Series: co.Series.Title, Closing: cl, Promised: cl.Promised, Taken: cl.Taken, Climbed: cl.Climbed}
	switch {
	case cl.Answers == 0:
		v.OverWords = "nobody said how hard it was"
	case cl.Over > .25:
		v.OverWords = fmt.Sprintf("%.1f harder than planned on average, %s", cl.Over, counted(cl.Answers, "answer", "answers"))
	case cl.Over < -.25:
		v.OverWords = fmt.Sprintf("%.1f easier than planned on average, %s", -cl.Over, counted(cl.Answers, "answer", "answers"))
	default:
		v.OverWords = fmt.Sprintf("as planned on average, %s", counted(cl.Answers, "answer", "answers"))
	}
	for _, x := range cl.Corrections {
		if m, ok := co.Lib.Get(x.Movement); ok && len(v.Corrections) < 6 && (x.By >= .3 || x.By <= -.3) {
			how := "harder"
			if x.By < 0 {
				how = "easier"
			}
			v.Corrections = append(v.Corrections, correctionView{m.Name, fmt.Sprintf("%.1f %s, %s", max(x.By, -x.By), how, counted(x.Answers, "answer", "answers"))})
		}
	}
	if ds, err := co.Group.Group.Dates(co.Series); err == nil && len(ds) > 0 {
		v.Now = !ds[len(ds)-1].Date.Before(r.Today)
	}
	a.Show(c, "review", "Review: "+v.Name, "People", v)
}
