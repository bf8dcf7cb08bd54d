package review

import (
	"fmt"

	"wavekine/core/plan"
	"wavekine/core/solve"
)

// spareLimit is how many changes of position a better order must save to be worth a word.
var spareLimit = Limit{"spare_move", "Changes of position a better order would save", "changes", 2, 1, 20, judged}

// changesRule: more changes of position than the order needs.
var changesRule = &Rule{
	Name: "changes", Looks: "the best order within the sections would save changes of position; not in the classical order, nor where a round is written out twice", Limits: []Limit{spareLimit},
	Mends: "the best order, chains and circuits kept whole", Yields: []string{"rises"},
	find: findChanges,
}

func findChanges(l *look, r *Rule) []Finding {
	if solve.FixedOrder(l.s, l.lib) { // it is fixed, and learnt so
		return nil
	}
	if l.comesAgain() { // a round that is written out again is no row out of place
		return nil
	}
	least := l.count(spareLimit)
	if solve.MaySave(l.s, l.lib) < least { // nothing to be searched for
		return nil
	}
	o, err := solve.OrderTimed(l.asker(), l.s, l.tl, l.lib, solve.Quick)
	if err != nil {
		return nil
	}
	saved := o.Before.Positions - o.After.Positions
	if !o.Better() || saved < least {
		return nil
	}
	f := Finding{
		Severity: Look, Amount: float64(saved), Row: firstMoved(l.s, o.Session),
		Measured: many(o.Before.Positions, "change") + " of position", Limit: fmt.Sprintf("fewer than %d to save", least),
		Says:   many(saved, "more change") + " of position than the order needs",
		Detail: fmt.Sprintf("%d where %d would do; they take %s. Most can be saved in %s.", o.Before.Positions, o.After.Positions, o.Before.Time, l.s.Sections[mostMoved(l.s, o.Session)].Title),
	}
	f.At, _, _ = l.tl.RowSpan(f.Row)
	f.Mends = []Mend{{ID: "changes-group", Says: "Bring same positions together", apply: func(s *plan.Session) error {
		for range 4 { // a rest or a warm-up that has become due makes another order the best
			best, err := solve.Order(l.asker(), s, l.lib, solve.Quick)
			if err != nil {
				return err
			}
			*s = *best.Session.Clone()
			if err := l.soothe(s); err != nil || len(l.again(s, r)) == 0 {
				return err
			}
		}
		return nil
	}}}
	return []Finding{f}
}

func many(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %ss", n, one)
}

// moved counts the rows of a section that stand elsewhere in another order of it.
func moved(a, b *plan.Section) (n int) {
	names := func(s *plan.Section) (out []string) {
		for _, b := range s.Blocks {
			for i := range b.Rows {
				out = append(out, b.Rows[i].Name())
			}
		}
		return out
	}
	x, y := names(a), names(b)
	for i := range x {
		if i < len(y) && x[i] != y[i] {
			n++
		}
	}
	return n
}

// mostMoved is the section that another order changes most, from 0.
func mostMoved(a, b *plan.Session) (best int) {
	most := 0
	for i := range a.Sections {
		if n := moved(&a.Sections[i], &b.Sections[i]); n > most {
			best, most = i, n
		}
	}
	return best
}

// firstMoved is the first row of that section.
func firstMoved(a, b *plan.Session) plan.Path {
	return plan.Path{Section: mostMoved(a, b) + 1, Block: 1, Row: 1}
}
