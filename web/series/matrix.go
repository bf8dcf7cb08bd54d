package series

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/web/kit"
)

// matrixRow is a movement over the days, with its level and dose on each: the threads first, then what comes back most often.
type matrixRow struct {
	Move   *movement.Movement
	Slug   string // without a version
	Thread *plan.Ladder
	Cells  []matrixCell
}

type matrixCell struct {
	Day       int
	Level, Of int // Level 0: it is not there
	Dose      string
	Whole     string // the dose in words
	Up        bool   // a higher level than the time before, or more of it
	First     bool   // nobody has met it before
	Pinned    bool
}

// Label says a cell aloud.
func (r *matrixRow) Label(c matrixCell) string {
	out := fmt.Sprintf("%s, day %d: level %d, %s", r.Move.Name, c.Day, c.Level, c.Whole)
	if !strings.Contains(" "+c.Whole+" ", " "+c.Dose+" ") { // what is read is in what is heard
		out += ", " + c.Dose
	}
	if c.First {
		out += ", for the first time"
	} else if c.Up {
		out += ", more than the time before"
	}
	if c.Pinned {
		out += ", pinned"
	}
	return out
}

// shortDose is a dose that fits into a cell: sides and kind are said by the movement.
var shortDose = strings.NewReplacer("hold ", "", " each side", "", " alternating", "", " each way", "", " pairs", "", " breaths", " br", " reps", "", " pulses", " p")

// maxMatrix bounds the rows of the board: a class has about twenty movements.
const maxMatrix = 24

// matrix lays the movements over all days: threads, and what comes on more than one day, the most frequent first.
func matrix(a *kit.Kit, s *plan.Series, plans []*plan.Session) (rows []matrixRow) {
	type use struct {
		days  int
		cells []matrixCell
		last  struct{ level, amount int }
	}
	uses := map[string]*use{}
	var order []string
	for i, p := range plans {
		if p == nil {
			continue
		}
		p.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
			m, ok := a.Lib.Get(r.Movement)
			if !ok || m.Rest {
				return
			}
			slug := movement.BaseSlug(r.Movement)
			u := uses[slug]
			if u == nil {
				u = &use{cells: make([]matrixCell, len(plans))}
				uses[slug] = u
				order = append(order, slug)
			}
			if u.cells[i].Level > 0 { // the first time on a day stands for it
				return
			}
			d := r.DoseOf(m)
			level := max(1, r.Level)
			amount, _, _ := movement.Amount(d)
			c := matrixCell{Day: i + 1, Level: level, Of: len(m.Levels), Dose: shortDose.Replace(d.String()), Whole: d.String(), First: u.days == 0}
			if b.On > 0 {
				c.Dose, c.Whole = b.On.Said(), b.On.Said()+" by the clock"
			}
			c.Up = u.days > 0 && (level > u.last.level || level == u.last.level && amount > u.last.amount && b.On == 0)
			c.Pinned = s.Days[i].Pin.Day || slices.ContainsFunc(s.Days[i].Pinned, func(o string) bool { return movement.BaseSlug(o) == slug })
			if !s.Days[i].Easier() {
				u.last.level, u.last.amount = level, amount
			}
			u.days++
			u.cells[i] = c
		})
	}
	slices.SortStableFunc(order, func(x, y string) int {
		tx, ty := s.Ladder(x) != nil, s.Ladder(y) != nil
		switch {
		case tx != ty && tx:
			return -1
		case tx != ty:
			return 1
		}
		return uses[y].days - uses[x].days
	})
	for _, slug := range order {
		u, ld := uses[slug], s.Ladder(slug)
		if u.days < 2 && ld == nil || len(rows) == maxMatrix {
			continue
		}
		for i := range u.cells {
			u.cells[i].Day = i + 1
			u.cells[i].Pinned = u.cells[i].Pinned || ld != nil && ld.Pinned && u.cells[i].Level > 0
		}
		m, _ := a.Lib.Get(slug)
		rows = append(rows, matrixRow{m, slug, ld, u.cells})
	}
	return rows
}

// weekRows are the rows of some days, those that have something there.
func weekRows(all []matrixRow, from, to int) (rows []matrixRow) {
	for _, r := range all {
		r.Cells = r.Cells[from:to]
		if slices.ContainsFunc(r.Cells, func(c matrixCell) bool { return c.Level > 0 }) {
			rows = append(rows, r)
		}
	}
	return rows
}
