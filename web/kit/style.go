package kit

import (
	"wavekine/core/plan"
)

// styleNames are the questions of the schools as they are asked, in order.
var styleNames = []struct{ key, asks string }{
	{"first_side", "which side first"},
	{"sides", "sides"},
	{"count", "a bare number counts"},
	{"sets", "\"ten sets\" means"},
	{"switches", "switches a breath each way"},
	{"breath", "breath"},
	{"pelvis", "pelvis"},
	{"order", "order"},
	{"warm_up", "warm-up"},
	{"symmetry", "the two sides get"},
	{"peak", "the hardest part comes"},
	{"paced", "a repetition is timed"},
	{"seen", "the class is seen"},
	{"offered", "easier and harder are said"},
	{"countdown", "count down the last"},
	{"mirrored", "mirrored words"},
}

// StyleView is one question with the answer in force.
type StyleView struct {
	Key, Asks, Value string
	Words            []string
}

// StyleViews are the questions of a school with the answers of a style.
func StyleViews(st plan.Style) (out []StyleView) {
	for _, n := range styleNames {
		v := StyleView{n.key, n.asks, st.Answer(n.key), plan.StyleWords(n.key)}
		if n.key == "countdown" {
			v.Words = []string{"0", "2", "3", "4", "5", "8", "10"}
		}
		out = append(out, v)
	}
	return out
}
