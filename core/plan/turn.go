package plan

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
)

// turns are ways to say a change of position, with where they end; the first that fits is taken (common practice, no source). What a movement of the library
// is called is that movement.
var turns = []struct {
	words *regexp.Regexp
	ends  movement.Posture
}{
	{turnWords(`(?:(?:up )?to|into) (?:a )?(?:stand|standing)|up (?:to|onto) (?:your|the) feet|to (?:your|the) feet`), movement.Standing},
	{regexp.MustCompile(`(?i)^(?:(?:and|then|now|slowly|gently) )*(?:stand|rise) (?:back )?up(?: tall| again)?(?: (?:behind|beside|next to) (?:the|your) chairs?)?$`), movement.Standing},
	{turnWords(`(?:onto|on to|on|to|over to|over onto) (?:your|the) backs?`), movement.Supine},
	{regexp.MustCompile(`(?i)^(?:(?:and|then|now|slowly|gently|over|back) )*(?:onto|on to|down to|down onto|over to) (?:your|the) backs?$`), movement.Supine},
	{regexp.MustCompile(`(?i)^(?:(?:and|then|now|slowly|gently|over|back) )*(?:onto|on to|down to|down onto|over to) (?:your|the) (?:fronts?|tummy|tummies|stomach|belly|bellies)$`), movement.Prone},
	{regexp.MustCompile(`(?i)^(?:(?:and|then|now|slowly|gently|over|back) )*(?:onto|on to|down to|up to|to|into) (?:all fours|hands and knees|four[- ]point(?: kneeling)?|quadruped)$`), movement.HandsAndKnees},
	{regexp.MustCompile(`(?i)^(?:(?:and|then|now|slowly|gently|over|back) )*(?:onto|on to|over onto|over to) (?:your|the|one) (?:right |left |other )?sides?$`), movement.SideLying},
	{regexp.MustCompile(`(?i)^(?:(?:and|then|now|slowly|gently) )*(?:back|up) (?:to|into) (?:a )?(?:stand|standing)$`), movement.Standing},
	{regexp.MustCompile(`(?i)^(?:(?:and|then|now|slowly|gently) )*kneel (?:up|down|tall)(?: on the mat)?$`), movement.Kneeling},
	{regexp.MustCompile(`(?i)^(?:(?:and|then|now|come|get|slowly|gently) )*(?:back )?down (?:to|onto) (?:the|your) (?:mats?|floor)$`), movement.NoPosture},
	{regexp.MustCompile(`(?i)^(?:(?:and|then|now|slowly|gently) )*lie back(?: down)?$`), movement.Supine},
	{regexp.MustCompile(`(?i)^(?:(?:and|then|now|slowly|gently) )*(?:lie|lay) (?:back |down ?)+(?:on (?:the|your) (?:mat|back|floor))?$`), movement.Supine},
	{turnWords(`(?:onto|on to|on|to|over to|over onto) (?:your|the) (?:fronts?|tummy|tummies|stomach|belly|bellies)`), movement.Prone},
	{turnWords(`(?:onto|on to|on|to|over to|over onto) (?:your|the|one) (?:right |left |other |first |second )?sides?`), movement.SideLying},
	{turnWords(`(?:onto|on to|to|into|back to|up to) (?:your |the )?(?:all fours|hands and knees|four[- ]point(?: kneeling)?|quadruped|table ?top kneeling)`), movement.HandsAndKnees},
	{turnWords(`(?:to|into|up to|onto) (?:a )?(?:high |tall )?kneel(?:ing)?|up onto (?:your|the) knees`), movement.Kneeling},
	{turnWords(`(?:to|into|up to|back to) (?:a )?(?:sit|sitting|seated)(?: position)?`), movement.Seated},
	{regexp.MustCompile(`(?i)^(?:(?:and|then|now|slowly|gently) )*(?:sit (?:back )?up|sit down)(?: tall| again)?(?: on the mat)?$`), movement.Seated},
	{regexp.MustCompile(`(?i)^(?:(?:and|then|now|slowly|gently) )*(?:turn|flip|roll) over(?: again)?$`), movement.NoPosture},
}

