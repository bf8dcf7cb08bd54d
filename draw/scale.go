package draw

import (
	"strconv"

	"wavekine/core/movement"
)

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

// BreathLine draws one breath over a repetition in a box of w x h pixels: it rises with the breath in, falls with the breath
// out, stays where it is held, and is broken where it comes as it likes. Nothing is drawn where no pattern is set.
func BreathLine(phases []movement.BreathPhase, w, h float64) []byte {
	if len(phases) < 2 {
		return nil
	}
	const edge = 3.
	low, high := h-edge, edge
	var in, out float64 // what comes in goes out again, however long each takes
	for _, p := range phases {
		switch p.Breath {
		case movement.BreatheIn:
			in += p.Share
		case movement.BreatheOut:
			out += p.Share
		}
	}
	by := func(p movement.BreathPhase) float64 {
		switch {
		case p.Breath == movement.BreatheIn:
			return p.Share / in
		case p.Breath == movement.BreatheOut:
			return -p.Share / out
		}
		return 0
	}
	var net, top, level float64 // how full the breath is, so that the line fits whatever comes first
	for _, p := range phases {
		level += by(p)
		net, top = min(net, level), max(top, level)
	}
	x, at := edge, -net
	span := max(top-net, .01)
	y := func(v float64) float64 { return low - (low-high)*v/span }
	var g svg
	g.str(`<svg xmlns="http://www.w3.org/2000/svg" class="breathline" viewBox="0 0 `).num(w).str(" ").num(h).str(`" role="img" aria-label="`).text(movement.SayPhases(phases)).str(`">`)
	for _, p := range phases {
		x2, to := x+(w-2*edge)*p.Share, at+by(p)
		dash := ""
		if p.Breath == movement.AnyBreath {
			dash = ` stroke-dasharray="2 3"`
		}
		mid := (x + x2) / 2
		g.str(`<path d="M`).num(x).str(" ").num(y(at)).str("C").num(mid).str(" ").num(y(at)).str(" ").num(mid).str(" ").num(y(to)).str(" ").num(x2).str(" ").num(y(to)).str(`" fill="none" stroke="var(--both)" stroke-width="2" stroke-linecap="round"`).str(dash).str(`/>`)
		x, at = x2, to
	}
	g.str(`</svg>`)
	return g.b
}
