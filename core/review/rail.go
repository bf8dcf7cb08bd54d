package review

import (
	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Rail is a line under the wave: where something is loaded over the class, and where a rule finds too much of it.
type Rail struct {
	Name  string
	Bands []Band
}

// Band is a stretch of a rail. Over says what is past a limit there, in words; empty where nothing is.
type Band struct {
	At, End clock.Span
	Over    string
}

// rail is how a rule shows on a rail of its own. What is over is what the rule finds: both read the same bands.
type rail struct {
	name  string
	bands func(*look) []Band
}

// Rails are the rails of the rules that have one, in the order of the rules.
func Rails(s *plan.Session, tl *timeline.Timeline, lib *movement.Library, lim Limits) (out []Rail) {
	l := &look{s: s, tl: tl, lib: lib, lim: lim}
	for _, r := range rules {
		if r.rail != nil {
			out = append(out, Rail{r.rail.name, r.rail.bands(l)})
		}
	}
	return out
}
