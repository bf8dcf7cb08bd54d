package review

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/plan"
)

// onOffLimit is the most time on for one of time off.
var onOffLimit = Limit{"on_off", "Time on for one of time off", "to 1", 3, 1, 10, practice}

// Ratios of time on to time off that suit an audience: beginners as much off as on and a half; nobody less
// than three quarters on. Judgement beside the house limit.
const (
	onOffNewer = 1.5
	onOffLeast = .75
)

// onOffRule: in a timed circuit the time on and off do not go together for the audience.
var onOffRule = &Rule{
	Name: "on-off", Looks: "in a timed circuit time on and off do not go together for the audience: 0.75 at least, beginners and older people 1.5 at most", Limits: []Limit{onOffLimit},
	Mends: "other times",
	find:  findOnOff,
}

// onOffMost is the most time on for one of time off that suits the audience.
func (l *look) onOffMost() float64 {
	if l.s.Audience.Has(newToIt) {
		return min(l.num(onOffLimit), onOffNewer)
	}
	return l.num(onOffLimit)
}

func findOnOff(l *look, _ *Rule) (out []Finding) {
	most := l.onOffMost()
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
				Severity: Look, Row: p, Amount: max(ratio, 1/ratio), Measured: fmt.Sprintf("%s on, %s off", b.On.Said(), b.Off.Said()), Limit: fmt.Sprintf("%.2g to %.2g on for one off", onOffLeast, most),
				Says: fmt.Sprintf("%s on and %s off do not go together here", b.On.Said(), b.Off.Said()), Detail: "The rest is where the next move is shown.",
			}
			f.At, _, _ = l.tl.RowSpan(p)
			f.Mends = []Mend{{ID: "on-off-" + p.String(), Says: fmt.Sprintf("Make it %s on and %s off", on.Said(), off.Said()), apply: func(s *plan.Session) error {
				blk := s.Block(p)
				if blk == nil {
					return plan.ErrNoRow
				}
				blk.On, blk.Off = on, off
				return nil
			}}}
			out = append(out, f)
		}
	}
	return out
}
