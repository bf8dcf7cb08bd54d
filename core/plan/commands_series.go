package plan

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"wavekine/core/movement"
)

// SeriesCommand is one change of a series, see Command.
type SeriesCommand interface {
	Do(s *Series, lib *movement.Library) (Done, error)
}

// ChangedSeries is a series after a command, checked: it can be stored and read again.
type ChangedSeries struct {
	Series *Series
	Sealed Sealed
	Done
}

// ApplySeries does a command on a copy, see Apply.
func ApplySeries(s *Series, lib *movement.Library, c SeriesCommand) (ChangedSeries, error) {
	next := s.Clone()
	done, err := c.Do(next, lib)
	if err != nil {
		return ChangedSeries{}, err
	}
	for i := range next.Ladders {
		l := &next.Ladders[i]
		l.Movement = pinned(l.Movement, lib)
		for k := range l.Steps {
			if l.Steps[k].Movement != "" {
				l.Steps[k].Movement = pinned(l.Steps[k].Movement, lib)
			}
		}
	}
	for i, d := range next.Days {
		if d.From.Day > len(next.Days) { // that day is gone
			next.Days[i].From.Day = 0
		}
		if d.Session != nil {
			next.Days[i].Session = d.Session.Clone()
			next.Days[i].Session.pin(lib)
		}
		if n := d.counted(); n > 0 && n != i+1 && n <= len(s.Days) && s.Days[n-1].counted() == n && s.Days[n-1].Name() == d.Name() { // it was called by its number, and has another now
			next.Days[i].Renumber(i + 1)
		}
	}
	doc, err := SealSeries(next, lib)
	if err != nil {
		return ChangedSeries{}, err
	}
	done.Says = Clip(shown(done.Says), maxSays)
	return ChangedSeries{next, doc, done}, nil
}

// Name is what a day is called: its title, else that of its class.
func (d *Day) Name() string {
	if d.Title == "" && d.Session != nil {
		return d.Session.Title
	}
	return d.Title
}

// countedTitle is a title that begins with the number of its day.
var countedTitle = regexp.MustCompile(`^Day ([1-9][0-9]?)(, .*)?$`)

// counted is the number by which a day is called; 0 where it is not.
func (d *Day) counted() int {
	f := countedTitle.FindStringSubmatch(d.Name())
	if f == nil {
		return 0
	}
	n, _ := strconv.Atoi(f[1])
	return n
}

// Renumber calls a day that is called by its number, and its class, by another.
func (d *Day) Renumber(n int) {
	again := func(title string) string {
		if f := countedTitle.FindStringSubmatch(title); f != nil {
			return fmt.Sprintf("Day %d%s", n, f[2])
		}
		return title
	}
	d.Title = again(d.Title)
	if d.Session != nil {
		c := *d.Session
		c.Title = again(c.Title)
		d.Session = &c
	}
}

// Clone is a copy that shares nothing that commands change.
func (s *Series) Clone() *Series {
	c := *s
	c.RestDays, c.Ladders, c.Days = slices.Clone(s.RestDays), slices.Clone(s.Ladders), slices.Clone(s.Days)
	return &c
}

// NewSeries makes a series of empty days.
type NewSeries struct {
	Title string `form:"title"`
	Start string `form:"start"`
	Days  Number `form:"days,parser=encoding.TextUnmarshaler"`
}

// Do makes it.
func (c *NewSeries) Do(s *Series, _ *movement.Library) (Done, error) {
	t, err := checkTitle("a series", c.Title)
	if err != nil {
		return Done{}, err
	}
	start, err := ParseDate(c.Start)
	if err != nil {
		return Done{}, err
	}
	if c.Days.N < 1 || c.Days.N > MaxDays {
		return Done{}, fmt.Errorf("a series has 1 to %d days", MaxDays)
	}
	*s = Series{Format: SeriesFormat, Title: t, Start: start, Days: make([]Day, c.Days.N)}
	return Done{Says: "New series"}, nil
}

// BecomeSeries puts a whole document in a series' place, see Become.
type BecomeSeries struct {
	Series *Series
	Says   string
}

// Do puts it there.
func (c *BecomeSeries) Do(s *Series, _ *movement.Library) (Done, error) {
	if c.Series == nil {
		return Done{}, errors.New("there is no series to put there")
	}
	*s = *c.Series.Clone()
	return Done{Says: c.Says}, nil
}

func (s *Series) day(n Number) (int, error) {
	if n.N < 1 || n.N > len(s.Days) {
		return 0, fmt.Errorf("day %d: expected 1 to %d", n.N, len(s.Days))
	}
	return n.N - 1, nil
}

// two are two days of the series.
func (s *Series) two(a, b Number) (from, to int, err error) {
	if from, err = s.day(a); err == nil {
		to, err = s.day(b)
	}
	return from, to, err
}

// MoveDay swaps two days, so that nothing is lost.
type MoveDay struct {
	Day Number `form:"day,parser=encoding.TextUnmarshaler"`
	To  Number `form:"to,parser=encoding.TextUnmarshaler"`
}

