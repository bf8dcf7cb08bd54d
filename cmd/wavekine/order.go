package main

import "wavekine/core/review"

// orderVerb puts a session in its best order.
var orderVerb = verb{name: "order", args: "FILE", says: "the session in the order that changes position least", run: func(c *job) error {
	s, err := c.session()
	if err != nil {
		return err
	}
	o, err := review.OrderOf(c.ctx, s, c.lib, review.Limits{})
	if err != nil {
		return err
	}
	return gated(o.Session, c.lib, c.out)
}}
