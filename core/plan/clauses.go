package plan

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
)

// What is said of a row, a block, a section or the class besides its movement and dose is said in clauses with semicolons between them: "other side; ends
// standing; say: keep the hips level". Each clause is written and read in one place, its entry in a table below, so that what is written is read back the same.

// clause is one thing that can be said of a T: what it says now, and how it is read. reads tells whether the words are its own.
type clause[T any] struct {
	form  string // as it is shown to who asks what can be said
	says  func(*T) []string
	reads func(*T, string) (bool, error)
}

// free is a clause of free words behind a key: "say: keep the hips level".
func free[T any](key string, at func(*T) *string, most int) clause[T] {
	return clause[T]{
		form: key + ": …",
		says: func(t *T) []string {
			if *at(t) == "" {
				return nil
			}
			return []string{key + ": " + *at(t)}
		},
		reads: func(t *T, text string) (bool, error) {
			words, ok := behind(text, key+":")
			if !ok {
				return false, nil
			}
			if words == "" || tooLong(words, most) {
				return true, fmt.Errorf("%s: expected 1 to %d characters", key, most)
			}
			*at(t) = words
			return true, nil
		},
	}
}

// flag is a clause that is said or not.
func flag[T any](words string, at func(*T) *bool) clause[T] {
	return clause[T]{
		form: words,
		says: func(t *T) []string {
			if !*at(t) {
				return nil
			}
			return []string{words}
		},
		reads: func(t *T, text string) (bool, error) {
			if !strings.EqualFold(text, words) {
				return false, nil
			}
			*at(t) = true
			return true, nil
		},
	}
}

// oneWord is a clause that is one of some words; n is which of them is said, from 1.
func oneWord[T any](words []string, get func(*T) int, set func(*T, int)) clause[T] {
	return clause[T]{
		form: strings.Join(words, " or "),
		says: func(t *T) []string {
			if n := get(t); n > 0 && n <= len(words) {
				return []string{words[n-1]}
			}
			return nil
		},
		reads: func(t *T, text string) (bool, error) {
			i := slices.IndexFunc(words, func(w string) bool { return strings.EqualFold(w, text) })
			if i >= 0 {
				set(t, i+1)
			}
			return i >= 0, nil
		},
	}
}

// span is a time with words in front of it or behind it: "lead in 5 s", "20 s off".
func span[T any](before, behindIt string, get func(*T) (clock.Span, bool), set func(*T, clock.Span), least clock.Span) clause[T] {
	return clause[T]{
		form: strings.TrimSpace(before + " 20 s " + behindIt),
		says: func(t *T) []string {
			sp, ok := get(t)
			if !ok {
				return nil
			}
			return []string{strings.TrimSpace(before + " " + sp.Said() + " " + behindIt)}
		},
		reads: func(t *T, text string) (bool, error) {
			low := strings.ToLower(text)
			low, ok := strings.CutPrefix(low, before)
			if !ok {
				return false, nil
			}
			if low, ok = strings.CutSuffix(strings.TrimSpace(low), behindIt); !ok {
				return false, nil
			}
			low = strings.TrimSpace(low)
			if low == "" || low[0] < '0' || low[0] > '9' {
				return false, nil
			}
			if _, err := strconv.Atoi(low); err == nil {
				low += " s"
			}
			sp, err := clock.Parse(low)
			switch {
			case err != nil:
				return true, err
			case sp < least || sp > MaxPause:
				return true, fmt.Errorf("%q: expected a time from %s to 10 min", text, least.Said())
			}
			set(t, sp)
			return true, nil
		},
	}
}

// behind is what stands behind a key, whatever its capitals.
func behind(text, key string) (string, bool) {
	if len(text) < len(key) || !strings.EqualFold(text[:len(key)], key) {
		return "", false
	}
	return strings.TrimSpace(text[len(key):]), true
}

func tempoClause[T any](at func(*T) **Tempo) clause[T] {
	return oneWord([]string{"even tempo", "brisk", "slow"}, func(t *T) int {
		if *at(t) == nil {
			return 0
		}
		return int(**at(t)) + 1
	}, func(t *T, n int) { x := Tempo(n - 1); *at(t) = &x })
}