// turnWords is a verb of moving, then where to.
func turnWords(to string) *regexp.Regexp {
	return regexp.MustCompile(`(?i)^(?:(?:and|then|now|slowly|gently) )*(?:come|roll|get|sit|stand|lie|turn|flip|step|walk|move|go|lower|press|rise|make your way|transition|change|push|bring yourself|float|shift|return|place yourself|coming|rolling|turning|getting|moving)\b(?: [\p{L}'-]+){0,5}? ?(?:` + to + `)[.!]?$`)
}

// readTurnLine reads a line that says a change of position: "roll up to stand", or in any words "turn: fetch the band; 12 s; ends standing".
func readTurnLine(text string, lib *movement.Library) (Row, bool, error) {
	if words, ok := behind(text, "turn:"); ok && words != "" {
		list := SplitClauses(words)
		if len(list) == 0 || tooLong(list[0], MaxTitle) {
			return Row{}, true, fmt.Errorf("a turn is said in 1 to %d characters, as in: turn: roll up to stand", MaxTitle)
		}
		row := Row{Rest: &Rest{Turn: list[0]}}
		row.Rest.Ends = endOfTurn(list[0])
		for _, c := range list[1:] {
			if err := read1(restClauses, &row, c, "of a turn"); err != nil {
				return Row{}, true, err
			}
		}
		return row, true, nil
	}
	if words, ok := behind(text, "to mend:"); ok && words != "" {
		return Row{Rest: &Rest{Kept: words}}, true, nil
	}
	if f := saidRest.FindStringSubmatch(text); f != nil {
		sp, err := clock.Parse(f[1])
		if err == nil && sp > 0 && sp <= MaxPause {
			return Row{Rest: &Rest{For: sp}}, true, nil
		}
	}
	if shakeOut.MatchString(text) {
		return Row{Rest: &Rest{For: movement.RestSpan, Say: strings.TrimRight(text, ".!")}}, true, nil
	}
	if strings.ContainsAny(text, "0123456789") {
		return Row{}, false, nil
	}
	if _, named := lib.Named(text); named {
		return Row{}, false, nil
	}
	for _, t := range turns {
		if t.words.MatchString(text) {
			return Row{Rest: &Rest{Turn: strings.TrimRight(text, ".!"), Ends: t.ends}}, true, nil
		}
	}
	return Row{}, false, nil
}

var (
	saidRest = regexp.MustCompile(`(?i)^(\d+(?::\d\d| ?(?:s|sec|secs|seconds|min|mins|minute|minutes))) (?:rest|break|pause)$`)
	shakeOut = regexp.MustCompile(`(?i)^(?:shake (?:it|them|everything|your (?:legs|arms|hands|wrists)|the (?:legs|arms|hands|wrists)) out|shake out(?: (?:the|your) (?:legs|arms|hands|wrists))?|have a (?:break|rest|sip|drink)|water break|sip of water)[.!]?$`)
)

func endOfTurn(words string) movement.Posture {
	for _, t := range turns {
		if t.words.MatchString(words) {
			return t.ends
		}
	}
	return movement.NoPosture
}

// restClauses are what can be said of a rest or a turn.
var restClauses = []clause[Row]{
	span("", "", func(r *Row) (clock.Span, bool) { return r.Rest.For, r.IsTurn() && r.Rest.For > 0 }, func(r *Row, s clock.Span) { r.Rest.For = s }, clock.Second),
	{
		form: "ends standing",
		says: func(r *Row) []string {
			switch {
			case !r.IsTurn() || r.Rest.Ends == endOfTurn(r.Rest.Turn):
				return nil
			case r.Rest.Ends == movement.NoPosture:
				return []string{"ends anywhere"}
			}
			return []string{"ends " + r.Rest.Ends.String()}
		},
		reads: func(r *Row, text string) (bool, error) {
			where, ok := behind(text, "ends ")
			if !ok {
				return false, nil
			}
			if strings.EqualFold(where, "anywhere") {
				r.Rest.Ends = movement.NoPosture
				return true, nil
			}
			return true, r.Rest.Ends.UnmarshalText([]byte(strings.ToLower(where)))
		},
	},
	{
		form: "say: …",
		says: func(r *Row) []string {
			if r.Rest.Say == "" || !r.IsTurn() { // a rest says it in its line
				return nil
			}
			return []string{"say: " + r.Rest.Say}
		},
		reads: func(r *Row, text string) (bool, error) {
			words, ok := behind(text, "say:")
			if ok {
				r.Rest.Say = words
			}
			return ok, nil
		},
	},
	flag("at the top", func(r *Row) *bool { return &r.Then }),
	flag("locked", func(r *Row) *bool { return &r.Locked }),
	free("note", func(r *Row) *string { return &r.Note }, MaxNote),
}

