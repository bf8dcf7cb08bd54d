package review

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// EasierOffered lists the levels easier than the row's that are said aloud: those it names, or else the next.
func EasierOffered(r *plan.Row, m *movement.Movement) (out []int) {
	level := max(1, r.Level)
	if r.Options == nil {
		if level > 1 {
			return []int{level - 1}
		}
		return nil
	}
	for _, n := range r.Options {
		if n < level && n >= 1 && n <= len(m.Levels) {
			out = append(out, n)
		}
	}
	return out
}

// HarderOffered lists the levels harder than the row's that are said aloud.
func HarderOffered(r *plan.Row, m *movement.Movement) (out []int) {
	level := max(1, r.Level)
	if r.Options == nil {
		if level < len(m.Levels) {
			return []int{level + 1}
		}
		return nil
	}
	for _, n := range r.Options {
		if n > level && n <= len(m.Levels) {
			out = append(out, n)
		}
	}
	return out
}

// noEasierOption: in a mixed class somebody is left without an option.
func noEasierOption(l *look) (out []Finding) {
	if l.s.Audience != string(movement.Mixed) {
		return nil
	}
	l.s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		m, err := r.Of(l.lib)
		if err != nil || m == nil || m.At(r.Level).Demand < l.lim.Easier || len(EasierOffered(r, m)) > 0 {
			return
		}
		level := max(1, r.Level)
		if level == 1 && m.Ease != "" || strings.Contains(strings.ToLower(r.Note), "easier") {
			return
		}
		f := Finding{
			Rule: "options", Severity: Look, Row: p, Amount: m.At(level).Demand, Measured: "nothing easier offered", Limit: fmt.Sprintf("one from demand %.1f", l.lim.Easier), Source: sourceOf("easier"),
			Says: m.Name + " leaves a mixed class without an easier option", Detail: fmt.Sprintf("Demand %.1f.", m.At(level).Demand),
		}
		f.At, _, _ = l.tl.RowSpan(p)
		mend := Mend{ID: "options-" + p.String(), Says: "Say: easier, half the range or a rest", apply: func(s *plan.Session) error {
			r := s.Row(p)
			if r == nil {
				return plan.ErrNoRow
			}
			return s.SetNote(p, strings.TrimSpace(r.Note+" Easier: half the range, or rest."))
		}}
		if level > 1 {
			mend.Says = fmt.Sprintf("Offer level %d: %s", level-1, m.At(level-1).Changes)
			mend.apply = func(s *plan.Session) error {
				r := s.Row(p)
				if r == nil {
					return plan.ErrNoRow
				}
				r.Options = append(slices.Clip(r.Options), level-1)
				return nil
			}
		}
		f.Mends = []Mend{mend}
		out = append(out, f)
	})
	return out
}

// longHold is the hold from which a stretch is meant as a long one: two to five minutes (common practice).
const longHold = 2 * clock.Minute

// stretchHolds: a stretch is held shorter or longer than the published range.
func stretchHolds(l *look) (out []Finding) {
	l.s.Each(func(p plan.Path, b *plan.Block, r *plan.Row) {
		m, err := r.Of(l.lib)
		if err != nil || m == nil || !m.Stretch || m.Inline || b.On > 0 {
			return
		}
		d := r.Dose
		if d.IsZero() {
			d = m.Dose
		}
		if len(d.Parts) != 1 || d.Parts[0].Span == 0 || d.Parts[0].Kind != dose.Hold && d.Parts[0].Kind != dose.Time {
			return
		}
		sp := d.Parts[0].Span
		if sp >= l.lim.HoldLeast && sp <= l.lim.HoldMost || sp >= longHold || r.Right != nil || r.Left != nil {
			return
		}
		to := min(max(30*clock.Second, l.lim.HoldLeast), l.lim.HoldMost)
		f := Finding{
			Rule: "hold", Severity: Look, Row: p, Amount: sp.Seconds(), Measured: sp.Said(), Limit: l.lim.HoldLeast.Said() + " to " + l.lim.HoldMost.Said(), Source: sourceOf("hold_least"),
			Says: fmt.Sprintf("%s held %s", m.Name, sp.Said()), Detail: fmt.Sprintf("Published range %s to %s a hold; long holds from 2 min are meant so.", l.lim.HoldLeast.Said(), l.lim.HoldMost.Said()),
		}
		f.At, _, _ = l.tl.RowSpan(p)
		f.Mends = []Mend{{ID: "hold-" + p.String(), Says: "Hold " + to.Said(), apply: func(s *plan.Session) error {
			nd := d
			nd.Parts = slices.Clone(d.Parts)
			nd.Parts[0].Span = to
			return s.SetDose(p, movement.SidesUnsaid, nd)
		}}}
		out = append(out, f)
	})
	return out
}

