// Package movement is the library: what each movement is, its levels, what it loads and the words
// it is taught with; and the posture graph that says how to get from one to the next.
package movement

import (
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"math"
	"slices"
	"strings"
	"sync"

	"github.com/goccy/go-yaml"

	"wavekine/core/body"
	"wavekine/core/clock"
	"wavekine/core/dose"
)

// Sides is how a movement falls on the two sides of the body.
type Sides uint8

// How a movement is done on the sides. The zero value says nothing.
const (
	SidesUnsaid Sides = iota
	Both              // both at once
	Each              // all of it on one side, then on the other
	Alternating       // side changes with every repetition
	RightOnly
	LeftOnly
)

var sidesNames = [...]string{"", "both", "each", "alternating", "right", "left"}

// String is the word; empty where nothing is said.
func (s Sides) String() string {
	if int(s) >= len(sidesNames) {
		return fmt.Sprintf("Sides(%d)", uint8(s))
	}
	return sidesNames[s]
}

// MarshalText writes the word.
func (s Sides) MarshalText() ([]byte, error) { return []byte(s.String()), nil }

// UnmarshalText reads the word.
func (s *Sides) UnmarshalText(b []byte) error {
	i := slices.Index(sidesNames[1:], string(b))
	if i < 0 {
		return fmt.Errorf("%q is not a side rule: expected both, each, alternating, right or left", b)
	}
	*s = Sides(i + 1)
	return nil
}

// Load is something a movement puts on the body that is watched.
type Load string

// The loads that are watched. Postures bring some of their own, see Level.Bears.
const (
	Hands   Load = "hands"    // weight through the wrists
	HeadUp  Load = "head up"  // head and shoulders lifted while on the back
	LegsOut Load = "legs out" // legs held away from the floor against the low back
	Kneel   Load = "kneeling"
	OnFront Load = "prone"
	OnBack  Load = "supine"
	HeadLow Load = "head low" // head below the heart
	Rolling Load = "rolling"
	Floor   Load = "floor"  // down on the mat
	Lands   Load = "impact" // feet that leave the floor and land
)

var loads = []Load{Hands, HeadUp, LegsOut, Kneel, OnFront, OnBack, HeadLow, Rolling, Floor, Lands}

// IsLoad tells whether a word is a load, or takes one of the posture away: "no hands".
func IsLoad(w string) bool { return w == noHands || slices.Contains(loads, Load(w)) }

// noHands takes the weight off the hands where the posture would have it there.
const noHands = "no hands"

// Direction is one of the ways the spine moves.
type Direction string

// Directions of the spine.
const (
	Forward  Direction = "forward"
	Backward Direction = "back"
	Sideways Direction = "side"
	Turned   Direction = "turn"
)

// Directions lists the ways the spine moves.
func Directions() []Direction { return slices.Clone(directions) }

var directions = []Direction{Forward, Backward, Sideways, Turned}

// Phases of a class, in the order they come.
func Phases() []string { return slices.Clone(phases) }

var phases = []string{"arrive", "mobilise", "build", "settle"}

// Regions of the body that a movement can work.
func Regions() []string { return slices.Clone(regions) }

var regions = []string{
	"neck", "shoulders", "upper back", "chest", "wrists", "abdominals", "deep core", "obliques", "low back",
	"hips", "hip flexors", "gluteals", "thighs", "hamstrings", "ankles", "breath", "balance",
}

