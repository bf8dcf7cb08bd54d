// Package store reads and writes PostgreSQL: pgx underneath, sqlx on top, the SQL beside its Go.
// Every call takes the studio it is for; there is no query without one.
package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"embed"
	"encoding/base32"
	"errors"
	"fmt"
	"io/fs"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Migrations are the schema's steps, for the tests' template database.
func Migrations() fs.FS { return migrations }

// Errors that callers tell apart.
var (
	ErrNotFound = sql.ErrNoRows
	ErrTaken    = errors.New("that is taken already")
	ErrNewer    = errors.New("the data was made by a newer version of Wavekine: start that version, or point WAVEKINE_DATA at another folder")
)

// Conflict says that somebody else changed the document first.
type Conflict struct{ Have, Want int }

func (c *Conflict) Error() string {
	return fmt.Sprintf("changed meanwhile: you were on revision %d, it is now %d", c.Have, c.Want)
}

// Store holds one pool of connections.
type Store struct {
	Pool     *pgxpool.Pool // the connections
	DB       *sqlx.DB      // the same through sqlx
	Sessions *Shelf        // sessions with their history
	Series   *Shelf        // series with theirs
}

// Open connects; maxConns bounds the pool.
func Open(ctx context.Context, url string, maxConns int32) (*Store, error) {
	cfg, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, err
	}
	cfg.MaxConns = maxConns
	cfg.ConnConfig.RuntimeParams["application_name"] = "wavekine"
	cfg.ConnConfig.RuntimeParams["timezone"] = "UTC"
	cfg.ConnConfig.RuntimeParams["statement_timeout"] = "10s"
	pool, err := pgxpool.NewWithConfig(ctx, cfg)
	if err != nil {
		return nil, err
	}
	if err := pool.Ping(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("the database does not answer: %w", err)
	}
	s := &Store{Pool: pool, DB: sqlx.NewDb(stdlib.OpenDBFromPool(pool), "pgx")}
	s.Sessions, s.Series = sessionShelf(s), seriesShelf(s)
	return s, nil
}

// Close gives the connections back.
func (s *Store) Close() { _ = s.DB.Close(); s.Pool.Close() }

// Migrate brings the schema up to date. A schema newer than this program is left alone: ErrNewer.
func (s *Store) Migrate(ctx context.Context) (int, error) {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return 0, err
	}
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return 0, err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, s.DB.DB, dir, goose.WithSessionLocker(locker))
	if err != nil {
		return 0, err
	}
	have, err := p.GetDBVersion(ctx)
	if err != nil {
		return 0, err
	}
	sources := p.ListSources()
	if have > sources[len(sources)-1].Version {
		return 0, ErrNewer
	}
	done, err := p.Up(ctx)
	return len(done), err
}

// CleanSessions deletes expired web sessions now and then, until ctx ends.
func (s *Store) CleanSessions(ctx context.Context, every time.Duration) {
	t := time.NewTicker(every)
	defer t.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
			_, _ = s.DB.ExecContext(ctx, `DELETE FROM sessions WHERE expiry < now()`)
		}
	}
}

// NewID makes a random name of 16 letters and digits.
func NewID() string {
	var b [10]byte
	_, _ = rand.Read(b[:])
	return strings.ToLower(base32.StdEncoding.EncodeToString(b[:]))
}

func (s *Store) tx(ctx context.Context, do func(*sqlx.Tx) error) error {
	tx, err := s.DB.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer func() { _ = tx.Rollback() }()
	if err := do(tx); err != nil {
		return err
	}
	return tx.Commit()
}

func splitLines(text string) []string { return strings.Split(text, "\n") }
