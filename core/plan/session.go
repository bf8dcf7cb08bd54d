// Package plan holds the documents: sessions and series, read strictly and written back as they
// were, and the edits a teacher makes to them.
package plan

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/strict"
)

// Limits of a document. They are judgement: far above what a class holds, low enough to answer at once.
const (
	MaxTitle    = 200
	MaxNote     = 2000
	maxSections = 60
	maxBlocks   = 200
	maxRows     = 1000
	MaxRounds   = 20
)

// SessionFormat is the format this version writes.
const SessionFormat = "wavekine.session/1"

// Rule is how the rows of a block are done.
type Rule uint8

// The rules of a block.
const (
	Straight Rule = iota // as listed
	Chain                // side by side: every row on the first side, then every row on the other
	Rounds               // a circuit, n times
)

var ruleNames = []string{"straight", "chain", "rounds"}

func (r Rule) String() string { return ruleNames[r] }

// MarshalText writes the word.
func (r Rule) MarshalText() ([]byte, error) { return []byte(r.String()), nil }

// UnmarshalText reads the word.
func (r *Rule) UnmarshalText(b []byte) error {
	i := slices.Index(ruleNames, string(b))
	if i < 0 {
		return fmt.Errorf("%q is not a rule: expected straight, chain or rounds", b)
	}
	*r = Rule(i)
	return nil
}

// Talk is how much is explained.
type Talk uint8

// The dial of talk; the zero value is coached.
const (
	Coached Talk = iota
	Flowing
	FirstLesson
)

var talkNames = []string{"coached", "flowing", "first lesson"}

func (t Talk) String() string { return talkNames[t] }

// UnmarshalText reads the word.
func (t *Talk) UnmarshalText(b []byte) error {
	i := slices.Index(talkNames, string(b))
	if i < 0 {
		return fmt.Errorf("%q is not a way of talking: expected flowing, coached or first lesson", b)
	}
	*t = Talk(i)
	return nil
}

// Tempo is how fast it is counted.
type Tempo uint8

// The dial of tempo; the zero value is even.
const (
	Even Tempo = iota
	Brisk
	Slow
)

var tempoNames = []string{"even", "brisk", "slow"}

func (t Tempo) String() string { return tempoNames[t] }

// Factor is what seconds per repetition are multiplied by (common practice, no source).
func (t Tempo) Factor() float64 { return [...]float64{1, .8, 1.25}[t] }

// UnmarshalText reads the word.
func (t *Tempo) UnmarshalText(b []byte) error {
	i := slices.Index(tempoNames, string(b))
	if i < 0 {
		return fmt.Errorf("%q is not a tempo: expected brisk, even or slow", b)
	}
	*t = Tempo(i)
	return nil
}

// Style is the answers of a school to what teachers disagree on. The zero value of each is the product's
// own answer; a studio's house style is written into a session when it is made, so that changing the
// house later re-reads nothing.
type Style struct {
	LeftFirst bool
	ByDay     bool   // the first side changes with the day of a series: right on odd days
	Pelvis    string // "neutral", "by load", "imprinted"
	Breath    string // "nose-nose", "nose-mouth", "on effort", "free"
	Plain     bool   // words as the teacher stands; false: mirrored, for people who face the teacher
	Order     string // "free", "classical": rows follow the classical mat order
	Sides     string // "each", "chain", "alternating": how new one-sided rows are put in
	Sets      string // "pairs", "ask": what "ten sets" means on an alternating movement
	Count     string // "singles", "pairs": what a bare number means on an alternating movement
	Switches  int    // leg switches on each breath in and out: 2, or 1; 0 is 2
	WarmUp    string // "inside", "assumed": a separate warm-up has been done
	Symmetry  string // "same", "more on the tighter side"
	Countdown int    // the last so many are counted down aloud; 0: counted up to the end
	extra     map[string]json.RawMessage
	said      bool
	saidFirst bool
	saidMirr  bool
}

var (
	pelvisWords = []string{"neutral", "by load", "imprinted"}
	breathWords = []string{"nose-nose", "nose-mouth", "on effort", "free"}
)

