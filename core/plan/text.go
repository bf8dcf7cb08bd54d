package plan

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/strict"
)

// MaxText is the longest pasted class, in bytes; MaxLines the most lines of it.
const (
	MaxText  = 256 << 10
	MaxLines = 1000
)

// LineKind is what a line of a pasted class is.
type LineKind string

// The kinds of line.
const (
	RowLine     LineKind = "row"     // a movement of the library or a rest, with what is said of the rows before it
	NamedLine   LineKind = "named"   // a movement read from its name
	HeadingLine LineKind = "heading" // the title of a section, or of the class
	NoteLine    LineKind = "note"    // words about the row before it, or of the whole class
	KeptLine    LineKind = "kept"    // to be mended: nothing of it is lost
)

// TextLine is one line of a pasted class: a row, the title of a section, a note, or what could not be read.
type TextLine struct {
	N       int    // from 1
	Raw     string // as pasted
	As      LineKind
	Section string // a title; "# Build", "Build:" or "BUILD"
	Row     Row
	Err     error // *LineError where the line was not understood; such a line is kept, never dropped

	where  movement.Posture // where the body is before it, as far as the text has told
	note   string           // words for the row before it; of a row its own
	title  string           // of the whole class
	length clock.Span
	circle *Block // a heading that begins a circuit
	side   movement.Sides
	block  *Block   // what follows is one, in the section that there is
	part   []string // clauses of the section
	head   []string // clauses of the class
	more   []Row    // further rows of the line
	same   bool     // the other side the same
	then   bool     // what follows is no more of the circuit before it
}

// Says is what became of the line, in words.
func (l *TextLine) Says(lib *movement.Library) string { return l.report(lib, Path{}).Says }

// Many reads a line that is several rows, "down dog 5 breaths, walk the dog 10", or a whole build up; ok is false where it is one row or none.
func Many(line string, lib *movement.Library, st Style) (l TextLine, ok bool) {
	if strings.TrimSpace(line) == "" || len(line) > MaxText {
		return l, false
	}
	l = TextLine{N: 1, Raw: line}
	l.read(unbullet(strings.TrimSpace(line)), lib, st, inTheClass)
	return l, l.Err == nil && l.Section == "" && (len(l.more) > 0 || l.block != nil && len(l.block.Rows) > 0)
}

// Count is how many rows the line is.
func (l *TextLine) Count() int {
	if l.block != nil {
		return len(l.block.Rows)
	}
	return 1 + len(l.more)
}

// IsRow tells whether the line was understood as a row.
func (l TextLine) IsRow() bool { return l.As == RowLine && !l.same || l.As == NamedLine }

// LinesIn reads a class pasted as text, one row a line the way it is said in a school (see LineIn). Bullets, numbers and the marks of a mail's reply in
// front are left aside, empty lines skipped; a line that is not understood carries its error and is kept. When ctx ends first, its cause is the error.
func LinesIn(ctx context.Context, text string, lib *movement.Library, st Style) ([]TextLine, error) {
	if len(text) > MaxText {
		return nil, fmt.Errorf("the text is %d KB: at most %d KB are read", len(text)>>10, MaxText>>10)
	}
	raws := strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
	if len(raws) > MaxLines {
		return nil, fmt.Errorf("%d lines: at most %d are read", len(raws), MaxLines)
	}
	var out []TextLine
	begun := beforeAll
	where, chairs := movement.NoPosture, false
	for i, raw := range raws {
		if ctx.Err() != nil {
			return nil, context.Cause(ctx)
		}
		line := unbullet(unquote(strings.TrimSpace(raw)))
		if line == "" {
			continue
		}
		l := TextLine{N: i + 1, Raw: raw, where: where}
		l.read(line, lib, st, begun)
		if where = l.leaves(lib, where); where == movement.Chair && l.As == HeadingLine {
			chairs = true
		} else if where == movement.Seated && chairs { // in a class on chairs one sits on a chair
			where = movement.Chair
		}
		begun = max(begun, inTheText)
		if l.As != NoteLine && (l.As != HeadingLine || l.title != "") {
			begun = inTheClass
		}
		out = append(out, l)
	}
	return out, nil
}

// partsWhere are words of a heading that tell where its rows are done.
var partsWhere = []struct {
	words *regexp.Regexp
	at    movement.Posture
}{
	{regexp.MustCompile(`(?i)\b(?:chairs?|stools?)\b`), movement.Chair},
	{regexp.MustCompile(`(?i)\b(?:all fours|hands and knees|four[- ]point|quadruped)\b`), movement.HandsAndKnees},
	{regexp.MustCompile(`(?i)\b(?:side[- ]?lying|side series|on (?:the|your|one) sides?)\b|^sides?$`), movement.SideLying},
	{regexp.MustCompile(`(?i)\bstanding\b`), movement.Standing},
	{regexp.MustCompile(`(?i)\b(?:prone|on (?:the|your) (?:front|tummy|stomach|belly))\b|^fronts?$`), movement.Prone},
	{regexp.MustCompile(`(?i)\b(?:supine|on (?:the|your) back)\b|^backs?$`), movement.Supine},
	{regexp.MustCompile(`(?i)\bkneeling\b`), movement.Kneeling},
	{regexp.MustCompile(`(?i)\b(?:seated|sitting)\b`), movement.Seated},
}

func whereOf(title string) movement.Posture {
	for _, p := range partsWhere {
		if p.words.MatchString(strings.TrimSpace(title)) {
			return p.at
		}
	}
	return movement.NoPosture
}

