package body

import (
	"math"
	"slices"
	"strings"
)

// Figure is a pose worked out: where every joint is and which way every segment points.
type Figure struct {
	Pose
	J     map[string]Point   // joints: hip, atlas, shoR, elbR, ... in statures
	A     map[string]float64 // world directions of segments in degrees
	Short float64            // how much the longest planted limb misses its target
	low   map[string]float64 // lowest point of a part, worked out when it is asked for
}

func newFigure(q Pose, root Point) *Figure {
	f := &Figure{Pose: q, J: make(map[string]Point, 36), A: make(map[string]float64, 20)}
	f.J["hip"] = root
	a, p := q.Pelvis, root
	for i, link := range chain {
		if i > 0 {
			a -= q.Spine[i-1]
		}
		f.A[link] = a
		f.J[link+"0"] = p
		p = Polar(p, length[link]*cosd(q.Tilt["trunk"]), a+rest[link])
		f.J[link+"1"] = p
	}
	f.A["head"] = a - q.Spine[4]
	f.J["atlas"] = p
	for _, s := range sides {
		f.J["hip"+s.String()] = Local(root, q.Pelvis, f.outwards(s)*hipWide*sind(q.yaw()), 0)
		a, ok := q.Aim["leg"+s.String()]
		if !ok {
			a = q.Pelvis + 180 + f.mirror(s)*q.Joint[s][hip]
		}
		f.leg(s, a, nil)
		if a, ok = q.Aim["arm"+s.String()]; !ok {
			a = f.A["upthx"] + 180 + f.mirror(s)*q.Joint[s][sho]
		}
		f.arm(s, a, nil)
	}
	return f
}

// mirror is -1 for right limbs when the body faces the viewer.
func (f *Figure) mirror(s Side) float64 {
	if s == R && f.Front {
		return -1
	}
	return 1
}

func (f *Figure) outwards(s Side) float64 {
	if s == R {
		return -1
	}
	return 1
}

// cut is a segment's length as seen, foreshortened by its tilt.
func (f *Figure) cut(seg string, s Side) float64 {
	return length[seg] * cosd(f.Tilt[seg+s.String()])
}

// shoulder: the girdle follows the arm, forward with reach, up with the arm overhead.
func (f *Figure) shoulder(s Side, a1 float64) {
	a := f.A["upthx"]
	yaw := f.yaw() + f.Turn
	flat := math.Abs(cosd(yaw))
	flex := f.mirror(s) * (a1 - 180 - a)
	far := 1.0
	if s == L && !f.Front {
		far = .8
	}
	side := f.outwards(s) * shoulderWide * sind(yaw) * far
	f.J["sho"+s.String()] = Local(Polar(f.J["upthx0"], shoulderUp, a+rest["upthx"]), a,
		side+flat*(.010*sind(flex)-.006), .013*(1-cosd(flex))-.014*(1-flat))
}

// chainAngles are world angles that replace those following from the joints.
type chainAngles struct {
	second float64
	third  *float64
	fourth *float64
}

func (f *Figure) arm(s Side, a1 float64, with *chainAngles) {
	m, n := f.mirror(s), s.String()
	a2 := a1 + m*f.Joint[s][elb]
	if with != nil {
		a2 = with.second
	}
	a3 := a2 + m*f.Joint[s][wri]
	if with != nil && with.third != nil {
		a3 = *with.third
	}
	f.shoulder(s, a1)
	f.A["uparm"+n], f.A["forearm"+n], f.A["hand"+n] = a1, a2, a3
	f.J["elb"+n] = Polar(f.J["sho"+n], f.cut("uparm", s), a1)
	f.J["wri"+n] = Polar(f.J["elb"+n], f.cut("forearm", s), a2)
	f.J["fin"+n] = Polar(f.J["wri"+n], f.cut("hand", s), a3)
}

