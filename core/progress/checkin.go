// Package progress is how people get on with a series: where each is in it, what they said of their days, what to do about days that were missed, and what the
// check-ins say about the next rung. Every answer is a pure function over what was said, and carries its evidence. Nothing in it diagnoses: pain always stops the
// climb and refers to whoever treats the mover.
package progress

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/strict"
)

// Format is that of the document of a check-in.
const Format = "wavekine.checkin/1"

// Limits of a check-in; judgement.
const (
	MaxLine   = 1000 // characters
	maxFelt   = 24
	maxTaken  = 60
	maxTests  = 8
	maxID     = 64
	minID     = 16
	maxAmount = 3600
	MostHard  = 10 // of the Borg CR10 scale
)

// Did is how much of a day was done.
type Did string

// How much of a day was done.
const (
	All     Did = "all"
	Part    Did = "part"
	Nothing Did = "not today"
)

var dids = []Did{All, Part, Nothing}

// Hard are the words of the Borg CR10 scale, by their number (Borg 1982 and 1998; wording from memory); what lies between has that of the one below.
var hardWords = []string{"none at all", "very light", "light", "moderate", "somewhat hard", "hard", "hard", "very hard", "very hard", "extremely hard", "as hard as I can"}

// HardWord is how hard an effort of 0 to 10 is in words.
func HardWord(n int) string { return hardWords[min(max(n, 0), MostHard)] }

// Place is a part of the drawn body. Regions are those of movements that are felt there.
type Place struct {
	Name    string
	Back    bool // it is touched on the back
	Sided   bool // it has a right and a left
	Regions []string
}

// places are the parts of the drawn body, from above; which regions are felt where is common practice.
var places = []Place{
	{"neck", true, false, []string{"neck"}},
	{"shoulder", false, true, []string{"shoulders"}},
	{"chest", false, false, []string{"chest", "breath"}},
	{"arm", false, true, []string{"shoulders", "chest"}},
	{"elbow", false, true, nil},
	{"wrist", false, true, []string{"wrists"}},
	{"belly", false, false, []string{"abdominals", "deep core", "breath"}},
	{"waist", false, true, []string{"obliques"}},
	{"front of the hip", false, true, []string{"hip flexors", "hips"}},
	{"thigh", false, true, []string{"thighs"}},
	{"inner thigh", false, true, []string{"thighs", "hips"}},
	{"knee", false, true, nil},
	{"shin", false, true, []string{"ankles"}},
	{"foot", false, true, []string{"ankles", "balance"}},
	{"upper back", true, false, []string{"upper back", "shoulders"}},
	{"low back", true, false, []string{"low back"}},
	{"seat", true, true, []string{"gluteals", "hips"}},
	{"back of the thigh", true, true, []string{"hamstrings"}},
	{"calf", true, true, []string{"ankles"}},
}

// Places lists the parts of the drawn body.
func Places() []Place { return slices.Clone(places) }

// PlaceOf finds a part of the drawn body by its name.
func PlaceOf(name string) (Place, bool) {
	i := slices.IndexFunc(places, func(p Place) bool { return p.Name == name })
	if i < 0 {
		return Place{}, false
	}
	return places[i], true
}

// worksFrom is the weight from which a region is where a movement should be felt; judgement.
const worksFrom = .3

// Meant tells whether a movement is meant to be felt in a place.
func Meant(m *movement.Movement, place string) bool {
	p, ok := PlaceOf(place)
	return ok && slices.ContainsFunc(p.Regions, func(r string) bool { return m.Regions[r] >= worksFrom })
}

// Felt is where something was felt, or hurt.
type Felt struct {
	Place string `json:"place"`
	Side  string `json:"side,omitempty"` // right or left; empty: both, or a place without sides
	In    string `json:"in,omitempty"`   // the movement, by slug; empty: not said
}

// String is the place in words: "right knee".
func (f Felt) String() string { return strings.TrimSpace(f.Side + " " + f.Place) }