// Level is one way of doing a movement, easy to hard.
type Level struct {
	Changes string   `yaml:"changes"` // what is different: lever, base, support, range, kit
	Demand  float64  `yaml:"demand"`  // 0..10; judged, or computed from the pose for a family
	Why     string   `yaml:"why"`     // the reason of a judged demand
	Figure  string   `yaml:"figure"`  // the pose of the book that shows it
	From    string   `yaml:"from"`    // the pose it starts from, where it differs from the movement's
	Stance  float64  `yaml:"stance"`  // width of the base sideways in hundredths of stature, on a roller
	Lighter string   `yaml:"lighter"` // why its demand does not rise over the level below
	Family  Family   `yaml:"family"`  // where it differs from the movement's
	Pace    *Pace    `yaml:"pace"`    // where it differs from the movement's
	Loads   []Load   `yaml:"loads"`   // where they differ from the movement's
	Kit     []string `yaml:"kit"`
	Judged  bool     `yaml:"judged"` // where the family's mechanics miss what makes it hard
	// What is otherwise on this level than the movement says: As puts it in place.
	Sides   Sides         `yaml:"sides" json:",omitzero"`
	Posture Posture       `yaml:"posture" json:",omitzero"`
	Ends    Posture       `yaml:"ends" json:",omitzero"`
	Dose    dose.Dose     `yaml:"dose" json:",omitzero"`
	Spine   []Direction   `yaml:"spine" json:",omitzero"` // empty, not nil: it goes nowhere
	Setup   string        `yaml:"setup" json:",omitempty"`
	Say     string        `yaml:"say" json:",omitempty"`
	Breath  string        `yaml:"breath" json:",omitempty"`
	Watch   string        `yaml:"watch" json:",omitempty"`
	Fault   string        `yaml:"fault" json:",omitempty"`
	Care    string        `yaml:"care" json:",omitempty"`
	Feel    string        `yaml:"feel" json:",omitempty"`
	Then    string        `yaml:"when lost" json:",omitempty"`
	Felt    string        `yaml:"felt" json:",omitempty"`
	NotFelt string        `yaml:"not felt" json:",omitempty"`
	Phases  []BreathPhase `yaml:"phases" json:",omitempty"`
	Range   Range         `yaml:"range" json:",omitzero"`
	Skill   int           `yaml:"skill" json:",omitempty"` // 1..3; 0: it follows from the demand
	Needs   []Need        `yaml:"needs" json:",omitempty"` // what comes first
	Quiet   string        `yaml:"quiet" json:",omitempty"` // how it is done without its impact
	// OnHands is the share of body weight on the hands in percent, by the mechanics of the pose; where they do not show it, a
	// value by position. 0 where the hands bear nothing.
	OnHands float64 `yaml:"-" json:",omitzero"`
	bears   []Load
	things  []Thing
	poses   body.Strip
	extra   map[string]json.RawMessage // of a later version's document
	// Computed tells that the demand comes from the mechanics of the pose, not from judgement.
	Computed bool `yaml:"-"`
}

