package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/export"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/store"
)

// rowView is a row as the bench shows it.
// rowView is comparable: a row that looks as it did is not drawn again, see rowHTML.
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
	Newer       bool   // an own movement has a newer version than the row
	At, Sum     clock.Span
	Says        string // for the row's label
}

type blockView struct {
	Path          string
	Rule          string
	Words         string
	Rounds        int
	On, Off, Rest string
	Rows          []rowView
}

type sectionView struct {
	N      int
	Title  string
	Blocks []blockView
}

type benchView struct {
	ID, Title, Target, Talk, Tempo, First string
	BPM                                   string
	Focus                                 string
	Rev                                   int
	Total, Low, High                      clock.Span
	Wave                                  []byte
	Sections                              []sectionView
	Findings                              []review.Finding
	Undo, Redo                            string
	CanUndo, CanRedo                      bool
	At                                    string // the row that has the focus after an edit
	Rows                                  int
	Context                               string // which day of which series
	Aside                                 []review.Finding
	Reasons                               map[string]string
	Ledger                                ledgerView
	Style                                 []styleView
	Audience                              string
	Pieces                                []piece
	Empty                                 bool
}

func (a *app) benchView(c *gin.Context, cl *class, at plan.Path) (benchView, error) {
	p, tl := cl.Plan, cl.TL
	v := benchView{
		ID: cl.Doc.ID, Title: p.Title, Talk: p.Talk.String(), Tempo: p.Tempo.String(), First: "right", Focus: strings.Join(p.Focus, ", "),
		Rev: cl.Doc.Rev, Total: tl.Total, Low: tl.Low, High: tl.High, Findings: cl.Findings, Empty: p.Rows() == 0,
	}
	if p.Target > 0 {
		v.Target = p.Target.String()
	}
	if p.BPM > 0 {
		v.BPM = strconv.FormatFloat(p.BPM, 'f', -1, 64)
	}
	if p.Style.LeftFirst {
		v.First = "left"
	}
	if p.Style.ByDay {
		v.First = "by day"
	}
	if at.Row > 0 {
		v.At = at.String()
	}
	v.Aside, v.Ledger, v.Style, v.Audience, v.Reasons = cl.Aside, ledgerOf(cl), styleViews(p.Style), p.Audience, map[string]string{}
	for _, x := range append(slices.Clone(who(c).House.Aside), p.Aside...) {
		v.Reasons[x.Rule] = x.Reason
	}
	marks := make([]draw.Mark, 0, len(cl.Findings))
	for _, f := range cl.Findings {
		if f.Row.Row > 0 || f.Rule == "length" {
			marks = append(marks, draw.Mark{At: f.At, Grav: f.Severity, Says: f.Says})
		}
	}
	v.Wave = draw.Wave(tl, who(c).House.Limits, marks)
	n := 0
	spans := rowSpans(tl)
	for i := range p.Sections {
		sec := &p.Sections[i]
		sv := sectionView{N: i + 1, Title: sec.Title}
		for j := range sec.Blocks {
			b := &sec.Blocks[j]
			bv := blockView{
				Path: plan.Path{Section: i + 1, Block: j + 1, Row: 1}.String(), Rule: b.Rule.String(), Words: strings.TrimPrefix(export.BlockWords(b), "Side by side: "),
				Rounds: b.Rounds, On: spanText(b.On), Off: spanText(b.Off), Rest: spanText(b.Rest),
			}
			for k := range b.Rows {
				n++
				bv.Rows = append(bv.Rows, a.rowView(&b.Rows[k], plan.Path{Section: i + 1, Block: j + 1, Row: k + 1}, n, spans))
			}
			sv.Blocks = append(sv.Blocks, bv)
		}
		v.Sections = append(v.Sections, sv)
	}
	v.Rows = n
	var err error
	v.Undo, v.Redo, err = a.store.StepWords(c, who(c).Studio.ID, cl.Doc.ID)
	v.CanUndo, v.CanRedo = v.Undo != "", v.Redo != ""
	return v, err
}

func spanText(s clock.Span) string {
	if s == 0 {
		return ""
	}
	return s.Said()
}

type rowSpan struct{ at, sum clock.Span }

func rowID(p plan.Path) string { return "row-" + strings.ReplaceAll(p.String(), ".", "-") }

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

