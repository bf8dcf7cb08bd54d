package plan

import (
	"slices"
	"time"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/strict"
)

func said(sp clock.Span) string {
	if sp == 0 {
		return ""
	}
	return sp.Said()
}

// MarshalJSON writes the document in its published form.
func (s *Session) MarshalJSON() ([]byte, error) {
	type beat struct {
		BPM float64 `json:"bpm"`
	}
	type pace struct {
		Talk  string `json:"talk"`
		Tempo string `json:"tempo"`
	}
	out := struct {
		Format   string   `json:"format"`
		Title    string   `json:"title"`
		Focus    []string `json:"focus,omitempty"`
		Target   string   `json:"target,omitempty"`
		Beat     *beat    `json:"beat,omitempty"`
		Pace     *pace    `json:"pace,omitempty"`
		Style    *Style   `json:"style,omitempty"`
		Audience string   `json:"audience,omitempty"`
		Note     string   `json:"note,omitempty"`
		Opening  string   `json:"opening,omitempty"`
		Closing  string   `json:"closing,omitempty"`
		Counts   string   `json:"counts,omitempty"`
		Aside    []Aside  `json:"aside,omitempty"`
	}{Format: s.Format, Title: s.Title, Focus: s.Focus, Audience: s.Audience.String(), Note: s.Note, Opening: s.Opening, Closing: s.Closing, Aside: s.Aside}
	if out.Format == "" {
		out.Format = SessionFormat
	}
	if out.Format == SessionFormat && s.saidWords() {
		out.Format = SessionFormatSaid
	}
	if (out.Format == SessionFormat || out.Format == SessionFormatSaid) && s.builtWords() {
		out.Format = SessionFormatBuilt
	}
	if (out.Format == SessionFormat || out.Format == SessionFormatSaid || out.Format == SessionFormatBuilt) && s.ledWords() {
		out.Format = SessionFormatLed
	}
	if s.Whole {
		out.Counts = "whole"
	}
	if s.Target > 0 {
		out.Target = clockText(s.Target)
	}
	if s.BPM > 0 {
		out.Beat = &beat{s.BPM}
	}
	if s.saidPace || s.Talk != Coached || s.Tempo != Even {
		out.Pace = &pace{s.Talk.String(), s.Tempo.String()}
	}
	if !s.Style.isZero() {
		out.Style = &s.Style
	}
	return strict.JoinList(out, "sections", s.Sections, s.extra)
}

// clockText is "20:00", or "0.5 s" where a clock time would lose milliseconds.
func clockText(sp clock.Span) string {
	if sp%clock.Second != 0 {
		return sp.Said()
	}
	return sp.String()
}

func (st *Style) isZero() bool {
	return !st.said && st.Mirror == 0 && st.Switches == 0 && st.Countdown == 0 && !slices.ContainsFunc(questions, func(q question) bool { return q.get(st) > 0 })
}

// MarshalJSON writes what was said of the style.
func (st *Style) MarshalJSON() ([]byte, error) {
	out := struct {
		First    string `json:"first_side,omitempty"`
		Pelvis   string `json:"pelvis,omitempty"`
		Breath   string `json:"breath,omitempty"`
		Mirrored *bool  `json:"mirrored,omitempty"`
		Order    string `json:"order,omitempty"`
		Sides    string `json:"sides,omitempty"`
		Sets     string `json:"sets,omitempty"`
		Count    string `json:"count,omitempty"`
		Switches int    `json:"switches,omitempty"`
		WarmUp   string `json:"warm_up,omitempty"`
		Symmetry string `json:"symmetry,omitempty"`
		Peak     string `json:"peak,omitempty"`
		Paced    string `json:"paced,omitempty"`
		Seen     string `json:"seen,omitempty"`
		Offered  string `json:"offered,omitempty"`
		Down     int    `json:"countdown,omitempty"`
	}{Switches: st.Switches, Down: st.Countdown}
	into := map[string]*string{
		"first_side": &out.First, "pelvis": &out.Pelvis, "breath": &out.Breath, "order": &out.Order, "sides": &out.Sides, "sets": &out.Sets, "count": &out.Count,
		"warm_up": &out.WarmUp, "symmetry": &out.Symmetry, "peak": &out.Peak, "paced": &out.Paced, "seen": &out.Seen, "offered": &out.Offered,
	}
	for _, q := range questions {
		if q.get(st) > 0 {
			*into[q.key] = q.word(st)
		}
	}
	if st.Mirror > 0 {
		m := st.Mirror == Mirrored
		out.Mirrored = &m
	}
	return strict.Join(out, st.extra)
}

// partStyle is the style of a part of a class as it is written; nil where nothing is said.
func partStyle(st *Style) *Style {
	if st.isZero() {
		return nil
	}
	return st
}