// Movement is one exercise.
type Movement struct {
	Slug    string   `yaml:"slug"`
	Name    string   `yaml:"name"`
	Also    []string `yaml:"also" json:",omitempty"` // other names in use
	Purpose string   `yaml:"purpose"`
	Family  Family   `yaml:"family"` // whose demand is computed
	Phase   string   `yaml:"phase"`
	// Classical is the place in the classical mat order, 0 for none.
	Classical int                `yaml:"classical"`
	Posture   Posture            `yaml:"posture"`
	Ends      Posture            `yaml:"ends" json:",omitzero"` // where it ends, when not where it began
	From      string             `yaml:"from"`                  // the pose it starts from
	Sides     Sides              `yaml:"sides"`
	Stretch   bool               `yaml:"stretch"`                // a stretch or a rest: held, not counted
	Rest      bool               `yaml:"rest" json:",omitempty"` // there to rest in
	Pace      Pace               `yaml:"pace"`
	Dose      dose.Dose          `yaml:"dose"`       // the usual one
	DoseIsIt  bool               `yaml:"dose is it"` // the usual dose makes the movement what it is: it is not fitted
	Spine     []Direction        `yaml:"spine" json:",omitempty"`
	Regions   map[string]float64 `yaml:"regions"` // 0..1
	Loads     []Load             `yaml:"loads" json:",omitempty"`
	Kit       []string           `yaml:"kit" json:",omitempty"`
	Limb      string             `yaml:"limb"` // what a side is called: leg, arm, side
	Setup     string             `yaml:"setup"`
	Say       string             `yaml:"say"`
	Breath    string             `yaml:"breath"`
	Watch     string             `yaml:"watch"` // where to look
	Fault     string             `yaml:"fault"` // the common fault
	Ease      string             `yaml:"ease"`  // easier than the first level, said aloud
	Care      string             `yaml:"care"`
	// What programming needs, see programming.go and breath.go.
	Pattern    string        `yaml:"pattern" json:",omitempty"`
	Range      Range         `yaml:"range" json:",omitzero"`
	Roles      []Role        `yaml:"roles" json:",omitempty"`
	Themes     []string      `yaml:"themes" json:",omitempty"`
	VersionOf  string        `yaml:"version of" json:",omitempty"` // the movement of which it is a version
	Named      Naming        `yaml:"named by" json:",omitempty"`   // what names a side, where it does not follow
	BreathOver int           `yaml:"breath over" json:",omitempty"`
	Phases     []BreathPhase `yaml:"phases" json:",omitempty"`
	Feel       string        `yaml:"feel" json:",omitempty"`      // what the mover can feel for
	Then       string        `yaml:"when lost" json:",omitempty"` // what to do when the fault shows
	Felt       string        `yaml:"felt" json:",omitempty"`
	NotFelt    string        `yaml:"not felt" json:",omitempty"`
	Assist     string        `yaml:"assist" json:",omitempty"`     // what another's hands do
	Alone      string        `yaml:"alone" json:",omitempty"`      // and what instead of them
	Cares      []CareLine    `yaml:"cares" json:",omitempty"`      // by hand, over the rules of the table of cautions
	Gives      []string      `yaml:"gives back" json:",omitempty"` // counter-movements
	Leads      []string      `yaml:"leads to" json:",omitempty"`   // what it flows into
	Levels     []Level       `yaml:"levels"`
	// Inline is set for a movement written into a plan rather than taken from a library.
	Inline  bool `yaml:"-" json:"-"`
	parts   []Share
	views   []*Movement                // what the movement is on each level, see As
	answers *answers                   // of the table of cautions; nil: worked out each time
	format  string                     // of the document it came from
	extra   map[string]json.RawMessage // of a later version's document
	// Own is set for a studio's own movement, Version counts its versions from 1, Base is its slug without one.
	Own     bool   `yaml:"-" json:"-"`
	Version int    `yaml:"-" json:"-"`
	Base    string `yaml:"-" json:"-"`
	Stamp   string `yaml:"-" json:"-"` // changes with the document; figures are kept under it
	// Hidden movements are kept for the sessions that use them and not offered any more.
	Hidden bool       `yaml:"-" json:"-"`
	names  []string   // folded, for the search
	stems  [][]string // of each name, for comparing word by word
	words  [][]string // of each name
	body   []string   // folded words of regions, position and kit
	search []string   // folded words of everything
}

// Share is how much a movement works a region: its index in Regions and a weight over 0 up to 1.
type Share struct {
	Region int
	Weight float64
}

// Shares lists the regions worked, in the order of Regions.
func (m *Movement) Shares() []Share { return m.parts }

// At gives the level n from 1, or the nearest there is.
func (m *Movement) At(n int) *Level { return &m.Levels[min(max(n, 1), len(m.Levels))-1] }

// As is the movement as level n has it: sides, position, spine, usual dose and words are those of the level where it says
// any. Everything else, slug and levels too, is the movement's own.
func (m *Movement) As(n int) *Movement {
	if len(m.views) == 0 {
		return m
	}
	return m.views[min(max(n, 1), len(m.views))-1]
}

// differs tells whether the level says anything of its own that As puts in place.
func (l *Level) differs() bool {
	return l.Sides != SidesUnsaid || l.Posture != NoPosture || l.Ends != NoPosture || !l.Dose.IsZero() || l.Spine != nil ||
		len(l.Phases) > 0 || l.Setup+l.Say+l.Breath+l.Watch+l.Fault+l.Care+l.Feel+l.Then+l.Felt+l.NotFelt != ""
}

