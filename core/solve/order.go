package solve

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	lru "github.com/hashicorp/golang-lru/v2"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// arcBreak is what it costs, in time, to do something before what the arc of a class puts in front
// of it (arrive, mobilise, build, settle): more than any change of position; judgement.
const arcBreak = 25 * clock.Second

// Effort bounds the search of Order: the number of states it may look at in one section. Longer sections are left as
// they are, which the answer says. A state is what has been done so far and what was last; pieces that cost the same
// wherever they stand count together, so that twenty pieces in five positions are few states.
type Effort int

// How hard Order may try. The first takes a second at most, the other a millisecond or two.
const (
	Thorough Effort = 1 << 20
	Quick    Effort = 1 << 13
)

// Ordered is a session in its best order.
type Ordered struct {
	Session *plan.Session
	Before  Tally
	After   Tally
	Left    []Left // sections that were not ordered
}

// Left is a section that was left as it is, and why.
type Left struct {
	Section int // from 1
	Says    string
}

// Better tells whether the order found is any better than the one there was: never longer, and shorter or with
// fewer changes.
func (o *Ordered) Better() bool {
	return o.After.Length <= o.Before.Length && (o.After.Length < o.Before.Length || o.After.Changes() < o.Before.Changes())
}

// Says says in words what the order gains.
func (o *Ordered) Says() string {
	says := "This is the best order already."
	if o.Better() {
		says = "Saves " + (o.Before.Length - o.After.Length).String()
		if fewer := o.Before.Changes() - o.After.Changes(); fewer > 0 {
			says += fmt.Sprintf(" and %s of position or kit: %d instead of %d", many(fewer, "change"), o.After.Changes(), o.Before.Changes())
		}
		says += ". Chains, circuits and the arc of the class are kept."
	}
	for _, l := range o.Left {
		says += " " + l.Says
	}
	return says
}

func many(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %ss", n, one)
}

// Tally is what an order costs.
type Tally struct {
	Positions int        // changes of position
	Kit       int        // and of kit
	Time      clock.Span // the changes of position take
	Length    clock.Span // of the class
}

func tally(tl *timeline.Timeline) Tally {
	return Tally{tl.Sums.PositionsChanged, tl.Sums.KitChanges, tl.Sums.Position, tl.Total}
}

// Changes is how often position or kit are changed.
func (t Tally) Changes() int {
	return t.Positions + t.Kit
}

// Order finds the order of rows within each section that costs least: seconds of changing position, fetching kit, and
// breaks of the arc. Kept are chains and circuits whole; a rest behind what it follows, or in front of what it fetches
// the kit for; the order of pieces that share a movement (a hard round after its easy one); what has a place in the
// classical order, where the session says it follows it; a transition at its place; the last piece of the class; a
// section with a locked row; and the sections in keep. Exact over all sections together, as what a section ends on is
// where the next begins, by dynamic programming; sections beyond the effort are left as they are. Where the order
// found does not make the class better the session comes back as it was. When ctx ends first, its cause is the error.
func Order(ctx context.Context, s *plan.Session, lib *movement.Library, effort Effort, keep ...int) (*Ordered, error) {
	was, err := timeline.Build(s, lib)
	if err != nil {
		return nil, err
	}
	return OrderTimed(ctx, s, was, lib, effort, keep...)
}

// OrderTimed is Order for whoever has the timeline of the session.
func OrderTimed(ctx context.Context, s *plan.Session, was *timeline.Timeline, lib *movement.Library, effort Effort, keep ...int) (*Ordered, error) {
	var err error
	out := &Ordered{Session: s, Before: tally(was), After: tally(was)}
	pace, fixed := timeline.PaceOf(s.Talk), FixedOrder(s, lib)
	ends := map[place]way{{}: {}}
	sections := make([][]Piece, len(s.Sections))
	last := lastSection(s)
	for i := range s.Sections {
		pieces := Pieces(&s.Sections[i], lib)
		sections[i] = pieces
		p := newProblem(pieces, pace, fixed, i == last)
		var why string
		switch {
		case slices.Contains(keep, i+1):
			p.fix()
		case slices.ContainsFunc(pieces, func(p Piece) bool { return p.locked }):
			p.fix()
		case p.states() > int(effort):
			p.fix()
			n, _ := changes(place{}, pieces)
			why = fmt.Sprintf("%q has too many different pieces to be ordered exactly and was left as it is: it changes position %s, no order does with fewer than %d.",
				s.Sections[i].Title, many(n, "time"), leastChanges(pieces))
		}
		if why != "" {
			out.Left = append(out.Left, Left{i + 1, why})
		}
		if ends, err = p.extend(ctx, ends); err != nil {
			return nil, err
		}
	}
	best := cheapest(ends)
	if !best.moves() {
		return out, nil
	}
	out.Session = s.Clone()
	for i, order := range best.orders {
		if len(order) == 0 {
			continue
		}
		ps := make([]Piece, len(order))
		for k, j := range order {
			ps[k] = sections[i][j]
		}
		out.Session.Sections[i].Blocks = Join(ps)
	}
	now, err := timeline.Build(out.Session, lib)
	if err != nil {
		return nil, err
	}
	if out.After = tally(now); !out.Better() { // what a piece costs alone is not all that it costs in the class
		out.Session, out.After = s, out.Before
	}
	return out, nil
}

