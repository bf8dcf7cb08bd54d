package brief

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"wavekine/core/dose"
	"wavekine/core/movement"
)

// Error is a brief that was not understood, with the place.
type Error struct {
	Column   int      // in characters, from 1
	Word     string   // what was not understood; empty at the end
	Expected string   // what would have been
	Readings []string // where it could be more than one thing
}

func (e *Error) Error() string {
	if len(e.Readings) > 0 {
		return fmt.Sprintf("brief: column %d: %q could be %s: say which", e.Column, e.Word, orList(e.Readings))
	}
	return fmt.Sprintf("brief: column %d: %q: expected %s", e.Column, e.Word, e.Expected)
}

func orList(words []string) string {
	if n := len(words); n > 1 {
		return strings.Join(words[:n-1], ", ") + " or " + words[n-1]
	}
	return strings.Join(words, "")
}

// clause is a piece of the text between commas, with its column.
type clause struct {
	text string
	at   int
}

// reader reads clauses one after another; a list may go on over commas.
type reader struct {
	b     *Brief
	lib   *movement.Library
	today time.Time
	goOn  func(c clause) (bool, error) // takes the next clause as more of the list before, if it is
	said  map[string]int               // which things have been said, with the column
}

// Parse reads a brief. today gives "from wednesday" its date: the next one that comes, today among them. An error is an *Error with column and word.
func Parse(text string, lib *movement.Library, today time.Time) (*Brief, error) {
	b := &Brief{New: -1}
	if len(text) > MaxText {
		return nil, &Error{Column: MaxText, Expected: fmt.Sprintf("at most %d characters", MaxText)}
	}
	r := &reader{b: b, lib: lib, today: midnight(today), said: map[string]int{}}
	column := 1
	for _, part := range strings.Split(text, ",") {
		trimmed := strings.TrimLeft(part, " \t\n\r")
		c := clause{strings.ToLower(strings.Join(strings.Fields(trimmed), " ")), column + len([]rune(part)) - len([]rune(trimmed))}
		column += len([]rune(part)) + 1
		c.text = strings.TrimSuffix(c.text, ".")
		if c.text == "" {
			continue
		}
		if err := r.clause(c); err != nil {
			return nil, err
		}
	}
	if len(r.said) == 0 {
		return nil, &Error{Column: 1, Expected: "how many days, how long, what for: 21 days from monday, 15 min, hips"}
	}
	return b, nil
}

func midnight(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
}

// once notes that something has been said; said again, it is refused.
func (r *reader) once(what string, c clause) error {
	if at, ok := r.said[what]; ok {
		return &Error{Column: c.at, Word: c.text, Expected: fmt.Sprintf("%s once: it is said at column %d already", what, at)}
	}
	r.said[what] = c.at
	return nil
}

var (
	countWords  = map[string]int{"no": 0, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10, "twelve": 12}
	number      = `(\d+|one|two|three|four|five|six|seven|eight|nine|ten|twelve)`
	daysSaid    = regexp.MustCompile(`^` + number + ` (days?|weeks?)(?: (from .+|starting .+))?$`)
	termSaid    = regexp.MustCompile(`^` + number + ` ((?:mon|tues|wednes|thurs|fri|satur|sun)days?)(?: (from .+|starting .+))?$`)
	aWeekSaid   = regexp.MustCompile(`^` + number + ` (?:days |times |classes )?a week for ` + number + ` weeks?(?: (from .+|starting .+))?$`)
	fromSaid    = regexp.MustCompile(`^(?:from|starting)(?: on)? (.+)$`)
	minutesSaid = regexp.MustCompile(`^(?:(easy|soft)(?: days?)? )?(\d+)(?: ?(?:to|-|–) ?(\d+))? ?min(?:utes?|s)?(?: (?:a day|each|a class))?$`)
	restSaid    = regexp.MustCompile(`^rest(?: on)? (.+)$`)
	onSaid      = regexp.MustCompile(`^(?:on|every) (.+)$`)
	weekSaid    = regexp.MustCompile(`^week (\d+):? (.+)$`)
	peakSaid    = regexp.MustCompile(`^peak(?: on)? (?:day )?(\d+)$`)
	softSaid    = regexp.MustCompile(`^(?:soft|easy)(?: on)? days? (.+)$`)
	stretchOn   = regexp.MustCompile(`^(?:a )?(?:day of )?stretch(?:es|ing)?(?: on)? (?:the )?(?:last day|days? (.+))$`)
	newSaid     = regexp.MustCompile(`^(?:at most )?(\w+) new(?: movements?| ones?)?(?: a| each| per) day$`)
	learnSaid   = regexp.MustCompile(`^learn (.+)$`)
	outSaid     = regexp.MustCompile(`^(?:leave out|without|never) (.+)$`)
	withSaid    = regexp.MustCompile(`^(?:with|kit:?) (?:an? )?(.+)$`)
	everySaid   = regexp.MustCompile(`^(.+?) (every day|daily|every second day|every other day|every third day|every (\d+) days)$`)
	stretchSaid = regexp.MustCompile(`^stretch(?:es|ing)? every day (?:for )?(\d+) ?min(?:utes?)?$|^(\d+) ?min(?:utes?)? (?:of )?stretch(?:es|ing)? every day$`)
	dailySaid   = regexp.MustCompile(`^every day (.+)$`)
	testSaid    = regexp.MustCompile(`^test (.+?) on days? (.+)$`)
	levelsSaid  = regexp.MustCompile(`^levels? (\d+) to (\d+)(?: over the (?:weeks|days|series))?$`)
	countSaid   = regexp.MustCompile(`^counted in (breaths|seconds|repetitions|reps)$`)
	hardestSaid = regexp.MustCompile(`^(?:the )?hardest (in the middle|as a finisher|at the end|last)$`)
	warmSaid    = regexp.MustCompile(`^(?:the )?warm[- ]?up (included|assumed)$`)
	forSaid     = regexp.MustCompile(`^for (.+)$`)
	numberList  = regexp.MustCompile(`^(?:and )?\d+(?: and \d+)*$`)
)

