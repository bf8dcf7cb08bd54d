package plan

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
)

// SessionFormatBuilt is that of a session with words of how a class is built: flow, build up, timed chains, rounds that change, phases, transitions, and what is
// said of sections, blocks, rows and sides. It has all words of the versions before.
const SessionFormatBuilt = "wavekine.session/1.2"

// Manner is how a part of a class is taught where that differs from what is around it; what is not said is as around it.
type Manner struct {
	Talk  *Talk
	Tempo *Tempo
	BPM   float64 // beats a minute; 0: as around it
	Style Style   // only the questions of PartStyleKeys
}

// PartStyleKeys are the questions of the schools that a section, a block or a row can answer for itself.
func PartStyleKeys() []string { return []string{"first_side", "pelvis", "breath", "paced"} }

// isZero tells whether nothing is said.
func (m *Manner) isZero() bool {
	return m.Talk == nil && m.Tempo == nil && m.BPM == 0 && m.Style.isZero()
}

// over puts what is said over what is around it.
func (st Style) over(part *Style) Style {
	for _, q := range questions {
		if n := q.get(part); n > 0 {
			q.set(&st, n)
		}
	}
	return st
}

// MannerAt is how the row of a place is taught: as its block, its section and the class say, the nearest first. A place without a row is that of its block.
func (s *Session) MannerAt(p Path) (talk Talk, tempo Tempo, bpm float64, st Style) {
	talk, tempo, bpm, st = s.Talk, s.Tempo, s.BPM, s.Style
	take := func(m *Manner) {
		if m.Talk != nil {
			talk = *m.Talk
		}
		if m.Tempo != nil {
			tempo = *m.Tempo
		}
		if m.BPM > 0 {
			bpm = m.BPM
		}
		st = st.over(&m.Style)
	}
	if p.Section < 1 || p.Section > len(s.Sections) {
		return talk, tempo, bpm, st
	}
	take(&s.Sections[p.Section-1].Manner)
	b := s.Block(p)
	if b == nil {
		return talk, tempo, bpm, st
	}
	take(&b.Manner)
	if r := s.Row(p); r != nil {
		take(&Manner{Tempo: r.Tempo, Style: r.Style})
	}
	return talk, tempo, bpm, st
}

// StyleAt is the school in force at a place.
func (s *Session) StyleAt(p Path) Style {
	_, _, _, st := s.MannerAt(p)
	return st
}

// Told is what is said of a row or of one side of it.
type Told struct {
	Say     string   // aloud, beside the movement's own words
	Cue     string   // a short one while it is done
	Caution string   // who should take care, besides the movement's own cautions
	Tempo   *Tempo   // nil: as around it
	Choices []string // options in words, offered besides levels: "fists instead of palms"
}

// Limits of what is said of a row; judgement.
const (
	maxChoices = 3
	maxChoice  = 120 // characters
	maxTold    = 400
	maxTimed   = 60 // lines within one stillness
	maxPhases  = 8
)

func tooLong(s string, n int) bool { return len([]rune(s)) > n }

func (t *Told) isZero() bool {
	return t.Say == "" && t.Cue == "" && t.Caution == "" && t.Tempo == nil && len(t.Choices) == 0
}

// TimedWord is a line said within a row, so long after its work begins on a side.
type TimedWord struct {
	At  clock.Span
	Say string
}

// Once is how often a row that has no sides is done in a chain.
type Once uint8

// Unsaid is each: such a row is done in both passes.
const (
	OnceUnsaid Once = iota
	OnceFirst       // in the first pass only
	OnceEach
)

var onceNames = []string{"", "first", "each"}

// RoundChange is what a row does differently in a round, or in a pass of a chain; what is not said is as the row has it.
type RoundChange struct {
	Level int
	Dose  dose.Dose
	On    clock.Span // time on, in a timed block
	Tempo *Tempo
	Skip  bool // left out
}

func (c *RoundChange) isZero() bool {
	return c.Level == 0 && c.Dose.IsZero() && c.On == 0 && c.Tempo == nil && !c.Skip
}

// SecondSide is how a build up goes on the second side.
type SecondSide uint8

// How the second side goes; the first is the usual.
const (
	SecondClimbs SecondSide = iota // part by part again
	SecondWhole                    // the whole at once: it is known by then
)

var secondNames = []string{"climbs", "whole"}

