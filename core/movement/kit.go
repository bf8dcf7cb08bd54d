package movement

import (
	"cmp"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Thing is a piece of kit that somebody needs or may have. It is written "2 blocks", "wall or sofa", "cushion, optional".
type Thing struct {
	Name     string `json:"name"`
	Count    int    `json:"count"`              // for one person
	Optional bool   `json:"optional,omitempty"` // it goes without
	Instead  string `json:"instead,omitempty"`  // what will do where there is none
}

// things is what is known of the kit of the trade: how many for one person, and what will do instead; common practice, no
// source.
var things = map[string]struct {
	count   int
	instead string
}{
	"ankle weights": {1, "nothing, and two repetitions more"},
	"ball":          {1, "a folded cushion"},
	"band":          {1, "a pair of old tights"},
	"big ball":      {1, ""},
	"block":         {1, "a thick book"},
	"chair":         {1, "a stool, against the wall"},
	"cushion":       {1, "a folded blanket"},
	"hand weights":  {2, "two small bottles of water"},
	"roller":        {1, "two rolled towels, end to end"},
	"step":          {1, "the lowest stair"},
	"stool":         {1, "the seat of a sofa"},
	"strap":         {1, "a towel or a belt"},
	"wall":          {1, "the back of a sofa or a closed door"},
}

// KnownKit lists the kit of which it is known what will do instead, in alphabetical order.
func KnownKit() []string { return slices.Sorted(maps.Keys(things)) }

var thingSaid = regexp.MustCompile(`^(?:(\d{1,2}) )?(.+?)(?:,? or (.+?))?(, optional| \(optional\))?$`)

// ReadThing reads a piece of kit as it is said. Whatever it is, it has a name: nothing is refused.
func ReadThing(s string) Thing {
	f := thingSaid.FindStringSubmatch(strings.Join(strings.Fields(s), " "))
	if f == nil {
		return Thing{Name: s, Count: 1}
	}
	t := Thing{Name: f[2], Instead: f[3], Optional: f[4] != ""}
	t.Count, _ = strconv.Atoi(f[1])
	if one := strings.TrimSuffix(t.Name, "s"); t.Count > 1 && things[t.Name].count == 0 && things[one].count > 0 {
		t.Name = one
	}
	known := things[t.Name]
	t.Count = cmp.Or(t.Count, known.count, 1)
	t.Instead = cmp.Or(t.Instead, known.instead)
	return t
}

// String says it: "2 blocks, or a thick book, optional".
func (t Thing) String() string {
	s := t.Name
	if usual := max(1, things[t.Name].count); t.Count > 1 && (t.Count != usual || usual > 1) {
		if usual == 1 && !strings.HasSuffix(s, "s") {
			s += "s"
		}
		s = fmt.Sprintf("%d %s", t.Count, s)
	}
	if t.Instead != "" {
		s += ", or " + t.Instead
	}
	if t.Optional {
		s += ", optional"
	}
	return s
}

// KitAt is the kit of level n, what is needed first.
func (m *Movement) KitAt(n int) []Thing {
	l := m.At(n)
	if l.things == nil { // a movement that no library has taken in yet
		return readKit(m, l)
	}
	return l.things
}

func readKit(m *Movement, l *Level) []Thing {
	own := l.Kit
	if own == nil {
		own = m.Kit
	}
	out := make([]Thing, 0, len(own))
	for _, s := range own {
		out = append(out, ReadThing(s))
	}
	NeededFirst(out)
	return out
}

// NeededFirst sorts kit: what is needed before what is good to have, else as it was.
func NeededFirst(things []Thing) {
	rank := func(t Thing) int {
		if t.Optional {
			return 1
		}
		return 0
	}
	slices.SortStableFunc(things, func(a, b Thing) int { return rank(a) - rank(b) })
}
