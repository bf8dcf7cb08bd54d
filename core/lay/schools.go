package lay

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"wavekine/core/brief"
	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/ladder"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

// theSet is the class of the school in which every day has the same: its rows climb their ladders, one a day in turn, two where the minutes have a
// range.
type theSet struct {
	rows    []setRow
	aDay    int
	classes int
}

// setRow is a row of the set with where it stands on its ladder.
type setRow struct {
	pick  pick
	rung  int  // -1: it stays as it is
	climb bool // it is work, and climbs
}

// setOf takes the set from the first day's class.
func setOf(lib *movement.Library, pool []*entry, c *Class) *theSet {
	s := &theSet{aDay: 1}
	if c.Most > c.Least {
		s.aDay = 2
	}
	c.Session.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		i := slices.IndexFunc(pool, func(e *entry) bool { return e.m.Slug == r.Movement })
		if i < 0 {
			return // a rest that was put in is put in again where it is needed
		}
		e := pool[i]
		level := max(1, r.Level)
		d := doseOf(e.m, level, r.Dose)
		row := setRow{pick: pick{e: e, role: sectionRoles[min(p.Section-1, 2)], because: "the set", rung: ladder.Rung{Movement: r.Movement, Level: level, Dose: d, Seconds: ladder.Seconds(lib, e.m, level, d), Demand: e.m.At(level).Demand}}, rung: -1}
		if amount, _, ok := movement.Amount(d); ok && p.Section == 2 && !e.m.Stretch {
			for k, rung := range e.ladder.Rungs {
				if rung.Level == level && rung.Amount <= amount {
					row.rung, row.climb = k, true
				}
			}
		}
		s.rows = append(s.rows, row)
	})
	return s
}

var sectionRoles = []movement.Role{movement.Mobilise, movement.Build, movement.Settle}

// on is the set on a day: on a work day the next rows have taken a rung, on a soft day each has an easier one.
func (s *theSet) on(lib *movement.Library, d *Day) []pick {
	var climbing []int
	for i := range s.rows {
		if s.rows[i].climb {
			climbing = append(climbing, i)
		}
	}
	if d.Hard != Soft && len(climbing) > 0 {
		for k := range s.aDay {
			i := climbing[(s.classes*s.aDay+k)%len(climbing)]
			s.rows[i].rung = min(s.rows[i].rung+1, len(s.rows[i].pick.e.ladder.Rungs)-1)
		}
		s.classes++
	}
	var out []pick
	for i := range s.rows {
		r := &s.rows[i]
		p := r.pick
		if r.rung >= 0 {
			at := r.rung
			p.because = fmt.Sprintf("the set, rung %d of %d", at+1, len(p.e.ladder.Rungs))
			if d.Hard == Soft {
				if easy, ok := p.e.ladder.Easy(lib, at); ok {
					at, p.because = easy, "the set, easier"
				}
			}
			p.rung, p.fixed = p.e.ladder.Rungs[at], true
		}
		out = append(out, p)
	}
	return out
}

// gentleHolds are those of older people: a stretch of theirs is held for 30 to 60 s (ACSM position stand, Garber et al. 2011).
var gentleHolds = []int{30, 45, 60}

// holdTimes are the seconds a side of a long hold over the thirds of a series (common practice).
var holdTimes = []int{60, 120, 180}

