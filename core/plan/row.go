package plan

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
)

// Override is what one side does differently.
type Override struct {
	Dose    dose.Dose
	Level   int // 0: as the row
	Options []int
	Note    string
	Told
	extra map[string]json.RawMessage
}

// Inline is a movement written into the plan because no library has it.
type Inline struct {
	Name    string
	Posture movement.Posture
	Sides   movement.Sides
	PerRep  clock.Span
	Effort  float64
	// What can be said of it besides.
	Ends    movement.Posture // where it ends; none: where it began
	Spine   []movement.Direction
	Regions map[string]float64
	Loads   []movement.Load
	Stretch bool
	Rest    bool
	Kit     []string
	Read    []movement.Fact // what of it was read from its name or taken, and nobody has said: a guess
	Levels  []string        // what each level of it is, in words; none: it has one
	extra   map[string]json.RawMessage
}

// said tells whether it says anything that SessionFormatSaid has.
func (in *Inline) said() bool {
	return in.Ends != movement.NoPosture || len(in.Spine)+len(in.Regions)+len(in.Loads)+len(in.Kit)+len(in.Read) > 0 || in.Stretch || in.Rest
}

// Guessed tells whether something of it was read from its name.
func (in *Inline) Guessed() bool { return len(in.Read) > 0 }

// InlineOf is a reading of a name as it is written into a plan.
func InlineOf(r movement.Reading) *Inline {
	in := &Inline{
		Name: r.Name, Posture: r.Posture, Sides: r.Sides, PerRep: r.Pace, Effort: r.Effort, Ends: r.Ends, Spine: r.Spine, Regions: r.Regions, Loads: r.Loads,
		Stretch: r.Stretch, Rest: r.Rest, Kit: r.Kit,
	}
	for _, f := range movement.Facts() {
		switch f {
		case movement.FactPosture, movement.FactSides, movement.FactPace, movement.FactSpine, movement.FactRegions, movement.FactLoads, movement.FactEffort:
			in.Read = append(in.Read, f)
		}
	}
	return in
}

// Reading is it as the library takes it.
func (in *Inline) Reading() movement.Reading {
	return movement.Reading{
		Name: in.Name, Posture: in.Posture, Sides: in.Sides, Pace: in.PerRep, Effort: in.Effort, Ends: in.Ends, Spine: in.Spine, Regions: in.Regions, Loads: in.Loads,
		Stretch: in.Stretch, Rest: in.Rest, Kit: in.Kit, Levels: in.Levels,
	}
}

// Rest is a pause that has a row of its own.
type Rest struct {
	For  clock.Span       // 0: as long as a rest usually is; of a turn as long as the change of position takes
	Say  string           // what is said in it
	Turn string           // it is no rest but a change of position that is led: "roll up to stand"
	Ends movement.Posture // where a turn ends
	Kept string           // it is no rest but a line that nobody has understood yet, kept to be mended: it takes no time
}

// Row is a movement at a level with a dose and a side rule, or a rest: then nothing of it is said but its note and
// whether it is locked.
type Row struct {
	Movement string  // slug; empty for a rest or an inline movement
	Inline   *Inline // nil unless the movement is written into the plan
	Rest     *Rest   // nil unless the row is a rest
	Level    int     // 0: not said, the first
	Dose     dose.Dose
	Sides    movement.Sides // unsaid: as the movement has it
	Right    *Override
	Left     *Override
	Locked   bool
	Note     string
	Options  []int // levels offered aloud; nil: the next easier and the next harder; empty: none
	Demo     int   // the level that is shown; 0: the row's own

	PartLevels []int            // phases: the level of each part of the dose; nil: all are at the row's
	Ends       movement.Posture // where it ends; none: as the movement has it
	OtherSide  bool             // in a chain: done on the side that is not the chain's
	Once       Once             // in a chain: how often, where it has no sides
	ByRound    []RoundChange    // what it does differently in each round, or pass of a chain
	Then       bool             // in a build up: done at the top of the climb, no part of it
	Style      Style            // only the questions of PartStyleKeys
	Faces      Faces            // how whoever leads stands to those who follow
	OnMat      OnMat            // and where on the mat
	Timed      []TimedWord      // said at their times while it is done
	Told
	extra map[string]json.RawMessage
}

// IsTurn tells whether the row is a change of position that is led: the way from one movement to the next.
func (r *Row) IsTurn() bool { return r.Rest != nil && r.Rest.Turn != "" }

// IsKept tells whether the row is a line that is kept to be mended.
func (r *Row) IsKept() bool { return r.Rest != nil && r.Rest.Kept != "" }

// IsRest tells whether the row is a rest, or a turn: nothing is worked in it.
func (r *Row) IsRest() bool { return r.Rest != nil }

// Name is the movement's slug, or the inline name.
func (r *Row) Name() string {
	switch {
	case r.IsTurn():
		return r.Rest.Turn
	case r.IsKept():
		return "to mend"
	case r.IsRest():
		return "rest"
	case r.Inline != nil:
		return r.Inline.Name
	}
	return r.Movement
}

