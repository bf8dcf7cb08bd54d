package solve

import (
	"errors"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// ErrNoTarget says that a session has no length to be fitted to.
var ErrNoTarget = errors.New("say first how long it should be: the field stands beside the clock")

// FitToLength fits a session to the length asked for, see Fit.
type FitToLength struct{}

// Do fits it.
func (*FitToLength) Do(s *plan.Session, lib *movement.Library) (plan.Done, error) {
	if s.Target == 0 {
		return plan.Done{}, ErrNoTarget
	}
	f, err := Fit(s, lib, s.Target)
	if err != nil {
		return plan.Done{}, err
	}
	says := "Fit to " + s.Target.String()
	*s = *f.Session
	return plan.Done{Says: says}, nil
}

// BestOrder puts a session's rows in the order that changes position least, see Order.
type BestOrder struct{}

// Do puts them so.
func (*BestOrder) Do(s *plan.Session, lib *movement.Library) (plan.Done, error) {
	o, err := Order(s, lib)
	if err != nil {
		return plan.Done{}, err
	}
	*s = *o.Session
	return plan.Done{Says: "Best order"}, nil
}
