package movement

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"wavekine/core/clock"
	"wavekine/core/dose"
)

// What programming a class or a series needs to know of a movement, besides how it is done: what kind of movement it is, how
// much of it is little, usual and much, what it does in the arc of a class, what days it serves. All of it is judgement from
// common practice, with no published source, and may be said otherwise in a studio's own movements.

// patterns are the kinds of movement, of which a class takes no more than a few each.
var patterns = []string{
	"breathe", "rest", "tilt", "circle", "rock", "round", "open", "side bend", "turn", "arms", "curl", "roll", "over", "ball", "leg hold", "bridge",
	"hip back", "hip side", "hip in", "hip round", "back lift", "plank", "push", "side plank", "lean", "squat", "lunge", "hinge", "step", "balance", "calf", "legs up",
	"stretch front", "stretch back", "stretch inside", "stretch seat", "stretch calf", "stretch neck", "stretch side", "stretch chest",
}

// Patterns lists the kinds of movement.
func Patterns() []string { return slices.Clone(patterns) }

// Role is what a movement can do in the arc of a class.
type Role string

// The roles, in the order of the arc.
const (
	Arrive   Role = "arrive"
	Mobilise Role = "mobilise"
	Wake     Role = "wake" // the deep core
	Build    Role = "build"
	Peak     Role = "peak"
	Counter  Role = "counter" // what takes back what a block has done
	Settle   Role = "settle"
)

var roles = []Role{Arrive, Mobilise, Wake, Build, Peak, Counter, Settle}

// Roles lists the roles in the order of the arc.
func Roles() []Role { return slices.Clone(roles) }

// themes are what a day can be about.
var themes = []string{
	"spine", "back", "upper back", "shoulders", "chest", "neck", "wrists", "core", "waist", "hips", "seat", "legs", "hamstrings", "feet", "balance", "breath", "rest",
}

// Themes lists what a day can be about.
func Themes() []string { return slices.Clone(themes) }

// themeOf gives the theme a region stands for, where a movement names none.
var themeOf = map[string]string{
	"neck": "neck", "shoulders": "shoulders", "upper back": "upper back", "chest": "chest", "wrists": "wrists", "abdominals": "core", "deep core": "core", "obliques": "waist",
	"low back": "back", "hips": "hips", "gluteals": "seat", "thighs": "legs", "hamstrings": "hamstrings", "ankles": "feet", "breath": "breath", "balance": "balance",
}

const themeWeight = .5 // from which a region worked is a theme of the movement; judgement

// RolesOf are the roles of the movement; of one that names none they follow from its part of class.
func (m *Movement) RolesOf() []Role {
	if len(m.Roles) > 0 {
		return m.Roles
	}
	if slices.Contains(roles, Role(m.Phase)) {
		return []Role{Role(m.Phase)}
	}
	return nil
}

// ThemesOf are the days the movement serves; of one that names none they follow from what it works. The hip flexors are
// no theme: that they carry the legs does not make a hips day.
func (m *Movement) ThemesOf() []string {
	if len(m.Themes) > 0 {
		return m.Themes
	}
	var out []string
	for _, s := range m.Shares() {
		if t := themeOf[regions[s.Region]]; t != "" && s.Weight >= themeWeight && !slices.Contains(out, t) {
			out = append(out, t)
		}
	}
	return out
}

// Unit is what a range counts.
type Unit string

// The units.
const (
	CountReps    Unit = "repetitions"
	CountBreaths Unit = "breaths"
	CountSeconds Unit = "seconds"
)

// Range is how much of a movement is done at least and at most in one go, per side or direction, and the step by which it
// changes. It is written "4 to 12 by 1".
type Range struct{ Min, Max, Step int }

// IsZero tells whether nothing is said.
func (r Range) IsZero() bool { return r == Range{} }

// String writes it.
func (r Range) String() string {
	if r.IsZero() {
		return ""
	}
	return fmt.Sprintf("%d to %d by %d", r.Min, r.Max, r.Step)
}

// MarshalText writes it.
func (r Range) MarshalText() ([]byte, error) { return []byte(r.String()), nil }

var rangeSaid = regexp.MustCompile(`^(\d{1,3}) to (\d{1,3})(?: by (\d{1,3}))?$`)