// Of finds the row's movement in a library, as its level has it, or makes it from what the row says.
// A rest has none. The error names what is missing.
func (r *Row) Of(lib *movement.Library) (*movement.Movement, error) {
	switch {
	case r.IsRest():
		return nil, nil
	case r.Inline != nil:
		reading := r.Inline.Reading()
		m, err := reading.Movement()
		if err != nil {
			return nil, err
		}
		return m.As(r.Level), nil
	}
	m, ok := lib.Get(r.Movement)
	if !ok {
		return nil, fmt.Errorf("no movement %q in the library", r.Movement)
	}
	return m.As(r.Level), nil
}

// standardDose is the dose of a movement for which neither the row nor the movement says one.
var standardDose = dose.Dose{Parts: []dose.Part{{Kind: dose.Reps, Count: 8}}}

// DoseOf is the dose in force on the row, given its movement: its own, or the movement's usual one; where the row
// says how it falls on the sides, that is the newer word.
func (r *Row) DoseOf(m *movement.Movement) dose.Dose {
	if !r.Dose.IsZero() {
		return r.Dose
	}
	d := m.Dose
	if d.IsZero() {
		d = standardDose
	}
	if r.Sides != movement.SidesUnsaid {
		d.Per = dose.Unsaid
	}
	return d
}

// OnSide is what the row does on one side: its own dose and level, or what is said of that side alone. Sets that are said
// of the row hold for both sides, unless the side says its own.
func (r *Row) OnSide(m *movement.Movement, o *Override) (dose.Dose, int) {
	d, level := r.DoseOf(m), max(1, r.Level)
	if o == nil {
		return d, level
	}
	if !o.Dose.IsZero() {
		sets, rest := d.Sets, d.Rest
		d = o.Dose
		if d.Sets < 2 && sets > 1 {
			d.Sets, d.Rest = sets, rest
		}
	}
	if o.Level > 0 {
		level = o.Level
	}
	return d, level
}

// SideRule is how the row falls on the sides, given its movement.
func (r *Row) SideRule(m *movement.Movement) movement.Sides {
	if r.Sides != movement.SidesUnsaid {
		return r.Sides
	}
	if m.Sides == movement.Alternating && r.sidesDiffer() { // so many of each cannot be done in turn
		return movement.Each
	}
	switch r.Dose.Per {
	case dose.Alternating, dose.Pairs:
		return movement.Alternating
	case dose.EachSide:
		if m.Sides == movement.Both {
			return movement.Each
		}
	}
	return m.Sides
}

// sidesDiffer tells whether a side has a dose of its own.
func (r *Row) sidesDiffer() bool {
	return r.Right != nil && !r.Right.Dose.IsZero() || r.Left != nil && !r.Left.Dose.IsZero()
}

// Row finds a row; nil when there is none.
func (s *Session) Row(p Path) *Row {
	b := s.Block(p)
	if b == nil || p.Row < 1 || p.Row > len(b.Rows) {
		return nil
	}
	return &b.Rows[p.Row-1]
}

// Contradicts tells whether what the row says of its sides does not go together.
func (r *Row) Contradicts() error {
	per, sides := r.Dose.Per, r.Sides
	switch {
	case per != dose.Unsaid && (sides == movement.RightOnly || sides == movement.LeftOnly):
		return fmt.Errorf("sides that contradict: only the %s side, but the dose is %q", sides, r.Dose)
	case per == dose.EachSide && sides == movement.Both:
		return fmt.Errorf("sides that contradict: both at once, but the dose is %q", r.Dose)
	case (per == dose.Pairs || per == dose.Alternating) && sides != movement.SidesUnsaid && sides != movement.Alternating:
		return fmt.Errorf("sides that contradict: %s, but the dose is %q", sides, r.Dose)
	case (per == dose.Pairs || per == dose.Alternating || sides == movement.Alternating) && r.sidesDiffer():
		return fmt.Errorf("sides that contradict: they alternate, but one side is given a dose of its own: %q", r.Dose)
	case (r.Right != nil || r.Left != nil) && (sides == movement.Both || sides == movement.RightOnly && r.Left != nil || sides == movement.LeftOnly && r.Right != nil):
		return fmt.Errorf("sides that contradict: %s, but one side is given a dose of its own", sides)
	}
	return nil
}

func (r Row) clone() Row {
	r.Dose.Parts = slices.Clone(r.Dose.Parts)
	for _, o := range []**Override{&r.Right, &r.Left} {
		if *o != nil {
			c := **o
			c.Dose.Parts = slices.Clone(c.Dose.Parts)
			c.Options, c.Told = slices.Clone(c.Options), c.Told.clone()
			*o = &c
		}
	}
	if r.Inline != nil {
		in := *r.Inline
		in.Levels = slices.Clone(in.Levels)
		in.Spine, in.Loads, in.Kit, in.Read, in.Regions = slices.Clone(in.Spine), slices.Clone(in.Loads), slices.Clone(in.Kit), slices.Clone(in.Read), maps.Clone(in.Regions)
		r.Inline = &in
	}
	if r.Rest != nil {
		rest := *r.Rest
		r.Rest = &rest
	}
	r.Options, r.Told, r.Timed, r.PartLevels = slices.Clone(r.Options), r.Told.clone(), slices.Clone(r.Timed), slices.Clone(r.PartLevels)
	r.ByRound = slices.Clone(r.ByRound)
	for i := range r.ByRound {
		r.ByRound[i].Dose.Parts = slices.Clone(r.ByRound[i].Dose.Parts)
	}
	return r
}
