package body

import (
	"math"
	"slices"
	"strings"
)

// Support is a part of the body that bears on the mat or a prop.
type Support struct {
	Part    string  // "hands", "footR", "seat", "back" ...
	X       float64 // middle of the contact, in statures
	Percent float64 // of body weight
}

// Statics is what gravity asks of a placed figure that keeps still: the loads on the supports and the
// moments at the joints, in percent of body weight and percent of body weight x height.
type Statics struct {
	Supports []Support // from left to right
	// Exact tells that two supports or fewer decide the loads. With more, the loads are the smallest
	// that balance (least squares, none pulling), and stiffness of the body would decide the true ones.
	Exact   bool
	Centre  Point // centre of mass, in statures
	Moments Moments
	Push    float64 // of a wall against the hands that lean on it, level, in percent of body weight
}

// Moments of gravity about joints, in percent of body weight x height, never negative; what the mat
// carries counts nothing. Pairs of limbs count together, but for Knee and OneHip, the larger of the two.
type Moments struct {
	Hip      float64 // both legs, of legs in the air
	Lumbar   float64 // about the joint between sacrum and lumbar spine
	Curl     float64 // what of head and trunk is lifted from the mat, about where the back leaves it, with arms that reach away from the feet (the help of arms that reach to the feet is left out)
	Neck     float64 // the lifted head about the base of the neck
	Shoulder float64 // both arms, of arms in the air
	Knee     float64 // shank and foot with what bears under them, the larger
	Press    float64 // elbows and shoulders of arms that bear, both arms
	OneHip   float64 // one leg with what bears under it, the larger
}

// Each visits the moments with their names.
func (m *Moments) Each(visit func(name string, v *float64)) {
	visit("hips", &m.Hip)
	visit("low back", &m.Lumbar)
	visit("middle back", &m.Curl)
	visit("neck", &m.Neck)
	visit("shoulders", &m.Shoulder)
	visit("knee", &m.Knee)
	visit("one hip", &m.OneHip)
	visit("arms that bear", &m.Press)
}

// pressure is where one limb's part bears, and whether it does.
func (f *Figure) pressure(part string, s Side) (x float64, ok bool) {
	n := s.String()
	if !f.rests(part + n) {
		return 0, false
	}
	switch part {
	case "foot":
		if a := math.Abs(wrap(f.A["foot"+n])); !f.Front && a > 20 && a < 160 {
			return f.J["ball"+n].X, true // a toe stands
		}
		if f.Front && !f.FeetInside {
			return f.J["ank"+n].X, true
		}
		return Mix(f.J["ank"+n], f.J["ball"+n], .45).X, true // a flat foot presses near its middle
	case "knee":
		return f.J["knee"+n].X, true
	case "hand":
		return Mix(f.J["wri"+n], f.J["fin"+n], .3).X, true
	case "forearm":
		return Mix(f.J["elb"+n], f.J["wri"+n], .35).X, true
	}
	return 0, false
}

// trunkContact is where the trunk touches: the middle of its contact, and whether it does.
func (f *Figure) trunkContact() (x float64, ok bool) {
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, p := range f.Points("trunk") {
		if p.Y <= f.Base/100+touching {
			lo, hi = min(lo, p.X), max(hi, p.X)
		}
	}
	return (lo + hi) / 2, lo <= hi
}

// onSeat tells whether the figure sits on a chair or a block under it.
func (f *Figure) onSeat() bool {
	hip := f.J["hip"]
	for _, k := range f.Kit {
		switch {
		case k.Name == "chair" && len(k.Nums) > 1 && hip.X > k.Nums[0]/100-.26 && hip.X < k.Nums[0]/100 && math.Abs(hip.Y-k.Nums[1]/100) < .09:
			return true
		case k.Name == "block" && len(k.Nums) > 2 && math.Abs(hip.X-k.Nums[0]/100) < k.Nums[1]/200+.02 && hip.Y-k.Nums[2]/100 < .09 && hip.Y > k.Nums[2]/100:
			return true
		}
	}
	return false
}

// thrust is the push of a wall against a body that leans on it: level, for a wall and a back or hand that slide, at one
// height, with the same push the other way at the feet.
type thrust struct {
	Force  float64 // percent of body weight, to the right; below 0 to the left
	Y      float64 // of the contact, in statures
	OnHand bool    // the hands push; else the back leans
}

// How near to a wall a hand or the back is that touches it, in statures.
const (
	handAtWall = .05
	backAtWall = .045
)

