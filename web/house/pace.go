package house

import (
	"errors"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/lead"
	"wavekine/core/movement"
	"wavekine/core/pace"
	"wavekine/core/plan"
	"wavekine/store"
	"wavekine/web/kit"
)

// paceLine is what was learnt under one key.
type paceLine struct {
	Key, Name     string
	Runs          int
	Led           string // as led, against the product's own seconds
	Now, Proposed string
	Enough, Taken bool
	Same          bool // in use already
}

type paceView struct {
	Rate           string // words a minute; empty: the usual
	Turned         []turned
	Says           string
	Whole, Single  []paceLine
	Runs, Remember int
	LeastRuns      int
	Alike          int  // movements that go by the teacher's tempo
	Any            bool // something is proposed that is not in use
}

// partNames are the parts of a class as the page names them.
var partNames = map[pace.Part]string{pace.Tempo: "Counting", pace.Talk: "Explaining and setting up", pace.Changes: "Changing position and side"}

// percent says a factor the way one would: "12 % longer", "as planned".
func percent(f float64) string {
	switch p := math.Round(100 * (f - 1)); {
	case p > 0:
		return fmt.Sprintf("%.0f %% longer", p)
	case p < 0:
		return fmt.Sprintf("%.0f %% shorter", -p)
	}
	return "as usual"
}

// paceSeen shows what was learnt from the teacher's classes, to be taken into use or left.
func paceSeen(a *kit.Kit, c *gin.Context) {
	p, inUse, err := a.Learnt(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := paceView{Runs: p.Runs, Remember: p.Remembered, LeastRuns: pace.LeastRuns}
	line := func(key, name string, runs int, ratio, factor, secs float64, enough bool) paceLine {
		in := inUse[key].Pace
		l := paceLine{Key: key, Name: name, Runs: runs, Led: percent(ratio), Enough: enough, Taken: in > 0}
		if in == 0 {
			in = 1
		}
		l.Now, l.Proposed = percent(in), percent(factor)
		if secs > 0 {
			l.Now, l.Proposed = fmt.Sprintf("%.1f s", secs*in), fmt.Sprintf("%.1f s", secs*factor)
		}
		l.Same = enough && l.Taken && l.Now == l.Proposed || !enough
		v.Any = v.Any || enough && !l.Same
		return l
	}
	var says []string
	for _, part := range pace.Parts() {
		f := p.Whole[part]
		ratio := f.Ratio
		if f.Seen == 0 {
			ratio = f.Factor
		}
		v.Whole = append(v.Whole, line(part.Key(), partNames[part], max(f.Runs, p.Remembered), ratio, f.Factor, 0, f.Enough))
		if f.Enough {
			says = append(says, strings.ToLower(partNames[part])+" "+percent(f.Factor))
		}
	}
	if len(says) > 0 {
		v.Says = "Against the product's own seconds, your classes take: " + strings.Join(says, ", ") + "."
	}
	for _, l := range p.Movements {
		if !l.Apart && inUse[l.Movement].Pace == 0 && l.Enough {
			v.Alike++
			continue // as the tempo of the whole says
		}
		m, ok := movement.Shipped().Get(l.Movement)
		if !ok {
			if m, ok = a.Lib.Get(l.Movement); !ok {
				continue
			}
		}
		v.Single = append(v.Single, line(l.Movement, m.Name, l.Runs, l.Ratio, l.Factor, m.Pace.Span.Seconds(), l.Enough))
	}
	if r := inUse[lead.RateKey].Pace; r > 0 {
		v.Rate = strconv.Itoa(int(r))
	}
	for key, x := range inUse {
		slug, ok := strings.CutPrefix(key, pace.TurnedKey)
		if m, there := a.Lib.Get(slug); ok && there && x.Pace > 0 {
			v.Turned = append(v.Turned, turned{key, m.Name, m.Breath})
		}
	}
	slices.SortFunc(v.Turned, func(a, b turned) int { return strings.Compare(a.Name, b.Name) })
	slices.SortStableFunc(v.Single, func(a, b paceLine) int { return b.Runs - a.Runs })
	a.Show(c, "pace", "Your own pace", "House", v)
}

// setRate takes how many words a minute a teacher says; nothing is the usual.
func setRate(a *kit.Kit, c *gin.Context) {
	p := store.TeacherPace{Slug: lead.RateKey, Since: a.Now(c).UTC()}
	if text := strings.TrimSpace(c.PostForm("rate")); text != "" {
		n, err := strconv.Atoi(text)
		if err != nil || n < lead.SlowestRate || n > lead.FastestRate {
			a.Refuse(c, fmt.Errorf("%q words a minute: expected %d to %d, or nothing for the usual %d", plan.Clip(text, 20), lead.SlowestRate, lead.FastestRate, lead.UsualRate))
			return
		}
		p.Pace = float64(n)
	}
	if err := a.Store.SavePaces(c.Request.Context(), kit.Who(c).Studio.ID, kit.Who(c).Teacher.ID, p); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/house/pace")
}

// turned is a movement that the teacher breathes the other way round.
type turned struct{ Key, Name, Breath string }

// acceptPace takes what was learnt into use, one by one or all of it, or goes back to the product's own.
func acceptPace(a *kit.Kit, c *gin.Context) {
	key, do := c.PostForm("slug"), c.PostForm("do")
	p, inUse, err := a.Learnt(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	var keys []string
	switch do {
	case "accept":
		keys = []string{key}
	case "all":
		if keys = p.Keys(); len(keys) == 0 {
			a.Refuse(c, errors.New("there is nothing to take yet: lead a class to its end, or say how long one took"))
			return
		}
	case "rate":
		setRate(a, c)
		return
	case "refuse":
		if _, taken := inUse[key]; !taken {
			a.Refuse(c, errors.New("no pace of your own is in use there"))
			return
		}
	default:
		a.Refuse(c, kit.ErrUnknown)
		return
	}
	now := a.Now(c).UTC()
	list := []store.TeacherPace{{Slug: key, Since: now}} // back to the product's own
	if do != "refuse" {
		list = list[:0]
		for _, k := range keys {
			factor, runs, ok := p.Of(k)
			if !ok {
				a.Refuse(c, fmt.Errorf("too few classes to learn anything for %s", strings.TrimPrefix(k, "~")))
				return
			}
			list = append(list, store.TeacherPace{Slug: k, Pace: factor, Runs: runs, Since: now})
		}
	}
	if err := a.Store.SavePaces(c.Request.Context(), kit.Who(c).Studio.ID, kit.Who(c).Teacher.ID, list...); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/house/pace")
}
