package solve

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Landing brings a class that is being led to its promised end: fit on what is still to come, and two things that fit may not do, leaving a row out and settling
// shorter. What could be done is worked out before the class begins, for every place in it and every time that could be wanted, so that a screen without a
// network has only to look it up.

// What a landing costs besides what changing a dose costs. All judgement.
const (
	perChange   = 150  // anything that changes: a few changes are easier to remember than many
	outCost     = 1500 // leaving a row out
	settleCost  = 400  // settling shorter by the whole of it
	landUnit    = 100 * clock.Millisecond
	landFar     = 12 * clock.Minute // no landing goes further from the plan than this
	landEvery   = clock.Second      // one entry of the table for each
	settleStep  = 5 * clock.Second
	leastSettle = 20 * clock.Second // a settling that is shortened is not shorter than this
	settleMost  = 2.                // and one that is lengthened at the very end at most so many times as long
	quietAtMost = 2.                // effort up to which the last rows are a settling
)

// LandTerms are what landing respects besides what the rows themselves say.
type LandTerms struct {
	House  House
	Settle clock.Span // the least quiet work at the end
	// Stops looks at what a class would be and names the rows that have brought a finding that stops; nil looks for none.
	Stops func(*plan.Session, *timeline.Timeline) []plan.Path
	// DosesOnly leaves nothing out, settles no shorter and lets many small changes cost no more than a few: it is fit, on the rest of a class.
	DosesOnly bool
	Known     timeline.Known // what the class has met on the days before
}

// LandStep is what becomes of a step of the class: its length, and what is counted in it.
type LandStep struct {
	Step          int
	S             clock.Span
	Reps, Breaths int
	Out           bool   // it does not come
	Says          string // what is said in it, where that changes; empty: as planned
}

// LandOption is one thing that may be done to land.
type LandOption struct {
	By    clock.Span // what it adds to the class; under 0 it is shorter
	Cost  int
	Says  string // "6 instead of 8 in Side leg lift, both sides", "leave out Seal", "settle 1:00"
	Steps []LandStep
	Out   bool
	dose  dose.Dose
}

// LandKnob is a row, or two that do one side each, with what may be done to it until it begins.
type LandKnob struct {
	Rows    []plan.Path
	First   int    // the step with which it begins: from then on it stays
	Again   string // what is said where it is done as planned after all
	Options []LandOption
	follows int // of the knob whose row comes right before its row; -1: none. Only one of the two is left out.
}

// Chosen is one option of one knob, and what else is chosen behind it.
type Chosen struct {
	Knob, Option int // indices; options count from 0
	Next         int // index into Choices; -1: none
	By           clock.Span
	Cost         int // of it and all behind it
}

// LandTable is every landing of a class.
type LandTable struct {
	Knobs   []LandKnob // in the order in which they begin
	Choices []Chosen
	// For each number of knobs that have begun, 0 to all of them: which choice brings the class to be Low + i seconds longer than planned, -1 changes nothing.
	// Where no choice comes within 5 s it is the nearest.
	Low  []int
	Best [][]int32
	// What settles at the very end, when all else has begun; nil where the class does not end quietly.
	Settle *Settling
}

// Settling is the last quiet step of a class. While it is on it can still be as long as it takes to end on the minute, by the clock.
type Settling struct {
	Step        int
	S           clock.Span // as planned
	Least, Most clock.Span
}

// To is how long it settles when the class should be so much longer than planned (shorter: under 0), in whole seconds.
func (s *Settling) To(by clock.Span) clock.Span {
	return min(max((s.S+by+clock.Second/2)/clock.Second*clock.Second, s.Least), s.Most)
}

// Landing is what there is to do.
type Landing struct {
	Changes []Chosen
	By      clock.Span
	Cost    int
	Reached bool // within 5 s of what was asked
}

// Begun counts the knobs that have begun at a step of the class.
func (t *LandTable) Begun(step int) int {
	n, _ := slices.BinarySearchFunc(t.Knobs, step, func(k LandKnob, s int) int {
		if k.First <= s {
			return -1
		}
		return 1
	})
	return n
}