// holds is a class of two long holds: getting there, the two, and a rest. Its minutes follow from the holds.
func (l *Laid) holds(t *task, c *Class) []pick {
	times := holdTimes
	if t.b.Audience.Has(movement.Older) {
		times = gentleHolds
	}
	third := min(len(times)-1, len(t.mem.days)*len(times)/max(1, len(t.mem.days)+t.last+1))
	if t.day.Hard == Soft {
		third = max(0, third-1)
	}
	upTo := third + 1
	if n := t.b.LevelOn(t.day.N); n > 0 {
		upTo = n
	}
	var out []pick
	d := &draft{posture: movement.Supine, patterns: map[string]int{}, used: map[string]bool{}, spine: map[movement.Direction]bool{}}
	t.wanted = 1.5
	take := func(role movement.Role, left float64) {
		if p, ok := t.best(d, role, left, len(out) == 0); ok {
			p.fixed = true
			d.add(p, len(out) == 0)
			out = append(out, p)
		}
	}
	take(movement.Arrive, 60)
	take(movement.Mobilise, 60)
	hold := func(e *entry, because string) {
		level := 0
		for n := range e.m.Levels {
			if n < upTo && TermsOf(t.b).Takes(e.m, n+1) {
				level = n + 1
			}
		}
		if level == 0 {
			return
		}
		said := fmt.Sprintf("hold %d s", times[third])
		if e.m.As(level).Sides != movement.Both {
			said += " each side"
		}
		ds, err := dose.Parse(said)
		if err != nil {
			return
		}
		p := pick{e: e, role: movement.Build, fixed: true, because: because, rung: ladder.Rung{Movement: e.m.Slug, Level: level, Dose: ds, Seconds: ladder.Seconds(t.lib, e.m, level, ds), Demand: e.m.At(level).Demand}, note: "A long hold: breathe on, come out when it pulls sharply."}
		d.add(p, len(out) == 0)
		out = append(out, p)
	}
	asked := 0
	for _, x := range l.Brief.Daily {
		if i := slices.IndexFunc(t.pool, func(e *entry) bool { return e.m.Slug == x.Slug }); i >= 0 && asked < 2 {
			hold(t.pool[i], "a long hold every day, as asked")
			asked++
		}
	}
	for ; asked < 2; asked++ {
		best, most := -1, -1<<30
		for i, e := range t.pool {
			if !e.m.Stretch || !strings.HasPrefix(e.m.Pattern, "stretch") || t.bars[e.m.Slug] || d.used[e.m.Slug] || d.patterns[e.m.Pattern] > 0 || d.posture.OnFloor() != e.m.Posture.OnFloor() {
				continue
			}
			points := t.jitter(e.m.Slug, 1) - pointsChange*d.posture.WayTo(e.m.Posture).Steps
			if slices.Contains(e.themes, t.day.Theme) {
				points += pointsTheme
			}
			for _, day := range t.mem.lastDays(4) {
				if day[e.m.Slug] {
					points -= pointsWeek
				}
			}
			if points > most {
				best, most = i, points
			}
		}
		if best < 0 {
			break
		}
		hold(t.pool[best], fmt.Sprintf("a long hold, %d s a side", times[third]))
	}
	take(movement.Settle, 90)
	t.due, t.given = nil, out
	t.target = c.Most
	if tl, err := timeline.Build(t.session(t.compose()), t.lib); err == nil { // the minutes follow from the holds
		asked := !l.Brief.Minutes.IsZero()
		if asked && (tl.Total < c.Least-clock.Minute || tl.Total > c.Most+clock.Minute) {
			l.CouldNot = append(l.CouldNot, fmt.Sprintf("day %d: two holds of %d s a side take %s, and %s was asked for", t.day.N, times[third], tl.Total, rangeOf(c)))
		}
		c.Least, c.Most = tl.Total, tl.Total
	}
	return out
}