// leaves is where the body is after a line that came to be done in a position.
func (l *TextLine) leaves(lib *movement.Library, where movement.Posture) movement.Posture {
	switch {
	case l.title != "" || l.Section != "" && l.As == HeadingLine:
		if at := whereOf(l.title + l.Section); at != movement.NoPosture {
			return at
		}
		return where
	case l.As != RowLine && l.As != NamedLine || l.same:
		return where
	}
	row := l.Row
	if n := len(l.more); n > 0 {
		row = l.more[n-1]
	} else if l.block != nil && len(l.block.Rows) > 0 {
		row = l.block.Rows[len(l.block.Rows)-1]
	}
	return row.leaves(lib, where)
}

// leaves is where the body is after a row.
func (r *Row) leaves(lib *movement.Library, where movement.Posture) movement.Posture {
	switch {
	case r.IsTurn() && r.Rest.Ends != movement.NoPosture:
		return r.Rest.Ends
	case r.IsTurn() || r.IsRest():
		return where
	case r.Ends != movement.NoPosture:
		return r.Ends
	}
	if m, err := r.Of(lib); err == nil && m != nil {
		return m.Leaves()
	}
	return where
}

// LineAfter reads a line as it is added behind a row of the session, or with a place without one at its end: in its school, and where the body is then.
func (s *Session) LineAfter(at Path, line string, lib *movement.Library) (Row, error) {
	where := movement.NoPosture
	s.Each(func(p Path, _ *Block, r *Row) {
		if at.Row == 0 && (at.Section == 0 || p.Section <= at.Section) || at.Row > 0 && comparePaths(p, at) <= 0 {
			where = r.leaves(lib, where)
		}
	})
	return lineWhere(line, lib, s.StyleAt(at), where)
}

// lineWhere reads a row where the body is in a position: a name with two meanings has the one that is done there.
func lineWhere(line string, lib *movement.Library, st Style, where movement.Posture) (Row, error) {
	row, err := LineIn(line, lib, st)
	if err != nil && prepWord.MatchString(line) { // teaser prep
		if again, aerr := LineIn(prepWord.ReplaceAllString(line, ""), lib, st); aerr == nil {
			row, err = again, nil
		}
	}
	if row.IsRest() && err == nil {
		return row, nil
	}
	var had *movement.Movement
	if err == nil {
		if had, _ = row.Of(lib); had == nil {
			return row, nil
		}
		if row.Inline == nil && had.Posture == where {
			return row, nil
		}
	}
	words := splitWords(strings.TrimSpace(line))
	if len(words) == 0 || len(words) > mostWords { // no name and dose are that long
		return row, err
	}
	name, said := splitDose(words)
	if len(name) == 0 {
		return row, err
	}
	for len(name) > 0 && strings.EqualFold(name[len(name)-1].text, "only") {
		return row, err
	}
	typed := strings.Trim(joinWords(name), " ,;:.-–—")
	at := where
	if told := movement.ReadName(typed); told.Told[movement.FactPosture] && told.Posture != movement.NoPosture && stated(typed) {
		if at = told.Posture; at == movement.Seated && where == movement.Chair {
			at = where
		}
	}
	m, more, ok := lib.In(typed, at)
	if had == nil && !ok && stretched(said) { // quads 30 s each: what is held is a stretch of it
		if m, more, ok = lib.In(typed+" stretch", at); !ok {
			m, ok = lib.SameWords(strings.TrimRight(typed, "s") + " stretch")
		}
	}
	if !ok && row.Inline != nil {
		m, more, ok = lib.In(typed, row.Inline.Posture)
	}
	switch {
	case !ok && had == nil && where != movement.NoPosture: // what is done is said, where is where one is
		if r := movement.ReadName(typed); r.Acts && r.Posture == movement.NoPosture && !strings.ContainsAny(typed, "0123456789{}<>=@#\\") && len([]rune(typed)) <= maxInlineName {
			r.Posture = where
			named := Row{Inline: InlineOf(r)}
			if nm, merr := named.Of(lib); merr == nil && named.say(said, nm) == nil && named.Contradicts() == nil {
				named.dosesSides()
				return named, nil
			}
		}
		return row, err
	case !ok:
		return row, err
	case had == nil || row.Inline != nil: // nobody knew what it is
		if more > mostUnsaid {
			return row, err
		}
	case more > 0 || had.Posture == at: // it is one as it stands
		return row, err
	default: // its own name is that, unless it is done somewhere else altogether
		if same, is := lib.Named(typed); is && same.Slug == had.Slug && strings.EqualFold(strings.TrimRight(had.Name, "s"), strings.TrimRight(typed, "s")) && where.WayTo(had.Posture).Steps < farAway {
			return row, err
		}
	}
	again := Row{Movement: m.Slug, Note: row.Note}
	if again.say(said, m) != nil || again.Contradicts() != nil {
		return row, err
	}
	return st.counted(again, m), nil
}

// Limits of reading a name by where the body is: how many words a line may have, how many words of a movement's name may be left unsaid, and from how many changes of position on another
// movement of the same name, done here, is meant; judgement.
const (
	mostWords  = 40
	mostUnsaid = 2
	farAway    = 4
)

// stretched tells whether a dose is a time only, as that of a stretch is.
func stretched(said []lineWord) bool {
	d, err := parseWords(said, dose.On{Sides: true})
	return err == nil && len(d.Parts) == 1 && d.Parts[0].Kind == dose.Time && d.Parts[0].Off == 0
}

