package draw

import (
	"bytes"
	"math"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/body"
)

// The colours of a figure are CSS variables, so that one picture serves paper and dark.
const (
	ink      = "var(--ink,#1c2630)"
	paper    = "var(--paper,#fff)"
	farTint  = "var(--far,#cbd2d9)"
	farSmall = "var(--far-s,#97a2ad)"
)

// detail is how a figure is drawn at a size: growth and rim in statures, line widths in pixels.
type detail struct {
	name           byte
	grow, growArm  float64
	rim, line, mat float64
}

var (
	small  = &detail{'S', .007, .009, .020, 0, 1.0}
	medium = &detail{'M', .0015, .002, .014, 1.0, 1.2}
	large  = &detail{'L', 0, 0, .009, 1.6, 2.0}
)

func detailFor(pxPerStature float64) *detail {
	switch {
	case pxPerStature < 60:
		return small
	case pxPerStature < 190:
		return medium
	}
	return large
}

// pen carries points in statures onto the page.
type pen struct{ s, ox, oy float64 }

func (t pen) xy(p body.Point) (x, y float64) { return t.ox + t.s*p.X, t.oy - t.s*p.Y }

func (t pen) put(b []byte, p body.Point) []byte {
	x, y := t.xy(p)
	return num(append(num(b, x), ' '), y)
}

func area(pts []body.Point) (a float64) {
	for i, p := range pts {
		q := pts[(i+1)%len(pts)]
		a += p.X*q.Y - q.X*p.Y
	}
	return a
}

// offset pushes a closed outline outwards by g.
func offset(pts []body.Point, g float64) []body.Point {
	if g == 0 {
		return pts
	}
	sg := -1.0
	if area(pts) > 0 {
		sg = 1
	}
	out := make([]body.Point, len(pts))
	for i, p := range pts {
		a, b := pts[(i+len(pts)-1)%len(pts)], pts[(i+1)%len(pts)]
		l := body.Dist(a, b)
		if l == 0 {
			l = 1
		}
		out[i] = body.Point{X: p.X + sg*g*(b.Y-a.Y)/l, Y: p.Y - sg*g*(b.X-a.X)/l}
	}
	return out
}

// trail writes a closed path in steps from point to point, in tenths of a pixel: half as long, packed, as one in places.
// Each step starts from where the last one was rounded to, so that nothing drifts.
type trail struct {
	b    []byte
	t    pen
	x, y int
	last byte
}

func (r *trail) tenths(p body.Point) (x, y int) {
	px, py := r.t.xy(p)
	return int(math.Round(10 * px)), int(math.Round(10 * py))
}

// number appends tenths, with a space before it where it would run into the number before.
func (r *trail) number(v int) {
	if c := r.b[len(r.b)-1]; v >= 0 && c >= '0' && c <= '9' {
		r.b = append(r.b, ' ')
	}
	if v < 0 {
		r.b, v = append(r.b, '-'), -v
	}
	if v >= 10 || v == 0 {
		r.b = strconv.AppendInt(r.b, int64(v/10), 10)
	}
	if v%10 != 0 {
		r.b = append(r.b, '.', byte('0'+v%10))
	}
}

// command appends the letter, which may be left out when it is the same again.
func (r *trail) command(c byte) {
	if c != r.last {
		r.b, r.last = append(r.b, c), c
	}
}

func (r *trail) step(p body.Point) {
	x, y := r.tenths(p)
	r.number(x - r.x)
	r.number(y - r.y)
}

func (r *trail) move(p body.Point) {
	r.command('M')
	r.x, r.y = r.tenths(p)
	r.number(r.x)
	r.number(r.y)
}

func (r *trail) curve(c1, c2, to body.Point) {
	r.command('c')
	r.step(c1)
	r.step(c2)
	r.step(to)
	r.x, r.y = r.tenths(to)
}

