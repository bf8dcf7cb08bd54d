package plan

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/strict"
)

// later tells whether a document is of a later minor version, whose extra keys are kept.
func later(v strict.Value, format, want string) bool {
	if format == want {
		return false
	}
	minor, ok := strings.CutPrefix(format, want+".")
	if n, err := strconv.Atoi(minor); !ok || err != nil || n < 0 {
		v.Fail("%q: expected %q", format, want)
	}
	return true
}

// ReadSession reads a wavekine.session/1 document. Errors are *strict.Error with the JSON path.
// Movements are checked against the library.
func ReadSession(text []byte, lib *movement.Library) (*Session, error) {
	r, v := strict.Parse(text)
	if r.Err() != nil {
		return nil, r.Err()
	}
	s := readSession(v, lib)
	if err := r.Err(); err != nil {
		return nil, err
	}
	return s, nil
}

func readSession(v strict.Value, lib *movement.Library) *Session {
	o := v.Object()
	s := &Session{}
	f := o.Need("format")
	s.Format = f.Text(60)
	keep := later(f, s.Format, SessionFormat)
	know := sessionWords{said: keep, built: keep && s.Format != SessionFormatSaid}
	know.led = know.built && s.Format != SessionFormatBuilt
	know.keep = know.led && s.Format != SessionFormatLed
	keep = know.keep
	s.Title = o.Need("title").Text(MaxTitle)
	if e, ok := o.Get("focus"); ok {
		e.List(maxFocus, func(_ int, e strict.Value) { s.Focus = append(s.Focus, e.Text(maxWord)) })
	}
	s.Target = readSpan(o, "target", MaxTarget)
	if e, ok := o.Get("beat"); ok {
		b := e.Object()
		s.BPM = b.Need("bpm").Float(MinBPM, MaxBPM)
		b.Done(false)
	}
	if e, ok := o.Get("pace"); ok {
		s.saidPace = true
		p := e.Object()
		p.Into("talk", 20, &s.Talk)
		p.Into("tempo", 20, &s.Tempo)
		p.Done(false)
	}
	if e, ok := o.Get("style"); ok {
		s.Style = readStyle(e, know.built, know.led, keep)
	}
	o.Into("audience", maxAudience, &s.Audience)
	if e, ok := o.Get("note"); ok {
		s.Note = e.Text(MaxNote)
	}
	if e, ok := o.Get("aside"); ok {
		e.List(maxAside, func(_ int, e strict.Value) { s.Aside = append(s.Aside, readAside(e, keep)) })
	}
	if know.led {
		s.Opening, s.Closing = readWords(o, "opening", MaxNote), readWords(o, "closing", MaxNote)
		s.Whole = oneOf(o, "counts", []string{"moving", "whole"}) == "whole"
	}
	rows := 0
	o.Need("sections").List(maxSections, func(_ int, e strict.Value) {
		so := e.Object()
		sec := Section{Title: so.Need("title").Text(MaxTitle)}
		if know.built {
			sec.Note = readWords(so, "note", MaxNote)
			sec.Manner = readManner(so)
		}
		so.Need("blocks").List(maxBlocks, func(_ int, e strict.Value) {
			b := readBlock(e, lib, know)
			if rows += len(b.Rows); rows > maxRows {
				e.Fail("more than %d rows in all", maxRows)
			}
			sec.Blocks = append(sec.Blocks, b)
		})
		sec.extra = so.Done(keep)
		s.Sections = append(s.Sections, sec)
	})
	s.extra = o.Done(keep)
	return s
}

// readSpan reads a time as text; absent is 0.
func readSpan(o *strict.Object, key string, most clock.Span) clock.Span {
	e, ok := o.Get(key)
	if !ok {
		return 0
	}
	text := e.Text(20)
	sp, err := clock.Parse(text)
	switch {
	case err != nil:
		e.Wrap(err)
	case sp <= 0 || sp > most:
		e.Fail("%q: expected a time over 0, at most %s", text, most)
	}
	return sp
}

