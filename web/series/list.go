package series

import (
	"fmt"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/group"
	"wavekine/core/plan"
	"wavekine/draw"
	"wavekine/web/kit"
)

type seriesListed struct {
	ID, Title, Words string
	Groups           string // who does it, and where each stands
	Waves            [][]byte
}

func seriesList(a *kit.Kit, c *gin.Context) {
	ds, err := a.Store.Series.List(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	groups, err := a.Store.Groups(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	now := a.Now(c)
	today := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	var list []seriesListed
	var odd []kit.Unreadable
	for _, d := range ds {
		s, err := a.SeriesOf(d)
		if err != nil {
			if err = kit.Aside(err, &odd); err != nil {
				a.Fail(c, err)
				return
			}
			continue
		}
		docs, err := a.Store.Sessions.ByID(c.Request.Context(), kit.Who(c).Studio.ID, kit.Refs(s))
		if err != nil {
			a.Fail(c, err)
			return
		}
		l := seriesListed{ID: d.ID, Title: d.Title, Words: fmt.Sprintf("%d days from %s", len(s.Days), s.Start.Format("Mon 2 January 2006"))}
		var who []string
		for _, g := range groups {
			if g.SeriesID == d.ID {
				who = append(who, g.Group.Name+" "+standing(g.Group, s, today))
			}
		}
		l.Groups = strings.Join(who, "; ")
		for i, day := range s.Days {
			cl, says, err := dayClass(a, i+1, day, docs)
			if err != nil {
				a.Fail(c, err)
				return
			}
			label := fmt.Sprintf("day %d: nothing", i+1)
			if says != "" {
				label = fmt.Sprintf("day %d: %s", i+1, says)
			}
			if day.Rest {
				label = fmt.Sprintf("day %d: rest", i+1)
			}
			if cl == nil {
				l.Waves = append(l.Waves, draw.SmallWave(nil, 54, 30, label))
			} else {
				l.Waves = append(l.Waves, draw.SmallWave(cl.TL, 54, 30, fmt.Sprintf("day %d: %s", i+1, cl.Plan.Title)))
			}
		}
		list = append(list, l)
	}
	away, err := a.Archived(c, "series")
	if err != nil {
		a.Fail(c, err)
		return
	}
	patterns, err := patternsOf(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	a.Show(c, "serieslist", "Series", "Series", struct {
		List       []seriesListed
		Unreadable []kit.Unreadable
		Archived   kit.ArchivedView
		Patterns   []patternView
		Start      string
		Brief      briefView
	}{list, odd, away, patterns, a.Now(c).AddDate(0, 0, 1).Format(time.DateOnly), briefView{Fields: fieldsOf(a, nil)}}, "js/serieslist.js")
}

// standing says where a group is in a series.
func standing(g *group.Group, s *plan.Series, today time.Time) string {
	days, err := g.Dates(s)
	if err != nil || len(days) == 0 {
		return "has no dates"
	}
	for _, d := range days {
		if !d.Off && !d.Date.Before(today) {
			return fmt.Sprintf("does day %d on %s", d.Day, d.Date.Format("Mon 2 January"))
		}
	}
	return "has done it"
}