// smooth is a curve that goes on in the direction of the one before, its first handle that one's last mirrored.
func (r *trail) smooth(c2, to body.Point) {
	r.command('s')
	r.step(c2)
	r.step(to)
	r.x, r.y = r.tenths(to)
}

func (r *trail) arc(radius float64, to body.Point) {
	r.command('a')
	n := int(math.Round(10 * radius * r.t.s))
	r.number(n)
	r.number(n)
	r.b = append(r.b, " 0 0 1"...)
	r.step(to)
	r.x, r.y = r.tenths(to)
}

// closed is a smooth closed path, always clockwise on the page, so that overlapping pieces unite.
func closed(b []byte, t pen, pts []body.Point) []byte {
	if area(pts) > 0 {
		pts = slices.Clone(pts)
		slices.Reverse(pts)
	}
	k, r := len(pts), trail{b: b, t: t}
	r.move(pts[0])
	for i := range pts { // a closed spline of Catmull and Rom: equal handles on both sides of each point
		p0, p1, p2, p3 := pts[(i+k-1)%k], pts[i], pts[(i+1)%k], pts[(i+2)%k]
		c2 := body.Point{X: p2.X - (p3.X-p1.X)/6, Y: p2.Y - (p3.Y-p1.Y)/6}
		if i == 0 {
			r.curve(body.Point{X: p1.X + (p2.X-p0.X)/6, Y: p1.Y + (p2.Y-p0.Y)/6}, c2, p2)
		} else {
			r.smooth(c2, p2)
		}
	}
	return append(r.b, 'Z')
}

// piece draws flank, round end, flank, round end.
func piece(b []byte, t pen, p body.Piece) []byte {
	r := trail{b: b, t: t}
	r.move(p.Left[0])
	r.curve(p.Left[1], p.Left[2], p.Left[3])
	r.arc(p.R2, p.Right[3])
	r.curve(p.Right[2], p.Right[1], p.Right[0])
	r.arc(p.R1, p.Left[0])
	return append(r.b, 'Z')
}

// figure is one drawing under way.
type figure struct {
	svg
	f *body.Figure
	t pen
	d *detail
}

func (g *figure) fill(d []byte, colour string) {
	if len(d) > 0 {
		g.str(`<path d="`, string(d), `" fill="`, colour, `"/>`)
	}
}

func (g *figure) stroke(w float64, extra string, pts ...body.Point) {
	g.str(`<path d="`)
	for i, p := range pts {
		g.b = g.t.put(append(g.b, "ML"[min(i, 1)]), p)
	}
	g.str(`" fill="none" stroke="`, ink, `" stroke-width="`).num(w).str(`" stroke-linecap="round" stroke-linejoin="round"`, extra, `/>`)
}

func (g *figure) box(x0, y0, x1, y1, r float64, colour string, w float64) {
	x, y := g.t.xy(body.Point{X: x0, Y: y1})
	g.str(`<rect`).attr("x", x).attr("y", y).attr("width", g.t.s*(x1-x0)).attr("height", g.t.s*(y1-y0)).attr("rx", r*g.t.s)
	g.str(` fill="`, colour, `" stroke="`, ink, `"`).attr("stroke-width", w).str(`/>`)
}

func sideOf(part string) body.Side {
	if strings.HasSuffix(part, "L") {
		return body.L
	}
	return body.R
}

// limb is the outline of a limb, or of only some of its segments.
func (g *figure) limb(part string, grow float64, only []string) (b []byte) {
	s := sideOf(part)
	has := func(n string) bool { return only == nil || slices.Contains(only, n) }
	for _, seg := range body.Segments(part[:3]) {
		if has(seg.Name) {
			b = piece(b, g.t, g.f.Limb(seg, s, grow, grow, 0))
		}
	}
	if part[:3] == "leg" && has("shank") {
		b = closed(b, g.t, offset(g.f.Foot(s), grow))
	}
	return b
}