func oneOf(o *strict.Object, key string, words []string) string {
	e, ok := o.Get(key)
	if !ok {
		return ""
	}
	t := e.Text(40)
	if !slices.Contains(words, t) {
		e.Fail("%q: expected one of %s", t, strings.Join(words, ", "))
	}
	return t
}

func readStyle(v strict.Value, built, led, keep bool) Style {
	o := v.Object()
	st := Style{said: true}
	for _, q := range questions {
		if q.key == "paced" && !built || q.key == "offered" && !led {
			continue
		}
		words := q.words
		if q.key == "sets" && !built {
			words = words[AskSets-1:]
		}
		q.set(&st, uint8(1+slices.Index(q.words, oneOf(o, q.key, words)))) // one that is not said is 0
	}
	if e, ok := o.Get("mirrored"); ok {
		st.Mirror = NotMirrored
		if e.Bool() {
			st.Mirror = Mirrored
		}
	}
	if e, ok := o.Get("switches"); ok {
		st.Switches = e.Int(1, 2)
	}
	if e, ok := o.Get("countdown"); ok {
		st.Countdown = e.Int(0, maxCountdown)
	}
	st.extra = o.Done(keep)
	return st
}

// ReadStyle reads a style by itself, as a house keeps it; nothing is the product's own.
func ReadStyle(text []byte) (Style, error) {
	if len(text) == 0 {
		return Style{}, nil
	}
	r, v := strict.Parse(text)
	if r.Err() != nil {
		return Style{}, r.Err()
	}
	st := readStyle(v, true, true, false)
	return st, r.Err()
}

// sessionWords are what a version of the format knows.
type sessionWords struct {
	said  bool // movements read from their names
	built bool // how a class is built
	led   bool // how it is led
	keep  bool // it is a later one: keys that nobody knows are kept
}

func readBlock(v strict.Value, lib *movement.Library, know sessionWords) Block {
	o := v.Object()
	b := Block{Rounds: 1}
	rule := o.Need("rule")
	o.Into("rule", 20, &b.Rule)
	if b.Rule > Rounds && !know.built {
		rule.Fail("%q comes with %s", b.Rule, SessionFormatBuilt)
	}
	if e, ok := o.Get("rounds"); ok {
		b.Rounds = e.Int(1, MaxRounds)
		if b.Rule != Rounds {
			e.Fail("only a block with the rule rounds has rounds")
		}
	}
	b.On, b.Off = readSpan(o, "on", MaxPause), readSpan(o, "off", MaxPause)
	b.Rest = readSpan(o, "rest", MaxPause)
	switch timed := b.Rule == Rounds || b.Rule == Chain && know.built; {
	case !timed && (b.On > 0 || b.Off > 0):
		v.Fail("on and off times belong to the rule rounds")
	case b.Off > 0 && b.On == 0:
		v.Fail("an off time needs an on time")
	}
	if know.built {
		readBuilt(o, &b)
	}
	if b.Rule == BuildUp {
		o.Need("parts").List(maxRows, func(_ int, e strict.Value) { b.Rows = append(b.Rows, readRow(e, lib, know)) })
		if len(b.Rows) == 0 && v.Sound() {
			v.Fail("a build up has at least one part")
		}
		if e, ok := o.Get("rows"); ok {
			e.List(maxRows, func(_ int, e strict.Value) {
				r := readRow(e, lib, know)
				r.Then = true
				b.Rows = append(b.Rows, r)
			})
		}
	} else {
		o.Need("rows").List(maxRows, func(_ int, e strict.Value) { b.Rows = append(b.Rows, readRow(e, lib, know)) })
	}
	b.extra = o.Done(know.keep)
	if v.Sound() {
		if place, err := b.check(lib); err != nil {
			v.At(place).Wrap(err)
		}
	}
	return b
}

// readWords reads words that may be left out.
func readWords(o *strict.Object, key string, most int) string {
	e, ok := o.Get(key)
	if !ok {
		return ""
	}
	return e.Text(most)
}

