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
}

// look is what every rule sees.
type look struct {
	s   *plan.Session
	tl  *timeline.Timeline
	lib *movement.Library
	lim Limits
}

// rules in the order of what matters; each lives in a file of its own.
var rules = []func(*look) []Finding{
	headUp, wrists, sidesUnequal, promisedLength, circleOneWay, twiceInARow, offTooShort,
	forwardWithoutBack, hardTooEarly, noSettling, positionChanges,
}

// Check takes the second look. The findings come gravest first. Cost grows linearly with the steps.
func Check(s *plan.Session, tl *timeline.Timeline, lib *movement.Library, lim Limits) []Finding {
	l := &look{s, tl, lib, lim}
	out := []Finding{}
	for _, r := range rules {
		out = append(out, r(l)...)
	}
	slices.SortStableFunc(out, func(a, b Finding) int { return int(a.Severity) - int(b.Severity) })
	return out
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
// limit, the run is given its rest too.
func (l *look) soothe(s *plan.Session) error {
	before := len(headUp(l)) + len(wrists(l))
	for range 8 {
		tl, err := timeline.Build(s, l.lib)
		if err != nil {
			return err
		}
		now := &look{s, tl, l.lib, l.lim}
		over := append(wrists(now), headUp(now)...)
		if len(over) <= before {
			return nil
		}
		if err := over[len(over)-1].Mends[0].apply(s); err != nil {
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
	{"spare_move", "Changes of position a better order would save", "changes", judged, 1, 20, func(l *Limits) float64 { return float64(l.SpareMove) }, func(l *Limits, v float64) { l.SpareMove = int(v) }},
}

// DefaultLimits are the limits before a house changes them.
func DefaultLimits() Limits {
	return Limits{
		HeadUp: 150 * clock.Second, Wrists: 180 * clock.Second, Length: 5, Forward: 60 * clock.Second,
		HardFrom: 5.5, WarmUp: 120 * clock.Second, Settle: 45 * clock.Second, QuietTo: 2, SpareMove: 2,
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
