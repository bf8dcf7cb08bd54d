package main

import (
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"strings"
	"time"

	"wavekine/core/brief"
	"wavekine/core/lay"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/series"
	"wavekine/core/timeline"
)

// seriesVerb lays series out and looks at them.
var seriesVerb = verb{
	name: "series", args: "lay [--seed N] [--report] BRIEF | check FILE | step [--day N] FILE", says: "a series laid from a brief; its second look; its next day",
	run: func(c *job) error {
		if len(c.args) == 0 {
			return errors.New("series: expected lay, check or step")
		}
		what := c.args[0]
		flags := flag.NewFlagSet("series "+what, flag.ContinueOnError)
		flags.SetOutput(new(strings.Builder))
		seed := flags.Int("seed", 0, "another way: another number")
		report := flags.Bool("report", false, "figures instead of the document")
		day := flags.Int("day", 0, "the day that has been done")
		if err := flags.Parse(c.args[1:]); err != nil {
			return err
		}
		c.args, c.name = flags.Args(), "series "+what
		switch what {
		case "lay":
			return layVerb(c, *seed, *report)
		case "check":
			return checkSeries(c)
		case "step":
			return stepVerb(c, *day)
		}
		return fmt.Errorf("series: %q: expected lay, check or step", what)
	},
}

// layVerb lays a brief, or the brief that a series document was laid from.
func layVerb(c *job, seed int, report bool) error {
	if seed < 0 {
		return errors.New("--seed: expected a number from 0")
	}
	words := strings.Join(c.args, " ")
	if len(c.args) == 1 && (words == "-" || strings.HasSuffix(words, ".json")) {
		text, err := c.text()
		if err != nil {
			return err
		}
		if isSeries(text) {
			s, err := plan.ReadSeries(text, c.lib)
			if err != nil {
				return err
			}
			if s.Brief == "" {
				return errors.New("series lay: the series was not laid from a brief: say one")
			}
			words = s.Brief
			if seed == 0 {
				seed = s.Seed
			}
		} else {
			words = string(text)
		}
	}
	today := time.Now()
	b, err := brief.Parse(strings.TrimSpace(words), c.lib, today)
	if err != nil {
		return err
	}
	if b.Start.IsZero() { // where nothing is said it begins today
		b.Start = time.Date(today.Year(), today.Month(), today.Day(), 0, 0, 0, 0, time.UTC)
	}
	l, err := lay.Series(c.ctx, c.lib, b, lay.Options{Seed: uint64(seed)})
	if err != nil {
		return err
	}
	if report {
		return indented(c.out, l.Report(c.lib))
	}
	s, err := l.Document(c.lib, today, seed)
	if err != nil {
		return err
	}
	doc, err := json.MarshalIndent(s, "", "  ")
	if err != nil {
		return err
	}
	if _, err := plan.ReadSeries(doc, c.lib); err != nil { // nothing is written that cannot be read
		return err
	}
	_, err = c.out.Write(append(doc, '\n'))
	return err
}

// seriesOf reads the one series a verb is given.
func seriesOf(c *job) (*plan.Series, error) {
	text, err := c.text()
	if err != nil {
		return nil, err
	}
	if !isSeries(text) {
		return nil, fmt.Errorf("%s reads a series", c.name)
	}
	return plan.ReadSeries(text, c.lib)
}

// checkSeries takes the second look at every day, each finding with its day, and over the days.
func checkSeries(c *job) error {
	s, err := seriesOf(c)
	if err != nil {
		return err
	}
	out := []any{}
	for i := range s.Days {
		if s.Days[i].Session == nil {
			continue
		}
		class := s.Days[i].Session.ForDay(i + 1)
		tl, err := timeline.Build(class, c.lib)
		if err != nil {
			return fmt.Errorf("day %d: %w", i+1, err)
		}
		all, err := review.Check(c.ctx, class, tl, c.lib, review.Limits{})
		if err != nil {
			return err
		}
		shown, _ := review.SetAside(all, class.Aside)
		for _, f := range shown {
			if f.Mends == nil {
				f.Mends = []review.Mend{}
			}
			out = append(out, struct {
				Day int `json:"day"`
				review.Finding
			}{i + 1, f})
		}
	}
	over, err := series.Over(s, c.lib, nil)
	if err != nil {
		return err
	}
	for _, f := range over {
		out = append(out, f)
	}
	return indented(c.out, struct {
		Findings []any `json:"findings"`
	}{out})
}

// stepVerb says what comes after a day: without one, what today is.
func stepVerb(c *job, done int) error {
	s, err := seriesOf(c)
	if err != nil {
		return err
	}
	next := done
	if done == 0 {
		for next < len(s.Days) && s.Date(next).Format(time.DateOnly) < time.Now().Format(time.DateOnly) {
			next++
		}
	}
	if done < 0 || next >= len(s.Days) {
		return fmt.Errorf("series step: the series has %d days, and no day comes after day %d", len(s.Days), next)
	}
	d := s.Days[next]
	return indented(c.out, struct {
		Day     int           `json:"day"`
		Date    string        `json:"date"`
		Kind    string        `json:"kind,omitempty"`
		Rest    bool          `json:"rest,omitempty"`
		Title   string        `json:"title,omitempty"`
		Because string        `json:"because,omitempty"`
		Session *plan.Session `json:"session,omitempty"`
		Rows    []plan.Why    `json:"rows,omitempty"`
	}{next + 1, s.Date(next).Format(time.DateOnly), d.Kind, d.Rest, d.Title, d.Because, d.Session, d.Rows})
}
