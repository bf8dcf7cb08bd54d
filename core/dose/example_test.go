package dose_test

import (
	"fmt"

	"wavekine/core/dose"
)

// A dose is read as it is said; what is not understood is named with its place.
func Example() {
	d, _ := dose.Parse("3 sets of 8 per side + 10 pulses")
	fmt.Println(d)
	_, err := dose.Parse("8 each")
	fmt.Println(err)
	// Output:
	// 3 x 8 reps + 10 pulses each side
	// dose: column 3: "each" could be said as each side or each way: say which
}
