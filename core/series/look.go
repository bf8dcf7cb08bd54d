package series

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"wavekine/core/brief"
	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

// Finding is what the second look over a series finds: a rule with its place, what was measured, the limit and where that is from.
type Finding struct {
	Rule     string          `json:"rule"`
	Severity review.Severity `json:"severity"`
	Day      int             `json:"day"` // from 1; 0: the whole series
	About    string          `json:"about,omitempty"`
	Says     string          `json:"says"`
	Detail   string          `json:"detail"`
	Measured string          `json:"measured"`
	Limit    string          `json:"limit"`
	Source   string          `json:"source"`
}

// Sources of the rules.
const (
	practice  = "common practice, no published source"
	judgement = "judgement of the house"
	garber    = "ACSM position stand, Garber et al. 2011"
	foster    = "Foster 1998"
	gabbett   = "Gabbett 2016, from memory; disputed"
	who       = "WHO guidelines on physical activity 2020"
)

// Limits of the rules over days.
const (
	hardEffort  = 5.   // effort from which work on a region counts as hard; judgement
	hardSeconds = 90.  // of it in a day; judgement
	weekRise    = 1.3  // of the load of the week before; judgement
	monotonous  = 2.   // Foster 1998: weeks above 2 are monotonous
	mostNew     = 8    // movements met for the first time in a day after the first; judgement
	goesBefore  = 2    // of a level before the next; common practice
	seenWithin  = 8    // class days between two goes of something that is learned; judgement
	rungRise    = 1.75 // work of a row against its last go; judgement
	StretchWeek = 60   // seconds in all for each stretch, on two or three days a week (Garber et al. 2011)
	BalanceFrom = .3   // share of balance in a movement that counts as balance work; judgement
	loadRatio   = 1.5  // of the acute over the chronic average (Gabbett 2016, from memory; disputed, so it is only said)
	ratioFrom   = 21   // days before which the chronic average knows too little; judgement
	sidesFrom   = 4    // classes with one-sided work that begin on the same side; judgement
	balanceDays = 3    // a week, for older people (WHO 2020)
	offMinutes  = .15  // of the minutes promised for a day; judgement
	sameClass   = 3    // times that a class comes unchanged; judgement
	rampAlike   = .1   // by which the last third of a ramp should weigh more than the first; judgement
	softShare   = .85  // of the mean load of work days that a soft day has at most; judgement
)

// daySeen is what the rules look at in a day.
type daySeen struct {
	n       int
	class   *plan.Session
	tl      *timeline.Timeline
	load    float64
	hard    map[string]float64 // seconds of hard work by region
	rows    map[string]went    // by movement
	order   []string           // movements in order
	spine   map[movement.Direction]bool
	stretch map[string]clock.Span
	balance bool
}

// went is how a movement was done on a day.
type went struct {
	level  int
	amount int
	work   float64
	row    plan.Path
}

// Rule is one rule over the days.
type Rule struct {
	Name, Looks, Limit, Source string
	find                       func(*Look) []Finding
}

// Look is a series with what its rules need. Days that name a session kept elsewhere are looked at when it is given in kept.
type Look struct {
	s    *plan.Series
	lib  *movement.Library
	days []daySeen
}

