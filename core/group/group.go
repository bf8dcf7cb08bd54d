// Package group puts a series on dates for people who do it together: from a day on, on certain weekdays, with pauses, days moved and days called off;
// and reads from calendars of others when there is no room for a class.
package group

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"wavekine/core/plan"
	"wavekine/core/strict"
)

// Format is the format of a group's document.
const Format = "wavekine.group/1"

// Limits of a group; judgement.
const (
	maxName   = 100
	maxPauses = 60
	maxSkips  = 400            // single dates without a class
	maxAlarm  = 7 * 24 * 60    // minutes
	farthest  = 3 * 366        // days from the first to the last class
	day       = 24 * time.Hour // of dates, which are midnights in UTC
)

// Pause is a stretch of dates without classes; the days move along.
type Pause struct {
	From, To time.Time // dates, both included
}

// Move is one day on another date; the others stay.
type Move struct {
	Day int // of the series, from 1
	To  time.Time
}

// Group is people who do a series together. The zero value has no start.
type Group struct {
	Name     string
	Start    time.Time      // midnight UTC; only the date counts
	Weekdays []time.Weekday // the class days; none: every day of the series is a day of the calendar
	Time     string         // "18:30"; empty: all day
	Zone     string         // IANA name, with Time
	Alarm    int            // minutes before; 0: none
	Pauses   []Pause
	Moves    []Move
	Off      []int       // days that are called off
	Skip     []time.Time // dates without a class, such as holidays: the days move along
}

// Dated is a day of a series on its date.
type Dated struct {
	Day   int // from 1
	Date  time.Time
	Moved bool
	Off   bool // called off
}

var errFar = fmt.Errorf("it would reach over more than %d days: fewer pauses, or more weekdays", farthest)

// Check tells what cannot be.
func (g *Group) Check() error {
	name := strings.TrimSpace(g.Name)
	if name == "" || len([]rune(g.Name)) > maxName {
		return fmt.Errorf("a group needs a name of 1 to %d characters", maxName)
	}
	if err := checkDate("the first day", g.Start); err != nil {
		return err
	}
	if t, err := plan.ParseTimeOfDay(g.Time); err != nil {
		return err
	} else if t != g.Time {
		return fmt.Errorf("%q is not a time of day: it looks like 18:30", g.Time)
	}
	if g.Zone != "" {
		if _, err := time.LoadLocation(g.Zone); err != nil || g.Zone == "Local" {
			return fmt.Errorf("%q is not a time zone: it looks like Europe/Lisbon", g.Zone)
		}
	}
	if g.Alarm < 0 || g.Alarm > maxAlarm {
		return fmt.Errorf("an alarm is up to %d minutes before", maxAlarm)
	}
	if len(g.Pauses) > maxPauses || len(g.Skip) > maxSkips || len(g.Moves) > plan.MaxDays || len(g.Off) > plan.MaxDays {
		return errors.New("that is more pauses, moved days or dates without a class than a series has days")
	}
	for _, p := range g.Pauses {
		if err := checkDate("a pause", p.From); err != nil {
			return err
		}
		if err := checkDate("a pause", p.To); err != nil {
			return err
		}
		if p.To.Before(p.From) {
			return fmt.Errorf("a pause from %s to %s ends before it begins", p.From.Format("2 January"), p.To.Format("2 January"))
		}
	}
	seen := map[int]bool{}
	for _, m := range g.Moves {
		if m.Day < 1 || m.Day > plan.MaxDays || seen[m.Day] {
			return fmt.Errorf("day %d: each day of a series is moved once", m.Day)
		}
		seen[m.Day] = true
		if err := checkDate("a moved day", m.To); err != nil {
			return err
		}
	}
	for _, n := range g.Off {
		if n < 1 || n > plan.MaxDays {
			return fmt.Errorf("day %d is no day of a series", n)
		}
	}
	for i, w := range g.Weekdays {
		if w < time.Sunday || w > time.Saturday || slices.Contains(g.Weekdays[:i], w) {
			return errors.New("each weekday once")
		}
	}
	return nil
}

func checkDate(what string, d time.Time) error {
	if _, err := plan.ParseDate(d.Format(time.DateOnly)); err != nil || d.IsZero() {
		return fmt.Errorf("%s: %w", what, errors.Join(errors.New("expected a date, as in 2026-05-01"), err))
	}
	return nil
}

