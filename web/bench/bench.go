package bench

import (
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/export"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

//go:embed *.html *.js
var files embed.FS

// Screen is the bench, on which a session is made.
var Screen = kit.Screen{
	Files: files,
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.GET("/sessions/:id", a.With(showBench))
		in.POST("/sessions/:id/edit", a.With(change))
		in.GET("/sessions/:id/understand", a.With(understand))
		in.POST("/sessions/:id/template", a.With(keepTemplate))
		in.POST("/sessions/:id/restore", a.With(kit.Restore("sessions")))
		in.GET("/sessions/:id/document", a.With(kit.RawDocument("sessions")))
		in.GET("/sessions/:id/options", a.With(showOptions))
		in.GET("/sessions/:id/named", a.With(showNamed))
		in.GET("/sessions/:id/around", a.With(showAround))
		in.GET("/sessions/:id/history", a.With(showHistory))
		in.GET("/sessions/:id/compare", a.With(compare))
		in.GET("/sessions/:id/propose", a.With(propose))
		in.POST("/sessions/:id/paste", a.With(showPaste))
	},
	Funcs: func(a *kit.Kit) template.FuncMap {
		drawn := &drawnRows{a: a, kept: kit.NewCache[rowView, template.HTML](rowsKept)}
		return template.FuncMap{"rows": drawn.all, "nothing": func() understoodView { return understoodView{} }}
	},
}

// rowView is a row as the bench shows it. It is comparable: a row that looks as it did is not drawn again, see rowHTML.
type rowView struct {
	Path, ID    string
	N           int
	Name, Slug  string
	Figure      template.HTML
	Level, Of   int
	Change      string // what the level changes
	Dose, Usual string
	Sides       string // the side rule in force
	Own         string // the row's own side rule, empty for the movement's
	Right, Left string // overrides
	Unequal     bool
	OneSided    bool
	Rest        bool
	Say, Note   string
	Locked      bool
	Spoken      string // as it is said, to be copied
	Words       string // all that is said of it besides, to be changed
	How         string // of that what is shown
	Kept        string // a line to be mended
	Turn        bool
	Newer       bool   // an own movement has a newer version than the row
	Read        string // what was read of it from its name
	At, Sum     clock.Span
	Says        string // for the row's label
}

type blockView struct {
	Path          string
	Rule          string
	Label         string // what the rule is called
	Title         string
	Words         string
	Note          string
	Said          string // all of it, to be changed and copied
	Rounds        int
	On, Off, Rest string
	Rows          []rowView
}

type sectionView struct {
	N      int
	Title  string
	Words  string // all that is said of it, to be changed
	Blocks []blockView
}

// forms is what can be said of a row, a block or a section.
type forms struct {
	For  string
	Says []string
}

// formsSaid are the forms that the bench shows to who asks.
var formsSaid = []forms{
	{"words", strings.Split(plan.RowForms(), "; ")},
	{"block-words", append([]string{"flow", "one side through", "build up", "3 rounds"}, strings.Split(plan.BlockForms(), "; ")...)},
	{"section-words", strings.Split(plan.SectionForms(), "; ")},
}

type benchView struct {
	Forms                                 []forms
	Today                                 string
	ID, Title, Target, Talk, Tempo, First string
	BPM                                   string
	Focus                                 string
	Opening, Closing, Counts              string
	Rev                                   int
	Total, Low, High                      clock.Span
	Wave                                  []byte
	Sections                              []sectionView
	Findings                              []review.Finding
	Undo, Redo                            string
	CanUndo, CanRedo                      bool
	At                                    string // the row that has the focus after an edit
	Rows                                  int
	Context                               string // which day of which series a kept session stands on
	Day                                   *dayView
	Aside                                 []review.Finding
	Reasons                               map[string]string
	Ledger                                ledgerView
	Style                                 []kit.StyleView
	Audience                              string
	Audiences                             []string
	Pieces                                []piece
	Empty                                 bool
}

