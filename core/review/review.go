// Package review is the second look: small pure functions over a session and its timeline, each
// with its limit, the source of the limit, and mends. A finding never blocks; a mend is a change to
// the document that removes the finding.
package review

import (
	"encoding/json"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Severity is how much a finding matters.
type Severity uint8

// Severities, the gravest first.
const (
	Stop Severity = iota // past a limit
	Look                 // worth a look
	Good
)

func (s Severity) String() string { return [...]string{"stop", "look", "good"}[s] }

// MarshalText writes the word.
func (s Severity) MarshalText() ([]byte, error) { return []byte(s.String()), nil }

// Mend is a change that removes a finding.
type Mend struct {
	ID    string `json:"id"`
	Says  string `json:"says"`
	apply func(*plan.Session) error
}

// Apply makes the change on a copy and gives it back.
func (m Mend) Apply(s *plan.Session) (*plan.Session, error) {
	c := s.Clone()
	if err := m.apply(c); err != nil {
		return nil, err
	}
	return c, nil
}

// Do makes the change as a command of the session it was found in.
func (m Mend) Do(s *plan.Session, _ *movement.Library) (plan.Done, error) {
	return plan.Done{Says: m.Says}, m.apply(s)
}

// Finding is something the second look found.
type Finding struct {
	Rule     string     `json:"rule"`
	Severity Severity   `json:"severity"`
	Row      plan.Path  `json:"row"` // 0.0.0 when it is about the whole
	At       clock.Span `json:"at"`
	Measured string     `json:"measured"`
	Limit    string     `json:"limit"`
	Source   string     `json:"source"`
	Says     string     `json:"says"`
	Detail   string     `json:"detail"`
	Mends    []Mend     `json:"mends"`
	Rank     float64    `json:"-"` // among equals, the greater first
	// Amount is how far it is past its limit, in the unit of the rule; About the movement it is about.
	Amount float64 `json:"amount,omitempty"`
	About  string  `json:"about,omitempty"`
}

// look is what every rule sees.
type look struct {
	s   *plan.Session
	tl  *timeline.Timeline
	lib *movement.Library
	lim Limits
	ctx Context
}

// Context is what is known of the people and the day besides the plan. The zero value knows nothing.
type Context struct {
	Met   map[string]bool // movements that these people have met; nil: not known
	Watch []Watched       // who is on the list, and what they watch
}

// Watched is somebody on the list with what they have to watch.
type Watched struct {
	Name   string
	Topics []movement.Topic
}

// rules in the order of what matters among equals; each lives in a file of its own.
func rules() []func(*look) []Finding { return ruleTable[:] }

var ruleTable [25]func(*look) []Finding

func init() { // a table that its own rules look into
	ruleTable = [25]func(*look) []Finding{
		headUp, wrists, lowBackLever, sidesUnequal, cautions, leverBeforeCore, promisedLength, noRest, circleOneWay, twiceInARow, offTooShort, onOffRatio,
		forwardWithoutBack, hardTooEarly, peakPlace, noSettling, positionChanges, risesFromTheFloor, kitAgain, spineDirections, classicalOrder, noEasierOption,
		stretchHolds, holdWithoutBreath, newMovements,
	}
}

// Check takes the second look. The findings come gravest first. Cost grows linearly with the steps.
func Check(s *plan.Session, tl *timeline.Timeline, lib *movement.Library, lim Limits) []Finding {
	return CheckFor(s, tl, lib, lim, Context{})
}

// CheckFor takes the second look with what is known of the people and the day.
func CheckFor(s *plan.Session, tl *timeline.Timeline, lib *movement.Library, lim Limits, ctx Context) []Finding {
	l := &look{s: s, tl: tl, lib: lib, lim: lim, ctx: ctx}
	out := unrepeated(append([]Finding{}, l.all()...))
	for i := range out {
		if r := s.Row(out[i].Row); r != nil && out[i].About == "" {
			out[i].About = movement.BaseSlug(r.Name())
		}
	}
	for i := range out {
		for j := range out[i].Mends { // whatever a mend does, it brings nothing worse
			as := out[i].Mends[j].apply
			out[i].Mends[j].apply = func(s *plan.Session) error {
				if err := as(s); err != nil {
					return err
				}
				return l.soothe(s)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Finding) int { return int(a.Severity) - int(b.Severity) })
	if nearLimits(s) {
		dropRefused(out, s, lib)
	}
	return out
}

// says are pairs of rules of which the second says no more than the first where both are found.
var says = [][2]string{{"early", "peak"}, {"settle", "peak"}, {"early", "lever-early"}, {"lever", "lever-early"}, {"rises", "changes"}, {"changes", "kit"}}

// unrepeated drops findings that only repeat another.
func unrepeated(fs []Finding) []Finding {
	has := map[string]bool{}
	for _, f := range fs {
		if f.Severity != Good {
			has[f.Rule] = true
		}
	}
	return slices.DeleteFunc(fs, func(f Finding) bool {
		return slices.ContainsFunc(says, func(p [2]string) bool { return f.Rule == p[1] && has[p[0]] })
	})
}

// worse is how much a finding that was set aside may grow before it comes back; judgement.
const worse = 1.05

// SetAside parts the findings into those to show and those that were set aside and are no worse since.
// what is set aside for the whole house has no amount and no movement.
func SetAside(fs []Finding, aside []plan.Aside) (shown, put []Finding) {
	for _, f := range fs {
		is := slices.ContainsFunc(aside, func(a plan.Aside) bool {
			return a.Rule == f.Rule && (a.About == "" || a.About == f.About) && f.Amount <= a.Amount*worse+1e-9
		})
		if is && f.Severity != Good {
			put = append(put, f)
		} else {
			shown = append(shown, f)
		}
	}
	return shown, put
}

// Find gives the mend with an id, and the finding it belongs to.
func Find(fs []Finding, id string) (Finding, Mend, bool) {
	for _, f := range fs {
		for _, m := range f.Mends {
			if m.ID == id {
				return f, m, true
			}
		}
	}
	return Finding{}, Mend{}, false
}

// MarshalFindings writes the published form {"findings": [...]}.
func MarshalFindings(fs []Finding) ([]byte, error) {
	for i := range fs {
		if fs[i].Mends == nil {
			fs[i].Mends = []Mend{}
		}
	}
	return json.MarshalIndent(map[string][]Finding{"findings": fs}, "", "  ")
}

// soothe keeps a change from bringing what is worse: where it has joined loads into a run past its
// limit, the run is given its rest too; where something hard has come to stand first, a warm-up.
func (l *look) soothe(s *plan.Session) error {
	before := len(headUp(l)) + len(wrists(l))
	first := func(l *look) bool {
		fs := hardTooEarly(l)
		return len(fs) > 0 && fs[0].Severity == Stop
	}
	wasFirst := first(l)
	for range 8 {
		tl, err := timeline.Build(s, l.lib)
		if err != nil {
			return err
		}
		now := &look{s: s, tl: tl, lib: l.lib, lim: l.lim, ctx: l.ctx}
		over := append(wrists(now), headUp(now)...)
		switch {
		case len(over) > before:
			err = over[len(over)-1].Mends[0].apply(s)
		case !wasFirst && first(now):
			err = addWarmUp(s, now)
		default:
			return nil
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// name is what a row is called.
func (l *look) name(p plan.Path) string {
	r := l.s.Row(p)
	if r == nil {
		return "nothing"
	}
	if m, err := r.Of(l.lib); err == nil && m != nil {
		return m.Name
	}
	return r.Name()
}

// behind is the place to insert after a row without breaking a chain or circuit: behind the row in a
// straight block, else at the start of what follows its block.
func behind(s *plan.Session, p plan.Path, r plan.Row) error {
	b := s.Block(p)
	if b == nil {
		return plan.ErrNoRow
	}
	if b.Rule == plan.Straight {
		_, err := s.Add(p, r)
		return err
	}
	sec := &s.Sections[p.Section-1]
	if p.Block < len(sec.Blocks) && sec.Blocks[p.Block].Rule == plan.Straight {
		nb := &sec.Blocks[p.Block]
		nb.Rows = slices.Insert(nb.Rows, 0, r)
		return nil
	}
	sec.Blocks = slices.Insert(sec.Blocks, p.Block, plan.Block{Rule: plan.Straight, Rounds: 1, Rows: []plan.Row{r}})
	return nil
}

// Limits are the house limits. Their zero value is not useful: start from DefaultLimits.
type Limits struct {
	HeadUp    clock.Span `json:"head_up"`    // head and shoulders lifted without a rest
	Wrists    clock.Span `json:"wrists"`     // hands bearing without a break
	Length    float64    `json:"length"`     // percent over or under the promised length
	Forward   clock.Span `json:"forward"`    // forward bending that asks for a backward bend
	HardFrom  float64    `json:"hard_from"`  // effort from which work is hard
	WarmUp    clock.Span `json:"warm_up"`    // easier work before the first hard thing
	Settle    clock.Span `json:"settle"`     // quiet work at the end
	QuietTo   float64    `json:"quiet_to"`   // effort up to which work is quiet
	SpareMove int        `json:"spare_move"` // changes of position that a better order would save
	Lever     float64    `json:"lever"`      // demand of leg work against the low back
	Woken     clock.Span `json:"woken"`      // work for the deep core before legs are levered
	Rises     int        `json:"rises"`      // times of getting up from the floor
	NoRest    clock.Span `json:"no_rest"`    // work without a rest
	OnOff     float64    `json:"on_off"`     // time on for one of time off
	HoldLeast clock.Span `json:"hold_least"` // the shortest stretch hold
	HoldMost  clock.Span `json:"hold_most"`  // the longest, but for long holds of two minutes and more
	BreathCue clock.Span `json:"breath_cue"` // a hold that needs a word on the breath
	New       int        `json:"new"`        // movements nobody has met
	Easier    float64    `json:"easier"`     // demand from which a mixed class needs something easier
}

// LimitInfo describes one limit for the house settings and the documentation.
type LimitInfo struct {
	Key, Name, Unit, Source string
	Low, High               float64
	Get                     func(*Limits) float64
	Set                     func(*Limits, float64)
}

const (
	judged   = "judgement of the house"
	practice = "common practice, no published source"
	// Stretches held 10 to 30 s, 30 to 60 s by older adults (value from the model's reference list).
	acsm = "ACSM position stand, Garber et al. 2011"
)

func spanLimit(key, name, source string, low, high float64, at func(*Limits) *clock.Span) LimitInfo {
	return LimitInfo{
		key, name, "s", source, low, high,
		func(l *Limits) float64 { return at(l).Seconds() },
		func(l *Limits, v float64) { *at(l) = clock.Seconds(v) },
	}
}

// LimitTable lists every limit with its unit, range and source.
var LimitTable = []LimitInfo{
	spanLimit("head_up", "Head up without a rest", judged, 20, 900, func(l *Limits) *clock.Span { return &l.HeadUp }),
	spanLimit("wrists", "Hands bearing without a break", judged, 20, 1200, func(l *Limits) *clock.Span { return &l.Wrists }),
	{"length", "Over or under the promised length", "%", judged, 1, 50, func(l *Limits) float64 { return l.Length }, func(l *Limits, v float64) { l.Length = v }},
	spanLimit("forward", "Forward bending before a backward bend is due", practice, 10, 900, func(l *Limits) *clock.Span { return &l.Forward }),
	{"hard_from", "Work counts as hard from effort", "of 10", judged, 1, 10, func(l *Limits) float64 { return l.HardFrom }, func(l *Limits, v float64) { l.HardFrom = v }},
	spanLimit("warm_up", "Easier work before the first hard thing", judged, 0, 900, func(l *Limits) *clock.Span { return &l.WarmUp }),
	spanLimit("settle", "Quiet work at the end", judged, 0, 600, func(l *Limits) *clock.Span { return &l.Settle }),
	{"quiet_to", "Work counts as quiet up to effort", "of 10", judged, 0, 5, func(l *Limits) float64 { return l.QuietTo }, func(l *Limits, v float64) { l.QuietTo = v }},
	{"lever", "Demand of leg work against the low back", "of 10", judged, 2, 10, func(l *Limits) float64 { return l.Lever }, func(l *Limits, v float64) { l.Lever = v }},
	spanLimit("woken", "Deep core woken before legs are levered", judged, 0, 300, func(l *Limits) *clock.Span { return &l.Woken }),
	{"rises", "Getting up from the floor", "times", judged, 0, 20, func(l *Limits) float64 { return float64(l.Rises) }, func(l *Limits, v float64) { l.Rises = int(v) }},
	spanLimit("no_rest", "Work without a rest", judged, 60, 3600, func(l *Limits) *clock.Span { return &l.NoRest }),
	{"on_off", "Time on for one of time off", "to 1", practice, 1, 10, func(l *Limits) float64 { return l.OnOff }, func(l *Limits, v float64) { l.OnOff = v }},
	spanLimit("hold_least", "Shortest hold of a stretch", acsm, 3, 60, func(l *Limits) *clock.Span { return &l.HoldLeast }),
	spanLimit("hold_most", "Longest hold of a stretch, long holds of 2 min and more apart", acsm, 15, 119, func(l *Limits) *clock.Span { return &l.HoldMost }),
	spanLimit("breath_cue", "Hold that needs a word on the breath", judged, 10, 300, func(l *Limits) *clock.Span { return &l.BreathCue }),
	{"new", "Movements nobody has met", "in a class", judged, 1, 30, func(l *Limits) float64 { return float64(l.New) }, func(l *Limits, v float64) { l.New = int(v) }},
	{"easier", "A mixed class needs something easier from demand", "of 10", judged, 0, 10, func(l *Limits) float64 { return l.Easier }, func(l *Limits, v float64) { l.Easier = v }},
	{"spare_move", "Changes of position a better order would save", "changes", judged, 1, 20, func(l *Limits) float64 { return float64(l.SpareMove) }, func(l *Limits, v float64) { l.SpareMove = int(v) }},
}

// DefaultLimits are the limits before a house changes them.
func DefaultLimits() Limits {
	return Limits{
		HeadUp: 150 * clock.Second, Wrists: 180 * clock.Second, Length: 5, Forward: 60 * clock.Second,
		HardFrom: 5.5, WarmUp: 120 * clock.Second, Settle: 45 * clock.Second, QuietTo: 2, SpareMove: 2,
		Lever: 8, Woken: 30 * clock.Second, Rises: 2, NoRest: 6 * clock.Minute, OnOff: 3, HoldLeast: 10 * clock.Second, HoldMost: 60 * clock.Second,
		BreathCue: 30 * clock.Second, New: 8, Easier: 3,
	}
}

func sourceOf(key string) string {
	for _, i := range LimitTable {
		if i.Key == key {
			return i.Source
		}
	}
	return ""
}
