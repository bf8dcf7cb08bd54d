package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"
)

// Role is what somebody may do in a studio.
type Role string

// A teacher does all the work of the studio; an owner also says who its teachers are.
const (
	AsTeacher Role = "teacher"
	AsOwner   Role = "owner"
)

// Teacher is somebody who signs in.
type Teacher struct {
	StudioID     string       `db:"studio_id"`     // the studio it belongs to
	ID           string       `db:"teacher_id"`    // within the studio
	Email        string       `db:"email"`         // unique over all studios, without regard to case
	Name         string       `db:"name"`          // as it is shown
	PasswordHash string       `db:"password_hash"` // argon2id in its usual encoding; empty: none was set yet, or taken away
	Role         Role         `db:"role"`
	Epoch        int          `db:"epoch"` // sign-ins of an earlier epoch no longer count
	CreatedAt    time.Time    `db:"created_at"`
	RemovedAt    sql.NullTime `db:"removed_at"` // no longer a teacher of the studio; what they made stays
}

const teacherColumns = `t.studio_id, t.teacher_id, t.email, t.name, t.password_hash, t.role, t.epoch, t.created_at, t.removed_at`

// AnyStudio tells whether the installation has a studio yet.
func (s *Store) AnyStudio(ctx context.Context) (there bool, err error) {
	err = s.DB.GetContext(ctx, &there, `SELECT EXISTS (SELECT FROM studios)`)
	return there, err
}

// CreateFirst makes the first studio and its owner; once there is a studio it gives ErrTaken, also when two try at the
// same moment.
func (s *Store) CreateFirst(ctx context.Context, st Studio, t Teacher) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
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

// CreateStudio makes a studio with its owner.
func (s *Store) CreateStudio(ctx context.Context, st Studio, t Teacher) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error { return createStudio(ctx, tx, st, t) })
}

func createStudio(ctx context.Context, tx *sqlx.Tx, st Studio, t Teacher) error {
	if len(st.House) == 0 {
		st.House = json.RawMessage(`{}`)
	}
	st.Rev = 1
	if _, err := tx.NamedExecContext(ctx, `INSERT INTO studios (studio_id, name, zone, house, rev) VALUES (:studio_id, :name, :zone, :house, :rev)`, st); err != nil {
		return err
	}
	t.StudioID, t.Role = st.ID, AsOwner
	if err := addTeacher(ctx, tx, t); err != nil {
		return err
	}
	return keepHouse(ctx, tx, st, t.ID, "New studio")
}

func addTeacher(ctx context.Context, tx *sqlx.Tx, t Teacher) error {
	if t.Role == "" {
		t.Role = AsTeacher
	}
	_, err := tx.NamedExecContext(ctx, `
		INSERT INTO teachers (studio_id, teacher_id, email, name, password_hash, role)
		VALUES (:studio_id, :teacher_id, :email, :name, :password_hash, :role)`, t)
	return takenMail(err)
}

// takenMail is ErrTaken where somebody has the e-mail already.
func takenMail(err error) error {
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.Code == "23505" {
		return ErrTaken
	}
	return err
}

// AddTeacher adds a teacher to a studio; ErrTaken where somebody has the e-mail already.
func (s *Store) AddTeacher(ctx context.Context, t Teacher) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error { return addTeacher(ctx, tx, t) })
}

// TeacherByEmail finds who signs in, and whether they have signed in from this device before. It is the one look-up
// that does not know its studio yet.
func (s *Store) TeacherByEmail(ctx context.Context, email, device string) (t Teacher, known bool, err error) {
	var got struct {
		Teacher
		Known bool `db:"known"`
	}
	err = s.DB.GetContext(ctx, &got, `
		SELECT `+teacherColumns+`, EXISTS (SELECT FROM known_devices d WHERE d.studio_id = t.studio_id AND d.teacher_id = t.teacher_id AND d.device_hash = $2) AS known
		FROM teachers t WHERE lower(t.email) = lower($1) AND t.removed_at IS NULL`, email, hashed("device", device))
	return got.Teacher, got.Known, err
}

// devicesKept is how many devices of a teacher are remembered; judgement.
const devicesKept = 12

