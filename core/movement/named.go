package movement

import (
	_ "embed"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"

	"wavekine/core/clock"
)

// names.txt is what the words of a name tell.
//
//go:embed names.txt
var namesTable string

// Fact is something that a name tells, or that is taken where it does not.
type Fact string

// The facts.
const (
	FactPosture Fact = "posture"
	FactEnds    Fact = "ends"
	FactSides   Fact = "sides"
	FactPace    Fact = "seconds_per_rep"
	FactSpine   Fact = "spine"
	FactRegions Fact = "regions"
	FactLoads   Fact = "loads"
	FactStretch Fact = "stretch"
	FactKit     Fact = "kit"
	FactEffort  Fact = "effort"
)

// Facts lists them in the order in which they are said.
func Facts() []Fact {
	return []Fact{FactPosture, FactEnds, FactSides, FactPace, FactSpine, FactRegions, FactLoads, FactStretch, FactKit, FactEffort}
}

// Reading is what is understood of a movement from its name alone.
type Reading struct {
	Name    string
	Posture Posture // NoPosture: the name does not tell, it must be asked
	Ends    Posture
	Sides   Sides
	Pace    clock.Span // seconds of a repetition
	Spine   []Direction
	Regions map[string]float64
	Loads   []Load // "no hands" and the like take one of the posture away
	Stretch bool
	Rest    bool
	Kit     []string
	Levels  []string // what each of its levels is, in words; none: it has one
	Effort  float64
	Told    map[Fact]bool // by the name; what is not was taken
	Acts    bool          // the name says what is done
	Like    *Movement     // the nearest of the library; nil where none is near
}

// Asks tells whether the name states neither where the body is nor what is done: then nothing is taken for granted.
func (r *Reading) Asks() bool { return r.Posture == NoPosture }

// nameRule is a line of the table.
type nameRule struct {
	words []string // of one of its phrases
	facts []nameFact
	place bool // it stands in the part of the table that says where the body is
}

type nameFact struct {
	key, value string
	add        bool
}

// nameRules are the phrases of the table, read once.
var nameRules = sync.OnceValue(func() []nameRule {
	rules, err := readNameTable(namesTable)
	if err != nil {
		panic(err) // compiled in and read by the tests
	}
	return rules
})

// placePart heads the part of the table that says where the body is.
const placePart = "where the body is"

// readNameTable reads the table; the error names the line.
func readNameTable(text string) (out []nameRule, err error) {
	n, place := 0, false
	for line := range strings.Lines(text) {
		n++
		line = strings.TrimSpace(line)
		if part, ok := strings.CutPrefix(line, "# ----"); ok {
			place = strings.TrimSpace(part) == placePart
		}
		if line == "" || line[0] == '#' {
			continue
		}
		said, told, ok := strings.Cut(line, " : ")
		if !ok {
			return nil, fmt.Errorf("names.txt: line %d: expected phrases : facts", n)
		}
		var facts []nameFact
		for f := range strings.SplitSeq(told, ";") {
			key, value, _ := strings.Cut(strings.TrimSpace(f), " ")
			key, add := strings.CutSuffix(key, "+")
			fact := nameFact{key, strings.TrimSpace(value), add}
			if err := fact.put(&Reading{Told: map[Fact]bool{}}); err != nil {
				return nil, fmt.Errorf("names.txt: line %d: %w", n, err)
			}
			facts = append(facts, fact)
		}
		for p := range strings.SplitSeq(said, ",") {
			out = append(out, nameRule{nameWords(p), facts, place && !slices.ContainsFunc(facts, func(f nameFact) bool { return f.key == "act" })})
		}
	}
	return out, nil
}

