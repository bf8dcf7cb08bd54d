package plan

import (
	"math"

	"wavekine/core/clock"
	"wavekine/core/dose"
)

// Room is how many more rows a session can take, blocks the fullest of its sections, and sections.
func (s *Session) Room() (rows, blocks, sections int) {
	rows, blocks, sections = maxRows, maxBlocks, maxSections-len(s.Sections)
	for i := range s.Sections {
		bs := s.Sections[i].Blocks
		blocks = min(blocks, maxBlocks-len(bs))
		for j := range bs {
			rows -= len(bs[j].Rows)
		}
	}
	return rows, blocks, sections
}

// eachDose visits every dose that is said in a session.
func (s *Session) eachDose(visit func(d *dose.Dose)) {
	s.Each(func(_ Path, _ *Block, r *Row) {
		visit(&r.Dose)
		for _, o := range []*Override{r.Right, r.Left} {
			if o != nil {
				visit(&o.Dose)
			}
		}
	})
}

// LeastDose is the shortest time that a dose of the session says; very long where none does.
func (s *Session) LeastDose() clock.Span {
	least := clock.Span(math.MaxInt64)
	s.eachDose(func(d *dose.Dose) {
		for _, p := range d.Parts {
			if p.Span > 0 {
				least = min(least, p.Span)
			}
		}
	})
	return least
}

// MostDose is the greatest part of what a dose may count that one of the session does: 1 is all of it.
func (s *Session) MostDose() float64 {
	most := 0.0
	s.eachDose(func(d *dose.Dose) {
		for _, p := range d.Parts {
			of := dose.MaxReps
			if p.Kind == dose.Breaths || p.Kind == dose.Hold {
				of = dose.MaxBreaths
			}
			most = max(most, float64(p.Count)/float64(of), float64(p.Span)/float64(dose.MaxSpan))
		}
	})
	return most
}
