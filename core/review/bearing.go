package review

import (
	"cmp"
	"fmt"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// bearing is a load that may be borne only so long without a break: how the rules of head and hands say it.
type bearing struct {
	load                      movement.Load
	limit                     Limit
	says, restSays, levelSays string
	over                      string // on the rail
	rest                      plan.Row
}

// bands are the stretches in which the load is borne.
func (b bearing) bands(l *look) (out []Band) {
	for _, run := range runsOf(l.tl, b.load) {
		band := Band{At: run.At, End: run.End}
		if run.Length() > l.span(b.limit) {
			band.Over = run.Length().String() + " " + b.over
		}
		out = append(out, band)
	}
	return out
}

// find finds the stretches that are longer than the limit.
func (b bearing) find(l *look, rule *Rule) (out []Finding) {
	limit := l.span(b.limit)
	for _, run := range runsOf(l.tl, b.load) {
		if run.Length() <= limit {
			continue
		}
		out = append(out, Finding{
			Severity: Stop, Row: run.First, At: run.At, Amount: run.Length().Seconds(),
			Measured: run.Length().String(), Limit: limit.String(),
			Says:   fmt.Sprintf(b.says, run.Length()),
			Detail: through(l, run) + fmt.Sprintf(". House limit %s.", limit),
			Mends:  b.mends(l, run, limit, rule.Name),
		})
	}
	return out
}

func through(l *look, run run) string {
	a, b := l.name(run.First), l.name(run.Last)
	if a == b {
		return a
	}
	return a + " to " + b
}

// mends: rests after the rows at which the run can be cut below the limit; and the easier
// level that does not bear the load.
func (b bearing) mends(l *look, run run, limit clock.Span, name string) (out []Mend) {
	cuts, possible := cutsOf(l.tl, run, limit)
	if possible && len(cuts) > 0 {
		says := fmt.Sprintf(b.restSays, l.name(cuts[0]))
		if len(cuts) > 1 {
			says = fmt.Sprintf("%s and %d more times", says, len(cuts)-1)
		}
		out = append(out, Mend{ID: name + "-rest-" + cuts[0].String(), Says: says, apply: func(s *plan.Session) error {
			return addAfter(s, cuts, b.rest)
		}})
	}
	if m, ok := b.lighter(l, run, limit, name); ok {
		out = append(out, m)
	}
	if len(out) == 0 { // nothing gentler fits: take the longest row's dose down to half
		p := longestRow(l, run)
		out = append(out, Mend{ID: name + "-less-" + p.String(), Says: "Halve " + l.name(p), apply: func(s *plan.Session) error { return b.shorten(s, l, limit) }})
	}
	return out
}

func longestRow(l *look, run run) (best plan.Path) {
	var most clock.Span
	sum := map[plan.Path]clock.Span{}
	for _, i := range run.Steps {
		s := &l.tl.Steps[i]
		if sum[s.Row] += s.S; sum[s.Row] > most {
			best, most = s.Row, sum[s.Row]
		}
	}
	return best
}

// lighter takes the rows of the run, longest first, to a level without the load until what is left
// keeps below the limit.
func (b bearing) lighter(l *look, run run, limit clock.Span, name string) (Mend, bool) {
	type change struct {
		p     plan.Path
		level int
	}
	var changes []change
	off := map[plan.Path]bool{}
	longestPiece := func() (most clock.Span) {
		from, open := clock.Span(0), false
		for _, i := range run.Steps {
			s := &l.tl.Steps[i]
			if off[s.Row] {
				open = false
				continue
			}
			if !open {
				from, open = s.At, true
			}
			most = max(most, s.End()-from)
		}
		return most
	}
	for longestPiece() > limit {
		var best plan.Path
		var level int
		var most clock.Span
		for _, i := range run.Steps {
			s := &l.tl.Steps[i]
			if off[s.Row] || s.S < most || s.S < breakFrom {
				continue
			}
			for n := s.Level - 1; n >= 1; n-- {
				if !s.Move.Has(n, b.load) {
					best, level, most = s.Row, n, s.S
					break
				}
			}
		}
		if level == 0 {
			return Mend{}, false
		}
		off[best] = true
		changes = append(changes, change{best, level})
	}
	if len(changes) == 0 {
		return Mend{}, false
	}
	says := fmt.Sprintf(b.levelSays, l.name(changes[0].p))
	if len(changes) > 1 {
		says += fmt.Sprintf(" and %d more", len(changes)-1)
	}
	return Mend{ID: name + "-level-" + changes[0].p.String(), Says: says, apply: func(s *plan.Session) error {
		for _, c := range changes {
			if err := s.SetLevel(c.p, c.level, l.lib); err != nil {
				return err
			}
		}
		return nil
	}}, true
}

func comparePlaces(a, b plan.Path) int {
	return cmp.Or(cmp.Compare(a.Section, b.Section), cmp.Compare(a.Block, b.Block), cmp.Compare(a.Row, b.Row))
}

// cutsOf finds the rows after which a rest cuts a run below the limit: greedily, the latest end of
// a row before the limit is reached. It is impossible where a single row is longer than the limit.
func cutsOf(tl *timeline.Timeline, run run, limit clock.Span) (cuts []plan.Path, possible bool) {
	type group struct { // neighbouring steps of one row
		row     plan.Path
		at, end clock.Span
	}
	var groups []group
	for _, i := range run.Steps {
		s := &tl.Steps[i]
		if n := len(groups); n > 0 && groups[n-1].row == s.Row {
			groups[n-1].end = s.End()
			continue
		}
		groups = append(groups, group{s.Row, s.At, s.End()})
	}
	from := run.At
	for n, g := range groups {
		if g.end-from <= limit {
			continue
		}
		if n == 0 || g.end-g.at > limit {
			return nil, false
		}
		cuts = append(cuts, groups[n-1].row)
		from = g.at
	}
	slices.SortFunc(cuts, comparePlaces) // a rest in a chain or a circuit comes again on every pass
	return slices.Compact(cuts), true
}

func addAfter(s *plan.Session, at []plan.Path, row plan.Row) error {
	for i := len(at) - 1; i >= 0; i-- {
		if _, err := s.Add(at[i], row); err != nil {
			return err
		}
	}
	return nil
}

// shorten takes the longest row of a run past the limit to half until rests can do the remainder.
func (b bearing) shorten(s *plan.Session, l *look, limit clock.Span) error {
	for range 40 {
		now, err := l.anew(s)
		if err != nil {
			return err
		}
		over := slices.DeleteFunc(runsOf(now.tl, b.load), func(r run) bool { return r.Length() <= limit })
		if len(over) == 0 {
			return nil
		}
		if cuts, ok := cutsOf(now.tl, over[0], limit); ok && len(cuts) > 0 {
			err = addAfter(s, cuts, b.rest)
		} else {
			err = halve(s, longestRow(now, over[0]), l)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// halve takes the sets of a row to half, or its dose where it has one, both sides alike.
func halve(s *plan.Session, p plan.Path, l *look) error {
	r := s.Row(p)
	if r == nil {
		return plan.ErrNoRow
	}
	d := r.Dose
	if d.IsZero() {
		m, err := r.Of(l.lib)
		if err != nil || m == nil {
			return plan.ErrNoRow
		}
		d = m.Dose
	}
	if d.Sets > 1 {
		d.Sets = (d.Sets + 1) / 2
		if d.Sets == 1 {
			d.Sets, d.Rest = 0, 0
		}
	} else {
		d.Parts = slices.Clone(d.Parts)
		for i := range d.Parts {
			part := &d.Parts[i]
			part.Count = (part.Count + 1) / 2
			part.Span = (part.Span / 2).Times(1)
		}
	}
	if !d.Sayable() || d.Equal(r.Dose) {
		return fmt.Errorf("%s cannot be made shorter", l.name(p))
	}
	r.Right, r.Left = nil, nil
	return s.SetDose(p, movement.SidesUnsaid, d)
}

// relieveLast takes the first mend of the last finding: a rest where a run has become too long.
func relieveLast(l *look, fs []Finding) error { return fs[len(fs)-1].Mends[0].apply(l.s) }
