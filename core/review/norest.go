package review

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// noRestLimit is how long work goes on without a rest.
var noRestLimit = Limit{"no_rest", "Work without a rest", "s", 360, 60, 3600, judged}

// noRestRule: work with no rest beyond a limit.
var noRestRule = &Rule{
	Name: "no-rest", Looks: "work over quiet effort goes on without a break of 10 s", Limits: []Limit{noRestLimit},
	Mends: "a rest; less of it",
	find:  findNoRest,
}

// restAll is a rest for the whole body.
var restAll = plan.Row{Rest: &plan.Rest{For: 20 * clock.Second, Say: "Rest, breathe, shake it out"}}

// workRuns finds stretches of work over quiet effort without a rest, a change of position or a set-up of
// breakFrom between.
func workRuns(tl *timeline.Timeline, quiet float64) (out []run) {
	var cur *run
	var idle clock.Span
	for i := range tl.Steps {
		s := &tl.Steps[i]
		if s.Kind.Working() && s.Effort > quiet {
			if cur == nil || idle >= breakFrom {
				out = append(out, run{At: s.At, First: s.Row})
				cur = &out[len(out)-1]
			}
			cur.End, cur.Last, idle = s.End(), s.Row, 0
			cur.Steps = append(cur.Steps, i)
			continue
		}
		idle += s.S
	}
	return out
}

func findNoRest(l *look, r *Rule) (out []Finding) {
	for _, run := range workRuns(l.tl, l.num(quietLimit)) {
		if run.Length() <= l.span(noRestLimit) {
			continue
		}
		f := Finding{
			Severity: Look, Row: run.First, At: run.At, Amount: run.Length().Seconds(), Measured: run.Length().String(), Limit: l.span(noRestLimit).String(),
			Says: fmt.Sprintf("%s of work without a rest", run.Length()), Detail: through(l, run) + fmt.Sprintf(". House limit %s.", l.span(noRestLimit)),
		}
		if cuts, ok := (bearing{}).cutsOf(l.tl, run, l.span(noRestLimit)); ok && len(cuts) > 0 {
			f.Mends = append(f.Mends, Mend{ID: "no-rest-" + cuts[0].String(), Says: fmt.Sprintf("Rest 20 s after %s", l.name(cuts[0])), apply: func(s *plan.Session) error {
				return addAfter(s, cuts, restAll)
			}})
		} else {
			p := longestRow(l, run)
			f.Mends = append(f.Mends, Mend{ID: "no-rest-less-" + p.String(), Says: "Less of " + l.name(p), apply: func(s *plan.Session) error {
				for range 12 {
					over := l.again(s, r)
					if len(over) < len(r.on(l)) {
						return nil
					}
					if err := halve(s, p, l); err != nil {
						return err
					}
				}
				return fmt.Errorf("%s cannot be made short enough", l.name(p))
			}})
		}
		out = append(out, f)
	}
	return out
}