// Land is what makes the class so much longer than planned (shorter: under 0), when so many knobs have begun: a look into the table.
func (t *LandTable) Land(begun int, by clock.Span) (out Landing) {
	best := t.Best[begun]
	at := int(math.Floor(float64(by)/float64(landEvery)+.5)) - t.Low[begun]
	at = min(max(at, 0), len(best)-1)
	for c := int(best[at]); c >= 0; c = t.Choices[c].Next {
		out.Changes = append(out.Changes, t.Choices[c])
		if out.Cost == 0 {
			out.Cost = t.Choices[c].Cost
		}
		o := &t.Knobs[t.Choices[c].Knob].Options[t.Choices[c].Option]
		out.By += o.By
	}
	off := out.By - by
	out.Reached = off >= -Within-landEvery/2 && off <= Within+landEvery/2
	return out
}

// Apply is the session with a landing.
func (t *LandTable) Apply(s *plan.Session, lib *movement.Library, l Landing) *plan.Session {
	out := s.Clone()
	var gone []plan.Path
	for _, c := range l.Changes {
		k := &t.Knobs[c.Knob]
		o := &k.Options[c.Option]
		for _, p := range k.Rows {
			if o.Out {
				gone = append(gone, p)
				continue
			}
			out.Row(p).Dose = o.dose
		}
	}
	drop(out, gone)
	return out
}

// drop takes rows out of a session; what holds nothing any more goes too.
func drop(s *plan.Session, rows []plan.Path) {
	for i := len(s.Sections) - 1; i >= 0; i-- {
		sec := &s.Sections[i]
		for j := len(sec.Blocks) - 1; j >= 0; j-- {
			b, k := &sec.Blocks[j], 0
			had := len(b.Rows)
			b.Rows = slices.DeleteFunc(b.Rows, func(plan.Row) bool {
				k++
				return slices.Contains(rows, plan.Path{Section: i + 1, Block: j + 1, Row: k})
			})
			if had > 0 && len(b.Rows) == 0 {
				sec.Blocks = slices.Delete(sec.Blocks, j, j+1)
			}
		}
	}
}

// lander works out a table.
type lander struct {
	s     *plan.Session
	lib   *movement.Library
	tl    *timeline.Timeline
	terms LandTerms
	rows  []plan.Path // that are movements, in order
	steps map[plan.Path][]int
	peak  float64
}

// Lands works out every landing of a class whose timeline is known. Both sides stay alike: a knob is a row with both its sides, or both rows of a pair, and is
// left from where its first begins; settling keeps its least; locked rows and timed circuits stay. Doses go as far as fit lets them. Cost grows with knobs x doses x
// (range of lengths / 0.1 s), and with the session's timeline once for each dose that a row may have.
func Lands(ctx context.Context, s *plan.Session, lib *movement.Library, tl *timeline.Timeline, terms LandTerms) (*LandTable, error) {
	l := &lander{s: s, lib: lib, tl: tl, terms: terms, steps: map[plan.Path][]int{}}
	s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		if !r.IsRest() {
			l.rows = append(l.rows, p)
		}
	})
	for i := range tl.Steps {
		l.steps[tl.Steps[i].Row] = append(l.steps[tl.Steps[i].Row], i)
		l.peak = max(l.peak, tl.Steps[i].Effort)
	}
	ks, err := knobsOf(s, lib, tl, terms.House)
	if err != nil {
		return nil, err
	}
	ks = slices.DeleteFunc(ks, func(k knob) bool { return k.circuit })
	t := &LandTable{}
	if t.Knobs, err = l.doses(ctx, ks); err != nil {
		return nil, err
	}
	if !terms.DosesOnly {
		if err := l.settling(t); err != nil {
			return nil, err
		}
		if err := l.leaving(ctx, t); err != nil {
			return nil, err
		}
	}
	t.Knobs = slices.DeleteFunc(t.Knobs, func(k LandKnob) bool { return len(k.Options) == 0 })
	slices.SortStableFunc(t.Knobs, func(a, b LandKnob) int { return cmp.Compare(a.First, b.First) })
	l.follow(t)
	return t, t.solve(ctx)
}

