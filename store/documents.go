package store

import (
	"context"
	"database/sql"
	"errors"
	"time"
)

// Document is a stored session or series.
type Document struct {
	StudioID  string    `db:"studio_id"`
	ID        string    `db:"id"`
	Title     string    `db:"title"`
	Rev       int       `db:"rev"`
	State     int       `db:"state"`
	Doc       []byte    `db:"doc"`
	UpdatedAt time.Time `db:"updated_at"`
	UpdatedBy string    `db:"updated_by"`
}

// Row is one row of a session, for the derived table.
type Row struct {
	Movement string
	Level    int
	Dose     string
}

// Change is a new version of a document.
type Change struct {
	Title string
	Doc   []byte
	Says  string // what was done, in words
	By    string // teacher
	Rows  []Row  // sessions only
	// series only
	Start time.Time
	Days  int
}

// Revision is one entry of a document's history.
type Revision struct {
	Rev   int       `db:"rev"`
	State int       `db:"state"`
	Says  string    `db:"says"`
	By    string    `db:"name"`
	At    time.Time `db:"at"`
}

func one(r sql.Result, err error) error {
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return nil
}

func rowColumns(rows []Row) (movements []string, levels []int32, doses []string) {
	movements, levels, doses = make([]string, len(rows)), make([]int32, len(rows)), make([]string, len(rows))
	for i, r := range rows {
		movements[i], levels[i], doses[i] = r.Movement, int32(r.Level), r.Dose
	}
	return movements, levels, doses
}

const planColumns = `studio_id, plan_id AS id, title, rev, state, doc, updated_at, updated_by`

// Plans lists a studio's sessions, the last changed first.
func (s *Store) Plans(ctx context.Context, studio string) (ds []Document, err error) {
	err = s.DB.SelectContext(ctx, &ds, `SELECT `+planColumns+` FROM plans WHERE studio_id = $1 AND archived_at IS NULL ORDER BY updated_at DESC, plan_id`, studio)
	return ds, err
}

// Plan finds a session.
func (s *Store) Plan(ctx context.Context, studio, id string) (d Document, err error) {
	err = s.DB.GetContext(ctx, &d, `SELECT `+planColumns+` FROM plans WHERE studio_id = $1 AND plan_id = $2`, studio, id)
	return d, err
}

// PlansByID finds several sessions at once.
func (s *Store) PlansByID(ctx context.Context, studio string, ids []string) (map[string]Document, error) {
	var ds []Document
	err := s.DB.SelectContext(ctx, &ds, `SELECT `+planColumns+` FROM plans WHERE studio_id = $1 AND plan_id = ANY($2)`, studio, ids)
	out := make(map[string]Document, len(ds))
	for _, d := range ds {
		out[d.ID] = d
	}
	return out, err
}

// CreatePlan stores a new session as revision 1.
func (s *Store) CreatePlan(ctx context.Context, studio, id string, c Change) error {
	m, l, d := rowColumns(c.Rows)
	_, err := s.DB.ExecContext(ctx, `
		WITH p AS (
			INSERT INTO plans (studio_id, plan_id, title, rev, state, doc, updated_by) VALUES ($1, $2, $3, 1, 1, $4::text::jsonb, $5)
		), h AS (
			INSERT INTO plan_revisions (studio_id, plan_id, rev, state, before, doc, says, teacher_id) VALUES ($1, $2, 1, 1, 0, $4::text::jsonb, $6, $5)
		)
		INSERT INTO plan_rows (studio_id, plan_id, rev, ord, movement, level, dose)
		SELECT $1, $2, 1, ord, movement, level, dose
		FROM unnest($7::text[], $8::int[], $9::text[]) WITH ORDINALITY AS r (movement, level, dose, ord)`,
		studio, id, c.Title, string(c.Doc), c.By, c.Says, m, l, d)
	return err
}

// SavePlan stores a new version of a session that was read at revision rev, its history and its
// derived rows, in one statement. A *Conflict says that somebody else was first.
func (s *Store) SavePlan(ctx context.Context, studio, id string, rev int, c Change) (int, error) {
	return s.putPlan(ctx, studio, id, rev, c, 0)
}