// wallContact finds where the body touches a wall: the hands where both arms reach it, else the back.
func (f *Figure) wallContact() (at Point, wall float64, onHand, ok bool) {
	for _, k := range f.Kit {
		if k.Name != "wall" || len(k.Nums) == 0 || f.Front || f.lying() {
			continue
		}
		wall = k.Nums[0] / 100
		var touching []Point
		for _, s := range sides {
			if fin := f.J["fin"+s.String()]; math.Abs(fin.X-wall) < handAtWall && fin.Y > f.Base/100+.2 {
				touching = append(touching, Mix(f.J["wri"+s.String()], fin, .3))
			}
		}
		if onHand = len(touching) > 0; !onHand {
			near := backAtWall
			for _, b := range f.Kit { // a ball between the back and the wall carries the push on
				if b.Name == "ball" && len(b.Nums) > 2 {
					near = max(near, 2*b.Nums[2]/100+backAtWall)
				}
			}
			for _, p := range f.Points("trunk") {
				if math.Abs(p.X-wall) < near {
					touching = append(touching, p)
				}
			}
		}
		if len(touching) == 0 {
			continue
		}
		for _, p := range touching {
			at.X += p.X / float64(len(touching))
			at.Y += p.Y / float64(len(touching))
		}
		return at, wall, onHand, true
	}
	return at, 0, false, false
}

// leans works out the push of a wall for a body of weight w with its centre of mass at x = m/w that stands on its feet alone:
// what keeps it from tipping towards the wall over the middle of its feet.
func (f *Figure) leans(bs []bearing, w, m float64) (t thrust) {
	at, wall, onHand, ok := f.wallContact()
	if !ok || len(bs) == 0 || w == 0 {
		return t
	}
	var foot float64
	for _, b := range bs {
		if b.part != "feet" {
			return t
		}
		foot += b.x / float64(len(bs))
	}
	height := at.Y - f.Base/100
	over := m/w - foot // how far the centre of mass is from over the feet
	if height < .15 || over*(wall-foot) <= 0 {
		return t
	}
	return thrust{Force: -w * over / height, Y: at.Y, OnHand: onHand}
}

// atWall tells whether a hand is at a wall.
func (f *Figure) atWall(s Side) bool {
	return slices.ContainsFunc(f.Kit, func(k Thing) bool {
		return k.Name == "wall" && len(k.Nums) > 0 && math.Abs(f.J["fin"+s.String()].X-k.Nums[0]/100) < handAtWall
	})
}

// bearing is one support under way, with the limbs that share it.
type bearing struct {
	part string
	x    float64
	on   []string // limbs' ends: "handR", "kneeL"
	load float64
}

// bearings finds what bears, and which masses the mat carries by themselves.
func (f *Figure) bearings() (bs []bearing, carried map[string]bool) {
	carried = map[string]bool{}
	add := func(part, limb string, x float64) {
		for i := range bs {
			if bs[i].part == part && math.Abs(bs[i].x-x) < .05 {
				k := float64(len(bs[i].on))
				bs[i].x = (bs[i].x*k + x) / (k + 1)
				bs[i].on = append(bs[i].on, limb)
				return
			}
		}
		bs = append(bs, bearing{part: part, x: x, on: []string{limb}})
	}
	if f.rests("head") {
		carried["head"] = true
	}
	if x, ok := f.trunkContact(); ok {
		add("trunk", "", x)
	} else if f.onSeat() {
		add("seat", "", f.J["hip"].X)
	} else if f.sitsFacing() {
		add("trunk", "", f.J["hip"].X)
	}
	for _, s := range sides {
		n := s.String()
		switch f.armState(s) {
		case armLies:
			carried["upper arm"+n], carried["forearm"+n], carried["hand"+n] = true, true, true
		case armBears:
			p := "hand"
			if !f.rests("hand"+n) || f.forearmLies(s) {
				p = "forearm"
			}
			if x, ok := f.pressure(p, s); ok {
				add("hands", p+n, x)
			}
		}
		switch f.legState(s) {
		case legLies:
			carried["thigh"+n], carried["shank"+n], carried["foot"+n], carried["weight"+n] = true, true, true, true
		case legKneels:
			x, _ := f.pressure("knee", s)
			add("knees", "knee"+n, x)
			if f.rests("foot"+n) || f.rests("shin"+n) { // behind the knee, carried by the mat
				carried["shank"+n], carried["foot"+n], carried["weight"+n] = true, true, true
			}
		case legStands:
			x, _ := f.pressure("foot", s)
			add("feet", "foot"+n, x)
		}
	}
	return bs, carried
}

