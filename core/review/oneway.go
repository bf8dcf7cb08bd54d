package review

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// oneWayRule: what goes two ways is counted in one direction only, the commonest slip beside unequal sides. Movements whose
// usual dose is each way go two ways: circles, and corkscrew and hip twist with them.
var oneWayRule = &Rule{
	Name: "one-way", Looks: "what goes two ways, as circles do, is counted in one direction only", Fixed: "each way", Source: practice, Mends: "half each way; all of it each way",
	find: findOneWay,
}

// otherWay are words by which a row or its note says that it goes the other way.
var otherWay = regexp.MustCompile(`(?i)\b(?:revers\w*|other way|other direction|both ways|both directions|each way|each direction|back the other|way back|change direction|half back)\b`)

// goesTwoWays tells whether a movement is done in two directions that are counted each.
func goesTwoWays(m *movement.Movement) bool {
	if m.Inline || m.Own && m.Dose.IsZero() {
		return strings.Contains(strings.ToLower(m.Name), "circle")
	}
	return eachWay(m.Dose)
}

func eachWay(d dose.Dose) bool {
	return slices.ContainsFunc(d.Parts, func(p dose.Part) bool { return p.EachWay || p.Other > 0 || p.Halves })
}

// oneWayOnly tells whether a dose counts one direction: neither each way nor as two equal parts, there and back.
func oneWayOnly(d dose.Dose) bool {
	if len(d.Parts) == 0 || eachWay(d) || d.Sets == 2 {
		return false
	}
	first := d.Parts[0]
	if first.Kind != dose.Reps && first.Kind != dose.Pulses {
		return false
	}
	return !slices.ContainsFunc(d.Parts[1:], func(p dose.Part) bool { return p.Kind == first.Kind && p.Count == first.Count })
}

func findOneWay(l *look, _ *Rule) (out []Finding) {
	type row struct {
		at plan.Path
		r  *plan.Row
		m  *movement.Movement
	}
	var open []row
	l.moves(func(p plan.Path, b *plan.Block, r *plan.Row, m *movement.Movement) {
		if r.IsRest() || b.On > 0 || otherWay.MatchString(r.Note) {
			return
		}
		if !goesTwoWays(m) || b.Rule == plan.Rounds && b.Rounds == 2 {
			return
		}
		right, _ := r.OnSide(m, r.Right)
		left, _ := r.OnSide(m, r.Left)
		if !oneWayOnly(right) && !oneWayOnly(left) {
			return
		}
		// the same again is the way back
		i := slices.IndexFunc(open, func(o row) bool {
			return o.at.Section == p.Section && o.r.Name() == r.Name() && o.r.Dose.Equal(r.Dose) && o.r.Sides == r.Sides && max(1, o.r.Level) == max(1, r.Level)
		})
		if i >= 0 {
			open = slices.Delete(open, i, i+1)
			return
		}
		open = append(open, row{p, r, m})
	})
	for _, o := range open {
		p, d := o.at, o.r.DoseOf(o.m)
		f := Finding{
			Severity: Look, Amount: 1, Row: p, Measured: d.String(), Limit: "each way",
			Says: o.m.Name + " goes one way only", Detail: fmt.Sprintf("%s: the other direction is forgotten.", d),
		}
		f.At, _, _ = l.tl.RowSpan(p)
		n := 1
		if len(d.Parts) > 0 {
			n = d.Parts[0].Count
		}
		sided := o.r.Right != nil || o.r.Left != nil
		each := func(says string, share int) Mend {
			return Mend{ID: fmt.Sprintf("one-way-%d-%s", max(1, n/share), p), Says: says, apply: func(s *plan.Session) error {
				return changeDoses(s, l.lib, p, func(d dose.Dose) dose.Dose {
					if !oneWayOnly(d) {
						return d
					}
					d.Parts = slices.Clone(d.Parts)
					d.Parts[0].Count, d.Parts[0].EachWay = max(1, d.Parts[0].Count/share), true
					return d
				})
			}}
		}
		if sided {
			f.Mends = []Mend{each("Half of it each way", 2)} // all of it would set the sides further apart
			out = append(out, f)
			continue
		}
		f.Mends = []Mend{each(fmt.Sprintf("Make it %d each way", max(1, n/2)), 2)}
		if n > 1 {
			f.Mends = append(f.Mends, each(fmt.Sprintf("Make it %d each way", n), 1))
		}
		out = append(out, f)
	}
	return out
}
