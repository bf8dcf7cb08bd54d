package plan

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/strict"
)

// CSVLine is one record of a table as it was understood, or why not.
type CSVLine struct {
	N   int // line of the file, from 1
	Raw string
	Err error
}

// ReadCSV reads a class from a table with a head line: columns section, rule, rounds, on, off, rest, movement (a
// name or slug), level, dose, sides, right, left, note; any order, only movement is needed. It is what
// export --as csv writes. Records that are not understood are listed, never dropped silently; the session
// holds the others. Errors of the table itself name line and column. When ctx ends first, its cause is the error.
func ReadCSV(ctx context.Context, text []byte, lib *movement.Library) (*Session, []CSVLine, error) {
	if len(text) > MaxText {
		return nil, nil, fmt.Errorf("the table is %d KB: at most %d KB are read", len(text)>>10, MaxText>>10)
	}
	text = bytes.TrimPrefix(text, []byte("\xef\xbb\xbf"))
	r := csv.NewReader(bytes.NewReader(text))
	r.FieldsPerRecord = -1
	if first, _, _ := bytes.Cut(text, []byte("\n")); bytes.Count(first, []byte(";")) > bytes.Count(first, []byte(",")) {
		r.Comma = ';' // as spreadsheets of many countries write it
	}
	head, err := r.Read()
	if err != nil {
		return nil, nil, fmt.Errorf("the table has no head line: %w", err)
	}
	col := map[string]int{}
	for i, h := range head {
		col[strings.ToLower(strings.TrimSpace(strings.ReplaceAll(h, "_", " ")))] = i
	}
	if _, ok := col["movement"]; !ok {
		return nil, nil, errors.New("line 1: no column \"movement\": expected one of section, rule, rounds, on, off, rest, movement, level, dose, sides, right, left, note")
	}
	t := &table{s: &Session{Format: SessionFormat, Title: "From a table"}, lib: lib}
	var bad []CSVLine
	for n := 0; ; n++ {
		if ctx.Err() != nil {
			return nil, nil, context.Cause(ctx)
		}
		rec, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, nil, fmt.Errorf("the table cannot be read: %w", err)
		}
		line, _ := r.FieldPos(0)
		if n >= MaxLines {
			return nil, nil, fmt.Errorf("more than %d lines", MaxLines)
		}
		err = t.add(func(name string) string {
			if i, ok := col[name]; ok && i < len(rec) {
				return unguardCell(strings.TrimSpace(shown(rec[i])))
			}
			return ""
		})
		if err != nil {
			bad = append(bad, CSVLine{line, strings.Join(rec, ", "), err})
		}
	}
	return t.s, bad, nil
}

// table is a session that grows line by line.
type table struct {
	s     *Session
	lib   *movement.Library
	place string // the number of its section, as the last line said
	block string // what it said of its block
}

// add puts one line in; the error says why it could not, and nothing has changed.
func (t *table) add(get func(string) string) error {
	row, err := csvRow(get, t.lib)
	if err != nil {
		return err
	}
	blk, key, err := csvBlock(get)
	if err != nil {
		return err
	}
	title := get("section")
	if err := csvFits(title, blk, row, t.lib); err != nil {
		return err
	}
	s := t.s
	place, _, _ := strings.Cut(get("row"), ".") // two sections may have one title
	fresh := len(s.Sections) == 0 || title != "" && title != s.Sections[len(s.Sections)-1].Title || place != "" && t.place != "" && place != t.place
	t.place = place
	if fresh {
		if title == "" {
			title = "Build"
		}
		if len(s.Sections) == maxSections {
			return fmt.Errorf("more than %d sections", maxSections)
		}
		sec := Section{Title: title}
		for _, c := range SplitClauses(get("section words")) {
			if err := read1(sectionClauses, &sec, c, "of a section"); err != nil {
				return fmt.Errorf("section words: %w", err)
			}
		}
		s.Sections = append(s.Sections, sec)
		t.block = ""
	}
	sec := &s.Sections[len(s.Sections)-1]
	if len(sec.Blocks) == 0 || key != t.block {
		if len(sec.Blocks) == maxBlocks {
			return fmt.Errorf("%s has more than %d blocks", sec.Title, maxBlocks)
		}
		sec.Blocks = append(sec.Blocks, blk)
		t.block = key
	}
	b := &sec.Blocks[len(sec.Blocks)-1]
	b.Rows = append(b.Rows, row)
	return nil
}

