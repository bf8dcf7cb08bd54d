package board

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"wavekine/core/brief"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/series"
	"wavekine/core/timeline"
)

// patternStart is the first day of a pattern that begins on a monday; others begin on their weekday in that week. It stands for no date.
var patternStart = time.Date(2001, 1, 1, 0, 0, 0, 0, time.UTC)

// KeepPattern makes a pattern of a series: what is done on which day, without dates, time and pins of days; classes of kept sessions become its own, so that
// it needs nothing besides.
type KeepPattern struct {
	With  `form:"-"`
	From  *plan.Series `form:"-"`
	Title string       `form:"title"`
}

// Do makes it.
func (c *KeepPattern) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	title, err := c.begin(s, c.From, c.Title)
	if err != nil {
		return plan.Done{}, err
	}
	for i := range s.Days {
		if s.Days[i].Ref == "" {
			continue
		}
		if _, err := c.own(s, i); err != nil {
			return plan.Done{}, err
		}
	}
	monday := (int(s.Start.Weekday()) + 6) % 7
	s.Start = patternStart.AddDate(0, 0, monday)
	s.Brief = undated(s.Brief, lib, c.From.Start)
	return plan.Done{Says: "Pattern " + title}, nil
}

// begin puts a copy of a series in the place of another, with a title, as if nobody had done it yet.
func (w *With) begin(s, from *plan.Series, title string) (string, error) {
	if from == nil {
		return "", errors.New("of which series?")
	}
	title = strings.TrimSpace(title)
	if title == "" {
		title = from.Title
	}
	c := from.Clone()
	c.Time, c.Zone = "", ""
	if _, err := (&plan.SetSeriesHead{Title: &title}).Do(c, nil); err != nil {
		return "", err
	}
	for i := range c.Days {
		c.Days[i].Pin.Day = false
	}
	*s = *c
	return c.Title, nil
}

// undated are the words of a brief without their first day; as they are where they cannot be read.
func undated(words string, lib *movement.Library, start time.Time) string {
	b, err := brief.Parse(words, lib, start)
	if words == "" || err != nil {
		return words
	}
	b.Start = time.Time{}
	said := b.String(lib)
	if again, err := brief.Parse(said, lib, start); err != nil || again.String(lib) != said {
		return words
	}
	return said
}

// StartAgain makes a series of a pattern, or of another series, from a date on: days of rest that belong to their weekday are on it again, and the others
// flow around them.
type StartAgain struct {
	With  `form:"-"`
	From  *plan.Series `form:"-"`
	Title string       `form:"title"`
	Start string       `form:"start"`
}

// Do makes it.
func (c *StartAgain) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	start, err := plan.ParseDate(c.Start)
	if err != nil {
		return plan.Done{}, err
	}
	title, err := c.begin(s, c.From, c.Title)
	if err != nil {
		return plan.Done{}, err
	}
	f := flow(s, lib)
	if !s.Days[0].Rest && !f.rests(s.Date(0)) { // it begins with a class, as it did
		for range daysAWeek {
			if !f.rests(start) {
				break
			}
			start = start.AddDate(0, 0, 1)
		}
	}
	if f.b != nil && !f.b.Start.IsZero() {
		f.b.Start = start
	}
	s.Start = start
	if err := f.put(f.slots(), lib); err != nil {
		return plan.Done{}, err
	}
	for i := range s.Days {
		s.Days[i].Renumber(i + 1)
	}
	return plan.Done{Says: "Start " + title + " on " + start.Format("2 January 2006")}, nil
}

// Week is a week of a series with what tells it from others.
type Week struct {
	N, From, To int // days from 1
	Classes     int
	Minutes     int
	Load        float64 // effort x minutes
	Found       int     // findings over the days that name one of its days
}

// daysAWeek are the days of a week of a series, counted from its first day.
const daysAWeek = 7

