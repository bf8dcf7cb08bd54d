package kit

import (
	"time"

	"wavekine/core/clock"
	"wavekine/core/run"
	"wavekine/store"
)

// RunView is a run in the log.
type RunView struct {
	ID, Title, Teacher, When, Note string
	Promised, Planned, Taken       clock.Span
	Paused                         clock.Span
	Over                           string // "1:10 over", "on time"
	Bad                            bool
	Finished, Remembered, Mine     bool
	Bar, Mark                      float64 // percent of the widest in the list
}

// ViewRun is a run as lists show it, in the time of the studio.
func ViewRun(r store.Run, zone *time.Location) RunView {
	v := RunView{
		ID: r.ID, Title: r.Title, Teacher: r.Teacher, When: r.StartedAt.In(zone).Format("Mon 2 Jan, 15:04"), Note: r.Note,
		Promised: clock.Span(r.PromisedMS), Planned: clock.Span(r.PlannedMS), Taken: clock.Span(r.TakenMS), Paused: clock.Span(r.PausedMS), Finished: r.Finished, Remembered: r.Remembered,
	}
	if v.Promised == 0 {
		v.Promised = v.Planned
	}
	if r.Finished {
		v.Over, v.Bad = run.Over(v.Promised, v.Taken)
	} else {
		v.Over = "stopped at " + v.Taken.String()
	}
	return v
}