// Rules lists the rules in the order in which they are looked at.
func Rules() []Rule {
	return []Rule{
		{"region-48h", "the same region works hard on two days running", "48 h between hard work of the same muscles", garber, (*Look).regions},
		{"two-levers", "a learned movement rises in level and amount at once", "one lever at a time", practice, (*Look).levers},
		{"too-few-goes", "a learned movement rises to a level after too few goes on the one below", fmt.Sprintf("%d goes", goesBefore), practice, (*Look).goes},
		{"rung-too-far", "the work of a learned movement rises too far from one go to the next", fmt.Sprintf("%.0f %% more", 100*(rungRise-1)), judgement, (*Look).rungs},
		{"week-too-fast", "the load of a week rises too fast over the week before", fmt.Sprintf("%.0f %% more", 100*(weekRise-1)), judgement, (*Look).weeks},
		{"load-rising", "the load of the last week stands far above that of the last four", fmt.Sprintf("acute over chronic average up to %.1f", loadRatio), gabbett, (*Look).rising},
		{"monotony", "the days of a week are too much alike in load", fmt.Sprintf("mean over deviation up to %.0f", monotonous), foster, (*Look).monotony},
		{"no-climb", "a ramp was asked for, and the load does not climb", fmt.Sprintf("the last third at least %.0f %% over the first", 100*rampAlike), judgement, (*Look).climb},
		{"peak-alone", "the day before or after the peak is no easier one, or the last day of a ramp is not soft", "an easier day on each side", practice, (*Look).peak},
		{"seen-too-rarely", "something that is learned was not seen for long, or once only", fmt.Sprintf("within %d class days", seenWithin), judgement, (*Look).seen},
		{"spine-week", "a week bends the spine forward, and never back, to the side or round", "all four over a week", practice, (*Look).spine},
		{"too-new", "more movements are new on a day than people learn", fmt.Sprintf("%d after the first day", mostNew), judgement, (*Look).news},
		{"same-class", "the same class comes again and again, and nobody asked for the same set", fmt.Sprintf("%d times", sameClass), judgement, (*Look).same},
		{"minutes", "a day is far longer or shorter than what is promised for it", fmt.Sprintf("%.0f %%", 100*offMinutes), judgement, (*Look).minutes},
		{"rest-day", "a class stands on a weekday of rest", "none", practice, (*Look).rest},
		{"stretch-week", "a stretch that comes in a week is held too short in all", "60 s a stretch a week", garber, (*Look).stretches},
		{"first-side", "one-sided work begins on the same side on all days", "both in turn", practice, (*Look).firstSide},
		{"kit-unannounced", "a class needs kit that the series does not say there is", "what the brief names", practice, (*Look).kit},
		{"balance-week", "a week for older people has too few days with balance", fmt.Sprintf("%d days", balanceDays), who, (*Look).balance},
	}
}

// Over takes the second look over the days of a series: what no single class shows. kept gives the classes that days name. Days without a class are
// rest. Cost grows with days x steps.
func Over(s *plan.Series, lib *movement.Library, kept map[string]*plan.Session) ([]Finding, error) {
	l := &Look{s: s, lib: lib}
	for i := range s.Days {
		d := daySeen{n: i + 1, class: s.Days[i].Session}
		if d.class == nil {
			d.class = kept[s.Days[i].Ref]
		}
		if d.class != nil {
			d.class = d.class.ForDay(i + 1)
			if err := d.see(lib); err != nil {
				return nil, fmt.Errorf("day %d: %w", i+1, err)
			}
		}
		l.days = append(l.days, d)
	}
	out := []Finding{}
	for _, r := range Rules() {
		for _, f := range r.find(l) {
			f.Rule, f.Limit, f.Source = r.Name, r.Limit, r.Source
			out = append(out, f)
		}
	}
	slices.SortStableFunc(out, func(a, b Finding) int { return int(a.Severity) - int(b.Severity) })
	return out, nil
}

