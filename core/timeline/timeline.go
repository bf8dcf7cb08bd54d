// Package timeline works out everything that happens in a session, to the millisecond: setting up,
// changing position, working each side, holding, resting. Steps are contiguous, their sum is the
// total, and the same document always gives the same timeline.
package timeline

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/effort"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Kind is what a step is.
type Kind uint8

// The kinds of step.
const (
	Position Kind = iota // changing position on the mat
	Setup                // setting up and talking through
	Work
	Pulse
	Hold
	Switch // changing side
	Rest
)

var kindNames = [...]string{"position", "setup", "work", "pulse", "hold", "switch", "rest"}

// String is the word.
func (k Kind) String() string {
	if int(k) >= len(kindNames) {
		return fmt.Sprintf("Kind(%d)", uint8(k))
	}
	return kindNames[k]
}

// MarshalText writes the word.
func (k Kind) MarshalText() ([]byte, error) { return []byte(k.String()), nil }

// UnmarshalText reads the word.
func (k *Kind) UnmarshalText(b []byte) error {
	i := slices.Index(kindNames[:], string(b))
	if i < 0 {
		return fmt.Errorf("%.30q is no kind of step", b)
	}
	*k = Kind(i)
	return nil
}

// Working tells whether the body works: work, pulse or hold.
func (k Kind) Working() bool { return k == Work || k == Pulse || k == Hold }

// Side is which side a step is done on.
type Side uint8

// The sides of a step.
const (
	Both Side = iota
	Right
	Left
	Alternating
)

var sideNames = [...]string{"both", "right", "left", "alternating"}

// String is the word.
func (s Side) String() string {
	if int(s) >= len(sideNames) {
		return fmt.Sprintf("Side(%d)", uint8(s))
	}
	return sideNames[s]
}

// MarshalText writes the word.
func (s Side) MarshalText() ([]byte, error) { return []byte(s.String()), nil }

// UnmarshalText reads the word.
func (s *Side) UnmarshalText(b []byte) error {
	i := slices.Index(sideNames[:], string(b))
	if i < 0 {
		return fmt.Errorf("%.30q is no side of a step", b)
	}
	*s = Side(i)
	return nil
}

// Other is the other side.
func (s Side) Other() Side {
	switch s {
	case Right:
		return Left
	case Left:
		return Right
	}
	return s
}

// Cue is a mark within a step at which something is said or sounded. At is when, as planned; where it comes in a step
// that turns out longer or shorter follows from the rest, see In.
type Cue struct {
	At     clock.Span `json:"at"`
	Cue    string     `json:"cue"`
	Say    string     `json:"say,omitempty"` // the words, where the cue is words said at their time
	Share  float64    `json:"-"`             // of the step's length: 0 its start, 1 its end
	Before clock.Span `json:"-"`             // less so much
	Reps   int        `json:"-"`             // less so many repetitions
}

// In is how far into a step of a length the cue comes, where one repetition takes perRep.
func (q Cue) In(length, perRep clock.Span) clock.Span {
	return max(0, length.Times(q.Share)-q.Before-perRep*clock.Span(q.Reps))
}

// at sets when the cue comes in a step as planned.
func (q Cue) at(s *Step) Cue {
	perRep := clock.Span(0)
	if s.Reps > 0 {
		perRep = s.S / clock.Span(s.Reps)
	}
	q.At = s.At + q.In(s.S, perRep)
	return q
}

// Piece is a part of what is built up.
type Piece struct {
	Row   plan.Path          `json:"row"`
	Move  *movement.Movement `json:"-"`
	Level int                `json:"-"`
	S     clock.Span         `json:"s"` // in each repetition
}

// Step is one timed thing that happens.
type Step struct {
	At        clock.Span
	S         clock.Span
	Kind      Kind
	Row       plan.Path
	Move      *movement.Movement // nil for a rest row
	Level     int
	Side      Side
	Posture   movement.Posture
	Effort    float64 // 0..10
	Reps      int     // single repetitions or pulses counted in the step
	Breaths   int
	BreathIn  clock.Span // one breath in and out, where the dose counts breaths
	BreathOut clock.Span
	Round     int        // of a circuit, from 1; 0 elsewhere
	Parts     []Piece    // what is done as one in a build up, in order; nil elsewhere
	Aim       string     // what a circuit by the clock has as a dose: the aim within the time, "10 reps"
	Set       int        // from 1
	Part      int        // which part of the dose, from 1; 0 where the step is none
	Into      clock.Span // what getting there was to take of its time, see Slot
	Clocked   bool       // the clock ends it, not a count
	Says      string
	Cues      []Cue
	spread    float64
	least     float64 // of its length, where a range was said: 8 to 10; 0: none was
	most      float64
}

// Uncertain is how much shorter or longer the step may be.
func (s *Step) Uncertain() clock.Span { return s.S.Times(s.spread - 1) }

// Doubt is a row whose length is uncertain, and by how much either way.
type Doubt struct {
	Row plan.Path
	By  clock.Span
}

// leastDoubt is from where on a row's uncertainty is worth a word; judgement.
const leastDoubt = 5 * clock.Second

