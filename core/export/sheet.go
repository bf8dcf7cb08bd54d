package export

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/ledger"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

// Sheet is a session on paper: for the teacher a cue sheet, for the mover what to do at home.
type Sheet struct {
	Title     string
	Total     clock.Span
	Low, High clock.Span
	Kit       string // what it needs
	KitElse   string // what will do instead, and what is good to have
	Assumed   bool   // a separate warm-up is assumed
	About     string // what it works, in words
	Breath    string // the school's pattern, said once for all rows
	Cautions  []movement.Caution
	Sections  []SheetSection
	Rows      int
}

// SheetSection is a section on paper.
type SheetSection struct {
	Title  string
	Says   string // how it is taught, and its note
	Blocks []SheetBlock
}

// SheetBlock is a block on paper.
type SheetBlock struct {
	Words string
	Ruled bool // its rows go together: where they end must be seen
	Rows  []SheetRow
}

// SheetRow is a row with everything that is said of it.
type SheetRow struct {
	N                          int
	At, Sum                    clock.Span
	Move                       *movement.Movement // nil for a rest
	Level, Demo                int
	Name, Dose, Sides          string
	Changes                    string // what the level changes
	Setup, Say, Breath, Pelvis string
	Watch, Easier, Harder      string
	Note                       string
	Besides                    []string // options in words, who should take care, words at their times
	Cautions                   []movement.Caution
	Care                       string
}

// OneOnly tells whether the row is done on one side only.
func (r SheetRow) OneOnly() bool { return strings.HasSuffix(r.Sides, "only") }

// kitElse says of which things there are several, what will do where there is none, and what is good to have.
func kitElse(things []movement.Thing) string {
	var parts []string
	for _, k := range things {
		said := k.String()
		switch {
		case k.Optional:
			parts = append(parts, "good to have: "+strings.TrimSuffix(said, ", optional"))
		case said != k.Name:
			parts = append(parts, said)
		}
	}
	return strings.Join(parts, "; ")
}

// SheetOf lays a session out for paper.
func SheetOf(s *plan.Session, tl *timeline.Timeline, lib *movement.Library) Sheet {
	sh := Sheet{Title: s.Title, Total: tl.Total, Low: tl.Low, High: tl.High, Assumed: s.Style.WarmUp == plan.WarmUpAssumed, Breath: s.Style.BreathPattern(), Rows: s.Rows()}
	sh.About, _ = ledger.Of(tl).Compare(nil)
	type span struct{ at, sum clock.Span }
	spans := map[plan.Path]span{}
	worked := map[movement.Topic]clock.Span{}
	says := map[movement.Topic]movement.Caution{}
	for i := range tl.Steps {
		st := &tl.Steps[i]
		sp, ok := spans[st.Row]
		if !ok {
			sp.at = st.At
		}
		sp.sum += st.S
		spans[st.Row] = sp
		if st.Move == nil || !st.Kind.Working() {
			continue
		}
		for _, c := range st.Move.UsualCautions(st.Level) {
			if c.Topic == movement.Pregnancy || c.Topic == movement.AfterBirth {
				worked[c.Topic] += st.S / 4 // matters to few; the others come first on a sheet for all
			} else {
				worked[c.Topic] += st.S
			}
			says[c.Topic] = c
		}
	}
	sh.Kit = tl.KitNames()
	sh.KitElse = kitElse(tl.KitOf())
	for t := range worked {
		sh.Cautions = append(sh.Cautions, says[t])
	}
	slices.SortFunc(sh.Cautions, func(a, b movement.Caution) int {
		if d := worked[b.Topic] - worked[a.Topic]; d != 0 {
			return int(d)
		}
		return strings.Compare(string(a.Topic), string(b.Topic))
	})
	n, end := 0, clock.Span(0)
	for i := range s.Sections {
		ss := SheetSection{Title: s.Sections[i].Title, Says: SectionSays(&s.Sections[i])}
		for j := range s.Sections[i].Blocks {
			b := &s.Sections[i].Blocks[j]
			sb := SheetBlock{Words: BlockSays(b), Ruled: b.Rule != plan.Straight || b.Title+b.Note != ""}
			for k := range b.Rows {
				n++
				sp, timed := spans[plan.Path{Section: i + 1, Block: j + 1, Row: k + 1}]
				if !timed { // it takes no time: it stands where the row before it ends
					sp.at = end
				}
				end = max(end, sp.at+sp.sum)
				row := sheetRow(b, &b.Rows[k], s, plan.Path{Section: i + 1, Block: j + 1, Row: k + 1}, lib)
				row.N, row.At, row.Sum = n, sp.at, sp.sum
				sb.Rows = append(sb.Rows, row)
			}
			ss.Blocks = append(ss.Blocks, sb)
		}
		if len(ss.Blocks) > 0 {
			sh.Sections = append(sh.Sections, ss)
		}
	}
	return sh
}

