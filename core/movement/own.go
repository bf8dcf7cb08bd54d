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
	"wavekine/core/strict"
)

// OwnFormat is the format of a studio's own movement.
const OwnFormat = "wavekine.movement/1"

// Limits of a movement document; judgement.
const (
	maxWords  = 600
	maxLevels = 8
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
	Levels  []levelDocument    `json:"levels"`
}

type levelDocument struct {
	Changes string       `json:"changes"`
	Family  Family       `json:"family,omitempty"`
	Demand  *float64     `json:"demand,omitempty"` // judged; computed where there is a family
	Why     string       `json:"why"`
	Lighter string       `json:"lighter,omitempty"`
	Stance  float64      `json:"stance,omitempty"`
	PerRep  float64      `json:"seconds_per_rep,omitempty"`
	Loads   *[]Load      `json:"loads,omitempty"`
	Kit     *[]string    `json:"kit,omitempty"`
	Sides   string       `json:"sides,omitempty"`
	Posture string       `json:"posture,omitempty"`
	Ends    string       `json:"ends,omitempty"`
	Dose    string       `json:"dose,omitempty"`
	Spine   *[]Direction `json:"spine,omitempty"`
	Setup   string       `json:"setup,omitempty"`
	Say     string       `json:"say,omitempty"`
	Breath  string       `json:"breath,omitempty"`
	Watch   string       `json:"watch,omitempty"`
	Fault   string       `json:"fault,omitempty"`
	Care    string       `json:"care,omitempty"`
	From    *body.Pose   `json:"from,omitempty"`
	Pose    body.Pose    `json:"pose"`
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
		Stretch: m.Stretch, PerRep: m.Pace.Span.Seconds(), Dose: m.Dose.String(), Spine: m.Spine, Regions: m.Regions, Loads: m.Loads, Kit: m.Kit,
		Setup: m.Setup, Say: m.Say, Breath: m.Breath, Watch: m.Watch, Fault: m.Fault, Ease: m.Ease, Care: m.Care, Gives: m.Gives, Leads: m.Leads,
		Ends: m.Ends.String(), Levels: []levelDocument{},
	}
	for i := range m.Levels {
		l := &m.Levels[i]
		ld := levelDocument{
			Changes: l.Changes, Family: l.Family, Why: l.Why, Lighter: l.Lighter, Stance: l.Stance, extra: l.extra, Sides: l.Sides.String(), Posture: l.Posture.String(), Ends: l.Ends.String(),
			Setup: l.Setup, Say: l.Say, Breath: l.Breath, Watch: l.Watch, Fault: l.Fault, Care: l.Care,
		}
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
	texts(o, "kit", 6, 30, func(_ strict.Value, s string) { m.Kit = append(m.Kit, s) })
	m.Purpose = readWords(o, "purpose", true)
	m.Setup, m.Say, m.Breath = readWords(o, "setup", true), readWords(o, "say", true), readWords(o, "breath", true)
	m.Watch, m.Fault, m.Ease, m.Care = readWords(o, "watch", true), readWords(o, "fault", true), readWords(o, "ease", true), readWords(o, "care", false)
	m.Gives, m.Leads = readOthers(o, "gives_back", lib), readOthers(o, "leads_to", lib)
	levels := o.Need("levels")
	levels.List(maxLevels, func(_ int, e strict.Value) { m.Levels = append(m.Levels, readLevel(e, m, keep)) })
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
	if e, ok := o.Get("stretch"); ok {
		m.Stretch = e.Bool()
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

func readLevel(v strict.Value, m *Movement, keep bool) (l Level) {
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
		texts(o, "kit", 6, 30, func(_ strict.Value, s string) { l.Kit = append(l.Kit, s) })
	}
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