// LeastCertain lists at most n rows whose length is least certain, the least first.
func (tl *Timeline) LeastCertain(n int) (out []Doubt) {
	at := map[plan.Path]int{}
	for i := range tl.Steps {
		s := &tl.Steps[i]
		k, ok := at[s.Row]
		if !ok {
			k = len(out)
			at[s.Row] = k
			out = append(out, Doubt{Row: s.Row})
		}
		out[k].By += s.Uncertain()
	}
	out = slices.DeleteFunc(out, func(d Doubt) bool { return d.By < leastDoubt })
	slices.SortStableFunc(out, func(a, b Doubt) int { return cmp.Compare(b.By, a.By) })
	return out[:min(n, len(out))]
}

// End is when the step is over.
func (s *Step) End() clock.Span { return s.At + s.S }

// Sums are the totals of a timeline. Work includes pulses; work, hold, setup, position, rest and
// switch add up to the total.
type Sums struct {
	Work, Hold, Setup, Position, Rest, Switch clock.Span
	Right, Left                               clock.Span
	PositionsChanged, KitChanges              int
}

// Timeline is all steps of a session in order.
type Timeline struct {
	Steps     []Step
	Total     clock.Span
	Low, High clock.Span // the honest range of the total
	Sums      Sums
}

// RowSpan gives when a row is first met, with its set-up, and the sum of all its steps.
func (t *Timeline) RowSpan(p plan.Path) (at, sum clock.Span, ok bool) {
	for i := range t.Steps {
		if s := &t.Steps[i]; s.Row == p {
			if !ok {
				at, ok = s.At, true
			}
			sum += s.S
		}
	}
	return at, sum, ok
}

// Known are the movements that everybody has met before a class, with their levels: on earlier days of a series. They are set up as what was met before
// in the class itself.
type Known map[string]int

// Meet adds everything that is done in a session.
func (k Known) Meet(s *plan.Session, lib *movement.Library) {
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if m, err := r.Of(lib); err == nil && m != nil {
			k[m.Slug] |= 1 << max(1, r.Level)
			for _, l := range r.PartLevels {
				k[m.Slug] |= 1 << l
			}
		}
	})
}

// Build works out the timeline of a session. Cost grows linearly with the steps.
func Build(s *plan.Session, lib *movement.Library) (*Timeline, error) {
	return BuildKnown(s, lib, nil)
}

// BuildKnown works it out for people who know some of it already.
func BuildKnown(s *plan.Session, lib *movement.Library, known Known) (*Timeline, error) {
	b := &builder{s: s, lib: lib, own: lib.Pace(), met: make(map[string]int, 32), known: known, fetched: map[string]bool{}}
	b.t.Steps = make([]Step, 0, s.Rows()*4)
	for i := range s.Sections {
		for j := range s.Sections[i].Blocks {
			blk := &s.Sections[i].Blocks[j]
			if err := b.block(plan.Path{Section: i + 1, Block: j + 1}, blk); err != nil {
				return nil, err
			}
		}
	}
	b.finish()
	return &b.t, nil
}

type builder struct {
	s           *plan.Session
	lib         *movement.Library
	own         movement.Personal // the teacher's pace
	pace        paces             // and what follows: as the class, the section, the block and the row say
	tempo       float64
	bpm         float64
	style       plan.Style
	t           Timeline
	at          clock.Span
	posture     movement.Posture
	lying       Side           // which side works, where the posture is one-sided
	met         map[string]int // slug to a bit set of levels met
	known       Known
	inUse       []string        // of the movement before
	fetched     map[string]bool // things that lie beside the mat
	tired       effort.Fatigue
	flowing     bool // within a flow
	opened      bool // the opening has been given its time
	inStretches bool // the row before was a stretch said as a time
	faces       plan.Faces
}

// taught sets how the row, or with a row of 0 the block, of a place is taught.
func (b *builder) taught(p plan.Path) {
	talk, tempo, bpm, st := b.s.MannerAt(p)
	b.pace, b.tempo, b.bpm, b.style = PaceOf(talk).at(b.own), tempo.Factor(), bpm, st
}

// line is one row made ready.
type line struct {
	path  plan.Path
	row   *plan.Row
	m     *movement.Movement
	sides movement.Sides
	dose  dose.Dose
}

func (b *builder) line(p plan.Path, r *plan.Row) (line, error) {
	m, err := r.Of(b.lib)
	if err != nil {
		return line{}, fmt.Errorf("row %s: %w", p, err)
	}
	l := line{path: p, row: r, m: m}
	if m == nil {
		return l, nil
	}
	l.dose = r.DoseOf(m)
	rr := *r
	rr.Dose = l.dose
	l.sides = rr.SideRule(m)
	return l, nil
}

// on gives what the row does on one side.
func (l line) on(s Side) (dose.Dose, int) {
	switch s {
	case Right:
		return l.row.OnSide(l.m, l.row.Right)
	case Left:
		return l.row.OnSide(l.m, l.row.Left)
	}
	return l.row.OnSide(l.m, nil)
}

func (b *builder) first() Side {
	if b.style.First == plan.LeftFirst {
		return Left
	}
	return Right
}

