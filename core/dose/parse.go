package dose

import (
	"errors"
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
	"eight": 8, "nine": 9, "ten": 10, "eleven": 11, "twelve": 12, "thirteen": 13, "fourteen": 14, "fifteen": 15, "sixteen": 16,
	"seventeen": 17, "eighteen": 18, "nineteen": 19,
}

type parser struct {
	toks []token
	i    int
	d    Dose
	on   *On // the movement, where it is known
	// where the side words stand, to name the second when two contradict
	perAt token
}

// Parse reads a dose as it is said. On failure the error is an *Error with the column,
// the word and what was expected. An empty text is the zero dose. What could be read
// in two ways is refused with the readings.
func Parse(text string) (Dose, error) { return parse(text, nil) }

// On is what is known of the movement that a dose is of: whether it is done on each side, and in each direction.
type On struct{ Sides, Ways bool }

// Parse reads a dose of that movement: "each" alone is each side or each way where it can be one of them only; of a movement that has neither it says nothing.
func (o On) Parse(text string) (Dose, error) { return parse(text, &o) }

func parse(text string, on *On) (Dose, error) {
	if !utf8.ValidString(text) {
		return Dose{}, &Error{Column: 1, Word: "�", Expected: "text in UTF-8"}
	}
	if n := utf8.RuneCountInString(text); n > MaxText {
		return Dose{}, &Error{Column: MaxText + 1, Word: "…", Expected: fmt.Sprintf("at most %d characters", MaxText)}
	}
	p := &parser{toks: normal(lex(text)), on: on}
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
		comma := p.is(",") && (p.at(1).text == "+" || p.at(1).text == "plus" || p.at(1).text == "then" || p.joins(1))
		if comma {
			p.next()
		}
		if !p.take("+") && !p.take("plus") && !p.take("then") && !comma && !p.is("hold") {
			break
		}
	}
	if t := p.peek(); t.kind != end {
		return fail(t, `"each side", "each way", "at 2-2", "rest 30 s", "+" or the end`)
	}
	return p.settle()
}

// joins tells whether what follows a comma is another part: a hold, or a count that says of what.
func (p *parser) joins(n int) bool {
	switch t := p.at(n); {
	case t.text == "hold" || t.text == "held" || t.text == "holding":
		return true
	case t.kind == number || t.kind == tempo:
		next := p.at(n + 1)
		return isNoun(next.text) || isSpeed(next.text) || next.text == "double" || isUnit(next) && p.at(n+2).text != "rest"
	}
	return false
}

func isNoun(w string) bool {
	return slices.Contains([]string{"reps", "rep", "repetitions", "repetition", "times", "time", "pulses", "pulse", "beats", "breaths", "breath"}, w)
}

func isSpeed(w string) bool { return w == "slow" || w == "fast" || w == "doubletime" }

// settle checks what only the whole dose can tell.
func (p *parser) settle() error {
	d := &p.d
	if d.Rest > 0 && d.Sets < 2 {
		return fail(p.toks[len(p.toks)-1], `sets to rest between, as in "3 x 8, rest 30 s"`)
	}
	if d.Per == Pairs && d.Parts[0].Kind != Reps {
		return fail(p.perAt, `"each side" (pairs count repetitions)`)
	}
	return nil
}

func isTimes(t token) bool { return t.text == "x" || t.text == "×" }

