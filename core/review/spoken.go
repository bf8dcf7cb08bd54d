package review

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// wordsAMinute is how fast a still class is talked to by who talks as the dials say: slower than ordinary speech, of 150 (common practice, no source).
const wordsAMinute = 110.0

// spokenRule: lines that are said at their times in a stillness need more time than there is until the next, or until the row ends.
var spokenRule = &Rule{
	Name: "spoken", Looks: "words at their times take longer than the time until the next of them, or until the row is over, at 110 words a minute or the teacher's own pace", Fixed: "each has its time", Source: judged,
	Mends: "give each its time; leave out what does not fit", find: findSpoken,
}

// speaks is how long words take to say.
func (l *look) speaks(words string) clock.Span {
	n := len(strings.Fields(words))
	return clock.Seconds(float64(n) / wordsAMinute * 60 * l.lib.Pace().TalkFactor())
}

func findSpoken(l *look, _ *Rule) (out []Finding) {
	lengths := map[plan.Path]clock.Span{} // of the work of a row on one side, in which its words are said
	for i := range l.tl.Steps {
		s := &l.tl.Steps[i]
		if s.Kind.Working() && s.Set <= 1 && slices.ContainsFunc(s.Cues, func(q timeline.Cue) bool { return q.Cue == "say" }) {
			lengths[s.Row] = max(lengths[s.Row], s.S)
		}
	}
	l.moves(func(p plan.Path, _ *plan.Block, r *plan.Row, m *movement.Movement) {
		if len(r.Timed) == 0 || lengths[p] == 0 {
			return
		}
		whole := lengths[p]
		over, at := clock.Span(0), 0
		need := clock.Span(0)
		for i, w := range r.Timed {
			end := whole
			if i+1 < len(r.Timed) {
				end = min(end, r.Timed[i+1].At)
			}
			need += l.speaks(w.Say)
			if o := w.At + l.speaks(w.Say) - end; o > over {
				over, at = o, i
			}
		}
		if over < clock.Second {
			return
		}
		f := Finding{
			Severity: Look, Row: p, Amount: over.Seconds(), About: movement.BaseSlug(r.Name()), Measured: over.Said() + " too long", Limit: "each has its time",
			Says: fmt.Sprintf("The words in %s are longer than their time", m.Name), Detail: fmt.Sprintf("At %s: “%s” takes about %s.", r.Timed[at].At, plan.Clip(r.Timed[at].Say, 60), l.speaks(r.Timed[at].Say).Said()),
		}
		f.At, _, _ = l.tl.RowSpan(p)
		if need <= whole {
			f.Mends = append(f.Mends, Mend{ID: "spoken-space-" + p.String(), Says: "Give each its time", apply: func(s *plan.Session) error {
				row := s.Row(p)
				if row == nil {
					return plan.ErrNoRow
				}
				row.Timed = l.spaced(row.Timed, whole, need)
				return nil
			}})
		}
		f.Mends = append(f.Mends, Mend{ID: "spoken-last-" + p.String(), Says: "Leave out what does not fit", apply: func(s *plan.Session) error {
			row := s.Row(p)
			if row == nil {
				return plan.ErrNoRow
			}
			var kept []plan.TimedWord
			at := clock.Span(0)
			for _, w := range row.Timed {
				w.At = max(w.At, at)
				if w.At+l.speaks(w.Say) > whole {
					break
				}
				at = wholeUp(w.At + l.speaks(w.Say))
				kept = append(kept, w)
			}
			row.Timed = kept
			return nil
		}})
		out = append(out, f)
	})
	return out
}

// spaced gives every line the time it takes and a share of the silence that is left.
func (l *look) spaced(words []plan.TimedWord, whole, need clock.Span) []plan.TimedWord {
	out := slices.Clone(words)
	silence := (whole - need) / clock.Span(len(words)+1)
	at := clock.Span(0)
	for i := range out {
		out[i].At = at / 100 * 100
		at += l.speaks(out[i].Say) + silence
	}
	return out
}

// wholeUp is the next whole second.
func wholeUp(s clock.Span) clock.Span {
	return (s + clock.Second - 1) / clock.Second * clock.Second
}