// stated tells whether a name says in so many words where the body is.
func stated(name string) bool {
	return whereOf(name) != movement.NoPosture || strings.Contains(strings.ToLower(name), "lying")
}

// How far a text is: a title can be its first line, or a line in capitals after a greeting.
const (
	beforeAll = iota
	inTheText // a heading or words were there, no row yet
	inTheClass
)

var (
	replyMarks = regexp.MustCompile(`^(?:[>|]\s?)+`)
	onlyMarks  = regexp.MustCompile(`^[\s.\-–—_=*~#·•…]+$`)
	timesTitle = regexp.MustCompile(`(?i)^(.*?\S)\s+[x×]\s?(\d{1,2})$`)
	circuit    = regexp.MustCompile(`(?i)^(?:(?:and |now )*(?:then|next) )?(?:(.*?)[:,–-]\s*)?(\d{1,2})\s+(?:rounds?|times through|x through|times round)\b[:,]?\s*(.*)$`)
	otherSide  = regexp.MustCompile(`(?i)^(?:and\s+)?(?:(?:repeat|same|again|all|the same)(?: again| thing)?\s+(?:on|for|to)\s+(?:the\s+)?(?:other|second|left|right)(?:\s+side|\s+leg|\s+arm)?|(?:now\s+)?(?:the\s+)?(?:other|second)\s+side(?:\s+(?:the\s+)?same)?|swap sides|switch sides|change sides|repeat other side)[.!]?$`)
	sideTitle  = regexp.MustCompile(`(?i)^(?:on\s+(?:the|your)\s+)?(right|left)(?:\s+(?:side|leg))?(?:\s+(first|only))?:?$`)
	wholeTime  = regexp.MustCompile(`(?i)[,(–-]?\s*\b(\d{1,3})\s*(?:(?:min|mins|minutes)\b|')\.?\)?$`)
	aside      = regexp.MustCompile(`^(.*\S)\s*[(\[]([^()\[\]]*)[)\]]\.?$`)
	oneCircuit = regexp.MustCompile(`(?i)^(circuit|rounds|intervals)\s*[:,–-]?\s*(?:x\s?(\d{1,2})|(\d{1,2})\s?x)(?:\s*[:,–-]\s*|\s+|$)(.*)$`)
	greeting   = regexp.MustCompile(`(?i)^(?:(?:hi|hello|hey|hiya|dear)(?:\s+\p{L}+){0,3}\s*(?:[,!.:–-]|$)|(?:thanks|thank you|cheers|best wishes|kind regards|regards|see you)\b|.{0,60}\bwrote:$|(?:subject|from|to|sent|date|cc|fwd|fw|re)\s*:)`)
	onOffBare  = regexp.MustCompile(`(?i)^(\d+) on,? (\d+) off$`)
	prepWord   = regexp.MustCompile(`(?i)\s+prep(?:aration)?s?\b`)
	noRest     = regexp.MustCompile(`(?i)^(?:no|without) (?:any )?(?:rests?|breaks?)(?: between)?$`)
	thenWords  = regexp.MustCompile(`(?i)^(?:and )?(?:then|finally|lastly)\s+\p{L}`)
	andThen    = regexp.MustCompile(`(?i)^(?:and\s+)?(?:then|next|after that|followed by)\s*[:,.…]*$`)
	partTitle  = regexp.MustCompile(`(?i)^(?:the\s+)?(?:warm[- ]?up|cool[- ]?down|mat ?work|floor ?work|floor|standing(?: work| part)?|side[- ]lying(?: work| series)?|side series|prone(?: work)?|supine(?: work)?|kneeling(?: work)?|seated(?: work)?|hands and knees|all fours|four[- ]point|quadruped|stretch(?:es|ing)?|finish(?:er)?|main(?: part| set| block)?|opening|closing|wind[- ]?down|on (?:your|the) (?:back|front|tummy|stomach|side|sides|mat))(?:\s*\([^()]*\))?$`)
	optionLine = regexp.MustCompile(`(?i)^(easier|harder|option|options|or|progression|regression|variation|cue|tip|note|n\.?b\.?)\s*[:–-]\s*\S`)
)

// unquote takes the marks of a mail's reply from the front of a line.
func unquote(line string) string { return strings.TrimSpace(replyMarks.ReplaceAllString(line, "")) }

// unbullet takes "- ", "* ", "3. " and "3) " from the front of a line.
func unbullet(line string) string {
	for _, b := range []string{"- ", "* ", "• ", "– ", "— ", "· ", "→ ", "> ", "o "} {
		if rest, ok := strings.CutPrefix(line, b); ok {
			return strings.TrimSpace(rest)
		}
	}
	digits := strings.TrimLeft(line, "0123456789")
	if n := len(line) - len(digits); n > 0 && n <= 3 && (strings.HasPrefix(digits, ". ") || strings.HasPrefix(digits, ") ")) {
		return strings.TrimSpace(digits[2:])
	}
	if len(line) > 3 && unicode.IsLetter(rune(line[0])) && line[2] == ' ' && (line[1] == ')' || line[1] == '.' && unicode.IsUpper(rune(line[0]))) { // a) b) A. B.
		return strings.TrimSpace(line[3:])
	}
	return line
}

