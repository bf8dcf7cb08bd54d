package review

import (
	"fmt"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// noNumberRule: rows for which no number is said. The clock takes the usual one; whoever leads or covers the class does not
// know it.
var noNumberRule = &Rule{
	Name: "no-number", Looks: "rows say no number, so that the usual one of the library counts; rests and timed circuits need none", Fixed: "a number for each", Source: judged,
	Mends: "say the usual numbers", find: findNoNumber,
}

func findNoNumber(l *look, _ *Rule) []Finding {
	var rows []plan.Path
	var names []string
	l.moves(func(p plan.Path, b *plan.Block, r *plan.Row, m *movement.Movement) {
		if r.IsRest() || !r.Dose.IsZero() || b.On > 0 || r.Right != nil && r.Left != nil {
			return
		}
		if m.Rest {
			return
		}
		rows = append(rows, p)
		names = append(names, fmt.Sprintf("%s, counted as %s", m.Name, r.DoseOf(m)))
	})
	if rows == nil {
		return nil
	}
	f := Finding{
		Severity: Look, Row: rows[0], Amount: float64(len(rows)), Measured: many(len(rows), "row") + " without a number", Limit: "a number for each",
		Says: "No number said for " + l.name(rows[0]), Detail: withMore(names) + ".",
	}
	if len(rows) > 1 {
		f.Says = fmt.Sprintf("No number said for %d rows", len(rows))
	}
	f.At, _, _ = l.tl.RowSpan(rows[0])
	f.Mends = []Mend{{ID: "no-number-usual", Says: "Say the usual numbers", apply: func(s *plan.Session) error {
		for _, p := range rows {
			r := s.Row(p)
			if r == nil {
				return plan.ErrNoRow
			}
			m, err := r.Of(l.lib)
			if err != nil {
				return err
			}
			if err := s.SetDose(p, movement.SidesUnsaid, r.DoseOf(m)); err != nil {
				return err
			}
		}
		return nil
	}}}
	return []Finding{f}
}
