package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// Run is a session as it was led. Times are milliseconds.
type Run struct {
	StudioID   string    `db:"studio_id"`
	ID         string    `db:"run_id"`
	PlanID     string    `db:"plan_id"`
	PlanRev    int       `db:"plan_rev"`
	Title      string    `db:"title"`
	TeacherID  string    `db:"teacher_id"`
	Teacher    string    `db:"teacher"`
	StartedAt  time.Time `db:"started_at"`
	PromisedMS int64     `db:"promised_ms"`
	PlannedMS  int64     `db:"planned_ms"`
	TakenMS    int64     `db:"taken_ms"`
	Finished   bool      `db:"finished"`
	Note       string    `db:"note"`
	Rows       []RunRow  `db:"-"`
}

// RunRow is what was planned and taken of one row on one side, by kind of step.
type RunRow struct {
	Ord         int    `db:"ord"`
	Place       string `db:"place"`
	Name        string `db:"name"`
	Side        string `db:"side"`
	Kind        string `db:"kind"`
	PlannedMS   int64  `db:"planned_ms"`
	TakenMS     int64  `db:"taken_ms"`
	PlannedReps int    `db:"planned_reps"`
	Reps        int    `db:"reps"`
	Note        string `db:"note"`
}

// SaveRun stores a run with its rows. Sent again it replaces itself, so that nothing is lost or
// doubled by a player that was cut off.
func (s *Store) SaveRun(ctx context.Context, r Run) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.NamedExecContext(ctx, `
			INSERT INTO runs (studio_id, run_id, plan_id, plan_rev, title, teacher_id, started_at, promised_ms, planned_ms, taken_ms, finished, note)
			VALUES (:studio_id, :run_id, :plan_id, :plan_rev, :title, :teacher_id, :started_at, :promised_ms, :planned_ms, :taken_ms, :finished, :note)
			ON CONFLICT (studio_id, run_id) DO UPDATE SET taken_ms = excluded.taken_ms, finished = excluded.finished, note = excluded.note, received_at = now()
			WHERE runs.taken_ms <= excluded.taken_ms`, r); err != nil {
			return err
		}
		var taken int64
		if err := tx.GetContext(ctx, &taken, `SELECT taken_ms FROM runs WHERE studio_id = $1 AND run_id = $2`, r.StudioID, r.ID); err != nil {
			return err
		}
		if taken > r.TakenMS { // an older state that arrives late
			return nil
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM run_rows WHERE studio_id = $1 AND run_id = $2`, r.StudioID, r.ID); err != nil {
			return err
		}
		for i, w := range r.Rows {
			if _, err := tx.ExecContext(ctx, `
				INSERT INTO run_rows (studio_id, run_id, ord, place, name, side, kind, planned_ms, taken_ms, planned_reps, reps, note)
				VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)`,
				r.StudioID, r.ID, i+1, w.Place, w.Name, w.Side, w.Kind, w.PlannedMS, w.TakenMS, w.PlannedReps, w.Reps, w.Note); err != nil {
				return err
			}
		}
		return nil
	})
}

const runColumns = `r.studio_id, r.run_id, r.plan_id, r.plan_rev, r.title, r.teacher_id, coalesce(t.name, '') AS teacher,
	r.started_at, r.promised_ms, r.planned_ms, r.taken_ms, r.finished, r.note`

const runFrom = ` FROM runs r LEFT JOIN teachers t ON t.studio_id = r.studio_id AND t.teacher_id = r.teacher_id `

// Runs lists a studio's runs, the latest first.
func (s *Store) Runs(ctx context.Context, studio string, limit int) (rs []Run, err error) {
	err = s.DB.SelectContext(ctx, &rs, `SELECT `+runColumns+runFrom+`WHERE r.studio_id = $1 ORDER BY r.started_at DESC, r.run_id LIMIT $2`, studio, limit)
	return rs, err
}

// Run finds a run with its rows.
func (s *Store) Run(ctx context.Context, studio, id string) (r Run, err error) {
	if err = s.DB.GetContext(ctx, &r, `SELECT `+runColumns+runFrom+`WHERE r.studio_id = $1 AND r.run_id = $2`, studio, id); err != nil {
		return r, err
	}
	err = s.DB.SelectContext(ctx, &r.Rows, `
		SELECT ord, place, name, side, kind, planned_ms, taken_ms, planned_reps, reps, note
		FROM run_rows WHERE studio_id = $1 AND run_id = $2 ORDER BY ord`, studio, id)
	return r, err
}
