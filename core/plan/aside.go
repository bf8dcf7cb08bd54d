package plan

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"unicode/utf8"
)

// Aside is a finding of the second look that was set aside, with the reason. It comes back when it gets
// worse than it was.
type Aside struct {
	Rule   string
	About  string  // the movement it is about; empty for the whole
	Amount float64 // how bad it was, in the finding's own unit
	Reason string
	extra  map[string]json.RawMessage
}

// PutAside puts a finding aside, or gives one that was set aside before its new amount and reason.
func (s *Session) PutAside(a Aside) error {
	list, err := PutAside(s.Aside, a)
	if err == nil {
		s.Aside = list
	}
	return err
}

// PutAside is the list with a finding set aside; what stands there already is replaced. The reason is
// needed, of at most 300 characters.
func PutAside(list []Aside, a Aside) ([]Aside, error) {
	long := func(s string, most int) bool { return tooLong(s, most) || !utf8.ValidString(s) }
	switch {
	case a.Reason == "" || long(a.Reason, maxReason):
		return list, fmt.Errorf("say why in 1 to %d characters, for whoever reads this later", maxReason)
	case a.Rule == "" || long(a.Rule, maxRule) || long(a.About, maxAbout) || !(a.Amount >= 0 && a.Amount <= maxAmount):
		return list, errors.New("that is no finding of the second look")
	}
	if i := slices.IndexFunc(list, func(x Aside) bool { return x.Rule == a.Rule && x.About == a.About }); i >= 0 {
		list = slices.Clone(list)
		list[i] = a
		return list, nil
	}
	if len(list) >= maxAside {
		return list, fmt.Errorf("at most %d findings are set aside", maxAside)
	}
	return append(slices.Clip(list), a), nil
}