// words reads a line of the class as it is written out: "= 3 rounds; 40 s on", "= part; talk flowing", "= class; 20:00 in all".
func (l *TextLine) words(line string) bool {
	rest, ok := strings.CutPrefix(line, "= ")
	if !ok {
		return false
	}
	list := SplitClauses(rest)
	l.As = NoteLine
	switch {
	case len(list) == 0:
		return false
	case strings.EqualFold(list[0], "class"):
		for _, c := range list[1:] {
			if err := read1(headClauses, &Session{}, c, "of a class"); err != nil {
				l.As, l.Err = KeptLine, &LineError{Column: 1, Says: err.Error(), Err: err}
			}
		}
		l.head = list[1:]
	case strings.EqualFold(list[0], "part"):
		for _, c := range list[1:] {
			if err := read1(sectionClauses, &Section{}, c, "of a section"); err != nil {
				l.As, l.Err = KeptLine, &LineError{Column: 1, Says: err.Error(), Err: err}
			}
		}
		l.part = list[1:]
	default:
		b, err := ReadBlock(rest)
		if err != nil {
			l.As, l.Err = KeptLine, &LineError{Column: 1, Says: err.Error(), Err: err}
			return true
		}
		l.As, l.block = HeadingLine, &b
	}
	return true
}

var (
	flowTitle   = regexp.MustCompile(`(?i)^(?:.*\b)?flow(?:\s*\([^()]*\))?\s*:?$`)
	chainTitle  = regexp.MustCompile(`(?i)^(?:chain|one side through|all on one side(?: first)?|one side(?:,| then) (?:then )?the other)\s*:?$`)
	buildLine   = regexp.MustCompile(`(?i)^build(?:ing)?[- ]?up\b\s*[:,]?\s*(.*)$`)
	partsOf     = regexp.MustCompile(`(?i)\s*(?:,\s*)?(?:\+|\bthen add\b|\badd\b|\band then\b|\bthen\b)\s*|\s*,\s*`)
	timeWithin  = regexp.MustCompile(`(?i)^(\p{L}[^,:.0-9]{1,40}), (\d{1,3}) ?(?:min|mins|minutes), \p{L}`)
	bodyTitle   = regexp.MustCompile(`(?i)^(?:the )?(?:neck|shoulders?|upper back|chest|wrists?|abs|abdominals|core|obliques|low(?:er)? back|backs?|hips?|glutes|gluteals|thighs|legs?|arms?|hamstrings|ankles|feet|strength|balance)(?: (?:and|&|\+) (?:neck|shoulders?|chest|wrists?|abs|core|back|hips?|glutes|thighs|legs?|arms?))?$`)
	bareMinutes = regexp.MustCompile(`^(\p{L}[\p{L} '&-]{2,40}?) (\d{2,3})'?$`)
	movesOf     = regexp.MustCompile(`(?i)\s*(?:,\s*(?:and\s+)?(?:then\s+|into\s+)?|;\s*|\s(?:then|into|straight into|followed by)\s|\s*(?:→|->|>|/)\s*|\.\s+)\s*`)
	listTitle   = regexp.MustCompile(`^([^:]{2,60}?)\s*:\s+(\S.*)$`)
)

// building reads the rule of what follows: "Flow:", "One side through:", or a whole build up in one line: "build up kickback 8, + hydrant 6, + bird dog 5".
func (l *TextLine) building(line string, lib *movement.Library, st Style) bool {
	title := strings.TrimSpace(strings.TrimSuffix(line, ":"))
	switch f := buildLine.FindStringSubmatch(line); {
	case f != nil && strings.Trim(f[1], ": ") == "":
		l.As, l.block = HeadingLine, &Block{Rule: BuildUp, Rounds: 1}
		return true
	case f != nil:
		b := Block{Rule: BuildUp, Rounds: 1}
		for _, w := range partsOf.Split(strings.Trim(f[1], " .:"), -1) {
			if w = strings.TrimSpace(w); w == "" {
				continue
			}
			row, err := LineIn(w, lib, st)
			if n := len(b.Rows); err != nil && n > 0 && startsDose(w) { // + 10 pulses: of the part before it
				if d, derr := dose.Parse(b.Rows[n-1].Dose.String() + " + " + w); derr == nil {
					b.Rows[n-1].Dose = d
					continue
				}
			}
			if err != nil || row.IsRest() {
				return false
			}
			b.Rows = append(b.Rows, row)
		}
		if len(b.Rows) < 2 {
			return false
		}
		l.As, l.block = RowLine, &b
		l.Row = b.Rows[0]
		return true
	case chainTitle.MatchString(line):
		l.As, l.block = HeadingLine, &Block{Rule: Chain, Rounds: 1}
		return true
	case flowTitle.MatchString(line) && (strings.HasSuffix(line, ":") || shouted(line) || len(strings.Fields(title)) <= 3) && len([]rune(title)) <= MaxTitle:
		if _, named := lib.Named(title); named {
			return false
		}
		l.As, l.Section, l.circle = HeadingLine, title, &Block{Rule: Flow, Rounds: 1}
		return true
	}
	return false
}

// several reads a line of several rows: "down dog 5 breaths, walk the dog 10", each with a dose of its own. Two are the least.
func (l *TextLine) several(line string, lib *movement.Library, st Style) bool {
	pieces := movesOf.Split(line, -1)
	if len(pieces) < 2 || len(pieces) > maxPieces {
		return false
	}
	var rows []Row
	known, where := 0, l.where
	for _, p := range pieces {
		if p = strings.TrimSpace(p); p == "" {
			return false
		}
		row, err := lineWhere(p, lib, st, where)
		if err != nil {
			return false
		}
		where = row.leaves(lib, where)
		if !row.IsRest() && row.Inline == nil {
			known++
		}
		if !row.IsRest() && row.Dose.IsZero() && row.PartLevels == nil && row.Inline != nil {
			return false
		}
		rows = append(rows, row)
	}
	if known == 0 {
		return false
	}
	l.As, l.Err, l.Row, l.more, l.note = RowLine, nil, rows[0], rows[1:], ""
	return true
}

