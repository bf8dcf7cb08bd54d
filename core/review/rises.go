package review

import (
	"fmt"
	"slices"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/solve"
)

// risesLimit is how often a class may get up from the floor.
var risesLimit = Limit{"rises", "Getting up from the floor", "times", 2, 0, 20, judged}

// risesRule: getting up from the floor again and again, which is work for older movers. Circuits and chains that stand
// and lie in turn are meant so and are not counted.
var risesRule = &Rule{
	Name: "rises", Looks: "the class gets up from the floor again and again", Limits: []Limit{risesLimit}, Mends: "standing work together",
	find: findRises,
}

func findRises(l *look, _ *Rule) []Finding {
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
	if rises <= l.count(risesLimit) || rises < 2 {
		return nil
	}
	f := Finding{
		Severity: Look, Row: at, Amount: float64(rises), Measured: fmt.Sprintf("%d times", rises), Limit: fmt.Sprintf("%d", l.count(risesLimit)),
		Says: fmt.Sprintf("Up from the floor %d times", rises), Detail: "Getting up and down is work in itself.",
	}
	f.At, _, _ = l.tl.RowSpan(f.Row)
	f.Mends = []Mend{{ID: "rises-gather", Says: "Do the standing work together", apply: func(s *plan.Session) error { standingFirst(s, l.lib); return nil }}}
	return []Finding{f}
}

// standingFirst brings all standing pieces into the first section that has one, in front of what is on the
// floor there; chains and circuits stay whole.
func standingFirst(s *plan.Session, lib *movement.Library) {
	var up []solve.Piece
	into := -1
	for i := range s.Sections {
		var stay []solve.Piece
		for _, p := range solve.Apart(&s.Sections[i], lib) {
			if p.Enter != movement.NoPosture && !p.Enter.OnFloor() && !p.Leave.OnFloor() {
				if into < 0 {
					into = i
				}
				up = append(up, p)
				continue
			}
			stay = append(stay, p)
		}
		s.Sections[i].Blocks = solve.Join(stay)
	}
	if into >= 0 {
		s.Sections[into].Blocks = solve.Join(append(slices.Clip(up), solve.Apart(&s.Sections[into], lib)...))
	}
}
