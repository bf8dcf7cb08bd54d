package bench

import (
	"fmt"
	"net/url"

	"github.com/gin-gonic/gin"

	"wavekine/core/board"
	"wavekine/core/plan"
	"wavekine/core/series"
	"wavekine/core/timeline"
	"wavekine/web/kit"
)

// dayView is what the bench says of a day of a series whose class stands on it.
type dayView struct {
	Series, Title, Board   string // the series' id and title, the address of its board
	N, Days                int
	Date, Kind             string
	Theme, Because         string
	Before, After          string // addresses of the day before and after; empty: there is none that can have a class
	BeforeWords, AfterWord string
	Load, Target           string // effort x minutes
	Kept                   string // the kept session that the day still names
	Behind                 string // what stands behind the wave
	Knowing                string // how long it is where everybody was there on the days before; empty: no shorter
	Carry                  string // what was changed last, that other days have too
	Later, Every           int    // how many of them: later ones, all
}

// weekBefore is how far back the day is that stands behind the wave.
const weekBefore = 7

// behind is the class that stands behind the wave of a day: that of a week before, else the last one before it; nil where there is none.
func behind(a *kit.Kit, c *gin.Context, cl *kit.Class) (tl *timeline.Timeline, says string, err error) {
	days := cl.Series.Days
	try := []int{cl.Day - weekBefore}
	for n := cl.Day - 1; n > 0; n-- {
		try = append(try, n)
	}
	for _, n := range try {
		if n < 1 || days[n-1].Rest || days[n-1].Empty() {
			continue
		}
		other, err := a.ClassOfDay(c, cl.Doc, cl.Series, n)
		if err != nil {
			continue // its session is gone: its own page says so
		}
		tl, err := timeline.Build(other.Plan.ForDay(n), a.Lib)
		if err != nil || tl.Total == 0 {
			continue
		}
		says = fmt.Sprintf("day %d, a week before: %s, %s", n, tl.Total, other.Plan.Title)
		if n != cl.Day-weekBefore {
			says = fmt.Sprintf("day %d, the class before: %s, %s", n, tl.Total, other.Plan.Title)
		}
		return tl, says, nil
	}
	return nil, "", nil
}

// viewDay says which day of which series stands on the bench.
func viewDay(a *kit.Kit, c *gin.Context, cl *kit.Class) (*dayView, error) {
	d := &cl.Series.Days[cl.Day-1]
	v := &dayView{
		Series: cl.Doc.ID, Title: cl.Series.Title, Board: "/series/" + cl.Doc.ID, N: cl.Day, Days: len(cl.Series.Days), Date: cl.Series.Date(cl.Day - 1).Format("Mon 2 January"),
		Kind: d.Kind, Theme: d.Theme, Because: d.Because, Kept: d.Ref, Load: fmt.Sprintf("%.0f", series.Load(cl.TL)),
	}
	knowing, err := a.Knowing(c, cl)
	if err != nil {
		return nil, err
	}
	if knowing != nil {
		v.Knowing = knowing.Total.String()
	}
	if d.Peak {
		v.Kind = "peak"
	}
	if d.Target > 0 {
		v.Target = fmt.Sprintf("%.0f", d.Target)
	}
	for n := cl.Day - 1; n > 0 && v.Before == ""; n-- {
		if !cl.Series.Days[n-1].Rest {
			v.Before, v.BeforeWords = "/sessions/"+kit.DayID(cl.Doc.ID, n), fmt.Sprintf("Day %d", n)
		}
	}
	for n := cl.Day + 1; n <= len(cl.Series.Days) && v.After == ""; n++ {
		if !cl.Series.Days[n-1].Rest {
			v.After, v.AfterWord = "/sessions/"+kit.DayID(cl.Doc.ID, n), fmt.Sprintf("Day %d", n)
		}
	}
	carry, err := a.Carry(c, cl, "")
	if err != nil {
		return nil, err
	}
	if carry != nil {
		v.Carry, v.Later, v.Every = carry.Offer(cl.Series, a.Lib)
	}
	return v, nil
}

// carried takes what was changed last of a day to other days.
func carried(a *kit.Kit, c *gin.Context, cl *kit.Class, f url.Values) (kit.Changed, error) {
	if cl.Day == 0 {
		return kit.Changed{}, kit.ErrUnknown
	}
	carry, err := a.Carry(c, cl, f.Get("scope"))
	if err != nil {
		return kit.Changed{}, err
	}
	if carry == nil {
		carry = &board.Carry{Day: plan.Number{Said: true, N: cl.Day}, Scope: board.Scope(f.Get("scope"))}
	}
	return a.OnSeries(c, cl, carry)
}
