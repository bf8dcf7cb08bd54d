package progress

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"wavekine/core/dose"
	"wavekine/core/ladder"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Planned is how hard a class is meant to feel, on the Borg CR10 scale: the root of the mean square of the effort of its work, so that what is hard counts for more than what is easy;
// judgement. 0 where nothing is worked.
func Planned(tl *timeline.Timeline) float64 {
	sum, secs := 0.0, 0.0
	for i := range tl.Steps {
		if st := &tl.Steps[i]; st.Kind.Working() {
			sum += st.Effort * st.Effort * st.S.Seconds()
			secs += st.S.Seconds()
		}
	}
	if secs == 0 {
		return 0
	}
	return math.Round(10*math.Sqrt(sum/secs)) / 10
}

// Go is one time that somebody did a movement of a thread.
type Go struct {
	Day    int       `json:"day"`
	Date   time.Time `json:"date"`
	Level  int       `json:"level"`  // as it was taken
	Dose   string    `json:"dose"`   // as it was planned
	Target bool      `json:"target"` // all of it, at the level that was planned
	Effort int       `json:"effort"` // felt; -1: not said
	Plan   float64   `json:"plan"`   // effort planned
	Felt   []string  `json:"felt"`   // where it should not be felt
	Hurt   []string  `json:"hurt"`
}

// Over is how far above the plan a go felt; 0 where nothing was said.
func (g *Go) Over() float64 {
	if g.Effort < 0 {
		return 0
	}
	return float64(g.Effort) - g.Plan
}

// Constants of readiness. Two for two is common practice in strength training (no published source); how far is far is judgement.
const (
	inARow    = 2  // goes
	farOver   = 2. // effort over the plan
	slackOver = .5 // an effort is told in whole numbers: so much over the plan is still at it
)

// Verdict is what the check-ins say about the next rung.
type Verdict string

// The verdicts.
const (
	Up   Verdict = "up"
	Stay Verdict = "stay"
	Back Verdict = "back"
	Stop Verdict = "stop" // and refer
)

// Ready is what somebody's goes at a movement say, with the goes that say it.
type Ready struct {
	Movement string
	Verdict  Verdict
	Evidence []Go
	Says     string
}

// Judge reads the goes of one movement, the oldest first, since it was last decided about. Pain in any of them: stop and refer. In the last two: felt where it should not be, or two and
// more over the plan, both times: back. All of it at the planned level, at or under the planned effort and nowhere else felt, both times: up. Else stay.
func Judge(slug string, goes []Go) Ready {
	r := Ready{Movement: slug, Verdict: Stay}
	for _, g := range goes {
		if len(g.Hurt) > 0 {
			r.Verdict, r.Evidence = Stop, append(r.Evidence, g)
		}
	}
	if r.Verdict == Stop {
		last := r.Evidence[len(r.Evidence)-1]
		r.Says = fmt.Sprintf("It hurt on day %d: %s. Stop it, and refer to whoever treats them.", last.Day, strings.Join(last.Hurt, ", "))
		return r
	}
	if len(goes) < inARow {
		r.Evidence, r.Says = goes, "too few goes to say anything"
		return r
	}
	r.Evidence = goes[len(goes)-inARow:]
	back, up := true, true
	var wrong []string
	for _, g := range r.Evidence {
		back = back && (len(g.Felt) > 0 || g.Effort >= 0 && g.Over() >= farOver-1e-9)
		up = up && g.Target && g.Effort >= 0 && g.Over() <= slackOver+1e-9 && len(g.Felt) == 0
		for _, f := range g.Felt {
			if !slices.Contains(wrong, f) {
				wrong = append(wrong, f)
			}
		}
	}
	a, b := r.Evidence[0], r.Evidence[1]
	days := fmt.Sprintf("Days %d and %d", a.Day, b.Day)
	switch {
	case back && len(wrong) > 0:
		r.Verdict, r.Says = Back, fmt.Sprintf("%s: felt in the %s%s.", days, strings.Join(wrong, " and "), efforts(a, b))
	case back:
		r.Verdict, r.Says = Back, days+efforts(a, b)+"."
	case up:
		r.Verdict, r.Says = Up, fmt.Sprintf("%s, all of %s%s: two for two.", days, b.Dose, efforts(a, b))
	default:
		r.Says = "neither ready nor too much"
	}
	return r
}

// efforts are the efforts of two goes against what was planned: ", effort 9 and 8 against 6 and 5".
func efforts(a, b Go) string {
	if a.Effort < 0 || b.Effort < 0 {
		return ""
	}
	if a.Plan == b.Plan {
		return fmt.Sprintf(", effort %d and %d against %.0f planned", a.Effort, b.Effort, a.Plan)
	}
	return fmt.Sprintf(", effort %d and %d against %.0f and %.0f planned", a.Effort, b.Effort, a.Plan, b.Plan)
}

