package review

import (
	"errors"
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/solve"
)

// lengthLimit is how far a class may be from its promised length.
var lengthLimit = Limit{"length", "Over or under the promised length", "%", 5, 1, 50, judged}

// lengthRule: over or under what was announced.
var lengthRule = &Rule{
	Name: "length", Looks: "the whole is off the promised length", Limits: []Limit{lengthLimit},
	Mends: "change doses, by a third at most; promise what it is",
	find:  findLength,
}

func findLength(l *look, r *Rule) []Finding {
	if l.s.Target == 0 || len(l.tl.Steps) == 0 {
		return nil
	}
	off := l.tl.Total - l.s.Target
	if abs(off) <= l.s.Target.Times(l.num(lengthLimit)/100) {
		return nil
	}
	word := "Over"
	if off < 0 {
		word = "Under"
	}
	f := Finding{
		Severity: Look, Amount: abs(off).Seconds(), Measured: l.tl.Total.String(), Limit: fmt.Sprintf("%s, %.0f %% either way", l.s.Target, l.num(lengthLimit)),
		At:     min(l.s.Target, l.tl.Total),
		Says:   fmt.Sprintf("%s by %s", word, abs(off)),
		Detail: fmt.Sprintf("Promised %s, comes out at %s, somewhere from %s to %s.", l.s.Target, l.tl.Total, l.tl.Low, l.tl.High),
	}
	if m, ok := l.doseMend(r, off); ok {
		f.Mends = append(f.Mends, m)
	}
	promise := l.tl.Total
	for _, round := range []clock.Span{30 * clock.Second, 5 * clock.Second, clock.Second} {
		promise = (l.tl.Total + round/2) / round * round
		if abs(promise-l.tl.Total) <= promise.Times(l.num(lengthLimit)/200) {
			break
		}
	}
	if promise > plan.MaxTarget { // no class is asked to be so long
		return []Finding{f}
	}
	f.Mends = append(f.Mends, Mend{ID: "length-promise", Says: "Promise " + promise.String(), apply: func(s *plan.Session) error {
		s.Target = promise
		return nil
	}})
	return []Finding{f}
}

func abs(s clock.Span) clock.Span { return max(s, -s) }

// doseMend changes doses to reach the promise, by the same fit as everywhere; offered where rows that load neither head
// nor hands have the room for it.
func (l *look) doseMend(r *Rule, off clock.Span) (Mend, bool) {
	near := l.s.Target.Times(l.num(lengthLimit) / 100)
	lo, hi, finest, err := solve.Room(l.s, l.lib, l.tl, l.lim.House(), func(r *plan.Row, m *movement.Movement) bool {
		return !m.Has(r.Level, movement.HeadUp) && !m.Has(r.Level, movement.Hands)
	})
	if err != nil || finest > near || off > 0 && -lo < off || off < 0 && hi < -off {
		return Mend{}, false
	}
	word := "Trim"
	if off < 0 {
		word = "Add"
	}
	return Mend{ID: "length-doses", Says: fmt.Sprintf("%s %s of repetitions", word, abs(off)), apply: func(s *plan.Session) error {
		f, err := solve.Fit(l.asker(), s, l.lib, l.s.Target, solve.Terms{House: l.lim.House(), Stops: l.stopsBrought})
		if err != nil {
			return err
		}
		*s = *f.Session
		if len(l.again(s, r)) > 0 {
			return errors.New(f.Says)
		}
		return nil
	}}, true
}