func (b *builder) block(p plan.Path, blk *plan.Block) error {
	lines := make([]line, len(blk.Rows))
	for i := range blk.Rows {
		p.Row = i + 1
		l, err := b.line(p, &blk.Rows[i])
		if err != nil {
			return err
		}
		lines[i] = l
	}
	p.Row = 0
	b.taught(p)
	b.flowing = blk.Rule == plan.Flow
	switch {
	case len(lines) == 0:
	case blk.Rule == plan.Chain:
		return b.chain(p, blk, lines)
	case blk.Rule == plan.BuildUp:
		b.buildUp(p, blk, lines)
	case blk.Rule == plan.Rounds && blk.On > 0:
		return b.timed(p, blk, lines)
	case blk.Rule == plan.Rounds:
		return b.rounds(blk, lines)
	default:
		for i := range lines {
			how := entry
			if blk.Rule == plan.Flow && i > 0 {
				how = inFlow
			}
			b.row(&lines[i], how)
			if blk.Rest > 0 && i+1 < len(lines) {
				b.rest(&lines[i], blk.Rest, "")
			}
		}
	}
	return nil
}

// in is a line as it is in a round, or in a pass of a chain; ok is false where it is left out of it.
func (b *builder) in(l *line, round int) (out line, on clock.Span, ok bool, err error) {
	r, on, ok := l.row.In(round)
	if !ok || r == l.row {
		return *l, on, ok, nil
	}
	out, err = b.line(l.path, r)
	return out, on, true, err
}

func (b *builder) rounds(blk *plan.Block, lines []line) error {
	for r := 1; r <= max(1, blk.Rounds); r++ {
		from := len(b.t.Steps)
		for i := range lines {
			l, _, ok, err := b.in(&lines[i], r)
			if err != nil {
				return err
			}
			if ok {
				b.row(&l, entry)
			}
		}
		for i := from; i < len(b.t.Steps); i++ {
			b.t.Steps[i].Round = r
		}
		if r < blk.Rounds {
			b.between(blk, &lines[len(lines)-1], "between rounds")
		}
	}
	return nil
}

// between is what comes between the sides or the rounds of a block.
func (b *builder) between(blk *plan.Block, l *line, says string) {
	if blk.Between != "" {
		says = blk.Between
	}
	n := blk.Rest
	if n == 0 && blk.Between != "" {
		n = movement.RestSpan
	}
	b.rest(l, n, says)
}

// row does one row straight through: both its sides where it has two.
func (b *builder) row(l *line, how int) {
	if l.m == nil {
		b.restRow(l)
		return
	}
	b.taughtRow(l)
	slot := b.slotted(l)
	first := b.first()
	switch l.sides {
	case movement.Each:
		d, _ := l.on(first)
		d2, _ := l.on(first.Other())
		sets := max(d.SetCount(), d2.SetCount())
		for set := 1; set <= sets; set++ {
			for n, side := range [2]Side{first, first.Other()} {
				od, level := l.on(side)
				if set > od.SetCount() {
					continue
				}
				into := clock.Span(0)
				if n == 0 && set == 1 {
					into = b.enter(l, level, side, slot, how)
				} else {
					second := b.pace.changes.SecondSide
					if b.flowing {
						second = b.pace.changes.InChain
					}
					into = b.turn(l, level, side, slot, second)
				}
				b.parts(l, od, level, side, set, into)
				b.leave(l)
			}
			if set < sets && d.Rest > 0 {
				b.rest(l, d.Rest, "between sets")
			}
		}
	default:
		side := startSide(l, first)
		d, level := l.on(side)
		into := b.enter(l, level, side, slot, how)
		for set := 1; set <= d.SetCount(); set++ {
			b.parts(l, d, level, side, set, into)
			into = 0
			if set < d.SetCount() && d.Rest > 0 {
				b.rest(l, d.Rest, "between sets")
			}
		}
		b.leave(l)
	}
	b.inStretches = slot || timedStretch(l)
}

// taughtRow sets how a row is taught.
func (b *builder) taughtRow(l *line) {
	b.taught(l.path)
	if l.row.Tempo != nil { // also where it is that of a round
		b.tempo = l.row.Tempo.Factor()
	}
}

// taughtSide sets how a side of a row is taught, where that is otherwise.
func (b *builder) taughtSide(l *line, side Side) {
	b.taughtRow(l)
	if o := l.own(side); o != nil && o.Tempo != nil {
		b.tempo = o.Tempo.Factor()
	}
}

// own is what one side of the row does differently; nil where it does not.
func (l *line) own(side Side) *plan.Override {
	switch side {
	case Right:
		return l.row.Right
	case Left:
		return l.row.Left
	}
	return nil
}

// slotted tells whether the row is one of a sequence of stretches said as "30 s each": its time
// then contains getting into it.
func (b *builder) slotted(l *line) bool { return b.inStretches && timedStretch(l) }

func timedStretch(l *line) bool {
	if l.m == nil || !l.m.Stretch || len(l.dose.Parts) != 1 {
		return false
	}
	p := l.dose.Parts[0]
	return p.Kind == dose.Time && p.Off == 0
}