// Class is a day's class as one mover had it, for reading their goes.
type Class struct {
	Day  int
	Date time.Time
	Plan *plan.Session
	TL   *timeline.Timeline
	Sum  *Summary // of the class; nil: it is worked out when it is needed
}

// Summary is what of a class its goes are read from: worked out once for a version, however many movers have it.
type Summary struct {
	Planned float64
	rows    []summaryRow
}

type summaryRow struct {
	slug, own, dose string
	level           int
	m               *movement.Movement
}

// SummaryOf works it out.
func SummaryOf(lib *movement.Library, s *plan.Session, tl *timeline.Timeline) *Summary {
	out := &Summary{Planned: Planned(tl)}
	seen := map[string]bool{}
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if r.IsRest() {
			return
		}
		m, err := r.Of(lib)
		slug := movement.BaseSlug(r.Name())
		if err != nil || m == nil || seen[slug] {
			return
		}
		seen[slug] = true
		out.rows = append(out.rows, summaryRow{slug, r.Movement, r.DoseOf(m).String(), max(1, r.Level), m})
	})
	return out
}

// Goes reads what somebody did of each movement of a class, by slug without a version, out of their word on it. What was felt, or hurt, counts for a movement only where they said in
// which: a place alone accuses nobody, and pain of no movement is a matter of its own (see Suggest).
func Goes(lib *movement.Library, c Class, said *CheckIn) map[string]Go {
	return goesOf(lib, c, said, nil)
}

// goesOf is Goes of some movements; nil: of all.
func goesOf(lib *movement.Library, c Class, said *CheckIn, want map[string]bool) map[string]Go {
	out := map[string]Go{}
	if said == nil || said.Did == Nothing && !said.Hurt() {
		return out
	}
	sum := c.Sum
	if sum == nil {
		sum = SummaryOf(lib, c.Plan, c.TL)
	}
	for k := range sum.rows {
		x := &sum.rows[k]
		slug := x.slug
		if want != nil && !want[slug] {
			continue
		}
		g := Go{Day: c.Day, Date: c.Date, Level: x.level, Dose: x.dose, Target: said.Did == All, Effort: said.Effort, Plan: sum.Planned}
		for _, key := range []string{x.own, slug} {
			if n, ok := said.Taken[key]; ok && key != "" {
				g.Level = n
				g.Target = g.Target && n >= x.level
				break
			}
		}
		for _, f := range said.Felt {
			if movement.BaseSlug(f.In) == slug && f.In != "" && !Meant(x.m, f.Place) {
				g.Felt = append(g.Felt, f.String())
			}
		}
		for _, f := range said.Pain {
			if f.In != "" && movement.BaseSlug(f.In) == slug {
				g.Hurt = append(g.Hurt, f.String())
			}
		}
		if said.Did == Nothing && len(g.Hurt) == 0 {
			continue
		}
		out[slug] = g
	}
	return out
}

// Step is what a teacher decided about a movement for one mover, from a date on.
type Step struct {
	ID       string
	Mover    string
	Movement string // slug without a version
	Does     Verdict
	By       int       // rungs: +1, -1
	From     time.Time // goes up to then were looked at
	Evidence []Go
	Says     string
	Cleared  bool // what was stopped goes on again
}

// Rungs are a mover's rungs against the plan: so many up or down on each movement, and what is left out until cleared.
type Rungs struct {
	By  map[string]int
	Out map[string]string
}

// RungsOf adds up what was decided, the oldest first.
func RungsOf(steps []Step) Rungs {
	r := Rungs{By: map[string]int{}, Out: map[string]string{}}
	for _, s := range steps {
		switch {
		case s.Cleared:
			delete(r.Out, s.Movement)
		case s.Does == Stop:
			r.Out[s.Movement] = "it hurt, and whoever treats you has not cleared it yet"
		default:
			r.By[s.Movement] += s.By
		}
	}
	return r
}

// RungsOn are the rungs that somebody stood on when they did the class of a date: what was decided of that class, or later, was not in it yet.
func RungsOn(steps []Step, date time.Time) Rungs {
	return RungsOf(slices.DeleteFunc(slices.Clone(steps), func(s Step) bool { return !s.From.Before(date) }))
}

// Stands is the level and the dose of a movement in a class, in words; empty where the class has no such row.
func Stands(lib *movement.Library, class *plan.Session, slug string) string {
	row := rowOf(class, slug)
	if row == nil {
		return ""
	}
	m, _ := lib.Get(row.Movement)
	return fmt.Sprintf("level %d, %s", max(1, row.Level), row.DoseOf(m))
}

// LadderOf is the ladder of a movement in a series: the series' own, else that of the library.
func LadderOf(lib *movement.Library, s *plan.Series, slug string, a movement.Audience) ladder.Ladder {
	if s != nil {
		if d := s.Ladder(slug); d != nil && len(d.Steps) > 0 {
			return ladder.Read(lib, d)
		}
	}
	m, ok := lib.Get(slug)
	if !ok {
		return ladder.Ladder{Movement: slug}
	}
	return ladder.Of(lib, m, ladder.Terms{Audience: a})
}

