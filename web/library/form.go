package library

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/web/kit"
)

// FormOf lays a movement out as form fields.
func FormOf(m *movement.Movement) (url.Values, error) {
	text, err := json.Marshal(m)
	if err != nil {
		return nil, err
	}
	var d map[string]any
	if err := json.Unmarshal(text, &d); err != nil {
		return nil, err
	}
	f := url.Values{}
	str := func(v any) string {
		switch v := v.(type) {
		case string:
			return v
		case float64:
			return strconv.FormatFloat(v, 'f', -1, 64)
		case bool:
			return map[bool]string{true: "yes"}[v]
		case []any:
			var out []string
			for _, e := range v {
				out = append(out, fmt.Sprint(e))
			}
			return strings.Join(out, ", ")
		case map[string]any:
			var out []string
			for _, k := range slices.Sorted(maps.Keys(v)) {
				out = append(out, fmt.Sprintf("%s %v", k, v[k]))
			}
			return strings.Join(out, ", ")
		}
		return ""
	}
	for k, v := range d {
		if k != "levels" && k != "format" {
			f.Set(k, str(v))
		}
	}
	f.Del("range")
	f.Del("phases")
	inALine(f, "", m.Range, m.Phases)
	if o, ok := movement.Shipped().Get(m.VersionOf); ok {
		f.Set("version_of", o.Name)
	}
	for _, k := range []string{"gives_back", "leads_to"} { // by name, as people say them
		var names []string
		for _, w := range listOf(f.Get(k)) {
			if o, ok := movement.Shipped().Get(w.(string)); ok {
				w = o.Name
			}
			names = append(names, w.(string))
		}
		f.Set(k, strings.Join(names, ", "))
	}
	for i, e := range d["levels"].([]any) {
		for k, v := range e.(map[string]any) {
			key := fmt.Sprintf("levels.%d.%s", i, k)
			if k == "pose" || k == "from" {
				b, err := json.Marshal(v)
				if err != nil {
					return nil, err
				}
				f.Set(key, string(b))
				continue
			}
			if k == "loads" || k == "kit" || k == "spine" && str(v) == "" {
				f.Set(key+"-own", "yes")
			}
			f.Set(key, str(v))
		}
		prefix := fmt.Sprintf("levels.%d.", i)
		f.Del(prefix + "range")
		f.Del(prefix + "phases")
		inALine(f, prefix, m.Levels[i].Range, m.Levels[i].Phases)
	}
	return f, nil
}

// formOfRow is the form of a movement that is written into a class, as far as it is known: its figure is that of the nearest movement of the library, or of its
// position, and so is its part of a class.
func formOfRow(lib *movement.Library, r *plan.Row) (url.Values, error) {
	in := r.Inline
	reading := in.Reading()
	near := lib.Like(&reading)
	if near == nil {
		near = movement.Plain(in.Posture)
	}
	f := url.Values{
		"name": {in.Name}, "posture": {in.Posture.String()}, "sides": {in.Sides.String()}, "seconds_per_rep": {strconv.FormatFloat(in.PerRep.Seconds(), 'f', -1, 64)},
		"dose": {r.Dose.String()}, "kit": {strings.Join(in.Kit, ", ")}, "phase": {"build"},
		"levels.0.changes": {""}, "levels.0.demand": {strconv.FormatFloat(in.Effort, 'f', -1, 64)},
	}
	if in.Ends != movement.NoPosture {
		f.Set("ends", in.Ends.String())
	}
	if r.Dose.IsZero() {
		f.Set("dose", "8 reps")
	}
	if in.Stretch {
		f.Set("stretch", "yes")
		f.Set("phase", "settle")
	}
	if in.Rest {
		f.Set("rest", "yes")
		f.Set("phase", "settle")
	}
	var spine, loads, works []string
	for _, d := range in.Spine {
		spine = append(spine, string(d))
	}
	for _, l := range in.Loads {
		loads = append(loads, string(l))
	}
	for _, k := range slices.Sorted(maps.Keys(in.Regions)) {
		works = append(works, fmt.Sprintf("%s %g", k, in.Regions[k]))
	}
	f.Set("spine", strings.Join(spine, ", "))
	f.Set("loads", strings.Join(loads, ", "))
	f.Set("regions", strings.Join(works, ", "))
	if near == nil {
		return f, nil
	}
	its, err := FormOf(near)
	if err != nil {
		return nil, err
	}
	for _, k := range []string{"levels.0.pose", "levels.0.from"} {
		f.Set(k, its.Get(k))
	}
	return f, nil
}

