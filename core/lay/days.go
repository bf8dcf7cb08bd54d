// Package lay lays a series out from a brief: what each day is, which movements it has at which rung, a class for each day that
// lasts what was asked, and why. It is deterministic for a seed.
package lay

import (
	"fmt"
	"slices"
	"time"

	"wavekine/core/brief"
)

// Kind is what a day of a series is.
type Kind string

// The kinds.
const (
	Work Kind = "work"
	Easy Kind = "easy"
	Rest Kind = "rest"

	Stretch Kind = "stretch" // stretches and mobility alone
)

// Hard is how hard a day is meant to be.
type Hard int

// How hard, from easy to hard.
const (
	Soft Hard = iota
	Middle
	High
)

// Day is one day as it is planned, before it has a class.
type Day struct {
	N     int
	Date  time.Time // zero where the brief has no start
	Kind  Kind
	Hard  Hard
	Peak  bool
	Theme string
	Want  float64 // how hard the shape asks it to be, 0 to 1
	Why   string
}

// easier tells whether the day asks for less than a day of work.
func (d *Day) easier() bool { return d.Kind == Easy || d.Kind == Stretch }

// Judgement constants of the day plan: what a day costs that is off its shape, or has its theme too soon again.
const (
	offShape   = 100 // times the square of how far it is off
	sameTheme  = 8   // the theme of the day before
	soonTheme  = 3   // the theme of the day before that, where there are three and more
	longRun    = 20  // a fourth day running without an easy one, and each after it
	easyFirst  = 12  // to begin with an easy day that nobody asked for
	runAllowed = 3
	mostThemes = 4 // a day chooses among; of more, each week has others
)

const rampFrom = .35 // of the peak: an easy day comes by rule, not because a ramp starts low

// hardAt is where each hardness lies on the shape.
var hardAt = [...]float64{Soft: .1, Middle: .5, High: .9}

// wholeBody are the themes of a brief that names none.
var wholeBody = []string{"core", "hips", "upper back", "spine"}

// frame is the days with what is fixed of them, before they are planned.
type frame struct {
	days   []Day
	may    []hards    // how hard each day may be
	themes [][]string // what each day may be about
}

// hards is a set of Hard.
type hards uint8

const anyHard = hards(1<<Soft | 1<<Middle | 1<<High)

func only(h Hard) hards { return 1 << h }

func (m hards) has(h Hard) bool { return m&(1<<h) != 0 }

// fixed tells whether there is no choice.
func (m hards) fixed() bool { return m&(m-1) == 0 }

