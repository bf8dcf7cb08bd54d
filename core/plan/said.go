package plan

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
)

// Words say what is known of a movement that is written into a plan, in one line: "kneeling · each side · 4.5 s · spine side · kneeling".
func (in *Inline) Words() string {
	out := []string{in.Posture.String()}
	if in.Ends != movement.NoPosture && in.Ends != in.Posture {
		out = append(out, "ends "+in.Ends.String())
	}
	out = append(out, map[movement.Sides]string{movement.Both: "both sides at once", movement.Each: "each side", movement.Alternating: "alternating", movement.RightOnly: "right only", movement.LeftOnly: "left only"}[in.Sides])
	if !in.Stretch {
		out = append(out, in.PerRep.Said()+" each")
	}
	if len(in.Spine) > 0 {
		var ds []string
		for _, d := range in.Spine {
			ds = append(ds, string(d))
		}
		out = append(out, "spine "+strings.Join(ds, " and "))
	}
	if works := in.works(); works != "" {
		out = append(out, "works "+works)
	}
	for _, l := range in.Loads {
		out = append(out, string(l))
	}
	switch {
	case in.Rest:
		out = append(out, "a rest")
	case in.Stretch:
		out = append(out, "a stretch")
	}
	if len(in.Kit) > 0 {
		out = append(out, "needs "+strings.Join(in.Kit, ", "))
	}
	return strings.Join(out, " · ")
}

// works names the regions that are worked most, two at the most.
func (in *Inline) works() string {
	names := slices.SortedFunc(maps.Keys(in.Regions), func(a, b string) int {
		if d := in.Regions[b] - in.Regions[a]; d != 0 {
			return int(math.Copysign(1, d))
		}
		return strings.Compare(a, b)
	})
	return strings.Join(names[:min(2, len(names))], ", ")
}

// SetInline puts right what was read of a movement that is written into a plan; what is nil stays. What is said is no guess any more.
type SetInline struct {
	At      Path    `form:"at,parser=encoding.TextUnmarshaler"`
	Name    *string `form:"name"`
	Posture *string `form:"posture"`
	Ends    *string `form:"ends"` // empty: where it began
	Sides   *string `form:"sides"`
	Seconds *string `form:"seconds"` // of a repetition
	Effort  *string `form:"effort"`  // 0 to 10
	Spine   *string `form:"spine"`   // words parted by commas; empty: it goes nowhere
	Loads   *string `form:"loads"`
	Works   *string `form:"works"`   // regions, the first the most
	Stretch *string `form:"stretch"` // "yes", "rest" or empty
	Kit     *string `form:"kit"`
}