// settling lets the last row settle shorter than a third less, down to what settling needs in all.
func (l *lander) settling(t *LandTable) error {
	quiet := clock.Span(0)
	for i := len(l.tl.Steps) - 1; i >= 0; i-- {
		st := &l.tl.Steps[i]
		if !st.Kind.Working() {
			continue
		}
		if st.Move != nil && st.Effort > quietAtMost && !st.Move.Stretch {
			break
		}
		quiet += st.S
	}
	if len(l.rows) == 0 || quiet == 0 {
		return nil
	}
	p := l.rows[len(l.rows)-1]
	r, b := l.s.Row(p), l.s.Block(p)
	m, err := r.Of(l.lib)
	if err != nil {
		return err
	}
	d := r.DoseOf(m)
	work := slices.DeleteFunc(slices.Clone(l.steps[p]), func(n int) bool { return !l.tl.Steps[n].Kind.Working() })
	if r.Locked || r.Right != nil || r.Left != nil || b.On > 0 || len(d.Parts) != 1 || itself(d, m) || len(work) != 1 || l.tl.Steps[work[0]].Effort > quietAtMost {
		return nil
	}
	st := &l.tl.Steps[work[0]]
	now, step, least := d.Count(), 1, 1
	switch {
	case d.Parts[0].Kind == dose.Breaths && now > 0 && st.Breaths == now:
	case now == 0 && (d.Parts[0].Kind == dose.Hold || d.Parts[0].Kind == dose.Time) && d.Parts[0].Off == 0 && d.Parts[0].Counts == 0 && !d.Parts[0].EachWay:
		now, step, least = int(d.Parts[0].Span), int(settleStep), int(leastSettle)
	default:
		return nil
	}
	k := slices.IndexFunc(t.Knobs, func(k LandKnob) bool { return slices.Contains(k.Rows, p) })
	if k < 0 {
		t.Knobs = append(t.Knobs, l.knob([]plan.Path{p}, m, d))
		k = len(t.Knobs) - 1
	}
	room := max(0, quiet-min(l.terms.Settle, l.tl.Total/8)) // so much may go
	if shortest := max(leastSettle, st.S-room); shortest <= st.S {
		t.Settle = &Settling{Step: work[0], S: st.S, Least: shortest, Most: st.S.Times(settleMost)}
	}
	for v := now - step; v >= least; v -= step {
		is := *st
		if is.S = st.S - clock.Span(now-v); st.Breaths > 0 { // of a time the way to it may have taken some
			is.S, is.Breaths = st.S/clock.Span(now)*clock.Span(v), v
		}
		if is.S < leastSettle || st.S-is.S > room {
			break
		}
		o := LandOption{Cost: perChange + int(math.Round(settleCost*float64(now-v)/float64(now))), dose: with(d, v)}
		o.Says = l.saysDose(p, o.dose, 1)
		o.add(st, &is, work[0])
		t.Knobs[k].Options = slices.DeleteFunc(t.Knobs[k].Options, func(x LandOption) bool { return x.By == o.By }) // as cheap as settling, not as a dose
		t.Knobs[k].Options = append(t.Knobs[k].Options, o)
	}
	return nil
}

// knob is a row, or two, to which nothing may be done yet.
func (l *lander) knob(rows []plan.Path, m *movement.Movement, d dose.Dose) LandKnob {
	k := LandKnob{Rows: rows, First: len(l.tl.Steps), Again: "as planned: " + m.Name + ", " + d.String(), follows: -1}
	for _, p := range rows {
		if at := l.steps[p]; len(at) > 0 {
			k.First = min(k.First, at[0])
		}
	}
	return k
}

