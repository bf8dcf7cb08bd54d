package store_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/store/storetest"
)

// Documents with words that never counted can be read after the migration, and say in their notes what they said.
func TestWhatNeverCountedIsSaid(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	downTo(t, st, 11)
	doc := `{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[
		{"movement":"squat","demo":9,"options":[1,7],"note":"low","right":{"dose":"6 reps"}},{"movement":"clam","left":{"level":9,"dose":"6 reps"}},
		{"movement":"criss-cross","dose":"8 pairs","left":{"dose":"6 reps"}},{"movement":"criss-cross","dose":"8 reps","left":{"dose":"6 reps"}},
		{"movement":{"name":"Clay press","posture":"standing","sides":"both"},"level":3},{"movement":"bird-dog","sides":"alternating","right":{"dose":"4 reps"}},{"movement":"own-lean~1","demo":2,"options":[3]}]}]}]}`
	_, err := st.DB.Exec(`INSERT INTO movement_versions (studio_id, movement_id, version, doc, teacher_id) VALUES ('a', 'own-lean', 1, '{"levels":[{},{}]}', 'ta')`)
	require.NoError(t, err)
	_, err = st.DB.Exec(`INSERT INTO plans (studio_id, plan_id, title, rev, state, doc, updated_by) VALUES ('a', 'p', 't', 1, 1, $1, 'ta')`, doc)
	require.NoError(t, err)
	_, err = st.Migrate(ctx)
	require.NoError(t, err)
	var now string
	require.NoError(t, st.DB.Get(&now, `SELECT doc::text FROM plans WHERE plan_id = 'p'`))
	assert.Contains(t, now, `"demo": 2`)
	assert.Contains(t, now, `Was said and never counted: offered: level 3.`)
	var less string
	require.NoError(t, st.DB.Get(&less, `SELECT (doc #- '{sections,0,blocks,0,rows,6}')::text FROM plans WHERE plan_id = 'p'`)) // the shipped library has not that one
	s, err := plan.ReadSession([]byte(less), movement.Shipped())
	require.NoError(t, err, less)
	var notes []string
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) { notes = append(notes, r.Note) })
	assert.Equal(t, []string{
		"low\nWas said and never counted: shown: level 9, offered: level 7, 6 reps on the right.", "Was said and never counted: on the left level 9.", "Was said and never counted: 6 reps on the left.", "",
		"Was said and never counted: at level 3.", "Was said and never counted: 4 reps on the right.",
	}, notes)
	assert.Equal(t, "6 reps", s.Row(plan.Path{Section: 1, Block: 1, Row: 2}).Left.Dose.String())
}