// view makes what As gives for each level; nothing where no level differs.
func (m *Movement) view() {
	m.views = nil
	if !slices.ContainsFunc(m.Levels, func(l Level) bool { return l.differs() }) {
		return
	}
	views := make([]*Movement, len(m.Levels))
	for i := range m.Levels {
		l := &m.Levels[i]
		if views[i] = m; !l.differs() {
			continue
		}
		v := *m
		if l.Sides != SidesUnsaid {
			v.Sides = l.Sides
			if v.Limb == "" {
				v.Limb = "side"
			}
		}
		if l.Posture != NoPosture {
			v.Posture, v.Ends = l.Posture, NoPosture
		}
		if l.Ends != NoPosture {
			v.Ends = l.Ends
		}
		if !l.Dose.IsZero() {
			v.Dose = l.Dose
		}
		if l.Spine != nil {
			v.Spine = l.Spine
		}
		if l.Breath != "" || len(l.Phases) > 0 {
			v.Phases = l.Phases
		}
		for _, w := range []struct {
			to   *string
			said string
		}{
			{&v.Setup, l.Setup},
			{&v.Say, l.Say},
			{&v.Breath, l.Breath},
			{&v.Watch, l.Watch},
			{&v.Fault, l.Fault},
			{&v.Care, l.Care},
			{&v.Feel, l.Feel},
			{&v.Then, l.Then},
			{&v.Felt, l.Felt},
			{&v.NotFelt, l.NotFelt},
		} {
			if w.said != "" {
				*w.to = w.said
			}
		}
		v.views = views
		views[i] = &v
	}
	m.views = views
}

// SecondsPerRep is the time of one repetition at level n at an even tempo.
func (m *Movement) SecondsPerRep(n int) clock.Span {
	if p := m.At(n).Pace; p != nil {
		return p.Span
	}
	return m.Pace.Span
}

// Bears lists what level n loads: its own loads and those its posture brings.
func (m *Movement) Bears(n int) []Load { return m.At(n).bears }

// Loads tells whether level n bears l.
func (m *Movement) Has(n int, l Load) bool { return slices.Contains(m.At(n).bears, l) }

// Bends tells whether the movement takes the spine in direction d.
func (m *Movement) Bends(d Direction) bool { return slices.Contains(m.Spine, d) }

// PhasePlace is the place of the movement's phase in a class, from 0; -1 where it has none.
func (m *Movement) PhasePlace() int { return slices.Index(phases, m.Phase) }

// Poses is how level n is done: from its first key pose to the one that shows it. An inline movement has none.
func (m *Movement) Poses(n int) body.Strip {
	strip, err := m.At(n).strip(m)
	if err != nil {
		return nil // the test that makes the library has looked for every pose
	}
	return strip
}

// Pose is the pose that shows level n; ok is false for an inline movement, which has none.
func (m *Movement) Pose(n int) (p body.Pose, ok bool) {
	s := m.Poses(n)
	if len(s) == 0 {
		return p, false
	}
	return s[len(s)-1].Pose, true
}

// Leaves is the posture the movement leaves the body in.
func (m *Movement) Leaves() Posture {
	if m.Ends != NoPosture {
		return m.Ends
	}
	return m.Posture
}

// strip finds the level's key poses in the book of poses; a studio's own has them with it.
func (l *Level) strip(m *Movement) (out body.Strip, err error) {
	if l.poses != nil {
		return l.poses, nil
	}
	from := l.From
	if from == "" {
		from = m.From
	}
	for _, name := range []string{from, l.Figure} {
		if name == "" || name == from && len(out) > 0 {
			continue
		}
		p, ok := body.Poses().Pose(name)
		if !ok {
			return nil, fmt.Errorf("no pose %q", name)
		}
		out = append(out, body.Key{At: float64(len(out)), Pose: p})
	}
	for i := range out {
		if q := out[0].Pose; q.Front != out[i].Pose.Front || q.Plan != out[i].Pose.Plan {
			return nil, fmt.Errorf("the poses %q and %q are seen from different sides", from, l.Figure)
		}
	}
	return out, nil
}

// Things names the kit level n cannot do without, besides a mat.
func (m *Movement) Things(n int) (out []string) {
	for _, t := range m.KitAt(n) {
		if !t.Optional {
			out = append(out, t.Name)
		}
	}
	return out
}

func posturesLoads(p Posture) (out []Load) {
	switch p {
	case HandsAndKnees:
		out = []Load{Hands, Kneel}
	case Kneeling, HalfKneeling, Lunge, ForearmsAndKnees, KneelingSidePlank:
		out = []Load{Kneel}
	case Plank, SidePlank:
		out = []Load{Hands}
	case DownDog:
		out = []Load{Hands, HeadLow}
	case Prone:
		out = []Load{OnFront}
	case Supine:
		out = []Load{OnBack}
	}
	if p.OnFloor() {
		out = append(out, Floor)
	}
	return out
}

