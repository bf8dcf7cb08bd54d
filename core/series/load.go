package series

import "math"

// Monotony of days' loads: their mean over their standard deviation, rest days counting as 0 (Foster 1998). Where all days are
// alike the deviation is 0 and the monotony +Inf; without load it is 0. The deviation is that of a sample.
func Monotony(loads []float64) float64 {
	n := float64(len(loads))
	if n < 2 {
		return 0
	}
	sum := 0.0
	for _, l := range loads {
		sum += l
	}
	mean, dev := sum/n, 0.0
	for _, l := range loads {
		dev += (l - mean) * (l - mean)
	}
	switch dev = math.Sqrt(dev / (n - 1)); {
	case mean == 0:
		return 0
	case dev < 1e-9:
		return math.Inf(1)
	default:
		return mean / dev
	}
}

// Strain of a week: its load times its monotony (Foster 1998).
func Strain(loads []float64) float64 {
	sum := 0.0
	for _, l := range loads {
		sum += l
	}
	if sum == 0 {
		return 0
	}
	return sum * Monotony(loads)
}

// Acute and Chronic are the days over which the averages of Averages look back (usual for acute and chronic load; values
// from memory).
const (
	Acute   = 7
	Chronic = 28
)

// Average is the exponentially weighted moving average of days' loads over n days, one for each day: today's load has the weight 2/(n+1),
// and the first day stands for all before it (Williams et al. 2017; from memory).
func Average(loads []float64, n int) []float64 {
	out := make([]float64, len(loads))
	weight := 2 / float64(n+1)
	for i, l := range loads {
		if i == 0 {
			out[i] = l
			continue
		}
		out[i] = weight*l + (1-weight)*out[i-1]
	}
	return out
}

// Weeks sums loads by weeks of seven days from the first; the last may be shorter.
func Weeks(loads []float64) (out []float64) {
	for i, l := range loads {
		if i%7 == 0 {
			out = append(out, 0)
		}
		out[i/7] += l
	}
	return out
}
