package board

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"wavekine/core/brief"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// flowing are the days of a series that move when one is put in or taken out. Days of rest that belong to their weekday stay on it, and the others flow
// around them.
type flowing struct {
	s     *plan.Series
	b     *brief.Brief // nil where the series was not laid, or its words cannot be read
	seq   []int        // day numbers from 0 of those that move, in order
	fixed map[int]plan.Day
	least int // days that there are to be, where those behind the last class are of rest
}

// flow takes a series apart.
func flow(s *plan.Series, lib *movement.Library) *flowing {
	f := &flowing{s: s, fixed: map[int]plan.Day{}}
	if s.Brief != "" {
		if b, err := brief.Parse(s.Brief, lib, s.Start); err == nil {
			f.b = b
		}
	}
	for i, d := range s.Days {
		if d.Rest && f.rests(s.Date(i)) {
			f.fixed[i] = d
			continue
		}
		f.seq = append(f.seq, i)
	}
	return f
}

// rests tells whether nobody has a class on a date: on a weekday of rest, or on one that is no class day of a term.
func (f *flowing) rests(date time.Time) bool {
	if slices.Contains(f.s.RestDays, weekdays[date.Weekday()]) {
		return true
	}
	return f.b != nil && len(f.b.Weekdays) > 0 && !slices.Contains(f.b.Weekdays, date.Weekday())
}

var weekdays = [...]string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}

// slot is a day of the new order: an old one, or a new one.
type slot struct {
	old int // -1: new
	day plan.Day
}

// put puts the days together in a new order and numbers them anew, in what was made from them and in the brief too.
func (f *flowing) put(seq []slot, lib *movement.Library) error {
	var days []plan.Day
	to := map[int]int{} // old number to new, from 1
	for k := 0; k < len(seq); {
		i := len(days)
		if f.rests(f.s.Date(i)) && !(k == 0 && i == 0 && f.firstRested()) {
			d, ok := f.fixed[i]
			if !ok {
				d = plan.Day{Rest: true, Kind: "rest", Because: "a rest day, as asked"}
			}
			days = append(days, d)
			continue
		}
		if seq[k].old >= 0 {
			days = append(days, f.s.Days[seq[k].old])
			to[seq[k].old+1] = i + 1
		} else {
			days = append(days, seq[k].day)
		}
		k++
	}
	for len(days) < f.least && f.rests(f.s.Date(len(days))) {
		d, ok := f.fixed[len(days)]
		if !ok {
			d = plan.Day{Rest: true, Kind: "rest", Because: "a rest day, as asked"}
		}
		days = append(days, d)
	}
	for i := range f.s.Days { // days of rest behind the last class stay where the series went on to them
		if d, ok := f.fixed[i]; ok && i >= len(days) && i < len(f.s.Days) && len(days) == i && len(seq) >= len(f.seq) {
			days = append(days, d)
		}
	}
	if len(days) > plan.MaxDays {
		return fmt.Errorf("that would be %d days: a series has at most %d", len(days), plan.MaxDays)
	}
	if len(days) == 0 {
		return errors.New("a series has at least one day")
	}
	for i := range days {
		if from := days[i].From.Day; from > 0 {
			days[i].From.Day = to[from] // 0 where that day is gone
		}
	}
	f.rebrief(days, to, lib)
	f.s.Days = days
	return nil
}

// firstRested tells whether a series begins with a class on a weekday of rest, as a teacher may have put it.
func (f *flowing) firstRested() bool { _, rest := f.fixed[0]; return len(f.s.Days) > 0 && !rest }

