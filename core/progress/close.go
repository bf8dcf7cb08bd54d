package progress

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"wavekine/core/brief"
	"wavekine/core/clock"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Person is one mover of a group at the end of a series.
type Person struct {
	Name string
	Days []MoverDay
	History
	Rungs Rungs
}

// Length is what a class was promised and taken.
type Length struct{ Promised, Taken clock.Span }

// Count is something that was said so often.
type Count struct {
	What string
	N    int
}

// Climbed is a thread over a series.
type Climbed struct {
	Movement, Name string
	From, To       string // the first and the last rung that was planned
	Ups, Backs     int    // of the movers, beside the plan
}

// Closing is the review of a series with a group.
type Closing struct {
	People, Goes, Done, Missed int // goes are people x days so far
	Lengths                    []Length
	Promised, Taken            clock.Span
	Climbed                    []Climbed
	Felt, Hurt                 []Count
	Corrections                []Correction
	Over                       float64 // how much harder than planned a class felt, on average
	Answers                    int
	Brief                      string   // for the next series, in its normal form
	Because                    []string // why it asks for what it asks
}

// Constants of the brief that follows; judgement.
const (
	fewDone    = .6 // share of days done under which the next asks for less time
	feltFar    = 1. // effort over or under the plan, on average
	shorterBy  = .75
	leastShort = 10 // minutes
	mostLearn  = 4
)

// Close reviews a series with a group, and makes a first brief for the next one out of it.
func Close(lib *movement.Library, s *plan.Series, people []Person, lengths []Length, today time.Time) (c Closing, err error) {
	c.People, c.Lengths = len(people), lengths
	for _, l := range lengths {
		c.Promised += l.Promised
		c.Taken += l.Taken
	}
	felt, hurt, hurtIn := map[string]int{}, map[string]int{}, map[string]int{}
	ups, backs := map[string]int{}, map[string]int{}
	var answers []Answer
	over := 0.0
	end := s.Date(max(0, len(s.Days)-1))
	for _, p := range people {
		for _, d := range p.Days {
			if d.Date.After(end) {
				end = d.Date
			}
			switch d.State {
			case Done, PartDone:
				c.Goes++
				c.Done++
			case Missed, LetGo:
				if !d.Prior {
					c.Goes++
					c.Missed++
				}
			}
		}
		for _, cl := range p.Classes {
			said := p.Said[cl.Day]
			if said == nil {
				continue
			}
			answers = append(answers, Answer{cl, said})
			if said.Effort >= 0 {
				over += float64(said.Effort) - cl.Effort()
				c.Answers++
			}
			for _, f := range said.Felt {
				felt[f.Place]++
			}
			for _, f := range said.Pain {
				hurt[f.Place]++
				if f.In != "" {
					hurtIn[movement.BaseSlug(f.In)]++
				}
			}
		}
		for slug, by := range p.Rungs.By {
			if by > 0 {
				ups[slug]++
			} else if by < 0 {
				backs[slug]++
			}
		}
	}
	if c.Answers > 0 {
		c.Over = over / float64(c.Answers)
	}
	c.Felt, c.Hurt, c.Corrections = counts(felt), counts(hurt), Corrections(lib, answers)
	for i := range s.Ladders {
		slug := s.Ladders[i].Movement
		x := Climbed{Movement: slug, Name: slug, Ups: ups[slug], Backs: backs[slug]}
		m, ok := lib.Get(slug)
		if !ok {
			continue
		}
		x.Name = m.Name
		for k := range s.Days {
			if s.Days[k].Session == nil || s.Days[k].Easier() {
				continue
			}
			if r := rowOf(s.Days[k].Session, slug); r != nil {
				x.To = fmt.Sprintf("level %d, %s", max(1, r.Level), r.DoseOf(m))
				if x.From == "" {
					x.From = x.To
				}
			}
		}
		c.Climbed = append(c.Climbed, x)
	}
	return c, c.next(lib, s, hurtIn, end, today)
}

