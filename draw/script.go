package draw

import (
	"bytes"

	"wavekine/core/film"
)

// The columns of a running script, in millimetres.
const scriptLeft, scriptWhat, scriptSide, scriptWords, scriptRight, scriptBottom = 12.0, 29.0, 82.0, 124.0, 198.0, 284.0

// Script is the running script of a class on paper: clock, what, side as the viewer sees it, keywords, options and cautions.
func Script(title, head string, lines []film.Line) ([]byte, error) {
	p := newPaper(title)
	y := 0.0
	page := func() {
		p.AddPage()
		p.SetTextColor(23, 37, 61)
		p.SetFont("Times", "", 17)
		p.Text(scriptLeft, 16, p.clip(title, 180))
		p.SetFont("Helvetica", "", 8.5)
		p.SetTextColor(86, 96, 111)
		p.Text(scriptLeft, 20.5, p.clip(head, 186))
		y = 25
	}
	page()
	for _, l := range lines {
		p.SetFont("Times", "I", 10.5)
		words := p.wrapped(l.Keywords, scriptRight-scriptWords, whole)
		p.SetFont("Helvetica", "", 7.6)
		var small []string
		for _, w := range [][2]string{{"easier: ", l.Easier}, {"harder: ", l.Harder}, {"care: ", l.Care}} {
			if w[1] != "" {
				small = append(small, p.wrapped(w[0]+w[1], scriptRight-scriptWords, whole)...)
			}
		}
		left := p.wrapped(l.Way, scriptSide-scriptWhat-2, 2)
		do := p.wrapped(l.Do, scriptWords-scriptSide-2, 3)
		h := 4.6 + max(4.2*float64(len(words))+3.2*float64(len(small))-3, 3.4*float64(len(left))+3.6, 3.2*float64(len(do)+1), 1)
		if l.Part != "" {
			h += 6
		}
		if y+h > scriptBottom {
			page()
		}
		if l.Part != "" {
			p.SetFont("Times", "", 11.5)
			p.SetTextColor(23, 37, 61)
			p.Text(scriptLeft, y+4, p.clip(l.Part, 180))
			y += 6
		}
		p.SetDrawColor(218, 213, 200)
		p.SetLineWidth(.2)
		p.Line(scriptLeft, y, scriptRight, y)
		p.SetTextColor(23, 37, 61)
		p.SetFont("Helvetica", "B", 9.5)
		if !l.Talk {
			p.Text(scriptLeft, y+4.4, l.At.String())
		}
		p.Text(scriptWhat, y+4.4, p.clip(l.What, scriptSide-scriptWhat-2))
		p.SetFont("Helvetica", "", 9)
		p.Text(scriptWhat, y+8.2, p.clip(l.Dose, scriptSide-scriptWhat-2))
		p.Text(scriptSide, y+4.4, p.clip(l.Side, scriptWords-scriptSide-2))
		p.SetFont("Times", "I", 10.5)
		for i, w := range words {
			p.Text(scriptWords, y+4.4+4.2*float64(i), w)
		}
		p.SetTextColor(86, 96, 111)
		p.SetFont("Helvetica", "", 7.6)
		for i, w := range left {
			p.Text(scriptWhat, y+11.6+3.2*float64(i), w)
		}
		for i, w := range do {
			p.Text(scriptSide, y+7.8+3.2*float64(i), w)
		}
		for i, w := range small {
			p.Text(scriptWords, y+4.4+4.2*float64(len(words))-.8+3.2*float64(i), w)
		}
		y += h
	}
	p.SetFont("Helvetica", "", 7.4)
	p.SetTextColor(86, 96, 111)
	p.Text(scriptLeft, 289, p.clip(stopWords, 186))
	var out bytes.Buffer
	err := p.Output(&out)
	return out.Bytes(), err
}
