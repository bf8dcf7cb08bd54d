package mover

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/adapt"
	"wavekine/core/clock"
	"wavekine/core/export"
	"wavekine/core/lead"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/progress"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

// view is the page of one day.
type view struct {
	Studio, Name, Teacher string
	Path                  string // where the page is
	Group                 string
	Open                  bool // without a name
	Title                 string
	Heading, Sub          string
	Note                  string
	Day                   int
	Wave                  []byte
	Kit                   string
	Changed               string
	Changes               []changeView
	Asks                  []string // what holds for all of it
	Rows                  []rowView
	Days                  []dayView
	Missed                string
	Again                 string // the choice that was made is another by now
	Offers                []offerView
	Chosen                string
	ChosenID              string
	Others                []otherView
	Remind, CanRemind     bool
	Erasing               bool
	Calendar              string
	Data                  data
	Said                  string
}

type otherView struct{ Name, URL string }

type changeView struct{ Name, Now, Says, Why string }

type rowView struct {
	Move    *movement.Movement
	Fig     []byte // drawn into the page: a movement of one studio
	Level   int
	Name    string
	Dose    string
	Words   string
	Changed bool
	Time    clock.Span
	Section string
}

type dayView struct {
	N         int
	On, State string
	Kind      progress.State
	Wave      []byte
	URL       string
	This      bool
	Title     string
}

type offerView struct {
	Kind  progress.Kind
	Name  string
	Seen  string // what is shown, for holding it against what is done
	Says  []string
	Waves []dayView
}

// data is what the page's script needs: the class to be led, and what is asked afterwards.
type data struct {
	Path   string         `json:"path"`
	Group  string         `json:"group"`
	Day    int            `json:"day"`
	Title  string         `json:"title"`
	Open   bool           `json:"open"`
	Stamp  string         `json:"stamp"` // changes with the class
	Total  int64          `json:"total"`
	Steps  []step         `json:"steps"`
	Offers []choice       `json:"offers"` // movements of which a level was offered
	Moves  []named        `json:"moves"`  // all of them, to say in which it was felt
	Meant  [][]string     `json:"meant"`  // of each of them the places where it is meant to be felt
	Tests  []testView     `json:"tests"`
	Words  map[string]any `json:"words"`
	Hard   []string       `json:"hard"`
	Said   any            `json:"said"` // what was said of the day before
	Keep   []string       `json:"keep"` // pages that are kept for the time without a network
}

// scriptWords are those of the words that the script says.
var scriptWords = func() map[string]any {
	out := map[string]any{"weekdays": weekdays}
	for _, k := range []string{"saved", "waiting", "memory", "refused", "tell", "state-done", "state-part", "getready", "of", "left", "skip", "paused", "howto", "pause", "goon", "start", "asbefore", "easier", "right", "leftside", "inwhich", "anyof", "hurtwhere", "touch", "hurtnot", "hurt", "which", "test", "seconds", "repetitions", "reach", "level", "measure", "stopit"} {
		out[k] = words[k]
	}
	return out
}()

type named struct {
	Slug string `json:"slug"`
	Name string `json:"name"`
}

type choice struct {
	named
	Levels []levelChoice `json:"levels"`
}

type levelChoice struct {
	Level int    `json:"level"`
	Says  string `json:"says"`
	Mine  bool   `json:"mine"`
}

type testView struct {
	named
	Unit  string `json:"unit"`
	Sides bool   `json:"sides"`
}

type step struct {
	lead.Step
	Move    string     `json:"move"` // the movement's slug
	Fig     string     `json:"fig,omitempty"`
	FigEasy string     `json:"figEasy,omitempty"`
	Aloud   []lead.Cue `json:"aloud,omitempty"`
}

// at is somebody in a series of theirs.
type at struct {
	co   *kit.Course
	me   *kit.MoverIn
	days []progress.MoverDay
}

