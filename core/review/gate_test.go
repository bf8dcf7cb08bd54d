package review

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Where a document stands near to what it can hold, every suggestion that is offered can be taken: sixty sections,
// two hundred blocks, a thousand rows, doses at their limits.
func TestWhatIsOfferedCanBeTaken(t *testing.T) {
	lib := movement.Shipped()
	row := func(m, dose string) string { return fmt.Sprintf(`{"movement":%q,"dose":%q}`, m, dose) }
	block := func(rows ...string) string { return `{"rule":"straight","rows":[` + strings.Join(rows, ",") + `]}` }
	chain := func(rows ...string) string { return `{"rule":"chain","rows":[` + strings.Join(rows, ",") + `]}` }
	section := func(blocks ...string) string { return `{"title":"A","blocks":[` + strings.Join(blocks, ",") + `]}` }
	doc := func(sections ...string) string {
		return `{"format":"wavekine.session/1","title":"T","target":"20:00","focus":["spine"],"sections":[` + strings.Join(sections, ",") + `]}`
	}
	repeat := func(n int, s string) []string {
		return strings.Split(strings.TrimSuffix(strings.Repeat(s+"\n", n), "\n"), "\n")
	}
	hard := block(row("teaser", "8 reps"), row("full-plank", "hold 5 min"))
	for name, text := range map[string]string{
		"sections": doc(repeat(60, section(hard))...),
		"blocks":   doc(section(append(repeat(199, chain(row("clam", "8 reps"))), hard)...)),
		"rows":     doc(section(block(append(repeat(999, row("squat", "2 reps")), row("teaser", "8 reps"))...))),
		"reps":     doc(section(block(row("teaser", "500 reps"), row("criss-cross", "499 alternating"), row("side-circles", "500 each way each side")))),
		"breaths":  doc(section(block(row("hundred", "200 breaths"), row("rib-breathing", "150 breaths")))),
		"holds":    doc(section(block(row("full-plank", "hold 60 min"), row("full-plank", "hold 0.5 s"), row("half-pigeon", "hold 0.5 s each side")))),
		"sets":     doc(section(block(row("double-leg-lower", "50 x 20 reps"), row("bird-dog", "50 x hold 60 min each side")))),
	} {
		s, err := plan.ReadSession([]byte(text), lib)
		require.NoError(t, err, name)
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		offered := 0
		found, err := Check(t.Context(), s, tl, lib, Limits{})
		require.NoError(t, err)
		for _, f := range found {
			for _, m := range f.Mends {
				offered++
				_, err := plan.Apply(s, lib, m)
				assert.NoError(t, err, "%s: %s", name, m.Says)
			}
		}
		assert.LessOrEqual(t, offered, mostTried)
		t.Logf("%s: %d offered", name, offered)
	}
}
