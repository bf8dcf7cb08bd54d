package plan

import (
	"errors"
	"fmt"
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
	words := splitWords(text)
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
		return Row{}, err
	}
	row.Movement = m.Slug
	if row.Dose, err = parseWords(doseWords); err != nil {
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
	*row.Rest = Rest{sp, joinWords(rest[used:])}
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

func parseWords(words []lineWord) (dose.Dose, error) {
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
	d, err := dose.Parse(strings.TrimLeft(b.String(), " "))
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
	w = strings.ToLower(w)
	switch w {
	case "hold", "as", "amrap", "half", "to", "up":
		return true
	}
	return w[0] >= '0' && w[0] <= '9' || w[0] == '-' && len(w) > 1
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
		if m, ok := lib.Begun(joinWords(words[:begun])); ok {
			return m, words[begun:], nil
		}
	}
	if startsDose(words[0].text) {
		if _, err := parseWords(words); err == nil {
			return nil, nil, &LineError{Column: words[0].start + 1, Word: words[0].text, Says: "expected a movement first, as in: bird dog 8 each side"}
		}
		for i := len(words) - 1; i > 0; i-- {
			if _, err := parseWords(words[:i]); err == nil {
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
	near := lib.Search(joinWords(name))
	switch {
	case len(near) == 1:
		return near[0], rest, nil
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
