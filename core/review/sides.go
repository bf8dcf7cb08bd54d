package review

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// sidesRule: the two sides differ in repetitions, seconds, level or parts, or one is missing. The two sides are told to
// do the same.
var sidesRule = &Rule{
	Name: "sides", Looks: "repetitions, seconds, level or parts of the two sides differ, a side is missing, or an alternating count is odd",
	Fixed: "the same on both sides", Source: practice, Mends: "make one like the other; do both",
	find: findSides,
}

func findSides(l *look, _ *Rule) (out []Finding) {
	one := map[string]int{} // movement and dose done on one side only: right minus left
	l.s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		switch r.Sides {
		case movement.RightOnly:
			one[r.Name()+r.Dose.String()]++
		case movement.LeftOnly:
			one[r.Name()+r.Dose.String()]--
		}
	})
	l.s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		m, err := r.Of(l.lib)
		if err != nil || m == nil {
			return
		}
		f := Finding{Severity: Stop, Amount: 1, Row: p, Limit: "the same on both sides"}
		switch {
		case r.Right != nil || r.Left != nil:
			differ(l, &f, p, r, m)
		case r.Sides == movement.RightOnly && one[r.Name()+r.Dose.String()] > 0,
			r.Sides == movement.LeftOnly && one[r.Name()+r.Dose.String()] < 0:
			missing(&f, p, r, m)
		case r.SideRule(m) == movement.Alternating:
			odd(l, &f, p, r, m)
		}
		if f.Says != "" && l.s.Style.Symmetry == plan.MoreOnTheTighter && (r.Right != nil || r.Left != nil) {
			f.Severity = Look // said on purpose in this school, and still worth a look
			f.Detail += " This session gives the tighter side more: is it the right one?"
		}
		if f.Says != "" {
			f.At, _, _ = l.tl.RowSpan(p)
			out = append(out, f)
		}
	})
	if len(out) == 0 && l.tl.Sums.Right > 0 {
		out = append(out, Finding{
			Severity: Good, Measured: l.tl.Sums.Right.String() + " and " + l.tl.Sums.Left.String(), Limit: "the same on both sides",
			Says: "Right and left get the same", Detail: l.tl.Sums.Right.String() + " of work on each side.",
		})
	}
	return out
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

func odd(l *look, f *Finding, p plan.Path, r *plan.Row, m *movement.Movement) {
	d := r.DoseOf(m)
	if d.Per == dose.Pairs || d.Per == dose.EachSide || len(d.Parts) == 0 || d.Parts[0].Kind != dose.Reps || d.Parts[0].Count%2 == 0 || d.Parts[0].EachWay {
		return
	}
	n := d.Parts[0].Count
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