// inSeries finds the series that somebody looks at: the one that is asked for, else the one with a class today, else the next to come, else the last.
func (v *visit) inSeries(a *kit.Kit, ctx context.Context, want string) (x *at, others []store.Group, err error) {
	gs, err := a.Store.MoverGroups(ctx, v.StudioID, v.ID)
	if err != nil || len(gs) == 0 {
		return nil, nil, err
	}
	best := -1
	for i := range gs {
		if want != "" && gs[i].ID != want {
			continue
		}
		co, err := a.CourseOf(ctx, v.StudioID, v.lib, v.house.Limits, gs[i])
		if err != nil {
			return nil, nil, err
		}
		ms, err := a.MoversIn(ctx, v.StudioID, gs[i], &v.Mover)
		if err != nil {
			return nil, nil, err
		}
		y := &at{co: co, me: ms[0]}
		if err := v.houseAnswer(a, ctx, y); err != nil {
			return nil, nil, err
		}
		if y.days, err = y.me.Who.Days(co.Series, gs[i].Group, v.today); err != nil {
			return nil, nil, err
		}
		rank := 1
		for _, d := range y.days {
			switch d.State {
			case progress.OnNow:
				rank = max(rank, 4)
			case progress.Coming:
				rank = max(rank, 3)
			case progress.Missed:
				rank = max(rank, 2)
			}
		}
		if rank > best {
			best, x = rank, y
		}
	}
	for _, g := range gs {
		if x != nil && g.ID != x.co.Group.ID {
			others = append(others, g)
		}
	}
	return x, others, nil
}

// houseAnswer does about missed days what the house always does.
func (v *visit) houseAnswer(a *kit.Kit, ctx context.Context, x *at) error {
	if v.house.Missed == "" {
		return nil
	}
	days, err := x.me.Who.Days(x.co.Series, x.co.Group.Group, v.today)
	// Whether days of before they came are theirs, they say themselves.
	if n := progress.Behind(days); err != nil || n == 0 || n < len(progress.MissedDays(days)) {
		return err
	}
	ch, err := x.me.Who.Offer(x.co.Series, x.co.Group.Group, x.co.Loads(), progress.Kind(v.house.Missed), v.today)
	if err != nil {
		return err
	}
	// The same on the same day is the same choice: two pages opened at once keep one.
	id := "house-" + v.today.Format("20060102") + "-" + x.co.Group.ID + "-" + v.ID
	if err := a.Store.SaveChoice(ctx, v.StudioID, v.ID, x.co.Group.ID, id, ch); err != nil {
		return err
	}
	x.me.Who.Choices = append(x.me.Who.Choices, ch)
	return nil
}

// dayOf is the day that is shown where none is asked for: today's, else the next, else the last.
func (x *at) dayOf() int {
	for _, want := range []progress.State{progress.OnNow, progress.Coming} {
		for _, d := range x.days {
			if d.State == want && (want == progress.OnNow || !d.Date.IsZero()) {
				return d.Day
			}
		}
	}
	if n := len(x.days); n > 0 {
		return x.days[n-1].Day
	}
	return 0
}

// doneToday is a class of today that is done already.
func (x *at) doneToday(today time.Time) int {
	for _, d := range x.days {
		if d.Date.Equal(today) && (d.State == progress.Done || d.State == progress.PartDone) {
			return d.Day
		}
	}
	return 0
}

func showPage(a *kit.Kit, c *gin.Context, v *visit) {
	ctx := c.Request.Context()
	x, others, err := v.inSeries(a, ctx, c.Query("g"))
	if err != nil {
		fail(a, c, err)
		return
	}
	_ = a.Store.LinkOpened(ctx, v.StudioID, v.ID, v.LinkID) // it only tells the teacher that the link arrived
	if x == nil {
		say(a, c, http.StatusOK, words["nogroup"])
		return
	}
	p, err := v.page(a, ctx, x, c.Query("day"))
	if err != nil {
		fail(a, c, err)
		return
	}
	if c.Query("again") != "" && p.Missed != "" {
		p.Again = words["again"]
	}
	for _, g := range others {
		p.Others = append(p.Others, otherView{g.Group.Name, v.path() + "?g=" + g.ID})
	}
	a.Render(c, http.StatusOK, "mover", "page", p)
}

