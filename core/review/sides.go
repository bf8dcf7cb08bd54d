package review

import (
	"fmt"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// sidesRule: the two sides differ in repetitions, seconds, level or parts, or one is missing. The two sides are told to
// do the same.
var sidesRule = &Rule{
	Name: "sides", Looks: "repetitions, seconds, level or parts of the two sides differ, a side is missing, or an alternating count is odd; it stops from 3 s and a tenth apart, and at unlike levels",
	Fixed: "the same on both sides", Source: practice, Mends: "make one like the other; do both",
	canStop: true, find: findSides,
}

// How far apart the two sides may be before it stops: 3 s are no stop. Judgement.
const (
	sidesApart  = 3 * clock.Second
	sidesShare  = .1 // of the longer side
	sidesInAll  = .05
	sidesInAllS = 10 * clock.Second
)

// rowSide is a row that does one side only.
type rowSide struct {
	at plan.Path
	r  *plan.Row
	m  *movement.Movement
}

// sidesPaired are the rows that do one side only: those that do the right with those that do the left of the same movement,
// the alike ones first; and those that are alone.
func (l *look) sidesPaired() (pairs [][2]rowSide, alone []rowSide) {
	rights, lefts := map[string][]rowSide{}, map[string][]rowSide{}
	var names []string
	l.moves(func(p plan.Path, _ *plan.Block, r *plan.Row, m *movement.Movement) {
		into := rights
		switch r.Sides {
		case movement.RightOnly:
		case movement.LeftOnly:
			into = lefts
		default:
			return
		}
		n := movement.BaseSlug(r.Name())
		if !slices.Contains(names, n) {
			names = append(names, n)
		}
		into[n] = append(into[n], rowSide{p, r, m})
	})
	for _, n := range names {
		rs, ls := rights[n], lefts[n]
		for _, alike := range []bool{true, false} {
			rs = slices.DeleteFunc(rs, func(a rowSide) bool {
				i := slices.IndexFunc(ls, func(b rowSide) bool { return !alike || a.r.Dose.Equal(b.r.Dose) && a.level() == b.level() })
				if i < 0 {
					return false
				}
				pairs = append(pairs, [2]rowSide{a, ls[i]})
				ls = slices.Delete(ls, i, i+1)
				return true
			})
		}
		alone = append(append(alone, rs...), ls...)
	}
	return pairs, alone
}

func (a rowSide) level() int { return max(1, a.r.Level) }

func findSides(l *look, _ *Rule) (out []Finding) {
	add := func(f Finding) {
		if f.Says != "" {
			f.Limit = "the same on both sides"
			f.At, _, _ = l.tl.RowSpan(f.Row)
			out = append(out, f)
		}
	}
	pairs, alone := l.sidesPaired()
	for _, pair := range pairs {
		add(l.unlike(pair[0], pair[1]))
	}
	for _, a := range alone {
		f := Finding{Severity: Stop, Amount: 1, Row: a.at}
		missing(&f, a.at, a.r, a.m)
		add(f)
	}
	odds := map[string]int{} // rows that alternate an odd number of times: two of them are even
	l.moves(func(_ plan.Path, b *plan.Block, r *plan.Row, m *movement.Movement) {
		if oddCount(r, m) > 0 {
			odds[oddKey(r)] += max(1, b.Rounds)
		}
	})
	l.moves(func(p plan.Path, _ *plan.Block, r *plan.Row, m *movement.Movement) {
		f := Finding{Severity: Stop, Amount: 1, Row: p}
		switch {
		case r.Sides == movement.RightOnly || r.Sides == movement.LeftOnly:
		case r.Right != nil || r.Left != nil:
			differ(l, &f, p, r, m)
		case oddCount(r, m) > 0 && odds[oddKey(r)]%2 == 1:
			odd(&f, p, r, m)
		}
		if f.Says != "" && l.s.Style.Symmetry == plan.MoreOnTheTighter && (r.Right != nil || r.Left != nil) {
			f.Severity = Look // said on purpose in this school, and still worth a look
			f.Detail += " This session gives the tighter side more: is it the right one?"
		}
		add(f)
	})
	if len(out) == 0 && l.tl.Sums.Right > 0 {
		out = append(out, l.inAll())
	}
	slices.SortStableFunc(out, func(a, b Finding) int { return comparePlaces(a.Row, b.Row) })
	return out
}

// inAll is what the two sides get over the whole class, where no row of it is unlike.
func (l *look) inAll() Finding {
	right, left := l.sideSums()
	f := Finding{
		Severity: Good, Measured: right.String() + " and " + left.String(), Limit: "the same on both sides",
		Says: "Right and left get the same", Detail: right.String() + " of work on each side.",
	}
	if apart := abs(right - left); apart > max(sidesInAllS, max(right, left).Times(sidesInAll)) && l.s.Style.Symmetry != plan.MoreOnTheTighter {
		less := "Left"
		if right < left {
			less = "Right"
		}
		f.Severity, f.Amount, f.Says = Look, apart.Seconds(), less+" does less over the whole class"
		f.Detail = fmt.Sprintf("%s of work on the right, %s on the left.", right, left)
	}
	return f
}

// sideSums is what each side gets, without stretches that getting into takes time of: the first side's is longer, and nobody
// is told to do less.
func (l *look) sideSums() (right, left clock.Span) {
	slotted := map[plan.Path]bool{}
	for i := range l.tl.Steps {
		if s := &l.tl.Steps[i]; s.Into > 0 && s.Clocked {
			slotted[s.Row] = true
		}
	}
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() || slotted[s.Row] {
			continue
		}
		switch s.Side {
		case timeline.Right:
			right += s.S
		case timeline.Left:
			left += s.S
		}
	}
	return right, left
}