// chain does every row on the first side, then every row on the other; by the clock where the block has a time on.
func (b *builder) chain(p plan.Path, blk *plan.Block, lines []line) error {
	first := b.first()
	led := false
	for n, side := range [2]Side{first, first.Other()} {
		done := false
		for i := range lines {
			l, on, ok, err := b.in(&lines[i], n+1)
			if err != nil {
				return err
			}
			if !ok || n == 1 && l.row.Once == plan.OnceFirst {
				continue
			}
			if l.m == nil {
				b.restRow(&l)
				continue
			}
			at, ok := l.inPass(side)
			if !ok {
				continue
			}
			b.taughtSide(&l, at)
			if blk.On > 0 {
				last := n == 1 && i == lastDone(lines, 2)
				b.byClock(blk, &l, on, at, !led, last)
				led, done = true, true
				continue
			}
			d, level := l.on(at)
			switch {
			case n == 1 && !done:
				b.turn(&l, level, at, false, b.pace.changes.InChain)
			case done:
				b.enter(&l, level, at, false, inChain)
			default:
				b.enter(&l, level, at, false, entry)
			}
			done = true
			for set := 1; set <= d.SetCount(); set++ {
				b.parts(&l, d, level, at, set, 0)
				if set < d.SetCount() && d.Rest > 0 {
					b.rest(&l, d.Rest, "between sets")
				}
			}
			b.leave(&l)
		}
		if n == 0 {
			b.taught(p)
			b.between(blk, &lines[len(lines)-1], "between sides")
		}
	}
	b.inStretches = false
	return nil
}

// lastDone is the last of the lines that is done in a round, or in a pass of a chain; -1 where none is.
func lastDone(lines []line, round int) int {
	for i := len(lines) - 1; i >= 0; i-- {
		if _, _, ok := lines[i].row.In(round); ok && !(round > 1 && lines[i].row.Once == plan.OnceFirst) {
			return i
		}
	}
	return -1
}

// inPass is the side on which the row is done in a pass of a chain; ok is false where it is not done in it.
func (l *line) inPass(side Side) (at Side, ok bool) {
	at = side
	if l.row.OtherSide {
		at = side.Other()
	}
	switch {
	case l.sides == movement.RightOnly:
		return at, at == Right
	case l.sides == movement.LeftOnly:
		return at, at == Left
	case l.sides == movement.Both:
		return Both, true
	case l.sides == movement.Alternating:
		return Alternating, true
	}
	return at, true
}

// timed does a circuit by the clock: on and off, with setting up and changing position inside the off time, after one lead-in.
func (b *builder) timed(p plan.Path, blk *plan.Block, lines []line) error {
	led := false
	for r := 1; r <= max(1, blk.Rounds); r++ {
		from := len(b.t.Steps)
		for i := range lines {
			l, on, ok, err := b.in(&lines[i], r)
			if err != nil {
				return err
			}
			if !ok {
				continue
			}
			if l.m == nil {
				b.restRow(&l)
				continue
			}
			b.taughtRow(&l)
			b.byClock(blk, &l, on, startSide(&l, b.first()), !led, r == max(1, blk.Rounds) && i == lastDone(lines, r))
			led = true
		}
		for i := from; i < len(b.t.Steps); i++ {
			b.t.Steps[i].Round = r
			b.t.Steps[i].aim(lines, r)
		}
		if r < blk.Rounds {
			b.taught(p)
			b.between(blk, &lines[len(lines)-1], "between rounds")
		}
	}
	b.inStretches = false
	return nil
}

// byClock does a row of a timed block: its time on, then its time off. In a circuit a row with two sides has half of it on each; in a chain it is done on the
// side of the pass.
func (b *builder) byClock(blk *plan.Block, l *line, on clock.Span, side Side, leads, last bool) {
	if on == 0 {
		on = blk.On
	}
	_, level := l.on(side)
	if lead, said := blk.Leads(); leads && !said {
		b.enter(l, level, side, false, entry)
	} else {
		b.slip(l, level, side)
		if leads {
			b.step(Step{S: lead, Kind: Setup, Row: l.path, Move: l.m, Level: level, Side: side, Posture: l.m.Posture, Says: l.m.Setup, Clocked: true})
			b.opened = true
		}
	}
	b.met[l.m.Slug] |= 1 << level
	from := len(b.t.Steps)
	if l.sides == movement.Each && blk.Rule == plan.Rounds { // half the time on each side, so that a round is even
		over := clock.Span(0)
		if l.m.Posture.OneSided() { // turning over takes from both sides alike
			over = min(b.pace.changes.change(turnOver(l.m.Posture)), on/turnAtMost)
		}
		half := (on - over) / 2
		b.work(l, Work, level, side, half, 0, 0, true)
		b.words(l, from)
		if over > 0 {
			b.t.Sums.PositionsChanged++
			b.step(Step{S: over, Kind: Position, Row: l.path, Move: l.m, Level: level, Side: side.Other(), Posture: l.m.Posture, Says: strings.Join(turnOver(l.m.Posture).Says, ", then "), Clocked: true})
			b.lying = side.Other()
		}
		_, other := l.on(side.Other())
		from = len(b.t.Steps)
		b.work(l, Work, other, side.Other(), on-over-half, 0, 0, true)
	} else {
		b.work(l, Work, level, side, on, 0, 0, true)
	}
	b.words(l, from)
	b.leave(l)
	if blk.Off > 0 && !(last && blk.NoLastOff) {
		b.rest(l, blk.Off, "")
	}
}

// turnAtMost is the largest share of a time on that turning over takes, as one in so many; judgement: who has little time turns quickly.
const turnAtMost = 4

