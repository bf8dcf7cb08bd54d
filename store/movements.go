package store

import (
	"context"
	"database/sql"
	"errors"
	"regexp"

	"github.com/jmoiron/sqlx"
)

// OwnMovement is one version of a studio's own movement.
type OwnMovement struct {
	ID      string `db:"movement_id"` // within the studio
	Version int    `db:"version"`     // from 1
	Newest  bool   `db:"newest"`      // it is the one that is offered
	Hidden  bool   `db:"hidden"`      // kept for what uses it, not offered
	Doc     []byte `db:"doc"`         // the document as JSON
}

// MovementChange is what a studio changes of a shipped movement.
type MovementChange struct {
	Slug   string `db:"slug"`   // of the movement, without a version
	Change []byte `db:"change"` // movement.Change as JSON
}

// OwnMovements lists every version of every own movement of a studio, and its changes of the shipped ones.
func (s *Store) OwnMovements(ctx context.Context, studio string) (own []OwnMovement, changes []MovementChange, err error) {
	if err = s.DB.SelectContext(ctx, &own, `
		SELECT v.movement_id, v.version, v.version = m.version AS newest, m.hidden, v.doc
		FROM movement_versions v JOIN movements m USING (studio_id, movement_id)
		WHERE v.studio_id = $1 ORDER BY v.movement_id, v.version`, studio); err != nil {
		return nil, nil, err
	}
	err = s.DB.SelectContext(ctx, &changes, `SELECT slug, change FROM movement_changes WHERE studio_id = $1 ORDER BY slug`, studio)
	return own, changes, err
}

func bumpLibrary(ctx context.Context, tx *sqlx.Tx, studio string) error {
	_, err := tx.ExecContext(ctx, `UPDATE studios SET library_rev = library_rev + 1 WHERE studio_id = $1`, studio)
	return err
}

// SaveMovement adds a version to an own movement that was read at version was; 0 makes a new one. It
// gives the new version. A *Conflict says that somebody else was first, ErrTaken that the name of a new
// one is there already.
func (s *Store) SaveMovement(ctx context.Context, studio, id, name string, was int, doc []byte, teacher string) (now int, err error) {
	err = s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		var have int
		err := tx.GetContext(ctx, &have, `SELECT version FROM movements WHERE studio_id = $1 AND movement_id = $2 FOR NO KEY UPDATE`, studio, id)
		switch {
		case errors.Is(err, sql.ErrNoRows) && was == 0:
			r, err := tx.ExecContext(ctx, `INSERT INTO movements (studio_id, movement_id, name, version) VALUES ($1, $2, $3, 1) ON CONFLICT DO NOTHING`, studio, id, name)
			if err := one(r, err); err != nil {
				return ErrTaken
			}
		case err != nil:
			return err
		case was == 0:
			return ErrTaken
		case have != was:
			return &Conflict{was, have}
		}
		now = was + 1
		if was > 0 {
			if _, err := tx.ExecContext(ctx, `UPDATE movements SET name = $3, version = $4, hidden = false, updated_at = now() WHERE studio_id = $1 AND movement_id = $2`, studio, id, name, now); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO movement_versions (studio_id, movement_id, version, doc, teacher_id) VALUES ($1, $2, $3, $4::text::jsonb, $5)`, studio, id, now, string(doc), teacher); err != nil {
			return err
		}
		return bumpLibrary(ctx, tx, studio)
	})
	return now, err
}

// HideMovement takes an own movement out of the library, or puts it back; sessions keep it.
func (s *Store) HideMovement(ctx context.Context, studio, id string, hidden bool) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if err := one(tx.ExecContext(ctx, `UPDATE movements SET hidden = $3, updated_at = now() WHERE studio_id = $1 AND movement_id = $2`, studio, id, hidden)); err != nil {
			return err
		}
		return bumpLibrary(ctx, tx, studio)
	})
}

// ErrUsed says that something uses what was to be deleted.
var ErrUsed = errors.New("it is used")

// DeleteMovement removes an own movement with all its versions, where no session, series or template uses it
// nor did in any revision; else ErrUsed. Whatever is being saved with it at that moment is waited for.
func (s *Store) DeleteMovement(ctx context.Context, studio, id string) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		var there string
		if err := tx.GetContext(ctx, &there, `SELECT movement_id FROM movements WHERE studio_id = $1 AND movement_id = $2 FOR UPDATE`, studio, id); err != nil {
			return err
		}
		var used bool // a statement of its own: it sees what was waited for
		if err := tx.GetContext(ctx, &used, `
			SELECT EXISTS (SELECT FROM plan_revisions WHERE studio_id = $1 AND doc::text ~ $2)
				OR EXISTS (SELECT FROM series_revisions WHERE studio_id = $1 AND doc::text ~ $2)
				OR EXISTS (SELECT FROM templates WHERE studio_id = $1 AND doc::text ~ $2)
				OR EXISTS (SELECT FROM patterns WHERE studio_id = $1 AND doc::text ~ $2)`, studio, `"`+regexp.QuoteMeta(id)+`(~[0-9]+)?"`); err != nil {
			return err
		}
		if used {
			return ErrUsed
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM movements WHERE studio_id = $1 AND movement_id = $2`, studio, id); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM movement_versions WHERE studio_id = $1 AND movement_id = $2`, studio, id); err != nil {
			return err
		}
		return bumpLibrary(ctx, tx, studio)
	})
}

// ChangeMovement stores what a studio changes of a shipped movement; nil takes the change back.
func (s *Store) ChangeMovement(ctx context.Context, studio, slug string, change []byte) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		var err error
		if change == nil {
			_, err = tx.ExecContext(ctx, `DELETE FROM movement_changes WHERE studio_id = $1 AND slug = $2`, studio, slug)
		} else {
			_, err = tx.ExecContext(ctx, `
				INSERT INTO movement_changes (studio_id, slug, change) VALUES ($1, $2, $3::text::jsonb)
				ON CONFLICT (studio_id, slug) DO UPDATE SET change = excluded.change, updated_at = now()`, studio, slug, string(change))
		}
		if err != nil {
			return err
		}
		return bumpLibrary(ctx, tx, studio)
	})
}
