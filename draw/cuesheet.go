package draw

import (
	"bytes"
	"strings"

	"wavekine/core/body"
	"wavekine/core/export"
)

// CueSheet is the teacher's sheet as a PDF: clock, sides, counts, words, options and cautions. Twenty
// minutes of eighteen rows fit one A4 page.
func CueSheet(sh export.Sheet) ([]byte, error) {
	k, fine, _, err := cueFit(sh)
	if err != nil {
		return nil, err
	}
	p := newPaper(sh.Title)
	cueOn(p, sh, k, fine)
	var out bytes.Buffer
	err = p.Output(&out)
	return out.Bytes(), err
}

// cueFit is at what scale, with how many lines of small print, a sheet goes on one page; where it does not, at the smallest, and on how many.
func cueFit(sh export.Sheet) (scale float64, fine, pages int, err error) {
	for _, try := range []struct {
		scale float64
		fine  int // lines of small print
	}{{1, 2}, {.94, 2}, {1, 1}, {.93, 1}, {.86, 1}, {.8, 1}, {.86, 0}, {.8, 0}, {.76, 0}} {
		p := newPaper(sh.Title)
		cueOn(p, sh, try.scale, try.fine)
		if scale, fine, pages, err = try.scale, try.fine, p.PageCount(), p.Error(); err != nil || pages == 1 {
			break
		}
	}
	return scale, fine, pages, err
}

// cuePage is a page under way of the teacher's sheet: k is its scale, fine how many lines of small print a row has.
type cuePage struct {
	paperPen
	sh   export.Sheet
	k, y float64
	fine int
}

// The teacher's sheet, in millimetres.
const cueLeft, cueRight, cueBottom = 12.0, 198.0, 285.0

// cueOn writes a sheet on pages of its own.
func cueOn(p paperPen, sh export.Sheet, k float64, fine int) {
	c := &cuePage{p, sh, k, 0, fine}
	c.head()
	for _, sec := range sh.Sections {
		c.section(sec)
	}
	c.foot()
}

// head begins a page.
func (c *cuePage) head() {
	c.AddPage()
	c.y = 11
	c.SetTextColor(23, 37, 61)
	c.SetFont("Times", "", 17*c.k)
	c.Text(cueLeft, c.y+5*c.k, c.clip(c.sh.Title, 130))
	c.SetFont("Helvetica", "", 8.5*c.k)
	c.SetTextColor(86, 96, 111)
	c.Text(cueLeft, c.y+9.5*c.k, c.clip(c.sh.Head(), 186))
	c.y += 12 * c.k
}

// room begins a page where so much does not fit on this one.
func (c *cuePage) room(h float64) {
	if c.y+h > cueBottom-5 {
		c.head()
	}
}

func (c *cuePage) section(sec export.SheetSection) {
	k := c.k
	c.room(16 * k)
	c.SetFont("Times", "", 11.5*k)
	c.SetTextColor(23, 37, 61)
	c.Text(cueLeft, c.y+4*k, c.clip(sec.Title, 180))
	c.SetDrawColor(218, 213, 200)
	c.SetLineWidth(.2)
	c.Line(cueLeft, c.y+5*k, cueRight, c.y+5*k)
	c.y += 5.6 * k
	c.SetFont("Helvetica", "I", 8*k)
	c.SetTextColor(86, 96, 111)
	for _, l := range c.wrapped(sec.Says, 186, whole) {
		c.Text(cueLeft, c.y+3*k, l)
		c.y += 3.6 * k
	}
	for _, b := range sec.Blocks {
		c.block(b)
	}
	c.y += 1.2 * k
}