// maxPieces is how many rows a line has at most; judgement.
const maxPieces = 12

// titledList reads a heading with its rows behind a colon: "Prone: swan prep 4, swimming 30 s".
func (l *TextLine) titledList(line string, lib *movement.Library, st Style) bool {
	f := listTitle.FindStringSubmatch(line)
	if f == nil || strings.ContainsAny(f[1], "0123456789") {
		return false
	}
	if _, named := lib.Named(f[1]); named {
		return false
	}
	if at := whereOf(f[1]); at != movement.NoPosture {
		l.where = at
	}
	if !l.several(f[2], lib, st) {
		row, err := LineIn(f[2], lib, st)
		if err != nil || row.Inline != nil || !partTitle.MatchString(f[1]) {
			return false
		}
		l.As, l.Err, l.Row, l.more = RowLine, nil, row, nil
	}
	l.Section = strings.TrimSpace(f[1])
	return true
}

// read understands a line; begun is how far the text was before it.
func (l *TextLine) read(line string, lib *movement.Library, st Style, begun int) {
	if l.words(line) {
		return
	}
	if title, ok := strings.CutPrefix(line, "# "); ok && strings.TrimSpace(title) != "" && len([]rune(title)) <= MaxTitle && validLine(title) { // it is a title whatever it says
		l.As, l.Section = HeadingLine, strings.TrimSpace(title)
		return
	}
	if strict.Hidden(line) >= 0 || !validLine(line) {
		l.row(line, lib, st)
		return
	}
	title, isTitle := strings.CutPrefix(line, "#")
	if !isTitle {
		title, isTitle = strings.CutSuffix(line, ":")
	}
	title = strings.Trim(title, "# ")
	switch f := sideTitle.FindStringSubmatch(line); {
	case onlyMarks.MatchString(line):
		l.As = NoteLine // a line between parts
		return
	case otherSide.MatchString(line):
		l.As, l.same = RowLine, true
		return
	case f != nil:
		l.As, l.side = HeadingLine, movement.RightOnly
		if strings.EqualFold(f[1], "left") {
			l.side = movement.LeftOnly
		}
		return
	case l.circuit(line):
		return
	case l.building(line, lib, st):
		return
	case bodyTitle.MatchString(line): // a part of the body alone is what comes next
		l.As, l.Section = HeadingLine, line
		return
	case optionLine.MatchString(line) || greeting.MatchString(line) && !strings.ContainsAny(line, "0123456789"):
		l.As, l.note = NoteLine, line
		return
	case andThen.MatchString(line):
		l.As, l.then = NoteLine, true
		return
	}
	if isTitle && title != "" && len([]rune(title)) <= MaxTitle {
		l.As, l.Section = HeadingLine, title
		return
	}
	l.row(line, lib, st)
	if l.Err == nil && l.Row.Dose.IsZero() && !l.Row.IsRest() && len(strings.Fields(line)) >= spokenFrom && strings.ContainsAny(line, ".?!") { // we began with a few roll downs.
		*l = TextLine{N: l.N, Raw: l.Raw, As: NoteLine, note: line, where: l.where}
		return
	}
	if l.Err != nil || l.As == NamedLine {
		if was := *l; l.titledList(line, lib, st) || l.several(line, lib, st) {
			return
		} else {
			*l = was
		}
	}
	if (l.Err != nil || l.Row.Dose.IsZero() && !l.Row.IsRest() && l.block == nil && len(l.more) == 0) && partTitle.MatchString(line) && len([]rune(line)) <= MaxTitle {
		*l = TextLine{N: l.N, Raw: l.Raw, As: HeadingLine, Section: line}
		return
	}
	if begun == beforeAll && (l.Err != nil || l.As == NamedLine && (l.Row.Dose.IsZero() || wholeTime.MatchString(line)) && !movement.ReadName(line).Acts) {
		if was := *l; l.title2(line) {
			return
		} else {
			*l = was
		}
	}
	if l.Err == nil && !(shouted(line) && l.Row.Dose.IsZero() && !l.Row.IsRest()) {
		return
	}
	if f := timesTitle.FindStringSubmatch(line); f != nil && shouted(f[1]) { // BUILD x3
		n, _ := strconv.Atoi(f[2])
		if n >= 1 && n <= MaxRounds {
			*l = TextLine{N: l.N, Raw: l.Raw, As: HeadingLine, Section: f[1], circle: &Block{Rule: Rounds, Rounds: n}}
			return
		}
	}
	switch {
	case shouted(line) && len([]rune(line)) <= MaxTitle:
		*l = TextLine{N: l.N, Raw: l.Raw, As: HeadingLine, Section: line}
	case (l.As == KeptLine || l.As == NamedLine) && l.Row.Dose.IsZero() && bareTitle(line):
		*l = TextLine{N: l.N, Raw: l.Raw, As: HeadingLine, Section: line}
	case begun == beforeAll && l.title2(line):
	case begun < inTheClass && shouted(wholeTime.ReplaceAllString(line, "")) && l.title2(line): // HIPS FOR POTTERS (45 mins)
	case thenWords.MatchString(line) && !strings.ContainsAny(line, "0123456789"), prose(line) || len(strings.Fields(line)) >= longProse && strings.ContainsAny(line, ".?!"):
		*l = TextLine{N: l.N, Raw: l.Raw, As: NoteLine, note: line}
	}
}