// Line is the row in one line that Line reads back, in a session's words: a movement, level and dose, then what else is said of it in clauses.
func (r *Row) Line(m *movement.Movement) string {
	if r.IsRest() {
		list := said1(restClauses, r)
		switch {
		case r.Rest.Kept != "":
			return JoinClauses(append([]string{"to mend: " + r.Rest.Kept}, list...))
		case r.IsTurn():
			return JoinClauses(append([]string{"turn: " + r.Rest.Turn}, list...))
		}
		return JoinClauses(append([]string{r.Spoken(m)}, list...))
	}
	if m == nil {
		return r.Spoken(nil)
	}
	n := *r
	if len(n.PartLevels) > 0 { // its phases say them
		n.Dose.Parts, n.Level = nil, 0
	}
	return JoinClauses(append([]string{n.Spoken(m)}, r.Clauses(m)...))
}

// lineOfClauses reads a line with clauses behind it; ok is false where it has none, or they are none.
func lineOfClauses(text string, lib *movement.Library) (row Row, ok bool, err error) {
	if words, turn := behind(text, "turn:"); turn && words != "" { // it has clauses of its own
		return readTurnLine(text, lib)
	}
	list := SplitClauses(text)
	if len(list) == 0 {
		return row, false, nil
	}
	if row, err = plainLine(list[0], lib); err != nil {
		return row, false, nil
	}
	if row.IsRest() {
		return row, true, row.setRestWords(list[1:])
	}
	m, err := row.Of(lib)
	if err != nil {
		return row, true, err
	}
	if err := row.addWords(list[1:], m); err != nil {
		return row, true, err
	}
	return row, true, row.Contradicts()
}

// MendLine puts a row as it is said in the place of one that is kept to be mended.
type MendLine struct {
	At   Path   `form:"at,parser=encoding.TextUnmarshaler"`
	Line string `form:"line"`
}

// Do puts it there.
func (c *MendLine) Do(s *Session, lib *movement.Library) (Done, error) {
	r := s.Row(c.At)
	if r == nil {
		return Done{}, ErrNoRow
	}
	if r.Rest == nil || r.Rest.Kept == "" {
		return Done{}, errors.New("that row is understood already")
	}
	row, err := s.LineAfter(c.At, c.Line, lib)
	if err != nil {
		return Done{}, err
	}
	if row.Rest != nil && row.Rest.Kept != "" {
		return Done{}, errors.New("say a movement and how much, as in: bird dog 8 each side")
	}
	row.Note = strings.TrimSpace(strings.Trim(r.Note+"\n"+row.Note, "\n"))
	*r = row
	return Done{"Mend " + s.title(c.At, lib), c.At}, nil
}

// Text writes the class as lines that Import reads back as the same class. What documents say and lines do not is left out: the facts of a movement that were
// put right after it was read from its name, and findings set aside.
func (s *Session) Text(lib *movement.Library) string {
	var b strings.Builder
	line := func(list ...string) { b.WriteString(JoinClauses(list) + "\n") }
	line(append([]string{"= class"}, said1(headClauses, s)...)...)
	for i := range s.Sections {
		sec := &s.Sections[i]
		b.WriteString("\n# " + strings.ReplaceAll(sec.Title, "\n", " ") + "\n")
		if list := sec.Clauses(); len(list) > 0 {
			line(append([]string{"= part"}, list...)...)
		}
		for j := range sec.Blocks {
			blk := &sec.Blocks[j]
			if words := blk.Words(); words != "straight" || j > 0 {
				b.WriteString("= " + words + "\n")
			}
			for k := range blk.Rows {
				m, _ := blk.Rows[k].Of(lib)
				b.WriteString(blk.Rows[k].Line(m) + "\n")
			}
		}
	}
	return b.String()
}

