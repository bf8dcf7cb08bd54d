package lay

import (
	"fmt"
	"time"

	"wavekine/core/brief"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
)

// shapeWords are the schools as a series document names them.
var shapeWords = map[brief.Shape]string{
	brief.Ramp: "ramp", brief.SameSet: "same growing", brief.Different: "different", brief.TwoHolds: "two holds", brief.ByWeeks: "themes", brief.Wave: "hard-easy",
}

// Document is the layout as a series document, from a day on where the brief names none: its classes, why each is there, the ladders of
// what is learned. Days between class days are rest days. An error tells that it spans more days than a document holds.
func (l *Laid) Document(lib *movement.Library, today time.Time, seed int) (*plan.Series, error) {
	s := &plan.Series{Title: l.title(), Start: l.Brief.Start, Shape: shapeWords[l.Brief.Shape], Brief: l.Brief.String(lib), Seed: seed}
	if s.Start.IsZero() {
		s.Start = time.Date(today.Year(), today.Month(), today.Day(), 0, 0, 0, 0, time.UTC)
	}
	if l.Brief.Minutes.Min == l.Brief.Minutes.Max {
		s.Minutes = l.Brief.Minutes.Max
	}
	for _, d := range l.Brief.Rest {
		s.RestDays = append(s.RestDays, weekday(d))
	}
	at := s.Start
	for i := range l.Days {
		c := &l.Days[i]
		if !c.Date.IsZero() {
			if i == 0 {
				at, s.Start = c.Date, c.Date
			}
			for ; at.Before(c.Date); at = at.AddDate(0, 0, 1) {
				s.Days = append(s.Days, plan.Day{Rest: true, Kind: string(Rest), Because: "no class day"})
			}
		}
		d := plan.Day{Rest: c.Kind == Rest, Session: c.Session, Kind: string(c.Kind), Theme: c.Theme, Peak: c.Peak, Because: c.Why}
		if c.Session != nil {
			d.Title = c.Session.Title
		}
		for _, r := range c.Rows {
			d.Rows = append(d.Rows, plan.Why(r))
		}
		s.Days = append(s.Days, d)
		at = at.AddDate(0, 0, 1)
	}
	for _, th := range l.Threads {
		ld := plan.Ladder{Movement: th.Movement}
		for _, r := range th.Ladder.Rungs {
			ld.Steps = append(ld.Steps, plan.Rung{Level: r.Level, Dose: r.Dose})
		}
		s.Ladders = append(s.Ladders, ld)
	}
	if len(s.Days) > plan.MaxDays {
		return nil, fmt.Errorf("lay: the series reaches over %d days, and a document holds %d: fewer classes, or more of them a week", len(s.Days), plan.MaxDays)
	}
	return s, nil
}

func weekday(d time.Weekday) string {
	return [...]string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}[d]
}

func (l *Laid) title() string {
	about := "the whole body"
	if f := l.Brief.Focus; len(f) > 0 {
		about = f[0]
		if len(f) > 1 {
			about += " and " + f[1]
		}
	}
	return fmt.Sprintf("%d days, %s", l.Brief.Days, about)
}

// Report is the layout in figures, as the command line writes it.
type Report struct {
	Days     []DayReport    `json:"days"`
	Threads  []ThreadReport `json:"threads"`
	Findings []FoundReport  `json:"findings"`
	CouldNot []string       `json:"could_not"`
}

// FoundReport is a finding that is left in a day's class.
type FoundReport struct {
	Day      int             `json:"day"`
	Row      string          `json:"row"`
	Rule     string          `json:"rule"`
	Severity review.Severity `json:"severity"`
	Says     string          `json:"says"`
}

// DayReport is a day in figures.
type DayReport struct {
	Day     int      `json:"day"`
	Kind    Kind     `json:"kind"`
	Date    string   `json:"date,omitempty"`
	Theme   string   `json:"theme,omitempty"`
	Minutes float64  `json:"minutes,omitempty"` // at most, as asked for
	Seconds float64  `json:"seconds,omitempty"`
	Load    float64  `json:"load,omitempty"`
	Target  float64  `json:"target,omitempty"`
	New     []string `json:"new,omitempty"`
	Because string   `json:"because"`
}

// ThreadReport is a learned movement in figures.
type ThreadReport struct {
	Movement string       `json:"movement"`
	Rungs    []RungReport `json:"rungs"`
	Because  string       `json:"because"`
	Ladder   string       `json:"ladder"` // in words
}

// RungReport is one go.
type RungReport struct {
	Day   int     `json:"day"`
	Level int     `json:"level"`
	Dose  string  `json:"dose"`
	Work  float64 `json:"work"`
	Easy  bool    `json:"easy,omitempty"`
}

// Report gathers it.
func (l *Laid) Report(lib *movement.Library) Report {
	out := Report{Days: []DayReport{}, Threads: []ThreadReport{}, Findings: []FoundReport{}, CouldNot: append([]string{}, l.CouldNot...)}
	tenth := func(v float64) float64 { return float64(int(v*10+.5)) / 10 }
	for i := range l.Days {
		c := &l.Days[i]
		d := DayReport{Day: c.N, Kind: c.Kind, Theme: c.Theme, Minutes: c.Most.Seconds() / 60, Seconds: tenth(c.Length.Seconds()), Load: tenth(c.Load), Target: tenth(c.Target), New: c.New, Because: c.Why}
		if !c.Date.IsZero() {
			d.Date = c.Date.Format(time.DateOnly)
		}
		out.Days = append(out.Days, d)
		for _, f := range c.Found {
			out.Findings = append(out.Findings, FoundReport{c.N, f.Row.String(), f.Rule, f.Severity, f.Says})
		}
	}
	for _, th := range l.Threads {
		t := ThreadReport{Movement: th.Movement, Because: th.Because, Rungs: []RungReport{}, Ladder: th.Ladder.Words(lib)}
		for _, g := range th.Goes {
			r := th.Ladder.Rungs[g.Rung]
			t.Rungs = append(t.Rungs, RungReport{g.Day, r.Level, r.Dose.String(), tenth(r.Work), g.Easy})
		}
		out.Threads = append(out.Threads, t)
	}
	return out
}
