package plan

import (
	"encoding/json"
	"slices"
	"time"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/strict"
)

// SeriesFormat is the format this version writes.
const SeriesFormat = "wavekine.series/1"

// MaxDays is the longest series: 60 days. Series in use have 5 to 30.
const MaxDays = 60

// Shapes are the load shapes a series can be asked for; empty is none.
var Shapes = []string{"", "ramp", "same growing", "different", "two holds", "themes", "hard-easy"}

// Series is sessions laid on days.
type Series struct {
	Format   string
	Title    string
	Note     string
	Start    time.Time // midnight UTC of the first day; only the date counts
	Time     string    // "18:30" or empty for all day
	Zone     string    // IANA name, with Time
	Minutes  int       // a day; 0: not said
	Shape    string
	RestDays []string // weekdays, lower case
	Ladders  []Ladder
	Days     []Day
	extra    map[string]json.RawMessage
}

// Day is one date of a series, counted from the start without gaps.
type Day struct {
	Rest    bool
	Session *Session // inline
	Ref     string   // or the name of a session kept elsewhere
	Title   string
	Note    string
	Pinned  []string
	extra   map[string]json.RawMessage
}

// Empty tells whether nothing is on the day.
func (d Day) Empty() bool { return !d.Rest && d.Session == nil && d.Ref == "" }

// Ladder is the order of steps a movement climbs over a series.
type Ladder struct {
	Movement string
	Steps    []Rung
	extra    map[string]json.RawMessage
}

// Rung is one step of a ladder.
type Rung struct {
	Level int
	Dose  dose.Dose
}

// Date is the date of day i, counted from 0.
func (s *Series) Date(i int) time.Time { return s.Start.AddDate(0, 0, i) }

var weekdays = []string{"monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"}

// ParseDate reads "2026-05-01"; a date that does not exist is refused.
func ParseDate(text string) (time.Time, error) { return time.Parse(time.DateOnly, text) }

// ReadSeries reads a wavekine.series/1 document. Errors are *strict.Error with the JSON path.
func ReadSeries(text []byte, lib *movement.Library) (*Series, error) {
	r, v := strict.Parse(text)
	if r.Err() != nil {
		return nil, r.Err()
	}
	o := v.Object()
	s := &Series{}
	f := o.Need("format")
	s.Format = f.Text(60)
	keep := later(f, s.Format, SeriesFormat)
	s.Title = o.Need("title").Text(MaxTitle)
	if e, ok := o.Get("note"); ok {
		s.Note = e.Text(MaxNote)
	}
	st := o.Need("start")
	if d, err := ParseDate(st.Text(20)); err == nil && d.Year() >= 1990 && d.Year() < 2200 {
		s.Start = d
	} else {
		st.Fail("expected a date that exists, as in 2026-05-01")
	}
	if e, ok := o.Get("time"); ok {
		s.Time = e.Text(10)
		if _, err := time.Parse("15:04", s.Time); err != nil {
			e.Fail("%q: expected a time of day, as in 18:30", s.Time)
		}
	}
	if e, ok := o.Get("zone"); ok {
		s.Zone = e.Text(60)
		if _, err := time.LoadLocation(s.Zone); err != nil || s.Zone == "" || s.Zone == "Local" {
			e.Fail("%q: expected a time zone, as in Europe/Lisbon", s.Zone)
		}
	}
	if e, ok := o.Get("minutes"); ok {
		s.Minutes = e.Int(1, 180)
	}
	s.Shape = oneOf(o, "shape", Shapes[1:])
	if e, ok := o.Get("rest_days"); ok {
		e.List(7, func(_ int, e strict.Value) {
			w := e.Text(20)
			if !slices.Contains(weekdays, w) {
				e.Fail("%q: expected a weekday, as in sunday", w)
			}
			s.RestDays = append(s.RestDays, w)
		})
	}
	if e, ok := o.Get("ladders"); ok {
		e.List(100, func(_ int, e strict.Value) { s.Ladders = append(s.Ladders, readLadder(e, lib, keep)) })
	}
	o.Need("days").List(MaxDays, func(_ int, e strict.Value) { s.Days = append(s.Days, readDay(e, lib, keep)) })
	s.extra = o.Done(keep)
	if err := r.Err(); err != nil {
		return nil, err
	}
	return s, nil
}

