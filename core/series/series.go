// Package series computes over the days of a series: load, and the shape that was asked for.
package series

import (
	"math"

	"wavekine/core/timeline"
)

// Load is effort x minutes of a session: the sum over its working steps (session-RPE load after
// Foster 1998, with planned effort in place of the felt one).
func Load(tl *timeline.Timeline) float64 {
	sum := 0.0
	for i := range tl.Steps {
		s := &tl.Steps[i]
		sum += s.Effort * s.S.Seconds() / 60
	}
	return sum
}

// Target gives the load that a shape asks for on each day, scaled so that the days that have a
// session sum to the same load as planned. Rest and empty days get 0. Without a shape it is nil.
// The proportions of the shapes are judgement.
func Target(shape string, loads []float64) []float64 {
	var on []int
	sum := 0.0
	for i, l := range loads {
		if l > 0 {
			on = append(on, i)
			sum += l
		}
	}
	n := len(on)
	if shape == "" || n == 0 {
		return nil
	}
	out := make([]float64, len(loads))
	weights, total := make([]float64, n), 0.0
	for k := range on {
		weights[k] = weight(shape, k, n)
		total += weights[k]
	}
	for k, i := range on {
		out[i] = sum * weights[k] / total
	}
	return out
}

// weight is the relative load of training day k of n.
func weight(shape string, k, n int) float64 {
	pos := 0.0
	if n > 1 {
		pos = float64(k) / float64(n-1)
	}
	switch shape {
	case "ramp": // gradually harder, a peak on the last day but one, a soft last day
		if k == n-1 && n > 1 {
			return .5
		}
		return 1 + 1.2*float64(k)/math.Max(1, float64(n-2))
	case "same growing":
		return 1 + .6*pos
	case "hard-easy": // three up, one down
		if k%4 == 3 {
			return .7
		}
		return 1 + .15*float64(k%4) + .3*pos
	case "themes": // a little more every week of seven
		return 1 + .15*float64(k/7)
	}
	return 1 // different every day at the same dose; two long holds
}
