// Package ladder makes the order of rungs in which a movement gets harder over the days of a series: each a level and a dose, easiest
// first, one lever at a time.
package ladder

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Constants of ladders; all judgement.
const (
	LevelStep  = .8  // a new level begins with at least this much of the work of the rung before
	LargeStep  = .34 // a step of the dose above this share is said to be large
	EasyWork   = .78 // an easy day asks for at most this much of the day's work
	worksFrom  = .05 // demand that counts as none
	mostSkills = 3   // skill that no easy day asks for
)

// Lever is what a rung raises over the one before.
type Lever string

// The levers.
const (
	First       Lever = ""
	Repetitions Lever = "repetitions"
	Breaths     Lever = "breaths"
	Holding     Lever = "hold"
	ByLevel     Lever = "level"
)

var levers = map[movement.Unit]Lever{movement.CountReps: Repetitions, movement.CountBreaths: Breaths, movement.CountSeconds: Holding}

// Rung is a level and a dose with what it asks.
type Rung struct {
	Movement string     // its slug: a ladder may cross the versions of one thing
	Level    int        // from 1
	Dose     dose.Dose  //
	Amount   int        // per side or direction, in what the dose counts
	Lever    Lever      // what it raises over the rung before
	Seconds  clock.Span // of work
	Demand   float64    // 0..10
	Work     float64    // demand x seconds of work
	Large    bool       // a larger step than is usual, for there is none between
}

// Ladder is the rungs of a movement, easiest first. A movement to rest in or breathe has one rung.
type Ladder struct {
	Movement string
	Rungs    []Rung
}

// Terms is for whom and with what a ladder is made. The zero value is for everybody with everything.
type Terms struct {
	Audience movement.Audience
	Kit      []string // what there is
	Bare     bool     // there is no kit at all
}

// Has tells whether the kit of a level is there.
func (t Terms) Has(m *movement.Movement, n int) bool {
	for _, k := range m.Things(n) {
		if t.Bare || len(t.Kit) > 0 && !slices.Contains(t.Kit, k) {
			return false
		}
	}
	return true
}

// Takes tells whether level n can be on a ladder: it suits the audience, and its kit is there.
func (t Terms) Takes(m *movement.Movement, n int) bool { return t.Has(m, n) && m.Suits(n, t.Audience) }

// Of makes the ladder of a movement; it is empty where no level suits. Fill the range at a level, then the next level at the least dose that
// keeps LevelStep of the work. A level that asks for no more than the one below is a variant and no rung. Stretches climb in
// time on their first level: their level is for the mover to choose.
func Of(lib *movement.Library, m *movement.Movement, t Terms) Ladder {
	return Across(lib, []*movement.Movement{m}, t)
}

// Across makes one ladder over versions of one thing, in the order of their demand: the bridge, its dips, its march.
func Across(lib *movement.Library, versions []*movement.Movement, t Terms) Ladder {
	type stage struct {
		m *movement.Movement
		n int
	}
	var stages []stage
	for _, m := range versions {
		top := -1.0
		for n := 1; n <= len(m.Levels); n++ {
			if d := m.At(n).Demand; t.Takes(m, n) && (top < 0 || d >= top+worksFrom) {
				stages, top = append(stages, stage{m, n}), d
			}
		}
	}
	slices.SortStableFunc(stages, func(a, b stage) int { return int(1000*a.m.At(a.n).Demand) - int(1000*b.m.At(b.n).Demand) })
	l := Ladder{}
	if len(versions) > 0 {
		l.Movement = versions[0].Slug
	}
	top := -1.0
	for _, s := range stages {
		demand := s.m.At(s.n).Demand
		if top >= 0 && (demand < top+worksFrom || s.m.Stretch) {
			continue
		}
		rungs := stagesRungs(lib, s.m, s.n)
		if len(rungs) == 0 {
			continue
		}
		if k := len(l.Rungs); k > 0 {
			before := l.Rungs[k-1]
			from := slices.IndexFunc(rungs, func(r Rung) bool { return r.Work >= LevelStep*before.Work })
			if from < 0 {
				from = len(rungs) - 1
			}
			rungs = rungs[from:]
			rungs[0].Lever, rungs[0].Large = ByLevel, false
		}
		top = demand
		l.Rungs = append(l.Rungs, rungs...)
	}
	return l
}

// stagesRungs fills the range of one level.
func stagesRungs(lib *movement.Library, m *movement.Movement, n int) (out []Rung) {
	d := m.As(n).Dose
	b, ok := m.Bounds(n)
	if !ok {
		return nil
	}
	amounts := []int{b.Usual}
	if !m.Rest && m.Pattern != "breathe" && m.Pattern != "rest" && !m.DoseIsIt {
		amounts = amounts[:0]
		for a := b.Min; a <= b.Max; a += b.Step {
			amounts = append(amounts, a)
		}
		if m.Stretch && b.Unit == movement.CountSeconds {
			amounts = stretchTimes(b)
		}
	}
	lever := levers[b.Unit]
	for i, a := range amounts {
		r := RungOf(lib, m, n, movement.WithAmount(d, a))
		r.Amount = a
		if i > 0 {
			r.Lever, r.Large = lever, r.Work > (1+LargeStep)*out[i-1].Work
		}
		out = append(out, r)
	}
	return out
}

