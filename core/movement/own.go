package movement

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/body"
	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/strict"
)

// OwnFormat is the format of a studio's own movement.
const OwnFormat = "wavekine.movement/1"

// Limits of a movement document; judgement.
const (
	maxWords   = 600
	maxLevels  = 8
	mostPhases = 8
	maxKit     = 80 // characters of a piece of kit with what will do instead
)

// document is the published form of a movement.
type document struct {
	Format  string             `json:"format"`
	Slug    string             `json:"slug"`
	Name    string             `json:"name"`
	Also    []string           `json:"also,omitempty"`
	Purpose string             `json:"purpose"`
	Phase   string             `json:"phase"`
	Posture Posture            `json:"posture"`
	Ends    string             `json:"ends,omitempty"`
	Sides   Sides              `json:"sides"`
	Limb    string             `json:"limb,omitempty"`
	Stretch bool               `json:"stretch,omitempty"`
	Rest    bool               `json:"rest,omitempty"`
	DoseIs  bool               `json:"dose_is_it,omitempty"`
	PerRep  float64            `json:"seconds_per_rep"`
	Dose    string             `json:"dose"`
	Spine   []Direction        `json:"spine,omitempty"`
	Regions map[string]float64 `json:"regions"`
	Loads   []Load             `json:"loads,omitempty"`
	Kit     []string           `json:"kit,omitempty"`
	Setup   string             `json:"setup"`
	Say     string             `json:"say"`
	Breath  string             `json:"breath"`
	Watch   string             `json:"watch"`
	Fault   string             `json:"fault"`
	Ease    string             `json:"ease"`
	Care    string             `json:"care,omitempty"`
	Gives   []string           `json:"gives_back,omitempty"`
	Leads   []string           `json:"leads_to,omitempty"`
	// What programming needs: all of it may be left out.
	Pattern    string          `json:"pattern,omitempty"`
	Range      *rangeDocument  `json:"range,omitempty"`
	Roles      []Role          `json:"roles,omitempty"`
	Themes     []string        `json:"themes,omitempty"`
	VersionOf  string          `json:"version_of,omitempty"`
	NamedBy    Naming          `json:"named_by,omitempty"`
	BreathOver int             `json:"breath_over,omitempty"`
	Phases     []BreathPhase   `json:"phases,omitempty"`
	Feel       string          `json:"feel,omitempty"`
	Then       string          `json:"when_lost,omitempty"`
	Felt       string          `json:"felt,omitempty"`
	NotFelt    string          `json:"not_felt,omitempty"`
	Assist     string          `json:"assist,omitempty"`
	Alone      string          `json:"alone,omitempty"`
	Levels     []levelDocument `json:"levels"`
}

// rangeDocument is a range as the document has it, with what is usual: that follows from the usual dose, and is refused where it
// says something else.
type rangeDocument struct {
	Min   int `json:"min"`
	Usual int `json:"usual,omitempty"`
	Max   int `json:"max"`
	Step  int `json:"step"`
}

func rangeDoc(r Range, usual int) *rangeDocument {
	if r.IsZero() {
		return nil
	}
	return &rangeDocument{r.Min, usual, r.Max, r.Step}
}

type levelDocument struct {
	Changes string         `json:"changes"`
	Family  Family         `json:"family,omitempty"`
	Demand  *float64       `json:"demand,omitempty"` // judged; computed where there is a family
	Why     string         `json:"why"`
	Lighter string         `json:"lighter,omitempty"`
	Stance  float64        `json:"stance,omitempty"`
	PerRep  float64        `json:"seconds_per_rep,omitempty"`
	Loads   *[]Load        `json:"loads,omitempty"`
	Kit     *[]string      `json:"kit,omitempty"`
	Sides   string         `json:"sides,omitempty"`
	Posture string         `json:"posture,omitempty"`
	Ends    string         `json:"ends,omitempty"`
	Dose    string         `json:"dose,omitempty"`
	Spine   *[]Direction   `json:"spine,omitempty"`
	Setup   string         `json:"setup,omitempty"`
	Say     string         `json:"say,omitempty"`
	Breath  string         `json:"breath,omitempty"`
	Watch   string         `json:"watch,omitempty"`
	Fault   string         `json:"fault,omitempty"`
	Care    string         `json:"care,omitempty"`
	Skill   int            `json:"skill,omitempty"`
	Needs   []Need         `json:"needs,omitempty"`
	Range   *rangeDocument `json:"range,omitempty"`
	Quiet   string         `json:"quiet,omitempty"`
	Phases  []BreathPhase  `json:"phases,omitempty"`
	Feel    string         `json:"feel,omitempty"`
	Then    string         `json:"when_lost,omitempty"`
	Felt    string         `json:"felt,omitempty"`
	NotFelt string         `json:"not_felt,omitempty"`
	From    *body.Pose     `json:"from,omitempty"`
	Pose    body.Pose      `json:"pose"`
	extra   map[string]json.RawMessage
}

