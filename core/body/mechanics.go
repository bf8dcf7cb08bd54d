package body

import (
	"math"
	"slices"
)

// Sex chooses a column of the segment table.
type Sex uint8

// The columns of the segment table; the zero value is their mean.
const (
	Mean Sex = iota
	Female
	Male
)

// mass is a piece of the body with mass: its share of body mass (female, male) and where its centre
// of mass lies from the first towards the second end (female, male).
type mass struct {
	name     string
	share    [2]float64 // percent of body mass
	at       [2]float64 // percent of the length
	from, to string     // joints; the limbs' without their side
}

// masses is the segment table of P. de Leva, "Adjustments to Zatsiorsky-Seluyanov's segment inertia
// parameters", Journal of Biomechanics 29 (1996), table 4. Values from memory. The trunk's three
// parts lie on the figure's links: the lower part on the pelvis, the middle on the lumbar and lower
// thoracic links, the upper on the upper thoracic link; the head is placed along its own axis.
var masses = []mass{
	{"lower trunk", [2]float64{12.47, 11.17}, [2]float64{45, 45}, "pelvis0", "pelvis1"},
	{"middle trunk", [2]float64{14.65, 16.33}, [2]float64{45, 45}, "lumbar0", "lowthx1"},
	{"upper trunk", [2]float64{15.45, 15.96}, [2]float64{40, 40}, "upthx0", "upthx1"},
	{"upper arm", [2]float64{2.55, 2.71}, [2]float64{57.54, 57.72}, "sho", "elb"},
	{"forearm", [2]float64{1.38, 1.62}, [2]float64{45.59, 45.74}, "elb", "wri"},
	{"hand", [2]float64{.56, .61}, [2]float64{47, 47}, "wri", "fin"},
	{"thigh", [2]float64{14.78, 14.16}, [2]float64{36.12, 40.95}, "hip", "knee"},
	{"shank", [2]float64{4.81, 4.33}, [2]float64{44.16, 44.59}, "knee", "ank"},
	{"foot", [2]float64{1.29, 1.37}, [2]float64{55, 55}, "ank", "ball"},
}

// headShare is the head's share of body mass in percent; headUp how far its centre of mass lies up
// from the skull base, in statures.
var headShare = [2]float64{6.68, 6.94}

const headUp = .052

func (s Sex) of(v [2]float64) float64 {
	switch s {
	case Female:
		return v[0]
	case Male:
		return v[1]
	}
	return (v[0] + v[1]) / 2
}

// Lump is a mass at a point: percent of body mass, and its place in statures.
type Lump struct {
	Name  string
	Side  string // "R", "L" or empty
	Share float64
	At    Point
}

// Lumps are the masses of a placed figure. Their shares add up to 100 percent.
func (f *Figure) Lumps(sex Sex) []Lump {
	out := make([]Lump, 0, 16)
	for _, m := range masses {
		t := sex.of(m.at) / 100
		if _, mid := f.J[m.from]; mid && m.name[len(m.name)-5:] == "trunk" {
			out = append(out, Lump{m.name, "", sex.of(m.share), Mix(f.J[m.from], f.J[m.to], t)})
			continue
		}
		for _, s := range sides {
			n := s.String()
			out = append(out, Lump{m.name, n, sex.of(m.share), Mix(f.J[m.from+n], f.J[m.to+n], t)})
		}
	}
	return append(out, Lump{"head", "", sex.of(headShare), Local(f.J["atlas"], f.A["head"], .008, headUp)})
}

// CentreOfMass is the centre of mass of the whole body, in statures.
func (f *Figure) CentreOfMass(sex Sex) Point {
	var sum, x, y float64
	for _, l := range f.Lumps(sex) {
		sum += l.Share
		x += l.Share * l.At.X
		y += l.Share * l.At.Y
	}
	return Point{x / sum, y / sum}
}

// touching is how near a part must come to the mat to bear weight, in statures.
const touching = .012

// headTouching is the same for the head, which hair and a towel bring nearer.
const headTouching = .04

// rests tells whether a part lies on the mat (or on what it is placed on).
func (f *Figure) rests(part string) bool {
	near := touching
	if part == "head" {
		near = headTouching
	}
	return lowest(f.Points(part)) <= f.Base/100+near
}

// armParts are what can bear at the end of an arm.
var armParts = []string{"hand", "forearm"}

