package library

import (
	"embed"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/body"
	"wavekine/core/movement"
	"wavekine/draw"
	"wavekine/store"
	"wavekine/web/kit"
)

//go:embed *.html *.js
var files embed.FS

// Screen is movements: looking, making, changing.
var Screen = kit.Screen{
	Files: files,
	Open: func(a *kit.Kit, g gin.IRoutes) {
		g.GET("/figures/:file", a.Figure)
	},
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.GET("/movements", a.With(showMovements))
		in.GET("/movements/:slug", a.With(showMovement))
		in.GET("/movements/:slug/levels", a.With(lookAtLevels))
		in.GET("/movements/:slug/document", a.With(movementDocument))
		in.GET("/movements/:slug/edit", a.With(editMovement))
		in.POST("/movements/:slug/change", a.With(changeMovement))
		in.POST("/movements/:slug/delete", a.With(deleteMovement))
		in.GET("/movement-new", a.With(newMovement))
		in.POST("/movement-save", a.With(saveMovement))
		in.POST("/movement-import", a.With(importMovement))
		in.POST("/movement-pose", a.With(posePull))
		in.GET("/own-figures/:file", a.With((*kit.Kit).Figure))
	},
	Funcs: func(*kit.Kit) template.FuncMap {
		return template.FuncMap{"book": func() []string { return body.Poses().Names() }}
	},
}

type movementGroup struct {
	Name string
	List []*movement.Movement
}

// ID is where the page has the group.
func (g movementGroup) ID() string {
	return "shelf-" + strings.ReplaceAll(strings.ReplaceAll(strings.ToLower(g.Name), ",", ""), " ", "-")
}

type movementsView struct {
	Query   string
	Groups  []movementGroup
	Count   int
	Filters []chosen
	Hidden  []*movement.Movement
}

// shelves are the postures as the library shows them, from standing down to lying.
var shelves = []struct {
	name string
	on   []movement.Posture
}{
	{"Standing and on a chair", []movement.Posture{movement.Standing, movement.Chair}},
	{"Hands and knees, kneeling", []movement.Posture{movement.HalfKneeling, movement.Lunge, movement.Kneeling, movement.HandsAndKnees, movement.ForearmsAndKnees}},
	{"Planks", []movement.Posture{movement.Plank, movement.Forearms, movement.DownDog, movement.SidePlank, movement.KneelingSidePlank}},
	{"Seated", []movement.Posture{movement.SeatedHeels, movement.Seated}},
	{"On the back", []movement.Posture{movement.Supine}},
	{"On the side", []movement.Posture{movement.SideLying}},
	{"On the front", []movement.Posture{movement.Prone}},
}

// chosen is a filter of the library with what can be chosen.
type chosen struct {
	Key, Label, Value string
	Options           []string
}

// queryOf reads the search and its filters; what is not known is no filter.
func queryOf(c *gin.Context, lib *movement.Library) (movement.Query, []chosen) {
	known := func(key string, among []string) string {
		if v := c.Query(key); slices.Contains(among, v) {
			return v
		}
		return ""
	}
	q := movement.Query{Words: c.Query("q")}
	if r := []rune(q.Words); len(r) > 100 {
		q.Words = string(r[:100])
	}
	var places, kinds []string
	for _, s := range shelves {
		places = append(places, s.name)
	}
	for w := range movement.KindTopics() {
		kinds = append(kinds, w)
	}
	slices.Sort(kinds)
	audiences := movement.AudienceNames()
	things := append([]string{"none"}, lib.KitOf()...)
	spine := []string{"forward", "back", "side", "turn"}
	most := []string{"2", "4", "6", "8"}
	fs := []chosen{
		{"phase", "part of class", known("phase", movement.Phases()), movement.Phases()},
		{"place", "position", known("place", places), places},
		{"region", "works", known("region", movement.Regions()), movement.Regions()},
		{"spine", "spine goes", known("spine", spine), spine},
		{"kit", "kit", known("kit", things), things},
		{"most", "demand to", known("most", most), most},
		{"kind", "kind to", known("kind", kinds), kinds},
		{"for", "for", known("for", audiences), audiences},
	}
	q.Phase, q.Region, q.Direction, q.Kit = fs[0].Value, fs[2].Value, movement.Direction(fs[3].Value), fs[4].Value
	q.For, _ = movement.ReadAudience(fs[7].Value) // one of the names, or nothing
	for _, s := range shelves {
		if s.name == fs[1].Value {
			q.Postures = s.on
		}
	}
	q.Most, _ = kit.Finite(fs[5].Value)
	if t, ok := movement.KindTopics()[fs[6].Value]; ok {
		q.Kind = []movement.Topic{t}
	}
	return q, fs
}

