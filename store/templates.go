package store

import (
	"context"

	"github.com/jmoiron/sqlx"

	"wavekine/core/plan"
)

// Template is a piece of a class that a studio keeps.
type Template struct {
	ID    string `db:"template_id"` // within the studio
	Title string `db:"title"`       // as it is listed
	Doc   []byte `db:"doc"`         // the document as JSON
}

// Templates lists a studio's templates by title.
func (s *Store) Templates(ctx context.Context, studio string) (ts []Template, err error) {
	err = s.DB.SelectContext(ctx, &ts, `SELECT template_id, title, doc FROM templates WHERE studio_id = $1 ORDER BY lower(title), template_id`, studio)
	return ts, err
}

// Template finds one.
func (s *Store) Template(ctx context.Context, studio, id string) (t Template, err error) {
	err = s.DB.GetContext(ctx, &t, `SELECT template_id, title, doc FROM templates WHERE studio_id = $1 AND template_id = $2`, studio, id)
	return t, err
}

// SaveTemplate keeps a piece of a class. A *GoneError says that a movement it needs is gone.
func (s *Store) SaveTemplate(ctx context.Context, studio, id string, doc plan.Sealed, teacher string) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if err := needs(ctx, tx, studio, doc.Own()); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO templates (studio_id, template_id, title, doc, teacher_id) VALUES ($1, $2, $3, $4::text::jsonb, $5)`, studio, id, doc.Title(), string(doc.Text()), teacher)
		return err
	})
}

// DeleteTemplate removes one.
func (s *Store) DeleteTemplate(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `DELETE FROM templates WHERE studio_id = $1 AND template_id = $2`, studio, id))
}
