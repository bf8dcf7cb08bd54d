package board

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"wavekine/core/dose"
	"wavekine/core/ladder"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/series"
)

// Mend is a way out of a finding over the days: a command of the board, which is previewed and undone as any other.
type Mend struct {
	ID   string `json:"id"`
	Says string `json:"says"`
	do   plan.SeriesCommand
}

// Do makes the change.
func (m Mend) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	done, err := m.do.Do(s, lib)
	if err != nil {
		return done, err
	}
	return plan.Done{Says: m.Says}, nil
}

// mending is what a rule's mends are made from.
type mending struct {
	With
	s   *plan.Series
	lib *movement.Library
	f   series.Finding
}

// mends are the ways out of each rule's findings, the likeliest first; a rule of which nothing is said has none that a program could take.
var mends = map[string]func(m *mending) []Mend{
	"region-48h": func(m *mending) []Mend {
		return slices.Concat([]Mend{{"lay", fmt.Sprintf("Lay day %d again", m.f.Day), &LayDay{With: m.With, Day: said(m.f.Day), Seed: said(m.s.Seed + m.f.Day)}}}, m.swap(m.f.Day, m.f.Day+1), m.swap(m.f.Day-1, m.f.Day-2), m.ease(m.f.Day))
	},
	"two-levers":    func(m *mending) []Mend { return m.oneRung() },
	"rung-too-far":  func(m *mending) []Mend { return append(m.oneRung(), m.between()...) },
	"too-few-goes":  func(m *mending) []Mend { return m.later() },
	"week-too-fast": func(m *mending) []Mend { return m.easeHeaviest(m.f.Day-1, m.f.Day+6) },
	"load-rising":   func(m *mending) []Mend { return m.ease(m.f.Day) },
	"monotony":      func(m *mending) []Mend { return m.easeMiddle(m.f.Day-1, m.f.Day+6) },
	"no-climb": func(m *mending) []Mend {
		out := []Mend{{"order", "Put the lighter classes first", &byLoad{m.With}}}
		if m.s.Brief != "" {
			out = append(out, Mend{"again", "Lay all that is not pinned again", &Lay{With: m.With}})
		}
		return out
	},
	"peak-alone":      func(m *mending) []Mend { return m.ease(m.f.Day) },
	"seen-too-rarely": func(m *mending) []Mend { return m.seeAgain() },
	"spine-week":      func(m *mending) []Mend { return slices.Concat(m.layOneOf(m.f.Day-1, m.f.Day+6), m.layWeek(), m.bend()) },
	"too-new":         func(m *mending) []Mend { return m.layOneOf(m.f.Day-1, m.f.Day) },
	"same-class":      func(m *mending) []Mend { return append(m.layOneOf(m.f.Day-1, m.f.Day), m.layAlike()...) },
	"kit-unannounced": func(m *mending) []Mend { return m.layOneOf(m.f.Day-1, m.f.Day) },
	"minutes": func(m *mending) []Mend {
		return append([]Mend{{"fit", fmt.Sprintf("Fit day %d to its minutes", m.f.Day), &FitDays{With: m.With, On: fmt.Sprint(m.f.Day)}}}, m.layOneOf(m.f.Day-1, m.f.Day)...)
	},
	"rest-day": func(m *mending) []Mend {
		return []Mend{{"along", "Rest there, and move what follows along", &reflow{}}}
	},
	"stretch-week": func(m *mending) []Mend {
		return []Mend{{"longer", fmt.Sprintf("Hold them longer over week %d", (m.f.Day-1)/7+1), &holdLonger{m.With, m.f.Day - 1}}}
	},
	"balance-week": func(m *mending) []Mend { return m.balance() },
	"first-side": func(*mending) []Mend {
		return []Mend{{"turns", "Begin on the other side every second day", &firstInTurns{}}}
	},
}

func said(n int) plan.Number { return plan.Number{Said: true, N: n} }

// MendsOf are the mends of a finding, as they could be tried: see Tried.
func MendsOf(s *plan.Series, lib *movement.Library, f series.Finding, w With) []Mend {
	make := mends[f.Rule]
	if make == nil {
		return nil
	}
	return make(&mending{w, s, lib, f})
}