func showMovements(a *kit.Kit, c *gin.Context) {
	q, filters := queryOf(c, a.Lib)
	found := a.Lib.Find(q)
	v := movementsView{Query: q.Words, Count: len(found), Filters: filters}
	for _, m := range a.Lib.All() {
		if m.Hidden {
			v.Hidden = append(v.Hidden, m)
		}
	}
	switch {
	case len(found) == 0: // nothing: the page says what to try
	case strings.TrimSpace(q.Words) != "":
		v.Groups = []movementGroup{{"Best first", found}}
	default:
		var own []*movement.Movement
		for _, m := range found {
			if m.Own {
				own = append(own, m)
			}
		}
		if own != nil {
			v.Groups = append(v.Groups, movementGroup{"Our own", own})
		}
		for _, g := range shelves {
			var list []*movement.Movement
			for _, m := range found {
				if slices.Contains(g.on, m.Posture) && !m.Own {
					list = append(list, m)
				}
			}
			if len(list) > 0 {
				v.Groups = append(v.Groups, movementGroup{g.name, list})
			}
		}
	}
	if kit.IsPart(c) {
		a.Render(c, http.StatusOK, "movements", "found", v)
		return
	}
	a.Show(c, "movements", "Movements", "Movements", v, "js/movements.js")
}

// lookAtLevels shows the levels of a movement beside the library; a browser that asks for a page gets the whole page.
func lookAtLevels(a *kit.Kit, c *gin.Context) {
	m, ok := a.Lib.Get(c.Param("slug"))
	if !ok {
		a.Problem(c, http.StatusNotFound, "There is no movement of that name in the library.")
		return
	}
	if !kit.IsPart(c) {
		c.Redirect(http.StatusSeeOther, "/movements/"+m.Slug)
		return
	}
	v := struct {
		M      *movement.Movement
		Levels []levelView
		Family []*movement.Movement
	}{M: m, Family: a.Lib.FamilyOf(m)}
	for i := range m.Levels {
		v.Levels = append(v.Levels, saysOf(a.Lib, m, i+1))
	}
	a.Render(c, http.StatusOK, "movements", "look", v)
}

type levelView struct {
	N        int
	L        *movement.Level
	Figure   []byte
	Strip    string
	Loads    string
	Bars     []loadBar
	Supports string
	Seconds  string
	PerRep   float64
	Cautions []movement.Caution
	Kit      string
	Dose     string // usual, as this level has it
	Much     string // in one go: "4 to 12 repetitions a side, usually 8"
	Skill    int
	Needs    []needView
}

// needView is a level of another movement that comes first.
type needView struct {
	M     *movement.Movement
	Level int
}

type movementView struct {
	M           *movement.Movement
	Levels      []levelView
	Scale       []byte
	Anchors     string
	Gives, Into []*movement.Movement
	From        []*movement.Movement
	Regions     []movement.Share
	Names       []string
	Spine       string
	Cautions    []movement.Caution
	Cares       []careRow
	Uses        []store.Use
	LastLed     string
	Older       bool   // an own movement, not its newest version
	Newest      string // address of the newest
	Changed     bool   // the studio has its own words for it
	Check       movement.Check
	Breath      []byte // its line, where it sets a pattern
	BreathOver  int    // repetitions to one breath, where more than one
	Family      []*movement.Movement
	Named       movement.Naming // what names a side, of the first level that has sides
}

// careRow is what the levels are to somebody who watches a topic.
type careRow struct {
	Topic  movement.Topic
	Levels []movement.Care
}

// caresOf are the topics for which something is to be done about a level of a movement.
func caresOf(m *movement.Movement) (out []careRow) {
	for _, t := range movement.Topics() {
		row, any := careRow{Topic: t}, false
		for n := range m.Levels {
			c := m.CareOf(n+1, t)
			row.Levels = append(row.Levels, c)
			any = any || c.Does != movement.Keep
		}
		if any {
			out = append(out, row)
		}
	}
	return out
}