func (a *app) rowView(r *plan.Row, p plan.Path, n int, spans map[plan.Path]rowSpan) rowView {
	sp := spans[p]
	v := rowView{
		Path: p.String(), ID: rowID(p), N: n, Dose: r.Dose.String(), Rest: r.IsRest, Say: r.Say, Note: r.Note,
		Locked: r.Locked, At: sp.at, Sum: sp.sum,
	}
	v.Spoken = r.Spoken(nil)
	if r.IsRest {
		v.Name, v.Dose, v.Sides = "Rest", r.Rest.Said(), "both"
		v.Says = fmt.Sprintf("row %d, rest %s", n, v.Dose)
		return v
	}
	m, err := r.Of(a.lib)
	if err != nil || m == nil {
		v.Name = r.Name()
		return v
	}
	v.Name, v.Slug, v.Level, v.Of, v.Usual = m.Name, m.Slug, max(1, r.Level), len(m.Levels), m.Dose.String()
	v.Figure = a.figures.use(m, v.Level, "s")
	if now, ok := a.lib.Get(m.Base); ok && m.Own {
		v.Newer = now != m
	}
	v.Change = m.At(v.Level).Changes
	v.Spoken = r.Spoken(m)
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

func (a *app) bench(c *gin.Context) {
	cl, err := a.class(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	v, err := a.benchView(c, cl, plan.Path{})
	if err != nil {
		a.fail(c, err)
		return
	}
	v.Context = a.dayOf(c, cl.Doc.ID)
	if v.Pieces, err = a.pieces(c, cl.Doc.ID); err != nil {
		a.fail(c, err)
		return
	}
	a.show(c, "bench", cl.Plan.Title, "Sessions", v, "js/Sortable.min.js", "js/bench.js")
}

// edit does one change: it is saved at once, and one answer redraws wave, clock, rows and second look.
func (a *app) edit(c *gin.Context) {
	if err := c.Request.ParseForm(); err != nil {
		a.problem(c, http.StatusBadRequest, "The form could not be read.")
		return
	}
	f := c.Request.PostForm
	cl, err := a.class(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	rev, err := strconv.Atoi(f.Get("rev"))
	if err != nil {
		a.problem(c, http.StatusUnprocessableEntity, "The change does not say which revision it was made on.")
		return
	}
	op := f.Get("op")
	if rev != cl.Doc.Rev {
		a.conflict(c, cl, rev, f)
		return
	}
	if op == "undo" || op == "redo" {
		a.step(c, cl, op)
		return
	}
	if op == "insert" {
		if a.insert, _, err = a.sectionsOf(c, f.Get("piece")); err != nil {
			a.refuse(c, err)
			return
		}
	}
	next, says, at, err := a.apply(cl, op, f)
	if err != nil {
		a.refuse(c, err)
		return
	}
	ch, err := change(next, says, who(c).Teacher.ID, a.lib)
	if err != nil {
		a.fail(c, err)
		return
	}
	a.saved(c, cl, next, at, func() (int, error) {
		return a.store.SavePlan(c, who(c).Studio.ID, cl.Doc.ID, cl.Doc.Rev, ch)
	}, f)
}

// apply makes the change on a copy.
func (a *app) apply(cl *class, op string, f url.Values) (*plan.Session, string, plan.Path, error) {
	if op == "mend" {
		fd, m, ok := review.Find(cl.Findings, f.Get("mend"))
		if !ok {
			return nil, "", plan.Path{}, errors.New("that finding is not there any more")
		}
		next, err := m.Apply(cl.Plan)
		return next, m.Says, fd.Row, err
	}
	do, ok := edits[op]
	if !ok {
		return nil, "", plan.Path{}, fmt.Errorf("%q is not something that can be done to a session", op)
	}
	next := cl.Plan.Clone()
	says, at, err := do(a, next, f)
	if r := []rune(says); len(r) > 160 {
		says = string(r[:160])
	}
	return next, says, at, err
}

// saved stores a change and answers with the redrawn bench.
func (a *app) saved(c *gin.Context, cl *class, next *plan.Session, at plan.Path, save func() (int, error), f url.Values) {
	tl, err := timeline.Build(next, a.lib)
	if err != nil {
		a.refuse(c, err)
		return
	}
	rev, err := save()
	var conflict *store.Conflict
	if errors.As(err, &conflict) {
		now, cerr := a.class(c)
		if cerr != nil {
			a.fail(c, cerr)
			return
		}
		a.conflict(c, now, conflict.Have, f)
		return
	}
	if err != nil {
		a.fail(c, err)
		return
	}
	done := &class{Doc: cl.Doc, Plan: next, TL: tl, lib: a.lib}
	a.lookOver(c, done)
	done.Doc.Rev = rev
	v, err := a.benchView(c, done, at)
	if err != nil {
		a.fail(c, err)
		return
	}
	c.Header("HX-Trigger", `{"saved":{"rev":`+strconv.Itoa(rev)+`}}`)
	a.render(c, http.StatusOK, "bench", "bench", v)
}

func (a *app) step(c *gin.Context, cl *class, op string) {
	find, word := a.store.UndoStep, "Undo: "
	if op == "redo" {
		find, word = a.store.RedoStep, "Redo: "
	}
	st, err := find(c, who(c).Studio.ID, cl.Doc.ID)
	if errors.Is(err, store.ErrNotFound) {
		a.refuse(c, errors.New("nothing to "+op))
		return
	}
	if err != nil {
		a.fail(c, err)
		return
	}
	next, err := plan.ReadSession(st.Doc, a.lib)
	if err != nil {
		a.refuse(c, fmt.Errorf("that revision cannot be read: %w", err))
		return
	}
	ch, err := change(next, word+st.Says, who(c).Teacher.ID, a.lib)
	if err != nil {
		a.fail(c, err)
		return
	}
	a.saved(c, cl, next, plan.Path{}, func() (int, error) {
		return a.store.StepPlan(c, who(c).Studio.ID, cl.Doc.ID, cl.Doc.Rev, st, ch)
	}, c.Request.PostForm)
}

// refuse answers a change that cannot be made; what was typed stays in the page.
func (a *app) refuse(c *gin.Context, err error) {
	says := err.Error()
	if says != "" {
		says = strings.ToUpper(says[:1]) + says[1:]
	}
	a.problem(c, http.StatusUnprocessableEntity, says+".")
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

// conflict answers 409 with both versions: what they changed meanwhile, and what this change makes of
// the session as it was. It can be made again on theirs, where it still fits.
func (a *app) conflict(c *gin.Context, now *class, rev int, f url.Values) {
	v := conflictView{ID: now.Doc.ID, Rev: now.Doc.Rev, TheirWave: draw.SmallWave(now.TL, 240, 48, "As it is now: "+draw.WaveWords(now.TL))}
	history, err := a.store.PlanHistory(c, who(c).Studio.ID, now.Doc.ID, 50)
	if err != nil {
		a.fail(c, err)
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
	if f.Get("op") == "undo" || f.Get("op") == "redo" {
		v.Mine, v.Why = f.Get("op"), "Undo and redo go by the newest version."
	} else {
		next, says, _, err := a.apply(now, f.Get("op"), f)
		if err != nil {
			v.Mine, v.Why = f.Get("op"), "It does not fit the newest version: "+err.Error()+"."
			if l := f.Get("line"); l != "" {
				v.Mine = l
			}
		} else {
			v.Mine, v.CanAgain = says, true
			if tl, err := timeline.Build(next, a.lib); err == nil {
				v.Wave = draw.SmallWave(tl, 240, 48, "With your change: "+draw.WaveWords(tl))
			}
		}
	}
	b, err := json.Marshal(again)
	if err != nil {
		a.fail(c, err)
		return
	}
	v.AgainJSON = string(b)
	c.Header("HX-Retarget", "#message")
	c.Header("HX-Reswap", "innerHTML")
	a.render(c, http.StatusConflict, "bench", "conflict", v)
}

// understoodView is what the add line says while it is being typed.
type understoodView struct {
	Line         string
	Name, Words  string
	Row          *plan.Row
	Figure       template.HTML
	Takes, Lands clock.Span
	Total        clock.Span
	Before, Word string // the line up to the word that was not understood, and the word
	After        string
	Says         string
	Near         []*movement.Movement
}

// understand shows what a line means and where the clock would land, before it is entered.
func (a *app) understand(c *gin.Context) {
	cl, err := a.class(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	line := c.Query("line")
	v := understoodView{Line: line}
	if strings.TrimSpace(line) == "" {
		a.render(c, http.StatusOK, "bench", "understood", v)
		return
	}
	row, err := plan.LineIn(line, a.lib, cl.Plan.Style)
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
		v.Row, v.Name, v.Words = &row, export.RowName(&row, a.lib), export.RowWords(&row, a.lib)
		if m, err := row.Of(a.lib); err == nil {
			v.Figure = a.figures.use(m, row.Level, "s")
		}
		after := plan.Path{}
		if s := c.Query("after"); s != "" {
			if p, err := plan.ParsePath(s); err == nil && cl.Plan.Row(p) != nil {
				after = p
			}
		}
		if at, err := cl.Plan.AddIn(after, row, a.lib); err == nil {
			if tl, err := timeline.Build(cl.Plan, a.lib); err == nil {
				from, sum, _ := tl.RowSpan(at)
				v.Takes, v.Lands, v.Total = sum, from, tl.Total
			}
		}
	}
	if len(v.Near) == 0 && v.Row == nil {
		v.Near = a.lib.Search(line)
	}
	if len(v.Near) > 6 {
		v.Near = v.Near[:6]
	}
	a.render(c, http.StatusOK, "bench", "understood", v)
}
