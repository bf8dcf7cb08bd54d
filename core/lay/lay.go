package lay

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"wavekine/core/brief"
	"wavekine/core/clock"
	"wavekine/core/ladder"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/series"
	"wavekine/core/timeline"
)

// Judgement constants of a layout.
const (
	usualMinutes = 20   // of a class where the brief says none
	lightest     = 1.3  // demand of the building part of the lightest class that is tried
	heaviest     = 5.6  // and of the heaviest
	loadWithin   = .09  // of the target is near enough
	mostLoads    = 5    // times that a class is composed anew for its load
	mostBars     = 5    // movements barred from a day whose findings stop
	mostMends    = 6    // findings mended in a class
	lengthWithin = .05  // of its minutes before a class is fitted
	mostScales   = 4    // times that the budgets are changed for the minutes
	goesOnRung   = 2    // at least, of a learned movement, before the next rung
	shownAtOnce  = 3    // learned movements that begin on the first day
	learnEvery   = 2    // class days between two goes, where the brief does not say
	mustShare    = 60   // percent of a class that may be given: more leaves no room for arriving and settling
	roomAbove    = .8   // of what the heaviest class weighs over the lightest is asked for on the peak
	nearEnough   = 5000 // milliseconds off the minutes
)

// Go is one time that a learned movement comes.
type Go struct {
	Day  int // from 1
	Rung int // of the ladder
	Easy bool
}

// Thread is a learned movement over the days.
type Thread struct {
	Movement string
	Ladder   ladder.Ladder
	Every    int // class days between two goes
	Climb    plan.Climb
	Goes     []Go
	Because  string
	Pinned   bool // its goes are as they were
}

// mended is why a row is there that nobody chose.
const mended = "put in for the second look"

// Row is why a row of a class is there.
type Row struct {
	Movement string `json:"movement"`
	Because  string `json:"because"`
}

// Class is a day with its class.
type Class struct {
	Day
	Session *plan.Session // nil on a rest day
	Target  float64       // the load it was laid for
	Load    float64
	Length  clock.Span
	Least   clock.Span // the minutes asked for
	Most    clock.Span
	New     []string // slugs met for the first time
	Rows    []Row
	Stops   int // findings left
	Looks   int
	Found   []review.Finding // those findings
	From    plan.Made        // what it was made from
	pins    []pick           // rows that had to be there as they are
	kept    *plan.Day        // all of the day is pinned: it stays
}

// Laid is a series laid out.
type Laid struct {
	Brief    *brief.Brief
	Days     []Class
	Threads  []Thread
	CouldNot []string
	keep     *pins
	inEvery  []string // themes of which something is in every class
}

// Options of a layout. The zero value is the first answer.
type Options struct {
	Seed     uint64
	Limits   review.Limits
	Progress func(day, of int) // called when a day has been laid; nil: nobody looks
	Keep     *plan.Series      // the series as it is: what is pinned of it never moves, and its threads go on as they are said there
	Pieces   []Piece           // that the studio keeps
	Material []Kept            // the classes to lay, where the brief asks for one's own sessions or for what was taught last, that first
}

// ErrNothing tells that a brief leaves nothing to lay.
var ErrNothing = errors.New("nothing can be laid")