func viewBench(a *kit.Kit, c *gin.Context, cl *kit.Class, at plan.Path) (benchView, error) {
	p, tl := cl.Plan, cl.TL
	v := benchView{
		Forms: formsSaid, Today: a.Now(c).Format(time.DateOnly),
		ID: cl.ID, Title: p.Title, Talk: p.Talk.String(), Tempo: p.Tempo.String(), First: p.Style.Answer("first_side"), Focus: strings.Join(p.Focus, ", "), Opening: p.Opening, Closing: p.Closing, Counts: map[bool]string{true: "whole", false: "moving"}[p.Whole],
		Rev: cl.Doc.Rev, Total: tl.Total, Low: tl.Low, High: tl.High, Findings: cl.Findings, Empty: p.Rows() == 0,
	}
	if p.Target > 0 {
		v.Target = p.Target.String()
	}
	if p.BPM > 0 {
		v.BPM = strconv.FormatFloat(p.BPM, 'f', -1, 64)
	}
	if at.Row > 0 {
		v.At = at.String()
	}
	v.Aside, v.Ledger, v.Style, v.Audience, v.Reasons = cl.Aside, ledgerOf(cl), kit.StyleViews(p.Style), p.Audience.String(), map[string]string{}
	v.Audiences = movement.AudienceNames()
	for _, x := range append(slices.Clone(kit.Who(c).House.Aside), p.Aside...) {
		v.Reasons[x.Rule] = x.Reason
	}
	marks := make([]draw.Mark, 0, len(cl.Findings))
	for _, f := range cl.Findings {
		if f.Row.Row > 0 || f.Rule == "length" {
			marks = append(marks, draw.Mark{At: f.At, Grav: f.Severity, Says: f.Says})
		}
	}
	var ghost *timeline.Timeline
	if cl.Day > 0 {
		var err error
		if v.Day, err = viewDay(a, c, cl); err != nil {
			return v, err
		}
		if ghost, v.Day.Behind, err = behind(a, c, cl); err != nil {
			return v, err
		}
	}
	v.Wave = draw.Wave(tl, ghost, review.Rails(p, tl, a.Lib, kit.Who(c).House.Limits), marks)
	n := 0
	spans, end := rowSpans(tl), clock.Span(0)
	for i := range p.Sections {
		sec := &p.Sections[i]
		sv := sectionView{N: i + 1, Title: sec.Title, Words: plan.JoinClauses(sec.Clauses())}
		for j := range sec.Blocks {
			b := &sec.Blocks[j]
			bv := blockView{
				Path: plan.Path{Section: i + 1, Block: j + 1, Row: 1}.String(), Rule: b.Rule.String(), Label: ruleLabels[b.Rule], Title: b.Title, Note: b.Note, Said: b.Words(), Words: shortWords(b),
				Rounds: b.Rounds, On: kit.SpanText(b.On), Off: kit.SpanText(b.Off), Rest: kit.SpanText(b.Rest),
			}
			for k := range b.Rows {
				n++
				at := plan.Path{Section: i + 1, Block: j + 1, Row: k + 1}
				if sp, ok := spans[at]; ok {
					end = max(end, sp.at+sp.sum)
				} else { // it takes no time: it stands where the row before it ends
					spans[at] = rowSpan{at: end}
				}
				bv.Rows = append(bv.Rows, viewRow(a, &b.Rows[k], at, n, spans))
			}
			sv.Blocks = append(sv.Blocks, bv)
		}
		v.Sections = append(v.Sections, sv)
	}
	v.Rows = n
	var err error
	v.Undo, v.Redo, err = a.Shelf(cl).StepWords(c.Request.Context(), kit.Who(c).Studio.ID, cl.Doc.ID)
	v.CanUndo, v.CanRedo = v.Undo != "", v.Redo != ""
	return v, err
}

// ruleLabels are what the rules are called on the bench.
var ruleLabels = map[plan.Rule]string{plan.Straight: "Straight", plan.Chain: "One side through", plan.Rounds: "Circuit", plan.Flow: "Flow", plan.BuildUp: "Build up"}

// shortWords are the words of a block behind its label.
func shortWords(b *plan.Block) string {
	w := export.BlockWords(b)
	if label, rest, ok := strings.Cut(w, ": "); ok && label == ruleLabels[b.Rule] {
		return rest
	}
	return w
}