// styleClauses are the questions of the schools that a part of a class can answer for itself.
func styleClauses[T any](at func(*T) *Style) []clause[T] {
	var out []clause[T]
	for _, key := range PartStyleKeys() {
		q := questions[slices.IndexFunc(questions, func(q question) bool { return q.key == key })]
		words := slices.Clone(q.words)
		switch key {
		case "first_side":
			words = []string{"right side first", "left side first"}
		case "paced": // its words say what it is
		default:
			for i := range words {
				words[i] = key + " " + words[i]
			}
		}
		out = append(out, oneWord(words, func(t *T) int { return int(q.get(at(t))) }, func(t *T, n int) { q.set(at(t), uint8(n)) }))
	}
	return out
}

func mannerClauses[T any](at func(*T) *Manner) []clause[T] {
	out := []clause[T]{
		oneWord([]string{"talk coached", "talk flowing", "talk first lesson"}, func(t *T) int {
			if at(t).Talk == nil {
				return 0
			}
			return int(*at(t).Talk) + 1
		}, func(t *T, n int) { x := Talk(n - 1); at(t).Talk = &x }),
		tempoClause(func(t *T) **Tempo { return &at(t).Tempo }),
		{
			form: "120 beats",
			says: func(t *T) []string {
				if at(t).BPM == 0 {
					return nil
				}
				return []string{strconv.FormatFloat(at(t).BPM, 'f', -1, 64) + " beats"}
			},
			reads: func(t *T, text string) (bool, error) {
				num, ok := strings.CutSuffix(strings.ToLower(text), " beats")
				if !ok {
					return false, nil
				}
				n, err := strconv.ParseFloat(strings.TrimSpace(num), 64)
				if err != nil || !(n >= MinBPM && n <= MaxBPM) {
					return true, fmt.Errorf("%q: expected %d to %d beats a minute", text, MinBPM, MaxBPM)
				}
				at(t).BPM = n
				return true, nil
			},
		},
	}
	return append(out, styleClauses(func(t *T) *Style { return &at(t).Style })...)
}

// toldClauses are what is said of a row, or of a side of it.
func toldClauses[T any](at func(*T) *Told) []clause[T] {
	return []clause[T]{
		tempoClause(func(t *T) **Tempo { return &at(t).Tempo }),
		free("say", func(t *T) *string { return &at(t).Say }, maxTold),
		free("cue", func(t *T) *string { return &at(t).Cue }, maxTold),
		free("caution", func(t *T) *string { return &at(t).Caution }, maxTold),
		{
			form: "option: …",
			says: func(t *T) (out []string) {
				for _, c := range at(t).Choices {
					out = append(out, "option: "+c)
				}
				return out
			},
			reads: func(t *T, text string) (bool, error) {
				words, ok := behind(text, "option:")
				if !ok {
					return false, nil
				}
				at(t).Choices = append(at(t).Choices, words)
				return true, at(t).check()
			},
		},
	}
}

// levelsClause are the levels offered aloud; none said is as it is usual.
func levelsClause[T any](at func(*T) *[]int, choices func(*T) []string) clause[T] {
	return clause[T]{
		form: "offers level 1, 3",
		says: func(t *T) []string {
			switch l := *at(t); {
			case l == nil || len(l) == 0 && len(choices(t)) > 0: // options in words alone
				return nil
			case len(l) == 0:
				return []string{"offers nothing"}
			default:
				return []string{"offers level " + strings.Trim(strings.ReplaceAll(fmt.Sprint(l), " ", ", "), "[]")}
			}
		},
		reads: func(t *T, text string) (bool, error) {
			if strings.EqualFold(text, "offers nothing") {
				*at(t) = []int{}
				return true, nil
			}
			list, ok := behind(text, "offers level")
			if !ok {
				return false, nil
			}
			out := []int{}
			for _, w := range strings.FieldsFunc(strings.TrimPrefix(list, "s "), func(r rune) bool { return r == ',' || r == ' ' }) {
				n, err := strconv.Atoi(w)
				if err != nil || n < 1 || n > maxLevel {
					return true, fmt.Errorf("%q is not a level", Clip(w, maxShown))
				}
				out = append(out, n)
			}
			if len(out) == 0 {
				return true, errors.New("which level is offered?")
			}
			*at(t) = out
			return true, nil
		},
	}
}

// rowWords is a row and its movement, of which clauses are said.
type rowWords struct {
	*Row
	m *movement.Movement
}

