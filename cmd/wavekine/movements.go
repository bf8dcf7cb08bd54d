package main

import (
	"errors"
	"flag"
	"fmt"
	"io"

	"wavekine/core/movement"
)

// movementsVerb lists the library, or one movement whole.
var movementsVerb = verb{
	name: "movements", args: "[SLUG | --read NAME]", says: "the library, one movement whole, or what is read of one from its name",
	flags: func(f *flag.FlagSet, o *options) {
		f.BoolVar(&o.read, "read", false, "read a movement from its name")
	},
	run: func(c *job) error {
		if c.opt.read {
			return readName(wholeName(c.args), c.lib, c.out)
		}
		return movements(c.args, c.lib, c.out)
	},
}

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
	Range      movement.Bounds `json:"range"`              // in one go, per side or direction
	Skill      int             `json:"skill"`
	Needs      []movement.Need `json:"needs,omitempty"` // what comes first, of lower levels too
	NamedBy    movement.Naming `json:"named_by,omitempty"`
	Quiet      string          `json:"quiet,omitempty"` // without its impact
	// For one movement whole.
	Breath     []movement.BreathPhase `json:"breath,omitempty"`
	BreathOver int                    `json:"breath_over,omitempty"` // repetitions that one breath covers
	Check      *movement.Check        `json:"check,omitempty"`
	Things     []movement.Thing       `json:"things,omitempty"`
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
	Slug      string               `json:"slug"`
	Name      string               `json:"name"`
	Also      []string             `json:"also,omitempty"`
	Posture   movement.Posture     `json:"posture"`
	Sides     movement.Sides       `json:"sides"`
	Phase     string               `json:"phase"`
	Purpose   string               `json:"purpose"`
	Dose      string               `json:"dose"`
	Spine     []movement.Direction `json:"spine,omitempty"`
	Regions   map[string]float64   `json:"regions"`
	Pattern   string               `json:"pattern"`
	Roles     []movement.Role      `json:"roles"`
	Themes    []string             `json:"themes"`
	VersionOf string               `json:"version_of,omitempty"`
	Family    []string             `json:"family,omitempty"` // all versions of one thing, for one movement whole
	Assist    string               `json:"assist,omitempty"`
	Alone     string               `json:"alone,omitempty"`
	Levels    []levelOut           `json:"levels"`
	Words     *wordsOut            `json:"words,omitempty"`
	Gives     []string             `json:"gives_back,omitempty"`
}

type wordsOut struct {
	Setup  string `json:"setup"`
	Say    string `json:"say"`
	Breath string `json:"breath"`
	Watch  string `json:"watch"`
	Care   string `json:"care"`
}

func levelJSON(m *movement.Movement, n int, whole bool) levelOut {
	l := m.At(n)
	o := levelOut{
		Level: n, Changes: l.Changes, Demand: l.Demand, DemandFrom: l.DemandFrom(), Why: l.Why, PerRep: m.SecondsPerRep(n).Seconds(), Loads: m.Bears(n), Kit: m.Things(n), Figure: l.Figure, OnHands: l.OnHands,
		Skill: m.Skill(n), Needs: m.NeedsAt(n), NamedBy: m.NamedBy(n), Quiet: l.Quiet,
	}
	o.Range, _ = m.Bounds(n)
	if whole {
		c := m.CheckOf(n)
		o.Topics, o.Check, o.Things = topicsOf(m, n), &c, m.KitAt(n)
		o.Breath, o.BreathOver = m.PhasesOf(n)
	}
	return o
}

func movementJSON(lib *movement.Library, m *movement.Movement, whole bool) movementOut {
	o := movementOut{
		Slug: m.Slug, Name: m.Name, Also: m.Also, Posture: m.Posture, Sides: m.Sides, Phase: m.Phase, Purpose: m.Purpose, Dose: m.Dose.String(), Spine: m.Spine, Regions: m.Regions, Gives: m.Gives,
		Pattern: m.Pattern, Roles: m.RolesOf(), Themes: m.ThemesOf(), VersionOf: m.VersionOf, Assist: m.Assist, Alone: m.Alone,
	}
	for i := range m.Levels {
		o.Levels = append(o.Levels, levelJSON(m, i+1, whole))
	}
	if whole {
		for _, v := range lib.FamilyOf(m) {
			o.Family = append(o.Family, v.Slug)
		}
		o.Words = &wordsOut{m.Setup, m.Say, m.Breath, m.Watch, m.Care}
	}
	return o
}

func movements(args []string, lib *movement.Library, out io.Writer) error {
	switch len(args) {
	case 0:
		list := []movementOut{}
		for _, m := range lib.All() {
			list = append(list, movementJSON(lib, m, false))
		}
		return indented(out, struct {
			Movements []movementOut `json:"movements"`
		}{list})
	case 1:
		m, ok := lib.Get(args[0])
		if !ok {
			return fmt.Errorf("no movement %q in the library", args[0])
		}
		return indented(out, movementJSON(lib, m, true))
	}
	return errors.New("movements: expected no slug, or one")
}