// page works the page of a day out.
func (v *visit) page(a *kit.Kit, ctx context.Context, x *at, want string) (*view, error) {
	p := &view{
		Studio: v.studio(), Name: kit.First(v.Name), Path: v.path(), Group: x.co.Group.ID, Title: x.co.Series.Title, Remind: v.Remind, CanRemind: v.Email != "" && a.Post != nil,
		Calendar: v.path() + "/calendar.ics?g=" + x.co.Group.ID, Erasing: v.Erasing != nil,
	}
	var err error
	if p.Teacher, err = a.Store.OwnerName(ctx, v.StudioID); err != nil {
		return nil, err
	}
	p.Teacher = kit.First(p.Teacher)
	day, asked := x.dayOf(), false
	if n, err := strconv.Atoi(want); err == nil && slices.ContainsFunc(x.days, func(d progress.MoverDay) bool { return d.Day == n }) {
		day, asked = n, true
	} else if n := x.doneToday(v.today); n > 0 && day > 0 && !x.on(day, v.today) {
		day = n
	}
	p.head(x, day, v.today)
	for _, d := range x.days {
		p.Days = append(p.Days, v.dayView(x, d, d.Day == day))
	}
	v.missed(p, x)
	ver, ok, err := a.Version(ctx, x.co, x.me, day)
	if err != nil {
		return nil, err
	}
	if !ok {
		p.Note = words["noclass"]
		return p, nil
	}
	p.class(a, x.co, day, ver, v.house.Praise)
	p.Data.Path, p.Data.Group, p.Data.Day = v.path(), x.co.Group.ID, day
	p.Data.Keep = v.keep(x, day, asked)
	if said := x.me.Who.Said[day]; said != nil {
		p.Data.Said, p.Said = said, said.Says()
	}
	return p, nil
}

// on tells whether a day is on a date.
func (x *at) on(day int, date time.Time) bool {
	return slices.ContainsFunc(x.days, func(d progress.MoverDay) bool { return d.Day == day && d.Date.Equal(date) })
}

// keep are the addresses that the phone keeps: the page, the sheet, and tomorrow's.
func (v *visit) keep(x *at, day int, asked bool) []string {
	g := "g=" + x.co.Group.ID
	out := []string{v.path(), fmt.Sprintf("%s/sheet?%s&day=%d", v.path(), g, day), fmt.Sprintf("%s?%s&day=%d", v.path(), g, day)}
	for _, d := range x.days {
		if d.State == progress.Coming && d.Day != day {
			out = append(out, fmt.Sprintf("%s?%s&day=%d", v.path(), g, d.Day), fmt.Sprintf("%s/sheet?%s&day=%d", v.path(), g, d.Day))
			break
		}
	}
	return out
}

// head says which day it is.
func (p *view) head(x *at, day int, today time.Time) {
	p.Day = day
	for _, d := range x.days {
		if d.Day != day {
			continue
		}
		on := d.Date.Format("Monday 2 January")
		switch {
		case d.Date.IsZero():
			p.Heading = fmt.Sprintf("%s %d", kit.Sentence(fmt.Errorf("%s", words["day"])), day)
		case d.Date.Equal(today):
			p.Heading = fmt.Sprintf("%s, %s %d", words["today"], words["day"], day)
		case d.Date.Equal(today.AddDate(0, 0, 1)):
			p.Heading = fmt.Sprintf("%s, %s %d", words["tomorrow"], words["day"], day)
		default:
			p.Heading = fmt.Sprintf("%s %d, %s", words["theday"], day, on)
		}
		if x.onDate(today) == 0 && d.State == progress.Coming {
			p.Note = fmt.Sprintf(words["rest"]+" "+words["next"], day, on)
			if first := x.days[0]; first.Day == day && d.Date.After(today) {
				p.Note = fmt.Sprintf(words["begins"], on)
			}
		}
	}
	if len(x.days) > 0 && !slices.ContainsFunc(x.days, func(d progress.MoverDay) bool {
		return d.State == progress.OnNow || d.State == progress.Coming || d.State == progress.Undated
	}) {
		p.Note = words["over"]
	}
}

