// Package made makes class documents with every word that there is, for tests that try a rule over all of them.
package made

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"

	"wavekine/core/movement"
)

type object = map[string]any

type maker struct {
	r    *rand.Rand
	all  []*movement.Movement
	rest int // rows that are left
}

// Session is a document of some sections in the newest format. Each is readable; the same source gives the same.
func Session(r *rand.Rand, lib *movement.Library) []byte {
	m := &maker{r: r, all: lib.All(), rest: 24}
	doc := object{"format": "wavekine.session/1.3", "title": m.word()}
	m.some(doc, object{"target": "20:00", "note": m.words(), "opening": m.words(), "closing": m.words(), "counts": "whole", "audience": "mixed", "focus": []string{"hips"}, "pace": object{"talk": m.of("flowing", "coached", "first lesson"), "tempo": m.of("brisk", "even", "slow")}})
	m.some(doc, object{"style": object{"paced": m.of("by count", "a breath each", "half a breath each"), "first_side": m.of("right", "left", "by day"), "switches": 1, "offered": m.of("first", "on the climb", "when it is too much")}})
	var sections []any
	for range 1 + m.r.IntN(3) {
		sec := object{"title": m.word()}
		m.some(sec, object{"note": m.words(), "pace": m.pace(), "style": m.style()})
		blocks := []any{}
		for range m.r.IntN(4) {
			blocks = append(blocks, m.block())
		}
		sec["blocks"] = blocks
		sections = append(sections, sec)
	}
	doc["sections"] = sections
	b, err := json.Marshal(doc)
	if err != nil {
		panic(err)
	}
	return b
}

func (m *maker) of(words ...string) string { return words[m.r.IntN(len(words))] }

func (m *maker) yes(oneIn int) bool { return m.r.IntN(oneIn) == 0 }

// some puts in each of the words one time in three.
func (m *maker) some(into, words object) {
	keys := make([]string, 0, len(words))
	for k := range words {
		keys = append(keys, k)
	}
	for _, k := range sorted(keys) {
		if m.yes(3) {
			into[k] = words[k]
		}
	}
}

func sorted(s []string) []string {
	for i := range s {
		for j := i + 1; j < len(s); j++ {
			if s[j] < s[i] {
				s[i], s[j] = s[j], s[i]
			}
		}
	}
	return s
}

func (m *maker) word() string {
	return m.of("Arrive", "Hips; and back", "# Low", "Build: up", "3 rounds", "= flow", "Kiln", "a\\b", "(soft)", "right side", "Über Hüfte", "rest", "8 each side")
}

func (m *maker) words() string {
	return m.of("keep the hips level", "slow; and slower", "one: two", "back \\ slash", "say: nothing", "option: none", "at 30 s: blink", "(in brackets)", "right: left", "ends standing", "\"quoted\"", "10 reps", "a; b; c", "#", "= straight")
}

func (m *maker) secs(least, most int) string {
	return fmt.Sprintf("%d s", least+m.r.IntN(most-least+1))
}

func (m *maker) pace() object {
	p := object{"tempo": m.of("brisk", "even", "slow")}
	m.some(p, object{"talk": m.of("flowing", "coached", "first lesson"), "bpm": 120})
	return p
}

func (m *maker) style() object {
	s := object{}
	m.some(s, object{"first_side": m.of("right", "left"), "pelvis": m.of("by load", "neutral", "imprinted"), "breath": m.of("nose-mouth", "nose-nose", "on effort", "free"), "paced": m.of("by count", "a breath each", "half a breath each")})
	if len(s) == 0 {
		s["paced"] = "a breath each"
	}
	return s
}

func (m *maker) block() object {
	rule := m.of("straight", "chain", "rounds", "flow", "build up")
	b := object{"rule": rule}
	m.some(b, object{"title": m.word(), "note": m.words(), "pace": m.pace(), "style": m.style(), "rest": m.secs(1, 60)})
	passes, timed := 0, false
	switch rule {
	case "rounds":
		passes = 1 + m.r.IntN(4)
		b["rounds"] = passes
		timed = m.yes(2)
	case "chain":
		passes, timed = 2, m.yes(3)
	}
	if timed {
		b["on"] = m.secs(10, 60)
		m.some(b, object{"off": m.secs(5, 30), "lead_in": m.secs(0, 10)})
		if _, off := b["off"]; off && m.yes(2) {
			b["last_off"] = false
		}
	}
	if rule != "straight" && rule != "flow" && m.yes(3) {
		delete(b, "rest")
		b["between"] = object{"say": m.words()}
		if m.yes(2) {
			b["between"] = object{"say": m.words(), "rest": m.secs(5, 30)}
		}
	}
	rows := func(n int, of func() object) []any {
		out := []any{}
		for range n {
			if m.rest > 0 {
				m.rest--
				out = append(out, of())
			}
		}
		return out
	}
	if rule == "build up" {
		if m.yes(2) {
			b["second_side"] = "whole"
		}
		parts := rows(1+m.r.IntN(4), func() object { return m.row(rule, 0, false, true) })
		if len(parts) == 0 {
			parts = []any{object{"movement": "kickback"}}
		}
		b["parts"] = parts
		b["rows"] = rows(m.r.IntN(3), func() object { return m.any(rule, 0, false) })
		return b
	}
	b["rows"] = rows(1+m.r.IntN(5), func() object { return m.any(rule, passes, timed) })
	return b
}