func (f *Figure) leg(s Side, a1 float64, with *chainAngles) {
	m, n := f.mirror(s), s.String()
	a2 := a1 - m*f.Joint[s][knee]
	if with != nil {
		a2 = with.second
	}
	a3 := a2 + m*(90+f.Joint[s][ankle])
	if with != nil && with.third != nil {
		a3 = *with.third
	}
	a4 := a3 + m*f.Joint[s][toe]
	if f.tucked(s) {
		a4 = 0
	}
	if with != nil && with.fourth != nil {
		a4 = *with.fourth
	}
	f.A["thigh"+n], f.A["shank"+n], f.A["foot"+n], f.A["toe"+n] = a1, a2, a3, a4
	f.J["knee"+n] = Polar(f.J["hip"+n], f.cut("thigh", s), a1)
	k := Polar(f.J["knee"+n], f.cut("shank", s), a2)
	f.J["ank"+n] = k
	f.J["ball"+n] = Polar(Polar(k, ball.X, a3), ball.Y, a3+90*m)
}

// relative turns the world angles of a solved figure back into joint angles.
func (f *Figure) relative() (out [2][7]float64) {
	for _, s := range sides {
		m, n := f.mirror(s), s.String()
		out[s][hip] = wrap(m * (f.A["thigh"+n] - f.Pelvis - 180))
		out[s][knee] = wrap(m * (f.A["thigh"+n] - f.A["shank"+n]))
		out[s][ankle] = wrap(m*(f.A["foot"+n]-f.A["shank"+n]) - 90)
		out[s][toe] = wrap(m * (f.A["toe"+n] - f.A["foot"+n]))
		out[s][sho] = mod360(m*(f.A["uparm"+n]-f.A["upthx"]-180)+90) - 90
		out[s][elb] = wrap(m * (f.A["forearm"+n] - f.A["uparm"+n]))
		out[s][wri] = wrap(m * (f.A["hand"+n] - f.A["forearm"+n]))
	}
	return out
}

// twoLink gives the angles of two links of length l1 and l2 from root to target, and by how much
// the target is out of reach; side +1 puts the middle joint left of the line.
func twoLink(root, target Point, l1, l2, side float64) (a1, a2, over float64) {
	d, th := Dist(root, target), angle(root, target)
	hi := (l1 + l2) * .9995
	over = max(0, d-hi)
	d = min(max(d, math.Abs(l1-l2)+.005), hi)
	c := max(-1, min(1, (l1*l1+d*d-l2*l2)/(2*l1*d)))
	a1 = th + side*math.Acos(c)*180/math.Pi
	return a1, angle(Polar(root, l1, a1), Polar(root, d, th)), over
}

// plantFoot puts a flat foot with the ankle over x, or with lift the ball at x and the heel raised.
func (f *Figure) plantFoot(s Side) {
	n := s.String()
	x, lift, up := f.num("foot"+n, 0, 0)/100, f.num("foot"+n, 1, 0), f.num("foot"+n, 2, 0)/100
	y := up - sink
	target := Point{x, y + .039}
	with := &chainAngles{}
	if !f.Front {
		foot, zero := -lift, 0.0
		with.third, with.fourth = &foot, &zero
		if lift != 0 {
			target = Point{x - ball.X*cosd(lift) - ball.Y*sind(lift), y + .011 + ball.X*sind(lift) - ball.Y*cosd(lift)}
		}
	}
	a1, a2, over := twoLink(f.J["hip"+n], target, f.cut("thigh", s), f.cut("shank", s), f.mirror(s)*f.bendOf("leg"+n))
	f.Short = max(f.Short, over)
	with.second = a2
	f.leg(s, a1, with)
}

// plantHand brings the wrist to the target; with palm > 0 a point that far beyond the wrist.
func (f *Figure) plantHand(s Side, target Point, hand *float64, palm float64) {
	n := s.String()
	var over float64
	for range 3 { // the shoulder moves with the arm
		var a1, a2 float64
		a1, a2, over = twoLink(f.J["sho"+n], target, f.cut("uparm", s), f.cut("forearm", s)+palm, -f.mirror(s)*f.bendOf("arm"+n))
		f.arm(s, a1, &chainAngles{second: a2, third: hand})
	}
	f.Short = max(f.Short, over)
}