// putPlan appends a revision; state 0 is a new state, else the one that undo or redo returns to.
func (s *Store) putPlan(ctx context.Context, studio, id string, rev int, c Change, state int) (now int, err error) {
	m, l, d := rowColumns(c.Rows)
	err = s.DB.GetContext(ctx, &now, `
		WITH old AS (
			SELECT state FROM plans WHERE studio_id = $1 AND plan_id = $2 AND rev = $3 FOR UPDATE
		), u AS (
			UPDATE plans SET title = $4, doc = $5::text::jsonb, rev = plans.rev + 1, updated_at = now(), updated_by = $6,
				state = CASE WHEN $11 = 0 THEN plans.rev + 1 ELSE $11 END
			FROM old WHERE studio_id = $1 AND plan_id = $2 AND plans.rev = $3
			RETURNING plans.rev, plans.state, old.state AS was
		), h AS (
			INSERT INTO plan_revisions (studio_id, plan_id, rev, state, before, doc, says, teacher_id)
			SELECT $1, $2, rev, state, was, $5::text::jsonb, $7, $6 FROM u
		), gone AS (
			DELETE FROM plan_rows USING u WHERE studio_id = $1 AND plan_id = $2 AND plan_rows.rev < u.rev
		), r AS (
			INSERT INTO plan_rows (studio_id, plan_id, rev, ord, movement, level, dose)
			SELECT $1, $2, u.rev, ord, movement, level, dose
			FROM u, unnest($8::text[], $9::int[], $10::text[]) WITH ORDINALITY AS r (movement, level, dose, ord)
		)
		SELECT rev FROM u`,
		studio, id, rev, c.Title, string(c.Doc), c.By, c.Says, m, l, d, state)
	if errors.Is(err, sql.ErrNoRows) {
		var have int
		if err := s.DB.GetContext(ctx, &have, `SELECT rev FROM plans WHERE studio_id = $1 AND plan_id = $2`, studio, id); err != nil {
			return 0, err
		}
		return 0, &Conflict{rev, have}
	}
	return now, err
}

// Step is where undo or redo leads.
type Step struct {
	State int    `db:"state"`
	Says  string `db:"says"`
	Doc   []byte `db:"doc"`
}

// StepWords says what undo and redo would do; empty where there is nothing.
func (s *Store) StepWords(ctx context.Context, studio, id string) (undo, redo string, err error) {
	var got struct {
		Undo string `db:"undo"`
		Redo string `db:"redo"`
	}
	err = s.DB.GetContext(ctx, &got, `
		SELECT coalesce((SELECT h.says FROM plan_revisions h
			WHERE h.studio_id = p.studio_id AND h.plan_id = p.plan_id AND h.rev = p.state AND h.before > 0), '') AS undo,
			coalesce((SELECT h.says FROM plan_revisions h
			WHERE h.studio_id = p.studio_id AND h.plan_id = p.plan_id AND h.before = p.state AND h.rev = h.state ORDER BY h.rev DESC LIMIT 1), '') AS redo
		FROM plans p WHERE p.studio_id = $1 AND p.plan_id = $2`, studio, id)
	return got.Undo, got.Redo, err
}

// UndoStep finds the state before the one in force; ErrNotFound at the beginning.
func (s *Store) UndoStep(ctx context.Context, studio, id string) (st Step, err error) {
	err = s.DB.GetContext(ctx, &st, `
		SELECT o.state, h.says, o.doc
		FROM plans p
		JOIN plan_revisions h ON h.studio_id = p.studio_id AND h.plan_id = p.plan_id AND h.rev = p.state
		JOIN plan_revisions o ON o.studio_id = p.studio_id AND o.plan_id = p.plan_id AND o.rev = h.before
		WHERE p.studio_id = $1 AND p.plan_id = $2`, studio, id)
	return st, err
}

// RedoStep finds the newest state made from the one in force; ErrNotFound when there is none.
func (s *Store) RedoStep(ctx context.Context, studio, id string) (st Step, err error) {
	err = s.DB.GetContext(ctx, &st, `
		SELECT h.state, h.says, h.doc
		FROM plans p
		JOIN plan_revisions h ON h.studio_id = p.studio_id AND h.plan_id = p.plan_id AND h.before = p.state AND h.rev = h.state
		WHERE p.studio_id = $1 AND p.plan_id = $2
		ORDER BY h.rev DESC LIMIT 1`, studio, id)
	return st, err
}