func validLine(line string) bool {
	return len([]rune(line)) <= MaxLine && strings.ToValidUTF8(line, "") == line
}

// row reads a row, with what stands in brackets behind it as its note.
func (l *TextLine) row(line string, lib *movement.Library, st Style) {
	row, err := lineWhere(line, lib, st, l.where)
	note := ""
	if first, words, ok := strings.Cut(line, " - "); ok && err != nil && !strings.ContainsAny(words, "0123456789") { // hundred - modified, head down
		if again, aerr := lineWhere(first, lib, st, l.where); aerr == nil && !again.IsRest() {
			row, err, note = again, nil, strings.TrimSpace(words)
		}
	}
	if first, words, ok := strings.Cut(line, ";"); ok && err != nil { // what is behind it is about it: bridge 8; slow and even
		if again, aerr := LineIn(first, lib, st); aerr == nil && !again.IsRest() {
			row, err, note = again, nil, strings.TrimSpace(words)
		}
	}
	if err != nil || row.Inline != nil && row.Inline.Guessed() && strings.ContainsAny(row.Inline.Name, "([") { // press ups (on knees is fine)
		if f := aside.FindStringSubmatch(line); f != nil {
			if again, aerr := LineIn(f[1], lib, st); aerr == nil {
				if more, merr := LineIn(f[1]+" "+f[2], lib, st); merr == nil && again.Dose.IsZero() && strings.EqualFold(more.Name(), again.Name()) { // bridge (8 slow)
					again = more
				} else {
					note = strings.TrimSpace(f[2])
				}
				row, err = again, nil
			}
		}
	}
	l.Row, l.Err, l.note = row, err, note
	switch {
	case err != nil:
		l.As = KeptLine
	case row.Inline != nil && row.Inline.Guessed():
		l.As = NamedLine
	default:
		l.As = RowLine
	}
	if note != "" && !row.IsRest() {
		l.Row.Note = Clip(note, MaxNote)
	}
}

// circuit reads "3 rounds, 40 s on 20 s off": what follows is one.
func (l *TextLine) circuit(line string) bool {
	f := circuit.FindStringSubmatch(strings.TrimSuffix(line, ":"))
	if o := oneCircuit.FindStringSubmatch(strings.TrimSuffix(line, ":")); f == nil && o != nil { // circuit x3, 40/20
		f = []string{o[0], o[1], o[2] + o[3], o[4]}
	}
	if f == nil {
		return false
	}
	n, _ := strconv.Atoi(f[2])
	if n < 1 || n > MaxRounds {
		return false
	}
	b := &Block{Rule: Rounds, Rounds: n}
	how := strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(f[3]), "of"))
	if how = noRest.ReplaceAllString(how, ""); how != "" {
		d, err := dose.Parse(onOffBare.ReplaceAllString(strings.Trim(how, " ,:;."), "$1 s on $2 s off"))
		if err != nil || len(d.Parts) != 1 || d.Parts[0].Kind != dose.Time || d.Per != dose.Unsaid {
			return false
		}
		b.On, b.Off = d.Parts[0].Span, d.Parts[0].Off
		if b.On > MaxPause || b.Off > MaxPause {
			return false
		}
	}
	l.As, l.Section, l.circle = HeadingLine, strings.TrimSpace(f[1]), b
	if l.Section == "" {
		l.Section = "Circuit"
	}
	return true
}

// title2 reads the title of the class and its length: "Hips & back, 25 min".
func (l *TextLine) title2(line string) bool {
	n := clock.Span(0)
	title := line
	if f := wholeTime.FindStringSubmatchIndex(line); f != nil {
		m, _ := strconv.Atoi(line[f[2]:f[3]])
		n, title = clock.Span(m)*clock.Minute, strings.TrimRight(strings.TrimSpace(line[:f[0]]), ",–-( ")
	}
	if f := bareMinutes.FindStringSubmatch(line); n == 0 && f != nil { // Core 20
		m, _ := strconv.Atoi(f[2])
		n, title = clock.Span(m)*clock.Minute, f[1]
	}
	if f := timeWithin.FindStringSubmatch(line); n == 0 && f != nil { // Park, 30 mins, no mats
		m, _ := strconv.Atoi(f[2])
		n, title = clock.Span(m)*clock.Minute, f[1]
	}
	if title == "" || n > MaxTarget || len([]rune(title)) > MaxTitle || strings.ContainsAny(title, "0123456789") && n == 0 || prose(line) && n == 0 {
		return false
	}
	*l = TextLine{N: l.N, Raw: l.Raw, As: HeadingLine, title: title, length: n}
	return true
}

// shouted tells whether a line is in capitals: a title.
func shouted(line string) bool {
	letters := 0
	for _, r := range line {
		switch {
		case unicode.IsLower(r) || unicode.IsDigit(r):
			return false
		case unicode.IsUpper(r):
			letters++
		}
	}
	return letters >= 3
}

// bareTitle tells whether a line can only be the title of a part: a word or three that begin with a capital and say neither where the body is nor what is done.
func bareTitle(line string) bool {
	words := strings.Fields(line)
	if len(words) == 0 || len(words) > 3 || strings.ContainsAny(line, "0123456789.,;!?@") || !unicode.IsUpper([]rune(words[0])[0]) {
		return false
	}
	r := movement.ReadName(line)
	return !r.Acts && r.Posture == movement.NoPosture
}