func (p *parser) sets() error {
	if isTimes(p.peek()) && p.at(1).kind == number { // x8
		p.next()
		return nil
	}
	if p.peek().kind != number {
		return nil
	}
	switch by := p.at(2); {
	case p.at(1).text == "sets" && by.text == "of":
	case !isTimes(p.at(1)):
		return nil
	case by.kind == number && p.at(3).text == "sets": // 10 x 3 sets
		p.toks = slices.Clone(p.toks)
		p.toks[p.i], p.toks[p.i+2] = p.toks[p.i+2], p.toks[p.i]
		p.toks = slices.Delete(p.toks, p.i+3, p.i+4)
	case by.kind == end || by.kind == word && (isNoun(by.text) || slices.Contains([]string{"each", "every", "per", "both", "alternating", "alternate", "pairs", "slow", "fast"}, by.text)) || by.text == ",": // 8x
		p.toks = slices.Delete(slices.Clone(p.toks), p.i+1, p.i+2)
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
	if k := p.peek(); k.kind == number && isTimes(p.at(1)) {
		return fail(p.at(1), `one number of sets: "3 x 8"`)
	}
	return nil
}

// amount reads a count or a range of counts: "8", "8 to 10", "8-10".
func (p *parser) amount(limit int, what string) (part Part, err error) {
	t := p.peek()
	if t.kind == tempo {
		lo, hi, ok := twoOf(t.text)
		if !ok || hi > limit {
			return part, fail(p.next(), fmt.Sprintf("a whole number of %s from 1 to %d", what, limit))
		}
		p.next()
		return ranged(t, lo, hi)
	}
	n, err := p.count(limit, what)
	if err != nil || !p.rangeMark() || p.at(1).kind != number {
		return Part{Count: n}, err
	}
	p.next()
	hi, err := p.count(limit, what)
	if err != nil {
		return part, err
	}
	return ranged(t, n, hi)
}

// rangeMark tells whether "to", "or" or a dash stands there.
func (p *parser) rangeMark() bool { return p.is("to") || p.is("or") || p.is("-") || p.is("–") }

// twoOf are the numbers of "8-10".
func twoOf(text string) (lo, hi int, ok bool) {
	f := strings.FieldsFunc(text, func(r rune) bool { return r == '-' || r == '–' })
	if len(f) != 2 {
		return 0, 0, false
	}
	lo, err := strconv.Atoi(f[0])
	hi, err2 := strconv.Atoi(f[1])
	return lo, hi, err == nil && err2 == nil && lo > 0
}

// ranged is a range of counts, whose middle is counted.
func ranged(t token, lo, hi int) (Part, error) {
	if hi <= lo {
		return Part{}, fail(t, `the fewer first, as in "8 to 10"`)
	}
	return Part{Count: (lo + hi + 1) / 2, Least: lo, Most: hi}, nil
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
	case p.take("about"):
		if err := p.part(); err != nil {
			return err
		}
		part := &p.d.Parts[len(p.d.Parts)-1]
		if part.UpTo || part.Kind == AsMany || part.Kind == Rounds {
			return fail(t, "a count or a time after it")
		}
		part.About = true
		return nil
	case p.take("for"):
		if !p.timeAhead() {
			return fail(p.peek(), "a time such as 30 s, 2 min or 1:30")
		}
		return p.time()
	case p.take("hold") || p.take("held") || p.take("holding"):
		return p.hold()
	case p.take("as", "many", "as") || p.take("amrap") || p.take("as", "many", "reps", "as"):
		s, err := p.span()
		if err != nil {
			return err
		}
		return p.add(Part{Kind: AsMany, Span: s})
	case p.take("half", "forward", "half", "back") || p.take("half", "forward", ",", "half", "back") || p.take("halves"):
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
	case p.onOff():
		return nil
	case p.timeAhead():
		return p.time()
	case t.kind == number, t.kind == tempo, t.text == "-" && p.at(1).kind == number:
		return p.counted()
	}
	return fail(t, `a count, a time, "hold", "to", "as many as" or "half forward half back"`)
}

// Of "40/20" and "40 on 20 off" without units: so many seconds they are at least; judgement.
const (
	leastOn  = 15
	leastOff = 5
)

// onOff reads a time on and off that is said without units.
func (p *parser) onOff() bool {
	on, off := p.peek(), p.at(2)
	if on.kind != number || off.kind != number {
		return false
	}
	words := p.at(1).text == "on" && p.at(3).text == "off"
	if !words && (p.at(1).text != "/" || p.at(3).kind == number || isUnit(p.at(3))) {
		return false
	}
	a, err := strconv.Atoi(on.text)
	b, err2 := strconv.Atoi(off.text)
	if err != nil || err2 != nil || a < leastOn || b < leastOff || a > 600 || b > 600 {
		return false
	}
	for range 3 {
		p.next()
	}
	if words {
		p.next()
	}
	p.d.Parts = append(p.d.Parts, Part{Kind: Time, Span: clock.Span(a) * clock.Second, Off: clock.Span(b) * clock.Second})
	return true
}