// pressure is the middle of where a kind of limb bears, right and left, and whether it does.
func (f *Figure) pressure(parts []string) (x float64, n int) {
	for _, s := range sides {
		for _, p := range parts {
			if !f.rests(p + s.String()) {
				continue
			}
			var at Point
			switch p {
			case "foot":
				at = f.J["ball"+s.String()] // a toe stands; a flat foot presses near its middle
				if f.A["foot"+s.String()] > -20 && f.A["foot"+s.String()] < 20 {
					at = Mix(f.J["ank"+s.String()], f.J["ball"+s.String()], .45)
				}
			case "knee":
				at = f.J["knee"+s.String()]
			case "hand":
				at = Mix(f.J["wri"+s.String()], f.J["fin"+s.String()], .3)
			case "forearm":
				at = Mix(f.J["elb"+s.String()], f.J["wri"+s.String()], .35)
			}
			x += at.X
			n++
		}
	}
	if n > 0 {
		x /= float64(n)
	}
	return x, n
}

// HandShare is the percentage of body weight on the hands or forearms, by statics of a beam on two
// supports: the arms, and the knees where they are down or else the feet. ok is false when the body
// does not stand on exactly those.
func (f *Figure) HandShare(sex Sex) (percent float64, ok bool) {
	arms, na := f.pressure(armParts)
	if f.rests("handR") || f.rests("handL") {
		arms, na = f.pressure([]string{"hand"})
	}
	legs, nl := f.pressure([]string{"knee"})
	if nl == 0 {
		legs, nl = f.pressure([]string{"foot"})
	}
	if na == 0 || nl == 0 || f.Front || f.Plan || lowest(f.Trunk()) < touching || math.Abs(arms-legs) < .05 {
		return 0, false
	}
	sum := 0.0
	onKnees := f.rests("kneeR") || f.rests("kneeL")
	for _, l := range f.Lumps(sex) {
		if onKnees && (l.Name == "shank" || l.Name == "foot") && (f.rests("foot"+l.Side) || f.rests("shin"+l.Side)) {
			continue // behind the knees, carried by the mat
		}
		sum += l.Share * (l.At.X - legs)
	}
	return sum / (arms - legs), true
}

// Moments of gravity about joints, in percent of body weight x height. A positive number turns the
// part down; what the mat carries counts nothing.
type Moments struct {
	Hip      float64 // both legs together, about the hips, of legs that are in the air
	Lumbar   float64 // the legs in the air about the joint between lumbar and thoracic spine, with the pelvis when it is lifted
	Neck     float64 // the head about the base of the neck, when it is in the air
	Curl     float64 // head and upper trunk about the middle of the back, when the head is lifted
	Shoulder float64 // both arms, about the shoulders, of arms that are in the air
}

// Moments works out the gravity moments of a placed figure in side view. In plan and front view the
// picture does not show the lever against gravity, and ok is false.
func (f *Figure) Moments(sex Sex) (m Moments, ok bool) {
	if f.Front || f.Plan {
		return m, false
	}
	legs, arms := []string{"thigh", "shank", "foot"}, []string{"upper arm", "forearm", "hand"}
	lumps := f.Lumps(sex)
	about := func(joint Point, names []string, side string) (sum float64) {
		for _, l := range lumps {
			if l.Side == side && slices.Contains(names, l.Name) {
				sum += l.Share * (l.At.X - joint.X)
			}
		}
		return sum
	}
	for _, s := range sides {
		n := s.String()
		if !f.rests("foot"+n) && !f.rests("knee"+n) && !f.rests("shin"+n) {
			m.Hip += about(f.J["hip"+n], legs, n)
			m.Lumbar += about(f.J["lumbar1"], legs, n)
		}
		if !f.rests("hand"+n) && !f.rests("forearm"+n) && !f.rests("elbow"+n) && f.Plant["hand"+n].Part == "" {
			m.Shoulder += math.Abs(about(f.J["sho"+n], arms, n))
		}
	}
	m.Hip, m.Lumbar = math.Abs(m.Hip), math.Abs(m.Lumbar)
	if !f.rests("head") {
		for _, l := range lumps {
			if l.Name == "head" {
				m.Neck = math.Abs(l.Share * (l.At.X - f.J["neck0"].X))
			}
			if l.Name == "head" || l.Name == "upper trunk" {
				m.Curl += l.Share * (l.At.X - f.J["lowthx1"].X)
			}
		}
		m.Curl = math.Abs(m.Curl)
	}
	return m, true
}