// prepare works out what follows from the data, and checks it. Of a movement that is weighed the demand is known.
func (m *Movement) prepare(weighed bool) error {
	if err := m.whole(); err != nil {
		return fmt.Errorf("movement %q: %w", m.Slug, err)
	}
	for i := range m.Levels {
		if err := m.prepareLevel(i, weighed); err != nil {
			return fmt.Errorf("movement %q: level %d: %w", m.Slug, i+1, err)
		}
	}
	m.parts = nil
	for i, r := range regions {
		if w := m.Regions[r]; w > 0 {
			m.parts = append(m.parts, Share{i, w})
		}
	}
	if !m.Inline { // one written into a plan is not searched for
		m.index()
	}
	m.answers = &answers{}
	m.view()
	return m.programmed()
}

// programmed checks what programming needs once the views of the levels are there.
func (m *Movement) programmed() error {
	for i := range m.Levels {
		v := m.As(i + 1)
		if err := checkPhases(v.Phases, v.Breath); err != nil {
			return fmt.Errorf("movement %q: level %d: %w", m.Slug, i+1, err)
		}
		if m.Has(i+1, Lands) && m.At(i+1).Quiet == "" && !m.Inline {
			return fmt.Errorf("movement %q: level %d: it lands: say how it is done quietly", m.Slug, i+1)
		}
	}
	return nil
}

// whole tells whether everything is said that a movement needs, in words there are.
func (m *Movement) whole() error {
	if m.Slug == "" || strings.ToLower(m.Slug) != m.Slug || strings.ContainsAny(m.Slug, " _/.") {
		return errors.New("slug must be lower-case words joined by hyphens")
	}
	if m.Name == "" || m.Posture == NoPosture || m.Sides == SidesUnsaid || m.Pace.Span == 0 || len(m.Levels) == 0 {
		return errors.New("name, posture, sides, pace and levels are needed")
	}
	if !m.Inline && !m.Own {
		if len(m.Levels) < 2 || m.Dose.IsZero() || m.Setup == "" || m.Say == "" || m.Watch == "" || m.Fault == "" || m.Ease == "" || m.Breath == "" || m.Purpose == "" {
			return errors.New("dose, purpose, setup, say, breath, watch, fault, ease and at least two levels are needed")
		}
		if !slices.Contains(phases, m.Phase) {
			return fmt.Errorf("phase %q: expected one of %v", m.Phase, phases)
		}
		if len(m.Regions) == 0 {
			return errors.New("regions are needed")
		}
	}
	for r, w := range m.Regions {
		if !slices.Contains(regions, r) || w <= 0 || w > 1 {
			return fmt.Errorf("region %q with %v: expected one of %v with a weight over 0 up to 1", r, w, regions)
		}
	}
	for _, d := range m.Spine {
		if !slices.Contains(directions, d) {
			return fmt.Errorf("spine %q: expected one of %v", d, directions)
		}
	}
	for i := range m.Levels {
		for _, d := range m.Levels[i].Spine {
			if !slices.Contains(directions, d) {
				return fmt.Errorf("level %d: spine %q: expected one of %v", i+1, d, directions)
			}
		}
	}
	for _, c := range m.Cares {
		if err := c.check(len(m.Levels)); err != nil {
			return err
		}
	}
	return m.checkProgramming()
}

// prepareLevel works out what a level, from 0, bears and demands; weighed: its demand is known.
func (m *Movement) prepareLevel(i int, weighed bool) error {
	l := &m.Levels[i]
	own := m.Loads
	if l.Loads != nil {
		own = l.Loads
	}
	posture := m.Posture
	if l.Posture != NoPosture {
		posture = l.Posture
	}
	l.things = readKit(m, l)
	l.bears = posturesLoads(posture)
	for _, o := range own {
		if o == noHands {
			l.bears = slices.DeleteFunc(l.bears, func(x Load) bool { return x == Hands })
			continue
		}
		if !slices.Contains(loads, o) {
			return fmt.Errorf("load %q: expected one of %v", o, loads)
		}
		if !slices.Contains(l.bears, o) {
			l.bears = append(l.bears, o)
		}
	}
	if l.Demand < 0 || l.Demand > 10 {
		return fmt.Errorf("demand %v is not within 0 to 10", l.Demand)
	}
	if !weighed && slices.Contains(l.bears, Hands) {
		l.OnHands = l.onHands(m)
	}
	if m.Inline {
		return nil
	}
	if l.Changes == "" || l.Why == "" {
		return errors.New("changes and why are needed")
	}
	if !weighed {
		strip, err := l.strip(m)
		if err != nil {
			return err
		}
		if err := l.weigh(m, strip); err != nil {
			return err
		}
	}
	if i > 0 && l.Demand < m.Levels[i-1].Demand+.05 && l.Lighter == "" && !m.Stretch && !m.Own {
		return fmt.Errorf("demand %v is not above %v of the level below, and the level does not say why", l.Demand, m.Levels[i-1].Demand)
	}
	return nil
}

