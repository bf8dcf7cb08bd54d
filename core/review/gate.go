package review

import (
	"slices"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// A mend may add a few rows, blocks and a section, and may halve or double a dose. Only where a document stands
// that near to what it can hold are its mends tried through the gate before they are offered, the gravest first:
// it costs as much as making each of them, so that only so many are tried, and only those are offered. Judgement.
const (
	growsRows     = 20
	growsBlocks   = 20 // a rest put into a chain makes two more
	growsSections = 3  // a warm-up in front, a settling at the end
	growsDose     = 3
	mostTried     = 12
)

// nearLimits tells whether a mend might make a document that cannot be stored.
func nearLimits(s *plan.Session) bool {
	rows, blocks, sections := s.Room()
	return rows < growsRows || blocks < growsBlocks || sections < growsSections || s.LeastDose() < growsDose*clock.Second/2 || s.MostDose() > 1./growsDose
}

// dropRefused takes away the mends whose outcome could not be stored. The findings come gravest first.
func dropRefused(fs []Finding, s *plan.Session, lib *movement.Library) {
	tried := 0
	for i := range fs {
		fs[i].Mends = slices.DeleteFunc(fs[i].Mends, func(m Mend) bool {
			if tried++; tried > mostTried {
				return true
			}
			_, err := plan.Apply(s, lib, m)
			return err != nil
		})
	}
}