// lastSection is the index of the last section that has a row.
func lastSection(s *plan.Session) int {
	for i := len(s.Sections) - 1; i > 0; i-- {
		for _, b := range s.Sections[i].Blocks {
			if len(b.Rows) > 0 {
				return i
			}
		}
	}
	return 0
}

// place is where a class stands between two pieces: the position and what is in hand.
type place struct {
	at  movement.Posture
	kit string
}

func (a place) compare(b place) int {
	return cmp.Or(cmp.Compare(a.at, b.at), strings.Compare(a.kit, b.kit))
}

// way is the cheapest way to a place: its cost and the order of each section so far.
type way struct {
	cost   int64
	orders [][]int
}

// moves tells whether any piece stands elsewhere than it did.
func (w way) moves() bool {
	return slices.ContainsFunc(w.orders, func(o []int) bool { return !slices.IsSorted(o) })
}

// places lists the keys in a fixed order, so that the answer is the same every time.
func places(m map[place]way) []place {
	out := make([]place, 0, len(m))
	for p := range m {
		out = append(out, p)
	}
	slices.SortFunc(out, place.compare)
	return out
}

func cheapest(ends map[place]way) (best way) {
	for i, p := range places(ends) {
		if e := ends[p]; i == 0 || e.cost < best.cost {
			best = e
		}
	}
	return best
}

// after is the place a piece leaves the class in.
func (a place) after(p *Piece) place {
	if p.Leave == movement.NoPosture {
		return a
	}
	return place{p.Leave, p.kit}
}

// Costs are in milliseconds times scale, plus one for each neighbour that is not as it was: among orders that cost
// the same the one nearest to the order there was is taken.
const scale = 256

// step is what it costs to do a piece at a place.
func step(a place, p *Piece, pace timeline.Pace) int64 {
	var cost clock.Span
	switch n := a.at.WayTo(p.Enter).Steps; {
	case n == 1:
		cost = pace.OneStep
	case n > 1:
		cost = pace.MoreSteps
	}
	if p.fetches != "" && p.fetches != a.kit {
		cost += pace.Kit
	}
	return int64(cost) * scale
}

// problem is one section to be ordered. Pieces that cost the same at every place and wait for the same others make a
// class: within it they keep their order, so that how many of each class are done is all there is to know.
type problem struct {
	pieces  []Piece
	pace    timeline.Pace
	classes [][]int // indices of pieces, rising
	waits   [][]int // for each piece, those that must be done before
	at      []bool  // the piece stays at its place
}

func newProblem(pieces []Piece, pace timeline.Pace, classical, closes bool) *problem {
	p := &problem{pieces: pieces, pace: pace, waits: make([][]int, len(pieces)), at: make([]bool, len(pieces))}
	tied := make([]bool, len(pieces)) // more than its cost keeps it apart from others: what it waits for, what waits for it, its place
	for i := range pieces {
		for j := range i {
			if stays(&pieces[j], &pieces[i], classical) {
				p.waits[i] = append(p.waits[i], j)
				tied[i], tied[j] = true, true
			}
		}
		p.at[i] = pieces[i].transition || closes && i == len(pieces)-1
		tied[i] = tied[i] || p.at[i]
	}
	type key struct {
		enter, leave movement.Posture
		kit, fetches string
		phase, tie   int
	}
	index := map[key]int{}
	for i := range pieces {
		q := &pieces[i]
		k := key{q.Enter, q.Leave, q.kit, q.fetches, q.phase, -1}
		if tied[i] {
			k.tie = i
		}
		c, ok := index[k]
		if !ok {
			c = len(p.classes)
			index[k] = c
			p.classes = append(p.classes, nil)
		}
		p.classes[c] = append(p.classes[c], i)
	}
	return p
}