// gravely is how much it matters that the sides are so far apart: in time, or where the clock gives both the same, in counts.
func gravely(right, left clock.Span, rd, ld dose.Dose, levels bool) Severity {
	apart, longer := abs(right-left), max(right, left)
	if apart == 0 {
		a, b := rd.Count(), ld.Count()
		if d := max(a-b, b-a); levels || d > 1 || d == 0 {
			return Stop
		}
		return Look
	}
	if levels || apart > max(sidesApart, longer.Times(sidesShare)) {
		return Stop
	}
	return Look
}

// unlike is the finding about two rows that do one side each; without words where they are alike.
func (l *look) unlike(right, left rowSide) (f Finding) {
	rd, ld := right.r.DoseOf(right.m), left.r.DoseOf(left.m)
	rd.Per, ld.Per = dose.Unsaid, dose.Unsaid
	if rd.Equal(ld) && right.level() == left.level() {
		return f
	}
	second, first := left, right
	if comparePlaces(left.at, right.at) < 0 {
		second, first = right, left
	}
	rs, ls := l.worked(right.at), l.worked(left.at)
	f = Finding{Severity: gravely(rs, ls, rd, ld, right.level() != left.level()), Row: second.at, Amount: 1}
	f.Says = map[bool]string{true: "Left does less", false: "Right does less"}[ls < rs]
	if ls == rs {
		f.Says = "The sides differ"
	}
	f.Measured = fmt.Sprintf("%s right, %s left", rd, ld)
	if right.level() != left.level() {
		f.Measured = fmt.Sprintf("level %d right, level %d left", right.level(), left.level())
	}
	f.Detail = fmt.Sprintf("%s: %s, in two rows. %s apart.", right.m.Name, f.Measured, abs(rs-ls).Said())
	as := func(name string, from, to rowSide) Mend {
		says := fmt.Sprintf("Make %s %s", map[movement.Sides]string{movement.RightOnly: "right", movement.LeftOnly: "left"}[to.r.Sides], short(from.r.DoseOf(from.m), from.level(), to.level()))
		like, level := from.r.Dose, from.r.Level
		return Mend{ID: "sides-" + name + "-" + to.at.String(), Says: says, apply: func(s *plan.Session) error {
			row := s.Row(to.at)
			if row == nil {
				return plan.ErrNoRow
			}
			row.Dose, row.Level = like, level
			return row.Contradicts()
		}}
	}
	f.Mends = []Mend{as("as-first", first, second), as("as-second", second, first)}
	return f
}

// worked is how long a row works in all.
func (l *look) worked(p plan.Path) (sum clock.Span) {
	for i := range l.tl.Steps {
		if s := &l.tl.Steps[i]; s.Row == p && s.Kind.Working() {
			sum += s.S
		}
	}
	return sum
}

