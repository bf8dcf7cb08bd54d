package draw

import (
	"strconv"

	"wavekine/core/progress"
)

// Measured draws what was measured of a movement over the days, w by h pixels: right in its colour above left in its, both in ink; days left to right.
func Measured(ms []progress.Measured, w, h float64, label string) []byte {
	var g svg
	most := 1
	for _, m := range ms {
		most = max(most, m.Both, m.Right, m.Left)
		label += "; day " + strconv.Itoa(m.Day) + " " + m.Says()
	}
	g.str(`<svg xmlns="http://www.w3.org/2000/svg" class="measured" viewBox="0 0 `).num(w).str(" ").num(h).str(`" role="img" aria-label="`).text(label).str(`">`)
	const foot = 18.0
	base := h - foot
	g.str(`<path d="M4 `).num(base).str("H").num(w - 4).str(`" class="line"/>`)
	cw := (w - 8) / float64(max(1, len(ms)))
	for i, m := range ms {
		x := 4 + cw*(float64(i)+.5)
		bars := []struct {
			n    int
			fill string
			dx   float64
		}{{m.Both, "var(--both)", 0}, {m.Right, "var(--right)", -9}, {m.Left, "var(--left)", 9}}
		for _, b := range bars {
			if b.n < 0 {
				continue
			}
			tall := (base - 18) * float64(b.n) / float64(most)
			g.str(`<rect`).attr("x", x+b.dx-7).attr("y", base-tall).attr("width", 14).attr("height", max(tall, 1)).str(` fill="`, b.fill, `"/>`)
			g.str(`<text`).attr("x", x+b.dx).attr("y", base-tall-4).str(` text-anchor="middle" class="s">`, strconv.Itoa(b.n), `</text>`)
		}
		g.str(`<text`).attr("x", x).attr("y", h-4).str(` text-anchor="middle" class="s">day `, strconv.Itoa(m.Day), `</text>`)
	}
	g.str(`</svg>`)
	return g.b
}
