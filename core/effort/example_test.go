package effort_test

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/effort"
	"wavekine/core/movement"
)

// Work tires what it works: the same again is harder, and a rest makes it easier.
func Example() {
	m, _ := movement.Shipped().Get("bridge")
	var f effort.Fatigue
	first := f.Work(m, 4, false, 60*clock.Second)
	second := f.Work(m, 4, false, 60*clock.Second)
	f.Rest(2 * clock.Minute)
	third := f.Work(m, 4, false, 60*clock.Second)
	fmt.Println(second > first, third < second)
	// Output:
	// true true
}
