package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"io"
	"math"
	"net/http"
	"net/url"
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

// builtIn are the pieces that come with the product, said as a class is said.
var builtIn = []struct{ title, text string }{
	{"Arrive", "# Arrive\nrib breathing 6 breaths\npelvic tilt 8 reps\ncat and cow 5 reps"},
	{"Five abdominals", "# Five abdominals\nsingle leg stretch level 2 10 pairs\ndouble leg stretch level 1 8 reps\nrest 15 s head down, look right, look left\nscissors level 2 10 pairs\ndouble leg lower level 2 6 reps\nrest 15 s head down, look right, look left\ncriss-cross 8 pairs"},
	{"Settle", "# Settle\nknees to chest 4 breaths\nsupine twist 30 s each side\nconstructive rest 8 breaths"},
}

// pieces lists what can be put in.
func (a *app) pieces(c *gin.Context, not string) (out []piece, err error) {
	for i, b := range builtIn {
		out = append(out, piece{Value: "built " + strconv.Itoa(i), Title: b.title})
	}
	ts, err := a.store.Templates(c, who(c).Studio.ID)
	if err != nil {
		return nil, err
	}
	for _, t := range ts {
		out = append(out, piece{Value: "template " + t.ID, Title: "ours: " + t.Title})
	}
	ds, err := a.store.Plans(c, who(c).Studio.ID)
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

// sectionsOf finds the sections that a piece means.
func (a *app) sectionsOf(c *gin.Context, value string) ([]plan.Section, string, error) {
	kind, rest, _ := strings.Cut(value, " ")
	switch kind {
	case "built":
		i, err := strconv.Atoi(rest)
		if err != nil || i < 0 || i >= len(builtIn) {
			return nil, "", errors.New("which piece?")
		}
		lines, err := plan.Lines(builtIn[i].text, a.lib)
		if err != nil {
			return nil, "", err
		}
		s := &plan.Session{}
		for _, l := range lines {
			if l.Err != nil {
				return nil, "", fmt.Errorf("%s: %w", builtIn[i].title, l.Err)
			}
		}
		_, err = s.AddLines(plan.Path{}, lines)
		return s.Sections, builtIn[i].title, err
	case "template":
		t, err := a.store.Template(c, who(c).Studio.ID, rest)
		if err != nil {
			return nil, "", err
		}
		s, err := plan.ReadSession(t.Doc, a.lib)
		if err != nil {
			return nil, "", fmt.Errorf("the template %q cannot be put in: %w. It stays as it is", t.Title, err)
		}
		return s.Sections, t.Title, nil
	case "session":
		id, n, _ := strings.Cut(rest, " ")
		d, err := a.store.Plan(c, who(c).Studio.ID, id)
		if err != nil {
			return nil, "", err
		}
		s, err := plan.ReadSession(d.Doc, a.lib)
		if err != nil {
			return nil, "", err
		}
		i, err := strconv.Atoi(n)
		if err != nil || i < 1 || i > len(s.Sections) {
			return nil, "", errors.New("that section is not there any more")
		}
		return s.Sections[i-1 : i], s.Sections[i-1].Title, nil
	}
	return nil, "", errors.New("which piece?")
}

// editInsert puts a piece behind the section one is in. The sections are found before, in a.insert.
func editInsert(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	at := len(p.Sections)
	if s := f.Get("after"); s != "" {
		if q, err := plan.ParsePath(s); err == nil && q.Section <= len(p.Sections) {
			at = q.Section
		}
	}
	to, err := p.Insert(at, a.insert)
	if err != nil {
		return "", to, err
	}
	return "Put in " + a.insert[0].Title, to, nil
}

// keepTemplate keeps the chosen rows, whole chains and circuits where they are chosen whole.
func (a *app) keepTemplate(c *gin.Context) {
	cl, err := a.class(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	title := strings.TrimSpace(c.PostForm("title"))
	if title == "" || len([]rune(title)) > plan.MaxTitle {
		a.refuse(c, fmt.Errorf("a template needs a title of 1 to %d characters", plan.MaxTitle))
		return
	}
	at, err := formPaths(c.Request.PostForm, "at")
	if err != nil {
		a.refuse(c, err)
		return
	}
	s, err := cl.Plan.Pick(title, at)
	if err != nil {
		a.refuse(c, err)
		return
	}
	doc, err := json.Marshal(s)
	if err != nil {
		a.fail(c, err)
		return
	}
	if err := a.store.SaveTemplate(c, who(c).Studio.ID, store.NewID(), title, doc, who(c).Teacher.ID); err != nil {
		a.fail(c, err)
		return
	}
	a.render(c, http.StatusOK, "problem", "said", fmt.Sprintf("Kept as %q: %d rows. It stands under Put in a piece from the next look at this page.", title, len(at)))
}

func (a *app) deleteTemplate(c *gin.Context) {
	if err := a.store.DeleteTemplate(c, who(c).Studio.ID, c.Param("id")); err != nil {
		a.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/house")
}

// restore gives the session back as it was at a revision; that is an edit like any other and can be undone.
func (a *app) restorePlan(c *gin.Context) {
	cl, err := a.class(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	rev, err := strconv.Atoi(c.PostForm("to"))
	if err != nil || rev < 1 || rev > math.MaxInt32 {
		a.refuse(c, errors.New("which revision?"))
		return
	}
	doc, _, err := a.store.PlanRevision(c, who(c).Studio.ID, cl.Doc.ID, rev)
	if errors.Is(err, store.ErrNotFound) {
		a.refuse(c, fmt.Errorf("there is no revision %d", rev))
		return
	}
	if err != nil {
		a.fail(c, err)
		return
	}
	next, err := plan.ReadSession(doc, a.lib)
	if err != nil {
		a.refuse(c, fmt.Errorf("revision %d cannot be read by this version: %w. Nothing was changed", rev, err))
		return
	}
	ch, err := change(next, fmt.Sprintf("Restore revision %d", rev), who(c).Teacher.ID, a.lib)
	if err != nil {
		a.fail(c, err)
		return
	}
	_, err = a.store.SavePlan(c, who(c).Studio.ID, cl.Doc.ID, cl.Doc.Rev, ch)
	var conflict *store.Conflict
	switch {
	case errors.As(err, &conflict):
		a.problem(c, http.StatusConflict, "Somebody else changed this session at the same moment. Nothing was restored; look at it again, then restore.")
		return
	case err != nil:
		a.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sessions/"+cl.Doc.ID)
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
	ds, err := a.store.Plans(c, who(c).Studio.ID)
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
		d, err := a.store.Plan(c, who(c).Studio.ID, id)
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

// readImport understands a file: a document, a table or lines of text, by its kind or its looks.
// A table and lines of text become a session of the house's school, in which the lines are read.
func (a *app) readImport(text []byte, kind string, school plan.Style) (*plan.Session, []badLine, string, error) {
	trimmed := strings.TrimSpace(strings.TrimPrefix(string(text), "\xef\xbb\xbf"))
	if kind == "" {
		first, _, _ := strings.Cut(trimmed, "\n")
		switch {
		case strings.HasPrefix(trimmed, "{"):
			kind = "json"
		case strings.Contains(strings.ToLower(first), "movement") && strings.ContainsAny(first, ",;"):
			kind = "csv"
		default:
			kind = "text"
		}
	}
	var bad []badLine
	switch kind {
	case "json":
		s, err := plan.ReadSession([]byte(trimmed), a.lib)
		return s, nil, kind, err
	case "csv":
		s, lines, err := plan.ReadCSV([]byte(trimmed), a.lib)
		if s != nil {
			s.Style = school
		}
		for _, l := range lines {
			bad = append(bad, badLine{l.N, l.Raw, l.Err.Error()})
		}
		return s, bad, kind, err
	case "text":
		lines, err := plan.LinesIn(trimmed, a.lib, school)
		if err != nil {
			return nil, nil, kind, err
		}
		s := &plan.Session{Format: plan.SessionFormat, Title: "From text", Style: school}
		var good []plan.TextLine
		for _, l := range lines {
			if l.Err != nil {
				bad = append(bad, badLine{l.N, strings.ToValidUTF8(strings.TrimSpace(l.Raw), "\uFFFD"), l.Err.Error()})
				continue
			}
			good = append(good, l)
		}
		_, err = s.AddLines(plan.Path{}, good)
		return s, bad, kind, err
	}
	return nil, nil, kind, fmt.Errorf("%q cannot be read: expected json, csv or text", kind)
}

// importSession shows what a file means, and with do=make makes a session of it.
func (a *app) importSession(c *gin.Context) {
	text, name, err := uploaded(c)
	if err != nil {
		var big *http.MaxBytesError
		if errors.As(err, &big) {
			a.problem(c, http.StatusRequestEntityTooLarge, "The file is larger than 5 MB: at most 2 MB of a document are read.")
			return
		}
		var tooLarge tooLargeError
		if errors.As(err, &tooLarge) {
			a.problem(c, http.StatusRequestEntityTooLarge, err.Error())
			return
		}
		a.refuse(c, err)
		return
	}
	s, bad, kind, err := a.readImport(text, c.PostForm("kind"), who(c).House.Style)
	if err != nil {
		a.problem(c, http.StatusUnprocessableEntity, "The document was not read. "+err.Error()+". Nothing was stored.")
		return
	}
	if t := strings.TrimSpace(c.PostForm("title")); t != "" {
		if err := setTitle(s, t); err != nil {
			a.problem(c, http.StatusUnprocessableEntity, err.Error())
			return
		}
	}
	if c.PostForm("do") == "make" {
		if s.Rows() == 0 {
			a.problem(c, http.StatusUnprocessableEntity, "There is no row in it that was understood. Nothing was stored.")
			return
		}
		id, err := a.create(c, s, "Read from "+kind)
		if err != nil {
			a.fail(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, "/sessions/"+id)
		return
	}
	tl, err := timeline.Build(s, a.lib)
	if err != nil {
		a.problem(c, http.StatusUnprocessableEntity, err.Error())
		return
	}
	v := importView{Name: name, Title: s.Title, Wave: draw.SmallWave(tl, 700, 70, draw.WaveWords(tl)), Total: tl.Total, Rows: s.Rows(), Bad: bad, Text: string(text), Kind: kind}
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
	var big *http.MaxBytesError
	switch {
	case errors.As(err, &big):
		return nil, "", err
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
