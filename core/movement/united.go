package movement

import (
	"slices"
	"strings"
)

// United is several movements done as one, one after the other in every repetition: its regions are those of all its parts, each for its share of the time, its
// directions, loads and kit are all of theirs, its demand that of its parts by their time. It is called by their names; everything else is that of the last,
// which is the newest. levels and seconds are those of each part; it panics where there is no part.
func United(parts []*Movement, levels []int, seconds []float64) *Movement {
	last := len(parts) - 1
	u := *parts[last].As(levels[last])
	if last == 0 {
		return &u
	}
	whole, demand := 0.0, 0.0
	for i, s := range seconds {
		whole += s
		demand += s * parts[i].At(levels[i]).Demand
	}
	var names []string
	u.Regions, u.parts, u.views, u.Spine, u.Loads, u.answers = map[string]float64{}, nil, nil, nil, nil, nil
	l := *u.At(levels[last])
	l.bears, l.things, l.Demand = slices.Clone(l.bears), slices.Clone(l.things), demand/whole
	for i, m := range parts {
		m = m.As(levels[i])
		names = append(names, m.Name)
		for r, w := range m.Regions {
			u.Regions[r] += w * seconds[i] / whole
		}
		u.Spine = add(u.Spine, m.Spine...)
		l.bears = add(l.bears, m.Bears(levels[i])...)
		for _, k := range m.At(levels[i]).things {
			if !slices.ContainsFunc(l.things, func(o Thing) bool { return o.Name == k.Name }) {
				l.things = append(l.things, k)
			}
		}
	}
	for i, r := range regions {
		if w := u.Regions[r]; w > 0 {
			u.parts = append(u.parts, Share{i, w})
		}
	}
	u.Levels = slices.Clone(u.Levels)
	u.Levels[min(max(levels[last], 1), len(u.Levels))-1] = l
	u.Name = strings.Join(names, " + ")
	return &u
}

// add puts in what is not there yet.
func add[T comparable](to []T, more ...T) []T {
	for _, x := range more {
		if !slices.Contains(to, x) {
			to = append(to, x)
		}
	}
	return to
}
