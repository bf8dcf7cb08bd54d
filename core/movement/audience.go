package movement

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"sync"
)

// Audience is whom a class is for: one of the constants, or several at once. The zero value says nothing.
type Audience uint16

// The audiences. Expecting is said where it is not known how far: then the table of cautions takes them to be past the first
// third.
const (
	Mixed Audience = 1 << iota
	Beginners
	Able
	Older
	StandingOnly
	Expecting
	ExpectingFirst
	ExpectingSecond
	ExpectingLast
	SinceBirth
	LowBone

	// AnyExpecting are all who expect.
	AnyExpecting = Expecting | ExpectingFirst | ExpectingSecond | ExpectingLast
)

// audienceKind is one audience: its word, those that teachers use for it, and what follows from it.
type audienceKind struct {
	is     Audience
	name   string
	called string // in a sentence
	words  string // whole words, as a regular expression
	topics []Topic
	most   float64 // highest demand that the library fills a class with; judgement
}

// audienceKinds are the audiences in the order in which they are said (the words: common practice, no source).
var audienceKinds = []audienceKind{
	{Mixed, "mixed", "a mixed class", `mixed(?:[ -](?:level|ability))?|everyone|everybody|anyone|anybody|all(?: levels?| abilities)?|open(?: level)?|general`, nil, 7},
	{Beginners, "beginners", "beginners", `(?:absolute |complete )?beginners?|newcomers?|new(?: ones)?|first[ -]timers?|novices?|starters?|never done it`, nil, 4.5},
	{Able, "able", "able people", `able|experienced|advanced|intermediates?|improvers?|fit|athletes?|runners?|dancers?`, nil, 10},
	{Older, "older", "older people", `older(?: adults?| movers?)?|seniors?|elderly|retired|pensioners?|(?:over|from|above)[ -]?(?:50|55|60|65|70|75|80|fifty|sixty|seventy|eighty|fifties|sixties|seventies|eighties)s?|(?:50|55|60|65|70|75|80|fifty|sixty|seventy|eighty) ?(?:\+|plus|and (?:over|up|above|older))`, nil, 5.5},
	{StandingOnly, "standing only", "people who stay standing", `(?:standing|seated|sitting|chairs?)(?: only| class)?|on (?:a |the )?chairs?|(?:cannot|can't|can not) get (?:down )?(?:to|onto) the floor|no floor(?: work)?|off the floor`, []Topic{NoFloor}, 5},
	{Expecting, "expecting", "people who expect", `expecting|expectant|pregnan(?:t|cy)|pre-?natal|ante-?natal|mothers[ -]to[ -]be|mums[ -]to[ -]be`, []Topic{Expecting2}, 4.5},
	{ExpectingFirst, "expecting first third", "people who expect, first third", "", []Topic{Expecting1}, 4.5},
	{ExpectingSecond, "expecting second third", "people who expect, second third", "", []Topic{Expecting2}, 4.5},
	{ExpectingLast, "expecting last third", "people who expect, last third", "", []Topic{Expecting3}, 4.5},
	{SinceBirth, "after birth", "people who have given birth", `after (?:the |giving )?birth|post-?(?:natal|partum)|new (?:mothers?|mums?|moms?)|(?:mothers?|mums?|moms?) (?:and|with) bab(?:y|ies)`, []Topic{AfterBirth}, 4.5},
	{LowBone, "low bone density", "low bone density", `(?:low )?bone density|osteopor\w+|osteopen\w+|brittle bones|thin bones|bones`, []Topic{Bones}, 5.5},
}

// audienceFill are words beside those that say who it is.
const audienceFill = `(?:a|an|the|for|people|persons?|adults?|women|ladies|men|movers?|members|group|class|those|who|are|is|have|has|with|in|of|their|his|her|and|or|also|some)\b|[\s,;/&+.()-]+`

var audienceRead = sync.OnceValue(func() (read struct {
	kinds []*regexp.Regexp
	third *regexp.Regexp
	fill  *regexp.Regexp
	word  *regexp.Regexp
},
) {
	const end = `(?:$|[^\p{L}\p{N}])`
	for _, k := range audienceKinds {
		read.kinds = append(read.kinds, regexp.MustCompile(`^(`+k.words+`)`+end))
	}
	read.third = regexp.MustCompile(`^((first|1st|second|2nd|last|third|3rd) (?:third|trimester)|(\d{1,2}) weeks?)` + end)
	read.fill = regexp.MustCompile(`^(?:` + audienceFill + `)`)
	read.word = regexp.MustCompile(`^[^\s,;/&+()]+`)
	return read
})

// AudienceNames lists the word of every audience.
func AudienceNames() (out []string) {
	for _, k := range audienceKinds {
		out = append(out, k.name)
	}
	return out
}

// Audiences lists every audience on its own.
func Audiences() (out []Audience) {
	for _, k := range audienceKinds {
		out = append(out, k.is)
	}
	return out
}

// Has tells whether one of some audiences is among those of a class.
func (a Audience) Has(any Audience) bool { return a&any != 0 }

// Each lists the audiences of a class one by one.
func (a Audience) Each() (out []Audience) {
	for _, k := range audienceKinds {
		if a.Has(k.is) {
			out = append(out, k.is)
		}
	}
	return out
}

// String is how it is written: "older, low bone density"; empty where nothing is said.
func (a Audience) String() string {
	var out []string
	for _, k := range audienceKinds {
		if a.Has(k.is) {
			out = append(out, k.name)
		}
	}
	return strings.Join(out, ", ")
}