// inALine sets what the document has as an object and a form in a line.
func inALine(f url.Values, prefix string, r movement.Range, ps []movement.BreathPhase) {
	if !r.IsZero() {
		f.Set(prefix+"range", r.String())
	}
	if len(ps) > 0 {
		f.Set(prefix+"phases", movement.SayPhases(ps))
	}
}

func listOf(s string) []any {
	out := []any{}
	for _, w := range strings.FieldsFunc(s, func(r rune) bool { return r == ',' || r == '\n' }) {
		if w = strings.TrimSpace(w); w != "" {
			out = append(out, w)
		}
	}
	return out
}

// asNumber keeps what is no number as text, so that the reader names the place.
func asNumber(s string) any {
	if v, err := kit.Finite(strings.Replace(s, ",", ".", 1)); err == nil {
		return v
	}
	return s
}

func levelCount(f url.Values) int {
	n := 0
	for k := range f {
		if rest, ok := strings.CutPrefix(k, "levels."); ok {
			if i, err := strconv.Atoi(strings.SplitN(rest, ".", 2)[0]); err == nil && i < 20 {
				n = max(n, i+1)
			}
		}
	}
	return n
}

// levelsOwn are fields in which a level may differ from its movement; spine too, which is a list.
var levelsOwn = []string{"sides", "posture", "ends", "dose", "setup", "say", "breath", "watch", "fault", "care", "range", "phases", "feel", "when_lost", "felt", "not_felt"}

// kitOf reads a list of kit: a comma parts two things, but for what will do instead and what is optional.
func kitOf(s string) []any {
	out := []any{}
	for _, w := range listOf(s) {
		t := w.(string)
		if n := len(out); n > 0 && (strings.HasPrefix(t, "or ") || t == "optional") {
			out[n-1] = out[n-1].(string) + ", " + t
			continue
		}
		out = append(out, w)
	}
	return out
}

// documentOf makes the document that a form says. What is wrong with it is said by movement.ReadOwn.
func documentOf(a *kit.Kit, f url.Values) []byte {
	d := map[string]any{"format": movement.OwnFormat}
	for _, k := range []string{
		"slug", "name", "purpose", "phase", "posture", "ends", "sides", "limb", "dose", "setup", "say", "breath", "watch", "fault", "ease", "care",
		"pattern", "range", "version_of", "named_by", "phases", "feel", "when_lost", "felt", "not_felt", "assist", "alone",
	} {
		if v := strings.TrimSpace(f.Get(k)); v != "" || k == "name" {
			d[k] = v
		}
	}
	for _, k := range []string{"stretch", "rest", "dose_is_it"} {
		if f.Get(k) != "" {
			d[k] = true
		}
	}
	d["seconds_per_rep"] = asNumber(f.Get("seconds_per_rep"))
	d["also"], d["kit"] = listOf(f.Get("also")), kitOf(f.Get("kit"))
	for _, k := range []string{"spine", "loads"} {
		d[k] = listOf(strings.Join(f[k], ","))
	}
	for _, k := range []string{"roles", "themes"} {
		if l := listOf(strings.Join(f[k], ",")); len(l) > 0 {
			d[k] = l
		}
	}
	if v := f.Get("breath_over"); v != "" {
		d["breath_over"] = asNumber(v)
	}
	if of, ok := d["version_of"].(string); ok {
		if m, ok := a.Lib.Named(of); ok {
			d["version_of"] = m.Slug
		}
	}
	for _, k := range []string{"gives_back", "leads_to"} { // said by name or by slug
		var out []any
		for _, w := range listOf(f.Get(k)) {
			if m, ok := a.Lib.Named(w.(string)); ok && !m.Own {
				w = m.Slug
			}
			out = append(out, w)
		}
		if out != nil {
			d[k] = out
		}
	}
	regions := map[string]any{}
	for _, w := range listOf(f.Get("regions")) { // "obliques 0.6, shoulders"
		name, weight := w.(string), any(.5)
		if i := strings.LastIndexByte(name, ' '); i > 0 {
			if v, ok := asNumber(name[i+1:]).(float64); ok {
				name, weight = strings.TrimSpace(name[:i]), v
			}
		}
		regions[name] = weight
	}
	d["regions"] = regions
	var levels []any
	for i := range levelCount(f) {
		key := func(k string) string { return fmt.Sprintf("levels.%d.%s", i, k) }
		l := map[string]any{"changes": f.Get(key("changes")), "why": f.Get(key("why"))}
		if v := f.Get(key("family")); v != "" {
			l["family"] = v
		} else {
			l["demand"] = asNumber(f.Get(key("demand")))
		}
		for _, k := range append([]string{"lighter", "quiet"}, levelsOwn...) {
			if v := strings.TrimSpace(f.Get(key(k))); v != "" {
				l[k] = v
			}
		}
		if needs := needsOf(a, f.Get(key("needs"))); len(needs) > 0 {
			l["needs"] = needs
		}
		for _, k := range []string{"stance", "seconds_per_rep", "skill"} {
			if v := f.Get(key(k)); v != "" {
				l[k] = asNumber(v)
			}
		}
		for _, k := range []string{"loads", "kit", "spine"} { // an empty list of its own says none
			if f.Get(key(k)+"-own") != "" || k == "spine" && f.Get(key(k)) != "" {
				l[k] = listOf(f.Get(key(k)))
				if k == "kit" {
					l[k] = kitOf(f.Get(key(k)))
				}
			}
		}
		for _, k := range []string{"from", "pose"} {
			if v := f.Get(key(k)); v != "" {
				if json.Valid([]byte(v)) {
					l[k] = json.RawMessage(v)
				} else {
					l[k] = v
				}
			}
		}
		levels = append(levels, l)
	}
	d["levels"] = levels
	if levels == nil {
		d["levels"] = []any{}
	}
	b, err := json.Marshal(d)
	if err != nil {
		return []byte("{}")
	}
	return b
}

