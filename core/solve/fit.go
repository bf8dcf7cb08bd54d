// Package solve finds the best change to a session under rules: fitting it to a length, and the order
// that changes position least. Both are exact within what is said beside them, and say when they
// cannot.
package solve

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Within is how near to the target a fitted session must come.
const Within = 5 * clock.Second

// What changing a dose costs. All judgement.
const (
	peakWeight = 3    // rows at the peak are three times as dear to change
	peakFrom   = .85  // of the highest effort in the class
	unitCost   = 1000 // cost of changing one row by the whole of its dose
	finest     = 50 * clock.Millisecond
	mostRounds = 200 // of taking back what has brought a stop
)

// Change is what Fit does to one row.
type Change struct {
	Row      plan.Path
	Name     string
	From, To string
	By       clock.Span // what it adds to the class
}

// Fitted is a session brought to a length.
type Fitted struct {
	Session *plan.Session
	Changes []Change
	Total   clock.Span
	Cost    int      // sum of the changes' costs
	Reached bool     // within 5 s of the target
	Says    string   // why not, when it was not reached
	Else    []string // what else could change then
}

// Terms are what a fit respects besides what the rows themselves say. The zero value asks for nothing.
type Terms struct {
	House House
	// Stops looks at what the fit would make and names the rows whose doses have brought a finding that stops; nil
	// looks for none.
	Stops func(*plan.Session, *timeline.Timeline) []plan.Path
}

// option is one dose a knob could have, or the times and rounds of a circuit.
type option struct {
	dose   dose.Dose
	on     clock.Span
	rounds int
	by     clock.Span
	cost   int
}

// knob is a row that may change, or two that do one side each and change together, with the doses from short to long;
// the one in use costs nothing.
type knob struct {
	rows    []plan.Path
	circuit bool // its rows are a timed circuit, whose times and rounds change
	now     int  // the option in use
	options []option
}

// Fit changes doses so that the length hits the target within 5 s if any such change exists, with the least total
// change; among equals the nearest. A dose changes by a third at most and within the house's ranges (see Doses). Rows
// keep both sides alike, also where each has a row of its own; rounds stay whole; a timed circuit changes by its time on, or
// by a round where it has three and more (see circuitKnob); locked rows, rows with a side of their own and doses that make a
// movement what it is are left. A change that brings a stop is taken back
// step by step: what is left is again the least change among the doses that remain. Dynamic programming over time:
// cost grows with rows x doses x (range of lengths / 50 ms). When ctx ends first, its cause is the error.
func Fit(ctx context.Context, s *plan.Session, lib *movement.Library, target clock.Span, terms Terms) (*Fitted, error) {
	tl, err := timeline.Build(s, lib)
	if err != nil {
		return nil, err
	}
	knobs, err := knobsOf(s, lib, tl, terms.House)
	if err != nil {
		return nil, err
	}
	var out *Fitted
	diff, stopped := target-tl.Total, false
	for range mostRounds {
		picks, err := choose(ctx, knobs, diff)
		if err != nil {
			return nil, err
		}
		var after *timeline.Timeline
		if out, after, err = taken(s, lib, knobs, picks); err != nil {
			return nil, err
		}
		bad := terms.stops(out.Session, after)
		if len(bad) == 0 {
			break
		}
		stopped = true
		if !takeBack(knobs, picks, bad) { // what stops is none of this fit's doing: change nothing
			return unchanged(s, tl, target, "any change of doses brings something that stops"), nil
		}
	}
	if off := out.Total - target; off >= -Within && off <= Within {
		out.Reached = true
		return out, nil
	}
	out.Says = fmt.Sprintf("Cannot: the nearest to %s is %s, %s, because %s.", target, out.Total, offBy(out.Total-target), whyNot(knobs, target-tl.Total, stopped))
	out.Else = elsewhere(out.Session, lib, target)
	return out, nil
}

// unchanged is a fit that does nothing, with the reason.
func unchanged(s *plan.Session, tl *timeline.Timeline, target clock.Span, why string) *Fitted {
	return &Fitted{Session: s.Clone(), Total: tl.Total, Says: fmt.Sprintf("Cannot: it stays at %s, %s, because %s.", tl.Total, offBy(tl.Total-target), why)}
}

