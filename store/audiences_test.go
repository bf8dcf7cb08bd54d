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
	assert.Equal(t, 1, n)
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
