package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"wavekine/core/run"
)

// Run is a session as it was led, without its events. Times are milliseconds.
type Run struct {
	StudioID   string    `db:"studio_id"`   // the studio it belongs to
	ID         string    `db:"run_id"`      // within the studio
	PlanID     string    `db:"plan_id"`     // the session
	PlanRev    int       `db:"plan_rev"`    // its revision then
	Title      string    `db:"title"`       // as it is listed
	TeacherID  string    `db:"teacher_id"`  // who led it
	Teacher    string    `db:"teacher"`     // their name; empty where they are gone
	StartedAt  time.Time `db:"started_at"`  // when it began
	PromisedMS int64     `db:"promised_ms"` // milliseconds; 0: no length was asked for
	PlannedMS  int64     `db:"planned_ms"`  // milliseconds
	TakenMS    int64     `db:"taken_ms"`    // without pauses
	PausedMS   int64     `db:"paused_ms"`   // milliseconds
	Finished   bool      `db:"finished"`    // led to its end
	Remembered bool      `db:"remembered"`  // only its length is known
	Note       string    `db:"note"`        // free words; may be empty
	Rev        int       `db:"rev"`         // how often it has grown, from 1
	Doc        []byte    `db:"doc"`         // the run; nil for runs of versions that kept no events
	Rows       []RunRow  `db:"-"`
}

// RunRow is what was planned and taken of one row on one side, by kind of step: run.Line as it is stored.
type RunRow struct {
	Ord         int    `db:"ord"`          // place among the rows, from 0
	Place       string `db:"place"`        // section.block.row
	Slug        string `db:"slug"`         // of the movement, without a version
	Name        string `db:"name"`         // as it is shown
	Side        string `db:"side"`         // as timeline.Side writes it
	Kind        string `db:"kind"`         // as timeline.Kind writes it
	PlannedMS   int64  `db:"planned_ms"`   // milliseconds
	TakenMS     int64  `db:"taken_ms"`     // milliseconds
	PlannedReps int    `db:"planned_reps"` // 0: none are counted
	Reps        int    `db:"reps"`         // claimed, see How
	How         string `db:"how"`          // "planned", "counted" or "left out"; empty for runs without events
	Note        string `db:"note"`         // free words; may be empty
}

// How repetitions are said to be known, in a run's rows.
var howWords = map[run.How]string{run.AsPlanned: "planned", run.Counted: "counted", run.LeftOut: "left out"}

// ErrNotYours says that a run of that id was recorded by somebody else, or of another session.
var ErrNotYours = errors.New("a run of that name was recorded by somebody else")

// ErrDiffers says that a run of that id is stored with other events: two players have recorded it.
var ErrDiffers = errors.New("this class was recorded differently by another player")

// SaveRun stores a run as far as it has come. Sent again it grows: what is there already must be its beginning.
// An older state that arrives late changes nothing. ErrNotYours and ErrDiffers leave what is stored as it is.
func (s *Store) SaveRun(ctx context.Context, studio string, r *run.Run) error {
	doc, err := json.Marshal(r)
	if err != nil {
		return err
	}
	if _, err := run.Read(doc); err != nil { // the gate: what is stored can be read again
		return err
	}
	taken, paused := r.Taken()
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if doc, err = knownOnly(ctx, tx, studio, r, doc); err != nil {
			return err
		}
		var old struct {
			Teacher string `db:"teacher_id"`
			Plan    string `db:"plan_id"`
			Doc     []byte `db:"doc"`
		}
		res, err := tx.ExecContext(ctx, `
			INSERT INTO runs (studio_id, run_id, plan_id, plan_rev, title, teacher_id, started_at, promised_ms, planned_ms, taken_ms, paused_ms, finished, remembered, note, doc)
			VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15::text::jsonb)
			ON CONFLICT (studio_id, run_id) DO NOTHING`,
			studio, r.ID, r.Session, r.Rev, r.Title, r.Teacher, r.Started, int64(r.Asked), int64(r.Planned()), int64(taken), int64(paused), r.Finished(), r.Remembered(), r.Remark(), string(doc))
		if err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err != nil {
			return err
		} else if n == 0 {
			if err := tx.GetContext(ctx, &old, `SELECT teacher_id, plan_id, doc FROM runs WHERE studio_id = $1 AND run_id = $2 FOR UPDATE`, studio, r.ID); err != nil {
				return err
			}
			if old.Teacher != r.Teacher || old.Plan != r.Session || old.Doc == nil {
				return ErrNotYours
			}
			was, err := run.Read(old.Doc)
			switch {
			case err != nil:
				return fmt.Errorf("run %s: %w", r.ID, err)
			case was.Extends(r): // the same, or an older state
				return nil
			case !r.Extends(was):
				return ErrDiffers
			}
			if _, err := tx.ExecContext(ctx, `
				UPDATE runs SET taken_ms = $3, paused_ms = $4, finished = $5, remembered = $6, note = $7, doc = $8::text::jsonb, received_at = now(), rev = rev + 1
				WHERE studio_id = $1 AND run_id = $2`, studio, r.ID, int64(taken), int64(paused), r.Finished(), r.Remembered(), r.Remark(), string(doc)); err != nil {
				return err
			}
		}
		if err := saveLines(ctx, tx, studio, r); err != nil {
			return err
		}
		return saveCorrections(ctx, tx, studio, r)
	})
}