// twoHolds is the class of two long holds that the second look does not stop: a hold that it stops, on the hands after a minute on the hands, gives way to another
// as long as there is one, for a hold that was cut short is none.
func (l *Laid) twoHolds(ctx context.Context, t *task, c *Class, o Options) ([]pick, error) {
	var best []pick
	least := 1 << 30
	said, asked := len(l.CouldNot), [2]clock.Span{c.Least, c.Most}
	var kept []string
	var minutes [2]clock.Span
	for range mostBars + 2 {
		l.CouldNot, c.Least, c.Most = l.CouldNot[:said], asked[0], asked[1]
		given := withPins(l.holds(t, c), c.pins)
		t.given = given
		a := &answer{s: t.session(t.compose())}
		var err error
		if a.tl, err = timeline.Build(a.s, t.lib); err != nil {
			return nil, fmt.Errorf("day %d: %w", c.N, err)
		}
		a.s.Target = a.tl.Total
		if err := a.look(ctx, t, o); err != nil {
			return nil, err
		}
		if bad := 100*a.stops + a.looks; bad < least {
			best, least = given, bad
			kept, minutes = slices.Clone(l.CouldNot[said:]), [2]clock.Span{c.Least, c.Most}
		}
		if a.stops+a.looks == 0 {
			break
		}
		barred := false
		for _, f := range a.findings {
			if f.Severity == review.Good {
				continue
			}
			for i := len(given) - 1; i >= 0; i-- { // what is stopped, or else the last hold
				p := &given[i]
				if p.row == nil && !t.bars[p.e.m.Slug] && !slices.ContainsFunc(l.Brief.Daily, func(d brief.Daily) bool { return d.Slug == p.e.m.Slug }) && (f.About == "" || f.About == p.e.m.Slug) {
					t.bars[p.e.m.Slug], barred = true, true
					break
				}
			}
		}
		if !barred {
			break
		}
	}
	l.CouldNot, c.Least, c.Most = append(l.CouldNot[:said], kept...), minutes[0], minutes[1]
	return best, nil
}

// inOrder puts a class together in the classical order (Pilates and Miller 1945): of the exercises that fit the day those with the most points for it, as
// many as there is time for, in their places. What must come and is none of them comes first where it wakes or mobilises, else after the work; something to
// rest in closes the class where the order has no end in it.
func (t *task) inOrder(d *draft) {
	left := (1 - t.shares()[movement.Settle]) * t.target.Seconds() * t.scale
	var chosen, before, after []pick
	for _, p := range t.due {
		left -= p.rung.Seconds.Seconds() + overhead
		switch {
		case p.e.m.Classical > 0:
			chosen = append(chosen, p)
		case sectionOf[p.role] == 0:
			before = append(before, p)
		default:
			after = append(after, p)
		}
	}
	patterns := map[string]int{}
	for left > 0 {
		best, most := pick{}, math.MinInt
		for _, e := range t.pool {
			if e.m.Classical == 0 || d.used[e.m.Slug] || t.bars[e.m.Slug] || slices.ContainsFunc(chosen, func(p pick) bool { return p.e == e }) {
				continue
			}
			for i := range e.variants {
				v := &e.variants[i]
				look := &draft{posture: e.m.As(v.level).Posture, patterns: map[string]int{}, used: map[string]bool{}, spine: map[movement.Direction]bool{}, news: d.news}
				for _, p := range chosen { // what comes first has been led when it stands earlier in the order
					look.used[p.e.m.Slug] = p.e.m.Classical < e.m.Classical
				}
				points, because, can := t.points(look, e, v, movement.Build, left, true)
				if points -= pointsChange * patterns[e.m.Pattern]; can && points > most {
					best, most = pick{e: e, rung: v.rung, role: movement.Build, because: fmt.Sprintf("%s in the classical order%s", place(e.m.Classical), strings.TrimPrefix(because, string(movement.Build)))}, points
				}
			}
		}
		if most == math.MinInt {
			break
		}
		if t.mem.led[best.e.m.Slug] == 0 {
			d.news++
		}
		patterns[best.e.m.Pattern]++
		chosen = append(chosen, best)
		if left -= best.rung.Seconds.Seconds() + overhead; left < 18 {
			break
		}
	}
	slices.SortStableFunc(chosen, func(a, b pick) int { return a.e.m.Classical - b.e.m.Classical })
	for _, p := range slices.Concat(before, chosen, after) {
		d.add(p, len(d.picks) == 0)
	}
	if n := len(chosen); n > 0 && chosen[n-1].e.m.Classical == lastInOrder && len(after) == 0 {
		return
	}
	for rest := leastSettle; rest > 18; {
		p, ok := t.best(d, movement.Settle, rest, len(d.picks) == 0)
		if !ok {
			break
		}
		d.add(p, len(d.picks) == 0)
		rest -= p.rung.Seconds.Seconds() + overhead
	}
}

// lastInOrder is the place of the push-up, with which the classical order ends.
const lastInOrder = 34

func place(n int) string { return plan.Ordinal(n) }
