package web

import (
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/body"
	"wavekine/core/movement"
	"wavekine/draw"
	"wavekine/store"
)

type movementGroup struct {
	Name string
	List []*movement.Movement
}

type movementsView struct {
	Query  string
	Groups []movementGroup
	Count  int
}

// shelves are the postures as the library shows them, from standing down to lying.
var shelves = []struct {
	name string
	on   []movement.Posture
}{
	{"Standing and on a chair", []movement.Posture{movement.Standing, movement.Chair}},
	{"Hands and knees, kneeling", []movement.Posture{movement.HalfKneeling, movement.Kneeling, movement.HandsAndKnees}},
	{"Planks", []movement.Posture{movement.Plank, movement.Forearms, movement.DownDog, movement.SidePlank}},
	{"Seated", []movement.Posture{movement.SeatedHeels, movement.Seated}},
	{"On the back", []movement.Posture{movement.Supine}},
	{"On the side", []movement.Posture{movement.SideLying}},
	{"On the front", []movement.Posture{movement.Prone}},
}

func (a *app) movements(c *gin.Context) {
	q := c.Query("q")
	if r := []rune(q); len(r) > 100 {
		q = string(r[:100])
	}
	found := a.lib.Search(q)
	v := movementsView{Query: q, Count: len(found)}
	if len(found) == 0 {
		// nothing: the page says what to try
	} else if strings.TrimSpace(q) != "" {
		v.Groups = []movementGroup{{"Best first", found}}
	} else {
		for _, g := range shelves {
			var list []*movement.Movement
			for _, m := range found {
				if slices.Contains(g.on, m.Posture) {
					list = append(list, m)
				}
			}
			if len(list) > 0 {
				v.Groups = append(v.Groups, movementGroup{g.name, list})
			}
		}
	}
	if isPart(c) {
		a.render(c, http.StatusOK, "movements", "found", v)
		return
	}
	a.show(c, "movements", "Movements", "Movements", v)
}

type levelView struct {
	N       int
	L       *movement.Level
	Figure  []byte
	Loads   string
	Seconds string
}

type movementView struct {
	M       *movement.Movement
	Levels  []levelView
	Gives   []*movement.Movement
	Regions string
	Spine   string
	Uses    []store.Use
	LastLed string
}

func (a *app) movement(c *gin.Context) {
	m, ok := a.lib.Get(c.Param("slug"))
	if !ok {
		a.problem(c, http.StatusNotFound, "There is no movement of that name in the library.")
		return
	}
	v := movementView{M: m}
	for i := range m.Levels {
		l := &m.Levels[i]
		p, _ := m.Pose(i + 1)
		var loads []string
		for _, b := range m.Bears(i + 1) {
			loads = append(loads, string(b))
		}
		v.Levels = append(v.Levels, levelView{
			i + 1, l, draw.Figure(body.Solve(p), 256, 156, nil, "", m.Name+", "+l.Changes), strings.Join(loads, ", "), m.SecondsPerRep(i + 1).Said(),
		})
	}
	for _, g := range m.Gives {
		if o, ok := a.lib.Get(g); ok {
			v.Gives = append(v.Gives, o)
		}
	}
	shares := slices.Clone(m.Shares())
	slices.SortStableFunc(shares, func(a, b movement.Share) int { return int(100*b.Weight) - int(100*a.Weight) })
	var rs, ds []string
	for _, s := range shares {
		rs = append(rs, movement.Regions[s.Region])
	}
	for _, d := range m.Spine {
		ds = append(ds, string(d))
	}
	v.Regions, v.Spine = strings.Join(rs, ", "), strings.Join(ds, ", ")
	var err error
	if v.Uses, err = a.store.UsesOf(c, who(c).Studio.ID, m.Slug, 6); err != nil {
		a.fail(c, err)
		return
	}
	at, title, err := a.store.LastLed(c, who(c).Studio.ID, m.Name)
	if err != nil {
		a.fail(c, err)
		return
	}
	if !at.IsZero() {
		v.LastLed = at.In(who(c).Zone).Format("Mon 2 January") + ", " + title
	}
	a.show(c, "movement", m.Name, "Movements", v)
}
