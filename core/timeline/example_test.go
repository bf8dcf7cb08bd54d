package timeline_test

import (
	"fmt"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// The timeline of a class: every step, to the millisecond.
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
	for _, st := range tl.Steps {
		fmt.Println(st.At, st.S, st.Kind, st.Side, st.Move.Name)
	}
	fmt.Println(tl.Total, "somewhere from", tl.Low, "to", tl.High)
	// Output:
	// 0:00 0:35 setup right Bird dog
	// 0:35 0:36 work right Bird dog
	// 1:11 0:10 switch left Bird dog
	// 1:21 0:36 work left Bird dog
	// 1:57 0:15 position both Shoulder bridge
	// 2:12 0:15 setup both Shoulder bridge
	// 2:27 1:18 work both Shoulder bridge
	// 3:45 somewhere from 3:17 to 4:17
}
