package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// Letter is a letter to a mover.
type Letter struct {
	StudioID string     `db:"studio_id"`
	ID       string     `db:"letter_id"`
	MoverID  string     `db:"mover_id"`
	Once     string     `db:"once"` // what is written to them once only
	Kind     string     `db:"kind"`
	Name     string     `db:"to_name"`
	Address  string     `db:"to_address"` // empty: they have none, it can only be looked at
	Subject  string     `db:"subject"`
	Words    string     `db:"words"`  // {link} stands where the link goes
	Sealed   []byte     `db:"sealed"` // the token of the link
	State    string     `db:"state"`  // waiting, sending, sent, failed, unsure
	Tries    int        `db:"tries"`
	NextAt   time.Time  `db:"next_at"`
	Says     string     `db:"says"` // why it was not sent
	MadeAt   time.Time  `db:"made_at"`
	SentAt   *time.Time `db:"sent_at"`
}

const letterColumns = `studio_id, letter_id, mover_id, once, kind, to_name, to_address, subject, words, sealed, state, tries, next_at, says, made_at, sent_at`

// Write keeps a letter to be sent, with a link of its own where one is given: token is what the link opens with, and only its hash is kept beside what is sealed in the letter. wrote is
// false where it was written before.
func (s *Store) Write(ctx context.Context, l Letter, token, by string) (wrote bool, err error) {
	err = s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		r, err := tx.ExecContext(ctx, `INSERT INTO letters (studio_id, letter_id, mover_id, once, kind, to_name, to_address, subject, words, sealed, next_at) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)
			ON CONFLICT DO NOTHING`, l.StudioID, l.ID, l.MoverID, l.Once, l.Kind, l.Name, l.Address, l.Subject, l.Words, l.Sealed, l.NextAt)
		if err != nil {
			return orGone(err)
		}
		n, err := r.RowsAffected()
		if wrote = n > 0; err != nil || !wrote || token == "" {
			return err
		}
		return addLink(ctx, tx, l.StudioID, l.MoverID, by, token)
	})
	return wrote && err == nil, err
}

// Letters lists the letters of a studio, the newest first, to one mover where one is named.
func (s *Store) Letters(ctx context.Context, studio, mover string, most int) (ls []Letter, err error) {
	err = s.DB.SelectContext(ctx, &ls, `SELECT `+letterColumns+` FROM letters WHERE studio_id = $1 AND ($2 = '' OR mover_id = $2) ORDER BY made_at DESC, letter_id LIMIT $3`, studio, mover, most)
	return ls, err
}

// GetLetter finds a letter; ErrNotFound.
func (s *Store) GetLetter(ctx context.Context, studio, id string) (l Letter, err error) {
	err = s.DB.GetContext(ctx, &l, `SELECT `+letterColumns+` FROM letters WHERE studio_id = $1 AND letter_id = $2`, studio, id)
	return l, err
}

// lease is how long one who sends has a letter to themselves. Whoever takes longer has gone in the midst of it: then nobody knows whether it was sent, and it is not sent again by itself.
const lease = 5 * time.Minute

// TakeLetter takes the next letter that is to be sent, so that no other instance does; ErrNotFound where there is none. Studios whose post is stopped have none. Letters without an address
// wait, unless any will do.
func (s *Store) TakeLetter(ctx context.Context, any bool) (l Letter, err error) {
	if _, err := s.DB.ExecContext(ctx, `UPDATE letters SET state = 'unsure', says = 'the program ended while it was being sent: nobody knows whether it arrived' WHERE state = 'sending' AND next_at < now()`); err != nil {
		return l, err
	}
	err = s.DB.PutContext(ctx, &l, `UPDATE letters SET state = 'sending', tries = tries + 1, next_at = now() + $1::interval WHERE (studio_id, letter_id) = (
		SELECT l.studio_id, l.letter_id FROM letters l JOIN studios t USING (studio_id) WHERE l.state = 'waiting' AND l.next_at <= now() AND ($2 OR l.to_address <> '') AND NOT coalesce((t.house->>'post_off')::boolean, false)
		ORDER BY l.next_at FOR UPDATE OF l SKIP LOCKED LIMIT 1) RETURNING `+letterColumns, lease.String(), any)
	return l, err
}

// LetterSent notes that a letter was handed over. keep: the token of its link stays sealed in it, so that it can be looked at with its link working.
func (s *Store) LetterSent(ctx context.Context, l Letter, keep bool) error {
	return one(s.DB.ExecContext(ctx, `UPDATE letters SET state = 'sent', sent_at = now(), says = '', sealed = CASE WHEN $3 THEN sealed END WHERE studio_id = $1 AND letter_id = $2 AND state = 'sending'`, l.StudioID, l.ID, keep))
}

// LetterBack notes that a letter was not handed over: it is tried again at a time, or never where final.
func (s *Store) LetterBack(ctx context.Context, l Letter, says string, next time.Time, final bool) error {
	state := "waiting"
	if final {
		state = "failed"
	}
	return one(s.DB.ExecContext(ctx, `UPDATE letters SET state = $3, says = $4, next_at = $5 WHERE studio_id = $1 AND letter_id = $2 AND state = 'sending'`, l.StudioID, l.ID, state, says, next))
}

// LetterUnsure notes that nobody knows whether a letter was handed over: it is not sent again by itself.
func (s *Store) LetterUnsure(ctx context.Context, l Letter, says string) error {
	return one(s.DB.ExecContext(ctx, `UPDATE letters SET state = 'unsure', says = $3 WHERE studio_id = $1 AND letter_id = $2 AND state = 'sending'`, l.StudioID, l.ID, says))
}

// SendAgain has a letter that failed, or of which nobody knows, sent once more: a teacher asks for it.
func (s *Store) SendAgain(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `UPDATE letters SET state = 'waiting', says = '', tries = 0, next_at = now() WHERE studio_id = $1 AND letter_id = $2 AND state IN ('failed', 'unsure')`, studio, id))
}
