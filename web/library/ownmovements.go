package library

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/body"
	"wavekine/core/movement"
	"wavekine/core/strict"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

// poseBox is the size of the drawing whose joints can be pulled, in pixels.
var poseBox = [2]float64{420, 300}

// posePanel is one pose in the editor: the drawing with its handles, the angles, what it weighs.
type posePanel struct {
	Field      string // "levels.0.pose"
	Title      string
	JSON       string
	SVG        []byte
	Angles     []body.Angle
	Turn       float64
	Pelvis     float64
	Views      string // "side", "front" or "above"
	Complaints []string
	Loads      []loadBar
	Supports   string
	Demand     string
	Optional   bool
}

// loadBar is one load as words and a small bar.
type loadBar struct {
	Name, Says string
	Bar, Mark  float64 // percent of the reference
}

// momentReference is the moment that fills a bar: the two straight legs just above the mat, and a little;
// judgement.
const momentReference = 10.0

// momentFrom is the smallest moment that is shown.
const momentFrom = .3

func loadBars(l body.Loads) (out []loadBar) {
	i := 0
	var means []float64
	mean := l.Mean
	mean.Each(func(_ string, v *float64) { means = append(means, *v) })
	worst := l.Worst
	worst.Each(func(name string, v *float64) {
		m := means[i]
		i++
		if *v < momentFrom || name == "one hip" || name == "knee" && *v < 1 {
			return
		}
		out = append(out, loadBar{name, fmt.Sprintf("%.1f, on average %.1f", *v, m), min(100, 100**v/momentReference), min(100, 100*m/momentReference)})
	})
	if l.Hands > 1 {
		out = append(out, loadBar{"hands", fmt.Sprintf("%.0f %% of body weight", l.Hands), min(100, l.Hands), 0})
	}
	return out
}

// panel works out everything that is shown of a pose. It costs two solutions of the figure.
func panel(field string, p body.Pose) posePanel {
	f := body.Solve(p)
	v := posePanel{
		Field: field, SVG: draw.Posable(f, poseBox[0], poseBox[1], "The figure; its joints can be pulled"), Angles: f.Angles(),
		Turn: p.Turn, Pelvis: f.Pelvis, Views: "side", Complaints: f.Complaints(),
	}
	v.Title = "It shows"
	if strings.HasSuffix(field, "from") {
		v.Title, v.Optional = "It starts from", true
	}
	switch {
	case p.Plan:
		v.Views = "above"
	case p.Front:
		v.Views = "front"
	}
	if b, err := json.Marshal(p); err == nil {
		v.JSON = string(b)
	}
	if st, ok := f.Statics(body.Mean); ok {
		v.Loads = loadBars(body.Loads{Worst: st.Moments, Mean: st.Moments})
		v.Supports = supportsWords(st)
	}
	return v
}

// supportsWords says where a body bears, and whether statics alone decides it.
func supportsWords(st body.Statics) string {
	var sup []string
	for _, s := range st.Supports {
		if s.Percent >= .5 {
			sup = append(sup, fmt.Sprintf("%s %.0f %%", supportName(s.Part), s.Percent))
		}
	}
	words := strings.Join(sup, ", ")
	if !st.Exact {
		words += " (more than two supports: the least that balances)"
	}
	return words
}

func supportName(part string) string {
	for _, s := range []struct{ end, word string }{{"R", "right "}, {"L", "left "}} {
		if rest, ok := strings.CutSuffix(part, s.end); ok {
			return s.word + rest
		}
	}
	return part
}

// editorLevel is one level in the editor.
type editorLevel struct {
	I                                int
	Changes, Family, Demand, Why     string
	Lighter, Stance, PerRep          string
	Pose, From                       posePanel
	HasFrom                          bool
	DemandNow, Says                  string
	Loads                            []loadBar
	OwnLoads, OwnKit, ExtraLoadsText string
}

type editorView struct {
	Slug     string
	Version  int
	F        url.Values
	Levels   []editorLevel
	Phases   []string
	Postures []movement.Posture
	Sides    []string
	Families []string
	Loads    []string
	Spines   []string
	Regions  []string
	Says     string
	At       string // the field that was refused
	Key      string // under which the browser keeps the draft
}

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
			if k == "loads" || k == "kit" {
				f.Set(key+"-own", "yes")
			}
			f.Set(key, str(v))
		}
	}
	return f, nil
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