// doses makes the options of knobs, with what becomes of each step: all rows that can go one step shorter go there at once, since what a dose adds to a class is
// its own; so that a handful of timelines shows every option.
func (l *lander) doses(ctx context.Context, ks []knob) ([]LandKnob, error) {
	out := make([]LandKnob, len(ks))
	lo, hi := 0, 0
	for i, k := range ks {
		r := l.s.Row(k.rows[0])
		m, err := r.Of(l.lib)
		if err != nil {
			return nil, err
		}
		out[i] = l.knob(k.rows, m, r.DoseOf(m))
		lo, hi = min(lo, -k.now), max(hi, len(k.options)-1-k.now)
	}
	for off := lo; off <= hi; off++ {
		if off == 0 {
			continue
		}
		if ctx.Err() != nil {
			return nil, context.Cause(ctx)
		}
		at := l.s.Clone()
		for _, k := range ks {
			if j := k.now + off; j >= 0 && j < len(k.options) {
				for _, p := range k.rows {
					at.Row(p).Dose = k.options[j].dose
				}
			}
		}
		tl, err := timeline.BuildKnown(at, l.lib, l.terms.Known)
		if err != nil {
			return nil, err
		}
		if len(tl.Steps) != len(l.tl.Steps) { // a dose that has steps of its own: what becomes of which is not known
			continue
		}
		var stopped []plan.Path
		if off > 0 && l.terms.Stops != nil {
			stopped = l.terms.Stops(at, tl)
		}
		for i, k := range ks {
			j := k.now + off
			if j < 0 || j >= len(k.options) || slices.ContainsFunc(k.rows, func(p plan.Path) bool { return slices.Contains(stopped, p) }) {
				continue
			}
			o := LandOption{Cost: k.options[j].cost, dose: k.options[j].dose}
			for _, p := range k.rows {
				for _, n := range l.steps[p] {
					o.add(&l.tl.Steps[n], &tl.Steps[n], n)
				}
			}
			if o.By == 0 {
				continue
			}
			if !l.terms.DosesOnly {
				o.Cost += perChange
			}
			o.Says = l.saysDose(k.rows[0], o.dose, len(k.rows))
			out[i].Options = append(out[i].Options, o)
		}
	}
	return out, nil
}

// add takes in what becomes of a step.
func (o *LandOption) add(was, is *timeline.Step, n int) {
	if was.S == is.S && was.Reps == is.Reps && was.Breaths == is.Breaths && was.Says == is.Says {
		return
	}
	p := LandStep{Step: n, S: is.S, Reps: is.Reps, Breaths: is.Breaths}
	if was.Says != is.Says {
		p.Says = is.Says
	}
	o.Steps = append(o.Steps, p)
	o.By += is.S - was.S
}

// saysDose says a dose that so many rows get in place of their own.
func (l *lander) saysDose(p plan.Path, d dose.Dose, rows int) string {
	r := l.s.Row(p)
	m, err := r.Of(l.lib)
	if err != nil {
		return ""
	}
	was, name := r.DoseOf(m), m.Name
	if r.SideRule(m) == movement.Each || rows > 1 {
		name += ", both sides"
	}
	switch n := d.Count(); {
	case p == l.rows[len(l.rows)-1] && n == 0 && m.Stretch:
		return "settle " + d.Parts[0].Span.String()
	case p == l.rows[len(l.rows)-1] && d.Parts[0].Kind == dose.Breaths && m.Stretch:
		return fmt.Sprintf("settle with %s instead of %d", breaths(n), was.Count())
	case n > 0 && d.Parts[0].Kind == dose.Breaths:
		return fmt.Sprintf("%s instead of %d in %s", breaths(n), was.Count(), name)
	case n > 0:
		return fmt.Sprintf("%d instead of %d in %s", n, was.Count(), name)
	}
	return fmt.Sprintf("%s instead of %s in %s", d.Parts[0].Span, was.Parts[0].Span, name)
}

func breaths(n int) string {
	if n == 1 {
		return "1 breath"
	}
	return fmt.Sprintf("%d breaths", n)
}

