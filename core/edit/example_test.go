package edit_test

import (
	"fmt"

	"wavekine/core/edit"
)

// Every change of a session is a command with a name.
func Example() {
	c, ok := edit.Session("dose")
	fmt.Printf("%T %v\n", c, ok)
	_, ok = edit.Session("explode")
	fmt.Println(ok)
	// Output:
	// *plan.SetDose true
	// false
}