// MarshalJSON writes the level with what a later version added to it.
func (l levelDocument) MarshalJSON() ([]byte, error) {
	type plain levelDocument
	return strict.Join(plain(l), l.extra)
}

// MarshalJSON writes the movement as a wavekine.movement/1 document, of the library's own too.
func (m *Movement) MarshalJSON() ([]byte, error) {
	d := document{
		Format: OwnFormat, Slug: m.base(), Name: m.Name, Also: m.Also, Purpose: m.Purpose, Phase: m.Phase, Posture: m.Posture, Sides: m.Sides, Limb: m.Limb,
		Stretch: m.Stretch, Rest: m.Rest, DoseIs: m.DoseIsIt, PerRep: m.Pace.Span.Seconds(), Dose: m.Dose.String(), Spine: m.Spine, Regions: m.Regions, Loads: m.Loads, Kit: m.Kit,
		Setup: m.Setup, Say: m.Say, Breath: m.Breath, Watch: m.Watch, Fault: m.Fault, Ease: m.Ease, Care: m.Care, Gives: m.Gives, Leads: m.Leads,
		Ends: m.Ends.String(), Levels: []levelDocument{},
		Pattern: m.Pattern, Roles: m.Roles, Themes: m.Themes, VersionOf: m.VersionOf, NamedBy: m.Named, BreathOver: m.BreathOver, Phases: m.Phases,
		Feel: m.Feel, Then: m.Then, Felt: m.Felt, NotFelt: m.NotFelt, Assist: m.Assist, Alone: m.Alone,
	}
	usual, _, _ := Amount(m.Dose)
	d.Range = rangeDoc(m.Range, usual)
	for i := range m.Levels {
		l := &m.Levels[i]
		ld := levelDocument{
			Changes: l.Changes, Family: l.Family, Why: l.Why, Lighter: l.Lighter, Stance: l.Stance, extra: l.extra, Sides: l.Sides.String(), Posture: l.Posture.String(), Ends: l.Ends.String(),
			Setup: l.Setup, Say: l.Say, Breath: l.Breath, Watch: l.Watch, Fault: l.Fault, Care: l.Care,
			Skill: l.Skill, Needs: l.Needs, Quiet: l.Quiet, Phases: l.Phases, Feel: l.Feel, Then: l.Then, Felt: l.Felt, NotFelt: l.NotFelt,
		}
		its := usual
		if !l.Dose.IsZero() {
			its, _, _ = Amount(l.Dose)
		}
		ld.Range = rangeDoc(l.Range, its)
		if !l.Dose.IsZero() {
			ld.Dose = l.Dose.String()
		}
		if l.Spine != nil {
			ld.Spine = &l.Spine
		}
		if ld.Family == NoFamily {
			ld.Family = m.Family
		}
		if l.Judged {
			ld.Family = NoFamily
		}
		if !l.Computed {
			ld.Demand = &l.Demand
		}
		if l.Pace != nil {
			ld.PerRep = l.Pace.Span.Seconds()
		}
		if l.Loads != nil {
			ld.Loads = &l.Loads
		}
		if l.Kit != nil {
			ld.Kit = &l.Kit
		}
		strip, err := l.strip(m)
		if err != nil {
			return nil, err
		}
		if n := len(strip); n > 0 {
			ld.Pose = strip[n-1].Pose
			if n > 1 {
				ld.From = &strip[0].Pose
			}
		}
		d.Levels = append(d.Levels, ld)
	}
	if m.format != "" {
		d.Format = m.format
	}
	return strict.Join(d, m.extra)
}

func (m *Movement) base() string {
	if m.Base != "" {
		return m.Base
	}
	return m.Slug
}

// BaseSlug is a slug without its version: "own-lean~3" is "own-lean".
func BaseSlug(slug string) string {
	base, _, _ := strings.Cut(slug, "~")
	return base
}

