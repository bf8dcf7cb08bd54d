package progress

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"wavekine/core/ladder"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Suggestion is what the check-ins of a mover ask a teacher to decide.
type Suggestion struct {
	Ready
	Name  string         // of the movement; empty where pain has none
	Now   string         // the rung they stand on, in words
	Topic movement.Topic // for pain of no movement: what to watch until it is cleared; empty: not known
	Alone string         // with pain: which of the movements that they did work where it hurt
}

// Key names a suggestion for a mover.
func (s *Suggestion) Key() string { return string(s.Verdict) + "." + s.Movement }

// topicsAt is what somebody has to watch who hurts in a place, until whoever treats them knows better.
var topicsAt = map[string]movement.Topic{
	"neck": movement.Neck, "shoulder": movement.Shoulder, "arm": movement.Shoulder, "chest": movement.Shoulder, "elbow": movement.Elbow, "wrist": movement.Wrists, "front of the hip": movement.Hip, "inner thigh": movement.Hip,
	"seat": movement.Hip, "thigh": movement.Knees, "knee": movement.Knees, "shin": movement.Ankle, "foot": movement.Ankle, "calf": movement.Ankle, "low back": movement.LowBack, "upper back": movement.Neck, "back of the thigh": movement.LowBackBending,
	"belly": movement.PelvicFloor, "waist": movement.LowBackBending,
}

// TopicOf is what to watch for whoever hurts in a place; ok is false where none is near.
func TopicOf(place string) (movement.Topic, bool) {
	t, ok := topicsAt[place]
	return t, ok
}

// History is what is known of a mover in a series when it is asked what to do next.
type History struct {
	Series  *plan.Series
	Classes []Class // as they had them, the days they said something of, the oldest first
	Said    map[int]*CheckIn
	Steps   []Step // what was decided, the oldest first
	// Ladder gives the ladder of a movement for an audience, where many ask for the same; nil: LadderOf.
	Ladder func(slug string, a movement.Audience) ladder.Ladder
}

// matters are the movements of which anything can be suggested: the threads, and those in which something was felt or hurt; nil: all of them.
func (h *History) matters() map[string]bool {
	if len(h.Series.Ladders) == 0 {
		return nil
	}
	out := map[string]bool{}
	for i := range h.Series.Ladders {
		for _, m := range h.Series.Ladders[i].Movements() {
			out[movement.BaseSlug(m)] = true
		}
	}
	for _, said := range h.Said {
		for _, fs := range [][]Felt{said.Felt, said.Pain} {
			for _, f := range fs {
				if f.In != "" {
					out[movement.BaseSlug(f.In)] = true
				}
			}
		}
	}
	return out
}

// misplaced tells whether it was felt where it should not be.
func (r *Ready) misplaced() bool {
	return r.Verdict == Back && slices.ContainsFunc(r.Evidence, func(g Go) bool { return len(g.Felt) > 0 })
}

// decided is until when a movement was looked at; "" stands for pain of no movement.
func (h *History) decided(slug string) (until time.Time, stopped bool) {
	for _, s := range h.Steps {
		if s.Movement == slug {
			until = s.From
			stopped = s.Does == Stop && !s.Cleared
		}
	}
	return until, stopped
}