// StyleWords are the words of each answer, in the order they are offered; the first is the product's own.
var StyleWords = map[string][]string{
	"first_side": {"right", "left", "by day"}, "pelvis": {"by load", "neutral", "imprinted"}, "breath": {"nose-mouth", "nose-nose", "on effort", "free"},
	"order": {"free", "classical"}, "sides": {"each", "chain", "alternating"}, "sets": {"ask", "pairs"}, "count": {"singles", "pairs"},
	"switches": {"2", "1"}, "warm_up": {"inside", "assumed"}, "symmetry": {"same", "more on the tighter side"},
}

// Session is a class: sections of blocks of rows, with a promised length and a style.
type Session struct {
	Format   string
	Title    string
	Focus    []string
	Target   clock.Span // the promised length; 0: none
	BPM      float64    // beats a minute; 0: counted freely
	Talk     Talk
	Tempo    Tempo
	Style    Style
	Audience string
	Note     string
	Aside    []Aside // findings put aside
	Sections []Section
	saidPace bool
	extra    map[string]json.RawMessage
}

// Aside is a finding of the second look that was put aside, with the reason. It comes back when it gets
// worse than it was.
type Aside struct {
	Rule   string
	About  string  // the movement it is about; empty for the whole
	Amount float64 // how bad it was, in the finding's own unit
	Reason string
	extra  map[string]json.RawMessage
}

// MarshalJSON writes what was put aside.
func (a Aside) MarshalJSON() ([]byte, error) {
	return strict.Join(struct {
		Rule   string  `json:"rule"`
		About  string  `json:"about,omitempty"`
		Amount float64 `json:"amount,omitempty"`
		Reason string  `json:"reason"`
	}{a.Rule, a.About, a.Amount, a.Reason}, a.extra)
}

func readAside(v strict.Value, keep bool) Aside {
	o := v.Object()
	a := Aside{Rule: o.Need("rule").Text(maxRule), Reason: o.Need("reason").Text(MaxNote)}
	if e, ok := o.Get("about"); ok {
		a.About = e.Text(maxAbout)
	}
	if e, ok := o.Get("amount"); ok {
		a.Amount = e.Float(0, maxAmount)
	}
	a.extra = o.Done(keep)
	return a
}

// What may be put aside, see readAside and PutAside.
const (
	maxAside, maxRule, maxAbout, maxReason = 200, 40, 100, 300
	maxAmount                              = 1e9
)

// PutAside puts a finding aside, or gives one that was put aside before its new amount and reason.
func (s *Session) PutAside(a Aside) error {
	list, err := PutAside(s.Aside, a)
	if err == nil {
		s.Aside = list
	}
	return err
}

// PutAside is the list with a finding put aside; what stands there already is replaced. The reason is
// needed, of at most 300 characters.
func PutAside(list []Aside, a Aside) ([]Aside, error) {
	long := func(s string, most int) bool { return len([]rune(s)) > most || !utf8.ValidString(s) }
	switch {
	case a.Reason == "" || long(a.Reason, maxReason):
		return list, fmt.Errorf("say why in 1 to %d characters, for whoever reads this later", maxReason)
	case a.Rule == "" || long(a.Rule, maxRule) || long(a.About, maxAbout) || !(a.Amount >= 0 && a.Amount <= maxAmount):
		return list, errors.New("that is no finding of the second look")
	}
	if i := slices.IndexFunc(list, func(x Aside) bool { return x.Rule == a.Rule && x.About == a.About }); i >= 0 {
		list = slices.Clone(list)
		list[i] = a
		return list, nil
	}
	if len(list) >= maxAside {
		return list, fmt.Errorf("at most %d findings are put aside", maxAside)
	}
	return append(slices.Clip(list), a), nil
}

// Section is a named stretch of a class.
type Section struct {
	Title  string
	Blocks []Block
	extra  map[string]json.RawMessage
}

