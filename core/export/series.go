package export

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"wavekine/core/group"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/series"
	"wavekine/core/timeline"
)

// SeriesDay is a day of a series with what is told of it.
type SeriesDay struct {
	N       int
	Date    time.Time // zero where it has none
	Title   string
	Theme   string
	Kind    string // work, easy, rest, stretch; "" where nothing is said
	Rest    bool
	Peak    bool
	Off     bool // called off
	Minutes int
	Load    float64
	Class   *plan.Session // nil: none
	TL      *timeline.Timeline
	Kit     []movement.Thing
	New     []string // names of movements that come for the first time
	Harder  []string // what asks for more than the last time, in words
	Note    string
}

// Name is the day's title without the number that it may begin with.
func (d *SeriesDay) Name() string {
	if short, ok := strings.CutPrefix(d.Title, "Day "+strconv.Itoa(d.N)+", "); ok && short != "" {
		return short
	}
	return d.Title
}

// class tells whether there is something to come to.
func (d *SeriesDay) class() bool { return !d.Rest && !d.Off && (d.Class != nil || d.Title != "") }

// seenRow is how a movement was done the last time.
type seenRow struct {
	level, amount int
	unit          movement.Unit
}

// DaysOf works out the days of a series on the dates of a group, or on its own from its start where g is nil. Days that name a session kept elsewhere have no
// class unless it is given in kept. Cost grows with days x rows.
func DaysOf(s *plan.Series, g *group.Group, lib *movement.Library, kept map[string]*plan.Session) ([]SeriesDay, error) {
	dates := map[int]group.Dated{}
	if g != nil {
		ds, err := g.Dates(s)
		if err != nil {
			return nil, err
		}
		for _, d := range ds {
			dates[d.Day] = d
		}
	}
	last := map[string]seenRow{}
	out := make([]SeriesDay, len(s.Days))
	for i := range s.Days {
		d := &s.Days[i]
		x := SeriesDay{N: i + 1, Title: d.Title, Theme: d.Theme, Kind: d.Kind, Rest: d.Rest, Peak: d.Peak, Note: d.Note, Class: d.Session}
		if g == nil {
			x.Date = s.Date(i)
		} else if on, ok := dates[i+1]; ok {
			x.Date, x.Off = on.Date, on.Off
		}
		if x.Class == nil && d.Ref != "" {
			x.Class = kept[d.Ref]
		}
		if x.Class != nil {
			x.Class = x.Class.ForDay(i + 1)
			if x.Title == "" {
				x.Title = x.Class.Title
			}
			tl, err := timeline.Build(x.Class, lib)
			if err != nil {
				return nil, fmt.Errorf("day %d: %w", i+1, err)
			}
			x.TL, x.Load, x.Kit = tl, series.Load(tl), tl.KitOf()
			length := x.Class.Target
			if length == 0 {
				length = tl.Total
			}
			x.Minutes = int(length.Seconds()/60 + .5)
			x.compare(lib, last)
		} else if !d.Rest {
			x.Minutes = s.Minutes
		}
		out[i] = x
	}
	return out, nil
}

// compare notes what is new and what asks for more than the last time.
func (d *SeriesDay) compare(lib *movement.Library, last map[string]seenRow) {
	said := map[string]bool{}
	d.Class.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
		m, ok := lib.Get(r.Movement)
		slug := movement.BaseSlug(r.Movement)
		if r.IsRest() || r.Inline != nil || !ok || said[slug] {
			return
		}
		said[slug] = true
		now := seenRow{level: min(max(1, r.Level), len(m.Levels))}
		now.amount, now.unit, _ = movement.Amount(r.DoseOf(m))
		was, seen := last[slug]
		last[slug] = now
		switch {
		case !seen:
			d.New = append(d.New, m.Name)
		case m.Rest || b.On > 0 || d.Kind == "easy" || d.Kind == "stretch":
		case now.level > was.level:
			d.Harder = append(d.Harder, fmt.Sprintf("%s: %s, %s", m.Name, m.At(now.level).Changes, r.DoseOf(m)))
		case now.level == was.level && now.unit == was.unit && now.amount > was.amount:
			d.Harder = append(d.Harder, fmt.Sprintf("%s: %s", m.Name, r.DoseOf(m)))
		}
	})
}

