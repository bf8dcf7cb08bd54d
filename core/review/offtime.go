package review

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// offTimeRule: in a timed circuit the next position cannot be reached within the off time.
var offTimeRule = &Rule{
	Name: "off-time", Looks: "in a timed circuit the next position is further than the off time reaches", Fixed: "15 s to three steps of the posture graph, 27 s beyond", Source: practice,
	Mends: "make the off time long enough",
	find:  findOffTime,
}

// A change of position of up to three steps of the posture graph fits into 15 s of off time, a
// longer way needs 27 s (common practice, no source: 15 to 27 s).
const (
	offShort = 15 * clock.Second
	offLong  = 27 * clock.Second
	offSteps = 3
)

func findOffTime(l *look, _ *Rule) (out []Finding) {
	for i := range l.s.Sections {
		for j := range l.s.Sections[i].Blocks {
			b := &l.s.Sections[i].Blocks[j]
			if b.On == 0 {
				continue
			}
			at := plan.Path{Section: i + 1, Block: j + 1}
			need, where := clock.Span(0), plan.Path{}
			from := movement.NoPosture
			for range min(b.Rounds, 2) { // from the last row to the first as well
				for k := range b.Rows {
					m, err := b.Rows[k].Of(l.lib)
					if err != nil || m == nil {
						from = movement.NoPosture // a rest row of its own gives the time
						continue
					}
					n := clock.Span(0)
					switch steps := from.WayTo(m.Posture).Steps; {
					case steps > offSteps:
						n = offLong
					case steps > 0:
						n = offShort
					}
					if n > need {
						at.Row = k + 1
						need, where = n, at
					}
					from = m.Posture
				}
			}
			if need <= b.Off {
				continue
			}
			f := Finding{
				Severity: Look, Row: where, Amount: (need - b.Off).Seconds(), Measured: b.Off.Said(), Limit: need.Said(),
				Says:   fmt.Sprintf("%s off is too short to reach %s", b.Off.Said(), l.name(where)),
				Detail: fmt.Sprintf("Getting there takes about %s. The rest is where the next move is shown.", need.Said()),
			}
			f.At, _, _ = l.tl.RowSpan(where)
			f.Mends = []Mend{{ID: "off-time-" + where.String(), Says: "Make it " + need.Said() + " off", apply: func(s *plan.Session) error {
				blk := s.Block(where)
				if blk == nil {
					return plan.ErrNoRow
				}
				blk.Off = need
				return nil
			}}}
			out = append(out, f)
		}
	}
	return out
}