// mannerPace is the pace of a part of a class as it is written.
type mannerPace struct {
	Talk  string  `json:"talk,omitempty"`
	Tempo string  `json:"tempo,omitempty"`
	BPM   float64 `json:"bpm,omitempty"`
}

func tempoWord(t *Tempo) string {
	if t == nil {
		return ""
	}
	return t.String()
}

func (m *Manner) pace() *mannerPace {
	if m.Talk == nil && m.Tempo == nil && m.BPM == 0 {
		return nil
	}
	out := &mannerPace{Tempo: tempoWord(m.Tempo), BPM: m.BPM}
	if m.Talk != nil {
		out.Talk = m.Talk.String()
	}
	return out
}

// MarshalJSON writes the section.
func (s Section) MarshalJSON() ([]byte, error) {
	return strict.JoinList(struct {
		Title string      `json:"title"`
		Note  string      `json:"note,omitempty"`
		Pace  *mannerPace `json:"pace,omitempty"`
		Style *Style      `json:"style,omitempty"`
	}{s.Title, s.Note, s.Manner.pace(), partStyle(&s.Manner.Style)}, "blocks", s.Blocks, s.extra)
}

// MarshalJSON writes the block.
func (b Block) MarshalJSON() ([]byte, error) {
	type between struct {
		Rest string `json:"rest,omitempty"`
		Say  string `json:"say"`
	}
	out := struct {
		Rule    Rule        `json:"rule"`
		Title   string      `json:"title,omitempty"`
		Note    string      `json:"note,omitempty"`
		Pace    *mannerPace `json:"pace,omitempty"`
		Style   *Style      `json:"style,omitempty"`
		Rounds  int         `json:"rounds,omitempty"`
		On      string      `json:"on,omitempty"`
		Off     string      `json:"off,omitempty"`
		LeadIn  string      `json:"lead_in,omitempty"`
		LastOff *bool       `json:"last_off,omitempty"`
		Rest    string      `json:"rest,omitempty"`
		Between *between    `json:"between,omitempty"`
		Second  string      `json:"second_side,omitempty"`
		Parts   []Row       `json:"parts,omitempty"`
	}{Rule: b.Rule, Title: b.Title, Note: b.Note, Pace: b.Manner.pace(), Style: partStyle(&b.Manner.Style), On: said(b.On), Off: said(b.Off), Rest: said(b.Rest)}
	if b.Rule == Rounds {
		out.Rounds = max(1, b.Rounds)
	}
	if sp, ok := b.Leads(); ok {
		out.LeadIn = sp.Said()
	}
	if b.NoLastOff {
		out.LastOff = new(bool)
	}
	if b.Between != "" {
		out.Rest, out.Between = "", &between{said(b.Rest), b.Between}
	}
	if b.Second != SecondClimbs {
		out.Second = b.Second.String()
	}
	rows := b.Rows
	if b.Rule == BuildUp {
		n := b.PartsDone()
		out.Parts, rows = rows[:n], rows[n:]
	}
	return strict.JoinList(out, "rows", rows, b.extra)
}

// MarshalJSON writes the override.
func (o *Override) MarshalJSON() ([]byte, error) {
	return strict.Join(struct {
		Dose    string `json:"dose,omitempty"`
		Level   int    `json:"level,omitempty"`
		Note    string `json:"note,omitempty"`
		Options []any  `json:"options,omitzero"`
		tells
	}{o.Dose.String(), o.Level, o.Note, offered(o.Options, o.Choices), o.Told.tells()}, o.extra)
}

// tells are the words of Told as they are written.
type tells struct {
	Say     string `json:"say,omitempty"`
	Cue     string `json:"cue,omitempty"`
	Caution string `json:"caution,omitempty"`
	Tempo   string `json:"tempo,omitempty"`
}

func (t *Told) tells() tells { return tells{t.Say, t.Cue, t.Caution, tempoWord(t.Tempo)} }

// offered are options as they are written: levels, then words; nil where nothing is said of them.
func offered(levels []int, choices []string) []any {
	if levels == nil && choices == nil {
		return nil
	}
	out := []any{}
	for _, n := range levels {
		out = append(out, n)
	}
	for _, c := range choices {
		out = append(out, c)
	}
	return out
}