// KitSaid says what a day takes: "2 blocks (or thick books), chair; good to have: cushion".
func KitSaid(things []movement.Thing) string {
	var need, good []string
	for _, k := range things {
		if k.Optional {
			good = append(good, strings.TrimSuffix(k.String(), ", optional"))
		} else {
			need = append(need, k.String())
		}
	}
	out := strings.Join(need, ", ")
	if len(good) > 0 {
		if out == "" {
			out = "nothing that it needs"
		}
		out += "; good to have: " + strings.Join(good, ", ")
	}
	return out
}

// Wording is how a house announces a series: lines with places in braces. A line of which every place is empty is left out.
type Wording struct {
	Day    string `json:"day,omitempty"`
	Week   string `json:"week,omitempty"`
	Series string `json:"series,omitempty"`
	// Letters to movers: the invitation with the link, the reminder on the day, the word for the week, and the one when days were missed.
	Invite string `json:"invite,omitempty"`
	Remind string `json:"remind,omitempty"`
	Weekly string `json:"weekly,omitempty"`
	Missed string `json:"missed,omitempty"`
}

// WordingNames are what a house words itself, in the order of Texts.
var WordingNames = [...]string{"day", "week", "series", "invite", "remind", "weekly", "missed"}

// Texts are the texts of a wording, in the order of WordingNames.
func (w *Wording) Texts() [len(WordingNames)]*string {
	return [...]*string{&w.Day, &w.Week, &w.Series, &w.Invite, &w.Remind, &w.Weekly, &w.Missed}
}

// parts are the texts of a wording with those of another.
func (w *Wording) parts(o *Wording) (out [len(WordingNames)][2]*string) {
	mine, theirs := w.Texts(), o.Texts()
	for i := range out {
		out[i] = [2]*string{mine[i], theirs[i]}
	}
	return out
}

// Whole is the wording with the usual text where it has none of its own.
func (w Wording) Whole() Wording {
	usual := UsualWording()
	for _, p := range w.parts(&usual) {
		if *p[0] == "" {
			*p[0] = *p[1]
		}
	}
	return w
}

// Own is the wording without what is as usual.
func (w Wording) Own() Wording {
	usual := UsualWording()
	for _, p := range w.parts(&usual) {
		if *p[0] == *p[1] {
			*p[0] = ""
		}
	}
	return w
}

// Places lists what a wording of a day, a week or a series may have in braces.
func Places(of string) []string { return slices.Clone(places[of]) }

// UsualWording is the house's wording where it has none of its own.
func UsualWording() Wording {
	return Wording{
		Day:    "Day {day} of {of}: {title}\n{date}\n{minutes}{about}\nBring: {kit}\nNew: {new}\nMore than last time: {harder}\n{note}\n{yesterday}. {tomorrow}.\n{care}",
		Week:   "Week {week}: {classes}, {minutes} in all\nAbout: {themes}\nBring: {kit}\nNew: {new}\nThe hardest: {peak}",
		Series: "{title}\n{days} from {from} to {to}: {classes}, {minutes} in all\nAbout: {themes}\nBring: {kit}\nTo learn: {learn}\n{note}\n{care}",
		Invite: "Your page for {series}\n\nHello {name},\n\n{series} begins on {from}. This is your own page; nobody else has its address, so please keep it to yourself:\n{link}\n\nIt shows each day as it is meant for you, leads you through it, and takes a word on how it went. Once opened it works without the network.\n\n{care}\n\n{teacher}, {studio}",
		Remind: "Today: {title}\n\nHello {name},\n\n{announcement}\n\nYour page: {link}\n\n{teacher}, {studio}",
		Weekly: "Your week in {series}\n\nHello {name},\n\n{announcement}\n\nYour page: {link}\n\n{teacher}, {studio}",
		Missed: "We missed you\n\nHello {name},\n\nYou have not been there for {days}. On your page you can see what there is to do about it, and what it would change, before you choose:\n{link}\n\n{teacher}, {studio}",
	}
}