// String is the word.
func (x SecondSide) String() string { return wordOf(x, secondNames, "SecondSide") }

// UnmarshalText reads the word.
func (x *SecondSide) UnmarshalText(b []byte) error {
	return word(x, secondNames, b, "a way of the second side: expected climbs or whole")
}

// Leads is how long a timed block is led in to; ok is false where nothing is said: then its set-up leads in.
func (b *Block) Leads() (clock.Span, bool) {
	if b.LeadIn == nil {
		return 0, false
	}
	return *b.LeadIn, true
}

// Timed tells whether the clock ends the rows of the block.
func (b *Block) Timed() bool { return b.On > 0 && (b.Rule == Rounds || b.Rule == Chain) }

// In is a row as it is in a round (of a circuit), or in a pass (of a chain), from 1; left out is false in ok.
func (r *Row) In(round int) (row *Row, on clock.Span, ok bool) {
	if round < 1 || round > len(r.ByRound) {
		return r, 0, true
	}
	c := &r.ByRound[round-1]
	if c.Skip {
		return r, 0, false
	}
	if c.isZero() {
		return r, 0, true
	}
	n := *r
	if c.Level > 0 {
		n.Level = c.Level
	}
	if !c.Dose.IsZero() {
		n.Dose, n.PartLevels = c.Dose, nil
	}
	if c.Tempo != nil {
		n.Tempo = c.Tempo
	}
	return &n, c.On, true
}

// LevelOf is the level of a part of the row's dose, from 0; level is that of the row.
func (r *Row) LevelOf(part, level int) int {
	if part < len(r.PartLevels) && r.PartLevels[part] > 0 {
		return r.PartLevels[part]
	}
	return level
}

// Settle takes from rows what they have no use for any more: after they were moved between blocks, or got a level that has no sides.
func (s *Session) Settle(lib *movement.Library) {
	for i := range s.Sections {
		for j := range s.Sections[i].Blocks {
			b := &s.Sections[i].Blocks[j]
			if b.Rule == BuildUp && len(b.Rows) > 0 && b.Rows[0].noPart() { // its parts were taken out
				b.Rule, b.Second, b.Between = Straight, SecondClimbs, ""
			}
			then := false
			for k := range b.Rows {
				r := &b.Rows[k]
				if b.Rule != Chain {
					r.OtherSide, r.Once = false, OnceUnsaid
				}
				if b.sideBySide() {
					r.Style.First = 0
				}
				if b.passes() == 0 {
					r.ByRound = nil
				} else if n := b.passes(); len(r.ByRound) > n {
					r.ByRound = slices.Clone(r.ByRound[:n])
				}
				for len(r.ByRound) > 0 && r.ByRound[len(r.ByRound)-1].isZero() {
					r.ByRound = r.ByRound[:len(r.ByRound)-1]
				}
				if len(r.ByRound) == 0 {
					r.ByRound = nil
				}
				if !b.Timed() {
					for n := range r.ByRound {
						r.ByRound[n].On = 0
					}
				}
				if r.Right != nil || r.Left != nil || r.OtherSide {
					if m, err := r.Of(lib); err == nil && m != nil {
						if r.SideRule(m) == movement.Both {
							r.Right, r.Left = nil, nil
						}
						r.OtherSide = r.OtherSide && r.SideRule(m) == movement.Each
					}
				}
				then = b.Rule == BuildUp && k > 0 && (then || r.Then || r.IsRest() && !r.IsKept()) // a rest is no part
				r.Then = then
				if len(r.PartLevels) != len(r.Dose.Parts) {
					r.PartLevels = nil
				}
			}
		}
	}
}

// noPart tells whether a row cannot be a part of a build up.
func (r *Row) noPart() bool {
	return r.IsRest() && !r.IsKept() || r.Dose.SetCount() > 1 && r.Then || len(r.PartLevels) > 0 && r.Then
}

// sideBySide tells whether the rows of a block go through one side together before the other, so that none has a first side of its own.
func (b *Block) sideBySide() bool { return b.Rule == Chain || b.Rule == BuildUp }

// passes is how many times a block goes through its rows where they may change from one time to the next; 0: they may not.
func (b *Block) passes() int {
	switch b.Rule {
	case Rounds:
		return max(1, b.Rounds)
	case Chain:
		return 2
	}
	return 0
}

