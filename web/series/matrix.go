package series

import (
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/web/kit"
)

// matrixRow is a movement that comes on more than one day, with its level and dose on each.
type matrixRow struct {
	Move  *movement.Movement
	Cells []matrixCell
}

type matrixCell struct {
	Level, Of int
	Dose      string
	Up        bool // a higher level than the time before
}

// shortDose is a dose that fits into a cell: sides and kind are said by the movement.
var shortDose = strings.NewReplacer("hold ", "", " each side", "", " alternating", "", " breaths", " br", " reps", "", " pulses", " p")

// maxMatrix bounds the rows of the table: the movements that come back most often.
const maxMatrix = 12

// matrix lays the movements that come back over the days, the most frequent first.
func matrix(a *kit.Kit, plans []*plan.Session) (rows []matrixRow) {
	type use struct {
		days  int
		cells []matrixCell
	}
	uses := map[string]*use{}
	var order []string
	for i, p := range plans {
		if p == nil {
			continue
		}
		p.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			m, ok := a.Lib.Get(r.Movement)
			if !ok {
				return
			}
			u := uses[m.Slug]
			if u == nil {
				u = &use{cells: make([]matrixCell, len(plans))}
				uses[m.Slug] = u
				order = append(order, m.Slug)
			}
			if u.cells[i].Level > 0 { // the first time on a day stands for it
				return
			}
			d := r.Dose
			if d.IsZero() {
				d = m.Dose
			}
			u.days++
			u.cells[i] = matrixCell{Level: max(1, r.Level), Of: len(m.Levels), Dose: shortDose.Replace(d.String())}
		})
	}
	slices.SortStableFunc(order, func(x, y string) int { return uses[y].days - uses[x].days })
	for _, slug := range order {
		u := uses[slug]
		if u.days < 2 || len(rows) == maxMatrix {
			continue
		}
		last := 0
		for i := range u.cells {
			if l := u.cells[i].Level; l > 0 {
				u.cells[i].Up = last > 0 && l > last
				last = l
			}
		}
		m, _ := a.Lib.Get(slug)
		rows = append(rows, matrixRow{m, u.cells})
	}
	return rows
}