// documentOf makes the document that a form says. What is wrong with it is said by movement.ReadOwn.
func documentOf(a *kit.Kit, f url.Values) []byte {
	d := map[string]any{"format": movement.OwnFormat}
	for _, k := range []string{"slug", "name", "purpose", "phase", "posture", "ends", "sides", "limb", "dose", "setup", "say", "breath", "watch", "fault", "ease", "care"} {
		if v := strings.TrimSpace(f.Get(k)); v != "" || k == "name" {
			d[k] = v
		}
	}
	if f.Get("stretch") != "" {
		d["stretch"] = true
	}
	d["seconds_per_rep"] = asNumber(f.Get("seconds_per_rep"))
	for _, k := range []string{"also", "kit"} {
		d[k] = listOf(f.Get(k))
	}
	for _, k := range []string{"spine", "loads"} {
		d[k] = listOf(strings.Join(f[k], ","))
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
		for _, k := range []string{"lighter"} {
			if v := f.Get(key(k)); v != "" {
				l[k] = v
			}
		}
		for _, k := range []string{"stance", "seconds_per_rep"} {
			if v := f.Get(key(k)); v != "" {
				l[k] = asNumber(v)
			}
		}
		for _, k := range []string{"loads", "kit"} {
			if f.Get(key(k)+"-own") != "" {
				l[k] = listOf(f.Get(key(k)))
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

// fieldOf is the form field of a path: "$.levels[1].pose" is "levels.1.pose".
func fieldOf(path string) string {
	f := strings.NewReplacer("[", ".", "]", "").Replace(strings.TrimPrefix(path, "$."))
	parts := strings.Split(f, ".")
	switch {
	case parts[0] == "levels" && len(parts) >= 3:
		return strings.Join(parts[:3], ".")
	case parts[0] == "levels":
		return "levels.0.changes"
	}
	return parts[0]
}

func editorOf(a *kit.Kit, f url.Values, version int) editorView {
	v := editorView{
		Slug: f.Get("slug"), Version: version, F: f, Phases: movement.Phases(), Postures: movement.Postures(), Sides: []string{"both", "each", "alternating"},
		Loads: []string{"hands", "no hands", "head up", "legs out", "kneeling", "head low", "rolling"}, Spines: []string{"forward", "back", "side", "turn"},
		Regions: movement.Regions(), Families: movement.Families(), Key: f.Get("slug"),
	}
	if v.Version == 0 {
		v.Key = "new"
	}
	for i := range levelCount(f) {
		get := func(k string) string { return f.Get(fmt.Sprintf("levels.%d.%s", i, k)) }
		l := editorLevel{I: i, Changes: get("changes"), Family: get("family"), Demand: get("demand"), Why: get("why"), Lighter: get("lighter"), Stance: get("stance"), PerRep: get("seconds_per_rep")}
		read := func(k string) (body.Pose, bool) {
			text := get(k)
			p, err := body.ReadPose([]byte(text))
			if err != nil && text != "" {
				l.Says = err.Error()
			}
			return p, err == nil && text != ""
		}
		pose, ok := read("pose")
		if !ok {
			pose, _ = body.Poses().Pose("standing")
		}
		l.Pose = panel(fmt.Sprintf("levels.%d.pose", i), pose)
		from, ok := read("from")
		l.HasFrom = ok
		if ok {
			l.From = panel(fmt.Sprintf("levels.%d.from", i), from)
		}
		l.DemandNow, l.Loads = demandNow(l.Family, l.Stance, from, ok, pose)
		v.Levels = append(v.Levels, l)
	}
	return v
}

// demandNow is the demand that the mechanics give a level being made, and its loads over the repetition.
func demandNow(family, stance string, from body.Pose, hasFrom bool, pose body.Pose) (string, []loadBar) {
	strip := body.Strip{{At: 0, Pose: pose}}
	if hasFrom && from.Front == pose.Front && from.Plan == pose.Plan {
		strip = body.Strip{{At: 0, Pose: from}, {At: 1, Pose: pose}}
	}
	w, _ := asNumber(stance).(float64)
	d, loads, err := movement.Demand(movement.Family(family), strip, w)
	switch {
	case family == "":
		return "", loadBars(loads)
	case err != nil:
		return err.Error(), loadBars(loads)
	}
	return fmt.Sprintf("%.1f", d), loadBars(loads)
}

func showEditor(a *kit.Kit, c *gin.Context, title string, f url.Values, version int) {
	a.Show(c, "movement-edit", title, "Movements", editorOf(a, f, version), "js/movement.js")
}

// newMovement begins a movement from nothing or from another.
func newMovement(a *kit.Kit, c *gin.Context) {
	m, ok := a.Lib.Get(c.Query("from"))
	if !ok {
		standing, _ := body.Poses().Pose("standing")
		text, err := json.Marshal(standing)
		if err != nil {
			a.Fail(c, err)
			return
		}
		f := url.Values{
			"phase": {"build"}, "posture": {"standing"}, "sides": {"both"}, "seconds_per_rep": {"4.5"}, "dose": {"8 reps"},
			"levels.0.pose": {string(text)}, "levels.0.from": {string(text)}, "levels.0.changes": {""}, "levels.0.demand": {"2"},
		}
		showEditor(a, c, "New movement", f, 0)
		return
	}
	f, err := FormOf(m)
	if err != nil {
		a.Fail(c, err)
		return
	}
	f.Set("name", m.Name+", ours")
	f.Del("also")
	f.Del("slug")
	showEditor(a, c, "New movement", f, 0)
}

// editMovement opens the newest version of an own movement.
func editMovement(a *kit.Kit, c *gin.Context) {
	m, ok := a.Lib.Get(movement.BaseSlug(c.Param("slug")))
	if !ok || !m.Own {
		a.Problem(c, http.StatusNotFound, "The shared library is read-only: make your own movement from this one.")
		return
	}
	f, err := FormOf(m)
	if err != nil {
		a.Fail(c, err)
		return
	}
	showEditor(a, c, m.Name, f, m.Version)
}

// refuseAt answers a form that cannot be stored with the words and the field; nothing is lost, the page stays.
func refuseAt(a *kit.Kit, c *gin.Context, err error) {
	says := err.Error()
	var se *strict.Error
	if errors.As(err, &se) {
		c.Header("X-Field", fieldOf(se.Path))
		says = strings.ReplaceAll(fieldOf(se.Path), "_", " ") + ": " + se.Says
		if rest, ok := strings.CutPrefix(fieldOf(se.Path), "levels."); ok {
			n, field, _ := strings.Cut(rest, ".")
			i, _ := strconv.Atoi(n)
			says = fmt.Sprintf("level %d, %s: %s", i+1, strings.ReplaceAll(field, "_", " "), se.Says)
		}
	}
	a.Refuse(c, errors.New(says))
}

// saveMovement stores the form as a new version; do=level-copy, level-remove and show only redraw it.
func saveMovement(a *kit.Kit, c *gin.Context) {
	f := c.Request.PostForm
	do := f.Get("do")
	version, _ := strconv.Atoi(f.Get("version"))
	f.Del("do")
	f.Del("version")
	if do != "" {
		if err := changeLevels(f, do); err != nil {
			a.Refuse(c, err)
			return
		}
		a.Render(c, http.StatusOK, "movement-edit", "editor", editorOf(a, f, version))
		return
	}
	if version == 0 {
		f.Set("slug", movement.SlugOf(f.Get("name")))
	}
	m, err := movement.ReadOwn(documentOf(a, f), movement.Shipped())
	if err == nil {
		err = a.Lib.CheckNames(m)
	}
	if err != nil {
		refuseAt(a, c, err)
		return
	}
	now, err := storeMovement(a, c, m, version)
	if err != nil {
		refuseStored(a, c, err)
		return
	}
	c.Header("HX-Redirect", "/movements/"+m.Base+"~"+strconv.Itoa(now))
	c.Status(http.StatusNoContent)
}

func storeMovement(a *kit.Kit, c *gin.Context, m *movement.Movement, version int) (int, error) {
	doc, err := movement.Seal(m, movement.Shipped())
	if err != nil {
		return 0, err
	}
	return a.Store.SaveMovement(c, kit.Who(c).Studio.ID, m.Base, m.Name, version, doc, kit.Who(c).Teacher.ID)
}

func refuseStored(a *kit.Kit, c *gin.Context, err error) {
	var conflict *store.Conflict
	switch {
	case errors.As(err, &conflict):
		a.Problem(c, http.StatusConflict, "Somebody else stored a newer version meanwhile. Yours is still here: open theirs in another window and compare, then reload to make your change on top.")
	case errors.Is(err, store.ErrTaken):
		c.Header("X-Field", "name")
		a.Problem(c, http.StatusUnprocessableEntity, "name: a movement of that name is there already.")
	default:
		var se *strict.Error
		if errors.As(err, &se) {
			refuseAt(a, c, err)
			return
		}
		a.Fail(c, err)
	}
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

// posePull answers one pull of a joint, one typed angle, or a change of view, with the redrawn panel.
func posePull(a *kit.Kit, c *gin.Context) {
	field := c.PostForm("field")
	if !strings.HasPrefix(field, "levels.") || len(field) > 40 {
		a.Problem(c, http.StatusUnprocessableEntity, "Which pose?")
		return
	}
	p, err := body.ReadPose([]byte(c.PostForm("pose")))
	if err != nil {
		a.Refuse(c, fmt.Errorf("the pose could not be read: %w", err))
		return
	}
	switch c.PostForm("do") {
	case "pull":
		px, okX := asNumber(c.PostForm("x")).(float64)
		py, okY := asNumber(c.PostForm("y")).(float64)
		if !okX || !okY {
			a.Refuse(c, errors.New("a pull needs a place: x and y in pixels of the drawing"))
			return
		}
		x, y := draw.PosableAt(body.Solve(p), poseBox[0], poseBox[1], px, py)
		p = p.Drag(c.PostForm("handle"), body.Point{X: x, Y: y})
	case "set":
		v, ok := asNumber(c.PostForm("value")).(float64)
		if !ok {
			a.Refuse(c, fmt.Errorf("%q is not a number of degrees", c.PostForm("value")))
			return
		}
		if p, err = p.Set(c.PostForm("key"), c.PostForm("side"), v); err != nil {
			a.Refuse(c, err)
			return
		}
	case "mirror":
		p = p.Mirrored()
	case "book":
		q, ok := body.Poses().Pose(c.PostForm("name"))
		if !ok {
			a.Refuse(c, fmt.Errorf("no pose %q in the book", c.PostForm("name")))
			return
		}
		p = q
	case "plant": // a foot or hand down where it is, or free again
		p = p.Planted(c.PostForm("handle"))
	case "", "show":
	default:
		a.Refuse(c, fmt.Errorf("%q is not something that can be done to a pose", c.PostForm("do")))
		return
	}
	a.Render(c, http.StatusOK, "movement-edit", "panel", panel(field, p))
}

func movementDocument(a *kit.Kit, c *gin.Context) {
	m, ok := a.Lib.Get(c.Param("slug"))
	if !ok {
		a.Problem(c, http.StatusNotFound, "There is no movement of that name in the library.")
		return
	}
	b, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		a.Fail(c, err)
		return
	}
	kit.Attach(c, kit.FileName(m.Name, "json"), "application/json", append(b, '\n'))
}

// importMovement reads a wavekine.movement/1 document as a new own movement, or as a new version of the
// one of that slug.
func importMovement(a *kit.Kit, c *gin.Context) {
	file, err := c.FormFile("file")
	if err != nil {
		a.Problem(c, http.StatusUnprocessableEntity, "Choose a file first: a wavekine.movement/1 document of at most 2 MB.")
		return
	}
	r, err := file.Open()
	if err != nil {
		a.Fail(c, err)
		return
	}
	defer func() { _ = r.Close() }()
	text, err := io.ReadAll(io.LimitReader(r, strict.MaxBytes+1))
	if err != nil {
		a.Fail(c, err)
		return
	}
	m, err := movement.ReadOwn(text, movement.Shipped())
	if err == nil {
		err = a.Lib.CheckNames(m)
	}
	if err != nil {
		a.Problem(c, http.StatusUnprocessableEntity, "The document was not read. "+err.Error()+". Nothing was stored.")
		return
	}
	version := 0
	if have, ok := a.Lib.Get(m.Base); ok {
		version = have.Version
	}
	now, err := storeMovement(a, c, m, version)
	if err != nil {
		refuseStored(a, c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/movements/"+m.Base+"~"+strconv.Itoa(now))
}

// changeMovement hides, shows, renames or re-words an entry of the library for this studio.
func changeMovement(a *kit.Kit, c *gin.Context) {
	slug := movement.BaseSlug(c.Param("slug"))
	m, ok := a.Lib.Get(slug)
	if !ok {
		a.Problem(c, http.StatusNotFound, "There is no movement of that name in the library.")
		return
	}
	do := c.PostForm("do")
	if m.Own {
		if do != "hide" && do != "show" {
			a.Problem(c, http.StatusUnprocessableEntity, "An own movement is changed in its editor.")
			return
		}
		if err := a.Store.HideMovement(c, kit.Who(c).Studio.ID, slug, do == "hide"); err != nil {
			a.Fail(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, "/movements/"+slug)
		return
	}
	shipped, _ := movement.Shipped().Get(slug)
	_, rows, err := a.Store.OwnMovements(c, kit.Who(c).Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	ch := kit.ReadChanges(rows)[slug]
	ch.Hidden = m.Hidden
	differs := func(now, was string) string {
		if now != was {
			return now
		}
		return ""
	}
	ch.Name, ch.Setup, ch.Say, ch.Watch, ch.Care = differs(m.Name, shipped.Name), differs(m.Setup, shipped.Setup), differs(m.Say, shipped.Say), differs(m.Watch, shipped.Watch), differs(m.Care, shipped.Care)
	switch do {
	case "hide", "show":
		ch.Hidden = do == "hide"
	case "reset":
		ch = movement.Change{}
	case "words":
		for key, to := range map[string]struct {
			at  *string
			was string
			max int
		}{
			"name": {&ch.Name, shipped.Name, 80}, "setup": {&ch.Setup, shipped.Setup, 600}, "say": {&ch.Say, shipped.Say, 600},
			"watch": {&ch.Watch, shipped.Watch, 600}, "care": {&ch.Care, shipped.Care, 600},
		} {
			v := strings.TrimSpace(strings.ToValidUTF8(c.PostForm(key), ""))
			if len([]rune(v)) > to.max || key == "name" && v == "" {
				a.Problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%s: from 1 to %d characters.", key, to.max))
				return
			}
			*to.at = differs(v, to.was)
		}
		if o := a.Lib.NameTaken(c.PostForm("name"), slug); o != nil {
			a.Problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("name: %q belongs to %s already.", c.PostForm("name"), o.Name))
			return
		}
	default:
		a.Problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%q is not something that can be done to a movement.", do))
		return
	}
	var doc []byte
	if ch != (movement.Change{}) {
		if doc, err = json.Marshal(ch); err != nil {
			a.Fail(c, err)
			return
		}
	}
	if err := a.Store.ChangeMovement(c, kit.Who(c).Studio.ID, slug, doc); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/movements/"+slug)
}

// deleteMovement removes an own movement that no session ever used.
func deleteMovement(a *kit.Kit, c *gin.Context) {
	slug := movement.BaseSlug(c.Param("slug"))
	m, ok := a.Lib.Get(slug)
	if !ok || !m.Own {
		a.Problem(c, http.StatusNotFound, "Only a studio's own movement can be deleted; one of the shared library can be hidden.")
		return
	}
	switch err := a.Store.DeleteMovement(c, kit.Who(c).Studio.ID, slug); {
	case errors.Is(err, store.ErrUsed):
		a.Problem(c, http.StatusUnprocessableEntity, m.Name+" is used in a session or its history, which keeps it. Hide it instead: it is not offered any more then.")
	case err != nil:
		a.Fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/movements")
	}
}
