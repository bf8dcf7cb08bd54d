package group

import (
	"bytes"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	ical "github.com/arran4/golang-ical"
	"github.com/teambition/rrule-go"

	"wavekine/core/plan"
)

// Limits of a calendar that is read; judgement.
const (
	MaxCalendar = 4 << 20 // bytes
	maxEvents   = 20000
	maxRepeats  = 2000 // of one event in the span that is asked for
)

// Busy is a time at which there is no room for a class.
type Busy struct {
	From, To time.Time // To is not included
	AllDay   bool
	What     string
}

// ErrTooLarge tells that a calendar is larger than is read.
var ErrTooLarge = fmt.Errorf("the calendar is larger than %d MB: export a shorter span of it", MaxCalendar>>20)

// ReadBusy reads the events of an iCalendar file (RFC 5545) that fall into a span, those that repeat with each time they do, by the rules that they give; those
// that are cancelled or leave one free are left out. Times without a zone are in zone. What cannot be read is an error in words; nothing else is.
func ReadBusy(text []byte, from, to time.Time, zone *time.Location) (out []Busy, err error) {
	if len(text) > MaxCalendar {
		return nil, ErrTooLarge
	}
	if !bytes.Contains(text, []byte("BEGIN:VCALENDAR")) {
		return nil, errors.New("that is no calendar file: it begins with BEGIN:VCALENDAR")
	}
	if !bytes.Contains(text, []byte("END:VCALENDAR")) {
		return nil, errors.New("the calendar file is broken: its end is missing")
	}
	defer func() { // the library is not ours to trust with every broken file
		if e := recover(); e != nil {
			out, err = nil, errors.New("the calendar file is broken")
		}
	}()
	cal, err := ical.ParseCalendar(bytes.NewReader(text))
	if err != nil {
		return nil, fmt.Errorf("the calendar file is broken: %w", err)
	}
	events := cal.Events()
	if len(events) > maxEvents {
		return nil, fmt.Errorf("the calendar has more than %d events: export a shorter span of it", maxEvents)
	}
	moved := map[string][]time.Time{} // times of a repeating event that have an event of their own
	for _, e := range events {
		if id := e.GetProperty(ical.ComponentPropertyRecurrenceId); id != nil {
			if at, _, err := when(id, zone); err == nil {
				moved[e.Id()] = append(moved[e.Id()], at)
			}
		}
	}
	for n, e := range events {
		b, skip, err := busyOf(e, zone)
		if err != nil {
			return nil, fmt.Errorf("event %d%s: %w", n+1, named(b.What), err)
		}
		if skip {
			continue
		}
		times, err := repeats(e, b, from, to, zone)
		if err != nil {
			return nil, fmt.Errorf("event %d%s: %w", n+1, named(b.What), err)
		}
		own := e.GetProperty(ical.ComponentPropertyRecurrenceId) != nil
		for _, at := range times {
			if !own && slices.ContainsFunc(moved[e.Id()], at.Equal) {
				continue
			}
			x := b
			x.From, x.To = at, at.Add(b.To.Sub(b.From))
			if b.AllDay { // a day may have 23 or 25 hours
				x.To = at.AddDate(0, 0, int(b.To.Sub(b.From).Hours()/24+.5))
			}
			if x.To.After(from) && x.From.Before(to) {
				out = append(out, x)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Busy) int { return a.From.Compare(b.From) })
	return out, nil
}

func named(what string) string {
	if what == "" {
		return ""
	}
	return fmt.Sprintf(" (%q)", what)
}

// busyOf reads when an event is the first time.
func busyOf(e *ical.VEvent, zone *time.Location) (b Busy, skip bool, err error) {
	if p := e.GetProperty(ical.ComponentPropertySummary); p != nil {
		if b.What = strings.ToValidUTF8(p.Value, ""); len([]rune(b.What)) > maxName {
			b.What = string([]rune(b.What)[:maxName-1]) + "…"
		}
	}
	for prop, value := range map[ical.ComponentProperty]string{ical.ComponentPropertyStatus: "CANCELLED", ical.ComponentPropertyTransp: "TRANSPARENT"} {
		if p := e.GetProperty(prop); p != nil && strings.EqualFold(p.Value, value) {
			skip = true
		}
	}
	start := e.GetProperty(ical.ComponentPropertyDtStart)
	if start == nil {
		return b, skip, errors.New("it has no beginning (DTSTART)")
	}
	if b.From, b.AllDay, err = when(start, zone); err != nil {
		return b, skip, err
	}
	b.To = b.From
	switch end, length := e.GetProperty(ical.ComponentPropertyDtEnd), e.GetProperty(ical.ComponentPropertyDuration); {
	case end != nil:
		if b.To, _, err = when(end, zone); err != nil {
			return b, skip, err
		}
	case length != nil:
		d, err := duration(length.Value)
		if err != nil {
			return b, skip, err
		}
		b.To = b.From.Add(d)
	case b.AllDay:
		b.To = b.From.AddDate(0, 0, 1)
	}
	if b.To.Before(b.From) {
		return b, skip, errors.New("it ends before it begins")
	}
	if b.To.Equal(b.From) {
		skip = true
	}
	return b, skip, nil
}

// when reads a date or a time of an event.
func when(p *ical.IANAProperty, zone *time.Location) (at time.Time, allDay bool, err error) {
	value := strings.TrimSpace(p.Value)
	if ids := p.ICalParameters["TZID"]; len(ids) > 0 {
		if l, err := time.LoadLocation(strings.Trim(ids[0], `"/`)); err == nil && ids[0] != "Local" {
			zone = l
		}
	}
	for _, layout := range []string{"20060102T150405Z", "20060102T1504Z"} {
		if at, err = time.Parse(layout, value); err == nil {
			return at, false, nil
		}
	}
	for _, layout := range []string{"20060102T150405", "20060102T1504"} {
		if at, err = time.ParseInLocation(layout, value, zone); err == nil {
			return at, false, nil
		}
	}
	if at, err = time.ParseInLocation("20060102", value, zone); err == nil {
		return at, true, nil
	}
	return at, false, fmt.Errorf("%.40q is no date", value)
}

// repeats lists the times at which an event begins in a span.
func repeats(e *ical.VEvent, b Busy, from, to time.Time, zone *time.Location) ([]time.Time, error) {
	rule := e.GetProperty(ical.ComponentPropertyRrule)
	extra := e.GetProperty(ical.ComponentPropertyRdate)
	if rule == nil && extra == nil {
		return []time.Time{b.From}, nil
	}
	set := rrule.Set{}
	set.DTStart(b.From)
	if rule != nil {
		o, err := rrule.StrToROptionInLocation(rule.Value, b.From.Location())
		if err != nil {
			return nil, fmt.Errorf("how it repeats is not understood: %.60q", rule.Value)
		}
		if o.Freq > rrule.DAILY {
			return nil, fmt.Errorf("it repeats by the hour or faster: %.60q", rule.Value)
		}
		o.Dtstart = b.From
		r, err := rrule.NewRRule(*o)
		if err != nil {
			return nil, fmt.Errorf("how it repeats is not understood: %.60q", rule.Value)
		}
		set.RRule(r)
	} else {
		set.RDate(b.From)
	}
	for _, p := range e.Properties {
		name := strings.ToUpper(p.IANAToken)
		if name != "EXDATE" && name != "RDATE" {
			continue
		}
		for _, v := range strings.Split(p.Value, ",") {
			q := p
			q.Value, _, _ = strings.Cut(v, "/") // a period begins with its time
			at, _, err := when(&q, zone)
			if err != nil {
				return nil, err
			}
			if name == "EXDATE" {
				set.ExDate(at)
			} else {
				set.RDate(at)
			}
		}
	}
	length := b.To.Sub(b.From)
	out := set.Between(from.Add(-length), to, true)
	if len(out) > maxRepeats {
		return nil, fmt.Errorf("it comes more than %d times in that span", maxRepeats)
	}
	return out, nil
}

// duration reads a length such as PT1H30M, P1D or P2W (RFC 5545, 3.3.6).
func duration(text string) (d time.Duration, err error) {
	bad := fmt.Errorf("%.40q is no length", text)
	rest, ok := strings.CutPrefix(strings.TrimPrefix(text, "+"), "P")
	if !ok || rest == "" {
		return 0, bad
	}
	units := map[rune]time.Duration{'W': 7 * day, 'D': day, 'H': time.Hour, 'M': time.Minute, 'S': time.Second}
	n, digits := 0, 0
	for _, r := range rest {
		switch {
		case r >= '0' && r <= '9' && digits < 6:
			n, digits = 10*n+int(r-'0'), digits+1
		case r == 'T' && digits == 0:
		case units[r] > 0 && digits > 0:
			d += time.Duration(n) * units[r]
			n, digits = 0, 0
		default:
			return 0, bad
		}
	}
	if digits > 0 {
		return 0, bad
	}
	return d, nil
}

// Clash is a class that falls on a time that is taken.
type Clash struct {
	Day  int
	Date time.Time
	What string
}

// Clashes lists the classes of a group that fall on busy times; a class without a time of day clashes with what takes the whole day.
func (g *Group) Clashes(s *plan.Series, busy []Busy) (out []Clash, err error) {
	days, err := g.Dates(s)
	if err != nil {
		return nil, err
	}
	for _, d := range days {
		if d.Off {
			continue
		}
		from, to := g.span(s, d)
		for _, b := range busy {
			on := g.Time != "" && b.From.Before(to) && b.To.After(from)
			if b.AllDay { // a day is a day wherever one is
				on = !day0(b.From).After(d.Date) && day0(b.To).After(d.Date)
			}
			if on {
				out = append(out, Clash{d.Day, d.Date, b.What})
				break
			}
		}
	}
	return out, nil
}

// day0 is the date of a time, as midnight in UTC.
func day0(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
}

// location is where the times of the group are.
func (g *Group) location() *time.Location {
	if l, err := time.LoadLocation(g.Zone); err == nil {
		return l
	}
	return time.UTC
}

// span is from when to when a class is.
func (g *Group) span(s *plan.Series, d Dated) (from, to time.Time) {
	from = time.Date(d.Date.Year(), d.Date.Month(), d.Date.Day(), 0, 0, 0, 0, g.location())
	if g.Time == "" {
		return from, from.AddDate(0, 0, 1)
	}
	at, err := time.Parse("15:04", g.Time)
	if err != nil {
		return from, from.AddDate(0, 0, 1)
	}
	from = time.Date(d.Date.Year(), d.Date.Month(), d.Date.Day(), at.Hour(), at.Minute(), 0, 0, g.location())
	length := time.Duration(s.Length(s.Days[d.Day-1])) * time.Millisecond
	if length <= 0 {
		length = usualLength
	}
	return from, from.Add(length)
}

// usualLength is how long a class is taken to be where nothing is said.
const usualLength = 30 * time.Minute

// Around skips the dates on which classes would clash, until none does: the days move along. It gives the dates that it added.
func (g *Group) Around(s *plan.Series, busy []Busy) (skipped []time.Time, err error) {
	for range maxSkips {
		clashes, err := g.Clashes(s, busy)
		if err != nil {
			return nil, err
		}
		i := slices.IndexFunc(clashes, func(c Clash) bool { // what was moved by hand is not ours to move
			return !slices.ContainsFunc(g.Moves, func(m Move) bool { return m.Day == c.Day })
		})
		if i < 0 {
			return skipped, nil
		}
		g.Skip = append(slices.Clone(g.Skip), clashes[i].Date)
		skipped = append(skipped, clashes[i].Date)
	}
	return nil, errFar
}

// Peaks lists the dates on which two groups have their peak on the same day, for one teacher has two hard days then.
func Peaks(a *Group, as *plan.Series, b *Group, bs *plan.Series) (out []time.Time, err error) {
	on := map[string]bool{}
	peaks := func(g *Group, s *plan.Series, visit func(d time.Time)) error {
		days, err := g.Dates(s)
		for _, d := range days {
			if s.Days[d.Day-1].Peak && !d.Off {
				visit(d.Date)
			}
		}
		return err
	}
	if err := peaks(a, as, func(d time.Time) { on[d.Format(time.DateOnly)] = true }); err != nil {
		return nil, err
	}
	err = peaks(b, bs, func(d time.Time) {
		if on[d.Format(time.DateOnly)] {
			out = append(out, d)
		}
	})
	return out, err
}
