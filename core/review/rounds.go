package review

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// A round is written out again when it shares so many of its rows, and at least so many; judgement.
const (
	roundShares = .6
	roundLeast  = 3
)

// roundsRule: a round that is written out again drops or changes something, and nobody says so. A round in which most is
// changed is meant so: a hard round after an easy one.
var roundsRule = &Rule{
	Name: "round", Looks: "a round written out again drops or changes a row, and no note says so; where most is changed it is meant so", Fixed: "the same again, or said", Source: judged,
	Mends: "make it like the round before", find: findRounds,
}

// unlikeSaid are words by which a round says that it is another.
var unlikeSaid = regexp.MustCompile(`(?i)\b(?:without|skip|leave out|drop|this time|instead|only|fewer|less|more|harder|easier|short|last round|second round|round (?:2|two)|now)\b`)

// part is a row of a round with its place.
type part struct {
	at plan.Path
	r  *plan.Row
}

// partsOf are the rows of a block that move, with their places.
func partsOf(b *plan.Block, section, block int) (rows []part) {
	for k := range b.Rows {
		if !b.Rows[k].IsRest() {
			rows = append(rows, part{plan.Path{Section: section, Block: block, Row: k + 1}, &b.Rows[k]})
		}
	}
	return rows
}

func findRounds(l *look, _ *Rule) (out []Finding) {
	var was []part
	for i := range l.s.Sections {
		for j := range l.s.Sections[i].Blocks {
			b := &l.s.Sections[i].Blocks[j]
			rows := partsOf(b, i+1, j+1)
			if f, ok := l.unlikeRound(was, rows); ok && b.On == 0 {
				out = append(out, f)
			} else if b.Rule == plan.Straight {
				first, second := writtenTwice(rows)
				if f, ok := l.unlikeRound(first, second); ok {
					out = append(out, f)
				}
			}
			was = rows
		}
	}
	return out
}

// writtenTwice parts the rows of a block where its first movement that comes again begins again.
func writtenTwice(rows []part) (first, second []part) {
	for i := range rows {
		for k := i + roundLeast; k < len(rows); k++ {
			if rows[k].r.Name() == rows[i].r.Name() && k-i >= roundLeast {
				second = rows[k:]
				return rows[i:k], second[:min(len(second), k-i)]
			}
		}
	}
	return nil, nil
}

// comesAgain tells whether a block writes a round out twice.
func (l *look) comesAgain() bool {
	for i := range l.s.Sections {
		for j := range l.s.Sections[i].Blocks {
			b := &l.s.Sections[i].Blocks[j]
			if b.Rule != plan.Straight {
				continue
			}
			first, second := writtenTwice(partsOf(b, i+1, j+1))
			if len(first) >= roundLeast && len(pairsOf(first, second)) >= roundLeast {
				return true
			}
		}
	}
	return false
}

// pairsOf says which rows of a round stand in another, in order: by their index, from 0.
func pairsOf(was, now []part) map[int]int {
	pairs, from := map[int]int{}, 0
	for i, a := range was {
		for k := from; k < len(now); k++ {
			if now[k].r.Name() == a.r.Name() && now[k].r.Sides == a.r.Sides {
				pairs[i], from = k, k+1
				break
			}
		}
	}
	return pairs
}

