package review

import (
	"fmt"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// hardLimit is the effort from which work is hard, warmUpLimit how much easier work comes before it.
var (
	warmUpLimit = Limit{"warm_up", "Easier work before the first hard thing", "s", 120, 0, 900, judged}
	hardLimit   = Limit{"hard_from", "Work counts as hard from effort", "of 10", 5.5, 1, 10, judged}
)

// earlyRule: hard work before enough easier work. It stops where the very first row is hard: no mend may bring that.
var earlyRule = &Rule{
	Name: "early", Looks: "hard work comes before enough easier work; a short class needs an eighth of its length", Limits: []Limit{warmUpLimit, hardLimit},
	Mends: "a warm-up in front",
	find:  findEarly, stops: true,
	relieve: func(l *look, _ []Finding) error { return addWarmUp(l.s, l) },
}

// warmUpNeeded is the limit, shortened for short classes to an eighth of the whole; judgement.
func (l *look) warmUpNeeded() clock.Span { return min(l.span(warmUpLimit), l.tl.Total/8) }

func findEarly(l *look, _ *Rule) []Finding {
	if l.s.Style.WarmUp == plan.WarmUpAssumed {
		return nil // it was done before, and the sheet says so
	}
	need := l.warmUpNeeded()
	warm, hard := warmUp(l.tl, l.num(hardLimit))
	if hard == nil || warm >= need || l.openedClassically(hard) {
		return nil
	}
	f := Finding{
		Severity: Look, Row: hard.Row, At: hard.At, Amount: (need - warm).Seconds(), Measured: warm.String(), Limit: need.String(),
		Says:   fmt.Sprintf("Hard after %s of warming up", warm),
		Detail: fmt.Sprintf("%s reaches effort %.1f at %s. House limit: %s of easier work first.", l.name(hard.Row), hard.Effort, hard.At, need),
	}
	if hard.Row == firstRow {
		f.Severity = Stop
	}
	if early := leverEarlyRule.on(l); f.Severity == Look && len(early) > 0 && early[0].Row == f.Row {
		return nil // said there, with what it needs
	}
	f.Mends = []Mend{{ID: "early-warm", Says: "Put a warm-up in front", apply: func(s *plan.Session) error { return addWarmUp(s, l) }}}
	return []Finding{f}
}

// openedClassically tells whether what is hard is the hundred with which the classical order begins, or comes after it: it is
// the warm-up of those who know it.
func (l *look) openedClassically(hard *timeline.Step) bool {
	if l.s.Style.Order != plan.ClassicalOrder || !l.knowsTheMat() {
		return false
	}
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if s.Move != nil && s.Kind.Working() && s.Move.Classical > 0 {
			return s.Move.Classical == 1 && s.At <= hard.At
		}
	}
	return false
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
			warm, hard := warmUp(tl, l.num(hardLimit))
			if hard == nil || warm >= min(l.span(warmUpLimit), tl.Total/8) {
				return nil
			}
		}
	}
	return nil
}

// quietSection tells whether a whole section is quiet work.
func quietSection(l *look, n int) bool {
	for i := range l.tl.Steps {
		if s := &l.tl.Steps[i]; s.Row.Section == n+1 && s.Effort > l.num(quietLimit) {
			return false
		}
	}
	return true
}