// timeAhead tells whether a time stands there, or a range of times.
func (p *parser) timeAhead() bool {
	switch t := p.peek(); {
	case t.kind == clockT, (t.kind == number || t.kind == tempo) && isUnit(p.at(1)):
		return true
	case t.kind == number && p.at(2).kind == number && isUnit(p.at(3)):
		return slices.Contains([]string{"to", "or", "-", "–"}, p.at(1).text)
	}
	return false
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
	if err == nil && s%clock.Minute == 0 && t.kind == number && p.peek().kind == number { // 1 min 30
		if more, aerr := strconv.Atoi(p.peek().text); aerr == nil && more < 60 {
			if u, is := clock.Unit(p.at(1).text); is && u == clock.Second || p.at(1).kind == end || p.at(1).text == "," || p.at(1).text == "each" || p.at(1).text == "hold" {
				s += clock.Span(more) * clock.Second
				if p.next(); is {
					p.next()
				}
			}
		}
	}
	if err != nil || s < clock.Second/2 || s > MaxSpan {
		return 0, fail(t, fmt.Sprintf("a time from 0.5 s to %s", MaxSpan.Said()))
	}
	return s, nil
}

// spans reads a time or a range of times: "30 s", "2-5 min", "30 s to 1 min".
func (p *parser) spans() (least, most clock.Span, err error) {
	t := p.peek()
	if lo, hi, ok := twoOf(t.text); t.kind == tempo && ok {
		p.next()
		unit, _ := clock.Unit(p.next().text)
		least, most = clock.Span(lo)*unit, clock.Span(hi)*unit
	} else if t.kind == number && !isUnit(p.at(1)) && p.at(2).kind == number && isUnit(p.at(3)) {
		p.next()
		p.next()
		lo, lerr := strconv.ParseFloat(t.text, 64)
		unit, _ := clock.Unit(p.at(1).text)
		if most, err = p.span(); err != nil || lerr != nil {
			return 0, 0, errors.Join(err, lerr)
		}
		least = clock.Seconds(lo * unit.Seconds())
	} else {
		if least, err = p.span(); err != nil || !p.rangeMark() || p.at(1).kind != clockT && !(p.at(1).kind == number && isUnit(p.at(2))) {
			return least, 0, err
		}
		p.next()
		if most, err = p.span(); err != nil {
			return 0, 0, err
		}
	}
	switch {
	case least < clock.Second/2 || most > MaxSpan:
		return 0, 0, fail(t, fmt.Sprintf("a time from 0.5 s to %s", MaxSpan.Said()))
	case most <= least:
		return 0, 0, fail(t, `the shorter first, as in "20 s to 30 s"`)
	}
	return least, most, nil
}

// usualHold is how long is held where a hold is said without a time, or "a few seconds"; judgement, said back.
const usualHold = 5 * clock.Second

func (p *parser) hold() error {
	last := p.take("last")
	p.take("for")
	t := p.peek()
	switch {
	case (t.kind == number || t.kind == tempo) && p.breathsAhead():
		part, err := p.amount(MaxBreaths, "breaths")
		if err != nil {
			return err
		}
		p.next()
		part.Kind = Hold
		return p.add(part)
	case t.kind == number && (p.at(1).text == "counts" || p.at(1).text == "count"):
		n, err := p.count(MaxCounts, "counts")
		p.next()
		if err != nil {
			return err
		}
		return p.add(Part{Kind: Hold, Counts: n})
	case p.timeAhead():
		s, most, err := p.spans()
		if err != nil {
			return err
		}
		return p.add(Part{Kind: Hold, Span: s, MostSpan: most})
	case t.kind == number: // a hold is in seconds
		n, err := strconv.ParseFloat(t.text, 64)
		s := clock.Seconds(n)
		if err != nil || s < clock.Second/2 || s > MaxSpan {
			return fail(t, fmt.Sprintf("a time from 0.5 s to %s", MaxSpan.Said()))
		}
		p.next()
		return p.add(Part{Kind: Hold, Span: s})
	case last, len(p.d.Parts) > 0 && (t.kind == end || t.text == "," || t.text == "+" || t.text == "then"):
		return p.add(Part{Kind: Hold, Span: usualHold})
	}
	_, err := p.span()
	return err
}