// headClauses are what is said of the whole class.
var headClauses = []clause[Session]{
	free("title", func(s *Session) *string { return &s.Title }, MaxTitle),
	{
		form: "20:00 in all",
		says: func(s *Session) []string {
			if s.Target == 0 {
				return nil
			}
			return []string{clockText(s.Target) + " in all"}
		},
		reads: func(s *Session, text string) (bool, error) {
			t, ok := strings.CutSuffix(strings.ToLower(text), " in all")
			if !ok {
				return false, nil
			}
			sp, err := clock.Parse(t)
			if err == nil && (sp <= 0 || sp > MaxTarget) {
				err = fmt.Errorf("%q: expected a length over 0, at most %s", t, MaxTarget)
			}
			s.Target = sp
			return true, err
		},
	},
	free("opening", func(s *Session) *string { return &s.Opening }, MaxNote),
	free("closing", func(s *Session) *string { return &s.Closing }, MaxNote),
	flag("the length counts the whole class", func(s *Session) *bool { return &s.Whole }),
	{
		form: "for: mixed",
		says: func(s *Session) []string {
			if s.Audience.String() == "" {
				return nil
			}
			return []string{"for: " + s.Audience.String()}
		},
		reads: func(s *Session, text string) (bool, error) {
			who, ok := behind(text, "for:")
			if !ok {
				return false, nil
			}
			return true, s.Audience.UnmarshalText([]byte(who))
		},
	},
	{
		form: "about: hips",
		says: func(s *Session) (out []string) {
			for _, f := range s.Focus {
				out = append(out, "about: "+f)
			}
			return out
		},
		reads: func(s *Session, text string) (bool, error) {
			f, ok := behind(text, "about:")
			if !ok {
				return false, nil
			}
			if tooLong(f, maxWord) || len(s.Focus) == maxFocus {
				return true, fmt.Errorf("about: at most %d words of %d characters", maxFocus, maxWord)
			}
			s.Focus = append(s.Focus, f)
			return true, nil
		},
	},
	{
		form: "talk flowing",
		says: func(s *Session) []string {
			if s.Talk == Coached && !s.saidPace {
				return nil
			}
			return []string{"talk " + s.Talk.String()}
		},
		reads: func(s *Session, text string) (bool, error) {
			t, ok := behind(text, "talk ")
			if !ok {
				return false, nil
			}
			s.saidPace = true
			return true, s.Talk.UnmarshalText([]byte(strings.ToLower(t)))
		},
	},
	{
		form: "tempo slow",
		says: func(s *Session) []string {
			if s.Tempo == Even && !s.saidPace {
				return nil
			}
			return []string{"tempo " + s.Tempo.String()}
		},
		reads: func(s *Session, text string) (bool, error) {
			t, ok := behind(text, "tempo ")
			if !ok {
				return false, nil
			}
			s.saidPace = true
			return true, s.Tempo.UnmarshalText([]byte(strings.ToLower(t)))
		},
	},
	{
		form: "120 beats",
		says: func(s *Session) []string {
			if s.BPM == 0 {
				return nil
			}
			return []string{strconv.FormatFloat(s.BPM, 'f', -1, 64) + " beats"}
		},
		reads: func(s *Session, text string) (bool, error) {
			m := Manner{}
			c := mannerClauses(func(m *Manner) *Manner { return m })[2]
			ok, err := c.reads(&m, text)
			if ok && err == nil {
				s.BPM = m.BPM
			}
			return ok, err
		},
	},
	{
		form: "style first_side left",
		says: func(s *Session) (out []string) {
			for _, key := range StyleKeys() {
				if s.Style.saysOf(key) {
					out = append(out, "style "+key+" "+s.Style.Answer(key))
				}
			}
			return out
		},
		reads: func(s *Session, text string) (bool, error) {
			words, ok := behind(text, "style ")
			if !ok {
				return false, nil
			}
			key, answer, _ := strings.Cut(words, " ")
			s.Style.said = true
			return true, s.Style.Set(key, answer)
		},
	},
	free("note", func(s *Session) *string { return &s.Note }, MaxNote),
}

// saysOf tells whether the question is answered.
func (st *Style) saysOf(key string) bool {
	switch key {
	case "mirrored":
		return st.Mirror > 0
	case "switches":
		return st.Switches > 0
	case "countdown":
		return st.Countdown > 0
	}
	return slices.ContainsFunc(questions, func(q question) bool { return q.key == key && q.get(st) > 0 })
}
