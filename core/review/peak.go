package review

import (
	"fmt"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/plan"
)

// Where the hardest part belongs: not before this share of the class, and with some work after it; only in
// classes of this length. Judgement.
const (
	peakFromShare = .25
	peakMinTotal  = 8 * clock.Minute
	peakAfter     = 90 * clock.Second // of stretches and quiet work are enough after it,
	peakAfterPart = 8                 // and an eighth of the class
)

// peakRule: the hardest part comes too early, or is the last thing before the end.
var peakRule = &Rule{
	Name: "peak", Looks: "the hardest part comes before a quarter of the class, or too little follows it; in classes of 8 min and more, unless the school ends with a finisher",
	Fixed: "after a quarter, with some work after it", Source: judged, Mends: "bring it later; something easier after it; call it a finisher", Yields: []string{"early", "settle"},
	find: findPeak,
}

// after is how long work goes on after the last of a row.
func (l *look) after(p plan.Path) (sum clock.Span) {
	for i := len(l.tl.Steps) - 1; i >= 0; i-- {
		s := &l.tl.Steps[i]
		if s.Row == p {
			break
		}
		if s.Kind.Working() {
			sum += s.S
		}
	}
	return sum
}

func findPeak(l *look, r *Rule) []Finding {
	if l.tl.Total < peakMinTotal {
		return nil
	}
	peak, last := -1, -1
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() {
			continue
		}
		if peak < 0 || s.Effort > l.tl.Steps[peak].Effort+.05 {
			peak = i
		}
		if s.Effort > l.num(quietLimit) {
			last = i
		}
	}
	if peak < 0 || l.tl.Steps[peak].Effort < l.num(hardLimit) {
		return nil
	}
	s := &l.tl.Steps[peak]
	from := l.tl.Total.Times(peakFromShare)
	switch {
	case s.Row == l.tl.Steps[last].Row:
		if l.s.Style.Peak == plan.PeakAtEnd || l.after(s.Row) >= max(peakAfter, l.tl.Total/peakAfterPart) {
			return nil // a finisher, or it is followed by counter-stretches long enough
		}
		f := Finding{
			Severity: Look, Row: s.Row, At: s.At, Amount: s.Effort, Measured: fmt.Sprintf("effort %.1f at %s", s.Effort, s.At), Limit: "some work after it",
			Says: "The hardest part is the last", Detail: fmt.Sprintf("%s is the peak and nothing but settling follows it.", l.name(s.Row)),
		}
		slugs := []string{"bridge", "cat-cow", "bird-dog"}
		if l.standsUp() {
			slugs = []string{"hip-hinge", "squat", "march"}
		}
		finish := Mend{ID: "peak-finisher", Says: "It is a finisher in this class", apply: func(s *plan.Session) error {
			s.Style.Peak = plan.PeakAtEnd
			return nil
		}}
		f.Mends = []Mend{{ID: "peak-after", Says: "Add something easier after it", apply: func(s *plan.Session) error {
			at := f.Row
			for _, slug := range slugs {
				add, _, ok := l.row(slug, 0)
				if !ok {
					continue
				}
				if err := behind(s, at, add); err != nil {
					return err
				}
				if err := l.soothe(s); err != nil {
					return err
				}
				fs := l.again(s, r)
				if len(fs) == 0 {
					return nil
				}
				at = fs[0].Row
			}
			return fmt.Errorf("nothing easier in the library makes a difference")
		}}, finish}
		return []Finding{f}
	case s.End() < from:
		return l.peakEarly(r, s.Row, s.At, s.Effort, from)
	}
	return nil
}

// peakEarly: the mend moves the piece later in its section where that helps, else it puts easier work in front.
func (l *look) peakEarly(rule *Rule, p plan.Path, at clock.Span, effort float64, from clock.Span) []Finding {
	f := Finding{
		Severity: Look, Row: p, At: at, Amount: effort, Measured: fmt.Sprintf("effort %.1f at %s", effort, at), Limit: fmt.Sprintf("not before %s", from),
		Says: "The hardest part comes early", Detail: fmt.Sprintf("%s is the peak, a quarter of the class has not gone by.", l.name(p)),
	}
	f.Mends = []Mend{{ID: "peak-later", Says: "Bring it later", apply: func(s *plan.Session) error {
		for _, to := range laterPlaces(s, p) {
			c := s.Clone()
			if to(c) == nil && l.soothe(c) == nil && len(l.again(c, rule)) == 0 {
				*s = *c
				return nil
			}
		}
		for _, slug := range slices.Concat(warmers, warmers) {
			r, _, ok := l.row(slug, 0)
			if !ok {
				continue
			}
			if err := inFront(s, plan.Path{Section: 1, Block: 1, Row: 1}, r); err != nil {
				return err
			}
			if len(l.again(s, rule)) == 0 {
				return nil
			}
		}
		return fmt.Errorf("%s cannot be brought late enough", l.name(p))
	}}}
	return []Finding{f}
}

// laterPlaces are the ways of moving the piece that holds a row later in its section, the latest first.
func laterPlaces(s *plan.Session, p plan.Path) (out []func(*plan.Session) error) {
	sec := &s.Sections[p.Section-1]
	b := sec.Blocks[p.Block-1]
	if b.Rule == plan.Straight {
		for to := len(b.Rows) + 1; to > p.Row+1; to-- {
			out = append(out, func(s *plan.Session) error {
				_, err := s.Move([]plan.Path{p}, plan.Path{Section: p.Section, Block: p.Block, Row: to})
				return err
			})
		}
	}
	for to := len(sec.Blocks); to > p.Block; to-- {
		out = append(out, func(s *plan.Session) error {
			b := s.Sections[p.Section-1].Blocks
			x := b[p.Block-1]
			copy(b[p.Block-1:to-1], b[p.Block:to])
			b[to-1] = x
			return nil
		})
	}
	return out
}
