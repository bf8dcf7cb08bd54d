package review

import (
	"fmt"
	"slices"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// positionChanges: more changes of position than the order needs. What is compared is the same
// section with its rows brought together by posture, chains and circuits kept whole.
func positionChanges(l *look) []Finding {
	type saving struct{ section, saved int }
	var savings []saving
	sum := 0
	now := movement.NoPosture
	for i := range l.s.Sections {
		units := unitsOf(&l.s.Sections[i], l.lib)
		_, saved := grouped(units, now)
		if saved > 0 {
			savings = append(savings, saving{i, saved})
			sum += saved
		}
		if len(units) > 0 {
			now = units[len(units)-1].leave
		}
	}
	if sum < l.lim.SpareMove {
		return nil
	}
	worst := slices.MaxFunc(savings, func(a, b saving) int { return a.saved - b.saved })
	f := Finding{
		Rule: "changes", Severity: Look, Amount: float64(sum), Row: plan.Path{Section: worst.section + 1, Block: 1, Row: 1},
		Measured: fmt.Sprintf("%d changes of position", l.tl.Sums.PositionsChanged),
		Limit:    fmt.Sprintf("fewer than %d to save", l.lim.SpareMove), Source: sourceOf("spare_move"),
		Says:   fmt.Sprintf("%d more changes of position than the order needs", sum),
		Detail: fmt.Sprintf("%d changes take %s. Most can be saved in %s.", l.tl.Sums.PositionsChanged, l.tl.Sums.Position, l.s.Sections[worst.section].Title),
	}
	f.At, _, _ = l.tl.RowSpan(f.Row)
	f.Mends = []Mend{{ID: "changes-group", Says: "Bring same positions together", apply: func(s *plan.Session) error {
		now := movement.NoPosture
		for i := range s.Sections {
			units := unitsOf(&s.Sections[i], l.lib)
			order, saved := grouped(units, now)
			if saved > 0 {
				s.Sections[i].Blocks = blocksOf(order)
				units = order
			}
			if len(units) > 0 {
				now = units[len(units)-1].leave
			}
		}
		return l.soothe(s)
	}}}
	return []Finding{f}
}

// unit is what is moved as one: a row of a straight block, or a whole chain or circuit.
type unit struct {
	block        plan.Block
	enter, leave movement.Posture
}

func unitsOf(sec *plan.Section, lib *movement.Library) (out []unit) {
	posture := func(r *plan.Row) movement.Posture {
		if m, err := r.Of(lib); err == nil && m != nil {
			return m.Posture
		}
		return movement.NoPosture
	}
	for _, b := range sec.Blocks {
		if b.Rule == plan.Straight {
			for _, r := range b.Rows {
				p := posture(&r)
				if p == movement.NoPosture && len(out) > 0 { // a rest stays with what it follows
					last := &out[len(out)-1]
					if last.block.Rule == plan.Straight {
						last.block.Rows = append(slices.Clip(last.block.Rows), r)
						continue
					}
					p = last.leave
				}
				one := b
				one.Rows = []plan.Row{r}
				out = append(out, unit{one, p, p})
			}
			continue
		}
		u := unit{block: b}
		for i := range b.Rows {
			if p := posture(&b.Rows[i]); p != movement.NoPosture {
				if u.enter == movement.NoPosture {
					u.enter = p
				}
				u.leave = p
			}
		}
		out = append(out, u)
	}
	return out
}

func changesIn(units []unit, from movement.Posture) (n int) {
	for _, u := range units {
		if from.WayTo(u.enter).Steps > 0 {
			n++
		}
		if u.leave != movement.NoPosture {
			from = u.leave
		}
	}
	return n
}

// maxGroups bounds the search: with more postures than that in one section the order of first
// appearance is kept.
const maxGroups = 6

// grouped brings units of one posture together, in the order of groups that changes position least,
// and tells how many changes that saves. The order within a posture stays.
func grouped(units []unit, from movement.Posture) (order []unit, saved int) {
	now := changesIn(units, from)
	var keys []movement.Posture
	groups := map[movement.Posture][]unit{}
	for _, u := range units {
		if _, ok := groups[u.enter]; !ok {
			keys = append(keys, u.enter)
		}
		groups[u.enter] = append(groups[u.enter], u)
	}
	if len(keys) == len(units) || len(keys) < 2 || now <= len(keys)-1 {
		return units, 0
	}
	best := now
	try := func(ks []movement.Posture) {
		var o []unit
		for _, k := range ks {
			o = append(o, groups[k]...)
		}
		if n := changesIn(o, from); n < best {
			best, order = n, o
		}
	}
	try(keys)
	if len(keys) <= maxGroups && best > len(keys)-1 {
		fixed := 0
		if from == movement.NoPosture { // a class keeps its beginning
			fixed = 1
		}
		permute(keys, fixed, try)
	}
	if best == now {
		return units, 0
	}
	return order, now - best
}

func permute(ks []movement.Posture, i int, visit func([]movement.Posture)) {
	if i == len(ks) {
		visit(ks)
		return
	}
	for j := i; j < len(ks); j++ {
		ks[i], ks[j] = ks[j], ks[i]
		permute(ks, i+1, visit)
		ks[i], ks[j] = ks[j], ks[i]
	}
}

// blocksOf puts units back into blocks, joining neighbouring straight rows.
func blocksOf(units []unit) (out []plan.Block) {
	for _, u := range units {
		n := len(out)
		if n > 0 && u.block.Rule == plan.Straight && out[n-1].Rule == plan.Straight && out[n-1].Rest == u.block.Rest {
			out[n-1].Rows = append(slices.Clip(out[n-1].Rows), u.block.Rows...)
			continue
		}
		out = append(out, u.block)
	}
	return out
}
