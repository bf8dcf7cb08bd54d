package review

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// forwardWithoutBack: forward bending with no backward bend after it.
func forwardWithoutBack(l *look) []Finding {
	var sum clock.Span
	var last, first plan.Path
	var lastAt clock.Span
	rows := 0
	posture := movement.NoPosture
	var seen plan.Path
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() || s.Move == nil {
			continue
		}
		switch {
		case s.Move.Bends(movement.Backward):
			sum, rows, first = 0, 0, plan.Path{}
		case s.Move.Bends(movement.Forward) && !s.Move.Stretch && s.Effort > l.lim.QuietTo:
			if rows == 0 {
				first = s.Row
			}
			if s.Row != seen {
				rows++
				seen = s.Row
			}
			sum += s.S
			last, lastAt, posture = s.Row, s.End(), s.Posture
		}
	}
	if sum <= l.lim.Forward {
		return nil
	}
	f := Finding{
		Rule: "forward", Severity: Look, Row: last, At: lastAt, Amount: sum.Seconds(), Measured: sum.String(), Limit: l.lim.Forward.String(), Source: sourceOf("forward"),
		Says:   "No backward bend after bending forward",
		Detail: fmt.Sprintf("%s of forward bending in %d movements from %s on, and nothing gives it back.", sum, rows, l.name(first)),
	}
	gives := []string{"swan", "bridge"}
	if posture == movement.Supine {
		gives = []string{"bridge", "swan"}
	}
	for _, slug := range gives {
		m, ok := l.lib.Get(slug)
		if !ok {
			continue
		}
		f.Mends = append(f.Mends, Mend{
			ID: "forward-" + slug + "-" + last.String(), Says: fmt.Sprintf("Add %s after %s", lower(m.Name), l.name(last)),
			apply: func(s *plan.Session) error {
				if err := behind(s, last, plan.Row{Movement: slug, Dose: m.Dose}); err != nil {
					return err
				}
				return l.soothe(s)
			},
		})
	}
	return []Finding{f}
}

func lower(s string) string {
	if len(s) > 1 && s[0] >= 'A' && s[0] <= 'Z' && (s[1] < 'A' || s[1] > 'Z') {
		return string(s[0]+32) + s[1:]
	}
	return s
}