// shapeWords are the ways a school of progression is said.
var shapeWords = map[string]Shape{
	"ramp": Ramp, "gradually harder": Ramp, "a bit harder every day": Ramp, "harder every day": Ramp, "a bit harder each day": Ramp,
	"same set growing": SameSet, "same set every day": SameSet, "the same set every day": SameSet, "same set every day with the dose growing": SameSet, "the same every day growing": SameSet,
	"the same set every day with the dose growing": SameSet, "different every day": Different, "something different every day": Different,
	"two long holds": TwoHolds, "two long holds a day": TwoHolds, "two long holds a day with levels 1 to 3": TwoHolds, "weekly themes": ByWeeks, "a theme a week": ByWeeks, "a theme for each week": ByWeeks,
	"wave": Wave, "three up one down": Wave, "hard-easy": Wave, "on and off": Intervals, "levels by time on and off": Intervals, "intervals": Intervals,
}

var fixedWords = map[string]func(*Brief){
	"no kit": func(b *Brief) { b.NoKit = true }, "without kit": func(b *Brief) { b.NoKit = true }, "mat only": func(b *Brief) { b.NoKit = true },
	"soft last day": func(b *Brief) { b.SoftLast = true }, "last day soft": func(b *Brief) { b.SoftLast = true }, "an easy last day": func(b *Brief) { b.SoftLast = true }, "easy last day": func(b *Brief) { b.SoftLast = true },
	"from my sessions": func(b *Brief) { b.From = FromSessions }, "from our sessions": func(b *Brief) { b.From = FromSessions }, "from the library": func(b *Brief) { b.From = FromLibrary }, "from what we taught last": func(b *Brief) { b.From = FromTaught },
	"classical order": func(b *Brief) { b.Classical = true }, "in the classical order": func(b *Brief) { b.Classical = true },
	"one side through": func(b *Brief) { b.Chained = true }, "chained": func(b *Brief) { b.Chained = true },
	"a finisher": func(b *Brief) { b.Hardest = Finisher }, "finisher": func(b *Brief) { b.Hardest = Finisher },
}

// whichThing is what a fixed word says something of, so that it is said once.
func whichThing(word string) string {
	switch {
	case strings.HasSuffix(word, "kit"), word == "mat only":
		return "kit"
	case strings.Contains(word, "last day"):
		return "the last day"
	case strings.HasPrefix(word, "from"):
		return "where it comes from"
	case strings.Contains(word, "finisher"):
		return "the hardest part"
	case strings.Contains(word, "classical"):
		return "the order"
	}
	return "the sides"
}

const expectedClause = "days, minutes, themes such as hips, kit, an audience, rest days, a shape such as ramp, peak, soft days, learn, leave out, new a day, every day, test"

// clause reads one clause.
func (r *reader) clause(c clause) error {
	if r.goOn != nil {
		if took, err := r.goOn(c); took || err != nil {
			return err
		}
		r.goOn = nil
	}
	for _, read := range []func(clause) (bool, error){r.length, r.when, r.much, r.how, r.moves, r.last} {
		if took, err := read(c); took || err != nil {
			return err
		}
	}
	return &Error{Column: c.at, Word: c.text, Expected: expectedClause}
}

