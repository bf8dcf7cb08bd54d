package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"
)

// Patience is how long a question to the database may take, with waiting for a connection: a database that does
// not answer is said to be so well within five seconds. Judgement: the longest statement of a full studio takes a
// hundredth of it.
const Patience = 4 * time.Second

// ErrNoAnswer says that the database did not answer within Patience.
var ErrNoAnswer = errors.New("the database does not answer")

// Visit is what is known of the writes of one request, so that an answer can say what has become of what was asked
// for. The zero value is one that has written nothing.
type Visit struct {
	kept   atomic.Int32 // writes that the database has acknowledged
	failed atomic.Int32 // writes that have changed nothing
	unsure atomic.Int32 // writes of which it is not known
	gaveUp atomic.Bool  // the database did not answer once: it is not asked again
}

// Outcome is what became of the writes of a visit.
type Outcome int

// What can become of writes: nothing was changed; all that was written is kept; some of it is; it is not known.
const (
	Unchanged Outcome = iota
	Kept
	Partly
	Unsure
)

// Outcome tells what became of what was written.
func (v *Visit) Outcome() Outcome {
	switch {
	case v == nil || v.unsure.Load() > 0:
		return Unsure // also where nobody has looked
	case v.kept.Load() > 0 && v.failed.Load() > 0:
		return Partly
	case v.kept.Load() > 0:
		return Kept
	}
	return Unchanged
}

type visitKey struct{}

// WithVisit gives a context in which writes are remembered in v.
func WithVisit(ctx context.Context, v *Visit) context.Context {
	return context.WithValue(ctx, visitKey{}, v)
}

// VisitOf is the visit of a context; nil where there is none.
func VisitOf(ctx context.Context) *Visit {
	v, _ := ctx.Value(visitKey{}).(*Visit)
	return v
}

// wrote remembers how a write ended.
func wrote(ctx context.Context, err error) {
	v := VisitOf(ctx)
	switch {
	case v == nil, errors.Is(err, sql.ErrNoRows): // the statement ran and changed nothing
	case err == nil:
		v.kept.Add(1)
	case refused(err):
		v.failed.Add(1)
	default:
		v.unsure.Add(1)
	}
}

// refused tells whether it is known that a failed write has changed nothing: it was never sent, or the server said
// no. A server that is going down says so in an error too, but perhaps after it has stored.
func refused(err error) bool {
	var pg *pgconn.PgError
	var connect *pgconn.ConnectError
	var early refusal
	if errors.As(err, &early) || errors.As(err, &connect) || pgconn.SafeToRetry(err) {
		return true
	}
	return errors.As(err, &pg) && pg.SeverityUnlocalized == "ERROR"
}

// Held tells whether an error says that somebody else holds what was to be changed, for longer than is waited.
func Held(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == "55P03" // lock_not_available
}

// NoAnswer tells whether an error says that the database is not there, is going down or takes too long.
func NoAnswer(err error) bool {
	var pg *pgconn.PgError
	var connect *pgconn.ConnectError
	if errors.As(err, &pg) && !errors.As(err, &connect) {
		return strings.HasPrefix(pg.Code, "57") || strings.HasPrefix(pg.Code, "53") // operator intervention, insufficient resources
	}
	return errors.Is(err, ErrNoAnswer) || errors.As(err, &connect) || pgconn.SafeToRetry(err)
}

// refusal is an error of which it is known that nothing was kept: it came before the database was asked to keep
// anything.
type refusal struct{ error }

func (e refusal) Unwrap() error { return e.error }

// conn is the database as the store asks it: every question has an end, and what is written is remembered.
type conn struct{ *sqlx.DB }

// read asks one question within Patience. A database that has not answered once is not asked again in the same visit.
func (d conn) read(ctx context.Context, do func(context.Context) error) error {
	v := VisitOf(ctx)
	if v != nil && v.gaveUp.Load() {
		return refusal{ErrNoAnswer}
	}
	within, cancel := context.WithTimeout(ctx, Patience)
	defer cancel()
	err := do(within)
	if err != nil && ctx.Err() == nil && within.Err() != nil {
		if v != nil {
			v.gaveUp.Store(true)
		}
		return fmt.Errorf("%w: %w", ErrNoAnswer, err)
	}
	return err
}

func (d conn) write(ctx context.Context, do func(context.Context) error) error {
	err := d.read(ctx, do)
	wrote(ctx, err)
	return err
}

// GetContext reads one row.
func (d conn) GetContext(ctx context.Context, to any, q string, args ...any) error {
	return d.read(ctx, func(ctx context.Context) error { return d.DB.GetContext(ctx, to, q, args...) })
}

// SelectContext reads rows.
func (d conn) SelectContext(ctx context.Context, to any, q string, args ...any) error {
	return d.read(ctx, func(ctx context.Context) error { return d.DB.SelectContext(ctx, to, q, args...) })
}

// PutContext writes, and reads the one row that it gives; sql.ErrNoRows when nothing was written.
func (d conn) PutContext(ctx context.Context, to any, q string, args ...any) error {
	return d.write(ctx, func(ctx context.Context) error { return d.DB.GetContext(ctx, to, q, args...) })
}

// ExecContext writes.
func (d conn) ExecContext(ctx context.Context, q string, args ...any) (r sql.Result, err error) {
	err = d.write(ctx, func(ctx context.Context) (err error) {
		r, err = d.DB.ExecContext(ctx, q, args...)
		return err
	})
	return r, err
}

// BesideContext writes what is nothing of what the request asks for: who is signed in, what was tried.
func (d conn) BesideContext(ctx context.Context, q string, args ...any) error {
	return d.read(ctx, func(ctx context.Context) error {
		_, err := d.DB.ExecContext(ctx, q, args...)
		return err
	})
}

// NamedExecContext writes with the fields of a struct.
func (d conn) NamedExecContext(ctx context.Context, q string, arg any) (r sql.Result, err error) {
	err = d.write(ctx, func(ctx context.Context) (err error) {
		r, err = d.DB.NamedExecContext(ctx, q, arg)
		return err
	})
	return r, err
}

// tx does several statements as one. What do refuses is rolled back.
func (s *Store) tx(ctx context.Context, do func(context.Context, *sqlx.Tx) error) error {
	return s.DB.write(ctx, func(ctx context.Context) error {
		tx, err := s.DB.BeginTxx(ctx, nil)
		if err != nil {
			return refusal{err}
		}
		defer func() { _ = tx.Rollback() }()
		if err := do(ctx, tx); err != nil {
			return refusal{err} // nothing is kept before the commit
		}
		return tx.Commit()
	})
}