// mayLeave tells which rows may be left out: one that stands straight by itself, is not locked, is not at the peak, does not answer the one before it, is not met
// again later, where it would be new then, and is neither how the class arrives nor how it settles.
func (l *lander) mayLeave() (out []int) {
	names := map[string]int{}
	moves := make([]*movement.Movement, len(l.rows))
	for i, p := range l.rows {
		m, err := l.s.Row(p).Of(l.lib)
		if err != nil || m == nil {
			return nil
		}
		moves[i] = m
		names[m.Slug]++
	}
	twins := twinsOf(l.s)
	times, _ := rowTimes(l.tl)
	for i, p := range l.rows {
		r, b, m, t := l.s.Row(p), l.s.Block(p), moves[i], times[p]
		_, twin := twins[p]
		switch {
		case i == 0 || i == len(l.rows)-1 || t == nil || twin || r.Locked || r.Right != nil || r.Left != nil || len(r.ByRound) > 0 || b.On > 0 || b.Rest > 0:
		case b.Rule != plan.Straight || names[m.Slug] > 1 || m.Inline && m.Posture == movement.NoPosture:
		case m.Phase == "settle" || l.peak > 0 && t.most >= peakFrom*l.peak:
		case slices.Contains(moves[i-1].Gives, m.Slug): // it gives back what the one before took
		default:
			out = append(out, i)
		}
	}
	return out
}

// leaving adds that a row is left out, where that changes nothing but the way to the row behind it.
func (l *lander) leaving(ctx context.Context, t *LandTable) error {
	for _, i := range l.mayLeave() {
		if ctx.Err() != nil {
			return context.Cause(ctx)
		}
		p := l.rows[i]
		m, err := l.s.Row(p).Of(l.lib)
		if err != nil {
			return err
		}
		o := LandOption{Out: true, Cost: outCost + perChange, Says: "leave out " + m.Name}
		ok, err := l.without(&o, p, l.rows[i+1])
		if err != nil {
			return err
		}
		if !ok || o.By >= 0 {
			continue
		}
		k := slices.IndexFunc(t.Knobs, func(k LandKnob) bool { return slices.Contains(k.Rows, p) })
		if k < 0 {
			t.Knobs = append(t.Knobs, l.knob([]plan.Path{p}, m, l.s.Row(p).DoseOf(m)))
			k = len(t.Knobs) - 1
		}
		t.Knobs[k].Options = append(t.Knobs[k].Options, o)
	}
	return nil
}

// lead lists the steps of a row before its first work, from 0.
func lead(tl *timeline.Timeline, p plan.Path, from int) (out []int) {
	for n := from; n < len(tl.Steps) && tl.Steps[n].Row == p && !tl.Steps[n].Kind.Working(); n++ {
		out = append(out, n)
	}
	return out
}

// without leaves a row out. ok is false where that changes more than the way to the row behind, or brings what stops.
func (l *lander) without(o *LandOption, p, behind plan.Path) (ok bool, err error) {
	s := l.s.Clone()
	*s.Row(p) = plan.Row{Rest: &plan.Rest{Kept: "-"}} // a line that takes no time stands in its place, so that no row changes its own
	tl, err := timeline.BuildKnown(s, l.lib, l.terms.Known)
	if err != nil {
		return false, err
	}
	n, met := 0, false // n of the steps as they become; met: the way to the row behind is done
	for i := 0; i < len(l.tl.Steps); {
		a := &l.tl.Steps[i]
		switch {
		case a.Row == p:
			o.Steps = append(o.Steps, LandStep{Step: i, Out: true})
			o.By -= a.S
			i++
		case a.Row == behind && l.steps[behind][0] == i && !met:
			met = true
			was, now := lead(l.tl, behind, i), lead(tl, behind, n)
			if !o.way(l.tl, tl, was, now) {
				return false, nil
			}
			i, n = i+len(was), n+len(now)
		default:
			if n >= len(tl.Steps) {
				return false, nil
			}
			if b := &tl.Steps[n]; a.Row != b.Row || a.Kind != b.Kind || a.S != b.S || a.Reps != b.Reps || a.Side != b.Side {
				return false, nil
			}
			i, n = i+1, n+1
		}
	}
	if n != len(tl.Steps) {
		return false, nil
	}
	return l.terms.Stops == nil || len(l.terms.Stops(s, tl)) == 0, nil
}

