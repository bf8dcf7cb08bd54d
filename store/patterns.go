package store

import (
	"context"

	"github.com/jmoiron/sqlx"

	"wavekine/core/plan"
)

// Pattern is a series that a studio keeps without dates.
type Pattern struct {
	ID    string `db:"pattern_id"` // within the studio
	Title string `db:"title"`      // as it is listed
	Doc   []byte `db:"doc"`        // the document as JSON
}

// Patterns lists a studio's patterns by title.
func (s *Store) Patterns(ctx context.Context, studio string) (ps []Pattern, err error) {
	err = s.DB.SelectContext(ctx, &ps, `SELECT pattern_id, title, doc FROM patterns WHERE studio_id = $1 ORDER BY lower(title), pattern_id`, studio)
	return ps, err
}

// Pattern finds one; ErrNotFound.
func (s *Store) Pattern(ctx context.Context, studio, id string) (p Pattern, err error) {
	err = s.DB.GetContext(ctx, &p, `SELECT pattern_id, title, doc FROM patterns WHERE studio_id = $1 AND pattern_id = $2`, studio, id)
	return p, err
}

// SavePattern keeps one. A *GoneError says that a movement it needs is gone.
func (s *Store) SavePattern(ctx context.Context, studio, id string, doc plan.Sealed, teacher string) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if err := needs(ctx, tx, studio, doc.Own()); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO patterns (studio_id, pattern_id, title, doc, teacher_id) VALUES ($1, $2, $3, $4::text::jsonb, $5)`, studio, id, doc.Title(), string(doc.Text()), teacher)
		return err
	})
}

// DeletePattern removes one.
func (s *Store) DeletePattern(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `DELETE FROM patterns WHERE studio_id = $1 AND pattern_id = $2`, studio, id))
}