// Block is rows under one rule.
type Block struct {
	Rule    Rule
	Rounds  int        // times through; 1 unless the rule is rounds
	On, Off clock.Span // of a timed circuit
	Rest    clock.Span // between rows, between the sides of a chain, or between rounds
	Rows    []Row
	extra   map[string]json.RawMessage
}

// Override is what one side does differently.
type Override struct {
	Dose  dose.Dose
	Level int // 0: as the row
	extra map[string]json.RawMessage
}

// Inline is a movement written into the plan because no library has it.
type Inline struct {
	Name    string
	Posture movement.Posture
	Sides   movement.Sides
	PerRep  clock.Span
	Effort  float64
	extra   map[string]json.RawMessage
}

// Row is a movement at a level with a dose and a side rule, or a rest.
type Row struct {
	Movement string  // slug; empty for a rest or an inline movement
	Inline   *Inline // nil unless the movement is written into the plan
	Rest     clock.Span
	IsRest   bool
	Say      string
	Level    int // 0: not said, the first
	Dose     dose.Dose
	Sides    movement.Sides // unsaid: as the movement has it
	Right    *Override
	Left     *Override
	Locked   bool
	Note     string
	Options  []int // levels offered aloud; nil: the next easier and the next harder; empty: none
	Demo     int   // the level that is shown; 0: the row's own
	extra    map[string]json.RawMessage
}

// Name is the movement's slug, or the inline name.
func (r *Row) Name() string {
	switch {
	case r.IsRest:
		return "rest"
	case r.Inline != nil:
		return r.Inline.Name
	}
	return r.Movement
}

// Of finds the row's movement in a library, or makes it from what the row says.
// A rest has none. The error names what is missing.
func (r *Row) Of(lib *movement.Library) (*movement.Movement, error) {
	switch {
	case r.IsRest:
		return nil, nil
	case r.Inline != nil:
		return movement.InlineMovement(r.Inline.Name, r.Inline.Posture, r.Inline.Sides, r.Inline.PerRep, r.Inline.Effort)
	}
	m, ok := lib.Get(r.Movement)
	if !ok {
		return nil, fmt.Errorf("no movement %q in the library", r.Movement)
	}
	return m, nil
}

// SideRule is how the row falls on the sides, given its movement.
func (r *Row) SideRule(m *movement.Movement) movement.Sides {
	if r.Sides != movement.SidesUnsaid {
		return r.Sides
	}
	switch r.Dose.Per {
	case dose.Alternating, dose.Pairs:
		return movement.Alternating
	case dose.EachSide:
		if m.Sides == movement.Both {
			return movement.Each
		}
	}
	return m.Sides
}

// Path is the place of a row: section, block, row, from 1. Zero parts point at what is above.
type Path struct{ Section, Block, Row int }

func (p Path) String() string {
	return strconv.Itoa(p.Section) + "." + strconv.Itoa(p.Block) + "." + strconv.Itoa(p.Row)
}

// MarshalText writes "2.1.3".
func (p Path) MarshalText() ([]byte, error) { return []byte(p.String()), nil }

// ParsePath reads "2.1.3".
func ParsePath(s string) (p Path, err error) {
	parts := strings.Split(s, ".")
	if len(parts) != 3 {
		return p, fmt.Errorf("%q is not a place: expected section.block.row, as in 2.1.3", s)
	}
	for i, to := range []*int{&p.Section, &p.Block, &p.Row} {
		n, e := strconv.Atoi(parts[i])
		if e != nil || n < 0 || n > maxRows {
			return p, fmt.Errorf("%q is not a place: expected section.block.row, as in 2.1.3", s)
		}
		*to = n
	}
	return p, nil
}

// Each visits every row in order.
func (s *Session) Each(visit func(p Path, b *Block, r *Row)) {
	for i := range s.Sections {
		for j := range s.Sections[i].Blocks {
			b := &s.Sections[i].Blocks[j]
			for k := range b.Rows {
				visit(Path{i + 1, j + 1, k + 1}, b, &b.Rows[k])
			}
		}
	}
}