// IsOwn tells whether a slug, with or without a version, is of a studio's own movement: no shipped one begins
// with "own-" (a test holds it).
func IsOwn(slug string) bool { return strings.HasPrefix(slug, ownPrefix) }

const ownPrefix = "own-"

// SlugOf makes a slug for a studio's own movement from its name.
func SlugOf(name string) string {
	s := strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			return r
		case r == ' ' || r == '-':
			return '-'
		}
		return -1
	}, fold(name))
	for strings.Contains(s, "--") {
		s = strings.ReplaceAll(s, "--", "-")
	}
	s = strings.Trim(s, "-")
	if s == "" {
		s = "movement"
	}
	return ownPrefix + s[:min(len(s), 60)]
}

// Seal writes a movement as it may be stored: read back it is the same. The error is *strict.Error with the place.
func Seal(m *Movement, lib *Library) ([]byte, error) {
	doc, err := m.MarshalJSON()
	if err != nil {
		return nil, err
	}
	back, err := ReadOwn(doc, lib)
	if err != nil {
		return nil, err
	}
	again, err := back.MarshalJSON()
	if err != nil {
		return nil, err
	}
	if string(again) != string(doc) {
		return nil, &strict.Error{Path: "$", Says: "it would not be read back as it is"}
	}
	return doc, nil
}

// ReadOwn reads a wavekine.movement/1 document. Errors are *strict.Error with the JSON path. Counter
// movements and what it leads to are checked against a library.
func ReadOwn(text []byte, lib *Library) (*Movement, error) {
	r, v := strict.Parse(text)
	if r.Err() != nil {
		return nil, r.Err()
	}
	m := readOwn(v, lib)
	if err := r.Err(); err != nil {
		return nil, err
	}
	return m, nil
}

func readOwn(v strict.Value, lib *Library) *Movement {
	o := v.Object()
	m := &Movement{Own: true}
	f := o.Need("format")
	m.format = f.Text(60)
	keep := strings.HasPrefix(m.format, OwnFormat+".") // a later minor version: what it adds is kept
	if m.format != OwnFormat && !keep {
		f.Fail("%q: expected %q", m.format, OwnFormat)
	}
	readNames(o, m)
	readHow(o, m)
	readRegions(o, m)
	m.Loads = readLoads(o, "loads")
	texts(o, "kit", 6, maxKit, func(_ strict.Value, s string) { m.Kit = append(m.Kit, s) })
	m.Purpose = readWords(o, "purpose", true)
	m.Setup, m.Say, m.Breath = readWords(o, "setup", true), readWords(o, "say", true), readWords(o, "breath", true)
	m.Watch, m.Fault, m.Ease, m.Care = readWords(o, "watch", true), readWords(o, "fault", true), readWords(o, "ease", true), readWords(o, "care", false)
	m.Gives, m.Leads = readOthers(o, "gives_back", lib), readOthers(o, "leads_to", lib)
	readProgramming(o, m, lib)
	levels := o.Need("levels")
	levels.List(maxLevels, func(_ int, e strict.Value) { m.Levels = append(m.Levels, readLevel(e, m, lib, keep)) })
	if len(m.Levels) == 0 {
		levels.Fail("a movement has at least one level")
	}
	m.extra = o.Done(keep)
	return m
}

// readNames reads what a movement is called, and its place in a class.
func readNames(o *strict.Object, m *Movement) {
	slug := o.Need("slug")
	m.Slug = slug.Text(80)
	if m.Slug == "" || strings.Trim(m.Slug, "abcdefghijklmnopqrstuvwxyz0123456789-") != "" {
		slug.Fail("%q: expected lower-case words joined by hyphens", m.Slug)
	}
	if !strings.HasPrefix(m.Slug, "own-") {
		m.Slug = "own-" + m.Slug
	}
	m.Base = m.Slug
	nv := o.Need("name")
	m.Name = strings.TrimSpace(nv.Text(80))
	if m.Name == "" {
		nv.Fail("the movement has no name")
	}
	texts(o, "also", 20, 80, func(e strict.Value, s string) { m.Also = append(m.Also, s) })
	ph := o.Need("phase")
	if m.Phase = ph.Text(20); !slices.Contains(phases, m.Phase) {
		ph.Fail("%q: expected one of %s", m.Phase, strings.Join(phases, ", "))
	}
}