// Test is what was measured of a movement on one side.
type Test struct {
	Movement string `json:"movement"`
	Side     string `json:"side,omitempty"` // right or left; empty: both
	Amount   int    `json:"amount"`         // seconds, repetitions, a level, or a step of Reaches
	Unit     string `json:"unit"`           // seconds, repetitions, reach, level
}

// reaches are how far somebody gets, in words, nearest last; common practice.
var reaches = []string{"to the thighs", "to the knees", "to the shins", "to the ankles", "to the floor"}

// Reaches lists how far somebody gets, in words; a Test counts them from 1.
func Reaches() []string { return slices.Clone(reaches) }

var units = []string{"seconds", "repetitions", "reach", "level"}

// CheckIn is a mover's word on a day of a series.
type CheckIn struct {
	ID     string         // made by whoever tells it, so that telling it twice keeps one
	Day    int            // of the series, from 1
	Did    Did            //
	Effort int            // 0 to 10 on the Borg CR10 scale; -1: not said
	Felt   []Felt         // where it was felt
	Pain   []Felt         // where it hurt
	Taken  map[string]int // the level taken of a movement, by slug, where it was offered
	Tests  []Test
	Line   string    // in their own words
	Told   time.Time // when, by the clock of whoever told it
}

// Hurt tells whether anything hurt.
func (c *CheckIn) Hurt() bool { return len(c.Pain) > 0 }

// ReadCheckIn reads a wavekine.checkin/1 document. Errors are *strict.Error with the JSON path.
func ReadCheckIn(text []byte) (*CheckIn, error) {
	rd, v := strict.Parse(text)
	if rd.Err() != nil {
		return nil, rd.Err()
	}
	o := v.Object()
	if f := o.Need("format"); f.Text(maxID) != Format {
		f.Fail("expected %q", Format)
	}
	c := &CheckIn{Effort: -1}
	id := o.Need("id")
	if c.ID = id.Text(maxID); rd.Err() == nil && (len(c.ID) < minID || strings.Trim(c.ID, "0123456789abcdefghijklmnopqrstuvwxyz-") != "") {
		id.Fail("expected a name of its own: %d to %d small letters and digits", minID, maxID)
	}
	c.Day = o.Need("day").Int(1, plan.MaxDays)
	did := o.Need("did")
	if c.Did = Did(did.Text(20)); rd.Err() == nil && !slices.Contains(dids, c.Did) {
		did.Fail("expected all, part or not today")
	}
	if e, ok := o.Get("effort"); ok {
		c.Effort = e.Int(0, MostHard)
	}
	for key, to := range map[string]*[]Felt{"felt": &c.Felt, "pain": &c.Pain} {
		if e, ok := o.Get(key); ok {
			e.List(maxFelt, func(_ int, x strict.Value) { *to = append(*to, readFelt(x)) })
		}
	}
	if e, ok := o.Get("taken"); ok {
		e.List(maxTaken, func(_ int, x strict.Value) {
			f := x.Object()
			m, level := f.Need("movement").Text(100), f.Need("level").Int(1, 20)
			f.Done(false)
			if c.Taken == nil {
				c.Taken = map[string]int{}
			}
			if _, twice := c.Taken[m]; twice {
				x.Fail("%q is there twice", m)
			}
			c.Taken[m] = level
		})
	}
	if e, ok := o.Get("tests"); ok {
		e.List(maxTests, func(_ int, x strict.Value) { c.Tests = append(c.Tests, readTest(x)) })
	}
	if e, ok := o.Get("line"); ok {
		c.Line = strings.TrimSpace(e.Text(MaxLine))
	}
	told := o.Need("told")
	at, err := time.Parse(time.RFC3339, told.Text(40))
	if err != nil || at.UTC().Year() < 1900 || at.UTC().Year() > 9999 { // a clock that was reset begins in 1970: a word is not lost for it
		told.Fail("expected a time as in 2026-05-01T18:30:00Z")
	}
	c.Told = at.UTC().Truncate(time.Second)
	if c.Did == Nothing && (c.Effort >= 0 || len(c.Felt)+len(c.Tests)+len(c.Taken) > 0) {
		did.Fail("what was not done has neither effort nor a place where it was felt")
	}
	o.Done(false)
	return c, rd.Err()
}