// offBy says how far a length is off: "1:10 too long".
func offBy(off clock.Span) string {
	if off < 0 {
		return (-off).String() + " too short"
	}
	return off.String() + " too long"
}

func whyNot(knobs []knob, diff clock.Span, stopped bool) string {
	switch {
	case len(knobs) == 0:
		return "no row may change"
	case between(knobs, diff):
		return "the steps of the rows do not meet there"
	case stopped && diff > 0:
		return "more of the rows that are left would be past a limit"
	case diff > 0:
		return "every row is at the longest it allows: a third more than planned, within the house's ranges"
	}
	return "every row is at the shortest it allows: a third less than planned, within the house's ranges"
}

func (t Terms) stops(s *plan.Session, tl *timeline.Timeline) []plan.Path {
	if t.Stops == nil {
		return nil
	}
	return t.Stops(s, tl)
}

// taken is the session with an option of each knob.
func taken(s *plan.Session, lib *movement.Library, knobs []knob, picks []int) (*Fitted, *timeline.Timeline, error) {
	out := &Fitted{Session: s.Clone()}
	for i, k := range knobs {
		o := k.options[picks[i]]
		if picks[i] == k.now {
			continue
		}
		out.Cost += o.cost
		if k.circuit {
			b, at := out.Session.Block(k.rows[0]), k.rows[0]
			was := *b
			b.On, b.Rounds = o.on, o.rounds
			out.Changes = append(out.Changes, Change{at, "Circuit in " + s.Sections[at.Section-1].Title, circuitSaid(&was), circuitSaid(b), o.by})
			continue
		}
		for _, p := range k.rows {
			r := out.Session.Row(p)
			m, err := r.Of(lib)
			if err != nil {
				return nil, nil, err
			}
			out.Changes = append(out.Changes, Change{p, m.Name, r.DoseOf(m).String(), o.dose.String(), o.by / clock.Span(len(k.rows))})
			r.Dose = o.dose
		}
	}
	tl, err := timeline.Build(out.Session, lib)
	if err != nil {
		return nil, nil, err
	}
	out.Total = tl.Total
	return out, tl, nil
}

// takeBack forbids the largest of the changes of some rows, and what goes further; false where none of them changed.
func takeBack(knobs []knob, picks []int, rows []plan.Path) bool {
	worst, far := -1, 0
	for i, k := range knobs {
		d := picks[i] - k.now
		d = max(d, -d)
		if d > far && slices.ContainsFunc(k.rows, func(p plan.Path) bool { return slices.Contains(rows, p) }) {
			worst, far = i, d
		}
	}
	if worst < 0 {
		return false
	}
	k := &knobs[worst]
	if picks[worst] > k.now {
		k.options = k.options[:picks[worst]]
	} else {
		k.options = k.options[picks[worst]+1:]
		k.now -= picks[worst] + 1
	}
	return true
}

func between(knobs []knob, diff clock.Span) bool {
	lo, hi := room(knobs)
	return diff > lo && diff < hi
}

func room(knobs []knob) (lo, hi clock.Span) {
	for _, k := range knobs {
		lo += k.options[0].by
		hi += k.options[len(k.options)-1].by
	}
	return lo, hi
}

// Room is how much shorter (negative) and longer doses alone can make the class, and the smallest step they take.
// Rows that grows says no for do not grow. Cost grows linearly with the steps.
func Room(s *plan.Session, lib *movement.Library, tl *timeline.Timeline, h House, grows func(*plan.Row, *movement.Movement) bool) (lo, hi, finest clock.Span, err error) {
	times, _ := rowTimes(tl)
	twins := twinsOf(s)
	finest = tl.Total
	s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		t, ok := times[p]
		if err != nil || !ok || !mayChange(s, p, b, r, twins) {
			return
		}
		m, merr := r.Of(lib)
		if merr != nil {
			err = merr
			return
		}
		d := r.DoseOf(m)
		if itself(d, m) {
			return
		}
		far := reachOf(d, r.SideRule(m), m.Stretch, h)
		if far.most-far.least < far.step {
			return
		}
		to := func(v int) clock.Span { return t.adds(d, with(d, v)) }
		lo += to(far.least)
		if grows(r, m) {
			hi += to(far.most)
		}
		if step := max(to(min(far.now+far.step, far.most)), -to(max(far.now-far.step, far.least))); step > 0 {
			finest = min(finest, step)
		}
	})
	for i := range s.Sections {
		for j := range s.Sections[i].Blocks {
			if k, ok := circuitKnob(plan.Path{Section: i + 1, Block: j + 1, Row: 1}, &s.Sections[i].Blocks[j], times, 0, h); ok {
				lo += k.options[0].by
				if growsWhole(&s.Sections[i].Blocks[j], lib, grows) {
					hi += k.options[len(k.options)-1].by
				}
				for n := range k.options[1:] {
					if step := k.options[n+1].by - k.options[n].by; step > 0 {
						finest = min(finest, step)
					}
				}
			}
		}
	}
	return lo, hi, finest, err
}

