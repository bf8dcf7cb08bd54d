package plan

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/strict"
)

// MaxLine is the longest line understood, in characters.
const MaxLine = 400

// LineError says which word of a typed line was not understood.
type LineError struct {
	Column int // in characters, from 1
	Word   string
	Says   string
	Near   []*movement.Movement // what may have been meant
	Err    error                // what was wrong, where another reader found it: a *dose.Error, a time
}

// Unwrap is what was wrong.
func (e *LineError) Unwrap() error { return e.Err }

// Error says the column, the word and what was expected.
func (e *LineError) Error() string {
	if e.Word == "" {
		return fmt.Sprintf("column %d: %s", e.Column, e.Says)
	}
	return fmt.Sprintf("column %d: %q: %s", e.Column, e.Word, e.Says)
}

// lineWord is one word of a line with its place.
type lineWord struct {
	text  string
	start int // rune index
}

func splitWords(text string) (out []lineWord) {
	start := -1
	rs := []rune(text)
	for i, r := range rs {
		if unicode.IsSpace(r) {
			if start >= 0 {
				out = append(out, lineWord{string(rs[start:i]), start})
			}
			start = -1
		} else if start < 0 {
			start = i
		}
	}
	if start >= 0 {
		out = append(out, lineWord{string(rs[start:]), start})
	}
	return out
}