func (r *reader) number(word string, c clause) (int, error) {
	if n, ok := countWords[word]; ok {
		return n, nil
	}
	n, err := strconv.Atoi(word)
	if err != nil || n < 0 {
		return 0, &Error{Column: c.at, Word: word, Expected: "a number"}
	}
	return n, nil
}

// length reads how many days there are.
func (r *reader) length(c clause) (bool, error) {
	f := aWeekSaid.FindStringSubmatch(c.text)
	kind := "a week"
	if f == nil {
		if f = termSaid.FindStringSubmatch(c.text); f != nil {
			kind = "term"
		} else if f = daysSaid.FindStringSubmatch(c.text); f != nil {
			kind = "days"
		} else {
			return false, nil
		}
	}
	if err := r.once("the number of days", c); err != nil {
		return true, err
	}
	n, err := r.number(f[1], c)
	if err != nil {
		return true, err
	}
	switch kind {
	case "a week":
		weeks, err := r.number(f[2], c)
		if err != nil {
			return true, err
		}
		if n < 1 || n > 7 {
			return true, &Error{Column: c.at, Word: f[1], Expected: "1 to 7 days a week"}
		}
		r.b.AWeek, n = n, n*weeks
	case "term":
		d, _ := weekdayOf(f[2])
		r.b.Weekdays = []time.Weekday{d}
	default:
		if strings.HasPrefix(f[2], "week") {
			n *= 7
		}
	}
	if n < 1 || n > MaxDays {
		return true, &Error{Column: c.at, Word: f[1], Expected: fmt.Sprintf("1 to %d days in all", MaxDays)}
	}
	r.b.Days = n
	if f[3] != "" {
		return true, r.start(clause{f[3], c.at + len([]rune(c.text)) - len([]rune(f[3]))})
	}
	return true, nil
}

// start reads a date.
func (r *reader) start(c clause) error {
	if err := r.once("the start", c); err != nil {
		return err
	}
	f := fromSaid.FindStringSubmatch(c.text)
	d, err := r.date(f[1], c.at+len([]rune(c.text))-len([]rune(f[1])))
	if err != nil {
		return err
	}
	r.b.Start = d
	return nil
}

var (
	slashed = regexp.MustCompile(`^(\d{1,2})[/.](\d{1,2})(?:[/.](\d{2,4}))?$`)
	yearEnd = regexp.MustCompile(` \d{1,3}$`)
)

const dateExpected = "a date such as 6 January 2027, 2027-01-06 or wednesday"

func (r *reader) date(words string, at int) (time.Time, error) {
	words = strings.TrimPrefix(words, "the ")
	switch words {
	case "today":
		return r.today, nil
	case "tomorrow":
		return r.today.AddDate(0, 0, 1), nil
	}
	if d, ok := weekdayOf(strings.TrimPrefix(words, "next ")); ok {
		day := r.today
		if strings.HasPrefix(words, "next ") {
			day = day.AddDate(0, 0, 1)
		}
		for day.Weekday() != d {
			day = day.AddDate(0, 0, 1)
		}
		return day, nil
	}
	if f := slashed.FindStringSubmatch(words); f != nil {
		return time.Time{}, &Error{Column: at, Word: words, Readings: slashReadings(f)}
	}
	title := strings.Fields(words)
	for i, w := range title {
		title[i] = strings.ToUpper(w[:1]) + w[1:]
		for _, end := range []string{"st", "nd", "rd", "th"} {
			if n, err := strconv.Atoi(strings.TrimSuffix(w, end)); err == nil && strings.HasSuffix(w, end) {
				title[i] = strconv.Itoa(n)
			}
		}
	}
	said := strings.Join(title, " ")
	for _, layout := range []string{"2 January 2006", "2 Jan 2006", "January 2 2006", "Jan 2 2006", "2006-01-02"} {
		if d, err := time.Parse(layout, said); err == nil {
			if d.Year() < 1990 || d.Year() > 2199 {
				return d, &Error{Column: at, Word: words, Expected: "a year from 1990 to 2199"}
			}
			return d, nil
		}
	}
	for _, layout := range []string{"2 January", "2 Jan", "January 2", "Jan 2"} {
		d, err := time.Parse(layout+" 2006", said+" "+strconv.Itoa(r.today.Year()))
		if err != nil { // the 29th of February comes with a leap year
			for y := r.today.Year(); err != nil && y < r.today.Year()+9; y++ {
				d, err = time.Parse(layout+" 2006", said+" "+strconv.Itoa(y))
			}
		}
		if err == nil {
			if d.Before(r.today) {
				d = d.AddDate(1, 0, 0)
			}
			return d, nil
		}
	}
	if yearEnd.MatchString(words) {
		return time.Time{}, &Error{Column: at, Word: words, Expected: "a whole year, such as 6 January 2027"}
	}
	return time.Time{}, &Error{Column: at, Word: words, Expected: dateExpected + "; there may be no such day"}
}

