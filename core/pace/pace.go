// Package pace learns a teacher's own pace from the classes they led: seconds for each movement, what talk
// and changes cost, and how the whole compares with the plan. It only proposes; the teacher accepts.
package pace

import (
	"math"
	"slices"
)

// Led is one movement's work in one run: what the plan said and what was taken, in seconds for the same
// number of repetitions.
type Led struct {
	Run            string
	Movement       string  // its slug
	Planned, Taken float64 // seconds
}

// Whole is one run as a whole.
type Whole struct {
	Run                    string
	Planned, Taken         float64 // seconds
	TalkPlanned, TalkTaken float64 // setting up, changing position and side
}

// Learnt is what was learnt for one movement.
type Learnt struct {
	Movement string
	Runs     int
	Ratio    float64 // median of taken over planned
	Factor   float64 // proposed, shrunk towards 1 by the number of runs
	Enough   bool    // enough runs to propose anything
}

// The least number of runs from which something is proposed, how strongly the plan's own number holds (as
// so many runs), and ratios beyond which a run was interrupted rather than slow. Judgement.
const (
	LeastRuns = 3
	prior     = 4.0
	ratioLow  = .4
	ratioHigh = 2.5
)

func median(v []float64) float64 {
	slices.Sort(v)
	n := len(v)
	if n == 0 {
		return 1
	}
	if n%2 == 1 {
		return v[n/2]
	}
	return (v[n/2-1] + v[n/2]) / 2
}

// shrink draws a ratio towards 1 by the number of observations behind it.
func shrink(ratio float64, n int) float64 {
	return math.Exp(math.Log(ratio) * float64(n) / (float64(n) + prior))
}

func sane(planned, taken float64) (float64, bool) {
	if planned < 3 || taken <= 0 {
		return 0, false
	}
	r := taken / planned
	return r, r >= ratioLow && r <= ratioHigh
}

// Movements learns from runs, one observation a run and movement, in order of slug.
func Movements(led []Led) (out []Learnt) {
	type sum struct{ planned, taken float64 }
	per := map[string]map[string]*sum{}
	for _, l := range led {
		if per[l.Movement] == nil {
			per[l.Movement] = map[string]*sum{}
		}
		s := per[l.Movement][l.Run]
		if s == nil {
			s = &sum{}
			per[l.Movement][l.Run] = s
		}
		s.planned += l.Planned
		s.taken += l.Taken
	}
	for slug, runs := range per {
		var ratios []float64
		for _, s := range runs {
			if r, ok := sane(s.planned, s.taken); ok {
				ratios = append(ratios, r)
			}
		}
		if len(ratios) == 0 {
			continue
		}
		l := Learnt{Movement: slug, Runs: len(ratios), Ratio: median(ratios), Enough: len(ratios) >= LeastRuns, Factor: 1}
		if l.Enough {
			l.Factor = shrink(l.Ratio, l.Runs)
		}
		out = append(out, l)
	}
	slices.SortFunc(out, func(a, b Learnt) int {
		if a.Movement < b.Movement {
			return -1
		}
		return 1
	})
	return out
}

// Talk learns how talk and changes compare with the plan. Where there are too few runs for that it takes
// the square root of the whole's ratio: the full ratio overcorrects (common practice, no source).
func Talk(runs []Whole) Learnt {
	var talk, whole []float64
	for _, r := range runs {
		if v, ok := sane(r.TalkPlanned, r.TalkTaken); ok {
			talk = append(talk, v)
		}
		if v, ok := sane(r.Planned, r.Taken); ok {
			whole = append(whole, v)
		}
	}
	l := Learnt{Movement: "", Runs: len(talk), Ratio: median(talk), Factor: 1}
	switch {
	case len(talk) >= LeastRuns:
		l.Factor, l.Enough = shrink(l.Ratio, l.Runs), true
	case len(whole) >= 1:
		l.Runs, l.Ratio = len(whole), median(whole)
		l.Factor = math.Sqrt(l.Ratio)
	}
	return l
}