// lay turns a whole limb about its root joint until its lowest point meets the mat.
func (f *Figure) lay(limb string) {
	s := R
	if strings.HasSuffix(limb, "L") {
		s = L
	}
	turn, base := f.arm, f.A["uparm"+s.String()]
	if strings.HasPrefix(limb, "leg") {
		turn, base = f.leg, f.A["thigh"+s.String()]
	}
	gap := func(d float64) float64 { turn(s, base+d, nil); return lowest(f.Points(limb)) + sink }
	g := gap(0)
	step := -1.0
	if (gap(.5) < g) == (g > 0) {
		step = 1
	}
	for k := 1.0; k < 100; k++ {
		if gap(k*step)*g <= 0 {
			gap(bisect(gap, (k-1)*step, k*step, 20))
			return
		}
	}
	gap(0)
}

// BodyPoint finds a joint or a named place on the body.
func (f *Figure) BodyPoint(name string, t float64) Point {
	n := name[len(name)-1:]
	switch {
	case strings.HasPrefix(name, "shin"):
		return Mix(f.J["knee"+n], f.J["ank"+n], t)
	case strings.HasPrefix(name, "thigh"):
		return Mix(f.J["hip"+n], f.J["knee"+n], t)
	case strings.HasPrefix(name, "foot"):
		return Polar(f.J["ank"+n], .09*t, f.A["foot"+n])
	case name == "nape":
		return Local(f.J["atlas"], f.A["head"], -.030*cosd(f.HeadYaw()), .045)
	case name == "waist":
		return Local(f.J["lumbar0"], f.A["lumbar"], 0, .03)
	}
	return f.J[name]
}

// Solve places a pose on the mat: tips it, stands it on its supports, lays and plants its limbs.
func Solve(q Pose) *Figure { return solveAt(q, nil) }

func solveAt(q Pose, root *Point) *Figure {
	on := q.On
	if on == nil {
		on = []string{"trunk", "head"}
		for _, leg := range []string{"legR", "legL"} {
			_, planted := q.Plant["foot"+leg[3:]]
			if !planted && !slices.Contains(q.Lay, leg) {
				on = append(on, leg)
			}
		}
	}
	if len(q.Settle) == 2 { // tip the whole body until both named parts touch
		a, b := q.Settle[0], q.Settle[1]
		diff := func(v float64) float64 {
			t := q
			t.Pelvis = v
			g := newFigure(t, Point{})
			return lowest(g.Points(b)) - lowest(g.Points(a))
		}
		q.Pelvis = bisect(diff, q.Pelvis-45, q.Pelvis+45, 36)
		on = []string{a}
	}
	if root == nil {
		f := newFigure(q, Point{})
		var y float64
		if q.Y != nil {
			y = *q.Y / 100
		} else {
			low := math.Inf(1)
			for _, o := range on {
				low = min(low, lowest(f.Points(o)))
			}
			y = q.Base/100 - sink - low
		}
		root = &Point{q.AtX/100 - f.BodyPoint(q.At, .5).X, y}
	}
	f := newFigure(q, *root)
	for _, l := range q.Lay {
		f.lay(l)
	}
	for _, s := range sides {
		if _, ok := q.Plant["foot"+s.String()]; ok {
			f.plantFoot(s)
		}
	}
	for _, s := range sides {
		pl, ok := q.Plant["hand"+s.String()]
		if !ok {
			continue
		}
		if pl.Part != "" {
			t := .5
			if len(pl.Nums) > 0 {
				t = pl.Nums[0]
			}
			f.plantHand(s, f.BodyPoint(pl.Part, t), nil, .05)
			continue
		}
		dir := q.num("hand"+s.String(), 1, 0)
		f.plantHand(s, Point{pl.Nums[0] / 100, .012 - sink}, &dir, 0)
	}
	return f
}