// way takes in what becomes of the way to a row: steps of the same kind go on, with their new length and words; what there was not goes into the one behind it.
func (o *LandOption) way(was, is *timeline.Timeline, from, to []int) bool {
	if len(to) > 0 && len(from) == 0 {
		return false // there is no step to hold it
	}
	used := 0
	extra, words := clock.Span(0), ""
	for k, i := range from {
		a := &was.Steps[i]
		j := used
		for j < len(to) && is.Steps[to[j]].Kind != a.Kind {
			j++
		}
		lastOne := k == len(from)-1
		if j == len(to) && !lastOne || j == len(to) && used == len(to) {
			o.Steps = append(o.Steps, LandStep{Step: i, Out: true})
			o.By -= a.S
			continue
		}
		end := j + 1
		if lastOne {
			end = len(to)
		}
		for ; used < end; used++ {
			b := &is.Steps[to[used]]
			extra += b.S
			if b.Says != "" && b.Says != words {
				words = joinWords(words, b.Says)
			}
		}
		o.add(a, &timeline.Step{S: extra, Reps: a.Reps, Breaths: a.Breaths, Says: words}, i)
		extra, words = 0, ""
	}
	return used == len(to)
}

func joinWords(a, b string) string {
	if a == "" {
		return b
	}
	return a + " " + b
}

// follow finds for each knob that may be left out the one whose row comes right before.
func (l *lander) follow(t *LandTable) {
	at := map[plan.Path]int{}
	for i := range t.Knobs {
		for _, p := range t.Knobs[i].Rows {
			at[p] = i
		}
	}
	for i := range t.Knobs {
		n := slices.Index(l.rows, t.Knobs[i].Rows[0])
		if n <= 0 {
			continue
		}
		if k, ok := at[l.rows[n-1]]; ok && k < i {
			t.Knobs[i].follows = k
		}
	}
}

const noWay = math.MaxInt32

// solve fills the table, from the end of the class to its beginning: cost[t] is the least that makes all knobs from here on add low + t units, with the first of
// them free to be left out or not.
func (t *LandTable) solve(ctx context.Context) error {
	n := len(t.Knobs)
	unit := clock.Span(0)
	lo, hi := clock.Span(0), clock.Span(0)
	for i := range t.Knobs {
		a, b := clock.Span(0), clock.Span(0)
		for _, o := range t.Knobs[i].Options {
			unit = gcd(unit, o.By)
			a, b = min(a, o.By), max(b, o.By)
		}
		lo, hi = lo+a, hi+b
	}
	unit = max(unit, landUnit)
	lo, hi = max(lo, -landFar), min(hi, landFar)
	low := int(math.Floor(float64(lo)/float64(unit))) - n - 1
	size := int(math.Ceil(float64(hi)/float64(unit))) + n + 2 - low
	at := func(s clock.Span) int { return int(math.Round(float64(s) / float64(unit))) }
	fresh := func() []int32 {
		c := make([]int32, size)
		for i := range c {
			c[i] = noWay
		}
		return c
	}
	// cost[0] where the row before is not left out, cost[1] where it is
	cost := [2][]int32{fresh(), fresh()}
	cost[0][-low], cost[1][-low] = 0, 0
	type pick struct{ of [2][]int16 }
	picks := make([]pick, n)
	t.Low, t.Best = make([]int, n+1), make([][]int32, n+1)
	nodes := map[[2]int64]int32{} // the choice of each place that was asked for
	reach := [2]int{-low, -low}   // within these there is something
	for i := n; ; i-- {
		t.row(i, cost[0], reach, low, unit, func(x int) int32 {
			return t.node(nodes, i, 0, x, func(i, state, x int) (opt, next int) {
				o := int(picks[i].of[state][x])
				if o < 0 {
					return -1, x
				}
				return o, x - at(t.Knobs[i].Options[o].By)
			})
		})
		if i == 0 {
			return nil
		}
		if ctx.Err() != nil {
			return context.Cause(ctx)
		}
		k := &t.Knobs[i-1]
		// what follows is barred from being left out where this one is: only where it is its neighbour
		barred := i < n && t.Knobs[i].follows == i-1
		next := [2][]int32{}
		np := pick{}
		was := reach
		for state := range 2 {
			if state == 1 && (k.follows < 0 || k.follows != i-2) { // nobody asks
				next[1], np.of[1] = next[0], np.of[0]
				continue
			}
			c, p := fresh(), make([]int16, size)
			copy(c[was[0]:was[1]+1], cost[0][was[0]:was[1]+1])
			for x := range p {
				p[x] = -1
			}
			for j := range k.Options {
				o := &k.Options[j]
				if o.Out && state == 1 {
					continue
				}
				from := cost[0]
				if o.Out && barred {
					from = cost[1]
				}
				shift, oc := at(o.By), int32(o.Cost)
				a, b := max(was[0], -shift), min(was[1], size-1-shift)
				for x := a; x <= b; x++ {
					if from[x] != noWay && from[x]+oc < c[x+shift] {
						c[x+shift], p[x+shift] = from[x]+oc, int16(j)
					}
				}
				reach[0], reach[1] = min(reach[0], max(0, was[0]+shift)), max(reach[1], min(size-1, was[1]+shift))
			}
			next[state], np.of[state] = c, p
		}
		picks[i-1] = np
		cost = next
	}
}

