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
	"unicode"

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
	v.Wave = draw.Wave(tl, review.Rails(p, tl, a.lib, who(c).House.Limits), marks)
	n := 0
	spans := rowSpans(tl)
	for i := range p.Sections {
		sec := &p.Sections[i]
		sv := sectionView{N: i + 1, Title: sec.Title}
		for j := range sec.Blocks {
			b := &sec.Blocks[j]
			bv := blockView{
				Path: plan.Path{Section: i + 1, Block: j + 1, Row: 1}.String(), Rule: b.Rule.String(), Words: strings.TrimPrefix(export.BlockWords(b), "One side through: "),
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
	v.Undo, v.Redo, err = a.store.Sessions.StepWords(c, who(c).Studio.ID, cl.Doc.ID)
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
	f := c.Request.PostForm
	cl, err := a.opened(c)
	if err != nil {
		a.fail(c, err)
		return
	}
	rev, err := strconv.Atoi(f.Get("rev"))
	if err != nil {
		a.problem(c, http.StatusUnprocessableEntity, "That did not work: reload the page and try again.")
		return
	}
	if rev != cl.Doc.Rev {
		a.conflict(c, cl, rev, f)
		return
	}
	ch, step, err := a.changed(c, cl, f)
	if err != nil {
		a.failEdit(c, err)
		return
	}
	now, err := a.store.Sessions.SaveStep(c, who(c).Studio.ID, cl.Doc.ID, cl.Doc.Rev, step, stored(c, ch))
	var conflict *store.Conflict
	switch {
	case errors.As(err, &conflict):
		newest, cerr := a.opened(c)
		if cerr != nil {
			a.fail(c, cerr)
			return
		}
		a.conflict(c, newest, conflict.Have, f)
		return
	case err != nil:
		a.failSave(c, err)
		return
	}
	done := &class{Doc: cl.Doc, Plan: ch.Session, lib: a.lib}
	done.Doc.Rev, done.Doc.Stamp = now.Rev, now.Stamp
	a.plans.Add(planKey{done.Doc.StudioID, done.Doc.ID, now.Rev, now.Stamp, a.lib}, ch.Session)
	if err := a.workOut(c, done); err != nil {
		a.fail(c, err)
		return
	}
	v, err := a.benchView(c, done, ch.At)
	if err != nil {
		a.fail(c, err)
		return
	}
	c.Header("HX-Trigger", `{"saved":{"rev":`+strconv.Itoa(now.Rev)+`}}`)
	a.render(c, http.StatusOK, "bench", "bench", v)
}

// changed does what a form asks on a copy. Undo and redo give the state of the history they return to.
func (a *app) changed(c *gin.Context, cl *class, f url.Values) (ch plan.Changed, step store.Step, err error) {
	op := f.Get("op")
	if op != "undo" && op != "redo" {
		cmd, err := a.command(c, cl, f)
		if err != nil {
			return ch, step, err
		}
		ch, err = plan.Apply(cl.Plan, a.lib, cmd)
		return ch, step, err
	}
	find, word := a.store.Sessions.Undo, "Undo: "
	if op == "redo" {
		find, word = a.store.Sessions.Redo, "Redo: "
	}
	step, err = find(c, who(c).Studio.ID, cl.Doc.ID)
	if errors.Is(err, store.ErrNotFound) {
		return ch, step, errors.New("nothing to " + op)
	}
	if err != nil {
		return ch, step, trouble{err}
	}
	was, err := plan.ReadSession(step.Doc, a.lib)
	if err != nil {
		return ch, step, fmt.Errorf("the version before cannot be read: %w", err)
	}
	ch, err = plan.Apply(cl.Plan, a.lib, &plan.Become{Session: was, Says: word + step.Says})
	return ch, step, err
}

// refuse answers what cannot be made of what was asked; what was typed stays in the page.
func (a *app) refuse(c *gin.Context, err error) {
	a.problem(c, http.StatusUnprocessableEntity, sentence(err))
}

// sentence is an error as a sentence.
func sentence(err error) string {
	says := []rune(strings.TrimSpace(err.Error()))
	if len(says) == 0 {
		return "That did not work."
	}
	says[0] = unicode.ToUpper(says[0])
	if last := says[len(says)-1]; last != '.' && last != '?' && last != '!' {
		says = append(says, '.')
	}
	return string(says)
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
	if err := a.workOut(c, now); err != nil {
		a.fail(c, err)
		return
	}
	v := conflictView{ID: now.Doc.ID, Rev: now.Doc.Rev, TheirWave: draw.SmallWave(now.TL, 240, 48, "As it is now: "+draw.WaveWords(now.TL))}
	history, err := a.store.Sessions.History(c, who(c).Studio.ID, now.Doc.ID, 50)
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
		ch, _, err := a.changed(c, now, f)
		if err != nil {
			v.Mine, v.Why = f.Get("op"), "It does not fit the newest version: "+err.Error()+"."
			if l := f.Get("line"); l != "" {
				v.Mine = l
			}
		} else {
			v.Mine, v.CanAgain = ch.Says, true
			if tl, err := timeline.Build(ch.Session, a.lib); err == nil {
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
	Where        string // "after row 4, in Build"
	Near         []*movement.Movement
}

// understand shows what a line means and where the clock would land, before it is entered.
func (a *app) understand(c *gin.Context) {
	cl, err := a.opened(c)
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
		add := &plan.AddLine{Line: line}
		_ = add.After.UnmarshalText([]byte(c.Query("after"))) // what is no place is none
		if ch, err := plan.Apply(cl.Plan, a.lib, add); err != nil {
			v.Row, v.Says = nil, err.Error()
		} else if tl, err := timeline.Build(ch.Session, a.lib); err == nil {
			from, sum, _ := tl.RowSpan(ch.At)
			v.Takes, v.Lands, v.Total, v.Where = sum, from, tl.Total, ch.Session.Where(ch.At)
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