// Suggest reads the check-ins of a mover: pain first, then what was felt in the wrong place or far too hard, then what they are ready for. On a series with threads only those climb; on
// another every movement that comes again. What was decided about is looked at from there on. Cost grows with days x rows.
func Suggest(lib *movement.Library, h History) (out []Suggestion) {
	goes := map[string][]Go{}
	var order []string
	want := h.matters()
	for _, c := range h.Classes {
		for slug, g := range goesOf(lib, c, h.Said[c.Day], want) {
			if goes[slug] == nil {
				order = append(order, slug)
			}
			goes[slug] = append(goes[slug], g)
		}
	}
	slices.Sort(order)
	for _, slug := range order {
		until, stopped := h.decided(slug)
		since := slices.DeleteFunc(slices.Clone(goes[slug]), func(g Go) bool { return !g.Date.After(until) })
		r := Judge(slug, since)
		if r.Verdict == Stay || stopped && r.Verdict != Stop {
			continue
		}
		s := Suggestion{Ready: r, Name: slug}
		m, known := lib.Get(slug)
		if known {
			s.Name = m.Name
		}
		if r.Verdict != Stop {
			if !known || m.Rest || m.Stretch && !r.misplaced() {
				continue
			}
			if len(h.Series.Ladders) > 0 && h.Series.Ladder(slug) == nil && !r.misplaced() { // how hard a whole class was says nothing of what does not climb
				continue
			}
			class := h.latest(slug)
			row := rowOf(class.Plan, slug)
			if row == nil {
				continue
			}
			of := h.Ladder
			if of == nil {
				of = func(slug string, a movement.Audience) ladder.Ladder { return LadderOf(lib, h.Series, slug, a) }
			}
			l := of(slug, class.Plan.Audience)
			by := 1
			if r.Verdict == Back {
				by = -1
			}
			if _, ok := Next(&l, m, max(1, row.Level), row.DoseOf(m), by); !ok && r.Verdict == Up {
				continue // the top of the ladder
			}
			s.Now = Stands(lib, class.Plan, slug)
		}
		out = append(out, s)
	}
	if s, ok := h.pain(lib); ok {
		out = append(out, s)
	}
	hurts := slices.ContainsFunc(out, func(s Suggestion) bool { return s.Verdict == Stop }) || slices.ContainsFunc(h.Steps, func(s Step) bool { return s.Does == Stop && !s.Cleared })
	if hurts { // nothing goes up for somebody whom something hurts, until whoever treats them has cleared it
		out = slices.DeleteFunc(out, func(s Suggestion) bool { return s.Verdict == Up })
	}
	rank := map[Verdict]int{Stop: 0, Back: 1, Up: 2}
	slices.SortStableFunc(out, func(a, b Suggestion) int {
		return cmp.Or(rank[a.Verdict]-rank[b.Verdict], strings.Compare(a.Movement, b.Movement))
	})
	return out
}

// pain is what hurt of which nobody said in which movement.
func (h *History) pain(lib *movement.Library) (s Suggestion, ok bool) {
	until, _ := h.decided("")
	for _, c := range h.Classes {
		said := h.Said[c.Day]
		if said == nil || !c.Date.After(until) {
			continue
		}
		var at []string
		for _, f := range said.Pain {
			if f.In != "" {
				continue
			}
			at = append(at, f.String())
			if t, known := topicsAt[f.Place]; known {
				s.Topic = t
			}
			var works []string
			c.Plan.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
				if m, err := r.Of(lib); err == nil && m != nil && Meant(m, f.Place) && !slices.Contains(works, m.Name) {
					works = append(works, m.Name)
				}
			})
			s.Alone = strings.Join(works, ", ")
		}
		if len(at) > 0 {
			s.Verdict = Stop
			s.Evidence = append(s.Evidence, Go{Day: c.Day, Date: c.Date, Effort: said.Effort, Plan: c.Effort(), Hurt: at})
			s.Says = fmt.Sprintf("It hurt on day %d: %s. They were told to stop, and to ask whoever treats them.", c.Day, strings.Join(at, ", "))
			ok = true
		}
	}
	return s, ok
}

// Effort is how hard the class was meant to feel, 0 to 10.
func (c *Class) Effort() float64 {
	if c.Sum != nil {
		return c.Sum.Planned
	}
	return Planned(c.TL)
}

// latest is the last class in which somebody did a movement.
func (h *History) latest(slug string) Class {
	for i := len(h.Classes) - 1; i >= 0; i-- {
		if rowOf(h.Classes[i].Plan, slug) != nil {
			return h.Classes[i]
		}
	}
	return Class{Plan: &plan.Session{}}
}

func rowOf(s *plan.Session, slug string) (row *plan.Row) {
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if row == nil && !r.IsRest() && movement.BaseSlug(r.Name()) == slug {
			row = r
		}
	})
	return row
}

// Together is what more than half of a group is ready for.
type Together struct {
	Movement, Name string
	Movers         []string // who is ready; the rest keep their rung
	Of             int      // who said anything
}

// Group reads the suggestions of a group, by mover: a movement for which over half of those who said anything are ready. said is how many did.
func Group(by map[string][]Suggestion, said int) (out []Together) {
	ready := map[string]*Together{}
	for mover, list := range by {
		for _, s := range list {
			if s.Verdict != Up {
				continue
			}
			t := ready[s.Movement]
			if t == nil {
				t = &Together{Movement: s.Movement, Name: s.Name, Of: said}
				ready[s.Movement] = t
			}
			t.Movers = append(t.Movers, mover)
		}
	}
	for _, t := range ready {
		if len(t.Movers) > 1 && 2*len(t.Movers) > said {
			slices.Sort(t.Movers)
			out = append(out, *t)
		}
	}
	slices.SortFunc(out, func(a, b Together) int {
		return cmp.Or(len(b.Movers)-len(a.Movers), strings.Compare(a.Movement, b.Movement))
	})
	return out
}