// readHow reads how a movement is done: positions, sides, tempo, dose, where the spine goes.
func readHow(o *strict.Object, m *Movement) {
	o.Need("posture")
	o.Into("posture", 40, &m.Posture)
	if e, ok := o.Get("ends"); ok && e.IsText() {
		if t := e.Text(40); t != "" {
			if err := m.Ends.UnmarshalText([]byte(t)); err != nil {
				e.Wrap(err)
			}
		}
	}
	o.Need("sides")
	o.Into("sides", 20, &m.Sides)
	m.Limb = readWords(o, "limb", false)
	if m.Limb == "" && m.Sides != Both {
		m.Limb = "side"
	}
	for key, to := range map[string]*bool{"stretch": &m.Stretch, "rest": &m.Rest, "dose_is_it": &m.DoseIsIt} {
		if e, ok := o.Get(key); ok {
			*to = e.Bool()
		}
	}
	m.Pace.Span = clock.Seconds(o.Need("seconds_per_rep").Float(.2, 300))
	o.Need("dose")
	o.Into("dose", 400, &m.Dose)
	if _, ok := o.Get("spine"); ok {
		m.Spine = readSpine(o)
	}
}

// readSpine reads where the spine goes; nowhere is no direction.
func readSpine(o *strict.Object) []Direction {
	out := []Direction{}
	texts(o, "spine", 4, 20, func(e strict.Value, s string) {
		d := Direction(s)
		if !slices.Contains(directions, d) || slices.Contains(out, d) {
			e.Fail("%q: expected forward, back, side or turn, each once", s)
		}
		out = append(out, d)
	})
	return out
}

// readWords reads what is said; needed words must say something.
func readWords(o *strict.Object, key string, need bool) string {
	e, ok := o.Get(key)
	if !ok {
		if need {
			o.Need(key)
		}
		return ""
	}
	t := strings.TrimSpace(e.Text(maxWords))
	if need && t == "" {
		e.Fail("say something here")
	}
	return t
}

// readLoads reads a list of loads.
func readLoads(o *strict.Object, key string) (out []Load) {
	texts(o, key, 12, 20, func(e strict.Value, s string) {
		if l := Load(s); slices.Contains(loads, l) || l == "no hands" {
			out = append(out, l)
		} else {
			e.Fail("%q: expected one of %v or no hands", s, loads)
		}
	})
	return out
}

// readOthers reads a list of movements of the library.
func readOthers(o *strict.Object, key string, lib *Library) (out []string) {
	texts(o, key, 12, 100, func(e strict.Value, s string) {
		if _, ok := lib.Get(s); !ok {
			e.Fail("no movement %q in the library", s)
		}
		out = append(out, s)
	})
	return out
}

func texts(o *strict.Object, key string, most, long int, visit func(e strict.Value, s string)) {
	if e, ok := o.Get(key); ok {
		e.List(most, func(_ int, e strict.Value) {
			if s := strings.TrimSpace(e.Text(long)); s != "" {
				visit(e, s)
			}
		})
	}
}

func readRegions(o *strict.Object, m *Movement) {
	e := o.Need("regions")
	ro := e.Object()
	m.Regions = map[string]float64{}
	for _, name := range regions {
		if w, ok := ro.Get(name); ok {
			if v := w.Float(0, 1); v > 0 {
				m.Regions[name] = v
			}
		}
	}
	ro.Done(false)
	if len(m.Regions) == 0 {
		e.Fail("say what it works: one of %s", strings.Join(regions, ", "))
	}
}

