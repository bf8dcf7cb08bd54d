package movement

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
)

// Breath is what a phase of a repetition breathes.
type Breath string

// The breaths of a phase.
const (
	BreatheIn  Breath = "in"
	BreatheOut Breath = "out"
	BreathHeld Breath = "hold"
	AnyBreath  Breath = "any" // whatever comes; never held
)

var breaths = []Breath{BreatheIn, BreatheOut, BreathHeld, AnyBreath}

// BreathPhase is a part of a repetition with what is breathed in it.
type BreathPhase struct {
	Breath Breath  `yaml:"breath" json:"breath"`
	Does   string  `yaml:"does" json:"does,omitempty"` // "to roll down", "at the top"
	Share  float64 `yaml:"share" json:"share"`         // of the repetition, or of as many as one breath covers; they add up to 1
}

// In passing and long: how a phase weighs beside the others where no share is said; judgement.
const (
	passingWeight = .5
	longerWeight  = 1.5
)

// passing begin what is a place rather than a movement.
var passing = []string{"at the", "there", "through", "to prepare", "to begin", "to nod", "to balance", "to hover", "tall", "in the middle", "between", "to sit tall"}

// BreathPhases reads the phases of a repetition out of the words a breath is taught with: "out to roll up, in at the top, out to
// roll down" has three, of which the one at the top passes sooner. Words that set no pattern are one phase of any breath.
func BreathPhases(words string) []BreathPhase {
	var out []BreathPhase
	weights, sum := []float64{}, 0.
	for _, clause := range strings.Split(words, ",") {
		clause = strings.TrimPrefix(strings.TrimSpace(clause), "and ")
		f := strings.Fields(clause)
		p := BreathPhase{}
		w := 1.
		switch {
		case len(f) == 0:
			continue
		case f[0] == "in" || f[0] == "out":
			p.Breath, p.Does = Breath(f[0]), strings.Join(f[1:], " ")
			if p.Does == "and out by the nose" { // one path for both, not a pattern
				continue
			}
		case f[0] == "longer" && len(f) > 1 && f[1] == "out":
			p.Breath, p.Does, w = BreatheOut, strings.Join(f[2:], " "), longerWeight
		case f[0] == "hold" && len(f) > 1 && f[1] == "nothing":
			p.Breath, p.Does = AnyBreath, strings.Join(f[2:], " ")
		case f[0] == "hold":
			p.Breath, p.Does = BreathHeld, strings.Join(f[1:], " ")
		case len(f) >= 2 && (f[len(f)-1] == "in" || f[len(f)-1] == "out") && counted(f[0]):
			p.Breath, p.Does = Breath(f[len(f)-1]), strings.Join(f[:len(f)-1], " ")
		default:
			continue
		}
		if slices.ContainsFunc(passing, func(s string) bool { return strings.HasPrefix(p.Does, s) }) {
			w = passingWeight
		}
		out, weights, sum = append(out, p), append(weights, w), sum+w
	}
	if len(out) == 1 && out[0].Breath == BreatheOut && strings.Contains(words, "longer out") { // "slow, and longer out": the way in goes without saying
		out, weights, sum = append([]BreathPhase{{Breath: BreatheIn}}, out[0]), []float64{1, longerWeight}, 1+longerWeight
	}
	if len(out) < 2 {
		return []BreathPhase{{Breath: AnyBreath, Does: strings.TrimSpace(words), Share: 1}}
	}
	for i := range out {
		out[i].Share = weights[i] / sum
	}
	return out
}

var numbers = []string{"two", "three", "four", "five", "six", "eight", "ten"}

func counted(word string) bool { return slices.Contains(numbers, word) }

// PhasesOf are the phases of level n and how many repetitions one round of them covers, 1 for most.
func (m *Movement) PhasesOf(n int) (phases []BreathPhase, over int) {
	v := m.As(n)
	over = max(1, m.BreathOver)
	if len(v.Phases) > 0 {
		return v.Phases, over
	}
	return BreathPhases(v.Breath), over
}

// BreathAt is the phase of level n at a moment: done are the repetitions done since the row began, 2.5 in the middle of the third.
func (m *Movement) BreathAt(n int, done float64) BreathPhase {
	phases, over := m.PhasesOf(n)
	at := done / float64(over)
	at -= float64(int(at))
	for _, p := range phases {
		if at -= p.Share; at < 0 {
			return p
		}
	}
	return phases[len(phases)-1]
}

