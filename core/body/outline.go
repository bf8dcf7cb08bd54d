package body

import (
	"math"
	"slices"
	"strings"
)

// HeadYaw is how far the face is turned towards the viewer, in degrees.
func (f *Figure) HeadYaw() float64 { return f.yaw() + f.Turn + f.Look }

// ChestYaw is how far the chest is turned towards the viewer, in degrees.
func (f *Figure) ChestYaw() float64 { return f.yaw() + f.Turn }

// Trunk is the closed outline: up the front (in front view up the figure's left), down the back.
func (f *Figure) Trunk() []Point {
	var ps [8]Point
	ps[1] = f.J["pelvis0"]
	for i, l := range chain {
		ps[i+2] = f.J[l+"1"]
	}
	ps[0] = Mix(ps[1], ps[2], -1)
	ps[7] = Mix(ps[6], ps[5], -1)
	n := len(trunkStations)
	out := make([]Point, 2*n)
	for i, st := range trunkStations {
		link := 0
		for j, l := range chain {
			if l == st.link {
				link = j
			}
		}
		u := float64(link) + st.at
		k := int(min(max(math.Floor(u), 0), 4))
		c := Mix(ps[1], ps[2], u)
		if u >= 0 {
			c = CatmullRom(ps[k], ps[k+1], ps[k+2], ps[k+3], u-float64(k))
		}
		v := min(max(u-.5, 0), 4)
		j := min(int(v), 3)
		dir := func(i int) float64 { return f.A[chain[i]] + rest[chain[i]] }
		a := Lerp(dir(j), dir(j+1), v-float64(j))
		yaw := f.yaw() + f.Turn*turnShare[st.link]
		C, S := cosd(yaw), sind(yaw)
		df, db := st.front, st.behind
		if C < 0 {
			df, db = db, df
		}
		out[i] = Local(c, a, math.Hypot(df*C, st.wide*S), 0)
		out[2*n-1-i] = Local(c, a, -math.Hypot(db*C, st.wide*S), 0)
	}
	return out
}

// Head is the outline of the head, in profile or from the front.
func (f *Figure) Head() []Point {
	o, a, y := f.J["atlas"], f.A["head"], f.HeadYaw()
	C, S := cosd(y), math.Abs(sind(y))
	if S > .8 {
		out := make([]Point, len(faceFront))
		for i, p := range faceFront {
			out[i] = Local(o, a, p.X+.006*C, p.Y)
		}
		return out
	}
	out := make([]Point, len(faceSide))
	for i, p := range faceSide {
		x := p.X
		if x > .05 {
			x *= C
		} else if x >= 0 {
			x *= Lerp(C, 1, S)
		}
		out[i] = Local(o, a, x, p.Y)
	}
	return out
}

// Foot is the outline of a foot.
func (f *Figure) Foot(s Side) []Point {
	n, m := s.String(), f.mirror(s)
	k := f.J["ank"+n]
	if f.Front && !f.FeetInside { // towards the viewer; longer when pointed
		p := max(0, sind(-f.Joint[s][ankle]))
		e, w := .036+.075*p, .027-.010*p
		half := []Point{{.0185, -.014}, {.0200, .006}, {w, e - .016}, {w * .72, e - .002}}
		all := append([]Point(nil), half...)
		all = append(all, Point{0, e + .003})
		for i := len(half) - 1; i >= 0; i-- {
			all = append(all, Point{-half[i].X, half[i].Y})
		}
		for i, q := range all {
			all[i] = Local(k, f.A["shank"+n]+180, q.X, -q.Y)
		}
		return all
	}
	a, t := f.A["foot"+n], f.A["toe"+n]
	at := func(o Point, x, y, ang float64) Point { return Polar(Polar(o, x, ang), y, ang+90*m) }
	b := at(k, ball.X, ball.Y, a)
	out := make([]Point, len(footShape))
	for i, p := range footShape {
		if p.toe {
			out[i] = at(b, p.x-ball.X, p.y-ball.Y, t)
		} else {
			out[i] = at(k, p.x, p.y, a)
		}
	}
	return out
}

// Piece is the outline of one limb segment: two flanks joined by round ends.
// A flank is a cubic from the top to the bottom joint: start, two control points, end.
type Piece struct {
	Left, Right [4]Point
	From, To    Point
	R1, R2      float64
}

func flanks(p, q Point, r1, r2 float64, left, right [2]float64, a float64) Piece {
	one := func(sg float64, b [2]float64) [4]Point {
		n := a + 90*sg
		s, e := Polar(p, r1, n), Polar(q, r2, n)
		return [4]Point{s, Polar(Mix(s, e, 1./3), b[0], n), Polar(Mix(s, e, 2./3), b[1], n), e}
	}
	return Piece{one(1, left), one(-1, right), p, q, r1, r2}
}

