package draw

import "wavekine/core/body"

// posable is the camera of the posing editor: it stands still while joints move, so that what is under
// the pointer stays there. Two statures wide on the mat, one and a tenth high.
func posable(f *body.Figure, w, h float64) pen {
	s := min(w/1.75, h/1.18)
	if f.Plan {
		s *= .95 // from above there is no ground: the hips stay in the middle
		return pen{s, w / 2, h/2 + s*f.J["hip"].Y}
	}
	return pen{s, w / 2, h - 14}
}

// PosableAt turns a place in the picture, in pixels of its box, into statures.
func PosableAt(f *body.Figure, w, h, px, py float64) (x, y float64) {
	t := posable(f, w, h)
	return (px - t.ox) / t.s, (t.oy - py) / t.s
}

// handleWords are the handles as they are said.
var handleWords = map[string]string{
	"hip": "hips", "lowthx1": "middle back", "atlas": "neck", "crown": "head", "kneeL": "left knee", "kneeR": "right knee", "ankL": "left ankle",
	"ankR": "right ankle", "ballL": "left toes", "ballR": "right toes", "elbL": "left elbow", "elbR": "right elbow", "wriL": "left wrist", "wriR": "right wrist",
}

// Posable draws a figure with a handle on every joint that can be pulled.
func Posable(f *body.Figure, w, h float64, label string) []byte {
	g := &figure{f: f}
	g.t = posable(f, w, h)
	g.d = detailFor(g.t.s)
	g.str(`<svg xmlns="http://www.w3.org/2000/svg" class="posable" viewBox="0 0 `).num(w).str(" ").num(h).str(`" role="group" aria-label="`).text(label).str(`">`)
	if f.Plan {
		y := f.J["hip"].Y
		g.box(-.6, y-.3, .6, y+.3, .03, "none", g.d.mat*.8)
	} else {
		g.kit()
	}
	g.body()
	if !f.Plan {
		g.straps()
		x0, y := g.t.xy(body.Point{X: -.85})
		x1, _ := g.t.xy(body.Point{X: .85})
		g.str(`<path d="M`).num(x0).str(" ").num(y).str("H").num(x1).str(`" stroke="`, ink, `" stroke-width="1.4"/>`)
	}
	for _, name := range body.Handles() {
		if name == "ballR" || name == "ballL" {
			if f.Front && !f.FeetInside {
				continue
			}
		}
		x, y := g.t.xy(f.Handle(name))
		side := ""
		switch name[len(name)-1] {
		case 'R':
			side = " right"
		case 'L':
			side = " left"
		}
		g.str(`<circle class="handle`, side, `" data-handle="`, name, `" tabindex="0" role="button" aria-label="`, handleWords[name], `"`).attr("cx", x).attr("cy", y).str(` r="6"><title>`, handleWords[name], `</title></circle>`)
	}
	g.str(`</svg>`)
	return g.b
}
