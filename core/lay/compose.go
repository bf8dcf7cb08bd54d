package lay

import (
	"hash/fnv"
	"math"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/brief"
	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/ladder"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Judgement constants of a class's composition: points in the choice of a movement.
const (
	pointsTheme    = 60  // it serves the day's theme
	pointsFocus    = 20  // it serves another theme of the brief
	pointsDemand   = 7   // off for the square of how far its demand is from what is wanted
	pointsChange   = 9   // off for each step of a change of position
	pointsFlow     = 12  // what stands before it leads to it
	pointsDay      = 45  // off when it was there the day before
	pointsWeek     = 8   // off for each time it was there in the last six class days
	pointsNew      = 25  // off when nobody has met it and the day has had as many new ones as were asked for, and again for each more
	pointsSpine    = 30  // it takes the spine where it has not been for three class days
	pointsGives    = 50  // it gives back what has just been asked of the body
	noise          = 14  // what another seed may change
	beforeMiddle   = .6  // of the building that comes before the hardest part, where it is asked for in the middle
	afterMiddle    = 1.2 // demand by which what follows it is easier
	longestChain   = 3   // rows of a chain
	mostStations   = 6   // of a circuit
	mostOfPattern  = 2   // movements of one kind in a class; three curls
	mostCurls      = 3   //
	overhead       = 11. // seconds from one row to the next, before a class has been timed
	newLater       = 2   // new movements a day after the first, where the brief does not say
	lastNewDays    = 4   // class days at the end without anything new
	stretchDemand  = 2.2 // at most, on a day to stretch
	standingGap    = 1   // times that a class goes down to the floor or gets up
	backSeconds    = 40. // flat on the back at a stretch, for those who should not be for long: the second look allows a minute
	leastSettle    = 85. // seconds that close a class, with getting there
	forwardSeconds = 45  // of rounding under load after which something must give back
)

// variant is a level of a movement at a dose it may have in a class.
type variant struct {
	rung  ladder.Rung
	level int
	skill int
}

// entry is a movement of the pool.
type entry struct {
	m        *movement.Movement
	roles    []movement.Role
	themes   []string
	variants []variant
	ladder   ladder.Ladder
}

// poolOf is what a brief lets be used, in the order of the library.
func poolOf(lib *movement.Library, b *brief.Brief) (out []*entry) {
	t := TermsOf(b)
	for _, m := range lib.All() {
		if m.Hidden || slices.Contains(b.LeaveOut, m.Slug) {
			continue
		}
		e := &entry{m: m, roles: m.RolesOf(), themes: m.ThemesOf(), ladder: ladder.Of(lib, m, t)}
		if len(e.ladder.Rungs) == 0 {
			continue
		}
		usual := e.ladder
		if b.Count != "" {
			e.ladder = countedIn(lib, m, usual, b.Count)
		}
		for n := 1; n <= len(m.Levels); n++ {
			best, off := -1, 1<<30
			usually, ok := m.Bounds(n)
			for i, r := range usual.Rungs {
				if r.Level == n && ok && max(r.Amount-usually.Usual, usually.Usual-r.Amount) < off {
					best, off = i, max(r.Amount-usually.Usual, usually.Usual-r.Amount)
				}
			}
			if best >= 0 {
				rung := usual.Rungs[best]
				if b.Count != "" {
					rung = ladder.RungOf(lib, m, n, countDose(lib, m, n, rung.Dose, b.Count))
				}
				e.variants = append(e.variants, variant{rung, n, m.Skill(n)})
			}
		}
		out = append(out, e)
	}
	return out
}

// TermsOf is for whom and with what the ladders are. Where nothing is said of kit there is none.
func TermsOf(b *brief.Brief) ladder.Terms {
	return ladder.Terms{Audience: b.Audience, Kit: b.Kit, Bare: len(b.Kit) == 0}
}

// pick is a row of a class under way.
type pick struct {
	e       *entry
	rung    ladder.Rung
	role    movement.Role
	because string
	fixed   bool // its dose is not for fitting
	note    string
	row     *plan.Row // pinned: the row as it stands
	station bool      // it stands in a circuit
	piece   bool      // it comes with a piece that the studio keeps
}

// memory is what the days before have had.
type memory struct {
	days []map[string]bool             // movements by class day
	led  map[string]int                // the highest level of each
	bent []map[movement.Direction]bool // where the spine went
}

func (mem *memory) lastDays(k int) []map[string]bool { return mem.days[max(0, len(mem.days)-k):] }

// task is a class to be composed.
type task struct {
	lib    *movement.Library
	b      *brief.Brief
	pool   []*entry
	day    *Day
	last   int // class days left after this one
	mem    *memory
	bars   map[string]bool
	wanted float64 // demand of the building part
	scale  float64 // of the budgets, to come to the minutes
	target clock.Span
	due    []pick // threads, daily things and tests
	seed   uint64
	vary   int      // times that another answer was asked for
	given  []pick   // the class as it is: nothing is chosen
	made   *draft   // a class that is not composed at all: somebody's own
	parts  [3]*part // pieces that open it, are built with, and close it
}

// shares are what each role gets of a class's time, by how hard the day is; judgement.
func (t *task) shares() map[movement.Role]float64 {
	out := map[movement.Role]float64{movement.Arrive: .06, movement.Mobilise: .17, movement.Wake: .09, movement.Build: .40, movement.Peak: .08, movement.Counter: .08, movement.Settle: .12}
	if t.day.Hard == Soft {
		out[movement.Peak], out[movement.Build], out[movement.Mobilise], out[movement.Settle] = 0, .33, .22, .22
	}
	if t.day.Kind == Stretch {
		return map[movement.Role]float64{movement.Arrive: .08, movement.Mobilise: .37, movement.Settle: .55}
	}
	if t.b.WarmUp == "assumed" {
		out[movement.Build] += out[movement.Mobilise] - .05
		out[movement.Mobilise] = .05
	}
	return out
}

// slot is a stretch of a class for one role; lower is how much less demand it wants than the role does.
type slot struct {
	role  movement.Role
	share float64 // of the class's time
	lower float64
}

// slots are the roles in their order. Where the hardest part is asked for in the middle, easier building follows it.
func (t *task) slots() (out []slot) {
	shares := t.shares()
	for _, role := range movement.Roles() {
		s := slot{role: role, share: shares[role]}
		if t.b.Hardest == brief.InTheMiddle && shares[movement.Peak] > 0 && role == movement.Build {
			s.share *= beforeMiddle
		}
		out = append(out, s)
		if t.b.Hardest == brief.InTheMiddle && role == movement.Peak && shares[movement.Peak] > 0 {
			out = append(out, slot{movement.Build, shares[movement.Build] * (1 - beforeMiddle), afterMiddle})
		}
	}
	return out
}

var sectionOf = map[movement.Role]int{movement.Arrive: 0, movement.Mobilise: 0, movement.Wake: 0, movement.Build: 1, movement.Peak: 1, movement.Counter: 2, movement.Settle: 2}

// draft is a class as it is being put together.
type draft struct {
	picks    []pick
	posture  movement.Posture
	rises    int
	falls    int
	patterns map[string]int
	used     map[string]bool
	back     float64 // seconds on the back at a stretch
	forward  float64 // seconds of rounding under load since something gave back
	news     int
	spine    map[movement.Direction]bool
	own      *plan.Session // the class, where it was not composed
}

// compose puts a class together role by role: each time the movement with the most points.
func (t *task) compose() *draft {
	d := &draft{posture: movement.Supine, patterns: map[string]int{}, used: map[string]bool{}, spine: map[movement.Direction]bool{}}
	for _, p := range t.due { // what must come is not chosen for something else before
		d.used[p.e.m.Slug] = true
	}
	first := true
	if t.given != nil {
		for _, p := range t.given {
			d.add(p, first)
			first = false
		}
		return d
	}
	if t.b.Classical && t.day.Kind != Stretch {
		t.inOrder(d)
		return d
	}
	wanted, served, begun := t.wanted, map[movement.Role]bool{}, [3]bool{}
	defer func() { t.wanted = wanted }()
	for _, x := range t.parts { // what comes with a piece is not chosen for something else before
		if x != nil {
			for i := range x.picks {
				d.used[x.picks[i].e.m.Slug] = true
			}
		}
	}
	for _, sl := range t.slots() {
		role := sl.role
		x := t.parts[sectionOf[role]]
		if x != nil && !begun[sectionOf[role]] && (sectionOf[role] != 2 || role == movement.Settle) { // a piece opens its section; one that closes comes last
			begun[sectionOf[role]] = true
			for _, p := range x.picks {
				d.add(p, first)
				first = false
			}
		}
		t.wanted = max(lightest, wanted-sl.lower)
		left := sl.share * t.target.Seconds() * t.scale
		if role == movement.Settle {
			left = max(left, leastSettle)
		}
		if x != nil && sectionOf[role] != 1 && role != movement.Counter { // the piece is all of it
			left = 0
		} else if x != nil && role == movement.Build {
			left -= x.length.Seconds()
		}
		for _, p := range t.due {
			if p.role == role && !served[role] {
				left -= p.rung.Seconds.Seconds() + overhead
			}
		}
		due := slices.DeleteFunc(slices.Clone(t.due), func(p pick) bool { return p.role != role || served[role] })
		served[role] = true
		for len(due) > 0 || left > 0 {
			if len(due) > 0 { // what is due comes where it changes position least
				i := 0
				for k := range due {
					if stepsTo(d.posture, due[k]) < stepsTo(d.posture, due[i]) {
						i = k
					}
				}
				d.add(due[i], first)
				first = false
				due = slices.Delete(due, i, i+1)
				continue
			}
			p, ok := t.best(d, role, left, first)
			if !ok {
				break
			}
			took := p.rung.Seconds.Seconds() + overhead
			if took > left*1.6+15 && role != movement.Settle && len(d.picks) > 0 {
				break
			}
			d.add(p, first)
			if t.mem.led[p.e.m.Slug] == 0 {
				d.news++
			}
			first = false
			left -= took
			if left < 18 {
				break
			}
		}
	}
	return d
}

func stepsTo(from movement.Posture, p pick) int {
	return from.WayTo(p.e.m.As(p.rung.Level).Posture).Steps
}

// add puts a row at the end.
func (d *draft) add(p pick, first bool) {
	v := p.e.m.As(p.rung.Level)
	if !first {
		was, now := d.posture.OnFloor(), v.Posture.OnFloor()
		if was && !now {
			d.rises++
		}
		if !was && now {
			d.falls++
		}
	}
	d.picks = append(d.picks, p)
	d.posture = v.Leaves()
	d.patterns[p.e.m.Pattern]++
	d.used[p.e.m.Slug] = true
	for _, dir := range v.Spine {
		d.spine[dir] = true
	}
	seconds := p.rung.Seconds.Seconds()
	if v.Posture == movement.Supine {
		d.back += seconds
	} else {
		d.back = 0
	}
	switch {
	case slices.Contains(v.Spine, movement.Backward) || p.role == movement.Settle:
		d.forward = 0
	case slices.Contains(v.Spine, movement.Forward) && !v.Stretch:
		d.forward += seconds
	}
}

// best is the movement with the most points for a role, given the time left; ok is false where there is none.
func (t *task) best(d *draft, role movement.Role, left float64, first bool) (out pick, ok bool) {
	most := math.MinInt
	for _, e := range t.pool {
		if d.used[e.m.Slug] || t.bars[e.m.Slug] || !slices.Contains(e.roles, role) {
			continue
		}
		if limit := patternLimit(e.m.Pattern); t.day.Kind != Stretch && d.patterns[e.m.Pattern] >= limit && role != movement.Settle {
			continue
		}
		if n := len(d.picks); n >= 2 && d.picks[n-1].e.m.Pattern == e.m.Pattern && d.picks[n-2].e.m.Pattern == e.m.Pattern && e.m.Pattern != "rest" {
			continue // three of one kind in a row
		}
		for i := range e.variants {
			v := &e.variants[i]
			points, because, can := t.points(d, e, v, role, left, first)
			if can && points > most {
				most, ok = points, true
				out = pick{e: e, rung: v.rung, role: role, because: because}
			}
		}
	}
	return out, ok
}

func patternLimit(pattern string) int {
	if pattern == "curl" {
		return mostCurls
	}
	return mostOfPattern
}

// points weighs a movement at a level for a role; can is false where it may not come here.
func (t *task) points(d *draft, e *entry, v *variant, role movement.Role, left float64, first bool) (points int, because string, can bool) {
	m := e.m.As(v.level)
	seconds := v.rung.Seconds.Seconds()
	if seconds+overhead > left*1.6+25 {
		return 0, "", false
	}
	now, will := d.posture.OnFloor(), m.Posture.OnFloor()
	if !first && now != will {
		if d.rises+d.falls >= standingGap {
			return 0, "", false
		}
	}
	if m.Posture == movement.Supine && d.back+seconds > backSeconds && t.b.Audience.Has(movement.Expecting|movement.ExpectingSecond|movement.ExpectingLast) {
		return 0, "", false
	}
	if t.day.Kind == Stretch && v.rung.Demand > stretchDemand {
		return 0, "", false
	}
	if e.m.Pattern == "over" && t.day.Hard == Soft { // three slow ones are little load, and no easy day
		return 0, "", false
	}
	met := t.mem.led[e.m.Slug]
	if v.level > met+1 && v.rung.Demand >= 4 || v.skill == 3 && t.day.Hard == Soft {
		return 0, "", false
	}
	if share := float64(len(t.mem.days)) / float64(max(1, len(t.mem.days)+t.last+1)); v.skill == 3 && share < 1./3 && !t.b.Audience.Has(movement.Able) {
		return 0, "", false // advanced work in the first third
	}
	for _, need := range e.m.NeedsAt(v.level) {
		if t.mem.led[need.Slug] < need.Level && v.skill > 1 && len(t.mem.days) > 0 && !t.b.Audience.Has(movement.Able) {
			if !d.used[need.Slug] {
				return 0, "", false
			}
		}
	}
	if d.forward > forwardSeconds && slices.Contains(m.Spine, movement.Forward) && !m.Stretch && role != movement.Settle {
		return 0, "", false
	}
	because = string(role)
	theme := slices.Contains(e.themes, t.day.Theme)
	building := role == movement.Build || role == movement.Peak
	switch {
	case theme:
		points += pointsTheme
		because += ", for " + t.day.Theme
	case slices.ContainsFunc(e.themes, func(th string) bool { return slices.Contains(t.b.Focus, th) }):
		points += pointsFocus
	}
	if role == movement.Peak { // the peak is about the day, and asks for something
		if !theme {
			points -= 2 * pointsTheme
		}
		if v.skill < 2 {
			points -= pointsTheme
		}
	}
	want := t.want(role)
	off := v.rung.Demand - want
	if building || off > 0 {
		points -= int(off * off * pointsDemand)
	}
	if !first {
		points -= pointsChange * d.posture.WayTo(m.Posture).Steps
	}
	if n := len(d.picks); n > 0 {
		before := d.picks[n-1].e.m
		if slices.Contains(before.Leads, e.m.Slug) {
			points += pointsFlow
		}
		if role == movement.Counter && slices.ContainsFunc(d.picks, func(p pick) bool { return slices.Contains(p.e.m.Gives, e.m.Slug) }) {
			points += pointsGives
			because += ", gives back"
		}
	}
	if d.forward > 20 && slices.Contains(m.Spine, movement.Backward) {
		points += pointsGives / 2
	}
	for i, day := range t.mem.lastDays(6) {
		if day[e.m.Slug] {
			points -= pointsWeek
			if i == len(t.mem.lastDays(6))-1 {
				points -= pointsDay
			}
		}
	}
	if met == 0 && len(t.mem.days) > 0 {
		most := t.b.New
		if most < 0 {
			most = newLater
		}
		switch {
		case t.last < lastNewDays:
			points -= 2 * pointsNew
		case d.news >= most:
			points -= pointsNew * (d.news - most + 1)
		}
		because += ", new"
	}
	for _, dir := range m.Spine {
		missing := len(t.mem.bent) >= 3 && !d.spine[dir]
		for _, day := range t.mem.bent[max(0, len(t.mem.bent)-3):] {
			missing = missing && !day[dir]
		}
		if missing {
			points += pointsSpine
			because += ", " + directionWords[dir] + " was missing"
		}
	}
	return points + t.jitter(e.m.Slug, v.level), because, true
}

var directionWords = map[movement.Direction]string{movement.Forward: "bending forward", movement.Backward: "bending back", movement.Sideways: "side bending", movement.Turned: "turning"}

// want is the demand that a role asks for.
func (t *task) want(role movement.Role) float64 {
	switch role {
	case movement.Arrive:
		return .6
	case movement.Mobilise:
		return min(1.6, t.wanted)
	case movement.Wake:
		return min(2.6, t.wanted)
	case movement.Peak:
		return t.wanted + 1.2
	case movement.Counter:
		return min(1.8, t.wanted)
	case movement.Settle:
		return .5
	}
	return t.wanted
}

// jitter is what the seed adds.
func (t *task) jitter(slug string, level int) int {
	h := fnv.New64a()
	_, _ = h.Write([]byte(strconv.FormatUint(t.seed, 16) + "/" + strconv.Itoa(t.day.N) + "/" + strconv.Itoa(t.vary) + "/" + slug + "/" + strconv.Itoa(level)))
	return int(h.Sum64() % noise)
}

// session makes the class of a draft; locked rows keep their dose.
func (t *task) session(d *draft) *plan.Session {
	s := &plan.Session{Format: plan.SessionFormat, Title: t.title(), Target: t.target, Audience: t.b.Audience, Style: t.style()}
	titles := []string{"Arrive", "Build", "Settle"}
	for i, title := range titles {
		picks := slices.DeleteFunc(slices.Clone(d.picks), func(p pick) bool { return sectionOf[p.role] != i || p.piece })
		blocks := t.blocks(picks, i == 1)
		switch x := t.parts[i]; {
		case x != nil && i == 2:
			blocks = append(blocks, x.blocksOf()...)
		case x != nil:
			blocks = append(x.blocksOf(), blocks...)
		}
		if len(blocks) > 0 {
			s.Sections = append(s.Sections, plan.Section{Title: title, Blocks: blocks})
		}
	}
	var kit []string
	for _, p := range d.picks {
		for _, k := range p.e.m.KitAt(p.rung.Level) {
			if !k.Optional && !slices.Contains(kit, k.Name) {
				kit = append(kit, k.Name)
			}
		}
	}
	if len(kit) > 0 {
		s.Note = "Have ready: " + strings.Join(kit, ", ") + "."
	}
	return s
}

// blocks are the rows of a section. The building part may be a circuit, behind what must keep its dose, or have chains: neighbours that are
// done on one side each, in one position, where one side through was asked for.
func (t *task) blocks(picks []pick, building bool) (out []plan.Block) {
	on, off := t.onOff()
	var rows, stations []plan.Row
	flush := func() {
		if len(rows) > 0 {
			out = append(out, plan.Block{Rule: plan.Straight, Rounds: 1, Rows: rows})
		}
		rows = nil
	}
	for k := 0; k < len(picks); k++ {
		if n := t.chain(picks[k:]); building && n > 1 {
			flush()
			var chained []plan.Row
			for _, p := range picks[k : k+n] {
				chained = append(chained, rowOf(p))
			}
			out = append(out, plan.Block{Rule: plan.Chain, Rounds: 1, Rows: chained})
			k += n - 1
			continue
		}
		if building && on > 0 && (!picks[k].fixed || picks[k].station) {
			stations = append(stations, rowOf(picks[k]))
			continue
		}
		rows = append(rows, rowOf(picks[k]))
	}
	if len(stations) == 1 { // one alone is no circuit
		rows, stations = append(rows, stations...), nil
	}
	flush()
	if len(stations) > 0 {
		out = append(out, t.circuit(stations, on, off))
	}
	return out
}

func rowOf(p pick) plan.Row {
	if p.row != nil { // it stays; fitting must not change it
		r := *p.row
		r.Locked = true
		return r
	}
	return plan.Row{Movement: p.e.m.Slug, Level: p.rung.Level, Dose: p.rung.Dose, Locked: p.fixed, Note: p.note}
}

// chain is how many of the first picks make a chain; 1 or less: none.
func (t *task) chain(picks []pick) (n int) {
	if !t.b.Chained || t.b.Shape == brief.Intervals || picks[0].row != nil {
		return 0
	}
	for _, p := range picks[:min(len(picks), longestChain)] {
		v := p.e.m.As(p.rung.Level)
		if v.Sides != movement.Each || p.row != nil || n > 0 && v.Posture != picks[0].e.m.As(picks[0].rung.Level).Posture {
			break
		}
		n++
	}
	return n
}

// onOffs are the times on and off by which a circuit gets harder (common practice).
var onOffs = [][2]clock.Span{{30 * clock.Second, 30 * clock.Second}, {35 * clock.Second, 25 * clock.Second}, {40 * clock.Second, 20 * clock.Second}, {45 * clock.Second, 15 * clock.Second}}

// gentleOnOff is the hardest of them for beginners, older people and those who expect or have given birth.
const gentleOnOff = 1

// onOff are the times of the day's circuit; zero where the brief asks for none. They rise over the series, and are the first on a soft day.
func (t *task) onOff() (on, off clock.Span) {
	if t.b.Shape != brief.Intervals {
		return 0, 0
	}
	k := 0
	if done := len(t.mem.days); t.day.Hard != Soft {
		k = min(len(onOffs)-1, done*len(onOffs)/max(1, done+t.last+1))
		if t.b.Audience.Has(movement.Beginners | movement.Older | movement.AnyExpecting | movement.SinceBirth) {
			k = min(k, gentleOnOff)
		}
	}
	return onOffs[k][0], onOffs[k][1]
}

// circuit is the building part as rounds by the clock, as many as its time takes.
func (t *task) circuit(rows []plan.Row, on, off clock.Span) plan.Block {
	rows = rows[:min(len(rows), mostStations)]
	for i := range rows {
		if !rows[i].Locked {
			rows[i].Dose, rows[i].Locked = dose.Dose{}, true
		}
	}
	share := t.shares()
	time := (share[movement.Build] + share[movement.Peak]) * t.target.Seconds() * t.scale
	rounds := max(1, int(time/((on+off).Seconds()*float64(len(rows)))+.5))
	return plan.Block{Rule: plan.Rounds, Rounds: rounds, On: on, Off: off, Rows: rows}
}

func (t *task) title() string {
	if t.day.Theme == "" {
		return "Day " + strconv.Itoa(t.day.N)
	}
	return "Day " + strconv.Itoa(t.day.N) + ", " + t.day.Theme
}

func (t *task) style() (out plan.Style) {
	out.First = plan.FirstByDay
	switch t.b.WarmUp {
	case "assumed":
		out.WarmUp = plan.WarmUpAssumed
	case "included":
		out.WarmUp = plan.WarmUpInside
	}
	if t.b.Hardest == brief.Finisher {
		out.Peak = plan.PeakAtEnd
	}
	if t.b.Chained {
		out.Sides = plan.SidesInChain
	}
	if t.b.Classical {
		out.Order = plan.ClassicalOrder
	}
	return out
}

// doseOf is a dose, or the usual one of a level.
func doseOf(m *movement.Movement, level int, d dose.Dose) dose.Dose {
	if d.IsZero() {
		return m.As(level).Dose
	}
	return d
}

// odd counts what a teacher would not do, although no rule of the second look speaks of it: three of one kind in a row, getting down and up
// and down again.
func odd(s *plan.Session, lib *movement.Library) (n int) {
	var before movement.Posture
	var kinds [2]string
	changes, first := 0, true
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		m, ok := lib.Get(r.Movement)
		if !ok {
			return
		}
		v := m.As(max(1, r.Level))
		if !first && v.Posture.OnFloor() != before.OnFloor() {
			changes++
		}
		if !m.Stretch && m.Pattern != "rest" && m.Pattern != "breathe" && m.Pattern != "" && m.Pattern == kinds[0] && m.Pattern == kinds[1] {
			n++
		}
		kinds[0], kinds[1] = kinds[1], m.Pattern
		before, first = v.Leaves(), false
	})
	return n + max(0, changes-standingGap-1)
}
