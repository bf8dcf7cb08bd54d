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

	"wavekine/core/progress"
)

// Membership is a mover in a group.
type Membership struct {
	GroupID string `db:"group_id"`
	MoverID string `db:"mover_id"`
}

// Memberships lists who is in which group of a studio.
func (s *Store) Memberships(ctx context.Context, studio string) (ms []Membership, err error) {
	err = s.DB.SelectContext(ctx, &ms, `SELECT group_id, mover_id FROM group_movers WHERE studio_id = $1 ORDER BY joined_at, mover_id`, studio)
	return ms, err
}

// GroupMovers lists the movers of a group by name.
func (s *Store) GroupMovers(ctx context.Context, studio, group string) (ms []Mover, err error) {
	err = s.DB.SelectContext(ctx, &ms, `SELECT `+moverColumns+` FROM movers WHERE studio_id = $1 AND mover_id IN (SELECT mover_id FROM group_movers WHERE studio_id = $1 AND group_id = $2)
		ORDER BY lower(name), mover_id`, studio, group)
	return ms, err
}

// MoverGroups lists the groups of a mover whose series are not archived, the last to start first.
func (s *Store) MoverGroups(ctx context.Context, studio, mover string) ([]Group, error) {
	var gs []Group
	if err := s.DB.SelectContext(ctx, &gs, `SELECT `+groupColumns+` FROM series_groups g JOIN series s USING (studio_id, series_id) JOIN group_movers m USING (studio_id, group_id)
		WHERE g.studio_id = $1 AND m.mover_id = $2 AND s.archived_at IS NULL ORDER BY g.start_date DESC, g.name, g.group_id`, studio, mover); err != nil {
		return nil, err
	}
	return readGroups(gs)
}

// Join puts a mover into a group on a date, zero for from its beginning; who is in it stays. ErrNotFound where one of them is not there.
func (s *Store) Join(ctx context.Context, studio, group, mover string, on time.Time) error {
	_, err := s.DB.ExecContext(ctx, `INSERT INTO group_movers (studio_id, group_id, mover_id, joined_on) VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING`, studio, group, mover, sql.NullTime{Time: on, Valid: !on.IsZero()})
	return orGone(err)
}

// Joined are the dates on which movers came into a group, of those who came after its beginning.
func (s *Store) Joined(ctx context.Context, studio, group string) (map[string]time.Time, error) {
	var ms []struct {
		Mover string    `db:"mover_id"`
		On    time.Time `db:"joined_on"`
	}
	err := s.DB.SelectContext(ctx, &ms, `SELECT mover_id, joined_on FROM group_movers WHERE studio_id = $1 AND group_id = $2 AND joined_on IS NOT NULL`, studio, group)
	out := make(map[string]time.Time, len(ms))
	for _, m := range ms {
		out[m.Mover] = time.Date(m.On.Year(), m.On.Month(), m.On.Day(), 0, 0, 0, 0, time.UTC)
	}
	return out, err
}

// Leave takes a mover out of a group. What they said of it stays theirs.
func (s *Store) Leave(ctx context.Context, studio, group, mover string) error {
	return one(s.DB.ExecContext(ctx, `DELETE FROM group_movers WHERE studio_id = $1 AND group_id = $2 AND mover_id = $3`, studio, group, mover))
}

// orGone is ErrNotFound where a row points to what is not there.
func orGone(err error) error {
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.Code == "23503" { // foreign_key_violation
		return ErrNotFound
	}
	return err
}

// MoverLink is a personal link of a mover; its token is not known any more.
type MoverLink struct {
	ID     string     `db:"link_id"`
	MadeAt time.Time  `db:"made_at"`
	Opened *time.Time `db:"opened_at"`
}

// MoverLinks lists the links of a mover that open something.
func (s *Store) MoverLinks(ctx context.Context, studio, mover string) (ls []MoverLink, err error) {
	err = s.DB.SelectContext(ctx, &ls, `SELECT link_id, made_at, opened_at FROM mover_links WHERE studio_id = $1 AND mover_id = $2 ORDER BY made_at`, studio, mover)
	return ls, err
}

// most links that open one mover's page: each letter has its own.
const mostLinks = 40

