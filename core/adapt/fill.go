package adapt

import (
	"cmp"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/solve"
	"wavekine/core/timeline"
)

// room is a row that can take more time, or less, with the doses it may have.
type room struct {
	at    plan.Path
	near  int // rows from the nearest that was changed
	doses []dose.Dose
	now   int
	per   float64 // milliseconds of one count more
	count int
}

// fill gives the time of what was left out, or became shorter, to its neighbours, the nearest first and nobody more than a third more; and takes it back from stand-ins
// that take longer. A length within a hundredth is left alone.
func (w *work) fill(d *draft, tl *timeline.Timeline) (*timeline.Timeline, error) {
	for range 3 {
		diff := w.was.Total - tl.Total
		if float64(max(diff, -diff)) <= aimed*float64(w.was.Total) {
			break
		}
		if !w.give(d, tl, diff) {
			break
		}
		var err error
		if tl, err = timeline.Build(d.s, w.lib); err != nil {
			return nil, err
		}
	}
	return tl, nil
}

// give changes doses so that about diff more is worked; false where none could be.
func (w *work) give(d *draft, tl *timeline.Timeline, diff clock.Span) (changed bool) {
	left := float64(diff)
	for _, o := range w.rooms(d, tl) {
		if o.per <= 0 {
			continue
		}
		if left > 0 && left < o.per/2 || left < 0 && (-left < o.per/2 || !d.instead[o.at] && !d.filled[o.at]) {
			continue
		}
		best := o.now
		for k := range o.doses {
			if (k-o.now)*int(diff) <= 0 {
				continue
			}
			gain := o.gain(k)
			if left > 0 && gain <= left+o.per/2 && gain > o.gain(best) || left < 0 && gain >= left-o.per/2 && gain < o.gain(best) {
				best = k
			}
		}
		if best == o.now {
			continue
		}
		left -= o.gain(best)
		r := d.s.Row(o.at)
		r.Dose, changed = o.doses[best], true
		d.filled[o.at] = true
	}
	return changed
}

// gain is how much longer the row takes with a dose, in milliseconds.
func (o *room) gain(k int) float64 { return float64(amount(o.doses[k])-o.count) * o.per }

// amount is how many counts, breaths or milliseconds a dose has.
func amount(d dose.Dose) int {
	if n := d.Count(); n > 0 {
		return n
	}
	return int(d.Parts[0].Span)
}

// rooms are the rows that can take time, the nearest to what was changed first.
func (w *work) rooms(d *draft, tl *timeline.Timeline) (out []room) {
	worked := map[plan.Path]clock.Span{}
	for i := range tl.Steps {
		if st := &tl.Steps[i]; st.Kind.Working() {
			worked[st.Row] += st.S
		}
	}
	order := map[plan.Path]int{}
	n := 0
	w.s.Each(func(p plan.Path, _ *plan.Block, _ *plan.Row) { n++; order[p] = n })
	var marks []int
	for _, c := range d.changes {
		marks = append(marks, order[c.Row])
	}
	d.s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		from, ok := d.from[p]
		if !ok || r.IsRest() || r.Locked || b.Timed() || r.Right != nil || r.Left != nil || r.Sides == movement.RightOnly || r.Sides == movement.LeftOnly || len(r.ByRound) > 0 || len(r.Timed) > 0 || w.full(from) {
			return
		}
		m, err := r.Of(w.lib)
		if err != nil || m == nil || m.DoseIsIt {
			return
		}
		now := r.DoseOf(m)
		doses, at := solve.Doses(now, r.SideRule(m), m.Stretch, solve.House{})
		if bounds, ok := m.Bounds(max(1, r.Level)); ok {
			doses = slices.DeleteFunc(doses, func(x dose.Dose) bool {
				n, unit, ok := movement.Amount(x)
				return ok && unit == bounds.Unit && n > bounds.Max && !x.Equal(now)
			})
			at = slices.IndexFunc(doses, now.Equal)
		}
		if len(doses) < 2 || at < 0 || worked[p] <= 0 || amount(now) <= 0 {
			return
		}
		o := room{at: p, doses: doses, now: at, count: amount(now), near: 1 << 20}
		o.per = float64(worked[p]) / float64(o.count)
		for _, k := range marks {
			o.near = min(o.near, max(order[from]-k, k-order[from]))
		}
		out = append(out, o)
	})
	slices.SortStableFunc(out, func(a, b room) int { return cmp.Compare(a.near, b.near) })
	return out
}

func (w *work) full(p plan.Path) bool { return w.states[p] != nil && w.states[p].full }
