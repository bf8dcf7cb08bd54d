package draw

import (
	"math"
	"slices"

	"wavekine/core/body"
)

// outline is a piece of a limb as a polygon.
func outline(p body.Piece) (out []body.Point) {
	at := func(f [4]body.Point, t float64) body.Point {
		u := 1 - t
		x := func(a, b, c, d float64) float64 { return u*u*u*a + 3*u*u*t*b + 3*u*t*t*c + t*t*t*d }
		return body.Point{X: x(f[0].X, f[1].X, f[2].X, f[3].X), Y: x(f[0].Y, f[1].Y, f[2].Y, f[3].Y)}
	}
	round := func(c body.Point, from, to body.Point) {
		a := math.Atan2(from.Y-c.Y, from.X-c.X)
		r := body.Dist(c, from)
		b := math.Atan2(to.Y-c.Y, to.X-c.X)
		for b > a {
			b -= 2 * math.Pi
		}
		for i := 1; i < 8; i++ {
			t := a + (b-a)*float64(i)/8
			out = append(out, body.Point{X: c.X + r*math.Cos(t), Y: c.Y + r*math.Sin(t)})
		}
	}
	for i := range 8 {
		out = append(out, at(p.Left, float64(i)/7))
	}
	round(p.To, p.Left[3], p.Right[3])
	for i := 7; i >= 0; i-- {
		out = append(out, at(p.Right, float64(i)/7))
	}
	round(p.From, p.Right[0], p.Left[0])
	return out
}

// smooth samples a closed Catmull-Rom outline.
func smooth(pts []body.Point) (out []body.Point) {
	k := len(pts)
	for i := range pts {
		for s := range 3 {
			out = append(out, body.CatmullRom(pts[(i+k-1)%k], pts[i], pts[(i+1)%k], pts[(i+2)%k], float64(s)/3))
		}
	}
	return out
}

// paperFigure is a figure on paper: where its origin lies and how many millimetres its stature is.
type paperFigure struct {
	paperPen
	f       *body.Figure
	x, y, s float64
}

var inkOnPaper, farOnPaper = [3]int{28, 38, 48}, [3]int{151, 162, 173}

// figure draws a figure into a box of w x h millimetres whose lower left corner is x, y.
func (p paperPen) figure(f *body.Figure, x, y, w, h float64) {
	x0, x1, y0, y1 := f.Extent()
	if !f.Plan {
		y0 = 0
	}
	s := min(w/(x1-x0+.02), h/(y1-y0+.02), h/.66)
	d := paperFigure{p, f, x + w/2 - s*(x0+x1)/2, y, s}
	if f.Plan { // seen from above, on its mat
		d.y = y - h/2 + s*(y0+y1)/2
		p.SetDrawColor(150, 150, 150)
		p.SetLineWidth(.2)
		p.RoundedRect(d.x+s*(x0-.03), d.y-s*(y1+.03), s*(x1-x0+.06), s*(y1-y0+.06), 1, "1234", "D")
	}
	for _, k := range f.Kit {
		d.kit(k)
	}
	d.parts()
	if !f.Plan {
		p.SetDrawColor(28, 38, 48)
		p.SetLineWidth(.3)
		p.Line(d.x+s*(x0-.02), d.y, d.x+s*(x1+.02), d.y)
	}
}

func (d paperFigure) fill(c [3]int) { d.SetFillColor(c[0], c[1], c[2]) }

func (d paperFigure) shape(pts []body.Point) { d.poly(pts, d.x, d.y, d.s) }

// kit draws what the movement needs; its numbers are hundredths of a stature.
func (d paperFigure) kit(k body.Thing) {
	d.SetDrawColor(28, 38, 48)
	d.SetLineWidth(.25)
	v := append(append([]float64(nil), k.Nums...), 0, 0, 0)
	line := func(a, b, c, e float64) { d.Line(d.x+d.s*a/100, d.y-d.s*b/100, d.x+d.s*c/100, d.y-d.s*e/100) }
	switch k.Name {
	case "roller":
		d.Rect(d.x+d.s*v[0]/100, d.y-d.s*.088, d.s*(v[1]-v[0])/100, d.s*.088, "D")
	case "ball":
		d.Circle(d.x+d.s*v[0]/100, d.y-d.s*v[1]/100, d.s*v[2]/100, "D")
	case "block":
		d.Rect(d.x+d.s*(v[0]-v[1]/2)/100, d.y-d.s*v[2]/100, d.s*v[1]/100, d.s*v[2]/100, "D")
	case "wall":
		line(v[0], 0, v[0], v[1])
	case "chair":
		line(v[0]-2, 0, v[0]-1.5, v[1])
		line(v[0], v[1], v[0]-26, v[1])
		line(v[0]-25, v[1], v[0]-26.5, 0)
		line(v[0]-25, v[1], v[0]-28.5, v[1]+27)
	case "strap":
		if len(k.Of) == 1 {
			a, b := d.f.J["fin"+k.Of[0]], d.f.J["ball"+k.Of[0]]
			line(a.X*100, a.Y*100, b.X*100, b.Y*100)
		}
	}
}

// parts draws the body from the far to the near.
func (d paperFigure) parts() {
	order, fars := d.f.Order, d.f.Far
	if order == nil {
		order = []string{"armL", "legL", "trunk", "legR", "armR", "head"}
		if d.f.Front {
			order = []string{"legR", "legL", "trunk", "head", "armR", "armL"}
		}
	}
	if fars == nil && !d.f.Front {
		fars = []string{"armL", "legL"}
	}
	g := &figure{f: d.f, d: medium}
	for _, part := range order {
		switch {
		case part == "trunk":
			d.trunk()
		case part == "head":
			d.fill(inkOnPaper)
			d.shape(smooth(d.f.Head()))
		case slices.Contains(fars, part):
			if !g.hidden(part, fars) {
				d.fill(farOnPaper)
				d.limb(part, 0)
			}
		default:
			d.SetFillColor(255, 255, 255)
			d.limb(part, .012)
			d.fill(inkOnPaper)
			d.limb(part, 0)
		}
	}
}

func (d paperFigure) trunk() {
	d.fill(inkOnPaper)
	d.shape(smooth(d.f.Trunk()))
	for _, n := range []string{"R", "L"} {
		if math.Abs(math.Sin(d.f.ChestYaw()*math.Pi/180)) < .3 || n == "L" && !d.f.Front {
			continue
		}
		neck, chest, sh := body.Mix(d.f.J["neck0"], d.f.J["neck1"], .3), body.Mix(d.f.J["upthx0"], d.f.J["upthx1"], .5), d.f.J["sho"+n]
		d.shape(outline(body.Capsule(body.Mix(neck, sh, .1), sh, .018, .0275)))
		d.shape(outline(body.Capsule(body.Mix(chest, sh, .45), sh, .042, .0285)))
	}
}

// limb draws an arm or a leg, grown by some statures to stand off what lies behind it.
func (d paperFigure) limb(part string, grow float64) {
	side := sideOf(part)
	for i, seg := range body.Segments(part[:3]) {
		t0 := 0.0
		if grow > 0 && i == 0 {
			t0 = .25
		}
		d.shape(outline(d.f.Limb(seg, side, grow, grow, t0)))
	}
	if part[:3] == "leg" {
		d.shape(smooth(offset(d.f.Foot(side), grow)))
	}
}
