package body_test

import (
	"fmt"

	"wavekine/core/body"
)

// A pose is solved into a figure, and statics say what its hands and feet carry.
func Example() {
	pose, _ := body.Poses().Pose("full plank")
	fig := body.Solve(pose)
	com := fig.CentreOfMass(body.Mean)
	loads, ok := body.Strip{{Pose: pose}}.Repetition(body.Mean, 1)
	fmt.Printf("centre of mass %.2f statures high, %.0f %% on the hands, %v\n", com.Y, loads.Hands, ok)
	// Output:
	// centre of mass 0.25 statures high, 68 % on the hands, true
}
