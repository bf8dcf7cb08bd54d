package dose

import (
	"slices"
	"strconv"
	"strings"
)

// What teachers say in other words than the parser's. Each line reads: what is said = what is meant; # is any number, which keeps its place. The longest
// that fits is taken, from left to right. Common practice, no source.
const phrasebook = `
once = 1 reps
twice = 2 reps
a couple of = 2
a few breaths = 3 breaths
a few seconds = 5 s
a few = 3
half a minute = 30 s
a minute = 60 s
one minute = 60 s
a hundred = 100
one hundred = 100
a breath = 1 breaths
a # = #
each leg = each side
each arm = each side
each foot = each side
each hand = each side
each hip = each side
each knee = each side
each shoulder = each side
per leg = each side
per arm = each side
per foot = each side
per hand = each side
a leg = each side
an arm = each side
on each side = each side
on each leg = each side
on each arm = each side
on both sides = each side
for each side = each side
for each leg = each side
ea side = each side
ea = each
e / s = each side
e / w = each way
x # sets of = # sets of
p / s = each side
/ side = each side
/ leg = each side
/ arm = each side
in each direction = each way
in both directions = each way
both ways = each way
both directions = each way
per direction = each way
half each way = halves
half in each direction = halves
half one way half the other = halves
right and left = pairs
left and right = pairs
alternating sides = alternating
alternating legs = alternating
alternating arms = alternating
alternate sides = alternating
alternate legs = alternating
with alternating legs = alternating
little pulses = pulses
small pulses = pulses
tiny pulses = pulses
long breaths = breaths
deep breaths = breaths
slow breaths = breaths
full breaths = breaths
big breaths = breaths
long breath = breaths
deep breath = breaths
goes = reps
kicks = reps
steps = reps
switches = reps
lifts = reps
circles = reps
taps = reps
presses = reps
swings = reps
dips = reps
pulls = reps
pull = reps
ca . = about
approx . = about
approx = about
approximately = about
around = about
roughly = about
some = about
~ = about
slowly = slow
quick = fast
quickly = fast
at double time = doubletime
in double time = doubletime
double time = doubletime
double tempo = doubletime
hold here = hold
hold it = hold
hold there = hold
stay here = hold
stay there = hold
stay = hold
keep = hold
a count of # = # counts
hold the last one = hold last
hold the last = hold last
hold last one = hold last
on / = on ,
with a # second hold = holding # s
with a # s hold = holding # s
with # s rest between = rest # s
# s rest between = rest # s
# s rest = rest # s
# sec rest = rest # s
# seconds rest = rest # s
# min rest = rest # min
with rest = rest
sets x = x
sets × = x
rounds of = x
to the other side = the other
the other way = the other
the other side = the other
in the other direction = the other
in the other = the other
in one direction = one way
# back # forward = # one way # the other
# back and # forward = # one way # the other
# backward # forward = # one way # the other
# backwards # forwards = # one way # the other
# forward # back = # one way # the other
# forwards # backwards = # one way # the other
# front # back = # one way # the other
# clockwise # anticlockwise = # one way # the other
one direction = one way
and hold = then hold
`

// phrase is a line of the phrasebook.
type phrase struct{ said, meant []string }

// phrases are the lines, the longest first.
var phrases = func() (out []phrase) {
	for line := range strings.Lines(phrasebook) {
		said, meant, ok := strings.Cut(strings.TrimSpace(line), " = ")
		if ok {
			out = append(out, phrase{strings.Fields(said), strings.Fields(meant)})
		}
	}
	slices.SortStableFunc(out, func(a, b phrase) int { return len(b.said) - len(a.said) })
	return out
}()

// byFirst finds the phrases that begin with a word.
var byFirst = func() map[string][]phrase {
	out := map[string][]phrase{}
	for _, p := range phrases {
		out[p.said[0]] = append(out[p.said[0]], p)
	}
	return out
}()