// Weeks lists the weeks of a series that have a class.
func Weeks(s *plan.Series, lib *movement.Library, w With) ([]Week, error) {
	kept := map[string]*plan.Session{}
	for id, k := range w.Kept {
		kept[id] = k.Session
	}
	found, err := series.Over(s, lib, kept)
	if err != nil {
		return nil, err
	}
	var out []Week
	for from := 0; from < len(s.Days); from += daysAWeek {
		k := Week{N: from/daysAWeek + 1, From: from + 1, To: min(from+daysAWeek, len(s.Days))}
		total := 0.0
		for i := from; i < k.To; i++ {
			class := w.class(&s.Days[i])
			if class == nil {
				continue
			}
			tl, err := timeline.Build(class.ForDay(i+1), lib)
			if err != nil {
				return nil, fmt.Errorf("day %d: %w", i+1, err)
			}
			k.Classes++
			k.Load += series.Load(tl)
			total += tl.Total.Seconds() / 60
		}
		k.Minutes = int(total + .5)
		for _, f := range found {
			if f.Day >= k.From && f.Day <= k.To {
				k.Found++
			}
		}
		if k.Classes > 0 {
			out = append(out, k)
		}
	}
	return out, nil
}

// TakeWeek puts the days of a week of another series in before a day; the later ones move along. Days of rest that belong to a weekday stay behind: this
// series has its own. What is learned there comes with its ladder where this series has none of it.
type TakeWeek struct {
	With `form:"-"`
	Of   string       `form:"of"` // which series and week, as the page says it
	Day  plan.Number  `form:"day,parser=encoding.TextUnmarshaler"`
	From *plan.Series `form:"-"`
	Week int          `form:"-"`
}

// Do puts them in.
func (c *TakeWeek) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	if c.From == nil {
		return plan.Done{}, errors.New("choose a week of another series")
	}
	n := c.Day.N
	if n < 1 || n > len(s.Days)+1 {
		return plan.Done{}, fmt.Errorf("day %d: expected 1 to %d", n, len(s.Days)+1)
	}
	from := c.From.Clone()
	theirs := flow(from, lib)
	ours := fmt.Sprintf("from week %d of %s", c.Week, from.Title)
	if r := []rune(ours); len(r) > plan.MaxTitle {
		ours = string(r[:plan.MaxTitle])
	}
	var slots []slot
	for _, i := range theirs.seq {
		if i/daysAWeek+1 != c.Week {
			continue
		}
		d := from.Days[i]
		if d.Ref != "" {
			if _, err := c.own(from, i); err != nil {
				return plan.Done{}, err
			}
			d = from.Days[i]
		}
		d.Pin, d.Pinned, d.From = plan.Pin{}, nil, plan.Made{}
		d.Because = strings.TrimPrefix(d.Because+"; "+ours, "; ")
		if len([]rune(d.Because)) > plan.MaxTitle {
			d.Because = ours
		}
		slots = append(slots, slot{-1, d})
	}
	if len(slots) == 0 {
		return plan.Done{}, fmt.Errorf("week %d of %s has no days to take", c.Week, from.Title)
	}
	f := flow(s, lib)
	at := len(f.seq)
	if k := slices.IndexFunc(f.seq, func(i int) bool { return i >= n-1 }); k >= 0 {
		at = k
	}
	seq := slices.Insert(f.slots(), at, slots...)
	if err := f.put(seq, lib); err != nil {
		return plan.Done{}, err
	}
	for i := range s.Days {
		if strings.HasSuffix(s.Days[i].Because, ours) {
			s.Days[i].Renumber(i + 1)
		}
	}
	for _, l := range from.Ladders {
		in := slices.ContainsFunc(slots, func(x slot) bool {
			return slices.ContainsFunc(l.Movements(), func(slug string) bool { return has(x.day.Session, movement.BaseSlug(slug)) })
		})
		if in && !slices.ContainsFunc(l.Movements(), func(slug string) bool { return s.Ladder(slug) != nil }) {
			s.Ladders = append(slices.Clone(s.Ladders), l)
		}
	}
	return plan.Done{Says: fmt.Sprintf("Week %d of %s before day %d", c.Week, from.Title, n)}, nil
}
