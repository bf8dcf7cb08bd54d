package review

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// spineRule: the focus is mobility, and the spine does not go every way.
var spineRule = &Rule{
	Name: "spine", Looks: "the focus is mobility and a direction of the spine is missing", Fixed: "forward, back, to each side, turned each way", Source: practice,
	Mends: "add what goes there",
	find:  findSpine,
}

// mobilityWords in a focus ask for the spine in all its ranges.
var mobilityWords = []string{"spine", "mobility", "mobilise", "back", "all its ranges"}

func findSpine(l *look, _ *Rule) []Finding {
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
		Severity: Look, Amount: float64(len(missing)), Measured: "not " + strings.Join(missing, ", not "), Limit: "forward, back, to each side, turned each way",
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
		return nil
	}}}
	return []Finding{f}
}
