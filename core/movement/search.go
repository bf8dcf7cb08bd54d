package movement

import (
	"maps"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"wavekine/core/dose"
)

// fold puts words into one form: without accents and case, single spaces, hyphens as spaces, no leading "the".
func fold(s string) string {
	f := strings.Fields(strings.Map(func(r rune) rune {
		switch {
		case r == '-' || r == ',' || r == '\'':
			return ' '
		case unicode.Is(unicode.Mn, r): // an accent that has been parted from its letter
			return -1
		}
		return unicode.ToLower(r)
	}, norm.NFKD.String(s)))
	if len(f) > 1 && f[0] == "the" {
		f = f[1:]
	}
	return strings.Join(f, " ")
}

// index prepares what the search compares, once for each movement.
func (m *Movement) index() {
	m.names = m.names[:0]
	for _, n := range append([]string{m.Name}, m.Also...) {
		m.names = append(m.names, fold(n))
	}
	m.stems, m.words = nil, nil
	for _, n := range m.names {
		m.stems, m.words = append(m.stems, stems(n)), append(m.words, strings.Fields(n))
	}
	var kit []string
	for i := range m.Levels {
		kit = append(kit, m.Things(i+1)...)
	}
	var spine []string
	for _, d := range m.Spine {
		spine = append(spine, string(d))
	}
	words := slices.Concat(slices.Sorted(maps.Keys(m.Regions)), []string{m.Posture.String(), m.Phase}, kit, spine)
	m.body = strings.Fields(fold(strings.Join(words, " ")))
	m.search = append(strings.Fields(fold(strings.Join(append([]string{m.Name, m.Purpose}, m.Also...), " "))), m.body...)
}

// Query is what is looked for. The zero value finds all.
type Query struct {
	Words     string
	Phase     string // one of Phases
	Region    string // one of Regions, worked at least a little
	Direction Direction
	Kit       string    // "none" for nothing besides a mat
	Postures  []Posture // any of these
	Most      float64   // has a level of at most this demand; 0: any
	Kind      []Topic   // has a level that does not call for care of these
	For       Audience  // has a level that suits
}

// kindWords are the topics as they are said after "kind to".
var kindWords = map[string]Topic{
	"wrists": Wrists, "wrist": Wrists, "hands": Wrists, "neck": Neck, "back": LowBack, "low back": LowBack, "shoulders": Shoulder, "shoulder": Shoulder,
	"knees": Knees, "knee": Knees, "bones": Bones, "bumps": Pregnancy, "pregnancy": Pregnancy, "ears": Vertigo,
}

// KindTopics lists the topics the search can be kind to, with the word for each.
func KindTopics() map[string]Topic {
	return map[string]Topic{"wrists": Wrists, "neck": Neck, "low back": LowBack, "shoulders": Shoulder, "knees": Knees, "bones": Bones, "pregnancy": Pregnancy, "vertigo": Vertigo}
}

// takeKind reads "kind to wrists" and "kind to wrists and knees" out of the words.
func (q *Query) takeKind() {
	folded := fold(q.Words)
	before, after, ok := strings.Cut(folded+" ", "kind to ")
	if !ok {
		q.Words = folded
		return
	}
	var rest []string
	words := strings.Fields(after)
	for i := 0; i < len(words); i++ {
		two := strings.Join(words[i:min(i+2, len(words))], " ")
		switch {
		case kindWords[two] != "":
			q.Kind = append(q.Kind, kindWords[two])
			i++
		case kindWords[words[i]] != "":
			q.Kind = append(q.Kind, kindWords[words[i]])
		case words[i] != "and" && words[i] != "the":
			rest = append(rest, words[i])
		}
	}
	q.Words = strings.TrimSpace(before + strings.Join(rest, " "))
}

// fits tells whether a movement passes everything but the words.
func (q *Query) fits(m *Movement) bool {
	switch {
	case q.Phase != "" && m.Phase != q.Phase,
		q.Region != "" && m.Regions[q.Region] <= 0,
		q.Direction != "" && !m.Bends(q.Direction),
		len(q.Postures) > 0 && !slices.Contains(q.Postures, m.Posture):
		return false
	}
	if q.Most == 0 && len(q.Kind) == 0 && q.For == 0 && q.Kit == "" {
		return true
	}
	for n := 1; n <= len(m.Levels); n++ {
		if q.Most > 0 && m.At(n).Demand > q.Most || q.For != 0 && !m.Suits(n, q.For) {
			continue
		}
		things := m.Things(n)
		if q.Kit == "none" && len(things) > 0 || q.Kit != "" && q.Kit != "none" && !slices.Contains(things, q.Kit) {
			continue
		}
		if slices.ContainsFunc(q.Kind, func(t Topic) bool { return m.Watches(n, t) }) {
			continue
		}
		return true
	}
	return false
}

