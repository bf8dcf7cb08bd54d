package dose

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"wavekine/core/clock"
)

// Error says where a dose could not be read and what was expected there.
type Error struct {
	Column   int      // in characters, from 1
	Word     string   // the word that was not understood; empty at the end
	Expected string   // what would have been
	Readings []string // for an ambiguous dose: what it could mean
	Pers     []Per    // and how those would fall on the sides
}

// Could tells whether an ambiguous dose could have meant a way of falling on the sides.
func (e *Error) Could(per Per) bool { return slices.Contains(e.Pers, per) }

// Error says the column, the word and what was expected.
func (e *Error) Error() string {
	if len(e.Readings) > 0 {
		return fmt.Sprintf("dose: column %d: %q could be said as %s: say which", e.Column, e.Word, strings.Join(e.Readings, " or "))
	}
	if e.Word == "" {
		return fmt.Sprintf("dose: column %d: ends too early: expected %s", e.Column, e.Expected)
	}
	return fmt.Sprintf("dose: column %d: %q: expected %s", e.Column, e.Word, e.Expected)
}

// spelled are the numbers that are said as words when counting aloud.
var spelled = map[string]int{
	"one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7,
	"eight": 8, "nine": 9, "ten": 10, "twelve": 12, "fifteen": 15, "twenty": 20,
}

type parser struct {
	toks []token
	i    int
	d    Dose
	// where the side words stand, to name the second when two contradict
	perAt token
}

// Parse reads a dose as it is said. On failure the error is an *Error with the column,
// the word and what was expected. An empty text is the zero dose. What could be read
// in two ways is refused with the readings.
func Parse(text string) (Dose, error) {
	if !utf8.ValidString(text) {
		return Dose{}, &Error{Column: 1, Word: "�", Expected: "text in UTF-8"}
	}
	if n := utf8.RuneCountInString(text); n > MaxText {
		return Dose{}, &Error{Column: MaxText + 1, Word: "…", Expected: fmt.Sprintf("at most %d characters", MaxText)}
	}
	p := &parser{toks: lex(text)}
	if p.peek().kind == end {
		return Dose{}, nil
	}
	if err := p.dose(); err != nil {
		return Dose{}, err
	}
	return p.d, nil
}

func (p *parser) peek() token    { return p.toks[p.i] }
func (p *parser) at(n int) token { return p.toks[min(p.i+n, len(p.toks)-1)] }
func (p *parser) next() token    { t := p.toks[p.i]; p.i = min(p.i+1, len(p.toks)-1); return t }
func (p *parser) is(ws ...string) bool {
	for i, w := range ws {
		if p.at(i).text != w {
			return false
		}
	}
	return true
}

func (p *parser) take(ws ...string) bool {
	if p.is(ws...) {
		p.i = min(p.i+len(ws), len(p.toks)-1)
		return true
	}
	return false
}

func fail(t token, expected string) error {
	return &Error{Column: t.col, Word: t.raw, Expected: expected}
}

func ambiguous(t token, pers []Per, readings ...string) error {
	return &Error{Column: t.col, Word: t.raw, Readings: readings, Pers: pers}
}

// dose = [sets "x"] part {"+" part} tail
func (p *parser) dose() error {
	if err := p.sets(); err != nil {
		return err
	}
	for {
		if len(p.d.Parts) == maxParts {
			return fail(p.peek(), fmt.Sprintf("at most %d parts", maxParts))
		}
		if err := p.part(); err != nil {
			return err
		}
		if err := p.modifiers(); err != nil {
			return err
		}
		if !p.take("+") && !p.take("plus") && !p.take("then") {
			break
		}
	}
	if t := p.peek(); t.kind != end {
		return fail(t, `"each side", "each way", "at 2-2", "rest 30 s", "+" or the end`)
	}
	return p.settle()
}

// settle checks what only the whole dose can tell.
func (p *parser) settle() error {
	d := &p.d
	if d.Rest > 0 && d.Sets < 2 {
		return fail(p.toks[len(p.toks)-1], `sets to rest between, as in "3 x 8, rest 30 s"`)
	}
	if (d.Per == Pairs || d.Per == Alternating) && d.Parts[0].Kind != Reps {
		return fail(p.perAt, `"each side" (pairs and alternating count repetitions)`)
	}
	return nil
}

func (p *parser) sets() error {
	t := p.peek()
	if t.kind != number && spelled[t.text] == 0 || (p.at(1).text != "x" && p.at(1).text != "×" && !(p.at(1).text == "sets" && p.at(2).text == "of")) {
		return nil
	}
	n, err := p.count(MaxSets, "sets")
	if err != nil {
		return err
	}
	if p.next().text == "sets" {
		p.next()
	}
	p.d.Sets = n
	if n == 1 {
		p.d.Sets = 0
	}
	if k := p.peek(); k.kind == number && (p.at(1).text == "x" || p.at(1).text == "×") {
		return fail(p.at(1), `one number of sets: "3 x 8"`)
	}
	return nil
}