// holdWithoutBreath: a long hold with no word on the breath.
func holdWithoutBreath(l *look) (out []Finding) {
	seen := map[plan.Path]bool{}
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if s.Move == nil || seen[s.Row] || s.Breaths > 0 || s.S < l.lim.BreathCue || !s.Kind.Working() || s.Reps > 0 || s.Move.Breath != "" {
			continue
		}
		r := l.s.Row(s.Row)
		if r == nil || strings.Contains(strings.ToLower(r.Note), "breath") {
			continue
		}
		seen[s.Row] = true
		p := s.Row
		out = append(out, Finding{
			Rule: "breath", Severity: Look, Row: p, At: s.At, Amount: s.S.Seconds(), Measured: s.S.String() + " and no word on the breath", Limit: l.lim.BreathCue.String(), Source: sourceOf("breath_cue"),
			Says: "Nothing said on the breath in " + l.name(p), Detail: "The breath is never held on long holds.",
			Mends: []Mend{{ID: "breath-" + p.String(), Says: "Note: slow breath, do not hold it", apply: func(s *plan.Session) error {
				r := s.Row(p)
				if r == nil {
					return plan.ErrNoRow
				}
				return s.SetNote(p, strings.TrimSpace(r.Note+" Slow breath, do not hold it."))
			}}},
		})
	}
	return out
}

// Ratios of time on to time off that suit an audience: beginners as much off as on and a half; nobody less
// than three quarters on. Judgement beside the house limit.
const (
	onOffNewer = 1.5
	onOffLeast = .75
)

// onOffRatio: in a timed circuit the time on and off do not go together for the audience.
func onOffRatio(l *look) (out []Finding) {
	most := l.lim.OnOff
	if l.s.Audience == string(movement.Beginners) {
		most = min(most, onOffNewer)
	}
	for i := range l.s.Sections {
		for j := range l.s.Sections[i].Blocks {
			b := &l.s.Sections[i].Blocks[j]
			if b.On == 0 || b.Off == 0 || len(b.Rows) == 0 {
				continue
			}
			ratio := float64(b.On) / float64(b.Off)
			if ratio <= most+1e-9 && ratio >= onOffLeast-1e-9 {
				continue
			}
			p := plan.Path{Section: i + 1, Block: j + 1, Row: 1}
			five := 5 * clock.Second
			on, off := b.On, b.Off
			if ratio > most {
				off = (clock.Seconds(b.On.Seconds()/most) + five - 1) / five * five
			} else {
				on = (clock.Seconds(b.Off.Seconds()*1) + five - 1) / five * five
			}
			f := Finding{
				Rule: "on-off", Severity: Look, Row: p, Amount: max(ratio, 1/ratio), Measured: fmt.Sprintf("%s on, %s off", b.On.Said(), b.Off.Said()), Limit: fmt.Sprintf("%.2g to %.2g on for one off", onOffLeast, most), Source: sourceOf("on_off"),
				Says: fmt.Sprintf("%s on and %s off do not go together here", b.On.Said(), b.Off.Said()), Detail: "The rest is where the next move is shown.",
			}
			f.At, _, _ = l.tl.RowSpan(p)
			f.Mends = []Mend{{ID: "on-off-" + p.String(), Says: fmt.Sprintf("Make it %s on and %s off", on.Said(), off.Said()), apply: func(s *plan.Session) error {
				blk := s.Block(p)
				if blk == nil {
					return plan.ErrNoRow
				}
				blk.On, blk.Off = on, off
				return l.soothe(s)
			}}}
			out = append(out, f)
		}
	}
	return out
}
