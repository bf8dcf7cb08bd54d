package main

import (
	"encoding/json"
	"io"
	"strings"

	"wavekine/core/movement"
)

// readingOut is what is read of a movement from its name.
type readingOut struct {
	Name    string               `json:"name"`
	Posture movement.Posture     `json:"posture,omitzero"`
	Ends    movement.Posture     `json:"ends,omitzero"`
	Sides   movement.Sides       `json:"sides"`
	PerRep  float64              `json:"seconds_per_rep"`
	Spine   []movement.Direction `json:"spine"`
	Regions map[string]float64   `json:"regions"`
	Loads   []movement.Load      `json:"loads"` // those that its position brings too
	Stretch bool                 `json:"stretch"`
	Kit     []string             `json:"kit"`
	Effort  float64              `json:"effort"`
	Like    string               `json:"like,omitempty"`  // the nearest of the library
	Told    []movement.Fact      `json:"told"`            // by the name
	Taken   []movement.Fact      `json:"taken,omitempty"` // because the name does not tell
	Asks    bool                 `json:"asks"`            // it states neither where the body is nor what is done there
}

// readName writes what is read of a movement from its name.
func readName(name string, lib *movement.Library, out io.Writer) error {
	r := movement.ReadName(name)
	o := readingOut{
		Name: r.Name, Posture: r.Posture, Ends: r.Ends, Sides: r.Sides, PerRep: r.Pace.Seconds(), Spine: r.Spine, Regions: r.Regions, Stretch: r.Stretch, Kit: r.Kit, Effort: r.Effort,
		Told: []movement.Fact{}, Asks: r.Asks(), Loads: r.Loads,
	}
	if o.Ends == movement.NoPosture {
		o.Ends = o.Posture
	}
	if m, err := r.Movement(); err == nil {
		o.Loads = m.Bears(1)
	}
	if like := lib.Like(&r); like != nil {
		o.Like = like.Slug
	}
	for _, f := range movement.Facts() {
		if r.Told[f] {
			o.Told = append(o.Told, f)
		} else {
			o.Taken = append(o.Taken, f)
		}
	}
	if o.Spine == nil {
		o.Spine = []movement.Direction{}
	}
	if o.Loads == nil {
		o.Loads = []movement.Load{}
	}
	if o.Kit == nil {
		o.Kit = []string{}
	}
	if o.Regions == nil {
		o.Regions = map[string]float64{}
	}
	e := json.NewEncoder(out)
	e.SetIndent("", "  ")
	return e.Encode(o)
}

// wholeName is a name that the shell has parted.
func wholeName(args []string) string { return strings.Join(args, " ") }