// onDate is the day on a date; 0: none.
func (x *at) onDate(date time.Time) int {
	for _, d := range x.days {
		if d.Date.Equal(date) && d.State != progress.LetGo && d.State != progress.CallOff {
			return d.Day
		}
	}
	return 0
}

func (v *visit) dayView(x *at, d progress.MoverDay, this bool) dayView {
	state := words["state-"+string(d.State)]
	if d.Prior {
		state = words["state-prior"]
	}
	y := dayView{N: d.Day, Kind: d.State, State: state, This: this, Title: x.co.Title(d.Day), URL: fmt.Sprintf("%s?g=%s&day=%d", v.path(), x.co.Group.ID, d.Day)}
	if !d.Date.IsZero() {
		y.On = d.Date.Format("Mon 2")
	}
	if _, tl := x.co.Class(d.Day); tl != nil {
		y.Wave = smallWave(tl)
	}
	return y
}

func smallWave(tl *timeline.Timeline) []byte { return draw.SmallWave(tl, 60, 26, "") }

// missed says what was missed, and what could be done about it.
func (v *visit) missed(p *view, x *at) {
	if n := len(x.me.Chosen); n > 0 {
		last := x.me.Chosen[n-1]
		p.Chosen, p.ChosenID = fmt.Sprintf(words["chosen"], last.On.Format("2 January"), words[string(last.Kind)]), last.ID
	}
	gone := progress.MissedDays(x.days)
	if len(gone) == 0 {
		return
	}
	form := words["missed"]
	switch prior := len(gone) - progress.Behind(x.days); {
	case prior == len(gone) && prior == 1:
		form = words["prior1"]
	case prior == len(gone):
		form = words["prior"]
	case len(gone) == 1:
		form = words["missed1"]
	}
	p.Missed = fmt.Sprintf(form, listed(gone))
	was := progress.End(x.days)
	for _, k := range progress.Kinds() {
		ch, err := x.me.Who.Offer(x.co.Series, x.co.Group.Group, x.co.Loads(), k, v.today)
		if err != nil {
			continue
		}
		with := progress.Who{Said: x.me.Who.Said, Choices: append(slices.Clone(x.me.Who.Choices), ch)}
		days, err := with.Days(x.co.Series, x.co.Group.Group, v.today)
		if err != nil {
			continue
		}
		o := offerView{Kind: k, Name: words[string(k)], Seen: ch.Sign()}
		for _, put := range ch.Puts {
			o.Says = append(o.Says, fmt.Sprintf(words["puts"], put.Day, put.On.Format("Mon 2 January")))
		}
		if ch.From != nil {
			o.Says = append(o.Says, fmt.Sprintf(words["ondate"], ch.From.Format("Mon 2 January")))
		}
		if len(ch.LetGo) > 0 {
			o.Says = append(o.Says, fmt.Sprintf(words["letgo"], listed(ch.LetGo)))
		}
		end := progress.End(days)
		form := words["ends"]
		if end.Equal(was) || k == progress.GoOn {
			form = words["endsas"]
		}
		o.Says = append(o.Says, fmt.Sprintf(form, end.Format("Mon 2 January")))
		slices.SortStableFunc(days, func(a, b progress.MoverDay) int { return a.Date.Compare(b.Date) }) // what is caught up stands among what comes
		for _, d := range days {
			if d.State == progress.Coming || d.State == progress.OnNow {
				o.Waves = append(o.Waves, v.dayView(x, d, false))
			}
		}
		p.Offers = append(p.Offers, o)
	}
}