// forearmLies tells whether a forearm lies along the mat, its elbow down too, so that it bears and not the hand alone.
func (f *Figure) forearmLies(s Side) bool {
	n := s.String()
	return f.rests("forearm"+n) && f.J["elb"+n].Y <= f.Base/100+elbowDown && math.Abs(sind(f.A["forearm"+n])) < .35
}

// elbowDown is how high the joint of an elbow that lies is over the mat, in statures.
const elbowDown = .045

// sitsFacing tells whether the figure sits facing the viewer with its legs in front of it: the picture puts the seat higher
// than the feet, which are nearer, and the mat carries both.
func (f *Figure) sitsFacing() bool {
	if !f.Front || f.Pelvis < 60 || f.Pelvis > 120 || f.J["hip"].Y > f.Base/100+.2 || f.onSeat() {
		return false
	}
	for _, s := range sides {
		if math.Abs(sind(f.A["thigh"+s.String()])) > .6 {
			return false
		}
	}
	return true
}

// legDown tells whether a leg that is level touches the mat, its far end too: one that is lifted a little is held, though its
// thigh still touches. What is laid, lies.
func (f *Figure) legDown(n string) bool {
	if slices.Contains(f.Lay, "leg"+n) || f.Front {
		return f.rests("leg"+n) || f.rests("foot"+n)
	}
	return f.rests("knee"+n) || f.rests("shin"+n) || f.rests("foot"+n)
}

// armState is how an arm meets the mat.
type armState uint8

const (
	armInAir armState = iota
	armLies
	armBears
)

func (f *Figure) armState(s Side) armState {
	n := s.String()
	if f.Plant["hand"+n].Part != "" || !f.rests("hand"+n) && !f.rests("forearm"+n) {
		return armInAir // a hand on the body bears nothing
	}
	if math.Abs(sind(f.A["uparm"+n])) < .35 && math.Abs(sind(f.A["forearm"+n])) < .35 {
		return armLies
	}
	return armBears
}

// legState is how a leg meets the mat.
type legState uint8

const (
	legInAir legState = iota
	legLies           // along the mat, or on the other leg that lies
	legKneels
	legStands
)

func (f *Figure) legState(s Side) legState {
	n := s.String()
	rise := sind(f.A["thigh"+n])
	flat := rise > -.3 && rise < .08
	_, trunk := f.trunkContact()
	switch {
	case f.sitsFacing():
		return legLies
	case flat && trunk && f.legDown(n):
		return legLies
	case f.rests("knee" + n):
		return legKneels
	case f.rests("foot" + n):
		return legStands
	}
	o := sides[1-s].String()
	if f.Front && f.lying() && math.Abs(wrap(f.A["thigh"+n]-f.A["thigh"+o])) < 9 && sind(f.A["thigh"+o]) < .08 && f.rests("leg"+o) {
		return legLies // on the leg underneath
	}
	return legInAir
}

// Statics works out loads and moments of a placed figure in side or front view. Seen from above the
// picture does not show the lever against gravity, and ok is false.
func (f *Figure) Statics(sex Sex) (st Statics, ok bool) {
	if f.Plan {
		return st, false
	}
	st.Centre = f.CentreOfMass(sex)
	lumps := f.Lumps(sex)
	bs, carried := f.bearings()
	lying := f.lying()
	var push thrust
	own := func(l Lump) bool { // carried where it lies
		return carried[l.Name+l.Side] || lying && (strings.HasSuffix(l.Name, "trunk") && f.trunkPieceRests(l.Name))
	}
	var w, m float64
	for _, l := range lumps {
		if !own(l) {
			w += l.Share
			m += l.Share * l.At.X
		}
	}
	if lying {
		// Everything hangs on the lying trunk; a planted foot takes its leg's beam share only.
		st.Exact = true
		for i := range bs {
			if bs[i].part != "feet" {
				continue
			}
			for _, limb := range bs[i].on {
				side := limb[4:]
				hip, sum := f.J["hip"+side].X, 0.0
				for _, l := range lumps {
					if l.Side == side && (l.Name == "thigh" || l.Name == "shank" || l.Name == "foot") {
						sum += l.Share * (l.At.X - hip)
					}
				}
				if d := bs[i].x - hip; math.Abs(d) > .05 {
					bs[i].load += max(0, sum/d)
				}
			}
			w -= bs[i].load
		}
		for i := range bs {
			if bs[i].part == "trunk" {
				bs[i].load = w
			}
		}
	} else if t := f.leans(bs, w, m); t.Force != 0 {
		push, st.Exact = t, true
		if t.OnHand {
			st.Push = math.Abs(t.Force)
		}
		for i := range bs {
			bs[i].load = w / float64(len(bs))
		}
	} else {
		st.Exact = f.stand(bs, w, m, lumps)
	}
	for _, b := range bs {
		part := b.part
		if len(b.on) == 1 && b.on[0] != "" {
			part = b.on[0]
		}
		if part == "trunk" {
			part = f.trunkName()
		}
		st.Supports = append(st.Supports, Support{part, b.x, b.load})
	}
	for _, l := range lumps {
		if own(l) {
			if l.Side != "" && carried["thigh"+l.Side] && (l.Name == "shank" || l.Name == "foot") {
				l.Name = "thigh" // the whole leg lies
			}
			st.carry(l, f)
		}
	}
	slices.SortStableFunc(st.Supports, func(a, b Support) int { return int(1e4 * (a.X - b.X)) })
	st.Moments = f.moments(lumps, bs, carried, lying, push)
	return st, true
}

