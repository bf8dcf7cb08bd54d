package solve

import (
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Piece is what moves as one when rows are put in another order: a row of a straight block with the rests that belong
// to it, or a whole chain or circuit with those behind it.
type Piece struct {
	Block        plan.Block
	After        *plan.Block      // rests behind a block that is not theirs; nil: none
	Enter, Leave movement.Posture // where the body is at its beginning and its end; NoPosture: it does not say
	kit          string           // the things its last row needs
	fetches      string           // the things its first row needs
	phase        int              // the latest place in the arc of a class of its rows; -1 without one
	classical    bool
	locked       bool
	transition   bool     // it keeps its place: it is there to get from one position to another, or a pose to rest in on its own
	moves        []string // the movements in it
}

// Pieces parts a section into what moves as one. A rest stays behind what it follows, also where that is a chain or a
// circuit, and a pose to rest in too, as it is a rest from that. A rest that speaks of the kit of what comes next stays in
// front of it; a pose to rest in keeps its place where it begins a section, ends it, or follows another rest.
func Pieces(sec *plan.Section, lib *movement.Library) []Piece { return piecesOf(sec, lib, true) }

// Apart is Pieces with every pose to rest in on its own.
func Apart(sec *plan.Section, lib *movement.Library) []Piece { return piecesOf(sec, lib, false) }

func piecesOf(sec *plan.Section, lib *movement.Library, joined bool) (out []Piece) {
	for i, b := range sec.Blocks {
		if b.Rule != plan.Straight {
			out = append(out, pieceOf(b, nil, lib))
			continue
		}
		out = straightPieces(out, b, i == len(sec.Blocks)-1, joined, lib)
	}
	return out
}

// straightPieces adds the pieces of a straight block, the last of its section or not, to those before it; joined: poses to rest
// in with what they follow.
func straightPieces(out []Piece, b plan.Block, last, joined bool, lib *movement.Library) []Piece {
	first := len(out)            // of this block
	var ahead []plan.Row         // rests that belong to what comes next
	behind := func(r plan.Row) { // what the last piece takes with it
		p := out[len(out)-1]
		switch {
		case len(out) > first && p.After == nil:
			p.Block.Rows = append(slices.Clip(p.Block.Rows), r)
		case p.After == nil:
			after := b
			after.Rows = []plan.Row{r}
			p.After = &after
		default:
			after := *p.After
			after.Rows = append(slices.Clip(after.Rows), r)
			p.After = &after
		}
		keeps := p.transition
		out[len(out)-1] = pieceOf(p.Block, p.After, lib)
		out[len(out)-1].transition = keeps
	}
	for i, r := range b.Rows {
		pose := !r.IsRest() && restsIn(&r, lib)
		switch ends := last && i+1 == len(b.Rows); {
		case r.IsRest() && (len(out) == 0 || len(ahead) > 0 || speaksOfNext(b.Rows[i:], lib)):
			ahead = append(ahead, r)
			continue
		case r.IsRest(), joined && pose && len(out) > 0 && len(ahead) == 0 && !ends && !out[len(out)-1].rests(lib):
			behind(r)
			continue
		}
		one := b
		one.Rows = append(slices.Clip(ahead), r)
		ahead = nil
		p := pieceOf(one, nil, lib)
		p.transition = p.transition || pose
		out = append(out, p)
	}
	if len(ahead) > 0 { // at the end, or nothing but rests
		one := b
		one.Rows = ahead
		out = append(out, pieceOf(one, nil, lib))
	}
	return out
}

// rests tells whether a piece ends in a pose to rest in.
func (p *Piece) rests(lib *movement.Library) bool {
	rows := p.Block.Rows
	if p.After != nil {
		rows = p.After.Rows
	}
	for i := len(rows) - 1; i >= 0; i-- {
		if !rows[i].IsRest() {
			return restsIn(&rows[i], lib)
		}
	}
	return false
}

// restsIn tells whether a row is a pose to rest in.
func restsIn(r *plan.Row, lib *movement.Library) bool {
	m, err := r.Of(lib)
	return err == nil && m != nil && m.Rest
}

// speaksOfNext tells whether a rest names a thing that the next row needs: "fetch the roller".
func speaksOfNext(rows []plan.Row, lib *movement.Library) bool {
	says := strings.ToLower(rows[0].Rest.Say)
	for i := range rows[1:] {
		r := &rows[1+i]
		if r.IsRest() {
			continue
		}
		m, err := r.Of(lib)
		return err == nil && m != nil && slices.ContainsFunc(m.Things(max(1, r.Level)), func(k string) bool { return strings.Contains(says, strings.ToLower(k)) })
	}
	return false
}

func pieceOf(b plan.Block, after *plan.Block, lib *movement.Library) Piece {
	p := Piece{Block: b, After: after, phase: -1}
	add := func(r *plan.Row, own bool) {
		p.locked = p.locked || r.Locked
		m, err := r.Of(lib)
		if err != nil || m == nil {
			return
		}
		things := strings.Join(m.Things(max(1, r.Level)), ",")
		if p.Enter == movement.NoPosture {
			p.Enter, p.fetches = m.Posture, things
		}
		rest := m.Rest && p.moves != nil // it belongs to what it follows, and says nothing of its own
		p.Leave, p.kit = m.Leaves(), things
		if rest {
			return
		}
		p.phase = max(p.phase, m.PhasePlace())
		p.classical = p.classical || m.Classical > 0
		p.transition = p.transition || own && m.Leaves() != m.Posture
		p.moves = append(p.moves, movement.BaseSlug(m.Slug))
	}
	for i := range b.Rows {
		add(&b.Rows[i], true)
	}
	if after != nil {
		for i := range after.Rows {
			add(&after.Rows[i], false)
		}
	}
	return p
}

// Join puts pieces back into blocks, in their order; neighbouring straight rows of which the same is said become one block.
func Join(ps []Piece) (out []plan.Block) {
	for _, p := range ps {
		for _, b := range []*plan.Block{&p.Block, p.After} {
			if b == nil {
				continue
			}
			if n := len(out); n > 0 && b.Joins(&out[n-1]) {
				out[n-1].Rows = append(slices.Clip(out[n-1].Rows), b.Rows...)
				continue
			}
			out = append(out, *b)
		}
	}
	return out
}

// stays tells whether a must stay in front of b, which follows it today: the same movement again (an easy round, then
// a hard one), and in the classical order everything that has a place in it.
func stays(a, b *Piece, classical bool) bool {
	if classical && a.classical && b.classical {
		return true
	}
	return slices.ContainsFunc(a.moves, func(m string) bool { return slices.Contains(b.moves, m) })
}

// fixedFrom is how many classical exercises in their order make a class one that follows it, said or not; judgement.
const fixedFrom = 8

// FixedOrder tells whether a session follows the classical mat order: it says so, or enough of the order stands in it, rising.
func FixedOrder(s *plan.Session, lib *movement.Library) bool {
	if s.Style.Order == plan.ClassicalOrder {
		return true
	}
	n, last, rising := 0, 0, true
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if m, ok := lib.Get(r.Movement); ok && m.Classical > 0 {
			n++
			rising = rising && m.Classical >= last
			last = m.Classical
		}
	})
	return rising && n >= fixedFrom
}

// earlier tells whether the arc of a class puts a in front of b.
func earlier(a, b *Piece) bool { return a.phase >= 0 && b.phase >= 0 && a.phase < b.phase }
