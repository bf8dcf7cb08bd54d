package lay

import (
	"slices"
	"strings"

	"wavekine/core/brief"
	"wavekine/core/clock"
	"wavekine/core/ladder"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Piece is a piece of a class that a studio keeps: how it arrives, how it settles, five abdominals.
type Piece struct {
	Title string
	Class *plan.Session
}

// Words by which a piece says where in a class it belongs; anything else is something to build with.
var (
	openings = []string{"arrive", "arriving", "opening", "open", "warm-up", "warm up", "warming up", "beginning", "start"}
	closings = []string{"settle", "settling", "closing", "close", "cool-down", "cool down", "cooling down", "end", "ending", "rest at the end"}
)

// Judgement constants of pieces: what of a class one may take.
const (
	pieceAround = .3  // at most, of one that opens or closes
	pieceBuild  = .45 // of one to build with
	pieceEvery  = 2   // days about its theme between two of one to build with
)

// part is a piece that fits a brief, with where it belongs.
type part struct {
	Piece
	section int // 0 opens, 1 builds, 2 closes
	picks   []pick
	length  clock.Span
	themes  map[string]int
}

// partsOf are the pieces that can be used: all they have is for these people, with the kit there is, and nothing of it is left out.
func partsOf(t *task, pieces []Piece) (out []part) {
	for _, p := range pieces {
		title := strings.ToLower(strings.TrimSpace(p.Title))
		x := part{Piece: p, section: 1, themes: map[string]int{}}
		switch {
		case slices.Contains(openings, title):
			x.section = 0
		case slices.Contains(closings, title):
			x.section = 2
		}
		fits := true
		p.Class.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			if r.IsRest() {
				return
			}
			i := slices.IndexFunc(t.pool, func(e *entry) bool { return movement.BaseSlug(e.m.Slug) == movement.BaseSlug(r.Movement) })
			if r.Inline != nil || i < 0 || !TermsOf(t.b).Takes(t.pool[i].m, min(max(1, r.Level), len(t.pool[i].m.Levels))) {
				fits = false
				return
			}
			e := t.pool[i]
			for _, th := range e.themes {
				x.themes[th]++
			}
			x.picks = append(x.picks, pick{e: e, rung: ladder.RungOf(t.lib, e.m, min(max(1, r.Level), len(e.m.Levels)), r.Dose), role: sectionRoles[x.section], because: "from " + p.Title, piece: true})
		})
		tl, err := timeline.Build(p.Class, t.lib)
		if !fits || err != nil || len(x.picks) == 0 {
			continue
		}
		x.length = tl.Total
		out = append(out, x)
	}
	return out
}

// uses chooses the pieces of a day's class: one to open, one to close, and on days of work about what it is about one to build with. What must come anyway is
// not in it.
func (t *task) uses(parts []part, used map[string]int) {
	if t.b.Classical || t.day.Kind == Stretch { // the order has its own beginning and end
		return
	}
	for i := range parts {
		x := &parts[i]
		share := pieceAround
		if x.section == 1 {
			share = pieceBuild
			if t.day.Hard == Soft || t.b.Shape == brief.Intervals || 2*x.themes[t.day.Theme] < len(x.picks) || len(t.mem.days)-used[x.Title] < pieceEvery && used[x.Title] > 0 {
				continue
			}
		}
		if float64(x.length) > share*float64(t.target) || t.parts[x.section] != nil {
			continue
		}
		if slices.ContainsFunc(x.picks, func(p pick) bool {
			return t.bars[p.e.m.Slug] || slices.ContainsFunc(t.due, func(d pick) bool { return d.e == p.e })
		}) {
			continue
		}
		t.parts[x.section] = x
		if x.section == 1 {
			used[x.Title] = len(t.mem.days) + 1
		}
	}
}

// blocksOf are the blocks of a piece.
func (x *part) blocksOf() (out []plan.Block) {
	for _, s := range x.Class.Clone().Sections {
		out = append(out, s.Blocks...)
	}
	return out
}
