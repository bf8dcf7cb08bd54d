package movement

import "strings"

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
func (m *Movement) Cautions(n int) []Caution { return m.cautions(n, strings.ToLower(m.As(n).Care)) }

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
