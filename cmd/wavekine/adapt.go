package main

import (
	"errors"
	"flag"
	"fmt"
	"strings"

	"wavekine/core/adapt"
	"wavekine/core/movement"
	"wavekine/core/review"
)

// adaptVerb makes the version of a class for somebody who watches something.
var adaptVerb = verb{
	name: "adapt", args: "--watch neck,wrists [--level 1] FILE", says: "the class as somebody does it who watches that, with every change and why",
	flags: func(f *flag.FlagSet, o *options) {
		f.StringVar(&o.watch, "watch", "", "what they watch, in their own words")
		f.IntVar(&o.level, "level", 0, "the highest level they usually take; 0: as planned")
	},
	run: func(c *job) error {
		m, err := moverOf(c.opt.watch, c.opt.level)
		if err != nil {
			return err
		}
		s, err := c.session()
		if err != nil {
			return err
		}
		v, err := adapt.As(c.ctx, s, c.lib, review.Limits{}, m)
		if err != nil {
			return err
		}
		return indented(c.out, v)
	},
}

// moverOf reads what somebody watches. What names no topic is an error: on the command line nobody could be asked what was meant.
func moverOf(watch string, level int) (m adapt.Mover, err error) {
	topics, notes := movement.WatchOf(watch)
	switch {
	case len(notes) > 0:
		all := make([]string, 0, len(movement.Topics()))
		for _, t := range movement.Topics() {
			all = append(all, string(t))
		}
		return m, fmt.Errorf("adapt --watch: %q is not known as something to watch; it can be %s", notes[0], strings.Join(all, "; "))
	case level < 0 || level > 20:
		return m, errors.New("adapt --level: from 1 to 20, or 0 as planned")
	}
	return adapt.Mover{Topics: topics, Level: level}, nil
}