// UnmarshalText reads "4 to 12 by 1"; without a step it is 1. An error says what is expected.
func (r *Range) UnmarshalText(b []byte) error {
	if len(b) == 0 {
		*r = Range{}
		return nil
	}
	f := rangeSaid.FindStringSubmatch(strings.TrimSpace(string(b)))
	if f == nil {
		return fmt.Errorf("%q: expected a range like 4 to 12 by 1", b)
	}
	out := Range{Step: 1}
	out.Min, _ = strconv.Atoi(f[1])
	out.Max, _ = strconv.Atoi(f[2])
	if f[3] != "" {
		out.Step, _ = strconv.Atoi(f[3])
	}
	*r = out
	return r.check()
}

// maxRange is the most that one go may ask for, of repetitions, breaths or seconds.
const maxRange = 600

func (r Range) check() error {
	switch {
	case r.Min < 1 || r.Max > maxRange || r.Max < r.Min:
		return fmt.Errorf("%s: expected a range within 1 to %d, the less first", r, maxRange)
	case r.Step < 1 || r.Step > max(1, r.Max-r.Min):
		return fmt.Errorf("%s: expected a step from 1 to what lies between", r)
	}
	return nil
}

// Amount is how much a dose asks for in one go, per side or direction; ok is false where it is not a plain count or hold.
func Amount(d dose.Dose) (n int, unit Unit, ok bool) {
	if d.IsZero() {
		return 0, "", false
	}
	p := d.Parts[0]
	switch p.Kind {
	case dose.Reps, dose.Pulses, dose.Rounds:
		n, unit = p.Count, CountReps
		if d.Per == dose.Alternating {
			n = (n + 1) / 2
		}
	case dose.Breaths:
		n, unit = p.Count, CountBreaths
	case dose.Hold:
		switch n, unit = p.Count, CountBreaths; {
		case n > 0:
		case p.Counts > 0: // of about a second each
			n, unit = p.Counts, CountSeconds
		default:
			n, unit = int(math.Round(p.Span.Seconds())), CountSeconds
		}
	case dose.Time:
		n, unit = int(math.Round(p.Span.Seconds())), CountSeconds
	default:
		return 0, "", false
	}
	return n, unit, n > 0
}

// WithAmount is a dose with its first part asking for n per side or direction.
func WithAmount(d dose.Dose, n int) dose.Dose {
	d.Parts = slices.Clone(d.Parts)
	p := &d.Parts[0]
	switch _, unit, _ := Amount(d); {
	case unit == CountSeconds:
		p.SetSpan(clock.Seconds(float64(n)))
	case d.Per == dose.Alternating:
		p.SetCount(2 * n)
	default:
		p.SetCount(n)
	}
	return d
}

// Bounds is the range of a level with what is usual and what it counts.
type Bounds struct {
	Min   int  `json:"min"`
	Usual int  `json:"usual"`
	Max   int  `json:"max"`
	Step  int  `json:"step"`
	Unit  Unit `json:"unit"`
}

const fiveSeconds = 5 // seconds are said in fives

// Bounds of level n: its own range, else the movement's, in proportion where the level has a usual dose of its own. A
// movement that says no range has from half of what is usual to half as much again. ok is false where the usual dose is no
// plain count.
func (m *Movement) Bounds(n int) (b Bounds, ok bool) {
	usual, unit, ok := Amount(m.As(n).Dose)
	if !ok {
		return b, false
	}
	r := m.At(n).Range
	if r.IsZero() {
		r = m.Range
		whole, whose, _ := Amount(m.Dose)
		switch {
		case r.IsZero() || whose != unit:
			r = Range{max(1, usual/2), max(usual+1, usual*3/2), 1}
			if unit == CountSeconds {
				r = Range{max(fiveSeconds, usual/2/fiveSeconds*fiveSeconds), max(usual+fiveSeconds, usual*3/2/fiveSeconds*fiveSeconds), fiveSeconds}
			}
		case usual != whole:
			grain := 1
			if unit == CountSeconds {
				grain = fiveSeconds
			}
			scaled := func(v int) int {
				return max(grain, grain*int(math.Round(float64(v*usual)/float64(whole*grain))))
			}
			r = Range{scaled(r.Min), scaled(r.Max), r.Step}
			if r.Step > (r.Max-r.Min)/2 {
				r.Step = grain
			}
			r.Max = max(r.Max, r.Min+r.Step)
		}
	}
	return Bounds{min(r.Min, usual), usual, max(r.Max, usual), r.Step, unit}, true
}