// Series lays a brief out. The same brief, library and seed give the same bytes. When ctx ends first, its cause is the error.
// Cost grows with days x the movements that fit the brief x rows of a class.
func Series(ctx context.Context, lib *movement.Library, b *brief.Brief, o Options) (*Laid, error) {
	keep := &pins{lib, o.Keep}
	asked, pool := b, poolOf(lib, b)
	if len(pool) < leastPool {
		return nil, fmt.Errorf("%w: %d movements fit the audience and the kit", ErrNothing, len(pool))
	}
	b, daily, thin := aboutOthers(b, pool)
	days, could := planDays(b, keep)
	if !slices.ContainsFunc(days, func(d Day) bool { return d.Kind != Rest }) {
		return nil, fmt.Errorf("%w: %s", ErrNothing, strings.Join(could, "; "))
	}
	if n := reach(days); n > plan.MaxDays {
		return nil, fmt.Errorf("the series reaches over %d days, and a document holds %d: fewer classes, or more of them a week", n, plan.MaxDays)
	}
	out := &Laid{Brief: asked, CouldNot: append(could, thin...), keep: keep, inEvery: daily}
	if b.Shape == brief.TwoHolds {
		out.noRoom(lib)
	} else {
		out.threads(lib, pool, days)
	}
	source, err := sourceOf(lib, b, o.Material)
	if err != nil {
		return nil, err
	}
	mem := &memory{led: map[string]int{}}
	var cal calibration
	if source != nil {
		cal = source.calibrated(days)
	} else if cal, err = out.calibrate(ctx, lib, b, pool, days, o); err != nil {
		return nil, err
	}
	work := 0
	for i := range days {
		if days[i].Kind != Rest {
			work++
		}
	}
	done := 0
	var parts []part
	used := map[string]int{}
	var set *theSet // of the school in which every day has the same
	for i := range days {
		c := Class{Day: days[i]}
		held := keep.day(&days[i])
		if held.whole() {
			c.kept = held.d
		}
		if days[i].Kind != Rest {
			done++
			t := &task{lib: lib, b: b, pool: pool, day: &days[i], last: work - done, mem: mem, seed: o.Seed, bars: map[string]bool{}}
			if c.kept != nil {
				if c.kept.Session != nil { // else it names a kept session, which stays too
					if err := c.stays(ctx, t, o); err != nil {
						return nil, err
					}
					mem.note(lib, &c)
				}
				out.Days = append(out.Days, c)
				continue
			}
			c.pins = keep.due(held, pool)
			t.due = apartFrom(c.pins, apartFrom(out.daily(lib, pool, days[i].N), out.due(lib, pool, days[i].N)))
			t.due = append(t.due, out.stretches(t)...)
			out.barPinned(t)
			t.due = append(t.due, out.constants(t, t.due)...)
			c.Least, c.Most = minutesOf(b, &days[i])
			out.tooMuch(t, &c)
			switch {
			case days[i].Kind == Stretch: // it weighs what stretches weigh
			case source != nil:
				c.Target = cal.target(&days[i], t.aim(&c))
				t.made = source.on(t, &c)
			case b.Shape == brief.SameSet && set != nil:
				t.given = withPins(set.on(lib, &days[i]), c.pins)
			case b.Shape == brief.TwoHolds:
				if t.given, err = out.twoHolds(ctx, t, &c, o); err != nil {
					return nil, err
				}
			case b.Shape != brief.Intervals && b.Shape != brief.SameSet:
				c.Target = cal.target(&days[i], t.aim(&c))
			}
			if t.made == nil && t.given == nil {
				t.target = t.aim(&c)
				if parts == nil {
					parts = partsOf(t, o.Pieces)
				}
				t.uses(parts, used)
			}
			if err := t.make(ctx, &c, o); err != nil {
				return nil, err
			}
			if b.Shape == brief.SameSet && set == nil && days[i].Kind != Stretch {
				set = setOf(lib, pool, &c)
			}
			mem.note(lib, &c)
			out.says(&c)
		}
		out.Days = append(out.Days, c)
		if o.Progress != nil {
			o.Progress(i+1, len(days))
		}
	}
	if b.Shape == brief.SameSet {
		out.climbed()
	}
	return out, nil
}

// stays takes a pinned day as it is.
func (c *Class) stays(ctx context.Context, t *task, o Options) error {
	s := c.kept.Session
	tl, err := timeline.Build(s.ForDay(c.N), t.lib)
	if err != nil {
		return fmt.Errorf("day %d: %w", c.N, err)
	}
	a := &answer{s: s, tl: tl}
	if err := a.look(ctx, t, o); err != nil {
		return err
	}
	c.Session, c.Load, c.Length, c.Stops, c.Looks = s, series.Load(tl), tl.Total, a.stops, a.looks
	c.Found = slices.DeleteFunc(slices.Clone(a.findings), func(f review.Finding) bool { return f.Severity == review.Good })
	c.Theme, c.Peak, c.Why, c.Target = c.kept.Theme, c.kept.Peak, c.kept.Because, c.kept.Target
	c.Least, c.Most = tl.Total, tl.Total
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if !r.IsRest() && t.mem.led[movement.BaseSlug(r.Movement)] == 0 && !slices.Contains(c.New, r.Movement) {
			c.New = append(c.New, r.Movement)
		}
	})
	for _, w := range c.kept.Rows {
		c.Rows = append(c.Rows, Row(w))
	}
	return nil
}

// barPinned keeps the movements of pinned threads off the days where they are not.
func (l *Laid) barPinned(t *task) {
	for i := range l.Threads {
		if th := &l.Threads[i]; th.Pinned {
			for _, r := range th.Ladder.Rungs {
				if !slices.ContainsFunc(t.due, func(p pick) bool { return p.e.m.Slug == r.Movement }) {
					t.bars[r.Movement] = true
				}
			}
		}
	}
}

