package draw

import (
	"bytes"
	"strings"

	"wavekine/core/body"
	"wavekine/core/export"
)

// MoverSheet is the sheet that is handed out, as a PDF: figures, doses, the two main cautions, in letters
// that are read at arm's length.
func MoverSheet(sh export.Sheet) ([]byte, error) {
	p := newPaper(sh.Title)
	newMoverOn(p, sh).rows()
	var out bytes.Buffer
	err := p.Output(&out)
	return out.Bytes(), err
}

// rows writes the sheet on pages of its own; it gives on how many.
func (m *moverPage) rows() int {
	before := m.PageCount()
	m.head()
	for _, sec := range m.sh.Sections {
		for _, b := range sec.Blocks {
			m.block(b)
		}
	}
	m.foot()
	return m.PageCount() - before
}

// Cards of the sheet, in millimetres: two side by side.
const cardW, cardH = 91.0, 25.5

// moverPage is a page under way of the sheet that is handed out.
type moverPage struct {
	paperPen
	sh     export.Sheet
	care   []string // stands at the foot of every page, whole
	bottom float64
	y      float64
	col    int
	often  string // how often and when to do it
}

func newMoverOn(p paperPen, sh export.Sheet) *moverPage {
	m := &moverPage{paperPen: p, sh: sh}
	m.SetFont("Helvetica", "", 10.5)
	for _, c := range sh.Main(2) {
		m.care = append(m.care, m.wrapped(strings.ToUpper(string(c.Topic[:1]))+string(c.Topic[1:])+": "+c.Says, 186, whole)...)
	}
	m.bottom = 284.0 - 4.5*float64(len(m.care))
	return m
}

// head begins a page.
func (m *moverPage) head() {
	m.AddPage()
	m.SetTextColor(23, 37, 61)
	m.SetFont("Times", "", 21)
	m.Text(12, 19, m.clip(m.sh.Title, 186))
	m.SetFont("Helvetica", "", 11)
	m.SetTextColor(86, 96, 111)
	head := "about " + m.sh.Total.String()
	if m.often != "" {
		head = m.often + " · " + head
	}
	if m.sh.Kit != "" {
		head += " · needs " + m.sh.Kit
	}
	if m.sh.Assumed {
		head += " · warm up first"
	}
	m.Text(12, 25, m.clip(head, 186))
	m.y = 29
	if m.sh.KitElse != "" {
		m.SetFont("Helvetica", "", 9.5)
		for i, line := range m.wrapped(m.sh.KitElse, 186, 3) {
			m.Text(12, 30+4.2*float64(i), line)
			m.y = 33.5 + 4.2*float64(i)
		}
	}
}

// foot ends a page.
func (m *moverPage) foot() {
	m.SetFont("Helvetica", "", 10.5)
	m.SetTextColor(23, 37, 61)
	y := m.bottom + 2
	for _, l := range m.care {
		m.Text(12, y, l)
		y += 4.5
	}
	m.SetFont("Helvetica", "", 8.5)
	m.SetTextColor(86, 96, 111)
	m.Text(12, y, m.clip(stopWords, 186))
}

// next goes on to the next card.
func (m *moverPage) next() {
	if m.col++; m.col == 2 {
		m.line()
	}
}

// line begins a new line of cards, where one is under way.
func (m *moverPage) line() {
	if m.col > 0 {
		m.col = 0
		m.y += cardH
	}
}

// fits tells whether something so high and a line of cards stand on the page.
func (m *moverPage) fits(h float64) bool { return m.y+h+cardH <= m.bottom-4 }

func (m *moverPage) block(b export.SheetBlock) {
	if b.Words != "" {
		m.line()
		m.SetFont("Helvetica", "I", 10.5)
		lines := m.wrapped(b.Words, 186, whole)
		if !m.fits(3 + 5*float64(len(lines))) {
			m.foot()
			m.head()
		}
		m.SetFont("Helvetica", "I", 10.5)
		m.SetTextColor(86, 96, 111)
		for _, l := range lines {
			m.Text(12, m.y+4, l)
			m.y += 5
		}
		m.y++
	}
	from := m.y - 5
	for _, r := range b.Rows {
		if !m.fits(0) {
			m.bracket(b, 11, from, m.y, 1)
			m.foot()
			m.head()
			from = m.y
		}
		m.card(r, 12+float64(m.col)*(cardW+4), m.y, cardW)
		m.next()
	}
	if b.Ruled { // the next block begins below it
		m.line()
		m.bracket(b, 11, from, m.y, 1)
		m.y++
	}
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
