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
	// The breath of a repetition, or of as many as one breath covers; of breaths that are counted, of one. Nothing where it is breathed as one likes.
	Phases  []Phase `json:"phases,omitempty"`
	Over    int     `json:"over,omitempty"`   // how many repetitions they cover
	Turns   string  `json:"turns,omitempty"`  // the movement whose breath can be turned round
	Second  bool    `json:"second,omitempty"` // it was done before: on the other side, or in the round before
	Check   *Check  `json:"check,omitempty"`
	Limb    string  `json:"limb,omitempty"`
	Facing  string  `json:"facing,omitempty"` // how whoever leads stands to those who follow: front, side, back
	Faces   string  `json:"faces,omitempty"`  // the same, where the row says it
	OnMat   string  `json:"onMat,omitempty"`
	Kit     string  `json:"kit,omitempty"`
	EachWay bool    `json:"eachWay,omitempty"` // half of it goes one way, half the other
	Assist  string  `json:"assist,omitempty"`  // what another's hands do
	Alone   string  `json:"alone,omitempty"`   // and what instead of them
	Dose    string  `json:"dose,omitempty"`    // of the row, as it is said
	Clocked bool    `json:"clocked,omitempty"`
	Round   int     `json:"round,omitempty"`
	Aim     string  `json:"aim,omitempty"`   // of a circuit by the clock: how many are meant within the time
	Part    string  `json:"part,omitempty"`  // the title of its block
	Parts   []Part  `json:"parts,omitempty"` // of a build up: what is done as one, in order
	Says    string  `json:"says,omitempty"`
	Breath  string  `json:"breath,omitempty"`
	Care    string  `json:"care,omitempty"`
	Easier  string  `json:"easier,omitempty"`
	Harder  string  `json:"harder,omitempty"`
	EasyLvl int     `json:"easyLevel,omitempty"` // the level that the easier one is; 0: a word only
	Cues    []Cue   `json:"cues,omitempty"`
	Shown   int     `json:"-"` // the level that is shown
}

// Phase is a part of a breath: in, out, hold or any, its share of the whole, and what is done in it.
type Phase struct {
	Breath movement.Breath `json:"b"`
	Share  float64         `json:"share"`
	Does   string          `json:"does,omitempty"`
}

// Check is what is looked or felt for, the sign that it is lost and what to do then, where it should be felt and where not.
type Check struct {
	Look string `json:"look,omitempty"`
	Feel string `json:"feel,omitempty"`
	Lost string `json:"lost,omitempty"`
	Then string `json:"then,omitempty"`
	Felt string `json:"felt,omitempty"`
	Not  string `json:"not,omitempty"`
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
	Lie  string `json:"lie,omitempty"` // the side lain on, where another names the side
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
	type way struct {
		side       timeline.Side
		round, set int
	}
	first := map[plan.Path]way{}
	for i := range tl.Steps {
		s := &tl.Steps[i]
		out[i] = stepOf(p, s)
		if s.Kind.Working() {
			this := way{s.Side, s.Round, s.Set}
			if _, met := first[s.Row]; !met {
				first[s.Row] = this
			}
			out[i].Second = first[s.Row] != this
		}
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
	v := m.As(s.Level)
	l.Name, l.Breath, l.Care, l.Of, l.Shown = m.Name, st.Breathing(m), m.Care, len(m.Levels), s.Level
	l.Kit = strings.Join(m.Things(s.Level), ", ")
	l.Limb = m.Limb
	if row != nil {
		l.Faces, l.OnMat = row.Faces.String(), row.OnMat.String()
	}
	l.breathes(s, st, m)
	if s.Kind.Working() && !m.Inline {
		if c := (Check{v.Watch, v.Feel, v.Fault, v.Then, v.Felt, v.NotFelt}); c != (Check{}) {
			l.Check = &c
		}
		l.Assist, l.Alone = m.Assist, m.Alone
	}
	if row != nil && !row.IsRest() {
		d := row.DoseOf(m)
		l.Dose = d.String()
		l.EachWay = s.Kind.Working() && s.Reps > 1 && s.Reps%2 == 0 && s.Part > 0 && s.Part <= len(d.Parts) && d.Parts[s.Part-1].EachWay
	}
	if s.Kind.Working() || s.Kind == timeline.Switch {
		f := timeline.Front
		if row != nil {
			f = timeline.FacingOf(row, s.Posture)
		}
		l.Mirrored, l.Plain, l.Facing = told(s, m, f, true), told(s, m, f, false), facings[f]
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

// breathes puts in the phases of the breath: of a counted breath in and out as long as it counts, of repetitions those of the movement. A school that breathes
// freely, or a movement that sets no pattern, has none.
func (l *Step) breathes(s *timeline.Step, st plan.Style, m *movement.Movement) {
	if !s.Kind.Working() || st.Breath == plan.BreathFree {
		return
	}
	if whole := s.BreathIn + s.BreathOut; whole > 0 && s.Breaths > 0 && s.Reps == 0 {
		l.Over = 1
		l.Phases = []Phase{{movement.BreatheIn, float64(s.BreathIn) / float64(whole), ""}, {movement.BreatheOut, float64(s.BreathOut) / float64(whole), ""}}
		return
	}
	if s.Reps == 0 || s.Kind == timeline.Pulse || len(s.Parts) > 0 {
		return
	}
	ps, over := m.PhasesOf(s.Level)
	if len(ps) < 2 {
		return
	}
	if per := s.S / clock.Span(s.Reps); per > 0 { // what is done faster than one can breathe shares a breath
		for over = max(1, over); per*clock.Span(over) < leastBreath; over++ {
		}
	}
	l.Over = over
	if !m.Inline {
		l.Turns = m.Base
		if l.Turns == "" {
			l.Turns = m.Slug
		}
	}
	for _, p := range ps {
		l.Phases = append(l.Phases, Phase{p.Breath, p.Share, p.Does})
	}
}

var facings = [...]string{timeline.Front: "front", timeline.Away: "back", timeline.Across: "side"}

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

func told(s *timeline.Step, m *movement.Movement, f timeline.Facing, mirrored bool) (t Told) {
	limb := m.Limb
	if limb == "" {
		limb = "side"
	}
	t.Say, t.Rest = s.Side.Told(f, mirrored).Words(limb)
	if s.Side == timeline.Right || s.Side == timeline.Left {
		if lies := m.LiesOn(s.Level, s.Side == timeline.Right); lies != "" {
			t.Lie = "lie on your " + lies
		}
	}
	if side, of, ok := strings.Cut(t.Say, " "); ok && mirrored && f == timeline.Front && t.Rest != "" { // said loud, as the limb that moves is the other
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
