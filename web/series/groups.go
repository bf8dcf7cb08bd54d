package series

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/export"
	"wavekine/core/group"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

// groupView is a group with where it stands.
type groupView struct {
	ID, Name, Words string
	Rev             int
	Next            string // its next class
	Start, Time     string
	On              string
	Alarm           int
	Pauses          []string
	Odd             []string // days moved and called off
	Skip            int
	Address         bool
	Peaks           string // another group's peak on the same date
	Holiday         string // classes that fall on holidays of the house
}

type groupsView struct {
	Of     string
	Groups []groupView
	Start  string
	Days   int
	Off    bool   // the house has holidays
	Secret string // the address that was just made, told once
	Told   string // of which group
}

// viewGroups are the groups of a series.
func viewGroups(a *kit.Kit, c *gin.Context, d store.Document, s *plan.Series) (v groupsView, err error) {
	gs, err := a.Store.GroupsOf(c.Request.Context(), kit.Who(c).Studio.ID, d.ID)
	if err != nil {
		return v, err
	}
	now := a.Now(c)
	today := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	v = groupsView{Of: d.ID, Start: today.AddDate(0, 0, 1).Format(time.DateOnly), Days: len(s.Days), Off: len(kit.Who(c).House.Holidays) > 0}
	for i := range gs {
		g := gs[i].Group
		days, err := g.Dates(s)
		if err != nil {
			return v, err
		}
		w := groupView{ID: gs[i].ID, Name: g.Name, Rev: gs[i].Rev, Start: g.Start.Format(time.DateOnly), Time: g.Time, Alarm: g.Alarm, Address: gs[i].Address, Skip: len(g.Skip), Next: "it is over"}
		if len(days) > 0 {
			w.Words = days[0].Date.Format("Mon 2 January") + " to " + days[len(days)-1].Date.Format("Mon 2 January 2006")
		}
		var on []string
		for _, wd := range g.Weekdays {
			on = append(on, strings.ToLower(wd.String())+"s")
		}
		w.On = strings.Join(on, ", ")
		for _, x := range days {
			if x.Off {
				w.Odd = append(w.Odd, fmt.Sprintf("day %d called off", x.Day))
			} else if x.Moved {
				w.Odd = append(w.Odd, fmt.Sprintf("day %d on %s", x.Day, x.Date.Format("2 January")))
			}
			if !x.Off && !x.Date.Before(today) && w.Next == "it is over" {
				w.Next = fmt.Sprintf("day %d of %d on %s", x.Day, len(s.Days), x.Date.Format("Monday 2 January"))
			}
		}
		for _, p := range g.Pauses {
			w.Pauses = append(w.Pauses, p.From.Format("2 January")+" to "+p.To.Format("2 January"))
		}
		if w.Holiday, err = onHoliday(g, s, kit.Who(c).House.Holidays); err != nil {
			return v, err
		}
		for k := range gs {
			if k == i {
				continue
			}
			both, err := group.Peaks(g, s, gs[k].Group, s)
			if err != nil {
				return v, err
			}
			if len(both) > 0 {
				w.Peaks = fmt.Sprintf("its peak falls on that of %s, %s", gs[k].Group.Name, both[0].Format("2 January"))
			}
		}
		v.Groups = append(v.Groups, w)
	}
	return v, nil
}

// onHoliday says which classes of a group fall on holidays.
func onHoliday(g *group.Group, s *plan.Series, hs group.Holidays) (string, error) {
	clashes, err := g.Clashes(s, hs.Busy())
	if err != nil || len(clashes) == 0 {
		return "", err
	}
	var out []string
	for _, x := range clashes {
		what := x.What
		if what == "" {
			what = "a holiday"
		}
		out = append(out, fmt.Sprintf("day %d on %s, %s", x.Day, x.Date.Format("2 January"), what))
	}
	return strings.Join(out, "; "), nil
}

// showGroups shows the groups of a series.
func showGroups(a *kit.Kit, c *gin.Context) {
	d, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v, err := viewGroups(a, c, d, s)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Render(c, http.StatusOK, "groups", "groups", v)
}