// withPins puts the pinned rows in the place of the same movements of a class that is given, or before its end.
func withPins(given, pins []pick) []pick {
	out := slices.Clone(given)
	for _, p := range pins {
		i := slices.IndexFunc(out, func(o pick) bool { return o.e.m.Slug == p.e.m.Slug && o.row == nil })
		if i >= 0 {
			p.role = out[i].role
			out[i] = p
			continue
		}
		at := slices.IndexFunc(out, func(o pick) bool { return sectionOf[o.role] > sectionOf[p.role] })
		if at < 0 {
			at = len(out)
		}
		out = slices.Insert(out, at, p)
	}
	return out
}

// reach is over how many days of the calendar a series goes.
func reach(days []Day) int {
	n := len(days)
	if n > 0 && !days[0].Date.IsZero() {
		n = int(days[n-1].Date.Sub(days[0].Date).Hours()+.5)/24 + 1
	}
	return n
}

// tooMuch says, once, where what must come does not go into the minutes.
func (l *Laid) tooMuch(t *task, c *Class) {
	const says = "what must come takes"
	var sum clock.Span
	for _, p := range t.due {
		sum += p.rung.Seconds + clock.Seconds(overhead)
	}
	if sum > c.Most*mustShare/100 && l.Brief.Shape != brief.TwoHolds && !slices.ContainsFunc(l.CouldNot, func(s string) bool { return strings.Contains(s, says) }) {
		l.CouldNot = append(l.CouldNot, fmt.Sprintf("day %d: %s %s with %d movements, of %s with getting there and settling: fewer to learn, or less every day", c.N, says, sum, len(t.due), rangeOf(c)))
	}
}

// minutesOf is how long a day's class may be, at least and at most.
func minutesOf(b *brief.Brief, d *Day) (least, most clock.Span) {
	m := b.Minutes
	if d.easier() && !b.Easy.IsZero() {
		m = b.Easy
	}
	if m.IsZero() {
		m = brief.Minutes{Min: usualMinutes, Max: usualMinutes}
	}
	return clock.Seconds(float64(60 * m.Min)), clock.Seconds(float64(60 * m.Max))
}

// aim is the length that a class is composed for: the harder the day, the more of the minutes it takes.
func (t *task) aim(c *Class) clock.Span {
	share := hardAt[t.day.Hard]
	if t.day.Peak {
		share = 1
	}
	whole := 5 * clock.Second
	return c.Least + (c.Most-c.Least)*clock.Span(share*100)/100/whole*whole
}

// threads plans the learned movements: when each comes, and on which rung. Those of the document go on with the ladder and climb they have there.
func (l *Laid) threads(lib *movement.Library, pool []*entry, days []Day) {
	var work []int
	for i := range days {
		if days[i].Kind != Rest {
			work = append(work, i)
		}
	}
	learn := slices.Clone(l.Brief.Learn)
	if l.keep.s != nil { // and what was added to the board
		for _, ld := range l.keep.s.Ladders {
			if !slices.ContainsFunc(learn, func(x brief.Learn) bool { return slices.Contains(ld.Movements(), x.Slug) }) {
				learn = append(learn, brief.Learn{Slug: movement.BaseSlug(ld.Movement)})
			}
		}
	}
	for k, x := range learn {
		m, _ := lib.Get(x.Slug)
		i := slices.IndexFunc(pool, func(e *entry) bool { return e.m.Slug == x.Slug })
		old := l.keep.thread(x.Slug)
		if i < 0 && (old == nil || !old.Pinned) {
			l.CouldNot = append(l.CouldNot, l.whyNot(m, "to learn"))
			continue
		}
		th := Thread{Movement: x.Slug, Every: x.Every}
		switch {
		case old != nil:
			th.Ladder, th.Climb, th.Pinned = ladder.Read(lib, old), old.Climb, old.Pinned
		default:
			th.Ladder = pool[i].ladder
		}
		if len(th.Ladder.Rungs) == 0 {
			continue
		}
		if th.Every == 0 {
			th.Every = min(learnEvery, max(1, len(work)/3))
		}
		from := th.Ladder.Usual(lib)
		goes := 0
		for j := range work {
			if (j+k)%th.Every == 0 && days[work[j]].Kind == Work {
				goes++
			}
		}
		if th.Climb.IsZero() {
			th.Climb = plan.Climb{When: plan.EveryTime, Times: max(goesOnRung, (goes+len(th.Ladder.Rungs)-from-1)/max(1, len(th.Ladder.Rungs)-from))}
		}
		l.goes(lib, &th, k, from, work, days)
		th.Because = fmt.Sprintf("to learn: every %sclass day, the next rung %s", ordinal(th.Every), climbWords(th.Climb))
		if th.Pinned {
			th.Because = "pinned as it was"
		}
		l.Threads = append(l.Threads, th)
	}
}

