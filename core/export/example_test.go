package export_test

import (
	"fmt"
	"strings"

	"wavekine/core/export"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// A class in the form of another program.
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
	text, _, _ := strings.Cut(string(export.Markdown(s, tl, lib)), "Stop")
	fmt.Println(strings.ReplaceAll(text, "  \n", "\n"))
	// Output:
	// # Short
	//
	// 3:45, somewhere from 3:17 to 4:17.
	//
	// ## Build
	//
	// - 0:00 **Bird dog**, 8 each side, leg floats to hip height
	//   *Slide the leg long and let it float. A cup of tea stays on the low back.*
	// - 1:57 **Shoulder bridge**, 6 reps, both feet down
	//   *Tail, waist, ribs, one after another. Knees reach away. And melt back down.*
}
