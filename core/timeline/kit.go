package timeline

import (
	"slices"
	"strings"

	"wavekine/core/movement"
)

// KitOf lists what a class takes besides a mat, in the order it is first used: what it needs, then what is good to have. Of each thing
// the most that one movement asks for.
func (t *Timeline) KitOf() (out []movement.Thing) {
	for i := range t.Steps {
		s := &t.Steps[i]
		if s.Move == nil || !s.Kind.Working() {
			continue
		}
		for _, k := range s.Move.KitAt(s.Level) {
			j := slices.IndexFunc(out, func(o movement.Thing) bool { return o.Name == k.Name })
			if j < 0 {
				out = append(out, k)
				continue
			}
			out[j].Count, out[j].Optional = max(out[j].Count, k.Count), out[j].Optional && k.Optional
		}
	}
	movement.NeededFirst(out)
	return out
}

// KitNames are the names of what a class needs: "roller, chair".
func (t *Timeline) KitNames() string {
	var out []string
	for _, k := range t.KitOf() {
		if !k.Optional {
			out = append(out, k.Name)
		}
	}
	return strings.Join(out, ", ")
}
