package main

import (
	"io"

	"wavekine/core/clock"
	"wavekine/core/ledger"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// ledgerVerb says what a class works.
var ledgerVerb = verb{name: "ledger", args: "FILE", says: "what a class works: regions, directions, sides, load", run: func(c *job) error {
	s, err := c.session()
	if err != nil {
		return err
	}
	tl, err := timeline.Build(s, c.lib)
	if err != nil {
		return err
	}
	return ledgerOut(tl, s, c.out)
}}

// ledgerOut writes what a class works.
func ledgerOut(tl *timeline.Timeline, s *plan.Session, out io.Writer) error {
	type entry struct {
		Name   string     `json:"name"`
		Time   clock.Span `json:"s"`
		Effort float64    `json:"effort_s"`
		Right  clock.Span `json:"right"`
		Left   clock.Span `json:"left"`
		Share  float64    `json:"share"`
	}
	of := func(es []ledger.Entry) []entry {
		list := []entry{}
		for _, e := range es {
			list = append(list, entry{e.Name, e.Time, e.Effort, e.Right, e.Left, e.Share})
		}
		return list
	}
	l := ledger.Of(tl)
	says, met := l.Compare(s.Focus)
	return indented(out, struct {
		Regions []entry  `json:"regions"`
		Spine   []entry  `json:"spine"`
		Sides   []entry  `json:"sides"`
		Load    float64  `json:"load"`
		About   []string `json:"about"`
		Says    string   `json:"says"`
		Met     bool     `json:"focus_met"`
	}{of(l.Regions), of(l.Directions), of([]ledger.Entry{l.Right, l.Left, l.Both}), l.Load, l.About(), says, met})
}
