package review_test

import (
	"context"
	"fmt"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

// The second look finds what is past a limit, and offers mends.
func Example() {
	lib := movement.Shipped()
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"Short","sections":[{"title":"Build","blocks":[{"rule":"straight","rows":[
		{"movement":"clam","dose":"12 reps","left":{"dose":"10 reps"}},{"movement":"constructive-rest"}]}]}]}`), lib)
	if err != nil {
		fmt.Println(err)
		return
	}
	tl, err := timeline.Build(s, lib)
	if err != nil {
		fmt.Println(err)
		return
	}
	found, err := review.Check(context.Background(), s, tl, lib, review.Limits{})
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, f := range found {
		fmt.Println(f.Severity, f.Rule, f.Says, len(f.Mends))
	}
	// Output:
	// stop sides Left does less 2
}