// readManner reads how a part of a class is taught.
func readManner(o *strict.Object) (m Manner) {
	if e, ok := o.Get("pace"); ok {
		p := e.Object()
		if _, ok := p.Get("talk"); ok {
			m.Talk = new(Talk)
			p.Into("talk", 20, m.Talk)
		}
		m.Tempo = readTempo(p)
		if e, ok := p.Get("bpm"); ok {
			m.BPM = e.Float(MinBPM, MaxBPM)
		}
		p.Done(false)
	}
	m.Style = readPartStyle(o)
	return m
}

func readTempo(o *strict.Object) *Tempo {
	if _, ok := o.Get("tempo"); !ok {
		return nil
	}
	t := new(Tempo)
	o.Into("tempo", 20, t)
	return t
}

// readPartStyle reads the answers of a part of a class to the questions of the schools that it can answer for itself.
func readPartStyle(o *strict.Object) (st Style) {
	e, ok := o.Get("style")
	if !ok {
		return st
	}
	so := e.Object()
	for _, q := range questions {
		if !slices.Contains(PartStyleKeys(), q.key) {
			continue
		}
		words := q.words
		if q.key == "first_side" {
			words = words[:2]
		}
		q.set(&st, uint8(1+slices.Index(q.words, oneOf(so, q.key, words))))
	}
	so.Done(false)
	return st
}

// readBuilt reads what SessionFormatBuilt says of a block.
func readBuilt(o *strict.Object, b *Block) {
	b.Title, b.Note = readWords(o, "title", MaxTitle), readWords(o, "note", MaxNote)
	b.Manner = readManner(o)
	if e, ok := o.Get("lead_in"); ok {
		text := e.Text(20)
		sp, err := clock.Parse(text)
		switch {
		case err != nil:
			e.Wrap(err)
		case sp < 0 || sp > MaxPause:
			e.Fail("%q: expected a time from 0 s to 10 min", text)
		}
		b.LeadIn = &sp
	}
	if e, ok := o.Get("last_off"); ok {
		b.NoLastOff = !e.Bool()
	}
	if e, ok := o.Get("between"); ok {
		bo := e.Object()
		if b.Rest > 0 {
			e.Fail("between says the rest: leave out \"rest\"")
		}
		b.Rest = readSpan(bo, "rest", MaxPause)
		b.Between = bo.Need("say").Text(MaxNote)
		if b.Between == "" && b.Rest == 0 {
			e.Fail("nothing is between")
		}
		bo.Done(false)
	}
	o.Into("second_side", 20, &b.Second)
}

func readOverride(o *strict.Object, key string, know sessionWords) *Override {
	e, ok := o.Get(key)
	if !ok {
		return nil
	}
	oo := e.Object()
	ov := &Override{}
	if oo.Into("dose", dose.MaxText*4, &ov.Dose) && ov.Dose.Per != dose.Unsaid {
		e.Fail("the dose of one side cannot itself be per side: %q", ov.Dose)
	}
	if l, ok := oo.Get("level"); ok {
		ov.Level = l.Int(1, maxLevel)
	}
	if know.built {
		ov.Note = readWords(oo, "note", MaxNote)
		ov.Options, ov.Choices = readOptions(oo, know)
		readTold(oo, &ov.Told)
	}
	ov.extra = oo.Done(know.keep)
	return ov
}