// rowTime is what the steps of a timeline say of a row: how long each part of its dose takes in all, over sides, sets
// and rounds, and for each step of it what getting there was to take of its time.
type rowTime struct {
	span [8]clock.Span // by part, from 0
	into [8][]clock.Span
	most float64 // its highest effort
	// second is what it takes in the second round of a circuit, without what comes between rounds
	second clock.Span
}

// adds is what another dose in place of a row's own adds to the class: the counts or the time of its part that changes.
func (t *rowTime) adds(now, then dose.Dose) (sum clock.Span) {
	part := counted(now) - 1
	if part >= len(t.span) {
		return 0
	}
	if n := now.Count(); n > 0 {
		return t.span[part] / clock.Span(n) * clock.Span(then.Count()-n)
	}
	was, is := now.Parts[0].Span, then.Parts[0].Span
	if now.Parts[0].EachWay {
		was, is = 2*was, 2*is
	}
	for _, into := range t.into[part] {
		sum += timeline.Slot(is, into) - timeline.Slot(was, into)
	}
	return sum
}

func rowTimes(tl *timeline.Timeline) (map[plan.Path]*rowTime, float64) {
	out := map[plan.Path]*rowTime{}
	peak := 0.0
	for i := range tl.Steps {
		st := &tl.Steps[i]
		t := out[st.Row]
		if t == nil {
			t = &rowTime{}
			out[st.Row] = t
		}
		peak, t.most = max(peak, st.Effort), max(t.most, st.Effort)
		if st.Round == 2 {
			t.second += st.S
		}
		if n := st.Part - 1; n >= 0 && n < len(t.span) {
			t.span[n] += st.S
			t.into[n] = append(t.into[n], st.Into)
		}
	}
	return out, peak
}

// knobsOf finds what may change, and what each step adds in time: a class is as much longer as what is changed takes.
func knobsOf(s *plan.Session, lib *movement.Library, tl *timeline.Timeline, h House) (out []knob, err error) {
	times, peak := rowTimes(tl)
	twins := twinsOf(s)
	at := map[plan.Path]int{} // of the twin met first
	s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		if err != nil || !mayChange(s, p, b, r, twins) {
			return
		}
		m, merr := r.Of(lib)
		if merr != nil {
			err = merr
			return
		}
		twin, hasTwin := twins[p]
		k, ok := knobOf(p, r, m, times[p], peak, h)
		if !ok {
			return
		}
		if i, met := at[twin]; hasTwin && met {
			out[i].rows = append(out[i].rows, p)
			for j := range out[i].options {
				out[i].options[j].by += k.options[j].by
				out[i].options[j].cost += k.options[j].cost
			}
			return
		}
		if hasTwin {
			at[p] = len(out)
		}
		out = append(out, k)
	})
	for i := range s.Sections {
		for j := range s.Sections[i].Blocks {
			if k, ok := circuitKnob(plan.Path{Section: i + 1, Block: j + 1, Row: 1}, &s.Sections[i].Blocks[j], times, peak, h); ok {
				out = append(out, k)
			}
		}
	}
	return out, err
}

