package draw

import (
	"fmt"
	"strconv"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

// Geometry of the large wave in pixels of its view box.
const (
	waveW     = 1144.0
	waveMid   = 94.0
	waveUnit  = 7.0 // pixels of height for one point of effort
	waveTop   = 22.0
	waveBot   = 166.0
	postTop   = 174.0
	postUnit  = 3.1 // pixels of height for one unit of body height
	railFirst = 232.0
	railStep  = 18.5
	waveH     = 296.0
	railLeft  = 62.0
)

// Mark is a spot on the wave that the second look points at.
type Mark struct {
	At   clock.Span
	Grav review.Severity
	Says string
}

// Wave draws the timeline: right above the line, left below, both on both; the posture line and
// the rails of the second look under it. Every bar is a link to its row. Another class stands behind it as a
// shadow on the same scale of time; nil: none.
func Wave(tl, behind *timeline.Timeline, rails []review.Rail, marks []Mark) []byte {
	g := &svg{b: make([]byte, 0, 32<<10)}
	g.str(`<svg xmlns="http://www.w3.org/2000/svg" class="wave" viewBox="0 0 `).num(waveW).str(" ").num(waveH).str(`" role="group" aria-label="`).text(WaveWords(tl)).str(`">`)
	if tl.Total == 0 {
		g.str(`<path class="w-line" d="M0 `).num(waveMid).str("H").num(waveW).str(`"/></svg>`)
		return g.b
	}
	whole := tl.Total
	if behind != nil {
		whole = max(whole, behind.Total)
	}
	scale := (waveW - 10) / float64(whole)
	g.b = append(g.b[:len(g.b)-1], ` data-whole="`...) // where a place in the wave is asked for in time: from waveFrom on, so much over the rest
	g.str(strconv.FormatInt(int64(whole), 10)).str(`">`)
	x := func(t clock.Span) float64 { return 8 + float64(t)*scale }
	waveGrid(g, whole, x)
	if behind != nil {
		shadow(g, behind, x)
	}
	g.str(`<text class="w-side w-right" x="12" y="34">right side</text><text class="w-side w-left" x="12" y="163">left side</text>`)
	g.str(`<g data-bars="1">`)
	first := true
	for i := range tl.Steps {
		if s := &tl.Steps[i]; s.Kind.Working() {
			bar(g, s, x, first)
			first = false
		}
	}
	g.str(`</g><path class="w-line" d="M8 `).num(waveMid).str("H").num(waveW).str(`"/>`)
	for _, m := range marks {
		if m.Grav == review.Good {
			continue
		}
		px := x(min(m.At, tl.Total))
		g.str(`<path class="w-mark w-`, m.Grav.String(), `" d="M`).num(px).str(` 20l-5 -8h10z"><title>`).text(m.Says).str(`</title></path>`)
	}
	postures(g, tl, x)
	for n, r := range rails {
		drawRail(g, x, n, r)
	}
	g.str(`</svg>`)
	return g.b
}

// gridStep is the distance of labelled minutes that fits.
func gridStep(total clock.Span) clock.Span {
	for _, m := range []clock.Span{1, 2, 5, 10, 15, 30, 60} {
		if total/(m*clock.Minute) <= 12 {
			return m * clock.Minute
		}
	}
	return 120 * clock.Minute
}

func waveGrid(g *svg, total clock.Span, x func(clock.Span) float64) {
	step := gridStep(total)
	g.str(`<path class="w-grid" d="`)
	for t := clock.Span(0); t <= total; t += step / 2 {
		g.str("M").num(x(t)).str(" ").num(waveTop).str("V").num(waveBot)
	}
	g.str(`"/>`)
	for t := clock.Span(0); t <= total; t += step {
		anchor := "middle"
		if t == 0 {
			anchor = "start"
		} else if x(t) > waveW-20 {
			anchor = "end"
		}
		g.str(`<text class="w-tick" text-anchor="`, anchor, `"`).attr("x", x(t)-b2f(t == 0)*4).attr("y", 13).str(">", t.String(), "</text>")
	}
}

// shadow draws where another class works, and how hard, in one tone.
func shadow(g *svg, tl *timeline.Timeline, x func(clock.Span) float64) {
	g.str(`<path class="w-behind" aria-hidden="true" d="`)
	for i := range tl.Steps {
		s := &tl.Steps[i]
		if !s.Kind.Working() {
			continue
		}
		h := max(s.Effort*waveUnit, 2)
		top, bottom := h, h
		switch s.Side {
		case timeline.Right:
			bottom = 0
		case timeline.Left:
			top = 0
		}
		g.str("M").num(x(s.At)).str(" ").num(waveMid - top).str("H").num(x(s.End())).str("V").num(waveMid + bottom).str("H").num(x(s.At)).str("z")
	}
	g.str(`"/>`)
}

func b2f(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

// rowID is the id of a row's element on the bench.
func rowID(p plan.Path) string { return "row-" + strings.ReplaceAll(p.String(), ".", "-") }

// StepWords says a step in words.
func StepWords(s *timeline.Step) string {
	what := s.Kind.String()
	switch {
	case s.Reps > 0 && s.Kind == timeline.Pulse:
		what = strconv.Itoa(s.Reps) + " pulses"
	case s.Reps > 0:
		what = strconv.Itoa(s.Reps) + " reps"
	case s.Breaths > 0:
		what = strconv.Itoa(s.Breaths) + " breaths"
	}
	name := "rest"
	if s.Move != nil {
		name = s.Move.Name
	}
	side := ", " + s.Side.String()
	if s.Side == timeline.Both {
		side = ""
	}
	return name + side + ": " + what + ", " + s.S.String() + " at " + s.At.String() + ", effort " + strconv.FormatFloat(s.Effort, 'f', 1, 64)
}

func bar(g *svg, s *timeline.Step, x func(clock.Span) float64, first bool) {
	tab := "-1"
	if first {
		tab = "0"
	}
	x0, x1 := x(s.At)+.6, x(s.End())-.6
	w := max(x1-x0, 1.6)
	h := max(s.Effort*waveUnit, 2)
	g.str(`<a class="w-bar" tabindex="`, tab, `" href="#`, rowID(s.Row), `" data-row="`, s.Row.String(), `" aria-label="`)
	from := len(g.b)
	words := g.text(StepWords(s)).b[from:] // said to those who hear the page and to those who point at it
	g.str(`"><title>`)
	g.b = append(g.b, words...)
	g.str(`</title>`)
	r := min(4, w/2, h/2)
	rect := func(class string, x, y, w, h float64) {
		g.str(`<rect class="`, class, `"`).attr("x", x).attr("y", y).attr("width", w).attr("height", h).attr("rx", r).str("/>")
	}
	switch s.Side {
	case timeline.Right:
		rect("w-right", x0, waveMid-h, w, h)
	case timeline.Left:
		rect("w-left", x0, waveMid, w, h)
	case timeline.Alternating:
		n := max(2, min(s.Reps, int(w/5)))
		if s.Reps == 0 {
			n = max(2, int(w/7))
		}
		each := w / float64(n)
		r = min(r, each*.35)
		for i := range n {
			if i%2 == 0 {
				rect("w-right", x0+float64(i)*each, waveMid-h, each*.78, h)
			} else {
				rect("w-left", x0+float64(i)*each, waveMid, each*.78, h)
			}
		}
	default:
		rect("w-both", x0, waveMid-h, w, 2*h)
	}
	g.str(`</a>`)
}

// postures draws the step line whose height is the height of the body over the mat.
func postures(g *svg, tl *timeline.Timeline, x func(clock.Span) float64) {
	type leg struct {
		from, to clock.Span
		p        movement.Posture
	}
	var legs []leg
	for i := range tl.Steps {
		s := &tl.Steps[i]
		if n := len(legs); n > 0 && (legs[n-1].p == s.Posture || s.Posture == movement.NoPosture) {
			legs[n-1].to = s.End()
			continue
		}
		if s.Posture != movement.NoPosture {
			legs = append(legs, leg{s.At, s.End(), s.Posture})
		}
	}
	y := func(p movement.Posture) float64 { return postTop + (10-p.Height())*postUnit + 8 }
	g.str(`<path class="w-posture" d="`)
	for i, l := range legs {
		if i == 0 {
			g.str("M").num(x(l.from)).str(" ").num(y(l.p))
		} else {
			g.str("V").num(y(l.p))
		}
		g.str("H").num(x(l.to))
	}
	g.str(`"/>`)
	lastEnd := -1.0
	for _, l := range legs {
		name := l.p.String()
		w := x(l.to) - x(l.from)
		need := float64(len(name)) * 6.0
		mid := (x(l.from) + x(l.to)) / 2
		if w < need*.8 || mid-need/2 < lastEnd+4 {
			continue
		}
		lastEnd = mid + need/2
		g.str(`<text class="w-post" text-anchor="middle"`).attr("x", mid).attr("y", y(l.p)-4).str(">", name, "</text>")
	}
}

// drawRail draws a line that thickens where something is loaded, with words where a rule finds too much of it.
func drawRail(g *svg, x func(clock.Span) float64, n int, r review.Rail) {
	y := railFirst + float64(n)*railStep
	g.str(`<text class="w-rail-name" x="4"`).attr("y", y+4).str(">").text(r.Name).str("</text>")
	g.str(`<path class="w-rail" d="M`).num(railLeft).str(" ").num(y).str("H").num(waveW).str(`"/>`)
	for _, b := range r.Bands {
		class := "w-load"
		if b.Over != "" {
			class = "w-load w-over"
		}
		g.str(`<path class="`, class, `" d="M`).num(max(x(b.At), railLeft) + 2.5).str(" ").num(y).str("H").num(max(x(b.End)-2.5, railLeft+3)).str(`"><title>`).text(r.Name + ": " + (b.End - b.At).String() + " from " + b.At.String()).str(`</title></path>`)
		if b.Over != "" {
			mid := max((x(b.At)+x(b.End))/2, railLeft+70)
			g.str(`<text class="w-warn" text-anchor="middle"`).attr("x", min(mid, waveW-90)).attr("y", y-5).str(">").text(b.Over).str("</text>")
		}
	}
}

// SmallWave draws only the bars, to stand for a session wherever one is listed; it fills the width.
func SmallWave(tl *timeline.Timeline, w, h float64, label string) []byte {
	return WaveOnScale(tl, 0, w, h, label)
}

// WaveOnScale is a small wave whose width stands for a span, so that waves can be read against one
// another; a span shorter than the class stands for the class.
func WaveOnScale(tl *timeline.Timeline, span clock.Span, w, h float64, label string) []byte {
	g := &svg{b: make([]byte, 0, 4<<10)}
	g.str(`<svg xmlns="http://www.w3.org/2000/svg" class="wave-s" viewBox="0 0 `).num(w).str(" ").num(h).str(`"`)
	if label == "" { // what stands beside it says it
		g.str(` aria-hidden="true">`)
	} else {
		g.str(` role="img" aria-label="`).text(label).str(`">`)
	}
	mid, end := h/2, w
	if tl != nil && tl.Total > 0 {
		scale, unit := w/float64(max(span, tl.Total)), (h/2-1)/9
		end = scale * float64(tl.Total)
		paths := [3][]byte{}
		put := func(i int, x, y, w, h float64) {
			b := append(paths[i], 'M')
			b = num(b, x)
			b = num(append(b, ' '), y)
			b = num(append(b, 'h'), w)
			b = num(append(b, 'v'), h)
			b = num(append(b, 'h'), -w)
			paths[i] = append(b, 'z')
		}
		for i := range tl.Steps {
			s := &tl.Steps[i]
			if !s.Kind.Working() {
				continue
			}
			x, bw, bh := float64(s.At)*scale, max(float64(s.S)*scale-.5, .6), max(min(s.Effort, 9)*unit, .7)
			switch s.Side {
			case timeline.Right:
				put(1, x, mid-bh, bw, bh)
			case timeline.Left:
				put(2, x, mid, bw, bh)
			case timeline.Alternating:
				n := max(2, min(4, int(bw/3)))
				each := bw / float64(n)
				for k := range n {
					if k%2 == 0 {
						put(1, x+float64(k)*each, mid-bh, each*.8, bh)
					} else {
						put(2, x+float64(k)*each, mid, each*.8, bh)
					}
				}
			default:
				put(0, x, mid-bh, bw, 2*bh)
			}
		}
		for i, class := range []string{"w-both", "w-right", "w-left"} {
			if len(paths[i]) > 0 {
				g.str(`<path class="`, class, `" d="`, string(paths[i]), `"/>`)
			}
		}
	}
	g.str(`<path class="w-line" d="M0 `).num(mid).str("H").num(end).str(`"/></svg>`)
	return g.b
}

// WaveWords says in words what the wave shows.
func WaveWords(tl *timeline.Timeline) string {
	if tl.Total == 0 {
		return "An empty session."
	}
	var peak *timeline.Step
	for i := range tl.Steps {
		if s := &tl.Steps[i]; peak == nil || s.Effort > peak.Effort {
			peak = s
		}
	}
	w := fmt.Sprintf("%s long, somewhere from %s to %s. Right %s, left %s. %d changes of position.",
		tl.Total, tl.Low, tl.High, tl.Sums.Right, tl.Sums.Left, tl.Sums.PositionsChanged)
	if peak.Move != nil {
		w += fmt.Sprintf(" Hardest: %s at %s, effort %.1f of 10.", peak.Move.Name, peak.At, peak.Effort)
	}
	return w
}

// LevelMark draws stacked strokes that widen upward, filled up to the level in use.
func LevelMark(level, of int) []byte {
	g := &svg{b: make([]byte, 0, 400)}
	of = max(of, 1)
	h := float64(of)*5 + 1
	g.str(`<svg xmlns="http://www.w3.org/2000/svg" class="level" viewBox="0 0 18 `).num(h).str(`" width="18"`).attr("height", h)
	g.str(` role="img" aria-label="level `).int(level).str(" of ").int(of).str(`">`)
	for i := 1; i <= of; i++ {
		w := 7 + 11*float64(i-1)/float64(max(of-1, 1))
		class := "l-off"
		if i <= level {
			class = "l-on"
		}
		g.str(`<path class="`, class, `" d="M`).num(9 - w/2 + 1).str(" ").num(h - float64(i)*5 + 2).str("h").num(w - 2).str(`"/>`)
	}
	g.str(`</svg>`)
	return g.b
}

// LoadBars draws effort x minutes of the days beside each other, with the shape that was asked for
// as a line over each. most is the height of the tallest anywhere; first the number of the first day.
func LoadBars(loads, targets []float64, most float64, first int) []byte {
	const w, h, col = 100.0, 92.0, 56.0
	g := &svg{}
	full := w * float64(len(loads))
	g.str(`<svg xmlns="http://www.w3.org/2000/svg" class="loads" viewBox="0 0 `).num(full).str(" ").num(h).str(`" preserveAspectRatio="none" role="img" aria-label="Effort times minutes`)
	for i, l := range loads {
		g.str(", day ").int(first + i).str(": ").int(int(l + .5))
		if targets != nil && targets[i] > 0 {
			g.str(" of ").int(int(targets[i] + .5))
		}
	}
	g.str(`">`)
	unit := (h - 12) / max(most, 1)
	for i, l := range loads {
		x := float64(i)*w + (w-col)/2
		if l > 0 {
			g.str(`<rect class="w-both"`).attr("x", x).attr("y", h-1-l*unit).attr("width", col).attr("height", l*unit).str(`><title>`).text(fmt.Sprintf("day %d: effort x minutes %.0f", first+i, l)).str(`</title></rect>`)
		}
		if targets != nil && targets[i] > 0 {
			g.str(`<path class="w-asked" d="M`).num(x - 14).str(" ").num(h - 1 - targets[i]*unit).str("h").num(col + 28).str(`"/>`)
		}
	}
	g.str(`<path class="w-line" d="M0 `).num(h - 1).str("H").num(full).str(`"/></svg>`)
	return g.b
}

// Bar is a line with its first part filled, 0 to 1.
func Bar(part float64, class string) []byte {
	g := &svg{}
	g.str(`<svg class="`, class, `" viewBox="0 0 200 8" preserveAspectRatio="none" aria-hidden="true"><path class="b-line" d="M0 4H200"/><rect class="w-both" y="1"`)
	g.attr("width", 200*max(0, min(part, 1))).str(` height="6"/></svg>`)
	return g.b
}

// BarMark is a bar with a mark across it, both 0 to 1.
func BarMark(part, mark float64) []byte {
	g := &svg{}
	g.str(`<svg class="bar" viewBox="0 0 200 14" preserveAspectRatio="none" aria-hidden="true"><rect class="w-both" y="4"`)
	g.attr("width", 196*max(0, min(part, 1))).str(` height="6"/><path class="w-asked" d="M`).num(196 * max(0, min(mark, 1))).str(` 0v14"/></svg>`)
	return g.b
}

// TwoBars are planned above and taken below, 0 to 1.
func TwoBars(planned, taken float64) []byte {
	g := &svg{}
	g.str(`<svg class="bar two-bars" viewBox="0 0 200 16" preserveAspectRatio="none" aria-hidden="true"><rect class="b-soft" y="1"`).attr("width", 200*max(0, min(planned, 1))).str(` height="6"/><rect class="w-both" y="9"`).attr("width", 200*max(0, min(taken, 1))).str(` height="6"/></svg>`)
	return g.b
}
