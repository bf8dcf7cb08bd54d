package review

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// cautionRule: something in the class calls for care of what somebody on the list has to watch. The tool says what;
// what to take instead is the teacher's, and whoever treats the mover decides. It offers no mend: putting another
// movement in needs more than the loads of one.
var cautionRule = &Rule{
	Name: "caution", Looks: "a row calls for care of what somebody on the list watches, in sessions that stand on a day", Fixed: "none without a word on it", Source: practice,
	Mends: "none: say the easier option early",
	find:  findCaution,
}

func findCaution(l *look, _ *Rule) (out []Finding) {
	if l.ctx.Unwatched {
		out = append(out, Finding{
			Severity: Stop, Amount: 1, About: "list", Measured: "not known", Limit: "known", Says: "Who is on the list could not be read",
			Detail: "The cautions for them are missing here, which does not mean that there are none. Open the page again in a moment.",
		})
	}
	topics, people := l.watched()
	for _, t := range topics {
		rows, names := l.callsFor(t)
		if len(rows) == 0 {
			continue
		}
		verb := "watches"
		if len(people[t]) > 1 {
			verb = "watch"
		}
		f := Finding{
			Severity: Look, Row: rows[0], Amount: float64(len(rows)), About: string(t), Measured: fmt.Sprintf("%d of %d rows", len(rows), l.s.Rows()),
			Limit:  "none without a word on it",
			Says:   fmt.Sprintf("%s %s %s", strings.Join(people[t], " and "), verb, t),
			Detail: strings.Join(names, ", ") + ". Say the easier option early; whoever treats them decides.",
		}
		f.At, _, _ = l.tl.RowSpan(f.Row)
		out = append(out, f)
	}
	return out
}

// WatchedBy reads what somebody has to watch out of their own words; ok is false where nothing in them is known. Who is
// called by the first of their names.
func WatchedBy(name, words string) (w Watched, ok bool) {
	topics := movement.TopicsIn(words)
	first, _, _ := strings.Cut(strings.TrimSpace(name), " ")
	return Watched{first, topics}, topics != nil
}

// watched lists what people on the list watch, in the order they say it, and who.
func (l *look) watched() (topics []movement.Topic, people map[movement.Topic][]string) {
	people = map[movement.Topic][]string{}
	for _, w := range l.ctx.Watch {
		for _, t := range w.Topics {
			if people[t] == nil {
				topics = append(topics, t)
			}
			people[t] = append(people[t], w.Name)
		}
	}
	return topics, people
}

// callsFor lists the rows that call for care of a topic, and the names of their movements.
func (l *look) callsFor(t movement.Topic) (rows []plan.Path, names []string) {
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() || s.Move == nil || slices.Contains(rows, s.Row) || !slices.Contains(s.Move.Watched(s.Level), t) {
			continue
		}
		rows = append(rows, s.Row)
		if !slices.Contains(names, s.Move.Name) {
			names = append(names, s.Move.Name)
		}
	}
	return rows, names
}