// carry gives what lies by itself to a support of its own.
func (st *Statics) carry(l Lump, f *Figure) {
	part := map[string]string{"head": "head", "shank": "shins", "foot": "shins", "thigh": "legs", "weight": "legs", "upper arm": "arms", "forearm": "arms", "hand": "arms"}[l.Name]
	if part == "" {
		part = f.trunkName()
	}
	for i := range st.Supports {
		if st.Supports[i].Part == part {
			s := &st.Supports[i]
			if sum := s.Percent + l.Share; part != f.trunkName() && sum > 0 {
				s.X = (s.X*s.Percent + l.At.X*l.Share) / sum
			}
			s.Percent += l.Share
			return
		}
	}
	st.Supports = append(st.Supports, Support{part, l.At.X, l.Share})
}

// lying tells whether the trunk lies along the mat: its lower and its upper part both down.
func (f *Figure) lying() bool {
	return f.trunkPieceRests("lower trunk") && f.trunkPieceRests("upper trunk")
}

// trunkPieceRests tells whether a piece of the trunk is near enough to the mat to lie on it.
func (f *Figure) trunkPieceRests(piece string) bool {
	at, near := f.J["hip"], .095
	switch piece {
	case "middle trunk":
		at = f.J["lumbar1"]
	case "upper trunk":
		at = Mix(f.J["upthx0"], f.J["upthx1"], .4)
	}
	if f.Front {
		near = .125 // on the side the body is wider than deep
	}
	return at.Y <= f.Base/100+near && !f.onSeat()
}

func (f *Figure) trunkName() string {
	a := mod360(f.Pelvis)
	switch {
	case f.Front:
		return "side"
	case f.lying() && (a < 90 || a > 270):
		return "front"
	case f.lying() || f.J["hip"].Y > f.J["upthx0"].Y+.03 || a > 150 && a < 240 && f.trunkPieceRests("middle trunk"):
		return "back"
	}
	return "seat"
}

// stand shares weight w with moment m about x = 0 among the bearings of a body that is up.
func (f *Figure) stand(bs []bearing, w, m float64, lumps []Lump) bool {
	if len(bs) == 1 { // the pressure is under the centre of mass
		bs[0].x, bs[0].load = m/w, w
		return true
	}
	kneels := slices.ContainsFunc(bs, func(b bearing) bool { return b.part == "knees" })
	hands := slices.ContainsFunc(bs, func(b bearing) bool { return b.part == "hands" })
	var rest []bearing
	var at []int
	for i := range bs {
		if bs[i].part == "feet" && kneels && hands { // a toe that only touches takes its own leg's beam share
			for _, limb := range bs[i].on {
				hip, sum := f.J["hip"+limb[4:]].X, 0.0
				for _, l := range lumps {
					if l.Side == limb[4:] && (l.Name == "thigh" || l.Name == "shank" || l.Name == "foot") {
						sum += l.Share * (l.At.X - hip)
					}
				}
				if d := bs[i].x - hip; math.Abs(d) > .05 {
					bs[i].load += max(0, sum/d)
				}
			}
			w -= bs[i].load
			m -= bs[i].load * bs[i].x
			continue
		}
		rest, at = append(rest, bs[i]), append(at, i)
	}
	exact := balance(rest, w, m)
	for i, b := range rest {
		bs[at[i]] = b
	}
	return exact
}