// rim is a paper-coloured border around a limb; it starts at nothing a little below the root joint.
func (g *figure) rim(part string, grow float64) (b []byte) {
	s := sideOf(part)
	for i, seg := range body.Segments(part[:3]) {
		switch {
		case i > 0:
			b = piece(b, g.t, g.f.Limb(seg, s, grow, grow, 0))
		case g.d == small && seg.Name == "uparm":
		case g.f.Front && seg.Name == "uparm":
			b = piece(b, g.t, g.f.Limb(seg, s, -.006, grow, .42))
		default:
			b = piece(b, g.t, g.f.Limb(seg, s, -.006, grow, .22))
		}
	}
	if part[:3] == "leg" {
		b = closed(b, g.t, offset(g.f.Foot(s), grow))
	}
	return b
}

// shoulders joins the shoulders to neck and chest when the chest is turned to the viewer.
func (g *figure) shoulders(grow float64) (b []byte) {
	f := g.f
	if math.Abs(math.Sin(f.ChestYaw()*math.Pi/180)) < .3 {
		return nil
	}
	chest, neck := body.Mix(f.J["upthx0"], f.J["upthx1"], .5), body.Mix(f.J["neck0"], f.J["neck1"], .3)
	for _, n := range []string{"R", "L"} {
		if n == "L" && !f.Front {
			break
		}
		sh := f.J["sho"+n]
		b = piece(b, g.t, body.Capsule(body.Mix(neck, sh, .1), sh, .018+grow, .0275+grow))
		b = piece(b, g.t, body.Capsule(body.Mix(chest, sh, .45), sh, .042+grow, .0285+grow))
	}
	return b
}

// spine shows the vertebrae: a row of dots at large size, a fine line at middle size.
func (g *figure) spine() {
	if g.f.Front || g.d == small {
		return
	}
	o := g.f.Trunk()
	k := len(o) / 2
	var pts []body.Point
	for i := 1; i < k-2; i++ {
		pts = append(pts, body.Mix(o[2*k-1-i], o[i], .30))
	}
	var dots []body.Point
	run, last := 0.0, pts[0]
	for i := range len(pts) - 1 {
		for t := range 12 {
			p := body.CatmullRom(pts[max(i-1, 0)], pts[i], pts[i+1], pts[min(i+2, len(pts)-1)], float64(t)/12)
			if run += body.Dist(last, p); run >= .0175 {
				dots, run = append(dots, p), 0
			}
			last = p
		}
	}
	if g.d == medium {
		g.str(`<path d="`)
		for i, p := range dots {
			g.b = g.t.put(append(g.b, "ML"[min(i, 1)]), p)
		}
		g.str(`" fill="none" stroke="`, paper, `" stroke-width="1" stroke-linecap="round"/>`)
		return
	}
	for _, p := range dots[:min(18, len(dots))] {
		x, y := g.t.xy(p)
		g.str(`<circle`).attr("cx", x).attr("cy", y).attr("r", .0042*g.t.s).str(` fill="`, paper, `"/>`)
	}
}

// headMark is the ear in profile, the hairline when the face looks out of the page.
func (g *figure) headMark() {
	y := g.f.HeadYaw() * math.Pi / 180
	sin := math.Sin(y)
	at := func(lead string, x, u float64) {
		g.b = g.t.put(append(g.b, lead...), body.Local(g.f.J["atlas"], g.f.A["head"], x, u))
	}
	g.str(`<path d="`)
	if math.Abs(sin) > .8 {
		c := .02 * math.Cos(y)
		at("M", c-.036, .062)
		at("C", c-.030, .088)
		at(" ", c-.008, .092)
		at(" ", c+.010, .090)
		at("C", c+.024, .088)
		at(" ", c+.032, .078)
		at(" ", c+.036, .062)
	} else {
		c, k := -.040*sin, 1-.4*math.Abs(sin)
		at("M", c-.006*k, .026)
		at("C", c-.018*k, .054)
		at(" ", c+.010*k, .064)
		at(" ", c+.007*k, .044)
	}
	g.str(`" fill="none" stroke="`, paper, `" stroke-width="`).num(.0045 * g.t.s).str(`" stroke-linecap="round"/>`)
}

