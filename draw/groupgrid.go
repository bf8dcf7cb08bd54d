package draw

import (
	"strconv"
	"time"
)

// The grid of a group: a line for each mover, a column for each day. Above the line stands how hard the day was meant to be, below it how hard it felt; a half bar is a day done in part, a red mark
// pain. Nothing is told by colour alone.

// GroupDay is a column of the grid.
type GroupDay struct {
	Day     int
	Date    time.Time
	Rest    bool    // nothing is on it
	Planned float64 // effort, 0 to 10
	Now     bool    // it is today
}

// GroupCell is a mover's day.
type GroupCell struct {
	State string  // done, part, missed, let go, today, coming, off; empty: nothing is on it
	Felt  int     // effort, -1: not said
	Plan  float64 // effort planned of their own version
	Hurt  bool
	Moved string // the date it is on, where it is not the group's
	Wrong bool   // felt where it should not be
}

const (
	gridRow  = 38.0
	gridUnit = 1.5 // pixels for one of effort
)

// GroupHead draws the columns' days, w pixels wide.
func GroupHead(days []GroupDay, w float64) []byte {
	var g svg
	cw := w / float64(max(1, len(days)))
	g.str(`<svg xmlns="http://www.w3.org/2000/svg" class="grid-head" viewBox="0 0 `).num(w).str(` 38" aria-hidden="true">`)
	for i, d := range days {
		x := cw * (float64(i) + .5)
		if d.Now {
			g.str(`<rect`).attr("x", cw*float64(i)).attr("y", 0).attr("width", cw).attr("height", 38).str(` fill="var(--card)"/>`)
		}
		g.str(`<text`).attr("x", x).attr("y", 16).str(` text-anchor="middle" class="d">`, strconv.Itoa(d.Day), `</text>`)
		if !d.Date.IsZero() && (cw >= 34 || i%2 == 0 || d.Now) {
			form := "Mon 2"
			if cw < 34 {
				form = "2"
			}
			g.str(`<text`).attr("x", x).attr("y", 33).str(` text-anchor="middle" class="s">`).text(d.Date.Format(form)).str(`</text>`)
		}
	}
	g.str(`</svg>`)
	return g.b
}

// GroupRow draws a mover's days, w pixels wide; label says the same in words.
func GroupRow(days []GroupDay, cells []GroupCell, w float64, label string) []byte {
	var g svg
	cw := w / float64(max(1, len(days)))
	bar, mid := min(22, cw*.62), 17.0
	g.str(`<svg xmlns="http://www.w3.org/2000/svg" class="grid-row" viewBox="0 0 `).num(w).str(" ").num(gridRow).str(`" role="img" aria-label="`).text(label).str(`">`)
	for i, d := range days {
		x := cw * (float64(i) + .5)
		if d.Now {
			g.str(`<rect`).attr("x", cw*float64(i)).attr("y", 0).attr("width", cw).attr("height", gridRow).str(` fill="var(--card)"/>`)
		}
		c := cells[i]
		if d.Rest || c.State == "" {
			g.str(`<text`).attr("x", x).attr("y", mid+4).str(` text-anchor="middle" class="i">`)
			if d.Rest && cw >= 26 {
				g.str("rest")
			} else {
				g.str("·")
			}
			g.str(`</text>`)
			continue
		}
		if h := gridUnit * c.Plan; h > 0 {
			g.str(`<rect`).attr("x", x-bar/2).attr("y", mid-h).attr("width", bar).attr("height", h).str(` class="plan"/>`)
		}
		g.str(`<path d="M`).num(x - cw*.46).str(" ").num(mid).str("h").num(cw * .92).str(`" class="line"/>`)
		switch c.State {
		case "done", "part":
			wide, from := bar, x-bar/2
			if c.State == "part" {
				wide = bar / 2
			}
			h, how := gridUnit*float64(c.Felt), "felt"
			if c.Felt < 0 {
				h, how = 3, "felt unsaid"
			}
			g.str(`<rect`).attr("x", from).attr("y", mid).attr("width", wide).attr("height", max(h, 1.5)).str(` class="`, how, `"/>`)
		case "missed":
			g.str(`<text`).attr("x", x).attr("y", mid+14).str(` text-anchor="middle" class="i">`)
			if cw >= 38 {
				g.str("missed")
			} else {
				g.str("–")
			}
			g.str(`</text>`)
		case "let go", "off":
			g.str(`<path d="M`).num(x - 5).str(" ").num(mid + 6).str("h10").str(`" class="line"/>`)
		}
		if c.Hurt {
			g.str(`<path d="M`).num(x + bar*.75).str(" ").num(mid + 8).str(`l5 9h-10z" class="hurt"/>`)
		}
		if c.Wrong && !c.Hurt {
			g.str(`<circle`).attr("cx", x+bar*.75).attr("cy", mid+11).attr("r", 3).str(` class="wrong"/>`)
		}
		if c.Moved != "" && cw >= 34 {
			g.str(`<text`).attr("x", x).attr("y", gridRow-2).str(` text-anchor="middle" class="m">`).text(c.Moved).str(`</text>`)
		}
	}
	g.str(`</svg>`)
	return g.b
}