func slashReadings(f []string) (out []string) {
	year := ""
	if len(f[3]) == 4 {
		year = " " + f[3]
	}
	a, _ := strconv.Atoi(f[1])
	b, _ := strconv.Atoi(f[2])
	for _, dm := range [][2]int{{a, b}, {b, a}} {
		if dm[1] >= 1 && dm[1] <= 12 && dm[0] >= 1 && dm[0] <= 31 {
			if s := fmt.Sprintf("%d %s%s", dm[0], time.Month(dm[1]), year); !slices.Contains(out, s) {
				out = append(out, s)
			}
		}
	}
	if out == nil {
		out = []string{"no date: " + dateExpected}
	}
	return out
}

func weekdayOf(word string) (time.Weekday, bool) {
	word = strings.TrimSuffix(word, "s")
	for d := time.Sunday; d <= time.Saturday; d++ {
		name := weekdayName(d)
		if word == name || word == name[:3] || word == strings.TrimSuffix(name, "day")+"day" || (word == "tue" || word == "wed" || word == "thur" || word == "thu") && strings.HasPrefix(name, word) {
			return d, true
		}
	}
	return 0, false
}

// weekdayList reads "saturdays and sundays"; ok is false where a word is no weekday.
func weekdayList(words string) (out []time.Weekday, ok bool) {
	for _, w := range listed(words) {
		if w == "weekends" || w == "the weekend" || w == "weekend" {
			out = append(out, time.Saturday, time.Sunday)
			continue
		}
		d, ok := weekdayOf(w)
		if !ok {
			return nil, false
		}
		if !slices.Contains(out, d) {
			out = append(out, d)
		}
	}
	return out, len(out) > 0
}

// listed parts "a, b and c".
func listed(words string) (out []string) {
	for _, w := range regexp.MustCompile(`\s*(?:,|&|\band\b)\s*`).Split(words, -1) {
		if w = strings.TrimSpace(w); w != "" {
			out = append(out, w)
		}
	}
	return out
}

// dayList reads "7 and 14" or "1, 10 and 20".
func (r *reader) dayList(words string, c clause) (out []int, err error) {
	for _, w := range listed(words) {
		n, err := strconv.Atoi(strings.TrimPrefix(w, "day "))
		if err != nil || n < 1 || n > MaxDays {
			return nil, &Error{Column: c.at, Word: w, Expected: fmt.Sprintf("the number of a day, 1 to %d", MaxDays)}
		}
		if !slices.Contains(out, n) {
			out = append(out, n)
		}
	}
	slices.Sort(out)
	return out, nil
}

// moreDays takes further numbers after a comma.
func (r *reader) moreDays(into *[]int) func(clause) (bool, error) {
	return func(c clause) (bool, error) {
		if !numberList.MatchString(c.text) {
			return false, nil
		}
		more, err := r.dayList(c.text, c)
		if err != nil {
			return true, err
		}
		*into = append(*into, more...)
		slices.Sort(*into)
		*into = slices.Compact(*into)
		return true, nil
	}
}

// moreWeekdays takes further weekdays after a comma, each once.
func (r *reader) moreWeekdays(into *[]time.Weekday) {
	r.goOn = func(next clause) (bool, error) {
		more, ok := weekdayList(strings.TrimPrefix(next.text, "and "))
		for _, d := range more {
			if !slices.Contains(*into, d) {
				*into = append(*into, d)
			}
		}
		return ok, nil
	}
}

