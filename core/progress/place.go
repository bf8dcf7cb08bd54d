package progress

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"wavekine/core/group"
	"wavekine/core/plan"
	"wavekine/core/series"
	"wavekine/core/timeline"
)

// State is how a day of a series stands for one mover.
type State string

// How a day stands.
const (
	Coming   State = "coming"
	OnNow    State = "today"
	Done     State = "done"
	PartDone State = "part"
	Missed   State = "missed"  // its date is over, and nothing was said of it
	LetGo    State = "let go"  // missed, and they went on
	CallOff  State = "off"     // called off for the group
	Undated  State = "undated" // an open series has no dates
)

// MoverDay is a day of a series for one mover.
type MoverDay struct {
	Day   int
	Date  time.Time // midnight UTC
	State State
	Moved bool // on another date than the group's
	Prior bool // from before they came: open to be done, but nothing that they missed
}

// Kind is what is done about missed days.
type Kind string

// What can be done about missed days.
const (
	GoOn    Kind = "go on"    // with the group's dates: what was missed is let go
	Along   Kind = "along"    // everything moves along
	CatchUp Kind = "catch up" // what was missed is done beside what comes
)

// Kinds lists what can be done about missed days.
func Kinds() []Kind { return []Kind{GoOn, Along, CatchUp} }

// Put is a day on a date.
type Put struct {
	Day int       `json:"day"`
	On  time.Time `json:"on"`
}

// Choice is what a mover chose to do about days that they had missed by a date. What it means was worked out when they saw it and is kept with it.
type Choice struct {
	Kind   Kind       `json:"kind"`
	On     time.Time  `json:"on"`               // the day it was chosen
	Missed []int      `json:"missed"`           // the days that it is about
	From   *time.Time `json:"from,omitempty"`   // along: the date from which everything that is left is done
	Kept   []Put      `json:"kept,omitempty"`   // along: what keeps the date it had, because it was done, let go or called off
	Puts   []Put      `json:"puts,omitempty"`   // catch up: where what was missed is done
	LetGo  []int      `json:"let_go,omitempty"` // what is not done
}

// DayLoad is what a day asks for, as far as catching up needs to know.
type DayLoad struct {
	Load float64
	Hard []string // regions that work hard
	Peak bool
}

// LoadsOf works out what each day of a series asks for, by day from 1. Days that name a kept session have it in kept. Cost grows with days x steps.
func LoadsOf(s *plan.Series, times map[int]*timeline.Timeline) map[int]DayLoad {
	out := map[int]DayLoad{}
	for n, tl := range times {
		out[n] = DayLoad{Load: series.Load(tl), Hard: series.Hard(tl), Peak: s.Days[n-1].Peak}
	}
	return out
}

// Who is a mover in a group's series: what they chose, and what they said of their days.
type Who struct {
	Joined  time.Time // the date on which they came into the group; zero: from the beginning
	Choices []Choice
	Said    map[int]*CheckIn // the latest word on each day
}

func (w *Who) did(day int) Did {
	if c := w.Said[day]; c != nil {
		return c.Did
	}
	return ""
}

// Days puts the days of a series on a mover's own dates, in the order of the days. today is a date at midnight UTC. A nil group is an open series: then nothing has a date.
func (w *Who) Days(s *plan.Series, g *group.Group, today time.Time) ([]MoverDay, error) {
	if g == nil {
		return w.undated(s), nil
	}
	own, err := w.own(s, g)
	if err != nil {
		return nil, err
	}
	theirs, err := g.Dates(s)
	if err != nil {
		return nil, err
	}
	was := map[int]time.Time{}
	for _, d := range theirs {
		was[d.Day] = d.Date
	}
	let, put := map[int]bool{}, map[int]time.Time{}
	for _, c := range w.Choices {
		if c.Kind == Along && c.From != nil { // what was put on a date before moves along too
			clear(put)
		}
		for _, n := range c.LetGo {
			let[n] = true
		}
		for _, p := range c.Puts {
			put[p.Day] = p.On
			let[p.Day] = false
		}
	}
	out := make([]MoverDay, 0, len(own))
	for _, d := range own {
		x := MoverDay{Day: d.Day, Date: d.Date, Moved: !d.Date.Equal(was[d.Day])}
		if on, ok := put[d.Day]; ok {
			x.Date, x.Moved = on, true
		}
		switch did := w.did(d.Day); {
		case did == All:
			x.State = Done
		case did == Part:
			x.State = PartDone
		case d.Off:
			x.State = CallOff
		case let[d.Day]:
			x.State = LetGo
		case x.Date.Before(today):
			x.State = Missed
		case x.Date.Equal(today) && did == Nothing:
			x.State = Missed
		case x.Date.Equal(today):
			x.State = OnNow
		default:
			x.State = Coming
		}
		x.Prior = (x.State == Missed || x.State == LetGo) && !d.Date.Equal(today) && d.Date.Before(w.Joined)
		out = append(out, x)
	}
	return out, nil
}

