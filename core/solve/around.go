package solve

import (
	"math"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Part is what a class is by its rows: which part of a longer class it would be, what it works and what it needs.
type Part struct {
	Title   string
	Where   float64 // the mean place of its work in the arc of a class: 0 to arrive, 1 to mobilise, 2 to build, 3 to settle
	Regions map[string]float64
	Kit     []string
	Total   clock.Span
	session *plan.Session
}

// Session is the class that it is.
func (p Part) Session() *plan.Session { return p.session }

// PartOf is what a class is; ok is false where nothing is worked in it.
func PartOf(s *plan.Session, lib *movement.Library) (p Part, ok bool) {
	tl, err := timeline.Build(s, lib)
	if err != nil {
		return p, false
	}
	p = Part{Title: s.Title, Regions: map[string]float64{}, Total: tl.Total, session: s}
	secs := 0.0
	for i := range tl.Steps {
		st := &tl.Steps[i]
		if !st.Kind.Working() || st.Move == nil {
			continue
		}
		for r, w := range st.Move.Regions {
			p.Regions[r] += w * st.S.Seconds()
		}
		if at := st.Move.PhasePlace(); at >= 0 {
			p.Where += float64(at) * st.S.Seconds()
			secs += st.S.Seconds()
		}
	}
	if secs > 0 {
		p.Where /= secs
	}
	for _, k := range tl.KitOf() {
		if !k.Optional {
			p.Kit = append(p.Kit, k.Name)
		}
	}
	return p, secs > 0
}

// Around is a class that goes before or after another.
type Around struct {
	Part
	Shares []string   // the regions that both work most
	Joint  clock.Span // both as one class
	fits   float64
}

// How far apart in the arc classes are to go one before the other, and how many are named; judgement.
const (
	apartInArc = .3
	mostAround = 4
)

// GoesWith finds classes that go before and after one: earlier or later in the arc of a class, on the same regions, with no kit that the other has not. The best
// come first. Lengths are those of both worked out as one class: what is met in the first is known in the second.
func GoesWith(s *plan.Session, others []*plan.Session, lib *movement.Library) (before, after []Around) {
	this, ok := PartOf(s, lib)
	if !ok {
		return nil, nil
	}
	for _, o := range others {
		p, ok := PartOf(o, lib)
		if !ok || strings.EqualFold(o.Title, s.Title) {
			continue
		}
		a := Around{Part: p, fits: alike(this.Regions, p.Regions)}
		for _, k := range p.Kit {
			if !slices.Contains(this.Kit, k) {
				a.fits -= .3 // one more thing to fetch; judgement
			}
		}
		if a.fits <= 0 {
			continue
		}
		a.Shares = shared(this.Regions, p.Regions)
		switch d := p.Where - this.Where; {
		case d < -apartInArc:
			before = append(before, a)
		case d > apartInArc:
			after = append(after, a)
		}
	}
	best := func(list []Around, first bool) []Around {
		slices.SortStableFunc(list, func(a, b Around) int { return int(math.Copysign(1, b.fits-a.fits)) })
		list = list[:min(len(list), mostAround)]
		for i := range list {
			one, two := list[i].session, s
			if !first {
				one, two = s, list[i].session
			}
			joint := one.Clone()
			joint.Sections = append(joint.Sections, two.Clone().Sections...)
			if tl, err := timeline.Build(joint, lib); err == nil {
				list[i].Joint = tl.Total
			}
		}
		return list
	}
	return best(before, true), best(after, false)
}

// alike is how much two classes work the same: the cosine between what they work, from 0 to 1.
func alike(a, b map[string]float64) float64 {
	dot, x, y := 0.0, 0.0, 0.0
	for r, w := range a {
		dot += w * b[r]
		x += w * w
	}
	for _, w := range b {
		y += w * w
	}
	if x == 0 || y == 0 {
		return 0
	}
	return dot / math.Sqrt(x*y)
}

// shared are the two regions that both work most.
func shared(a, b map[string]float64) []string {
	var out []string
	for _, r := range movement.Regions() {
		if a[r] > 0 && b[r] > 0 {
			out = append(out, r)
		}
	}
	slices.SortStableFunc(out, func(x, y string) int {
		return int(math.Copysign(1, math.Sqrt(a[y]*b[y])-math.Sqrt(a[x]*b[x])))
	})
	return out[:min(2, len(out))]
}