// MakeMoverLink makes a new personal link and gives its token, this once: only its hash is kept. Of very many the oldest ends. ErrNotFound where there is no such mover.
func (s *Store) MakeMoverLink(ctx context.Context, studio, mover, by string) (token string, err error) {
	token = NewSecret()
	err = s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error { return addLink(ctx, tx, studio, mover, by, token) })
	return token, err
}

func addLink(ctx context.Context, tx *sqlx.Tx, studio, mover, by, token string) error {
	hash := sha256.Sum256([]byte(token))
	if _, err := tx.ExecContext(ctx, `INSERT INTO mover_links (studio_id, mover_id, link_id, token_hash, made_by) VALUES ($1, $2, $3, $4, $5)`, studio, mover, NewID(), hash[:], by); err != nil {
		return orGone(err)
	}
	_, err := tx.ExecContext(ctx, `DELETE FROM mover_links WHERE studio_id = $1 AND mover_id = $2 AND link_id NOT IN (
		SELECT link_id FROM mover_links WHERE studio_id = $1 AND mover_id = $2 ORDER BY made_at DESC, link_id LIMIT $3)`, studio, mover, mostLinks)
	return err
}

// EndMoverLinks ends all links of a mover; letters that wait with one are not sent any more.
func (s *Store) EndMoverLinks(ctx context.Context, studio, mover string) error {
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `DELETE FROM mover_links WHERE studio_id = $1 AND mover_id = $2`, studio, mover); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `UPDATE letters SET sealed = NULL, state = CASE WHEN state = 'waiting' THEN 'failed' ELSE state END, says = CASE WHEN state = 'waiting' THEN 'its link was ended' ELSE says END
			WHERE studio_id = $1 AND mover_id = $2 AND sealed IS NOT NULL`, studio, mover)
		return err
	})
}

// Guest is whoever comes with a personal link.
type Guest struct {
	Mover
	LinkID     string `db:"link_id"`
	StudioName string `db:"studio_name"`
	Zone       string `db:"zone"`
	House      []byte `db:"house"`
	Library    int    `db:"library_rev"` // of the studio
}

// GuestBy finds whom a token lets in; ErrNotFound, also where the link was ended or the person erased.
func (s *Store) GuestBy(ctx context.Context, token string) (g Guest, err error) {
	hash := sha256.Sum256([]byte(token))
	err = s.DB.GetContext(ctx, &g, `SELECT m.studio_id, m.mover_id, m.name, m.watch, m.note, m.level, m.topics, m.email, m.remind, m.rev, m.erase_asked, l.link_id, t.name AS studio_name, t.zone, t.house, t.library_rev
		FROM mover_links l JOIN movers m USING (studio_id, mover_id) JOIN studios t USING (studio_id) WHERE l.token_hash = $1`, hash[:])
	return g, err
}

// LinkOpened notes when a link was first opened.
func (s *Store) LinkOpened(ctx context.Context, studio, mover, link string) error {
	_, err := s.DB.ExecContext(ctx, `UPDATE mover_links SET opened_at = now() WHERE studio_id = $1 AND mover_id = $2 AND link_id = $3 AND opened_at IS NULL`, studio, mover, link)
	return err
}

// Word is a check-in as it was stored.
type Word struct {
	ID       string    `db:"checkin_id"`
	MoverID  string    `db:"mover_id"`
	GroupID  string    `db:"group_id"`
	SeriesID string    `db:"series_id"`
	Day      int       `db:"day"`
	Doc      []byte    `db:"doc"`
	Seq      int64     `db:"seq"`
	At       time.Time `db:"stored_at"`
	Said     *progress.CheckIn
}

const wordColumns = `checkin_id, mover_id, group_id, series_id, day, doc, seq, stored_at`

// wordsKept is how many check-ins are kept as they were read, some 400 bytes each: they never change. Judgement.
const wordsKept = 20000