// put writes a fact into a reading.
func (f nameFact) put(r *Reading) (err error) {
	told := Fact("")
	switch f.key {
	case "at":
		told, err = FactPosture, r.Posture.UnmarshalText([]byte(f.value))
	case "ends":
		told, err = FactEnds, r.Ends.UnmarshalText([]byte(f.value))
	case "sides":
		told, err = FactSides, r.Sides.UnmarshalText([]byte(f.value))
	case "pace":
		var p Pace
		told, err = FactPace, p.UnmarshalText([]byte(f.value))
		r.Pace = p.Span
	case "spine":
		told = FactSpine
		if !f.add {
			r.Spine = nil
		}
		for _, d := range splitList(f.value) {
			switch {
			case d == "none":
			case !slices.Contains(directions, Direction(d)):
				return fmt.Errorf("%q is no direction of the spine", d)
			case !slices.Contains(r.Spine, Direction(d)):
				r.Spine = append(r.Spine, Direction(d))
			}
		}
	case "works":
		told = FactRegions
		if !f.add || r.Regions == nil {
			r.Regions = map[string]float64{}
		} else {
			r.Regions = maps.Clone(r.Regions)
		}
		for _, w := range splitList(f.value) {
			i := strings.LastIndexByte(w, ' ')
			if i < 0 || !slices.Contains(regions, w[:i]) {
				return fmt.Errorf("%q is no region with a share", w)
			}
			if r.Regions[w[:i]], err = strconv.ParseFloat(w[i+1:], 64); err != nil {
				return err
			}
		}
	case "loads":
		told = FactLoads
		r.Loads = nil
		for _, w := range splitList(f.value) {
			if w != "none" && !IsLoad(w) {
				return fmt.Errorf("%q is no load", w)
			}
			if w != "none" {
				r.Loads = append(r.Loads, Load(w))
			}
		}
	case "stretch":
		told, r.Stretch = FactStretch, true
	case "rest":
		r.Rest = true
	case "kit":
		told = FactKit
		for _, k := range splitList(f.value) {
			if !slices.Contains(r.Kit, k) {
				r.Kit = append(slices.Clone(r.Kit), k)
			}
		}
	case "effort":
		told = FactEffort
		r.Effort, err = strconv.ParseFloat(f.value, 64)
	case "act":
		r.Acts = true
	default:
		return fmt.Errorf("%q is no fact", f.key)
	}
	if told != "" && err == nil {
		r.Told[told] = true
	}
	return err
}

func splitList(s string) (out []string) {
	for w := range strings.SplitSeq(s, ",") {
		if w = strings.TrimSpace(w); w != "" {
			out = append(out, w)
		}
	}
	return out
}

// nameWords are the words of a name that tell something, one by one: folded, without articles, in the singular.
func nameWords(name string) (out []string) {
	for _, w := range strings.FieldsFunc(fold(name), func(r rune) bool { return !strings.ContainsRune("abcdefghijklmnopqrstuvwxyz0123456789", r) }) {
		switch w {
		case "the", "a", "an", "your", "my", "to", "of":
			continue
		}
		if long, ok := shortened[w]; ok {
			for _, l := range strings.Fields(long) {
				out = append(out, singular(l))
			}
			continue
		}
		out = append(out, singular(w))
	}
	return out
}

// shortened are words that teachers cut short, as they are written out.
var shortened = map[string]string{
	"dbl": "double", "db": "double", "sgl": "single", "sl": "single leg", "fwd": "forward", "bwd": "back", "alt": "alternating", "w": "with", "ext": "extension",
	"rot": "rotation", "str": "straight", "kn": "kneeling", "4": "four", "1": "one", "2": "two", "3": "three", "sidelying": "side lying", "tabletop": "table top",
}

// stem is a word without its endings, for comparing: bridging and bridges are bridge.
func stem(w string) string {
	w = singular(w)
	if len(w) > 5 {
		w = strings.TrimSuffix(w, "ing")
	}
	if len(w) > 6 {
		w = strings.TrimSuffix(w, "er")
	}
	if n := len(w); n > 3 && w[n-1] == w[n-2] && w[n-1] != 's' && w[n-1] != 'l' {
		w = w[:n-1]
	}
	if len(w) > 3 {
		w = strings.TrimSuffix(w, "e")
	}
	return w
}

// stems are the words of a name for comparing.
func stems(name string) (out []string) {
	for _, w := range nameWords(name) {
		if w == "and" {
			continue
		}
		out = append(out, stem(w))
	}
	return out
}