// frameOf lays out what the brief fixes; could are the things that cannot be had, in words.
func frameOf(b *brief.Brief, p *pins) (f frame, could []string) {
	dates := b.Calendar()
	n := max(b.Days, 1)
	f.days, f.may, f.themes = make([]Day, n), make([]hards, n), make([][]string, n)
	var work []int
	for i := range f.days {
		d := &f.days[i]
		d.N, d.Kind = i+1, Work
		if i < len(dates) {
			d.Date = dates[i]
		}
		f.may[i] = anyHard
		if k := p.day(d); k.isKind() {
			if k.d.Rest {
				d.Kind, d.Why = Rest, "a rest day, pinned"
				continue
			}
		} else if b.IsRest(i+1, dates) {
			d.Kind, d.Why = Rest, "a rest day, as asked"
			continue
		}
		work = append(work, i)
	}
	if len(work) == 0 {
		return f, []string{"every day is a rest day: there is nothing to lay"}
	}
	for _, i := range work { // what is pinned comes before what is asked for
		k := p.day(&f.days[i])
		switch {
		case !k.isKind():
		case k.d.Easier():
			f.may[i], f.days[i].Why = only(Soft), "easier, pinned"
			if k.d.Kind == string(Stretch) {
				f.days[i].Kind = Stretch
			}
		case k.d.Peak:
			f.may[i], f.days[i].Peak = only(High), true
		default:
			f.may[i] = only(Middle) | only(High)
		}
	}
	stretch := slices.Clone(b.StretchDays)
	if b.StretchLast {
		stretch = append(stretch, work[len(work)-1]+1)
	}
	for _, s := range stretch {
		switch {
		case s > n:
			could = append(could, fmt.Sprintf("a day to stretch is asked for on day %d of %d", s, n))
		case f.days[s-1].Kind == Rest:
			could = append(could, fmt.Sprintf("day %d is asked to be a day to stretch and one of rest: it is one of rest", s))
		case s == b.Peak:
			could = append(could, fmt.Sprintf("day %d is asked to be the peak and a day to stretch: it is the peak", s))
		case !f.may[s-1].has(Soft):
			could = append(could, fmt.Sprintf("day %d is asked to be a day to stretch and pinned as it is: it stays", s))
		default:
			f.days[s-1].Kind, f.may[s-1], f.days[s-1].Why = Stretch, only(Soft), "a day to stretch, as asked"
		}
	}
	peak := b.Peak - 1
	if b.Peak > n {
		could = append(could, fmt.Sprintf("the peak is asked for on day %d of %d", b.Peak, n))
		peak = -1
	} else if peak >= 0 && f.days[peak].Kind == Rest {
		could = append(could, fmt.Sprintf("the peak is asked for on day %d, which is a rest day: no day is the peak", b.Peak))
		peak = -1
	}
	last := work[len(work)-1]
	soft := slices.Clone(b.Soft)
	if b.SoftLast {
		soft = append(soft, last+1)
	}
	if peak < 0 && b.Peak == 0 && b.Shape == brief.Ramp && len(work) > 2 { // the last day but one
		peak = work[len(work)-2]
		if !slices.Contains(soft, last+1) {
			soft = append(soft, last+1)
		}
	}
	for _, s := range soft {
		switch {
		case s > n:
			could = append(could, fmt.Sprintf("a soft day is asked for on day %d of %d", s, n))
		case s-1 == peak:
			could = append(could, fmt.Sprintf("day %d is asked to be the peak and soft: it is the peak", s))
		case f.days[s-1].Kind != Rest && !f.may[s-1].has(Soft):
			could = append(could, fmt.Sprintf("day %d is asked to be soft and pinned as it is: it stays", s))
		case f.days[s-1].Kind != Rest:
			f.may[s-1], f.days[s-1].Why = only(Soft), "a soft day, as asked"
		}
	}
	if peak >= 0 && !f.may[peak].has(High) {
		could = append(could, fmt.Sprintf("the peak is to be on day %d, which is pinned as an easier one: no day is the peak", peak+1))
		peak = -1
	}
	if peak >= 0 {
		f.may[peak], f.days[peak].Peak = only(High), true
		for _, k := range []int{peak - 1, peak + 1} { // an easy day on each side
			if k >= 0 && k < n && f.days[k].Kind == Work && f.may[k] == anyHard && len(work) > 4 {
				f.may[k], f.days[k].Why = only(Soft), fmt.Sprintf("easier, beside the peak on day %d", peak+1)
			}
		}
	}
	for k, i := range work {
		f.days[i].Want = shapeAt(b.Shape, k, len(work), at(work, peak), i/7)
		f.themes[i] = b.Focus
		if ts := b.Weeks[i/7+1]; len(ts) > 0 {
			f.themes[i] = ts
		}
		if len(f.themes[i]) == 0 {
			f.themes[i] = wholeBody
		}
		if b.Shape == brief.SameSet { // every day is the same class
			f.themes[i] = f.themes[i][:1]
		}
		if th := p.day(&f.days[i]).theme(); th != "" {
			f.themes[i] = []string{th}
		}
		if ts := f.themes[i]; len(ts) > mostThemes {
			f.themes[i] = nil
			for j := range mostThemes {
				f.themes[i] = append(f.themes[i], ts[(i/7*2+j)%len(ts)])
			}
		}
	}
	return f, could
}

func at(work []int, day int) int { return slices.Index(work, day) }

// shapeAt is how hard the shape asks day k of n class days to be, 0 to 1; peak is the place of the peak among them, -1 for none.
// The proportions are judgement.
func shapeAt(shape brief.Shape, k, n, peak, week int) float64 {
	pos := 0.0
	if n > 1 {
		pos = float64(k) / float64(n-1)
	}
	switch shape {
	case brief.Ramp:
		if peak > 0 {
			if k > peak {
				return rampFrom
			}
			return rampFrom + (1-rampFrom)*float64(k)/float64(peak)
		}
		return rampFrom + (1-rampFrom)*pos
	case brief.Wave:
		return min(1, []float64{.35, .55, .8, .1}[k%4]+.15*pos)
	case brief.SameSet:
		return .35 + .35*pos
	case brief.ByWeeks:
		return min(.9, .4+.12*float64(week))
	case brief.Intervals:
		return .35 + .5*pos
	case brief.TwoHolds:
		return .35 + .4*pos
	}
	if peak >= 0 && k == peak {
		return 1
	}
	return .5
}

