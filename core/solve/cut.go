package solve

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Cutting keeps some of a class as it is and drops the rest whole: rows, chains, flows, build ups, rounds of a circuit. Nobody's dose is changed. "If you have
// time for one thing, this."

// Weights of what is kept; judgement: what the class is about counts twice, a quiet end as much as work at half of the scale.
const (
	aboutTimes = 2.0
	quietWorth = 5.0
)

// Cut is a class cut to a length.
type Cut struct {
	Session *plan.Session
	Total   clock.Span
	Dropped []string // what is left out, in the order of the class: "Swan", "2 of 3 rounds of Standing"
	Kept    int      // rows that stay
}

// Says is what happened, in words.
func (c *Cut) Says() string {
	if len(c.Dropped) == 0 {
		return "It is no longer than that already."
	}
	rows := fmt.Sprintf("%d rows stay as they are", c.Kept)
	if c.Kept == 1 {
		rows = "One row stays as it is"
	}
	return fmt.Sprintf("%s, %s in all. Left out: %s.", rows, c.Total, strings.Join(c.Dropped, ", "))
}

var errNothingFits = errors.New("not one row of it fits into that time: the shortest that stays is longer")

// unit is what is kept or dropped whole.
type unit struct {
	section int
	piece   Piece
	rounds  int // of a circuit, from its own number down to 1
	worth   float64
	took    clock.Span
}

// CutTo drops whole rows, chains and rounds until a class is not longer than a time, those first that are worth least for the time they take: what the class is
// about, what is worked hard and a quiet end are worth most. Locked rows stay. The error says when not even one fits. Cost grows with the square of the rows.
func CutTo(ctx context.Context, s *plan.Session, lib *movement.Library, to clock.Span) (*Cut, error) {
	tl, err := timeline.Build(s, lib)
	if err != nil {
		return nil, err
	}
	units := unitsOf(s, lib, tl)
	out := &Cut{Session: s.Clone(), Total: tl.Total, Kept: s.Rows()}
	dropped := map[int]bool{}
	for out.Total > to {
		if ctx.Err() != nil {
			return nil, context.Cause(ctx)
		}
		worst := -1
		for i := range units {
			u := &units[i]
			if dropped[i] || u.piece.locked && u.rounds <= 1 || len(units)-len(dropped) == 1 && u.rounds <= 1 {
				continue
			}
			if worst < 0 || u.rate() < units[worst].rate() {
				worst = i
			}
		}
		if worst < 0 {
			return nil, errNothingFits
		}
		if u := &units[worst]; u.rounds > 1 {
			u.took -= u.took / clock.Span(u.rounds)
			u.worth -= u.worth / float64(u.rounds)
			u.rounds--
		} else {
			dropped[worst] = true
		}
		if out.Session, out.Total, err = joined(s, lib, units, dropped); err != nil {
			return nil, err
		}
	}
	for i := range units { // what was dropped early may fit again now
		if !dropped[i] {
			continue
		}
		delete(dropped, i)
		again, total, err := joined(s, lib, units, dropped)
		if err != nil {
			return nil, err
		}
		if total > to {
			dropped[i] = true
			continue
		}
		out.Session, out.Total = again, total
	}
	for i := range units {
		u := &units[i]
		name := u.name(lib)
		if had := u.piece.Block.Rounds; dropped[i] {
			out.Dropped = append(out.Dropped, name)
		} else if u.piece.Block.Rule == plan.Rounds && u.rounds < had {
			out.Dropped = append(out.Dropped, fmt.Sprintf("%d of %d rounds with %s", had-u.rounds, had, name))
		}
	}
	out.Session.Target = to
	out.Kept = out.Session.Rows()
	return out, nil
}

// rate is what a unit is worth for each second it takes.
func (u *unit) rate() float64 {
	if u.took <= 0 {
		return 0
	}
	return u.worth / u.took.Seconds()
}

// name is a unit in a few words: its first movement.
func (u *unit) name(lib *movement.Library) string {
	if t := u.piece.Block.Title; t != "" && u.piece.Block.Rule != plan.Straight {
		return t
	}
	for i := range u.piece.Block.Rows {
		if r := &u.piece.Block.Rows[i]; !r.IsRest() {
			n := r.Title(lib)
			if u.piece.Block.Rule != plan.Straight && len(u.piece.Block.Rows) > 1 {
				n += " and what goes with it"
			}
			return n
		}
	}
	return "a rest"
}

// unitsOf parts a class into what is kept or dropped whole, with what each takes and is worth.
func unitsOf(s *plan.Session, lib *movement.Library, tl *timeline.Timeline) []unit {
	var units []unit
	of := map[plan.Path]int{}
	for i := range s.Sections {
		var rows []plan.Path // in the order of the pieces, which is that of the section
		for j := range s.Sections[i].Blocks {
			for k := range s.Sections[i].Blocks[j].Rows {
				rows = append(rows, plan.Path{Section: i + 1, Block: j + 1, Row: k + 1})
			}
		}
		for _, p := range Pieces(&s.Sections[i], lib) {
			u := unit{section: i, piece: p, rounds: 1}
			if p.Block.Rule == plan.Rounds {
				u.rounds = p.Block.Rounds
			}
			n := len(p.Block.Rows)
			if p.After != nil {
				n += len(p.After.Rows)
			}
			for _, at := range rows[:n] {
				of[at] = len(units)
			}
			rows = rows[n:]
			units = append(units, u)
		}
	}
	for i := range tl.Steps {
		st := &tl.Steps[i]
		u := &units[of[st.Row]]
		u.took += st.S
		if !st.Kind.Working() || st.Move == nil {
			continue
		}
		worth := max(st.Effort, .5)
		if st.Move.Rest || st.Move.Phase == "settle" {
			worth = quietWorth
		}
		if slices.ContainsFunc(s.Focus, func(f string) bool { return about(st.Move, f) }) {
			worth *= aboutTimes
		}
		u.worth += worth * st.S.Seconds()
	}
	return units
}

// about tells whether a movement works what a class is about.
func about(m *movement.Movement, word string) bool {
	word = strings.ToLower(strings.TrimSpace(word))
	for r, w := range m.Regions {
		if w >= .5 && (r == word || strings.Contains(word, r)) {
			return true
		}
	}
	return slices.ContainsFunc(m.Spine, func(d movement.Direction) bool { return strings.Contains(word, string(d)) })
}

// joined is the class of the units that are not dropped, and how long it is.
func joined(s *plan.Session, lib *movement.Library, units []unit, dropped map[int]bool) (*plan.Session, clock.Span, error) {
	out := s.Clone()
	pieces := make([][]Piece, len(s.Sections))
	for i := range units {
		if dropped[i] {
			continue
		}
		p := units[i].piece
		if p.Block.Rule == plan.Rounds {
			p.Block.Rounds = units[i].rounds
		}
		pieces[units[i].section] = append(pieces[units[i].section], p)
	}
	for i := range out.Sections {
		out.Sections[i].Blocks = Join(pieces[i])
	}
	out.Sections = slices.DeleteFunc(out.Sections, func(sec plan.Section) bool { return len(sec.Blocks) == 0 })
	out = out.Clone() // pieces share their rows with the class they are of
	out.Settle(lib)
	tl, err := timeline.Build(out, lib)
	if err != nil {
		return nil, 0, err
	}
	return out, tl.Total, nil
}