func counts(m map[string]int) (out []Count) {
	for k, n := range m {
		out = append(out, Count{k, n})
	}
	slices.SortFunc(out, func(a, b Count) int { return cmp.Or(b.N-a.N, strings.Compare(a.What, b.What)) })
	return out
}

// next makes the brief: the one of this series, from the week after it, changed by what was found.
func (c *Closing) next(lib *movement.Library, s *plan.Series, hurt map[string]int, end, today time.Time) error {
	b, err := lay.BriefOf(lib, s)
	if err != nil {
		return err
	}
	if end.Before(today) {
		end = today
	}
	b.Start = end.AddDate(0, 0, 1)
	for b.Start.Weekday() != s.Start.Weekday() {
		b.Start = b.Start.AddDate(0, 0, 1)
	}
	say := func(format string, args ...any) { c.Because = append(c.Because, fmt.Sprintf(format, args...)) }
	if c.Goes > 0 && float64(c.Done) < fewDone*float64(c.Goes) && b.Minutes.Max > leastShort {
		was := b.Minutes
		b.Minutes.Max = max(leastShort, int(shorterBy*float64(b.Minutes.Max)))
		b.Minutes.Min = min(b.Minutes.Min, b.Minutes.Max)
		if was.Min == was.Max {
			b.Minutes.Min = b.Minutes.Max
		}
		say("%d of %d goes were done: shorter days, %s instead of %s.", c.Done, c.Goes, b.Minutes, was)
	}
	switch {
	case c.Answers > 0 && c.Over >= feltFar && steers(b.Shape) && b.Shape != brief.Wave:
		b.Shape, b.Peak, b.Weeks = brief.Wave, 0, nil
		say("Classes felt %.1f harder than planned: three up and one down.", c.Over)
	case c.Answers > 0 && c.Over <= -feltFar && steers(b.Shape) && b.Shape != brief.Ramp:
		b.Shape, b.Peak, b.Weeks = brief.Ramp, 0, nil
		say("Classes felt %.1f easier than planned: a ramp.", -c.Over)
	}
	var sore []string
	for slug := range hurt {
		if m, ok := lib.Get(slug); ok && !slices.Contains(b.LeaveOut, m.Slug) {
			sore = append(sore, m.Slug)
		}
	}
	slices.Sort(sore)
	for _, slug := range sore {
		m, _ := lib.Get(slug)
		b.LeaveOut = append(b.LeaveOut, slug)
		b.Learn = slices.DeleteFunc(b.Learn, func(l brief.Learn) bool { return l.Slug == slug })
		b.Daily = slices.DeleteFunc(b.Daily, func(d brief.Daily) bool { return d.Slug == slug })
		b.Tests = slices.DeleteFunc(b.Tests, func(d brief.Test) bool { return d.Slug == slug })
		say("%s hurt somebody: left out.", m.Name)
	}
	for _, x := range c.Climbed { // what went back goes on being learned
		if x.Backs > x.Ups && len(b.Learn) < mostLearn && !slices.Contains(b.LeaveOut, x.Movement) && !slices.ContainsFunc(b.Learn, func(l brief.Learn) bool { return l.Slug == x.Movement }) {
			b.Learn = append(b.Learn, brief.Learn{Slug: x.Movement})
			say("%s went back for %d: it goes on being learned.", x.Name, x.Backs)
		}
	}
	if len(c.Because) == 0 {
		say("Nothing asks for another kind of series: the same again from %s.", b.Start.Format("2 January"))
	}
	words := b.String(lib)
	if _, err := brief.Parse(words, lib, today); err != nil { // what was put together may contradict itself
		b, err = lay.BriefOf(lib, s)
		if err != nil {
			return err
		}
		b.Start, words = time.Time{}, b.String(lib)
		c.Because = []string{"What was found does not go together in one brief: the same again, to be changed by hand."}
	}
	c.Brief = words
	return nil
}

// steers tells whether a shape may be another next time: a school of its own stays what it is.
func steers(s brief.Shape) bool {
	return !slices.Contains([]brief.Shape{brief.TwoHolds, brief.Intervals, brief.SameSet}, s)
}
