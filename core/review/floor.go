package review

import (
	"fmt"
	"slices"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// risesFromTheFloor: getting up from the floor again and again, which is work for older movers. Circuits
// and chains that stand and lie in turn are meant so and are not counted.
func risesFromTheFloor(l *look) []Finding {
	rises, down := 0, false
	var at plan.Path
	for i := range l.s.Sections {
		for j := range l.s.Sections[i].Blocks {
			b := &l.s.Sections[i].Blocks[j]
			enter, leave := movement.NoPosture, movement.NoPosture
			look := func(k int) {
				if m, err := b.Rows[k].Of(l.lib); err == nil && m != nil {
					if enter == movement.NoPosture {
						enter = m.Posture
					}
					leave = m.Posture
				}
			}
			turn := func(row int) {
				if enter == movement.NoPosture || enter.OnFloor() != leave.OnFloor() {
					return
				}
				if down && !enter.OnFloor() {
					rises++
					at = plan.Path{Section: i + 1, Block: j + 1, Row: row}
				}
				down = leave.OnFloor()
			}
			if b.Rule == plan.Straight {
				for k := range b.Rows {
					enter, leave = movement.NoPosture, movement.NoPosture
					look(k)
					turn(k + 1)
				}
				continue
			}
			for k := range b.Rows {
				look(k)
			}
			turn(1)
		}
	}
	if rises <= l.lim.Rises || rises < 2 {
		return nil
	}
	f := Finding{
		Rule: "rises", Severity: Look, Row: at, Amount: float64(rises), Measured: fmt.Sprintf("%d times", rises), Limit: fmt.Sprintf("%d", l.lim.Rises), Source: sourceOf("rises"),
		Says: fmt.Sprintf("Up from the floor %d times", rises), Detail: "Getting up and down is work in itself.",
	}
	f.At, _, _ = l.tl.RowSpan(f.Row)
	f.Mends = []Mend{{ID: "rises-gather", Says: "Do the standing work together", apply: func(s *plan.Session) error {
		if err := standingFirst(s, l.lib); err != nil {
			return err
		}
		return l.soothe(s)
	}}}
	return []Finding{f}
}

// standingFirst brings all standing pieces into the first section that has one, in front of what is on the
// floor there; chains and circuits stay whole.
func standingFirst(s *plan.Session, lib *movement.Library) error {
	var up []unit
	into := -1
	for i := range s.Sections {
		var stay []unit
		for _, u := range unitsOf(&s.Sections[i], lib) {
			if u.enter != movement.NoPosture && !u.enter.OnFloor() && !u.leave.OnFloor() {
				if into < 0 {
					into = i
				}
				up = append(up, u)
				continue
			}
			stay = append(stay, u)
		}
		s.Sections[i].Blocks = blocksOf(stay)
	}
	if into < 0 {
		return nil
	}
	s.Sections[into].Blocks = blocksOf(append(slices.Clip(up), unitsOf(&s.Sections[into], lib)...))
	return nil
}

// hold is a thing taken up for a row.
type hold struct {
	thing string
	at    plan.Path
}

// kitPairs lists where a thing is fetched again, with where it was first.
func kitPairs(tl *timeline.Timeline) (out [][2]hold) {
	first := map[string]hold{}
	now := map[string]bool{}
	var seen plan.Path
	for i := range tl.Steps {
		s := &tl.Steps[i]
		if !s.Kind.Working() || s.Move == nil || s.Row == seen {
			continue
		}
		seen = s.Row
		have := map[string]bool{}
		for _, k := range s.Move.Things(s.Level) {
			have[k] = true
			if now[k] {
				continue
			}
			h := hold{k, s.Row}
			if f, ok := first[k]; !ok {
				first[k] = h
			} else if f.at != h.at {
				out = append(out, [2]hold{f, h})
			}
		}
		now = have
	}
	return out
}

// kitAgain: a thing is picked up, put down and picked up again. In rounds it comes again by nature.
func kitAgain(l *look) []Finding {
	for _, pair := range kitPairs(l.tl) {
		was, h := pair[0], pair[1]
		if b, c := l.s.Block(was.at), l.s.Block(h.at); b == nil || c == nil || b.Rule != plan.Straight || c.Rule != plan.Straight {
			continue
		}
		f := Finding{
			Rule: "kit", Severity: Look, Row: h.at, Amount: 1, Measured: h.thing + " twice", Limit: "once", Source: practice,
			Says: "The " + h.thing + " is fetched again", Detail: fmt.Sprintf("First for %s, then for %s.", l.name(was.at), l.name(h.at)),
		}
		f.At, _, _ = l.tl.RowSpan(h.at)
		f.Mends = []Mend{{ID: "kit-" + h.at.String(), Says: fmt.Sprintf("Bring what needs the %s together", h.thing), apply: func(s *plan.Session) error {
			for range 12 {
				fs := l.again(s, kitAgain)
				if len(fs) == 0 {
					return l.soothe(s)
				}
				tl, err := timeline.Build(s, l.lib)
				if err != nil {
					return err
				}
				i := slices.IndexFunc(kitPairs(tl), func(p [2]hold) bool { return p[1].at == fs[0].Row })
				if i < 0 {
					return plan.ErrNoRow
				}
				pair := kitPairs(tl)[i]
				if err := gatherUnit(s, pair[0].at, pair[1].at); err != nil {
					return err
				}
			}
			return fmt.Errorf("the %s cannot be brought together", h.thing)
		}}}
		return []Finding{f}
	}
	return nil
}

// gatherUnit moves a row of a straight block directly behind another.
func gatherUnit(s *plan.Session, to, from plan.Path) error {
	_, err := s.Move([]plan.Path{from}, plan.Path{Section: to.Section, Block: to.Block, Row: to.Row + 1})
	return err
}