// StepPlan returns to a state found by UndoStep or RedoStep.
func (s *Store) StepPlan(ctx context.Context, studio, id string, rev int, st Step, c Change) (int, error) {
	return s.putPlan(ctx, studio, id, rev, c, st.State)
}

// PlanHistory lists the revisions of a session, the newest first.
func (s *Store) PlanHistory(ctx context.Context, studio, id string, limit int) (rs []Revision, err error) {
	err = s.DB.SelectContext(ctx, &rs, `
		SELECT r.rev, r.state, r.says, coalesce(t.name, '') AS name, r.at
		FROM plan_revisions r LEFT JOIN teachers t ON t.studio_id = r.studio_id AND t.teacher_id = r.teacher_id
		WHERE r.studio_id = $1 AND r.plan_id = $2 ORDER BY r.rev DESC LIMIT $3`, studio, id, limit)
	return rs, err
}

// ArchivePlan takes a session out of the lists; runs and series keep it.
func (s *Store) ArchivePlan(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `UPDATE plans SET archived_at = now() WHERE studio_id = $1 AND plan_id = $2 AND archived_at IS NULL`, studio, id))
}

// Use is a session that uses a movement.
type Use struct {
	PlanID string `db:"plan_id"`
	Title  string `db:"title"`
	Level  int    `db:"level"`
	Dose   string `db:"dose"`
}

// UsesOf lists where a movement is used, the last changed session first.
func (s *Store) UsesOf(ctx context.Context, studio, movement string, limit int) (us []Use, err error) {
	err = s.DB.SelectContext(ctx, &us, `
		SELECT DISTINCT ON (p.updated_at, r.plan_id) r.plan_id, p.title, r.level, r.dose
		FROM plan_rows r JOIN plans p ON p.studio_id = r.studio_id AND p.plan_id = r.plan_id AND p.rev = r.rev
		WHERE r.studio_id = $1 AND r.movement = $2 AND p.archived_at IS NULL
		ORDER BY p.updated_at DESC, r.plan_id, r.ord LIMIT $3`, studio, movement, limit)
	return us, err
}

// LastLed tells when a session with this movement was last led; zero when never.
func (s *Store) LastLed(ctx context.Context, studio, name string) (at time.Time, title string, err error) {
	var got struct {
		At    time.Time `db:"started_at"`
		Title string    `db:"title"`
	}
	err = s.DB.GetContext(ctx, &got, `
		SELECT r.started_at, r.title FROM runs r
		WHERE r.studio_id = $1 AND EXISTS (SELECT FROM run_rows w WHERE w.studio_id = r.studio_id AND w.run_id = r.run_id AND w.name = $2)
		ORDER BY r.started_at DESC LIMIT 1`, studio, name)
	if errors.Is(err, sql.ErrNoRows) {
		return time.Time{}, "", nil
	}
	return got.At, got.Title, err
}

const seriesColumns = `studio_id, series_id AS id, title, rev, state, doc, updated_at, updated_by`

// AllSeries lists a studio's series, the latest start first.
func (s *Store) AllSeries(ctx context.Context, studio string) (ds []Document, err error) {
	err = s.DB.SelectContext(ctx, &ds, `SELECT `+seriesColumns+` FROM series WHERE studio_id = $1 AND archived_at IS NULL ORDER BY start_date DESC, series_id`, studio)
	return ds, err
}

// SeriesOn lists the series that have a day within the dates.
func (s *Store) SeriesOn(ctx context.Context, studio string, from, to time.Time) (ds []Document, err error) {
	err = s.DB.SelectContext(ctx, &ds, `SELECT `+seriesColumns+` FROM series
		WHERE studio_id = $1 AND archived_at IS NULL AND start_date <= $3::date AND start_date + days > $2::date ORDER BY start_date, series_id`, studio, from, to)
	return ds, err
}

// Series finds a series.
func (s *Store) Series(ctx context.Context, studio, id string) (d Document, err error) {
	err = s.DB.GetContext(ctx, &d, `SELECT `+seriesColumns+` FROM series WHERE studio_id = $1 AND series_id = $2`, studio, id)
	return d, err
}

