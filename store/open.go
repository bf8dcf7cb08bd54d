package store

import (
	"context"
	"crypto/sha256"
	"strings"
)

// OpenSeries opens a series to anybody who has its address, and gives the secret of it, this once; an address that it had before opens nothing any more.
func (s *Store) OpenSeries(ctx context.Context, studio, id string) (secret string, err error) {
	secret = NewSecret()
	hash := sha256.Sum256([]byte(secret))
	return secret, one(s.DB.ExecContext(ctx, `UPDATE series SET open_hash = $3 WHERE studio_id = $1 AND series_id = $2 AND archived_at IS NULL`, studio, id, hash[:]))
}

// CloseSeries ends the address of a series.
func (s *Store) CloseSeries(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `UPDATE series SET open_hash = NULL WHERE studio_id = $1 AND series_id = $2`, studio, id))
}

// IsOpen tells whether a series has an address.
func (s *Store) IsOpen(ctx context.Context, studio, id string) (open bool, err error) {
	err = s.DB.GetContext(ctx, &open, `SELECT open_hash IS NOT NULL FROM series WHERE studio_id = $1 AND series_id = $2`, studio, id)
	return open, err
}

// SeriesBy finds the series that a secret opens; ErrNotFound, also where it is archived.
func (s *Store) SeriesBy(ctx context.Context, secret string) (d Document, err error) {
	hash := sha256.Sum256([]byte(secret))
	err = s.DB.GetContext(ctx, &d, strings.ReplaceAll(`SELECT `+shelfColumns+` FROM series WHERE open_hash = $1 AND archived_at IS NULL`, "$I", "series_id"), hash[:])
	return d, err
}
