package timeline_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

func TestKitOfAClass(t *testing.T) {
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[
{"movement":"childs-pose","dose":"5 breaths"},{"movement":"roller-march","dose":"6 alternating"},{"movement":"long-lunge","dose":"hold 30 s each side"},
{"movement":"hamstring-strap","level":2,"dose":"hold 30 s each side"},{"movement":"roll-up","level":3,"dose":"3 reps"},{"movement":"legs-up","level":3,"dose":"5 breaths"}]}]}]}`), movement.Shipped())
	require.NoError(t, err)
	tl, err := timeline.Build(s, movement.Shipped())
	require.NoError(t, err)
	var said []string
	for _, k := range tl.KitOf() {
		said = append(said, k.String())
	}
	assert.Equal(t, []string{
		"cushion, or a folded blanket", "roller, or two rolled towels, end to end", "strap, or a towel or a belt", "wall, or the back of a sofa or a closed door", "2 blocks, or a thick book, optional",
	}, said, "needed where one movement needs it, although another only likes it")
	assert.Equal(t, "cushion, roller, strap, wall", tl.KitNames())
}