func (g *figure) kit() {
	w := g.d.mat
	for _, k := range g.f.Kit {
		var v [3]float64
		for i := range min(3, len(k.Nums)) {
			v[i] = k.Nums[i] / 100
		}
		x := v[0]
		pt := func(x, y float64) body.Point { return body.Point{X: x, Y: y} }
		switch k.Name {
		case "roller":
			g.box(x, 0, v[1], .088, .012, paper, w)
			g.stroke(w*.7, "", pt(x+.022, .004), pt(x+.022, .084))
		case "roller end":
			cx, cy := g.t.xy(pt(x, .044))
			g.str(`<circle`).attr("cx", cx).attr("cy", cy).attr("r", .044*g.t.s).str(` fill="`, paper, `" stroke="`, ink, `"`).attr("stroke-width", w).str(`/>`)
		case "ball":
			cx, cy := g.t.xy(pt(x, v[1]))
			g.str(`<circle`).attr("cx", cx).attr("cy", cy).attr("r", v[2]*g.t.s).str(` fill="`, paper, `" stroke="`, ink, `"`).attr("stroke-width", w).str(`/>`)
		case "block":
			g.box(x-v[1]/2, 0, x+v[1]/2, v[2], .008, paper, w)
		case "wall":
			g.stroke(w*1.6, "", pt(x, 0), pt(x, v[1]))
			if g.d != small {
				away := -.03 // hatched on the side where nobody is
				if x > g.f.J["hip"].X {
					away = .03
				}
				for y := .06; y < v[1]; y += .06 {
					g.stroke(w*.7, "", pt(x, y), pt(x+away, y-.03))
				}
			}
		case "chair":
			h := v[1]
			g.stroke(w*1.4, "", pt(x-.02, 0), pt(x-.015, h), pt(x-.25, h), pt(x-.265, 0))
			g.stroke(w*1.4, "", pt(x-.25, h), pt(x-.285, h+.27))
			g.box(x-.26, h-.022, x, h, .010, paper, w)
		}
	}
}

// straps run from the hand round the ball of the foot.
func (g *figure) straps() {
	for _, k := range g.f.Kit {
		if k.Name == "strap" && len(k.Of) == 1 {
			g.stroke(g.d.mat*.9, "", g.f.J["fin"+k.Of[0]], g.f.J["ball"+k.Of[0]])
		}
	}
}

func (g *figure) ankleWeight(n string) {
	p, q := body.Mix(g.f.J["knee"+n], g.f.J["ank"+n], .76), body.Mix(g.f.J["knee"+n], g.f.J["ank"+n], .90)
	h := g.d.rim * .8
	g.fill(piece(nil, g.t, body.Capsule(p, q, .031+h, .029+h)), paper)
	g.fill(piece(nil, g.t, body.Capsule(p, q, .031, .029)), ink)
}

// marks are dashed ways of a moving point about a joint: swing, centre, point, from, to.
func (g *figure) marks() {
	w, z := 1.1, 3.4
	switch g.d {
	case small:
		w, z = .8, 2.2
	case large:
		w, z = 1.8, 7
	}
	z /= g.t.s
	for _, m := range g.f.Mark {
		if len(m.Of) != 2 || len(m.Nums) != 2 {
			continue
		}
		c, p := g.f.BodyPoint(m.Of[0], .5), g.f.BodyPoint(m.Of[1], .5)
		r, a0, a1 := body.Dist(c, p)+.02, m.Nums[0], m.Nums[1]
		k := max(3, int(math.Abs(a1-a0)/4))
		pts := make([]body.Point, k+1)
		for i := range pts {
			pts[i] = body.Polar(c, r, body.Lerp(a0, a1, float64(i)/float64(k)))
		}
		d := a1 - 90
		if a1 > a0 {
			d = a1 + 90
		}
		var dash svg
		dash.str(` stroke-dasharray="`).num(w * 2.2).str(" ").num(w * 2.4).str(`"`)
		g.stroke(w, string(dash.b), pts...)
		g.stroke(w, "", body.Polar(pts[k], z, d+150), pts[k], body.Polar(pts[k], z, d-150))
	}
}

