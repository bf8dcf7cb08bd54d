package review

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/movement"
)

// onBackLimit is how long those who expect lie flat at a stretch after the first third.
var onBackLimit = Limit{"on_back", "Flat on the back at a stretch, for those who should not be for long", "s", 60, 20, 600, practice}

// onBackRule: flat on the back for long, for those who expect after about the first third, and for whoever on the list cannot
// lie so for long.
var onBackRule = &Rule{
	Name: "on-back", Looks: "flat on the back for long, for those who expect after about the first third, or somebody on the list who should not", Limits: []Limit{onBackLimit},
	Mends: "none: what is done on the side, sitting or on hands and knees is the teacher's choice", find: findOnBack, spares: true,
}

// offTheBack are the topics of those who should not lie long on the back.
var offTheBack = []movement.Topic{movement.Expecting2, movement.Expecting3, movement.Pregnancy, movement.NoBack}

// lying finds stretches of time on the back, rests and talking among them. Cost grows linearly with the steps.
func lying(l *look) (out []run) {
	var cur *run
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		switch {
		case s.Kind.Working() && s.Move != nil && s.Move.Has(s.Level, movement.OnBack):
			if cur == nil {
				out = append(out, run{At: s.At, First: s.Row})
				cur = &out[len(out)-1]
			}
			cur.End, cur.Last = s.End(), s.Row
			cur.Steps = append(cur.Steps, i)
		case s.Kind.Working() && s.Move != nil:
			cur = nil
		}
	}
	return out
}

func findOnBack(l *look, _ *Rule) (out []Finding) {
	var who []string
	expects := l.s.Audience.Has(movement.AnyExpecting &^ movement.ExpectingFirst)
	if expects {
		who = append(who, (l.s.Audience & (movement.AnyExpecting &^ movement.ExpectingFirst)).Called())
	}
	for _, w := range l.ctx.Watch {
		if slices.ContainsFunc(w.Topics, func(t movement.Topic) bool { return slices.Contains(offTheBack, t) }) {
			who = append(who, w.Name)
		}
	}
	if who == nil {
		return nil
	}
	limit := l.span(onBackLimit)
	for _, run := range lying(l) {
		if run.Length() <= limit {
			continue
		}
		f := Finding{
			Severity: Look, Row: run.First, At: run.At, end: run.End, Amount: run.Length().Seconds(), Measured: run.Length().String(), Limit: limit.String(),
			Says:   fmt.Sprintf("Flat on the back for %s", run.Length()),
			Detail: fmt.Sprintf("%s: for %s, a minute at most, then the side. Whoever treats them decides.", through(l, run), strings.Join(who, ", ")),
		}
		if expects {
			f.Severity = Stop
		}
		out = append(out, f)
	}
	return out
}