// Tried are those mends after which the finding is gone and there are fewer findings than before; where there is none, those after which there are no more, so that one is
// traded for another and the preview says so. Each costs a change of the series and a second look.
func Tried(s *plan.Series, lib *movement.Library, kept map[string]*plan.Session, f series.Finding, w With) (out []Mend) {
	before, err := series.Over(s, lib, kept)
	if err != nil {
		return nil
	}
	var even []Mend
	for _, m := range MendsOf(s, lib, f, w) {
		ch, err := plan.ApplySeries(s, lib, m)
		if err != nil {
			continue
		}
		after, err := series.Over(ch.Series, lib, kept)
		if err != nil || len(after) > len(before) || slices.ContainsFunc(after, func(o series.Finding) bool { return o.Rule == f.Rule && o.Day == f.Day && o.About == f.About }) {
			continue
		}
		if len(after) == len(before) {
			even = append(even, m)
			continue
		}
		out = append(out, m)
	}
	if len(out) == 0 {
		return even
	}
	return out
}

// TakeMend takes a mend of a finding by their names, where it still is there.
type TakeMend struct {
	With
	Rule  string      `form:"rule"`
	Day   plan.Number `form:"day,parser=encoding.TextUnmarshaler"`
	About string      `form:"about"`
	Mend  string      `form:"mend"`
}

// Do takes it.
func (c *TakeMend) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	kept := map[string]*plan.Session{}
	for id, k := range c.Kept {
		kept[id] = k.Session
	}
	all, err := series.Over(s, lib, kept)
	if err != nil {
		return plan.Done{}, err
	}
	for _, f := range all {
		if f.Rule != c.Rule || f.Day != c.Day.N || f.About != c.About {
			continue
		}
		for _, m := range MendsOf(s, lib, f, c.With) {
			if m.ID == c.Mend {
				return m.Do(s, lib)
			}
		}
	}
	return plan.Done{}, review.ErrGone
}

// ease makes a day an easier one.
func (m *mending) ease(day int) []Mend {
	if day < 1 || day > len(m.s.Days) || m.s.Days[day-1].Easier() || m.s.Days[day-1].Pin.Day {
		return nil
	}
	return []Mend{{"ease", fmt.Sprintf("Make day %d an easy day", day), &easeDay{m.With, day - 1}}}
}

// swap changes two days with one another.
func (m *mending) swap(a, b int) []Mend {
	for _, n := range []int{a, b} {
		if n < 1 || n > len(m.s.Days) || m.s.Days[n-1].Pin.Day || m.s.Days[n-1].Peak {
			return nil
		}
	}
	return []Mend{{fmt.Sprintf("swap-%d", b), fmt.Sprintf("Swap days %d and %d", a, b), &plan.MoveDay{Day: said(a), To: said(b)}}}
}

// easeHeaviest eases the heaviest day of a stretch of days, from 0, the peak left out.
func (m *mending) easeHeaviest(from, to int) []Mend {
	best, most := -1, 0.0
	for i := from; i < min(to, len(m.s.Days)); i++ {
		d := &m.s.Days[i]
		if class := m.class(d); class != nil && !d.Peak && !d.Pin.Day && !d.Easier() {
			if load, _, err := lay.Weighed(class, m.lib); err == nil && load > most {
				best, most = i, load
			}
		}
	}
	if best < 0 {
		return nil
	}
	return m.ease(best + 1)
}

// easeMiddle eases the day in the middle of a week.
func (m *mending) easeMiddle(from, to int) (out []Mend) {
	for _, i := range []int{(from + to) / 2, (from+to)/2 + 1, (from+to)/2 - 1} {
		if i >= 0 && i < len(m.s.Days) && m.class(&m.s.Days[i]) != nil && !m.s.Days[i].Peak {
			if out = m.ease(i + 1); len(out) > 0 {
				return out
			}
		}
	}
	return nil
}

// layOneOf lays one of some days again, from 0; one day in several ways. Which of them helps is seen when it is tried.
func (m *mending) layOneOf(from, to int) (out []Mend) {
	to = min(to, len(m.s.Days))
	ways := 1
	if to-from == 1 {
		ways = 3
	}
	for i := from; i < to && len(out) < mostTried; i++ {
		d := &m.s.Days[i]
		if m.class(d) == nil || d.Pin.Day {
			continue
		}
		for way := range ways {
			id, says := fmt.Sprintf("lay-%d", i+1), fmt.Sprintf("Lay day %d again", i+1)
			if way > 0 {
				id, says = fmt.Sprintf("%s-%d", id, way+1), says+fmt.Sprintf(", the %s way", plan.Ordinal(way+1))
			}
			out = append(out, Mend{id, says, &LayDay{With: m.With, Day: said(i + 1), Seed: said(m.s.Seed + i + 1 + 97*way)}})
		}
	}
	return out
}