// balance shares a weight with moment m about x = 0 among bearings; exact for two.
func balance(bs []bearing, w, m float64) bool {
	active := make([]int, 0, len(bs))
	for i := range bs {
		bs[i].load = 0
		active = append(active, i)
	}
	exact := len(bs) <= 2
	for len(active) > 0 {
		k := float64(len(active))
		var sx, sxx float64
		for _, i := range active {
			sx += bs[i].x
			sxx += bs[i].x * bs[i].x
		}
		// smallest loads a + b x with sum w and moment m
		det := k*sxx - sx*sx
		a, b := w/k, 0.0
		if det > 1e-9 {
			a, b = (w*sxx-m*sx)/det, (k*m-w*sx)/det
		}
		worst := -1
		for _, i := range active {
			bs[i].load = a + b*bs[i].x
			if bs[i].load < -1e-9 && (worst < 0 || bs[i].load < bs[worst].load) {
				worst = i
			}
		}
		if worst < 0 {
			return exact
		}
		bs[worst].load = 0
		active = slices.DeleteFunc(active, func(i int) bool { return i == worst })
	}
	return exact
}

// moments cuts the body at each joint and sums what hangs on one side of the cut.
func (f *Figure) moments(lumps []Lump, bs []bearing, carried map[string]bool, lying bool, push thrust) (m Moments) {
	feet, hands := 0, 0.0 // that share the push of a wall
	for _, b := range bs {
		if b.part == "feet" {
			feet += len(b.on)
		}
	}
	if push.OnHand {
		for _, s := range sides {
			if f.atWall(s) {
				hands++
			}
		}
	}
	about := func(joint Point, side string, names ...string) (sum float64, any bool) {
		for _, l := range lumps {
			if l.Side == side && slices.Contains(names, l.Name) && !carried[l.Name+l.Side] {
				sum -= l.Share * (l.At.X - joint.X)
			}
		}
		for _, b := range bs {
			for _, on := range b.on {
				if on != "" && on[len(on)-1:] == side && slices.Contains(names, on[:len(on)-1]+" bears") {
					sum += b.load / float64(len(b.on)) * (b.x - joint.X)
					if b.part == "feet" && push.Force != 0 { // the mat holds the feet against the wall's push
						sum -= push.Force / float64(feet) * (joint.Y - f.Base/100)
					}
					any = true
				}
			}
		}
		return sum, any
	}
	var lower, upper float64
	lumbar := f.J["lumbar0"]
	for _, s := range sides {
		n := s.String()
		knee, _ := about(f.J["knee"+n], n, "shank", "foot", "weight", "foot bears")
		leg, down := about(f.J["hip"+n], n, "thigh", "shank", "foot", "weight", "foot bears", "knee bears")
		arm, held := about(f.J["sho"+n], n, "upper arm", "forearm", "hand", "hand bears", "forearm bears")
		if hands > 0 && f.atWall(s) { // the hand pushes the wall
			hand := Mix(f.J["wri"+n], f.J["fin"+n], .3)
			elbow, _ := about(f.J["elb"+n], n, "forearm", "hand")
			arm -= push.Force / hands * (hand.Y - f.J["sho"+n].Y)
			m.Press += math.Abs(elbow-push.Force/hands*(hand.Y-f.J["elb"+n].Y)) + math.Abs(arm)
		}
		for _, b := range bs {
			if b.part == "knees" && slices.Contains(b.on, "knee"+n) && len(bs) == 1 { // leaning, the shin takes the pressure
				knee = b.load / float64(len(b.on)) * (b.x - f.J["knee"+n].X)
			}
		}
		m.Knee = max(m.Knee, math.Abs(knee))
		m.OneHip = max(m.OneHip, math.Abs(leg))
		air := !down && f.legState(s) == legInAir
		if air {
			m.Hip += leg
		}
		if air || !lying {
			l, _ := about(lumbar, n, "thigh", "shank", "foot", "weight", "foot bears", "knee bears")
			lower += l
		}
		if held {
			if !f.forearmLies(s) { // an elbow that lies is not held
				elbow, _ := about(f.J["elb"+n], n, "forearm", "hand", "hand bears", "forearm bears")
				m.Press += math.Abs(elbow)
			}
			m.Press += math.Abs(arm)
		}
		if !held && f.armState(s) == armInAir && f.Plant["hand"+n].Part == "" && (hands == 0 || !f.atWall(s)) {
			m.Shoulder += math.Abs(arm)
		}
		u, _ := about(lumbar, n, "upper arm", "forearm", "hand", "hand bears", "forearm bears")
		upper += u
	}
	m.Hip = math.Abs(m.Hip)
	hipDown, backDown := f.trunkPieceRests("lower trunk") || f.onSeat(), f.trunkPieceRests("upper trunk")
	l, _ := about(lumbar, "", "lower trunk")
	u, _ := about(lumbar, "", "middle trunk", "upper trunk", "head")
	switch {
	case hipDown && backDown: // the mat bears the pelvis wherever the legs' weight comes over it: what is left is their moment at the hips
		m.Lumbar = m.Hip
	case hipDown:
		m.Lumbar = math.Abs(upper + u)
	default:
		m.Lumbar = math.Abs(lower + l)
	}
	if f.rests("head") {
		return m
	}
	neck, _ := about(f.J["neck0"], "", "head")
	m.Neck = math.Abs(neck)
	if !hipDown || f.HandsBear() {
		return m
	}
	pivot, pieces := f.J["lowthx1"], []string{"head", "upper trunk"}
	if !f.trunkPieceRests("middle trunk") {
		pivot, pieces = lumbar, append(pieces, "middle trunk")
	}
	curl, _ := about(pivot, "", pieces...)
	m.Curl = math.Abs(curl)
	for _, s := range sides {
		if f.armState(s) == armInAir {
			arm, _ := about(pivot, s.String(), "upper arm", "forearm", "hand")
			m.Curl += max(0, math.Copysign(1, curl)*arm)
		}
	}
	return m
}