// check tells what of a block and its rows cannot be done together, with the place below it: "rows[2]".
func (b *Block) check(lib *movement.Library) (place string, err error) {
	if b.Between != "" && b.Rule != Chain && b.Rule != Rounds && b.Rule != BuildUp {
		return "between", errors.New("something between belongs to rows done one side through, to circuits and to build ups")
	}
	if (b.LeadIn != nil || b.NoLastOff) && !b.Timed() {
		return "lead_in", errors.New("a lead-in, and leaving out the last time off, belong to rows with a time on")
	}
	if b.NoLastOff && b.Off == 0 {
		return "last_off", errors.New("there is no time off to leave out")
	}
	if b.Second != SecondClimbs && b.Rule != BuildUp {
		return "second_side", errors.New("how the second side goes is said of a build up")
	}
	for i := range b.Rows {
		if err := b.checkRow(&b.Rows[i], lib); err != nil {
			return b.rowPlace(i), err
		}
	}
	return "", nil
}

func times(n int) string {
	if n == 1 {
		return "once"
	}
	return strconv.Itoa(n) + " times"
}

// rowPlace is where a row stands in the document of its block, from 0.
func (b *Block) rowPlace(i int) string {
	if b.Rule != BuildUp {
		return fmt.Sprintf("rows[%d]", i)
	}
	n := b.PartsDone()
	if i < n {
		return fmt.Sprintf("parts[%d]", i)
	}
	return fmt.Sprintf("rows[%d]", i-n)
}

// PartsDone is how many rows of a build up are its parts; the others come after the climb.
func (b *Block) PartsDone() int {
	for i := range b.Rows {
		if b.Rows[i].Then {
			return i
		}
	}
	return len(b.Rows)
}

func (b *Block) checkRow(r *Row, lib *movement.Library) error {
	switch {
	case b.Rule != Chain && (r.OtherSide || r.Once != OnceUnsaid):
		return errors.New("the other side, and the first pass only, belong to rows that are done one side through")
	case len(r.ByRound) > b.passes():
		return fmt.Errorf("%d are said by round: the block goes through its rows %s", len(r.ByRound), times(max(1, b.passes())))
	case r.Then && b.Rule != BuildUp:
		return errors.New("only a build up has rows after its parts")
	case b.Timed() && len(r.PartLevels) > 0:
		return errors.New("phases are counted: a row whose time is the block's has none")
	case r.Style.First > 0 && b.sideBySide():
		return errors.New("which side is first is said of the whole block where its rows share their sides")
	}
	if r.IsRest() {
		if b.Rule == BuildUp && !r.Then && !r.IsKept() {
			return errors.New("a part of a build up is a movement")
		}
		return nil
	}
	if b.Rule == BuildUp && !r.Then && (r.Dose.SetCount() > 1 || len(r.PartLevels) > 0) {
		return errors.New("a part of a build up has neither sets nor phases: it is done once a step")
	}
	m, err := r.Of(lib)
	if err != nil || m == nil {
		return nil // found elsewhere
	}
	levels := append(slices.Clone(r.PartLevels), r.Demo)
	for _, c := range r.ByRound {
		levels = append(levels, c.Level)
		if c.On > 0 && !b.Timed() {
			return errors.New("a time on by round belongs to a block with a time on")
		}
	}
	for _, o := range []*Override{r.Right, r.Left} {
		if o != nil {
			levels = append(append(levels, o.Level), o.Options...)
		}
	}
	for _, n := range append(levels, r.Options...) {
		if n > len(m.Levels) {
			return fmt.Errorf("level %d: %s has %s", n, m.Name, levelsOf(m))
		}
	}
	sides := r.SideRule(m)
	if (r.Right != nil || r.Left != nil) && sides == movement.Both {
		return fmt.Errorf("%s has no sides: nothing can be said of one", m.Name)
	}
	if r.OtherSide && sides != movement.Each {
		return fmt.Errorf("%s is not done on one side at a time: it has no other side", m.Name)
	}
	return nil
}

func levelsOf(m *movement.Movement) string {
	if len(m.Levels) == 1 {
		return "one level"
	}
	return strconv.Itoa(len(m.Levels)) + " levels"
}

// builtWords tells whether the session says anything that SessionFormatBuilt has.
func (s *Session) builtWords() bool {
	if s.Style.Paced > 0 || s.Style.Sets == SetsByMovement {
		return true
	}
	for i := range s.Sections {
		sec := &s.Sections[i]
		if sec.Note != "" || !sec.Manner.isZero() {
			return true
		}
		for j := range sec.Blocks {
			if sec.Blocks[j].built() {
				return true
			}
		}
	}
	return false
}

