package lay

import (
	"math"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/ladder"
	"wavekine/core/movement"
)

// countedIn says the rungs of a movement in breaths, seconds or repetitions. What has no such count, a stillness in repetitions, stays as it is said.
// Rungs that come to the same are one.
func countedIn(lib *movement.Library, m *movement.Movement, l ladder.Ladder, count string) ladder.Ladder {
	out := ladder.Ladder{Movement: l.Movement}
	for _, r := range l.Rungs {
		d := countDose(lib, m, r.Level, r.Dose, count)
		n := ladder.RungOf(lib, m, r.Level, d)
		n.Lever, n.Large = r.Lever, r.Large
		if k := len(out.Rungs); k > 0 && out.Rungs[k-1].Level == n.Level {
			if out.Rungs[k-1].Dose.Equal(n.Dose) {
				continue
			}
			if _, unit, _ := movement.Amount(n.Dose); n.Lever != ladder.ByLevel {
				n.Lever = leverOf(unit)
			}
		}
		out.Rungs = append(out.Rungs, n)
	}
	return out
}

func leverOf(u movement.Unit) ladder.Lever {
	switch u {
	case movement.CountBreaths:
		return ladder.Breaths
	case movement.CountSeconds:
		return ladder.Holding
	}
	return ladder.Repetitions
}

// countDose says a dose in another count, of about the same length; as it is where that cannot be said.
func countDose(lib *movement.Library, m *movement.Movement, level int, d dose.Dose, count string) dose.Dose {
	if d.IsZero() {
		return d
	}
	out := d
	out.Parts = slices.Clone(d.Parts)
	p := &out.Parts[0]
	one := func(kind dose.Kind) float64 { // seconds of one, on both sides where there are two
		return ladder.Seconds(lib, m, level, dose.Dose{Parts: []dose.Part{{Kind: kind, Count: 1}}, Per: perOf(d)}).Seconds()
	}
	whole := func(v float64, step int) int { return max(1, int(math.Round(v/float64(step)))) * step }
	seconds := ladder.Seconds(lib, m, level, dose.Dose{Parts: d.Parts[:1], Per: d.Per}).Seconds()
	sides := 1.
	if m.As(level).Sides == movement.Each && d.Per != dose.Alternating && d.Per != dose.Pairs {
		sides = 2
	}
	switch breath := one(dose.Breaths); count {
	case "breaths":
		switch {
		case p.Kind == dose.Reps && !p.EachWay && !p.Halves:
			_, over := m.PhasesOf(level)
			out.Parts[0] = dose.Part{Kind: dose.Breaths, Count: max(1, (p.Count+over-1)/over)}
		case p.Kind == dose.Hold && p.Span > 0 && breath > 0:
			p.Count, p.Span = whole(seconds/breath, 1), 0
		case p.Kind == dose.Time && p.Off == 0 && breath > 0:
			out.Parts[0] = dose.Part{Kind: dose.Breaths, Count: whole(seconds/breath, 1)}
		}
	case "seconds":
		span := clock.Seconds(float64(whole(seconds/sides, 5)))
		switch {
		case p.Kind == dose.Reps && !p.EachWay && !p.Halves && d.Per != dose.Alternating && d.Per != dose.Pairs, p.Kind == dose.Breaths:
			out.Parts[0] = dose.Part{Kind: dose.Time, Span: span}
		case p.Kind == dose.Hold && p.Count > 0:
			p.Count, p.Span = 0, span
		}
	case "repetitions":
		if rep := one(dose.Reps); rep > 0 && (p.Kind == dose.Breaths || p.Kind == dose.Time && p.Off == 0) && !m.Stretch && !m.Rest && m.Pattern != "breathe" && m.Pattern != "rest" {
			out.Parts[0] = dose.Part{Kind: dose.Reps, Count: whole(seconds/rep, 1)}
		}
	}
	if !out.Sayable() || ladder.Seconds(lib, m, level, out) == 0 {
		return d
	}
	return out
}

func perOf(d dose.Dose) dose.Per {
	if d.Per == dose.EachSide {
		return dose.EachSide
	}
	return dose.Unsaid
}
