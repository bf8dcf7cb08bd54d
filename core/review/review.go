// Package review is the second look: small rules over a session and its timeline, each one value in a file of its own
// with its limit, the source of the limit, what it finds, and mends. A finding never blocks; a mend is a change to the
// document that removes the finding.
package review

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

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

var severityNames = [...]string{"stop", "look", "good"}

// String is the word.
func (s Severity) String() string {
	if int(s) >= len(severityNames) {
		return fmt.Sprintf("Severity(%d)", uint8(s))
	}
	return severityNames[s]
}

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
	// Amount is how far it is past its limit, in the unit of the rule; About the movement it is about.
	Amount float64 `json:"amount,omitempty"`
	About  string  `json:"about,omitempty"`
	// Rows are all rows of a run that is past its limit, where Stops was asked.
	Rows []plan.Path `json:"-"`

	end clock.Span // of a run that is past its limit; 0: it is about a row
}

// Context is what is known of the people and the day besides the plan. The zero value knows nothing.
type Context struct {
	Met       map[string]bool // movements that these people have met; nil: not known
	Led       map[string]int  // the highest level led of each movement, by slug; nil: not known
	Watch     []Watched       // who is on the list, and what they watch
	Unwatched bool            // who is on the list could not be found out: nothing may be taken for "nobody watches it"
}

// Watched is somebody on the list with what they have to watch.
type Watched struct {
	Name   string
	Topics []movement.Topic
}

// Check takes the second look. The findings come gravest first. Cost grows linearly with the steps.
func Check(ctx context.Context, s *plan.Session, tl *timeline.Timeline, lib *movement.Library, lim Limits) ([]Finding, error) {
	return CheckFor(ctx, s, tl, lib, lim, Context{})
}

// CheckFor takes the second look with what is known of the people and the day. When within ends first, its cause is the
// error: half a look is none.
func CheckFor(within context.Context, s *plan.Session, tl *timeline.Timeline, lib *movement.Library, lim Limits, ctx Context) ([]Finding, error) {
	l := &look{s: s, tl: tl, lib: lib, lim: lim, ctx: ctx, within: within}
	out := unrepeated(l.all())
	for i := range out {
		f := &out[i]
		if r := s.Row(f.Row); r != nil && f.About == "" {
			f.About = movement.BaseSlug(r.Name())
		}
		if r := s.Row(f.Row); r != nil && r.Inline != nil && r.Inline.Guessed() && f.Severity != Good {
			f.Detail = strings.TrimSpace(f.Detail + " " + r.Inline.Name + " was read from its name.")
		}
		for j := range f.Mends { // whatever a mend does, it brings nothing worse
			as := f.Mends[j].apply
			f.Mends[j].apply = func(s *plan.Session) error {
				if err := as(s); err != nil {
					return err
				}
				if err := l.soothe(s); err != nil {
					return err
				}
				if l.sparing() && l.unsuits(s) {
					return errUnsuited
				}
				return ended(l.asker()) // what was found meanwhile is not all there is
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Finding) int { return int(a.Severity) - int(b.Severity) })
	l.unsuit(out)
	if nearLimits(s) {
		dropRefused(out, s, lib)
	}
	if err := ended(within); err != nil {
		return nil, err
	}
	return out, nil
}

// unrepeated drops findings that say no more than another.
func unrepeated(fs []Finding) []Finding {
	has := map[string]bool{}
	for _, f := range fs {
		if f.Severity != Good {
			has[f.Rule] = true
		}
	}
	yields := map[string][]string{}
	for _, r := range rules {
		yields[r.Name] = r.Yields
	}
	return slices.DeleteFunc(fs, func(f Finding) bool {
		return slices.ContainsFunc(yields[f.Rule], func(to string) bool { return has[to] })
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

// MarshalFindings writes the published form {"findings": [...], "aside": [...]}; what was set aside stands apart.
func MarshalFindings(shown, aside []Finding) ([]byte, error) {
	out := struct {
		Findings []Finding `json:"findings"`
		Aside    []Finding `json:"aside,omitempty"`
	}{mendsNamed(shown), mendsNamed(aside)}
	return json.MarshalIndent(out, "", "  ")
}

func mendsNamed(fs []Finding) []Finding {
	out := append([]Finding{}, fs...)
	for i := range out {
		if out[i].Mends == nil {
			out[i].Mends = []Mend{}
		}
	}
	return out
}
