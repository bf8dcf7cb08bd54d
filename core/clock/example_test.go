package clock_test

import (
	"fmt"

	"wavekine/core/clock"
)

// Times are read as they are said and printed as a clock shows them.
func Example() {
	sp, err := clock.Parse("1:30")
	fmt.Println(sp, sp.Said(), sp.Seconds(), err)
	_, err = clock.Parse("90")
	fmt.Println(err)
	// Output:
	// 1:30 1:30 90 <nil>
	// "90" is not a time: expected for example "20:00", "90 s" or "20 min"
}
