package review

import (
	"fmt"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// warmUpNeeded is the limit, shortened for short classes to an eighth of the whole; judgement.
func (l *look) warmUpNeeded() clock.Span { return min(l.lim.WarmUp, l.tl.Total/8) }

// hardTooEarly: hard work before enough easier work.
func hardTooEarly(l *look) []Finding {
	if l.s.Style.WarmUp == "assumed" {
		return nil // it was done before, and the sheet says so
	}
	need := l.warmUpNeeded()
	warm, hard := warmUp(l.tl, l.lim.HardFrom)
	if hard == nil || warm >= need {
		return nil
	}
	f := Finding{
		Rule: "early", Severity: Look, Row: hard.Row, At: hard.At, Amount: (need - warm).Seconds(), Measured: warm.String(), Limit: need.String(), Source: sourceOf("warm_up"),
		Says:   fmt.Sprintf("Hard after %s of warming up", warm),
		Detail: fmt.Sprintf("%s reaches effort %.1f at %s. House limit: %s of easier work first.", l.name(hard.Row), hard.Effort, hard.At, need),
	}
	if hard.Row.Section == 1 && hard.Row.Block == 1 && hard.Row.Row == 1 {
		f.Severity = Stop
	}
	f.Mends = []Mend{{ID: "early-warm", Says: "Put a warm-up in front", apply: func(s *plan.Session) error {
		if err := addWarmUp(s, l); err != nil {
			return err
		}
		return l.soothe(s)
	}}}
	return []Finding{f}
}

// warmUp adds up easier work before the first hard step.
func warmUp(tl *timeline.Timeline, hardFrom float64) (warm clock.Span, hard *timeline.Step) {
	for i := range tl.Steps {
		s := &tl.Steps[i]
		if !s.Kind.Working() {
			continue
		}
		if s.Effort >= hardFrom {
			return warm, s
		}
		warm += s.S
	}
	return warm, nil
}

// warmers are easy movements of the library, in the order they are offered.
var warmers = []string{"cat-cow", "pelvic-tilt", "thread-the-needle", "march", "standing-roll-down", "mermaid", "book-opening"}

// addWarmUp puts easy movements in front until the first hard thing has enough before it.
func addWarmUp(s *plan.Session, l *look) error {
	sec := plan.Section{Title: "Mobilise", Blocks: []plan.Block{{Rule: plan.Straight, Rounds: 1}}}
	used := map[string]bool{}
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) { used[r.Movement] = true })
	at := 0
	if len(s.Sections) > 1 && quietSection(l, 0) { // behind arriving
		at = 1
	}
	s.Sections = slices.Insert(s.Sections, at, sec)
	rows := &s.Sections[at].Blocks[0].Rows
	for _, fresh := range []bool{true, false} {
		for _, slug := range warmers {
			m, ok := l.lib.Get(slug)
			if !ok || used[slug] == fresh {
				continue
			}
			*rows = append(*rows, plan.Row{Movement: slug, Dose: m.Dose})
			tl, err := timeline.Build(s, l.lib)
			if err != nil {
				return err
			}
			warm, hard := warmUp(tl, l.lim.HardFrom)
			if hard == nil || warm >= min(l.lim.WarmUp, tl.Total/8) {
				return nil
			}
		}
	}
	return nil
}

// quietSection tells whether a whole section is quiet work.
func quietSection(l *look, n int) bool {
	for i := range l.tl.Steps {
		if s := &l.tl.Steps[i]; s.Row.Section == n+1 && s.Effort > l.lim.QuietTo {
			return false
		}
	}
	return true
}

// noSettling: the class ends in the middle of the work.
func noSettling(l *look) []Finding {
	var quiet clock.Span
	var last *timeline.Step
	for i := len(l.tl.Steps) - 1; i >= 0; i-- {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() {
			continue
		}
		if s.Effort > l.lim.QuietTo {
			last = s
			break
		}
		quiet += s.S
	}
	need := min(l.lim.Settle, l.tl.Total/8)
	if last == nil || quiet >= need {
		return nil
	}
	f := Finding{
		Rule: "settle", Severity: Look, Row: last.Row, At: last.At, Amount: (need - quiet).Seconds(), Measured: quiet.String(), Limit: need.String(), Source: sourceOf("settle"),
		Says:   "Ends without settling",
		Detail: fmt.Sprintf("%s of quiet work at the end, after %s. House limit %s.", quiet, l.name(last.Row), need),
	}
	slug := "constructive-rest"
	if p := l.tl.Steps[len(l.tl.Steps)-1].Posture; p == movement.HandsAndKnees || p == movement.Prone || p == movement.Plank || p == movement.Forearms || p == movement.DownDog {
		slug = "childs-pose"
	}
	m, ok := l.lib.Get(slug)
	if !ok {
		return []Finding{f}
	}
	f.Mends = []Mend{{ID: "settle-" + slug, Says: fmt.Sprintf("End with %s, %s", lower(m.Name), m.Dose), apply: func(s *plan.Session) error {
		n := len(s.Sections)
		if _, err := s.AddSection(n, "Settle"); err != nil {
			return err
		}
		if _, err := s.Add(plan.Path{Section: n + 1}, plan.Row{Movement: slug, Dose: m.Dose}); err != nil {
			return err
		}
		return l.soothe(s)
	}}}
	return []Finding{f}
}
