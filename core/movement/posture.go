package movement

import (
	"fmt"
	"slices"
)

// Posture is where the body is on the mat. The zero value is no posture at all.
type Posture uint8

// The postures, from the highest to the lowest.
const (
	NoPosture Posture = iota
	Standing
	Chair
	HalfKneeling
	Lunge // one foot in front, the other knee down and far behind
	Kneeling
	HandsAndKnees
	ForearmsAndKnees
	Plank
	Forearms
	DownDog
	SidePlank
	KneelingSidePlank // the lower knee carries too
	SeatedHeels
	Seated
	SideLying
	Prone
	Supine
)

var postureNames = [...]string{
	"", "standing", "on a chair", "half-kneeling", "lunge", "kneeling", "hands and knees", "forearms and knees", "plank", "forearms", "down dog",
	"side plank", "kneeling side plank", "seated on the heels", "seated", "side-lying", "prone", "supine",
}

// Height is how high the body is over the mat, from 0 (lying) to 10 (standing); for drawing only.
func (p Posture) Height() float64 {
	heights := [...]float64{0, 10, 8, 7, 6, 7, 5, 4, 4, 3.4, 5, 3.4, 3.4, 3.4, 3.2, 1.4, .6, 0}
	if int(p) >= len(heights) {
		return 0
	}
	return heights[p]
}

// Postures lists them all.
func Postures() []Posture {
	out := make([]Posture, 0, len(postureNames)-1)
	for p := Standing; p <= Supine; p++ {
		out = append(out, p)
	}
	return out
}

// String is the posture's name; a value that is none says so.
func (p Posture) String() string {
	if int(p) >= len(postureNames) {
		return fmt.Sprintf("Posture(%d)", uint8(p))
	}
	return postureNames[p]
}

// MarshalText writes the posture's name.
func (p Posture) MarshalText() ([]byte, error) { return []byte(p.String()), nil }

// UnmarshalText reads a posture's name.
func (p *Posture) UnmarshalText(b []byte) error {
	for i, n := range postureNames {
		if i > 0 && n == string(b) {
			*p = Posture(i)
			return nil
		}
	}
	return fmt.Errorf("%q is not a posture: expected one of %v", b, postureNames[1:])
}

// edges are the changes of position that are one step, with the words said for each direction.
// The graph is the trade's (common practice, no source).
var edges = []struct {
	a, b     Posture
	down, up string // words from a to b, and back
}{
	{Standing, Chair, "sit down on the chair", "stand up from the chair"},
	{Standing, HalfKneeling, "one knee down", "stand up over the front foot"},
	{HalfKneeling, Kneeling, "both knees down", "one foot forward"},
	{Kneeling, HandsAndKnees, "hands to the mat", "walk the hands back and come up tall"},
	{HandsAndKnees, Plank, "step the feet back", "knees down"},
	{HandsAndKnees, Forearms, "forearms down, feet back", "up onto hands and knees"},
	{HandsAndKnees, DownDog, "tuck the toes, seat up and back", "knees down"},
	{Plank, Prone, "lower to the front", "hands under the shoulders, press up"},
	{Forearms, Prone, "lower to the front", "forearms under the shoulders, lift"},
	{DownDog, Prone, "forward and down to the front", "press up and back"},
	{HalfKneeling, Lunge, "hips forward and low", "hips back over the knee"},
	{HandsAndKnees, Lunge, "one foot forward between the hands", "step the foot back"},
	{HandsAndKnees, ForearmsAndKnees, "forearms down", "up onto the hands"},
	{ForearmsAndKnees, Forearms, "step the feet back", "knees down"},
	{SideLying, KneelingSidePlank, "knees bent, lift the hips", "hips down"},
	{SidePlank, KneelingSidePlank, "the lower knee down", "straighten the legs"},
	{HandsAndKnees, SeatedHeels, "sit back on the heels", "forward onto the hands"},
	{SeatedHeels, Seated, "slide to one side and sit", "fold the legs under"},
	{Seated, Supine, "roll down to the back", "roll up to sitting"},
	{Seated, SideLying, "lower to the side", "push up to sitting"},
	{SideLying, Prone, "roll onto the front", "roll onto the side"},
	{Supine, SideLying, "roll onto the side", "roll onto the back"},
	{Plank, SidePlank, "turn onto one hand", "both hands down"},
	{SidePlank, SideLying, "hips down", "lift the hips"},
}

// Way is a change of position: how many steps of the posture graph, and what is said.
type Way struct {
	Steps int
	Says  []string
	Via   []Posture // postures passed on the way, without the first, with the last
}

// ways holds the shortest way between any two postures, worked out once.
var ways = func() (out [Supine + 1][Supine + 1]Way) {
	for from := Standing; from <= Supine; from++ {
		type node struct {
			p Posture
			w Way
		}
		queue := []node{{from, Way{}}}
		seen := map[Posture]bool{from: true}
		for len(queue) > 0 {
			n := queue[0]
			queue = queue[1:]
			out[from][n.p] = n.w
			for _, e := range edges {
				to, says := e.b, e.down
				switch n.p {
				case e.a:
				case e.b:
					to, says = e.a, e.up
				default:
					continue
				}
				if !seen[to] {
					seen[to] = true
					queue = append(queue, node{to, Way{n.w.Steps + 1, append(slices.Clip(n.w.Says), says), append(slices.Clip(n.w.Via), to)}})
				}
			}
		}
	}
	return out
}()

// WayTo is the shortest way from p to q in the posture graph; no steps when they are the same
// or one is unknown.
func (p Posture) WayTo(q Posture) Way {
	if p > Supine || q > Supine {
		return Way{}
	}
	return ways[p][q]
}

// OnFloor tells whether the body is down on the mat.
func (p Posture) OnFloor() bool { return p > Chair }

// OneSided tells whether one side of the body is underneath, so that changing sides means
// turning over: two steps, through the back, the front or hands and knees.
func (p Posture) OneSided() bool { return p == SideLying || p == SidePlank || p == KneelingSidePlank }
