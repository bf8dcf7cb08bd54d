package run

import (
	"encoding/json"
	"time"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/strict"
	"wavekine/core/timeline"
)

// Read reads a wavekine.run/1 document. Errors are *strict.Error with the JSON path.
func Read(text []byte) (*Run, error) {
	rd, v := strict.Parse(text)
	if rd.Err() != nil {
		return nil, rd.Err()
	}
	o := v.Object()
	if f := o.Need("format"); f.Text(maxID) != Format {
		f.Fail("expected %q", Format)
	}
	r := &Run{Session: o.Need("session").Text(maxID), Rev: o.Need("rev").Int(1, 1<<30), Title: o.Need("title").Text(plan.MaxTitle), Teacher: o.Need("teacher").Text(maxID)}
	id := o.Need("id")
	if r.ID = id.Text(maxID); len(r.ID) < minID {
		id.Fail("too short for a name of its own")
	}
	started := o.Need("started")
	at, err := time.Parse(time.RFC3339, started.Text(40))
	if err != nil || at.Year() < 2000 || at.Year() > 2199 {
		started.Fail("expected a time as in 2026-05-01T18:30:00Z")
	}
	r.Started = at.UTC().Truncate(time.Millisecond)
	if e, ok := o.Get("asked"); ok {
		r.Asked = span(e)
	}
	o.Need("steps").List(maxSteps, func(_ int, e strict.Value) { r.Steps = append(r.Steps, readStep(e)) })
	o.Need("events").List(maxEvents, func(i int, e strict.Value) {
		ev := readEvent(e, len(r.Steps))
		switch {
		case (i == 0) != (ev.Does == Began):
			e.Fail("a run begins once, with %q", Began)
		case i > 0 && ev.At < r.Events[i-1].At:
			e.Fail("before the event in front of it")
		case i > 0 && r.Events[i-1].Does == Ended:
			e.Fail("after the end")
		}
		r.Events = append(r.Events, ev)
	})
	o.Done(false)
	return r, rd.Err()
}

func span(v strict.Value) clock.Span { return clock.Seconds(v.Float(0, longest.Seconds())) }

func readStep(v strict.Value) Step {
	o := v.Object()
	var s Step
	o.Need("row")
	o.Into("row", 20, &s.Row)
	if e, ok := o.Get("movement"); ok {
		s.Movement = e.Text(100)
	}
	s.Name = o.Need("name").Text(maxName)
	o.Need("side")
	o.Into("side", 20, &s.Side)
	o.Need("kind")
	o.Into("kind", 20, &s.Kind)
	s.S, s.Usual = span(o.Need("s")), span(o.Need("usual"))
	for key, to := range map[string]*int{"level": &s.Level, "reps": &s.Reps, "breaths": &s.Breaths, "round": &s.Round, "set": &s.Set} {
		if e, ok := o.Get(key); ok {
			*to = e.Int(0, maxReps)
		}
	}
	if e, ok := o.Get("clocked"); ok {
		s.Clocked = e.Bool()
	}
	o.Done(false)
	return s
}

func readEvent(v strict.Value, steps int) Event {
	o := v.Object()
	var e Event
	e.At = span(o.Need("at"))
	o.Need("does")
	o.Into("does", 20, &e.Does)
	if e.Does.Begins() {
		e.Step = o.Need("step").Int(0, max(0, steps-1))
		if steps == 0 {
			v.Fail("there is no step to begin")
		}
	}
	switch e.Does {
	case Rep:
		if x, ok := o.Get("hand"); ok {
			e.Hand = x.Bool()
		}
	case Level:
		e.Level = o.Need("level").Int(1, 20)
	case Note, Correction:
		e.Text = o.Need("text").Text(maxText)
		o.Into("row", 20, &e.Row)
		if e.Does == Correction {
			if x, ok := o.Get("who"); ok {
				e.Who = x.Text(maxID)
			}
		}
	case Landed:
		e.Text = o.Need("text").Text(maxLanding)
		o.Need("steps").List(maxSteps, func(i int, x strict.Value) {
			l := readLands(x, steps)
			if i > 0 && l.Step <= e.Lands[i-1].Step {
				x.Fail("the steps stand in their order, each once")
			}
			e.Lands = append(e.Lands, l)
		})
	case Ended:
		if x, ok := o.Get("early"); ok {
			e.Early = x.Bool()
		}
	}
	o.Done(false)
	return e
}