func showMovement(a *kit.Kit, c *gin.Context) {
	m, ok := a.Lib.Get(c.Param("slug"))
	if !ok {
		a.Problem(c, http.StatusNotFound, "There is no movement of that name in the library.")
		return
	}
	v := movementView{M: m, Names: movement.Regions(), Cares: caresOf(m)}
	var demands []float64
	for i := range m.Levels {
		v.Levels = append(v.Levels, viewLevel(a, m, i+1))
		demands = append(demands, m.Levels[i].Demand)
		for _, w := range m.Cautions(i + 1) {
			if !slices.ContainsFunc(v.Cautions, func(o movement.Caution) bool { return o.Topic == w.Topic }) {
				v.Cautions = append(v.Cautions, w)
			}
		}
		if f := movement.FamilyAnchors(m.FamilyAt(i + 1)); f != "" && m.Levels[i].Computed {
			v.Anchors = f
		}
	}
	v.Scale = draw.DemandScale(demands, 520, 44)
	v.Check, v.Family = m.CheckOf(1), a.Lib.FamilyOf(m)
	v.Check.Feel, v.Check.Felt, v.Check.Not, v.Check.Then = m.Feel, m.Felt, m.NotFelt, m.Then
	phases := m.Phases
	if len(phases) == 0 {
		phases = movement.BreathPhases(m.Breath)
	}
	if v.Breath = draw.BreathLine(phases, 180, 34); v.Breath != nil && m.BreathOver > 1 {
		v.BreathOver = m.BreathOver
	}
	for n := 1; n <= len(m.Levels) && v.Named == ""; n++ {
		v.Named = m.NamedBy(n)
	}
	find := func(slugs []string) (out []*movement.Movement) {
		for _, g := range slugs {
			if o, ok := a.Lib.Get(g); ok && !o.Hidden {
				out = append(out, o)
			}
		}
		return out
	}
	v.Gives, v.Into = find(m.Gives), find(m.Leads)
	for _, o := range a.Lib.All() {
		if !o.Hidden && slices.Contains(o.Leads, movement.BaseSlug(m.Slug)) {
			v.From = append(v.From, o)
		}
	}
	v.Regions = slices.Clone(m.Shares())
	slices.SortStableFunc(v.Regions, func(a, b movement.Share) int { return int(100*b.Weight) - int(100*a.Weight) })
	var ds []string
	for _, d := range m.Spine {
		ds = append(ds, string(d))
	}
	v.Spine = strings.Join(ds, ", ")
	if m.Own {
		if now, ok := a.Lib.Get(m.Base); ok && now != m {
			v.Older, v.Newest = true, "/movements/"+m.Base
		}
	} else if was, ok := movement.Shipped().Get(m.Slug); ok {
		v.Changed = was != m
	}
	var err error
	if v.Uses, err = a.Store.UsesOf(c.Request.Context(), kit.Who(c).Studio.ID, movement.BaseSlug(m.Slug), 6); err != nil {
		a.Fail(c, err)
		return
	}
	at, title, err := a.Store.LastLed(c.Request.Context(), kit.Who(c).Studio.ID, m.Name)
	if err != nil {
		a.Fail(c, err)
		return
	}
	if !at.IsZero() {
		v.LastLed = at.In(kit.Who(c).Zone).Format("Mon 2 January") + ", " + title
	}
	a.Show(c, "movement", m.Name, "Movements", v, "js/figures.js")
}

// saysOf is what is said of one level of a movement.
func saysOf(lib *movement.Library, m *movement.Movement, n int) levelView {
	var loads []string
	for _, b := range m.Bears(n) {
		loads = append(loads, string(b))
	}
	var things []string
	for _, t := range m.KitAt(n) {
		things = append(things, t.String())
	}
	v := levelView{N: n, L: m.At(n), Loads: strings.Join(loads, ", "), Kit: strings.Join(things, "; "), Dose: m.As(n).Dose.String(), Skill: m.Skill(n)}
	if b, ok := m.Bounds(n); ok {
		v.Much = fmt.Sprintf("%d to %d %s%s, usually %d", b.Min, b.Max, b.Unit, aSide(m, n), b.Usual)
	}
	for _, need := range m.NeedsAt(n) {
		if o, ok := lib.Get(need.Slug); ok {
			v.Needs = append(v.Needs, needView{o, need.Level})
		}
	}
	return v
}

// aSide says over what a range counts.
func aSide(m *movement.Movement, n int) string {
	v := m.As(n)
	switch ways := len(v.Dose.Parts) > 0 && v.Dose.Parts[0].EachWay; {
	case ways && v.Sides != movement.Both:
		return " each way, a side"
	case ways:
		return " each way"
	case v.Sides != movement.Both:
		return " a side"
	}
	return ""
}

// viewLevel is one level of a movement with its figure and what it weighs.
func viewLevel(a *kit.Kit, m *movement.Movement, n int) levelView {
	v := saysOf(a.Lib, m, n)
	p, _ := m.Pose(n)
	fig := body.Solve(p)
	v.Figure, v.Strip = draw.Figure(fig, 480, 264, nil, "", m.Name+", "+v.L.Changes), strings.TrimSuffix(a.Figures.Url(m, n, "a"), "#f")
	v.Seconds, v.PerRep, v.Cautions = m.SecondsPerRep(n).Said(), m.SecondsPerRep(n).Seconds(), m.Cautions(n)
	if w, ok := m.Weigh(n); ok {
		v.Bars = loadBars(w)
		if st, ok := fig.Statics(body.Mean); ok {
			v.Supports = supportsWords(st)
		}
	}
	return v
}