// HandsBear tells whether a hand or forearm bears on the mat.
func (f *Figure) HandsBear() bool {
	for _, s := range sides {
		if f.armState(s) == armBears {
			return true
		}
	}
	return false
}

// Moments are the joint moments of Statics alone.
func (f *Figure) Moments(sex Sex) (Moments, bool) {
	st, ok := f.Statics(sex)
	return st.Moments, ok
}

// HandShare is the percentage of body weight on the hands or forearms of a body that stands on those
// and on its knees or feet; ok is false when it does not, or lies, or hangs in the picture's depth.
func (f *Figure) HandShare(sex Sex) (percent float64, ok bool) {
	st, ok := f.Statics(sex)
	if !ok {
		return 0, false
	}
	return f.handShare(st)
}

func (f *Figure) handShare(st Statics) (percent float64, ok bool) {
	if f.lying() {
		return 0, false
	}
	for _, s := range st.Supports {
		switch strings.TrimRight(s.Part, "RL") {
		case "hands", "hand", "forearm":
			percent += s.Percent
		}
	}
	_, trunk := f.trunkContact()
	return percent, percent > 0 && !trunk
}

// Loads is what a repetition asks: at the worst moment of each kind, and on average.
type Loads struct {
	Worst, Mean Moments
	Hands       float64 // percent of body weight on the hands, the most
	Push        float64 // of a wall against the hands that lean on it, percent of body weight, the most
	Exact       bool
}

// Repetition works out the loads over a movement between key poses, at n+1 even moments.
// ok is false where the view does not show them.
func (s Strip) Repetition(sex Sex, n int) (out Loads, ok bool) {
	out.Exact = true
	times := make([]float64, n+1)
	for i := range times {
		times[i] = float64(i) / float64(max(n, 1))
	}
	for _, f := range s.Frames(times...) {
		st, fine := f.Statics(sex)
		if !fine {
			return Loads{}, false
		}
		out.Exact = out.Exact && st.Exact
		var now []float64
		st.Moments.Each(func(_ string, v *float64) { now = append(now, *v) })
		k := 0
		out.Worst.Each(func(_ string, v *float64) { *v = max(*v, now[k]); k++ })
		k = 0
		out.Mean.Each(func(_ string, v *float64) { *v += now[k] / float64(n+1); k++ })
		if h, on := f.handShare(st); on {
			out.Hands = max(out.Hands, h)
		}
		out.Push = max(out.Push, st.Push)
	}
	return out, true
}

// Sway is how far a body may lean sideways before its centre of mass leaves a base of the given width,
// in degrees: the angle whose tangent is half the base over the height of the centre of mass. Width and
// height in statures. The wider the base and the lower the body, the steadier (textbook statics).
func Sway(width, height float64) float64 {
	return math.Atan2(width/2, max(height, .01)) * 180 / math.Pi
}
