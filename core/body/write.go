package body

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
)

// The words a pose may use, checked when it is read: poses come from studios too.
var (
	limbNames = []string{"armR", "armL", "legR", "legL"}
	segNames  = both("uparm", "forearm", "hand", "thigh", "shank")
	partNames = slices.Concat([]string{"trunk", "head", "hands", "feet", "knees", "shins", "elbows", "forearms", "arms", "legs"}, limbNames,
		both("hand", "foot", "knee", "shin", "elbow", "forearm"))
	placeNames = slices.Concat([]string{"hip", "nape", "waist", "atlas"}, both("hip", "knee", "ank", "ball", "sho", "elb", "wri", "fin", "shin", "thigh", "foot"))
	kitNames   = []string{"roller", "roller end", "block", "wall", "chair", "weight", "strap", "ball"}
)

func both(names ...string) (out []string) {
	for _, n := range names {
		out = append(out, n+"R", n+"L")
	}
	return out
}

// sensible checks the words and numbers of a pose, so that solving it cannot fail.
func (p *Pose) sensible() error {
	words := func(key string, have, known []string) error {
		for _, w := range have {
			if !slices.Contains(known, w) {
				return fmt.Errorf("%s: unknown part %q: expected one of %s", key, w, strings.Join(known, ", "))
			}
		}
		return nil
	}
	keys := func(m map[string]float64) []string { return slices.Sorted(maps.Keys(m)) }
	plants, parts := slices.Sorted(maps.Keys(p.Plant)), []string(nil)
	var kit, marks []string
	for _, pl := range p.Plant {
		if pl.Part != "" {
			parts = append(parts, pl.Part)
		}
	}
	for _, k := range p.Kit {
		kit = append(kit, k.Name)
	}
	for _, m := range p.Mark {
		marks = append(marks, m.Of...)
	}
	for _, err := range []error{
		words("on", p.On, partNames), words("settle", p.Settle, partNames), words("lay", p.Lay, limbNames),
		words("far", p.Far, slices.Concat(limbNames, segNames)), words("order", p.Order, slices.Concat([]string{"trunk", "head"}, limbNames)),
		words("tilt", keys(p.Tilt), append([]string{"trunk"}, segNames...)), words("aim", keys(p.Aim), limbNames), words("bend", keys(p.Bend), limbNames),
		words("plant", plants, both("hand", "foot")), words("plant", parts, placeNames), words("at", []string{p.At}, placeNames),
		words("kit", kit, kitNames), words("mark", marks, placeNames),
	} {
		if err != nil {
			return err
		}
	}
	for name, pl := range p.Plant {
		if len(pl.Nums) > 3 || pl.Part == "" && len(pl.Nums) == 0 || pl.Part != "" && strings.HasPrefix(name, "foot") {
			return fmt.Errorf("plant: %s: expected a place on the mat, or for a hand a part of the body", name)
		}
	}
	nums := slices.Concat(p.Spine[:], p.Joint[R][:], p.Joint[L][:], []float64{p.Pelvis, p.Turn, p.Look, p.AtX, p.Base})
	if p.Y != nil {
		nums = append(nums, *p.Y)
	}
	for _, m := range []map[string]float64{p.Tilt, p.Aim, p.Bend} {
		nums = slices.AppendSeq(nums, maps.Values(m))
	}
	for _, pl := range p.Plant {
		nums = append(nums, pl.Nums...)
	}
	for _, th := range slices.Concat(p.Kit, p.Mark) {
		nums = append(nums, th.Nums...)
	}
	for _, n := range nums {
		if math.IsNaN(n) || math.Abs(n) > 720 {
			return fmt.Errorf("the number %v: expected -720 to 720", n)
		}
	}
	return nil
}

// MarshalJSON writes the pose in full in the notation that ReadPose reads.
func (p Pose) MarshalJSON() ([]byte, error) {
	m := map[string]any{"pelvis": p.Pelvis}
	put := func(key string, v any, is bool) {
		if is {
			m[key] = v
		}
	}
	put("view", "front", p.Front)
	put("mat", "plan", p.Plan)
	put("feet", "side", p.FeetInside)
	put("spine", p.Spine, p.Spine != [5]float64{})
	for i, k := range jointKeys {
		r, l := p.Joint[R][i], p.Joint[L][i]
		switch {
		case r == l:
			put(k, r, r != 0)
		default:
			m[k] = [2]float64{r, l}
		}
	}
	put("turn", p.Turn, p.Turn != 0)
	put("look", p.Look, p.Look != 0)
	put("tilt", p.Tilt, len(p.Tilt) > 0)
	put("aim", p.Aim, len(p.Aim) > 0)
	put("bend", p.Bend, len(p.Bend) > 0)
	put("lay", p.Lay, len(p.Lay) > 0)
	put("on", p.On, p.On != nil)
	put("settle", p.Settle, len(p.Settle) > 0)
	put("at", [2]any{p.At, p.AtX}, p.At != "hip" || p.AtX != 0)
	put("base", p.Base, p.Base != 0)
	put("tuck", p.Tuck, p.Tuck != "")
	put("far", p.Far, len(p.Far) > 0)
	put("order", p.Order, len(p.Order) > 0)
	if p.Y != nil {
		m["y"] = *p.Y
	}
	plant := map[string]any{}
	for k, pl := range p.Plant {
		var list []any
		if pl.Part != "" {
			list = append(list, pl.Part)
		}
		for _, n := range pl.Nums {
			list = append(list, n)
		}
		plant[k] = list
	}
	put("plant", plant, len(plant) > 0)
	things := func(ths []Thing, namesFirst bool) (out [][]any) {
		for _, th := range ths {
			one := []any{th.Name}
			if namesFirst {
				for _, o := range th.Of {
					one = append(one, o)
				}
			}
			for _, n := range th.Nums {
				one = append(one, n)
			}
			if !namesFirst {
				for _, o := range th.Of {
					one = append(one, o)
				}
			}
			out = append(out, one)
		}
		return out
	}
	put("kit", things(p.Kit, false), len(p.Kit) > 0)
	put("mark", things(p.Mark, true), len(p.Mark) > 0)
	return json.Marshal(m)
}

// UnmarshalJSON reads what MarshalJSON writes.
func (p *Pose) UnmarshalJSON(text []byte) error {
	q, err := ReadPose(text)
	if err == nil {
		*p = q
	}
	return err
}