// Skill of level n from 1, what anybody can do, to 3, what takes practice; where the level does not say it follows from
// its demand.
func (m *Movement) Skill(n int) int {
	l := m.At(n)
	switch {
	case l.Skill > 0:
		return l.Skill
	case m.Stretch || l.Demand < 3:
		return 1
	case l.Demand < 6:
		return 2
	}
	return 3
}

// Need is a level of a movement that comes before another. It is written "roll-up 2".
type Need struct {
	Slug  string
	Level int
}

// MarshalText writes it.
func (n Need) MarshalText() ([]byte, error) { return []byte(n.String()), nil }

// String writes it.
func (n Need) String() string { return n.Slug + " " + strconv.Itoa(n.Level) }

// UnmarshalText reads "roll-up 2"; without a number it is level 1.
func (n *Need) UnmarshalText(b []byte) error {
	slug, level, numbered := strings.Cut(strings.TrimSpace(string(b)), " ")
	*n = Need{slug, 1}
	if numbered {
		v, err := strconv.Atoi(level)
		if err != nil || v < 1 || v > maxLevels {
			return fmt.Errorf("%q: expected a movement and a level, like roll-up 2", b)
		}
		n.Level = v
	}
	if slug == "" {
		return fmt.Errorf("%q: expected a movement and a level, like roll-up 2", b)
	}
	return nil
}

// NeedsAt is what comes before level n: what it and the levels under it name, of each movement the highest level.
func (m *Movement) NeedsAt(n int) (out []Need) {
	for k := 1; k <= min(n, len(m.Levels)); k++ {
		for _, need := range m.At(k).Needs {
			if BaseSlug(need.Slug) == BaseSlug(m.Slug) { // its own lower levels go without saying
				continue
			}
			if i := slices.IndexFunc(out, func(o Need) bool { return o.Slug == need.Slug }); i >= 0 {
				out[i].Level = max(out[i].Level, need.Level)
			} else {
				out = append(out, need)
			}
		}
	}
	return out
}

// mostVersions is how far the head of a family is looked for: further is a mistake of the data.
const mostVersions = 8

// Head is the movement of which m is a version, the first of them: m itself where it is a version of nothing here.
func (l *Library) Head(m *Movement) *Movement {
	for range mostVersions {
		of := m.VersionOf
		if of == "" {
			return m
		}
		next := l.bySlug[of]
		if next == nil {
			return m
		}
		m = next
	}
	return m
}

// FamilyOf lists the versions of one thing that m belongs to, the one they are versions of first, then as they come in the
// library, m among them; nil where m stands alone.
func (l *Library) FamilyOf(m *Movement) []*Movement {
	head := l.Head(m)
	out := []*Movement{head}
	for _, o := range l.all {
		if o != head && (!o.Hidden || o == m) && l.Head(o) == head {
			out = append(out, o)
		}
	}
	if len(out) < 2 {
		return nil
	}
	return out
}

// Naming is what gives a side its name.
type Naming string

// What names a side.
const (
	ByWorking Naming = "works"     // the limb that works
	ByTop     Naming = "top"       // the upper limb works, lying on the other side
	ByBottom  Naming = "bottom"    // the side lain on or borne on
	Towards   Naming = "towards"   // turned or bent to
	ByFront   Naming = "front"     // the limb in front
	ByBack    Naming = "back"      // the limb behind
	ByStand   Naming = "stands"    // the leg stood on
	ByStretch Naming = "stretched" // the side that is stretched
)

var namings = []Naming{ByWorking, ByTop, ByBottom, Towards, ByFront, ByBack, ByStand, ByStretch}

var namingSays = map[Naming]string{
	ByWorking: "what works", ByTop: "the upper limb; one lies on the other side", ByBottom: "the side below", Towards: "where it turns, bends or goes to", ByFront: "the limb in front", ByBack: "the limb behind",
	ByStand: "the leg one stands on", ByStretch: "the side that is stretched",
}

// Says is the naming in words.
func (n Naming) Says() string { return namingSays[n] }

// Namings lists what can name a side.
func Namings() []Naming { return slices.Clone(namings) }

// NamedBy is what names the side on level n; empty where it is done on both sides at once.
func (m *Movement) NamedBy(n int) Naming {
	v := m.As(n)
	switch {
	case v.Sides == Both || v.Sides == SidesUnsaid:
		return ""
	case m.Named != "":
		return m.Named
	case v.Posture == SideLying:
		return ByTop
	case v.Posture == SidePlank || v.Posture == KneelingSidePlank:
		return ByBottom
	}
	return ByWorking
}