// aim keeps the dose of the row as the aim within its time; on a side that has a dose of its own that one.
func (s *Step) aim(lines []line, round int) {
	i := slices.IndexFunc(lines, func(l line) bool { return l.path == s.Row })
	if i < 0 || !s.Kind.Working() {
		return
	}
	row, _, _ := lines[i].row.In(round)
	d := row.Dose
	for _, o := range []struct {
		side Side
		its  *plan.Override
	}{{Right, row.Right}, {Left, row.Left}} {
		if o.its != nil && o.side == s.Side && !o.its.Dose.IsZero() {
			d = o.its.Dose
		}
	}
	if !d.IsZero() {
		s.Aim = d.String()
	}
}

func startSide(l *line, first Side) Side {
	switch l.sides {
	case movement.Each:
		return first
	case movement.Alternating:
		return Alternating
	case movement.RightOnly:
		return Right
	case movement.LeftOnly:
		return Left
	}
	return Both
}

// slip changes position inside an off time: it is counted but adds nothing.
func (b *builder) slip(l *line, level int, side Side) {
	if b.posture.WayTo(l.m.Posture).Steps > 0 || b.turnsOver(l.m.Posture, side) {
		b.t.Sums.PositionsChanged++
	}
	b.lie(l.m.Posture, side)
	b.changeKit(l.m, level)
}

// turnsOver tells whether a posture is come to from the same one on the other side.
func (b *builder) turnsOver(p movement.Posture, side Side) bool {
	return b.posture == p && p.OneSided() && side != Both && b.lying != Both && side != b.lying
}

// lie puts the body where a movement begins.
func (b *builder) lie(p movement.Posture, side Side) {
	b.posture, b.lying = p, Both
	if p.OneSided() {
		b.lying = side
	}
}

// changeKit is the time it takes to have what a movement needs. What was fetched once lies beside the mat: it is not fetched again. A roller or a wall is
// come to again whenever something else was done in between.
func (b *builder) changeKit(m *movement.Movement, level int) clock.Span {
	things := m.Things(level)
	was := b.inUse
	b.inUse = things
	big, small := false, false
	for _, k := range things {
		switch {
		case slices.Contains(was, k):
		case strings.Contains(k, "roller") || strings.Contains(k, "wall"):
			big = true
		case !b.fetched[k]:
			small = true
		}
		b.fetched[k] = true
	}
	switch { // putting aside is done in passing
	case big:
		b.t.Sums.KitChanges++
		return b.pace.talk.BigKit
	case small:
		b.t.Sums.KitChanges++
		return b.pace.talk.Kit
	}
	return 0
}

// How a movement is come to.
const (
	entry   = iota // on its own
	inChain        // flowing out of the one before, on the same side
	inFlow         // flowing out of the one before
)

// enter changes position and sets up. Within a sequence of timed stretches it adds no time and
// returns what the first stretch must give up instead.
func (b *builder) enter(l *line, level int, side Side, slot bool, how int) (into clock.Span) {
	m := l.m
	way := b.posture.WayTo(m.Posture)
	if b.turnsOver(m.Posture, side) {
		way = turnOver(m.Posture)
	}
	if n := b.pace.changes.change(way); n > 0 {
		b.t.Sums.PositionsChanged++
		b.step(Step{S: n, Kind: Position, Row: l.path, Move: m, Level: level, Side: side, Posture: m.Posture, Says: strings.Join(way.Says, ", then ")})
		into += n
	}
	b.lie(m.Posture, side)
	var n clock.Span
	switch {
	case slot: // the slot leaves no time for talk
	case how == inChain:
		n = b.pace.talk.InChain
	case how == inFlow, m.Rest && m.Regions["breath"] < breathes && b.opened: // a short pose to rest in is known to all
		n = b.pace.talk.InFlow
	case (b.met[m.Slug]|b.known[m.Slug])&(1<<level) != 0:
		n = b.pace.talk.MetBefore
	default:
		n = b.pace.talk.First
	}
	b.met[m.Slug] |= 1 << level
	n += b.changeKit(m, level)
	if !b.opened { // the class is opened with the first movement, whatever rest stands before it
		n += b.pace.talk.Opening
		b.opened = true
	}
	says := m.Setup
	if faces := l.row.FacesIn(m.Posture); l.row.Faces > 0 && b.faces > 0 && faces != b.faces && !slot { // turning round, where it is said to be done
		n += turnRound
		says = strings.TrimSpace(turnWords[faces] + " " + says)
	}
	b.faces = l.row.FacesIn(m.Posture)
	b.step(Step{S: n, Kind: Setup, Row: l.path, Move: m, Level: level, Side: side, Posture: m.Posture, Says: says})
	into += n
	if !slot {
		return 0
	}
	return into
}

// turnRound is how long whoever leads takes to turn round to another side of those who follow; judgement.
const turnRound = 4 * clock.Second

var turnWords = map[plan.Faces]string{plan.FacesThem: "Turn to face them.", plan.FacesSide: "Turn to be seen from the side.", plan.FacesAway: "Turn your back to them."}

func turnOver(p movement.Posture) movement.Way {
	via := "roll over through the back"
	if p == movement.SidePlank || p == movement.KneelingSidePlank {
		via = "through hands and knees to the other hand"
	}
	return movement.Way{Steps: 2, Says: []string{via}}
}