// rebrief says in the brief what its days are now, so that the series can be laid again.
func (f *flowing) rebrief(days []plan.Day, to map[int]int, lib *movement.Library) {
	if f.b == nil {
		return
	}
	b := f.b
	was, now := f.numbers(f.s.Days), f.numbers(days) // a brief of class days on weekdays counts only those
	moved := func(n int) int {
		for doc, no := range was {
			if no == n {
				return now[to[doc]]
			}
		}
		return 0
	}
	all := func(ns []int) (out []int) {
		for _, n := range ns {
			if m := moved(n); m > 0 {
				out = append(out, m)
			}
		}
		slices.Sort(out)
		return slices.Compact(out)
	}
	rest := all(b.RestDays)
	for doc, no := range now { // a day of rest that was put in
		if d := &days[doc-1]; d.Rest && !f.rests(f.s.Date(doc-1)) && !slices.Contains(rest, no) {
			rest = append(rest, no)
		}
	}
	slices.Sort(rest)
	b.RestDays = rest
	if b.Peak > 0 {
		b.Peak = moved(b.Peak)
	}
	b.Soft, b.StretchDays = all(b.Soft), all(b.StretchDays)
	for i := range b.Tests {
		b.Tests[i].Days = all(b.Tests[i].Days)
	}
	b.Tests = slices.DeleteFunc(b.Tests, func(t brief.Test) bool { return len(t.Days) == 0 })
	b.Days = len(now)
	if b.AWeek > 0 && b.Days%b.AWeek != 0 { // it cannot be said by weeks any more
		b.Weekdays, b.AWeek = f.classWeekdays(days), 0
	}
	if said := b.String(lib); len([]rune(said)) <= brief.MaxText {
		if again, err := brief.Parse(said, lib, f.s.Start); err == nil && again.String(lib) == said {
			f.s.Brief = said
		}
	}
}

// numbers gives the brief's number of each day of the document, both from 1.
func (f *flowing) numbers(days []plan.Day) map[int]int {
	out, n := map[int]int{}, 0
	for i := range days {
		if (len(f.b.Weekdays) > 0 || f.b.AWeek > 0) && days[i].Rest && days[i].Because == "no class day" {
			continue
		}
		n++
		out[i+1] = n
	}
	return out
}

// classWeekdays are the weekdays on which a series has classes.
func (f *flowing) classWeekdays(days []plan.Day) (out []time.Weekday) {
	for i := range days {
		if wd := f.s.Date(i).Weekday(); !days[i].Rest && !slices.Contains(out, wd) {
			out = append(out, wd)
		}
	}
	slices.Sort(out)
	return out
}

// slots are the days that move, as they are.
func (f *flowing) slots() (out []slot) {
	for _, i := range f.seq {
		out = append(out, slot{old: i})
	}
	return out
}

// place is where a day stands among those that move; ok is false for a rest day that belongs to its weekday.
func (f *flowing) place(day int) (int, bool) {
	i := slices.Index(f.seq, day)
	return i, i >= 0
}

// InsertDay puts a day in before another, or at the end; the later ones move along. It is one of rest, or empty.
type InsertDay struct {
	Day  plan.Number `form:"day,parser=encoding.TextUnmarshaler"` // before it; one more than there are: at the end
	Rest string      `form:"rest"`                                // "on": a day of rest
}

// Do puts it in.
func (c *InsertDay) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	n := c.Day.N
	if n < 1 || n > len(s.Days)+1 {
		return plan.Done{}, fmt.Errorf("day %d: expected 1 to %d", n, len(s.Days)+1)
	}
	f := flow(s, lib)
	at := len(f.seq)
	for k, i := range f.seq {
		if i >= n-1 {
			at = k
			break
		}
	}
	d, says := plan.Day{}, "A day"
	if c.Rest == "on" {
		d, says = plan.Day{Rest: true, Kind: "rest", Because: "a rest day, put in"}, "A rest day"
	}
	if err := f.put(slices.Insert(f.slots(), at, slot{-1, d}), lib); err != nil {
		return plan.Done{}, err
	}
	return plan.Done{Says: fmt.Sprintf("%s before day %d", says, n)}, nil
}

// TakeDay takes a day out; the later ones move up.
type TakeDay struct {
	Day plan.Number `form:"day,parser=encoding.TextUnmarshaler"`
}