// Do swaps them.
func (c *MoveDay) Do(s *Series, _ *movement.Library) (Done, error) {
	from, to, err := s.two(c.Day, c.To)
	if err != nil {
		return Done{}, err
	}
	s.Days[from], s.Days[to] = s.Days[to], s.Days[from]
	return Done{Says: fmt.Sprintf("Move day %d to day %d", from+1, to+1)}, nil
}

// CopyDay puts a day on another one too.
type CopyDay MoveDay

// Do copies it.
func (c *CopyDay) Do(s *Series, _ *movement.Library) (Done, error) {
	from, to, err := s.two(c.Day, c.To)
	if err != nil {
		return Done{}, err
	}
	s.Days[to] = s.Days[from]
	return Done{Says: fmt.Sprintf("Copy day %d to day %d", from+1, to+1)}, nil
}

// ClearDay takes everything off a day.
type ClearDay struct {
	Day Number `form:"day,parser=encoding.TextUnmarshaler"`
}

// Do clears it.
func (c *ClearDay) Do(s *Series, _ *movement.Library) (Done, error) {
	n, err := s.day(c.Day)
	if err != nil {
		return Done{}, err
	}
	s.Days[n] = Day{}
	return Done{Says: fmt.Sprintf("Clear day %d", n+1)}, nil
}

// RestDay makes a day one of rest.
type RestDay ClearDay

// Do makes it one.
func (c *RestDay) Do(s *Series, _ *movement.Library) (Done, error) {
	n, err := s.day(c.Day)
	if err != nil {
		return Done{}, err
	}
	s.Days[n] = Day{Rest: true}
	return Done{Says: fmt.Sprintf("Rest on day %d", n+1)}, nil
}

// SetDay puts a session on a day. Whoever makes the command has looked that it is there, and says its title.
type SetDay struct {
	Day     Number `form:"day,parser=encoding.TextUnmarshaler"`
	Session string `form:"plan"`
	Title   string `form:"-"`
}

// Do puts it there.
func (c *SetDay) Do(s *Series, _ *movement.Library) (Done, error) {
	n, err := s.day(c.Day)
	if err != nil {
		return Done{}, err
	}
	if c.Session == "" {
		return Done{}, errors.New("choose a session")
	}
	s.Days[n] = Day{Ref: c.Session}
	return Done{Says: fmt.Sprintf("%s on day %d", c.Title, n+1)}, nil
}

// SetDays makes a series longer or shorter; days with a session are never cut off.
type SetDays struct {
	Days Number `form:"days,parser=encoding.TextUnmarshaler"`
}

// Do does it.
func (c *SetDays) Do(s *Series, _ *movement.Library) (Done, error) {
	n := c.Days.N
	if n < 1 || n > MaxDays {
		return Done{}, fmt.Errorf("%d days: expected 1 to %d", n, MaxDays)
	}
	for i := n; i < len(s.Days); i++ {
		if !s.Days[i].Empty() && !s.Days[i].Rest {
			return Done{}, fmt.Errorf("day %d has a session: clear or move it before making the series shorter", i+1)
		}
	}
	for len(s.Days) < n {
		s.Days = append(s.Days, Day{})
	}
	s.Days = s.Days[:n]
	return Done{Says: fmt.Sprintf("%d days", n)}, nil
}

// SetSeriesHead changes what is said of the whole series; what is nil stays.
type SetSeriesHead struct {
	Title *string `form:"title"`
	Start *string `form:"start"`
	Time  *string `form:"time"`
	Shape *string `form:"shape"`
}

// Do changes it; where one value is wrong, nothing changes.
func (c *SetSeriesHead) Do(s *Series, _ *movement.Library) (Done, error) {
	says := "Change the series"
	if c.Title != nil {
		t, err := checkTitle("a series", *c.Title)
		if err != nil {
			return Done{}, err
		}
		s.Title, says = t, "Title"
	}
	if c.Start != nil {
		d, err := ParseDate(*c.Start)
		if err != nil {
			return Done{}, err
		}
		s.Start, says = d, "Start "+*c.Start
	}
	if c.Time != nil {
		t, err := ParseTimeOfDay(*c.Time)
		if err != nil {
			return Done{}, err
		}
		s.Time, says = t, strings.TrimSpace("Time "+t)
	}
	if c.Shape != nil {
		if !slices.Contains(shapes, *c.Shape) {
			return Done{}, fmt.Errorf("%q is not a shape", Clip(*c.Shape, maxShown))
		}
		s.Shape, says = *c.Shape, "Shape "+*c.Shape
	}
	return Done{Says: says}, nil
}

// ParseTimeOfDay reads a time of day such as "18:30"; nothing is none.
func ParseTimeOfDay(text string) (string, error) {
	t := strings.TrimSpace(text)
	if t == "" {
		return "", nil
	}
	at, err := time.Parse("15:04", t)
	if err != nil {
		return "", fmt.Errorf("%q is not a time of day: it looks like 18:30", Clip(text, maxShown))
	}
	return at.Format("15:04"), nil
}
