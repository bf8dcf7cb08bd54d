package main

import (
	"errors"
	"fmt"
	"io"

	"wavekine/core/movement"
)

// movementsVerb lists the library, or one movement whole.
var movementsVerb = verb{name: "movements", args: "[SLUG]", says: "the library, or one movement whole", run: func(c *job) error { return movements(c.args, c.lib, c.out) }}

type levelOut struct {
	Level      int             `json:"level"`
	Changes    string          `json:"changes"`
	Demand     float64         `json:"demand"`
	DemandFrom string          `json:"demand_from"`
	Why        string          `json:"why"`
	PerRep     float64         `json:"seconds_per_rep"`
	Loads      []movement.Load `json:"loads"`
	Kit        []string        `json:"kit,omitempty"`
	Figure     string          `json:"figure"`
	OnHands    float64         `json:"on_hands,omitempty"` // percent of body weight
	// Topics is what the level is to whoever watches each: for one movement whole.
	Topics map[movement.Topic]topicOut `json:"topics,omitempty"`
}

// topicOut is a line of the table of cautions.
type topicOut struct {
	Does  movement.Does `json:"does"`
	Level int           `json:"level,omitempty"` // the one to take, of a lighter one
	Says  string        `json:"says,omitempty"`
	Why   string        `json:"why"`
}

// topicsOf is the table of cautions for one level.
func topicsOf(m *movement.Movement, n int) map[movement.Topic]topicOut {
	out := map[movement.Topic]topicOut{}
	for _, t := range movement.Topics() {
		c := m.CareOf(n, t)
		out[t] = topicOut{c.Does, c.Level, c.Says, c.Why}
	}
	return out
}

type movementOut struct {
	Slug    string               `json:"slug"`
	Name    string               `json:"name"`
	Also    []string             `json:"also,omitempty"`
	Posture movement.Posture     `json:"posture"`
	Sides   movement.Sides       `json:"sides"`
	Phase   string               `json:"phase"`
	Purpose string               `json:"purpose"`
	Dose    string               `json:"dose"`
	Spine   []movement.Direction `json:"spine,omitempty"`
	Regions map[string]float64   `json:"regions"`
	Levels  []levelOut           `json:"levels"`
	Words   *wordsOut            `json:"words,omitempty"`
	Gives   []string             `json:"gives_back,omitempty"`
}

type wordsOut struct {
	Setup  string `json:"setup"`
	Say    string `json:"say"`
	Breath string `json:"breath"`
	Watch  string `json:"watch"`
	Care   string `json:"care"`
}

func movementJSON(m *movement.Movement, whole bool) movementOut {
	o := movementOut{Slug: m.Slug, Name: m.Name, Also: m.Also, Posture: m.Posture, Sides: m.Sides, Phase: m.Phase, Purpose: m.Purpose, Dose: m.Dose.String(), Spine: m.Spine, Regions: m.Regions, Gives: m.Gives}
	for i := range m.Levels {
		l := &m.Levels[i]
		o.Levels = append(o.Levels, levelOut{i + 1, l.Changes, l.Demand, l.DemandFrom(), l.Why, m.SecondsPerRep(i + 1).Seconds(), m.Bears(i + 1), m.Things(i + 1), l.Figure, l.OnHands, nil})
		if whole {
			o.Levels[i].Topics = topicsOf(m, i+1)
		}
	}
	if whole {
		o.Words = &wordsOut{m.Setup, m.Say, m.Breath, m.Watch, m.Care}
	}
	return o
}

func movements(args []string, lib *movement.Library, out io.Writer) error {
	switch len(args) {
	case 0:
		list := []movementOut{}
		for _, m := range lib.All() {
			list = append(list, movementJSON(m, false))
		}
		return indented(out, struct {
			Movements []movementOut `json:"movements"`
		}{list})
	case 1:
		m, ok := lib.Get(args[0])
		if !ok {
			return fmt.Errorf("no movement %q in the library", args[0])
		}
		return indented(out, movementJSON(m, true))
	}
	return errors.New("movements: expected no slug, or one")
}