// mayChange tells whether a row's dose may be changed at all: what its twin must keep it keeps too.
func mayChange(s *plan.Session, p plan.Path, b *plan.Block, r *plan.Row, twins map[plan.Path]plan.Path) bool {
	free := func(b *plan.Block, r *plan.Row) bool {
		return !r.IsRest() && !r.Locked && b.On == 0 && r.Right == nil && r.Left == nil
	}
	twin, ok := twins[p]
	return free(b, r) && (!ok || free(s.Block(twin), s.Row(twin)))
}

func knobOf(p plan.Path, r *plan.Row, m *movement.Movement, t *rowTime, peak float64, h House) (knob, bool) {
	now := r.DoseOf(m)
	if t == nil || itself(now, m) {
		return knob{}, false
	}
	doses, from := Doses(now, r.SideRule(m), m.Stretch, h)
	if len(doses) < 2 || t.adds(doses[0], doses[len(doses)-1]) <= 0 {
		return knob{}, false
	}
	weight := 1.0
	if peak > 0 && t.most >= peakFrom*peak {
		weight = peakWeight
	}
	k := knob{rows: []plan.Path{p}, now: from}
	for i, d := range doses {
		cost := int(math.Round(weight * unitCost * math.Abs(float64(i-from)) / float64(max(size(now), 1))))
		k.options = append(k.options, option{dose: d, by: t.adds(now, d), cost: cost})
	}
	return k, true
}

// twinsOf finds rows that do the right side only and the left side only of the same movement at the same level with
// the same dose: each names the other.
func twinsOf(s *plan.Session) map[plan.Path]plan.Path {
	waiting := map[string][]plan.Path{}
	out := map[plan.Path]plan.Path{}
	s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		var mine, other string
		key := fmt.Sprintf("%s %d %s", r.Name(), max(1, r.Level), r.Dose)
		switch r.Sides {
		case movement.RightOnly:
			mine, other = key+" right", key+" left"
		case movement.LeftOnly:
			mine, other = key+" left", key+" right"
		default:
			return
		}
		if w := waiting[other]; len(w) > 0 {
			out[p], out[w[0]] = w[0], p
			waiting[other] = w[1:]
			return
		}
		waiting[mine] = append(waiting[mine], p)
	})
	return out
}

func gcd(a, b clock.Span) clock.Span {
	for b != 0 {
		a, b = b, a%b
	}
	return max(a, -a)
}

// choose picks an option of each knob so that their times sum to diff within 5 s at the least cost,
// else to the nearest there is.
func choose(ctx context.Context, knobs []knob, diff clock.Span) ([]int, error) {
	var unit clock.Span
	for _, k := range knobs {
		for _, o := range k.options {
			unit = gcd(unit, o.by)
		}
	}
	lo, hi := room(knobs)
	unit = max(unit, finest) // below that times are rounded; what comes out is measured afterwards
	n := int((hi-lo)/unit) + len(knobs) + 2
	at := func(s clock.Span) int { return int(math.Round(float64(s) / float64(unit))) }
	const none = math.MaxInt32
	// best[t] is the least cost of the knobs so far to add lo + t units; lows are added as we go.
	best := make([]int32, n)
	for i := range best {
		best[i] = none
	}
	best[0] = 0
	picked := make([][]uint16, len(knobs))
	reach := 0
	for i, k := range knobs {
		if ctx.Err() != nil {
			return nil, context.Cause(ctx)
		}
		next := make([]int32, n)
		for t := range next {
			next[t] = none
		}
		pick := make([]uint16, n)
		low := at(k.options[0].by)
		top := reach
		for j, o := range k.options {
			shift := at(o.by) - low
			for t := 0; t <= reach && t+shift < n; t++ {
				if best[t] == none {
					continue
				}
				if c := best[t] + int32(o.cost); c < next[t+shift] {
					next[t+shift], pick[t+shift] = c, uint16(j)
					top = max(top, t+shift)
				}
			}
		}
		best, picked[i], reach = next, pick, top
	}
	base := 0
	for _, k := range knobs {
		base += at(k.options[0].by)
	}
	end := nearest(best[:reach+1], float64(diff)/float64(unit)-float64(base), float64(Within)/float64(unit))
	out := make([]int, len(knobs))
	for i := len(knobs) - 1; i >= 0; i-- {
		out[i] = int(picked[i][end])
		end -= at(knobs[i].options[out[i]].by) - at(knobs[i].options[0].by)
	}
	return out, nil
}