func sheetRow(b *plan.Block, r *plan.Row, s *plan.Session, at plan.Path, lib *movement.Library) (row SheetRow) {
	row = SheetRow{Name: RowName(r, lib), Note: r.Note}
	m, err := r.Of(lib)
	if r.IsRest() || err != nil || m == nil {
		row.Dose = RowWords(r, lib)
		return row
	}
	row.Move, row.Level, row.Demo = m, min(max(1, r.Level), len(m.Levels)), r.Demo
	row.Dose, row.Changes = DoseIn(b, r, m), m.At(row.Level).Changes
	if r.SideRule(m) == movement.Each && len(r.PartLevels) > 0 {
		row.Dose += ", each side"
	} else if r.SideRule(m) == movement.Each && !strings.Contains(row.Dose, "each side") && !strings.Contains(row.Dose, "pairs") {
		row.Dose += " each side"
	}
	for _, but := range append(butWords(b, r), r.How(m)...) {
		row.Dose += ", " + but
	}
	st := s.StyleAt(at)
	row.Dose = st.SaysSets(row.Dose)
	switch r.SideRule(m) {
	case movement.Each:
		row.Sides = "right, left"
		if st.First == plan.LeftFirst {
			row.Sides = "left, right"
		}
	case movement.Alternating:
		row.Sides = "alternating"
	case movement.RightOnly:
		row.Sides = "right only"
	case movement.LeftOnly:
		row.Sides = "left only"
	}
	row.Setup, row.Say, row.Breath, row.Pelvis, row.Watch = m.Setup, SaidOf(r, m), m.Breath, st.PelvisWords(m, row.Level), m.Fault
	for _, w := range r.Timed {
		row.Besides = append(row.Besides, timedWord(w))
	}
	row.Cautions, row.Care = m.Cautions(row.Level), m.Care
	words := func(levels []int) string {
		var out []string
		for _, n := range levels {
			out = append(out, m.At(n).Changes)
		}
		return strings.Join(out, " / ")
	}
	if r.Caution != "" {
		row.Care = strings.TrimSpace(row.Care + " " + r.Caution)
	}
	defer func() { // what is offered in words stands with what is easier, on every sheet
		if len(r.Choices) > 0 {
			row.Easier = strings.TrimPrefix(strings.TrimSuffix(row.Easier, ".")+"; or "+strings.Join(r.Choices, "; or "), "; or ")
		}
	}()
	if m.Inline {
		return row
	}
	row.Easier, row.Harder = words(review.EasierOffered(r, m)), words(review.HarderOffered(r, m))
	if row.Easier == "" {
		row.Easier = m.Ease
	}
	return row
}

// Main are the cautions that matter most on a mover's sheet: the topics longest under load.
func (s Sheet) Main(n int) []movement.Caution { return s.Cautions[:min(n, len(s.Cautions))] }

// Head is the line under the title.
func (s Sheet) Head() string {
	h := fmt.Sprintf("%s, from %s to %s", s.Total, s.Low, s.High)
	if s.Kit != "" {
		h += " · needs " + s.Kit
	}
	if s.Breath != "" {
		h += " · " + s.Breath
	}
	if s.Assumed {
		h += " · a warm-up is assumed"
	}
	return h
}