// places are what a wording may have.
var places = map[string][]string{
	"day":    {"day", "of", "title", "date", "minutes", "about", "kit", "new", "harder", "note", "yesterday", "tomorrow", "care"},
	"week":   {"week", "classes", "minutes", "themes", "kit", "new", "peak"},
	"series": {"title", "days", "from", "to", "classes", "minutes", "themes", "kit", "learn", "note", "care"},
	"invite": {"name", "series", "from", "link", "teacher", "studio", "care"},
	"remind": {"name", "series", "title", "announcement", "link", "teacher", "studio", "care"},
	"weekly": {"name", "series", "announcement", "link", "teacher", "studio", "care"},
	"missed": {"name", "series", "days", "link", "teacher", "studio", "care"},
}

// maxWording is how long a wording may be, in characters.
const maxWording = 2000

// Check tells which place of a wording is not one.
func (w Wording) Check() error {
	for i, text := range w.Texts() {
		part := struct{ name, text string }{WordingNames[i], *text}
		if len([]rune(part.text)) > maxWording {
			return fmt.Errorf("the wording of a %s is longer than %d characters", part.name, maxWording)
		}
		rest := part.text
		for {
			from := strings.IndexByte(rest, '{')
			if from < 0 {
				break
			}
			to := strings.IndexByte(rest[from:], '}')
			if to < 0 {
				return fmt.Errorf("the wording of a %s: a { without its }", part.name)
			}
			if p := rest[from+1 : from+to]; !slices.Contains(places[part.name], p) {
				return fmt.Errorf("the wording of a %s: {%s} is not known: expected {%s}", part.name, p, strings.Join(places[part.name], "}, {"))
			}
			rest = rest[from+to+1:]
		}
	}
	return nil
}

// filled puts values into a wording, line by line.
func filled(wording string, values map[string]string) string {
	var out []string
	for line := range strings.Lines(wording) {
		line = strings.TrimRight(line, "\r\n")
		any, all := false, true
		var pairs []string
		for p, v := range values {
			if strings.Contains(line, "{"+p+"}") {
				any, all = true, all && v == ""
				pairs = append(pairs, "{"+p+"}", v)
			}
		}
		if any && all || strings.TrimSpace(line) == "" {
			continue
		}
		out = append(out, strings.TrimSpace(strings.NewReplacer(pairs...).Replace(line)))
	}
	return strings.Join(out, "\n")
}

// Letter is a letter in a house's wording: its first line is the subject, what follows the words. Places without a value are left out; {link} stays in it, to be put in when it is sent.
func Letter(wording string, values map[string]string) (subject, words string) {
	pairs := []string{"{care}", care}
	for p, v := range values {
		pairs = append(pairs, "{"+p+"}", v)
	}
	text := strings.NewReplacer(pairs...).Replace(wording)
	subject, words, _ = strings.Cut(text, "\n")
	subject = strings.Join(strings.Fields(subject), " ")
	var out []string
	empty := true // more than one empty line is one
	for line := range strings.Lines(words) {
		line = strings.TrimRight(line, " \r\n")
		if line == "" && empty {
			continue
		}
		empty = line == ""
		out = append(out, line)
	}
	return subject, strings.TrimSpace(strings.Join(out, "\n")) + "\n"
}

// Announcements are the texts by which a series is announced, plain: of the whole, of each week and of each day that has a class.
type Announcements struct {
	Series string
	Weeks  []string
	Days   []DayText
}

