package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
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
	Level    int    `db:"level"`     // the highest they usually take, from 1; 0: as planned
	Topics   Topics `db:"topics"`    // what was confirmed of what they watch; nil: nobody has looked
	Email    string `db:"email"`     // where letters go; may be empty
	Remind   bool   `db:"remind"`    // they want to be reminded
	Rev      int    `db:"rev"`       // counts up with every change, from 1
	// Erasing is when they asked for everything of them to be erased; nil: they did not.
	Erasing *time.Time `db:"erase_asked"`
}

// Topics is a list of words kept as JSON. nil is none said, empty is said to be none.
type Topics []string

// Scan reads the column.
func (t *Topics) Scan(v any) error {
	*t = nil
	switch x := v.(type) {
	case nil:
		return nil
	case string:
		return json.Unmarshal([]byte(x), t)
	case []byte:
		return json.Unmarshal(x, t)
	}
	return fmt.Errorf("topics as %T", v)
}

// Value writes the column.
func (t Topics) Value() (driver.Value, error) {
	if t == nil {
		return nil, nil
	}
	b, err := json.Marshal([]string(t))
	return string(b), err
}

const moverColumns = `studio_id, mover_id, name, watch, note, level, topics, email, remind, rev, erase_asked`

// MoverRevision is a mover as they were kept at a revision.
type MoverRevision struct {
	Mover
	By string    `db:"by"` // the teacher's name; empty where it is not known
	At time.Time `db:"at"` // when
}

// Movers lists who takes part, by name.
func (s *Store) Movers(ctx context.Context, studio string) (ms []Mover, err error) {
	err = s.DB.SelectContext(ctx, &ms, `SELECT `+moverColumns+` FROM movers WHERE studio_id = $1 ORDER BY lower(name), mover_id`, studio)
	return ms, err
}

// GetMover finds a mover; ErrNotFound.
func (s *Store) GetMover(ctx context.Context, studio, id string) (m Mover, err error) {
	err = s.DB.GetContext(ctx, &m, `SELECT `+moverColumns+` FROM movers WHERE studio_id = $1 AND mover_id = $2`, studio, id)
	return m, err
}

// MoverSince lists what was kept of a mover from a revision on, the newest first; nothing where they are gone.
func (s *Store) MoverSince(ctx context.Context, studio, id string, rev int) (ms []MoverRevision, err error) {
	err = s.DB.SelectContext(ctx, &ms, `
		SELECT r.studio_id, r.mover_id, r.name, r.watch, r.note, r.level, r.topics, r.email, r.remind, r.rev, coalesce(t.name, '') AS by, r.at
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
				INSERT INTO movers (studio_id, mover_id, name, watch, note, level, topics, email, remind, rev) VALUES (:studio_id, :mover_id, :name, :watch, :note, :level, :topics, :email, :remind, 1)
				ON CONFLICT DO NOTHING`, m)
			if err := one(r, err); err != nil {
				return orTaken(err)
			}
		} else {
			r, err := tx.NamedExecContext(ctx, `
				UPDATE movers SET name = :name, watch = :watch, note = :note, level = :level, topics = :topics, email = :email, remind = :remind, rev = rev + 1
				WHERE studio_id = :studio_id AND mover_id = :mover_id AND rev = :rev`, m)
			if err := one(r, err); err != nil {
				return moverConflict(ctx, tx, m.StudioID, m.ID, m.Rev, err)
			}
		}
		_, err := tx.ExecContext(ctx, `
			INSERT INTO mover_revisions (studio_id, mover_id, rev, name, watch, note, level, topics, email, remind, teacher_id) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)`,
			m.StudioID, m.ID, m.Rev+1, m.Name, m.Watch, m.Note, m.Level, m.Topics, m.Email, m.Remind, teacher)
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
	defer s.forget(studio, id)
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		r, err := tx.ExecContext(ctx, `DELETE FROM movers WHERE studio_id = $1 AND mover_id = $2 AND rev = $3`, studio, id, rev)
		if err := one(r, err); err != nil {
			return moverConflict(ctx, tx, studio, id, rev, err)
		}
		return unname(ctx, tx, studio, id)
	})
}

// EraseMover removes a mover with all that was ever kept of them, whatever was changed meanwhile: they have asked for it. ErrNotFound where they are gone.
func (s *Store) EraseMover(ctx context.Context, studio, id string) error {
	defer s.forget(studio, id)
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if err := unname(ctx, tx, studio, id); err != nil {
			return err
		}
		return one(tx.ExecContext(ctx, `DELETE FROM movers WHERE studio_id = $1 AND mover_id = $2`, studio, id))
	})
}

// unname takes somebody out of what was led: that a fault was corrected stays, in whom does not.
func unname(ctx context.Context, tx *sqlx.Tx, studio, id string) error {
	_, err := tx.ExecContext(ctx, `
		UPDATE runs SET doc = jsonb_set(doc, '{events}', (
			SELECT jsonb_agg(CASE WHEN e ->> 'who' = $2 THEN e - 'who' ELSE e END ORDER BY n) FROM jsonb_array_elements(doc -> 'events') WITH ORDINALITY AS x (e, n)))
		WHERE studio_id = $1 AND doc -> 'events' @> jsonb_build_array(jsonb_build_object('who', $2::text))`, studio, id)
	return err
}

// forget drops what is kept in memory of a mover's words.
func (s *Store) forget(studio, id string) {
	for _, k := range s.said.Keys() {
		if strings.HasPrefix(k, studio+"/") && strings.HasSuffix(k, "/"+id) {
			s.said.Remove(k)
		}
	}
}

// AskToErase notes that a mover wants everything of them to be erased.
func (s *Store) AskToErase(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `UPDATE movers SET erase_asked = coalesce(erase_asked, now()) WHERE studio_id = $1 AND mover_id = $2`, studio, id))
}

// Remind notes whether a mover wants to be reminded. It is their own word: no revision of the teacher's is made of it.
func (s *Store) Remind(ctx context.Context, studio, id string, want bool) error {
	return one(s.DB.ExecContext(ctx, `UPDATE movers SET remind = $3 WHERE studio_id = $1 AND mover_id = $2`, studio, id, want))
}