// when reads start, class days, rest days, peak and soft days.
func (r *reader) when(c clause) (bool, error) {
	if _, fixed := fixedWords[c.text]; fixed {
		return false, nil
	}
	switch {
	case fromSaid.MatchString(c.text):
		return true, r.start(c)
	case restSaid.MatchString(c.text):
		words := restSaid.FindStringSubmatch(c.text)[1]
		if ds, ok := weekdayList(words); ok {
			for _, d := range ds {
				if slices.Contains(r.b.Rest, d) {
					return true, &Error{Column: c.at, Word: weekdayName(d), Expected: "each rest day once"}
				}
			}
			r.b.Rest = append(r.b.Rest, ds...)
			r.said["rest"] = c.at
			r.moreWeekdays(&r.b.Rest)
			return true, nil
		}
		if num := regexp.MustCompile(`^(?:on )?days? (.+)$`).FindStringSubmatch(words); num != nil {
			ds, err := r.dayList(num[1], c)
			if err != nil {
				return true, err
			}
			r.b.RestDays = append(r.b.RestDays, ds...)
			slices.Sort(r.b.RestDays)
			r.b.RestDays = slices.Compact(r.b.RestDays)
			r.said["rest"] = c.at
			r.goOn = r.moreDays(&r.b.RestDays)
			return true, nil
		}
		return true, &Error{Column: c.at, Word: words, Expected: "rest on weekdays or on days by number: rest sundays, rest days 7 and 14"}
	case onSaid.MatchString(c.text) && !dailySaid.MatchString(c.text):
		ds, ok := weekdayList(onSaid.FindStringSubmatch(c.text)[1])
		if !ok {
			return false, nil
		}
		if err := r.once("the class days", c); err != nil {
			return true, err
		}
		if len(r.b.Weekdays) > 0 {
			return true, &Error{Column: c.at, Word: c.text, Expected: "the class days once: they are said with the number of days"}
		}
		r.b.Weekdays = ds
		r.moreWeekdays(&r.b.Weekdays)
		return true, nil
	case peakSaid.MatchString(c.text):
		if err := r.once("the peak", c); err != nil {
			return true, err
		}
		n, err := r.dayList(peakSaid.FindStringSubmatch(c.text)[1], c)
		if err != nil {
			return true, err
		}
		r.b.Peak = n[0]
		return true, nil
	case stretchOn.MatchString(c.text):
		if f := stretchOn.FindStringSubmatch(c.text); f[1] != "" {
			ds, err := r.dayList(f[1], c)
			if err != nil {
				return true, err
			}
			r.b.StretchDays = append(r.b.StretchDays, ds...)
			slices.Sort(r.b.StretchDays)
			r.b.StretchDays = slices.Compact(r.b.StretchDays)
			r.said["stretch days"] = c.at
			r.goOn = r.moreDays(&r.b.StretchDays)
			return true, nil
		}
		r.b.StretchLast = true
		return true, r.once("the last day", c)
	case softSaid.MatchString(c.text) && !minutesSaid.MatchString(c.text):
		ds, err := r.dayList(softSaid.FindStringSubmatch(c.text)[1], c)
		if err != nil {
			return true, err
		}
		r.b.Soft = append(r.b.Soft, ds...)
		slices.Sort(r.b.Soft)
		r.b.Soft = slices.Compact(r.b.Soft)
		r.said["soft days"] = c.at
		r.goOn = r.moreDays(&r.b.Soft)
		return true, nil
	}
	return false, nil
}

// much reads minutes, new movements a day, stretching.
func (r *reader) much(c clause) (bool, error) {
	if f := minutesSaid.FindStringSubmatch(c.text); f != nil {
		what, into := "the minutes", &r.b.Minutes
		if f[1] != "" {
			what, into = "the minutes of easy days", &r.b.Easy
		}
		if err := r.once(what, c); err != nil {
			return true, err
		}
		lo, _ := strconv.Atoi(f[2])
		hi := lo
		if f[3] != "" {
			hi, _ = strconv.Atoi(f[3])
		}
		if lo < 1 || hi > MaxMinutes || hi < lo {
			return true, &Error{Column: c.at, Word: c.text, Expected: fmt.Sprintf("1 to %d minutes, the fewer first", MaxMinutes)}
		}
		*into = Minutes{lo, hi}
		return true, nil
	}
	if f := newSaid.FindStringSubmatch(c.text); f != nil {
		if err := r.once("the new movements", c); err != nil {
			return true, err
		}
		n, err := r.number(f[1], c)
		if err == nil && n > maxNew {
			err = &Error{Column: c.at, Word: f[1], Expected: fmt.Sprintf("at most %d new movements a day", maxNew)}
		}
		r.b.New = n
		return true, err
	}
	if f := stretchSaid.FindStringSubmatch(c.text); f != nil {
		if err := r.once("the daily stretching", c); err != nil {
			return true, err
		}
		n, _ := strconv.Atoi(f[1] + f[2])
		if n < 1 || n > MaxMinutes {
			return true, &Error{Column: c.at, Word: c.text, Expected: fmt.Sprintf("1 to %d minutes", MaxMinutes)}
		}
		r.b.Stretch = n
		return true, nil
	}
	return false, nil
}