func (w *Who) undated(s *plan.Series) (out []MoverDay) {
	for i := range s.Days {
		if d := &s.Days[i]; d.Rest || d.Empty() && d.Title == "" {
			continue
		}
		x := MoverDay{Day: i + 1, State: Undated}
		switch w.did(i + 1) {
		case All:
			x.State = Done
		case Part:
			x.State = PartDone
		}
		out = append(out, x)
	}
	return out
}

// own are the group's dates with everything that moved along for this mover.
func (w *Who) own(s *plan.Series, g *group.Group) ([]group.Dated, error) {
	out, err := g.Dates(s)
	if err != nil {
		return nil, err
	}
	for _, c := range w.Choices {
		if c.Kind != Along || c.From == nil {
			continue
		}
		if out, err = c.along(s, g, out); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// along puts every day that is not kept on the group's dates from a date on, in the order of the days; what a group has moved or called off by name is theirs.
func (c *Choice) along(s *plan.Series, g *group.Group, dated []group.Dated) ([]group.Dated, error) {
	kept := map[int]time.Time{}
	for _, k := range c.Kept {
		kept[k.Day] = k.On
	}
	left, of := *s, []int{}
	left.Days = nil
	for i := range s.Days {
		if _, is := kept[i+1]; is || len(left.Days) == 0 && s.Days[i].Rest {
			continue
		}
		left.Days, of = append(left.Days, s.Days[i]), append(of, i+1)
	}
	theirs := *g
	theirs.Start, theirs.Moves, theirs.Off = *c.From, nil, nil
	ds, err := theirs.Dates(&left)
	if err != nil {
		return nil, err
	}
	now := map[int]time.Time{}
	for _, d := range ds {
		now[of[d.Day-1]] = d.Date
	}
	out := slices.Clone(dated)
	for i := range out {
		if at, is := kept[out[i].Day]; is {
			out[i].Date = at
		} else if at, is := now[out[i].Day]; is {
			out[i].Date, out[i].Moved = at, false
		}
	}
	return out, nil
}

// MissedDays are the days that wait for a choice; those of before they came too.
func MissedDays(days []MoverDay) (out []int) {
	for _, d := range days {
		if d.State == Missed {
			out = append(out, d.Day)
		}
	}
	return out
}

// Behind is how many days somebody has missed and not decided about, since they came.
func Behind(days []MoverDay) (n int) {
	for _, d := range days {
		if d.State == Missed && !d.Prior {
			n++
		}
	}
	return n
}

// End is the last date of somebody's days; zero where they have none.
func End(days []MoverDay) (end time.Time) {
	for _, d := range days {
		if d.State != LetGo && d.State != CallOff && d.Date.After(end) {
			end = d.Date
		}
	}
	return end
}

// ErrNothingMissed says that there is nothing to choose about.
var ErrNothingMissed = errors.New("nothing was missed: there is nothing to choose")

// Offer works out what a choice would mean today: nothing is changed until it is taken. What it cannot do, it says in LetGo.
func (w *Who) Offer(s *plan.Series, g *group.Group, loads map[int]DayLoad, kind Kind, today time.Time) (Choice, error) {
	c := Choice{Kind: kind, On: today}
	if g == nil {
		return c, errors.New("an open series has no dates to miss")
	}
	days, err := w.Days(s, g, today)
	if err != nil {
		return c, err
	}
	c.Missed = MissedDays(days)
	if len(c.Missed) == 0 {
		return c, ErrNothingMissed
	}
	switch kind {
	case GoOn:
		c.LetGo = slices.Clone(c.Missed)
		return c, nil
	case Along:
		return along(c, days, today), nil
	case CatchUp:
		c.Puts, c.LetGo = catchUp(days, c.Missed, loads, today)
		return c, nil
	}
	return c, fmt.Errorf("%q is nothing that can be done about missed days", kind)
}

// Sign tells two choices apart by what they do to somebody's days, not by when they were made: what was shown is held against what would be done now.
func (c *Choice) Sign() string {
	d := *c
	d.On = time.Time{}
	b, err := json.Marshal(d)
	if err != nil { // dates and numbers only
		return ""
	}
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:8])
}