func readRow(v strict.Value, lib *movement.Library, know sessionWords) Row {
	o, keep := v.Object(), know.keep
	var r Row
	_, isRest := o.Get("rest")
	if kept, ok := o.Get("kept"); ok && know.built {
		r.Rest = &Rest{Kept: kept.Text(MaxNote)}
		if strings.TrimSpace(r.Rest.Kept) == "" {
			kept.Fail("there is nothing to mend")
		}
		r.Note = readWords(o, "note", MaxNote)
		if e, ok := o.Get("locked"); ok {
			r.Locked = e.Bool()
		}
		r.extra = o.Done(keep)
		return r
	}
	if _, isTurn := o.Get("transition"); isRest || isTurn && know.built {
		r.Rest = &Rest{}
		if isTurn && know.built {
			if isRest {
				v.Fail("a row is a rest or a transition, not both")
			}
			readTurn(o, r.Rest)
		} else {
			r.Rest.For = readSpan(o, "rest", MaxPause)
		}
		if e, ok := o.Get("say"); ok {
			r.Rest.Say = e.Text(MaxNote)
		}
		if e, ok := o.Get("note"); ok {
			r.Note = e.Text(MaxNote)
		}
		if e, ok := o.Get("locked"); ok {
			r.Locked = e.Bool()
		}
		if _, both := o.Get("movement"); both {
			v.Fail("a row is a movement or a rest, not both")
		}
		r.extra = o.Done(keep)
		return r
	}
	if _, nested := o.Get("rows"); nested {
		v.Fail("a block stands where a row is expected: a chain or circuit holds rows, not blocks")
	}
	mv := o.Need("movement")
	if mv.IsText() {
		r.Movement = mv.Text(maxSlug)
		if _, ok := lib.Get(r.Movement); !ok {
			if near := lib.Search(r.Movement); len(near) > 0 {
				mv.Fail("no movement %q in the library; %q is near", r.Movement, near[0].Slug)
			} else {
				mv.Fail("no movement %q in the library", r.Movement)
			}
		}
	} else {
		r.Inline = readInline(mv, know)
	}
	if e, ok := o.Get("level"); ok {
		r.Level = e.Int(1, maxLevel)
		if m, ok := lib.Get(r.Movement); ok && r.Level > len(m.Levels) {
			e.Fail("%s has %d levels", r.Movement, len(m.Levels))
		}
		if in := r.Inline; in != nil && r.Level > max(1, len(in.Levels)) {
			e.Fail("%s has %d levels", Clip(in.Name, maxShown), max(1, len(in.Levels)))
		}
	}
	o.Into("dose", dose.MaxText*4, &r.Dose)
	o.Into("sides", 20, &r.Sides)
	if e, ok := o.Get("locked"); ok {
		r.Locked = e.Bool()
	}
	if e, ok := o.Get("note"); ok {
		r.Note = e.Text(MaxNote)
	}
	r.Options, r.Choices = readOptions(o, know)
	if e, ok := o.Get("demo"); ok {
		r.Demo = e.Int(1, maxLevel)
	}
	r.Right, r.Left = readOverride(o, "right", know), readOverride(o, "left", know)
	if know.built {
		readRowBuilt(o, &r)
	}
	if know.led {
		r.Faces = Faces(slices.Index(faceWords, oneOf(o, "faces", faceWords)) + 1)
		r.OnMat = OnMat(slices.Index(matWords, oneOf(o, "on_mat", matWords)) + 1)
	}
	if r.Inline != nil && r.Inline.Posture != movement.NoPosture && r.Inline.Sides != movement.SidesUnsaid {
		if _, err := r.Of(lib); err != nil { // whatever is read can be timed
			mv.Wrap(err)
		}
	}
	if err := r.Contradicts(); err != nil {
		v.Wrap(err)
	}
	r.extra = o.Done(keep)
	return r
}

// readOptions reads what is offered aloud: levels, and since SessionFormatBuilt words. No levels are offered where the list has none.
func readOptions(o *strict.Object, know sessionWords) (levels []int, choices []string) {
	e, ok := o.Get("options")
	if !ok {
		return nil, nil
	}
	levels = []int{}
	e.List(20, func(_ int, e strict.Value) {
		if know.built && e.IsText() {
			choices = append(choices, e.Text(maxChoice))
			return
		}
		levels = append(levels, e.Int(1, maxLevel))
	})
	return levels, choices
}

func readTold(o *strict.Object, t *Told) {
	t.Say, t.Cue, t.Caution = readWords(o, "say", maxTold), readWords(o, "cue", maxTold), readWords(o, "caution", maxTold)
	t.Tempo = readTempo(o)
}

// readTurn reads a change of position that is led.
func readTurn(o *strict.Object, r *Rest) {
	e := o.Need("transition")
	if r.Turn = strings.TrimSpace(e.Text(MaxTitle)); r.Turn == "" {
		e.Fail("say what the transition is, as in: roll up to stand")
	}
	o.Into("ends", 40, &r.Ends)
	if e, ok := o.Get("seconds"); ok {
		r.For = clock.Seconds(e.Float(1, MaxPause.Seconds()))
	}
}

