package review

import (
	"fmt"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// restAll is a rest for the whole body.
var restAll = plan.Row{IsRest: true, Rest: 20 * clock.Second, Say: "Rest, breathe, shake it out"}

// workRuns finds stretches of work over quiet effort without a rest, a change of position or a set-up of
// breakFrom between.
func workRuns(tl *timeline.Timeline, quiet float64) (out []Run) {
	var cur *Run
	var idle clock.Span
	for i := range tl.Steps {
		s := &tl.Steps[i]
		if s.Kind.Working() && s.Effort > quiet {
			if cur == nil || idle >= breakFrom {
				out = append(out, Run{At: s.At, First: s.Row})
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

// noRest: work with no rest beyond a limit.
func noRest(l *look) (out []Finding) {
	for _, run := range workRuns(l.tl, l.lim.QuietTo) {
		if run.Length() <= l.lim.NoRest {
			continue
		}
		f := Finding{
			Rule: "no-rest", Severity: Look, Row: run.First, At: run.At, Amount: run.Length().Seconds(), Measured: run.Length().String(), Limit: l.lim.NoRest.String(), Source: sourceOf("no_rest"),
			Says: fmt.Sprintf("%s of work without a rest", run.Length()), Detail: through(l, run) + fmt.Sprintf(". House limit %s.", l.lim.NoRest),
		}
		if cuts, ok := cutsOf(l.tl, run, l.lim.NoRest); ok && len(cuts) > 0 {
			f.Mends = append(f.Mends, Mend{ID: "no-rest-" + cuts[0].String(), Says: fmt.Sprintf("Rest 20 s after %s", l.name(cuts[0])), apply: func(s *plan.Session) error {
				return addAfter(s, cuts, restAll)
			}})
		} else {
			p := longestRow(l, run)
			f.Mends = append(f.Mends, Mend{ID: "no-rest-less-" + p.String(), Says: "Less of " + l.name(p), apply: func(s *plan.Session) error {
				for range 12 {
					over := l.again(s, noRest)
					if len(over) < len(noRest(l)) {
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
