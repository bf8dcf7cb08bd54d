package review

import "wavekine/core/plan"

// mendRule: lines of a text that nobody has understood stand in the class.
var mendRule = &Rule{
	Name: "to-mend", Looks: "a line that was not understood is kept in the class", Fixed: "none", Source: judged, Mends: "take it out; it is mended where it stands", find: findToMend,
}

func findToMend(l *look, _ *Rule) (out []Finding) {
	l.s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		if !r.IsKept() {
			return
		}
		f := Finding{Severity: Look, Row: p, Amount: 1, Measured: "a line", Limit: "none", Says: "To mend: " + plan.Clip(r.Rest.Kept, 60), Detail: "Nobody has understood this line yet. It takes no time until it is said anew where it stands."}
		f.Mends = []Mend{{ID: "to-mend-" + p.String(), Says: "Take it out", apply: func(s *plan.Session) error { return s.Delete(p) }}}
		out = append(out, f)
	})
	return out
}