func readLevel(v strict.Value, m *Movement, lib *Library, keep bool) (l Level) {
	o := v.Object()
	l.Changes, l.Why, l.Lighter = readWords(o, "changes", true), readWords(o, "why", true), readWords(o, "lighter", false)
	fam, hasFamily := o.Get("family")
	if hasFamily {
		l.Family = Family(fam.Text(30))
		if _, ok := scales[l.Family]; !ok && l.Family != NoFamily {
			fam.Fail("%q: expected one of %s", l.Family, families())
		}
	}
	if e, ok := o.Get("demand"); ok {
		l.Demand, l.Judged = e.Float(0, 10), true
		if l.Family != NoFamily {
			e.Fail("the family computes it: leave the demand out, or the family for a judged one")
		}
	} else if l.Family == NoFamily {
		o.Need("demand")
	}
	if e, ok := o.Get("stance"); ok {
		l.Stance = e.Float(0, 100)
	}
	if e, ok := o.Get("seconds_per_rep"); ok {
		l.Pace = &Pace{Span: clock.Seconds(e.Float(.2, 300))}
	}
	o.Into("sides", 20, &l.Sides)
	o.Into("posture", 40, &l.Posture)
	o.Into("ends", 40, &l.Ends)
	o.Into("dose", 400, &l.Dose)
	if _, ok := o.Get("spine"); ok {
		l.Spine = readSpine(o)
	}
	l.Setup, l.Say, l.Breath = readWords(o, "setup", false), readWords(o, "say", false), readWords(o, "breath", false)
	l.Watch, l.Fault, l.Care = readWords(o, "watch", false), readWords(o, "fault", false), readWords(o, "care", false)
	if _, ok := o.Get("loads"); ok {
		l.Loads = readLoads(o, "loads")
		if l.Loads == nil {
			l.Loads = []Load{}
		}
	}
	if _, ok := o.Get("kit"); ok {
		l.Kit = []string{}
		texts(o, "kit", 6, maxKit, func(_ strict.Value, s string) { l.Kit = append(l.Kit, s) })
	}
	readLevelProgramming(o, m, &l, lib)
	pose := func(key string, need bool) {
		e, ok := o.Get(key)
		if !ok {
			if need {
				o.Need(key)
			}
			return
		}
		p, err := body.ReadPose(e.Raw())
		if err != nil {
			e.Wrap(err)
			return
		}
		if c := body.Solve(p).Complaints(); len(c) > 0 {
			e.Fail("the pose cannot be: %s", strings.Join(c, "; "))
			return
		}
		if len(l.poses) > 0 && (l.poses[0].Pose.Front != p.Front || l.poses[0].Pose.Plan != p.Plan) {
			e.Fail("the two poses are seen from different sides")
			return
		}
		l.poses = append(l.poses, body.Key{At: float64(len(l.poses)), Pose: p})
	}
	pose("from", false)
	pose("pose", true)
	if l.Family != NoFamily && len(l.poses) > 0 {
		if err := (&l).weigh(m, l.poses); err != nil {
			v.Wrap(err)
		}
	}
	l.extra = o.Done(keep)
	return l
}

// readProgramming reads what programming needs of the whole movement.
func readProgramming(o *strict.Object, m *Movement, lib *Library) {
	if e, ok := o.Get("pattern"); ok {
		if m.Pattern = e.Text(30); m.Pattern != "" && !slices.Contains(patterns, m.Pattern) {
			e.Fail("%q: expected one of %s", m.Pattern, strings.Join(patterns, ", "))
		}
	}
	m.Range = readRange(o, m.Dose)
	texts(o, "roles", len(roles), 20, func(e strict.Value, s string) {
		if r := Role(s); slices.Contains(roles, r) && !slices.Contains(m.Roles, r) {
			m.Roles = append(m.Roles, r)
		} else {
			e.Fail("%q: expected %v, each once", s, roles)
		}
	})
	texts(o, "themes", len(themes), 20, func(e strict.Value, s string) {
		if slices.Contains(themes, s) && !slices.Contains(m.Themes, s) {
			m.Themes = append(m.Themes, s)
		} else {
			e.Fail("%q: expected %s, each once", s, strings.Join(themes, ", "))
		}
	})
	if e, ok := o.Get("version_of"); ok {
		if m.VersionOf = e.Text(100); m.VersionOf != "" {
			switch v, ok := lib.Get(m.VersionOf); {
			case !ok:
				e.Fail("no movement %q in the library", m.VersionOf)
			case v.base() == m.base():
				e.Fail("a movement is no version of itself")
			case v.Own: // so that families cannot go round in a circle
				e.Fail("%q is of your own: name the movement of the library it is a version of", m.VersionOf)
			}
		}
	}
	if e, ok := o.Get("named_by"); ok {
		if m.Named = Naming(e.Text(20)); m.Named != "" && !slices.Contains(namings, m.Named) {
			e.Fail("%q: expected one of %v", m.Named, namings)
		}
	}
	if e, ok := o.Get("breath_over"); ok {
		m.BreathOver = e.Int(1, 40)
	}
	m.Phases = readPhases(o, m.Breath)
	m.Feel, m.Then, m.Felt, m.NotFelt = readWords(o, "feel", false), readWords(o, "when_lost", false), readWords(o, "felt", false), readWords(o, "not_felt", false)
	m.Assist, m.Alone = readWords(o, "assist", false), readWords(o, "alone", false)
	if e, ok := o.Get("assist"); ok && m.Assist != "" && m.Alone == "" {
		e.Fail("say also what to do alone")
	}
	if e, ok := o.Get("alone"); ok && m.Alone != "" && m.Assist == "" {
		e.Fail("what is done alone stands instead of an assist: say that too")
	}
}

