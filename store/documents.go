package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"wavekine/core/plan"
)

// Document is a stored session or series.
type Document struct {
	StudioID  string    `db:"studio_id"`  // the studio it belongs to
	ID        string    `db:"id"`         // within the studio
	Title     string    `db:"title"`      // as it is listed
	Rev       int       `db:"rev"`        // counts up with every change, from 1
	State     int       `db:"state"`      // the revision whose document is in force
	Doc       []byte    `db:"doc"`        // the document as JSON
	UpdatedAt time.Time `db:"updated_at"` // last change
	UpdatedBy string    `db:"updated_by"` // teacher id
	Stamp     int64     `db:"stamp"`      // changes with every change of the stored row, whoever made it
}

// Change is a new version of a document. Only what has gone through the gate of core/plan can be one.
type Change struct {
	Doc  plan.Sealed // the document as JSON
	Says string      // what was done, in words
	By   string      // teacher
}

// Revision is one entry of a document's history.
type Revision struct {
	Rev   int       `db:"rev"`   // from 1
	State int       `db:"state"` // the revision whose document is in force
	Says  string    `db:"says"`  // what was done, in words
	By    string    `db:"name"`  // the teacher's name; empty where they are gone
	At    time.Time `db:"at"`    // when
}

// Step is where undo or redo leads.
type Step struct {
	State int    `db:"state"` // the revision whose document is in force
	Says  string `db:"says"`  // of the change that is undone or redone
	Doc   []byte `db:"doc"`   // the document as JSON
}

// GoneError says that a document needs a movement of the studio's own that was deleted meanwhile.
type GoneError struct{ Movement string }

func (e *GoneError) Error() string {
	return fmt.Sprintf("the movement %q was deleted meanwhile", e.Movement)
}

// Shelf keeps one kind of document with its history: sessions or series. Every revision is kept. Undo and redo
// append revisions too: each names the state whose document is in force and the state it was made from, so
// that the history is a tree that is never cut.
type Shelf struct {
	s        *Store
	list     string
	get      string
	byID     string
	create   [2]string // without and with own movements
	put      [2]string
	words    string
	undo     string
	redo     string
	history  string
	revision string
	revs     string
	archive  string
	away     string // the archived ones
	back     string
	derived  func(c Change) []any // arguments beyond the eight of every shelf
}

// The statements of a shelf. $T is its table, $I its name column, $H its history; $more, $set, $values and $tail
// are what a kind has besides; $own and $there are only for documents that need own movements. Arguments: 1 studio,
// 2 id, 3 revision read, 4 title, 5 document, 6 teacher, 7 what was done, 8 state (0: a new one), from 9 what the
// kind has besides, at the end the own movements needed.
const (
	shelfColumns = `studio_id, $I AS id, title, rev, state, doc, updated_at, updated_by, xmin::text::bigint AS stamp`

	// The own movements that a document needs are locked against deletion until it is stored.
	shelfOwn   = `own AS (SELECT movement_id FROM movements WHERE studio_id = $1 AND movement_id = ANY($n::text[]) FOR KEY SHARE), `
	shelfThere = ` AND (SELECT count(*) FROM own) = cardinality($n::text[])`

	shelfCreate = `
		WITH $ownu AS (
			INSERT INTO $T (studio_id, $I, title, rev, state, doc, updated_by$more)
			SELECT $1, $2, $4, $3 + 1, $8 + 1, $5::text::jsonb, $6$values
			WHERE true$there
			RETURNING rev
		), h AS (
			INSERT INTO $H (studio_id, $I, rev, state, before, doc, says, teacher_id)
			SELECT $1, $2, 1, 1, 0, $5::text::jsonb, $7, $6 FROM u
		)$tail
		SELECT rev FROM u`

	shelfPut = `
		WITH $ownold AS (
			SELECT state FROM $T WHERE studio_id = $1 AND $I = $2 AND rev = $3$there FOR UPDATE
		), u AS (
			UPDATE $T SET title = $4, doc = $5::text::jsonb, rev = $T.rev + 1, updated_at = now(), updated_by = $6,
				state = CASE WHEN $8 = 0 THEN $T.rev + 1 ELSE $8 END$set
			FROM old WHERE studio_id = $1 AND $I = $2 AND $T.rev = $3
			RETURNING $T.rev, $T.state, old.state AS was, $T.xmin::text::bigint AS stamp
		), h AS (
			INSERT INTO $H (studio_id, $I, rev, state, before, doc, says, teacher_id)
			SELECT $1, $2, rev, state, was, $5::text::jsonb, $7, $6 FROM u
		)$tail
		SELECT rev, stamp FROM u`

	// A session's rows, for the search of where a movement stands.
	sessionTail = `, gone AS (
			DELETE FROM plan_rows USING u WHERE studio_id = $1 AND plan_id = $2 AND plan_rows.rev < u.rev
		), r AS (
			INSERT INTO plan_rows (studio_id, plan_id, rev, ord, movement, level, dose)
			SELECT $1, $2, u.rev, ord, movement, level, dose
			FROM u, unnest($9::text[], $10::int[], $11::text[]) WITH ORDINALITY AS r (movement, level, dose, ord)
		)`
)