// shownApart are the clauses of a row that the bench shows in other places.
func shownApart(c string) bool {
	return c == "locked" || strings.HasPrefix(c, "offers ") || strings.HasPrefix(c, "shows level ") || strings.HasPrefix(c, "note: ")
}

type rowSpan struct{ at, sum clock.Span }

// rowSpans gives when each row is met and how long it takes in all, in one pass.
func rowSpans(tl *timeline.Timeline) map[plan.Path]rowSpan {
	out := make(map[plan.Path]rowSpan, 64)
	for i := range tl.Steps {
		s := &tl.Steps[i]
		r, ok := out[s.Row]
		if !ok {
			r.at = s.At
		}
		r.sum += s.S
		out[s.Row] = r
	}
	return out
}

func viewRow(a *kit.Kit, r *plan.Row, p plan.Path, n int, spans map[plan.Path]rowSpan) rowView {
	sp := spans[p]
	v := rowView{
		Path: p.String(), ID: kit.RowID(p), N: n, Dose: r.Dose.String(), Rest: r.IsRest(), Note: r.Note,
		Locked: r.Locked, At: sp.at, Sum: sp.sum,
	}
	v.Words = r.Words(nil)
	v.How = strings.Join(slices.DeleteFunc(plan.SplitClauses(r.TableWords()), shownApart), " · ")
	v.Spoken = r.Line(nil)
	if r.IsRest() {
		v.Name, v.Dose, v.Sides, v.Turn, v.Kept = r.Title(nil), r.Rest.For.Said(), "both", r.IsTurn(), r.Rest.Kept
		if v.Turn && r.Rest.For == 0 {
			v.Dose, v.Usual = "", sp.sum.Said()
		}
		v.Say = r.Rest.Say
		switch {
		case v.Kept != "":
			v.Name, v.Says = "To mend", fmt.Sprintf("row %d, to mend: %s", n, v.Kept)
		case v.Turn:
			v.Says = fmt.Sprintf("row %d, %s, %s", n, v.Name, sp.sum.Said())
		default:
			v.Says = fmt.Sprintf("row %d, rest %s", n, v.Dose)
		}
		return v
	}
	m, err := r.Of(a.Lib)
	if err != nil || m == nil {
		v.Name = r.Name()
		return v
	}
	v.Name, v.Slug, v.Level, v.Of, v.Usual = m.Name, m.Slug, max(1, r.Level), len(m.Levels), m.Dose.String()
	if its := m.Drawn(); its != nil {
		v.Figure = a.Figures.Use(its, v.Level, "s")
	}
	if now, ok := a.Lib.Get(m.Base); ok && m.Own {
		v.Newer = now != m
	}
	v.Change = m.At(v.Level).Changes
	if r.Inline != nil {
		v.Slug = ""
		if r.Inline.Guessed() {
			v.Read = r.Inline.Words()
		}
	}
	v.Words, v.Spoken = r.Words(m), r.Line(m)
	v.Sides, v.Own = r.SideRule(m).String(), r.Sides.String()
	v.OneSided = v.Sides == "each"
	side := func(o *plan.Override) string {
		if o == nil {
			return ""
		}
		t := o.Dose.String()
		if o.Level > 0 {
			t = strings.TrimSpace("level " + strconv.Itoa(o.Level) + " " + t)
		}
		return t
	}
	v.Right, v.Left = side(r.Right), side(r.Left)
	v.Unequal = v.Right != "" || v.Left != ""
	d := v.Dose
	if d == "" {
		d = v.Usual
	}
	v.Says = fmt.Sprintf("row %d, %s, level %d of %d, %s, %s", n, m.Name, v.Level, v.Of, d, v.Sides)
	return v
}