// needsOf reads what comes first, said by name or by slug: "Roll-up 2, bird-dog".
func needsOf(a *kit.Kit, s string) []any {
	out := listOf(s)
	for i, w := range out {
		name, level := w.(string), ""
		if j := strings.LastIndexByte(name, ' '); j > 0 {
			if _, err := strconv.Atoi(name[j+1:]); err == nil {
				name, level = strings.TrimSpace(name[:j]), name[j:]
			}
		}
		if m, ok := a.Lib.Named(name); ok {
			out[i] = movement.BaseSlug(m.Slug) + level
		}
	}
	return out
}

// fieldOf is the form field of a path: "$.levels[1].pose" is "levels.1.pose".
func fieldOf(path string) string {
	f := strings.NewReplacer("[", ".", "]", "").Replace(strings.TrimPrefix(path, "$."))
	parts := strings.Split(f, ".")
	switch {
	case parts[0] == "levels" && len(parts) >= 3:
		return strings.Join(parts[:3], ".")
	case parts[0] == "levels" && len(parts) == 2:
		return parts[0] + "." + parts[1] + ".changes"
	case parts[0] == "levels":
		return "levels.0.changes"
	}
	return parts[0]
}

// changeLevels copies or removes a level in the form.
func changeLevels(f url.Values, do string) error {
	op, arg, _ := strings.Cut(do, " ")
	i, err := strconv.Atoi(arg)
	if op != "show" && (err != nil || i < 0) {
		return fmt.Errorf("%q is not something that can be done here", do)
	}
	n := levelCount(f)
	move := func(from, to int) {
		prefix, into := fmt.Sprintf("levels.%d.", from), fmt.Sprintf("levels.%d.", to)
		for k := range f {
			if strings.HasPrefix(k, into) {
				f.Del(k)
			}
		}
		for _, k := range slices.Collect(maps.Keys(f)) {
			if rest, ok := strings.CutPrefix(k, prefix); ok {
				f[into+rest] = slices.Clone(f[k])
			}
		}
	}
	switch {
	case op == "show":
	case op == "level-copy" && i < n:
		if n >= 8 {
			return errors.New("a movement has at most 8 levels")
		}
		for j := n - 1; j >= i; j-- {
			move(j, j+1)
		}
	case op == "level-remove" && i < n:
		if n == 1 {
			return errors.New("a movement has at least one level")
		}
		for j := i; j < n-1; j++ {
			move(j+1, j)
		}
		for k := range f {
			if strings.HasPrefix(k, fmt.Sprintf("levels.%d.", n-1)) {
				f.Del(k)
			}
		}
	default:
		return fmt.Errorf("%q is not something that can be done here", do)
	}
	return nil
}
