package review

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/solve"
)

// Limits are what a house has set; what it has not is as the rules have it. The zero value sets nothing. A value is
// not changed once made: With gives another.
type Limits struct{ set map[string]float64 }

// Of is the value in force.
func (ls Limits) Of(l Limit) float64 {
	if v, ok := ls.set[l.Key]; ok {
		return v
	}
	return l.Default
}

// With is the limits with one set to a value within its range; the default is the same as not set.
func (ls Limits) With(l Limit, v float64) (Limits, error) {
	if !(v >= l.Least && v <= l.Most) { // NaN too
		return ls, fmt.Errorf("%s: %v: expected %v to %v %s", l.Name, v, l.Least, l.Most, l.Unit)
	}
	set := maps.Clone(ls.set)
	if v == l.Default {
		delete(set, l.Key)
		return Limits{set}, nil
	}
	if set == nil {
		set = map[string]float64{}
	}
	set[l.Key] = v
	return Limits{set}, nil
}

// Changed tells whether the house has set the limit.
func (ls Limits) Changed(l Limit) bool { _, ok := ls.set[l.Key]; return ok }

// MarshalJSON writes what is set.
func (ls Limits) MarshalJSON() ([]byte, error) {
	if ls.set == nil {
		return []byte("{}"), nil
	}
	return json.Marshal(ls.set)
}

// UnmarshalJSON reads what is set. What no rule of this version knows, or what lies out of its range, is left out: a
// setting must never keep a house from being read.
func (ls *Limits) UnmarshalJSON(b []byte) error {
	var set map[string]float64
	if err := json.Unmarshal(b, &set); err != nil {
		return err
	}
	*ls = Limits{}
	for _, l := range AllLimits() {
		if v, ok := set[l.Key]; ok {
			if next, err := ls.With(l, v); err == nil {
				*ls = next
			}
		}
	}
	return nil
}

// house is what the limits let a dose be when this class is brought to a length.
func (l *look) house() solve.House {
	least, most := l.holdRange()
	return solve.House{HoldLeast: least, HoldMost: most, OnMost: l.onOffMost()}
}

func (l *look) num(of Limit) float64     { return l.lim.Of(of) }
func (l *look) span(of Limit) clock.Span { return clock.Seconds(l.lim.Of(of)) }
func (l *look) count(of Limit) int       { return int(math.Round(l.lim.Of(of))) }

// LimitOf gives a limit by its key.
func LimitOf(key string) (Limit, bool) {
	all := AllLimits()
	i := slices.IndexFunc(all, func(l Limit) bool { return l.Key == key })
	if i < 0 {
		return Limit{}, false
	}
	return all[i], true
}
