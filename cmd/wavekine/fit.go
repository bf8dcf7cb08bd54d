package main

import (
	"errors"
	"flag"
	"fmt"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/review"
)

// fitVerb brings a session to a length.
var fitVerb = verb{
	name: "fit", args: "[--to 20:00] FILE", says: "the session fitted to a length, or to the one it promises",
	flags: func(f *flag.FlagSet, o *options) {
		f.StringVar(&o.to, "to", "", "a length, as in 20:00; without it the promised one")
	},
	run: func(c *job) error {
		s, err := c.session()
		if err != nil {
			return err
		}
		return fit(c, s)
	},
}

// fit writes the session brought to a length. When it cannot be reached nothing is written but why.
func fit(c *job, s *plan.Session) error {
	to, target := c.opt.to, s.Target
	if to != "" {
		sp, err := clock.Parse(to)
		if err != nil {
			return fmt.Errorf("--to: %w", err)
		}
		target = sp
	}
	if target <= 0 {
		return errors.New("fit: the session promises no length: say one with --to 20:00")
	}
	f, err := review.FitTo(c.ctx, s, c.lib, target, review.Limits{})
	if err != nil {
		return err
	}
	if !f.Reached {
		return errors.New(strings.Join(append([]string{f.Says + " What else could change:"}, f.Else...), "\n  "))
	}
	f.Session.Target = target
	return gated(f.Session, c.lib, c.out)
}