// DayText is the text of a day.
type DayText struct {
	N    int
	Week int // from 1
	Text string
}

// Counted says how many there are: "1 day", "3 days".
func Counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return strconv.Itoa(n) + " " + many
}

const care = "Stop if it hurts; ask whoever treats you."

// Announce writes them, for a group or, where it is nil, for the series on its own dates. Weeks are of seven days of the series, by date where the days have one.
func Announce(s *plan.Series, g *group.Group, days []SeriesDay, w Wording, lib *movement.Library) Announcements {
	var out Announcements
	short := func(d *SeriesDay) string {
		switch {
		case d.Off:
			return d.Name() + ", called off"
		case d.Rest || !d.class():
			return "rest"
		}
		return strings.TrimSuffix(fmt.Sprintf("%s, %d min", d.Name(), d.Minutes), ", 0 min")
	}
	beside := func(i, step int) string { // the day before or after, or the class before or after where those are further apart
		near, far, none := "Yesterday", "Last time", "The first day"
		if step > 0 {
			near, far, none = "Tomorrow", "Next", "The last day"
		}
		for j := i + step; j >= 0 && j < len(days); j += step {
			d := &days[j]
			switch {
			case d.Date.IsZero() && j == i+step && d.Rest && (g == nil || len(g.Weekdays) == 0):
				return near + ": rest"
			case d.Date.IsZero() || days[i].Date.IsZero():
				continue
			case d.Date.Sub(days[i].Date).Abs() <= 24*time.Hour:
				return near + ": " + short(d)
			case !d.class():
				continue
			}
			return fmt.Sprintf("%s, on %s: %s", far, d.Date.Format("Monday 2 January"), short(d))
		}
		return none
	}
	type sums struct {
		classes, minutes int
		themes, news     []string
		things           []movement.Thing
		peak             string
	}
	add := func(x *sums, d *SeriesDay) {
		x.classes++
		x.minutes += d.Minutes
		if d.Theme != "" && !slices.Contains(x.themes, d.Theme) {
			x.themes = append(x.themes, d.Theme)
		}
		for _, k := range d.Kit {
			if j := slices.IndexFunc(x.things, func(o movement.Thing) bool { return o.Name == k.Name }); j >= 0 {
				x.things[j].Count, x.things[j].Optional = max(x.things[j].Count, k.Count), x.things[j].Optional && k.Optional
			} else {
				x.things = append(x.things, k)
			}
		}
		x.news = append(x.news, d.New...)
		if d.Peak {
			x.peak = "day " + strconv.Itoa(d.N)
		}
	}
	var all sums
	weeks := []sums{}
	weekOf := func(i int) int { return i / 7 }
	if len(days) > 0 && !days[0].Date.IsZero() {
		first := days[0].Date
		weekOf = func(i int) int {
			if days[i].Date.IsZero() {
				return -1
			}
			return max(0, int(days[i].Date.Sub(first).Hours()/24)/7)
		}
	}
	for i := range days {
		d := &days[i]
		k := weekOf(i)
		if !d.class() || k < 0 {
			continue
		}
		for len(weeks) <= k {
			weeks = append(weeks, sums{})
		}
		add(&weeks[k], d)
		add(&all, d)
		v := map[string]string{
			"day": strconv.Itoa(d.N), "of": strconv.Itoa(len(days)), "title": d.Name(), "minutes": "", "about": "", "kit": KitSaid(d.Kit), "new": strings.Join(d.New, ", "),
			"harder": strings.Join(d.Harder, "; "), "note": d.Note, "yesterday": beside(i, -1), "tomorrow": beside(i, 1), "care": care, "date": "",
		}
		if d.N == 1 { // all of it is
			v["new"] = ""
		}
		if d.Minutes > 0 {
			v["minutes"] = strconv.Itoa(d.Minutes) + " min"
		}
		switch {
		case d.Peak:
			v["about"] = ", the hardest day"
		case d.Kind == "easy":
			v["about"] = ", an easy day"
		case d.Kind == "stretch":
			v["about"] = ", a day to stretch"
		}
		if !d.Date.IsZero() {
			v["date"] = d.Date.Format("Monday 2 January")
		}
		out.Days = append(out.Days, DayText{d.N, k + 1, filled(w.Day, v)})
	}
	for k := range weeks {
		x := &weeks[k]
		if x.classes == 0 {
			out.Weeks = append(out.Weeks, "")
			continue
		}
		news := x.news
		if k == 0 {
			news = nil
		}
		out.Weeks = append(out.Weeks, filled(w.Week, map[string]string{
			"week": strconv.Itoa(k + 1), "classes": Counted(x.classes, "class", "classes"), "minutes": Counted(x.minutes, "minute", "minutes"),
			"themes": strings.Join(x.themes, ", "), "kit": KitSaid(x.things), "new": strings.Join(news, ", "), "peak": x.peak,
		}))
	}
	learn := Learned(s, lib)
	from, to := "", ""
	for i := range days {
		if d := &days[i]; d.class() && !d.Date.IsZero() {
			if from == "" {
				from = d.Date.Format("2 January 2006")
			}
			to = d.Date.Format("2 January 2006")
		}
	}
	out.Series = filled(w.Series, map[string]string{
		"title": s.Title, "days": Counted(len(days), "day", "days"), "from": from, "to": to, "classes": Counted(all.classes, "class", "classes"), "minutes": Counted(all.minutes, "minute", "minutes"),
		"themes": strings.Join(all.themes, ", "), "kit": KitSaid(all.things), "learn": strings.Join(learn, ", "), "note": "", "care": care,
	})
	return out
}