// doseClause is the dose and level of one side.
func doseClause() clause[sideWords] {
	return clause[sideWords]{
		form: "6 reps",
		says: func(s *sideWords) (out []string) {
			if s.Level > 0 {
				out = append(out, "level "+strconv.Itoa(s.Level))
			}
			if !s.Dose.IsZero() {
				out = append(out, s.Dose.String())
			}
			return out
		},
		reads: func(s *sideWords, text string) (bool, error) {
			if n, ok := behind(text, "level "); ok {
				l, err := strconv.Atoi(n)
				if err != nil || l < 1 || l > maxLevel {
					return true, fmt.Errorf("%q is not a level", Clip(text, maxShown))
				}
				s.Level = l
				return true, nil
			}
			d, err := dose.Parse(text)
			if s.m != nil {
				d, err = DoseFor(s.m, text)
			}
			if err != nil || d.IsZero() {
				return false, nil
			}
			if d.Per != dose.Unsaid {
				return true, fmt.Errorf("the dose of one side cannot itself be per side: %q", d)
			}
			s.Dose = d
			return true, nil
		},
	}
}

// sideWords is one side of a row.
type sideWords struct {
	*Override
	m *movement.Movement
}

var sideClauses = append(append(toldClauses(func(s *sideWords) *Told { return &s.Told }),
	levelsClause(func(s *sideWords) *[]int { return &s.Options }, func(s *sideWords) []string { return s.Choices }),
	free("note", func(s *sideWords) *string { return &s.Note }, MaxNote)), doseClause())

// sideOf are the clauses of one side.
func sideOf(name string, at func(*Row) **Override) clause[rowWords] {
	return clause[rowWords]{
		form: name + ": 6 reps, or any of these",
		says: func(r *rowWords) (out []string) {
			o := *at(r.Row)
			if o == nil {
				return nil
			}
			for _, c := range said1(sideClauses, &sideWords{o, r.m}) {
				out = append(out, name+": "+c)
			}
			return out
		},
		reads: func(r *rowWords, text string) (bool, error) {
			words, ok := behind(text, name+":")
			switch {
			case !ok:
				return false, nil
			case words == "":
				return true, fmt.Errorf("say what is done otherwise on the %s", name)
			}
			o := override(*at(r.Row))
			if err := read1(sideClauses, &sideWords{o, r.m}, words, "of a side"); err != nil {
				return true, err
			}
			*at(r.Row) = o
			return true, nil
		},
	}
}

// said1 are the clauses of a table that are said.
func said1[T any](table []clause[T], t *T) (out []string) {
	for _, c := range table {
		out = append(out, c.says(t)...)
	}
	return out
}

// read1 reads one clause.
func read1[T any](table []clause[T], t *T, text, of string) error {
	for _, c := range table {
		if ok, err := c.reads(t, text); ok {
			return err
		}
	}
	return fmt.Errorf("%q is nothing that can be said %s; what can is, for example: %s", Clip(text, maxShown), of, strings.Join(examples[of], "; "))
}

// examples are a few of the clauses of each table, for who said something that is none.
var examples = map[string][]string{
	"of a row":     {"other side", "by round: 8 / 6 / 4", "ends standing", "slow", "say: keep the hips level", "option: on the forearms"},
	"of a side":    {"6 reps", "level 2", "slow", "say: lower here", "option: hand on the block"},
	"of a block":   {"20 s between", "lead in 5 s", "no last off", "between: shake it out", "second side whole", "talk flowing", "note: no stopping"},
	"of a section": {"talk flowing", "slow", "left side first", "a breath each", "note: quiet"},
	"of a class":   {"20:00 in all", "talk flowing", "tempo slow", "for: mixed", "about: hips"},
	"of a rest":    {"note: water", "locked"},
	"of a turn":    {"12 s", "ends standing", "say: slowly"},
}

func formsOf[T any](table []clause[T]) string {
	var out []string
	for _, c := range table {
		out = append(out, c.form)
	}
	return strings.Join(out, "; ")
}

