package movement

import (
	"slices"
	"strings"
)

// Topic is something a mover may have to watch.
type Topic string

// The topics of the usual cautions.
const (
	Neck       Topic = "neck"
	LowBack    Topic = "low back"
	Wrists     Topic = "wrists"
	Shoulder   Topic = "shoulders"
	Knees      Topic = "knees"
	Bones      Topic = "low bone density"
	Pregnancy  Topic = "pregnancy"
	AfterBirth Topic = "after birth"
	Pressure   Topic = "blood or eye pressure"
	Vertigo    Topic = "vertigo"
	Balance    Topic = "balance"
)

// Caution is what to say to those who have to watch a topic. It never diagnoses.
type Caution struct {
	Topic Topic
	Says  string
}

// Judgement: from where a load or a bend asks for a caution.
const (
	loadedFrom  = 2.0 // demand from which bending forward or turning counts as loaded
	archedFrom  = 3.0 // demand from which bending back does
	deepThighs  = .8  // weight of the thighs from which standing work bends the knees deeply
	balanceFrom = .6  // weight of balance from which a chair should be near
)

// usual are the usual cautions of the trade (common practice, no published source), with what of a level
// calls for each and the words by which a movement's own care covers it.
var usual = []struct {
	topic Topic
	calls func(m *Movement, n int) bool
	covers,
	says string
}{
	{Neck, func(m *Movement, n int) bool { return m.Has(n, HeadUp) || m.Has(n, Rolling) }, "neck", "Rest the head between, or a hand behind it. With a long history of neck trouble leave the head down."},
	{LowBack, func(m *Movement, n int) bool { return m.Has(n, LegsOut) }, "low back", "Only as far as the back stays heavy: knees bent, legs higher, one at a time."},
	{LowBack, func(m *Movement, n int) bool { return m.Bends(Backward) && m.At(n).Demand >= archedFrom }, "low back", "Length before height. Lower, or leave it out, where arching hurts."},
	{Wrists, func(m *Movement, n int) bool { return m.Has(n, Hands) }, "wrist", "Fists or forearms, or a break on the fingertips."},
	{Shoulder, func(m *Movement, n int) bool {
		return m.Posture == Plank || m.Posture == Forearms || m.Posture == SidePlank || m.Posture == DownDog
	}, "shoulder", "Elbow or hand under the shoulder. Shoulder trouble, the knees down or leave it out."},
	{Knees, func(m *Movement, n int) bool { return m.Has(n, Kneel) }, "knee", "Pad the knees."},
	{Knees, func(m *Movement, n int) bool { return m.Posture == Standing && m.Regions["thighs"] >= deepThighs }, "knee", "Stay high, knee over the ankle."},
	{Bones, func(m *Movement, n int) bool {
		return m.Bends(Forward) && m.At(n).Demand >= loadedFrom || m.Bends(Turned) && m.At(n).Demand >= loadedFrom || m.Has(n, Rolling)
	}, "bone", "No loaded or end-range bending forward or turning: a long back instead."},
	{Pregnancy, func(m *Movement, n int) bool {
		return m.Has(n, OnFront) || m.Has(n, HeadUp) || m.Has(n, OnBack) && !m.Stretch
	}, "pregnan", "Nothing on the front, no curling that domes, and after about the first third no long spells flat on the back."},
	{AfterBirth, func(m *Movement, n int) bool { return m.Has(n, HeadUp) || m.Has(n, LegsOut) }, "after birth", "No doming: leave it out until cleared."},
	{Pressure, func(m *Movement, n int) bool { return m.Has(n, HeadLow) }, "pressure", "Not long with the head below the heart; keep breathing."},
	{Vertigo, func(m *Movement, n int) bool { return m.Has(n, Rolling) }, "vertigo", "Balance without rolling."},
	{Balance, func(m *Movement, n int) bool { return !m.Posture.OnFloor() && m.Regions["balance"] >= balanceFrom }, "balance", "Within reach of a chair or a wall."},
}

// Cautions lists what calls for care at level n: each topic once, in the order of the table. A topic
// that the movement's own care speaks of is left to it.
func (m *Movement) Cautions(n int) []Caution { return m.cautions(n, strings.ToLower(m.Care)) }

// UsualCautions lists what calls for care at level n, also where the movement's own care speaks of it.
func (m *Movement) UsualCautions(n int) []Caution { return m.cautions(n, "") }

func (m *Movement) cautions(n int, care string) (out []Caution) {
	for _, u := range usual {
		if !u.calls(m, n) || care != "" && strings.Contains(care, u.covers) {
			continue
		}
		if !slices.ContainsFunc(out, func(c Caution) bool { return c.Topic == u.topic }) {
			out = append(out, Caution{u.topic, u.says})
		}
	}
	return out
}

// Watched lists every topic that level n calls for, whoever says the words.
func (m *Movement) Watched(n int) (out []Topic) {
	for _, u := range usual {
		if u.calls(m, n) && !slices.Contains(out, u.topic) {
			out = append(out, u.topic)
		}
	}
	return out
}

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
	watched := m.Watched(n)
	has := func(t Topic) bool { return slices.Contains(watched, t) }
	switch a {
	case StandingOnly:
		return !m.Posture.OnFloor()
	case Expecting:
		return !has(Pregnancy) && !has(AfterBirth) && !has(Vertigo) && !has(Pressure)
	case LowBone:
		return !has(Bones) && !has(Vertigo)
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