// turn changes side.
func (b *builder) turn(l *line, level int, side Side, slot bool, n clock.Span) (into clock.Span) {
	way := b.posture.WayTo(l.m.Posture)
	if b.posture == l.m.Posture && l.m.Posture.OneSided() && side != b.lying && side != Both {
		way = turnOver(l.m.Posture)
	}
	if c := b.pace.changes.change(way); c > 0 {
		b.t.Sums.PositionsChanged++
		b.step(Step{S: c, Kind: Position, Row: l.path, Move: l.m.As(level), Level: level, Side: side, Posture: l.m.Posture, Says: strings.Join(way.Says, ", then ")})
		into += c
	}
	b.posture, b.lying = l.m.Posture, side
	b.met[l.m.Slug] |= 1 << level
	b.step(Step{S: n, Kind: Switch, Row: l.path, Move: l.m.As(level), Level: level, Side: side, Posture: l.m.Posture, Says: "other side"})
	into += n
	if !slot {
		return 0
	}
	return into
}

// parts does what a dose says, once through. into is what the first part gives up for getting there.
func (b *builder) parts(l *line, d dose.Dose, level int, side Side, set int, into clock.Span) {
	b.taughtSide(l, side)
	from := len(b.t.Steps)
	phased := len(l.row.PartLevels) == len(d.Parts)
	if o := l.own(side); o != nil && !o.Dose.IsZero() {
		phased = false
	}
	row := level
	for i, p := range d.Parts {
		if phased { // the next level of a ladder is gone up to without stopping
			level = l.row.LevelOf(i, row)
			b.met[l.m.Slug] |= 1 << level
		}
		span, reps := b.length(l, d, p, level, side)
		kind := Work
		switch {
		case p.Kind == dose.Pulses:
			kind = Pulse
		case p.Kind == dose.Hold, l.m.Stretch && p.Kind == dose.Time:
			kind = Hold
		}
		said, asked := span, into
		span = Slot(said, asked)
		into -= said - span
		b.work(l, kind, level, side, span, reps, d.SetCount(), p.Span > 0)
		st := &b.t.Steps[len(b.t.Steps)-1]
		st.Part, st.Into = i+1, asked
		st.least, st.most = p.Spread()
		if p.Kind == dose.Breaths || p.Kind == dose.Hold && p.Count > 0 {
			st.Breaths = p.Count
			one := span.Times(1 / float64(p.Count))
			st.BreathIn = one / 2
			if p.In > 0 {
				st.BreathIn = one.Times(float64(p.In) / float64(p.In+p.Out))
			}
			st.BreathOut = one - st.BreathIn
		}
		if p.Off > 0 {
			b.rest(l, p.Off, "")
		}
	}
	for i := from; i < len(b.t.Steps); i++ {
		b.t.Steps[i].Set = set
	}
	if set == 1 {
		b.words(l, from)
	}
}

// words puts the lines that are said at their times into the working steps from one on; what comes after the end is said at the end.
func (b *builder) words(l *line, from int) {
	for _, w := range l.row.Timed {
		at := w.At
		for i := from; i < len(b.t.Steps); i++ {
			s := &b.t.Steps[i]
			if !s.Kind.Working() {
				continue
			}
			last := !slices.ContainsFunc(b.t.Steps[i+1:], func(o Step) bool { return o.Kind.Working() })
			if at < s.S || last {
				s.Cues = append(s.Cues, Cue{Cue: "say", Say: w.Say, Before: -min(at, s.S)}.at(s))
				break
			}
			at -= s.S
		}
	}
}

// leastHeld is how long a stretch is held at least, however long getting there takes; judgement.
const leastHeld = 5 * clock.Second

// Slot is what is left of a time that was said when getting there takes into of it: 5 s at least, or all that was said.
func Slot(said, into clock.Span) clock.Span {
	return max(said-into, min(leastHeld, said))
}

// leave puts the body where the movement ends: the way to what comes next, or back for the other side, begins there.
func (b *builder) leave(l *line) {
	end := l.m.Leaves()
	if l.row.Ends != movement.NoPosture {
		end = l.row.Ends
	}
	if end != l.m.Posture {
		b.posture, b.lying = end, Both
	}
}

// count is the length of one count of a tempo: a beat, or a second at the session's tempo and the teacher's.
func (b *builder) count(tempo float64) clock.Span {
	if b.bpm > 0 {
		return clock.Seconds(60 / b.bpm)
	}
	return movement.CountSpan.Times(tempo)
}

