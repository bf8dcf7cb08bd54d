package pace_test

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/pace"
	"wavekine/core/plan"
	"wavekine/core/run"
	"wavekine/core/timeline"
)

// From classes as they were led the pace of their teacher is learnt; from none nothing.
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
	p := pace.Learn([]*run.Run{r.Remember(tl.Total + 30*clock.Second)})
	for _, part := range pace.Parts() {
		fmt.Printf("%s %.2f\n", part.Key(), p.Whole[part].Factor)
	}
	// Output:
	// ~tempo 1.06
	// ~talk 1.06
	// ~changes 1.06
}
