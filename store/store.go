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

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"

	"wavekine/core/progress"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Schema are the schema's steps in SQL, for the tests' template database.
func Schema() fs.FS { return migrations }

// Migrations are the steps that bring a database up to date.
func Migrations(db *sql.DB, opts ...goose.ProviderOption) (*goose.Provider, error) {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectPostgres, db, dir, append(opts, goose.WithGoMigrations(audiencesMigration, levelsMigration, uncountedMigration))...)
}

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
	Pool     *pgxpool.Pool                         // the connections
	DB       conn                                  // the same through sqlx
	Sessions *Shelf                                // sessions with their history
	Series   *Shelf                                // series with theirs
	said     *lru.Cache[string, *progress.CheckIn] // check-ins as they were read: they never change
}

// timeouts are the server's own: nothing goes on there long after Patience has ended here.
var timeouts = map[string]string{"statement_timeout": "4s", "lock_timeout": "3s", "idle_in_transaction_session_timeout": "10s"}

// firstAnswer is how long a database may take to be there at the start.
const firstAnswer = 10 * time.Second

// Open connects; maxConns bounds the pool.
func Open(ctx context.Context, url string, maxConns int32) (*Store, error) {
	cfg, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, err
	}
	cfg.MaxConns = maxConns
	cfg.ConnConfig.RuntimeParams["application_name"] = "wavekine"
	cfg.ConnConfig.RuntimeParams["timezone"] = "UTC"
	for name, value := range timeouts {
		cfg.ConnConfig.RuntimeParams[name] = value
	}
	pool, err := pgxpool.NewWithConfig(ctx, cfg)
	if err != nil {
		return nil, err
	}
	first, cancel := context.WithTimeout(ctx, firstAnswer)
	defer cancel()
	if err := pool.Ping(first); err != nil {
		go pool.Close() // which waits for what does not answer
		return nil, fmt.Errorf("the database does not answer: %w", err)
	}
	said, err := lru.New[string, *progress.CheckIn](wordsKept)
	if err != nil {
		return nil, err
	}
	s := &Store{Pool: pool, DB: conn{sqlx.NewDb(stdlib.OpenDBFromPool(pool), "pgx")}, said: said}
	s.Sessions, s.Series = sessionShelf(s), seriesShelf(s)
	return s, nil
}

// Ready tells whether the database answers.
func (s *Store) Ready(ctx context.Context) error {
	var one int
	return s.DB.GetContext(ctx, &one, `SELECT 1`)
}

// Close gives the connections back.
func (s *Store) Close() { _ = s.DB.Close(); s.Pool.Close() }

// Migrate brings the schema up to date. A schema newer than this program is left alone: ErrNewer.
func (s *Store) Migrate(ctx context.Context) (int, error) {
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return 0, err
	}
	cfg := s.Pool.Config().ConnConfig.Copy()
	for name := range timeouts { // a migration takes as long as it takes
		delete(cfg.RuntimeParams, name)
	}
	db := stdlib.OpenDB(*cfg)
	defer func() { _ = db.Close() }()
	p, err := Migrations(db, goose.WithSessionLocker(locker))
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

// NewSecret makes a random secret of 160 bits in letters and digits, for links and devices.
func NewSecret() string { return NewID() + NewID() }

// NewID makes a random name of 16 letters and digits.
func NewID() string {
	var b [10]byte
	_, _ = rand.Read(b[:])
	return strings.ToLower(base32.StdEncoding.EncodeToString(b[:]))
}

func splitLines(text string) []string { return strings.Split(text, "\n") }
