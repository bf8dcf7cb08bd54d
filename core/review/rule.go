package review

import (
	"fmt"
	"slices"

	"wavekine/core/clock"
)

// Rule is one rule of the second look, everything about it in one value: settings, docs, answers and the rails under
// the wave read it here.
type Rule struct {
	Name   string   `json:"name"`             // as documents and answers name it: "head-up"
	Looks  string   `json:"looks"`            // when it finds something, in words
	Limits []Limit  `json:"limits,omitempty"` // that a house can set
	Fixed  string   `json:"fixed,omitempty"`  // what is asked, where a house has nothing to set
	Source string   `json:"source,omitempty"` // of what is fixed; a limit has its own
	Mends  string   `json:"mends"`            // what it offers, in words
	Yields []string `json:"yields,omitempty"` // rules that say as much: where one of them finds something, this one is silent

	find func(*look, *Rule) []Finding
	rail *rail
	// relieve takes away a finding that a mend of another rule has brought; nil for rules that a mend may bring.
	relieve func(*look, []Finding) error
	stops   bool // relieve only what stops
	canStop bool // what it finds may stop; so it is with those that relieve stops or spare an audience
	spares  bool // what stops by it should an audience be spared: no mend may bring it them
}

// rules are all rules, in the order of what matters among equals. They are set at the start: a mend looks again with
// the rule it belongs to, and with those that it must not bring.
var rules []*Rule

func init() {
	rules = []*Rule{
		suitsRule, headUpRule, wristsRule, leverRule, sidesRule, cautionRule, leverEarlyRule, lengthRule, noRestRule, oneWayRule, twiceRule, offTimeRule, onOffRule,
		forwardRule, earlyRule, peakRule, settleRule, changesRule, risesRule, kitRule, spineRule, orderRule, optionsRule,
		holdRule, breathRule, newRule, onBackRule, isometricRule, bendingRule, balanceRule, prereqRule, roundsRule, farDoseRule, noNumberRule, promiseRule,
		kitLateRule, unshownRule, hiddenRule, spokenRule, mendRule,
	}
}

// Rules lists every rule, in the order of what matters among equals.
func Rules() []Rule {
	out := make([]Rule, len(rules))
	for i, r := range rules {
		out[i] = *r
		out[i].Limits, out[i].Yields = slices.Clone(r.Limits), slices.Clone(r.Yields)
	}
	return out
}

// RuleOf gives a rule by its name.
func RuleOf(name string) (Rule, bool) {
	for _, r := range Rules() {
		if r.Name == name {
			return r, true
		}
	}
	return Rule{}, false
}

// source is where what the rule asks comes from.
func (r *Rule) source() string {
	if len(r.Limits) > 0 {
		return r.Limits[0].Source
	}
	return r.Source
}

// on takes the look with one rule.
func (r *Rule) on(l *look) []Finding {
	fs := r.find(l, r)
	for i := range fs {
		fs[i].Rule = r.Name
		if fs[i].Source == "" {
			fs[i].Source = r.source()
		}
	}
	return fs
}

// Sources of limits.
const (
	judged   = "judgement of the house"
	practice = "common practice, no published source"
	// Stretches held 10 to 30 s, 30 to 60 s by older adults (value from the model's reference list).
	acsm = "ACSM position stand, Garber et al. 2011"
)

// Limit is something a house can set, with what it is before a house sets it.
type Limit struct {
	Key     string  `json:"key"` // in a house's settings
	Name    string  `json:"name"`
	Unit    string  `json:"unit"` // "s": a time in seconds
	Default float64 `json:"default"`
	Least   float64 `json:"least"`
	Most    float64 `json:"most"`
	Source  string  `json:"source"`
}

// Said is a value of the limit as it is said, with its unit.
func (l Limit) Said(v float64) string {
	if l.Unit == "s" {
		return clock.Seconds(v).Said()
	}
	return fmt.Sprintf("%.4g %s", v, l.Unit)
}

// AllLimits lists the limits of all rules, in the order of the rules, and that of landing.
func AllLimits() (out []Limit) {
	for _, r := range rules {
		out = append(out, r.Limits...)
	}
	return append(out, landLimit)
}
