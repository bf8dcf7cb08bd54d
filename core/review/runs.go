package review

import (
	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// breakFrom is the shortest rest, or work without the load, that ends a run; judgement.
const breakFrom = 10 * clock.Second

// run is a stretch of time in which a load was borne without a break, from the first work that
// bears it to the end of the last. Setting up between two such movements does not end it, nor going from one position on the
// hands to another.
type run struct {
	At, End     clock.Span
	First, Last plan.Path
	Steps       []int // indices of the working steps
}

// Length is how long the run lasts.
func (r run) Length() clock.Span { return r.End - r.At }

// runsOf finds where a load is borne. Cost grows linearly with the steps.
func runsOf(tl *timeline.Timeline, load movement.Load) (out []run) {
	var cur *run
	var idle clock.Span // rest, changes of position and other work since the load was last borne
	for i := range tl.Steps {
		s := &tl.Steps[i]
		if s.Kind.Working() && s.Move != nil && s.Move.Has(s.Level, load) {
			if cur == nil || idle >= breakFrom {
				out = append(out, run{At: s.At, First: s.Row})
				cur = &out[len(out)-1]
			}
			cur.End, cur.Last, idle = s.End(), s.Row, 0
			cur.Steps = append(cur.Steps, i)
			continue
		}
		if s.Kind.Working() || s.Kind == timeline.Rest || s.Kind == timeline.Position && load != movement.Hands {
			idle += s.S
		}
	}
	return out
}