// Row finds a row; nil when there is none.
func (s *Session) Row(p Path) *Row {
	b := s.Block(p)
	if b == nil || p.Row < 1 || p.Row > len(b.Rows) {
		return nil
	}
	return &b.Rows[p.Row-1]
}

// Block finds a block; nil when there is none.
func (s *Session) Block(p Path) *Block {
	if p.Section < 1 || p.Section > len(s.Sections) {
		return nil
	}
	sec := &s.Sections[p.Section-1]
	if p.Block < 1 || p.Block > len(sec.Blocks) {
		return nil
	}
	return &sec.Blocks[p.Block-1]
}

// Rows counts them.
func (s *Session) Rows() (n int) {
	s.Each(func(Path, *Block, *Row) { n++ })
	return n
}

// ---- reading

// later tells whether a document is of a later minor version, whose extra keys are kept.
func later(v strict.Value, format, want string) bool {
	if format == want {
		return false
	}
	minor, ok := strings.CutPrefix(format, want+".")
	if n, err := strconv.Atoi(minor); !ok || err != nil || n < 0 {
		v.Fail("%q: expected %q", format, want)
	}
	return true
}

// ReadSession reads a wavekine.session/1 document. Errors are *strict.Error with the JSON path.
// Movements are checked against the library.
func ReadSession(text []byte, lib *movement.Library) (*Session, error) {
	r, v := strict.Parse(text)
	if r.Err() != nil {
		return nil, r.Err()
	}
	s := readSession(v, lib)
	if err := r.Err(); err != nil {
		return nil, err
	}
	return s, nil
}

func readSession(v strict.Value, lib *movement.Library) *Session {
	o := v.Object()
	s := &Session{}
	f := o.Need("format")
	s.Format = f.Text(60)
	keep := later(f, s.Format, SessionFormat)
	s.Title = o.Need("title").Text(MaxTitle)
	if e, ok := o.Get("focus"); ok {
		e.List(20, func(_ int, e strict.Value) { s.Focus = append(s.Focus, e.Text(60)) })
	}
	s.Target = readSpan(o, "target", 4*60*clock.Minute)
	if e, ok := o.Get("beat"); ok {
		b := e.Object()
		s.BPM = b.Need("bpm").Float(30, 240)
		b.Done(false)
	}
	if e, ok := o.Get("pace"); ok {
		s.saidPace = true
		p := e.Object()
		p.Into("talk", 20, &s.Talk)
		p.Into("tempo", 20, &s.Tempo)
		p.Done(false)
	}
	if e, ok := o.Get("style"); ok {
		s.Style = readStyle(e, keep)
	}
	if e, ok := o.Get("audience"); ok {
		s.Audience = e.Text(60)
	}
	if e, ok := o.Get("note"); ok {
		s.Note = e.Text(MaxNote)
	}
	if e, ok := o.Get("aside"); ok {
		e.List(maxAside, func(_ int, e strict.Value) { s.Aside = append(s.Aside, readAside(e, keep)) })
	}
	rows := 0
	o.Need("sections").List(maxSections, func(_ int, e strict.Value) {
		so := e.Object()
		sec := Section{Title: so.Need("title").Text(MaxTitle)}
		so.Need("blocks").List(maxBlocks, func(_ int, e strict.Value) {
			b := readBlock(e, lib, keep)
			if rows += len(b.Rows); rows > maxRows {
				e.Fail("more than %d rows in all", maxRows)
			}
			sec.Blocks = append(sec.Blocks, b)
		})
		sec.extra = so.Done(keep)
		s.Sections = append(s.Sections, sec)
	})
	s.extra = o.Done(keep)
	return s
}

// readSpan reads a time as text; absent is 0.
func readSpan(o *strict.Object, key string, most clock.Span) clock.Span {
	e, ok := o.Get(key)
	if !ok {
		return 0
	}
	text := e.Text(20)
	sp, err := clock.Parse(text)
	switch {
	case err != nil:
		e.Wrap(err)
	case sp <= 0 || sp > most:
		e.Fail("%q: expected a time over 0, at most %s", text, most)
	}
	return sp
}