func (s *Store) readWords(studio string, ws []Word) ([]Word, error) {
	for i := range ws {
		key := studio + "/" + ws[i].ID + "/" + ws[i].MoverID
		if c, ok := s.said.Get(key); ok {
			ws[i].Said = c
			continue
		}
		c, err := progress.ReadCheckIn(ws[i].Doc)
		if err != nil {
			return nil, fmt.Errorf("check-in %s: %w", ws[i].ID, err)
		}
		s.said.Add(key, c)
		ws[i].Said = c
	}
	return ws, nil
}

// ErrSaidOtherwise says that a check-in of that name is there and says something else.
var ErrSaidOtherwise = errors.New("a word of that name is there already, and says something else")

// SaveCheckIn keeps a mover's word. The same again is kept once; ErrSaidOtherwise where another has its name, ErrNotFound where the mover is gone.
func (s *Store) SaveCheckIn(ctx context.Context, studio, mover, group, series string, c *progress.CheckIn) error {
	text, err := json.Marshal(c)
	if err != nil {
		return err
	}
	if _, err := progress.ReadCheckIn(text); err != nil { // what is stored can be read
		return err
	}
	r, err := s.DB.ExecContext(ctx, `INSERT INTO checkins (studio_id, checkin_id, mover_id, group_id, series_id, day, doc) VALUES ($1, $2, $3, $4, $5, $6, $7::text::jsonb) ON CONFLICT DO NOTHING`,
		studio, c.ID, mover, group, series, c.Day, string(text))
	if err != nil {
		return orGone(err)
	}
	if n, err := r.RowsAffected(); err != nil || n > 0 {
		return err
	}
	var same bool
	err = s.DB.GetContext(ctx, &same, `SELECT mover_id = $3 AND group_id = $4 AND doc = $5::text::jsonb FROM checkins WHERE studio_id = $1 AND checkin_id = $2`, studio, c.ID, mover, group, string(text))
	if err == nil && !same {
		err = ErrSaidOtherwise
	}
	return err
}

// Words lists all that was said in a group, of one mover where one is named, the first first.
func (s *Store) Words(ctx context.Context, studio, group, mover string) ([]Word, error) {
	var ws []Word
	if err := s.DB.SelectContext(ctx, &ws, `SELECT `+wordColumns+` FROM checkins WHERE studio_id = $1 AND group_id = $2 AND ($3 = '' OR mover_id = $3) ORDER BY seq`, studio, group, mover); err != nil {
		return nil, err
	}
	return s.readWords(studio, ws)
}

// WordsOf lists all that a mover ever said.
func (s *Store) WordsOf(ctx context.Context, studio, mover string) ([]Word, error) {
	var ws []Word
	if err := s.DB.SelectContext(ctx, &ws, `SELECT `+wordColumns+` FROM checkins WHERE studio_id = $1 AND mover_id = $2 ORDER BY seq`, studio, mover); err != nil {
		return nil, err
	}
	return s.readWords(studio, ws)
}

// WordsSince lists what was said in a studio from a time on, the newest first.
func (s *Store) WordsSince(ctx context.Context, studio string, from time.Time) ([]Word, error) {
	var ws []Word
	if err := s.DB.SelectContext(ctx, &ws, `SELECT `+wordColumns+` FROM checkins WHERE studio_id = $1 AND stored_at >= $2 ORDER BY seq DESC LIMIT 500`, studio, from); err != nil {
		return nil, err
	}
	return s.readWords(studio, ws)
}

// Chosen is what a mover chose about missed days.
type Chosen struct {
	ID      string     `db:"choice_id"`
	MoverID string     `db:"mover_id"`
	GroupID string     `db:"group_id"`
	Doc     []byte     `db:"doc"`
	At      time.Time  `db:"at"`
	Undone  *time.Time `db:"undone_at"`
	progress.Choice
}

func readChosen(cs []Chosen) ([]Chosen, error) {
	for i := range cs {
		if err := json.Unmarshal(cs[i].Doc, &cs[i].Choice); err != nil {
			return nil, fmt.Errorf("choice %s: %w", cs[i].ID, err)
		}
	}
	return cs, nil
}

