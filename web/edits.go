package web

import (
	"errors"
	"fmt"
	"net/url"
	"strconv"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/export"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/strict"
)

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
	if title == "" || len([]rune(title)) > plan.MaxTitle || strict.Hidden(title) >= 0 {
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
			n, err := finite(v)
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
			return p.Style.Set(key, answer)
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
