package lead

import (
	"fmt"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// What is said to somebody who does a class alone: lying on a mat nobody can look at a screen. It is worked out here, from the timeline; a page only gives it a voice.

// spoken are the words, in one place; the numbers in them are said by whatever voice there is.
var spoken = struct {
	next, first, fetch, begin, other, rest, half, two, ten, last, end, both, reps, pulses, breaths, seconds, minutes, hold, alternating, setOf, round string
}{
	"Next: %s.", "First: %s.", "Have ready: %s.", "Begin.", "Other side.", "Rest.", "Halfway.", "Two more.", "Ten seconds.", "Last one.", "That is all of it. Rest as long as you like.",
	"", "%d times", "%d pulses", "%d breaths", "%d seconds", "%d minutes", "hold for %s", "%d in all, from side to side", "Set %d.", "Round %d.",
}

// aSecond is about how many letters a voice says in a second at its usual speed; judgement.
const aSecond = 14

// room for a word that comes within a step, and from how long a step on it comes; judgement.
const (
	tenFrom  = 22 * clock.Second
	halfFrom = 36 * clock.Second
	twoFrom  = 5 // repetitions

	praiseFrom = 6 // repetitions, each as long at least as
	praiseEach = 2 * clock.Second
)

// Aloud is what is said to whoever does a class alone, for each of its steps: at which share of it, so much before or so many repetitions before that. What does not fit into the time there is
// before work begins is left out: first how it is set up, never which movement, which side, how many and what to fetch.
// Encouragement comes with the last three repetitions, where a house has words of its own for it.
func Aloud(p *plan.Session, tl *timeline.Timeline, praise ...string) [][]Cue {
	out := make([][]Cue, len(tl.Steps))
	held := ""              // the kit in hand
	var row, told plan.Path // the row that was announced, and the one that was told how much
	for i := range tl.Steps {
		s := &tl.Steps[i]
		say := func(words string) {
			if words = strings.TrimSpace(words); words != "" {
				out[i] = append(out[i], Cue{Cue: "aloud", Say: words})
			}
		}
		if s.Move == nil { // a rest, or a turn
			words := spoken.rest
			if r := p.Row(s.Row); r != nil && r.Rest != nil && r.Rest.Say != "" {
				words = sentence(r.Rest.Say)
			} else if s.Says != "" && s.Kind != timeline.Rest {
				words = sentence(s.Says)
			}
			say(words)
			continue
		}
		if s.Kind == timeline.Rest {
			say(spoken.rest)
			continue
		}
		var must, may []string
		if s.Row != row {
			row = s.Row
			form := spoken.next
			if i == 0 {
				form = spoken.first
			}
			must = append(must, fmt.Sprintf(form, s.Move.Name))
			if kit := strings.Join(s.Move.Things(s.Level), ", "); kit != held {
				if held = kit; kit != "" {
					must = append(must, fmt.Sprintf(spoken.fetch, kit))
				}
			}
		}
		switch {
		case s.Kind == timeline.Position:
			may = append(may, sentence(s.Says))
		case s.Kind == timeline.Switch:
			must = append(must, spoken.other)
		}
		if s.Kind == timeline.Setup || s.Kind.Working() && told != s.Row {
			if w := workAfter(tl, i); w != nil && w.Row == s.Row {
				told = s.Row
				must = append(must, sideWords(w), muchWords(w))
				if r := p.Row(s.Row); r != nil {
					may = append(may, sentence(r.Say), sentence(r.Cue))
				}
				may = append(may, sentence(s.Move.As(s.Level).Setup))
				if b := s.Move.As(s.Level).Breath; b != "" && p.StyleAt(s.Row).Breath != plan.BreathFree {
					may = append(may, sentence(b))
				}
			}
		} else if s.Kind.Working() && i > 0 && tl.Steps[i-1].Kind.Working() && tl.Steps[i-1].Row == s.Row { // the next part or set of the same
			if s.Side != tl.Steps[i-1].Side {
				must = append(must, sideWords(s))
			}
			must = append(must, muchWords(s))
		}
		if s.Kind.Working() && (i == 0 || !tl.Steps[i-1].Kind.Working()) && s.Round > 1 && len(must) > 0 {
			must = append([]string{fmt.Sprintf(spoken.round, s.Round)}, must...)
		}
		words := joined(must)
		if s.Kind.Working() {
			if len(must) == 0 {
				words = spoken.begin
			}
		} else {
			left := int(s.S.Seconds()*aSecond) - len(words)
			for _, w := range may {
				if w != "" && len(w) <= left {
					words, left = strings.TrimSpace(words+" "+w), left-len(w)-1
				}
			}
		}
		say(words)
		if s.Kind.Working() {
			out[i] = append(out[i], within(s)...)
			if n := len(praise); n > 0 && s.Reps >= praiseFrom && s.S/clock.Span(s.Reps) >= praiseEach {
				out[i] = append(out[i], Cue{Cue: "aloud", Say: sentence(praise[i%n]), Share: 1, Reps: 3})
			}
		}
	}
	if n := len(out); n > 0 {
		out[n-1] = append(out[n-1], Cue{Cue: "aloud", Say: spoken.end, Share: 1})
	}
	return out
}

// within are the words that come while something is done.
func within(s *timeline.Step) (out []Cue) {
	timed := s.Clocked || s.Kind == timeline.Hold && s.Breaths == 0
	switch {
	case timed && s.S >= tenFrom:
		if s.S >= halfFrom {
			out = append(out, Cue{Cue: "aloud", Say: spoken.half, Share: .5})
		}
		out = append(out, Cue{Cue: "aloud", Say: spoken.ten, Share: 1, Before: int64(10 * clock.Second)})
	case !timed && s.Reps+s.Breaths >= twoFrom && s.Reps >= twoFrom:
		out = append(out, Cue{Cue: "aloud", Say: spoken.two, Share: 1, Reps: 2})
	case !timed && s.Breaths >= twoFrom:
		out = append(out, Cue{Cue: "aloud", Say: spoken.last, Share: 1, Before: int64(s.S) / int64(s.Breaths)})
	}
	return out
}

// workAfter is the next working step from i on.
func workAfter(tl *timeline.Timeline, i int) *timeline.Step {
	for ; i < len(tl.Steps); i++ {
		if tl.Steps[i].Kind.Working() {
			return &tl.Steps[i]
		}
	}
	return nil
}

func sideWords(s *timeline.Step) string {
	limb := s.Move.Limb
	if limb == "" {
		limb = "side"
	}
	switch s.Side {
	case timeline.Right, timeline.Left:
		said, _ := s.Side.Told(timeline.Front, false).Words(limb)
		return sentence(said)
	}
	return ""
}

// muchWords is how much is done of a step in words.
func muchWords(s *timeline.Step) string {
	switch {
	case s.Kind == timeline.Pulse && s.Reps > 0:
		return sentence(fmt.Sprintf(spoken.pulses, s.Reps))
	case s.Reps > 0 && s.Side == timeline.Alternating:
		return sentence(fmt.Sprintf(spoken.alternating, s.Reps))
	case s.Reps > 0:
		return sentence(fmt.Sprintf(spoken.reps, s.Reps))
	case s.Breaths > 0:
		return sentence(fmt.Sprintf(spoken.breaths, s.Breaths))
	}
	long := fmt.Sprintf(spoken.seconds, int(s.S.Seconds()+.5))
	if m := s.S / clock.Minute; m >= 2 && s.S%clock.Minute == 0 {
		long = fmt.Sprintf(spoken.minutes, m)
	}
	if s.Kind == timeline.Hold {
		long = fmt.Sprintf(spoken.hold, long)
	}
	return sentence(long)
}

// sentence is words with a capital and a full stop.
func sentence(w string) string {
	w = strings.TrimSpace(w)
	if w == "" {
		return ""
	}
	w = strings.ToUpper(w[:1]) + w[1:]
	if !strings.ContainsAny(w[len(w)-1:], ".!?") {
		w += "."
	}
	return w
}

func joined(ws []string) string {
	var out []string
	for _, w := range ws {
		if w != "" {
			out = append(out, w)
		}
	}
	return strings.Join(out, " ")
}
