package review

import (
	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// wristsLimit is how long hands may bear weight.
var wristsLimit = Limit{"wrists", "Hands bearing without a break", "s", 180, 20, 1200, judged}

// wristsRule: hands bearing for too long without a break.
var wristsRule = &Rule{
	Name: "wrists", Looks: "hands bear weight with no break of 10 s", Limits: []Limit{wristsLimit},
	Mends: "a rest; a level off the hands; less of it",
	find:  wrists.find, rail: &rail{"wrists", wrists.bands}, relieve: relieveLast,
}

var wrists = bearing{
	load: movement.Hands, limit: wristsLimit, says: "Hands bearing for %s without a break", restSays: "Rest hands 15 s after %s",
	levelSays: "Take %s off the hands", over: "on the hands, no rest", rest: restHands,
}

// restHands gives the wrists a break.
var restHands = plan.Row{Rest: &plan.Rest{For: 15 * clock.Second, Say: "Sit back on the heels, shake out the hands"}}