// headsNamed lists the heads of families of which a name is what was typed, or the half of it at least: all their versions
// are found with them.
func (l *Library) headsNamed(words []string) (out []*Movement) {
	q := strings.Join(words, " ")
	if len(q) < 3 {
		return nil
	}
	for _, m := range l.all {
		if !l.heads[m] {
			continue
		}
		if slices.ContainsFunc(m.names, func(n string) bool { return strings.HasPrefix(n, q) && 2*len(q) >= len(n) }) {
			out = append(out, m)
		}
	}
	return out
}

// Search ranks movements for words being typed: whole name, start of a name, start of every
// word, the versions of what is named, then anywhere. An empty query gives all. Cost grows with movements x words.
func (l *Library) Search(words string) []*Movement { return l.Find(Query{Words: words}) }

// Find ranks the movements that pass a query, like Search. "kind to wrists" among the words leaves out
// what loads them.
func (l *Library) Find(q Query) []*Movement {
	q.takeKind()
	words := strings.Fields(q.Words)
	heads := l.headsNamed(words)
	type hit struct {
		m    *Movement
		rank int
	}
	var hits []hit
	for _, m := range l.all {
		if m.Hidden || !q.fits(m) {
			continue
		}
		rank := 9
		if q.Words == "" {
			rank = 6
		}
		for _, n := range m.names {
			switch {
			case q.Words == "":
			case n == q.Words:
				rank = min(rank, 0)
			case strings.HasPrefix(n, q.Words):
				rank = min(rank, 1)
			case startsWords(strings.Fields(n), words):
				rank = min(rank, 2)
			}
		}
		switch {
		case rank < 9:
		case slices.Contains(heads, l.Head(m)):
			rank = 3
		case startsWords(m.body, words):
			rank = 4
		case startsWords(m.search, words):
			rank = 5
		}
		if rank < 9 {
			hits = append(hits, hit{m, rank})
		}
	}
	slices.SortStableFunc(hits, func(a, b hit) int { return a.rank - b.rank })
	out := make([]*Movement, len(hits))
	for i, h := range hits {
		out[i] = h.m
	}
	return out
}

// Begun finds the one movement of which a name begins with what was typed; among more the one whose name has no more words
// than were typed: "squ" is the squat, not the squat pulses. ok is false where there is none or more than one.
func (l *Library) Begun(words string) (m *Movement, ok bool) {
	q := fold(words)
	if q == "" {
		return nil, false
	}
	var begun, whole []*Movement
	for _, o := range l.all {
		if o.Hidden || !slices.ContainsFunc(o.names, func(n string) bool { return strings.HasPrefix(n, q) }) {
			continue
		}
		begun = append(begun, o)
		if slices.ContainsFunc(o.names, func(n string) bool { return strings.HasPrefix(n, q) && strings.Count(n, " ") == strings.Count(q, " ") }) {
			whole = append(whole, o)
		}
	}
	switch {
	case len(begun) == 1:
		return begun[0], true
	case len(whole) == 1:
		return whole[0], true
	}
	return nil, false
}

// startsWords tells whether every query word starts some word of the text.
func startsWords(have, words []string) bool {
	for _, w := range words {
		if !slices.ContainsFunc(have, func(h string) bool { return strings.HasPrefix(h, w) }) {
			return false
		}
	}
	return true
}

// KitOf lists all kit the library uses, in alphabetical order.
func (l *Library) KitOf() []string {
	seen := map[string]bool{}
	for _, m := range l.all {
		for n := range m.Levels {
			for _, k := range m.Things(n + 1) {
				seen[k] = true
			}
		}
	}
	return slices.Sorted(maps.Keys(seen))
}

// Mistyped finds the movement of which a name was typed with slips of the pen, in all its words; ok is false where none or several are that near, or it is a
// name as it stands.
func (l *Library) Mistyped(name string) (*Movement, bool) {
	typed := fold(name)
	if len(typed) < 5 {
		return nil, false
	}
	var found *Movement
	words := strings.Fields(typed)
	for _, m := range l.all {
		if m.Hidden {
			continue
		}
		for _, n := range m.words {
			if alike(words, n) {
				if found != nil && found != m {
					return nil, false
				}
				found = m
			}
		}
	}
	return found, found != nil
}