// node is the choice at a place, made of those behind it; places that come to the same share it. A place is the knobs from i on, whether the row before is left
// out, and the units that they add.
func (t *LandTable) node(known map[[2]int64]int32, i, state, x int, pick func(i, state, x int) (opt, next int)) int32 {
	for ; i < len(t.Knobs); i++ {
		opt, next := pick(i, state, x)
		if opt < 0 {
			state = 0
			continue
		}
		key := [2]int64{int64(i)<<1 | int64(state), int64(x)}
		if c, ok := known[key]; ok {
			return c
		}
		o := &t.Knobs[i].Options[opt]
		then := 0
		if o.Out && i+1 < len(t.Knobs) && t.Knobs[i+1].follows == i {
			then = 1
		}
		c := Chosen{Knob: i, Option: opt, Next: int(t.node(known, i+1, then, next, pick)), By: o.By, Cost: o.Cost}
		if c.Next >= 0 {
			c.By += t.Choices[c.Next].By
			c.Cost += t.Choices[c.Next].Cost
		}
		t.Choices = append(t.Choices, c)
		known[key] = int32(len(t.Choices) - 1)
		return known[key]
	}
	return -1
}

// row fills the table for one number of knobs begun.
func (t *LandTable) row(i int, cost []int32, reach [2]int, low int, unit clock.Span, choice func(x int) int32) {
	lo, hi := math.MaxInt, math.MinInt
	for x := reach[0]; x <= reach[1]; x++ {
		if cost[x] != noWay {
			lo, hi = min(lo, x), max(hi, x)
		}
	}
	sec := func(x int) float64 { return float64(clock.Span(x+low)*unit) / float64(landEvery) }
	beyond := int(Within/landEvery) + 1 // where nothing is within reach any more: what is asked further out is looked up there
	first, end := int(math.Floor(sec(lo)))-beyond, int(math.Ceil(sec(hi)))+beyond
	t.Low[i], t.Best[i] = first, make([]int32, 0, end-first+1)
	step := float64(landEvery) / float64(unit)
	within := float64(Within) / float64(unit)
	for s := first; s <= end; s++ {
		mid := float64(s)*step - float64(low)
		far := func(x int) float64 { return math.Abs(float64(x) - mid) }
		best := -1
		a, b := int(math.Ceil(mid-within)), int(math.Floor(mid+within))
		for x := max(lo, a); x <= min(hi, b); x++ {
			if cost[x] != noWay && (best < 0 || cost[x] < cost[best] || cost[x] == cost[best] && far(x) < far(best)) {
				best = x
			}
		}
		for ; best < 0; a, b = a-1, b+1 { // none is near: the nearest there is
			for _, x := range [2]int{a, b} {
				if x >= lo && x <= hi && cost[x] != noWay && (best < 0 || far(x) < far(best)) {
					best = x
				}
			}
		}
		t.Best[i] = append(t.Best[i], choice(best))
	}
}