// how reads shapes, fixed words and the house's ways.
func (r *reader) how(c clause) (bool, error) {
	if s, ok := shapeWords[c.text]; ok {
		r.b.Shape = s
		return true, r.once("the shape", c)
	}
	if do, ok := fixedWords[c.text]; ok {
		if err := r.once(whichThing(c.text), c); err != nil {
			return true, err
		}
		do(r.b)
		return true, nil
	}
	if f := levelsSaid.FindStringSubmatch(c.text); f != nil {
		from, _ := strconv.Atoi(f[1])
		to, _ := strconv.Atoi(f[2])
		if from < 1 || to <= from || to > maxLevel {
			return true, &Error{Column: c.at, Word: c.text, Expected: fmt.Sprintf("levels that rise, from 1 to %d at most: levels 1 to 3", maxLevel)}
		}
		r.b.Levels = [2]int{from, to}
		return true, r.once("the levels", c)
	}
	if f := countSaid.FindStringSubmatch(c.text); f != nil {
		r.b.Count = strings.Replace(f[1], "reps", "repetitions", 1)
		return true, r.once("what is counted", c)
	}
	if f := hardestSaid.FindStringSubmatch(c.text); f != nil {
		r.b.Hardest = f[1]
		if f[1] == "at the end" || f[1] == "last" {
			r.b.Hardest = Finisher
		}
		return true, r.once("the hardest part", c)
	}
	if f := warmSaid.FindStringSubmatch(c.text); f != nil {
		r.b.WarmUp = f[1]
		return true, r.once("the warm-up", c)
	}
	return false, nil
}

// moves reads what names movements.
func (r *reader) moves(c clause) (bool, error) {
	if f := learnSaid.FindStringSubmatch(c.text); f != nil {
		r.said["learn"] = c.at
		from := len(r.b.Learn)
		if err := r.learn(f[1], c, from); err != nil {
			return true, err
		}
		r.moreMoves(func(words string, c clause) error { return r.learn(words, c, from) })
		return true, nil
	}
	if f := outSaid.FindStringSubmatch(c.text); f != nil && f[1] != "kit" {
		r.said["leave out"] = c.at
		take := func(words string, c clause) error {
			for _, w := range listed(words) {
				m, err := r.move(w, c)
				if err != nil {
					return err
				}
				if len(r.b.LeaveOut) >= maxMoves {
					return &Error{Column: c.at, Word: w, Expected: fmt.Sprintf("at most %d movements to leave out", maxMoves)}
				}
				if !slices.Contains(r.b.LeaveOut, m.Slug) {
					r.b.LeaveOut = append(r.b.LeaveOut, m.Slug)
				}
			}
			return nil
		}
		r.moreMoves(take)
		return true, take(f[1], c)
	}
	if f := testSaid.FindStringSubmatch(c.text); f != nil {
		return true, r.test(f, c)
	}
	if f := dailySaid.FindStringSubmatch(c.text); f != nil {
		return true, r.daily(f[1], c)
	}
	if f := everySaid.FindStringSubmatch(c.text); f != nil && (f[2] == "every day" || f[2] == "daily") {
		return true, r.daily(f[1], c)
	}
	if f := withSaid.FindStringSubmatch(c.text); f != nil {
		if err := r.once("kit", c); err != nil {
			return true, err
		}
		return true, r.kit(f[1], c)
	}
	return false, nil
}

func (r *reader) kit(words string, c clause) error {
	known := r.lib.KitOf()
	take := func(words string) error {
		for _, w := range listed(words) {
			w = movement.ReadThing(strings.TrimPrefix(strings.TrimPrefix(w, "a "), "an ")).Name
			if !slices.Contains(known, w) {
				return &Error{Column: c.at, Word: w, Expected: "kit that the library knows: " + orList(known)}
			}
			if !slices.Contains(r.b.Kit, w) {
				r.b.Kit = append(r.b.Kit, w)
			}
		}
		return nil
	}
	r.goOn = func(next clause) (bool, error) {
		for _, w := range listed(strings.TrimPrefix(next.text, "and ")) {
			if !slices.Contains(known, movement.ReadThing(w).Name) {
				return false, nil
			}
		}
		return true, take(next.text)
	}
	return take(words)
}

// moreMoves takes further movements after a comma.
func (r *reader) moreMoves(take func(words string, c clause) error) {
	r.goOn = func(next clause) (bool, error) {
		words := strings.TrimPrefix(next.text, "and ")
		if !r.namesMoves(words) {
			return false, nil
		}
		return true, take(words, next)
	}
}