// rowClauses are all that can be said of a row besides its movement, level and dose.
var rowClauses = slices.Concat([]clause[rowWords]{
	phasesClause(),
	oneWord([]string{"both at once", "on each side", "alternating sides"}, func(r *rowWords) int {
		return map[movement.Sides]int{movement.Both: 1, movement.Each: 2, movement.Alternating: 3}[r.Sides]
	}, func(r *rowWords, n int) {
		r.Sides = []movement.Sides{movement.Both, movement.Each, movement.Alternating}[n-1]
	}),
	flag("other side", func(r *rowWords) *bool { return &r.OtherSide }),
	oneWord([]string{"in the first pass only", "in each pass"}, func(r *rowWords) int { return int(r.Once) }, func(r *rowWords, n int) { r.Once = Once(n) }),
	flag("at the top", func(r *rowWords) *bool { return &r.Then }),
	roundsClause(),
	{
		form: "ends standing",
		says: func(r *rowWords) []string {
			if r.Ends == movement.NoPosture {
				return nil
			}
			return []string{"ends " + r.Ends.String()}
		},
		reads: func(r *rowWords, text string) (bool, error) {
			where, ok := behind(text, "ends ")
			if !ok {
				return false, nil
			}
			return true, r.Ends.UnmarshalText([]byte(strings.ToLower(where)))
		},
	},
	oneWord([]string{"faces them", "seen from the side", "back to them"}, func(r *rowWords) int { return int(r.Faces) }, func(r *rowWords, n int) { r.Faces = Faces(n) }),
	oneWord([]string{"front of the mat", "middle of the mat", "back of the mat"}, func(r *rowWords) int { return int(r.OnMat) }, func(r *rowWords, n int) { r.OnMat = OnMat(n) }),
	sideOf("right", func(r *Row) **Override { return &r.Right }),
	sideOf("left", func(r *Row) **Override { return &r.Left }),
}, styleClauses(func(r *rowWords) *Style { return &r.Style }), toldClauses(func(r *rowWords) *Told { return &r.Told }), []clause[rowWords]{
	levelsClause(func(r *rowWords) *[]int { return &r.Options }, func(r *rowWords) []string { return r.Choices }),
	{
		form: "shows level 2",
		says: func(r *rowWords) []string {
			if r.Demo == 0 {
				return nil
			}
			return []string{"shows level " + strconv.Itoa(r.Demo)}
		},
		reads: func(r *rowWords, text string) (bool, error) {
			n, ok := behind(text, "shows level ")
			if !ok {
				return false, nil
			}
			l, err := strconv.Atoi(n)
			if err != nil || l < 1 || l > maxLevel {
				return true, fmt.Errorf("%q is not a level", Clip(n, maxShown))
			}
			r.Demo = l
			return true, nil
		},
	},
	timedClause(),
	flag("locked", func(r *rowWords) *bool { return &r.Locked }),
	free("note", func(r *rowWords) *string { return &r.Note }, MaxNote),
})

// phasesClause is a ladder inside one position.
func phasesClause() clause[rowWords] {
	return clause[rowWords]{
		form: "phases: level 1 3 breaths / level 2 2 breaths",
		says: func(r *rowWords) []string {
			if len(r.PartLevels) == 0 {
				return nil
			}
			var out []string
			for _, p := range r.phases() {
				out = append(out, fmt.Sprintf("level %d %s", p.Level, p.Dose))
			}
			return []string{"phases: " + strings.Join(out, " / ")}
		},
		reads: func(r *rowWords, text string) (bool, error) {
			list, ok := behind(text, "phases:")
			if !ok {
				return false, nil
			}
			return true, r.setPhases(strings.Split(list, "/"))
		},
	}
}

var levelIn = regexp.MustCompile(`(?i)^(.*?)\s*,?\s*\b(?:at )?level (\d{1,2})\b,?\s*(.*)$`)

// setPhases gives a row its phases: each a dose and a level, in either order.
func (r *Row) setPhases(list []string) error {
	var d dose.Dose
	var levels []int
	for _, w := range list {
		f := levelIn.FindStringSubmatch(strings.TrimSpace(w))
		if f == nil {
			return fmt.Errorf("%q: a phase has a level and a dose, as in: level 2 5 breaths", Clip(strings.TrimSpace(w), maxShown))
		}
		n, _ := strconv.Atoi(f[2])
		p, err := dose.Parse(strings.TrimSpace(f[1] + " " + f[3]))
		if err != nil {
			return err
		}
		if n < 1 || n > maxLevel {
			return fmt.Errorf("%q is not a level", f[2])
		}
		if p.SetCount() > 1 || p.Per != dose.Unsaid {
			return fmt.Errorf("a phase is done once through, without sets or sides: %q", p)
		}
		for _, part := range p.Parts {
			d.Parts, levels = append(d.Parts, part), append(levels, n)
		}
	}
	if len(levels) == 0 || len(list) > maxPhases {
		return fmt.Errorf("expected 1 to %d phases", maxPhases)
	}
	r.Dose, r.PartLevels, r.Level = d, levels, levels[0]
	return nil
}

