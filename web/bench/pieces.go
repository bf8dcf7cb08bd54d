package bench

import (
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/export"
	"wavekine/core/ledger"
	"wavekine/core/plan"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

// piece is something that can be put into a session: a template, or a section of another session.
type piece struct {
	Value, Title string
	Rows         int
}

// piecesOf lists what can be put in.
func piecesOf(a *kit.Kit, c *gin.Context, not string) (out []piece, err error) {
	for i, b := range plan.BuiltIn() {
		out = append(out, piece{Value: "built " + strconv.Itoa(i), Title: b.Title})
	}
	ts, err := a.Store.Templates(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		return nil, err
	}
	for _, t := range ts {
		out = append(out, piece{Value: "template " + t.ID, Title: "ours: " + t.Title})
	}
	ds, err := a.Store.Sessions.List(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		return nil, err
	}
	for _, d := range ds[:min(len(ds), 40)] {
		if d.ID == not {
			continue
		}
		var titles struct {
			Sections []struct {
				Title string `json:"title"`
			} `json:"sections"`
		}
		if json.Unmarshal(d.Doc, &titles) != nil {
			continue
		}
		for i, s := range titles.Sections {
			out = append(out, piece{Value: fmt.Sprintf("session %s %d", d.ID, i+1), Title: d.Title + ": " + s.Title})
		}
	}
	return out, nil
}

// leastPieceName is how many letters of a template's name are typed before it is offered, mostPieces how many are; judgement.
const (
	leastPieceName = 4
	mostPieces     = 3
)

// piecesNamed are the templates whose titles have what was typed: "five abdominals" is a piece as well as movements.
func piecesNamed(a *kit.Kit, c *gin.Context, typed string) (out []piece, err error) {
	typed = strings.ToLower(strings.TrimSpace(typed))
	if len(typed) < leastPieceName {
		return nil, nil
	}
	add := func(value, title string) {
		if len(out) < mostPieces && strings.Contains(strings.ToLower(title), typed) {
			out = append(out, piece{Value: value, Title: title})
		}
	}
	for i, b := range plan.BuiltIn() {
		add("built "+strconv.Itoa(i), b.Title)
	}
	ts, err := a.Store.Templates(c.Request.Context(), kit.Who(c).Studio.ID)
	for _, t := range ts {
		add("template "+t.ID, t.Title)
	}
	return out, err
}

// errNoPiece is said where a piece that was chosen is not there.
var errNoPiece = errors.New("choose a piece that is in the list: reload the page if it should be")

// sectionsOf finds the sections that a piece means.
func sectionsOf(a *kit.Kit, c *gin.Context, value string) ([]plan.Section, error) {
	kind, rest, _ := strings.Cut(value, " ")
	studio := kit.Who(c).Studio.ID
	missing := func(err error) error {
		if errors.Is(err, store.ErrNotFound) {
			return errNoPiece
		}
		return kit.Trouble(err)
	}
	switch kind {
	case "built":
		i, err := strconv.Atoi(rest)
		if err != nil || i < 0 || i >= len(plan.BuiltIn()) {
			return nil, errNoPiece
		}
		return plan.BuiltIn()[i].Sections(a.Lib)
	case "template":
		t, err := a.Store.Template(c.Request.Context(), studio, rest)
		if err != nil {
			return nil, missing(err)
		}
		s, err := plan.ReadSession(t.Doc, a.Lib)
		if err != nil {
			return nil, fmt.Errorf("the template %q cannot be put in: %w. It stays as it is", t.Title, err)
		}
		return s.Sections, nil
	case "session":
		id, n, _ := strings.Cut(rest, " ")
		d, err := a.Store.Sessions.Get(c.Request.Context(), studio, id)
		if err != nil {
			return nil, missing(err)
		}
		s, err := plan.ReadSession(d.Doc, a.Lib)
		if err != nil {
			return nil, fmt.Errorf("%s cannot be read: %w", d.Title, err)
		}
		i, err := strconv.Atoi(n)
		if err != nil || i < 1 || i > len(s.Sections) {
			return nil, errors.New("that section is not there any more")
		}
		return s.Sections[i-1 : i], nil
	}
	return nil, errNoPiece
}

// keepTemplate keeps the chosen rows, whole chains and circuits where they are chosen whole.
func keepTemplate(a *kit.Kit, c *gin.Context) {
	cl, err := a.Opened(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	pick := &plan.PickRows{From: cl.Plan}
	if err := kit.Decode(c.Request.PostForm, pick); err != nil {
		a.Refuse(c, err)
		return
	}
	ch, err := plan.New(a.Lib, pick)
	if err != nil {
		a.Refuse(c, err)
		return
	}
	if err := a.Store.SaveTemplate(c.Request.Context(), kit.Who(c).Studio.ID, store.NewID(), ch.Sealed, kit.Who(c).Teacher.ID); err != nil {
		a.FailSave(c, err)
		return
	}
	a.Render(c, http.StatusOK, "problem", "said", fmt.Sprintf("Saved as %q. It stands among the pieces from the next look at this page.", ch.Session.Title))
}

// compareView is two sessions wave over wave.
type compareView struct {
	A, B   comparedView
	Others []kit.Listed
	Rows   [][3]string // what, in a, in b
}

type comparedView struct {
	ID, Title string
	Wave      []byte
	Total     clock.Span
}

// compare shows two sessions on one scale of time.
func compare(a *kit.Kit, c *gin.Context) {
	cl, err := a.Class(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	ds, err := a.Store.Sessions.List(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := compareView{}
	for _, d := range ds {
		if d.ID != cl.ID {
			v.Others = append(v.Others, kit.Listed{ID: d.ID, Title: d.Title})
		}
	}
	var other *kit.Class
	if id := c.Query("with"); id != "" {
		d, err := a.Store.Sessions.Get(c.Request.Context(), kit.Who(c).Studio.ID, id)
		if err != nil {
			a.Fail(c, err)
			return
		}
		if other, err = a.Work(d); err != nil {
			a.Fail(c, err)
			return
		}
	}
	longest := cl.TL.Total
	if other != nil {
		longest = max(longest, other.TL.Total)
	}
	show := func(cl *kit.Class) comparedView {
		return comparedView{cl.ID, cl.Plan.Title, draw.WaveOnScale(cl.TL, longest, 1100, 110, cl.Plan.Title+": "+draw.WaveWords(cl.TL)), cl.TL.Total}
	}
	v.A = show(cl)
	if other != nil {
		v.B = show(other)
		v.Rows = compareRows(cl, other)
	}
	a.Show(c, "compare", "Compare "+cl.Plan.Title, "Sessions", v)
}

func compareRows(x, y *kit.Class) (out [][3]string) {
	add := func(what string, of func(*kit.Class) string) { out = append(out, [3]string{what, of(x), of(y)}) }
	add("Length", func(cl *kit.Class) string { return cl.TL.Total.String() })
	add("Promised", func(cl *kit.Class) string {
		if cl.Plan.Target == 0 {
			return "nothing"
		}
		return cl.Plan.Target.String()
	})
	add("Work and holds", func(cl *kit.Class) string { return (cl.TL.Sums.Work + cl.TL.Sums.Hold).String() })
	add("Setting up", func(cl *kit.Class) string { return cl.TL.Sums.Setup.String() })
	add("Changes of position", func(cl *kit.Class) string {
		return fmt.Sprintf("%d, %s", cl.TL.Sums.PositionsChanged, cl.TL.Sums.Position)
	})
	add("Rest", func(cl *kit.Class) string { return cl.TL.Sums.Rest.String() })
	add("Right and left", func(cl *kit.Class) string {
		return cl.TL.Sums.Right.String() + " and " + cl.TL.Sums.Left.String()
	})
	add("Load, effort × minutes", func(cl *kit.Class) string { return fmt.Sprintf("%.0f", ledger.Of(cl.TL).Load) })
	add("Works mostly", func(cl *kit.Class) string { return strings.Join(ledger.Of(cl.TL).About(), ", ") })
	add("Rows", func(cl *kit.Class) string { return strconv.Itoa(cl.Plan.Rows()) })
	return out
}

// ledgerView is the quiet table beside the wave.
type ledgerView struct {
	Says      string
	Met       bool
	Regions   []ledgerLine
	Spine     []ledgerLine
	Load      string
	Sides     string
	Uncertain []string
}

type ledgerLine struct {
	Name string
	Bar  template.HTML
	Says string
}

func ledgerOf(cl *kit.Class) ledgerView {
	l := ledger.Of(cl.TL)
	v := ledgerView{Load: fmt.Sprintf("%.0f", l.Load), Sides: fmt.Sprintf("right %s, left %s, both %s", l.Right.Time, l.Left.Time, l.Both.Time)}
	v.Says, v.Met = l.Compare(cl.Plan.Focus)
	for i, e := range l.Regions {
		if i == 10 {
			break
		}
		v.Regions = append(v.Regions, ledgerLine{e.Name, template.HTML(draw.Bar(e.Share/max(.01, l.Regions[0].Share), "bar")), fmt.Sprintf("%s, %.0f %% of the effort", e.Time, 100*e.Share)})
	}
	for _, e := range l.Directions {
		v.Spine = append(v.Spine, ledgerLine{e.Name, template.HTML(draw.Bar(e.Share, "bar")), e.Time.String()})
	}
	for _, u := range cl.TL.LeastCertain(3) {
		if r := cl.Plan.Row(u.Row); r != nil {
			v.Uncertain = append(v.Uncertain, fmt.Sprintf("%s ±%s", export.RowName(r, cl.Lib), u.By))
		}
	}
	return v
}