func differ(l *look, f *Finding, p plan.Path, r *plan.Row, m *movement.Movement) {
	rd, rl := r.OnSide(m, r.Right)
	ld, ll := r.OnSide(m, r.Left)
	rd.Per, ld.Per = dose.Unsaid, dose.Unsaid
	if rd.Equal(ld) && rl == ll {
		return
	}
	var right, left clock.Span
	for i := range l.tl.Steps {
		if s := &l.tl.Steps[i]; s.Row == p && s.Kind.Working() {
			switch s.Side {
			case timeline.Right:
				right += s.S
			case timeline.Left:
				left += s.S
			}
		}
	}
	less, apart := "Left", right-left
	if apart < 0 {
		less, apart = "Right", -apart
	}
	f.Severity = gravely(right, left, rd, ld, rl != ll)
	f.Says = less + " does less"
	if apart == 0 {
		f.Says = "The sides differ"
	}
	f.Measured = fmt.Sprintf("%s right, %s left", rd, ld)
	if rl != ll {
		f.Measured = fmt.Sprintf("level %d right, level %d left", rl, ll)
	}
	f.Detail = fmt.Sprintf("%s: %s. %s apart.", m.Name, f.Measured, apart.Said())
	both := func(name string, d dose.Dose, level int) Mend {
		return Mend{ID: "sides-" + name + "-" + p.String(), apply: func(s *plan.Session) error {
			row := s.Row(p)
			if row == nil {
				return plan.ErrNoRow
			}
			per := row.Dose.Per
			row.Right, row.Left = nil, nil
			row.Dose, row.Level = d, level
			row.Dose.Per = per
			return row.Contradicts()
		}}
	}
	toRight := both("as-right", rd, rl)
	toRight.Says = "Make left " + short(rd, rl, ll)
	toLeft := both("as-left", ld, ll)
	toLeft.Says = "Make right " + short(ld, ll, rl)
	f.Mends = []Mend{toRight, toLeft}
	if less == "Right" {
		f.Mends = []Mend{toLeft, toRight}
	}
}

func short(d dose.Dose, level, was int) string {
	if level != was {
		return fmt.Sprintf("level %d, %s", level, d)
	}
	return d.String()
}

func missing(f *Finding, p plan.Path, r *plan.Row, m *movement.Movement) {
	other := "left"
	if r.Sides == movement.LeftOnly {
		other = "right"
	}
	f.Says = fmt.Sprintf("%s is missing the %s side", m.Name, other)
	f.Measured = r.Sides.String() + " only"
	f.Detail = fmt.Sprintf("It is done on the %s only, and nowhere on the %s.", r.Sides, other)
	f.Mends = []Mend{{ID: "sides-both-" + p.String(), Says: "Do it on both sides", apply: func(s *plan.Session) error {
		row := s.Row(p)
		if row == nil {
			return plan.ErrNoRow
		}
		row.Sides = movement.Each
		return row.Contradicts()
	}}}
}

// oddCount is the odd number of times that a row alternates; 0 where it does not, or evenly.
func oddCount(r *plan.Row, m *movement.Movement) int {
	if r.SideRule(m) != movement.Alternating {
		return 0
	}
	d := r.DoseOf(m)
	if d.Per == dose.Pairs || d.Per == dose.EachSide || len(d.Parts) == 0 || d.Parts[0].Kind != dose.Reps || d.Parts[0].Count%2 == 0 || d.Parts[0].EachWay || d.Sets > 0 && d.Sets%2 == 0 {
		return 0
	}
	return d.Parts[0].Count
}

// oddKey is what rows share whose odd counts make an even one together.
func oddKey(r *plan.Row) string {
	return fmt.Sprintf("%s %d", movement.BaseSlug(r.Name()), max(1, r.Level))
}

func odd(f *Finding, p plan.Path, r *plan.Row, m *movement.Movement) {
	d, n := r.DoseOf(m), oddCount(r, m)
	f.Severity = Look // one repetition
	f.Says = "One side does one more"
	f.Measured = fmt.Sprintf("%d and %d", (n+1)/2, n/2)
	f.Detail = fmt.Sprintf("%s alternates and %d is odd.", m.Name, n)
	to := func(n int) Mend {
		return Mend{ID: fmt.Sprintf("sides-%d-%s", n, p), Says: fmt.Sprintf("Make it %d", n), apply: func(s *plan.Session) error {
			nd, _ := d.WithCount(n)
			return s.SetDose(p, movement.SidesUnsaid, nd)
		}}
	}
	f.Mends = []Mend{to(n + 1)}
	if n > 1 {
		f.Mends = append(f.Mends, to(n-1))
	}
}