// csvFits asks the reader of documents whether it would take a record: what a table may hold is what a
// document may hold.
func csvFits(section string, blk Block, row Row, lib *movement.Library) error {
	blk.Rows = []Row{row}
	if blk.Rule == BuildUp && (row.Then || row.IsRest()) && len(lib.All()) > 0 { // it is no part: the part is in another record
		row.Then = true
		blk.Rows = []Row{{Movement: lib.All()[0].Slug}, row}
	}
	_, err := Seal(&Session{Format: SessionFormat, Title: "A table", Sections: []Section{{Title: section, Blocks: []Block{blk}}}}, lib)
	var r *Refused
	if errors.As(err, &r) {
		if place := Place(r.Err.Path, nil); place != "" {
			return fmt.Errorf("%s: %s", place, r.Err.Says)
		}
		return errors.New(r.Err.Says)
	}
	return err
}

// shown puts a space for what no document holds.
func shown(s string) string {
	return strings.Map(func(c rune) rune {
		if strict.Hidden(string(c)) >= 0 {
			return ' '
		}
		return c
	}, s)
}

// GuardCell keeps a spreadsheet from taking the text of a cell for a formula: one that begins so, also behind spaces and
// new lines, which spreadsheets skip, and in the full-width signs of other keyboards (OWASP, CSV Injection). What begins
// with the guard itself gets one more, so that reading takes away what was put in front and no more.
func GuardCell(s string) string {
	first := strings.TrimLeftFunc(s, unicode.IsSpace)
	switch {
	case s == "":
		return s
	case strings.ContainsRune("\t\r\n'", rune(s[0])), strings.HasPrefix(first, "'"), strings.IndexFunc(first, func(r rune) bool { return strings.ContainsRune("=+-@＝＋－＠", r) }) == 0:
		return "'" + s
	}
	return s
}

// unguardCell takes away what GuardCell put in front; a quotation mark that somebody wrote stays.
func unguardCell(s string) string {
	if rest, ok := strings.CutPrefix(s, "'"); ok && GuardCell(rest) == s {
		return rest
	}
	return s
}

// InTable is what stands for the row in the column of movements.
func (r *Row) InTable() string {
	switch {
	case r.IsTurn():
		return "turn: " + r.Rest.Turn
	case r.IsKept():
		return "to mend: " + r.Rest.Kept
	}
	return r.Name()
}

// TableWords are what is said of a row in no other column of a table.
func (r *Row) TableWords() string {
	n := r.clone()
	if r.IsRest() {
		n.Rest = &Rest{Turn: r.Rest.Turn, Ends: r.Rest.Ends, Kept: r.Rest.Kept}
		return n.Words(nil)
	}
	n.Note, n.Sides = "", movement.SidesUnsaid
	for _, o := range []*Override{n.Right, n.Left} {
		if o != nil {
			o.Dose, o.Level = dose.Dose{}, 0
		}
	}
	return n.Words(nil)
}

// TableWords are what is said of a block in no other column of a table.
func (b *Block) TableWords() string {
	n := *b
	n.On, n.Off, n.Rest = 0, 0, 0
	return JoinClauses(n.Clauses())
}

// csvBlock is the block of a record; neighbouring records of one place and rule share it.
func csvBlock(get func(string) string) (b Block, key string, err error) {
	b.Rounds = 1
	if v := get("rule"); v != "" {
		if err := b.Rule.UnmarshalText([]byte(v)); err != nil {
			return b, "", err
		}
	}
	for _, name := range []string{"rounds", "on", "off"} {
		if v := get(name); v != "" && b.Rule != Rounds && (v != "1" || name != "rounds") && (name == "rounds" || b.Rule != Chain) {
			return b, "", fmt.Errorf("%s %q belongs to the rule rounds", name, v)
		}
	}
	if v := get("rounds"); v != "" && b.Rule == Rounds {
		if b.Rounds, err = strconv.Atoi(v); err != nil || b.Rounds < 1 || b.Rounds > MaxRounds {
			return b, "", fmt.Errorf("rounds %q: expected 1 to %d", v, MaxRounds)
		}
	}
	for name, to := range map[string]*clock.Span{"on": &b.On, "off": &b.Off} {
		if v := get(name); v != "" {
			if *to, err = clock.Parse(v); err != nil {
				return b, "", fmt.Errorf("%s: %w", name, err)
			}
		}
	}
	if v := get("rest"); v != "" {
		if b.Rest, err = clock.Parse(v); err != nil {
			return b, "", fmt.Errorf("rest: %w", err)
		}
	}
	for _, c := range SplitClauses(get("block words")) {
		if err := read1(blockClauses, &b, c, "of a block"); err != nil {
			return b, "", fmt.Errorf("block words: %w", err)
		}
	}
	place, _, _ := strings.Cut(get("row")+"..", "..")
	if i := strings.LastIndexByte(place, '.'); i > 0 {
		place = place[:i]
	}
	return b, strings.Join([]string{place, get("rule"), get("rounds"), get("on"), get("off"), get("rest"), get("block words")}, "|"), nil
}

