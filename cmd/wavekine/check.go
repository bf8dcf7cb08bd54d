package main

import (
	"encoding/json"
	"flag"
	"fmt"
	"io"

	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

// checkVerb takes the second look at a session, or at every day of a series. What the session itself has set aside
// stands apart.
var checkVerb = verb{name: "check", args: "FILE", says: "the second look as JSON", run: func(c *job) error {
	type day struct {
		Day      int              `json:"day"`
		Date     string           `json:"date"`
		Title    string           `json:"title"`
		Findings []review.Finding `json:"findings"`
		Aside    []review.Finding `json:"aside,omitempty"`
	}
	look := func(s *plan.Session, tl *timeline.Timeline) (shown, aside []review.Finding, err error) {
		all, err := review.Check(c.ctx, s, tl, c.lib, review.Limits{})
		shown, aside = review.SetAside(all, s.Aside)
		return shown, aside, err
	}
	return eachDay(c, func(s *plan.Session, tl *timeline.Timeline) (any, error) {
		shown, aside, err := look(s, tl)
		if err != nil {
			return nil, err
		}
		b, err := review.MarshalFindings(shown, aside)
		return json.RawMessage(b), err
	}, func(n int, date string, s *plan.Session, tl *timeline.Timeline) (any, error) {
		shown, aside, err := look(s, tl)
		return day{n, date, s.Title, shown, aside}, err
	})
}}

// rulesVerb lists the rules of the second look.
var rulesVerb = verb{
	name: "rules", bare: true, args: "[--as markdown]", says: "the rules of the second look: limits, sources, mends",
	flags: func(f *flag.FlagSet, o *options) { f.StringVar(&o.as, "as", "json", "json or markdown") },
	run: func(c *job) error {
		switch {
		case c.opt.as == "markdown":
			_, err := io.WriteString(c.out, review.Markdown())
			return err
		case c.opt.as == "json":
			return indented(c.out, struct {
				Rules []review.Rule `json:"rules"`
			}{review.Rules()})
		}
		return fmt.Errorf("rules --as %q: expected json or markdown", c.opt.as)
	},
}