// stretchTimes are the times in which a stretch climbs: 20, 30, 45, 60 s, then by half minutes (common practice).
func stretchTimes(b movement.Bounds) (out []int) {
	for _, s := range []int{10, 15, 20, 30, 45, 60, 90, 120, 180} {
		if s >= b.Min && s <= b.Max {
			out = append(out, s)
		}
	}
	if len(out) == 0 {
		out = []int{b.Usual}
	}
	return out
}

// Seconds is how long a dose of level n is worked, both sides together, without getting there and changing over.
func Seconds(lib *movement.Library, m *movement.Movement, n int, d dose.Dose) (sum clock.Span) {
	row := plan.Row{Movement: m.Slug, Level: n, Dose: d}
	s := &plan.Session{Sections: []plan.Section{{Blocks: []plan.Block{{Rule: plan.Straight, Rounds: 1, Rows: []plan.Row{row}}}}}}
	tl, err := timeline.Build(s, lib)
	if err != nil {
		return 0
	}
	for i := range tl.Steps {
		if tl.Steps[i].Kind.Working() {
			sum += tl.Steps[i].S
		}
	}
	return sum
}

// Easy is the rung of an easy day for somebody who stands on rung at: the highest no larger in dose and of at most EasyWork of its work,
// never of the highest skill. ok is false where there is none: then the movement is left out.
func (l *Ladder) Easy(lib *movement.Library, at int) (rung int, ok bool) {
	now := l.Rungs[at]
	for k := at; k >= 0; k-- {
		r := l.Rungs[k]
		m, known := lib.Get(r.Movement)
		if known && r.Amount <= now.Amount && r.Work <= EasyWork*now.Work && m.Skill(r.Level) < mostSkills {
			return k, true
		}
	}
	return 0, false
}

// Gone is how far a movement has come since its first go.
type Gone struct {
	Goes  int // before this one, easier ones left out
	Days  int // of the series
	Weeks int
}

// At is the rung of a ladder climbed from a rung on. Who climbs when ready, or never, stays.
func (l *Ladder) At(from int, g Gone, c plan.Climb) int {
	switch c.When {
	case plan.EveryTime:
		from += g.Goes / max(1, c.Times)
	case plan.EveryDay:
		from += g.Days
	case plan.EveryWeek:
		from += g.Weeks
	}
	return min(from, len(l.Rungs)-1)
}

// Read makes a ladder of a document's steps, as they stand: a teacher may put them in any order. A step without a dose has the usual one.
func Read(lib *movement.Library, d *plan.Ladder) Ladder {
	l := Ladder{Movement: d.Movement}
	for k, s := range d.Steps {
		m, ok := lib.Get(d.Of(k))
		if !ok || s.Level > len(m.Levels) {
			continue
		}
		r := RungOf(lib, m, s.Level, s.Dose)
		if n := len(l.Rungs); n > 0 {
			switch before := l.Rungs[n-1]; {
			case before.Movement != r.Movement || before.Level != r.Level:
				r.Lever = ByLevel
			default:
				_, unit, _ := movement.Amount(r.Dose)
				r.Lever, r.Large = levers[unit], r.Work > (1+LargeStep)*before.Work
			}
		}
		l.Rungs = append(l.Rungs, r)
	}
	return l
}

// RungOf is a level at a dose, or at its usual one, with what it asks.
func RungOf(lib *movement.Library, m *movement.Movement, level int, d dose.Dose) Rung {
	level = max(1, level)
	if d.IsZero() {
		d = m.As(level).Dose
	}
	r := Rung{Movement: m.Slug, Level: level, Dose: d, Demand: m.At(level).Demand, Seconds: Seconds(lib, m, level, d)}
	r.Amount, _, _ = movement.Amount(d)
	r.Work = max(r.Demand, worksFrom) * r.Seconds.Seconds()
	return r
}

// Find is the rung that a row stands on, -1 where it is on none.
func (l *Ladder) Find(slug string, level int, d dose.Dose) int {
	return slices.IndexFunc(l.Rungs, func(r Rung) bool {
		return r.Movement == movement.BaseSlug(slug) && r.Level == max(1, level) && r.Dose.Equal(d)
	})
}

// Usual is the rung nearest to the usual dose of the first level that is on the ladder.
func (l *Ladder) Usual(lib *movement.Library) int {
	best, off := 0, 1<<30
	for i, r := range l.Rungs {
		m, ok := lib.Get(r.Movement)
		if !ok || r.Level != l.Rungs[0].Level || r.Movement != l.Rungs[0].Movement {
			break
		}
		if b, ok := m.Bounds(r.Level); ok {
			if d := max(b.Usual-r.Amount, r.Amount-b.Usual); d < off {
				best, off = i, d
			}
		}
	}
	return best
}

// Words says the ladder: "8 each side; next 10; then leg and opposite arm, 6 each side".
func (l *Ladder) Words(lib *movement.Library) string {
	var out []string
	for i, r := range l.Rungs {
		switch {
		case i == 0:
			out = append(out, r.Dose.String())
		case r.Lever == ByLevel:
			says := r.Dose.String()
			if m, ok := lib.Get(r.Movement); ok {
				says = m.At(r.Level).Changes + ", " + says
				if r.Movement != l.Rungs[i-1].Movement {
					says = m.Name + ", " + says
				}
			}
			out = append(out, "then "+says)
		default:
			out = append(out, fmt.Sprintf("next %d", r.Amount))
		}
	}
	return strings.Join(out, "; ")
}
