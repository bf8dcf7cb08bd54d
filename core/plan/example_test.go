package plan_test

import (
	"fmt"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// A line is understood as a teacher says it, and put into a session by a command; nothing that cannot be read again
// comes out of one.
func Example() {
	lib := movement.Shipped()
	made, err := plan.New(lib, &plan.NewSession{Title: "Short", Target: "10:00"})
	if err != nil {
		fmt.Println(err)
		return
	}
	ch, err := plan.Apply(made.Session, lib, &plan.AddLine{Line: "bird dog 8 each side + 10 pulses"})
	fmt.Println(ch.Says, ch.At, err)
	_, err = plan.Apply(made.Session, lib, &plan.AddLine{Line: "side circles 5 each"})
	fmt.Println(err)
	// Output:
	// Add Bird dog 1.1.1 <nil>
	// column 16: "each": could be each side or each way: say which
}