// climbWords says when a rung is taken.
func climbWords(c plan.Climb) string {
	if c.When == plan.EveryTime {
		return fmt.Sprintf("after %d goes", c.Times)
	}
	return c.String()
}

// goes plans the goes of a thread. A pinned cell is a go where it stands; what comes later stands no lower, and what comes before no higher.
func (l *Laid) goes(lib *movement.Library, th *Thread, k, from int, work []int, days []Day) {
	pinned := map[int]int{} // the rung of a pinned go by day, -1: on none
	for _, day := range work {
		h := l.keep.day(&days[day])
		for _, c := range l.keep.cells(h) {
			if slices.ContainsFunc(th.Ladder.Rungs, func(r ladder.Rung) bool { return r.Movement == c.slug }) || c.slug == th.Movement {
				pinned[day] = th.Ladder.Find(c.slug, c.row.Level, c.row.Dose)
			}
		}
	}
	ceiling := func(after int) int {
		most := len(th.Ladder.Rungs) - 1
		for day, at := range pinned {
			if day > after && at >= 0 {
				most = min(most, at)
			}
		}
		return most
	}
	floor, n, first := 0, 0, -1
	for j, day := range work {
		d := &days[day]
		if at, is := pinned[day]; is {
			if at >= 0 {
				floor = max(floor, at)
			}
			th.Goes = append(th.Goes, Go{d.N, max(at, 0), d.easier()})
			if d.Kind != Easy {
				n++
			}
			continue
		}
		if th.Pinned || l.keep.day(d).whole() {
			continue
		}
		if shown := day == work[0] && (k < shownAtOnce || l.Brief.Shape == brief.SameSet); (j+k)%th.Every != 0 && !shown { // the first are shown on the first day
			continue
		}
		if first < 0 {
			first = day
		}
		at := th.Ladder.At(from, ladder.Gone{Goes: n, Days: day - first, Weeks: (day - first) / 7}, th.Climb)
		at = min(max(at, floor), ceiling(day))
		if d.Kind == Stretch { // nothing is learned on it
			continue
		}
		if d.Kind == Easy {
			m, _ := lib.Get(th.Ladder.Rungs[at].Movement)
			if easy, ok := th.Ladder.Easy(lib, at); ok {
				th.Goes = append(th.Goes, Go{d.N, easy, true})
			} else if m.Skill(th.Ladder.Rungs[at].Level) < 3 {
				th.Goes = append(th.Goes, Go{d.N, at, true})
			}
			continue
		}
		th.Goes = append(th.Goes, Go{d.N, at, false})
		n++
	}
}

func ordinal(n int) string {
	switch n {
	case 1:
		return ""
	case 2:
		return "second "
	case 3:
		return "third "
	}
	return plan.Ordinal(n) + " "
}

// roleFor is the part of a class in which a movement that must come has its place.
func roleFor(e *entry) movement.Role {
	for _, r := range []movement.Role{movement.Build, movement.Wake, movement.Mobilise, movement.Settle, movement.Counter, movement.Peak} {
		if slices.Contains(e.roles, r) {
			return r
		}
	}
	return movement.Build
}

// due are the learned movements and tests of a day.
func (l *Laid) due(lib *movement.Library, pool []*entry, day int) (out []pick) {
	find := func(slug string) *entry {
		if i := slices.IndexFunc(pool, func(e *entry) bool { return e.m.Slug == slug }); i >= 0 {
			return pool[i]
		}
		return nil
	}
	for i := range l.Threads {
		th := &l.Threads[i]
		if th.Pinned { // its cells are due as they stand
			continue
		}
		for n, g := range th.Goes {
			if g.Day != day {
				continue
			}
			e := find(th.Ladder.Rungs[g.Rung].Movement)
			if e == nil {
				continue
			}
			because := fmt.Sprintf("to learn, go %d", n+1)
			if g.Easy {
				because += ", easier"
			} else if n > 0 && th.Goes[n-1].Rung != g.Rung && !th.Goes[n-1].Easy {
				because += ", a rung up"
			}
			out = append(out, pick{e: e, rung: th.Ladder.Rungs[g.Rung], role: roleFor(e), because: because, fixed: true})
		}
	}
	for _, t := range l.Brief.Tests {
		if e := find(t.Slug); e != nil && slices.Contains(t.Days, day) && !slices.ContainsFunc(out, func(p pick) bool { return p.e == e }) {
			r := e.ladder.Rungs[e.ladder.Usual(lib)]
			out = append(out, pick{e: e, rung: r, role: roleFor(e), because: "a test", fixed: true, note: "A test: note the " + t.Measure + ", each side."})
		}
	}
	return out
}