// breathsAhead tells whether breaths are counted there.
func (p *parser) breathsAhead() bool {
	for _, n := range []int{1, 3} {
		if t := p.at(n); (t.text == "breaths" || t.text == "breath") && (n == 1 || slices.Contains([]string{"to", "or", "-", "–"}, p.at(1).text)) {
			return true
		}
	}
	return false
}

func (p *parser) time() error {
	s, most, err := p.spans()
	if err != nil {
		return err
	}
	part := Part{Kind: Time, Span: s, MostSpan: most}
	switch {
	case p.is("on") && most == 0 && p.take("on"):
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
	if p.breathsAhead() {
		limit, what = MaxBreaths, "breaths"
	}
	if (unit == "sets" || unit == "set") && p.at(2).text != "of" {
		return ambiguous(p.at(1), []Per{Pairs, Unsaid}, num.raw+" pairs (right and left once each)", num.raw+" x a count (that many sets)")
	}
	part, err := p.amount(limit, what)
	if err != nil {
		return err
	}
	for p.speed(&part) {
	}
	switch t := p.peek(); t.text {
	case "reps", "rep", "repetitions", "repetition", "times", "time":
		p.next()
		return p.add(part)
	case "pulses", "pulse", "beats":
		p.next()
		part.Kind = Pulses
		return p.add(part)
	case "breaths", "breath":
		if part.Speed != AsUsual || part.Double {
			return fail(t, "repetitions or pulses")
		}
		p.next()
		part.Kind = Breaths
		return p.add(part)
	case "rounds", "round":
		if part.Count > MaxSets || part.Most > 0 {
			return fail(num, fmt.Sprintf("a whole number of rounds from 1 to %d", MaxSets))
		}
		p.next()
		return p.add(Part{Kind: Rounds, Count: part.Count})
	}
	return p.add(part)
}

// speed reads how fast repetitions are done, or that each has two beats; false where nothing of that stands there.
func (p *parser) speed(part *Part) bool {
	switch {
	case part.Kind != Reps && part.Kind != Pulses:
		return false
	case p.is("double") && !part.Double:
		part.Double = true
	case isSpeed(p.peek().text) && part.Speed == AsUsual:
		part.Speed = map[string]Speed{"slow": Slow, "fast": Fast, "doubletime": DoubleTime}[p.peek().text]
	default:
		return false
	}
	p.next()
	return true
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
		case p.heldEach(part, &err):
		case p.is(",") && (p.at(1).text == "then" || p.at(1).text == "+" || p.at(1).text == "plus" || p.joins(1)):
			return nil
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
			if part.Kind != Reps && part.Kind != Pulses && part.Kind != Time && part.Kind != Rounds || part.Other > 0 {
				return fail(t, "a count or a time before it")
			}
			part.EachWay = true
		case p.take("halves"):
			if part.Kind != Time || part.Off > 0 {
				return fail(t, "a time before it, as in 45 s half each way")
			}
			part.Halves = true
		case p.is("one", "way") && part.Kind == Reps && !part.EachWay && part.Other == 0:
			err = p.other(part)
		case p.is("each"), p.is("every"):
			if err = p.eachAlone(t, part); err != nil {
				return err
			}
		case p.take("at"):
			err = p.tempo(part)
		case p.is("in") && p.at(2).kind == word && strings.HasPrefix(p.at(2).text, "count"):
			err = p.counts(part)
		case t.kind == number && p.upDown(part, &err):
		case t.kind == number && (p.at(1).text == "in"):
			err = p.breathBeats(part)
		case t.kind == number && (p.at(1).text == "sets" || p.at(1).text == "set") && p.d.Sets == 0 && p.at(2).text != "of", isTimes(t) && p.at(1).kind == number && p.d.Sets == 0:
			if isTimes(t) {
				p.next()
			}
			p.d.Sets, err = p.count(MaxSets, "sets")
			if !p.take("sets") {
				p.take("set")
			}
			if p.d.Sets == 1 {
				p.d.Sets = 0
			}
		case p.take("rest"):
			err = p.rest()
		case p.speed(part):
			if part.Double && !p.take("reps") && !p.take("beats") {
				p.take("pulses")
			}
		default:
			return nil
		}
		if err != nil {
			return err
		}
	}
}