// readLevelProgramming reads what programming needs of a level.
func readLevelProgramming(o *strict.Object, m *Movement, l *Level, lib *Library) {
	if e, ok := o.Get("skill"); ok {
		l.Skill = e.Int(1, 3)
	}
	texts(o, "needs", 8, 100, func(e strict.Value, s string) {
		var n Need
		if err := n.UnmarshalText([]byte(s)); err != nil {
			e.Wrap(err)
			return
		}
		if other, ok := lib.Get(n.Slug); !ok || n.Level > len(other.Levels) {
			e.Fail("no movement %q with a level %d in the library", n.Slug, n.Level)
		}
		l.Needs = append(l.Needs, n)
	})
	usual, words := m.Dose, m.Breath
	if !l.Dose.IsZero() {
		usual = l.Dose
	}
	l.Range = readRange(o, usual)
	if l.Breath != "" {
		words = l.Breath
	}
	l.Phases = readPhases(o, words)
	l.Quiet, l.Feel, l.Then = readWords(o, "quiet", false), readWords(o, "feel", false), readWords(o, "when_lost", false)
	l.Felt, l.NotFelt = readWords(o, "felt", false), readWords(o, "not_felt", false)
	own := m.Loads
	if l.Loads != nil {
		own = l.Loads
	}
	if slices.Contains(own, Lands) && l.Quiet == "" {
		o.Need("quiet")
	}
}

// readRange reads a range; what is usual is that of the dose.
func readRange(o *strict.Object, usual dose.Dose) (r Range) {
	e, ok := o.Get("range")
	if !ok {
		return r
	}
	if e.IsText() { // "4 to 12 by 1", as a form says it
		if err := r.UnmarshalText([]byte(strings.TrimSpace(e.Text(40)))); err != nil {
			e.Wrap(err)
			return r
		}
		if !r.IsZero() {
			usualWithin(e, r, usual)
		}
		return r
	}
	ro := e.Object()
	r = Range{Min: ro.Need("min").Int(1, maxRange), Max: ro.Need("max").Int(1, maxRange), Step: 1}
	if s, ok := ro.Get("step"); ok {
		r.Step = s.Int(1, maxRange)
	}
	its, unit, _ := Amount(usual)
	if u, ok := ro.Get("usual"); ok {
		if v := u.Int(1, maxRange); v != its {
			u.Fail("%d: the usual dose asks for %d %s a side or direction", v, its, unit)
		}
	}
	ro.Done(false)
	if err := r.check(); err != nil {
		e.Wrap(err)
	} else {
		usualWithin(e, r, usual)
	}
	return r
}

// usualWithin refuses a range that what is usual lies outside of.
func usualWithin(e strict.Value, r Range, usual dose.Dose) {
	if its, _, counted := Amount(usual); counted && (its < r.Min || its > r.Max) {
		e.Fail("%s: the usual dose asks for %d", r, its)
	}
}

// readPhases reads the phases of a breath.
func readPhases(o *strict.Object, words string) (out []BreathPhase) {
	e, ok := o.Get("phases")
	if !ok {
		return nil
	}
	if e.IsText() { // "out 40 % to roll up, in 60 %", as a form says it
		var err error
		if out, err = ReadPhases(e.Text(maxWords)); err == nil {
			err = checkPhases(out, words)
		}
		if err != nil {
			e.Wrap(err)
		}
		return out
	}
	e.List(mostPhases, func(_ int, v strict.Value) {
		po := v.Object()
		p := BreathPhase{Breath: Breath(po.Need("breath").Text(10)), Share: po.Need("share").Float(0, 1)}
		if d, ok := po.Get("does"); ok {
			p.Does = strings.TrimSpace(d.Text(maxWords))
		}
		po.Done(false)
		out = append(out, p)
	})
	if err := checkPhases(out, words); err != nil {
		e.Wrap(err)
	}
	return out
}