// knownOnly is a run's document with those alone named in it as corrected whom the studio knows: a run that is sent late does not bring back who was erased.
func knownOnly(ctx context.Context, tx *sqlx.Tx, studio string, r *run.Run, doc []byte) ([]byte, error) {
	var who []string
	for _, c := range r.Corrections() {
		if c.Who != "" {
			who = append(who, c.Who)
		}
	}
	if len(who) == 0 {
		return doc, nil
	}
	var there []string
	if err := tx.SelectContext(ctx, &there, `SELECT mover_id FROM movers WHERE studio_id = $1 AND mover_id = ANY($2)`, studio, who); err != nil {
		return nil, err
	}
	c := *r
	c.Events = slices.Clone(r.Events)
	for i := range c.Events {
		if e := &c.Events[i]; e.Who != "" && !slices.Contains(there, e.Who) {
			e.Who = ""
		}
	}
	return json.Marshal(&c)
}

// saveCorrections stores whom a run says to have been corrected, in what.
func saveCorrections(ctx context.Context, tx *sqlx.Tx, studio string, r *run.Run) error {
	if _, err := tx.ExecContext(ctx, `DELETE FROM corrections WHERE studio_id = $1 AND run_id = $2`, studio, r.ID); err != nil {
		return err
	}
	for _, c := range r.Corrections() {
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO corrections (studio_id, run_id, mover_id, slug, fault, at)
			SELECT $1, $2, mover_id, $4, $5, $6 FROM movers WHERE studio_id = $1 AND mover_id = $3`, studio, r.ID, c.Who, c.Movement, c.Fault, r.Started); err != nil {
			return err
		}
	}
	return nil
}

// Corrected is what somebody was corrected in.
type Corrected struct {
	Mover string    `db:"mover_id"`
	Name  string    `db:"name"`
	Slug  string    `db:"slug"` // of the movement, without a version
	Fault string    `db:"fault"`
	At    time.Time `db:"at"`
}

// Corrections lists what people of a studio were corrected in since a time, the newest first.
func (s *Store) Corrections(ctx context.Context, studio string, since time.Time) (cs []Corrected, err error) {
	err = s.DB.SelectContext(ctx, &cs, `
		SELECT c.mover_id, m.name, c.slug, c.fault, c.at FROM corrections c JOIN movers m USING (studio_id, mover_id)
		WHERE c.studio_id = $1 AND c.at >= $2 ORDER BY c.at DESC, m.name LIMIT 500`, studio, since)
	return cs, err
}

// saveLines stores what follows from a run's events, in one statement.
func saveLines(ctx context.Context, tx *sqlx.Tx, studio string, r *run.Run) error {
	if _, err := tx.ExecContext(ctx, `DELETE FROM run_rows WHERE studio_id = $1 AND run_id = $2`, studio, r.ID); err != nil {
		return err
	}
	var text [7][]string // place, slug, name, side, kind, how, note
	var num [4][]int64   // planned, taken, planned repetitions, repetitions
	for _, l := range r.Lines() {
		how := ""
		if l.PlannedReps > 0 {
			how = howWords[l.How]
		}
		for i, v := range []string{l.Row.String(), l.Movement, l.Name, l.Side.String(), l.Kind.String(), how, l.Note} {
			text[i] = append(text[i], v)
		}
		for i, v := range []int64{int64(l.Planned), int64(l.Taken), int64(l.PlannedReps), int64(l.Reps)} {
			num[i] = append(num[i], v)
		}
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO run_rows (studio_id, run_id, ord, place, slug, name, side, kind, how, note, planned_ms, taken_ms, planned_reps, reps)
		SELECT $1, $2, ord, place, slug, name, side, kind, how, note, planned, taken, planned_reps, reps
		FROM unnest($3::text[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[], $10::bigint[], $11::bigint[], $12::int[], $13::int[])
			WITH ORDINALITY AS r (place, slug, name, side, kind, how, note, planned, taken, planned_reps, reps, ord)`,
		studio, r.ID, text[0], text[1], text[2], text[3], text[4], text[5], text[6], num[0], num[1], num[2], num[3])
	return err
}