// length is the time of one part, and the single repetitions in it.
func (b *builder) length(l *line, d dose.Dose, p dose.Part, level int, side Side) (clock.Span, int) {
	reps := p.Count
	if p.Kind == dose.Reps && side == Alternating && (d.Per == dose.Pairs || d.Per == dose.EachSide) {
		reps *= 2 // a pair is right and left once
	}
	if side == Alternating && reps > p.Count { // of both directions too
		p.Count, p.Other = reps, 2*p.Other
	}
	all := p.Ways()
	if p.Count == 0 && p.EachWay { // a time in each direction
		all = 2
	}
	tempo := b.tempo * b.own.TempoOf(l.m)
	perRep := b.perRep(l.m, level, tempo)
	switch p.Kind {
	case dose.Reps:
		if len(p.Tempo) > 0 {
			counts := 0
			for _, c := range p.Tempo {
				counts += c
			}
			perRep = b.count(tempo) * clock.Span(counts)
		}
		perRep = perRep.Times(p.Speed.Factor())
		if p.Double { // another beat in each
			perRep += movement.PulseSpan.Times(tempo * p.Speed.Factor())
		}
		return (perRep + p.HoldEach) * clock.Span(all), all
	case dose.Pulses:
		pulse := movement.PulseSpan.Times(tempo * p.Speed.Factor())
		if p.Double {
			pulse *= 2
		}
		return pulse * clock.Span(all), all
	case dose.Rounds:
		return perRep * clock.Span(all), all
	case dose.Hold:
		if p.Counts > 0 {
			return b.count(tempo) * clock.Span(p.Counts), 0
		}
		if p.Count > 0 {
			return b.breath(l, p, level, tempo) * clock.Span(p.Count), 0
		}
		if p.Span >= 3*clock.Second && p.Span <= 5*clock.Second {
			return p.Span + movement.HoldExtra, 0
		}
		return p.Span, 0
	case dose.Breaths:
		return b.breath(l, p, level, tempo) * clock.Span(p.Count), 0
	}
	return p.Span * clock.Span(max(1, all)), 0
}

// breathes is from which share of its work on the breath on a movement is a breathing exercise, whose breaths are as slow as it says; any other breath at rest
// or in a hold is 8 s (common practice, no source). The share is judgement.
const breathes = .5

// perRep is the time of one repetition: the movement's own, or a breath where the class is paced by it.
func (b *builder) perRep(m *movement.Movement, level int, tempo float64) clock.Span {
	switch b.style.Paced {
	case plan.PacedByBreath:
		return movement.BreathPaced.Times(tempo)
	case plan.PacedByHalf:
		return (movement.BreathPaced / 2).Times(tempo)
	}
	return m.SecondsPerRep(level).Times(tempo * b.style.SwitchFactor(m))
}

// breath is the length of one breath in and out.
func (b *builder) breath(l *line, p dose.Part, level int, tempo float64) clock.Span {
	switch {
	case p.In > 0 && b.bpm > 0:
		return b.count(tempo) * clock.Span(p.In+p.Out)
	case p.In > 0:
		return (movement.BeatOfTen * clock.Span(p.In+p.Out)).Times(tempo)
	case l.m.SecondsPerRep(level) >= 5*clock.Second:
		one := l.m.SecondsPerRep(level)
		if l.m.Regions["breath"] < breathes {
			one = min(one, movement.BreathPaced)
		}
		return one.Times(tempo)
	}
	return movement.BreathPaced.Times(tempo)
}

func (b *builder) work(l *line, k Kind, level int, side Side, span clock.Span, reps, sets int, clocked bool) {
	e := b.tired.Work(l.m, l.m.At(level).Demand, k == Pulse, span)
	b.step(Step{
		S: span, Kind: k, Row: l.path, Move: l.m.As(level), Level: level, Side: side, Posture: l.m.Posture,
		Effort: math.Round(e*100) / 100, Reps: reps, Clocked: clocked, Says: l.m.Say, Set: min(sets, 1),
	})
	b.cues()
}

// Seconds before the end, and the shortest work, at which cues are given: judgement.
const (
	tenBefore   = 10 * clock.Second
	fiveBefore  = 5 * clock.Second
	halfFrom    = 12 * clock.Second
	tenFrom     = 25 * clock.Second
	fiveFrom    = 15 * clock.Second
	lastTwoFrom = 5 // repetitions
)

// cues marks the step just put.
func (b *builder) cues() {
	s := &b.t.Steps[len(b.t.Steps)-1]
	s.Cues = append(make([]Cue, 0, 4), Cue{Cue: "start"}.at(s))
	if s.S >= halfFrom {
		s.Cues = append(s.Cues, Cue{Cue: "halfway", Share: .5}.at(s))
	}
	switch {
	case s.Reps >= lastTwoFrom && !s.Clocked:
		s.Cues = append(s.Cues, Cue{Cue: "last two", Share: 1, Reps: 2}.at(s))
	case s.Reps == 0 || s.Clocked:
		if s.S >= tenFrom {
			s.Cues = append(s.Cues, Cue{Cue: "ten seconds", Share: 1, Before: tenBefore}.at(s))
		}
		if s.S >= fiveFrom {
			s.Cues = append(s.Cues, Cue{Cue: "five to go", Share: 1, Before: fiveBefore}.at(s))
		}
	}
}

func (b *builder) rest(l *line, s clock.Span, says string) {
	b.step(Step{S: s, Kind: Rest, Row: l.path, Move: l.m, Level: max(1, l.row.Level), Posture: b.posture, Says: says, Clocked: true})
}

func (b *builder) restRow(l *line) {
	switch {
	case l.row.IsKept(): // nobody knows yet what it is
		return
	case l.row.IsTurn():
		b.turnRow(l)
		return
	}
	s := l.row.Rest.For
	if s == 0 {
		s = movement.RestSpan
	}
	b.step(Step{S: s, Kind: Rest, Row: l.path, Posture: b.posture, Says: l.row.Rest.Say, Clocked: true})
	b.inStretches = false
}