// bend adds a quiet movement for each direction that the week has not, each on a day of its own.
func (m *mending) bend() []Mend {
	seen := map[movement.Direction]bool{}
	var days []int
	for i := m.f.Day - 1; i < min(m.f.Day+6, len(m.s.Days)); i++ {
		class := m.class(&m.s.Days[i])
		if class == nil {
			continue
		}
		if !m.s.Days[i].Pin.Day {
			days = append(days, i)
		}
		class.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			if mv, ok := m.lib.Get(r.Movement); ok {
				for _, d := range mv.As(min(max(1, r.Level), len(mv.Levels))).Spine {
					seen[d] = true
				}
			}
		})
	}
	out := &addAll{With: m.With}
	says := ""
	for _, dir := range []movement.Direction{movement.Backward, movement.Sideways, movement.Turned} {
		if seen[dir] || len(out.add) >= len(days) {
			continue
		}
		day := days[(2*len(out.add)+1)*len(days)/6%len(days)]
		class := m.class(&m.s.Days[day])
		i := slices.IndexFunc(m.lib.All(), func(mv *movement.Movement) bool {
			v := mv.As(1)
			return !mv.Hidden && slices.Contains(v.Spine, dir) && mv.Skill(1) == 1 && mv.At(1).Demand < quietDemand && mv.Suits(1, class.Audience) && len(mv.Things(1)) == 0 && v.Posture.OnFloor() && !has(class, movement.BaseSlug(mv.Slug))
		})
		if i < 0 {
			continue
		}
		mv := m.lib.All()[i]
		out.add = append(out.add, addTo{m.With, movement.BaseSlug(mv.Slug), day})
		for _, d := range mv.As(1).Spine {
			seen[d] = true
		}
		if says != "" {
			says += ", "
		}
		says += fmt.Sprintf("%s on day %d", mv.Name, day+1)
	}
	if len(out.add) == 0 {
		return nil
	}
	return []Mend{{"bend", "Add " + says, out}}
}

// quietDemand is what a movement asks at most that is put in for its direction alone; judgement.
const quietDemand = 2.5

// addAll puts several movements in.
type addAll struct {
	With
	add []addTo
}

func (c *addAll) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	for i := range c.add {
		if _, err := c.add[i].Do(s, lib); err != nil {
			return plan.Done{}, err
		}
	}
	return plan.Done{}, nil
}

// layAlike lays the day again and the later ones that have the same class.
func (m *mending) layAlike() []Mend {
	order := func(i int) (out string) {
		if class := m.class(&m.s.Days[i]); class != nil {
			class.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) { out += r.Name() + ";" })
		}
		return out
	}
	var days []int
	same := order(m.f.Day - 1)
	for i := m.f.Day - 1; i < len(m.s.Days); i++ {
		if order(i) == same && !m.s.Days[i].Pin.Day {
			days = append(days, i+1)
		}
	}
	return m.layAll("alike", days)
}

// layWeek lays all days of the week again.
func (m *mending) layWeek() []Mend {
	var days []int
	for i := m.f.Day - 1; i < min(m.f.Day+6, len(m.s.Days)); i++ {
		if m.class(&m.s.Days[i]) != nil && !m.s.Days[i].Pin.Day {
			days = append(days, i+1)
		}
	}
	return m.layAll("week", days)
}

func (m *mending) layAll(id string, days []int) []Mend {
	if len(days) < 2 {
		return nil
	}
	return []Mend{{id, "Lay " + saidDays(days) + " again", &layDays{m.With, days}}}
}

// layDays lays some days again, by their numbers, one after the other.
type layDays struct {
	With
	days []int
}

func (c *layDays) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	for _, n := range c.days {
		if _, err := c.own(s, n-1); err != nil {
			return plan.Done{}, err
		}
		next, _, _, err := lay.Again(c.ctx(), lib, s, n, c.options(s.Seed+n))
		if err != nil {
			return plan.Done{}, err
		}
		s.Days = next.Days
	}
	return plan.Done{}, nil
}

// mostTried is how many days of a week are offered to be laid again; judgement.
const mostTried = 4

// goBefore is the last go of a movement before a day, from 0, easier days left out.
func (m *mending) goBefore(slug string, day int) (row plan.Row, found bool) {
	for i := day - 1; i >= 0 && !found; i-- {
		if class := m.class(&m.s.Days[i]); class != nil && !m.s.Days[i].Easier() {
			class.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
				if isOf(r, slug) && !found {
					row, found = *r, true
				}
			})
		}
	}
	return row, found
}