// fillGroup puts what a form says of a group into it.
func fillGroup(c *gin.Context, g *group.Group) error {
	f := c.Request.PostForm
	g.Name = strings.TrimSpace(f.Get("name"))
	start, err := plan.ParseDate(f.Get("start"))
	if err != nil {
		return err
	}
	g.Start = start
	if g.Time, err = plan.ParseTimeOfDay(f.Get("time")); err != nil {
		return err
	}
	g.Weekdays = nil
	for _, w := range strings.FieldsFunc(strings.ReplaceAll(strings.ToLower(f.Get("on")), " and ", ","), func(r rune) bool { return r == ',' || r == ' ' }) {
		wd, ok := group.Weekday(w)
		if !ok {
			return fmt.Errorf("%q is no weekday: say tuesdays, thursdays, or nothing for every day", w)
		}
		g.Weekdays = append(g.Weekdays, wd)
	}
	g.Alarm = 0
	if t := strings.TrimSpace(f.Get("alarm")); t != "" {
		if g.Alarm, err = strconv.Atoi(t); err != nil {
			return fmt.Errorf("%q: an alarm is so many minutes before, or nothing", t)
		}
	}
	return g.Check()
}

// addGroup gives a series to a group.
func addGroup(a *kit.Kit, c *gin.Context) {
	d, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	g := &group.Group{Zone: kit.Who(c).Studio.Zone}
	if err := fillGroup(c, g); err != nil {
		a.Refuse(c, err)
		return
	}
	_, err = g.Dates(s)
	if err == nil && c.Request.PostForm.Get("holidays") != "" {
		_, err = g.Around(s, kit.Who(c).House.Holidays.Busy())
	}
	if err != nil {
		a.Refuse(c, err)
		return
	}
	if err := a.Store.CreateGroup(c.Request.Context(), kit.Who(c).Studio.ID, d.ID, store.NewID(), kit.Who(c).Teacher.ID, g); err != nil {
		a.FailSave(c, err)
		return
	}
	showGroups(a, c)
}

// groupOf finds the group of the address with its series.
func groupOf(a *kit.Kit, c *gin.Context) (g store.Group, d store.Document, s *plan.Series, err error) {
	studio := kit.Who(c).Studio.ID
	if g, err = a.Store.GetGroup(c.Request.Context(), studio, c.Param("id")); err != nil {
		return g, d, nil, err
	}
	if d, err = a.Store.Series.Get(c.Request.Context(), studio, g.SeriesID); err != nil {
		return g, d, nil, err
	}
	s, err = a.SeriesOf(d)
	return g, d, s, err
}