// namesMoves tells whether every word of a list is the name of a movement.
func (r *reader) namesMoves(words string) bool {
	if f := everySaid.FindStringSubmatch(words); f != nil {
		words = f[1]
	}
	for _, w := range listed(words) {
		if _, ok := r.lib.Named(w); !ok {
			return false
		}
	}
	return words != ""
}

// learn reads movements to learn; "every second day" concerns all of the list, from the place given.
func (r *reader) learn(words string, c clause, from int) error {
	every := -1
	if f := everySaid.FindStringSubmatch(words); f != nil {
		words = f[1]
		switch f[2] {
		case "every day", "daily":
			every = 1
		case "every second day", "every other day":
			every = 2
		case "every third day":
			every = 3
		default:
			every, _ = strconv.Atoi(f[3])
		}
		if every < 1 || every > 14 {
			return &Error{Column: c.at, Word: f[2], Expected: "every day to every 14 days"}
		}
	}
	for _, w := range listed(words) {
		m, err := r.move(w, c)
		if err != nil {
			return err
		}
		if slices.ContainsFunc(r.b.Learn, func(l Learn) bool { return l.Slug == m.Slug }) {
			return &Error{Column: c.at, Word: w, Expected: "each movement to learn once"}
		}
		if len(r.b.Learn) >= maxMoves {
			return &Error{Column: c.at, Word: w, Expected: fmt.Sprintf("at most %d movements to learn", maxMoves)}
		}
		r.b.Learn = append(r.b.Learn, Learn{Slug: m.Slug})
	}
	if every > 0 {
		for i := from; i < len(r.b.Learn); i++ {
			r.b.Learn[i].Every = every
		}
	}
	slices.SortStableFunc(r.b.Learn, func(a, b Learn) int { return a.Every - b.Every }) // as the normal form says them
	return nil
}

// move finds a movement by its name; one that begins several is refused with what it could be.
func (r *reader) move(words string, c clause) (*movement.Movement, error) {
	words = strings.TrimPrefix(words, "the ")
	if m, ok := r.lib.Named(words); ok {
		return m, nil
	}
	if m, ok := r.lib.Begun(words); ok {
		return m, nil
	}
	at := c.at + max(0, strings.Index(c.text, words))
	var readings []string
	for _, m := range r.lib.Search(words) {
		if len(readings) < 3 {
			readings = append(readings, m.Name)
		}
	}
	if len(readings) > 1 {
		return nil, &Error{Column: at, Word: words, Readings: readings}
	}
	return nil, &Error{Column: at, Word: words, Expected: "the name of a movement in the library"}
}

// daily reads a movement with or without a dose: "hip flexor stretch hold 2 min each side".
func (r *reader) daily(words string, c clause) error {
	words = strings.TrimPrefix(words, "the ")
	fields := strings.Fields(words)
	if len(r.b.Daily) >= maxMoves {
		return &Error{Column: c.at, Word: words, Expected: fmt.Sprintf("at most %d things every day", maxMoves)}
	}
	for n := len(fields); n > 0; n-- {
		m, ok := r.lib.Named(strings.Join(fields[:n], " "))
		if !ok {
			continue
		}
		d := Daily{Slug: m.Slug}
		if n < len(fields) {
			said := strings.ReplaceAll(strings.Join(fields[n:], " "), ";", ",")
			ds, err := dose.Parse("hold " + said) // "2 min each side" of a stretch is held
			if err != nil || !m.Stretch {
				ds, err = dose.Parse(said)
			}
			if err != nil {
				return &Error{Column: c.at, Word: said, Expected: "a dose such as hold 2 min each side"}
			}
			d.Dose = ds
		}
		if slices.ContainsFunc(r.b.Daily, func(o Daily) bool { return o.Slug == d.Slug }) {
			return &Error{Column: c.at, Word: words, Expected: "each movement of every day once"}
		}
		r.b.Daily = append(r.b.Daily, d)
		r.said["every day"] = c.at
		return nil
	}
	_, err := r.move(strings.Join(fields, " "), c)
	if err == nil {
		err = &Error{Column: c.at, Word: words, Expected: "the whole name of a movement"}
	}
	return err
}