func readSide(o *strict.Object, sided bool) string {
	e, ok := o.Get("side")
	if !ok {
		return ""
	}
	s := e.Text(10)
	switch {
	case s != "right" && s != "left":
		e.Fail("expected right or left")
	case !sided:
		e.Fail("it has no sides")
	}
	return s
}

func readFelt(v strict.Value) (f Felt) {
	o := v.Object()
	name := o.Need("place")
	f.Place = name.Text(40)
	p, ok := PlaceOf(f.Place)
	if !ok && f.Place != "" {
		name.Fail("%q is no place of the drawn body", f.Place)
	}
	f.Side = readSide(o, p.Sided)
	if e, ok := o.Get("in"); ok {
		f.In = e.Text(100)
	}
	o.Done(false)
	return f
}

func readTest(v strict.Value) (t Test) {
	o := v.Object()
	t.Movement, t.Side = o.Need("movement").Text(100), readSide(o, true)
	unit := o.Need("unit")
	if t.Unit = unit.Text(20); t.Unit != "" && !slices.Contains(units, t.Unit) {
		unit.Fail("expected one of %s", strings.Join(units, ", "))
	}
	most := maxAmount
	switch t.Unit {
	case "reach":
		most = len(reaches)
	case "level":
		most = 20
	}
	t.Amount = o.Need("amount").Int(0, most)
	o.Done(false)
	return t
}

// MarshalJSON writes the document.
func (c *CheckIn) MarshalJSON() ([]byte, error) {
	type taken struct {
		Movement string `json:"movement"`
		Level    int    `json:"level"`
	}
	out := struct {
		Format string  `json:"format"`
		ID     string  `json:"id"`
		Day    int     `json:"day"`
		Did    Did     `json:"did"`
		Effort *int    `json:"effort,omitempty"`
		Felt   []Felt  `json:"felt,omitempty"`
		Pain   []Felt  `json:"pain,omitempty"`
		Taken  []taken `json:"taken,omitempty"`
		Tests  []Test  `json:"tests,omitempty"`
		Line   string  `json:"line,omitempty"`
		Told   string  `json:"told"`
	}{Format: Format, ID: c.ID, Day: c.Day, Did: c.Did, Felt: c.Felt, Pain: c.Pain, Tests: c.Tests, Line: c.Line, Told: c.Told.UTC().Format(time.RFC3339)}
	if c.Effort >= 0 {
		out.Effort = &c.Effort
	}
	for m, n := range c.Taken {
		out.Taken = append(out.Taken, taken{m, n})
	}
	slices.SortFunc(out.Taken, func(a, b taken) int { return strings.Compare(a.Movement, b.Movement) })
	return json.Marshal(out)
}

// Says is the check-in in a line: "all of it, 4 somewhat hard, felt in seat".
func (c *CheckIn) Says() string {
	out := []string{map[Did]string{All: "all of it", Part: "part of it", Nothing: "not today"}[c.Did]}
	if c.Effort >= 0 {
		out = append(out, fmt.Sprintf("%d %s", c.Effort, HardWord(c.Effort)))
	}
	for _, x := range []struct {
		how string
		fs  []Felt
	}{{"felt in ", c.Felt}, {"it hurt: ", c.Pain}} {
		var at []string
		for _, f := range x.fs {
			at = append(at, f.String())
		}
		if len(at) > 0 {
			out = append(out, x.how+strings.Join(at, ", "))
		}
	}
	return strings.Join(out, ", ")
}
