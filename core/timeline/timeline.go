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
	Share  float64    `json:"-"` // of the step's length: 0 its start, 1 its end
	Before clock.Span `json:"-"` // less so much
	Reps   int        `json:"-"` // less so many repetitions
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

// Build works out the timeline of a session. Cost grows linearly with the steps.
func Build(s *plan.Session, lib *movement.Library) (*Timeline, error) {
	own := lib.Pace()
	b := &builder{
		s: s, lib: lib, own: own, pace: PaceOf(s.Talk).at(own), tempo: s.Tempo.Factor(), met: make(map[string]int, 32),
	}
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
	pace        paces
	tempo       float64
	t           Timeline
	at          clock.Span
	posture     movement.Posture
	lying       Side           // which side works, where the posture is one-sided
	met         map[string]int // slug to a bit set of levels met
	kit         string
	tired       effort.Fatigue
	opened      bool // the opening has been given its time
	inStretches bool // the row before was a stretch said as a time
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
	if b.s.Style.First == plan.LeftFirst {
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
	switch {
	case len(lines) == 0:
	case blk.Rule == plan.Chain:
		b.chain(blk, lines)
	case blk.Rule == plan.Rounds && blk.On > 0:
		b.timed(blk, lines)
	case blk.Rule == plan.Rounds:
		for r := 1; r <= max(1, blk.Rounds); r++ {
			from := len(b.t.Steps)
			for i := range lines {
				b.row(&lines[i])
			}
			for i := from; i < len(b.t.Steps); i++ {
				b.t.Steps[i].Round = r
			}
			if r < blk.Rounds && blk.Rest > 0 {
				b.rest(&lines[len(lines)-1], blk.Rest, "between rounds")
			}
		}
	default:
		for i := range lines {
			b.row(&lines[i])
			if blk.Rest > 0 && i+1 < len(lines) {
				b.rest(&lines[i], blk.Rest, "")
			}
		}
	}
	return nil
}

// row does one row straight through: both its sides where it has two.
func (b *builder) row(l *line) {
	if l.m == nil {
		b.restRow(l)
		return
	}
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
					into = b.enter(l, level, side, slot, entry)
				} else {
					into = b.turn(l, level, side, slot, b.pace.changes.SecondSide)
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
		into := b.enter(l, level, side, slot, entry)
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

// chain does every row on the first side, then every row on the other.
func (b *builder) chain(blk *plan.Block, lines []line) {
	first := b.first()
	for n, side := range [2]Side{first, first.Other()} {
		done := false
		for i := range lines {
			l := &lines[i]
			if l.m == nil {
				b.restRow(l)
				continue
			}
			if l.sides == movement.RightOnly && side != Right || l.sides == movement.LeftOnly && side != Left {
				continue
			}
			on := side
			switch l.sides {
			case movement.Both:
				on = Both
			case movement.Alternating:
				on = Alternating
			}
			d, level := l.on(side)
			switch {
			case n == 1 && !done:
				b.turn(l, level, on, false, b.pace.changes.InChain)
			case done:
				b.enter(l, level, on, false, inChain)
			default:
				b.enter(l, level, on, false, entry)
			}
			done = true
			for set := 1; set <= d.SetCount(); set++ {
				b.parts(l, d, level, on, set, 0)
				if set < d.SetCount() && d.Rest > 0 {
					b.rest(l, d.Rest, "between sets")
				}
			}
			b.leave(l)
		}
		if n == 0 && blk.Rest > 0 {
			b.rest(&lines[len(lines)-1], blk.Rest, "between sides")
		}
	}
	b.inStretches = false
}

// timed does a circuit by the clock: on and off, with setting up and changing position inside the
// off time, after one lead-in.
func (b *builder) timed(blk *plan.Block, lines []line) {
	led := false
	for r := 1; r <= max(1, blk.Rounds); r++ {
		from := len(b.t.Steps)
		for i := range lines {
			l := &lines[i]
			if l.m == nil {
				b.restRow(l)
				continue
			}
			first := b.first()
			_, level := l.on(first)
			if !led {
				b.enter(l, level, startSide(l, first), false, entry)
				led = true
			} else {
				b.slip(l, level)
			}
			b.met[l.m.Slug] |= 1 << level
			switch l.sides {
			case movement.Each: // half the time on each side, so that a round is even
				half := (blk.On / 2).Times(1)
				for k, side := range [2]Side{first, first.Other()} {
					span := half
					if k == 1 {
						span = blk.On - half
					}
					_, lv := l.on(side)
					b.work(l, Work, lv, side, span, 0, 0, true)
				}
			default:
				b.work(l, Work, level, startSide(l, first), blk.On, 0, 0, true)
			}
			b.leave(l)
			if blk.Off > 0 {
				b.rest(l, blk.Off, "")
			}
		}
		for i := from; i < len(b.t.Steps); i++ {
			b.t.Steps[i].Round = r
			b.t.Steps[i].aim(lines)
		}
		if r < blk.Rounds && blk.Rest > 0 {
			b.rest(&lines[len(lines)-1], blk.Rest, "between rounds")
		}
	}
	b.inStretches = false
}

// aim keeps the dose of the row as the aim within its time; on a side that has a dose of its own that one.
func (s *Step) aim(lines []line) {
	i := slices.IndexFunc(lines, func(l line) bool { return l.path == s.Row })
	if i < 0 || !s.Kind.Working() {
		return
	}
	row := lines[i].row
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
func (b *builder) slip(l *line, level int) {
	if b.posture.WayTo(l.m.Posture).Steps > 0 {
		b.t.Sums.PositionsChanged++
	}
	b.posture = l.m.Posture
	b.changeKit(l.m, level)
}

func (b *builder) changeKit(m *movement.Movement, level int) clock.Span {
	things := m.Things(level)
	kit := ""
	if len(things) > 0 {
		kit = strings.Join(things, ",")
	}
	if kit == b.kit {
		return 0
	}
	b.kit = kit
	if kit == "" { // put aside in passing
		return 0
	}
	b.t.Sums.KitChanges++
	if strings.Contains(kit, "roller") || strings.Contains(kit, "wall") {
		return b.pace.talk.BigKit
	}
	return b.pace.talk.Kit
}

// How a movement is come to.
const (
	entry   = iota // on its own
	inChain        // flowing out of the one before
)

// enter changes position and sets up. Within a sequence of timed stretches it adds no time and
// returns what the first stretch must give up instead.
func (b *builder) enter(l *line, level int, side Side, slot bool, how int) (into clock.Span) {
	m := l.m
	way := b.posture.WayTo(m.Posture)
	if b.posture == m.Posture && m.Posture.OneSided() && side != Both && b.lying != Both && side != b.lying {
		way = turnOver(m.Posture)
	}
	if n := b.pace.changes.change(way); n > 0 {
		b.t.Sums.PositionsChanged++
		b.step(Step{S: n, Kind: Position, Row: l.path, Move: m, Level: level, Side: side, Posture: m.Posture, Says: strings.Join(way.Says, ", then ")})
		into += n
	}
	b.posture = m.Posture
	if m.Posture.OneSided() {
		b.lying = side
	} else {
		b.lying = Both
	}
	var n clock.Span
	switch {
	case slot: // the slot leaves no time for talk
	case how == inChain:
		n = b.pace.talk.InChain
	case b.met[m.Slug]&(1<<level) != 0:
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
	b.step(Step{S: n, Kind: Setup, Row: l.path, Move: m, Level: level, Side: side, Posture: m.Posture, Says: m.Setup})
	into += n
	if !slot {
		return 0
	}
	return into
}

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
	from := len(b.t.Steps)
	for i, p := range d.Parts {
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
}

// leastHeld is how long a stretch is held at least, however long getting there takes; judgement.
const leastHeld = 5 * clock.Second

// Slot is what is left of a time that was said when getting there takes into of it: 5 s at least, or all that was said.
func Slot(said, into clock.Span) clock.Span {
	return max(said-into, min(leastHeld, said))
}

// leave puts the body where the movement ends: the way to what comes next, or back for the other side, begins there.
func (b *builder) leave(l *line) {
	if end := l.m.Leaves(); end != l.m.Posture {
		b.posture, b.lying = end, Both
	}
}

// count is the length of one count of a tempo: a beat, or a second at the session's tempo and the teacher's.
func (b *builder) count(tempo float64) clock.Span {
	if b.s.BPM > 0 {
		return clock.Seconds(60 / b.s.BPM)
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
	perRep := l.m.SecondsPerRep(level).Times(tempo * b.s.Style.SwitchFactor(l.m))
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

// breath is the length of one breath in and out.
func (b *builder) breath(l *line, p dose.Part, level int, tempo float64) clock.Span {
	switch {
	case p.In > 0 && b.s.BPM > 0:
		return b.count(tempo) * clock.Span(p.In+p.Out)
	case p.In > 0:
		return (movement.BeatOfTen * clock.Span(p.In+p.Out)).Times(tempo)
	case l.m.SecondsPerRep(level) >= 5*clock.Second:
		return l.m.SecondsPerRep(level).Times(tempo)
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
	s := l.row.Rest.For
	if s == 0 {
		s = movement.RestSpan
	}
	b.step(Step{S: s, Kind: Rest, Row: l.path, Posture: b.posture, Says: l.row.Rest.Say, Clocked: true})
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
	var low, high float64
	counted := spread(b.own.Runs)
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
		f := counted
		s.spread = counted
		if s.Clocked {
			f = timedSpread
			s.spread = timedSpread
		}
		least, most := 1.0, 1.0
		if s.least > 0 {
			least, most = s.least, s.most
		}
		low += float64(s.S) / f * least
		high += float64(s.S) * f * most
	}
	t.Low, t.High = clock.Span(math.Round(low)), clock.Span(math.Round(high))
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
		Aim      string           `json:"aim,omitempty"`
		Set      int              `json:"set,omitempty"`
		Says     string           `json:"says,omitempty"`
		Cues     []Cue            `json:"cues,omitempty"`
	}{
		s.At, s.S, s.Kind, s.Row, "", s.Level, s.Side, s.Posture, s.Effort, s.Reps, s.Breaths, s.Round, s.Aim, 0, "", s.Cues,
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
