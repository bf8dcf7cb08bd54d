package run

import (
	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// By is who ended a step.
type By uint8

// Who ends a step.
const (
	ByClock By = iota // the player, when the planned time was over
	ByHand            // the teacher moved on
	ByBack            // the teacher went back
	ByStop            // the class was ended, or what was recorded ends there
)

// Visit is one time that a step was on.
type Visit struct {
	Step     int
	From, To clock.Span // since the class began
	Paused   clock.Span // of it
	Ended    By
	Held     bool       // the teacher held it beyond its time
	Hand     int        // repetitions counted by hand
	Clock    int        // and by the clock at their tempo
	More     int        // more than planned, or fewer
	Level    int        // the level shown last; 0: the planned one
	S        clock.Span // as planned, or as it was to be to land
	Count    int        // and the repetitions or breaths
	Landed   bool       // they are other than planned
	taps     []clock.Span
}

// Taken is how long the visit lasted without pauses.
func (v *Visit) Taken() clock.Span { return max(0, v.To-v.From-v.Paused) }

// TapTempo is the time from one repetition counted by hand to the next, on average, until the clock counted on; ok
// is false for fewer than three of them.
func (v *Visit) TapTempo() (each clock.Span, ok bool) {
	if n := len(v.taps); n >= 3 {
		return (v.taps[n-1] - v.taps[0]) / clock.Span(n-1), true
	}
	return 0, false
}

// Visits goes through the events and gives what was on when. Cost grows linearly with the events.
func (r *Run) Visits() []Visit {
	t := teller{run: r, on: -1, pausedAt: -1, moved: ByClock}
	for _, e := range r.Events {
		t.tell(e)
	}
	if n := len(r.Events); n > 0 {
		t.leave(r.Events[n-1].At, ByStop)
	}
	return t.out
}

// teller makes visits of events.
type teller struct {
	run      *Run
	out      []Visit
	lands    map[int]Lands // what is other than planned by now
	on       int           // the visit that is on; -1: none
	pausedAt clock.Span    // -1: not paused
	moved    By            // how the next leaving came about
}

// leave ends the visit that is on.
func (t *teller) leave(at clock.Span, by By) {
	if t.on < 0 {
		return
	}
	v := &t.out[t.on]
	v.To, v.Ended = at, by
	if t.pausedAt >= 0 { // left while paused
		v.Paused += at - t.pausedAt
		t.pausedAt = at
	}
	t.on = -1
}

func (t *teller) tell(e Event) {
	switch e.Does {
	case SetUp, Work:
		t.leave(e.At, t.moved)
		t.moved = ByClock
		v := Visit{Step: e.Step, From: e.At, To: e.At, S: t.run.Steps[e.Step].S, Count: t.run.Steps[e.Step].Count()}
		if l, ok := t.lands[e.Step]; ok && !l.Out {
			v.S, v.Count, v.Landed = l.S, l.Count(), true
		}
		t.out = append(t.out, v)
		t.on = len(t.out) - 1
	case MovedOn:
		t.moved = ByHand
	case WentBack:
		t.moved = ByBack
	case NotYet:
		t.notYet()
	case Paused:
		if t.pausedAt < 0 {
			t.pausedAt = e.At
		}
	case Resumed:
		if t.pausedAt >= 0 && t.on >= 0 {
			t.out[t.on].Paused += e.At - t.pausedAt
		}
		t.pausedAt = -1
	case Landed:
		t.lands = make(map[int]Lands, len(e.Lands))
		for _, l := range e.Lands {
			t.lands[l.Step] = l
		}
	case Ended:
		by := ByStop
		if !e.Early {
			by = t.moved
		}
		t.leave(e.At, by)
	default:
		if t.on >= 0 {
			t.out[t.on].count(e)
		}
	}
}

// notYet lets the visit before go on, as if the one that is on had not begun.
func (t *teller) notYet() {
	n := len(t.out)
	if t.on != n-1 || n < 2 {
		return
	}
	last := t.out[n-1]
	t.out = t.out[:n-1]
	t.on = n - 2
	v := &t.out[t.on]
	v.Held = true
	v.Paused += last.Paused
	v.Hand += last.Hand
	v.taps = append(v.taps, last.taps...)
}

// count takes down what happened within a visit.
func (v *Visit) count(e Event) {
	switch e.Does {
	case Rep:
		if !e.Hand {
			v.Clock++
			return
		}
		v.Hand++
		if v.Clock == 0 {
			v.taps = append(v.taps, e.At)
		}
	case More:
		v.More++
	case Fewer:
		v.More--
	case TalkedOn:
		v.Held = true
	case Level:
		v.Level = e.Level
	}
}

// Taken is how long the class took without pauses, and how long it was paused.
func (r *Run) Taken() (taken, paused clock.Span) {
	if len(r.Events) == 0 {
		return 0, 0
	}
	at := clock.Span(-1)
	for _, e := range r.Events {
		switch {
		case e.Does == Paused && at < 0:
			at = e.At
		case e.Does == Resumed && at >= 0:
			paused += e.At - at
			at = -1
		}
	}
	end := r.Events[len(r.Events)-1].At
	if at >= 0 {
		paused += end - at
	}
	return end - paused, paused
}

// How says where a number of repetitions comes from.
type How uint8

// Where repetitions come from.
const (
	AsPlanned How = iota // nobody counted: what was planned is said to be so
	Counted              // counted by hand, as far as it went by the clock at the tempo of the hand
	LeftOut              // left so early that nothing is claimed
)

// leftOut is the part of its planned time before which a step that was moved on from counts as left out, where
// nobody counted; judgement: nobody does eight repetitions in the time of two.
const leftOut = .25

// Reps is how many repetitions or breaths of a visit can be claimed, and where the number comes from.
func (r *Run) Reps(v *Visit) (int, How) {
	planned := max(0, v.Count+v.More)
	switch {
	case v.Count == 0:
		return 0, AsPlanned
	case v.Hand > 0:
		return v.Hand + v.Clock, Counted
	case v.Ended == ByBack || v.Ended == ByStop || v.Taken() < v.S.Times(leftOut):
		return 0, LeftOut
	}
	return planned, AsPlanned
}

// Line is what was planned and taken of one row on one side, for one kind of step.
type Line struct {
	Row            plan.Path
	Movement, Name string
	Side           timeline.Side
	Kind           timeline.Kind
	Planned, Taken clock.Span
	PlannedReps    int
	Reps           int
	How            How // of all its repetitions; Counted where any were
	Visited        bool
	Level          int // planned
	Shown          int // the level shown last, where another was
	Note           string
	Landed         bool // what was to be done was changed to land
}

// Lines sets planned beside taken, row by row, side by side, kind by kind, in the order planned.
func (r *Run) Lines() []Line {
	type key struct {
		row  plan.Path
		side timeline.Side
		kind timeline.Kind
	}
	var out []Line
	at := map[key]int{}
	of := make([]int, len(r.Steps))
	for i := range r.Steps {
		s := &r.Steps[i]
		k := key{s.Row, s.Side, s.Kind}
		n, ok := at[k]
		if !ok {
			n = len(out)
			at[k] = n
			out = append(out, Line{Row: s.Row, Movement: s.Movement, Name: s.Name, Side: s.Side, Kind: s.Kind, Level: s.Level, How: LeftOut})
		}
		of[i] = n
		out[n].Planned += s.S
		out[n].PlannedReps += s.Reps
	}
	for _, v := range r.Visits() {
		l := &out[of[v.Step]]
		l.Taken += v.Taken()
		l.Visited = true
		l.Landed = l.Landed || v.Landed
		if r.Steps[v.Step].Reps > 0 {
			n, how := r.Reps(&v)
			l.Reps += n
			if how == Counted || how == AsPlanned && l.How == LeftOut {
				l.How = how
			}
		}
		if v.Level > 0 && v.Level != l.Level {
			l.Shown = v.Level
		}
	}
	notes := map[plan.Path]string{}
	var lands []Lands
	for _, e := range r.Events {
		switch e.Does {
		case Note:
			notes[e.Row] = e.Text
		case Landed:
			lands = e.Lands
		}
	}
	for i := range lands {
		if l := &out[of[lands[i].Step]]; lands[i].Out && !l.Visited {
			l.Landed = true
		}
	}
	for i := range out {
		out[i].Note = notes[out[i].Row]
	}
	return out
}

// Landings are what was changed to land, and when, in their order.
func (r *Run) Landings() (out []Event) {
	for _, e := range r.Events {
		if e.Does == Landed {
			out = append(out, e)
		}
	}
	return out
}

// Corrected is that somebody was corrected, in which movement, and the fault.
type Corrected struct {
	Who, Movement, Fault string
	At                   clock.Span
}

// Corrections are what was corrected, in the order in which it was. A row that the class has not is corrected in nothing.
func (r *Run) Corrections() (out []Corrected) {
	for _, e := range r.Events {
		if e.Does != Correction {
			continue
		}
		c := Corrected{Who: e.Who, Fault: e.Text, At: e.At}
		for i := range r.Steps {
			if s := &r.Steps[i]; s.Row == e.Row && s.Movement != "" {
				c.Movement = s.Movement
				break
			}
		}
		out = append(out, c)
	}
	return out
}

// Remark is the note about the whole class.
func (r *Run) Remark() (text string) {
	for _, e := range r.Events {
		if e.Does == Note && e.Row == (plan.Path{}) {
			text = e.Text
		}
	}
	return text
}