// KnowDevice remembers that a teacher has signed in from a device.
func (s *Store) KnowDevice(ctx context.Context, t Teacher, device string) error {
	return s.DB.BesideContext(ctx, `
		WITH d AS (
			INSERT INTO known_devices (studio_id, teacher_id, device_hash) VALUES ($1, $2, $3)
			ON CONFLICT (studio_id, teacher_id, device_hash) DO UPDATE SET seen_at = now()
		)
		DELETE FROM known_devices WHERE studio_id = $1 AND teacher_id = $2 AND device_hash <> $3 AND device_hash NOT IN (
			SELECT device_hash FROM known_devices WHERE studio_id = $1 AND teacher_id = $2 ORDER BY seen_at DESC LIMIT $4)`,
		t.StudioID, t.ID, hashed("device", device), devicesKept-1)
}

// Teachers lists a studio's teachers by name, those who were removed at the end.
func (s *Store) Teachers(ctx context.Context, studio string) (ts []Teacher, err error) {
	err = s.DB.SelectContext(ctx, &ts, `SELECT `+teacherColumns+` FROM teachers t WHERE t.studio_id = $1 ORDER BY t.removed_at IS NOT NULL, lower(t.name), t.teacher_id`, studio)
	return ts, err
}

// SignedIn finds a teacher with the studio, in one question: it is asked at every request. Somebody who was removed, and
// a sign-in of another epoch, is not found.
func (s *Store) SignedIn(ctx context.Context, studio, teacher string, epoch int) (t Teacher, st Studio, err error) {
	var got struct {
		Teacher
		StudioName string          `db:"studio_name"`
		Zone       string          `db:"zone"`
		House      json.RawMessage `db:"house"`
		Rev        int             `db:"rev"`
		Library    int             `db:"library_rev"`
	}
	err = s.DB.GetContext(ctx, &got, `
		SELECT `+teacherColumns+`, s.name AS studio_name, s.zone, s.house, s.rev, s.library_rev
		FROM teachers t JOIN studios s USING (studio_id)
		WHERE t.studio_id = $1 AND t.teacher_id = $2 AND t.epoch = $3 AND t.removed_at IS NULL`, studio, teacher, epoch)
	return got.Teacher, Studio{ID: got.StudioID, Name: got.StudioName, Zone: got.Zone, House: got.House, Rev: got.Rev, Library: got.Library}, err
}

// SetPassword gives a teacher a new password, read at an epoch: every sign-in until now ends, and a link that waited is
// void. It gives the new epoch. ErrNotFound says that they are gone, or that the password was changed meanwhile.
func (s *Store) SetPassword(ctx context.Context, studio, teacher string, epoch int, hash string) (now int, err error) {
	err = s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if err := tx.GetContext(ctx, &now, `
			UPDATE teachers SET password_hash = $4, epoch = epoch + 1
			WHERE studio_id = $1 AND teacher_id = $2 AND epoch = $3 AND removed_at IS NULL RETURNING epoch`, studio, teacher, epoch, hash); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM door_links WHERE studio_id = $1 AND teacher_id = $2`, studio, teacher)
		return err
	})
	return now, err
}

// SignOutEverywhere ends every sign-in of a teacher, and forgets their devices. It gives the new epoch.
func (s *Store) SignOutEverywhere(ctx context.Context, studio, teacher string) (now int, err error) {
	err = s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if err := tx.GetContext(ctx, &now, `UPDATE teachers SET epoch = epoch + 1 WHERE studio_id = $1 AND teacher_id = $2 RETURNING epoch`, studio, teacher); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM known_devices WHERE studio_id = $1 AND teacher_id = $2`, studio, teacher)
		return err
	})
	return now, err
}

// ErrLastOwner says that a studio would have no owner left.
var ErrLastOwner = errors.New("a studio needs an owner")

// SetRole makes a teacher an owner, or an owner a teacher; the last owner stays: ErrLastOwner.
func (s *Store) SetRole(ctx context.Context, studio, teacher string, role Role) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		r, err := tx.ExecContext(ctx, `UPDATE teachers SET role = $3 WHERE studio_id = $1 AND teacher_id = $2 AND removed_at IS NULL`, studio, teacher, role)
		if err := one(r, err); err != nil {
			return err
		}
		return stillOwned(ctx, tx, studio)
	})
}