// Next is the rung that is by so many away from a row; ok is false where there is none, or the row is on no rung and none is near.
func Next(l *ladder.Ladder, m *movement.Movement, level int, d dose.Dose, by int) (rung ladder.Rung, ok bool) {
	at := l.Find(m.Slug, level, d)
	if at < 0 { // the nearest of its level
		n, unit, counted := movement.Amount(d)
		off := 1 << 30
		for i, r := range l.Rungs {
			have, u, _ := movement.Amount(r.Dose)
			if movement.BaseSlug(r.Movement) != movement.BaseSlug(m.Slug) || r.Level != max(1, level) || !counted || u != unit {
				continue
			}
			if o := max(have-n, n-have); o < off {
				at, off = i, o
			}
		}
	}
	if at < 0 || len(l.Rungs) < 2 {
		return rung, false
	}
	to := min(max(at+by, 0), len(l.Rungs)-1)
	return l.Rungs[to], to != at
}

// Own puts a mover's own rungs into a class: each row of a movement that was decided about is so many rungs up or down the ladder. Rows whose dose is not plainly theirs (sides of
// their own, rounds that change, phases, a time on of the block) change by their level alone. The class is left as it is; what comes back is a copy where anything changed.
func Own(lib *movement.Library, s *plan.Series, class *plan.Session, r Rungs) *plan.Session {
	if !slices.ContainsFunc(keys(r.By), func(k string) bool { return r.By[k] != 0 }) {
		return class
	}
	out := class.Clone()
	ladders := map[string]ladder.Ladder{}
	out.Each(func(_ plan.Path, b *plan.Block, row *plan.Row) {
		if row.IsRest() || row.Inline != nil { // a locked row keeps its dose when a class is fitted; what was decided is another matter
			return
		}
		slug := movement.BaseSlug(row.Movement)
		by := r.By[slug]
		m, ok := lib.Get(row.Movement)
		if by == 0 || !ok {
			return
		}
		l, have := ladders[slug]
		if !have {
			l = LadderOf(lib, s, slug, class.Audience)
			ladders[slug] = l
		}
		rung, ok := Next(&l, m, max(1, row.Level), row.DoseOf(m), by)
		if !ok || movement.BaseSlug(rung.Movement) != slug {
			return
		}
		plain := !b.Timed() && row.Right == nil && row.Left == nil && len(row.ByRound) == 0 && len(row.PartLevels) == 0 && row.Sides == movement.SidesUnsaid && len(row.Dose.Parts) < 2
		was := *row
		row.Level = rung.Level
		if plain {
			row.Dose = rung.Dose
		}
		if row.Contradicts() != nil {
			*row = was
		}
	})
	out.Settle(lib)
	return out
}

func keys[V any](m map[string]V) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	return out
}

// Correction is how much harder a movement feels to a group than planned.
type Correction struct {
	Movement string
	By       float64 // on the CR10 scale, shrunk towards the plan
	Answers  int
}

// shrink is with how many answers of "as planned" every movement begins; judgement.
const shrink = 6.

// Corrections reads how hard a group felt its classes against the plan, movement by movement: each answer counts for the movements of its class by their share of the effort, and few
// answers hardly move anything. The one furthest from the plan first.
func Corrections(lib *movement.Library, answers []Answer) (out []Correction) {
	type sum struct {
		off, weight float64
		n           int
	}
	sums := map[string]*sum{}
	for _, a := range answers {
		if a.Said == nil || a.Said.Effort < 0 || a.Said.Did == Nothing {
			continue
		}
		off := float64(a.Said.Effort) - a.Class.Effort()
		effort, all := map[string]float64{}, 0.0
		for i := range a.Class.TL.Steps {
			st := &a.Class.TL.Steps[i]
			if st.Move == nil || !st.Kind.Working() || st.Move.Inline {
				continue
			}
			w := st.Effort * st.S.Seconds()
			effort[movement.BaseSlug(st.Move.Slug)] += w
			all += w
		}
		for slug, w := range effort {
			if all == 0 {
				continue
			}
			x := sums[slug]
			if x == nil {
				x = &sum{}
				sums[slug] = x
			}
			share := w / all * float64(len(effort)) // 1 for a movement with its even share
			x.off += share * off
			x.weight += share
			x.n++
		}
	}
	for slug, x := range sums {
		out = append(out, Correction{slug, math.Round(10*x.off/(x.weight+shrink)) / 10, x.n})
	}
	slices.SortFunc(out, func(a, b Correction) int {
		return cmp.Or(cmp.Compare(math.Abs(b.By), math.Abs(a.By)), cmp.Compare(b.Answers, a.Answers), strings.Compare(a.Movement, b.Movement))
	})
	return out
}

// Answer is one word on one class.
type Answer struct {
	Class Class
	Said  *CheckIn
}
