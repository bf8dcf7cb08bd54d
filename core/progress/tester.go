package progress

import (
	"fmt"
	"slices"
	"time"

	"wavekine/core/brief"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// TestsOf are the movements that a series measures on some of its days: those that its brief names.
func TestsOf(lib *movement.Library, s *plan.Series) []brief.Test {
	if s.Brief == "" {
		return nil
	}
	b, err := lay.BriefOf(lib, s)
	if err != nil {
		return nil
	}
	return b.Tests
}

// Bounds of the ratio of right over left within which two sides count as alike (McGill 1999, for holds of the trunk).
const (
	LeastRatio = .95
	MostRatio  = 1.05
)

// Measured is what was measured of a movement on one day.
type Measured struct {
	Day               int
	Date              time.Time
	Unit              string
	Both, Right, Left int // -1: not measured
	Ratio             float64
	Apart             bool // outside what counts as alike: worth a look
}

// Says is it in words: "right 42 s, left 38 s, ratio 1.11".
func (m Measured) Says() string {
	of := func(n int) string {
		switch m.Unit {
		case "seconds":
			return fmt.Sprintf("%d s", n)
		case "repetitions":
			return fmt.Sprintf("%d", n)
		case "reach":
			return reaches[min(max(n, 1), len(reaches))-1]
		}
		return fmt.Sprintf("level %d", n)
	}
	out := ""
	if m.Both >= 0 {
		out = of(m.Both)
	}
	if m.Right >= 0 {
		out += "right " + of(m.Right)
	}
	if m.Left >= 0 {
		if m.Right >= 0 {
			out += ", "
		}
		out += "left " + of(m.Left)
	}
	if m.Ratio > 0 {
		out += fmt.Sprintf(", ratio %.2f", m.Ratio)
	}
	return out
}

// Measures lists what was measured of one movement in check-ins, by day. dates gives a day its date.
func Measures(slug string, said map[int]*CheckIn, dates map[int]time.Time) (out []Measured) {
	for day, c := range said {
		m := Measured{Day: day, Date: dates[day], Both: -1, Right: -1, Left: -1}
		any := false
		for _, t := range c.Tests {
			if t.Movement != slug {
				continue
			}
			any, m.Unit = true, t.Unit
			switch t.Side {
			case "right":
				m.Right = t.Amount
			case "left":
				m.Left = t.Amount
			default:
				m.Both = t.Amount
			}
		}
		if !any {
			continue
		}
		if m.Right >= 0 && m.Left > 0 && (m.Unit == "seconds" || m.Unit == "repetitions") {
			m.Ratio = float64(m.Right) / float64(m.Left)
			m.Apart = m.Ratio < LeastRatio-1e-9 || m.Ratio > MostRatio+1e-9
		}
		out = append(out, m)
	}
	slices.SortFunc(out, func(a, b Measured) int { return a.Day - b.Day })
	return out
}
