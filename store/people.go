package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"
)

// Studio is a house of teachers with its own settings.
type Studio struct {
	ID        string          `db:"studio_id"`   // within the studio
	Name      string          `db:"name"`        // as it is shown
	Zone      string          `db:"zone"`        // IANA time zone, such as Europe/Lisbon
	House     json.RawMessage `db:"house"`       // settings, as kit.House writes them
	CreatedAt time.Time       `db:"created_at"`  // when it was made
	Library   int             `db:"library_rev"` // counts the changes of the studio's library
}

// Teacher is somebody who signs in.
type Teacher struct {
	StudioID     string    `db:"studio_id"`     // the studio it belongs to
	ID           string    `db:"teacher_id"`    // within the studio
	Email        string    `db:"email"`         // unique over all studios, without regard to case
	Name         string    `db:"name"`          // as it is shown
	PasswordHash string    `db:"password_hash"` // argon2id in its usual encoding
	CreatedAt    time.Time `db:"created_at"`    // when it was made
}

// Mover is somebody who takes part.
type Mover struct {
	StudioID string `db:"studio_id"` // the studio it belongs to
	ID       string `db:"mover_id"`  // within the studio
	Name     string `db:"name"`      // as it is shown
	Watch    string `db:"watch"`     // what they watch, in their own words; may be empty
	Note     string `db:"note"`      // free words; may be empty
	Level    int    `db:"level"`     // the usual one, from 1
}

// AnyStudio tells whether the installation has a studio yet.
func (s *Store) AnyStudio(ctx context.Context) (there bool, err error) {
	err = s.DB.GetContext(ctx, &there, `SELECT EXISTS (SELECT FROM studios)`)
	return there, err
}

// CreateFirst makes the first studio and its first teacher; once there is a studio it gives
// ErrTaken, also when two try at the same moment.
func (s *Store) CreateFirst(ctx context.Context, st Studio, t Teacher) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock(724002)`); err != nil {
			return err
		}
		var there bool
		if err := tx.GetContext(ctx, &there, `SELECT EXISTS (SELECT FROM studios)`); err != nil {
			return err
		}
		if there {
			return ErrTaken
		}
		return createStudio(ctx, tx, st, t)
	})
}

// CreateStudio makes a studio with its first teacher.
func (s *Store) CreateStudio(ctx context.Context, st Studio, t Teacher) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error { return createStudio(ctx, tx, st, t) })
}

func createStudio(ctx context.Context, tx *sqlx.Tx, st Studio, t Teacher) error {
	if len(st.House) == 0 {
		st.House = json.RawMessage(`{}`)
	}
	if _, err := tx.NamedExecContext(ctx, `INSERT INTO studios (studio_id, name, zone, house) VALUES (:studio_id, :name, :zone, :house)`, st); err != nil {
		return err
	}
	t.StudioID = st.ID
	return addTeacher(ctx, tx, t)
}

func addTeacher(ctx context.Context, tx sqlx.ExtContext, t Teacher) error {
	_, err := sqlx.NamedExecContext(ctx, tx, `
		INSERT INTO teachers (studio_id, teacher_id, email, name, password_hash)
		VALUES (:studio_id, :teacher_id, :email, :name, :password_hash)`, t)
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.Code == "23505" {
		return ErrTaken
	}
	return err
}

// AddTeacher adds a teacher to a studio.
func (s *Store) AddTeacher(ctx context.Context, t Teacher) error { return addTeacher(ctx, s.DB, t) }

// TeacherByEmail finds who signs in. It is the one look-up that does not know its studio yet.
func (s *Store) TeacherByEmail(ctx context.Context, email string) (t Teacher, err error) {
	err = s.DB.GetContext(ctx, &t, `SELECT studio_id, teacher_id, email, name, password_hash, created_at FROM teachers WHERE lower(email) = lower($1)`, email)
	return t, err
}

// Teachers lists a studio's teachers by name.
func (s *Store) Teachers(ctx context.Context, studio string) (ts []Teacher, err error) {
	err = s.DB.SelectContext(ctx, &ts, `SELECT studio_id, teacher_id, email, name, password_hash, created_at FROM teachers WHERE studio_id = $1 ORDER BY lower(name), teacher_id`, studio)
	return ts, err
}

// SignedIn finds a teacher with the studio, in one question: it is asked at every request.
func (s *Store) SignedIn(ctx context.Context, studio, teacher string) (t Teacher, st Studio, err error) {
	var got struct {
		Teacher
		StudioName string          `db:"studio_name"`
		Zone       string          `db:"zone"`
		House      json.RawMessage `db:"house"`
		Library    int             `db:"library_rev"`
	}
	err = s.DB.GetContext(ctx, &got, `
		SELECT t.studio_id, t.teacher_id, t.email, t.name, t.password_hash, t.created_at, s.name AS studio_name, s.zone, s.house, s.library_rev
		FROM teachers t JOIN studios s USING (studio_id) WHERE t.studio_id = $1 AND t.teacher_id = $2`, studio, teacher)
	return got.Teacher, Studio{ID: got.StudioID, Name: got.StudioName, Zone: got.Zone, House: got.House, Library: got.Library}, err
}

// SaveHouse stores a studio's name, time zone and settings.
func (s *Store) SaveHouse(ctx context.Context, st Studio) error {
	_, err := s.DB.NamedExecContext(ctx, `UPDATE studios SET name = :name, zone = :zone, house = :house WHERE studio_id = :studio_id`, st)
	return err
}

// Movers lists who takes part, by name.
func (s *Store) Movers(ctx context.Context, studio string) (ms []Mover, err error) {
	err = s.DB.SelectContext(ctx, &ms, `SELECT studio_id, mover_id, name, watch, note, level FROM movers WHERE studio_id = $1 ORDER BY lower(name), mover_id`, studio)
	return ms, err
}

// SaveMover adds a mover or changes one.
func (s *Store) SaveMover(ctx context.Context, m Mover) error {
	_, err := s.DB.NamedExecContext(ctx, `
		INSERT INTO movers (studio_id, mover_id, name, watch, note, level) VALUES (:studio_id, :mover_id, :name, :watch, :note, :level)
		ON CONFLICT (studio_id, mover_id) DO UPDATE SET name = excluded.name, watch = excluded.watch, note = excluded.note, level = excluded.level`, m)
	return err
}

// DeleteMover removes a mover.
func (s *Store) DeleteMover(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `DELETE FROM movers WHERE studio_id = $1 AND mover_id = $2`, studio, id))
}