func newShelf(s *Store, table, id, history, order, more, values, set, tail string, args int, derived func(Change) []any) *Shelf {
	fill := strings.NewReplacer("$T", table, "$I", id, "$H", history, "$more", more, "$values", values, "$set", set, "$tail", tail, "$order", order).Replace
	n := "$" + strconv.Itoa(args+1)
	both := func(q string) [2]string {
		own := strings.ReplaceAll(shelfOwn, "$n", n)
		there := strings.ReplaceAll(shelfThere, "$n", n)
		q = fill(q)
		return [2]string{strings.NewReplacer("$own", "", "$there", "").Replace(q), strings.NewReplacer("$own", own, "$there", there).Replace(q)}
	}
	return &Shelf{
		s:      s,
		list:   fill(`SELECT ` + shelfColumns + ` FROM $T WHERE studio_id = $1 AND archived_at IS NULL ORDER BY $order, $I`),
		get:    fill(`SELECT ` + shelfColumns + ` FROM $T WHERE studio_id = $1 AND $I = $2`),
		byID:   fill(`SELECT ` + shelfColumns + ` FROM $T WHERE studio_id = $1 AND $I = ANY($2)`),
		create: both(shelfCreate), put: both(shelfPut),
		words: fill(`
			SELECT coalesce((SELECT h.says FROM $H h
				WHERE h.studio_id = p.studio_id AND h.$I = p.$I AND h.rev = p.state AND h.before > 0), '') AS undo,
				coalesce((SELECT h.says FROM $H h
				WHERE h.studio_id = p.studio_id AND h.$I = p.$I AND h.before = p.state AND h.rev = h.state ORDER BY h.rev DESC LIMIT 1), '') AS redo
			FROM $T p WHERE p.studio_id = $1 AND p.$I = $2`),
		undo: fill(`
			SELECT o.state, h.says, o.doc
			FROM $T p
			JOIN $H h ON h.studio_id = p.studio_id AND h.$I = p.$I AND h.rev = p.state
			JOIN $H o ON o.studio_id = p.studio_id AND o.$I = p.$I AND o.rev = h.before
			WHERE p.studio_id = $1 AND p.$I = $2`),
		redo: fill(`
			SELECT h.state, h.says, h.doc
			FROM $T p
			JOIN $H h ON h.studio_id = p.studio_id AND h.$I = p.$I AND h.before = p.state AND h.rev = h.state
			WHERE p.studio_id = $1 AND p.$I = $2
			ORDER BY h.rev DESC LIMIT 1`),
		history: fill(`
			SELECT r.rev, r.state, r.says, coalesce(t.name, '') AS name, r.at
			FROM $H r LEFT JOIN teachers t ON t.studio_id = r.studio_id AND t.teacher_id = r.teacher_id
			WHERE r.studio_id = $1 AND r.$I = $2 ORDER BY r.rev DESC LIMIT $3`),
		revision: fill(`SELECT doc, says FROM $H WHERE studio_id = $1 AND $I = $2 AND rev = $3`),
		revs:     fill(`SELECT rev FROM $T WHERE studio_id = $1 AND $I = $2`),
		archive:  fill(`UPDATE $T SET archived_at = now() WHERE studio_id = $1 AND $I = $2 AND archived_at IS NULL`),
		away:     fill(`SELECT ` + shelfColumns + ` FROM $T WHERE studio_id = $1 AND archived_at IS NOT NULL ORDER BY archived_at DESC, $I`),
		back:     fill(`UPDATE $T SET archived_at = NULL WHERE studio_id = $1 AND $I = $2 AND archived_at IS NOT NULL`),
		derived:  derived,
	}
}

