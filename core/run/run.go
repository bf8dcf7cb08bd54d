// Package run holds a session as it was led: the steps that were planned, and the events that happened, with their
// times. Everything that is learnt from a run is a pure function over the two. Seconds are what the clock says
// between events; repetitions are what was counted, or what was planned where nobody counted, and said as such:
// neither is ever worked out from the other.
package run

import (
	"fmt"
	"slices"
	"time"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Format is the format this version writes.
const Format = "wavekine.run/1"

// Limits of a run; judgement: a class of four hours with every repetition counted lies within.
const (
	maxSteps   = 5000
	maxEvents  = 20000
	maxText    = 500  // characters of a note
	maxLanding = 2000 // and of what landing changes
	maxName    = 200  // characters of a step's name; movements done as one have the names of all, cut off there
	minID      = 8    // characters of a name of its own
	maxID      = 64
	maxReps    = 10000
	longest    = 24 * 60 * clock.Minute
)

// Run is a session as it was led, or is being led.
type Run struct {
	ID      string // made by the player
	Session string // the session's id in the studio
	Rev     int    // its revision
	Title   string
	Teacher string // id of who led it
	Started time.Time
	Asked   clock.Span // the length asked for; 0: none
	Steps   []Step
	Events  []Event // in order of time, the first is Began
}

// Step is a step of the timeline as it was planned for this teacher.
type Step struct {
	Row      plan.Path
	Movement string // slug without a version; empty for a rest and a movement written into the plan
	Name     string
	Side     timeline.Side
	Kind     timeline.Kind
	Level    int // 0 for a rest
	S        clock.Span
	Usual    clock.Span // at the product's own pace, before anything was learnt of this teacher
	Reps     int        // single repetitions or pulses; 0 where none are counted
	Breaths  int
	Clocked  bool // the clock ends it, not a count
	Round    int  // of a circuit, from 1
	Set      int
}

// Counted tells whether the teacher ends the step, by counting or by having said what there is to say.
func (s *Step) Counted() bool { return !s.Clocked }

// Count is how many repetitions or breaths are counted in the step; 0 where the clock or talk fills it.
func (s *Step) Count() int { return s.Reps + s.Breaths }

// Kind is what an event says.
type Kind uint8

// The kinds of event.
const (
	Began    Kind = iota // the class began
	SetUp                // a step before work began: setting up, changing position or side, a rest
	Work                 // a step of work began: its row, side, part and round are the step's
	Rep                  // a repetition or breath was done: by key, pedal or tap, or by the clock at the tempo of those
	More                 // one more than planned in this step
	Fewer                // one fewer
	MovedOn              // the teacher ended the step; the next event begins another
	WentBack             // the teacher went back; the next event begins a step again
	TalkedOn             // the step does not end by itself: held until the teacher moves on
	NotYet               // the step before is still on: what has passed of this one is its
	Paused
	Resumed
	Level // another level was shown
	Note
	Mark       // a mark to find a moment by
	Landed     // from here on some steps are other than planned, so that the class ends on its minute
	Correction // somebody was corrected
	Ended
)

var kindNames = [...]string{
	"began", "set-up", "work", "rep", "more", "fewer", "moved on", "went back", "talked on", "not yet", "paused", "resumed", "level", "note", "mark", "landed", "correction", "ended",
}

func (k Kind) String() string {
	if int(k) < len(kindNames) {
		return kindNames[k]
	}
	return fmt.Sprintf("Kind(%d)", uint8(k))
}

// MarshalText writes the word.
func (k Kind) MarshalText() ([]byte, error) { return []byte(k.String()), nil }

// UnmarshalText reads the word.
func (k *Kind) UnmarshalText(b []byte) error {
	i := slices.Index(kindNames[:], string(b))
	if i < 0 {
		return fmt.Errorf("%.30q is no event of a run", b)
	}
	*k = Kind(i)
	return nil
}

// Begins tells whether an event begins a step.
func (k Kind) Begins() bool { return k == SetUp || k == Work }

// Event is something that happened.
type Event struct {
	At    clock.Span // since the class began
	Does  Kind
	Step  int       // of SetUp and Work: which step, from 0
	Hand  bool      // of Rep: counted by key, pedal or tap, not by the clock
	Level int       // of Level
	Row   plan.Path // of Note and Correction; zero: about the whole class
	Text  string    // of Note; of Correction: the fault; of Landed: what was said of it
	Who   string    // of Correction: the mover's id; empty: nobody that the studio knows
	Early bool      // of Ended: stopped before the end
	Lands []Lands   // of Landed: all steps that are other than planned by now, in their order; none: all as planned again
}

// Lands is what became of a step so that the class ends on its minute.
type Lands struct {
	Step    int
	S       clock.Span
	Reps    int
	Breaths int
	Out     bool // left out
	Clocked bool // the clock ends it, whatever was planned
}

// Count is how many repetitions or breaths are counted in the step then.
func (l *Lands) Count() int { return l.Reps + l.Breaths }

// same tells whether two events say the same. Who was corrected is left aside: they may have asked to be forgotten meanwhile.
func (e Event) same(o Event) bool {
	if !slices.Equal(e.Lands, o.Lands) {
		return false
	}
	return e.At == o.At && e.Does == o.Does && e.Step == o.Step && e.Hand == o.Hand && e.Level == o.Level && e.Row == o.Row && e.Text == o.Text && e.Early == o.Early
}

// Remembered tells whether nothing is known of the run but how long it took.
func (r *Run) Remembered() bool {
	return !slices.ContainsFunc(r.Events, func(e Event) bool { return e.Does.Begins() })
}

// Ended tells whether the class was ended, and whether before its end.
func (r *Run) Ended() (ended, early bool) {
	if n := len(r.Events); n > 0 && r.Events[n-1].Does == Ended {
		return true, r.Events[n-1].Early
	}
	return false, false
}

// Finished tells whether the class was led to its end.
func (r *Run) Finished() bool {
	ended, early := r.Ended()
	return ended && !early
}

// Planned is how long the class was planned to be.
func (r *Run) Planned() (sum clock.Span) {
	for i := range r.Steps {
		sum += r.Steps[i].S
	}
	return sum
}

// Usual is how long it would be at the product's own pace.
func (r *Run) Usual() (sum clock.Span) {
	for i := range r.Steps {
		sum += r.Steps[i].Usual
	}
	return sum
}

// Remember is a run of which only the length is known: "this class took 24:30 when I taught it".
func (r Run) Remember(took clock.Span) *Run {
	r.Events = []Event{{Does: Began}, {At: took, Does: Ended}}
	return &r
}

// Extends tells whether a run is another one with more events, or the same: the player sends the whole again and
// again while it grows.
func (r *Run) Extends(old *Run) bool {
	return r.ID == old.ID && r.Session == old.Session && r.Teacher == old.Teacher && len(r.Events) >= len(old.Events) && slices.EqualFunc(r.Events[:len(old.Events)], old.Events, Event.same)
}

// StepsOf is what a run plans, out of the timeline a teacher leads by and the one at the product's own pace. Both
// are of the same session, so that their steps go together; where one has a step more, the usual time is the
// planned one.
func StepsOf(tl, usual *timeline.Timeline) []Step {
	out := make([]Step, len(tl.Steps))
	same := len(tl.Steps) == len(usual.Steps)
	for i := range tl.Steps {
		s := &tl.Steps[i]
		out[i] = Step{
			Row: s.Row, Name: "Rest", Side: s.Side, Kind: s.Kind, Level: s.Level, S: s.S, Usual: s.S, Reps: s.Reps, Breaths: s.Breaths, Clocked: s.Clocked, Round: s.Round, Set: s.Set,
		}
		if same {
			out[i].Usual = usual.Steps[i].S
		}
		if s.Move != nil {
			out[i].Name = s.Move.Name
			if name := []rune(s.Move.Name); len(name) > maxName {
				out[i].Name = string(name[:maxName-1]) + "…"
			}
			if !s.Move.Inline {
				out[i].Movement = s.Move.Base
				if out[i].Movement == "" {
					out[i].Movement = s.Move.Slug
				}
			}
		}
	}
	return out
}