func (b *Block) built() bool {
	if b.Rule > Rounds || b.Title != "" || b.Note != "" || !b.Manner.isZero() || b.LeadIn != nil || b.NoLastOff || b.Between != "" || b.Rule == Chain && b.On > 0 {
		return true
	}
	return slices.ContainsFunc(b.Rows, func(r Row) bool { return r.built() })
}

func (r *Row) built() bool {
	if r.IsTurn() || r.IsKept() {
		return true
	}
	for _, o := range []*Override{r.Right, r.Left} {
		if o != nil && (!o.Told.isZero() || o.Note != "" || o.Options != nil) {
			return true
		}
	}
	return len(r.PartLevels) > 0 || r.Ends != movement.NoPosture || r.OtherSide || r.Once > 0 || len(r.ByRound) > 0 || r.Then || !r.Told.isZero() || !r.Style.isZero() || len(r.Timed) > 0 ||
		r.Inline != nil && len(r.Inline.Levels) > 0
}

// SaysSame tells whether two rows are built and said the same way: all of them that SessionFormatBuilt has.
func (r *Row) SaysSame(o *Row) bool {
	if !r.built() && !o.built() && r.Faces == o.Faces && r.OnMat == o.OnMat {
		return true
	}
	if (r.Rest == nil) != (o.Rest == nil) || r.Rest != nil && *r.Rest != *o.Rest {
		return false
	}
	return JoinClauses(r.Clauses(nil)) == JoinClauses(o.Clauses(nil))
}

// TakeSaid writes into a row how another is built and said, where that was changed from what it was.
func (r *Row) TakeSaid(was, now *Row) {
	next := now.clone()
	for _, f := range []struct {
		changed bool
		take    func()
	}{
		{was.Say != now.Say, func() { r.Say = next.Say }},
		{was.Cue != now.Cue, func() { r.Cue = next.Cue }},
		{was.Caution != now.Caution, func() { r.Caution = next.Caution }},
		{tempoWord(was.Tempo) != tempoWord(now.Tempo), func() { r.Tempo = next.Tempo }},
		{!slices.Equal(was.Choices, now.Choices), func() { r.Choices = next.Choices }},
		{!slices.Equal(was.Timed, now.Timed), func() { r.Timed = next.Timed }},
		{!slices.Equal(was.PartLevels, now.PartLevels), func() { r.PartLevels = next.PartLevels }},
		{!slices.EqualFunc(was.ByRound, now.ByRound, func(a, b RoundChange) bool { return a.String() == b.String() }), func() { r.ByRound = next.ByRound }},
		{was.Ends != now.Ends, func() { r.Ends = next.Ends }},
		{was.Faces != now.Faces, func() { r.Faces = next.Faces }},
		{was.OnMat != now.OnMat, func() { r.OnMat = next.OnMat }},
		{was.OtherSide != now.OtherSide, func() { r.OtherSide = next.OtherSide }},
		{was.Once != now.Once, func() { r.Once = next.Once }},
		{was.Style.First != now.Style.First || was.Style.Paced != now.Style.Paced || was.Style.Breath != now.Style.Breath || was.Style.Pelvis != now.Style.Pelvis, func() { r.Style = next.Style }},
	} {
		if f.changed {
			f.take()
		}
	}
	if len(r.PartLevels) != len(r.Dose.Parts) {
		r.PartLevels = nil
	}
}

func (t Told) clone() Told {
	t.Choices = slices.Clone(t.Choices)
	return t
}

// check tells what of it is too long or too much.
func (t *Told) check() error {
	for _, f := range []struct{ what, words string }{{"say", t.Say}, {"cue", t.Cue}, {"caution", t.Caution}} {
		if tooLong(f.words, maxTold) {
			return fmt.Errorf("%s: at most %d characters", f.what, maxTold)
		}
	}
	if len(t.Choices) > maxChoices {
		return fmt.Errorf("at most %d options in words", maxChoices)
	}
	for _, c := range t.Choices {
		if strings.TrimSpace(c) == "" || tooLong(c, maxChoice) {
			return fmt.Errorf("an option in words has 1 to %d characters", maxChoice)
		}
	}
	return nil
}
