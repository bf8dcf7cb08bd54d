package store

import (
	"context"
	"database/sql"
	"errors"
	"time"
)

// Limit is how often something may be tried under one key: Burst times at once, then once in Every.
type Limit struct {
	Burst int
	Every time.Duration
}

// Take takes one try under a key. wait is 0 where it may be made; else how long until it may, and nothing is taken. The
// count is shared by all instances. Generic cell rate algorithm (ITU-T I.371), one small row a key.
func (s *Store) Take(ctx context.Context, key string, l Limit) (wait time.Duration, err error) {
	var empty float64
	every, whole := l.Every.Seconds(), l.Every.Seconds()*float64(l.Burst)
	err = s.DB.GetContext(ctx, &empty, `
		INSERT INTO tries (key, empty_at) VALUES ($1, now() + $2 * interval '1 second')
		ON CONFLICT (key) DO UPDATE SET empty_at = greatest(tries.empty_at, now()) + $2 * interval '1 second'
		WHERE greatest(tries.empty_at, now()) + $2 * interval '1 second' <= now() + $3 * interval '1 second'
		RETURNING extract(epoch FROM empty_at - now())::float8`, hashed("try", key), every, whole)
	if !errors.Is(err, sql.ErrNoRows) {
		return 0, err
	}
	err = s.DB.GetContext(ctx, &empty, `SELECT coalesce((SELECT extract(epoch FROM empty_at - now()) FROM tries WHERE key = $1), 0)::float8`, hashed("try", key))
	return max(time.Second, time.Duration((empty+every-whole)*float64(time.Second))), err
}

// GiveBack takes back one try that was taken under a key.
func (s *Store) GiveBack(ctx context.Context, key string, l Limit) error {
	return s.DB.BesideContext(ctx, `UPDATE tries SET empty_at = empty_at - $2 * interval '1 second' WHERE key = $1`, hashed("try", key), l.Every.Seconds())
}

// WebSessions keeps who has signed in, for scs: with the context of the request, so that a database that does not
// answer is not waited for.
type WebSessions struct{ s *Store }

// WebSessions are those of the store.
func (s *Store) WebSessions() WebSessions { return WebSessions{s} }

// FindCtx gives what is kept under a token.
func (w WebSessions) FindCtx(ctx context.Context, token string) (data []byte, there bool, err error) {
	err = w.s.DB.GetContext(ctx, &data, `SELECT data FROM sessions WHERE token = $1 AND now() < expiry`, token)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, false, nil
	}
	return data, err == nil, err
}

// CommitCtx keeps it.
func (w WebSessions) CommitCtx(ctx context.Context, token string, data []byte, until time.Time) error {
	return w.s.DB.BesideContext(ctx, `
		INSERT INTO sessions (token, data, expiry) VALUES ($1, $2, $3)
		ON CONFLICT (token) DO UPDATE SET data = excluded.data, expiry = excluded.expiry`, token, data, until)
}

// DeleteCtx removes it.
func (w WebSessions) DeleteCtx(ctx context.Context, token string) error {
	return w.s.DB.BesideContext(ctx, `DELETE FROM sessions WHERE token = $1`, token)
}

// Find is FindCtx without a context.
func (w WebSessions) Find(token string) ([]byte, bool, error) {
	return w.FindCtx(context.Background(), token)
}

// Commit is CommitCtx without a context.
func (w WebSessions) Commit(token string, data []byte, until time.Time) error {
	return w.CommitCtx(context.Background(), token, data, until)
}

// Delete is DeleteCtx without a context.
func (w WebSessions) Delete(token string) error { return w.DeleteCtx(context.Background(), token) }

// CleanUp deletes what has expired at the door, now and then, until ctx ends.
func (s *Store) CleanUp(ctx context.Context, every time.Duration) {
	t := time.NewTicker(every)
	defer t.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
			_ = s.CleanDoor(ctx)
		}
	}
}

// CleanDoor deletes web sessions, tries and links that have expired.
func (s *Store) CleanDoor(ctx context.Context) error {
	var errs []error
	for _, q := range []string{`DELETE FROM sessions WHERE expiry < now()`, `DELETE FROM tries WHERE empty_at < now()`, `DELETE FROM door_links WHERE expires_at < now()`} {
		errs = append(errs, s.DB.BesideContext(ctx, q))
	}
	return errors.Join(errs...)
}