// nearest is the sum to take: the cheapest within reach of what is wanted, else the nearest to it.
func nearest(best []int32, want, within float64) (end int) {
	found := false
	for t, cost := range best {
		if cost == math.MaxInt32 {
			continue
		}
		off, old := math.Abs(float64(t)-want), math.Abs(float64(end)-want)
		switch {
		case !found:
			end, found = t, true
		case off <= within && old <= within:
			if cost < best[end] || cost == best[end] && off < old {
				end = t
			}
		case off < old:
			end = t
		}
	}
	return end
}

// elsewhere says what else could bring a class nearer to a length, when doses cannot: leaving a row out or adding one,
// a round more or less, what is locked, what is never fitted.
func elsewhere(s *plan.Session, lib *movement.Library, target clock.Span) (out []string) {
	tl, err := timeline.Build(s, lib)
	if err != nil {
		return nil
	}
	off := tl.Total - target
	spans := map[plan.Path]clock.Span{}
	for i := range tl.Steps {
		spans[tl.Steps[i].Row] += tl.Steps[i].S
	}
	if off > 0 {
		if name, takes := leaveOut(s, lib, spans, off); takes > 0 {
			out = append(out, fmt.Sprintf("leaving out %s gives back about %s", name, takes))
		}
	} else if one := oneMore(s, spans); one > 0 {
		out = append(out, fmt.Sprintf("one movement more takes about %s", one))
	}
	out = append(out, roundsElse(s, spans, off)...)
	locked, fixed := 0, []string{}
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if r.Locked && !r.IsRest() {
			locked++
		}
		if m, err := r.Of(lib); err == nil && m != nil && itself(r.DoseOf(m), m) && !slices.Contains(fixed, m.Name) {
			fixed = append(fixed, m.Name)
		}
	})
	if locked > 0 {
		out = append(out, many(locked, "row")+" "+map[bool]string{true: "is", false: "are"}[locked == 1]+" locked")
	}
	if len(fixed) > 0 {
		out = append(out, strings.Join(fixed, " and ")+" kept the dose that makes it what it is")
	}
	return append(out, fmt.Sprintf("or promise %s", (tl.Total+15*clock.Second)/(30*clock.Second)*(30*clock.Second)))
}

// leaveOut is the row whose time is nearest to what is too much.
func leaveOut(s *plan.Session, lib *movement.Library, spans map[plan.Path]clock.Span, over clock.Span) (name string, takes clock.Span) {
	twins := twinsOf(s)
	s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		if _, twin := twins[p]; twin || r.Locked || r.IsRest() {
			return
		}
		if sp := spans[p]; takes == 0 || apart(sp, over) < apart(takes, over) {
			name, takes = r.Title(lib), sp
		}
	})
	return name, takes
}

// oneMore is the median of what the movements of a class take, each time round.
func oneMore(s *plan.Session, spans map[plan.Path]clock.Span) clock.Span {
	var list []clock.Span
	s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		if !r.IsRest() {
			list = append(list, spans[p]/clock.Span(max(1, b.Rounds)))
		}
	})
	if len(list) == 0 {
		return 0
	}
	slices.Sort(list)
	return list[len(list)/2]
}

func apart(a, b clock.Span) clock.Span { return max(a-b, b-a) }

// roundsElse says what a round more or less of a circuit is.
func roundsElse(s *plan.Session, spans map[plan.Path]clock.Span, off clock.Span) (out []string) {
	for i := range s.Sections {
		for j := range s.Sections[i].Blocks {
			b := &s.Sections[i].Blocks[j]
			if b.Rule != plan.Rounds || off > 0 && b.Rounds < 2 || off < 0 && b.Rounds >= plan.MaxRounds {
				continue
			}
			sum := clock.Span(0)
			for k := range b.Rows {
				sum += spans[plan.Path{Section: i + 1, Block: j + 1, Row: k + 1}]
			}
			word := map[bool]string{true: "less", false: "more"}[off > 0]
			out = append(out, fmt.Sprintf("a round %s in %s is about %s", word, s.Sections[i].Title, sum/clock.Span(max(1, b.Rounds))))
		}
	}
	return out
}