// see works out what the rules look at.
func (d *daySeen) see(lib *movement.Library) (err error) {
	if d.tl, err = timeline.Build(d.class, lib); err != nil {
		return err
	}
	d.load = Load(d.tl)
	d.hard, d.rows, d.spine, d.stretch = map[string]float64{}, map[string]went{}, map[movement.Direction]bool{}, map[string]clock.Span{}
	names := movement.Regions()
	for i := range d.tl.Steps {
		st := &d.tl.Steps[i]
		if st.Move == nil || !st.Kind.Working() {
			continue
		}
		m := st.Move.As(st.Level)
		slug := movement.BaseSlug(m.Slug)
		w, seen := d.rows[slug]
		if !seen {
			d.order = append(d.order, slug)
			if r := d.class.Row(st.Row); r != nil {
				ds := r.Dose
				if ds.IsZero() {
					ds = m.Dose
				}
				w.amount, _, _ = movement.Amount(ds)
			}
			w.level = st.Level
		}
		if !seen {
			w.row = st.Row
		}
		if w.row == st.Row { // of its first row: where it comes again it is for something else
			w.work += m.At(st.Level).Demand * st.S.Seconds()
		}
		d.rows[slug] = w
		for _, dir := range m.Spine {
			d.spine[dir] = true
		}
		if m.Stretch && !m.Rest {
			sides := clock.Span(1)
			if m.Sides == movement.Each {
				sides = 2
			}
			d.stretch[slug] += st.S / sides
		}
		for _, sh := range m.Shares() {
			if hardOn(st, m, sh) {
				d.hard[names[sh.Region]] += st.S.Seconds() * sh.Weight
			}
		}
		d.balance = d.balance || m.Regions["balance"] >= BalanceFrom
	}
	return nil
}

// hardOn tells whether a step works a region hard.
func hardOn(st *timeline.Step, m *movement.Movement, sh movement.Share) bool {
	return st.Effort >= hardEffort && sh.Weight >= .5 && !m.Stretch
}

// Hard lists the regions that a class works hard, in alphabetical order: those of which the rule of 48 hours would speak.
func Hard(tl *timeline.Timeline) (out []string) {
	names, sums := movement.Regions(), map[string]float64{}
	for i := range tl.Steps {
		st := &tl.Steps[i]
		if st.Move == nil || !st.Kind.Working() {
			continue
		}
		m := st.Move.As(st.Level)
		for _, sh := range m.Shares() {
			if hardOn(st, m, sh) {
				sums[names[sh.Region]] += st.S.Seconds() * sh.Weight
			}
		}
	}
	for r, s := range sums {
		if s >= hardSeconds {
			out = append(out, r)
		}
	}
	slices.Sort(out)
	return out
}

// classes are the days that have one.
func (l *Look) classes() (out []*daySeen) {
	for i := range l.days {
		if l.days[i].class != nil {
			out = append(out, &l.days[i])
		}
	}
	return out
}

func (l *Look) loads() []float64 {
	out := make([]float64, len(l.days))
	for i := range l.days {
		out[i] = l.days[i].load
	}
	return out
}

func (l *Look) name(slug string) string {
	if m, ok := l.lib.Get(slug); ok {
		return m.Name
	}
	return slug
}

// regions: only work above the effort limit counts, so that a short set meant for every day, stretches and holds are silent.
func (l *Look) regions() (out []Finding) {
	for i := 1; i < len(l.days); i++ {
		a, b := &l.days[i-1], &l.days[i]
		var both []string
		for r, s := range b.hard {
			if s >= hardSeconds && a.hard[r] >= hardSeconds {
				both = append(both, r)
			}
		}
		if len(both) == 0 {
			continue
		}
		slices.Sort(both)
		out = append(out, Finding{Severity: review.Look, Day: b.n, Says: fmt.Sprintf("%s work hard on days %d and %d", strings.Join(both, ", "), a.n, b.n), Detail: "Hard work of the same muscles needs two days between.", Measured: "24 h"})
	}
	return out
}

// goesOf lists the goes of what is on a ladder.
func (l *Look) goesOf(slug string) (out []*daySeen) {
	for _, d := range l.classes() {
		if _, ok := d.rows[slug]; ok {
			out = append(out, d)
		}
	}
	return out
}

// easier tells whether a day is one of the easier ones, where a movement may be done less.
func (l *Look) easier(d *daySeen) bool { return l.s.Days[d.n-1].Easier() }