// editGroup changes a group's dates.
func editGroup(a *kit.Kit, c *gin.Context) {
	stored, d, s, err := groupOf(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	f, g := c.Request.PostForm, *stored.Group
	rev, err := strconv.Atoi(f.Get("rev"))
	if err != nil {
		a.Refuse(c, kit.ErrUnknown)
		return
	}
	date := func(name string) time.Time {
		t, derr := plan.ParseDate(f.Get(name))
		if derr != nil && err == nil {
			err = derr
		}
		return t
	}
	day := func() int {
		n, nerr := strconv.Atoi(strings.TrimSpace(f.Get("day")))
		if (nerr != nil || n < 1 || n > len(s.Days)) && err == nil {
			err = fmt.Errorf("%q: which day? 1 to %d", f.Get("day"), len(s.Days))
		}
		return n
	}
	switch f.Get("op") {
	case "head":
		err = fillGroup(c, &g)
	case "pause":
		from, to := date("from"), date("to")
		if err == nil {
			err = g.PauseFor(from, to)
		}
	case "unpause":
		g.Pauses, g.Skip = nil, nil
	case "move":
		n, to := day(), date("to")
		if err == nil {
			err = g.MoveDay(s, n, to)
		}
	case "off", "on":
		if n := day(); err == nil {
			g.CallOff(n, f.Get("op") == "off")
		}
	case "busy":
		err = around(a, c, &g, s)
	case "holidays":
		_, err = g.Around(s, kit.Who(c).House.Holidays.Busy())
	default:
		err = kit.ErrUnknown
	}
	if err == nil {
		if err = g.Check(); err == nil {
			_, err = g.Dates(s)
		}
	}
	if err != nil {
		a.Refuse(c, err)
		return
	}
	if rev != stored.Rev { // it need not be a number that the database can hold
		err = &store.Conflict{Have: rev, Want: stored.Rev}
	} else {
		_, err = a.Store.SaveGroup(c.Request.Context(), kit.Who(c).Studio.ID, stored.ID, rev, kit.Who(c).Teacher.ID, &g)
	}
	var conflict *store.Conflict
	switch {
	case errors.As(err, &conflict):
		a.Problem(c, http.StatusConflict, "Somebody else changed this group meanwhile. Nothing of yours was saved; reload to see theirs, then make your change again.")
		return
	case err != nil:
		a.FailSave(c, err)
		return
	}
	answerGroups(a, c, d, s, "", "")
}

// around plans around the busy times of a calendar that is given.
func around(a *kit.Kit, c *gin.Context, g *group.Group, s *plan.Series) error {
	text, err := kit.Calendar(c)
	if err != nil {
		return err
	}
	zone, err := time.LoadLocation(g.Zone)
	if err != nil {
		zone = time.UTC
	}
	busy, err := group.ReadBusy(text, g.Start, g.Start.AddDate(2, 0, 0), zone)
	if err != nil {
		return err
	}
	_, err = g.Around(s, busy)
	return err
}

// answerGroups shows the groups after a change.
func answerGroups(a *kit.Kit, c *gin.Context, d store.Document, s *plan.Series, told, secret string) {
	v, err := viewGroups(a, c, d, s)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v.Told, v.Secret = told, secret
	a.Render(c, http.StatusOK, "groups", "groups", v)
}

// deleteGroup takes the series away from a group.
func deleteGroup(a *kit.Kit, c *gin.Context) {
	g, d, s, err := groupOf(a, c)
	if err == nil {
		err = a.Store.DeleteGroup(c.Request.Context(), kit.Who(c).Studio.ID, g.ID)
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	answerGroups(a, c, d, s, "", "")
}

// groupAddress makes a new secret address of a group's calendar, or ends it.
func groupAddress(a *kit.Kit, c *gin.Context) {
	g, d, s, err := groupOf(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	studio, secret := kit.Who(c).Studio.ID, ""
	if c.Request.PostForm.Get("op") == "end" {
		err = a.Store.EndGroupAddress(c.Request.Context(), studio, g.ID)
	} else {
		secret, err = a.Store.GroupAddress(c.Request.Context(), studio, g.ID)
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	at := ""
	if secret != "" {
		at = a.AddressOf(c) + "/calendar/" + secret
	}
	answerGroups(a, c, d, s, g.ID, at)
}

// calendarOf writes the calendar of a group.
func calendarOf(a *kit.Kit, c *gin.Context, lib *movement.Library, g store.Group, d store.Document) ([]byte, error) {
	ctx := c.Request.Context()
	s, err := plan.ReadSeries(d.Doc, lib)
	if err != nil {
		return nil, err
	}
	kept, err := classesOf(a, c, g.StudioID, lib, s)
	if err != nil {
		return nil, err
	}
	once, err := a.Store.ClassDays(ctx, g.StudioID, d.ID)
	if err != nil {
		return nil, err
	}
	days, err := export.DaysOf(s, g.Group, lib, kept)
	if err != nil {
		return nil, err
	}
	details := map[int]string{}
	st, err := a.Store.StudioByID(ctx, g.StudioID)
	if err != nil {
		return nil, err
	}
	for _, t := range export.Announce(s, g.Group, days, kit.ReadHouse(st.House).Wording.Whole(), lib).Days {
		details[t.N] = t.Text
	}
	for i := range s.Days { // lengths and titles of kept sessions
		if k := kept[s.Days[i].Ref]; k != nil && s.Days[i].Session == nil {
			s.Days[i].Session = k
		}
	}
	stamp := d.UpdatedAt
	if g.UpdatedAt.After(stamp) {
		stamp = g.UpdatedAt
	}
	return export.GroupCalendar(s, g.Group, export.Issue{Key: g.ID, Sequence: g.Rev + d.Rev, Stamp: stamp, Once: once, Details: details})
}

// classesOf reads the kept sessions that a series names; those that are gone or cannot be read are left out.
func classesOf(a *kit.Kit, c *gin.Context, studio string, lib *movement.Library, s *plan.Series) (map[string]*plan.Session, error) {
	docs, err := a.Store.Sessions.ByID(c.Request.Context(), studio, kit.Refs(s))
	if err != nil {
		return nil, err
	}
	out := map[string]*plan.Session{}
	for id, doc := range docs {
		if p, err := plan.ReadSession(doc.Doc, lib); err == nil {
			out[id] = p
		}
	}
	return out, nil
}

// groupCalendar gives a group's calendar as a file.
func groupCalendar(a *kit.Kit, c *gin.Context) {
	g, d, s, err := groupOf(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	b, err := calendarOf(a, c, a.Lib, g, d)
	if err != nil {
		a.Fail(c, err)
		return
	}
	kit.Attach(c, kit.FileName(s.Title+" "+g.Group.Name, "ics"), "text/calendar; charset=utf-8", b)
}

// mostOften is how long it may be said how often and when something is done at home, in characters.
const mostOften = 80

// handOut gives a series as announcements, as a table, a booklet, hand-outs or a poster; for a group on its dates.
func handOut(a *kit.Kit, c *gin.Context) {
	d, s, err := readSeries(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	var g *group.Group
	name := s.Title
	if id := c.Query("group"); id != "" {
		stored, err := a.Store.GetGroup(c.Request.Context(), kit.Who(c).Studio.ID, id)
		if err == nil && stored.SeriesID != d.ID {
			err = store.ErrNotFound
		}
		if err != nil {
			a.Fail(c, err)
			return
		}
		g, name = stored.Group, s.Title+" "+stored.Group.Name
	}
	kept, err := classesOf(a, c, kit.Who(c).Studio.ID, a.Lib, s)
	if err != nil {
		a.Fail(c, err)
		return
	}
	days, err := export.DaysOf(s, g, a.Lib, kept)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	var b []byte
	ext, mime := "pdf", "application/pdf"
	sheets := func() map[int]export.Sheet {
		return draw.SheetsOf(days, func(d *export.SeriesDay) export.Sheet { return export.SheetOf(d.Class, d.TL, a.Lib) })
	}
	switch c.Query("as") {
	case "text":
		b, ext, mime = export.Announce(s, g, days, kit.Who(c).House.Wording.Whole(), a.Lib).Text(), "txt", "text/plain; charset=utf-8"
	case "markdown":
		b, ext, mime = export.Announce(s, g, days, kit.Who(c).House.Wording.Whole(), a.Lib).Markdown(), "md", "text/markdown; charset=utf-8"
	case "csv":
		b, err = export.BoardCSV(s, days, a.Lib)
		ext, mime = "csv", "text/csv; charset=utf-8"
	case "booklet":
		b, err = draw.Booklet(s, days, sheets(), false)
	case "handouts":
		b, err = draw.Booklet(s, days, sheets(), true)
	case "takehome":
		often := strings.TrimSpace(c.Query("often"))
		if r := []rune(often); len(r) > mostOften {
			err = fmt.Errorf("how often in up to %d characters: every day, mornings", mostOften)
			break
		}
		var sh export.Sheet
		if sh, err = export.TakeHomeOf(s, days, c.QueryArray("row"), a.Lib); err == nil {
			b, err = draw.TakeHome(sh, often)
		}
	case "poster":
		b, err = draw.Poster(s, days, export.Learned(s, a.Lib))
	default:
		err = kit.ErrUnknown
	}
	if err != nil {
		a.Refuse(c, err)
		return
	}
	kit.Attach(c, kit.FileName(name, ext), mime, b)
}
