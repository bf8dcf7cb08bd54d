package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"

	"wavekine/core/group"
)

// Group is people who do a series, with their dates.
type Group struct {
	StudioID  string       `db:"studio_id"`
	ID        string       `db:"group_id"`  // within the studio
	SeriesID  string       `db:"series_id"` // what they do
	Rev       int          `db:"rev"`       // how often it was changed, from 1
	Doc       []byte       `db:"doc"`
	Address   bool         `db:"address"`    // its calendar has a secret address
	UpdatedAt time.Time    `db:"updated_at"` // when it was changed last
	Group     *group.Group `db:"-"`          // the document, read
}

const groupColumns = `g.studio_id, g.group_id, g.series_id, g.rev, g.doc, g.token_hash IS NOT NULL AS address, g.updated_at`

// read reads the groups' documents.
func readGroups(gs []Group) ([]Group, error) {
	for i := range gs {
		g, err := group.Read(gs[i].Doc)
		if err != nil {
			return nil, fmt.Errorf("group %s: %w", gs[i].ID, err)
		}
		gs[i].Group = g
	}
	return gs, nil
}

// GroupsOf lists the groups of a series, the first to start first.
func (s *Store) GroupsOf(ctx context.Context, studio, series string) ([]Group, error) {
	var gs []Group
	if err := s.DB.SelectContext(ctx, &gs, `SELECT `+groupColumns+` FROM series_groups g WHERE studio_id = $1 AND series_id = $2 ORDER BY start_date, name, group_id`, studio, series); err != nil {
		return nil, err
	}
	return readGroups(gs)
}

// Groups lists the groups of a studio whose series are not archived, the first to start first.
func (s *Store) Groups(ctx context.Context, studio string) ([]Group, error) {
	var gs []Group
	if err := s.DB.SelectContext(ctx, &gs, `SELECT `+groupColumns+` FROM series_groups g JOIN series s USING (studio_id, series_id)
		WHERE g.studio_id = $1 AND s.archived_at IS NULL ORDER BY g.start_date, g.name, g.group_id`, studio); err != nil {
		return nil, err
	}
	return readGroups(gs)
}

// GetGroup finds a group; ErrNotFound.
func (s *Store) GetGroup(ctx context.Context, studio, id string) (Group, error) {
	gs := make([]Group, 1)
	if err := s.DB.GetContext(ctx, &gs[0], `SELECT `+groupColumns+` FROM series_groups g WHERE studio_id = $1 AND group_id = $2`, studio, id); err != nil {
		return Group{}, err
	}
	gs, err := readGroups(gs)
	if err != nil {
		return Group{}, err
	}
	return gs[0], nil
}

// groupText is a group as it is stored: it has been read again, so that it can be.
func groupText(g *group.Group) (string, error) {
	text, err := json.Marshal(g)
	if err != nil {
		return "", err
	}
	if _, err := group.Read(text); err != nil {
		return "", err
	}
	return string(text), nil
}

// CreateGroup gives a series to a group; ErrNotFound where there is no such series.
func (s *Store) CreateGroup(ctx context.Context, studio, series, id, by string, g *group.Group) error {
	text, err := groupText(g)
	if err != nil {
		return err
	}
	_, err = s.DB.ExecContext(ctx, `INSERT INTO series_groups (studio_id, group_id, series_id, name, doc, start_date, updated_by) VALUES ($1, $2, $3, $4, $5::text::jsonb, $6::date, $7)`,
		studio, id, series, g.Name, text, g.Start, by)
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.Code == "23503" { // foreign_key_violation
		return ErrNotFound
	}
	return err
}

// SaveGroup stores a changed group over the revision that was read; *Conflict where somebody else was first, ErrNotFound where it is gone.
func (s *Store) SaveGroup(ctx context.Context, studio, id string, rev int, by string, g *group.Group) (now int, err error) {
	text, err := groupText(g)
	if err != nil {
		return 0, err
	}
	err = s.DB.GetContext(ctx, &now, `UPDATE series_groups SET name = $4, doc = $5::text::jsonb, start_date = $6::date, rev = rev + 1, updated_at = now(), updated_by = $7
		WHERE studio_id = $1 AND group_id = $2 AND rev = $3 RETURNING rev`, studio, id, rev, g.Name, text, g.Start, by)
	if errors.Is(err, sql.ErrNoRows) {
		var have int
		if err := s.DB.GetContext(ctx, &have, `SELECT rev FROM series_groups WHERE studio_id = $1 AND group_id = $2`, studio, id); err != nil {
			return 0, err
		}
		return 0, &Conflict{Have: rev, Want: have}
	}
	return now, err
}

// DeleteGroup takes a series away from a group; its secret address ends with it.
func (s *Store) DeleteGroup(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `DELETE FROM series_groups WHERE studio_id = $1 AND group_id = $2`, studio, id))
}

// GroupAddress makes a new secret for the address of a group's calendar; the one before opens nothing any more. It is told this once: only its hash is kept.
func (s *Store) GroupAddress(ctx context.Context, studio, id string) (secret string, err error) {
	secret = NewSecret()
	hash := sha256.Sum256([]byte(secret))
	return secret, one(s.DB.ExecContext(ctx, `UPDATE series_groups SET token_hash = $3 WHERE studio_id = $1 AND group_id = $2`, studio, id, hash[:]))
}

// EndGroupAddress ends the secret address of a group's calendar.
func (s *Store) EndGroupAddress(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `UPDATE series_groups SET token_hash = NULL WHERE studio_id = $1 AND group_id = $2`, studio, id))
}

// GroupBy finds the group whose calendar has a secret address; ErrNotFound, also where its series is archived.
func (s *Store) GroupBy(ctx context.Context, secret string) (Group, error) {
	hash := sha256.Sum256([]byte(secret))
	gs := make([]Group, 1)
	if err := s.DB.GetContext(ctx, &gs[0], `SELECT `+groupColumns+` FROM series_groups g JOIN series s USING (studio_id, series_id) WHERE g.token_hash = $1 AND s.archived_at IS NULL`, hash[:]); err != nil {
		return Group{}, err
	}
	gs, err := readGroups(gs)
	if err != nil {
		return Group{}, err
	}
	return gs[0], nil
}

// ClassDays lists the days of a series, from 1, that ever had a class or a title: what calendars may have kept.
func (s *Store) ClassDays(ctx context.Context, studio, series string) (days []int, err error) {
	err = s.DB.SelectContext(ctx, &days, `SELECT DISTINCT d.n FROM series_revisions r, jsonb_array_elements(r.doc->'days') WITH ORDINALITY d (day, n)
		WHERE r.studio_id = $1 AND r.series_id = $2 AND (d.day ? 'session' OR coalesce(d.day->>'title', '') <> '') ORDER BY d.n`, studio, series)
	return days, err
}

// DeleteSeries deletes an archived series with its history and groups for good; ErrNotFound where there is none, or it is not archived.
func (s *Store) DeleteSeries(ctx context.Context, studio, id string) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if err := one(tx.ExecContext(ctx, `DELETE FROM series WHERE studio_id = $1 AND series_id = $2 AND archived_at IS NOT NULL`, studio, id)); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM series_revisions WHERE studio_id = $1 AND series_id = $2`, studio, id)
		return err
	})
}
