package review

import (
	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// wristsLimit is how long hands may bear half of the body's weight; more weight counts for more, less for less.
var wristsLimit = Limit{"wrists", "Hands bearing half the body's weight without a break", "s", 180, 20, 1200, judged}

// halfWeight is the share of body weight in percent at which a second counts as one: between hands and knees (38) and a
// plank (70), by the mechanics of their poses.
const halfWeight = 50

// wristsRule: hands bearing for too long without a break.
var wristsRule = &Rule{
	Name: "wrists", Looks: "hands bear weight with no break of 10 s, by its share of body weight; from one position on the hands to another is none", Limits: []Limit{wristsLimit},
	Mends:   "a rest; a level off the hands; less of it",
	canStop: true, find: wrists.find, rail: &rail{"wrists", wrists.bands}, relieve: relieveLast,
}

var wrists = bearing{
	load: movement.Hands, limit: wristsLimit, says: "Hands bearing for %s without a break", restSays: "Rest hands 15 s after %s",
	levelSays: "Take %s off the hands", over: "on the hands, no rest", rest: restHands,
	weight: func(s *timeline.Step) float64 { return s.Move.At(s.Level).OnHands / halfWeight },
}

// restHands gives the wrists a break.
var restHands = plan.Row{Rest: &plan.Rest{For: 15 * clock.Second, Say: "Sit back on the heels, shake out the hands"}}
