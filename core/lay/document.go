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
// what is learned. Days between class days are rest days. What was kept goes on: title, note, time, what is pinned. An error tells that it spans more
// days than a document holds.
func (l *Laid) Document(lib *movement.Library, today time.Time, seed int) (*plan.Series, error) {
	s := &plan.Series{Title: l.title()}
	if l.keep != nil && l.keep.s != nil {
		s = l.keep.s.Clone()
		s.RestDays, s.Minutes = nil, 0
	}
	old, placed := s.Days, map[int]bool{}
	s.Days, s.Start, s.Shape, s.Brief, s.Seed = nil, l.Brief.Start, shapeWords[l.Brief.Shape], l.Brief.String(lib), seed
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
		var d plan.Day
		if h := l.keep.day(&c.Day); h.d != nil {
			d, placed[h.n] = *h.d, true
		}
		if c.kept == nil {
			c.write(&d)
		}
		s.Days = append(s.Days, d)
		at = at.AddDate(0, 0, 1)
	}
	lost := 0
	for i := range old {
		if !placed[i+1] && (old[i].Pin.Day || len(old[i].Pinned) > 0) {
			lost++
		}
	}
	if lost > 0 {
		days := "pinned days have"
		if lost == 1 {
			days = "pinned day has"
		}
		l.cannot(fmt.Sprintf("%d %s no place in what the brief asks for now", lost, days))
	}
	var ladders []plan.Ladder
	for i := range l.Threads {
		ladders = append(ladders, l.Threads[i].document(l.keep.thread(l.Threads[i].Movement)))
	}
	s.Ladders = ladders
	return s, nil
}

// document is the thread as a series has it; one that was there goes on with its own steps.
func (th *Thread) document(old *plan.Ladder) plan.Ladder {
	ld := plan.Ladder{Movement: th.Movement}
	if old != nil {
		ld = *old
	}
	ld.Climb, ld.Because = th.Climb, clip(th.Because)
	if old == nil {
		for _, r := range th.Ladder.Rungs {
			step := plan.Rung{Level: r.Level, Dose: r.Dose}
			if r.Movement != th.Movement {
				step.Movement = r.Movement
			}
			ld.Steps = append(ld.Steps, step)
		}
	}
	return ld
}

// write puts the class on its day; what is pinned of the day, its note and whatever a later version says of it stay.
func (c *Class) write(d *plan.Day) {
	d.Rest, d.Session, d.Ref, d.Kind, d.Theme, d.Peak, d.Because = c.Kind == Rest, c.Session, "", string(c.Kind), c.Theme, c.Peak, clip(c.Why)
	d.Title, d.Rows, d.Target, d.From = "", nil, float64(int(c.Target*10+.5))/10, plan.Made{}
	if c.Session != nil {
		d.Title, d.From = c.Session.Title, c.From
		if d.From.IsZero() {
			d.From.Layout = true
		}
	}
	if c.Kind == Rest {
		d.Pinned = nil
	}
	for _, r := range c.Rows {
		d.Rows = append(d.Rows, plan.Why{Movement: r.Movement, Because: clip(r.Because)})
	}
}

// clip shortens a reason to what a document holds: it may name a class by a long title.
func clip(says string) string {
	if r := []rune(says); len(r) > plan.MaxTitle {
		return string(r[:plan.MaxTitle-1]) + "…"
	}
	return says
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