// spokenFrom is from how many words on a line with a full stop and no dose is a sentence about the class; judgement.
const spokenFrom = 7

// longProse is from how many words on a line with a full stop is a sentence whatever numbers it has; judgement.
const longProse = 9

// leastProse is how many words without a number are taken for a sentence; judgement.
const leastProse = 4

// prose tells whether a line is words about the class rather than a row: a sentence without numbers.
func prose(line string) bool {
	if strings.ContainsAny(line, "0123456789") {
		return false
	}
	words := strings.Fields(line)
	return len(words) >= leastProse || len(words) > 1 && strings.ContainsAny(line[len(line)-1:], ".!?")
}

// AddLines puts what was understood after a place, each line as if it had been typed there (see AddIn); a title goes on in an empty section of that name, else
// it begins a new one at the end. Notes go to the row before them, what is under a circuit's heading into one, "the other side the same" makes one side
// through of the rows before it. It returns the place of the last row.
func (s *Session) AddLines(at Path, lines []TextLine, lib *movement.Library) (Path, error) {
	a := adding{s: s, lib: lib, at: at, last: at}
	err := a.all(lines)
	if s.Row(a.last) == nil { // only headings
		return a.at, err
	}
	return a.last, err
}

// all adds lines.
func (a *adding) all(lines []TextLine) error {
	for i := range lines {
		rows := len(a.rows)
		if err := a.line(&lines[i]); err != nil {
			return err
		}
		if lines[i].same {
			a.rows = append(a.rows, added{n: lines[i].N, like: len(a.rows) - 1})
		} else if len(a.rows) > rows {
			a.rows[rows].n = lines[i].N
		}
	}
	a.endSide()
	a.s.tidy(&a.last) // a block that nothing was put into is none
	return nil
}

// added is a row that a line became; like is the row that it only repeats, -1 where it is one of its own.
type added struct{ n, like int }

// places are where the lines stand that became rows, of a class that was empty before, by the number of the line.
func (a *adding) places() map[int]Path {
	var at []Path
	a.s.Each(func(p Path, _ *Block, _ *Row) { at = append(at, p) })
	out, places, next := map[int]Path{}, make([]Path, len(a.rows)), 0
	for i, r := range a.rows {
		switch {
		case r.like >= 0 && r.like < i:
			places[i] = places[r.like]
		case r.like < 0 && next < len(at):
			places[i] = at[next]
			next++
		}
		out[r.n] = places[i]
	}
	return out
}

// adding is a class being put together line by line.
type adding struct {
	s      *Session
	lib    *movement.Library
	at     Path // what comes next goes behind it
	last   Path // the last row
	round  bool // rows go into the circuit at a place
	in     Path
	since  []Path // straight rows since the last heading
	side   movement.Sides
	right  []Path // rows under "right side"
	left   []Path
	rows   []added
	titled bool // the title has been taken as that of the class
}

func (a *adding) line(l *TextLine) error {
	switch {
	case l.head != nil:
		for _, c := range l.head {
			if err := read1(headClauses, a.s, c, "of a class"); err != nil {
				return err
			}
		}
		return nil
	case l.part != nil:
		if n := max(a.at.Section, 1); n <= len(a.s.Sections) {
			for _, c := range l.part {
				if err := read1(sectionClauses, &a.s.Sections[n-1], c, "of a section"); err != nil {
					return err
				}
			}
		}
		return nil
	case l.block != nil:
		return a.begin(l)
	case l.side != movement.SidesUnsaid:
		if l.side == movement.RightOnly && len(a.left) > 0 || l.side == movement.LeftOnly && a.side == movement.LeftOnly {
			a.endSide()
		}
		a.side = l.side
		return nil
	case l.same:
		a.both()
		return nil
	case l.title != "":
		if !a.titled { // the class has its own: these are words about it
			a.s.Note = Clip(strings.TrimPrefix(a.s.Note+"\n"+l.title, "\n"), MaxNote)
		}
		return nil
	case l.Section != "":
		a.endSide()
		a.since, a.round = nil, false
		n := 1 + slices.IndexFunc(a.s.Sections, func(c Section) bool { return len(c.Blocks) == 0 && strings.EqualFold(c.Title, l.Section) })
		if n == 0 {
			var err error
			if n, err = a.s.AddSection(len(a.s.Sections), l.Section); err != nil {
				return err
			}
		}
		a.at = Path{Section: n}
		if l.circle != nil {
			sec := &a.s.Sections[n-1]
			sec.Blocks = append(sec.Blocks, *l.circle)
			a.round, a.in = true, Path{n, len(sec.Blocks), 0}
		}
		if l.As == RowLine { // its rows stand behind it
			return a.rowsOf(l)
		}
		return nil
	case l.then:
		a.endSide()
		if a.round {
			a.round, a.at = false, Path{Section: a.in.Section}
		}
		a.since = nil
		return nil
	case l.As == NoteLine:
		a.note(l.note)
		return nil
	case l.Err != nil:
		return nil
	}
	return a.rowsOf(l)
}

