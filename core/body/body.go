// Package body is the figure that performs the movements: segment lengths, joint angles,
// forward kinematics, placing on the mat, and the outlines a drawing needs.
//
// Lengths are in statures (a standing person is 1 high), angles in degrees counter-clockwise.
// x runs right, y up, the mat surface is y = 0. The figure faces right: lying on the back its
// head is left, lying on the front its head is right.
package body

import (
	"math"
	"slices"
)

// Point is a place in the picture plane, in statures.
type Point struct{ X, Y float64 }

// Side of the body.
type Side uint8

// The two sides, also the order in which [right, left] pairs are written.
const (
	R Side = iota
	L
)

func (s Side) String() string { return "RL"[s : s+1] }

var sides = [2]Side{R, L}

// Segment lengths in statures. The limbs follow the published segment tables of de Leva (1996);
// the spine is a little longer and the neck and hand shorter than published, so that shoulder,
// chin and crown heights come out right in a drawing.
var length = map[string]float64{
	"pelvis": .078, "lumbar": .075, "lowthx": .075, "upthx": .082, "neck": .050,
	"thigh": .245, "shank": .246, "uparm": .186, "forearm": .146, "hand": .100,
}

// chain is the trunk from the hips up; spineKeys bend one link against the one before.
var (
	chain     = [5]string{"pelvis", "lumbar", "lowthx", "upthx", "neck"}
	rest      = map[string]float64{"pelvis": 7, "lumbar": -9, "lowthx": 7, "upthx": -8, "neck": -20}
	spineKeys = [5]string{"lum", "lt", "ut", "neck", "head"}
	jointKeys = [7]string{"hip", "knee", "ankle", "toe", "sho", "elb", "wri"}
)

// Joints of a limb, indices into Pose.Joint.
const (
	hip = iota
	knee
	ankle
	toe
	sho
	elb
	wri
)

const (
	shoulderUp   = .056 // shoulder height on the upper thorax
	shoulderWide = .098 // half the shoulder width
	hipWide      = .046
	sink         = .005 // how far soft parts press into the mat
)

// station is a cross-section of the trunk: link, place on it, depth in front and behind, half width.
type station struct {
	link                string
	at                  float64
	front, behind, wide float64
}

var trunkStations = [12]station{
	{"pelvis", -.62, .022, .040, .070},
	{"pelvis", -.15, .048, .067, .089},
	{"pelvis", .40, .053, .065, .092},
	{"pelvis", .95, .047, .048, .082},
	{"lumbar", .55, .045, .038, .069},
	{"lowthx", .15, .050, .043, .072},
	{"lowthx", .80, .059, .051, .083},
	{"upthx", .32, .058, .055, .090},
	{"upthx", .66, .049, .051, .092},
	{"upthx", .94, .035, .039, .060},
	{"neck", .25, .026, .026, .026},
	{"neck", 1.1, .0265, .0265, .0265},
}

// turnShare is how much of a turn of the chest a link takes part in.
var turnShare = map[string]float64{"pelvis": 0, "lumbar": .2, "lowthx": .6, "upthx": 1, "neck": 1}

// limbShape is a segment's outline: radius at top and bottom, two bulges in front, two behind.
type limbShape struct {
	r1, r2        float64
	front, behind [2]float64
}

var limbShapes = map[string]limbShape{
	"thigh":   {.0545, .0310, [2]float64{.016, .012}, [2]float64{.010, .006}},
	"shank":   {.0310, .0185, [2]float64{.004, .000}, [2]float64{.026, .004}},
	"uparm":   {.0290, .0195, [2]float64{.007, .006}, [2]float64{.007, .004}},
	"forearm": {.0195, .0135, [2]float64{.008, .001}, [2]float64{.006, .001}},
	"hand":    {.0135, .0065, [2]float64{.004, .006}, [2]float64{.004, .006}},
}

// Segment is one piece of a limb between two joints.
type Segment struct{ Name, From, To string }

// Segments of a leg and an arm, from the root outwards.
func Segments(limb string) []Segment { return slices.Clone(segments[limb]) }

var segments = map[string][]Segment{
	"leg": {{"thigh", "hip", "knee"}, {"shank", "knee", "ank"}},
	"arm": {{"uparm", "sho", "elb"}, {"forearm", "elb", "wri"}, {"hand", "wri", "fin"}},
}