// LiesOn tells on which side one lies while the side right or left works: "left" for a right leg lifted on the side. Empty
// where nobody lies on a side, or the side is named by it.
func (m *Movement) LiesOn(n int, right bool) string {
	if m.NamedBy(n) != ByTop {
		return ""
	}
	if right {
		return "left"
	}
	return "right"
}

// Check is what a teacher looks at in a level, and what then.
type Check struct {
	Look string `json:"look"`           // where to look
	Feel string `json:"feel,omitempty"` // what the mover can feel for
	Lost string `json:"lost"`           // the sign that it is lost
	Then string `json:"then,omitempty"` // what to do then
	Felt string `json:"felt,omitempty"` // where it should be felt
	Not  string `json:"not,omitempty"`  // and where not
}

// CheckOf is the check of level n. What to do then is what the movement says; on the first level, which is often that, and where
// nothing is said, the easier way it knows.
func (m *Movement) CheckOf(n int) Check {
	v := m.As(n)
	c := Check{Look: v.Watch, Feel: v.Feel, Lost: v.Fault, Then: v.Then, Felt: v.Felt, Not: v.NotFelt}
	if ease := strings.TrimSuffix(v.Ease, "."); ease != "" && (c.Then == "" || n <= 1 && m.At(1).Then == "") {
		first, size := utf8.DecodeRuneInString(ease)
		c.Then = string(unicode.ToLower(first)) + ease[size:]
	}
	return c
}

// checkProgramming tells what is wrong with what programming needs, of the movement and its levels.
func (m *Movement) checkProgramming() error {
	if m.Pattern != "" && !slices.Contains(patterns, m.Pattern) {
		return fmt.Errorf("pattern %q: expected one of %s", m.Pattern, strings.Join(patterns, ", "))
	}
	for _, r := range m.Roles {
		if !slices.Contains(roles, r) {
			return fmt.Errorf("role %q: expected one of %v", r, roles)
		}
	}
	for _, t := range m.Themes {
		if !slices.Contains(themes, t) {
			return fmt.Errorf("theme %q: expected one of %s", t, strings.Join(themes, ", "))
		}
	}
	if m.Named != "" && !slices.Contains(namings, m.Named) {
		return fmt.Errorf("named %q: expected one of %v", m.Named, namings)
	}
	if m.Assist != "" && m.Alone == "" || m.Assist == "" && m.Alone != "" {
		return fmt.Errorf("an assist and what to do alone come together")
	}
	for i := range m.Levels {
		l := &m.Levels[i]
		if l.Skill < 0 || l.Skill > 3 {
			return fmt.Errorf("level %d: skill %d: expected 1 to 3", i+1, l.Skill)
		}
		for _, r := range []Range{l.Range, m.Range} {
			if !r.IsZero() {
				if err := r.check(); err != nil {
					return fmt.Errorf("level %d: %w", i+1, err)
				}
			}
		}
	}
	return nil
}

// wholeProgramming tells whether a shipped movement says all that programming needs.
func (m *Movement) wholeProgramming() error {
	if m.Pattern == "" || m.Range.IsZero() || len(m.Roles) == 0 || len(m.Themes) == 0 || m.Felt == "" || m.NotFelt == "" || m.Then == "" {
		return fmt.Errorf("pattern, range, roles, themes, felt, not felt and when lost are needed")
	}
	for i := range m.Levels {
		b, ok := m.Bounds(i + 1)
		if !ok {
			return fmt.Errorf("level %d: its usual dose %s is no plain count", i+1, m.As(i+1).Dose)
		}
		own := m.At(i + 1).Range
		if own.IsZero() {
			own = m.Range
			if _, unit, _ := Amount(m.Dose); unit != b.Unit {
				return fmt.Errorf("level %d: it counts %s, which the range of the movement does not: it needs its own", i+1, b.Unit)
			}
		}
		if m.At(i+1).Dose.IsZero() && (b.Usual < own.Min || b.Usual > own.Max) {
			return fmt.Errorf("level %d: the usual %d lies outside of %s", i+1, b.Usual, own)
		}
		if m.At(i+1).Skill == 0 {
			return fmt.Errorf("level %d: skill is needed", i+1)
		}
	}
	return nil
}