// readRowBuilt reads what SessionFormatBuilt says of a row.
func readRowBuilt(o *strict.Object, r *Row) {
	readTold(o, &r.Told)
	o.Into("ends", 40, &r.Ends)
	r.Style = readPartStyle(o)
	if e, ok := o.Get("other_side"); ok {
		r.OtherSide = e.Bool()
	}
	r.Once = Once(max(0, slices.Index(onceNames, oneOf(o, "once", onceNames[1:]))))
	if e, ok := o.Get("phases"); ok {
		if _, both := o.Get("dose"); both {
			e.Fail("phases say the dose: leave out \"dose\"")
		}
		if _, both := o.Get("level"); both {
			e.Fail("phases say the level: leave out \"level\"")
		}
		readPhases(e, r)
	}
	if e, ok := o.Get("by_round"); ok {
		e.List(MaxRounds, func(_ int, e strict.Value) {
			co := e.Object()
			var c RoundChange
			if e, ok := co.Get("level"); ok {
				c.Level = e.Int(1, maxLevel)
			}
			if co.Into("dose", dose.MaxText*4, &c.Dose) && c.Dose.Per != r.Dose.Per && r.Dose.Per != dose.Unsaid && c.Dose.Per != dose.Unsaid {
				e.Fail("the dose of a round falls on the sides as the row's does: %q", c.Dose)
			}
			c.On = readSpan(co, "on", MaxPause)
			c.Tempo = readTempo(co)
			if e, ok := co.Get("skip"); ok {
				c.Skip = e.Bool()
			}
			if c.Skip && (c.Level > 0 || !c.Dose.IsZero() || c.On > 0 || c.Tempo != nil) {
				e.Fail("a round in which the row is left out says nothing else of it")
			}
			co.Done(false)
			r.ByRound = append(r.ByRound, c)
		})
	}
	if e, ok := o.Get("words"); ok {
		last := clock.Span(-1)
		e.List(maxTimed, func(_ int, e strict.Value) {
			wo := e.Object()
			at := wo.Need("at")
			w := TimedWord{}
			sp, err := clock.Parse(at.Text(20))
			switch {
			case err != nil:
				at.Wrap(err)
			case sp < 0 || sp > MaxPause*6 || sp <= last:
				at.Fail("times within a row rise, from 0 s")
			}
			w.At, last = sp, sp
			w.Say = wo.Need("say").Text(maxTold)
			wo.Done(false)
			r.Timed = append(r.Timed, w)
		})
	}
}

// readPhases reads a dose in parts that are each at a level.
func readPhases(v strict.Value, r *Row) {
	v.List(maxPhases, func(_ int, e strict.Value) {
		po := e.Object()
		var d dose.Dose
		level := po.Need("level").Int(1, maxLevel)
		at := po.Need("dose")
		po.Into("dose", dose.MaxText*4, &d)
		if d.SetCount() > 1 || d.Per != dose.Unsaid || len(d.Parts) == 0 {
			at.Fail("a phase is done once through, without sets or sides: %q", d)
		}
		po.Done(false)
		for _, p := range d.Parts {
			r.Dose.Parts = append(r.Dose.Parts, p)
			r.PartLevels = append(r.PartLevels, level)
		}
	})
	if len(r.PartLevels) > 0 {
		r.Level = r.PartLevels[0]
	} else {
		v.Fail("there is no phase")
	}
}

