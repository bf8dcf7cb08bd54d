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
			Detail: withMore(names) + ". Say the easier option early; whoever treats them decides.",
		}
		if t.IsState() {
			f.Says = fmt.Sprintf("%s: %s", strings.Join(people[t], " and "), t)
		}
		if t == movement.Treated { // it is not for the class to say what
			f.Says, f.Detail = fmt.Sprintf("%s: under treatment", strings.Join(people[t], " and ")), "Ask whoever treats them before the class; small and slow until then."
		}
		f.At, _, _ = l.tl.RowSpan(f.Row)
		out = append(out, f)
	}
	return out
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

// namedAtMost is how many movements a finding names with what to do about them; judgement.
const namedAtMost = 5

// withMore is a list that names so many, and counts the rest.
func withMore(names []string) string {
	if len(names) <= namedAtMost {
		return strings.Join(names, "; ")
	}
	return fmt.Sprintf("%s; and %d more", strings.Join(names[:namedAtMost], "; "), len(names)-namedAtMost)
}

// callsFor lists the rows that call for care of a topic, and their movements with what the table of cautions says of them.
func (l *look) callsFor(t movement.Topic) (rows []plan.Path, names []string) {
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if !s.Kind.Working() || s.Move == nil || slices.Contains(rows, s.Row) || !s.Move.Watches(s.Level, t) {
			continue
		}
		rows = append(rows, s.Row)
		c := s.Move.CareOf(s.Level, t)
		says := s.Move.Name + ": " + c.Words()
		if c.Level > 0 {
			says = fmt.Sprintf("%s: level %d, %s", s.Move.Name, c.Level, c.Says)
		}
		if !slices.Contains(names, says) {
			names = append(names, says)
		}
	}
	return rows, names
}