// Learned names what is learned over a series.
func Learned(s *plan.Series, lib *movement.Library) (out []string) {
	for i := range s.Ladders {
		out = append(out, nameOf(lib, s.Ladders[i].Movement))
	}
	return out
}

// mostTakeHome is how many movements one does at home; judgement.
const mostTakeHome = 8

// TakeHomeOf is a sheet of a few movements, each as it was done last in the series.
func TakeHomeOf(s *plan.Series, days []SeriesDay, slugs []string, lib *movement.Library) (Sheet, error) {
	if len(slugs) == 0 {
		return Sheet{}, fmt.Errorf("which movements? up to %d of the series", mostTakeHome)
	}
	if len(slugs) > mostTakeHome {
		return Sheet{}, fmt.Errorf("%d movements: at most %d go home", len(slugs), mostTakeHome)
	}
	block := plan.Block{Rule: plan.Straight, Rounds: 1}
	for _, slug := range slugs {
		found := false
		for i := len(days) - 1; i >= 0 && !found; i-- {
			if days[i].Class == nil {
				continue
			}
			days[i].Class.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
				if !found && movement.BaseSlug(r.Movement) == slug && b.On == 0 {
					found = true
					block.Rows = append(block.Rows, *r)
				}
			})
		}
		if !found {
			return Sheet{}, fmt.Errorf("%q is not in the series, or only by the clock", slug)
		}
	}
	class := &plan.Session{Title: s.Title + ", to do at home", Sections: []plan.Section{{Title: "At home", Blocks: []plan.Block{block}}}}
	if r := []rune(class.Title); len(r) > plan.MaxTitle {
		class.Title = "To do at home"
	}
	tl, err := timeline.Build(class, lib)
	if err != nil {
		return Sheet{}, err
	}
	return SheetOf(class, tl, lib), nil
}

func nameOf(lib *movement.Library, slug string) string {
	if m, ok := lib.Get(slug); ok {
		return m.Name
	}
	return slug
}

