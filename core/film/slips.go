package film

import (
	"cmp"
	"fmt"
	"slices"

	"wavekine/core/clock"
	"wavekine/core/run"
	"wavekine/core/timeline"
)

// Slip is something that went wrong in what was filmed, and where.
type Slip struct {
	At, To clock.Span // in the film; To over At: what could be cut
	Says   string
}

// longTalk is by how much a step must be longer than planned to be worth cutting, and longPause how long a pause; judgement.
const (
	longTalk  = 15 * clock.Second
	longPause = 5 * clock.Second
)

// SlipsOf lists the slips of a run, in the order of the film: sides unequal as taken, counts that were lost, what was said much longer than planned, pauses, and the
// length that was promised. offset is where the class begins in the film.
func SlipsOf(r *run.Run, offset clock.Span) (out []Slip) {
	visits := r.Visits()
	last := map[string]clock.Span{} // where a row was last worked
	for i := range visits {
		v := &visits[i]
		s := &r.Steps[v.Step]
		if s.Kind.Working() {
			last[s.Row.String()] = v.From
		}
		planned := max(0, v.Count+v.More)
		switch n, how := r.Reps(v); {
		case how == run.Counted && n != planned && v.Ended != run.ByStop && v.Ended != run.ByBack:
			out = append(out, Slip{At: v.From, To: v.From, Says: fmt.Sprintf("%s%s: %d counted, %d planned", s.Name, onSide(s.Side), n, planned)})
		case v.More > 1:
			out = append(out, Slip{At: v.From, To: v.From, Says: fmt.Sprintf("%s%s: one more, and one more: %d in all for %d", s.Name, onSide(s.Side), planned, v.Count)})
		}
		if over := v.Taken() - v.S; !s.Kind.Working() && over >= longTalk {
			out = append(out, Slip{At: v.From + v.S, To: v.To, Says: fmt.Sprintf("%s: %s %s longer than planned", s.Name, wayWord(s.Kind), over)})
		}
	}
	var paused clock.Span = -1
	for _, e := range r.Events {
		switch {
		case e.Does == run.Paused && paused < 0:
			paused = e.At
		case e.Does == run.Resumed && paused >= 0:
			if e.At-paused >= longPause {
				out = append(out, Slip{At: paused, To: e.At, Says: fmt.Sprintf("Paused for %s", e.At-paused)})
			}
			paused = -1
		}
	}
	rows := run.RowsOf(r.Lines())
	for i := range rows {
		x := &rows[i]
		if !x.Unequal() || !x.Right.Met && !x.Left.Met {
			continue
		}
		out = append(out, Slip{At: last[x.Row.String()], To: last[x.Row.String()], Says: fmt.Sprintf("%s: right %s, left %s", x.Name, sideSaid(x.Right), sideSaid(x.Left))})
	}
	slices.SortStableFunc(out, func(a, b Slip) int { return cmp.Compare(a.At, b.At) })
	for i := range out {
		out[i].At, out[i].To = max(0, out[i].At+offset), max(0, out[i].To+offset)
	}
	taken, _ := r.Taken()
	promised := r.Asked
	if promised == 0 {
		promised = r.Planned()
	}
	if over := taken - promised; over > 0 && r.Finished() {
		if says, _ := run.Over(promised, taken); says != "on time" {
			end := max(0, r.Events[len(r.Events)-1].At+offset)
			out = append(out, Slip{At: end, To: end, Says: "The class is " + says + " the length asked for"})
		}
	}
	return out
}

func sideSaid(s run.SideLed) string {
	if !s.There {
		return "not at all"
	}
	return s.String()
}

func onSide(s timeline.Side) string {
	switch s {
	case timeline.Right:
		return " on the right"
	case timeline.Left:
		return " on the left"
	}
	return ""
}

func wayWord(k timeline.Kind) string {
	switch k {
	case timeline.Position:
		return "the change of position"
	case timeline.Switch:
		return "the change of side"
	case timeline.Rest:
		return "the rest"
	}
	return "setting up"
}
