package timeline

import (
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Facing is how whoever leads stands to those who follow.
type Facing uint8

// The ways of facing.
const (
	Front  Facing = iota // face to face
	Away                 // with the back to them
	Across               // seen from the side
)

// FacingOf is how whoever leads stands to those who follow in a row.
func FacingOf(r *plan.Row, p movement.Posture) Facing {
	switch r.FacesIn(p) {
	case plan.FacesSide:
		return Across
	case plan.FacesAway:
		return Away
	}
	return Front
}

// Told is a side as it is told, done and seen.
type Told struct {
	Say  Side // what is spoken: always the mover's side
	Do   Side // the limb of whoever leads
	Seen Side // on which side of the picture it is; Both: on neither
}

// Told works out from a side of the plan, which is the mover's, what is said, done and seen. Mirroring is for facing
// only: then the other limb is moved, so that it is seen where the movers have theirs (common practice, no source).
func (s Side) Told(f Facing, mirrored bool) Told {
	t := Told{s, s, s}
	switch {
	case s == Both:
	case f == Across:
		t.Seen = Both
	case f == Front && mirrored:
		t.Do = s.Other()
	case f == Front:
		t.Seen = s.Other()
	}
	return t
}

// Words say it in words for a limb: what is said, and what is to be done and seen.
func (t Told) Words(limb string) (say, rest string) {
	switch t.Say {
	case Both:
		return "", ""
	case Alternating:
		return "alternating sides", ""
	}
	say, rest = t.Say.String()+" "+limb, "your "+t.Do.String()
	if t.Seen != t.Say && t.Seen != Both {
		rest += "; they see it on the " + t.Seen.String()
	}
	return say, rest
}