// roundsClause is what changes from round to round.
func roundsClause() clause[rowWords] {
	return clause[rowWords]{
		form: "by round: 8 / level 2 6 slow / out",
		says: func(r *rowWords) []string {
			if len(r.ByRound) == 0 {
				return nil
			}
			var out []string
			for _, c := range r.ByRound {
				out = append(out, c.String())
			}
			return []string{"by round: " + strings.Join(out, " / ")}
		},
		reads: func(r *rowWords, text string) (bool, error) {
			list, ok := behind(text, "by round")
			if !ok {
				return false, nil
			}
			list = strings.TrimSpace(strings.TrimPrefix(list, ":"))
			sep := "/"
			if !strings.Contains(list, "/") {
				sep = ","
			}
			r.ByRound = nil
			level := false
			for i, w := range strings.Split(list, sep) {
				w = strings.TrimSpace(w)
				if _, said := behind(w, "level "); said && i == 0 {
					level = true
				} else if _, err := strconv.Atoi(w); err == nil && level { // level 1, 2, 3
					w = "level " + w
				}
				c, err := readRound(w, r.m)
				if err != nil {
					return true, err
				}
				if r.ByRound = append(r.ByRound, c); len(r.ByRound) > MaxRounds {
					return true, fmt.Errorf("more than %d rounds", MaxRounds)
				}
			}
			return true, nil
		},
	}
}

// String says what is different in the round, in words that are read back.
func (c RoundChange) String() string {
	var out []string
	switch {
	case c.Skip:
		return "out"
	case c.isZero():
		return "as it is"
	}
	if c.Level > 0 {
		out = append(out, "level "+strconv.Itoa(c.Level))
	}
	if c.On > 0 {
		out = append(out, c.On.Said()+" on")
	}
	if c.Tempo != nil {
		out = append(out, c.Tempo.String())
	}
	if !c.Dose.IsZero() {
		out = append(out, c.Dose.String())
	}
	return strings.Join(out, " ")
}

var onIn = regexp.MustCompile(`(?i)^(\d+(?:\.\d+)? ?(?:s|sec|secs|seconds|min)) on\b\s*(.*)$`)

func readRound(text string, m *movement.Movement) (c RoundChange, err error) {
	switch strings.ToLower(text) {
	case "out", "left out", "skip":
		return RoundChange{Skip: true}, nil
	case "as it is", "same", "":
		return c, nil
	}
	rest := text
	if f := levelIn.FindStringSubmatch(rest); f != nil {
		c.Level, _ = strconv.Atoi(f[2])
		if c.Level < 1 || c.Level > maxLevel {
			return c, fmt.Errorf("%q is not a level", f[2])
		}
		rest = strings.TrimSpace(f[1] + " " + f[3])
	}
	if f := onIn.FindStringSubmatch(rest); f != nil {
		if c.On, err = clock.Parse(f[1]); err != nil || c.On <= 0 || c.On > MaxPause {
			return c, fmt.Errorf("%q: expected a time on from 1 s to 10 min", Clip(text, maxShown))
		}
		rest = f[2]
	}
	for i, w := range []string{"even", "brisk", "slow", "faster", "slower"} {
		if len(rest) >= len(w) && strings.EqualFold(rest[:len(w)], w) && (len(rest) == len(w) || rest[len(w)] == ' ') {
			t := [...]Tempo{Even, Brisk, Slow, Brisk, Slow}[i]
			c.Tempo, rest = &t, strings.TrimSpace(rest[len(w):])
		}
	}
	if rest != "" {
		if m != nil {
			c.Dose, err = DoseFor(m, rest)
		} else {
			c.Dose, err = dose.Parse(rest)
		}
	}
	return c, err
}

