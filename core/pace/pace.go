// Package pace learns a teacher's own pace from the classes they led: how fast they count, how long they talk and
// how long changes take them, against the product's own seconds, and what single movements take them besides. It
// is a pure function over runs. It only proposes; the teacher accepts.
package pace

import (
	"cmp"
	"maps"
	"math"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/run"
	"wavekine/core/timeline"
)

// Part is what a factor is of.
type Part uint8

// The parts of a class whose seconds differ from teacher to teacher. What the clock ends does not.
const (
	Tempo   Part = iota // counted work: repetitions, pulses, breaths
	Talk                // setting up
	Changes             // changing position and side
	parts
)

func (p Part) String() string {
	if p < parts {
		return [...]string{"tempo", "talk", "changes"}[p]
	}
	return "no part"
}

// Factor is what the product's seconds of a part are multiplied by for a teacher.
type Factor struct {
	Ratio  float64 // median of taken over usual, as observed; 1 where nothing was
	Factor float64 // proposed: drawn weakly towards what is known of the whole
	Seen   int     // observations behind it
	Runs   int     // classes behind it
	Enough bool    // something is known, so that it may be proposed
}

// Learnt is what was learnt of one movement.
type Learnt struct {
	Movement string  // its slug, without a version
	Ratio    float64 // median over runs of taken over usual
	Factor   float64 // proposed, on the product's seconds; drawn towards the teacher's tempo by few runs
	Runs     int
	Enough   bool // enough runs to propose anything
	Apart    bool // it differs from the teacher's tempo, so that it is worth a number of its own
}

// Proposal is everything learnt from a teacher's runs.
type Proposal struct {
	Whole      [parts]Factor
	Movements  []Learnt // in order of slug
	Runs       int      // led
	Remembered int      // of which only the length is known
}

// Judgement constants.
const (
	// LeastRuns is the least number of runs from which something is proposed for a single movement.
	LeastRuns = 3
	// leastSeen is the least number of observations from which a factor of the whole is proposed.
	leastSeen = 5
	// How strongly the number known before holds, as so many observations: weakly for factors of the whole, where a
	// class gives a score of them; as so many runs for single movements.
	wholePrior    = 2.0
	movementPrior = 4.0
	// apart is how much a movement must differ from the teacher's tempo to have a number of its own.
	apart = .05
	// Ratios beyond which something else was going on: an interruption, a step that was run through.
	ratioLow  = .3
	ratioHigh = 3.3
	// leastSpan is the shortest planned time that says something.
	leastSpan = 2 * clock.Second
	// ranThrough is a step that was only pressed through on the way to the work: what the ones around it took
	// counts for it too.
	ranThrough = 1500 * clock.Millisecond
)

// seen is one observation: how long something took against the product's own seconds.
type seen struct {
	run   int
	part  Part
	slug  string
	ratio float64
	usual clock.Span
}

func sane(taken, usual float64) (float64, bool) {
	if usual <= 0 || taken <= 0 {
		return 0, false
	}
	r := taken / usual
	return r, r >= ratioLow && r <= ratioHigh
}

// observe gives what one run says. Steps that the clock ended, with nobody at a key, say nothing: they took what
// was planned because it was planned.
func observe(n int, r *run.Run) (out []seen) {
	add := func(p Part, slug string, taken float64, usual clock.Span) {
		if ratio, ok := sane(taken, float64(usual)); ok && usual >= leastSpan {
			out = append(out, seen{n, p, slug, ratio, usual})
		}
	}
	var way []run.Visit // setting up and changes since the last work
	flush := func() {
		defer func() { way = way[:0] }()
		through, taken, usual, byHand := false, clock.Span(0), clock.Span(0), false
		for i := range way {
			v := &way[i]
			taken += v.Taken()
			usual += usualOf(r, v)
			through = through || v.Ended == run.ByHand && v.Taken() < ranThrough
			byHand = byHand || v.Ended == run.ByHand
			if v.Ended == run.ByBack || v.Ended == run.ByStop {
				return
			}
		}
		for i := range way {
			v, s := &way[i], &r.Steps[way[i].Step]
			switch {
			case through && byHand: // one press for all of it: all of it together is known
				add(partOf(s.Kind), "", float64(taken)*float64(s.Usual)/float64(usual), s.Usual)
			case v.Ended == run.ByHand:
				add(partOf(s.Kind), "", float64(v.Taken()), usualOf(r, v))
			}
		}
	}
	for _, v := range r.Visits() {
		s := &r.Steps[v.Step]
		switch {
		case s.Kind == timeline.Rest:
			flush()
		case !s.Kind.Working():
			way = append(way, v)
			continue
		default:
			flush()
		}
		if !s.Kind.Working() || s.Clocked || s.Count() == 0 || v.Ended == run.ByBack || v.Ended == run.ByStop {
			continue
		}
		if tap, ok := v.TapTempo(); ok {
			add(Tempo, s.Movement, float64(tap)*float64(s.Count()), s.Usual)
			continue
		}
		reps, how := r.Reps(&v)
		if v.Ended != run.ByHand || how == run.LeftOut || reps == 0 {
			continue
		}
		add(Tempo, s.Movement, float64(v.Taken())/float64(reps)*float64(s.Count()), s.Usual)
	}
	flush()
	return out
}

// usualOf is what a visit would take at the product's own pace: where landing changed the way to a row, its share.
func usualOf(r *run.Run, v *run.Visit) clock.Span {
	s := &r.Steps[v.Step]
	if v.Landed && s.S > 0 {
		return s.Usual.Times(float64(v.S) / float64(s.S))
	}
	return s.Usual
}

func partOf(k timeline.Kind) Part {
	if k == timeline.Setup {
		return Talk
	}
	return Changes
}