// daily are the movements of every day, at the level of the day where levels rise over the series.
func (l *Laid) daily(lib *movement.Library, pool []*entry, day int) (out []pick) {
	for _, d := range l.Brief.Daily {
		i := slices.IndexFunc(pool, func(e *entry) bool { return e.m.Slug == d.Slug })
		m, _ := lib.Get(d.Slug)
		if i < 0 {
			l.cannot(l.whyNot(m, "every day"))
			continue
		}
		e := pool[i]
		r, because := e.ladder.Rungs[e.ladder.Usual(lib)], "every day, as asked"
		if n := l.Brief.LevelOn(day); n > 0 {
			level := 0
			for k := 1; k <= min(n, len(e.m.Levels)); k++ {
				if TermsOf(l.Brief).Takes(e.m, k) {
					level = k
				}
			}
			if level > 0 {
				r = ladder.RungOf(lib, e.m, level, doseOf(e.m, level, d.Dose))
				because += fmt.Sprintf(", level %d by now", level)
			}
		}
		if r.Dose = doseOf(e.m, r.Level, d.Dose); !d.Dose.IsZero() {
			r = ladder.RungOf(lib, e.m, r.Level, d.Dose)
		}
		out = append(out, pick{e: e, rung: r, role: roleFor(e), because: because, fixed: true})
	}
	return out
}

// cannot says, once, what could not be had.
func (l *Laid) cannot(says string) {
	if !slices.Contains(l.CouldNot, says) {
		l.CouldNot = append(l.CouldNot, says)
	}
}

// stretches are the daily stretching of a class: what serves the day first, what was not there for longest before what was.
func (l *Laid) stretches(t *task) (out []pick) {
	left := float64(l.Brief.Stretch) * 60
	if left == 0 {
		return nil
	}
	var pool []*entry
	points := map[*entry]int{}
	for _, e := range t.pool {
		if !strings.HasPrefix(e.m.Pattern, "stretch") || slices.ContainsFunc(t.due, func(p pick) bool { return p.e == e }) {
			continue
		}
		pool = append(pool, e)
		points[e] = t.jitter(e.m.Slug, 0)
		if slices.Contains(e.themes, t.day.Theme) {
			points[e] += pointsTheme
		}
		for _, day := range t.mem.lastDays(4) {
			if day[e.m.Slug] {
				points[e] -= pointsWeek
			}
		}
	}
	slices.SortStableFunc(pool, func(a, b *entry) int { return points[b] - points[a] })
	for _, e := range pool {
		r := e.variants[0].rung
		if took := r.Seconds.Seconds() + overhead; left >= took*.6 {
			out = append(out, pick{e: e, rung: r, role: movement.Settle, because: "stretching every day, as asked", fixed: true})
			left -= took
		}
	}
	return out
}

// whyNot says why a movement that was asked for is not there.
func (l *Laid) whyNot(m *movement.Movement, what string) string {
	if slices.Contains(l.Brief.LeaveOut, m.Slug) {
		return fmt.Sprintf("%s is asked for %s and to be left out: it is left out", m.Name, what)
	}
	return fmt.Sprintf("%s, %s: it is not for this audience, or needs kit that is not there", m.Name, what)
}

// noRoom says what two long holds leave no room for.
func (l *Laid) noRoom(lib *movement.Library) {
	var names []string
	for _, x := range l.Brief.Learn {
		if m, ok := lib.Get(x.Slug); ok {
			names = append(names, m.Name)
		}
	}
	for _, x := range l.Brief.Tests {
		if m, ok := lib.Get(x.Slug); ok {
			names = append(names, m.Name)
		}
	}
	if len(l.Brief.Daily) > 2 {
		names = append(names, "the third of what is to come every day and what is behind it")
	}
	if l.Brief.Stretch > 0 {
		names = append(names, "more stretching")
	}
	if len(names) > 0 {
		l.CouldNot = append(l.CouldNot, "two long holds a day leave no room for "+strings.Join(names, ", "))
	}
}