// MarshalJSON writes the inline movement.
func (in *Inline) MarshalJSON() ([]byte, error) {
	return strict.Join(struct {
		Name    string           `json:"name"`
		Posture movement.Posture `json:"posture"`
		Sides   movement.Sides   `json:"sides"`
		PerRep  float64          `json:"seconds_per_rep,omitempty"`
		Effort  float64          `json:"effort,omitempty"`

		Ends    movement.Posture     `json:"ends,omitzero"`
		Spine   []movement.Direction `json:"spine,omitempty"`
		Regions map[string]float64   `json:"regions,omitempty"`
		Loads   []movement.Load      `json:"loads,omitempty"`
		Stretch bool                 `json:"stretch,omitempty"`
		Rest    bool                 `json:"is_rest,omitempty"`
		Kit     []string             `json:"kit,omitempty"`
		Read    []movement.Fact      `json:"read,omitempty"`
		Levels  []string             `json:"levels,omitempty"`
	}{in.Name, in.Posture, in.Sides, in.PerRep.Seconds(), in.Effort, in.Ends, in.Spine, in.Regions, in.Loads, in.Stretch, in.Rest, in.Kit, in.Read, in.Levels}, in.extra)
}

// saidWords tells whether the session says anything that SessionFormatSaid has.
func (s *Session) saidWords() (yes bool) {
	s.Each(func(_ Path, _ *Block, r *Row) { yes = yes || r.Inline != nil && r.Inline.said() })
	s.eachDose(func(d *dose.Dose) { yes = yes || d.Later() })
	return yes
}

// MarshalJSON writes the row.
func (r Row) MarshalJSON() ([]byte, error) {
	if r.IsTurn() {
		return strict.Join(struct {
			Turn    string           `json:"transition"`
			Ends    movement.Posture `json:"ends,omitzero"`
			Seconds float64          `json:"seconds,omitempty"`
			Say     string           `json:"say,omitempty"`
			Note    string           `json:"note,omitempty"`
			Locked  bool             `json:"locked,omitempty"`
		}{r.Rest.Turn, r.Rest.Ends, r.Rest.For.Seconds(), r.Rest.Say, r.Note, r.Locked}, r.extra)
	}
	if r.IsKept() {
		return strict.Join(struct {
			Kept   string `json:"kept"`
			Note   string `json:"note,omitempty"`
			Locked bool   `json:"locked,omitempty"`
		}{r.Rest.Kept, r.Note, r.Locked}, r.extra)
	}
	if r.IsRest() {
		rest := r.Rest.For
		if rest == 0 {
			rest = movement.RestSpan
		}
		return strict.Join(struct {
			Rest   string `json:"rest"`
			Say    string `json:"say,omitempty"`
			Note   string `json:"note,omitempty"`
			Locked bool   `json:"locked,omitempty"`
		}{rest.Said(), r.Rest.Say, r.Note, r.Locked}, r.extra)
	}
	type phase struct {
		Level int    `json:"level"`
		Dose  string `json:"dose"`
	}
	type change struct {
		Level int    `json:"level,omitempty"`
		Dose  string `json:"dose,omitempty"`
		On    string `json:"on,omitempty"`
		Tempo string `json:"tempo,omitempty"`
		Skip  bool   `json:"skip,omitempty"`
	}
	type timed struct {
		At  string `json:"at"`
		Say string `json:"say"`
	}
	out := struct {
		Movement any              `json:"movement"`
		Level    int              `json:"level,omitempty"`
		Dose     string           `json:"dose,omitempty"`
		Phases   []phase          `json:"phases,omitempty"`
		Sides    string           `json:"sides,omitempty"`
		Other    bool             `json:"other_side,omitempty"`
		Once     string           `json:"once,omitempty"`
		Right    *Override        `json:"right,omitempty"`
		Left     *Override        `json:"left,omitempty"`
		ByRound  []change         `json:"by_round,omitempty"`
		Ends     movement.Posture `json:"ends,omitzero"`
		Style    *Style           `json:"style,omitempty"`
		Faces    string           `json:"faces,omitempty"`
		OnMat    string           `json:"on_mat,omitempty"`
		Locked   bool             `json:"locked,omitempty"`
		Note     string           `json:"note,omitempty"`
		tells
		Options []any   `json:"options,omitzero"`
		Demo    int     `json:"demo,omitempty"`
		Words   []timed `json:"words,omitempty"`
	}{
		Movement: r.Movement, Level: r.Level, Dose: r.Dose.String(), Sides: r.Sides.String(), Other: r.OtherSide, Once: onceNames[r.Once], Right: r.Right, Left: r.Left, Ends: r.Ends,
		Style: partStyle(&r.Style), Faces: r.Faces.String(), OnMat: r.OnMat.String(), Locked: r.Locked, Note: r.Note, tells: r.Told.tells(), Options: offered(r.Options, r.Choices), Demo: r.Demo,
	}
	if len(r.PartLevels) > 0 {
		out.Level, out.Dose = 0, ""
		for _, p := range r.phases() {
			out.Phases = append(out.Phases, phase{p.Level, p.Dose.String()})
		}
	}
	for _, c := range r.ByRound {
		out.ByRound = append(out.ByRound, change{c.Level, c.Dose.String(), said(c.On), tempoWord(c.Tempo), c.Skip})
	}
	for _, w := range r.Timed {
		out.Words = append(out.Words, timed{w.At.Said(), w.Say})
	}
	if r.Inline != nil {
		out.Movement = r.Inline
	}
	return strict.Join(out, r.extra)
}