func listed(ns []int) string {
	out := make([]string, len(ns))
	for i, n := range ns {
		out[i] = strconv.Itoa(n)
	}
	if n := len(out); n > 1 {
		return strings.Join(out[:n-1], ", ") + " and " + out[n-1]
	}
	return strings.Join(out, "")
}

// class puts the class of a day into the page.
func (p *view) class(a *kit.Kit, co *kit.Course, day int, ver *adapt.Version, praise []string) {
	s, tl := ver.Session, ver.Timeline
	title := co.Title(day)
	p.Kit = strings.TrimPrefix(export.KitSaid(tl.KitOf()), "nothing that it needs; ")
	p.Sub = fmt.Sprintf("%s · %d %s", title, int(tl.Total.Seconds()/60+.5), words["min"])
	p.Wave = draw.SmallWave(tl, 354, 60, title+": "+draw.WaveWords(tl))
	p.Asks = ver.Notes
	numbers := map[plan.Path]int{}
	for _, ch := range ver.Changes {
		p.Changes = append(p.Changes, changeOf(ch))
	}
	n := 0
	for _, sec := range export.SheetOf(s, tl, co.Lib).Sections {
		for bi, b := range sec.Blocks {
			for ri, r := range b.Rows {
				row := rowView{Move: r.Move, Level: max(1, r.Level), Name: r.Name, Dose: r.Dose, Time: r.Sum}
				if bi == 0 && ri == 0 {
					row.Section = sec.Title
				}
				if r.Sides != "" && r.Move != nil && !strings.Contains(row.Dose, r.Sides) {
					row.Dose += ", " + strings.ReplaceAll(r.Sides, ", ", " then ")
				}
				if ri == 0 && b.Words != "" {
					row.Words = b.Words
				}
				n++
				p.Rows = append(p.Rows, row)
			}
		}
	}
	k := 0
	s.Each(func(at plan.Path, _ *plan.Block, r *plan.Row) {
		k++
		numbers[at] = k
		if ch := ver.Of(at); ch != nil && k <= len(p.Rows) {
			p.Rows[k-1].Changed = true
			if ch.Says != "" {
				p.Rows[k-1].Words = strings.TrimSpace(p.Rows[k-1].Words + " " + ch.Says)
			}
		}
		if k <= len(p.Rows) {
			if m := p.Rows[k-1].Move; m != nil && m.Own {
				p.Rows[k-1].Fig = a.Figures.Inline(m, p.Rows[k-1].Level, "m")
			}
		}
	})
	p.Changed = summary(ver, numbers)
	p.Data = dataOf(a, co, day, ver, praise)
}

func changeOf(ch adapt.Change) changeView {
	v := changeView{Name: ch.Name, Says: ch.Says, Why: ch.Why}
	switch ch.Does {
	case adapt.Instead:
		v.Now = fmt.Sprintf(words["nowis"], ch.Now.Name)
	case adapt.Leave:
		v.Now = words["leftout"]
	case adapt.AtLevel:
		v.Now = fmt.Sprintf(words["atlevel"], ch.Now.Level)
	}
	if ch.Topic != "" {
		v.Why += fmt.Sprintf(words["foryour"], topicSaid(ch.Topic))
	}
	return v
}

// topicSaid is a topic as it is said to whom it belongs.
func topicSaid(t movement.Topic) string {
	if t.IsState() {
		return fmt.Sprintf(words["notes"], t)
	}
	return string(t)
}

