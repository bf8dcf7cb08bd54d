package store

import (
	"context"
	"time"
)

// Template is a piece of a class that a studio keeps.
type Template struct {
	ID    string `db:"template_id"`
	Title string `db:"title"`
	Doc   []byte `db:"doc"`
}

// Templates lists a studio's templates by title.
func (s *Store) Templates(ctx context.Context, studio string) (ts []Template, err error) {
	err = s.DB.SelectContext(ctx, &ts, `SELECT template_id, title, doc FROM templates WHERE studio_id = $1 ORDER BY lower(title), template_id`, studio)
	return ts, err
}

// Template finds one.
func (s *Store) Template(ctx context.Context, studio, id string) (t Template, err error) {
	err = s.DB.GetContext(ctx, &t, `SELECT template_id, title, doc FROM templates WHERE studio_id = $1 AND template_id = $2`, studio, id)
	return t, err
}

// SaveTemplate keeps a piece of a class.
func (s *Store) SaveTemplate(ctx context.Context, studio, id, title string, doc []byte, teacher string) error {
	_, err := s.DB.ExecContext(ctx, `INSERT INTO templates (studio_id, template_id, title, doc, teacher_id) VALUES ($1, $2, $3, $4::text::jsonb, $5)`, studio, id, title, string(doc), teacher)
	return err
}

// DeleteTemplate removes one.
func (s *Store) DeleteTemplate(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `DELETE FROM templates WHERE studio_id = $1 AND template_id = $2`, studio, id))
}

// PlanRevision gives the document of a session as it was at a revision.
func (s *Store) PlanRevision(ctx context.Context, studio, id string, rev int) (doc []byte, says string, err error) {
	var got struct {
		Doc  []byte `db:"doc"`
		Says string `db:"says"`
	}
	err = s.DB.GetContext(ctx, &got, `SELECT doc, says FROM plan_revisions WHERE studio_id = $1 AND plan_id = $2 AND rev = $3`, studio, id, rev)
	return got.Doc, got.Says, err
}

// MetMovements lists the names of movements that the studio's last runs have led, and how many runs there are.
func (s *Store) MetMovements(ctx context.Context, studio string) (names []string, runs int, err error) {
	var got struct {
		Names []string `db:"names"`
		Runs  int      `db:"runs"`
	}
	var text string
	err = s.DB.QueryRowxContext(ctx, `
		WITH r AS (SELECT run_id FROM runs WHERE studio_id = $1 ORDER BY started_at DESC LIMIT 100)
		SELECT (SELECT count(*) FROM r), coalesce((SELECT string_agg(DISTINCT w.name, E'\n') FROM run_rows w JOIN r USING (run_id) WHERE w.studio_id = $1 AND w.taken_ms > 0), '')`,
		studio).Scan(&got.Runs, &text)
	if text != "" {
		got.Names = splitLines(text)
	}
	return got.Names, got.Runs, err
}

// LedRow is one line of a run for learning a pace.
type LedRow struct {
	Run         string    `db:"run_id"`
	Name        string    `db:"name"`
	Kind        string    `db:"kind"`
	PlannedMS   int64     `db:"planned_ms"`
	TakenMS     int64     `db:"taken_ms"`
	PlannedReps int       `db:"planned_reps"`
	Reps        int       `db:"reps"`
	StartedAt   time.Time `db:"started_at"`
}

// LedRows lists what a teacher's finished runs took, the newest 200 runs.
func (s *Store) LedRows(ctx context.Context, studio, teacher string) (rs []LedRow, err error) {
	err = s.DB.SelectContext(ctx, &rs, `
		WITH r AS (SELECT run_id, started_at FROM runs WHERE studio_id = $1 AND teacher_id = $2 AND finished ORDER BY started_at DESC LIMIT 200)
		SELECT w.run_id, w.name, w.kind, w.planned_ms, w.taken_ms, w.planned_reps, w.reps, r.started_at
		FROM run_rows w JOIN r USING (run_id) WHERE w.studio_id = $1 ORDER BY w.run_id, w.ord`, studio, teacher)
	return rs, err
}