// oneRung puts the row on the rung after that of the go before, or gives it the dose of before where it is on none.
func (m *mending) oneRung() []Mend {
	was, ok := m.goBefore(m.f.About, m.f.Day-1)
	ld := m.s.Ladder(m.f.About)
	if !ok || ld == nil {
		return nil
	}
	p := &Paint{With: m.With, Movement: m.f.About, Day: said(m.f.Day)}
	l := ladder.Read(m.lib, ld)
	if k := l.Find(was.Movement, was.Level, was.Dose); k >= 0 && k+1 < len(l.Rungs) {
		p.Rung = said(k + 2)
		return []Mend{{"one", fmt.Sprintf("One step: %s", l.Rungs[k+1].Dose), p}}
	}
	p.Level, p.Dose = said(max(1, was.Level)), was.Dose.String()
	return []Mend{{"one", "As it was the time before", p}}
}

// between asks for half of the step.
func (m *mending) between() []Mend {
	was, ok := m.goBefore(m.f.About, m.f.Day-1)
	if !ok {
		return nil
	}
	var now plan.Row
	m.class(&m.s.Days[m.f.Day-1]).Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if isOf(r, m.f.About) && now.Movement == "" {
			now = *r
		}
	})
	mv, known := m.lib.Get(m.f.About)
	if !known || max(1, now.Level) != max(1, was.Level) {
		return nil
	}
	a, unit, ok := movement.Amount(was.DoseOf(mv))
	b, other, ok2 := movement.Amount(now.DoseOf(mv))
	if !ok || !ok2 || unit != other || b-a < 2 {
		return nil
	}
	step := 1
	if unit == movement.CountSeconds {
		step = 5
	}
	half := max(step, (a+b)/2/step*step)
	d := movement.WithAmount(now.DoseOf(mv), half)
	return []Mend{{"half", "Half the step: " + d.String(), &Paint{With: m.With, Movement: m.f.About, Day: said(m.f.Day), Dose: d.String()}}}
}

// later lets each go from the day on stand where the one before stood.
func (m *mending) later() []Mend {
	return []Mend{{"later", fmt.Sprintf("%s goes up a time later from day %d on", nameOf(m.lib, m.f.About), m.f.Day), &goLater{m.With, m.f.About, m.f.Day - 1}}}
}

// seeAgain puts what was not seen for long between.
func (m *mending) seeAgain() (out []Mend) {
	last, next := -1, len(m.s.Days)
	for i := range m.s.Days {
		if !has(m.class(&m.s.Days[i]), m.f.About) {
			continue
		}
		if m.f.Day > 0 && i+1 >= m.f.Day {
			next = i
			break
		}
		last = i
	}
	if last < 0 {
		return nil
	}
	for _, i := range []int{(last + next) / 2, (last+next)/2 + 1, (last+next)/2 - 1} {
		if i > last && i < len(m.s.Days) && i != next && m.class(&m.s.Days[i]) != nil && !m.s.Days[i].Pin.Day {
			return []Mend{{"add", fmt.Sprintf("Add %s on day %d", nameOf(m.lib, m.f.About), i+1), &addTo{m.With, m.f.About, i}}}
		}
	}
	return nil
}

// balance adds a balance movement that suits on a day of the week that has none.
func (m *mending) balance() []Mend {
	for i := m.f.Day - 1; i < min(m.f.Day+6, len(m.s.Days)); i++ {
		d := &m.s.Days[i]
		class := m.class(d)
		if class == nil || d.Pin.Day {
			continue
		}
		balanced := false
		class.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			if mv, ok := m.lib.Get(r.Movement); ok && mv.As(min(max(1, r.Level), len(mv.Levels))).Regions["balance"] >= series.BalanceFrom {
				balanced = true
			}
		})
		if balanced {
			continue
		}
		for _, mv := range m.lib.All() {
			if !mv.Hidden && mv.As(1).Regions["balance"] >= series.BalanceFrom && mv.Suits(1, class.Audience) && len(mv.Things(1)) == 0 && mv.Skill(1) == 1 {
				return []Mend{{"balance", fmt.Sprintf("Add %s on day %d", mv.Name, i+1), &addTo{m.With, movement.BaseSlug(mv.Slug), i}}}
			}
		}
	}
	return nil
}

// easeDay makes a day an easy one: laid again for less, or, where the series has no words to lay it from, its work cut to what an easy day takes.
type easeDay struct {
	With
	day int
}