func oneOf(o *strict.Object, key string, words []string) string {
	e, ok := o.Get(key)
	if !ok {
		return ""
	}
	t := e.Text(40)
	if !slices.Contains(words, t) {
		e.Fail("%q: expected one of %s", t, strings.Join(words, ", "))
	}
	return t
}

func readStyle(v strict.Value, keep bool) Style {
	o := v.Object()
	st := Style{said: true}
	if side := oneOf(o, "first_side", StyleWords["first_side"]); side != "" {
		st.LeftFirst, st.ByDay, st.saidFirst = side == "left", side == "by day", true
	}
	st.Pelvis = oneOf(o, "pelvis", pelvisWords)
	st.Breath = oneOf(o, "breath", breathWords)
	if e, ok := o.Get("mirrored"); ok {
		st.Plain, st.saidMirr = !e.Bool(), true
	}
	st.Order, st.Sides, st.Sets = oneOf(o, "order", StyleWords["order"]), oneOf(o, "sides", StyleWords["sides"]), oneOf(o, "sets", StyleWords["sets"])
	st.Count, st.WarmUp, st.Symmetry = oneOf(o, "count", StyleWords["count"]), oneOf(o, "warm_up", StyleWords["warm_up"]), oneOf(o, "symmetry", StyleWords["symmetry"])
	if e, ok := o.Get("switches"); ok {
		st.Switches = e.Int(1, 2)
	}
	if e, ok := o.Get("countdown"); ok {
		st.Countdown = e.Int(0, 20)
	}
	st.extra = o.Done(keep)
	return st
}

// ReadStyle reads a style by itself, as a house keeps it; nothing is the product's own.
func ReadStyle(text []byte) (Style, error) {
	if len(text) == 0 {
		return Style{}, nil
	}
	r, v := strict.Parse(text)
	if r.Err() != nil {
		return Style{}, r.Err()
	}
	st := readStyle(v, false)
	return st, r.Err()
}

// ForDay is the session as it is done on a day of a series, from 1: a first side that goes by the day is
// settled.
func (s *Session) ForDay(day int) *Session {
	if !s.Style.ByDay {
		return s
	}
	c := s.Clone()
	c.Style.LeftFirst = day%2 == 0
	return c
}

func readBlock(v strict.Value, lib *movement.Library, keep bool) Block {
	o := v.Object()
	b := Block{Rounds: 1}
	o.Need("rule")
	o.Into("rule", 20, &b.Rule)
	if e, ok := o.Get("rounds"); ok {
		b.Rounds = e.Int(1, MaxRounds)
		if b.Rule != Rounds {
			e.Fail("only a block with the rule rounds has rounds")
		}
	}
	b.On, b.Off = readSpan(o, "on", 10*clock.Minute), readSpan(o, "off", 10*clock.Minute)
	b.Rest = readSpan(o, "rest", 10*clock.Minute)
	if b.Rule != Rounds && (b.On > 0 || b.Off > 0) {
		v.Fail("on and off times belong to the rule rounds")
	}
	if b.Off > 0 && b.On == 0 {
		v.Fail("an off time needs an on time")
	}
	o.Need("rows").List(maxRows, func(_ int, e strict.Value) { b.Rows = append(b.Rows, readRow(e, lib, keep)) })
	b.extra = o.Done(keep)
	return b
}

func readOverride(o *strict.Object, key string, keep bool) *Override {
	e, ok := o.Get(key)
	if !ok {
		return nil
	}
	oo := e.Object()
	ov := &Override{}
	if oo.Into("dose", dose.MaxText*4, &ov.Dose) && ov.Dose.Per != dose.Unsaid {
		e.Fail("the dose of one side cannot itself be per side: %q", ov.Dose)
	}
	if l, ok := oo.Get("level"); ok {
		ov.Level = l.Int(1, 20)
	}
	ov.extra = oo.Done(keep)
	return ov
}