// count reads a whole number from 1 to limit.
func (p *parser) count(limit int, what string) (int, error) {
	t := p.next()
	if n, ok := spelled[t.text]; ok {
		return n, nil
	}
	if t.text == "-" && p.peek().kind == number {
		t.raw += p.peek().raw
	}
	n, err := strconv.Atoi(t.text)
	if t.kind != number || err != nil || n < 1 || n > limit {
		return 0, fail(t, fmt.Sprintf("a whole number of %s from 1 to %d", what, limit))
	}
	return n, nil
}

func (p *parser) part() error {
	t := p.peek()
	switch {
	case p.take("hold") || p.take("held") || p.take("holding"):
		return p.hold()
	case p.take("as", "many", "as") || p.take("amrap") || p.take("as", "many", "reps", "as"):
		s, err := p.span()
		if err != nil {
			return err
		}
		return p.add(Part{Kind: AsMany, Span: s})
	case p.take("half", "forward", "half", "back") || p.take("half", "forward", ",", "half", "back"):
		s, err := p.span()
		if err != nil {
			return err
		}
		return p.add(Part{Kind: Time, Span: s, Halves: true})
	case p.take("to") || p.take("up", "to"):
		n, err := p.count(MaxBreaths, "breaths")
		if err != nil {
			return err
		}
		if !p.take("breaths") && !p.take("breath") {
			return fail(p.peek(), `"breaths"`)
		}
		return p.add(Part{Kind: Breaths, Count: n, UpTo: true})
	case t.kind == clockT, t.kind == number && isUnit(p.at(1)):
		return p.time()
	case t.kind == number, t.kind == word && spelled[t.text] > 0, t.text == "-" && p.at(1).kind == number:
		return p.counted()
	}
	return fail(t, `a count, a time, "hold", "to", "as many as" or "half forward half back"`)
}

func (p *parser) add(part Part) error {
	p.d.Parts = append(p.d.Parts, part)
	return nil
}

func isUnit(t token) bool {
	_, ok := clock.Unit(t.text)
	return ok && t.kind == word
}

// span reads "30 s", "2 min" or "1:30".
func (p *parser) span() (clock.Span, error) {
	t := p.next()
	text := t.text
	switch {
	case t.kind == clockT:
	case t.kind == number && isUnit(p.peek()):
		u := p.next()
		text += " " + u.text
		t.raw += " " + u.raw
	case t.kind == number:
		return 0, fail(p.peek(), fmt.Sprintf("a unit after %s: s, min or breaths", t.raw))
	default:
		return 0, fail(t, "a time such as 30 s, 2 min or 1:30")
	}
	s, err := clock.Parse(text)
	if err != nil || s < clock.Second/2 || s > MaxSpan {
		return 0, fail(t, fmt.Sprintf("a time from 0.5 s to %s", MaxSpan.Said()))
	}
	return s, nil
}

func (p *parser) hold() error {
	p.take("for")
	if p.peek().kind == number && (p.at(1).text == "breaths" || p.at(1).text == "breath") {
		n, err := p.count(MaxBreaths, "breaths")
		if err != nil {
			return err
		}
		p.next()
		return p.add(Part{Kind: Hold, Count: n})
	}
	s, err := p.span()
	if err != nil {
		return err
	}
	return p.add(Part{Kind: Hold, Span: s})
}

func (p *parser) time() error {
	s, err := p.span()
	if err != nil {
		return err
	}
	part := Part{Kind: Time, Span: s}
	switch {
	case p.take("on"):
		p.take(",")
		if part.Off, err = p.span(); err != nil {
			return err
		}
		if !p.take("off") {
			return fail(p.peek(), `"off"`)
		}
	case p.take("hold"):
		part.Kind = Hold
	}
	return p.add(part)
}

func (p *parser) counted() error {
	num := p.peek()
	unit := p.at(1).text
	limit, what := MaxReps, "repetitions"
	if unit == "breaths" || unit == "breath" {
		limit, what = MaxBreaths, "breaths"
	}
	if (unit == "sets" || unit == "set") && p.at(2).text != "of" {
		return ambiguous(p.at(1), []Per{Pairs, Unsaid}, num.raw+" pairs (right and left once each)", num.raw+" x a count (that many sets)")
	}
	n, err := p.count(limit, what)
	if err != nil {
		return err
	}
	switch t := p.peek(); t.text {
	case "reps", "rep", "repetitions", "repetition", "times", "time":
		p.next()
		return p.add(Part{Kind: Reps, Count: n})
	case "pulses", "pulse", "beats":
		p.next()
		return p.add(Part{Kind: Pulses, Count: n})
	case "breaths", "breath":
		p.next()
		return p.add(Part{Kind: Breaths, Count: n})
	case "rounds", "round":
		if n > MaxSets {
			return fail(num, fmt.Sprintf("a whole number of rounds from 1 to %d", MaxSets))
		}
		p.next()
		return p.add(Part{Kind: Rounds, Count: n})
	}
	return p.add(Part{Kind: Reps, Count: n})
}

