package timeline

import (
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// breathesOnce is from how many parts on a combination breathes once a part (common practice, no source).
const breathesOnce = 4

// buildUp learns the first part, then does the first and the second as one, then three of them, and so on, and what comes at the top of the climb; all of it
// on one side and then on the other, where a part has sides.
func (b *builder) buildUp(p plan.Path, blk *plan.Block, lines []line) {
	n := blk.PartsDone()
	parts, after := slices.DeleteFunc(slices.Clone(lines[:n]), func(l line) bool { return l.m == nil }), lines[n:]
	first := b.first()
	sides := []Side{Both}
	for i := range parts {
		if s := parts[i].sides; s != movement.Both && s != movement.Alternating {
			sides = []Side{first, first.Other()}
		}
	}
	for k, side := range sides {
		if len(parts) > 0 {
			b.climb(parts, side, k == 1, k == 1 && blk.Second == plan.SecondWhole)
		}
		for i := range after {
			l := &after[i]
			if l.m == nil {
				b.restRow(l)
				continue
			}
			at, ok := l.inPass(side)
			if len(sides) == 1 {
				at, ok = startSide(l, first), true
			}
			if !ok {
				continue
			}
			b.taughtSide(l, at)
			d, level := l.on(at)
			b.enter(l, level, at, false, inChain)
			for set := 1; set <= d.SetCount(); set++ {
				b.parts(l, d, level, at, set, 0)
				if set < d.SetCount() && d.Rest > 0 {
					b.rest(l, d.Rest, "between sets")
				}
			}
			b.leave(l)
		}
		if k == 0 && len(sides) == 2 {
			b.taught(p)
			b.between(blk, &lines[len(lines)-1], "between sides")
		}
	}
	b.inStretches = false
}

// climb does the parts of a build up on one side: step by step, or all of them at once. Only what is new in a step is set up.
func (b *builder) climb(parts []line, side Side, turned, whole bool) {
	from := 0
	if whole {
		from = len(parts) - 1
	}
	for k := from; k < len(parts); k++ {
		l := &parts[k]
		at := side
		switch l.sides {
		case movement.Both:
			at = Both
		case movement.Alternating:
			at = Alternating
		}
		b.taughtSide(l, at)
		d, level := l.on(at)
		switch {
		case k == from && turned:
			b.turn(l, level, at, false, b.pace.changes.SecondSide)
		default:
			b.enter(l, level, at, false, entry)
		}
		b.combine(parts[:k+1], d, level, at)
	}
	b.leave(&parts[len(parts)-1])
}

// combine does parts as one, as many times as the newest of them says; a time or a hold is as long as it says. What the newest has besides, pulses at the end
// of it, is its own.
func (b *builder) combine(parts []line, d dose.Dose, level int, side Side) {
	l := &parts[len(parts)-1]
	if len(parts) == 1 || len(d.Parts) == 0 {
		b.parts(l, d, level, side, 1, 0)
		return
	}
	moves, levels, seconds := make([]*movement.Movement, len(parts)), make([]int, len(parts)), make([]float64, len(parts))
	pieces := make([]Piece, len(parts))
	one := clock.Span(0)
	for i := range parts {
		q := &parts[i]
		b.taughtSide(q, side)
		_, lv := q.on(side)
		if i+1 == len(parts) {
			lv = level
		}
		per := b.perRep(q.m, lv, b.tempo*b.own.TempoOf(q.m))
		moves[i], levels[i], seconds[i] = q.m, lv, per.Seconds()
		pieces[i] = Piece{q.path, q.m.As(lv), lv, per}
		one += per
	}
	b.taughtSide(l, side)
	u := *l
	u.m = movement.United(moves, levels, seconds)
	p := d.Parts[0]
	span, reps := b.length(l, d, p, level, side)
	kind := Work
	switch p.Kind {
	case dose.Reps, dose.Rounds:
		span = one * clock.Span(max(1, reps))
	case dose.Hold:
		kind = Hold
	}
	at := len(b.t.Steps)
	b.work(&u, kind, level, side, span, reps, 1, p.Span > 0)
	if len(b.t.Steps) > at {
		st := &b.t.Steps[at]
		st.Parts, st.Part = pieces, 1
		st.least, st.most = p.Spread()
		if len(parts) >= breathesOnce {
			st.BreathIn = one / clock.Span(2*len(parts))
			st.BreathOut = st.BreathIn
		}
	}
	if len(d.Parts) > 1 {
		rest := d
		rest.Parts = d.Parts[1:]
		b.parts(l, rest, level, side, 1, 0)
	} else {
		b.words(l, at)
	}
}
