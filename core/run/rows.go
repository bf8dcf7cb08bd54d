package run

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// When a class is off its promised length; judgement.
const (
	onTime  = 30 * clock.Second // within this it was on time
	farOff  = 10                // one part in so many of the promise is worth a decision
	rowNote = 5 * clock.Second  // from which a row is said to have been longer or shorter
)

// Over says how far the length taken is from the one promised: "1:10 over", "on time"; far tells whether that is worth
// a decision.
func Over(promised, taken clock.Span) (says string, far bool) {
	off := taken - promised
	switch {
	case off > onTime:
		return off.String() + " over", off > promised/farOff
	case off < -onTime:
		return (-off).String() + " under", -off > promised/farOff
	}
	return "on time", false
}

// SideLed is one side of a row as it was led.
type SideLed struct {
	There         bool // the row has it
	Met           bool // the class came to it
	Taken         clock.Span
	Reps, Planned int
	How           How
	Landed        bool // less, or more, than planned in order to land
}

// String says what was done on a side: what was counted, what is only known to have been planned, or the time; nothing
// where the row has no such side.
func (s SideLed) String() string {
	switch {
	case !s.There:
		return ""
	case !s.Met && s.Landed:
		return "left out to land"
	case !s.Met:
		return "–"
	case s.Planned == 0:
		return s.Taken.String()
	case s.How == LeftOut:
		return "left out"
	case s.How == AsPlanned && s.Landed && s.Reps != s.Planned:
		return fmt.Sprintf("%d of %d to land", s.Reps, s.Planned)
	case s.How == AsPlanned:
		return fmt.Sprintf("%d as planned", s.Reps)
	case s.Reps != s.Planned:
		return fmt.Sprintf("%d of %d counted", s.Reps, s.Planned)
	}
	return fmt.Sprintf("%d counted", s.Reps)
}

func (s *SideLed) add(l *Line) {
	if !s.There {
		s.How = LeftOut
	}
	s.There = true
	s.Met = s.Met || l.Visited
	s.Landed = s.Landed || l.Landed
	s.Taken += l.Taken
	s.Reps += l.Reps
	s.Planned += l.PlannedReps
	if l.PlannedReps > 0 && (l.How == Counted || l.How == AsPlanned && s.How == LeftOut) {
		s.How = l.How
	}
}

// RowLed is one row of a run: both its sides, or the whole where it has none.
type RowLed struct {
	Row               plan.Path
	Name              string
	Planned, Taken    clock.Span
	Right, Left, Both SideLed
	Shown             int // the level shown last, where another was than planned
	Note              string
	Landed            bool // changed to land
}

// Unequal tells whether one side got more repetitions than the other, or was there alone.
func (r *RowLed) Unequal() bool {
	return r.Right.There != r.Left.There || r.Right.Reps != r.Left.Reps
}

// Off says how much longer or shorter than planned the row was: "+0:12"; nothing where it is not worth a word.
func (r *RowLed) Off() string {
	switch off := r.Taken - r.Planned; {
	case off >= rowNote:
		return "+" + off.String()
	case off <= -rowNote:
		return off.String()
	}
	return ""
}

// RowsOf puts the lines of a run together by row, in the order planned.
func RowsOf(lines []Line) (out []RowLed) {
	at := map[plan.Path]int{}
	for i := range lines {
		l := &lines[i]
		n, ok := at[l.Row]
		if !ok {
			n = len(out)
			at[l.Row] = n
			out = append(out, RowLed{Row: l.Row, Name: l.Name})
		}
		r := &out[n]
		r.Planned += l.Planned
		r.Taken += l.Taken
		r.Landed = r.Landed || l.Landed
		if l.Note != "" {
			r.Note = l.Note
		}
		if l.Shown > 0 {
			r.Shown = l.Shown
		}
		if !l.Kind.Working() {
			continue
		}
		switch l.Side {
		case timeline.Right:
			r.Right.add(l)
		case timeline.Left:
			r.Left.add(l)
		default:
			r.Both.add(l)
		}
	}
	return out
}

// Spent is planned beside taken for one kind of time.
type Spent struct {
	Kind           timeline.Kind // Work stands for pulses too
	Planned, Taken clock.Span
}

// SpentOf adds up the lines of a run by kind: work, holds, setting up, changes of position and of side, rest.
func SpentOf(lines []Line) []Spent {
	out := []Spent{{Kind: timeline.Work}, {Kind: timeline.Hold}, {Kind: timeline.Setup}, {Kind: timeline.Position}, {Kind: timeline.Switch}, {Kind: timeline.Rest}}
	for i := range lines {
		kind := lines[i].Kind
		if kind == timeline.Pulse {
			kind = timeline.Work
		}
		for k := range out {
			if out[k].Kind == kind {
				out[k].Planned += lines[i].Planned
				out[k].Taken += lines[i].Taken
			}
		}
	}
	return out
}
