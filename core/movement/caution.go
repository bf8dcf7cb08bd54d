package movement

import (
	"slices"
	"strings"
)

// Caution is what to say to those who have to watch a topic. It never diagnoses.
type Caution struct {
	Topic Topic
	Says  string
}

// Judgement: from where a load or a bend asks for a caution.
const (
	loadedFrom  = 2.0 // demand from which bending forward or turning counts as loaded
	deepThighs  = .8  // weight of the thighs from which standing work bends the knees deeply
	balanceFrom = .6  // weight of balance from which a chair should be near
)

// Cautions lists what calls for care at level n: each topic that is said aloud once, in their order. A topic that the
// movement's own care speaks of is left to it.
func (m *Movement) Cautions(n int) []Caution { return m.cautions(n, strings.ToLower(m.Care)) }

// UsualCautions lists what calls for care at level n, also where the movement's own care speaks of it.
func (m *Movement) UsualCautions(n int) []Caution { return m.cautions(n, "") }

func (m *Movement) cautions(n int, care string) (out []Caution) {
	for _, t := range aloud {
		c := m.careAt(n, t) // what this level calls for, in words
		if c.Does == Keep || c.quiet || care != "" && strings.Contains(care, spokenOf[t]) {
			continue
		}
		w := c.Words()
		out = append(out, Caution{t, strings.ToUpper(w[:1]) + w[1:] + "."})
	}
	return out
}

// Watches tells whether level n calls for care of a topic.
func (m *Movement) Watches(n int, t Topic) bool { return m.careAt(n, t).Does != Keep }

// Audience is whom a class is for, as far as it decides what fits.
type Audience string

// The audiences of the library's own check, and of the search.
const (
	Mixed        Audience = "mixed"
	Beginners    Audience = "beginners"
	StandingOnly Audience = "standing only"
	Expecting    Audience = "expecting"
	LowBone      Audience = "low bone density"
)

// Audiences lists them.
func Audiences() []Audience { return slices.Clone(audiences) }

var audiences = []Audience{Mixed, Beginners, StandingOnly, Expecting, LowBone}

// Highest demand for an audience; judgement.
var audienceTo = map[Audience]float64{Mixed: 7, Beginners: 4.5, StandingOnly: 5, Expecting: 4.5, LowBone: 5.5}

// Suits tells whether level n fits an audience: the usual cautions of the trade (common practice), and a
// highest demand (judgement). It is a teaching aid: whoever treats a mover decides.
func (m *Movement) Suits(n int, a Audience) bool {
	if m.At(n).Demand > audienceTo[a] {
		return false
	}
	takes := func(ts ...Topic) bool { // as it is, or as it is in other words
		return !slices.ContainsFunc(ts, func(t Topic) bool { return m.Spared(n, t) })
	}
	switch a {
	case StandingOnly:
		return !m.Posture.OnFloor()
	case Expecting:
		return takes(Pregnancy)
	case LowBone:
		return takes(Bones)
	}
	return true
}

// Gentlest is the first level that suits an audience; ok is false when none does.
func (m *Movement) Gentlest(a Audience) (n int, ok bool) {
	for n := range m.Levels {
		if m.Suits(n+1, a) {
			return n + 1, true
		}
	}
	return 0, false
}
