package movement_test

import (
	"fmt"

	"wavekine/core/movement"
)

// The library finds a movement by the words people use, and says what a level loads.
func Example() {
	lib := movement.Shipped()
	m, ok := lib.Named("the hundred")
	fmt.Println(m.Slug, ok, m.Dose)
	fmt.Println(m.Bears(1), m.At(1).DemandFrom())
	// Output:
	// hundred true 10 breaths, 5 in 5 out
	// [supine floor legs out] computed
}
