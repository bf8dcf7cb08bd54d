// Package storetest gives each test a database of its own, cloned from a migrated template.
package storetest

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/store"
)

var (
	once sync.Once
	tmpl string
	terr error
)

func with(base, db string) string {
	u, err := url.Parse(base)
	if err != nil {
		panic(err)
	}
	u.Path = "/" + db
	return u.String()
}

// template makes the template database once for each content of the migrations, also across test
// processes, under an advisory lock.
func template(ctx context.Context, base string) (string, error) {
	h := sha256.New()
	names, _ := fs.Glob(store.Schema(), "migrations/*.sql")
	for _, n := range names {
		b, err := fs.ReadFile(store.Schema(), n)
		if err != nil {
			return "", err
		}
		fmt.Fprintf(h, "%s\x00%s\x00", n, b)
	}
	fmt.Fprint(h, store.CodeSteps)
	name := "tmpl_" + hex.EncodeToString(h.Sum(nil)[:8])
	c, err := pgx.Connect(ctx, base)
	if err != nil {
		return "", err
	}
	defer func() { _ = c.Close(ctx) }()
	if _, err := c.Exec(ctx, `SELECT pg_advisory_lock(724001)`); err != nil {
		return "", err
	}
	var there bool
	if err := c.QueryRow(ctx, `SELECT EXISTS (SELECT FROM pg_database WHERE datname = $1)`, name).Scan(&there); err != nil || there {
		return name, err
	}
	half := name + "_new" // so that a killed run leaves no half template
	for _, q := range []string{`DROP DATABASE IF EXISTS ` + half + ` WITH (FORCE)`, `CREATE DATABASE ` + half} {
		if _, err := c.Exec(ctx, q); err != nil {
			return "", err
		}
	}
	st, err := store.Open(ctx, with(base, half), 2)
	if err != nil {
		return "", err
	}
	_, err = st.Migrate(ctx)
	st.Close()
	if err != nil {
		return "", err
	}
	_, err = c.Exec(ctx, `ALTER DATABASE `+half+` RENAME TO `+name)
	return name, err
}

// New opens a fresh database; it is dropped when the test ends. TEST_DATABASE_URL names the
// server, with a role that may create databases; `make test` sets it.
func New(t testing.TB) *store.Store {
	t.Helper()
	base := os.Getenv("TEST_DATABASE_URL")
	if base == "" {
		t.Fatal("TEST_DATABASE_URL is not set: run make test, or scripts/test.sh with the package")
	}
	ctx := context.Background()
	once.Do(func() { tmpl, terr = template(ctx, base) })
	if terr != nil {
		t.Fatal(terr)
	}
	name := "t_" + store.NewID()
	exec := func(q string) error {
		c, err := pgx.Connect(ctx, base)
		if err != nil {
			return err
		}
		defer func() { _ = c.Close(ctx) }()
		_, err = c.Exec(ctx, q)
		return err
	}
	// The server's own autovacuum may be in a database for a moment: nobody but the server may end it, so it is waited for.
	patiently := func(q string) (err error) {
		for range 40 {
			if err = exec(q); err == nil {
				return nil
			}
			time.Sleep(250 * time.Millisecond)
		}
		return err
	}
	if err := patiently(`CREATE DATABASE ` + name + ` TEMPLATE ` + tmpl); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := patiently(`DROP DATABASE IF EXISTS ` + name + ` WITH (FORCE)`); err != nil {
			t.Error(err)
		}
	})
	st, err := store.Open(ctx, with(base, name), 6)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(st.Close)
	return st
}

// Away takes the database of a store away, as when its server is stopped: connections are cut and none is taken.
// The function it gives brings it back.
func Away(t testing.TB, st *store.Store) (back func()) {
	t.Helper()
	ctx, name := context.Background(), st.Pool.Config().ConnConfig.Database
	do := func(qs ...string) {
		t.Helper()
		c, err := pgx.Connect(ctx, os.Getenv("TEST_DATABASE_URL"))
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = c.Close(ctx) }()
		for _, q := range qs {
			if _, err := c.Exec(ctx, q); err != nil {
				t.Fatal(err)
			}
		}
	}
	do(`ALTER DATABASE `+name+` WITH ALLOW_CONNECTIONS false`, `SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '`+name+`' AND backend_type = 'client backend'`)
	return func() { do(`ALTER DATABASE ` + name + ` WITH ALLOW_CONNECTIONS true`) }
}

// Change is a change of a session by a teacher, through the gate as every change goes. lib is the shipped library
// where none is given.
func Change(t testing.TB, by, says, doc string, lib ...*movement.Library) store.Change {
	t.Helper()
	return store.Change{Doc: Sealed(t, doc, lib...), Says: says, By: by}
}

// Sealed is a session document as it may be stored.
func Sealed(t testing.TB, doc string, lib ...*movement.Library) plan.Sealed {
	t.Helper()
	lib = append(lib, movement.Shipped())
	s, err := plan.ReadSession([]byte(doc), lib[0])
	if err != nil {
		t.Fatal(err)
	}
	sealed, err := plan.Seal(s, lib[0])
	if err != nil {
		t.Fatal(err)
	}
	return sealed
}

// WithOwn is the shipped library with movements of a studio's own, each like a squat, by their slugs.
func WithOwn(t testing.TB, slugs ...string) *movement.Library {
	t.Helper()
	squat, _ := movement.Shipped().Get("squat")
	var own []movement.OwnVersion
	for _, s := range slugs {
		m := *squat
		m.Slug, m.Base, m.Name, m.Also, m.Levels = s, s, s, nil, slices.Clone(squat.Levels)
		own = append(own, movement.OwnVersion{Movement: &m, Version: 1, Newest: true})
	}
	lib, err := movement.Shipped().With(own, nil)
	if err != nil {
		t.Fatal(err)
	}
	return lib
}