// eachAlone reads "each" where nobody says each what.
func (p *parser) eachAlone(t token, part *Part) error {
	if p.on == nil || p.on.Sides && p.on.Ways {
		return ambiguous(t, []Per{EachSide, Unsaid}, "each side", "each way")
	}
	p.next()
	switch {
	case p.on.Sides:
		return p.per(EachSide, t)
	case p.on.Ways && (part.Kind == Reps || part.Kind == Pulses || part.Kind == Time):
		part.EachWay = true
	}
	return nil
}

// other reads "3 one way, 4 the other".
func (p *parser) other(part *Part) error {
	p.take("one", "way")
	p.take(",")
	if !p.take("then") {
		p.take("and")
	}
	n, err := p.count(MaxReps, "repetitions")
	if err != nil {
		return err
	}
	if !p.take("the", "other") {
		return fail(p.peek(), `"the other"`)
	}
	if n == part.Count {
		part.EachWay = true
	} else {
		part.Other = n
	}
	return nil
}

// heldEach reads a hold in every repetition: "hold 5 s each", "hold each 3 s", "holding 3 s".
func (p *parser) heldEach(part *Part, err *error) bool {
	n := 0
	if p.is(",") {
		n = 1
	}
	if part.Kind != Reps || part.HoldEach > 0 {
		return false
	}
	switch hold := p.at(n).text; {
	case hold == "holding":
	case hold != "hold":
		return false
	case p.at(n+1).text == "each": // hold each 3 s
		p.i += n + 1
		p.toks = slices.Clone(p.toks)
		p.toks[p.i].text = "holding"
		n = 0
	default:
		k := n + 1
		for p.at(k).kind == number || p.at(k).kind == clockT || isUnit(p.at(k)) || p.at(k).text == "for" {
			k++
		}
		if k == n+1 || p.at(k).text != "each" || p.at(k+1).text == "side" || p.at(k+1).text == "way" || p.at(k+1).text == "direction" {
			return false
		}
		p.toks = slices.Delete(slices.Clone(p.toks), p.i+k, p.i+k+1)
	}
	p.i += n + 1
	p.take("for")
	if t := p.peek(); t.kind == number && !isUnit(p.at(1)) {
		p.toks = slices.Insert(slices.Clone(p.toks), p.i+1, token{word, "s", "s", t.col})
	}
	part.HoldEach, *err = p.span()
	if *err == nil && part.HoldEach > longestEach {
		*err = fail(p.peek(), fmt.Sprintf("at most %s in each repetition", longestEach.Said()))
	}
	return true
}

// longestEach is how long each repetition may be held; judgement.
const longestEach = clock.Minute

// upDown reads "8 up 8 down", "4 up 2 hold 4 down", "3 counts up 3 counts down"; false where it does not stand there.
func (p *parser) upDown(part *Part, err *error) bool {
	if part.Kind != Reps || len(part.Tempo) > 0 {
		return false
	}
	var found []int
	k := 0
	for _, ends := range [][]string{{"up", "out"}, {"hold"}, {"down", "back"}} {
		from := k
		if p.at(k).text == "," {
			k++
		}
		n, aerr := strconv.Atoi(p.at(k).text)
		k++
		if p.at(k).text == "counts" || p.at(k).text == "count" {
			k++
		}
		if aerr != nil || !slices.Contains(ends, p.at(k).text) {
			if ends[0] == "hold" {
				k = from
				continue
			}
			return false
		}
		k++
		if n < 0 || n > MaxCounts || n == 0 && ends[0] != "hold" {
			*err = fail(p.at(from), fmt.Sprintf("counts from 1 to %d, as in 8 up 8 down", MaxCounts))
			return true
		}
		found = append(found, n)
	}
	part.Tempo = found
	p.i += k
	return true
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

// restBreath is a breath at rest (common practice, no source).
const restBreath = 8 * clock.Second

func (p *parser) rest() error {
	t := p.peek()
	if p.d.Rest > 0 {
		return fail(t, "one rest")
	}
	if t.kind == number && (p.at(1).text == "breaths" || p.at(1).text == "breath") {
		n, err := p.count(MaxBreaths, "breaths")
		p.next()
		if p.d.Rest = clock.Span(n) * restBreath; p.d.Rest > MaxSpan {
			return fail(t, fmt.Sprintf("a rest of up to %s", MaxSpan.Said()))
		}
		return err
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