func readInline(v strict.Value, know sessionWords) *Inline {
	o := v.Object()
	in := &Inline{Name: o.Need("name").Text(maxInlineName)}
	if strings.TrimSpace(in.Name) == "" {
		v.Fail("the movement has no name")
	}
	o.Need("posture")
	o.Into("posture", 40, &in.Posture)
	o.Need("sides")
	o.Into("sides", 20, &in.Sides)
	if e, ok := o.Get("seconds_per_rep"); ok {
		in.PerRep = clock.Seconds(e.Float(.2, 300))
	}
	if e, ok := o.Get("effort"); ok {
		in.Effort = e.Float(0, 10)
	}
	if know.said {
		in.readSaid(o)
	}
	if e, ok := o.Get("levels"); ok && know.built {
		e.List(maxLevel, func(_ int, e strict.Value) { in.Levels = append(in.Levels, e.Text(maxChoice)) })
	}
	in.extra = o.Done(know.keep)
	return in
}

// readSaid reads what a later version says of a movement that is written into a plan.
func (in *Inline) readSaid(o *strict.Object) {
	o.Into("ends", 40, &in.Ends)
	words := func(key string, most int, visit func(w string)) {
		if e, ok := o.Get(key); ok {
			e.List(most, func(_ int, e strict.Value) {
				w := e.Text(maxWord)
				if err := in.told(key, w, visit); err != nil {
					e.Wrap(err)
				}
			})
		}
	}
	words("spine", 4, func(w string) { in.Spine = append(in.Spine, movement.Direction(w)) })
	words("loads", maxInlineLoads, func(w string) { in.Loads = append(in.Loads, movement.Load(w)) })
	words("kit", maxInlineKit, func(w string) { in.Kit = append(in.Kit, w) })
	words("read", len(movement.Facts()), func(w string) { in.Read = append(in.Read, movement.Fact(w)) })
	if e, ok := o.Get("regions"); ok {
		in.Regions = map[string]float64{}
		ro := e.Object()
		for _, name := range movement.Regions() {
			if v, has := ro.Get(name); has {
				in.Regions[name] = v.Float(0, 1)
			}
		}
		ro.Done(false)
	}
	for key, to := range map[string]*bool{"stretch": &in.Stretch, "is_rest": &in.Rest} {
		if e, ok := o.Get(key); ok {
			*to = e.Bool()
		}
	}
}

// Limits of a movement that is written into a plan; judgement.
const (
	maxInlineLoads = 10
	maxInlineKit   = 10
)

// told takes a word of a list, each once, where it is one.
func (in *Inline) told(key, w string, put func(w string)) error {
	ok, have := strings.TrimSpace(w) != "", []string(nil)
	switch key {
	case "spine":
		ok = slices.Contains(movement.Directions(), movement.Direction(w))
		for _, d := range in.Spine {
			have = append(have, string(d))
		}
	case "loads":
		ok = movement.IsLoad(w)
		for _, l := range in.Loads {
			have = append(have, string(l))
		}
	case "kit":
		have = in.Kit
	case "read":
		ok = slices.Contains(movement.Facts(), movement.Fact(w))
		for _, f := range in.Read {
			have = append(have, string(f))
		}
	}
	if !ok {
		return fmt.Errorf("%q is not one of the words of %s", w, key)
	}
	if slices.Contains(have, w) {
		return fmt.Errorf("%q stands twice", w)
	}
	put(w)
	return nil
}

func readAside(v strict.Value, keep bool) Aside {
	o := v.Object()
	a := Aside{Rule: o.Need("rule").Text(maxRule), Reason: o.Need("reason").Text(maxReason)}
	if e, ok := o.Get("about"); ok {
		a.About = e.Text(maxAbout)
	}
	if e, ok := o.Get("amount"); ok {
		a.Amount = e.Float(0, maxAmount)
	}
	a.extra = o.Done(keep)
	return a
}

