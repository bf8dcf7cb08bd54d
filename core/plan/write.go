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
		Aside    []Aside  `json:"aside,omitempty"`
	}{Format: s.Format, Title: s.Title, Focus: s.Focus, Audience: s.Audience.String(), Note: s.Note, Aside: s.Aside}
	if out.Format == "" {
		out.Format = SessionFormat
	}
	if out.Format == SessionFormat && s.saidWords() {
		out.Format = SessionFormatSaid
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
		Seen     string `json:"seen,omitempty"`
		Down     int    `json:"countdown,omitempty"`
	}{Switches: st.Switches, Down: st.Countdown}
	into := map[string]*string{
		"first_side": &out.First, "pelvis": &out.Pelvis, "breath": &out.Breath, "order": &out.Order, "sides": &out.Sides, "sets": &out.Sets, "count": &out.Count,
		"warm_up": &out.WarmUp, "symmetry": &out.Symmetry, "peak": &out.Peak, "seen": &out.Seen,
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

// MarshalJSON writes the section.
func (s Section) MarshalJSON() ([]byte, error) {
	return strict.JoinList(struct {
		Title string `json:"title"`
	}{s.Title}, "blocks", s.Blocks, s.extra)
}

// MarshalJSON writes the block.
func (b Block) MarshalJSON() ([]byte, error) {
	out := struct {
		Rule   Rule   `json:"rule"`
		Rounds int    `json:"rounds,omitempty"`
		On     string `json:"on,omitempty"`
		Off    string `json:"off,omitempty"`
		Rest   string `json:"rest,omitempty"`
	}{Rule: b.Rule, On: said(b.On), Off: said(b.Off), Rest: said(b.Rest)}
	if b.Rule == Rounds {
		out.Rounds = max(1, b.Rounds)
	}
	return strict.JoinList(out, "rows", b.Rows, b.extra)
}

// MarshalJSON writes the override.
func (o *Override) MarshalJSON() ([]byte, error) {
	return strict.Join(struct {
		Dose  string `json:"dose,omitempty"`
		Level int    `json:"level,omitempty"`
	}{o.Dose.String(), o.Level}, o.extra)
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
	}{in.Name, in.Posture, in.Sides, in.PerRep.Seconds(), in.Effort, in.Ends, in.Spine, in.Regions, in.Loads, in.Stretch, in.Rest, in.Kit, in.Read}, in.extra)
}

// saidWords tells whether the session says anything that SessionFormatSaid has.
func (s *Session) saidWords() (yes bool) {
	s.Each(func(_ Path, _ *Block, r *Row) { yes = yes || r.Inline != nil && r.Inline.said() })
	s.eachDose(func(d *dose.Dose) { yes = yes || d.Later() })
	return yes
}

// MarshalJSON writes the row.
func (r Row) MarshalJSON() ([]byte, error) {
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
	out := struct {
		Movement any       `json:"movement"`
		Level    int       `json:"level,omitempty"`
		Dose     string    `json:"dose,omitempty"`
		Sides    string    `json:"sides,omitempty"`
		Right    *Override `json:"right,omitempty"`
		Left     *Override `json:"left,omitempty"`
		Locked   bool      `json:"locked,omitempty"`
		Note     string    `json:"note,omitempty"`
		Options  []int     `json:"options,omitzero"`
		Demo     int       `json:"demo,omitempty"`
	}{r.Movement, r.Level, r.Dose.String(), r.Sides.String(), r.Right, r.Left, r.Locked, r.Note, r.Options, r.Demo}
	if r.Inline != nil {
		out.Movement = r.Inline
	}
	return strict.Join(out, r.extra)
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