func sessionShelf(s *Store) *Shelf {
	return newShelf(s, "plans", "plan_id", "plan_revisions", "updated_at DESC", "", "", "", sessionTail, 11, func(c Change) []any {
		uses := c.Doc.Uses()
		movements, levels, doses := make([]string, len(uses)), make([]int32, len(uses)), make([]string, len(uses))
		for i, u := range uses {
			movements[i], levels[i], doses[i] = u.Movement, int32(u.Level), u.Dose
		}
		return []any{movements, levels, doses}
	})
}

func seriesShelf(s *Store) *Shelf {
	return newShelf(s, "series", "series_id", "series_revisions", "start_date DESC", ", start_date, days", ", $9::date, $10", ", start_date = $9::date, days = $10", "", 10, func(c Change) []any {
		return []any{c.Doc.Start(), c.Doc.Days()}
	})
}

// List gives a studio's documents, archived ones left out: sessions the last changed first, series the latest
// start first.
func (h *Shelf) List(ctx context.Context, studio string) (ds []Document, err error) {
	err = h.s.DB.SelectContext(ctx, &ds, h.list, studio)
	return ds, err
}

// Get finds a document; ErrNotFound.
func (h *Shelf) Get(ctx context.Context, studio, id string) (d Document, err error) {
	err = h.s.DB.GetContext(ctx, &d, h.get, studio, id)
	return d, err
}

// ByID finds several documents at once; those that are not there are left out.
func (h *Shelf) ByID(ctx context.Context, studio string, ids []string) (map[string]Document, error) {
	var ds []Document
	err := h.s.DB.SelectContext(ctx, &ds, h.byID, studio, ids)
	out := make(map[string]Document, len(ds))
	for _, d := range ds {
		out[d.ID] = d
	}
	return out, err
}

// with gives the statement for a change, and its arguments.
func (h *Shelf) with(of [2]string, studio, id string, rev int, c Change, state int) (string, []any) {
	args := append([]any{studio, id, rev, c.Doc.Title(), string(c.Doc.Text()), c.By, c.Says, state}, h.derived(c)...)
	if own := c.Doc.Own(); len(own) > 0 {
		return of[1], append(args, own)
	}
	return of[0], args
}

// Create stores a new document as revision 1, with its history and what is derived from it, in one statement.
// A *GoneError says that a movement it needs is gone.
func (h *Shelf) Create(ctx context.Context, studio, id string, c Change) error {
	var rev int
	q, args := h.with(h.create, studio, id, 0, c, 0)
	err := h.s.DB.PutContext(ctx, &rev, q, args...)
	if errors.Is(err, sql.ErrNoRows) {
		return h.s.whichGone(ctx, studio, c)
	}
	return err
}

// Saved is where a document stands once it was stored.
type Saved struct {
	Rev   int   `db:"rev"`   // from 1
	Stamp int64 `db:"stamp"` // changes with every change of the row
}

// Save stores a new version of a document that was read at revision rev, in one statement, and gives the new
// revision. A *Conflict says that somebody else was first, a *GoneError that a movement it needs is gone.
func (h *Shelf) Save(ctx context.Context, studio, id string, rev int, c Change) (int, error) {
	now, err := h.SaveStep(ctx, studio, id, rev, Step{}, c)
	return now.Rev, err
}

// SaveStep returns to a state found by Undo or Redo; the zero Step makes a new one.
func (h *Shelf) SaveStep(ctx context.Context, studio, id string, rev int, st Step, c Change) (now Saved, err error) {
	q, args := h.with(h.put, studio, id, rev, c, st.State)
	err = h.s.DB.PutContext(ctx, &now, q, args...)
	if !errors.Is(err, sql.ErrNoRows) {
		return now, err
	}
	var have int
	if err := h.s.DB.GetContext(ctx, &have, h.revs, studio, id); err != nil {
		return now, err
	}
	if have != rev {
		return now, &Conflict{rev, have}
	}
	return now, h.s.whichGone(ctx, studio, c)
}

// whichGone names the first own movement that a document needs and the studio has not.
func (s *Store) whichGone(ctx context.Context, studio string, c Change) error {
	var have []string
	if err := s.DB.SelectContext(ctx, &have, `SELECT movement_id FROM movements WHERE studio_id = $1 AND movement_id = ANY($2)`, studio, c.Doc.Own()); err != nil {
		return err
	}
	for _, m := range c.Doc.Own() {
		if !slices.Contains(have, m) {
			return &GoneError{m}
		}
	}
	return ErrNotFound
}