// Text is the announcements as plain text, the parts apart by an empty line.
func (a Announcements) Text() []byte {
	parts := []string{a.Series}
	week := 0
	for _, d := range a.Days {
		if d.Week != week {
			week = d.Week
			parts = append(parts, a.Weeks[week-1])
		}
		parts = append(parts, d.Text)
	}
	return []byte(strings.Join(parts, "\n\n") + "\n")
}

// Markdown is the announcements as Markdown: the first line of each part is its heading.
func (a Announcements) Markdown() []byte {
	var b strings.Builder
	part := func(level int, text string) {
		for i, line := range strings.Split(text, "\n") {
			switch {
			case line == "":
			case i == 0:
				fmt.Fprintf(&b, "%s %s\n\n", strings.Repeat("#", level), mdText(line))
			default:
				fmt.Fprintf(&b, "%s  \n", mdText(line))
			}
		}
		b.WriteByte('\n')
	}
	part(1, a.Series)
	week := 0
	for _, d := range a.Days {
		if d.Week != week {
			week = d.Week
			part(2, a.Weeks[week-1])
		}
		part(3, d.Text)
	}
	return []byte(strings.TrimRight(b.String(), "\n") + "\n")
}

// BoardCSV writes the board: a line of head, then kind, theme, minutes and load of each day, then a line for each movement with level and dose a day, what is learned first.
func BoardCSV(s *plan.Series, days []SeriesDay, lib *movement.Library) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	line := func(name, title string, cell func(d *SeriesDay) string) {
		rec := []string{name, title}
		for i := range days {
			rec = append(rec, cell(&days[i]))
		}
		for i := range rec {
			rec[i] = plan.GuardCell(rec[i])
		}
		_ = w.Write(rec)
	}
	line("row", "name", func(d *SeriesDay) string { return "day " + strconv.Itoa(d.N) })
	line("date", "", func(d *SeriesDay) string {
		if d.Date.IsZero() {
			return ""
		}
		return d.Date.Format(time.DateOnly)
	})
	line("kind", "", func(d *SeriesDay) string {
		switch {
		case d.Rest:
			return "rest"
		case d.Off:
			return "called off"
		case d.Peak:
			return "peak"
		}
		return d.Kind
	})
	line("theme", "", func(d *SeriesDay) string { return d.Theme })
	line("title", "", func(d *SeriesDay) string { return d.Title })
	line("minutes", "", func(d *SeriesDay) string {
		if d.TL == nil {
			return ""
		}
		return strconv.FormatFloat(float64(int(d.TL.Total.Seconds()/6+.5))/10, 'f', -1, 64)
	})
	line("load", "", func(d *SeriesDay) string {
		if d.TL == nil {
			return ""
		}
		return strconv.FormatFloat(float64(int(d.Load*10+.5))/10, 'f', -1, 64)
	})
	var order []string
	for i := range s.Ladders {
		order = append(order, movement.BaseSlug(s.Ladders[i].Movement))
	}
	cells := map[string]map[int]string{}
	for i := range days {
		if days[i].Class == nil {
			continue
		}
		days[i].Class.Each(func(_ plan.Path, blk *plan.Block, r *plan.Row) {
			m, err := r.Of(lib)
			if r.IsRest() || err != nil || m == nil {
				return
			}
			slug := r.Name()
			if r.Inline == nil {
				slug = movement.BaseSlug(r.Movement)
			}
			if cells[slug] == nil {
				cells[slug] = map[int]string{}
				if !slices.Contains(order, slug) {
					order = append(order, slug)
				}
			}
			said := DoseIn(blk, r, m)
			if len(m.Levels) > 1 {
				said = fmt.Sprintf("level %d: %s", max(1, r.Level), said)
			}
			if was := cells[slug][i]; was != "" {
				said = was + "; " + said
			}
			cells[slug][i] = said
		})
	}
	for _, slug := range order {
		line(slug, nameOf(lib, slug), func(d *SeriesDay) string { return cells[slug][d.N-1] })
	}
	w.Flush()
	return b.Bytes(), w.Error()
}
