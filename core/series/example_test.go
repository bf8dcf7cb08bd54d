package series_test

import (
	"fmt"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/series"
	"wavekine/core/timeline"
)

// The load of a class, and how a week of it would climb.
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
	l := series.Load(tl)
	fmt.Printf("%.1f\n", l)
	for _, t := range series.Target("ramp", []float64{l, l, 0, l, l}) {
		fmt.Printf("%.1f ", t)
	}
	// Output:
	// 9.8
	// 7.4 11.8 0.0 16.3 3.7
}
