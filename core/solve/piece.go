package solve

import (
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Piece is what moves as one when rows are put in another order: a row of a straight block with the rests that belong
// to it, or a whole chain or circuit.
type Piece struct {
	Block        plan.Block
	Enter, Leave movement.Posture // where the body is at its beginning and its end; NoPosture: it does not say
	kit          string           // the things its last row needs
	fetches      string           // the things its first row needs
	phase        int              // the latest place in the arc of a class of its rows; -1 without one
	classical    bool
	locked       bool
	transition   bool     // it is there to get from one position to another
	moves        []string // the movements in it
}

// Pieces parts a section into what moves as one. A rest stays behind what it follows, but for one that speaks of
// the kit of what comes next: that one stays in front of it.
func Pieces(sec *plan.Section, lib *movement.Library) (out []Piece) {
	for _, b := range sec.Blocks {
		if b.Rule != plan.Straight {
			out = append(out, pieceOf(b, lib))
			continue
		}
		out = append(out, straightPieces(b, lib)...)
	}
	return out
}

func straightPieces(b plan.Block, lib *movement.Library) (out []Piece) {
	var ahead []plan.Row // rests that belong to what comes next
	for i, r := range b.Rows {
		if r.IsRest() {
			if n := len(out); !speaksOfNext(b.Rows[i:], lib) && n > 0 && len(ahead) == 0 {
				out[n-1].Block.Rows = append(slices.Clip(out[n-1].Block.Rows), r)
				out[n-1].locked = out[n-1].locked || r.Locked
				continue
			}
			ahead = append(ahead, r)
			continue
		}
		one := b
		one.Rows = append(slices.Clip(ahead), r)
		ahead = nil
		out = append(out, pieceOf(one, lib))
	}
	if len(ahead) > 0 { // at the end, or nothing but rests
		one := b
		one.Rows = ahead
		out = append(out, pieceOf(one, lib))
	}
	return out
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

func pieceOf(b plan.Block, lib *movement.Library) Piece {
	p := Piece{Block: b, phase: -1}
	for i := range b.Rows {
		r := &b.Rows[i]
		p.locked = p.locked || r.Locked
		m, err := r.Of(lib)
		if err != nil || m == nil {
			continue
		}
		things := strings.Join(m.Things(max(1, r.Level)), ",")
		if p.Enter == movement.NoPosture {
			p.Enter, p.fetches = m.Posture, things
		}
		p.Leave, p.kit = m.Leaves(), things
		p.phase = max(p.phase, m.PhasePlace())
		p.classical = p.classical || m.Classical > 0
		p.transition = p.transition || m.Leaves() != m.Posture
		p.moves = append(p.moves, movement.BaseSlug(m.Slug))
	}
	return p
}

// Join puts pieces back into blocks, in their order; neighbouring straight rows under the same rest become one block.
func Join(ps []Piece) (out []plan.Block) {
	for _, p := range ps {
		b := p.Block
		if n := len(out); n > 0 && b.Rule == plan.Straight && out[n-1].Rule == plan.Straight && out[n-1].Rest == b.Rest {
			out[n-1].Rows = append(slices.Clip(out[n-1].Rows), b.Rows...)
			continue
		}
		out = append(out, b)
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

// earlier tells whether the arc of a class puts a in front of b.
func earlier(a, b *Piece) bool { return a.phase >= 0 && b.phase >= 0 && a.phase < b.phase }
