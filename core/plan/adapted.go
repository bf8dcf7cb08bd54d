package plan

import (
	"slices"
	"strings"

	"wavekine/core/movement"
)

// TakeLevels puts every level that the row speaks of, its own, those of its sides, phases and rounds, through to, and keeps of the options offered aloud and of the
// level shown those that may be. m is the row's movement. Sides that differed by their level only become one.
func (r *Row) TakeLevels(m *movement.Movement, to func(level int) int, may func(level int) bool) {
	was := max(1, r.Level)
	now := to(was)
	before := m.As(was)
	if now != was {
		r.Level = now
	}
	r.fitSides(before, m.As(now))
	for i, n := range r.PartLevels {
		if n > 0 {
			r.PartLevels[i] = to(n)
		}
	}
	for i := range r.ByRound {
		if n := r.ByRound[i].Level; n > 0 {
			r.ByRound[i].Level = to(n)
		}
	}
	if r.Demo > 0 && !may(r.Demo) {
		r.Demo = 0
	}
	not := func(n int) bool { return !may(n) }
	switch {
	case r.Options != nil:
		r.Options = slices.DeleteFunc(slices.Clone(r.Options), func(n int) bool { return not(n) || n == now })
	case now < len(m.Levels) && not(now+1) || now > 1 && not(now-1): // what is offered without a word would be one that may not be
		r.Options = []int{}
		for _, n := range []int{now - 1, now + 1} {
			if n >= 1 && n <= len(m.Levels) && may(n) {
				r.Options = append(r.Options, n)
			}
		}
	}
	for _, o := range []*Override{r.Right, r.Left} {
		if o == nil {
			continue
		}
		if o.Level > 0 {
			o.Level = to(o.Level)
		}
		if o.Options != nil {
			o.Options = slices.DeleteFunc(o.Options, not)
		}
	}
	if now != was { // what was said of another level
		r.dropSame()
	}
}

// AddCue puts words behind the row's short cue, where they are not in it already and there is room.
func (r *Row) AddCue(words string) {
	if words == "" || strings.Contains(r.Cue, words) {
		return
	}
	cue := words
	if r.Cue != "" {
		cue = r.Cue + "; " + words
	}
	if !tooLong(cue, maxTold) {
		r.Cue = cue
	}
}