// closed tells whether there is no class on a date.
func (g *Group) closed(d time.Time) bool {
	for _, p := range g.Pauses {
		if !d.Before(p.From) && !d.After(p.To) {
			return true
		}
	}
	return slices.ContainsFunc(g.Skip, func(s time.Time) bool { return s.Equal(d) })
}

// Dates puts the days of a series on dates, those that have a class or a title, in the order of the days. With weekdays only those count and the days of
// rest fall between; without, each day of the series is a day of the calendar. On dates that are paused or skipped nothing stands: what comes after moves
// along. A day that was moved stands where it was moved to.
func (g *Group) Dates(s *plan.Series) (out []Dated, err error) {
	at := g.Start
	for i := range s.Days {
		d := &s.Days[i]
		class := !d.Rest && (!d.Empty() || d.Title != "" || d.Note != "")
		if len(g.Weekdays) > 0 && !class { // between two class days there is rest enough
			continue
		}
		for g.closed(at) || len(g.Weekdays) > 0 && !slices.Contains(g.Weekdays, at.Weekday()) {
			if at = at.AddDate(0, 0, 1); at.Sub(g.Start) > farthest*day {
				return nil, errFar
			}
		}
		if class {
			n := Dated{Day: i + 1, Date: at, Off: slices.Contains(g.Off, i+1)}
			for _, m := range g.Moves {
				if m.Day == i+1 {
					n.Date, n.Moved = m.To, true
				}
			}
			out = append(out, n)
		}
		at = at.AddDate(0, 0, 1)
	}
	return out, nil
}

// On is the day of the series on a date, 0 where there is none.
func (g *Group) On(s *plan.Series, date time.Time) (int, error) {
	days, err := g.Dates(s)
	if err != nil {
		return 0, err
	}
	for _, d := range days {
		if !d.Off && d.Date.Format(time.DateOnly) == date.Format(time.DateOnly) {
			return d.Day, nil
		}
	}
	return 0, nil
}

// MoveDay puts a day on another date; on the date it would have anyway, the move is undone.
func (g *Group) MoveDay(s *plan.Series, n int, to time.Time) error {
	if n < 1 || n > len(s.Days) || s.Days[n-1].Rest {
		return fmt.Errorf("day %d has no class to move", n)
	}
	if err := checkDate("the new date", to); err != nil {
		return err
	}
	g.Moves = slices.DeleteFunc(slices.Clone(g.Moves), func(m Move) bool { return m.Day == n })
	days, err := g.Dates(s)
	if err != nil {
		return err
	}
	for _, d := range days {
		if d.Day == n && d.Date.Equal(to) {
			return nil
		}
	}
	g.Moves = append(g.Moves, Move{n, to})
	slices.SortFunc(g.Moves, func(a, b Move) int { return a.Day - b.Day })
	return nil
}

// CallOff calls a day off, or brings it back.
func (g *Group) CallOff(n int, off bool) {
	g.Off = slices.DeleteFunc(slices.Clone(g.Off), func(o int) bool { return o == n })
	if off {
		g.Off = append(g.Off, n)
		slices.Sort(g.Off)
	}
}

// PauseFor puts a pause in; one that overlaps becomes one with it.
func (g *Group) PauseFor(from, to time.Time) error {
	p := Pause{from, to}
	if err := (&Group{Name: "x", Start: from, Pauses: []Pause{p}}).Check(); err != nil {
		return err
	}
	var rest []Pause
	for _, o := range g.Pauses {
		if o.To.Before(p.From.AddDate(0, 0, -1)) || o.From.After(p.To.AddDate(0, 0, 1)) {
			rest = append(rest, o)
			continue
		}
		if o.From.Before(p.From) {
			p.From = o.From
		}
		if o.To.After(p.To) {
			p.To = o.To
		}
	}
	g.Pauses = append(rest, p)
	slices.SortFunc(g.Pauses, func(a, b Pause) int { return a.From.Compare(b.From) })
	return nil
}

var weekdayNames = []string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}

// Weekday reads a weekday, lower case.
func Weekday(name string) (time.Weekday, bool) {
	i := slices.Index(weekdayNames, strings.ToLower(strings.TrimSuffix(strings.TrimSpace(strings.ToLower(name)), "s")))
	return time.Weekday(max(i, 0)), i >= 0
}