// crossed tells whether an arm passes close to the head, so that the head must stay on top.
func (g *figure) crossed() bool {
	c := body.Local(g.f.J["atlas"], g.f.A["head"], 0, .05)
	for _, ab := range [][2]string{{"shoR", "elbR"}, {"elbR", "wriR"}} {
		for t := 1; t < 5; t++ {
			if body.Dist(c, body.Mix(g.f.J[ab[0]], g.f.J[ab[1]], float64(t)/4)) < .085 {
				return true
			}
		}
	}
	return false
}

func (g *figure) hidden(part string, far []string) bool {
	if !slices.Contains(far, part) {
		return false
	}
	for _, seg := range body.Segments(part[:3]) {
		for _, j := range []string{seg.From, seg.To} {
			if body.Dist(g.f.J[j+"R"], g.f.J[j+"L"]) >= .004 {
				return false
			}
		}
	}
	return true
}

func (g *figure) growOf(part string) float64 {
	if part[:3] == "arm" {
		return g.d.growArm
	}
	return g.d.grow
}

func (g *figure) put(part string, far bool, only []string) {
	grow := g.growOf(part)
	switch {
	case !far:
		g.fill(g.limb(part, grow, only), ink)
	case g.d.line == 0:
		g.fill(g.limb(part, grow, only), farSmall)
	default:
		g.fill(g.limb(part, grow-.002, only), ink)
		g.fill(g.limb(part, grow-.002-g.d.line/g.t.s, only), farTint)
	}
}

func (g *figure) body() {
	f, d := g.f, g.d
	far, order := f.Far, f.Order
	if far == nil && !f.Front {
		far = []string{"armL", "legL"}
	}
	if order == nil {
		order = []string{"armL", "legL", "trunk", "legR", "armR", "head"}
		if f.Front {
			order = []string{"legR", "legL", "trunk", "head", "armR", "armL"}
		}
	}
	near := map[string][]string{} // limbs of which only some segments are far: those go first
	for _, l := range []string{"legR", "legL", "armR", "armL"} {
		var fs, ns []string
		for _, seg := range body.Segments(l[:3]) {
			if slices.Contains(far, seg.Name+l[3:]) {
				fs = append(fs, seg.Name)
			} else {
				ns = append(ns, seg.Name)
			}
		}
		if fs != nil {
			near[l] = ns
			g.put(l, true, fs)
		}
	}
	for _, part := range order {
		switch {
		case part == "trunk":
			g.fill(append(closed(nil, g.t, offset(f.Trunk(), d.grow)), g.shoulders(d.grow)...), ink)
		case part == "head":
			head := closed(nil, g.t, offset(f.Head(), d.grow))
			if !f.Front && g.crossed() {
				g.fill(closed(nil, g.t, offset(f.Head(), d.grow+d.rim*.8)), paper)
				head = piece(head, g.t, body.Capsule(body.Mix(f.J["neck0"], f.J["atlas"], .15), f.J["atlas"], .0262+d.grow, .0262+d.grow))
			}
			g.fill(head, ink)
			if d == large {
				g.headMark()
			}
		case !g.hidden(part, far):
			if only, ok := near[part]; !ok {
				g.fill(g.rim(part, g.growOf(part)+d.rim), paper)
			} else if part[:3] == "leg" && !slices.Contains(only, "thigh") {
				g.fill(g.limb(part, g.growOf(part)+d.rim, only), paper)
			}
			g.put(part, slices.Contains(far, part), near[part])
			for _, k := range f.Kit {
				if k.Name == "weight" && len(k.Of) == 1 && part == "leg"+k.Of[0] {
					g.ankleWeight(k.Of[0])
				}
			}
		}
	}
	g.spine()
}

