package review

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Levers of the legs count from this demand, and beginners are allowed so much less; judgement.
const (
	leverCounts = 4.0
	leverNewer  = 2.5
)

// leverLimit is the demand of leg work that the level of the class allows.
func (l *look) leverLimit() float64 {
	if l.s.Audience == string(movement.Beginners) {
		return l.lim.Lever - leverNewer
	}
	return l.lim.Lever
}

// lowBackLever: legs levered against the low back further than the level of the class allows.
func lowBackLever(l *look) (out []Finding) {
	limit := l.leverLimit()
	seen := map[plan.Path]bool{}
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() || s.Move == nil || seen[s.Row] || !s.Move.Has(s.Level, movement.LegsOut) {
			continue
		}
		d := s.Move.At(s.Level).Demand
		if d <= limit {
			continue
		}
		seen[s.Row] = true
		p, m := s.Row, s.Move
		f := Finding{
			Rule: "lever", Severity: Stop, Row: p, At: s.At, Amount: d - limit, Measured: fmt.Sprintf("%.1f", d), Limit: fmt.Sprintf("%.1f", limit), Source: sourceOf("lever"),
			Says:   m.Name + " levers the low back past the limit",
			Detail: fmt.Sprintf("Level %d, %s: demand %.1f, %s. House limit %.1f for this class.", s.Level, m.At(s.Level).Changes, d, m.At(s.Level).DemandFrom(), limit),
		}
		if l.s.Audience != string(movement.Beginners) {
			f.Severity = Look // those who have done it for years know their limit
		}
		for n := s.Level - 1; n >= 1; n-- {
			if m.At(n).Demand <= limit {
				f.Mends = append(f.Mends, Mend{ID: "lever-level-" + p.String(), Says: fmt.Sprintf("Take level %d: %s", n, m.At(n).Changes), apply: func(s *plan.Session) error { return s.SetLevel(p, n, l.lib) }})
				break
			}
		}
		if len(f.Mends) == 0 {
			if r, o, ok := l.row("dead-bug", 1); ok {
				f.Mends = append(f.Mends, Mend{ID: "lever-swap-" + p.String(), Says: lower(o.Name) + " in its place", apply: func(s *plan.Session) error { return swapMovement(s, p, o, r.Level) }})
			}
		}
		out = append(out, f)
	}
	return out
}

// leverBeforeCore: legs levered before the deep core has been woken.
func leverBeforeCore(l *look) []Finding {
	var woken clock.Span
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() || s.Move == nil {
			continue
		}
		d := s.Move.At(s.Level).Demand
		if s.Move.Has(s.Level, movement.LegsOut) && d >= leverCounts {
			if woken >= l.lim.Woken {
				return nil
			}
			return []Finding{l.leverEarly(s, woken)}
		}
		if s.Move.Regions["deep core"] >= .4 && d < leverCounts+.5 {
			woken += s.S
		}
	}
	return nil
}

func (l *look) leverEarly(s *timeline.Step, woken clock.Span) Finding {
	p := s.Row
	f := Finding{
		Rule: "lever-early", Severity: Look, Row: p, At: s.At, Amount: (l.lim.Woken - woken).Seconds(), Measured: woken.String(), Limit: l.lim.Woken.String(), Source: sourceOf("woken"),
		Says:   s.Move.Name + " before the deep core is awake",
		Detail: fmt.Sprintf("%s of easier work for the deep core before it. House limit %s.", woken, l.lim.Woken),
	}
	for _, slug := range []string{"pelvic-tilt", "knee-opening"} {
		r, m, ok := l.row(slug, 1)
		if !ok {
			continue
		}
		f.Mends = append(f.Mends, Mend{ID: "lever-early-" + slug, Says: "Put " + lower(m.Name) + " in front", apply: func(s *plan.Session) error {
			for range 4 {
				if err := inFront(s, p, r); err != nil {
					return err
				}
				if len(l.again(s, leverBeforeCore)) == 0 {
					break
				}
			}
			return l.soothe(s)
		}})
	}
	return f
}