// CreateSeries stores a new series as revision 1.
func (s *Store) CreateSeries(ctx context.Context, studio, id string, c Change) error {
	_, err := s.DB.ExecContext(ctx, `
		WITH p AS (
			INSERT INTO series (studio_id, series_id, title, rev, state, doc, start_date, days, updated_by)
			VALUES ($1, $2, $3, 1, 1, $4::text::jsonb, $7::date, $8, $5)
		)
		INSERT INTO series_revisions (studio_id, series_id, rev, state, before, doc, says, teacher_id)
		VALUES ($1, $2, 1, 1, 0, $4::text::jsonb, $6, $5)`, studio, id, c.Title, string(c.Doc), c.By, c.Says, c.Start, c.Days)
	return err
}

// SaveSeries stores a new version of a series that was read at revision rev.
func (s *Store) SaveSeries(ctx context.Context, studio, id string, rev int, c Change) (now int, err error) {
	err = s.DB.GetContext(ctx, &now, `
		WITH old AS (
			SELECT state FROM series WHERE studio_id = $1 AND series_id = $2 AND rev = $3 FOR UPDATE
		), u AS (
			UPDATE series SET title = $4, doc = $5::text::jsonb, rev = series.rev + 1, state = series.rev + 1, start_date = $8::date, days = $9,
				updated_at = now(), updated_by = $6
			FROM old WHERE studio_id = $1 AND series_id = $2 AND series.rev = $3
			RETURNING series.rev, old.state AS was
		), h AS (
			INSERT INTO series_revisions (studio_id, series_id, rev, state, before, doc, says, teacher_id)
			SELECT $1, $2, rev, rev, was, $5::text::jsonb, $7, $6 FROM u
		)
		SELECT rev FROM u`, studio, id, rev, c.Title, string(c.Doc), c.By, c.Says, c.Start, c.Days)
	if errors.Is(err, sql.ErrNoRows) {
		var have int
		if err := s.DB.GetContext(ctx, &have, `SELECT rev FROM series WHERE studio_id = $1 AND series_id = $2`, studio, id); err != nil {
			return 0, err
		}
		return 0, &Conflict{rev, have}
	}
	return now, err
}

// SeriesUndo finds the document before the one in force; ErrNotFound at the beginning.
func (s *Store) SeriesUndo(ctx context.Context, studio, id string) (st Step, err error) {
	err = s.DB.GetContext(ctx, &st, `
		SELECT o.state, h.says, o.doc FROM series p
		JOIN series_revisions h ON h.studio_id = p.studio_id AND h.series_id = p.series_id AND h.rev = p.rev
		JOIN series_revisions o ON o.studio_id = p.studio_id AND o.series_id = p.series_id AND o.rev = h.before
		WHERE p.studio_id = $1 AND p.series_id = $2`, studio, id)
	return st, err
}

// Slot is a standalone class on a day.
type Slot struct {
	StudioID string    `db:"studio_id"`
	ID       string    `db:"slot_id"`
	PlanID   string    `db:"plan_id"`
	Day      time.Time `db:"day"`
	Time     string    `db:"time"`
}

// Slots lists the standalone classes within the dates, in order.
func (s *Store) Slots(ctx context.Context, studio string, from, to time.Time) (ss []Slot, err error) {
	err = s.DB.SelectContext(ctx, &ss, `SELECT * FROM slots WHERE studio_id = $1 AND day BETWEEN $2::date AND $3::date ORDER BY day, time, slot_id`, studio, from, to)
	return ss, err
}

// SaveSlot puts a session on a day.
func (s *Store) SaveSlot(ctx context.Context, sl Slot) error {
	_, err := s.DB.NamedExecContext(ctx, `INSERT INTO slots (studio_id, slot_id, plan_id, day, time) VALUES (:studio_id, :slot_id, :plan_id, :day, :time)`, sl)
	return err
}

// DeleteSlot takes it off again.
func (s *Store) DeleteSlot(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `DELETE FROM slots WHERE studio_id = $1 AND slot_id = $2`, studio, id))
}