// fix leaves the section as it is.
func (p *problem) fix() {
	for i := range p.at {
		p.at[i] = true
	}
}

// states is how many states the search has to look at: the products of what may be done of each class, times the classes.
func (p *problem) states() int {
	n := float64(len(p.classes))
	for _, c := range p.classes {
		n *= float64(len(c) + 1)
	}
	return int(min(n, math.MaxInt32))
}

// asItIs is what the section costs in the order it has, and where it ends.
func (p *problem) asItIs(from place) (cost int64, to place) {
	to = from
	for i := range p.pieces {
		cost += step(to, &p.pieces[i], p.pace)
		for j := range i {
			if earlier(&p.pieces[i], &p.pieces[j]) {
				cost += int64(arcBreak) * scale
			}
		}
		to = to.after(&p.pieces[i])
	}
	return cost, to
}

// extend carries the ways to every place over the section.
func (p *problem) extend(ctx context.Context, ends map[place]way) (map[place]way, error) {
	next := map[place]way{}
	put := func(to place, w way) {
		if old, ok := next[to]; !ok || w.cost < old.cost {
			next[to] = w
		}
	}
	fixed := !slices.Contains(p.at, false)
	for _, from := range places(ends) {
		w := ends[from]
		if fixed {
			cost, to := p.asItIs(from)
			order := make([]int, len(p.pieces))
			for i := range order {
				order[i] = i
			}
			put(to, way{w.cost + cost, append(slices.Clone(w.orders), order)})
			continue
		}
		all, err := p.found(ctx, from)
		if err != nil {
			return nil, err
		}
		for _, f := range all {
			put(f.to, way{w.cost + f.cost, append(slices.Clone(w.orders), f.order)})
		}
	}
	return next, nil
}

// found is the cheapest order of a section that ends at a place. It is never changed.
type found struct {
	to    place
	cost  int64
	order []int
}

// remembered keeps what was found of the sections seen last, about 1 KB each: most changes of a class leave the order of
// its sections what it was.
var remembered = func() *lru.Cache[string, []found] {
	c, err := lru.New[string, []found](1024)
	if err != nil {
		panic(err) // only for a size below 1
	}
	return c
}()

// longestKept is how many pieces a section has at most that is remembered.
const longestKept = 64

// found searches the section, or remembers what was found when it looked as it does.
func (p *problem) found(ctx context.Context, from place) (out []found, err error) {
	key := ""
	if len(p.pieces) <= longestKept {
		key = p.looks(from)
		if out, ok := remembered.Get(key); ok {
			return out, nil
		}
	}
	if err := p.search(ctx, from, func(to place, cost int64, order []int) { out = append(out, found{to, cost, order}) }); err != nil {
		return nil, err
	}
	if key != "" {
		remembered.Add(key, out)
	}
	return out, nil
}

// looks is all that the search goes by, as text.
func (p *problem) looks(from place) string {
	b := make([]byte, 0, 64+32*len(p.pieces))
	num := func(ns ...int) {
		for _, n := range ns {
			b = append(strconv.AppendInt(b, int64(n), 10), ' ')
		}
	}
	word := func(w string) { b = append(strconv.AppendQuote(b, w), ' ') }
	num(int(p.pace.OneStep), int(p.pace.MoreSteps), int(p.pace.Kit), int(from.at))
	word(from.kit)
	for i := range p.pieces {
		q := &p.pieces[i]
		num(int(q.Enter), int(q.Leave), q.phase)
		word(q.kit)
		word(q.fetches)
		if p.at[i] {
			b = append(b, '!')
		}
		num(p.waits[i]...)
		b = append(b, '\n')
	}
	for _, c := range p.classes {
		num(c...)
		b = append(b, ';')
	}
	return string(b)
}

// looksUp is how many states are looked at before it is asked whether anybody still waits: some milliseconds.
const looksUp = 1 << 10

