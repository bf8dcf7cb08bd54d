package library

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/body"
	"wavekine/core/movement"
	"wavekine/draw"
	"wavekine/web/kit"
)

// poseBox is the size of the drawing whose joints can be pulled, in pixels.
var poseBox = [2]float64{420, 300}

// posePanel is one pose in the editor: the drawing with its handles, the angles, what it weighs.
type posePanel struct {
	Field      string // "levels.0.pose"
	Title      string
	JSON       string
	SVG        []byte
	Angles     []body.Angle
	Turn       float64
	Pelvis     float64
	Views      string // "side", "front" or "above"
	Complaints []string
	Loads      []loadBar
	Supports   string
	Demand     string
	Optional   bool
}

// loadBar is one load as words and a small bar.
type loadBar struct {
	Name, Says string
	Bar, Mark  float64 // percent of the reference
}

// momentReference is the moment that fills a bar: the two straight legs just above the mat, and a little;
// judgement.
const momentReference = 10.0

// momentFrom is the smallest moment that is shown.
const momentFrom = .3

func loadBars(l body.Loads) (out []loadBar) {
	i := 0
	var means []float64
	mean := l.Mean
	mean.Each(func(_ string, v *float64) { means = append(means, *v) })
	worst := l.Worst
	worst.Each(func(name string, v *float64) {
		m := means[i]
		i++
		if *v < momentFrom || name == "one hip" || name == "knee" && *v < 1 {
			return
		}
		out = append(out, loadBar{name, fmt.Sprintf("%.1f, on average %.1f", *v, m), min(100, 100**v/momentReference), min(100, 100*m/momentReference)})
	})
	if l.Hands > 1 {
		out = append(out, loadBar{"hands", fmt.Sprintf("%.0f %% of body weight", l.Hands), min(100, l.Hands), 0})
	}
	return out
}

// panel works out everything that is shown of a pose. It costs two solutions of the figure.
func panel(field string, p body.Pose) posePanel {
	f := body.Solve(p)
	v := posePanel{
		Field: field, SVG: draw.Posable(f, poseBox[0], poseBox[1], "The figure; its joints can be pulled"), Angles: f.Angles(),
		Turn: p.Turn, Pelvis: f.Pelvis, Views: "side", Complaints: f.Complaints(),
	}
	v.Title = "It shows"
	if strings.HasSuffix(field, "from") {
		v.Title, v.Optional = "It starts from", true
	}
	switch {
	case p.Plan:
		v.Views = "above"
	case p.Front:
		v.Views = "front"
	}
	if b, err := json.Marshal(p); err == nil {
		v.JSON = string(b)
	}
	if st, ok := f.Statics(body.Mean); ok {
		v.Loads = loadBars(body.Loads{Worst: st.Moments, Mean: st.Moments})
		v.Supports = supportsWords(st)
	}
	return v
}

// supportsWords says where a body bears, and whether statics alone decides it.
func supportsWords(st body.Statics) string {
	var sup []string
	for _, s := range st.Supports {
		if s.Percent >= .5 {
			sup = append(sup, fmt.Sprintf("%s %.0f %%", supportName(s.Part), s.Percent))
		}
	}
	words := strings.Join(sup, ", ")
	if st.Push > 0 {
		words += fmt.Sprintf("; the wall pushes the hands with %.0f %%", st.Push)
	}
	if !st.Exact {
		words += " (more than two supports: the least that balances)"
	}
	return words
}

func supportName(part string) string {
	for _, s := range []struct{ end, word string }{{"R", "right "}, {"L", "left "}} {
		if rest, ok := strings.CutSuffix(part, s.end); ok {
			return s.word + rest
		}
	}
	return part
}

// demandNow is the demand that the mechanics give a level being made, and its loads over the repetition.
func demandNow(family, stance string, from body.Pose, hasFrom bool, pose body.Pose) (string, []loadBar) {
	strip := body.Strip{{At: 0, Pose: pose}}
	if hasFrom && from.Front == pose.Front && from.Plan == pose.Plan {
		strip = body.Strip{{At: 0, Pose: from}, {At: 1, Pose: pose}}
	}
	w, _ := asNumber(stance).(float64)
	d, loads, err := movement.Demand(movement.Family(family), strip, w)
	switch {
	case family == "":
		return "", loadBars(loads)
	case err != nil:
		return err.Error(), loadBars(loads)
	}
	return fmt.Sprintf("%.1f", d), loadBars(loads)
}

// posePull answers one pull of a joint, one typed angle, or a change of view, with the redrawn panel.
func posePull(a *kit.Kit, c *gin.Context) {
	field := c.PostForm("field")
	if !strings.HasPrefix(field, "levels.") || len(field) > 40 {
		a.Problem(c, http.StatusUnprocessableEntity, "Which pose?")
		return
	}
	p, err := body.ReadPose([]byte(c.PostForm("pose")))
	if err != nil {
		a.Refuse(c, fmt.Errorf("the pose could not be read: %w", err))
		return
	}
	switch c.PostForm("do") {
	case "pull":
		px, okX := asNumber(c.PostForm("x")).(float64)
		py, okY := asNumber(c.PostForm("y")).(float64)
		if !okX || !okY {
			a.Refuse(c, errors.New("a pull needs a place: x and y in pixels of the drawing"))
			return
		}
		x, y := draw.PosableAt(body.Solve(p), poseBox[0], poseBox[1], px, py)
		p = p.Drag(c.PostForm("handle"), body.Point{X: x, Y: y})
	case "set":
		v, ok := asNumber(c.PostForm("value")).(float64)
		if !ok {
			a.Refuse(c, fmt.Errorf("%q is not a number of degrees", c.PostForm("value")))
			return
		}
		if p, err = p.Set(c.PostForm("key"), c.PostForm("side"), v); err != nil {
			a.Refuse(c, err)
			return
		}
	case "mirror":
		p = p.Mirrored()
	case "book":
		q, ok := body.Poses().Pose(c.PostForm("name"))
		if !ok {
			a.Refuse(c, fmt.Errorf("no pose %q in the book", c.PostForm("name")))
			return
		}
		p = q
	case "plant": // a foot or hand down where it is, or free again
		p = p.Planted(c.PostForm("handle"))
	case "", "show":
	default:
		a.Refuse(c, fmt.Errorf("%q is not something that can be done to a pose", c.PostForm("do")))
		return
	}
	a.Render(c, http.StatusOK, "movement-edit", "panel", panel(field, p))
}