// apartFrom joins two lists of rows; what is in the first is not there again.
func apartFrom(first, more []pick) []pick {
	out := slices.Clone(first)
	for _, p := range more {
		if !slices.ContainsFunc(first, func(o pick) bool { return o.e == p.e }) {
			out = append(out, p)
		}
	}
	return out
}

// climbed reads the goes of what is learned off the classes, where each day has the same set.
func (l *Laid) climbed() {
	for i := range l.Threads {
		th := &l.Threads[i]
		th.Goes, th.Every, th.Climb, th.Because = nil, 1, plan.Climb{}, "to learn: in the set of every day"
		for k := range l.Days {
			c := &l.Days[k]
			if c.Session == nil {
				continue
			}
			c.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
				at := slices.IndexFunc(th.Ladder.Rungs, func(g ladder.Rung) bool { return g.Level == max(1, r.Level) && g.Dose.Equal(r.Dose) })
				if r.Movement == th.Movement && at >= 0 {
					th.Goes = append(th.Goes, Go{c.N, at, c.easier()})
				}
			})
		}
	}
}

// calibration is what classes of a brief can weigh a minute: the lightest, and the heaviest by theme.
type calibration struct {
	low  float64
	high map[string]float64
}

// target is the load that a day is laid for.
func (c calibration) target(d *Day, length clock.Span) float64 {
	share := d.Want
	if d.Hard == Soft {
		share = hardAt[Soft]
	}
	if d.Peak {
		share = 1
	}
	return (c.low + (c.high[d.Theme]-c.low)*share) * length.Seconds() / 60
}

// calibrate composes a light and a heavy class of the brief and weighs them: what lies between can be asked for.
func (l *Laid) calibrate(ctx context.Context, lib *movement.Library, b *brief.Brief, pool []*entry, days []Day, o Options) (out calibration, err error) {
	i := slices.IndexFunc(days, func(d Day) bool { return d.Kind != Rest && d.Kind != Stretch })
	if i < 0 {
		if i = slices.IndexFunc(days, func(d Day) bool { return d.Kind != Rest }); i < 0 {
			return out, ErrNothing
		}
	}
	probe := func(wanted float64, hard Hard, theme string) (float64, error) {
		d := days[i]
		d.Hard, d.Theme = hard, theme
		t := &task{lib: lib, b: b, pool: pool, day: &d, last: lastNewDays + 1, mem: &memory{led: map[string]int{}}, bars: map[string]bool{}, seed: o.Seed, wanted: wanted}
		for _, e := range pool { // the probes may use every level
			t.mem.led[e.m.Slug] = len(e.m.Levels)
		}
		t.due = l.daily(lib, pool, d.N) // what comes every day leaves less room
		t.due = append(t.due, l.stretches(t)...)
		least, most := minutesOf(b, &d)
		t.target = (least + most) / 2
		_, tl, err := t.sized(ctx)
		if err != nil {
			return 0, err
		}
		return series.Load(tl) / (tl.Total.Seconds() / 60), nil
	}
	if out.low, err = probe(lightest, Soft, days[i].Theme); err != nil {
		return out, err
	}
	out.high = map[string]float64{}
	for k := range days {
		theme := days[k].Theme
		if days[k].Kind == Rest || out.high[theme] > 0 {
			continue
		}
		top, err := probe(heaviest, High, theme)
		if err != nil {
			return out, err
		}
		// the heaviest is not asked for: a class that was tried once leaves room above it
		out.high[theme] = out.low + roomAbove*max(.2, top-out.low)
	}
	out.low += .1 * (out.high[days[i].Theme] - out.low)
	return out, nil
}

// sized composes until the class is about as long as it should be.
func (t *task) sized(ctx context.Context) (*draft, *timeline.Timeline, error) {
	var best *draft
	var bestTL *timeline.Timeline
	t.scale = 1
	for range mostScales {
		if err := context.Cause(ctx); err != nil {
			return nil, nil, err
		}
		d := t.compose()
		if len(d.picks) == 0 {
			break
		}
		tl, err := timeline.Build(t.session(d), t.lib)
		if err != nil {
			return nil, nil, fmt.Errorf("day %d: %w", t.day.N, err)
		}
		if best == nil || apart(tl.Total, t.target) < apart(bestTL.Total, t.target) {
			best, bestTL = d, tl
		}
		if float64(apart(tl.Total, t.target)) <= lengthWithin*float64(t.target) {
			break
		}
		t.scale *= min(1.6, max(.6, float64(t.target)/float64(tl.Total)))
	}
	if best == nil {
		return nil, nil, fmt.Errorf("%w: no movement fits day %d", ErrNothing, t.day.N)
	}
	return best, bestTL, nil
}

