package review

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// mobilityWords in a focus ask for the spine in all its ranges.
var mobilityWords = []string{"spine", "mobility", "mobilise", "back", "all its ranges"}

// spineDirections: the focus is mobility, and the spine does not go every way.
func spineDirections(l *look) []Finding {
	asks := slices.ContainsFunc(l.s.Focus, func(w string) bool {
		w = strings.ToLower(w)
		return slices.ContainsFunc(mobilityWords, func(m string) bool { return w == m || strings.Contains(w, "spine") || strings.Contains(w, "mobil") })
	})
	if !asks || len(l.tl.Steps) == 0 {
		return nil
	}
	have := map[movement.Direction]bool{}
	for i := range l.tl.Steps {
		if s := &l.tl.Steps[i]; s.Kind.Working() && s.Move != nil {
			for _, d := range s.Move.Spine {
				have[d] = true
			}
		}
	}
	var missing []string
	var adds []plan.Row
	stand := l.standsUp()
	for _, d := range []struct {
		dir         movement.Direction
		says        string
		floor, high string
	}{
		{movement.Forward, "forward", "cat-cow", "standing-roll-down"},
		{movement.Backward, "back", "cat-cow", "standing-chest-opening"},
		{movement.Sideways, "to the side", "mermaid", "standing-side-bend"},
		{movement.Turned, "turned", "book-opening", "standing-twist"},
	} {
		if have[d.dir] {
			continue
		}
		missing = append(missing, d.says)
		slug := d.floor
		if stand {
			slug = d.high
		}
		if r, m, ok := l.row(slug, 0); ok {
			for _, x := range m.Spine {
				have[x] = true
			}
			adds = append(adds, r)
		}
	}
	if len(missing) == 0 {
		return nil
	}
	f := Finding{
		Rule: "spine", Severity: Look, Amount: float64(len(missing)), Measured: "not " + strings.Join(missing, ", not "), Limit: "forward, back, to each side, turned each way", Source: practice,
		Says:   "The spine does not go " + strings.Join(missing, ", nor "),
		Detail: fmt.Sprintf("The class is about %s.", strings.Join(l.s.Focus, ", ")),
	}
	var names []string
	for _, r := range adds {
		names = append(names, lower(l.nameOf(&r)))
	}
	f.Mends = []Mend{{ID: "spine-add", Says: "Add " + strings.Join(names, " and "), apply: func(s *plan.Session) error {
		at := 1 // into the section that mobilises, else the first
		for i := range s.Sections {
			if strings.Contains(strings.ToLower(s.Sections[i].Title), "mobil") {
				at = i + 1
				break
			}
		}
		if len(s.Sections) == 0 {
			return plan.ErrNoRow
		}
		for _, r := range adds {
			if _, err := s.Add(plan.Path{Section: at}, r); err != nil {
				return err
			}
		}
		return l.soothe(s)
	}}}
	return []Finding{f}
}

// classicalOrder: a session that follows the classical mat order has two of its exercises the other way round.
func classicalOrder(l *look) []Finding {
	if l.s.Style.Order != "classical" {
		return nil
	}
	place := func(r *plan.Row) int {
		if m, ok := l.lib.Get(r.Movement); ok && !r.IsRest {
			return m.Classical
		}
		return 0
	}
	var out []Finding
	last, lastAt := 0, plan.Path{}
	l.s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		n := place(r)
		if n == 0 || out != nil {
			return
		}
		if n < last {
			f := Finding{
				Rule: "order", Severity: Look, Row: p, Amount: float64(last - n), Measured: fmt.Sprintf("%d after %d", n, last), Limit: "rising", Source: "classical mat order, Return to Life Through Contrology (1945)",
				Says: fmt.Sprintf("%s comes before %s in the classical order", l.name(p), l.name(lastAt)),
			}
			f.At, _, _ = l.tl.RowSpan(p)
			f.Detail = "The session says that it follows the classical order."
			sorted := func(s *plan.Session) error {
				var slots []*plan.Row
				s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
					if place(r) > 0 {
						slots = append(slots, r)
					}
				})
				rows := make([]plan.Row, len(slots))
				for i, r := range slots {
					rows[i] = *r
				}
				slices.SortStableFunc(rows, func(a, b plan.Row) int { return place(&a) - place(&b) })
				for i, r := range slots {
					*r = rows[i]
				}
				return l.soothe(s)
			}
			f.Mends = []Mend{{ID: "order-classical", Says: "Put the classical exercises in order", apply: sorted}}
			f.Mends = append(f.Mends, Mend{ID: "order-free", Says: "Call it free order", apply: func(s *plan.Session) error {
				s.Style.Order = "free"
				return nil
			}})
			out = []Finding{f}
		}
		last, lastAt = n, p
	})
	return out
}