// easyShare is what an easy day weighs of the day that it was; judgement.
const easyShare = .6

func (c *easeDay) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	d := &s.Days[c.day]
	class, err := c.own(s, c.day)
	if err != nil {
		return plan.Done{}, err
	}
	load, _, err := lay.Weighed(class, lib)
	if err != nil {
		return plan.Done{}, err
	}
	d.Kind, d.Peak, d.Because, d.Target = "easy", false, "easier, as the second look asks", math.Round(10*load*easyShare)/10
	easeRows(s, d, class, lib)
	if class.Target > 0 {
		next, _, _, err := lay.Again(c.ctx(), lib, s, c.day+1, c.options(s.Seed+c.day))
		if err != nil {
			return plan.Done{}, err
		}
		s.Days = next.Days
		return plan.Done{}, nil
	}
	for class.Rows() > leastRows { // it promises no minutes: rows are left out, the last of the heaviest first
		load, _, err := lay.Weighed(class, lib)
		if err != nil || load <= d.Target {
			break
		}
		var heaviest plan.Path
		most := 0.0
		class.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
			m, ok := lib.Get(r.Movement)
			if !ok || r.Locked || slices.Contains(d.Pinned, movement.BaseSlug(r.Movement)) || s.Ladder(movement.BaseSlug(r.Movement)) != nil {
				return
			}
			if g := ladder.RungOf(lib, m, min(max(1, r.Level), len(m.Levels)), r.Dose); g.Work >= most {
				heaviest, most = p, g.Work
			}
		})
		if most == 0 {
			break
		}
		next, err := plan.Apply(class, lib, &plan.DeleteRows{At: plan.Paths{heaviest}})
		if err != nil {
			break
		}
		realign(d, class, next.Session, "")
		class = next.Session
	}
	d.Session = class
	return plan.Done{}, nil
}

// leastRows is how many rows a class keeps; judgement.
const leastRows = 3

// easeRows puts the rows of a class on their easier rungs; what is pinned stays.
func easeRows(s *plan.Series, d *plan.Day, class *plan.Session, lib *movement.Library) {
	class.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
		m, ok := lib.Get(r.Movement)
		if !ok || r.IsRest() || b.On > 0 || m.Stretch || m.Rest || slices.Contains(d.Pinned, movement.BaseSlug(r.Movement)) {
			return
		}
		l := ladder.Of(lib, m, ladder.Terms{Audience: class.Audience})
		if ld := s.Ladder(movement.BaseSlug(r.Movement)); ld != nil {
			l = ladder.Read(lib, ld)
		}
		now := ladder.RungOf(lib, m, min(max(1, r.Level), len(m.Levels)), r.Dose)
		best := -1
		for k, g := range l.Rungs {
			if g.Movement == movement.BaseSlug(m.Slug) && g.Amount <= now.Amount && g.Work <= ladder.EasyWork*now.Work {
				best = k
			}
		}
		if best >= 0 {
			r.Level, r.Dose = l.Rungs[best].Level, l.Rungs[best].Dose
		}
	})
}

// byLoad puts the classes of a series in the order of what they weigh; the last stays where it is, and so do days of rest and what is pinned.
type byLoad struct{ With }

func (c *byLoad) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	type weighed struct {
		d    plan.Day
		load float64
	}
	var places []int
	var all []weighed
	for i := range s.Days {
		d := &s.Days[i]
		class := c.class(d)
		if class == nil || d.Pin.Day || d.Easier() {
			continue
		}
		load, _, err := lay.Weighed(class, lib)
		if err != nil {
			return plan.Done{}, err
		}
		places, all = append(places, i), append(all, weighed{*d, load})
	}
	if len(places) < 3 {
		return plan.Done{}, errors.New("there are too few classes to put in order")
	}
	last := len(places) - 1
	if s.Days[places[last]].Kind == "" { // the soft last day
		places, all = places[:last], all[:last]
	}
	slices.SortStableFunc(all, func(a, b weighed) int {
		switch {
		case a.load < b.load:
			return -1
		case a.load > b.load:
			return 1
		}
		return 0
	})
	for k, i := range places {
		s.Days[i] = all[k].d
	}
	return plan.Done{}, nil
}

// reflow puts days of rest where they belong; what follows moves along.
type reflow struct{}

func (*reflow) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	f := flow(s, lib)
	return plan.Done{}, f.put(f.slots(), lib)
}

