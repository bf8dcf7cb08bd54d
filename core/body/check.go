package body

import (
	"fmt"
	"math"
)

// span is a joint's range in degrees.
type span struct{ lo, hi float64 }

// Joint ranges, in side view and in front view, where a body bends as far to one side as to the other.
var (
	rangeSide = map[string]span{
		"lum": {-25, 30}, "lt": {-25, 30}, "ut": {-25, 30}, "neck": {-30, 30}, "head": {-30, 25}, "turn": {-60, 60},
		"hip": {-45, 140}, "knee": {0, 170}, "ankle": {-90, 30}, "toe": {-10, 90}, "sho": {-65, 200}, "elb": {0, 150}, "wri": {-90, 90},
	}
	rangeFront = map[string]span{
		"lum": {-20, 20}, "lt": {-20, 20}, "ut": {-20, 20}, "neck": {-20, 20}, "head": {-15, 15}, "turn": {-60, 60},
		"hip": {-65, 90}, "knee": {-170, 170}, "ankle": {-90, 30}, "toe": {-10, 90}, "sho": {-35, 180}, "elb": {-150, 150}, "wri": {-90, 90},
	}
)

// Complaints lists what is wrong with a solved pose: a planted limb that does not reach (0.004
// statures), a joint out of its range, a part sunk into the mat (0.02 statures).
func (f *Figure) Complaints() []string {
	var out []string
	if f.Short > .004 {
		out = append(out, fmt.Sprintf("a planted limb is %.1f too short", f.Short*100))
	}
	ranges := rangeSide
	if f.Front {
		ranges = rangeFront
	}
	judge := func(name string, key string, v, lo float64) {
		if v < lo-.5 || v > ranges[key].hi+.5 {
			out = append(out, fmt.Sprintf("%s = %.0f outside %.0f..%.0f", name, v, lo, ranges[key].hi))
		}
	}
	for i, k := range spineKeys {
		judge(k, k, f.Spine[i], ranges[k].lo)
	}
	judge("turn", "turn", f.Turn, ranges["turn"].lo)
	// With the chest turned the arm opens sideways, out of the plane in which the ranges were measured.
	open := math.Abs(f.Turn) >= 30
	joints := f.relative()
	for _, s := range sides {
		for i, k := range jointKeys {
			lo := ranges[k].lo
			if k == "elb" && f.bendOf("arm"+s.String()) < 0 {
				lo = -150
			}
			if k == "sho" && open && joints[s][i] <= 270 {
				continue
			}
			judge(k+s.String(), k, joints[s][i], lo)
		}
	}
	if !f.Plan {
		y := 0.0
		for _, p := range parts {
			y = min(y, lowest(f.Points(p)))
		}
		if y < -.020 {
			out = append(out, fmt.Sprintf("sinks %.1f into the mat", -y*100))
		}
	}
	return out
}

// RangeError says that an angle is out of its joint's range, or that there is no such joint.
type RangeError struct {
	Key, Side string
	Degrees   float64
	Low, Top  float64
}

func (e *RangeError) Error() string {
	name := angleNames[e.Key]
	if name == "" {
		name = e.Key
	}
	switch e.Side {
	case "R":
		name = "right " + name
	case "L":
		name = "left " + name
	}
	if e.Low == e.Top {
		return fmt.Sprintf("there is no joint %q", name)
	}
	return fmt.Sprintf("%s %g: expected %g to %g degrees", name, e.Degrees, e.Low, e.Top)
}
