package main

import (
	"errors"
	"flag"
	"time"

	"wavekine/core/brief"
	"wavekine/core/group"
	"wavekine/core/lay"
	"wavekine/core/plan"
	"wavekine/core/progress"
)

// simulateVerb has made-up people do a series.
var simulateVerb = verb{
	name: "simulate", args: "[--movers 12] [--days 12] [--seed 1] [FILE]", says: "made-up people who do, half-do, miss, find hard, hurt and choose, day by day",
	flags: func(f *flag.FlagSet, o *options) {
		f.IntVar(&o.movers, "movers", 12, "how many people")
		f.IntVar(&o.days, "days", 12, "how many class days")
		f.Int64Var(&o.seed, "seed", 1, "other people: another number")
	},
	run: simulate,
}

type simulatedDay struct {
	Day   int               `json:"day"`
	Date  string            `json:"date,omitempty"`
	State progress.State    `json:"state"`
	Said  *progress.CheckIn `json:"said,omitempty"`
}

type simulatedMover struct {
	Name    string            `json:"name"`
	Watch   string            `json:"watch,omitempty"`
	Days    []simulatedDay    `json:"days"`
	Choices []progress.Choice `json:"choices,omitempty"`
	Decide  []simulatedReady  `json:"decide,omitempty"` // what the check-ins ask the teacher to decide
}

type simulatedReady struct {
	Movement string           `json:"movement,omitempty"`
	Verdict  progress.Verdict `json:"verdict"`
	Says     string           `json:"says"`
}

// simulatedStart is the Monday on which a series begins that says no date.
var simulatedStart = time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC)

func simulate(c *job) error {
	var s *plan.Series
	switch len(c.args) {
	case 0: // a series of its own
		b, err := brief.Parse("12 days from 2027-01-04, 15 min, hips and core, no kit, ramp, learn side plank and bird dog", c.lib, simulatedStart)
		if err != nil {
			return err
		}
		l, err := lay.Series(c.ctx, c.lib, b, lay.Options{Seed: uint64(max(0, c.opt.seed))})
		if err != nil {
			return err
		}
		if s, err = l.Document(c.lib, simulatedStart, int(max(0, c.opt.seed))); err != nil {
			return err
		}
	default:
		text, err := c.text()
		if err != nil {
			return err
		}
		if !isSeries(text) {
			return errors.New("simulate reads a series, not one session")
		}
		if s, err = plan.ReadSeries(text, c.lib); err != nil {
			return err
		}
	}
	people, err := progress.Simulate(c.ctx, c.lib, s, &group.Group{Name: "simulated", Start: s.Start}, c.opt.movers, c.opt.days, c.opt.seed)
	if err != nil {
		return err
	}
	out := struct {
		Series string           `json:"series"`
		Movers []simulatedMover `json:"movers"`
	}{Series: s.Title}
	for i := range people {
		p := &people[i]
		m := simulatedMover{Name: p.Name, Watch: p.Watch, Choices: p.Who.Choices}
		for _, d := range p.Days {
			m.Days = append(m.Days, simulatedDay{d.Day, d.Date.Format(time.DateOnly), d.State, p.Who.Said[d.Day]})
		}
		h, err := p.History(c.ctx, c.lib, s)
		if err != nil {
			return err
		}
		for _, x := range progress.Suggest(c.lib, h) {
			m.Decide = append(m.Decide, simulatedReady{x.Movement, x.Verdict, x.Says})
		}
		out.Movers = append(out.Movers, m)
	}
	return indented(c.out, out)
}
