package lead

import (
	"wavekine/core/clock"
	"wavekine/core/solve"
)

// Landings is every landing of a class, as the screen that leads looks them up without the network: solve.LandTable, written short. Times are whole
// milliseconds.
type Landings struct {
	Limit   int64      `json:"limit"` // so far off the end may be before landing is offered
	Knobs   []landKnob `json:"knobs"`
	Choices [][3]int   `json:"choices"` // knob, option, the choice behind it or -1
	Low     []int      `json:"low"`     // seconds, by how many knobs have begun
	Best    [][]int    `json:"best"`    // from there on, a second each, in runs: how many seconds, which choice or -1
	// The last quiet step, from its least to its most: it can still end on the minute while it is on.
	Settle []int64 `json:"settle,omitempty"` // step, as planned, least, most
}

type landKnob struct {
	At      int          `json:"at"` // the step with which it begins
	Again   string       `json:"again"`
	Options []landOption `json:"options"`
}

type landOption struct {
	By    int64          `json:"by"`
	Says  string         `json:"says"`
	Steps [][]int64      `json:"steps"` // step, milliseconds, repetitions, breaths; a step alone is left out
	Words map[int]string `json:"words,omitempty"`
}

// LandingsOf writes a table short.
func LandingsOf(t *solve.LandTable, limit clock.Span) *Landings {
	out := &Landings{Limit: int64(limit), Knobs: make([]landKnob, len(t.Knobs)), Choices: make([][3]int, len(t.Choices)), Low: t.Low, Best: make([][]int, len(t.Best))}
	for i := range t.Knobs {
		k := &t.Knobs[i]
		out.Knobs[i] = landKnob{At: k.First, Again: k.Again, Options: make([]landOption, len(k.Options))}
		for j := range k.Options {
			o := &k.Options[j]
			lo := landOption{By: int64(o.By), Says: o.Says}
			for _, s := range o.Steps {
				switch {
				case s.Out:
					lo.Steps = append(lo.Steps, []int64{int64(s.Step)})
				default:
					lo.Steps = append(lo.Steps, []int64{int64(s.Step), int64(s.S), int64(s.Reps), int64(s.Breaths)})
				}
				if s.Says != "" {
					if lo.Words == nil {
						lo.Words = map[int]string{}
					}
					lo.Words[s.Step] = s.Says
				}
			}
			out.Knobs[i].Options[j] = lo
		}
	}
	if x := t.Settle; x != nil {
		out.Settle = []int64{int64(x.Step), int64(x.S), int64(x.Least), int64(x.Most)}
	}
	for i, c := range t.Choices {
		out.Choices[i] = [3]int{c.Knob, c.Option, c.Next}
	}
	for i, best := range t.Best {
		var runs []int
		for n := 0; n < len(best); {
			m := n
			for m < len(best) && best[m] == best[n] {
				m++
			}
			runs = append(runs, m-n, int(best[n]))
			n = m
		}
		out.Best[i] = runs
	}
	return out
}