func showBench(a *kit.Kit, c *gin.Context) {
	cl, err := a.Class(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v, err := viewBench(a, c, cl, plan.Path{})
	if err != nil {
		a.Fail(c, err)
		return
	}
	nav := "Sessions"
	if cl.Day > 0 {
		nav = "Series"
	} else {
		v.Context = a.DayOf(c, cl.ID)
	}
	if v.Pieces, err = piecesOf(a, c, cl.ID); err != nil {
		a.Fail(c, err)
		return
	}
	a.Show(c, "bench", cl.Plan.Title, nav, v, "js/Sortable.min.js", "js/bench.js")
}

// change does one edit: it is saved at once, and one answer redraws wave, clock, rows and second look.
func change(a *kit.Kit, c *gin.Context) {
	f := c.Request.PostForm
	cl, err := a.Opened(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	rev, err := strconv.Atoi(f.Get("rev"))
	if err != nil {
		a.Problem(c, http.StatusUnprocessableEntity, "That did not work: reload the page and try again.")
		return
	}
	if rev != cl.Doc.Rev && (goesBack(f) || f.Get("op") == "carry" || !a.Untouched(c, cl, rev)) {
		answerConflict(a, c, cl, rev, f)
		return
	}
	ch, err := changed(a, c, cl, f)
	if err != nil {
		a.FailEdit(c, err)
		return
	}
	done, err := a.Save(c, cl, ch)
	var conflict *store.Conflict
	switch {
	case errors.As(err, &conflict):
		newest, cerr := a.Opened(c)
		if cerr != nil {
			a.Fail(c, cerr)
			return
		}
		answerConflict(a, c, newest, conflict.Have, f)
		return
	case err != nil:
		a.FailSave(c, err)
		return
	case done.Plan == nil: // what was undone has taken the day's class away: the board shows what there is
		c.Header("HX-Redirect", "/series/"+done.Doc.ID)
		c.Status(http.StatusOK)
		return
	}
	if err := a.WorkOut(c, done); err != nil {
		a.Fail(c, err)
		return
	}
	v, err := viewBench(a, c, done, ch.At)
	if err != nil {
		a.Fail(c, err)
		return
	}
	c.Header("HX-Trigger", `{"saved":{"rev":`+strconv.Itoa(done.Doc.Rev)+`}}`)
	a.Render(c, http.StatusOK, "bench", "bench", v)
}

// goesBack tells whether a form asks for undo or redo.
func goesBack(f url.Values) bool { return f.Get("op") == "undo" || f.Get("op") == "redo" }

// changed does what a form asks on a copy. Undo and redo give the state of the history they return to.
func changed(a *kit.Kit, c *gin.Context, cl *kit.Class, f url.Values) (kit.Changed, error) {
	switch {
	case goesBack(f):
		return a.Back(c, cl, f.Get("op") == "redo")
	case f.Get("op") == "carry":
		return carried(a, c, cl, f)
	}
	cmd, err := command(a, c, cl, f)
	if err != nil {
		return kit.Changed{}, err
	}
	return a.Do(c, cl, cmd)
}

// conflictView shows both versions when somebody else changed the session first.
type conflictView struct {
	ID, Mine        string
	Theirs          []store.Revision
	TheirWave, Wave []byte
	Rev             int
	AgainJSON       string // the change once more, on the new revision
	CanAgain        bool
	Why             string
}

// answerConflict answers 409 with both versions: what they changed meanwhile, and what this change makes of
// the session as it was. It can be made again on theirs, where it still fits.
func answerConflict(a *kit.Kit, c *gin.Context, now *kit.Class, rev int, f url.Values) {
	if err := a.WorkOut(c, now); err != nil {
		a.Fail(c, err)
		return
	}
	v := conflictView{ID: now.ID, Rev: now.Doc.Rev, TheirWave: draw.SmallWave(now.TL, 240, 48, "As it is now: "+draw.WaveWords(now.TL))}
	history, err := a.Shelf(now).History(c.Request.Context(), kit.Who(c).Studio.ID, now.Doc.ID, 50)
	if err != nil {
		a.Fail(c, err)
		return
	}
	for _, r := range history {
		if r.Rev > rev {
			v.Theirs = append(v.Theirs, r)
		}
	}
	again := map[string]string{}
	for k := range f {
		again[k] = strings.Join(f[k], " ")
	}
	again["rev"] = strconv.Itoa(now.Doc.Rev)
	if goesBack(f) || f.Get("op") == "carry" {
		v.Mine, v.Why = f.Get("op"), "It goes by the newest version: look at that first."
	} else {
		ch, err := changed(a, c, now, f)
		if err != nil {
			v.Mine, v.Why = f.Get("op"), "It does not fit the newest version: "+err.Error()+"."
			if l := f.Get("line"); l != "" {
				v.Mine = l
			}
		} else {
			v.Mine, v.CanAgain = ch.Says, true
			if tl, err := timeline.Build(ch.Plan, a.Lib); err == nil {
				v.Wave = draw.SmallWave(tl, 240, 48, "With your change: "+draw.WaveWords(tl))
			}
		}
	}
	b, err := json.Marshal(again)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v.AgainJSON = string(b)
	c.Header("HX-Retarget", "#message")
	c.Header("HX-Reswap", "innerHTML")
	a.Render(c, http.StatusConflict, "bench", "conflict", v)
}

// understoodView is what the add line says while it is being typed.
type understoodView struct {
	Line         string
	Name, Words  string
	Read         string // what was read from its name
	Row          *plan.Row
	Figure       template.HTML
	Takes, Lands clock.Span
	Total        clock.Span
	Before, Word string // the line up to the word that was not understood, and the word
	After        string
	Says         string
	Where        string // "after row 4, in Build"
	Near         []*movement.Movement
	Pieces       []piece // templates of that name
}

// lastWord is the last word of a name: a knee lift may have been meant as another lift.
func lastWord(name string) string {
	f := strings.Fields(name)
	if len(f) == 0 {
		return ""
	}
	return f[len(f)-1]
}

// understand shows what a line means and where the clock would land, before it is entered.
func understand(a *kit.Kit, c *gin.Context) {
	cl, err := a.Opened(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	line := c.Query("line")
	v := understoodView{Line: line}
	if strings.TrimSpace(line) == "" {
		a.Render(c, http.StatusOK, "bench", "understood", v)
		return
	}
	add := &plan.AddLine{Line: line}
	_ = add.After.UnmarshalText([]byte(c.Query("after"))) // what is no place is none
	row, err := add.Reads(cl.Plan, a.Lib)
	many, isMany := plan.Many(line, a.Lib, cl.Plan.Style)
	if isMany {
		row, err = many.Row, nil
	}
	var le *plan.LineError
	switch {
	case errors.As(err, &le):
		v.Says, v.Near = le.Says, le.Near
		rs := []rune(line)
		from := min(max(le.Column-1, 0), len(rs))
		to := min(from+len([]rune(le.Word)), len(rs))
		v.Before, v.Word, v.After = string(rs[:from]), string(rs[from:to]), string(rs[to:])
	case err != nil:
		v.Says = err.Error()
	default:
		v.Row, v.Name, v.Words = &row, export.RowName(&row, a.Lib), export.RowWords(&row, a.Lib)
		if row.Inline != nil {
			v.Read, v.Near = row.Inline.Words(), a.Lib.Search(lastWord(row.Inline.Name))
			r := movement.ReadName(row.Inline.Name)
			if like := a.Lib.Like(&r); like != nil {
				v.Read += " · like " + like.Name
			}
		}
		if isMany {
			v.Name, v.Words, v.Read = fmt.Sprintf("%d rows", many.Count()), many.Says(a.Lib), ""
		}
		if m, err := row.Of(a.Lib); err == nil && m != nil {
			v.Figure = a.Figures.Use(m, row.Level, "s")
		}
		if ch, err := plan.Apply(cl.Plan, a.Lib, add); err != nil {
			v.Row, v.Says = nil, err.Error()
		} else if tl, err := timeline.Build(ch.Session, a.Lib); err == nil {
			from, sum, _ := tl.RowSpan(ch.At)
			v.Takes, v.Lands, v.Total, v.Where = sum, from, tl.Total, ch.Session.Where(ch.At)
		}
	}
	if len(v.Near) == 0 && v.Row == nil {
		v.Near = a.Lib.Search(line)
	}
	if v.Pieces, err = piecesNamed(a, c, line); err != nil {
		a.Fail(c, err)
		return
	}
	if len(v.Near) > 6 {
		v.Near = v.Near[:6]
	}
	a.Render(c, http.StatusOK, "bench", "understood", v)
}
