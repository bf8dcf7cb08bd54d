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
	Name: "length", Looks: "the whole is off the promised length, and by more than a plan of counts is uncertain; intervals to 5 s", Limits: []Limit{lengthLimit},
	Mends: "change doses, by a third at most; promise what it is",
	find:  findLength,
}

func findLength(l *look, r *Rule) []Finding {
	if l.s.ToMove() == 0 || len(l.tl.Steps) == 0 {
		return nil
	}
	off := l.tl.Total - l.s.ToMove()
	if abs(off) <= l.lengthAllowed() {
		return nil
	}
	word := "Over"
	if off < 0 {
		word = "Under"
	}
	f := Finding{
		Severity: Look, Amount: abs(off).Seconds(), Measured: l.tl.Total.String(), Limit: fmt.Sprintf("%s, %s either way", l.s.ToMove(), l.lengthAllowed()),
		At:     min(l.s.ToMove(), l.tl.Total),
		Says:   fmt.Sprintf("%s by %s", word, abs(off)),
		Detail: fmt.Sprintf("Promised %s, comes out at %s, somewhere from %s to %s.", l.s.ToMove(), l.tl.Total, l.tl.Low, l.tl.High),
	}
	if m, ok := l.doseMend(r, off); ok {
		f.Mends = append(f.Mends, m)
	}
	if m, ok := l.promiseMend("length-promise"); ok {
		f.Mends = append(f.Mends, m)
	}
	return []Finding{f}
}

// exactly is how far a class may be off whose every row is timed: what a fit reaches.
const exactly = solve.Within

// lengthAllowed is how far the class may be from what it promises: never less than its own length is uncertain by, but for a
// class that the clock alone ends, which is known to the second.
func (l *look) lengthAllowed() clock.Span { return l.lengthAllowedOf(l.s.ToMove()) }

// lengthAllowedOf is the same for another promise.
func (l *look) lengthAllowedOf(promise clock.Span) clock.Span {
	unsure := max(l.tl.High-l.tl.Total, l.tl.Total-l.tl.Low)
	if l.timed() {
		return max(exactly, unsure)
	}
	return max(promise.Times(l.num(lengthLimit)/100), unsure)
}

// timed tells whether the clock ends all work of a class: intervals, with what comes before and after timed too.
func (l *look) timed() bool {
	for i := range l.tl.Steps {
		if s := &l.tl.Steps[i]; s.Kind.Working() && !s.Clocked {
			return false
		}
	}
	return len(l.tl.Steps) > 0
}

func abs(s clock.Span) clock.Span { return max(s, -s) }

// doseMend changes doses to reach the promise, by the same fit as everywhere; offered where rows that load neither head
// nor hands have the room for it.
func (l *look) doseMend(r *Rule, off clock.Span) (Mend, bool) {
	near := l.lengthAllowed()
	lo, hi, finest, err := solve.Room(l.s, l.lib, l.tl, l.house(), func(r *plan.Row, m *movement.Movement) bool {
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
		f, err := solve.Fit(l.asker(), s, l.lib, l.s.ToMove(), solve.Terms{House: l.house(), Stops: l.stopsBrought})
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