// Choices lists what was chosen in a group and stands, of one mover where one is named, the first first.
func (s *Store) Choices(ctx context.Context, studio, group, mover string) ([]Chosen, error) {
	var cs []Chosen
	if err := s.DB.SelectContext(ctx, &cs, `SELECT choice_id, mover_id, group_id, doc, at, undone_at FROM mover_choices
		WHERE studio_id = $1 AND group_id = $2 AND ($3 = '' OR mover_id = $3) AND undone_at IS NULL ORDER BY seq`, studio, group, mover); err != nil {
		return nil, err
	}
	return readChosen(cs)
}

// SaveChoice keeps a choice; the same name again is kept once.
func (s *Store) SaveChoice(ctx context.Context, studio, mover, group, id string, c progress.Choice) error {
	text, err := json.Marshal(c)
	if err != nil {
		return err
	}
	_, err = s.DB.ExecContext(ctx, `INSERT INTO mover_choices (studio_id, choice_id, mover_id, group_id, doc) VALUES ($1, $2, $3, $4, $5::text::jsonb) ON CONFLICT DO NOTHING`, studio, id, mover, group, string(text))
	return orGone(err)
}

// UndoChoice takes the last choice of a mover in a group back; ErrNotFound where it is not that one.
func (s *Store) UndoChoice(ctx context.Context, studio, mover, group, id string) error {
	return one(s.DB.ExecContext(ctx, `UPDATE mover_choices SET undone_at = now() WHERE studio_id = $1 AND mover_id = $2 AND group_id = $3 AND choice_id = $4 AND undone_at IS NULL
		AND seq = (SELECT max(seq) FROM mover_choices WHERE studio_id = $1 AND mover_id = $2 AND group_id = $3 AND undone_at IS NULL)`, studio, mover, group, id))
}

// Stepped is what a teacher decided, as it was stored.
type Stepped struct {
	ID       string     `db:"step_id"`
	MoverID  string     `db:"mover_id"`
	GroupID  string     `db:"group_id"`
	Movement string     `db:"movement"`
	Does     string     `db:"does"`
	Rungs    int        `db:"rungs"`
	Until    time.Time  `db:"until_date"`
	Doc      []byte     `db:"doc"`
	Teacher  string     `db:"teacher"`
	At       time.Time  `db:"at"`
	Undone   *time.Time `db:"undone_at"`
	Cleared  *time.Time `db:"cleared_at"`
}

// stepDoc is what a decision was seen with.
type stepDoc struct {
	Says     string        `json:"says"`
	Evidence []progress.Go `json:"evidence,omitempty"`
}

// Step is it as core takes it.
func (x *Stepped) Step() progress.Step {
	var d stepDoc
	_ = json.Unmarshal(x.Doc, &d) // written by Decide only
	return progress.Step{ID: x.ID, Mover: x.MoverID, Movement: x.Movement, Does: progress.Verdict(x.Does), By: x.Rungs, From: x.Until, Says: d.Says, Evidence: d.Evidence, Cleared: x.Cleared != nil}
}

// Steps lists what was decided in a group and stands, of one mover where one is named, the first first.
func (s *Store) Steps(ctx context.Context, studio, group, mover string) (out []Stepped, err error) {
	err = s.DB.SelectContext(ctx, &out, `SELECT x.step_id, x.mover_id, x.group_id, x.movement, x.does, x.rungs, x.until_date, x.doc, coalesce(t.name, '') AS teacher, x.at, x.undone_at, x.cleared_at
		FROM mover_steps x LEFT JOIN teachers t ON t.studio_id = x.studio_id AND t.teacher_id = x.teacher_id
		WHERE x.studio_id = $1 AND x.group_id = $2 AND ($3 = '' OR x.mover_id = $3) AND x.undone_at IS NULL ORDER BY x.seq`, studio, group, mover)
	return out, err
}

// ErrDecided says that somebody has decided about it meanwhile.
var ErrDecided = errors.New("that was decided meanwhile: reload the page and look")

