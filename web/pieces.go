package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/export"
	"wavekine/core/ledger"
	"wavekine/core/plan"
	"wavekine/core/strict"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/store"
)

// piece is something that can be put into a session: a template, or a section of another session.
type piece struct {
	Value, Title string
	Rows         int
}

// pieces lists what can be put in.
func (a *app) pieces(c *gin.Context, not string) (out []piece, err error) {
	for i, b := range plan.BuiltIn {
		out = append(out, piece{Value: "built " + strconv.Itoa(i), Title: b.Title})
	}
	ts, err := a.store.Templates(c, who(c).Studio.ID)
	if err != nil {
		return nil, err
	}
	for _, t := range ts {
		out = append(out, piece{Value: "template " + t.ID, Title: "ours: " + t.Title})
	}
	ds, err := a.store.Sessions.List(c, who(c).Studio.ID)
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

// errNoPiece is said where a piece that was chosen is not there.
var errNoPiece = errors.New("choose a piece that is in the list: reload the page if it should be")

// sectionsOf finds the sections that a piece means.
func (a *app) sectionsOf(c *gin.Context, value string) ([]plan.Section, error) {
	kind, rest, _ := strings.Cut(value, " ")
	studio := who(c).Studio.ID
	missing := func(err error) error {
		if errors.Is(err, store.ErrNotFound) {
			return errNoPiece
		}
		return trouble{err}
	}
	switch kind {
	case "built":
		i, err := strconv.Atoi(rest)
		if err != nil || i < 0 || i >= len(plan.BuiltIn) {
			return nil, errNoPiece
		}
		return plan.BuiltIn[i].Sections(a.lib)
	case "template":
		t, err := a.store.Template(c, studio, rest)
		if err != nil {
			return nil, missing(err)
		}
		s, err := plan.ReadSession(t.Doc, a.lib)
		if err != nil {
			return nil, fmt.Errorf("the template %q cannot be put in: %w. It stays as it is", t.Title, err)
		}
		return s.Sections, nil
	case "session":
		id, n, _ := strings.Cut(rest, " ")
		d, err := a.store.Sessions.Get(c, studio, id)
		if err != nil {
			return nil, missing(err)
		}
		s, err := plan.ReadSession(d.Doc, a.lib)
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
func (a *app) keepTemplate(c *gin.Context) {
	cl, err := a.opened(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	pick := &plan.PickRows{From: cl.Plan}
	if err := decode(c.Request.PostForm, pick); err != nil {
		a.refuse(c, err)
		return
	}
	ch, err := plan.New(a.lib, pick)
	if err != nil {
		a.refuse(c, err)
		return
	}
	if err := a.store.SaveTemplate(c, who(c).Studio.ID, store.NewID(), ch.Sealed, who(c).Teacher.ID); err != nil {
		a.failSave(c, err)
		return
	}
	a.render(c, http.StatusOK, "problem", "said", fmt.Sprintf("Saved as %q. It stands among the pieces from the next look at this page.", ch.Session.Title))
}

func (a *app) deleteTemplate(c *gin.Context) {
	if err := a.store.DeleteTemplate(c, who(c).Studio.ID, c.Param("id")); err != nil {
		a.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/house")
}

// compareView is two sessions wave over wave.
type compareView struct {
	A, B   comparedView
	Others []listed
	Rows   [][3]string // what, in a, in b
}

type comparedView struct {
	ID, Title string
	Wave      []byte
	Total     clock.Span
}

// compare shows two sessions on one scale of time.
func (a *app) compare(c *gin.Context) {
	cl, err := a.class(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	ds, err := a.store.Sessions.List(c, who(c).Studio.ID)
	if err != nil {
		a.fail(c, err)
		return
	}
	v := compareView{}
	for _, d := range ds {
		if d.ID != cl.Doc.ID {
			v.Others = append(v.Others, listed{ID: d.ID, Title: d.Title})
		}
	}
	var other *class
	if id := c.Query("with"); id != "" {
		d, err := a.store.Sessions.Get(c, who(c).Studio.ID, id)
		if err != nil {
			a.fail(c, err)
			return
		}
		if other, err = a.work(d); err != nil {
			a.fail(c, err)
			return
		}
	}
	longest := cl.TL.Total
	if other != nil {
		longest = max(longest, other.TL.Total)
	}
	show := func(cl *class) comparedView {
		return comparedView{cl.Doc.ID, cl.Plan.Title, draw.WaveOnScale(cl.TL, longest, 1100, 110, cl.Plan.Title+": "+draw.WaveWords(cl.TL)), cl.TL.Total}
	}
	v.A = show(cl)
	if other != nil {
		v.B = show(other)
		v.Rows = compareRows(cl, other)
	}
	a.show(c, "compare", "Compare "+cl.Plan.Title, "Sessions", v)
}

func compareRows(x, y *class) (out [][3]string) {
	add := func(what string, of func(*class) string) { out = append(out, [3]string{what, of(x), of(y)}) }
	add("Length", func(cl *class) string { return cl.TL.Total.String() })
	add("Promised", func(cl *class) string {
		if cl.Plan.Target == 0 {
			return "nothing"
		}
		return cl.Plan.Target.String()
	})
	add("Work and holds", func(cl *class) string { return (cl.TL.Sums.Work + cl.TL.Sums.Hold).String() })
	add("Setting up", func(cl *class) string { return cl.TL.Sums.Setup.String() })
	add("Changes of position", func(cl *class) string {
		return fmt.Sprintf("%d, %s", cl.TL.Sums.PositionsChanged, cl.TL.Sums.Position)
	})
	add("Rest", func(cl *class) string { return cl.TL.Sums.Rest.String() })
	add("Right and left", func(cl *class) string {
		return cl.TL.Sums.Right.String() + " and " + cl.TL.Sums.Left.String()
	})
	add("Load, effort × minutes", func(cl *class) string { return fmt.Sprintf("%.0f", ledger.Of(cl.TL).Load) })
	add("Works mostly", func(cl *class) string { return strings.Join(ledger.Of(cl.TL).About(), ", ") })
	add("Rows", func(cl *class) string { return strconv.Itoa(cl.Plan.Rows()) })
	return out
}

// importView is a file or text as it was understood, before it is made a session.
type importView struct {
	Name, Title   string
	Wave          []byte
	Total         clock.Span
	Rows          int
	Sections      []export.SheetSection
	Bad           []badLine
	Text, Kind    string // carried along to the second step
	Says          string
	Understanding string
}

type badLine struct {
	N         int
	Raw, Says string
}

// importSession shows what a file means, and with do=make makes a session of it.
func (a *app) importSession(c *gin.Context) {
	text, name, err := uploaded(c)
	if err != nil {
		var tooLarge tooLargeError
		if errors.As(err, &tooLarge) {
			a.problem(c, http.StatusRequestEntityTooLarge, err.Error())
			return
		}
		a.refuse(c, err)
		return
	}
	in, err := plan.Import(text, c.PostForm("kind"), a.lib, who(c).House.Style)
	if err != nil {
		a.problem(c, http.StatusUnprocessableEntity, "It was not read. "+sentence(err)+" Nothing was saved.")
		return
	}
	in.As = c.PostForm("title")
	if c.PostForm("do") == "make" {
		a.create(c, in)
		return
	}
	s := in.Session
	tl, err := timeline.Build(s, a.lib)
	if err != nil {
		a.problem(c, http.StatusUnprocessableEntity, sentence(err))
		return
	}
	v := importView{Name: name, Title: s.Title, Wave: draw.SmallWave(tl, 700, 70, draw.WaveWords(tl)), Total: tl.Total, Rows: s.Rows(), Text: string(text), Kind: in.Kind}
	for _, l := range in.Bad {
		v.Bad = append(v.Bad, badLine{l.N, l.Raw, l.Err.Error()})
	}
	v.Sections = export.SheetOf(s, tl, a.lib).Sections
	if isPart(c) {
		c.Header("X-Fragment", "1") // shown beside what was chosen
		a.render(c, http.StatusOK, "import", "preview", v)
		return
	}
	a.show(c, "import", "Read "+name, "Sessions", v)
}

type tooLargeError string

func (e tooLargeError) Error() string { return string(e) }

// uploaded reads a file, or the text of the preview's second step.
func uploaded(c *gin.Context) (text []byte, name string, err error) {
	f, err := c.FormFile("file")
	switch {
	case err != nil:
		if t := c.PostForm("text"); t != "" {
			if len(t) > strict.MaxBytes {
				return nil, "", tooLargeError(fmt.Sprintf("The text is %.1f MB: at most %d MB are read.", float64(len(t))/(1<<20), strict.MaxBytes>>20))
			}
			return []byte(t), "the text", nil
		}
		return nil, "", errors.New("choose a file first: a wavekine.session/1 document, a table as CSV, or lines of text")
	case f.Size > strict.MaxBytes:
		return nil, "", tooLargeError(fmt.Sprintf("The file is %.1f MB: at most %d MB are read.", float64(f.Size)/(1<<20), strict.MaxBytes>>20))
	}
	r, err := f.Open()
	if err != nil {
		return nil, "", err
	}
	defer func() { _ = r.Close() }()
	text, err = io.ReadAll(io.LimitReader(r, strict.MaxBytes+1))
	return text, f.Filename, err
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

func ledgerOf(cl *class) ledgerView {
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
			v.Uncertain = append(v.Uncertain, fmt.Sprintf("%s ±%s", export.RowName(r, cl.lib), u.By))
		}
	}
	return v
}
