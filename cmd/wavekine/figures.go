package main

import (
	"fmt"
	"html"
	"io"
	"strings"

	"wavekine/core/body"
	"wavekine/draw"
)

// figuresVerb writes a contact sheet.
var figuresVerb = verb{name: "figures", bare: true, says: "a contact sheet of every pose, as HTML", run: func(c *job) error { return figures(c.out) }}

// figures writes every pose at two sizes, to be looked at; a pose with complaints says so.
func figures(out io.Writer) error {
	var b strings.Builder
	b.WriteString(`<!doctype html><meta charset="utf-8"><title>Figures</title><style>body{font:11px sans-serif;color:#1c2630}main{display:grid;grid-template-columns:repeat(auto-fill,160px);gap:12px}div{background:#f4f5f6;--paper:#f4f5f6}svg{display:block}</style><main>`)
	for _, name := range body.Poses().Names() {
		p, _ := body.Poses().Pose(name)
		f := body.Solve(p)
		fmt.Fprintf(&b, `<figure><div>%s</div><div style="width:46px">%s</div>%s %s</figure>`, draw.Figure(f, 160, 110, nil, "", name), draw.Figure(f, 46, 30, nil, "", ""), html.EscapeString(name), html.EscapeString(strings.Join(f.Complaints(), "; ")))
	}
	b.WriteString("</main>\n")
	_, err := io.WriteString(out, b.String())
	return err
}