// each visits the goes of every ladder with the go before, easier days left out.
func (l *Look) each(visit func(slug string, before, now *daySeen, a, b went)) {
	for _, ld := range l.s.Ladders {
		var before *daySeen
		for _, d := range l.goesOf(ld.Movement) {
			if l.easier(d) {
				continue
			}
			if before != nil {
				visit(ld.Movement, before, d, before.rows[ld.Movement], d.rows[ld.Movement])
			}
			before = d
		}
	}
}

func (l *Look) levers() (out []Finding) {
	l.each(func(slug string, before, now *daySeen, a, b went) {
		if b.level > a.level && b.amount > a.amount {
			out = append(out, Finding{Severity: review.Look, Day: now.n, About: slug, Says: fmt.Sprintf("%s rises in level and in amount", l.name(slug)), Detail: fmt.Sprintf("From level %d and %d on day %d to level %d and %d.", a.level, a.amount, before.n, b.level, b.amount), Measured: "two levers"})
		}
	})
	return out
}

func (l *Look) goes() (out []Finding) {
	for _, ld := range l.s.Ladders {
		level, count := 0, 0
		for _, d := range l.goesOf(ld.Movement) {
			if l.easier(d) {
				continue
			}
			w := d.rows[ld.Movement]
			if level > 0 && w.level > level && count < goesBefore {
				out = append(out, Finding{Severity: review.Look, Day: d.n, About: ld.Movement, Says: fmt.Sprintf("%s rises to level %d after %d go", l.name(ld.Movement), w.level, count), Detail: fmt.Sprintf("Level %d should be done %d times first.", level, goesBefore), Measured: fmt.Sprintf("%d go", count)})
			}
			if w.level != level {
				level, count = w.level, 0
			}
			count++
		}
	}
	return out
}

func (l *Look) rungs() (out []Finding) {
	l.each(func(slug string, before, now *daySeen, a, b went) {
		if a.work > 0 && b.work > rungRise*a.work {
			out = append(out, Finding{Severity: review.Look, Day: now.n, About: slug, Says: fmt.Sprintf("%s does %.0f %% more than on day %d", l.name(slug), 100*(b.work/a.work-1), before.n), Detail: "A step in between would do.", Measured: fmt.Sprintf("%.0f %%", 100*(b.work/a.work-1))})
		}
	})
	return out
}

// weeks compares whole weeks: a series begins with nothing before it.
func (l *Look) weeks() (out []Finding) {
	if l.s.Shape == "two holds" { // their minutes double: that is what was asked for
		return nil
	}
	ws := Weeks(l.loads())
	for i := 1; i < len(ws); i++ {
		if len(l.days) >= 7*(i+1) && ws[i-1] > 0 && ws[i] > weekRise*ws[i-1] {
			out = append(out, Finding{Severity: review.Look, Day: 7*i + 1, Says: fmt.Sprintf("Week %d weighs %.0f %% more than week %d", i+1, 100*(ws[i]/ws[i-1]-1), i), Detail: fmt.Sprintf("Loads %.0f and %.0f.", ws[i-1], ws[i]), Measured: fmt.Sprintf("%.0f %% more", 100*(ws[i]/ws[i-1]-1))})
		}
	}
	return out
}

// monotony looks at weeks with load on most days only: light series are not meant to swing.
func (l *Look) monotony() (out []Finding) {
	loads := l.loads()
	for at := 0; at+7 <= len(loads); at += 7 {
		week := loads[at : at+7]
		m := Monotony(week)
		if m <= monotonous || slices.Contains([]string{"two holds", "same growing"}, l.s.Shape) {
			continue
		}
		said := fmt.Sprintf("%.1f", m)
		if math.IsInf(m, 1) {
			said = "all alike"
		}
		if slices.Contains(week, 0) && !math.IsInf(m, 1) || l.anyEasy(at) { // a day of rest or an easier one breaks it
			continue
		}
		out = append(out, Finding{Severity: review.Look, Day: at + 1, Says: fmt.Sprintf("The days of week %d are much alike", at/7+1), Detail: fmt.Sprintf("Strain %s. An easier day would break it.", strainSaid(week)), Measured: said})
	}
	return out
}