// search visits, for every class a section can end on, its cheapest order. State: how many of each class are done, as
// a number in mixed radix, and the class done last.
func (p *problem) search(ctx context.Context, from place, visit func(to place, cost int64, order []int)) error {
	const none = math.MaxInt64
	k := len(p.classes)
	radix := make([]int, k)
	states := 1
	for c := range p.classes {
		radix[c] = states
		states *= len(p.classes[c]) + 1
	}
	best := make([]int64, states*k)
	prev := make([]int8, states*k)
	for i := range best {
		best[i] = none
	}
	count := make([]int, k)
	classOf, nth := p.places()
	early := make([][]bool, k) // [class][class]: doing the first behind the second breaks the arc
	for a := range early {
		early[a] = make([]bool, k)
		for b := range k {
			early[a][b] = earlier(&p.pieces[p.classes[a][0]], &p.pieces[p.classes[b][0]])
		}
	}
	for state := range states {
		if state%looksUp == 0 && ctx.Err() != nil {
			return context.Cause(ctx)
		}
		done := 0
		for c := range count {
			count[c] = state / radix[c] % (len(p.classes[c]) + 1)
			done += count[c]
		}
		for last := range k {
			cost := best[state*k+last]
			if state > 0 && cost == none || state == 0 && last > 0 {
				continue
			}
			at, was := from, -1
			if state > 0 {
				was = p.classes[last][count[last]-1]
				at = at.after(&p.pieces[was])
			} else {
				cost = 0
			}
			for c := range k {
				if count[c] == len(p.classes[c]) {
					continue
				}
				i := p.classes[c][count[c]]
				if !p.may(i, done, count, classOf, nth) {
					continue
				}
				sum := cost + step(at, &p.pieces[i], p.pace)
				for b := range k {
					if early[c][b] {
						sum += int64(arcBreak) * scale * int64(count[b])
					}
				}
				if i != was+1 {
					sum++
				}
				if to := (state+radix[c])*k + c; sum < best[to] {
					best[to], prev[to] = sum, int8(last)
				}
			}
		}
	}
	for last := range k {
		if cost := best[(states-1)*k+last]; cost < none {
			order := p.trace(prev, radix, states-1, last)
			visit(from.after(&p.pieces[order[len(order)-1]]), cost, order)
		}
	}
	return nil
}

// places gives for each piece its class and which one of the class it is.
func (p *problem) places() (class, nth []int) {
	class, nth = make([]int, len(p.pieces)), make([]int, len(p.pieces))
	for c, is := range p.classes {
		for n, i := range is {
			class[i], nth[i] = c, n
		}
	}
	return class, nth
}

// may tells whether a piece can come next: what it waits for is done, and where a piece keeps its place it is this one.
func (p *problem) may(i, done int, count, class, nth []int) bool {
	if p.at[done] && i != done || p.at[i] && i != done {
		return false
	}
	for _, j := range p.waits[i] {
		if nth[j] >= count[class[j]] {
			return false
		}
	}
	return true
}

// trace walks back from the end to the order that led there.
func (p *problem) trace(prev []int8, radix []int, state, last int) []int {
	k := len(p.classes)
	order := make([]int, 0, len(p.pieces))
	for state > 0 {
		n := state / radix[last] % (len(p.classes[last]) + 1)
		order = append(order, p.classes[last][n-1])
		was := int(prev[state*k+last])
		state -= radix[last]
		last = was
	}
	slices.Reverse(order)
	return order
}

// changes counts the changes of position from a place through pieces, and where they end.
func changes(at place, ps []Piece) (n int, to place) {
	for i := range ps {
		if at.at.WayTo(ps[i].Enter).Steps > 0 {
			n++
		}
		at = at.after(&ps[i])
	}
	return n, at
}

// leastChanges is how many changes of position any order of pieces needs: as many as positions they begin in, less one; a
// position in which another piece leaves the body is reached without.
func leastChanges(ps []Piece) int {
	seen := map[movement.Posture]bool{}
	for i := range ps {
		if ps[i].Enter != movement.NoPosture {
			seen[ps[i].Enter] = true
		}
	}
	for i := range ps {
		if ps[i].Leave != ps[i].Enter {
			delete(seen, ps[i].Leave)
		}
	}
	return max(0, len(seen)-1)
}

// MaySave is a bound on how many changes of position another order could save in the class: Order saves no more, and
// nothing is searched to know it. Cost grows linearly with the rows.
func MaySave(s *plan.Session, lib *movement.Library) (sum int) {
	at := place{}
	for i := range s.Sections {
		ps := Pieces(&s.Sections[i], lib)
		var n int
		n, at = changes(at, ps)
		sum += n - leastChanges(ps)
	}
	return max(0, sum)
}