// vocabulary are the words that a dose may have, for slips of the pen.
var vocabulary = func() (out []string) {
	words := strings.Fields(`x sets set of rep reps repetition repetitions time times pulse pulses beats breath breaths round rounds hold held holding each every per side sides both way direction
		pairs pair alternating alternate at in out counts count rest as many amrap half forward back to up plus then on off for and last slow fast double about with the other one down seconds second minutes minute`)
	for w := range spelled {
		out = append(out, w)
	}
	for _, p := range phrases {
		out = append(out, p.said...)
	}
	out = append(out, words...)
	slices.Sort(out)
	return slices.DeleteFunc(slices.Compact(out), func(w string) bool { return w == "#" || len(w) == 0 || !isLetter(w) })
}()

func isLetter(w string) bool { return w[0] >= 'a' && w[0] <= 'z' }

// tens and the rest of the numbers that are said as words.
var tens = map[string]int{"twenty": 20, "thirty": 30, "forty": 40, "fifty": 50, "sixty": 60, "seventy": 70, "eighty": 80, "ninety": 90}

// numberWord is a number said as a word.
func numberWord(w string) (int, bool) {
	if n, ok := spelled[w]; ok {
		return n, true
	}
	n, ok := tens[w]
	return n, ok
}

// normal rewrites what was said into the parser's words; columns stay those of what was typed.
func normal(toks []token) []token {
	return phrased(numbered(spelling(marks(toks))))
}

// marks takes out quotes, brackets around the whole and a full stop at the end, and reads 30" and 2' as times.
func marks(in []token) (out []token) {
	for i := 0; i < len(in); i++ {
		t := in[i]
		after := i > 0 && in[i-1].kind == number && in[i-1].col+len([]rune(in[i-1].raw)) == t.col
		switch {
		case strings.ContainsRune(`"”″`, first(t.raw)) && after:
			out = append(out, token{word, "s", t.raw, t.col})
		case strings.ContainsRune(`'’′`, first(t.raw)) && t.kind == symbol && after:
			if i+1 < len(in) && in[i+1].kind == number { // 1'30"
				last := &out[len(out)-1]
				if i+2 < len(in) && strings.ContainsRune(`"”″`, first(in[i+2].raw)) && len(in[i+1].text) == 2 {
					*last = token{clockT, last.text + ":" + in[i+1].text, last.raw + t.raw + in[i+1].raw, last.col}
					i += 2
					continue
				}
			}
			out = append(out, token{word, "min", t.raw, t.col})
		case strings.ContainsRune(`"“”„«»'‘’`, first(t.raw)) && t.kind == symbol:
		case t.text == "(" && i == 0 && len(in) > 2 && in[len(in)-2].text == ")":
		case t.text == ")" && i == len(in)-2 && in[0].text == "(":
		case (t.text == "." || t.text == "!" || t.text == ";") && i == len(in)-2:
		case t.text == "-" && i > 0 && i+1 < len(in) && in[i-1].kind == word && in[i+1].kind == word: // each-side
		default:
			out = append(out, t)
		}
	}
	return out
}

func first(s string) rune {
	for _, r := range s {
		return r
	}
	return 0
}

// spelling mends words that are no words of a dose where one alone is near: one slip up to five letters, two beyond.
func spelling(in []token) []token {
	out := slices.Clone(in)
	for i := range out {
		t := &out[i]
		if t.kind != word || len(t.text) < 4 {
			continue
		}
		if _, known := slices.BinarySearch(vocabulary, t.text); known || isUnit(*t) {
			continue
		}
		if _, ok := numberWord(t.text); ok {
			continue
		}
		if w, ok := Nearest(t.text, vocabulary); ok {
			t.text = w
		}
	}
	return out
}

// Nearest finds the word of a list that a mistyped one was meant to be: one slip (a letter more, fewer, another, or two changed round) in words of up to
// five letters, two beyond; ok is false where none is that near, or two are.
func Nearest(typed string, words []string) (string, bool) {
	most := 1
	if len([]rune(typed)) > 5 {
		most = 2
	}
	best, found, twice := most+1, "", false
	for _, w := range words {
		if len(w) < 4 {
			continue
		}
		switch d := slips(typed, w, best); {
		case d < best:
			best, found, twice = d, w, false
		case d == best && w != found && best <= most:
			twice = true
		}
	}
	return found, best <= most && !twice
}