// singular is a word without the ending of the plural.
func singular(w string) string {
	switch {
	case len(w) < 3 || !strings.HasSuffix(w, "s") || strings.HasSuffix(w, "ss") || strings.HasSuffix(w, "us") || strings.HasSuffix(w, "is"):
		return w
	case strings.HasSuffix(w, "ches"), strings.HasSuffix(w, "shes"), strings.HasSuffix(w, "xes"), strings.HasSuffix(w, "sses"):
		return w[:len(w)-2]
	}
	return w[:len(w)-1]
}

var prepositions = []string{"on", "at", "in", "with", "behind", "against", "along", "holding"}

// fits tells whether a phrase's words stand among those of a name, each as often.
func (r *nameRule) fits(words []string) bool {
	if len(r.words) > len(words) {
		return false
	}
	if slices.ContainsFunc(r.words, func(w string) bool { return slices.Contains(prepositions, w) }) { // on the heels is not heels on a towel
		for i := 0; i+len(r.words) <= len(words); i++ {
			if slices.Equal(words[i:i+len(r.words)], r.words) {
				return true
			}
		}
		return false
	}
	used := make([]bool, len(words))
	for _, w := range r.words {
		found := false
		for i, have := range words {
			if !found && !used[i] && have == w {
				found, used[i] = true, true
			}
		}
		if !found {
			return false
		}
	}
	return true
}

// at is where a phrase puts the body; empty where it does not say.
func (r *nameRule) at() string {
	for _, f := range r.facts {
		if f.key == "at" {
			return f.value
		}
	}
	return ""
}

// firstPlace is which of the fitting phrases says where the body is, the longest first: one that says that alone counts a word more. -1: none does.
func firstPlace(fit []nameRule) int {
	best, rank := -1, 0.
	for i := range fit {
		if fit[i].at() == "" {
			continue
		}
		n := float64(len(fit[i].words))
		if fit[i].place {
			n += placeCounts
		}
		if n > rank {
			best, rank = i, n
		}
	}
	return best
}

// placeCounts is how many words more a phrase counts that says nothing but where the body is; judgement, tried on the library.
const placeCounts = 2.5

// known are the words of the table.
var known = sync.OnceValue(func() map[string]bool {
	out := map[string]bool{}
	for _, r := range nameRules() {
		for _, w := range r.words {
			out[stem(w)] = true
		}
	}
	return out
})

// Tells tells whether one of the words says something of a movement.
func Tells(words string) bool {
	return slices.ContainsFunc(nameWords(words), func(w string) bool { return known()[stem(w)] && !slices.Contains(prepositions, w) })
}

// ReadName reads a movement from its name alone. Of what several phrases tell, that of the phrase with more words counts, of those the one further up in
// the table. Cost grows with the phrases of the table.
func ReadName(name string) Reading {
	r := Reading{Name: upperFirst(strings.TrimSpace(name)), Told: map[Fact]bool{}}
	words := nameWords(name)
	var fit []nameRule
	for _, rule := range nameRules() {
		if rule.fits(words) {
			fit = append(fit, rule)
		}
	}
	slices.SortStableFunc(fit, func(a, b nameRule) int { return len(b.words) - len(a.words) })
	if i := firstPlace(fit); i >= 0 { // a word that says where the body is stands over what an action usually asks for
		_ = nameFact{"at", fit[i].at(), false}.put(&r)
	}
	said := map[string]bool{"at": r.Told[FactPosture]} // keys that were told
	for _, rule := range fit {
		now := map[string]bool{}
		for _, f := range rule.facts {
			if !f.add && said[f.key] && f.key != "kit" {
				continue
			}
			if f.add {
				continue // when what it adds to is there
			}
			_ = f.put(&r) // the table has been read
			now[f.key] = true
		}
		maps.Copy(said, now)
	}
	for _, rule := range fit {
		for _, f := range rule.facts {
			if f.add {
				_ = f.put(&r)
			}
		}
	}
	r.fill(said)
	return r
}

// upperFirst begins a name with a capital, as the library's begin.
func upperFirst(name string) string {
	r := []rune(name)
	if len(r) > 0 {
		r[0] = unicode.ToUpper(r[0])
	}
	return string(r)
}