// Capsule is a straight piece from p to q with radii r1 and r2.
func Capsule(p, q Point, r1, r2 float64) Piece {
	return flanks(p, q, r1, r2, [2]float64{}, [2]float64{}, angle(p, q))
}

// Limb is the outline of a segment grown by g1 at its top and g2 at its bottom, starting t0 of the way along.
func (f *Figure) Limb(seg Segment, s Side, g1, g2, t0 float64) Piece {
	sh := limbShapes[seg.Name]
	p, q := f.J[seg.From+s.String()], f.J[seg.To+s.String()]
	r1, left, right := sh.r1, sh.front, sh.behind
	if t0 > 0 {
		p, r1 = Mix(p, q, t0), Lerp(sh.r1, sh.r2, t0)
	}
	if f.Front {
		for i := range left {
			left[i] = (left[i] + right[i]) / 2
		}
		right = left
	}
	return flanks(p, q, r1+g1, sh.r2+g2, left, right, f.A[seg.Name+s.String()])
}

func circle(out []Point, c Point, r float64, n int) []Point {
	for i := range n {
		out = append(out, Polar(c, r, float64(i)*360/float64(n)))
	}
	return out
}

// Points samples the outline of a named body part, for contact with the mat.
func (f *Figure) Points(what string) []Point {
	if one, ok := alias[what]; ok {
		return append(f.Points(one+"R"), f.Points(one+"L")...)
	}
	switch what {
	case "trunk":
		o := f.Trunk()
		k := len(o)
		out := append([]Point(nil), o...)
		for i := range o {
			out = append(out, CatmullRom(o[(i+k-1)%k], o[i], o[(i+1)%k], o[(i+2)%k], .5))
		}
		for _, s := range sides {
			out = circle(out, f.J["hip"+s.String()], limbShapes["thigh"].r1, 24)
			if f.Front {
				out = circle(out, f.J["sho"+s.String()], .0285, 24)
			}
		}
		return out
	case "head":
		return f.Head()
	}
	s := R
	if strings.HasSuffix(what, "L") {
		s = L
	}
	n, kind := s.String(), what[:len(what)-1]
	of := func(out []Point, seg Segment, skip int) []Point {
		p := f.Limb(seg, s, 0, 0, 0)
		for _, fl := range [][4]Point{p.Left, p.Right} {
			for t := skip; t < 7; t++ {
				out = append(out, bezier(fl, float64(t)/6))
			}
		}
		return circle(out, p.To, p.R2, 18)
	}
	switch kind {
	case "foot":
		return f.Foot(s)
	case "hand":
		return of(nil, segments["arm"][2], 0)
	case "knee":
		return circle(nil, f.J["knee"+n], limbShapes["shank"].r1, 24)
	case "elbow":
		return circle(nil, f.J["elb"+n], limbShapes["uparm"].r2, 24)
	case "shin":
		return append(of(nil, segments["leg"][1], 0), f.Foot(s)...)
	case "forearm":
		return append(of(nil, segments["arm"][1], 0), f.Points("elbow"+n)...)
	}
	var out []Point
	for i, seg := range segments[kind] {
		skip := 0
		if i == 0 {
			skip = 2
		}
		out = of(out, seg, skip)
	}
	if kind == "leg" {
		out = append(out, f.Foot(s)...)
	}
	return out
}

// Parts are the names under which the whole figure can be sampled.
func Parts() []string { return slices.Clone(parts) }

// parts are the names under which the whole figure can be sampled.
var parts = []string{"trunk", "head", "legR", "legL", "armR", "armL"}

// Extent is the box that holds the figure and its kit.
func (f *Figure) Extent() (x0, x1, y0, y1 float64) {
	var all []Point
	for _, p := range parts {
		all = append(all, f.Points(p)...)
	}
	for _, k := range f.Kit {
		v := make([]float64, 3)
		for i := range min(3, len(k.Nums)) {
			v[i] = k.Nums[i] / 100
		}
		switch k.Name {
		case "roller":
			all = append(all, Point{v[0], 0}, Point{v[1], .088})
		case "roller end":
			all = append(all, Point{v[0] - .044, 0}, Point{v[0] + .044, .088})
		case "ball": // its middle and its radius
			all = append(all, Point{v[0] - v[2], v[1] - v[2]}, Point{v[0] + v[2], v[1] + v[2]})
		case "wall":
			all = append(all, Point{v[0] - .03, 0}, Point{v[0], v[1]})
		case "chair":
			all = append(all, Point{v[0] - .29, 0}, Point{v[0], v[1] + .27})
		case "block":
			all = append(all, Point{v[0] - v[1]/2, 0}, Point{v[0] + v[1]/2, v[2]})
		}
	}
	x0, y0 = math.Inf(1), math.Inf(1)
	x1, y1 = math.Inf(-1), math.Inf(-1)
	for _, p := range all {
		x0, x1, y0, y1 = min(x0, p.X), max(x1, p.X), min(y0, p.Y), max(y1, p.Y)
	}
	return x0, x1, y0, y1
}