// slips counts the slips between two words (optimal string alignment), at least one more than most where there are more.
func slips(a, b string, most int) int {
	x, y := []rune(a), []rune(b)
	if d := len(x) - len(y); d > most || -d > most {
		return most + 1
	}
	rows := [3][]int{make([]int, len(y)+1), make([]int, len(y)+1), make([]int, len(y)+1)}
	for j := range rows[1] {
		rows[1][j] = j
	}
	for i := 1; i <= len(x); i++ {
		before, prev, cur := rows[0], rows[1], rows[2]
		cur[0] = i
		for j := 1; j <= len(y); j++ {
			cost := 1
			if x[i-1] == y[j-1] {
				cost = 0
			}
			cur[j] = min(prev[j]+1, cur[j-1]+1, prev[j-1]+cost)
			if i > 1 && j > 1 && x[i-1] == y[j-2] && x[i-2] == y[j-1] {
				cur[j] = min(cur[j], before[j-2]+1)
			}
		}
		rows[0], rows[1], rows[2] = prev, cur, before
	}
	return rows[1][len(y)]
}

// numbered writes numbers that are said as words in digits, and "1 1/2" as 1.5.
func numbered(in []token) (out []token) {
	for i := 0; i < len(in); i++ {
		t := in[i]
		if t.kind == word {
			if n, ok := tens[t.text]; ok {
				if one, more := spelled[in[min(i+1, len(in)-1)].text]; more && one < 10 && n >= 20 {
					out = append(out, token{number, strconv.Itoa(n + one), t.raw + " " + in[i+1].raw, t.col})
					i++
					continue
				}
			}
			if n, ok := numberWord(t.text); ok && !(t.text == "one" && slices.Contains([]string{"way", "direction", "hundred", "minute"}, in[min(i+1, len(in)-1)].text)) && !(t.text == "one" && i > 0 && (in[i-1].text == "last" || in[i-1].text == "in")) {
				out = append(out, token{number, strconv.Itoa(n), t.raw, t.col})
				continue
			}
		}
		if t.kind == number && i+3 < len(in) && in[i+1].text == "1" && in[i+2].text == "/" && in[i+3].text == "2" {
			out = append(out, token{number, t.text + ".5", t.raw, t.col})
			i += 3
			continue
		}
		out = append(out, t)
	}
	return out
}

// phrased says phrases of the book in the parser's words.
func phrased(in []token) (out []token) {
	for i := 0; i < len(in); {
		before := ""
		if len(out) > 0 {
			before = out[len(out)-1].text
		}
		p, ok := fits(in[i:], before)
		if !ok {
			out = append(out, in[i])
			i++
			continue
		}
		var nums []token
		for k := range p.said {
			if p.said[k] == "#" {
				nums = append(nums, in[i+k])
			}
		}
		for _, w := range p.meant {
			switch {
			case w == "#":
				out = append(out, nums[0])
				nums = nums[1:]
			case w[0] >= '0' && w[0] <= '9':
				out = append(out, token{number, w, in[i].raw, in[i].col})
			case w == ",":
				out = append(out, token{symbol, w, w, in[i].col})
			default:
				out = append(out, token{word, w, in[i].raw, in[i].col})
			}
		}
		i += len(p.said)
	}
	return out
}

// fits finds the phrase with which tokens begin, behind a word.
func fits(in []token, before string) (phrase, bool) {
	lists := [2][]phrase{byFirst[in[0].text]}
	if in[0].kind == number {
		lists[1] = byFirst["#"]
	}
	for _, list := range lists {
		for _, p := range list {
			ok := len(p.said) <= len(in) && !(before == "rest" && slices.Contains(p.said, "rest"))
			for k := 0; ok && k < len(p.said); k++ {
				ok = p.said[k] == in[k].text || p.said[k] == "#" && in[k].kind == number
			}
			if ok {
				return p, true
			}
		}
	}
	return phrase{}, false
}