// footShape is the foot about the ankle: ahead, up, and whether the point turns with the toes.
var footShape = [14]struct {
	x, y float64
	toe  bool
}{
	{-.0185, .010, false},
	{-.034, -.010, false},
	{-.0445, -.026, false},
	{-.034, -.039, false},
	{-.010, -.0375, false},
	{.024, -.036, false},
	{.060, -.039, false},
	{.084, -.039, true},
	{.104, -.0365, true},
	{.1065, -.030, true},
	{.094, -.0235, true},
	{.064, -.0150, false},
	{.034, .000, false},
	{.0185, .013, false},
}

var ball = Point{.062, -.028} // of the foot, about the ankle

// faceSide and faceFront are the head about the skull base: towards the face, up.
var (
	faceSide = []Point{
		{.004, .1200},
		{.036, .1120},
		{.0560, .0920},
		{.0575, .0780},
		{.0570, .0600},
		{.0600, .0490},
		{.0735, .0310},
		{.0625, .0235},
		{.0640, .0130},
		{.0605, .0030},
		{.0560, -.0100},
		{.0430, -.0165},
		{.0200, -.0110},
		{-.0120, .0020},
		{-.0360, .0120},
		{-.0480, .0280},
		{-.0545, .0580},
		{-.0480, .0920},
		{-.0260, .1130},
	}
	faceFront = []Point{
		{0, .121},
		{.032, .112},
		{.0500, .085},
		{.0500, .060},
		{.0460, .040},
		{.0390, .010},
		{.0220, -.0120},
		{0, -.0180},
		{-.0220, -.0120},
		{-.0390, .010},
		{-.0460, .040},
		{-.0500, .060},
		{-.0500, .085},
		{-.032, .112},
	}
)

// ---- small geometry

func cosd(a float64) float64 { return math.Cos(a * math.Pi / 180) }
func sind(a float64) float64 { return math.Sin(a * math.Pi / 180) }

// Polar is the point at distance r from p in world direction a.
func Polar(p Point, r, a float64) Point { return Point{p.X + r*cosd(a), p.Y + r*sind(a)} }

// Local is a point fwd ahead and up along world direction a; ahead is a quarter turn clockwise of up.
func Local(p Point, a, fwd, up float64) Point { return Polar(Polar(p, fwd, a-90), up, a) }

// Lerp is the number t of the way from a to b.
func Lerp(a, b, t float64) float64 { return a + (b-a)*t }

// Mix is the point t of the way from p to q.
func Mix(p, q Point, t float64) Point { return Point{Lerp(p.X, q.X, t), Lerp(p.Y, q.Y, t)} }

// Dist is the distance of two points.
func Dist(p, q Point) float64 { return math.Hypot(p.X-q.X, p.Y-q.Y) }

func angle(p, q Point) float64 { return math.Atan2(q.Y-p.Y, q.X-p.X) * 180 / math.Pi }

func mod360(a float64) float64 {
	a = math.Mod(a, 360)
	if a < 0 {
		a += 360
	}
	return a
}

func wrap(a float64) float64 { return mod360(a+180) - 180 }

func lowest(pts []Point) float64 {
	y := math.Inf(1)
	for _, p := range pts {
		y = min(y, p.Y)
	}
	return y
}

// CatmullRom is the point t of the way from p1 to p2 on the smooth curve through all four.
func CatmullRom(p0, p1, p2, p3 Point, t float64) Point {
	f := func(a, b, c, d float64) float64 {
		return .5 * (2*b + (c-a)*t + (2*a-5*b+4*c-d)*t*t + (3*b-a-3*c+d)*t*t*t)
	}
	return Point{f(p0.X, p1.X, p2.X, p3.X), f(p0.Y, p1.Y, p2.Y, p3.Y)}
}

func bezier(p [4]Point, t float64) Point {
	u := 1 - t
	f := func(a, b, c, d float64) float64 { return u*u*u*a + 3*u*u*t*b + 3*u*t*t*c + t*t*t*d }
	return Point{f(p[0].X, p[1].X, p[2].X, p[3].X), f(p[0].Y, p[1].Y, p[2].Y, p[3].Y)}
}

// bisect finds a root of f between a and b by halving n times.
func bisect(f func(float64) float64, a, b float64, n int) float64 {
	up := f(a) > 0
	for range n {
		c := (a + b) / 2
		if (f(c) > 0) == up {
			a = c
		} else {
			b = c
		}
	}
	return (a + b) / 2
}
