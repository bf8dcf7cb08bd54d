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
	// weight is how much a second of a step counts; nil: the time from the first work that bears the load to the last counts as
	// it is.
	weight func(*timeline.Step) float64
}

// borne is how much of a load some steps of a timeline, in their order, bear: how long they last from first to last, or
// their work by its weight.
func (b bearing) borne(tl *timeline.Timeline, steps []int) (sum clock.Span) {
	if len(steps) == 0 {
		return 0
	}
	if b.weight == nil {
		return tl.Steps[steps[len(steps)-1]].End() - tl.Steps[steps[0]].At
	}
	for _, i := range steps {
		sum += tl.Steps[i].S.Times(b.weight(&tl.Steps[i]))
	}
	return sum
}

// said is how much a run bears in words: how long it lasts, and what that is by weight where it has one.
func (b bearing) said(run run, borne clock.Span) string {
	if b.weight == nil {
		return borne.String()
	}
	return fmt.Sprintf("%s, as much as %s at half the body's weight", run.Length(), borne)
}

// bands are the stretches in which the load is borne.
func (b bearing) bands(l *look) (out []Band) {
	for _, run := range runsOf(l.tl, b.load) {
		band := Band{At: run.At, End: run.End}
		if b.borne(l.tl, run.Steps) > l.span(b.limit) {
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
		borne := b.borne(l.tl, run.Steps)
		if borne <= limit {
			continue
		}
		out = append(out, Finding{
			Severity: Stop, Row: run.First, At: run.At, end: run.End, Amount: borne.Seconds(),
			Measured: b.said(run, borne), Limit: limit.String(),
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
	cuts, possible := b.cutsOf(l.tl, run, limit)
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
		var piece []int
		for _, i := range run.Steps {
			if off[l.tl.Steps[i].Row] {
				piece = piece[:0]
				continue
			}
			piece = append(piece, i)
			most = max(most, b.borne(l.tl, piece))
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
func (b bearing) cutsOf(tl *timeline.Timeline, run run, limit clock.Span) (cuts []plan.Path, possible bool) {
	var groups [][2]int // neighbouring steps of one row: from and to among the steps of the run
	for k, i := range run.Steps {
		if n := len(groups); n > 0 && tl.Steps[run.Steps[groups[n-1][0]]].Row == tl.Steps[i].Row {
			groups[n-1][1] = k + 1
			continue
		}
		groups = append(groups, [2]int{k, k + 1})
	}
	from := 0
	for n, g := range groups {
		if b.borne(tl, run.Steps[from:g[1]]) <= limit {
			continue
		}
		if n == 0 || b.borne(tl, run.Steps[g[0]:g[1]]) > limit {
			return nil, false
		}
		cuts = append(cuts, tl.Steps[run.Steps[groups[n-1][0]]].Row)
		from = g[0]
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
		over := slices.DeleteFunc(runsOf(now.tl, b.load), func(r run) bool { return b.borne(now.tl, r.Steps) <= limit })
		if len(over) == 0 {
			return nil
		}
		if cuts, ok := b.cutsOf(now.tl, over[0], limit); ok && len(cuts) > 0 {
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
			part.SetCount((part.Count + 1) / 2)
			if part.Span > 0 {
				part.SetSpan((part.Span / 2).Times(1))
			}
			part.Counts = (part.Counts + 1) / 2
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
