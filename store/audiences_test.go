package store_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/store/storetest"
)

// Sessions of the version before, in which whom they are for was any text: every one of them can be read again, in all the
// tables they stand in, and nothing that was written is lost.
func TestAudiencesOfTheVersionBefore(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	downTo(t, st, 6)
	doc := func(audience, note string) string {
		b, err := json.Marshal(map[string]any{"format": plan.SessionFormat, "title": "Tiles & “glaze” <1>", "audience": audience, "note": note, "sections": []any{}, "beat": map[string]any{"bpm": json.Number("120.5")}})
		require.NoError(t, err)
		return string(b)
	}
	lot, long := "the Tuesday lot & “friends”", strings.Repeat("n", plan.MaxNote)
	docs := map[string]string{"lot": doc(lot, "bring socks"), "seniors": doc("seniors", "n"), "none": doc("", "n"), "long": doc("potters", long), "old": doc("low bone density", "")}
	for id, d := range docs {
		for _, q := range []string{
			`INSERT INTO plans (studio_id, plan_id, title, rev, state, doc, updated_by) VALUES ('a', $1, 't', 1, 1, $2, 'ta')`,
			`INSERT INTO plan_revisions (studio_id, plan_id, rev, state, before, doc, says, teacher_id) VALUES ('a', $1, 1, 1, 0, $2, 's', 'ta')`,
			`INSERT INTO templates (studio_id, template_id, title, doc, teacher_id) VALUES ('a', $1, 't', $2, 'ta')`,
		} {
			_, err := st.DB.Exec(q, id, d)
			require.NoError(t, err)
		}
		series := `{"format":"wavekine.series/1","title":"S","start":"2026-05-01","days":[{"session":` + d + `}]}`
		_, err := st.DB.Exec(`INSERT INTO series (studio_id, series_id, title, rev, state, doc, start_date, days, updated_by) VALUES ('a', $1, 't', 1, 1, $2, '2026-05-01', 1, 'ta')`, id, series)
		require.NoError(t, err)
		_, err = st.DB.Exec(`INSERT INTO series_revisions (studio_id, series_id, rev, state, before, doc, says, teacher_id) VALUES ('a', $1, 1, 1, 0, $2, 's', 'ta')`, id, series)
		require.NoError(t, err)
	}
	n, err := st.Migrate(ctx)
	require.NoError(t, err)
	assert.Equal(t, 9, n)
	read := func(query string) map[string]*plan.Session {
		out := map[string]*plan.Session{}
		var rows []struct {
			ID  string `db:"id"`
			Doc string `db:"doc"`
		}
		require.NoError(t, st.DB.Select(&rows, query))
		require.Len(t, rows, len(docs))
		for _, r := range rows {
			s, err := plan.ReadSession([]byte(r.Doc), movement.Shipped())
			require.NoError(t, err, "%s: %s", query, r.ID)
			out[r.ID] = s
		}
		return out
	}
	for _, q := range []string{
		`SELECT plan_id AS id, doc::text FROM plans`, `SELECT plan_id AS id, doc::text FROM plan_revisions`, `SELECT template_id AS id, doc::text FROM templates`,
		`SELECT series_id AS id, (doc->'days'->0->'session')::text AS doc FROM series`, `SELECT series_id AS id, (doc->'days'->0->'session')::text AS doc FROM series_revisions`,
	} {
		got := read(q)
		assert.Equal(t, "For: "+lot+". bring socks", got["lot"].Note, q)
		assert.Empty(t, got["lot"].Audience)
		assert.Equal(t, "Tiles & “glaze” <1>", got["lot"].Title)
		assert.InDelta(t, 120.5, got["lot"].BPM, 1e-9)
		assert.Equal(t, movement.Older, got["seniors"].Audience)
		assert.Equal(t, "n", got["seniors"].Note)
		assert.Equal(t, movement.LowBone, got["old"].Audience)
		assert.Len(t, []rune(got["long"].Note), plan.MaxNote)
		assert.True(t, strings.HasPrefix(got["long"].Note, "For: potters. nnn"))
	}
	n, err = st.Migrate(ctx)
	require.NoError(t, err)
	assert.Zero(t, n, "once")
}

// Levels of the version before: a level that has got one between stays what it was, in documents, in what one side does, in what
// is offered and shown, and in what was led; and back again.
func TestLevelsOfTheVersionBefore(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	downTo(t, st, 7)
	doc := `{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[
		{"movement":"hundred","level":3,"options":[2,3],"dose":"10 breaths"},{"movement":"hundred","level":2},{"movement":"teaser","level":3,"demo":2},{"movement":"teaser"},
		{"movement":"side-plank","level":2,"left":{"level":1}},{"movement":"side-plank","level":1,"left":{"level":3}},{"movement":"squat","level":3}]}]}]}`
	_, err := st.DB.Exec(`INSERT INTO plans (studio_id, plan_id, title, rev, state, doc, updated_by) VALUES ('a', 'p', 't', 1, 1, $1, 'ta')`, doc)
	require.NoError(t, err)
	ran := `{"format":"wavekine.run/1","steps":[{"movement":"bridge","level":2},{"movement":"squat","level":2}],"events":[{"does":"began"},{"does":"work","step":0},{"does":"level","level":3},{"does":"work","step":1},{"does":"level","level":3}]}`
	_, err = st.DB.Exec(`INSERT INTO runs (studio_id, run_id, plan_id, plan_rev, title, teacher_id, started_at, promised_ms, planned_ms, taken_ms, finished, doc) VALUES ('a', 'r', 'p', 1, 't', 'ta', now(), 0, 0, 0, true, $1)`, ran)
	require.NoError(t, err)
	text := func() (plan, run string) {
		require.NoError(t, st.DB.Get(&plan, `SELECT doc::text FROM plans`))
		require.NoError(t, st.DB.Get(&run, `SELECT doc::text FROM runs`))
		return plan, run
	}
	n, err := st.Migrate(ctx)
	require.NoError(t, err)
	assert.Equal(t, 8, n)
	now, led := text()
	s, err := plan.ReadSession([]byte(now), movement.Shipped())
	require.NoError(t, err)
	rows := s.Sections[0].Blocks[0].Rows
	assert.Equal(t, 4, rows[0].Level)
	assert.Equal(t, []int{2, 4}, rows[0].Options)
	assert.Equal(t, 2, rows[1].Level)
	assert.Equal(t, 4, rows[2].Level)
	assert.Equal(t, 3, rows[2].Demo)
	assert.Zero(t, rows[3].Level)
	assert.Equal(t, 3, rows[4].Level)
	assert.Equal(t, 1, rows[4].Left.Level)
	assert.Equal(t, 1, rows[5].Level)
	assert.Equal(t, 4, rows[5].Left.Level)
	assert.Equal(t, 3, rows[6].Level, "nothing came between")
	assert.JSONEq(t, strings.Replace(strings.Replace(ran, `"bridge","level":2`, `"bridge","level":3`, 1), `"level","level":3}`, `"level","level":4}`, 1), led)
	downTo(t, st, 7)
	was, ledBefore := text()
	assert.JSONEq(t, doc, was)
	assert.JSONEq(t, ran, ledBefore)
}
