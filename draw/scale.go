package draw

import "strconv"

// DemandScale draws an axis from 0 to 10 with a mark for each level, numbered, in a box of w x h pixels.
func DemandScale(demands []float64, w, h float64) []byte {
	var g svg
	x := func(v float64) float64 { return 10 + v/10*(w-20) }
	y := h - 16
	g.str(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 `).num(w).str(" ").num(h).str(`" role="img" aria-label="Demand: `)
	for i, d := range demands {
		if i > 0 {
			g.str(", ")
		}
		g.str("level ").int(i + 1).str(" is ").str(strconv.FormatFloat(d, 'f', 1, 64))
	}
	g.str(`"><path d="M`).num(x(0)).str(" ").num(y).str("H").num(x(10)).str(`" stroke="var(--line)" stroke-width="2"/>`)
	for v := 0; v <= 10; v += 2 {
		g.str(`<path d="M`).num(x(float64(v))).str(" ").num(y-3).str("v6\" stroke=\"var(--muted)\"/><text").attr("x", x(float64(v))).attr("y", y+14).str(` text-anchor="middle" font-size="10" fill="var(--muted)">`).int(v).str(`</text>`)
	}
	last, lift := -99.0, 0.0
	for i, d := range demands {
		if x(d)-last < 15 { // close together: the next one a little higher
			lift += 11
		} else {
			lift = 0
		}
		last = x(d)
		g.str(`<circle`).attr("cx", x(d)).attr("cy", y).str(` r="5" fill="var(--both)"/><text`).attr("x", x(d)).attr("y", y-9-lift).str(` text-anchor="middle" font-size="11" font-weight="650" fill="var(--ink)">`).int(i + 1).str(`</text>`)
	}
	g.str(`</svg>`)
	return g.b
}