// ReadSeries reads a wavekine.series/1 document. Errors are *strict.Error with the JSON path.
func ReadSeries(text []byte, lib *movement.Library) (*Series, error) {
	r, v := strict.Parse(text)
	if r.Err() != nil {
		return nil, r.Err()
	}
	o := v.Object()
	s := &Series{}
	f := o.Need("format")
	s.Format = f.Text(60)
	keep := later(f, s.Format, SeriesFormat)
	know := words{laid: keep, board: keep && s.Format != SeriesFormatLaid, keep: keep} // each version knows the words of those before
	if s.Format == SeriesFormatLaid || s.Format == SeriesFormatBoard {
		keep, know.keep = false, false
	}
	if know.laid {
		if e, ok := o.Get("brief"); ok {
			s.Brief = e.Text(maxBrief)
		}
		if e, ok := o.Get("seed"); ok {
			s.Seed = e.Int(0, 1<<31-1)
		}
	}
	s.Title = o.Need("title").Text(MaxTitle)
	if e, ok := o.Get("note"); ok {
		s.Note = e.Text(MaxNote)
	}
	st := o.Need("start")
	if d, err := ParseDate(st.Text(20)); err == nil {
		s.Start = d
	} else {
		st.Fail("expected a date that exists, as in 2026-05-01")
	}
	if e, ok := o.Get("time"); ok {
		s.Time = e.Text(maxWord)
		if _, err := time.Parse("15:04", s.Time); err != nil {
			e.Fail("%q: expected a time of day, as in 18:30", s.Time)
		}
	}
	if e, ok := o.Get("zone"); ok {
		s.Zone = e.Text(60)
		if _, err := time.LoadLocation(s.Zone); err != nil || s.Zone == "" || s.Zone == "Local" {
			e.Fail("%q: expected a time zone, as in Europe/Lisbon", s.Zone)
		}
	}
	if e, ok := o.Get("minutes"); ok {
		s.Minutes = e.Int(1, maxMinutes)
	}
	s.Shape = oneOf(o, "shape", shapes[1:])
	if e, ok := o.Get("rest_days"); ok {
		e.List(7, func(_ int, e strict.Value) {
			w := e.Text(20)
			if !slices.Contains(weekdays, w) {
				e.Fail("%q: expected a weekday, as in sunday", w)
			}
			s.RestDays = append(s.RestDays, w)
		})
	}
	if e, ok := o.Get("ladders"); ok {
		e.List(maxLadders, func(_ int, e strict.Value) { s.Ladders = append(s.Ladders, readLadder(e, lib, know)) })
	}
	o.Need("days").List(MaxDays, func(_ int, e strict.Value) { s.Days = append(s.Days, readDay(e, lib, know)) })
	for i := range s.Days {
		if from := s.Days[i].From.Day; from > len(s.Days) {
			v.Fail("days[%d] is made from day %d, and there are %d days", i, from, len(s.Days))
		}
	}
	s.extra = o.Done(keep)
	if err := r.Err(); err != nil {
		return nil, err
	}
	return s, nil
}

// words are what a version of the format knows.
type words struct {
	laid  bool // how a series was laid
	board bool // what the board can say
	keep  bool // it is a later one: keys that nobody knows are kept
}

func readLadder(v strict.Value, lib *movement.Library, know words) Ladder {
	o := v.Object()
	known := func(e strict.Value, slug string) *movement.Movement {
		m, ok := lib.Get(slug)
		if !ok {
			e.Fail("no movement %q in the library", slug)
		}
		return m
	}
	mv := o.Need("movement")
	l := Ladder{Movement: mv.Text(maxSlug)}
	own := known(mv, l.Movement)
	steps := o.Need("steps")
	steps.List(maxRungs, func(_ int, e strict.Value) {
		so := e.Object()
		rung, m := Rung{Level: 1}, own
		if know.board {
			if of, has := so.Get("movement"); has {
				rung.Movement = of.Text(maxSlug)
				m = known(of, rung.Movement)
				if rung.Movement == l.Movement {
					of.Fail("%q is the ladder's own movement: leave it out", rung.Movement)
				}
			}
		}
		if lv, has := so.Get("level"); has {
			rung.Level = lv.Int(1, maxLevel)
			if m != nil && rung.Level > len(m.Levels) {
				lv.Fail("%s has %d levels", m.Slug, len(m.Levels))
			}
		}
		so.Into("dose", dose.MaxText*4, &rung.Dose)
		so.Done(false)
		l.Steps = append(l.Steps, rung)
	})
	if len(l.Steps) == 0 {
		steps.Fail("a ladder has at least one step")
	}
	if know.board {
		o.Into("climb", maxWord, &l.Climb)
		if e, ok := o.Get("pinned"); ok {
			l.Pinned = e.Bool()
		}
		if e, ok := o.Get("because"); ok {
			l.Because = e.Text(MaxTitle)
		}
	}
	l.extra = o.Done(know.keep)
	return l
}