func readRow(v strict.Value, lib *movement.Library, keep bool) Row {
	o := v.Object()
	var r Row
	if _, ok := o.Get("rest"); ok {
		r.IsRest = true
		r.Rest = readSpan(o, "rest", 10*clock.Minute)
		if e, ok := o.Get("say"); ok {
			r.Say = e.Text(MaxNote)
		}
		if e, ok := o.Get("note"); ok {
			r.Note = e.Text(MaxNote)
		}
		if e, ok := o.Get("locked"); ok {
			r.Locked = e.Bool()
		}
		if _, both := o.Get("movement"); both {
			v.Fail("a row is a movement or a rest, not both")
		}
		r.extra = o.Done(keep)
		return r
	}
	if _, nested := o.Get("rows"); nested {
		v.Fail("a block stands where a row is expected: a chain or circuit holds rows, not blocks")
	}
	mv := o.Need("movement")
	if mv.IsText() {
		r.Movement = mv.Text(100)
		if _, ok := lib.Get(r.Movement); !ok {
			if near := lib.Search(r.Movement); len(near) > 0 {
				mv.Fail("no movement %q in the library; %q is near", r.Movement, near[0].Slug)
			} else {
				mv.Fail("no movement %q in the library", r.Movement)
			}
		}
	} else {
		r.Inline = readInline(mv, keep)
	}
	if e, ok := o.Get("level"); ok {
		r.Level = e.Int(1, 20)
		if m, ok := lib.Get(r.Movement); ok && r.Level > len(m.Levels) {
			e.Fail("%s has %d levels", r.Movement, len(m.Levels))
		}
	}
	o.Into("dose", dose.MaxText*4, &r.Dose)
	o.Into("sides", 20, &r.Sides)
	if e, ok := o.Get("locked"); ok {
		r.Locked = e.Bool()
	}
	if e, ok := o.Get("note"); ok {
		r.Note = e.Text(MaxNote)
	}
	if e, ok := o.Get("options"); ok {
		r.Options = []int{} // none are offered where the list is empty
		e.List(20, func(_ int, e strict.Value) { r.Options = append(r.Options, e.Int(1, 20)) })
	}
	if e, ok := o.Get("demo"); ok {
		r.Demo = e.Int(1, 20)
	}
	r.Right, r.Left = readOverride(o, "right", keep), readOverride(o, "left", keep)
	if err := r.Contradicts(); err != nil {
		v.Wrap(err)
	}
	r.extra = o.Done(keep)
	return r
}

// Contradicts tells whether what the row says of its sides does not go together.
func (r *Row) Contradicts() error {
	per, sides := r.Dose.Per, r.Sides
	switch {
	case per != dose.Unsaid && (sides == movement.RightOnly || sides == movement.LeftOnly):
		return fmt.Errorf("sides that contradict: only the %s side, but the dose is %q", sides, r.Dose)
	case per == dose.EachSide && sides == movement.Both:
		return fmt.Errorf("sides that contradict: both at once, but the dose is %q", r.Dose)
	case (per == dose.Pairs || per == dose.Alternating) && sides != movement.SidesUnsaid && sides != movement.Alternating:
		return fmt.Errorf("sides that contradict: %s, but the dose is %q", sides, r.Dose)
	case (r.Right != nil || r.Left != nil) && (sides == movement.Both || sides == movement.RightOnly && r.Left != nil || sides == movement.LeftOnly && r.Right != nil):
		return fmt.Errorf("sides that contradict: %s, but one side is given a dose of its own", sides)
	}
	return nil
}

func readInline(v strict.Value, keep bool) *Inline {
	o := v.Object()
	in := &Inline{Name: o.Need("name").Text(100)}
	if strings.TrimSpace(in.Name) == "" {
		v.Fail("the movement has no name")
	}
	o.Need("posture")
	o.Into("posture", 40, &in.Posture)
	o.Need("sides")
	o.Into("sides", 20, &in.Sides)
	if e, ok := o.Get("seconds_per_rep"); ok {
		in.PerRep = clock.Seconds(e.Float(.2, 300))
	}
	if e, ok := o.Get("effort"); ok {
		in.Effort = e.Float(0, 10)
	}
	in.extra = o.Done(keep)
	return in
}

