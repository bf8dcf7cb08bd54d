package review

import (
	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// headUpLimit is how long head and shoulders may be lifted.
var headUpLimit = Limit{"head_up", "Head up without a rest", "s", 150, 20, 900, judged}

// headUpRule: head and shoulders lifted on the back for too long without a rest.
var headUpRule = &Rule{
	Name: "head-up", Looks: "head and shoulders are lifted on the back with no break of 10 s", Limits: []Limit{headUpLimit},
	Mends:   "a rest after a row; a level with the head down; less of it",
	canStop: true, find: headUp.find, rail: &rail{"neck", headUp.bands}, relieve: relieveLast,
}

var headUp = bearing{
	load: movement.HeadUp, limit: headUpLimit, says: "Head up for %s without a rest", restSays: "Rest head 15 s after %s",
	levelSays: "Offer %s with the head down", over: "head up, no rest", rest: restHead,
}

// restHead is a head-down rest with two head turns between abdominal exercises (common practice).
var restHead = plan.Row{Rest: &plan.Rest{For: 15 * clock.Second, Say: "Head down, look right, look left"}}