// Line reads a row the way it is said: a movement and a dose in either order, a level, one side
// only, or a rest. "bird dog 8 each side + 10 pulses", "10 breaths hundred", "swan level 2",
// "rest 20 s head down". Errors are *LineError with the word that was not understood.
func Line(text string, lib *movement.Library) (Row, error) {
	if !utf8.ValidString(text) {
		return Row{}, &LineError{Column: 1, Says: "not text in UTF-8"}
	}
	text = strings.ReplaceAll(text, "\t", " ") // as pasted from a table
	if i := strict.Hidden(text); i >= 0 {
		return Row{}, &LineError{Column: 1 + utf8.RuneCountInString(text[:i]), Says: "a character that cannot be shown"}
	}
	if n := utf8.RuneCountInString(text); n > MaxLine {
		return Row{}, &LineError{Column: MaxLine + 1, Says: fmt.Sprintf("%d characters: at most %d in a line", n, MaxLine)}
	}
	if strings.ContainsAny(text, `;\`) {
		if row, ok, err := lineOfClauses(text, lib); ok {
			if err != nil {
				return Row{}, &LineError{Column: 1, Says: err.Error(), Err: err}
			}
			return row, nil
		}
	}
	return plainLine(text, lib)
}

// plainLine reads a line without clauses.
func plainLine(text string, lib *movement.Library) (Row, error) {
	if row, ok, err := readTurnLine(strings.TrimSpace(text), lib); ok {
		if err != nil {
			return Row{}, &LineError{Column: 1, Says: err.Error(), Err: err}
		}
		return row, nil
	}
	if row, ok, err := phasesLine(text, lib); ok {
		return row, err
	}
	text = tidied(text)
	words := splitWords(text)
	if len(words) > 0 {
		if first := strings.ToLower(strings.TrimRight(words[0].text, ",:-–")); (first == "100" || first == "100s" || first == "100's") && (len(words) == 1 || first != "100" || strings.ContainsAny(words[0].text, ",:-–")) {
			words[0].text = "hundred"
		}
	}
	if len(words) == 0 {
		return Row{}, &LineError{Column: 1, Says: "say a movement and how much, as in: bird dog 8 each side"}
	}
	if strings.EqualFold(words[0].text, "rest") {
		named := false // some movements are called "rest ..." too
		for n := 2; n <= len(words) && !named; n++ {
			_, named = lib.Named(joinWords(words[:n]))
		}
		if !named {
			return restLine(words)
		}
	}
	var row Row
	words, levelAt, lerr := takeLevel(words, &row)
	if lerr != nil {
		return Row{}, lerr
	}
	words = takeOneSide(words, &row)
	if len(words) == 0 {
		return Row{}, &LineError{Column: 1, Says: "which movement?"}
	}
	m, doseWords, err := nameAndDose(words, lib)
	if err != nil {
		if named, ok := readNamed(words, row, lib, err); ok {
			return named, named.Contradicts()
		}
		return Row{}, err
	}
	row.Movement = m.Slug
	if err := row.say(doseWords, m); err != nil {
		// what follows may be part of a longer name: a side lunge with a reach
		if longer, _ := splitDose(words); len(longer) > len(words)-len(doseWords) && movement.Tells(joinWords(longer[len(words)-len(doseWords):])) {
			if named, ok := readNamed(words, Row{Level: row.Level, Sides: row.Sides}, lib, nil); ok {
				return named, named.Contradicts()
			}
		}
		return Row{}, err
	}
	if row.Level > len(m.Levels) {
		return Row{}, &LineError{Column: levelAt + 1, Word: strconv.Itoa(row.Level), Says: fmt.Sprintf("%s has %d levels", m.Name, len(m.Levels))}
	}
	if err := row.Contradicts(); err != nil {
		return Row{}, &LineError{Column: 1, Says: err.Error(), Err: err}
	}
	return row, nil
}

var (
	levelWord = regexp.MustCompile(`(?i)\blevel \d`)
	phaseEnds = regexp.MustCompile(`(?i)\s*(?:,\s*(?:and\s+)?then|;|,|\bthen\b)\s*`)
)

// phasesLine reads a ladder inside one position: "side plank 5 breaths level 2, then 4 breaths level 3"; ok is false where the line is none.
func phasesLine(text string, lib *movement.Library) (Row, bool, error) {
	if len(levelWord.FindAllStringIndex(text, 2)) < 2 {
		return Row{}, false, nil
	}
	words := splitWords(text)
	n := 0
	for n < len(words) && !startsDose(words[n].text) && !strings.EqualFold(words[n].text, "level") {
		n++
	}
	if n == 0 || n == len(words) {
		return Row{}, false, nil
	}
	row, err := Line(strings.TrimRight(joinWords(words[:n]), ",:"), lib)
	if err != nil || row.IsRest() || !row.Dose.IsZero() {
		return Row{}, false, nil
	}
	if err := row.setPhases(phaseEnds.Split(joinWords(words[n:]), -1)); err != nil {
		return Row{}, false, nil
	}
	m, err := row.Of(lib)
	if err != nil {
		return Row{}, false, nil
	}
	for _, l := range row.PartLevels {
		if l > len(m.Levels) {
			return Row{}, true, &LineError{Column: words[n].start + 1, Word: strconv.Itoa(l), Says: fmt.Sprintf("%s has %d levels", m.Name, len(m.Levels))}
		}
	}
	return row, true, nil
}

var (
	doseAround = regexp.MustCompile(`(?i)^(\d+|one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|fifteen|twenty)\s+(\p{L}[\p{L} '-]*?)\s+((?:each|per|every) (?:leg|side|arm|way|direction)|e/s|alternating)$`)
	doseIn     = regexp.MustCompile(`(?i)^((?:a few|\d+|three|four|five|six|eight|ten) breaths) (?:in|of) (?:the |a )?(\p{L}[\p{L} '-]*)$`)
	sideBehind = regexp.MustCompile(`(?i)^(.*\p{L}.*?)[ ,(]+(?:on the )?(right|left)(?: side)?\)?$`)
	sideLetter = regexp.MustCompile(`^(\p{L}.*?\p{L}) \(?(R|L)\)?( .*)?$`)
	heldName   = regexp.MustCompile(`(?i)^(.*\p{L})\s+hold$`)
	hundred100 = regexp.MustCompile(`(?i)^(the )?hundred,? ?x ?100$`)
)

// tidied puts a line into the order in which it is read: what is said of a dose around the name, dashes between, "90/90".
func tidied(text string) string {
	t := strings.ReplaceAll(strings.ReplaceAll(text, " – ", " , "), " — ", " , ")
	t = strings.ReplaceAll(t, "90/90", "90-90")
	switch {
	case hundred100.MatchString(strings.TrimSpace(t)):
		return "hundred"
	case doseAround.MatchString(strings.TrimSpace(t)):
		f := doseAround.FindStringSubmatch(strings.TrimSpace(t))
		if n, ok := numberWords[strings.ToLower(f[1])]; ok {
			f[1] = n
		}
		return f[2] + " " + f[1] + " " + f[3]
	case doseIn.MatchString(strings.TrimSpace(t)):
		return doseIn.ReplaceAllString(strings.TrimSpace(t), "$2 $1")
	}
	if f := heldName.FindStringSubmatch(strings.TrimSpace(t)); f != nil && !strings.ContainsAny(t, "0123456789") && len(strings.Fields(f[1])) > 1 { // glute bridge hold
		return f[1]
	}
	if f := sideLetter.FindStringSubmatch(strings.TrimSpace(t)); f != nil {
		return f[1] + map[string]string{"R": " right only", "L": " left only"}[f[2]] + f[3]
	}
	if f := sideBehind.FindStringSubmatch(strings.TrimSpace(t)); f != nil && !strings.ContainsAny(f[1], "0123456789") && !sideNamed.MatchString(f[1]) {
		return f[1] + " " + f[2] + " only"
	}
	return t
}

var numberWords = map[string]string{"one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6", "seven": "7", "eight": "8", "nine": "9", "ten": "10", "eleven": "11", "twelve": "12", "fifteen": "15", "twenty": "20"}

// sideNamed are words behind which a side is where to, not which one.
var sideNamed = regexp.MustCompile(`(?i)\b(?:right|left|look|looks|turn|turns|to the|and|then|reach|roll|face)\b`)

func restLine(words []lineWord) (Row, error) {
	row := Row{Rest: &Rest{For: movement.RestSpan}}
	rest := words[1:]
	if len(rest) == 0 {
		return row, nil
	}
	text, used := rest[0].text, 1
	if len(rest) > 1 {
		if _, ok := clock.Unit(strings.ToLower(rest[1].text)); ok {
			text, used = text+" "+rest[1].text, 2
		}
	}
	if r := []rune(text)[0]; r < '0' || r > '9' { // words only: what is said while resting
		row.Rest.Say = joinWords(rest)
		return row, nil
	}
	if n, err := strconv.Atoi(text); err == nil {
		text = strconv.Itoa(n) + " s"
	}
	sp, err := clock.Parse(text)
	if err != nil || sp <= 0 || sp > MaxPause {
		return Row{}, &LineError{Column: rest[0].start + 1, Word: rest[0].text, Says: "expected a rest from 1 s to 10 min", Err: err}
	}
	*row.Rest = Rest{For: sp, Say: joinWords(rest[used:])}
	return row, nil
}

func joinWords(ws []lineWord) string {
	s := make([]string, len(ws))
	for i, w := range ws {
		s[i] = w.text
	}
	return strings.Join(s, " ")
}

// takeLevel takes "level 2" out of the words; at is where the number stands, from 0.
func takeLevel(words []lineWord, row *Row) (out []lineWord, at int, err error) {
	for i, w := range words {
		if !strings.EqualFold(w.text, "level") || i == 0 {
			continue
		}
		if i+1 == len(words) {
			return nil, 0, &LineError{Column: w.start + 1, Word: w.text, Says: "which level?"}
		}
		n, err := strconv.Atoi(strings.TrimRight(words[i+1].text, ","))
		if err != nil || n < 1 || n > maxLevel {
			return nil, 0, &LineError{Column: words[i+1].start + 1, Word: words[i+1].text, Says: "expected a level such as 2", Err: err}
		}
		row.Level = n
		return append(append([]lineWord(nil), words[:i]...), words[i+2:]...), words[i+1].start, nil
	}
	return words, 0, nil
}

// takeOneSide takes "right only" or "left only" out of the words.
func takeOneSide(words []lineWord, row *Row) []lineWord {
	for i := 1; i+1 < len(words); i++ {
		if strings.EqualFold(words[i+1].text, "only") {
			switch strings.ToLower(words[i].text) {
			case "right":
				row.Sides = movement.RightOnly
			case "left":
				row.Sides = movement.LeftOnly
			default:
				continue
			}
			return append(append([]lineWord(nil), words[:i]...), words[i+2:]...)
		}
	}
	return words
}

// DoseFor reads a dose of a movement: what "each" means is known of it.
func DoseFor(m *movement.Movement, text string) (dose.Dose, error) { return onOf(m).Parse(text) }

// onOf is what is known of a movement for its doses.
func onOf(m *movement.Movement) dose.On {
	on := dose.On{Sides: m.Sides == movement.Each || m.Sides == movement.Alternating}
	on.Ways = slices.ContainsFunc(m.Dose.Parts, func(p dose.Part) bool { return p.EachWay })
	for i := range m.Levels {
		on.Ways = on.Ways || slices.ContainsFunc(m.As(i+1).Dose.Parts, func(p dose.Part) bool { return p.EachWay })
	}
	return on
}

// say gives a row the dose that is said, or one for each side: "right 8 left 6", "8 right, 6 left".
func (r *Row) say(words []lineWord, m *movement.Movement) (err error) {
	right, left, ok := bySides(words)
	on := onOf(m)
	on.Sides = on.Sides || r.Inline != nil && slices.Contains(r.Inline.Read, movement.FactSides) // nobody has said its sides: the dose does
	if !ok {
		r.Dose, err = parseWords(words, on)
		return err
	}
	if r.Dose, err = parseWords(right, on); err != nil {
		return err
	}
	o := Override{}
	if o.Dose, err = parseWords(left, on); err != nil {
		return err
	}
	if !o.Dose.Equal(r.Dose) {
		r.Left = &o
	}
	return nil
}

// bySides parts what is said of the right from what is said of the left; ok is false where nothing is.
func bySides(words []lineWord) (right, left []lineWord, ok bool) {
	var sides [2]int
	for i, w := range words {
		switch strings.ToLower(strings.Trim(w.text, ",;:")) {
		case "right":
			sides[0] = i + 1
		case "left":
			sides[1] = i + 1
		}
	}
	a, b := sides[0], sides[1]
	if a == 0 || b == 0 {
		return nil, nil, false
	}
	first, second := min(a, b), max(a, b)
	var one, two []lineWord
	switch {
	case first == 1: // right 8, left 6
		one, two = words[1:second-1], words[second:]
	case second == len(words): // 8 right, 6 left
		one, two = words[:first-1], words[first:second-1]
	default:
		return nil, nil, false
	}
	one, two = bare(one), bare(two)
	if len(one) == 0 || len(two) == 0 {
		return nil, nil, false
	}
	if a > b {
		one, two = two, one
	}
	return one, two, true
}

// bare takes commas and "and" from the ends of words.
func bare(words []lineWord) []lineWord {
	out := slices.Clone(words)
	for len(out) > 0 && (strings.Trim(out[0].text, ",;") == "" || strings.EqualFold(out[0].text, "and")) {
		out = out[1:]
	}
	for len(out) > 0 && (strings.Trim(out[len(out)-1].text, ",;") == "" || strings.EqualFold(out[len(out)-1].text, "and")) {
		out = out[:len(out)-1]
	}
	if n := len(out); n > 0 {
		out[n-1].text = strings.TrimRight(out[n-1].text, ",;")
	}
	return out
}

func parseWords(words []lineWord, on dose.On) (dose.Dose, error) {
	if len(words) == 0 {
		return dose.Dose{}, nil
	}
	// Rebuilt with the original gaps, so that columns are those of the line.
	var b strings.Builder
	col := 0
	for _, w := range words {
		for ; col < w.start; col++ {
			b.WriteByte(' ')
		}
		b.WriteString(w.text)
		col += utf8.RuneCountInString(w.text)
	}
	d, err := on.Parse(strings.TrimLeft(b.String(), " "))
	if err == nil {
		return d, nil
	}
	var de *dose.Error
	if !errors.As(err, &de) {
		return d, err
	}
	says := "expected " + de.Expected
	if len(de.Readings) > 0 {
		says = "could be " + strings.Join(de.Readings, " or ") + ": say which"
	}
	return d, &LineError{Column: words[0].start + de.Column, Word: de.Word, Says: says, Err: de}
}

// startsDose tells whether a word can begin a dose.
func startsDose(w string) bool {
	if w = strings.ToLower(w); w == "" {
		return false
	}
	switch w {
	case "hold", "as", "amrap", "half", "to", "up", "x", "×", "once", "twice", "about", "around", "right", "left":
		return true
	}
	return w[0] >= '0' && w[0] <= '9' || w[0] == '-' && len(w) > 1 || len(w) > 1 && (w[0] == 'x' || w[0] == '~') && w[1] >= '0' && w[1] <= '9'
}

// several finds the movement that a name means word by word though another one begins so: "press ups" are push-ups, not press-ups on the front. One word alone
// is that only as one more of a name: "lunges" are lunges, but "roll" is many.
func several(lib *movement.Library, name string) (*movement.Movement, bool) {
	if !strings.ContainsAny(name, " -") {
		if one, ok := strings.CutSuffix(strings.ToLower(name), "s"); ok {
			return lib.Named(one)
		}
		return nil, false
	}
	return lib.SameWords(name)
}

// nameAndDose parts the words into a movement and the words of its dose.
func nameAndDose(words []lineWord, lib *movement.Library) (*movement.Movement, []lineWord, error) {
	for n := len(words); n > 0; n-- { // the longest exact name in front
		if m, ok := lib.Named(joinWords(words[:n])); ok {
			return m, words[n:], nil
		}
	}
	for i := 1; i < len(words); i++ { // or behind the dose
		if m, ok := lib.Named(joinWords(words[i:])); ok {
			return m, words[:i], nil
		}
	}
	// A name under way: everything up to where a dose can begin.
	name, rest := words, []lineWord(nil)
	if begun := firstDigit(words); begun > 0 { // "half p" is the half pigeon under way, not half a dose
		if m, ok := several(lib, joinWords(words[:begun])); ok {
			return m, words[begun:], nil
		}
		if m, ok := lib.Begun(joinWords(words[:begun])); ok {
			return m, words[begun:], nil
		}
	}
	if startsDose(words[0].text) {
		if _, err := parseWords(words, dose.On{Sides: true}); err == nil {
			return nil, nil, &LineError{Column: words[0].start + 1, Word: words[0].text, Says: "expected a movement first, as in: bird dog 8 each side"}
		}
		for i := len(words) - 1; i > 0; i-- {
			if _, err := parseWords(words[:i], dose.On{Sides: true}); err == nil {
				name, rest = words[i:], words[:i]
				break
			}
		}
		if rest == nil {
			return nil, nil, &LineError{Column: words[0].start + 1, Word: words[0].text, Says: "expected a movement first, as in: bird dog 8 each side"}
		}
	} else {
		for i := 1; i < len(words); i++ {
			if startsDose(words[i].text) {
				name, rest = words[:i], words[i:]
				break
			}
		}
	}
	if m, ok := several(lib, joinWords(name)); ok {
		return m, rest, nil
	}
	near := lib.Search(joinWords(name))
	switch {
	case len(near) == 1 && near[0].Covers(joinWords(name)):
		return near[0], rest, nil
	case len(near) == 1:
		return nil, nil, &LineError{Column: name[0].start + 1, Word: joinWords(name), Says: "no movement of that name in the library", Near: near}
	case len(near) > 1:
		if m, ok := lib.Begun(joinWords(name)); ok {
			return m, rest, nil
		}
		return nil, nil, &LineError{Column: name[0].start + 1, Word: joinWords(name), Says: "could be " + namesOf(near) + ": say which", Near: near}
	}
	// Point at the first word that no movement has.
	for i := range name {
		if len(lib.Search(joinWords(name[:i+1]))) == 0 {
			return nil, nil, &LineError{
				Column: name[i].start + 1, Word: name[i].text, Says: "no movement of that name in the library",
				Near: nearBefore(name[:i], lib),
			}
		}
	}
	return nil, nil, &LineError{Column: name[0].start + 1, Word: joinWords(name), Says: "no movement of that name in the library"}
}

// readNamed reads a row whose movement no library has from its name, or takes the one of which the name is mistyped; ok is false where the words could be
// several movements, or the name states neither where the body is nor what is done.
func readNamed(words []lineWord, row Row, lib *movement.Library, err error) (Row, bool) {
	if w := words[0]; len(words) > 2 && strings.EqualFold(w.text, "hold") { // hold the plank 30 s
		name, said := splitDose(words[1:])
		if len(name) > 0 && len(said) > 0 {
			if strings.EqualFold(name[0].text, "the") || strings.EqualFold(name[0].text, "a") {
				name = name[1:]
			}
			if again, lerr := Line(joinWords(name)+" hold "+joinWords(said), lib); lerr == nil {
				again.Level, again.Sides = max(again.Level, row.Level), row.Sides
				return again, true
			}
		}
		return row, false
	}
	name, said := splitDose(words)
	if len(name) == 0 || len(name) > maxNameWords {
		return row, false
	}
	var le *LineError
	open := errors.As(err, &le) && slices.ContainsFunc(le.Near, func(m *movement.Movement) bool { return m.Covers(joinWords(name)) }) // it may be one of these, said short
	if open && len(name) == 1 {
		return row, false
	}
	m, ok := lib.SameWords(joinWords(name))
	if !ok && slices.ContainsFunc(name, func(w lineWord) bool { return strings.ContainsAny(w.text, "0123456789{}<>=@#\\") }) {
		return row, false // a number that was not understood, or no words at all
	}
	if !ok {
		m, ok = lib.Mistyped(joinWords(name))
	}
	if !ok && len(name) == 1 {
		m, ok = lib.Squeezed(joinWords(name))
	}
	if !ok {
		m, ok = lib.SameWhere(joinWords(name))
	}
	if ok {
		row.Movement = m.Slug
		return row, row.Level <= len(m.Levels) && row.say(said, m) == nil
	}
	if open {
		return row, false
	}
	r := movement.ReadName(strings.Trim(joinWords(name), " ,;:.-–"))
	if r.Asks() || row.Level > 0 || len([]rune(r.Name)) > maxInlineName {
		return row, false
	}
	row.Inline = InlineOf(r)
	m, merr := row.Of(lib)
	if merr != nil || row.say(said, m) != nil {
		return row, false
	}
	row.dosesSides()
	return row, true
}

// dosesSides lets the dose of a row that was read from its name say how it falls on the sides.
func (r *Row) dosesSides() {
	switch r.Dose.Per {
	case dose.EachSide:
		r.Inline.Sides = movement.Each
	case dose.Alternating, dose.Pairs:
		r.Inline.Sides = movement.Alternating
	}
}

// maxNameWords is how many words a name may have; judgement.
const maxNameWords = 14

// maxInlineName is the longest name of a movement that is written into a plan, in characters.
const maxInlineName = 100

// splitDose parts words into a name and a dose, in either order: the longest dose that stands at the end, else at the beginning.
func splitDose(words []lineWord) (name, said []lineWord) {
	anySide := dose.On{Sides: true}
	for i := 1; i < len(words); i++ {
		rest := bare(words[i:])
		if len(rest) == 0 || !startsDose(strings.TrimLeft(rest[0].text, "([")) {
			continue
		}
		if _, _, sided := bySides(rest); sided {
			return bare(words[:i]), rest
		}
		if _, err := parseWords(rest, anySide); err == nil {
			return bare(words[:i]), rest
		}
	}
	for i := len(words) - 1; i > 0; i-- {
		if !startsDose(words[0].text) {
			break
		}
		if _, err := parseWords(bare(words[:i]), anySide); err == nil {
			return bare(words[i:]), bare(words[:i])
		}
	}
	if startsDose(words[0].text) {
		return nil, nil
	}
	if len(words) > 0 && firstDigit(words) == len(words) {
		return bare(words), nil
	}
	return nil, nil
}

// firstDigit is the first word that begins with a digit or is hold, or how many words there are.
func firstDigit(words []lineWord) int {
	for i, w := range words {
		if c := w.text[0]; c >= '0' && c <= '9' || strings.EqualFold(w.text, "hold") {
			return i
		}
	}
	return len(words)
}

func nearBefore(name []lineWord, lib *movement.Library) []*movement.Movement {
	if len(name) == 0 {
		return nil
	}
	return lib.Search(joinWords(name))
}

func namesOf(ms []*movement.Movement) string {
	var names []string
	for _, m := range ms[:min(3, len(ms))] {
		names = append(names, m.Name)
	}
	s := strings.Join(names, ", ")
	if len(ms) > 3 {
		s += fmt.Sprintf(" or %d more", len(ms)-3)
	}
	return s
}

// Say is the row in one line that Line reads back.
func (r *Row) Spoken(m *movement.Movement) string {
	if r.IsRest() {
		return strings.TrimSpace("rest " + r.Rest.For.Said() + " " + r.Rest.Say)
	}
	if m == nil {
		return strings.TrimSpace(r.Name() + " " + r.Dose.String())
	}
	s := m.Name
	if r.Level > 0 {
		s += " level " + strconv.Itoa(r.Level)
	}
	if r.Sides == movement.RightOnly || r.Sides == movement.LeftOnly {
		s += " " + r.Sides.String() + " only"
	}
	return strings.TrimSpace(s + " " + r.Dose.String())
}