func (p *parser) per(v Per, t token) error {
	if p.d.Per != Unsaid && p.d.Per != v {
		return fail(t, "one way of counting sides: it already says "+p.perAt.raw)
	}
	p.d.Per, p.perAt = v, t
	return nil
}

// modifiers reads what may follow a part, in any order.
func (p *parser) modifiers() error {
	part := &p.d.Parts[len(p.d.Parts)-1]
	for {
		t := p.peek()
		var err error
		switch {
		case p.take(","):
			if n := p.peek(); n.kind == end || n.text == "," {
				return fail(n, `"rest 30 s", "5 in 5 out" or another word after the comma`)
			}
		case p.take("each", "side"), p.take("per", "side"), p.take("a", "side"), p.take("every", "side"), p.take("both", "sides"):
			err = p.per(EachSide, t)
		case p.take("pairs"), p.take("pair"):
			err = p.per(Pairs, t)
		case p.take("alternating"), p.take("alternate"):
			err = p.per(Alternating, t)
		case p.take("each", "way"), p.take("each", "direction"):
			if part.Kind != Reps && part.Kind != Pulses && part.Kind != Time && part.Kind != Rounds {
				return fail(t, "a count or a time before it")
			}
			part.EachWay = true
		case p.is("each"), p.is("every"):
			return ambiguous(t, []Per{EachSide, Unsaid}, "each side", "each way")
		case p.take("at"):
			err = p.tempo(part)
		case p.is("in") && p.at(2).kind == word && strings.HasPrefix(p.at(2).text, "count"):
			err = p.counts(part)
		case t.kind == number && (p.at(1).text == "in"):
			err = p.breathBeats(part)
		case p.take("rest"):
			err = p.rest()
		default:
			return nil
		}
		if err != nil {
			return err
		}
	}
}

func (p *parser) tempo(part *Part) error {
	t := p.next()
	if part.Kind != Reps || len(part.Tempo) > 0 {
		return fail(t, "one tempo, after repetitions")
	}
	if t.kind == tempo {
		for _, f := range strings.FieldsFunc(t.text, func(r rune) bool { return r == '-' || r == '–' }) {
			n, err := strconv.Atoi(f)
			if err != nil || n < 0 || n > MaxCounts {
				return fail(t, fmt.Sprintf("counts from 0 to %d, as in 2-2 or 3-1-3", MaxCounts))
			}
			part.Tempo = append(part.Tempo, n)
		}
	}
	n := len(part.Tempo)
	if n < 2 || n > 3 || part.Tempo[0] == 0 || part.Tempo[n-1] == 0 {
		part.Tempo = nil
		return fail(t, "counts out and back, as in 2-2 or 3-1-3")
	}
	return nil
}

func (p *parser) counts(part *Part) error {
	p.next()
	t := p.peek()
	n, err := p.count(MaxCounts, "counts")
	if err != nil {
		return err
	}
	p.next()
	if part.Kind != Reps || len(part.Tempo) > 0 {
		return fail(t, "one tempo, after repetitions")
	}
	part.Tempo = []int{n}
	return nil
}

func (p *parser) breathBeats(part *Part) error {
	t := p.peek()
	if (part.Kind != Breaths && part.Kind != Hold) || part.In > 0 || part.Count == 0 {
		return fail(t, `breaths before "5 in 5 out"`)
	}
	in, err := p.count(MaxCounts, "beats in")
	if err != nil {
		return err
	}
	p.next()
	p.take(",")
	out, err := p.count(MaxCounts, "beats out")
	if err != nil {
		return err
	}
	if !p.take("out") {
		return fail(p.peek(), `"out"`)
	}
	part.In, part.Out = in, out
	return nil
}

func (p *parser) rest() error {
	t := p.peek()
	if p.d.Rest > 0 {
		return fail(t, "one rest")
	}
	if t.kind == number && !isUnit(p.at(1)) { // a rest without a unit is always seconds
		n, err := p.count(600, "seconds of rest")
		p.d.Rest = clock.Span(n) * clock.Second
		return err
	}
	s, err := p.span()
	if err != nil {
		return err
	}
	p.d.Rest = s
	return nil
}
