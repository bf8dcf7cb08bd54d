package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// TeacherPace is what a teacher has taken of what was learnt from their runs.
type TeacherPace struct {
	Slug  string    `db:"slug"`  // of the movement, without a version
	Pace  float64   `db:"pace"`  // factor on the product's seconds; 0 where the default stands again
	Runs  int       `db:"runs"`  // how many runs stand behind it
	Since time.Time `db:"since"` // when it was taken into use
}

// Paces lists a teacher's paces.
func (s *Store) Paces(ctx context.Context, studio, teacher string) (ps []TeacherPace, err error) {
	err = s.DB.SelectContext(ctx, &ps, `SELECT slug, pace, runs, since FROM teacher_paces WHERE studio_id = $1 AND teacher_id = $2 ORDER BY slug`, studio, teacher)
	return ps, err
}

// SavePaces takes paces into use, or with 0 goes back to the product's own; all of them or none.
func (s *Store) SavePaces(ctx context.Context, studio, teacher string, list ...TeacherPace) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		for _, p := range list {
			if _, err := tx.ExecContext(ctx, `
			INSERT INTO teacher_paces (studio_id, teacher_id, slug, pace, runs, since) VALUES ($1, $2, $3, $4, $5, $6)
			ON CONFLICT (studio_id, teacher_id, slug) DO UPDATE SET pace = excluded.pace, runs = excluded.runs, since = excluded.since`,
				studio, teacher, p.Slug, p.Pace, p.Runs, p.Since); err != nil {
				return err
			}
		}
		return bumpLibrary(ctx, tx, studio)
	})
}
