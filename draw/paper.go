package draw

import (
	"math"
	"strings"

	"codeberg.org/go-pdf/fpdf"

	"wavekine/core/body"
	"wavekine/core/export"
)

// paperPen is a page under way.
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

const stopWords = "Stop if it hurts; ask whoever treats you. This sheet is a teaching aid and defers to them and to local rules."

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
