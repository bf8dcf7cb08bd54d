package lead_test

import (
	"fmt"

	"wavekine/core/lead"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// A class as it is led: what is said, and what whoever leads does.
func Example() {
	lib := movement.Shipped()
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"Short","sections":[{"title":"Build","blocks":[{"rule":"straight","rows":[
		{"movement":"standing-leg-side","dose":"8 each side"},{"movement":"bridge","dose":"6 reps"}]}]}]}`), lib)
	if err != nil {
		fmt.Println(err)
		return
	}
	tl, err := timeline.Build(s, lib)
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, st := range lead.Steps(s, tl) {
		if st.Kind == "work" && st.Mirrored.Say != "" {
			fmt.Println("say", st.Mirrored.Say+",", st.Mirrored.Rest, "| or say", st.Plain.Say+",", st.Plain.Rest)
		}
	}
	// Output:
	// say RIGHT leg, your left | or say right leg, your right; they see it on the left
	// say LEFT leg, your right | or say left leg, your left; they see it on the right
}