// ---- writing

func said(sp clock.Span) string {
	if sp == 0 {
		return ""
	}
	return sp.Said()
}

// MarshalJSON writes the document in its published form.
func (s *Session) MarshalJSON() ([]byte, error) {
	type beat struct {
		BPM float64 `json:"bpm"`
	}
	type pace struct {
		Talk  string `json:"talk"`
		Tempo string `json:"tempo"`
	}
	out := struct {
		Format   string    `json:"format"`
		Title    string    `json:"title"`
		Focus    []string  `json:"focus,omitempty"`
		Target   string    `json:"target,omitempty"`
		Beat     *beat     `json:"beat,omitempty"`
		Pace     *pace     `json:"pace,omitempty"`
		Style    *Style    `json:"style,omitempty"`
		Audience string    `json:"audience,omitempty"`
		Note     string    `json:"note,omitempty"`
		Aside    []Aside   `json:"aside,omitempty"`
		Sections []Section `json:"sections"`
	}{Format: s.Format, Title: s.Title, Focus: s.Focus, Audience: s.Audience, Note: s.Note, Aside: s.Aside, Sections: s.Sections}
	if out.Format == "" {
		out.Format = SessionFormat
	}
	if s.Target > 0 {
		out.Target = clockText(s.Target)
	}
	if s.BPM > 0 {
		out.Beat = &beat{s.BPM}
	}
	if s.saidPace || s.Talk != Coached || s.Tempo != Even {
		out.Pace = &pace{s.Talk.String(), s.Tempo.String()}
	}
	if !s.Style.isZero() {
		out.Style = &s.Style
	}
	if out.Sections == nil {
		out.Sections = []Section{}
	}
	return strict.Join(out, s.extra)
}

// clockText is "20:00", or "0.5 s" where a clock time would lose milliseconds.
func clockText(sp clock.Span) string {
	if sp%clock.Second != 0 {
		return sp.Said()
	}
	return sp.String()
}

func (st *Style) isZero() bool {
	return !st.said && !st.LeftFirst && !st.ByDay && !st.Plain && st.Switches == 0 && st.Countdown == 0 &&
		st.Pelvis+st.Breath+st.Order+st.Sides+st.Sets+st.Count+st.WarmUp+st.Symmetry == ""
}

// MarshalJSON writes what was said of the style.
func (st *Style) MarshalJSON() ([]byte, error) {
	out := struct {
		First    string `json:"first_side,omitempty"`
		Pelvis   string `json:"pelvis,omitempty"`
		Breath   string `json:"breath,omitempty"`
		Mirrored *bool  `json:"mirrored,omitempty"`
		Order    string `json:"order,omitempty"`
		Sides    string `json:"sides,omitempty"`
		Sets     string `json:"sets,omitempty"`
		Count    string `json:"count,omitempty"`
		Switches int    `json:"switches,omitempty"`
		WarmUp   string `json:"warm_up,omitempty"`
		Symmetry string `json:"symmetry,omitempty"`
		Down     int    `json:"countdown,omitempty"`
	}{
		Pelvis: st.Pelvis, Breath: st.Breath, Order: st.Order, Sides: st.Sides, Sets: st.Sets, Count: st.Count, Switches: st.Switches, WarmUp: st.WarmUp,
		Symmetry: st.Symmetry, Down: st.Countdown,
	}
	switch {
	case st.ByDay:
		out.First = "by day"
	case st.LeftFirst:
		out.First = "left"
	case st.saidFirst:
		out.First = "right"
	}
	if st.saidMirr || st.Plain {
		m := !st.Plain
		out.Mirrored = &m
	}
	return strict.Join(out, st.extra)
}

// MarshalJSON writes the section.
func (s Section) MarshalJSON() ([]byte, error) {
	blocks := s.Blocks
	if blocks == nil {
		blocks = []Block{}
	}
	return strict.Join(struct {
		Title  string  `json:"title"`
		Blocks []Block `json:"blocks"`
	}{s.Title, blocks}, s.extra)
}