// state is what the plan of the days after depends on.
type state struct {
	hard   Hard
	theme  int // index among the day's themes; -1 before the first
	name   string
	before string // the theme of the class day before
	third  string // and of the one before that
	run    int    // days without an easy one
	rested bool   // the day before was a rest day
}

// cost is what day i costs with a hardness and a theme after a state, and the state then; ok is false where it may not be.
func (f *frame) cost(i int, s state, hard Hard, theme string) (c int, next state, ok bool) {
	d := &f.days[i]
	if !f.may[i].has(hard) {
		return 0, next, false
	}
	if hard == High && s.hard == High && s.name == theme && !s.rested && s.theme >= 0 && !(f.may[i] == only(High) && f.may[i-1] == only(High)) { // the same hard within 48 h, unless both are pinned so
		return 0, next, false
	}
	off := d.Want - hardAt[hard]
	if !f.may[i].fixed() {
		c = int(off*off*offShape + .5)
		if hard == Soft && s.theme < 0 && d.Want > hardAt[Soft] {
			c += easyFirst
		}
	}
	if n := len(f.themes[i]); n > 1 && s.theme >= 0 {
		if s.name == theme {
			c += sameTheme
		} else if n > 2 && s.before == theme || n > 3 && s.third == theme {
			c += soonTheme
		}
	}
	run := 0
	if hard != Soft {
		if run = s.run + 1; run > runAllowed {
			c += longRun
		}
	}
	return c, state{hard: hard, theme: 0, name: theme, before: s.name, third: s.before, run: min(run, runAllowed+1)}, true
}

// plan finds the cheapest plan of the days, exactly: dynamic programming over hardness, the last three themes and days without an easy
// one. Ties go to what comes first in the brief. Cost grows with days x (3 x themes^3 x 5) x (3 x themes).
func (f *frame) plan() (total int) {
	type node struct {
		cost int
		prev int
		s    state
	}
	layers := [][]node{{{s: state{theme: -1, rested: true}}}}
	var days []int
	for i := range f.days {
		last := layers[len(layers)-1]
		if f.days[i].Kind == Rest {
			for k := range last { // a rest day ends a run
				last[k].s.run, last[k].s.rested = 0, true
			}
			continue
		}
		days = append(days, i)
		index := map[state]int{}
		var now []node
		for k := range last {
			for hard := Soft; hard <= High; hard++ {
				for _, theme := range f.themes[i] {
					c, s, ok := f.cost(i, last[k].s, hard, theme)
					if !ok {
						continue
					}
					if j, seen := index[s]; !seen {
						index[s] = len(now)
						now = append(now, node{last[k].cost + c, k, s})
					} else if last[k].cost+c < now[j].cost {
						now[j] = node{last[k].cost + c, k, s}
					}
				}
			}
		}
		layers = append(layers, now)
	}
	end := layers[len(layers)-1]
	best := 0
	for k := range end {
		if end[k].cost < end[best].cost {
			best = k
		}
	}
	if len(end) == 0 {
		return 0
	}
	total = end[best].cost
	for l := len(layers) - 1; l > 0; l-- {
		nd := layers[l][best]
		d := &f.days[days[l-1]]
		d.Hard, d.Theme = nd.s.hard, nd.s.name
		if d.Hard == Soft && d.Kind == Work {
			d.Kind = Easy
		}
		best = nd.prev
	}
	f.reasons()
	return total
}

// reasons says of each day why it is what it is.
func (f *frame) reasons() {
	for i := range f.days {
		d := &f.days[i]
		if d.Why != "" {
			continue
		}
		switch {
		case d.Peak:
			d.Why = "the peak"
		case d.Hard == Soft && d.Want < .3:
			d.Why = "easier, as the shape asks"
		case d.Hard == Soft:
			d.Why = "easier, so that no more than " + fmt.Sprint(runAllowed) + " days run on"
		case i > 0 && f.days[i-1].Hard == High && f.days[i-1].Kind == Work && d.Theme != f.days[i-1].Theme:
			d.Why = f.days[i-1].Theme + " rest 48 h after day " + fmt.Sprint(i)
		default:
			d.Why = "as the shape asks"
		}
	}
}

// Days plans what each day of a brief is. could are the things that cannot be had, in words.
func Days(b *brief.Brief) (days []Day, could []string) { return planDays(b, nil) }

// planDays is Days around what is pinned.
func planDays(b *brief.Brief, p *pins) (days []Day, could []string) {
	f, could := frameOf(b, p)
	f.plan()
	return f.days, could
}
