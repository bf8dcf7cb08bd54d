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
	"sync"
	"testing"

	"github.com/jackc/pgx/v5"

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
	names, _ := fs.Glob(store.Migrations(), "migrations/*.sql")
	for _, n := range names {
		b, err := fs.ReadFile(store.Migrations(), n)
		if err != nil {
			return "", err
		}
		fmt.Fprintf(h, "%s\x00%s\x00", n, b)
	}
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
	if err := exec(`CREATE DATABASE ` + name + ` TEMPLATE ` + tmpl); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := exec(`DROP DATABASE ` + name + ` WITH (FORCE)`); err != nil {
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