// timedClause are words at their times.
func timedClause() clause[rowWords] {
	return clause[rowWords]{
		form: "at 30 s: …",
		says: func(r *rowWords) (out []string) {
			for _, w := range r.Timed {
				out = append(out, "at "+w.At.Said()+": "+w.Say)
			}
			return out
		},
		reads: func(r *rowWords, text string) (bool, error) {
			list, ok := behind(text, "at ")
			if !ok || list == "" || list[0] < '0' || list[0] > '9' {
				return false, nil
			}
			when, words, ok := cutTime(list)
			if !ok {
				return true, fmt.Errorf("%q: expected a time and words, as in: at 30 s: soften the jaw", Clip(text, maxShown))
			}
			sp, err := clock.Parse(when)
			if err != nil {
				return true, err
			}
			if n := len(r.Timed); n > 0 && r.Timed[n-1].At >= sp || n == maxTimed || sp > MaxPause*6 || tooLong(words, maxTold) {
				return true, fmt.Errorf("at %s: times rise, there are at most %d of them, and each has at most %d characters", when, maxTimed, maxTold)
			}
			r.Timed = append(r.Timed, TimedWord{sp, words})
			return true, nil
		},
	}
}

var timeThen = regexp.MustCompile(`^(\d+(?::\d\d){1,2}|\d+(?:\.\d+)? ?[A-Za-z]+|\d+)\s*:\s*(.+)$`)

func cutTime(s string) (when, words string, ok bool) {
	f := timeThen.FindStringSubmatch(s)
	if f == nil {
		return "", "", false
	}
	when = f[1]
	if _, err := strconv.Atoi(when); err == nil {
		when += " s"
	}
	return when, strings.TrimSpace(f[2]), true
}

// Clauses are all that is said of a row besides its movement, level and dose, with the movement it is of.
func (r *Row) Clauses(m *movement.Movement) []string { return said1(rowClauses, &rowWords{r, m}) }

// How says how a row is done besides its dose: on the other side, what changes by round, where it ends. What is said aloud of it is no part of that, nor what
// a side does differently.
func (r *Row) How(m *movement.Movement) []string {
	n := *r
	n.Right, n.Left, n.Options, n.Demo, n.Timed, n.Locked, n.Note, n.PartLevels, n.Then, n.Faces, n.OnMat = nil, nil, nil, 0, nil, false, "", nil, false, 0, 0
	n.Sides, n.Told = movement.SidesUnsaid, Told{Tempo: r.Tempo}
	return n.Clauses(m)
}

// Besides says what of a block is in no other words of it: how it is led in to, how the second side goes, how it is taught.
func (b *Block) Besides() []string {
	n := *b
	n.On, n.Off, n.Rest, n.Between, n.Title, n.Note = 0, 0, 0, "", "", ""
	return n.Clauses()
}

// Besides says how a section is taught.
func (s *Section) Besides() []string {
	n := *s
	n.Note = ""
	return n.Clauses()
}

// Phases are the parts of the row's dose that are each at a level, those of one level together; none where all of it is at the row's.
func (r *Row) Phases() []Phase {
	if len(r.PartLevels) == 0 {
		return nil
	}
	return r.phases()
}

// RowForms says what can be said of a row, in the forms it is read in.
func RowForms() string { return formsOf(rowClauses) }

// BlockForms says what can be said of a block; SectionForms of a section.
func BlockForms() string { return formsOf(blockClauses) }

// SectionForms says what can be said of a section.
func SectionForms() string { return formsOf(sectionClauses) }

// blockClauses are all that can be said of a block besides its rule.
var blockClauses = slices.Concat([]clause[Block]{
	span("", "on", func(b *Block) (clock.Span, bool) { return b.On, b.On > 0 }, func(b *Block, s clock.Span) { b.On = s }, clock.Second/10),
	span("", "off", func(b *Block) (clock.Span, bool) { return b.Off, b.Off > 0 }, func(b *Block, s clock.Span) { b.Off = s }, clock.Second/10),
	span("lead in", "", (*Block).Leads, func(b *Block, s clock.Span) { b.LeadIn = &s }, 0),
	flag("no last off", func(b *Block) *bool { return &b.NoLastOff }),
	span("", "between", func(b *Block) (clock.Span, bool) { return b.Rest, b.Rest > 0 }, func(b *Block, s clock.Span) { b.Rest = s }, clock.Second/10),
	free("between", func(b *Block) *string { return &b.Between }, MaxNote),
	oneWord([]string{"second side climbs", "second side whole"}, func(b *Block) int {
		if b.Second == SecondClimbs { // as it is usual
			return 0
		}
		return int(b.Second) + 1
	}, func(b *Block, n int) { b.Second = SecondSide(n - 1) }),
	free("title", func(b *Block) *string { return &b.Title }, MaxTitle),
	free("note", func(b *Block) *string { return &b.Note }, MaxNote),
}, mannerClauses(func(b *Block) *Manner { return &b.Manner }))

