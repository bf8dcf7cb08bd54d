package body

import (
	"maps"
	"slices"
	"strings"
)

// Handles are the joints that can be taken hold of in a drawing.
func Handles() []string { return slices.Clone(handles) }

// handles are the joints that can be taken hold of in a drawing, outermost last, so that the last one
// under the pointer is on top.
var handles = []string{"hip", "lowthx1", "atlas", "crown", "kneeL", "kneeR", "ankL", "ankR", "ballL", "ballR", "elbL", "elbR", "wriL", "wriR"}

// Handle is where a handle of a placed figure is.
func (f *Figure) Handle(name string) Point {
	if name == "crown" {
		return Local(f.J["atlas"], f.A["head"], 0, .12)
	}
	return f.J[name]
}

func (p Pose) clone() Pose {
	p.Tilt, p.Aim, p.Bend, p.Plant = maps.Clone(p.Tilt), maps.Clone(p.Aim), maps.Clone(p.Bend), maps.Clone(p.Plant)
	p.Lay, p.On = slices.Clone(p.Lay), slices.Clone(p.On)
	if p.Y != nil {
		y := *p.Y
		p.Y = &y
	}
	for k, pl := range p.Plant {
		p.Plant[k] = Plant{pl.Part, slices.Clone(pl.Nums)}
	}
	for _, m := range []*map[string]float64{&p.Tilt, &p.Aim, &p.Bend} {
		if *m == nil {
			*m = map[string]float64{}
		}
	}
	if p.Plant == nil {
		p.Plant = map[string]Plant{}
	}
	return p
}

// nearMat is how low a dragged hand or foot must come to be planted, and how high to be lifted; statures.
const nearMat = .045

// pulls are the parts of the way that a pull is tried at, the whole first.
var pulls = []float64{1, .8, .6, .4, .25, .12, .05}

// Drag is the pose with a handle pulled towards a place in statures, as far as ranges, lengths and
// supports let it; where none of the way is possible it is the pose as it was. See pull.
func (p Pose) Drag(handle string, to Point) Pose {
	f := Solve(p)
	was, from := len(f.Complaints()), f.Handle(handle)
	for _, t := range pulls {
		q := p.pull(f, handle, Mix(from, to, t))
		if len(Solve(q).Complaints()) <= was {
			return q
		}
	}
	return p
}

// pull moves a handle:
// a knee or elbow turns the limb at its root, an ankle or wrist bends it, head and mid back bend the
// spine, the hip carries the whole body up and down where nothing else decides its height. What was
// planted keeps its place unless it is itself pulled; near the mat a foot or hand is planted.
// An unknown handle changes nothing.
func (p Pose) pull(f *Figure, handle string, to Point) Pose {
	q := p.clone()
	switch handle {
	case "hip":
		if q.Y != nil {
			y := max(1, min(60, *q.Y+(to.Y-f.J["hip"].Y)*100))
			q.Y = &y
			return q
		}
		q.AtX = max(-80, min(80, q.AtX+(to.X-f.J["hip"].X)*100))
		return q
	case "lowthx1", "atlas":
		return q.bendSpine(f, handle, to)
	case "crown":
		q.Spine[4] = clampTo(q, "head", f.Spine[4]+wrap(f.A["head"]-angle(f.J["atlas"], to)))
		return q
	}
	if len(handle) < 4 {
		return q
	}
	s := R
	if strings.HasSuffix(handle, "L") {
		s = L
	}
	n, m := s.String(), f.mirror(s)
	free := func(limb string) { // the limb follows its joints again
		delete(q.Aim, limb+n)
		q.Lay = slices.DeleteFunc(slices.Clone(q.Lay), func(l string) bool { return l == limb+n })
		q.Joint[s] = f.relative()[s]
	}
	set := func(i int, v float64) { q.Joint[s][i] = clampTo(q, jointKeys[i], v) }
	switch handle[:len(handle)-1] {
	case "knee":
		free("leg")
		delete(q.Plant, "foot"+n)
		set(hip, wrap(m*(angle(f.J["hip"+n], to)-f.Pelvis-180)))
	case "elb":
		free("arm")
		delete(q.Plant, "hand"+n)
		set(sho, mod360(m*(angle(f.J["sho"+n], to)-f.A["upthx"]-180)+90)-90)
	case "ank":
		if f.plantMoves("foot"+n, to, .039) {
			pl := q.Plant["foot"+n]
			if len(pl.Nums) == 0 {
				pl.Nums = []float64{0}
				free("leg")
			}
			pl.Nums[0] = to.X * 100
			q.Plant["foot"+n] = pl
			return q
		}
		free("leg")
		delete(q.Plant, "foot"+n)
		a1, a2, _ := twoLink(f.J["hip"+n], to, f.cut("thigh", s), f.cut("shank", s), m*f.bendOf("leg"+n))
		set(hip, wrap(m*(a1-f.Pelvis-180)))
		set(knee, wrap(m*(a1-a2)))
	case "wri":
		if f.plantMoves("hand"+n, to, .012) {
			free("arm")
			q.Plant["hand"+n] = Plant{Nums: []float64{to.X * 100}}
			return q
		}
		free("arm")
		delete(q.Plant, "hand"+n)
		a1, a2, _ := twoLink(f.J["sho"+n], to, f.cut("uparm", s), f.cut("forearm", s), -m*f.bendOf("arm"+n))
		set(sho, mod360(m*(a1-f.A["upthx"]-180)+90)-90)
		set(elb, wrap(m*(a2-a1)))
	case "ball":
		free("leg")
		set(ankle, wrap(m*(angle(f.J["ank"+n], to)-f.A["shank"+n])-90+24)) // the ball lies 24 degrees below the foot's axis
	}
	return q
}