func strainSaid(week []float64) string {
	if s := Strain(week); !math.IsInf(s, 1) {
		return fmt.Sprintf("%.0f", s)
	}
	return "without end"
}

// anyEasy tells whether a week has a day that was planned easier.
func (l *Look) anyEasy(at int) bool {
	for _, d := range l.s.Days[at:min(len(l.s.Days), at+7)] {
		if d.Easier() {
			return true
		}
	}
	return false
}

func mean(ds []*daySeen) (sum float64) {
	for _, d := range ds {
		sum += d.load / float64(len(ds))
	}
	return sum
}

func (l *Look) climb() []Finding {
	ds := slices.DeleteFunc(l.classes(), l.easier)
	if l.s.Shape != "ramp" || len(ds) < 4 {
		return nil
	}
	if ds[len(ds)-1].n == len(l.days) && l.s.Days[len(l.days)-1].Kind == "" {
		ds = ds[:len(ds)-1] // its last day is the soft one
	}
	third := max(1, len(ds)/3)
	a, b := mean(ds[:third]), mean(ds[len(ds)-third:])
	if a == 0 || b >= a*(1+rampAlike) {
		return nil
	}
	return []Finding{{Severity: review.Look, Says: "A ramp was asked for, and the load does not climb", Detail: fmt.Sprintf("The first third weighs %.0f a day, the last %.0f.", a, b), Measured: fmt.Sprintf("%+.0f %%", 100*(b/a-1))}}
}

func (l *Look) peak() (out []Finding) {
	ds := l.classes()
	if len(ds) < 4 {
		return nil
	}
	all := mean(ds)
	for i, d := range ds {
		if !l.s.Days[d.n-1].Peak {
			continue
		}
		for _, k := range []int{i - 1, i + 1} {
			if k >= 0 && k < len(ds) && max(ds[k].n-d.n, d.n-ds[k].n) == 1 && ds[k].load > softShare*d.load {
				out = append(out, Finding{Severity: review.Look, Day: ds[k].n, Says: fmt.Sprintf("Day %d is beside the peak, and no easier", ds[k].n), Detail: fmt.Sprintf("It weighs %.0f, the peak %.0f.", ds[k].load, d.load), Measured: fmt.Sprintf("%.0f %% of the peak", 100*ds[k].load/d.load)})
			}
		}
	}
	if last := ds[len(ds)-1]; l.s.Shape == "ramp" && last.load > softShare*all {
		out = append(out, Finding{Severity: review.Look, Day: last.n, Says: "The last day of the ramp is not soft", Detail: fmt.Sprintf("It weighs %.0f, and the days %.0f in the mean.", last.load, all), Measured: fmt.Sprintf("%.0f %% of the mean", 100*last.load/all)})
	}
	return out
}

func (l *Look) seen() (out []Finding) {
	ds := l.classes()
	for _, ld := range l.s.Ladders {
		last, goes := -1, 0
		for i, d := range ds {
			if _, ok := d.rows[ld.Movement]; !ok {
				continue
			}
			if goes++; last >= 0 && i-last > seenWithin {
				out = append(out, Finding{Severity: review.Look, Day: d.n, About: ld.Movement, Says: fmt.Sprintf("%s was not seen for %d classes", l.name(ld.Movement), i-last-1), Detail: "What is learned should come back sooner.", Measured: fmt.Sprintf("%d classes", i-last-1)})
			}
			last = i
		}
		if goes == 1 && len(ds) > 4 {
			out = append(out, Finding{Severity: review.Look, About: ld.Movement, Says: fmt.Sprintf("%s is to be learned, and comes once", l.name(ld.Movement)), Detail: "Once is not learned.", Measured: "once"})
		}
	}
	return out
}