// sectionClauses are all that can be said of a section besides its title.
var sectionClauses = append(mannerClauses(func(s *Section) *Manner { return &s.Manner }), free("note", func(s *Section) *string { return &s.Note }, MaxNote))

// Clauses are all that is said of a section besides its title.
func (s *Section) Clauses() []string { return said1(sectionClauses, s) }

// Clauses are all that is said of a block besides its rule.
func (b *Block) Clauses() []string { return said1(blockClauses, b) }

// RuleWords is the rule of a block as it is said: "3 rounds", "one side through".
func (b *Block) RuleWords() string {
	switch b.Rule {
	case Chain:
		return "one side through"
	case Rounds:
		if b.Rounds <= 1 {
			return "1 round"
		}
		return strconv.Itoa(b.Rounds) + " rounds"
	}
	return b.Rule.String()
}

// Words is a block in one line: its rule, and what is said of it.
func (b *Block) Words() string { return JoinClauses(append([]string{b.RuleWords()}, b.Clauses()...)) }

var roundsSaid = regexp.MustCompile(`(?i)^(\d{1,2}) rounds?$`)

// ReadBlock reads the words of a block: "3 rounds; 40 s on; 20 s off". Its rows are those it is given.
func ReadBlock(words string) (Block, error) {
	b := Block{Rounds: 1}
	list := SplitClauses(words)
	if len(list) == 0 {
		return b, errors.New("say the rule: straight, flow, one side through, build up, or 3 rounds")
	}
	rule := strings.ToLower(list[0])
	switch f := roundsSaid.FindStringSubmatch(rule); {
	case f != nil:
		b.Rule = Rounds
		if b.Rounds, _ = strconv.Atoi(f[1]); b.Rounds < 1 || b.Rounds > MaxRounds {
			return b, fmt.Errorf("%q: expected 1 to %d rounds", list[0], MaxRounds)
		}
	case rule == "one side through" || rule == "chain":
		b.Rule = Chain
	default:
		if err := b.Rule.UnmarshalText([]byte(rule)); err != nil || b.Rule == Rounds {
			return b, fmt.Errorf("%q: expected straight, flow, one side through, build up, or 3 rounds", Clip(list[0], maxShown))
		}
	}
	for _, c := range list[1:] {
		if err := read1(blockClauses, &b, c, "of a block"); err != nil {
			return b, err
		}
	}
	return b, nil
}

// JoinClauses writes clauses one behind the other so that SplitClauses gives them back.
func JoinClauses(list []string) string {
	out := make([]string, len(list))
	for i, c := range list {
		out[i] = strings.NewReplacer("\\", "\\\\", ";", "\\;", "\n", "\\n").Replace(c)
	}
	return strings.Join(out, "; ")
}

// SplitClauses parts clauses at their semicolons.
func SplitClauses(text string) (out []string) {
	var b strings.Builder
	put := func() {
		if c := strings.TrimSpace(b.String()); c != "" {
			out = append(out, c)
		}
		b.Reset()
	}
	rs := []rune(text)
	for i := 0; i < len(rs); i++ {
		switch {
		case rs[i] == '\\' && i+1 < len(rs):
			i++
			if rs[i] == 'n' {
				b.WriteByte('\n')
			} else {
				b.WriteRune(rs[i])
			}
		case rs[i] == ';':
			put()
		default:
			b.WriteRune(rs[i])
		}
	}
	put()
	return out
}

// SetWords says anew all that is said of a row besides its movement, level and dose; what is not said any more is gone.
type SetWords struct {
	At    Path   `form:"at,parser=encoding.TextUnmarshaler"`
	Words string `form:"words"`
}

// Do says it; where one clause is not understood nothing changes.
func (c *SetWords) Do(s *Session, lib *movement.Library) (Done, error) {
	r := s.Row(c.At)
	if r == nil {
		return Done{}, ErrNoRow
	}
	if r.IsRest() {
		return Done{"How " + s.title(c.At, lib) + " is done", c.At}, r.setRestWords(SplitClauses(c.Words))
	}
	m, err := r.Of(lib)
	if err != nil {
		return Done{}, err
	}
	if err := r.setWords(SplitClauses(c.Words), m); err != nil {
		return Done{}, err
	}
	if err := s.Block(c.At).checkRow(r, lib); err != nil {
		return Done{}, err
	}
	return Done{"How " + s.title(c.At, lib) + " is done", c.At}, r.Contradicts()
}