// MarshalJSON writes the document.
func (g Group) MarshalJSON() ([]byte, error) {
	type span struct {
		From string `json:"from"`
		To   string `json:"to"`
	}
	type move struct {
		Day int    `json:"day"`
		To  string `json:"to"`
	}
	out := struct {
		Format   string   `json:"format"`
		Name     string   `json:"name"`
		Start    string   `json:"start"`
		Weekdays []string `json:"weekdays,omitempty"`
		Time     string   `json:"time,omitempty"`
		Zone     string   `json:"zone,omitempty"`
		Alarm    int      `json:"alarm,omitempty"`
		Pauses   []span   `json:"pauses,omitempty"`
		Moves    []move   `json:"moved,omitempty"`
		Off      []int    `json:"off,omitempty"`
		Skip     []string `json:"skip,omitempty"`
	}{Format: Format, Name: g.Name, Start: g.Start.Format(time.DateOnly), Time: g.Time, Zone: g.Zone, Alarm: g.Alarm, Off: g.Off}
	for _, w := range g.Weekdays {
		out.Weekdays = append(out.Weekdays, weekdayNames[w])
	}
	for _, p := range g.Pauses {
		out.Pauses = append(out.Pauses, span{p.From.Format(time.DateOnly), p.To.Format(time.DateOnly)})
	}
	for _, m := range g.Moves {
		out.Moves = append(out.Moves, move{m.Day, m.To.Format(time.DateOnly)})
	}
	for _, d := range g.Skip {
		out.Skip = append(out.Skip, d.Format(time.DateOnly))
	}
	return json.Marshal(out)
}

// Read reads a wavekine.group/1 document. Errors are *strict.Error with the JSON path.
func Read(text []byte) (*Group, error) {
	r, v := strict.Parse(text)
	if r.Err() != nil {
		return nil, r.Err()
	}
	o := v.Object()
	g := &Group{}
	if f := o.Need("format"); f.Text(60) != Format {
		f.Fail("expected %q", Format)
	}
	date := func(e strict.Value) time.Time {
		d, err := plan.ParseDate(e.Text(20))
		if err != nil {
			e.Fail("expected a date that exists, as in 2026-05-01")
		}
		return d
	}
	g.Name = o.Need("name").Text(maxName)
	g.Start = date(o.Need("start"))
	if e, ok := o.Get("weekdays"); ok {
		e.List(7, func(_ int, e strict.Value) {
			w, ok := Weekday(e.Text(20))
			if !ok {
				e.Fail("expected a weekday, as in sunday")
			}
			g.Weekdays = append(g.Weekdays, w)
		})
	}
	if e, ok := o.Get("time"); ok {
		g.Time = e.Text(20)
	}
	if e, ok := o.Get("zone"); ok {
		g.Zone = e.Text(60)
	}
	if e, ok := o.Get("alarm"); ok {
		g.Alarm = e.Int(0, maxAlarm)
	}
	if e, ok := o.Get("pauses"); ok {
		e.List(maxPauses, func(_ int, e strict.Value) {
			po := e.Object()
			g.Pauses = append(g.Pauses, Pause{date(po.Need("from")), date(po.Need("to"))})
			po.Done(false)
		})
	}
	if e, ok := o.Get("moved"); ok {
		e.List(plan.MaxDays, func(_ int, e strict.Value) {
			mo := e.Object()
			g.Moves = append(g.Moves, Move{mo.Need("day").Int(1, plan.MaxDays), date(mo.Need("to"))})
			mo.Done(false)
		})
	}
	if e, ok := o.Get("off"); ok {
		e.List(plan.MaxDays, func(_ int, e strict.Value) { g.Off = append(g.Off, e.Int(1, plan.MaxDays)) })
	}
	if e, ok := o.Get("skip"); ok {
		e.List(maxSkips, func(_ int, e strict.Value) { g.Skip = append(g.Skip, date(e)) })
	}
	o.Done(false)
	if err := r.Err(); err != nil {
		return nil, err
	}
	if err := g.Check(); err != nil {
		return nil, &strict.Error{Path: "$", Says: err.Error()}
	}
	return g, nil
}