// any is a movement, a rest or a transition.
func (m *maker) any(rule string, passes int, timed bool) object {
	switch m.r.IntN(10) {
	case 0:
		o := object{"rest": m.secs(1, 60)}
		m.some(o, object{"say": m.of("sip", "shake it out", "head down; look left"), "note": m.words()})
		return o
	case 1:
		o := object{"transition": m.of("roll up to stand", "turn over", "sit down; then roll back")}
		m.some(o, object{"ends": m.of("standing", "supine", "prone", "seated"), "seconds": 12, "say": m.words(), "note": m.words()})
		return o
	}
	return m.row(rule, passes, timed, false)
}

func (m *maker) dose(mv *movement.Movement, part bool) string {
	if part {
		return m.of("8 reps", "5 reps", "6 reps + 10 pulses", "30 s")
	}
	d := m.of("8 reps", "3 x 5 reps, rest 20 s", "hold 20 s", "30 s", "5 breaths", "8 reps + hold 5 s + 10 pulses", "8 to 10 reps", "6 slow")
	if mv.Sides == movement.Each && m.yes(3) {
		d = "8 each side"
	}
	return d
}

func (m *maker) row(rule string, passes int, timed, part bool) object {
	mv := m.all[m.r.IntN(len(m.all))]
	level := 1 + m.r.IntN(len(mv.Levels))
	o := object{"movement": mv.Slug}
	if m.yes(2) {
		o["level"] = level
	} else {
		level = 1
	}
	of := len(mv.Levels)
	if m.yes(8) {
		in := object{"name": m.of("Clay press", "Kneeling sweep", "Kiln reach"), "posture": m.of("kneeling", "standing", "supine"), "sides": m.of("both", "each")}
		m.some(in, object{"seconds_per_rep": 4, "effort": 3, "spine": []string{"side"}, "loads": []string{"kneeling"}, "stretch": true, "kit": []string{"block"}, "read": []string{"spine"}, "levels": []string{"low", "high"}})
		o["movement"] = in
		delete(o, "level")
		mv, level, of = &movement.Movement{Sides: movement.Both}, 1, 1
		if _, has := in["levels"]; has {
			of = 2
		}
	} else {
		mv = mv.As(level)
	}
	sided := false
	if m.yes(2) {
		o["dose"] = m.dose(mv, part)
	}
	d, _ := o["dose"].(string)
	if mv.Sides == movement.Each && d != "8 each side" {
		sided = m.yes(2)
	}
	if !part && !timed && !sided && m.yes(8) {
		delete(o, "dose")
		delete(o, "level")
		o["phases"] = []any{object{"level": 1 + m.r.IntN(of), "dose": "3 breaths"}, object{"level": 1 + m.r.IntN(of), "dose": m.of("5 reps + 10 pulses", "hold 10 s")}}
	}
	m.some(o, object{"say": m.words(), "cue": m.words(), "caution": m.words(), "note": m.words(), "tempo": m.of("brisk", "even", "slow"), "locked": true, "ends": m.of("standing", "supine", "prone"), "faces": m.of("front", "side", "back"), "on_mat": m.of("front", "middle", "back"), "demo": 1 + m.r.IntN(of)})
	if m.yes(4) {
		st := m.style()
		if rule == "chain" || rule == "build up" {
			delete(st, "first_side")
		}
		if len(st) > 0 {
			o["style"] = st
		}
	}
	if m.yes(4) {
		o["options"] = []any{1 + m.r.IntN(of), m.words()}
	} else if m.yes(6) {
		o["options"] = []any{}
	}
	if sided {
		s := object{}
		m.some(s, object{"dose": m.of("6 reps", "hold 15 s", "4 reps + 5 pulses"), "level": 1 + m.r.IntN(of), "say": m.words(), "note": m.words(), "tempo": "slow", "options": []any{m.words()}, "cue": m.words()})
		if len(s) > 0 {
			o[m.of("right", "left")] = s
		}
	}
	if rule == "chain" {
		if _, phased := o["phases"]; mv.Sides == movement.Each && !phased && m.yes(3) {
			o["other_side"] = true
		}
		if m.yes(4) {
			o["once"] = m.of("first", "each")
		}
	}
	if passes > 0 && m.yes(3) {
		var by []any
		for range 1 + m.r.IntN(passes) {
			c := object{}
			m.some(c, object{"level": 1 + m.r.IntN(of), "dose": m.of("6 reps", "4 reps", "hold 10 s"), "tempo": m.of("brisk", "slow")})
			if timed && m.yes(3) {
				c["on"] = m.secs(10, 60)
			}
			if len(c) == 0 && m.yes(2) {
				c["skip"] = true
			}
			by = append(by, c)
		}
		o["by_round"] = by
	}
	if m.yes(6) {
		o["words"] = []any{object{"at": "0 s", "say": m.words()}, object{"at": "20 s", "say": m.words()}, object{"at": "1:30", "say": m.words()}}
	}
	return o
}
