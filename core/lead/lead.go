// Package lead is a class as it is led: step by step what is said and done, on which side, how the breath goes, when
// something sounds. A screen that leads shows it and works nothing of it out.
package lead

import (
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

// Step is one step of a class as it is led. Times are whole milliseconds, as browsers count.
type Step struct {
	At       int64  `json:"at"`
	S        int64  `json:"s"`
	Kind     string `json:"kind"`
	Row      string `json:"row"`
	Name     string `json:"name"`
	Side     string `json:"side"`
	Mirrored Told   `json:"mirrored"` // facing, leading with the other limb
	Plain    Told   `json:"plain"`    // facing, leading with the same
	Level    int    `json:"level"`
	Of       int    `json:"of"`
	Reps     int    `json:"reps,omitempty"`
	Breaths  int    `json:"breaths,omitempty"`
	In       int64  `json:"in"`  // of one breath
	Out      int64  `json:"out"` // of one breath
	Clocked  bool   `json:"clocked,omitempty"`
	Round    int    `json:"round,omitempty"`
	Aim      string `json:"aim,omitempty"`   // of a circuit by the clock: how many are meant within the time
	Part     string `json:"part,omitempty"`  // the title of its block
	Parts    []Part `json:"parts,omitempty"` // of a build up: what is done as one, in order
	Says     string `json:"says,omitempty"`
	Breath   string `json:"breath,omitempty"`
	Care     string `json:"care,omitempty"`
	Easier   string `json:"easier,omitempty"`
	Harder   string `json:"harder,omitempty"`
	EasyLvl  int    `json:"easyLevel,omitempty"` // the level that the easier one is; 0: a word only
	Cues     []Cue  `json:"cues,omitempty"`
	Shown    int    `json:"-"` // the level that is shown
}

// Part is one of the movements that are done as one, and its share of each repetition. Breath tells whether it has a breath of its own.
type Part struct {
	Name   string `json:"name"`
	S      int64  `json:"s"`
	Breath bool   `json:"breath,omitempty"`
}

// Told is a side in words: what is said aloud, and what whoever leads does and the others see.
type Told struct {
	Say  string `json:"say,omitempty"`
	Rest string `json:"rest,omitempty"`
}

// Cue is a mark within a step: at share of its length, less before milliseconds, less reps repetitions.
type Cue struct {
	Cue    string  `json:"cue"`
	Say    string  `json:"say,omitempty"` // the words, where they are said at their time
	Share  float64 `json:"share"`
	Before int64   `json:"before"`
	Reps   int     `json:"reps"`
}

// Lengths of one breath shown where the plan counts none; judgement.
const (
	calmBreath  = 8 * clock.Second
	leastBreath = 3 * clock.Second
)

// Breath is the length of breathing in and out in a step: as its dose counts it; one breath a repetition, or as many
// repetitions as make a breath; else a calm one.
func Breath(s *timeline.Step) (in, out clock.Span) {
	switch {
	case s.BreathIn+s.BreathOut > 0:
		return s.BreathIn, s.BreathOut
	case s.Reps > 0 && s.S > 0:
		per := s.S / clock.Span(s.Reps)
		one := per
		for one < leastBreath {
			one += max(per, 1)
		}
		return one / 2, one - one/2
	}
	return calmBreath / 2, calmBreath - calmBreath/2
}

// Steps lists the steps of a class as it is led. The session is the one the timeline was made of.
func Steps(p *plan.Session, tl *timeline.Timeline) []Step {
	out := make([]Step, len(tl.Steps))
	for i := range tl.Steps {
		out[i] = stepOf(p, &tl.Steps[i])
	}
	return out
}

func stepOf(p *plan.Session, s *timeline.Step) Step {
	in, out := Breath(s)
	l := Step{
		At: int64(s.At), S: int64(s.S), Kind: s.Kind.String(), Row: s.Row.String(), Name: "Rest", Side: s.Side.String(), Level: s.Level,
		Reps: s.Reps, Breaths: s.Breaths, In: int64(in), Out: int64(out), Clocked: s.Clocked, Round: s.Round, Aim: s.Aim, Says: s.Says,
	}
	for _, q := range s.Cues {
		l.Cues = append(l.Cues, Cue{q.Cue, q.Say, q.Share, int64(q.Before), q.Reps})
	}
	if b := p.Block(s.Row); b != nil {
		l.Part = b.Title
	}
	for _, piece := range s.Parts {
		l.Parts = append(l.Parts, Part{piece.Move.Name, int64(piece.S), s.BreathIn > 0})
	}
	m, row := s.Move, p.Row(s.Row)
	if m == nil {
		if row != nil && row.IsTurn() {
			l.Name = row.Title(nil)
		}
		return l
	}
	st := p.StyleAt(s.Row)
	l.Name, l.Breath, l.Care, l.Of, l.Shown = m.Name, st.Breathing(m), m.Care, len(m.Levels), s.Level
	if s.Kind.Working() || s.Kind == timeline.Switch {
		l.Mirrored, l.Plain = told(s, m, true), told(s, m, false)
	}
	if row != nil && (s.Kind.Working() || s.Kind == timeline.Setup || s.Kind == timeline.Switch) {
		l.told(&row.Told, row.Note)
		switch {
		case s.Side == timeline.Right && row.Right != nil:
			l.told(&row.Right.Told, row.Right.Note)
		case s.Side == timeline.Left && row.Left != nil:
			l.told(&row.Left.Told, row.Left.Note)
		}
	}
	if w := st.PelvisWords(m, s.Level); w != "" && (s.Kind.Working() || s.Kind == timeline.Setup) {
		l.Says = strings.TrimSpace(l.Says + " " + w)
	}
	if row != nil && (!m.Inline || len(m.Levels) > 1) {
		l.options(row, m)
	}
	if row != nil {
		choices := row.Choices
		for side, o := range map[timeline.Side]*plan.Override{timeline.Right: row.Right, timeline.Left: row.Left} {
			if o != nil && s.Side == side {
				choices = append(slices.Clip(choices), o.Choices...)
			}
		}
		if len(choices) > 0 {
			l.Easier = strings.Join(append(slices.DeleteFunc([]string{l.Easier}, func(w string) bool { return w == "" }), choices...), "; or ")
		}
	}
	return l
}

// told puts in what is said of the row, or of the side that is on: while it is set up what is said, while it is done the cue.
func (l *Step) told(t *plan.Told, note string) {
	says := []string{l.Says}
	switch {
	case l.Kind == timeline.Setup.String() || l.Kind == timeline.Switch.String():
		says = append(says, t.Say)
	case t.Say != "":
		says = []string{t.Say, t.Cue}
	default:
		says = append(says, t.Cue)
	}
	if l.Kind == timeline.Setup.String() {
		if note != "" {
			says = append(says, "("+note+")")
		}
		if t.Caution != "" {
			says = append(says, "Care: "+t.Caution)
		}
	}
	l.Says = strings.Join(slices.DeleteFunc(says, func(w string) bool { return w == "" }), " ")
	if t.Caution != "" {
		l.Care = strings.TrimSpace(l.Care + " " + t.Caution)
	}
}

func told(s *timeline.Step, m *movement.Movement, mirrored bool) (t Told) {
	limb := m.Limb
	if limb == "" {
		limb = "side"
	}
	t.Say, t.Rest = s.Side.Told(timeline.Front, mirrored).Words(limb)
	if side, of, ok := strings.Cut(t.Say, " "); ok && mirrored && t.Rest != "" { // said loud, as the limb that moves is the other
		t.Say = strings.ToUpper(side) + " " + of
	}
	return t
}

// options puts in what is offered as easier and harder, and the level that is shown.
func (l *Step) options(row *plan.Row, m *movement.Movement) {
	if row.Demo > 0 && row.Demo <= len(m.Levels) {
		l.Shown = row.Demo
	}
	changes := func(levels []int) string {
		var out []string
		for _, n := range levels {
			out = append(out, m.At(n).Changes)
		}
		return strings.Join(out, "; ")
	}
	easier := review.EasierOffered(row, m)
	l.Easier, l.Harder = changes(easier), changes(review.HarderOffered(row, m))
	if len(easier) > 0 {
		l.EasyLvl = easier[len(easier)-1]
	} else {
		l.Easier = m.Ease
	}
}