func (r *reader) test(f []string, c clause) error {
	m, err := r.move(f[1], c)
	if err != nil {
		return err
	}
	if len(r.b.Tests) >= maxMoves || slices.ContainsFunc(r.b.Tests, func(t Test) bool { return t.Slug == m.Slug }) {
		return &Error{Column: c.at, Word: f[1], Expected: "each test once"}
	}
	t := Test{Slug: m.Slug}
	words, ok := r.measure(f[2], &t)
	ds, err := r.dayList(words, c)
	if err != nil {
		return err
	}
	t.Days = ds
	if t.Measure == "" {
		t.Measure = "repetitions"
		if _, unit, _ := movement.Amount(m.Dose); unit == movement.CountSeconds {
			t.Measure = "seconds"
		}
	}
	r.b.Tests = append(r.b.Tests, t)
	r.said["test"] = c.at
	if ok {
		return nil
	}
	at := len(r.b.Tests) - 1
	r.goOn = func(next clause) (bool, error) {
		words, last := r.measure(next.text, &r.b.Tests[at])
		if !numberList.MatchString(words) {
			return false, nil
		}
		took, err := r.moreDays(&r.b.Tests[at].Days)(clause{words, next.at})
		if last {
			r.goOn = nil
		}
		return took, err
	}
	return nil
}

// measure takes "in seconds" off the end.
func (r *reader) measure(words string, t *Test) (rest string, said bool) {
	for _, m := range measures {
		if s, ok := strings.CutSuffix(words, " in "+m); ok {
			t.Measure = m
			return s, true
		}
	}
	return words, false
}

// last reads themes and audiences, which are words alone.
func (r *reader) last(c clause) (bool, error) {
	if f := weekSaid.FindStringSubmatch(c.text); f != nil {
		n, _ := strconv.Atoi(f[1])
		ts, ok := themesOf(f[2])
		if n < 1 || n > (MaxDays+6)/7 {
			return true, &Error{Column: c.at, Word: f[1], Expected: fmt.Sprintf("a week from 1 to %d", (MaxDays+6)/7)}
		}
		if !ok {
			return true, &Error{Column: c.at, Word: f[2], Expected: "themes: " + orList(movement.Themes())}
		}
		if r.b.Weeks == nil {
			r.b.Weeks = map[int][]string{}
		}
		if r.b.Weeks[n] != nil {
			return true, &Error{Column: c.at, Word: c.text, Expected: "each week once"}
		}
		r.b.Weeks[n] = ts
		r.said["weeks"] = c.at
		return true, nil
	}
	words, isFor := c.text, false
	if f := forSaid.FindStringSubmatch(c.text); f != nil {
		words, isFor = f[1], true
	}
	if ts, ok := themesOf(strings.TrimPrefix(words, "focus ")); ok && !isFor {
		for _, t := range ts {
			if slices.Contains(r.b.Focus, t) {
				return true, &Error{Column: c.at, Word: t, Expected: "each theme once"}
			}
		}
		r.b.Focus = append(r.b.Focus, ts...)
		r.said["focus"] = c.at
		return true, nil
	}
	a, err := movement.ReadAudience(words)
	if err == nil && a != 0 {
		if r.b.Audience|a == r.b.Audience {
			return true, &Error{Column: c.at, Word: words, Expected: "each audience once"}
		}
		if _, err := movement.ReadAudience((r.b.Audience | a).String()); err != nil {
			return true, &Error{Column: c.at, Word: words, Expected: "an audience that goes with " + r.b.Audience.Called() + ": " + err.Error()}
		}
		r.b.Audience |= a
		r.said["audience"] = c.at
		return true, nil
	}
	if isFor {
		return true, &Error{Column: c.at, Word: words, Expected: "an audience: " + strings.Join(movement.AudienceNames(), ", ")}
	}
	return false, nil
}

// themeWords are other words for themes.
var themeWords = map[string]string{
	"mobility": "spine", "back mobility": "spine", "spine mobility": "spine", "upper back": "upper back", "shoulder": "shoulders", "hip": "hips", "glutes": "seat", "buttocks": "seat", "bottom": "seat",
	"abs": "core", "abdominals": "core", "belly": "core", "centre": "core", "deep core": "core", "obliques": "waist", "side": "waist", "thighs": "legs", "leg": "legs", "hamstring": "hamstrings",
	"ankles": "feet", "low back": "back", "breathing": "breath", "relaxation": "rest", "wrist": "wrists", "necks": "neck",
}

// themesOf reads "hips and upper back"; ok is false where a word is no theme.
func themesOf(words string) (out []string, ok bool) {
	for _, w := range listed(words) {
		if t := themeWords[w]; t != "" {
			w = t
		}
		if !slices.Contains(movement.Themes(), w) {
			return nil, false
		}
		if slices.Contains(out, w) {
			continue
		}
		out = append(out, w)
	}
	return out, len(out) > 0
}
