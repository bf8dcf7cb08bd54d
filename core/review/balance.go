package review

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Balance asks for something to hold from this weight of balance and demand; judgement.
const (
	balanceAsks = .6
	balanceFrom = 2.5
)

// balanceRule: people who may fall stand on one leg with nothing to hold.
var balanceRule = &Rule{
	Name: "balance", Looks: "older people, those who stay standing, expect in the last third or have low bone density, or somebody on the list, balance with nothing to hold", Fixed: "a chair or a wall within reach", Source: practice,
	Mends: "a word: a hand on a chair or the wall", find: findBalance,
}

// mayFall are audiences who should have something to hold.
const mayFall = movement.Older | movement.StandingOnly | movement.ExpectingLast | movement.LowBone

// holdSaid are words that give something to hold.
var holdSaid = regexp.MustCompile(`(?i)\b(?:chairs?|walls?|barre?|rail|table|worktop|hold on|something to hold|within reach|fingertips?|a hand on|hand on)\b`)

func findBalance(l *look, _ *Rule) []Finding {
	var who []string
	if a := l.s.Audience & mayFall; a != 0 {
		who = append(who, a.Called())
	}
	for _, w := range l.ctx.Watch {
		if slices.Contains(w.Topics, movement.Balance) {
			who = append(who, w.Name)
		}
	}
	if who == nil || holdSaid.MatchString(l.s.Note) {
		return nil
	}
	var rows []plan.Path
	var names []string
	seen := map[plan.Path]bool{}
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if s.Move == nil || !s.Kind.Working() || seen[s.Row] || s.Posture.OnFloor() {
			continue
		}
		seen[s.Row] = true
		if s.Move.Regions["balance"] < balanceAsks || s.Move.At(s.Level).Demand < balanceFrom {
			continue
		}
		if slices.ContainsFunc(s.Move.Things(s.Level), func(k string) bool { return slices.Contains(stays, k) }) || holdSaid.MatchString(l.s.Row(s.Row).Note) {
			continue
		}
		rows = append(rows, s.Row)
		names = append(names, fmt.Sprintf("%s, %s", s.Move.Name, s.Move.At(s.Level).Changes))
	}
	if rows == nil {
		return nil
	}
	f := Finding{
		Severity: Look, Row: rows[0], Amount: float64(len(rows)), Measured: many(len(rows), "movement") + " with nothing to hold", Limit: "a chair or a wall within reach",
		Says: fmt.Sprintf("%s with nothing to hold", l.name(rows[0])), Detail: fmt.Sprintf("%s. For %s.", withMore(names), strings.Join(who, ", ")),
	}
	if len(rows) > 1 {
		f.Says = fmt.Sprintf("Balance with nothing to hold in %d movements", len(rows))
	}
	f.At, _, _ = l.tl.RowSpan(rows[0])
	f.Mends = []Mend{{ID: "balance-hold", Says: "Note: a chair or the wall within reach", apply: func(s *plan.Session) error {
		for _, p := range rows {
			if err := addNote(s, p, "A chair or the wall within reach."); err != nil {
				return err
			}
		}
		return nil
	}}}
	return []Finding{f}
}

// addNote puts words behind the note of a row.
func addNote(s *plan.Session, p plan.Path, words string) error {
	r := s.Row(p)
	if r == nil {
		return plan.ErrNoRow
	}
	return s.SetNote(p, strings.TrimSpace(r.Note+" "+words))
}
