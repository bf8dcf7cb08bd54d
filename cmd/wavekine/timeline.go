package main

import (
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// timelineVerb writes the timeline of a session, or of every day of a series.
var timelineVerb = verb{name: "timeline", args: "FILE", says: "the timeline of a session as JSON", run: func(c *job) error {
	type day struct {
		Day      int                `json:"day"`
		Date     string             `json:"date"`
		Title    string             `json:"title"`
		Timeline *timeline.Timeline `json:"timeline"`
	}
	return eachDay(c, func(s *plan.Session, tl *timeline.Timeline) (any, error) { return tl, nil }, func(n int, date string, s *plan.Session, tl *timeline.Timeline) (any, error) {
		return day{n, date, s.Title, tl}, nil
	})
}}