// Phase is a part of a row's dose at a level of its own.
type Phase struct {
	Level int
	Dose  dose.Dose
}

// phases are the parts of a row's dose, those of one level together.
func (r *Row) phases() (out []Phase) {
	for i, p := range r.Dose.Parts {
		n := len(out)
		if n > 0 && out[n-1].Level == r.PartLevels[i] {
			out[n-1].Dose.Parts = append(out[n-1].Dose.Parts, p)
			continue
		}
		out = append(out, Phase{r.PartLevels[i], dose.Dose{Parts: []dose.Part{p}}})
	}
	return out
}

// MarshalJSON writes what was set aside.
func (a Aside) MarshalJSON() ([]byte, error) {
	return strict.Join(struct {
		Rule   string  `json:"rule"`
		About  string  `json:"about,omitempty"`
		Amount float64 `json:"amount,omitempty"`
		Reason string  `json:"reason"`
	}{a.Rule, a.About, a.Amount, a.Reason}, a.extra)
}

// MarshalJSON writes the document in its published form.
func (s *Series) MarshalJSON() ([]byte, error) {
	days := s.Days
	if days == nil {
		days = []Day{}
	}
	format := s.Format
	if format == "" {
		format = SeriesFormat
	}
	if format == SeriesFormat && s.laid() {
		format = SeriesFormatLaid
	}
	if (format == SeriesFormat || format == SeriesFormatLaid) && s.boarded() {
		format = SeriesFormatBoard
	}
	return strict.Join(struct {
		Format   string   `json:"format"`
		Title    string   `json:"title"`
		Note     string   `json:"note,omitempty"`
		Brief    string   `json:"brief,omitempty"`
		Seed     int      `json:"seed,omitempty"`
		Start    string   `json:"start"`
		Time     string   `json:"time,omitempty"`
		Zone     string   `json:"zone,omitempty"`
		Minutes  int      `json:"minutes,omitempty"`
		Shape    string   `json:"shape,omitempty"`
		RestDays []string `json:"rest_days,omitempty"`
		Ladders  []Ladder `json:"ladders,omitempty"`
		Days     []Day    `json:"days"`
	}{format, s.Title, s.Note, s.Brief, s.Seed, s.Start.Format(time.DateOnly), s.Time, s.Zone, s.Minutes, s.Shape, s.RestDays, s.Ladders, days}, s.extra)
}

// MarshalJSON writes the day.
func (d Day) MarshalJSON() ([]byte, error) {
	out := struct {
		Rest    bool     `json:"rest,omitempty"`
		Title   string   `json:"title,omitempty"`
		Note    string   `json:"note,omitempty"`
		Session any      `json:"session,omitempty"`
		Pinned  []string `json:"pinned,omitempty"`
		Kind    string   `json:"kind,omitempty"`
		Theme   string   `json:"theme,omitempty"`
		Peak    bool     `json:"peak,omitempty"`
		Because string   `json:"because,omitempty"`
		Rows    []Why    `json:"rows,omitempty"`
		Target  float64  `json:"target,omitempty"`
		Pin     []string `json:"pin,omitempty"`
		From    Made     `json:"made_from,omitzero"`
	}{d.Rest, d.Title, d.Note, nil, d.Pinned, d.Kind, d.Theme, d.Peak, d.Because, d.Rows, d.Target, d.Pin.words(), d.From}
	switch {
	case d.Session != nil:
		out.Session = d.Session
	case d.Ref != "":
		out.Session = d.Ref
	}
	return strict.Join(out, d.extra)
}

// MarshalJSON writes the ladder.
func (l Ladder) MarshalJSON() ([]byte, error) {
	type rung struct {
		Movement string `json:"movement,omitempty"`
		Level    int    `json:"level"`
		Dose     string `json:"dose,omitempty"`
	}
	steps := make([]rung, len(l.Steps))
	for i, s := range l.Steps {
		steps[i] = rung{s.Movement, s.Level, s.Dose.String()}
	}
	return strict.Join(struct {
		Movement string `json:"movement"`
		Steps    []rung `json:"steps"`
		Climb    string `json:"climb,omitempty"`
		Pinned   bool   `json:"pinned,omitempty"`
		Because  string `json:"because,omitempty"`
	}{l.Movement, steps, l.Climb.String(), l.Pinned, l.Because}, l.extra)
}