func (l *Look) spine() (out []Finding) {
	for at := 0; at+7 <= len(l.days); at += 7 {
		seen, classes := map[movement.Direction]bool{}, 0
		for _, d := range l.days[at : at+7] {
			if d.class != nil {
				classes++
			}
			for dir := range d.spine {
				seen[dir] = true
			}
		}
		var missing []string
		for _, dir := range []movement.Direction{movement.Backward, movement.Sideways, movement.Turned} {
			if !seen[dir] {
				missing = append(missing, map[movement.Direction]string{movement.Backward: "back", movement.Sideways: "to the side", movement.Turned: "round"}[dir])
			}
		}
		if classes >= 4 && len(missing) > 0 && l.s.Shape != "two holds" && l.s.Shape != "same growing" {
			out = append(out, Finding{Severity: review.Look, Day: at + 1, Says: fmt.Sprintf("Week %d never takes the spine %s", at/7+1, strings.Join(missing, " or ")), Detail: fmt.Sprintf("%d classes.", classes), Measured: strings.Join(missing, ", ")})
		}
	}
	return out
}

func (l *Look) news() (out []Finding) {
	met := map[string]bool{}
	for i, d := range l.classes() {
		n := 0
		for slug := range d.rows {
			if !met[slug] {
				n++
			}
			met[slug] = true
		}
		if i > 0 && n > mostNew {
			out = append(out, Finding{Severity: review.Look, Day: d.n, Says: fmt.Sprintf("%d movements are new on day %d", n, d.n), Detail: "People learn fewer in a class.", Measured: fmt.Sprintf("%d new", n)})
		}
	}
	return out
}

func (l *Look) same() (out []Finding) {
	if l.s.Shape == "same growing" || l.s.Shape == "two holds" {
		return nil
	}
	times := map[string]int{}
	for _, d := range l.classes() {
		key := strings.Join(d.order, ",")
		if times[key]++; times[key] == sameClass+1 {
			out = append(out, Finding{Severity: review.Look, Day: d.n, Says: "The same class comes a fourth time", Detail: "Change one, or ask for the same set growing.", Measured: fmt.Sprintf("%d times", times[key])})
		}
	}
	return out
}

func (l *Look) minutes() (out []Finding) {
	for _, d := range l.classes() {
		want := l.s.Length(l.s.Days[d.n-1])
		if want > 0 && math.Abs(float64(d.tl.Total)/float64(want)-1) > offMinutes {
			out = append(out, Finding{Severity: review.Look, Day: d.n, Says: fmt.Sprintf("Day %d lasts %s", d.n, d.tl.Total), Detail: fmt.Sprintf("%s is promised.", want), Measured: d.tl.Total.String()})
		}
	}
	return out
}

func (l *Look) rest() (out []Finding) {
	for _, d := range l.classes() {
		day := strings.ToLower(l.s.Date(d.n - 1).Weekday().String())
		if slices.Contains(l.s.RestDays, day) {
			out = append(out, Finding{Severity: review.Look, Day: d.n, Says: fmt.Sprintf("A class on %s, %s", day, l.s.Date(d.n-1).Format("2 January")), Detail: "It is a day of rest.", Measured: "a class"})
		}
	}
	return out
}

// stretches looks at whole weeks, at what is stretched on purpose: on two days and more.
func (l *Look) stretches() (out []Finding) {
	for at := 0; at+7 <= len(l.days); at += 7 {
		sum, days := map[string]clock.Span{}, map[string]int{}
		for _, d := range l.days[at : at+7] {
			for slug, s := range d.stretch {
				sum[slug] += s
				days[slug]++
			}
		}
		var short []string
		for slug, s := range sum {
			if days[slug] >= 2 && s < StretchWeek*clock.Second {
				short = append(short, l.name(slug))
			}
		}
		if slices.Sort(short); len(short) > 0 {
			held := "1 stretch"
			if len(short) > 1 {
				held = fmt.Sprintf("%d stretches", len(short))
			}
			out = append(out, Finding{Severity: review.Look, Day: at + 1, Says: fmt.Sprintf("Held short over week %d: %s", at/7+1, strings.Join(short, ", ")), Detail: "About a minute a stretch in all does something.", Measured: held})
		}
	}
	return out
}

