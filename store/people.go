package store

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"
)

// Mover is somebody who takes part.
type Mover struct {
	StudioID string `db:"studio_id"` // the studio it belongs to
	ID       string `db:"mover_id"`  // within the studio
	Name     string `db:"name"`      // as it is shown
	Watch    string `db:"watch"`     // what they watch, in their own words; may be empty
	Note     string `db:"note"`      // free words; may be empty
	Level    int    `db:"level"`     // the usual one, from 1
	Rev      int    `db:"rev"`       // counts up with every change, from 1
}

// MoverRevision is a mover as they were kept at a revision.
type MoverRevision struct {
	Mover
	By string    `db:"by"` // the teacher's name; empty where it is not known
	At time.Time `db:"at"` // when
}

// Movers lists who takes part, by name.
func (s *Store) Movers(ctx context.Context, studio string) (ms []Mover, err error) {
	err = s.DB.SelectContext(ctx, &ms, `SELECT studio_id, mover_id, name, watch, note, level, rev FROM movers WHERE studio_id = $1 ORDER BY lower(name), mover_id`, studio)
	return ms, err
}

// MoverSince lists what was kept of a mover from a revision on, the newest first; nothing where they are gone.
func (s *Store) MoverSince(ctx context.Context, studio, id string, rev int) (ms []MoverRevision, err error) {
	err = s.DB.SelectContext(ctx, &ms, `
		SELECT r.studio_id, r.mover_id, r.name, r.watch, r.note, r.level, r.rev, coalesce(t.name, '') AS by, r.at
		FROM mover_revisions r LEFT JOIN teachers t ON t.studio_id = r.studio_id AND t.teacher_id = r.teacher_id
		WHERE r.studio_id = $1 AND r.mover_id = $2 AND r.rev >= $3 ORDER BY r.rev DESC`, studio, id, rev)
	return ms, err
}

// SaveMover adds a mover, where Rev is 0, or changes the one that was read at Rev. A *Conflict says that somebody else
// was first, ErrNotFound that they are gone, ErrTaken that a new one's id is there already.
func (s *Store) SaveMover(ctx context.Context, m Mover, teacher string) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if m.Rev == 0 {
			r, err := tx.NamedExecContext(ctx, `
				INSERT INTO movers (studio_id, mover_id, name, watch, note, level, rev) VALUES (:studio_id, :mover_id, :name, :watch, :note, :level, 1)
				ON CONFLICT DO NOTHING`, m)
			if err := one(r, err); err != nil {
				return orTaken(err)
			}
		} else {
			r, err := tx.NamedExecContext(ctx, `
				UPDATE movers SET name = :name, watch = :watch, note = :note, level = :level, rev = rev + 1
				WHERE studio_id = :studio_id AND mover_id = :mover_id AND rev = :rev`, m)
			if err := one(r, err); err != nil {
				return moverConflict(ctx, tx, m.StudioID, m.ID, m.Rev, err)
			}
		}
		_, err := tx.ExecContext(ctx, `
			INSERT INTO mover_revisions (studio_id, mover_id, rev, name, watch, note, level, teacher_id) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`,
			m.StudioID, m.ID, m.Rev+1, m.Name, m.Watch, m.Note, m.Level, teacher)
		return err
	})
}

// orTaken is ErrTaken where an insert has met a row that was there.
func orTaken(err error) error {
	if errors.Is(err, ErrNotFound) {
		return ErrTaken
	}
	return err
}

// moverConflict tells why a mover could not be changed at a revision.
func moverConflict(ctx context.Context, tx *sqlx.Tx, studio, id string, rev int, err error) error {
	var have int
	if !errors.Is(err, sql.ErrNoRows) {
		return err
	}
	if err := tx.GetContext(ctx, &have, `SELECT rev FROM movers WHERE studio_id = $1 AND mover_id = $2`, studio, id); err != nil {
		return err
	}
	return &Conflict{rev, have}
}

// DeleteMover removes a mover that was read at a revision, with all that was kept of them. Errors as for SaveMover.
func (s *Store) DeleteMover(ctx context.Context, studio, id string, rev int) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		r, err := tx.ExecContext(ctx, `DELETE FROM movers WHERE studio_id = $1 AND mover_id = $2 AND rev = $3`, studio, id, rev)
		if err := one(r, err); err != nil {
			return moverConflict(ctx, tx, studio, id, rev, err)
		}
		return nil
	})
}