// setWords takes everything that clauses say from a row and says it anew.
func (r *Row) setWords(list []string, m *movement.Movement) error {
	if !slices.ContainsFunc(list, func(c string) bool { _, ok := behind(c, "phases:"); return ok }) {
		r.PartLevels = nil // the dose stays as it is
	}
	r.OtherSide, r.Once, r.Then, r.ByRound, r.Ends, r.Right, r.Left, r.Style, r.Told = false, OnceUnsaid, false, nil, movement.NoPosture, nil, nil, Style{}, Told{}
	r.Options, r.Demo, r.Timed, r.Locked, r.Note, r.Faces, r.OnMat = nil, 0, nil, false, "", 0, 0
	if r.Sides != movement.RightOnly && r.Sides != movement.LeftOnly {
		r.Sides = movement.SidesUnsaid
	}
	return r.addWords(list, m)
}

// setRestWords says anew what is said of a rest, a turn or a line to mend besides its time and its words.
func (r *Row) setRestWords(list []string) error {
	rest := *r.Rest
	r.Rest, r.Note, r.Locked, r.Then = &rest, "", false, false
	of := "of a rest"
	if r.IsTurn() {
		rest.For, rest.Say, rest.Ends, of = 0, "", endOfTurn(rest.Turn), "of a turn"
	}
	for _, c := range list {
		was := rest
		if err := read1(restClauses, r, c, of); err != nil {
			return err
		}
		if !r.IsTurn() && rest != was {
			return fmt.Errorf("%q is said of a turn: of a rest there is its time, what is said in it, and a note", Clip(c, maxShown))
		}
	}
	return nil
}

// Words are all that SetWords says anew, in one line.
func (r *Row) Words(m *movement.Movement) string {
	if r.IsRest() {
		return JoinClauses(said1(restClauses, r))
	}
	return JoinClauses(r.Clauses(m))
}

// addWords says more of a row.
func (r *Row) addWords(list []string, m *movement.Movement) error {
	w := &rowWords{r, m}
	for _, c := range list {
		if err := read1(rowClauses, w, c, "of a row"); err != nil {
			return err
		}
	}
	if len(r.Choices) > 0 && r.Options == nil { // words alone are offered, no levels
		r.Options = []int{}
	}
	for _, o := range []*Override{r.Right, r.Left} {
		if o != nil && len(o.Choices) > 0 && o.Options == nil {
			o.Options = []int{}
		}
	}
	return nil
}

// SetBlockWords says anew what is said of a block and its rule; its rows stay.
type SetBlockWords struct {
	At    Path   `form:"at,parser=encoding.TextUnmarshaler"`
	Words string `form:"words"`
}

// Do says it.
func (c *SetBlockWords) Do(s *Session, _ *movement.Library) (Done, error) {
	b := s.Block(c.At)
	if b == nil {
		return Done{}, ErrNoRow
	}
	n, err := ReadBlock(c.Words)
	if err != nil {
		return Done{}, err
	}
	n.Rows, n.extra = b.Rows, b.extra
	*b = n
	at := Path{c.At.Section, c.At.Block, max(1, c.At.Row)}
	s.tidy(&at)
	return Done{"How the block is done: " + n.Words(), at}, nil
}

// SetSectionWords says anew what is said of a section besides its title.
type SetSectionWords struct {
	Section Number `form:"section,parser=encoding.TextUnmarshaler"`
	Words   string `form:"words"`
}

// Do says it.
func (c *SetSectionWords) Do(s *Session, _ *movement.Library) (Done, error) {
	if c.Section.N < 1 || c.Section.N > len(s.Sections) {
		return Done{}, ErrNoRow
	}
	sec := &s.Sections[c.Section.N-1]
	n := Section{Title: sec.Title, Blocks: sec.Blocks, extra: sec.extra}
	for _, w := range SplitClauses(c.Words) {
		if err := read1(sectionClauses, &n, w, "of a section"); err != nil {
			return Done{}, err
		}
	}
	*sec = n
	return Done{Says: "How " + sec.Title + " is taught"}, nil
}