func (l *Look) balance() (out []Finding) {
	for at := 0; at+7 <= len(l.days); at += 7 {
		older, classes, days := false, 0, 0
		for _, d := range l.days[at : at+7] {
			if d.class == nil {
				continue
			}
			classes++
			older = older || d.class.Audience.Has(movement.Older)
			if d.balance {
				days++
			}
		}
		if older && classes >= balanceDays && days < balanceDays {
			out = append(out, Finding{Severity: review.Look, Day: at + 1, Says: fmt.Sprintf("Week %d has balance on %d days", at/7+1, days), Detail: "Older people gain from it on three and more.", Measured: fmt.Sprintf("%d days", days)})
		}
	}
	return out
}

// rising compares the averages once four weeks are known; it is said of the first day on which it stands too high.
func (l *Look) rising() []Finding {
	if l.s.Shape == "two holds" { // their minutes double: that is what was asked for
		return nil
	}
	loads := l.loads()
	acute, chronic := Average(loads, Acute), Average(loads, Chronic)
	for i := ratioFrom; i < len(loads); i++ {
		if loads[i] > 0 && chronic[i] > 0 && acute[i] > loadRatio*chronic[i] {
			return []Finding{{Severity: review.Look, Day: i + 1, Says: fmt.Sprintf("By day %d the load has risen fast", i+1), Detail: fmt.Sprintf("The last week averages %.0f, the last four %.0f.", acute[i], chronic[i]), Measured: fmt.Sprintf("%.1f", acute[i]/chronic[i])}}
		}
	}
	return nil
}

// firstSide: work on one side and then the other should not always begin on the same.
func (l *Look) firstSide() []Finding {
	first := map[timeline.Side]int{}
	for _, d := range l.classes() {
		for i := range d.tl.Steps {
			if st := &d.tl.Steps[i]; st.Kind.Working() && (st.Side == timeline.Right || st.Side == timeline.Left) && st.Move != nil && st.Move.As(st.Level).Sides == movement.Each {
				first[st.Side]++
				break
			}
		}
	}
	right, left := first[timeline.Right], first[timeline.Left]
	if right+left < sidesFrom || right > 0 && left > 0 {
		return nil
	}
	side := "right"
	if left > 0 {
		side = "left"
	}
	return []Finding{{Severity: review.Look, Says: fmt.Sprintf("Every class begins on the %s", side), Detail: fmt.Sprintf("%d classes; the side that comes first gets the fresher work.", right+left), Measured: side + " only"}}
}

// kit: a series that says what there is, or that there is none, has no class that needs more.
func (l *Look) kit() (out []Finding) {
	if l.s.Brief == "" {
		return nil
	}
	b, err := brief.Parse(l.s.Brief, l.lib, l.s.Start)
	if err != nil {
		return nil
	}
	for _, d := range l.classes() {
		var more []string
		for _, k := range d.tl.KitOf() {
			if !k.Optional && !slices.Contains(b.Kit, k.Name) {
				more = append(more, k.Name)
			}
		}
		if len(more) > 0 {
			there := "The series is for a mat alone."
			if len(b.Kit) > 0 {
				there = "The series has " + strings.Join(b.Kit, ", ") + "."
			}
			out = append(out, Finding{Severity: review.Look, Day: d.n, Says: fmt.Sprintf("Day %d needs %s", d.n, strings.Join(more, ", ")), Detail: there, Measured: strings.Join(more, ", ")})
		}
	}
	return out
}
