package body

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

// ankleWeight is one cuff in percent of body mass: 1 kg on a person of 65 kg (judgement).
const ankleWeight = 1.5

// Lumps are the masses of a placed figure. Their shares add up to 100 percent, and more with ankle weights.
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
	out = append(out, Lump{"head", "", sex.of(headShare), Local(f.J["atlas"], f.A["head"], .008, headUp)})
	for _, k := range f.Kit {
		if k.Name == "weight" && len(k.Of) == 1 {
			out = append(out, Lump{"weight", k.Of[0], ankleWeight, Mix(f.J["knee"+k.Of[0]], f.J["ank"+k.Of[0]], .83)})
		}
	}
	return out
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
	low, known := f.low[part]
	if !known {
		low = lowest(f.Points(part))
		if f.low == nil {
			f.low = map[string]float64{}
		}
		f.low[part] = low
	}
	return low <= f.Base/100+near
}