// handsAt is the share of body weight on the hands by position, in percent, where no pose tells it; judgement, near to what the
// poses of the library give.
var handsAt = map[Posture]float64{Plank: 65, SidePlank: 45, DownDog: 45, HandsAndKnees: 35}

const handsElsewhere = 25

// onHands is the share of body weight on the hands in percent, the most of a repetition.
func (l *Level) onHands(m *Movement) float64 {
	if !m.Inline {
		if strip, err := l.strip(m); err == nil {
			if loads, ok := weighed(strip); ok && loads.Hands > 0 {
				return math.Round(loads.Hands)
			}
		}
	}
	posture := m.Posture
	if l.Posture != NoPosture {
		posture = l.Posture
	}
	if v, ok := handsAt[posture]; ok {
		return v
	}
	return handsElsewhere
}

// Library finds movements by slug and by the words people use for them.
type Library struct {
	bySlug map[string]*Movement
	byName map[string]*Movement
	all    []*Movement
	heads  map[*Movement]bool // those that others are versions of
	pace   Personal
	turned map[string]*Movement // what this teacher breathes the other way round
}

// findHeads notes which movements others are versions of.
func (l *Library) findHeads() {
	l.heads = map[*Movement]bool{}
	for _, m := range l.all {
		if h := l.Head(m); h != m {
			l.heads[h] = true
		}
	}
}

// Get finds a movement by slug.
func (l *Library) Get(slug string) (*Movement, bool) {
	if m, ok := l.turned[slug]; ok {
		return m, true
	}
	m, ok := l.bySlug[slug]
	return m, ok
}

// All lists the movements in order of name.
func (l *Library) All() []*Movement { return l.all }

// Named finds a movement by its exact name, slug or another name in use.
func (l *Library) Named(words string) (*Movement, bool) {
	m, ok := l.byName[fold(words)]
	return m, ok
}

// New builds a library and checks it as a whole.
func New(ms []*Movement) (*Library, error) { return build(ms, false) }

func build(ms []*Movement, weighed bool) (*Library, error) {
	l := &Library{bySlug: map[string]*Movement{}, byName: map[string]*Movement{}}
	var errs []error // all of them: whoever writes data mends them in one go
	for _, m := range ms {
		if err := m.prepare(weighed); err != nil {
			errs = append(errs, err)
			continue
		}
		if l.bySlug[m.Slug] != nil {
			errs = append(errs, fmt.Errorf("movement %q is there twice", m.Slug))
			continue
		}
		l.bySlug[m.Slug] = m
		for _, n := range append([]string{m.Name, m.Slug}, m.Also...) {
			if o := l.byName[fold(n)]; o != nil && o != m {
				errs = append(errs, fmt.Errorf("movement %q: the name %q belongs to %q", m.Slug, n, o.Slug))
				continue
			}
			l.byName[fold(n)] = m
		}
		l.all = append(l.all, m)
	}
	for _, m := range l.all {
		errs = append(errs, l.checkRefers(m)...)
		for _, g := range m.Gives {
			if l.bySlug[g] == nil {
				errs = append(errs, fmt.Errorf("movement %q: gives back %q, which is not there", m.Slug, g))
			}
		}
		for _, g := range m.Leads {
			if l.bySlug[g] == nil {
				errs = append(errs, fmt.Errorf("movement %q: leads to %q, which is not there", m.Slug, g))
			}
		}
	}
	if len(errs) > 0 {
		return nil, errors.Join(errs...)
	}
	slices.SortFunc(l.all, func(a, b *Movement) int { return strings.Compare(a.Name, b.Name) })
	l.findHeads()
	return l, nil
}