// RemoveTeacher closes the door to a teacher: their sign-ins end, their password and links are void. What they made, and
// their name on it, stays. The last owner stays: ErrLastOwner.
func (s *Store) RemoveTeacher(ctx context.Context, studio, teacher string) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		r, err := tx.ExecContext(ctx, `
			UPDATE teachers SET removed_at = now(), password_hash = '', epoch = epoch + 1, role = 'teacher'
			WHERE studio_id = $1 AND teacher_id = $2 AND removed_at IS NULL`, studio, teacher)
		if err := one(r, err); err != nil {
			return err
		}
		for _, q := range []string{`DELETE FROM door_links WHERE studio_id = $1 AND teacher_id = $2`, `DELETE FROM known_devices WHERE studio_id = $1 AND teacher_id = $2`} {
			if _, err := tx.ExecContext(ctx, q, studio, teacher); err != nil {
				return err
			}
		}
		return stillOwned(ctx, tx, studio)
	})
}

// stillOwned holds the studio, so that two owners cannot go at the same moment.
func stillOwned(ctx context.Context, tx *sqlx.Tx, studio string) error {
	var owners int
	if _, err := tx.ExecContext(ctx, `SELECT FROM studios WHERE studio_id = $1 FOR UPDATE`, studio); err != nil {
		return err
	}
	if err := tx.GetContext(ctx, &owners, `SELECT count(*) FROM teachers WHERE studio_id = $1 AND role = 'owner' AND removed_at IS NULL`, studio); err != nil {
		return err
	}
	if owners == 0 {
		return ErrLastOwner
	}
	return nil
}

// ReturnTeacher takes a removed teacher back; a link opens the door for them. ErrTaken where somebody has the e-mail now.
func (s *Store) ReturnTeacher(ctx context.Context, studio, teacher string) error {
	r, err := s.DB.ExecContext(ctx, `UPDATE teachers SET removed_at = NULL WHERE studio_id = $1 AND teacher_id = $2 AND removed_at IS NOT NULL`, studio, teacher)
	return one(r, takenMail(err))
}

// hashed is how a secret is stored, apart for each use of it.
func hashed(use, secret string) []byte {
	sum := sha256.Sum256([]byte(use + "\x00" + secret))
	return sum[:]
}

// Link is a one-time link by which a teacher sets a password.
type Link struct {
	Teacher
	Studio  string    `db:"studio"`     // its name
	Expires time.Time `db:"expires_at"` // from then on it is void
}

// MakeLink keeps a one-time link for a teacher, in the place of one that was made before; by is who made it, empty from
// the command line.
func (s *Store) MakeLink(ctx context.Context, studio, teacher, token, by string, valid time.Duration) error {
	return one(s.DB.ExecContext(ctx, `
		INSERT INTO door_links (studio_id, teacher_id, token_hash, made_by, expires_at)
		SELECT studio_id, teacher_id, $3, $4, now() + $5::float8 * interval '1 second' FROM teachers WHERE studio_id = $1 AND teacher_id = $2 AND removed_at IS NULL
		ON CONFLICT (studio_id, teacher_id) DO UPDATE SET token_hash = excluded.token_hash, made_by = excluded.made_by, made_at = now(), expires_at = excluded.expires_at`,
		studio, teacher, hashed("link", token), by, valid.Seconds()))
}

const linkFrom = ` FROM door_links l JOIN teachers t USING (studio_id, teacher_id) JOIN studios s USING (studio_id) WHERE l.token_hash = $1 AND l.expires_at > now()`

// LinkOf finds whom a link is for; ErrNotFound for one that was used, replaced, is too old or never was.
func (s *Store) LinkOf(ctx context.Context, token string) (l Link, err error) {
	err = s.DB.GetContext(ctx, &l, `SELECT `+teacherColumns+`, s.name AS studio, l.expires_at`+linkFrom, hashed("link", token))
	return l, err
}

// UseLink sets a password by a link, once: of two that try, one finds it gone. Every sign-in until now ends. It gives the
// teacher as they are now.
func (s *Store) UseLink(ctx context.Context, token, hash string) (t Teacher, err error) {
	err = s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		var of struct {
			Studio  string `db:"studio_id"`
			Teacher string `db:"teacher_id"`
		}
		if err := tx.GetContext(ctx, &of, `DELETE FROM door_links WHERE token_hash = $1 AND expires_at > now() RETURNING studio_id, teacher_id`, hashed("link", token)); err != nil {
			return err
		}
		return tx.GetContext(ctx, &t, `
			UPDATE teachers t SET password_hash = $3, epoch = epoch + 1 WHERE studio_id = $1 AND teacher_id = $2 AND removed_at IS NULL
			RETURNING `+teacherColumns, of.Studio, of.Teacher, hash)
	})
	return t, err
}
