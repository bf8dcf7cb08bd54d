package ledger_test

import (
	"fmt"

	"wavekine/core/ledger"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// The ledger says what a class works.
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
	l := ledger.Of(tl)
	fmt.Println(l.About(), l.Right.Time == l.Left.Time)
	// Output:
	// [gluteals deep core upper back hamstrings] true
}