// plantMoves tells whether a hand or foot stays planted, or becomes so, at a place.
func (f *Figure) plantMoves(name string, to Point, flat float64) bool {
	if f.Front || f.Plan {
		pl, is := f.Plant[name]
		return is && pl.Part == "" && to.Y < flat+nearMat*2
	}
	pl, is := f.Plant[name]
	return is && pl.Part == "" && to.Y < flat+nearMat*2 || to.Y < flat+nearMat/2
}

// bendSpine shares a turn of the trunk among the three links between pelvis and the pulled place.
func (p Pose) bendSpine(f *Figure, handle string, to Point) Pose {
	turn := wrap(angle(f.J["lumbar0"], f.J[handle]) - angle(f.J["lumbar0"], to))
	links := []int{0, 1}
	if handle == "atlas" {
		links = []int{0, 1, 2}
	}
	for _, i := range links {
		p.Spine[i] = clampTo(p, spineKeys[i], p.Spine[i]+turn/float64(len(links))*1.4)
	}
	return p
}

// Ranges gives the range of a joint or spine link of the pose's view in degrees.
func (p Pose) Range(key string) (lo, hi float64, ok bool) {
	r := rangeSide
	if p.Front {
		r = rangeFront
	}
	s, ok := r[key]
	if key == "elb" && (p.Bend["armR"] < 0 || p.Bend["armL"] < 0) {
		s.lo = -150
	}
	return s.lo, s.hi, ok
}

func clampTo(p Pose, key string, v float64) float64 {
	lo, hi, ok := p.Range(key)
	if !ok {
		return v
	}
	return max(lo, min(hi, v))
}

// Angle is a joint or spine link with its range, for a table of angles.
type Angle struct {
	Key      string // "hip", "lum" ...
	Name     string
	Side     string  // "R", "L" or empty
	Degrees  float64 // as solved
	Low, Top float64
	Held     bool // a plant, an aim or the mat decides it
}

var angleNames = map[string]string{
	"lum": "low back", "lt": "middle back", "ut": "upper back", "neck": "neck", "head": "head",
	"hip": "hip", "knee": "knee", "ankle": "ankle", "toe": "toes", "sho": "shoulder", "elb": "elbow", "wri": "wrist",
}

// Angles lists the spine links and both sides' joints as the figure has them.
func (f *Figure) Angles() (out []Angle) {
	for i, k := range spineKeys {
		lo, hi, _ := f.Range(k)
		out = append(out, Angle{Key: k, Name: angleNames[k], Degrees: f.Spine[i], Low: lo, Top: hi})
	}
	rel := f.relative()
	for i, k := range jointKeys {
		for _, s := range sides {
			lo, hi, _ := f.Range(k)
			n, limb, foot := s.String(), "leg", "foot"
			if i >= sho {
				limb, foot = "arm", "hand"
			}
			_, planted := f.Plant[foot+n]
			_, aimed := f.Aim[limb+n]
			held := (planted || aimed || slices.Contains(f.Lay, limb+n)) && k != "toe" && !(k == "ankle" && !planted)
			out = append(out, Angle{k, angleNames[k], n, rel[s][i], lo, hi, held})
		}
	}
	return out
}

// Set is the pose with one angle typed: a spine link, a joint of one side, "pelvis" or "turn".
// A limb that was aimed, laid or planted follows its joints from then on. Out of its range is an error.
func (p Pose) Set(key, side string, degrees float64) (Pose, error) {
	q := p.clone()
	if lo, hi, ok := p.Range(key); ok && !(degrees >= lo && degrees <= hi) {
		return p, &RangeError{key, side, degrees, lo, hi}
	}
	switch key {
	case "pelvis":
		if !(degrees >= -180 && degrees <= 360) { // also what is no number
			return p, &RangeError{key, "", degrees, -180, 360}
		}
		q.Pelvis = degrees
		return q, nil
	case "turn":
		q.Turn = degrees
		return q, nil
	}
	if i := slices.Index(spineKeys[:], key); i >= 0 {
		q.Spine[i] = degrees
		return q, nil
	}
	i := slices.Index(jointKeys[:], key)
	if i < 0 || side != "R" && side != "L" {
		return p, &RangeError{Key: key, Side: side}
	}
	s := R
	if side == "L" {
		s = L
	}
	limb, foot := "leg", "foot"
	if i >= sho {
		limb, foot = "arm", "hand"
	}
	q.Joint[s] = Solve(p).relative()[s]
	delete(q.Aim, limb+side)
	delete(q.Plant, foot+side)
	q.Lay = slices.DeleteFunc(q.Lay, func(l string) bool { return l == limb+side })
	q.Joint[s][i] = degrees
	return q, nil
}

// Planted is the pose with a hand or foot ("handR", "footL") put down on the mat under where it is, or
// free again where it was planted.
func (p Pose) Planted(limb string) Pose {
	if !slices.Contains(both("hand", "foot"), limb) {
		return p
	}
	f, q := Solve(p), p.clone()
	n := limb[len(limb)-1:]
	s, of, end := R, "arm", "wri"
	if n == "L" {
		s = L
	}
	if strings.HasPrefix(limb, "foot") {
		of, end = "leg", "ank"
	}
	q.Joint[s] = f.relative()[s]
	delete(q.Aim, of+n)
	q.Lay = slices.DeleteFunc(q.Lay, func(l string) bool { return l == of+n })
	if _, is := q.Plant[limb]; is {
		delete(q.Plant, limb)
		return q
	}
	q.Plant[limb] = Plant{Nums: []float64{f.J[end+n].X * 100}}
	if len(Solve(q).Complaints()) > len(f.Complaints()) {
		return p // out of reach
	}
	return q
}
