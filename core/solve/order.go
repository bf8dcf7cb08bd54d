package solve

import (
	"math"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// MaxUnits is the longest section that is ordered exactly; longer ones are left as they are, which
// the answer says.
const MaxUnits = 16

// arcBreak is what it costs, in time, to do something before what the arc of a class puts in front
// of it (arrive, mobilise, build, settle): more than any change of position; judgement.
const arcBreak = 25 * clock.Second

// Ordered is a session in its best order.
type Ordered struct {
	Session *plan.Session
	Before  Tally
	After   Tally
	Left    []string // sections too long to order exactly, left as they were
}

// Tally is what an order costs.
type Tally struct {
	Changes int        // of position and kit
	Time    clock.Span // they take
	Length  clock.Span // of the class
}

// unit is what moves as one: a row with the rests behind it, or a whole chain or circuit.
type unit struct {
	block        plan.Block
	enter, leave movement.Posture
	kit          string
	phase        int
	fixed        bool
}

// Order finds the order of rows within each section that costs least: seconds of changing position,
// fetching kit, and breaks of the arc. Chains and circuits are kept whole, a rest stays behind what
// it follows, a section with a locked row is left. Exact over all sections together, as what a
// section ends on is where the next begins: dynamic programming over subsets, cost 2^units x units^2.
func Order(s *plan.Session, lib *movement.Library) (*Ordered, error) {
	before, err := timeline.Build(s, lib)
	if err != nil {
		return nil, err
	}
	out := &Ordered{Session: s.Clone(), Before: tally(before)}
	pace := timeline.PaceOf(s.Talk)
	// ends: for every posture a section can end on, the least cost so far and the orders that give it.
	type path struct {
		cost   clock.Span
		orders [][]int
	}
	ends := map[movement.Posture]path{movement.NoPosture: {}}
	sections := make([][]unit, len(s.Sections))
	for i := range s.Sections {
		us := unitsOf(&s.Sections[i], lib)
		sections[i] = us
		next := map[movement.Posture]path{}
		for _, from := range postures(ends) {
			p := ends[from]
			var found []candidate
			if len(us) > MaxUnits || slices.ContainsFunc(us, func(u unit) bool { return u.fixed }) {
				found = []candidate{asItIs(us, from, pace)}
			} else {
				found = bestOrders(us, from, pace)
			}
			for _, c := range found {
				cost := p.cost + c.cost
				if old, ok := next[c.leave]; !ok || cost < old.cost {
					next[c.leave] = path{cost, append(slices.Clone(p.orders), c.order)}
				}
			}
		}
		if len(us) > MaxUnits {
			out.Left = append(out.Left, s.Sections[i].Title)
		}
		ends = next
	}
	var best *path
	for _, p := range postures(ends) {
		if e := ends[p]; best == nil || e.cost < best.cost {
			best = &e
		}
	}
	for i, order := range best.orders {
		if len(order) > 0 {
			out.Session.Sections[i].Blocks = blocksOf(sections[i], order)
		}
	}
	after, err := timeline.Build(out.Session, lib)
	if err != nil {
		return nil, err
	}
	out.After = tally(after)
	return out, nil
}

// postures lists the keys in a fixed order, so that the answer is the same every time.
func postures[V any](m map[movement.Posture]V) []movement.Posture {
	out := make([]movement.Posture, 0, len(m))
	for p := range m {
		out = append(out, p)
	}
	slices.Sort(out)
	return out
}

func tally(tl *timeline.Timeline) Tally {
	return Tally{tl.Sums.PositionsChanged + tl.Sums.KitChanges, tl.Sums.Position, tl.Total}
}

func unitsOf(sec *plan.Section, lib *movement.Library) (out []unit) {
	for _, b := range sec.Blocks {
		if b.Rule != plan.Straight {
			out = append(out, unitOf(b, lib))
			continue
		}
		for _, r := range b.Rows {
			one := b
			one.Rows = []plan.Row{r}
			if n := len(out); r.IsRest && n > 0 {
				last := &out[n-1]
				if last.block.Rule == plan.Straight {
					last.block.Rows = append(slices.Clip(last.block.Rows), r)
					last.fixed = last.fixed || r.Locked
					continue
				}
			}
			out = append(out, unitOf(one, lib))
		}
	}
	return out
}

func unitOf(b plan.Block, lib *movement.Library) unit {
	u := unit{block: b, phase: -1}
	for i := range b.Rows {
		r := &b.Rows[i]
		u.fixed = u.fixed || r.Locked
		m, err := r.Of(lib)
		if err != nil || m == nil {
			continue
		}
		if u.enter == movement.NoPosture {
			u.enter = m.Posture
		}
		u.leave = m.Posture
		if k := m.Things(max(1, r.Level)); len(k) > 0 {
			u.kit = k[0]
		}
		if ph := slices.Index(movement.Phases, m.Phase); ph >= 0 {
			u.phase = max(u.phase, ph)
		}
	}
	return u
}

// step is what it costs to do b after a posture and a piece of kit.
func step(from movement.Posture, kit string, b *unit, p timeline.Pace) (cost clock.Span) {
	switch n := from.WayTo(b.enter).Steps; {
	case n == 1:
		cost = p.OneStep
	case n > 1:
		cost = p.MoreSteps
	}
	if b.kit != "" && b.kit != kit {
		cost += p.Kit
	}
	return cost
}

type candidate struct {
	cost  clock.Span
	order []int
	leave movement.Posture
}

func left(from movement.Posture, u *unit) movement.Posture {
	if u.leave == movement.NoPosture {
		return from
	}
	return u.leave
}

// asItIs is the order a section has.
func asItIs(us []unit, from movement.Posture, p timeline.Pace) candidate {
	c := candidate{leave: from}
	kit := ""
	for i := range us {
		c.cost += step(c.leave, kit, &us[i], p)
		for j := range i {
			if before(&us[i], &us[j]) {
				c.cost += arcBreak
			}
		}
		c.leave, kit = left(c.leave, &us[i]), us[i].kit
		c.order = append(c.order, i)
	}
	return c
}

// before tells whether the arc puts a in front of b.
func before(a, b *unit) bool { return a.phase >= 0 && b.phase >= 0 && a.phase < b.phase }

// bestOrders gives, for every unit a section can end on, its cheapest order. Among equals the one
// nearest to the order it has.
func bestOrders(us []unit, from movement.Posture, p timeline.Pace) (out []candidate) {
	n := len(us)
	if n == 0 {
		return []candidate{{leave: from}}
	}
	// Costs in milliseconds, with the number of neighbours that are not as they were behind the point.
	const scale = 64
	const none = math.MaxInt64
	full := 1<<n - 1
	best := make([]int64, (full+1)*n)
	prev := make([]int8, (full+1)*n)
	for i := range best {
		best[i] = none
	}
	early := make([]int, n) // units that the arc puts in front of i
	for i := range us {
		for j := range us {
			if before(&us[i], &us[j]) {
				early[i] |= 1 << j // doing i behind j breaks the arc
			}
		}
	}
	arc := func(i, done int) int64 {
		c := int64(0)
		for b := early[i] & done; b != 0; b &= b - 1 {
			c += int64(arcBreak)
		}
		return c
	}
	for i := range us {
		moved := int64(0)
		if i != 0 {
			moved = 1
		}
		best[(1<<i)*n+i] = int64(step(from, "", &us[i], p))*scale + moved
		prev[(1<<i)*n+i] = -1
	}
	for set := 1; set <= full; set++ {
		for last := range n {
			c := best[set*n+last]
			if c == none {
				continue
			}
			for next := range n {
				if set&(1<<next) != 0 {
					continue
				}
				moved := int64(0)
				if next != last+1 {
					moved = 1
				}
				cost := c + (int64(step(left(from, &us[last]), us[last].kit, &us[next], p))+arc(next, set))*scale + moved
				if k := (set|1<<next)*n + next; cost < best[k] {
					best[k], prev[k] = cost, int8(last)
				}
			}
		}
	}
	for last := range n {
		c := candidate{cost: clock.Span(best[full*n+last] / scale), leave: left(from, &us[last])}
		for set, at := full, last; at >= 0; {
			c.order = append(c.order, at)
			was := int(prev[set*n+at])
			set &^= 1 << at
			at = was
		}
		slices.Reverse(c.order)
		out = append(out, c)
	}
	// stable: the order nearest to what it was first
	slices.SortStableFunc(out, func(a, b candidate) int {
		ca, cb := best[full*n+a.order[n-1]], best[full*n+b.order[n-1]]
		switch {
		case ca < cb:
			return -1
		case ca > cb:
			return 1
		}
		return 0
	})
	return out
}

// blocksOf puts units back in an order, joining neighbouring straight rows.
func blocksOf(us []unit, order []int) (out []plan.Block) {
	for _, i := range order {
		b := us[i].block
		n := len(out)
		if n > 0 && b.Rule == plan.Straight && out[n-1].Rule == plan.Straight && out[n-1].Rest == b.Rest {
			out[n-1].Rows = append(slices.Clip(out[n-1].Rows), b.Rows...)
			continue
		}
		out = append(out, b)
	}
	return out
}