// along puts what is left on the group's dates from today on; from tomorrow, where a class of today is done or it was said that it is not today.
func along(c Choice, days []MoverDay, today time.Time) Choice {
	from := today
	for _, d := range days {
		if d.Date.Equal(today) && (d.State == Done || d.State == PartDone || d.State == Missed) {
			from = today.AddDate(0, 0, 1)
		}
		if d.State != Missed && d.State != Coming && d.State != OnNow {
			c.Kept = append(c.Kept, Put{d.Day, d.Date})
		}
	}
	c.From = &from
	return c
}

// mostADay is how many classes somebody who catches up does in a day.
const mostADay = 2

// catchUp finds a date for each missed day, the easy ones first and each as early as can be: at most two classes in a day, never two that work the same region hard, and never two
// peaks in a row. What finds none up to a week after the last date is let go. It is exact for the order in which they are placed: where an early date bars a later one, the search
// goes back.
func catchUp(days []MoverDay, missed []int, loads map[int]DayLoad, today time.Time) (puts []Put, let []int) {
	order := slices.Clone(missed)
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(loads[a].Load, loads[b].Load) })
	last := End(days)
	if last.Before(today) {
		last = today
	}
	last = last.AddDate(0, 0, 7)
	on := map[time.Time][]int{}
	for _, d := range days {
		if d.State != Missed && d.State != LetGo && d.State != CallOff && !d.Date.Before(today.AddDate(0, 0, -1)) {
			on[d.Date] = append(on[d.Date], d.Day)
		}
	}
	refused := map[time.Time]bool{} // "not today" was said
	for _, d := range days {
		if d.State == Missed && d.Date.Equal(today) {
			refused[today] = true
		}
	}
	peak := func(at time.Time) bool {
		return slices.ContainsFunc(on[at], func(n int) bool { return loads[n].Peak })
	}
	fits := func(n int, at time.Time) bool {
		if len(on[at]) >= mostADay || refused[at] {
			return false
		}
		for _, o := range on[at] {
			if slices.ContainsFunc(loads[n].Hard, func(r string) bool { return slices.Contains(loads[o].Hard, r) }) {
				return false
			}
		}
		return !loads[n].Peak || !peak(at) && !peak(at.AddDate(0, 0, -1)) && !peak(at.AddDate(0, 0, 1))
	}
	var best []Put
	steps := 0
	var place func(k int, got []Put) bool
	place = func(k int, got []Put) bool {
		if len(got) > len(best) {
			best = slices.Clone(got)
		}
		if k == len(order) || steps > 20000 {
			return k == len(order)
		}
		for at := today; !at.After(last); at = at.AddDate(0, 0, 1) {
			steps++
			if !fits(order[k], at) {
				continue
			}
			on[at] = append(on[at], order[k])
			if place(k+1, append(got, Put{order[k], at})) {
				return true
			}
			on[at] = on[at][:len(on[at])-1]
		}
		return false
	}
	if !place(0, nil) { // not all of them can be had: as many as there is room for, and the rest after them
		for _, n := range order {
			if slices.ContainsFunc(best, func(p Put) bool { return p.Day == n }) {
				continue
			}
			let = append(let, n)
		}
	}
	slices.SortFunc(best, func(a, b Put) int { return cmp.Or(a.On.Compare(b.On), a.Day-b.Day) })
	slices.Sort(let)
	return best, let
}