// turnRow is a change of position that is led: it takes its own time, or what the way takes, and the next row begins where it ends.
func (b *builder) turnRow(l *line) {
	r := l.row.Rest
	b.taught(l.path)
	ends := r.Ends
	if ends == movement.NoPosture {
		ends = b.posture
	}
	way := b.posture.WayTo(ends)
	n := r.For
	if n == 0 {
		n = max(b.pace.changes.change(way), b.pace.changes.OneStep)
	}
	if way.Steps > 0 {
		b.t.Sums.PositionsChanged++
	}
	says := r.Turn
	if r.Say != "" {
		says += ". " + r.Say
	}
	b.posture, b.lying = ends, Both
	b.step(Step{S: n, Kind: Position, Row: l.path, Posture: ends, Says: says})
	b.inStretches = false
}

// step puts a step on the line and lets the body rest where it does not work.
func (b *builder) step(s Step) {
	if s.S <= 0 {
		return
	}
	s.At = b.at
	b.at += s.S
	if !s.Kind.Working() {
		b.tired.Rest(s.S)
	}
	b.t.Steps = append(b.t.Steps, s)
}

// finish adds up, and marks where the next movement is announced.
func (b *builder) finish() {
	t := &b.t
	t.Total = b.at
	counted := spread(b.own.Runs)
	var un uncertainty
	for i := range t.Steps {
		s := &t.Steps[i]
		switch s.Kind {
		case Work, Pulse:
			t.Sums.Work += s.S
		case Hold:
			t.Sums.Hold += s.S
		case Setup:
			t.Sums.Setup += s.S
		case Position:
			t.Sums.Position += s.S
		case Rest:
			t.Sums.Rest += s.S
		case Switch:
			t.Sums.Switch += s.S
		}
		if s.Kind.Working() {
			switch s.Side {
			case Right:
				t.Sums.Right += s.S
			case Left:
				t.Sums.Left += s.S
			case Alternating:
				t.Sums.Right += s.S / 2
				t.Sums.Left += s.S - s.S/2
			}
			if i+1 < len(t.Steps) && t.Steps[i+1].Row != s.Row || i+1 < len(t.Steps) && t.Steps[i+1].Kind == Rest {
				s.Cues = append(s.Cues, Cue{Cue: "next", Share: 1, Before: fiveBefore}.at(s))
			}
		}
		s.spread = counted
		if s.Clocked {
			s.spread = timedSpread
		}
		un.add(s)
	}
	t.Low, t.High = un.around(t.Total, b.own.Runs)
}

// ---- the published form

// MarshalJSON writes one step.
func (s Step) MarshalJSON() ([]byte, error) {
	out := struct {
		At       clock.Span       `json:"at"`
		S        clock.Span       `json:"s"`
		Kind     Kind             `json:"kind"`
		Row      plan.Path        `json:"row"`
		Movement string           `json:"movement,omitempty"`
		Level    int              `json:"level,omitempty"`
		Side     Side             `json:"side"`
		Posture  movement.Posture `json:"posture"`
		Effort   float64          `json:"effort"`
		Reps     int              `json:"reps,omitempty"`
		Breaths  int              `json:"breaths,omitempty"`
		Round    int              `json:"round,omitempty"`
		Parts    []Piece          `json:"parts,omitempty"`
		Aim      string           `json:"aim,omitempty"`
		Set      int              `json:"set,omitempty"`
		Says     string           `json:"says,omitempty"`
		Cues     []Cue            `json:"cues,omitempty"`
	}{
		s.At, s.S, s.Kind, s.Row, "", s.Level, s.Side, s.Posture, s.Effort, s.Reps, s.Breaths, s.Round, s.Parts, s.Aim, 0, "", s.Cues,
	}
	if s.Move != nil {
		out.Movement = s.Move.Slug
	}
	if s.Set > 1 {
		out.Set = s.Set
	}
	if !s.Kind.Working() && s.Kind != Setup {
		out.Says = s.Says
	}
	return json.Marshal(out)
}

// MarshalJSON writes a wavekine.timeline/1 document.
func (t *Timeline) MarshalJSON() ([]byte, error) {
	type sums struct {
		Work             clock.Span `json:"work"`
		Hold             clock.Span `json:"hold"`
		Setup            clock.Span `json:"setup"`
		Position         clock.Span `json:"position"`
		Rest             clock.Span `json:"rest"`
		Switch           clock.Span `json:"switch"`
		Right            clock.Span `json:"right"`
		Left             clock.Span `json:"left"`
		PositionsChanged int        `json:"positions_changed"`
		KitChanges       int        `json:"kit_changes"`
	}
	steps := t.Steps
	if steps == nil {
		steps = []Step{}
	}
	return json.Marshal(struct {
		Format string        `json:"format"`
		Total  clock.Span    `json:"total"`
		Range  [2]clock.Span `json:"range"`
		Steps  []Step        `json:"steps"`
		Sums   sums          `json:"sums"`
	}{"wavekine.timeline/1", t.Total, [2]clock.Span{wholeSecond(t.Low), wholeSecond(t.High)}, steps, sums(t.Sums)})
}

func wholeSecond(s clock.Span) clock.Span { return (s + clock.Second/2) / clock.Second * clock.Second }