// MarshalJSON writes the block.
func (b Block) MarshalJSON() ([]byte, error) {
	rows := b.Rows
	if rows == nil {
		rows = []Row{}
	}
	out := struct {
		Rule   Rule   `json:"rule"`
		Rounds int    `json:"rounds,omitempty"`
		On     string `json:"on,omitempty"`
		Off    string `json:"off,omitempty"`
		Rest   string `json:"rest,omitempty"`
		Rows   []Row  `json:"rows"`
	}{Rule: b.Rule, On: said(b.On), Off: said(b.Off), Rest: said(b.Rest), Rows: rows}
	if b.Rule == Rounds {
		out.Rounds = max(1, b.Rounds)
	}
	return strict.Join(out, b.extra)
}

// MarshalJSON writes the override.
func (o *Override) MarshalJSON() ([]byte, error) {
	return strict.Join(struct {
		Dose  string `json:"dose,omitempty"`
		Level int    `json:"level,omitempty"`
	}{o.Dose.String(), o.Level}, o.extra)
}

// MarshalJSON writes the inline movement.
func (in *Inline) MarshalJSON() ([]byte, error) {
	return strict.Join(struct {
		Name    string           `json:"name"`
		Posture movement.Posture `json:"posture"`
		Sides   movement.Sides   `json:"sides"`
		PerRep  float64          `json:"seconds_per_rep,omitempty"`
		Effort  float64          `json:"effort,omitempty"`
	}{in.Name, in.Posture, in.Sides, in.PerRep.Seconds(), in.Effort}, in.extra)
}

// MarshalJSON writes the row.
func (r Row) MarshalJSON() ([]byte, error) {
	if r.IsRest {
		rest := r.Rest
		if rest == 0 {
			rest = movement.RestSpan
		}
		return strict.Join(struct {
			Rest   string `json:"rest"`
			Say    string `json:"say,omitempty"`
			Note   string `json:"note,omitempty"`
			Locked bool   `json:"locked,omitempty"`
		}{rest.Said(), r.Say, r.Note, r.Locked}, r.extra)
	}
	out := struct {
		Movement any       `json:"movement"`
		Level    int       `json:"level,omitempty"`
		Dose     string    `json:"dose,omitempty"`
		Sides    string    `json:"sides,omitempty"`
		Right    *Override `json:"right,omitempty"`
		Left     *Override `json:"left,omitempty"`
		Locked   bool      `json:"locked,omitempty"`
		Note     string    `json:"note,omitempty"`
		Options  []int     `json:"options,omitzero"`
		Demo     int       `json:"demo,omitempty"`
	}{r.Movement, r.Level, r.Dose.String(), r.Sides.String(), r.Right, r.Left, r.Locked, r.Note, r.Options, r.Demo}
	if r.Inline != nil {
		out.Movement = r.Inline
	}
	return strict.Join(out, r.extra)
}

// Clone is a copy that shares nothing that edits change.
func (s *Session) Clone() *Session {
	c := *s
	c.Focus, c.Aside = slices.Clone(s.Focus), slices.Clone(s.Aside)
	c.Sections = slices.Clone(s.Sections)
	for i := range c.Sections {
		c.Sections[i].Blocks = slices.Clone(c.Sections[i].Blocks)
		for j := range c.Sections[i].Blocks {
			b := &c.Sections[i].Blocks[j]
			b.Rows = slices.Clone(b.Rows)
			for k := range b.Rows {
				b.Rows[k] = b.Rows[k].clone()
			}
		}
	}
	return &c
}

func (r Row) clone() Row {
	if r.Right != nil {
		o := *r.Right
		r.Right = &o
	}
	if r.Left != nil {
		o := *r.Left
		r.Left = &o
	}
	if r.Inline != nil {
		in := *r.Inline
		r.Inline = &in
	}
	r.Options = slices.Clone(r.Options)
	return r
}
