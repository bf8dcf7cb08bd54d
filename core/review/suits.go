package review

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// How demanding a row may be for those who are new to it, and for older people.
var (
	suitsLimit      = Limit{"suits_beginners", "Demand of a row for beginners", "of 10", 6, 3, 10, judged}
	suitsOlderLimit = Limit{"suits_older", "Demand of a row for older people", "of 10", 6.5, 3, 10, judged}
)

// suitsRule: a row that the audience should not do, or do otherwise. What the table of cautions says of a level (common
// practice) decides for those who expect, after birth, for low bone density and for those who stay standing; the demand for
// beginners and older people. It offers no mend: what stands in for a movement is the teacher's.
var suitsRule = &Rule{
	Name: "suits", Looks: "a row that the audience should not do as it is: expecting, after birth, low bone density, standing only, beginners, older",
	Limits: []Limit{suitsLimit, suitsOlderLimit}, Mends: "none: another level or movement is the teacher's choice",
	find: findSuits, spares: true,
}

// misfit is why a level does not suit an audience.
type misfit struct {
	whose, why string
	stops      bool
}

// unsuited is why a level does not suit the audience; nil where it does.
func (l *look) unsuited(m *movement.Movement, level int) *misfit {
	a := l.s.Audience
	for _, t := range l.allWatch() {
		if m.Spared(level, t) {
			c := m.CareOf(level, t)
			says := c.Words()
			if c.Level > 0 {
				says = fmt.Sprintf("level %d, %s", c.Level, c.Says)
			}
			return &misfit{a.Whose(t).Called(), fmt.Sprintf("%s: %s", says, c.Why), true}
		}
	}
	switch d := m.At(level).Demand; {
	case a.Has(movement.Beginners) && d > l.num(suitsLimit):
		return &misfit{movement.Beginners.Called(), fmt.Sprintf("a demand of %.1f", d), false}
	case a.Has(movement.Older) && d > l.num(suitsOlderLimit):
		return &misfit{movement.Older.Called(), fmt.Sprintf("a demand of %.1f", d), false}
	case a.Has(movement.Older) && m.NotForOlder(level):
		return &misfit{movement.Older.Called(), "it rolls over the spine", false}
	}
	return nil
}

// allWatch are the topics that all of the audience watch.
func (l *look) allWatch() []movement.Topic {
	if l.topics == nil {
		l.topics = append([]movement.Topic{}, l.s.Audience.Topics()...)
	}
	return l.topics
}

func findSuits(l *look, _ *Rule) (out []Finding) {
	seen := map[plan.Path]bool{}
	at := map[string]int{} // of a movement and level that was found, in out
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() || s.Move == nil || seen[s.Row] {
			continue
		}
		seen[s.Row] = true
		not := l.unsuited(s.Move, s.Level)
		if not == nil {
			continue
		}
		key := s.Move.Slug + strconv.Itoa(s.Level)
		if n, again := at[key]; again { // said once
			out[n].Amount++
			out[n].Measured = fmt.Sprintf("level %d, in %.0f rows", s.Level, out[n].Amount)
			continue
		}
		at[key] = len(out)
		f := Finding{
			Severity: Look, Row: s.Row, Amount: 1, Measured: fmt.Sprintf("level %d", s.Level), Limit: "what suits " + not.whose, Source: practice,
			Says: fmt.Sprintf("%s does not suit %s", s.Move.Name, not.whose), Detail: strings.ToUpper(not.why[:1]) + not.why[1:] + ". Whoever treats them decides.",
		}
		if not.stops {
			f.Severity = Stop
		} else {
			f.Source = judged
		}
		f.At, _, _ = l.tl.RowSpan(s.Row)
		out = append(out, f)
	}
	return out
}

// sparing tells whether the audience of the class has something that nobody may put in.
func (l *look) sparing() bool { return len(l.allWatch()) > 0 }

// errUnsuited says that a mend is none here.
var errUnsuited = errors.New("that would put in what the audience should not do: choose something else by hand")

// unsuits tells whether a changed session has more that does not suit than the one that was looked at.
func (l *look) unsuits(after *plan.Session) bool {
	now, err := l.anew(after)
	return err != nil || now.spares() > l.spares()
}

// spares counts what stops in a class because its audience should be spared it: rows that do not suit, long on the back, bent
// too far in all, held too long.
func (l *look) spares() (n int) {
	if l.spared != nil {
		return *l.spared
	}
	seen := map[plan.Path]bool{}
	for i := range l.tl.Steps { // counted, not said: it is asked for every mend that is tried
		s := &l.tl.Steps[i]
		if s.Kind.Working() && s.Move != nil && !seen[s.Row] {
			seen[s.Row] = true
			if slices.ContainsFunc(l.allWatch(), func(t movement.Topic) bool { return s.Move.Spared(s.Level, t) }) {
				n++
			}
		}
	}
	for _, r := range rules {
		if r.spares && r != suitsRule {
			n += len(r.brings(l))
		}
	}
	l.spared = &n
	return n
}

// puts are the rules whose mends put movements in: where the audience has something to be spared, each is made once before
// it is offered, so that what is put right in one place hurts nobody in another. Every other mend is looked at when it is
// made: what only makes a dose longer or moves a row seldom brings anything, and trying them all costs more than the look.
var puts = []string{"forward", "lever-early", "early", "settle", "spine", "peak"}

// unsuit takes away the mends that would put something in that does not suit.
func (l *look) unsuit(fs []Finding) {
	if !l.sparing() {
		return
	}
	for i := range fs {
		if !slices.Contains(puts, fs[i].Rule) {
			continue
		}
		fs[i].Mends = slices.DeleteFunc(fs[i].Mends, func(m Mend) bool {
			_, err := m.Apply(l.s)
			return err != nil
		})
	}
}
