package review

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// suitsLimit is how demanding a row may be for beginners.
var suitsLimit = Limit{"suits_beginners", "Demand of a row for beginners", "of 10", 6, 3, 10, judged}

// suitsRule: a row that the audience should not do, or do otherwise. What the table of cautions says of a level (common
// practice) decides for those who expect and for low bone density; the position for those who stay standing; the demand
// for beginners. It offers no mend: what stands in for a movement is the teacher's.
var suitsRule = &Rule{
	Name: "suits", Looks: "a row that the audience should not do as it is: expecting, low bone density, standing only, beginners", Limits: []Limit{suitsLimit}, Mends: "none: another level or movement is the teacher's choice",
	find: findSuits,
}

// watchedByAll are the topics that an audience watches as a whole. Where it is not said how far people are who expect, they are
// taken to be past the first third.
var watchedByAll = map[movement.Audience][]movement.Topic{
	movement.Expecting: {movement.Expecting2},
	movement.LowBone:   {movement.Bones},
}

// unsuited is why a level does not suit the audience; ok is false where it does.
func (l *look) unsuited(m *movement.Movement, level int) (why string, stops, ok bool) {
	a := movement.Audience(l.s.Audience)
	for _, t := range watchedByAll[a] {
		if m.Spared(level, t) {
			c := m.CareOf(level, t)
			says := c.Words()
			if c.Level > 0 {
				says = fmt.Sprintf("level %d, %s", c.Level, c.Says)
			}
			return fmt.Sprintf("%s: %s", says, c.Why), true, true
		}
	}
	switch {
	case a == movement.StandingOnly && m.Posture.OnFloor():
		return "it is done down on the mat", true, true
	case a == movement.Beginners && m.At(level).Demand > l.num(suitsLimit):
		return fmt.Sprintf("a demand of %.1f", m.At(level).Demand), false, true
	}
	return "", false, false
}

func findSuits(l *look, _ *Rule) (out []Finding) {
	seen := map[plan.Path]bool{}
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() || s.Move == nil || seen[s.Row] {
			continue
		}
		seen[s.Row] = true
		why, stops, ok := l.unsuited(s.Move, s.Level)
		if !ok {
			continue
		}
		f := Finding{
			Severity: Look, Row: s.Row, Amount: 1, Measured: fmt.Sprintf("level %d", s.Level), Limit: "what suits " + l.s.Audience, Source: practice,
			Says: fmt.Sprintf("%s does not suit %s", s.Move.Name, l.s.Audience), Detail: strings.ToUpper(why[:1]) + why[1:] + ". Whoever treats them decides.",
		}
		if stops {
			f.Severity = Stop
		}
		f.At, _, _ = l.tl.RowSpan(s.Row)
		out = append(out, f)
	}
	return out
}

// sparing tells whether the audience of the class has something that nobody may put in.
func (l *look) sparing() bool {
	return watchedByAll[movement.Audience(l.s.Audience)] != nil || l.s.Audience == string(movement.StandingOnly)
}

// errUnsuited says that a mend is none here.
var errUnsuited = errors.New("that would put in what the audience should not do: choose something else by hand")

// unsuits tells whether a changed session has more that does not suit than the one that was looked at.
func (l *look) unsuits(after *plan.Session) bool {
	now, err := l.anew(after)
	return err != nil || len(findSuits(now, suitsRule)) > len(findSuits(l, suitsRule))
}

// puts are the rules whose mends put movements in: where the audience has something to be spared, each is made once before
// it is offered. Every mend is looked at when it is made.
var puts = []string{"forward", "lever", "lever-early", "early", "settle", "spine", "peak"}

// unsuit takes away the mends that would put something in that does not suit: what is put right in one place must hurt
// nobody in another.
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