// begin starts a block in the section that there is; the rows of a build up in one line are in it already.
func (a *adding) begin(l *TextLine) error {
	a.endSide()
	a.since = nil
	if len(a.s.Sections) == 0 {
		if _, err := a.s.AddSection(0, "Build"); err != nil {
			return err
		}
	}
	n := a.at.Section
	if n < 1 || n > len(a.s.Sections) {
		n = a.s.lastUsed()
	}
	sec := &a.s.Sections[n-1]
	if len(sec.Blocks) >= maxBlocks {
		return fmt.Errorf("%s has more than %d blocks", sec.Title, maxBlocks)
	}
	if a.s.Rows()+len(l.block.Rows) > maxRows {
		return fmt.Errorf("a session has at most %d rows", maxRows)
	}
	b := *l.block
	b.Rows = slices.Clone(b.Rows)
	where := len(sec.Blocks)
	if a.at.Row > 0 && a.at.Block <= len(sec.Blocks) && !a.round { // behind the row it was put behind
		where = a.at.Block
		if at := &sec.Blocks[a.at.Block-1]; at.Rule == Straight && a.at.Row < len(at.Rows) { // in the midst of straight rows
			tail := *at
			tail.Rows, tail.Title, tail.Note = slices.Clone(at.Rows[a.at.Row:]), "", ""
			at.Rows = slices.Clip(at.Rows[:a.at.Row])
			sec.Blocks = slices.Insert(sec.Blocks, where, tail)
		}
	}
	sec.Blocks = slices.Insert(sec.Blocks, where, b)
	if len(b.Rows) > 0 { // it is whole
		a.round, a.at = false, Path{Section: n}
		a.last = Path{n, where + 1, len(b.Rows)}
		for range b.Rows {
			a.rows = append(a.rows, added{like: -1})
		}
		return nil
	}
	a.round, a.in, a.at = true, Path{n, where + 1, 0}, Path{Section: n}
	return nil
}

// rowsOf puts in the row of a line, or its rows.
func (a *adding) rowsOf(l *TextLine) error {
	if err := a.put(l.Row); err != nil {
		return err
	}
	for _, r := range l.more {
		if err := a.put(r); err != nil {
			return err
		}
	}
	return nil
}

// put puts in one row.
func (a *adding) put(row Row) error {
	if a.round {
		b := a.s.Block(Path{a.in.Section, a.in.Block, 1})
		if a.s.Rows() >= maxRows {
			return fmt.Errorf("a session has at most %d rows", maxRows)
		}
		b.Rows = append(b.Rows, row)
		a.rows = append(a.rows, added{like: -1})
		a.at = Path{a.in.Section, a.in.Block, len(b.Rows)}
		a.last = a.at
		return nil
	}
	if a.side == movement.LeftOnly && a.alike(a.right, a.left) { // all of it was listed for both: what follows is of no side
		a.endSide()
	}
	to, err := a.s.AddIn(a.at, row, a.lib)
	if err != nil {
		return err
	}
	a.at, a.last = to, to
	a.rows = append(a.rows, added{like: -1})
	switch a.side {
	case movement.RightOnly:
		a.right = append(a.right, to)
	case movement.LeftOnly:
		a.left = append(a.left, to)
	default:
		a.since = append(a.since, to)
	}
	return nil
}

// note puts words to the last row, or to the whole class where there is none.
func (a *adding) note(words string) {
	if words == "" {
		return
	}
	to := &a.s.Note
	if r := a.s.Row(a.last); r != nil {
		to = &r.Note
	}
	*to = Clip(strings.TrimPrefix(*to+"\n"+words, "\n"), MaxNote)
}

// both does the rows before it on the other side too: one alone on each side, several one side through.
func (a *adding) both() {
	if a.side != movement.SidesUnsaid {
		a.endSide()
		return
	}
	rows := a.since
	a.since = nil
	if n := len(rows); n > 1 {
		if where, err := a.s.Wrap(rows, Chain, 1, 0, 0); err == nil {
			a.at, a.last = Path{Section: where.Section}, Path{where.Section, where.Block, n}
			return
		}
	}
	for _, p := range rows {
		if r := a.s.Row(p); r != nil && r.Dose.Per == dose.Unsaid && !r.IsRest() {
			r.Dose.Per = dose.EachSide
			if !r.Dose.Sayable() || r.Dose.IsZero() {
				r.Dose.Per = dose.Unsaid
				r.Sides = movement.Each
			}
		}
	}
}

// endSide ends what was listed for the right and the left: the same on both is one side through, else each row is of its side.
func (a *adding) endSide() {
	right, left := a.right, a.left
	a.side, a.right, a.left = movement.SidesUnsaid, nil, nil
	if len(right)+len(left) == 0 {
		return
	}
	if a.alike(right, left) && len(right) > 0 {
		if err := a.s.Delete(left...); err == nil {
			for k := range left { // they are the last that were added, behind those of the right
				i := len(a.rows) - len(left) + k
				a.rows[i].like = i - len(left)
			}
			if where, err := a.s.Wrap(right, Chain, 1, 0, 0); err == nil {
				a.at, a.last = Path{Section: where.Section}, Path{where.Section, where.Block, len(right)}
			}
			return
		}
	}
	for _, rows := range []struct {
		at   []Path
		side movement.Sides
	}{{right, movement.RightOnly}, {left, movement.LeftOnly}} {
		for _, p := range rows.at {
			if r := a.s.Row(p); r != nil && !r.IsRest() && r.Dose.Per == dose.Unsaid {
				r.Sides = rows.side
			}
		}
	}
}

// alike tells whether the left does what the right does, or nothing was listed for it.
func (a *adding) alike(right, left []Path) bool {
	if len(left) == 0 {
		return false
	}
	if len(right) != len(left) {
		return false
	}
	for i := range right {
		x, y := a.s.Row(right[i]), a.s.Row(left[i])
		if x == nil || y == nil || x.Name() != y.Name() || x.Dose.String() != y.Dose.String() {
			return false
		}
	}
	return true
}