// StepWords says what undo and redo would do; empty where there is nothing.
func (h *Shelf) StepWords(ctx context.Context, studio, id string) (undo, redo string, err error) {
	var got struct {
		Undo string `db:"undo"`
		Redo string `db:"redo"`
	}
	err = h.s.DB.GetContext(ctx, &got, h.words, studio, id)
	return got.Undo, got.Redo, err
}

// Undo finds the state before the one in force; ErrNotFound at the beginning.
func (h *Shelf) Undo(ctx context.Context, studio, id string) (st Step, err error) {
	err = h.s.DB.GetContext(ctx, &st, h.undo, studio, id)
	return st, err
}

// Redo finds the newest state made from the one in force; ErrNotFound when there is none.
func (h *Shelf) Redo(ctx context.Context, studio, id string) (st Step, err error) {
	err = h.s.DB.GetContext(ctx, &st, h.redo, studio, id)
	return st, err
}

// History lists the revisions of a document, the newest first.
func (h *Shelf) History(ctx context.Context, studio, id string, limit int) (rs []Revision, err error) {
	err = h.s.DB.SelectContext(ctx, &rs, h.history, studio, id, limit)
	return rs, err
}

// Revision gives a document as it was at a revision, and what had been done.
func (h *Shelf) Revision(ctx context.Context, studio, id string, rev int) (doc []byte, says string, err error) {
	var got struct {
		Doc  []byte `db:"doc"`
		Says string `db:"says"`
	}
	err = h.s.DB.GetContext(ctx, &got, h.revision, studio, id, rev)
	return got.Doc, got.Says, err
}

// Archive takes a document out of the lists; led sessions and series keep it.
func (h *Shelf) Archive(ctx context.Context, studio, id string) error {
	return one(h.s.DB.ExecContext(ctx, h.archive, studio, id))
}

// Archived lists the documents that were taken out, the last one first.
func (h *Shelf) Archived(ctx context.Context, studio string) (ds []Document, err error) {
	err = h.s.DB.SelectContext(ctx, &ds, h.away, studio)
	return ds, err
}

// Unarchive puts a document back into the lists, as it was.
func (h *Shelf) Unarchive(ctx context.Context, studio, id string) error {
	return one(h.s.DB.ExecContext(ctx, h.back, studio, id))
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

// SeriesOn lists the series that have a day within the dates, by their first day.
func (s *Store) SeriesOn(ctx context.Context, studio string, from, to time.Time) (ds []Document, err error) {
	err = s.DB.SelectContext(ctx, &ds, strings.ReplaceAll(`SELECT `+shelfColumns+` FROM series
		WHERE studio_id = $1 AND archived_at IS NULL AND start_date <= $3::date AND start_date + days > $2::date ORDER BY start_date, series_id`, "$I", "series_id"), studio, from, to)
	return ds, err
}

// Use is a session that uses a movement.
type Use struct {
	PlanID string `db:"plan_id"` // the session
	Title  string `db:"title"`   // as it is listed
	Level  int    `db:"level"`   // the usual one, from 1
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

// Slot is a standalone class on a day.
type Slot struct {
	StudioID string    `db:"studio_id"` // the studio it belongs to
	ID       string    `db:"slot_id"`   // within the studio
	PlanID   string    `db:"plan_id"`   // the session
	Day      time.Time `db:"day"`       // a date; its time of day is not used
	Time     string    `db:"time"`      // "18:30"
}

// Slots lists the standalone classes within the dates, in order.
func (s *Store) Slots(ctx context.Context, studio string, from, to time.Time) (ss []Slot, err error) {
	err = s.DB.SelectContext(ctx, &ss, `SELECT studio_id, slot_id, plan_id, day, time FROM slots WHERE studio_id = $1 AND day BETWEEN $2::date AND $3::date ORDER BY day, time, slot_id`, studio, from, to)
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

// needs locks the own movements that a document needs against deletion until the transaction ends.
func needs(ctx context.Context, tx *sqlx.Tx, studio string, own []string) error {
	for _, m := range own {
		var there string
		err := tx.GetContext(ctx, &there, `SELECT movement_id FROM movements WHERE studio_id = $1 AND movement_id = $2 FOR KEY SHARE`, studio, m)
		if errors.Is(err, sql.ErrNoRows) {
			return &GoneError{m}
		}
		if err != nil {
			return err
		}
	}
	return nil
}
