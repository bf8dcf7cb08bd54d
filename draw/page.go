package draw

import (
	"bytes"
	"math"
	"strings"

	"codeberg.org/go-pdf/fpdf"

	"wavekine/core/body"
	"wavekine/core/export"
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

// paper is a page under way.
type paperPen struct {
	*fpdf.Fpdf
	tr func(string) string
}

func (p paperPen) poly(pts []body.Point, x, y, s float64) {
	out := make([]fpdf.PointType, len(pts))
	for i, q := range pts {
		out[i] = fpdf.PointType{X: x + s*q.X, Y: y - s*q.Y}
	}
	p.Polygon(out, "F")
}

// figure draws a figure into a box of w x h millimetres whose lower left corner is x, y.
func (p paperPen) figure(f *body.Figure, x, y, w, h float64) {
	x0, x1, y0, y1 := f.Extent()
	if !f.Plan {
		y0 = 0
	}
	s := min(w/(x1-x0+.02), h/(y1-y0+.02), h/.66)
	ox, oy := x+w/2-s*(x0+x1)/2, y
	if f.Plan {
		oy = y - h/2 + s*(y0+y1)/2
		p.SetDrawColor(150, 150, 150)
		p.SetLineWidth(.2)
		p.RoundedRect(ox+s*(x0-.03), oy-s*(y1+.03), s*(x1-x0+.06), s*(y1-y0+.06), 1, "1234", "D")
	}
	ink, far := [3]int{28, 38, 48}, [3]int{151, 162, 173}
	fill := func(c [3]int) { p.SetFillColor(c[0], c[1], c[2]) }
	for _, k := range f.Kit {
		p.SetDrawColor(28, 38, 48)
		p.SetLineWidth(.25)
		v := append(append([]float64(nil), k.Nums...), 0, 0, 0)
		line := func(a, b, c, d float64) { p.Line(ox+s*a/100, oy-s*b/100, ox+s*c/100, oy-s*d/100) }
		switch k.Name {
		case "roller":
			p.Rect(ox+s*v[0]/100, oy-s*.088, s*(v[1]-v[0])/100, s*.088, "D")
		case "block":
			p.Rect(ox+s*(v[0]-v[1]/2)/100, oy-s*v[2]/100, s*v[1]/100, s*v[2]/100, "D")
		case "wall":
			line(v[0], 0, v[0], v[1])
		case "chair":
			line(v[0]-2, 0, v[0]-1.5, v[1])
			line(v[0], v[1], v[0]-26, v[1])
			line(v[0]-25, v[1], v[0]-26.5, 0)
			line(v[0]-25, v[1], v[0]-28.5, v[1]+27)
		case "strap":
			if len(k.Of) == 1 {
				a, b := f.J["fin"+k.Of[0]], f.J["ball"+k.Of[0]]
				line(a.X*100, a.Y*100, b.X*100, b.Y*100)
			}
		}
	}
	limb := func(part string, grow float64) {
		side := sideOf(part)
		for i, seg := range body.Segments(part[:3]) {
			t0 := 0.0
			if grow > 0 && i == 0 {
				t0 = .25
			}
			p.poly(outline(f.Limb(seg, side, grow, grow, t0)), ox, oy, s)
		}
		if part[:3] == "leg" {
			p.poly(smooth(offset(f.Foot(side), grow)), ox, oy, s)
		}
	}
	order, fars := f.Order, f.Far
	if order == nil {
		order = []string{"armL", "legL", "trunk", "legR", "armR", "head"}
		if f.Front {
			order = []string{"legR", "legL", "trunk", "head", "armR", "armL"}
		}
	}
	if fars == nil && !f.Front {
		fars = []string{"armL", "legL"}
	}
	has := func(list []string, one string) bool {
		return strings.Contains(" "+strings.Join(list, " ")+" ", " "+one+" ")
	}
	g := &figure{f: f, d: medium}
	for _, part := range order {
		switch {
		case part == "trunk":
			fill(ink)
			p.poly(smooth(f.Trunk()), ox, oy, s)
			for _, n := range []string{"R", "L"} {
				if math.Abs(math.Sin(f.ChestYaw()*math.Pi/180)) < .3 || n == "L" && !f.Front {
					continue
				}
				neck, chest, sh := body.Mix(f.J["neck0"], f.J["neck1"], .3), body.Mix(f.J["upthx0"], f.J["upthx1"], .5), f.J["sho"+n]
				p.poly(outline(body.Capsule(body.Mix(neck, sh, .1), sh, .018, .0275)), ox, oy, s)
				p.poly(outline(body.Capsule(body.Mix(chest, sh, .45), sh, .042, .0285)), ox, oy, s)
			}
		case part == "head":
			fill(ink)
			p.poly(smooth(f.Head()), ox, oy, s)
		case has(fars, part):
			if !g.hidden(part, fars) {
				fill(far)
				limb(part, 0)
			}
		default:
			p.SetFillColor(255, 255, 255)
			limb(part, .012)
			fill(ink)
			limb(part, 0)
		}
	}
	if !f.Plan {
		p.SetDrawColor(28, 38, 48)
		p.SetLineWidth(.3)
		p.Line(ox+s*(x0-.02), oy, ox+s*(x1+.02), oy)
	}
}

const stopWords = "Stop if it hurts; ask whoever treats you. This sheet is a teaching aid and defers to them and to local rules."

// CueSheet is the teacher's sheet as a PDF: clock, sides, counts, words, options and cautions. Twenty
// minutes of eighteen rows fit one A4 page.
func CueSheet(sh export.Sheet) ([]byte, error) {
	var b []byte
	for _, try := range []struct {
		scale float64
		fine  int // lines of small print
	}{{1, 2}, {.94, 2}, {1, 1}, {.93, 1}, {.86, 1}, {.8, 1}, {.86, 0}, {.8, 0}, {.76, 0}} {
		var pages int
		var err error
		if b, pages, err = cueSheet(sh, try.scale, try.fine); err != nil || pages == 1 {
			return b, err
		}
	}
	return b, nil
}

// whole asks for all of a text, in as many lines as it takes.
const whole = math.MaxInt32

// wrapped is text in at most n lines of a width; the last is clipped where the text is longer.
func (p paperPen) wrapped(t string, w float64, n int) (out []string) {
	words := strings.Fields(t)
	for len(words) > 0 && len(out) < n {
		k := 1
		for k < len(words) && p.GetStringWidth(p.tr(strings.Join(words[:k+1], " "))) <= w {
			k++
		}
		if len(out) == n-1 {
			k = len(words)
		}
		out = append(out, p.clip(strings.Join(words[:k], " "), w))
		words = words[k:]
	}
	return out
}

func newPaper(title string) paperPen {
	p := fpdf.New("P", "mm", "A4", "")
	p.SetTitle(title, true)
	p.SetCreator("Wavekine", true)
	p.SetMargins(12, 11, 12)
	p.SetAutoPageBreak(false, 10)
	p.SetCatalogSort(true)
	return paperPen{p, p.UnicodeTranslatorFromDescriptor("")}
}

// clip shortens text to a width at the current font.
func (p paperPen) clip(t string, w float64) string {
	t = p.tr(t)
	if p.GetStringWidth(t) <= w {
		return t
	}
	for len(t) > 1 && p.GetStringWidth(t+"...") > w {
		t = t[:len(t)-1]
	}
	return strings.TrimRight(t, " ,;") + "..."
}

func cueSheet(sh export.Sheet, k float64, fine int) ([]byte, int, error) {
	p := newPaper(sh.Title)
	const left, right, bottom = 12.0, 198.0, 285.0
	y := 0.0
	page := func() {
		p.AddPage()
		y = 11
		p.SetTextColor(23, 37, 61)
		p.SetFont("Times", "", 17*k)
		p.Text(left, y+5*k, p.clip(sh.Title, 130))
		p.SetFont("Helvetica", "", 8.5*k)
		p.SetTextColor(86, 96, 111)
		p.Text(left, y+9.5*k, p.clip(sh.Head(), 186))
		y += 12 * k
	}
	page()
	room := func(h float64) {
		if y+h > bottom-5 {
			page()
		}
	}
	for _, sec := range sh.Sections {
		room(16 * k)
		p.SetFont("Times", "", 11.5*k)
		p.SetTextColor(23, 37, 61)
		p.Text(left, y+4*k, p.clip(sec.Title, 180))
		p.SetDrawColor(218, 213, 200)
		p.SetLineWidth(.2)
		p.Line(left, y+5*k, right, y+5*k)
		y += 5.6 * k
		for _, b := range sec.Blocks {
			if b.Words != "" {
				room(14 * k)
				p.SetFont("Helvetica", "I", 8*k)
				p.SetTextColor(86, 96, 111)
				p.Text(left, y+3*k, p.clip(b.Words, 186))
				y += 4 * k
			}
			from := y - 3.6*k
			for _, r := range b.Rows {
				small := p.small(r, k, fine)
				if h := (7.5 + 2.9*float64(max(1, len(small)))) * k; y+h > bottom-5 {
					p.bracket(b, left, from, y, k)
					page()
					from = y
				}
				p.cueRow(r, small, y, k)
				y += 3.9 * k
				if r.Move != nil {
					y += (3.6 + 2.9*float64(max(1, len(small)))) * k
				}
			}
			p.bracket(b, left, from, y, k)
		}
		y += 1.2 * k
	}
	p.SetFont("Helvetica", "", 7.4*k)
	var care []string
	for _, c := range sh.Main(4) {
		care = append(care, string(c.Topic)+": "+c.Says)
	}
	words := p.wrapped(sh.About+" "+strings.Join(care, " "), 186, whole)
	room(float64(len(words))*3.2*k + 4*k)
	p.SetFont("Helvetica", "", 7.4*k)
	p.SetTextColor(86, 96, 111)
	for _, l := range words {
		p.Text(left, y+3*k, l)
		y += 3.2 * k
	}
	p.Text(left, y+3*k, p.clip(stopWords, 186))
	var out bytes.Buffer
	err := p.Output(&out)
	return out.Bytes(), p.PageCount(), err
}

// cueX is where the words of a row begin on the teacher's sheet, right where they end, in millimetres.
func cueX(k float64) float64 { return 23 + 16*k }

const cueRight = 198.0

// small is the small print of a row: care and notes whole, whatever there is of them; what is said of breath and
// options in so many lines.
func (p paperPen) small(r export.SheetRow, k float64, fine int) (lines []string) {
	if r.Move == nil {
		return nil
	}
	p.SetFont("Helvetica", "", 7.2*k)
	w := cueRight - cueX(k)
	add := func(list []string, word, says string) []string {
		if says == "" {
			return list
		}
		return append(list, word+" "+strings.TrimSuffix(says, "."))
	}
	must := add(add(nil, "care:", r.Care), "note:", r.Note)
	lines = p.wrapped(strings.Join(must, " · "), w, whole)
	may := add(add(add(nil, "breath:", r.Breath), "easier:", r.Easier), "harder:", r.Harder)
	return append(lines, p.wrapped(strings.Join(may, " · "), w, fine)...)
}

// bracket marks the rows of a block that go together, down to where they end.
func (p paperPen) bracket(b export.SheetBlock, left, from, to, k float64) {
	if !b.Ruled || to <= from {
		return
	}
	p.SetDrawColor(23, 37, 61)
	p.SetLineWidth(.5)
	p.Line(left-2, from, left-2, to-.6*k)
	p.Line(left-2, to-.6*k, left+1.5, to-.6*k)
}

func (p paperPen) cueRow(r export.SheetRow, small []string, y, k float64) {
	const left = 12.0
	p.SetFont("Helvetica", "", 8.6*k)
	p.SetTextColor(86, 96, 111)
	p.Text(left, y+3.2*k, r.At.String())
	x := left + 11
	if r.Move != nil {
		if pose, ok := r.Move.Pose(r.Level); ok {
			p.figure(body.Solve(pose), x, y+8.4*k, 14*k, 8*k)
		}
	}
	x += 16 * k
	p.SetFont("Helvetica", "B", 9.4*k)
	p.SetTextColor(23, 37, 61)
	name := p.tr(r.Name)
	p.Text(x, y+3.2*k, name)
	x2 := x + p.GetStringWidth(name) + 2
	p.SetFont("Helvetica", "", 9.4*k)
	rest := r.Dose
	if r.Changes != "" {
		rest += ", " + r.Changes
	}
	if r.Note != "" && r.Move == nil {
		rest += " (" + r.Note + ")"
	}
	p.Text(x2, y+3.2*k, p.clip(rest, 172-x2))
	p.SetTextColor(86, 96, 111)
	p.SetFont("Helvetica", "", 8.2*k)
	side := p.clip(r.Sides, 32)
	p.Text(198-p.GetStringWidth(side), y+3.2*k, side)
	if r.Move == nil {
		return
	}
	p.SetFont("Times", "I", 9*k)
	p.SetTextColor(40, 52, 70)
	p.Text(x, y+6.5*k, p.clip(strings.TrimSpace(r.Pelvis+" "+r.Say), 198-x))
	p.SetFont("Helvetica", "", 7.2*k)
	p.SetTextColor(86, 96, 111)
	for i, l := range small {
		p.Text(x, y+(9.4+2.9*float64(i))*k, l)
	}
}

// MoverSheet is the sheet that is handed out, as a PDF: figures, doses, the two main cautions, in letters
// that are read at arm's length.
func MoverSheet(sh export.Sheet) ([]byte, error) {
	p := newPaper(sh.Title)
	const cardW, cardH = 91.0, 25.5
	// What to take care of stands at the foot of every page, whole.
	p.SetFont("Helvetica", "", 10.5)
	var care []string
	for _, c := range sh.Main(2) {
		care = append(care, p.wrapped(strings.ToUpper(string(c.Topic[:1]))+string(c.Topic[1:])+": "+c.Says, 186, whole)...)
	}
	bottom := 284.0 - 4.5*float64(len(care))
	y := 0.0
	page := func() {
		p.AddPage()
		p.SetTextColor(23, 37, 61)
		p.SetFont("Times", "", 21)
		p.Text(12, 19, p.clip(sh.Title, 186))
		p.SetFont("Helvetica", "", 11)
		p.SetTextColor(86, 96, 111)
		head := "about " + sh.Total.String()
		if sh.Kit != "" {
			head += " · needs " + sh.Kit
		}
		if sh.Assumed {
			head += " · warm up first"
		}
		p.Text(12, 25, p.clip(head, 186))
		y = 29
	}
	foot := func() {
		p.SetFont("Helvetica", "", 10.5)
		p.SetTextColor(23, 37, 61)
		yy := bottom + 2
		for _, l := range care {
			p.Text(12, yy, l)
			yy += 4.5
		}
		p.SetFont("Helvetica", "", 8.5)
		p.SetTextColor(86, 96, 111)
		p.Text(12, yy, p.clip(stopWords, 186))
	}
	page()
	col := 0
	next := func() {
		if col++; col == 2 {
			col = 0
			y += cardH
		}
	}
	for _, sec := range sh.Sections {
		for _, b := range sec.Blocks {
			if b.Ruled {
				if col == 1 {
					next()
				}
				if y+8+cardH > bottom-4 {
					foot()
					page()
				}
				p.SetFont("Helvetica", "I", 10.5)
				p.SetTextColor(86, 96, 111)
				p.Text(12, y+4, p.clip(b.Words, 186))
				y += 6
			}
			from := y - 5
			for _, r := range b.Rows {
				if y+cardH > bottom-4 {
					p.bracket(b, 11, from, y, 1)
					foot()
					page()
					from = y
				}
				p.card(r, 12+float64(col)*(cardW+4), y, cardW)
				next()
			}
			if b.Ruled { // the next block begins below it
				if col == 1 {
					next()
				}
				p.bracket(b, 11, from, y, 1)
				y++
			}
		}
	}
	foot()
	var out bytes.Buffer
	err := p.Output(&out)
	return out.Bytes(), err
}

func (p paperPen) card(r export.SheetRow, x, y, w float64) {
	p.SetDrawColor(218, 213, 200)
	p.SetLineWidth(.25)
	p.Line(x, y+1, x+w, y+1)
	level := r.Level
	if r.Move != nil {
		if pose, ok := r.Move.Pose(level); ok {
			p.figure(body.Solve(pose), x, y+23, 35, 20)
		}
	}
	tx, tw := x+38, w-38
	p.SetFont("Helvetica", "B", 12.5)
	p.SetTextColor(23, 37, 61)
	p.Text(tx, y+7, p.clip(r.Name, tw))
	p.SetFont("Helvetica", "", 11.5)
	dose := r.Dose
	if r.OneOnly() {
		dose += ", " + r.Sides
	}
	lines := p.wrapped(dose, tw, 2) // one that differs from side to side takes two
	for i, l := range lines {
		p.Text(tx, y+12.4+4.6*float64(i), l)
	}
	y += 4.6 * float64(len(lines)-1)
	p.SetTextColor(86, 96, 111)
	p.SetFont("Helvetica", "", 9.5)
	p.Text(tx, y+17.2, p.clip(r.Changes, tw))
	if r.Easier != "" {
		for i, l := range p.wrapped("easier: "+r.Easier, tw, 3-len(lines)) {
			p.Text(tx, y+21+3.8*float64(i), l)
		}
	}
}