// TurnBreath turns what is taught of a breath round: what was in is out. Words of a longer breath out, of any breath and of one that is held stay, there is nothing
// to turn in them.
func TurnBreath(words string) string {
	ps := BreathPhases(words)
	if !turns(ps) || strings.Contains(words, "longer") {
		return words
	}
	clauses := strings.Split(words, ",")
	for i, clause := range clauses {
		f := strings.Fields(clause)
		for k, w := range f {
			first := k == 0 || k == 1 && f[0] == "and" || k == len(f)-1 && (counted(f[0]) || f[0] == "and" && len(f) > 1 && counted(f[1]))
			if to, ok := otherBreath[w]; ok && first {
				f[k] = to
				break
			}
		}
		if i > 0 {
			clauses[i] = " " + strings.Join(f, " ")
		} else {
			clauses[i] = strings.Join(f, " ")
		}
	}
	return strings.Join(clauses, ",")
}

var otherBreath = map[string]string{"in": "out", "out": "in"}

// turns tells whether phases have an in and an out that could change places.
func turns(ps []BreathPhase) bool {
	in := slices.ContainsFunc(ps, func(p BreathPhase) bool { return p.Breath == BreatheIn })
	return in && slices.ContainsFunc(ps, func(p BreathPhase) bool { return p.Breath == BreatheOut })
}

// turnPhases turns phases round as TurnBreath does words.
func turnPhases(ps []BreathPhase) []BreathPhase {
	if !turns(ps) {
		return ps
	}
	out := slices.Clone(ps)
	for i := range out {
		if to, ok := otherBreath[string(out[i].Breath)]; ok {
			out[i].Breath = Breath(to)
		}
	}
	return out
}

// Turned is the movement with its breath turned round, on every level.
func (m *Movement) Turned() *Movement {
	v := *m
	v.Breath, v.Phases, v.Levels = TurnBreath(m.Breath), turnPhases(m.Phases), slices.Clone(m.Levels)
	for i := range v.Levels {
		l := &v.Levels[i]
		l.Breath, l.Phases = TurnBreath(l.Breath), turnPhases(l.Phases)
	}
	v.view()
	return &v
}

// SayPhases writes phases in a line: "out 40 % to roll up, in 20 % at the top, out 40 % to roll down".
func SayPhases(ps []BreathPhase) string {
	out := make([]string, len(ps))
	for i, p := range ps {
		out[i] = strings.TrimSpace(string(p.Breath) + " " + strconv.FormatFloat(math.Round(p.Share*1e4)/100, 'f', -1, 64) + " % " + p.Does)
	}
	return strings.Join(out, ", ")
}

// ReadPhases reads what SayPhases writes; where no share is said at all they are alike. An error names the part that was not
// understood.
func ReadPhases(text string) (out []BreathPhase, err error) {
	if strings.TrimSpace(text) == "" {
		return nil, nil
	}
	said := 0
	for _, clause := range strings.Split(text, ",") {
		f := strings.Fields(strings.Replace(clause, "%", " % ", 1))
		if len(f) == 0 || !slices.Contains(breaths, Breath(f[0])) {
			return nil, fmt.Errorf("%q: expected in, out, hold or any, how much of it, and what is done: out 40 %% to roll up, in 60 %%", strings.TrimSpace(clause))
		}
		p := BreathPhase{Breath: Breath(f[0])}
		f = f[1:]
		if len(f) > 0 {
			if v, err := strconv.ParseFloat(f[0], 64); err == nil {
				p.Share, f = v/100, f[1:]
				said++
				if len(f) > 0 && f[0] == "%" {
					f = f[1:]
				}
			}
		}
		p.Does = strings.Join(f, " ")
		out = append(out, p)
	}
	if said == 0 {
		for i := range out {
			out[i].Share = 1 / float64(len(out))
		}
	}
	return out, nil
}

// checkPhases tells whether phases make up one repetition and say what the words say.
func checkPhases(ps []BreathPhase, words string) error {
	if len(ps) == 0 {
		return nil
	}
	sum := 0.
	for _, p := range ps {
		if !slices.Contains(breaths, p.Breath) {
			return fmt.Errorf("breath %q: expected one of in, out, hold or any", p.Breath)
		}
		if !(p.Share > 0 && p.Share <= 1) { // nor no number
			return fmt.Errorf("share %v: expected more than 0 and at most 1", p.Share)
		}
		sum += p.Share
	}
	if sum < .999 || sum > 1.001 {
		return fmt.Errorf("the shares add up to %.3g, not to 1", sum)
	}
	said := BreathPhases(words)
	if len(said) == 1 { // the words set no pattern
		return nil
	}
	same := slices.EqualFunc(said, ps, func(a, b BreathPhase) bool { return a.Breath == b.Breath })
	if !same {
		return fmt.Errorf("the phases go %s, and the words %s: %q", breathsOf(ps), breathsOf(said), words)
	}
	return nil
}

func breathsOf(ps []BreathPhase) string {
	var out []string
	for _, p := range ps {
		out = append(out, string(p.Breath))
	}
	return strings.Join(out, ", ")
}
