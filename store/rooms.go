package store

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"log/slog"
	"math/big"
	"time"

	"github.com/jackc/pgx/v5"
)

// A class that is being led is a room: the page that leads tells what is on, screens follow. What is told goes through the database (LISTEN, NOTIFY), so that any
// instance of the program serves any screen.

// Room is a class that is being led now.
type Room struct {
	Code      string          `db:"code"`
	StudioID  string          `db:"studio_id"`
	TeacherID string          `db:"teacher_id"`
	Teacher   string          `db:"teacher"` // their name
	SessionID string          `db:"session_id"`
	Leader    string          `db:"leader"`
	Class     json.RawMessage `db:"class"`
	State     json.RawMessage `db:"state"`
	Seq       int64           `db:"seq"`
	ToldAt    time.Time       `db:"told_at"`
	Age       int64           `db:"age"` // milliseconds since
}

// How long a room lives: a screen is closed when nothing was told for roomIdle; a page that leads is away when it has told nothing for leaderAway. Judgement.
const (
	roomIdle   = "2 hours"
	leaderAway = 20 * time.Second
	codeLength = 6
	// no letter that reads as another, none that makes words
	codeLetters = "23456789BCDFGHJKMPQRTVWXY"
)

// ErrLed says that another page leads the class.
var ErrLed = errors.New("this class is led elsewhere")

// ErrRoomGone says that a room is not there any more, or that another page leads in it.
var ErrRoomGone = errors.New("this class is led elsewhere now, or has ended")

func newCode() string {
	b := make([]byte, codeLength)
	for i := range b {
		n, err := rand.Int(rand.Reader, big.NewInt(int64(len(codeLetters))))
		if err != nil {
			panic(err) // the system has no randomness
		}
		b[i] = codeLetters[n.Int64()]
	}
	return string(b)
}

const roomColumns = `r.code, r.studio_id, r.teacher_id, coalesce(t.name, '') AS teacher, r.session_id, r.leader, r.class, r.state, r.seq, r.told_at, (extract(epoch FROM now() - r.told_at) * 1000)::bigint AS age`

const roomsLive = ` FROM rooms r LEFT JOIN teachers t ON t.studio_id = r.studio_id AND t.teacher_id = r.teacher_id WHERE r.ended_at IS NULL AND r.told_at > now() - interval '` + roomIdle + `'`

// OpenRoom makes a room for a class, or takes the one there is: where another page leads it and has told something just now the error is ErrLed, with the room as it is,
// unless it is to be taken over. Rooms of classes that are long over go.
func (s *Store) OpenRoom(ctx context.Context, r Room, take bool) (Room, error) {
	var had Room
	err := s.DB.GetContext(ctx, &had, `SELECT `+roomColumns+roomsLive+` AND r.studio_id = $1 AND r.session_id = $2 ORDER BY r.told_at DESC LIMIT 1`, r.StudioID, r.SessionID)
	switch {
	case errors.Is(err, ErrNotFound):
	case err != nil:
		return had, err
	case had.Leader != r.Leader && !take:
		if time.Duration(had.Age)*time.Millisecond < leaderAway {
			return had, ErrLed
		}
		fallthrough
	default: // the screens that follow go on following
		if _, err := s.DB.ExecContext(ctx, `UPDATE rooms SET leader = $2, teacher_id = $3, class = $4, told_at = now(), seq = seq + 1 WHERE code = $1`, had.Code, r.Leader, r.TeacherID, r.Class); err != nil {
			return had, err
		}
		had.Leader = r.Leader
		return had, s.wakeRoom(ctx, had.Code)
	}
	if _, err := s.DB.ExecContext(ctx, `DELETE FROM rooms WHERE told_at < now() - interval '2 days'`); err != nil {
		return r, err
	}
	for range 5 {
		r.Code = newCode()
		res, err := s.DB.ExecContext(ctx, `INSERT INTO rooms (code, studio_id, teacher_id, session_id, leader, class) VALUES ($1, $2, $3, $4, $5, $6) ON CONFLICT DO NOTHING`,
			r.Code, r.StudioID, r.TeacherID, r.SessionID, r.Leader, r.Class)
		if err != nil {
			return r, err
		}
		if n, _ := res.RowsAffected(); n == 1 {
			return r, nil
		}
	}
	return r, errors.New("no code was free")
}

// TellRoom keeps what is on and wakes the screens. Only the page that leads may tell; else ErrRoomGone.
func (s *Store) TellRoom(ctx context.Context, studio, code, leader string, state json.RawMessage, ended bool) error {
	var seq int64
	err := s.DB.PutContext(ctx, &seq, `
		UPDATE rooms SET state = $4, seq = seq + 1, told_at = now(), ended_at = CASE WHEN $5 THEN now() END
		WHERE studio_id = $1 AND code = $2 AND leader = $3 AND ended_at IS NULL RETURNING seq`, studio, code, leader, state, ended)
	if errors.Is(err, ErrNotFound) {
		return ErrRoomGone
	}
	if err != nil {
		return err
	}
	return s.wakeRoom(ctx, code)
}

func (s *Store) wakeRoom(ctx context.Context, code string) error {
	return s.DB.BesideContext(ctx, `SELECT pg_notify('`+roomChannel+`', $1)`, code)
}

// RoomBy finds the room that a code opens; ErrNotFound where there is none, or none any more.
func (s *Store) RoomBy(ctx context.Context, code string) (r Room, err error) {
	err = s.DB.GetContext(ctx, &r, `SELECT `+roomColumns+roomsLive+` AND r.code = $1`, code)
	return r, err
}

const roomChannel = "wavekine_room"

// ListenRooms calls told with the code of each room in which something was told, by whichever instance, until the context ends. Where the connection is lost it is made
// again, and told gets an empty code: anything may have been told meanwhile.
func (s *Store) ListenRooms(ctx context.Context, told func(code string)) {
	for wait := 200 * time.Millisecond; ctx.Err() == nil; wait = min(2*wait, 5*time.Second) {
		err := s.listen(ctx, func() { wait = 200 * time.Millisecond; told("") }, told)
		if ctx.Err() != nil {
			return
		}
		slog.WarnContext(ctx, "listening for rooms", "err", err)
		select {
		case <-ctx.Done():
		case <-time.After(wait):
		}
	}
}

func (s *Store) listen(ctx context.Context, open func(), told func(string)) error {
	cfg := s.Pool.Config().ConnConfig.Copy()
	delete(cfg.RuntimeParams, "idle_session_timeout") // it waits, that is all it does
	conn, err := pgx.ConnectConfig(ctx, cfg)
	if err != nil {
		return err
	}
	defer func() {
		end, cancel := context.WithTimeout(context.WithoutCancel(ctx), time.Second)
		defer cancel()
		_ = conn.Close(end)
	}()
	if _, err := conn.Exec(ctx, "LISTEN "+roomChannel); err != nil {
		return err
	}
	open()
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		told(n.Payload)
	}
}