// Decide keeps a decision, unless one that looked at the same goes stands already: two teachers decide once. ErrDecided says so.
func (s *Store) Decide(ctx context.Context, studio, group, teacher string, x progress.Step) error {
	text, err := json.Marshal(stepDoc{x.Says, x.Evidence})
	if err != nil {
		return err
	}
	return s.tx(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		var rev int // one at a time for each mover
		if err := tx.GetContext(ctx, &rev, `SELECT rev FROM movers WHERE studio_id = $1 AND mover_id = $2 FOR UPDATE`, studio, x.Mover); err != nil {
			return err
		}
		var there bool
		if err := tx.GetContext(ctx, &there, `SELECT EXISTS (SELECT 1 FROM mover_steps WHERE studio_id = $1 AND mover_id = $2 AND group_id = $3 AND movement = $4 AND until_date >= $5::date AND undone_at IS NULL)`,
			studio, x.Mover, group, x.Movement, x.From); err != nil {
			return err
		}
		if there {
			return ErrDecided
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO mover_steps (studio_id, step_id, mover_id, group_id, movement, does, rungs, until_date, doc, teacher_id) VALUES ($1, $2, $3, $4, $5, $6, $7, $8::date, $9::text::jsonb, $10)`,
			studio, x.ID, x.Mover, group, x.Movement, string(x.Does), x.By, x.From, string(text), teacher)
		return err
	})
}

// UndoStep takes a decision back; ErrNotFound where it does not stand.
func (s *Store) UndoStep(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `UPDATE mover_steps SET undone_at = now() WHERE studio_id = $1 AND step_id = $2 AND undone_at IS NULL`, studio, id))
}

// ClearStep says that what was stopped may go on; ErrNotFound where nothing is stopped by it.
func (s *Store) ClearStep(ctx context.Context, studio, id string) error {
	return one(s.DB.ExecContext(ctx, `UPDATE mover_steps SET cleared_at = now() WHERE studio_id = $1 AND step_id = $2 AND does = 'stop' AND undone_at IS NULL AND cleared_at IS NULL`, studio, id))
}

// Note is a note on a mover.
type Note struct {
	ID    string    `db:"note_id"`
	Words string    `db:"words"`
	By    string    `db:"by"`
	At    time.Time `db:"at"`
}

// Notes lists the notes on a mover, the newest first.
func (s *Store) Notes(ctx context.Context, studio, mover string) (ns []Note, err error) {
	err = s.DB.SelectContext(ctx, &ns, `SELECT n.note_id, n.words, coalesce(t.name, '') AS by, n.at FROM mover_notes n LEFT JOIN teachers t ON t.studio_id = n.studio_id AND t.teacher_id = n.teacher_id
		WHERE n.studio_id = $1 AND n.mover_id = $2 ORDER BY n.at DESC, n.note_id`, studio, mover)
	return ns, err
}

// AddNote keeps a note on a mover; the same name again is kept once.
func (s *Store) AddNote(ctx context.Context, studio, mover, id, words, teacher string) error {
	_, err := s.DB.ExecContext(ctx, `INSERT INTO mover_notes (studio_id, note_id, mover_id, words, teacher_id) VALUES ($1, $2, $3, $4, $5) ON CONFLICT DO NOTHING`, studio, id, mover, words, teacher)
	return orGone(err)
}

// DropNote removes a note.
func (s *Store) DropNote(ctx context.Context, studio, mover, id string) error {
	return one(s.DB.ExecContext(ctx, `DELETE FROM mover_notes WHERE studio_id = $1 AND mover_id = $2 AND note_id = $3`, studio, mover, id))
}

// SaveOpenWord counts what somebody without a name said of a day of an open series. Sent twice it counts once.
func (s *Store) SaveOpenWord(ctx context.Context, studio, series string, c *progress.CheckIn) error {
	c.Line, c.Taken = "", nil // nobody's own words: they could name somebody
	text, err := json.Marshal(c)
	if err != nil {
		return err
	}
	_, err = s.DB.ExecContext(ctx, `INSERT INTO open_words (studio_id, series_id, word_id, day, doc) VALUES ($1, $2, $3, $4, $5::text::jsonb) ON CONFLICT DO NOTHING`, studio, series, c.ID, c.Day, string(text))
	return orGone(err)
}

// OpenCount is how often a day of an open series was done.
type OpenCount struct {
	Day    int             `db:"day"`
	All    int             `db:"all_of_it"`
	Part   int             `db:"part"`
	Not    int             `db:"not_today"`
	Hurt   int             `db:"hurt"`
	Effort sql.NullFloat64 `db:"effort"` // the mean of what was said
}

// OpenCounts counts what was said of an open series, by day.
func (s *Store) OpenCounts(ctx context.Context, studio, series string) (cs []OpenCount, err error) {
	err = s.DB.SelectContext(ctx, &cs, `SELECT day, count(*) FILTER (WHERE doc->>'did' = 'all') AS all_of_it, count(*) FILTER (WHERE doc->>'did' = 'part') AS part, count(*) FILTER (WHERE doc->>'did' = 'not today') AS not_today,
		count(*) FILTER (WHERE doc ? 'pain') AS hurt, avg((doc->>'effort')::int)::float8 AS effort FROM open_words WHERE studio_id = $1 AND series_id = $2 GROUP BY day ORDER BY day`, studio, series)
	return cs, err
}

// OwnerName is the name of a studio's first owner: who a mover's word goes to.
func (s *Store) OwnerName(ctx context.Context, studio string) (name string, err error) {
	err = s.DB.GetContext(ctx, &name, `SELECT name FROM teachers WHERE studio_id = $1 AND removed_at IS NULL ORDER BY role = 'owner' DESC, created_at, teacher_id LIMIT 1`, studio)
	return name, err
}

// Personal is what is kept of a mover besides their name and words: for themselves to take out.
type Personal struct {
	Choices []Chosen
	Steps   []Stepped
	Notes   []Note
	Letters []Letter
	Links   []MoverLink
	Faults  []Corrected          // what they were corrected in
	Joined  map[string]time.Time // by group, where they came after its beginning
}

// PersonalRows reads all of it, in every group, what was undone too.
func (s *Store) PersonalRows(ctx context.Context, studio, mover string) (p Personal, err error) {
	if err = s.DB.SelectContext(ctx, &p.Choices, `SELECT choice_id, mover_id, group_id, doc, at, undone_at FROM mover_choices WHERE studio_id = $1 AND mover_id = $2 ORDER BY seq`, studio, mover); err != nil {
		return p, err
	}
	if p.Choices, err = readChosen(p.Choices); err != nil {
		return p, err
	}
	if err = s.DB.SelectContext(ctx, &p.Steps, `SELECT x.step_id, x.mover_id, x.group_id, x.movement, x.does, x.rungs, x.until_date, x.doc, coalesce(t.name, '') AS teacher, x.at, x.undone_at, x.cleared_at
		FROM mover_steps x LEFT JOIN teachers t ON t.studio_id = x.studio_id AND t.teacher_id = x.teacher_id WHERE x.studio_id = $1 AND x.mover_id = $2 ORDER BY x.seq`, studio, mover); err != nil {
		return p, err
	}
	if p.Notes, err = s.Notes(ctx, studio, mover); err != nil {
		return p, err
	}
	if p.Letters, err = s.Letters(ctx, studio, mover, 1000); err != nil {
		return p, err
	}
	if err = s.DB.SelectContext(ctx, &p.Faults, `SELECT mover_id, '' AS name, slug, fault, at FROM corrections WHERE studio_id = $1 AND mover_id = $2 ORDER BY at`, studio, mover); err != nil {
		return p, err
	}
	var in []struct {
		Group string    `db:"group_id"`
		On    time.Time `db:"joined_on"`
	}
	if err = s.DB.SelectContext(ctx, &in, `SELECT group_id, joined_on FROM group_movers WHERE studio_id = $1 AND mover_id = $2 AND joined_on IS NOT NULL`, studio, mover); err != nil {
		return p, err
	}
	p.Joined = map[string]time.Time{}
	for _, x := range in {
		p.Joined[x.Group] = x.On
	}
	p.Links, err = s.MoverLinks(ctx, studio, mover)
	return p, err
}

// PostedStudios lists the studios that have people in groups: those for whom letters can be due.
func (s *Store) PostedStudios(ctx context.Context) (ss []Studio, err error) {
	err = s.DB.SelectContext(ctx, &ss, `SELECT studio_id, name, zone, house, rev, created_at, library_rev FROM studios WHERE studio_id IN (SELECT studio_id FROM group_movers) ORDER BY studio_id`)
	return ss, err
}