func readLadder(v strict.Value, lib *movement.Library, keep bool) Ladder {
	o := v.Object()
	mv := o.Need("movement")
	l := Ladder{Movement: mv.Text(100)}
	m, ok := lib.Get(l.Movement)
	if !ok {
		mv.Fail("no movement %q in the library", l.Movement)
	}
	o.Need("steps").List(60, func(_ int, e strict.Value) {
		so := e.Object()
		rung := Rung{Level: 1}
		if lv, has := so.Get("level"); has {
			rung.Level = lv.Int(1, 20)
			if ok && rung.Level > len(m.Levels) {
				lv.Fail("%s has %d levels", l.Movement, len(m.Levels))
			}
		}
		so.Into("dose", dose.MaxText*4, &rung.Dose)
		so.Done(false)
		l.Steps = append(l.Steps, rung)
	})
	l.extra = o.Done(keep)
	return l
}

func readDay(v strict.Value, lib *movement.Library, keep bool) Day {
	o := v.Object()
	var d Day
	if e, ok := o.Get("rest"); ok {
		d.Rest = e.Bool()
	}
	if e, ok := o.Get("title"); ok {
		d.Title = e.Text(MaxTitle)
	}
	if e, ok := o.Get("note"); ok {
		d.Note = e.Text(MaxNote)
	}
	if e, ok := o.Get("session"); ok {
		if d.Rest {
			e.Fail("a rest day has no session")
		}
		if e.IsText() {
			d.Ref = e.Text(100)
		} else {
			d.Session = readSession(e, lib)
		}
	}
	if e, ok := o.Get("pinned"); ok {
		e.List(60, func(_ int, e strict.Value) { d.Pinned = append(d.Pinned, e.Text(100)) })
	}
	d.extra = o.Done(keep)
	return d
}

// MarshalJSON writes the document in its published form.
func (s *Series) MarshalJSON() ([]byte, error) {
	days := s.Days
	if days == nil {
		days = []Day{}
	}
	format := s.Format
	if format == "" {
		format = SeriesFormat
	}
	return strict.Join(struct {
		Format   string   `json:"format"`
		Title    string   `json:"title"`
		Note     string   `json:"note,omitempty"`
		Start    string   `json:"start"`
		Time     string   `json:"time,omitempty"`
		Zone     string   `json:"zone,omitempty"`
		Minutes  int      `json:"minutes,omitempty"`
		Shape    string   `json:"shape,omitempty"`
		RestDays []string `json:"rest_days,omitempty"`
		Ladders  []Ladder `json:"ladders,omitempty"`
		Days     []Day    `json:"days"`
	}{format, s.Title, s.Note, s.Start.Format(time.DateOnly), s.Time, s.Zone, s.Minutes, s.Shape, s.RestDays, s.Ladders, days}, s.extra)
}

// MarshalJSON writes the day.
func (d Day) MarshalJSON() ([]byte, error) {
	out := struct {
		Rest    bool     `json:"rest,omitempty"`
		Title   string   `json:"title,omitempty"`
		Note    string   `json:"note,omitempty"`
		Session any      `json:"session,omitempty"`
		Pinned  []string `json:"pinned,omitempty"`
	}{d.Rest, d.Title, d.Note, nil, d.Pinned}
	switch {
	case d.Session != nil:
		out.Session = d.Session
	case d.Ref != "":
		out.Session = d.Ref
	}
	return strict.Join(out, d.extra)
}

// MarshalJSON writes the ladder.
func (l Ladder) MarshalJSON() ([]byte, error) {
	type rung struct {
		Level int    `json:"level"`
		Dose  string `json:"dose,omitempty"`
	}
	steps := make([]rung, len(l.Steps))
	for i, s := range l.Steps {
		steps[i] = rung{s.Level, s.Dose.String()}
	}
	return strict.Join(struct {
		Movement string `json:"movement"`
		Steps    []rung `json:"steps"`
	}{l.Movement, steps}, l.extra)
}

// Length is the promised length of a day's session, or the series' minutes a day.
func (s *Series) Length(d Day) clock.Span {
	if d.Session != nil && d.Session.Target > 0 {
		return d.Session.Target
	}
	return clock.Span(s.Minutes) * clock.Minute
}