// Window keeps one camera over several pictures: left, right and top in statures.
type Window struct{ X0, X1, Top float64 }

// Figure draws a solved figure in a box of w x h pixels. id and label may be empty;
// with a label the picture speaks, without it is decoration.
func Figure(f *body.Figure, w, h float64, win *Window, id, label string) []byte {
	g := &figure{f: f}
	pad := max(2, min(w, h)*.05)
	x0, x1, y0, y1 := f.Extent()
	switch {
	case f.Plan:
		x0, x1, y0, y1 = x0-.04, x1+.04, y0-.05, y1+.05
	case win != nil:
		x0, x1, y0, y1 = win.X0, win.X1, 0, win.Top
	default:
		y0 = 0
	}
	s := min((w-2*pad)/(x1-x0), (h-2*pad)/(y1-y0+.01))
	if win == nil || win.Top < .74 { // low poses do not become giants
		top := .74
		if h < 50 {
			top = .66
		}
		s = min(s, (h-2*pad)/top)
	}
	g.d = detailFor(s)
	g.str(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 `).num(w).str(" ").num(h).str(`"`)
	if id != "" {
		g.str(` id="`).text(id).str(`"`)
	}
	if label != "" {
		g.str(` role="img" aria-label="`).text(label).str(`"`)
	} else {
		g.str(` aria-hidden="true"`)
	}
	g.str(`>`)
	if f.Plan {
		g.t = pen{s, w/2 - s*(x0+x1)/2, h/2 + s*(y0+y1)/2}
		g.box(x0, y0, x1, y1, .03, "none", g.d.mat*.8)
		g.body()
	} else {
		g.t = pen{s, w/2 - s*(x0+x1)/2, h - pad}
		left, right := g.t.ox+s*x0-pad*.5, g.t.ox+s*x1+pad*.5
		g.kit()
		g.body()
		g.straps()
		g.marks()
		g.str(`<rect`).attr("x", left-2).attr("y", g.t.oy).attr("width", right-left+4).attr("height", pad).str(` fill="`, paper, `"/>`)
		g.str(`<path d="M`).num(left).str(" ").num(g.t.oy + g.d.mat/2).str("H").num(right)
		g.str(`" stroke="`, ink, `" stroke-width="`).num(g.d.mat).str(`" stroke-linecap="round"/>`)
	}
	g.str(`</svg>`)
	return g.b
}

// Frames draws a movement's way from its first to its last key pose as n pictures in one, each in a
// group of class "frame", all with the same camera.
func Frames(strip body.Strip, w, h float64, n int) []byte {
	times := make([]float64, n)
	for i := range times { // slow at both ends, as a limb is
		x := float64(i) / float64(max(n-1, 1))
		times[i] = x * x * (3 - 2*x)
	}
	figs := strip.Frames(times...)
	win := Window{X0: math.Inf(1), X1: math.Inf(-1)}
	for _, f := range figs {
		x0, x1, _, y1 := f.Extent()
		win.X0, win.X1, win.Top = min(win.X0, x0), max(win.X1, x1), max(win.Top, y1)
	}
	var out svg
	out.str(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 `).num(w).str(" ").num(h).str(`" aria-hidden="true">`)
	for i, f := range figs {
		b := Figure(f, w, h, &win, "", "")
		from, to := bytes.IndexByte(b, '>')+1, bytes.LastIndex(b, []byte("</svg>"))
		out.str(`<g class="frame"`)
		if i < len(figs)-1 {
			out.str(` display="none"`)
		}
		out.str(`>`, string(b[from:to]), `</g>`)
	}
	out.str(`</svg>`)
	return out.b
}