func apart(a, b clock.Span) clock.Span { return max(a-b, b-a) }

// answer is a class that was tried for a day.
type answer struct {
	d            *draft
	s            *plan.Session
	tl           *timeline.Timeline
	stops, looks int
	odd          int // things no teacher would do
	load         float64
	findings     []review.Finding
}

// badness weighs an answer for a day: stops, then minutes, then load and what is to be looked at.
func (a *answer) badness(c *Class) float64 {
	off := 0.0
	if a.tl.Total < c.Least-nearEnough || a.tl.Total > c.Most+nearEnough {
		off = float64(max(c.Least-a.tl.Total, a.tl.Total-c.Most)) / 1000
	}
	load := 0.0
	if c.Target > 0 {
		load = max(0, math.Abs(a.load-c.Target)/c.Target-loadWithin)
	}
	return 1000*float64(a.stops) + off + 40*load + 4*float64(a.looks) + 25*float64(a.odd)
}

// make lays a day: composed for its load, fitted to its minutes, looked at; what stops is barred.
func (t *task) make(ctx context.Context, c *Class, o Options) error {
	t.target = t.aim(c)
	var best *answer
	for range mostBars {
		if best != nil && t.made != nil { // there is no other answer
			break
		}
		a, err := t.loaded(ctx, c, o)
		if err != nil {
			return err
		}
		if best == nil || a.badness(c) < best.badness(c) {
			best = a
		}
		if a.stops == 0 && a.looks == 0 && a.badness(c) < 1 {
			break
		}
		t.vary++
		for _, f := range a.findings {
			if f.Severity == review.Good || f.About == "" || slices.ContainsFunc(t.due, func(p pick) bool { return p.e.m.Slug == f.About }) || t.bars[f.About] {
				continue
			}
			t.bars[f.About] = true
			break
		}
	}
	if t.parts != ([3]*part{}) && best.badness(c) >= 1 { // what the studio keeps does not go with the day: it is tried without
		with := t.parts
		t.parts = [3]*part{}
		bare, err := t.loaded(ctx, c, o)
		if err != nil {
			return err
		}
		if bare.badness(c) < best.badness(c) {
			best = bare
		} else {
			t.parts = with
		}
	}
	putBack(best.s, c.pins)
	c.Session, c.Load, c.Length, c.Stops, c.Looks = best.s, best.load, best.tl.Total, best.stops, best.looks
	c.Found = slices.DeleteFunc(slices.Clone(best.findings), func(f review.Finding) bool { return f.Severity == review.Good })
	c.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if r.IsRest() {
			c.Rows = append(c.Rows, Row{"rest", "a break that the second look asks for"})
			return
		}
		if t.mem.led[r.Movement] == 0 && !slices.Contains(c.New, r.Movement) {
			c.New = append(c.New, r.Movement)
		}
		because := mended
		i := slices.IndexFunc(best.d.picks, func(p pick) bool { return p.e.m.Slug == r.Movement })
		if i >= 0 && !slices.ContainsFunc(c.Rows, func(o Row) bool { return o.Movement == r.Movement }) {
			because = best.d.picks[i].because
		}
		c.Rows = append(c.Rows, Row{r.Movement, because})
	})
	return nil
}

// loaded looks for the demand that gives the class its load.
func (t *task) loaded(ctx context.Context, c *Class, o Options) (best *answer, err error) {
	lo, hi := lightest, heaviest
	if t.made != nil {
		return t.finished(ctx, c, o)
	}
	if c.Target == 0 { // the load follows from what the class is
		t.wanted = lightest + (heaviest-lightest)*hardAt[t.day.Hard]*.6
		return t.finished(ctx, c, o)
	}
	for range mostLoads {
		t.wanted = (lo + hi) / 2
		a, err := t.finished(ctx, c, o)
		if err != nil {
			return nil, err
		}
		if best == nil || a.badness(c) < best.badness(c) {
			best = a
		}
		switch off := a.load/c.Target - 1; {
		case math.Abs(off) <= loadWithin:
			return best, nil
		case off > 0:
			hi = t.wanted
		default:
			lo = t.wanted
		}
	}
	return best, nil
}