func csvRow(get func(string) string, lib *movement.Library) (Row, error) {
	name := get("movement")
	if _, turn := behind(name, "turn:"); turn {
		row, _, err := readTurnLine("turn: "+JoinClauses([]string{strings.TrimSpace(name[len("turn:"):])}), lib)
		if err != nil {
			return row, err
		}
		if err := row.setRestWords(SplitClauses(get("words"))); err != nil {
			return row, fmt.Errorf("words: %w", err)
		}
		row.Rest.Say = get("note")
		if v := get("dose"); v != "" {
			if row.Rest.For, err = clock.Parse(v); err != nil {
				return row, fmt.Errorf("dose: %w", err)
			}
		}
		return row, nil
	}
	if words, kept := behind(name, "to mend:"); kept && words != "" {
		row := Row{Rest: &Rest{Kept: words}}
		return row, row.setRestWords(SplitClauses(get("words")))
	}
	if strings.EqualFold(name, "rest") {
		if long := get("dose"); long != "" {
			if r, err := Line("rest "+long, lib); err == nil && r.Rest.Say != "" {
				return Row{}, fmt.Errorf("dose: %q: expected how long to rest, as in 20 s", long)
			}
		}
		row, err := plainLine(strings.TrimSpace("rest "+get("dose")+" "+get("note")), lib)
		if err != nil || get("words") == "" {
			return row, err
		}
		return row, row.setRestWords(SplitClauses(get("words")))
	}
	row, m, err := csvMovement(name, get("facts"), lib)
	if err != nil {
		return Row{}, err
	}
	row.Note = get("note")
	if v := get("level"); v != "" {
		n, err := strconv.Atoi(v)
		if err != nil || n < 1 || n > len(m.Levels) {
			return Row{}, fmt.Errorf("level %q: %s has levels 1 to %d", v, m.Name, len(m.Levels))
		}
		if n > 1 { // the first is what a row without a level is at
			row.Level = n
		}
	}
	if v := get("dose"); v != "" {
		d, err := parseWords(splitWords(v), onOf(m))
		if err != nil {
			return Row{}, fmt.Errorf("dose: %w", err)
		}
		row.Dose = d
	}
	for key, to := range map[string]**Override{"right": &row.Right, "left": &row.Left} {
		v := get(key)
		if v == "" {
			continue
		}
		o := &Override{}
		words := splitWords(v)
		if len(words) > 1 && strings.EqualFold(words[0].text, "level") {
			n, err := strconv.Atoi(words[1].text)
			if err != nil || n < 1 || n > len(m.Levels) {
				return Row{}, fmt.Errorf("%s: %q is not a level", key, v)
			}
			o.Level = n
			words = words[2:]
		}
		if len(words) > 0 {
			d, err := parseWords(words, onOf(m))
			if err != nil {
				return Row{}, fmt.Errorf("%s: %w", key, err)
			}
			o.Dose = d
		}
		*to = o
	}
	if err := row.addWords(SplitClauses(get("words")), m); err != nil {
		return Row{}, fmt.Errorf("words: %w", err)
	}
	if v := get("sides"); v != "" {
		var sd movement.Sides
		if err := sd.UnmarshalText([]byte(v)); err != nil {
			return Row{}, err
		}
		if sd != row.SideRule(m.As(row.Level)) {
			row.Sides = sd
		}
	}
	return row, row.Contradicts()
}

// csvMovement is the movement of a record: one of the library, one with all that is known of it in its facts, or one that is read from its name.
func csvMovement(name, facts string, lib *movement.Library) (Row, *movement.Movement, error) {
	if facts != "" {
		r, v := strict.Parse([]byte(facts))
		if r.Err() != nil {
			return Row{}, nil, fmt.Errorf("facts: %w", r.Err())
		}
		row := Row{Inline: readInline(v, sessionWords{said: true, built: true})}
		if r.Err() != nil {
			return Row{}, nil, fmt.Errorf("facts: %w", r.Err())
		}
		m, err := row.Of(lib)
		return row, m, err
	}
	m, ok := lib.Get(name)
	if !ok {
		m, ok = lib.Named(name)
	}
	if ok {
		return Row{Movement: m.Slug}, m, nil
	}
	row, err := plainLine(name, lib)
	if err != nil || row.IsRest() || !row.Dose.IsZero() {
		return Row{}, nil, fmt.Errorf("no movement %q in the library, and its name does not say where it is done or what", Clip(name, maxShown))
	}
	m, err = row.Of(lib)
	return row, m, err
}