// holdLonger holds the stretches of a week longer, until each comes to a minute in all.
type holdLonger struct {
	With
	from int
}

func (c *holdLonger) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	to := min(c.from+7, len(s.Days))
	days := map[string]int{}
	for i := c.from; i < to; i++ {
		seen := map[string]bool{}
		if class := c.class(&s.Days[i]); class != nil {
			class.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
				if slug := movement.BaseSlug(r.Movement); stretched(lib, r) && !seen[slug] {
					seen[slug] = true
					days[slug]++
				}
			})
		}
	}
	for i := c.from; i < to; i++ {
		if c.class(&s.Days[i]) == nil || s.Days[i].Pin.Day {
			continue
		}
		class, err := c.own(s, i)
		if err != nil {
			return plan.Done{}, err
		}
		changed := false
		class.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
			n := days[movement.BaseSlug(r.Movement)]
			if !stretched(lib, r) || n < 2 || b.On > 0 {
				return
			}
			m, _ := lib.Get(r.Movement)
			d := r.DoseOf(m)
			need := (series.StretchWeek + n - 1) / n
			need = (need + 4) / 5 * 5
			if now, unit, ok := movement.Amount(d); ok && unit == movement.CountSeconds && now < need {
				r.Dose, r.Right, r.Left, changed = movement.WithAmount(d, need), nil, nil, true
			}
		})
		if !changed || class.Target == 0 {
			continue
		}
		locks := map[plan.Path]bool{}
		class.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
			locks[p] = r.Locked
			r.Locked = r.Locked || stretched(lib, r)
		})
		fitted, err := c.fit(class, lib)
		if err != nil {
			return plan.Done{}, err
		}
		fitted.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) { r.Locked = locks[p] })
		s.Days[i].Session = fitted
	}
	return plan.Done{}, nil
}

func stretched(lib *movement.Library, r *plan.Row) bool {
	m, ok := lib.Get(r.Movement)
	return ok && !r.IsRest() && r.Inline == nil && m.Stretch && !m.Rest
}

// goLater lets each go of a movement from a day on stand where the go before it stood.
type goLater struct {
	With
	slug string
	from int
}

func (c *goLater) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	type stand struct {
		level int
		d     dose.Dose
	}
	var before stand
	for i := range s.Days {
		d := &s.Days[i]
		class := c.class(d)
		if !has(class, c.slug) || d.Easier() {
			continue
		}
		var now stand
		class.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
			if isOf(r, c.slug) && b.On == 0 {
				now = stand{r.Level, r.Dose}
			}
		})
		if i >= c.from && before.level > 0 && !d.Pin.Day && !slices.Contains(d.Pinned, c.slug) {
			own, err := c.own(s, i)
			if err != nil {
				return plan.Done{}, err
			}
			own.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
				if isOf(r, c.slug) && b.On == 0 {
					r.Level, r.Dose = before.level, before.d
				}
			})
			if fitted, err := c.fit(own, lib); err == nil {
				d.Session = fitted
			}
		}
		before = stand{max(1, now.level), now.d}
	}
	return plan.Done{}, nil
}

// addTo puts a movement into a day's class, as it was done the last time before, or as it usually is; the class is fitted to its minutes.
type addTo struct {
	With
	slug string
	day  int
}

func (c *addTo) Do(s *plan.Series, lib *movement.Library) (plan.Done, error) {
	m, err := known(lib, c.slug)
	if err != nil {
		return plan.Done{}, err
	}
	row, ok := (&mending{With: c.With, s: s, lib: lib}).goBefore(c.slug, c.day)
	if !ok {
		row = plan.Row{Movement: m.Slug, Level: 1}
	}
	row.Locked = false
	class, err := c.own(s, c.day)
	if err != nil {
		return plan.Done{}, err
	}
	was := class.Clone()
	lay.PutIn(class, m, row)
	realign(&s.Days[c.day], was, class, "put in for the second look over the days")
	fitted, err := c.fit(class, lib)
	if err != nil {
		return plan.Done{}, err
	}
	s.Days[c.day].Session = fitted
	return plan.Done{}, nil
}

// firstInTurns begins on the right on odd days and on the left on even ones.
type firstInTurns struct{}

func (*firstInTurns) Do(s *plan.Series, _ *movement.Library) (plan.Done, error) {
	for i := range s.Days {
		if d := &s.Days[i]; d.Session != nil && !d.Pin.Day {
			d.Session = d.Session.Clone()
			d.Session.Style.First = plan.FirstByDay
		}
	}
	return plan.Done{}, nil
}
