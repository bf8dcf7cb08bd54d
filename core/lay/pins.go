package lay

import (
	"encoding/json"
	"slices"

	"wavekine/core/ladder"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// pins are what of a series stays when it is laid again. A nil pins has none.
type pins struct {
	lib *movement.Library
	s   *plan.Series
}

// held is a day of the document in the place of a day that is planned. Its zero value has nothing pinned.
type held struct {
	d *plan.Day
	n int // its number in the document
}

// day finds the day of the document: by its date where both have one, else by its number.
func (p *pins) day(d *Day) held {
	if p == nil || p.s == nil {
		return held{}
	}
	i := d.N - 1
	if !d.Date.IsZero() && !p.s.Start.IsZero() {
		i = int(d.Date.Sub(p.s.Start).Hours()+.5) / 24
		if d.Date.Before(p.s.Start) {
			return held{}
		}
	}
	if i >= len(p.s.Days) {
		return held{}
	}
	return held{&p.s.Days[i], i + 1}
}

// whole tells whether all of the day stays, its class too.
func (h held) whole() bool { return h.d != nil && h.d.Pin.Day && !h.d.Empty() }

// isKind tells whether the kind of the day stays.
func (h held) isKind() bool { return h.d != nil && (h.d.Pin.Kind || h.whole()) }

// theme is the theme that stays, "" where any may be.
func (h held) theme() string {
	if h.d == nil || !h.d.Pin.Theme && !h.whole() {
		return ""
	}
	return h.d.Theme
}

// cell is a row that stays on a day.
type cell struct {
	slug    string // without a version
	row     plan.Row
	station bool // of a circuit, whose clock gives its dose
	section int  // from 1
}

// cells are the rows of a day that stay: those that are pinned, and those of pinned threads. A pinned movement that the class has not is asked for.
func (p *pins) cells(h held) (out []cell) {
	if h.d == nil || h.d.Rest {
		return nil
	}
	stays := func(slug string) bool {
		if slices.ContainsFunc(h.d.Pinned, func(o string) bool { return movement.BaseSlug(o) == slug }) {
			return true
		}
		l := p.s.Ladder(slug)
		return l != nil && l.Pinned
	}
	there := map[string]bool{}
	if h.d.Session != nil {
		h.d.Session.Each(func(at plan.Path, b *plan.Block, r *plan.Row) {
			if slug := movement.BaseSlug(r.Movement); !r.IsRest() && r.Inline == nil && stays(slug) {
				there[slug] = true
				out = append(out, cell{slug, *r, b.On > 0, at.Section})
			}
		})
	}
	for _, slug := range h.d.Pinned {
		if slug = movement.BaseSlug(slug); !there[slug] {
			there[slug] = true
			out = append(out, cell{slug: slug, row: plan.Row{Movement: slug, Level: 1}})
		}
	}
	return out
}

// threads are the ladders of the document with their goes where they are pinned.
func (p *pins) thread(slug string) *plan.Ladder {
	if p == nil || p.s == nil {
		return nil
	}
	return p.s.Ladder(slug)
}

// due are the rows of a day that stay, as picks.
func (p *pins) due(h held, pool []*entry) (out []pick) {
	for _, c := range p.cells(h) {
		i := slices.IndexFunc(pool, func(e *entry) bool { return e.m.Slug == c.slug })
		var e *entry
		if i >= 0 {
			e = pool[i]
		} else if m, ok := p.lib.Get(c.slug); ok { // what is pinned stays, whatever the brief says of kit and audience
			e = &entry{m: m, roles: m.RolesOf(), themes: m.ThemesOf(), ladder: ladder.Of(p.lib, m, ladder.Terms{})}
		} else {
			continue
		}
		row := c.row
		level := min(max(1, row.Level), len(e.m.Levels))
		k := pick{e: e, rung: ladder.RungOf(p.lib, e.m, level, row.Dose), role: roleFor(e), because: "pinned", fixed: true, row: &row, station: c.station}
		if c.section > 0 && sectionOf[k.role] != min(c.section-1, 2) { // it stays in its part of the class
			k.role = sectionRoles[min(c.section-1, 2)]
		}
		out = append(out, k)
	}
	return out
}

// kept tells whether a class still has the pinned rows as they are: their lock aside, which laying uses.
func kept(s *plan.Session, due []pick) bool {
	for i := range due {
		if due[i].row == nil {
			continue
		}
		want := sameRow(due[i].row)
		found := false
		s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) { found = found || sameRow(r) == want })
		if !found {
			return false
		}
	}
	return true
}

// sameRow is a row as it is written, without its lock.
func sameRow(r *plan.Row) string {
	c := *r
	c.Locked = false
	text, err := json.Marshal(c)
	if err != nil {
		return ""
	}
	return string(text)
}

// putBack gives the pinned rows their own lock again.
func putBack(s *plan.Session, due []pick) {
	for i := range due {
		if due[i].row == nil {
			continue
		}
		want, done := sameRow(due[i].row), false
		s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			if !done && sameRow(r) == want && r.Locked != due[i].row.Locked {
				*r, done = *due[i].row, true
			}
		})
	}
}