// summary says in a line or two what is not as planned, by the numbers of the rows.
func summary(ver *adapt.Version, numbers map[plan.Path]int) string {
	if len(ver.Changes) == 0 {
		return words["asplanned"]
	}
	var left []string
	by := map[adapt.Does][]int{}
	for _, ch := range ver.Changes {
		if ch.Does == adapt.Leave {
			left = append(left, ch.Name)
			continue
		}
		by[ch.Does] = append(by[ch.Does], numbers[ch.At])
	}
	var out []string
	for _, x := range []struct {
		does  adapt.Does
		words string
	}{{adapt.Instead, words["insteadin"]}, {adapt.AtLevel, words["easierin"]}, {adapt.InWords, words["wordin"]}} {
		if ns := by[x.does]; len(ns) > 0 {
			slices.Sort(ns)
			out = append(out, fmt.Sprintf(x.words, listed(slices.Compact(ns))))
		}
	}
	if len(left) > 0 {
		out = append(out, fmt.Sprintf(words["leftoutof"], strings.Join(left, ", ")))
	}
	return strings.Join(out, " ")
}

// dataOf is what the script needs of a class.
func dataOf(a *kit.Kit, co *kit.Course, day int, ver *adapt.Version, praise []string) data {
	d := data{Offers: []choice{}, Moves: []named{}, Meant: [][]string{}, Tests: []testView{}, Title: co.Title(day), Total: int64(ver.Timeline.Total), Words: scriptWords, Stamp: fmt.Sprintf("%d.%d.%d", co.Doc.Rev, day, ver.Timeline.Total)}
	for n := range progress.MostHard + 1 {
		d.Hard = append(d.Hard, progress.HardWord(n))
	}
	aloud := lead.Aloud(ver.Session, ver.Timeline, praise...)
	for i, l := range lead.Steps(ver.Session, ver.Timeline) {
		st := step{Step: l, Aloud: aloud[i]}
		st.Mirrored = lead.Told{} // nobody is faced, and nobody looks on
		st.Check, st.Phases, st.Assist, st.Alone, st.Facing, st.Faces, st.OnMat, st.Dose, st.EachWay = nil, nil, "", "", "", "", "", "", false
		if m := ver.Timeline.Steps[i].Move; m != nil {
			st.Move = movement.BaseSlug(m.Slug)
			if m = m.Drawn(); m != nil {
				st.Fig = a.Figures.Moving(m, max(1, l.Shown))
				if l.EasyLvl > 0 {
					st.FigEasy = a.Figures.Moving(m, l.EasyLvl)
				}
			}
		}
		d.Steps = append(d.Steps, st)
	}
	seen := map[string]bool{}
	ver.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		m, err := r.Of(co.Lib)
		slug := movement.BaseSlug(r.Name())
		if err != nil || m == nil || seen[slug] {
			return
		}
		seen[slug] = true
		d.Moves = append(d.Moves, named{slug, m.Name})
		meant := []string{}
		for _, p := range progress.Places() {
			if progress.Meant(m, p.Name) {
				meant = append(meant, p.Name)
			}
		}
		d.Meant = append(d.Meant, meant)
		if co.Series.Ladder(slug) == nil || m.Inline { // asked of what climbs
			return
		}
		level := max(1, r.Level)
		ch := choice{named: named{slug, m.Name}}
		for _, n := range []int{level - 1, level, level + 1} {
			if n < 1 || n > len(m.Levels) || n != level && r.Options != nil && !slices.Contains(r.Options, n) {
				continue
			}
			ch.Levels = append(ch.Levels, levelChoice{n, m.At(n).Changes, n == level})
		}
		if len(ch.Levels) > 1 && len(d.Offers) < 3 {
			d.Offers = append(d.Offers, ch)
		}
	})
	d.Tests = append(d.Tests, testsOf(co, day)...)
	return d
}

// testsOf are the movements that are measured on a day: those that the series' brief names.
func testsOf(co *kit.Course, day int) (out []testView) {
	for _, t := range progress.TestsOf(co.Lib, co.Series) {
		if !slices.Contains(t.Days, day) {
			continue
		}
		m, ok := co.Lib.Get(t.Slug)
		if !ok {
			continue
		}
		out = append(out, testView{named{t.Slug, m.Name}, t.Measure, m.Sides == movement.Each})
	}
	return out
}
