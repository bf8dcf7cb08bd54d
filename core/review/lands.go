package review

import (
	"context"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/solve"
	"wavekine/core/timeline"
)

// landLimit is how far the end of a class that is being led may be off before it is offered how to land.
var landLimit = Limit{"land", "The end of a class being led may be off before landing is offered", "s", 20, 5, 300, judged}

// LandWithin is how far the end may be off in a house before landing is offered.
func LandWithin(lim Limits) clock.Span { return clock.Seconds(lim.Of(landLimit)) }

// LandsOf works out every landing of a class (see solve.Lands) within a house's ranges, with the settling that the house wants at least, and without a finding
// that stops that was not there before. The timeline is the one it is led by.
func LandsOf(ctx context.Context, s *plan.Session, tl *timeline.Timeline, lib *movement.Library, lim Limits, known timeline.Known) (*solve.LandTable, error) {
	l := &look{s: s, lib: lib, tl: tl, lim: lim, within: ctx}
	return solve.Lands(ctx, s, lib, tl, solve.LandTerms{House: l.house(), Settle: l.span(settleLimit), Known: known, Stops: l.stopsBrought})
}