// finished composes a class, fits it to its minutes and takes the second look; what can be mended is.
func (t *task) finished(ctx context.Context, c *Class, o Options) (*answer, error) {
	a := &answer{d: t.made, s: nil}
	if t.made != nil {
		a.s = t.made.own.Clone()
	} else {
		d, _, err := t.sized(ctx)
		if err != nil {
			return nil, err
		}
		a = &answer{d: d, s: t.session(d)}
	}
	d := a.d
	if err := a.fit(ctx, t, c, o); err != nil {
		return nil, err
	}
	if t.made != nil {
		if err := a.shorten(ctx, t, c, o); err != nil {
			return nil, err
		}
	}
	if err := a.look(ctx, t, o); err != nil {
		return nil, err
	}
	for range mostMends {
		m := a.mend()
		if m == nil || (t.given != nil || t.made != nil) && a.stops == 0 { // what is given stays, unless it stops
			break
		}
		s, err := m.Apply(a.s)
		if err != nil || !kept(s, c.pins) {
			break
		}
		n := &answer{d: d, s: s}
		if err := n.fit(ctx, t, c, o); err != nil {
			return nil, err
		}
		if err := n.look(ctx, t, o); err != nil {
			return nil, err
		}
		if n.badness(c) >= a.badness(c) {
			break
		}
		a = n
	}
	return a, nil
}

// mend is a mend for the gravest finding that has one and does not only change the promise.
func (a *answer) mend() *review.Mend {
	for i := range a.findings {
		f := &a.findings[i]
		if f.Severity == review.Good || f.Rule == "length" || f.Rule == "promise" {
			continue
		}
		for j := range f.Mends {
			return &f.Mends[j]
		}
	}
	return nil
}

// fit brings the class to its minutes: any length within the range asked for, else the nearest.
func (a *answer) fit(ctx context.Context, t *task, c *Class, o Options) error {
	tl, err := timeline.Build(a.s, t.lib)
	if err != nil {
		return fmt.Errorf("day %d: %w", t.day.N, err)
	}
	a.tl = tl
	to := min(max(tl.Total, c.Least), c.Most)
	if apart(tl.Total, to) > nearEnough || c.Least == c.Most && apart(tl.Total, to) > 0 {
		f, err := review.FitTo(ctx, a.s, t.lib, to, o.Limits)
		if err != nil {
			return err
		}
		a.s = f.Session
		if a.tl, err = timeline.Build(a.s, t.lib); err != nil {
			return fmt.Errorf("day %d: %w", t.day.N, err)
		}
	}
	a.s.Target = to
	a.load = series.Load(a.tl)
	return nil
}

// look takes the second look.
func (a *answer) look(ctx context.Context, t *task, o Options) (err error) {
	if a.findings, err = review.Check(ctx, a.s, a.tl, t.lib, o.Limits); err != nil {
		return err
	}
	a.stops, a.looks, a.odd = 0, 0, odd(a.s, t.lib)
	for _, f := range a.findings {
		switch f.Severity {
		case review.Stop:
			a.stops++
		case review.Look:
			a.looks++
		}
	}
	return nil
}

// note remembers a day.
func (mem *memory) note(lib *movement.Library, c *Class) {
	day, bent := map[string]bool{}, map[movement.Direction]bool{}
	c.Session.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		m, ok := lib.Get(r.Movement)
		if !ok {
			return
		}
		level := max(1, r.Level)
		day[m.Slug] = true
		mem.led[m.Slug] = max(mem.led[m.Slug], level)
		for _, d := range m.As(level).Spine {
			bent[d] = true
		}
	})
	mem.days, mem.bent = append(mem.days, day), append(mem.bent, bent)
}

// says notes what a day could not have.
func (l *Laid) says(c *Class) {
	if c.Length < c.Least-nearEnough || c.Length > c.Most+nearEnough {
		l.CouldNot = append(l.CouldNot, fmt.Sprintf("day %d lasts %s, and %s was asked for: the movements that fit the brief leave no nearer", c.N, c.Length, rangeOf(c)))
	}
	if c.Target > 0 && math.Abs(c.Load/c.Target-1) > .1 {
		l.CouldNot = append(l.CouldNot, fmt.Sprintf("day %d weighs %.0f, and %.0f was meant", c.N, c.Load, c.Target))
	}
}

func rangeOf(c *Class) string {
	if c.Least == c.Most {
		return c.Least.String()
	}
	return c.Least.String() + " to " + c.Most.String()
}