// MarshalText writes the words.
func (a Audience) MarshalText() ([]byte, error) { return []byte(a.String()), nil }

// UnmarshalText reads them, see ReadAudience.
func (a *Audience) UnmarshalText(b []byte) (err error) {
	*a, err = ReadAudience(string(b))
	return err
}

// Topics are what all of an audience watch: nobody in the class is asked for it apart.
func (a Audience) Topics() (out []Topic) {
	for _, k := range audienceKinds {
		for _, t := range k.topics {
			if a.Has(k.is) && !slices.Contains(out, t) {
				out = append(out, t)
			}
		}
	}
	return out
}

// Most is the highest demand that the library fills a class with for an audience.
func (a Audience) Most() float64 {
	most := 10.0
	for _, k := range audienceKinds {
		if a.Has(k.is) {
			most = min(most, k.most)
		}
	}
	return most
}

// Whose are the audiences of a class that watch a topic.
func (a Audience) Whose(t Topic) (out Audience) {
	for _, k := range audienceKinds {
		if a.Has(k.is) && slices.Contains(k.topics, t) {
			out |= k.is
		}
	}
	return out
}

// Called is an audience in a sentence: "older people and low bone density".
func (a Audience) Called() string {
	var out []string
	for _, k := range audienceKinds {
		if a.Has(k.is) {
			out = append(out, k.called)
		}
	}
	return strings.Join(out, " and ")
}

// ErrBothWays says that beginners and able people are not one class.
var ErrBothWays = errors.New("beginners and able people in one class are a mixed one: say mixed")

// ReadAudience reads whom a class is for in the words that teachers use: "seniors", "prenatal, second trimester",
// "over 60 with osteoporosis". How far somebody is who expects is said in thirds or weeks. What cannot be read is an error
// that names it and lists what can.
func ReadAudience(text string) (a Audience, err error) {
	read := audienceRead()
	rest := strings.ToLower(strings.NewReplacer("’", "'", "\u00a0", " ").Replace(text))
	weeks := false
	for rest != "" {
		best, by := 0, Audience(0) // the longest: "new mothers" are no newcomers
		for i, r := range read.kinds {
			if audienceKinds[i].words == "" {
				continue
			}
			if m := r.FindStringSubmatch(rest); m != nil && len(m[1]) > best {
				best, by = len(m[1]), audienceKinds[i].is
			}
		}
		if best > 0 {
			a |= by
			rest = rest[best:]
			continue
		}
		if m := read.third.FindStringSubmatch(rest); m != nil {
			third := thirdOf(m[2], m[3])
			if third == 0 {
				return 0, unknownAudience(m[1])
			}
			a |= third
			weeks = weeks || m[3] != ""
			rest = rest[len(m[1]):]
			continue
		}
		if m := read.fill.FindString(rest); m != "" {
			rest = rest[len(m):]
			continue
		}
		return 0, unknownAudience(read.word.FindString(rest))
	}
	if a.Has(ExpectingFirst | ExpectingSecond | ExpectingLast) {
		if weeks && a.Has(SinceBirth) && !a.Has(Expecting) { // "8 weeks after birth"
			a &^= AnyExpecting
		}
		a &^= Expecting // it is said how far
	}
	if a.Has(Beginners) && a.Has(Able) {
		return 0, ErrBothWays
	}
	if a == 0 && strings.TrimSpace(text) != "" {
		return 0, unknownAudience(strings.TrimSpace(text))
	}
	return a, nil
}

// thirdOf is which third of a pregnancy is said, in words or in weeks.
func thirdOf(word, weeks string) Audience {
	switch word {
	case "first", "1st":
		return ExpectingFirst
	case "second", "2nd":
		return ExpectingSecond
	case "last", "third", "3rd":
		return ExpectingLast
	}
	switch t := thirdAt(weeks); t {
	case Expecting1:
		return ExpectingFirst
	case Expecting2:
		return ExpectingSecond
	case Expecting3:
		return ExpectingLast
	}
	return 0
}

// mostOfWord is how much of an unknown word is shown.
const mostOfWord = 40

func unknownAudience(word string) error {
	if r := []rune(word); len(r) > mostOfWord {
		word = string(r[:mostOfWord]) + "…"
	}
	return fmt.Errorf("%q: expected one or more of %s; or nothing", word, strings.Join(AudienceNames(), ", "))
}

// Suits tells whether level n fits an audience, every one of them: the usual cautions of the trade (common practice), and
// a highest demand (judgement). It is a teaching aid: whoever treats a mover decides.
func (m *Movement) Suits(n int, a Audience) bool {
	if m.At(n).Demand > a.Most() {
		return false
	}
	if a.Has(Expecting) && m.Spared(n, Pregnancy) { // how far is not known
		return false
	}
	if a.Has(Older) && m.NotForOlder(n) {
		return false
	}
	return !slices.ContainsFunc(a.Topics(), func(t Topic) bool { return m.Spared(n, t) })
}

// NotForOlder tells whether level n is left out for older people whatever it demands: it rolls over the spine, or lands (common
// practice).
func (m *Movement) NotForOlder(n int) bool { return m.Has(n, Rolling) || m.Has(n, Lands) }

// Gentlest is the first level that suits an audience; ok is false when none does.
func (m *Movement) Gentlest(a Audience) (n int, ok bool) {
	for n := range m.Levels {
		if m.Suits(n+1, a) {
			return n + 1, true
		}
	}
	return 0, false
}