// Change is what a studio changes of a shipped movement: hide, rename, other words.
type Change struct {
	Hidden bool   `json:"hidden,omitempty"`
	Name   string `json:"name,omitempty"`
	Setup  string `json:"setup,omitempty"`
	Say    string `json:"say,omitempty"`
	Watch  string `json:"watch,omitempty"`
	Care   string `json:"care,omitempty"`
}

// OwnVersion is one stored version of a studio's own movement.
type OwnVersion struct {
	Movement *Movement
	Version  int
	Newest   bool
	Hidden   bool
}

// With is the library of a studio: the shipped one with its own movements and its changes. The shipped
// movements are shared, not copied, but for those that are changed. Every version of an own movement is
// found as "slug~version", the newest as "slug" too.
func (l *Library) With(own []OwnVersion, changes map[string]Change) (*Library, error) {
	out := &Library{bySlug: maps.Clone(l.bySlug), byName: maps.Clone(l.byName)}
	var errs []error
	swap := map[*Movement]*Movement{}
	for slug, c := range changes {
		was, ok := l.bySlug[slug]
		if !ok {
			continue // the product's library has changed meanwhile: nothing to change
		}
		m := *was
		m.Hidden = c.Hidden
		m.Levels = slices.Clone(was.Levels)
		if c.Name != "" {
			m.Also = append([]string{was.Name}, was.Also...)
			m.Name = c.Name
		}
		for _, w := range []struct {
			to   *string
			from string
		}{{&m.Setup, c.Setup}, {&m.Say, c.Say}, {&m.Watch, c.Watch}, {&m.Care, c.Care}} {
			if w.from != "" {
				*w.to = w.from
			}
		}
		for i := range m.Levels { // the studio's words are said on every level
			l := &m.Levels[i]
			for _, w := range []struct {
				to   *string
				from string
			}{{&l.Setup, c.Setup}, {&l.Say, c.Say}, {&l.Watch, c.Watch}, {&l.Care, c.Care}} {
				if w.from != "" {
					*w.to = ""
				}
			}
		}
		m.view()
		m.names, m.body, m.search = nil, nil, nil
		m.index()
		swap[was] = &m
		out.bySlug[slug] = &m
	}
	for name, m := range out.byName {
		if n := swap[m]; n != nil {
			out.byName[name] = n
		}
	}
	for _, m := range l.all {
		if n := swap[m]; n != nil {
			m = n
			out.byName[fold(m.Name)] = m
		}
		out.all = append(out.all, m)
	}
	for _, v := range own {
		m := v.Movement
		m.Own, m.Version, m.Hidden = true, v.Version, v.Hidden || !v.Newest
		m.Base = BaseSlug(m.Slug)
		m.Slug = m.Base + "~" + strconv.Itoa(v.Version)
		if err := m.prepare(false); err != nil {
			errs = append(errs, err)
			continue
		}
		out.bySlug[m.Slug] = m
		if v.Newest {
			out.bySlug[m.Base] = m
			for _, n := range append([]string{m.Name}, m.Also...) {
				if v.Hidden {
					continue
				}
				if o := out.byName[fold(n)]; o == nil || o.Hidden {
					out.byName[fold(n)] = m
				}
			}
			out.all = append(out.all, m)
		}
	}
	slices.SortStableFunc(out.all, func(a, b *Movement) int { return strings.Compare(fold(a.Name), fold(b.Name)) })
	out.findHeads()
	return out, errors.Join(errs...)
}

// NameTaken tells which other movement has a name; nil when it is free.
func (l *Library) NameTaken(name, slug string) *Movement {
	m, ok := l.Named(name)
	if !ok || m.base() == BaseSlug(slug) || m.Hidden {
		return nil
	}
	return m
}

// CheckNames refuses a movement whose names belong to another.
func (l *Library) CheckNames(m *Movement) error {
	if o := l.NameTaken(m.Name, m.Slug); o != nil {
		return &strict.Error{Path: "$.name", Says: fmt.Sprintf("the name %q belongs to another movement already", m.Name)}
	}
	for i, n := range m.Also {
		if o := l.NameTaken(n, m.Slug); o != nil {
			return &strict.Error{Path: fmt.Sprintf("$.also[%d]", i), Says: fmt.Sprintf("the name %q belongs to %s", n, o.Name)}
		}
	}
	return nil
}