const runColumns = `r.studio_id, r.run_id, r.plan_id, r.plan_rev, r.title, r.teacher_id, coalesce(t.name, '') AS teacher,
	r.started_at, r.promised_ms, r.planned_ms, r.taken_ms, r.paused_ms, r.finished, r.remembered, r.note, r.rev`

const runFrom = ` FROM runs r LEFT JOIN teachers t ON t.studio_id = r.studio_id AND t.teacher_id = r.teacher_id `

// Runs lists a studio's runs, the latest first, without their documents and rows.
func (s *Store) Runs(ctx context.Context, studio string, limit int) (rs []Run, err error) {
	err = s.DB.SelectContext(ctx, &rs, `SELECT `+runColumns+runFrom+`WHERE r.studio_id = $1 ORDER BY r.started_at DESC, r.run_id LIMIT $2`, studio, limit)
	return rs, err
}

// RunsOf lists the runs of classes of a studio by where they stand: sessions and days of series, the first to be led first.
func (s *Store) RunsOf(ctx context.Context, studio string, classes []string) (rs []Run, err error) {
	err = s.DB.SelectContext(ctx, &rs, `SELECT `+runColumns+runFrom+`WHERE r.studio_id = $1 AND r.plan_id = ANY($2) ORDER BY r.started_at, r.run_id`, studio, classes)
	return rs, err
}

// Run finds a run with its document and rows.
func (s *Store) Run(ctx context.Context, studio, id string) (r Run, err error) {
	if err = s.DB.GetContext(ctx, &r, `SELECT `+runColumns+`, r.doc`+runFrom+`WHERE r.studio_id = $1 AND r.run_id = $2`, studio, id); err != nil {
		return r, err
	}
	err = s.DB.SelectContext(ctx, &r.Rows, `
		SELECT ord, place, slug, name, side, kind, planned_ms, taken_ms, planned_reps, reps, how, note
		FROM run_rows WHERE studio_id = $1 AND run_id = $2 ORDER BY ord`, studio, id)
	return r, err
}

// LedBy gives the documents of a teacher's finished runs, the newest first.
func (s *Store) LedBy(ctx context.Context, studio, teacher string, limit int) (docs [][]byte, err error) {
	err = s.DB.SelectContext(ctx, &docs, `
		SELECT doc FROM runs WHERE studio_id = $1 AND ($2 = '' OR teacher_id = $2) AND finished AND doc IS NOT NULL
		ORDER BY started_at DESC, run_id LIMIT $3`, studio, teacher, limit)
	return docs, err
}

// DeleteRun removes a run that a teacher remembered; what was led stays.
func (s *Store) DeleteRun(ctx context.Context, studio, id, teacher string) error {
	return one(s.DB.ExecContext(ctx, `DELETE FROM runs WHERE studio_id = $1 AND run_id = $2 AND teacher_id = $3 AND remembered`, studio, id, teacher))
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

// Met is what the studio's last runs have led.
type Met struct {
	Names []string       // of movements
	Led   map[string]int // the highest level of each, by slug
	Runs  int
}

// MetMovements says what the studio's last hundred runs have led.
func (s *Store) MetMovements(ctx context.Context, studio string) (met Met, err error) {
	var got struct {
		Runs  int    `db:"runs"`
		Names string `db:"names"`
		Led   []byte `db:"led"`
	}
	err = s.DB.GetContext(ctx, &got, `
		WITH r AS (SELECT run_id, doc FROM runs WHERE studio_id = $1 ORDER BY started_at DESC LIMIT 100),
		done AS (SELECT DISTINCT run_id, w.slug FROM run_rows w JOIN r USING (run_id) WHERE w.studio_id = $1 AND w.taken_ms > 0),
		steps AS (SELECT slug, (e->>'level')::int AS level FROM r JOIN done USING (run_id), jsonb_array_elements(r.doc->'steps') e
			WHERE r.doc IS NOT NULL AND e->>'movement' = slug AND e ? 'level')
		SELECT (SELECT count(*) FROM r) AS runs,
			coalesce((SELECT string_agg(DISTINCT w.name, E'\n') FROM run_rows w JOIN r USING (run_id) WHERE w.studio_id = $1 AND w.taken_ms > 0), '') AS names,
			coalesce((SELECT jsonb_object_agg(slug, top) FROM (SELECT slug, max(level) AS top FROM steps GROUP BY slug) x), '{}') AS led`,
		studio)
	if err != nil {
		return met, err
	}
	met.Runs = got.Runs
	if got.Names != "" {
		met.Names = splitLines(got.Names)
	}
	return met, json.Unmarshal(got.Led, &met.Led)
}
