package draw

import (
	"strings"

	"wavekine/core/body"
	"wavekine/core/progress"
)

// The drawn body that is touched to say where something was felt: from the front and from behind, with a spot for each part. On the front right and left are those of somebody who faces
// one, as in a mirror held the other way: the picture says which is which.

// spot is where a part of the body is on the standing figure: around a joint, or between two, so wide and high in statures; off moves it away from the middle.
type spot struct {
	at, to string  // joints, without their side where they have one
	t      float64 // share of the way from at to to
	rx, ry float64
	dx, dy float64 // outwards, upwards
}

// spots by place and view; a place that is missing on a side is not touched there.
var frontSpots = map[string]spot{
	"neck": {at: "atlas", rx: .045, ry: .032, dy: -.035}, "shoulder": {at: "sho", rx: .05, ry: .045}, "chest": {at: "thorax", rx: .085, ry: .05},
	"arm": {at: "sho", to: "elb", t: .55, rx: .036, ry: .05}, "elbow": {at: "elb", rx: .034, ry: .034}, "wrist": {at: "wri", rx: .036, ry: .04},
	"belly": {at: "belly", rx: .052, ry: .055, dy: -.01}, "waist": {at: "belly", rx: .03, ry: .045, dx: .085, dy: .02}, "front of the hip": {at: "hip", rx: .042, ry: .038, dy: .005},
	"thigh": {at: "hip", to: "knee", t: .55, rx: .034, ry: .06, dx: .012}, "inner thigh": {at: "hip", to: "knee", t: .42, rx: .024, ry: .06, dx: -.034}, "knee": {at: "knee", rx: .042, ry: .036},
	"shin": {at: "knee", to: "ank", t: .5, rx: .036, ry: .06}, "foot": {at: "ank", rx: .045, ry: .032, dy: -.02},
}

var backSpots = map[string]spot{
	"neck": {at: "atlas", rx: .045, ry: .032, dy: -.03}, "shoulder": {at: "sho", rx: .05, ry: .045}, "upper back": {at: "thorax", rx: .085, ry: .055, dy: .01}, "low back": {at: "belly", rx: .075, ry: .05},
	"seat": {at: "hip", rx: .048, ry: .045, dy: -.005}, "back of the thigh": {at: "hip", to: "knee", t: .6, rx: .04, ry: .06}, "calf": {at: "knee", to: "ank", t: .42, rx: .038, ry: .06},
	"arm": {at: "sho", to: "elb", t: .55, rx: .036, ry: .05}, "elbow": {at: "elb", rx: .034, ry: .034}, "wrist": {at: "wri", rx: .036, ry: .04}, "foot": {at: "ank", rx: .045, ry: .032, dy: -.02},
}

// standing is the figure that is touched.
func standing() *body.Figure {
	p, _ := body.Poses().Pose("standing, arms wide")
	for _, x := range []struct {
		key     string
		degrees float64
	}{{"sho", 24}, {"elb", -6}} {
		for _, side := range []string{"R", "L"} {
			if q, err := p.Set(x.key, side, x.degrees); err == nil {
				p = q
			}
		}
	}
	return body.Solve(p)
}

// Places draws the body from the front or from behind, w by h pixels, as figures are, with a button's worth of room over each part: groups of class "spot" with data-place and, where it has sides,
// data-side. The page makes them touchable; without its script they are only drawn.
func Places(back bool, w, h float64) []byte {
	f := standing()
	x0, x1, _, y1 := f.Extent()
	pad := 4.0
	scale := min((w-2*pad)/(x1-x0), (h-2*pad)/(y1+.01))
	ox, oy := w/2-scale*(x0+x1)/2, h-pad
	fig := Figure(f, w, h, nil, "", "")
	from, to := strings.IndexByte(string(fig), '>')+1, strings.LastIndex(string(fig), "</svg>")
	var out svg
	out.str(`<svg xmlns="http://www.w3.org/2000/svg" class="places" viewBox="0 0 `).num(w).str(" ").num(h).str(`">`)
	out.str(`<g aria-hidden="true">`, string(fig[from:to]), `</g>`)
	spots := frontSpots
	if back {
		spots = backSpots
	}
	for _, p := range progress.Places() {
		s, ok := spots[p.Name]
		if !ok {
			continue
		}
		sides := []string{""}
		if p.Sided {
			sides = []string{"right", "left"}
		}
		for _, side := range sides {
			at := s.on(f, side, back)
			out.str(`<ellipse class="spot" data-place="`).text(p.Name).str(`"`)
			if side != "" {
				out.str(` data-side="`, side, `"`)
			}
			out.attr("cx", ox+scale*at.X).attr("cy", oy-scale*at.Y).attr("rx", scale*s.rx).attr("ry", scale*s.ry).str(`/>`)
		}
	}
	for _, side := range []string{"right", "left"} { // which hand is which
		at := spots["wrist"].on(f, side, back)
		out.str(`<text class="`, side, `" aria-hidden="true" text-anchor="middle"`).attr("x", ox+scale*at.X).attr("y", oy-scale*(at.Y-.13)).str(`>`, side, `</text>`)
	}
	out.str(`</svg>`)
	return out.b
}

// on is the middle of a spot on a side. Seen from the front somebody's right is on the left of the picture; from behind it is on the right.
func (s spot) on(f *body.Figure, side string, back bool) body.Point {
	hip, shoulders := f.J["hip"], body.Mix(f.J["shoR"], f.J["shoL"], .5)
	outwards := 1.0
	if (side == "right") != back {
		outwards = -1
	}
	joint := func(name string) body.Point {
		switch name {
		case "thorax":
			return body.Mix(hip, shoulders, .74)
		case "belly":
			return body.Mix(hip, shoulders, .3)
		case "atlas":
			return f.J["atlas"]
		}
		r, l := f.J[name+"R"], f.J[name+"L"]
		if (r.X-l.X)*outwards > 0 {
			return r
		}
		return l
	}
	at := joint(s.at)
	if s.to != "" {
		at = body.Mix(at, joint(s.to), s.t)
	}
	if side != "" {
		at.X += outwards * s.dx
	}
	at.Y += s.dy
	return at
}
