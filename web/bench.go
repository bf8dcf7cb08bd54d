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
	"wavekine/core/dose"
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

// edits are what a teacher can do to a session. Each reads its form, changes the session and says
// what it did and which row has the focus then.
var edits = map[string]func(a *app, p *plan.Session, f url.Values) (says string, at plan.Path, err error){
	"add":            editAdd,
	"move":           editMove,
	"step":           editStep,
	"duplicate":      editDuplicate,
	"delete":         editDelete,
	"dose":           editDose,
	"level":          editLevel,
	"sides":          editSides,
	"note":           editNote,
	"lock":           editLock,
	"renew":          editRenew,
	"aside":          editAside,
	"unaside":        editUnaside,
	"options":        editOptions,
	"insert":         editInsert,
	"wrap":           editWrap,
	"unwrap":         editUnwrap,
	"block":          editBlock,
	"section-add":    editSectionAdd,
	"section-rename": editSectionRename,
	"section-delete": editSectionDelete,
	"head":           editHead,
	"fit":            editFit,
	"paste":          editPaste,
	"order":          editOrder,
}

func formPath(f url.Values, key string) (plan.Path, error) { return plan.ParsePath(f.Get(key)) }

// formPaths reads a list of rows: "1.1.1 1.1.2".
func formPaths(f url.Values, key string) (out []plan.Path, err error) {
	for _, s := range strings.Fields(strings.Join(f[key], " ")) {
		p, err := plan.ParsePath(s)
		if err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	if len(out) == 0 {
		return nil, errors.New("choose a row first")
	}
	return out, nil
}

func (a *app) nameAt(p *plan.Session, at plan.Path) string {
	r := p.Row(at)
	if r == nil {
		return "row"
	}
	return export.RowName(r, a.lib)
}

func editAdd(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	row, err := plan.LineIn(f.Get("line"), a.lib, p.Style)
	if err != nil {
		return "", plan.Path{}, err
	}
	after := plan.Path{}
	if s := f.Get("after"); s != "" {
		if after, err = plan.ParsePath(s); err != nil {
			return "", after, err
		}
		if after.Row > 0 && p.Row(after) == nil {
			after = plan.Path{}
		}
	}
	at, err := p.AddIn(after, row, a.lib)
	return "Add " + a.nameAt(p, at), at, err
}

func editMove(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	from, err := formPaths(f, "at")
	if err != nil {
		return "", plan.Path{}, err
	}
	to, err := formPath(f, "to")
	if err != nil {
		return "", plan.Path{}, err
	}
	says := "Move " + a.nameAt(p, from[0])
	if p.Block(to) == nil && to.Section >= 1 && to.Section <= len(p.Sections) { // into an empty section
		row := p.Row(from[0])
		if row == nil {
			return "", plan.Path{}, plan.ErrNoRow
		}
		moved := *row
		if err := p.Delete(from[0]); err != nil {
			return "", plan.Path{}, err
		}
		at, err := p.Add(plan.Path{Section: to.Section}, moved)
		return says, at, err
	}
	at, err := p.Move(from, to)
	return says, at, err
}

func editStep(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	from, err := formPath(f, "at")
	if err != nil {
		return "", from, err
	}
	by, word := 1, "down"
	if f.Get("by") == "-1" {
		by, word = -1, "up"
	}
	says := "Move " + a.nameAt(p, from) + " " + word
	at, err := p.Step(from, by)
	return says, at, err
}

func editDuplicate(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	from, err := formPath(f, "at")
	if err != nil {
		return "", from, err
	}
	at, err := p.Duplicate(from)
	return "Duplicate " + a.nameAt(p, from), at, err
}

func editDelete(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	at, err := formPaths(f, "at")
	if err != nil {
		return "", plan.Path{}, err
	}
	says := "Delete " + a.nameAt(p, at[0])
	if len(at) > 1 {
		says += fmt.Sprintf(" and %d more", len(at)-1)
	}
	err = p.Delete(at...)
	near := at[0]
	if p.Row(near) == nil {
		near.Row = max(1, near.Row-1)
	}
	return says, near, err
}

func sideOf(s string) movement.Sides {
	switch s {
	case "right":
		return movement.RightOnly
	case "left":
		return movement.LeftOnly
	}
	return movement.SidesUnsaid
}

func editDose(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	at, err := formPath(f, "at")
	if err != nil {
		return "", at, err
	}
	text := strings.TrimSpace(f.Get("dose"))
	if r := p.Row(at); r != nil && r.IsRest {
		if _, err := strconv.Atoi(text); err == nil {
			text += " s"
		}
		sp, err := clock.Parse(text)
		if err != nil {
			return "", at, err
		}
		return "Rest " + sp.Said(), at, p.SetRest(at, sp)
	}
	d, err := dose.Parse(text)
	if err != nil {
		return "", at, err
	}
	says := a.nameAt(p, at) + ": " + d.String()
	if s := f.Get("side"); s != "" {
		says += " on the " + s
	}
	return says, at, p.SetDose(at, sideOf(f.Get("side")), d)
}

func editLevel(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	at, err := formPath(f, "at")
	if err != nil {
		return "", at, err
	}
	r := p.Row(at)
	if r == nil {
		return "", at, plan.ErrNoRow
	}
	n, err := strconv.Atoi(f.Get("level"))
	if err != nil {
		by, berr := strconv.Atoi(f.Get("by"))
		if berr != nil {
			return "", at, errors.New("which level?")
		}
		n = max(1, r.Level) + by
	}
	return fmt.Sprintf("%s: level %d", a.nameAt(p, at), n), at, p.SetLevel(at, n, a.lib)
}

func editSides(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	at, err := formPath(f, "at")
	if err != nil {
		return "", at, err
	}
	r := p.Row(at)
	if r == nil {
		return "", at, plan.ErrNoRow
	}
	var s movement.Sides
	switch w := f.Get("sides"); w {
	case "":
	case "next": // the key goes round: each, right, left, alternating, both
		m, err := r.Of(a.lib)
		if err != nil || m == nil {
			return "", at, plan.ErrNoRow
		}
		s = map[movement.Sides]movement.Sides{
			movement.Each: movement.RightOnly, movement.RightOnly: movement.LeftOnly, movement.LeftOnly: movement.Alternating,
			movement.Alternating: movement.Both, movement.Both: movement.Each,
		}[r.SideRule(m)]
	default:
		if err := s.UnmarshalText([]byte(w)); err != nil {
			return "", at, err
		}
	}
	err = p.SetSides(at, s)
	return a.nameAt(p, at) + ": sides " + s.String(), at, err
}

func editNote(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	at, err := formPath(f, "at")
	if err != nil {
		return "", at, err
	}
	return "Note on " + a.nameAt(p, at), at, p.SetNote(at, f.Get("note"))
}

func editLock(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	at, err := formPath(f, "at")
	if err != nil {
		return "", at, err
	}
	r := p.Row(at)
	if r == nil {
		return "", at, plan.ErrNoRow
	}
	r.Locked = !r.Locked
	if r.Locked {
		return "Lock " + a.nameAt(p, at), at, nil
	}
	return "Unlock " + a.nameAt(p, at), at, nil
}

// editRenew takes the newest version of a studio's own movement.
func editRenew(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	at, err := formPath(f, "at")
	if err != nil {
		return "", at, err
	}
	r := p.Row(at)
	if r == nil || r.IsRest || r.Inline != nil {
		return "", at, plan.ErrNoRow
	}
	m, ok := a.lib.Get(movement.BaseSlug(r.Movement))
	if !ok || !m.Own {
		return "", at, errors.New("there is no newer version of that movement")
	}
	r.Movement, r.Level = m.Slug, min(r.Level, len(m.Levels))
	for _, o := range []*plan.Override{r.Right, r.Left} {
		if o != nil {
			o.Level = min(o.Level, len(m.Levels))
		}
	}
	return fmt.Sprintf("%s: version %d", m.Name, m.Version), at, nil
}

// formSpan reads a time; a bare number is seconds, nothing is none.
func formSpan(f url.Values, key string) (clock.Span, error) {
	t := strings.TrimSpace(f.Get(key))
	if t == "" || t == "0" {
		return 0, nil
	}
	if _, err := strconv.Atoi(t); err == nil {
		t += " s"
	}
	return clock.Parse(t)
}

func editWrap(a *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	at, err := formPaths(f, "at")
	if err != nil {
		return "", plan.Path{}, err
	}
	var rule plan.Rule
	if err := rule.UnmarshalText([]byte(f.Get("rule"))); err != nil {
		return "", plan.Path{}, err
	}
	where, err := p.Wrap(at, rule, 2, 0, 0)
	says := "Side by side"
	if rule == plan.Rounds {
		says = "Two rounds"
	}
	return says, where, err
}

func editUnwrap(_ *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	at, err := formPath(f, "at")
	if err != nil {
		return "", at, err
	}
	where, err := p.Unwrap(at)
	return "Straight again", where, err
}

func editBlock(_ *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	at, err := formPath(f, "at")
	if err != nil {
		return "", at, err
	}
	rounds := 1
	if f.Get("rounds") != "" {
		if rounds, err = strconv.Atoi(f.Get("rounds")); err != nil {
			return "", at, fmt.Errorf("%q rounds: expected 1 to %d", f.Get("rounds"), plan.MaxRounds)
		}
	}
	var spans [3]clock.Span
	for i, k := range []string{"on", "off", "rest"} {
		if spans[i], err = formSpan(f, k); err != nil {
			return "", at, fmt.Errorf("%s: %w", k, err)
		}
	}
	return "Change the block", at, p.SetBlock(at, rounds, spans[0], spans[1], spans[2])
}

func formInt(f url.Values, key string) (int, error) {
	n, err := strconv.Atoi(f.Get(key))
	if err != nil {
		return 0, fmt.Errorf("%q is not a number", f.Get(key))
	}
	return n, nil
}

func editSectionAdd(_ *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	n := len(p.Sections)
	if f.Get("section") != "" {
		var err error
		if n, err = formInt(f, "section"); err != nil {
			return "", plan.Path{}, err
		}
	}
	_, err := p.AddSection(n, f.Get("title"))
	return "Add section " + strings.TrimSpace(f.Get("title")), plan.Path{}, err
}

func editSectionRename(_ *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	n, err := formInt(f, "section")
	if err != nil {
		return "", plan.Path{}, err
	}
	return "Rename section", plan.Path{}, p.Rename(n, f.Get("title"))
}

func editSectionDelete(_ *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	n, err := formInt(f, "section")
	if err != nil {
		return "", plan.Path{}, err
	}
	return "Delete section", plan.Path{}, p.DeleteSection(n)
}

func setTitle(p *plan.Session, title string) error {
	title = strings.TrimSpace(title)
	if title == "" || len([]rune(title)) > plan.MaxTitle {
		return fmt.Errorf("a session needs a title of 1 to %d characters", plan.MaxTitle)
	}
	p.Title = title
	return nil
}

// setTarget reads a promised length; a bare number is minutes, as it is announced.
func setTarget(p *plan.Session, text string) error {
	text = strings.TrimSpace(text)
	if text == "" {
		p.Target = 0
		return nil
	}
	if n, err := strconv.Atoi(text); err == nil {
		text = strconv.Itoa(n) + " min"
	}
	sp, err := clock.Parse(text)
	if err != nil {
		return err
	}
	if sp < clock.Minute || sp > 4*60*clock.Minute {
		return fmt.Errorf("a length of %s: expected 1 minute to 4 hours", sp)
	}
	p.Target = sp
	return nil
}

// editHead changes what is said of the whole session: title, length, dials, first side, beat, focus.
func editHead(_ *app, p *plan.Session, f url.Values) (string, plan.Path, error) {
	says := "Change the session"
	for key, set := range map[string]func(string) error{
		"title":  func(v string) error { says = "Title"; return setTitle(p, v) },
		"target": func(v string) error { says = "Promise " + v; return setTarget(p, v) },
		"talk":   func(v string) error { says = "Talk " + v; return p.Talk.UnmarshalText([]byte(v)) },
		"tempo":  func(v string) error { says = "Tempo " + v; return p.Tempo.UnmarshalText([]byte(v)) },
		"first": func(v string) error {
			says = "First side " + v
			if v != "right" && v != "left" && v != "by day" {
				return fmt.Errorf("%q is not a side: expected right, left or by day", v)
			}
			p.Style.LeftFirst, p.Style.ByDay = v == "left", v == "by day"
			return nil
		},
		"bpm": func(v string) error {
			says = "Beat " + v
			if strings.TrimSpace(v) == "" {
				p.BPM = 0
				return nil
			}
			n, err := strconv.ParseFloat(strings.TrimSpace(v), 64)
			if err != nil || n < 30 || n > 240 {
				return fmt.Errorf("a beat of %q: expected 30 to 240 a minute, or nothing", v)
			}
			p.BPM = n
			return nil
		},
		"focus": func(v string) error {
			says, p.Focus = "Focus", nil
			for _, w := range strings.Split(v, ",") {
				if w = strings.TrimSpace(w); w != "" {
					if len([]rune(w)) > 60 || len(p.Focus) == 20 {
						return errors.New("focus: at most 20 words of at most 60 characters")
					}
					p.Focus = append(p.Focus, w)
				}
			}
			return nil
		},
		"audience": func(v string) error {
			says = "For " + v
			if len([]rune(v)) > 60 {
				return errors.New("for whom: at most 60 characters")
			}
			p.Audience = strings.TrimSpace(v)
			return nil
		},
		"style": func(v string) error { // "breath nose-nose": a question of the school and its answer
			key, answer, _ := strings.Cut(v, " ")
			says = "Style: " + answer
			return setStyle(&p.Style, key, answer)
		},
	} {
		if v, ok := f[key]; ok {
			if err := set(v[0]); err != nil {
				return "", plan.Path{}, err
			}
		}
	}
	return says, plan.Path{}, nil
}

// setStyle answers one question of the school.
func setStyle(st *plan.Style, key, answer string) error {
	if key == "countdown" {
		n, err := strconv.Atoi(answer)
		if err != nil || n < 0 || n > 20 {
			return errors.New("count down the last 0 to 20")
		}
		st.Countdown = n
		return nil
	}
	if key == "mirrored" {
		st.Plain = answer == "no"
		return nil
	}
	words, ok := plan.StyleWords[key]
	if !ok || !slices.Contains(words, answer) {
		return fmt.Errorf("%s: %q: expected one of %s", key, answer, strings.Join(words, ", "))
	}
	switch key {
	case "first_side":
		st.LeftFirst, st.ByDay = answer == "left", answer == "by day"
	case "pelvis":
		st.Pelvis = answer
	case "breath":
		st.Breath = answer
	case "order":
		st.Order = answer
	case "sides":
		st.Sides = answer
	case "sets":
		st.Sets = answer
	case "count":
		st.Count = answer
	case "switches":
		st.Switches, _ = strconv.Atoi(answer)
	case "warm_up":
		st.WarmUp = answer
	case "symmetry":
		st.Symmetry = answer
	}
	return nil
}

// styleNames are the questions of the schools as they are asked, in order.
var styleNames = []struct{ key, asks string }{
	{"first_side", "which side first"},
	{"sides", "sides"},
	{"count", "a bare number counts"},
	{"sets", "\"ten sets\" means"},
	{"switches", "switches a breath each way"},
	{"breath", "breath"},
	{"pelvis", "pelvis"},
	{"order", "order"},
	{"warm_up", "warm-up"},
	{"symmetry", "the two sides get"},
	{"countdown", "count down the last"},
	{"mirrored", "mirrored words"},
}

// styleView is one question with the answer in force.
type styleView struct {
	Key, Asks, Value string
	Words            []string
}

func styleViews(st plan.Style) (out []styleView) {
	now := map[string]string{
		"pelvis": st.Pelvis, "breath": st.Breath, "order": st.Order, "sides": st.Sides, "sets": st.Sets, "count": st.Count, "warm_up": st.WarmUp, "symmetry": st.Symmetry,
		"first_side": "right", "switches": "2", "countdown": strconv.Itoa(st.Countdown), "mirrored": "yes",
	}
	switch {
	case st.ByDay:
		now["first_side"] = "by day"
	case st.LeftFirst:
		now["first_side"] = "left"
	}
	if st.Switches == 1 {
		now["switches"] = "1"
	}
	if st.Plain {
		now["mirrored"] = "no"
	}
	for _, n := range styleNames {
		v := styleView{n.key, n.asks, now[n.key], plan.StyleWords[n.key]}
		switch n.key {
		case "countdown":
			v.Words = []string{"0", "2", "3", "4", "5", "8", "10"}
		case "mirrored":
			v.Words = []string{"yes", "no"}
		}
		if v.Value == "" {
			v.Value = v.Words[0]
		}
		out = append(out, v)
	}
	return out
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