func readDay(v strict.Value, lib *movement.Library, know words) Day {
	o := v.Object()
	var d Day
	if e, ok := o.Get("rest"); ok {
		d.Rest = e.Bool()
	}
	if e, ok := o.Get("title"); ok {
		d.Title = e.Text(MaxTitle)
	}
	if e, ok := o.Get("note"); ok {
		d.Note = e.Text(MaxNote)
	}
	if e, ok := o.Get("session"); ok {
		if d.Rest {
			e.Fail("a rest day has no session")
		}
		if e.IsText() {
			d.Ref = e.Text(maxSlug)
		} else {
			d.Session = readSession(e, lib)
		}
	}
	if e, ok := o.Get("pinned"); ok {
		e.List(maxPinned, func(_ int, e strict.Value) {
			slug := e.Text(maxSlug)
			if _, ok := lib.Get(slug); !ok {
				e.Fail("no movement %q in the library", Clip(slug, maxShown))
			}
			d.Pinned = append(d.Pinned, slug)
		})
	}
	if know.laid {
		readLaid(o, &d)
	}
	if know.board {
		readBoard(o, &d)
	}
	d.extra = o.Done(know.keep)
	return d
}

// maxLoad is the highest load a day can be meant for: effort 10 over three hours.
const maxLoad = 1800

// readBoard reads what the board says of a day.
func readBoard(o *strict.Object, d *Day) {
	if e, ok := o.Get("target"); ok {
		d.Target = e.Float(0, maxLoad)
	}
	if e, ok := o.Get("pin"); ok {
		e.List(len(pinWords), func(_ int, e strict.Value) {
			said := e.Text(maxWord)
			i := slices.IndexFunc(pinWords, func(w pinWord) bool { return w.word == said })
			if i < 0 {
				e.Fail("%q: expected day, theme or kind", Clip(said, maxShown))
				return
			}
			*pinWords[i].of(&d.Pin) = true
		})
	}
	if e, ok := o.Get("made_from"); ok {
		mo := e.Object()
		if e, ok := mo.Get("session"); ok {
			d.From.Session = e.Text(maxSlug)
		}
		if e, ok := mo.Get("rev"); ok {
			d.From.Rev = e.Int(1, 1<<31-1)
		}
		if e, ok := mo.Get("day"); ok {
			d.From.Day = e.Int(1, MaxDays)
		}
		if e, ok := mo.Get("layout"); ok {
			d.From.Layout = e.Bool()
		}
		mo.Done(false)
	}
}

// readLaid reads what a layout says of a day.
func readLaid(o *strict.Object, d *Day) {
	d.Kind = oneOf(o, "kind", dayKinds)
	if e, ok := o.Get("kind"); ok && (d.Kind == "rest") != d.Rest {
		e.Fail("%q: a day of rest is one of rest in both words", d.Kind)
	}
	if e, ok := o.Get("theme"); ok {
		d.Theme = e.Text(maxSlug)
		if !slices.Contains(movement.Themes(), d.Theme) {
			e.Fail("%q: expected one of %s", d.Theme, strings.Join(movement.Themes(), ", "))
		}
	}
	if e, ok := o.Get("peak"); ok {
		if d.Peak = e.Bool(); d.Peak && d.Rest {
			e.Fail("a rest day is no peak")
		}
	}
	if e, ok := o.Get("because"); ok {
		d.Because = e.Text(MaxTitle)
	}
	if e, ok := o.Get("rows"); ok {
		e.List(maxWhys, func(_ int, e strict.Value) {
			ro := e.Object()
			d.Rows = append(d.Rows, Why{ro.Need("movement").Text(maxSlug), ro.Need("because").Text(MaxTitle)})
			ro.Done(false)
		})
	}
}

// maxWhys is of how many rows of a class the reason is told.
const maxWhys = 200
