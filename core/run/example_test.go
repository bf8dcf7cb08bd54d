package run_test

import (
	"fmt"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/run"
	"wavekine/core/timeline"
)

// A class of which only the length is remembered is a run too: its steps stretched to that length.
func Example() {
	lib := movement.Shipped()
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"Short","sections":[{"title":"Build","blocks":[{"rule":"straight","rows":[
		{"movement":"bird-dog","level":2,"dose":"8 each side"},{"movement":"bridge","dose":"6 reps"}]}]}]}`), lib)
	if err != nil {
		fmt.Println(err)
		return
	}
	tl, err := timeline.Build(s, lib)
	if err != nil {
		fmt.Println(err)
		return
	}
	r := &run.Run{ID: "remembered", Session: "short", Rev: 1, Title: s.Title, Teacher: "ada", Steps: run.StepsOf(tl, tl)}
	led := r.Remember(tl.Total + tl.Total/2)
	taken, paused := led.Taken()
	fmt.Println(tl.Total, taken, paused)
	// Output:
	// 3:45 5:38 0:00
}
