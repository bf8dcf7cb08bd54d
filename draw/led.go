package draw

import (
	"fmt"
	"math"

	"wavekine/core/run"
)

// signed is a share in percent with its sign; nothing has none.
func signed(v float64) string {
	if math.Abs(v) < .005 {
		return "0 %"
	}
	return fmt.Sprintf("%+.0f %%", 100*v)
}

// LedPlot draws classes in time, each a dot as far off the length asked for as it was, in percent: over above the line, under below. The band is a tenth either way.
func LedPlot(points []run.Point, w, h float64) []byte {
	g := &svg{}
	most := .1
	for _, p := range points {
		most = max(most, math.Abs(p.Off))
	}
	most = min(math.Ceil(most*10)/10+.02, 1.02) // what is further off stands at the edge
	left, right := 44.0, w-8
	y := func(off float64) float64 { return h/2 - max(-most, min(off, most))/most*(h/2-14) }
	label := "No classes yet."
	if n := len(points); n > 0 {
		last := points[n-1]
		label = fmt.Sprintf("%d classes in time, how far each was off the length asked for. The last, %s: %+.0f percent.", n, last.Title, 100*last.Off)
	}
	g.str(`<svg xmlns="http://www.w3.org/2000/svg" class="led-plot" viewBox="0 0 `).num(w).str(" ").num(h).str(`" role="img" aria-label="`).text(label).str(`">`)
	g.str(`<rect class="band"`).attr("x", left).attr("y", y(.1)).attr("width", right-left).attr("height", y(-.1)-y(.1)).str("/>")
	step := .1
	for most/step > 4 {
		step *= 2
	}
	for v := -math.Floor(most/step) * step; v <= most; v += step {
		class := "grid"
		if math.Abs(v) < 1e-9 {
			class = "zero"
		}
		g.str(`<path class="`, class, `" d="M`).num(left).str(" ").num(y(v)).str("H").num(right).str(`"/><text text-anchor="end"`).attr("x", left-6).attr("y", y(v)+4).str(">").text(signed(v)).str("</text>")
	}
	if n := len(points); n > 0 {
		first, span := points[0].At, points[n-1].At.Sub(points[0].At).Seconds()
		for i, p := range points {
			x := (left + right) / 2
			switch {
			case span > 0:
				x = left + 10 + (right-left-20)*p.At.Sub(first).Seconds()/span
			case n > 1:
				x = left + 10 + (right-left-20)*float64(i)/float64(n-1)
			}
			class := "on"
			if math.Abs(p.Off) > .1 {
				class = "off"
			}
			g.str(`<circle class="`, class, `" r="4"`).attr("cx", x).attr("cy", y(p.Off)).str("><title>").text(fmt.Sprintf("%s, %s: %+.0f %%", p.At.Format("2 Jan 2006"), p.Title, 100*p.Off)).str("</title></circle>")
		}
	}
	g.str("</svg>")
	return g.b
}