// unlikeRound is the finding about a round and the one before it, where they are meant to be the same and are not.
func (l *look) unlikeRound(was, now []part) (Finding, bool) {
	if len(was) < roundLeast || len(now) < roundLeast-1 {
		return Finding{}, false
	}
	for _, p := range now {
		if unlikeSaid.MatchString(p.r.Note) {
			return Finding{}, false
		}
	}
	if s := l.s.Sections[now[0].at.Section-1].Title; unlikeSaid.MatchString(s) {
		return Finding{}, false
	}
	pairs := pairsOf(was, now)
	if extra := len(now) - len(pairs); len(pairs) < 2 || float64(len(pairs)) < roundShares*float64(len(was)) || extra > 1 || extra > 0 && len(pairs) < roundLeast {
		return Finding{}, false
	}
	var dropped, changed []int
	for i, a := range was {
		k, ok := pairs[i]
		switch {
		case !ok:
			dropped = append(dropped, i)
		case !now[k].r.Dose.Equal(a.r.Dose) || max(1, now[k].r.Level) != max(1, a.r.Level):
			changed = append(changed, i)
		}
	}
	switch {
	case len(dropped)+len(changed) == 0, len(changed)*2 > len(pairs), len(pairs) < roundLeast && len(dropped) != 1:
		return Finding{}, false
	}
	var says []string
	at := now[0].at
	for _, i := range dropped {
		says = append(says, "without "+l.name(was[i].at))
	}
	for _, i := range changed {
		a, b := was[i].r, now[pairs[i]].r
		says = append(says, fmt.Sprintf("%s %s, before %s", l.name(now[pairs[i]].at), saidOf(l, b), saidOf(l, a)))
		at = now[pairs[i]].at
	}
	f := Finding{
		Severity: Look, Row: at, Amount: float64(len(says)), About: "round", Measured: many(len(says), "row") + " unlike", Limit: "the same again, or said",
		Says: "The round that comes again is not the same", Detail: strings.ToUpper(says[0][:1]) + strings.Join(says, "; ")[1:] + ". Nobody is told.",
	}
	f.At, _, _ = l.tl.RowSpan(at)
	f.Mends = []Mend{{ID: "round-like-" + now[0].at.String(), Says: "Make it like the round before", apply: func(s *plan.Session) error {
		for _, i := range changed {
			to, as := s.Row(now[pairs[i]].at), s.Row(was[i].at)
			if to == nil || as == nil {
				return plan.ErrNoRow
			}
			to.Dose, to.Level = as.Dose, as.Level
		}
		for _, i := range slices.Backward(dropped) { // from behind, so that the places in front of it stay
			after := plan.Path{}
			for k := i - 1; k >= 0; k-- {
				if n, ok := pairs[k]; ok {
					after = now[n].at
					break
				}
			}
			as := s.Row(was[i].at)
			b := s.Block(now[0].at)
			if as == nil || b == nil {
				return plan.ErrNoRow
			}
			place := now[0].at.Row - 1
			if after != (plan.Path{}) {
				place = after.Row
			}
			b.Rows = slices.Insert(b.Rows, place, *as)
		}
		return nil
	}}}
	if !l.mendsIt(f.Mends[0]) {
		return f, false
	}
	if slices.ContainsFunc(dropped, func(i int) bool { return l.sided(was[i].r) }) { // putting it in again may set the sides apart
		f.Mends = nil
	}
	return f, true
}

// sided tells whether a row gives one side something of its own.
func (l *look) sided(r *plan.Row) bool {
	m, err := r.Of(l.lib)
	return r.Right != nil || r.Left != nil || r.Sides == movement.RightOnly || r.Sides == movement.LeftOnly || err == nil && m != nil && oddCount(r, m) > 0
}

// mendsIt tells whether making the round like the one before leaves less of this rule; where it does not, the rows were none
// that come again.
func (l *look) mendsIt(m Mend) bool {
	if l.trying {
		return true
	}
	c := l.s.Clone()
	if m.apply(c) != nil {
		return false
	}
	count := func(s *plan.Session) int {
		return len(findRounds(&look{s: s, tl: l.tl, lib: l.lib, lim: l.lim, trying: true}, nil))
	}
	return count(c) < count(l.s)
}

// saidOf is a row's level and dose in words.
func saidOf(l *look, r *plan.Row) string {
	m, err := r.Of(l.lib)
	if err != nil || m == nil {
		return r.Dose.String()
	}
	if len(m.Levels) > 1 {
		return fmt.Sprintf("level %d, %s", max(1, r.Level), r.DoseOf(m))
	}
	return r.DoseOf(m).String()
}
