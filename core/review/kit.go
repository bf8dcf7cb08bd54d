package review

import (
	"fmt"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// kitRule: a thing is picked up, put down and picked up again. In rounds it comes again by nature.
var kitRule = &Rule{
	Name: "kit", Looks: "a thing is fetched again after a minute without it; a chair and the wall stay where they stand", Fixed: "once", Source: practice, Mends: "bring what needs it together", Yields: []string{"changes"},
	find: findKit,
}

// hold is a thing taken up for a row.
type hold struct {
	thing string
	at    plan.Path
}

// stays are things that stand in the room all through the class: nobody fetches them.
var stays = []string{"chair", "wall"}

// atHand is how long a thing lies beside the mat before it counts as put away; judgement.
const atHand = 60 * clock.Second

// kitPairs lists where a thing is fetched again, with where it was first. What is in hand is in hand: a rest, or a movement
// or two without it, put nothing away; nor does what comes directly behind it, however long it is set up.
func kitPairs(tl *timeline.Timeline) (out [][2]hold) {
	first := map[string]hold{}
	left := map[string]clock.Span{} // when each was last used
	used := map[string]plan.Path{}  // and by which row
	var seen plan.Path
	for i := range tl.Steps {
		s := &tl.Steps[i]
		if !s.Kind.Working() || s.Move == nil {
			continue
		}
		for _, k := range s.Move.Things(s.Level) {
			if slices.Contains(stays, k) {
				continue
			}
			last, had := left[k]
			by := used[k]
			left[k], used[k] = s.End(), s.Row
			h := hold{k, s.Row}
			if !had {
				first[k] = h
			} else if s.Row != seen && by != seen && s.At-last > atHand && first[k].at != h.at {
				out = append(out, [2]hold{first[k], h})
			}
		}
		seen = s.Row
	}
	return out
}

func findKit(l *look, r *Rule) []Finding {
	for _, pair := range kitPairs(l.tl) {
		was, h := pair[0], pair[1]
		if b, c := l.s.Block(was.at), l.s.Block(h.at); b == nil || c == nil || b.Rule != plan.Straight || c.Rule != plan.Straight {
			continue
		}
		f := Finding{
			Severity: Look, Row: h.at, Amount: 1, Measured: h.thing + " twice", Limit: "once",
			Says: "The " + h.thing + " is fetched again", Detail: fmt.Sprintf("First for %s, then for %s.", l.name(was.at), l.name(h.at)),
		}
		f.At, _, _ = l.tl.RowSpan(h.at)
		f.Mends = []Mend{{ID: "kit-" + h.at.String(), Says: fmt.Sprintf("Bring what needs the %s together", h.thing), apply: func(s *plan.Session) error {
			for range 12 {
				now, err := l.anew(s)
				if err != nil {
					return err
				}
				fs := r.on(now)
				if len(fs) == 0 {
					return nil
				}
				pairs := kitPairs(now.tl)
				i := slices.IndexFunc(pairs, func(p [2]hold) bool { return p[1].at == fs[0].Row })
				if i < 0 {
					return plan.ErrNoRow
				}
				pair := pairs[i]
				if err := gatherUnit(s, pair[0].at, pair[1].at); err != nil {
					return err
				}
			}
			return fmt.Errorf("the %s cannot be brought together", h.thing)
		}}}
		return []Finding{f}
	}
	return nil
}

// gatherUnit moves a row of a straight block directly behind another.
func gatherUnit(s *plan.Session, to, from plan.Path) error {
	_, err := s.Move([]plan.Path{from}, plan.Path{Section: to.Section, Block: to.Block, Row: to.Row + 1})
	return err
}