// Do takes it out.
func (c *TakeDay) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	i, err := dayAt(s, c.Day)
	if err != nil {
		return plan.Done{}, err
	}
	f := flow(s, lib)
	k, ok := f.place(i)
	if !ok {
		return plan.Done{}, fmt.Errorf("day %d is a %s, on which the series rests: change the rest days instead", i+1, s.Date(i).Weekday())
	}
	seq := f.slots()
	if err := f.put(slices.Delete(seq, k, k+1), lib); err != nil {
		return plan.Done{}, err
	}
	return plan.Done{Says: fmt.Sprintf("Take out day %d", i+1)}, nil
}

// ShiftDay drags a day to the place of another; those between move along.
type ShiftDay struct {
	Day plan.Number `form:"day,parser=encoding.TextUnmarshaler"`
	To  plan.Number `form:"to,parser=encoding.TextUnmarshaler"`
}

// Do drags it.
func (c *ShiftDay) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	from, err := dayAt(s, c.Day)
	if err != nil {
		return plan.Done{}, err
	}
	to, err := dayAt(s, c.To)
	if err != nil {
		return plan.Done{}, err
	}
	f := flow(s, lib)
	k, ok := f.place(from)
	l, ok2 := f.place(to)
	for _, d := range []struct {
		ok bool
		n  int
	}{{ok, from}, {ok2, to}} {
		if !d.ok {
			return plan.Done{}, fmt.Errorf("day %d is a %s, on which the series rests", d.n+1, s.Date(d.n).Weekday())
		}
	}
	seq := f.slots()
	one := seq[k]
	seq = slices.Insert(slices.Delete(seq, k, k+1), l, one)
	if err := f.put(seq, lib); err != nil {
		return plan.Done{}, err
	}
	return plan.Done{Says: fmt.Sprintf("Drag day %d to day %d", from+1, to+1)}, nil
}

// Stretch brings a series to another number of days. Squeezed, it keeps the first, the peak, the last and as many between them as there is room for, evenly;
// stretched, new days are laid between, like the one before them. What is learned goes up no faster than one rung at a time.
type Stretch struct {
	With
	Days plan.Number `form:"days,parser=encoding.TextUnmarshaler"`
}

// Do brings it there.
func (c *Stretch) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	n := c.Days.N
	if n < 1 || n > plan.MaxDays {
		return plan.Done{}, fmt.Errorf("%d days: expected 1 to %d", n, plan.MaxDays)
	}
	f := flow(s, lib)
	was := len(s.Days)
	room := 0
	for i := range n {
		if !f.rests(s.Date(i)) {
			room++
		}
	}
	if room == 0 || len(f.seq) == 0 {
		return plan.Done{}, fmt.Errorf("%d days from %s are all days of rest", n, s.Start.Format("2 January"))
	}
	seq := make([]slot, room)
	var fresh []int // places of new days
	last := -1
	for k := range seq {
		from := 0
		if room > 1 {
			from = (k*(len(f.seq)-1) + (room-1)/2) / (room - 1)
		}
		seq[k] = slot{old: f.seq[from]}
		if from == last {
			d := s.Days[f.seq[from]]
			d.Pin, d.Pinned, d.Peak = plan.Pin{}, nil, false
			seq[k] = slot{-1, d}
			if d.Session != nil {
				fresh = append(fresh, k)
			}
		}
		last = from
	}
	f.keepPeak(seq)
	f.least = n
	if err := f.put(seq, lib); err != nil {
		return plan.Done{}, err
	}
	says := fmt.Sprintf("Squeeze to %d days", n)
	if n > was {
		says = fmt.Sprintf("Stretch to %d days", n)
	}
	order := flow(s, lib).seq
	for _, k := range fresh {
		i := order[k]
		if s.Days[i].From.Day = 0; s.Days[i].Session == nil {
			continue
		}
		next, _, _, err := lay.Again(c.ctx(), lib, s, i+1, c.options(s.Seed+i))
		if err != nil {
			return plan.Done{}, err
		}
		s.Days = next.Days
	}
	if err := smooth(&c.With, s, lib); err != nil {
		return plan.Done{}, err
	}
	return plan.Done{Says: says}, nil
}

