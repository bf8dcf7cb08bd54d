package people

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/movement"
	"wavekine/core/progress"
	"wavekine/store"
	"wavekine/web/kit"
)

// personLine is a person in the list: who they are, where they are, what needs a decision.
type personLine struct {
	store.Mover
	Topics   []movement.Topic
	Unlooked bool
	Places   []placeView
	Decide   string // what needs a decision, in words
	Grav     string
	Sort     int
}

// placeView is where somebody is in a series.
type placeView struct{ Group, URL, Where string }

type listView struct {
	People []personLine
	Groups []groupLine
	Form   personForm
}

type groupLine struct {
	ID, Name, Series, Where string
	People                  int
	Decide                  int
}

func showPeople(a *kit.Kit, c *gin.Context) {
	v, err := listOf(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Show(c, "people", "People", "People", v)
}

func listOf(a *kit.Kit, c *gin.Context) (v listView, err error) {
	ctx, w := c.Request.Context(), kit.Who(c)
	ms, err := a.Store.Movers(ctx, w.Studio.ID)
	if err != nil {
		return v, err
	}
	at := map[string]int{}
	for _, m := range ms {
		at[m.ID] = len(v.People)
		l := personLine{Mover: m, Topics: kit.TopicsOf(m), Unlooked: m.Topics == nil && m.Watch != ""}
		if m.Erasing != nil {
			l.Decide, l.Grav, l.Sort = "asks to be erased", "stop", 0
		} else {
			l.Sort = 9
		}
		v.People = append(v.People, l)
	}
	rooms, err := Rooms(a, ctx, w.Studio.ID, a.Lib, w.House, kit.Midnight(a.Now(c)))
	if err != nil {
		return v, err
	}
	for _, r := range rooms {
		g := groupLine{ID: r.Course.Group.ID, Name: r.Course.Group.Group.Name, Series: r.Course.Series.Title, People: len(r.Movers), Where: r.Where()}
		for _, m := range r.Movers {
			i, ok := at[m.In.ID]
			if !ok {
				continue
			}
			l := &v.People[i]
			l.Places = append(l.Places, placeView{r.Course.Group.Group.Name, "/groups/" + r.Course.Group.ID, m.Place()})
			if len(m.Suggest) > 0 {
				g.Decide++
			}
			for _, s := range m.Suggest {
				if rank := grave[s.Verdict]; rank < l.Sort {
					l.Decide, l.Grav, l.Sort = verdictWords[s.Verdict], gravOf[s.Verdict], rank
				}
			}
		}
		v.Groups = append(v.Groups, g)
	}
	slices.SortStableFunc(v.People, func(a, b personLine) int { return min(a.Sort, 9) - min(b.Sort, 9) })
	return v, nil
}

var (
	grave        = map[progress.Verdict]int{progress.Stop: 1, progress.Back: 2, progress.Up: 3}
	gravOf       = map[progress.Verdict]string{progress.Stop: "stop", progress.Back: "look", progress.Up: "good"}
	verdictWords = map[progress.Verdict]string{progress.Stop: "stop, ask", progress.Back: "take back", progress.Up: "ready for more"}
)

// Room is a group with its people, worked out.
type Room struct {
	Course   *kit.Course
	Movers   []*Member
	Together []progress.Together
	Today    time.Time
}

// Member is a mover in a group, worked out.
type Member struct {
	In      *kit.MoverIn
	Days    []progress.MoverDay
	History progress.History
	Suggest []progress.Suggestion
}

// Place is where somebody is: "6 of 10 done, day 7 last, 1 missed".
func (m *Member) Place() string {
	done, last := 0, 0
	for _, d := range m.Days {
		if d.State == progress.Done || d.State == progress.PartDone {
			done++
			last = d.Day
		}
	}
	out := []string{fmt.Sprintf("%d of %d done", done, len(m.Days))}
	if last > 0 {
		out = append(out, fmt.Sprintf("day %d last", last))
	}
	if n := progress.Behind(m.Days); n > 0 {
		out = append(out, fmt.Sprintf("%d missed", n))
	}
	return strings.Join(out, ", ")
}

// Where is which day the group is on.
func (r *Room) Where() string {
	ds, err := r.Course.Group.Group.Dates(r.Course.Series)
	if err != nil || len(ds) == 0 {
		return "no days"
	}
	for _, d := range ds {
		if !d.Date.Before(r.Today) && !d.Off {
			on := d.Date.Format("Mon 2 January")
			if d.Date.Equal(r.Today) {
				on = "today"
			}
			return fmt.Sprintf("day %d of %d %s", d.Day, len(r.Course.Series.Days), on)
		}
	}
	return "over since " + ds[len(ds)-1].Date.Format("2 January")
}

// RoomOf works out a group with its people.
func RoomOf(a *kit.Kit, ctx context.Context, co *kit.Course, today time.Time) (*Room, error) {
	ms, err := a.MoversIn(ctx, co.Studio, co.Group, nil)
	if err != nil {
		return nil, err
	}
	r := &Room{Course: co, Today: today}
	by, said := map[string][]progress.Suggestion{}, 0
	for _, in := range ms {
		m := &Member{In: in}
		if m.Days, err = in.Who.Days(co.Series, co.Group.Group, today); err != nil {
			return nil, err
		}
		if m.History, err = a.History(ctx, co, in, m.Days); err != nil {
			return nil, err
		}
		m.Suggest = progress.Suggest(co.Lib, m.History)
		by[in.ID] = m.Suggest
		if len(in.Who.Said) > 0 {
			said++
		}
		r.Movers = append(r.Movers, m)
	}
	r.Together = progress.Group(by, said)
	return r, nil
}

// overSince is for how long a group that is over is still looked at for decisions; judgement.
const overSince = 30 * 24 * time.Hour

// Rooms works out every group of a studio that has people and is not long over.
func Rooms(a *kit.Kit, ctx context.Context, studio string, lib *movement.Library, house kit.House, today time.Time) (out []*Room, err error) {
	in, err := a.Store.Memberships(ctx, studio)
	if err != nil || len(in) == 0 {
		return nil, err
	}
	gs, err := a.Store.Groups(ctx, studio)
	if err != nil {
		return nil, err
	}
	for _, g := range gs {
		if !slices.ContainsFunc(in, func(m store.Membership) bool { return m.GroupID == g.ID }) {
			continue
		}
		co, err := a.CourseOf(ctx, studio, lib, house.Limits, g)
		var odd *kit.UnreadableError
		if errors.As(err, &odd) { // its list says so; the others stand
			continue
		}
		if err != nil {
			return nil, err
		}
		ds, err := g.Group.Dates(co.Series)
		if err != nil {
			return nil, err
		}
		if n := len(ds); n == 0 || today.Sub(ds[n-1].Date) > overSince {
			continue
		}
		r, err := RoomOf(a, ctx, co, today)
		if err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, nil
}

// member finds a mover of a room.
func (r *Room) member(id string) *Member {
	i := slices.IndexFunc(r.Movers, func(m *Member) bool { return m.In.ID == id })
	if i < 0 {
		return nil
	}
	return r.Movers[i]
}

// roomOf works out the group of the address.
func roomOf(a *kit.Kit, c *gin.Context) (*Room, error) {
	ctx, w := c.Request.Context(), kit.Who(c)
	g, err := a.Store.GetGroup(ctx, w.Studio.ID, c.Param("id"))
	if err != nil {
		return nil, err
	}
	co, err := a.CourseOf(ctx, w.Studio.ID, a.Lib, w.House.Limits, g)
	if err != nil {
		return nil, err
	}
	return RoomOf(a, ctx, co, kit.Midnight(a.Now(c)))
}