func readLands(v strict.Value, steps int) (l Lands) {
	o := v.Object()
	l.Step = o.Need("step").Int(0, max(0, steps-1))
	if x, ok := o.Get("out"); ok {
		l.Out = x.Bool()
	}
	if !l.Out {
		l.S = span(o.Need("s"))
	}
	if x, ok := o.Get("clocked"); ok {
		l.Clocked = x.Bool()
	}
	for key, to := range map[string]*int{"reps": &l.Reps, "breaths": &l.Breaths} {
		if x, ok := o.Get(key); ok {
			*to = x.Int(0, maxReps)
		}
	}
	o.Done(false)
	return l
}

// MarshalJSON writes what became of the step.
func (l Lands) MarshalJSON() ([]byte, error) {
	if l.Out {
		return json.Marshal(struct {
			Step int  `json:"step"`
			Out  bool `json:"out"`
		}{l.Step, true})
	}
	return json.Marshal(struct {
		Step    int        `json:"step"`
		S       clock.Span `json:"s"`
		Reps    int        `json:"reps,omitempty"`
		Breaths int        `json:"breaths,omitempty"`
		Clocked bool       `json:"clocked,omitempty"`
	}{l.Step, l.S, l.Reps, l.Breaths, l.Clocked})
}

// MarshalJSON writes the run in its published form.
func (r *Run) MarshalJSON() ([]byte, error) {
	type step struct {
		Row      plan.Path     `json:"row"`
		Movement string        `json:"movement,omitempty"`
		Name     string        `json:"name"`
		Side     timeline.Side `json:"side"`
		Kind     timeline.Kind `json:"kind"`
		Level    int           `json:"level,omitempty"`
		S        clock.Span    `json:"s"`
		Usual    clock.Span    `json:"usual"`
		Reps     int           `json:"reps,omitempty"`
		Breaths  int           `json:"breaths,omitempty"`
		Clocked  bool          `json:"clocked,omitempty"`
		Round    int           `json:"round,omitempty"`
		Set      int           `json:"set,omitempty"`
	}
	steps := make([]step, len(r.Steps))
	for i, s := range r.Steps {
		steps[i] = step(s)
	}
	events := r.Events
	if events == nil {
		events = []Event{}
	}
	return json.Marshal(struct {
		Format  string      `json:"format"`
		ID      string      `json:"id"`
		Session string      `json:"session"`
		Rev     int         `json:"rev"`
		Title   string      `json:"title"`
		Teacher string      `json:"teacher"`
		Started time.Time   `json:"started"`
		Asked   *clock.Span `json:"asked,omitempty"`
		Steps   []step      `json:"steps"`
		Events  []Event     `json:"events"`
	}{Format, r.ID, r.Session, r.Rev, r.Title, r.Teacher, r.Started, some(r.Asked), steps, events})
}

func some(s clock.Span) *clock.Span {
	if s == 0 {
		return nil
	}
	return &s
}

// MarshalJSON writes what belongs to the kind of event.
func (e Event) MarshalJSON() ([]byte, error) {
	out := struct {
		At    clock.Span `json:"at"`
		Does  Kind       `json:"does"`
		Step  *int       `json:"step,omitempty"`
		Hand  bool       `json:"hand,omitempty"`
		Level int        `json:"level,omitempty"`
		Row   *plan.Path `json:"row,omitempty"`
		Text  *string    `json:"text,omitempty"`
		Who   string     `json:"who,omitempty"`
		Early bool       `json:"early,omitempty"`
		Lands *[]Lands   `json:"steps,omitempty"`
	}{At: e.At, Does: e.Does}
	switch {
	case e.Does.Begins():
		out.Step = &e.Step
	case e.Does == Rep:
		out.Hand = e.Hand
	case e.Does == Level:
		out.Level = e.Level
	case e.Does == Landed:
		out.Text, out.Lands = &e.Text, &e.Lands
		if e.Lands == nil {
			out.Lands = &[]Lands{}
		}
	case e.Does == Note || e.Does == Correction:
		out.Text, out.Who = &e.Text, e.Who
		if e.Row != (plan.Path{}) {
			out.Row = &e.Row
		}
	case e.Does == Ended:
		out.Early = e.Early
	}
	return json.Marshal(out)
}
