package solve_test

import (
	"context"
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/solve"
)

// A class is brought to a length by its doses, each by a third at most.
func Example() {
	lib := movement.Shipped()
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"Short","sections":[{"title":"Build","blocks":[{"rule":"straight","rows":[
		{"movement":"bird-dog","level":2,"dose":"8 each side"},{"movement":"bridge","dose":"6 reps"}]}]}]}`), lib)
	if err != nil {
		fmt.Println(err)
		return
	}
	f, err := solve.Fit(context.Background(), s, lib, 2*clock.Minute+50*clock.Second, solve.Terms{})
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, c := range f.Changes {
		fmt.Println(c.Name, c.From, "to", c.To)
	}
	fmt.Println(f.Total, f.Reached)
	// Output:
	// Bird dog 8 each side to 6 each side
	// Shoulder bridge 6 reps to 4 reps
	// 3:01 false
}
