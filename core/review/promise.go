package review

import (
	"wavekine/core/clock"
	"wavekine/core/plan"
)

// promiseRows is from how many rows on a class is more than a beginning; judgement.
const promiseRows = 4

// promiseRule: nobody has said how long the class will be.
var promiseRule = &Rule{
	Name: "promise", Looks: "no length is promised, in a class of four rows and more", Fixed: "a promised length", Source: practice, Mends: "promise what it is", find: findPromise,
}

func findPromise(l *look, _ *Rule) []Finding {
	if l.s.Target > 0 || l.s.Rows() < promiseRows {
		return nil
	}
	f := Finding{
		Severity: Look, Amount: 1, Measured: "none", Limit: "a promised length",
		Says: "No length is promised", Detail: "It comes out at " + l.tl.Total.String() + ", somewhere from " + l.tl.Low.String() + " to " + l.tl.High.String() + ". People plan around it.",
	}
	if m, ok := l.promiseMend("promise-it"); ok {
		f.Mends = []Mend{m}
	}
	return []Finding{f}
}

// promiseMend promises what the class comes out at, as round as is near enough.
func (l *look) promiseMend(id string) (Mend, bool) {
	promise := l.tl.Total
	for _, round := range []clock.Span{30 * clock.Second, 5 * clock.Second, clock.Second} {
		promise = (l.tl.Total + round/2) / round * round
		if abs(promise-l.tl.Total) <= min(promise.Times(l.num(lengthLimit)/200), l.lengthAllowedOf(promise)/2) {
			break
		}
	}
	if promise > plan.MaxTarget || promise <= 0 { // no class is asked to be so long
		return Mend{}, false
	}
	whole := *l.s // with what is said at its ends, where that counts
	whole.Target = promise + plan.MaxTarget/2
	promise += whole.Target - whole.ToMove()
	return Mend{ID: id, Says: "Promise " + promise.String(), apply: func(s *plan.Session) error {
		s.Target = promise
		return nil
	}}, true
}