// alike tells whether two names differ in slips only: each word is the other's or near it.
func alike(a, b []string) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i] == b[i] || singular(a[i]) == singular(b[i]) {
			continue
		}
		if near, ok := dose.Nearest(a[i], []string{b[i]}); !ok && !(len(a) > 1 && swapped(a[i], b[i])) || ok && near != b[i] {
			return false
		}
	}
	return true
}

// SameWords finds the movement that a name means word by word, whatever its endings, its short forms and its order of "and": "bridging with marching",
// "Dbl leg stretch"; ok is false where none or several are meant.
func (l *Library) SameWords(name string) (*Movement, bool) {
	want := stems(name)
	if len(want) == 0 {
		return nil, false
	}
	var found *Movement
	for _, m := range l.all {
		if m.Hidden {
			continue
		}
		for _, n := range m.stems {
			if slices.Equal(n, want) {
				if found != nil && found != m {
					return nil, false
				}
				found = m
			}
		}
	}
	return found, found != nil
}

// Covers tells whether all words of a name stand in one name of a movement, or begin one of its words: then the name may mean it.
func (m *Movement) Covers(name string) bool {
	want := stems(name)
	return slices.ContainsFunc(m.stems, func(have []string) bool {
		return !slices.ContainsFunc(want, func(w string) bool {
			return !slices.ContainsFunc(have, func(h string) bool { return strings.HasPrefix(h, w) })
		})
	})
}

// swapped tells whether two letters of a short word were changed round: dgo.
func swapped(a, b string) bool {
	if len(a) != len(b) || len(a) < 3 {
		return false
	}
	for i := 0; i+1 < len(a); i++ {
		if a[:i]+a[i+1:i+2]+a[i:i+1]+a[i+2:] == b {
			return true
		}
	}
	return false
}

// placeWords only say where the body is, or how large something is; a name without them may still be known.
var placeWords = map[string]bool{
	"seated": true, "sitting": true, "sit": true, "standing": true, "stand": true, "kneeling": true, "kneel": true, "lying": true, "lie": true, "side-lying": true, "supine": true, "prone": true,
	"small": true, "large": true, "big": true, "little": true, "pose": true, "exercise": true, "on": true, "in": true, "at": true, "with": true, "from": true,
}

// In finds the movement that a name means where the body is in a position: "bicycle" on the side is not the one on the back, "leg lifts" are those of the side.
// Words that only say the position are left aside; of those that have all the others the one with the fewest words more is meant, more is how many. ok is false
// where none has them, or two are as near.
func (l *Library) In(name string, where Posture) (found *Movement, more int, ok bool) {
	var want []string
	for _, w := range nameWords(name) {
		if !placeWords[w] {
			want = append(want, stem(w))
		}
	}
	var of []string // words of the position itself
	for _, w := range nameWords(where.String() + " all fours") {
		if where == HandsAndKnees || w != "all" && w != "four" {
			of = append(of, stem(w))
		}
	}
	if where != SideLying { // of a side bend the side is what is done
		want = slices.DeleteFunc(want, func(x string) bool { return slices.Contains(of, x) && x != "side" })
	}
	if len(want) == 0 || where == NoPosture {
		return nil, 0, false
	}
	least, tie := 1<<30, false
	for _, m := range l.all {
		if m.Hidden || m.Posture != where {
			continue
		}
		unsaid := 1 << 30
		for _, have := range m.stems {
			rest := slices.Clone(have)
			all := true
			for _, w := range want {
				i := slices.IndexFunc(rest, func(h string) bool { return h == w || len(w) >= 4 && strings.HasPrefix(h, w) })
				if i < 0 {
					all = false
					break
				}
				rest = slices.Delete(rest, i, i+1)
			}
			if all {
				rest = slices.DeleteFunc(rest, func(h string) bool { return placeWords[h] || slices.Contains(of, h) })
				unsaid = min(unsaid, len(rest))
			}
		}
		switch {
		case unsaid < least:
			found, least, tie = m, unsaid, false
		case unsaid == least && unsaid < 1<<30:
			tie = true
		}
	}
	return found, least, found != nil && !tie
}

// Squeezed finds the movement of which a name is written in one word: "sidekick"; ok is false where there is none.
func (l *Library) Squeezed(name string) (*Movement, bool) {
	want := strings.ReplaceAll(fold(name), " ", "")
	if len(want) < 6 {
		return nil, false
	}
	for _, m := range l.all {
		if !m.Hidden && slices.ContainsFunc(m.names, func(n string) bool { return strings.ReplaceAll(n, " ", "") == want }) {
			return m, true
		}
	}
	return nil, false
}
