package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/jmoiron/sqlx"
)

// Studio is a house of teachers with its own settings.
type Studio struct {
	ID        string          `db:"studio_id"`   // within the installation
	Name      string          `db:"name"`        // as it is shown
	Zone      string          `db:"zone"`        // IANA time zone, such as Europe/Lisbon
	House     json.RawMessage `db:"house"`       // settings, as kit.House writes them
	Rev       int             `db:"rev"`         // counts up with every change of name, zone or settings, from 1
	CreatedAt time.Time       `db:"created_at"`  // when it was made
	Library   int             `db:"library_rev"` // counts the changes of the studio's library
}

// StudioByID finds a studio; ErrNotFound.
func (s *Store) StudioByID(ctx context.Context, id string) (st Studio, err error) {
	err = s.DB.GetContext(ctx, &st, `SELECT studio_id, name, zone, house, rev, created_at, library_rev FROM studios WHERE studio_id = $1`, id)
	return st, err
}

// HouseRevision is a studio's settings as they were at a revision.
type HouseRevision struct {
	Studio
	Says string    `db:"says"` // what was done, in words
	By   string    `db:"by"`   // the teacher's name; empty where it is not known
	At   time.Time `db:"at"`   // when
}

// ChangeHouse changes a studio's name, zone and settings. change gets them as they are at that moment, while nobody
// else can change them, and its error leaves them so; it must not ask the database. says is what is done, in words,
// and read after change. It gives what they are now.
func (s *Store) ChangeHouse(ctx context.Context, studio, teacher string, says *string, change func(*Studio) error) (st Studio, err error) {
	err = s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if err := tx.GetContext(ctx, &st, `SELECT studio_id, name, zone, house, rev, created_at, library_rev FROM studios WHERE studio_id = $1 FOR NO KEY UPDATE`, studio); err != nil {
			return err
		}
		if err := change(&st); err != nil {
			return err
		}
		st.ID, st.Rev = studio, st.Rev+1
		if _, err := tx.NamedExecContext(ctx, `UPDATE studios SET name = :name, zone = :zone, house = :house, rev = :rev WHERE studio_id = :studio_id`, st); err != nil {
			return err
		}
		return keepHouse(ctx, tx, st, teacher, *says)
	})
	return st, err
}

// keepHouse appends what a studio's settings are to their history.
func keepHouse(ctx context.Context, tx *sqlx.Tx, st Studio, teacher, says string) error {
	_, err := tx.ExecContext(ctx, `
		INSERT INTO house_revisions (studio_id, rev, name, zone, house, says, teacher_id) VALUES ($1, $2, $3, $4, $5, $6, $7)`,
		st.ID, st.Rev, st.Name, st.Zone, st.House, says, teacher)
	return err
}

const houseHistory = `
	SELECT r.studio_id, r.name, r.zone, r.house, r.rev, r.says, coalesce(t.name, '') AS by, r.at
	FROM house_revisions r LEFT JOIN teachers t ON t.studio_id = r.studio_id AND t.teacher_id = r.teacher_id
	WHERE r.studio_id = $1`

// HouseAt gives a studio's settings as they were at a revision; ErrNotFound.
func (s *Store) HouseAt(ctx context.Context, studio string, rev int) (h HouseRevision, err error) {
	err = s.DB.GetContext(ctx, &h, houseHistory+` AND r.rev = $2`, studio, rev)
	return h, err
}

// HouseHistory lists what was changed of a studio's settings, the newest first.
func (s *Store) HouseHistory(ctx context.Context, studio string, limit int) (hs []HouseRevision, err error) {
	err = s.DB.SelectContext(ctx, &hs, houseHistory+` ORDER BY r.rev DESC LIMIT $2`, studio, limit)
	return hs, err
}