// keepPeak puts the peak into a squeezed order where it was left out, in the place of its neighbour.
func (f *flowing) keepPeak(seq []slot) {
	for i := range f.s.Days {
		if !f.s.Days[i].Peak || slices.ContainsFunc(seq, func(x slot) bool { return x.old == i }) {
			continue
		}
		for k := len(seq) - 2; k >= 0; k-- {
			if seq[k].old >= 0 && seq[k].old < i {
				seq[k].old = i
				break
			}
		}
	}
}

// CopyDays copies a day to others; each has its own class then.
type CopyDays struct {
	With
	Day plan.Number `form:"day,parser=encoding.TextUnmarshaler"`
	To  string      `form:"to"` // "4, 9 and 12", "4 to 8"
}

// Do copies it.
func (c *CopyDays) Do(s *plan.Series, _ *movement.Library) (plan.Done, error) {
	from, err := dayAt(s, c.Day)
	if err != nil {
		return plan.Done{}, err
	}
	to, err := readDays(c.To, len(s.Days))
	if err != nil {
		return plan.Done{}, err
	}
	if s.Days[from].Empty() {
		return plan.Done{}, fmt.Errorf("day %d has nothing on it to copy", from+1)
	}
	n := 0
	for _, d := range to {
		if d == from+1 {
			continue
		}
		if s.Days[d-1].Pin.Day {
			return plan.Done{}, fmt.Errorf("day %d is pinned: take the pin out first", d)
		}
		day := s.Days[from]
		day.Pin, day.Pinned, day.Peak = plan.Pin{}, nil, false
		if day.Session != nil {
			day.Session, day.From = day.Session.Clone(), plan.Made{Day: from + 1}
		}
		s.Days[d-1] = day
		n++
	}
	if n == 0 {
		return plan.Done{}, errors.New("a day is not copied to itself: say other days")
	}
	return plan.Done{Says: fmt.Sprintf("Copy day %d to %s", from+1, saidDays(to))}, nil
}

// SetKind says what a day is: work, easy, rest, stretch, or the peak.
type SetKind struct {
	Day  plan.Number `form:"day,parser=encoding.TextUnmarshaler"`
	Kind string      `form:"kind"`
}

// Do says it. A day of rest loses its class; undo brings it back.
func (c *SetKind) Do(s *plan.Series, _ *movement.Library) (plan.Done, error) {
	i, err := dayAt(s, c.Day)
	if err != nil {
		return plan.Done{}, err
	}
	d := &s.Days[i]
	switch c.Kind {
	case "rest":
		*d = plan.Day{Rest: true, Kind: "rest", Note: d.Note, Because: "a rest day, put in"}
	case "work", "easy", "stretch":
		d.Rest, d.Kind, d.Peak, d.Because = false, c.Kind, false, "as you said"
	case "peak":
		for k := range s.Days { // there is one
			s.Days[k].Peak = false
		}
		d.Rest, d.Kind, d.Peak, d.Because = false, "work", true, "the peak, as you said"
	default:
		return plan.Done{}, fmt.Errorf("%q: expected work, easy, rest, stretch or peak", c.Kind)
	}
	return plan.Done{Says: fmt.Sprintf("Day %d: %s", i+1, c.Kind)}, nil
}

// SetTheme says what a day is about; nothing takes the theme away.
type SetTheme struct {
	Day   plan.Number `form:"day,parser=encoding.TextUnmarshaler"`
	Theme string      `form:"theme"`
}

// Do says it.
func (c *SetTheme) Do(s *plan.Series, _ *movement.Library) (plan.Done, error) {
	i, err := dayAt(s, c.Day)
	if err != nil {
		return plan.Done{}, err
	}
	if c.Theme != "" && !slices.Contains(movement.Themes(), c.Theme) {
		return plan.Done{}, fmt.Errorf("%q is no theme", c.Theme)
	}
	s.Days[i].Theme = c.Theme
	return plan.Done{Says: fmt.Sprintf("Day %d: %s", i+1, orNone(c.Theme))}, nil
}