// fill takes what the name does not tell.
func (r *Reading) fill(said map[string]bool) {
	if r.Sides == SidesUnsaid {
		r.Sides = Both
		if r.Posture == SideLying || r.Posture == SidePlank || r.Posture == HalfKneeling || r.Posture == Lunge {
			r.Sides = Each
		}
	}
	if r.Pace == 0 {
		r.Pace = tempoClass["curl"]
	}
	if r.Effort == 0 && !said["effort"] {
		r.Effort = usualEffort
	}
}

// usualEffort is taken where a name tells nothing of it; judgement.
const usualEffort = 2.5

// Movement is the reading as a movement that a plan can hold. Seconds of 0 are 4.5.
func (r *Reading) Movement() (*Movement, error) {
	if r.Pace == 0 {
		r.Pace = tempoClass["curl"]
	}
	m := &Movement{
		Slug: inlineSlug(r.Name), Name: r.Name, Posture: r.Posture, Ends: r.Ends, Sides: r.Sides, Pace: Pace{Span: r.Pace}, Spine: r.Spine, Regions: r.Regions, Loads: r.Loads,
		Stretch: r.Stretch, Rest: r.Rest, Kit: r.Kit, Inline: true, Levels: []Level{{Demand: r.Effort}}, Limb: "side",
	}
	for i, changes := range r.Levels {
		if i == 0 {
			m.Levels[0].Changes = changes
			continue
		}
		m.Levels = append(m.Levels, Level{Changes: changes, Demand: min(10, r.Effort+float64(i)*harderStep)})
	}
	return m, m.prepare(false)
}

// harderStep is by how much a level of a movement that is written into a plan is harder than the one below it, of ten; judgement: those of the library rise by
// one and a half in the middle.
const harderStep = 1.5

// plain are movements whose first pose is that of a position and no more.
var plain = map[Posture]string{
	Standing: "standing-breathing", Chair: "chair-breathing", HalfKneeling: "hip-flexor-stretch", Lunge: "long-lunge", Kneeling: "kneeling-hinge", HandsAndKnees: "cat-cow",
	ForearmsAndKnees: "forearm-bird-dog", Plank: "full-plank", Forearms: "forearm-plank", DownDog: "down-dog", SidePlank: "side-plank", KneelingSidePlank: "side-plank",
	SeatedHeels: "heels-chest-stretch", Seated: "rib-breathing", SideLying: "side-breathing", Prone: "prone-breathing", Supine: "constructive-rest",
}

// Plain is a movement of the shipped library that shows a position, for movements that have no figure of their own; nil where there is none.
func Plain(p Posture) *Movement { return Shipped().bySlug[plain[p]] }

// Drawn is the movement whose figure stands for it: itself, or for one that is written into a plan one that shows where the body is; nil where there is none.
func (m *Movement) Drawn() *Movement {
	if m.Inline {
		return Plain(m.Posture)
	}
	return m
}

// SameWhere finds the movement that a name means whose first words only say where it is done anyway: "plank shoulder taps"; ok is false where there is none.
func (l *Library) SameWhere(name string) (*Movement, bool) {
	words := nameWords(name)
	for n := len(words) - 1; n > 0; n-- {
		where := ReadName(strings.Join(words[:n], " "))
		if where.Posture == NoPosture {
			continue
		}
		if m, ok := l.SameWords(strings.Join(words[n:], " ")); ok && m.Posture == where.Posture {
			return m, true
		}
	}
	return nil, false
}

// Like finds the movement of the library that is nearest to a reading: it is done in the same position and shares most words of its name, two at least or
// half of them; nil where none is near.
func (l *Library) Like(r *Reading) *Movement {
	want := stems(r.Name)
	best, most := (*Movement)(nil), 0
	for _, m := range l.all {
		if m.Hidden || m.Posture != r.Posture {
			continue
		}
		for _, n := range m.stems {
			shared := 0
			for _, w := range n {
				if slices.Contains(want, w) && !slices.Contains(prepositions, w) {
					shared++
				}
			}
			if shared > most && (shared > 1 || 2*shared >= len(n)) {
				best, most = m, shared
			}
		}
	}
	return best
}