// Do puts it right; where one value is wrong, nothing changes.
func (c *SetInline) Do(s *Session, _ *movement.Library) (Done, error) {
	r := s.Row(c.At)
	if r == nil || r.Inline == nil {
		return Done{}, errors.New("that row is a movement of the library: it is changed there")
	}
	in := r.clone().Inline
	said := func(fs ...movement.Fact) {
		in.Read = slices.DeleteFunc(in.Read, func(f movement.Fact) bool { return slices.Contains(fs, f) })
	}
	if c.Name != nil {
		n := strings.Join(strings.Fields(*c.Name), " ")
		if n == "" || len([]rune(n)) > maxInlineName {
			return Done{}, fmt.Errorf("a movement needs a name of 1 to %d characters", maxInlineName)
		}
		in.Name = n
	}
	for _, f := range []struct {
		value *string
		fact  movement.Fact
		put   func(v string) error
	}{
		{c.Posture, movement.FactPosture, func(v string) error { return in.Posture.UnmarshalText([]byte(v)) }},
		{c.Ends, movement.FactEnds, func(v string) error {
			if in.Ends = movement.NoPosture; v == "" {
				return nil
			}
			return in.Ends.UnmarshalText([]byte(v))
		}},
		{c.Sides, movement.FactSides, func(v string) error { return in.Sides.UnmarshalText([]byte(v)) }},
		{c.Seconds, movement.FactPace, func(v string) error {
			n, err := strconv.ParseFloat(strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(v), "s")), 64)
			if err != nil || !(n >= .2 && n <= 300) {
				return fmt.Errorf("%q: the seconds of a repetition, from 0.2 to 300", v)
			}
			in.PerRep = clock.Seconds(n)
			return nil
		}},
		{c.Effort, movement.FactEffort, func(v string) error {
			n, err := strconv.ParseFloat(strings.TrimSpace(v), 64)
			if err != nil || !(n >= 0 && n <= 10) {
				return fmt.Errorf("%q: the effort, from 0 to 10", v)
			}
			in.Effort = n
			return nil
		}},
		{c.Spine, movement.FactSpine, in.list("spine", func() { in.Spine = nil }, func(w string) { in.Spine = append(in.Spine, movement.Direction(w)) })},
		{c.Loads, movement.FactLoads, in.list("loads", func() { in.Loads = nil }, func(w string) { in.Loads = append(in.Loads, movement.Load(w)) })},
		{c.Kit, movement.FactKit, in.list("kit", func() { in.Kit = nil }, func(w string) { in.Kit = append(in.Kit, w) })},
		{c.Works, movement.FactRegions, in.setWorks},
		{c.Stretch, movement.FactStretch, func(v string) error {
			if v != "" && v != "yes" && v != "rest" {
				return fmt.Errorf("%q: yes, rest or nothing", v)
			}
			in.Stretch, in.Rest = v != "", v == "rest"
			return nil
		}},
	} {
		if f.value == nil {
			continue
		}
		if err := f.put(strings.TrimSpace(*f.value)); err != nil {
			return Done{}, err
		}
		said(f.fact)
	}
	r.Inline = in
	if _, err := r.Of(nil); err != nil {
		return Done{}, err
	}
	return Done{"Put right: " + in.Name, c.At}, r.Contradicts()
}

// TakeMovement makes every row of a movement that is written into the plan under a name a row of a movement of the library: the dose, the sides, the note and
// what else the row says of itself stay.
type TakeMovement struct {
	Name     string `form:"name"`     // as the rows have it
	Movement string `form:"movement"` // slug
}

// Do does it; the rows need the movement to have all that they say, or nothing changes.
func (c *TakeMovement) Do(s *Session, lib *movement.Library) (Done, error) {
	m, ok := lib.Get(c.Movement)
	if !ok {
		return Done{}, fmt.Errorf("no movement %q in the library", c.Movement)
	}
	var at Path
	n := 0
	var wrong error
	s.Each(func(p Path, _ *Block, r *Row) {
		if r.Inline == nil || r.Inline.Name != c.Name {
			return
		}
		if n++; n == 1 {
			at = p
		}
		r.Inline, r.Movement = nil, m.Slug
		if err := r.Contradicts(); err != nil && wrong == nil {
			wrong = err
		}
	})
	switch {
	case n == 0:
		return Done{}, fmt.Errorf("no row is written in as %q", c.Name)
	case wrong != nil:
		return Done{}, wrong
	case n == 1:
		return Done{m.Name + ": now a movement of the library", at}, nil
	}
	return Done{fmt.Sprintf("%s: now a movement of the library, in %d rows", m.Name, n), at}, nil
}

// list reads a list of words parted by commas.
func (in *Inline) list(key string, clear func(), put func(w string)) func(string) error {
	return func(v string) error {
		clear()
		for w := range strings.SplitSeq(v, ",") {
			if w = strings.ToLower(strings.TrimSpace(w)); w == "" {
				continue
			}
			if err := in.told(key, w, put); err != nil {
				return err
			}
		}
		return nil
	}
}

// Shares of the regions that are named, the first the most; judgement.
const (
	firstWorks = .8
	nextWorks  = .5
)

// setWorks gives regions their shares by their order; those that keep their name keep their share.
func (in *Inline) setWorks(v string) error {
	out := map[string]float64{}
	for w := range strings.SplitSeq(v, ",") {
		if w = strings.ToLower(strings.TrimSpace(w)); w == "" {
			continue
		}
		if !slices.Contains(movement.Regions(), w) {
			return fmt.Errorf("%q is no region: %s", w, strings.Join(movement.Regions(), ", "))
		}
		share, had := in.Regions[w]
		switch {
		case had:
		case len(out) == 0:
			share = firstWorks
		default:
			share = nextWorks
		}
		out[w] = share
	}
	in.Regions = out
	return nil
}
