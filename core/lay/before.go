package lay

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/brief"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Judgement constants of what a theme needs, for days that are about it: a study found days of fewer turn into days about something else.
const (
	themeBuilds   = 5 // movements to build with
	themePatterns = 3 // of so many kinds
)

// thinThemes are the themes of a brief for which its movements are too few to build a day on.
func thinThemes(b *brief.Brief, pool []*entry) (thin []string) {
	if b.Shape == brief.TwoHolds { // which are stretches
		return nil
	}
	asked := slices.Clone(b.Focus)
	for w := 1; w <= (brief.MaxDays+6)/7; w++ {
		asked = append(asked, b.Weeks[w]...)
	}
	for _, theme := range asked {
		builds, kinds := 0, map[string]bool{}
		for _, e := range pool {
			if slices.Contains(e.themes, theme) && (slices.Contains(e.roles, movement.Build) || slices.Contains(e.roles, movement.Peak)) {
				builds++
				kinds[e.m.Pattern] = true
			}
		}
		if (builds < themeBuilds || len(kinds) < themePatterns) && !slices.Contains(thin, theme) {
			thin = append(thin, theme)
		}
	}
	return thin
}

// aboutOthers is a brief whose days are not about the themes that are too thin, with what is said of those. Where no other is left they stay.
func aboutOthers(b *brief.Brief, pool []*entry) (out *brief.Brief, daily []string, could []string) {
	thin := thinThemes(b, pool)
	if len(thin) == 0 {
		return b, nil, nil
	}
	c := *b
	rest := func(themes []string) (left []string) {
		for _, t := range themes {
			if !slices.Contains(thin, t) {
				left = append(left, t)
			}
		}
		return left
	}
	c.Weeks = map[int][]string{}
	for w, ts := range b.Weeks {
		if left := rest(ts); len(left) > 0 {
			c.Weeks[w] = left
		}
	}
	c.Focus = rest(b.Focus)
	if len(c.Focus) == 0 && len(c.Weeks) == 0 || len(c.Focus) == 0 && len(b.Focus) > 0 { // the days would be about anything
		c.Focus = slices.Clone(wholeBody)
	}
	for _, t := range thin {
		some := slices.ContainsFunc(pool, func(e *entry) bool { return slices.Contains(e.themes, t) })
		if !some {
			could = append(could, fmt.Sprintf("there is nothing for %s that fits the people and the kit", t))
			continue
		}
		daily = append(daily, t)
		could = append(could, fmt.Sprintf("there is too little for %s to build a day on: something for it comes in every class instead", t))
	}
	return &c, daily, could
}

// constants are movements for the themes that are too thin for a day, one each: what was not there the day before, first.
func (l *Laid) constants(t *task, have []pick) (out []pick) {
	for _, theme := range l.inEvery {
		var best *entry
		most := -1 << 30
		for _, e := range t.pool {
			if !slices.Contains(e.themes, theme) || slices.ContainsFunc(have, func(p pick) bool { return p.e == e }) || slices.ContainsFunc(out, func(p pick) bool { return p.e == e }) || len(e.variants) == 0 || e.variants[0].skill > 1 || t.bars[e.m.Slug] {
				continue
			}
			points := t.jitter(e.m.Slug, 0)
			for _, day := range t.mem.lastDays(2) {
				if day[e.m.Slug] {
					points -= pointsDay
				}
			}
			if points > most {
				best, most = e, points
			}
		}
		if best != nil {
			out = append(out, pick{e: best, rung: best.variants[0].rung, role: roleFor(best), because: "something for " + theme + " in every class"})
		}
	}
	return out
}

// Before says, before anything is laid, what of a brief cannot be had as it is said: a peak on a day of rest, a movement that is not for these people or needs kit that is
// not there, a theme with too little to it, more to learn than the minutes hold, minutes that a school does not leave as they are. It costs about 10 ms.
func Before(lib *movement.Library, b *brief.Brief) []string {
	pool := poolOf(lib, b)
	about, _, thin := aboutOthers(b, pool)
	days, could := Days(about)
	l := &Laid{Brief: b, CouldNot: could, keep: &pins{lib: lib}}
	for _, says := range thin {
		l.cannot(says)
	}
	if n := reach(days); n > plan.MaxDays {
		l.cannot(fmt.Sprintf("it reaches over %d days, and a series holds %d: fewer classes, or more of them a week", n, plan.MaxDays))
	}
	if len(pool) < leastPool {
		l.cannot(fmt.Sprintf("%d movements fit the people and the kit: too few to lay from", len(pool)))
		return l.CouldNot
	}
	first := slices.IndexFunc(days, func(d Day) bool { return d.Kind != Rest })
	if first < 0 {
		return l.CouldNot
	}
	switch b.Shape {
	case brief.TwoHolds:
		l.noRoom(lib)
		if m := b.Minutes; !m.IsZero() && !b.Audience.Has(movement.Older) && (m.Max < holdMinutes[0] || m.Min > holdMinutes[len(holdMinutes)-1]) {
			l.cannot(fmt.Sprintf("two long holds take about %d, then %d, then %d minutes, and %s is asked for: the minutes follow the holds", holdMinutes[0], holdMinutes[1], holdMinutes[2], m))
		}
	default:
		l.threads(lib, pool, days)
	}
	if b.Shape == brief.SameSet && !b.Minutes.IsZero() && b.Minutes.Min == b.Minutes.Max {
		l.cannot("the same set at the same minutes: one row a day takes a rung; say a range, such as 12 to 15 min, and it is two")
	}
	for _, x := range b.Tests {
		if !slices.ContainsFunc(pool, func(e *entry) bool { return e.m.Slug == x.Slug }) {
			if m, ok := lib.Get(x.Slug); ok {
				l.cannot(l.whyNot(m, "as a test"))
			}
		}
	}
	c := Class{Day: days[first]}
	t := &task{lib: lib, b: b, pool: pool, day: &days[first], last: len(days), mem: &memory{led: map[string]int{}}, bars: map[string]bool{}}
	t.due = apartFrom(l.daily(lib, pool, days[first].N), l.due(lib, pool, days[first].N))
	t.due = append(t.due, l.stretches(t)...)
	c.Least, c.Most = minutesOf(b, &days[first])
	l.tooMuch(t, &c)
	return slices.DeleteFunc(l.CouldNot, func(s string) bool { return strings.TrimSpace(s) == "" })
}

// holdMinutes are about what classes of two long holds of 1, 2 and 3 minutes a side take.
var holdMinutes = []int{7, 11, 15}

// leastPool is from how few movements nothing is laid; judgement.
const leastPool = 8