// Learn proposes what a teacher's runs say. The order of the runs does not matter. Cost grows linearly with their
// events.
func Learn(runs []*run.Run) (p Proposal) {
	var all []seen
	var whole []float64
	for i, r := range runs {
		if !r.Finished() {
			continue
		}
		if r.Remembered() {
			taken, _ := r.Taken()
			if ratio, ok := sane(float64(taken), float64(r.Usual())); ok {
				whole = append(whole, ratio)
				p.Remembered++
			}
			continue
		}
		p.Runs++
		all = append(all, observe(i, r)...)
	}
	// What only the length of classes says: the full ratio overcorrects, its square root does not (common practice,
	// no source).
	before := 1.0
	if len(whole) > 0 {
		before = math.Sqrt(median(whole))
	}
	for part := range parts {
		p.Whole[part] = learnWhole(all, part, before, len(whole) > 0)
	}
	p.Movements = learnMovements(all, p.Whole[Tempo].Factor)
	return p
}

func learnWhole(all []seen, part Part, before float64, known bool) Factor {
	var of []seen
	in := map[int]bool{}
	for _, s := range all {
		if s.part == part {
			of = append(of, s)
			in[s.run] = true
		}
	}
	f := Factor{Ratio: 1, Factor: before, Seen: len(of), Runs: len(in), Enough: known}
	if len(of) >= leastSeen {
		f.Ratio, f.Enough = weightedMedian(of), true
		f.Factor = towards(f.Ratio, float64(len(of)), before, wholePrior)
	}
	return f
}

func learnMovements(all []seen, tempo float64) (out []Learnt) {
	per := map[string]map[int][]seen{}
	for _, s := range all {
		if s.part != Tempo || s.slug == "" {
			continue
		}
		if per[s.slug] == nil {
			per[s.slug] = map[int][]seen{}
		}
		per[s.slug][s.run] = append(per[s.slug][s.run], s)
	}
	for _, slug := range slices.Sorted(maps.Keys(per)) {
		var ratios []float64
		for _, k := range slices.Sorted(maps.Keys(per[slug])) {
			ratios = append(ratios, weightedMedian(per[slug][k]))
		}
		l := Learnt{Movement: slug, Runs: len(ratios), Ratio: median(ratios), Factor: tempo, Enough: len(ratios) >= LeastRuns}
		if l.Enough {
			l.Factor = towards(l.Ratio, float64(l.Runs), tempo, movementPrior)
			l.Apart = math.Abs(l.Factor/tempo-1) >= apart
		}
		out = append(out, l)
	}
	return out
}

// towards draws a ratio towards what was known before, each with its weight, on the scale of logarithms.
func towards(ratio, n, before, prior float64) float64 {
	return math.Exp((n*math.Log(ratio) + prior*math.Log(before)) / (n + prior))
}

func median(v []float64) float64 {
	if len(v) == 0 {
		return 1
	}
	v = slices.Sorted(slices.Values(v))
	n := len(v)
	if n%2 == 1 {
		return v[n/2]
	}
	return (v[n/2-1] + v[n/2]) / 2
}

// weightedMedian is the ratio with as many usual seconds below it as above: long steps decide what a class takes.
func weightedMedian(of []seen) float64 {
	of = slices.SortedFunc(slices.Values(of), func(a, b seen) int { return cmp.Compare(a.ratio, b.ratio) })
	var sum, half clock.Span
	for _, s := range of {
		sum += s.usual
	}
	for i, s := range of {
		half += s.usual
		switch {
		case 2*half > sum:
			return s.ratio
		case 2*half == sum && i+1 < len(of):
			return (s.ratio + of[i+1].ratio) / 2
		}
	}
	return 1
}

// TurnedKey stands before the slug of a movement that a teacher breathes the other way round, among their paces; over 0: they do.
const TurnedKey = "~breath "

// Key is where a factor of the whole stands among the paces of single movements, which stand under their slugs.
func (p Part) Key() string { return "~" + p.String() }

// Parts lists the parts of a class that have a factor of their own.
func Parts() []Part { return []Part{Tempo, Talk, Changes} }

// Of finds what was learnt under a key: a part's, or a movement's slug. ok is false where there is too little.
func (p Proposal) Of(key string) (factor float64, runs int, ok bool) {
	for _, part := range Parts() {
		if part.Key() == key {
			f := p.Whole[part]
			return f.Factor, max(f.Runs, p.Remembered), f.Enough
		}
	}
	for _, l := range p.Movements {
		if l.Movement == key {
			return l.Factor, l.Runs, l.Enough
		}
	}
	return 1, 0, false
}

// Keys lists everything that is proposed: single movements only where they differ from the tempo.
func (p Proposal) Keys() (keys []string) {
	for _, part := range Parts() {
		if p.Whole[part].Enough {
			keys = append(keys, part.Key())
		}
	}
	for _, l := range p.Movements {
		if l.Enough && l.Apart {
			keys = append(keys, l.Movement)
		}
	}
	return keys
}

// Personal is a pace as lengths are worked out with it, from factors by key; 0 and what is not there is the
// product's own. runs is how many classes stand behind it.
func Personal(factors map[string]float64, runs int) movement.Personal {
	out := movement.Personal{Tempo: factors[Tempo.Key()], Talk: factors[Talk.Key()], Changes: factors[Changes.Key()], Of: map[string]float64{}, Runs: runs}
	for key, f := range factors {
		slug, turned := strings.CutPrefix(key, TurnedKey)
		switch {
		case turned && f > 0:
			if out.Turned == nil {
				out.Turned = map[string]bool{}
			}
			out.Turned[slug] = true
		case f > 0 && key[:1] != "~":
			out.Of[key] = f
		}
	}
	return out
}