// checkRefers tells what a movement names that is not there: of what it is a version, what comes first.
func (l *Library) checkRefers(m *Movement) (errs []error) {
	if v := m.VersionOf; v != "" {
		switch head := l.bySlug[v]; {
		case head == nil:
			errs = append(errs, fmt.Errorf("movement %q: a version of %q, which is not there", m.Slug, v))
		case head == m:
			errs = append(errs, fmt.Errorf("movement %q: a version of itself", m.Slug))
		case head.VersionOf == m.Slug:
			errs = append(errs, fmt.Errorf("movement %q: it and %q are versions of each other", m.Slug, v))
		}
	}
	for i := range m.Levels {
		for _, n := range m.At(i + 1).Needs {
			switch o := l.bySlug[n.Slug]; {
			case o == nil || n.Level > len(o.Levels):
				errs = append(errs, fmt.Errorf("movement %q: level %d: needs %q, which is not there", m.Slug, i+1, n))
			case o == m && n.Level > i:
				errs = append(errs, fmt.Errorf("movement %q: level %d: needs itself or a later level", m.Slug, i+1))
			}
		}
	}
	return errs
}

// inlineSlug is the slug of a movement that is written into a plan.
func inlineSlug(name string) string {
	return strings.NewReplacer("_", "-", "/", "-", ".", "-").Replace("own:" + strings.ReplaceAll(fold(name), " ", "-"))
}

//go:embed data/*.yaml
var files embed.FS

// ReadYAML reads movements from one file of the library; the error gives line and column. A demand beside a family
// that computes it is refused.
func ReadYAML(name string, text []byte) ([]*Movement, error) {
	var ms []*Movement
	if err := yaml.UnmarshalWithOptions(text, &ms, yaml.Strict()); err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	for _, m := range ms {
		for i, l := range m.Levels {
			if (m.Family != NoFamily || l.Family != NoFamily) && !l.Judged && l.Demand != 0 {
				return nil, fmt.Errorf("%s: %s, level %d: its demand is computed; leave it out, or say judged: true", name, m.Slug, i+1)
			}
		}
	}
	return ms, nil
}

// library.json is what the YAML files make, with every demand weighed: so a program starts without reading YAML or
// working out a thousand poses. A test makes it anew and compares; make library writes it.
//
//go:embed library.json
var compiled []byte

// Shipped is the library that comes with the product.
var Shipped = sync.OnceValue(func() *Library {
	var list []*compiledMovement
	if err := json.Unmarshal(compiled, &list); err != nil {
		panic(err) // compiled in and compared by the tests
	}
	ms := make([]*Movement, len(list))
	for i, m := range list {
		ms[i] = (*Movement)(m)
	}
	l, err := build(ms, true)
	if err != nil {
		panic(err)
	}
	return l
})

// compiledMovement is a movement as library.json has it: its fields as they are, not the published document.
type compiledMovement Movement

// compile writes a library as library.json.
func compile(l *Library) ([]byte, error) {
	list := make([]*compiledMovement, len(l.all))
	for i, m := range l.all {
		list[i] = (*compiledMovement)(m)
	}
	return json.MarshalIndent(list, "", " ")
}

// Source builds the library from its YAML files, every pose looked up and every demand weighed.
func Source() (*Library, error) {
	names, err := fs.Glob(files, "data/*.yaml")
	if err != nil {
		return nil, err
	}
	var all []*Movement
	for _, n := range names {
		text, err := fs.ReadFile(files, n)
		if err != nil {
			return nil, err
		}
		ms, err := ReadYAML(n, text)
		if err != nil {
			return nil, err
		}
		all = append(all, ms...)
	}
	l, err := New(all)
	if err != nil {
		return nil, err
	}
	var errs []error
	for _, m := range l.all {
		if err := m.wholeProgramming(); err != nil {
			errs = append(errs, fmt.Errorf("movement %q: %w", m.Slug, err))
		}
	}
	return l, errors.Join(errs...)
}