func (c *cuePage) block(b export.SheetBlock) {
	k := c.k
	if b.Words != "" {
		c.SetFont("Helvetica", "I", 8*k)
		lines := c.wrapped(b.Words, 186, whole)
		c.room((10 + 4*float64(len(lines))) * k)
		c.SetFont("Helvetica", "I", 8*k)
		c.SetTextColor(86, 96, 111)
		for _, l := range lines {
			c.Text(cueLeft, c.y+3*k, l)
			c.y += 4 * k
		}
	}
	from := c.y - 3.6*k
	for _, r := range b.Rows {
		small := c.small(r, k, c.fine)
		if h := (7.5 + 2.9*float64(max(1, len(small)))) * k; c.y+h > cueBottom-5 {
			c.bracket(b, cueLeft, from, c.y, k)
			c.head()
			from = c.y
		}
		c.cueRow(r, small, c.y, k)
		c.y += 3.9 * k
		if r.Move != nil {
			c.y += (3.6 + 2.9*float64(max(1, len(small)))) * k
		}
	}
	c.bracket(b, cueLeft, from, c.y, k)
}

// foot says what the class is about, the main cautions, and when to stop.
func (c *cuePage) foot() {
	k := c.k
	c.SetFont("Helvetica", "", 7.4*k)
	var care []string
	for _, m := range c.sh.Main(4) {
		care = append(care, string(m.Topic)+": "+m.Says)
	}
	words := c.wrapped(c.sh.About+" "+strings.Join(care, " "), 186, whole)
	c.room(float64(len(words))*3.2*k + 4*k)
	c.SetFont("Helvetica", "", 7.4*k)
	c.SetTextColor(86, 96, 111)
	for _, l := range words {
		c.Text(cueLeft, c.y+3*k, l)
		c.y += 3.2 * k
	}
	c.Text(cueLeft, c.y+3*k, c.clip(stopWords, 186))
}

// cueX is where the words of a row begin on the teacher's sheet, right where they end, in millimetres.
func cueX(k float64) float64 { return 23 + 16*k }

// small is the small print of a row: care and notes whole, whatever there is of them; what is said of breath and
// options in so many lines.
func (p paperPen) small(r export.SheetRow, k float64, fine int) (lines []string) {
	if r.Move == nil {
		return nil
	}
	_, over := p.firstLine(r, k)
	p.SetFont("Helvetica", "", 7.2*k)
	w := cueRight - cueX(k)
	add := func(list []string, word, says string) []string {
		if says == "" {
			return list
		}
		return append(list, word+" "+strings.TrimSuffix(says, "."))
	}
	must := append(add(add(nil, "care:", r.Care), "note:", r.Note), r.Besides...)
	lines = p.wrapped(strings.Join(append(over, must...), " · "), w, whole)
	may := add(add(add(nil, "breath:", r.Breath), "easier:", r.Easier), "harder:", r.Harder)
	return append(lines, p.wrapped(strings.Join(may, " · "), w, fine)...)
}

// firstLine is what stands behind the name of a row, and what of it goes into the small print where it is too long: nothing of a dose is cut.
func (p paperPen) firstLine(r export.SheetRow, k float64) (line string, over []string) {
	p.SetFont("Helvetica", "B", 9.4*k)
	room := 172 - cueX(k) - p.GetStringWidth(p.tr(r.Name)) - 2
	p.SetFont("Helvetica", "", 9.4*k)
	line = r.Dose
	if r.Changes != "" {
		line += ", " + r.Changes
	}
	if p.GetStringWidth(p.tr(line)) <= room || r.Move == nil {
		return line, nil
	}
	if p.GetStringWidth(p.tr(r.Dose)) <= room {
		return r.Dose, []string{r.Changes}
	}
	list := strings.Split(r.Dose, ", ")
	n := len(list) - 1
	for n > 1 && p.GetStringWidth(p.tr(strings.Join(list[:n], ", ")+" …")) > room {
		n--
	}
	over = []string{strings.Join(list[n:], ", ")}
	if r.Changes != "" {
		over = append(over, r.Changes)
	}
	return strings.Join(list[:n], ", ") + " …", over
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
	rest, _ := p.firstLine(r, k)
	p.SetFont("Helvetica", "", 9.4*k)
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
